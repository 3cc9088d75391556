//! The wall as it stands at an hour of the calendar: what is done by the record, and what is booked to be over by then.

use super::ground::Booked;
use crate::job::SequenceSpec;
use crate::plan::Plan;
use crate::record::{Entry, as_built};
use crate::takeoff::step_minutes;
use std::collections::{HashMap, HashSet};

/// The order in which the wall is built up to a minute of the calendar, counted from midnight of its first day, and how many actions are done by
/// then: what is on record, in the order in which it was done, then the steps whose last part is over, in the order in which they end. What is
/// booked later comes behind them, by its end too.
pub fn at_minute(
    plan: &Plan,
    planned: &SequenceSpec,
    entries: &[Entry],
    tasks: &[Booked],
    minute: u32,
) -> (SequenceSpec, usize) {
    let (built, actions) = as_built(plan, planned, entries);
    let mut today = plan.clone();
    today.put_in_order(&built);
    let mut ends: HashMap<&str, u32> = HashMap::new();
    for t in tasks {
        let end = ends.entry(t.step.as_str()).or_default();
        *end = (*end).max(t.to);
    }
    let minutes = step_minutes(&today);
    // The first steps are those that are done already: together they take the actions that are.
    let (mut counted, mut before) = (0, 0);
    let (mut done, mut booked, mut rest) = (Vec::new(), Vec::new(), Vec::new());
    for &s in &today.order {
        let step = &today.steps[s];
        let many = match today.is_removed(&step.id) {
            true => 0,
            false => step.actions.iter().filter(|a| !today.is_removed(&a.id)).count(),
        };
        let booked_to = ends.get(step.id.as_str()).copied();
        if booked_to.is_none() && counted + many <= actions {
            counted += many;
            done.push(step.id.clone());
        } else if let Some(end) = booked_to.or_else(|| (minutes[s] <= 0.0).then_some(before)) {
            // What takes no minutes is over with the step before it.
            before = end;
            booked.push((end, many, step.id.clone()));
        } else {
            rest.push(step.id.clone());
        }
    }
    booked.sort_by_key(|b| b.0);
    let over: usize = booked.iter().filter(|b| b.0 <= minute).map(|b| b.1).sum();
    let mut seen = HashSet::new();
    let order = done.into_iter().chain(booked.into_iter().map(|b| b.2)).chain(rest);
    let order = order.filter(|id| seen.insert(id.clone())).collect();
    (SequenceSpec { order, removed: built.removed }, actions + over)
}
