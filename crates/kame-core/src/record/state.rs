//! How the work stands, by the record alone.

use super::chain::Entry;
use super::event::What;
use crate::job::SequenceSpec;
use crate::plan::Plan;
use serde::Serialize;
use std::collections::{BTreeMap, HashMap, HashSet};

/// How a step stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum StepNow {
    /// Nothing was said of it.
    Open,
    /// Begun.
    InHand,
    /// Done.
    Done,
    /// Done, and all that is looked at was.
    LookedAt,
    /// A check of it is not as it should be.
    Failed,
    /// Left out.
    LeftOut,
}

/// A step as the record has it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepState {
    /// Its id.
    pub step: String,
    /// How it stands.
    pub now: StepNow,
    /// Who said so last; empty where nobody did.
    pub who: String,
    /// When, by the device's clock; empty where nobody did.
    pub at: String,
    /// What was said to it besides.
    pub notes: Vec<String>,
    /// Ids of its checks that were as they should be when they were last read or looked at.
    pub good: Vec<String>,
    /// Ids of those that were not.
    pub bad: Vec<String>,
}

/// Entries that hold: what was corrected is as if it had not been said.
fn holding(entries: &[Entry]) -> impl Iterator<Item = &Entry> {
    let corrected = |e: &Entry| match &e.event.what {
        What::Corrects { id } => Some(id.clone()),
        _ => None,
    };
    let wrong: HashSet<String> = entries.iter().filter_map(corrected).collect();
    entries.iter().filter(move |e| !wrong.contains(&e.event.id))
}

/// The wall as it is built today: the steps that were done, in the order in which they were, before all others, and how many actions that is.
pub fn as_built(plan: &Plan, planned: &SequenceSpec, entries: &[Entry]) -> (SequenceSpec, usize) {
    let known: HashSet<&str> = plan.steps.iter().map(|s| s.id.as_str()).collect();
    let (mut done, mut left_out): (HashSet<String>, Vec<String>) = (HashSet::new(), Vec::new());
    let mut order: Vec<String> = Vec::new();
    for e in holding(entries).filter(|e| known.contains(e.event.step.as_str())) {
        let step = &e.event.step;
        match e.event.what {
            What::Done | What::Otherwise if done.insert(step.clone()) => order.push(step.clone()),
            What::LeftOut => left_out.push(step.clone()),
            _ => {}
        }
    }
    let mut seen: HashSet<String> = done.clone();
    left_out.retain(|id| seen.insert(id.clone()));
    // What was done although the plan leaves it out is there.
    let removed = planned.removed.iter().filter(|id| !done.contains(*id)).cloned().chain(left_out).collect();
    order.extend(plan.order.iter().map(|s| plan.steps[*s].id.clone()).filter(|id| !done.contains(id)));
    let mut today = plan.clone();
    let sequence = SequenceSpec { order, removed };
    today.put_in_order(&sequence);
    let actions = today.actions().filter(|(s, _)| done.contains(&today.steps[*s].id)).count();
    (sequence, actions)
}

/// Every step of a plan in its order, as the record has it.
pub fn states(plan: &Plan, entries: &[Entry]) -> Vec<StepState> {
    let mut said: HashMap<&str, Vec<&Entry>> = HashMap::new();
    for e in holding(entries) {
        said.entry(e.event.step.as_str()).or_default().push(e);
    }
    let one = |id: &str| {
        let list = said.get(id).map_or(&[][..], Vec::as_slice);
        let mut checks: BTreeMap<&str, bool> = BTreeMap::new();
        let mut now = StepNow::Open;
        for e in list {
            match &e.event.what {
                What::Begun if now == StepNow::Open => now = StepNow::InHand,
                What::Done | What::Otherwise => now = StepNow::Done,
                What::LeftOut => now = StepNow::LeftOut,
                // The last reading of a check is the one that counts.
                What::Reading { check, good: Some(good), .. } | What::Looked { check, good } => {
                    checks.insert(check, *good);
                }
                _ => {}
            }
        }
        if checks.values().any(|good| !good) {
            now = StepNow::Failed;
        } else if now == StepNow::Done && !checks.is_empty() {
            now = StepNow::LookedAt;
        }
        let last = list.last();
        let those = |so: bool| checks.iter().filter(|(_, good)| **good == so).map(|(id, _)| (*id).to_owned()).collect();
        StepState {
            good: those(true),
            bad: those(false),
            step: id.to_owned(),
            now,
            who: last.map(|e| e.event.who.clone()).unwrap_or_default(),
            at: last.map(|e| e.event.at.clone()).unwrap_or_default(),
            notes: list.iter().map(|e| e.event.note.clone()).filter(|n| !n.is_empty()).collect(),
        }
    };
    plan.order.iter().map(|s| one(&plan.steps[*s].id)).collect()
}
