//! The water model: reading layups, dividing them into cells, heads and ways and ponds, walls in parts and all the way round.

mod arrangement;
mod cases;
mod laws;
mod parts;
mod reading;
mod round;
mod testkit;
mod ways;
