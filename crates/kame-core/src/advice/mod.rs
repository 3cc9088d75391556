//! Advice drawn from the interview (A1 to A11). Scores and reasons are data (`data/advice.toml`); the runner-up is always told, what the builder
//! decides otherwise is kept with the reason, and what is proposed together can be built together.

mod advise;
mod ranked;
mod taken;
mod together;

pub use advise::advise;
pub use ranked::{Advice, Ranked, Reason};
pub use taken::{Followed, follow};
