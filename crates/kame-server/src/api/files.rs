//! Files in and out.

use super::body::{Ask, JobId, JobPart, Whole, read_json};
use super::jobs::{about, state, stored};
use super::types::Moment;
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::body::Body;
use axum::extract::{FromRequest, Request, State};
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use kame_core::edit::{FeatureKind, Mapping, Schedule, feature_kinds, read_schedule};
use kame_core::job::{read_job, write_job};
use kame_core::layup::{FileMistake, from_json, to_json};
use kame_core::model::{FromModel, Newer, from_model, newer};
use kame_core::plan::build;
use kame_core::problem::Problem;
use kame_core::sequence::Stage;
use kame_core::stop::{STOPPED, Stop};
use kame_core::takeoff::cut_list_within;
use kame_core::view::{Flashing, SectionAsk, SectionKind, flashings, step_pictures, view_plan};
use kame_core::water::{Limits, Unanswered, solve_within};
use kame_formats::{Drawing, ModelNote, write_notes};
use kame_store::JobState;
use serde::Deserialize;
use serde::de::IntoDeserializer;
use serde::de::value::Error as ValueError;
use serde_json::Value;
use std::sync::Arc;
use tokio::sync::Semaphore;
use utoipa::IntoParams;

/// Kinds of tables.
pub(super) const XLSX: &str = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";
pub(super) const CSV: &str = "text/csv; charset=utf-8";

/// A file to save, named after the job.
pub(super) fn download<B: Into<Body>>(
    name: &str,
    ending: &str,
    kind: &'static str,
    bytes: B,
) -> impl IntoResponse + use<B> {
    let plain: String =
        name.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' }).collect();
    let plain = plain.split('-').filter(|p| !p.is_empty()).collect::<Vec<_>>().join("-");
    let plain = if plain.is_empty() { "job".to_owned() } else { plain };
    (
        [
            (header::CONTENT_TYPE, kind.to_owned()),
            (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{plain}{ending}\"")),
        ],
        bytes.into(),
    )
}

/// Takes a job file in as a new job. The whole file or nothing.
#[utoipa::path(post, path = "/api/import", request_body(content = String, content_type = "application/json"), responses((status = 201, body = JobState), (status = 413, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn import(State(app): State<App>, Whole(bytes): Whole) -> Result<(StatusCode, Out<JobState>), Fault> {
    let store = Arc::clone(&app.store);
    app.works
        .long
        .run(move |stop| {
            let job = read_job(&bytes)?;
            build(&job)?;
            stop.check().map_err(Fault::Internal)?;
            Ok((StatusCode::CREATED, Out(store.create(&job)?)))
        })
        .await
}

/// The largest building model that is taken, MB.
const LARGEST_MODEL: usize = 200;

/// What a building model (IFC 4 or 2x3 in STEP form) becomes: its outer walls in order round the building with their windows and doors, the same from
/// above, and what was left out and why. Nothing is kept: `POST /api/import` takes the job.
#[utoipa::path(post, path = "/api/model", request_body(content = String, content_type = "application/x-step"), responses((status = 200, body = FromModel), (status = 413, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn model(State(app): State<App>, request: Request) -> Result<Out<FromModel>, Fault> {
    with_model(&app, request, |bytes, stop| Ok(Out(read_model(bytes, stop)?))).await
}

/// Does something with a building model, of which only so many are held at once.
async fn with_model<T: Send + 'static>(
    app: &App,
    request: Request,
    work: impl FnOnce(&[u8], &Stop) -> Result<T, Fault> + Send + 'static,
) -> Result<T, Fault> {
    /// Each is held in memory while it is read: two at once.
    static PLACES: Semaphore = Semaphore::const_new(2);
    let busy = |_| Fault::busy("two models are being read already", 10);
    let place = PLACES.try_acquire().map_err(busy)?;
    let Whole(bytes): Whole<LARGEST_MODEL> = Whole::from_request(request, app).await?;
    let answer = app.works.long.run(move |stop| work(&bytes, stop)).await;
    drop(place);
    answer
}

fn refused(message: String) -> Fault {
    vec![Problem::new("$", message)].into()
}

/// The job that a building model becomes.
fn read_model(bytes: &[u8], stop: &Stop) -> Result<FromModel, Fault> {
    let model = kame_formats::read_ifc(bytes, stop).map_err(refused)?;
    Ok(from_model(&model, stop)?)
}

/// The same building model with what is planned for its openings: a set of properties for each, everything else byte for byte as it came.
#[utoipa::path(post, path = "/api/jobs/{id}/model.ifc", params(("id" = i64, Path)), request_body(content = String, content_type = "application/x-step"), responses((status = 200, content_type = "application/x-step"), (status = 404, body = ProblemDocument), (status = 413, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn noted_model(
    State(app): State<App>,
    JobId(id): JobId,
    request: Request,
) -> Result<impl IntoResponse, Fault> {
    let now = state(&app, id).await?;
    let (name, here) = (now.job.name.clone(), app.clone());
    let bytes = with_model(&app, request, move |bytes, stop| {
        let made = here.recent.plan(&now)?;
        let of = |f: Flashing| ModelNote { id: f.model, properties: f.says };
        let notes: Vec<ModelNote> =
            flashings(&now.job, &made.plan, &here.known.until(stop))?.into_iter().map(of).collect();
        // That it is a model is said by whoever reads models.
        kame_formats::read_ifc(bytes, stop).map_err(refused)?;
        let (out, said) = write_notes(bytes, &notes, stop).map_err(refused)?;
        if said == 0 {
            return Err(refused("none of this job's openings came out of this model: take the model first".into()));
        }
        Ok(out)
    });
    Ok(download(&name, ".ifc", "application/x-step", bytes.await?))
}

/// What a newer building model would change on a job that came out of an earlier one: what moved, is new or gone, and the edit that takes it, with
/// answers, names and products of what is still there. Nothing is kept.
#[utoipa::path(post, path = "/api/jobs/{id}/model", params(("id" = i64, Path)), request_body(content = String, content_type = "application/x-step"), responses((status = 200, body = Newer), (status = 404, body = ProblemDocument), (status = 413, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn newer_model(State(app): State<App>, JobId(id): JobId, request: Request) -> Result<Out<Newer>, Fault> {
    let now = state(&app, id).await?;
    with_model(&app, request, move |bytes, stop| Ok(Out(newer(&now.job, read_model(bytes, stop)?)))).await
}

/// The job as a file (`*.kame.json`).
#[utoipa::path(get, path = "/api/jobs/{id}/file", params(("id" = i64, Path)), responses((status = 200, content_type = "application/json"), (status = 404, body = ProblemDocument)))]
pub async fn export(State(app): State<App>, JobId(id): JobId) -> Result<impl IntoResponse, Fault> {
    stored(&app, move |s| {
        let job = s.job(id)?.job;
        Ok(download(&job.name, ".kame.json", "application/json", write_job(&job)))
    })
    .await
}

/// The cut list as CSV.
#[utoipa::path(get, path = "/api/jobs/{id}/cut-list.csv", params(("id" = i64, Path)), responses((status = 200, content_type = "text/csv"), (status = 404, body = ProblemDocument)))]
pub async fn cut_list(State(app): State<App>, JobId(id): JobId) -> Result<impl IntoResponse, Fault> {
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |JobState { job, .. }, _, stop| {
        let plan = build(&job)?;
        let list = cut_list_within(&plan, &job.ticks, &|| stop.is_hurried());
        let text = kame_formats::cut_list_csv(&list).map_err(|e| Fault::Internal(e.to_string()))?;
        Ok(download(&job.name, "-cut-list.csv", CSV, text))
    })
    .await
}

/// What is drawn of a job on paper, by its name in an address.
#[derive(Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
enum OnPaper {
    Elevation,
    Section,
    Building,
    Folded,
    Apart,
    Steps,
}

/// A drawing at the moment asked for: `elevation`, the `section` asked for, the `building` in rows or `folded` up, an opening's stack drawn
/// `apart`, the pictures of its `steps`; with `.svg`, `.dxf` or `.pdf`.
#[utoipa::path(get, path = "/api/jobs/{id}/drawings/{file}", params(("id" = i64, Path), ("file" = String, Path), Moment), responses((status = 200, content_type = "image/svg+xml"), (status = 404, body = ProblemDocument)))]
pub async fn drawing(
    State(app): State<App>,
    JobPart(id, file): JobPart,
    Ask(moment): Ask<Moment>,
) -> Result<impl IntoResponse, Fault> {
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |JobState { job, .. }, known, _| {
        let no_such = || {
            Fault::NoSuchPlace(format!(
                "there is no drawing \"{file}\": ask for elevation, section, building, folded, apart or steps, with .svg, .dxf or .pdf"
            ))
        };
        let (what, format) = file.split_once('.').ok_or_else(no_such)?;
        let what = OnPaper::deserialize(what.into_deserializer()).map_err(|_: ValueError| no_such())?;
        let mut ask = moment.ask();
        if what == OnPaper::Section && ask.section.is_none() {
            ask.section = Some(SectionAsk { opening: moment.opening, kind: SectionKind::Sill, at: 0.5 });
        }
        if what == OnPaper::Apart {
            ask.exploded = Some(moment.opening);
        }
        let plan = build(&job)?;
        let nothing = || Fault::NoSuchPlace("there is no such opening here: choose one of the job's".into());
        let drawn = if what == OnPaper::Steps {
            let at = plan.openings.get(moment.opening).ok_or_else(nothing)?;
            let title_of = |id: &str| plan.steps.iter().find(|s| s.id == id).map_or(String::new(), |s| s.title.clone());
            let title = format!("{}: steps at {}", job.name, at.id);
            Drawing::steps(&step_pictures(&plan, Some(&at.id), None), title_of, &title)
        } else {
            let view = view_plan(&job, &plan, &ask, known)?;
            match what {
                OnPaper::Section => Drawing::section(view.section.as_ref().ok_or_else(nothing)?, &job.name),
                OnPaper::Apart => Drawing::apart(view.exploded.as_ref().ok_or_else(nothing)?, &job.name),
                OnPaper::Building => Drawing::building(&view, &job.name),
                OnPaper::Folded => Drawing::folded(&view, &job.name),
                OnPaper::Elevation | OnPaper::Steps => Drawing::elevation(&view.elevation, &job.name),
            }
        };
        let (kind, bytes) = match format {
            "svg" => ("image/svg+xml", kame_formats::svg(&drawn).into_bytes()),
            "dxf" => ("image/vnd.dxf", kame_formats::dxf(&drawn).map_err(|e| Fault::Internal(e.to_string()))?),
            "pdf" => ("application/pdf", kame_formats::pdf(&drawn)),
            _ => return Err(no_such()),
        };
        Ok(download(&job.name, &format!("-{file}"), kind, bytes))
    })
    .await
}

/// The wall at the moment asked for as a layup file (`kame-layup`).
#[utoipa::path(get, path = "/api/jobs/{id}/layup", params(("id" = i64, Path), Moment), responses((status = 200, content_type = "application/json"), (status = 404, body = ProblemDocument)))]
pub async fn layup(State(app): State<App>, JobId(id): JobId, Ask(moment): Ask<Moment>) -> Result<Out<Value>, Fault> {
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |JobState { job, .. }, _, _| {
        let plan = build(&job)?;
        let actions = plan.actions().take(moment.done.unwrap_or(usize::MAX)).map(|(_, a)| a);
        Ok(Out(to_json(&Stage::after(&plan, actions).layup(&plan).layup)))
    })
    .await
}

/// The largest layup that is taken: that of a large building.
const LARGEST_LAYUP_MB: usize = 16;

/// Answers a layup file with heads and ponds, within limits: of a wall that is divided into more parts, ask about a part.
#[utoipa::path(post, path = "/api/water", request_body(content = Value, content_type = "application/json"), responses((status = 200, body = Value), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn water(State(app): State<App>, Whole(bytes): Whole<LARGEST_LAYUP_MB>) -> Result<Out<Value>, Fault> {
    let told = |m: Vec<FileMistake>| m.into_iter().map(|m| Problem::new(m.path, m.message)).collect::<Vec<_>>();
    app.works
        .long
        .run(move |stop| {
            let doc: Value = read_json(&bytes)?;
            let layup = from_json(&doc).map_err(told)?;
            let answer = solve_within(&layup, Limits::default(), stop).map_err(|e| match e {
                Unanswered::Mistakes(m) => Fault::from(told(m)),
                Unanswered::Stopped => Fault::Internal(STOPPED.into()),
            })?;
            Ok(Out(answer.to_json(&layup)))
        })
        .await
}

/// How a schedule is to be read.
#[derive(Clone, Debug, Default, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct Reading {
    /// Unit of plain numbers in columns that name none: `in`, `mm`, `cm`, `m`, `ft`.
    #[serde(default)]
    pub unit: Option<String>,
    /// Columns that were not understood or wrongly, by number from 0: `2:width,3:height,4:none`.
    #[serde(default)]
    pub columns: Option<String>,
}

impl Reading {
    fn mapping(&self) -> Result<Mapping, Fault> {
        let wrong = |part: &str| {
            Fault::from(vec![Problem::new(
                "$.columns",
                format!("found \"{part}\", expected a number and a field as in 2:width, or 2:none"),
            )])
        };
        let parts = self.columns.iter().flat_map(|c| c.split(',')).filter(|p| !p.is_empty());
        parts
            .map(|part| {
                let (at, field) = part.split_once(':').ok_or_else(|| wrong(part))?;
                let field = match field {
                    "none" => None,
                    name => Some(serde_json::from_value(Value::from(name)).map_err(|_| wrong(part))?),
                };
                Ok((at.parse().map_err(|_| wrong(part))?, field))
            })
            .collect()
    }

    fn unit(&self) -> Result<&str, Fault> {
        match self.unit.as_deref().unwrap_or("in") {
            unit @ ("in" | "mm" | "cm" | "m" | "ft") => Ok(unit),
            other => {
                Err(vec![Problem::new("$.unit", format!("found \"{other}\", expected in, mm, cm, m or ft"))].into())
            }
        }
    }
}

/// Reads a schedule of openings and penetrations (CSV, XLSX or ODS) as far as it can be understood; nothing is changed. What is good is
/// taken over by the edit `add_openings`.
#[utoipa::path(post, path = "/api/jobs/{id}/schedule", params(("id" = i64, Path), Reading), request_body(content = Vec<u8>, content_type = "application/octet-stream"), responses((status = 200, body = Schedule), (status = 404, body = ProblemDocument), (status = 413, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn schedule(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(reading): Ask<Reading>,
    Whole(bytes): Whole,
) -> Result<Out<Schedule>, Fault> {
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |JobState { job, .. }, _, _| {
        let table = kame_formats::read_table(&bytes).map_err(|m| vec![Problem::new("$", m)])?;
        Ok(Out(read_schedule(&job, &table, &reading.mapping()?, reading.unit()?)?))
    })
    .await
}

/// What can be put on a wall.
#[utoipa::path(get, path = "/api/features", responses((status = 200, body = Vec<FeatureKind>)))]
pub async fn features() -> Result<Out<Vec<FeatureKind>>, Fault> {
    Ok(Out(feature_kinds().map_err(Fault::Internal)?.to_vec()))
}

/// The JSON Schema of the job file.
#[utoipa::path(get, path = "/api/schema/job.json", responses((status = 200, body = Value)))]
pub async fn job_schema() -> Out<Value> {
    Out(kame_core::job::job_schema())
}

/// The JSON Schema of the layup file.
#[utoipa::path(get, path = "/api/schema/layup.json", responses((status = 200, body = Value)))]
pub async fn layup_schema() -> Out<Value> {
    Out(kame_core::layup::layup_schema())
}
