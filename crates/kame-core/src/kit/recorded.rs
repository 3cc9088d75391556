//! What somebody found out about two products that touch, and where it is written: kept with the kit.

use crate::problem::Problem;
use crate::range::{NAME, Range};
use serde::{Deserialize, Serialize};

/// Whether two products may touch.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum PairVerdict {
    /// They must not.
    #[serde(rename = "never")]
    Never,
    /// Nobody has said: work to do.
    #[serde(rename = "unknown")]
    Unknown,
    /// Held by fasteners, with something between.
    #[serde(rename = "only mechanically")]
    Mechanically,
    /// Once the lower one has cured so many hours.
    #[serde(rename = "fine after")]
    After,
    /// With primer.
    #[serde(rename = "fine with primer")]
    Primer,
    /// They may.
    #[serde(rename = "fine")]
    Fine,
}

/// What somebody found out about two products.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RecordedPair {
    /// The upper product.
    pub upper: String,
    /// What it lies on.
    pub lower: String,
    /// What they said.
    pub verdict: PairVerdict,
    /// Who said it, where it is written.
    pub source: String,
    /// Hours the lower has to cure first, where that is what they said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hours: Option<f64>,
}

/// What is bare where nothing lies on it yet.
pub const SHEATHING: &str = "Sheathing";

/// Most recorded pairs.
const MOST_PAIRS: usize = 400;
/// How long one cures before the other goes over it, in hours.
pub const CURE_HOURS: Range<f64> =
    Range { what: "hours of curing", least: 0.0, most: 2000.0, remedy: "give what its maker says" };
/// Characters of who said it, and where.
pub const PAIR_SOURCE: Range<usize> = Range {
    what: "the length of its source in characters",
    least: 1,
    most: NAME.most,
    remedy: "say who said it and where it is written",
};

pub(super) fn problems(list: &[RecordedPair], known: &dyn Fn(&str) -> bool) -> Vec<Problem> {
    let mut out = Vec::new();
    if list.len() > MOST_PAIRS {
        out.push(Problem::new("$.kit.pairs", format!("found {} recorded pairs, at most {MOST_PAIRS}", list.len())));
    }
    for (i, r) in list.iter().enumerate() {
        for (field, name) in [("upper", &r.upper), ("lower", &r.lower)] {
            if name != SHEATHING && !known(name) {
                let message = format!("there is no generic product \"{name}\"; choose one of the library");
                out.push(Problem::new(format!("$.kit.pairs[{i}].{field}"), message));
            }
        }
        let mut told = |field: &str, message: Option<String>| {
            let path = format!("$.kit.pairs[{i}].{field}");
            out.extend(message.map(|m| Problem::new(path, format!("{} on {}: {m}", r.upper, r.lower))));
        };
        told("hours", r.hours.and_then(|h| CURE_HOURS.check(h).err()));
        told("source", PAIR_SOURCE.check(r.source.trim().chars().count()).err());
    }
    out
}
