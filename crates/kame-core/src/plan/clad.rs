//! How the cladding is laid out on a run of walls: free of openings and of what comes through, with their joints; trim round openings and
//! at corners; joints that are sealed; film over units.

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

/// True where a run of walls has something that a rule lays out.
fn has(plan: &Plan, finish: usize, rule: LayoutRule) -> bool {
    let is = |p: &Piece| p.laying.is_some_and(|l| l.rule == rule && l.finish == finish);
    plan.pieces.iter().any(is)
}

/// What stays free round openings on a run, up to their trim or past it, and round what comes through.
fn holes(plan: &Plan, finish: usize) -> Vec<Rect> {
    let on = &plan.walls.finishes[finish];
    let joints = Free::of(plan);
    let trim = has(plan, finish, LayoutRule::Trim);
    let around = if trim { joints.with_trim(plan.basis.figures.length(fig::TRIM_WIDTH)) } else { joints };
    let mut free: Vec<Rect> = openings(plan, on).map(|o| around.round(o.rect)).collect();
    let others = plan.openings_on(on).filter(|o| o.feature != Feature::Opening);
    free.extend(others.flat_map(|o| if o.stops.is_empty() { vec![o.rect] } else { o.stops.clone() }).map(|r| {
        // What runs along the wall is met from below without a joint.
        Rect { v1: r.v1 + joints.head, ..r }
    }));
    free
}

/// Boards at both ends of each wall of a run, and the joint beside each, on the side of the cladding; none where a wall is hardly wider than they
/// are.
fn corner_strips(plan: &Plan, finish: usize) -> Vec<(Rect, Rect)> {
    let on = &plan.walls.finishes[finish];
    let (side, wide) = (Free::of(plan).side, plan.basis.figures.length(fig::TRIM_WIDTH));
    let strip = |u0, u1| Rect { u0, u1, ..on.rect };
    let wider = plan.walls_of(on).into_iter().filter(|w| w.hi - w.lo > wide.times(4));
    wider
        .flat_map(|w| {
            let (left, right) = (w.lo + wide, w.hi - wide);
            [(strip(w.lo, left), strip(left, left + side)), (strip(right, w.hi), strip(right - side, right))]
        })
        .collect()
}

/// The boards at corners, free of openings with their trim and of what comes through.
pub(super) fn corner_boards(plan: &Plan, finish: usize) -> Vec<Rect> {
    let holes = holes(plan, finish);
    corner_strips(plan, finish).into_iter().flat_map(|(board, _)| board.minus_all(&holes)).collect()
}

/// Joints that are sealed: at the frames' jambs, and at their sills where these have something to be sealed to; outside the trim at the jambs;
/// beside corner boards. None at a head: what comes down behind the cladding leaves there.
pub(super) fn joints(plan: &Plan, finish: usize, sills: bool) -> Vec<Rect> {
    let on = &plan.walls.finishes[finish];
    let (free, wide) = (Free::of(plan), plan.basis.figures.length(fig::TRIM_WIDTH));
    let trim = has(plan, finish, LayoutRule::Trim);
    let beside = |r: Rect| [Rect { u0: r.u0 - free.side, u1: r.u0, ..r }, Rect { u0: r.u1, u1: r.u1 + free.side, ..r }];
    let of = |o: &Opening| {
        let mut out = beside(o.rect).to_vec();
        out.extend(sills.then_some(Rect { v0: o.rect.v0 - free.side, v1: o.rect.v0, ..o.rect }));
        let inner = free.round(o.rect);
        let outer = Rect::new(inner.u0 - wide, inner.v0 - wide, inner.u1 + wide, inner.v1 + wide);
        out.extend(trim.then(|| beside(outer)).into_iter().flatten());
        out
    };
    let boards = corner_joints(plan, finish);
    let all: Vec<Rect> = openings(plan, on).flat_map(of).chain(boards).collect();
    // No joint runs into an opening or over trim, and none is sealed twice.
    let mut taken: Vec<Rect> = openings(plan, on).map(|o| o.rect).collect();
    let boards = plan.pieces.iter().filter(|p| {
        p.laying.is_some_and(|l| l.finish == finish && matches!(l.rule, LayoutRule::Trim | LayoutRule::CornerBoards))
    });
    taken.extend(boards.flat_map(|p| p.regions.iter().map(|(_, r)| *r)));
    let mut out: Vec<Rect> = Vec::new();
    for r in all {
        let there: Vec<Rect> = taken.iter().chain(&out).filter(|t| t.overlaps(r)).copied().collect();
        out.extend(r.minus_all(&there));
    }
    out
}

/// What stays free beside each corner board.
fn corner_joints(plan: &Plan, finish: usize) -> Vec<Rect> {
    if !has(plan, finish, LayoutRule::CornerBoards) {
        return Vec::new();
    }
    let holes = holes(plan, finish);
    corner_strips(plan, finish).into_iter().flat_map(|(_, joint)| joint.minus_all(&holes)).collect()
}

/// The whole run but for openings, trim, corner boards and what comes through, with their joints, in rows as high as a board where it comes in
/// boards.
pub(super) fn cladding(plan: &Plan, finish: usize, board: Option<Length>) -> Vec<Rect> {
    let mut free = holes(plan, finish);
    if has(plan, finish, LayoutRule::CornerBoards) {
        free.extend(corner_boards(plan, finish));
        free.extend(corner_joints(plan, finish));
    }
    let whole = plan.walls.finishes[finish].rect.minus_all(&free);
    match board {
        Some(high) => strips(&whole, high).into_iter().flat_map(|s| s.minus_all(&free)).collect(),
        None => whole,
    }
}
