//! What cannot be built as it is asked for: each with its path in the job and what to do.

use super::barrier::{MOST_PANELS, most_panels};
use super::{Plan, Stretch};
use crate::job::{CornerSpec, Job, OpeningSpec};
use crate::length::Length;
use crate::problem::Problem;
use crate::profile::{Figures, fig};
use crate::recipe::schools::{Answers, BarrierKind, BarrierSpec, Feature, Schools, Scope};
use crate::surface::{Outline, Rect};

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
    let of_panels = specs.iter().zip(stretches).filter(|(spec, _)| spec.kind == BarrierKind::Panels);
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
        let back = a.get("position").is_some_and(|p| p != "out");
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

/// Openings whose flashings leave the wall or fall on those of another.
pub(super) fn crowded(job: &Job, plan: &Plan, wall: Rect) -> Vec<Problem> {
    let mut out = Vec::new();
    for (i, o) in plan.openings.iter().enumerate() {
        let h = o.hull;
        let sides = [
            ("left", "left end of the wall", wall.u0 - h.u0),
            ("left", "right end of the wall", h.u1 - wall.u1),
            ("sill", "foot of the wall", wall.v0 - h.v0),
            ("sill", "top of the wall", h.v1 - plan.outline.least_over(h.along_u())),
        ];
        for (field, side, over) in sides {
            if over.is_positive() {
                let message = format!(
                    "the flashings of {} reach {over} past the {side}: move it {over} away, or make it smaller.",
                    job.openings[i].name
                );
                out.push(Problem::new(format!("$.openings[{i}].{field}"), message));
            }
        }
        let bent = |c: &&CornerSpec| o.feature != Feature::Line && h.u0 < c.at && c.at < h.u1;
        for c in plan.corners.iter().filter(bent) {
            let over = (c.at - h.u0).min(h.u1 - c.at);
            let message = format!(
                "the flashings of {} reach {over} round the corner at {}: move it {over} away from the corner, or make it smaller.",
                job.openings[i].name, c.at
            );
            out.push(Problem::new(format!("$.openings[{i}].left"), message));
        }
        // The strip where two barriers meet lies flat on both, and on nothing else.
        for (strip, whole) in plan.meetings().flat_map(|(_, r)| plan.on_walls(r).map(move |part| (part, r))) {
            let over = (h.u1 - strip.u0).min(strip.u1 - h.u0);
            let at = Length::from_units((whole.u0 + whole.u1).units() / 2);
            if over.is_positive() && !(h.u0 < at && at < h.u1) {
                let message = format!(
                    "the flashings of {} reach {over} under the strip over the corner at {at}, where two barriers meet: move it {over} away from the corner, or make it smaller.",
                    job.openings[i].name
                );
                out.push(Problem::new(format!("$.openings[{i}].left"), message));
            }
        }
        for p in &plan.openings[..i] {
            if let Some(shared) = p.hull.intersection(h) {
                let by = shared.width().min(shared.height());
                let holes = o.feature == Feature::Penetration && p.feature == Feature::Penetration;
                let together = if holes { ", or flash them together as one" } else { "" };
                let message = format!(
                    "the flashings of {} and {} fall on each other by {by}: move them apart by at least {by}{together}.",
                    p.name, o.name
                );
                out.push(Problem::new(format!("$.openings[{i}].left"), message));
            }
        }
    }
    out
}
