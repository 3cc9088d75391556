//! Marks in a row, each near what it names and none on another.

/// Spots between two ends in the order of what they name, at least so far apart and as near to it as can be: leaders that bend at one line and
/// go on to these spots never cross.
pub(super) fn spread(ends: &[f64], [low, high]: [f64; 2], apart: f64) -> Vec<f64> {
    // Neighbours that would stand too close form a block about the mean of what they want.
    let mut blocks: Vec<(f64, usize)> = Vec::new();
    for (i, end) in ends.iter().enumerate() {
        blocks.push((end - apart * i as f64, 1));
        while let [.., (a, n), (b, m)] = blocks[..]
            && a > b
        {
            blocks.truncate(blocks.len() - 2);
            let all = (n + m) as f64;
            blocks.push(((a * n as f64 + b * m as f64) / all, n + m));
        }
    }
    let most = (high - apart * ends.len().saturating_sub(1) as f64).max(low);
    let first = blocks.iter().flat_map(|(at, n)| std::iter::repeat_n(at.clamp(low, most), *n));
    first.enumerate().map(|(i, at)| at + apart * i as f64).collect()
}

#[cfg(test)]
mod tests {
    use super::spread;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn spots_keep_their_order_and_their_distance(mut ends in prop::collection::vec(-50.0..50.0_f64, 0..12)) {
            ends.sort_by(f64::total_cmp);
            let spots = spread(&ends, [-40.0, 40.0], 2.0);
            prop_assert_eq!(spots.len(), ends.len());
            prop_assert!(spots.windows(2).all(|w| w[1] - w[0] >= 2.0 - 1e-9), "{:?}", spots);
            prop_assert!(spots.iter().all(|s| (-40.0 - 1e-9..=40.0 + 1e-9).contains(s)), "{:?}", spots);
            // Where nothing is in the way a mark stands beside what it names.
            if ends.windows(2).all(|w| w[1] - w[0] >= 2.0) && ends.iter().all(|e| e.abs() < 15.0) {
                prop_assert!(spots.iter().zip(&ends).all(|(s, e)| (s - e).abs() < 1e-9));
            }
        }
    }
}
