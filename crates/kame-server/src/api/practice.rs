//! Practice: scenes from a seed or from a job's own wall, what was laid so far, what comes of an answer, and who has practised what.

use super::body::{Ask, Json};
use super::jobs::{state, stored};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use kame_core::job::Job;
use kame_core::practice::{
    AnswerSheet, Drill, DrillAnswer, DrillResult, HINT, Learnt, Marked, Mendable, Scene, Which, fault_names, hint,
    mends, progress, scene, scene_of_job, sheet,
};
use kame_core::stop::Stop;
use kame_core::view::{FaultNameView, GradedView, Known, LaidView, SceneView, graded_view, laid_view, scene_view};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// The scene of practice that is asked for.
#[derive(Clone, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct SceneAsk {
    /// What is practised.
    #[param(inline)]
    pub drill: Drill,
    /// From 1 to 5.
    pub level: u8,
    /// Which of that level's scenes, 0 to 2^53 - 1: the same seed is the same scene.
    pub seed: u64,
    /// A fault of the catalogue that should be in it.
    pub focus: Option<String>,
    /// Number of a job, to practise on its own wall.
    pub job: Option<i64>,
}

/// Which scene, and whose wall it is on.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OfScene {
    /// The scene of practice that is asked for.
    pub which: Which,
    /// Number of the job whose wall it is on; a wall that never was without one.
    #[serde(default)]
    pub job: Option<i64>,
}

/// Steps laid so far.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LaidSoFar {
    /// The scene in which they were laid.
    pub of: OfScene,
    /// Ids of the steps in the order in which they were laid.
    pub steps: Vec<String>,
}

/// An answer.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Answered {
    /// The scene that it answers.
    pub of: OfScene,
    /// What the learner did.
    pub answer: DrillAnswer,
    /// Who it was; left out where nothing is to be kept.
    #[serde(default)]
    pub who: Option<String>,
    /// What tells this answer from every other, 1 to 64 characters: sent again because nobody heard that it arrived, it is kept once.
    #[serde(default)]
    pub id: Option<String>,
}

/// What one person has practised.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Learner {
    /// Their name.
    pub who: String,
    /// How far they have come.
    pub progress: Learnt,
}

/// What everybody has practised.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Practised {
    /// Who practised last stands first.
    pub people: Vec<Learner>,
    /// Every fault of the catalogue.
    pub faults: Vec<FaultNameView>,
}

async fn wall_of(app: &App, job: Option<i64>) -> Result<Option<Job>, Fault> {
    match job {
        Some(id) => Ok(Some(state(app, id).await?.job)),
        None => Ok(None),
    }
}

fn made(which: &Which, job: Option<&Job>, known: &Known, stop: &Stop) -> Result<Scene, Fault> {
    Ok(match job {
        Some(job) => scene_of_job(which, job, &known.water, stop)?,
        None => scene(which, &known.water, stop)?,
    })
}

/// Makes a scene where everyday questions are answered.
async fn on_scene<T: Send + 'static>(
    app: &App,
    of: OfScene,
    then: impl FnOnce(&Scene, &Known) -> Result<T, Fault> + Send + 'static,
) -> Result<T, Fault> {
    let job = wall_of(app, of.job).await?;
    let known = std::sync::Arc::clone(&app.known);
    app.works
        .small
        .run(move |stop| {
            let known = known.until(stop);
            then(&made(&of.which, job.as_ref(), &known, stop)?, &known)
        })
        .await
}

/// A scene without its answer. The same drill, level, seed and focus give the same scene.
#[utoipa::path(get, path = "/api/practice/scene", params(SceneAsk), responses((status = 200, body = SceneView), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn practice_scene(State(app): State<App>, Ask(ask): Ask<SceneAsk>) -> Result<Out<SceneView>, Fault> {
    let SceneAsk { drill, level, seed, focus, job } = ask;
    let of = OfScene { which: Which { drill, level, seed, focus }, job };
    on_scene(&app, of, |scene, known| Ok(Out(scene_view(scene, known)?))).await
}

/// A scene to be played without a signal.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SceneSheet {
    /// The scene without its answer.
    pub scene: SceneView,
    /// What every answer to it gives.
    pub sheet: AnswerSheet,
}

/// A scene with what every answer to it gives, written out, so that it is graded without a signal. Of more than seven steps to put in order, or of many
/// on a large building, none is.
#[utoipa::path(get, path = "/api/practice/sheet", params(SceneAsk), responses((status = 200, body = SceneSheet), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn practice_sheet(State(app): State<App>, Ask(ask): Ask<SceneAsk>) -> Result<Out<SceneSheet>, Fault> {
    let SceneAsk { drill, level, seed, focus, job } = ask;
    let which = Which { drill, level, seed, focus };
    let job = wall_of(&app, job).await?;
    let known = std::sync::Arc::clone(&app.known);
    app.works
        .long
        .run(move |stop| {
            let known = known.until(stop);
            let scene = made(&which, job.as_ref(), &known, stop)?;
            let view = scene_view(&scene, &known)?;
            Ok(Out(SceneSheet { sheet: sheet(&scene, &known.water, stop)?, scene: view }))
        })
        .await
}

/// The wall with what was laid so far.
#[utoipa::path(post, path = "/api/practice/laid", request_body = LaidSoFar, responses((status = 200, body = LaidView), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn practice_laid(State(app): State<App>, Json(laid): Json<LaidSoFar>) -> Result<Out<LaidView>, Fault> {
    let LaidSoFar { of, steps } = laid;
    on_scene(&app, of, move |scene, known| Ok(Out(laid_view(scene, &steps, known)?))).await
}

/// An answer so far.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AnsweredSoFar {
    /// The scene that it is about.
    pub of: OfScene,
    /// What the learner did until now.
    pub answer: DrillAnswer,
}

/// A hint.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Hinted {
    /// What comes next, or where to look.
    pub says: String,
    /// What it costs, in points.
    pub costs: f64,
}

/// A hint for somebody who is putting in order or looking for what is wrong. Its price is taken off by the answer that says how many were asked for.
#[utoipa::path(post, path = "/api/practice/hint", request_body = AnsweredSoFar, responses((status = 200, body = Hinted), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn practice_hint(State(app): State<App>, Json(asked): Json<AnsweredSoFar>) -> Result<Out<Hinted>, Fault> {
    let AnsweredSoFar { of, answer } = asked;
    on_scene(&app, of, move |scene, _| Ok(Out(Hinted { says: hint(scene, &answer)?, costs: HINT }))).await
}

/// Marks on a wall with mistakes.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MarkedSoFar {
    /// The scene that it is about.
    pub of: OfScene,
    /// What was marked.
    pub marks: Vec<Marked>,
}

/// What can be done about each mistake that was found with some marks, in the order in which `mends` of the answer names one of each.
#[utoipa::path(post, path = "/api/practice/mends", request_body = MarkedSoFar, responses((status = 200, body = Vec<Mendable>), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn practice_mends(
    State(app): State<App>,
    Json(asked): Json<MarkedSoFar>,
) -> Result<Out<Vec<Mendable>>, Fault> {
    let MarkedSoFar { of, marks } = asked;
    on_scene(&app, of, move |scene, known| Ok(Out(mends(scene, &marks, &known.water)?))).await
}

/// Grades an answer, and keeps what came of it where it is said who it was.
#[utoipa::path(post, path = "/api/practice/answer", request_body = Answered, responses((status = 200, body = GradedView), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn practice_answer(State(app): State<App>, Json(answered): Json<Answered>) -> Result<Out<GradedView>, Fault> {
    let Answered { of, answer, who, id } = answered;
    let Which { drill, level, seed, .. } = of.which;
    let (seed, job) = (Some(seed), of.job);
    let graded = on_scene(&app, of, move |scene, known| Ok(graded_view(scene, &answer, known)?)).await?;
    if let Some(who) = who {
        let GradedView { points, clean, known, missed, .. } = graded.clone();
        let result = DrillResult { drill, level, points, clean, known, missed, seed, job };
        stored(&app, move |s| Ok(s.practised(&who, id.as_deref(), &result)?)).await?;
    }
    Ok(Out(graded))
}

/// What somebody made of one scene.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PlayedBy {
    /// Their name.
    pub who: String,
    /// How often they answered it.
    pub times: usize,
    /// The points of their best answer.
    pub points: f64,
    /// Whether one of them was right in everything.
    pub clean: bool,
}

/// Who has answered one scene, such as a drill that was set on a job's own wall; who did last stands first.
#[utoipa::path(get, path = "/api/practice/played", params(SceneAsk), responses((status = 200, body = Vec<PlayedBy>)))]
pub async fn practice_played(State(app): State<App>, Ask(ask): Ask<SceneAsk>) -> Result<Out<Vec<PlayedBy>>, Fault> {
    let people = stored(&app, |s| Ok(s.practice()?)).await?;
    let same = |r: &&DrillResult| (r.drill, r.level, r.seed, r.job) == (ask.drill, ask.level, Some(ask.seed), ask.job);
    let each = people.into_iter().filter_map(|(who, results)| {
        let these: Vec<&DrillResult> = results.iter().filter(same).collect();
        let points = these.iter().map(|r| r.points).max_by(f64::total_cmp)?;
        Some(PlayedBy { who, times: these.len(), points, clean: these.iter().any(|r| r.clean) })
    });
    Ok(Out(each.collect()))
}

/// Who has practised what: levels passed, and faults known and missed.
#[utoipa::path(get, path = "/api/practice/progress", responses((status = 200, body = Practised)))]
pub async fn practice_progress(State(app): State<App>) -> Result<Out<Practised>, Fault> {
    let people = stored(&app, |s| Ok(s.practice()?)).await?;
    let people = people.into_iter().map(|(who, results)| Learner { progress: progress(&results), who }).collect();
    let faults = fault_names().map(|(id, name)| FaultNameView { id: id.into(), name: name.into() }).collect();
    Ok(Out(Practised { people, faults }))
}
