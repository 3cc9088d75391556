//! What the plan alone says, whatever the moment, and what of it a change has changed: only that needs to travel to who has the rest.

use super::{
    Ask, BuildUpView, FigureView, OrderView, QuestionView, StepView, WallView, build_up, courses_why, data_problem,
    order_view, questions, steps,
};
use crate::job::Job;
use crate::plan::Plan;
use crate::problem::Problem;
use crate::profile::{FigureValue, Profile};
use crate::stop::Stop;
use crate::takeoff::{CutGroup, cut_list_within};
use serde::Serialize;

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
    let profile = Profile::general_practice().map_err(|e| data_problem(e.to_string()))?;
    let figures = profile.figures.iter().map(|figure| {
        let own = job.figures.get(&figure.id);
        let moved = plan.moved.iter().find(|m| m.figure == figure.id);
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
        steps: steps(plan).map_err(data_problem)?,
        order: order_view(plan),
        schools: questions(job, plan, ask.wall).map_err(data_problem)?,
        cut_list: if ask.cut_list { cut_list_within(plan, &job.ticks, &|| stop.is_hurried()) } else { Vec::new() },
        courses_why: courses_why(plan),
        build_ups: build_up::build_ups(plan).map_err(data_problem)?,
        figures: figures.collect(),
    })
}

/// Leaves out of an answer what `before` has already, as who asks calls it.
pub fn leave_out(view: &mut WallView, before: &Planned, have: &str) {
    let mut same = Vec::new();
    let mut part = |name: &str, is: bool| {
        if is {
            same.push(name.to_owned());
        }
        is
    };
    if part("order", view.order == before.order) {
        view.order = OrderView::default();
    }
    if part("schools", view.schools == before.schools) {
        view.schools.clear();
    }
    if part("cut_list", view.cut_list == before.cut_list) {
        view.cut_list.clear();
    }
    if part("courses_why", view.courses_why == before.courses_why) {
        view.courses_why.clear();
    }
    if part("build_ups", view.build_ups == before.build_ups) {
        view.build_ups.clear();
    }
    if part("figures", view.figures == before.figures) {
        view.figures.clear();
    }
    let ids = |steps: &[StepView]| steps.iter().map(|s| s.id.clone()).collect::<Vec<_>>();
    let (now, was) = (ids(&view.steps), ids(&before.steps));
    let known: std::collections::HashMap<&str, &StepView> = before.steps.iter().map(|s| (s.id.as_str(), s)).collect();
    view.steps.retain(|s| known.get(s.id.as_str()) != Some(&s));
    view.since = Some(Since { have: have.to_owned(), same, steps: if now == was { Vec::new() } else { now } });
}
