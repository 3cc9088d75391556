//! A cut through the wall at an opening: the same stack from the side, drawn apart so that each gap can be seen.

use super::ask::{SectionAsk, SectionKind, Weather};
use super::built::Built;
use super::cut::{GapView, Leg, corner_near, gap_state, legs, part_for, stretch, water_of};
use crate::findings::{Moment, WallPart};
use crate::layup::Glue;
use crate::length::Length;
use crate::plan::{Plan, SurfaceId};
use crate::recipe::Role;
use crate::sequence::Laid;
use crate::surface::{FacetId, Interval};
use crate::trade::PieceId;
use crate::water::{CellId, Spread};
use serde::Serialize;
use std::sync::Arc;

/// One sheet in the section, in one leg.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SectionBand {
    /// Id of the piece.
    pub piece: String,
    /// What people call it.
    pub name: String,
    /// What the piece is there for.
    pub role: Role,
    /// Letter by which the drawing names it.
    pub letter: String,
    /// Its middle line.
    pub line: Vec<[f64; 2]>,
    /// How thick it is drawn.
    pub thick: f64,
}

/// A section.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Section {
    /// Where the section is cut.
    pub kind: SectionKind,
    /// Id of the opening.
    pub opening: String,
    /// The cut line on the elevation: x1, y1, x2, y2.
    pub cut: [f64; 4],
    /// Where it is, as people read it.
    pub at: String,
    /// Left, top, width, height of the drawing.
    pub frame: [f64; 4],
    /// Outline of framing and sheathing.
    pub solid: Vec<[f64; 2]>,
    /// Sheets, from inside to outside.
    pub bands: Vec<SectionBand>,
    /// Gaps.
    pub gaps: Vec<GapView>,
    /// The same as it is built.
    pub built: Option<Built>,
}

/// How much of the wall beside the opening is shown, in.
const REACH: i64 = 7;
/// Drawn thickness of a sheet, and of a solid thing.
const SHEET: f64 = 0.34;
const SOLID: f64 = 1.1;
/// Drawn thickness of what keeps the cladding off.
const FURRING: f64 = 0.75;
/// Drawn width of an open gap and of a closed one.
const OPEN: f64 = 0.5;
const CLOSED: f64 = 0.14;

/// Ends of one sheet that are nearer than this are joined by a line, in.
const JOINED: f64 = 6.0;

/// Where a sheet runs in one cell of a leg.
struct SectionPiece {
    piece: PieceId,
    from: [f64; 2],
    to: [f64; 2],
    thick: f64,
}

/// Cuts a moment.
pub fn cut(plan: &Plan, moment: &Moment, weather: Weather, ask: &SectionAsk) -> Option<Section> {
    let opening = plan.openings.get(ask.opening)?;
    // What a feature has not is cut by what it has first.
    let kinds = SectionKind::of(opening.feature, !plan.walls.corners.is_empty());
    let kind = if kinds.contains(&ask.kind) { ask.kind } else { kinds[0] };
    let ask = &SectionAsk { kind, ..*ask };
    let share = ask.share();
    let r = opening.rect;
    let part = |span: Length| Length::from_units((span.units() as f64 * share) as i64);
    let height = plan.surfaces[SurfaceId::WALL].facet.height;
    let (legs, solid, frame) = legs(plan, ask, r, part(r.width()), part(r.height()), Length::inch(REACH));
    let (u, v) = (r.u0 + part(r.width()), r.v0 + part(r.height()));
    let reach = Length::inch(REACH);
    let line = match ask.kind {
        SectionKind::Sill => [u, height - (r.v0 + reach), u, height - (r.v0 - reach)],
        SectionKind::Head => [u, height - (r.v1 + reach), u, height - (r.v1 - reach)],
        SectionKind::Jamb => [r.u0 - reach, height - v, r.u0 + reach, height - v],
        SectionKind::Corner => {
            let corner = corner_near(plan, r.along_u())?;
            [corner.at - reach, height - v, corner.at + reach, height - v]
        }
        SectionKind::Through | SectionKind::Base | SectionKind::Top => {
            let (along, _) = stretch(plan, ask, u, reach)?;
            [u, height - along.hi, u, height - along.lo]
        }
    };
    let at = match ask.kind {
        SectionKind::Jamb => format!("{} above the sill", part(r.height())),
        SectionKind::Corner => format!("{v} above the foot of the wall"),
        _ => format!("{} from the left jamb", part(r.width())),
    };
    let mut out = Section {
        kind: ask.kind,
        opening: opening.id.clone(),
        cut: line.map(Length::to_inches_f64),
        at,
        frame,
        solid,
        bands: Vec::new(),
        gaps: Vec::new(),
        built: super::built::build(plan, moment, weather, ask),
    };
    let mut runs: Vec<SectionPiece> = Vec::new();
    for leg in &legs {
        let part = part_for(plan, moment, ask, leg);
        let water = water_of(part, weather);
        let off = leg_stack(plan, (moment, part), leg, water.as_ref(), &mut runs, &mut out.gaps);
        if leg.on == SurfaceId::WALL {
            let proud = in_gap(plan, moment, leg, off, &mut runs);
            out.frame = with_room(out.frame, ask.kind, proud);
        }
    }
    out.bands = join(plan, runs);
    Some(out)
}

/// A frame that shows what stands so far outside the wall.
fn with_room([x, y, width, height]: [f64; 4], kind: SectionKind, proud: f64) -> [f64; 4] {
    match kind {
        SectionKind::Jamb | SectionKind::Corner => [x, y, width, height.max(proud + OPEN - y)],
        _ => {
            let left = x.min(-proud - OPEN);
            [left, y, width + x - left, height]
        }
    }
}

/// What stands in the gap behind the cladding, in one plane outside everything that sheds; one over the other where they overlap. How far out
/// that comes.
fn in_gap(plan: &Plan, moment: &Moment, leg: &Leg, off: f64, runs: &mut Vec<SectionPiece>) -> f64 {
    let mut stood: Vec<(Interval, f64)> = Vec::new();
    let stands = |l: &&Laid| l.on == leg.on && plan.pieces[l.piece].role.is_outside();
    for l in moment.stage.layers.iter().filter(stands) {
        let Some(span) = leg.passes(l.rect) else { continue };
        let thick = if plan.pieces[l.piece].role == Role::Furring { FURRING } else { SHEET };
        let behind = stood.iter().filter(|(other, _)| other.overlap(span).is_some());
        let from = behind.map(|(_, out)| *out).fold(off, f64::max) + OPEN;
        runs.push(SectionPiece {
            piece: l.piece,
            from: leg.point(span.lo, from + thick / 2.0),
            to: leg.point(span.hi, from + thick / 2.0),
            thick,
        });
        stood.push((span, from + thick));
    }
    stood.into_iter().map(|(_, out)| out).fold(off, f64::max)
}

/// The stack of every cell that a leg passes, drawn outward from the surface; how far out it comes.
fn leg_stack(
    plan: &Plan,
    (moment, part): (&Moment, &WallPart),
    leg: &Leg,
    water: Option<&(Arc<Spread>, Glue)>,
    runs: &mut Vec<SectionPiece>,
    gaps: &mut Vec<GapView>,
) -> f64 {
    let mut farthest: f64 = 0.0;
    let Some(facet) = part.surfaces.iter().position(|s| *s == leg.on).map(FacetId) else { return farthest };
    let a = &*part.arrangement();
    let mut cells: Vec<(Interval, CellId)> =
        a.cells_of(facet).filter_map(|id| leg.passes(a.cell(id).rect).map(|i| (i, id))).collect();
    cells.sort_by_key(|(i, _)| i.lo);
    let point = |at: Length, off: f64| leg.point(at, off);
    for (span, id) in cells {
        let mut off = 0.0;
        for (gap, layer) in a.stack(id).iter().enumerate() {
            let piece = part.pieces[layer.sheet.0];
            let (closed, state, head) = gap_state((plan, moment, a), (id, gap, piece), (leg, span), water);
            let width = if closed { CLOSED } else { OPEN };
            let middle = off + width / 2.0;
            gaps.push(GapView { line: [point(span.lo, middle), point(span.hi, middle)], state, head });
            let thick = if plan.pieces[piece].solid { SOLID } else { SHEET };
            off += width + thick / 2.0;
            runs.push(SectionPiece { piece, from: point(span.lo, off), to: point(span.hi, off), thick });
            off += thick / 2.0;
        }
        farthest = farthest.max(off);
    }
    farthest
}

/// Stretches of one sheet that follow each other closely become one line.
fn join(plan: &Plan, runs: Vec<SectionPiece>) -> Vec<SectionBand> {
    let mut out: Vec<(PieceId, SectionBand)> = Vec::new();
    for run in runs {
        // Parts that are laid out each for itself stay apart: battens, boards.
        let one = plan.pieces[run.piece].laying.is_none();
        let near = |b: &&mut (PieceId, SectionBand)| {
            one && b.0 == run.piece
                && b.1.line.last().is_some_and(|p| (p[0] - run.from[0]).hypot(p[1] - run.from[1]) < JOINED)
        };
        if let Some((_, band)) = out.iter_mut().rev().find(near) {
            band.line.extend([run.from, run.to]);
            continue;
        }
        let p = &plan.pieces[run.piece];
        let band = SectionBand {
            piece: p.id.clone(),
            name: p.name.clone(),
            role: p.role,
            letter: p.letter.clone(),
            line: vec![run.from, run.to],
            thick: run.thick,
        };
        out.push((run.piece, band));
    }
    out.into_iter().map(|(_, b)| b).collect()
}
