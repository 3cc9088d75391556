//! How the cladding is laid out on a run of walls: free of openings and of what comes through, with their joints; trim round openings; film over
//! units.

use super::{Finish, Opening, Piece, Plan};
use crate::length::Length;
use crate::profile::fig;
use crate::recipe::LayoutRule;
use crate::recipe::schools::Feature;
use crate::surface::{Rect, strips};

/// What stays free round an opening: beside it and below, and above its head.
#[derive(Clone, Copy)]
struct Free {
    side: Length,
    head: Length,
}

impl Free {
    fn of(plan: &Plan) -> Self {
        let figure = |id| plan.basis.figures.length(id);
        Self { side: figure(fig::BEAD_JOINT), head: figure(fig::CAP_GAP) }
    }

    fn round(self, r: Rect) -> Rect {
        Rect::new(r.u0 - self.side, r.v0 - self.side, r.u1 + self.side, r.v1 + self.head)
    }

    /// With trim and a second joint outside it.
    fn with_trim(self, wide: Length) -> Self {
        Self { side: self.side + wide + self.side, head: self.head + wide + self.head }
    }
}

fn openings<'a>(plan: &'a Plan, on: &'a Finish) -> impl Iterator<Item = &'a Opening> {
    plan.openings_on(on).filter(|o| o.feature == Feature::Opening)
}

/// Film over each opening.
pub(super) fn over_units(plan: &Plan, on: &Finish) -> Vec<Rect> {
    openings(plan, on).map(|o| o.rect).collect()
}

/// Trim at the jambs, from the sill's board to the head's, and both of these over the whole width; none into a neighbour.
pub(super) fn trim(plan: &Plan, on: &Finish) -> Vec<Rect> {
    let (wide, free) = (plan.basis.figures.length(fig::TRIM_WIDTH), Free::of(plan));
    let of = |o: &Opening| {
        let inner = free.round(o.rect);
        let (u0, u1) = (inner.u0 - wide, inner.u1 + wide);
        [
            Rect { u0, u1: inner.u0, ..inner },
            Rect { u0: inner.u1, u1, ..inner },
            Rect { v0: inner.v0 - wide, v1: inner.v0, u0, u1 },
            Rect { v0: inner.v1, v1: inner.v1 + wide, u0, u1 },
        ]
    };
    let others: Vec<Rect> = openings(plan, on).map(|o| free.round(o.rect)).collect();
    let mut out: Vec<Rect> = Vec::new();
    for r in openings(plan, on).flat_map(of) {
        // Two that meet over a narrow pier are one board.
        let taken: Vec<Rect> = others.iter().chain(&out).filter(|t| t.overlaps(r)).copied().collect();
        out.extend(r.minus_all(&taken));
    }
    out
}

/// The whole run but for openings, trim and what comes through, with their joints, in rows as high as a board where it comes in boards.
pub(super) fn cladding(plan: &Plan, finish: usize, board: Option<Length>) -> Vec<Rect> {
    let on = &plan.walls.finishes[finish];
    let trimmed = |p: &Piece| p.laying.is_some_and(|l| l.rule == LayoutRule::Trim && l.finish == finish);
    let joints = Free::of(plan);
    let around = if plan.pieces.iter().any(trimmed) {
        joints.with_trim(plan.basis.figures.length(fig::TRIM_WIDTH))
    } else {
        joints
    };
    let mut free: Vec<Rect> = openings(plan, on).map(|o| around.round(o.rect)).collect();
    let others = plan.openings_on(on).filter(|o| o.feature != Feature::Opening);
    free.extend(others.flat_map(|o| if o.stops.is_empty() { vec![o.rect] } else { o.stops.clone() }).map(|r| {
        // What runs along the wall is met from below without a joint.
        Rect { v1: r.v1 + joints.head, ..r }
    }));
    let whole = on.rect.minus_all(&free);
    match board {
        Some(high) => strips(&whole, high).into_iter().flat_map(|s| s.minus_all(&free)).collect(),
        None => whole,
    }
}
