//! The record of what was done (handbook 6.6, 6.11): events that are only ever added, each carrying the hash of the one before and of its own
//! content, so that nothing in it can be changed quietly.

mod chain;
mod event;
mod judge;
mod state;

pub use chain::{Broken, Entry, START, Whole, entry_schema, seal, verify};
pub use event::{Event, MOST_AT_ONCE, MOST_READINGS, NOTE, WHO, What};
pub use judge::{Judgement, judge};
pub use state::{StepNow, StepState, as_built, states};
