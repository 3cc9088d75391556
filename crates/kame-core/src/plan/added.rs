//! What a recipe adds to a plan at one opening, by numbers that hold in the plan it is added to.

use crate::length::Length;
use crate::plan::{Cut, Fitting, Flap, Leak, Over, Piece, Plan, PlanStitchEnd, PlanTarget, Seal, Surface, SurfaceId};
use crate::recipe::expr::ExprError;
use crate::recipe::{Recipe, Role};
use crate::surface::Rect;
use crate::trade::{PieceId, SealId, Step};
use std::sync::Arc;

/// What an opening gives to a recipe.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct OpeningSize {
    /// Index in the plan; `None` for the wall itself.
    pub index: Option<usize>,
    /// Id in the job, `wall` for the wall itself.
    pub id: String,
    /// Rough opening on the wall; all of the wall for the wall itself.
    pub rect: Rect,
    /// Depth of the wall at the opening.
    pub depth: Length,
    /// Width of the flange.
    pub flange: Length,
    /// On which stretch of the walls.
    pub stretch: usize,
    /// Which run of walls it is, for the wall itself.
    pub finish: Option<usize>,
    /// From the barrier to the face of the wall.
    pub outside: Length,
    /// True for what runs along the wall: it ends where the wall does.
    pub ends_with_wall: bool,
}

/// What a recipe adds to a plan.
#[derive(Clone, Debug)]
pub struct Detail {
    /// Steps in working order.
    pub steps: Vec<Arc<Step>>,
    /// Where the gap behind the cladding is interrupted.
    pub stops: Vec<Rect>,
    /// The sill, where it has returns.
    pub sill: Option<SurfaceId>,
}

/// From which numbers on what a recipe adds is counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Numbers {
    pub(super) surfaces: usize,
    pub(super) pieces: usize,
    pub(super) seals: usize,
    pub(super) cuts: usize,
    pub(super) flaps: usize,
}

impl Numbers {
    /// Behind everything that is in a plan.
    pub(super) fn behind(plan: &Plan) -> Self {
        Self {
            surfaces: plan.surfaces.len(),
            pieces: plan.pieces.len(),
            seals: plan.seals.len(),
            cuts: plan.cuts.len(),
            flaps: plan.flaps.len(),
        }
    }

    /// Behind what a recipe adds where so many of its surfaces have an area.
    pub(super) fn after(self, recipe: &Recipe, surfaces: usize) -> Self {
        Self {
            surfaces: self.surfaces + surfaces,
            pieces: self.pieces + recipe.piece.len(),
            seals: self.seals + recipe.seal.len(),
            cuts: self.cuts + recipe.cut.len(),
            flaps: self.flaps + recipe.cut.iter().map(|c| c.flaps.len()).sum::<usize>(),
        }
    }
}

/// What a recipe adds to a plan at one opening, by numbers that hold in the plan it is added to.
#[derive(Debug, Default)]
pub(super) struct Added {
    pub(super) surfaces: Vec<Surface>,
    pub(super) stitches: Vec<(PlanStitchEnd, PlanStitchEnd)>,
    pub(super) pieces: Vec<Piece>,
    pub(super) seals: Vec<Seal>,
    pub(super) cuts: Vec<Cut>,
    pub(super) flaps: Vec<Flap>,
    pub(super) fits: Vec<Fitting>,
    pub(super) overs: Vec<Over>,
    pub(super) targets: Vec<PlanTarget>,
    pub(super) leaks: Vec<Leak>,
    /// Which of the seals and leaks are behind the barrier, whatever hangs there.
    pub(super) behind_barrier: (Vec<usize>, Vec<usize>),
}

impl Added {
    /// The piece of the barrier that each of the seals behind it is laid behind.
    pub(super) fn seals_behind(&self, plan: &Plan, stretch: usize) -> Result<Vec<(usize, PieceId)>, ExprError> {
        let behind = |&n: &usize| {
            let seal = &self.seals[n];
            let there = |p: &Piece| {
                let here = p.role == Role::Barrier && p.stretch == stretch;
                here && p.regions.iter().any(|(on, r)| seal.rects.iter().any(|(at, q)| on == at && r.overlaps(*q)))
            };
            Ok((n, plan.pieces.position(there).ok_or_else(|| unknown(BARRIER, "a barrier at the seal"))?))
        };
        self.behind_barrier.0.iter().map(behind).collect()
    }

    pub(super) fn add_to(&self, plan: &mut Plan, seals_behind: &[(usize, PieceId)], barrier: &[PieceId]) {
        let (seals, leaks) = (plan.seals.len(), plan.water.leaks.len());
        plan.surfaces.extend(self.surfaces.iter().cloned());
        plan.stitches.extend_from_slice(&self.stitches);
        plan.pieces.extend(self.pieces.iter().cloned());
        plan.seals.extend(self.seals.iter().cloned());
        plan.cuts.extend(self.cuts.iter().cloned());
        plan.flaps.extend(self.flaps.iter().cloned());
        plan.fits.extend(self.fits.iter().cloned());
        plan.overs.extend(self.overs.iter().cloned());
        plan.water.targets.extend(self.targets.iter().cloned());
        plan.water.leaks.extend(self.leaks.iter().cloned());
        for (n, behind) in seals_behind {
            plan.seals[SealId(seals + n)].behind = *behind;
        }
        for n in &self.behind_barrier.1 {
            plan.water.leaks[leaks + n].under = barrier.to_vec();
        }
    }
}

/// What recipes call the barrier.
pub(super) const BARRIER: &str = "barrier";

/// Every piece of the barrier on a stretch of the walls.
pub(super) fn barrier(plan: &Plan, stretch: usize) -> Vec<PieceId> {
    let of = |(_, p): &(PieceId, &Piece)| p.role == Role::Barrier && p.stretch == stretch;
    plan.pieces.iter_enumerated().filter(of).map(|(id, _)| id).collect()
}

pub(super) fn unknown(name: &str, expr: &str) -> ExprError {
    ExprError::Unknown { name: name.to_owned(), expr: expr.to_owned() }
}
