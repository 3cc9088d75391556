//! The water model on squares of one size: slow, plain, and written apart from the exact solver. It takes handbook 4.3 and 4.4 by the letter
//! with "neighbouring point" read as "neighbouring square"; as the squares shrink its heads fall to the exact ones.

use kame_core::layup::{Bond, Depth, Glue, Layup, Source};
use kame_core::length::Length;
use kame_core::surface::{Edge, Patch, Segment, StitchEnd};
use std::cmp::Reverse;
use std::collections::{BTreeSet, BinaryHeap, HashMap, HashSet};

type Square = (usize, i64, i64);
/// Facet, upright, line, place along it.
type Line = (usize, bool, i64, i64);
/// Edge left by, line passed, square entered, edge entered by, line passed there.
type Across = (Edge, Line, Square, Edge, Line);

/// One answer of the grid: heads by scenario and target, ponds by scenario, facet and sheet.
pub struct GridAnswer {
    /// Scenario index, target index, head.
    pub heads: Vec<(usize, usize, Option<f64>)>,
    /// Scenario index, facet index, sheet index.
    pub ponds: BTreeSet<(usize, usize, Option<usize>)>,
}

struct Grid<'a> {
    l: &'a Layup,
    step: Length,
    h: f64,
    stacks: HashMap<Square, Vec<usize>>,
    seals: HashSet<(usize, Square)>,
    faults: HashSet<(usize, Square)>,
    cuts: HashSet<(usize, Line)>,
    stitches: HashMap<Square, Vec<Across>>,
}

/// Solves on squares of `step`; every coordinate has to be a multiple of it.
pub fn solve(l: &Layup, step: Length) -> GridAnswer {
    let mut g = Grid {
        l,
        step,
        h: step.to_inches_f64(),
        stacks: HashMap::new(),
        seals: HashSet::new(),
        faults: HashSet::new(),
        cuts: HashSet::new(),
        stitches: HashMap::new(),
    };
    g.fill();
    let mut out = GridAnswer { heads: Vec::new(), ponds: BTreeSet::new() };
    for s in 0..l.scenarios.len() {
        g.scenario(s, &mut out);
    }
    out
}

impl Grid<'_> {
    fn n(&self, x: Length) -> i64 {
        assert_eq!(x.units() % self.step.units(), 0, "a coordinate off the grid");
        x.units() / self.step.units()
    }

    fn squares(&self, p: &Patch) -> Vec<Square> {
        let r = p.rect;
        (self.n(r.u0)..self.n(r.u1))
            .flat_map(|i| (self.n(r.v0)..self.n(r.v1)).map(move |j| (p.facet.0, i, j)))
            .collect()
    }

    fn lines(&self, s: &Segment) -> Vec<Line> {
        let (line, span) = (self.n(s.line()), s.span());
        let along: Vec<i64> = (self.n(span.lo)..self.n(span.hi)).collect();
        let ordered: Vec<i64> = if s.is_backward() { along.into_iter().rev().collect() } else { along };
        ordered.into_iter().map(|t| (s.facet.0, s.is_upright(), line, t)).collect()
    }

    fn fill(&mut self) {
        let mut voids = HashSet::new();
        for v in &self.l.voids {
            voids.extend(self.squares(v));
        }
        let mut holes = HashSet::new();
        for o in &self.l.holes {
            holes.extend(self.squares(&o.at).into_iter().map(|s| (o.sheet.0, s)));
        }
        let mut ranked: HashMap<Square, Vec<(f64, usize)>> = HashMap::new();
        for (i, s) in self.l.sheets.iter().enumerate() {
            for r in &s.regions {
                for sq in self.squares(&r.at) {
                    if !holes.contains(&(i, sq)) {
                        ranked.entry(sq).or_default().push((r.rank, i));
                    }
                }
            }
            for c in &s.cuts {
                let lines = self.lines(c);
                self.cuts.extend(lines.into_iter().map(|line| (i, line)));
            }
        }
        for (f, facet) in self.l.facets.iter().enumerate() {
            for i in 0..self.n(facet.width) {
                for j in 0..self.n(facet.height) {
                    if voids.contains(&(f, i, j)) {
                        continue;
                    }
                    let mut stack = ranked.remove(&(f, i, j)).unwrap_or_default();
                    stack.sort_by(|a, b| a.0.total_cmp(&b.0));
                    self.stacks.insert((f, i, j), stack.into_iter().map(|s| s.1).collect());
                }
            }
        }
        for o in &self.l.seals {
            let squares = self.squares(&o.at);
            self.seals.extend(squares.into_iter().map(|s| (o.sheet.0, s)));
        }
        for o in &self.l.faults {
            let squares = self.squares(&o.at);
            self.faults.extend(squares.into_iter().map(|s| (o.sheet.0, s)));
        }
        for s in &self.l.stitches {
            let side = |e: &StitchEnd| {
                let beside = move |(f, _, line, t): Line| match e.side.edge() {
                    Edge::Right => (f, line - 1, t),
                    Edge::Left => (f, line, t),
                    Edge::Top => (f, t, line - 1),
                    Edge::Bottom => (f, t, line),
                };
                self.lines(&e.segment).into_iter().map(|line| (e.side.edge(), line, beside(line))).collect::<Vec<_>>()
            };
            let (a, b) = (side(&s.a), side(&s.b));
            for (x, y) in a.into_iter().zip(b) {
                self.stitches.entry(x.2).or_default().push((x.0, x.1, y.2, y.0, y.1));
                self.stitches.entry(y.2).or_default().push((y.0, y.1, x.2, x.0, x.1));
            }
        }
    }

    /// Neighbours with the effort of the move and the lines it passes.
    fn moves(&self, sq: Square) -> Vec<(Square, f64, Vec<Line>)> {
        let (f, i, j) = sq;
        let rise = |f: usize| self.l.facets[f].rise;
        let mut out = Vec::new();
        for (di, dj) in [(1, 0), (-1, 0), (0, 1), (0, -1)] {
            let to = (f, i + di, j + dj);
            if !self.stacks.contains_key(&to) {
                continue;
            }
            let line = if di != 0 { (f, true, i.max(i + di), j) } else { (f, false, j.max(j + dj), i) };
            let cost = if di != 0 { self.h / 1.5 } else { (dj as f64 * self.h * rise(f)).max(0.0) };
            out.push((to, cost, vec![line]));
        }
        for (edge, line, to, far_edge, far_line) in self.stitches.get(&sq).into_iter().flatten() {
            if !self.stacks.contains_key(to) {
                continue;
            }
            let half = self.h / 2.0;
            let leave = match edge {
                Edge::Top => (half * rise(f)).max(0.0),
                Edge::Bottom => (-half * rise(f)).max(0.0),
                _ => half / 1.5,
            };
            let enter = match far_edge {
                Edge::Top => (-half * rise(to.0)).max(0.0),
                Edge::Bottom => (half * rise(to.0)).max(0.0),
                _ => half / 1.5,
            };
            out.push((*to, leave + enter, vec![*line, *far_line]));
        }
        out
    }

    fn is_open(&self, sq: Square, gap: usize) -> bool {
        self.l.facets[sq.0].exposed && gap == self.stacks[&sq].len()
    }

    fn is_closed(&self, sq: Square, gap: usize, glue: Glue) -> bool {
        let stack = &self.stacks[&sq];
        let Some(&s) = stack.get(gap) else {
            return stack.last().is_some_and(|s| self.l.sheets[*s].cap) && !self.l.facets[sq.0].exposed;
        };
        let bonded = match self.l.sheets[s].bond {
            Bond::Cured => true,
            Bond::Full => glue == Glue::Holds,
            Bond::None => false,
        };
        let sealed = glue == Glue::Holds && self.seals.contains(&(s, sq));
        (bonded || sealed) && !self.faults.contains(&(s, sq))
    }

    fn gaps(&self, from: Square, gap: usize, to: Square, lines: &[Line]) -> std::ops::RangeInclusive<usize> {
        let (a, b) = (&self.stacks[&from], &self.stacks[&to]);
        let (mut lo, mut hi) = (0, b.len() as i64);
        for (here, s) in a.iter().enumerate() {
            let Some(there) = b.iter().position(|x| x == s) else { continue };
            if lines.iter().any(|l| self.cuts.contains(&(*s, *l))) {
                continue;
            }
            if here < gap {
                lo = lo.max(there as i64 + 1);
            } else {
                hi = hi.min(there as i64);
            }
        }
        if lo > hi { std::ops::RangeInclusive::new(1, 0) } else { lo as usize..=hi as usize }
    }

    fn scenario(&self, index: usize, out: &mut GridAnswer) {
        let scenario = &self.l.scenarios[index];
        let rain = scenario.source == Source::Rain;
        // Efforts as whole billionths, so that they order and compare exactly.
        let key = |x: f64| (x * 1e9).round() as i64;
        let mut least: HashMap<(Square, usize), i64> = HashMap::new();
        let mut queue = BinaryHeap::new();
        let mut start = |sq: Square, gap: usize| {
            least.insert((sq, gap), 0);
            queue.push(Reverse((0_i64, sq, gap)));
        };
        match &scenario.source {
            Source::Rain => self
                .stacks
                .iter()
                .filter(|(sq, st)| self.is_open(**sq, st.len()))
                .for_each(|(sq, st)| start(*sq, st.len())),
            Source::Leak { at, under } => {
                for sq in self.squares(at) {
                    let Some(stack) = self.stacks.get(&sq) else { continue };
                    let gap = under.map_or(Some(stack.len()), |u| stack.iter().position(|s| *s == u.0));
                    if let Some(gap) = gap.filter(|g| !self.is_closed(sq, *g, scenario.glue)) {
                        start(sq, gap);
                    }
                }
            }
        }
        while let Some(Reverse((cost, sq, gap))) = queue.pop() {
            if least[&(sq, gap)] < cost || (!rain && self.is_open(sq, gap)) {
                continue;
            }
            for (to, step, lines) in self.moves(sq) {
                for g in self.gaps(sq, gap, to, &lines) {
                    if self.is_closed(to, g, scenario.glue) {
                        continue;
                    }
                    // Rain stands right at the border, so only the half inside is paid.
                    let step = match (self.is_open(sq, gap), self.is_open(to, g)) {
                        (true, true) => 0.0,
                        (true, false) => step / 2.0,
                        _ => step,
                    };
                    let total = cost + key(step);
                    if least.get(&(to, g)).is_none_or(|old| total < *old) {
                        least.insert((to, g), total);
                        queue.push(Reverse((total, to, g)));
                    }
                }
            }
        }
        for (t, target) in self.l.targets.iter().enumerate() {
            let squares = self.squares(&target.at);
            let inside = squares.iter().filter_map(|sq| Some((sq, self.stacks.get(sq)?)));
            let all = inside.flat_map(|(sq, st)| {
                (0..if target.depth == Depth::Any { st.len() + 1 } else { 1 }).map(move |g| (*sq, g))
            });
            let head = all.filter_map(|k| least.get(&k)).min().map(|x| *x as f64 / 1e9);
            out.heads.push((index, t, head));
        }
        let drained = self.drained(scenario.glue);
        let limit = key(scenario.drain_head.to_inches_f64());
        for ((sq, gap), cost) in &least {
            if *cost <= limit && !drained.contains(&(*sq, *gap)) {
                out.ponds.insert((index, sq.0, gap.checked_sub(1).map(|g| self.stacks[sq][g])));
            }
        }
    }

    fn drained(&self, glue: Glue) -> HashSet<(Square, usize)> {
        let outlets: HashSet<Square> = self.l.outlets.iter().flat_map(|p| self.squares(p)).collect();
        let mut out = HashSet::new();
        let mut waiting = Vec::new();
        for (sq, stack) in &self.stacks {
            for gap in 0..=stack.len() {
                if !self.is_closed(*sq, gap, glue) && (self.is_open(*sq, gap) || outlets.contains(sq)) {
                    out.insert((*sq, gap));
                    waiting.push((*sq, gap));
                }
            }
        }
        while let Some((sq, gap)) = waiting.pop() {
            for (from, ..) in self.moves(sq) {
                let level = |(to, cost, _): &(Square, f64, Vec<Line>)| *to == sq && !self.climbs(from, sq, *cost);
                let Some((_, _, lines)) = self.moves(from).into_iter().find(level) else { continue };
                for g in self.gaps(sq, gap, from, &lines) {
                    if !self.is_closed(from, g, glue) && out.insert((from, g)) {
                        waiting.push((from, g));
                    }
                }
            }
        }
        out
    }

    /// True where the move goes up: level moves cost too, but they do not climb.
    fn climbs(&self, from: Square, to: Square, cost: f64) -> bool {
        if from.0 == to.0 && from.2 == to.2 {
            return false;
        }
        if from.0 == to.0 {
            return cost > 0.0;
        }
        let ends = self.stitches[&from].iter().find(|(_, _, sq, ..)| *sq == to).map(|(a, _, _, b, _)| (*a, *b));
        let Some((leave, enter)) = ends else { return true };
        let (r, q) = (self.l.facets[from.0].rise, self.l.facets[to.0].rise);
        let up = |edge: Edge, rise: f64, leaving: bool| match (edge, leaving) {
            (Edge::Top, true) | (Edge::Bottom, false) => rise > 0.0,
            (Edge::Bottom, true) | (Edge::Top, false) => rise < 0.0,
            _ => false,
        };
        up(leave, r, true) || up(enter, q, false)
    }
}
