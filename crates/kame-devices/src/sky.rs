//! Made-up weather of Heron Spit, hour by hour, and forecasts of it that are worse the farther they look.

use serde::Serialize;

/// An hour, as the interface gives it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct SkyHour {
    /// Minutes since midnight of the first day asked for.
    pub minute: u32,
    /// Air, °F.
    pub air_f: f64,
    /// Dew point, °F.
    pub dew_f: f64,
    /// Rain, inches.
    pub rain_in: f64,
    /// Wind, mph.
    pub wind_mph: f64,
    /// Sun across its beam, W/m².
    pub direct_wm2: f64,
    /// Light from the sky, W/m².
    pub diffuse_wm2: f64,
}

/// The same number for the same hour each time, between 0 and 1 (a hash of it: splitmix64).
fn chance(of: i64, kind: u64) -> f64 {
    let mut z = (of as u64).wrapping_add(kind.wrapping_mul(0x9e37_79b9_7f4a_7c15)).wrapping_add(0x9e37_79b9_7f4a_7c15);
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    ((z ^ (z >> 31)) >> 11) as f64 / (1_u64 << 53) as f64
}

/// Weather comes in spells: how wet the time about an hour is, 0 to 1, smooth over half a day.
fn wetness(hour: i64, season: f64, kind: u64) -> f64 {
    let (block, part) = (hour.div_euclid(14), hour.rem_euclid(14) as f64 / 14.0);
    let soft = part * part * (3.0 - 2.0 * part);
    chance(block, kind) * (1.0 - soft) + chance(block + 1, kind) * soft + 0.12 * season
}

/// A day's hours from the number of the day since 1970. Seen from `asked`, another day: what lies ahead is told the worse the farther it is, and
/// otherwise each day that it is asked.
pub fn hours(first: i64, days: u32, asked: i64) -> Vec<SkyHour> {
    let one = |n: u32| {
        let (day, of_day) = (first + i64::from(n / 24), f64::from(n % 24));
        let hour = day * 24 + i64::from(n % 24);
        let year = (day as f64 - 20.0).rem_euclid(365.25) / 365.25 * std::f64::consts::TAU;
        // Coldest in January and before dawn.
        let winter = year.cos();
        let ahead = (day - asked).max(0) as f64;
        let slip = ((ahead * 0.7) * (chance(day * 31 + asked, 9) - 0.5) * 6.0) as i64;
        let wet = wetness(hour + slip, winter, 1);
        let rain = if wet > 0.62 { (wet - 0.62) * 0.25 * (0.3 + chance(hour, 2)) } else { 0.0 };
        let cloud = (wet * 1.35).min(1.0);
        let light = ((of_day - 6.5 + winter * 0.9) / (11.0 - winter * 2.5) * std::f64::consts::PI).sin().max(0.0);
        let swing = (1.0 - cloud * 0.7) * 9.0 * ((of_day - 9.0) / 24.0 * std::f64::consts::TAU).sin();
        let air = 51.0 - winter * 12.0
            + swing
            + (chance(hour / 6, 3) - 0.5) * 4.0
            + ahead * (chance(day + asked * 7, 4) - 0.5) * 0.9;
        let dew = air - (1.0 - wet).max(0.0) * 14.0 - 1.0;
        // The year's gales come in March and in September.
        let gale = 1.0 + 0.4 * (2.0 * year - std::f64::consts::PI * 0.6).cos().max(0.0);
        let wind = (6.0 + wet * 16.0 * (0.5 + chance(hour / 3, 5))) * gale + 4.0 * light;
        SkyHour {
            minute: n * 60,
            air_f: (air * 10.0).round() / 10.0,
            dew_f: (dew * 10.0).round() / 10.0,
            rain_in: (rain * 1000.0).round() / 1000.0,
            wind_mph: (wind * 10.0).round() / 10.0,
            direct_wm2: (light * (1.0 - cloud) * 800.0).round(),
            diffuse_wm2: (light * (60.0 + 120.0 * cloud.min(0.7))).round(),
        }
    };
    (0..days * 24).map(one).collect()
}
