//! One-dimensional nesting: pieces on rolls of one or several lengths, leftovers among them, and a bound that no nesting can beat.
//!
//! A good packing is found by filling one roll after another as full as it can be. Where that is above the simple bounds, column generation
//! (Gilmore and Gomory) over a linear program raises the bound and gives patterns to pack by. Every bound is checked in whole numbers, so that
//! "proved" does not rest on floating point: for any weights of the pieces, no roll can hold more weight than the best knapsack of them.

mod bound;
mod columns;
mod fill;
mod panels;
mod settle;

pub use panels::{Cheapest, CutSheet, Placed, cheapest, sheets};

use crate::length::Length;
use columns::WeightOrder;
use fill::Weights;
use serde::Serialize;
use settle::Pace;
use std::cmp::Ordering;

/// How good a nesting is known to be; never more than was proved.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "is", rename_all = "lowercase")]
pub enum Outcome {
    /// No nesting needs fewer rolls, or costs less where rolls have prices.
    Proved,
    /// At most this many rolls more than needed; of the cheapest, where rolls have prices.
    Within {
        /// How many.
        rolls: usize,
    },
    /// It was stopped before anything better than the length of all pieces was known.
    Heuristic,
}

impl Outcome {
    /// The lower bound it stands for, with so many used; 0 where none is known.
    pub fn bound(self, used: usize) -> usize {
        match self {
            Self::Proved => used,
            Self::Within { rolls } => used.saturating_sub(rolls),
            Self::Heuristic => 0,
        }
    }

    /// From rolls used and a lower bound.
    pub fn of(used: usize, bound: usize) -> Self {
        match used.saturating_sub(bound) {
            0 => Self::Proved,
            rolls => Self::Within { rolls },
        }
    }
}

/// A length of roll that pieces are cut from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct RollStock {
    /// How long it is.
    pub length: Length,
    /// What one costs, in hundredths of the currency. Where any that can be bought has none, length counts instead.
    pub price: Option<i64>,
    /// How many are on the truck and cost nothing more; `None` for rolls to buy, as many as are needed.
    pub on_hand: Option<usize>,
}

impl RollStock {
    /// Rolls to buy.
    pub fn to_buy(length: Length, price: Option<i64>) -> Self {
        Self { length, price, on_hand: None }
    }
}

/// How it is cut.
#[derive(Clone, Copy)]
pub struct Cutting<'a> {
    /// Lost at each cut.
    pub kerf: Length,
    /// Shorter ends are waste.
    pub least_left: Length,
    /// Asked now and then: true to stop with what is known.
    pub stop: &'a (dyn Fn() -> bool + Sync),
}

impl Default for Cutting<'_> {
    fn default() -> Self {
        Self { kerf: Length::ZERO, least_left: Length::ZERO, stop: &|| false }
    }
}

/// One roll with what is cut from it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Roll {
    /// Index of the stock it is.
    pub stock: usize,
    /// Indices of the pieces, the longest first.
    pub pieces: Vec<usize>,
    /// What is left.
    pub left: Length,
    /// True where the rest is long enough to be kept.
    pub useful: bool,
}

/// Pieces on rolls.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Nesting {
    /// The rolls: those on hand first.
    pub rolls: Vec<Roll>,
    /// Pieces longer than any roll, or longer than those to buy once the longer ones on hand are used up.
    pub too_long: Vec<usize>,
    /// How many of the rolls are bought.
    pub bought: usize,
    /// No nesting of the others buys fewer rolls.
    pub bound: usize,
    /// What was proved.
    pub outcome: Outcome,
}

/// The problem in whole numbers: pieces of equal length are one kind.
#[derive(Clone, Debug)]
struct WholeProblem {
    /// Length of each kind with its cut, longest first.
    size: Vec<usize>,
    /// How many of each kind.
    count: Vec<usize>,
    /// Room on each stock.
    room: Vec<usize>,
    /// Cost of one of each stock; 0 where it is on hand.
    cost: Vec<u64>,
    /// How many there are of each; `None` as many as are needed.
    on_hand: Vec<Option<usize>>,
}

impl WholeProblem {
    /// The same with so many of each kind, without kinds of which there is none; and which kinds are left.
    fn of_kinds(&self, count: &[usize]) -> (Self, Vec<usize>) {
        let kept: Vec<usize> = (0..self.size.len()).filter(|k| count[*k] > 0).collect();
        let small = Self {
            size: kept.iter().map(|k| self.size[*k]).collect(),
            count: kept.iter().map(|k| count[*k]).collect(),
            room: self.room.clone(),
            cost: self.cost.clone(),
            on_hand: self.on_hand.clone(),
        };
        (small, kept)
    }

    /// Where rolls are of one length, as many as are needed: rolls that two pieces fill and leave no more than `spare` in all, those that leave
    /// least first; the rest, and which kinds those are. What two fill with nothing left costs no packing a roll more: whatever else lies beside
    /// one of the two could lie where the other does.
    fn in_twos(&self, spare: usize) -> Option<(Vec<Filled>, Self, Vec<usize>)> {
        let ([room], [None]) = (&self.room[..], &self.on_hand[..]) else { return None };
        let (mut spare, mut left, mut twos) = (spare, self.count.clone(), Vec::new());
        // Where more is left a third could lie beside them.
        let shortest = self.size.last().copied().unwrap_or(0);
        for leaves in 0..shortest.max(1) {
            if leaves > spare {
                break;
            }
            let most = spare.checked_div(leaves).unwrap_or(usize::MAX);
            let mut n = 0;
            let (mut long, mut short) = (0, self.size.len());
            while long + 1 < short && n < most {
                match (self.size[long] + self.size[short - 1]).cmp(&(room - leaves)) {
                    Ordering::Greater => long += 1,
                    Ordering::Less => short -= 1,
                    Ordering::Equal => {
                        let more = left[long].min(left[short - 1]).min(most - n);
                        (left[long], left[short - 1], n) = (left[long] - more, left[short - 1] - more, n + more);
                        twos.extend((0..more).map(|_| Filled { stock: 0, of: vec![(long, 1), (short - 1, 1)] }));
                        (long, short) = (long + 1, short - 1);
                    }
                }
            }
            spare -= n * leaves;
        }
        let (rest, kept) = self.of_kinds(&left);
        Some((twos, rest, kept))
    }

    fn to_buy(&self) -> impl Iterator<Item = usize> + '_ {
        (0..self.room.len()).filter(|k| self.on_hand[*k].is_none())
    }
}

/// How many of each kind are on one roll of a stock.
#[derive(Clone, Debug, PartialEq, Eq)]
struct Filled {
    stock: usize,
    of: Vec<(usize, usize)>,
}

/// So many tenths of what may be left over are tried on rolls in twos.
const TENTHS_IN_TWOS: [usize; 5] = [4, 6, 8, 9, 10];

/// More steps than this to the longest roll are rounded: pieces up for packing, down for the bound.
const FINEST: i64 = 40_000;

/// Packs pieces on rolls.
///
/// Rolls on hand are used before any is bought. Among rolls to buy the cheapest sum is sought, or the least number where there is one length.
pub fn nest(lengths: &[Length], stock: &[RollStock], cutting: &Cutting) -> Nesting {
    let longest = stock.iter().map(|s| s.length).max().unwrap_or(Length::ZERO);
    let fits = |i: &usize| lengths[*i].is_positive() && lengths[*i] <= longest;
    let (fitting, mut too_long): (Vec<usize>, Vec<usize>) = (0..lengths.len()).partition(fits);
    let steps = Steps::of(&fitting.iter().map(|i| lengths[*i]).collect::<Vec<_>>(), stock, cutting.kerf);
    let (packing, kinds) = steps.whole(&fitting, lengths, stock, cutting.kerf, Round::Safe);
    let (relaxed, _) = steps.whole(&fitting, lengths, stock, cutting.kerf, Round::Generous);
    let exact = packing.size == relaxed.size && packing.room == relaxed.room;
    let found = match packing.in_twos(0).filter(|_| exact) {
        Some((pairs, rest, kept)) => search(&rest, &rest, cutting).with(pairs, &kept),
        None => search(&packing, &relaxed, cutting),
    };
    let mut left_of_kind: Vec<Vec<usize>> = kinds;
    left_of_kind.iter_mut().for_each(|k| k.reverse());
    let mut rolls: Vec<Roll> = Vec::new();
    for f in &found.filled {
        let mut pieces = Vec::new();
        for (kind, n) in &f.of {
            let from = left_of_kind[*kind].len().saturating_sub(*n);
            pieces.extend(left_of_kind[*kind].drain(from..).rev());
        }
        pieces.sort_by(|a: &usize, b| lengths[*b].cmp(&lengths[*a]).then(a.cmp(b)));
        let used: Length = pieces.iter().map(|i| lengths[*i] + cutting.kerf).sum();
        let left = (stock[f.stock].length - used).max(Length::ZERO);
        let useful = left.is_positive() && left >= cutting.least_left;
        rolls.push(Roll { stock: f.stock, pieces, left, useful });
    }
    too_long.extend(left_of_kind.into_iter().flatten());
    too_long.sort_unstable();
    rolls.sort_by_key(|r| (stock[r.stock].on_hand.is_none(), r.left));
    let bought = rolls.iter().filter(|r| stock[r.stock].on_hand.is_none()).count();
    Nesting { rolls, too_long, bought, bound: found.bound.min(bought), outcome: found.outcome }
}

/// A piece longer than a roll as parts that lap: equal, as few as can be. `None` where the roll is not twice as long as the lap: a part would
/// hardly gain on the one before.
pub fn spliced(length: Length, roll: Length, lap: Length) -> Option<Vec<Length>> {
    if length <= roll {
        return Some(vec![length]);
    }
    let gain = roll - lap;
    if !gain.is_positive() || lap > gain {
        return None;
    }
    let over = (length - lap).units();
    let n = (over + gain.units() - 1) / gain.units();
    let each = (length.units() + lap.units() * (n - 1) + n - 1) / n;
    Some(vec![Length::from_units(each); n as usize])
}

/// The step in which lengths are counted, and whether it is exact.
struct Steps {
    unit: i64,
}

#[derive(Clone, Copy, PartialEq)]
enum Round {
    Safe,
    Generous,
}

impl Steps {
    fn of(lengths: &[Length], stock: &[RollStock], kerf: Length) -> Self {
        let all = lengths.iter().copied().chain(stock.iter().map(|s| s.length)).chain([kerf]);
        let unit = all.map(Length::units).fold(0_i64, gcd).max(1);
        let longest = stock.iter().map(|s| s.length.units()).max().unwrap_or(1);
        Self { unit: unit.max(longest / FINEST) }
    }

    /// Pieces of equal length are one kind; also which pieces those are.
    fn whole(
        &self,
        fitting: &[usize],
        lengths: &[Length],
        stock: &[RollStock],
        kerf: Length,
        round: Round,
    ) -> (WholeProblem, Vec<Vec<usize>>) {
        let count = |units: i64, up: bool| {
            let n = if up { (units + self.unit - 1) / self.unit } else { units / self.unit };
            usize::try_from(n).unwrap_or(0)
        };
        let safe = round == Round::Safe;
        let mut by: std::collections::BTreeMap<std::cmp::Reverse<usize>, Vec<usize>> = Default::default();
        // The last cut of a roll is needed only where something is left.
        let room: Vec<usize> = stock.iter().map(|s| count((s.length + kerf).units(), !safe)).collect();
        let most = room.iter().copied().max().unwrap_or(0);
        for &i in fitting {
            // Rounded or not, a piece as long as the longest roll fits on it, alone.
            let size = count((lengths[i] + kerf).units(), safe).min(most);
            by.entry(std::cmp::Reverse(size)).or_default().push(i);
        }
        let prices = stock.iter().all(|s| s.on_hand.is_some() || s.price.is_some_and(|p| p > 0));
        let one = stock.iter().filter(|s| s.on_hand.is_none()).count() <= 1;
        let cost = |s: &RollStock| match (s.on_hand, s.price) {
            (Some(_), _) => 0,
            _ if one => 1,
            (None, Some(p)) if prices => p.unsigned_abs(),
            _ => (s.length.units() / Length::inch(1).units()).unsigned_abs().max(1),
        };
        let whole = WholeProblem {
            size: by.keys().map(|k| k.0).collect(),
            count: by.values().map(Vec::len).collect(),
            room,
            cost: stock.iter().map(cost).collect(),
            on_hand: stock.iter().map(|s| s.on_hand).collect(),
        };
        (whole, by.into_values().collect())
    }
}

fn gcd(a: i64, b: i64) -> i64 {
    if b == 0 { a } else { gcd(b, a % b) }
}

struct Packed {
    filled: Vec<Filled>,
    bound: usize,
    outcome: Outcome,
}

impl Packed {
    /// With rolls of which each is needed besides; kinds are named by `kept`.
    fn with(self, more: Vec<Filled>, kept: &[usize]) -> Self {
        let bound = self.bound + more.len();
        Self { filled: named(self.filled, kept).chain(more).collect(), bound, ..self }
    }
}

/// Kinds of a part under their names in the whole.
fn named(filled: Vec<Filled>, kept: &[usize]) -> impl Iterator<Item = Filled> {
    let name = |(k, n): &(usize, usize)| (kept[*k], *n);
    filled.into_iter().map(move |f| Filled { of: f.of.iter().map(name).collect(), ..f })
}

/// Fills first, then, where a gap is left, columns; each time the better of what is known stays.
fn search(packing: &WholeProblem, relaxed: &WholeProblem, cutting: &Cutting) -> Packed {
    let cost = |filled: &[Filled]| filled.iter().map(|f| packing.cost[f.stock]).sum::<u64>();
    let cheapest = packing.to_buy().map(|k| packing.cost[k]).min().unwrap_or(1).max(1);
    let said = |filled: Vec<Filled>, bound: u64, known: bool| {
        let gap = cost(&filled).saturating_sub(bound);
        let outcome = match (gap, known) {
            (0, _) => Outcome::Proved,
            (gap, true) => Outcome::Within { rolls: usize::try_from(gap.div_ceil(cheapest)).unwrap_or(usize::MAX) },
            (_, false) => Outcome::Heuristic,
        };
        let dearest = packing.to_buy().map(|k| packing.cost[k]).max().unwrap_or(1).max(1);
        Packed { filled, bound: usize::try_from(bound.div_ceil(dearest)).unwrap_or(0), outcome }
    };
    let mut bound = bound::simple(relaxed);
    let mut best = fill::one_after_another(packing, &packing.count);
    bound = bound::payable(packing, bound, cost(&best));
    if cost(&best) > bound && !(cutting.stop)() {
        // The same in other orders, and with some in twos first: cheap, and often enough.
        let mut dice = fill::Dice::new(1);
        let other = |n: u64| fill::shuffled(packing, &packing.count, &mut dice, n as f64 / fill::TRIES as f64);
        let others = (1..=fill::TRIES).map(other).chain(twos_first(packing, bound));
        for other in others {
            if cost(&other) < cost(&best) {
                best = other;
            }
            if cost(&best) <= bound || (cutting.stop)() {
                break;
            }
        }
    }
    if cost(&best) > bound && !(cutting.stop)() {
        best = on_lists(packing, best, bound, &Weights::lengths(packing), Pace::Quick, cutting);
    }
    if cost(&best) <= bound {
        return said(best, bound, true);
    }
    if (cutting.stop)() {
        return said(best, bound, false);
    }
    let Some(dual) = columns::generate(relaxed, cutting.stop) else { return said(best, bound, true) };
    bound = bound::payable(packing, bound.max(dual.bound), cost(&best));
    // Where lengths are rounded, what is weighed and the patterns are of other kinds.
    let same = relaxed.size == packing.size;
    let lengths = Weights::lengths(packing);
    best = on_lists(packing, best, bound, if same { &dual.weights } else { &lengths }, Pace::Thorough, cutting);
    let mut known = Some(dual).filter(|_| same);
    if packing.size.len() > columns::MOST_KINDS {
        for order in [WeightOrder::Kept, WeightOrder::Free] {
            if cost(&best) > bound && !(cutting.stop)() {
                known = known.and_then(|rough| columns::refine(relaxed, rough, &best, order, cutting.stop));
                bound =
                    bound::payable(packing, known.as_ref().map_or(bound, |fine| bound.max(fine.bound)), cost(&best));
            }
        }
    } else if known.is_none() && cost(&best) > bound && !(cutting.stop)() {
        known = columns::generate(packing, cutting.stop);
    }
    if let Some(known) = known.filter(|_| cost(&best) > bound && !(cutting.stop)()) {
        let settle = |rest: &WholeProblem, tail: Vec<Filled>, bound: u64, weights: &Weights| {
            on_lists(rest, tail, bound, weights, Pace::Quick, cutting)
        };
        let by_columns = columns::dive(packing, known, bound, settle, cutting.stop);
        if let Some(other) = by_columns.filter(|o| cost(o) < cost(&best)) {
            best = other;
        }
    }
    said(best, bound, true)
}

/// Packings that spend a share of what the bound leaves to spare on rolls in twos, and fill the rest one after another: with long pieces
/// three seldom come out even, and what is short is used up where two would have done.
fn twos_first(packing: &WholeProblem, bound: u64) -> impl Iterator<Item = Vec<Filled>> + '_ {
    let length: usize = packing.size.iter().zip(&packing.count).map(|(s, n)| s * n).sum();
    let room = packing.room.first().copied().unwrap_or(0);
    let spare = usize::try_from(bound).unwrap_or(0).saturating_mul(room).saturating_sub(length);
    let tenths = TENTHS_IN_TWOS.into_iter();
    tenths.filter_map(move |tenths| {
        let (twos, rest, kept) = packing.in_twos(spare / 10 * tenths)?;
        let filled = fill::one_after_another(&rest, &rest.count);
        Some(named(filled, &kept).chain(twos).collect())
    })
}

/// On the cheapest lists of rolls that could hold it all, one after another; or as it was.
fn on_lists(
    packing: &WholeProblem,
    best: Vec<Filled>,
    bound: u64,
    weights: &Weights,
    pace: Pace,
    cutting: &Cutting,
) -> Vec<Filled> {
    let cost: u64 = best.iter().map(|f| packing.cost[f.stock]).sum();
    let found = settle::lists(packing, bound, cost)
        .into_iter()
        .take_while(|_| !(cutting.stop)())
        .find_map(|rolls| settle::on_these(packing, &rolls, &best, weights, pace, cutting.stop));
    found.unwrap_or(best)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Rolls of one length, as many as are needed.
    fn whole(room: usize, mut pieces: Vec<usize>) -> WholeProblem {
        pieces.sort_unstable_by(|a, b| b.cmp(a));
        let (mut size, mut count): (Vec<usize>, Vec<usize>) = (Vec::new(), Vec::new());
        for piece in pieces {
            match size.last() {
                Some(last) if *last == piece => count[size.len() - 1] += 1,
                _ => {
                    size.push(piece);
                    count.push(1);
                }
            }
        }
        WholeProblem { size, count, room: vec![room], cost: vec![1], on_hand: vec![None] }
    }

    #[test]
    fn twos_that_leave_least_come_first_and_leave_no_more_than_may_be_spared() {
        // 60 + 40 leaves nothing, 57 + 42 leaves 1, 50 + 47 leaves 3.
        let six = whole(100, vec![60, 57, 50, 47, 42, 40]);
        let twos = |spare: usize| six.in_twos(spare).expect("one length").0.len();
        assert_eq!([0, 1, 3, 4].map(twos), [1, 2, 2, 3]);
    }

    proptest! {
        #[test]
        fn twos_are_two_pieces_each_and_what_they_leave_is_what_was_spared(
            pieces in prop::collection::vec(10_usize..90, 2..60), spare in 0_usize..60,
        ) {
            let all = whole(100, pieces);
            let (twos, rest, kept) = all.in_twos(spare).expect("one length");
            let long = |f: &Filled| f.of.iter().map(|(k, n)| all.size[*k] * n).sum::<usize>();
            prop_assert!(twos.iter().map(|f| 100 - long(f)).sum::<usize>() <= spare);
            prop_assert!(twos.iter().all(|f| f.of.iter().map(|(_, n)| n).sum::<usize>() == 2));
            let mut count = vec![0; all.size.len()];
            twos.iter().flat_map(|f| &f.of).for_each(|(k, n)| count[*k] += n);
            kept.iter().zip(&rest.count).for_each(|(k, n)| count[*k] += n);
            prop_assert_eq!(&count, &all.count, "nothing lost, nothing twice");
            // Of two that are left none fill a roll.
            let full = |(i, a): (usize, &usize)| rest.size[i + 1..].iter().any(|b| a + b == 100);
            prop_assert!(!rest.size.iter().enumerate().any(full));
        }

        /// Weights that fall with length are some of all weights: they give no higher bound, and here as high a one.
        #[test]
        fn weights_kept_in_order_give_the_bound_that_free_ones_give(pieces in prop::collection::vec(15_usize..60, 4..40)) {
            let all = whole(100, pieces);
            let packing = fill::one_after_another(&all, &all.count);
            let bound = |order: WeightOrder| {
                let rough = columns::generate(&all, &|| false).expect("weights");
                let none = Weights { of: vec![0; all.size.len()], full: vec![1] };
                let rough = columns::Columns { bound: 0, weights: none, ..rough };
                columns::refine(&all, rough, &packing, order, &|| false).expect("weights").bound
            };
            prop_assert_eq!(bound(WeightOrder::Kept), bound(WeightOrder::Free));
        }
    }
}
