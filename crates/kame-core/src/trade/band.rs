//! The order of work: bands with names, in one table. A recipe says in which band each step is; within one, steps keep the order of the recipe.

use serde::Deserialize;

/// A band of the order of work. They stand here in the order in which they are worked.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Band {
    /// The opening is measured.
    Survey,
    /// The sheathing behind a sheet is taped.
    Sheathing,
    /// The joint between plate and foundation is closed.
    PlateJoint,
    /// Base flashing or weep screed.
    Base,
    /// What comes through the wall is set before the barrier.
    SetThingFirst,
    /// The gap behind it is filled.
    BackThingFirst,
    /// Its boot is set before the barrier.
    BootFirst,
    /// Courses, panels, joints, the first coat.
    Barrier,
    /// Level laps are taped.
    LevelLaps,
    /// Corners of the walls are looked at.
    WallCorners,
    /// The barrier is cut at the opening.
    Cut,
    /// The head flap is lifted.
    LiftFlap,
    /// Sill slope and back dam.
    SillSlope,
    /// The band round the opening is coated.
    OpeningBand,
    /// The field of the wall is coated.
    FieldCoat,
    /// The apron is hung below the opening.
    Apron,
    /// Corner pieces that lie under the pan.
    CornersFirst,
    /// The sill pan.
    SillPan,
    /// The corners of the pan.
    PanCorners,
    /// Jamb and head linings.
    Lining,
    /// Jamb flashings that lie under the flange.
    JambsFirst,
    /// A second sill membrane is laid, its face leg left loose for boards to come behind it.
    SecondMembrane,
    /// The unit is tried.
    DryFit,
    /// The beads the unit is bedded in.
    Bed,
    /// The unit is set.
    SetUnit,
    /// The joint round a unit without flange is closed outside.
    OuterJoint,
    /// Gaskets at the corners of the flange.
    Gaskets,
    /// Jamb flashings.
    Jambs,
    /// The head flashing.
    Head,
    /// Drip cap or metal leg.
    Cap,
    /// The head flap is dropped.
    DropFlap,
    /// The slits beside it are patched.
    SlitPatches,
    /// A strip over the head flashing's top edge.
    HeadStrip,
    /// The inside seal.
    Inside,
    /// Courses that came after the units are taped to their flanges.
    FlangeTape,
    /// The barrier is cut for what comes through, or parted at a joint or ledger.
    CutForThing,
    /// What comes through the wall is set.
    SetThing,
    /// The gap behind it is filled.
    BackThing,
    /// Joints that are flashed are backed.
    FillJoint,
    /// Flashings of lines and the lower edge of what comes through.
    FaceFlashing,
    /// Sides of what comes through, kick-outs.
    Sides,
    /// Its hood.
    Hood,
    /// Its flap is dropped and patched.
    ThingFlap,
    /// The strip where two barriers meet.
    Meeting,
    /// The outer layer of two.
    SecondLayer,
    /// Somebody looks before it is covered.
    Look,
    /// Screens that boards come over are hung.
    ScreensFirst,
    /// Furring that boards are slid behind.
    FurringFirst,
    /// Insulation boards.
    Insulation,
    /// Insulation over the heads.
    HeadInsulation,
    /// The second sill membrane.
    SecondSill,
    /// The metal sill.
    MetalSill,
    /// The parapet cap.
    ParapetCap,
    /// Screens at the ends of the gap.
    Screens,
    /// Mats and battens.
    Furring,
    /// Level furring at sills and heads.
    LevelFurring,
    /// Film over the units before anything is thrown.
    UnitFilm,
    /// Casing beads round openings.
    CasingBeads,
    /// Lath for plaster and stone.
    Lath,
    /// Trim round openings.
    Trim,
    /// The cladding.
    Cladding,
    /// Film off the units.
    FilmOff,
    /// Joints of the cladding are sealed.
    CladdingJoints,
}

impl Band {
    /// True for what is done at an opening from its cutting until its unit is flashed.
    pub fn is_of_a_unit(self) -> bool {
        (Self::Cut..Self::Inside).contains(&self)
    }

    /// Where a band of a unit is worked when windows go before the barrier: before or after the band of the wall that is named.
    pub fn with_windows_first(self) -> (Self, bool) {
        match self {
            band if band < Self::DryFit => (Self::PlateJoint, false),
            band if band < Self::Gaskets => (Self::PlateJoint, true),
            _ => (Self::Base, true),
        }
    }
}
