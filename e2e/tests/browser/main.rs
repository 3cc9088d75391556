//! Kame in a real browser. One program, so that it is built once.

mod building;
mod main_job;
mod schools;
mod screens;
mod truck;
