//! A wall at one moment, answered whole.

use super::ask::{Ask, Known, Weather, data_problem};
use super::build_up::BuildUpView;
use super::elevation::{self, Elevation};
use super::exploded::{self, Exploded};
use super::finding::{FindingView, finding};
use super::nights::{NightView, night_views};
use super::planned::{FigureView, Planned, Since, planned_on};
use super::schools::{OrderView, QuestionView};
use super::section::{self, Section};
use super::step::StepView;
use super::verdict::VerdictView;
use crate::contact::Finished;
use crate::findings::{Finding, Moment, Severity, by_cause};
use crate::job::Job;
use crate::plan::{Plan, build};
use crate::problem::Problem;
use crate::takeoff::CutGroup;
use serde::Serialize;
use std::borrow::Cow;

/// A wall at one moment.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct WallView {
    /// Number of actions done.
    pub done: usize,
    /// Number of all actions.
    pub total: usize,
    /// The elevation.
    pub elevation: Elevation,
    /// The rail, in the order in force.
    pub steps: Vec<StepView>,
    /// True where the order or the choice of steps is not the recipes' own.
    pub reordered: bool,
    /// The section asked for.
    pub section: Option<Section>,
    /// The stack of the chosen opening drawn apart, where asked for.
    pub exploded: Option<Exploded>,
    /// The school questions, the wall's first.
    pub schools: Vec<QuestionView>,
    /// What is said about the order in force.
    pub order: OrderView,
    /// What is wrong at this moment.
    pub findings: Vec<FindingView>,
    /// What may be said of it.
    pub verdict: VerdictView,
    /// The cut list, where it is asked for.
    pub cut_list: Vec<CutGroup>,
    /// Why the courses are as they are.
    pub courses_why: String,
    /// The layers of each run of walls.
    pub build_ups: Vec<BuildUpView>,
    /// Figures in force.
    pub figures: Vec<FigureView>,
    /// Steps, order, questions, cut list, courses, build-ups and figures are left out: they are as whoever asks has them.
    pub moment_only: bool,
    /// After a change: what is left out because it is as whoever asks has it.
    pub since: Option<Since>,
}

/// Answers for a wall.
///
/// # Errors
/// What is wrong with the job.
pub fn view(job: &Job, ask: &Ask) -> Result<WallView, Vec<Problem>> {
    let plan = build(job)?;
    view_plan(job, &plan, ask, &Known::default())
}

/// Answers for a wall whose plan is built already, with what is known from before.
///
/// # Errors
/// A sentence if the stage were no valid layup; that would be a mistake in recipe data.
pub fn view_plan(job: &Job, plan: &Plan, ask: &Ask, known: &Known) -> Result<WallView, Vec<Problem>> {
    let finished = Finished::default();
    let watered = || {
        let moment = Moment::with_finished(plan, ask.done.unwrap_or(usize::MAX), &known.water, &finished)?;
        let (found, elevation) = rayon::join(|| moment.findings(plan), || elevation::draw(plan, &moment, ask.weather));
        Ok((moment, found, elevation))
    };
    // What the plan alone says is made beside the water, which leaves a core free for much of its time.
    let said =
        || if ask.moment_only { Ok(Planned::default()) } else { planned_on(job, plan, ask, &known.stop, &finished) };
    let (watered, said) = rayon::join(watered, said);
    let said = said?;
    let (moment, found, elevation) = watered.map_err(data_problem)?;
    // On a wall that is still being built, water is shown when it is asked for.
    let told = |f: &&Finding| {
        moment.finished || ask.weather != Weather::Dry || f.way.is_none() && f.severity != Severity::Pond
    };
    let shown: Cow<[Finding]> = if found.iter().all(|f| told(&f)) {
        Cow::Borrowed(&found)
    } else {
        found.iter().filter(told).cloned().collect()
    };
    let causes = by_cause(plan, &shown);
    Ok(WallView {
        done: moment.done,
        total: plan.actions().count(),
        steps: said.steps,
        reordered: !job.sequence.order.is_empty() || !job.sequence.removed.is_empty(),
        section: ask.section.and_then(|s| section::cut(plan, &moment, ask.weather, &s)),
        exploded: ask.exploded.and_then(|o| exploded::explode(plan, &moment, o)),
        schools: said.schools,
        order: said.order,
        findings: causes.iter().enumerate().map(|(i, c)| finding(plan, i + 1, c)).collect(),
        verdict: VerdictView::of(plan, &moment.verdict(plan, &found), &found),
        cut_list: said.cut_list,
        courses_why: said.courses_why,
        build_ups: said.build_ups,
        figures: said.figures,
        moment_only: ask.moment_only,
        since: None,
        elevation,
    })
}

/// Answers for a wall and all its nights at once, with what is known of them from before.
///
/// # Errors
/// A sentence if a stage were no valid layup; that would be a mistake in recipe data.
pub fn view_with_nights(
    job: &Job,
    plan: &Plan,
    ask: &Ask,
    known: &Known,
) -> Result<(WallView, Vec<NightView>), Vec<Problem>> {
    let (view, nights) = rayon::join(|| view_plan(job, plan, ask, known), || night_views(plan, &known.nights));
    Ok((view?, nights.map_err(data_problem)?))
}
