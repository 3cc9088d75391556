//! What is wrong with a wall, or leans on glue: data with a reason made from the water's way, and a remedy that can be done.

mod air;
mod moment;
mod notes;
mod order;
mod remedy;
mod summary;
mod water;
mod words;

pub use moment::{KnownWater, Moment, Part, PondAt};
pub use summary::{Cause, by_cause};

use crate::job::Deviation;
use crate::length::Head;
use crate::plan::{Plan, SurfaceId};
use crate::water::Way;
use serde::Serialize;

/// How bad a finding is; the first is the worst.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// Water gets where it must not at less than the profile's least head.
    Leak,
    /// Water stands and cannot leave.
    Pond,
    /// A step could not be done as ordered.
    Blocked,
    /// A piece lies behind one it has to lie over.
    Order,
    /// A step is left out.
    Missing,
    /// Dry only while glue holds.
    Glue,
    /// Should be known, though no water shows it.
    Note,
}

/// What can be done about a finding at once.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "do", rename_all = "lowercase")]
pub enum Fix {
    /// Move a step before another, or to the end.
    Move {
        /// Which.
        step: String,
        /// Before which.
        before: Option<String>,
    },
    /// Do a step or action that is left out.
    Restore {
        /// Which.
        step: String,
    },
    /// Make a piece as it was planned.
    #[serde(rename = "put-right")]
    PutRight {
        /// What was done other than planned.
        deviation: Deviation,
    },
    /// Let the profile's figure be in force again.
    Figure {
        /// Which.
        id: String,
    },
}

/// A head in the three readings people use.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct HeadReading {
    /// Inches of water.
    pub inches: f64,
    /// Pascals.
    pub pascals: f64,
    /// Wind in m/s.
    pub wind: f64,
}

impl From<Head> for HeadReading {
    fn from(h: Head) -> Self {
        Self {
            inches: h.inches(),
            pascals: (h.pascals() * 10.0).round() / 10.0,
            wind: (h.wind() * 10.0).round() / 10.0,
        }
    }
}

/// One finding.
#[derive(Clone, Debug)]
pub struct Finding {
    /// Stable code: a fault id of the catalogue (`F10`), or `W-LEAK`, `W-GLUE`, `W-POND`, `S-BLOCKED`, `S-MISSING`.
    pub code: String,
    /// How bad.
    pub severity: Severity,
    /// Under which water it shows, by scenario id; empty where no water is needed to see it.
    pub scenario: String,
    /// Pieces concerned, by id.
    pub pieces: Vec<String>,
    /// Where to look: surface, and left, bottom, right, top in inches.
    pub place: (SurfaceId, [f64; 4]),
    /// The least head at which it happens.
    pub head: Option<Head>,
    /// What happens, in a sentence or two.
    pub reason: String,
    /// What to do.
    pub remedy: String,
    /// What Kame can do at once.
    pub fix: Option<Fix>,
    /// How the water gets there; its facets are the plan's surfaces, its sheets the plan's pieces.
    pub way: Option<Way>,
}

impl Finding {
    /// One that needs no water to be seen: no scenario, no head, no way; it can be told more closely with `..`.
    fn seen(
        code: &str,
        severity: Severity,
        pieces: Vec<String>,
        place: (SurfaceId, [f64; 4]),
        fix: Option<Fix>,
    ) -> Self {
        Self {
            code: code.to_owned(),
            severity,
            scenario: String::new(),
            pieces,
            place,
            head: None,
            reason: String::new(),
            remedy: String::new(),
            fix,
            way: None,
        }
    }
}

impl Moment {
    /// Everything found, the worst first.
    pub fn findings(&self, plan: &Plan) -> Vec<Finding> {
        let broken = order::broken_overs(plan, &self.stage);
        let missing = order::missing_overs(plan, &self.stage);
        let mut out = water::findings(plan, self, &broken, &missing);
        for f in out.iter_mut().filter(|f| f.severity == Severity::Leak && f.code == "W-LEAK") {
            notes::explain(plan, f);
        }
        out.extend(order::findings(plan, self, &broken, &out));
        out.extend(notes::findings(plan, &out));
        out.extend(air::findings(plan, &self.stage));
        out.sort_by(|a, b| {
            let head = |f: &Finding| f.head.map_or(f64::INFINITY, Head::inches);
            a.severity
                .cmp(&b.severity)
                .then(head(a).total_cmp(&head(b)))
                .then(a.code.cmp(&b.code))
                .then(a.pieces.cmp(&b.pieces))
        });
        out
    }
}
