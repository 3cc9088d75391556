//! How far a job has come by its record, in a line: what is done, what comes next, and how it stands tonight (handbook 6.11).

use super::ask::{Known, data_problem};
use crate::findings::Moment;
use crate::job::Job;
use crate::nights::{NightState, tonight};
use crate::plan::Plan;
use crate::problem::Problem;
use crate::record::{Entry, StepNow, StepState, as_built, states};
use crate::trade::StepId;
use serde::Serialize;

/// How far a job has come.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct JobProgress {
    /// What is said of the finished wall, 1 (the worst) to 6.
    pub verdict: u8,
    /// Steps that are done.
    pub done: usize,
    /// Steps altogether, without those that are left out.
    pub of: usize,
    /// Steps with a check that is not as it should be.
    pub failed: usize,
    /// What comes next; `null` where all is done.
    pub next: Option<NextStep>,
    /// The wall as it would be left now, also where all is done; `null` where nothing was begun.
    pub tonight: Option<TonightView>,
}

/// The step that comes next.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct NextStep {
    /// Id of the step.
    pub step: String,
    /// What is done.
    pub title: String,
    /// Id of the opening; empty for the walls.
    pub place: String,
    /// What people call that.
    pub place_name: String,
}

/// A night on which a wall is left as it stands.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TonightView {
    /// How it may be left.
    pub state: NightState,
    /// What rain does to it; empty where it stays dry.
    pub why: String,
    /// What to put on it, in words.
    pub put: Vec<String>,
}

fn is_over(s: &StepState) -> bool {
    matches!(s.now, StepNow::Done | StepNow::LookedAt | StepNow::Failed)
}

fn named(plan: &Plan, step: StepId) -> NextStep {
    let step = &plan.steps[step];
    let at = plan.openings.iter().find(|o| Some(&o.id) == step.opening.as_ref());
    NextStep {
        step: step.id.clone(),
        title: step.title.clone(),
        place: at.map(|o| o.id.clone()).unwrap_or_default(),
        place_name: at.map(|o| o.name.clone()).unwrap_or_default(),
    }
}

/// How far a job has come by its record.
///
/// # Errors
/// A sentence if a stage were no valid layup, or that whoever asks stopped asking.
pub fn progress(job: &Job, plan: &Plan, entries: &[Entry], known: &Known) -> Result<JobProgress, Vec<Problem>> {
    let finished = Moment::with_known(plan, usize::MAX, &known.water).map_err(data_problem)?;
    let verdict = finished.verdict(plan, &finished.findings(plan)).state.number();
    let (sequence, actions) = as_built(plan, &job.sequence, entries);
    let mut today = plan.clone();
    today.put_in_order(&sequence);
    let steps = states(&today, entries);
    let wanted = |s: &&StepState| s.now != StepNow::LeftOut && !today.is_removed(&s.step);
    let over = steps.iter().filter(wanted).filter(|s| is_over(s)).count();
    let next =
        steps.iter().zip(&today.order).find(|(s, _)| wanted(s) && !is_over(s)).map(|(_, step)| named(&today, *step));
    // What was left out may let rain in although nothing more is to come.
    let night = (over > 0).then(|| tonight(&today, actions, &known.nights)).transpose().map_err(data_problem)?;
    Ok(JobProgress {
        verdict,
        done: over,
        of: steps.iter().filter(wanted).count(),
        failed: steps.iter().filter(|s| s.now == StepNow::Failed).count(),
        next,
        tonight: night.map(|n| TonightView {
            state: n.state,
            why: n.why,
            put: n.temporary.into_iter().map(|t| t.words).collect(),
        }),
    })
}
