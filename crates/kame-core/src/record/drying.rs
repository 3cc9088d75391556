//! Moisture of wood over days: how it goes, whether it went as was expected, and when it will be dry enough to cover (handbook 6.4, 6.11).

use super::chain::Entry;
use super::clock::{clock, minutes};
use super::event::What;
use super::test::TestKind;
use crate::date::{day_said, day_text};
use crate::profile::{Figures, fig};
use serde::Serialize;
use std::collections::HashSet;

/// So many of the last readings say how it goes: wood dries quickly at first, and slowly later (model).
const LAST: usize = 4;
/// Readings nearer to each other say nothing of how it goes, days: wood answers slowly, and meters stray by half a per cent (model).
const APART: f64 = 0.5;
/// Less in a day is no drying, per cent (model).
const LEAST_A_DAY: f64 = 0.1;
/// Beyond that nobody waits for wood to dry by itself, days (model).
const LONGEST: f64 = 60.0;
const DAY_MIN: f64 = 1440.0;
/// So much of a day is arithmetic, not wood.
const ROUNDING: f64 = 1e-6;

/// A reading of moisture.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct MoistureRead {
    /// When, as it was written down.
    pub at: String,
    /// Days since the first one.
    pub day: f64,
    /// The wettest place, per cent.
    pub most: f64,
}

/// How the moisture of the wood at a place goes.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Drying {
    /// Readings from the first to the last.
    pub reads: Vec<MoistureRead>,
    /// At most so much may be covered, per cent.
    pub allowed: f64,
    /// What the readings before the last one let expect of it, per cent; `null` where they are too few.
    pub expected: Option<f64>,
    /// By so much it becomes drier in a day, per cent; `null` where too few readings say.
    pub per_day: Option<f64>,
    /// The day on which it is likely to be dry enough, as 2026-03-20; `null` where it is, or where nobody can say.
    pub dry_on: Option<String>,
    /// The same in words.
    pub says: String,
}

/// The wettest of a test's rows.
fn most(rows: &[Vec<String>]) -> Option<f64> {
    rows.iter().filter_map(|r| r.first()?.parse::<f64>().ok()).reduce(f64::max)
}

/// The straight line through the last readings, as its value at day 0 and its slope; none where they are too few or too near to each other.
fn line(reads: &[MoistureRead]) -> Option<(f64, f64)> {
    let last = &reads[reads.len().saturating_sub(LAST)..];
    let (first, end) = (last.first()?, last.last()?);
    if end.day - first.day < APART {
        return None;
    }
    let n = last.len() as f64;
    let mean = |of: fn(&MoistureRead) -> f64| last.iter().map(of).sum::<f64>() / n;
    let (day, most) = (mean(|r| r.day), mean(|r| r.most));
    let spread: f64 = last.iter().map(|r| (r.day - day).powi(2)).sum();
    let slope = last.iter().map(|r| (r.day - day) * (r.most - most)).sum::<f64>() / spread;
    Some((most - slope * day, slope))
}

/// Readings of moisture at a place that stand on record and were not corrected, and one that is not written down yet.
fn reads(entries: &[Entry], place: &str, now: Option<(&str, &[Vec<String>])>) -> Vec<MoistureRead> {
    let corrected: HashSet<&str> = entries
        .iter()
        .filter_map(|e| match &e.event.what {
            What::Corrects { id } => Some(id.as_str()),
            _ => None,
        })
        .collect();
    let here = entries.iter().filter(|e| e.event.place == place && !corrected.contains(e.event.id.as_str()));
    // Where a device's clock says what cannot be, the time at which it was taken stands for it.
    let when = |e: &'_ Entry| if clock(e).is_some() { e.taken.clone() } else { e.event.at.clone() };
    let stand = here.filter_map(|e| match &e.event.what {
        What::Test { test: TestKind::Moisture, rows, .. } => Some((when(e), rows.as_slice())),
        _ => None,
    });
    let now = now.map(|(at, rows)| (at.to_owned(), rows));
    let mut all: Vec<(i64, String, f64)> =
        stand.chain(now).filter_map(|(at, rows)| Some((minutes(&at)?, at, most(rows)?))).collect();
    all.sort_by_key(|read| read.0);
    let first = all.first().map_or(0, |read| read.0);
    all.into_iter()
        .map(|(minute, at, most)| MoistureRead { at, day: (minute - first) as f64 / DAY_MIN, most })
        .collect()
}

fn tenth(n: f64) -> f64 {
    (n * 10.0).round() / 10.0
}

/// How the moisture of the wood at a place goes, by what stands on record and one more reading (when, and its rows); none where nobody read any.
pub fn drying(
    entries: &[Entry],
    place: &str,
    now: Option<(&str, &[Vec<String>])>,
    figures: &Figures,
) -> Option<Drying> {
    let reads = reads(entries, place, now);
    let allowed = figures.number(fig::WOOD_MOISTURE);
    let (last, before) = reads.split_last()?;
    let on = |line: (f64, f64), day: f64| tenth(line.0 + line.1 * day);
    let expected = line(before).map(|l| on(l, last.day));
    let goes = line(&reads);
    let per_day = goes.map(|(_, slope)| tenth(-slope));
    let days = goes.filter(|(_, slope)| -slope >= LEAST_A_DAY).map(|(at, slope)| (allowed - at) / slope - last.day);
    let dry_on = days.filter(|d| last.most > allowed && *d <= LONGEST).and_then(|d| {
        let day = (minutes(&last.at)? as f64 / DAY_MIN + d.max(0.0) - ROUNDING).ceil() as i64;
        Some((day_text(day), day_said(day)))
    });
    let seen = expected.map_or(String::new(), |e| format!(" {e} % was to be expected now, {} % is seen.", last.most));
    let says = match (&dry_on, per_day) {
        _ if last.most <= allowed => format!("{} %, {allowed} % at most wanted: dry enough to cover.{seen}", last.most),
        (_, None) => format!(
            "{} %, {allowed} % at most wanted: read it at the same place tomorrow, then it can be said when it is dry.",
            last.most
        ),
        (Some((_, day)), Some(by)) => {
            format!("{} %, {by} % less each day: {allowed} % is likely on {day}.{seen}", last.most)
        }
        (None, Some(by)) if by >= LEAST_A_DAY => {
            format!(
                "{} %, {by} % less each day: {allowed} % is far off. Air and warmth, or other wood.{seen}",
                last.most
            )
        }
        (None, Some(_)) => format!("{} %, and it does not dry: look for what wets it.{seen}", last.most),
    };
    let dry_on = dry_on.map(|(day, _)| day);
    Some(Drying { allowed, expected, per_day, dry_on, says, reads })
}
