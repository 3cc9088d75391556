//! What goes on the truck on each day of a calendar: what is opened then, what runs out before it does, by when to order what is not there, and what must
//! not stay out in a cold night (handbook 5.7, 6.1).

use super::ground::CalendarQuestion;
use super::plan::Booking;
use super::weather::{Hour, night_of};
use crate::date::{day_number, day_said, day_text};
use crate::kit::Product;
use crate::purchase::{Order, OrderLine};
use crate::record::StepNow;
use crate::takeoff::step_minutes;
use crate::trade::{StepId, Trade};
use serde::Serialize;
use std::collections::{BTreeMap, HashMap, HashSet};

/// Where a use stands whose step is done already, or is on no day: it waits for a unit that has to come again.
const DONE: &str = "done";
const WAITS: &str = "waits";

/// When a step of the order in force begins.
#[derive(Clone, Copy, PartialEq)]
enum Begins {
    Done,
    Waits,
    On(u32),
}

impl Begins {
    fn day(self) -> Option<u32> {
        if let Self::On(day) = self { Some(day) } else { None }
    }
}

/// A step, or the part of one that is done on a day.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct DayStep {
    /// Id, by which others name it.
    pub id: String,
    /// Its title.
    pub title: String,
    /// At which opening, empty for the wall.
    pub opening: String,
    /// Whose work it is.
    pub trade: Trade,
    /// Minutes of the crew on this day.
    pub minutes: u32,
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
    /// Which, as 2026-03-02.
    pub on: String,
    /// The same as people say it.
    pub said: String,
    /// What is done, in the order of its beginning.
    pub steps: Vec<DayStep>,
    /// Minutes of all crews.
    pub minutes: u32,
    /// Why work stood still, in sentences.
    pub waits: Vec<String>,
    /// What to load.
    pub loads: Vec<Load>,
    /// What must not stay in the truck in the night that follows, in sentences.
    pub indoors: Vec<String>,
}

/// Something to buy, and by when.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct BuyBy {
    /// Generic product.
    pub product: String,
    /// What the crew calls it.
    pub called: String,
    /// What of it is short, in words.
    pub what: String,
    /// The day on which it has to be there, as 2026-03-02.
    pub needed: String,
    /// The day on which it has to be ordered; `null` where nobody said how long it takes.
    pub order: Option<String>,
    /// True where that day is past.
    pub late: bool,
    /// The same in a sentence.
    pub says: String,
}

/// The days of a calendar, with what to load for each.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Days {
    /// Who works, in words.
    pub who: String,
    /// Day by day; days on which nobody works are not among them.
    pub days: Vec<Day>,
    /// On which day each step of the order in force begins, as 2026-03-02; `done` for what is done, `waits` for what is on no day yet.
    pub begins: Vec<String>,
    /// What runs out before the work does, in sentences: the first of each product.
    pub shortages: Vec<String>,
    /// What to buy, by the day on which it has to be ordered.
    pub buy: Vec<BuyBy>,
}

/// Days of a calendar by their number from its first.
struct LoadsBuilder<'a> {
    asked: &'a CalendarQuestion<'a>,
    first: i64,
    days: BTreeMap<u32, Day>,
    shortages: Vec<String>,
    buy: Vec<BuyBy>,
}

/// What is done and loaded on each day of a calendar; `today` is the day on which that is asked.
pub fn days(asked: &CalendarQuestion, booking: &Booking, order: &Order, today: &str) -> Days {
    let first = day_number(&booking.from).unwrap_or_default();
    let mut b = LoadsBuilder { asked, first, days: BTreeMap::new(), shortages: Vec::new(), buy: Vec::new() };
    for t in &booking.tasks {
        let day = b.on(t.from / 1440);
        let minutes = t.to - t.from;
        day.minutes += minutes;
        match day.steps.iter_mut().find(|s| s.id == t.step) {
            Some(s) => s.minutes += minutes,
            None => day.steps.push(DayStep {
                id: t.step.clone(),
                title: t.title.clone(),
                opening: t.place.clone(),
                trade: t.trade,
                minutes,
            }),
        }
        if t.waits {
            let place = if t.place.is_empty() { String::new() } else { format!(" at {}", t.place) };
            day.waits.push(format!("{}{place}: {}", t.title, t.why));
        }
    }
    let begins = b.begins(booking);
    for line in &order.lines {
        b.load(line, &begins, day_number(today).unwrap_or(first));
    }
    b.take_in(&begins, order);
    b.buy.sort_by(|x, y| (&x.order, &x.needed, &x.product).cmp(&(&y.order, &y.needed, &y.product)));
    let label = |b: &Begins| match b {
        Begins::Done => DONE.to_owned(),
        Begins::Waits => WAITS.to_owned(),
        Begins::On(day) => day_text(first + i64::from(*day)),
    };
    Days {
        who: who(asked),
        begins: begins.iter().map(label).collect(),
        days: b.days.into_values().collect(),
        shortages: b.shortages,
        buy: b.buy,
    }
}

/// Crews in words.
fn who(asked: &CalendarQuestion) -> String {
    let clock = |h: f64| format!("{}:{:02}", h as u32, ((h.fract() * 60.0).round()) as u32);
    let one = |c: &crate::job::CrewSpec| {
        let people = if c.people == 1 { "1 person".to_owned() } else { format!("{} people", c.people) };
        format!("{}, {people}, {} to {}", c.name, clock(c.hours[0]), clock(c.hours[1]))
    };
    asked.site.crews.iter().map(one).collect::<Vec<_>>().join("; ")
}

impl LoadsBuilder<'_> {
    fn on(&mut self, day: u32) -> &mut Day {
        let number = self.first + i64::from(day);
        self.days.entry(day).or_insert_with(|| Day { on: day_text(number), said: day_said(number), ..Day::default() })
    }

    /// When each step of the order in force begins. What takes no time is done with what comes before it.
    fn begins(&self, booking: &Booking) -> Vec<Begins> {
        let mut day: HashMap<&str, u32> = HashMap::new();
        for t in &booking.tasks {
            let at = day.entry(t.step.as_str()).or_insert(u32::MAX);
            *at = (*at).min(t.from / 1440);
        }
        let over = |s: &&crate::record::StepState| !matches!(s.now, StepNow::Open | StepNow::InHand);
        let over: HashSet<&str> = self.asked.states.iter().filter(over).map(|s| s.step.as_str()).collect();
        let mut last = booking.tasks.iter().map(|t| t.from / 1440).min().unwrap_or(0);
        let plan = self.asked.plan;
        let minutes = step_minutes(plan);
        let one = |s: &StepId| {
            let id = plan.steps[*s].id.as_str();
            match day.get(id) {
                _ if over.contains(id) => return Begins::Done,
                None if minutes[*s] > 0.0 => return Begins::Waits,
                Some(day) => last = *day,
                None => {}
            }
            Begins::On(last)
        };
        plan.order.iter().map(one).collect()
    }

    /// Puts what a line of the order opens on the day it opens it. What was opened for work that is done is on no truck any more.
    fn load(&mut self, line: &OrderLine, begins: &[Begins], today: i64) {
        let mut held: Vec<u64> = line.sizes.iter().map(|s| s.held).collect();
        let carries = held.iter().any(|h| *h > 0);
        let mut opened: BTreeMap<(u32, usize), u64> = BTreeMap::new();
        for o in &line.opened {
            if let Some(day) = begins.get(o.step).and_then(|b| b.day()) {
                *opened.entry((day, o.size)).or_default() += 1;
            }
        }
        let mut short: Vec<(u32, usize, u64)> = Vec::new();
        for ((day, size), count) in opened {
            let from_truck = count.min(held[size]);
            held[size] -= from_truck;
            let missing = count - from_truck;
            if missing > 0 {
                short.push((day, size, missing));
            }
            let load = Load {
                product: line.product.clone(),
                called: line.called.clone(),
                size: line.sizes[size].size.clone(),
                count,
                held: from_truck,
                short: missing,
            };
            self.on(day).loads.push(load);
        }
        let Some(&(day, size, missing)) = short.first() else { return };
        let needed = self.first + i64::from(day);
        // A truck that carries nothing of it is no shortage: it is all on the order.
        if carries {
            let (called, of, said) = (&line.called, &line.sizes[size].size, day_said(needed));
            self.shortages
                .push(format!("{called} runs out on {said}: {missing} × {of} more than the truck has; buy before."));
        }
        self.order(line, needed, &short, today);
    }

    /// What of a line is short, and by when to order it.
    fn order(&mut self, line: &OrderLine, needed: i64, short: &[(u32, usize, u64)], today: i64) {
        let lead = self.product(&line.product).and_then(|p| p.lead_days);
        let by = lead.map(|d| needed - i64::from(d));
        let many = |size: usize| short.iter().filter(|s| s.1 == size).map(|s| s.2).sum::<u64>();
        let what = line.sizes.iter().enumerate().map(|(n, s)| (many(n), &s.size)).filter(|(many, _)| *many > 0);
        let what: Vec<String> = what.map(|(many, size)| format!("{many} × {size}")).collect();
        let said = day_said(needed);
        let says = match by {
            None => format!("needed {said}"),
            Some(by) if by < today => format!(
                "needed {said} and takes {} days: it comes on {} if it is ordered today",
                lead.unwrap_or_default(),
                day_said(today + i64::from(lead.unwrap_or_default()))
            ),
            Some(by) => format!("order by {}: needed {said}, takes {} days", day_said(by), lead.unwrap_or_default()),
        };
        self.buy.push(BuyBy {
            product: line.product.clone(),
            called: line.called.clone(),
            what: what.join(", "),
            needed: day_text(needed),
            order: by.map(day_text),
            late: by.is_some_and(|by| by < today),
            says,
        });
    }

    fn product(&self, name: &str) -> Option<&Product> {
        self.asked.plan.product(name)
    }

    /// What is on the truck in a night colder than it bears, from the day it is opened first to the day it is opened last.
    fn take_in(&mut self, begins: &[Begins], order: &Order) {
        for line in &order.lines {
            let Some(least) = self.product(&line.product).and_then(|p| p.keep_above_f) else { continue };
            let used = line.uses.iter().filter_map(|u| begins.get(u.step).and_then(|b| b.day()));
            let (Some(from), Some(to)) = (used.clone().min(), used.max()) else { continue };
            // Nights up to the next day of work, of which the coldest counts: nobody is there to take it in before.
            let worked: Vec<u32> = self.days.range(from..=to).map(|(d, _)| *d).collect();
            for (n, day) in worked.iter().enumerate() {
                let until = worked.get(n + 1).copied().unwrap_or(day + 1);
                let nights = (*day..until).filter_map(|d| night_of(self.asked.hours, d));
                let f = nights.map(|night| coldest(&night)).fold(f64::INFINITY, f64::min);
                if f < least {
                    let says = format!(
                        "Take in {}: it goes down to {f:.0} °F before the next day of work, and it must not get colder than {least:.0} °F.",
                        line.called
                    );
                    self.on(*day).indoors.push(says);
                }
            }
        }
    }
}

fn coldest(night: &[&Hour]) -> f64 {
    night.iter().map(|h| h.air_f).fold(f64::INFINITY, f64::min)
}
