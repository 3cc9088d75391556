//! Every night of a calendar: the wall as it stands then, rained on, and who covers it when (handbook 4.9, 6.1).

use super::ground::{Booked, CalendarQuestion};
use super::light::working;
use super::weather::{RAINS, night_of};
use super::worked::overtime_of;
use crate::date::{day_number, day_said};
use crate::job::SequenceSpec;
use crate::nights::{KnownNights, Night, NightState, nights_after};
use crate::problem::Problem;
use crate::profile::fig;
use crate::record::StepNow;
use serde::Serialize;
use std::collections::HashMap;

/// A night on the calendar.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct NightPlan {
    /// Which day, from 0.
    pub day: u32,
    /// How the wall may be left.
    pub state: NightState,
    /// What rain does to it as it is; empty where it stays dry.
    pub why: String,
    /// What to put on it.
    pub put: Vec<String>,
    /// Rain that comes in the night, inches; `null` where no weather is known.
    pub rain_in: Option<f64>,
    /// Who puts it on, and when: the last thing of the day. None where there is nothing to put, or nobody is at work that day.
    pub covers: Option<Covering>,
}

/// Tape and covers of a night as work.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Covering {
    /// Index of the crew.
    pub crew: usize,
    /// From when, minutes since midnight of the first day.
    pub from: u32,
    /// Until when.
    pub to: u32,
}

/// Who puts so many things on: whoever is at work last that day, once that is done.
fn covering(asked: &CalendarQuestion, tasks: &[Booked], day: u32, many: usize) -> Option<Covering> {
    let last = tasks.iter().filter(|t| (t.to - 1) / 1440 == day).max_by_key(|t| t.to)?;
    let people = asked.site.crews[last.crew].people.max(1);
    let minutes = asked.plan.basis.figures.number(fig::NIGHT_COVER_MINUTES) * many as f64 / f64::from(people);
    (many > 0).then(|| Covering { crew: last.crew, from: last.to, to: last.to + minutes.ceil() as u32 })
}

/// A night's covering that reaches beyond its crew's hours.
pub(super) struct Beyond {
    /// Index of the crew.
    pub crew: usize,
    /// Which day, from 0.
    pub day: u32,
    /// Minutes that the covering takes.
    pub takes: u32,
    /// Minutes of it beyond their hours.
    pub over: u32,
}

/// Days on whose nights it rains on a wall that is bare.
pub(super) fn bare_in_rain(nights: &[NightPlan]) -> impl Iterator<Item = u32> {
    let bare = |n: &&NightPlan| n.state == NightState::Bare && n.rain_in.is_some_and(|rain| rain >= RAINS);
    nights.iter().filter(bare).map(|n| n.day)
}

/// Coverings that reach beyond their crews' hours.
pub(super) fn beyond_hours(asked: &CalendarQuestion, nights: &[NightPlan]) -> Vec<Beyond> {
    let over = |c: Covering| {
        let day = c.from / 1440;
        let ends = working(asked, &asked.site.crews[c.crew], day).map_or(c.from, |w| w[1]);
        let over = c.to.saturating_sub(ends);
        (over > 0).then_some(Beyond { crew: c.crew, day, takes: c.to - c.from, over })
    };
    nights.iter().filter_map(|e| over(e.covers?)).collect()
}

/// What is covered after a crew's day has ended, told once for each crew.
pub(super) fn overtime(asked: &CalendarQuestion, nights: &[NightPlan]) -> Vec<String> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let mut out: Vec<(usize, Vec<String>, u32)> = Vec::new();
    for b in beyond_hours(asked, nights) {
        let day = day_said(first + i64::from(b.day));
        match out.iter_mut().find(|o| o.0 == b.crew) {
            Some(o) => {
                o.1.push(day);
                o.2 = o.2.max(b.over);
            }
            None => out.push((b.crew, vec![day], b.over)),
        }
    }
    let says = |(crew, days, most): (usize, Vec<String>, u32)| {
        let (name, days) = (&asked.site.crews[crew].name, days.join(", "));
        if most <= overtime_of(&asked.site.crews[crew]) {
            return format!("{name} stays to cover for the night, {most} min at most, as it may: {days}.");
        }
        format!(
            "{name} covers for the night beyond its hours, {most} min at most: {days}. End work sooner, or have the hour for it."
        )
    };
    out.into_iter().map(says).collect()
}

/// Every night from the first day to the last: the wall as it stands then, rained on.
pub(super) fn each_night(
    asked: &CalendarQuestion,
    tasks: &[Booked],
    known: &KnownNights,
) -> Result<Vec<NightPlan>, Vec<Problem>> {
    let plan = asked.plan;
    let over: Vec<String> = asked
        .states
        .iter()
        .filter(|s| !matches!(s.now, StepNow::Open | StepNow::InHand | StepNow::LeftOut))
        .map(|s| s.step.clone())
        .collect();
    let mut ends: HashMap<&str, u32> = HashMap::new();
    for t in tasks {
        let end = ends.entry(t.step.as_str()).or_default();
        *end = (*end).max(t.to);
    }
    let mut booked: Vec<(&str, u32)> = ends.iter().map(|(s, e)| (*s, *e)).collect();
    let rank: HashMap<&str, usize> =
        plan.order.iter().enumerate().map(|(n, s)| (plan.steps[*s].id.as_str(), n)).collect();
    booked.sort_by_key(|(s, e)| (*e, rank.get(s).copied()));
    let mut order = over;
    order.extend(booked.iter().map(|(s, _)| (*s).to_owned()));
    order.extend(
        plan.order.iter().map(|s| plan.steps[*s].id.clone()).filter(|id| !order.contains(id)).collect::<Vec<_>>(),
    );
    let mut as_booked = plan.clone();
    as_booked.put_in_order(&SequenceSpec { order, removed: plan.removed.iter().cloned().collect() });
    // Also on days on which nobody comes the wall stands as it was left.
    let day = |e: &u32| (e - 1) / 1440;
    let days = booked.first().map_or(0, |(_, e)| day(e))..=booked.last().map_or(0, |(_, e)| day(e));
    let rain = |day: u32| night_of(asked.hours, day).map(|night| night.iter().map(|h| h.rain_in).sum());
    // By the last step that is over on each day, how much of the work is done then.
    let mut done_by: HashMap<&str, usize> = HashMap::new();
    for (n, (step, _)) in as_booked.actions().enumerate() {
        done_by.insert(as_booked.steps[step].id.as_str(), n + 1);
    }
    let last_of = |day: u32| booked.iter().rev().find(|(_, e)| (e - 1) / 1440 <= day);
    let evenings: Vec<(u32, usize)> = days.filter_map(|day| Some((day, *done_by.get(last_of(day)?.0)?))).collect();
    let mut asked_of: Vec<usize> = evenings.iter().map(|(_, done)| *done).collect();
    asked_of.sort_unstable();
    asked_of.dedup();
    let found = nights_after(&as_booked, &asked_of, known).map_err(|m| vec![Problem::new("$", m)])?;
    let by_done: HashMap<usize, &Night> = found.iter().map(|n| (n.done, n)).collect();
    let mut out = Vec::new();
    for (day, done) in evenings {
        let Some(night) = by_done.get(&done) else { continue };
        out.push(NightPlan {
            day,
            state: night.state,
            why: night.why.clone(),
            put: night.temporary.iter().map(|t| t.words.clone()).collect(),
            rain_in: rain(day),
            covers: covering(asked, tasks, day, night.temporary.len()),
        });
    }
    Ok(out)
}
