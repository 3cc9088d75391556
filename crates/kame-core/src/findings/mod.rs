//! What is wrong with a wall, or leans on glue: data with a reason made from the water's way, and a remedy that can be done.

mod air;
mod at_hand;
mod cover;
mod leans;
mod moment;
mod notes;
mod order;
mod outflow;
mod place;
mod products;
mod remedy;
mod summary;
mod verdict;
mod water;
mod ways;
mod words;

pub use leans::{Lean, Leaning, leaning};
pub(crate) use moment::followed;
pub use moment::{KnownWater, Moment, PondAt, WallPart, WetPlace};
pub use outflow::{WayOut, ways_out};
pub use place::piece_of;
pub use summary::{Cause, by_cause, cause_key};
pub use verdict::{PlaceHead, RAIN_KIND, State, Verdict, WaterHead};
pub use words::why_blocked as why_not;

use crate::job::Deviation;
use crate::length::Head;
use crate::plan::{Plan, SurfaceId};
use crate::trade::PieceId;
use crate::water::WaterWay;
use foldhash::HashMap;
use rayon::prelude::*;
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
    /// A piece does not cover what it has to, or something was done wrong, though no water shows it.
    Fault,
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
        /// Id of the step.
        step: String,
        /// Before which.
        before: Option<String>,
    },
    /// Do a step or action that is left out.
    Restore {
        /// Id of the step.
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
        /// Id of what is changed.
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
    /// Leak, pond, fault, glue or note.
    pub severity: Severity,
    /// Under which water it shows, by scenario id; empty where no water is needed to see it.
    pub scenario: String,
    /// Which water that is, alike at every feature: `rain`, or the kind of leak; empty where no water is needed.
    pub water: String,
    /// True where it shows with the glue lost only.
    pub lost: bool,
    /// Pieces concerned, by id.
    pub pieces: Vec<String>,
    /// Where to look: surface, and left, bottom, right, top in inches.
    pub place: (SurfaceId, [f64; 4]),
    /// The stretch of the walls it is about where it is about no place in particular, left and right in inches.
    pub along: Option<[f64; 2]>,
    /// The least head at which it happens.
    pub head: Option<Head>,
    /// What happens, in a sentence or two.
    pub reason: String,
    /// What somebody should do, as a sentence.
    pub remedy: String,
    /// What Kame can do at once.
    pub fix: Option<Fix>,
    /// The feature it shows at, where it is at one.
    pub feature: Option<usize>,
    /// The kind of edge that leans on glue, where it is about one.
    pub lean: Option<&'static Lean>,
    /// How the water gets there; its facets are the plan's surfaces, its sheets the plan's pieces.
    pub way: Option<WaterWay>,
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
            water: String::new(),
            lost: false,
            pieces,
            place,
            along: None,
            head: None,
            reason: String::new(),
            remedy: String::new(),
            fix,
            feature: None,
            lean: None,
            way: None,
        }
    }
}

/// So many findings are looked at one after another before a second core is asked to help.
const LOOKED_AT_ONCE: usize = 256;

impl Moment {
    /// What water shows, what stands the wrong way round or is left out, and what is not known.
    fn by_water_and_order(&self, plan: &Plan) -> Vec<Finding> {
        let wall = remedy::Wall {
            plan,
            moment: self,
            broken: order::broken_overs(plan, &self.stage),
            missing: order::missing_overs(plan, &self.stage),
            left_out: remedy::left_out(plan, self),
        };
        let mut out = water::findings(&wall);
        for f in out.iter_mut().filter(|f| f.severity == Severity::Leak && f.code == "W-LEAK") {
            notes::explain(plan, f);
        }
        out.extend(order::findings(plan, self, &wall.broken, &out));
        out.extend(notes::findings(plan, &self.stage, &out));
        out
    }

    /// What is seen of pieces and products themselves.
    fn by_sight(&self, plan: &Plan) -> Vec<Finding> {
        let mut out = air::findings(plan, &self.stage);
        if self.finished {
            out.extend(cover::findings(plan, &self.stage));
            out.extend(products::findings(plan, &self.stage));
        }
        out
    }

    /// Everything found, the worst first.
    pub fn findings(&self, plan: &Plan) -> Vec<Finding> {
        let (mut out, needs_no_water) = rayon::join(|| self.by_water_and_order(plan), || self.by_sight(plan));
        out.extend(needs_no_water);
        let pieces: HashMap<&str, PieceId> = plan.pieces.iter_enumerated().map(|(i, p)| (p.id.as_str(), i)).collect();
        let piece = |id: &str| pieces.get(id).copied();
        out.par_iter_mut().with_min_len(LOOKED_AT_ONCE).for_each(|f| {
            f.feature = place::feature_at(plan, f, piece);
            f.lean = leans::of(plan, f, f.feature, piece);
            if let Some(lean) = f.lean.filter(|_| self.finished) {
                f.remedy.clone_from(&lean.remedy);
            }
        });
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
