//! Why work on a calendar stands where it stands, what is otherwise than was agreed on, and what should be known of it (handbook 6.1).

use super::deadline::{missed, nowhere};
use super::ground::{Booked, CalendarQuestion, GroundBuilder, TaskPart, stopped};
use super::instance::{After, Instance, Window};
use super::light::is_dark_before;
use super::solve::{Agreed, Calendar, LaidTask, is_moved};
use crate::date::{day_number, minute_said};
use serde::Serialize;
use std::collections::HashMap;

/// A step that is on another day, or somebody else's, than was agreed on.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct MovedTask {
    /// Id of the step.
    pub step: String,
    /// Its title.
    pub title: String,
    /// Id of the opening; empty for the walls.
    pub place: String,
    /// When it was to begin, minutes since midnight of the first day.
    pub was: u32,
    /// Index of the crew that was to do it.
    pub by: usize,
    /// When it begins now.
    pub from: u32,
    /// Index of the crew that does it now.
    pub crew: usize,
    /// Why it cannot be as it was.
    pub why: String,
}

/// What a task is called, with where it is.
fn titled(asked: &CalendarQuestion, part: &TaskPart) -> String {
    let step = &asked.plan.steps[part.step];
    step.opening.as_ref().map_or_else(|| step.title.clone(), |o| format!("{} at {o}", step.title))
}

/// Why a task does not begin sooner, and whether that is a cure.
pub(super) fn why(
    of: &Instance,
    calendar: &Calendar,
    parts: &[TaskPart],
    builder: &GroundBuilder,
    i: usize,
) -> (String, bool) {
    let (t, l) = (&of.tasks[i], &calendar.laid[i]);
    let first = day_number(&builder.asked.site.from).unwrap_or_default();
    let title = |task: usize| titled(builder.asked, &parts[task]);
    let ready = |a: &After| calendar.laid[a.task].to + a.minutes;
    let last = t.after.iter().max_by_key(|a| ready(a));
    let from = last.map_or(0, ready).max(t.earliest);
    if l.from == from {
        return match last.filter(|a| ready(a) == from) {
            Some(a) if a.minutes > 0 => (format!("{} cures until {}.", title(a.task), minute_said(from, first)), true),
            Some(a) => (format!("After {}.", title(a.task)), false),
            None if t.earliest > 0 && !parts[i].because.is_empty() => (parts[i].because.clone(), false),
            None => ("First thing.".into(), false),
        };
    }
    // Where it could begin in the night it waits for the morning, but what it waited for is the cure.
    if let Some(a) = last.filter(|a| a.minutes > 0 && ready(a) == from && ready(a) / 1440 + 1 >= l.from / 1440) {
        let works = &of.crews[l.crew].works;
        if !works.iter().any(|w| w[1] > from && w[0] < l.from) {
            return (format!("{} cures until {}.", title(a.task), minute_said(from, first)), true);
        }
    }
    (in_its_way(of, calendar, parts, builder, i, from, last.map_or(0, ready)), false)
}

/// What was in the way of a task that could have begun at a minute.
fn in_its_way(
    of: &Instance,
    calendar: &Calendar,
    parts: &[TaskPart],
    builder: &GroundBuilder,
    i: usize,
    from: u32,
    ready: u32,
) -> String {
    let (t, l) = (&of.tasks[i], &calendar.laid[i]);
    let first = day_number(&builder.asked.site.from).unwrap_or_default();
    let title = |task: usize| titled(builder.asked, &parts[task]);
    // Something else was in its way: weather, the crew elsewhere, somebody at this place, or nobody at work.
    let inside = |w: &[Window], at: u32| w.iter().any(|w| w[0] <= at && at < w[1]);
    let works = &of.crews[l.crew].works;
    let blocked = (from..l.from)
        .rev()
        .step_by(30)
        .find(|at| inside(works, *at) && t.open.as_deref().is_some_and(|o| !inside(o, *at)));
    if let Some(at) = blocked {
        let hour = builder.asked.hours.iter().position(|h| h.minute <= at && at < h.minute + 60);
        let says = hour
            .and_then(|h| builder.says(parts[i].step, builder.wall(parts[i].step), h))
            .map(|(_, s)| s)
            .unwrap_or_default();
        return format!("{}: {says}", minute_said(at / 60 * 60, first));
    }
    let busy = |other: &LaidTask| other.from < l.from && other.to > from;
    if let Some(j) = (0..of.tasks.len())
        .filter(|j| *j != i && calendar.laid[*j].crew == l.crew && busy(&calendar.laid[*j]))
        .max_by_key(|j| calendar.laid[*j].to)
    {
        return format!(
            "{} is at {} until {}.",
            of.crews[l.crew].name,
            title(j),
            minute_said(calendar.laid[j].to, first)
        );
    }
    if t.earliest > ready && !parts[i].because.is_empty() {
        return parts[i].because.clone();
    }
    if let Some(minutes) = builder.bound.reserved.get(&(l.crew, from / 1440)) {
        return format!(
            "{} covers the wall for the night in the last {minutes} min of that day.",
            of.crews[l.crew].name
        );
    }
    if is_dark_before(builder.asked, &builder.asked.site.crews[l.crew], l.from) {
        return format!("It is dark until {}.", minute_said(l.from, first));
    }
    format!("{}: not at work before.", of.crews[l.crew].name)
}

/// What is otherwise than was agreed on, step by step, each once.
pub(super) fn moved(
    of: &Instance,
    agreed: &[Agreed],
    calendar: &Calendar,
    parts: &[TaskPart],
    builder: &GroundBuilder,
) -> Vec<MovedTask> {
    let mut out: Vec<MovedTask> = Vec::new();
    for (i, was) in agreed.iter().enumerate() {
        let (Some(was), now) = (was, &calendar.laid[i]) else { continue };
        let step = &builder.asked.plan.steps[parts[i].step];
        if !is_moved(&Some(*was), now) || out.iter().any(|m| m.step == step.id) {
            continue;
        }
        out.push(MovedTask {
            step: step.id.clone(),
            title: step.title.clone(),
            place: step.opening.clone().unwrap_or_default(),
            was: was.from,
            by: was.crew,
            from: now.from,
            crew: now.crew,
            why: why(of, calendar, parts, builder, i).0,
        });
    }
    out.sort_by_key(|m| m.from);
    out
}

/// Visits that come too early, with what is still to do then.
fn too_early(asked: &CalendarQuestion, tasks: &[Booked]) -> Vec<String> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let phase: HashMap<&str, crate::trade::Phase> = asked.plan.steps.iter().map(|s| (s.id.as_str(), s.phase)).collect();
    let mut out = Vec::new();
    for v in &asked.site.visits {
        let Some(day) = day_number(&v.on).map(|d| d - first) else { continue };
        let end = u32::try_from((day + 1).max(0)).unwrap_or(0) * 1440;
        let open = |t: &&Booked| {
            let here = v.place.as_ref().is_none_or(|p| t.place == *p);
            here && t.to > end && phase.get(t.step.as_str()).is_some_and(|p| *p < v.before)
        };
        if let Some(last) = tasks.iter().filter(open).max_by_key(|t| t.to) {
            let place = if last.place.is_empty() { "the walls" } else { &last.place };
            out.push(format!(
                "{} comes on {}, before \"{}\" at {place} is done on {}: ask for another day.",
                v.name,
                v.on,
                last.title,
                minute_said(last.to, first)
            ));
        }
    }
    out
}

/// Pins that cannot be kept, with the day it will be.
fn unpinned(asked: &CalendarQuestion, tasks: &[Booked]) -> Vec<String> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let mut out = Vec::new();
    for p in &asked.site.pins {
        let Some(day) = day_number(&p.on).map(|d| d - first) else { continue };
        match tasks.iter().filter(|t| t.step == p.step).max_by_key(|t| t.to) {
            Some(t) if i64::from((t.to - 1) / 1440) != day => {
                out.push(format!(
                    "\"{}\" cannot be done on {}: it ends {}. {}",
                    t.title,
                    p.on,
                    minute_said(t.to, first),
                    t.why
                ));
            }
            Some(_) => {}
            None if asked.plan.steps.iter().any(|s| s.id == p.step) => {}
            None => out.push(format!("{} is pinned and not in the plan any more: take the pin out.", p.step)),
        }
    }
    out
}

/// What should be known: units that have to come again, visits that come too early, pins that cannot be kept.
pub(super) fn warns(asked: &CalendarQuestion, tasks: &[Booked]) -> Vec<String> {
    let mut warns: Vec<String> = stopped(asked.plan, asked.states)
        .into_iter()
        .filter(|o| !asked.site.deliveries.iter().any(|d| d.what == *o))
        .map(|o| format!("{o} waits for another unit: say on which day it comes."))
        .collect();
    warns.extend(too_early(asked, tasks));
    warns.extend(unpinned(asked, tasks));
    warns.extend(missed(asked, tasks));
    warns.extend(nowhere(asked));
    warns.sort();
    warns
}
