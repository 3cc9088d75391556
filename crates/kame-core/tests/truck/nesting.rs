//! Nesting on rolls: every piece once, no roll overdrawn, and bounds held against trying everything.

use kame_core::length::Length;
use kame_core::nest::{Cutting, Outcome, RollStock, nest, spliced};
use proptest::prelude::*;
use std::sync::atomic::{AtomicUsize, Ordering};

fn inches(ls: &[i64]) -> Vec<Length> {
    ls.iter().map(|l| Length::inch(*l)).collect()
}

fn buy(length: i64) -> RollStock {
    RollStock::to_buy(Length::inch(length), None)
}

fn priced(length: i64, price: i64) -> RollStock {
    RollStock::to_buy(Length::inch(length), Some(price))
}

fn on_hand(length: i64, n: usize) -> RollStock {
    RollStock { length: Length::inch(length), price: None, on_hand: Some(n) }
}

/// The least cost by trying everything; for few pieces only. `open`: what is left on rolls in use.
fn least(pieces: &[i64], open: &mut Vec<i64>, stock: &[(i64, i64)], kerf: i64) -> i64 {
    let Some((first, rest)) = pieces.split_first() else { return 0 };
    let mut best = i64::MAX / 2;
    for i in 0..open.len() {
        if open[i] >= *first {
            let was = open[i];
            open[i] -= first + kerf;
            best = best.min(least(rest, open, stock, kerf));
            open[i] = was;
        }
    }
    for (length, price) in stock {
        if length >= first {
            open.push(length - first - kerf);
            best = best.min(price + least(rest, open, stock, kerf));
            open.pop();
        }
    }
    best
}

#[test]
fn pieces_that_fill_rolls_exactly_are_proved_best() {
    let n = nest(&inches(&[60, 40, 50, 50, 30, 70]), &[buy(100)], &Cutting::default());
    assert_eq!((n.bought, n.outcome), (3, Outcome::Proved));
    assert!(n.rolls.iter().all(|r| r.left == Length::ZERO && !r.useful));
}

#[test]
fn pieces_over_half_a_roll_cannot_share_and_that_is_proved() {
    let n = nest(&inches(&[51, 52, 53]), &[buy(100)], &Cutting::default());
    assert_eq!((n.bought, n.bound, n.outcome), (3, 3, Outcome::Proved));
}

#[test]
fn two_that_fill_a_roll_share_it_and_the_rest_is_packed_as_if_they_were_not_there() {
    let n = nest(&inches(&[60, 40, 40, 60, 60, 35, 35, 30]), &[buy(100)], &Cutting::default());
    // Beside 60 and 40 twice: 60 + 35, 35 + 30.
    assert_eq!((n.bought, n.bound, n.outcome), (4, 4, Outcome::Proved));
    let mut all: Vec<usize> = n.rolls.iter().flat_map(|r| r.pieces.clone()).collect();
    all.sort_unstable();
    assert_eq!(all, (0..8).collect::<Vec<_>>());
    assert_eq!(n.rolls.iter().filter(|r| r.left == Length::ZERO).count(), 2);
}

/// Lengths from 100 to 700 in by eighths that look random.
fn courses(n: usize, seed: u64) -> Vec<Length> {
    let mut state = seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1;
    let mut next = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        state
    };
    (0..n).map(|_| Length::inch_fraction(800 + i64::try_from(next() % 4800).unwrap_or(0), 8)).collect()
}

#[test]
fn of_five_hundred_lengths_each_is_weighed_where_their_sum_says_too_little() {
    let pieces = courses(500, 38);
    let n = nest(&pieces, &[buy(900)], &Cutting::default());
    let sum = pieces.iter().copied().sum::<Length>().to_inches_f64() / 900.0;
    // 231 rolls are long enough for all of it; no packing needs fewer than 233.
    assert_eq!((sum.ceil() as usize, n.bought, n.outcome), (231, 233, Outcome::Proved));
}

#[test]
fn what_the_program_asks_for_is_rounded_where_filling_and_settling_are_a_roll_above() {
    let n = nest(&courses(500, 8), &[buy(900)], &Cutting::default());
    assert_eq!((n.bought, n.bound, n.outcome), (219, 219, Outcome::Proved));
}

#[test]
fn long_pieces_that_seldom_come_out_even_in_threes_are_put_in_twos_that_leave_a_little() {
    // Asked whether to stop once for each order tried, and far more often by anything that takes long.
    let asked = AtomicUsize::new(0);
    let stop = || asked.fetch_add(1, Ordering::Relaxed) > 30;
    let n = nest(&courses(2000, 5), &[buy(900)], &Cutting { stop: &stop, ..Cutting::default() });
    assert_eq!((n.bought, n.outcome), (893, Outcome::Proved));
    assert!(asked.into_inner() < 20);
}

#[test]
fn three_kinds_that_share_only_in_threes_need_the_columns_bound() {
    // 2 × 34 leaves 32, 2 × 33 leaves 34: the length alone says 10 rolls.
    let lengths = inches(&[[34; 15].as_slice(), &[33; 15]].concat());
    let n = nest(&lengths, &[buy(100)], &Cutting::default());
    // 33 + 33 + 34 fits, 33 + 34 + 34 does not: at most one 34 with two 33, else two 34.
    let tried = (0..=7)
        .map(|both: i64| both + (15 - 2 * both).div_euclid(3) + ((15 - 2 * both) % 3).min(1) + (15 - both + 1) / 2)
        .min();
    assert_eq!(Some(n.bought as i64), tried);
    assert_eq!(n.outcome, Outcome::Proved);
}

#[test]
fn a_kerf_is_lost_at_each_cut_but_the_last_that_leaves_nothing() {
    let cutting = Cutting { kerf: Length::inch(1), ..Cutting::default() };
    let fits = nest(&inches(&[49, 50]), &[buy(100)], &cutting);
    assert_eq!((fits.bought, fits.rolls[0].left), (1, Length::ZERO));
    assert_eq!(nest(&inches(&[50, 50]), &[buy(100)], &cutting).bought, 2);
}

#[test]
fn what_is_on_hand_is_used_first_and_costs_nothing() {
    let n = nest(&inches(&[60, 40, 30, 20]), &[buy(100), on_hand(52, 1), on_hand(60, 1)], &Cutting::default());
    assert_eq!((n.bought, n.rolls.len()), (1, 3));
    assert!(n.rolls[0].stock > 0 && n.rolls[1].stock > 0 && n.rolls[2].stock == 0);
    assert_eq!(n.outcome, Outcome::Proved, "50 of 150 has to be bought");
    let enough = nest(&inches(&[60, 40]), &[buy(100), on_hand(100, 3)], &Cutting::default());
    assert_eq!((enough.bought, enough.rolls.len(), enough.outcome), (0, 1, Outcome::Proved));
}

#[test]
fn the_cheapest_mixture_of_lengths_is_bought() {
    let n = nest(&inches(&[90, 45, 45]), &[priced(100, 900), priced(200, 1500)], &Cutting::default());
    assert_eq!((n.bought, n.rolls[0].stock), (1, 1));
    let short = nest(&inches(&[90]), &[priced(100, 900), priced(200, 1500)], &Cutting::default());
    assert_eq!(short.rolls[0].stock, 0);
}

#[test]
fn ends_shorter_than_the_least_are_waste() {
    let cutting = Cutting { least_left: Length::inch(24), ..Cutting::default() };
    let n = nest(&inches(&[80, 70]), &[buy(100)], &cutting);
    let useful: Vec<(Length, bool)> = n.rolls.iter().map(|r| (r.left, r.useful)).collect();
    assert_eq!(useful, [(Length::inch(20), false), (Length::inch(30), true)]);
}

#[test]
fn a_piece_longer_than_any_roll_is_named_and_spliced_with_its_lap() {
    let n = nest(&inches(&[120, 10]), &[buy(100)], &Cutting::default());
    assert_eq!((n.too_long.clone(), n.bought), (vec![0], 1));
    let only_long = nest(&inches(&[120, 120]), &[buy(100), on_hand(130, 1)], &Cutting::default());
    assert_eq!((only_long.rolls.len(), only_long.too_long.len()), (1, 1), "one is left when the long roll is used up");
    let inch = Length::inch;
    assert_eq!(spliced(inch(120), inch(100), inch(4)), Some(vec![inch(62); 2]));
    assert_eq!(spliced(inch(100), inch(100), inch(4)), Some(vec![inch(100)]));
    assert_eq!(spliced(inch(120), inch(4), inch(4)), None);
}

#[test]
fn nothing_takes_no_rolls_and_no_rolls_take_nothing() {
    assert!(nest(&[], &[buy(100)], &Cutting::default()).rolls.is_empty());
    let none = nest(&inches(&[10]), &[], &Cutting::default());
    assert_eq!((none.rolls.len(), none.too_long), (0, vec![0]));
    let zero = nest(&[Length::ZERO, Length::inch(-3)], &[buy(100)], &Cutting::default());
    assert_eq!((zero.rolls.len(), zero.too_long), (0, vec![0, 1]));
}

#[test]
fn stopped_at_once_it_gives_what_it_has_and_claims_no_more() {
    let lengths: Vec<Length> = (0..400).map(|i| Length::inch(170 + (i * 37) % 190)).collect();
    let stopped = Cutting { stop: &|| true, ..Cutting::default() };
    let n = nest(&lengths, &[buy(900)], &stopped);
    let cut: usize = n.rolls.iter().map(|r| r.pieces.len()).sum();
    assert_eq!(cut, 400);
    let full = nest(&lengths, &[buy(900)], &Cutting::default());
    assert!(full.bought <= n.bought && n.bound <= full.bought);
    assert!(n.outcome != Outcome::Proved || n.bought == full.bought);
}

#[test]
fn stopped_in_the_midst_of_any_part_of_the_search_it_gives_what_it_has_and_claims_no_more() {
    let pieces = courses(500, 8);
    for most in [30, 300, 1000, 3000] {
        let asked = AtomicUsize::new(0);
        let stop = || asked.fetch_add(1, Ordering::Relaxed) >= most;
        let n = nest(&pieces, &[buy(900)], &Cutting { stop: &stop, ..Cutting::default() });
        let mut cut: Vec<usize> = n.rolls.iter().flat_map(|r| r.pieces.clone()).collect();
        cut.sort_unstable();
        assert_eq!(cut, (0..500).collect::<Vec<_>>());
        // 219 is proved where it is not stopped.
        assert!(n.bought >= 219 && n.bound <= 219 && asked.into_inner() > most, "{} of {}", n.bought, n.bound);
        assert!(n.outcome != Outcome::Proved || n.bought == 219);
    }
}

#[test]
fn full_lengths_fit_whatever_odd_lengths_are_beside_them() {
    // A length that no grid meets makes all lengths rounded.
    let odd = Length::from_units(Length::inch(52).units() + 7);
    let cutting = Cutting { kerf: Length::inch_fraction(1, 8), ..Cutting::default() };
    let n = nest(&[Length::inch(96), Length::inch(96), odd], &[buy(96)], &cutting);
    assert_eq!((n.bought, n.too_long.len(), n.outcome), (3, 0, Outcome::Proved));
}

proptest! {
    #[test]
    fn every_piece_is_cut_once_and_no_roll_is_overdrawn(
        ls in prop::collection::vec(1_i64..120, 0..60), kerf in 0_i64..3, hand in prop::collection::vec((20_i64..130, 1_usize..3), 0..3)
    ) {
        let lengths = inches(&ls);
        let stock: Vec<RollStock> = hand.iter().map(|(l, n)| on_hand(*l, *n)).chain([buy(100), buy(75)]).collect();
        let n = nest(&lengths, &stock, &Cutting { kerf: Length::inch(kerf), ..Cutting::default() });
        let mut cut: Vec<usize> = n.rolls.iter().flat_map(|r| r.pieces.clone()).chain(n.too_long.clone()).collect();
        cut.sort_unstable();
        prop_assert_eq!(cut, (0..lengths.len()).collect::<Vec<_>>());
        for r in &n.rolls {
            let used: Length = r.pieces.iter().map(|&i| lengths[i]).sum();
            let cuts = Length::inch(kerf * (r.pieces.len() as i64 - 1));
            prop_assert!(used + cuts <= stock[r.stock].length, "{used} on {}", stock[r.stock].length);
            prop_assert!(r.left == (stock[r.stock].length - used - cuts - Length::inch(kerf)).max(Length::ZERO));
        }
        for (k, s) in stock.iter().enumerate() {
            let taken = n.rolls.iter().filter(|r| r.stock == k).count();
            prop_assert!(s.on_hand.is_none_or(|most| taken <= most));
        }
    }

    #[test]
    fn the_bound_is_never_above_the_least_and_proved_means_least(ls in prop::collection::vec(10_i64..100, 0..8), kerf in 0_i64..3) {
        let cutting = Cutting { kerf: Length::inch(kerf), ..Cutting::default() };
        let n = nest(&inches(&ls), &[buy(100)], &cutting);
        let least = usize::try_from(least(&ls, &mut Vec::new(), &[(100, 1)], kerf)).expect("a count");
        prop_assert!(n.bound <= least && least <= n.bought);
        if n.outcome == Outcome::Proved {
            prop_assert_eq!(n.bought, least);
        }
    }

    #[test]
    fn with_prices_proved_means_cheapest(ls in prop::collection::vec(10_i64..100, 0..7), dear in 2_i64..9) {
        let stock = [(100, 10), (60, dear)];
        let n = nest(&inches(&ls), &[priced(100, 10), priced(60, dear)], &Cutting::default());
        let paid: i64 = n.rolls.iter().map(|r| stock[r.stock].1).sum();
        let least = least(&ls, &mut Vec::new(), &stock, 0);
        prop_assert!(paid >= least);
        if n.outcome == Outcome::Proved {
            prop_assert_eq!(paid, least);
        }
    }

    #[test]
    fn parts_of_a_splice_lap_and_fit(length in 1_i64..5000, roll in 50_i64..1200, lap in 1_i64..40) {
        let (l, roll, lap) = (Length::inch(length), Length::inch(roll), Length::inch(lap));
        let Some(parts) = spliced(l, roll, lap) else {
            prop_assert!(l > roll && lap + lap > roll, "refused although each part gains half of itself");
            return Ok(());
        };
        prop_assert!(l <= roll || lap + lap <= roll);
        let covered: Length = parts.iter().copied().sum::<Length>() - Length::from_units(lap.units() * (parts.len() as i64 - 1));
        prop_assert!(parts.iter().all(|p| *p <= roll) && covered >= l);
        prop_assert!(covered - l < Length::from_units(parts.len() as i64), "no more than rounding");
    }
}

#[test]
fn a_bound_is_a_sum_that_can_be_paid() {
    // 122 ft of tape: one long roll at 49 or two short ones at 22; by length alone 36 would do.
    let stock = [RollStock::to_buy(Length::inch(900), Some(2200)), RollStock::to_buy(Length::inch(2160), Some(4900))];
    let found = nest(&[Length::inch(300); 4], &stock, &Cutting::default());
    assert_eq!((found.bought, found.outcome), (2, Outcome::Proved));
}

/// Rolls that the usual rule at the bench takes: the longest first, each on the first roll it fits on.
fn first_fit(pieces: &[i64], roll: i64) -> usize {
    let mut sorted = pieces.to_vec();
    sorted.sort_unstable_by(|a, b| b.cmp(a));
    let mut left: Vec<i64> = Vec::new();
    for p in sorted {
        match left.iter_mut().find(|l| **l >= p) {
            Some(l) => *l -= p,
            None => left.push(roll - p),
        }
    }
    left.len()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn pieces_that_share_a_roll_only_in_twos_to_fours_are_packed_no_worse_than_by_hand_and_near_what_is_proved(
        pieces in prop::collection::vec(1440_i64..3600, 20..80),
    ) {
        let (eighth, roll) = (Length::inch_fraction(1, 8).units(), 7200);
        let lengths: Vec<Length> = pieces.iter().map(|p| Length::from_units(p * eighth)).collect();
        let found = nest(&lengths, &[RollStock::to_buy(Length::from_units(roll * eighth), None)], &Cutting::default());
        let all: i64 = pieces.iter().sum();
        prop_assert!(found.bought <= first_fit(&pieces, roll));
        prop_assert!(found.bound >= usize::try_from((all + roll - 1) / roll).expect("a count"));
        prop_assert!(found.bought - found.bound <= 1, "{} bought, {} proved", found.bought, found.bound);
    }

    #[test]
    fn leftovers_are_packed_full_before_any_roll_is_bought(
        pieces in prop::collection::vec(40_i64..120, 10..60),
        left in prop::collection::vec(130_i64..800, 1..6),
    ) {
        let mut stock = vec![buy(900), buy(1200)];
        stock.extend(left.iter().map(|l| on_hand(*l, 1)));
        let found = nest(&inches(&pieces), &stock, &Cutting::default());
        let of = |r: &kame_core::nest::Roll| r.pieces.iter().map(|i| pieces[*i]).sum::<i64>();
        let bought: i64 = found.rolls.iter().filter(|r| r.stock < 2).map(|r| [900, 1200][r.stock]).sum();
        let (all, there): (i64, i64) = (pieces.iter().sum(), left.iter().sum());
        // What does not fit on what is there has to be bought, and never a whole long roll more than without leftovers.
        prop_assert!(bought >= (all - there).max(0));
        prop_assert!(bought <= 900 * i64::try_from(first_fit(&pieces, 900)).expect("a count"));
        for r in &found.rolls {
            let room = if r.stock < 2 { [900, 1200][r.stock] } else { left[r.stock - 2] };
            prop_assert!(of(r) <= room);
        }
    }
}
