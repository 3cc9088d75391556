//! Find it: a finished wall with mistakes on it, made as a person could make them, each told by the findings.

use super::chance::{one, shuffled};
use super::drill::{FALSE_ALARM, FULL, Graded, HINT, MOST_ANSWERED, Said, fault_name, fault_names};
use crate::edit::apply;
use crate::faults::{self, Mistake};
use crate::findings::{Finding, KnownWater, Moment, cause_key};
use crate::job::Job;
use crate::plan::{Plan, SurfaceId};
use crate::problem::Problem;
use crate::remedies::is_cause_of_worry;
use crate::repair::concerned;
use rand_xorshift::XorShiftRng;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// A mistake that is there to be found.
#[derive(Clone, Debug, PartialEq)]
pub struct HiddenFault {
    /// Ids of the pieces it is about.
    pub pieces: BTreeSet<String>,
    /// The faults it is told as.
    pub faults: BTreeSet<String>,
    /// What it does, in a sentence.
    pub reason: String,
}

/// What is to be found.
#[derive(Clone, Debug)]
pub struct FindTask {
    /// Mistakes that are there.
    pub targets: Vec<HiddenFault>,
    /// Names to choose from: the right ones and others.
    pub names: Vec<String>,
}

/// What a learner marked.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Marked {
    /// Id of the piece.
    pub piece: String,
    /// Id of the fault it is called; empty where it is not named.
    #[serde(default)]
    pub fault: String,
}

/// How many mistakes are made at each level.
const MISTAKES: [usize; 5] = [1, 1, 2, 2, 3];
/// Names that are wrong among those to choose from.
const OTHERS: usize = 4;
/// The share of points for finding a mistake; naming it gives the rest.
const FOUND: f64 = 0.7;
/// Mistakes that are looked at before the level is given up.
const MOST_LOOKED: usize = 30;

pub(super) fn task(
    job: &Job,
    plan: &Plan,
    level: u8,
    focus: Option<&str>,
    rng: &mut XorShiftRng,
    known: &KnownWater,
) -> Result<(Job, Plan, FindTask), String> {
    let wanted = MISTAKES[usize::from(level.clamp(1, 5)) - 1];
    // Figures that fall short are the plan's own, and nothing on a wall shows them.
    let mut all: Vec<Mistake> = faults::all(plan).into_iter().filter(|m| !matches!(m, Mistake::Short { .. })).collect();
    shuffled(rng, &mut all);
    let (mut wrong, mut as_it_is) = (job.clone(), plan.clone());
    let mut targets: Vec<HiddenFault> = Vec::new();
    for mistake in all.iter().take(MOST_LOOKED) {
        if targets.len() == wanted {
            break;
        }
        let Ok((_, alone)) = apply(job, &mistake.edit()) else { continue };
        let Some(target) = target(&alone, known)? else { continue };
        let asked = focus.filter(|_| targets.is_empty());
        if asked.is_some_and(|f| !target.faults.contains(f))
            || targets.iter().any(|t| !t.pieces.is_disjoint(&target.pieces))
        {
            continue;
        }
        let Ok((next, plan)) = apply(&wrong, &mistake.edit()) else { continue };
        (wrong, as_it_is) = (next, plan);
        targets.push(target);
    }
    if targets.len() < wanted {
        return Err(format!("{} of {wanted} mistakes show on it", targets.len()));
    }
    let mut names: Vec<String> = targets.iter().filter_map(|t| t.faults.first().cloned()).collect();
    let known_names: Vec<&str> = fault_names().map(|(id, _)| id).collect();
    while names.len() < targets.len() + OTHERS {
        let Some(other) = one(rng, &known_names) else { break };
        let right = targets.iter().any(|t| t.faults.contains(*other));
        if !right && !names.iter().any(|n| n == other) {
            names.push((*other).to_owned());
        }
    }
    names.sort_unstable();
    names.dedup();
    Ok((wrong, as_it_is, FindTask { targets, names }))
}

/// What one mistake is about and is told as; `None` where nothing on the face of the wall shows it.
fn target(plan: &Plan, known: &KnownWater) -> Result<Option<HiddenFault>, String> {
    let moment = Moment::with_known(plan, usize::MAX, known)?;
    let found = moment.findings(plan);
    let worries: Vec<&Finding> = found.iter().filter(|f| is_cause_of_worry(f)).collect();
    let Some(worst) = worries.first() else { return Ok(None) };
    let mut pieces: BTreeSet<String> = BTreeSet::new();
    let mut faults = BTreeSet::new();
    let mut causes = BTreeSet::new();
    for f in &worries {
        pieces.extend(f.pieces.iter().cloned());
        pieces.extend(concerned(plan, &moment.stage, f).into_iter().map(|p| plan.pieces[p].id.clone()));
        faults.extend(fault_name(&f.code).map(|_| f.code.clone()));
        causes.insert(cause_key(plan, f));
    }
    let on_face = |id: &String| {
        let lies = plan.pieces.position(|p| p.id == *id);
        lies.is_some_and(|p| moment.stage.layers.iter().any(|l| l.piece == p && l.on == SurfaceId::WALL))
    };
    let shown = pieces.iter().any(on_face) && !faults.is_empty();
    Ok(shown.then(|| HiddenFault { pieces, faults, reason: worst.reason.clone() }))
}

/// Where one of the mistakes is that are not marked yet.
pub(super) fn hint(plan: &Plan, task: &FindTask, marks: &[Marked]) -> Option<String> {
    let left = task.targets.iter().find(|t| !marks.iter().any(|m| t.pieces.contains(&m.piece)))?;
    let piece = left.pieces.iter().find_map(|id| plan.pieces.iter().find(|p| p.id == *id))?;
    let at = piece.opening.map_or(String::new(), |o| format!(" at {}", plan.openings[o].name));
    Some(format!("Look at the {}{at}.", piece.name))
}

pub(super) fn perfect(task: &FindTask) -> Vec<Marked> {
    let one = |t: &HiddenFault| {
        let fault = t.faults.iter().find(|f| task.names.contains(f)).cloned().unwrap_or_default();
        Some(Marked { piece: t.pieces.first()?.clone(), fault })
    };
    task.targets.iter().filter_map(one).collect()
}

/// What is said of a piece that is marked and right, behind its name.
pub(super) const ALARM: &str = "is right as it is: a false alarm costs trust.";

/// What a mistake gives that was found or not, and named by one of its faults or not.
pub(super) fn worth(task: &FindTask, t: &HiddenFault, found: bool, named: Option<&str>) -> (f64, Said) {
    let each = FULL / task.targets.len().max(1) as f64;
    let fault = named.map(str::to_owned).or_else(|| t.faults.first().cloned()).unwrap_or_default();
    let called = fault_name(&fault).unwrap_or_default();
    let (share, good, head) = match (found, named) {
        (true, Some(_)) => (1.0, true, format!("Found and named, {called}.")),
        (true, None) => (FOUND, false, format!("Found, and it is called: {called}.")),
        (false, _) => (0.0, false, format!("Missed: {called}.")),
    };
    (share * each, Said { good, says: format!("{head} {}", t.reason), fault })
}

pub(super) fn grade(task: &FindTask, marks: &[Marked], hints: u32) -> Result<Graded, Vec<Problem>> {
    if marks.len() > MOST_ANSWERED {
        return Err(vec![Problem::new(
            "$.answer.marks",
            format!("found {} marks, at most {MOST_ANSWERED}", marks.len()),
        )]);
    }
    let (mut points, mut says) = (0.0, Vec::new());
    for t in &task.targets {
        let here: Vec<&Marked> = marks.iter().filter(|m| t.pieces.contains(&m.piece)).collect();
        let named = here.iter().find(|m| t.faults.contains(&m.fault)).map(|m| m.fault.as_str());
        let (worth, said) = worth(task, t, !here.is_empty(), named);
        points += worth;
        says.push(said);
    }
    let alarms = marks.iter().filter(|m| !task.targets.iter().any(|t| t.pieces.contains(&m.piece)));
    for m in alarms {
        points -= FALSE_ALARM;
        says.push(Said { good: false, says: format!("{} {ALARM}", m.piece), fault: String::new() });
    }
    Ok(Graded::new(points - f64::from(hints.min(10)) * HINT, says))
}
