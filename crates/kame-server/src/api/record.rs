//! What was done on the wall.

use super::body::{Ask, JobId, Json};
use super::jobs::{about, state, stored};
use super::types::Where;
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use crate::who::Who;
use axum::Json as Out;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use kame_core::checks::checks_of;
use kame_core::plan::Plan;
use kame_core::problem::Problem;
use kame_core::record::{Entry, Event, Judgement, Line, MOST_READINGS, StepState, What, Whole, judge, lines, states};
use kame_core::trade::Step;
use kame_store::PAGE;
use serde::{Deserialize, Serialize};
use std::collections::{HashMap, HashSet};
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};

/// Events of a device, in the order in which they happened there.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Sent {
    /// At most 500 of them.
    pub events: Vec<Event>,
}

/// From where the record is read.
#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct FromEntry {
    /// Number of the first entry; 1 where it is left out. At most 1000 are answered.
    #[serde(default = "first")]
    pub from: u64,
}

fn first() -> u64 {
    1
}

/// Readings that are asked about and not written down.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Read {
    /// Id of the check in the plan.
    pub check: String,
    /// The readings so far, in its unit.
    pub values: Vec<f64>,
}

/// How the work stands by the record.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Stands {
    /// Revision of the job whose steps these are.
    pub revision: i64,
    /// Number of entries in the record.
    pub entries: u64,
    /// Every step in its order.
    pub steps: Vec<StepState>,
}

/// Refuses readings in another unit than their check's. What is not in the plan any more is taken as it was written.
fn in_their_units(plan: &Plan, events: &[Event]) -> Result<(), Fault> {
    let checks = checks_of(plan).map_err(Fault::Internal)?;
    let units: HashMap<&str, &str> = checks.iter().map(|c| (c.id.as_str(), c.unit)).collect();
    let wrong = |(i, e): (usize, &Event)| {
        let What::Reading { check, unit, .. } = &e.what else { return None };
        let wanted = units.get(check.as_str()).filter(|u| **u != unit.as_str())?;
        let found: String = unit.chars().take(20).collect();
        let message = format!("found readings in \"{found}\", expected \"{wanted}\": read or reckon them in that unit");
        Some(Problem::new(format!("$.events[{i}].what.unit"), message))
    };
    let problems: Vec<Problem> = events.iter().enumerate().filter_map(wrong).collect();
    if problems.is_empty() { Ok(()) } else { Err(problems.into()) }
}

/// Who signed in writes down under their own name alone.
fn by_themselves(who: &Who, events: &[Event]) -> Result<(), Fault> {
    let Who::Person(person) = who else { return Ok(()) };
    let other = events.iter().enumerate().find(|(_, e)| e.who != person.name);
    other.map_or(Ok(()), |(i, e)| {
        let message = format!("found \"{}\", and {} signed in: write down what you did yourself", e.who, person.name);
        Err(vec![Problem::new(format!("$.events[{i}].who"), message)].into())
    })
}

/// Adds to the record. An event that is there already is answered as it stands; the answer has an entry for each event.
#[utoipa::path(post, path = "/api/jobs/{id}/record", params(("id" = i64, Path)), request_body = Sent, responses((status = 200, body = Vec<Entry>), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn add(
    State(app): State<App>,
    JobId(id): JobId,
    who: Who,
    Json(sent): Json<Sent>,
) -> Result<Out<Vec<Entry>>, Fault> {
    by_themselves(&who, &sent.events)?;
    if sent.events.iter().any(|e| matches!(e.what, What::Reading { .. })) {
        let now = state(&app, id).await?;
        let (place, recent, events) = (app.works.of(&now.job).clone(), Arc::clone(&app.recent), sent.events.clone());
        about(&app, &place, now, move |now, _, _| in_their_units(&recent.plan(&now)?.plan, &events)).await?;
    }
    let entries = stored(&app, move |s| Ok(s.record(id, &sent.events)?)).await?;
    if let Some(last) = entries.iter().map(|e| e.number).max() {
        app.changes.tell_recorded(id, last);
    }
    Ok(Out(entries))
}

/// The record, a page of it.
#[utoipa::path(get, path = "/api/jobs/{id}/record", params(("id" = i64, Path), FromEntry), responses((status = 200, body = Vec<Entry>), (status = 404, body = ProblemDocument)))]
pub async fn recorded(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(ask): Ask<FromEntry>,
) -> Result<Out<Vec<Entry>>, Fault> {
    Ok(Out(stored(&app, move |s| Ok(s.entries(id, ask.from)?)).await?))
}

/// The record in words, a page of it: who said what of which step, whether it was as it should be, and what is odd about it.
#[utoipa::path(get, path = "/api/jobs/{id}/record/lines", params(("id" = i64, Path), FromEntry), responses((status = 200, body = Vec<Line>), (status = 404, body = ProblemDocument)))]
pub async fn told(State(app): State<App>, JobId(id): JobId, Ask(ask): Ask<FromEntry>) -> Result<Out<Vec<Line>>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let here = app.clone();
    about(&app, &place, now, move |now, _, _| {
        let plan = &here.recent.plan(&now)?.plan;
        // All of it is asked: whether an entry was corrected stands behind it.
        let entries = here.recent.record(&here.store, id)?;
        let checks = checks_of(plan).map_err(Fault::Internal)?;
        let all = lines(plan, &checks, &entries).into_iter().filter(|l| l.number >= ask.from);
        Ok(Out(all.take(PAGE as usize).collect()))
    })
    .await
}

/// Whether the record is whole, and where it is not.
#[utoipa::path(get, path = "/api/jobs/{id}/record/verify", params(("id" = i64, Path)), responses((status = 200, body = Whole), (status = 404, body = ProblemDocument)))]
pub async fn verify(State(app): State<App>, JobId(id): JobId) -> Result<Out<Whole>, Fault> {
    Ok(Out(stored(&app, move |s| Ok(s.verify_record(id)?)).await?))
}

/// The whole record as a file, an entry a line: `kame record verify` looks it through.
#[utoipa::path(get, path = "/api/jobs/{id}/record.jsonl", params(("id" = i64, Path)), responses((status = 200, content_type = "application/jsonl"), (status = 404, body = ProblemDocument)))]
pub async fn file(State(app): State<App>, JobId(id): JobId) -> Result<Response, Fault> {
    let text = stored(&app, move |s| {
        let lines = s
            .whole_record(id)?
            .iter()
            .map(|e| serde_json::to_string(e).map(|t| t + "\n"))
            .collect::<Result<String, _>>();
        lines.map_err(|e| Fault::Internal(e.to_string()))
    })
    .await?;
    let name = format!("attachment; filename=\"record-{id}.jsonl\"");
    Ok(([(header::CONTENT_TYPE, "application/jsonl".to_owned()), (header::CONTENT_DISPOSITION, name)], text)
        .into_response())
}

/// How every step stands by the record, or the steps at one opening; by a link without names and notes.
#[utoipa::path(get, path = "/api/jobs/{id}/stands", params(("id" = i64, Path), Where), responses((status = 200, body = Stands), (status = 404, body = ProblemDocument)))]
pub async fn stands(
    State(app): State<App>,
    JobId(id): JobId,
    who: Who,
    Ask(at): Ask<Where>,
) -> Result<Out<Stands>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let here = app.clone();
    about(&app, &place, now, move |now, _, _| {
        let made = here.recent.plan(&now)?;
        let entries = here.recent.record(&here.store, id)?;
        let place = |s: &Step| s.opening.clone().unwrap_or_default();
        let asked = |s: &Step| {
            at.step.as_ref().is_none_or(|id| s.id == *id) && at.opening.as_ref().is_none_or(|o| place(s) == *o)
        };
        let those: HashSet<&str> = made.plan.steps.iter().filter(|s| asked(s)).map(|s| s.id.as_str()).collect();
        let mut steps = states(&made.plan, &entries);
        steps.retain(|s| those.contains(s.step.as_str()));
        if matches!(who, Who::Guest(_)) {
            steps.iter_mut().for_each(StepState::without_names);
        }
        Ok(Out(Stands { revision: now.revision, entries: entries.len() as u64, steps }))
    })
    .await
}

/// What is said of readings: whether they are as they should be, and what to do where they are not. Nothing is written down.
#[utoipa::path(post, path = "/api/jobs/{id}/judge", params(("id" = i64, Path)), request_body = Read, responses((status = 200, body = Judgement), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn judged(State(app): State<App>, JobId(id): JobId, Json(read): Json<Read>) -> Result<Out<Judgement>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let recent = Arc::clone(&app.recent);
    about(&app, &place, now, move |now, _, _| {
        let plan = &recent.plan(&now)?.plan;
        if read.values.len() > MOST_READINGS {
            let message = format!("found {} readings, expected at most {MOST_READINGS}", read.values.len());
            return Err(vec![Problem::new("$.values", message)].into());
        }
        let all = checks_of(plan).map_err(Fault::Internal)?;
        let Some(check) = all.iter().find(|c| c.id == read.check) else {
            let message = format!("there is no check \"{}\" in this job; it may have changed meanwhile", read.check);
            return Err(vec![Problem::new("$.check", message)].into());
        };
        let opening = plan.openings.iter().find(|o| o.id == check.opening);
        let size = opening.map(|o| [o.rect.width().to_inches_f64(), o.rect.height().to_inches_f64()]);
        Ok(Out(judge(check, &read.values, size)))
    })
    .await
}
