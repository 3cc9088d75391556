//! Whether air finds its way through the gap: in at a lower end, out at an upper one.

use super::space::connected;
use crate::length::Length;
use crate::plan::{End, Laying, Piece, Plan, SurfaceId, ends};
use crate::profile::fig;
use crate::recipe::{LayoutRule, Role};
use crate::sequence::Stage;
use crate::surface::Rect;

/// A connected part of the gap.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct AirPath {
    /// Where it is, as rectangles that do not overlap.
    pub parts: Vec<Rect>,
    /// True where it opens at a lower end.
    pub inlet: bool,
    /// True where it opens at an upper end.
    pub outlet: bool,
    /// True where it comes to an end that something closes.
    pub shut: bool,
}

impl AirPath {
    /// True where air moves through it.
    pub fn moves(&self) -> bool {
        self.inlet && self.outlet
    }
}

/// How an end of the gap is at a moment.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OpenedAir {
    /// Which end.
    pub end: End,
    /// By which rule what closes it is laid out; `None` where nothing does.
    pub shut: Option<LayoutRule>,
    /// True where a screen is over all of it.
    pub screened: bool,
}

/// What of the gap's own pieces is there.
fn there<'a>(plan: &'a Plan, stage: &'a Stage) -> impl Iterator<Item = (&'a Piece, Laying)> {
    let pieces = plan.pieces.iter_enumerated().filter(|(i, _)| stage.has(*i));
    pieces.filter_map(|(_, p)| Some((p, p.laying?)))
}

/// Runs of walls in which something keeps the cladding off by now.
fn with_a_gap(plan: &Plan, stage: &Stage) -> Vec<usize> {
    let mut out: Vec<usize> = there(plan, stage).filter(|(_, l)| l.rule.keeps_off()).map(|(_, l)| l.finish).collect();
    out.sort_unstable();
    out.dedup();
    out
}

/// What air does not pass: what stands from barrier to cladding, and by which rule.
fn solid(plan: &Plan, stage: &Stage) -> Vec<(LayoutRule, Rect)> {
    let shuts = |p: &Piece, l: &Laying| p.role == Role::Furring && l.rule.shuts_off();
    let pieces = there(plan, stage).filter(|(p, l)| shuts(p, l));
    pieces.flat_map(|(p, l)| p.regions.iter().map(move |(_, r)| (l.rule, *r))).collect()
}

/// Every connected part of the gap at a moment; empty where nothing keeps the cladding off yet.
pub fn air_paths(plan: &Plan, stage: &Stage) -> Vec<AirPath> {
    let least = plan.basis.figures.length(fig::AIR_WAY);
    let half = Length::from_units(least.units() / 2);
    let finishes = with_a_gap(plan, stage);
    if finishes.is_empty() {
        return Vec::new();
    }
    let air = plan.walls.outline.air();
    let mut room = Vec::new();
    let mut taken: Vec<Rect> = solid(plan, stage).into_iter().map(|(_, r)| r).collect();
    let mut all: Vec<End> = Vec::new();
    for f in finishes.iter().map(|f| &plan.walls.finishes[*f]) {
        room.extend(f.rect.minus_all(air.iter().filter(|a| a.overlaps(f.rect))));
        taken.extend(plan.gap_stops(f));
        all.extend(ends(plan, f));
    }
    let (lower, upper): (Vec<&End>, Vec<&End>) = all.iter().partition(|e| e.lower);
    let thin = plan.basis.figures.length(fig::GAP_END);
    let over = |r: &Rect, e: &End| r.along_u().overlap(e.span).is_some();
    // Right at an end, no more than half of what is no way stands in between; behind what closes it, a little more does.
    let below = |r: &Rect, e: &End, by: Length| over(r, e) && r.v0 >= e.at && r.v0 - e.at <= half + by;
    let above = |r: &Rect, e: &End, by: Length| over(r, e) && r.v1 <= e.at && e.at - r.v1 <= half + by;
    let reached = |parts: &[Rect], by: Length| {
        let at = |list: &[&End], meets: &dyn Fn(&Rect, &End, Length) -> bool| {
            parts.iter().any(|r| list.iter().any(|e| meets(r, e, by)))
        };
        (at(&lower, &below), at(&upper, &above))
    };
    let of = |parts: Vec<Rect>| {
        let (inlet, outlet) = reached(&parts, Length::ZERO);
        let (near_lower, near_upper) = reached(&parts, thin);
        AirPath { parts, inlet, outlet, shut: (near_lower && !inlet) || (near_upper && !outlet) }
    };
    let round = plan.walls.round.then(|| plan.surfaces[SurfaceId::WALL].facet.rect().along_u());
    connected(&room, &taken, least, round).into_iter().map(of).collect()
}

/// Every end of the gap at a moment, with what is over it.
pub fn open_ends(plan: &Plan, stage: &Stage) -> Vec<OpenedAir> {
    let thin = plan.basis.figures.length(fig::GAP_END);
    let solid = solid(plan, stage);
    let screens: Vec<Rect> = there(plan, stage)
        .filter(|(p, _)| p.role == Role::Screen)
        .flat_map(|(p, _)| p.regions.iter().map(|(_, r)| *r))
        .collect();
    let of = |end: End| {
        let (v0, v1) = if end.lower { (end.at, end.at + thin) } else { (end.at - thin, end.at) };
        let strip = Rect::new(end.span.lo, v0, end.span.hi, v1);
        let covered =
            |by: &mut dyn Iterator<Item = &Rect>| strip.minus_all(by.filter(|r| r.overlaps(strip))).is_empty();
        let shut = covered(&mut solid.iter().map(|(_, r)| r));
        let mut by = solid.iter().filter(|(_, r)| shut && r.overlaps(strip)).map(|(rule, _)| *rule);
        // Uprights stand on what runs along the end: that is what closes it.
        let upright = |rule: &LayoutRule| rule.keeps_off();
        let first = by.clone().find(|rule| !upright(rule)).or_else(|| by.next());
        OpenedAir { shut: first, screened: covered(&mut screens.iter()), end }
    };
    with_a_gap(plan, stage).into_iter().flat_map(|f| ends(plan, &plan.walls.finishes[f])).map(of).collect()
}
