//! The work on a calendar: who does what when, and why not sooner (handbook 6.1). `instance` is work as plain numbers, `solve` lays it; `weather` is
//! the hours and what they do to a wall, `plan` puts a plan's steps on it, with the crews and deliveries that the job keeps.

mod instance;
mod learn;
mod plan;
mod solve;
mod weather;

pub use instance::{After, Crew, Instance, LAST, MOST_TASKS, Spot, Task, Window};
pub use learn::{LEAST_STEPS, MinutesTaken, Offer, Took, learnt};
pub use plan::{Asked, Booked, Booking, EveningPlan, MovedStep, book, instance_of};
pub use solve::{Agreed, Calendar, Laid, MOST_TRIED, Nowhere, Proof, is_moved, solve, solve_near};
pub use weather::{Hour, conditions, humidity, odd_hours, sun, surface_f};
