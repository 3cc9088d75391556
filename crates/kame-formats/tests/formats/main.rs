//! Open formats in and out. One program, so that it is built once.

mod drawings;
mod models;
mod tables;
