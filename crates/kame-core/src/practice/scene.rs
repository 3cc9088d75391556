//! A scene: a job made from a seed, and what is asked about it.

use super::chance::{between, one, random};
use super::drill::{Drill, Which, inches};
use super::{call, find, measure, order, repair};
use crate::findings::{KnownWater, Moment, State};
use crate::job::Job;
use crate::plan::{Plan, build};
use crate::problem::Problem;
use crate::recipe::schools::{Answers, Feature, Schools};
use crate::stop::{STOPPED, Stop};
use rand_xorshift::XorShiftRng;

/// What is asked.
#[derive(Clone, Debug)]
pub enum SceneTask {
    /// Steps to put in order.
    Order(order::OrderTask),
    /// Faults to find.
    Find(find::FindTask),
    /// Sizes to give.
    Measure(Vec<measure::AskedSize>),
    /// Go, prepare or wait.
    Call(Vec<call::CallQuestion>),
    /// A repair to choose for each thing that was found.
    Repair(Vec<repair::RepairTask>),
}

/// A scene.
#[derive(Clone, Debug)]
pub struct Scene {
    /// Which it is.
    pub which: Which,
    /// The wall as the learner meets it.
    pub job: Job,
    /// Its plan.
    pub plan: Plan,
    /// The same wall with nothing wrong.
    pub right: Plan,
    /// The verdict on that wall once it is finished.
    pub planned: State,
    /// What is asked.
    pub task: SceneTask,
}

/// Scenes that are tried before one is found that has what is asked.
const MOST_TRIED: u64 = 40;

/// Makes a scene.
///
/// # Errors
/// What is wrong with what is asked, or that the asker stopped asking.
pub fn scene(which: &Which, known: &KnownWater, stop: &Stop) -> Result<Scene, Vec<Problem>> {
    let problems = which.problems();
    if !problems.is_empty() {
        return Err(problems);
    }
    let mut last = None;
    for turn in 0..MOST_TRIED {
        stop.check().map_err(|_| vec![Problem::new("$", STOPPED)])?;
        let mut rng = random(which, turn);
        let job = wall(which, &mut rng, turn);
        let Some((plan, planned)) = dry(&job, known) else { continue };
        // A focus that cannot be had on the walls of a level is let go of in the end.
        let focus = which.focus.as_deref().filter(|_| turn < MOST_TRIED / 2);
        match made(which, focus, job, plan, planned, &mut rng, known, stop) {
            Ok(scene) => return Ok(scene),
            Err(why) => last = Some(why),
        }
    }
    let why = last.unwrap_or_else(|| "no wall of this level stays dry".into());
    Err(vec![Problem::new("$.seed", format!("no scene could be made of it: {why}; take another seed"))])
}

/// A scene on a job's own wall.
///
/// # Errors
/// What is wrong with what is asked or with the job, or that there is nothing on it to practise with.
pub fn scene_of_job(which: &Which, job: &Job, known: &KnownWater, stop: &Stop) -> Result<Scene, Vec<Problem>> {
    let problems = which.problems();
    if !problems.is_empty() {
        return Err(problems);
    }
    let mut job = job.clone();
    // The wall as it should be: what is wrong with it is put there on purpose.
    (job.sequence, job.as_built, job.found, job.sealed) = Default::default();
    let Some((plan, planned)) = dry(&job, known) else {
        let message = "this wall is not dry as it is planned: put it right first, or practise on walls that never were";
        return Err(vec![Problem::new("$.job", message.to_owned())]);
    };
    let mut rng = random(which, 0);
    made(which, which.focus.as_deref(), job, plan, planned, &mut rng, known, stop)
        .map_err(|why| vec![Problem::new("$.job", format!("there is nothing on this wall for that drill: {why}"))])
}

#[expect(clippy::too_many_arguments, reason = "what a scene is made of, each once")]
fn made(
    which: &Which,
    focus: Option<&str>,
    job: Job,
    plan: Plan,
    planned: State,
    rng: &mut XorShiftRng,
    known: &KnownWater,
    stop: &Stop,
) -> Result<Scene, String> {
    let right = plan.clone();
    let (job, plan, task) = match which.drill {
        Drill::Order => {
            let task = order::task(&plan, which.level, rng)?;
            (job, plan, SceneTask::Order(task))
        }
        Drill::Find => {
            let (job, plan, task) = find::task(&job, &plan, which.level, focus, rng, known)?;
            (job, plan, SceneTask::Find(task))
        }
        Drill::Measure => {
            let task = measure::task(&job, &plan, which.level, rng)?;
            (job, plan, SceneTask::Measure(task))
        }
        Drill::Call => {
            let task = call::task(&plan, which.level, rng)?;
            (job, plan, SceneTask::Call(task))
        }
        Drill::Repair => {
            let task = repair::tasks(&job, &plan, which.level, rng, known, stop)?;
            (job, plan, SceneTask::Repair(task))
        }
    };
    Ok(Scene { which: which.clone(), job, plan, right, planned, task })
}

/// The plan of a job that is dry as it is planned.
fn dry(job: &Job, known: &KnownWater) -> Option<(Plan, State)> {
    let plan = build(job).ok()?;
    let moment = Moment::with_known(&plan, usize::MAX, known).ok()?;
    let state = State::of(&moment.findings(&plan), true);
    state.is_dry().then_some((plan, state))
}

/// A wall of a level: from laps alone to windows first under plaster with insulation outside.
fn wall(which: &Which, rng: &mut XorShiftRng, turn: u64) -> Job {
    let mut job = Job::new("practice");
    job.wall.name = "Practice wall".into();
    let bare = which.level == 1 && !matches!(which.drill, Drill::Measure | Drill::Call);
    let width = i64::from(between(rng, 120, 180));
    (job.wall.width, job.wall.height) = (inches(width), inches(i64::from(between(rng, 100, 118))));
    let barrier: &[&str] = match which.level {
        1 => &["loose", "drainable"],
        2 => &["panel", "adhered", "fluid"],
        3 => &["loose", "drainable", "dark"],
        4 => &["loose", "drainable", "adhered", "gypsum", "insulated"],
        _ => &["plaster", "drainable"],
    };
    let barrier = one(rng, barrier).copied().unwrap_or("loose");
    job.wall.schools.insert("barrier".into(), barrier.into());
    if bare {
        // Laps: as many as the wall is high.
        job.wall.height = inches(i64::from(between(rng, 170, 300)));
        job.openings.clear();
        return job;
    }
    let o = &mut job.openings[0];
    let (w, h) = (i64::from(between(rng, 24, 48)), i64::from(between(rng, 30, 54)));
    (o.width, o.height) = (inches(w), inches(h));
    o.left = inches(i64::from(between(rng, 34, u32::try_from(width - w - 34).unwrap_or(34).max(34))));
    o.sill = inches(i64::from(between(rng, 26, 34)));
    if which.level >= 5 {
        job.wall.schools.insert("first".into(), "windows".into());
        job.wall.schools.insert("outside".into(), "boards".into());
    }
    // After some walls that were not dry the usual answers are kept.
    if which.level >= 3 && turn < 12 {
        some_answers(&mut job, rng);
    }
    job
}

/// Some questions of the opening answered otherwise than usual.
fn some_answers(job: &mut Job, rng: &mut XorShiftRng) {
    let Ok(schools) = Schools::of(Feature::Opening) else { return };
    for name in ["sill", "head", "jambs"] {
        let Some(question) = schools.question(name) else { continue };
        let ids: Vec<&str> = question.choice.iter().map(|c| c.id.as_str()).collect();
        let Some(choice) = one(rng, &ids) else { continue };
        let mut answers: Answers = job.openings[0].schools.clone();
        answers.insert(name.into(), (*choice).to_owned());
        let kept = std::mem::replace(&mut job.openings[0].schools, answers);
        if build(job).is_err() {
            job.openings[0].schools = kept;
        }
    }
}
