//! Plane geometry of the wall: rectangles on facets, and how facets join. Knows no pieces.

mod along;
mod outline;
mod rect;
mod stitch;
mod tiles;

pub use along::Along;
pub use outline::Outline;
pub use rect::{Interval, Rect};
pub use stitch::{Edge, Segment, Side, Stitch, StitchEnd};
pub use tiles::{boards, strips};

use crate::length::Length;
use std::hash::{Hash, Hasher};

/// Index of a facet in its layup.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct FacetId(pub usize);

/// A rectangle with its own axes: `u` to the right, `v` up the surface (handbook 4.1).
#[derive(Clone, Debug, PartialEq)]
pub struct Facet {
    /// Name, unique in the layup.
    pub id: String,
    /// Extent along `u`.
    pub width: Length,
    /// Extent along `v`.
    pub height: Length,
    /// Sine of the slope going up `v`: 1 a plumb wall, 0 level, negative where it falls toward `+v`.
    pub rise: f64,
    /// True where the facet faces the weather.
    pub exposed: bool,
}

impl Facet {
    /// The whole facet.
    pub fn rect(&self) -> Rect {
        Rect::new(Length::ZERO, Length::ZERO, self.width, self.height)
    }
}

impl Hash for Facet {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (&self.id, self.width, self.height, self.rise.to_bits(), self.exposed).hash(state);
    }
}

/// A rectangle on a facet.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Patch {
    /// Which facet.
    pub facet: FacetId,
    /// Where on it.
    pub rect: Rect,
}
