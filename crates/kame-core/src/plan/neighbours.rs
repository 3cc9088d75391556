//! Features that stand close together, at the end of a wall, at its foot or under its top: what would fall on a neighbour or leave the wall ends
//! there, and neighbours are worked in the order that sheds (handbook 3.9).

use super::working_order::Sited;
use super::{Opening, Part, Piece, Plan, SurfaceId};
use crate::length::Length;
use crate::recipe::Role;
use crate::recipe::schools::Feature;
use crate::surface::Rect;
use crate::trade::{Act, Action, PieceId};
use foldhash::{HashMap, HashSet};
use std::ops::Range;
use std::sync::Arc;

/// For each feature those whose flashings would fall on its own; what runs along a wall has none.
fn close_to_each(plan: &Plan) -> Vec<Vec<usize>> {
    let mut out = vec![Vec::new(); plan.openings.len()];
    let hull = |i: usize| plan.openings[i].hull;
    let mut by_left: Vec<usize> =
        (0..plan.openings.len()).filter(|i| plan.openings[*i].feature != Feature::Line).collect();
    by_left.sort_by_key(|i| hull(*i).u0);
    for (n, &i) in by_left.iter().enumerate() {
        for &j in by_left[n + 1..].iter().take_while(|j| hull(**j).u0 < hull(i).u1) {
            if hull(i).overlaps(hull(j)) {
                out[i].push(j);
                out[j].push(i);
            }
        }
    }
    out
}

/// Ends each flashing where its wall ends and at the holes of its neighbours; the strips over corners where two barriers meet, told by their
/// pieces, end at holes too. Says which pieces have nothing left.
pub(super) fn fit(plan: &mut Plan, strips: Range<PieceId>) -> HashSet<PieceId> {
    let mut gone = HashSet::default();
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let close = close_to_each(plan);
    let limits = |(o, close): (&Opening, &Vec<usize>)| {
        let here = Rect { v1: wall.v1.min(plan.walls.outline.least_over(o.hull.along_u())), ..wall };
        // What runs along a wall has ended with it already, and is cut round the holes it comes to.
        if o.feature == Feature::Line {
            let holes = plan.openings.iter().filter(|n| n.feature != Feature::Line && n.rect.overlaps(o.hull));
            let holes: Vec<Rect> = holes.map(|n| n.rect).collect();
            return (!holes.is_empty()).then_some((wall, holes));
        }
        let crowded = !(close.is_empty() && here.contains(o.hull));
        crowded.then(|| {
            let holes = close.iter().map(|n| plan.openings[*n].rect).filter(|r| r.overlaps(o.hull));
            (here, holes.collect::<Vec<_>>())
        })
    };
    let limits: Vec<Option<(Rect, Vec<Rect>)>> = plan.openings.iter().zip(&close).map(limits).collect();
    for (i, p) in plan.pieces.iter_mut_enumerated().filter(|(_, p)| !p.regions.is_empty()) {
        if let Some((here, holes)) = p.opening.and_then(|of| limits[of].as_ref()) {
            // A flange is refused where it is in the way; at the foot it lies on what the wall stands on.
            let holes = if p.solid { &[] } else { &holes[..] };
            end_at(p, *here, holes);
            gone.extend(p.regions.is_empty().then_some(i));
        }
    }
    for p in &mut plan.pieces[strips] {
        let lies = p.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r).reduce(Rect::hull);
        let Some(lies) = lies else { continue };
        let holes = plan.openings.iter().filter(|o| o.feature != Feature::Line && o.rect.overlaps(lies));
        let holes: Vec<Rect> = holes.map(|o| o.rect).collect();
        if !holes.is_empty() {
            end_at(p, wall, &holes);
        }
    }
    if limits.iter().all(Option::is_none) {
        return gone;
    }
    for (o, _) in plan.openings.iter_mut().zip(&limits).filter(|(_, l)| l.is_some()) {
        o.hull = o.rect;
    }
    for p in &plan.pieces {
        let Some(of) = p.opening.filter(|of| limits[*of].is_some()) else { continue };
        let lies = p.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
        plan.openings[of].hull = lies.fold(plan.openings[of].hull, Rect::hull);
    }
    fit_leaks(plan, &close);
    gone
}

/// Water that is behind the sheet over an opening comes down below what stands above it, which catches all that comes from higher up. Where no
/// sheet is left between the two it comes down beside that; where it is as wide as the opening, none does.
fn fit_leaks(plan: &mut Plan, close: &[Vec<usize>]) {
    let openings = &plan.openings;
    let known: HashMap<&str, usize> = openings.iter().enumerate().map(|(i, o)| (o.id.as_str(), i)).collect();
    plan.water.leaks.retain_mut(|l| {
        let of = l.id.split('/').next().and_then(|id| known.get(id)).filter(|_| l.on == SurfaceId::WALL);
        let Some(&of) = of.filter(|of| !close[**of].is_empty()) else { return true };
        let own = openings[of].rect;
        for o in close[of].iter().map(|n| &openings[*n]) {
            if !o.hull.overlaps(l.rect) {
                continue;
            }
            let by = l.rect.v1 - o.hull.v0;
            let lower = Rect { v0: l.rect.v0 - by, v1: l.rect.v1 - by, ..l.rect };
            let sides = [Rect { u1: o.hull.u0, ..l.rect }, Rect { u0: o.hull.u1, ..l.rect }];
            let beside = sides.into_iter().filter(|r| r.has_area()).max_by_key(|r| r.width());
            match Some(lower).filter(|r| r.v0 >= own.v1).or(beside) {
                Some(rect) => l.rect = rect,
                None => return false,
            }
        }
        true
    });
}

/// What has nothing left is not placed or rolled, and nothing has to be over it or under it; nor a lining where the pan takes all of a small
/// opening's jamb. Whatever else lies nowhere stays, and is told.
pub(super) fn leave_out_what_is_gone(plan: &mut Plan, steps: &mut [Sited], gone: &HashSet<PieceId>) {
    let pieces = plan.pieces.iter_enumerated();
    let nowhere = pieces.filter(|(i, p)| gone.contains(i) || p.role == Role::Lining && p.regions.is_empty());
    let nowhere: HashSet<PieceId> = nowhere.map(|(i, _)| i).collect();
    if nowhere.is_empty() {
        return;
    }
    let is = |piece: PieceId| nowhere.contains(&piece);
    for (_, step) in steps.iter_mut() {
        let stays = |a: &Action| match &a.act {
            Act::Place { piece, .. } | Act::Press { piece } | Act::Coat { piece, .. } => !is(*piece),
            Act::Wait { piece: Some(piece) } => !is(*piece),
            _ => true,
        };
        if !step.actions.iter().all(stays) {
            Arc::make_mut(step).actions.retain(stays);
        }
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
    let close = close_to_each(plan);
    let crowd: Vec<usize> = (0..close.len()).filter(|i| !close[*i].is_empty()).collect();
    // Each group is called by the first that is met of it.
    let mut group: Vec<Option<usize>> = vec![None; close.len()];
    for &first in &crowd {
        let mut met = vec![first];
        while let Some(i) = met.pop() {
            if group[i].is_none() {
                group[i] = Some(first);
                met.extend(close[i].iter().filter(|n| group[**n].is_none()));
            }
        }
    }
    // Each above those it stands on: lower ones are ranked first, so one pass from the lowest up is enough.
    let mut up = crowd.clone();
    up.sort_by_key(|i| plan.openings[*i].rect.v0);
    let mut rank = vec![0; close.len()];
    for &i in &up {
        let sill = plan.openings[i].rect.v0;
        let under = close[i].iter().filter(|n| plan.openings[**n].rect.v1 <= sill);
        rank[i] = under.map(|n| rank[*n] + 1).max().unwrap_or(0);
    }
    let opening = |i: usize| plan.openings[i].feature != Feature::Penetration;
    let place = |&i: &usize| Some((plan.openings[i].id.clone(), (group[i]?, 2 * rank[i] + usize::from(opening(i)))));
    crowd.iter().filter_map(place).collect()
}
