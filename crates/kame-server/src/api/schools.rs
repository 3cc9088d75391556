//! Nights, heads, schools side by side, and strategy.

use super::body::{Ask, JobId, Json, Spoken};
use super::jobs::{about, state, stored};
use super::types::{Compared, RemediesAnswer, StrategyAnswer};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use kame_core::advice::{Followed, follow};
use kame_core::interview::interview;
use kame_core::job::MOST_ANSWERS;
use kame_core::plan::build;
use kame_core::problem::Problem;
use kame_core::profile::Profile;
use kame_core::view::{
    ChoicePictures, ChoicesAsk, Comparison, HeadsView, NightView, choices, compare_until, heads, night_views,
    remedy_views,
};
use kame_store::JobState;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::Arc;
use utoipa::IntoParams;

/// How many sides can be held against each other.
const SIDES: std::ops::RangeInclusive<usize> = 2..=4;

/// After how much of the work heads are asked for.
#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct HeadsAt {
    /// Number of actions done; all where it is left out.
    #[serde(default)]
    pub done: Option<usize>,
}

/// For every step: may it be left like this tonight, and what keeps the rain out where it may not.
#[utoipa::path(get, path = "/api/jobs/{id}/nights", params(("id" = i64, Path)), responses((status = 200, body = Vec<NightView>), (status = 404, body = ProblemDocument)))]
pub async fn nights(
    State(app): State<App>,
    JobId(id): JobId,
    Spoken(said): Spoken,
) -> Result<Out<Vec<NightView>>, Fault> {
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |JobState { job, .. }, known, _| {
        let plan = build(&job)?;
        Ok(Out(said.say(night_views(&plan, &known.nights).map_err(Fault::Internal)?)))
    })
    .await
}

/// The least heads at which water gets in at each place, beside what is asked: all waters together.
#[utoipa::path(get, path = "/api/jobs/{id}/heads", params(("id" = i64, Path), HeadsAt), responses((status = 200, body = HeadsView), (status = 404, body = ProblemDocument)))]
pub async fn place_heads(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(at): Ask<HeadsAt>,
) -> Result<Out<HeadsView>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let recent = Arc::clone(&app.recent);
    about(&app, &place, now, move |now, known, _| {
        let made = recent.plan(&now)?;
        Ok(Out(heads(&made.plan, at.done.unwrap_or(usize::MAX), known)?))
    })
    .await
}

/// What can be done about the findings of the finished wall: each remedy was tried, and is offered only where what it is offered for is gone and
/// nothing came that was not there.
#[utoipa::path(get, path = "/api/jobs/{id}/remedies", params(("id" = i64, Path)), responses((status = 200, body = RemediesAnswer), (status = 404, body = ProblemDocument)))]
pub async fn remedies(
    State(app): State<App>,
    JobId(id): JobId,
    Spoken(said): Spoken,
) -> Result<Out<RemediesAnswer>, Fault> {
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |JobState { job, revision, .. }, known, _| {
        Ok(Out(RemediesAnswer { revision, remedies: said.say(remedy_views(&job, known)?) }))
    })
    .await
}

/// Which question's answers are drawn.
#[derive(Clone, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct PicturesAt {
    /// Id of the question.
    pub question: String,
    /// At which opening it is asked; for the walls where it is left out.
    #[serde(default)]
    pub opening: Option<String>,
    /// Of which wall, from 1 behind the first corner; of all where it is 0 or left out.
    #[serde(default)]
    pub wall: usize,
}

/// The answers to a question as pictures: the section in which they differ most, cut through the same place made each way.
#[utoipa::path(get, path = "/api/jobs/{id}/choices", params(("id" = i64, Path), PicturesAt), responses((status = 200, body = ChoicePictures), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn choice_pictures(
    State(app): State<App>,
    JobId(id): JobId,
    Spoken(said): Spoken,
    Ask(at): Ask<PicturesAt>,
) -> Result<Out<ChoicePictures>, Fault> {
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |JobState { job, .. }, _, stop| {
        let ask = ChoicesAsk { question: &at.question, opening: at.opening.as_deref(), wall: at.wall };
        Ok(Out(said.say(choices(&job, ask, stop)?)))
    })
    .await
}

/// Schools side by side on one opening of a job.
#[utoipa::path(post, path = "/api/jobs/{id}/compare", params(("id" = i64, Path)), request_body = Compared, responses((status = 200, body = Comparison), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn compare(
    State(app): State<App>,
    JobId(id): JobId,
    Json(c): Json<Compared>,
) -> Result<Out<Comparison>, Fault> {
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |JobState { job, .. }, _, stop| {
        if !SIDES.contains(&c.sides.len()) {
            let message = format!("found {} sides, expected {} to {}", c.sides.len(), SIDES.start(), SIDES.end());
            return Err(vec![Problem::new("$.sides", message)].into());
        }
        if let Some(n) = c.sides.iter().map(BTreeMap::len).find(|n| *n > MOST_ANSWERS) {
            let message = format!("found {n} answers on one side, expected at most {MOST_ANSWERS}");
            return Err(vec![Problem::new("$.sides", message)].into());
        }
        Ok(Out(compare_until(&job, &c.opening, &c.sides, c.keep.as_deref(), stop)?))
    })
    .await
}

/// The strategy interview of a job with the advice that follows from it.
#[utoipa::path(get, path = "/api/jobs/{id}/strategy", params(("id" = i64, Path)), responses((status = 200, body = StrategyAnswer), (status = 404, body = ProblemDocument)))]
pub async fn strategy(State(app): State<App>, JobId(id): JobId) -> Result<Out<StrategyAnswer>, Fault> {
    stored(&app, move |s| {
        let job = s.job(id)?.job;
        let profile = Profile::general_practice().map_err(|e| Fault::Internal(e.to_string()))?;
        let figures = profile.values(&job.figures).map_err(|e| Fault::Internal(e.to_string()))?;
        let Followed { advice, also, gives_way, .. } = follow(&job, &figures).map_err(Fault::Internal)?;
        let questions = interview().map_err(Fault::Internal)?.to_vec();
        Ok(Out(StrategyAnswer { questions, strategy: job.strategy, advice, also, gives_way }))
    })
    .await
}
