//! Nesting of random pieces on rolls of 75 ft: time, and how many are at their proved bound. The second part is counted, not timed:
//! `cargo bench -p kame-core --bench nesting` prints both.

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use kame_core::length::Length;
use kame_core::nest::{Cutting, Outcome, RollStock, nest};
use std::hint::black_box;

/// Least and greatest length in eighths of an inch: strips of tape, jambs and heads, long courses, and what shares a roll only in twos to fours.
const CLASSES: [(&str, i64, i64); 4] =
    [("tape", 32, 800), ("flashings", 320, 1000), ("courses", 800, 5600), ("twos to fours", 1440, 3600)];

/// Pieces in a list, by turns.
const SIZES: [usize; 5] = [20, 100, 500, 1000, 2000];
/// Lists of each class.
const LISTS: u64 = 100;

fn pieces(n: usize, (least, most): (i64, i64), seed: u64) -> Vec<Length> {
    let mut state = seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1;
    let mut next = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        state
    };
    let eighth = Length::inch_fraction(1, 8).units();
    (0..n)
        .map(|_| Length::from_units(eighth * (least + i64::try_from(next() % (most - least) as u64).unwrap_or(0))))
        .collect()
}

/// Rolls of 75 ft; or those and rolls of 100 ft, with ten leftovers of any length on the truck.
fn stock(mixed: bool, seed: u64) -> Vec<RollStock> {
    let mut all = vec![RollStock::to_buy(Length::inch(900), None)];
    if mixed {
        all.push(RollStock::to_buy(Length::inch(1200), None));
        let left = pieces(10, (960, 6400), seed + 7);
        all.extend(left.into_iter().map(|length| RollStock { length, price: None, on_hand: Some(1) }));
    }
    all
}

/// How many of so many random lists of each class are at their proved bound.
fn counted(_: &mut Criterion) {
    let one = CLASSES.map(|(name, least, most)| (name.to_owned(), least, most, false));
    let mixed = CLASSES[..2]
        .iter()
        .map(|(name, least, most)| (format!("{name}, two lengths and leftovers"), *least, *most, true));
    for (name, least, most, mixed) in one.into_iter().chain(mixed) {
        let (mut proved, mut gap, mut seconds) = (0, 0, Vec::new());
        for seed in 0..LISTS {
            let list = pieces(SIZES[seed as usize % SIZES.len()], (least, most), seed + 1);
            let start = std::time::Instant::now();
            let found = nest(&list, &stock(mixed, seed), &Cutting::default());
            seconds.push(start.elapsed().as_secs_f64());
            proved += usize::from(found.outcome == Outcome::Proved);
            // Where rolls are of two lengths what counts is what they cost, not how many they are.
            gap = gap.max(match found.outcome {
                Outcome::Within { rolls } => rolls,
                Outcome::Proved | Outcome::Heuristic => 0,
            });
        }
        seconds.sort_by(f64::total_cmp);
        let (median, worst) = (seconds[seconds.len() / 2] * 1e3, seconds[seconds.len() - 1] * 1e3);
        println!(
            "{name}: {proved} of {LISTS} at the proved bound, at most {gap} more, median {median:.0} ms, slowest {worst:.0} ms"
        );
    }
}

fn timed(c: &mut Criterion) {
    let mut group = c.benchmark_group("nesting");
    group.sample_size(10);
    for (name, least, most) in CLASSES {
        let list = pieces(500, (least, most), 7);
        group.bench_function(BenchmarkId::new("500 pieces", name), |b| {
            b.iter(|| nest(black_box(&list), &stock(false, 0), &Cutting::default()));
        });
    }
    group.finish();
}

criterion_group!(benches, counted, timed);
criterion_main!(benches);
