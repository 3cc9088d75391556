//! How effort spreads from the sources through the gaps.
//!
//! Inside one cell and gap the least effort is the lower envelope of *fronts*: a front is a stretch of a border (or a source rectangle)
//! with an effort that changes linearly along it, from which effort grows by the rule of [`Metric`]. A front crosses a border as at most
//! three fronts, so the answer is exact without a grid; a front that another one beats everywhere in its cell is dropped.

use super::SIDEWAYS_PER_CLIMB;
use super::arrange::{Arrangement, CellId};
use crate::layup::{Glue, Layup, Scenario, Source};
use crate::length::Length;
use crate::surface::{Edge, Rect};
use std::cmp::Ordering;
use std::collections::{BinaryHeap, HashMap};

/// Efforts that differ by less than this many length units (a forty-millionth of an inch) count as equal.
const SAME: f64 = 0.025;

/// What moving costs on one facet, per unit of length.
#[derive(Clone, Copy, Debug)]
struct Metric {
    sideways: f64,
    /// Cost of going up `v`; negative on facets that fall toward `+v`, where going down costs its size.
    rise: f64,
}

impl Metric {
    fn of(rise: f64) -> Self {
        Self { sideways: 1.0 / SIDEWAYS_PER_CLIMB, rise }
    }

    /// The slopes that an effort along an edge can have.
    fn slopes(self, upright: bool) -> (f64, f64) {
        if upright { (self.rise.min(0.0), self.rise.max(0.0)) } else { (-self.sideways, self.sideways) }
    }
}

/// One convex piecewise linear function of one coordinate: a slope on `[lo, hi]`, the metric's slopes outside.
#[derive(Clone, Copy, Debug)]
struct Flank {
    lo: f64,
    hi: f64,
    slope: f64,
    before: f64,
    after: f64,
}

impl Flank {
    /// Value relative to that at `lo`.
    fn at(&self, x: f64) -> f64 {
        if x < self.lo {
            self.before * (x - self.lo)
        } else if x > self.hi {
            self.slope * (self.hi - self.lo) + self.after * (x - self.hi)
        } else {
            self.slope * (x - self.lo)
        }
    }

    /// The place of the least value in `[lo, hi]`, nearest to the front itself.
    fn least_in(&self, lo: f64, hi: f64) -> f64 {
        let here = if self.slope < 0.0 { self.hi } else { self.lo };
        let nearest = here.clamp(lo, hi);
        // Where moving back toward the front is free there may be a lower place at the far end.
        [nearest, lo, hi].into_iter().min_by(|a, b| self.at(*a).total_cmp(&self.at(*b))).unwrap_or(nearest)
    }

    /// The greatest of `self − other` on `[lo, hi]`.
    fn greatest_excess(&self, other: &Self, lo: f64, hi: f64) -> f64 {
        [lo, hi, self.lo.clamp(lo, hi), self.hi.clamp(lo, hi), other.lo.clamp(lo, hi), other.hi.clamp(lo, hi)]
            .into_iter()
            .map(|x| self.at(x) - other.at(x))
            .fold(f64::NEG_INFINITY, f64::max)
    }
}

/// A stretch from which effort spreads in one gap of one cell.
#[derive(Clone, Copy, Debug)]
pub struct Front {
    u: Flank,
    v: Flank,
    base: f64,
}

impl Front {
    fn new(metric: Metric, (u0, u1, slope_u): (f64, f64, f64), (v0, v1, slope_v): (f64, f64, f64), base: f64) -> Self {
        let (before_u, after_u) = metric.slopes(false);
        let (before_v, after_v) = metric.slopes(true);
        Self {
            u: Flank { lo: u0, hi: u1, slope: slope_u, before: before_u, after: after_u },
            v: Flank { lo: v0, hi: v1, slope: slope_v, before: before_v, after: after_v },
            base,
        }
    }

    /// Effort to be at a point, in length units.
    pub fn at(&self, u: f64, v: f64) -> f64 {
        self.base + self.u.at(u) + self.v.at(v)
    }

    /// The place of least effort inside a rectangle.
    pub fn least_in(&self, r: Rect) -> (f64, f64) {
        let [u0, v0, u1, v1] = units(r);
        (self.u.least_in(u0, u1), self.v.least_in(v0, v1))
    }

    /// The point of the front from which a point is reached.
    pub fn foot(&self, u: f64, v: f64) -> (f64, f64) {
        (u.clamp(self.u.lo, self.u.hi), v.clamp(self.v.lo, self.v.hi))
    }

    fn least(&self, r: Rect) -> f64 {
        let (u, v) = self.least_in(r);
        self.at(u, v)
    }

    /// True where `self` is nowhere in `r` harder to reach than `other`.
    fn beats(&self, other: &Self, r: Rect) -> bool {
        let [u0, v0, u1, v1] = units(r);
        let excess = self.u.greatest_excess(&other.u, u0, u1) + self.v.greatest_excess(&other.v, v0, v1);
        excess + self.base - other.base <= SAME
    }

    /// The bounding box of what is reached in `r` at an effort of at most `limit`; `None` where that has no area.
    pub fn within(&self, r: Rect, limit: f64) -> Option<[f64; 4]> {
        let [u0, v0, u1, v1] = units(r);
        let (lu, lv) = self.least_in(r);
        let spare = limit - self.at(lu, lv);
        if spare < -SAME {
            return None;
        }
        let (lo_u, hi_u) = reach_of(&self.u, lu, u0, u1, spare);
        let (lo_v, hi_v) = reach_of(&self.v, lv, v0, v1, spare);
        (hi_u - lo_u > SAME && hi_v - lo_v > SAME).then_some([lo_u, lo_v, hi_u, hi_v])
    }
}

/// How far from `least` the flank stays within `spare`, inside `[lo, hi]`.
fn reach_of(f: &Flank, least: f64, lo: f64, hi: f64, spare: f64) -> (f64, f64) {
    let floor = f.at(least);
    let go = |to: f64| {
        let (near, far) = (least.min(to), least.max(to));
        let mut stops = [f.lo.clamp(near, far), f.hi.clamp(near, far), to];
        stops.sort_by(|a, b| (a - least).abs().total_cmp(&(b - least).abs()));
        let mut at = least;
        for stop in stops {
            let (rise_at, rise_stop) = (f.at(at) - floor, f.at(stop) - floor);
            if rise_stop > spare + SAME {
                let share = ((spare - rise_at) / (rise_stop - rise_at)).clamp(0.0, 1.0);
                return at + (stop - at) * share;
            }
            at = stop;
        }
        at
    };
    (go(lo), go(hi))
}

pub(super) fn units(r: Rect) -> [f64; 4] {
    [r.u0, r.v0, r.u1, r.v1].map(|l| l.units() as f64)
}

/// Where a front came from.
#[derive(Clone, Copy, Debug)]
pub enum From {
    /// Straight out of a source rectangle.
    Source,
    /// From the open face of the neighbour across a border, entering at the other end.
    OpenFace {
        /// The border crossed.
        border: u32,
        /// At which end of it the open face lies.
        end: u8,
    },
    /// From another front across a border.
    Front {
        /// Index of the front before.
        front: u32,
        /// The border crossed.
        border: u32,
        /// At which end of it the front before lies.
        end: u8,
    },
}

/// A front that was kept.
#[derive(Clone, Copy, Debug)]
pub struct Kept {
    /// The front itself.
    pub front: Front,
    /// In which cell.
    pub cell: CellId,
    /// In which gap.
    pub gap: u16,
    /// Its predecessor.
    pub from: From,
    /// The front kept before it in the same gap of the same cell.
    previous: Option<u32>,
}

/// The least efforts of one scenario over the whole arrangement.
#[derive(Clone, Debug)]
pub struct Spread {
    /// All fronts that were kept, in the order in which they were settled.
    pub kept: Vec<Kept>,
    latest: Latest,
    /// True where open faces are wet from the start.
    pub rain: bool,
}

/// The front kept last in each gap of each cell. Rain wets most of a wall, a leak little of it.
#[derive(Clone, Debug)]
enum Latest {
    Everywhere(Vec<Option<u32>>),
    Here(HashMap<usize, u32>),
}

impl Latest {
    fn get(&self, state: usize) -> Option<u32> {
        match self {
            Self::Everywhere(all) => all[state],
            Self::Here(some) => some.get(&state).copied(),
        }
    }

    fn replace(&mut self, state: usize, front: u32) -> Option<u32> {
        match self {
            Self::Everywhere(all) => all[state].replace(front),
            Self::Here(some) => some.insert(state, front),
        }
    }
}

/// A front that was offered, by its place in the list of those; the least effort and the earliest offer come first.
struct Waiting {
    least: f64,
    offer: u32,
}

impl PartialEq for Waiting {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other) == Ordering::Equal
    }
}
impl Eq for Waiting {}
impl PartialOrd for Waiting {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}
impl Ord for Waiting {
    fn cmp(&self, other: &Self) -> Ordering {
        other.least.total_cmp(&self.least).then(other.offer.cmp(&self.offer))
    }
}

struct Run<'a> {
    layup: &'a Layup,
    a: &'a Arrangement,
    glue: Glue,
    spread: Spread,
    queue: BinaryHeap<Waiting>,
    offered: Vec<Kept>,
    limit: f64,
}

impl Spread {
    /// Spreads one scenario.
    pub fn new(layup: &Layup, a: &Arrangement, scenario: &Scenario) -> Self {
        Self::within(layup, a, scenario, None)
    }

    /// Spreads one scenario as far as an effort of `limit`; what is harder to reach counts as never reached.
    pub fn within(layup: &Layup, a: &Arrangement, scenario: &Scenario, limit: Option<Length>) -> Self {
        let rain = scenario.source == Source::Rain;
        let latest = if rain { Latest::Everywhere(vec![None; a.states()]) } else { Latest::Here(HashMap::new()) };
        let spread = Spread { kept: Vec::new(), latest, rain };
        let mut run = Run {
            layup,
            a,
            glue: scenario.glue,
            spread,
            queue: BinaryHeap::new(),
            offered: Vec::new(),
            limit: limit.map_or(f64::INFINITY, |l| l.units() as f64),
        };
        match &scenario.source {
            Source::Rain => run.rain(),
            Source::Leak { at, under } => {
                for cell in a.cells_of(at.facet) {
                    let Some(part) = a.cell(cell).rect.intersection(at.rect) else { continue };
                    let gap = match under {
                        None => a.stack(cell).len(),
                        Some(sheet) => match a.stack(cell).iter().position(|l| l.sheet == *sheet) {
                            Some(gap) => gap,
                            None => continue,
                        },
                    };
                    let [u0, v0, u1, v1] = units(part);
                    let front = Front::new(run.metric(cell), (u0, u1, 0.0), (v0, v1, 0.0), 0.0);
                    run.offer(front, cell, gap, From::Source);
                }
            }
        }
        run.settle();
        run.spread
    }

    /// The fronts kept in one gap of one cell.
    pub fn fronts(&self, a: &Arrangement, cell: CellId, gap: usize) -> impl Iterator<Item = (u32, &Kept)> + '_ {
        let latest = self.latest.get(a.state(cell, gap));
        std::iter::successors(latest, |i| self.kept[*i as usize].previous).map(|i| (i, &self.kept[i as usize]))
    }

    /// The least effort in `part` of one gap of one cell, with the front and the point that give it.
    pub fn least(&self, a: &Arrangement, cell: CellId, gap: usize, part: Rect) -> Option<(f64, u32, (f64, f64))> {
        self.fronts(a, cell, gap)
            .map(|(i, k)| {
                let (u, v) = k.front.least_in(part);
                (k.front.at(u, v), i, (u, v))
            })
            .min_by(|x, y| x.0.total_cmp(&y.0))
    }
}

impl Run<'_> {
    fn metric(&self, cell: CellId) -> Metric {
        Metric::of(self.layup.facets[self.a.cell(cell).facet.0].rise)
    }

    /// Every open face is wet: each border of one is a front of effort 0 in the gaps beside it.
    fn rain(&mut self) {
        for (b, border) in self.a.borders.iter().enumerate() {
            for end in 0..2 {
                let near = border.cells[end];
                let gap = self.a.stack(near).len();
                if !self.a.is_open_face(near, gap) {
                    continue;
                }
                let far = border.cells[1 - end];
                let span = border.spans[1 - end];
                let front = self.front_on(
                    far,
                    border.edges[1 - end],
                    (span.lo.units() as f64, span.hi.units() as f64, 0.0),
                    0.0,
                );
                for g in self.a.gaps_across(border, end, gap) {
                    if !self.a.is_open_face(far, g) {
                        self.offer(front, far, g, From::OpenFace { border: b as u32, end: end as u8 });
                    }
                }
            }
        }
    }

    /// A front along a stretch of one edge of a cell.
    fn front_on(&self, cell: CellId, edge: Edge, stretch: (f64, f64, f64), base: f64) -> Front {
        let line = edge.line_of(self.a.cell(cell).rect).units() as f64;
        let flat = (line, line, 0.0);
        if edge.is_upright() {
            Front::new(self.metric(cell), flat, stretch, base)
        } else {
            Front::new(self.metric(cell), stretch, flat, base)
        }
    }

    fn is_beaten(&self, front: &Front, cell: CellId, gap: usize) -> bool {
        let rect = self.a.cell(cell).rect;
        self.spread.fronts(self.a, cell, gap).any(|(_, k)| k.front.beats(front, rect))
    }

    fn offer(&mut self, front: Front, cell: CellId, gap: usize, from: From) {
        if self.a.is_closed(cell, gap, self.glue) || self.is_beaten(&front, cell, gap) {
            return;
        }
        let least = front.least(self.a.cell(cell).rect);
        if least > self.limit {
            return;
        }
        self.queue.push(Waiting { least, offer: self.offered.len() as u32 });
        self.offered.push(Kept { front, cell, gap: gap as u16, from, previous: None });
    }

    fn settle(&mut self) {
        while let Some(Waiting { offer, .. }) = self.queue.pop() {
            let kept = self.offered[offer as usize];
            let gap = usize::from(kept.gap);
            if self.is_beaten(&kept.front, kept.cell, gap) {
                continue;
            }
            let index = self.spread.kept.len() as u32;
            let previous = self.spread.latest.replace(self.a.state(kept.cell, gap), index);
            self.spread.kept.push(Kept { previous, ..kept });
            // Water that reaches an open face is out (a leak) or was there already (rain).
            if !self.a.is_open_face(kept.cell, gap) {
                self.cross(index, &kept);
            }
        }
    }

    fn cross(&mut self, index: u32, kept: &Kept) {
        let a = self.a;
        for (border, b, end) in a.borders_of(kept.cell) {
            let gaps = a.gaps_across(border, end, usize::from(kept.gap));
            if gaps.is_empty() {
                continue;
            }
            let far = border.cells[1 - end];
            let (edge, span) = (border.edges[end], border.spans[end]);
            let line = edge.line_of(a.cell(kept.cell).rect).units() as f64;
            let (along, off) = if edge.is_upright() {
                (&kept.front.v, kept.front.u.at(line))
            } else {
                (&kept.front.u, kept.front.v.at(line))
            };
            let far_edge = border.edges[1 - end];
            let slopes = self.metric(far).slopes(far_edge.is_upright());
            let pieces = pieces_on(along, span.lo.units() as f64, span.hi.units() as f64);
            let turned = pieces.into_iter().flatten().map(|p| p.turned(|x| border.across(end, x), border.flipped));
            let mut turned: Pieces = turned.collect();
            if border.flipped {
                turned.reverse();
            }
            for piece in closure(&turned, slopes) {
                let base = kept.front.base + off + piece.value;
                let front = self.front_on(far, far_edge, (piece.lo, piece.hi, piece.slope), base);
                for g in gaps.clone() {
                    if self.spread.rain && a.is_open_face(far, g) {
                        continue;
                    }
                    self.offer(front, far, g, From::Front { front: index, border: b, end: end as u8 });
                }
            }
        }
    }
}

/// A linear piece of an effort along a border: `value` at `lo`.
#[derive(Clone, Copy, Debug)]
struct Piece {
    lo: f64,
    hi: f64,
    value: f64,
    slope: f64,
}

/// A flank has at most three pieces.
type Pieces = smallvec::SmallVec<[Piece; 3]>;

impl Piece {
    /// The same piece in the far running coordinate.
    fn turned(self, map: impl Fn(f64) -> f64, flipped: bool) -> Self {
        if flipped {
            let at_hi = self.value + self.slope * (self.hi - self.lo);
            Self { lo: map(self.hi), hi: map(self.lo), value: at_hi, slope: -self.slope }
        } else {
            Self { lo: map(self.lo), hi: map(self.hi), ..self }
        }
    }
}

/// A flank on `[lo, hi]` as its linear pieces, from low to high.
fn pieces_on(f: &Flank, lo: f64, hi: f64) -> [Option<Piece>; 3] {
    let piece = |a: f64, b: f64, slope: f64| {
        let (a, b) = (a.max(lo), b.min(hi));
        (a < b).then(|| Piece { lo: a, hi: b, value: f.at(a), slope })
    };
    [piece(f64::NEG_INFINITY, f.lo, f.before), piece(f.lo, f.hi, f.slope), piece(f.hi, f64::INFINITY, f.after)]
}

/// What a convex effort along a border becomes where moving along it costs by the far side's slopes: the pieces whose slope lies strictly
/// between those stay; where there is none, the one point at which the slope passes from too falling to too rising.
fn closure(pieces: &[Piece], (least, most): (f64, f64)) -> Pieces {
    let inner: Pieces = pieces.iter().filter(|p| p.slope > least && p.slope < most).copied().collect();
    if !inner.is_empty() {
        return inner;
    }
    let point = |at: f64, value: f64| Pieces::from_iter([Piece { lo: at, hi: at, value, slope: 0.0 }]);
    match pieces.iter().find(|p| p.slope >= most) {
        Some(p) => point(p.lo, p.value),
        None => pieces.last().map_or_else(Pieces::new, |p| point(p.hi, p.value + p.slope * (p.hi - p.lo))),
    }
}
