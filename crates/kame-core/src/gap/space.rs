//! Connected room: what is left of some rectangles once others stand in them.

use crate::length::Length;
use crate::surface::{Interval, Rect};

/// A stretch of a column that nothing stands in.
struct Free {
    column: Interval,
    span: Interval,
}

/// The connected parts of `room` without what is `taken`, each as rectangles that do not overlap. A way no wider than `least` is no way: it
/// does not join, and is part of nothing. Between what is taken and an edge of the room half of that is enough.
///
/// Where walls go `round`, what ends at one end of that stretch goes on at the other.
///
/// # Properties
/// The parts overlap neither each other nor what is taken; with `least` zero they and what is taken cover all room; what joins does so
/// whatever the order of the rectangles.
pub fn connected(room: &[Rect], taken: &[Rect], least: Length, round: Option<Interval>) -> Vec<Vec<Rect>> {
    // What stands in the way is thickened on all sides by half of that: then what is too narrow is gone.
    let half = Length::from_units(least.units() / 2);
    let thick = |r: &Rect| Rect::new(r.u0 - half, r.v0 - half, r.u1 + half, r.v1 + half);
    let mut taken: Vec<Rect> = taken.iter().map(thick).collect();
    if let Some(round) = round {
        let length = round.hi - round.lo;
        let past_right = taken.iter().filter(|r| r.u1 > round.hi).map(|r| r.moved(-length));
        let past_left = taken.iter().filter(|r| r.u0 < round.lo).map(|r| r.moved(length));
        let moved: Vec<Rect> = past_right.chain(past_left).collect();
        taken.extend(moved);
    }
    let free = columns(room, &taken);
    let mut of: Vec<usize> = (0..free.len()).collect();
    let mut last: &[usize] = &[];
    let numbers: Vec<usize> = (0..free.len()).collect();
    for here in numbers.chunk_by(|a, b| free[*a].column == free[*b].column) {
        let beside = last.first().is_some_and(|l| free[*l].column.hi == free[here[0]].column.lo);
        for &a in last.iter().filter(|_| beside) {
            for &b in here.iter().filter(|b| free[a].span.overlap(free[**b].span).is_some()) {
                let (x, y) = (root(&mut of, a), root(&mut of, b));
                of[x.max(y)] = x.min(y);
            }
        }
        last = here;
    }
    if let Some(round) = round {
        for a in numbers.iter().filter(|a| free[**a].column.hi == round.hi) {
            for b in numbers.iter().take_while(|b| free[**b].column.lo == round.lo) {
                if free[*a].span.overlap(free[*b].span).is_some() {
                    let (x, y) = (root(&mut of, *a), root(&mut of, *b));
                    of[x.max(y)] = x.min(y);
                }
            }
        }
    }
    let mut out: Vec<Vec<Rect>> = vec![Vec::new(); free.len()];
    for (i, f) in free.iter().enumerate() {
        let part = &mut out[root(&mut of, i)];
        let r = Rect::new(f.column.lo, f.span.lo, f.column.hi, f.span.hi);
        let goes_on = |p: &&mut Rect| p.u1 == r.u0 && p.v0 == r.v0 && p.v1 == r.v1;
        match part.iter_mut().rev().take(8).find(goes_on) {
            Some(p) => p.u1 = r.u1,
            None => part.push(r),
        }
    }
    out.retain(|part| !part.is_empty());
    out
}

fn root(of: &mut [usize], mut i: usize) -> usize {
    while of[i] != i {
        of[i] = of[of[i]];
        i = of[i];
    }
    i
}

/// Columns between neighbouring edges, from left to right, and in each what is free, from the bottom up.
fn columns(room: &[Rect], taken: &[Rect]) -> Vec<Free> {
    let mut edges: Vec<Length> = room.iter().chain(taken).flat_map(|r| [r.u0, r.u1]).collect();
    edges.sort_unstable();
    edges.dedup();
    let sorted = |list: &[Rect]| {
        let mut list = list.to_vec();
        list.sort_unstable_by_key(|r| r.u0);
        list
    };
    let (mut room, mut taken) = (Sweep::new(sorted(room)), Sweep::new(sorted(taken)));
    let mut out = Vec::new();
    for w in edges.windows(2) {
        let column = Interval { lo: w[0], hi: w[1] };
        let blocked = taken.spans(column.lo);
        for span in room.spans(column.lo) {
            let mut from = span.lo;
            for b in &blocked {
                if b.lo > from && from < span.hi {
                    out.push(Free { column, span: Interval { lo: from, hi: b.lo.min(span.hi) } });
                }
                from = from.max(b.hi);
            }
            if from < span.hi {
                out.push(Free { column, span: Interval { lo: from, hi: span.hi } });
            }
        }
    }
    out
}

/// Rectangles from left to right, and those that stand at the present column.
struct Sweep {
    all: Vec<Rect>,
    next: usize,
    here: Vec<Rect>,
}

impl Sweep {
    fn new(all: Vec<Rect>) -> Self {
        Self { all, next: 0, here: Vec::new() }
    }

    /// Their heights in the column that begins there, joined and from the bottom up.
    fn spans(&mut self, at: Length) -> Vec<Interval> {
        while self.all.get(self.next).is_some_and(|r| r.u0 <= at) {
            self.here.push(self.all[self.next]);
            self.next += 1;
        }
        self.here.retain(|r| r.u1 > at);
        let mut spans: Vec<Interval> = self.here.iter().map(|r| r.along_v()).collect();
        spans.sort_unstable_by_key(|s| s.lo);
        let mut out: Vec<Interval> = Vec::new();
        for s in spans {
            match out.last_mut().filter(|last| s.lo <= last.hi) {
                Some(last) => last.hi = last.hi.max(s.hi),
                None => out.push(s),
            }
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn rect(u0: i64, v0: i64, u1: i64, v1: i64) -> Rect {
        let inch = Length::inch;
        Rect::new(inch(u0), inch(v0), inch(u1), inch(v1))
    }

    fn area(list: &[Rect]) -> f64 {
        list.iter().map(|r| r.width().to_inches_f64() * r.height().to_inches_f64()).sum()
    }

    #[test]
    fn a_bar_from_foot_to_top_makes_two_rooms_and_one_that_stops_short_makes_one() {
        let wall = [rect(0, 0, 100, 50)];
        let count = |bar: Rect, least: i64| connected(&wall, &[bar], Length::inch(least), None).len();
        assert_eq!(count(rect(40, 0, 42, 50), 0), 2);
        assert_eq!(count(rect(40, 0, 42, 48), 0), 1);
        assert_eq!(count(rect(40, 0, 42, 48), 2), 1, "two inches at the edge are wide enough");
        assert_eq!(count(rect(40, 0, 42, 49), 2), 2, "one inch is not, where two are asked");
        assert!(connected(&wall, &wall, Length::ZERO, None).is_empty());
        assert!(connected(&[], &wall, Length::ZERO, None).is_empty());
    }

    #[test]
    fn walls_that_go_round_are_one_room_until_two_bars_stand_in_them() {
        let (wall, round) = ([rect(0, 0, 100, 50)], Some(Interval { lo: Length::ZERO, hi: Length::inch(100) }));
        let count = |bars: &[Rect], least: i64| connected(&wall, bars, Length::inch(least), round).len();
        assert_eq!(count(&[rect(40, 0, 42, 50)], 0), 1, "air goes the other way round");
        assert_eq!(count(&[rect(40, 0, 42, 50), rect(70, 0, 72, 50)], 0), 2);
        assert_eq!(count(&[rect(40, 0, 42, 50), rect(99, 0, 100, 50)], 0), 2, "one at the corner");
        // A way of two inches past a bar whose end is one inch from the corner is none, on whichever side of it the bar stands.
        let short = [rect(0, 48, 100, 50), rect(0, 0, 1, 47)];
        assert_eq!((count(&[short[0], rect(40, 0, 42, 48), short[1]], 2), count(&[short[0], short[1]], 2)), (2, 1));
    }

    #[test]
    fn walls_that_touch_only_at_a_corner_are_two_rooms() {
        assert_eq!(connected(&[rect(0, 0, 10, 10), rect(10, 10, 20, 20)], &[], Length::ZERO, None).len(), 2);
        assert_eq!(connected(&[rect(0, 0, 10, 10), rect(10, 9, 20, 20)], &[], Length::ZERO, None).len(), 1);
    }

    fn rects(n: std::ops::Range<usize>) -> impl Strategy<Value = Vec<Rect>> {
        let one = (0_i64..30, 0_i64..30, 1_i64..15, 1_i64..15).prop_map(|(u, v, w, h)| rect(u, v, u + w, v + h));
        prop::collection::vec(one, n)
    }

    proptest! {
        #[test]
        fn parts_are_apart_and_cover_what_is_not_taken(room in rects(1..5), taken in rects(0..6)) {
            let parts = connected(&room, &taken, Length::ZERO, None);
            let all: Vec<Rect> = parts.iter().flatten().copied().collect();
            for (i, r) in all.iter().enumerate() {
                prop_assert!(taken.iter().all(|t| !t.overlaps(*r)));
                prop_assert!(all[..i].iter().all(|o| !o.overlaps(*r)));
            }
            for r in &room {
                prop_assert!(r.minus_all(taken.iter().chain(&all)).is_empty(), "nothing free is forgotten");
            }
            // Two that share an edge are one part.
            let joins = |a: &Rect, b: &Rect| a.touches(*b)
                && (a.along_u().overlap(b.along_u()).is_some() || a.along_v().overlap(b.along_v()).is_some());
            for (i, a) in parts.iter().enumerate() {
                for b in &parts[..i] {
                    prop_assert!(!a.iter().any(|r| b.iter().any(|o| joins(r, o))));
                }
            }
        }

        #[test]
        fn the_order_does_not_matter_and_what_is_wider_takes_more(room in rects(1..4), taken in rects(0..5), least in 0_i64..4) {
            let sizes = |room: &[Rect], taken: &[Rect], least: i64| {
                let mut all: Vec<i64> =
                    connected(room, taken, Length::inch(least), None).iter().map(|p| area(p).round() as i64).collect();
                all.sort_unstable();
                all
            };
            let back = |list: &[Rect]| list.iter().rev().copied().collect::<Vec<_>>();
            let here = sizes(&room, &taken, least);
            prop_assert_eq!(&here, &sizes(&back(&room), &back(&taken), least));
            let wider: i64 = sizes(&room, &taken, least + 2).iter().sum();
            prop_assert!(wider <= here.iter().sum::<i64>());
        }
    }
}
