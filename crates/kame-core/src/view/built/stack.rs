//! Sheets of a section: every layer outward from what it lies on, thicker than it is, and where one laps over another.

use super::parts::{Built, SectionCut, SectionRun, on_face};
use crate::length::Length;
use crate::plan::SurfaceId;
use crate::profile::fig;
use crate::recipe::Role;
use crate::surface::{FacetId, Interval};
use crate::trade::PieceId;
use crate::view::ask::Weather;
use crate::view::cut::{GapView, Leg, gap_state, part_for, water_of};
use crate::water::CellId;

/// Drawn thickness of a sheet, of a unit's flange, of a coat; of a gap that is open and one that is closed.
pub(super) const SHEET: f64 = 0.16;
const FLANGE: f64 = 0.14;
const OPEN: f64 = 0.16;
const CLOSED: f64 = 0.05;
/// Runs of one piece that are nearer than this are one line, in.
const JOINED: f64 = 2.0;

/// How far out the sheets come, and where the unit's flange stands.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Stacked {
    /// How far all sheets on the face come out.
    pub out: f64,
    /// How far those under the unit's flange come out.
    pub flange: f64,
    /// How far those on the return of the opening come out.
    pub on_return: f64,
}

/// One piece of a stack at one stretch of a leg.
struct LaidHere {
    piece: PieceId,
    from: [f64; 2],
    to: [f64; 2],
    thick: f64,
}

/// Draws the sheets of a section.
pub(super) fn sheets(cut: &SectionCut, weather: Weather, legs: &[Leg], out: &mut Built) -> Stacked {
    let mut stacked = Stacked::default();
    let mut laid: Vec<LaidHere> = Vec::new();
    for leg in legs {
        let reached = leg_stack(cut, weather, leg, &mut laid, out);
        if leg.on == SurfaceId::WALL {
            (stacked.out, stacked.flange) = (stacked.out.max(reached.out), stacked.flange.max(reached.flange));
        } else {
            stacked.on_return = stacked.on_return.max(reached.out);
        }
    }
    join(cut, laid, out);
    stacked
}

fn leg_stack(cut: &SectionCut, weather: Weather, leg: &Leg, laid: &mut Vec<LaidHere>, out: &mut Built) -> Stacked {
    let (plan, part) = (cut.plan, part_for(cut.plan, cut.moment, cut.ask, leg));
    let water = water_of(part, weather);
    let mut reached = Stacked::default();
    let Some(facet) = part.surfaces.iter().position(|s| *s == leg.on).map(FacetId) else { return reached };
    let a = &*part.arrangement();
    let mut cells: Vec<(Interval, CellId)> =
        a.cells_of(facet).filter_map(|id| leg.passes(a.cell(id).rect).map(|i| (i, id))).collect();
    cells.sort_by_key(|(i, _)| i.lo);
    for (span, id) in cells {
        let mut off = 0.0;
        for (gap, layer) in a.stack(id).iter().enumerate() {
            let piece = part.pieces[layer.sheet.0];
            let p = &plan.pieces[piece];
            let Some(thick) = drawn(cut, piece, leg) else { continue };
            // A sleeve is open where the thing comes through it.
            let mouth = cut.opening.rect.along_v();
            if leg.on == SurfaceId::WALL && span.overlap(mouth).is_some() && plan.is_sleeve(piece) {
                continue;
            }
            let (closed, state, head) = gap_state((plan, cut.moment, a), (id, gap, piece), (leg, span), water.as_ref());
            let width = if closed { CLOSED } else { OPEN };
            let middle = off + width / 2.0;
            out.gaps.push(GapView { line: [leg.point(span.lo, middle), leg.point(span.hi, middle)], state, head });
            off += width + thick / 2.0;
            laid.push(LaidHere { piece, from: leg.point(span.lo, off), to: leg.point(span.hi, off), thick });
            if p.role == Role::Unit && leg.on == SurfaceId::WALL {
                reached.flange = reached.flange.max(off);
            }
            off += thick / 2.0;
        }
        reached.out = reached.out.max(off);
    }
    reached
}

/// How thick a piece is drawn on a leg; none where it is drawn to scale by itself.
fn drawn(cut: &SectionCut, piece: PieceId, leg: &Leg) -> Option<f64> {
    let p = &cut.plan.pieces[piece];
    let kind = cut.plan.product(&p.product).map_or("", |x| x.kind.as_str());
    let on_face = leg.on == SurfaceId::WALL;
    match (p.role, kind) {
        (Role::Shape, _) => None,
        // What comes through is drawn by itself.
        (Role::Unit, _) if !on_face || cut.opening.feature != crate::recipe::schools::Feature::Opening => None,
        (Role::Unit, _) => Some(FLANGE),
        // A faced panel is the sheathing.
        (Role::Barrier, "panel") => None,
        (Role::Barrier | Role::Cover, "board") => Some(cut.figure(fig::INSULATION_THICK)),
        _ => Some(SHEET),
    }
}

/// Stretches of one piece that follow each other become one line.
fn join(cut: &SectionCut, laid: Vec<LaidHere>, out: &mut Built) {
    let mut runs: Vec<(PieceId, SectionRun)> = Vec::new();
    for l in laid {
        let follows = |r: &&mut (PieceId, SectionRun)| {
            r.0 == l.piece
                && (r.1.thick - l.thick).abs() < 1e-9
                && r.1.line.last().is_some_and(|p| (p[0] - l.from[0]).hypot(p[1] - l.from[1]) < JOINED)
        };
        if let Some((_, run)) = runs.iter_mut().rev().find(follows) {
            run.line.extend([l.from, l.to]);
            continue;
        }
        let p = &cut.plan.pieces[l.piece];
        let run = SectionRun {
            piece: p.id.clone(),
            step: cut.step_of(&p.id),
            name: p.name.clone(),
            role: p.role,
            letter: p.letter.clone(),
            line: vec![l.from, l.to],
            thick: l.thick,
        };
        runs.push((l.piece, run));
    }
    out.runs = runs.into_iter().map(|(_, r)| r).collect();
}

/// How far one piece laps over another along the face: upper piece, lower piece, from where to where along the leg.
pub(super) struct Lap {
    pub upper: PieceId,
    pub lower: PieceId,
    pub over: Interval,
}

/// Where the lower edge of one sheet lies over the upper edge of the one below it.
pub(super) fn laps(cut: &SectionCut, legs: &[Leg]) -> Vec<Lap> {
    let mut out = Vec::new();
    for leg in on_face(legs).filter(|l| l.fixed.1) {
        let here: Vec<(usize, PieceId, Interval)> = cut
            .moment
            .stage
            .layers
            .iter()
            .enumerate()
            .filter(|(_, l)| {
                l.on == leg.on && !cut.plan.pieces[l.piece].role.is_outside() && !cut.plan.pieces[l.piece].solid
            })
            .filter_map(|(n, l)| Some((n, l.piece, leg.passes(l.rect)?)))
            .collect();
        let spans = |piece: PieceId| here.iter().filter(move |h| h.1 == piece).map(|h| h.2);
        let whole = |piece: PieceId| {
            let (lo, hi) = (spans(piece).map(|i| i.lo).min()?, spans(piece).map(|i| i.hi).max()?);
            Some(Interval { lo, hi })
        };
        for (n, upper, _) in &here {
            for (m, lower, _) in here.iter().filter(|(m, p, _)| m < n && p != upper) {
                let (Some(u), Some(l)) = (whole(*upper), whole(*lower)) else { continue };
                let over = Interval { lo: u.lo, hi: l.hi };
                let shingled = l.lo < u.lo && u.lo < l.hi && l.hi < u.hi;
                let seen = out.iter().any(|o: &Lap| o.upper == *upper && o.lower == *lower);
                if shingled && !seen && over.hi - over.lo > Length::ZERO && m < n {
                    out.push(Lap { upper: *upper, lower: *lower, over });
                }
            }
        }
    }
    out
}
