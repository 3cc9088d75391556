//! The trade, pure: exact lengths, surfaces, sheets, actions and water. No input or output, no clock, no interface; deterministic.
#![warn(missing_docs)]

pub mod advice;
pub mod detail;
pub mod findings;
pub mod gap;
pub mod job;
pub mod kit;
pub mod layup;
pub mod length;
pub mod mistakes;
pub mod plan;
pub mod profile;
pub mod range;
pub mod sequence;
pub mod stop;
pub mod surface;
pub mod takeoff;
pub mod tonight;
pub mod view;
pub mod water;
