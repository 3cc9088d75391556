//! Where water that is poured into an opening should come out again: the easiest way of each of its leaks to an open face.

use super::moment::{Moment, WallPart};
use super::water::on_plan;
use crate::layup::Glue;
use crate::length::{Head, UNITS_PER_INCH};
use crate::plan::{Plan, SurfaceId};
use crate::water::{CellId, Spread, WaterWay};

/// Efforts that differ by less are one.
const ALIKE_IN: f64 = 0.05;

/// Where the water of one leak comes out.
#[derive(Clone, Debug, PartialEq)]
pub struct WayOut {
    /// The leak, by its place in the plan; `None` for water that is poured on a sill without a unit.
    pub leak: Option<usize>,
    /// What it takes: water that runs out by its own weight takes none.
    pub head: Head,
    /// The stretches along which it comes out as easily: the surface, and left, bottom, right, top on it in inches.
    pub along: Vec<(SurfaceId, [f64; 4])>,
    /// The way to the middle of the longest of them.
    pub way: WaterWay,
}

/// A front of water that is out.
struct Out {
    index: u32,
    cell: CellId,
    effort: f64,
    /// Left, bottom, right, top in units.
    along: [f64; 4],
}

/// Where the water of each leak inside an opening comes out while the glue holds. One that is not told has no way out. What is poured on a sill that is
/// open, with no unit on it yet, runs over its outer edge.
pub fn ways_out(plan: &Plan, moment: &Moment, opening: usize) -> Vec<WayOut> {
    let part = moment.part_of(plan, opening);
    let here = |leak: usize| plan.surfaces[plan.water.leaks[leak].on].opening == Some(opening);
    let asked = part.leaks.iter().enumerate().filter_map(|(s, leak)| Some((s, (*leak)?)));
    let held = asked.filter(|(s, leak)| part.layup().scenarios[*s].glue == Glue::Holds && here(*leak));
    let mut asked = 0;
    let mut out: Vec<WayOut> =
        held.inspect(|_| asked += 1).filter_map(|(scenario, leak)| way_out(part, scenario, leak)).collect();
    if asked == 0 {
        out.extend(over_the_sill(plan, moment, opening));
    }
    out
}

/// Water that is poured on a sill without a unit.
fn over_the_sill(plan: &Plan, moment: &Moment, opening: usize) -> Option<WayOut> {
    let sill = plan.openings[opening].sill.filter(|_| moment.stage.uncovered(plan)[opening])?;
    let width = plan.surfaces[sill].facet.width.to_inches_f64();
    let along = vec![(sill, [0.0, 0.0, width, 0.0])];
    Some(WayOut { leak: None, head: Head::ZERO, along, way: WaterWay::default() })
}

fn way_out(part: &WallPart, scenario: usize, leak: usize) -> Option<WayOut> {
    let (layup, a, spread) = (part.layup(), &*part.arrangement(), &*part.spread(scenario));
    let out = outs(part, spread);
    let least = out.iter().map(|o| o.effort).min_by(f64::total_cmp)?;
    let same = ALIKE_IN * UNITS_PER_INCH as f64;
    let easiest: Vec<&Out> = out.iter().filter(|o| o.effort <= least + same).collect();
    let long = |o: &Out| (o.along[2] - o.along[0]).max(o.along[3] - o.along[1]);
    let longest = easiest.iter().copied().reduce(|best, o| if long(o) > long(best) { o } else { best })?;
    let [u0, v0, u1, v1] = longest.along;
    let way = WaterWay::to(layup, a, spread, longest.index, (f64::midpoint(u0, u1), f64::midpoint(v0, v1)));
    let inches = |o: &Out| o.along.map(|l| l / UNITS_PER_INCH as f64);
    let along = easiest.iter().map(|o| (part.surfaces[a.cell(o.cell).facet.0], inches(o))).collect();
    Some(WayOut { leak: Some(leak), head: Head::from_units(least), along, way: on_plan(part, way) })
}

/// All fronts of water that is out: on an open face, or where something else lets it go, such as a screed.
fn outs(part: &WallPart, spread: &Spread) -> Vec<Out> {
    let (layup, a) = (part.layup(), &*part.arrangement());
    let mut all = Vec::new();
    for (index, k) in spread.kept.iter().enumerate() {
        let cell = a.cell(k.cell);
        let out = |effort, along| Out { index: index as u32, cell: k.cell, effort, along };
        if k.front.is_out() {
            let (u, v) = k.front.least_in(cell.rect);
            all.push(out(k.front.at(u, v), k.front.stretch()));
            continue;
        }
        let here = layup.outlets.iter().filter(|o| o.facet == cell.facet);
        for at in here.filter_map(|o| o.rect.intersection(cell.rect)).filter(|r| r.has_area()) {
            let (u, v) = k.front.least_in(at);
            let [u0, u1] = [at.u0, at.u1].map(|l| l.units() as f64);
            // It comes out where it got there, as wide as the way down to it is.
            let [lo, _, hi, _] = k.front.stretch();
            let wide = (lo.clamp(u0, u1), hi.clamp(u0, u1));
            let (lo, hi) = if wide.0 < wide.1 { wide } else { (u, u) };
            all.push(out(k.front.at(u, v), [lo, v, hi, v]));
        }
    }
    all
}
