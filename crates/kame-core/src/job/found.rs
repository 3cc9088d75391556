//! What was found on a wall that stands: where, when, and what is done about it.

use super::MOST_FOUND;
use crate::length::{LONGEST, Length};
use crate::problem::Problem;
use crate::range::LengthRange;
use serde::{Deserialize, Serialize};
use std::collections::HashSet;

/// Width or height of what was found.
pub const FOUND_SIZE: LengthRange = LengthRange {
    what: "size of what was found",
    least: Length::inch_fraction(1, 16),
    most: Length::inch(240),
    remedy: "measure what is damaged, as wide and as high as it is; of more than that hang the layer anew",
};
/// From the wall's left end, or from the bottom plate up, to what was found.
pub const FOUND_AT: LengthRange = LengthRange {
    what: "place of what was found",
    least: Length::inch(-24),
    most: LONGEST,
    remedy: "measure from the wall's left end, and from the bottom plate up",
};
/// Most pieces and cuts of one repair.
pub const MOST_MENDS: usize = 40;
/// Most pieces that one of them is about.
pub const MOST_MENDED: usize = 2_000;

/// What kind of thing was found. Its words are in `data/repairs.toml`.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum FoundKind {
    /// Torn, or cut by another trade.
    Tear,
    /// A hole of a fastener that missed or was overdriven.
    Hole,
    /// Something comes through that was not planned.
    LateHole,
    /// Adhesive that let go.
    LetGo,
    /// Aged by light, or worn.
    Worn,
    /// Wet behind it.
    Wet,
    /// Something is not as it should be, and the wall shows it.
    Wrong,
    /// A check of a step failed.
    Failed,
    /// The unit is replaced by another of its size.
    Unit,
    /// The opening moved or grew: it was where this is.
    Moved,
}

impl FoundKind {
    /// True where it is about certain pieces and hurts none by itself: nothing has to lie where it is.
    pub fn is_of_pieces(self) -> bool {
        matches!(self, Self::Wrong | Self::Failed | Self::Unit | Self::Moved)
    }
}

/// How a piece of a repair holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Holds {
    /// Fastened only.
    Loose,
    /// It sticks, and is rolled.
    Stuck,
    /// Coated, and left to cure.
    Coated,
}

/// A rectangle on the unfolded wall.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Place {
    /// From the wall's left end.
    pub left: Length,
    /// From the bottom plate up.
    pub bottom: Length,
    /// How wide.
    pub width: Length,
    /// How high.
    pub height: Length,
}

/// One thing that is done about what was found. They are done in their order.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "do", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Mend {
    /// What hangs outside is taken off, and hung again when everything else is done.
    Open {
        /// Ids of its pieces.
        pieces: Vec<String>,
    },
    /// A level slit in the barrier: so much of it above can be lifted.
    Slit {
        /// From the wall's left end.
        left: Length,
        /// From the bottom plate up to the slit.
        at: Length,
        /// How long.
        width: Length,
        /// How much of the sheet above it is lifted.
        lift: Length,
    },
    /// A new piece.
    Lay {
        /// Generic material.
        product: String,
        /// Where it lies.
        place: Place,
        /// How it holds.
        holds: Holds,
        /// Tucked under the loose edges of these pieces, by id.
        #[serde(default)]
        under: Vec<String>,
        /// Tucked up under the slit that was made before it, and as wide as that there.
        #[serde(default)]
        under_slit: bool,
        /// A bead along its top edge.
        #[serde(default)]
        sealed: bool,
    },
    /// Taken back as far as these pieces, and done again in the recipes' order, with new material where the old one stuck.
    Again {
        /// Ids of the pieces that are taken off.
        off: Vec<String>,
        /// Ids of the pieces that are laid, as planned.
        pieces: Vec<String>,
        /// True where what is behind them is left to dry first.
        #[serde(default)]
        dry: bool,
    },
}

/// What was found, and what is done about it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct FoundSpec {
    /// Short id, unique on the wall, such as `D1`.
    pub id: String,
    /// The kind of damage or late work.
    pub what: FoundKind,
    /// Id of the last step that was done by then; left out where everything was.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub after: Option<String>,
    /// The rectangle it takes, from the wall’s left end and the bottom plate.
    pub place: Place,
    /// Ids of the pieces it is about, where it is about some.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pieces: Vec<String>,
    /// What is done about it; empty where that is not decided.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub repair: Vec<Mend>,
    /// What comes through a late hole, by its id among the kinds of things on a wall; a pipe without one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub thing: Option<String>,
}

/// What is wrong with what was found, as far as that needs no plan. `openings` are the ids of everything else on the wall.
pub(super) fn problems<'a>(found: &'a [FoundSpec], openings: impl Iterator<Item = &'a str>) -> Vec<Problem> {
    let mut out = Vec::new();
    let mut ids: HashSet<&str> = openings.collect();
    for (i, f) in found.iter().enumerate().take(MOST_FOUND) {
        let at = |field: &str| format!("$.found[{i}].{field}");
        let plain = !f.id.is_empty() && f.id.len() <= 12 && f.id.chars().all(|c| c.is_ascii_alphanumeric());
        if !plain || !ids.insert(&f.id) {
            let said: String = f.id.chars().take(20).collect();
            let message =
                format!("found \"{said}\", expected 1 to 12 letters or digits that nothing else on the wall has");
            out.push(Problem::new(at("id"), message));
        }
        if f.pieces.len() > MOST_MENDED {
            let message = format!("found {} pieces, at most {MOST_MENDED}: split what was found", f.pieces.len());
            out.push(Problem::new(at("pieces"), message));
        }
        if f.repair.len() > MOST_MENDS {
            let message =
                format!("found {} parts of a repair, at most {MOST_MENDS}: take it back instead", f.repair.len());
            out.push(Problem::new(at("repair"), message));
            continue;
        }
        let mut range = |path: String, r: &LengthRange, l: Length| {
            if let Err(message) = r.check(l) {
                out.push(Problem::new(path, message));
            }
        };
        let mut place = |path: String, p: &Place| {
            range(format!("{path}.left"), &FOUND_AT, p.left);
            range(format!("{path}.bottom"), &FOUND_AT, p.bottom);
            range(format!("{path}.width"), &FOUND_SIZE, p.width);
            range(format!("{path}.height"), &FOUND_SIZE, p.height);
        };
        place(at("place"), &f.place);
        for (n, mend) in f.repair.iter().enumerate() {
            let path = at(&format!("repair[{n}]"));
            match mend {
                Mend::Lay { place: p, .. } => place(format!("{path}.place"), p),
                Mend::Slit { left, at, width, lift } => {
                    place(path, &Place { left: *left, bottom: *at, width: *width, height: *lift });
                }
                Mend::Open { .. } | Mend::Again { .. } => {}
            }
        }
        for (n, mend) in f.repair.iter().enumerate() {
            let (Mend::Open { pieces } | Mend::Again { pieces, .. } | Mend::Lay { under: pieces, .. }) = mend else {
                continue;
            };
            if pieces.len() > MOST_MENDED {
                let message =
                    format!("found {} pieces, at most {MOST_MENDED} in one repair: split the work", pieces.len());
                out.push(Problem::new(at(&format!("repair[{n}].pieces")), message));
            }
        }
    }
    out
}
