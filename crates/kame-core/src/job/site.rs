//! Who works on a job and when, what comes when, and where the building stands: what people say of it, and what is kept.

use crate::date::day_number;
use crate::problem::Problem;
use crate::range::{NAME, Range};
use crate::trade::{Phase, Trade};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Crews of a job.
pub const MOST_CREWS: usize = 20;
/// Deliveries, visits, pins and days off.
pub const MOST_DATES: usize = 400;
/// Tasks of a calendar that was agreed on.
pub const MOST_KEPT: usize = 20_000;
/// No kept task begins later, minutes: three years.
const LAST_KEPT: u32 = 3 * 366 * 1440;
const PEOPLE: Range<u32> = Range { what: "people of a crew", least: 1, most: 40, remedy: "make two crews of them" };
const CLOCK: Range<f64> = Range {
    what: "an hour of the day",
    least: 0.0,
    most: 24.0,
    remedy: "7 is seven in the morning, 15.5 half past three",
};
const OVERTIME: Range<f64> =
    Range { what: "hours of overtime a day", least: 0.0, most: 4.0, remedy: "take a second crew, or weekends" };
const RATE: Range<f64> =
    Range { what: "what an hour of one of a crew costs", least: 0.0, most: 10_000.0, remedy: "leave it out" };

/// Who works, when, with what, and where.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SiteSpec {
    /// The first day, as 2026-03-02.
    pub from: String,
    /// Who works.
    pub crews: Vec<CrewSpec>,
    /// What is not there yet.
    #[serde(default)]
    pub deliveries: Vec<Delivery>,
    /// Other trades and inspectors, who come on a day.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub visits: Vec<Visit>,
    /// Steps that are done on a day and no other.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pins: Vec<Pin>,
    /// What has to be done by a day.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub deadlines: Vec<Deadline>,
    /// True where nobody works in the dark.
    #[serde(default = "yes", skip_serializing_if = "is_yes")]
    pub daylight: bool,
    /// The calendar that was agreed on: a new one changes as little of it as it can.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kept: Option<KeptPlan>,
    /// Where the building stands.
    pub stands: Standpoint,
}

/// Somebody who has to have been there before work of a phase begins: an inspector, a plumber, who tests the air.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Visit {
    /// Who, or what for.
    pub name: String,
    /// On which day; what waits for it goes on the day after.
    pub on: String,
    /// The first phase that waits for it.
    pub before: Phase,
    /// Id of the opening at which it waits; everywhere where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<String>,
}

fn yes() -> bool {
    true
}

fn is_yes(so: &bool) -> bool {
    *so
}

/// Something that has to be done by a day.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Deadline {
    /// What it is called: dried in, the air test, the end.
    pub name: String,
    /// The last day on which it may be done.
    pub on: String,
    /// The last phase that has to be done by then; all of them where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub until: Option<Phase>,
    /// Id of the opening of which it is asked; of everything where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<String>,
}

/// A step that is done on a day.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Pin {
    /// Id of the step.
    pub step: String,
    /// On which day.
    pub on: String,
}

/// A calendar that was agreed on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct KeptPlan {
    /// Its first day.
    pub from: String,
    /// Names of its crews.
    pub crews: Vec<String>,
    /// By step, and its part from 1 behind a blank where it has several: index of the crew, and minute from midnight of the first day.
    pub tasks: BTreeMap<String, [u32; 2]>,
    /// The forecast it was agreed on by, day by day; empty where none was known.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub forecast: Vec<KeptDay>,
}

/// A day of the forecast by which a calendar was agreed on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct KeptDay {
    /// The day, as 2026-03-02.
    pub on: String,
    /// Rain of all its hours, inches.
    pub rain_in: f64,
    /// Least temperature of the air while people work, °F.
    pub least_f: f64,
    /// Greatest temperature of the air while people work, °F.
    pub most_f: f64,
    /// Greatest wind, mph.
    pub wind_mph: f64,
}

impl KeptDay {
    /// What of it cannot be: a day that is none, or numbers beyond any weather.
    fn problem(&self) -> Option<String> {
        let no_day = day_number(&self.on).is_none().then(|| format!("found \"{}\", expected a day", self.on));
        let numbers = [
            ("rain_in", self.rain_in),
            ("least_f", self.least_f),
            ("most_f", self.most_f),
            ("wind_mph", self.wind_mph),
        ];
        let odd = numbers.into_iter().find(|(_, n)| !(-150.0..=300.0).contains(n));
        no_day.or_else(|| odd.map(|(name, n)| format!("{name} is {n}, expected −150 to 300")))
    }
}

/// A crew.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CrewSpec {
    /// What people call it.
    pub name: String,
    /// What they do.
    pub trades: Vec<Trade>,
    /// How many they are.
    pub people: u32,
    /// When their day begins and ends, hours.
    pub hours: [f64; 2],
    /// True where they work on Saturdays and Sundays too.
    #[serde(default)]
    pub weekends: bool,
    /// Days on which they do not come.
    #[serde(default)]
    pub off: Vec<String>,
    /// How many hours they may stay longer on a day, where work is late or lies open too long otherwise.
    #[serde(default, skip_serializing_if = "is_none")]
    pub overtime: f64,
    /// What an hour of one of them costs, in the currency of the kit's prices; the profile's figure where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rate: Option<f64>,
}

fn is_none(hours: &f64) -> bool {
    *hours == 0.0
}

/// Something that comes on a day: a unit by the id of its opening, or a product by its name.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Delivery {
    /// Id of an opening, or name of a product.
    pub what: String,
    /// On which day it is there in the morning.
    pub on: String,
}

/// Where a building stands, and which way its first wall looks.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Standpoint {
    /// Degrees north.
    pub latitude: f64,
    /// Degrees east.
    pub longitude: f64,
    /// Hours from UTC, standard time.
    pub utc_hours: f64,
    /// Where the first wall looks, degrees from north by east.
    pub facing: f64,
}

impl SiteSpec {
    /// One crew of two that does everything, from a day on.
    pub fn usual(from: &str) -> Self {
        let crew = CrewSpec {
            name: "Crew".into(),
            trades: vec![Trade::Lead, Trade::Barrier, Trade::Window, Trade::Cladding],
            people: 2,
            hours: [7.0, 15.5],
            weekends: false,
            off: Vec::new(),
            overtime: 0.0,
            rate: None,
        };
        // Heron Spit is made up: an estuary on the Oregon coast's latitude.
        let stands = Standpoint { latitude: 45.5, longitude: -123.9, utc_hours: -8.0, facing: 270.0 };
        Self {
            from: from.into(),
            crews: vec![crew],
            deliveries: Vec::new(),
            visits: Vec::new(),
            pins: Vec::new(),
            deadlines: Vec::new(),
            daylight: true,
            kept: None,
            stands,
        }
    }

    /// What of it cannot be, with paths under `path`.
    pub fn problems(&self, path: &str) -> Vec<Problem> {
        let mut out = Vec::new();
        let mut no = |field: String, wrong: Option<String>| {
            out.extend(wrong.map(|m| Problem::new(format!("{path}.{field}"), m)))
        };
        let no_day = |text: &str| {
            let found: String = text.chars().take(20).collect();
            day_number(text).is_none().then(|| format!("found \"{found}\", expected a day, as 2026-03-02"))
        };
        no("from".into(), no_day(&self.from));
        let many = |n: usize, most: usize| (n == 0 || n > most).then(|| format!("found {n}, expected 1 to {most}"));
        no("crews".into(), many(self.crews.len(), MOST_CREWS));
        no("deliveries".into(), many(self.deliveries.len().max(1), MOST_DATES));
        for (i, c) in self.crews.iter().enumerate().take(MOST_CREWS) {
            no(format!("crews[{i}].name"), NAME.check(c.name.trim().chars().count()).err());
            no(format!("crews[{i}].people"), PEOPLE.check(c.people).err());
            no(format!("crews[{i}].hours"), c.hours.iter().find_map(|h| CLOCK.check(*h).err()));
            let short = c.hours[1] - c.hours[0] < 1.0;
            no(
                format!("crews[{i}].hours"),
                short.then(|| {
                    format!("{} work from {} to {}: give them an hour at least", c.name, c.hours[0], c.hours[1])
                }),
            );
            no(
                format!("crews[{i}].trades"),
                c.trades.is_empty().then(|| format!("{} do nothing: say what they do", c.name)),
            );
            no(format!("crews[{i}].overtime"), OVERTIME.check(c.overtime).err());
            no(format!("crews[{i}].rate"), c.rate.and_then(|r| RATE.check(r).err()));
            no(format!("crews[{i}].off"), many(c.off.len().max(1), MOST_DATES));
            no(format!("crews[{i}].off"), c.off.iter().take(MOST_DATES).find_map(|d| no_day(d)));
        }
        for (i, d) in self.deliveries.iter().enumerate().take(MOST_DATES) {
            no(format!("deliveries[{i}].on"), no_day(&d.on));
            no(format!("deliveries[{i}].what"), NAME.check(d.what.chars().count()).err());
        }
        no("visits".into(), many(self.visits.len().max(1), MOST_DATES));
        for (i, v) in self.visits.iter().enumerate().take(MOST_DATES) {
            no(format!("visits[{i}].on"), no_day(&v.on));
            no(format!("visits[{i}].name"), NAME.check(v.name.trim().chars().count()).err());
        }
        no("deadlines".into(), many(self.deadlines.len().max(1), MOST_DATES));
        for (i, d) in self.deadlines.iter().enumerate().take(MOST_DATES) {
            no(format!("deadlines[{i}].on"), no_day(&d.on));
            no(format!("deadlines[{i}].name"), NAME.check(d.name.trim().chars().count()).err());
        }
        no("pins".into(), many(self.pins.len().max(1), MOST_DATES));
        for (i, p) in self.pins.iter().enumerate().take(MOST_DATES) {
            no(format!("pins[{i}].on"), no_day(&p.on));
            let again = self.pins[..i].iter().any(|o| o.step == p.step);
            no(format!("pins[{i}].step"), again.then(|| format!("\"{}\" is pinned twice: choose one day", p.step)));
        }
        if let Some(kept) = &self.kept {
            no("kept.from".into(), no_day(&kept.from));
            no("kept.crews".into(), many(kept.crews.len(), MOST_CREWS));
            no("kept.tasks".into(), many(kept.tasks.len().max(1), MOST_KEPT));
            no("kept.forecast".into(), many(kept.forecast.len().max(1), MOST_DATES));
            no("kept.forecast".into(), kept.forecast.iter().take(MOST_DATES).find_map(KeptDay::problem));
            let odd =
                kept.tasks.iter().find(|(_, [crew, from])| *crew as usize >= kept.crews.len() || *from > LAST_KEPT);
            no(
                "kept.tasks".into(),
                odd.map(|(id, at)| {
                    format!("\"{id}\" is kept at {at:?}: expected one of its crews, and a minute up to {LAST_KEPT}")
                }),
            );
        }
        let Standpoint { latitude, longitude, utc_hours, facing } = self.stands;
        let away = |v: f64, most: f64| {
            (v.is_nan() || v.abs() > most).then(|| format!("found {v}, expected −{most} to {most}"))
        };
        no("stands.latitude".into(), away(latitude, 66.0));
        no("stands.longitude".into(), away(longitude, 180.0));
        no("stands.utc_hours".into(), away(utc_hours, 14.0));
        no("stands.facing".into(), away(facing, 360.0));
        out
    }
}
