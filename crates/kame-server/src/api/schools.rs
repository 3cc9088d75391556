//! Evenings, schools side by side, and strategy.

use super::body::{JobId, Json};
use super::jobs::blocking;
use super::types::{Compared, StrategyAnswer};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use kame_core::advice::{advise, interview};
use kame_core::job::Problem;
use kame_core::plan::build;
use kame_core::profile::Profile;
use kame_core::view::{Comparison, NightView, night_views};
use std::sync::Arc;

/// How many sides can be held against each other.
const SIDES: std::ops::RangeInclusive<usize> = 2..=4;

/// For every step: may it be left like this tonight, and what keeps the rain out where it may not.
#[utoipa::path(get, path = "/api/jobs/{id}/nights", params(("id" = i64, Path)), responses((status = 200, body = Vec<NightView>), (status = 404, body = ProblemDocument)))]
pub async fn nights(State(app): State<App>, JobId(id): JobId) -> Result<Out<Vec<NightView>>, Fault> {
    let known = Arc::clone(&app.known);
    blocking(&app, move |s| {
        let plan = build(&s.job(id)?.job)?;
        Ok(Out(night_views(&plan, &known.evenings).map_err(Fault::Internal)?))
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
    blocking(&app, move |s| {
        if !SIDES.contains(&c.sides.len()) {
            let message = format!("found {} sides, expected {} to {}", c.sides.len(), SIDES.start(), SIDES.end());
            return Err(vec![Problem::new("$.sides", message)].into());
        }
        Ok(Out(kame_core::view::compare(&s.job(id)?.job, &c.opening, &c.sides, c.keep.as_deref())?))
    })
    .await
}

/// The strategy interview of a job with the advice that follows from it.
#[utoipa::path(get, path = "/api/jobs/{id}/strategy", params(("id" = i64, Path)), responses((status = 200, body = StrategyAnswer), (status = 404, body = ProblemDocument)))]
pub async fn strategy(State(app): State<App>, JobId(id): JobId) -> Result<Out<StrategyAnswer>, Fault> {
    blocking(&app, move |s| {
        let job = s.job(id)?.job;
        let profile = Profile::general_practice().map_err(|e| Fault::Internal(e.to_string()))?;
        let figures = profile.values(&job.figures).map_err(|e| Fault::Internal(e.to_string()))?;
        let advice = advise(&job.strategy, &figures).map_err(Fault::Internal)?;
        let questions = interview().map_err(Fault::Internal)?.to_vec();
        Ok(Out(StrategyAnswer { questions, strategy: job.strategy, advice }))
    })
    .await
}
