//! Actions and what they do to the stack: `plan + number of actions done → layup` (handbook 3.1, 4.7).

mod action;
mod order;
mod stage;

pub use action::{Act, Action, Phase, Step, StepCard};
pub use order::{Loop, Moved, Needs, WorkingOrder, loops, nearest_working_order};
pub use stage::{Blocked, Laid, RAIN, RAIN_NO_GLUE, Stage, StageLayup, Why};
