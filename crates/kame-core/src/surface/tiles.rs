//! How boards and mats are laid on what they cover: boards lying in rows with their joints staggered by half, mats in strips along the wall.

use super::Rect;
use crate::length::Length;
use std::collections::BTreeMap;

/// Rows of a height from the lowest edge up: each rectangle cut where rows meet.
fn rows(regions: &[Rect], height: Length) -> BTreeMap<i64, Vec<Rect>> {
    let mut out: BTreeMap<i64, Vec<Rect>> = BTreeMap::new();
    let Some(foot) = regions.iter().map(|r| r.v0).min().filter(|_| height.is_positive()) else { return out };
    for r in regions {
        let row = |v: Length| (v - foot).units().div_euclid(height.units());
        for n in row(r.v0)..=row(r.v1 - Length::from_units(1)) {
            let v0 = foot + Length::from_units(height.units() * n);
            let part = Rect { v0: v0.max(r.v0), v1: (v0 + height).min(r.v1), ..*r };
            out.entry(n).or_default().push(part);
        }
    }
    out
}

fn around(a: Rect, b: Rect) -> Rect {
    Rect { u0: a.u0.min(b.u0), u1: a.u1.max(b.u1), v0: a.v0.min(b.v0), v1: a.v1.max(b.v1) }
}

/// What is cut from each board of a size, along and up: round holes a board is notched, so this is the box around its parts.
pub fn boards(regions: &[Rect], (along, up): (Length, Length)) -> Vec<Rect> {
    let mut out: BTreeMap<(i64, i64), Rect> = BTreeMap::new();
    let Some(left) = regions.iter().map(|r| r.u0).min().filter(|_| along.is_positive()) else { return Vec::new() };
    for (n, parts) in rows(regions, up) {
        let shift = if n % 2 == 0 { 0 } else { along.units() / 2 };
        for r in parts {
            let column = |u: Length| ((u - left).units() + shift).div_euclid(along.units());
            for c in column(r.u0)..=column(r.u1 - Length::from_units(1)) {
                let u0 = left + Length::from_units(along.units() * c - shift);
                let part = Rect { u0: u0.max(r.u0), u1: (u0 + along).min(r.u1), ..r };
                out.entry((n, c)).and_modify(|b| *b = around(*b, part)).or_insert(part);
            }
        }
    }
    out.into_values().collect()
}

/// Strips of a height along the wall, each as long as nothing interrupts it over its whole height.
pub fn strips(regions: &[Rect], height: Length) -> Vec<Rect> {
    let mut out = Vec::new();
    for mut parts in rows(regions, height).into_values() {
        parts.sort_by_key(|r| (r.u0, r.v0));
        let mut open: Option<Rect> = None;
        for r in parts {
            open = Some(match open {
                Some(o) if r.u0 <= o.u1 => around(o, r),
                Some(o) => {
                    out.push(o);
                    r
                }
                None => r,
            });
        }
        out.extend(open);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn inch(n: i64) -> Length {
        Length::inch(n)
    }
    fn rect(u0: i64, v0: i64, u1: i64, v1: i64) -> Rect {
        Rect { u0: inch(u0), v0: inch(v0), u1: inch(u1), v1: inch(v1) }
    }

    #[test]
    fn a_plain_wall_takes_whole_boards_with_halves_at_the_ends_of_every_second_row() {
        let made = boards(&[rect(0, 0, 192, 96)], (inch(96), inch(48)));
        let widths: Vec<Length> = made.iter().map(|r| r.width()).collect();
        assert_eq!(widths, [inch(96), inch(96), inch(48), inch(96), inch(48)]);
        assert_eq!(strips(&[rect(0, 0, 192, 96)], inch(39)).len(), 3);
    }

    #[test]
    fn a_window_interrupts_the_strips_it_takes_whole_and_notches_the_others() {
        let hole = rect(50, 40, 90, 100);
        let wall: Vec<Rect> = rect(0, 0, 200, 120).minus(hole).collect();
        let made = strips(&wall, inch(30));
        // Rows at 0, 30 and 90 go through; the row at 60 is two.
        assert_eq!(made.len(), 5, "{made:?}");
        assert!(made.contains(&rect(0, 60, 50, 90)) && made.contains(&rect(90, 60, 200, 90)));
    }

    proptest! {
        #[test]
        fn boards_and_strips_cover_what_they_are_laid_on(
            (w, h) in (20..400_i64, 20..300_i64),
            hole in (1..200_i64, 1..150_i64, 1..120_i64, 1..120_i64),
            (along, up) in (24..120_i64, 12..60_i64),
        ) {
            let wall = rect(0, 0, w, h);
            let hole = rect(hole.0, hole.1, hole.0 + hole.2, hole.1 + hole.3);
            let regions: Vec<Rect> = wall.minus(hole).collect();
            for (made, most) in [
                (boards(&regions, (inch(along), inch(up))), Some(inch(along))),
                (strips(&regions, inch(up)), None),
            ] {
                prop_assert!(made.iter().all(|b| b.height() <= inch(up) && most.is_none_or(|m| b.width() <= m)));
                for (i, b) in made.iter().enumerate() {
                    prop_assert!(made[..i].iter().all(|c| !c.overlaps(*b)), "one place is covered once");
                }
                for r in &regions {
                    prop_assert!(r.minus_all(&made).is_empty(), "nothing is left bare");
                }
            }
        }
    }
}
