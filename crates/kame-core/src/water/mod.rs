//! The water model: how hard the wind must push before water gets somewhere, and whether what gets in gets out (handbook 4).
//!
//! 1. [`arrange`]: facets are divided into cells in which the stack of sheets does not change (`divide`), and cells are joined along borders.
//!    Where only heads and ponds are asked, gaps that run on over many cells are made one (`gaps`).
//! 2. [`spread`]: effort spreads from the sources through gaps, exact on rectangles, least first.
//! 3. [`drain`]: from open faces and outlets backwards, what can leave without climbing.
//! 4. [`way`]: from a place back to the source, with the edges passed.
//! 5. [`answer`]: heads of targets, ponds.

pub mod answer;
pub mod arrange;
mod cell;
mod divide;
pub mod drain;
mod gaps;
pub mod spread;
pub mod way;

pub use answer::{Pond, Reach, WaterAnswer, heads_within, run, run_until, run_within, spread_in};
pub use arrange::Arrangement;
pub use cell::{Cell, CellId, Layer};
pub use spread::{Bounds, Spread};
pub use way::{Entered, Entries, Passage, PassageKind, WaterWay, WayPoint};

use crate::layup::{FileMistake, Layup};
use crate::stop::Stop;

/// How many inches sideways cost as much as one inch of climbing (handbook 4.4): side laps have to be half as wide again as level laps.
pub const SIDEWAYS_PER_CLIMB: f64 = 1.5;

/// How much a layup from outside may ask for. Walls are made of far less; what needs more is asked about in parts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Layers of all cells together: sheets over each part of a facet in which the stack does not change.
    pub layers: usize,
    /// Stretches from which effort spreads, in one scenario.
    pub fronts: usize,
}

impl Default for Limits {
    /// About a gigabyte at the most.
    fn default() -> Self {
        Self { layers: 4_000_000, fronts: 1_500_000 }
    }
}

/// Why a layup is not answered.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Unanswered {
    /// What is wrong with it.
    Mistakes(Vec<FileMistake>),
    /// Nobody wanted the answer any more.
    Stopped,
}

/// Answers every scenario of a layup.
///
/// # Errors
/// Mistakes that only show in the arrangement: equal ranks where sheets overlap, a sheet that overlaps itself.
pub fn solve(layup: &Layup) -> Result<WaterAnswer, Vec<FileMistake>> {
    let arrangement = Arrangement::new(layup)?;
    Ok(run(layup, &arrangement))
}

/// Answers every scenario of a layup from outside with its heads and ponds, one after the other, within limits. How effort spread is not kept.
///
/// # Errors
/// Mistakes that only show in the arrangement, or more than the limits allow; [`Unanswered::Stopped`].
pub fn solve_within(layup: &Layup, limits: Limits, stop: &Stop) -> Result<WaterAnswer, Unanswered> {
    let cells = Arrangement::within(layup, limits.layers).map_err(Unanswered::Mistakes)?;
    let whole =
        cells.of_gaps(layup, limits.layers, stop).map(|gaps| answer::run_each(layup, &gaps, limits.fronts, stop));
    match whole {
        Some(answer @ (Ok(_) | Err(Unanswered::Stopped))) => answer,
        // What spreads in too many stretches over wholes may not over cells.
        Some(Err(Unanswered::Mistakes(_))) | None => answer::run_each(layup, &cells, limits.fronts, stop),
    }
}
