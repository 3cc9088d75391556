//! What cannot be built as it is asked for: each with its path in the job and what to do.

use super::panels::{MOST_PANELS, most_panels};
use super::{Plan, Stretch, SurfaceId};
use crate::job::{Job, OpeningSpec};
use crate::length::Length;
use crate::problem::Problem;
use crate::profile::{Figures, fig};
use crate::recipe::answer;
use crate::recipe::schools::{Answers, BarrierKind, BarrierSpec, Feature, Schools, Scope};
use crate::surface::{Along, Outline, Rect};

/// What runs on past the corner where one barrier ends and another begins.
pub(super) fn across_a_meeting(job: &Job, rects: &[Rect], stretches: &[Stretch]) -> Vec<Problem> {
    let across = |(i, (o, r)): (usize, (&OpeningSpec, &Rect))| {
        let at = stretches.iter().skip(1).map(|s| s.rect.u0).find(|at| r.u0 < *at && *at < r.u1)?;
        let message = format!(
            "{} runs from {} to {} across the corner at {at}, where one barrier ends and another begins: make it two, one on each wall.",
            o.name, r.u0, r.u1
        );
        Some(Problem::new(format!("$.openings[{i}].width"), message))
    };
    job.openings.iter().zip(rects).enumerate().filter_map(across).collect()
}

/// Answers of an opening to questions that are decided for the whole wall.
pub(super) fn misplaced_answers(schools: &Schools, own: &Answers, i: usize) -> Vec<Problem> {
    let of_wall = |q: &&String| schools.question(q).is_some_and(|q| q.scope == Scope::Wall);
    own.keys()
        .filter(of_wall)
        .map(|q| {
            let message =
                "this is decided for the whole wall, so that everything goes to one plane: set it on the wall.";
            Problem::new(format!("$.openings[{i}].schools.{q}"), message)
        })
        .collect()
}

/// Panels in such numbers that they are not laid out, counted before any is.
pub(super) fn too_many_panels(specs: &[&BarrierSpec], stretches: &[Stretch], figures: &Figures) -> Vec<Problem> {
    // Sheathing under a coat or a taped sheet is laid out for its joints.
    let laid_out = |(spec, on): &(&&BarrierSpec, &Stretch)| {
        spec.kind != BarrierKind::Courses || answer::SHEATHING_TAPED.is_in(&on.answers)
    };
    let of_panels = specs.iter().zip(stretches).filter(laid_out);
    let count: i64 = of_panels.map(|(_, on)| most_panels(on, figures)).sum();
    if count <= MOST_PANELS {
        return Vec::new();
    }
    let (width, length) = (figures.length(fig::PANEL_WIDTH), figures.length(fig::PANEL_LENGTH));
    let message = format!(
        "the walls take about {count} panels of {width} × {length}, and at most {MOST_PANELS} are laid out in one job: take larger panels, or split the job."
    );
    vec![Problem::new("$.figures", message)]
}

/// Units that cannot stand back because the wall is no deeper than they are.
pub(super) fn shallow(job: &Job, answers: &[Answers], figures: &Figures) -> Vec<Problem> {
    let frame = figures.length(fig::FRAME_DEPTH);
    let too = |(i, (o, a)): (usize, (&OpeningSpec, &Answers))| {
        let back = a.contains_key("position") && !answer::POSITION_OUT.is_in(a);
        (back && o.depth <= frame).then(|| {
            let message = format!(
                "{} stands back from the face, but the wall is {} deep and its frame {frame}: put it at the face, or make the wall deeper than {frame}.",
                o.name, o.depth
            );
            Problem::new(format!("$.openings[{i}].depth"), message)
        })
    };
    job.openings.iter().zip(answers).enumerate().filter_map(too).collect()
}

/// Features that stand through the top of a wall that is not level.
pub(super) fn through_the_top(job: &Job, rects: &[Rect], outline: &Outline, plate: Length) -> Vec<Problem> {
    let through = |(i, (o, r)): (usize, (&OpeningSpec, &Rect))| {
        let top = outline.least_over(r.along_u());
        (o.feature != Feature::Line && r.v1 > top).then(|| {
            let message = format!(
                "{} reaches {} up, and the wall over it is {} high there: lower it by {}, or move it to where the wall is higher.",
                o.name,
                r.v1 - plate,
                top - plate,
                r.v1 - top
            );
            Problem::new(format!("$.openings[{i}].sill"), message)
        })
    };
    job.openings.iter().zip(rects).enumerate().filter_map(through).collect()
}

pub(super) fn misplaced(job: &Job, rects: &[Rect], wall: Rect, plate: Length) -> Vec<Problem> {
    let mut out = Vec::new();
    for (i, (o, r)) in job.openings.iter().zip(rects).enumerate() {
        let at = |field: &str| format!("$.openings[{i}].{field}");
        let room = |size: Length, least: Length, most: Length| {
            if most < least {
                format!("make it smaller: {size} does not fit at all")
            } else {
                format!("put it between {least} and {most}")
            }
        };
        if r.u0 < wall.u0 || r.u1 > wall.u1 {
            let remedy = room(o.width, Length::ZERO, wall.u1 - o.width);
            out.push(Problem::new(
                at("left"),
                format!("{} runs from {} to {}, off a wall {} wide: {remedy}.", o.name, r.u0, r.u1, wall.u1),
            ));
        }
        if r.v0 < wall.v0 + plate || r.v1 > wall.v1 {
            let remedy = room(o.height, Length::ZERO, wall.v1 - plate - o.height);
            out.push(Problem::new(
                at("sill"),
                format!(
                    "{} stands from {} to {} above the plate, off a wall {} high: {remedy}.",
                    o.name,
                    r.v0 - plate,
                    r.v1 - plate,
                    wall.v1 - plate
                ),
            ));
        }
        for (p, q) in job.openings[..i].iter().zip(rects) {
            if r.overlaps(*q) {
                out.push(Problem::new(
                    at("left"),
                    format!("{} overlaps {}: move one of them, or make one smaller.", o.name, p.name),
                ));
            }
        }
    }
    out
}

/// Units that cannot be set: their flange leaves the wall, bends round a corner, or reaches into another's hole.
pub(super) fn crowded(job: &Job, plan: &Plan, wall: Rect) -> Vec<Problem> {
    let mut out = Vec::new();
    let mut solids: Vec<Option<Rect>> = vec![None; plan.openings.len()];
    for (piece, opening) in plan.pieces.iter().filter(|p| p.solid).filter_map(|p| Some((p, p.opening?))) {
        let on_wall = piece.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
        solids[opening] = solids[opening].into_iter().chain(on_wall).reduce(Rect::hull);
    }
    // Those before, each with its flange.
    let mut known: Along<usize> = Along::default();
    for (i, o) in plan.openings.iter().enumerate() {
        let Some(r) = solids[i] else { continue };
        let mut near: Vec<usize> = Vec::new();
        known.reaching(r.hull(o.rect), |_, p| near.push(p));
        known.put(r.hull(o.rect), i);
        if o.feature == Feature::Line {
            continue;
        }
        let name = &job.openings[i].name;
        let mut refuse = |field: &str, message: String| {
            out.push(Problem::new(format!("$.openings[{i}].{field}"), message));
        };
        for (side, over) in [("left end", wall.u0 - r.u0), ("right end", r.u1 - wall.u1)] {
            if over.is_positive() {
                let message = format!(
                    "the flange of {name} reaches {over} past the {side} of the wall: move it {over} away, make it smaller, or take a unit without a flange."
                );
                refuse("left", message);
            }
        }
        let top = r.v1 - plan.walls.outline.least_over(r.along_u());
        if top.is_positive() {
            let message = format!(
                "the flange of {name} reaches {top} past the top of the wall: lower it by {top}, make it smaller, or take a unit without a flange."
            );
            refuse("sill", message);
        }
        for c in plan.walls.corners.iter().filter(|c| r.u0 < c.at && c.at < r.u1) {
            let over = (c.at - r.u0).min(r.u1 - c.at);
            let message = format!(
                "the flange of {name} reaches {over} round the corner at {}: move it {over} away from the corner, or make it smaller.",
                c.at
            );
            refuse("left", message);
        }
        near.sort_unstable();
        near.dedup();
        for (p, q) in near.into_iter().filter_map(|p| Some((&plan.openings[p], solids[p]?))) {
            // Flanges meet in the pier between them, or one is cut back to the other; a hole is nobody else's.
            let Some(shared) = q.intersection(o.rect).or_else(|| r.intersection(p.rect)) else { continue };
            let by = shared.width().min(shared.height());
            let message = format!(
                "the flange of {name} or of {} reaches {by} into the other's opening: move them apart by at least {by}, mull them into one, or take units without flanges.",
                p.name
            );
            refuse("left", message);
        }
    }
    out
}
