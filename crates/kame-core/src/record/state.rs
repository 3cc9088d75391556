//! How the work stands, by the record alone.

use super::chain::Entry;
use super::event::What;
use crate::plan::Plan;
use serde::Serialize;
use std::collections::{HashMap, HashSet};

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
}

/// Every step of a plan in its order, as the record has it. What was corrected is as if it had not been said.
pub fn states(plan: &Plan, entries: &[Entry]) -> Vec<StepState> {
    let wrong: HashSet<&str> = entries
        .iter()
        .filter_map(|e| match &e.event.what {
            What::Corrects { id } => Some(id.as_str()),
            _ => None,
        })
        .collect();
    let mut said: HashMap<&str, Vec<&Entry>> = HashMap::new();
    for e in entries.iter().filter(|e| !wrong.contains(e.event.id.as_str())) {
        said.entry(e.event.step.as_str()).or_default().push(e);
    }
    let one = |id: &str| {
        let list = said.get(id).map_or(&[][..], Vec::as_slice);
        let mut checks: HashMap<&str, bool> = HashMap::new();
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
        StepState {
            step: id.to_owned(),
            now,
            who: last.map(|e| e.event.who.clone()).unwrap_or_default(),
            at: last.map(|e| e.event.at.clone()).unwrap_or_default(),
            notes: list.iter().map(|e| e.event.note.clone()).filter(|n| !n.is_empty()).collect(),
        }
    };
    plan.order.iter().map(|s| one(&plan.steps[*s].id)).collect()
}
