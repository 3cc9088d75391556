//! Column generation: weights of the pieces from a linear program over the patterns known, the best pattern for those weights, and again.

use super::fill::{Weights, one_after_another};
use super::{Filled, Whole, bound};
use microlp::{ComparisonOp, OptimizationDirection, Problem, Solution, Variable};
use std::collections::BTreeMap;

/// More kinds than this are not weighed.
pub(super) const MOST_KINDS: usize = 400;
/// So many of the kinds are corners where there are more.
const CORNERS: usize = 60;
/// Weights are counted in this many steps to the cost of one.
const SCALE: f64 = 1e7;
/// More rounds than this are not made.
const ROUNDS: usize = 3000;
/// No more patterns are added once the program has so many places.
const LARGEST: usize = 250_000;
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
struct Basis {
    /// For each kind the corners it lies between, and its share of each.
    of: Vec<Vec<(usize, f64)>>,
    corners: usize,
}

impl Basis {
    fn of(whole: &Whole) -> Self {
        let n = whole.size.len();
        if n <= MOST_KINDS {
            return Self { of: (0..n).map(|k| vec![(k, 1.0)]).collect(), corners: n };
        }
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

/// Generates patterns until none is worth more than it costs, or it is stopped: the bound holds either way.
pub(super) fn generate(whole: &Whole, stop: &(dyn Fn() -> bool + Sync)) -> Option<Columns> {
    let mut known = one_after_another(whole, &whole.count);
    known.sort_by(|a, b| (a.stock, &a.of).cmp(&(b.stock, &b.of)));
    known.dedup();
    // The dual: weights as heavy as they can be while no pattern weighs more than it costs; rolls on hand have a rent instead.
    let mut problem = Problem::new(OptimizationDirection::Maximize);
    let top = whole.cost.iter().copied().max().unwrap_or(1) as f64;
    let basis = Basis::of(whole);
    let mut count = vec![0.0; basis.corners];
    for (of, n) in basis.of.iter().zip(&whole.count) {
        of.iter().for_each(|(c, share)| count[*c] += share * *n as f64);
    }
    let weight: Vec<Variable> = count.iter().map(|n| problem.add_var(*n, (0.0, top))).collect();
    let rent: Vec<Option<Variable>> =
        whole.on_hand.iter().map(|n| n.map(|n| problem.add_var(-(n as f64), (0.0, f64::INFINITY)))).collect();
    let row = |f: &Filled| {
        let mut sums: BTreeMap<usize, f64> = BTreeMap::new();
        for (k, n) in &f.of {
            basis.of[*k].iter().for_each(|(c, share)| *sums.entry(*c).or_default() += share * *n as f64);
        }
        let mut row: Vec<(Variable, f64)> = sums.into_iter().map(|(c, n)| (weight[c], n)).collect();
        row.extend(rent[f.stock].map(|r| (r, -1.0)));
        row
    };
    for f in &known {
        problem.add_constraint(row(f), ComparisonOp::Le, whole.cost[f.stock] as f64);
    }
    let mut solution: Solution = problem.solve().ok()?.into_solution().ok()?;
    let mut best = 0;
    let mut weights = Weights { of: Vec::new(), full: Vec::new() };
    let mut knapsack = Knapsack::new(whole);
    for _ in 0..ROUNDS {
        let at: Vec<f64> = weight.iter().map(|v| solution.var_value(*v).max(0.0) * SCALE).collect();
        let value: Vec<u64> =
            basis.of.iter().map(|of| of.iter().map(|(c, share)| at[*c] * share).sum::<f64>() as u64).collect();
        knapsack.weigh(whole, &value);
        let held: Vec<(u64, Vec<(usize, usize)>)> =
            whole.room.iter().map(|room| knapsack.heaviest(whole, *room)).collect();
        let bound = bound::weighed(whole, &value, |k| held[k].0);
        if bound >= best {
            (best, weights) = (bound, Weights { of: value, full: held.iter().map(|h| h.0).collect() });
        }
        let mut added = false;
        for (stock, (worth, of)) in held.into_iter().enumerate() {
            let rented = rent[stock].map_or(0.0, |r| solution.var_value(r));
            let asks = whole.cost[stock] as f64 + rented;
            let f = Filled { stock, of };
            if worth as f64 / SCALE > asks + WORTH * top.max(1.0) + whole.size.len() as f64 / SCALE
                && !known.contains(&f)
            {
                solution = solution
                    .add_constraint(row(&f), ComparisonOp::Le, whole.cost[stock] as f64)
                    .ok()?
                    .into_solution()
                    .ok()?;
                known.push(f);
                added = true;
            }
        }
        if !added || known.len() * basis.corners > LARGEST || stop() {
            break;
        }
    }
    Some(Columns { patterns: known, bound: best, weights })
}

/// The heaviest roll, by dynamic programming over its room: one table answers for every room up to the longest.
struct Knapsack {
    best: Vec<u64>,
    taken: Vec<u16>,
}

impl Knapsack {
    fn new(whole: &Whole) -> Self {
        let width = whole.room.iter().copied().max().unwrap_or(0) + 1;
        Self { best: vec![0; width], taken: vec![0; width * whole.size.len().max(1)] }
    }

    fn weigh(&mut self, whole: &Whole, value: &[u64]) {
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

    /// What a roll of that room weighs, and how many of each kind are on it.
    fn heaviest(&self, whole: &Whole, room: usize) -> (u64, Vec<(usize, usize)>) {
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
        (self.best[room], of)
    }
}

/// Packs by patterns: as many of each as the linear program asks in full, the rest anew, until nothing is left.
pub(super) fn dive(
    whole: &Whole,
    known: Vec<Filled>,
    bound: u64,
    stop: &(dyn Fn() -> bool + Sync),
) -> Option<Vec<Filled>> {
    let cost = |filled: &[Filled]| filled.iter().map(|f| whole.cost[f.stock]).sum::<u64>();
    let fits = |f: &&Filled| {
        f.of.iter().map(|(k, n)| whole.size.get(*k).map_or(usize::MAX, |s| s * n)).sum::<usize>() <= whole.room[f.stock]
    };
    let mut fresh = !known.is_empty();
    let mut patterns: Vec<Filled> = known.into_iter().filter(|f| fits(&f)).collect();
    let mut left = whole.count.clone();
    let mut on_hand = whole.on_hand.clone();
    let mut out: Vec<Filled> = Vec::new();
    let mut best: Option<Vec<Filled>> = None;
    while left.iter().any(|n| *n > 0) && !stop() {
        let rest = Whole { count: left.clone(), on_hand: on_hand.clone(), ..whole.clone() };
        // What filling makes of the rest may already be enough.
        let mut tail = one_after_another(&rest, &left);
        let mut whole_way = out.clone();
        whole_way.append(&mut tail);
        if best.as_ref().is_none_or(|b| cost(&whole_way) < cost(b)) {
            best = Some(whole_way);
        }
        if best.as_ref().is_some_and(|b| cost(b) <= bound) {
            break;
        }
        let (small, back) = rest.of_kinds(&left);
        if let Some(more) = (!std::mem::take(&mut fresh)).then(|| generate(&small, stop)).flatten() {
            let named = |f: Filled| Filled { of: f.of.iter().map(|(k, n)| (back[*k], *n)).collect(), ..f };
            patterns.extend(more.patterns.into_iter().map(named));
        }
        let Some(amounts) = amounts(&rest, &patterns) else { break };
        // As often as it is asked in full; where nothing is, the one that is asked for most.
        let mut taken = false;
        let mut by: Vec<(usize, f64)> = amounts.into_iter().enumerate().filter(|(_, x)| *x > 1e-6).collect();
        by.sort_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
        for (i, x) in &by {
            let whole_times = (x + 1e-6).floor() as usize;
            let times = if taken { whole_times } else { whole_times.max(1) };
            for _ in 0..times {
                let f = &patterns[*i];
                let there = f.of.iter().all(|(k, n)| left[*k] >= *n) && on_hand[f.stock].is_none_or(|n| n > 0);
                if !there {
                    break;
                }
                f.of.iter().for_each(|(k, n)| left[*k] -= n);
                on_hand[f.stock] = on_hand[f.stock].map(|n| n - 1);
                out.push(f.clone());
                taken = true;
            }
        }
        if !taken {
            break;
        }
    }
    if left.iter().all(|n| *n == 0) && best.as_ref().is_none_or(|b| cost(&out) < cost(b)) {
        best = Some(out);
    }
    best
}

/// How often each pattern is cut in the cheapest mixture.
fn amounts(whole: &Whole, patterns: &[Filled]) -> Option<Vec<f64>> {
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
    let solution = problem.solve().ok()?.into_solution().ok()?;
    Some(times.iter().map(|v| solution.var_value(*v)).collect())
}
