//! Flashings that an opening shares with the one to its right: one piece over the pier, one head flashing and one sill membrane through over
//! both (handbook 3.9).

use super::working_order::Sited;
use super::{CutSize, Note, Part, Plan, SurfaceId};
use crate::layup::Bond;
use crate::length::Length;
use crate::profile::fig;
use crate::recipe::ReachSpec;
use crate::recipe::answer;
use crate::recipe::schools::Feature;
use crate::surface::Rect;
use crate::trade::{Act, Action, PieceId};
use std::collections::{HashMap, HashSet};
use std::sync::Arc;

/// Two openings side by side that share flashings: the left one and the right one.
type SideBySide = (usize, usize);

/// Makes one of each two pieces that openings share. Says which pieces have become part of another, and which openings are to share with a
/// neighbour where there is none they could share with: each has its own flashings then.
pub(super) fn share(plan: &mut Plan, steps: &mut [Sited]) -> (HashSet<PieceId>, Vec<Note>) {
    let (pairs, alone) = pairs(plan);
    let mut by_id: HashMap<String, PieceId> = HashMap::new();
    if !pairs.is_empty() {
        by_id.extend(plan.pieces.iter_enumerated().map(|(i, p)| (p.id.clone(), i)));
    }
    // What a piece has become part of; of a row of three the middle one's head goes on to the third's.
    let mut joined: HashMap<PieceId, PieceId> = HashMap::new();
    for (left, right) in pairs {
        let of = |o: usize, name: &str| by_id.get(&format!("{}/{name}", plan.openings[o].id)).copied();
        let pieces = [
            ("jamb flashing over the pier", true, of(left, "jamb-flashing-right"), of(right, "jamb-flashing-left")),
            ("head flashing", false, of(right, "head-flashing"), of(left, "head-flashing")),
            ("strip over the top edge", false, of(right, "strip"), of(left, "strip")),
            ("sill membrane", false, of(left, "pan"), of(right, "pan")),
        ];
        for (name, between, keep, part) in pieces {
            let (Some(keep), Some(part)) = (keep, part) else { continue };
            let last = |mut p: PieceId| {
                while let Some(next) = joined.get(&p) {
                    p = *next;
                }
                p
            };
            let (keep, part) = (last(keep), last(part));
            if keep == part || plan.pieces[keep].bond == Bond::None {
                continue;
            }
            join(plan, (left, right), keep, part);
            let (a, b) = (&plan.openings[left].name, &plan.openings[right].name);
            let name = if between {
                format!("{name} between {a} and {b}")
            } else {
                format!("{name} through over {a} and {b}")
            };
            say(plan, steps, keep, part, &name);
            seal_after(plan, steps, keep, part);
            plan.seals.iter_mut().filter(|s| s.behind == part).for_each(|s| s.behind = keep);
            plan.pieces[keep].name = name;
            joined.insert(part, keep);
        }
    }
    for o in &mut plan.overs {
        for part in [&mut o.upper, &mut o.lower] {
            if let Part::Piece(p) = part {
                while let Some(next) = joined.get(p) {
                    *p = *next;
                }
            }
        }
    }
    plan.overs.retain(|o| o.upper != o.lower);
    (joined.into_keys().collect(), alone)
}

/// Who shares with whom, and who cannot.
fn pairs(plan: &Plan) -> (Vec<SideBySide>, Vec<Note>) {
    let (mut pairs, mut alone) = (Vec::new(), Vec::new());
    let most = plan.basis.figures.length(fig::SHARED_PIER);
    for (i, o) in plan.openings.iter().enumerate() {
        if !answer::BESIDE_SHARED.is_in(&o.answers) {
            continue;
        }
        let right_of = |(_, n): &(usize, &super::Opening)| {
            n.feature == Feature::Opening && n.rect.u0 >= o.rect.u1 && n.rect.v0 < o.rect.v1 && o.rect.v0 < n.rect.v1
        };
        let next = plan.openings.iter().enumerate().filter(right_of).min_by_key(|(_, n)| n.rect.u0);
        let in_the_way = match next {
            None => Some("nothing stands to its right".to_owned()),
            Some((_, n)) if n.rect.u0 - o.rect.u1 > most => Some(format!(
                "{} stands {} to its right, and a pier of at most {most} is shared",
                n.name,
                n.rect.u0 - o.rect.u1
            )),
            Some((_, n)) if (n.rect.v0, n.rect.v1) != (o.rect.v0, o.rect.v1) => Some(format!(
                "{} has its sill and head at {} and {}, and this one at {} and {}",
                n.name, n.rect.v0, n.rect.v1, o.rect.v0, o.rect.v1
            )),
            Some((_, n)) if plan.walls.corners.iter().any(|c| o.rect.u1 <= c.at && c.at <= n.rect.u0) => {
                Some(format!("{} stands round a corner", n.name))
            }
            Some((_, n))
                if ["unit", "flange", "sill", "cut"].iter().any(|q| n.answers.get(*q) != o.answers.get(*q)) =>
            {
                Some(format!("{} is made another way: unit, flange, sill and cut have to be alike", n.name))
            }
            Some(_) => None,
        };
        match (in_the_way, next) {
            (Some(why), _) => alone.push(Note {
                code: "S-SHARED".into(),
                piece: None,
                opening: Some(i),
                along: None,
                figure: None,
                fault: false,
                reason: format!(
                    "{} is to share its flashings with the opening to its right, but {why}. It is built with its own.",
                    o.name
                ),
                remedy: "Take each with its own flashings, or bring the two together and make them alike.".into(),
            }),
            (None, Some((n, _))) => pairs.push((i, n)),
            (None, None) => {}
        }
    }
    (pairs, alone)
}

/// Makes one piece of two; on the wall it lies over both and what is between them, below the sill and above the head.
fn join(plan: &mut Plan, (left, right): SideBySide, keep: PieceId, part: PieceId) {
    let (a, b) = (plan.openings[left].rect, plan.openings[right].rect);
    let on_wall = |p: PieceId| plan.pieces[p].regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
    let Some(hull) = on_wall(keep).chain(on_wall(part)).reduce(Rect::hull) else { return };
    let flat = plan.pieces[keep].regions.iter().all(|(on, _)| *on == SurfaceId::WALL);
    let length = |p: PieceId| plan.pieces[p].cut.as_ref().map_or(Length::ZERO, |c| c.length);
    let whole = length(keep) + length(part) + (b.u0 - a.u1);
    let other = plan.pieces[part].regions.clone();
    let p = &mut plan.pieces[keep];
    let cut = |c: CutSize, length: Length, width: Length| CutSize {
        length,
        width,
        stock_width: width.max(c.stock_width),
        ..c
    };
    if flat {
        p.regions = vec![(SurfaceId::WALL, hull)];
        let (long, wide) = (hull.width().max(hull.height()), hull.width().min(hull.height()));
        p.cut = p.cut.take().map(|c| cut(c, long, wide));
    } else {
        let pier = Rect { u0: a.u1, u1: b.u0, ..hull };
        let both = std::mem::take(&mut p.regions).into_iter().chain(other);
        p.regions = both
            .flat_map(|(on, r)| {
                let left = if on == SurfaceId::WALL { r.minus_all(&[pier]) } else { vec![r] };
                left.into_iter().map(move |r| (on, r))
            })
            .collect();
        p.regions.extend(Some((SurfaceId::WALL, pier)).filter(|_| pier.has_area()));
        p.cut = p.cut.take().map(|c| CutSize { length: whole, ..c });
    }
    (plan.pieces[part].regions, plan.pieces[part].cut) = (Vec::new(), None);
    // Of a row the one before has shared what goes on now.
    for o in &mut plan.openings {
        o.shared.iter_mut().filter(|p| **p == part).for_each(|p| *p = keep);
    }
    let whose = plan.pieces[keep].opening;
    for o in [left, right] {
        plan.openings[o].hull = plan.openings[o].hull.hull(hull);
        if whose != Some(o) && !plan.openings[o].shared.contains(&keep) {
            plan.openings[o].shared.push(keep);
        }
    }
}

/// Adds to the cards of both steps that the piece is one.
fn say(plan: &Plan, steps: &mut [Sited], keep: PieceId, part: PieceId, name: &str) {
    let size = plan.pieces[keep]
        .cut
        .as_ref()
        .map_or_else(String::new, |c| format!(", {} long and {} wide", c.length, c.width));
    for (_, step) in steps {
        let places =
            |p: PieceId| step.actions.iter().any(|a| a.act.placed() == Some(p) && !matches!(a.act, Act::Set { .. }));
        if places(keep) {
            let what = format!("{} One piece: {name}{size}.", step.card.what);
            Arc::make_mut(&mut Arc::make_mut(step).card).what = what;
        } else if places(part) {
            let what = format!("{} What is shared comes with the neighbour: {name}.", step.card.what);
            Arc::make_mut(&mut Arc::make_mut(step).card).what = what;
        }
    }
}

/// Beads and smears that are laid once a piece is there follow it into the step of what it has become part of.
fn seal_after(plan: &Plan, steps: &mut [Sited], keep: PieceId, part: PieceId) {
    let of = |p: PieceId| steps.iter().position(|(_, s)| s.actions.iter().any(|a| a.act.placed() == Some(p)));
    let (Some(from), Some(to)) = (of(part), of(keep)) else { return };
    if from == to {
        return;
    }
    let follows = |a: &Action| matches!(a.act, Act::Seal { seal } if plan.seals[seal].behind == part && plan.seals[seal].reach == ReachSpec::After);
    let moved: Vec<Action> = Arc::make_mut(&mut steps[from].1).actions.extract_if(.., |a| follows(a)).collect();
    let step = Arc::make_mut(&mut steps[to].1);
    for a in moved {
        let id = format!("{}/{}", step.id, step.actions.len() + 1);
        step.actions.push(Action { id, ..a });
    }
}
