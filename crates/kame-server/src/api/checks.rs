//! What is measured and looked at, and what steps look like.

use super::body::{Ask, JobId, Spoken};
use super::jobs::{about, state};
use super::types::Where;
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use kame_core::checks::{Check, checks_of};
use kame_core::view::{StepPicture, step_pictures};
use std::sync::Arc;

/// Every check of a job in the order of work, or those of one step or one opening.
#[utoipa::path(get, path = "/api/jobs/{id}/checks", params(("id" = i64, Path), Where), responses((status = 200, body = Vec<Check>), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn checks(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(at): Ask<Where>,
    Spoken(said): Spoken,
) -> Result<Out<Vec<Check>>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let recent = Arc::clone(&app.recent);
    about(&app, &place, now, move |now, _, _| {
        let mut all = checks_of(&recent.plan(&now)?.plan).map_err(Fault::Internal)?;
        all.retain(|c| {
            at.step.as_ref().is_none_or(|s| c.step == *s) && at.opening.as_ref().is_none_or(|o| c.opening == *o)
        });
        Ok(Out(said.say(all)))
    })
    .await
}

/// The small pictures of the steps at one opening, in the order of work; of the walls' own where none is named, and of one step where it is.
#[utoipa::path(get, path = "/api/jobs/{id}/pictures", params(("id" = i64, Path), Where), responses((status = 200, body = Vec<StepPicture>), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn pictures(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(at): Ask<Where>,
    Spoken(said): Spoken,
) -> Result<Out<Vec<StepPicture>>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let recent = Arc::clone(&app.recent);
    about(&app, &place, now, move |now, _, _| {
        let opening = at.opening.as_deref().filter(|o| !o.is_empty());
        Ok(Out(said.say(step_pictures(&recent.plan(&now)?.plan, opening, at.step.as_deref()))))
    })
    .await
}
