//! Rectangles found by where they lie along a wall.

use super::Rect;
use crate::length::Length;
use foldhash::{HashMap, HashMapExt};

/// Length of the stretches of a wall in which rectangles are looked for.
const STRETCH: Length = Length::inch(48);
/// Up to this many rectangles are looked through one after another.
const FEW: usize = 16;

/// Rectangles of one surface, each with what it stands for, in stretches along it where they are many.
#[derive(Clone, Debug)]
pub struct Along<T> {
    few: Vec<(Rect, T)>,
    stretches: HashMap<i64, Vec<(Rect, T)>>,
}

impl<T> Default for Along<T> {
    fn default() -> Self {
        Self { few: Vec::new(), stretches: HashMap::new() }
    }
}

impl<T: Copy + Eq> Along<T> {
    fn stretches(rect: Rect) -> impl Iterator<Item = i64> {
        let at = |u: Length| u.units().div_euclid(STRETCH.units());
        at(rect.u0)..=at(rect.u1 - Length::from_units(1))
    }

    /// Adds a rectangle.
    pub fn put(&mut self, rect: Rect, what: T) {
        self.few.push((rect, what));
        if self.stretches.is_empty() && self.few.len() <= FEW {
            return;
        }
        for (rect, what) in self.few.drain(..) {
            for s in Self::stretches(rect) {
                self.stretches.entry(s).or_default().push((rect, what));
            }
        }
    }

    /// Takes a rectangle away.
    pub fn take(&mut self, rect: Rect, what: T) {
        self.few.retain(|(_, w)| *w != what);
        for s in Self::stretches(rect) {
            let list = self.stretches.get_mut(&s);
            if let Some((list, at)) = list.and_then(|l| l.iter().position(|(_, w)| *w == what).map(|at| (l, at))) {
                list.swap_remove(at);
            }
        }
    }

    /// Each of those that share area with a rectangle; one that lies in several stretches may come more than once.
    pub fn reaching(&self, rect: Rect, mut each: impl FnMut(Rect, T)) {
        let mut look =
            |list: &[(Rect, T)]| list.iter().filter(|(r, _)| r.overlaps(rect)).for_each(|(r, w)| each(*r, *w));
        look(&self.few);
        if !self.stretches.is_empty() {
            Self::stretches(rect).filter_map(|s| self.stretches.get(&s)).for_each(|list| look(list));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn rect((u, v, w, h): (i64, i64, i64, i64)) -> Rect {
        Rect::new(Length::inch(u), Length::inch(v), Length::inch(u + w), Length::inch(v + h))
    }

    fn rects() -> impl Strategy<Value = Rect> {
        (-60_i64..300, 0_i64..40, 1_i64..150, 1_i64..20).prop_map(rect)
    }

    proptest! {
        /// The rectangles found are those that a plain list gives.
        #[test]
        fn what_meets_a_rectangle_is_found_wherever_it_lies(
            all in prop::collection::vec((rects(), any::<bool>()), 0..3 * FEW),
            asked in rects(),
        ) {
            let mut along = Along::default();
            all.iter().enumerate().for_each(|(i, (r, _))| along.put(*r, i));
            all.iter().enumerate().filter(|(_, (_, stays))| !stays).for_each(|(i, (r, _))| along.take(*r, i));
            let mut found: Vec<(usize, Rect)> = Vec::new();
            along.reaching(asked, |r, i| found.push((i, r)));
            found.sort_unstable_by_key(|(i, _)| *i);
            found.dedup();
            let meets = |(i, (r, stays)): (usize, &(Rect, bool))| (*stays && r.overlaps(asked)).then_some((i, *r));
            prop_assert_eq!(found, all.iter().enumerate().filter_map(meets).collect::<Vec<_>>());
        }
    }
}
