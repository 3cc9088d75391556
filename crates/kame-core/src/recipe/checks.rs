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
    /// Where.
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

/// A check by its id.
///
/// # Errors
/// A sentence naming what there is not.
pub fn check(id: &str) -> Result<&'static CheckSpec, String> {
    checks()?.iter().find(|c| c.id == id).ok_or_else(|| format!("there is no check \"{id}\""))
}
