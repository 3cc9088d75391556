//! Heads of targets, and ponds.

use super::arrange::{Arrangement, CellId};
use super::drain::Drainage;
use super::spread::Spread;
use super::way::Way;
use crate::layup::{Depth, Glue, Layup, SheetId};
use crate::length::{Head, Length, UNITS_PER_INCH};
use crate::surface::FacetId;
use rayon::prelude::*;
use serde_json::{Value, json};
use std::collections::BTreeMap;

/// The place at which a target is reached with the least effort.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spot {
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
    pub least: Option<(Head, Spot)>,
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

/// Runs every scenario over an arrangement of the same layup.
pub fn run(layup: &Layup, a: &Arrangement) -> WaterAnswer {
    run_within(layup, a, None)
}

/// Runs every scenario as far as an effort of `limit`; what is harder to reach counts as never reached.
pub fn run_within(layup: &Layup, a: &Arrangement, limit: Option<Length>) -> WaterAnswer {
    let asked = |glue| layup.scenarios.iter().any(|s| s.glue == glue);
    let drained = |glue| asked(glue).then(|| Drainage::new(layup, a, glue));
    let (holds, lost) = rayon::join(|| drained(Glue::Holds), || drained(Glue::Lost));
    answers(layup, a, limit, &|glue| if glue == Glue::Holds { holds.as_ref() } else { lost.as_ref() })
}

/// Runs every scenario for its heads alone, as far as an effort of `limit`; what stands and cannot leave is not asked.
pub fn heads_within(layup: &Layup, a: &Arrangement, limit: Length) -> WaterAnswer {
    answers(layup, a, Some(limit), &|_| None)
}

fn answers<'d>(
    layup: &Layup,
    a: &Arrangement,
    limit: Option<Length>,
    drained: &(impl Fn(Glue) -> Option<&'d Drainage> + Sync),
) -> WaterAnswer {
    let answers: Vec<(Spread, Vec<Reach>, Vec<Pond>)> = (0..layup.scenarios.len())
        .into_par_iter()
        .map(|s| {
            let scenario = &layup.scenarios[s];
            let spread = Spread::within(layup, a, scenario, limit);
            let ponds = drained(scenario.glue).map_or_else(Vec::new, |d| ponds(layup, a, s, &spread, d));
            let mut reach = reach(layup, a, s, &spread);
            if let Some(limit) = limit.map(Length::to_inches_f64) {
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

/// The least head of every target in one scenario.
fn reach(layup: &Layup, a: &Arrangement, scenario: usize, spread: &Spread) -> Vec<Reach> {
    let mut least: Vec<Option<(Head, Spot)>> = vec![None; layup.targets.len()];
    spots(layup, a, spread, |target, head, spot| {
        if least[target].is_none_or(|(known, _)| head.inches() < known.inches()) {
            least[target] = Some((head, spot));
        }
    });
    least.into_iter().enumerate().map(|(target, least)| Reach { scenario, target, least }).collect()
}

/// Tells every place at which a target is reached: its index, the head there and where. The work is in proportion to what is wet.
pub fn spots(layup: &Layup, a: &Arrangement, spread: &Spread, mut tell: impl FnMut(usize, Head, Spot)) {
    let asked = |t: usize, cell: CellId, gap: usize| {
        let target = &layup.targets[t];
        let part = a.cell(cell).rect.intersection(target.at.rect)?;
        (target.depth == Depth::Any || gap == 0).then_some(part)
    };
    for (i, kept) in spread.kept.iter().enumerate() {
        for t in a.targets_on(kept.cell) {
            let Some(part) = asked(t, kept.cell, usize::from(kept.gap)) else { continue };
            let point = kept.front.least_in(part);
            let head = Head::from_units(kept.front.at(point.0, point.1));
            tell(t, head, Spot { cell: kept.cell, front: Some(i as u32), point });
        }
    }
    for (f, _) in layup.facets.iter().enumerate().filter(|(_, facet)| spread.rain && facet.exposed) {
        for cell in a.cells_of(FacetId(f)) {
            for t in a.targets_on(cell) {
                if let Some(part) = asked(t, cell, a.stack(cell).len()) {
                    let point = (part.u0.units() as f64, part.v0.units() as f64);
                    tell(t, Head::ZERO, Spot { cell, front: None, point });
                }
            }
        }
    }
}

/// The way to a spot.
pub fn way_to(layup: &Layup, a: &Arrangement, spread: &Spread, spot: &Spot) -> Way {
    match spot.front {
        Some(front) => Way::to(layup, a, spread, front, spot.point),
        None => Way::on_open_face(layup, a, spot.cell, spot.point),
    }
}

/// What is wet at no more than the drain head and cannot leave, gathered by facet and by what it stands on.
fn ponds(layup: &Layup, a: &Arrangement, scenario: usize, spread: &Spread, drainage: &Drainage) -> Vec<Pond> {
    let limit = layup.scenarios[scenario].drain_head.units() as f64;
    let mut found: BTreeMap<(FacetId, Option<SheetId>), [f64; 4]> = BTreeMap::new();
    for kept in &spread.kept {
        let gap = usize::from(kept.gap);
        if a.is_open_face(kept.cell, gap) {
            continue;
        }
        let Some(part) = drainage.trapped(layup, a, kept.cell, gap) else { continue };
        let Some(wet) = kept.front.within(part, limit) else { continue };
        let on = gap.checked_sub(1).map(|below| a.stack(kept.cell)[below].sheet);
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
