//! Cells of constant stack, and the borders between them.

use super::cell::{Cell, CellId, Division, LOOKED_AT, Layer};
use super::divide::{Clashes, Marks, Splitter, clash, items_by_facet};
use crate::layup::{Bond, Depth, FileMistake, Glue, Layup, SheetId};
use crate::length::Length;
use crate::surface::{Edge, FacetId, Interval, Segment, StitchEnd};
use smallvec::{SmallVec, smallvec};
use std::collections::HashMap;
use std::ops::Range;

/// For each layer that may be made so many borders, sheets continuous across them, and targets on cells are kept.
pub(super) const JOINED: usize = 8;

fn too_much(path: &str, what: &str, most: usize) -> FileMistake {
    let message = format!("{what} more parts than the {most} layers that are answered at once: ask about a part of it");
    FileMistake { path: path.into(), message }
}

/// Two cells that share a border of some length, directly or across a stitch. Gap numbers change only here.
#[derive(Clone, Debug)]
pub struct Border {
    /// One cell and the other.
    pub cells: [CellId; 2],
    /// On which edge of each the border lies.
    pub edges: [Edge; 2],
    /// The stretch of the border in each cell's own running coordinate.
    pub spans: [Interval; 2],
    /// True where the running coordinates go opposite ways.
    pub flipped: bool,
    continuous: Range<usize>,
    /// Where in the list of gaps across borders those begin that are entered from one cell and from the other.
    across: [u32; 2],
}

/// A border as its cell sees it: what has to be known of all of them to find the few that matter.
#[derive(Clone, Copy, Debug)]
pub struct BorderSide {
    /// Index of the border.
    pub border: u32,
    /// At which end of it the cell stands.
    pub end: u8,
    /// True where what lies beyond is on the same facet.
    pub same_facet: bool,
    /// The state "in the innermost gap of the cell beyond".
    pub far_state: u32,
    across: u32,
}

/// The division of a layup into cells and borders. The same for every scenario.
#[derive(Clone, Debug)]
pub struct Arrangement {
    /// All cells, grouped by facet.
    pub cells: Vec<Cell>,
    /// All borders.
    pub borders: Vec<Border>,
    /// The sides of each cell, as ranges given by `side_ranges`.
    sides: Vec<BorderSide>,
    side_ranges: Vec<Range<usize>>,
    pub(super) layers: Vec<Layer>,
    /// `(place in the one stack, place in the other)` of sheets continuous across a border.
    pairs: Vec<(u16, u16)>,
    /// From one end of a border and each gap there: the first of the gaps that may be entered, and the one after the last.
    pub(super) across: Vec<[u16; 2]>,
    /// For each state whether it is closed while glue holds, and when it is lost.
    pub(super) closed: Vec<[bool; 2]>,
    pub(super) facet_cells: Vec<Range<usize>>,
    exposed: Vec<bool>,
    /// For each sheet room for its place in a stack, while borders are made.
    places: Vec<u16>,
    /// Targets that lie on each cell, as ranges given by `target_ranges`.
    pub(super) targets: Vec<u32>,
    pub(super) target_ranges: Vec<Range<usize>>,
    /// How many borders lie directly between cells; those after them are stitched.
    pub(super) stitched: usize,
    /// Where each cell is a part of one gap: what that lies between.
    pub(super) between: Option<Vec<Between>>,
}

/// The sheets on both sides of a gap: the one that water stands on there, `None` the substrate, and the one outside it, `None` nothing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Between {
    pub on: Option<SheetId>,
    pub behind: Option<SheetId>,
}

impl Arrangement {
    /// Divides a layup.
    ///
    /// # Errors
    /// One mistake for each pair of sheets with equal rank where they overlap, and for each sheet that overlaps itself.
    pub fn new(layup: &Layup) -> Result<Self, Vec<FileMistake>> {
        Self::within(layup, usize::MAX)
    }

    /// The same, of at most so many layers.
    ///
    /// # Errors
    /// The same; one mistake where there are more layers.
    pub fn within(layup: &Layup, most: usize) -> Result<Self, Vec<FileMistake>> {
        let mut division = Division::default();
        let mut a = Self::empty(layup);
        let mut clashes = Clashes::default();
        let mut by_facet = items_by_facet(layup);
        let mut looked_at = 0;
        for (f, items) in by_facet.iter_mut().enumerate() {
            let start = division.cells.len();
            let lists: Vec<u32> = (0..items.len() as u32).collect();
            let all = 0..lists.len();
            let (facet, ends) = (FacetId(f), Vec::new());
            let (out, clashes, marks) = (&mut division, &mut clashes, Marks::default());
            let mut splitter = Splitter { items, facet, out, clashes, lists, ends, most, work: looked_at, marks };
            splitter.split(layup.facets[f].rect(), all);
            if splitter.is_full() {
                return Err(vec![too_much("$.sheets", "the sheets divide the facets into", most)]);
            }
            looked_at = splitter.work;
            division.unite(start, items);
            a.facet_cells.push(start..division.cells.len());
        }
        (a.cells, a.layers) = (division.cells, division.layers);
        if !clashes.0.is_empty() {
            return Err(clashes.0.into_iter().map(|c| clash(layup, c)).collect());
        }
        a.close(layup);
        if !a.join(layup, most) {
            return Err(vec![too_much("$.stitches", "stitches and cuts join", most)]);
        }
        if !a.aim(layup, most) {
            return Err(vec![too_much("$.targets", "the targets lie on", most)]);
        }
        Ok(a)
    }

    /// About how much room it takes.
    pub fn bytes(&self) -> usize {
        fn of<T>(list: &Vec<T>) -> usize {
            list.capacity() * size_of::<T>()
        }
        of(&self.cells)
            + of(&self.borders)
            + of(&self.sides)
            + of(&self.side_ranges)
            + of(&self.layers)
            + of(&self.pairs)
            + of(&self.across)
            + of(&self.closed)
            + of(&self.targets)
            + of(&self.target_ranges)
    }

    /// Of a layup, not divided yet.
    pub(crate) fn empty(layup: &Layup) -> Self {
        Self {
            cells: Vec::new(),
            borders: Vec::new(),
            sides: Vec::new(),
            side_ranges: Vec::new(),
            layers: Vec::new(),
            pairs: Vec::new(),
            across: Vec::new(),
            closed: Vec::new(),
            facet_cells: Vec::new(),
            exposed: layup.facets.iter().map(|f| f.exposed).collect(),
            places: vec![0; layup.sheets.len()],
            targets: Vec::new(),
            target_ranges: Vec::new(),
            stitched: 0,
            between: None,
        }
    }

    /// Says of each gap of each cell whether it is closed.
    fn close(&mut self, layup: &Layup) {
        for cell in &mut self.cells {
            cell.first_state = self.closed.len();
            let layers = &self.layers[cell.stack.clone()];
            let behind = layers.iter().map(|layer| match layup.sheets[layer.sheet.0].bond {
                _ if layer.faulted => [false; 2],
                Bond::Cured => [true; 2],
                Bond::Full => [true, false],
                Bond::None => [layer.sealed, false],
            });
            let capped = layers.last().is_some_and(|l| layup.sheets[l.sheet.0].cap) && !self.exposed[cell.facet.0];
            self.closed.extend(behind.chain([[capped; 2]]));
        }
    }

    /// The sheets over a cell, from inside to outside.
    pub fn stack(&self, cell: CellId) -> &[Layer] {
        &self.layers[self.cells[cell.0 as usize].stack.clone()]
    }

    /// The cell itself.
    pub fn cell(&self, cell: CellId) -> &Cell {
        &self.cells[cell.0 as usize]
    }

    /// The cells of one facet.
    pub fn cells_of(&self, facet: FacetId) -> impl Iterator<Item = CellId> + '_ {
        self.facet_cells[facet.0].clone().map(|i| CellId(i as u32))
    }

    /// Number of `(cell, gap)` states.
    pub fn states(&self) -> usize {
        self.closed.len()
    }

    /// Index of the state "in this gap of this cell".
    pub fn state(&self, cell: CellId, gap: usize) -> usize {
        self.cell(cell).first_state + gap
    }

    /// The sides of a cell.
    pub fn sides_of(&self, cell: CellId) -> &[BorderSide] {
        &self.sides[self.side_ranges[cell.0 as usize].clone()]
    }

    /// The borders of a cell and at which end of each the cell stands.
    pub fn borders_of(&self, cell: CellId) -> impl Iterator<Item = (&Border, usize)> + '_ {
        self.sides_of(cell).iter().map(|s| (&self.borders[s.border as usize], usize::from(s.end)))
    }

    /// True where gap `gap` of the cell lies outside everything on a facet that faces the weather.
    pub fn is_open_face(&self, cell: CellId, gap: usize) -> bool {
        let c = self.cell(cell);
        gap == c.stack.len() && self.exposed[c.facet.0] && self.is_outermost(cell)
    }

    /// False where a cell is a part of one gap, and a sheet lies outside that.
    fn is_outermost(&self, cell: CellId) -> bool {
        self.between.as_ref().is_none_or(|between| between[cell.0 as usize].behind.is_none())
    }

    /// What a gap of a cell lies between.
    pub(super) fn between(&self, cell: CellId, gap: usize) -> Between {
        if let Some(between) = &self.between {
            return between[cell.0 as usize];
        }
        let stack = self.stack(cell);
        let sheet = |i: usize| stack.get(i).map(|l| l.sheet);
        Between { on: gap.checked_sub(1).and_then(sheet), behind: sheet(gap) }
    }

    /// The gap of a cell directly behind a sheet, or outside all of them.
    pub(super) fn gap_behind(&self, cell: CellId, sheet: Option<SheetId>) -> Option<usize> {
        match (&self.between, sheet) {
            (Some(between), _) => (between[cell.0 as usize].behind == sheet).then_some(0),
            (None, None) => Some(self.stack(cell).len()),
            (None, Some(sheet)) => self.stack(cell).iter().position(|l| l.sheet == sheet),
        }
    }

    /// True where water cannot be in that gap (handbook 4.3).
    pub fn is_closed(&self, cell: CellId, gap: usize, glue: Glue) -> bool {
        self.closed[self.state(cell, gap)][usize::from(glue == Glue::Lost)]
    }

    /// The gaps of the far cell that water from gap `gap` at end `end` of the border may enter, closed ones not yet left out.
    pub fn gaps_across(&self, border: &Border, end: usize, gap: usize) -> Range<usize> {
        let [low, high] = self.across[border.across[end] as usize + gap];
        low.into()..high.into()
    }

    /// The gaps beyond a side that water from gap `gap` may enter, closed ones not yet left out.
    pub fn gaps_beyond(&self, side: &BorderSide, gap: usize) -> Range<usize> {
        let [low, high] = self.across[side.across as usize + gap];
        low.into()..high.into()
    }

    /// Lists what may be entered from each gap at one end of a border: water stays outside the sheets it was outside of and inside those
    /// it was inside of, where they go on across it. Where that begins.
    fn list_across(&mut self, cells: [CellId; 2], end: usize, continuous: Range<usize>) -> u32 {
        let [near, far] = [cells[end], cells[1 - end]].map(|c| self.cell(c).stack.len());
        let start = self.across.len();
        self.across.resize(start + near + 1, [0, far as u16]);
        let gaps = &mut self.across[start..];
        for &(a, b) in &self.pairs[continuous] {
            let (here, there) = if end == 0 { (a, b) } else { (b, a) };
            let (inside, outside) = (usize::from(here), usize::from(here) + 1);
            gaps[outside][0] = gaps[outside][0].max(there + 1);
            gaps[inside][1] = gaps[inside][1].min(there);
        }
        for g in 1..gaps.len() {
            gaps[g][0] = gaps[g][0].max(gaps[g - 1][0]);
        }
        for g in (1..gaps.len()).rev() {
            gaps[g - 1][1] = gaps[g - 1][1].min(gaps[g][1]);
        }
        gaps.iter_mut().for_each(|[low, high]| *high = (*high + 1).max(*low));
        start as u32
    }

    /// True where the sheet at place `here` of end `end`'s stack goes on across the border.
    pub fn is_continuous(&self, border: &Border, end: usize, here: usize) -> bool {
        self.pairs[border.continuous.clone()].iter().any(|&(a, b)| usize::from(if end == 0 { a } else { b }) == here)
    }

    /// The targets that lie on a cell.
    pub fn targets_on(&self, cell: CellId) -> impl Iterator<Item = usize> + '_ {
        self.targets[self.target_ranges[cell.0 as usize].clone()].iter().map(|t| *t as usize)
    }

    /// Finds the targets of each cell: those of a facet stand in order of their left ends, so that a cell looks only at those that begin
    /// before it ends, back to the widest.
    ///
    /// False where there are more of them than so many parts have.
    pub(super) fn aim(&mut self, layup: &Layup, most: usize) -> bool {
        let mut on_facet: Vec<Vec<u32>> = vec![Vec::new(); layup.facets.len()];
        for (t, target) in layup.targets.iter().enumerate() {
            on_facet[target.at.facet.0].push(t as u32);
        }
        let rect = |t: u32| layup.targets[t as usize].at.rect;
        for list in &mut on_facet {
            list.sort_by_key(|t| rect(*t).u0);
        }
        // The farthest right end of all targets up to each: what ends before a cell begins is passed over together.
        let reach: Vec<Vec<Length>> = on_facet
            .iter()
            .map(|list| {
                let mut most = Length::ZERO;
                list.iter()
                    .map(|t| {
                        most = most.max(rect(*t).u1);
                        most
                    })
                    .collect()
            })
            .collect();
        for (c, cell) in self.cells.iter().enumerate() {
            let start = self.targets.len();
            // A part of a gap that is not the innermost is asked about by few.
            let covered = self.between.as_ref().is_some_and(|between| between[c].on.is_some());
            let asks =
                |t: u32| rect(t).overlaps(cell.rect) && !(covered && layup.targets[t as usize].depth != Depth::Any);
            let (list, reach) = (&on_facet[cell.facet.0], &reach[cell.facet.0]);
            let from = reach.partition_point(|most| *most <= cell.rect.u0);
            let to = list.partition_point(|t| rect(*t).u0 < cell.rect.u1);
            if from < to {
                self.targets.extend(list[from..to].iter().filter(|t| asks(**t)));
            }
            self.target_ranges.push(start..self.targets.len());
            if self.targets.len() > most.saturating_mul(JOINED) {
                return false;
            }
        }
        true
    }

    /// Joins cells along borders; false where there are more of those, or more cuts to look at, than so many parts have.
    fn join(&mut self, layup: &Layup, most: usize) -> bool {
        let mut looked_at = 0_usize;
        let edges = Edges::of(&self.cells);
        let mut cuts: HashMap<(FacetId, bool, Length), Vec<(Interval, SheetId)>> = HashMap::new();
        for (s, sheet) in layup.sheets.iter().enumerate() {
            for cut in &sheet.cuts {
                cuts.entry((cut.facet, cut.is_upright(), cut.line())).or_default().push((cut.span(), SheetId(s)));
            }
        }
        let cuts_on =
            |facet, upright, line| cuts.get(&(facet, upright, line)).map_or(&[][..], |list: &Vec<_>| list.as_slice());
        for (&(facet, edge, line), near) in edges.lines().filter(|(k, _)| matches!(k.1, Edge::Right | Edge::Top)) {
            let far = edges.on(facet, edge.opposite(), line);
            if !far.is_empty() {
                let run = UnitedRun { edges: [edge, edge.opposite()], flipped: false, shift: Length::ZERO };
                let cuts = cuts_on(facet, edge.is_upright(), line);
                looked_at = looked_at.saturating_add(cuts.len().saturating_mul(near.len() + far.len()));
                if looked_at > most.saturating_mul(LOOKED_AT) || self.joined() > most.saturating_mul(JOINED) {
                    return false;
                }
                self.merge(near, far, &run, cuts);
            }
        }
        self.stitched = self.borders.len();
        for stitch in &layup.stitches {
            let side = |end: &StitchEnd| {
                let s: &Segment = &end.segment;
                // Along one line edges do not lie on each other, so they end in the order in which they begin.
                let list = edges.on(s.facet, end.side.edge(), s.line());
                let here = list[list.partition_point(|(span, _)| span.hi <= s.span().lo)..].iter();
                let here = here.take_while(|(span, _)| span.lo < s.span().hi);
                let within: Vec<_> = here.filter_map(|(span, c)| Some((span.overlap(s.span())?, *c))).collect();
                (within, s.span(), cuts_on(s.facet, s.is_upright(), s.line()))
            };
            let (near, near_span, near_cuts) = side(&stitch.a);
            let (far, far_span, far_cuts) = side(&stitch.b);
            let flipped = stitch.a.segment.is_backward() != stitch.b.segment.is_backward();
            // near + shift = far where both run the same way; shift − near = far where they run opposite ways.
            let shift = if flipped { near_span.lo + far_span.hi } else { far_span.lo - near_span.lo };
            let run = UnitedRun { edges: [stitch.a.side.edge(), stitch.b.side.edge()], flipped, shift };
            let mut cut_here = near_cuts.to_vec();
            cut_here.extend(far_cuts.iter().map(|(span, s)| (run.to_near(*span), *s)));
            let mut far_as_near: Vec<_> = far.into_iter().map(|(span, c)| (run.to_near(span), c)).collect();
            far_as_near.sort_by_key(|(span, _)| span.lo);
            looked_at = looked_at.saturating_add(cut_here.len().saturating_mul(near.len() + far_as_near.len()));
            if looked_at > most.saturating_mul(LOOKED_AT) || self.joined() > most.saturating_mul(JOINED) {
                return false;
            }
            self.merge(&near, &far_as_near, &run, &cut_here);
        }
        self.list_sides();
        true
    }

    /// Puts each cell's borders together: counted first, then put in their places.
    pub(super) fn list_sides(&mut self) {
        let mut ends = vec![0; self.cells.len()];
        self.borders.iter().flat_map(|b| b.cells).for_each(|c| ends[c.0 as usize] += 1);
        let mut next = 0;
        for n in ends {
            self.side_ranges.push(next..next);
            next += n;
        }
        self.sides.resize(next, BorderSide { border: 0, end: 0, same_facet: true, far_state: 0, across: 0 });
        for (b, border) in self.borders.iter().enumerate() {
            let [one, other] = border.cells.map(|c| &self.cells[c.0 as usize]);
            for (end, far) in [other, one].into_iter().enumerate() {
                let range = &mut self.side_ranges[border.cells[end].0 as usize];
                self.sides[range.end] = BorderSide {
                    border: b as u32,
                    end: end as u8,
                    same_facet: one.facet == other.facet,
                    far_state: far.first_state as u32,
                    across: border.across[end],
                };
                range.end += 1;
            }
        }
    }

    /// How much room borders take.
    fn joined(&self) -> usize {
        self.borders.len() + self.pairs.len()
    }

    /// Borders wherever a cell of one list faces a cell of the other; both lists sorted, in the near running coordinate.
    fn merge(
        &mut self,
        near: &[(Interval, CellId)],
        far: &[(Interval, CellId)],
        run: &UnitedRun,
        cuts: &[(Interval, SheetId)],
    ) {
        let (mut i, mut j) = (0, 0);
        while i < near.len() && j < far.len() {
            if let Some(shared) = near[i].0.overlap(far[j].0) {
                self.border(near[i].1, far[j].1, shared, run, cuts);
            }
            if near[i].0.hi <= far[j].0.hi { i += 1 } else { j += 1 }
        }
    }

    /// One border, divided where a cut begins or ends on it.
    fn border(&mut self, near: CellId, far: CellId, shared: Interval, run: &UnitedRun, cuts: &[(Interval, SheetId)]) {
        let mut stops: SmallVec<[Length; 8]> = smallvec![shared.lo, shared.hi];
        stops.extend(cuts.iter().flat_map(|(c, _)| [c.lo, c.hi]).filter(|&t| t > shared.lo && t < shared.hi));
        stops.sort_unstable();
        stops.dedup();
        for pair in stops.windows(2) {
            let span = Interval { lo: pair[0], hi: pair[1] };
            let start = self.pairs.len();
            let cut: SmallVec<[SheetId; 4]> =
                cuts.iter().filter(|(c, _)| c.overlap(span).is_some()).map(|(_, s)| *s).collect();
            let [here, there] = [near, far].map(|c| &self.layers[self.cells[c.0 as usize].stack.clone()]);
            pair_up(here, there, &mut self.places, |pair, sheet| {
                if !cut.contains(&sheet) {
                    self.pairs.push(pair);
                }
            });
            let continuous = start..self.pairs.len();
            let across = [0, 1].map(|end| self.list_across([near, far], end, continuous.clone()));
            self.borders.push(Border {
                cells: [near, far],
                edges: run.edges,
                spans: [span, run.to_far(span)],
                flipped: run.flipped,
                continuous,
                across,
            });
        }
    }
}

/// Stacks of so many sheets are looked through one sheet after another.
const LOW: usize = 8;

/// Tells the places of every sheet that lies in both stacks, in the order of the first. `places` has room for each sheet of the layup.
fn pair_up(here: &[Layer], there: &[Layer], places: &mut [u16], mut tell: impl FnMut((u16, u16), SheetId)) {
    if here.len().min(there.len()) <= LOW {
        for (i, layer) in here.iter().enumerate() {
            if let Some(j) = there.iter().position(|l| l.sheet == layer.sheet) {
                tell((i as u16, j as u16), layer.sheet);
            }
        }
        return;
    }
    there.iter().enumerate().for_each(|(j, l)| places[l.sheet.0] = j as u16 + 1);
    for (i, layer) in here.iter().enumerate() {
        if let Some(j) = places[layer.sheet.0].checked_sub(1) {
            tell((i as u16, j), layer.sheet);
        }
    }
    there.iter().for_each(|l| places[l.sheet.0] = 0);
}

/// Edges of cells by the line they lie on: facet, which edge, and where.
type EdgeLine = (FacetId, Edge, Length);

/// The edges of all cells, those on one line together, along it.
struct Edges {
    lines: Vec<(EdgeLine, Range<usize>)>,
    all: Vec<(Interval, CellId)>,
}

impl Edges {
    fn of(cells: &[Cell]) -> Self {
        let each = |(i, cell): (usize, &Cell)| {
            let of =
                |edge: Edge| ((cell.facet, edge, edge.line_of(cell.rect)), edge.span_of(cell.rect), CellId(i as u32));
            [Edge::Left, Edge::Right, Edge::Bottom, Edge::Top].map(of)
        };
        let mut sorted: Vec<(EdgeLine, Interval, CellId)> = cells.iter().enumerate().flat_map(each).collect();
        sorted.sort_unstable_by_key(|(line, span, _)| (*line, span.lo));
        let mut lines: Vec<(EdgeLine, Range<usize>)> = Vec::new();
        for (i, (line, ..)) in sorted.iter().enumerate() {
            match lines.last_mut() {
                Some((last, range)) if last == line => range.end = i + 1,
                _ => lines.push((*line, i..i + 1)),
            }
        }
        Self { lines, all: sorted.into_iter().map(|(_, span, cell)| (span, cell)).collect() }
    }

    fn lines(&self) -> impl Iterator<Item = (&EdgeLine, &[(Interval, CellId)])> {
        self.lines.iter().map(|(line, range)| (line, &self.all[range.clone()]))
    }

    fn on(&self, facet: FacetId, edge: Edge, line: Length) -> &[(Interval, CellId)] {
        let found = self.lines.binary_search_by_key(&(facet, edge, line), |(l, _)| *l);
        found.map_or(&[], |i| &self.all[self.lines[i].1.clone()])
    }
}

/// How the running coordinates of two facing edges correspond.
struct UnitedRun {
    edges: [Edge; 2],
    flipped: bool,
    shift: Length,
}

impl UnitedRun {
    fn to_far(&self, near: Interval) -> Interval {
        if self.flipped {
            Interval::new(self.shift - near.lo, self.shift - near.hi)
        } else {
            Interval::new(near.lo + self.shift, near.hi + self.shift)
        }
    }

    fn to_near(&self, far: Interval) -> Interval {
        if self.flipped {
            Interval::new(self.shift - far.lo, self.shift - far.hi)
        } else {
            Interval::new(far.lo - self.shift, far.hi - self.shift)
        }
    }
}

impl Border {
    /// Between parts of gaps, of which each has one.
    pub(super) fn of_gaps(cells: [CellId; 2], edges: [Edge; 2], spans: [Interval; 2], flipped: bool) -> Self {
        Self { cells, edges, spans, flipped, continuous: 0..0, across: [0; 2] }
    }

    /// A coordinate along the border, from end `end`'s running coordinate to the other end's.
    pub fn across(&self, end: usize, at: f64) -> f64 {
        let (from, to) = (self.spans[end], self.spans[1 - end]);
        if self.flipped {
            to.hi.units() as f64 - (at - from.lo.units() as f64)
        } else {
            to.lo.units() as f64 + (at - from.lo.units() as f64)
        }
    }
}
