//! Numbers from a seed, the same on every machine.

use super::drill::{Drill, Which};
use rand::{RngExt, SeedableRng};
use rand_xorshift::XorShiftRng;

/// Numbers from a seed: other drills, levels and turns have others.
pub(super) fn random(which: &Which, turn: u64) -> XorShiftRng {
    let of = Drill::ALL.iter().position(|d| *d == which.drill).unwrap_or_default() as u64;
    let mixed = which.seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) ^ (of << 40) ^ (u64::from(which.level) << 48) ^ turn;
    XorShiftRng::seed_from_u64(mixed)
}

/// A whole number from the first to the last.
pub(super) fn between(rng: &mut XorShiftRng, least: u32, most: u32) -> u32 {
    rng.random_range(least..=most)
}

/// One of a list.
pub(super) fn one<'a, T>(rng: &mut XorShiftRng, list: &'a [T]) -> Option<&'a T> {
    let most = u32::try_from(list.len()).ok()?.checked_sub(1)?;
    list.get(between(rng, 0, most) as usize)
}

/// Mixes a list (Fisher and Yates).
pub(super) fn shuffled<T>(rng: &mut XorShiftRng, list: &mut [T]) {
    for i in (1..list.len()).rev() {
        let most = u32::try_from(i).unwrap_or(u32::MAX);
        list.swap(i, between(rng, 0, most) as usize);
    }
}
