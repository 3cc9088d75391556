//! Whether a wall still holds where something is done other than planned: the finished wall before and after, and what is new in it.

use super::ask::{Known, data_problem};
use super::check::CheckedFinding;
use super::verdict::VerdictView;
use crate::findings::{Moment, Severity, by_cause};
use crate::job::SequenceSpec;
use crate::plan::Plan;
use crate::problem::Problem;
use serde::Serialize;
use std::collections::HashSet;

/// Whether a wall still holds.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct HoldsView {
    /// True where nothing new is wrong with the finished wall.
    pub holds: bool,
    /// The same in a sentence, with what is wrong first.
    pub says: String,
    /// The finished wall as it would have been.
    pub before: VerdictView,
    /// As it will be now, where everything else goes on as planned.
    pub after: VerdictView,
    /// What is wrong with it that was not, the worst first.
    pub new: Vec<CheckedFinding>,
}

/// A wall with what was found on it when it is finished in an order.
fn finished(plan: &Plan, known: &Known) -> Result<(VerdictView, Vec<CheckedFinding>), Vec<Problem>> {
    let moment = Moment::with_known(plan, usize::MAX, &known.water).map_err(data_problem)?;
    let found = moment.findings(plan);
    let all = by_cause(plan, &found).into_iter().map(|c| CheckedFinding {
        code: c.told.code.clone(),
        severity: c.told.severity,
        pieces: c.told.pieces.clone(),
        features: c.at.iter().map(|id| (*id).to_owned()).collect(),
        reason: c.told.reason.clone(),
        remedy: c.told.remedy.clone(),
    });
    let all = all.collect();
    Ok((VerdictView::of(plan, &moment.verdict(plan, &found), &found), all))
}

/// A plan with the order in which it is really built.
fn in_order(plan: &Plan, sequence: &SequenceSpec) -> Plan {
    let mut plan = plan.clone();
    plan.put_in_order(sequence);
    plan
}

/// Holds a wall as it will be against the same wall as it would have been, each with its order of work: what was done first, the rest as planned.
///
/// # Errors
/// What cannot be answered, or that the asker stopped asking.
pub fn holds(
    (before, order_before): (&Plan, &SequenceSpec),
    (after, order_after): (&Plan, &SequenceSpec),
    known: &Known,
) -> Result<HoldsView, Vec<Problem>> {
    let (before, was) = finished(&in_order(before, order_before), known)?;
    let (after, now) = finished(&in_order(after, order_after), known)?;
    // The same at another place is new too: its words are the same, its place is not.
    let at = |f: &CheckedFinding| -> Vec<(String, String, String)> {
        let places = if f.features.is_empty() { vec![String::new()] } else { f.features.clone() };
        places.into_iter().map(|p| (f.code.clone(), f.reason.clone(), p)).collect()
    };
    let known_before: HashSet<(String, String, String)> = was.iter().flat_map(at).collect();
    let new: Vec<CheckedFinding> =
        now.into_iter().filter(|f| at(f).iter().any(|key| !known_before.contains(key))).collect();
    let bad = new.iter().find(|f| f.severity <= Severity::Fault);
    // A worse verdict that is not dry holds in no case, whatever was told before.
    let worse = after.state < before.state && !after.dry;
    let says = match bad {
        Some(f) => format!("It does not hold. {} {}", f.reason, f.remedy),
        None if worse => format!("It does not hold: {}.", after.says),
        None if after.state < before.state => format!("It holds, with less to spare: {}.", after.says),
        None => format!("It holds: {}.", after.says),
    };
    Ok(HoldsView { holds: bad.is_none() && !worse, says: says.trim_end().to_owned(), before, after, new })
}
