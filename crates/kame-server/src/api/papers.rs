//! The record out, as paper, table and archive, and in again; labels, handover and damage pages.

use super::body::{Ask, JobId, Whole};
use super::files::download;
use super::jobs::{about, built_view, state};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::body::Body;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::IntoResponse;
use kame_core::checks::{Check, checks_of};
use kame_core::job::{read_job, write_job};
use kame_core::plan::{Plan, build};
use kame_core::problem::Problem;
use kame_core::record::{Entry, What, entry_schema, lines, report, states};
use kame_core::view::{Ask as Asked, Elevation, Known, handover, view_plan};
use kame_formats::{
    Archive, Damage, Drawing, Handed, Kept, LARGEST_ARCHIVE, Photo, PlaceLabel, PlacePages, damage_pdf, handover_pdf,
    place_labels_pdf, record_csv, record_pdf, record_zip, when,
};
use kame_store::{JobState, Position, Store, hash_of, photo_size};
use serde::Deserialize;
use std::io::{Seek, SeekFrom};
use std::sync::Arc;
use tokio_util::io::ReaderStream;
use utoipa::IntoParams;

/// The place that a paper is made for.
#[derive(Clone, Debug, Default, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct OfPlace {
    /// Id of an opening, empty for the walls themselves; the whole job where it is left out.
    #[serde(default)]
    pub opening: Option<String>,
}

/// A photograph ready to be printed; `None` where it is not there, or no JPEG, which paper cannot show.
fn printed(store: &Store, hash: &str, caption: String) -> Option<Photo> {
    let jpeg = store.photo(hash).ok()??;
    let [width, height] = photo_size(&jpeg).filter(|_| jpeg.starts_with(&[0xff, 0xd8]))?;
    Some(Photo { jpeg, size: [i32::try_from(width).ok()?, i32::try_from(height).ok()?], caption })
}

/// Photographs printed of one place: papers are read, not kept.
const MOST_PRINTED: usize = 24;
/// Room round an opening on its drawing, in.
const ROOM: f64 = 20.0;

/// A wall's drawing, of one opening where it is one's.
fn cropped(e: &Elevation, opening: &str, title: &str) -> Drawing {
    let mut drawing = Drawing::elevation(e, title);
    if let Some(o) = e.openings.iter().find(|o| o.id == opening) {
        let [x, y, w, h] = o.rect;
        drawing.frame = [x - ROOM, y - ROOM, w + 2.0 * ROOM, h + 2.0 * ROOM];
    }
    drawing
}

/// The record of a job with everything that is told of it.
struct Told {
    now: JobState,
    plan: Plan,
    checks: Vec<Check>,
    entries: Arc<Vec<Entry>>,
}

impl Told {
    fn of(app: &App, now: JobState) -> Result<Self, Fault> {
        let plan = app.recent.plan(&now)?.plan.clone();
        let checks = checks_of(&plan).map_err(Fault::Internal)?;
        let entries = app.recent.record(&app.store, now.id)?;
        Ok(Self { now, plan, checks, entries })
    }

    /// The record as paper.
    fn paper(&self, app: &App, known: &Known, opening: Option<&str>) -> Result<Vec<u8>, Fault> {
        let job = &self.now.job;
        let planned = view_plan(job, &self.plan, &Asked::default(), known)?.elevation;
        let built = built_view(&self.entries, job, &self.plan, known)?.elevation;
        let mut places = Vec::new();
        for report in report(&self.plan, &self.checks, &self.entries) {
            if opening.is_some_and(|o| report.id != o) {
                continue;
            }
            let draw = |e, what: &str| (cropped(e, &report.id, &job.name), what.to_owned());
            let drawings = vec![draw(&planned, "as planned"), draw(&built, "as built")];
            let named = |l: &kame_core::record::Line| {
                let caption =
                    format!("No. {}, {}: {}", l.number, l.who, if l.note.is_empty() { &l.what } else { &l.note });
                l.photos.iter().map(|p| (p.clone(), caption.clone())).collect::<Vec<_>>()
            };
            let photos = report.lines.iter().flat_map(named).take(MOST_PRINTED);
            let photos = photos.filter_map(|(hash, caption)| printed(&app.store, &hash, caption)).collect();
            places.push(PlacePages { report, drawings, photos });
        }
        let whole = app.store.verify_record(self.now.id)?;
        let of = match opening {
            Some("") => format!("{}, the walls themselves, plan {}", job.wall.name, self.now.revision),
            Some(o) => format!("{}, {o}, plan {}", job.wall.name, self.now.revision),
            None => format!("{}, plan {}", job.wall.name, self.now.revision),
        };
        Ok(record_pdf(&job.name, &of, &whole, places))
    }

    fn table(&self) -> Result<Vec<u8>, Fault> {
        record_csv(&lines(&self.plan, &self.checks, &self.entries), &self.entries)
            .map_err(|e| Fault::Internal(e.to_string()))
    }
}

/// The record as a paper to read, of the whole job or of one opening, with drawings as planned and as built and its photographs.
#[utoipa::path(get, path = "/api/jobs/{id}/record.pdf", params(("id" = i64, Path), OfPlace), responses((status = 200, content_type = "application/pdf"), (status = 404, body = ProblemDocument)))]
pub async fn paper(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(of): Ask<OfPlace>,
) -> Result<impl IntoResponse, Fault> {
    let now = state(&app, id).await?;
    let here = app.clone();
    about(&app, &app.works.long, now, move |now, known, _| {
        let told = Told::of(&here, now)?;
        let bytes = told.paper(&here, known, of.opening.as_deref())?;
        Ok(download(&told.now.job.name, "-record.pdf", "application/pdf", bytes))
    })
    .await
}

/// The record as a table.
#[utoipa::path(get, path = "/api/jobs/{id}/record.csv", params(("id" = i64, Path)), responses((status = 200, content_type = "text/csv"), (status = 404, body = ProblemDocument)))]
pub async fn record_table(State(app): State<App>, JobId(id): JobId) -> Result<impl IntoResponse, Fault> {
    let now = state(&app, id).await?;
    let here = app.clone();
    about(&app, &app.works.long, now, move |now, _, _| {
        let told = Told::of(&here, now)?;
        Ok(download(&told.now.job.name, "-record.csv", "text/csv; charset=utf-8", told.table()?))
    })
    .await
}

/// The record as one archive: entries, table, paper, schema, the job, and every photograph. `kame record verify` looks it through.
#[utoipa::path(get, path = "/api/jobs/{id}/record.zip", params(("id" = i64, Path)), responses((status = 200, content_type = "application/zip"), (status = 404, body = ProblemDocument), (status = 507, body = ProblemDocument)))]
pub async fn archive(State(app): State<App>, JobId(id): JobId) -> Result<impl IntoResponse, Fault> {
    let now = state(&app, id).await?;
    let here = app.clone();
    let (name, file) = about(&app, &app.works.long, now, move |now, known, _| {
        let told = Told::of(&here, now)?;
        let (table, paper) = (told.table()?, told.paper(&here, known, None)?);
        let (job, schema) = (write_job(&told.now.job), entry_schema().to_string());
        let kept = Kept { job: &job, entries: &told.entries, table: &table, paper: &paper, schema: &schema };
        let failed = |e: std::io::Error| Fault::Internal(format!("the archive could not be written: {e}"));
        let out = tempfile::tempfile().map_err(failed)?;
        let photo = |hash: &str| here.store.photo(hash).map_err(std::io::Error::other);
        let mut out = record_zip(out, &kept, photo).map_err(failed)?;
        out.seek(SeekFrom::Start(0)).map_err(failed)?;
        Ok((told.now.job.name.clone(), out))
    })
    .await?;
    let stream = ReaderStream::new(tokio::fs::File::from_std(file));
    Ok(download(&name, "-record.zip", "application/zip", Body::from_stream(stream)))
}

/// Takes an archive of a record in as a new job, entry by entry as it is. Only what is whole is taken, and all of it or nothing.
#[utoipa::path(post, path = "/api/records", request_body(content = Vec<u8>, content_type = "application/zip"), responses((status = 201, body = JobState), (status = 413, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 507, body = ProblemDocument)))]
pub async fn take_archive(
    State(app): State<App>,
    Whole(bytes): Whole<{ (LARGEST_ARCHIVE >> 20) as usize }>,
) -> Result<(StatusCode, Out<JobState>), Fault> {
    let store = Arc::clone(&app.store);
    app.works
        .long
        .run(move |stop| {
            let refuse = |why: String| Fault::from(vec![Problem::new("$", why)]);
            let mut archive = Archive::read(bytes.into()).map_err(refuse)?;
            if let Some(broken) = archive.verify(hash_of).broken {
                return Err(refuse(format!("{broken}: only what is whole is taken")));
            }
            let job = read_job(&archive.job)?;
            build(&job)?;
            for hash in archive.entries.clone().iter().flat_map(|e| &e.event.photos) {
                stop.check().map_err(Fault::Internal)?;
                let photo = archive.photo(hash).map_err(refuse)?.unwrap_or_default();
                // It was kept once with what it says.
                store.keep_photo(hash, &photo, Position::Kept)?;
            }
            Ok((StatusCode::CREATED, Out(store.take_record(&job, &archive.entries)?)))
        })
        .await
}

/// Checks that say what came and how it was.
const ABOUT_THE_UNIT: [&str; 3] = ["unit-arrived", "unit-whole", "unit-mark"];

/// One page to send about a damaged unit: its mark, what was said of it, and the photographs.
#[utoipa::path(get, path = "/api/jobs/{id}/damage.pdf", params(("id" = i64, Path), OfPlace), responses((status = 200, content_type = "application/pdf"), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn damage(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(of): Ask<OfPlace>,
) -> Result<impl IntoResponse, Fault> {
    let now = state(&app, id).await?;
    let here = app.clone();
    about(&app, &app.works.long, now, move |now, _, _| {
        let told = Told::of(&here, now)?;
        let id = of.opening.unwrap_or_default();
        let Some(o) = told.plan.openings.iter().find(|o| o.id == id) else {
            let message = format!("there is no opening \"{id}\" on this wall; name one as opening=W1");
            return Err(vec![Problem::new("$query.opening", message)].into());
        };
        let about_unit: Vec<&str> = told
            .checks
            .iter()
            .filter(|c| c.opening == id && ABOUT_THE_UNIT.contains(&c.check.as_str()))
            .map(|c| c.id.as_str())
            .collect();
        let is_about = |e: &Entry| match &e.event.what {
            What::Looked { check, .. } | What::Lot { check, .. } | What::Mended { check } => {
                about_unit.contains(&check.as_str())
            }
            _ => false,
        };
        let all = lines(&told.plan, &told.checks, &told.entries);
        let those: Vec<_> = all.iter().zip(told.entries.iter()).filter(|(l, e)| is_about(e) && !l.corrected).collect();
        let mark = |e: &Entry| match &e.event.what {
            What::Lot { text, .. } => Some(text.clone()),
            _ => None,
        };
        let unit = told
            .plan
            .pieces
            .iter()
            .find(|p| p.opening.is_some_and(|i| told.plan.openings[i].id == id) && p.id.ends_with("/unit"));
        let page = Damage {
            job: told.now.job.name.clone(),
            place: format!("{id} {}", o.name),
            ordered: format!(
                "{}, rough opening {} × {}",
                unit.map_or("unit", |p| &p.product),
                o.rect.width().feet_inches(16),
                o.rect.height().feet_inches(16)
            ),
            marks: those.iter().filter_map(|(_, e)| mark(e)).collect(),
            said: those
                .iter()
                .map(|(l, _)| {
                    format!(
                        "{} UTC, {}: {}{}{}",
                        when(&l.at),
                        l.who,
                        l.what,
                        if l.note.is_empty() { "" } else { ". " },
                        l.note
                    )
                })
                .collect(),
            photos: those
                .iter()
                .flat_map(|(l, _)| l.photos.iter().map(|p| (p, format!("No. {}: {}", l.number, l.what))))
                .take(MOST_PRINTED)
                .filter_map(|(hash, caption)| printed(&here.store, hash, caption))
                .collect(),
        };
        Ok(download(&format!("{} {id}", told.now.job.name), "-damage.pdf", "application/pdf", damage_pdf(page)))
    })
    .await
}

/// Handover pages: one list for each trade, and one for each place.
#[utoipa::path(get, path = "/api/jobs/{id}/handover.pdf", params(("id" = i64, Path)), responses((status = 200, content_type = "application/pdf"), (status = 404, body = ProblemDocument)))]
pub async fn handover_paper(State(app): State<App>, JobId(id): JobId) -> Result<impl IntoResponse, Fault> {
    let now = state(&app, id).await?;
    let here = app.clone();
    about(&app, &app.works.long, now, move |now, _, _| {
        let told = Told::of(&here, now)?;
        let all = handover(&told.plan, &states(&told.plan, &told.entries));
        let word = |t: kame_core::trade::Trade| {
            serde_json::to_value(t).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
        };
        let mut pages: Vec<Handed> = Vec::new();
        let mut put = |heading: String, line: String| match pages.iter_mut().find(|p| p.heading == heading) {
            Some(page) => page.lines.push(line),
            None => pages.push(Handed { heading, lines: vec![line] }),
        };
        let place = |id: &str| if id.is_empty() { "the walls".to_owned() } else { id.to_owned() };
        let mark = |ready: bool| if ready { "[x]" } else { "[ ] not there yet:" };
        for l in &all {
            put(format!("For {}", word(l.to)), format!("{} {}: {}", mark(l.ready), place(&l.place), l.says));
        }
        for l in &all {
            put(
                format!("At {}", place(&l.place)),
                format!("{} {} to {}: {}", mark(l.ready), word(l.from), word(l.to), l.says),
            );
        }
        Ok(download(&told.now.job.name, "-handover.pdf", "application/pdf", handover_pdf(&told.now.job.name, &pages)))
    })
    .await
}

/// Under which address the labels' codes are read.
#[derive(Clone, Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct LabelsAsk {
    /// Where Kame is reached from a phone, as `https://kame.example`; the address of this server where it is left out.
    #[serde(default)]
    pub base: Option<String>,
}

/// The longest address that a label carries.
const LONGEST_BASE: usize = 120;

/// Labels to stick beside the openings, each with a code that opens its next step.
#[utoipa::path(get, path = "/api/jobs/{id}/place-labels.pdf", params(("id" = i64, Path), LabelsAsk), responses((status = 200, content_type = "application/pdf"), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn place_labels(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(ask): Ask<LabelsAsk>,
) -> Result<impl IntoResponse, Fault> {
    let base = ask.base.unwrap_or_else(|| format!("http://{}", app.address));
    let base = base.trim_end_matches('/').to_owned();
    let is_web = base.starts_with("http://") || base.starts_with("https://");
    if !is_web || base.len() > LONGEST_BASE || !base.bytes().all(|b| b.is_ascii_graphic()) {
        let message = format!(
            "found \"{}\", expected an address of at most {LONGEST_BASE} characters, as https://kame.example",
            base.chars().take(60).collect::<String>()
        );
        return Err(vec![Problem::new("$query.base", message)].into());
    }
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |now, _, _| {
        let label = |place: &str, id: &str, name: &str| PlaceLabel {
            id: id.to_owned(),
            name: name.to_owned(),
            url: format!("{base}/jobs/{}/site/{place}", now.id),
        };
        let walls = label("walls", "Walls", &now.job.wall.name);
        let openings = now.job.openings.iter().map(|o| label(&o.id, &o.id, &o.name));
        let all: Vec<PlaceLabel> = [walls].into_iter().chain(openings).collect();
        let bytes =
            place_labels_pdf(&now.job.name, &all).map_err(|e| Fault::from(vec![Problem::new("$query.base", e)]))?;
        Ok(download(&now.job.name, "-places.pdf", "application/pdf", bytes))
    })
    .await
}
