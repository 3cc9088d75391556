//! The store through its files. One program, so that it is built once.

mod firm;
mod folder;
mod jobs;
mod practice;
mod race;
mod record;
