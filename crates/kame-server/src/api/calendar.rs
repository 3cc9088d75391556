//! The work on a calendar, with crews, deliveries and weather.

use super::body::{JobId, Json};
use super::jobs::{about, state, stored};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use kame_core::calendar::{Asked, Booking, Hour, book, odd_hours};
use kame_core::date::day_number;
use kame_core::job::SiteSpec;
use kame_core::problem::Problem;
use kame_core::record::states;
use kame_formats::read_weather;
use serde::{Deserialize, Serialize};
use std::time::Duration;
use utoipa::ToSchema;

/// What is asked of a calendar.
#[derive(Clone, Debug, Default, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct CalendarAsk {
    /// Who works when; that of the job where it is left out, and one crew from Monday on where it has none.
    pub site: Option<SiteSpec>,
    /// Hours of weather as a file, a table or EPW; those of the weather service where it is left out and one is there.
    pub weather: Option<String>,
}

/// A calendar, with what it was laid by.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CalendarAnswer {
    /// Revision of the job.
    pub revision: i64,
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

/// Lays what is not done yet, by the record, on the calendar: every step with its crew, its hours and why not sooner; every evening with what has to be
/// covered. Nothing is kept.
#[utoipa::path(post, path = "/api/jobs/{id}/calendar", params(("id" = i64, Path)), request_body = CalendarAsk, responses((status = 200, body = CalendarAnswer), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn calendar(
    State(app): State<App>,
    JobId(id): JobId,
    Json(ask): Json<CalendarAsk>,
) -> Result<Out<CalendarAnswer>, Fault> {
    let now = state(&app, id).await?;
    let today = stored(&app, |s| Ok(s.today()?)).await?;
    let site = ask.site.or_else(|| now.job.site.clone()).unwrap_or_else(|| SiteSpec::usual(&today));
    let problems = site.problems("$.site");
    if !problems.is_empty() {
        return Err(problems.into());
    }
    let (given, service) = match &ask.weather {
        Some(_) => (ask.weather, None),
        None => (None, forecast(&app, &site.from, &today).await),
    };
    let here = app.clone();
    about(&app, &app.works.long, now, move |now, known, stop| {
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
        Ok(Out(CalendarAnswer { revision: now.revision, site, booking, hours, weather }))
    })
    .await
}
