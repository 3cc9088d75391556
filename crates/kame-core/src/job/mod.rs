//! The job as people keep it: a wall, its openings, its own figures, the order of work. The file format `kame-job`.

mod bench;
mod bounds;
mod file;
mod found;
mod site;
mod way;
mod wrong;

pub use bench::{Tick, Ticked};
pub use bounds::{MOST_ANSWERS, MOST_CORNERS, MOST_FIGURES};
pub use file::{job_schema, read_job, write_job};
pub use found::{FOUND_AT, FOUND_SIZE, FoundKind, FoundSpec, Holds, MOST_MENDED, Mend, Place};
pub use site::{
    CrewSpec, Deadline, Delivery, KeptDay, KeptPlan, MOST_CREWS, MOST_DATES, MOST_KEPT, Pin, SiteSpec, Standpoint,
    Visit,
};
pub use way::Way;

use crate::interview::Strategy;
use crate::kit::{KitSpec, ProductsHere};
use crate::length::{LONGEST, Length};
use crate::problem::Problem;
use crate::profile::ProfileVersion;
use crate::range::{LengthRange, Range};
use crate::recipe::schools::{Answers, Feature, Schools};
use crate::surface::Edge;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Name of the format.
pub const JOB_FORMAT: &str = "kame-job";
/// Version this program writes.
pub const JOB_VERSION: u32 = 3;
/// Oldest version this program reads.
pub const OLDEST_JOB_VERSION: u32 = 1;
/// Most openings and penetrations in one job.
pub const MOST_OPENINGS: usize = 1500;
/// Most points of the top of a building's walls.
pub const MOST_TOP_POINTS: usize = 400;
/// The longest id that a building model gives anything.
const MOST_MODEL_ID: usize = 64;
/// Most things found on one wall.
pub const MOST_FOUND: usize = 200;
/// Most grade, paving and floor lines.
pub const MOST_LEVELS: usize = 40;
/// How often one piece can be spoiled.
pub const SPOILED: Range<u32> = Range {
    what: "how often a piece is spoiled",
    least: 1,
    most: 20,
    remedy: "find out what goes wrong before cutting it again",
};

/// Width of a wall.
pub const WALL_WIDTH: LengthRange = LengthRange {
    what: "wall width",
    least: Length::inch(24),
    most: LONGEST,
    remedy: "measure all walls of the building, corner to corner, and add them up",
};
/// Width of a wall between two corners.
pub const WALL_BETWEEN: LengthRange = LengthRange {
    what: "wall from corner to corner",
    least: Length::inch(24),
    most: LONGEST,
    remedy: "give corners from left to right, each at least 2 ft from the one before",
};
/// Height of a wall from the bottom plate.
pub const WALL_HEIGHT: LengthRange = LengthRange {
    what: "wall height",
    least: Length::inch(24),
    most: Length::inch(720),
    remedy: "measure from the bottom plate to the top plate",
};
/// Width or height of what comes through the barrier other than a window or door.
pub const PENETRATION_SIZE: LengthRange = LengthRange {
    what: "size of a penetration",
    least: Length::inch_fraction(1, 4),
    most: Length::inch(48),
    remedy: "measure the outline of the thing where it comes through",
};
/// Length of what runs along a wall.
pub const LINE_LENGTH: LengthRange = LengthRange {
    what: "length of a line",
    least: Length::inch(4),
    most: LONGEST,
    remedy: "measure it from end to end along the wall",
};
/// Height of what runs along a wall.
pub const LINE_HEIGHT: LengthRange = LengthRange {
    what: "height of a line",
    least: Length::inch_fraction(1, 4),
    most: Length::inch(480),
    remedy: "measure the height of the ledger or joint, or the rise of the roof line",
};
/// Height of a floor line from the bottom plate.
pub const FLOOR_LINE: LengthRange = LengthRange {
    what: "floor line",
    least: Length::inch(1),
    most: Length::inch(720),
    remedy: "measure from the bottom plate up to the floor of the storey above",
};
/// Height of grade or paving from the bottom plate.
pub const GRADE_LINE: LengthRange = LengthRange {
    what: "grade line",
    least: Length::inch(-120),
    most: Length::inch(60),
    remedy: "measure from the bottom plate down to the ground, as a negative length",
};
/// Width of a rough opening.
pub const OPENING_WIDTH: LengthRange = LengthRange {
    what: "opening width",
    least: Length::inch(4),
    most: Length::inch(240),
    remedy: "measure the rough opening",
};
/// Height of a rough opening.
pub const OPENING_HEIGHT: LengthRange = LengthRange {
    what: "opening height",
    least: Length::inch(4),
    most: Length::inch(240),
    remedy: "measure the rough opening",
};
/// Depth of the wall at an opening.
pub const OPENING_DEPTH: LengthRange = LengthRange {
    what: "wall depth",
    least: Length::inch(2),
    most: Length::inch(16),
    remedy: "measure framing and sheathing",
};
/// Width of a flange.
pub const FLANGE: LengthRange = LengthRange {
    what: "flange width",
    least: Length::inch(1),
    most: Length::inch(3),
    remedy: "measure from the frame to the outer edge of the flange",
};

/// Which way a wall turns.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum CornerKind {
    /// Away from who looks at it.
    Outside,
    /// Toward who looks at it.
    Inside,
}

/// A corner of the building: the wall is unfolded, and goes on at its other side.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CornerSpec {
    /// From the left end of the unfolded wall.
    pub at: Length,
    /// Which way it turns.
    pub kind: CornerKind,
    /// What people call the wall to its right.
    pub name: String,
    /// Answers of the wall to its right where they are not those of all walls, such as another barrier or cladding.
    #[serde(default, skip_serializing_if = "Answers::is_empty")]
    pub schools: Answers,
    /// Which product of a kind is used here where it is not that of all walls, by the generic one.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub products: ProductsHere,
}

/// A point of the top of a wall, where it is not level.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TopPoint {
    /// From the left end of the unfolded wall.
    pub at: Length,
    /// From the bottom plate up.
    pub height: Length,
}

/// What a level line on the walls is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum LevelKind {
    /// Ground that is planted or bare.
    Soil,
    /// Paving, a terrace, a walk.
    Paving,
    /// A floor: where a storey begins.
    Floor,
}

/// A level line: grade below the plate, a floor above it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LevelSpec {
    /// Grade, paving or a floor.
    pub kind: LevelKind,
    /// From the bottom plate: above it positive, below it negative.
    pub at: Length,
    /// What people call it.
    pub name: String,
}

/// A wall.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WallSpec {
    /// What people call it.
    pub name: String,
    /// All of it, unfolded round its corners: 2 ft to 2000 ft.
    pub width: Length,
    /// From the bottom plate up: 2 ft to 60 ft.
    pub height: Length,
    /// Corners from left to right; the walls between them are one unfolded face.
    #[serde(default)]
    pub corners: Vec<CornerSpec>,
    /// The top of the walls from left to right where it is not level at `height`: a gable, a rake, a step (two points at one place). Empty
    /// for level; else the first point is at 0 and the last at `width`.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub top: Vec<TopPoint>,
    /// Grade, paving and floors.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub levels: Vec<LevelSpec>,
    /// Height of the first course where it is not the one the course rule finds best.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub first_course: Option<Length>,
    /// Answers to the school questions of a wall, such as `"barrier": "loose"`; what is not answered is the first that can be built.
    #[serde(default)]
    pub schools: Answers,
    /// Which product of a kind is used here where it is not the generic one, by the generic one.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub products: ProductsHere,
}

impl WallSpec {
    /// Where walls begin and end, from left to right.
    pub fn ends(&self) -> Vec<Length> {
        [Length::ZERO].into_iter().chain(self.corners.iter().map(|c| c.at)).chain([self.width]).collect()
    }

    /// What people call the walls, from left to right.
    pub fn names(&self) -> Vec<&str> {
        [self.name.as_str()].into_iter().chain(self.corners.iter().map(|c| c.name.as_str())).collect()
    }

    /// The wall that a place along the unfolded face is on, from 0 at the left.
    pub fn wall_at(&self, at: Length) -> usize {
        self.corners.iter().filter(|c| c.at <= at).count()
    }

    /// Answers of one wall's own; the first has none besides those of all walls.
    pub fn own(&self, wall: usize) -> Option<&Answers> {
        Some(&self.corners.get(wall.checked_sub(1)?)?.schools)
    }

    /// Which product is used on one wall where the plan says a generic one.
    pub fn used<'a>(&'a self, wall: usize, generic: &'a str) -> &'a str {
        let own = wall.checked_sub(1).and_then(|c| self.corners.get(c)).and_then(|c| c.products.get(generic));
        own.or_else(|| self.products.get(generic)).map_or(generic, String::as_str)
    }

    /// What is answered for one wall: its own answers over those of all walls.
    pub fn answers(&self, wall: usize, schools: &Schools) -> Answers {
        match self.own(wall).filter(|own| !own.is_empty()) {
            Some(own) => schools.over(&self.schools, own),
            None => self.schools.clone(),
        }
    }
}

impl OpeningSpec {
    /// The wall it is on: the one its middle is on.
    pub fn wall(&self, walls: &WallSpec) -> usize {
        walls.wall_at(self.left + Length::from_units(self.width.units() / 2))
    }
}

/// An opening.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct OpeningSpec {
    /// Short id, unique on the wall, such as `W1`.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// What it is: a window or door, or something else that comes through the barrier.
    #[serde(default)]
    pub feature: Feature,
    /// Answers to the school questions of an opening, such as `"sill": "stretch"`; what is not answered is the first that can be built.
    #[serde(default)]
    pub schools: Answers,
    /// Which product of a kind is used here where it is not that of its wall, by the generic one.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub products: ProductsHere,
    /// Read from version 1, in which there was one recipe, and not written.
    #[serde(default, skip_serializing)]
    pub recipe: Option<String>,
    /// From the wall's left end to the rough opening, or to the outline of the thing.
    pub left: Length,
    /// From the bottom plate up to the rough sill.
    pub sill: Length,
    /// Rough opening, 12 in to 20 ft; of a penetration 1/4 in to 4 ft.
    pub width: Length,
    /// Rough opening, 12 in to 20 ft; of a penetration 1/4 in to 4 ft.
    pub height: Length,
    /// Depth of the wall, 2 to 16 in.
    pub depth: Length,
    /// Width of the flange, 1 to 3 in.
    pub flange: Length,
    /// Its id in the building model that it came out of; empty where it came out of none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub model: String,
}

/// The order of work where it is not the recipes' own.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct SequenceSpec {
    /// Step ids in working order; empty for the recipes' own order.
    pub order: Vec<String>,
    /// Ids of steps and actions left out.
    pub removed: Vec<String>,
}

/// How a piece was done other than planned.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum DeviationKind {
    /// A fish-mouth in the middle of its upper edge.
    FishMouth,
    /// A bead or tape along its lower edge.
    SealedBottom,
    /// A course that was not run level: its right half lies higher.
    OffLevel,
    /// It stops short at its left end on the face of the wall.
    ShortLeft,
    /// It stops short at its right end.
    ShortRight,
    /// It stops short at its top.
    ShortTop,
    /// It stops short at its foot.
    ShortBottom,
}

impl DeviationKind {
    /// Every kind.
    pub const ALL: [Self; 7] = [
        Self::FishMouth,
        Self::SealedBottom,
        Self::OffLevel,
        Self::ShortLeft,
        Self::ShortRight,
        Self::ShortTop,
        Self::ShortBottom,
    ];

    /// At which edge a piece of this kind stops short.
    pub fn short_at(self) -> Option<Edge> {
        match self {
            Self::ShortLeft => Some(Edge::Left),
            Self::ShortRight => Some(Edge::Right),
            Self::ShortTop => Some(Edge::Top),
            Self::ShortBottom => Some(Edge::Bottom),
            Self::FishMouth | Self::SealedBottom | Self::OffLevel => None,
        }
    }
}

/// A piece done other than planned: found on the wall, or tried on purpose.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Deviation {
    /// How.
    pub kind: DeviationKind,
    /// Id of the piece.
    pub piece: String,
}

/// A job.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Job {
    /// `kame-job`.
    pub format: String,
    /// 3; files of versions 1 and 2 are read as well.
    pub version: u32,
    /// What people call it.
    pub name: String,
    /// The wall.
    pub wall: WallSpec,
    /// Figures of this job that differ from the profile's, by id.
    #[serde(default)]
    pub figures: BTreeMap<String, String>,
    /// Openings, penetrations and lines along the walls, in the job’s order.
    #[serde(default)]
    pub openings: Vec<OpeningSpec>,
    /// The order of work.
    #[serde(default)]
    pub sequence: SequenceSpec,
    /// What was done other than planned.
    #[serde(default)]
    pub as_built: Vec<Deviation>,
    /// Ids of pieces along whose top edge on the wall a bead is laid although their recipe asks for none.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub sealed: Vec<String>,
    /// What was found on the wall as it stood, with its repairs, in the order in which it was found.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub found: Vec<FoundSpec>,
    /// The strategy interview: what was answered, and what was decided otherwise than advised.
    #[serde(default)]
    pub strategy: Strategy,
    /// Name of the firm's way of building that it follows; left out where it goes its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub follows: Option<String>,
    /// Who works when, what comes when, and where the building stands; left out where nobody has said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub site: Option<SiteSpec>,
    /// Own products and prices, what is on the truck, what is known of pairs that touch.
    #[serde(default, skip_serializing_if = "KitSpec::is_empty")]
    pub kit: KitSpec,
    /// Ids of pieces already cut.
    #[serde(default)]
    pub ticks: Vec<String>,
    /// Sets of figures kept under a name, to hold against each other and to bring back.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub profiles: Vec<ProfileVersion>,
    /// What happened at the bench.
    #[serde(default, skip_serializing_if = "BenchSpec::is_empty")]
    pub bench: BenchSpec,
}

/// What happened at the bench beyond what is ticked off.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct BenchSpec {
    /// Pieces that were spoiled, and how often: each is cut once more.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub spoiled: BTreeMap<String, u32>,
    /// From which roll of its product, from 1, a piece was cut; a spoiled one has its number behind its id, such as `W1/pan~1`.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub rolls: BTreeMap<String, usize>,
}

impl BenchSpec {
    /// True where nothing happened.
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

impl Job {
    /// A new wall with one window, sizes that are right for a start.
    pub fn new(name: &str) -> Self {
        let opening = OpeningSpec {
            id: "W1".into(),
            name: "Window 1".into(),
            feature: Feature::Opening,
            schools: Answers::new(),
            products: ProductsHere::new(),
            recipe: None,
            left: Length::inch(52),
            sill: Length::inch(32),
            width: Length::inch(36),
            height: Length::inch(48),
            depth: Length::inch_fraction(11, 2),
            flange: Length::inch_fraction(11, 8),
            model: String::new(),
        };
        Self {
            format: JOB_FORMAT.into(),
            version: JOB_VERSION,
            name: name.to_owned(),
            wall: WallSpec {
                name: "Wall".into(),
                width: Length::inch(144),
                height: Length::inch(109),
                corners: Vec::new(),
                top: Vec::new(),
                levels: Vec::new(),
                first_course: None,
                schools: Answers::new(),
                products: ProductsHere::new(),
            },
            figures: BTreeMap::new(),
            openings: vec![opening],
            sequence: SequenceSpec::default(),
            as_built: Vec::new(),
            sealed: Vec::new(),
            found: Vec::new(),
            strategy: Strategy::default(),
            follows: None,
            site: None,
            kit: KitSpec::default(),
            ticks: Vec::new(),
            profiles: Vec::new(),
            bench: BenchSpec::default(),
        }
    }

    /// Turns a job of an older version into one of this version. Version 1 had one recipe, which is what unanswered questions give. Before
    /// version 3 tape always went a little on to the frame; since then the unit's maker is asked.
    pub(crate) fn make_current(&mut self) {
        let from = std::mem::replace(&mut self.version, JOB_VERSION);
        for o in &mut self.openings {
            o.recipe = None;
            if from < 3 && o.feature == Feature::Opening {
                o.schools.entry("maker".into()).or_insert_with(|| "on-frame".into());
            }
        }
    }

    /// Checks counts, names, ids and ranges; what needs geometry is checked when the plan is built. Of many problems the first are told.
    pub fn problems(&self) -> Vec<Problem> {
        let too_many = bounds::too_many(self);
        if too_many.is_empty() { bounds::shortened(self.wrong()) } else { too_many }
    }
}
