//! Findings that the water makes: one for each cause, not for each place it wets.

use super::order::Broken;
use super::{Finding, Fix, Moment, Severity, notes, remedy, words};
use crate::layup::{Glue, SheetId};
use crate::length::Head;
use crate::plan::{AsBuilt, Over, Plan, SurfaceId};
use crate::surface::Edge;
use crate::water::answer::{Spot, spots, way_to};
use crate::water::{PassageKind, Way};
use std::collections::BTreeMap;

/// What tells causes apart: behind which sheet the water first gets in, at which edge, and whether through a slit; `None` an open place.
type Cause = Option<(SheetId, Edge, bool)>;

/// One cause with the places it reaches.
struct Caught {
    head: Head,
    way: Way,
    spot: Spot,
    /// Index of the plan's target and the least head there.
    reached: BTreeMap<usize, Head>,
}

/// Leaks, glue and ponds.
pub fn findings(plan: &Plan, moment: &Moment, broken: &[Broken], missing: &[&Over]) -> Vec<Finding> {
    let mut out = Vec::new();
    let mut leaking: Vec<Cause> = Vec::new();
    for (s, scenario) in moment.asked.layup.scenarios.iter().enumerate() {
        let lost = scenario.glue == Glue::Lost;
        let floor = plan.figures.length(if lost { "floor_laps" } else { "floor_rain" });
        let caught = caught(plan, moment, s, Head::from_inches(floor.to_inches_f64()));
        for (cause, c) in caught {
            if lost && leaking.contains(&cause) {
                continue;
            }
            if !lost {
                leaking.push(cause);
            }
            out.push(finding(plan, moment, s, &c, broken, missing));
        }
    }
    merge(&mut out);
    for pond in &moment.answer.ponds {
        let scenario = &moment.asked.layup.scenarios[pond.scenario];
        if scenario.glue == Glue::Lost {
            continue;
        }
        let surface = moment.asked.surfaces[pond.facet.0];
        let on = pond.on.map(|s| moment.asked.pieces[s.0]);
        let (reason, mut remedy) = words::pond(plan, surface, on, &words::water_name(plan, moment, pond.scenario));
        // A bead dams the opening it is at, and no other.
        let here = plan.surfaces[surface.0].opening.or_else(|| on.and_then(|p| plan.pieces[p].opening));
        let dams = |a: &&AsBuilt| matches!(**a, AsBuilt::Bead { piece, .. } if plan.pieces[piece].opening == here);
        let bead = plan.as_built.iter().find(dams);
        let (mut code, mut fix) = ("W-POND", None);
        if let Some(bead) = bead {
            let (deviation, fault) = notes::deviation(plan, bead);
            remedy = format!(
                "Take the bead out from under the {}: what gets into the pan has to get out.",
                words::piece(plan, &deviation.piece)
            );
            (code, fix) = (fault, Some(Fix::PutRight { deviation }));
        }
        out.push(Finding {
            code: code.into(),
            severity: Severity::Pond,
            scenario: scenario.id.clone(),
            pieces: on.map(|p| plan.pieces[p].id.clone()).into_iter().collect(),
            place: (surface, pond.rect),
            head: None,
            reason,
            remedy,
            fix,
            way: None,
        });
    }
    merge_ponds(&mut out);
    out
}

/// Ponds that one remedy drains are one finding.
fn merge_ponds(found: &mut Vec<Finding>) {
    let mut drained: Vec<Fix> = Vec::new();
    found.retain(|f| match &f.fix {
        Some(fix) if f.severity == Severity::Pond => {
            let new = !drained.contains(fix);
            drained.extend(new.then(|| fix.clone()));
            new
        }
        _ => true,
    });
}

fn caught(plan: &Plan, moment: &Moment, scenario: usize, floor: Head) -> Vec<(Cause, Caught)> {
    let (layup, a) = (&moment.asked.layup, &moment.arrangement);
    let spread = &moment.answer.spreads[scenario];
    let openings_only = moment.asked.leaks[scenario].is_some_and(|l| plan.leaks[l].openings_only);
    let mut found: BTreeMap<String, (Cause, Caught)> = BTreeMap::new();
    spots(layup, a, spread, |t, head, spot| {
        let target = moment.asked.targets[t];
        let other = openings_only && plan.targets[target].on == SurfaceId::WALL;
        if other || head.inches() >= floor.inches() - 1e-6 {
            return;
        }
        let way = way_to(layup, a, spread, &spot);
        let cause = cause(&way, &spot);
        let entry = found
            .entry(format!("{cause:?}"))
            .or_insert_with(|| (cause, Caught { head, way: way.clone(), spot, reached: BTreeMap::new() }));
        let c = &mut entry.1;
        let least = c.reached.entry(target).or_insert(head);
        if head.inches() < least.inches() {
            *least = head;
        }
        // Of ways that are equally easy the plainest is told, and of those the one that runs farthest down.
        let telling = |w: &Way| (w.passages.len(), w.points.last().map_or(f64::INFINITY, |p| p.v));
        let tells_better = head.inches() == c.head.inches() && telling(&way) < telling(&c.way);
        if head.inches() < c.head.inches() || tells_better {
            (c.head, c.way, c.spot) = (head, way, spot);
        }
    });
    found.into_values().collect()
}

fn cause(way: &Way, spot: &Spot) -> Cause {
    spot.front.and(way.entry()).map(|p| (p.sheet, p.edge, p.kind == PassageKind::InThroughCut))
}

/// True where the first is easier for the water, or as easy and runs farther down.
fn tells_more(a: &Finding, b: &Finding) -> bool {
    let inches = |f: &Finding| f.head.map_or(f64::INFINITY, Head::inches);
    let foot = |f: &Finding| f.way.as_ref().and_then(|w| w.points.last()).map_or(f64::INFINITY, |p| p.v);
    (inches(a), foot(a)) < (inches(b), foot(b))
}

/// What one remedy mends is one finding, told by its easiest way.
fn merge(found: &mut Vec<Finding>) {
    let mut kept: Vec<Finding> = Vec::new();
    for f in found.drain(..) {
        let same = |k: &&mut Finding| k.fix.is_some() && k.fix == f.fix && k.code == f.code && k.scenario == f.scenario;
        match kept.iter_mut().find(same) {
            Some(k) if tells_more(&f, k) => *k = f,
            Some(_) => {}
            None => kept.push(f),
        }
    }
    *found = kept;
}

/// The way with what the water does next.
fn run_on(moment: &Moment, scenario: usize, c: &Caught) -> Way {
    let Some(front) = c.spot.front else { return c.way.clone() };
    let kept = &moment.answer.spreads[scenario].kept[front as usize];
    let glue = moment.asked.layup.scenarios[scenario].glue;
    c.way.clone().run_on(&moment.asked.layup, &moment.arrangement, glue, kept.cell, usize::from(kept.gap), c.spot.point)
}

fn finding(plan: &Plan, moment: &Moment, scenario: usize, c: &Caught, broken: &[Broken], missing: &[&Over]) -> Finding {
    let lost = moment.asked.layup.scenarios[scenario].glue == Glue::Lost;
    let r = remedy::for_way(plan, moment, &c.way, c.head, lost, broken, missing);
    let pieces: Vec<String> = {
        let mut seen: Vec<usize> = Vec::new();
        for p in &c.way.passages {
            let piece = moment.asked.pieces[p.sheet.0];
            if !seen.contains(&piece) {
                seen.push(piece);
            }
        }
        seen.iter().map(|p| plan.pieces[*p].id.clone()).collect()
    };
    let code = r.code.unwrap_or_else(|| if lost { "W-GLUE".into() } else { "W-LEAK".into() });
    let at = c.way.entry().and_then(|p| c.way.points.get(p.point)).or(c.way.points.first());
    let place = at.map_or((SurfaceId::WALL, [0.0; 4]), |p| {
        (moment.asked.surfaces[p.facet.0], [p.u - 1.0, p.v - 1.0, p.u + 1.0, p.v + 1.0])
    });
    let fix: Option<Fix> = r.fix;
    Finding {
        code,
        severity: if lost { Severity::Glue } else { Severity::Leak },
        scenario: moment.asked.layup.scenarios[scenario].id.clone(),
        pieces,
        place,
        head: Some(c.head),
        reason: words::leak(plan, moment, scenario, &c.way, &c.reached),
        remedy: r.words,
        fix,
        way: Some(run_on(moment, scenario, c)),
    }
}
