//! How effort spreads from the sources through the gaps.
//!
//! Inside one cell and gap the least effort is the lower envelope of *fronts*: a front is a stretch of a border (or a source rectangle)
//! with an effort that changes linearly along it, from which effort grows by the rule of [`Metric`]. A front crosses a border as at most
//! three fronts, so the answer is exact without a grid; a front that another one beats everywhere in its cell is dropped.

use super::SIDEWAYS_PER_CLIMB;
use super::arrange::Arrangement;
use super::cell::CellId;
use crate::layup::{Glue, Layup, Scenario, Source};
use crate::length::Length;
use crate::stop::Stop;
use crate::surface::{Edge, FacetId, Interval, Rect};
use foldhash::{HashMap, HashMapExt};
use std::cell::RefCell;
use std::cmp::Reverse;
use std::collections::{BinaryHeap, VecDeque};
use std::ops::Range;

/// Efforts that differ by less than this many length units (a forty-millionth of an inch) count as equal.
const SAME: f64 = 0.025;

/// After so many fronts it is asked whether anybody still wants the answer.
const LOOK_UP: u32 = 1024;

/// How far water is followed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Bounds {
    /// The effort up to which water is followed; what is harder to reach counts as never reached.
    pub head: Option<Length>,
    /// Only what can reach this stretch of a facet within that effort need be followed: nothing else is asked about.
    pub core: Option<(FacetId, Interval)>,
}

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

    /// On an open face that a leak has reached: the water is out and goes nowhere from where it came out.
    const OUT: Self = Self { sideways: 0.0, rise: f64::INFINITY };

    /// The slopes that an effort along an edge can have.
    fn slopes(self, upright: bool) -> (f64, f64) {
        if self.rise == f64::INFINITY {
            return (f64::NEG_INFINITY, f64::INFINITY);
        }
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
        here.clamp(lo, hi)
    }

    /// The greatest value on `[lo, hi]`: a convex function has it at an end.
    fn greatest(&self, lo: f64, hi: f64) -> f64 {
        self.at(lo).max(self.at(hi))
    }

    /// The greatest of `self − other` on `[lo, hi]`: it lies at an end or where one of the two bends.
    fn greatest_excess(&self, other: &Self, lo: f64, hi: f64) -> f64 {
        let mut most = (self.at(lo) - other.at(lo)).max(self.at(hi) - other.at(hi));
        for bend in [self.lo, self.hi, other.lo, other.hi] {
            if bend > lo && bend < hi {
                most = most.max(self.at(bend) - other.at(bend));
            }
        }
        most
    }
}

/// What a front is along one coordinate: a stretch with a slope.
#[derive(Clone, Copy, Debug)]
struct BorderStretch {
    lo: f64,
    hi: f64,
    slope: f64,
}

impl BorderStretch {
    fn flank(self, (before, after): (f64, f64)) -> Flank {
        Flank { lo: self.lo, hi: self.hi, slope: self.slope, before, after }
    }
}

/// A stretch from which effort spreads in one gap of one cell.
#[derive(Clone, Copy, Debug)]
pub struct Front {
    u: BorderStretch,
    v: BorderStretch,
    base: f64,
    rise: f64,
}

impl Front {
    fn new(metric: Metric, u: (f64, f64, f64), v: (f64, f64, f64), base: f64) -> Self {
        let stretch = |(lo, hi, slope)| BorderStretch { lo, hi, slope };
        Self { u: stretch(u), v: stretch(v), base, rise: metric.rise }
    }

    /// The effort from here along `u` or, where `upright`, along `v`.
    fn flank(&self, upright: bool) -> Flank {
        let slopes = Metric::of(self.rise).slopes(upright);
        if upright { self.v.flank(slopes) } else { self.u.flank(slopes) }
    }

    /// Effort to be at a point, in length units.
    pub fn at(&self, u: f64, v: f64) -> f64 {
        self.base + self.flank(false).at(u) + self.flank(true).at(v)
    }

    /// True where the front is of water that is out: it is reached along the front and nowhere else.
    pub fn is_out(&self) -> bool {
        self.rise == f64::INFINITY
    }

    /// True where a part of the cell is reached from the front at all. Water that is out reaches what has a stretch in common with the front:
    /// touching its end is not enough.
    pub fn reaches(&self, part: Rect) -> bool {
        let [u0, v0, u1, v1] = units(part);
        let meets = |on: BorderStretch, lo: f64, hi: f64| {
            if on.lo == on.hi { lo <= on.lo && on.lo <= hi } else { on.lo.max(lo) < on.hi.min(hi) }
        };
        !self.is_out() || meets(self.u, u0, u1) && meets(self.v, v0, v1)
    }

    /// Left, bottom, right and top of the stretch it spreads from, in length units.
    pub fn stretch(&self) -> [f64; 4] {
        [self.u.lo, self.v.lo, self.u.hi, self.v.hi]
    }

    /// The place of least effort inside a rectangle.
    pub fn least_in(&self, r: Rect) -> (f64, f64) {
        let [u0, v0, u1, v1] = units(r);
        (self.flank(false).least_in(u0, u1), self.flank(true).least_in(v0, v1))
    }

    /// The point of the front from which a point is reached.
    pub fn foot(&self, u: f64, v: f64) -> (f64, f64) {
        (u.clamp(self.u.lo, self.u.hi), v.clamp(self.v.lo, self.v.hi))
    }

    /// The greatest effort inside a rectangle.
    fn most(&self, r: Rect) -> f64 {
        let [u0, v0, u1, v1] = units(r);
        self.base + self.flank(false).greatest(u0, u1) + self.flank(true).greatest(v0, v1)
    }

    /// True where `self` is nowhere in `r` harder to reach than `other`, which is reached most easily at `easiest`.
    fn beats(&self, other: &Self, r: Rect, easiest: (f64, f64)) -> bool {
        if self.at(easiest.0, easiest.1) - other.at(easiest.0, easiest.1) > SAME {
            return false;
        }
        let [u0, v0, u1, v1] = units(r);
        let excess = |upright: bool, lo, hi| self.flank(upright).greatest_excess(&other.flank(upright), lo, hi);
        let excess = excess(false, u0, u1) + excess(true, v0, v1);
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
        let (lo_u, hi_u) = reach_of(&self.flank(false), lu, u0, u1, spare);
        let (lo_v, hi_v) = reach_of(&self.flank(true), lv, v0, v1, spare);
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
pub struct KeptFront {
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
    pub kept: Vec<KeptFront>,
    latest: Latest,
    /// True where open faces are wet from the start.
    pub rain: bool,
}

impl Spread {
    /// The same in no more room than it takes.
    pub fn shrunk(mut self) -> Self {
        self.kept.shrink_to_fit();
        self
    }

    /// About how much room it takes.
    pub fn bytes(&self) -> usize {
        let latest = match &self.latest {
            Latest::Everywhere(all) => all.len() * size_of::<Option<u32>>(),
            Latest::Here(some) => some.capacity() * size_of::<(usize, u32)>(),
        };
        self.kept.len() * size_of::<KeptFront>() + latest
    }
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

/// A front that was offered, by its place in the list of those, and where: ordered by least effort, then by offer. All of it in one number, which
/// is compared in one go.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
struct Waiting(u128);

/// Set in a number where it is negative, and in the bits of [`Waiting`] where it is not: so they stand in the order of the numbers.
const SIGN: u64 = 1 << 63;

impl Waiting {
    fn new(least: f64, offer: u32, state: u32) -> Self {
        let bits = least.to_bits();
        let effort = if bits & SIGN == 0 { bits | SIGN } else { !bits };
        Self(u128::from(effort) << 64 | u128::from(offer) << 32 | u128::from(state))
    }

    fn least(self) -> f64 {
        let effort = (self.0 >> 64) as u64;
        f64::from_bits(if effort & SIGN == 0 { !effort } else { effort & !SIGN })
    }

    fn offer(self) -> u32 {
        (self.0 >> 32) as u32
    }

    fn state(self) -> u32 {
        self.0 as u32
    }
}

/// A front that was offered, and how many were kept by then: it was held against those.
#[derive(Clone, Copy)]
struct Offered {
    front: Front,
    cell: CellId,
    gap: u16,
    from: From,
    seen: u32,
}

/// What waits, the least effort first. Down costs nothing, so much of it waits at one level: that is taken in the order in which it came.
#[derive(Default)]
struct Queue {
    harder: BinaryHeap<Reverse<Waiting>>,
    /// What is as easy as what was taken last.
    level: VecDeque<Waiting>,
    easiest: f64,
}

impl Queue {
    fn clear(&mut self) {
        self.harder.clear();
        self.level.clear();
        self.easiest = 0.0;
    }

    /// Adds a front that was offered later than any before.
    fn push(&mut self, waiting: Waiting) {
        if waiting.least() == self.easiest {
            self.level.push_back(waiting);
        } else {
            self.harder.push(Reverse(waiting));
        }
    }

    fn pop(&mut self) -> Option<Waiting> {
        // What was offered before the level was reached comes before what was offered since.
        let sooner = |harder: &Reverse<Waiting>| self.level.front().is_none_or(|level| harder.0 < *level);
        if !self.harder.peek().is_some_and(sooner) {
            return self.level.pop_front();
        }
        let Reverse(next) = self.harder.pop()?;
        if self.level.is_empty() {
            self.easiest = next.least();
        }
        Some(next)
    }
}

/// Room to spread in, used again for the next scenario.
#[derive(Default)]
pub(super) struct RoomToSpread {
    queue: Queue,
    offered: Vec<Offered>,
    /// Effort by which all of a gap of a cell is reached, so that what is no easier need not be looked at; where water cannot be, less than any.
    reached: Vec<f64>,
    /// Beyond so many fronts nothing more is offered; `None` for no limit.
    pub(super) most_fronts: Option<usize>,
}

/// Room for more fronts than this is not kept.
const MOST_KEPT: usize = 1 << 16;

thread_local! {
    static ROOM: RefCell<RoomToSpread> = RefCell::default();
}

impl RoomToSpread {
    /// Spreads in the room that this thread has, or in new room while that is in use. Fresh room would grow from nothing each time, and most of
    /// what that takes is the system's.
    pub(super) fn of_thread<T>(spread: impl FnOnce(&mut Self) -> T) -> T {
        ROOM.with(|kept| match kept.try_borrow_mut() {
            Ok(mut room) => {
                room.most_fronts = None;
                let done = spread(&mut room);
                if room.offered.capacity() > MOST_KEPT {
                    *room = Self::default();
                }
                done
            }
            Err(_) => spread(&mut Self::default()),
        })
    }

    /// True where the last spread met the limit and is not done.
    pub(super) fn is_full(&self) -> bool {
        self.most_fronts.is_some_and(|most| self.offered.len() >= most)
    }
}

struct Spreading<'a> {
    layup: &'a Layup,
    a: &'a Arrangement,
    spread: Spread,
    limit: f64,
    /// Ends of the stretch that is asked about, with its facet.
    core: Option<(FacetId, f64, f64)>,
    stop: &'a Stop,
    room: &'a mut RoomToSpread,
}

impl Spread {
    /// Spreads one scenario.
    pub fn new(layup: &Layup, a: &Arrangement, scenario: &Scenario) -> Self {
        Self::within(layup, a, scenario, Bounds::default())
    }

    /// Spreads one scenario as far as it is followed.
    pub fn within(layup: &Layup, a: &Arrangement, scenario: &Scenario, bounds: Bounds) -> Self {
        Self::in_room(layup, a, scenario, bounds, &Stop::default(), &mut RoomToSpread::default())
    }

    /// The same in room that was spread in before. Where it is stopped it is not done.
    pub(super) fn in_room(
        layup: &Layup,
        a: &Arrangement,
        scenario: &Scenario,
        bounds: Bounds,
        stop: &Stop,
        room: &mut RoomToSpread,
    ) -> Self {
        let rain = scenario.source == Source::Rain;
        let latest = if rain { Latest::Everywhere(vec![None; a.states()]) } else { Latest::Here(HashMap::new()) };
        // Rain wets most of a wall, a leak little of it.
        let kept = Vec::with_capacity(if rain { 2 * a.states() } else { 0 });
        let spread = Spread { kept, latest, rain };
        let length = |l: Length| l.units() as f64;
        let core = bounds.core.map(|(facet, along)| (facet, length(along.lo), length(along.hi)));
        let mut run =
            Spreading { layup, a, spread, limit: bounds.head.map_or(f64::INFINITY, length), core, stop, room };
        run.room.queue.clear();
        run.room.offered.clear();
        run.nothing_reached(scenario.glue);
        match &scenario.source {
            Source::Rain => run.rain(),
            Source::Leak { at, under } => {
                for cell in a.cells_of(at.facet) {
                    let Some(part) = a.cell(cell).rect.intersection(at.rect) else { continue };
                    let Some(gap) = a.gap_behind(cell, *under) else { continue };
                    let [u0, v0, u1, v1] = units(part);
                    let front = Front::new(run.metric_in(cell, gap), (u0, u1, 0.0), (v0, v1, 0.0), 0.0);
                    run.offer(front, cell, gap..gap + 1, From::Source);
                }
            }
        }
        run.settle();
        run.spread
    }

    /// The fronts kept in one gap of one cell.
    pub fn fronts(&self, a: &Arrangement, cell: CellId, gap: usize) -> impl Iterator<Item = (u32, &KeptFront)> + '_ {
        let latest = self.latest.get(a.state(cell, gap));
        std::iter::successors(latest, |i| self.kept[*i as usize].previous).map(|i| (i, &self.kept[i as usize]))
    }

    /// The least effort in `part` of one gap of one cell, with the front and the point that give it.
    pub fn least(&self, a: &Arrangement, cell: CellId, gap: usize, part: Rect) -> Option<(f64, u32, (f64, f64))> {
        self.fronts(a, cell, gap)
            .filter(|(_, k)| k.front.reaches(part))
            .map(|(i, k)| {
                let (u, v) = k.front.least_in(part);
                (k.front.at(u, v), i, (u, v))
            })
            .min_by(|x, y| x.0.total_cmp(&y.0))
    }
}

impl Spreading<'_> {
    fn metric(&self, cell: CellId) -> Metric {
        Metric::of(self.layup.facets[self.a.cell(cell).facet.0].rise)
    }

    /// What moving costs in one gap of a cell. Water of a leak that has reached an open face is out and moves no more.
    fn metric_in(&self, cell: CellId, gap: usize) -> Metric {
        if !self.spread.rain && self.a.is_open_face(cell, gap) { Metric::OUT } else { self.metric(cell) }
    }

    /// For each gap of each cell: nothing is reached yet, and what water cannot be in, or where rain is anyway, never needs to be.
    fn nothing_reached(&mut self, glue: Glue) {
        let (a, rain) = (self.a, self.spread.rain);
        let reached = &mut self.room.reached;
        reached.clear();
        for i in 0..a.cells.len() {
            let cell = CellId(i as u32);
            let never = |gap| a.is_closed(cell, gap, glue) || rain && a.is_open_face(cell, gap);
            let gaps = 0..=a.stack(cell).len();
            reached.extend(gaps.map(|gap| if never(gap) { f64::NEG_INFINITY } else { f64::INFINITY }));
        }
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
                let along = (span.lo.units() as f64, span.hi.units() as f64, 0.0);
                let front = self.front_on(far, border.edges[1 - end], along, 0.0, self.metric(far));
                let gaps = self.a.gaps_across(border, end, gap);
                self.offer(front, far, gaps, From::OpenFace { border: b as u32, end: end as u8 });
            }
        }
    }

    /// A front along a stretch of one edge of a cell.
    fn front_on(&self, cell: CellId, edge: Edge, stretch: (f64, f64, f64), base: f64, metric: Metric) -> Front {
        let line = edge.line_of(self.a.cell(cell).rect).units() as f64;
        let flat = (line, line, 0.0);
        if edge.is_upright() {
            Front::new(metric, flat, stretch, base)
        } else {
            Front::new(metric, stretch, flat, base)
        }
    }

    /// Offers a front in some gaps of a cell, of which one at least has to be open to it.
    fn offer(&mut self, front: Front, cell: CellId, gaps: Range<usize>, from: From) {
        let rect = self.a.cell(cell).rect;
        let easiest = front.least_in(rect);
        let least = front.at(easiest.0, easiest.1);
        if least > self.limit || self.is_far(&front, cell, least) {
            return;
        }
        if self.room.is_full() {
            return;
        }
        let seen = self.spread.kept.len() as u32;
        for gap in gaps {
            let beaten =
                |run: &Self| run.spread.fronts(run.a, cell, gap).any(|(_, k)| k.front.beats(&front, rect, easiest));
            if self.room.reached[self.a.state(cell, gap)] <= least + SAME || beaten(self) {
                continue;
            }
            let (offer, state) = (self.room.offered.len() as u32, self.a.state(cell, gap) as u32);
            self.room.queue.push(Waiting::new(least, offer, state));
            self.room.offered.push(Offered { front, cell, gap: gap as u16, from, seen });
        }
    }

    /// True where nothing of what is asked about can be reached from a front within the limit: moving along costs the same everywhere.
    fn is_far(&self, front: &Front, cell: CellId, least: f64) -> bool {
        let Some((facet, lo, hi)) = self.core else { return false };
        let cell = self.a.cell(cell);
        if cell.facet != facet {
            return false;
        }
        let [u0, _, u1, _] = units(cell.rect);
        // The end of the cell toward the core, and how far it is from there.
        let (near, beyond) = match (u1 < lo, u0 > hi) {
            (true, _) => (u1, lo - u1),
            (_, true) => (u0, u0 - hi),
            _ => return false,
        };
        let along = front.flank(false);
        let there = least - along.at(along.least_in(u0, u1)) + along.at(near);
        there + beyond / SIDEWAYS_PER_CLIMB > self.limit
    }

    fn settle(&mut self) {
        let mut taken = 0_u32;
        while let Some(next) = self.room.queue.pop() {
            taken = taken.wrapping_add(1);
            if taken.is_multiple_of(LOOK_UP) && (self.stop.is_stopped() || self.room.is_full()) {
                return;
            }
            let (least, state) = (next.least(), next.state() as usize);
            if self.room.reached[state] <= least + SAME {
                continue;
            }
            let Offered { front, cell, gap, from, seen } = self.room.offered[next.offer() as usize];
            let rect = self.a.cell(cell).rect;
            let easiest = front.least_in(rect);
            let since = self.spread.fronts(self.a, cell, usize::from(gap)).take_while(|(i, _)| *i >= seen);
            if { since }.any(|(_, k)| k.front.beats(&front, rect, easiest)) {
                continue;
            }
            let index = self.spread.kept.len() as u32;
            let previous = self.spread.latest.replace(state, index);
            let kept = KeptFront { front, cell, gap, from, previous };
            self.spread.kept.push(kept);
            self.room.reached[state] = self.room.reached[state].min(front.most(rect));
            // Water that reaches an open face is out (a leak) or was there already (rain).
            if !self.a.is_open_face(cell, usize::from(gap)) {
                self.cross(index, &kept, least);
            }
        }
    }

    fn cross(&mut self, index: u32, kept: &KeptFront, least: f64) {
        let a = self.a;
        for side in a.sides_of(kept.cell) {
            let gaps = a.gaps_beyond(side, usize::from(kept.gap));
            // Back where it came from nothing is easier than it was.
            let came = match kept.from {
                From::Front { front, border, .. } if border == side.border && side.same_facet => {
                    Some(usize::from(self.spread.kept[front as usize].gap))
                }
                _ => None,
            };
            if came.is_some_and(|gap| gaps == (gap..gap + 1)) {
                continue;
            }
            let states = side.far_state as usize + gaps.start..side.far_state as usize + gaps.end;
            let no_easier = |run: &Self, than: f64| run.room.reached[states.clone()].iter().all(|r| *r <= than + SAME);
            if no_easier(self, least) {
                continue;
            }
            let (border, end) = (&a.borders[side.border as usize], usize::from(side.end));
            let far = border.cells[1 - end];
            let (edge, span) = (border.edges[end], border.spans[end]);
            let line = edge.line_of(a.cell(kept.cell).rect).units() as f64;
            let along = kept.front.flank(edge.is_upright());
            let base = kept.front.base + kept.front.flank(!edge.is_upright()).at(line);
            let (lo, hi) = (span.lo.units() as f64, span.hi.units() as f64);
            let at_border = base + along.at(along.least_in(lo, hi));
            if at_border > self.limit || no_easier(self, at_border) {
                continue;
            }
            let far_edge = border.edges[1 - end];
            let outermost = gaps.end - 1;
            let out = !self.spread.rain && a.is_open_face(far, outermost);
            let behind = if out { gaps.start..outermost } else { gaps };
            for gaps in [behind, outermost..outermost + usize::from(out)].into_iter().filter(|gaps| !gaps.is_empty()) {
                let metric = self.metric_in(far, gaps.start);
                let (least_slope, most_slope) = metric.slopes(far_edge.is_upright());
                let slopes = if border.flipped { (-most_slope, -least_slope) } else { (least_slope, most_slope) };
                for piece in crossing(&along, lo, hi, slopes) {
                    let piece = piece.turned(|x| border.across(end, x), border.flipped);
                    let along = (piece.lo, piece.hi, piece.slope);
                    let front = self.front_on(far, far_edge, along, base + piece.value, metric);
                    let from = From::Front { front: index, border: side.border, end: side.end };
                    self.offer(front, far, gaps.clone(), from);
                }
            }
        }
    }
}

/// A linear piece of an effort along a border: `value` at `lo`.
#[derive(Clone, Copy, Debug)]
struct EnvelopePiece {
    lo: f64,
    hi: f64,
    value: f64,
    slope: f64,
}

/// A flank has at most three pieces.
type Pieces = smallvec::SmallVec<[EnvelopePiece; 3]>;

impl EnvelopePiece {
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

/// What an effort along a border becomes where moving along it costs by the far side's slopes, in the near running coordinate: the pieces
/// of the flank on `[lo, hi]` whose slope lies strictly between those stay, from low to high; where there is none, the one point at which
/// the slope passes from too falling to too rising.
fn crossing(f: &Flank, lo: f64, hi: f64, (least, most): (f64, f64)) -> Pieces {
    let mut inner = Pieces::new();
    let mut turn = None;
    for (a, b, slope) in [(lo, f.lo, f.before), (f.lo, f.hi, f.slope), (f.hi, hi, f.after)] {
        let (a, b) = (a.max(lo), b.min(hi));
        if a >= b {
            continue;
        }
        if slope > least && slope < most {
            inner.push(EnvelopePiece { lo: a, hi: b, value: f.at(a), slope });
        } else if slope >= most && turn.is_none() {
            turn = Some(a);
        }
    }
    if inner.is_empty() {
        let at = turn.unwrap_or(hi);
        inner.push(EnvelopePiece { lo: at, hi: at, value: f.at(at), slope: 0.0 });
    }
    inner
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_waits_stands_in_the_order_of_its_effort_and_keeps_it(a in any::<f64>(), b in any::<f64>()) {
            let [one, other] = [a, b].map(|effort| Waiting::new(effort, 7, 9));
            prop_assert_eq!(one.cmp(&other), a.total_cmp(&b));
            prop_assert_eq!((one.least().to_bits(), one.offer(), one.state()), (a.to_bits(), 7, 9));
        }

        /// Held against a plain list: what is offered is hardly ever easier than what was taken last, and often as easy.
        #[test]
        fn a_queue_gives_the_least_effort_first_and_of_those_the_earliest_offer(
            done in prop::collection::vec(prop::option::weighted(0.6, prop_oneof![Just(0.0), Just(1.0), Just(2.5), Just(-1e-9)]), 1..80),
        ) {
            let (mut queue, mut list, mut last) = (Queue::default(), Vec::new(), 0.0);
            for (offer, harder) in done.into_iter().enumerate() {
                if let Some(by) = harder {
                    let waiting = Waiting::new(last + by, offer as u32, 0);
                    queue.push(waiting);
                    list.push(waiting);
                    continue;
                }
                let first = list.iter().copied().min();
                list.retain(|w| Some(*w) != first);
                prop_assert!(queue.pop() == first, "after {offer}");
                last = first.map_or(last, Waiting::least);
            }
        }
    }
}
