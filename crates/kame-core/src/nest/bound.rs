//! Bounds that no nesting can beat.

use super::WholeProblem;

/// The best of the simple bounds: by length, and for each threshold by pieces that cannot share a roll (Martello and Toth's L2).
pub(super) fn simple(whole: &WholeProblem) -> u64 {
    let by_length = weighed(whole, &whole.size.iter().map(|s| *s as u64).collect::<Vec<_>>(), |k| whole.room[k] as u64);
    let by_length = by_length.max(covering(whole));
    let alone: Vec<usize> = whole.to_buy().collect();
    match alone[..] {
        [one] if whole.on_hand.iter().all(Option::is_none) => by_length.max(sharing(whole, one) * whole.cost[one]),
        _ => by_length,
    }
}

/// The least cost of whole rolls that are together as long as what those on hand leave over. Where that takes many steps they are rounded:
/// rolls up, the rest down.
fn covering(whole: &WholeProblem) -> u64 {
    /// More steps than this are not counted.
    const STEPS: usize = 500_000;
    let on_hand: usize = whole.on_hand.iter().zip(&whole.room).map(|(n, room)| n.unwrap_or(0) * room).sum();
    let rest = whole.size.iter().zip(&whole.count).map(|(s, n)| s * n).sum::<usize>().saturating_sub(on_hand);
    let stocks: Vec<usize> = whole.to_buy().filter(|k| whole.room[*k] > 0).collect();
    let exact = stocks.iter().map(|k| whole.room[*k] as u64).fold(0, gcd) as usize;
    if stocks.is_empty() || rest == 0 {
        return 0;
    }
    let (steps, of) = if rest.div_ceil(exact) <= STEPS {
        (rest.div_ceil(exact), exact)
    } else {
        let of = rest.div_ceil(STEPS);
        (rest / of, of)
    };
    let mut least = vec![0; steps + 1];
    for n in 1..=steps {
        let with = |k: &usize| whole.cost[*k] + least[n.saturating_sub(whole.room[*k].div_ceil(of))];
        least[n] = stocks.iter().map(with).min().unwrap_or(0);
    }
    least[steps]
}

/// The least sum of whole prices that is no less than a bound: with rolls at 22 and 49 nobody pays 36. Sums beyond `most` are not looked at.
pub(super) fn payable(whole: &WholeProblem, bound: u64, most: u64) -> u64 {
    /// More steps than this are not counted through.
    const STEPS: u64 = 1_000_000;
    let costs: Vec<u64> = whole.to_buy().map(|k| whole.cost[k]).filter(|c| *c > 0).collect();
    let step = costs.iter().copied().fold(0, gcd);
    if step == 0 || bound >= most || most / step > STEPS {
        return bound;
    }
    let mut can = vec![false; (most / step + 1) as usize];
    can[0] = true;
    for n in 1..can.len() {
        can[n] = costs.iter().any(|c| (c / step) as usize <= n && can[n - (c / step) as usize]);
    }
    let from = bound.div_ceil(step) as usize;
    (from..can.len()).find(|n| can[*n]).map_or(bound, |n| n as u64 * step)
}

/// Greatest common divisor.
pub(super) fn gcd(a: u64, b: u64) -> u64 {
    if b == 0 { a } else { gcd(b, a % b) }
}

/// For weights of the kinds, and the most weight that a roll of each stock can hold: what has to be bought at least. Exact.
pub(super) fn weighed(whole: &WholeProblem, weight: &[u64], most: impl Fn(usize) -> u64) -> u64 {
    let of = share(whole, weight, most);
    of.map_or(0, |(rest, cost, most)| (rest * cost).div_ceil(most).try_into().unwrap_or(u64::MAX))
}

/// The same, not rounded up to whole rolls and only about.
pub(super) fn rate(whole: &WholeProblem, weight: &[u64], most: impl Fn(usize) -> u64) -> f64 {
    share(whole, weight, most).map_or(0.0, |(rest, cost, most)| rest as f64 * cost as f64 / most as f64)
}

/// What weighs more than rolls on hand can hold, and of the stock that holds the most for its cost, that cost and what it holds.
fn share(whole: &WholeProblem, weight: &[u64], most: impl Fn(usize) -> u64) -> Option<(u128, u128, u128)> {
    let all: u128 = weight.iter().zip(&whole.count).map(|(w, n)| u128::from(*w) * *n as u128).sum();
    let on_hand = |k: usize| whole.on_hand[k].map(|n| n as u128 * u128::from(most(k)));
    let held: u128 = (0..whole.room.len()).filter_map(on_hand).sum();
    let best = whole.to_buy().map(|k| (u128::from(most(k)), u128::from(whole.cost[k])));
    let best = best.filter(|(m, c)| *m > 0 && *c > 0).max_by(|(m, c), (n, d)| (m * d).cmp(&(n * c)));
    best.map(|(most, cost)| (all.saturating_sub(held), cost, most))
}

/// Rolls of one stock, by pieces that cannot share one.
fn sharing(whole: &WholeProblem, stock: usize) -> u64 {
    let room = whole.room[stock];
    let all = || whole.size.iter().zip(&whole.count);
    let mut best = 0;
    let thresholds = whole.size.iter().copied().filter(|s| s * 2 <= room).chain([0]);
    for k in thresholds {
        let large: usize = all().filter(|(s, _)| **s > room - k).map(|(_, n)| *n).sum();
        let middle = all().filter(|(s, _)| **s <= room - k && **s * 2 > room);
        let (n, free) = middle.fold((0, 0), |(n, free), (s, m)| (n + m, free + m * (room - s)));
        let rest: usize = all().filter(|(s, _)| **s * 2 <= room && **s >= k).map(|(s, m)| s * m).sum();
        best = best.max(large + n + rest.saturating_sub(free).div_ceil(room.max(1)));
    }
    best as u64
}
