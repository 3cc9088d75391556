use super::body::{Ask, JobId, Json, Revision};
use super::types::{JobAnswer, Moment, NewJob, Preview};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::IntoResponse;
use kame_core::job::{Edit, Job, apply};
use kame_core::plan::{Plan, build};
use kame_core::view::{Known, WallView, view_plan, view_with_nights};
use kame_store::{JobState, JobSummary, Store};
use std::sync::Arc;

/// Runs blocking work off the async threads.
pub async fn blocking<T: Send + 'static>(
    app: &App,
    work: impl FnOnce(&Store) -> Result<T, Fault> + Send + 'static,
) -> Result<T, Fault> {
    let store = Arc::clone(&app.store);
    tokio::task::spawn_blocking(move || work(&store)).await.unwrap_or_else(|e| Err(Fault::Internal(e.to_string())))
}

fn answer(state: JobState, plan: &Plan, moment: &Moment, known: &Known) -> Result<JobAnswer, Fault> {
    let (view, nights) = if moment.nights {
        let (view, nights) = view_with_nights(&state.job, plan, &moment.ask(), known)?;
        (view, Some(nights))
    } else {
        (view_plan(&state.job, plan, &moment.ask(), known)?, None)
    };
    Ok(JobAnswer { state, view, nights })
}

/// A job as the store gives it, answered for the moment asked for.
async fn answered(
    app: &App,
    moment: Moment,
    state: impl FnOnce(&Store) -> Result<JobState, Fault> + Send + 'static,
) -> Result<Out<JobAnswer>, Fault> {
    let known = Arc::clone(&app.known);
    blocking(app, move |s| {
        let state = state(s)?;
        let plan = build(&state.job)?;
        Ok(Out(answer(state, &plan, &moment, &known)?))
    })
    .await
}

/// All jobs, the one changed last first.
#[utoipa::path(get, path = "/api/jobs", responses((status = 200, body = Vec<JobSummary>)))]
pub async fn list(State(app): State<App>) -> Result<Out<Vec<JobSummary>>, Fault> {
    blocking(&app, |s| Ok(Out(s.jobs()?))).await
}

/// A new job: one wall, one window, sizes that are right for a start.
#[utoipa::path(post, path = "/api/jobs", request_body = NewJob, responses((status = 201, body = JobState), (status = 422, body = ProblemDocument)))]
pub async fn create(State(app): State<App>, Json(new): Json<NewJob>) -> Result<(StatusCode, Out<JobState>), Fault> {
    blocking(&app, move |s| {
        let job = Job::new(new.name.trim());
        let problems = job.problems();
        if !problems.is_empty() {
            return Err(problems.into());
        }
        Ok((StatusCode::CREATED, Out(s.create(&job)?)))
    })
    .await
}

/// A job with its wall at the moment asked for.
#[utoipa::path(get, path = "/api/jobs/{id}", params(("id" = i64, Path), Moment), responses((status = 200, body = JobAnswer), (status = 404, body = ProblemDocument)))]
pub async fn read(State(app): State<App>, JobId(id): JobId, Ask(moment): Ask<Moment>) -> Result<Out<JobAnswer>, Fault> {
    answered(&app, moment, move |s| Ok(s.job(id)?)).await
}

/// Takes a job off the list; `restore` puts it back.
#[utoipa::path(delete, path = "/api/jobs/{id}", params(("id" = i64, Path)), responses((status = 204), (status = 404, body = ProblemDocument)))]
pub async fn delete(State(app): State<App>, JobId(id): JobId) -> Result<StatusCode, Fault> {
    blocking(&app, move |s| Ok(s.delete(id).map(|()| StatusCode::NO_CONTENT)?)).await
}

/// Puts a deleted job back.
#[utoipa::path(post, path = "/api/jobs/{id}/restore", params(("id" = i64, Path)), responses((status = 200, body = JobState), (status = 404, body = ProblemDocument)))]
pub async fn restore(State(app): State<App>, JobId(id): JobId) -> Result<Out<JobState>, Fault> {
    blocking(&app, move |s| Ok(Out(s.restore(id)?))).await
}

/// A copy of a job, without its history.
#[utoipa::path(post, path = "/api/jobs/{id}/copy", params(("id" = i64, Path)), responses((status = 201, body = JobState), (status = 404, body = ProblemDocument)))]
pub async fn copy(State(app): State<App>, JobId(id): JobId) -> Result<(StatusCode, Out<JobState>), Fault> {
    blocking(&app, move |s| {
        let mut job = s.job(id)?.job;
        let suffix = " (copy)";
        job.name = job.name.chars().take(kame_core::job::LONGEST_NAME - suffix.len()).collect::<String>() + suffix;
        Ok((StatusCode::CREATED, Out(s.create(&job)?)))
    })
    .await
}

/// What undo calls an edit.
fn label(edit: &Edit) -> &'static str {
    match edit {
        Edit::Rename { .. } => "rename",
        Edit::SetWall { .. } => "wall size",
        Edit::SetFirstCourse { .. } => "first course",
        Edit::FlashTogether { .. } => "flashed together",
        Edit::ShapeTop { .. } => "top of a wall",
        Edit::SetOpening { .. } => "window size or place",
        Edit::TakeSchools { .. } | Edit::SetSchool { .. } => "how it is made",
        Edit::SetAsBuilt { .. } => "as built",
        Edit::SetStrategy { .. } => "strategy",
        Edit::FollowAdvice => "advice followed",
        Edit::PutRight => "order put right",
        Edit::AddOpening { .. } | Edit::AddFeature { .. } => "new on the wall",
        Edit::AddOpenings { .. } => "schedule",
        Edit::CopyOpening { .. } => "copies",
        Edit::RemoveOpening { .. } => "window removed",
        Edit::SetFigure { .. } | Edit::SetFigures { .. } => "size in the profile",
        Edit::KeepProfile { .. } | Edit::RestoreProfile { .. } | Edit::ForgetProfile { .. } => "profile",
        Edit::MoveStep { .. } => "order of steps",
        Edit::RemoveStep { .. } => "step left out",
        Edit::RestoreStep { .. } => "step put back",
        Edit::RestoreOrder => "recipe's own order",
        Edit::SetKit { .. } | Edit::SetProduct { .. } | Edit::SetStock { .. } => "kit",
        Edit::RecordPair { .. } => "what touches",
        Edit::Spoil { .. } => "spoiled piece",
        Edit::Tick { .. } => "tick",
    }
}

/// Every new revision of a job as it comes, as server-sent events named `revision`: the present one first; 0 says to look anew.
#[utoipa::path(get, path = "/api/jobs/{id}/changes", params(("id" = i64, Path)), responses((status = 200, content_type = "text/event-stream"), (status = 404, body = ProblemDocument)))]
pub async fn changes(State(app): State<App>, JobId(id): JobId) -> Result<impl IntoResponse, Fault> {
    // Listened to before the revision is read, so that nothing falls between the two.
    let listener = app.changes.listen();
    blocking(&app, move |s| Ok(listener.of(id, s.job(id)?.revision))).await
}

/// Changes a job. `If-Match` carries the revision the change was made on; a tick is taken on any, as it stands in nobody's way.
#[utoipa::path(post, path = "/api/jobs/{id}/edits", params(("id" = i64, Path), ("If-Match" = String, Header), Moment), request_body = Edit,
    responses((status = 200, body = JobAnswer), (status = 412, body = ProblemDocument, description = "Changed meanwhile; `current` is the newer state"), (status = 422, body = ProblemDocument)))]
pub async fn edit(
    State(app): State<App>,
    JobId(id): JobId,
    Revision(revision): Revision,
    Ask(moment): Ask<Moment>,
    Json(edit): Json<Edit>,
) -> Result<Out<JobAnswer>, Fault> {
    let known = Arc::clone(&app.known);
    let changes = app.changes.clone();
    blocking(&app, move |s| {
        let mut built = None;
        // What two people at one bench tick off does not stand in each other's way.
        let revision = if matches!(edit, Edit::Tick { .. }) { None } else { Some(revision) };
        let state = s.change(id, revision, label(&edit), |job| {
            apply(job, &edit).map(|(job, plan)| {
                built = Some(plan);
                job
            })
        })?;
        let plan = built.map_or_else(|| build(&state.job), Ok)?;
        changes.tell(id, state.revision);
        Ok(Out(answer(state, &plan, &moment, &known)?))
    })
    .await
}

/// One change back.
#[utoipa::path(post, path = "/api/jobs/{id}/undo", params(("id" = i64, Path), ("If-Match" = String, Header), Moment), responses((status = 200, body = JobAnswer), (status = 409, body = ProblemDocument), (status = 412, body = ProblemDocument)))]
pub async fn undo(
    State(app): State<App>,
    JobId(id): JobId,
    Revision(revision): Revision,
    Ask(moment): Ask<Moment>,
) -> Result<Out<JobAnswer>, Fault> {
    let changes = app.changes.clone();
    answered(&app, moment, move |s| Ok(s.undo(id, revision).inspect(|now| changes.tell(id, now.revision))?)).await
}

/// One change forward again.
#[utoipa::path(post, path = "/api/jobs/{id}/redo", params(("id" = i64, Path), ("If-Match" = String, Header), Moment), responses((status = 200, body = JobAnswer), (status = 409, body = ProblemDocument), (status = 412, body = ProblemDocument)))]
pub async fn redo(
    State(app): State<App>,
    JobId(id): JobId,
    Revision(revision): Revision,
    Ask(moment): Ask<Moment>,
) -> Result<Out<JobAnswer>, Fault> {
    let changes = app.changes.clone();
    answered(&app, moment, move |s| Ok(s.redo(id, revision).inspect(|now| changes.tell(id, now.revision))?)).await
}

/// What a change would give, without keeping it: for dragging.
#[utoipa::path(post, path = "/api/jobs/{id}/preview", params(("id" = i64, Path)), request_body = Preview, responses((status = 200, body = WallView), (status = 422, body = ProblemDocument)))]
pub async fn preview(State(app): State<App>, JobId(id): JobId, Json(p): Json<Preview>) -> Result<Out<WallView>, Fault> {
    let known = Arc::clone(&app.known);
    blocking(&app, move |s| {
        let (job, plan) = apply(&s.job(id)?.job, &p.change)?;
        Ok(Out(view_plan(&job, &plan, &p.moment.ask(), &known)?))
    })
    .await
}
