//! What a section as it is built consists of, and the cut that it is drawn for.

use crate::build_up::BuildUp;
use crate::findings::Moment;
use crate::length::Length;
use crate::plan::{Opening, Plan, SurfaceId};
use crate::recipe::Role;
use crate::surface::Interval;
use crate::view::ask::{SectionAsk, SectionKind};
use crate::view::cut::{GapView, Leg};
use serde::Serialize;

/// What a part of a section is of: it is drawn by that.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Material {
    /// Lumber that is cut through.
    Framing,
    /// Lumber behind the cut.
    Stud,
    /// Sheathing or a faced panel.
    Sheathing,
    /// Foundation.
    Concrete,
    /// Insulation between studs.
    Batt,
    /// Insulation boards.
    Boards,
    /// The board inside the room.
    Lining,
    /// Wood that shapes the sill.
    Wood,
    /// What keeps the cladding off: battens, mats.
    Furring,
    /// Cladding.
    Cladding,
    /// Frame, sash or leaf of a unit.
    Frame,
    /// Glass.
    Glass,
    /// Shims and setting blocks.
    Shim,
    /// Backer rod or foam.
    Rod,
    /// Sealant.
    Sealant,
    /// A pipe, box, beam, ledger that comes through the wall or is fixed to it.
    Thing,
    /// Soil or paving.
    Ground,
    /// Nails and screws.
    Fastener,
}

/// A part drawn to scale.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SectionShape {
    /// What it is of.
    pub of: Material,
    /// What people call it.
    pub name: String,
    /// The step that puts it there, where it is a piece of the plan.
    pub step: Option<String>,
    /// Its outline; two points are a line.
    pub outline: Vec<[f64; 2]>,
}

/// A sheet, tape, coat or flashing: a line, thicker than it is.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SectionRun {
    /// Id of the piece.
    pub piece: String,
    /// The step that puts it there.
    pub step: Option<String>,
    /// What people call it.
    pub name: String,
    /// What the piece is there for.
    pub role: Role,
    /// Letter of the piece.
    pub letter: String,
    /// Its middle line.
    pub line: Vec<[f64; 2]>,
    /// How thick it is drawn.
    pub thick: f64,
}

/// A mark at the edge of the drawing with its leader.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SectionMark {
    /// Letter of a piece, or number of a part of the wall.
    pub text: String,
    /// What it names.
    pub name: String,
    /// The step that puts it there, where it is a piece of the plan.
    pub step: Option<String>,
    /// What the leader points at, where it bends, where the mark stands.
    pub leader: [[f64; 2]; 3],
}

/// A size in the drawing.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SectionSize {
    /// From where to where.
    pub line: [[f64; 2]; 2],
    /// How much, as people read it.
    pub text: String,
    /// What is measured.
    pub what: String,
}

/// A section as it is built.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Built {
    /// Left, top, width, height of the drawing.
    pub frame: [f64; 4],
    /// Parts to scale, in the order in which they are drawn.
    pub shapes: Vec<SectionShape>,
    /// Sheets, from inside to outside.
    pub runs: Vec<SectionRun>,
    /// Gaps between sheets.
    pub gaps: Vec<GapView>,
    /// Marks.
    pub marks: Vec<SectionMark>,
    /// Sizes.
    pub sizes: Vec<SectionSize>,
    /// How many times as thick as they are sheets are drawn, as a sentence.
    pub thickened: String,
}

/// How far into the wall from the opening's edge is shown, and how far into the opening, in.
pub(super) const REACH: i64 = 10;
/// How far each wall of a corner is shown, in.
pub(super) const CORNER: i64 = 18;
pub(super) const INTO: f64 = 6.0;
/// How much of the foundation is shown below the foot of the barrier, in.
pub(super) const BELOW: f64 = 4.0;
/// From what is drawn to where leaders bend, and on to the marks; from there to the edge of the drawing.
pub(super) const TO_BEND: f64 = 1.0;
pub(super) const TO_MARK: f64 = 2.4;
pub(super) const MARGIN: f64 = 1.2;
/// Lumber on edge and flat, boards inside, and depth of a header, in.
pub(super) const LUMBER: f64 = 1.5;
pub(super) const ROOM_BOARD: f64 = 0.5;
pub(super) const HEADER: f64 = 9.25;

/// A corner that is cut: distances into the wall are counted from it, to the right above nought.
pub(super) struct CornerCut {
    pub(super) at: Length,
    /// Where the sheets of both walls meet, so far out from both.
    pub(super) mitre: [f64; 2],
    /// Layers of the wall to its right.
    pub(super) right: BuildUp,
    /// How high it is cut.
    pub(super) level: Length,
    /// From where to where the walls are seen.
    pub(super) seen: [f64; 2],
}

/// The cut with what it cuts.
pub(super) struct SectionCut<'a> {
    pub(super) plan: &'a Plan,
    pub(super) moment: &'a Moment,
    pub(super) ask: &'a SectionAsk,
    pub(super) opening: &'a Opening,
    pub(super) layers: BuildUp,
    /// The corner that is cut, with the layers of the wall to its right.
    pub(super) corner: Option<CornerCut>,
    /// From the face of the wall back to the unit's outer plane where that is set back.
    pub(super) set_back: f64,
    /// How deep the opening is.
    pub(super) depth: f64,
    /// Along a cut without an opening: from where to where, and the height that is nought.
    pub(super) along: Interval,
    pub(super) zero: Length,
}

impl SectionCut<'_> {
    /// A place on the drawing: so far from the opening's edge into the wall (at the foot down, at the top and through a thing up), so far out
    /// from the face of the sheathing.
    pub(super) fn at(&self, s: f64, o: f64) -> [f64; 2] {
        match self.ask.kind {
            SectionKind::Sill | SectionKind::Base => [-o, s],
            SectionKind::Head | SectionKind::Top | SectionKind::Through => [-o, -s],
            SectionKind::Jamb => [-s, o],
            SectionKind::Corner => {
                let turn = self.turn();
                if s < 0.0 {
                    [s, o]
                } else if s > 0.0 {
                    [turn * o, -turn * s]
                } else {
                    [turn * o, o]
                }
            }
        }
    }

    /// 1 where the right wall of the corner that is cut runs away from who looks, -1 where it runs towards them.
    pub(super) fn turn(&self) -> f64 {
        self.corner.as_ref().map_or(1.0, |c| c.mitre[0])
    }

    /// What both walls of a corner have between two depths, each its own, as boards are put there: the left wall's run through, the right wall's
    /// butt against them.
    pub(super) fn butted(&self, left: [f64; 2], right: [f64; 2]) -> [Vec<[f64; 2]>; 2] {
        let Some(corner) = &self.corner else { return [Vec::new(), Vec::new()] };
        let (turn, [lo, hi]) = (corner.mitre[0], corner.seen);
        let (end, start) = if turn > 0.0 { (right[1], -left[0]) } else { (-right[0], left[1]) };
        [self.left_block([lo, end], left), self.right_block([start, hi], right)]
    }

    /// A rectangle on the left wall of a corner, also beyond the corner.
    pub(super) fn left_block(&self, [s0, s1]: [f64; 2], [o0, o1]: [f64; 2]) -> Vec<[f64; 2]> {
        vec![[s0, o0], [s1, o0], [s1, o1], [s0, o1]]
    }

    /// A rectangle on the right wall of a corner, also beyond the corner.
    pub(super) fn right_block(&self, [s0, s1]: [f64; 2], [o0, o1]: [f64; 2]) -> Vec<[f64; 2]> {
        let turn = self.turn();
        [[s0, o0], [s1, o0], [s1, o1], [s0, o1]].map(|[s, o]| [turn * o, -turn * s]).to_vec()
    }

    /// How far into the wall a place along the cut is.
    pub(super) fn s_of(&self, at: Length) -> f64 {
        let r = self.opening.rect;
        let s = match self.ask.kind {
            SectionKind::Sill => r.v0 - at,
            SectionKind::Head => at - r.v1,
            SectionKind::Jamb => r.u0 - at,
            SectionKind::Base => self.zero - at,
            SectionKind::Top | SectionKind::Through => at - self.zero,
            SectionKind::Corner => at - self.corner.as_ref().map_or(Length::ZERO, |c| c.at),
        };
        s.to_inches_f64()
    }

    /// From where to where the drawing reaches.
    pub(super) fn range(&self) -> [f64; 2] {
        let far = REACH as f64;
        match self.ask.kind {
            SectionKind::Sill | SectionKind::Head | SectionKind::Jamb => [-INTO, far],
            SectionKind::Base => [0.0, self.s_of(self.along.lo) + BELOW],
            SectionKind::Top => [0.0, self.s_of(self.along.hi) + 1.0],
            SectionKind::Through => [self.s_of(self.along.lo), self.s_of(self.along.hi)],
            SectionKind::Corner => self.corner.as_ref().map_or([0.0, 0.0], |c| c.seen),
        }
    }

    /// Where there is wall, and no hole in it.
    pub(super) fn walls(&self) -> Vec<[f64; 2]> {
        let [low, far] = self.range();
        let wall = self.plan.surfaces[SurfaceId::WALL].facet.rect();
        let r = self.opening.rect;
        match self.ask.kind {
            SectionKind::Sill => vec![[0.0, self.s_of(wall.v0).min(far)]],
            SectionKind::Head => vec![[0.0, self.s_of(wall.v1).min(far)]],
            SectionKind::Jamb => vec![[0.0, self.s_of(wall.u0).min(far)]],
            SectionKind::Base => vec![[0.0, self.s_of(self.along.lo)]],
            SectionKind::Top => vec![[0.0, self.s_of(self.along.hi)]],
            SectionKind::Through => vec![[low, self.s_of(r.v0)], [self.s_of(r.v1), far]],
            SectionKind::Corner => vec![[low, 0.0], [0.0, far]],
        }
    }

    /// A rectangle from one distance into the wall to another, from one depth to another.
    pub(super) fn block(&self, [s0, s1]: [f64; 2], [o0, o1]: [f64; 2]) -> Vec<[f64; 2]> {
        vec![self.at(s0, o0), self.at(s1, o0), self.at(s1, o1), self.at(s0, o1)]
    }

    pub(super) fn figure(&self, id: crate::profile::LengthFigure) -> f64 {
        self.plan.basis.figures.length(id).to_inches_f64()
    }

    pub(super) fn answer(&self, question: &str) -> &str {
        self.opening.answers.get(question).map_or("", String::as_str)
    }

    /// The step that places a piece.
    pub(super) fn step_of(&self, piece: &str) -> Option<String> {
        let places = |a: &crate::trade::Action| a.act.placed().is_some_and(|p| self.plan.pieces[p].id == piece);
        self.plan.steps.iter().find(|s| s.actions.iter().any(places)).map(|s| s.id.clone())
    }

    pub(super) fn has(&self, is: impl Fn(&crate::plan::Piece) -> bool) -> bool {
        self.moment.stage.layers.iter().any(|l| is(&self.plan.pieces[l.piece]))
    }
}

/// The legs that lie on the face of the wall.
pub(super) fn on_face(legs: &[Leg]) -> impl Iterator<Item = &Leg> {
    legs.iter().filter(|l| l.on == crate::plan::SurfaceId::WALL)
}
