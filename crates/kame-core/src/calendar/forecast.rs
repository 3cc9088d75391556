//! The forecast that a calendar was laid by, day by day, and what of it is otherwise than when a calendar was agreed on (handbook 6.1).

use super::ground::CalendarQuestion;
use super::weather::Hour;
use crate::date::{day_number, day_said, day_text};
use crate::job::{KeptDay, MOST_DATES};
use crate::profile::fig;

const DAY: u32 = 1440;
/// Days after the end of work that belong to the forecast of a calendar.
const AFTER: u32 = 2;

/// The hours of a day whose air is told. The same for every crew, so that other hours of a crew are not told as another forecast.
const TOLD_H: std::ops::Range<u32> = 6..18;

/// A day of a forecast by its number from the first day, which is day `first`; `None` where not all of its hours are known.
fn day(asked: &CalendarQuestion, day: u32, first: i64) -> Option<KeptDay> {
    let of: Vec<&Hour> = asked.hours.iter().filter(|h| h.minute / DAY == day).collect();
    let worked = || of.iter().filter(|h| TOLD_H.contains(&(h.minute % DAY / 60))).map(|h| h.air_f);
    (of.len() == 24).then(|| KeptDay {
        on: day_text(first + i64::from(day)),
        rain_in: (of.iter().map(|h| h.rain_in).sum::<f64>() * 100.0).round() / 100.0,
        least_f: worked().fold(f64::INFINITY, f64::min).round(),
        most_f: worked().fold(f64::NEG_INFINITY, f64::max).round(),
        wind_mph: of.iter().map(|h| h.wind_mph).fold(0.0, f64::max).round(),
    })
}

/// The forecast up to some days after the end of work.
pub(super) fn forecast(asked: &CalendarQuestion, finish: u32) -> Vec<KeptDay> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    (0..=finish / DAY + AFTER).filter_map(|d| day(asked, d, first)).take(MOST_DATES).collect()
}

/// Days that are forecast otherwise than when the calendar was agreed on, a sentence each.
pub(super) fn changed(asked: &CalendarQuestion) -> Vec<String> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let kept = asked.site.kept.iter().flat_map(|k| &k.forecast);
    let figure = |id| asked.plan.basis.figures.number(id);
    let (same_rain, same_f, same_mph) =
        (figure(fig::FORECAST_RAIN) / 100.0, figure(fig::FORECAST_DEGREES), figure(fig::FORECAST_MPH));
    let one = |was: &KeptDay| {
        let number = day_number(&was.on)?;
        let now = day(asked, u32::try_from(number - first).ok()?, first)?;
        let differs = |a: f64, b: f64, by: f64| (a - b).abs() >= by;
        let mut says = Vec::new();
        if differs(now.rain_in, was.rain_in, same_rain) {
            says.push(format!("{:.2} in of rain, where {:.2} was forecast", now.rain_in, was.rain_in));
        }
        if differs(now.least_f, was.least_f, same_f) || differs(now.most_f, was.most_f, same_f) {
            let (a, b) = ((now.least_f, now.most_f), (was.least_f, was.most_f));
            says.push(format!("{} to {} °F, where {} to {} was forecast", a.0, a.1, b.0, b.1));
        }
        if differs(now.wind_mph, was.wind_mph, same_mph) {
            says.push(format!("wind up to {} mph, where {} was forecast", now.wind_mph, was.wind_mph));
        }
        (!says.is_empty()).then(|| format!("{}: {}.", day_said(number), says.join("; ")))
    };
    kept.filter_map(one).collect()
}
