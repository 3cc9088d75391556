//! What lies on the wall: a rectangle of a piece, in the order from inside to outside.

use crate::plan::SurfaceId;
use crate::surface::Rect;

/// A rectangle of a piece as it lies. Its place in the list of layers is its rank.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Laid {
    /// Which piece of the plan.
    pub piece: usize,
    /// Which flap it belongs to.
    pub flap: Option<usize>,
    /// On which surface of the plan.
    pub on: SurfaceId,
    /// Where.
    pub rect: Rect,
}
