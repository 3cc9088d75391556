//! Put it in order: steps are laid one by one, and the stack they built is rained on.

use super::chance::{between, shuffled};
use super::drill::{FULL, Graded, HINT, MOST_ANSWERED, Said, WASTED};
use crate::findings::{Finding, KnownWater, Moment, State, why_not};
use crate::job::SequenceSpec;
use crate::layup::Bond;
use crate::plan::Plan;
use crate::problem::Problem;
use crate::remedies::is_cause_of_worry;
use crate::sequence::{Needs, Stage};
use crate::trade::{Step, StepId};
use rand_xorshift::XorShiftRng;
use std::collections::HashSet;

/// What is to be put in order.
#[derive(Clone, Debug)]
pub struct OrderTask {
    /// Ids of the steps that are done already.
    pub done: Vec<String>,
    /// Those to lay, mixed.
    pub to_lay: Vec<String>,
    /// The same in an order that works.
    pub right: Vec<String>,
}

/// How many steps are put in order at each level.
const STEPS: [usize; 5] = [3, 4, 5, 6, 7];
/// From this level on, of so many runs of steps the one is taken in which most steps wait for others.
const TIGHTEST_FROM: u8 = 5;
const TIGHTEST_OF: usize = 6;

pub(super) fn task(plan: &Plan, level: u8, rng: &mut XorShiftRng) -> Result<OrderTask, String> {
    let steps: Vec<&Step> = plan.order.iter().map(|s| &*plan.steps[*s]).collect();
    let matters = |s: &Step| s.actions.iter().any(|a| a.act.matters_to_water());
    let mattering: Vec<usize> = (0..steps.len()).filter(|i| matters(steps[*i])).collect();
    let wanted = STEPS[usize::from(level.clamp(1, 5)) - 1];
    if mattering.len() < 2 {
        return Err("fewer than two steps".into());
    }
    let n = wanted.min(mattering.len());
    // The last ones before the covers are the most telling: they begin somewhere in the second half.
    let most = u32::try_from(mattering.len() - n).unwrap_or(0);
    let mut drawn = |from: u32| between(rng, from, most) as usize;
    let at = if level < TIGHTEST_FROM {
        drawn(most / 2)
    } else {
        let needs = Needs::of(plan);
        let waits = |at: usize| {
            let of: Vec<StepId> = mattering[at..at + n].iter().map(|i| plan.order[*i]).collect();
            of.iter().enumerate().map(|(i, s)| of[..i].iter().filter(|e| needs.waits(**e, *s)).count()).sum::<usize>()
        };
        let all: Vec<usize> = (0..TIGHTEST_OF).map(|_| drawn(0)).collect();
        // The first of those that are as tight.
        all.into_iter().rev().max_by_key(|at| waits(*at)).unwrap_or_default()
    };
    let chosen = &mattering[at..at + n];
    let first = chosen[0];
    let ids = |of: &[usize]| of.iter().map(|i| steps[*i].id.clone()).collect::<Vec<_>>();
    let right = ids(chosen);
    let mut to_lay = right.clone();
    for _ in 0..4 {
        shuffled(rng, &mut to_lay);
        if to_lay != right {
            break;
        }
    }
    Ok(OrderTask { done: steps[..first].iter().map(|s| s.id.clone()).collect(), to_lay, right })
}

/// The plan with the steps in the learner's order: what is done already, then those, then the rest.
fn in_order(wall: &Plan, task: &OrderTask, steps: &[String]) -> Plan {
    let mut plan = wall.clone();
    let named: HashSet<&String> = task.done.iter().chain(steps).collect();
    let rest = plan.order.iter().map(|s| plan.steps[*s].id.clone()).filter(|id| !named.contains(id));
    let order: Vec<String> = task.done.iter().chain(steps).cloned().chain(rest).collect();
    plan.put_in_order(&SequenceSpec { order, removed: Vec::new() });
    plan
}

/// What comes next in an order that works, of what is not laid yet.
pub(super) fn hint(plan: &Plan, task: &OrderTask, steps: &[String]) -> Option<String> {
    let next = task.right.iter().find(|id| !steps.contains(id))?;
    Some(next_is(plan, next))
}

/// The hint that this step comes next.
pub(super) fn next_is(plan: &Plan, step: &str) -> String {
    let title = plan.steps.iter().find(|s| s.id == step).map_or(step, |s| s.title.as_str());
    format!("Next: {}.", title.to_lowercase())
}

/// What is said of pieces that were thrown away, behind how many they were.
pub(super) const THROWN_AWAY: &str = "pieces that stick were laid and thrown away: what sticks is laid once.";

/// The wall with what was laid so far.
#[derive(Clone, Debug)]
pub struct Looked {
    /// The plan in the learner's order.
    pub plan: Plan,
    /// How many actions are done.
    pub done: usize,
    /// What could not be laid, in a sentence each.
    pub blocked: Vec<String>,
    /// True where the last that was laid sticks: taken back it is thrown away.
    pub sticks: bool,
}

/// Looks at what was laid so far on a wall.
pub(super) fn look(wall: &Plan, task: &OrderTask, steps: &[String]) -> Result<Looked, Vec<Problem>> {
    checked(task, steps)?;
    let plan = in_order(wall, task, steps);
    let laid: HashSet<&String> = task.done.iter().chain(steps).collect();
    let done = plan.actions().take_while(|(s, _)| laid.contains(&plan.steps[*s].id)).count();
    let stage = Stage::after(&plan, plan.actions().map(|(_, a)| a).take(done));
    let blocked = stage.blocked.iter().map(|b| why_not(&plan, &b.why)).collect();
    let last = steps.last().and_then(|id| plan.steps.iter().find(|s| s.id == *id));
    let placed = last.into_iter().flat_map(|s| &s.actions).filter_map(|a| a.act.placed());
    let sticks = placed.into_iter().any(|p| plan.pieces[p].bond != Bond::None && stage.has(p));
    Ok(Looked { done, blocked, sticks, plan })
}

/// Every step that is to be laid, none twice and none that is not.
fn checked(task: &OrderTask, steps: &[String]) -> Result<(), Vec<Problem>> {
    let mut seen = HashSet::new();
    if steps.len() > MOST_ANSWERED {
        return Err(vec![Problem::new(
            "$.answer.steps",
            format!("found {} steps, at most {MOST_ANSWERED}", steps.len()),
        )]);
    }
    match steps.iter().find(|id| !task.to_lay.contains(id) || !seen.insert(*id)) {
        Some(id) => {
            let message = format!("\"{id}\" is not among what is to be laid, or it is laid twice: lay each once");
            Err(vec![Problem::new("$.answer.steps", message)])
        }
        None => Ok(()),
    }
}

pub(super) fn grade(
    (wall, planned): (&Plan, State),
    task: &OrderTask,
    steps: &[String],
    (wasted, hints): (u32, u32),
    known: &KnownWater,
) -> Result<Graded, Vec<Problem>> {
    checked(task, steps)?;
    if steps.len() < task.to_lay.len() {
        let message = format!("{} of {} steps are laid: lay the rest before it rains", steps.len(), task.to_lay.len());
        return Err(vec![Problem::new("$.answer.steps", message)]);
    }
    let plan = in_order(wall, task, steps);
    let moment = Moment::with_known(&plan, usize::MAX, known).map_err(|m| vec![Problem::new("$", m)])?;
    let found = moment.findings(&plan);
    let state = State::of(&found, true);
    let worth = match state {
        _ if state >= planned => FULL,
        State::WhileGlueHolds => 70.0,
        State::NotAsPlanned | State::Unfinished => 40.0,
        State::Stands => 20.0,
        State::GetsIn | State::ByLaps => 0.0,
    };
    let off = f64::from(wasted.min(10)) * WASTED + f64::from(hints.min(10)) * HINT;
    let mut says: Vec<Said> = told(&found);
    if says.is_empty() {
        says.push(Said {
            good: true,
            says: format!("{}: every order that works is right.", state.says()),
            fault: String::new(),
        });
    }
    if wasted > 0 {
        says.push(Said { good: false, says: format!("{wasted} {THROWN_AWAY}"), fault: String::new() });
    }
    Ok(Graded::new(worth - off, says))
}

/// The worst causes, in one sentence each.
fn told(found: &[Finding]) -> Vec<Said> {
    let worries = found.iter().filter(|f| is_cause_of_worry(f)).take(4);
    worries.map(|f| Said { good: false, says: f.reason.clone(), fault: f.code.clone() }).collect()
}
