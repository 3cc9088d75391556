//! Hours of weather at a place: the sun on each wall, how warm its surface gets, when it is wet (handbook 6.1).

use crate::date::day_number;
use crate::job::Standpoint;
use crate::record::Conditions;
use serde::{Deserialize, Serialize};
use solar_positioning::{Location, SolarPositions, time::JulianDate};

/// An hour of weather. Times are local standard time, as in EPW files: clocks that are put forward are not.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Hour {
    /// When it begins, minutes since midnight of the first day.
    pub minute: u32,
    /// Air, °F.
    pub air_f: f64,
    /// Dew point, °F.
    pub dew_f: f64,
    /// Rain in this hour, inches.
    pub rain_in: f64,
    /// Wind, mph.
    pub wind_mph: f64,
    /// Sun straight from where it stands, W/m² across its beam.
    pub direct_wm2: f64,
    /// Light from the sky on level ground, W/m².
    pub diffuse_wm2: f64,
}

/// A night, from the end of work to the next beginning.
const NIGHT_FROM_H: u32 = 17;
const NIGHT_HOURS: usize = 14;

/// When the night that follows a day begins.
pub(super) const fn evening(day: u32) -> u32 {
    day * 1440 + NIGHT_FROM_H * 60
}

/// The hours of the night that follows a day; none where not all of them are known.
pub(super) fn night_of(hours: &[Hour], day: u32) -> Option<Vec<&Hour>> {
    let from = evening(day);
    let night: Vec<&Hour> =
        hours.iter().filter(|h| h.minute >= from && h.minute < from + NIGHT_HOURS as u32 * 60).collect();
    (night.len() == NIGHT_HOURS).then_some(night)
}

/// Days from the beginning of Julian days to 1970.
const JULIAN_1970: f64 = 2_440_587.5;
/// Earth's time and the clock's differ by so many seconds in these years.
const DELTA_T: f64 = 72.0;

/// Where the sun stands: above the horizon, and from north by east, degrees.
pub fn sun(first_day: &str, minute: u32, at: &Standpoint) -> Option<(f64, f64)> {
    let day = day_number(first_day)? as f64 + f64::from(minute) / 1440.0 - at.utc_hours / 24.0;
    let time = JulianDate::new(JULIAN_1970 + day, DELTA_T).ok()?;
    let place = Location { latitude: at.latitude, longitude: at.longitude };
    let sun = SolarPositions::grena3().at_from_julian(time, place, 0.0, None).ok()?;
    Some((sun.elevation_angle(), sun.azimuth()))
}

/// Part of the sun that a sheet or board takes in.
const TAKES_IN: f64 = 0.6;
/// Heat that a face gives off by itself, W/m² for each K, and more by each m/s of wind (Jürges).
const GIVES_OFF: f64 = 5.7;
const BY_WIND: f64 = 3.8;
const MS_PER_MPH: f64 = 0.44704;

/// How warm the face of a wall gets, °F: the air's, and what of sun and sky the face takes in over what it gives off. `towards` is where it looks,
/// degrees from north by east.
pub fn surface_f(hour: &Hour, sun: Option<(f64, f64)>, towards: f64) -> f64 {
    let beam = sun.filter(|(up, _)| *up > 0.0).map_or(0.0, |(up, round)| {
        let across = up.to_radians().cos() * (round - towards).to_radians().cos();
        hour.direct_wm2 * across.max(0.0)
    });
    // A plumb face sees half of the sky.
    let taken = TAKES_IN * (beam + hour.diffuse_wm2 / 2.0);
    hour.air_f + taken / (GIVES_OFF + BY_WIND * hour.wind_mph * MS_PER_MPH) * 1.8
}

/// Humidity from air and dew point, % (Magnus).
pub fn humidity(air_f: f64, dew_f: f64) -> f64 {
    let e = |f: f64| {
        let t = (f - 32.0) / 1.8;
        (17.62 * t / (243.12 + t)).exp()
    };
    (100.0 * e(dew_f) / e(air_f)).clamp(0.0, 100.0)
}

/// Rain that counts, inches an hour.
pub(super) const RAINS: f64 = 0.005;
/// A wall is wet so many hours after rain.
const DRIES_H: usize = 2;
/// A forecast is looked ahead so far, hours.
const AHEAD_H: usize = 12;

/// What it is like at a face in the hour of that number.
pub fn conditions(hours: &[Hour], n: usize, surface: f64, sunny: bool) -> Conditions {
    let h = &hours[n];
    let rains = |h: &Hour| h.rain_in >= RAINS;
    let lately = hours[n.saturating_sub(DRIES_H)..=n].iter().any(rains);
    let soon = hours[n..].iter().take(AHEAD_H).position(rains);
    Conditions {
        surface_f: Some(surface),
        air_f: Some(h.air_f),
        humidity: Some(humidity(h.air_f, h.dew_f)),
        wet: lately,
        frost: surface <= 32.0 && (lately || h.dew_f >= surface),
        sun: sunny,
        wind_mph: Some(h.wind_mph),
        rain_in_h: soon.map(|s| s as f64),
    }
}

/// What cannot be of hours that were given.
pub fn odd_hours(hours: &[Hour]) -> Option<String> {
    const MOST: usize = 24 * 366;
    if hours.len() > MOST {
        return Some(format!("found {} hours, expected at most {MOST}", hours.len()));
    }
    if let Some(w) = hours.windows(2).find(|w| w[1].minute != w[0].minute + 60) {
        return Some(format!("an hour is missing or twice after minute {}: fill the gap", w[0].minute));
    }
    let odd = |h: &Hour| {
        let in_range = |v: f64, least: f64, most: f64| (least..=most).contains(&v);
        let right = in_range(h.air_f, -80.0, 140.0)
            && in_range(h.dew_f, -100.0, 100.0)
            && in_range(h.rain_in, 0.0, 12.0)
            && in_range(h.wind_mph, 0.0, 200.0)
            && in_range(h.direct_wm2, 0.0, 1400.0)
            && in_range(h.diffuse_wm2, 0.0, 1400.0);
        !right
    };
    hours
        .iter()
        .find(|h| odd(h))
        .map(|h| format!("the hour from minute {} has a value that cannot be: {h:?}", h.minute))
}
