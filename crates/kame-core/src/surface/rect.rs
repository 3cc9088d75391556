//! Intervals and axis-parallel rectangles in exact lengths.

use crate::length::Length;

/// A stretch of one axis, `lo < hi` unless it is degenerate. Two intervals that only touch share no length.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Interval {
    /// Lower end.
    pub lo: Length,
    /// Upper end.
    pub hi: Length,
}

impl Interval {
    /// From two ends in either order.
    pub fn new(a: Length, b: Length) -> Self {
        Self { lo: a.min(b), hi: a.max(b) }
    }

    /// The shared stretch, if it has length.
    pub fn overlap(self, other: Self) -> Option<Self> {
        let (lo, hi) = (self.lo.max(other.lo), self.hi.min(other.hi));
        (lo < hi).then_some(Self { lo, hi })
    }

    /// How long it is.
    pub fn span(self) -> Length {
        self.hi - self.lo
    }
}

/// An axis-parallel rectangle `[u0, u1] × [v0, v1]` on a facet. Rectangles that share only an edge do not overlap.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Rect {
    /// Left.
    pub u0: Length,
    /// Bottom.
    pub v0: Length,
    /// Right.
    pub u1: Length,
    /// Top.
    pub v1: Length,
}

impl Rect {
    /// From left, bottom, right, top.
    pub const fn new(u0: Length, v0: Length, u1: Length, v1: Length) -> Self {
        Self { u0, v0, u1, v1 }
    }

    /// Along `u`.
    pub fn width(self) -> Length {
        self.u1 - self.u0
    }

    /// Along `v`.
    pub fn height(self) -> Length {
        self.v1 - self.v0
    }

    /// The stretch along `u`.
    pub fn along_u(self) -> Interval {
        Interval { lo: self.u0, hi: self.u1 }
    }

    /// The stretch along `v`.
    pub fn along_v(self) -> Interval {
        Interval { lo: self.v0, hi: self.v1 }
    }

    /// True where it has area.
    pub fn has_area(self) -> bool {
        self.u0 < self.u1 && self.v0 < self.v1
    }

    /// The same rectangle farther along the wall.
    pub fn moved(self, by: Length) -> Self {
        Self { u0: self.u0 + by, u1: self.u1 + by, ..self }
    }

    /// The shared part, if it has area.
    pub fn intersection(self, o: Self) -> Option<Self> {
        let r = Self::new(self.u0.max(o.u0), self.v0.max(o.v0), self.u1.min(o.u1), self.v1.min(o.v1));
        r.has_area().then_some(r)
    }

    /// True where the two share area.
    pub fn overlaps(self, o: Self) -> bool {
        self.intersection(o).is_some()
    }

    /// True where the two share area or an edge.
    pub fn touches(self, o: Self) -> bool {
        self.u0 <= o.u1 && o.u0 <= self.u1 && self.v0 <= o.v1 && o.v0 <= self.v1
    }

    /// True where `o` lies wholly inside or on the border.
    pub fn contains(self, o: Self) -> bool {
        self.u0 <= o.u0 && self.v0 <= o.v0 && self.u1 >= o.u1 && self.v1 >= o.v1
    }

    /// The smallest rectangle around both.
    pub fn hull(self, o: Self) -> Self {
        Self::new(self.u0.min(o.u0), self.v0.min(o.v0), self.u1.max(o.u1), self.v1.max(o.v1))
    }

    /// What is left of this one without `o`: up to four rectangles that do not overlap, those beside `o` as high as this one. A long
    /// course cut at several openings so keeps each cut within its own reach.
    pub fn minus(self, o: Self) -> impl Iterator<Item = Self> {
        // Where nothing is shared the first is all of it, and the others have no area.
        let at_end = Self { u0: self.u1, ..self };
        let cut = self.intersection(o).unwrap_or(Self { u1: self.u1, ..at_end });
        [
            Self::new(self.u0, self.v0, cut.u0, self.v1),
            Self::new(cut.u0, self.v0, cut.u1, cut.v0),
            Self::new(cut.u0, cut.v1, cut.u1, self.v1),
            Self::new(cut.u1, self.v0, self.u1, self.v1),
        ]
        .into_iter()
        .filter(|r| r.has_area())
    }

    /// What is left of it without all of those, as rectangles that do not overlap.
    pub fn minus_all<'a>(self, those: impl IntoIterator<Item = &'a Self>) -> Vec<Self> {
        let (mut left, mut cut) = (vec![self], Vec::new());
        for o in those.into_iter().filter(|o| o.overlaps(self)) {
            for p in left.drain(..) {
                if p.overlaps(*o) {
                    cut.extend(p.minus(*o));
                } else {
                    cut.push(p);
                }
            }
            std::mem::swap(&mut left, &mut cut);
        }
        left
    }

    /// Left, bottom, right, top in decimal inches.
    pub fn to_inches(self) -> [f64; 4] {
        [self.u0, self.v0, self.u1, self.v1].map(Length::to_inches_f64)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn rects() -> impl Strategy<Value = Rect> {
        (0_i64..20, 0_i64..20, 1_i64..20, 1_i64..20).prop_map(|(u, v, w, h)| {
            Rect::new(Length::inch(u), Length::inch(v), Length::inch(u + w), Length::inch(v + h))
        })
    }

    fn area(r: Rect) -> f64 {
        r.width().to_inches_f64() * r.height().to_inches_f64()
    }

    #[test]
    fn rectangles_that_share_an_edge_do_not_overlap() {
        let left = Rect::new(Length::ZERO, Length::ZERO, Length::inch(2), Length::inch(2));
        let right = Rect::new(Length::inch(2), Length::ZERO, Length::inch(4), Length::inch(2));
        assert!(!left.overlaps(right));
        assert_eq!(left.along_u().overlap(right.along_u()), None);
        assert_eq!(left.minus(right).collect::<Vec<_>>(), [left]);
    }

    proptest! {
        #[test]
        fn cutting_one_from_another_keeps_the_area(a in rects(), b in rects()) {
            let parts: Vec<Rect> = a.minus(b).collect();
            let shared = a.intersection(b).map_or(0.0, area);
            prop_assert!((parts.iter().copied().map(area).sum::<f64>() + shared - area(a)).abs() < 1e-9);
            for (i, p) in parts.iter().enumerate() {
                prop_assert!(a.contains(*p) && !p.overlaps(b));
                prop_assert!(parts.iter().skip(i + 1).all(|q| !p.overlaps(*q)));
            }
        }

        #[test]
        fn cutting_several_away_is_the_same_in_any_order(a in rects(), b in rects(), c in rects()) {
            let (one, other) = (a.minus_all(&[b, c]), a.minus_all(&[c, b]));
            let sum = |list: &[Rect]| list.iter().copied().map(area).sum::<f64>();
            prop_assert!((sum(&one) - sum(&other)).abs() < 1e-9);
            prop_assert!(one.iter().all(|p| !p.overlaps(b) && !p.overlaps(c)));
            prop_assert_eq!(a.minus_all(&[]), vec![a]);
        }
    }
}
