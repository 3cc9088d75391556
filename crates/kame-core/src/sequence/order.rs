//! Which orders of steps work, the nearest one that does, and where required overs run in a circle that only a lift breaks.
//!
//! # Properties
//! The nearest working order moves the fewest steps: those that stay are a largest set in which no two stand the wrong way round, which by
//! Dilworth's theorem is found by matching.

use crate::plan::{Part, Plan, SurfaceId};
use crate::recipe::{ReachSpec, Role};
use crate::surface::Along;
use crate::trade::{Act, CutId, FlapId, PieceId, SealId, Step, StepId};
use fixedbitset::FixedBitSet;
use foldhash::HashMap;
use smallvec::SmallVec;
use std::collections::{BTreeSet, VecDeque};
use std::sync::OnceLock;
use typed_index_collections::{TiSlice, TiVec};

/// What has to come before what: pairs of steps, by index in the plan, the earlier first.
#[derive(Clone, Debug)]
pub struct Needs {
    pairs: BTreeSet<(StepId, StepId)>,
    steps: usize,
    after: OnceLock<TiVec<StepId, FixedBitSet>>,
}

/// A step that another order moves.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MovedStep {
    /// Which step.
    pub step: StepId,
    /// Behind which it stands then; `None` at the start.
    pub after: Option<StepId>,
}

/// An order that works.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct WorkingOrder {
    /// All steps.
    pub order: Vec<StepId>,
    /// What was moved, the fewest steps that do.
    pub moved: Vec<MovedStep>,
}

/// Required overs that run in a circle, and the lift that breaks it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Loop {
    /// The pieces in the circle, each under the next, the last under the first.
    pub parts: Vec<String>,
    /// The flap that is lifted.
    pub flap: FlapId,
    /// Lifted just before this step.
    pub lift_before: StepId,
    /// Dropped just after this step.
    pub drop_after: StepId,
    /// Steps during which it has to be held up.
    pub held: usize,
    /// Steps during which the order in force holds it up; `None` where it is not lifted and dropped round them.
    pub held_now: Option<usize>,
}

/// Steps that do something to one thing: mostly one or two.
type Steps = SmallVec<[StepId; 2]>;

/// Which steps do what, each found once.
struct Doing {
    laying: TiVec<PieceId, Steps>,
    barrier: Vec<Steps>,
    hanging: Vec<Steps>,
    lifting: TiVec<FlapId, Steps>,
    dropping: TiVec<FlapId, Steps>,
    cutting: TiVec<CutId, Steps>,
    cutting_at: Vec<Steps>,
    sealing: TiVec<SealId, Steps>,
    about: TiVec<PieceId, Steps>,
}

impl Doing {
    fn of(plan: &Plan) -> Self {
        let none = |n: usize| vec![Steps::new(); n];
        let (pieces, flaps, stretches) = (plan.pieces.len(), plan.flaps.len(), plan.walls.stretches.len());
        let mut out = Self {
            laying: none(pieces).into(),
            barrier: none(stretches),
            hanging: none(stretches),
            lifting: none(flaps).into(),
            dropping: none(flaps).into(),
            cutting: none(plan.cuts.len()).into(),
            cutting_at: none(plan.openings.len()),
            sealing: none(plan.seals.len()).into(),
            about: none(pieces).into(),
        };
        let opening_of: HashMap<&str, usize> =
            plan.openings.iter().enumerate().map(|(i, o)| (o.id.as_str(), i)).collect();
        // A repair does again what was done: it stands where what it mends was found.
        for (s, step) in plan.steps.iter_enumerated().filter(|(_, s)| !plan.is_of_a_repair(s)) {
            let note = |list: &mut Steps| {
                if list.last() != Some(&s) {
                    list.push(s);
                }
            };
            for a in &step.actions {
                if let Some(piece) = a.act.placed() {
                    note(&mut out.laying[piece]);
                    if plan.pieces[piece].role == Role::Barrier {
                        note(&mut out.barrier[plan.pieces[piece].stretch]);
                    }
                }
                match a.act {
                    Act::Place { piece, .. } if plan.pieces[piece].role.is_barrier() => {
                        note(&mut out.hanging[plan.pieces[piece].stretch]);
                    }
                    Act::Lift { flap } => note(&mut out.lifting[flap]),
                    Act::Drop { flap } => note(&mut out.dropping[flap]),
                    Act::Seal { seal } => note(&mut out.sealing[seal]),
                    Act::Cut { cut } => {
                        note(&mut out.cutting[cut]);
                        if let Some(o) = step.opening.as_ref().and_then(|id| opening_of.get(id.as_str())) {
                            note(&mut out.cutting_at[*o]);
                        }
                    }
                    Act::Press { piece } | Act::Wait { piece: Some(piece) } | Act::Remove { piece: Some(piece) } => {
                        note(&mut out.about[piece]);
                    }
                    _ => {}
                }
            }
        }
        out
    }

    /// Steps that lay a part.
    fn laying(&self, part: Part) -> &[StepId] {
        match part {
            Part::Piece(p) => &self.laying[p],
            Part::Flap(f) => &self.dropping[f],
            Part::Barrier(s) => &self.barrier[s],
        }
    }
}

impl Needs {
    /// What the acts themselves need, and what the required overs ask. Steps left out ask nothing.
    pub fn of(plan: &Plan) -> Self {
        Self::among(plan, &Doing::of(plan))
    }

    fn among(plan: &Plan, doing: &Doing) -> Self {
        let mut pairs = BTreeSet::new();
        each_need(plan, doing, |earlier, later| {
            pairs.insert((earlier, later));
        });
        Self { pairs, steps: plan.steps.len(), after: OnceLock::new() }
    }

    /// For each step every step that has to come after it, directly or not; found when it is first asked for.
    fn after(&self) -> &TiSlice<StepId, FixedBitSet> {
        self.after.get_or_init(|| {
            let mut after: TiVec<StepId, _> = vec![FixedBitSet::with_capacity(self.steps); self.steps].into();
            for &(a, b) in &self.pairs {
                after[a].insert(b.0);
            }
            // What comes later is settled first, so one round does for all but circles.
            let later_first = self.later_first();
            loop {
                let mut grown = false;
                for &a in &later_first {
                    let mut all = after[a].clone();
                    after[a].ones().for_each(|b| all.union_with(&after[StepId(b)]));
                    grown |= all != after[a];
                    after[a] = all;
                }
                if !grown {
                    break after;
                }
            }
        })
    }

    /// Every step behind those that have to come after it, as far as no circle is in the way.
    fn later_first(&self) -> Vec<StepId> {
        let mut waits_for: TiVec<StepId, usize> = vec![0; self.steps].into();
        let mut before: TiVec<StepId, Vec<StepId>> = vec![Vec::new(); self.steps].into();
        for &(a, b) in &self.pairs {
            waits_for[a] += 1;
            before[b].push(a);
        }
        let mut out: Vec<StepId> = waits_for.keys().filter(|s| waits_for[*s] == 0).collect();
        let mut next = 0;
        while let Some(&b) = out.get(next) {
            next += 1;
            for &a in &before[b] {
                waits_for[a] -= 1;
                if waits_for[a] == 0 {
                    out.push(a);
                }
            }
        }
        out.extend(waits_for.keys().filter(|s| waits_for[*s] > 0));
        out
    }

    /// True where the later step has to come after the earlier, directly or not.
    pub fn waits(&self, earlier: StepId, later: StepId) -> bool {
        self.after()[earlier].contains(later.0)
    }

    /// True where some of these steps, in this order, stand the wrong way round because of others or directly.
    pub fn broken_among(&self, order: &[StepId]) -> bool {
        order
            .iter()
            .enumerate()
            .any(|(i, later)| order[..i].iter().any(|earlier| self.after()[*later].contains(earlier.0)))
    }

    /// Pairs that stand the wrong way round in an order.
    pub fn broken(&self, order: &[StepId]) -> Vec<(StepId, StepId)> {
        let place = places(order);
        self.pairs.iter().copied().filter(|(a, b)| place[*a] > place[*b]).collect()
    }
}

/// Tells of each two steps that the first has to come before the second; of some more than once.
fn each_need(plan: &Plan, doing: &Doing, mut told: impl FnMut(StepId, StepId)) {
    let mut before = |earlier: &[StepId], later: &[StepId]| {
        for &a in earlier {
            later.iter().filter(|b| **b != a).for_each(|b| told(a, *b));
        }
    };
    // What is no barrier, by where it lies on the wall.
    let mut on_wall = Along::default();
    for (p, piece) in plan.pieces.iter_enumerated().filter(|(_, p)| !p.role.is_barrier()) {
        let regions = piece.regions.iter().filter(|(on, r)| *on == SurfaceId::WALL && r.has_area());
        regions.for_each(|(_, r)| on_wall.put(*r, p));
    }
    for o in &plan.overs {
        before(doing.laying(o.lower), doing.laying(o.upper));
    }
    for (c, cut) in plan.cuts.iter_enumerated() {
        let cutting = &doing.cutting[c];
        if !cutting.is_empty() {
            before(&doing.hanging[cut.stretch], cutting);
        }
        for (f, rect) in &cut.flaps {
            let (lift, drop) = (&doing.lifting[*f], &doing.dropping[*f]);
            before(cutting, lift);
            before(lift, drop);
            // What comes to lie where the flap is goes there while it is held up, or after it has dropped.
            on_wall.reaching(*rect, |_, p| before(lift, doing.laying(Part::Piece(p))));
        }
    }
    for (s, seal) in plan.seals.iter_enumerated() {
        let (sealing, piece) = (&doing.sealing[s], doing.laying(Part::Piece(seal.behind)));
        match seal.reach {
            ReachSpec::Before => before(sealing, piece),
            ReachSpec::After => before(piece, sealing),
        }
    }
    let mut units: Vec<SmallVec<[PieceId; 1]>> = vec![SmallVec::new(); plan.openings.len()];
    for (u, piece) in plan.pieces.iter_enumerated().filter(|(_, p)| p.solid) {
        piece.opening.into_iter().for_each(|o| units[o].push(u));
    }
    for (p, piece) in plan.pieces.iter_enumerated() {
        let laid = doing.laying(Part::Piece(p));
        before(laid, &doing.about[p]);
        let inside = piece.regions.iter().find_map(|(on, _)| plan.surfaces[*on].opening);
        let Some(opening) = inside else { continue };
        before(&doing.cutting_at[opening], laid);
        // Nothing gets behind the unit in the opening once it is set.
        if !piece.solid {
            for &unit in &units[opening] {
                let meets = piece.regions.iter().any(|(on, r)| {
                    plan.surfaces[*on].opening.is_some()
                        && plan.pieces[unit].regions.iter().any(|(other, q)| other == on && q.overlaps(*r))
                });
                if meets {
                    before(laid, doing.laying(Part::Piece(unit)));
                }
            }
        }
    }
}

fn places(order: &[StepId]) -> TiVec<StepId, usize> {
    let mut place: TiVec<StepId, usize> = vec![usize::MAX; order.len()].into();
    for (i, s) in order.iter().enumerate() {
        place[*s] = i;
    }
    place
}

/// The working order that moves the fewest steps of the order in force.
pub fn nearest_working_order(plan: &Plan) -> WorkingOrder {
    nearest(plan, &Doing::of(plan))
}

fn nearest(plan: &Plan, doing: &Doing) -> WorkingOrder {
    let order = &plan.order;
    let place = places(order);
    // Most orders work: to see that nothing need be kept.
    let mut broken = false;
    each_need(plan, doing, |earlier, later| broken |= place[earlier] > place[later]);
    if !broken {
        return WorkingOrder { order: order.clone(), moved: Vec::new() };
    }
    let needs = Needs::among(plan, doing);
    // By their places: each step with those that stand before it and have to come after it.
    let wrong: Vec<Vec<usize>> = order
        .iter()
        .enumerate()
        .map(|(at, s)| needs.after()[*s].ones().map(|b| place[StepId(b)]).filter(|b| *b < at).collect())
        .collect();
    let moved: BTreeSet<StepId> = fewest_to_move(&wrong).into_iter().map(|at| order[at]).collect();
    let out = Scheduler::new(&needs, order, &moved).run();
    let now = places(&out);
    let before = |s: StepId| now[s].checked_sub(1).map(|i| out[i]);
    let moved = moved.iter().map(|&step| MovedStep { step, after: before(step) }).collect();
    WorkingOrder { order: out, moved }
}

/// Puts steps in order: those that stay keep theirs; of the steps that may come next the one that stands first in the order in force is taken.
struct Scheduler<'a> {
    needs: &'a Needs,
    order: &'a [StepId],
    place: TiVec<StepId, usize>,
    moves: TiVec<StepId, bool>,
    /// For each step those that directly have to come after it, and how many have to come before it and are not there yet.
    later: TiVec<StepId, Vec<StepId>>,
    waits_for: TiVec<StepId, usize>,
    done: TiVec<StepId, bool>,
    /// Steps that move and may come next, by their places in the order in force.
    free: BTreeSet<usize>,
    /// Places of those that stay, from the first that is not there yet.
    staying: Vec<usize>,
    first_staying: usize,
}

impl<'a> Scheduler<'a> {
    fn new(needs: &'a Needs, order: &'a [StepId], moved: &BTreeSet<StepId>) -> Self {
        let mut later: TiVec<StepId, Vec<StepId>> = vec![Vec::new(); order.len()].into();
        let mut waits_for: TiVec<StepId, usize> = vec![0; order.len()].into();
        for &(a, b) in &needs.pairs {
            later[a].push(b);
            waits_for[b] += 1;
        }
        let mut moves: TiVec<StepId, bool> = vec![false; order.len()].into();
        moved.iter().for_each(|s| moves[*s] = true);
        let at = |wanted: bool| order.iter().enumerate().filter(move |(_, s)| moved.contains(s) == wanted);
        Self {
            free: at(true).filter(|(_, s)| waits_for[**s] == 0).map(|(i, _)| i).collect(),
            staying: at(false).map(|(i, _)| i).collect(),
            first_staying: 0,
            place: places(order),
            done: vec![false; order.len()].into(),
            needs,
            order,
            moves,
            later,
            waits_for,
        }
    }

    fn run(mut self) -> Vec<StepId> {
        let mut out = Vec::with_capacity(self.order.len());
        let mut first_waiting = 0;
        while out.len() < self.order.len() {
            while self.done[self.order[first_waiting]] {
                first_waiting += 1;
            }
            // Needs that run in a circle leave nothing free: the order in force goes on.
            let next = self.next().unwrap_or(self.order[first_waiting]);
            self.take(next);
            out.push(next);
        }
        out
    }

    /// The step that comes next, where one may.
    fn next(&self) -> Option<StepId> {
        let head = self.staying.get(self.first_staying).copied();
        let ready = head.filter(|at| self.waits_for[self.order[*at]] == 0);
        // A step that moves back goes as late as what needs it allows: right before the first that does.
        let due = |at: &usize| {
            head.is_none_or(|head| self.needs.after()[self.order[*at]].contains(self.order[head].0) || *at < head)
        };
        let moving = self.free.iter().copied().find(due);
        let first = [ready, moving].into_iter().flatten().min();
        first.or_else(|| self.free.first().copied()).map(|at| self.order[at])
    }

    fn take(&mut self, step: StepId) {
        self.done[step] = true;
        self.free.remove(&self.place[step]);
        while self.staying.get(self.first_staying).is_some_and(|at| self.done[self.order[*at]]) {
            self.first_staying += 1;
        }
        for i in 0..self.later[step].len() {
            let b = self.later[step][i];
            self.waits_for[b] = self.waits_for[b].saturating_sub(1);
            if self.waits_for[b] == 0 && self.moves[b] && !self.done[b] {
                self.free.insert(self.place[b]);
            }
        }
    }
}

/// The fewest of some things so that no two of the rest are in the relation `wrong`, which is transitive and given for each by those it is in it
/// with: the rest is a largest antichain.
fn fewest_to_move(wrong: &[Vec<usize>]) -> BTreeSet<usize> {
    let n = wrong.len();
    let mut taken: Vec<Option<usize>> = vec![None; n];
    let mut seen = vec![usize::MAX; n];
    for a in 0..n {
        augment(a, wrong, &mut taken, &mut seen);
    }
    // König: what is reached from unmatched left ends by alternating ways; the cover is left not reached and right reached.
    let mut matched = vec![false; n];
    taken.iter().flatten().for_each(|a| matched[*a] = true);
    let (mut left, mut right) = (vec![false; n], vec![false; n]);
    let mut waiting: Vec<usize> = (0..n).filter(|a| !matched[*a]).collect();
    while let Some(a) = waiting.pop() {
        if std::mem::replace(&mut left[a], true) {
            continue;
        }
        for &b in &wrong[a] {
            if !std::mem::replace(&mut right[b], true)
                && let Some(other) = taken[b]
            {
                waiting.push(other);
            }
        }
    }
    (0..n).filter(|&i| !left[i] || right[i]).collect()
}

/// Finds a partner for `root`, moving others to other partners where that makes room. The way there is kept in a list, as it may be as long as
/// there are things.
fn augment(root: usize, wrong: &[Vec<usize>], taken: &mut [Option<usize>], seen: &mut [usize]) {
    // Each on the way with the next partner to try.
    let mut way: Vec<(usize, usize)> = vec![(root, 0)];
    while let Some((a, next)) = way.last_mut() {
        let Some(&b) = wrong[*a].get(*next) else {
            way.pop();
            continue;
        };
        *next += 1;
        if std::mem::replace(&mut seen[b], root) == root {
            continue;
        }
        match taken[b] {
            Some(other) => way.push((other, 0)),
            None => {
                // Everybody on the way takes the partner tried last.
                for (a, next) in way {
                    taken[wrong[a][next - 1]] = Some(a);
                }
                return;
            }
        }
    }
}

/// Circles of required overs through a flap, taken as part of its sheet, each with the shortest lift that breaks it.
pub fn loops(plan: &Plan) -> Vec<Loop> {
    loops_in(plan, &Doing::of(plan))
}

/// The nearest working order, and the circles.
pub fn order_and_loops(plan: &Plan) -> (WorkingOrder, Vec<Loop>) {
    let doing = Doing::of(plan);
    (nearest(plan, &doing), loops_in(plan, &doing))
}

fn loops_in(plan: &Plan, doing: &Doing) -> Vec<Loop> {
    let mut out = Vec::new();
    let place = places(&plan.order);
    let mut lowers_of: HashMap<FlapId, Vec<Part>> = HashMap::default();
    for o in &plan.overs {
        if let Part::Flap(f) = o.upper {
            lowers_of.entry(f).or_default().push(o.lower);
        }
    }
    let climbed: Vec<HashMap<Part, Part>> =
        (0..plan.walls.stretches.len()).map(|s| climbed(plan, Part::Barrier(s))).collect();
    let stretch_of: HashMap<FlapId, usize> =
        plan.cuts.iter().flat_map(|c| c.flaps.iter().map(|(f, _)| (*f, c.stretch))).collect();
    for f in plan.flaps.keys() {
        let lowers = lowers_of.remove(&f).unwrap_or_default();
        let Some(&s) = stretch_of.get(&f) else { continue };
        // From the sheet upward to what has to lie under its own flap.
        let Some((way, _)) = lowers
            .iter()
            .filter_map(|l| Some((way_up(&climbed[s], Part::Barrier(s), *l)?, l)))
            .min_by_key(|(w, _)| w.len())
        else {
            continue;
        };
        let mut laid: Vec<StepId> = lowers.iter().flat_map(|l| doing.laying(*l)).copied().collect();
        laid.sort_by_key(|s| place[*s]);
        let (Some(&first), Some(&last)) = (laid.first(), laid.last()) else { continue };
        let one = |steps: &[StepId]| steps.iter().find(|s| !plan.is_removed(&plan.steps[**s].id)).map(|s| place[*s]);
        let (lift, drop) = (one(&doing.lifting[f]), one(&doing.dropping[f]));
        let held_now = match (lift, drop) {
            (Some(l), Some(d)) if l < place[first] && d > place[last] => Some(d - l - 1),
            _ => None,
        };
        out.push(Loop {
            parts: way.iter().map(|p| plan.part_name(*p).to_owned()).collect(),
            flap: f,
            lift_before: first,
            drop_after: last,
            held: place[last] - place[first] + 1,
            held_now,
        });
    }
    out
}

/// For every part that can be climbed to by required overs, the part below it on the shortest chain.
fn climbed(plan: &Plan, from: Part) -> HashMap<Part, Part> {
    let mut above: HashMap<Part, Vec<Part>> = HashMap::default();
    for o in &plan.overs {
        above.entry(o.lower).or_default().push(o.upper);
    }
    let mut below = HashMap::default();
    let mut waiting = VecDeque::from([from]);
    while let Some(part) = waiting.pop_front() {
        for &upper in above.get(&part).into_iter().flatten() {
            if upper != from && !below.contains_key(&upper) {
                below.insert(upper, part);
                waiting.push_back(upper);
            }
        }
    }
    below
}

/// The chain from one part up to another.
fn way_up(below: &HashMap<Part, Part>, from: Part, to: Part) -> Option<Vec<Part>> {
    let mut way = vec![to];
    while *way.last()? != from {
        way.push(*below.get(way.last()?)?);
    }
    way.reverse();
    Some(way)
}

impl MovedStep {
    /// What is moved where, in words.
    pub fn words(&self, plan: &Plan) -> String {
        let title = |s: StepId| {
            let Step { title, opening, .. } = &*plan.steps[s];
            opening.as_ref().map_or_else(|| format!("\"{title}\""), |o| format!("\"{title}\" ({o})"))
        };
        match self.after {
            Some(a) => format!("{} after {}", title(self.step), title(a)),
            None => format!("{} to the start", title(self.step)),
        }
    }
}
