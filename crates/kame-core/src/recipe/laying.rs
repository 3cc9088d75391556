//! By which rule pieces in the gap are laid out: uprights, level pieces, strips, what stands at the ends of the gap.

use serde::Deserialize;

/// By which rule the parts of a piece are laid out. Each part is a piece of its own on the wall; what is the same is said once.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum LayoutRule {
    /// On every stud and beside each opening, held off sills, heads, corners and what runs along the wall, so that air can pass.
    Uprights,
    /// The same of a kind that lets air pass across it.
    VentedUprights,
    /// On every stud and beside each opening, tight against all of them.
    TightUprights,
    /// Level pieces right under each sill and over each head.
    Levels,
    /// From end to end in strips as high as the roll is wide, free of openings.
    Strips,
    /// Along every lower end of the gap: foot, heads, above what runs along the wall.
    LowerEnds,
    /// Along the foot and above what runs along the wall, not over heads.
    FootEnds,
    /// Over each head.
    HeadEnds,
    /// Along every upper end: top, below what runs along the wall.
    UpperEnds,
    /// Down from the top of the walls by the leg of a parapet cap, gables and steps included.
    AlongTheTop,
    /// Down from the top of the walls by what a tape to the soffit takes of the barrier.
    TopStrip,
    /// Beads at both jambs of each opening.
    BeadsJambs,
    /// Beads at both jambs and under the sill of each opening.
    BeadsJambsAndSill,
    /// Beads on all four sides of each opening.
    BeadsAllRound,
    /// Trim on all four sides of each opening, off the frame by the joint and above the head by the gap of its cap.
    Trim,
    /// Boards at both ends of each wall, as high as it is, off trim and what comes through by their joints.
    CornerBoards,
    /// Sealed joints at both jambs of each opening: at its frame, and outside its trim and beside corner boards where there are any.
    JointsAtJambs,
    /// The same, and at the frame's sill.
    JointsAtJambsAndSill,
    /// The whole wall but for openings and what comes through, with their joints, and for trim and corner boards where there are any.
    Cladding,
    /// Over each opening.
    OverUnits,
}

impl LayoutRule {
    /// True where air does not pass what is laid out so, unless it is a screen.
    pub fn shuts_off(self) -> bool {
        !matches!(self, Self::VentedUprights | Self::Strips)
    }

    /// True for what makes the gap: it keeps the cladding off the barrier.
    pub fn keeps_off(self) -> bool {
        matches!(self, Self::Uprights | Self::VentedUprights | Self::TightUprights | Self::Strips)
    }
}
