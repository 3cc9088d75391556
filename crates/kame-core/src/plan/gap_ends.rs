//! Where the gap begins and ends: at the foot and the top of walls, over heads, above and below what runs along a wall.

use super::{Finish, Plan};
use crate::length::Length;
use crate::profile::fig;
use crate::recipe::schools::Feature;
use crate::surface::{Interval, Rect};

/// An end of the gap: a level line along which it opens.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct End {
    /// Where along the walls.
    pub span: Interval,
    /// How high.
    pub at: Length,
    /// True where the gap begins there and goes on above; false where it ends from below.
    pub lower: bool,
    /// The opening or line it is at; `None` for foot and top of the walls.
    pub feature: Option<usize>,
}

/// All ends of the gap on a run of walls, as it would be with nothing in it. What comes through the wall without being an opening is gone
/// round, and is no end.
pub fn ends(plan: &Plan, on: &Finish) -> Vec<End> {
    let air: Vec<Rect> = plan.walls.outline.air().into_iter().filter(|a| a.overlaps(on.rect)).collect();
    let stopped: Vec<Rect> = plan.gap_stops(on).collect();
    let free = |span: Interval, inside: Rect| {
        // What is taken by something else right there is no end.
        let taken = stopped.iter().chain(&air).filter(move |r| r.overlaps(inside));
        let strip = Rect { u0: span.lo, u1: span.hi, ..inside };
        strip.minus_all(taken).into_iter().map(|r| r.along_u()).collect::<Vec<_>>()
    };
    let sliver = plan.basis.figures.length(fig::GAP_END);
    let mut out = Vec::new();
    let mut put = |span: Interval, at: Length, lower: bool, feature: Option<usize>| {
        let (v0, v1) = if lower { (at, at + sliver) } else { (at - sliver, at) };
        let Some(inside) = Rect::new(span.lo, v0, span.hi, v1).intersection(on.rect) else { return };
        // An end beyond the wall is none.
        if inside.height() < sliver {
            return;
        }
        let spans = free(inside.along_u(), inside);
        let mut joined: Vec<Interval> = Vec::new();
        for s in spans {
            match joined.last_mut().filter(|l| l.hi == s.lo) {
                Some(l) => l.hi = s.hi,
                None => joined.push(s),
            }
        }
        out.extend(joined.into_iter().map(|span| End { span, at, lower, feature }));
    };
    put(on.rect.along_u(), on.rect.v0, true, None);
    for (span, top) in plan.walls.outline.stairs_over(on.rect.along_u()) {
        put(span, top, false, None);
    }
    let features = plan.openings.iter().enumerate().filter(|(_, o)| o.feature != Feature::Penetration);
    for (i, o) in features.filter(|(_, o)| o.rect.overlaps(on.rect)) {
        for s in &o.stops {
            put(s.along_u(), s.v1, true, Some(i));
            if o.feature == Feature::Line {
                put(s.along_u(), s.v0, false, Some(i));
            }
        }
    }
    out
}
