//! What to do about a leak, from the edges its water passed.

use super::order::{Broken, move_fix, restore_fix};
use super::{Fix, Moment, notes};
use crate::layup::Bond;
use crate::length::Head;
use crate::plan::{AsBuilt, Over, Part, Plan, SurfaceId};
use crate::profile::fig;
use crate::surface::Edge;
use crate::trade::Act;
use crate::water::{Passage, PassageKind, Way, WayPoint};

/// A remedy in words, with what Kame can do at once.
pub struct Remedy {
    /// What to do.
    pub words: String,
    /// What Kame can do.
    pub fix: Option<Fix>,
    /// The fault it is, where that is known.
    pub code: Option<String>,
}

/// How far from the passed edge a piece may lie to be the one that should have covered it.
const NEAR: f64 = 0.5;

/// Finds the remedy, the most telling first: a step left out, a wrong order, an edge not rolled, a bead not laid, a lap too short.
pub fn for_way(
    plan: &Plan,
    moment: &Moment,
    way: &Way,
    head: Head,
    lost: bool,
    broken: &[Broken],
    missing: &[&Over],
) -> Remedy {
    for a in plan.as_built.iter().filter(|_| !lost) {
        if let AsBuilt::OffLevel { piece, rect, .. } = *a {
            let near = |p: &WayPoint| p.u >= rect.u0.to_inches_f64() - NEAR && p.u <= rect.u1.to_inches_f64() + NEAR;
            let past = |p: &Passage| p.sheet.0 == piece && way.points.get(p.point).is_some_and(near);
            if way.passages.iter().any(past) {
                let (deviation, code) = notes::deviation(plan, a);
                let name = &plan.pieces[piece].name;
                return Remedy {
                    words: format!(
                        "Hang the {name} to a level line: at its right end it lies {} too high, and its lap is that much short.",
                        plan.figures.length(fig::OFF_LEVEL)
                    ),
                    fix: Some(Fix::PutRight { deviation }),
                    code: Some(code.into()),
                };
            }
        }
        let AsBuilt::Mouth { piece, on, rect } = *a else { continue };
        let [u0, v0, u1, v1] = rect.to_inches();
        let through = |p: &WayPoint| {
            SurfaceId(p.facet.0) == on && p.u >= u0 - NEAR && p.u <= u1 + NEAR && p.v >= v0 - NEAR && p.v <= v1 + NEAR
        };
        if way.points.iter().any(through) {
            let (deviation, code) = notes::deviation(plan, a);
            let name = &plan.pieces[piece].name;
            return Remedy {
                words: format!("Cut the fish-mouth in the {name} flat, press it and patch it: it is a funnel."),
                fix: Some(Fix::PutRight { deviation }),
                code: Some(code.into()),
            };
        }
    }
    for passage in way.passages.iter().filter(|p| matches!(p.kind, PassageKind::InBehind | PassageKind::InThroughCut)) {
        let Some(point) = way.points.get(passage.point) else { continue };
        let surface = SurfaceId(point.facet.0);
        let piece = passage.sheet.0;
        if let Some(o) = missing
            .iter()
            .find(|o| covers(plan, o.upper, surface, (point.u, point.v)) && concerns(plan, o.lower, piece))
        {
            let upper = plan.part_name(o.upper);
            let (fix, words) = restore_fix(plan, o.upper)
                .map_or((None, format!("Go on: the {upper} comes over it later.")), |(f, w)| (Some(f), w));
            return Remedy {
                words: format!("{words} The {upper} is not over it: {}.", o.because),
                fix,
                code: Some(o.fault.clone()),
            };
        }
        if let Some(b) = broken
            .iter()
            .find(|b| concerns(plan, b.over.lower, piece) && covers(plan, b.over.upper, surface, (point.u, point.v)))
        {
            let (fix, words) = move_fix(plan, b.over).map_or((None, String::new()), |(f, w)| (Some(f), w));
            return Remedy {
                words: format!(
                    "{words} The {} has to lie over the {}: {}.",
                    plan.part_name(b.over.upper),
                    plan.part_name(b.over.lower),
                    b.over.because
                ),
                fix,
                code: Some(b.over.fault.clone()),
            };
        }
        if plan.pieces[piece].bond == Bond::Full && moment.stage.bond(piece) == Bond::None {
            let name = &plan.pieces[piece].name;
            let roll = plan.steps.iter().flat_map(|s| &s.actions).find(|a| a.act == Act::Press { piece });
            let fix = roll.filter(|a| plan.is_removed(&a.id)).map(|a| Fix::Restore { step: a.id.clone() });
            return Remedy {
                words: format!("Roll the {name}: an adhered piece holds only once it is pressed."),
                fix,
                code: Some("F15".into()),
            };
        }
        for (i, seal) in plan.seals.iter().enumerate().filter(|(_, s)| s.behind == piece) {
            if moment.stage.seals.contains(&i) {
                continue;
            }
            let step = plan.steps.iter().find(|s| s.actions.iter().any(|a| a.act == Act::Seal { seal: i }));
            let fix = step.filter(|s| plan.is_removed(&s.id)).map(|s| Fix::Restore { step: s.id.clone() });
            let name = &seal.name;
            return Remedy {
                words: format!("Lay the {name}: without it the gap behind the {} is open.", plan.pieces[piece].name),
                fix,
                code: Some(seal.fault.clone()),
            };
        }
    }
    // No edge on the way tells it, but something else at the wall is out of order: that comes first.
    if let Some((b, (fix, words))) = broken.iter().filter(|_| !lost).find_map(|b| Some((b, move_fix(plan, b.over)?))) {
        let because = &b.over.because;
        return Remedy {
            words: format!("{words} Put the order right first: {because}."),
            fix: Some(fix),
            code: Some(b.over.fault.clone()),
        };
    }
    last_resort(plan, moment, way, head, lost)
}

/// Nothing is missing or out of order: the piece has to reach farther, or a place that leans on glue has to be known.
fn last_resort(plan: &Plan, moment: &Moment, way: &Way, head: Head, lost: bool) -> Remedy {
    let plain = |words: String| Remedy { words, fix: None, code: None };
    if !moment.finished {
        return plain("The work is not finished: go on, or cover it before rain.".into());
    }
    let Some(entry) = way.entry() else {
        return plain("Nothing covers this place: put the barrier over it.".into());
    };
    let piece = &plan.pieces[entry.sheet.0];
    if lost && piece.bond == Bond::Full && entry.edge == Edge::Top {
        return plain(format!(
            "Nothing laps over the top edge of the {0}: it leans on its glue. Roll it hard on a clean, dry, warm enough surface, and seal the top edge; or run the {0} up under the next course.",
            piece.name
        ));
    }
    let floor = plan.figures.length(if lost { fig::FLOOR_LAPS } else { fig::FLOOR_RAIN });
    let short = floor - head.as_length();
    plain(format!(
        "The lap of the {} is short by about {}: lengthen it.",
        piece.name,
        short.ceil_step(plan.figures.length(fig::CUT_ROUND))
    ))
}

fn concerns(plan: &Plan, part: Part, piece: usize) -> bool {
    match part {
        Part::Piece(p) => p == piece,
        Part::Flap(_) => plan.pieces[piece].role == crate::recipe::Role::Barrier,
        Part::Barrier(s) => plan.pieces[piece].role == crate::recipe::Role::Barrier && plan.pieces[piece].stretch == s,
    }
}

/// True where a part, laid as planned, would lie over the point.
fn covers(plan: &Plan, part: Part, surface: SurfaceId, (u, v): (f64, f64)) -> bool {
    let over = |on: SurfaceId, rect: crate::surface::Rect| {
        let [u0, v0, u1, v1] = rect.to_inches();
        on == surface && u >= u0 - NEAR && u <= u1 + NEAR && v >= v0 - NEAR && v <= v1 + NEAR
    };
    match part {
        Part::Piece(p) => plan.pieces[p].regions.iter().any(|(on, r)| over(*on, *r)),
        Part::Flap(f) => plan.cuts.iter().flat_map(|c| &c.flaps).any(|(i, r)| *i == f && over(SurfaceId::WALL, *r)),
        Part::Barrier(s) => {
            plan.stretches[s].rect.to_inches()[0] <= u + NEAR
                && u - NEAR <= plan.stretches[s].rect.to_inches()[2]
                && surface == SurfaceId::WALL
        }
    }
}
