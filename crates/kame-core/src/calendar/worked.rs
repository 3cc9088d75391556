//! What crews work in all: hours, those beyond their day, and what they cost.

use super::ground::{Booked, CalendarQuestion};
use crate::date::{day_number, day_said};
use crate::job::CrewSpec;
use crate::profile::fig;
use serde::Serialize;
use std::collections::BTreeMap;

const DAY: u32 = 1440;

/// What a crew works in all.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CrewHours {
    /// Its name.
    pub crew: String,
    /// Hours of all its people, those beyond their day among them.
    pub hours: f64,
    /// Hours of all its people beyond their day.
    pub overtime: f64,
    /// What they cost, in the currency of the kit's prices; `null` where nobody says what an hour costs.
    pub cost: Option<f64>,
    /// The same in words.
    pub says: String,
}

/// By how many minutes a crew may stay longer on a day.
pub(super) fn overtime_of(crew: &CrewSpec) -> u32 {
    (crew.overtime * 60.0).round() as u32
}

/// What each crew works at its tasks, by day: minutes, and those of them beyond its day. Covers for the night are not among them: where something is
/// only tried, nobody has looked at its nights yet.
fn minutes(asked: &CalendarQuestion, tasks: &[Booked]) -> Vec<BTreeMap<u32, (u32, u32)>> {
    let mut out = vec![BTreeMap::new(); asked.site.crews.len()];
    for (crew, from, to) in tasks.iter().map(|t| (t.crew, t.from, t.to)) {
        let day = from / DAY;
        let ends = day * DAY + (asked.site.crews[crew].hours[1] * 60.0).round() as u32;
        let (all, beyond): &mut (u32, u32) = out[crew].entry(day).or_default();
        *all += to - from;
        *beyond += to.saturating_sub(ends.max(from));
    }
    out
}

fn in_tenths(hours: f64) -> f64 {
    (hours * 10.0).round() / 10.0
}

/// What each crew works in all.
pub(super) fn hours_of(asked: &CalendarQuestion, tasks: &[Booked]) -> Vec<CrewHours> {
    let figure = |id| asked.plan.basis.figures.number(id);
    let more = figure(fig::OVERTIME_RATE) / 100.0;
    let usual = Some(figure(fig::CREW_RATE)).filter(|rate| *rate > 0.0);
    let one = |(crew, days): (&CrewSpec, BTreeMap<u32, (u32, u32)>)| {
        let people = f64::from(crew.people);
        let sum = |of: fn(&(u32, u32)) -> u32| days.values().map(of).sum::<u32>();
        let hours = f64::from(sum(|d| d.0)) / 60.0 * people;
        let overtime = f64::from(sum(|d| d.1)) / 60.0 * people;
        let cost = crew.rate.or(usual).map(|rate| ((hours + overtime * (more - 1.0)) * rate).round());
        let who = if crew.people == 1 { "1 person".to_owned() } else { format!("{} people", crew.people) };
        let mut says = format!("{}, {who}: {} h of work", crew.name, in_tenths(hours));
        if overtime > 0.0 {
            says += &format!(", {} h of it beyond their day", in_tenths(overtime));
        }
        if let Some(cost) = cost {
            says += &format!(", at a cost of {cost}");
        }
        CrewHours { crew: crew.name.clone(), hours: in_tenths(hours), overtime: in_tenths(overtime), cost, says }
    };
    asked.site.crews.iter().zip(minutes(asked, tasks)).map(one).collect()
}

/// Which crews stay longer at their work and on which days, a sentence each.
pub(super) fn overtime_said(asked: &CalendarQuestion, tasks: &[Booked]) -> Vec<String> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let one = |(crew, days): (&CrewSpec, BTreeMap<u32, (u32, u32)>)| {
        let longer: Vec<(u32, u32)> = days.into_iter().filter(|(_, d)| d.1 > 0).map(|(day, d)| (day, d.1)).collect();
        let most = longer.iter().map(|(_, m)| *m).max()?;
        let days: Vec<String> = longer.iter().map(|(day, _)| day_said(first + i64::from(*day))).collect();
        Some(format!(
            "{} stay longer, {most} min at most: {}. Without that more would be late, or in the open for too long.",
            crew.name,
            days.join(", ")
        ))
    };
    asked.site.crews.iter().zip(minutes(asked, tasks)).filter_map(one).collect()
}
