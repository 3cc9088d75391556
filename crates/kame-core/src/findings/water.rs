//! Findings that the water makes: one for each cause, not for each place it wets.

use super::place::piece_of;
use super::remedy::Wall;
use super::ways::{self, ALIKE, Entrance, WayIn, WaysAsked, WaysIn};
use super::{Finding, Fix, RAIN_KIND, Severity, WallPart, notes, words};
use crate::layup::{Glue, SheetId};
use crate::length::Head;
use crate::plan::{AsBuilt, Plan, SurfaceId};
use crate::recipe::Role;
use crate::surface::{Edge, FacetId};
use crate::trade::{Act, PieceId};
use crate::water::WaterWay;
use rayon::prelude::*;
use std::collections::btree_map::Entry;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// What tells causes apart: behind which piece the water first gets in, at which edge, and whether through a slit; `None` an open place.
type CauseKey = Option<(PieceId, Edge, bool)>;

/// One cause with the places it reaches.
struct Caught<'a> {
    part: &'a WallPart,
    /// Index of the scenario in the part's layup.
    scenario: usize,
    /// The part's ways in, and which of them tells it.
    ways: Arc<WaysIn>,
    entrance: Entrance,
    /// Index of the plan's target and the least head there.
    reached: BTreeMap<usize, Head>,
}

/// Leaks, glue and ponds.
pub fn findings(wall: &Wall) -> Vec<Finding> {
    let (plan, moment) = (wall.plan, wall.moment);
    let mut leaking: BTreeSet<CauseKey> = BTreeSet::new();
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
    let mut told: Vec<Caught> = Vec::new();
    for (cause, c) in all.into_values().flatten() {
        let lost = c.part.is_lost(c.scenario);
        if lost && leaking.contains(&cause) {
            continue;
        }
        if !lost {
            leaking.insert(cause);
        }
        told.push(c);
    }
    let mut out: Vec<Finding> = told.par_iter().map(|c| finding(wall, c)).collect();
    merge(&mut out);
    for pond in moment.ponds(plan).into_iter().filter(|p| p.glue == Glue::Holds) {
        let (surface, on) = (pond.on, pond.piece);
        let (reason, mut remedy) = words::pond(plan, surface, on, &words::water_name(plan, pond.leak, false));
        // A bead dams the opening it is at, and no other; what stands open at an edge lets in what stands behind it.
        let here = plan.surfaces[surface].opening.or_else(|| on.and_then(|p| plan.pieces[p].opening));
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
        let as_it_was = |a: &&AsBuilt| !moment.stage.is_renewed(a.piece());
        if let Some(a) = plan.departures.as_built.iter().filter(as_it_was).find(explains) {
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
            feature: None,
            lean: None,
            way: None,
        });
    }
    merge_ponds(&mut out);
    out
}

/// What kind of water a leak of the plan is, `None` rain.
fn kind_of(plan: &Plan, leak: Option<usize>) -> &str {
    leak.map_or(RAIN_KIND, |l| &plan.water.leaks[l].kind)
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
type Causes<'a> = BTreeMap<CauseKey, Caught<'a>>;

impl Caught<'_> {
    fn way_in(&self) -> &WayIn {
        &self.ways[self.scenario][&self.entrance]
    }

    /// The same cause found elsewhere: the least head at each place, and the easier way; of ways that are equally easy the more telling one, in
    /// whatever order they were found.
    fn join(&mut self, other: Self) {
        for (target, head) in &other.reached {
            let least = self.reached.entry(*target).or_insert(*head);
            if head.inches() < least.inches() {
                *least = *head;
            }
        }
        let telling = |c: &Self| {
            let w = c.way_in();
            (w.passages, w.spot.point.1, c.part.targets[w.target], w.spot.point.0)
        };
        let easier = self.way_in().head.inches() - other.way_in().head.inches();
        if easier > ALIKE || easier.abs() <= ALIKE && telling(&other) < telling(self) {
            let reached = std::mem::take(&mut self.reached);
            *self = Self { reached, ..other };
        }
    }
}

/// A scenario in terms of the plan: whether the glue is lost, and the leak it comes from, `None` rain.
type Water = (bool, Option<usize>);

/// The causes of one part by scenario.
fn of_part<'a>(plan: &Plan, part: &'a WallPart) -> Vec<(Water, Causes<'a>)> {
    let ways = part.ways_in(WaysAsked::of(plan, part), |asked| ways::of_part(part, asked));
    let in_scenario = |(scenario, leak): (usize, &Option<usize>)| {
        let mut causes = Causes::new();
        for (entrance, way_in) in &ways[scenario] {
            let cause = entrance.map(|(sheet, edge, slit)| (part.pieces[sheet.0], edge, slit));
            let reached = way_in.reached.iter().map(|(t, head)| (part.targets[*t], *head)).collect();
            let new = Caught { part, scenario, ways: Arc::clone(&ways), entrance: *entrance, reached };
            match causes.entry(cause) {
                Entry::Vacant(e) => {
                    e.insert(new);
                }
                Entry::Occupied(mut e) => e.get_mut().join(new),
            }
        }
        ((part.is_lost(scenario), *leak), causes)
    };
    part.leaks.iter().enumerate().map(in_scenario).collect()
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

/// A way in terms of the plan.
pub(super) fn on_plan(part: &WallPart, way: WaterWay) -> WaterWay {
    way.renamed(|f| FacetId(part.surfaces[f.0].0), |s| SheetId(part.pieces[s.0].0))
}

fn finding(wall: &Wall, c: &Caught) -> Finding {
    let (plan, moment) = (wall.plan, wall.moment);
    let scenario = &c.part.layup().scenarios[c.scenario];
    let lost = scenario.glue == Glue::Lost;
    let (traced, runs_on) = c.way_in().traced(c.part, c.scenario);
    let way = on_plan(c.part, traced.clone());
    let r = wall.of_way(&way, lost);
    let mut pieces: Vec<PieceId> = r.piece.into_iter().collect();
    for p in &way.passages {
        if !pieces.contains(&piece_of(p.sheet)) {
            pieces.push(piece_of(p.sheet));
        }
    }
    let behind_head = |l: &usize| {
        let leak = &plan.water.leaks[*l];
        let first = way.passages.first().is_some_and(|p| plan.pieces[piece_of(p.sheet)].role == Role::Head);
        if lost || !first || leak.fault.is_empty() {
            return None;
        }
        // The flap was never lifted: what belongs under it is stuck on it.
        let of = leak.id.split('/').next();
        let here = plan.steps.iter().filter(|s| s.opening.as_deref() == of);
        let mut lifts =
            here.flat_map(|s| s.actions.iter().map(move |a| (s, a))).filter(|(_, a)| matches!(a.act, Act::Lift { .. }));
        let unlifted = lifts.any(|(s, a)| plan.is_removed(&s.id) || plan.is_removed(&a.id));
        unlifted.then(|| leak.fault.clone())
    };
    let by_water = c.part.leaks[c.scenario].as_ref().and_then(behind_head);
    let code = by_water.or(r.code).unwrap_or_else(|| if lost { "W-GLUE".into() } else { "W-LEAK".into() });
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
        head: Some(c.way_in().head),
        reason,
        remedy: r.words,
        fix: r.fix,
        feature: None,
        lean: None,
        way: Some(on_plan(c.part, runs_on.clone())),
    }
}
