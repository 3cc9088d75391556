//! A rough opening as it was measured, held against the unit that goes in: whether it fits, what to move, and where shims go (handbook 6.8, 6.9).

use super::judge::{SAME, inches, rack};
use serde::Serialize;

/// An opening as it was measured, inches; what was not is empty.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Rough {
    /// Top, middle, bottom.
    pub widths: Vec<f64>,
    /// Left, middle, right.
    pub heights: Vec<f64>,
    /// From low left to high right, from low right to high left.
    pub diagonals: Vec<f64>,
    /// How much higher the right end of the sill is.
    pub level: Option<f64>,
    /// How far the heads of the jambs lean to the right: left, right.
    pub jambs: Vec<f64>,
}

/// The room there should be round a unit, and how its shims stand, inches.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct RoundRoom {
    /// No side less than this.
    pub least: f64,
    /// No side more.
    pub most: f64,
    /// Shims this far from the corners.
    pub corner: f64,
    /// Shims no farther apart than this.
    pub spacing: f64,
}

/// Whether a unit goes in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Fits {
    /// As it is.
    Fits,
    /// Something has to be packed out or trimmed first.
    Move,
    /// Not without another opening.
    Cannot,
}

/// A shim with its place.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Shim {
    /// At the right jamb; else at the left.
    pub right: bool,
    /// Its middle above the unit's foot, in.
    pub at: f64,
    /// Its height above the unit's foot, as people read it.
    pub at_text: String,
    /// How thick it is; empty where the opening was not measured there.
    pub thick_text: String,
}

/// What is said of an opening before its unit is set.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Fit {
    /// `null` while too little was measured.
    pub fits: Option<Fits>,
    /// In sentences, what matters most first.
    pub says: Vec<String>,
    /// Where shims go.
    pub shims: Vec<Shim>,
}

/// Names of the three places of a width, from the top, with their height in parts of the opening's.
const PLACES: [(&str, f64); 3] = [("at the top", 1.0), ("in the middle", 0.5), ("at the bottom", 0.0)];

/// Places along an edge `long`: one near each end, others between them no farther apart than asked.
pub fn shim_places(long: f64, room: &RoundRoom) -> Vec<f64> {
    let between = long - 2.0 * room.corner;
    if between <= SAME {
        return vec![long / 2.0];
    }
    let n = (between / room.spacing - SAME).ceil().max(1.0) as usize;
    (0..=n).map(|i| room.corner + between * i as f64 / n as f64).collect()
}

/// How far the left jamb stands to the right of a plumb line through its foot, at its head.
fn lean(rough: &Rough) -> f64 {
    match (rough.jambs.first(), rough.diagonals.as_slice(), rough.widths.last()) {
        (Some(lean), ..) => *lean,
        (None, [one, other], Some(w)) if *w > 0.0 => rack(*one, *other, *w),
        _ => 0.0,
    }
}

/// Holds a measured opening against a unit, width by height.
pub fn fit(rough: &Rough, unit: [f64; 2], room: &RoundRoom) -> Fit {
    let across = (rough.widths.len() == PLACES.len()).then(|| across(rough, unit[0], room));
    let up = (!rough.heights.is_empty()).then(|| up(rough, unit[1], room));
    let known: Vec<&(Fits, String)> = across.iter().map(|(said, _)| said).chain(&up).collect();
    let mut says: Vec<(Fits, String)> = known.iter().map(|s| (*s).clone()).collect();
    says.sort_by_key(|(fits, _)| std::cmp::Reverse(*fits));
    let gaps = across.map(|(_, gaps)| gaps);
    let shims = shim_places(unit[1], room).into_iter().flat_map(|at| {
        let part = (at / unit[1]).clamp(0.0, 1.0);
        [false, true].map(|right| Shim {
            right,
            at,
            at_text: inches(at),
            thick_text: gaps.as_ref().map_or_else(String::new, |g| inches(g.at(right, part))),
        })
    });
    Fit {
        fits: says.iter().map(|(f, _)| *f).max(),
        shims: shims.collect(),
        says: says.into_iter().map(|(_, s)| s).collect(),
    }
}

/// The gap beside a unit that stands in the middle of what is free, at the three places, from the top.
struct FitGaps {
    left: [f64; 3],
    right: [f64; 3],
}

impl FitGaps {
    /// At a part of the height; between the places as along a straight jamb.
    fn at(&self, right: bool, part: f64) -> f64 {
        let g = if right { &self.right } else { &self.left };
        let (low, high, t) = if part < 0.5 { (g[2], g[1], part * 2.0) } else { (g[1], g[0], part * 2.0 - 1.0) };
        low + (high - low) * t
    }
}

fn across(rough: &Rough, unit: f64, room: &RoundRoom) -> ((Fits, String), FitGaps) {
    let lean = lean(rough);
    let left: [f64; 3] = std::array::from_fn(|i| lean * PLACES[i].1);
    let right: [f64; 3] = std::array::from_fn(|i| left[i] + rough.widths[i]);
    let worst = |better: &dyn Fn(usize, usize) -> bool| (1..3).fold(0, |a, b| if better(b, a) { b } else { a });
    let (in_left, in_right) = (worst(&|b, a| left[b] > left[a] + SAME), worst(&|b, a| right[b] < right[a] - SAME));
    let (from, to) = (left[in_left], right[in_right]);
    let free = to - from - unit;
    let each = free / 2.0;
    let gaps = FitGaps { left: left.map(|l| each + from - l), right: right.map(|r| each + r - to) };
    // How far each jamb comes in past its own farthest place: the one that comes in most is the one to move.
    let comes_in =
        [from - left.iter().copied().fold(f64::INFINITY, f64::min), right.iter().copied().fold(0.0, f64::max) - to];
    let place = PLACES[if comes_in[0] > comes_in[1] { in_left } else { in_right }].0;
    let said = if free < -SAME {
        (Fits::Cannot, format!("Cannot be set: {} too narrow {place}.", inches(-free)))
    } else if each < room.least - SAME {
        let jamb = match comes_in {
            [l, r] if l > r + SAME => format!("the left jamb {place}"),
            [l, r] if r > l + SAME => format!("the right jamb {place}"),
            _ => "one jamb, all along".to_owned(),
        };
        let short = inches(2.0 * room.least - free);
        (
            Fits::Move,
            format!("{} each side, at least {} wanted: trim {jamb} by {short}.", inches(each), inches(room.least)),
        )
    } else if each > room.most + SAME {
        let pack = inches(each - room.most);
        (
            Fits::Move,
            format!("{} each side, at most {} wanted: pack each jamb out by {pack}.", inches(each), inches(room.most)),
        )
    } else {
        (Fits::Fits, format!("Fits: {} each side.", inches(each)))
    };
    (said, gaps)
}

fn up(rough: &Rough, unit: f64, room: &RoundRoom) -> (Fits, String) {
    let slope = rough.level.unwrap_or(0.0);
    let least = rough.heights.iter().copied().fold(f64::INFINITY, f64::min);
    let free = least - slope.abs() - unit;
    let each = free / 2.0;
    let end = if slope > 0.0 { "left" } else { "right" };
    let block = if slope.abs() > SAME {
        format!(" Block the {end} end {} higher.", inches(slope.abs()))
    } else {
        String::new()
    };
    if free < -SAME {
        (Fits::Cannot, format!("Cannot be set: {} too low.", inches(-free)))
    } else if each < room.least - SAME {
        let short = inches(2.0 * room.least - free);
        (
            Fits::Move,
            format!(
                "{} above and below, at least {} wanted: the opening has to be {short} higher.{block}",
                inches(each),
                inches(room.least)
            ),
        )
    } else if each > room.most + SAME {
        let pack = inches(2.0 * (each - room.most));
        (
            Fits::Move,
            format!(
                "{} above and below, at most {} wanted: pack the head down by {pack}.{block}",
                inches(each),
                inches(room.most)
            ),
        )
    } else {
        (Fits::Fits, format!("{} above and below.{block}", inches(each)))
    }
}
