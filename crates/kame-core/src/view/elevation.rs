//! The elevation: what lies on the wall at a moment, as shapes with edges, marks of water and labels.

use super::ask::Weather;
use crate::findings::{HeadReading, Moment, WallPart, WetPlace};
use crate::gap::air_paths;
use crate::job::{CornerKind, LevelKind};
use crate::layup::Depth;
use crate::length::{Head, Length, UNITS_PER_INCH};
use crate::plan::{Plan, SurfaceId};
use crate::profile::fig;
use crate::recipe::schools::Feature;
use crate::recipe::{LayoutRule, Role};
use crate::sequence::{Laid, RAIN, RAIN_NO_GLUE, Stage};
use crate::surface::{Along, Edge, Interval, Rect};
use crate::trade::{FlapId, PieceId};
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
use serde::Serialize;
use smallvec::{SmallVec, smallvec};

/// How far into the drawing a return of the opening is shown, for each inch of its depth: it is drawn as seen from outside, foreshortened.
const FORESHORTEN: f64 = 0.6;

/// What is seen of a piece less wide than this carries no letter.
const LEAST_LETTERED: Length = Length::inch_fraction(3, 4);

/// One visible part of a piece.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Shape {
    /// Id of the piece.
    pub piece: String,
    /// What people call it.
    pub name: String,
    /// What it does: chooses hatch and edge.
    pub role: Role,
    /// Generic material.
    pub product: String,
    /// Letter by which the drawing names it.
    pub letter: String,
    /// Where the letter stands: in the middle of the largest part that can be seen; nowhere where none can.
    pub label: Option<[f64; 2]>,
    /// True where a lifted part is held up.
    pub held: bool,
    /// Corners of its parts.
    pub parts: Vec<Vec<[f64; 2]>>,
    /// Its own edges, without the lines between its parts: x1, y1, x2, y2.
    pub edges: Vec<[f64; 4]>,
}

/// An opening.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OpeningView {
    /// Id in the job.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Opening, penetration or line.
    pub feature: Feature,
    /// The wall it is on, from 0 at the left.
    pub wall: usize,
    /// Left, top, width, height on the drawing.
    pub rect: [f64; 4],
    /// From the wall's left end, as people read it.
    pub left: String,
    /// From the plate, as people read it.
    pub sill: String,
    /// Width as people read it.
    pub width: String,
    /// Height as people read it.
    pub height: String,
    /// Depth as people read it.
    pub depth: String,
    /// Covered by the barrier, open, or with its unit in.
    pub state: OpeningState,
    /// Frame and glass of the unit, where it is in: left, top, width, height.
    pub glass: Option<[f64; 4]>,
    /// Left, top, width, height around all its pieces on the wall.
    pub hull: [f64; 4],
}

/// What an opening looks like.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum OpeningState {
    /// Spanned by the barrier, not yet cut.
    Covered,
    /// Open.
    Open,
    /// The unit is in.
    Set,
}

/// A wet place.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Mark {
    /// Corners.
    pub part: Vec<[f64; 2]>,
    /// The least head there.
    pub head: HeadReading,
    /// 0 gravity alone, 1 below the least head asked for.
    pub level: u8,
}

/// A corner of the unfolded wall.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CornerView {
    /// From the left.
    pub x: f64,
    /// Which way it turns.
    pub kind: CornerKind,
    /// The wall to its right.
    pub name: String,
}

/// The elevation.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Elevation {
    /// Width of the wall.
    pub width: f64,
    /// Height of what is drawn.
    pub height: f64,
    /// The bottom plate, from the top.
    pub plate: f64,
    /// Pieces in lap order, the outermost last.
    pub shapes: Vec<Shape>,
    /// The top of the walls from left to right, x and y; empty where it is level.
    pub top: Vec<[f64; 2]>,
    /// Grade, paving and floors.
    pub levels: Vec<LevelView>,
    /// Upper edges of courses that another laps over, from the top down; the lowest can be dragged. Of the first stretch of walls that has any.
    pub courses: Vec<f64>,
    /// From where to where that stretch runs.
    pub courses_along: [f64; 2],
    /// The walls from above, for a key.
    pub key: Vec<KeyWall>,
    /// Corners, from left to right.
    pub corners: Vec<CornerView>,
    /// Openings, penetrations and lines along the walls, in the job’s order.
    pub openings: Vec<OpeningView>,
    /// Wet places behind the pieces.
    pub marks: Vec<Mark>,
    /// The gap behind the cladding, where something keeps it off by now.
    pub air: Vec<AirView>,
    /// What this drawing is called by who keeps it; empty where nobody does.
    pub called: String,
    /// Pieces and openings that are left out because whoever asks has them.
    pub kept: Option<Kept>,
}

/// Pieces and openings of a drawing, and what is found at its moment, that are as they were in another one and are left out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Kept {
    /// What the other drawing is called.
    pub have: String,
    /// Runs of pieces that are as they were: the first one's place here, its place there, and how many follow each other. What stands between
    /// runs is in the drawing, in the same order.
    pub shapes: Vec<[usize; 3]>,
    /// Pieces that changed in some of their parts.
    pub parts: Vec<KeptParts>,
    /// The same of openings.
    pub openings: Vec<[usize; 3]>,
    /// The same of findings.
    pub findings: Vec<[usize; 3]>,
}

/// Parts and edges of a piece of a drawing that are as they were in another one and are left out, as runs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct KeptParts {
    /// Its place among all pieces here.
    pub shape: usize,
    /// Its place there.
    pub from: usize,
    /// Runs of its parts.
    pub parts: Vec<[usize; 3]>,
    /// Runs of its edges.
    pub edges: Vec<[usize; 3]>,
}

/// A connected part of the gap behind the cladding.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AirView {
    /// Where: left, top, width, height.
    pub parts: Vec<[f64; 4]>,
    /// Whether air comes in at a lower end of it and goes out at an upper one.
    pub moves: bool,
}

/// A wall from above, on a key: x to the right, y down.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct KeyWall {
    /// What people call it.
    pub name: String,
    /// Where it begins and ends on the elevation.
    pub along: [f64; 2],
    /// Its line: x1, y1, x2, y2.
    pub line: [f64; 4],
}

/// A level line on the drawing.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LevelView {
    /// How far down, in.
    pub y: f64,
    /// Grade, paving or a floor.
    pub kind: LevelKind,
    /// What people call it.
    pub name: String,
}

/// A point of a surface on the drawing. Returns are drawn inside the opening, as seen from outside.
pub fn map(plan: &Plan, surface: SurfaceId, u: f64, v: f64) -> [f64; 2] {
    let height = plan.surfaces[SurfaceId::WALL].facet.height.to_inches_f64();
    let Some(opening) = plan.opening_of(surface) else { return [u, height - v] };
    let [left, bottom, right, top] = opening.rect.to_inches();
    let facet = &plan.surfaces[surface].facet;
    let (w, h) = (facet.width.to_inches_f64(), facet.height.to_inches_f64());
    let depth = opening.sill.map_or(h, |s| plan.surfaces[s].facet.height.to_inches_f64());
    // Along the edge of the opening, and how far inside: the farther inside, the nearer to its middle.
    let (along, inside, side) = match plan.surfaces[surface].name.as_str() {
        "sill" => (u / w, v, FacingSide::Sill),
        "dam" => (u / w, depth + v, FacingSide::Sill),
        "head" => (u / w, h - v, FacingSide::Head),
        "jamb-left" => (v / h, u, FacingSide::Left),
        // What stands out of the wall is seen end on.
        "along-top" => (u / w, 0.0, FacingSide::Head),
        "along-bottom" => (u / w, 0.0, FacingSide::Sill),
        "along-left" => (v / h, 0.0, FacingSide::Left),
        "along-right" => (v / h, 0.0, FacingSide::Right),
        _ => (v / h, w - u, FacingSide::Right),
    };
    let d = inside * FORESHORTEN;
    let lerp = |a: f64, b: f64| a + (b - a) * along;
    let (x, y) = match side {
        FacingSide::Sill => (lerp(left + d, right - d), bottom + d),
        FacingSide::Head => (lerp(left + d, right - d), top - d),
        FacingSide::Left => (left + d, lerp(bottom + d, top - d)),
        FacingSide::Right => (right - d, lerp(bottom + d, top - d)),
    };
    [x, height - y]
}

enum FacingSide {
    Sill,
    Head,
    Left,
    Right,
}

pub(super) fn corners(plan: &Plan, on: SurfaceId, r: Rect) -> Vec<[f64; 2]> {
    let [u0, v0, u1, v1] = r.to_inches();
    [(u0, v0), (u1, v0), (u1, v1), (u0, v1)].map(|(u, v)| map(plan, on, u, v)).into()
}

/// Left, top, width and height on the drawing of a rectangle on the wall.
pub(super) fn box_of(plan: &Plan, r: Rect) -> [f64; 4] {
    let height = plan.surfaces[SurfaceId::WALL].facet.height.to_inches_f64();
    let [u0, _, u1, v1] = r.to_inches();
    [u0, height - v1, u1 - u0, r.height().to_inches_f64()]
}

/// The openings as they stand at a stage.
pub(super) fn openings(plan: &Plan, stage: &Stage) -> Vec<OpeningView> {
    let box_of = |r: Rect| box_of(plan, r);
    let free = stage.uncovered(plan);
    let mut is_set = vec![false; plan.openings.len()];
    let units = plan.pieces.iter_enumerated().filter(|(p, piece)| piece.role == Role::Unit && stage.has(*p));
    units.filter_map(|(_, piece)| piece.opening).for_each(|o| is_set[o] = true);
    let views = plan.openings.iter().enumerate().map(|(i, o)| {
        let state = match is_set[i] {
            _ if !free[i] => OpeningState::Covered,
            true => OpeningState::Set,
            false => OpeningState::Open,
        };
        let clearance = plan.basis.figures.length(fig::CLEARANCE);
        let frame =
            Rect::new(o.rect.u0 + clearance, o.rect.v0 + clearance, o.rect.u1 - clearance, o.rect.v1 - clearance);
        let depth = o.sill.map_or(Length::ZERO, |sill| plan.surfaces[sill].facet.height);
        OpeningView {
            id: o.id.clone(),
            name: o.name.clone(),
            feature: o.feature,
            wall: plan.walls.corners.iter().filter(|c| c.at <= o.rect.u0).count(),
            rect: box_of(o.rect),
            left: o.rect.u0.to_string(),
            sill: (o.rect.v0 - plan.walls.plate).to_string(),
            width: o.rect.width().to_string(),
            height: o.rect.height().to_string(),
            depth: depth.to_string(),
            state,
            glass: (state == OpeningState::Set && o.feature == Feature::Opening).then(|| box_of(frame)),
            hull: box_of(o.hull),
        }
    });
    views.collect()
}

/// Draws a moment.
pub fn draw(plan: &Plan, moment: &Moment, weather: Weather) -> Elevation {
    let wall = &plan.surfaces[SurfaceId::WALL].facet;
    let height = wall.height.to_inches_f64();
    let box_of = |r: Rect| box_of(plan, r);
    let in_courses = plan.walls.stretches.iter().find(|s| !s.courses.courses.is_empty());
    Elevation {
        width: wall.width.to_inches_f64(),
        height,
        plate: height - plan.walls.plate.to_inches_f64(),
        shapes: shapes(plan, &moment.stage),
        top: plan
            .walls
            .outline
            .points()
            .iter()
            .map(|(u, v)| map(plan, SurfaceId::WALL, u.to_inches_f64(), v.to_inches_f64()))
            .collect(),
        key: plan
            .walls
            .footprint
            .iter()
            .map(|w| KeyWall {
                name: w.name.clone(),
                along: [w.along.0.to_inches_f64(), w.along.1.to_inches_f64()],
                line: [w.from.0, -w.from.1, w.to.0, -w.to.1].map(Length::to_inches_f64),
            })
            .collect(),
        courses: {
            let all = in_courses.map_or(&[][..], |s| &s.courses.courses);
            let laps = all.iter().take(all.len().saturating_sub(1));
            laps.rev().map(|c| height - c.top.to_inches_f64()).collect()
        },
        courses_along: in_courses.map_or([0.0; 2], |s| [s.rect.u0, s.rect.u1].map(Length::to_inches_f64)),
        levels: plan
            .walls
            .levels
            .iter()
            .map(|l| LevelView {
                y: height - (l.at + plan.walls.plate).to_inches_f64(),
                kind: l.kind,
                name: l.name.clone(),
            })
            .collect(),
        corners: plan
            .walls
            .corners
            .iter()
            .map(|c| CornerView { x: c.at.to_inches_f64(), kind: c.kind, name: c.name.clone() })
            .collect(),
        openings: openings(plan, &moment.stage),
        marks: marks(plan, moment, weather),
        air: air_paths(plan, &moment.stage)
            .into_iter()
            .map(|p| AirView { moves: p.moves(), parts: p.parts.into_iter().map(box_of).collect() })
            .collect(),
        called: String::new(),
        kept: None,
    }
}

/// So many shapes are drawn one after another before a second core is asked to help.
const DRAWN_AT_ONCE: usize = 128;

/// Layers of one piece that lie together are one shape; a flap dropped later is another.
pub(super) fn shapes(plan: &Plan, stage: &Stage) -> Vec<Shape> {
    let layers = &stage.layers;
    let mut groups: Vec<(PieceId, SmallVec<[usize; 2]>)> = Vec::new();
    let mut known: HashMap<(PieceId, Option<FlapId>), usize> = HashMap::default();
    for (at, laid) in layers.iter().enumerate() {
        let group = *known.entry((laid.piece, laid.flap)).or_insert_with(|| {
            groups.push((laid.piece, SmallVec::new()));
            groups.len() - 1
        });
        groups[group].1.push(at);
    }
    let units = layers.iter().filter(|l| plan.pieces[l.piece].solid).map(|l| plan.pieces[l.piece].opening);
    // What is inside an opening is hidden once its unit is in.
    let closed: HashSet<Option<usize>> = units.flatten().map(Some).collect();
    // What stands in the gap is drawn so that what is behind it can be seen.
    let mut hiding: HashMap<SurfaceId, Along<usize>> = HashMap::default();
    for (at, l) in layers.iter().enumerate().filter(|(_, l)| !plan.pieces[l.piece].role.is_outside()) {
        hiding.entry(l.on).or_default().put(l.rect, at);
    }
    let drawn = |(piece, list): &(PieceId, SmallVec<[usize; 2]>)| {
        let laid: SmallVec<[Laid; 4]> = list.iter().map(|at| layers[*at]).collect();
        let inside = |l: &Laid| closed.contains(&plan.surfaces[l.on].opening);
        let open = list.iter().filter(|at| !inside(&layers[**at])).flat_map(|at| seen(layers, &hiding, *at));
        shape(plan, *piece, &laid, &open.collect::<SmallVec<[Laid; 4]>>(), false)
    };
    let mut out: Vec<Shape> = groups.par_iter().with_min_len(DRAWN_AT_ONCE).map(drawn).collect();
    // A lifted part is held up: drawn turned over the line it hangs from.
    for laid in &stage.held {
        let turned = held_up(laid);
        out.push(shape(plan, laid.piece, &[turned], &[turned], true));
    }
    out
}

/// A lifted part as it is held up: over the line it hangs from.
pub(super) fn held_up(laid: &Laid) -> Laid {
    Laid { rect: Rect { v0: laid.rect.v1, v1: laid.rect.v1 + laid.rect.height(), ..laid.rect }, ..*laid }
}

/// The parts of a layer that nothing laid later covers.
fn seen(layers: &[Laid], hiding: &HashMap<SurfaceId, Along<usize>>, at: usize) -> impl Iterator<Item = Laid> {
    let l = layers[at];
    let mut over: Vec<(usize, Rect)> = Vec::new();
    if let Some(along) = hiding.get(&l.on) {
        along.reaching(l.rect, |r, o| over.extend((o > at).then_some((o, r))));
    }
    over.sort_unstable_by_key(|(o, _)| *o);
    over.dedup();
    l.rect.minus_all(over.iter().map(|(_, r)| r)).into_iter().map(move |rect| Laid { rect, ..l })
}

pub(super) fn shape(plan: &Plan, piece: PieceId, laid: &[Laid], seen: &[Laid], held: bool) -> Shape {
    let p = &plan.pieces[piece];
    let parts: Vec<Vec<[f64; 2]>> = laid.iter().map(|l| corners(plan, l.on, l.rect)).collect();
    let mut edges = Vec::with_capacity(4 * laid.len());
    // Parts that were cut each for itself show their joints; rows of boards are what their hatch shows.
    let rows = p.laying.is_some_and(|l| l.rule == LayoutRule::Cladding);
    let each = p.laying.is_some() && !rows;
    let beside = Beside::of(if each { &[] } else { laid });
    for l in laid {
        for stretch in outline(l, &beside) {
            let [a, b] = stretch.map(|(u, v)| map(plan, l.on, u.to_inches_f64(), v.to_inches_f64()));
            edges.push([a[0], a[1], b[0], b[1]]);
        }
    }
    let narrow = |l: &&Laid| l.rect.width().min(l.rect.height());
    let big = seen.iter().filter(|l| narrow(l) >= LEAST_LETTERED).max_by_key(narrow);
    let label = big.and_then(|l| {
        let [mut u0, v0, mut u1, v1] = l.rect.to_inches();
        if l.on == SurfaceId::WALL && !plan.walls.outline.is_level() {
            // Under a gable the middle of what is there, not of the rectangle it is cut from.
            let middle = Length::from_units((l.rect.v0 + l.rect.v1).units() / 2);
            let there = plan.walls.outline.above(middle).into_iter().filter_map(|s| s.overlap(l.rect.along_u()));
            let widest = there.max_by_key(|s| s.span())?;
            (u0, u1) = (widest.lo.to_inches_f64(), widest.hi.to_inches_f64());
        }
        Some(map(plan, l.on, (u0 + u1) / 2.0, (v0 + v1) / 2.0))
    });
    Shape {
        piece: p.id.clone(),
        name: p.name.clone(),
        role: p.role,
        product: p.product.clone(),
        letter: p.letter.clone(),
        label,
        held,
        parts,
        edges,
    }
}

type WallPoint = (Length, Length);

const EDGES: [Edge; 4] = [Edge::Left, Edge::Right, Edge::Bottom, Edge::Top];

/// Edges of all rectangles of one shape, in the order of where they are, to find those that lie at another one's edge.
struct Beside {
    edges: Vec<((SurfaceId, Edge, Length), Interval)>,
}

impl Beside {
    fn of(all: &[Laid]) -> Self {
        // One alone has nothing beside it.
        let all = if all.len() > 1 { all } else { &[] };
        let edge = |l: &Laid, edge: Edge| ((l.on, edge, edge.line_of(l.rect)), edge.span_of(l.rect));
        let mut edges: Vec<_> = all.iter().flat_map(|l| EDGES.map(|e| edge(l, e))).collect();
        edges.sort_unstable_by_key(|(at, _)| *at);
        Self { edges }
    }

    /// The spans of edges that face this edge of a rectangle, on the same line.
    fn facing(&self, l: &Laid, edge: Edge) -> impl Iterator<Item = Interval> {
        let at = (l.on, edge.opposite(), edge.line_of(l.rect));
        let first = self.edges.partition_point(|(other, _)| *other < at);
        self.edges[first..].iter().take_while(move |(other, _)| *other == at).map(|(_, span)| *span)
    }
}

/// The stretches of a rectangle's edges that are not shared with another rectangle of the same shape.
fn outline(l: &Laid, beside: &Beside) -> Vec<[WallPoint; 2]> {
    let mut out = Vec::with_capacity(4);
    for edge in EDGES {
        let line = edge.line_of(l.rect);
        let mut open: SmallVec<[Interval; 4]> = smallvec![edge.span_of(l.rect)];
        for shared in beside.facing(l, edge) {
            let left = |s: Interval| {
                let cut = s.overlap(shared).unwrap_or(Interval { lo: s.hi, hi: s.hi });
                [Interval { lo: s.lo, hi: cut.lo }, Interval { lo: cut.hi, hi: s.hi }]
            };
            open = open.into_iter().flat_map(left).filter(|i| i.lo < i.hi).collect();
        }
        out.extend(
            open.into_iter()
                .map(|s| if edge.is_upright() { [(line, s.lo), (line, s.hi)] } else { [(s.lo, line), (s.hi, line)] }),
        );
    }
    out
}

/// Where water gets at what should stay dry, at less than the least head asked for.
fn marks(plan: &Plan, moment: &Moment, weather: Weather) -> Vec<Mark> {
    let wanted = match weather {
        Weather::Dry => return Vec::new(),
        Weather::Rain => RAIN,
        Weather::Lost => RAIN_NO_GLUE,
    };
    let floor = plan.floor(wanted == RAIN_NO_GLUE);
    let of_part = |part: &WallPart| {
        let Some(scenario) = part.scenario(wanted) else { return Vec::new() };
        let wet = part.wet(scenario, floor, || wet_places(part, scenario, floor));
        let mark = |w: &WetPlace| {
            let ([u0, v0, u1, v1], on) = (w.rect, part.surfaces[w.facet.0]);
            let corners = [(u0, v0), (u1, v0), (u1, v1), (u0, v1)];
            let part = corners.into_iter().map(|(u, v)| map(plan, on, u, v)).collect();
            Mark { part, head: Head::from_inches(w.head).into(), level: u8::from(w.head > 0.0) }
        };
        wet.iter().map(mark).collect()
    };
    moment.parts.par_iter().flat_map_iter(of_part).collect()
}

/// Where water gets at the targets of a part in a scenario, at less than a head.
fn wet_places(part: &WallPart, scenario: usize, floor: Length) -> Vec<WetPlace> {
    let (a, spread, most) = (&*part.arrangement(), part.spread(scenario), floor.to_inches_f64());
    let mut out = Vec::new();
    for target in &part.layup().targets {
        let facet = target.at.facet;
        for cell in a.cells_of(facet) {
            let Some(rect) = a.cell(cell).rect.intersection(target.at.rect) else { continue };
            let gaps = if target.depth == Depth::Substrate { 1 } else { a.stack(cell).len() + 1 };
            let bare = (0..gaps).any(|g| a.is_open_face(cell, g));
            let mut wet = bare.then(|| (0.0, rect.to_inches()));
            for (_, kept) in (0..gaps).flat_map(|g| spread.fronts(a, cell, g)) {
                let Some(part) = kept.front.within(rect, most * UNITS_PER_INCH as f64) else { continue };
                let part = part.map(|x| x / UNITS_PER_INCH as f64);
                let (u, v) = kept.front.least_in(rect);
                let head = Head::from_units(kept.front.at(u, v)).inches();
                wet = Some(wet.map_or((head, part), |(h, r)| (h.min(head), hull(r, part))));
            }
            let wet = wet.filter(|(h, _)| *h < most - 1e-6);
            out.extend(wet.map(|(head, rect)| WetPlace { facet, rect, head }));
        }
    }
    out
}

fn hull(a: [f64; 4], b: [f64; 4]) -> [f64; 4] {
    [a[0].min(b[0]), a[1].min(b[1]), a[2].max(b[2]), a[3].max(b[3])]
}
