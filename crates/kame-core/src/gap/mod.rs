//! The gap between barrier and cladding (handbook 3.6): what stands in it, where it opens, and whether air finds its way through it.

mod ends;
mod layout;
mod paths;
mod space;

pub use ends::{End, ends};
pub use layout::{Laying, LayoutRule, lay_out};
pub use paths::{AirPath, Opened, air_paths, open_ends};
pub use space::connected;
