//! Find it: a finished wall with mistakes on it, made as a person could make them, each told by the findings.

use super::chance::{one, random, shuffled};
use super::drill::{FALSE_ALARM, FULL, Graded, HINT, MOST_ANSWERED, Said, Which, fault_name, fault_names};
use super::repair::RepairChoice;
use crate::edit::apply;
use crate::faults::{self, Mistake};
use crate::findings::{Finding, KnownWater, Moment, cause_key};
use crate::job::Job;
use crate::plan::{Plan, SurfaceId};
use crate::problem::Problem;
use crate::remedies::is_cause_of_worry;
use crate::repair::{concerned, found_of, free_id, propose};
use crate::stop::Stop;
use rand_xorshift::XorShiftRng;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::sync::OnceLock;

/// A mistake that is there to be found.
#[derive(Clone, Debug, PartialEq)]
pub struct HiddenFault {
    /// Ids of the pieces it is about.
    pub pieces: BTreeSet<String>,
    /// Which of them is told first.
    first: String,
    /// The faults it is told as.
    pub faults: BTreeSet<String>,
    /// What it does, in a sentence.
    pub reason: String,
    /// What can be done about it, once that was asked.
    offered: OnceLock<Vec<RepairChoice>>,
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
/// By this a piece that is not there can be called on every wall; it is always among the names to choose from.
const LEFT_OUT: &str = "S-MISSING";
/// Names that are wrong among those to choose from.
const OTHERS: usize = 4;
/// The share of points for finding a mistake, and for naming it; choosing what mends it gives the rest.
const FOUND: f64 = 0.5;
const NAMED: f64 = 0.2;
const MENDED: f64 = 1.0 - FOUND - NAMED;
/// Repairs that are offered for one mistake, beside leaving it.
const OFFERED: usize = 3;
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
        let Some(mut target) = target(&alone, known)? else { continue };
        // What is not there may be called so, whatever comes of it.
        if matches!(mistake, Mistake::LeftOut { .. }) {
            target.faults.insert(LEFT_OUT.to_owned());
        }
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
    names.push(LEFT_OUT.to_owned());
    let known_names: Vec<&str> = fault_names().map(|(id, _)| id).collect();
    while names.len() < targets.len() + 1 + OTHERS {
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
    let first = worst.pieces.first().or(pieces.first()).cloned().unwrap_or_default();
    Ok(shown.then(|| HiddenFault { pieces, first, faults, reason: worst.reason.clone(), offered: OnceLock::new() }))
}

/// Where one of the mistakes is that are not marked yet.
pub(super) fn hint(plan: &Plan, task: &FindTask, marks: &[Marked]) -> Option<String> {
    let left = task.targets.iter().find(|t| !marks.iter().any(|m| t.pieces.contains(&m.piece)))?;
    look_at(plan, left)
}

/// The hint that says where a mistake is.
pub(super) fn look_at(plan: &Plan, left: &HiddenFault) -> Option<String> {
    let mut told = std::iter::once(&left.first).chain(&left.pieces);
    let piece = told.find_map(|id| plan.pieces.iter().find(|p| p.id == *id))?;
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

/// A mistake that was found, and what can be done about it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Mendable {
    /// Id of the piece on which it was found.
    pub piece: String,
    /// What the repairs are called; none where none is offered.
    pub titles: Vec<String>,
}

/// A wall with mistakes on it, which scene it is, and the water that is known.
#[derive(Clone, Copy)]
pub(super) struct On<'a> {
    pub which: &'a Which,
    pub job: &'a Job,
    pub plan: &'a Plan,
    pub known: &'a KnownWater,
}

/// What can be done about a mistake, each with what comes of it and what it is worth from 0 to 1; none where nothing of it can be pointed at.
pub(super) fn offered<'t>(on: &On, t: &'t HiddenFault) -> Result<&'t [RepairChoice], Vec<Problem>> {
    if t.offered.get().is_none() {
        let all = tried(on, t)?;
        return Ok(t.offered.get_or_init(|| all));
    }
    Ok(t.offered.get().map_or(&[], Vec::as_slice))
}

fn tried(on: &On, t: &HiddenFault) -> Result<Vec<RepairChoice>, Vec<Problem>> {
    let On { which, job, plan, known } = *on;
    let broken = |m: String| vec![Problem::new("$", m)];
    let moment = Moment::with_known(plan, usize::MAX, known).map_err(broken)?;
    let told = moment.findings(plan);
    let about = |f: &&Finding| {
        let pieces = concerned(plan, &moment.stage, f);
        is_cause_of_worry(f) && pieces.iter().any(|p| t.pieces.contains(&plan.pieces[*p].id))
    };
    let Some(found) = told.iter().find(about) else { return Ok(Vec::new()) };
    let Ok(found) = found_of(plan, &moment.stage, found, free_id(job)) else { return Ok(Vec::new()) };
    let Ok(all) = propose(job, &found, known, &Stop::default()) else { return Ok(Vec::new()) };
    let Some(best) = all.list.first() else { return Ok(Vec::new()) };
    let mut out: Vec<RepairChoice> = Vec::new();
    for p in all.list.iter().take(OFFERED - 1) {
        let as_good =
            p.after.state == best.after.state && p.leans.len() <= best.leans.len() && p.taken_off <= best.taken_off;
        let says = format!("{}.{}", p.after.state.says(), p.leans.first().map_or(String::new(), |l| format!(" {l}")));
        let worth = if as_good { 1.0 } else { 0.6 };
        out.push(RepairChoice { title: p.title.clone(), edit: p.edit.clone(), says, worth });
    }
    let wrong = |title: String, says: String| RepairChoice { title, edit: best.edit.clone(), says, worth: 0.0 };
    for (title, why) in all.refused.into_iter().take(OFFERED - out.len()) {
        out.push(wrong(title, format!("{}.", why.trim_end_matches('.'))));
    }
    out.push(wrong("Leave it: it will be covered".into(), t.reason.clone()));
    // The same mistake has them in the same order, whoever asks and when.
    let at = t.pieces.iter().flat_map(|p| p.bytes()).fold(which.seed, |mix, b| mix.rotate_left(5) ^ u64::from(b));
    shuffled(&mut random(&Which { seed: at, ..which.clone() }, 0), &mut out);
    Ok(out)
}

/// The mistakes that were found, with the mark on each.
fn found<'t>(task: &'t FindTask, marks: &[Marked]) -> Vec<(&'t HiddenFault, String)> {
    let mark = |t: &HiddenFault| marks.iter().find(|m| t.pieces.contains(&m.piece)).map(|m| m.piece.clone());
    task.targets.iter().filter_map(|t| Some((t, mark(t)?))).collect()
}

fn not_too_many(marks: &[Marked]) -> Result<(), Vec<Problem>> {
    if marks.len() <= MOST_ANSWERED {
        return Ok(());
    }
    Err(vec![Problem::new("$.answer.marks", format!("found {} marks, at most {MOST_ANSWERED}", marks.len()))])
}

pub(super) fn mends(on: &On, task: &FindTask, marks: &[Marked]) -> Result<Vec<Mendable>, Vec<Problem>> {
    not_too_many(marks)?;
    let each = found(task, marks).into_iter().map(|(t, piece)| {
        let titles = offered(on, t)?.iter().map(|c| c.title.clone()).collect();
        Ok(Mendable { piece, titles })
    });
    each.collect()
}

/// The best repair of each mistake that was found.
pub(super) fn best_mends(on: &On, task: &FindTask, marks: &[Marked]) -> Vec<usize> {
    let best = |t: &HiddenFault| {
        offered(on, t).ok().and_then(|all| all.iter().position(|c| c.worth >= 1.0)).unwrap_or_default()
    };
    found(task, marks).into_iter().map(|(t, _)| best(t)).collect()
}

/// What a repair gives that was taken for a mistake. Where none could be offered there is nothing to miss.
pub(super) fn mended(task: &FindTask, all: &[RepairChoice], taken: Option<&RepairChoice>) -> (f64, Option<Said>) {
    let each = FULL * MENDED / task.targets.len().max(1) as f64;
    let best = all.iter().find(|c| c.worth >= 1.0);
    match (taken, best) {
        (_, None) => (each, None),
        (None, Some(best)) => {
            let says = format!("It is mended so: {}.", best.title.to_lowercase());
            (0.0, Some(Said { good: false, says, fault: String::new() }))
        }
        (Some(taken), Some(best)) => {
            let good = taken.worth >= 1.0;
            let better = if good { String::new() } else { format!(" Better: {}.", best.title.to_lowercase()) };
            let says = format!("{}: {}{better}", taken.title, taken.says);
            (each * taken.worth, Some(Said { good, says, fault: if good { String::new() } else { "F24".into() } }))
        }
    }
}

/// What is said of a piece that is marked and right, behind its name.
pub(super) const ALARM: &str = "right as it is. A false alarm costs trust.";

/// What a mistake gives that was found or not, and named by one of its faults or not.
pub(super) fn worth(task: &FindTask, t: &HiddenFault, found: bool, named: Option<&str>) -> (f64, Said) {
    let each = FULL / task.targets.len().max(1) as f64;
    let fault = named.map(str::to_owned).or_else(|| t.faults.first().cloned()).unwrap_or_default();
    let called = fault_name(&fault).unwrap_or_default();
    let (share, good, head) = match (found, named) {
        (true, Some(_)) => (FOUND + NAMED, true, format!("Found and named, {called}.")),
        (true, None) => (FOUND, false, format!("Found, and it is called: {called}.")),
        (false, _) => (0.0, false, format!("Missed: {called}.")),
    };
    (share * each, Said { good, says: format!("{head} {}", t.reason), fault })
}

pub(super) fn grade(
    on: &On,
    task: &FindTask,
    marks: &[Marked],
    hints: u32,
    mends: &[usize],
) -> Result<Graded, Vec<Problem>> {
    not_too_many(marks)?;
    let (mut points, mut says) = (0.0, Vec::new());
    let mut chosen = mends.iter();
    for t in &task.targets {
        let here: Vec<&Marked> = marks.iter().filter(|m| t.pieces.contains(&m.piece)).collect();
        let named = here.iter().find(|m| t.faults.contains(&m.fault)).map(|m| m.fault.as_str());
        let (worth, said) = worth(task, t, !here.is_empty(), named);
        points += worth;
        says.push(said);
        if !here.is_empty() {
            let all = offered(on, t)?;
            let taken = match chosen.next() {
                Some(n) if !all.is_empty() && *n >= all.len() => {
                    let message = format!("found repair {n}, expected 0 to {}: take one of the list", all.len() - 1);
                    return Err(vec![Problem::new("$.answer.mends", message)]);
                }
                n => n.and_then(|n| all.get(*n)),
            };
            let (worth, said) = mended(task, all, taken);
            points += worth;
            says.extend(said);
        }
    }
    if chosen.next().is_some() {
        let message = format!("found {} repairs, more than mistakes that were found: take one for each", mends.len());
        return Err(vec![Problem::new("$.answer.mends", message)]);
    }
    let alarms = marks.iter().filter(|m| !task.targets.iter().any(|t| t.pieces.contains(&m.piece)));
    for m in alarms {
        points -= FALSE_ALARM;
        let name = on.plan.pieces.iter().find(|p| p.id == m.piece).map_or(m.piece.as_str(), |p| p.name.as_str());
        says.push(Said { good: false, says: format!("{name}: {ALARM}"), fault: String::new() });
    }
    Ok(Graded::new(points - f64::from(hints.min(10)) * HINT, says))
}
