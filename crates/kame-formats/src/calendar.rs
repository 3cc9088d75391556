//! The calendar out: a week of a crew in anybody's calendar program (iCalendar, RFC 5545), and all of it as a table.

use icalendar::{Calendar, Component, Event, EventLike};
use kame_core::calendar::{Booked, Booking};
use kame_core::date::{day_number, day_text};
use std::collections::HashMap;

/// Tasks that a crew does at one place without going elsewhere.
struct Stint<'a> {
    place: &'a str,
    from: u32,
    to: u32,
    tasks: Vec<&'a Booked>,
}

/// A pause of more minutes is another stint.
const PAUSE: u32 = 30;

fn stints(booking: &Booking, crew: usize) -> Vec<Stint<'_>> {
    let mut out: Vec<Stint> = Vec::new();
    for t in booking.tasks.iter().filter(|t| t.crew == crew) {
        match out.last_mut() {
            Some(s) if s.place == t.place && s.to / 1440 == t.from / 1440 && t.from <= s.to + PAUSE => {
                s.to = s.to.max(t.to);
                s.tasks.push(t);
            }
            _ => out.push(Stint { place: &t.place, from: t.from, to: t.to, tasks: vec![t] }),
        }
    }
    out
}

/// Minutes since the first day's midnight as a date, with hours and minutes.
fn date(first: i64, minute: i64) -> (String, i64, i64) {
    (day_text(first + minute.div_euclid(1440)), minute.rem_euclid(1440) / 60, minute.rem_euclid(60))
}

/// What a calendar is about.
pub struct CalendarOf<'a> {
    /// Number of the job, which makes its events its own.
    pub job: i64,
    /// Its name.
    pub name: &'a str,
    /// Its revision: a later one takes the place of an earlier.
    pub revision: i64,
    /// Hours of the place from UTC.
    pub utc_hours: f64,
    /// The day on which it is written, as 2026-03-02.
    pub today: &'a str,
}

/// What a crew does, an event for each place it goes to. The same place has the same UID each time, so that a calendar program moves it and does not
/// double it.
pub fn calendar_ics(of: &CalendarOf, booking: &Booking, crew: usize) -> String {
    let first = day_number(&booking.from).unwrap_or_default();
    let utc = |minute: u32| {
        let (day, hour, minute) = date(first, i64::from(minute) - (of.utc_hours * 60.0).round() as i64);
        format!("{}T{hour:02}{minute:02}00Z", day.replace('-', ""))
    };
    let name = booking.crews.get(crew).map_or("", String::as_str);
    let mut calendar = Calendar::new().name(&format!("{}, {name}", of.name)).done();
    let mut times: HashMap<&str, usize> = HashMap::new();
    for s in stints(booking, crew) {
        let n = times.entry(s.place).or_default();
        *n += 1;
        let place = if s.place.is_empty() { "walls" } else { s.place };
        let lines: Vec<String> = s.tasks.iter().map(|t| format!("{}. {}", t.title, t.why)).collect();
        let event = Event::new()
            .uid(&format!("kame-{}-{crew}-{place}-{n}", of.job))
            .summary(&format!("{place}: {}", s.tasks.first().map_or("", |t| &t.title)))
            .description(&lines.join("\n"))
            .location(&format!("{}, {place}", of.name))
            .add_property("DTSTAMP", format!("{}T000000Z", of.today.replace('-', "")))
            .add_property("SEQUENCE", of.revision.to_string())
            .add_property("DTSTART", utc(s.from))
            .add_property("DTEND", utc(s.to))
            .done();
        calendar.push(event);
    }
    calendar.to_string()
}

/// Headings of the calendar as a table.
pub const CALENDAR_COLUMNS: [&str; 8] = ["day", "from", "to", "crew", "place", "trade", "step", "why"];

/// The calendar as a table, a step a row.
///
/// # Errors
/// What the writer says.
pub fn calendar_csv(booking: &Booking) -> Result<Vec<u8>, csv::Error> {
    let first = day_number(&booking.from).unwrap_or_default();
    let mut out = csv::Writer::from_writer(Vec::new());
    out.write_record(CALENDAR_COLUMNS)?;
    for t in &booking.tasks {
        let clock = |minute: u32| {
            let (_, hour, minute) = date(first, i64::from(minute));
            format!("{hour:02}:{minute:02}")
        };
        let trade = serde_json::to_value(t.trade).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default();
        let place = if t.place.is_empty() { "walls" } else { &t.place };
        let crew = booking.crews.get(t.crew).map_or("", String::as_str);
        let day = date(first, i64::from(t.from)).0;
        let row = [&day, &clock(t.from), &clock(t.to), crew, place, &trade, &t.title, &t.why];
        // A cell that begins like a formula is kept a text in a program for tables.
        out.write_record(
            row.map(|c: &str| if c.starts_with(['=', '+', '-', '@']) { format!("'{c}") } else { c.to_owned() }),
        )?;
    }
    out.into_inner().map_err(|e| e.into_error().into())
}
