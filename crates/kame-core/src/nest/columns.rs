//! Column generation: weights of the pieces from a linear program over the patterns known, the best pattern for those weights, and again.

use super::fill::{self, Weights, one_after_another};
use super::{Filled, WholeProblem, bound};
use microlp::{ComparisonOp, OptimizationDirection, Problem, Solution, SolveOutcome, Variable};
use std::collections::BTreeMap;
use std::rc::Rc;
use std::time::Duration;

/// Where there are more kinds than this only some of them are weighed at first.
pub(super) const MOST_KINDS: usize = 400;
/// How many of the kinds are corners of a basis where there are more than that.
const CORNERS: usize = 60;
/// Weights are counted in this many steps to the cost of one.
const SCALE: f64 = 1e10;
/// More rounds than this are not made.
const ROUNDS: usize = 3000;
/// No more patterns are added once the program has so many places.
const LARGEST: usize = 20_000_000;
/// At most so many patterns are added between two looks at the bound.
const MOST_FRESH: usize = 1000;
/// More than so many at once are sooner solved from anew than one after another.
const SINGLY: usize = 100;
/// How long a program is solved before it is asked whether to stop.
const SLICE: Duration = Duration::from_millis(200);
/// How many partners are tried for a long piece.
const TWOS: usize = 3;
/// In a dive at most this share of the rolls not asked in full is taken at once besides those that are, each asked for this much at least; more
/// where otherwise more than so many kinds would be left, which takes the linear program too long.
const AT_ONCE: f64 = 0.08;
const AFTER_ONE: usize = 500;
const LIKELY: f64 = 0.5;
/// How much what is asked is shaken after a dead end, and how many of those asked in full are left out then: taken all together they can leave a
/// rest that no roll is full of.
const NOISE: f64 = 0.4;
const LEFT_OUT: f64 = 0.2;
/// A dive looks at the linear program again at most so often while so many kinds are left, and by the square less often with more.
const LOOKS: usize = 700;
const LOOKED_AT: usize = 50;
/// How near to the best weights so far the next are looked for; nearer to the program's own where nothing is found.
const NEAR: [f64; 3] = [0.85, 0.5, 0.0];
/// A pattern has to be better than its stock costs by this much to be worth adding.
const WORTH: f64 = 1e-7;

/// What column generation found.
pub(super) struct Columns {
    pub(super) patterns: Vec<Filled>,
    pub(super) bound: u64,
    /// What pieces weigh where the bound is best, and how much of that a roll of each stock can hold.
    pub(super) weights: Weights,
}

/// Weights of kinds by those of some of them: between two of these corners they lie on a straight line. Where there are few kinds each is a corner.
struct WeightBasis {
    /// For each kind the corners it lies between, and its share of each.
    of: Vec<Vec<(usize, f64)>>,
    corners: usize,
}

impl WeightBasis {
    /// Every kind a corner.
    fn each(whole: &WholeProblem) -> Self {
        let n = whole.size.len();
        Self { of: (0..n).map(|k| vec![(k, 1.0)]).collect(), corners: n }
    }

    fn corners(whole: &WholeProblem) -> Self {
        let n = whole.size.len();
        let mut corners: Vec<usize> = (0..CORNERS).map(|c| c * (n - 1) / (CORNERS - 1)).collect();
        // Where one piece more fits weights jump.
        for room in &whole.room {
            for parts in 2..=8 {
                let over = whole.size.partition_point(|s| s * parts > *room);
                corners.extend([over.saturating_sub(1), over].into_iter().filter(|k| *k < n));
            }
        }
        corners.sort_unstable();
        corners.dedup();
        let share = |k: usize| {
            let above = corners.partition_point(|c| *c <= k) - 1;
            let (a, b) = (corners[above], corners.get(above + 1).copied());
            match b {
                Some(b) if k > a => {
                    let to = (whole.size[a] - whole.size[k]) as f64 / (whole.size[a] - whole.size[b]) as f64;
                    vec![(above, 1.0 - to), (above + 1, to)]
                }
                _ => vec![(above, 1.0)],
            }
        };
        Self { of: (0..n).map(share).collect(), corners: corners.len() }
    }
}

/// Whether a longer piece has to weigh no less than a shorter one. Some of the best weights are so, and asked for those are found with far fewer
/// patterns; but those patterns leave it to shorter pieces to lie where longer ones could, and are poorer to pack by.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum WeightOrder {
    /// As the patterns want it.
    Free,
    /// The longer the heavier.
    Kept,
}

/// Generates patterns until none is worth more than it costs, or it is stopped: the bound holds either way. Where there are many kinds only
/// some of them are weighed.
pub(super) fn generate(whole: &WholeProblem, stop: &(dyn Fn() -> bool + Sync)) -> Option<Columns> {
    let known = one_after_another(whole, &whole.count);
    let basis = if whole.size.len() <= MOST_KINDS { WeightBasis::each(whole) } else { WeightBasis::corners(whole) };
    weighed_by(whole, &basis, known, None, u64::MAX, WeightOrder::Free, stop)
}

/// The same with every kind weighed for itself, from rough weights and a packing. Nobody asks for a bound above what that costs.
pub(super) fn refine(
    whole: &WholeProblem,
    rough: Columns,
    packing: &[Filled],
    order: WeightOrder,
    stop: &(dyn Fn() -> bool + Sync),
) -> Option<Columns> {
    let mut known = rough.patterns;
    known.extend_from_slice(packing);
    known.extend(in_twos(whole));
    let most = packing.iter().map(|f| whole.cost[f.stock]).sum();
    weighed_by(whole, &WeightBasis::each(whole), known, Some(&rough.weights), most, order, stop)
}

/// Rolls with two pieces on them that leave the least: for each long piece the first few that still fit.
fn in_twos(whole: &WholeProblem) -> impl Iterator<Item = Filled> + '_ {
    let long = move |(stock, room): (usize, &usize)| {
        let room = *room;
        let kinds = (0..whole.size.len()).filter(move |k| (room / 2..room).contains(&whole.size[*k]));
        kinds.flat_map(move |k| {
            let from = whole.size.partition_point(|s| s + whole.size[k] > room);
            let others = (from..whole.size.len()).filter(move |j| *j > k).take(TWOS);
            others.map(move |j| Filled { stock, of: vec![(k, 1), (j, 1)] })
        })
    };
    whole.room.iter().enumerate().flat_map(long)
}

/// The dual program: weights as heavy as they can be while no pattern weighs more than it costs; rolls on hand have a rent instead.
struct Program<'a> {
    whole: &'a WholeProblem,
    basis: &'a WeightBasis,
    problem: Problem,
    weight: Vec<Variable>,
    rent: Vec<Option<Variable>>,
    /// What the dearest stock costs.
    top: f64,
}

impl<'a> Program<'a> {
    fn new(whole: &'a WholeProblem, basis: &'a WeightBasis, known: &[Filled], order: WeightOrder) -> Self {
        let mut problem = Problem::new(OptimizationDirection::Maximize);
        let top = whole.cost.iter().copied().max().unwrap_or(1) as f64;
        let mut count = vec![0.0; basis.corners];
        for (of, n) in basis.of.iter().zip(&whole.count) {
            of.iter().for_each(|(c, share)| count[*c] += share * *n as f64);
        }
        let weight: Vec<Variable> = count.iter().map(|n| problem.add_var(*n, (0.0, top))).collect();
        let rent: Vec<Option<Variable>> =
            whole.on_hand.iter().map(|n| n.map(|n| problem.add_var(-(n as f64), (0.0, f64::INFINITY)))).collect();
        let mut program = Self { whole, basis, problem, weight, rent, top };
        known.iter().for_each(|f| program.add(f));
        if order == WeightOrder::Kept {
            for pair in program.weight.windows(2) {
                program.problem.add_constraint([(pair[0], 1.0), (pair[1], -1.0)], ComparisonOp::Ge, 0.0);
            }
        }
        program
    }

    /// What a pattern weighs.
    fn row(&self, f: &Filled) -> Vec<(Variable, f64)> {
        let mut sums: BTreeMap<usize, f64> = BTreeMap::new();
        for (k, n) in &f.of {
            self.basis.of[*k].iter().for_each(|(c, share)| *sums.entry(*c).or_default() += share * *n as f64);
        }
        let mut row: Vec<(Variable, f64)> = sums.into_iter().map(|(c, n)| (self.weight[c], n)).collect();
        row.extend(self.rent[f.stock].map(|r| (r, -1.0)));
        row
    }

    /// No more than a pattern costs.
    fn costs(&self, f: &Filled) -> f64 {
        self.whole.cost[f.stock] as f64
    }

    fn add(&mut self, f: &Filled) {
        self.problem.add_constraint(self.row(f), ComparisonOp::Le, self.costs(f));
    }
}

/// The best weights so far.
struct BestWeights {
    bound: u64,
    rate: f64,
    weights: Weights,
    /// Between these and those of the program heavy rolls are sought: the program's own swing widely.
    centre: Option<Vec<f64>>,
}

impl BestWeights {
    fn from(whole: &WholeProblem, rough: Option<&Weights>) -> Self {
        let none = Weights { of: Vec::new(), full: Vec::new() };
        match rough {
            None => Self { bound: 0, rate: 0.0, weights: none, centre: None },
            Some(rough) => Self {
                bound: bound::weighed(whole, &rough.of, |k| rough.full[k]),
                rate: bound::rate(whole, &rough.of, |k| rough.full[k]),
                weights: rough.clone(),
                centre: Some(rough.each(whole)),
            },
        }
    }

    /// Rolls that are too heavy for a solution, sought near to the best weights; what is found on the way may be better.
    fn too_heavy(&mut self, program: &Program, solution: &Solution, knapsack: &mut Knapsack) -> Vec<Filled> {
        let whole = program.whole;
        let at: Vec<f64> = program.weight.iter().map(|v| solution.var_value(*v).max(0.0)).collect();
        let each = program.basis.of.iter();
        let now: Vec<f64> = each.map(|of| of.iter().map(|(c, share)| at[*c] * share).sum()).collect();
        let rented: Vec<f64> = program.rent.iter().map(|r| r.map_or(0.0, |r| solution.var_value(r))).collect();
        let mut fresh = Vec::new();
        for near in if self.centre.is_some() { &NEAR[..] } else { &[0.0] } {
            let centred =
                |(k, now): (usize, &f64)| self.centre.as_ref().map_or(*now, |c| near * c[k] + (1.0 - near) * now);
            let value: Vec<u64> = now.iter().enumerate().map(|at| (centred(at) * SCALE) as u64).collect();
            knapsack.weigh(whole, &value);
            let full: Vec<u64> = whole.room.iter().map(|room| knapsack.best[*room]).collect();
            let found = bound::rate(whole, &value, |k| full[k]);
            fresh = knapsack.heavy(whole, &value);
            if found > self.rate || self.weights.of.is_empty() {
                self.rate = found;
                self.bound = bound::weighed(whole, &value, |k| full[k]);
                self.weights = Weights { of: value, full };
                self.centre = self.centre.take().map(|_| self.weights.each(whole));
            }
            let slack = WORTH * program.top.max(1.0) + whole.size.len() as f64 / SCALE;
            let weighs = |f: &Filled| f.of.iter().map(|(k, n)| now[*k] * *n as f64).sum::<f64>();
            fresh.retain(|f| weighs(f) > program.costs(f) + rented[f.stock] + slack);
            if !fresh.is_empty() {
                break;
            }
        }
        fresh
    }
}

/// Weights by those of a basis, from patterns that are known: the program is asked, heavy rolls are sought near to the best weights so far,
/// and those that are too heavy for it are added. The bound is that of the best weights, in whole numbers.
fn weighed_by(
    whole: &WholeProblem,
    basis: &WeightBasis,
    mut known: Vec<Filled>,
    rough: Option<&Weights>,
    most: u64,
    order: WeightOrder,
    stop: &(dyn Fn() -> bool + Sync),
) -> Option<Columns> {
    known.iter_mut().for_each(|f| f.of.sort_unstable());
    known.sort_by(|a, b| (a.stock, &a.of).cmp(&(b.stock, &b.of)));
    known.dedup();
    let mut program = Program::new(whole, basis, &known, order);
    let mut solution = solved(&mut program.problem, stop)?;
    let mut best = BestWeights::from(whole, rough);
    let mut knapsack = Knapsack::new(whole);
    'rounds: for _ in 0..ROUNDS {
        let fresh = best.too_heavy(&program, &solution, &mut knapsack);
        let hopeless = (solution.objective() - 1e-6).ceil() <= best.bound as f64;
        if fresh.is_empty() || hopeless || best.bound >= most || known.len() * basis.corners > LARGEST || stop() {
            break;
        }
        let anew = fresh.len() > SINGLY;
        for f in fresh {
            if stop() {
                break;
            }
            program.add(&f);
            let (with_it, costs) = (program.row(&f), program.costs(&f));
            known.push(f);
            if !anew {
                let outcome = solution.add_constraint(with_it, ComparisonOp::Le, costs).ok()?;
                let Some(next) = finished(outcome, stop) else { break 'rounds };
                solution = next;
            }
        }
        if anew {
            let Some(next) = solved(&mut program.problem, stop) else { break };
            solution = next;
        }
    }
    Some(Columns { patterns: known, bound: best.bound, weights: best.weights })
}

/// The best solution, from nothing; `None` where there is none, or where it was stopped.
fn solved(problem: &mut Problem, stop: &(dyn Fn() -> bool + Sync)) -> Option<Solution> {
    problem.set_time_limit(SLICE);
    finished(problem.solve().ok()?, stop)
}

/// The best solution of a program that may have been left when its slice was over: what is added to a solution has slices of its own.
fn finished(mut outcome: SolveOutcome, stop: &(dyn Fn() -> bool + Sync)) -> Option<Solution> {
    loop {
        match outcome {
            SolveOutcome::Solution(solution) => return Some(solution),
            SolveOutcome::Interrupted(_) if stop() => return None,
            SolveOutcome::Interrupted(_) => outcome = outcome.resume().ok()?,
        }
    }
}

/// The heaviest roll, by dynamic programming over its room: one table answers for every room up to the longest.
struct Knapsack {
    best: Vec<u64>,
    taken: Vec<u16>,
}

impl Knapsack {
    fn new(whole: &WholeProblem) -> Self {
        let width = whole.room.iter().copied().max().unwrap_or(0) + 1;
        Self { best: vec![0; width], taken: vec![0; width * whole.size.len().max(1)] }
    }

    fn weigh(&mut self, whole: &WholeProblem, value: &[u64]) {
        let width = self.best.len();
        self.best.fill(0);
        for ((k, &worth), taken) in value.iter().enumerate().zip(self.taken.chunks_mut(width)) {
            taken.fill(0);
            let (size, most) = (whole.size[k], whole.count[k].min((width - 1) / whole.size[k].max(1)));
            if worth == 0 || most == 0 || size == 0 {
                continue;
            }
            // Each kind at most as often as it is wanted: as powers of two, from the full room down.
            let mut left = most;
            let mut lot = 1;
            while left > 0 {
                let n = lot.min(left);
                left -= n;
                lot *= 2;
                let (take, gain) = (n * size, worth * n as u64);
                for r in (take..width).rev() {
                    let with = self.best[r - take] + gain;
                    if with > self.best[r] {
                        self.best[r] = with;
                        taken[r] = taken[r - take] + n as u16;
                    }
                }
            }
        }
    }

    /// Heavy rolls of each stock, the heaviest first: each kind is on one of them, as far as there are enough.
    fn heavy(&self, whole: &WholeProblem, value: &[u64]) -> Vec<Filled> {
        let mut out = Vec::new();
        for (stock, &room) in whole.room.iter().enumerate() {
            let fits = (0..whole.size.len()).filter(|k| whole.size[*k] <= room);
            let mut each: Vec<(u64, usize)> = fits.map(|k| (value[k] + self.best[room - whole.size[k]], k)).collect();
            each.sort_unstable_by(|a, b| b.cmp(a));
            let heaviest = self.heaviest(whole, room);
            let mut on_one = vec![false; whole.size.len()];
            heaviest.iter().for_each(|(k, _)| on_one[*k] = true);
            out.push(Filled { stock, of: heaviest });
            for (_, k) in each {
                if on_one[k] || out.len() >= MOST_FRESH {
                    continue;
                }
                let mut of = self.heaviest(whole, room - whole.size[k]);
                fill::one_more(&mut of, k);
                of.sort_unstable();
                if of.iter().all(|(k, n)| *n <= whole.count[*k]) {
                    of.iter().for_each(|(k, _)| on_one[*k] = true);
                    out.push(Filled { stock, of });
                }
            }
        }
        out
    }

    /// How many of each kind are on the heaviest roll of that room.
    fn heaviest(&self, whole: &WholeProblem, room: usize) -> Vec<(usize, usize)> {
        let mut of = Vec::new();
        let mut r = room;
        for (k, taken) in self.taken.chunks(self.best.len()).enumerate().take(whole.size.len()).rev() {
            let n = usize::from(taken[r]);
            if n > 0 {
                of.push((k, n));
                r -= n * whole.size[k];
            }
        }
        of.reverse();
        of
    }
}

/// A packing begun: what is left to pack, what is packed, and how often each pattern is asked for what is left.
struct Begun {
    left: Vec<usize>,
    on_hand: Vec<Option<usize>>,
    out: Vec<Filled>,
    patterns: Rc<Vec<Filled>>,
    /// How often which pattern is asked for; none before it was looked at.
    asked: Vec<(usize, f64)>,
}

/// What was seen where a packing stands.
enum Seen {
    /// It is as good as it can be, or was stopped.
    Ends,
    /// From here the bound cannot be reached.
    DeadEnd,
    /// It goes on by the patterns asked for.
    GoesOn,
}

/// Packing by patterns, as far as it has come.
struct Dive<'a, S> {
    whole: &'a WholeProblem,
    weights: Weights,
    bound: u64,
    settle: S,
    stop: &'a (dyn Fn() -> bool + Sync),
    best: Option<Vec<Filled>>,
    dice: fill::Dice,
    dead_ends: u32,
    looked: usize,
    first: bool,
}

impl<S: Fn(&WholeProblem, Vec<Filled>, u64, &Weights) -> Vec<Filled>> Dive<'_, S> {
    fn cost(&self, filled: &[Filled]) -> u64 {
        filled.iter().map(|f| self.whole.cost[f.stock]).sum()
    }

    /// Packs the rest in another way, and asks how often each pattern is to be taken. `rest` is what is left of `all`, by the kinds `kept`.
    fn look(&mut self, at: &mut Begun, all: &WholeProblem, (rest, kept): (&WholeProblem, &[usize])) -> Seen {
        self.looked += if self.first { 1 } else { (rest.size.len() / LOOKED_AT).pow(2) + 1 };
        let weights =
            Weights { of: kept.iter().map(|k| self.weights.of[*k]).collect(), full: self.weights.full.clone() };
        let named = |f: &Filled| Filled { of: f.of.iter().map(|(k, n)| (kept[*k], *n)).collect(), ..f.clone() };
        let tail = one_after_another(rest, &rest.count);
        let tail = (self.settle)(rest, tail, self.bound.saturating_sub(self.cost(&at.out)), &weights);
        // What only rolls on hand could hold may have lost them.
        let placed: usize = tail.iter().flat_map(|f| &f.of).map(|(_, n)| n).sum();
        let ends = (placed == rest.count.iter().sum::<usize>()).then(|| self.cost(&at.out) + self.cost(&tail));
        if ends.is_some_and(|ends| self.best.as_ref().is_none_or(|b| ends < self.cost(b))) {
            self.best = Some(at.out.iter().cloned().chain(tail.iter().map(named)).collect());
        }
        if ends.is_some_and(|ends| ends <= self.bound) || self.looked > LOOKS || (self.stop)() {
            return Seen::Ends;
        }
        let mut reachable = true;
        if !std::mem::take(&mut self.first) {
            let mut place = vec![None; self.whole.size.len()];
            kept.iter().enumerate().for_each(|(i, k)| place[*k] = Some(i));
            let fits = |f: &Filled| {
                let there = |(k, n): &(usize, usize)| Some((place[*k].filter(|i| rest.count[*i] >= *n)?, *n));
                Some(Filled { stock: f.stock, of: f.of.iter().map(there).collect::<Option<_>>()? })
            };
            let rough = Columns { patterns: at.patterns.iter().filter_map(fits).collect(), bound: 0, weights };
            let Some(more) = refine(rest, rough, &tail, WeightOrder::Free, self.stop) else { return Seen::Ends };
            reachable = self.cost(&at.out) + more.bound <= self.bound;
            at.patterns = Rc::new(more.patterns.iter().map(named).collect());
        }
        if reachable {
            let Some(asked) = amounts(all, &at.patterns, self.stop) else { return Seen::Ends };
            at.asked = asked.into_iter().enumerate().filter(|(_, x)| *x > 1e-6).collect();
        }
        if at.asked.is_empty() { Seen::DeadEnd } else { Seen::GoesOn }
    }

    /// Takes each pattern as often as it is asked in full, and some of those that are asked for most; `None` where none is taken. `kinds` is how
    /// many are left.
    fn further(&mut self, at: &Begun, kinds: usize) -> Option<Begun> {
        let noise = if self.dead_ends > 0 { NOISE } else { 0.0 };
        let mut by: Vec<(f64, usize, f64)> =
            at.asked.iter().map(|(i, x)| (x + noise * self.dice.share(), *i, *x)).collect();
        by.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        let rolls: f64 = by.iter().map(|(_, _, x)| x).sum();
        let in_full = |x: f64| (x + 1e-6).floor();
        let all_in_full: f64 = by.iter().map(|(_, _, x)| in_full(*x)).sum();
        let so_many = rolls * (1.0 - AFTER_ONE as f64 / kinds as f64);
        let mut more = (AT_ONCE * (rolls - all_in_full)).max(so_many - all_in_full).ceil() as usize;
        let (mut left, mut on_hand, mut out) = (at.left.clone(), at.on_hand.clone(), at.out.clone());
        for (_, i, x) in by {
            let left_out = self.dead_ends > 0 && self.dice.share() < LEFT_OUT;
            let full = if left_out { 0 } else { in_full(x) as usize };
            let up = usize::from(more > 0 && x - in_full(x) > LIKELY || full == 0 && out.len() == at.out.len());
            more -= up.min(more);
            for _ in 0..full + up {
                let f = &at.patterns[i];
                let there = f.of.iter().all(|(k, n)| left[*k] >= *n) && on_hand[f.stock].is_none_or(|n| n > 0);
                if !there {
                    break;
                }
                f.of.iter().for_each(|(k, n)| left[*k] -= n);
                on_hand[f.stock] = on_hand[f.stock].map(|n| n - 1);
                out.push(f.clone());
            }
        }
        let patterns = Rc::clone(&at.patterns);
        (out.len() > at.out.len()).then(|| Begun { left, on_hand, out, patterns, asked: Vec::new() })
    }
}

/// Packs by patterns: as many of each as the linear program asks in full and those it asks most of, the rest anew. Where the rest can no
/// longer be had at the bound it goes back some steps, ever so often more of them, and takes others. `settle` packs a rest in another way.
pub(super) fn dive(
    whole: &WholeProblem,
    known: Columns,
    bound: u64,
    settle: impl Fn(&WholeProblem, Vec<Filled>, u64, &Weights) -> Vec<Filled>,
    stop: &(dyn Fn() -> bool + Sync),
) -> Option<Vec<Filled>> {
    let Columns { patterns, weights, .. } = known;
    let start = Begun {
        left: whole.count.clone(),
        on_hand: whole.on_hand.clone(),
        out: Vec::new(),
        patterns: Rc::new(patterns),
        asked: Vec::new(),
    };
    let mut begun = vec![start];
    let (best, dice) = (None, fill::Dice::new(1));
    let mut dive = Dive { whole, weights, bound, settle, stop, best, dice, dead_ends: 0, looked: 0, first: true };
    while let Some(mut at) = begun.pop() {
        let all = WholeProblem { count: at.left.clone(), on_hand: at.on_hand.clone(), ..whole.clone() };
        let (rest, kept) = all.of_kinds(&at.left);
        if at.asked.is_empty() {
            match dive.look(&mut at, &all, (&rest, &kept)) {
                Seen::Ends => break,
                Seen::DeadEnd => {
                    dive.dead_ends += 1;
                    let back = 1 << dive.dead_ends.trailing_zeros() >> 1;
                    begun.truncate(begun.len().saturating_sub(back).max(1));
                    continue;
                }
                Seen::GoesOn => {}
            }
        }
        if let Some(next) = dive.further(&at, rest.size.len()) {
            begun.push(at);
            begun.push(next);
        }
    }
    dive.best
}

/// How often each pattern is cut in the cheapest mixture.
fn amounts(whole: &WholeProblem, patterns: &[Filled], stop: &(dyn Fn() -> bool + Sync)) -> Option<Vec<f64>> {
    let mut problem = Problem::new(OptimizationDirection::Minimize);
    let usable = |f: &Filled| f.of.iter().all(|(k, n)| whole.count[*k] >= *n);
    let most = |f: &Filled| match (usable(f), whole.on_hand[f.stock]) {
        (false, _) => 0.0,
        (true, Some(n)) => n as f64,
        (true, None) => f64::INFINITY,
    };
    let times: Vec<Variable> =
        patterns.iter().map(|f| problem.add_var(whole.cost[f.stock] as f64, (0.0, most(f)))).collect();
    let mut rows: Vec<Vec<(Variable, f64)>> = vec![Vec::new(); whole.size.len()];
    for (f, v) in patterns.iter().zip(&times) {
        f.of.iter().for_each(|(k, n)| rows[*k].push((*v, *n as f64)));
    }
    for (k, row) in rows.into_iter().enumerate().filter(|(k, _)| whole.count[*k] > 0) {
        problem.add_constraint(row, ComparisonOp::Ge, whole.count[k] as f64);
    }
    let mut of_stock: Vec<Vec<(Variable, f64)>> = vec![Vec::new(); whole.room.len()];
    patterns.iter().zip(&times).for_each(|(f, v)| of_stock[f.stock].push((*v, 1.0)));
    for (stock, row) in of_stock.into_iter().enumerate() {
        if let Some(n) = whole.on_hand[stock].filter(|_| !row.is_empty()) {
            problem.add_constraint(row, ComparisonOp::Le, n as f64);
        }
    }
    let solution = solved(&mut problem, stop)?;
    Some(times.iter().map(|v| solution.var_value(*v)).collect())
}
