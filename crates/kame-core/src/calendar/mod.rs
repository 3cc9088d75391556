//! The work on a calendar: who does what when, and why not sooner (handbook 6.1). `instance` is work as plain numbers, `solve` lays it; `weather` is
//! the hours and what they do to a wall, `plan` puts a plan's steps on it, with the crews and deliveries that the job keeps.

mod instance;
mod plan;
mod solve;
mod weather;

pub use instance::{After, Crew, Instance, LAST, MOST_TASKS, Spot, Task, Window};
pub use plan::{Asked, Booked, Booking, EveningPlan, book, instance_of};
pub use solve::{Calendar, Laid, MOST_TRIED, Nowhere, Proof, solve};
pub use weather::{Hour, conditions, humidity, odd_hours, sun, surface_f};
