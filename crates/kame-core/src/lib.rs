//! The trade, pure: exact lengths, surfaces, sheets, actions and water. No input or output, no clock, no interface; deterministic.
//!
//! Folders stand here from the bottom up: each uses only those above it in this list.
#![warn(missing_docs)]

// Measures, and what is said where something is wrong.
pub mod date;
pub mod length;
pub mod problem;
pub mod range;
pub mod stop;

// The water, which knows sheets and no pieces.
pub mod surface;

pub mod layup;

pub mod water;

// What the trade says and what ships as data.
pub mod trade;

pub mod profile;

pub mod kit;

pub mod recipe;

pub mod build_up;

pub mod interview;

// What people keep.
pub mod job;

// What is built, in which order, and what that does to the wall.
pub mod plan;

pub mod sequence;

pub mod gap;

pub mod checks;

pub mod record;

// What it takes.
pub mod contact;

pub mod nest;

pub mod takeoff;

pub mod purchase;

// What is wrong with it, and what to do.
pub mod findings;

pub mod nights;

pub mod calendar;

pub mod advice;

pub mod edit;

pub mod model;

pub mod remedies;

pub mod repair;

pub mod faults;

pub mod practice;

// What screens show of all of this.
pub mod view;

// What is shown, in another language.
pub mod language;
