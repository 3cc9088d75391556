//! Hours of weather from files: a table of our own, and EPW, in which the weather of places is published.

use kame_core::calendar::{Hour, odd_hours};
use kame_core::date::{day_number, day_text};

/// Heading of a table of weather.
pub const WEATHER_COLUMNS: [&str; 7] = ["time", "air_f", "dew_f", "rain_in", "wind_mph", "direct_wm2", "diffuse_wm2"];
/// The hours of a year, and one more day.
const MOST: usize = 24 * 366;

/// Hours of weather, from midnight of a day on as far as the file goes.
///
/// # Errors
/// A sentence with the line: what does not read, what is missing, or that the file says nothing of that day.
pub fn read_weather(text: &str, first_day: &str) -> Result<Vec<Hour>, String> {
    let first = day_number(first_day).ok_or_else(|| format!("found \"{first_day}\", expected a day, as 2026-03-02"))?;
    let hours = if text.trim_start_matches('\u{feff}').starts_with("LOCATION,") {
        epw(text, first)
    } else {
        table(text, first)
    }?;
    if hours.is_empty() {
        return Err(format!("the weather says nothing of {first_day} and the days after it"));
    }
    match odd_hours(&hours) {
        Some(odd) => Err(odd),
        None => Ok(hours),
    }
}

/// Minutes from midnight of the first day to an hour of another; `None` before it, or more than a year after.
fn minute(first: i64, day: i64, hour: i64) -> Option<u32> {
    let hours = (day - first) * 24 + hour;
    (0..MOST as i64).contains(&hours).then(|| hours as u32 * 60)
}

fn table(text: &str, first: i64) -> Result<Vec<Hour>, String> {
    let mut rows = csv::ReaderBuilder::new().trim(csv::Trim::All).from_reader(text.as_bytes());
    let head = rows.headers().map_err(|e| e.to_string())?.clone();
    let at = |name: &str| {
        head.iter()
            .position(|h| h == name)
            .ok_or_else(|| format!("found no column \"{name}\", expected {}", WEATHER_COLUMNS.join(", ")))
    };
    let columns: Vec<usize> = WEATHER_COLUMNS.iter().map(|c| at(c)).collect::<Result<_, _>>()?;
    let mut out = Vec::new();
    for (i, row) in rows.records().enumerate() {
        let line = i + 2;
        let row = row.map_err(|e| format!("line {line}: {e}"))?;
        let cell = |n: usize| row.get(columns[n]).unwrap_or_default();
        let time = cell(0);
        let hour = time.get(11..13).and_then(|h| h.parse::<i64>().ok()).filter(|h| (0..24).contains(h));
        let (Some(day), Some(hour)) = (day_number(time), hour) else {
            return Err(format!(
                "line {line}: found \"{}\", expected a time, as 2026-03-02T07:00",
                time.chars().take(30).collect::<String>()
            ));
        };
        let Some(minute) = minute(first, day, hour) else { continue };
        let number = |n: usize| {
            cell(n).parse::<f64>().map_err(|_| {
                format!(
                    "line {line}: {} is \"{}\", expected a number",
                    WEATHER_COLUMNS[n],
                    cell(n).chars().take(20).collect::<String>()
                )
            })
        };
        out.push(Hour {
            minute,
            air_f: number(1)?,
            dew_f: number(2)?,
            rain_in: number(3)?,
            wind_mph: number(4)?,
            direct_wm2: number(5)?,
            diffuse_wm2: number(6)?,
        });
    }
    Ok(out)
}

/// The year of an EPW file is put together from months of several: only month, day and hour count, and they are read as those of the year asked for. The
/// 29th of February, which most files have not, is the 28th again.
fn epw(text: &str, first: i64) -> Result<Vec<Hour>, String> {
    const HEADERS: usize = 8;
    let mut by_day: std::collections::HashMap<(i64, i64, i64), Hour> = std::collections::HashMap::new();
    let mut last: Option<[f64; 6]> = None;
    for (i, text) in text.lines().enumerate().skip(HEADERS).take(2 * MOST) {
        let line = i + 1;
        if text.trim().is_empty() {
            continue;
        }
        let fields: Vec<&str> = text.split(',').map(str::trim).collect();
        if fields.len() < 22 {
            return Err(format!("line {line}: found {} fields, expected at least 22", fields.len()));
        }
        let whole = |n: usize| {
            fields[n].parse::<i64>().map_err(|_| {
                format!(
                    "line {line}: field {} is \"{}\", expected a number",
                    n + 1,
                    fields[n].chars().take(20).collect::<String>()
                )
            })
        };
        let (month, day, hour) = (whole(1)?, whole(2)?, whole(3)?);
        if !(1..=24).contains(&hour) {
            return Err(format!("line {line}: found hour {hour}, expected 1 to 24"));
        }
        let value = |n: usize| fields.get(n).and_then(|t| t.parse::<f64>().ok());
        // Missing values have numbers of their own; the hour before stands for them.
        let known = |n: usize, missing: f64| value(n).filter(|v| *v < missing);
        let before = last.unwrap_or([10.0, 5.0, 0.0, 2.0, 0.0, 0.0]);
        let now = [
            known(6, 99.9).unwrap_or(before[0]),
            known(7, 99.9).unwrap_or(before[1]),
            known(33, 999.0).unwrap_or(0.0),
            known(21, 999.0).unwrap_or(before[3]),
            known(14, 9999.0).unwrap_or(0.0),
            known(15, 9999.0).unwrap_or(0.0),
        ];
        last = Some(now);
        let [air, dew, rain_mm, wind, direct, diffuse] = now;
        let f = |c: f64| c * 1.8 + 32.0;
        let hour_of = Hour {
            minute: 0,
            air_f: f(air),
            dew_f: f(dew),
            rain_in: rain_mm / 25.4,
            wind_mph: wind / 0.44704,
            direct_wm2: direct,
            diffuse_wm2: diffuse,
        };
        by_day.insert((month, day, hour - 1), hour_of);
    }
    if by_day.is_empty() {
        return Err("found the head of an EPW file and no hours, expected 8760 lines behind it".into());
    }
    let mut out = Vec::new();
    for d in 0..366 {
        let text = day_text(first + d);
        let (month, day) = (text[5..7].parse().unwrap_or(1), text[8..10].parse().unwrap_or(1));
        for hour in 0..24 {
            let found = by_day
                .get(&(month, day, hour))
                .or_else(|| by_day.get(&(2, 28, hour)).filter(|_| (month, day) == (2, 29)));
            let Some(found) = found else {
                return Err(format!("found no hour {} of {text}: an hour is missing", hour + 1));
            };
            out.extend(minute(first, first + d, hour).map(|minute| Hour { minute, ..*found }));
        }
    }
    Ok(out)
}

/// Hours as a table.
pub fn weather_csv(hours: &[Hour], first_day: &str) -> String {
    let first = day_number(first_day).unwrap_or_default();
    let mut out = WEATHER_COLUMNS.join(",") + "\n";
    for h in hours {
        let day = day_text(first + i64::from(h.minute / 1440));
        out += &format!(
            "{day}T{:02}:00,{:.1},{:.1},{:.3},{:.1},{:.0},{:.0}\n",
            h.minute % 1440 / 60,
            h.air_f,
            h.dew_f,
            h.rain_in,
            h.wind_mph,
            h.direct_wm2,
            h.diffuse_wm2
        );
    }
    out
}
