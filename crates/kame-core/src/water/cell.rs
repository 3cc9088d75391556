//! Parts of facets in which the stack of sheets does not change, and what divides them.

use crate::layup::SheetId;
use crate::length::Length;
use crate::surface::{FacetId, Interval, Rect};
use std::ops::Range;

/// For each layer that may be made so many items and cuts may be looked at.
pub(super) const LOOKED_AT: usize = 100;
/// What divides a facet.
#[derive(Clone, Copy)]
pub(super) enum Divider {
    Void,
    Sheet { sheet: SheetId, rank: f64 },
    Seal(SheetId),
    Fault(SheetId),
    Hole(SheetId),
    Line,
}

/// Something on a facet whose edges divide it.
#[derive(Clone, Copy)]
pub(super) struct Item {
    pub(super) rect: Rect,
    pub(super) what: Divider,
}

/// Index of a cell in its arrangement.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct CellId(pub u32);

/// One sheet in the stack of a cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Layer {
    /// The sheet.
    pub sheet: SheetId,
    /// A seal closes the gap directly behind it here.
    pub sealed: bool,
    /// A fault opens the gap directly behind it here.
    pub faulted: bool,
}

/// A rectangle of a facet over which the stack of sheets is the same.
#[derive(Clone, Debug)]
pub struct Cell {
    /// On which facet.
    pub facet: FacetId,
    /// The rectangle on that surface, in its own lengths from left and foot.
    pub rect: Rect,
    pub(super) stack: Range<usize>,
    pub(super) first_state: usize,
}

/// The parts of all facets, and the layers of all of them one after the other.
#[derive(Default)]
pub(super) struct Division {
    pub cells: Vec<Cell>,
    pub layers: Vec<Layer>,
}

impl Division {
    /// How much room it takes: its layers, and its cells, of which some have none.
    pub(super) fn size(&self) -> usize {
        self.layers.len() + self.cells.len()
    }

    /// Makes one of neighbours from `start` on that a line divided for the sake of what lies beyond them: along whole edges, where the stack
    /// is the same and no line of the layup runs between them.
    pub(super) fn unite(&mut self, start: usize, items: &[Item]) {
        let lines = items.iter().filter(|i| matches!(i.what, Divider::Line)).map(|i| i.rect);
        let along = |r: Rect, upright: bool| if upright { r.along_v() } else { r.along_u() };
        let mut lines: Vec<(bool, Length, Interval)> =
            lines.map(|r| if r.u0 == r.u1 { (true, r.u0, r.along_v()) } else { (false, r.v0, r.along_u()) }).collect();
        lines.sort_unstable_by_key(|(upright, at, _)| (*upright, *at));
        for upright in [true, false] {
            // From one to the next across upright edges, then across level ones.
            let key = |c: &Cell| (along(c.rect, upright).lo, along(c.rect, upright).hi, along(c.rect, !upright).lo);
            self.cells[start..].sort_unstable_by_key(key);
            let mut kept = start;
            for next in start + 1..self.cells.len() {
                let (cell, far) = (&self.cells[kept], &self.cells[next]);
                let at = along(cell.rect, !upright).hi;
                let side = along(cell.rect, upright);
                let between = || {
                    let from = lines.partition_point(|l| (l.0, l.1) < (upright, at));
                    let on_it = lines[from..].iter().take_while(|l| (l.0, l.1) == (upright, at));
                    { on_it }.any(|l| l.2.overlap(side).is_some())
                };
                let touch = side == along(far.rect, upright) && at == along(far.rect, !upright).lo;
                if touch && self.layers[cell.stack.clone()] == self.layers[far.stack.clone()] && !between() {
                    let rect = cell.rect.hull(far.rect);
                    self.cells[kept].rect = rect;
                } else {
                    kept += 1;
                    self.cells.swap(kept, next);
                }
            }
            self.cells.truncate((kept + 1).min(self.cells.len()));
        }
    }
}
