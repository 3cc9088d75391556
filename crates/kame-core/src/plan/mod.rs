//! The plan of a job: surfaces, pieces and ordered steps. Everything else is computed from it.

mod added;
mod barrier;
mod build;
mod cards;
mod clad;
pub mod course;
mod footprint;
mod found;
mod furring;
mod gap_ends;
mod hung;
pub mod instance;
mod kept;
mod neighbours;
mod notes;
mod only;
mod panels;
mod products;
mod refused;
mod shared;
mod stretch;
mod top_beads;
mod working_order;

pub use added::{Detail, OpeningSize};
pub use build::build;
pub use footprint::{WallFromAbove, footprint, gap_at_close};
pub use found::{Damage, Effect, FoundWords, found_kind, found_kinds};
pub use furring::Laying;
pub use gap_ends::{End, ends};
pub use instance::instantiate;
pub use notes::made_alike;
pub use only::Only;
pub use products::MovedFigure;
pub use stretch::Stretch;

pub use crate::trade::SurfaceId;

use crate::job::{BenchSpec, CornerSpec, FoundKind, LevelSpec, SequenceSpec};
use crate::kit::{Product, RecordedPair};
use crate::layup::{Bond, Depth};
use crate::length::Length;
use crate::profile::{Figures, fig};
use crate::recipe::schools::{Answers, Feature};
use crate::recipe::{FitOf, ReachSpec, Role};
use crate::surface::{Edge, Facet, Interval, Outline, Rect, Segment, Side};
use crate::trade::{Act, Action, CutId, FlapId, PieceId, SealId, Step, StepId};
use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet, HashSet};
use std::sync::Arc;
use typed_index_collections::TiVec;

/// A surface: a facet that may come to be, or come to slope, with a piece.
#[derive(Clone, Debug, PartialEq)]
pub struct Surface {
    /// What its recipe calls it; `wall` for the wall's own face.
    pub name: String,
    /// The facet.
    pub facet: Facet,
    /// Its opening, `None` for the wall.
    pub opening: Option<usize>,
    /// There only once this piece is placed.
    pub with: Option<PieceId>,
    /// Level until this piece is placed.
    pub sloped_by: Option<PieceId>,
}

/// One end of a stitch of the plan.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct PlanStitchEnd {
    /// The surface it is on.
    pub on: SurfaceId,
    /// First point.
    pub from: (Length, Length),
    /// Second point.
    pub to: (Length, Length),
    /// Where the material lies.
    pub side: Side,
}

impl PlanStitchEnd {
    fn segment(&self) -> Segment {
        Segment { facet: crate::surface::FacetId(self.on.0), from: self.from, to: self.to }
    }
}

/// Flat size of a piece and what it is cut from.
#[derive(Clone, Debug, PartialEq)]
pub struct CutSize {
    /// Along the roll.
    pub length: Length,
    /// Across the roll.
    pub width: Length,
    /// Width of the stock it comes from: at least `width`.
    pub stock_width: Length,
    /// Length of a whole roll, `None` where it is not cut from a roll.
    pub roll: Option<Length>,
    /// Widest stocked width, `None` where it is not a matter of stock.
    pub widest: Option<Length>,
    /// From which roll of its stretch it was taken as it was laid, from 0; `None` where that is found when all is cut.
    pub taken: Option<usize>,
}

/// One physical piece.
#[derive(Clone, Debug, PartialEq)]
pub struct Piece {
    /// Unique in the plan.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// What the piece is there for.
    pub role: Role,
    /// Letter on drawings.
    pub letter: String,
    /// Generic material.
    pub product: String,
    /// How it holds once pressed or cured.
    pub bond: Bond,
    /// A solid thing.
    pub solid: bool,
    /// Holds as soon as it is on, and not by glue: what is drawn tight.
    pub grips: bool,
    /// Where it lies.
    pub regions: Vec<(SurfaceId, Rect)>,
    /// Its cut size.
    pub cut: Option<CutSize>,
    /// At which opening.
    pub opening: Option<usize>,
    /// On which stretch of the walls.
    pub stretch: usize,
    /// By which rule its parts are laid out; each is a piece of its own on the wall.
    pub laying: Option<Laying>,
}

impl Piece {
    /// True where it can be taken off and used again: a unit, or what hangs outside the barrier.
    pub fn comes_off_whole(&self) -> bool {
        self.solid || self.role == Role::Cover || self.role.is_outside()
    }
}

/// A bead or smear.
#[derive(Clone, Debug, PartialEq)]
pub struct Seal {
    /// Unique in the plan.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Behind which piece.
    pub behind: PieceId,
    /// How it is reached.
    pub reach: ReachSpec,
    /// The fault it is where it is missing.
    pub fault: String,
    /// What it is made of.
    pub product: String,
    /// True where a rod goes in first.
    pub rod: bool,
    /// The rectangle on that surface, in its own lengths from left and foot.
    pub rects: Vec<(SurfaceId, Rect)>,
    /// By which rule it is laid out.
    pub laying: Option<Laying>,
}

/// A part of the barrier turned round an edge of the opening.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fold {
    /// Where it was on the wall.
    pub from: Rect,
    /// Where it comes to lie.
    pub to: SurfaceId,
    /// The flap it is lifted and dropped with.
    pub flap: Option<FlapId>,
    /// The edge it is turned round, on the wall.
    pub wall: PlanStitchEnd,
    /// The same edge on the other surface.
    pub far: PlanStitchEnd,
}

impl Fold {
    /// Where a part of `from` lies after the turn: distances along and away from the edge stay as they are.
    pub fn landing(&self, part: Rect) -> Rect {
        let (near, far) = (self.wall.segment(), self.far.segment());
        let (along, away) =
            if near.is_upright() { (part.along_v(), part.along_u()) } else { (part.along_u(), part.along_v()) };
        let origin = if near.is_upright() { near.from.1 } else { near.from.0 };
        let t = [along.lo - origin, along.hi - origin].map(|t| if near.is_backward() { -t } else { t });
        let n = [away.lo - near.line(), away.hi - near.line()].map(|d| if d < Length::ZERO { -d } else { d });
        let far_origin = if far.is_upright() { far.from.1 } else { far.from.0 };
        let along = t.map(|t| if far.is_backward() { far_origin - t } else { far_origin + t });
        let outward = matches!(self.far.side.edge(), Edge::Left | Edge::Bottom);
        let away = n.map(|n| if outward { far.line() + n } else { far.line() - n });
        let (u, v) = if far.is_upright() { (away, along) } else { (along, away) };
        Rect::new(u[0].min(u[1]), v[0].min(v[1]), u[0].max(u[1]), v[0].max(v[1]))
    }
}

/// A pattern in which the barrier is cut.
#[derive(Clone, Debug, PartialEq)]
pub struct Cut {
    /// What is cut away.
    pub away: Vec<Rect>,
    /// Slits on the wall.
    pub slits: Vec<Segment>,
    /// Flaps (index in the plan) and where they are.
    pub flaps: Vec<(FlapId, Rect)>,
    /// Parts turned in.
    pub folds: Vec<Fold>,
    /// On which stretch of the walls.
    pub stretch: usize,
}

/// How what comes later is fitted round an opening.
#[derive(Clone, Debug, PartialEq)]
pub struct Fitting {
    /// What is fitted.
    pub of: FitOf,
    /// The unit that has to stand already for courses to be fitted.
    pub unit: PieceId,
    /// What they leave free on the wall.
    pub away: Vec<Rect>,
    /// Slits in them.
    pub slits: Vec<Segment>,
    /// Parts that go under the loose edge of a piece.
    pub tuck: Vec<(PieceId, Rect)>,
}

/// What lies over or under in a required over: a piece, a flap, or every course of a stretch.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Part {
    /// A piece.
    Piece(PieceId),
    /// A flap.
    Flap(FlapId),
    /// Every course of the barrier on a stretch of the walls.
    Barrier(usize),
}

/// A required over.
#[derive(Clone, Debug, PartialEq)]
pub struct Over {
    /// Nearer the weather.
    pub upper: Part,
    /// Behind it.
    pub lower: Part,
    /// Fault id where it does not hold.
    pub fault: String,
    /// The reason, as the middle of a sentence.
    pub because: String,
    /// At which opening.
    pub opening: Option<usize>,
}

/// A place that should stay dry.
#[derive(Clone, Debug, PartialEq)]
pub struct PlanTarget {
    /// Unique in the plan.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Which gaps.
    pub depth: Depth,
    /// The surface it is on.
    pub on: SurfaceId,
    /// The rectangle on that surface, in its own lengths from left and foot.
    pub rect: Rect,
    /// Asked only while this surface is not there.
    pub without: Option<SurfaceId>,
}

/// Water from elsewhere.
#[derive(Clone, Debug, PartialEq)]
pub struct Leak {
    /// Unique in the plan.
    pub id: String,
    /// The same, as it is called with the glue lost.
    pub id_no_glue: String,
    /// What water it is, alike at every opening: its name in the recipe.
    pub kind: String,
    /// What people call it.
    pub name: String,
    /// Behind one of these.
    pub under: Vec<PieceId>,
    /// The surface it is on.
    pub on: SurfaceId,
    /// The rectangle on that surface, in its own lengths from left and foot.
    pub rect: Rect,
    /// Only targets off the wall's own face count.
    pub openings_only: bool,
    /// The fault it is where it gets in behind a head flashing stuck on a flap that was never lifted; empty where the wrong lap says it.
    pub fault: String,
}

/// An opening as it lies on the wall.
#[derive(Clone, Debug, PartialEq)]
pub struct Opening {
    /// Id in the job.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Opening, penetration or line.
    pub feature: Feature,
    /// Rough opening on the wall surface, or the outline of what comes through.
    pub rect: Rect,
    /// The smallest rectangle around its pieces on the wall.
    pub hull: Rect,
    /// On which stretch of the walls.
    pub stretch: usize,
    /// The answers to the school questions, all of them.
    pub answers: Answers,
    /// Where it interrupts the gap behind the cladding.
    pub stops: Vec<Rect>,
    /// Its sill, where it has returns.
    pub sill: Option<SurfaceId>,
    /// Pieces of a neighbour that serve it too (index in the plan).
    pub shared: Vec<PieceId>,
}

/// A part of the barrier that can be lifted.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Flap {
    /// Unique in the plan.
    pub id: String,
    /// What people call it.
    pub name: String,
}

/// Something that can be built but should be known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Note {
    /// Fault id, or one of the notes': `S-STOCK`, `S-SHARED`.
    pub code: String,
    /// The piece it is about, where it is about one.
    pub piece: Option<PieceId>,
    /// The opening or other feature it is about, where it is about one.
    pub opening: Option<usize>,
    /// The stretch of the walls it is about, where it is about one and no feature.
    pub along: Option<Interval>,
    /// The figure of the job it is about, where it is about one.
    pub figure: Option<String>,
    /// True where it is a fault, and not merely worth knowing.
    pub fault: bool,
    /// What is so, as a sentence.
    pub reason: String,
    /// What somebody should do, as a sentence.
    pub remedy: String,
}

/// A way in which the work was done other than planned.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum AsBuilt {
    /// The gap behind a bonded piece stands open at an edge: a fish-mouth, wrinkle or bridge.
    Mouth {
        /// Which piece.
        piece: PieceId,
        /// The surface it is on.
        on: SurfaceId,
        /// The rectangle on that surface, in its own lengths from left and foot.
        rect: Rect,
    },
    /// A bead where there should be none.
    Bead {
        /// Behind which piece.
        piece: PieceId,
        /// The surface it is on.
        on: SurfaceId,
        /// The rectangle on that surface, in its own lengths from left and foot.
        rect: Rect,
    },
    /// A part of a course that lies higher than planned.
    OffLevel {
        /// Which piece.
        piece: PieceId,
        /// The surface it is on.
        on: SurfaceId,
        /// Where it lies.
        rect: Rect,
    },
    /// A piece that stops short of where it should reach.
    Short {
        /// Which piece.
        piece: PieceId,
        /// The surface it is on.
        on: SurfaceId,
        /// What is missing of it.
        rect: Rect,
        /// At which edge.
        edge: Edge,
        /// By how much.
        by: Length,
    },
}

impl AsBuilt {
    /// Which piece it is about.
    pub fn piece(&self) -> PieceId {
        let (Self::Mouth { piece, .. }
        | Self::Bead { piece, .. }
        | Self::OffLevel { piece, .. }
        | Self::Short { piece, .. }) = *self;
        piece
    }

    /// Where it is.
    pub fn place(&self) -> (SurfaceId, Rect) {
        let (Self::Mouth { on, rect, .. }
        | Self::Bead { on, rect, .. }
        | Self::OffLevel { on, rect, .. }
        | Self::Short { on, rect, .. }) = *self;
        (on, rect)
    }
}

/// A run of walls that answer every question alike: what is at its foot and top, and outside its barrier.
#[derive(Clone, Debug, PartialEq)]
pub struct Finish {
    /// All of it, up to its own highest point.
    pub rect: Rect,
    /// The answers to the wall's questions, all of them.
    pub answers: Answers,
}

/// The walls themselves: how they run, what is hung on them, and what is at their foot and top.
#[derive(Clone, Debug)]
pub struct Walls {
    /// Runs of walls on which the barrier is hung alike, from left to right.
    pub stretches: Vec<Stretch>,
    /// Runs of walls that answer every question alike, from left to right.
    pub finishes: Vec<Finish>,
    /// Where the wall turns a corner: its face goes on unbroken, as a sheet does that is turned round it.
    pub corners: Vec<CornerSpec>,
    /// True where the walls go all the way round: what runs on past their right end goes on at the left.
    pub round: bool,
    /// The walls from above.
    pub footprint: Vec<WallFromAbove>,
    /// Grade, paving and floors.
    pub levels: Vec<LevelSpec>,
    /// The top of the wall.
    pub outline: Outline,
    /// From the lower edge of the barrier up to the bottom plate: wall heights are measured from the plate.
    pub plate: Length,
}

/// What a plan was made by: figures, materials, and what is recorded of both.
#[derive(Clone, Debug)]
pub struct Basis {
    /// Figures in force.
    pub figures: Figures,
    /// Figures that products moved.
    pub moved: Vec<MovedFigure>,
    /// Every material as it is known and sold here.
    pub products: Cow<'static, [Product]>,
    /// What was recorded about products that touch.
    pub recorded: Vec<RecordedPair>,
    /// What happened at the bench.
    pub bench: BenchSpec,
}

/// What the water is asked.
#[derive(Clone, Debug, Default)]
pub struct WaterAsked {
    /// Places that should stay dry.
    pub targets: Vec<PlanTarget>,
    /// Where water may leave the wall.
    pub outlets: Vec<Rect>,
    /// Other water than rain.
    pub leaks: Vec<Leak>,
}

/// Where the work departs from the plan.
#[derive(Clone, Debug, Default)]
pub struct Departures {
    /// What was done other than planned.
    pub as_built: Vec<AsBuilt>,
    /// Where pieces lie as they were planned, of those that were laid otherwise.
    pub as_planned: BTreeMap<PieceId, Vec<(SurfaceId, Rect)>>,
    /// What was found on the wall as it stood.
    pub damages: Vec<Damage>,
    /// Beads along top edges that the job asks for besides those of its recipes.
    pub besides: Vec<SealId>,
}

/// Everything that is built, and in which order.
#[derive(Clone, Debug)]
pub struct Plan {
    /// The walls themselves.
    pub walls: Walls,
    /// Surfaces, the wall first.
    pub surfaces: TiVec<SurfaceId, Surface>,
    /// How they join.
    pub stitches: Vec<(PlanStitchEnd, PlanStitchEnd)>,
    /// Openings, penetrations and lines along the walls, in the job’s order.
    pub openings: Vec<Opening>,
    /// Every piece of every recipe, and of the barrier.
    pub pieces: TiVec<PieceId, Piece>,
    /// Seals.
    pub seals: TiVec<SealId, Seal>,
    /// Cutting patterns.
    pub cuts: TiVec<CutId, Cut>,
    /// How later layers are fitted.
    pub fits: Vec<Fitting>,
    /// Flaps.
    pub flaps: TiVec<FlapId, Flap>,
    /// Steps in the recipes' own order.
    pub steps: TiVec<StepId, Arc<Step>>,
    /// Order in force.
    pub order: Vec<StepId>,
    /// Ids of steps and actions left out.
    pub removed: BTreeSet<String>,
    /// Required overs.
    pub overs: Vec<Over>,
    /// What the water is asked.
    pub water: WaterAsked,
    /// What should be known.
    pub notes: Vec<Note>,
    /// Where the work departs from all this.
    pub departures: Departures,
    /// What it was made by.
    pub basis: Basis,
}

/// Whatever head a job asks for: water that comes by gravity alone, or nearly so, gets in.
const GRAVITY_ALONE: Length = Length::inch_fraction(1, 16);

impl Plan {
    /// True for a step of something that was found, or of its repair.
    pub fn is_of_a_repair(&self, step: &Step) -> bool {
        self.is_in_a_repair(&step.id)
    }

    /// True for the id of a step or action of something that was found, or of its repair.
    pub fn is_in_a_repair(&self, id: &str) -> bool {
        self.departures.damages.iter().any(|d| id.strip_prefix(&d.id).is_some_and(|rest| rest.starts_with('/')))
    }

    /// Flaps of the barrier under which some pieces are laid, or which are part of them: to lay those again they are lifted and dropped again.
    pub fn flaps_at(&self, pieces: &[PieceId]) -> HashSet<FlapId> {
        let acts = self.steps.iter().filter(|s| !self.is_of_a_repair(s)).flat_map(|s| &s.actions);
        let (mut up, mut out): (HashSet<FlapId>, HashSet<FlapId>) = (HashSet::new(), HashSet::new());
        for act in acts.map(|a| &a.act) {
            match act {
                Act::Lift { flap } => drop(up.insert(*flap)),
                Act::Drop { flap } => drop(up.remove(flap)),
                // What is laid while flaps are held up is laid for each that it reaches.
                act if !up.is_empty() && act.placed().is_some_and(|p| pieces.contains(&p)) => {
                    out.extend(up.iter().filter(|f| act.placed().is_some_and(|p| self.reaches(p, **f))));
                }
                _ => {}
            }
        }
        let of_barrier = pieces.iter().filter(|p| self.pieces[**p].role.is_barrier());
        for &p in of_barrier {
            out.extend(self.flaps.keys().filter(|f| self.reaches(p, *f)));
        }
        out
    }

    /// True where a piece lies where a flap is cut.
    fn reaches(&self, piece: PieceId, flap: FlapId) -> bool {
        let regions = &self.pieces[piece].regions;
        let at = self.cuts.iter().flat_map(|c| &c.flaps).filter(|(f, _)| *f == flap);
        at.into_iter().any(|(_, r)| regions.iter().any(|(on, at)| *on == SurfaceId::WALL && at.overlaps(*r)))
    }

    /// True where a repair does what was left out, or could not be done, after all.
    pub fn is_done_in_a_repair(&self, act: &Act) -> bool {
        let of_repairs = self.steps.iter().filter(|s| self.is_of_a_repair(s) && !self.is_removed(&s.id));
        !self.departures.damages.is_empty()
            && of_repairs.flat_map(|s| &s.actions).any(|a| a.act == *act && !self.is_removed(&a.id))
    }

    /// True for a piece that was done wrong and mended as it stands.
    pub fn is_mended(&self, piece: PieceId) -> bool {
        let id = &self.pieces[piece].id;
        self.departures.damages.iter().any(|d| d.mended && d.what == FoundKind::Wrong && d.pieces.contains(id))
    }

    /// The least head at which a place may be reached, with the glue holding or lost.
    pub fn floor(&self, lost: bool) -> Length {
        self.basis.figures.length(if lost { fig::FLOOR_LAPS } else { fig::FLOOR_RAIN }).max(GRAVITY_ALONE)
    }

    /// Where stretches meet: the strips over those corners, each with the stretch to its right. Where the last meets the first it reaches past
    /// the end of the walls.
    pub fn meetings(&self) -> impl Iterator<Item = (usize, Rect)> {
        let half = Length::from_units(self.basis.figures.length(fig::MEETING_STRIP).units() / 2);
        let wall = self.surfaces[SurfaceId::WALL].facet.rect();
        let last = (self.walls.round && self.walls.stretches.len() > 1).then_some((0, wall.u1));
        let at = self.walls.stretches.iter().enumerate().skip(1).map(|(s, on)| (s, on.rect.u0)).chain(last);
        at.map(move |(s, u)| (s, Rect { u0: u - half, u1: u + half, ..wall }))
    }

    /// The parts of a rectangle as they lie on the walls: what is past their right end goes on at the left where they go all the way round,
    /// and is cut off where they do not.
    pub fn on_walls(&self, r: Rect) -> impl Iterator<Item = Rect> {
        let wall = self.surfaces[SurfaceId::WALL].facet.rect();
        let here = move |r: Rect| Rect { u0: r.u0.max(wall.u0), u1: r.u1.min(wall.u1), ..r };
        let round = self.walls.round.then(|| [r.moved(wall.u1), r.moved(-wall.u1)]);
        [r].into_iter().chain(round.into_iter().flatten()).map(here).filter(|r| r.has_area())
    }

    /// The openings and other features on a run of walls.
    pub fn openings_on<'a>(&'a self, on: &'a Finish) -> impl Iterator<Item = &'a Opening> {
        self.openings.iter().filter(|o| o.rect.overlaps(on.rect))
    }

    /// Where the walls of a run begin and end.
    pub fn walls_of(&self, on: &Finish) -> Vec<Interval> {
        let inside = self.walls.corners.iter().map(|c| c.at).filter(|at| on.rect.u0 < *at && *at < on.rect.u1);
        let ends: Vec<Length> = [on.rect.u0].into_iter().chain(inside).chain([on.rect.u1]).collect();
        ends.windows(2).map(|w| Interval { lo: w[0], hi: w[1] }).collect()
    }

    /// What interrupts the gap on a run of walls.
    pub fn gap_stops<'a>(&'a self, on: &'a Finish) -> impl Iterator<Item = Rect> + 'a {
        self.openings_on(on).flat_map(|o| o.stops.iter().copied())
    }

    /// The opening that a surface belongs to.
    pub fn opening_of(&self, surface: SurfaceId) -> Option<&Opening> {
        self.surfaces[surface].opening.map(|o| &self.openings[o])
    }

    /// Puts the steps in a job's own order and leaves out what it leaves out; what is built does not change with that.
    pub fn put_in_order(&mut self, sequence: &SequenceSpec) {
        self.order = working_order::order(&self.steps, &sequence.order);
        self.removed = sequence.removed.iter().cloned().collect();
    }

    /// True where a step or one of its actions is left out.
    pub fn is_removed(&self, id: &str) -> bool {
        self.removed.contains(id)
    }

    /// A material by its name, as it is known and sold here.
    pub fn product(&self, name: &str) -> Option<&Product> {
        self.basis.products.iter().find(|p| p.name == name)
    }

    /// How many coats a product asks for.
    pub fn coats(&self, product: &str) -> u32 {
        self.product(product).and_then(|p| p.coats).unwrap_or(1).max(1)
    }

    /// The actions that are done, in the order in force, without those left out.
    pub fn actions(&self) -> impl Iterator<Item = (StepId, &Action)> {
        self.order
            .iter()
            .filter(|s| !self.is_removed(&self.steps[**s].id))
            .flat_map(|&s| self.steps[s].actions.iter().map(move |a| (s, a)))
            .filter(|(_, a)| !self.is_removed(&a.id))
    }

    /// How a part is called.
    pub fn part_name(&self, part: Part) -> &str {
        match part {
            Part::Piece(p) => &self.pieces[p].name,
            Part::Flap(f) => &self.flaps[f].name,
            Part::Barrier(_) => "barrier",
        }
    }

    /// True for a piece that lies on the wall and along what comes through it.
    pub fn is_sleeve(&self, piece: PieceId) -> bool {
        let piece = &self.pieces[piece];
        let thing = piece.opening.filter(|o| self.openings[*o].feature != Feature::Opening);
        let on = |wall: bool| piece.regions.iter().any(|(on, _)| (*on == SurfaceId::WALL) == wall);
        thing.is_some() && on(true) && on(false)
    }

    /// The step that places a piece, or drops a flap.
    pub fn step_of(&self, part: Part) -> Option<&Step> {
        let places = |a: &Action| match (part, &a.act) {
            (Part::Piece(p), a) => a.placed() == Some(p),
            (Part::Flap(f), Act::Drop { flap }) => f == *flap,
            _ => false,
        };
        self.steps.iter().map(Arc::as_ref).find(|s| s.actions.iter().any(places))
    }
}
