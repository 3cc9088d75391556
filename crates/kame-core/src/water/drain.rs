//! What can leave: from open faces and outlets backwards along moves that never climb (handbook 4.5).

use super::arrange::{Arrangement, Border};
use super::cell::CellId;
use crate::layup::{Glue, Layup};
use crate::stop::Stop;
use crate::surface::{Edge, Rect};
use std::collections::VecDeque;

/// The part of one gap of one cell from which water can leave without climbing.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Drained {
    Nothing,
    /// Everything at this coordinate `v` and uphill of it.
    From(f64),
    Everything,
}

/// After so many gaps it is asked whether anybody still wants the answer.
const LOOK_UP: u32 = 1024;

/// For every gap of every cell, what can leave.
#[derive(Clone, Debug)]
pub struct Drainage {
    drained: Vec<Drained>,
}

impl Drainage {
    /// Runs backwards from all open faces and outlets. Where it is stopped it is not done.
    pub fn new(layup: &Layup, a: &Arrangement, glue: Glue, stop: &Stop) -> Self {
        let mut drained = Vec::with_capacity(a.states());
        for i in 0..a.cells.len() {
            let cell = CellId(i as u32);
            // Where water cannot be none has to leave.
            let nothing = |gap| if a.is_closed(cell, gap, glue) { Drained::Everything } else { Drained::Nothing };
            drained.extend((0..=a.stack(cell).len()).map(nothing));
        }
        let mut run = Draining { layup, a, out: Drainage { drained }, waiting: VecDeque::new() };
        for i in 0..a.cells.len() {
            let cell = CellId(i as u32);
            let top = a.stack(cell).len();
            if a.is_open_face(cell, top) {
                run.raise(cell, top, Drained::Everything);
            }
        }
        for outlet in &layup.outlets {
            for cell in a.cells_of(outlet.facet) {
                let Some(part) = a.cell(cell).rect.intersection(outlet.rect) else { continue };
                let (lo, hi) = (part.v0.units() as f64, part.v1.units() as f64);
                let drained = run.uphill_of(cell, lo, hi);
                for gap in 0..=a.stack(cell).len() {
                    run.raise(cell, gap, drained);
                }
            }
        }
        let mut taken = 0_u32;
        while let Some((cell, gap)) = run.waiting.pop_front() {
            taken = taken.wrapping_add(1);
            if taken.is_multiple_of(LOOK_UP) && stop.is_stopped() {
                break;
            }
            run.pass_on(cell, gap);
        }
        run.out
    }

    /// The part of a cell from which water in that gap cannot leave; `None` where all of it can.
    pub fn trapped(&self, layup: &Layup, a: &Arrangement, cell: CellId, gap: usize) -> Option<Rect> {
        let rect = a.cell(cell).rect;
        let falls_up = layup.facets[a.cell(cell).facet.0].rise < 0.0;
        let part = match self.drained[a.state(cell, gap)] {
            Drained::Nothing => rect,
            Drained::Everything => return None,
            Drained::From(v) if falls_up => {
                Rect { v0: rect.v0.max(crate::length::Length::from_units(v as i64)), ..rect }
            }
            Drained::From(v) => Rect { v1: rect.v1.min(crate::length::Length::from_units(v as i64)), ..rect },
        };
        part.has_area().then_some(part)
    }
}

struct Draining<'a> {
    layup: &'a Layup,
    a: &'a Arrangement,
    out: Drainage,
    waiting: VecDeque<(CellId, usize)>,
}

impl Draining<'_> {
    fn rise(&self, cell: CellId) -> f64 {
        self.layup.facets[self.a.cell(cell).facet.0].rise
    }

    /// What drains where the stretch `[lo, hi]` of `v` does.
    fn uphill_of(&self, cell: CellId, lo: f64, hi: f64) -> Drained {
        let rise = self.rise(cell);
        if rise > 0.0 {
            Drained::From(lo)
        } else if rise < 0.0 {
            Drained::From(hi)
        } else {
            Drained::Everything
        }
    }

    fn raise(&mut self, cell: CellId, gap: usize, to: Drained) {
        let downhill = self.rise(cell).signum();
        let slot = &mut self.out.drained[self.a.state(cell, gap)];
        let better = match (*slot, to) {
            (_, Drained::Nothing) | (Drained::Everything, _) => false,
            (Drained::Nothing, _) | (_, Drained::Everything) => true,
            (Drained::From(old), Drained::From(new)) => downhill * new < downhill * old,
        };
        if better {
            *slot = to;
            self.waiting.push_back((cell, gap));
        }
    }

    fn pass_on(&mut self, cell: CellId, gap: usize) {
        let a = self.a;
        for side in a.sides_of(cell) {
            let gaps = a.gaps_beyond(side, gap);
            let far = side.far_state as usize;
            if self.out.drained[far + gaps.start..far + gaps.end].iter().all(|d| *d == Drained::Everything) {
                continue;
            }
            let (border, end) = (&a.borders[side.border as usize], usize::from(side.end));
            let Some((lo, hi)) = self.drained_stretch(border, end, cell, gap) else { continue };
            let (x, y) = (border.across(end, lo), border.across(end, hi));
            let far = border.cells[1 - end];
            let to = self.reached(far, border.edges[1 - end], x.min(y), x.max(y));
            for g in gaps {
                self.raise(far, g, to);
            }
        }
    }

    /// The stretch of a border at which the near cell drains; not where it drains only along its very edge.
    fn drained_stretch(&self, border: &Border, end: usize, cell: CellId, gap: usize) -> Option<(f64, f64)> {
        let span = border.spans[end];
        let (lo, hi) = (span.lo.units() as f64, span.hi.units() as f64);
        let rise = self.rise(cell);
        let edge = border.edges[end];
        let line = edge.line_of(self.a.cell(cell).rect).units() as f64;
        match self.out.drained[self.a.state(cell, gap)] {
            Drained::Nothing => None,
            Drained::Everything => Some((lo, hi)),
            Drained::From(v) if edge.is_upright() && rise > 0.0 => (v < hi).then_some((lo.max(v), hi)),
            Drained::From(v) if edge.is_upright() => (v > lo).then_some((lo, hi.min(v))),
            Drained::From(v) => {
                let whole = match edge {
                    Edge::Top => (rise > 0.0 && v < line) || (rise < 0.0 && v >= line),
                    _ => (rise > 0.0 && v <= line) || (rise < 0.0 && v > line),
                };
                whole.then_some((lo, hi))
            }
        }
    }

    /// What drains in a cell whose edge drains along a stretch.
    fn reached(&self, cell: CellId, edge: Edge, lo: f64, hi: f64) -> Drained {
        let rise = self.rise(cell);
        match edge {
            Edge::Left | Edge::Right => self.uphill_of(cell, lo, hi),
            Edge::Bottom if rise < 0.0 => Drained::Nothing,
            Edge::Top if rise > 0.0 => Drained::Nothing,
            Edge::Bottom | Edge::Top => Drained::Everything,
        }
    }
}
