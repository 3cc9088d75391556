//! The work on a calendar, with crews, deliveries and weather.

use super::body::{Ask, JobId, JobPart, Json};
use super::files::{CSV, XLSX, download};
use super::jobs::{about, state, stored};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use crate::recent::MadePlan;
use axum::Json as Out;
use axum::extract::State;
use axum::response::{IntoResponse, Response};
use kame_core::calendar::{
    Booking, CalendarQuestion, Effort, Hour, MinutesTaken, at_minute, book, days, lay, learnt, odd_hours, site_of,
};
use kame_core::date::{day_number, day_text};
use kame_core::edit::{Edit, apply};
use kame_core::job::SiteSpec;
use kame_core::problem::Problem;
use kame_core::purchase::{Ordering, order};
use kame_core::record::{StepState, states};
use kame_core::view::{self, WallView, Weather, view_plan};
use kame_formats::{CalendarOf, calendar_ics, calendar_rows, read_weather, table_csv, table_xlsx, weeks_pdf};
use kame_store::JobState;
use serde::{Deserialize, Serialize};
use std::collections::HashSet;
use std::sync::Arc;
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
    /// True for an answer while somebody pulls a bar: few orders are tried, and nights are left out.
    pub quick: bool,
    /// Hours of weather as a file, a table or EPW; those of the weather service where it is left out and one is there.
    pub weather: Option<String>,
    /// A change of the job to try, another way to build it say: laid by the plan as it would be, and not kept.
    pub change: Option<Edit>,
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

/// From which day the weather of days from a first one is told: from today, or from that first day where all of them are long over.
fn told_on(first_day: &str, today: &str) -> String {
    let over = day_number(first_day).zip(day_number(today)).is_some_and(|(f, t)| t >= f + i64::from(DAYS));
    if over { first_day } else { today }.to_owned()
}

/// Weather of the service beside the instruments, where there is one, as it is told on a day.
async fn forecast(app: &App, first_day: &str, told: &str) -> Option<Vec<Hour>> {
    let base = app.instruments.as_deref()?;
    let (first, asked) = (day_number(first_day)?, day_number(told)?);
    let at = format!("{base}/weather");
    let days = DAYS.to_string();
    let query = [("first", first.to_string()), ("days", days), ("asked", asked.to_string())];
    let answer = app.http.get(at).query(&query).timeout(PATIENCE).send().await.ok()?;
    let hours: Vec<Hour> = answer.json().await.ok()?;
    odd_hours(&hours).is_none().then_some(hours)
}

/// What a calendar is laid by, beside the plan: asked for before anything is worked out.
pub struct LaidBy {
    site: Option<SiteSpec>,
    anew: bool,
    quick: bool,
    given: Option<String>,
    service: Option<Vec<Hour>>,
    change: Option<Edit>,
    /// The day on which the weather is told.
    told: String,
    /// The day on which it is asked.
    pub today: String,
}

/// Who works when and what the weather will be.
///
/// # Errors
/// What of the site cannot be.
pub async fn laid_by(app: &App, now: &JobState, ask: CalendarAsk) -> Result<LaidBy, Fault> {
    let today = stored(app, |s| Ok(s.today()?)).await?;
    let problems = ask.site.iter().flat_map(|s| s.problems("$.site")).collect::<Vec<_>>();
    if !problems.is_empty() {
        return Err(problems.into());
    }
    let site = ask.site.or_else(|| now.job.site.clone());
    let first = site.as_ref().map_or(&today, |s| &s.from);
    let told = told_on(first, &today);
    let service = match &ask.weather {
        Some(_) => None,
        None => forecast(app, first, &told).await,
    };
    Ok(LaidBy { site, anew: ask.anew, quick: ask.quick, given: ask.weather, service, change: ask.change, told, today })
}

/// Everything a calendar follows from.
pub struct Ground {
    /// The plan.
    pub made: Arc<MadePlan>,
    /// Who works when.
    pub site: SiteSpec,
    /// The weather.
    pub hours: Vec<Hour>,
    /// Where it is from, in words.
    pub weather: String,
    /// What is done, by the record.
    pub states: Vec<StepState>,
}

impl Ground {
    /// What a calendar follows from for a job as it stands.
    ///
    /// # Errors
    /// What is wrong with the job or its weather.
    pub fn of(app: &App, now: &JobState, by: &LaidBy) -> Result<Self, Fault> {
        let made = match &by.change {
            Some(edit) => {
                let (job, plan) = apply(&now.job, edit)?;
                Arc::new(MadePlan::new(job, plan))
            }
            None => app.recent.plan(now)?,
        };
        let mut site = by.site.clone().unwrap_or_else(|| site_of(&now.job, &made.plan, &by.today));
        if by.anew {
            site.kept = None;
        }
        let (hours, weather) = match (&by.given, &by.service) {
            (Some(text), _) => {
                let hours = read_weather(text, &site.from).map_err(|m| vec![Problem::new("$.weather", m)])?;
                (hours, "from the file".to_owned())
            }
            (None, Some(hours)) => (hours.clone(), format!("forecast of {}, made up", by.told)),
            (None, None) => (Vec::new(), "not known: nothing waits for it".to_owned()),
        };
        let entries = app.recent.record(&app.store, now.id)?;
        let states = states(&made.plan, &entries);
        Ok(Self { made, site, hours, weather, states })
    }

    /// The same as a question.
    pub fn asked(&self) -> CalendarQuestion<'_> {
        CalendarQuestion { plan: &self.made.plan, site: &self.site, hours: &self.hours, states: &self.states }
    }
}

/// A job on the calendar.
async fn booked(app: &App, id: i64, ask: CalendarAsk) -> Result<CalendarAnswer, Fault> {
    let now = state(app, id).await?;
    let by = laid_by(app, &now, ask).await?;
    let here = app.clone();
    // A first look does not wait behind what is laid in full.
    let place = if by.quick { app.works.of(&now.job) } else { &app.works.long };
    about(app, place, now, move |now, known, stop| {
        let ground = Ground::of(&here, &now, &by)?;
        let booking = if by.quick {
            lay(&ground.asked(), Effort::Quick, stop)?
        } else if by.change.is_some() {
            book(&ground.asked(), &known.nights, stop)?
        } else {
            (*here.recent.calendar(&now, &ground.asked(), &known.nights, stop)?).clone()
        };
        let Ground { site, hours, weather, .. } = ground;
        let name = now.job.name.clone();
        Ok(CalendarAnswer { revision: now.revision, name, today: by.today, site, booking, hours, weather })
    })
    .await
}

/// Which steps are done on a day.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct StepsOfDay {
    /// The day, as 2026-03-02.
    pub on: String,
    /// Ids of the steps that begin on it.
    pub steps: Vec<String>,
}

/// Which steps are done on which day of the calendar, without anything else of it.
#[utoipa::path(get, path = "/api/jobs/{id}/days", params(("id" = i64, Path)), responses((status = 200, body = Vec<StepsOfDay>), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn steps_by_day(State(app): State<App>, JobId(id): JobId) -> Result<Out<Vec<StepsOfDay>>, Fault> {
    let now = state(&app, id).await?;
    let by = laid_by(&app, &now, CalendarAsk::default()).await?;
    let here = app.clone();
    about(&app, &app.works.long, now, move |now, known, stop| {
        let ground = Ground::of(&here, &now, &by)?;
        let booking = here.recent.calendar(&now, &ground.asked(), &known.nights, stop)?;
        let first = day_number(&booking.from).unwrap_or_default();
        let mut out: Vec<StepsOfDay> = Vec::new();
        let mut seen = HashSet::new();
        for t in booking.tasks.iter().filter(|t| seen.insert(t.step.as_str())) {
            let on = day_text(first + i64::from(t.from / 1440));
            match out.last_mut() {
                Some(day) if day.on == on => day.steps.push(t.step.clone()),
                _ => out.push(StepsOfDay { on, steps: vec![t.step.clone()] }),
            }
        }
        Ok(Out(out))
    })
    .await
}

/// Lays what is not done yet, by the record, on the calendar: every step with its crew, its hours and why not sooner; every night with what has to be
/// covered. Nothing is kept.
#[utoipa::path(post, path = "/api/jobs/{id}/calendar", params(("id" = i64, Path)), request_body = CalendarAsk, responses((status = 200, body = CalendarAnswer), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn calendar(
    State(app): State<App>,
    JobId(id): JobId,
    Json(ask): Json<CalendarAsk>,
) -> Result<Out<CalendarAnswer>, Fault> {
    Ok(Out(booked(&app, id, ask).await?))
}

/// An hour of a calendar at which the wall is looked at.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HourAsk {
    /// Minutes from midnight of the calendar's first day.
    pub minute: u32,
    /// True where it rains.
    #[serde(default)]
    pub rain: bool,
    /// True for a calendar from nothing, whatever was agreed on.
    #[serde(default)]
    pub anew: bool,
    /// Hours of weather as for the calendar.
    #[serde(default)]
    pub weather: Option<String>,
}

/// The wall as it stands at an hour of the calendar: what is on record, and what is booked to be over by then. Only what changes with the moment is
/// answered.
#[utoipa::path(post, path = "/api/jobs/{id}/calendar/hour", params(("id" = i64, Path)), request_body = HourAsk, responses((status = 200, body = WallView), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn calendar_hour(
    State(app): State<App>,
    JobId(id): JobId,
    Json(ask): Json<HourAsk>,
) -> Result<Out<WallView>, Fault> {
    let now = state(&app, id).await?;
    let calendar = CalendarAsk { anew: ask.anew, weather: ask.weather, ..CalendarAsk::default() };
    let by = laid_by(&app, &now, calendar).await?;
    let here = app.clone();
    about(&app, &app.works.long, now, move |mut now, known, stop| {
        let ground = Ground::of(&here, &now, &by)?;
        let booking = here.recent.calendar(&now, &ground.asked(), &known.nights, stop)?;
        let entries = here.recent.record(&here.store, id)?;
        let plan = &ground.made.plan;
        let (sequence, done) = at_minute(plan, &now.job.sequence, &entries, &booking.tasks, ask.minute);
        let mut then = plan.clone();
        then.put_in_order(&sequence);
        now.job.sequence = sequence;
        let weather = if ask.rain { Weather::Rain } else { Weather::Dry };
        let at = view::Ask { done: Some(done), weather, moment_only: true, ..view::Ask::default() };
        Ok(Out(view_plan(&now.job, &then, &at, known)?))
    })
    .await
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

/// The crew that a file is made for.
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
    let crew = crew_of(&answer.booking, of.crew)?;
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

/// The calendar as a file: `calendar.csv` and `calendar.xlsx`, a step a row; `weeks.pdf`, the weeks of a crew on paper with what to load each day.
#[utoipa::path(get, path = "/api/jobs/{id}/calendar/{file}", params(("id" = i64, Path), ("file" = String, Path), OfCrew), responses((status = 200, content_type = "text/csv"), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn calendar_table(
    State(app): State<App>,
    JobPart(id, file): JobPart,
    Ask(of): Ask<OfCrew>,
) -> Result<Response, Fault> {
    let now = state(&app, id).await?;
    let by = laid_by(&app, &now, CalendarAsk::default()).await?;
    let here = app.clone();
    about(&app, &app.works.long, now, move |now, known, stop| {
        let wrong = |e: String| Fault::Internal(e);
        if !["calendar.csv", "calendar.xlsx", "weeks.pdf"].contains(&file.as_str()) {
            return Err(Fault::NoSuchPlace(format!(
                "there is no file \"{file}\": ask for calendar.csv, calendar.xlsx or weeks.pdf"
            )));
        }
        let ground = Ground::of(&here, &now, &by)?;
        let booking = (*here.recent.calendar(&now, &ground.asked(), &known.nights, stop)?).clone();
        let ending = format!("-{file}");
        let send =
            |kind: &'static str, bytes: Vec<u8>| Ok(download(&now.job.name, &ending, kind, bytes).into_response());
        match file.as_str() {
            "calendar.csv" => {
                send(CSV, table_csv(&calendar_rows(&booking)).map_err(|e| wrong(e.to_string()))?.into_bytes())
            }
            "calendar.xlsx" => {
                send(XLSX, table_xlsx("calendar", &calendar_rows(&booking)).map_err(|e| wrong(e.to_string()))?)
            }
            _ => {
                crew_of(&booking, of.crew)?;
                let hurried = || stop.is_hurried();
                let order = order(&ground.made.plan, &now.job.kit, &Ordering { stop: &hurried, ..Ordering::default() });
                let days = days(&ground.asked(), &booking, &order, &by.today);
                let about = CalendarOf {
                    job: id,
                    name: &now.job.name,
                    revision: now.revision,
                    utc_hours: ground.site.stands.utc_hours,
                    today: &by.today,
                };
                send("application/pdf", weeks_pdf(&about, &booking, &days, of.crew))
            }
        }
    })
    .await
}

/// The name of a crew.
fn crew_of(booking: &Booking, crew: usize) -> Result<&str, Fault> {
    booking.crews.get(crew).map(String::as_str).ok_or_else(|| {
        let most = booking.crews.len().saturating_sub(1);
        let message = format!("there is no crew {crew}: they are numbered from 0 to {most}");
        Fault::Refused(vec![Problem::new("$query.crew", message)])
    })
}
