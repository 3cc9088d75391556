//! What a script is told of a wall at one moment: the verdict and every finding, without drawings.

use super::ask::{Known, data_problem};
use super::verdict::{VerdictView, WaterHeadView};
use crate::edit::Edit;
use crate::findings::{Moment, Severity, by_cause};
use crate::job::Job;
use crate::plan::build;
use crate::problem::Problem;
use crate::remedies::{Remedy, remedies};
use serde::Serialize;
use std::collections::HashMap;

/// For so many causes remedies are tried; of more the first are told as the wall shows them.
pub const MOST_CHECKED: usize = 24;

/// The verdict with its findings.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct CheckView {
    /// The verdict.
    #[serde(flatten)]
    pub verdict: VerdictView,
    /// Number of actions done.
    pub done: usize,
    /// Number of all actions.
    pub total: usize,
    /// Every finding, the worst first, one for each cause.
    pub findings: Vec<CheckedFinding>,
}

/// A finding as a script is told it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CheckedFinding {
    /// Stable code.
    pub code: String,
    /// Leak, pond, fault, glue or note.
    pub severity: Severity,
    /// Ids of the pieces concerned.
    pub pieces: Vec<String>,
    /// Ids of the openings and other features it shows at.
    pub features: Vec<String>,
    /// What happens.
    pub reason: String,
    /// What somebody should do, as a sentence.
    pub remedy: String,
}

/// Checks a job after `done` actions, `None` all.
///
/// # Errors
/// What is wrong with the job.
pub fn check(job: &Job, done: Option<usize>, known: &Known) -> Result<CheckView, Vec<Problem>> {
    let plan = build(job)?;
    let moment = Moment::with_known(&plan, done.unwrap_or(usize::MAX), &known.water).map_err(data_problem)?;
    let found = moment.findings(&plan);
    let tried = if moment.finished {
        remedies(job, &plan, &found, &known.water, &known.stop, MOST_CHECKED).map_err(data_problem)?
    } else {
        Vec::new()
    };
    let tried: HashMap<usize, Option<Remedy>> = tried.into_iter().collect();
    let findings = by_cause(&plan, &found).into_iter().enumerate().map(|(i, c)| CheckedFinding {
        remedy: tried.get(&i).and_then(|r| r.as_ref()).map_or_else(|| c.told.remedy.clone(), |r| r.words.clone()),
        code: c.told.code.clone(),
        severity: c.told.severity,
        pieces: c.told.pieces.clone(),
        features: c.at.iter().map(|id| (*id).to_owned()).collect(),
        reason: c.told.reason.clone(),
    });
    Ok(CheckView {
        verdict: VerdictView::of(&plan, &moment.verdict(&plan, &found), &found),
        done: moment.done,
        total: plan.actions().count(),
        findings: findings.collect(),
    })
}

/// What can be done about a finding on a finished wall.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RemedyView {
    /// Number of the finding in the list of the finished wall.
    pub finding: usize,
    /// The edit that was tried: it takes away what it is offered for and adds nothing. `null` where only a person can do something.
    pub edit: Option<Edit>,
    /// What to do, in words.
    pub words: String,
    /// The step it is about; empty where it is about none.
    pub step: String,
}

/// Remedies for the findings of a finished wall, tried one after another: at most [`MOST_CHECKED`] of them.
///
/// # Errors
/// What is wrong with the job, or that the asker stopped asking.
pub fn remedy_views(job: &Job, known: &Known) -> Result<Vec<RemedyView>, Vec<Problem>> {
    let plan = build(job)?;
    let found = Moment::with_known(&plan, usize::MAX, &known.water).map_err(data_problem)?.findings(&plan);
    let tried = remedies(job, &plan, &found, &known.water, &known.stop, MOST_CHECKED).map_err(data_problem)?;
    let causes = by_cause(&plan, &found);
    let view = |(i, remedy): (usize, Option<Remedy>)| RemedyView {
        finding: i + 1,
        step: match remedy.as_ref().map(|r| &r.edit) {
            Some(Edit::RestoreStep { step } | Edit::MoveStep { step, .. }) => step.clone(),
            _ => String::new(),
        },
        words: remedy.as_ref().map_or_else(|| causes[i].told.remedy.clone(), |r| r.words.clone()),
        edit: remedy.map(|r| r.edit),
    };
    Ok(tried.into_iter().map(view).collect())
}

impl CheckView {
    /// The same in lines for people at a terminal.
    pub fn in_words(&self) -> String {
        let head = |w: &WaterHeadView| match w.head_in {
            Some(h) => format!("{h:.2} in"),
            None => "no way in".into(),
        };
        let heads = self.verdict.heads.iter().map(|w| {
            let glue = if w.glue == super::GlueView::Lost { "glue lost" } else { "glue holds" };
            format!("  {}, {glue}: {}\n", w.name, head(w))
        });
        let findings = self.findings.iter().map(|f| {
            let at = if f.features.is_empty() { String::new() } else { format!(" ({})", f.features.join(", ")) };
            format!("{}{at}: {}\n    {}\n", f.code, f.reason, f.remedy)
        });
        let mut out = format!("{}.\n", self.verdict.says);
        out.extend(heads);
        out.extend(findings);
        out
    }
}
