//! Features that stand close together, at the end of a wall, at its foot or under its top: what would fall on a neighbour or leave the wall ends
//! there, and neighbours are worked in the order that sheds (handbook 3.9).

use super::working_order::Sited;
use super::{Opening, Part, Piece, Plan, SurfaceId};
use crate::length::Length;
use crate::recipe::schools::Feature;
use crate::surface::Rect;
use crate::trade::Act;
use std::collections::HashMap;
use std::ops::Range;

/// Ends each flashing where its wall ends and at the holes of its neighbours; the strips over corners where two barriers meet, told by their
/// pieces, end at holes too.
pub(super) fn fit(plan: &mut Plan, strips: Range<usize>) {
    let wall = plan.surfaces[SurfaceId::WALL.0].facet.rect();
    let holes: Vec<(usize, Rect)> = plan
        .openings
        .iter()
        .enumerate()
        .filter(|(_, o)| o.feature != Feature::Line)
        .map(|(i, o)| (i, o.rect))
        .collect();
    let mut pieces = std::mem::take(&mut plan.pieces);
    for p in pieces.iter_mut() {
        let Some(of) = p.opening.filter(|of| plan.openings[*of].feature != Feature::Line) else { continue };
        if p.solid {
            continue;
        }
        let hull = plan.openings[of].hull;
        let top = plan.outline.least_over(hull.along_u());
        let here = Rect { v1: wall.v1.min(top), ..wall };
        let near: Vec<Rect> = holes.iter().filter(|(i, r)| *i != of && r.overlaps(hull)).map(|(_, r)| *r).collect();
        if near.is_empty() && here.contains(hull) {
            continue;
        }
        end_at(p, here, &near);
    }
    for p in &mut pieces[strips] {
        let lies = p.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r).reduce(Rect::hull);
        let near: Vec<Rect> =
            holes.iter().map(|(_, r)| *r).filter(|r| lies.is_some_and(|lies| lies.overlaps(*r))).collect();
        if !near.is_empty() {
            end_at(p, wall, &near);
        }
    }
    plan.pieces = pieces;
    for (i, o) in plan.openings.iter_mut().enumerate() {
        let of = plan.pieces.iter().filter(|p| p.opening == Some(i));
        let lies = of.flat_map(|p| &p.regions).filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
        o.hull = lies.fold(o.rect, Rect::hull);
    }
    fit_leaks(plan);
}

/// Water that is behind the sheet over an opening comes down below what stands above it, which catches all that comes from higher up; where no
/// sheet is left between the two, none does.
fn fit_leaks(plan: &mut Plan) {
    let openings = &plan.openings;
    plan.leaks.retain_mut(|l| {
        let of = l.id.split('/').next().unwrap_or_default();
        let near = openings.iter().filter(|o| l.on == SurfaceId::WALL && o.feature != Feature::Line);
        let near: Vec<&Opening> = near.filter(|o| o.hull.overlaps(l.rect) && o.id != of).collect();
        let Some(own) = openings.iter().find(|o| !near.is_empty() && o.id == of) else { return true };
        for o in near {
            if o.rect.v0 >= own.rect.v1 {
                let by = l.rect.v1 - o.hull.v0.min(l.rect.v1);
                (l.rect.v0, l.rect.v1) = (l.rect.v0 - by, l.rect.v1 - by);
            } else if let Some(beside) = l.rect.minus(o.hull).max_by_key(|r| r.width()) {
                l.rect = beside;
            }
        }
        l.rect.v0 >= own.rect.v1
    });
}

/// What does not lie anywhere is not placed, rolled or waited for, and nothing has to be over it or under it.
pub(super) fn leave_out_what_is_nowhere(plan: &mut Plan, steps: &mut [Sited]) {
    let nowhere: Vec<bool> =
        plan.pieces.iter().map(|p| p.opening.is_some() && p.regions.is_empty() && !p.solid).collect();
    if !nowhere.contains(&true) {
        return;
    }
    let is = |piece: usize| nowhere[piece];
    for (_, step) in steps.iter_mut() {
        step.actions.retain(|a| match &a.act {
            Act::Place { piece, .. } | Act::Press { piece } | Act::Coat { piece, .. } => !is(*piece),
            _ => true,
        });
    }
    let part = |p: Part| matches!(p, Part::Piece(p) if is(p));
    plan.overs.retain(|o| !part(o.upper) && !part(o.lower));
}

/// A rectangle without some holes: cut straight off where a hole takes more than half of a side, cut round it otherwise.
fn round_holes(r: Rect, holes: &[Rect]) -> Vec<Rect> {
    let mut left = vec![r];
    for h in holes {
        let cut = |r: Rect| -> Vec<Rect> {
            let Some(shared) = r.intersection(*h) else { return vec![r] };
            let most = |part: Length, whole: Length| part + part >= whole;
            let straight = if most(shared.height(), r.height()) && (shared.u1 == r.u1 || shared.u0 == r.u0) {
                Some(if shared.u1 == r.u1 { Rect { u1: shared.u0, ..r } } else { Rect { u0: shared.u1, ..r } })
            } else if most(shared.width(), r.width()) && (shared.v1 == r.v1 || shared.v0 == r.v0) {
                Some(if shared.v1 == r.v1 { Rect { v1: shared.v0, ..r } } else { Rect { v0: shared.v1, ..r } })
            } else {
                None
            };
            straight.map_or_else(|| r.minus(*h).collect(), |r| if r.has_area() { vec![r] } else { Vec::new() })
        };
        left = left.into_iter().flat_map(cut).collect();
    }
    left
}

/// Ends a piece at the limits of its wall and round some holes. Its cut size follows where all of it lies on the wall's face.
fn end_at(p: &mut Piece, wall: Rect, holes: &[Rect]) {
    let on_wall = |p: &Piece| {
        let lies = p.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
        lies.reduce(Rect::hull)
    };
    let before = on_wall(p);
    let regions = std::mem::take(&mut p.regions);
    p.regions = regions
        .into_iter()
        .flat_map(|(on, r)| {
            if on != SurfaceId::WALL {
                return vec![(on, r)];
            }
            let left = r.intersection(wall).map_or_else(Vec::new, |r| round_holes(r, holes));
            left.into_iter().map(|r| (on, r)).collect()
        })
        .collect();
    let (Some(before), Some(after), Some(cut)) = (before, on_wall(p), p.cut.as_mut()) else { return };
    if p.regions.iter().any(|(on, _)| *on != SurfaceId::WALL) {
        return;
    }
    let (less_u, less_v) = (before.width() - after.width(), before.height() - after.height());
    let (along, across) = if before.width() >= before.height() { (less_u, less_v) } else { (less_v, less_u) };
    let least = Length::inch(1);
    (cut.length, cut.width) = ((cut.length - along).max(least), (cut.width - across).max(least));
}

/// For each feature that has neighbours, by its id: which group they are, and where it stands in it. What is lower is done before what is
/// above it; beside each other what comes through the wall is done before an opening, whose flashings go over it, and openings are done together.
pub(super) fn ranks(plan: &Plan) -> HashMap<String, (usize, usize)> {
    let of: Vec<usize> = (0..plan.openings.len()).filter(|i| plan.openings[*i].feature != Feature::Line).collect();
    let mut group: Vec<usize> = (0..plan.openings.len()).collect();
    let mut pairs = Vec::new();
    let mut by_left = of.clone();
    by_left.sort_by_key(|i| plan.openings[*i].hull.u0);
    for (n, &i) in by_left.iter().enumerate() {
        let a = &plan.openings[i];
        for &j in by_left[n + 1..].iter().take_while(|j| plan.openings[**j].hull.u0 < a.hull.u1) {
            if a.hull.overlaps(plan.openings[j].hull) {
                pairs.push((i, j));
                let (from, to) = (group[i].max(group[j]), group[i].min(group[j]));
                group.iter_mut().filter(|g| **g == from).for_each(|g| *g = to);
            }
        }
    }
    // Each above those it stands on: lower ones are ranked first, so one pass from the lowest up is enough.
    let mut up = of.clone();
    up.sort_by_key(|i| plan.openings[*i].rect.v0);
    let mut rank = vec![0; plan.openings.len()];
    for &i in &up {
        let o = &plan.openings[i];
        let below = pairs.iter().filter_map(|(a, b)| match (*a == i, *b == i) {
            (true, _) => Some(*b),
            (_, true) => Some(*a),
            _ => None,
        });
        let under = below.filter(|b| plan.openings[*b].rect.v1 <= o.rect.v0);
        rank[i] = under.map(|b| rank[b] + 1).max().unwrap_or(0);
    }
    let through = |i: usize| plan.openings[i].feature == Feature::Penetration;
    let crowd = |i: &&usize| pairs.iter().any(|(a, b)| a == *i || b == *i);
    of.iter()
        .filter(crowd)
        .map(|&i| (plan.openings[i].id.clone(), (group[i], 2 * rank[i] + usize::from(!through(i)))))
        .collect()
}
