//! What is wrong with the gap behind the cladding: where air does not get through it, and what is at its ends.

use super::{Finding, Severity};
use crate::gap::{AirPath, air_paths, open_ends};
use crate::length::Length;
use crate::plan::End;
use crate::plan::{Opening, Plan, SurfaceId};
use crate::profile::fig;
use crate::recipe::LayoutRule;
use crate::sequence::Stage;
use crate::surface::Rect;

/// Pockets and ends of the gap, as it stands at a moment.
pub fn findings(plan: &Plan, stage: &Stage) -> Vec<Finding> {
    let pockets = air_paths(plan, stage).into_iter().filter(|p| !p.moves() && !p.shut);
    let mut out: Vec<Finding> = pockets.filter_map(|p| pocket(plan, &p)).collect();
    for e in open_ends(plan, stage) {
        let strip = Rect::new(e.end.span.lo, e.end.at, e.end.span.hi, e.end.at);
        match e.shut {
            // Told where it makes a pocket.
            Some(LayoutRule::Levels) => {}
            Some(_) => out.push(shut(plan, &e.end, strip)),
            None if e.screened => {}
            None => out.push(told(
                "F37",
                strip,
                format!(
                    "The gap is open without a screen ({}): insects nest in it, and it fills.",
                    place(plan, &e.end)
                ),
                "Screen at every end of the gap: along the foot, over the heads, at the top.".into(),
            )),
        }
    }
    out
}

fn told(code: &str, rect: Rect, reason: String, remedy: String) -> Finding {
    let seen = Finding::seen(code, Severity::Fault, Vec::new(), (SurfaceId::WALL, rect.to_inches()), None);
    Finding { reason, remedy, ..seen }
}

/// Where an end is, in words that are the same for all ends of its kind.
fn place(plan: &Plan, end: &End) -> &'static str {
    let line = end.feature.is_some_and(|o| plan.openings[o].feature == crate::recipe::schools::Feature::Line);
    match (end.lower, end.feature, line) {
        (true, None, _) => "at its foot",
        (false, None, _) => "at its top",
        (true, Some(_), false) => "over a head",
        (true, Some(_), true) => "above what runs along the wall",
        (false, Some(_), _) => "below what runs along the wall",
    }
}

fn shut(plan: &Plan, end: &End, strip: Rect) -> Finding {
    if end.lower {
        return told(
            "F13",
            strip,
            format!("The gap is closed {}: what comes down in it stands there and finds no way out.", place(plan, end)),
            "Leave the way out open: beads at jambs and sill only, a screen where it has to be covered.".into(),
        );
    }
    told(
        "F37",
        strip,
        format!("The gap is closed {}: it drains, and no air moves through it.", place(plan, end)),
        "A vent strip or a screened opening there.".into(),
    )
}

/// Where a part of the gap lies; round the corner that closes the walls it is told where most of it is.
fn around(plan: &Plan, path: &AirPath) -> Option<Rect> {
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let right = |r: &&Rect| r.u0 - wall.u0 > wall.u1 - r.u1;
    let (on_right, on_left): (Vec<&Rect>, Vec<&Rect>) = path.parts.iter().partition(right);
    let closes = path.parts.iter().any(|r| r.u0 == wall.u0) && path.parts.iter().any(|r| r.u1 == wall.u1);
    let width = |list: &[&Rect]| list.iter().map(|r| r.width()).fold(Length::ZERO, |a, b| a + b);
    let parts = match plan.walls.round && closes {
        false => path.parts.iter().collect(),
        true if width(&on_left) < width(&on_right) => on_right,
        true => on_left,
    };
    parts.into_iter().copied().reduce(Rect::hull)
}

/// A part of the gap that air does not go through.
fn pocket(plan: &Plan, path: &AirPath) -> Option<Finding> {
    let around = around(plan, path)?;
    let way = match (path.inlet, path.outlet) {
        (true, _) => "comes in below and finds no way out above",
        (false, true) => "finds no way in from below",
        (false, false) => "gets neither in nor out",
    };
    // What shuts it off is told by whose edge it ends at.
    let reach = plan.basis.figures.length(fig::BATTEN_WIDTH) + plan.basis.figures.length(fig::AIR_WAY);
    let beside = |r: &Rect| {
        let wide = Rect::new(r.u0, r.v0 - reach, r.u1, r.v1 + reach);
        wide.overlaps(around)
    };
    let windows = plan.openings.iter().filter(|o| o.feature != crate::recipe::schools::Feature::Penetration);
    let middle = |r: Rect| [r.u0 + r.u1, r.v0 + r.v1].map(Length::units);
    let far = |o: &&Opening| {
        let ([u, v], [x, y]) = (middle(around), middle(o.rect));
        (u - x).abs() + (v - y).abs()
    };
    let at = windows.filter(|o| o.stops.iter().any(beside)).min_by_key(far);
    let whose = at.map_or_else(String::new, |o| format!("{}: ", o.id));
    let off = plan.basis.figures.length(fig::FURRING_OFF);
    Some(told(
        "F35",
        around,
        format!("Furring shuts the gap off ({whose}air {way}), so nothing dries there."),
        format!(
            "Hold furring off sills, heads and corners by {off} or more, or drill it; vented battens shut nothing off."
        ),
    ))
}
