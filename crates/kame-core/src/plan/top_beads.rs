//! Beads along the top edges of pieces: those that recipes and repairs ask for are made here, and so are those that a job asks for besides.

use super::{Part, Plan, Seal, SurfaceId};
use crate::job::Job;
use crate::kit::named;
use crate::problem::Problem;
use crate::profile::fig;
use crate::recipe::ReachSpec;
use crate::surface::Rect;
use crate::trade::{Act, Action, PieceId};
use std::sync::Arc;

/// The fault of the catalogue that it is to leave out a bead which a job asks for besides.
const LEFT_OUT: &str = "F17";

/// A bead of the crew's sealant behind a piece, laid once the piece is there. `what` is its name without that of the piece.
pub(super) fn bead(plan: &Plan, piece: PieceId, id: String, what: &str, fault: &str, rects: Vec<Rect>) -> Seal {
    Seal {
        id,
        name: format!("{what} of the {}", plan.pieces[piece].name),
        behind: piece,
        reach: ReachSpec::After,
        fault: fault.into(),
        product: named::SEALANT.into(),
        rod: false,
        rects: rects.into_iter().map(|r| (SurfaceId::WALL, r)).collect(),
        laying: None,
    }
}

/// Where a bead along the top edge of a piece lies on the face of the wall: below each part of that edge over which the piece does not go on.
fn along_top(plan: &Plan, piece: PieceId) -> Vec<Rect> {
    let wide = plan.basis.figures.length(fig::BED_BEAD);
    let on_wall = || plan.pieces[piece].regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
    let above = |r: Rect| Rect { v0: r.v1, v1: r.v1 + wide, ..r };
    let goes_on: Vec<Rect> = on_wall().collect();
    let open = on_wall().flat_map(|r| above(r).minus_all(&goes_on).into_iter().map(move |a| (r, a)));
    let from_below = open.filter(|(r, a)| a.v0 == r.v1);
    from_below.map(|(r, a)| Rect { u0: a.u0, u1: a.u1, v0: (r.v1 - wide).max(r.v0), v1: r.v1 }).collect()
}

/// Lays the beads that a job asks for besides those of its recipes, each at the end of the step that places its piece.
pub(super) fn lay(plan: &mut Plan, job: &Job) -> Result<(), Vec<Problem>> {
    for (i, id) in job.sealed.iter().enumerate() {
        let no = |what: String| Err(vec![Problem::new(format!("$.sealed[{i}]"), what)]);
        let Some(piece) = plan.pieces.position(|p| p.id == *id) else {
            return no(format!("there is no piece \"{id}\"; name a piece of this job"));
        };
        if job.sealed[..i].contains(id) {
            return no(format!("\"{id}\" is named twice; name each piece once"));
        }
        let name = plan.pieces[piece].name.clone();
        let rects = along_top(plan, piece);
        let step = plan.step_of(Part::Piece(piece)).map(|s| s.id.clone());
        let Some(step) = step.filter(|_| !rects.is_empty()).and_then(|id| plan.steps.position(|s| s.id == id)) else {
            return no(format!("the {name} has no top edge on the face of the wall; name a piece that has one"));
        };
        let seal = bead(plan, piece, format!("{id}/top-bead"), "bead along the top edge", LEFT_OUT, rects);
        let label = format!("lay a {}", seal.name);
        let seal = plan.seals.push_and_get_key(seal);
        plan.departures.besides.push(seal);
        let number = plan.steps[step].actions.len() + 1;
        let id = format!("{}/{number}", plan.steps[step].id);
        Arc::make_mut(&mut plan.steps[step]).actions.push(Action {
            id,
            act: Act::Seal { seal },
            label: label.into(),
            checks: Vec::new(),
        });
    }
    Ok(())
}
