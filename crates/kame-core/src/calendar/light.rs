//! Daylight: from when to when somebody sees what they do, and when crews work in it (handbook 6.1).

use super::ground::CalendarQuestion;
use super::instance::Window;
use super::weather::sun;
use crate::date::{day_number, weekday};
use crate::job::{CrewSpec, SiteSpec};
use crate::profile::fig;

const DAY: u32 = 1440;

/// From dawn to dusk of a day, minutes from midnight of the first day: as long as the sun is no farther below the horizon than so many degrees.
/// The whole day where it is light at midnight, or dark at noon.
pub fn daylight(site: &SiteSpec, day: u32, below: f64) -> Window {
    let up = |minute: u32| sun(&site.from, minute, &site.stands).is_none_or(|(up, _)| up >= -below);
    let (first, last) = (day * DAY, (day + 1) * DAY);
    // The sun goes a degree in four minutes.
    let noon = f64::from(DAY / 2) - 4.0 * (site.stands.longitude - 15.0 * site.stands.utc_hours);
    let noon = first + (noon.round().clamp(0.0, f64::from(DAY - 1))) as u32;
    if !up(noon) {
        return [first, last];
    }
    // To the minute, between one that is dark and one that is light.
    let between = |mut dark: u32, mut light: u32| {
        while dark.abs_diff(light) > 1 {
            let middle = u32::midpoint(dark, light);
            if up(middle) { light = middle } else { dark = middle }
        }
        light
    };
    let dawn = if up(first) { first } else { between(first, noon) };
    let dusk = if up(last) { last } else { between(last, noon) };
    [dawn, dusk]
}

/// When a crew works on a day; none where it does not come, or its hours are all dark.
pub(super) fn working(asked: &CalendarQuestion, crew: &CrewSpec, day: u32) -> Option<Window> {
    working_longer(asked, crew, day, 0)
}

/// The same where the crew stays longer by so many minutes.
pub(super) fn working_longer(asked: &CalendarQuestion, crew: &CrewSpec, day: u32, longer: u32) -> Option<Window> {
    let first = day_number(&asked.site.from).unwrap_or_default() + i64::from(day);
    let off = crew.off.iter().filter_map(|d| day_number(d)).any(|d| d == first);
    if off || !crew.weekends && weekday(first) >= 5 {
        return None;
    }
    let minute = |h: f64| day * DAY + (h * 60.0).round() as u32;
    let [mut from, mut to] = crew.hours.map(minute);
    to = (to + longer).min((day + 1) * DAY);
    if asked.site.daylight {
        let [dawn, dusk] = daylight(asked.site, day, asked.plan.basis.figures.number(fig::LIGHT_BELOW));
        (from, to) = (from.max(dawn), to.min(dusk));
    }
    (from < to).then_some([from, to])
}

/// True where a crew begins at a minute because it was dark before.
pub(super) fn is_dark_before(asked: &CalendarQuestion, crew: &CrewSpec, minute: u32) -> bool {
    let own = (crew.hours[0] * 60.0).round() as u32;
    working(asked, crew, minute / DAY).is_some_and(|[from, _]| from == minute && from % DAY > own)
}
