//! Changes of the order of work: steps moved, left out and put back.

use super::{Edit, forget_what_is_gone, ids};
use crate::job::{Job, SequenceSpec};
use crate::plan::{Plan, build};
use crate::problem::Problem;
use crate::sequence::nearest_working_order;
use crate::trade::StepId;

/// The job with its steps in another order, or others of them left out. What is built stays as it is, so it is built once.
pub(super) fn in_another_order(mut job: Job, edit: &Edit) -> Result<(Job, Plan), Vec<Problem>> {
    let mut plan = build(&job)?;
    let sequence = &mut job.sequence;
    match edit {
        Edit::MoveStep { step, before } => sequence.order = moved(&plan, &sequence.order, step, before.as_deref())?,
        Edit::RemoveStep { step } => {
            known_step(&plan, step)?;
            if !sequence.removed.contains(step) {
                sequence.removed.push(step.clone());
            }
        }
        Edit::RestoreStep { step } => {
            let of = plan.steps.iter().find(|s| s.id == *step);
            let in_it = |id: &str| of.is_some_and(|s| s.actions.iter().any(|a| a.id == id));
            sequence.removed.retain(|id| id != step && !in_it(id));
        }
        Edit::PutRight => sequence.order = named(&plan, &nearest_working_order(&plan).order),
        _ => *sequence = SequenceSpec::default(),
    }
    plan.put_in_order(&job.sequence);
    forget_what_is_gone(&mut job, &plan);
    Ok((job, plan))
}

fn moved(plan: &Plan, listed: &[String], step: &str, before: Option<&str>) -> Result<Vec<String>, Vec<Problem>> {
    known_step(plan, step)?;
    if before == Some(step) {
        return Ok(listed.to_vec());
    }
    let at = |id: &str| plan.order.iter().copied().find(|&s| plan.steps[s].id == id);
    let Some(moves) = at(step) else {
        let message = format!("\"{step}\" is an action; whole steps are moved: name its step");
        return Err(vec![Problem::new("$.step", message)]);
    };
    let mut order: Vec<StepId> = plan.order.iter().copied().filter(|s| *s != moves).collect();
    let to = match before {
        None => order.len(),
        Some(b) => at(b).and_then(|b| order.iter().position(|s| *s == b)).ok_or_else(|| {
            vec![Problem::new(
                "$.before",
                format!("there is no step \"{b}\" to move it before; it may have changed meanwhile"),
            )]
        })?,
    };
    order.insert(to, moves);
    Ok(named(plan, &order))
}

/// Ids of steps in an order; none where it is the recipes' own, in which there is nothing to keep.
fn named(plan: &Plan, order: &[StepId]) -> Vec<String> {
    let own = order.iter().copied().eq(plan.steps.keys());
    if own { Vec::new() } else { order.iter().map(|&s| plan.steps[s].id.clone()).collect() }
}

fn known_step(plan: &Plan, id: &str) -> Result<(), Vec<Problem>> {
    if ids(plan).contains(id) {
        return Ok(());
    }
    Err(vec![Problem::new("$.step", format!("there is no step \"{id}\" in this job; it may have changed meanwhile"))])
}
