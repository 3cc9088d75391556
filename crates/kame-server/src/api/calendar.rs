//! The work on a calendar, with crews, deliveries and weather.

use super::body::{Ask, JobId, Json};
use super::files::download;
use super::jobs::{about, state, stored};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use axum::response::IntoResponse;
use kame_core::calendar::{Asked, Booking, Hour, MinutesTaken, book, learnt, odd_hours};
use kame_core::date::day_number;
use kame_core::job::SiteSpec;
use kame_core::problem::Problem;
use kame_core::record::states;
use kame_formats::{CalendarOf, calendar_csv, calendar_ics, read_weather};
use serde::{Deserialize, Serialize};
use std::time::Duration;
use utoipa::{IntoParams, ToSchema};

/// What is asked of a calendar.
#[derive(Clone, Debug, Default, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct CalendarAsk {
    /// Who works when; that of the job where it is left out, and one crew from Monday on where it has none.
    pub site: Option<SiteSpec>,
    /// True for a calendar from nothing, whatever was agreed on.
    pub anew: bool,
    /// Hours of weather as a file, a table or EPW; those of the weather service where it is left out and one is there.
    pub weather: Option<String>,
}

/// A calendar, with what it was laid by.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CalendarAnswer {
    /// Revision of the job.
    pub revision: i64,
    /// Its name.
    pub name: String,
    /// The day on which it was asked.
    pub today: String,
    /// Who works when, as it was taken.
    pub site: SiteSpec,
    /// The calendar.
    pub booking: Booking,
    /// The weather that it was laid by; empty where none is known.
    pub hours: Vec<Hour>,
    /// Where the weather is from, in words.
    pub weather: String,
}

/// The weather service that has not answered by then is not waited for.
const PATIENCE: Duration = Duration::from_secs(3);
/// So many days of weather are asked for.
const DAYS: u32 = 60;

/// Weather of the service beside the instruments, where there is one.
async fn forecast(app: &App, first_day: &str, today: &str) -> Option<Vec<Hour>> {
    let base = app.instruments.as_deref()?;
    let (first, asked) = (day_number(first_day)?, day_number(today)?);
    let at = format!("{base}/weather");
    let days = DAYS.to_string();
    let query = [("first", first.to_string()), ("days", days), ("asked", asked.to_string())];
    let answer = app.http.get(at).query(&query).timeout(PATIENCE).send().await.ok()?;
    let hours: Vec<Hour> = answer.json().await.ok()?;
    odd_hours(&hours).is_none().then_some(hours)
}

/// A job on the calendar.
async fn booked(app: &App, id: i64, ask: CalendarAsk) -> Result<CalendarAnswer, Fault> {
    let now = state(app, id).await?;
    let today = stored(app, |s| Ok(s.today()?)).await?;
    let mut site = ask.site.or_else(|| now.job.site.clone()).unwrap_or_else(|| SiteSpec::usual(&today));
    if ask.anew {
        site.kept = None;
    }
    let problems = site.problems("$.site");
    if !problems.is_empty() {
        return Err(problems.into());
    }
    let (given, service) = match &ask.weather {
        Some(_) => (ask.weather, None),
        None => (None, forecast(app, &site.from, &today).await),
    };
    let here = app.clone();
    about(app, &app.works.long, now, move |now, known, stop| {
        let (hours, weather) = match (given, service) {
            (Some(text), _) => {
                let hours = read_weather(&text, &site.from).map_err(|m| vec![Problem::new("$.weather", m)])?;
                (hours, "from the file".to_owned())
            }
            (None, Some(hours)) => (hours, format!("forecast of {today}, made up")),
            (None, None) => (Vec::new(), "not known: nothing waits for it".to_owned()),
        };
        let made = here.recent.plan(&now)?;
        let entries = here.recent.record(&here.store, id)?;
        let states = states(&made.plan, &entries);
        let asked = Asked { plan: &made.plan, site: &site, hours: &hours, states: &states };
        let booking = book(&asked, &known.evenings, stop)?;
        Ok(CalendarAnswer { revision: now.revision, name: now.job.name.clone(), today, site, booking, hours, weather })
    })
    .await
}

/// Lays what is not done yet, by the record, on the calendar: every step with its crew, its hours and why not sooner; every evening with what has to be
/// covered. Nothing is kept.
#[utoipa::path(post, path = "/api/jobs/{id}/calendar", params(("id" = i64, Path)), request_body = CalendarAsk, responses((status = 200, body = CalendarAnswer), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn calendar(
    State(app): State<App>,
    JobId(id): JobId,
    Json(ask): Json<CalendarAsk>,
) -> Result<Out<CalendarAnswer>, Fault> {
    Ok(Out(booked(&app, id, ask).await?))
}

/// Minutes really taken, by the record, against those of the profile: by who, by the kind of step, and the figure that would say so.
#[utoipa::path(get, path = "/api/jobs/{id}/minutes", params(("id" = i64, Path)), responses((status = 200, body = MinutesTaken), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn minutes_taken(State(app): State<App>, JobId(id): JobId) -> Result<Out<MinutesTaken>, Fault> {
    let now = state(&app, id).await?;
    let place = app.works.of(&now.job).clone();
    let here = app.clone();
    about(&app, &place, now, move |now, _, _| {
        let entries = here.recent.record(&here.store, id)?;
        Ok(Out(learnt(&here.recent.plan(&now)?.plan, &entries)))
    })
    .await
}

/// Of which crew.
#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct OfCrew {
    /// Its number, from 0.
    #[serde(default)]
    pub crew: usize,
}

/// What a crew does, for anybody's calendar program.
#[utoipa::path(get, path = "/api/jobs/{id}/calendar.ics", params(("id" = i64, Path), OfCrew), responses((status = 200, content_type = "text/calendar"), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn calendar_file(
    State(app): State<App>,
    JobId(id): JobId,
    Ask(of): Ask<OfCrew>,
) -> Result<impl IntoResponse, Fault> {
    let answer = booked(&app, id, CalendarAsk::default()).await?;
    let many = answer.booking.crews.len();
    let Some(crew) = answer.booking.crews.get(of.crew) else {
        let message = format!("there is no crew {}: they are numbered from 0 to {}", of.crew, many.saturating_sub(1));
        return Err(vec![Problem::new("$query.crew", message)].into());
    };
    let about = CalendarOf {
        job: id,
        name: &answer.name,
        revision: answer.revision,
        utc_hours: answer.site.stands.utc_hours,
        today: &answer.today,
    };
    let text = calendar_ics(&about, &answer.booking, of.crew);
    Ok(download(&format!("{} {crew}", answer.name), ".ics", "text/calendar; charset=utf-8", text))
}

/// The calendar as a table.
#[utoipa::path(get, path = "/api/jobs/{id}/calendar.csv", params(("id" = i64, Path)), responses((status = 200, content_type = "text/csv"), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn calendar_table(State(app): State<App>, JobId(id): JobId) -> Result<impl IntoResponse, Fault> {
    let answer = booked(&app, id, CalendarAsk::default()).await?;
    let bytes = calendar_csv(&answer.booking).map_err(|e| Fault::Internal(e.to_string()))?;
    Ok(download(&answer.name, "-calendar.csv", "text/csv; charset=utf-8", bytes))
}
