//! What the plan alone says, whatever the moment.

use super::ask::{Ask, data_problem};
use super::build_up::{self, BuildUpView};
use super::schools::{OrderView, QuestionView, order_view, questions};
use super::step::{StepView, steps};
use crate::contact::Finished;
use crate::job::Job;
use crate::plan::Plan;
use crate::problem::Problem;
use crate::profile::{FigureValue, Profile};
use crate::stop::Stop;
use crate::takeoff::{CutGroup, cut_list_within};
use serde::Serialize;

/// A figure in force, for the panel of sizes.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FigureView {
    /// The figure with the profile's own value.
    #[serde(flatten)]
    pub figure: crate::profile::Figure,
    /// The value in force, as people read it.
    pub in_force: String,
    /// True where the job has a value of its own.
    pub own: bool,
    /// The product that asks for what is in force, where it is not what the profile or the job says.
    pub asked_by: Option<String>,
}

/// The parts of an answer that do not change with the moment.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Planned {
    pub(super) steps: Vec<StepView>,
    pub(super) order: OrderView,
    pub(super) schools: Vec<QuestionView>,
    pub(super) cut_list: Vec<CutGroup>,
    pub(super) courses_why: String,
    pub(super) build_ups: Vec<BuildUpView>,
    pub(super) figures: Vec<FigureView>,
}

/// What an answer leaves out because whoever asks has it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Since {
    /// What they have, as they said it.
    pub have: String,
    /// Parts that are as they were and are left out, by their names.
    pub same: Vec<String>,
    /// Ids of all steps in their order where these are others than before; empty where they are the same. Of the steps only those that changed
    /// are in the answer.
    pub steps: Vec<String>,
}

/// What the plan of a job says of what is asked.
///
/// # Errors
/// A sentence if shipped data were broken.
pub fn planned(job: &Job, plan: &Plan, ask: &Ask, stop: &Stop) -> Result<Planned, Vec<Problem>> {
    planned_on(job, plan, ask, stop, &Finished::default())
}

/// The same, of a wall that may be known finished.
pub(super) fn planned_on(
    job: &Job,
    plan: &Plan,
    ask: &Ask,
    stop: &Stop,
    wall: &Finished,
) -> Result<Planned, Vec<Problem>> {
    let profile = Profile::general_practice().map_err(|e| data_problem(e.to_string()))?;
    let figures = profile.figures.iter().map(|figure| {
        let own = job.figures.get(&figure.id);
        let moved = plan.basis.moved.iter().find(|m| m.figure == figure.id);
        let text = moved.map(|m| match m.value {
            FigureValue::Length(l) => l.inches(16).to_string(),
            FigureValue::Number(n) => n.to_string(),
        });
        FigureView {
            in_force: text.unwrap_or_else(|| own.unwrap_or(&figure.value).clone()),
            own: own.is_some(),
            asked_by: moved.map(|m| job.kit.called(&m.product).to_owned()),
            figure: figure.clone(),
        }
    });
    Ok(Planned {
        steps: steps(plan, wall).map_err(data_problem)?,
        order: order_view(plan),
        schools: questions(job, plan, ask.wall).map_err(data_problem)?,
        cut_list: if ask.cut_list { cut_list_within(plan, &job.ticks, &|| stop.is_hurried()) } else { Vec::new() },
        courses_why: courses_why(plan),
        build_ups: build_up::build_ups(plan).map_err(data_problem)?,
        figures: figures.collect(),
    })
}

/// Why the courses lie as they do, stretch by stretch.
fn courses_why(plan: &Plan) -> String {
    let hung = plan.walls.stretches.iter().filter(|s| !s.courses.courses.is_empty());
    let said = hung.map(|s| match s.name("").trim_start_matches(" on ") {
        "" => s.courses.why.clone(),
        name => format!("{name}: {}", s.courses.why),
    });
    said.collect::<Vec<_>>().join(" ")
}
