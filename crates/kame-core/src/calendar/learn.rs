//! Minutes really taken against the profile's: what somebody wrote down one after another on a day says how long each step took.

use crate::date::day_number;
use crate::plan::Plan;
use crate::profile::{FigureValue, fig};
use crate::record::{Entry, What, holding};
use crate::takeoff::step_minutes;
use crate::trade::StepId;
use serde::Serialize;
use std::collections::{BTreeMap, HashMap};

/// A pause longer than this is no work, minutes: a lunch, another wall.
const PAUSE_MIN: f64 = 180.0;
/// Fewer steps than this say nothing of how long they take.
pub const LEAST_STEPS: usize = 5;

/// How long some steps took, all together.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Took {
    /// Who it is about, or which step; empty for all.
    pub of: String,
    /// How many steps.
    pub steps: usize,
    /// Minutes by the profile, as it is in force.
    pub planned: f64,
    /// Minutes taken.
    pub taken: f64,
    /// The middle one of how many times as long each step took.
    pub factor: f64,
}

/// Minutes really taken.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct MinutesTaken {
    /// All steps; `null` where too few were written down.
    pub all: Option<Took>,
    /// By who did them, most steps first.
    pub people: Vec<Took>,
    /// By the kind of step, most steps first.
    pub kinds: Vec<Took>,
    /// The figure that would say so, its value in force, and the one that is offered; `null` where too few were written down.
    pub offer: Option<Offer>,
}

/// A figure that is offered.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Offer {
    /// Id of the figure.
    pub figure: String,
    /// Its value in force.
    pub now: String,
    /// The one that is offered.
    pub offered: String,
}

/// One step as it was done.
struct DoneStep<'a> {
    who: &'a str,
    title: &'a str,
    planned: f64,
    taken: f64,
}

/// Minutes since 1970 of a time in UTC, RFC 3339.
fn minute(at: &str) -> Option<i64> {
    let number = |from: usize, to: usize| at.get(from..to)?.parse::<i64>().ok();
    Some((day_number(at.get(..10)?)? * 24 + number(11, 13)?) * 60 + number(14, 16)?)
}

/// What a record says of minutes.
pub fn learnt(plan: &Plan, entries: &[Entry]) -> MinutesTaken {
    let planned = step_minutes(plan);
    let index: HashMap<&str, StepId> = plan.steps.iter_enumerated().map(|(i, s)| (s.id.as_str(), i)).collect();
    // From the step that somebody ended last, or what they first wrote down that day, to the step they say is done: what is read and looked at
    // between belongs to it.
    let mut last: HashMap<&str, i64> = HashMap::new();
    let mut all: Vec<DoneStep> = Vec::new();
    for e in holding(entries) {
        let (Some(at), who) = (minute(&e.event.at), e.event.who.as_str()) else { continue };
        let ends = matches!(e.event.what, What::Begun | What::Done | What::Otherwise | What::LeftOut | What::Stopped);
        let before = last.get(who).copied().filter(|b| b.div_euclid(1440) == at.div_euclid(1440));
        if ends || before.is_none() {
            last.insert(who, at);
        }
        let step = index.get(e.event.step.as_str()).copied().filter(|_| e.event.what == What::Done);
        let (Some(s), Some(before)) = (step, before) else { continue };
        let taken = (at - before) as f64;
        if planned[s] > 0.0 && taken > 0.0 && taken <= PAUSE_MIN && before.div_euclid(1440) == at.div_euclid(1440) {
            all.push(DoneStep { who, title: &plan.steps[s].title, planned: planned[s], taken });
        }
    }
    let by = |key: &dyn Fn(&DoneStep) -> String| -> Vec<Took> {
        let mut groups: BTreeMap<String, Vec<&DoneStep>> = BTreeMap::new();
        all.iter().for_each(|d| groups.entry(key(d)).or_default().push(d));
        let mut out: Vec<Took> = groups.into_iter().map(|(of, steps)| took(of, &steps)).collect();
        out.sort_by_key(|t| std::cmp::Reverse(t.steps));
        out
    };
    let every: Vec<&DoneStep> = all.iter().collect();
    let whole = (every.len() >= LEAST_STEPS).then(|| took(String::new(), &every));
    let id = fig::EXPOSURE_FACTOR.id();
    let now = match plan.basis.figures.get(id) {
        Some(FigureValue::Number(n)) => n,
        _ => 1.0,
    };
    let offer = whole.as_ref().map(|t| Offer {
        figure: id.to_owned(),
        now: format!("{now}"),
        offered: format!("{:.2}", (now * t.factor).clamp(0.5, 4.0)),
    });
    MinutesTaken { all: whole, people: by(&|d| d.who.to_owned()), kinds: by(&|d| d.title.to_owned()), offer }
}

fn took(of: String, steps: &[&DoneStep]) -> Took {
    let mut factors: Vec<f64> = steps.iter().map(|d| d.taken / d.planned).collect();
    factors.sort_by(f64::total_cmp);
    let middle = factors.len() / 2;
    let even = factors.len().is_multiple_of(2) && middle > 0;
    let factor = if even { f64::midpoint(factors[middle - 1], factors[middle]) } else { factors[middle] };
    let (planned, taken) = (steps.iter().map(|d| d.planned).sum(), steps.iter().map(|d| d.taken).sum());
    Took { of, steps: steps.len(), planned, taken, factor }
}
