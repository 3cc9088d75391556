//! Gaps as wholes: where a gap runs on between the same two sheets over many cells, it is one.
//!
//! Effort and drainage follow the same rule all over a rectangle of one gap, so answers are the same with far fewer parts: sheets in steps, each
//! over the one before, divide a facet into cells by the square of their number, and each cell has a gap for each of its sheets, but between two
//! sheets there is one gap. A gap that would take many rectangles stays divided as the cells are: water comes into it from many sides, and in
//! small parts what comes from farther is soon left behind. Ways are not traced over wholes: they tell each edge that lies farther out, too.

use super::arrange::{Arrangement, Border, JOINED};
use super::cell::{Cell, CellId, LOOKED_AT};
use crate::layup::Layup;
use crate::length::Length;
use crate::stop::Stop;
use crate::surface::{Edge, Interval, Rect};
use foldhash::{HashMap, HashSet};
use std::ops::Range;

/// One gap of one cell.
#[derive(Clone, Copy)]
struct At {
    cell: CellId,
    gap: usize,
}

/// Where two parts of gaps meet: the part on either side, on which edges, and along which stretch of each.
#[derive(Clone, Copy)]
struct Meeting {
    parts: [u32; 2],
    edges: [Edge; 2],
    flipped: bool,
    spans: [Interval; 2],
    /// The border of cells along which they meet, or after all of those.
    along: usize,
}

/// The parts of all gaps: rectangles of one facet over which nothing changes for the water in them.
#[derive(Default)]
struct Parts {
    rects: Vec<Rect>,
    /// One of the states of each.
    like: Vec<u32>,
    /// For each state the one part over which its cell lies, or [`SEVERAL`].
    one: Vec<u32>,
    several: HashMap<u32, Vec<u32>>,
}

/// No part.
const NONE: u32 = u32::MAX;

/// More parts than one.
const SEVERAL: u32 = u32::MAX - 1;

/// After so many wholes and borders it is asked whether anybody still wants the answer.
const LOOK_UP: usize = 1024;

/// Of more rectangles than this no whole is made.
const FEW: usize = 8;

impl Arrangement {
    /// The same with a cell for each part of a gap; `None` where more would have to be looked at than so many layers allow, or nobody wants the
    /// answer any more.
    pub(super) fn of_gaps(&self, layup: &Layup, most: usize, stop: &Stop) -> Option<Self> {
        let gaps = Gaps::of(self);
        let parts = gaps.parts(most.saturating_mul(LOOKED_AT), stop)?;
        let meetings = self.meetings(&gaps, &parts, most.saturating_mul(JOINED), stop)?;
        let mut out = self.with_parts(layup, &gaps, parts);
        if !out.aim(layup, most) {
            return None;
        }
        out.borders = run_on(meetings);
        out.across = vec![[0, 1]];
        out.list_sides();
        Some(out)
    }

    /// A cell for each part, nothing else yet.
    fn with_parts(&self, layup: &Layup, gaps: &Gaps<'_>, parts: Parts) -> Self {
        let mut out = Self::empty(layup);
        let mut between = Vec::with_capacity(parts.rects.len());
        for (part, (rect, state)) in parts.rects.into_iter().zip(parts.like).enumerate() {
            let At { cell, gap } = gaps.each[state as usize];
            out.cells.push(Cell { facet: self.cell(cell).facet, rect, stack: 0..0, first_state: part });
            out.closed.push(self.closed[state as usize]);
            between.push(self.between(cell, gap));
        }
        for f in 0..layup.facets.len() {
            let start = out.cells.partition_point(|c| c.facet.0 < f);
            let end = out.cells.partition_point(|c| c.facet.0 <= f);
            out.facet_cells.push(start..end);
        }
        out.between = Some(between);
        out
    }

    /// Everywhere one part meets another, or itself across a stitch; `None` where there are more.
    fn meetings(&self, gaps: &Gaps<'_>, parts: &Parts, most: usize, stop: &Stop) -> Option<Vec<Meeting>> {
        let mut all = Vec::new();
        for (b, border) in self.borders.iter().enumerate() {
            let [near, far] = border.cells;
            let lines = [0, 1].map(|end| border.edges[end].line_of(self.cell(border.cells[end]).rect));
            for gap in 0..=self.stack(near).len() {
                let here = self.state(near, gap);
                for beyond in self.gaps_across(border, 0, gap) {
                    for &one in parts.over(here) {
                        for &other in parts.over(self.state(far, beyond)) {
                            let within = b < self.stitched && one == other;
                            all.extend((!within).then(|| parts.meeting(b, border, [one, other], lines)).flatten());
                        }
                    }
                }
                if all.len() > most {
                    return None;
                }
            }
            if b % LOOK_UP == 0 && stop.is_stopped() {
                return None;
            }
        }
        // Where a cell lies on several parts of one gap, those meet inside it.
        for (&state, over) in &parts.several {
            let cell = gaps.rect(state);
            for &one in over {
                for &other in over {
                    all.extend(parts.meeting_inside(cell, [one, other]));
                }
            }
            if all.len() > most {
                return None;
            }
        }
        Some(all)
    }
}

impl Parts {
    /// The parts over which the cell of a state lies.
    fn over(&self, state: usize) -> &[u32] {
        match &self.one[state] {
            &SEVERAL => &self.several[&(state as u32)],
            part => std::slice::from_ref(part),
        }
    }

    /// Adds a part.
    fn add(&mut self, rect: Rect, like: u32) -> u32 {
        self.rects.push(rect);
        self.like.push(like);
        self.rects.len() as u32 - 1
    }

    /// Notes that the cell of a state lies over a part.
    fn lies_over(&mut self, state: u32, part: u32) {
        match &mut self.one[state as usize] {
            one if *one == NONE || *one == part => *one = part,
            one => {
                let first = std::mem::replace(one, SEVERAL);
                let over = self.several.entry(state).or_default();
                over.extend((first != SEVERAL).then_some(first));
                if !over.contains(&part) {
                    over.push(part);
                }
            }
        }
    }

    /// Where two parts meet along a border; `lines` says where its edges lie.
    fn meeting(&self, along: usize, border: &Border, parts: [u32; 2], lines: [Length; 2]) -> Option<Meeting> {
        let rects = parts.map(|part| self.rects[part as usize]);
        if (0..2).any(|end| border.edges[end].line_of(rects[end]) != lines[end]) {
            return None;
        }
        let [near, far] = border.spans;
        let across = |x: Length, from: Interval, to: Interval| {
            if border.flipped { to.hi - (x - from.lo) } else { to.lo + (x - from.lo) }
        };
        let mapped = |span: Interval, from, to| {
            let [lo, hi] = [span.lo, span.hi].map(|x| across(x, from, to));
            Interval::new(lo.min(hi), lo.max(hi))
        };
        let here = near.overlap(border.edges[0].span_of(rects[0]))?;
        let there = mapped(here, near, far).overlap(border.edges[1].span_of(rects[1]))?;
        let spans = [mapped(there, far, near), there];
        Some(Meeting { parts, edges: border.edges, flipped: border.flipped, spans, along })
    }

    /// Where one part meets another to its right or above it, inside a cell.
    fn meeting_inside(&self, cell: Rect, parts: [u32; 2]) -> Option<Meeting> {
        let [one, other] = parts.map(|part| self.rects[part as usize]);
        let inside = |a: Interval, b: Interval, c: Interval| a.overlap(b)?.overlap(c);
        let meeting = |edges, span: Option<Interval>| {
            span.map(|span| Meeting { parts, edges, flipped: false, spans: [span; 2], along: usize::MAX })
        };
        if one.u1 == other.u0 && one.u1 > cell.u0 && one.u1 < cell.u1 {
            meeting([Edge::Right, Edge::Left], inside(one.along_v(), other.along_v(), cell.along_v()))
        } else if one.v1 == other.v0 && one.v1 > cell.v0 && one.v1 < cell.v1 {
            meeting([Edge::Top, Edge::Bottom], inside(one.along_u(), other.along_u(), cell.along_u()))
        } else {
            None
        }
    }
}

/// Makes one border of meetings of the same two parts that run on.
fn run_on(mut meetings: Vec<Meeting>) -> Vec<Border> {
    let place = |m: &Meeting| (m.parts, m.edges, m.flipped);
    meetings.sort_unstable_by_key(|m| (place(m), m.spans[0].lo, m.spans[1].lo));
    let mut kept: Vec<Meeting> = Vec::with_capacity(meetings.len());
    for next in meetings {
        if let Some(last) = kept.last_mut() {
            let [near, far] = last.spans;
            let beyond = if next.flipped { next.spans[1].hi == far.lo } else { next.spans[1].lo == far.hi };
            if place(last) == place(&next) && next.spans[0].lo == near.hi && beyond {
                let hull = |a: Interval, b: Interval| Interval::new(a.lo.min(b.lo), a.hi.max(b.hi));
                last.spans = [hull(near, next.spans[0]), hull(far, next.spans[1])];
                last.along = last.along.min(next.along);
                continue;
            }
        }
        kept.push(next);
    }
    // Along lines, as borders of cells are: fronts that come to a part from one side come one after the other.
    kept.sort_by_key(|m| m.along);
    let border = |m: &Meeting| Border::of_gaps(m.parts.map(CellId), m.edges, m.spans, m.flipped);
    kept.iter().map(border).collect()
}

/// The gaps of all cells, by state.
struct Gaps<'a> {
    a: &'a Arrangement,
    each: Vec<At>,
}

/// Edges of a cell in the order in which it is kept where a gap ends.
const EDGES: [Edge; 4] = [Edge::Left, Edge::Right, Edge::Bottom, Edge::Top];

impl<'a> Gaps<'a> {
    fn of(a: &'a Arrangement) -> Self {
        let cells = (0..a.cells.len()).map(|c| CellId(c as u32));
        let each = cells.flat_map(|cell| (0..=a.stack(cell).len()).map(move |gap| At { cell, gap })).collect();
        Self { a, each }
    }

    fn rect(&self, state: u32) -> Rect {
        self.a.cell(self.each[state as usize].cell).rect
    }

    /// Which states run on into each other across direct borders, and for each state which of its edges ([`EDGES`]) end what runs on, if only
    /// somewhere. Two run on where the one leads to nothing but the other and they lie between the same sheets; what is stitched on at an edge
    /// leads elsewhere.
    fn wholes(&self) -> (Wholes, Vec<[bool; 4]>) {
        let a = self.a;
        let stitched: HashSet<(CellId, Edge)> =
            a.borders[a.stitched..].iter().flat_map(|b| [0, 1].map(|end| (b.cells[end], b.edges[end]))).collect();
        let mut wholes = Wholes((0..self.each.len() as u32).collect());
        let mut covered = vec![[Length::ZERO; 4]; self.each.len()];
        for border in &a.borders[..a.stitched] {
            let [near, far] = border.cells;
            if (0..2).any(|end| stitched.contains(&(border.cells[end], border.edges[end]))) {
                continue;
            }
            for gap in 0..=a.stack(near).len() {
                let beyond = a.gaps_across(border, 0, gap);
                if beyond.len() != 1 || a.gaps_across(border, 1, beyond.start) != (gap..gap + 1) {
                    continue;
                }
                let states = [a.state(near, gap), a.state(far, beyond.start)];
                let [here, there] = states;
                if a.closed[here] == a.closed[there] && a.between(near, gap) == a.between(far, beyond.start) {
                    wholes.unite(states.map(|s| s as u32));
                    let edges = if border.edges[0].is_upright() { [1, 0] } else { [3, 2] };
                    for (state, edge) in states.into_iter().zip(edges) {
                        covered[state][edge] += border.spans[0].hi - border.spans[0].lo;
                    }
                }
            }
        }
        let ends = |(state, covered): (usize, &[Length; 4])| {
            let rect = self.rect(state as u32);
            [0, 1, 2, 3].map(|edge| {
                let span = EDGES[edge].span_of(rect);
                covered[edge] != span.hi - span.lo
            })
        };
        let ends = covered.iter().enumerate().map(ends).collect();
        (wholes, ends)
    }

    /// The parts of all gaps; `None` where more has to be looked at than `most`, or nobody wants the answer any more.
    fn parts(&self, most: usize, stop: &Stop) -> Option<Parts> {
        let (wholes, ends) = self.wholes();
        let (states, ranges) = wholes.listed();
        let mut parts = Parts { one: vec![NONE; self.each.len()], ..Parts::default() };
        let mut work = 0_usize;
        for (i, whole) in ranges.into_iter().enumerate() {
            let piece = |s: &u32| GapPiece { state: *s, rect: self.rect(*s), ends: ends[*s as usize] };
            let pieces: Vec<GapPiece> = states[whole].iter().map(piece).collect();
            work = work.saturating_add(divide(&pieces, &mut parts));
            if work > most || i % LOOK_UP == 0 && stop.is_stopped() {
                return None;
            }
        }
        Some(parts)
    }
}

/// One state of a whole gap while that is divided.
struct GapPiece {
    state: u32,
    rect: Rect,
    /// Which of its edges ([`EDGES`]) end the gap, if only somewhere.
    ends: [bool; 4],
}

impl GapPiece {
    /// Where its upright or level edges lie that end the gap.
    fn ended(&self, upright: bool) -> impl Iterator<Item = Length> {
        let Self { rect: r, ends: [left, right, bottom, top], .. } = *self;
        let [low, high] = if upright { [(left, r.u0), (right, r.u1)] } else { [(bottom, r.v0), (top, r.v1)] };
        [low, high].into_iter().filter(|(ends, _)| *ends).map(|(_, at)| at)
    }
}

/// Divides one whole gap into few rectangles: upright slices between the edges that end it, each divided at level ones; what is the same in the
/// next slice goes on. Where there were more than few, each piece is a part. How much was looked at.
fn divide(pieces: &[GapPiece], parts: &mut Parts) -> usize {
    let mut cuts: Vec<Length> = pieces.iter().flat_map(|p| p.ended(true)).collect();
    cuts.sort_unstable();
    cuts.dedup();
    let mut found: Vec<Rect> = Vec::new();
    let mut before: Vec<(Interval, usize)> = Vec::new();
    let mut work = pieces.len();
    for slice in cuts.windows(2) {
        let slice = Interval::new(slice[0], slice[1]);
        let here = || pieces.iter().filter(|p| p.rect.along_u().overlap(slice).is_some());
        // Upright edges that end something where this slice begins.
        let stopping = pieces.iter().filter(|p| p.ended(true).any(|u| u == slice.lo));
        let stops = stretches(stopping.map(|p| p.rect.along_v()).collect(), Vec::new());
        let level = here().flat_map(|p| p.ended(false)).collect();
        let mut now = Vec::new();
        for v in stretches(here().map(|p| p.rect.along_v()).collect(), level) {
            let stopped = stops[stops.partition_point(|s| s.hi <= v.lo)..].first().is_some_and(|s| s.lo < v.hi);
            let rect = Rect::new(slice.lo, v.lo, slice.hi, v.hi);
            let goes_on = before.iter().find(|(was, _)| *was == v && !stopped);
            let part = goes_on.map_or(found.len(), |(_, part)| *part);
            match found.get_mut(part) {
                Some(whole) => *whole = whole.hull(rect),
                None => found.push(rect),
            }
            now.push((v, part));
        }
        work += pieces.len();
        if found.len() > FEW {
            for p in pieces {
                let part = parts.add(p.rect, p.state);
                parts.lies_over(p.state, part);
            }
            return work;
        }
        before = now;
    }
    for rect in found {
        let part = parts.add(rect, pieces[0].state);
        pieces.iter().filter(|p| p.rect.overlaps(rect)).for_each(|p| parts.lies_over(p.state, part));
    }
    work
}

/// Stretches that touch or overlap made one, and divided where told.
fn stretches(mut each: Vec<Interval>, mut at: Vec<Length>) -> Vec<Interval> {
    each.sort_unstable_by_key(|i| (i.lo, i.hi));
    at.sort_unstable();
    at.dedup();
    let mut whole: Vec<Interval> = Vec::new();
    for next in each {
        match whole.last_mut() {
            Some(last) if next.lo <= last.hi => last.hi = last.hi.max(next.hi),
            _ => whole.push(next),
        }
    }
    let mut out = Vec::new();
    for mut rest in whole {
        let from = at.partition_point(|x| *x <= rest.lo);
        for x in at[from..].iter().take_while(|x| **x < rest.hi) {
            out.push(Interval::new(rest.lo, *x));
            rest.lo = *x;
        }
        out.push(rest);
    }
    out
}

/// Which states belong to one whole, each known by the first of its states.
struct Wholes(Vec<u32>);

impl Wholes {
    fn first(&mut self, mut state: u32) -> u32 {
        while self.0[state as usize] != state {
            let above = self.0[self.0[state as usize] as usize];
            self.0[state as usize] = above;
            state = above;
        }
        state
    }

    fn unite(&mut self, states: [u32; 2]) {
        let [one, other] = states.map(|s| self.first(s));
        self.0[one.max(other) as usize] = one.min(other);
    }

    /// All states, those of one whole together, and where each whole stands: wholes in the order of their first states.
    fn listed(mut self) -> (Vec<u32>, Vec<Range<usize>>) {
        let mut number = vec![NONE; self.0.len()];
        let mut ranges: Vec<Range<usize>> = Vec::new();
        for state in 0..self.0.len() {
            let first = self.first(state as u32) as usize;
            if first == state {
                number[state] = ranges.len() as u32;
                ranges.push(0..0);
            }
            // How many there are, until all are counted.
            ranges[number[first] as usize].end += 1;
            number[state] = number[first];
        }
        let mut start = 0;
        for range in &mut ranges {
            let count = range.end;
            *range = start..start;
            start += count;
        }
        let mut states = vec![0; self.0.len()];
        for (state, whole) in number.into_iter().enumerate() {
            let range = &mut ranges[whole as usize];
            states[range.end] = state as u32;
            range.end += 1;
        }
        (states, ranges)
    }
}
