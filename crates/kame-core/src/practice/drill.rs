//! Which scene is meant, what things cost, and what is said of an answer: words that every drill uses.

use crate::length::Length;
use crate::problem::Problem;
use serde::{Deserialize, Serialize};
use std::sync::OnceLock;

/// A kind of drill.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Drill {
    /// Put it in order.
    Order,
    /// Find what is wrong.
    Find,
    /// Measure it.
    Measure,
    /// Go, prepare or wait.
    Call,
    /// Mend it.
    Repair,
}

impl Drill {
    /// Every kind.
    pub const ALL: [Self; 5] = [Self::Order, Self::Find, Self::Measure, Self::Call, Self::Repair];
}

/// The highest level.
pub const LEVELS: u8 = 5;
/// The largest seed: a number that a browser can hold exactly.
pub const MOST_SEED: u64 = (1 << 53) - 1;
/// Points for everything right.
pub const FULL: f64 = 100.0;
/// A scene is clean from so many points on.
pub const CLEAN: f64 = 99.5;
/// What a hint costs.
pub const HINT: f64 = 15.0;
/// What a piece costs that was stuck and cannot be lifted again.
pub const WASTED: f64 = 10.0;
/// What a false alarm costs.
pub const FALSE_ALARM: f64 = 20.0;
/// Most things one answer names.
pub const MOST_ANSWERED: usize = 200;

/// Which scene.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Which {
    /// What is practised.
    pub drill: Drill,
    /// From 1 to 5.
    pub level: u8,
    /// Which of that level's scenes.
    pub seed: u64,
    /// A fault of the catalogue that should be in it, where one is to come back.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub focus: Option<String>,
}

impl Which {
    /// What of it cannot be.
    pub fn problems(&self) -> Vec<Problem> {
        let mut out = Vec::new();
        if !(1..=LEVELS).contains(&self.level) {
            let message = format!("found level {}, expected 1 to {LEVELS}: take the nearest", self.level);
            out.push(Problem::new("$.level", message));
        }
        if self.seed > MOST_SEED {
            let message = format!("found seed {}, expected 0 to {MOST_SEED}: take a smaller one", self.seed);
            out.push(Problem::new("$.seed", message));
        }
        if self.focus.as_ref().is_some_and(|f| fault_name(f).is_none()) {
            out.push(Problem::new("$.focus", "that fault is not in the catalogue: name one such as F10"));
        }
        out
    }
}

/// A sentence about something the learner did.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Said {
    /// True where it was right.
    pub good: bool,
    /// The reason, as a sentence.
    pub says: String,
    /// The fault it is about; empty where it is about none.
    pub fault: String,
}

/// What comes of an answer.
#[derive(Clone, Debug, PartialEq)]
pub struct Graded {
    /// From 0 to 100.
    pub points: f64,
    /// True where everything was right.
    pub clean: bool,
    /// One sentence for each thing.
    pub says: Vec<Said>,
    /// Faults that were named, and those that were missed or made.
    pub known: Vec<String>,
    /// See `known`.
    pub missed: Vec<String>,
}

impl Graded {
    pub(super) fn new(points: f64, says: Vec<Said>) -> Self {
        let points = points.clamp(0.0, FULL).round();
        let of = |good: bool| {
            let mut out: Vec<String> =
                says.iter().filter(|s| s.good == good && !s.fault.is_empty()).map(|s| s.fault.clone()).collect();
            out.sort_unstable();
            out.dedup();
            out
        };
        Self { points, clean: points >= CLEAN, known: of(true), missed: of(false), says }
    }
}

/// The catalogue of faults.
#[derive(Clone, Debug, Deserialize)]
struct FaultName {
    id: String,
    name: String,
}

fn catalogue() -> &'static [FaultName] {
    #[derive(Deserialize)]
    struct File {
        fault: Vec<FaultName>,
    }
    static NAMES: OnceLock<Vec<FaultName>> = OnceLock::new();
    let read = || toml::from_str::<File>(include_str!("../../data/faults.toml")).map(|f| f.fault).unwrap_or_default();
    NAMES.get_or_init(read)
}

/// What people call a fault.
pub fn fault_name(id: &str) -> Option<&'static str> {
    catalogue().iter().find(|f| f.id == id).map(|f| f.name.as_str())
}

/// Every fault of the catalogue by its id.
pub fn fault_names() -> impl Iterator<Item = (&'static str, &'static str)> {
    catalogue().iter().map(|f| (f.id.as_str(), f.name.as_str()))
}

/// Inches as a length.
pub(super) fn inches(n: i64) -> Length {
    Length::inch(n)
}
