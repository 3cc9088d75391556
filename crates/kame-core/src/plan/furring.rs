//! How what stands in the gap is laid out on a run of walls: uprights on the studs, level pieces, mats in strips, what is at the gap's ends.

use super::gap_ends::{End, ends};
use super::{Finish, Opening, Plan, SurfaceId, clad};
use crate::length::Length;
use crate::profile::fig;
use crate::recipe::LayoutRule;
use crate::surface::{Rect, strips};

/// A piece laid out by a rule on a run of walls.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Laying {
    /// By which rule.
    pub rule: LayoutRule,
    /// Index of the run of walls.
    pub finish: usize,
}

/// Gives every piece and every seal that is laid out its parts. Openings are in the plan by then.
pub fn lay_out(plan: &mut Plan) {
    for p in plan.pieces.keys() {
        let Some(laying) = plan.pieces[p].laying else { continue };
        let roll = plan.product(&plan.pieces[p].product);
        // What comes in boxes is laid as it comes to hand, in no rows.
        let rows = roll.filter(|k| k.unit != "box");
        let wide = rows.and_then(|k| k.sizes.iter().find_map(|s| s.width));
        let parts = parts(plan, laying, wide);
        plan.pieces[p].regions = parts.into_iter().map(|r| (SurfaceId::WALL, r)).collect();
    }
    for s in plan.seals.keys() {
        if let Some(laying) = plan.seals[s].laying {
            let parts = parts(plan, laying, None);
            plan.seals[s].rects = parts.into_iter().map(|r| (SurfaceId::WALL, r)).collect();
        }
    }
}

fn parts(plan: &Plan, Laying { rule, finish }: Laying, roll: Option<Length>) -> Vec<Rect> {
    let on = &plan.walls.finishes[finish];
    let thick = plan.basis.figures.length(fig::GAP_END);
    let laid = match rule {
        LayoutRule::Uprights | LayoutRule::VentedUprights => {
            uprights(plan, on, plan.basis.figures.length(fig::FURRING_OFF))
        }
        LayoutRule::TightUprights => uprights(plan, on, Length::ZERO),
        LayoutRule::Levels => levels(plan, on),
        LayoutRule::Strips => {
            let free: Vec<Rect> = plan.gap_stops(on).collect();
            let whole = on.rect.minus_all(&free);
            match roll {
                Some(wide) => strips(&whole, wide).into_iter().flat_map(|s| s.minus_all(&free)).collect(),
                None => whole,
            }
        }
        LayoutRule::Trim => clad::trim(plan, on),
        LayoutRule::CornerBoards => clad::corner_boards(plan, finish),
        LayoutRule::JointsAtJambs => clad::joints(plan, finish, false),
        LayoutRule::JointsAtJambsAndSill => clad::joints(plan, finish, true),
        LayoutRule::Cladding => clad::cladding(plan, finish, roll),
        LayoutRule::OverUnits => clad::over_units(plan, on),
        LayoutRule::LowerEnds => lower_ends(plan, on, |_| true),
        LayoutRule::FootEnds => lower_ends(plan, on, |e| !over_head(plan, e)),
        LayoutRule::HeadEnds => lower_ends(plan, on, |e| over_head(plan, e)),
        LayoutRule::UpperEnds => ends(plan, on).iter().filter(|e| !e.lower).map(|e| along(e, thick)).collect(),
        LayoutRule::AlongTheTop => top(plan, on, plan.basis.figures.length(fig::PARAPET_LEG)),
        LayoutRule::TopStrip => top(plan, on, plan.basis.figures.length(fig::TOP_TAPE)),
        LayoutRule::BeadsJambs | LayoutRule::BeadsJambsAndSill | LayoutRule::BeadsAllRound => {
            windows(plan, on).flat_map(|o| beads(o, thick, rule)).collect()
        }
    };
    let air: Vec<Rect> = plan.walls.outline.air().into_iter().filter(|a| a.overlaps(on.rect)).collect();
    laid.into_iter().filter_map(|r| r.intersection(on.rect)).flat_map(|r| r.minus_all(&air)).collect()
}

/// Along those lower ends of the gap that are meant.
fn lower_ends(plan: &Plan, on: &Finish, meant: impl Fn(&End) -> bool) -> Vec<Rect> {
    let thick = plan.basis.figures.length(fig::GAP_END);
    ends(plan, on).iter().filter(|e| e.lower && meant(e)).map(|e| along(e, thick)).collect()
}

/// True for an end over the head of an opening.
fn over_head(plan: &Plan, end: &End) -> bool {
    end.feature.is_some_and(|o| plan.openings[o].feature == crate::recipe::schools::Feature::Opening)
}

fn along(end: &End, thick: Length) -> Rect {
    let r = Rect { v0: end.at, v1: end.at, u0: end.span.lo, u1: end.span.hi };
    if end.lower { Rect { v1: end.at + thick, ..r } } else { Rect { v0: end.at - thick, ..r } }
}

/// Down from the top by so much, gables and steps included.
fn top(plan: &Plan, on: &Finish, by: Length) -> Vec<Rect> {
    let stairs = plan.walls.outline.stairs_over(on.rect.along_u());
    stairs.into_iter().map(|(s, top)| Rect::new(s.lo, top - by, s.hi, top)).collect()
}

fn windows<'a>(plan: &'a Plan, on: &'a Finish) -> impl Iterator<Item = &'a Opening> {
    plan.openings_on(on).filter(|o| o.feature == crate::recipe::schools::Feature::Opening)
}

fn beads(o: &Opening, wide: Length, rule: LayoutRule) -> Vec<Rect> {
    let r = o.rect;
    let mut out = vec![Rect { u0: r.u0 - wide, u1: r.u0, ..r }, Rect { u0: r.u1, u1: r.u1 + wide, ..r }];
    out.extend((rule != LayoutRule::BeadsJambs).then_some(Rect { v0: r.v0 - wide, v1: r.v0, ..r }));
    out.extend((rule == LayoutRule::BeadsAllRound).then_some(Rect { v0: r.v1, v1: r.v1 + wide, ..r }));
    out
}

/// Uprights on the studs of each wall, counted from its left corner, and one beside each jamb; `off` away from what interrupts the gap and
/// from corners. Where one would stand in line with those beside an opening, these take its place.
fn uprights(plan: &Plan, on: &Finish, off: Length) -> Vec<Rect> {
    let (wide, apart) = (plan.basis.figures.length(fig::BATTEN_WIDTH), plan.basis.figures.length(fig::BATTEN_SPACING));
    let half = Length::from_units(wide.units() / 2);
    let windows: Vec<Rect> = windows(plan, on).map(|o| o.rect).collect();
    let beside = |r: &Rect| [Rect { u0: r.u0 - wide, u1: r.u0, ..*r }, Rect { u0: r.u1, u1: r.u1 + wide, ..*r }];
    let around = |r: Rect, side: Length| Rect::new(r.u0 - side, r.v0 - off, r.u1 + side, r.v1 + off);
    let mut free: Vec<Rect> = windows.iter().map(|r| around(*r, wide + off)).collect();
    free.extend(plan.gap_stops(on).filter(|s| !windows.contains(s)).map(|s| around(s, off)));
    let mut out: Vec<Rect> = Vec::new();
    for wall in plan.walls_of(on) {
        let (first, last) = (wall.lo + off + half, wall.hi - off - half);
        let studs = std::iter::successors(Some(wall.lo + apart), |u| Some(*u + apart)).take_while(|u| *u + wide < last);
        let all = [first].into_iter().chain(studs).chain([last]);
        for u in all.filter(|u| first <= *u && *u <= last) {
            let whole = Rect { u0: u - half, u1: u - half + wide, ..on.rect };
            out.extend(whole.minus_all(free.iter().filter(|f| f.overlaps(whole))));
        }
    }
    // Those beside openings go from sill to head, and none into the next opening.
    let jambs: Vec<Rect> = windows.iter().flat_map(beside).collect();
    for j in jambs {
        let others = windows.iter().filter(|w| w.overlaps(j));
        let kept: Vec<Rect> = j.minus_all(others);
        out.extend(kept.into_iter().flat_map(|r| r.minus_all(&out)).collect::<Vec<_>>());
    }
    out.retain(|r| r.height() >= wide && r.width() >= half);
    out
}

/// Level pieces under each sill and over each head, from upright to upright beside the opening.
fn levels(plan: &Plan, on: &Finish) -> Vec<Rect> {
    let wide = plan.basis.figures.length(fig::BATTEN_WIDTH);
    let of = |o: &Opening| {
        let long = Rect { u0: o.rect.u0 - wide, u1: o.rect.u1 + wide, ..o.rect };
        [Rect { v0: o.rect.v0 - wide, v1: o.rect.v0, ..long }, Rect { v0: o.rect.v1, v1: o.rect.v1 + wide, ..long }]
    };
    windows(plan, on).flat_map(of).collect()
}
