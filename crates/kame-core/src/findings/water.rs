//! Findings that the water makes: one for each cause, not for each place it wets.

use super::remedy::Wall;
use super::{Finding, Fix, Part, RAIN_KIND, Severity, notes, words};
use crate::layup::{Glue, SheetId};
use crate::length::Head;
use crate::plan::{AsBuilt, Plan, SurfaceId};
use crate::surface::{Edge, FacetId};
use crate::water::answer::{Spot, spots, way_to};
use crate::water::{Entered, Entries, PassageKind, Way};
use rayon::prelude::*;
use std::collections::BTreeMap;
use std::collections::btree_map::Entry;

/// What tells causes apart: behind which piece the water first gets in, at which edge, and whether through a slit; `None` an open place.
type Cause = Option<(usize, Edge, bool)>;

/// Heads that differ by less than this are alike, in: they were added up in different orders.
const ALIKE: f64 = 1e-6;

/// One cause with the places it reaches.
struct Caught<'a> {
    part: &'a Part,
    /// Index of the scenario in the part's layup.
    scenario: usize,
    head: Head,
    /// How many edges the water passes.
    passages: usize,
    /// Index of the plan's target that tells it.
    target: usize,
    spot: Spot,
    /// Index of the plan's target and the least head there.
    reached: BTreeMap<usize, Head>,
}

/// Leaks, glue and ponds.
pub fn findings(wall: &Wall) -> Vec<Finding> {
    let (plan, moment) = (wall.plan, wall.moment);
    let mut out = Vec::new();
    let mut leaking: Vec<Cause> = Vec::new();
    // With the glue holding first, then with it lost; rain first, then leaks in the plan's order; the same cause in neighbouring parts is one.
    let each: Vec<Vec<(Water, Causes)>> = moment.parts.par_iter().map(|part| of_part(plan, part)).collect();
    let mut all: BTreeMap<Water, Causes> = BTreeMap::new();
    for (scenario, causes) in each.into_iter().flatten() {
        let found = all.entry(scenario).or_default();
        for (cause, caught) in causes {
            match found.entry(cause) {
                Entry::Vacant(e) => {
                    e.insert(caught);
                }
                Entry::Occupied(mut e) => e.get_mut().join(caught),
            }
        }
    }
    for (cause, c) in all.into_values().flatten() {
        let lost = c.part.is_lost(c.scenario);
        if lost && leaking.contains(&cause) {
            continue;
        }
        if !lost {
            leaking.push(cause);
        }
        out.push(finding(wall, &c));
    }
    merge(&mut out);
    for pond in moment.ponds(plan).into_iter().filter(|p| p.glue == Glue::Holds) {
        let (surface, on) = (pond.on, pond.piece);
        let (reason, mut remedy) = words::pond(plan, surface, on, &words::water_name(plan, pond.leak, false));
        // A bead dams the opening it is at, and no other; what stands open at an edge lets in what stands behind it.
        let here = plan.surfaces[surface.0].opening.or_else(|| on.and_then(|p| plan.pieces[p].opening));
        let [u0, v0, u1, v1] = pond.rect;
        let explains = |a: &&AsBuilt| {
            let (at, r) = a.place();
            let [a0, b0, a1, b1] = r.to_inches();
            let touches = at == surface && a0 <= u1 && u0 <= a1 && b0 <= v1 && v0 <= b1;
            match a {
                AsBuilt::Bead { piece, .. } => plan.pieces[*piece].opening == here,
                AsBuilt::Mouth { .. } | AsBuilt::Short { .. } => touches,
                AsBuilt::OffLevel { .. } => false,
            }
        };
        let (mut code, mut fix, mut reason, mut pieces) = ("W-POND", None, reason, Vec::new());
        if let Some(a) = plan.as_built.iter().find(explains) {
            let (deviation, fault) = notes::deviation(plan, a);
            let (because, words) = notes::as_built_words(plan, a);
            (reason, remedy, pieces) = (format!("{because} {reason}"), words, vec![plan.pieces[a.piece()].id.clone()]);
            (code, fix) = (fault, Some(Fix::PutRight { deviation }));
        }
        if let Some(id) = on.map(|p| plan.pieces[p].id.clone()).filter(|id| !pieces.contains(id)) {
            pieces.push(id);
        }
        out.push(Finding {
            code: code.into(),
            severity: Severity::Pond,
            water: kind_of(plan, pond.leak).to_owned(),
            lost: false,
            scenario: pond.scenario,
            pieces,
            place: (surface, pond.rect),
            along: None,
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

/// What kind of water a leak of the plan is, `None` rain.
fn kind_of(plan: &Plan, leak: Option<usize>) -> &str {
    leak.map_or(RAIN_KIND, |l| &plan.leaks[l].kind)
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

/// Causes by what tells them apart.
type Causes<'a> = BTreeMap<Cause, Caught<'a>>;

impl Caught<'_> {
    /// The same cause found elsewhere: the least head at each place, and the easier way. Of ways that are equally easy the plainest is told,
    /// and of those the one that runs farthest down; of two alike the first by target and from left to right, in whatever order they were found.
    fn join(&mut self, other: Self) {
        for (target, head) in &other.reached {
            let least = self.reached.entry(*target).or_insert(*head);
            if head.inches() < least.inches() {
                *least = *head;
            }
        }
        let telling = |c: &Self| (c.passages, c.spot.point.1, c.target, c.spot.point.0);
        let easier = self.head.inches() - other.head.inches();
        if easier > ALIKE || easier.abs() <= ALIKE && telling(&other) < telling(self) {
            let reached = std::mem::take(&mut self.reached);
            *self = Self { reached, ..other };
        }
    }

    fn way(&self) -> Way {
        way_to(self.part.layup(), self.part.arrangement(), &self.part.answer().spreads[self.scenario], &self.spot)
    }
}

/// A scenario in terms of the plan: whether the glue is lost, and the leak it comes from, `None` rain.
type Water = (bool, Option<usize>);

/// The causes of one part by scenario.
fn of_part<'a>(plan: &Plan, part: &'a Part) -> Vec<(Water, Causes<'a>)> {
    let scenarios = part.leaks.iter().enumerate();
    scenarios.map(|(s, leak)| ((part.is_lost(s), *leak), caught(plan, part, s))).collect()
}

/// The causes of one part in one scenario.
fn caught<'a>(plan: &Plan, part: &'a Part, scenario: usize) -> Causes<'a> {
    let mut found = Causes::new();
    let (layup, a) = (part.layup(), part.arrangement());
    let lost = part.is_lost(scenario);
    let floor = plan.floor(lost);
    let spread = &part.answer().spreads[scenario];
    let mut entries = Entries::new(a, spread);
    spots(layup, a, spread, floor, |t, head, spot| {
        let target = part.targets[t];
        if !part.counts(plan, scenario, target) || head.inches() >= floor.to_inches_f64() - 1e-6 {
            return;
        }
        let entered = spot.front.map_or_else(Entered::default, |front| entries.of(front));
        let through = |(sheet, edge, kind): (SheetId, Edge, PassageKind)| {
            (part.pieces[sheet.0], edge, kind == PassageKind::InThroughCut)
        };
        let (cause, passages) = (entered.first.map(through), entered.passages);
        let new = Caught { part, scenario, head, passages, target, spot, reached: [(target, head)].into() };
        match found.entry(cause) {
            Entry::Vacant(e) => {
                e.insert(new);
            }
            Entry::Occupied(mut e) => e.get_mut().join(new),
        }
    });
    found
}

/// True where the first is easier for the water, or as easy and runs farther down.
fn tells_more(a: &Finding, b: &Finding) -> bool {
    let inches = |f: &Finding| f.head.map_or(f64::INFINITY, Head::inches);
    let foot = |f: &Finding| f.way.as_ref().and_then(|w| w.points.last()).map_or(f64::INFINITY, |p| p.v);
    let less = |a: f64, b: f64| b - a > ALIKE;
    less(inches(a), inches(b)) || !less(inches(b), inches(a)) && less(foot(a), foot(b))
}

/// What one remedy mends is one finding, told by its easiest way.
fn merge(found: &mut Vec<Finding>) {
    let mut kept: Vec<Finding> = Vec::new();
    for f in found.drain(..) {
        let same = |k: &&mut Finding| k.fix.is_some() && k.fix == f.fix && k.lost == f.lost;
        match kept.iter_mut().find(same) {
            Some(k) if tells_more(&f, k) => *k = f,
            Some(_) => {}
            None => kept.push(f),
        }
    }
    *found = kept;
}

/// The way with what the water does next.
fn run_on(c: &Caught, way: Way) -> Way {
    let Some(front) = c.spot.front else { return way };
    let (layup, answer) = (c.part.layup(), c.part.answer());
    let kept = &answer.spreads[c.scenario].kept[front as usize];
    let glue = layup.scenarios[c.scenario].glue;
    way.run_on(layup, c.part.arrangement(), glue, kept.cell, usize::from(kept.gap), c.spot.point)
}

/// A way in terms of the plan.
fn on_plan(part: &Part, way: Way) -> Way {
    way.renamed(|f| FacetId(part.surfaces[f.0].0), |s| SheetId(part.pieces[s.0]))
}

fn finding(wall: &Wall, c: &Caught) -> Finding {
    let (plan, moment) = (wall.plan, wall.moment);
    let scenario = &c.part.layup().scenarios[c.scenario];
    let lost = scenario.glue == Glue::Lost;
    let traced = c.way();
    let way = on_plan(c.part, traced.clone());
    let r = wall.of_way(&way, lost);
    let mut pieces: Vec<usize> = r.piece.into_iter().collect();
    for p in &way.passages {
        if !pieces.contains(&p.sheet.0) {
            pieces.push(p.sheet.0);
        }
    }
    let code = r.code.unwrap_or_else(|| if lost { "W-GLUE".into() } else { "W-LEAK".into() });
    let at = way.entry().and_then(|p| way.points.get(p.point)).or(way.points.first());
    let place = at
        .map_or((SurfaceId::WALL, [0.0; 4]), |p| (SurfaceId(p.facet.0), [p.u - 1.0, p.v - 1.0, p.u + 1.0, p.v + 1.0]));
    let water = words::water_name(plan, c.part.leaks[c.scenario], lost);
    let severity = match &r.fix {
        _ if !lost => Severity::Leak,
        // Not as planned, and dry only because something else holds.
        Some(Fix::Restore { .. }) => Severity::Missing,
        Some(Fix::Move { .. }) => Severity::Order,
        Some(Fix::PutRight { .. }) => Severity::Fault,
        Some(Fix::Figure { .. }) | None => Severity::Glue,
    };
    let mut reason = words::leak(plan, &water, c.part.leaks[c.scenario].is_some(), &way, &c.reached);
    if lost && severity != Severity::Glue {
        let held = words::held_by(plan, moment, &way);
        reason = format!("Dry only because of {}. {reason}", held.unwrap_or_else(|| "glue".into()));
    }
    if !r.because.is_empty() {
        reason = format!("{} {reason}", r.because);
    }
    Finding {
        code,
        severity,
        water: kind_of(plan, c.part.leaks[c.scenario]).to_owned(),
        lost,
        scenario: scenario.id.clone(),
        pieces: pieces.iter().map(|p| plan.pieces[*p].id.clone()).collect(),
        place,
        along: None,
        head: Some(c.head),
        reason,
        remedy: r.words,
        fix: r.fix,
        way: Some(on_plan(c.part, run_on(c, traced))),
    }
}
