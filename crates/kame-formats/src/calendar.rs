//! The calendar out: a crew's days in anybody's calendar program (iCalendar, RFC 5545), its weeks on paper, and all of it as a table.

use crate::paper::{Paper, WIDE};
use icalendar::{Calendar, Component, Event, EventLike};
use kame_core::calendar::{Booked, Booking, Days};
use kame_core::date::{day_number, day_said, day_text, weekday};
use std::collections::{BTreeMap, HashMap};

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
    for e in &booking.nights {
        let Some(c) = e.covers.filter(|c| c.crew == crew) else { continue };
        let event = Event::new()
            .uid(&format!("kame-{}-{crew}-night-{}", of.job, day_text(first + i64::from(e.day))))
            .summary(COVER)
            .description(&e.put.join("\n"))
            .location(of.name)
            .add_property("DTSTAMP", format!("{}T000000Z", of.today.replace('-', "")))
            .add_property("SEQUENCE", of.revision.to_string())
            .add_property("DTSTART", utc(c.from))
            .add_property("DTEND", utc(c.to))
            .done();
        calendar.push(event);
    }
    calendar.to_string()
}

/// Headings of the calendar as a table.
pub const CALENDAR_COLUMNS: [&str; 8] = ["day", "from", "to", "crew", "place", "trade", "step", "why"];

fn clock(minute: u32) -> String {
    format!("{:02}:{:02}", minute % 1440 / 60, minute % 60)
}

fn at(place: &str) -> &str {
    if place.is_empty() { "walls" } else { place }
}

/// The calendar as rows with a heading, a step a row; what is covered for the night stands among them.
pub fn calendar_rows(booking: &Booking) -> Vec<Vec<String>> {
    let first = day_number(&booking.from).unwrap_or_default();
    let day = |minute: u32| day_text(first + i64::from(minute / 1440));
    let crew = |n: usize| booking.crews.get(n).cloned().unwrap_or_default();
    let mut rows: Vec<(u32, Vec<String>)> = Vec::new();
    for t in &booking.tasks {
        let trade = serde_json::to_value(t.trade).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default();
        let cells = [&day(t.from), &clock(t.from), &clock(t.to), &crew(t.crew), at(&t.place), &trade, &t.title, &t.why];
        rows.push((t.from, cells.map(|c: &str| c.to_owned()).to_vec()));
    }
    for e in &booking.nights {
        if let Some(c) = &e.covers {
            let put = e.put.join(" ");
            let cells = [&day(c.from), &clock(c.from), &clock(c.to), &crew(c.crew), "walls", "", COVER, &put];
            rows.push((c.from, cells.map(|c: &str| c.to_owned()).to_vec()));
        }
    }
    rows.sort_by_key(|(from, _)| *from);
    let head = CALENDAR_COLUMNS.map(str::to_owned).to_vec();
    std::iter::once(head).chain(rows.into_iter().map(|(_, r)| r)).collect()
}

/// What a night's tape and covers are called.
const COVER: &str = "Cover for the night";

/// A week of a crew on paper, one after another: day by day where it is when, what it does and why not sooner, what to load, and how the wall is left.
pub fn weeks_pdf(of: &CalendarOf, booking: &Booking, days: &Days, crew: usize) -> Vec<u8> {
    let first = day_number(&booking.from).unwrap_or_default();
    let name = booking.crews.get(crew).map_or("", String::as_str);
    let stints = stints(booking, crew);
    let title = format!("{}, {name}", of.name);
    let mut paper = Paper::new(&title);
    let mut weeks: BTreeMap<i64, Vec<u32>> = BTreeMap::new();
    let mut worked: Vec<u32> = stints.iter().map(|s| s.from / 1440).collect();
    worked.dedup();
    for day in worked {
        let number = first + i64::from(day);
        weeks.entry(number - i64::from(weekday(number))).or_default().push(day);
    }
    if weeks.is_empty() {
        paper.text(&title, 16.0, true);
        paper.text("Nothing is left to do.", 11.0, false);
    }
    for (n, (monday, of_week)) in weeks.into_iter().enumerate() {
        if n > 0 {
            paper.page();
        }
        paper.text(&title, 16.0, true);
        paper.text(&format!("Week of {}, as of {}. {}", day_said(monday), of.today, booking.says), 9.0, false);
        for day in of_week {
            let on = day_text(first + i64::from(day));
            paper.need(80.0);
            paper.gap(8.0);
            paper.text(&day_said(first + i64::from(day)), 13.0, true);
            paper.rule();
            for s in stints.iter().filter(|s| s.from / 1440 == day) {
                let when = format!("{} to {}", clock(s.from), clock(s.to));
                let mut what: Vec<&str> = s.tasks.iter().map(|t| t.title.as_str()).collect();
                what.dedup();
                let why = s.tasks.first().map_or("", |t| t.why.as_str());
                let what = format!("{}. {why}", what.join(", "));
                paper.columns(&[(&when, 92.0), (at(s.place), 62.0), (&what, WIDE - 154.0)], 9.5, false);
            }
            let of_day = days.days.iter().find(|d| d.on == on);
            let loads: Vec<String> = of_day
                .iter()
                .flat_map(|d| &d.loads)
                .map(|l| format!("{} × {} {}", l.count, l.called, l.size))
                .collect();
            if !loads.is_empty() {
                paper.columns(&[("Load", 92.0), (&loads.join("; "), WIDE - 92.0)], 9.5, false);
            }
            let night = booking.nights.iter().find(|e| e.day == day);
            if let Some(e) = night.filter(|e| !e.put.is_empty() || !e.why.is_empty()) {
                let says = if e.put.is_empty() { e.why.clone() } else { e.put.join(" ") };
                let by = e.covers.map_or(String::new(), |c| {
                    let who = booking.crews.get(c.crew).map_or("", String::as_str);
                    format!("{who}, {} to {}. ", clock(c.from), clock(c.to))
                });
                paper.columns(&[("For the night", 92.0), (&format!("{by}{says}"), WIDE - 92.0)], 9.5, true);
            }
            for says in of_day.iter().flat_map(|d| &d.indoors) {
                paper.columns(&[("", 92.0), (says, WIDE - 92.0)], 9.5, true);
            }
        }
        paper.gap(10.0);
        paper.text(
            "Ladders, scaffold and wind first: what stands here gives way to them, to local codes and to the maker's instructions.",
            8.0,
            false,
        );
    }
    paper.finish()
}
