//! Practice: walls that never were, made from a seed, and graded by what the water says of what the learner did.
//!
//! # Properties
//! The same drill, level, seed and focus give the same scene on every machine. Nothing is right because a list says so: an order is as good as the
//! stack it builds, a fault is there where a finding is about it, a size is right by the cut list, a repair by the wall with it.

mod call;
mod chance;
mod drill;
mod find;
mod measure;
mod order;
mod progress;
mod repair;
mod scene;
mod sheet;

pub use call::CallQuestion;
pub use drill::{
    CLEAN, Drill, FALSE_ALARM, FULL, Graded, HINT, LEVELS, MOST_ANSWERED, MOST_SEED, Said, WASTED, Which, fault_name,
    fault_names,
};
pub use find::{HiddenFault, Marked, Mendable};
pub use measure::{AskedSize, Size};
pub use order::Looked;
pub use progress::{FaultKnown, Learnt, LevelKnown, Result as DrillResult, progress};
pub use scene::{Scene, SceneTask, scene, scene_of_job};
pub use sheet::{AnswerSheet, MOST_STEPS, MendSheet, SizeSheet, StepHint, TargetSheet, Worth, sheet};

use crate::findings::KnownWater;
use crate::problem::Problem;
use crate::record::Go;
use serde::{Deserialize, Serialize};

/// What a learner did.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "drill", rename_all = "lowercase", deny_unknown_fields)]
pub enum DrillAnswer {
    /// Steps in the order in which they were laid.
    Order {
        /// Ids of the steps.
        steps: Vec<String>,
        /// Pieces that were stuck and had to be thrown away.
        #[serde(default)]
        wasted: u32,
        /// Hints that were asked for.
        #[serde(default)]
        hints: u32,
    },
    /// What was marked as wrong.
    Find {
        /// Each with its fault.
        marks: Vec<Marked>,
        /// Hints that were asked for.
        #[serde(default)]
        hints: u32,
        /// Which repair was taken for each of them that was found, in the order of [`mends`]: the place in its list, from 0.
        #[serde(default)]
        mends: Vec<usize>,
    },
    /// Sizes in the order in which they were asked.
    Measure {
        /// Along and across.
        sizes: Vec<Size>,
    },
    /// What was said to each question.
    Call {
        /// In their order.
        calls: Vec<Go>,
    },
    /// Which repair was taken.
    Repair {
        /// For each thing that was found the place in its list, from 0.
        choices: Vec<usize>,
    },
}

/// A scene's wall, with what is needed to mend what is wrong with it.
fn on<'a>(scene: &'a Scene, known: &'a KnownWater) -> find::On<'a> {
    find::On { which: &scene.which, job: &scene.job, plan: &scene.plan, known }
}

/// Grades an answer to a scene.
///
/// # Errors
/// What is wrong with the answer: another drill's, too long, or about what is not there.
pub fn grade(scene: &Scene, answer: &DrillAnswer, known: &KnownWater) -> Result<Graded, Vec<Problem>> {
    let wrong = |message: String| Err(vec![Problem::new("$.answer", message)]);
    match (&scene.task, answer) {
        (SceneTask::Order(task), DrillAnswer::Order { steps, wasted, hints }) => {
            order::grade((&scene.plan, scene.planned), task, steps, (*wasted, *hints), known)
        }
        (SceneTask::Find(task), DrillAnswer::Find { marks, hints, mends }) => {
            find::grade(&on(scene, known), task, marks, *hints, mends)
        }
        (SceneTask::Measure(task), DrillAnswer::Measure { sizes }) => measure::grade(task, sizes),
        (SceneTask::Call(task), DrillAnswer::Call { calls }) => call::grade(task, calls),
        (SceneTask::Repair(task), DrillAnswer::Repair { choices }) => repair::grade(task, choices),
        (_, _) => wrong(format!("this scene is of the drill {:?}: answer that one", scene.which.drill).to_lowercase()),
    }
}

/// Looks at what was laid so far.
///
/// # Errors
/// What is wrong with the answer.
pub fn look(scene: &Scene, steps: &[String]) -> Result<Looked, Vec<Problem>> {
    let SceneTask::Order(task) = &scene.task else {
        let message = "nothing is put in order in this scene: ask for one of that drill";
        return Err(vec![Problem::new("$.drill", message.to_owned())]);
    };
    order::look(&scene.plan, task, steps)
}

/// A hint for somebody who has answered so far: what comes next, or where one of the mistakes is that are not marked yet. It has its price
/// ([`HINT`]), which the answer carries.
///
/// # Errors
/// What is wrong with the answer, or that there are no hints in its drill or none are left.
pub fn hint(scene: &Scene, so_far: &DrillAnswer) -> Result<String, Vec<Problem>> {
    let none = |message: &str| Err(vec![Problem::new("$.answer", message.to_owned())]);
    match (&scene.task, so_far) {
        (SceneTask::Order(task), DrillAnswer::Order { steps, .. }) => {
            order::hint(&scene.plan, task, steps).map_or_else(|| none("everything is laid: let it rain"), Ok)
        }
        (SceneTask::Find(task), DrillAnswer::Find { marks, .. }) => {
            find::hint(&scene.plan, task, marks).map_or_else(|| none("everything that is wrong is marked"), Ok)
        }
        (_, _) => none("there are no hints in this drill: its rules stand beside it"),
    }
}

/// What can be done about each mistake that was found with some marks, in the order of the wall's mistakes; the titles of its repairs, mixed.
///
/// # Errors
/// That nothing is to be found in the scene, or that the asker stopped asking.
pub fn mends(scene: &Scene, marks: &[Marked], known: &KnownWater) -> Result<Vec<Mendable>, Vec<Problem>> {
    let SceneTask::Find(task) = &scene.task else {
        return Err(vec![Problem::new(
            "$.drill",
            "nothing is to be found in this scene: ask for one of that drill".to_owned(),
        )]);
    };
    find::mends(&on(scene, known), task, marks)
}

/// What somebody who knows everything answers.
pub fn perfect(scene: &Scene, known: &KnownWater) -> DrillAnswer {
    match &scene.task {
        SceneTask::Order(task) => DrillAnswer::Order { steps: task.right.clone(), wasted: 0, hints: 0 },
        SceneTask::Find(task) => {
            let marks = find::perfect(task);
            DrillAnswer::Find { mends: find::best_mends(&on(scene, known), task, &marks), marks, hints: 0 }
        }
        SceneTask::Measure(task) => {
            DrillAnswer::Measure { sizes: task.iter().map(|a| Size { length: a.length, width: a.width }).collect() }
        }
        SceneTask::Call(task) => DrillAnswer::Call { calls: task.iter().map(|q| q.right.go).collect() },
        SceneTask::Repair(task) => DrillAnswer::Repair { choices: task.iter().map(|t| t.best).collect() },
    }
}
