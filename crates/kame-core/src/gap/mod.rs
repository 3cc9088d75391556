//! Air in the gap between barrier and cladding (handbook 3.6): where the gap stands open, and whether air finds its way through it.

mod paths;
mod space;

pub use paths::{AirPath, OpenedAir, air_paths, open_ends};
pub use space::connected;
