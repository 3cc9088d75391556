//! Dividing facets by the edges of what lies on them, until no edge crosses a part.

use super::cell::{Cell, Divider, Division, Item, LOOKED_AT, Layer};
use crate::layup::{FileMistake, Layup, SheetId};
use crate::length::Length;
use crate::surface::{FacetId, Patch, Rect};
use std::collections::BTreeSet;
use std::ops::Range;

/// For each layer that may be made so many items stand in lists at once.
const LISTED: usize = 10;

/// How much an item on both sides of a line counts against it, measured in items by which its sides differ.
const STRADDLING: usize = 3;

pub(super) fn items_by_facet(layup: &Layup) -> Vec<Vec<Item>> {
    let mut by_facet: Vec<Vec<Item>> = vec![Vec::new(); layup.facets.len()];
    let mut add = |at: Patch, what| by_facet[at.facet.0].push(Item { rect: at.rect, what });
    for v in &layup.voids {
        add(*v, Divider::Void);
    }
    for (s, sheet) in layup.sheets.iter().enumerate() {
        for r in &sheet.regions {
            add(r.at, Divider::Sheet { sheet: SheetId(s), rank: r.rank });
        }
    }
    for (list, what) in [
        (&layup.seals, Divider::Seal as fn(SheetId) -> Divider),
        (&layup.faults, Divider::Fault),
        (&layup.holes, Divider::Hole),
    ] {
        for o in list {
            add(o.at, what(o.sheet));
        }
    }
    let cuts = layup.sheets.iter().flat_map(|s| &s.cuts);
    for s in cuts.chain(layup.stitches.iter().flat_map(|s| [&s.a.segment, &s.b.segment])) {
        let rect = Rect::new(s.from.0.min(s.to.0), s.from.1.min(s.to.1), s.from.0.max(s.to.0), s.from.1.max(s.to.1));
        add(Patch { facet: s.facet, rect }, Divider::Line);
    }
    by_facet
}

#[derive(PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Clash {
    Twice(SheetId, FacetId),
    SameRank(SheetId, SheetId, FacetId),
}

pub(super) fn clash(layup: &Layup, clash: Clash) -> FileMistake {
    match clash {
        Clash::Twice(s, f) => FileMistake {
            path: format!("$.sheets[{}].regions", s.0),
            message: format!(
                "sheet \"{}\" overlaps itself on facet \"{}\", expected regions of one sheet that at most touch",
                layup.sheets[s.0].id, layup.facets[f.0].id
            ),
        },
        Clash::SameRank(a, b, f) => FileMistake {
            path: format!("$.sheets[{}].regions", a.0),
            message: format!(
                "sheets \"{}\" and \"{}\" have the same rank where they overlap on facet \"{}\", expected distinct ranks",
                layup.sheets[a.0].id, layup.sheets[b.0].id, layup.facets[f.0].id
            ),
        },
    }
}

/// Divides one facet by the edges of what lies on it, until no edge crosses a part.
pub(super) struct Splitter<'a> {
    pub items: &'a [Item],
    pub facet: FacetId,
    pub out: &'a mut Division,
    pub clashes: &'a mut Clashes,
    /// Items that cross the parts being divided, those of a part after those of the part it is of.
    pub lists: Vec<u32>,
    /// Where items begin (`true`) and end; kept for its room.
    pub ends: Vec<(Length, bool)>,
    /// Beyond so many cells and layers nothing more is divided.
    pub most: usize,
    /// Items that were looked at so far.
    pub work: usize,
    pub marks: Marks,
}

/// What is left to do while a facet is divided.
enum Todo {
    /// A part, and where in the lists those stand that may cross it.
    Divide(Rect, Range<usize>),
    /// A part is done: back to so many in the lists and so many that cover.
    Leave { lists: usize, covering: usize },
}

/// What lies over one part, kept for its room.
#[derive(Default)]
pub(super) struct Marks {
    holes: Vec<SheetId>,
    seals: Vec<SheetId>,
    faults: Vec<SheetId>,
    stack: Vec<(f64, SheetId)>,
}

/// The first mistakes that show in a division; each is told once.
#[derive(Default)]
pub(super) struct Clashes(pub BTreeSet<Clash>);

impl Clashes {
    /// More are not told.
    const MOST: usize = 200;

    fn add(&mut self, clash: Clash) {
        if self.0.len() < Self::MOST {
            self.0.insert(clash);
        }
    }
}

impl Splitter<'_> {
    /// Divides a part by those of `self.lists` in a range that cross it. What is left to do stands in a list, as it may go as deep as there are
    /// items.
    pub fn split(&mut self, part: Rect, list: Range<usize>) {
        let mut covering: Vec<u32> = Vec::new();
        let mut todo = vec![Todo::Divide(part, list)];
        while let Some(task) = todo.pop() {
            let (part, list) = match task {
                Todo::Divide(part, list) => (part, list),
                Todo::Leave { lists, covering: mark } => {
                    self.lists.truncate(lists);
                    covering.truncate(mark);
                    continue;
                }
            };
            self.work += list.len();
            if self.is_full() {
                return;
            }
            let (first, mark) = (self.lists.len(), covering.len());
            todo.push(Todo::Leave { lists: first, covering: mark });
            for at in list {
                let i = self.lists[at];
                let Item { rect, what } = self.items[i as usize];
                if matches!(what, Divider::Line) {
                    if line_crosses(rect, part) {
                        self.lists.push(i);
                    }
                } else if rect.contains(part) {
                    covering.push(i);
                } else if rect.overlaps(part) {
                    self.lists.push(i);
                }
            }
            let crossing = first..self.lists.len();
            if covering[mark..].iter().any(|&i| matches!(self.items[i as usize].what, Divider::Void)) {
                continue;
            }
            let [one, other] = match self.best_line(part, crossing.clone()) {
                None => {
                    self.leaf(part, &covering);
                    continue;
                }
                Some((true, u)) => [Rect { u1: u, ..part }, Rect { u0: u, ..part }],
                Some((false, v)) => [Rect { v1: v, ..part }, Rect { v0: v, ..part }],
            };
            todo.extend([Todo::Divide(other, crossing.clone()), Todo::Divide(one, crossing)]);
        }
    }

    /// The line to divide a part at: `(upright, coordinate)`; `None` where no edge crosses it.
    ///
    /// Of all edges inside the part, the one that the fewest items straddle for what it takes off the work that is left: what straddles
    /// a line is divided again on both its sides, so lines that run between things come first and things are left whole.
    fn best_line(&mut self, part: Rect, crossing: Range<usize>) -> Option<(bool, Length)> {
        let all = crossing.len();
        let mut best: Option<(usize, bool, Length)> = None;
        for upright in [false, true] {
            let within = if upright { part.along_u() } else { part.along_v() };
            self.ends.clear();
            for &i in &self.lists[crossing.clone()] {
                let r = self.items[i as usize].rect;
                let span = if upright { r.along_u() } else { r.along_v() };
                self.ends.extend([(span.lo, true), (span.hi, false)]);
            }
            self.ends.sort_unstable();
            // From low to high: how many have ended up to a line, and how many begun before it.
            let (mut ended, mut begun) = (0, 0);
            for here in self.ends.chunk_by(|a, b| a.0 == b.0) {
                let begins = here.iter().filter(|(_, begin)| *begin).count();
                ended += here.len() - begins;
                let (at, after) = (here[0].0, all - begun);
                begun += begins;
                if at > within.lo && at < within.hi {
                    let straddling = all.saturating_sub(ended + after);
                    let cost = straddling * STRADDLING + ended.abs_diff(after);
                    best = best.into_iter().chain([(cost, upright, at)]).min();
                }
            }
        }
        best.map(|(_, upright, at)| (upright, at))
    }

    fn leaf(&mut self, part: Rect, covering: &[u32]) {
        let Marks { holes, seals, faults, stack } = &mut self.marks;
        [&mut *holes, &mut *seals, &mut *faults].into_iter().for_each(Vec::clear);
        stack.clear();
        for &i in covering {
            match self.items[i as usize].what {
                Divider::Sheet { sheet, rank } => stack.push((rank, sheet)),
                Divider::Hole(sheet) => holes.push(sheet),
                Divider::Seal(sheet) => seals.push(sheet),
                Divider::Fault(sheet) => faults.push(sheet),
                Divider::Void | Divider::Line => {}
            }
        }
        [&mut *holes, &mut *seals, &mut *faults].into_iter().for_each(|list| list.sort_unstable());
        let is_in = |list: &[SheetId], sheet: SheetId| list.binary_search(&sheet).is_ok();
        stack.retain(|(_, sheet)| !is_in(holes, *sheet));
        stack.sort_unstable_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
        for pair in stack.windows(2).filter(|p| p[0].0 == p[1].0 && p[0].1 != p[1].1) {
            self.clashes.add(Clash::SameRank(pair[0].1, pair[1].1, self.facet));
        }
        let start = self.out.layers.len();
        let layer =
            |&(_, sheet): &(f64, SheetId)| Layer { sheet, sealed: is_in(seals, sheet), faulted: is_in(faults, sheet) };
        self.out.layers.extend(stack.iter().map(layer));
        stack.sort_unstable_by_key(|(_, sheet)| *sheet);
        for pair in stack.windows(2).filter(|p| p[0].1 == p[1].1) {
            self.clashes.add(Clash::Twice(pair[0].1, self.facet));
        }
        let stack = start..self.out.layers.len();
        self.out.cells.push(Cell { facet: self.facet, rect: part, stack, first_state: 0 });
    }

    /// True where there is more than is divided.
    pub fn is_full(&self) -> bool {
        let room = self.most.saturating_mul(LISTED);
        self.out.size() > self.most || self.lists.len() > room || self.work > self.most.saturating_mul(LOOKED_AT)
    }
}

/// True where a degenerate rectangle runs through the inside of `part`.
fn line_crosses(line: Rect, part: Rect) -> bool {
    if line.u0 == line.u1 {
        line.u0 > part.u0 && line.u0 < part.u1 && line.along_v().overlap(part.along_v()).is_some()
    } else {
        line.v0 > part.v0 && line.v0 < part.v1 && line.along_u().overlap(part.along_u()).is_some()
    }
}
