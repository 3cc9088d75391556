//! The work laid into days: what is done, what is loaded for it, what has to cure first, and what runs out before it does (handbook 5.1, 5.7).

use crate::contact::{CureWait, cure_waits};
use crate::plan::Plan;
use crate::profile::fig;
use crate::purchase::{Order, OrderLine};
use crate::takeoff::step_minutes;
use crate::trade::Trade;
use serde::Serialize;

/// Minutes in an hour, and hours from one day's beginning to the next.
const HOUR: f64 = 60.0;
const DAY: f64 = 24.0;
/// More days than this are not laid out.
const MOST_DAYS: usize = 2_000;

/// A step, or the part of one that is done on a day.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct DayStep {
    /// Its id.
    pub id: String,
    /// Its title.
    pub title: String,
    /// At which opening, empty for the wall.
    pub opening: String,
    /// Whose work it is.
    pub trade: Trade,
    /// Minutes of one person on this day.
    pub minutes: f64,
}

/// What is put on the truck for a day.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Load {
    /// Generic product.
    pub product: String,
    /// What the crew calls it.
    pub called: String,
    /// The size, in words.
    pub size: String,
    /// How many are opened on this day.
    pub count: u64,
    /// How many of them are on the truck.
    pub held: u64,
    /// How many have to be bought before.
    pub short: u64,
}

/// One day of work.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Day {
    /// Which, from 1.
    pub number: usize,
    /// What is done, in order.
    pub steps: Vec<DayStep>,
    /// Minutes of one person in all.
    pub minutes: f64,
    /// Why work stood still, in sentences.
    pub waits: Vec<String>,
    /// What to load.
    pub loads: Vec<Load>,
}

/// The days of a plan, with what to load for each.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Days {
    /// Day by day; days on which only something cures are among them.
    pub days: Vec<Day>,
    /// People working.
    pub crew: f64,
    /// Hours of work in a day.
    pub hours: f64,
    /// On which day each step of the order in force begins, from 1.
    pub begins: Vec<usize>,
    /// What runs out before the work does, in sentences: the first of each product.
    pub shortages: Vec<String>,
}

/// When a step is done: hours since the first morning, nights counted.
struct Clock {
    day: usize,
    /// Hours into the day's work.
    at: f64,
    hours: f64,
}

impl Clock {
    fn now(&self) -> f64 {
        self.day as f64 * DAY + self.at
    }

    /// Not before so many hours since the first morning.
    fn wait(&mut self, until: f64) {
        if until <= self.now() {
            return;
        }
        self.day = (until / DAY).floor() as usize;
        self.at = until - self.day as f64 * DAY;
        if self.at >= self.hours {
            (self.day, self.at) = (self.day + 1, 0.0);
        }
    }
}

/// Lays the steps of the order in force into days: one after another, as many hours a day as the profile says, what has to cure waited for.
///
/// # Errors
/// A sentence if the shipped data were broken, or where the work takes more days than anybody plans.
pub fn days(plan: &Plan, order: &Order) -> Result<Days, String> {
    let (crew, hours) = (plan.figures.number(fig::CREW), plan.figures.number(fig::DAY_HOURS));
    let minutes = step_minutes(plan);
    let waits = cure_waits(plan)?;
    let mut clock = Clock { day: 0, at: 0.0, hours };
    let mut done: Vec<f64> = vec![0.0; plan.steps.len()];
    let mut out: Vec<Day> = Vec::new();
    let mut begins = Vec::new();
    for &s in &plan.order {
        let step = &plan.steps[s];
        let for_it = waits.iter().filter(|w| w.step == s && !plan.is_removed(&plan.steps[w.after].id));
        let longest = for_it.max_by(|a, b| (done[a.after] + a.hours).total_cmp(&(done[b.after] + b.hours)));
        if let Some(w) = longest.filter(|w| done[w.after] + w.hours > clock.now() + 1e-9 && minutes[s] > 0.0) {
            let before = clock.now();
            clock.wait(done[w.after] + w.hours);
            on(&mut out, clock.day)?.waits.push(waited(plan, w, clock.now() - before));
        }
        let mut left = minutes[s] / HOUR / crew;
        if clock.at + left > hours && left <= hours && clock.at > 0.0 {
            (clock.day, clock.at) = (clock.day + 1, 0.0);
        }
        begins.push(clock.day + 1);
        while left > 1e-9 {
            if clock.at >= hours - 1e-9 {
                (clock.day, clock.at) = (clock.day + 1, 0.0);
            }
            let now = left.min(hours - clock.at);
            let day = on(&mut out, clock.day)?;
            day.minutes += now * crew * HOUR;
            day.steps.push(DayStep {
                id: step.id.clone(),
                title: step.title.clone(),
                opening: step.opening.clone().unwrap_or_default(),
                trade: step.phase.trade(),
                minutes: now * crew * HOUR,
            });
            clock.at += now;
            left -= now;
        }
        done[s] = clock.now();
    }
    let mut shortages = Vec::new();
    for line in &order.lines {
        load(line, &begins, &mut out, &mut shortages)?;
    }
    Ok(Days { days: out, crew, hours, begins, shortages })
}

/// The day of that number, from 0; those before it are there too.
fn on(days: &mut Vec<Day>, n: usize) -> Result<&mut Day, String> {
    if n >= MOST_DAYS {
        return Err(format!("the work takes more than {MOST_DAYS} days: take more people, or longer days"));
    }
    while days.len() <= n {
        days.push(Day { number: days.len() + 1, ..Day::default() });
    }
    Ok(&mut days[n])
}

fn waited(plan: &Plan, w: &CureWait, hours: f64) -> String {
    let title = |s: usize| {
        let step = &plan.steps[s];
        step.opening.as_ref().map_or_else(|| step.title.clone(), |o| format!("{} at {o}", step.title))
    };
    format!("{} waits {hours:.0} h: {} h after {}. {}", title(w.step), w.hours, title(w.after), w.because)
}

/// Puts what a line of the order opens on the day it opens it.
fn load(line: &OrderLine, begins: &[usize], out: &mut Vec<Day>, shortages: &mut Vec<String>) -> Result<(), String> {
    let last = begins.last().copied().unwrap_or(1);
    let mut held: Vec<u64> = line.sizes.iter().map(|s| s.held).collect();
    let mut told = false;
    let mut opened: std::collections::BTreeMap<(usize, usize), u64> = std::collections::BTreeMap::new();
    for o in &line.opened {
        *opened.entry((begins.get(o.step).copied().unwrap_or(last), o.size)).or_default() += 1;
    }
    for ((day, size), count) in opened {
        let from_truck = count.min(held[size]);
        held[size] -= from_truck;
        let short = count - from_truck;
        // A truck that carries nothing of it is no shortage: it is all on the order.
        if short > 0 && !told && line.sizes.iter().any(|s| s.held > 0) {
            told = true;
            shortages.push(format!(
                "{} runs out on day {day}: {short} × {} more than the truck has; buy before.",
                line.called, line.sizes[size].size
            ));
        }
        on(out, day - 1)?.loads.push(Load {
            product: line.product.clone(),
            called: line.called.clone(),
            size: line.sizes[size].size.clone(),
            count,
            held: from_truck,
            short,
        });
    }
    Ok(())
}
