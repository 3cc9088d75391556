//! Packing on a given list of rolls: what is over is weighed against one roll after another until all of it fits on the last.
//!
//! Simulated annealing in which a step fills one roll anew as full as it can be. What a piece weighs is what the bound says of it: a piece that
//! wastes room wherever it goes weighs more than its length. A worse roll is taken at first, ever more seldom as it cools.

use super::fill::{Dice, Filler, Weights};
use super::{Filled, WholeProblem};
use std::cmp::Reverse;

/// Steps for each roll, and at least and at most so many in all.
const STEPS_A_ROLL: usize = 600;
const LEAST_STEPS: usize = 3000;
const MOST_STEPS: usize = 6_000_000;
/// Where there are more kinds than this, steps grow by the square: what comes after settling grows by more.
const MANY_KINDS: usize = 400;
/// At most so many before the bound is looked at more closely.
const QUICK_STEPS: usize = 20_000;
/// At most so many rolls are taken apart together.
const TOGETHER: usize = 3;

/// How it cools: heat at the start and at the end, by the room to spare on each roll; and what weighs more the longer a piece is.
/// The second way serves where a few long pieces are left over that fit nowhere.
const WAYS: [SettleWay; 2] =
    [SettleWay { from: 25.0, to: 0.2, long: 0.0 }, SettleWay { from: 3.0, to: 0.1, long: 0.05 }];

/// How long it is tried.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Pace {
    /// Before the bound is looked at more closely.
    Quick,
    /// At the bound that is known.
    Thorough,
}

#[derive(Clone, Copy)]
struct SettleWay {
    from: f64,
    to: f64,
    long: f64,
}

/// Packs everything on these rolls, each the index of a stock, or gives up. Begins with those of `start` that it may use.
pub(super) fn on_these(
    whole: &WholeProblem,
    rolls: &[usize],
    start: &[Filled],
    weights: &Weights,
    pace: Pace,
    stop: &(dyn Fn() -> bool + Sync),
) -> Option<Vec<Filled>> {
    let length: usize = whole.size.iter().zip(&whole.count).map(|(s, n)| s * n).sum();
    let room: usize = rolls.iter().map(|k| whole.room[*k]).sum();
    if length > room {
        return None;
    }
    let ways = if pace == Pace::Quick { &WAYS[1..] } else { &WAYS };
    ways.iter().enumerate().find_map(|(n, way)| {
        let mut rolls = rolls.to_vec();
        rolls.sort_by_key(|k| whole.room[*k]);
        let last = rolls.pop()?;
        let (filled, over) = begun(whole, &rolls, start);
        let most = if pace == Pace::Quick { QUICK_STEPS } else { MOST_STEPS };
        let many = (whole.size.len() as f64 / MANY_KINDS as f64).powi(2).max(1.0);
        let steps = ((filled.len() * STEPS_A_ROLL) as f64 * many) as usize;
        let steps = steps.clamp(LEAST_STEPS, most);
        Settling { whole, last, filled, over, way: *way, steps, dice: Dice::new(n as u64 + 1) }.settled(weights, stop)
    })
}

/// The rolls with what is on them in `start`, the fullest first, or else filled; and what is over.
fn begun(whole: &WholeProblem, rolls: &[usize], start: &[Filled]) -> (Vec<Filled>, Vec<(usize, usize)>) {
    let mut left = whole.count.clone();
    let mut kept: Vec<&Filled> = start.iter().collect();
    kept.sort_by_key(|f| length_of(whole, &f.of));
    let mut filled = Vec::with_capacity(rolls.len() + 1);
    let mut fresh = Vec::new();
    for stock in rolls {
        match kept.iter().rposition(|f| f.stock == *stock) {
            Some(at) => {
                let f = kept.remove(at).clone();
                f.of.iter().for_each(|(k, n)| left[*k] -= n);
                filled.push(f);
            }
            None => fresh.push(*stock),
        }
    }
    let order: Vec<usize> = (0..whole.size.len()).collect();
    let mut filler = Filler::default();
    for stock in fresh {
        let of = filler.fullest(&whole.size, &left, &order, None, whole.room[stock]);
        of.iter().for_each(|(k, n)| left[*k] -= n);
        filled.push(Filled { stock, of });
    }
    (filled, left.into_iter().enumerate().filter(|(_, n)| *n > 0).collect())
}

fn length_of(whole: &WholeProblem, of: &[(usize, usize)]) -> usize {
    of.iter().map(|(k, n)| whole.size[*k] * n).sum()
}

struct Settling<'a> {
    whole: &'a WholeProblem,
    /// The stock of the roll that what is over has to fit on in the end.
    last: usize,
    filled: Vec<Filled>,
    over: Vec<(usize, usize)>,
    way: SettleWay,
    steps: usize,
    dice: Dice,
}

impl Settling<'_> {
    fn settled(mut self, weights: &Weights, stop: &(dyn Fn() -> bool + Sync)) -> Option<Vec<Filled>> {
        let whole = self.whole;
        let full = weights.full[self.last].max(1) as f64;
        let longest = whole.room.iter().copied().max().unwrap_or(1).max(1) as f64;
        let long = |s: usize| self.way.long * (s as f64 / longest).powi(2);
        let each: Vec<f64> = whole.size.iter().zip(&weights.of).map(|(s, w)| *w as f64 / full + long(*s)).collect();
        let worth = |of: &[(usize, usize)]| of.iter().map(|(k, n)| each[*k] * *n as f64).sum::<f64>();
        let held: u64 = self.filled.iter().map(|f| weights.full[f.stock]).sum::<u64>() + weights.full[self.last];
        let all: u64 = weights.of.iter().zip(&whole.count).map(|(w, n)| w * *n as u64).sum();
        let rolls = self.filled.len().max(1);
        let spare = held.saturating_sub(all) as f64 / full / rolls as f64;
        let mut left = vec![0; whole.size.len()];
        let mut filler = Filler::default();
        for step in 0..self.steps {
            if length_of(whole, &self.over) <= whole.room[self.last] {
                self.filled.push(Filled { stock: self.last, of: self.over });
                self.filled.retain(|f| !f.of.is_empty());
                return Some(self.filled);
            }
            if self.filled.is_empty() || (step % 64 == 0 && stop()) {
                break;
            }
            let heat = spare * self.way.from * (self.way.to / self.way.from).powf(step as f64 / self.steps as f64);
            // Some rolls are taken apart together, and what is on them put with what is over.
            let most = TOGETHER.min(self.filled.len());
            let n = 1 + self.dice.below(most);
            let from = self.filled.len() - n;
            for i in (from..self.filled.len()).rev() {
                self.filled.swap(i, self.dice.below(i + 1));
            }
            let mut pool: Vec<usize> = Vec::new();
            for (k, n) in self.over.iter().chain(self.filled[from..].iter().flat_map(|f| &f.of)) {
                if left[*k] == 0 {
                    pool.push(*k);
                }
                left[*k] += n;
            }
            for i in (1..pool.len()).rev() {
                pool.swap(i, self.dice.below(i + 1));
            }
            let (mut was, mut is) = (0.0, 0.0);
            let mut new = Vec::with_capacity(n);
            for f in &self.filled[from..] {
                // Every other time one of those left has to be on it.
                let first = (self.dice.below(2) == 0)
                    .then(|| pool[self.dice.below(pool.len())])
                    .filter(|k| left[*k] > 0 && whole.size[*k] <= whole.room[f.stock]);
                let of = filler.fullest(&whole.size, &left, &pool, first, whole.room[f.stock]);
                of.iter().for_each(|(k, n)| left[*k] -= n);
                (was, is) = (was + worth(&f.of), is + worth(&of));
                new.push(Filled { stock: f.stock, of });
            }
            if is >= was + (1.0 - self.dice.share()).ln() * heat {
                self.over = pool.iter().map(|k| (*k, left[*k])).filter(|(_, n)| *n > 0).collect();
                self.filled.truncate(from);
                self.filled.append(&mut new);
            }
            pool.iter().for_each(|k| left[*k] = 0);
        }
        None
    }
}

/// At most so many lists of rolls are tried at each cost, and in all.
const LISTS: usize = 12;
/// So many rolls at the end may be of any stock; those before them are what costs least for its room.
const FREE: usize = 8;
/// Lists cost at most so many of the dearest roll more than the least.
const BEYOND: u64 = 6;
/// How many kinds of stock are mixed at most.
const MIXED: usize = 3;

/// Lists of rolls, all on hand and some to buy, that could hold everything and cost from `least` to less than `most`: the cheapest first.
pub(super) fn lists(whole: &WholeProblem, least: u64, most: u64) -> Vec<Vec<usize>> {
    let on_hand: Vec<usize> =
        (0..whole.room.len()).flat_map(|k| std::iter::repeat_n(k, whole.on_hand[k].unwrap_or(0))).collect();
    let length = length_of(whole, &whole.count.iter().copied().enumerate().collect::<Vec<_>>());
    let rest = length.saturating_sub(on_hand.iter().map(|k| whole.room[*k]).sum());
    let mut stocks: Vec<usize> = whole.to_buy().filter(|k| whole.room[*k] > 0).collect();
    stocks.sort_by(|a, b| {
        let per = |cost: usize, room: usize| u128::from(whole.cost[cost]) * whole.room[room] as u128;
        per(*a, *b).cmp(&per(*b, *a)).then(whole.room[*b].cmp(&whole.room[*a]))
    });
    stocks.truncate(MIXED);
    let Some(&best) = stocks.first() else { return Vec::new() };
    let base = (rest / whole.room[best]).saturating_sub(FREE);
    let begun = (whole.cost[best] * base as u64, Reverse(whole.room[best] * base), vec![best; base]);
    let (mut open, mut all) = (vec![begun], Vec::new());
    // Each list grows by stocks no earlier than its last. Far beyond the least nobody looks.
    let dearest = stocks.iter().map(|k| whole.cost[*k]).max().unwrap_or(0);
    let most = most.min(least + BEYOND * dearest);
    while let Some((cost, room, list)) = open.pop() {
        if room.0 >= rest && cost >= least {
            all.push((cost, room, list.clone()));
        }
        let from = if list.len() > base { stocks.iter().position(|s| Some(s) == list.last()).unwrap_or(0) } else { 0 };
        for &k in &stocks[from..] {
            let cost = cost + whole.cost[k];
            if cost < most {
                let mut longer = list.clone();
                longer.push(k);
                open.push((cost, Reverse(room.0 + whole.room[k]), longer));
            }
        }
    }
    all.sort();
    all.truncate(LISTS);
    all.into_iter().map(|(_, _, bought)| on_hand.iter().copied().chain(bought).collect()).collect()
}
