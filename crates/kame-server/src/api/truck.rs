//! Bench and truck: what to buy and to load, what touches, the kit and the profile as files, and the calculators.

use super::body::{Ask, JobId, JobPart, Json, Whole};
use super::calendar::{CalendarAsk, Ground, LaidBy, laid_by};
use super::files::{CSV, XLSX, download};
use super::jobs::{about, state, stored};
use super::types::{ProfileAnswer, Truck, TruckAsk};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use futures_util::stream::unfold;
use kame_core::calendar::days;
use kame_core::contact::touching_pairs;
use kame_core::kit::{
    KIT_SHEET, KitSpec, attributes, kit_rows, known, products, read_kit_file, read_kit_rows, write_kit_file,
};
use kame_core::problem::Problem;
use kame_core::profile::{
    Profile, held_together, profile_rows, read_profile_file, read_profile_rows, write_profile_file,
};
use kame_core::purchase::{Ordering, Progress, order};
use kame_core::stop::Stop;
use kame_core::takeoff::{Mix, Mixed, cut_list_within, mix, sums, uses};
use kame_store::JobState;
use serde::Serialize;
use std::collections::BTreeMap;
use std::convert::Infallible;
use std::time::Duration;
use tokio::sync::mpsc::unbounded_channel;

/// Everything the truck's screen shows.
fn loaded(app: &App, now: &JobState, by: &LaidBy, ask: &TruckAsk, how: &Ordering, stop: &Stop) -> Result<Truck, Fault> {
    let ground = Ground::of(app, now, by)?;
    let plan = &ground.made.plan;
    // Before nesting, which ends in a hurry: what is laid in a hurry is not kept for the next who asks.
    let booking = app.recent.calendar(now, &ground.asked(), &app.known.nights.until(stop), stop)?;
    let order = order(plan, &now.job.kit, how);
    let days = days(&ground.asked(), &booking, &order, &by.today);
    Ok(Truck {
        by: ask.by,
        sums: sums(&uses(plan), ask.by, &days.begins),
        pairs: touching_pairs(plan).map_err(Fault::Internal)?,
        attributes: attributes().map_err(Fault::Internal)?.to_vec(),
        known: plan
            .basis
            .products
            .iter()
            .map(|p| Ok((p.name.clone(), known(p)?)))
            .collect::<Result<_, _>>()
            .map_err(Fault::Internal)?,
        generic: products().map_err(Fault::Internal)?.to_vec(),
        products: plan.basis.products.to_vec(),
        order,
        days,
    })
}

/// After nesting has ended the rest takes no longer than this.
const BEYOND_NESTING: Duration = Duration::from_secs(60);

fn limit(ask: &TruckAsk) -> Result<Duration, Fault> {
    /// Longest time for nesting, in seconds, and what it is where nothing is said.
    const MOST: f64 = 600.0;
    const USUAL: f64 = 20.0;
    let s = ask.limit_s.unwrap_or(USUAL);
    if (0.0..=MOST).contains(&s) {
        return Ok(Duration::from_secs_f64(s));
    }
    Err(vec![Problem::new("$query.limit_s", format!("found {s} s for nesting, expected 0 to {MOST}"))].into())
}

/// What to buy and to load for a job, what touches in it, and the library behind both. Nesting goes on for at most `limit_s` seconds.
#[utoipa::path(get, path = "/api/jobs/{id}/truck", params(("id" = i64, Path), TruckAsk), responses((status = 200, body = Truck), (status = 404, body = ProblemDocument)))]
pub async fn truck(State(app): State<App>, JobId(id): JobId, Ask(ask): Ask<TruckAsk>) -> Result<Out<Truck>, Fault> {
    let limit = limit(&ask)?;
    let now = state(&app, id).await?;
    let by = laid_by(&app, &now, CalendarAsk::default()).await?;
    let here = app.clone();
    let work = move |stop: &Stop| {
        let hurried = || stop.is_hurried();
        loaded(&here, &now, &by, &ask, &Ordering { stop: &hurried, ..Ordering::default() }, stop).map(Out)
    };
    app.works.long.run_for(limit, limit + BEYOND_NESTING, work).await
}

/// The same as server-sent events: `progress` at each product, then `truck` or `problem`. Who hangs up stops the nesting.
#[utoipa::path(get, path = "/api/jobs/{id}/truck-progress", params(("id" = i64, Path), TruckAsk), responses((status = 200, content_type = "text/event-stream"), (status = 404, body = ProblemDocument)))]
pub async fn truck_progress(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(ask): Ask<TruckAsk>,
) -> Result<impl IntoResponse, Fault> {
    let limit = limit(&ask)?;
    let now = state(&app, id).await?;
    let by = laid_by(&app, &now, CalendarAsk::default()).await?;
    let place = app.works.long.hold()?;
    let (told, heard) = unbounded_channel::<Event>();
    let stop = Stop::default();
    let seen = stop.clone();
    let work = move || {
        let stop = || told.is_closed() || seen.is_hurried();
        let tell = |p: Progress| {
            told.send(event("progress", &p)).ok();
        };
        let done = match loaded(&app, &now, &by, &ask, &Ordering { stop: &stop, tell: &tell }, &seen) {
            Ok(truck) => event("truck", &truck),
            Err(fault) => event("problem", &fault.document()),
        };
        told.send(done).ok();
    };
    tokio::spawn(place.run(stop, limit, limit + BEYOND_NESTING, work));
    let stream = unfold(heard, |mut heard| async move { Some((Ok::<_, Infallible>(heard.recv().await?), heard)) });
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}

/// A server-sent event with JSON in it.
fn event<T: Serialize>(name: &str, of: &T) -> Event {
    Event::default().event(name).data(serde_json::to_string(of).unwrap_or_default())
}

/// Files of the truck: `order`, `loads` and `quantities` as `.csv` and `.xlsx` (quantities `by` opening, wall, phase, trade or day), `labels.pdf`,
/// `kit` and `profile` as `.json` and `.csv`.
#[utoipa::path(get, path = "/api/jobs/{id}/truck/{file}", params(("id" = i64, Path), ("file" = String, Path), TruckAsk), responses((status = 200, content_type = "text/csv"), (status = 404, body = ProblemDocument)))]
pub async fn truck_file(
    State(app): State<App>,
    JobPart(id, file): JobPart,
    Ask(ask): Ask<TruckAsk>,
) -> Result<Response, Fault> {
    let now = state(&app, id).await?;
    let by = laid_by(&app, &now, CalendarAsk::default()).await?;
    let here = app.clone();
    about(&app, &app.works.long, now, move |now, known, stop| {
        let job = &now.job;
        let hurried = || stop.is_hurried();
        let ending = format!("-{file}");
        let send = |kind: &'static str, bytes: Vec<u8>| Ok(download(&job.name, &ending, kind, bytes).into_response());
        let wrong = |e: String| Fault::Internal(e);
        let table = |sheet: &str, rows: Vec<Vec<String>>| {
            if file.ends_with(".xlsx") {
                send(XLSX, kame_formats::table_xlsx(sheet, &rows).map_err(|e| wrong(e.to_string()))?)
            } else {
                send(CSV, kame_formats::table_csv(&rows).map_err(|e| wrong(e.to_string()))?.into_bytes())
            }
        };
        let profile = || Profile::general_practice().map_err(|e| wrong(e.to_string()));
        match file.as_str() {
            "kit.json" => return send("application/json", write_kit_file(&job.kit).into_bytes()),
            "kit.csv" | "kit.xlsx" => return table(KIT_SHEET, kit_rows(&job.kit).map_err(wrong)?),
            "profile.json" => {
                return send("application/json", write_profile_file(profile()?, &job.figures).into_bytes());
            }
            "profile.csv" | "profile.xlsx" => return table("profile", profile_rows(profile()?, &job.figures)),
            _ => {}
        }
        let ground = Ground::of(&here, &now, &by)?;
        let plan = &ground.made.plan;
        if file == "labels.pdf" {
            let list = cut_list_within(plan, &job.ticks, &hurried);
            return send("application/pdf", kame_formats::labels_pdf(&job.name, &list));
        }
        let order = order(plan, &job.kit, &Ordering { stop: &hurried, ..Ordering::default() });
        let laid = || {
            let booking = here.recent.calendar(&now, &ground.asked(), &known.nights, stop)?;
            Ok::<_, Fault>(days(&ground.asked(), &booking, &order, &by.today))
        };
        match file.as_str() {
            "order.csv" => {
                send(CSV, kame_formats::order_csv(&order).map_err(|e| wrong(e.to_string()))?.into_bytes())
            }
            "order.xlsx" => send(XLSX, kame_formats::order_xlsx(&order).map_err(|e| wrong(e.to_string()))?),
            "loads.csv" | "loads.xlsx" => table("loads", kame_formats::load_rows(&laid()?)),
            "quantities.csv" | "quantities.xlsx" => {
                let by = serde_json::to_value(ask.by).ok().and_then(|v| v.as_str().map(str::to_owned));
                let sums = sums(&uses(plan), ask.by, &laid()?.begins);
                table("quantities", kame_formats::sum_rows(&by.unwrap_or_default(), &sums))
            }
            _ => Err(Fault::NoSuchPlace(format!(
                "there is no file \"{file}\": ask for order, loads or quantities as .csv or .xlsx, labels.pdf, kit or profile as .json, .csv or .xlsx"
            ))),
        }
    })
    .await
}

fn is_json(bytes: &[u8]) -> bool {
    bytes.iter().find(|b| !b.is_ascii_whitespace()) == Some(&b'{')
}

fn rows(bytes: &[u8]) -> Result<Vec<Vec<String>>, Fault> {
    kame_formats::read_table(bytes).map_err(|m| Fault::Refused(vec![Problem::new("$", m)]))
}

/// What a file makes of a job's kit: JSON is all of it, a table (CSV, XLSX, ODS) changes the products it names. Nothing is kept: `set_kit` does that.
#[utoipa::path(post, path = "/api/jobs/{id}/kit", params(("id" = i64, Path)), request_body(content = String, content_type = "text/csv"), responses((status = 200, body = KitSpec), (status = 422, body = ProblemDocument)))]
pub async fn read_kit(State(app): State<App>, JobId(id): JobId, Whole(bytes): Whole) -> Result<Out<KitSpec>, Fault> {
    let now = state(&app, id).await?;
    about(&app, &app.works.long, now, move |JobState { job, .. }, _, _| {
        let kit = if is_json(&bytes) { read_kit_file(&bytes)? } else { read_kit_rows(&job.kit, &rows(&bytes)?)? };
        Ok(Out(kit))
    })
    .await
}

/// The figures a file gives (JSON, CSV, XLSX, ODS), without those that are as shipped. Nothing is kept: `set_figures` does that.
#[utoipa::path(post, path = "/api/profile", request_body(content = String, content_type = "text/csv"), responses((status = 200, body = BTreeMap<String, String>), (status = 422, body = ProblemDocument)))]
pub async fn read_profile(State(app): State<App>, Whole(bytes): Whole) -> Result<Out<BTreeMap<String, String>>, Fault> {
    let read = move |_: &Stop| {
        let profile = Profile::general_practice().map_err(|e| Fault::Internal(e.to_string()))?;
        Ok(Out(if is_json(&bytes) {
            read_profile_file(profile, &bytes)?
        } else {
            read_profile_rows(profile, &rows(&bytes)?)?
        }))
    };
    app.works.long.run(read).await
}

/// Every figure as shipped, in force, and in each profile kept in the job.
#[utoipa::path(get, path = "/api/jobs/{id}/profile", params(("id" = i64, Path)), responses((status = 200, body = ProfileAnswer), (status = 404, body = ProblemDocument)))]
pub async fn profile(State(app): State<App>, JobId(id): JobId) -> Result<Out<ProfileAnswer>, Fault> {
    stored(&app, move |s| {
        let job = s.job(id)?.job;
        let profile = Profile::general_practice().map_err(|e| Fault::Internal(e.to_string()))?;
        let rows = held_together(profile, &job.figures, &job.profiles);
        Ok(Out(ProfileAnswer { id: profile.id.clone(), name: profile.name.clone(), kept: job.profiles, rows }))
    })
    .await
}

/// A calculator: bead to a tube, coverage by gauge, tape width, fastener length, liquid left.
#[utoipa::path(post, path = "/api/mix", request_body = Mix, responses((status = 200, body = Mixed), (status = 422, body = ProblemDocument)))]
pub async fn mixed(Json(ask): Json<Mix>) -> Result<Out<Mixed>, Fault> {
    Ok(Out(mix(&ask)?))
}
