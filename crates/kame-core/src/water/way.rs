//! From a wet place back to the source: the line the water took, and the edges it passed.

use super::arrange::{Arrangement, Border};
use super::cell::CellId;
use super::spread::{From, Spread};
use crate::layup::{Glue, Layup, SheetId};
use crate::length::Head;
use crate::surface::{Edge, FacetId};

/// A point of a way.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct WayPoint {
    /// On which facet.
    pub facet: FacetId,
    /// Inches to the right on it.
    pub u: f64,
    /// Inches up on it.
    pub v: f64,
    /// In which gap, counted from the substrate.
    pub gap: usize,
    /// The sheet the water stands on, `None` the substrate.
    pub on: Option<SheetId>,
    /// The sheet directly outside the water, `None` nothing.
    pub behind: Option<SheetId>,
    /// Effort up to here.
    pub head: Head,
}

/// What happens at a border.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PassageKind {
    /// In behind a sheet, past one of its edges.
    InBehind,
    /// Out from behind a sheet, past one of its edges.
    OutFrom,
    /// In through a cut of a sheet.
    InThroughCut,
    /// Out through a cut of a sheet.
    OutThroughCut,
}

impl PassageKind {
    fn is_entry(self) -> bool {
        matches!(self, Self::InBehind | Self::InThroughCut)
    }
}

/// One edge that the water passed.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Passage {
    /// What happens at the edge.
    pub kind: PassageKind,
    /// The sheet whose edge it is.
    pub sheet: SheetId,
    /// Which edge of that sheet, on the facet of the point.
    pub edge: Edge,
    /// Index of the point in the way at which it happens.
    pub point: usize,
}

/// How water got somewhere, from the source on.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct WaterWay {
    /// The line it took.
    pub points: Vec<WayPoint>,
    /// The edges it passed, in order.
    pub passages: Vec<Passage>,
}

struct Tracer<'a> {
    a: &'a Arrangement,
    layup: &'a Layup,
    way: WaterWay,
}

impl WaterWay {
    /// The way to a point reached by a kept front.
    pub fn to(layup: &Layup, a: &Arrangement, spread: &Spread, front: u32, point: (f64, f64)) -> WaterWay {
        // Backwards from the place, then turned round.
        let mut legs = Vec::new();
        let (mut at, mut index) = (point, front);
        loop {
            let kept = &spread.kept[index as usize];
            let foot = kept.front.foot(at.0, at.1);
            legs.push((index, at, foot));
            match kept.from {
                From::Source | From::OpenFace { .. } => break,
                From::Front { front, border, end } => {
                    at = across(a, &a.borders[border as usize], usize::from(end), foot);
                    index = front;
                }
            }
        }
        let mut t = Tracer { a, layup, way: WaterWay::default() };
        for (index, at, foot) in legs.into_iter().rev() {
            let kept = &spread.kept[index as usize];
            let gap = usize::from(kept.gap);
            let head = |p: (f64, f64)| Head::from_units(kept.front.at(p.0, p.1));
            match kept.from {
                From::Source => {}
                From::OpenFace { border, end } => {
                    let border = &a.borders[border as usize];
                    let near = border.cells[usize::from(end)];
                    let outside = a.stack(near).len();
                    t.point(near, outside, across(a, border, usize::from(end), foot), Head::ZERO);
                    t.passages(border, usize::from(end), outside, gap);
                }
                From::Front { front, border, end } => {
                    let before = usize::from(spread.kept[front as usize].gap);
                    t.passages(&a.borders[border as usize], usize::from(end), before, gap);
                }
            }
            t.point(kept.cell, gap, foot, head(foot));
            if at != foot {
                t.point(kept.cell, gap, at, head(at));
            }
        }
        t.way
    }

    /// The same way, run on: what has got in falls on by gravity, behind what it is behind, until it is out or stands.
    pub fn run_on(
        mut self,
        layup: &Layup,
        a: &Arrangement,
        glue: Glue,
        cell: CellId,
        gap: usize,
        point: (f64, f64),
    ) -> WaterWay {
        let (mut cell, mut gap, mut at) = (cell, gap, point);
        let head = self.points.last().map_or(Head::ZERO, |p| p.head);
        let mut t = Tracer { a, layup, way: std::mem::take(&mut self) };
        // Each turn goes down or across to another facet; a wall has fewer cells than this in any column.
        for _ in 0..a.cells.len() {
            let facet = &layup.facets[a.cell(cell).facet.0];
            if a.is_open_face(cell, gap) || facet.rise <= 0.0 {
                break;
            }
            let foot = a.cell(cell).rect.v0.units() as f64;
            if foot < at.1 {
                at.1 = foot;
                t.point(cell, gap, at, head);
            }
            let below = a.borders_of(cell).find_map(|(border, end)| {
                let span = border.spans[end];
                let here = border.edges[end] == Edge::Bottom
                    && span.lo.units() as f64 <= at.0
                    && at.0 <= span.hi.units() as f64;
                if !here {
                    return None;
                }
                let far = border.cells[1 - end];
                let next = a.gaps_across(border, end, gap).find(|g| !a.is_closed(far, *g, glue))?;
                Some((far, next, across(a, border, 1 - end, at)))
            });
            let Some((far, next, there)) = below else { break };
            (cell, gap, at) = (far, next, there);
            t.point(cell, gap, at, head);
        }
        t.way
    }

    /// The way of water that needed none: it stands on the open face there.
    pub fn on_open_face(layup: &Layup, a: &Arrangement, cell: CellId, point: (f64, f64)) -> WaterWay {
        let mut t = Tracer { a, layup, way: WaterWay::default() };
        t.point(cell, a.stack(cell).len(), point, Head::ZERO);
        t.way
    }

    /// The same way with facets and sheets numbered otherwise.
    pub fn renamed(mut self, facet: impl Fn(FacetId) -> FacetId, sheet: impl Fn(SheetId) -> SheetId) -> WaterWay {
        for p in &mut self.points {
            (p.facet, p.on, p.behind) = (facet(p.facet), p.on.map(&sheet), p.behind.map(&sheet));
        }
        for p in &mut self.passages {
            p.sheet = sheet(p.sheet);
        }
        self
    }

    /// The first sheet that the water got in behind, and at which edge.
    pub fn entry(&self) -> Option<&Passage> {
        self.passages.iter().find(|p| p.kind.is_entry())
    }
}

/// The point of the near cell's edge that lies on a point of the far cell's edge.
fn across(a: &Arrangement, border: &Border, near_end: usize, far: (f64, f64)) -> (f64, f64) {
    let along = if border.edges[1 - near_end].is_upright() { far.1 } else { far.0 };
    let along = border.across(1 - near_end, along);
    let edge = border.edges[near_end];
    let line = edge.line_of(a.cell(border.cells[near_end]).rect).units() as f64;
    if edge.is_upright() { (line, along) } else { (along, line) }
}

impl Tracer<'_> {
    fn point(&mut self, cell: CellId, gap: usize, (u, v): (f64, f64), head: Head) {
        let stack = self.a.stack(cell);
        let inch = crate::length::UNITS_PER_INCH as f64;
        debug_assert!(self.a.cell(cell).facet.0 < self.layup.facets.len());
        self.way.points.push(WayPoint {
            facet: self.a.cell(cell).facet,
            u: u / inch,
            v: v / inch,
            gap,
            on: gap.checked_sub(1).and_then(|g| stack.get(g)).map(|l| l.sheet),
            behind: stack.get(gap).map(|l| l.sheet),
            head,
        });
    }

    /// Notes the edges passed between the last point and the next one.
    fn passages(&mut self, border: &Border, near_end: usize, near_gap: usize, far_gap: usize) {
        let (last, next) = (self.way.points.len().saturating_sub(1), self.way.points.len());
        passed(self.a, border, near_end, near_gap, far_gap, |kind, sheet, edge| {
            let point = if kind == PassageKind::OutFrom { last } else { next };
            self.way.passages.push(Passage { kind, sheet, edge, point });
        });
    }
}

/// Tells the edges that are passed where a border is crossed from one gap to another: how, whose, and which.
fn passed(
    a: &Arrangement,
    border: &Border,
    near_end: usize,
    near_gap: usize,
    far_gap: usize,
    mut tell: impl FnMut(PassageKind, SheetId, Edge),
) {
    let (near, far) = (a.stack(border.cells[near_end]), a.stack(border.cells[1 - near_end]));
    let (near_edge, far_edge) = (border.edges[near_end], border.edges[1 - near_end]);
    for (here, layer) in near.iter().enumerate() {
        let ends = !a.is_continuous(border, near_end, here) && !far.iter().any(|l| l.sheet == layer.sheet);
        if ends && here >= near_gap {
            tell(PassageKind::OutFrom, layer.sheet, near_edge);
        }
    }
    for (there, layer) in far.iter().enumerate() {
        if a.is_continuous(border, 1 - near_end, there) {
            continue;
        }
        let inside = there >= far_gap;
        let kind = match near.iter().position(|l| l.sheet == layer.sheet) {
            None if inside => PassageKind::InBehind,
            Some(here) if inside && here < near_gap => PassageKind::InThroughCut,
            Some(here) if !inside && here >= near_gap => PassageKind::OutThroughCut,
            _ => continue,
        };
        tell(kind, layer.sheet, far_edge);
    }
}

/// What tells ways apart, known without tracing them: the sheet that the water got in behind first, and how many edges it passed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Entered {
    /// The first sheet, at which edge, and how; as [`WaterWay::entry`] has it.
    pub first: Option<(SheetId, Edge, PassageKind)>,
    /// How many edges were passed.
    pub passages: usize,
}

/// How each front of a spread was entered: asked of many places, each stretch of the ways is looked at once.
pub struct Entries<'a> {
    a: &'a Arrangement,
    spread: &'a Spread,
    known: Vec<Option<Entered>>,
}

impl<'a> Entries<'a> {
    /// Entries of a spread, of which none is known yet.
    pub fn new(a: &'a Arrangement, spread: &'a Spread) -> Self {
        Self { a, spread, known: vec![None; spread.kept.len()] }
    }

    /// How a front was entered.
    pub fn of(&mut self, front: u32) -> Entered {
        let mut back = vec![front];
        let mut entered = loop {
            let last = back[back.len() - 1] as usize;
            match (self.known[last], self.spread.kept[last].from) {
                (Some(known), _) => {
                    back.pop();
                    break known;
                }
                (None, From::Front { front, .. }) => back.push(front),
                (None, From::Source | From::OpenFace { .. }) => break Entered::default(),
            }
        };
        for front in back.into_iter().rev() {
            let kept = &self.spread.kept[front as usize];
            let from = match kept.from {
                From::Source => None,
                From::OpenFace { border, end } => {
                    let near = self.a.borders[border as usize].cells[usize::from(end)];
                    Some((border, end, self.a.stack(near).len()))
                }
                From::Front { front, border, end } => {
                    Some((border, end, usize::from(self.spread.kept[front as usize].gap)))
                }
            };
            if let Some((border, end, gap)) = from {
                let border = &self.a.borders[border as usize];
                passed(self.a, border, usize::from(end), gap, usize::from(kept.gap), |kind, sheet, edge| {
                    entered.passages += 1;
                    if kind.is_entry() {
                        entered.first.get_or_insert((sheet, edge, kind));
                    }
                });
            }
            self.known[front as usize] = Some(entered);
        }
        entered
    }
}
