//! The verdict as screens show it.

use crate::findings::{Finding, HeadReading, Severity, State, Verdict, leaning};
use crate::layup::Glue;
use crate::length::Head;
use crate::plan::Plan;
use serde::Serialize;

/// The least head at which one kind of water gets where it must not.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct WaterHeadView {
    /// Which water: `rain`, `unit-leak` (a unit leaks into its pan), `behind` (water behind the sheet); all features of the wall together.
    pub scenario: String,
    /// What people call it.
    pub name: String,
    /// `holds` or `lost`.
    pub glue: GlueView,
    /// Inches of water, `null` where there is no way in at less than is followed (12 in, or what the job asks where that is more).
    pub head_in: Option<f64>,
    /// The same in the readings people use.
    pub head: Option<HeadReading>,
    /// The least that is asked, in.
    pub floor: f64,
    /// What is reached at that head; empty where nothing is.
    pub reaches: String,
}

/// Whether adhesives and sealants hold.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum GlueView {
    /// They hold.
    Holds,
    /// All of them have let go.
    Lost,
}

/// A kind of edge that is held by glue.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LeanView {
    /// The same in words, for people.
    pub says: String,
    /// In how many places.
    pub places: usize,
    /// True where every school that makes it at all makes it so.
    pub usual: bool,
}

/// What may be said of a place or a wall by what is found there: dry only once all walls are finished.
pub fn state_of(found: impl IntoIterator<Item = Severity>, finished: bool) -> State {
    let at_rest = if finished { State::ByLaps } else { State::Unfinished };
    let one = |severity| match severity {
        Severity::Leak => State::GetsIn,
        Severity::Pond => State::Stands,
        Severity::Blocked | Severity::Order | Severity::Missing | Severity::Fault => State::NotAsPlanned,
        Severity::Glue => State::WhileGlueHolds,
        Severity::Note => State::ByLaps,
    };
    // Only good news waits for the walls to be finished: what leans on glue is told at any time.
    found.into_iter().map(one).filter(|s| *s < State::ByLaps).min().unwrap_or(at_rest)
}

/// What may be said of the moment shown.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct VerdictView {
    /// 1 water gets in, 2 water stands, 3 not as planned, 4 not finished, 5 dry while the glue holds, 6 dry by its laps: the first that holds.
    pub state: u8,
    /// The same in words.
    pub says: String,
    /// True in states 5 and 6.
    pub dry: bool,
    /// True in state 6.
    pub by_laps: bool,
    /// True where every step is done.
    pub finished: bool,
    /// Every water, with the glue holding and lost.
    pub heads: Vec<WaterHeadView>,
    /// What leans on glue, one for each kind of edge, what is unusual first.
    pub leans: Vec<LeanView>,
}

impl VerdictView {
    pub(super) fn of(plan: &Plan, verdict: &Verdict, found: &[Finding]) -> Self {
        let heads = verdict.heads.iter().map(|w| WaterHeadView {
            scenario: w.kind.to_owned(),
            name: w.name.to_owned(),
            glue: if w.glue == Glue::Lost { GlueView::Lost } else { GlueView::Holds },
            head_in: w.head.map(Head::inches),
            head: w.head.map(HeadReading::from),
            floor: w.floor,
            reaches: w.target.map(|t| plan.water.targets[t].name.clone()).unwrap_or_default(),
        });
        Self {
            state: verdict.state.number(),
            says: verdict.state.says().to_owned(),
            dry: verdict.state.is_dry(),
            by_laps: verdict.state == State::ByLaps,
            finished: verdict.finished,
            heads: heads.collect(),
            leans: leaning(found)
                .into_iter()
                .map(|l| LeanView { says: l.lean.says.clone(), places: l.places, usual: l.lean.usual })
                .collect(),
        }
    }
}
