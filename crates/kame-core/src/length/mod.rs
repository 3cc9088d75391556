//! Exact lengths, and the heads of water measured with them.
//!
//! A [`Length`] counts units of 25 nm, so that 1/64 in and 0.1 mm are both whole numbers:
//! 1 in = 1 016 000 units, 1 mm = 40 000 units (handbook 5).

mod head;
mod parse;
mod print;
mod units;

pub use head::Head;
pub use parse::LengthError;
pub use units::{FL_OZ_PER_GALLON, FT2_MIL_PER_GALLON, IN2_PER_FT2, IN3_PER_FL_OZ};

use std::iter::Sum;
use std::ops::{Add, AddAssign, Neg, Sub, SubAssign};

/// Units in one inch.
pub const UNITS_PER_INCH: i64 = 1_016_000;
/// Units in one millimetre.
pub const UNITS_PER_MM: i64 = 40_000;
/// The longest length that is read from outside: all walls of a large building one after another. Longer is taken for a slip of the pen.
pub const LONGEST: Length = Length::inch(24_000);
/// The same in words.
pub const LONGEST_SAID: &str = "2000 ft (610 m)";

/// A signed length in units of 25 nm. Positive is right or up on the facet it is used on.
///
/// # Properties
/// `Length::parse(&l.exact()) == Ok(l)` for every length up to [`LONGEST`];
/// `Length::parse(&l.inches(64)) == Ok(l)` for every multiple of 1/64 in.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Length(i64);

impl Length {
    /// No length.
    pub const ZERO: Length = Length(0);

    /// From units of 25 nm.
    pub const fn from_units(units: i64) -> Self {
        Self(units)
    }

    /// Whole inches.
    pub const fn inch(inches: i64) -> Self {
        Self(inches * UNITS_PER_INCH)
    }

    /// `numerator / denominator` inches, exact where 1 016 000 × numerator is a multiple of the denominator, else the nearest unit.
    pub const fn inch_fraction(numerator: i64, denominator: i64) -> Self {
        Self((numerator * UNITS_PER_INCH * 2 + denominator).div_euclid(2 * denominator))
    }

    /// Whole millimetres.
    pub const fn mm(mm: i64) -> Self {
        Self(mm * UNITS_PER_MM)
    }

    /// The nearest unit to a decimal number of inches; `None` where it is not finite or beyond any wall.
    pub fn from_inches_f64(inches: f64) -> Option<Self> {
        let units = (inches * UNITS_PER_INCH as f64).round();
        (units.is_finite() && units.abs() <= LONGEST.0 as f64 * 100.0).then_some(Self(units as i64))
    }

    /// Units of 25 nm.
    pub const fn units(self) -> i64 {
        self.0
    }

    /// Inches as a decimal number, for drawing and efforts.
    pub fn to_inches_f64(self) -> f64 {
        self.0 as f64 / UNITS_PER_INCH as f64
    }

    /// Rounded up to the next whole number of steps: cut sizes are never cut short (handbook 5). Itself where the step is no length.
    pub fn ceil_step(self, step: Length) -> Self {
        if !step.is_positive() {
            return self;
        }
        let steps = self.0.div_euclid(step.0) + i64::from(self.0.rem_euclid(step.0) > 0);
        Self(steps * step.0)
    }

    /// Rounded to the nearest `1/denominator` in.
    pub fn round_to(self, denominator: i64) -> Self {
        let step = UNITS_PER_INCH / denominator;
        Self((self.0 + step / 2).div_euclid(step) * step)
    }

    /// The length times a whole number.
    pub const fn times(self, n: i64) -> Self {
        Self(self.0 * n)
    }

    /// True where the length is above zero.
    pub const fn is_positive(self) -> bool {
        self.0 > 0
    }
}

impl Add for Length {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self(self.0 + other.0)
    }
}

impl Sub for Length {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        Self(self.0 - other.0)
    }
}

impl Neg for Length {
    type Output = Self;
    fn neg(self) -> Self {
        Self(-self.0)
    }
}

impl AddAssign for Length {
    fn add_assign(&mut self, other: Self) {
        self.0 += other.0;
    }
}

impl SubAssign for Length {
    fn sub_assign(&mut self, other: Self) {
        self.0 -= other.0;
    }
}

impl Sum for Length {
    fn sum<I: Iterator<Item = Self>>(iter: I) -> Self {
        iter.fold(Self::ZERO, Add::add)
    }
}

impl serde::Serialize for Length {
    fn serialize<S: serde::Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        s.serialize_str(&self.exact())
    }
}

impl<'de> serde::Deserialize<'de> for Length {
    /// A text as people write lengths, or a plain number of inches.
    fn deserialize<D: serde::Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        #[derive(serde::Deserialize)]
        #[serde(
            untagged,
            expecting = "expected a length: a text such as \"40 1/2\", \"3'-4 1/2\\\"\" or \"1028 mm\", or a number of inches"
        )]
        enum Raw {
            Text(String),
            Inches(f64),
        }
        match Raw::deserialize(d)? {
            Raw::Text(text) => Self::parse(&text).map_err(serde::de::Error::custom),
            Raw::Inches(inches) => Self::from_inches_f64(inches)
                .filter(|l| l.0.abs() <= LONGEST.0)
                .ok_or_else(|| serde::de::Error::custom(LengthError::TooLong { text: inches.to_string() })),
        }
    }
}

impl schemars::JsonSchema for Length {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Length".into()
    }
    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "description": "A length: text such as `40 1/2`, `3'-4 1/2\"`, `1028 mm`, `1.03 m` (inches where no unit stands), or a number of inches. Kept exactly, in units of 25 nm; at most 2000 ft (610 m).",
            "type": ["string", "number"],
            "examples": ["40 1/2 in", "3'-4 1/2\"", "1028 mm", 62.5]
        })
    }
}

#[cfg(feature = "openapi")]
impl utoipa::PartialSchema for Length {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        utoipa::openapi::ObjectBuilder::new()
            .schema_type(utoipa::openapi::schema::Type::String)
            .description(Some(
                "A length: `40 1/2`, `3'-4 1/2\"`, `1028 mm`, `1.03 m`; inches where no unit stands; exact to 25 nm.",
            ))
            .into()
    }
}

#[cfg(feature = "openapi")]
impl utoipa::ToSchema for Length {}

#[cfg(test)]
mod tests;
