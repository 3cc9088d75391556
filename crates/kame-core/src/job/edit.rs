use super::{Job, OpeningSpec, Problem, SequenceSpec};
use crate::length::Length;
use crate::plan::{Plan, build};
use serde::{Deserialize, Serialize};

/// One change to a job. What is left out stays as it is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "edit", rename_all = "snake_case", deny_unknown_fields)]
pub enum Edit {
    /// Another name for the job.
    Rename {
        /// The new name.
        name: String,
    },
    /// Another name or size of the wall.
    SetWall {
        /// What people call it.
        #[serde(default)]
        name: Option<String>,
        /// Corner to corner.
        #[serde(default)]
        width: Option<Length>,
        /// From the bottom plate.
        #[serde(default)]
        height: Option<Length>,
    },
    /// Another place or size of an opening.
    SetOpening {
        /// Which.
        id: String,
        /// What people call it.
        #[serde(default)]
        name: Option<String>,
        /// From the wall's left end.
        #[serde(default)]
        left: Option<Length>,
        /// From the bottom plate.
        #[serde(default)]
        sill: Option<Length>,
        /// Rough opening.
        #[serde(default)]
        width: Option<Length>,
        /// Rough opening.
        #[serde(default)]
        height: Option<Length>,
        /// Depth of the wall.
        #[serde(default)]
        depth: Option<Length>,
        /// Width of the flange.
        #[serde(default)]
        flange: Option<Length>,
    },
    /// One more opening.
    AddOpening {
        /// All of it.
        opening: OpeningSpec,
    },
    /// An opening less.
    RemoveOpening {
        /// Which.
        id: String,
    },
    /// A figure of this job's own; without a value the profile's is in force again.
    SetFigure {
        /// Which.
        id: String,
        /// The value as text.
        #[serde(default)]
        value: Option<String>,
    },
    /// A step moved before another, or to the end.
    MoveStep {
        /// Which.
        step: String,
        /// Before which; without one, to the end.
        #[serde(default)]
        before: Option<String>,
    },
    /// A step or a single action left out.
    RemoveStep {
        /// Id of the step or action.
        step: String,
    },
    /// A step or action done after all.
    RestoreStep {
        /// Id of the step or action.
        step: String,
    },
    /// The recipes' own order, nothing left out.
    RestoreOrder,
    /// A piece ticked off at the bench, or not.
    Tick {
        /// Id of the piece.
        piece: String,
        /// Cut or not.
        cut: bool,
    },
}

fn set<T>(slot: &mut T, value: &Option<T>)
where
    T: Clone,
{
    if let Some(v) = value {
        *slot = v.clone();
    }
}

/// The job after one edit, with its plan. The job given is left as it is.
///
/// # Errors
/// What is wrong with the job that would result.
pub fn apply(job: &Job, edit: &Edit) -> Result<(Job, Plan), Vec<Problem>> {
    let mut next = job.clone();
    let no = |path: &str, message: String| Err(vec![Problem::new(path, message)]);
    match edit {
        Edit::Rename { name } => next.name = name.trim().to_owned(),
        Edit::SetWall { name, width, height } => {
            set(&mut next.wall.name, name);
            set(&mut next.wall.width, width);
            set(&mut next.wall.height, height);
        }
        Edit::SetOpening { id, name, left, sill, width, height, depth, flange } => {
            let Some(o) = next.openings.iter_mut().find(|o| o.id == *id) else {
                return no(
                    "$.id",
                    format!("there is no opening \"{id}\" on this wall; it may have been removed meanwhile"),
                );
            };
            set(&mut o.name, name);
            for (slot, value) in [
                (&mut o.left, left),
                (&mut o.sill, sill),
                (&mut o.width, width),
                (&mut o.height, height),
                (&mut o.depth, depth),
                (&mut o.flange, flange),
            ] {
                set(slot, value);
            }
        }
        Edit::AddOpening { opening } => next.openings.push(opening.clone()),
        Edit::RemoveOpening { id } => {
            let before = next.openings.len();
            next.openings.retain(|o| o.id != *id);
            if next.openings.len() == before {
                return no(
                    "$.id",
                    format!("there is no opening \"{id}\" on this wall; it may have been removed meanwhile"),
                );
            }
            let prefix = format!("{id}/");
            for list in [&mut next.sequence.order, &mut next.sequence.removed, &mut next.ticks] {
                list.retain(|s| !s.starts_with(&prefix));
            }
        }
        Edit::SetFigure { id, value } => {
            match value {
                Some(v) => next.figures.insert(id.clone(), v.clone()),
                None => next.figures.remove(id),
            };
        }
        Edit::MoveStep { step, before } => next.sequence.order = moved(job, step, before.as_deref())?,
        Edit::RemoveStep { step } => {
            known_step(job, step)?;
            if !next.sequence.removed.contains(step) {
                next.sequence.removed.push(step.clone());
            }
        }
        Edit::RestoreStep { step } => next.sequence.removed.retain(|s| s != step),
        Edit::RestoreOrder => next.sequence = SequenceSpec::default(),
        Edit::Tick { piece, cut } => {
            next.ticks.retain(|p| p != piece);
            if *cut {
                if !build(job)?.pieces.iter().any(|p| p.id == *piece) {
                    return no(
                        "$.piece",
                        format!("there is no piece \"{piece}\" in the cut list; it may have changed meanwhile"),
                    );
                }
                next.ticks.push(piece.clone());
            }
        }
    }
    let plan = build(&next)?;
    // What no longer exists is forgotten, so that it does not come back to life under an old name.
    let alive = |id: &String| plan.steps.iter().any(|s| s.id == *id || s.actions.iter().any(|a| a.id == *id));
    next.sequence.order.retain(alive);
    next.sequence.removed.retain(alive);
    next.ticks.retain(|t| plan.pieces.iter().any(|p| p.id == *t));
    Ok((next, plan))
}

fn known_step(job: &Job, id: &str) -> Result<Plan, Vec<Problem>> {
    let plan = build(job)?;
    if plan.steps.iter().any(|s| s.id == id || s.actions.iter().any(|a| a.id == id)) {
        return Ok(plan);
    }
    Err(vec![Problem::new("$.step", format!("there is no step \"{id}\" in this job; it may have changed meanwhile"))])
}

fn moved(job: &Job, step: &str, before: Option<&str>) -> Result<Vec<String>, Vec<Problem>> {
    let plan = known_step(job, step)?;
    let mut order: Vec<String> = plan.order.iter().map(|&s| plan.steps[s].id.clone()).collect();
    order.retain(|s| s != step);
    let at = match before {
        None => order.len(),
        Some(b) if b == step => return Ok(job.sequence.order.clone()),
        Some(b) => order.iter().position(|s| s == b).ok_or_else(|| {
            vec![Problem::new(
                "$.before",
                format!("there is no step \"{b}\" to move it before; it may have changed meanwhile"),
            )]
        })?,
    };
    order.insert(at, step.to_owned());
    let own: Vec<&String> = plan.steps.iter().map(|s| &s.id).collect();
    // Back in the recipes' own order there is nothing to keep.
    Ok(if order.iter().eq(own) { Vec::new() } else { order })
}
