//! Which orders of steps work, the nearest one that does, and where required overs run in a circle that only a lift breaks.
//!
//! # Properties
//! The nearest working order moves the fewest steps: those that stay are a largest set in which no two stand the wrong way round, which by
//! Dilworth's theorem is found by matching.

use super::action::{Act, Step};
use crate::detail::recipe::{ReachSpec, Role};
use crate::plan::{Part, Plan, SurfaceId};
use crate::surface::Along;
use std::collections::{BTreeSet, HashMap, VecDeque};
use std::sync::OnceLock;

/// What has to come before what: pairs of steps, by index in the plan, the earlier first.
#[derive(Clone, Debug)]
pub struct Needs {
    pairs: BTreeSet<(usize, usize)>,
    steps: usize,
    after: OnceLock<Vec<BTreeSet<usize>>>,
}

/// A step that another order moves.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Moved {
    /// Which step.
    pub step: usize,
    /// Behind which it stands then; `None` at the start.
    pub after: Option<usize>,
}

/// An order that works.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct WorkingOrder {
    /// All steps.
    pub order: Vec<usize>,
    /// What was moved, the fewest steps that do.
    pub moved: Vec<Moved>,
}

/// Required overs that run in a circle, and the lift that breaks it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Loop {
    /// The pieces in the circle, each under the next, the last under the first.
    pub parts: Vec<String>,
    /// The flap that is lifted.
    pub flap: usize,
    /// Lifted just before this step.
    pub lift_before: usize,
    /// Dropped just after this step.
    pub drop_after: usize,
    /// Steps during which it has to be held up.
    pub held: usize,
    /// Steps during which the order in force holds it up; `None` where it is not lifted and dropped round them.
    pub held_now: Option<usize>,
}

/// Which steps do what, each found once.
#[derive(Default)]
struct Doing {
    laying: HashMap<usize, Vec<usize>>,
    barrier: HashMap<usize, Vec<usize>>,
    hanging: HashMap<usize, Vec<usize>>,
    lifting: HashMap<usize, Vec<usize>>,
    dropping: HashMap<usize, Vec<usize>>,
    cutting: HashMap<usize, Vec<usize>>,
    cutting_at: HashMap<usize, Vec<usize>>,
    sealing: HashMap<usize, Vec<usize>>,
    about: HashMap<usize, Vec<usize>>,
}

impl Doing {
    fn of(plan: &Plan) -> Self {
        let mut out = Self::default();
        let opening_of: HashMap<&str, usize> =
            plan.openings.iter().enumerate().map(|(i, o)| (o.id.as_str(), i)).collect();
        for (s, step) in plan.steps.iter().enumerate() {
            let note = |list: &mut Vec<usize>| {
                if list.last() != Some(&s) {
                    list.push(s);
                }
            };
            for a in &step.actions {
                if let Some(piece) = a.act.placed() {
                    note(out.laying.entry(piece).or_default());
                    if plan.pieces[piece].role == Role::Barrier {
                        note(out.barrier.entry(plan.pieces[piece].stretch).or_default());
                    }
                }
                match a.act {
                    Act::Place { piece, .. } if plan.pieces[piece].role.is_barrier() => {
                        note(out.hanging.entry(plan.pieces[piece].stretch).or_default());
                    }
                    Act::Lift { flap } => note(out.lifting.entry(flap).or_default()),
                    Act::Drop { flap } => note(out.dropping.entry(flap).or_default()),
                    Act::Seal { seal } => note(out.sealing.entry(seal).or_default()),
                    Act::Cut { cut } => {
                        note(out.cutting.entry(cut).or_default());
                        if let Some(o) = step.opening.as_ref().and_then(|id| opening_of.get(id.as_str())) {
                            note(out.cutting_at.entry(*o).or_default());
                        }
                    }
                    Act::Press { piece } | Act::Wait { piece: Some(piece) } | Act::Remove { piece: Some(piece) } => {
                        note(out.about.entry(piece).or_default());
                    }
                    _ => {}
                }
            }
        }
        out
    }

    /// Steps that lay a part.
    fn laying(&self, part: Part) -> &[usize] {
        match part {
            Part::Piece(p) => listed(&self.laying, p),
            Part::Flap(f) => listed(&self.dropping, f),
            Part::Barrier(s) => listed(&self.barrier, s),
        }
    }
}

fn listed(map: &HashMap<usize, Vec<usize>>, key: usize) -> &[usize] {
    map.get(&key).map_or(&[], Vec::as_slice)
}

impl Needs {
    /// What the acts themselves need, and what the required overs ask. Steps left out ask nothing.
    pub fn of(plan: &Plan) -> Self {
        let mut pairs = BTreeSet::new();
        let mut before = |earlier: &[usize], later: &[usize]| {
            for &a in earlier {
                pairs.extend(later.iter().filter(|b| **b != a).map(|&b| (a, b)));
            }
        };
        let doing = Doing::of(plan);
        // What is no barrier, by where it lies on the wall.
        let mut on_wall = Along::default();
        for (p, piece) in plan.pieces.iter().enumerate().filter(|(_, p)| !p.role.is_barrier()) {
            let regions = piece.regions.iter().filter(|(on, r)| *on == SurfaceId::WALL && r.has_area());
            regions.for_each(|(_, r)| on_wall.put(*r, p));
        }
        for o in &plan.overs {
            before(doing.laying(o.lower), doing.laying(o.upper));
        }
        for (c, cut) in plan.cuts.iter().enumerate() {
            let cutting = listed(&doing.cutting, c);
            if !cutting.is_empty() {
                before(listed(&doing.hanging, cut.stretch), cutting);
            }
            for (f, rect) in &cut.flaps {
                let (lift, drop) = (listed(&doing.lifting, *f), listed(&doing.dropping, *f));
                before(cutting, lift);
                before(lift, drop);
                // What comes to lie where the flap is goes there while it is held up, or after it has dropped.
                on_wall.reaching(*rect, |_, p| before(lift, doing.laying(Part::Piece(p))));
            }
        }
        for (s, seal) in plan.seals.iter().enumerate() {
            let (sealing, piece) = (listed(&doing.sealing, s), doing.laying(Part::Piece(seal.behind)));
            match seal.reach {
                ReachSpec::Before => before(sealing, piece),
                ReachSpec::After => before(piece, sealing),
            }
        }
        let mut units: HashMap<usize, Vec<usize>> = HashMap::new();
        for (u, piece) in plan.pieces.iter().enumerate().filter(|(_, p)| p.solid) {
            piece.opening.into_iter().for_each(|o| units.entry(o).or_default().push(u));
        }
        for (p, piece) in plan.pieces.iter().enumerate() {
            let laid = doing.laying(Part::Piece(p));
            before(laid, listed(&doing.about, p));
            let inside = piece.regions.iter().find_map(|(on, _)| plan.surfaces[on.0].opening);
            let Some(opening) = inside else { continue };
            before(listed(&doing.cutting_at, opening), laid);
            // Nothing gets behind the unit in the opening once it is set.
            if !piece.solid {
                for &unit in listed(&units, opening) {
                    let meets = piece.regions.iter().any(|(on, r)| {
                        plan.surfaces[on.0].opening.is_some()
                            && plan.pieces[unit].regions.iter().any(|(other, q)| other == on && q.overlaps(*r))
                    });
                    if meets {
                        before(laid, doing.laying(Part::Piece(unit)));
                    }
                }
            }
        }
        Self { pairs, steps: plan.steps.len(), after: OnceLock::new() }
    }

    /// For each step every step that has to come after it, directly or not; found when it is first asked for.
    fn after(&self) -> &[BTreeSet<usize>] {
        self.after.get_or_init(|| {
            let mut after = vec![BTreeSet::new(); self.steps];
            for &(a, b) in &self.pairs {
                after[a].insert(b);
            }
            // Closure: short chains, so a few rounds settle it.
            loop {
                let mut grown = false;
                for a in 0..after.len() {
                    let further: BTreeSet<usize> = after[a].iter().flat_map(|b| after[*b].iter().copied()).collect();
                    let size = after[a].len();
                    after[a].extend(further);
                    grown |= after[a].len() > size;
                }
                if !grown {
                    break after;
                }
            }
        })
    }

    /// True where some of these steps, in this order, stand the wrong way round because of others or directly.
    pub fn broken_among(&self, order: &[usize]) -> bool {
        order
            .iter()
            .enumerate()
            .any(|(i, later)| order[..i].iter().any(|earlier| self.after()[*later].contains(earlier)))
    }

    /// Pairs that stand the wrong way round in an order.
    pub fn broken(&self, order: &[usize]) -> Vec<(usize, usize)> {
        let place = places(order);
        self.pairs.iter().copied().filter(|(a, b)| place[*a] > place[*b]).collect()
    }
}

fn places(order: &[usize]) -> Vec<usize> {
    let mut place = vec![usize::MAX; order.len()];
    for (i, s) in order.iter().enumerate() {
        place[*s] = i;
    }
    place
}

/// The working order that moves the fewest steps of the order in force.
pub fn nearest_working_order(plan: &Plan) -> WorkingOrder {
    let needs = Needs::of(plan);
    let order = &plan.order;
    if needs.broken(order).is_empty() {
        return WorkingOrder { order: order.clone(), moved: Vec::new() };
    }
    let place = places(order);
    let wrong = |a: usize, b: usize| needs.after()[a].contains(&b) && place[a] > place[b];
    let moved = fewest_to_move(order.len(), wrong);
    // Those that stay keep their order; of the steps that may come next the one that stands first is taken, those that stay before others.
    let mut waiting: Vec<usize> = order.clone();
    let mut out: Vec<usize> = Vec::with_capacity(order.len());
    while !waiting.is_empty() {
        let free = |s: &usize| {
            let blocked = waiting.iter().any(|w| needs.after()[*w].contains(s));
            let stays_behind =
                !moved.contains(s) && waiting.iter().any(|w| !moved.contains(w) && place[*w] < place[*s]);
            !blocked && !stays_behind
        };
        // A step that moves back goes as late as what needs it allows: right before the first that does.
        let due = |s: &usize| {
            !moved.contains(s)
                || waiting
                    .iter()
                    .filter(|w| !moved.contains(w))
                    .min_by_key(|w| place[**w])
                    .is_none_or(|next| needs.after()[*s].contains(next) || place[*s] < place[*next])
        };
        let next = waiting.iter().copied().filter(free).find(due).or_else(|| waiting.iter().copied().find(free));
        // Needs that run in a circle leave nothing free: the order in force goes on.
        let next = next.unwrap_or(waiting[0]);
        waiting.retain(|w| *w != next);
        out.push(next);
    }
    let before = |s: usize| out.iter().position(|o| *o == s).and_then(|i| i.checked_sub(1)).map(|i| out[i]);
    let moved = moved.iter().map(|&step| Moved { step, after: before(step) }).collect();
    WorkingOrder { order: out, moved }
}

/// The fewest of `n` things so that no two of the rest are in the relation `wrong`, which is transitive: the rest is a largest antichain.
fn fewest_to_move(n: usize, wrong: impl Fn(usize, usize) -> bool) -> BTreeSet<usize> {
    let next: Vec<Vec<usize>> = (0..n).map(|a| (0..n).filter(|&b| wrong(a, b)).collect()).collect();
    let mut taken: Vec<Option<usize>> = vec![None; n];
    fn augment(a: usize, next: &[Vec<usize>], taken: &mut [Option<usize>], seen: &mut [bool]) -> bool {
        for &b in &next[a] {
            if std::mem::replace(&mut seen[b], true) {
                continue;
            }
            if taken[b].is_none_or(|other| augment(other, next, taken, seen)) {
                taken[b] = Some(a);
                return true;
            }
        }
        false
    }
    for a in 0..n {
        augment(a, &next, &mut taken, &mut vec![false; n]);
    }
    // König: what is reached from unmatched left ends by alternating ways; the cover is left not reached and right reached.
    let matched: BTreeSet<usize> = taken.iter().flatten().copied().collect();
    let (mut left, mut right) = (vec![false; n], vec![false; n]);
    let mut waiting: Vec<usize> = (0..n).filter(|a| !matched.contains(a)).collect();
    while let Some(a) = waiting.pop() {
        if std::mem::replace(&mut left[a], true) {
            continue;
        }
        for &b in &next[a] {
            if !std::mem::replace(&mut right[b], true)
                && let Some(other) = taken[b]
            {
                waiting.push(other);
            }
        }
    }
    (0..n).filter(|&i| !left[i] || right[i]).collect()
}

/// Circles of required overs through a flap, taken as part of its sheet, each with the shortest lift that breaks it.
pub fn loops(plan: &Plan) -> Vec<Loop> {
    let mut out = Vec::new();
    let place = places(&plan.order);
    let doing = Doing::of(plan);
    let mut lowers_of: HashMap<usize, Vec<Part>> = HashMap::new();
    for o in &plan.overs {
        if let Part::Flap(f) = o.upper {
            lowers_of.entry(f).or_default().push(o.lower);
        }
    }
    let climbed: Vec<HashMap<Part, Part>> =
        (0..plan.stretches.len()).map(|s| climbed(plan, Part::Barrier(s))).collect();
    let stretch_of: HashMap<usize, usize> =
        plan.cuts.iter().flat_map(|c| c.flaps.iter().map(|(f, _)| (*f, c.stretch))).collect();
    for (f, _) in plan.flaps.iter().enumerate() {
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
        let mut laid: Vec<usize> = lowers.iter().flat_map(|l| doing.laying(*l)).copied().collect();
        laid.sort_by_key(|s| place[*s]);
        let (Some(&first), Some(&last)) = (laid.first(), laid.last()) else { continue };
        let one = |steps: &[usize]| steps.iter().find(|s| !plan.is_removed(&plan.steps[**s].id)).map(|s| place[*s]);
        let (lift, drop) = (one(listed(&doing.lifting, f)), one(listed(&doing.dropping, f)));
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
    let mut above: HashMap<Part, Vec<Part>> = HashMap::new();
    for o in &plan.overs {
        above.entry(o.lower).or_default().push(o.upper);
    }
    let mut below = HashMap::new();
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

impl Moved {
    /// What is moved where, in words.
    pub fn words(&self, plan: &Plan) -> String {
        let title = |s: usize| {
            let Step { title, opening, .. } = &plan.steps[s];
            opening.as_ref().map_or_else(|| format!("\"{title}\""), |o| format!("\"{title}\" ({o})"))
        };
        match self.after {
            Some(a) => format!("{} after {}", title(self.step), title(a)),
            None => format!("{} to the start", title(self.step)),
        }
    }
}
