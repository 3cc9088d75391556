//! Heads of targets, and ponds.

use super::Unanswered;
use super::arrange::Arrangement;
use super::cell::CellId;
use super::drain::Drainage;
use super::spread::{Bounds, KeptFront, RoomToSpread, Spread};
use super::way::WaterWay;
use crate::layup::{Depth, FileMistake, Glue, Layup, SheetId};
use crate::length::{Head, Length, UNITS_PER_INCH};
use crate::stop::Stop;
use crate::surface::{FacetId, Rect};
use rayon::prelude::*;
use serde_json::{Value, json};
use std::collections::BTreeMap;

/// The place at which a target is reached with the least effort.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct WetSpot {
    /// In which cell.
    pub cell: CellId,
    /// The front that reached it, `None` on the open face.
    pub front: Option<u32>,
    /// `(u, v)` in length units.
    pub point: (f64, f64),
}

/// How hard one target is to reach in one scenario.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Reach {
    /// Index of the scenario in the layup.
    pub scenario: usize,
    /// Index of the target in the layup.
    pub target: usize,
    /// The least head and where, `None` never.
    pub least: Option<(Head, WetSpot)>,
}

/// Water that cannot leave.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pond {
    /// Index of the scenario in the layup.
    pub scenario: usize,
    /// On which facet.
    pub facet: FacetId,
    /// The sheet it stands on, `None` the substrate.
    pub on: Option<SheetId>,
    /// Left, bottom, right, top in inches, around all of it.
    pub rect: [f64; 4],
}

/// All answers of a layup.
#[derive(Clone, Debug)]
pub struct WaterAnswer {
    /// One for each scenario and target, scenarios first.
    pub reach: Vec<Reach>,
    /// All ponds.
    pub ponds: Vec<Pond>,
    /// How effort spread, one for each scenario.
    pub spreads: Vec<Spread>,
}

/// How effort spreads in one scenario, as in the answer to all of them.
pub fn spread_in(layup: &Layup, a: &Arrangement, scenario: usize, bounds: Bounds) -> Spread {
    let scenario = &layup.scenarios[scenario];
    RoomToSpread::of_thread(|room| Spread::in_room(layup, a, scenario, bounds, &Stop::default(), room))
}

/// Runs every scenario over an arrangement of the same layup.
pub fn run(layup: &Layup, a: &Arrangement) -> WaterAnswer {
    run_within(layup, a, Bounds::default())
}

/// Runs every scenario as far as it is followed.
pub fn run_within(layup: &Layup, a: &Arrangement, bounds: Bounds) -> WaterAnswer {
    drained_and_run(layup, a, bounds, &Stop::default())
}

/// The same for somebody who may stop asking: `None` where they did.
pub fn run_until(layup: &Layup, a: &Arrangement, bounds: Bounds, stop: &Stop) -> Option<WaterAnswer> {
    let answer = drained_and_run(layup, a, bounds, stop);
    (!stop.is_stopped()).then_some(answer)
}

fn drained_and_run(layup: &Layup, a: &Arrangement, bounds: Bounds, stop: &Stop) -> WaterAnswer {
    let asked = |glue| layup.scenarios.iter().any(|s| s.glue == glue);
    let drained = |glue| asked(glue).then(|| Drainage::new(layup, a, glue, stop));
    let (holds, lost) = rayon::join(|| drained(Glue::Holds), || drained(Glue::Lost));
    answers(layup, a, bounds, stop, &|glue| if glue == Glue::Holds { holds.as_ref() } else { lost.as_ref() })
}

/// Runs every scenario for its heads and ponds, of no more than so many fronts each; how effort spread is not kept.
pub(super) fn run_each(
    layup: &Layup,
    a: &Arrangement,
    most_fronts: usize,
    stop: &Stop,
) -> Result<WaterAnswer, Unanswered> {
    let asked = |glue| layup.scenarios.iter().any(|s| s.glue == glue);
    let drained = |glue| asked(glue).then(|| Drainage::new(layup, a, glue, stop));
    let (holds, lost) = rayon::join(|| drained(Glue::Holds), || drained(Glue::Lost));
    let answers: Vec<(Vec<Reach>, Vec<Pond>)> = (0..layup.scenarios.len())
        .into_par_iter()
        .with_max_len(1)
        .map(|s| {
            let scenario = &layup.scenarios[s];
            let (spread, is_full) = RoomToSpread::of_thread(|room| {
                room.most_fronts = Some(most_fronts);
                (Spread::in_room(layup, a, scenario, Bounds::default(), stop, room), room.is_full())
            });
            if stop.is_stopped() {
                return Err(Unanswered::Stopped);
            }
            if is_full {
                let message = format!(
                    "the water of \"{}\" spreads in more than {most_fronts} stretches, the most that are followed: ask about a part of it",
                    scenario.id
                );
                return Err(Unanswered::Mistakes(vec![FileMistake { path: format!("$.scenarios[{s}]"), message }]));
            }
            let drainage = if scenario.glue == Glue::Holds { &holds } else { &lost };
            let ponds = drainage.as_ref().map_or_else(Vec::new, |d| ponds(layup, a, s, &spread, d));
            let reach = reach(layup, a, s, &spread, stop);
            if stop.is_stopped() { Err(Unanswered::Stopped) } else { Ok((reach, ponds)) }
        })
        .collect::<Result<_, Unanswered>>()?;
    let mut out = WaterAnswer { reach: Vec::new(), ponds: Vec::new(), spreads: Vec::new() };
    for (reach, ponds) in answers {
        out.reach.extend(reach);
        out.ponds.extend(ponds);
    }
    Ok(out)
}

/// Runs every scenario for its heads alone, as far as an effort of `limit`; what stands and cannot leave is not asked.
pub fn heads_within(layup: &Layup, a: &Arrangement, limit: Length) -> WaterAnswer {
    answers(layup, a, Bounds { head: Some(limit), core: None }, &Stop::default(), &|_| None)
}

fn answers<'d>(
    layup: &Layup,
    a: &Arrangement,
    bounds: Bounds,
    stop: &Stop,
    drained: &(impl Fn(Glue) -> Option<&'d Drainage> + Sync),
) -> WaterAnswer {
    let answers: Vec<(Spread, Vec<Reach>, Vec<Pond>)> = (0..layup.scenarios.len())
        .into_par_iter()
        // Rain takes most of the time; what waits behind it can be done by others.
        .with_max_len(1)
        .map(|s| {
            let scenario = &layup.scenarios[s];
            let spread = RoomToSpread::of_thread(|room| Spread::in_room(layup, a, scenario, bounds, stop, room));
            let ponds = drained(scenario.glue).map_or_else(Vec::new, |d| ponds(layup, a, s, &spread, d));
            let mut reach = reach(layup, a, s, &spread, stop);
            if let Some(limit) = bounds.head.map(Length::to_inches_f64) {
                reach.iter_mut().for_each(|r| r.least = r.least.filter(|(head, _)| head.inches() <= limit + 1e-9));
            }
            (spread, reach, ponds)
        })
        .collect();
    let mut out = WaterAnswer { reach: Vec::new(), ponds: Vec::new(), spreads: Vec::new() };
    for (spread, reach, ponds) in answers {
        out.spreads.push(spread);
        out.reach.extend(reach);
        out.ponds.extend(ponds);
    }
    out
}

/// The part of a target that is asked about in one gap of one cell.
fn asked(layup: &Layup, a: &Arrangement, target: usize, cell: CellId, gap: usize) -> Option<Rect> {
    let target = &layup.targets[target];
    let part = a.cell(cell).rect.intersection(target.at.rect)?;
    (target.depth == Depth::Any || gap == 0).then_some(part)
}

/// The fronts that reach anything with less than an effort, that with each, from the least on: in that order they are kept.
fn below<'a>(a: &'a Arrangement, spread: &'a Spread, most: f64) -> impl Iterator<Item = (u32, &'a KeptFront, f64)> {
    let least = |(i, kept): (usize, &'a KeptFront)| {
        let (u, v) = kept.front.least_in(a.cell(kept.cell).rect);
        (i as u32, kept, kept.front.at(u, v))
    };
    spread.kept.iter().enumerate().map(least).take_while(move |(_, _, least)| *least < most)
}

/// Where a front reaches a part of its cell most easily; `None` where it does not reach it.
fn spot(front: u32, kept: &KeptFront, part: Rect) -> Option<(Head, WetSpot)> {
    let point = kept.front.least_in(part);
    let head = Head::from_units(kept.front.at(point.0, point.1));
    kept.front.reaches(part).then_some((head, WetSpot { cell: kept.cell, front: Some(front), point }))
}

/// Tells every target that lies on an open face in the rain.
fn in_the_open(layup: &Layup, a: &Arrangement, spread: &Spread, mut tell: impl FnMut(usize, WetSpot)) {
    for (f, _) in layup.facets.iter().enumerate().filter(|(_, facet)| spread.rain && facet.exposed) {
        for cell in a.cells_of(FacetId(f)).filter(|cell| a.is_open_face(*cell, a.stack(*cell).len())) {
            for t in a.targets_on(cell) {
                if let Some(part) = asked(layup, a, t, cell, a.stack(cell).len()) {
                    let point = (part.u0.units() as f64, part.v0.units() as f64);
                    tell(t, WetSpot { cell, front: None, point });
                }
            }
        }
    }
}

/// The least head of every target in one scenario. Where it is stopped it is not done.
fn reach(layup: &Layup, a: &Arrangement, scenario: usize, spread: &Spread, stop: &Stop) -> Vec<Reach> {
    let mut least: Vec<Option<(Head, WetSpot)>> = vec![None; layup.targets.len()];
    for (i, kept, easiest) in below(a, spread, f64::INFINITY) {
        if stop.is_stopped() {
            break;
        }
        let easiest = Head::from_units(easiest).inches();
        for t in a.targets_on(kept.cell) {
            // A front reaches a target no more easily than it reaches anything.
            if least[t].is_some_and(|(known, _)| known.inches() <= easiest) {
                continue;
            }
            let Some(part) = asked(layup, a, t, kept.cell, usize::from(kept.gap)) else { continue };
            let Some((head, spot)) = spot(i, kept, part) else { continue };
            if least[t].is_none_or(|(known, _)| head.inches() < known.inches()) {
                least[t] = Some((head, spot));
            }
        }
    }
    in_the_open(layup, a, spread, |t, spot| {
        if least[t].is_none_or(|(known, _)| known.inches() > 0.0) {
            least[t] = Some((Head::ZERO, spot));
        }
    });
    least.into_iter().enumerate().map(|(target, least)| Reach { scenario, target, least }).collect()
}

/// Tells every place at which a target is reached by fronts that reach anything with less than a head: its index, the head there and where.
/// The work is in proportion to what is so wet.
pub fn spots(
    layup: &Layup,
    a: &Arrangement,
    spread: &Spread,
    head: Length,
    mut tell: impl FnMut(usize, Head, WetSpot),
) {
    for (i, kept, _) in below(a, spread, head.units() as f64) {
        for t in a.targets_on(kept.cell) {
            let part = asked(layup, a, t, kept.cell, usize::from(kept.gap));
            if let Some((head, spot)) = part.and_then(|part| spot(i, kept, part)) {
                tell(t, head, spot);
            }
        }
    }
    in_the_open(layup, a, spread, |t, spot| tell(t, Head::ZERO, spot));
}

/// The way to a spot.
pub fn way_to(layup: &Layup, a: &Arrangement, spread: &Spread, spot: &WetSpot) -> WaterWay {
    match spot.front {
        Some(front) => WaterWay::to(layup, a, spread, front, spot.point),
        None => WaterWay::on_open_face(layup, a, spot.cell, spot.point),
    }
}

/// What is wet at no more than the drain head and cannot leave, gathered by facet and by what it stands on.
fn ponds(layup: &Layup, a: &Arrangement, scenario: usize, spread: &Spread, drainage: &Drainage) -> Vec<Pond> {
    let limit = layup.scenarios[scenario].drain_head.units() as f64;
    let mut found: BTreeMap<(FacetId, Option<SheetId>), [f64; 4]> = BTreeMap::new();
    // What is reached with just the limit has no area there.
    for (_, kept, _) in below(a, spread, limit + 1.0) {
        let gap = usize::from(kept.gap);
        if a.is_open_face(kept.cell, gap) {
            continue;
        }
        let Some(part) = drainage.trapped(layup, a, kept.cell, gap) else { continue };
        let Some(wet) = kept.front.within(part, limit) else { continue };
        let on = a.between(kept.cell, gap).on;
        let whole = found.entry((a.cell(kept.cell).facet, on)).or_insert(wet);
        *whole = [whole[0].min(wet[0]), whole[1].min(wet[1]), whole[2].max(wet[2]), whole[3].max(wet[3])];
    }
    let inches = |r: [f64; 4]| r.map(|x| (x / UNITS_PER_INCH as f64 * 1e6).round() / 1e6);
    found.into_iter().map(|((facet, on), rect)| Pond { scenario, facet, on, rect: inches(rect) }).collect()
}

impl WaterAnswer {
    /// As `kame water` prints it (handbook 4.6).
    pub fn to_json(&self, layup: &Layup) -> Value {
        let reach: Vec<Value> = self
            .reach
            .iter()
            .map(|r| {
                let head = r.least.map(|(h, _)| h.inches());
                json!({"scenario": layup.scenarios[r.scenario].id, "target": layup.targets[r.target].id, "head_in": head})
            })
            .collect();
        let ponds: Vec<Value> = self
            .ponds
            .iter()
            .map(|p| {
                let on = p.on.map(|s| layup.sheets[s.0].id.as_str());
                json!({"scenario": layup.scenarios[p.scenario].id, "facet": layup.facets[p.facet.0].id, "on": on, "rect": p.rect})
            })
            .collect();
        json!({"reach": reach, "ponds": ponds})
    }

    /// The least head of a target in a scenario, by name; the outer `None` where there is no such pair.
    pub fn head(&self, layup: &Layup, scenario: &str, target: &str) -> Option<Option<Head>> {
        let hit = |r: &&Reach| layup.scenarios[r.scenario].id == scenario && layup.targets[r.target].id == target;
        self.reach.iter().find(hit).map(|r| r.least.map(|(h, _)| h))
    }
}
