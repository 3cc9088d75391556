//! The water model: how hard the wind must push before water gets somewhere, and whether what gets in gets out (handbook 4).
//!
//! 1. [`arrange`]: facets are divided into cells in which the stack of sheets does not change, and cells are joined along borders.
//! 2. [`spread`]: effort spreads from the sources through gaps, exact on rectangles, least first.
//! 3. [`drain`]: from open faces and outlets backwards, what can leave without climbing.
//! 4. [`way`]: from a place back to the source, with the edges passed.
//! 5. [`answer`]: heads of targets, ponds.

pub mod answer;
pub mod arrange;
pub mod drain;
pub mod spread;
pub mod way;

pub use answer::{Pond, Reach, WaterAnswer, heads_within, run, run_within};
pub use arrange::{Arrangement, CellId};
pub use spread::{Bounds, Spread};
pub use way::{Entered, Entries, Passage, PassageKind, Way, WayPoint};

use crate::layup::{Layup, Mistake};

/// How many inches sideways cost as much as one inch of climbing (handbook 4.4): side laps have to be half as wide again as level laps.
pub const SIDEWAYS_PER_CLIMB: f64 = 1.5;

/// Answers every scenario of a layup.
///
/// # Errors
/// Mistakes that only show in the arrangement: equal ranks where sheets overlap, a sheet that overlaps itself.
pub fn solve(layup: &Layup) -> Result<WaterAnswer, Vec<Mistake>> {
    let arrangement = Arrangement::new(layup)?;
    Ok(run(layup, &arrangement))
}
