//! What every answer to a scene gives, written out: so that one is graded where nobody can be asked. Graded by the sheet an answer gets what
//! [`grade`] gives it.

use super::drill::{FALSE_ALARM, HINT, Said, WASTED};
use super::order::{OrderTask, THROWN_AWAY, next_is};
use super::{DrillAnswer, Scene, SceneTask, call, find, grade, measure, on, repair};
use crate::findings::KnownWater;
use crate::layup::Bond;
use crate::problem::Problem;
use crate::record::Go;
use crate::stop::{STOPPED, Stop};
use rayon::prelude::*;
use serde::Serialize;
use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;

/// What one answer, or one part of it, gives.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Worth {
    /// Points of 100 for the scene.
    pub points: f64,
    /// What is said of it.
    pub says: Vec<Said>,
}

/// A mistake, and what it gives.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TargetSheet {
    /// Ids of the pieces on which it is found.
    pub pieces: Vec<String>,
    /// Found and named by one of these.
    pub named: BTreeMap<String, Worth>,
    /// Found, and not named by one of those.
    pub found: Worth,
    /// Not found.
    pub missed: Worth,
    /// What can be done about it once it is found, and what each gives beside that; none where nothing is offered.
    pub mends: Vec<MendSheet>,
    /// What it gives to choose none of them.
    pub unmended: Worth,
    /// The hint that leads to it.
    pub hint: String,
}

/// A hint for somebody who puts steps in order.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepHint {
    /// Id of the step that comes next.
    pub step: String,
    /// The hint.
    pub says: String,
}

/// A repair that is offered for a mistake.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct MendSheet {
    /// What it is called.
    pub title: String,
    /// What it gives.
    pub worth: Worth,
}

/// A size, and what it gives.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SizeSheet {
    /// What is right, along, in.
    pub length: f64,
    /// How close is close enough, in.
    pub within: f64,
    /// Close enough.
    pub right: Worth,
    /// Too long.
    pub long: Worth,
    /// Too short.
    pub short: Worth,
}

/// What every answer to a scene gives. The points of its parts add up, are not less than 0 nor more than 100, and are rounded.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "drill", rename_all = "lowercase")]
pub enum AnswerSheet {
    /// Every order of the steps.
    Order {
        /// What comes of an order, each once.
        outcomes: Vec<Worth>,
        /// Which of them, by the order: the places of the steps among those that are to be laid, from 0, one digit each.
        by_order: BTreeMap<String, usize>,
        /// Steps that stick: taken back, a piece is thrown away.
        sticks: Vec<String>,
        /// What a piece costs that was thrown away.
        wasted: f64,
        /// What is said of them, behind how many they were.
        wasted_says: String,
        /// What a hint costs.
        hint: f64,
        /// The steps in an order that works, each with the hint that it comes next.
        next: Vec<StepHint>,
    },
    /// Every mark.
    Find {
        /// The mistakes.
        targets: Vec<TargetSheet>,
        /// What a mark costs that is on none of them.
        alarm: f64,
        /// What is said of it, behind the name of its piece and a colon.
        alarm_says: String,
        /// What a hint costs.
        hint: f64,
    },
    /// Every size.
    Measure {
        /// The pieces that are asked.
        sizes: Vec<SizeSheet>,
    },
    /// Go, prepare and wait for each question.
    Call {
        /// The questions.
        questions: Vec<[Worth; 3]>,
    },
    /// Each repair of each thing that was found.
    Repair {
        /// What was found.
        found: Vec<Vec<Worth>>,
    },
}

/// Steps of which every order is written out at most: those of eight would be 40 320 walls in the rain.
pub const MOST_STEPS: usize = 7;
/// Orders times places to flash that are written out at most: on a building each order takes longer.
const MOST_WRITTEN_OUT: usize = 20_000;

/// Writes out what every answer to a scene gives.
///
/// # Errors
/// That its answers are too many, or that the asker stopped asking.
pub fn sheet(scene: &Scene, known: &KnownWater, stop: &Stop) -> Result<AnswerSheet, Vec<Problem>> {
    let one = |(points, said): (f64, Said)| Worth { points, says: vec![said] };
    Ok(match &scene.task {
        SceneTask::Order(task) => orders(scene, task, known, stop)?,
        SceneTask::Find(task) => AnswerSheet::Find {
            targets: task
                .targets
                .iter()
                .map(|t| {
                    stop.check().map_err(|_| vec![Problem::new("$", STOPPED)])?;
                    let all = find::offered(&on(scene, known), t)?;
                    let some = |(points, said): (f64, Option<Said>)| Worth { points, says: said.into_iter().collect() };
                    Ok(TargetSheet {
                        pieces: t.pieces.iter().cloned().collect(),
                        named: t.faults.iter().map(|f| (f.clone(), one(find::worth(task, t, true, Some(f))))).collect(),
                        found: one(find::worth(task, t, true, None)),
                        missed: one(find::worth(task, t, false, None)),
                        mends: all
                            .iter()
                            .map(|c| MendSheet {
                                title: c.title.clone(),
                                worth: some(find::mended(task, all, Some(c))),
                            })
                            .collect(),
                        unmended: some(find::mended(task, all, None)),
                        hint: find::look_at(&scene.plan, t).unwrap_or_default(),
                    })
                })
                .collect::<Result<_, Vec<Problem>>>()?,
            alarm: FALSE_ALARM,
            alarm_says: find::ALARM.to_owned(),
            hint: HINT,
        },
        SceneTask::Measure(task) => AnswerSheet::Measure {
            sizes: task
                .iter()
                .map(|a| SizeSheet {
                    length: a.length.to_inches_f64(),
                    within: a.within.to_inches_f64(),
                    right: one(measure::worth(task, a, false, false)),
                    long: one(measure::worth(task, a, false, true)),
                    short: one(measure::worth(task, a, true, false)),
                })
                .collect(),
        },
        SceneTask::Call(task) => AnswerSheet::Call {
            questions: task
                .iter()
                .map(|q| [Go::Go, Go::Prepare, Go::Wait].map(|go| one(call::worth(task, q, go))))
                .collect(),
        },
        SceneTask::Repair(tasks) => AnswerSheet::Repair {
            found: tasks
                .iter()
                .map(|t| {
                    let each = t.choices.iter().map(|c| repair::worth(tasks, t, c));
                    each.map(|(points, says)| Worth { points, says }).collect()
                })
                .collect(),
        },
    })
}

fn orders(scene: &Scene, task: &OrderTask, known: &KnownWater, stop: &Stop) -> Result<AnswerSheet, Vec<Problem>> {
    let n = task.to_lay.len();
    let places = scene.plan.openings.len().max(1);
    if n > MOST_STEPS || (1..=n).product::<usize>() * places > MOST_WRITTEN_OUT {
        let message = format!(
            "{n} steps at {places} places have too many orders to be written out, at most {MOST_STEPS} steps and {MOST_WRITTEN_OUT} orders times places can be: its answer waits for a signal"
        );
        return Err(vec![Problem::new("$.level", message)]);
    }
    let graded = every_order(n).into_par_iter().map(|places| {
        stop.check().map_err(|_| vec![Problem::new("$", STOPPED)])?;
        let steps = places.iter().map(|p| task.to_lay[*p].clone()).collect();
        let graded = grade(scene, &DrillAnswer::Order { steps, wasted: 0, hints: 0 }, known)?;
        let by: String = places.iter().map(ToString::to_string).collect();
        Ok((by, Worth { points: graded.points, says: graded.says }))
    });
    let graded: Vec<(String, Worth)> = graded.collect::<Result<_, Vec<Problem>>>()?;
    let (mut outcomes, mut by_order): (Vec<Worth>, _) = (Vec::new(), BTreeMap::new());
    for (by, worth) in graded {
        let at = outcomes.iter().position(|o| *o == worth).unwrap_or_else(|| {
            outcomes.push(worth);
            outcomes.len() - 1
        });
        by_order.insert(by, at);
    }
    let hint = |step: &String| StepHint { step: step.clone(), says: next_is(&scene.plan, step) };
    Ok(AnswerSheet::Order {
        outcomes,
        by_order,
        sticks: sticks(scene, task),
        wasted: WASTED,
        wasted_says: THROWN_AWAY.to_owned(),
        hint: HINT,
        next: task.right.iter().map(hint).collect(),
    })
}

/// Steps to lay that stick what they lay.
fn sticks(scene: &Scene, task: &OrderTask) -> Vec<String> {
    let of: HashSet<&String> = task.to_lay.iter().collect();
    let steps = scene.plan.steps.iter().filter(|s| of.contains(&s.id));
    let lays = |s: &&Arc<crate::trade::Step>| {
        s.actions.iter().filter_map(|a| a.act.placed()).any(|p| scene.plan.pieces[p].bond != Bond::None)
    };
    steps.filter(lays).map(|s| s.id.clone()).collect()
}

/// Every order of so many things.
fn every_order(n: usize) -> Vec<Vec<usize>> {
    let mut all = vec![Vec::new()];
    for next in 0..n {
        let longer = |order: &Vec<usize>| {
            let order = order.clone();
            (0..=order.len()).map(move |at| {
                let mut longer = order.clone();
                longer.insert(at, next);
                longer
            })
        };
        all = all.iter().flat_map(longer).collect();
    }
    all
}
