//! Checks as data: what is measured or looked at, target, tolerance, how it is judged and by whom (`data/checks.toml`, handbook 6.2 and 6.3).

use serde::{Deserialize, Serialize};
use std::sync::OnceLock;

/// What a check reads.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Quantity {
    /// A length, in inches.
    Length,
    /// A slope, in percent.
    Slope,
    /// A wet thickness, in mil.
    Thickness,
    /// A temperature of a surface, in °F.
    Temperature,
    /// A lot, mark or serial, as text.
    Lot,
    /// Nothing is read: somebody looks.
    Look,
}

impl Quantity {
    /// Its unit; empty where nothing is read, or a text.
    pub fn unit(self) -> &'static str {
        match self {
            Self::Length => "in",
            Self::Slope => "%",
            Self::Thickness => "mil",
            Self::Temperature => "°F",
            Self::Lot | Self::Look => "",
        }
    }
}

/// How readings are judged.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Judged {
    /// Each within the tolerance of the target.
    Within,
    /// Their largest difference within the tolerance.
    Spread,
    /// The middle one of three within the tolerance of the mean of the others.
    Bow,
    /// Each at least the target.
    Least,
    /// Each at most the target.
    Most,
    /// Written down, and judged by nobody.
    Noted,
    /// Somebody says yes.
    Yes,
}

/// Whose eyes a check wants.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Eyes {
    /// Whoever does the work.
    Installer,
    /// Somebody other than they.
    Other,
}

/// A kind of action that carries the check wherever it is done.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum On {
    /// A coat.
    Coat,
    /// A piece pressed down.
    Press,
    /// A bead or smear.
    Seal,
    /// Fasteners.
    Fasten,
    /// A unit or pipe set.
    Set,
}

/// What of an opening a check reads: so that readings of several checks can be held against the unit together.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Reads {
    /// Widths of the rough opening: top, middle, bottom.
    Widths,
    /// Its heights: left, middle, right.
    Heights,
    /// Its diagonals: from low left to high right, from low right to high left.
    Diagonals,
    /// How much higher the right end of its sill is.
    Level,
    /// How far the heads of its jambs lean to the right: left jamb, right jamb.
    Jambs,
}

/// One reading of a check: where it is taken, and what to do where it is off.
#[derive(Clone, Debug, Serialize, Deserialize, PartialEq)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ReadingSpot {
    /// What it is called.
    pub name: String,
    /// Where: from x, y to x, y in parts of the opening's width and height, from its lower left corner; beyond 0 and 1 beside it.
    pub line: [f64; 4],
    /// What to do where it is too much; `{off}` is how far from what is wanted, `{by}` by how much at least it has to move.
    #[serde(default)]
    pub above: String,
    /// What to do where it is too little.
    #[serde(default)]
    pub below: String,
}

/// A check as data.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CheckSpec {
    /// Stable name.
    pub id: String,
    /// Stands at every action of this kind; else recipes name it.
    pub on: Option<On>,
    /// What is measured or looked at.
    pub name: String,
    /// The place, in words.
    pub at: String,
    /// How many readings.
    pub readings: u32,
    /// What is read.
    pub quantity: Quantity,
    /// What it should be, as an expression; left out where nothing is said.
    pub target: Option<String>,
    /// How far it may be from that, as an expression.
    pub tolerance: Option<String>,
    /// How it is judged.
    pub judged: Judged,
    /// Who may look.
    pub by: Eyes,
    /// The faults it guards against.
    #[serde(default)]
    pub guards: Vec<String>,
    /// Where each reading is taken; none where a picture of the opening says nothing.
    #[serde(default)]
    pub spots: Vec<ReadingSpot>,
    /// What to do where a reading is too much and its spot says nothing.
    #[serde(default)]
    pub above: String,
    /// What to do where it is too little.
    #[serde(default)]
    pub below: String,
    /// Over which length it is read, as an expression, where what counts is how much that makes over the width of the opening.
    #[serde(default)]
    pub over: Option<String>,
    /// What of the opening it reads.
    #[serde(default)]
    pub reads: Option<Reads>,
    /// A photograph is wanted.
    #[serde(default)]
    pub photo: bool,
    /// Where it is not as it should be, nothing that follows here is done until it is.
    #[serde(default)]
    pub stops: bool,
}

/// All checks.
///
/// # Errors
/// A sentence if the shipped data were broken; a test keeps it whole.
pub fn checks() -> Result<&'static [CheckSpec], String> {
    #[derive(Deserialize)]
    struct File {
        check: Vec<CheckSpec>,
    }
    static READ: OnceLock<Result<Vec<CheckSpec>, String>> = OnceLock::new();
    let read = || {
        let file: File = toml::from_str(include_str!("../../data/checks.toml"))
            .map_err(|e| format!("the data of checks does not read: {e}"))?;
        Ok(file.check)
    };
    READ.get_or_init(read).as_deref().map_err(Clone::clone)
}

/// What stands between an action's id and a check's in the id of a check that is made there.
const MADE_AT: char = ':';

/// The id of a check that is made at an action.
pub fn id_at(action: &str, check: &str) -> String {
    format!("{action}{MADE_AT}{check}")
}

/// A check by the id that it has where it is made.
///
/// # Errors
/// A sentence naming what there is not.
pub fn check_at(id: &str) -> Result<&'static CheckSpec, String> {
    check(id.rsplit(MADE_AT).next().unwrap_or_default())
}

/// A check by its id.
///
/// # Errors
/// A sentence naming what there is not.
pub fn check(id: &str) -> Result<&'static CheckSpec, String> {
    checks()?.iter().find(|c| c.id == id).ok_or_else(|| format!("there is no check \"{id}\""))
}
