//! Nights as the rail shows them.

use super::elevation;
use crate::nights::{KnownNights, NightState, nights};
use crate::plan::{Plan, SurfaceId};
use serde::Serialize;

/// One night.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct NightView {
    /// After which step.
    pub step: String,
    /// Number of actions done by then.
    pub done: usize,
    /// Whether it may be left.
    pub state: NightState,
    /// What rain does to it; empty where it stays dry.
    pub why: String,
    /// What to put on it, in words.
    pub put: Vec<String>,
    /// Where that goes on the drawing: x, y, width, height each.
    pub places: Vec<[f64; 4]>,
    /// Title of the step after which it may be left as it is; empty where there is none.
    pub or_go_on: String,
}

/// All nights.
///
/// # Errors
/// A sentence if a stage were no valid layup.
pub fn night_views(plan: &Plan, known: &KnownNights) -> Result<Vec<NightView>, String> {
    let place = |r: crate::surface::Rect| {
        let [u0, v0, u1, v1] = r.to_inches();
        let [x, y] = elevation::map(plan, SurfaceId::WALL, u0, v1);
        [x, y, u1 - u0, v1 - v0]
    };
    let view = |n: &crate::nights::Night| NightView {
        step: plan.steps[n.step].id.clone(),
        done: n.done,
        state: n.state,
        why: n.why.clone(),
        put: n.temporary.iter().map(|t| t.words.clone()).collect(),
        places: n.temporary.iter().map(|t| place(t.rect)).collect(),
        or_go_on: n.dry_after.map(|s| plan.steps[s].title.clone()).unwrap_or_default(),
    };
    Ok(nights(plan, known)?.iter().map(view).collect())
}
