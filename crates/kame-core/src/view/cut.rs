//! A cut through the wall: which, along which surfaces, and the gaps it meets. Both pictures of it are drawn from here.

use super::Weather;
use crate::findings::{Moment, Part};
use crate::layup::{Bond, Glue};
use crate::length::{Head, Length};
use crate::plan::{Plan, SurfaceId};
use crate::profile::fig;
use crate::recipe::schools::Feature;
use crate::sequence::{RAIN, RAIN_NO_GLUE};
use crate::surface::{Interval, Rect};
use crate::water::{Arrangement, CellId, Spread};
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
    pub fn of(feature: Feature) -> &'static [Self] {
        match feature {
            Feature::Opening => &[Self::Sill, Self::Head, Self::Jamb, Self::Base, Self::Top],
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

/// The part of a cell that a leg passes: a strip as long as the stretch.
pub(super) fn part_of(cell: Rect, leg: &Leg, span: Interval) -> Rect {
    if leg.fixed.1 { Rect { v0: span.lo, v1: span.hi, ..cell } } else { Rect { u0: span.lo, u1: span.hi, ..cell } }
}

/// The water that is shown in a section, where any is.
pub(super) fn water_of(part: &Part, weather: Weather) -> Option<(&Spread, Glue)> {
    let (id, glue) = match weather {
        Weather::Dry => return None,
        Weather::Rain => (RAIN, Glue::Holds),
        Weather::Lost => (RAIN_NO_GLUE, Glue::Lost),
    };
    Some((&part.answer().spreads[part.scenario(id)?], glue))
}

/// What stands behind a layer of a cell along a stretch of a leg: whether water can be in the gap, and the least head at which it is.
pub(super) fn gap_state(
    (plan, moment, a): (&Plan, &Moment, &Arrangement),
    (cell, gap, piece): (CellId, usize, usize),
    (leg, span): (&Leg, Interval),
    water: Option<(&Spread, Glue)>,
) -> (bool, GapState, Option<f64>) {
    let glue = water.map_or(Glue::Holds, |(_, g)| g);
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
