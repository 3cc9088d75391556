//! Actions and what they do to the stack: `plan + number of actions done → layup` (handbook 3.1, 4.7).

mod asked;
mod laid;
mod order;
mod stack;
mod stage;

pub use asked::{LayupMark, Named, RAIN, RAIN_NO_GLUE, StageLayup, WallWindow, WaterQuestion, Windows};
pub use laid::Laid;
pub use order::{Loop, MovedStep, Needs, WorkingOrder, loops, nearest_working_order, order_and_loops};
pub use stage::{Blocked, Stage, Why};
