//! What is asked at the wall: whether the unit fits, whether it may be done now, what a test says, what is to be looked at, and whether it holds as it
//! was really done. Nothing of it is written down.

use super::body::{Ask, JobId, Json, Spoken};
use super::jobs::{about, state};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use crate::recent::MadePlan;
use axum::Json as Out;
use axum::extract::State;
use kame_core::checks::checks_of;
use kame_core::edit::{Edit, apply};
use kame_core::job::SequenceSpec;
use kame_core::plan::Plan;
use kame_core::problem::Problem;
use kame_core::record::{
    Conditions, Drying, Entry, Event, Fit, GoAnswer, MOST_AT_ONCE, MOST_READINGS, Point, SeenWater, TestAnswer,
    TestKind, as_built, drying, fit_of, go_of, holding, not_a_time, not_seen_so, order_by, states, test_answer, walk,
};
use kame_core::sequence::Stage;
use kame_core::view::{
    HandoverLine, HoldsView, SeenJudged, TestPicture, VerdictView, handover, holds, seen_judged, test_picture,
};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};

/// Readings of checks at one place.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Measured {
    /// Id of the opening.
    pub opening: String,
    /// Readings by the id of their check, in its unit.
    pub readings: BTreeMap<String, Vec<f64>>,
}

/// Checks whose readings are taken at once.
const MOST_CHECKS: usize = 60;

/// Holds the readings of an opening against its unit: whether it goes in, what to move, and where shims go.
#[utoipa::path(post, path = "/api/jobs/{id}/fit", params(("id" = i64, Path)), request_body = Measured, responses((status = 200, body = Fit), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn fits(
    State(app): State<App>,
    JobId(id): JobId,
    Spoken(said): Spoken,
    Json(read): Json<Measured>,
) -> Result<Out<Fit>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let recent = Arc::clone(&app.recent);
    about(&app, &place, now, move |now, _, _| {
        let most = read.readings.values().map(Vec::len).max().unwrap_or(0);
        if read.readings.len() > MOST_CHECKS || most > MOST_READINGS {
            let message = format!(
                "found {} checks with up to {most} readings, expected at most {MOST_CHECKS} with {MOST_READINGS}",
                read.readings.len()
            );
            return Err(vec![Problem::new("$.readings", message)].into());
        }
        let plan = &recent.plan(&now)?.plan;
        let checks = checks_of(plan).map_err(Fault::Internal)?;
        fit_of(plan, &checks, &read.opening, &read.readings).map(|fit| Out(said.say(fit))).ok_or_else(|| {
            let message =
                format!("there is no opening \"{}\" on this wall; it may have been removed meanwhile", read.opening);
            vec![Problem::new("$.opening", message)].into()
        })
    })
    .await
}

/// A step, and what it is like there now.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GoAsk {
    /// Id of the step.
    pub step: String,
    /// What was measured.
    pub now: Conditions,
}

/// Whether a step may be done as it is now: go, prepare or wait. `null` where it neither sticks, coats, seals nor hangs a sheet.
#[utoipa::path(post, path = "/api/jobs/{id}/go", params(("id" = i64, Path)), request_body = GoAsk, responses((status = 200, body = Option<GoAnswer>), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn may_go(
    State(app): State<App>,
    JobId(id): JobId,
    Spoken(said): Spoken,
    Json(ask): Json<GoAsk>,
) -> Result<Out<Option<GoAnswer>>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let recent = Arc::clone(&app.recent);
    about(&app, &place, now, move |now, _, _| {
        let problems = ask.now.problems("$.now");
        if !problems.is_empty() {
            return Err(problems.into());
        }
        Ok(Out(said.say(go_of(&recent.plan(&now)?.plan, &ask.step, &ask.now))))
    })
    .await
}

/// A test, as it was read.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tested {
    /// The kind of test.
    pub test: TestKind,
    /// Row by row, as decimal numbers in text.
    pub rows: Vec<Vec<String>>,
    /// Where water was seen, for tests with water.
    #[serde(default)]
    pub seen: Vec<SeenWater>,
    /// Where: id of an opening; empty for the walls.
    #[serde(default)]
    pub place: String,
    /// When, by the device's clock, RFC 3339 in UTC; needed to say how moisture goes.
    #[serde(default)]
    pub at: Option<String>,
}

/// What a test says, and what the wall should say.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TestSays {
    /// What was seen.
    pub seen: TestAnswer,
    /// Each spot at which water was seen, held against where it should come out of the wall as it stands today.
    pub spots: Vec<SeenJudged>,
    /// The wall as it is built, by the model.
    pub predicted: VerdictView,
    /// How moisture at that place goes, with what was read there before; `null` for other tests.
    pub drying: Option<Drying>,
}

/// What the numbers of a test say, beside what the water says of the wall as it is built today.
#[utoipa::path(post, path = "/api/jobs/{id}/test", params(("id" = i64, Path)), request_body = Tested, responses((status = 200, body = TestSays), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn tested(
    State(app): State<App>,
    JobId(id): JobId,
    Json(read): Json<Tested>,
) -> Result<Out<TestSays>, Fault> {
    if let Some(message) = read.test.problem(&read.rows) {
        return Err(vec![Problem::new("$.rows", message)].into());
    }
    if let Some(message) = not_seen_so(&read.seen) {
        return Err(vec![Problem::new("$.seen", message)].into());
    }
    if let Some(message) = read.at.as_deref().and_then(not_a_time) {
        return Err(vec![Problem::new("$.at", message)].into());
    }
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let here = app.clone();
    about(&app, &place, now, move |now, known, _| {
        let made = here.recent.plan(&now)?;
        let seen = test_answer(read.test, &read.rows, &made.plan.basis.figures);
        let Today { entries, order, plan, done } = today(&here, id, &made)?;
        let predicted = holds((&made.plan, &order), (&made.plan, &order), known)?.after;
        let spots = seen_judged(&plan, done, &read.place, &read.seen, known)?;
        let read_now = read.at.as_deref().map(|at| (at, read.rows.as_slice()));
        let drying = (read.test == TestKind::Moisture)
            .then(|| drying(&entries, &read.place, read_now, &made.plan.basis.figures))
            .flatten();
        Ok(Out(TestSays { seen, spots, predicted, drying }))
    })
    .await
}

/// Where a test is made.
#[derive(Clone, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct TestedAt {
    /// Id of an opening; without it the walls.
    #[serde(default)]
    pub opening: String,
}

/// A place as it stands today, with where water that is poured into it should come out: what a test with water is held against.
#[utoipa::path(get, path = "/api/jobs/{id}/expected", params(("id" = i64, Path), TestedAt), responses((status = 200, body = TestPicture), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn expected(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(at): Ask<TestedAt>,
) -> Result<Out<TestPicture>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let here = app.clone();
    about(&app, &place, now, move |now, known, _| {
        let made = here.recent.plan(&now)?;
        let Today { plan, done, .. } = today(&here, id, &made)?;
        Ok(Out(test_picture(&plan, done, &at.opening, known)?))
    })
    .await
}

/// The wall as it lies there today, by its record.
struct Today {
    entries: Arc<Vec<Entry>>,
    /// What was done, in its order, then everything else as planned.
    order: SequenceSpec,
    /// The plan in that order.
    plan: Plan,
    /// How many actions of it are done.
    done: usize,
}

fn today(app: &App, id: i64, made: &MadePlan) -> Result<Today, Fault> {
    let entries = app.recent.record(&app.store, id)?;
    let (order, done) = as_built(&made.plan, &made.job.sequence, &entries);
    let mut plan = made.plan.clone();
    plan.put_in_order(&order);
    Ok(Today { entries, order, plan, done })
}

/// Everything that is looked at before cover, in the order of the scaffold, with what can still be seen and what was said of it.
#[utoipa::path(get, path = "/api/jobs/{id}/walk", params(("id" = i64, Path)), responses((status = 200, body = Vec<Point>), (status = 404, body = ProblemDocument)))]
pub async fn walked(State(app): State<App>, JobId(id): JobId, Spoken(said): Spoken) -> Result<Out<Vec<Point>>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let here = app.clone();
    about(&app, &place, now, move |now, _, _| {
        let made = here.recent.plan(&now)?;
        let Today { entries, plan, done, .. } = today(&here, id, &made)?;
        let stage = Stage::after(&plan, plan.actions().take(done).map(|(_, a)| a));
        let checks = checks_of(&plan).map_err(Fault::Internal)?;
        Ok(Out(said.say(walk(&plan, &stage, &checks, &states(&plan, &entries)))))
    })
    .await
}

/// What one trade leaves for the next, place by place, with what of it is there by the record.
#[utoipa::path(get, path = "/api/jobs/{id}/handover", params(("id" = i64, Path)), responses((status = 200, body = Vec<HandoverLine>), (status = 404, body = ProblemDocument)))]
pub async fn handed(State(app): State<App>, JobId(id): JobId) -> Result<Out<Vec<HandoverLine>>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let here = app.clone();
    about(&app, &place, now, move |now, _, _| {
        let plan = &here.recent.plan(&now)?.plan;
        let entries = here.recent.record(&here.store, id)?;
        Ok(Out(handover(plan, &states(plan, &entries))))
    })
    .await
}

/// Something that is other than planned.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Different {
    /// A change of the plan that goes with it.
    #[serde(default)]
    pub change: Option<Edit>,
    /// What would be written down, after what is on record.
    #[serde(default)]
    pub events: Vec<Event>,
}

/// Whether the wall still holds where something is done other than planned: what is on record, then `events`, then everything else as planned after
/// `change`. Nothing is kept.
#[utoipa::path(post, path = "/api/jobs/{id}/holds", params(("id" = i64, Path)), request_body = Different, responses((status = 200, body = HoldsView), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn still_holds(
    State(app): State<App>,
    JobId(id): JobId,
    Spoken(said): Spoken,
    Json(new): Json<Different>,
) -> Result<Out<HoldsView>, Fault> {
    if new.events.len() > MOST_AT_ONCE {
        let message = format!("found {} events, expected at most {MOST_AT_ONCE}", new.events.len());
        return Err(vec![Problem::new("$.events", message)].into());
    }
    let wrong: Vec<Problem> =
        new.events.iter().enumerate().flat_map(|(i, e)| e.problems(&format!("$.events[{i}]"))).collect();
    if !wrong.is_empty() {
        return Err(wrong.into());
    }
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let here = app.clone();
    about(&app, &place, now, move |now, known, _| {
        let made = here.recent.plan(&now)?;
        let entries = here.recent.record(&here.store, id)?;
        let changed = new.change.as_ref().map(|edit| apply(&now.job, edit)).transpose()?;
        let (job, plan) = changed.as_ref().map_or((&now.job, &made.plan), |(job, plan)| (job, plan));
        let (before, _) = as_built(&made.plan, &now.job.sequence, &entries);
        let (after, _) = order_by(plan, &job.sequence, holding(&entries).map(|e| &e.event).chain(&new.events));
        Ok(Out(said.say(holds((&made.plan, &before), (plan, &after), known)?)))
    })
    .await
}
