//! A cut through the wall at an opening: the same stack from the side, drawn apart so that each gap can be seen.

use super::Weather;
use super::built::Built;
use crate::findings::{Moment, Part};
use crate::layup::{Bond, Glue};
use crate::length::{Head, Length};
use crate::plan::{Plan, SurfaceId};
use crate::profile::fig;
use crate::recipe::Role;
use crate::sequence::{Laid, RAIN, RAIN_NO_GLUE};
use crate::surface::{FacetId, Interval, Rect};
use crate::water::{CellId, Spread};
use serde::{Deserialize, Serialize};

/// Which part of the opening is cut.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum SectionKind {
    /// Upright cut through the sill.
    Sill,
    /// Upright cut through the head.
    Head,
    /// Level cut through the left jamb.
    Jamb,
    /// Upright cut through whatever it is and the wall round it: a pipe, a deck, a belt course.
    Through,
    /// Upright cut through the foot of the wall.
    Base,
    /// Upright cut through the top of the wall.
    Top,
}

impl SectionKind {
    /// Those by which a feature is cut.
    pub fn of(feature: crate::recipe::schools::Feature) -> &'static [Self] {
        match feature {
            crate::recipe::schools::Feature::Opening => &[Self::Sill, Self::Head, Self::Jamb, Self::Base, Self::Top],
            _ => &[Self::Through, Self::Base, Self::Top],
        }
    }

    /// The cut is level; else it is upright.
    pub fn is_level(self) -> bool {
        self == Self::Jamb
    }
}

/// Along the cut of a wall without an opening: from where to where, and the height that is nought in the drawing.
pub(super) fn stretch(plan: &Plan, ask: &SectionAsk, u: Length, reach: Length) -> Option<(Interval, Length)> {
    let (r, wall) = (plan.openings.get(ask.opening)?.rect, plan.surfaces[0].facet.rect());
    let here = Interval { lo: u, hi: u + Length::from_units(1) };
    let top = plan.outline.most_over(here).min(wall.v1);
    match ask.kind {
        SectionKind::Base => {
            let hi = (wall.v0 + reach).min(top);
            Some((Interval { lo: wall.v0, hi }, hi))
        }
        SectionKind::Top => {
            let lo = (top - reach).max(wall.v0);
            Some((Interval { lo, hi: top }, lo))
        }
        SectionKind::Through => {
            let middle = Length::from_units((r.v0.units() + r.v1.units()) / 2);
            Some((Interval { lo: (r.v0 - reach).max(wall.v0), hi: (r.v1 + reach).min(top) }, middle))
        }
        SectionKind::Sill | SectionKind::Head | SectionKind::Jamb => None,
    }
}

/// Which section is asked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SectionAsk {
    /// At which opening.
    pub opening: usize,
    /// Through what.
    pub kind: SectionKind,
    /// Where, as a share of the opening's width (sill, head) or height (jamb), 0 to 1.
    pub at: f64,
}

impl SectionAsk {
    /// Where it is cut, inside the opening.
    pub(super) fn share(&self) -> f64 {
        if self.at.is_finite() { self.at.clamp(0.02, 0.98) } else { 0.5 }
    }
}

/// Whether water can be in a gap.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum GapState {
    /// Open.
    Open,
    /// Closed by adhesive.
    Glued,
    /// Closed by a bead or smear.
    Sealed,
    /// A coat or factory facing: nothing behind it.
    Cured,
}

/// One sheet in the section, in one leg.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Band {
    /// Id of the piece.
    pub piece: String,
    /// What people call it.
    pub name: String,
    /// What it does.
    pub role: Role,
    /// Letter.
    pub letter: String,
    /// Its middle line.
    pub line: Vec<[f64; 2]>,
    /// How thick it is drawn.
    pub thick: f64,
}

/// A gap directly behind a sheet.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct GapView {
    /// Its line.
    pub line: [[f64; 2]; 2],
    /// Whether water can be in it.
    pub state: GapState,
    /// The least head at which water is in it, where weather is shown and it is below the least head asked for.
    pub head: Option<f64>,
}

/// A section.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Section {
    /// Which.
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
    pub bands: Vec<Band>,
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

/// One straight leg of the cut: a stretch of a surface and how it lies in the drawing.
pub(super) struct Leg {
    pub(super) on: SurfaceId,
    /// The coordinate that stays, and whether it is `u`.
    pub(super) fixed: (Length, bool),
    pub(super) span: Interval,
    /// Drawing position of the start, direction along, direction out.
    origin: [f64; 2],
    along: [f64; 2],
    out: [f64; 2],
}

impl Leg {
    /// The stretch along which a rectangle of its surface is passed.
    pub(super) fn passes(&self, r: Rect) -> Option<Interval> {
        let (across, along) = if self.fixed.1 { (r.along_u(), r.along_v()) } else { (r.along_v(), r.along_u()) };
        let hit = across.lo <= self.fixed.0 && self.fixed.0 < across.hi;
        hit.then(|| along.overlap(self.span)).flatten()
    }

    /// A place on the drawing, so far along and so far out.
    pub(super) fn point(&self, at: Length, off: f64) -> [f64; 2] {
        let t = (at - self.span.lo).to_inches_f64();
        [0, 1].map(|k| self.origin[k] + self.along[k] * t + self.out[k] * off)
    }
}

/// Where a sheet runs in one cell of a leg.
struct Piece {
    piece: usize,
    from: [f64; 2],
    to: [f64; 2],
    thick: f64,
}

/// Cuts a moment.
pub fn cut(plan: &Plan, moment: &Moment, weather: Weather, ask: &SectionAsk) -> Option<Section> {
    let opening = plan.openings.get(ask.opening)?;
    // What a feature has not is cut by what it has first.
    let kinds = SectionKind::of(opening.feature);
    let kind = if kinds.contains(&ask.kind) { ask.kind } else { kinds[0] };
    let ask = &SectionAsk { kind, ..*ask };
    let share = ask.share();
    let r = opening.rect;
    let part = |span: Length| Length::from_units((span.units() as f64 * share) as i64);
    let height = plan.surfaces[0].facet.height;
    let (legs, solid, frame) = legs(plan, ask, r, part(r.width()), part(r.height()), Length::inch(REACH));
    let (u, v) = (r.u0 + part(r.width()), r.v0 + part(r.height()));
    let reach = Length::inch(REACH);
    let line = match ask.kind {
        SectionKind::Sill => [u, height - (r.v0 + reach), u, height - (r.v0 - reach)],
        SectionKind::Head => [u, height - (r.v1 + reach), u, height - (r.v1 - reach)],
        SectionKind::Jamb => [r.u0 - reach, height - v, r.u0 + reach, height - v],
        SectionKind::Through | SectionKind::Base | SectionKind::Top => {
            let (along, _) = stretch(plan, ask, u, reach)?;
            [u, height - along.hi, u, height - along.lo]
        }
    };
    let at = match ask.kind {
        SectionKind::Jamb => format!("{} above the sill", part(r.height())),
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
    let water = match weather {
        Weather::Dry => None,
        Weather::Rain => Some((RAIN, Glue::Holds)),
        Weather::Lost => Some((RAIN_NO_GLUE, Glue::Lost)),
    };
    let part = moment.part_of(plan, ask.opening);
    let water = water.and_then(|(id, glue)| Some((&part.answer().spreads[part.scenario(id)?], glue)));
    let mut runs: Vec<Piece> = Vec::new();
    for leg in &legs {
        let off = leg_stack(plan, (moment, part), leg, water, &mut runs, &mut out.gaps);
        if leg.on == SurfaceId::WALL {
            let proud = in_gap(plan, moment, leg, off, &mut runs);
            out.frame = with_room(out.frame, ask.kind, proud);
        }
    }
    out.bands = join(plan, runs);
    Some(out)
}

/// The legs of a cut, the framing they lie on, and the frame of the drawing.
pub(super) fn legs(
    plan: &Plan,
    ask: &SectionAsk,
    r: Rect,
    du: Length,
    dv: Length,
    reach: Length,
) -> (Vec<Leg>, Vec<[f64; 2]>, [f64; 4]) {
    if let Some((along, zero)) = stretch(plan, ask, r.u0 + du, reach) {
        let at = |v: Length| (zero - v).to_inches_f64();
        // At the foot distances run down, elsewhere up; the drawing is upright either way.
        let leg = Leg {
            on: SurfaceId::WALL,
            fixed: (r.u0 + du, true),
            span: along,
            origin: [0.0, at(along.lo)],
            along: [0.0, -1.0],
            out: [-1.0, 0.0],
        };
        let depth = plan.figures.length(fig::STUD_DEPTH).to_inches_f64();
        let solid = vec![[0.0, at(along.hi)], [depth, at(along.hi)], [depth, at(along.lo)], [0.0, at(along.lo)]];
        let frame = [-4.5, at(along.hi) - 1.0, depth + 6.5, at(along.lo) - at(along.hi) + 2.0];
        return (vec![leg], solid, frame);
    }
    let find = |name: &str| {
        let of =
            |s: &crate::plan::Surface| s.opening == Some(ask.opening) && s.facet.id.rsplit('/').next() == Some(name);
        plan.surfaces.iter().position(of).map(SurfaceId)
    };
    let size = |s: Option<SurfaceId>| {
        s.map_or((Length::ZERO, Length::ZERO), |s| (plan.surfaces[s.0].facet.width, plan.surfaces[s.0].facet.height))
    };
    let inches = Length::to_inches_f64;
    let far = reach.to_inches_f64();
    let whole = |hi: Length| Interval { lo: Length::ZERO, hi };
    let leg = |on, fixed, span, origin, along, out| Leg { on, fixed, span, origin, along, out };
    let mut legs = Vec::new();
    match ask.kind {
        SectionKind::Sill => {
            let (out, sill, dam) = (find("sill-out"), find("sill"), find("dam"));
            let (deep, depth, dam_height) = (inches(size(out).1), inches(size(sill).1), inches(size(dam).1));
            let depth = deep + depth;
            let fall = (plan.figures.number(fig::SILL_SLOPE) / 100.0).atan();
            let low = (r.v0 - reach).max(Length::ZERO);
            legs.push(leg(
                SurfaceId::WALL,
                (r.u0 + du, true),
                Interval { lo: low, hi: r.v0 },
                [0.0, inches(r.v0 - low)],
                [0.0, -1.0],
                [-1.0, 0.0],
            ));
            let (c, s) = (fall.cos(), fall.sin());
            let turn = |at: f64| [at * c, -at * s];
            legs.extend(out.map(|on| leg(on, (du, true), whole(size(out).1), turn(0.0), [c, -s], [-s, -c])));
            legs.extend(sill.map(|on| leg(on, (du, true), whole(size(sill).1), turn(deep), [c, -s], [-s, -c])));
            let back = turn(depth);
            legs.extend(dam.map(|on| leg(on, (du, true), whole(size(dam).1), back, [0.0, -1.0], [-1.0, 0.0])));
            let solid = vec![
                [0.0, far],
                [0.0, 0.0],
                back,
                [back[0], back[1] - dam_height],
                [back[0] + 0.8, back[1] - dam_height],
                [back[0] + 0.8, far],
            ];
            (legs, solid, [-4.5, -5.5, depth + 6.5, far + 5.5])
        }
        SectionKind::Head => {
            let (out, head) = (find("head-out"), find("head"));
            let deep = inches(size(out).1);
            let depth = deep + inches(size(head).1);
            legs.extend(head.map(|on| leg(on, (du, true), whole(size(head).1), [depth, 0.0], [-1.0, 0.0], [0.0, 1.0])));
            legs.extend(out.map(|on| leg(on, (du, true), whole(size(out).1), [deep, 0.0], [-1.0, 0.0], [0.0, 1.0])));
            let top = (r.v1 + reach).min(plan.surfaces[0].facet.height);
            legs.push(leg(
                SurfaceId::WALL,
                (r.u0 + du, true),
                Interval { lo: r.v1, hi: top },
                [0.0, 0.0],
                [0.0, -1.0],
                [-1.0, 0.0],
            ));
            let solid = vec![[0.0, -far], [0.0, 0.0], [depth, 0.0], [depth, -far]];
            (legs, solid, [-5.5, -far, depth + 7.5, far + 3.5])
        }
        SectionKind::Jamb => {
            let (out, jamb) = (find("jamb-left-out"), find("jamb-left"));
            let deep = inches(size(out).0);
            let depth = deep + inches(size(jamb).0);
            let low = (r.u0 - reach).max(Length::ZERO);
            legs.push(leg(
                SurfaceId::WALL,
                (r.v0 + dv, false),
                Interval { lo: low, hi: r.u0 },
                [-inches(r.u0 - low), 0.0],
                [1.0, 0.0],
                [0.0, 1.0],
            ));
            legs.extend(out.map(|on| leg(on, (dv, false), whole(size(out).0), [0.0, 0.0], [0.0, -1.0], [1.0, 0.0])));
            legs.extend(
                jamb.map(|on| leg(on, (dv, false), whole(size(jamb).0), [0.0, -deep], [0.0, -1.0], [1.0, 0.0])),
            );
            let solid = vec![[-far, 0.0], [0.0, 0.0], [0.0, -depth], [-far, -depth]];
            (legs, solid, [-far, -depth, far + 6.0, depth + 5.0])
        }
        SectionKind::Through | SectionKind::Base | SectionKind::Top => (legs, Vec::new(), [0.0; 4]),
    }
}

/// A frame that shows what stands so far outside the wall.
fn with_room([x, y, width, height]: [f64; 4], kind: SectionKind, proud: f64) -> [f64; 4] {
    match kind {
        SectionKind::Jamb => [x, y, width, height.max(proud + OPEN - y)],
        _ => {
            let left = x.min(-proud - OPEN);
            [left, y, width + x - left, height]
        }
    }
}

/// What stands in the gap behind the cladding, in one plane outside everything that sheds; one over the other where they overlap. How far out
/// that comes.
fn in_gap(plan: &Plan, moment: &Moment, leg: &Leg, off: f64, runs: &mut Vec<Piece>) -> f64 {
    let mut stood: Vec<(Interval, f64)> = Vec::new();
    let stands = |l: &&Laid| l.on == leg.on && plan.pieces[l.piece].role.is_in_gap();
    for l in moment.stage.layers.iter().filter(stands) {
        let Some(span) = leg.passes(l.rect) else { continue };
        let thick = if plan.pieces[l.piece].role == Role::Furring { FURRING } else { SHEET };
        let behind = stood.iter().filter(|(other, _)| other.overlap(span).is_some());
        let from = behind.map(|(_, out)| *out).fold(off, f64::max) + OPEN;
        runs.push(Piece {
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
    (moment, part): (&Moment, &Part),
    leg: &Leg,
    water: Option<(&Spread, Glue)>,
    runs: &mut Vec<Piece>,
    gaps: &mut Vec<GapView>,
) -> f64 {
    let mut farthest: f64 = 0.0;
    let Some(facet) = part.surfaces.iter().position(|s| *s == leg.on).map(FacetId) else { return farthest };
    let a = part.arrangement();
    let mut cells: Vec<(Interval, CellId)> =
        a.cells_of(facet).filter_map(|id| leg.passes(a.cell(id).rect).map(|i| (i, id))).collect();
    cells.sort_by_key(|(i, _)| i.lo);
    let point = |at: Length, off: f64| leg.point(at, off);
    for (span, id) in cells {
        let mut off = 0.0;
        for (gap, layer) in a.stack(id).iter().enumerate() {
            let piece = part.pieces[layer.sheet.0];
            let glue = water.map_or(Glue::Holds, |(_, g)| g);
            let closed = a.is_closed(id, gap, glue);
            let state = match moment.stage.bond(piece) {
                _ if !closed => GapState::Open,
                Bond::Cured => GapState::Cured,
                Bond::Full => GapState::Glued,
                Bond::None => GapState::Sealed,
            };
            let width = if closed { CLOSED } else { OPEN };
            let middle = off + width / 2.0;
            let head = water
                .and_then(|(spread, _)| spread.least(a, id, gap, part_of(a.cell(id).rect, leg, span)))
                .map(|(e, ..)| Head::from_units(e).inches());
            let floor = plan.floor(glue == Glue::Lost).to_inches_f64();
            gaps.push(GapView {
                line: [point(span.lo, middle), point(span.hi, middle)],
                state,
                head: head.filter(|h| *h < floor),
            });
            let thick = if plan.pieces[piece].solid { SOLID } else { SHEET };
            off += width + thick / 2.0;
            runs.push(Piece { piece, from: point(span.lo, off), to: point(span.hi, off), thick });
            off += thick / 2.0;
        }
        farthest = farthest.max(off);
    }
    farthest
}

/// The part of a cell that a leg passes: a strip as long as the stretch.
pub(super) fn part_of(cell: Rect, leg: &Leg, span: Interval) -> Rect {
    if leg.fixed.1 { Rect { v0: span.lo, v1: span.hi, ..cell } } else { Rect { u0: span.lo, u1: span.hi, ..cell } }
}

/// Stretches of one sheet that follow each other closely become one line.
fn join(plan: &Plan, runs: Vec<Piece>) -> Vec<Band> {
    let mut out: Vec<(usize, Band)> = Vec::new();
    for run in runs {
        // Parts that are laid out each for itself stay apart: battens, boards.
        let one = plan.pieces[run.piece].laying.is_none();
        let near = |b: &&mut (usize, Band)| {
            one && b.0 == run.piece
                && b.1.line.last().is_some_and(|p| (p[0] - run.from[0]).hypot(p[1] - run.from[1]) < JOINED)
        };
        if let Some((_, band)) = out.iter_mut().rev().find(near) {
            band.line.extend([run.from, run.to]);
            continue;
        }
        let p = &plan.pieces[run.piece];
        let band = Band {
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
