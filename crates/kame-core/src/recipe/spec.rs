//! The shape of recipe data (TOML). Sizes are expressions over the opening and the profile; see [`super::expr`]. Everything may carry a
//! `when` such as `unit:frame,door cut!flush`: it belongs to the recipe only where the answers to the school questions are so. What is
//! marked `mirror` is there a second time on the other side, with `left` and `right` exchanged.

use super::laying::LayoutRule;
use crate::layup::Bond;
use crate::length::Length;
use crate::trade::{Band, Phase};
use serde::Deserialize;
use std::collections::BTreeMap;

/// A rectangle on a surface, as four expressions left, bottom, right, top.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RectSpec {
    /// Surface: `wall` or one of the recipe's own.
    pub on: String,
    /// Left, bottom, right, top.
    pub rect: [String; 4],
    /// Where it is interrupted.
    pub gaps: Option<GapsSpec>,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
    /// There on the other side too.
    #[serde(default)]
    pub mirror: bool,
}

/// Gaps in a rectangle, evenly spaced from end to end: at least one.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct GapsSpec {
    /// How wide each is.
    pub wide: String,
    /// At most this far apart, and from the ends.
    pub every: String,
}

/// A surface of the detail.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SurfaceSpec {
    /// Name inside the recipe.
    pub id: String,
    /// Extent along `u`.
    pub width: String,
    /// Extent along `v`.
    pub height: String,
    /// How it slopes.
    pub slope: SlopeSpec,
    /// True where it faces the weather: a return outside the unit.
    #[serde(default)]
    pub exposed: bool,
    /// True where it is the sill of the opening.
    #[serde(default)]
    pub sill: bool,
    /// There only once this piece is placed.
    pub with: Option<String>,
    /// Level until this piece is placed.
    pub sloped_by: Option<String>,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
    /// There on the other side too.
    #[serde(default)]
    pub mirror: bool,
}

/// How a surface slopes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum SlopeSpec {
    /// Upright.
    Plumb,
    /// Level.
    Level,
    /// By the profile's sill slope.
    Sill,
}

/// One end of a stitch.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StitchEndSpec {
    /// Name of the surface it is on.
    pub on: String,
    /// First point.
    pub from: [String; 2],
    /// Second point.
    pub to: [String; 2],
    /// Which edge of the surface's material lies on it: `top`, `bottom`, `left`, `right`.
    pub material: SideSpec,
}

/// Where the material lies, seen from the segment.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum SideSpec {
    /// Below it.
    Below,
    /// Above it.
    Above,
    /// Left of it.
    Left,
    /// Right of it.
    Right,
}

/// Two joined segments.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StitchSpec {
    /// One end.
    pub a: StitchEndSpec,
    /// The other end.
    pub b: StitchEndSpec,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
    /// There on the other side too.
    #[serde(default)]
    pub mirror: bool,
}

/// What a piece is cut from, and how big.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CutSizeSpec {
    /// Along the roll.
    pub length: String,
    /// Across the roll.
    pub width: String,
    /// Length of a whole roll, `None` where it is not cut from a roll.
    pub roll: Option<String>,
    /// Stocked widths to choose the smallest sufficient one of; empty: ripped or stocked to the width itself.
    #[serde(default)]
    pub stocked: Vec<Length>,
}

/// What a piece does, for drawing and words.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Deserialize, serde::Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Role {
    /// A course of the barrier.
    Barrier,
    /// Board, wedge or dam that shapes the sill.
    Shape,
    /// Sill pan.
    Pan,
    /// Lining of the opening.
    Lining,
    /// Window or door.
    Unit,
    /// Flashing at the jamb.
    Jamb,
    /// Flashing at the head.
    Head,
    /// Patch over a slit.
    Patch,
    /// Corner piece of a pan.
    Corner,
    /// Apron under the sill, loose until a course goes under it.
    Apron,
    /// Drip cap.
    Cap,
    /// Tape over a joint of panels or the edge of a course.
    Joint,
    /// A coat at the opening.
    Band,
    /// What is hung outside the barrier: second layer, insulation.
    Cover,
    /// What stands in the gap between barrier and cladding: battens, mats, beads.
    Furring,
    /// What is over an end of the gap and lets air and water pass.
    Screen,
    /// What plaster and stone are thrown on, and the film that guards units meanwhile.
    Lath,
    /// What is seen from outside: siding, panels, plaster, stone, and the trim round openings.
    Cladding,
}

impl Role {
    /// True for what the barrier of the wall consists of: it spans openings until it is cut.
    pub fn is_barrier(self) -> bool {
        matches!(self, Self::Barrier | Self::Joint)
    }

    /// True for what stands outside everything that sheds: water runs past it, and is not asked about it.
    pub fn is_outside(self) -> bool {
        matches!(self, Self::Furring | Self::Screen | Self::Lath | Self::Cladding)
    }
}

/// One physical piece.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PieceSpec {
    /// Name inside the recipe.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// What the piece is there for.
    pub role: Role,
    /// Letter on drawings.
    pub letter: String,
    /// What it is made of, generic.
    pub product: String,
    /// How it holds once pressed or cured.
    pub bond: Bond,
    /// A solid thing.
    #[serde(default)]
    pub solid: bool,
    /// Holds as soon as it is on, and not by glue: what is drawn tight.
    #[serde(default)]
    pub grips: bool,
    /// Where it lies.
    #[serde(default)]
    pub regions: Vec<RectSpec>,
    /// By which rule its parts are laid out on the whole run of walls; only in recipes of the wall itself.
    pub layout: Option<LayoutRule>,
    /// Its cut size.
    pub cut: Option<CutSizeSpec>,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
    /// There on the other side too.
    #[serde(default)]
    pub mirror: bool,
}

/// How a seal is reached.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum ReachSpec {
    /// Has to be there before the piece is placed.
    Before,
    /// Once the piece is placed.
    After,
}

fn skipped() -> String {
    "F17".into()
}

/// A bead or smear.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SealSpec {
    /// Name inside the recipe.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Behind which piece.
    pub behind: String,
    /// How it is reached.
    pub reach: ReachSpec,
    /// The fault it is where it is missing.
    #[serde(default = "skipped")]
    pub fault: String,
    /// What it is made of; empty where it is sealant.
    #[serde(default)]
    pub product: String,
    /// True where a rod goes in first, for the sealant to be tooled against.
    #[serde(default)]
    pub rod: bool,
    /// The rectangle on that surface, in its own lengths from left and foot; none where a rule lays it out.
    #[serde(default)]
    pub rects: Vec<RectSpec>,
    /// By which rule it is laid out on the wall.
    #[serde(default)]
    pub layout: Option<LayoutRule>,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
}

/// Part of a cut sheet that stays in its plane.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FlapSpec {
    /// Name inside the recipe.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Its left, lower, right and upper edge, as expressions.
    pub rect: [String; 4],
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
}

/// Part of a cut sheet that is turned round an edge of the opening.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FoldSpec {
    /// Where it was before, on the wall.
    pub rect: [String; 4],
    /// Surface on which it comes to lie, by its stitch with the wall.
    pub to: String,
    /// The flap it is lifted and dropped with; none where it stays once it is turned.
    pub flap: Option<String>,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
}

/// A pattern in which the barrier is cut at an opening.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CutSpec {
    /// Name inside the recipe.
    pub id: String,
    /// What is cut away.
    pub away: Vec<[String; 4]>,
    /// Straight slits on the wall: from, to.
    #[serde(default)]
    pub slits: Vec<[[String; 2]; 2]>,
    /// Parts that can be lifted and dropped.
    #[serde(default)]
    pub flaps: Vec<FlapSpec>,
    /// Parts turned into the opening.
    #[serde(default)]
    pub folds: Vec<FoldSpec>,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
}

/// What is done; the same actions serve every recipe (handbook 3.1).
#[derive(Clone, Debug, Deserialize)]
#[serde(tag = "do", rename_all = "lowercase", deny_unknown_fields)]
pub enum ActionSpec {
    /// Place a piece, tucked under the loose edges of others where named.
    Place {
        /// The piece, by its name in the recipe.
        piece: String,
        /// Tucked under these.
        #[serde(default)]
        under: Vec<String>,
    },
    /// Set a unit.
    Set {
        /// The piece, by its name in the recipe.
        piece: String,
    },
    /// Lift a flap and hold it up.
    Lift {
        /// Name of the flap in the recipe.
        flap: String,
    },
    /// Drop a lifted flap.
    Drop {
        /// Name of the flap in the recipe.
        flap: String,
    },
    /// Cut the barrier.
    Cut {
        /// By which pattern.
        cut: String,
    },
    /// Press an adhered piece down.
    Press {
        /// The piece, by its name in the recipe.
        piece: String,
    },
    /// Lay a bead or smear.
    Seal {
        /// Name of the bead in the recipe.
        seal: String,
    },
    /// Brush, roll or spray a coat.
    Coat {
        /// The piece, by its name in the recipe.
        piece: String,
        /// Wet thickness of each coat in mil: an expression, as a rule a figure of the profile.
        wet_mil: String,
        /// How many at least: a product that asks for more gets more.
        coats: u32,
    },
    /// Drive fasteners.
    Fasten {
        /// What, where, spacing.
        what: String,
    },
    /// Measure.
    Measure {
        /// What, in words.
        what: String,
        /// Ids of the checks that are made.
        #[serde(default)]
        check: Vec<String>,
    },
    /// Somebody has to look before going on.
    Hold {
        /// At what, in words.
        what: String,
        /// Ids of the checks that are made.
        #[serde(default)]
        check: Vec<String>,
    },
    /// Wait for skin, cure or bond.
    Wait {
        /// Which coat has cured by then.
        piece: Option<String>,
        /// What for.
        what: String,
    },
    /// Take something away.
    Remove {
        /// A temporary piece.
        piece: Option<String>,
        /// What.
        what: String,
    },
}

impl ActionSpec {
    /// Ids of the checks that are made.
    pub fn checks(&self) -> &[String] {
        match self {
            Self::Measure { check, .. } | Self::Hold { check, .. } => check,
            _ => &[],
        }
    }
}

/// One step of the work: a card, and its actions.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StepSpec {
    /// Name inside the recipe.
    pub id: String,
    /// Its band in the order of work; steps of all answers are sorted by it.
    pub band: Band,
    /// Title of the step.
    pub title: String,
    /// Phase of the work.
    pub phase: Phase,
    /// What to do, in a sentence or two; `{…}` is filled in.
    pub what: String,
    /// What it goes over.
    #[serde(default)]
    pub over: String,
    /// What to check before walking away.
    pub check: String,
    /// The reason, as a sentence.
    pub why: String,
    /// The caution that stands beside it.
    #[serde(default)]
    pub caution: String,
    /// What is done.
    pub actions: Vec<ActionSpec>,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
}

/// One piece has to lie over another.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OverSpec {
    /// Piece or flap nearer the weather.
    pub upper: String,
    /// Piece behind it; `barrier` is every course.
    pub lower: String,
    /// The fault it is if it does not.
    pub fault: String,
    /// The reason, as the middle of a sentence.
    pub because: String,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
    /// There on the other side too.
    #[serde(default)]
    pub mirror: bool,
}

/// A place that should stay dry.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TargetSpec {
    /// Name inside the recipe.
    pub id: String,
    /// What people call it, as in "reaches …".
    pub name: String,
    /// True for gap 0 only.
    #[serde(default)]
    pub substrate: bool,
    /// Rectangle, as expressions, on a surface.
    pub at: RectSpec,
    /// Asked only while this surface is not there.
    pub without: Option<String>,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
    /// There on the other side too.
    #[serde(default)]
    pub mirror: bool,
}

/// Water that comes from elsewhere than rain.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct LeakSpec {
    /// Name inside the recipe.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Behind which piece; `barrier` is the course that lies there.
    pub under: String,
    /// Rectangle, as expressions, on a surface.
    pub at: RectSpec,
    /// Only targets that are not on the wall's own face count.
    #[serde(default)]
    pub openings_only: bool,
    /// The fault it is where this water gets in behind a head flashing that is stuck on a flap that was never lifted; empty where the wrong lap
    /// says it.
    #[serde(default)]
    pub fault: String,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
}

/// What is fitted round an opening.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum FitOf {
    /// Courses that are hung when the unit stands already.
    Courses,
    /// What is hung outside the barrier.
    Cover,
}

/// How what comes later is fitted round an opening.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FitSpec {
    /// What is fitted.
    pub of: FitOf,
    /// What they leave free on the wall.
    pub away: Vec<[String; 4]>,
    /// Slits in them: from, to.
    #[serde(default)]
    pub slits: Vec<[[String; 2]; 2]>,
    /// Parts that go under the loose edge of a piece.
    #[serde(default)]
    pub tuck: Vec<TuckSpec>,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
}

/// A part of a course that goes under a loose edge.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TuckSpec {
    /// Under which piece.
    pub under: String,
    /// Which part, on the wall.
    pub rect: [String; 4],
}

/// Where the gap behind the cladding is interrupted.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StopSpec {
    /// Left, bottom, right, top on the wall.
    pub rect: [String; 4],
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
}

/// Named sizes; the entry `when` says under which answers.
pub type LetSpec = BTreeMap<String, String>;

/// A recipe, or the part of one that an answer to a school question adds: data only.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Recipe {
    /// Named sizes in order of definition: each may use those before it.
    #[serde(rename = "let")]
    pub lets: Vec<LetSpec>,
    /// Own surfaces.
    pub surface: Vec<SurfaceSpec>,
    /// How they join.
    pub stitch: Vec<StitchSpec>,
    /// The pieces it places.
    pub piece: Vec<PieceSpec>,
    /// Seals.
    pub seal: Vec<SealSpec>,
    /// Cutting patterns.
    pub cut: Vec<CutSpec>,
    /// How later courses are fitted.
    pub fit: Vec<FitSpec>,
    /// Steps in working order.
    pub step: Vec<StepSpec>,
    /// Required overs.
    pub over: Vec<OverSpec>,
    /// Places that should stay dry.
    pub target: Vec<TargetSpec>,
    /// Other water.
    pub leak: Vec<LeakSpec>,
    /// Where the gap behind the cladding is interrupted.
    pub stop: Vec<StopSpec>,
}
