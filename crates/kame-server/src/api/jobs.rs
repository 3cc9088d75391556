//! Jobs: reading, changing, undoing, and what they look like.

use super::body::{Ask, JobId, Json, Revision, Spoken};
use super::types::{JobAnswer, Moment, NewJob, Preview, ToldState};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use crate::who::Who;
use crate::work::Place;
use axum::Json as Out;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::IntoResponse;
use kame_core::edit::{Edit, apply};
use kame_core::job::{Job, Tick};
use kame_core::language::Language;
use kame_core::plan::Plan;
use kame_core::record;
use kame_core::stop::Stop;
use kame_core::view::{self, Known, NightView, Planned, WallView, Weather, view_plan, view_with_nights};
use kame_store::{Change, Deleted, History, JobState, JobSummary, Role, Standing, Store, StoreError};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use utoipa::ToSchema;

/// Uses the store off the async threads.
pub async fn stored<T: Send + 'static>(
    app: &App,
    work: impl FnOnce(&Store) -> Result<T, Fault> + Send + 'static,
) -> Result<T, Fault> {
    let store = Arc::clone(&app.store);
    app.works.small.quickly(move || work(&store)).await
}

/// The state of a job.
pub async fn state(app: &App, id: i64) -> Result<JobState, Fault> {
    stored(app, move |s| Ok(s.job(id)?)).await
}

/// Works something out about a job in the place for it: the job's own, or another. Nothing of the store is held meanwhile.
pub async fn about<T: Send + 'static>(
    app: &App,
    place: &Place,
    state: JobState,
    work: impl FnOnce(JobState, &Known, &Stop) -> Result<T, Fault> + Send + 'static,
) -> Result<T, Fault> {
    let known = Arc::clone(&app.known);
    place.run(move |stop| work(state, &known.until(stop), stop)).await
}

/// What a job looks like at the moment asked for, with its nights where they are asked for.
type Seen = (WallView, Option<Vec<NightView>>);

fn seen(job: &Job, plan: &Plan, (ask, nights): (&view::Ask, bool), known: &Known) -> Result<Seen, Fault> {
    if nights {
        let (view, nights) = view_with_nights(job, plan, ask, known)?;
        return Ok((view, Some(nights)));
    }
    Ok((view_plan(job, plan, ask, known)?, None))
}

/// A job as it is built today, by its record.
fn as_built(app: &App, id: i64, job: &Job, plan: &Plan, moment: &Moment, known: &Known) -> Result<Seen, Fault> {
    let (job, today, done) = built(&app.recent.record(&app.store, id)?, job, plan);
    seen(&job, &today, (&view::Ask { done: Some(done), ..moment.ask() }, moment.nights), known)
}

/// A job and its plan in the order in which they were built, with how many actions are done.
fn built(entries: &[record::Entry], job: &Job, plan: &Plan) -> (Job, Plan, usize) {
    let (sequence, done) = record::as_built(plan, &job.sequence, entries);
    let (mut job, mut today) = (job.clone(), plan.clone());
    today.put_in_order(&sequence);
    job.sequence = sequence;
    (job, today, done)
}

/// What a job looks like as it is built by a record.
pub fn built_view(entries: &[record::Entry], job: &Job, plan: &Plan, known: &Known) -> Result<WallView, Fault> {
    let (job, today, done) = built(entries, job, plan);
    Ok(view_plan(&job, &today, &view::Ask { done: Some(done), ..view::Ask::default() }, known)?)
}

/// What whoever asks has of the plan as it stood, as they call it.
type Had = Option<(Arc<Planned>, String)>;

fn had(app: &App, id: i64, moment: &Moment, stop: &Stop) -> Result<Had, Fault> {
    // The order in which it was built is not that of the plan.
    let Some(have) = moment.have.clone().filter(|_| !moment.built) else { return Ok(None) };
    Ok(app.recent.had(id, &have, stop)?.map(|planned| (planned, have)))
}

/// The same before a change, for which the plan is built where it is not known.
fn had_before(app: &App, was: &JobState, moment: &Moment, stop: &Stop) -> Result<Had, Fault> {
    if moment.ask_at(was).moment_only {
        app.recent.plan(was)?;
    }
    had(app, was.id, moment, stop)
}

/// What a drawing of a job is called.
fn called(state: &JobState, view: &WallView, weather: Weather) -> String {
    format!("{}.{}.{}.{weather:?}", state.revision, state.bench, view.done)
}

/// Leaves out of an answer what they have; the drawing is remembered where it is of the job as it stands. All that the plan says is given back where
/// some of it was left out.
fn without(
    app: &App,
    id: i64,
    view: &mut WallView,
    (had, moment): (&Had, &Moment),
    name: Option<String>,
) -> Option<Planned> {
    let had = had.as_ref().map(|(planned, have)| (Arc::clone(planned), have.as_str()));
    app.recent.without(id, view, had, moment.drawn.as_deref(), name)
}

/// A job as it is told to who has it as it stood before.
fn told_state(app: &App, state: JobState, moment: &Moment) -> ToldState {
    let have = moment.have.as_deref().filter(|_| !moment.built);
    let had = have.and_then(|have| Some((app.recent.made(state.id, have)?, have)));
    ToldState::of(state, had.as_ref().map(|(made, have)| (&made.job, *have)))
}

/// Where a job's moment is answered: all nights take long.
fn place_for<'a>(app: &'a App, job: &Job, moment: &Moment) -> &'a Place {
    let everyday = app.works.of(job);
    if moment.nights && std::ptr::eq(everyday, &app.works.large) { &app.works.long } else { everyday }
}

/// A job as the store gives it, answered for the moment asked for.
async fn answered(app: &App, moment: Moment, state: JobState, said: Language) -> Result<Out<JobAnswer>, Fault> {
    let (place, app) = (place_for(app, &state.job, &moment), app.clone());
    about(&app.clone(), place, state, move |state, known, stop| {
        let ask = moment.ask_at(&state);
        let made = app.recent.plan(&state)?;
        if moment.built {
            let (view, nights) = as_built(&app, state.id, &state.job, &made.plan, &moment, known)?;
            let state = ToldState::of(state, None);
            return Ok(Out(JobAnswer { state, view: said.say(view), nights: said.say(nights) }));
        }
        let now = || seen(&state.job, &made.plan, (&ask, moment.nights), known);
        let (now, before) =
            rayon::join(now, || if ask.moment_only { Ok(None) } else { had(&app, state.id, &moment, stop) });
        let (mut view, nights) = now?;
        say(&app.store, &state, &view);
        let name = called(&state, &view, moment.weather);
        without(&app, state.id, &mut view, (&before?, &moment), Some(name));
        let state = told_state(&app, state, &moment);
        Ok(Out(JobAnswer { state, view: said.say(view), nights: said.say(nights) }))
    })
    .await
}

/// All jobs that who asks may see, the one changed last first.
#[utoipa::path(get, path = "/api/jobs", responses((status = 200, body = Vec<JobSummary>)))]
pub async fn list(State(app): State<App>, who: Who) -> Result<Out<Vec<JobSummary>>, Fault> {
    let mut jobs = stored(&app, |s| Ok(s.jobs()?)).await?;
    jobs.retain(|j| who.may(Some(j.id)) >= Role::Viewer);
    Ok(Out(jobs))
}

/// A new job: one wall, one window, sizes that are right for a start.
#[utoipa::path(post, path = "/api/jobs", request_body = NewJob, responses((status = 201, body = JobState), (status = 422, body = ProblemDocument)))]
pub async fn create(State(app): State<App>, Json(new): Json<NewJob>) -> Result<(StatusCode, Out<JobState>), Fault> {
    let job = Job::new(new.name.trim());
    let problems = job.problems();
    if !problems.is_empty() {
        return Err(problems.into());
    }
    stored(&app, move |s| Ok((StatusCode::CREATED, Out(s.create(&job)?)))).await
}

/// A job with its wall at the moment asked for.
#[utoipa::path(get, path = "/api/jobs/{id}", params(("id" = i64, Path), Moment), responses((status = 200, body = JobAnswer), (status = 404, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn read(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(moment): Ask<Moment>,
    Spoken(said): Spoken,
) -> Result<Out<JobAnswer>, Fault> {
    let state = state(&app, id).await?;
    answered(&app, moment, state, said).await
}

/// Takes a job off the list; `restore` puts it back. `If-Match` carries the revision that was looked at.
#[utoipa::path(delete, path = "/api/jobs/{id}", params(("id" = i64, Path), ("If-Match" = String, Header)), responses((status = 204), (status = 404, body = ProblemDocument), (status = 412, body = ProblemDocument)))]
pub async fn delete(
    State(app): State<App>,
    JobId(id): JobId,
    Revision(revision): Revision,
) -> Result<StatusCode, Fault> {
    stored(&app, move |s| Ok(s.delete(id, revision).map(|()| StatusCode::NO_CONTENT)?)).await
}

/// Puts a deleted job back.
#[utoipa::path(post, path = "/api/jobs/{id}/restore", params(("id" = i64, Path)), responses((status = 200, body = JobState), (status = 404, body = ProblemDocument)))]
pub async fn restore(State(app): State<App>, JobId(id): JobId) -> Result<Out<JobState>, Fault> {
    stored(&app, move |s| Ok(Out(s.restore(id)?))).await
}

/// Jobs that were deleted and can be put back. Those without a record are gone for good after 90 days.
#[utoipa::path(get, path = "/api/deleted-jobs", responses((status = 200, body = Vec<Deleted>)))]
pub async fn deleted(State(app): State<App>) -> Result<Out<Vec<Deleted>>, Fault> {
    stored(&app, |s| Ok(Out(s.deleted()?))).await
}

/// What a job was before, the newest first, also where it does not read as it stands.
#[utoipa::path(get, path = "/api/jobs/{id}/history", params(("id" = i64, Path)), responses((status = 200, body = History), (status = 404, body = ProblemDocument)))]
pub async fn history(State(app): State<App>, JobId(id): JobId) -> Result<Out<History>, Fault> {
    stored(&app, move |s| Ok(Out(s.history(id)?))).await
}

/// To which place of its history a job goes.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BackTo {
    /// The place.
    pub position: i64,
}

/// Takes a job to an earlier or later place of its history: a new revision, and no change is lost by it.
#[utoipa::path(post, path = "/api/jobs/{id}/history", params(("id" = i64, Path), ("If-Match" = String, Header)), request_body = BackTo, responses((status = 200, body = JobState), (status = 409, body = ProblemDocument), (status = 412, body = ProblemDocument)))]
pub async fn back_to(
    State(app): State<App>,
    JobId(id): JobId,
    Revision(revision): Revision,
    Json(to): Json<BackTo>,
) -> Result<Out<JobState>, Fault> {
    let now = stored(&app, move |s| Ok(s.go_back_to(id, revision, to.position)?)).await?;
    told(&app, &now);
    Ok(Out(now))
}

/// How the data is kept.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Health {
    /// Why nothing can be written and what to do; `null` where all is well.
    pub read_only: Option<String>,
}

/// Whether changes are kept.
#[utoipa::path(get, path = "/api/health", responses((status = 200, body = Health)))]
pub async fn health(State(app): State<App>) -> Out<Health> {
    Out(Health { read_only: app.store.read_only().map(str::to_owned) })
}

/// A copy of a job, without its history.
#[utoipa::path(post, path = "/api/jobs/{id}/copy", params(("id" = i64, Path)), responses((status = 201, body = JobState), (status = 404, body = ProblemDocument)))]
pub async fn copy(State(app): State<App>, JobId(id): JobId) -> Result<(StatusCode, Out<JobState>), Fault> {
    stored(&app, move |s| {
        let mut job = s.job(id)?.job;
        let suffix = " (copy)";
        job.name = job.name.chars().take(kame_core::range::NAME.most - suffix.len()).collect::<String>() + suffix;
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
        Edit::SealTop { .. } => "bead along a top edge",
        Edit::SetFound { .. } | Edit::Rebuild { .. } | Edit::RemoveFound { .. } => "what was found",
        Edit::SetStrategy { .. } => "strategy",
        Edit::SetSite { .. } => "crews and days",
        Edit::FollowAdvice => "advice followed",
        Edit::TakeWay { .. } => "the firm's way taken",
        Edit::TakeModel { .. } => "newer building model",
        Edit::LeaveWay => "the firm's way left",
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
        Edit::SetKit { .. } | Edit::SetProduct { .. } | Edit::UseProduct { .. } | Edit::SetStock { .. } => "kit",
        Edit::RecordPair { .. } => "what touches",
        Edit::Spoil { .. } => "spoiled piece",
    }
}

/// Every new standing of a job as it comes, as server-sent events named `standing` with `revision` and `bench`: the present one first; revision 0
/// says to look anew. Events named `record` carry the number of the newest entry of the record.
#[utoipa::path(get, path = "/api/jobs/{id}/changes", params(("id" = i64, Path)), responses((status = 200, content_type = "text/event-stream"), (status = 404, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn changes(State(app): State<App>, JobId(id): JobId) -> Result<impl IntoResponse, Fault> {
    // Listened to before the standing is read, so that nothing falls between the two.
    let listener = app.changes.listen()?;
    let now = stored(&app, move |s| Ok(s.standing(id)?)).await?;
    Ok(listener.of(id, now, app.listening))
}

/// Keeps what is said of a finished wall for the list of jobs. It is said again whenever somebody looks, so that it may fail now.
fn say(store: &Store, now: &JobState, view: &WallView) {
    if view.verdict.finished {
        let _ = store.say(now.id, now.revision, view.verdict.state);
    }
}

fn told(app: &App, now: &JobState) {
    app.changes.tell(now.id, Standing { revision: now.revision, bench: now.bench });
}

/// Changes a job. `If-Match` carries the revision the change was made on. A change whose answer cannot be worked out in time is not kept.
#[utoipa::path(post, path = "/api/jobs/{id}/edits", params(("id" = i64, Path), ("If-Match" = String, Header), Moment), request_body = Edit,
    responses((status = 200, body = JobAnswer), (status = 412, body = ProblemDocument, description = "Changed meanwhile; `current` is the newer state"), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn edit(
    State(app): State<App>,
    JobId(id): JobId,
    Revision(revision): Revision,
    Ask(moment): Ask<Moment>,
    Spoken(said): Spoken,
    who: Who,
    Json(edit): Json<Edit>,
) -> Result<Out<JobAnswer>, Fault> {
    let was = state(&app, id).await?;
    if was.revision != revision {
        return Err(StoreError::Stale { yours: revision, current: Box::new(was) }.into());
    }
    let place = place_for(&app, &was.job, &moment);
    let here = app.clone();
    about(&app, place, was, move |was, known, stop| {
        let (next, plan) = apply(&was.job, &edit)?;
        let ask = moment.ask();
        let now = || {
            if moment.built {
                return as_built(&here, id, &next, &plan, &moment, known);
            }
            seen(&next, &plan, (&ask, moment.nights), known)
        };
        let (now, before) = rayon::join(now, || had_before(&here, &was, &moment, stop));
        let (view, nights) = now?;
        // Who hung up before it was worked out has changed nothing.
        stop.is_kept_now().map_err(Fault::Internal)?;
        let state =
            here.store.commit(id, revision, Change { label: label(&edit), who: who.name() }, &was.job, &next)?;
        told(&here, &state);
        if moment.built {
            here.recent.keep_plan(&state, plan, None);
            let state = ToldState::of(state, None);
            return Ok(Out(JobAnswer { state, view: said.say(view), nights: said.say(nights) }));
        }
        say(&here.store, &state, &view);
        // Pieces that were ticked off meanwhile are ticked off in the answer.
        let same = state.bench == was.bench;
        let (mut view, nights) =
            if same { (view, nights) } else { seen(&state.job, &plan, (&ask, moment.nights), known)? };
        let (name, before) = (called(&state, &view, moment.weather), before?);
        let planned = without(&here, id, &mut view, (if same { &before } else { &None }, &moment), Some(name));
        here.recent.keep_plan(&state, plan, planned.map(|p| ((ask.wall, ask.cut_list), p)));
        let state = told_state(&here, state, &moment);
        Ok(Out(JobAnswer { state, view: said.say(view), nights: said.say(nights) }))
    })
    .await
}

/// Ticks a piece off at the bench, or not. It is taken on any revision and makes none: it stands in nobody's way, and nothing is worked out for it.
#[utoipa::path(post, path = "/api/jobs/{id}/ticks", params(("id" = i64, Path)), request_body = Tick,
    responses((status = 200, body = Standing), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn tick(State(app): State<App>, JobId(id): JobId, Json(tick): Json<Tick>) -> Result<Out<Standing>, Fault> {
    let now = stored(&app, move |s| Ok(s.tick(id, &tick)?)).await?;
    app.changes.tell(id, now);
    Ok(Out(now))
}

/// One change back.
#[utoipa::path(post, path = "/api/jobs/{id}/undo", params(("id" = i64, Path), ("If-Match" = String, Header), Moment), responses((status = 200, body = JobAnswer), (status = 409, body = ProblemDocument), (status = 412, body = ProblemDocument)))]
pub async fn undo(
    State(app): State<App>,
    JobId(id): JobId,
    Revision(revision): Revision,
    Ask(moment): Ask<Moment>,
    Spoken(said): Spoken,
) -> Result<Out<JobAnswer>, Fault> {
    let now = stored(&app, move |s| Ok(s.undo(id, revision)?)).await?;
    told(&app, &now);
    answered(&app, moment, now, said).await
}

/// One change forward again.
#[utoipa::path(post, path = "/api/jobs/{id}/redo", params(("id" = i64, Path), ("If-Match" = String, Header), Moment), responses((status = 200, body = JobAnswer), (status = 409, body = ProblemDocument), (status = 412, body = ProblemDocument)))]
pub async fn redo(
    State(app): State<App>,
    JobId(id): JobId,
    Revision(revision): Revision,
    Ask(moment): Ask<Moment>,
    Spoken(said): Spoken,
) -> Result<Out<JobAnswer>, Fault> {
    let now = stored(&app, move |s| Ok(s.redo(id, revision)?)).await?;
    told(&app, &now);
    answered(&app, moment, now, said).await
}

/// What a change would give, without keeping it: for dragging.
#[utoipa::path(post, path = "/api/jobs/{id}/preview", params(("id" = i64, Path)), request_body = Preview, responses((status = 200, body = WallView), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn preview(
    State(app): State<App>,
    JobId(id): JobId,
    Spoken(said): Spoken,
    Json(p): Json<Preview>,
) -> Result<Out<WallView>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job);
    let here = app.clone();
    about(&app, place, now, move |now, known, stop| {
        let (job, plan) = apply(&now.job, &p.change)?;
        if p.moment.built {
            return Ok(Out(said.say(as_built(&here, id, &job, &plan, &p.moment, known)?.0)));
        }
        let (view, before) =
            rayon::join(|| view_plan(&job, &plan, &p.moment.ask(), known), || had_before(&here, &now, &p.moment, stop));
        let mut view = view?;
        without(&here, id, &mut view, (&before?, &p.moment), None);
        Ok(Out(said.say(view)))
    })
    .await
}
