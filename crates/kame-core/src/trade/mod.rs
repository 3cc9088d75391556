//! The words of the trade that everything above speaks: phases, bands of the order of work, trades, acts, steps and their cards.

mod action;
mod band;
mod index;
mod phase;

pub use action::{Act, Action, Step, StepCard};
pub use band::Band;
pub use index::{CutId, FlapId, PieceId, SealId, StepId, SurfaceId};
pub use phase::{Phase, Trade};
