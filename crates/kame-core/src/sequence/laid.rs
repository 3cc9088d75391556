//! What lies on the wall: a rectangle of a piece, in the order from inside to outside.

use crate::plan::SurfaceId;
use crate::surface::Rect;
use crate::trade::{FlapId, PieceId};

/// A rectangle of a piece as it lies. Its place in the list of layers is its rank.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Laid {
    /// Which piece of the plan.
    pub piece: PieceId,
    /// Which flap it belongs to.
    pub flap: Option<FlapId>,
    /// On which surface of the plan.
    pub on: SurfaceId,
    /// The rectangle on that surface, in its own lengths from left and foot.
    pub rect: Rect,
}
