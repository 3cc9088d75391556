//! Late hole: something was found on a finished wall; which repair is right, by the wall with it.

use super::chance::{between, shuffled};
use super::drill::{FULL, Graded, Said};
use crate::edit::{Edit, apply};
use crate::findings::{KnownWater, State};
use crate::job::{FoundKind, FoundSpec, Holds, Job, Mend, Place};
use crate::kit::named;
use crate::length::Length;
use crate::plan::{Plan, SurfaceId};
use crate::problem::Problem;
use crate::repair::propose;
use crate::stop::{STOPPED, Stop};
use rand_xorshift::XorShiftRng;

/// One way of mending it, as the learner is offered it.
#[derive(Clone, Debug, PartialEq)]
pub struct RepairChoice {
    /// What it is, in words.
    pub title: String,
    /// The change.
    pub edit: Edit,
    /// What comes of it, in a sentence.
    pub says: String,
    /// What it is worth, from 0 to 1.
    pub worth: f64,
}

/// Something that was found, and what could be done about it; each thing of a scene is found for itself.
#[derive(Clone, Debug)]
pub struct RepairTask {
    /// What was found.
    pub found: FoundSpec,
    /// The plan with it, and nothing done about it.
    pub plan: Plan,
    /// What can be chosen, mixed.
    pub choices: Vec<RepairChoice>,
    /// The best of them.
    pub best: usize,
}

/// How many repairs are offered at each level.
const CHOICES: [usize; 5] = [3, 4, 4, 5, 5];
/// How many things are found at each level.
const FOUND: [usize; 5] = [1, 2, 2, 3, 3];
/// Places that are tried before a level is given up.
const MOST_TRIED: usize = 12;

pub(super) fn tasks(
    job: &Job,
    plan: &Plan,
    level: u8,
    rng: &mut XorShiftRng,
    known: &KnownWater,
    stop: &Stop,
) -> Result<Vec<RepairTask>, String> {
    let wanted = FOUND[usize::from(level.clamp(1, 5)) - 1];
    let (mut out, mut last) = (Vec::new(), String::new());
    for _ in 0..MOST_TRIED {
        if out.len() == wanted {
            break;
        }
        match task(job, plan, level, rng, known, stop) {
            Ok(one) => out.push(one),
            Err(why) => last = why,
        }
    }
    if out.len() < wanted { Err(last) } else { Ok(out) }
}

fn task(
    job: &Job,
    plan: &Plan,
    level: u8,
    rng: &mut XorShiftRng,
    known: &KnownWater,
    stop: &Stop,
) -> Result<RepairTask, String> {
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let inches = |l: Length| u32::try_from(l.units() / Length::inch(1).units()).unwrap_or(1);
    let kinds = [FoundKind::Tear, FoundKind::Hole, FoundKind::Worn, FoundKind::LetGo];
    let kind = kinds[between(rng, 0, if level < 3 { 1 } else { 3 }) as usize];
    let (w, h) = if kind == FoundKind::Hole { (1, 1) } else { (between(rng, 3, 12), between(rng, 2, 8)) };
    let place = Place {
        left: Length::inch(i64::from(between(rng, 4, inches(wall.width()).saturating_sub(w + 4).max(4)))),
        bottom: Length::inch(i64::from(between(rng, 6, inches(wall.height()).saturating_sub(h + 12).max(6)))),
        width: Length::inch(i64::from(w)),
        height: Length::inch(i64::from(h)),
    };
    let found = FoundSpec {
        id: "D1".into(),
        what: kind,
        after: None,
        place,
        pieces: Vec::new(),
        repair: Vec::new(),
        thing: None,
    };
    stop.check().map_err(|_| STOPPED.to_owned())?;
    let all = propose(job, &found, known, stop).map_err(|p| p.first().map_or(String::new(), |p| p.message.clone()))?;
    let Some(first) = all.list.first() else { return Err("nothing mends it".into()) };
    let (best_state, best_leans, best_off) = (first.after.state, first.leans.len(), first.taken_off);
    let mut choices: Vec<(bool, RepairChoice)> = Vec::new();
    for (n, p) in all.list.iter().enumerate() {
        // As good as the best where it leaves the wall as good, leans on no more and opens no more.
        let as_good = p.after.state == best_state && p.leans.len() <= best_leans && p.taken_off <= best_off;
        let worth = if as_good { 1.0 } else { 0.6 };
        let leans = p.leans.first().map_or(String::new(), |l| format!(" {l}"));
        let off = if p.taken_off > 0 { format!(" {} pieces come off for it.", p.taken_off) } else { String::new() };
        let says = format!("{}.{leans}{off}", p.after.state.says());
        choices.push((n == 0, RepairChoice { title: p.title.clone(), edit: p.edit.clone(), says, worth }));
    }
    choices.truncate(CHOICES[usize::from(level.clamp(1, 5)) - 1] - 1);
    // One that looks right and is not: smaller than it should be, or laid the wrong way.
    for wrong in wrong_ways(&first.edit).into_iter().chain(plain_ways(&found, plan)) {
        let Ok((_, plan)) = apply(job, &wrong.1) else { continue };
        let state = crate::findings::Moment::with_known(&plan, usize::MAX, known)?.findings(&plan);
        let told = state.iter().find(|f| crate::remedies::is_cause_of_worry(f));
        let new = !choices.iter().any(|(_, c)| c.title == wrong.0);
        if new && State::of(&state, true) < all.whole.state.min(State::WhileGlueHolds) {
            let says = told.map_or(String::new(), |f| f.reason.clone());
            choices.push((false, RepairChoice { title: wrong.0, edit: wrong.1, says, worth: 0.0 }));
        }
    }
    for (title, why) in &all.refused {
        choices.push((
            false,
            RepairChoice { title: title.clone(), edit: first.edit.clone(), says: why.clone(), worth: 0.0 },
        ));
    }
    choices.push((
        false,
        RepairChoice {
            title: "Leave it: it will be covered".into(),
            edit: Edit::SetFound { found: found.clone() },
            says: all.before.worst.clone(),
            worth: 0.0,
        },
    ));
    choices.truncate(CHOICES[usize::from(level.clamp(1, 5)) - 1] + 1);
    shuffled(rng, &mut choices);
    let best = choices.iter().position(|(best, _)| *best).ok_or("nothing mends it")?;
    let choices = choices.into_iter().map(|(_, c)| c).collect();
    Ok(RepairTask { found, plan: all.plan, choices, best })
}

/// The best repair done wrongly: no wider than the damage, or its piece over the lap it belongs under.
fn wrong_ways(edit: &Edit) -> Vec<(String, Edit)> {
    let Edit::SetFound { found } = edit else { return Vec::new() };
    let mut out = Vec::new();
    let changed = |change: &dyn Fn(&mut Mend)| {
        let mut repair = found.repair.clone();
        repair.iter_mut().for_each(change);
        Edit::SetFound { found: FoundSpec { repair, ..found.clone() } }
    };
    let lays = found.repair.iter().any(|m| matches!(m, Mend::Lay { .. }));
    if lays {
        let over = changed(&|m| {
            if let Mend::Lay { under, sealed, .. } = m {
                (*under, *sealed) = (Vec::new(), false);
            }
        });
        out.push(("A new piece over the lap above it, fastened".to_owned(), over));
        let narrow = changed(&|m| {
            if let Mend::Lay { place, holds, .. } = m {
                (place.left, place.width) = (found.place.left, found.place.width);
                *holds = Holds::Loose;
            }
        });
        out.push(("A piece as wide as the damage, fastened".to_owned(), narrow));
    }
    out
}

/// What is done without thinking: a sheet nailed over it, a tape no wider than what it covers.
fn plain_ways(found: &FoundSpec, plan: &Plan) -> Vec<(String, Edit)> {
    let past = plan.basis.figures.length(crate::profile::fig::REPAIR_PAST);
    let lay = |product: &str, by: Length, holds: Holds| {
        let p = found.place;
        let bottom = (p.bottom - by).max(Length::ZERO);
        let place = Place {
            left: (p.left - by).max(Length::ZERO),
            bottom,
            width: p.width + by + by,
            height: p.bottom + p.height + by - bottom,
        };
        let lay =
            Mend::Lay { product: product.into(), place, holds, under: Vec::new(), under_slit: false, sealed: false };
        Edit::SetFound { found: FoundSpec { repair: vec![lay], ..found.clone() } }
    };
    vec![
        ("A piece of sheet over it, fastened on all sides".to_owned(), lay(named::LOOSE_SHEET, past, Holds::Loose)),
        ("A tape exactly over it".to_owned(), lay(named::FLASHING_TAPE, Length::ZERO, Holds::Stuck)),
    ]
}

pub(super) fn grade(tasks: &[RepairTask], choices: &[usize]) -> Result<Graded, Vec<Problem>> {
    if choices.len() != tasks.len() {
        let message = format!("found {} choices, expected {}: take one for each thing", choices.len(), tasks.len());
        return Err(vec![Problem::new("$.answer.choices", message)]);
    }
    let (mut points, mut says) = (0.0, Vec::new());
    for (task, choice) in tasks.iter().zip(choices) {
        let Some(taken) = task.choices.get(*choice) else {
            let message =
                format!("found choice {choice}, expected 0 to {}: take one of the list", task.choices.len() - 1);
            return Err(vec![Problem::new("$.answer.choices", message)]);
        };
        let (worth, said) = worth(tasks, task, taken);
        points += worth;
        says.extend(said);
    }
    Ok(Graded::new(points, says))
}

/// What a repair gives that was taken.
pub(super) fn worth(tasks: &[RepairTask], task: &RepairTask, taken: &RepairChoice) -> (f64, Vec<Said>) {
    let good = taken.worth >= 1.0;
    let fault = if good { "" } else { "F24" };
    let mut says = vec![Said { good, says: format!("{}: {}", taken.title, taken.says), fault: fault.into() }];
    if !good {
        let best = &task.choices[task.best];
        let better = format!("Better: {}. {}", best.title, best.says);
        says.push(Said { good: true, says: better, fault: String::new() });
    }
    (taken.worth * FULL / tasks.len().max(1) as f64, says)
}
