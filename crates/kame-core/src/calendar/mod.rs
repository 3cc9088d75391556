//! The work on a calendar: who does what when, and why not sooner (handbook 6.1). `instance` is work as plain numbers, `solve` lays it; `weather` is
//! the hours and what they do to a wall, `ground` is what a plan's calendar follows from, `plan` puts its steps on it, with the crews and deliveries that the job keeps; `why` says why each stands
//! where it does, `nights` how the wall is left in the nights, `hour` how it stands at an hour, `light` when somebody sees what they do, `deadline` what has to be done by a day, `forecast` what was forecast when it was agreed on, `fuses` how long what is hung is in the open, `loads` what goes on the truck on
//! which day, `worked` what crews work in all.

mod deadline;
mod forecast;
mod fuses;
mod ground;
mod hour;
mod instance;
mod learn;
mod light;
mod loads;
mod nights;
mod plan;
mod solve;
mod weather;
mod why;
mod worked;

pub use fuses::Fuse;
pub use ground::{Booked, CalendarQuestion, site_of};
pub use hour::at_minute;
pub use instance::{After, Crew, Instance, LAST, MOST_TASKS, Task, Window, WorkPlace};
pub use learn::{LEAST_STEPS, MinutesTaken, Offer, Took, learnt};
pub use light::daylight;
pub use loads::{BuyBy, Day, DayStep, Days, Load, days};
pub use nights::{Covering, NightPlan};
pub use plan::{Booking, book, instance_of, lay, with_nights};
pub use solve::{Agreed, Calendar, Effort, LaidTask, MOST_TRIED, Nowhere, Proof, is_moved, solve, solve_near};
pub use weather::{Hour, conditions, humidity, odd_hours, sun, surface_f};
pub use why::MovedTask;
pub use worked::CrewHours;
