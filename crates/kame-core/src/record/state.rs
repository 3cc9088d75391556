//! How the work stands, by the record alone.

use super::chain::Entry;
use super::event::{Event, What};
use crate::job::SequenceSpec;
use crate::plan::Plan;
use crate::recipe::checks::{Eyes, check_at};
use crate::trade::StepId;
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
    /// Id of the step.
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
    /// Ids of those that somebody else has to look at, and that who did the step has looked at alone.
    pub alone: Vec<String>,
    /// Ids of those that nobody can reach any more.
    pub unreached: Vec<String>,
    /// Ids of those that were not, were put right, and have to be looked at again.
    pub mended: Vec<String>,
    /// What was last read, check by check.
    pub read: Vec<LastRead>,
    /// Photographs that belong to it.
    pub photos: Vec<String>,
    /// Where two who did not know of each other said different things.
    pub differ: Vec<Differ>,
}

impl StepState {
    /// Forgets who said what, for whoever is not of the firm: names, notes and photographs.
    pub fn without_names(&mut self) {
        self.who.clear();
        self.notes.clear();
        self.photos.clear();
        self.differ.iter_mut().for_each(|d| d.who = Default::default());
    }
}

/// The last readings of a check.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LastRead {
    /// Id of the check.
    pub check: String,
    /// The readings, or what stands on a label, in its unit, as they were written.
    pub values: Vec<String>,
}

/// Two who said different things of the same without knowing of each other. Both entries stay.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Differ {
    /// Id of the check; empty where it is about the step itself.
    pub check: String,
    /// Numbers of the two entries.
    pub entries: [u64; 2],
    /// Who said the one, and who the other.
    pub who: [String; 2],
}

/// Entries that hold: what was corrected is as if it had not been said.
pub fn holding(entries: &[Entry]) -> impl Iterator<Item = &Entry> {
    let corrected = |e: &Entry| match &e.event.what {
        What::Corrects { id } => Some(id.clone()),
        _ => None,
    };
    let wrong: HashSet<String> = entries.iter().filter_map(corrected).collect();
    entries.iter().filter(move |e| !wrong.contains(&e.event.id))
}

/// The wall as it is built today: the steps that were done, in the order in which they were, before all others, and how many actions that is.
pub fn as_built(plan: &Plan, planned: &SequenceSpec, entries: &[Entry]) -> (SequenceSpec, usize) {
    order_by(plan, planned, holding(entries).map(|e| &e.event))
}

/// The same by events in their order, none of them corrected: also such as are not on record yet.
pub fn order_by<'a>(
    plan: &Plan,
    planned: &SequenceSpec,
    events: impl Iterator<Item = &'a Event>,
) -> (SequenceSpec, usize) {
    let known: HashSet<&str> = plan.steps.iter().map(|s| s.id.as_str()).collect();
    let (mut done, mut left_out): (HashSet<String>, Vec<String>) = (HashSet::new(), Vec::new());
    let mut order: Vec<String> = Vec::new();
    for e in events.filter(|e| known.contains(e.step.as_str())) {
        let step = &e.step;
        match e.what {
            What::Done | What::Otherwise if done.insert(step.clone()) => order.push(step.clone()),
            What::LeftOut => left_out.push(step.clone()),
            _ => {}
        }
    }
    let mut seen: HashSet<String> = done.clone();
    left_out.retain(|id| seen.insert(id.clone()));
    // What was done although the plan leaves it out is there.
    let removed = planned.removed.iter().filter(|id| !done.contains(*id)).cloned().chain(left_out).collect();
    // What was found once these were done comes before what is still to do.
    let found = |s: &&StepId| {
        let step = &plan.steps[**s];
        let of = plan
            .departures
            .damages
            .iter()
            .find(|d| step.id.strip_prefix(&d.id).is_some_and(|rest| rest.starts_with('/')));
        of.and_then(|d| d.after.as_ref()).is_some_and(|after| done.contains(after))
    };
    let first = plan.order.iter().filter(found);
    let rest = plan.order.iter().filter(|s| !found(s));
    let to_do = first.chain(rest).map(|s| plan.steps[*s].id.clone()).filter(|id| !done.contains(id));
    order.extend(to_do);
    let mut today = plan.clone();
    let sequence = SequenceSpec { order, removed };
    today.put_in_order(&sequence);
    let actions = today.actions().filter(|(s, _)| done.contains(&today.steps[*s].id)).count();
    (sequence, actions)
}

/// What an entry says of a check or of its step, so that two can be told apart; `None` where it says nothing of that kind.
fn verdict(event: &Event) -> Option<(&str, bool)> {
    match &event.what {
        What::Reading { check, good: Some(good), .. } | What::Looked { check, good } => Some((check, *good)),
        What::Done => Some(("", true)),
        What::LeftOut => Some(("", false)),
        _ => None,
    }
}

/// Neither had heard of the other's: each wrote before the other's was taken. Times are RFC 3339 in UTC, which sort as text.
fn apart(a: &Entry, b: &Entry) -> bool {
    a.event.at < b.taken && b.event.at < a.taken && a.event.who != b.event.who
}

/// Where two differ who did not know of each other; what somebody said who knew of both settles it.
fn differing(list: &[&Entry]) -> Vec<Differ> {
    let mut last: BTreeMap<&str, Vec<(&Entry, bool)>> = BTreeMap::new();
    for e in list {
        if let Some((check, good)) = verdict(&e.event) {
            let said = last.entry(check).or_default();
            said.retain(|(before, _)| apart(before, e));
            said.push((e, good));
        }
    }
    let pair = |(check, said): (&str, Vec<(&Entry, bool)>)| {
        let (last, rest) = said.split_last()?;
        let other = rest.iter().find(|(_, good)| *good != last.1)?.0;
        let (a, b) = (other, last.0);
        let who = [a.event.who.clone(), b.event.who.clone()];
        Some(Differ { check: check.to_owned(), entries: [a.number, b.number], who })
    };
    last.into_iter().filter_map(pair).collect()
}

/// What was last said of a check.
#[derive(Clone, Copy, PartialEq, Eq)]
enum SaidLast {
    Good,
    Alone,
    Bad,
    Unreached,
    Mended,
}

/// Every step of a plan in its order, as the record has it.
pub fn states(plan: &Plan, entries: &[Entry]) -> Vec<StepState> {
    let mut said: HashMap<&str, Vec<&Entry>> = HashMap::new();
    for e in holding(entries) {
        said.entry(e.event.step.as_str()).or_default().push(e);
    }
    let nothing = Vec::new();
    plan.order
        .iter()
        .map(|s| plan.steps[*s].id.as_str())
        .map(|id| state(id, said.get(id).unwrap_or(&nothing)))
        .collect()
}

/// Names are the same however they are written.
fn same(a: &str, b: &str) -> bool {
    a.trim().to_lowercase() == b.trim().to_lowercase()
}

/// True for a check that somebody other than the installer has to look at.
fn wants_others(check: &str) -> bool {
    check_at(check).is_ok_and(|c| c.by == Eyes::Other)
}

fn state(id: &str, list: &[&Entry]) -> StepState {
    let did = |e: &&&Entry| matches!(e.event.what, What::Done | What::Otherwise | What::Begun);
    let by: Vec<&str> = list.iter().filter(did).map(|e| e.event.who.as_str()).collect();
    let mut checks: BTreeMap<&str, SaidLast> = BTreeMap::new();
    let mut read: BTreeMap<&str, Vec<String>> = BTreeMap::new();
    let mut now = StepNow::Open;
    for e in list {
        match &e.event.what {
            What::Begun if now == StepNow::Open => now = StepNow::InHand,
            What::Done | What::Otherwise => now = StepNow::Done,
            What::LeftOut => now = StepNow::LeftOut,
            // The last reading of a check is the one that counts.
            What::Reading { check, good: Some(good), .. } | What::Looked { check, good } => {
                let alone = || wants_others(check) && by.iter().any(|who| same(who, &e.event.who));
                let said = match good {
                    false => SaidLast::Bad,
                    true if alone() => SaidLast::Alone,
                    true => SaidLast::Good,
                };
                checks.insert(check, said);
            }
            What::NotReached { check } => drop(checks.insert(check, SaidLast::Unreached)),
            What::Mended { check } => drop(checks.insert(check, SaidLast::Mended)),
            _ => {}
        }
        match &e.event.what {
            What::Reading { check, values, .. } => drop(read.insert(check, values.clone())),
            What::Lot { check, text } => drop(read.insert(check, vec![text.clone()])),
            _ => {}
        }
    }
    if checks.values().any(|s| matches!(s, SaidLast::Bad | SaidLast::Mended)) {
        now = StepNow::Failed;
    } else if now == StepNow::Done && checks.values().any(|s| *s == SaidLast::Good) {
        now = StepNow::LookedAt;
    }
    let last = list.last();
    let those = |so: SaidLast| checks.iter().filter(|(_, s)| **s == so).map(|(id, _)| (*id).to_owned()).collect();
    StepState {
        good: those(SaidLast::Good),
        bad: those(SaidLast::Bad),
        alone: those(SaidLast::Alone),
        unreached: those(SaidLast::Unreached),
        mended: those(SaidLast::Mended),
        step: id.to_owned(),
        now,
        who: last.map(|e| e.event.who.clone()).unwrap_or_default(),
        at: last.map(|e| e.event.at.clone()).unwrap_or_default(),
        notes: list.iter().map(|e| e.event.note.clone()).filter(|n| !n.is_empty()).collect(),
        read: read.into_iter().map(|(check, values)| LastRead { check: check.to_owned(), values }).collect(),
        photos: list.iter().flat_map(|e| e.event.photos.iter().cloned()).collect(),
        differ: differing(list),
    }
}
