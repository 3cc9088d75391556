//! What can be done about something that was found on a wall that stands. Nothing is kept: a repair is taken by its edit.

use super::body::{JobId, Json};
use super::jobs::{about, state};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use kame_core::plan::build;
use kame_core::record::as_built;
use kame_core::view::{FoundAsk, FoundKindView, RepairsView, found_kind_views, repair_views};

/// Every kind of thing that is found on a wall.
#[utoipa::path(get, path = "/api/found-kinds", responses((status = 200, body = Vec<FoundKindView>)))]
pub async fn kinds_found() -> Result<Out<Vec<FoundKindView>>, Fault> {
    Ok(Out(found_kind_views().map_err(Fault::Internal)?))
}

/// What can be done about something that was found: each way was tried on the wall as it is built by its record, and leaves nothing wrong that is not
/// wrong without it. The best stands first.
#[utoipa::path(post, path = "/api/jobs/{id}/repairs", params(("id" = i64, Path)), request_body = FoundAsk, responses((status = 200, body = RepairsView), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn mending(
    State(app): State<App>,
    JobId(id): JobId,
    Json(ask): Json<FoundAsk>,
) -> Result<Out<RepairsView>, Fault> {
    let now = state(&app, id).await?;
    let here = app.clone();
    about(&app, &app.works.long, now, move |now, known, _| {
        let entries = here.recent.record(&here.store, id)?;
        let mut job = now.job;
        let mut last = None;
        // What somebody sees is seen on the wall as it stands; a finding is told of the wall as it is planned.
        if !matches!(ask, FoundAsk::Finding { .. }) && !entries.is_empty() {
            let plan = build(&job)?;
            let (order, done) = as_built(&plan, &job.sequence, &entries);
            let mut today = plan;
            today.put_in_order(&order);
            last = done.checked_sub(1).and_then(|n| today.actions().nth(n)).map(|(s, _)| today.steps[s].id.clone());
            job.sequence = order;
        }
        Ok(Out(repair_views(&job, ask, last, known)?))
    })
    .await
}
