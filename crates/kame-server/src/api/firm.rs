//! All jobs of a firm: how far each has come, those put aside, finding one by a word, and the firm's ways of building.

use super::body::{Ask, JobId, Json};
use super::jobs::{about, state, stored};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use crate::who::Who;
use axum::Json as Out;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use kame_core::edit::{WayDifference, way_differences, way_of};
use kame_core::job::Way;
use kame_core::view::{JobProgress, progress};
use kame_store::{FoundJob, KeptWay, Role};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// How far a job has come, and where it leaves the firm's way.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct FirmLine {
    /// How far it has come.
    #[serde(flatten)]
    pub progress: JobProgress,
    /// In how many things it differs from the way it follows; `null` where it follows none, or one that is not kept here.
    pub differs: Option<usize>,
}

/// How far a job has come by its record: what is done, what comes next, and how it stands tonight.
#[utoipa::path(get, path = "/api/jobs/{id}/progress", params(("id" = i64, Path)), responses((status = 200, body = FirmLine), (status = 404, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn job_progress(State(app): State<App>, JobId(id): JobId) -> Result<Out<FirmLine>, Fault> {
    let now = state(&app, id).await?;
    let (place, here) = (app.works.of(&now.job).clone(), app.clone());
    about(&app, &place, now, move |now, known, _| {
        let last = here.store.last_entry(id)?;
        let made = || here.recent.plan(&now).map_err(Fault::from);
        let found = here.recent.progress(&now, last, || {
            let entries = here.recent.record(&here.store, id)?;
            Ok::<_, Fault>(progress(&now.job, &made()?.plan, &entries, known)?)
        })?;
        // What is kept for lists may fail now: it is said again whenever somebody looks.
        let _ = here.store.say(id, now.revision, found.verdict);
        let way = now.job.follows.as_deref().map(|name| here.store.way(None, name)).transpose()?.flatten();
        let differs = way.map(|way| way_differences(&now.job, &way)).transpose().map_err(Fault::Internal)?;
        Ok(Out(FirmLine { progress: (*found).clone(), differs: differs.map(|d| d.len()) }))
    })
    .await
}

/// Whether a job is put aside.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Aside {
    /// True to put it aside, false to take it back among the others.
    pub aside: bool,
}

/// Puts a job aside, or takes it back. Nothing of it changes, and it can be worked on all the same.
#[utoipa::path(post, path = "/api/jobs/{id}/archive", params(("id" = i64, Path)), request_body = Aside, responses((status = 204), (status = 404, body = ProblemDocument)))]
pub async fn put_aside(
    State(app): State<App>,
    JobId(id): JobId,
    who: Who,
    Json(to): Json<Aside>,
) -> Result<StatusCode, Fault> {
    stored(&app, move |s| Ok(s.archive(id, to.aside, who.name()).map(|()| StatusCode::NO_CONTENT)?)).await
}

/// What is looked for.
#[derive(Clone, Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct Words {
    /// Words, all of which stand in the name of a job or of one of its walls and places; at most 100 characters.
    pub text: String,
}

/// The longest text that is looked for.
const LONGEST_WORDS: usize = 100;

/// Jobs in which words stand, those put aside last; at most 100, each with at most 5 places.
#[utoipa::path(get, path = "/api/search", params(Words), responses((status = 200, body = Vec<FoundJob>), (status = 422, body = ProblemDocument)))]
pub async fn find(State(app): State<App>, who: Who, Ask(words): Ask<Words>) -> Result<Out<Vec<FoundJob>>, Fault> {
    let n = words.text.chars().count();
    if n > LONGEST_WORDS {
        let message = format!("found {n} characters, at most {LONGEST_WORDS}: look for one or two words");
        return Err(vec![kame_core::problem::Problem::new("$.text", message)].into());
    }
    let sees = move |id| who.may(Some(id)) >= Role::Viewer;
    stored(&app, move |s| Ok(Out(s.find(&words.text, sees)?))).await
}

/// The firm's ways of building, by name.
#[utoipa::path(get, path = "/api/ways", responses((status = 200, body = Vec<KeptWay>)))]
pub async fn ways(State(app): State<App>) -> Result<Out<Vec<KeptWay>>, Fault> {
    stored(&app, |s| Ok(Out(s.ways()?))).await
}

/// Which job's way is kept, and under which name.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KeepWay {
    /// Number of the job whose answers, figures and products it is.
    pub job: i64,
    /// What people call it.
    pub name: String,
    /// True to replace the way that has this name.
    #[serde(default)]
    pub replace: bool,
}

/// Keeps the way of a job as one of the firm's.
#[utoipa::path(post, path = "/api/ways", request_body = KeepWay, responses((status = 200, body = KeptWay), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn keep_way(State(app): State<App>, who: Who, Json(keep): Json<KeepWay>) -> Result<Out<KeptWay>, Fault> {
    if who.may(Some(keep.job)) < Role::Viewer {
        return Err(Fault::forbidden("that takes a viewer of the job: ask an owner for it".into()));
    }
    stored(&app, move |s| {
        let way = way_of(&s.job(keep.job)?.job, &keep.name);
        Ok(Out(s.keep_way(&way, keep.replace, who.name())?))
    })
    .await
}

fn no_way(id: i64) -> Fault {
    Fault::NoSuchPlace(format!(
        "there is no way of building with the number {id}; it may have been forgotten meanwhile"
    ))
}

fn number(text: &str) -> Result<i64, Fault> {
    text.parse().map_err(|_| Fault::NoSuchPlace("ways of building have numbers, written in digits".into()))
}

/// One way of building, whole.
#[utoipa::path(get, path = "/api/ways/{id}", params(("id" = i64, Path)), responses((status = 200, body = Way), (status = 404, body = ProblemDocument)))]
pub async fn way(State(app): State<App>, Path(id): Path<String>) -> Result<Out<Way>, Fault> {
    let id = number(&id)?;
    stored(&app, move |s| s.way(Some(id), "")?.map(Out).ok_or_else(|| no_way(id))).await
}

/// Forgets a way of building; jobs that followed it stay as they are.
#[utoipa::path(delete, path = "/api/ways/{id}", params(("id" = i64, Path)), responses((status = 204), (status = 404, body = ProblemDocument)))]
pub async fn forget_way(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<StatusCode, Fault> {
    let id = number(&id)?;
    stored(&app, move |s| match s.forget_way(id, who.name()) {
        Err(kame_store::StoreError::NotFound { .. }) => Err(no_way(id)),
        done => Ok(done.map(|()| StatusCode::NO_CONTENT)?),
    })
    .await
}

/// With which way a job is held against.
#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct WhichWay {
    /// Number of the way; the one that the job follows where it is left out.
    #[serde(default)]
    pub way: Option<i64>,
}

/// A job held against a way of building.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct WayHere {
    /// Name of the way that the job follows; `null` where it goes its own.
    pub follows: Option<String>,
    /// The way it is held against; `null` where there is none, or it is not kept here any more.
    pub way: Option<Way>,
    /// Where the job differs from it.
    pub differences: Vec<WayDifference>,
}

/// Where a job differs from the way it follows, or from another.
#[utoipa::path(get, path = "/api/jobs/{id}/way", params(("id" = i64, Path), WhichWay), responses((status = 200, body = WayHere), (status = 404, body = ProblemDocument)))]
pub async fn way_here(
    State(app): State<App>,
    JobId(id): JobId,
    who: Who,
    Ask(which): Ask<WhichWay>,
) -> Result<Out<WayHere>, Fault> {
    if which.way.is_some() && who.may(None) < Role::Viewer {
        return Err(Fault::forbidden("that takes a viewer in the firm: ask an owner for it".into()));
    }
    let now = state(&app, id).await?;
    let (place, here) = (app.works.of(&now.job).clone(), app.clone());
    about(&app, &place, now, move |now, _, _| {
        let follows = now.job.follows.clone();
        let way = match (which.way, &follows) {
            (Some(id), _) => Some(here.store.way(Some(id), "")?.ok_or_else(|| no_way(id))?),
            (None, Some(name)) => here.store.way(None, name)?,
            (None, None) => None,
        };
        let told = way.as_ref().map(|way| way_differences(&now.job, way)).transpose().map_err(Fault::Internal)?;
        Ok(Out(WayHere { follows, way, differences: told.unwrap_or_default() }))
    })
    .await
}
