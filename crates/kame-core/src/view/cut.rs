//! A cut through the wall: which, along which surfaces, and the gaps it meets. Both pictures of it are drawn from here.

use super::ask::{SectionAsk, SectionKind, Weather};
use crate::findings::{Moment, WallPart};
use crate::job::{CornerKind, CornerSpec};
use crate::layup::{Bond, Glue};
use crate::length::{Head, Length};
use crate::plan::{Plan, SurfaceId};
use crate::profile::fig;
use crate::sequence::{RAIN, RAIN_NO_GLUE};
use crate::surface::{Interval, Rect};
use crate::trade::PieceId;
use crate::water::{Arrangement, CellId, Spread};
use serde::Serialize;
use std::sync::Arc;

/// Along the cut of a wall without an opening: from where to where, and the height that is nought in the drawing.
pub(super) fn stretch(plan: &Plan, ask: &SectionAsk, u: Length, reach: Length) -> Option<(Interval, Length)> {
    let (r, wall) = (plan.openings.get(ask.opening)?.rect, plan.surfaces[SurfaceId::WALL].facet.rect());
    let here = Interval { lo: u, hi: u + Length::from_units(1) };
    let top = plan.walls.outline.most_over(here).min(wall.v1);
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
        SectionKind::Sill | SectionKind::Head | SectionKind::Jamb | SectionKind::Corner => None,
    }
}

/// The corner of the walls that is nearest to a place along them.
pub(super) fn corner_near(plan: &Plan, along: Interval) -> Option<&CornerSpec> {
    plan.walls.corners.iter().min_by_key(|c| (along.lo + along.hi - c.at - c.at).units().abs())
}

/// Where the sheets of two walls meet, so far out from both: right and down in a drawing in which the left wall runs to the right and ends at nought.
pub(super) fn mitre(corner: &CornerSpec) -> [f64; 2] {
    match corner.kind {
        CornerKind::Outside => [1.0, 1.0],
        CornerKind::Inside => [-1.0, 1.0],
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
    /// Where it goes on round a corner, and the direction out there.
    mitre: Option<(Length, [f64; 2])>,
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
        let out = self.mitre.filter(|(corner, _)| *corner == at).map_or(self.out, |(_, out)| out);
        [0, 1].map(|k| self.origin[k] + self.along[k] * t + out[k] * off)
    }
}

/// The legs of a cut, the framing they lie on, and the frame of the drawing.
type Legs = (Vec<Leg>, Vec<[f64; 2]>, [f64; 4]);

/// The legs of a cut at a place on or round a rectangle, `du` and `dv` from its lower left corner, as far as `reach` beyond it.
pub(super) fn legs(plan: &Plan, ask: &SectionAsk, r: Rect, du: Length, dv: Length, reach: Length) -> Legs {
    let at = CutOpening { plan, opening: ask.opening, r, du, dv, reach };
    if let Some((along, zero)) = stretch(plan, ask, r.u0 + du, reach) {
        let (mut legs, solid, frame) = leg_up_the_wall(plan, along, zero, r.u0 + du);
        if ask.kind == SectionKind::Through {
            legs.extend(at.along_the_thing(zero));
        }
        return (legs, solid, frame);
    }
    match ask.kind {
        SectionKind::Sill => at.sill(),
        SectionKind::Head => at.head(),
        SectionKind::Jamb => at.jamb(),
        SectionKind::Corner => at.corner().unwrap_or_default(),
        SectionKind::Through | SectionKind::Base | SectionKind::Top => (Vec::new(), Vec::new(), [0.0; 4]),
    }
}

/// One leg up the wall at `u`. At the foot distances run down, elsewhere up; the drawing is upright either way.
fn leg_up_the_wall(plan: &Plan, along: Interval, zero: Length, u: Length) -> Legs {
    let at = |v: Length| (zero - v).to_inches_f64();
    let leg = Leg {
        on: SurfaceId::WALL,
        fixed: (u, true),
        span: along,
        origin: [0.0, at(along.lo)],
        along: [0.0, -1.0],
        out: [-1.0, 0.0],
        mitre: None,
    };
    let depth = plan.basis.figures.length(fig::STUD_DEPTH).to_inches_f64();
    let solid = vec![[0.0, at(along.hi)], [depth, at(along.hi)], [depth, at(along.lo)], [0.0, at(along.lo)]];
    let frame = [-4.5, at(along.hi) - 1.0, depth + 6.5, at(along.lo) - at(along.hi) + 2.0];
    (vec![leg], solid, frame)
}

/// Where an opening is cut.
struct CutOpening<'a> {
    plan: &'a Plan,
    opening: usize,
    /// The opening on the wall.
    r: Rect,
    /// How far from its left edge, and from its sill.
    du: Length,
    dv: Length,
    /// How far beyond it.
    reach: Length,
}

impl CutOpening<'_> {
    /// A surface of the opening by its name, with its width and height; none of either where it is not there.
    fn find(&self, name: &str) -> (Option<SurfaceId>, Length, Length) {
        let of = |s: &crate::plan::Surface| s.opening == Some(self.opening) && s.name == name;
        let on = self.plan.surfaces.position(of);
        let facet = on.map(|s| &self.plan.surfaces[s].facet);
        (on, facet.map_or(Length::ZERO, |f| f.width), facet.map_or(Length::ZERO, |f| f.height))
    }

    /// A leg up the wall's face.
    fn on_face(&self, span: Interval, origin: [f64; 2]) -> Leg {
        let fixed = (self.r.u0 + self.du, true);
        Leg { on: SurfaceId::WALL, fixed, span, origin, along: [0.0, -1.0], out: [-1.0, 0.0], mitre: None }
    }

    /// A leg over all of a return, so far from its left or lower end.
    fn on_return(
        &self,
        (on, upright): (SurfaceId, bool),
        long: Length,
        origin: [f64; 2],
        along: [f64; 2],
        out: [f64; 2],
    ) -> Leg {
        let fixed = if upright { (self.du, true) } else { (self.dv, false) };
        Leg { on, fixed, span: Interval { lo: Length::ZERO, hi: long }, origin, along, out, mitre: None }
    }

    /// The legs above and below what comes through, clear of what lies on the wall.
    fn along_the_thing(&self, zero: Length) -> impl Iterator<Item = Leg> {
        let at = |v: Length| (zero - v).to_inches_f64();
        let ((top, _, proud), (bottom, ..)) = (self.find("along-top"), self.find("along-bottom"));
        let clear = Length::inch_fraction(1, 2).min(proud);
        let from = clear.to_inches_f64();
        let fixed = (self.du, true);
        let above = top.map(|on| {
            let span = Interval { lo: clear, hi: proud };
            Leg { on, fixed, span, origin: [-from, at(self.r.v1)], along: [-1.0, 0.0], out: [0.0, -1.0], mitre: None }
        });
        let below = bottom.map(|on| {
            let span = Interval { lo: Length::ZERO, hi: proud - clear };
            let origin = [-proud.to_inches_f64(), at(self.r.v0)];
            Leg { on, fixed, span, origin, along: [1.0, 0.0], out: [0.0, 1.0], mitre: None }
        });
        above.into_iter().chain(below)
    }

    fn sill(&self) -> Legs {
        let ((out, _, out_deep), (sill, _, sill_deep), (dam, _, dam_height)) =
            (self.find("sill-out"), self.find("sill"), self.find("dam"));
        let far = self.reach.to_inches_f64();
        let (deep, high) = (out_deep.to_inches_f64(), dam_height.to_inches_f64());
        let depth = deep + sill_deep.to_inches_f64();
        let fall = (self.plan.basis.figures.number(fig::SILL_SLOPE) / 100.0).atan();
        let low = (self.r.v0 - self.reach).max(Length::ZERO);
        let below = Interval { lo: low, hi: self.r.v0 };
        let mut legs = vec![self.on_face(below, [0.0, (self.r.v0 - low).to_inches_f64()])];
        let (c, s) = (fall.cos(), fall.sin());
        let turn = |at: f64| [at * c, -at * s];
        let back = turn(depth);
        legs.extend(out.map(|on| self.on_return((on, true), out_deep, turn(0.0), [c, -s], [-s, -c])));
        legs.extend(sill.map(|on| self.on_return((on, true), sill_deep, turn(deep), [c, -s], [-s, -c])));
        legs.extend(dam.map(|on| self.on_return((on, true), dam_height, back, [0.0, -1.0], [-1.0, 0.0])));
        let solid = vec![
            [0.0, far],
            [0.0, 0.0],
            back,
            [back[0], back[1] - high],
            [back[0] + 0.8, back[1] - high],
            [back[0] + 0.8, far],
        ];
        (legs, solid, [-4.5, -5.5, depth + 6.5, far + 5.5])
    }

    fn head(&self) -> Legs {
        let ((out, _, out_deep), (head, _, head_deep)) = (self.find("head-out"), self.find("head"));
        let (deep, far) = (out_deep.to_inches_f64(), self.reach.to_inches_f64());
        let depth = deep + head_deep.to_inches_f64();
        let mut legs = Vec::new();
        legs.extend(head.map(|on| self.on_return((on, true), head_deep, [depth, 0.0], [-1.0, 0.0], [0.0, 1.0])));
        legs.extend(out.map(|on| self.on_return((on, true), out_deep, [deep, 0.0], [-1.0, 0.0], [0.0, 1.0])));
        let top = (self.r.v1 + self.reach).min(self.plan.surfaces[SurfaceId::WALL].facet.height);
        legs.push(self.on_face(Interval { lo: self.r.v1, hi: top }, [0.0, 0.0]));
        let solid = vec![[0.0, -far], [0.0, 0.0], [depth, 0.0], [depth, -far]];
        (legs, solid, [-5.5, -far, depth + 7.5, far + 3.5])
    }

    fn jamb(&self) -> Legs {
        let ((out, out_deep, _), (jamb, jamb_deep, _)) = (self.find("jamb-left-out"), self.find("jamb-left"));
        let (deep, far) = (out_deep.to_inches_f64(), self.reach.to_inches_f64());
        let depth = deep + jamb_deep.to_inches_f64();
        let low = (self.r.u0 - self.reach).max(Length::ZERO);
        let mut legs = vec![Leg {
            on: SurfaceId::WALL,
            fixed: (self.r.v0 + self.dv, false),
            span: Interval { lo: low, hi: self.r.u0 },
            origin: [-(self.r.u0 - low).to_inches_f64(), 0.0],
            along: [1.0, 0.0],
            out: [0.0, 1.0],
            mitre: None,
        }];
        legs.extend(out.map(|on| self.on_return((on, false), out_deep, [0.0, 0.0], [0.0, -1.0], [1.0, 0.0])));
        legs.extend(jamb.map(|on| self.on_return((on, false), jamb_deep, [0.0, -deep], [0.0, -1.0], [1.0, 0.0])));
        let solid = vec![[-far, 0.0], [0.0, 0.0], [0.0, -depth], [-far, -depth]];
        (legs, solid, [-far, -depth, far + 6.0, depth + 5.0])
    }

    /// The two walls at the nearest corner, from above: the left one runs to the right, the other away from who looks or towards them.
    fn corner(&self) -> Option<Legs> {
        let corner = corner_near(self.plan, self.r.along_u())?;
        let (c, wall) = (corner.at, self.plan.surfaces[SurfaceId::WALL].facet.rect());
        let others = self.plan.walls.corners.iter().map(|o| o.at);
        let lo = others.clone().filter(|at| *at < c).chain([wall.u0, c - self.reach]).max()?;
        let hi = others.filter(|at| *at > c).chain([wall.u1, c + self.reach]).min()?;
        let [turn, _] = mitre(corner);
        let leg = |span: Interval, origin, along, out| Leg {
            on: SurfaceId::WALL,
            fixed: (self.r.v0 + self.dv, false),
            span,
            origin,
            along,
            out,
            mitre: Some((c, mitre(corner))),
        };
        let (left, right) = ((c - lo).to_inches_f64(), (hi - c).to_inches_f64());
        let legs = vec![
            leg(Interval { lo, hi: c }, [-left, 0.0], [1.0, 0.0], [0.0, 1.0]),
            leg(Interval { lo: c, hi }, [0.0, 0.0], [0.0, -turn], [turn, 0.0]),
        ];
        let depth = self.plan.basis.figures.length(fig::STUD_DEPTH).to_inches_f64();
        let solid = vec![
            [-left, 0.0],
            [0.0, 0.0],
            [0.0, -turn * right],
            [-turn * depth, -turn * right],
            [-turn * depth, -depth],
            [-left, -depth],
        ];
        let far = self.reach.to_inches_f64();
        let frame = match corner.kind {
            CornerKind::Outside => [-far, -far, far + 6.0, far + 6.0],
            CornerKind::Inside => [-far, -depth - 0.5, far + depth + 0.5, far + depth + 0.5],
        };
        Some((legs, solid, frame))
    }
}

/// The part of a cell that a leg passes: a strip as long as the stretch.
pub(super) fn part_of(cell: Rect, leg: &Leg, span: Interval) -> Rect {
    if leg.fixed.1 { Rect { v0: span.lo, v1: span.hi, ..cell } } else { Rect { u0: span.lo, u1: span.hi, ..cell } }
}

/// The part of the walls that answers for a leg.
pub(super) fn part_for<'a>(plan: &Plan, moment: &'a Moment, ask: &SectionAsk, leg: &Leg) -> &'a WallPart {
    match ask.kind {
        SectionKind::Corner => moment.part_at(leg.span),
        _ => moment.part_of(plan, ask.opening),
    }
}

/// The water that is shown in a section, where any is.
pub(super) fn water_of(part: &WallPart, weather: Weather) -> Option<(Arc<Spread>, Glue)> {
    let (id, glue) = match weather {
        Weather::Dry => return None,
        Weather::Rain => (RAIN, Glue::Holds),
        Weather::Lost => (RAIN_NO_GLUE, Glue::Lost),
    };
    Some((part.spread(part.scenario(id)?), glue))
}

/// What stands behind a layer of a cell along a stretch of a leg: whether water can be in the gap, and the least head at which it is.
pub(super) fn gap_state(
    (plan, moment, a): (&Plan, &Moment, &Arrangement),
    (cell, gap, piece): (CellId, usize, PieceId),
    (leg, span): (&Leg, Interval),
    water: Option<&(Arc<Spread>, Glue)>,
) -> (bool, GapState, Option<f64>) {
    let glue = water.map_or(Glue::Holds, |(_, g)| *g);
    let closed = a.is_closed(cell, gap, glue);
    let state = match moment.stage.bond(piece) {
        _ if !closed => GapState::Open,
        Bond::Cured => GapState::Cured,
        Bond::Full => GapState::Glued,
        Bond::None => GapState::Sealed,
    };
    let head = water
        .and_then(|(spread, _)| spread.least(a, cell, gap, part_of(a.cell(cell).rect, leg, span)))
        .map(|(e, ..)| Head::from_units(e).inches());
    let floor = plan.floor(glue == Glue::Lost).to_inches_f64();
    (closed, state, head.filter(|h| *h < floor))
}
