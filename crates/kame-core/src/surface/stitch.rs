//! Edges of facets, segments along them, and the stitches that join two facets at an edge.

use super::{FacetId, Interval, Rect};
use crate::length::Length;
use serde::Serialize;

/// A side of a rectangle, or the side of a segment on which material lies, seen with `u` right and `v` up.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Edge {
    /// At the least `u`.
    Left,
    /// At the greatest `u`.
    Right,
    /// At the least `v`.
    Bottom,
    /// At the greatest `v`.
    Top,
}

impl Edge {
    /// The facing side.
    pub const fn opposite(self) -> Self {
        match self {
            Self::Left => Self::Right,
            Self::Right => Self::Left,
            Self::Bottom => Self::Top,
            Self::Top => Self::Bottom,
        }
    }

    /// True where the edge runs along `v`.
    pub const fn is_upright(self) -> bool {
        matches!(self, Self::Left | Self::Right)
    }

    /// The coordinate at which this edge of `rect` stands.
    pub fn line_of(self, rect: Rect) -> Length {
        match self {
            Self::Left => rect.u0,
            Self::Right => rect.u1,
            Self::Bottom => rect.v0,
            Self::Top => rect.v1,
        }
    }

    /// The stretch along which this edge of `rect` runs.
    pub fn span_of(self, rect: Rect) -> Interval {
        if self.is_upright() { rect.along_v() } else { rect.along_u() }
    }
}

/// On which side of a stitched segment the facet's material lies.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Side {
    /// Material below a level segment.
    Below,
    /// Material above a level segment.
    Above,
    /// Material left of an upright segment.
    Left,
    /// Material right of an upright segment.
    Right,
}

impl Side {
    /// The edge of the material's own cells that lies on the segment.
    pub const fn edge(self) -> Edge {
        match self {
            Self::Below => Edge::Top,
            Self::Above => Edge::Bottom,
            Self::Left => Edge::Right,
            Self::Right => Edge::Left,
        }
    }

    /// As the file writes it.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Below => "below",
            Self::Above => "above",
            Self::Left => "left",
            Self::Right => "right",
        }
    }
}

/// A straight level or upright segment on a facet, from one point to another; direction matters in stitches.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Segment {
    /// Which facet.
    pub facet: FacetId,
    /// First point `(u, v)`.
    pub from: (Length, Length),
    /// Second point `(u, v)`.
    pub to: (Length, Length),
}

impl Segment {
    /// True where it runs along `v`.
    pub fn is_upright(&self) -> bool {
        self.from.0 == self.to.0
    }

    /// The coordinate it stands at.
    pub fn line(&self) -> Length {
        if self.is_upright() { self.from.0 } else { self.from.1 }
    }

    /// The stretch it covers, whatever its direction.
    pub fn span(&self) -> Interval {
        if self.is_upright() { Interval::new(self.from.1, self.to.1) } else { Interval::new(self.from.0, self.to.0) }
    }

    /// How long it is.
    pub fn length(&self) -> Length {
        self.span().span()
    }

    /// True where the running coordinate falls from the first point to the second.
    pub fn is_backward(&self) -> bool {
        if self.is_upright() { self.to.1 < self.from.1 } else { self.to.0 < self.from.0 }
    }
}

/// One of the two segments that a stitch joins.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct StitchEnd {
    /// Where it lies.
    pub segment: Segment,
    /// On which side the material lies.
    pub side: Side,
}

/// Two segments of equal length joined point by point, in order (handbook 4.1).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Stitch {
    /// One end.
    pub a: StitchEnd,
    /// The other end.
    pub b: StitchEnd,
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(u: i64, v: i64) -> (Length, Length) {
        (Length::inch(u), Length::inch(v))
    }

    #[test]
    fn a_segment_knows_its_line_span_and_direction() {
        let up = Segment { facet: FacetId(0), from: at(3, 1), to: at(3, 9) };
        assert!(up.is_upright() && !up.is_backward());
        assert_eq!((up.line(), up.length()), (Length::inch(3), Length::inch(8)));
        let back = Segment { from: at(9, 4), to: at(2, 4), ..up };
        assert!(!back.is_upright() && back.is_backward());
        assert_eq!(back.span(), Interval { lo: Length::inch(2), hi: Length::inch(9) });
    }

    #[test]
    fn material_below_a_segment_ends_there_with_its_top_edge() {
        for (side, edge) in [
            (Side::Below, Edge::Top),
            (Side::Above, Edge::Bottom),
            (Side::Left, Edge::Right),
            (Side::Right, Edge::Left),
        ] {
            assert_eq!(side.edge(), edge);
            assert_eq!(edge.opposite().opposite(), edge);
            assert_eq!(edge.is_upright(), edge.opposite().is_upright());
        }
    }

    #[test]
    fn edges_of_a_rectangle_stand_where_they_should() {
        let r = Rect::new(Length::inch(1), Length::inch(2), Length::inch(5), Length::inch(9));
        assert_eq!(Edge::Top.line_of(r), Length::inch(9));
        assert_eq!(Edge::Left.span_of(r), r.along_v());
        assert_eq!(Edge::Bottom.span_of(r).span(), r.width());
    }
}
