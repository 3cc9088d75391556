//! What is wrong with a wall, or leans on glue: data with a reason made from the water's way, and a remedy that can be done.

mod notes;
mod order;
mod remedy;
mod summary;
mod water;
mod words;

pub use summary::{Cause, by_cause};

use crate::job::Deviation;
use crate::layup::Layup;
use crate::length::{Head, Length};
use crate::plan::{Plan, SurfaceId};
use crate::sequence::{Action, Stage, StageLayup};
use crate::surface::FacetId;
use crate::water::{Arrangement, WaterAnswer, Way};
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
    /// How the water gets there.
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

fn cells(layup: &Layup) -> Result<Arrangement, String> {
    Arrangement::new(layup).map_err(|m| m.iter().map(ToString::to_string).collect::<Vec<_>>().join("; "))
}

/// True where the face of the wall lies bare away from every opening.
fn is_bare(plan: &Plan, only: Option<usize>, asked: &StageLayup, a: &Arrangement) -> bool {
    let openings = plan.counted(only);
    let Some(wall) = asked.surfaces.iter().position(|s| *s == SurfaceId::WALL) else { return false };
    a.cells_of(FacetId(wall)).any(|c| {
        let rect = a.cell(c).rect;
        a.stack(c).is_empty() && openings.iter().all(|o| !plan.openings[*o].hull.contains(rect))
    })
}

/// Heads above this are not followed: 12 in of water is about 3 kPa, a wind of 70 m/s (model).
const BEYOND_ANY_WIND: Length = Length::inch(12);

/// A moment of the work with its water.
#[derive(Clone, Debug)]
pub struct Moment {
    /// How many actions are done.
    pub done: usize,
    /// True where none is left.
    pub finished: bool,
    /// What lies on the wall.
    pub stage: Stage,
    /// What the water model was asked.
    pub asked: StageLayup,
    /// Its cells.
    pub arrangement: Arrangement,
    /// Its answer.
    pub answer: WaterAnswer,
}

impl Moment {
    /// The moment after `done` actions (all of them where there are fewer).
    ///
    /// # Errors
    /// A sentence if the stage were no valid layup; that would be a mistake in recipe data.
    pub fn new(plan: &Plan, done: usize) -> Result<Self, String> {
        let actions: Vec<&Action> = plan.actions().map(|(_, a)| a).collect();
        let done = done.min(actions.len());
        let stage = Stage::after(plan, actions[..done].iter().copied());
        let asked = stage.layup(plan);
        let arrangement = cells(&asked.layup)?;
        let answer = crate::water::run_within(&asked.layup, &arrangement, Some(BEYOND_ANY_WIND));
        Ok(Self { done, finished: done == actions.len(), stage, asked, arrangement, answer })
    }

    /// The moment after `done` actions with something laid on it for the night, asked about the heads of rain only, as far as the profile's
    /// floor; with `only`, the wall with the work at one opening and none at others. `None` where the wall itself is bare.
    ///
    /// # Errors
    /// A sentence if the stage were no valid layup.
    pub fn tonight(
        plan: &Plan,
        done: usize,
        only: Option<usize>,
        lay: impl FnOnce(&mut Stage),
    ) -> Result<Option<Self>, String> {
        let of = |s: usize| plan.steps[s].opening.as_ref();
        let wanted = |s: usize| only.is_none() || of(s).is_none() || of(s) == only.map(|o| &plan.openings[o].id);
        let actions: Vec<&Action> = plan.actions().take(done).filter(|(s, _)| wanted(*s)).map(|(_, a)| a).collect();
        let mut stage = Stage::after(plan, actions);
        lay(&mut stage);
        let mut asked = stage.layup_at(plan, only);
        asked.layup.scenarios.truncate(1);
        asked.leaks.truncate(1);
        let arrangement = cells(&asked.layup)?;
        if is_bare(plan, only, &asked, &arrangement) {
            return Ok(None);
        }
        let floor = plan.figures.length("floor_rain");
        let answer = crate::water::heads_within(&asked.layup, &arrangement, floor);
        Ok(Some(Self { done, finished: false, stage, asked, arrangement, answer }))
    }

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

    /// The least head of all targets in a scenario, and whether there is one below `floor`.
    pub fn least(&self, scenario: &str) -> Option<Head> {
        let wanted = |s: usize| self.asked.layup.scenarios[s].id == scenario;
        self.answer
            .reach
            .iter()
            .filter(|r| wanted(r.scenario))
            .filter_map(|r| r.least.map(|(h, _)| h))
            .min_by(|a, b| a.inches().total_cmp(&b.inches()))
    }
}
