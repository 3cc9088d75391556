//! A wall as pieces in a stacking order: the input of the water model (handbook 4.1, 4.2, 4.5).

mod read;
mod schema;
mod write;

pub use read::{FileMistake, from_json};
pub use schema::layup_schema;
pub use write::to_json;

use crate::length::Length;
use crate::surface::{Facet, FacetId, Patch, Segment, Stitch};
use serde::{Deserialize, Serialize};
use std::hash::{Hash, Hasher};

/// Index of a sheet in its layup.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct SheetId(pub usize);

/// How a sheet holds to what is behind it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Bond {
    /// Loose, only fastened.
    None,
    /// Adhesive, pressed: no gap behind it while the glue holds.
    Full,
    /// A coat or a factory facing: no gap behind it, and not glue.
    Cured,
}

/// A rectangle of a sheet with its place in the stack. Higher is nearer the weather.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Region {
    /// The rectangle on its facet.
    pub at: Patch,
    /// Rank in the stack, distinct wherever two sheets overlap.
    pub rank: f64,
}

impl Hash for Region {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (self.at, self.rank.to_bits()).hash(state);
    }
}

/// One physical piece.
#[derive(Clone, Debug, PartialEq, Hash)]
pub struct Sheet {
    /// Name, unique in the layup.
    pub id: String,
    /// How it holds.
    pub bond: Bond,
    /// A solid thing (unit, pipe): on facets that are not exposed there is nothing outside it.
    pub cap: bool,
    /// Where it lies.
    pub regions: Vec<Region>,
    /// Where its regions touch but are not continuous.
    pub cuts: Vec<Segment>,
}

/// A rectangle that belongs to one sheet: a seal or fault directly behind it, or a hole in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct OnSheet {
    /// Which sheet.
    pub sheet: SheetId,
    /// The rectangle on its facet.
    pub at: Patch,
}

/// Where in the stack a target asks.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Depth {
    /// Any gap.
    Any,
    /// Gap 0: a joint, raw wood, the sheathing.
    Substrate,
}

/// A place that should stay dry.
#[derive(Clone, Debug, PartialEq, Hash)]
pub struct Target {
    /// Name, unique in the layup.
    pub id: String,
    /// The rectangle on its facet.
    pub at: Patch,
    /// Which gaps.
    pub depth: Depth,
}

/// Whether adhesive bonds and seals count.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Glue {
    /// Bonds and seals hold.
    Holds,
    /// Every `full` bond and every seal has let go; `cured` stays.
    Lost,
}

/// Where water comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Source {
    /// Every open face is wet.
    Rain,
    /// Water appears in the gap directly behind a sheet (without one: in the outermost gap) of a rectangle.
    Leak {
        /// The rectangle on its facet.
        at: Patch,
        /// Behind which sheet.
        under: Option<SheetId>,
    },
}

/// One question to the model.
#[derive(Clone, Debug, PartialEq, Hash)]
pub struct Scenario {
    /// Name, unique in the layup.
    pub id: String,
    /// Where the water comes from.
    pub source: Source,
    /// Whether glue counts.
    pub glue: Glue,
    /// Water wet at up to this head has to be able to leave.
    pub drain_head: Length,
}

/// The drain head of a scenario that names none: 1 in (handbook 4.5).
pub const DEFAULT_DRAIN_HEAD: Length = Length::inch(1);

/// A wall of overlapping pieces at one moment of the work. Units inside are exact lengths.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
pub struct Layup {
    /// Surfaces.
    pub facets: Vec<Facet>,
    /// How they join.
    pub stitches: Vec<Stitch>,
    /// Rectangular openings in facets.
    pub voids: Vec<Patch>,
    /// The sheets that lie on the facets.
    pub sheets: Vec<Sheet>,
    /// Closed gaps.
    pub seals: Vec<OnSheet>,
    /// Opened gaps.
    pub faults: Vec<OnSheet>,
    /// Missing material.
    pub holes: Vec<OnSheet>,
    /// Places asked about.
    pub targets: Vec<Target>,
    /// Places where water may leave.
    pub outlets: Vec<Patch>,
    /// Questions.
    pub scenarios: Vec<Scenario>,
}

impl Layup {
    /// The facet of that name.
    pub fn facet(&self, id: &str) -> Option<FacetId> {
        self.facets.iter().position(|f| f.id == id).map(FacetId)
    }

    /// The sheet of that name.
    pub fn sheet(&self, id: &str) -> Option<SheetId> {
        self.sheets.iter().position(|s| s.id == id).map(SheetId)
    }
}
