//! Days by which something has to be done: what of it is late, and the smallest change that would meet it (handbook 6.1).

use super::ground::{Booked, CalendarQuestion};
use crate::date::{day_number, minute_said};
use crate::job::{CrewSpec, Deadline, Delivery, SiteSpec};
use crate::trade::{Phase, Step};

const DAY: u32 = 1440;
/// No crew is asked to work longer, hours.
const LONGEST_DAY: f64 = 12.0;

/// The midnight after a deadline's day, minutes from midnight of the first day; nought where the day is before that.
fn ends(site: &SiteSpec, deadline: &Deadline) -> u32 {
    let day = day_number(&deadline.on).unwrap_or_default() - day_number(&site.from).unwrap_or_default();
    u32::try_from((day + 1).max(0)).unwrap_or(0) * DAY
}

/// True where a deadline speaks of work of a phase at a place.
fn is_of(deadline: &Deadline, phase: Phase, place: Option<&str>) -> bool {
    deadline.until.is_none_or(|until| phase <= until) && deadline.place.as_deref().is_none_or(|p| place == Some(p))
}

/// By when a step has to be done.
pub(super) fn latest(site: &SiteSpec, step: &Step) -> Option<u32> {
    let here = site.deadlines.iter().filter(|d| is_of(d, step.phase, step.opening.as_deref()));
    here.map(|d| ends(site, d)).min()
}

/// The last task that a deadline asks for and that is late for it.
fn last_late<'a>(asked: &CalendarQuestion, deadline: &Deadline, tasks: &'a [Booked]) -> Option<&'a Booked> {
    let by = ends(asked.site, deadline);
    let phase = |t: &Booked| asked.plan.steps.iter().find(|s| s.id == t.step).map(|s| s.phase);
    let place = |t: &'a Booked| Some(t.place.as_str()).filter(|p| !p.is_empty());
    let late = tasks.iter().filter(|t| t.to > by && phase(t).is_some_and(|p| is_of(deadline, p, place(t))));
    late.max_by_key(|t| t.to)
}

/// What comes only once a deadline is over, and is not for another place.
fn comes_after<'a>(site: &'a SiteSpec, deadline: &'a Deadline) -> impl Iterator<Item = &'a Delivery> {
    let by = day_number(&deadline.on);
    let here = move |d: &&Delivery| deadline.place.as_ref().is_none_or(|p| d.what == *p) && day_number(&d.on) > by;
    site.deliveries.iter().filter(here)
}

/// Deadlines that are not met, each with what is late for it.
pub(super) fn missed(asked: &CalendarQuestion, tasks: &[Booked]) -> Vec<String> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let one = |d: &Deadline| {
        let t = last_late(asked, d, tasks)?;
        let place = if t.place.is_empty() { "the walls" } else { &t.place };
        let mut says = format!(
            "{} is asked for by {}, and \"{}\" at {place} is done on {}. {}",
            d.name,
            d.on,
            t.title,
            minute_said(t.to, first),
            t.why
        );
        // Nobody can be done before what they need is there.
        for late in comes_after(asked.site, d) {
            says += &format!(" {} comes on {}: ask for it sooner.", late.what, late.on);
        }
        Some(says)
    };
    asked.site.deadlines.iter().filter_map(one).collect()
}

/// By how many minutes deadlines are missed, all of them together.
pub(super) fn missed_by(asked: &CalendarQuestion, tasks: &[Booked]) -> i64 {
    let late = |d: &Deadline| last_late(asked, d, tasks).map(|t| i64::from(t.to) - i64::from(ends(asked.site, d)));
    asked.site.deadlines.iter().filter_map(late).sum()
}

/// Deadlines of a place that is not on the walls.
pub(super) fn nowhere(asked: &CalendarQuestion) -> Vec<String> {
    let known = |place: &str| asked.plan.openings.iter().any(|o| o.id == place);
    let one = |d: &Deadline| {
        let place = d.place.as_deref().filter(|p| !known(p))?;
        Some(format!("{} is asked for at {place}, which is not on the walls: choose another place.", d.name))
    };
    asked.site.deadlines.iter().filter_map(one).collect()
}

/// Changes that make work go faster, the smallest first, each in words.
fn faster(site: &SiteSpec) -> Vec<(String, SiteSpec)> {
    let with = |change: &dyn Fn(&mut CrewSpec)| {
        let mut next = site.clone();
        next.crews.iter_mut().for_each(change);
        next
    };
    let longer = |hours: f64| {
        with(&|c| c.hours[1] = (c.hours[1] + hours).min(c.hours[0] + LONGEST_DAY).min(24.0).max(c.hours[1]))
    };
    let mut out = vec![
        ("an hour more each day".to_owned(), longer(1.0)),
        ("work on Saturdays and Sundays".to_owned(), with(&|c| c.weekends = true)),
        ("two hours more each day".to_owned(), longer(2.0)),
    ];
    for n in 0..site.crews.len() {
        let mut next = site.clone();
        next.crews[n].people += 1;
        out.push((format!("one more in {}", site.crews[n].name), next));
    }
    let mut next = site.clone();
    let more = site.crews.iter().map(|c| CrewSpec { name: format!("{} 2", c.name), ..c.clone() });
    next.crews.extend(more);
    out.push((
        if site.crews.len() == 1 { "a second crew like the first".into() } else { "each crew twice".into() },
        next,
    ));
    out.retain(|(_, next)| next != site && next.problems("").is_empty());
    out
}

/// For deadlines that are not met: the smallest change of those that can be tried that would meet all of them. `lay` lays the work by another site.
pub(super) fn would_meet(
    asked: &CalendarQuestion,
    tasks: &[Booked],
    lay: &dyn Fn(&SiteSpec) -> Option<Vec<Booked>>,
) -> Option<String> {
    if missed(asked, tasks).is_empty() {
        return None;
    }
    let meets = |site: &SiteSpec| {
        let asked = CalendarQuestion { site, ..*asked };
        lay(site).is_some_and(|tasks| missed(&asked, &tasks).is_empty())
    };
    Some(match faster(asked.site).into_iter().find(|(_, site)| meets(site)) {
        Some((words, _)) => format!("All that is asked for by a day would be met with {words}."),
        None => "Neither longer days, weekends, one more in a crew nor a second crew would meet what is asked for by a day: ask for another day.".into(),
    })
}
