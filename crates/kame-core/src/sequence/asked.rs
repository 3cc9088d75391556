//! What the water model is asked about a stage: all of it at once, or part by part along the wall.

use super::stage::{Laid, Stage};
use crate::detail::schools::Feature;
use crate::layup::{Glue, Layup, OnSheet, Region, Scenario, Sheet, SheetId, Source, Target};
use crate::length::Length;
use crate::plan::{AsBuilt, Plan, PlanStitchEnd, SurfaceId};
use crate::surface::{FacetId, Interval, Patch, Rect, Segment, Stitch, StitchEnd};
use std::collections::HashMap;

/// Name of the scenario "rain".
pub const RAIN: &str = "rain";
/// Name of the scenario "rain with glue lost".
pub const RAIN_NO_GLUE: &str = "rain-no-glue";

/// A layup and what its parts are in the plan.
#[derive(Clone, Debug)]
pub struct StageLayup {
    /// The layup itself.
    pub layup: Layup,
    /// The piece of each sheet.
    pub pieces: Vec<usize>,
    /// The surface of each facet.
    pub surfaces: Vec<SurfaceId>,
    /// The target of the plan behind each target.
    pub targets: Vec<usize>,
    /// The leak of the plan behind each scenario; `None` for rain.
    pub leaks: Vec<Option<usize>>,
}

/// A stretch of the wall: places in `core` are asked about, and everything that can matter to them lies within `span`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Window {
    /// Whose places are asked about.
    pub core: Interval,
    /// What is looked at for them.
    pub span: Interval,
}

/// Numbers of everything in the plan and on the stage that reaches into a window.
#[derive(Clone, Debug, Default)]
struct Lists {
    surfaces: Vec<usize>,
    stitches: Vec<usize>,
    openings: Vec<usize>,
    layers: Vec<usize>,
    seals: Vec<usize>,
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
    there: Vec<bool>,
    slits: HashMap<usize, Vec<Segment>>,
}

/// Windows along a wall: each a core of at most `step`, with a margin of `reach` round it and round the openings in it, and no opening cut.
pub fn windows(plan: &Plan, step: Length, reach: Length) -> Vec<Window> {
    let wall = plan.surfaces[SurfaceId::WALL.0].facet.rect();
    let with_returns: Vec<bool> = {
        let mut any = vec![false; plan.openings.len()];
        plan.surfaces.iter().filter_map(|s| s.opening).for_each(|o| any[o] = true);
        any
    };
    let openings: Vec<Interval> =
        plan.openings.iter().zip(&with_returns).filter(|(_, any)| **any).map(|(o, _)| o.rect.along_u()).collect();
    let cores = std::iter::successors(Some(wall.u0), |u| Some(*u + step)).take_while(|u| *u < wall.u1);
    let mut out: Vec<Window> = cores
        .map(|lo| {
            let core = Interval { lo, hi: (lo + step).min(wall.u1) };
            let mine = openings.iter().filter(|o| holds(core, **o));
            let (lo, hi) = mine.fold((core.lo, core.hi), |(lo, hi), o| (lo.min(o.lo), hi.max(o.hi)));
            let mut span = Interval { lo: lo - reach, hi: hi + reach };
            while let Some(o) = openings.iter().find(|o| {
                let cut = o.overlap(span);
                cut.is_some_and(|c| c != **o)
            }) {
                span = Interval { lo: span.lo.min(o.lo), hi: span.hi.max(o.hi) };
            }
            Window { core, span: Interval { lo: span.lo.max(wall.u0), hi: span.hi.min(wall.u1) } }
        })
        .collect();
    // A window is never within another, so that what reaches into them is a run of neighbours.
    for i in 1..out.len() {
        out[i].span.hi = out[i].span.hi.max(out[i - 1].span.hi);
    }
    for i in (1..out.len()).rev() {
        out[i - 1].span.lo = out[i - 1].span.lo.min(out[i].span.lo);
    }
    out
}

/// True where the middle of a stretch lies in a core.
fn holds(core: Interval, stretch: Interval) -> bool {
    let twice = stretch.lo + stretch.hi;
    core.lo + core.lo <= twice && twice < core.hi + core.hi
}

impl<'a> Ground<'a> {
    fn new(plan: &'a Plan, stage: &'a Stage, only: Option<usize>) -> Self {
        let open: Vec<bool> = stage.uncovered(plan);
        let there = plan.surfaces.iter().map(|s| {
            let asked = only.is_none() || s.opening.is_none() || s.opening == only;
            asked && s.opening.is_none_or(|o| open[o]) && s.with.is_none_or(|piece| stage.has(piece))
        });
        let mut slits: HashMap<usize, Vec<Segment>> = HashMap::new();
        for (piece, slit) in &stage.slits {
            slits.entry(*piece).or_default().push(*slit);
        }
        Self { plan, stage, there: there.collect(), open, slits }
    }

    /// Where along the wall something on a surface lies: what is on a return lies where its opening does.
    fn extent(&self, on: SurfaceId, rect: Rect) -> Interval {
        match self.plan.surfaces[on.0].opening {
            _ if on == SurfaceId::WALL => rect.along_u(),
            Some(o) => self.plan.openings[o].rect.along_u(),
            None => self.plan.surfaces[SurfaceId::WALL.0].facet.rect().along_u(),
        }
    }

    /// Everything, for the whole wall.
    fn all(&self, only: Option<usize>) -> Lists {
        let every = |n: usize| (0..n).collect::<Vec<_>>();
        let plan = self.plan;
        Lists {
            surfaces: every(plan.surfaces.len()),
            stitches: every(plan.stitches.len()),
            openings: plan.counted(only),
            layers: every(self.stage.layers.len()),
            seals: every(self.stage.seals.len()),
            as_built: every(plan.as_built.len()),
            targets: every(plan.targets.len()),
            outlets: every(plan.outlets.len()),
            leaks: every(plan.leaks.len()),
        }
    }

    /// The same for each window. What reaches into none is in none.
    fn split(&self, windows: &[Window]) -> Vec<Lists> {
        let mut out = vec![Lists::default(); windows.len()];
        let mut put = |at: Interval, add: &mut dyn FnMut(&mut Lists)| {
            let first = windows.partition_point(|w| w.span.hi <= at.lo);
            for (w, lists) in windows[first..].iter().zip(&mut out[first..]).take_while(|(w, _)| w.span.lo < at.hi) {
                debug_assert!(w.span.overlap(at).is_some());
                add(lists);
            }
        };
        let (plan, stage) = (self.plan, self.stage);
        for (i, s) in plan.surfaces.iter().enumerate() {
            put(self.extent(SurfaceId(i), s.facet.rect()), &mut |l| l.surfaces.push(i));
        }
        for (i, (a, b)) in plan.stitches.iter().enumerate() {
            let off_wall = |e: &PlanStitchEnd| (e.on != SurfaceId::WALL).then_some(e.on);
            let Some(on) = off_wall(a).or(off_wall(b)) else { continue };
            put(self.extent(on, plan.surfaces[on.0].facet.rect()), &mut |l| l.stitches.push(i));
        }
        for (i, o) in plan.openings.iter().enumerate() {
            put(o.rect.along_u(), &mut |l| l.openings.push(i));
        }
        for (i, laid) in stage.layers.iter().enumerate() {
            put(self.extent(laid.on, laid.rect), &mut |l| l.layers.push(i));
        }
        let hull = |rects: &[(SurfaceId, Rect)]| {
            let each = rects.iter().map(|(on, r)| self.extent(*on, *r));
            each.reduce(|a, b| Interval { lo: a.lo.min(b.lo), hi: a.hi.max(b.hi) })
        };
        for (i, seal) in stage.seals.iter().enumerate() {
            if let Some(at) = hull(&plan.seals[*seal].rects) {
                put(at, &mut |l| l.seals.push(i));
            }
        }
        for (i, a) in plan.as_built.iter().enumerate() {
            let (on, rect) = a.place();
            put(self.extent(on, rect), &mut |l| l.as_built.push(i));
        }
        for (i, t) in plan.targets.iter().enumerate() {
            put(self.extent(t.on, t.rect), &mut |l| l.targets.push(i));
        }
        for (i, r) in plan.outlets.iter().enumerate() {
            put(r.along_u(), &mut |l| l.outlets.push(i));
        }
        for (i, leak) in plan.leaks.iter().enumerate() {
            put(self.extent(leak.on, leak.rect), &mut |l| l.leaks.push(i));
        }
        out
    }

    /// The part of a rectangle that a window shows.
    fn shown(&self, window: Option<&Window>, on: SurfaceId, rect: Rect) -> Option<Rect> {
        match window {
            Some(w) if on == SurfaceId::WALL => {
                let cut = rect.along_u().overlap(w.span)?;
                Some(Rect { u0: cut.lo, u1: cut.hi, ..rect })
            }
            _ => Some(rect),
        }
    }

    /// The part of a target that a window asks about.
    fn asked(&self, window: Option<&Window>, on: SurfaceId, rect: Rect) -> Option<Rect> {
        let Some(w) = window else { return Some(rect) };
        if on != SurfaceId::WALL {
            return holds(w.core, self.extent(on, rect)).then_some(rect);
        }
        let cut = rect.along_u().overlap(w.core)?;
        Some(Rect { u0: cut.lo, u1: cut.hi, ..rect })
    }

    fn layup(&self, window: Option<&Window>, lists: &Lists) -> StageLayup {
        let (plan, stage) = (self.plan, self.stage);
        let mut layup = Layup::default();
        let mut surfaces = Vec::new();
        let mut facets: HashMap<usize, FacetId> = HashMap::new();
        for &i in lists.surfaces.iter().filter(|i| self.there[**i]) {
            let s = &plan.surfaces[i];
            let mut f = s.facet.clone();
            if s.sloped_by.is_some_and(|piece| !stage.has(piece)) {
                f.rise = 0.0;
            }
            f.exposed |= i == SurfaceId::WALL.0;
            facets.insert(i, FacetId(layup.facets.len()));
            layup.facets.push(f);
            surfaces.push(SurfaceId(i));
        }
        let patch = |s: SurfaceId, rect: Rect| {
            let facet = *facets.get(&s.0)?;
            Some(Patch { facet, rect: self.shown(window, s, rect)? })
        };
        let end = |s: &PlanStitchEnd| {
            let facet = *facets.get(&s.on.0)?;
            Some(StitchEnd { segment: Segment { facet, from: s.from, to: s.to }, side: s.side })
        };
        let stitch = |i: &usize| Some(Stitch { a: end(&plan.stitches[*i].0)?, b: end(&plan.stitches[*i].1)? });
        layup.stitches.extend(lists.stitches.iter().filter_map(stitch));
        let holes = lists.openings.iter().filter(|o| plan.openings[**o].feature == Feature::Opening && self.open[**o]);
        layup.voids.extend(holes.filter_map(|o| patch(SurfaceId::WALL, plan.openings[*o].rect)));
        let air = plan.outline.air().into_iter();
        layup.voids.extend(air.filter_map(|r| patch(SurfaceId::WALL, r)));
        layup.voids.extend(window.into_iter().flat_map(|w| self.beyond(w)));
        let mut sheet_of: HashMap<usize, SheetId> = HashMap::new();
        let mut pieces = Vec::new();
        for (rank, &i) in lists.layers.iter().enumerate() {
            let laid = &stage.layers[i];
            let Some(at) = patch(laid.on, laid.rect) else { continue };
            let id = *sheet_of.entry(laid.piece).or_insert_with(|| {
                let piece = &plan.pieces[laid.piece];
                let slits = self.slits.get(&laid.piece).into_iter().flatten();
                let cuts = slits.filter_map(|s| self.slit(window, *s)).collect();
                let bond = stage.bond(plan, laid.piece);
                layup.sheets.push(Sheet { id: piece.id.clone(), bond, cap: piece.solid, regions: Vec::new(), cuts });
                pieces.push(laid.piece);
                SheetId(layup.sheets.len() - 1)
            });
            layup.sheets[id.0].regions.push(Region { at, rank: rank as f64 });
        }
        for &seal in &lists.seals {
            let spec = &plan.seals[stage.seals[seal]];
            let Some(&sheet) = sheet_of.get(&spec.behind) else { continue };
            layup.seals.extend(spec.rects.iter().filter_map(|(on, r)| Some(OnSheet { sheet, at: patch(*on, *r)? })));
        }
        for as_built in lists.as_built.iter().map(|i| &plan.as_built[*i]) {
            let (on, rect) = as_built.place();
            let Some((sheet, at)) = sheet_of.get(&as_built.piece()).copied().zip(patch(on, rect)) else { continue };
            match as_built {
                AsBuilt::Mouth { .. } => layup.faults.push(OnSheet { sheet, at }),
                AsBuilt::Bead { .. } => layup.seals.push(OnSheet { sheet, at }),
                // Lies in the stack as it was hung.
                AsBuilt::OffLevel { .. } => {}
            }
        }
        let mut targets = Vec::new();
        for &i in &lists.targets {
            let t = &plan.targets[i];
            let here = t.without.is_none_or(|s| !self.there[s.0]);
            let Some(rect) = self.asked(window, t.on, t.rect).filter(|_| here) else { continue };
            if let Some(at) = patch(t.on, rect) {
                layup.targets.push(Target { id: t.id.clone(), at, depth: t.depth });
                targets.push(i);
            }
        }
        layup.outlets = lists.outlets.iter().filter_map(|i| patch(SurfaceId::WALL, plan.outlets[*i])).collect();
        let drain_head = crate::layup::DEFAULT_DRAIN_HEAD;
        let mut leaks = vec![None, None];
        for (id, glue) in [(RAIN, Glue::Holds), (RAIN_NO_GLUE, Glue::Lost)] {
            layup.scenarios.push(Scenario { id: id.into(), source: Source::Rain, glue, drain_head });
        }
        for &i in &lists.leaks {
            let leak = &plan.leaks[i];
            let lies = |l: &&Laid| l.on == leak.on && l.rect.overlaps(leak.rect) && leak.under.contains(&l.piece);
            let sheet = lists.layers.iter().map(|l| &stage.layers[*l]).find(lies).and_then(|l| sheet_of.get(&l.piece));
            if let (Some(under), Some(at)) = (sheet.copied(), patch(leak.on, leak.rect)) {
                let source = Source::Leak { at, under: Some(under) };
                layup.scenarios.push(Scenario { id: leak.id.clone(), source, glue: Glue::Holds, drain_head });
                leaks.push(Some(i));
            }
        }
        StageLayup { layup, pieces, surfaces, targets, leaks }
    }

    /// The part of a slit that a window shows.
    fn slit(&self, window: Option<&Window>, s: Segment) -> Option<Segment> {
        let Some(w) = window else { return Some(s) };
        let (lo, hi) = (s.from.0.min(s.to.0), s.from.0.max(s.to.0));
        if hi < w.span.lo || lo > w.span.hi {
            return None;
        }
        let within = |u: Length| u.max(w.span.lo).min(w.span.hi);
        let cut = Segment { from: (within(s.from.0), s.from.1), to: (within(s.to.0), s.to.1), ..s };
        (cut.from != cut.to).then_some(cut)
    }

    /// What of the wall lies left and right of a window, as holes in it: nothing runs there.
    fn beyond(&self, w: &Window) -> impl Iterator<Item = Patch> {
        let wall = self.plan.surfaces[SurfaceId::WALL.0].facet.rect();
        let sides = [Rect { u1: w.span.lo, ..wall }, Rect { u0: w.span.hi, ..wall }];
        sides.into_iter().filter(|r| r.has_area()).map(|rect| Patch { facet: FacetId(SurfaceId::WALL.0), rect })
    }
}

impl Stage {
    /// What the water model is asked about this stage, with the plan's piece behind each sheet.
    pub fn layup(&self, plan: &Plan) -> StageLayup {
        self.layup_at(plan, None)
    }

    /// What the water model is asked about the wall and one opening; other openings are holes into which nothing is asked.
    pub fn layup_at(&self, plan: &Plan, only: Option<usize>) -> StageLayup {
        let ground = Ground::new(plan, self, only);
        ground.layup(None, &ground.all(only))
    }

    /// What the water model is asked about each window of this stage.
    pub fn layups_in(&self, plan: &Plan, windows: &[Window]) -> Vec<StageLayup> {
        use rayon::prelude::*;
        let ground = Ground::new(plan, self, None);
        let lists = ground.split(windows);
        windows.par_iter().zip(&lists).map(|(w, lists)| ground.layup(Some(w), lists)).collect()
    }
}
