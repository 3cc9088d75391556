//! What the water model is asked about a stage: all of it at once, or part by part along the wall.

use super::stage::Stage;
use crate::layup::{
    Bond, DEFAULT_DRAIN_HEAD, Depth, Glue, Layup, OnSheet, Region, Scenario, Sheet, SheetId, Source, Target,
};
use crate::length::Length;
use crate::plan::{AsBuilt, Plan, PlanStitchEnd, SurfaceId};
use crate::recipe::schools::Feature;
use crate::surface::{Facet, FacetId, Interval, Patch, Rect, Segment, Stitch, StitchEnd};
use crate::trade::{PieceId, SealId, StepId};
use foldhash::fast::FixedState;
use foldhash::{HashMap, HashMapExt, HashSet};
use rayon::prelude::*;
use smallvec::{SmallVec, smallvec};
use std::hash::{BuildHasher, Hash, Hasher};
use typed_index_collections::TiVec;

/// Name of the scenario "rain".
pub const RAIN: &str = "rain";
/// Name of the scenario "rain with glue lost".
pub const RAIN_NO_GLUE: &str = "rain-no-glue";

/// What the parts of a layup are in the plan.
#[derive(Clone, Debug, Default)]
pub struct Named {
    /// The piece of each sheet.
    pub pieces: Vec<PieceId>,
    /// The surface of each facet.
    pub surfaces: Vec<SurfaceId>,
    /// The target of the plan behind each target.
    pub targets: Vec<usize>,
    /// The leak of the plan behind each scenario; `None` for rain.
    pub leaks: Vec<Option<usize>>,
}

/// A layup and what its parts are in the plan.
#[derive(Clone, Debug)]
pub struct StageLayup {
    /// The layup itself.
    pub layup: Layup,
    /// Its parts in the plan.
    pub named: Named,
}

/// Who is told what a layup is made of, one thing after another: it is written down, or only its mark is taken.
trait Listener {
    fn facet(&mut self, facet: &Facet, rise: f64, exposed: bool);
    fn stitch(&mut self, stitch: Stitch);
    fn void(&mut self, at: Patch);
    fn sheet(&mut self, id: &str, bond: Bond, cap: bool);
    fn cut(&mut self, sheet: SheetId, cut: Segment);
    fn region(&mut self, sheet: SheetId, region: Region);
    fn seal(&mut self, seal: OnSheet);
    fn fault(&mut self, fault: OnSheet);
    fn target(&mut self, id: &str, at: Patch, depth: Depth);
    fn outlet(&mut self, at: Patch);
    fn scenario(&mut self, id: &str, source: Source, glue: Glue);
}

impl Listener for Layup {
    fn facet(&mut self, facet: &Facet, rise: f64, exposed: bool) {
        self.facets.push(Facet { rise, exposed, ..facet.clone() });
    }

    fn stitch(&mut self, stitch: Stitch) {
        self.stitches.push(stitch);
    }

    fn void(&mut self, at: Patch) {
        self.voids.push(at);
    }

    fn sheet(&mut self, id: &str, bond: Bond, cap: bool) {
        self.sheets.push(Sheet { id: id.to_owned(), bond, cap, regions: Vec::new(), cuts: Vec::new() });
    }

    fn cut(&mut self, sheet: SheetId, cut: Segment) {
        self.sheets[sheet.0].cuts.push(cut);
    }

    fn region(&mut self, sheet: SheetId, region: Region) {
        self.sheets[sheet.0].regions.push(region);
    }

    fn seal(&mut self, seal: OnSheet) {
        self.seals.push(seal);
    }

    fn fault(&mut self, fault: OnSheet) {
        self.faults.push(fault);
    }

    fn target(&mut self, id: &str, at: Patch, depth: Depth) {
        self.targets.push(Target { id: id.to_owned(), at, depth });
    }

    fn outlet(&mut self, at: Patch) {
        self.outlets.push(at);
    }

    fn scenario(&mut self, id: &str, source: Source, glue: Glue) {
        self.scenarios.push(Scenario { id: id.to_owned(), source, glue, drain_head: DEFAULT_DRAIN_HEAD });
    }
}

/// What tells one layup from another: a hash of 128 bits over all that is told of it. Layups of the same mark are taken for the same.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct LayupMark(u64, u64);

impl LayupMark {
    /// The mark of the same layup with its window's sides open.
    pub fn open_sided(self) -> Self {
        Self(!self.0, !self.1)
    }
}

/// Room for the words of a part of a wall.
const WORDS: usize = 1 << 13;

/// Takes the mark of what it is told: all of it in words, of which the hashes are taken at the end.
struct Marking {
    words: Vec<u64>,
}

impl Marking {
    /// Each kind of thing by a number of its own, so that a seal is not taken for a fault.
    fn add(&mut self, kind: u8, what: impl Hash) {
        kind.hash(self);
        what.hash(self);
    }

    fn mark(&self) -> LayupMark {
        let [one, other] = [1, 2].map(|seed| FixedState::with_seed(seed).hash_one(&self.words[..]));
        LayupMark(one, other)
    }
}

/// A word for each number; for text its length and as many as it takes, the last filled up.
impl Hasher for Marking {
    fn finish(&self) -> u64 {
        self.mark().0
    }

    fn write(&mut self, bytes: &[u8]) {
        self.words.push(bytes.len() as u64);
        let (whole, rest) = bytes.as_chunks();
        self.words.extend(whole.iter().map(|word| u64::from_le_bytes(*word)));
        if !rest.is_empty() {
            self.words.push(rest.iter().rev().fold(0, |word, byte| word << 8 | u64::from(*byte)));
        }
    }

    fn write_u8(&mut self, n: u8) {
        self.words.push(n.into());
    }

    fn write_u32(&mut self, n: u32) {
        self.words.push(n.into());
    }

    fn write_u64(&mut self, n: u64) {
        self.words.push(n);
    }

    fn write_usize(&mut self, n: usize) {
        self.words.push(n as u64);
    }
}

impl Listener for Marking {
    fn facet(&mut self, facet: &Facet, rise: f64, exposed: bool) {
        self.add(0, (&facet.id, facet.width, facet.height, rise.to_bits(), exposed));
    }

    fn stitch(&mut self, stitch: Stitch) {
        self.add(1, stitch);
    }

    fn void(&mut self, at: Patch) {
        self.add(2, at);
    }

    fn sheet(&mut self, id: &str, bond: Bond, cap: bool) {
        self.add(3, (id, bond, cap));
    }

    fn cut(&mut self, sheet: SheetId, cut: Segment) {
        self.add(4, (sheet, cut));
    }

    fn region(&mut self, sheet: SheetId, region: Region) {
        self.add(5, (sheet, region));
    }

    fn seal(&mut self, seal: OnSheet) {
        self.add(6, seal);
    }

    fn fault(&mut self, fault: OnSheet) {
        self.add(7, fault);
    }

    fn target(&mut self, id: &str, at: Patch, depth: Depth) {
        self.add(8, (id, at, depth));
    }

    fn outlet(&mut self, at: Patch) {
        self.add(9, at);
    }

    fn scenario(&mut self, id: &str, source: Source, glue: Glue) {
        self.add(10, (id, source, glue));
    }
}

/// A part of a stage as the water model is asked about it, not yet written down.
pub struct WaterQuestion<'a> {
    ground: &'a Ground<'a>,
    window: Option<WallWindow>,
    lists: Lists,
}

impl WaterQuestion<'_> {
    /// What tells it from others, and what its parts are in the plan.
    pub fn mark(&self) -> (LayupMark, Named) {
        let mut marking = Marking { words: Vec::with_capacity(WORDS) };
        let named = self.ground.tell(self.window.as_ref(), &self.lists, &mut marking);
        (marking.mark(), named)
    }

    /// The layup.
    pub fn layup(&self) -> Layup {
        self.ground.layup(self.window.as_ref(), &self.lists).layup
    }
}

/// A stretch of the wall: places in `core` are asked about, and everything that can matter to them lies within `span`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct WallWindow {
    /// Whose places are asked about.
    pub core: Interval,
    /// The core with the openings that it answers for, whole.
    pub whole: Interval,
    /// What is looked at for them.
    pub span: Interval,
    /// What is looked at beyond the corner at which walls that go all the way round come back to their start.
    pub beyond: Option<Interval>,
}

impl WallWindow {
    /// What is looked at, as stretches of the face.
    pub fn spans(&self) -> impl Iterator<Item = Interval> {
        [self.span].into_iter().chain(self.beyond)
    }
}

/// Numbers of everything in the plan and on the stage that reaches into a window.
#[derive(Clone, Debug, Default)]
struct Lists {
    surfaces: Vec<SurfaceId>,
    stitches: Vec<usize>,
    openings: Vec<usize>,
    layers: Vec<usize>,
    seals: Vec<SealId>,
    as_built: Vec<usize>,
    targets: Vec<usize>,
    outlets: Vec<usize>,
    leaks: Vec<usize>,
}

/// What holds for the whole stage, whatever part of it is asked about.
struct Ground<'a> {
    plan: &'a Plan,
    stage: &'a Stage,
    /// Which openings the barrier does not span.
    open: Vec<bool>,
    /// Which surfaces are there.
    there: TiVec<SurfaceId, bool>,
    slits: HashMap<PieceId, Vec<Segment>>,
}

/// Windows along a wall, each with what of the plan reaches into it: what can be known before the stage is.
pub struct Windows {
    each: Vec<WallWindow>,
    lists: Vec<Lists>,
}

impl Windows {
    /// The windows along a plan's wall, each with a core of at most `step` and a margin of `reach` round that.
    pub fn along(plan: &Plan, step: Length, reach: Length) -> Self {
        let each = windows(plan, step, reach);
        let mut lists = vec![Lists::default(); each.len()];
        let into = Reaching::new(&each);
        for (i, s) in plan.surfaces.iter_enumerated() {
            into.each(extent(plan, i, s.facet.rect())).for_each(|w| lists[w].surfaces.push(i));
        }
        let mut closing = Vec::new();
        for (i, (a, b)) in plan.stitches.iter().enumerate() {
            let off_wall = |e: &PlanStitchEnd| (e.on != SurfaceId::WALL).then_some(e.on);
            // The wall joins itself only where it closes.
            let Some(on) = off_wall(a).or(off_wall(b)) else {
                closing.push(i);
                continue;
            };
            into.each(extent(plan, on, plan.surfaces[on].facet.rect())).for_each(|w| lists[w].stitches.push(i));
        }
        let closes = lists.iter_mut().zip(&each).filter(|(_, w)| w.beyond.is_some());
        closes.for_each(|(l, _)| l.stitches.extend(&closing));
        for (i, o) in plan.openings.iter().enumerate() {
            into.each(o.rect.along_u()).for_each(|w| lists[w].openings.push(i));
        }
        for (i, a) in plan.departures.as_built.iter().enumerate() {
            let (on, rect) = a.place();
            into.each(extent(plan, on, rect)).for_each(|w| lists[w].as_built.push(i));
        }
        for (i, t) in plan.water.targets.iter().enumerate() {
            into.each(extent(plan, t.on, t.rect)).for_each(|w| lists[w].targets.push(i));
        }
        for (i, r) in plan.water.outlets.iter().enumerate() {
            into.each(r.along_u()).for_each(|w| lists[w].outlets.push(i));
        }
        for (i, leak) in plan.water.leaks.iter().enumerate() {
            into.each(extent(plan, leak.on, leak.rect)).for_each(|w| lists[w].leaks.push(i));
        }
        Self { each, lists }
    }

    /// The same windows, each also with what of a stage reaches into it.
    fn with(mut self, plan: &Plan, stage: &Stage) -> Self {
        let (into, lists) = (Reaching::new(&self.each), &mut self.lists);
        for (i, laid) in stage.shedding() {
            into.each(extent(plan, laid.on, laid.rect)).for_each(|w| lists[w].layers.push(i));
        }
        for &seal in &stage.seals {
            let each = plan.seals[seal].rects.iter().map(|(on, r)| extent(plan, *on, *r));
            if let Some(at) = each.reduce(|a, b| Interval { lo: a.lo.min(b.lo), hi: a.hi.max(b.hi) }) {
                into.each(at).for_each(|w| lists[w].seals.push(seal));
            }
        }
        self
    }

    /// The windows from left to right.
    pub fn each(&self) -> &[WallWindow] {
        &self.each
    }

    /// What tells each from others by the plan alone: where it is, and what stands in it with its flashings.
    pub fn outlines(&self, plan: &Plan) -> Vec<u64> {
        let into = Reaching::new(&self.each);
        let mut stands: Vec<Vec<(Rect, Rect)>> = vec![Vec::new(); self.each.len()];
        for o in &plan.openings {
            into.each(o.hull.along_u()).for_each(|w| stands[w].push((o.rect, o.hull)));
        }
        self.each
            .iter()
            .zip(&stands)
            .map(|(w, stands)| FixedState::default().hash_one((w.span, w.beyond, stands)))
            .collect()
    }

    /// The windows of these places in the list, with what reaches into them.
    pub fn some(&self, which: &[usize]) -> Self {
        let lists = which.iter().map(|i| self.lists[*i].clone()).collect();
        Self { each: which.iter().map(|i| self.each[*i]).collect(), lists }
    }

    /// The steps on the wall, and at what reaches into these windows with its flashings: what is done elsewhere does not change what lies here.
    pub fn steps(&self, plan: &Plan) -> TiVec<StepId, bool> {
        let into = Reaching::new(&self.each);
        let near = plan.openings.iter().filter(|o| into.each(o.hull.along_u()).next().is_some());
        let near: HashSet<&str> = near.map(|o| o.id.as_str()).collect();
        plan.steps.iter().map(|s| s.opening.as_ref().is_none_or(|o| near.contains(o.as_str()))).collect()
    }
}

/// Finds the windows into which something reaches.
struct Reaching<'a> {
    windows: &'a [WallWindow],
    /// Those that look round the corner that closes the walls: few.
    round: Vec<usize>,
}

impl<'a> Reaching<'a> {
    fn new(windows: &'a [WallWindow]) -> Self {
        Self { windows, round: (0..windows.len()).filter(|i| windows[*i].beyond.is_some()).collect() }
    }

    fn each(&self, at: Interval) -> impl Iterator<Item = usize> {
        let first = self.windows.partition_point(|w| w.span.hi <= at.lo);
        let past = first + self.windows[first..].iter().take_while(|w| w.span.lo < at.hi).count();
        let round = move |i: &usize| {
            !(first..past).contains(i) && self.windows[*i].beyond.is_some_and(|b| b.overlap(at).is_some())
        };
        (first..past).chain(self.round.iter().copied().filter(round))
    }
}

/// Where along the wall something on a surface lies: what is on a return lies where its opening does.
fn extent(plan: &Plan, on: SurfaceId, rect: Rect) -> Interval {
    match plan.surfaces[on].opening {
        _ if on == SurfaceId::WALL => rect.along_u(),
        Some(o) => plan.openings[o].rect.along_u(),
        None => plan.surfaces[SurfaceId::WALL].facet.rect().along_u(),
    }
}

/// Windows along a wall: each a core of at most `step`, with a margin of `reach` round it and round the openings in it, and no opening cut.
fn windows(plan: &Plan, step: Length, reach: Length) -> Vec<WallWindow> {
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let with_returns: Vec<bool> = {
        let mut any = vec![false; plan.openings.len()];
        plan.surfaces.iter().filter_map(|s| s.opening).for_each(|o| any[o] = true);
        any
    };
    let openings: Vec<Interval> =
        plan.openings.iter().zip(&with_returns).filter(|(_, any)| **any).map(|(o, _)| o.rect.along_u()).collect();
    let cores = std::iter::successors(Some(wall.u0), |u| Some(*u + step)).take_while(|u| *u < wall.u1);
    let mut out: Vec<WallWindow> = cores
        .map(|lo| {
            let core = Interval { lo, hi: (lo + step).min(wall.u1) };
            let mine = openings.iter().filter(|o| holds(core, **o));
            let (lo, hi) = mine.fold((core.lo, core.hi), |(lo, hi), o| (lo.min(o.lo), hi.max(o.hi)));
            let whole = Interval { lo, hi };
            let mut span = Interval { lo: lo - reach, hi: hi + reach };
            while let Some(o) = openings.iter().find(|o| {
                let cut = o.overlap(span);
                cut.is_some_and(|c| c != **o)
            }) {
                span = Interval { lo: span.lo.min(o.lo), hi: span.hi.max(o.hi) };
            }
            WallWindow {
                core,
                whole,
                span: Interval { lo: span.lo.max(wall.u0), hi: span.hi.min(wall.u1) },
                beyond: None,
            }
        })
        .collect();
    // A window is never within another, so that what reaches into them is a run of neighbours.
    for i in 1..out.len() {
        out[i].span.hi = out[i].span.hi.max(out[i - 1].span.hi);
    }
    for i in (1..out.len()).rev() {
        out[i - 1].span.lo = out[i - 1].span.lo.min(out[i].span.lo);
    }
    // Round the corner that closes the walls, too; an opening there is looked at whole.
    if plan.walls.round {
        let left = openings.iter().filter(|o| o.lo < wall.u0 + reach).fold(wall.u0 + reach, |to, o| to.max(o.hi));
        let right = openings.iter().filter(|o| o.hi > wall.u1 - reach).fold(wall.u1 - reach, |to, o| to.min(o.lo));
        for w in &mut out {
            if w.span.lo == wall.u0 && w.span.hi < right {
                w.beyond = Some(Interval { lo: right, hi: wall.u1 });
            } else if w.span.hi == wall.u1 && w.span.lo > left {
                w.beyond = Some(Interval { lo: wall.u0, hi: left });
            }
        }
    }
    out
}

/// True where the middle of a stretch lies in a core.
fn holds(core: Interval, stretch: Interval) -> bool {
    let twice = stretch.lo + stretch.hi;
    core.lo + core.lo <= twice && twice < core.hi + core.hi
}

/// What things of the plan are called in a layup, where they are in it.
struct LayupNumbers<I>(TiVec<I, u32>);

impl<I> LayupNumbers<I>
where
    usize: From<I>,
{
    fn of(things: usize) -> Self {
        Self(vec![u32::MAX; things].into())
    }

    fn put(&mut self, thing: I, number: usize) {
        self.0[thing] = number as u32;
    }

    fn get(&self, thing: I) -> Option<usize> {
        let number = self.0[thing];
        (number != u32::MAX).then_some(number as usize)
    }
}

/// The sheets of a layup.
struct Sheets {
    /// The number of each piece's sheet.
    sheets: LayupNumbers<PieceId>,
    /// The rank of each piece's last layer.
    last: LayupNumbers<PieceId>,
    /// For each rank that of the layer of the same piece before it.
    before: Vec<Option<usize>>,
}

impl Sheets {
    fn of(&self, piece: PieceId) -> Option<SheetId> {
        self.sheets.get(piece).map(SheetId)
    }

    /// The ranks of a piece's layers, the last first.
    fn ranks(&self, piece: PieceId) -> impl Iterator<Item = usize> {
        std::iter::successors(self.last.get(piece), |rank| self.before[*rank])
    }
}

/// What a window shows.
struct Shown<'a> {
    window: Option<&'a WallWindow>,
    /// The facet of each surface.
    facets: LayupNumbers<SurfaceId>,
}

impl Shown<'_> {
    fn facet(&self, on: SurfaceId) -> Option<FacetId> {
        self.facets.get(on).map(FacetId)
    }

    /// Tells each part of a rectangle that is shown.
    fn of(&self, on: SurfaceId, rect: Rect, mut each: impl FnMut(Patch)) {
        let Some(facet) = self.facet(on) else { return };
        match self.window {
            Some(w) if on == SurfaceId::WALL => {
                for cut in w.spans().filter_map(|span| rect.along_u().overlap(span)) {
                    each(Patch { facet, rect: Rect { u0: cut.lo, u1: cut.hi, ..rect } });
                }
            }
            _ => each(Patch { facet, rect }),
        }
    }

    /// The first part that is shown.
    fn first(&self, on: SurfaceId, rect: Rect) -> Option<Patch> {
        let mut first = None;
        self.of(on, rect, |at| first = first.or(Some(at)));
        first
    }
}

impl<'a> Ground<'a> {
    fn new(plan: &'a Plan, stage: &'a Stage) -> Self {
        let open: Vec<bool> = stage.uncovered(plan);
        let there = plan
            .surfaces
            .iter()
            .map(|s| s.opening.is_none_or(|o| open[o]) && s.with.is_none_or(|piece| stage.has(piece)));
        let mut slits: HashMap<PieceId, Vec<Segment>> = HashMap::new();
        for (piece, slit) in &stage.slits {
            slits.entry(*piece).or_default().push(*slit);
        }
        Self { plan, stage, there: there.collect(), open, slits }
    }

    /// Everything, for the whole wall.
    fn all(&self) -> Lists {
        let every = |n: usize| (0..n).collect::<Vec<_>>();
        let plan = self.plan;
        Lists {
            surfaces: plan.surfaces.keys().collect(),
            stitches: every(plan.stitches.len()),
            openings: every(plan.openings.len()),
            layers: self.stage.shedding().map(|(i, _)| i).collect(),
            seals: self.stage.seals.clone(),
            as_built: every(plan.departures.as_built.len()),
            targets: every(plan.water.targets.len()),
            outlets: every(plan.water.outlets.len()),
            leaks: every(plan.water.leaks.len()),
        }
    }

    /// The part of a target that a window asks about.
    fn asked(&self, window: Option<&WallWindow>, on: SurfaceId, rect: Rect) -> Option<Rect> {
        let Some(w) = window else { return Some(rect) };
        if on != SurfaceId::WALL {
            return holds(w.core, extent(self.plan, on, rect)).then_some(rect);
        }
        let cut = rect.along_u().overlap(w.core)?;
        Some(Rect { u0: cut.lo, u1: cut.hi, ..rect })
    }

    /// Tells what the water model is asked about a window, in the order in which a layup lists it.
    fn tell(&self, window: Option<&WallWindow>, lists: &Lists, to: &mut impl Listener) -> Named {
        let mut named = Named::default();
        let shown = self.tell_ground(window, lists, &mut named, to);
        let sheets = self.tell_sheets(&shown, lists, &mut named, to);
        self.tell_seals_and_faults(&shown, lists, &sheets, to);
        self.tell_targets(&shown, lists, &mut named, to);
        self.tell_scenarios(&shown, lists, &sheets, &mut named, to);
        named
    }

    /// Facets, stitches and voids.
    fn tell_ground<'w>(
        &self,
        window: Option<&'w WallWindow>,
        lists: &Lists,
        named: &mut Named,
        to: &mut impl Listener,
    ) -> Shown<'w> {
        let (plan, stage) = (self.plan, self.stage);
        let mut facets = LayupNumbers::of(plan.surfaces.len());
        for &i in lists.surfaces.iter().filter(|i| self.there[**i]) {
            let s = &plan.surfaces[i];
            let level = s.sloped_by.is_some_and(|piece| !stage.has(piece));
            let rise = if level { 0.0 } else { s.facet.rise };
            to.facet(&s.facet, rise, s.facet.exposed || i == SurfaceId::WALL);
            facets.put(i, named.surfaces.len());
            named.surfaces.push(i);
        }
        let shown = Shown { window, facets };
        let end = |s: &PlanStitchEnd| {
            let facet = shown.facet(s.on)?;
            Some(StitchEnd { segment: Segment { facet, from: s.from, to: s.to }, side: s.side })
        };
        let stitch = |i: &usize| Some(Stitch { a: end(&plan.stitches[*i].0)?, b: end(&plan.stitches[*i].1)? });
        lists.stitches.iter().filter_map(stitch).for_each(|s| to.stitch(s));
        let holes = lists.openings.iter().filter(|o| plan.openings[**o].feature == Feature::Opening && self.open[**o]);
        for o in holes {
            shown.of(SurfaceId::WALL, plan.openings[*o].rect, |v| to.void(v));
        }
        for r in plan.walls.outline.air() {
            shown.of(SurfaceId::WALL, r, |v| to.void(v));
        }
        window.into_iter().flat_map(|w| self.beyond(w)).for_each(|v| to.void(v));
        shown
    }

    /// Sheets with their slits and regions.
    fn tell_sheets(&self, shown: &Shown, lists: &Lists, named: &mut Named, to: &mut impl Listener) -> Sheets {
        let (plan, stage) = (self.plan, self.stage);
        let mut sheets = LayupNumbers::of(plan.pieces.len());
        let mut last = LayupNumbers::of(plan.pieces.len());
        let mut before: Vec<Option<usize>> = Vec::with_capacity(lists.layers.len());
        for (rank, &i) in lists.layers.iter().enumerate() {
            let laid = &stage.layers[i];
            before.push(last.get(laid.piece));
            last.put(laid.piece, rank);
            shown.of(laid.on, laid.rect, |at| {
                let id = sheets.get(laid.piece).unwrap_or_else(|| {
                    let piece = &plan.pieces[laid.piece];
                    to.sheet(&piece.id, stage.bond(laid.piece), piece.solid);
                    let id = named.pieces.len();
                    let slits = self.slits.get(&laid.piece).into_iter().flatten();
                    slits.flat_map(|s| self.slit(shown.window, *s)).for_each(|cut| to.cut(SheetId(id), cut));
                    named.pieces.push(laid.piece);
                    sheets.put(laid.piece, id);
                    id
                });
                to.region(SheetId(id), Region { at, rank: rank as f64 });
            });
        }
        Sheets { sheets, last, before }
    }

    /// Seals, what was done other than planned, and what has let go.
    fn tell_seals_and_faults(&self, shown: &Shown, lists: &Lists, sheets: &Sheets, to: &mut impl Listener) {
        let (plan, stage) = (self.plan, self.stage);
        for &seal in &lists.seals {
            let spec = &plan.seals[seal];
            let Some(sheet) = sheets.of(spec.behind) else { continue };
            for (on, r) in &spec.rects {
                shown.of(*on, *r, |at| to.seal(OnSheet { sheet, at }));
            }
        }
        for as_built in lists.as_built.iter().map(|i| &plan.departures.as_built[*i]) {
            let (on, rect) = as_built.place();
            let Some(sheet) = sheets.of(as_built.piece()).filter(|_| !stage.is_renewed(as_built.piece())) else {
                continue;
            };
            match as_built {
                AsBuilt::Mouth { .. } => shown.of(on, rect, |at| to.fault(OnSheet { sheet, at })),
                AsBuilt::Bead { .. } => shown.of(on, rect, |at| to.seal(OnSheet { sheet, at })),
                // Lies in the stack as it was hung.
                AsBuilt::OffLevel { .. } | AsBuilt::Short { .. } => {}
            }
        }
        for &(piece, on, rect) in &stage.let_go {
            let Some(sheet) = sheets.of(piece) else { continue };
            shown.of(on, rect, |at| to.fault(OnSheet { sheet, at }));
        }
    }

    /// Targets and outlets.
    fn tell_targets(&self, shown: &Shown, lists: &Lists, named: &mut Named, to: &mut impl Listener) {
        for &i in &lists.targets {
            let t = &self.plan.water.targets[i];
            let here = t.without.is_none_or(|s| !self.there[s]);
            let Some(rect) = self.asked(shown.window, t.on, t.rect).filter(|_| here) else { continue };
            // What is asked lies in the core, which is one stretch.
            if let Some(at) = shown.first(t.on, rect) {
                to.target(&t.id, at, t.depth);
                named.targets.push(i);
            }
        }
        for &i in &lists.outlets {
            shown.of(SurfaceId::WALL, self.plan.water.outlets[i], |o| to.outlet(o));
        }
    }

    /// Rain and leaks, with the glue holding and lost.
    fn tell_scenarios(&self, shown: &Shown, lists: &Lists, sheets: &Sheets, named: &mut Named, to: &mut impl Listener) {
        for (id, glue) in [(RAIN, Glue::Holds), (RAIN_NO_GLUE, Glue::Lost)] {
            to.scenario(id, Source::Rain, glue);
            named.leaks.push(None);
        }
        for &i in &lists.leaks {
            let leak = &self.plan.water.leaks[i];
            let laid = |rank: usize| &self.stage.layers[lists.layers[rank]];
            let lies = |rank: &usize| laid(*rank).on == leak.on && laid(*rank).rect.overlaps(leak.rect);
            let innermost = leak.under.iter().flat_map(|p| sheets.ranks(*p)).filter(lies).min();
            let sheet = innermost.and_then(|rank| sheets.of(laid(rank).piece));
            if let (Some(under), Some(at)) = (sheet, shown.first(leak.on, leak.rect)) {
                let source = Source::Leak { at, under: Some(under) };
                to.scenario(&leak.id, source, Glue::Holds);
                to.scenario(&leak.id_no_glue, source, Glue::Lost);
                named.leaks.extend([Some(i); 2]);
            }
        }
    }

    fn layup(&self, window: Option<&WallWindow>, lists: &Lists) -> StageLayup {
        let mut layup = Layup::default();
        let named = self.tell(window, lists, &mut layup);
        StageLayup { layup, named }
    }

    /// The parts of a slit that a window shows.
    fn slit(&self, window: Option<&WallWindow>, s: Segment) -> SmallVec<[Segment; 2]> {
        let Some(w) = window else { return smallvec![s] };
        let (lo, hi) = (s.from.0.min(s.to.0), s.from.0.max(s.to.0));
        let cut = |span: Interval| {
            let within = |u: Length| u.max(span.lo).min(span.hi);
            let cut = Segment { from: (within(s.from.0), s.from.1), to: (within(s.to.0), s.to.1), ..s };
            (hi >= span.lo && lo <= span.hi && cut.from != cut.to).then_some(cut)
        };
        w.spans().filter_map(cut).collect()
    }

    /// What of the wall a window does not show, as holes in it: nothing runs there.
    fn beyond(&self, w: &WallWindow) -> impl Iterator<Item = Patch> {
        let wall = self.plan.surfaces[SurfaceId::WALL].facet.rect();
        let shown: Vec<Rect> = w.spans().map(|s| Rect { u0: s.lo, u1: s.hi, ..wall }).collect();
        wall.minus_all(&shown).into_iter().map(|rect| Patch { facet: FacetId(SurfaceId::WALL.0), rect })
    }
}

impl Stage {
    /// What the water model is asked about this stage, with the plan's piece behind each sheet.
    pub fn layup(&self, plan: &Plan) -> StageLayup {
        let ground = Ground::new(plan, self);
        ground.layup(None, &ground.all())
    }

    /// Answers what the water model is asked about each window of this stage, all of them side by side.
    pub fn in_windows<T: Send>(
        &self,
        plan: &Plan,
        windows: Windows,
        answer: impl Fn(&WallWindow, &WaterQuestion) -> T + Sync,
    ) -> Vec<T> {
        let (ground, windows) = rayon::join(|| Ground::new(plan, self), || windows.with(plan, self));
        let each = windows.each.par_iter().zip(windows.lists).with_max_len(1);
        each.map(|(w, lists)| answer(w, &WaterQuestion { ground: &ground, window: Some(*w), lists })).collect()
    }

    /// Answers what the water model is asked about all of this stage at once.
    pub fn as_one<T>(&self, plan: &Plan, answer: impl Fn(&WaterQuestion) -> T) -> T {
        let ground = Ground::new(plan, self);
        answer(&WaterQuestion { ground: &ground, window: None, lists: ground.all() })
    }
}
