//! The record of what was done (handbook 6.6, 6.11): events that are only ever added, each carrying the hash of the one before and of its own
//! content, so that nothing in it can be changed quietly.

mod chain;
mod clock;
mod drying;
mod event;
mod fit;
mod go;
mod instrument;
mod judge;
mod number;
mod place;
mod report;
mod state;
mod test;
mod walk;

pub use chain::{Broken, Entry, START, Whole, broken_photo, entry_schema, seal, verify};
pub use clock::{ClockSays, clock};
pub use drying::{Drying, MoistureRead, drying};
pub use event::{Event, MOST_AT_ONCE, MOST_PHOTOS, MOST_READINGS, NOTE, WHO, What, not_a_hash, not_a_time};
pub use fit::{Fit, Fits, Rough, RoundRoom, Shim, fit, shim_places};
pub use go::{Conditions, Go, GoAnswer, PutOn, dew_point_f, go, go_rules, skin_minutes};
pub use instrument::{Instrument, InstrumentReading, RawReading, doubt};
pub use judge::{Judgement, judge, rack};
pub use place::{fit_of, go_of};
pub use report::{Line, PlaceReport, lines, report};
pub use state::{Differ, LastRead, StepNow, StepState, as_built, holding, order_by, states};
pub use test::{
    AirFit, LEAST_PRESSURES, MOST_ROWS, MOST_SEEN, SeenWater, TestAnswer, TestKind, WaterDid, air_fit, not_seen_so,
    test_answer,
};
pub use walk::{Point, PointNow, Seen, walk};
