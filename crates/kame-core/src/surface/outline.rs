//! The top of the walls where it is not level: what lies above it is no wall.

use super::{Interval, Rect};
use crate::length::Length;

/// The top line of an unfolded wall, in the wall's own coordinates.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Outline {
    points: Vec<(Length, Length)>,
    /// Stretches from left to right with the height up to which there is wall; a slope goes up in steps, each as high as the slope's upper end.
    stairs: Vec<(Interval, Length)>,
    height: Length,
}

impl Outline {
    /// From points of the top, left to right; none for a level one. Slopes become steps no wider than `step`.
    pub fn new(points: Vec<(Length, Length)>, width: Length, height: Length, step: Length) -> Self {
        let mut stairs = Vec::new();
        if points.is_empty() {
            stairs.push((Interval { lo: Length::ZERO, hi: width }, height));
        }
        for w in points.windows(2) {
            let [(a, from), (b, to)] = [w[0], w[1]];
            if a >= b {
                continue;
            }
            if from == to {
                stairs.push((Interval { lo: a, hi: b }, from));
                continue;
            }
            let n = ((b - a).units() + step.units() - 1) / step.units();
            let at = |k: i64, x: Length, y: Length| {
                Length::from_units(x.units() + ((i128::from((y - x).units()) * i128::from(k)) / i128::from(n)) as i64)
            };
            stairs.extend((0..n).map(|k| {
                let stretch = Interval { lo: at(k, a, b), hi: at(k + 1, a, b) };
                (stretch, at(k, from, to).max(at(k + 1, from, to)))
            }));
        }
        Self { points, stairs, height }
    }

    /// The part of it over a stretch of the walls, as high as the stretch's own highest point.
    pub fn part(&self, over: Interval) -> Self {
        let clipped = |(s, top): &(Interval, Length)| Some((s.overlap(over)?, *top));
        let stairs: Vec<(Interval, Length)> = self.stairs.iter().filter_map(clipped).collect();
        Self { points: self.points.clone(), height: self.most_over(over), stairs }
    }

    /// The height of its highest point.
    pub fn height(&self) -> Length {
        self.height
    }

    /// Where it begins.
    pub fn left(&self) -> Length {
        self.stairs.first().map_or(Length::ZERO, |(s, _)| s.lo)
    }

    /// Where it ends.
    pub fn right(&self) -> Length {
        self.stairs.last().map_or(Length::ZERO, |(s, _)| s.hi)
    }

    /// True where the top is level from end to end.
    pub fn is_level(&self) -> bool {
        self.points.is_empty()
    }

    /// The line itself, empty where it is level.
    pub fn points(&self) -> &[(Length, Length)] {
        &self.points
    }

    /// Where there is wall above a height: stretches from left to right.
    pub fn above(&self, v: Length) -> Vec<Interval> {
        let mut out: Vec<Interval> = Vec::new();
        for (stretch, _) in self.stairs.iter().filter(|(_, top)| *top > v) {
            match out.last_mut().filter(|last| last.hi == stretch.lo) {
                Some(last) => last.hi = stretch.hi,
                None => out.push(*stretch),
            }
        }
        out
    }

    /// Stretches of one height over a stretch of the walls, from left to right; a slope goes up in steps.
    pub fn stairs_over(&self, at: Interval) -> Vec<(Interval, Length)> {
        self.stairs.iter().filter_map(|(s, top)| Some((s.overlap(at)?, *top))).collect()
    }

    /// The greatest height of wall over a stretch.
    pub fn most_over(&self, at: Interval) -> Length {
        let over = self.stairs.iter().filter(|(s, _)| s.overlap(at).is_some());
        over.map(|(_, top)| *top).max().unwrap_or(self.height)
    }

    /// What lies above the top, as rectangles that do not overlap.
    pub fn air(&self) -> Vec<Rect> {
        let high = self.stairs.iter().filter(|(_, top)| *top < self.height);
        let mut out: Vec<Rect> = Vec::new();
        for (stretch, top) in high {
            let r = Rect::new(stretch.lo, *top, stretch.hi, self.height);
            match out.last_mut().filter(|last| last.u1 == r.u0 && last.v0 == r.v0) {
                Some(last) => last.u1 = r.u1,
                None => out.push(r),
            }
        }
        out
    }

    /// The least height of the line over a stretch.
    pub fn least_over(&self, at: Interval) -> Length {
        let under = |w: &[(Length, Length)]| {
            let ((a, from), (b, to)) = (w[0], w[1]);
            let on = |u: Length| {
                let part = i128::from((to - from).units()) * i128::from((u - a).units()) / i128::from((b - a).units());
                Length::from_units(from.units() + part as i64)
            };
            let part = Interval { lo: a, hi: b }.overlap(at)?;
            Some(on(part.lo).min(on(part.hi)))
        };
        self.points.windows(2).filter_map(under).min().unwrap_or(self.height)
    }

    /// How high its slopes begin, from the lowest up: the plates that gables stand on.
    pub fn feet_of_slopes(&self) -> Vec<Length> {
        let slopes = self.points.windows(2).filter(|w| w[0].0 != w[1].0 && w[0].1 != w[1].1);
        let mut feet: Vec<Length> = slopes.map(|w| w[0].1.min(w[1].1)).collect();
        feet.sort_unstable();
        feet.dedup();
        feet
    }

    /// Area below the line, in square inches.
    pub fn area(&self, width: Length) -> f64 {
        if self.points.is_empty() {
            return width.to_inches_f64() * self.height.to_inches_f64();
        }
        let part = |w: &[(Length, Length)]| (w[1].0 - w[0].0).to_inches_f64() * (w[0].1 + w[1].1).to_inches_f64() / 2.0;
        self.points.windows(2).map(part).sum()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn inch(n: i64) -> Length {
        Length::inch(n)
    }

    fn line(points: &[(i64, i64)]) -> Outline {
        let top: Vec<_> = points.iter().map(|(a, h)| (inch(*a), inch(*h))).collect();
        let (width, height) = (points.last().map_or(240, |p| p.0), points.iter().map(|p| p.1).max().unwrap_or(120));
        Outline::new(top, inch(width), inch(height), inch(6))
    }

    #[test]
    fn a_gable_has_the_area_of_its_rectangle_and_triangle() {
        let gable = line(&[(0, 100), (120, 160), (240, 100)]);
        assert!((gable.area(inch(240)) - (240.0 * 100.0 + 240.0 * 60.0 / 2.0)).abs() < 1e-6);
        // The steps hold all of the wall, and at most one step more at each slope.
        let air: f64 = gable.air().iter().map(|r| r.width().to_inches_f64() * r.height().to_inches_f64()).sum();
        let open = 240.0 * 60.0 / 2.0;
        assert!(air <= open && air >= open - 2.0 * 6.0 * 60.0 / 2.0 * 2.0, "{air} of {open}");
    }

    #[test]
    fn a_part_is_as_high_as_its_own_highest_point_and_begins_where_it_does() {
        let steps = line(&[(0, 200), (120, 200), (120, 100), (240, 100)]);
        let low = steps.part(Interval { lo: inch(120), hi: inch(240) });
        assert_eq!((low.left(), low.height()), (inch(120), inch(100)));
        assert_eq!(low.above(inch(90)), [Interval { lo: inch(120), hi: inch(240) }]);
        assert!(low.above(inch(100)).is_empty() && low.air().is_empty());
        assert_eq!(steps.part(Interval { lo: inch(0), hi: inch(240) }).above(inch(150)), steps.above(inch(150)));
    }

    #[test]
    fn above_a_height_a_gable_is_one_stretch_and_two_gables_are_two() {
        assert_eq!(
            line(&[(0, 100), (120, 160), (240, 100)]).above(inch(130)),
            [Interval { lo: inch(60), hi: inch(180) }]
        );
        let two = line(&[(0, 100), (60, 160), (120, 100), (180, 160), (240, 100)]);
        assert_eq!(two.above(inch(130)).len(), 2);
        assert_eq!(two.above(inch(90)).len(), 1);
    }

    #[test]
    fn under_a_slope_a_stretch_has_its_lower_end_and_at_a_step_its_own_wall() {
        let rake = line(&[(0, 100), (200, 150)]);
        assert_eq!(rake.least_over(Interval { lo: inch(40), hi: inch(80) }), inch(110));
        let step = line(&[(0, 100), (120, 100), (120, 160), (240, 160)]);
        assert_eq!(step.least_over(Interval { lo: inch(120), hi: inch(160) }), inch(160));
        assert_eq!(step.least_over(Interval { lo: inch(60), hi: inch(120) }), inch(100));
        assert_eq!(step.least_over(Interval { lo: inch(100), hi: inch(140) }), inch(100));
        // A low wing with a level top, then a gable: what the gable stands on is not the wing's top.
        let wing = line(&[(0, 80), (100, 80), (100, 140), (170, 200), (240, 140)]);
        assert_eq!((wing.feet_of_slopes(), step.feet_of_slopes()), (vec![inch(140)], vec![]));
        assert_eq!(rake.feet_of_slopes().len(), 1);
    }
}
