//! Recipes as data: their shape, the language of their sizes, what is there on the other side too, and the schools whose answers make one.

pub mod answer;
pub mod checks;
pub mod expr;
mod laying;
mod mirror;
pub mod schools;
mod spec;

pub use laying::LayoutRule;
pub use spec::{
    ActionSpec, CutSizeSpec, CutSpec, FitOf, FitSpec, FlapSpec, FoldSpec, GapsSpec, LeakSpec, LetSpec, OverSpec,
    PieceSpec, ReachSpec, Recipe, RectSpec, Role, SealSpec, SideSpec, SlopeSpec, StepSpec, StitchEndSpec, StitchSpec,
    StopSpec, SurfaceSpec, TargetSpec, TuckSpec,
};
