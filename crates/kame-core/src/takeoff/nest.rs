//! One-dimensional nesting onto rolls of one length: a good packing, and a bound no packing can beat.

use crate::length::Length;
use serde::Serialize;

/// How good a nesting is known to be; never more than was proved.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "is", rename_all = "lowercase")]
pub enum Outcome {
    /// No nesting needs fewer rolls.
    Proved,
    /// At most this many rolls more than needed.
    Within {
        /// How many.
        rolls: usize,
    },
}

impl Outcome {
    /// From rolls used and a lower bound.
    pub fn of(used: usize, bound: usize) -> Self {
        match used.saturating_sub(bound) {
            0 => Self::Proved,
            rolls => Self::Within { rolls },
        }
    }
}

/// One roll with what is cut from it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Roll {
    /// Indices of the pieces, the longest first.
    pub pieces: Vec<usize>,
    /// What is left.
    pub left: Length,
}

/// Pieces on rolls.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Nesting {
    /// The rolls.
    pub rolls: Vec<Roll>,
    /// Pieces longer than a roll.
    pub too_long: Vec<usize>,
    /// No nesting of the others needs fewer rolls.
    pub bound: usize,
    /// What was proved.
    pub outcome: Outcome,
}

/// Packs pieces on rolls: longest first, each where it fits most tightly; and where that is above the bound, first-fit as a second try.
pub fn nest(lengths: &[Length], roll: Length) -> Nesting {
    let (mut fitting, too_long): (Vec<usize>, Vec<usize>) = (0..lengths.len()).partition(|&i| lengths[i] <= roll);
    fitting.sort_by(|&a, &b| lengths[b].cmp(&lengths[a]).then(a.cmp(&b)));
    let bound = bound(&fitting.iter().map(|&i| lengths[i]).collect::<Vec<_>>(), roll);
    let tight = pack(&fitting, lengths, roll, |rolls, l| {
        rolls.iter().enumerate().filter(|(_, r)| r.left >= l).min_by_key(|(i, r)| (r.left, *i)).map(|(i, _)| i)
    });
    let rolls = if tight.len() > bound {
        let first = pack(&fitting, lengths, roll, |rolls, l| rolls.iter().position(|r| r.left >= l));
        if first.len() < tight.len() { first } else { tight }
    } else {
        tight
    };
    let outcome = Outcome::of(rolls.len(), bound);
    Nesting { rolls, too_long, bound, outcome }
}

fn pack(
    order: &[usize],
    lengths: &[Length],
    roll: Length,
    choose: impl Fn(&[Roll], Length) -> Option<usize>,
) -> Vec<Roll> {
    let mut rolls: Vec<Roll> = Vec::new();
    for &i in order {
        let at = choose(&rolls, lengths[i]).unwrap_or_else(|| {
            rolls.push(Roll { pieces: Vec::new(), left: roll });
            rolls.len() - 1
        });
        rolls[at].pieces.push(i);
        rolls[at].left -= lengths[i];
    }
    rolls
}

/// A lower bound on rolls: by total length, and for each threshold k by pieces that cannot share a roll
/// (Martello and Toth's L2, which holds for every packing).
fn bound(sorted: &[Length], roll: Length) -> usize {
    let by_length = |ls: &[Length]| {
        let total: i128 = ls.iter().map(|l| i128::from(l.units())).sum();
        let roll = i128::from(roll.units().max(1));
        ((total + roll - 1) / roll) as usize
    };
    let mut best = by_length(sorted);
    let half = |l: &Length| l.times(2);
    let small = sorted.iter().filter(|l| half(l) <= roll).copied();
    for k in small.chain([Length::ZERO]) {
        let large: Vec<Length> = sorted.iter().filter(|l| **l > roll - k).copied().collect();
        let middle: Vec<Length> = sorted.iter().filter(|l| **l <= roll - k && half(l) > roll).copied().collect();
        let rest: i128 = sorted.iter().filter(|l| half(l) <= roll && **l >= k).map(|l| i128::from(l.units())).sum();
        let room: i128 = middle.iter().map(|l| i128::from((roll - *l).units())).sum();
        let unit = i128::from(roll.units().max(1));
        let more = (rest - room).max(0);
        best = best.max(large.len() + middle.len() + ((more + unit - 1) / unit) as usize);
    }
    best
}

/// A lower bound on rolls for strips ripped from a width: by area.
pub(super) fn bound_of_strips(strips: &[(Length, Length)], width: Length, roll: Length) -> usize {
    let area: i128 = strips.iter().map(|(w, l)| i128::from(w.units()) * i128::from(l.units())).sum();
    let whole = (i128::from(width.units()) * i128::from(roll.units())).max(1);
    ((area + whole - 1) / whole) as usize
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn inches(ls: &[i64]) -> Vec<Length> {
        ls.iter().map(|l| Length::inch(*l)).collect()
    }

    /// The least number of rolls by trying everything; for few pieces only.
    fn least(ls: &[Length], roll: Length, left: &mut Vec<Length>) -> usize {
        let Some((first, rest)) = ls.split_first() else { return left.len() };
        let mut best = usize::MAX;
        for i in 0..left.len() {
            if left[i] >= *first {
                left[i] -= *first;
                best = best.min(least(rest, roll, left));
                left[i] += *first;
            }
        }
        left.push(roll - *first);
        best = best.min(least(rest, roll, left));
        left.pop();
        best
    }

    #[test]
    fn pieces_that_fill_rolls_exactly_are_proved_best() {
        let n = nest(&inches(&[60, 40, 50, 50, 30, 70]), Length::inch(100));
        assert_eq!((n.rolls.len(), n.outcome), (3, Outcome::Proved));
        assert!(n.rolls.iter().all(|r| r.left == Length::ZERO));
    }

    #[test]
    fn pieces_over_half_a_roll_cannot_share_and_that_is_proved() {
        let n = nest(&inches(&[51, 52, 53]), Length::inch(100));
        assert_eq!((n.rolls.len(), n.bound, n.outcome), (3, 3, Outcome::Proved));
    }

    #[test]
    fn a_piece_longer_than_a_roll_is_named_and_not_lost() {
        let n = nest(&inches(&[120, 10]), Length::inch(100));
        assert_eq!((n.too_long.clone(), n.rolls.len()), (vec![0], 1));
    }

    #[test]
    fn nothing_takes_no_rolls() {
        assert_eq!(nest(&[], Length::inch(100)).rolls.len(), 0);
    }

    proptest! {
        #[test]
        fn every_piece_is_cut_once_and_no_roll_is_overdrawn(ls in prop::collection::vec(1_i64..120, 0..60)) {
            let lengths = inches(&ls);
            let n = nest(&lengths, Length::inch(100));
            let mut cut: Vec<usize> = n.rolls.iter().flat_map(|r| r.pieces.clone()).chain(n.too_long.clone()).collect();
            cut.sort_unstable();
            prop_assert_eq!(cut, (0..lengths.len()).collect::<Vec<_>>());
            for r in &n.rolls {
                let used: Length = r.pieces.iter().map(|&i| lengths[i]).sum();
                prop_assert!(used + r.left == Length::inch(100) && r.left >= Length::ZERO);
            }
        }

        #[test]
        fn the_bound_is_never_above_the_least_and_proved_means_least(ls in prop::collection::vec(10_i64..100, 0..8)) {
            let lengths = inches(&ls);
            let n = nest(&lengths, Length::inch(100));
            let least = least(&lengths, Length::inch(100), &mut Vec::new());
            prop_assert!(n.bound <= least && least <= n.rolls.len());
            if n.outcome == Outcome::Proved {
                prop_assert_eq!(n.rolls.len(), least);
            }
        }
    }
}
