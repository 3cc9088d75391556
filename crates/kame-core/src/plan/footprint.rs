//! The walls seen from above: unfolded walls folded back at their corners, each corner a right angle.

use crate::job::{CornerKind, WallSpec};
use crate::length::Length;

/// One wall from above, walked with the building on the left: north is up, the first wall runs east.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct WallFromAbove {
    /// What people call it.
    pub name: String,
    /// Where it begins and ends on the unfolded wall.
    pub along: (Length, Length),
    /// Where it begins: east, north.
    pub from: (Length, Length),
    /// Where it ends.
    pub to: (Length, Length),
}

/// All walls from above, in order.
pub fn footprint(wall: &WallSpec) -> Vec<WallFromAbove> {
    let mut at = (Length::ZERO, Length::ZERO);
    let mut heading: (i64, i64) = (1, 0);
    let mut out: Vec<WallFromAbove> = Vec::new();
    let starts = [(Length::ZERO, &wall.name, None)];
    let turns = wall.corners.iter().map(|c| (c.at, &c.name, Some(c.kind)));
    let all: Vec<_> = starts.into_iter().chain(turns).collect();
    for (i, (lo, name, turn)) in all.iter().enumerate() {
        // Outside corners turn toward the building, inside ones away from it.
        heading = match turn {
            None => heading,
            Some(CornerKind::Outside) => (-heading.1, heading.0),
            Some(CornerKind::Inside) => (heading.1, -heading.0),
        };
        let hi = all.get(i + 1).map_or(wall.width, |next| next.0);
        let run = (hi - *lo).units();
        let from = at;
        at = (at.0 + Length::from_units(run * heading.0), at.1 + Length::from_units(run * heading.1));
        out.push(WallFromAbove { name: (*name).clone(), along: (*lo, hi), from, to: at });
    }
    out
}

/// Where the walls go all the way round, how far the end of the last is from the start of the first: east and north. `None` where they do not
/// go round.
pub fn gap_at_close(wall: &WallSpec) -> Option<(Length, Length)> {
    let turns: i64 = wall.corners.iter().map(|c| if c.kind == CornerKind::Outside { 1 } else { -1 }).sum();
    let end = footprint(wall).last()?.to;
    (turns == 3).then_some(end)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{CornerSpec, Job};

    fn walls(runs: &[i64], inside: &[usize]) -> WallSpec {
        let mut wall = Job::new("plan").wall;
        let mut at = 0;
        for (i, run) in runs.iter().enumerate() {
            if i > 0 {
                let kind = if inside.contains(&i) { CornerKind::Inside } else { CornerKind::Outside };
                wall.corners.push(CornerSpec {
                    at: Length::inch(at),
                    kind,
                    name: format!("{i}"),
                    schools: Default::default(),
                    products: Default::default(),
                });
            }
            at += run;
        }
        wall.width = Length::inch(at);
        wall
    }

    #[test]
    fn a_rectangle_closes_and_one_measured_short_does_not() {
        let zero = (Length::ZERO, Length::ZERO);
        assert_eq!(gap_at_close(&walls(&[300, 200, 300, 200], &[])), Some(zero));
        assert_eq!(gap_at_close(&walls(&[300, 200, 290, 200], &[])), Some((Length::inch(10), Length::ZERO)));
        assert_eq!(gap_at_close(&walls(&[300, 200, 300], &[])), None);
    }

    #[test]
    fn an_inside_corner_turns_the_other_way() {
        // An L: the wall behind the inside corner goes on as the one two before it did.
        let l = walls(&[400, 200, 150, 100, 250, 300], &[3]);
        let seen = footprint(&l);
        assert_eq!((seen[3].from.0, seen[3].to.0), (Length::inch(250), Length::inch(250)));
        assert_eq!(seen[3].to.1 - seen[3].from.1, Length::inch(100));
        assert_eq!(gap_at_close(&l), Some((Length::ZERO, Length::ZERO)));
    }
}
