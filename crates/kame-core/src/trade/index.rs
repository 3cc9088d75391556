//! Indices into the lists of a plan. Each list is asked by an index of its own kind, so that a piece cannot be taken for a step.

use serde::Serialize;

macro_rules! indices {
    ($($(#[$doc:meta])+ $name:ident;)+) => {$(
        $(#[$doc])+
        #[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
        #[serde(transparent)]
        pub struct $name(pub usize);

        impl From<usize> for $name {
            fn from(at: usize) -> Self {
                Self(at)
            }
        }

        impl From<$name> for usize {
            fn from(at: $name) -> Self {
                at.0
            }
        }
    )+};
}

indices! {
    /// Index of a piece.
    PieceId;
    /// Index of a bead or smear.
    SealId;
    /// Index of a cutting pattern.
    CutId;
    /// Index of a flap.
    FlapId;
    /// Index of a step, in the recipes' own order.
    StepId;
    /// Index of a surface. The wall is the first.
    SurfaceId;
}

impl SurfaceId {
    /// The wall's own face.
    pub const WALL: SurfaceId = SurfaceId(0);
}
