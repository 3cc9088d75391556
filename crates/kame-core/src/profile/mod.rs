//! Rule figures as data: every size, lap and tolerance with where it comes from (handbook README, standing rules).

pub mod fig;
mod table;

pub use fig::{LengthFigure, NumberFigure};
pub use table::{
    FigureRow, ProfileVersion, held_together, profile_rows, read_profile_file, read_profile_rows, version_problems,
    write_profile_file,
};

use crate::length::Length;
use foldhash::HashMap;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::fmt;
use std::sync::{Arc, OnceLock};

/// The profile that ships with Kame.
const GENERAL_PRACTICE: &str = include_str!("../../data/figures.toml");

/// Where a figure comes from. The local code, the inspector and the makers' instructions come before all of them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum FigureSource {
    /// A model building code.
    Code,
    /// A standard.
    Standard,
    /// Typical of product instructions.
    Maker,
    /// What careful crews do.
    Practice,
    /// A choice Kame makes and explains.
    Model,
}

/// What a figure counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum FigureKind {
    /// A length.
    Length,
    /// A rise over run in percent.
    Percent,
    /// A thickness in 1/1000 in.
    Mil,
    /// Minutes.
    Minutes,
    /// Days.
    Days,
    /// A plain factor.
    Factor,
    /// Degrees Fahrenheit.
    Degrees,
    /// Miles an hour.
    Mph,
    /// An amount of money an hour.
    Money,
}

/// What is usual for a figure: between least and most nobody says anything.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Usual {
    /// Least of ordinary practice; empty where there is none besides what is allowed.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub least: String,
    /// Most of ordinary practice; empty where there is none besides what is allowed.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub most: String,
    /// Under which answers; empty always.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub when: String,
    /// Which school asks what.
    pub says: String,
}

/// How a value lies to what is usual.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Usually {
    /// Less than anybody asks.
    Less,
    /// Within.
    Within,
    /// More than anybody asks.
    More,
}

/// One figure of a profile.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Figure {
    /// Stable name, used by recipes.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// What it counts.
    pub kind: FigureKind,
    /// The value as text: a length, or a number.
    pub value: String,
    /// Least allowed value.
    pub least: String,
    /// Greatest allowed value.
    pub most: String,
    /// Where it comes from.
    pub source: FigureSource,
    /// Why it is what it is.
    pub why: String,
    /// What is usual; empty where everything that is allowed is.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub usual: Vec<Usual>,
    /// The fault of the catalogue that less than is usual is, where it is one.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub below: String,
    /// The fault that more than is usual is; empty where none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub above: String,
    /// Shown among the sizes a crew changes most.
    #[serde(default)]
    pub common: bool,
    /// What products say of it themselves, which goes before it: of a length their least, of a number their range.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub asked: Option<AskedByProduct>,
}

/// Which products say of a figure themselves, and by what attribute.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AskedByProduct {
    /// Generic products; `barrier` is what the barriers of the walls are made of.
    pub of: Vec<String>,
    /// The attribute.
    pub attribute: String,
    /// How many of what it says make up the figure, such as coats.
    #[serde(default = "once")]
    pub times: f64,
}

fn once() -> f64 {
    1.0
}

/// A named, versioned set of figures.
#[derive(Clone, Debug, PartialEq, Deserialize)]
pub struct Profile {
    /// Stable name with version.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// All figures.
    #[serde(rename = "figure")]
    pub figures: Vec<Figure>,
}

/// Why a profile cannot be used or changed.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum ProfileError {
    /// No figure of that name.
    #[error("there is no figure \"{id}\" in the profile; choose one of: {known}")]
    Unknown {
        /// What was asked for.
        id: String,
        /// What there is.
        known: String,
    },
    /// A value that cannot be read or lies outside.
    #[error("{name} is {value}; it has to be between {least} and {most}{remark}")]
    OutOfRange {
        /// The figure's name.
        name: String,
        /// What was found.
        value: String,
        /// Least allowed value.
        least: String,
        /// Greatest allowed value.
        most: String,
        /// More, where there is more to say.
        remark: String,
    },
    /// The shipped data does not read.
    #[error("the profile data does not read: {0}")]
    Data(String),
}

/// A value of a figure.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum FigureValue {
    /// A length.
    Length(Length),
    /// A plain number.
    Number(f64),
}

impl Figure {
    fn read(&self, text: &str) -> Result<FigureValue, String> {
        match self.kind {
            FigureKind::Length => Length::parse(text).map(FigureValue::Length).map_err(|e| e.to_string()),
            FigureKind::Percent
            | FigureKind::Mil
            | FigureKind::Minutes
            | FigureKind::Days
            | FigureKind::Factor
            | FigureKind::Degrees
            | FigureKind::Mph
            | FigureKind::Money => text
                .trim()
                .trim_end_matches('%')
                .trim()
                .parse()
                .map(FigureValue::Number)
                .map_err(|_| format!("\"{text}\" is not a number")),
        }
    }

    fn number(&self, text: &str) -> Option<f64> {
        match self.read(text).ok()? {
            FigureValue::Length(l) => Some(l.to_inches_f64()),
            FigureValue::Number(n) => Some(n),
        }
    }

    /// How a value lies to one range of what is usual; what does not read lies within.
    pub fn lies(&self, value: &str, usual: &Usual) -> Usually {
        let Some(value) = self.number(value) else { return Usually::Within };
        if self.number(&usual.least).is_some_and(|least| value < least) {
            Usually::Less
        } else if self.number(&usual.most).is_some_and(|most| value > most) {
            Usually::More
        } else {
            Usually::Within
        }
    }

    /// The value in force, checked against the figure's own range.
    ///
    /// # Errors
    /// [`ProfileError::OutOfRange`] with value and limits.
    pub fn checked(&self, text: &str) -> Result<FigureValue, ProfileError> {
        let out = |remark: String| ProfileError::OutOfRange {
            name: self.name.clone(),
            value: text.chars().take(40).collect(),
            least: self.least.clone(),
            most: self.most.clone(),
            remark,
        };
        let value = self.read(text).map_err(|why| out(format!(" ({why})")))?;
        let number = |v: FigureValue| match v {
            FigureValue::Length(l) => l.to_inches_f64(),
            FigureValue::Number(n) => n,
        };
        let (least, most) =
            (self.read(&self.least).map_err(ProfileError::Data)?, self.read(&self.most).map_err(ProfileError::Data)?);
        if !(number(least)..=number(most)).contains(&number(value)) {
            return Err(out(String::new()));
        }
        Ok(value)
    }
}

impl Profile {
    /// The profile that ships with Kame.
    ///
    /// # Errors
    /// [`ProfileError::Data`] if the data file were broken; a test keeps it whole.
    pub fn general_practice() -> Result<&'static Self, ProfileError> {
        static READ: OnceLock<Result<Profile, ProfileError>> = OnceLock::new();
        let read = || {
            let profile: Profile = toml::from_str(GENERAL_PRACTICE).map_err(|e| ProfileError::Data(e.to_string()))?;
            profile.has_what_is_asked_for()?;
            Ok(profile)
        };
        READ.get_or_init(read).as_ref().map_err(Clone::clone)
    }

    /// Every figure that the program itself asks for is there, and of the kind it is asked for.
    fn has_what_is_asked_for(&self) -> Result<(), ProfileError> {
        let lengths = fig::LENGTHS.iter().map(|f| (f.0, true));
        for (id, is_length) in lengths.chain(fig::NUMBERS.iter().map(|f| (f.0, false))) {
            if (self.figure(id)?.kind == FigureKind::Length) != is_length {
                let kind = if is_length { "a length" } else { "a number" };
                return Err(ProfileError::Data(format!("the figure \"{id}\" is asked for as {kind} and is none")));
            }
        }
        Ok(())
    }

    /// The figure of that name.
    ///
    /// # Errors
    /// [`ProfileError::Unknown`] naming what there is.
    pub fn figure(&self, id: &str) -> Result<&Figure, ProfileError> {
        self.figures.iter().find(|f| f.id == id).ok_or_else(|| ProfileError::Unknown {
            id: id.to_owned(),
            known: self.figures.iter().map(|f| f.id.as_str()).collect::<Vec<_>>().join(", "),
        })
    }

    /// All values, with a job's own ones in place of the profile's.
    ///
    /// # Errors
    /// Unknown figures, and values outside their range.
    pub fn values(&self, own: &BTreeMap<String, String>) -> Result<Figures, ProfileError> {
        for id in own.keys() {
            self.figure(id)?;
        }
        let values = self.figures.iter().map(|f| Ok((f.id.clone(), f.checked(own.get(&f.id).unwrap_or(&f.value))?)));
        let in_order: BTreeMap<String, FigureValue> = values.collect::<Result<_, ProfileError>>()?;
        let by_name = in_order.iter().map(|(id, value)| (id.clone(), *value)).collect();
        Ok(Figures { values: Arc::new(FigureTable { in_order, by_name }) })
    }
}

/// The figures in force for one job; a copy costs nothing.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Figures {
    values: Arc<FigureTable>,
}

/// Figures twice: in the order of their names, in which they are told, and by a hash of their names, by which they are asked for.
#[derive(Clone, Default, PartialEq)]
struct FigureTable {
    in_order: BTreeMap<String, FigureValue>,
    by_name: HashMap<String, FigureValue>,
}

impl fmt::Debug for FigureTable {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.in_order.fmt(f)
    }
}

impl Figures {
    /// Puts another value in force.
    pub(crate) fn set(&mut self, id: &str, value: FigureValue) {
        let table = Arc::make_mut(&mut self.values);
        table.in_order.insert(id.to_owned(), value);
        table.by_name.insert(id.to_owned(), value);
    }

    /// True for copies of one another, of which none was changed.
    pub(crate) fn is_copy_of(&self, other: &Self) -> bool {
        Arc::ptr_eq(&self.values, &other.values)
    }

    /// The figure of that name.
    pub fn get(&self, id: &str) -> Option<FigureValue> {
        self.values.by_name.get(id).copied()
    }

    /// A length. Every profile has it: that is looked at when the profile is read.
    pub fn length(&self, figure: LengthFigure) -> Length {
        match self.values.by_name.get(figure.0) {
            Some(FigureValue::Length(l)) => *l,
            _ => Length::ZERO,
        }
    }

    /// A plain number. Every profile has it: that is looked at when the profile is read.
    pub fn number(&self, figure: NumberFigure) -> f64 {
        match self.values.by_name.get(figure.0) {
            Some(FigureValue::Number(n)) => *n,
            _ => 0.0,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_shipped_figure_lies_in_its_own_range_and_says_why() {
        let profile = Profile::general_practice().expect("profile data");
        profile.values(&BTreeMap::new()).expect("values in range");
        for f in &profile.figures {
            assert!(!f.why.is_empty(), "{} has no reason", f.id);
            let faulty = !f.below.is_empty() || !f.above.is_empty();
            assert!(!faulty || !f.usual.is_empty(), "{}: a fault outside of what range?", f.id);
            for u in &f.usual {
                let ends: Vec<&String> = [&u.least, &u.most].into_iter().filter(|e| !e.is_empty()).collect();
                assert!(!ends.is_empty() && ends.iter().all(|e| f.checked(e).is_ok()), "{}: {u:?}", f.id);
                assert!(!u.when.is_empty() || f.lies(&f.value, u) == Usually::Within, "{}: {u:?}", f.id);
            }
        }
    }

    #[test]
    fn a_job_s_own_figure_takes_the_place_of_the_profile_s() {
        let profile = Profile::general_practice().expect("profile data");
        let own = BTreeMap::from([("jamb_tape_width".to_owned(), "9".to_owned())]);
        let values = profile.values(&own).expect("in range");
        assert_eq!(values.length(fig::JAMB_TAPE_WIDTH), Length::inch(9));
        assert_eq!(values.length(fig::HEAD_TAPE_WIDTH), Length::inch(6));
    }

    #[test]
    fn wrong_figures_are_refused_with_value_and_limit() {
        let profile = Profile::general_practice().expect("profile data");
        let refused = |id: &str, value: &str| {
            profile.values(&BTreeMap::from([(id.to_owned(), value.to_owned())])).expect_err("refused").to_string()
        };
        assert!(
            refused("jamb_tape_width", "99").contains("is 99; it has to be between 3 and 12"),
            "{}",
            refused("jamb_tape_width", "99")
        );
        assert!(refused("jamb_tape_width", "wide").contains("not a length"));
        assert!(refused("sill_slope", "steep").contains("not a number"));
        assert!(refused("sill_slope", "NaN").contains("between"));
        assert!(refused("no_such", "1").contains("no figure \"no_such\""));
    }
}
