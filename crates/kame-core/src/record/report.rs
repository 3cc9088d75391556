//! The record in words, place by place: what a paper or a table says of it.

use super::chain::Entry;
use super::clock::{ClockSays, clock};
use super::event::What;
use super::judge::inches;
use super::state::{StepNow, StepState, states};
use super::test::{WaterDid, test_answer};
use crate::checks::Check;
use crate::plan::Plan;
use serde::Serialize;
use std::collections::HashMap;

/// An entry in words.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Line {
    /// Its number.
    pub number: u64,
    /// Id, by which others name it.
    pub id: String,
    /// When, by the device's clock.
    pub at: String,
    /// When the server took it.
    pub taken: String,
    /// Name or initials of who did it.
    pub who: String,
    /// Id of the opening; empty for the walls.
    pub place: String,
    /// Title of the step, or its id where the plan has it no more.
    pub step: String,
    /// Revision of the plan that the device had.
    pub revision: i64,
    /// What happened.
    pub what: String,
    /// Whether it was as it should be, where that was judged.
    pub good: Option<bool>,
    /// The note, in the words of whoever wrote it.
    pub note: String,
    /// Its photographs.
    pub photos: Vec<String>,
    /// Another entry says that this one is wrong.
    pub corrected: bool,
    /// What is odd about it, in words; empty where nothing is.
    pub odd: String,
}

/// What the record says of one place.
#[derive(Clone, Debug, PartialEq)]
pub struct PlaceReport {
    /// Id of the opening; empty for the walls.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Steps that are over, of so many.
    pub done: (usize, usize),
    /// Every check that is not as it should be, or was never looked at although its step is done.
    pub open: Vec<String>,
    /// Its entries in their order.
    pub lines: Vec<Line>,
}

fn reading(value: &str, unit: &str) -> String {
    match value.parse::<f64>() {
        Ok(v) if unit == "in" => inches(v),
        _ if unit == "%" => format!("{value}%"),
        _ if unit.is_empty() => value.to_owned(),
        _ => format!("{value} {unit}"),
    }
}

/// What happened, in words, and whether it was as it should be.
fn words(plan: &Plan, names: &HashMap<&str, &Check>, what: &What) -> (String, Option<bool>) {
    let name = |id: &str| names.get(id).map_or_else(|| id.to_owned(), |c| c.name.clone());
    let plain = |text: &str| (text.to_owned(), None);
    match what {
        What::Begun => plain("begun"),
        What::Done => plain("done"),
        What::LeftOut => plain("left out"),
        What::Otherwise => plain("done otherwise"),
        What::Stopped => plain("stopped here"),
        What::Noted => plain("noted"),
        What::Reading { check, values, unit, instrument, asked, good } => {
            let values: Vec<String> = values.iter().map(|v| reading(v, unit)).collect();
            let asked = if asked.is_empty() { String::new() } else { format!(" ({asked})") };
            let by = if instrument.is_empty() { String::new() } else { format!(", by {instrument}") };
            let judged = match good {
                Some(true) => ": as it should be",
                Some(false) => ": not as it should be",
                None => "",
            };
            (format!("{}: {}{asked}{by}{judged}", name(check), values.join(", ")), *good)
        }
        What::Looked { check, good: true } => (format!("as it should be: {}", name(check)), Some(true)),
        What::Looked { check, good: false } => (format!("not so: {}", name(check)), Some(false)),
        What::NotReached { check } => (format!("cannot be reached: {}", name(check)), None),
        What::Mended { check } => (format!("mended: {}", name(check)), None),
        What::Lot { check, text } => (format!("{}: {text}", name(check)), None),
        What::Test { test, rows, seen } => {
            let answer = test_answer(*test, rows, &plan.basis.figures);
            let spots: String = seen.iter().map(|s| format!(" {}", s.says())).collect();
            let came_in = seen.iter().any(|s| s.did != WaterDid::Out);
            (format!("test: {}{spots}", answer.says), answer.good.map(|good| good && !came_in))
        }
        What::Corrects { id } => (format!("corrects {id}"), None),
    }
}

/// Every entry in words, in its order.
pub fn lines(plan: &Plan, checks: &[Check], entries: &[Entry]) -> Vec<Line> {
    let names: HashMap<&str, &Check> = checks.iter().map(|c| (c.id.as_str(), c)).collect();
    let titles: HashMap<&str, &str> = plan.steps.iter().map(|s| (s.id.as_str(), s.title.as_str())).collect();
    let corrects = |e: &Entry| match &e.event.what {
        What::Corrects { id } => Some((id.clone(), e.number)),
        _ => None,
    };
    let corrected: HashMap<String, u64> = entries.iter().filter_map(corrects).collect();
    let numbers: HashMap<&str, u64> = entries.iter().map(|e| (e.event.id.as_str(), e.number)).collect();
    let one = |e: &Entry| {
        let (mut what, good) = words(plan, &names, &e.event.what);
        if let What::Corrects { id } = &e.event.what {
            what = numbers.get(id.as_str()).map_or(what, |n| format!("corrects entry {n}"));
        }
        let wrong_clock = match clock(e) {
            Some(ClockSays::Ahead) => "its device's clock was ahead",
            Some(ClockSays::LongBefore) => "it waited for weeks, or its device's clock was wrong",
            None => "",
        };
        let gone = !e.event.step.is_empty() && !titles.contains_key(e.event.step.as_str());
        let gone = if gone { "its step is not in the plan any more" } else { "" };
        let odd = [wrong_clock, gone].into_iter().filter(|t| !t.is_empty()).collect::<Vec<_>>().join("; ");
        Line {
            number: e.number,
            id: e.event.id.clone(),
            at: e.event.at.clone(),
            taken: e.taken.clone(),
            who: e.event.who.clone(),
            place: e.event.place.clone(),
            step: titles.get(e.event.step.as_str()).map_or_else(|| e.event.step.clone(), |t| (*t).to_owned()),
            what,
            good,
            revision: e.event.revision,
            note: e.event.note.clone(),
            photos: e.event.photos.clone(),
            corrected: corrected.contains_key(&e.event.id),
            odd,
        }
    };
    entries.iter().map(one).collect()
}

/// What the record says, place by place: the walls first, then the openings in their order; places of which it says nothing are left out.
pub fn report(plan: &Plan, checks: &[Check], entries: &[Entry]) -> Vec<PlaceReport> {
    let mut by_place: HashMap<String, Vec<Line>> = HashMap::new();
    for l in lines(plan, checks, entries) {
        by_place.entry(l.place.clone()).or_default().push(l);
    }
    let mut states_at: HashMap<&str, Vec<StepState>> = HashMap::new();
    let places: HashMap<&str, &str> =
        plan.steps.iter().map(|s| (s.id.as_str(), s.opening.as_deref().unwrap_or_default())).collect();
    for s in states(plan, entries) {
        let place = places.get(s.step.as_str()).copied().unwrap_or_default();
        states_at.entry(place).or_default().push(s);
    }
    let walls = [("", "The walls themselves")].into_iter();
    let known: Vec<(&str, &str)> =
        walls.chain(plan.openings.iter().map(|o| (o.id.as_str(), o.name.as_str()))).collect();
    // What is not in the plan any more stays in the record, behind the rest.
    let mut gone: Vec<&String> = by_place.keys().filter(|p| !known.iter().any(|(id, _)| id == p)).collect();
    gone.sort();
    let gone: Vec<(String, String)> =
        gone.into_iter().map(|p| (p.clone(), "not in the plan any more".to_owned())).collect();
    let all = known.into_iter().map(|(id, name)| (id.to_owned(), name.to_owned())).chain(gone);
    all.filter_map(|(id, name)| {
        let lines = by_place.remove(&id)?;
        let steps = states_at.remove(id.as_str()).unwrap_or_default();
        let over = |s: &&StepState| !matches!(s.now, StepNow::Open | StepNow::InHand);
        let open = steps.iter().filter(over).flat_map(|s| open_at(s, checks)).collect();
        Some(PlaceReport { id, name, done: (steps.iter().filter(over).count(), steps.len()), open, lines })
    })
    .collect()
}

/// What is open at a step that is over: checks that failed or were never said anything of.
fn open_at<'a>(state: &'a StepState, checks: &'a [Check]) -> impl Iterator<Item = String> + 'a {
    let is_over = state.now != StepNow::LeftOut;
    checks.iter().filter(move |c| is_over && c.step == state.step && !c.removed).filter_map(|c| {
        if state.bad.contains(&c.id) {
            Some(format!("{}: not as it should be", c.name))
        } else if state.mended.contains(&c.id) {
            Some(format!("{}: mended, not looked at again", c.name))
        } else if state.alone.contains(&c.id) {
            Some(format!("{}: only who did it has looked", c.name))
        } else if c.by == crate::recipe::checks::Eyes::Other && !state.good.contains(&c.id) {
            Some(format!("{}: nobody has looked", c.name))
        } else {
            None
        }
    })
}
