//! What one trade leaves for the next, place by place (handbook 6.11).

use crate::plan::Plan;
use crate::record::{StepNow, StepState};
use crate::trade::{Act, FlapId, PieceId, StepId, Trade};
use serde::Serialize;
use std::collections::HashMap;

/// Something that one trade leaves and another goes on with.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct HandoverLine {
    /// Id of the opening; empty for the walls.
    pub place: String,
    /// Who leaves it.
    pub from: Trade,
    /// Who goes on with it.
    pub to: Trade,
    /// What is left and what to do with it.
    pub says: String,
    /// The step that goes on with it.
    pub step: String,
    /// True where what is left is there, by the record.
    pub ready: bool,
}

/// Every handover of a plan in the order of work.
pub fn handover(plan: &Plan, states: &[StepState]) -> Vec<HandoverLine> {
    let done: HashMap<&str, bool> = states
        .iter()
        .map(|s| (s.step.as_str(), matches!(s.now, StepNow::Done | StepNow::LookedAt | StepNow::Failed)))
        .collect();
    let mut laid: HashMap<PieceId, StepId> = HashMap::new();
    let mut lifted: HashMap<FlapId, StepId> = HashMap::new();
    let mut last: HashMap<&str, StepId> = HashMap::new();
    let mut out: Vec<HandoverLine> = Vec::new();
    for s in plan.order.iter().copied().filter(|s| !plan.is_removed(&plan.steps[*s].id)) {
        let step = &plan.steps[s];
        let place = step.opening.as_deref().unwrap_or_default();
        let to = step.phase.trade();
        let mut tell = |from: StepId, says: String| {
            let before = &plan.steps[from];
            if before.phase.trade() != to {
                let place =
                    if place.is_empty() { before.opening.clone().unwrap_or_default() } else { place.to_owned() };
                let ready = done.get(before.id.as_str()).copied().unwrap_or(false);
                let line = HandoverLine { place, from: before.phase.trade(), to, says, step: step.id.clone(), ready };
                if !out.contains(&line) {
                    out.push(line);
                }
            }
        };
        if let Some(before) = last.get(place).filter(|_| !place.is_empty()) {
            tell(*before, format!("After \"{}\" comes \"{}\".", plan.steps[*before].title, step.title));
        }
        for action in &step.actions {
            match &action.act {
                Act::Place { piece, under } => {
                    for over in under {
                        if let Some(from) = laid.get(over) {
                            let (over, piece) = (&plan.pieces[*over].name, &plan.pieces[*piece].name);
                            tell(*from, format!("The {over} hangs free: tuck the {piece} under it."));
                        }
                    }
                }
                Act::Drop { flap } => {
                    if let Some(from) = lifted.get(flap) {
                        tell(*from, format!("The flap over it is held up: bring it down at \"{}\".", step.title));
                    }
                }
                Act::Lift { flap } => drop(lifted.insert(*flap, s)),
                Act::Remove { piece: Some(piece) } => {
                    if let Some(from) = laid.get(piece) {
                        tell(*from, format!("The {} is temporary: take it away.", plan.pieces[*piece].name));
                    }
                }
                _ => {}
            }
            if let Some(piece) = action.act.placed() {
                laid.insert(piece, s);
            }
        }
        last.insert(place, s);
    }
    out
}
