//! Lays tasks on the calendar: each as early as it can be in the order of an urgency, many urgencies tried, and a bound that nothing can beat.
//!
//! A schedule in which every task begins as early as those before it in some order let it contains a best one for every order tried in full; so orders
//! are what is searched. The bound is the larger of two: how long the longest chain takes with nobody in its way, and when each trade's crews can have
//! worked off what they have, with what has to come before and after it.

use super::instance::{Instance, Task, Window};
use crate::stop::Stop;
use serde::Serialize;

/// A task on the calendar.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LaidTask {
    /// When it begins, minutes since midnight of the first day.
    pub from: u32,
    /// When it ends.
    pub to: u32,
    /// Index of the crew.
    pub crew: usize,
}

/// How good a calendar is known to be.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Proof {
    /// When everything is done, minutes.
    pub finish: u32,
    /// Nothing ends earlier, minutes.
    pub bound: u32,
    /// True where they are the same and nothing is late: no calendar is better.
    pub best: bool,
    /// Minutes by which tasks are late for their deadlines, in all.
    pub late: u64,
    /// Orders that were tried.
    pub tried: usize,
}

/// Tasks on the calendar.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Calendar {
    /// Task by task.
    pub laid: Vec<LaidTask>,
    /// How good it is known to be.
    pub proof: Proof,
}

/// Why a task cannot be laid at all.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{id} finds no {minutes} min in a row from minute {from} on in which a crew works and it can be done")]
pub struct Nowhere {
    /// Index of the task.
    pub task: usize,
    /// Id, by which others name it.
    pub id: String,
    /// How long it takes.
    pub minutes: u32,
    /// From when it was looked for.
    pub from: u32,
}

/// Orders that are tried at most, and tasks that are laid in all of them together.
pub const MOST_TRIED: usize = 8_000;
const MOST_LAID: usize = 1_000_000;
/// The search ends after this many orders in a row without a better one.
const ENOUGH: usize = 2_000;

/// Stretches that are taken, in order.
#[derive(Clone, Debug, Default)]
struct Busy(Vec<Window>);

impl Busy {
    /// The first stretch that ends after `at`.
    fn from(&self, at: u32) -> usize {
        self.0.partition_point(|w| w[1] <= at)
    }
    /// Where one reaches into `at..to`: its end.
    fn in_the_way(&self, at: u32, to: u32) -> Option<u32> {
        self.0.get(self.from(at)).filter(|w| w[0] < to).map(|w| w[1])
    }
    /// Takes a stretch; what it joins becomes one with it, so that who looks for room passes a day of work at once and not task by task.
    fn take(&mut self, w: Window) {
        let at = self.from(w[0]);
        let ends_before = at.checked_sub(1).is_some_and(|i| self.0[i][1] == w[0]);
        let begins_after = self.0.get(at).is_some_and(|next| next[0] == w[1]);
        match (ends_before, begins_after) {
            (true, true) => self.0[at - 1][1] = self.0.remove(at)[1],
            (true, false) => self.0[at - 1][1] = w[1],
            (false, true) => self.0[at][0] = w[0],
            (false, false) => self.0.insert(at, w),
        }
    }
    fn clear(&mut self) {
        self.0.clear();
    }
}

/// The first start at or after `at` from which `minutes` fit into one of the windows.
fn fits(windows: &[Window], at: u32, minutes: u32) -> Option<u32> {
    let first = windows.partition_point(|w| w[1] <= at);
    windows[first..].iter().map(|w| (at.max(w[0]), w[1])).find(|(from, to)| to - from >= minutes).map(|(from, _)| from)
}

struct Solver<'a> {
    of: &'a Instance,
    order: Vec<usize>,
    then: Vec<Vec<(usize, u32)>>,
    /// Crews of each task.
    crews: Vec<Vec<usize>>,
    /// For each place those that are in its way, itself among them: who keeps away from another is kept away from.
    in_way: Vec<Vec<usize>>,
    /// What is taken, by crew and by place, while tasks are laid.
    by_crew: Vec<Busy>,
    by_place: Vec<Busy>,
}

impl<'a> Solver<'a> {
    fn new(of: &'a Instance, order: Vec<usize>) -> Self {
        let mut then = vec![Vec::new(); of.tasks.len()];
        for (i, t) in of.tasks.iter().enumerate() {
            for a in &t.after {
                then[a.task].push((i, a.minutes));
            }
        }
        let can = |t: &super::instance::Task| {
            (0..of.crews.len()).filter(|c| of.crews[*c].trades.contains(&t.trade)).collect()
        };
        let crews = of.tasks.iter().map(can).collect();
        let mut in_way: Vec<Vec<usize>> = (0..of.places.len()).map(|p| vec![p]).collect();
        for (p, spot) in of.places.iter().enumerate() {
            for &q in &spot.apart {
                in_way[p].push(q);
                in_way[q].push(p);
            }
        }
        Self {
            of,
            order,
            then,
            crews,
            in_way,
            by_crew: vec![Busy::default(); of.crews.len()],
            by_place: vec![Busy::default(); of.places.len()],
        }
    }

    /// The earliest start of a task with a crew, with what is taken in its way.
    fn earliest(&self, task: usize, crew: usize, mut at: u32, free: bool) -> Option<u32> {
        let t = &self.of.tasks[task];
        loop {
            let works = fits(&self.of.crews[crew].works, at, t.minutes)?;
            let open = t.open.as_deref().map_or(Some(works), |o| fits(o, works, t.minutes))?;
            let mut next = open;
            if !free {
                let to = open + t.minutes;
                next = next.max(self.by_crew[crew].in_the_way(open, to).unwrap_or(0));
                if let Some(p) = t.place {
                    for place in &self.in_way[p] {
                        next = next.max(self.by_place[*place].in_the_way(open, to).unwrap_or(0));
                    }
                }
            }
            // Every turn begins later: windows and what is taken are finite, so it ends.
            if next == open && open == works {
                return Some(open);
            }
            at = next;
        }
    }

    /// Lays tasks in the order of urgency, the smaller the sooner, as far as what comes before is laid; each by the crew that it is given to, else by the
    /// one that can begin first.
    fn lay(&mut self, Trial { urgency, given }: &Trial) -> Result<Vec<LaidTask>, Nowhere> {
        let n = self.of.tasks.len();
        self.by_crew.iter_mut().chain(&mut self.by_place).for_each(Busy::clear);
        let mut waits: Vec<usize> = self.of.tasks.iter().map(|t| t.after.len()).collect();
        let mut at: Vec<u32> = self.of.tasks.iter().map(|t| t.earliest).collect();
        let mut laid: Vec<Option<LaidTask>> = vec![None; n];
        let mut free: std::collections::BinaryHeap<Urgent> =
            (0..n).filter(|i| waits[*i] == 0).map(|i| Urgent(urgency[i], i)).collect();
        let mut last_place: Vec<Option<usize>> = vec![None; self.of.crews.len()];
        while let Some(Urgent(_, i)) = free.pop() {
            let t = &self.of.tasks[i];
            let crews = given[i].as_ref().map_or(&self.crews[i][..], std::slice::from_ref);
            let options = crews.iter().filter_map(|c| self.earliest(i, *c, at[i], false).map(|from| (from, *c)));
            // Of crews that begin at the same time the one that is there already.
            let best = options.min_by_key(|(from, c)| (*from, last_place[*c] != t.place, *c));
            let Some((from, crew)) = best else {
                return Err(Nowhere { task: i, id: t.id.clone(), minutes: t.minutes, from: at[i] });
            };
            let to = from + t.minutes;
            self.by_crew[crew].take([from, to]);
            if let Some(p) = t.place {
                self.by_place[p].take([from, to]);
                last_place[crew] = t.place;
            }
            laid[i] = Some(LaidTask { from, to, crew });
            for &(next, minutes) in &self.then[i] {
                at[next] = at[next].max(to + minutes);
                waits[next] -= 1;
                if waits[next] == 0 {
                    free.push(Urgent(urgency[next], next));
                }
            }
        }
        Ok(laid.into_iter().flatten().collect())
    }

    /// The earliest end of each task with nobody in its way.
    fn heads(&self) -> Result<Vec<u32>, Nowhere> {
        let mut at: Vec<u32> = self.of.tasks.iter().map(|t| t.earliest).collect();
        let mut ends = vec![0; self.of.tasks.len()];
        for &i in &self.order {
            let t = &self.of.tasks[i];
            let from = self.crews[i].iter().filter_map(|c| self.earliest(i, *c, at[i], true)).min();
            let from = from.ok_or_else(|| Nowhere { task: i, id: t.id.clone(), minutes: t.minutes, from: at[i] })?;
            ends[i] = from + t.minutes;
            for &(next, minutes) in &self.then[i] {
                at[next] = at[next].max(ends[i] + minutes);
            }
        }
        Ok(ends)
    }

    /// How long at least from the end of each task to the end of everything.
    fn tails(&self) -> Vec<u32> {
        let mut tails = vec![0; self.of.tasks.len()];
        for &i in self.order.iter().rev() {
            let after = self.then[i].iter().map(|&(next, minutes)| minutes + self.of.tasks[next].minutes + tails[next]);
            tails[i] = after.max().unwrap_or(0);
        }
        tails
    }

    /// Nothing ends earlier.
    fn bound(&self, heads: &[u32], tails: &[u32]) -> u32 {
        let chain = (0..heads.len()).map(|i| heads[i] + tails[i]).max().unwrap_or(0);
        // Crews that together have work nobody else can do: those of each trade, and everybody; with all of it, with what waits for the same weather, and
        // with all that waits for any.
        let mut groups: Vec<Vec<usize>> = self.crews.clone();
        groups.push((0..self.of.crews.len()).collect());
        groups.sort_unstable();
        groups.dedup();
        let mut skies: Vec<Vec<Window>> = self.of.tasks.iter().filter_map(|t| t.open.clone()).collect();
        skies.sort_unstable();
        skies.dedup();
        let any = together(&skies);
        let load = groups.iter().flat_map(|crews| {
            let bare = self.load(crews, heads, tails, None, |_| true);
            let all = self.load(crews, heads, tails, Some(&any), |o| o.is_some());
            let each = skies.iter().map(|sky| self.load(crews, heads, tails, Some(sky), |o| o == Some(sky))).max();
            [bare, all, each.unwrap_or(0)]
        });
        let load = load.max().unwrap_or(0);
        let places = (0..self.of.places.len()).map(|p| {
            let here: Vec<usize> = (0..heads.len()).filter(|i| self.of.tasks[*i].place == Some(p)).collect();
            let begin = here.iter().map(|i| heads[*i] - self.of.tasks[*i].minutes).min();
            let after = here.iter().map(|i| tails[*i]).min().unwrap_or(0);
            begin.map_or(0, |b| b + here.iter().map(|i| self.of.tasks[*i].minutes).sum::<u32>() + after)
        });
        chain.max(load).max(places.max().unwrap_or(0))
    }

    /// When crews can have worked off what only they can do: for the tasks that begin no earlier than each of them, the time at which all
    /// crews together have worked so long, and what has to follow the one that is followed by least.
    fn load(
        &self,
        crews: &[usize],
        heads: &[u32],
        tails: &[u32],
        sky: Option<&Vec<Window>>,
        of: impl Fn(Option<&Vec<Window>>) -> bool,
    ) -> u32 {
        let mut mine: Vec<(u32, u32, u32)> = (0..heads.len())
            .filter(|i| of(self.of.tasks[*i].open.as_ref()) && self.crews[*i].iter().all(|c| crews.contains(c)))
            .map(|i| (heads[i] - self.of.tasks[i].minutes, self.of.tasks[i].minutes, tails[i]))
            .collect();
        mine.sort_unstable_by(|a, b| b.cmp(a));
        let mut works: Vec<(u32, i32)> = crews
            .iter()
            .flat_map(|c| meet(&self.of.crews[*c].works, sky))
            .flat_map(|[a, b]| [(a, 1), (b, -1)])
            .collect();
        works.sort_unstable();
        let (mut minutes, mut least, mut best) = (0_u64, u32::MAX, 0);
        for (begins, takes, tail) in mine {
            minutes += u64::from(takes);
            least = least.min(tail);
            best = best.max(worked(&works, begins, minutes).saturating_add(least));
        }
        best
    }
}

/// All of several lists of windows as one.
fn together(all: &[Vec<Window>]) -> Vec<Window> {
    let mut every: Vec<Window> = all.iter().flatten().copied().collect();
    every.sort_unstable();
    let mut out: Vec<Window> = Vec::new();
    for w in every {
        match out.last_mut() {
            Some(last) if last[1] >= w[0] => last[1] = last[1].max(w[1]),
            _ => out.push(w),
        }
    }
    out
}

/// What two lists of windows have in common; all of the first where there is no second.
fn meet(a: &[Window], b: Option<&Vec<Window>>) -> Vec<Window> {
    let Some(b) = b else { return a.to_vec() };
    let mut out = Vec::new();
    let mut from = 0;
    for w in a {
        while from < b.len() && b[from][1] <= w[0] {
            from += 1;
        }
        out.extend(b[from..].iter().take_while(|o| o[0] < w[1]).map(|o| [w[0].max(o[0]), w[1].min(o[1])]));
    }
    out
}

/// When people whose comings and goings are `works` have worked so many minutes from `from` on, all together; never later than the last of them.
fn worked(works: &[(u32, i32)], from: u32, minutes: u64) -> u32 {
    let (mut here, mut at, mut left) = (0_i64, from, minutes);
    for &(time, change) in works {
        if time > at && here > 0 {
            let done = u64::from(time - at) * here as u64;
            if done >= left {
                return at + left.div_ceil(here as u64) as u32;
            }
            left -= done;
        }
        at = at.max(time);
        here += i64::from(change);
    }
    at
}

/// A task by how urgent it is, the smaller the sooner.
#[derive(PartialEq)]
struct Urgent(f64, usize);
impl Eq for Urgent {}
impl PartialOrd for Urgent {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}
impl Ord for Urgent {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        other.0.total_cmp(&self.0).then_with(|| other.1.cmp(&self.1))
    }
}

/// The same numbers in the same order each time, between 0 and 1 (xorshift, Marsaglia 2003).
struct Chance(u64);
impl Chance {
    fn next(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1_u64 << 53) as f64
    }
}

/// A task as it was agreed on.
pub type Agreed = Option<LaidTask>;

/// True where a task is on another day, or somebody else's, than was agreed on.
pub fn is_moved(agreed: &Agreed, now: &LaidTask) -> bool {
    agreed.is_some_and(|a| a.from / 1440 != now.from / 1440 || a.crew != now.crew)
}

fn cost(of: &Instance, laid: &[LaidTask], agreed: &[Agreed]) -> CalendarCost {
    let late =
        of.tasks.iter().zip(laid).map(|(t, l)| t.latest.map_or(0, |by| u64::from(l.to.saturating_sub(by)))).sum();
    let finish = laid.iter().map(|l| l.to).max().unwrap_or(0);
    let mut by_time: Vec<usize> = (0..laid.len()).collect();
    by_time.sort_unstable_by_key(|i| (laid[*i].crew, laid[*i].from));
    let moves = by_time
        .windows(2)
        .filter(|w| laid[w[0]].crew == laid[w[1]].crew && of.tasks[w[0]].place != of.tasks[w[1]].place)
        .count();
    let moved = agreed.iter().zip(laid).filter(|(a, l)| is_moved(a, l)).count();
    (late, moved, finish, moves)
}

/// An order to try: how urgent each task is, and to whom it is given, where that is said.
#[derive(Clone)]
struct Trial {
    urgency: Vec<f64>,
    given: Vec<Option<usize>>,
}

/// What is better, the smaller the better: minutes late, what is moved against what was agreed on, the end, ways between places.
type CalendarCost = (u64, usize, u32, usize);

struct BestCalendar {
    cost: CalendarCost,
    laid: Vec<LaidTask>,
    trial: Trial,
}

/// What was tried so far.
struct Search<'a> {
    of: &'a Instance,
    agreed: &'a [Agreed],
    best: Option<BestCalendar>,
    tried: usize,
    nowhere: Option<Nowhere>,
}

impl Search<'_> {
    /// Tries an order; true where it is better than any before.
    fn attempt(&mut self, solver: &mut Solver, trial: Trial) -> bool {
        self.tried += 1;
        let laid = match solver.lay(&trial) {
            Ok(laid) => laid,
            Err(e) => {
                self.nowhere.get_or_insert(e);
                return false;
            }
        };
        let cost = cost(self.of, &laid, self.agreed);
        let better = self.best.as_ref().is_none_or(|b| cost < b.cost);
        if better {
            self.best = Some(BestCalendar { cost, laid, trial });
        }
        better
    }

    /// The next order to try: near the best so far, or near the first again; now and then a task is given to another crew than the first that can.
    fn next(&self, n: usize, by_tail: &[f64], spread: f64, crews: &[Vec<usize>], chance: &mut Chance) -> Trial {
        let tasks = by_tail.len();
        let any = |chance: &mut Chance| ((chance.next() * tasks as f64) as usize).min(tasks - 1);
        let mut trial = match &self.best {
            // A task or two put right before or behind another.
            Some(best) if n % 4 < 2 => {
                let mut urgency: Vec<f64> = if n.is_multiple_of(4) {
                    best.trial.urgency.clone()
                } else {
                    best.laid.iter().map(|l| f64::from(l.from)).collect()
                };
                for _ in 0..=(chance.next() * 3.0) as usize {
                    let (moved, to) = (any(chance), any(chance));
                    urgency[moved] = urgency[to] + (chance.next() - 0.5);
                }
                Trial { urgency, given: best.trial.given.clone() }
            }
            // Many of them moved some way.
            Some(best) if n % 4 == 2 => {
                let width = spread * if n % 8 == 2 { 0.08 } else { 0.3 };
                let share = 0.05 + 0.3 * chance.next();
                let moved = |base: f64, chance: &mut Chance| {
                    if chance.next() < share { base + (chance.next() - 0.5) * width } else { base }
                };
                let urgency = best.laid.iter().map(|l| moved(f64::from(l.from), chance)).collect();
                Trial { urgency, given: best.trial.given.clone() }
            }
            _ => Trial {
                urgency: by_tail.iter().map(|u| u + (chance.next() - 0.5) * spread * 0.5).collect(),
                given: vec![None; by_tail.len()],
            },
        };
        let share = if n.is_multiple_of(2) { 0.3 } else { 0.05 };
        for (given, crews) in trial.given.iter_mut().zip(crews).filter(|(_, crews)| crews.len() > 1) {
            if chance.next() < share {
                let which = (chance.next() * (crews.len() + 1) as f64) as usize;
                *given = crews.get(which).copied();
            }
        }
        trial
    }
}

/// The same with nothing agreed on before.
///
/// # Errors
/// As [`solve_near`].
pub fn solve(of: &Instance, stop: &Stop) -> Result<Calendar, Nowhere> {
    solve_near(of, &[], Effort::Full, stop)
}

/// How many orders are tried where a calendar was agreed on. What is near it is found first.
const NEAR: usize = 300;

/// How much is tried.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Effort {
    /// As much as it takes, within bounds.
    Full,
    /// The three plainest orders: how long it takes, about.
    Quick,
}

/// Lays the tasks of an instance that has no [`Instance::problems`], as near as can be to what was agreed on, task by task. Ends when nothing can be
/// better, when enough was tried, or in a hurry with the best there is.
///
/// # Errors
/// The first task for which there is no time at all.
pub fn solve_near(of: &Instance, agreed: &[Agreed], effort: Effort, stop: &Stop) -> Result<Calendar, Nowhere> {
    // What was agreed on is not done before its day, though it could be.
    let day = |i: usize| agreed.get(i).copied().flatten().map_or(0, |a| a.from / 1440 * 1440);
    let floor = |(i, t): (usize, &Task)| Task { earliest: t.earliest.max(day(i)), ..t.clone() };
    let near = (!agreed.is_empty())
        .then(|| Instance { tasks: of.tasks.iter().enumerate().map(floor).collect(), ..of.clone() });
    let of = near.as_ref().unwrap_or(of);
    let order = of.order().unwrap_or_default();
    let mut solver = Solver::new(of, order);
    let heads = solver.heads()?;
    let tails = solver.tails();
    let bound = solver.bound(&heads, &tails);
    // The one with most behind it first; deadlines before that.
    let by_tail: Vec<f64> = (0..of.tasks.len())
        .map(|i| of.tasks[i].latest.map_or(0.0, |l| -1e9 + f64::from(l)) - f64::from(tails[i] + of.tasks[i].minutes))
        .collect();
    let by_head: Vec<f64> = (0..of.tasks.len()).map(|i| f64::from(heads[i])).collect();
    let in_order: Vec<f64> = (0..of.tasks.len()).map(|i| i as f64).collect();
    let mut search = Search { of, agreed, best: None, tried: 0, nowhere: None };
    if !agreed.is_empty() {
        // In the order that was agreed on; what is new comes behind what it waits for.
        let mut urgency: Vec<f64> = agreed.iter().map(|a| a.map_or(f64::NAN, |a| f64::from(a.from))).collect();
        for &i in &solver.order {
            if urgency[i].is_nan() {
                let before = of.tasks[i].after.iter().map(|a| urgency[a.task]).fold(0.0, f64::max);
                urgency[i] = before + 0.5;
            }
        }
        search.attempt(&mut solver, Trial { urgency, given: agreed.iter().map(|a| a.map(|a| a.crew)).collect() });
    }
    for urgency in [by_tail.clone(), in_order, by_head] {
        search.attempt(&mut solver, Trial { given: vec![None; urgency.len()], urgency });
    }
    let mut chance = Chance(0x9e37_79b9_7f4a_7c15);
    let mut since = 0;
    // The farther the longest chain reaches, the more an urgency is moved at once.
    let spread = tails.iter().zip(&of.tasks).map(|(t, task)| f64::from(t + task.minutes)).fold(1.0, f64::max);
    let most = match effort {
        Effort::Quick => 0,
        Effort::Full if agreed.is_empty() => MOST_TRIED,
        Effort::Full => NEAR,
    };
    for n in 0..(MOST_LAID / of.tasks.len().max(1)).min(most) {
        let done = search.best.as_ref().is_some_and(|b| b.cost.0 == 0 && b.cost.1 == 0 && b.cost.2 <= bound);
        if done || since >= ENOUGH || stop.is_hurried() || stop.is_stopped() {
            break;
        }
        let trial = search.next(n, &by_tail, spread, &solver.crews, &mut chance);
        since = if search.attempt(&mut solver, trial) { 0 } else { since + 1 };
    }
    let Search { best, tried, nowhere, .. } = search;
    match best {
        None => Err(nowhere.unwrap_or(Nowhere { task: 0, id: String::new(), minutes: 0, from: 0 })),
        Some(BestCalendar { cost: (late, _, finish, _), laid, .. }) => {
            let proof = Proof { finish, bound: bound.min(finish), best: late == 0 && finish <= bound, late, tried };
            Ok(Calendar { laid, proof })
        }
    }
}
