//! Actions and what they do to the stack: `plan + number of actions done → layup` (handbook 3.1, 4.7).

mod action;
mod asked;
mod order;
mod stack;
mod stage;

pub use action::{Act, Action, Phase, Step, StepCard, Trade};
pub use asked::{Mark, Named, Question, RAIN, RAIN_NO_GLUE, StageLayup, Window, Windows};
pub use order::{Loop, Moved, Needs, WorkingOrder, loops, nearest_working_order};
pub use stage::{Blocked, Laid, Stage, Why};
