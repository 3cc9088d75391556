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
    /// Hours of those who cover the wall for the night, beside the others; 0 where nobody has looked at its nights.
    pub covering: f64,
    /// What those cost.
    pub covering_cost: Option<f64>,
    /// What they work and what it costs, in words. Covering is not in it: it is held against what is only tried.
    pub says: String,
    /// What they cover, in words; empty where nothing.
    pub covering_says: String,
}

/// By how many minutes a crew may stay longer on a day.
pub(super) fn overtime_of(crew: &CrewSpec) -> u32 {
    (crew.overtime * 60.0).round() as u32
}

/// What each crew works, by day: minutes, and those of them beyond its day. Each stretch of work is a crew, from when and until when.
fn minutes(asked: &CalendarQuestion, work: impl Iterator<Item = (usize, u32, u32)>) -> Vec<BTreeMap<u32, (u32, u32)>> {
    let mut out = vec![BTreeMap::new(); asked.site.crews.len()];
    for (crew, from, to) in work {
        let day = from / DAY;
        let ends = day * DAY + (asked.site.crews[crew].hours[1] * 60.0).round() as u32;
        let (all, beyond): &mut (u32, u32) = out[crew].entry(day).or_default();
        *all += to - from;
        *beyond += to.saturating_sub(ends.max(from));
    }
    out
}

fn at_tasks(tasks: &[Booked]) -> impl Iterator<Item = (usize, u32, u32)> {
    tasks.iter().map(|t| (t.crew, t.from, t.to))
}

fn in_tenths(hours: f64) -> f64 {
    (hours * 10.0).round() / 10.0
}

/// What each crew works in all. Covering for the night stands apart: where something is only tried, nobody has looked at its nights yet.
pub(super) fn hours_of(
    asked: &CalendarQuestion,
    tasks: &[Booked],
    covers: impl Iterator<Item = (usize, u32, u32)>,
) -> Vec<CrewHours> {
    let figure = |id| asked.plan.basis.figures.number(id);
    let more = figure(fig::OVERTIME_RATE) / 100.0;
    let usual = Some(figure(fig::CREW_RATE)).filter(|rate| *rate > 0.0);
    type Days = BTreeMap<u32, (u32, u32)>;
    let one = |((crew, days), nights): ((&CrewSpec, Days), Days)| {
        let people = f64::from(crew.people);
        // Hours, those beyond their day among them, and what they cost.
        let sum = |days: &Days| {
            let (all, beyond) = days.values().fold((0, 0), |(all, beyond), d| (all + d.0, beyond + d.1));
            let (hours, beyond) = (f64::from(all) / 60.0 * people, f64::from(beyond) / 60.0 * people);
            (hours, beyond, crew.rate.or(usual).map(|rate| ((hours + beyond * (more - 1.0)) * rate).round()))
        };
        let ((hours, overtime, cost), (covering, _, covering_cost)) = (sum(&days), sum(&nights));
        let who = if crew.people == 1 { "1 person".to_owned() } else { format!("{} people", crew.people) };
        let mut says = format!("{}, {who}: {} h of work", crew.name, in_tenths(hours));
        if overtime > 0.0 {
            says += &format!(", {} h of it beyond their day", in_tenths(overtime));
        }
        if let Some(cost) = cost {
            says += &format!(", at a cost of {cost}");
        }
        let at = covering_cost.map_or_else(String::new, |cost| format!(", at a cost of {cost}"));
        let covers = format!("{} h to cover for the night{at}", in_tenths(covering));
        let covering_says = if covering > 0.0 { covers } else { String::new() };
        let [hours, overtime, covering] = [hours, overtime, covering].map(in_tenths);
        CrewHours { crew: crew.name.clone(), hours, overtime, cost, covering, covering_cost, says, covering_says }
    };
    let (at_work, at_night) = (minutes(asked, at_tasks(tasks)), minutes(asked, covers));
    asked.site.crews.iter().zip(at_work).zip(at_night).map(one).collect()
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
    asked.site.crews.iter().zip(minutes(asked, at_tasks(tasks))).filter_map(one).collect()
}
