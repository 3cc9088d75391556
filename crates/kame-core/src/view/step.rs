//! Steps as screens show them: their actions, cuts, cards and waits.

use crate::contact::{CureWait, Finished, cure_waits_on, primers_on};
use crate::plan::Plan;
use crate::profile::fig;
use crate::trade::{Act, Phase, PieceId, StepCard, StepId, Trade};
use foldhash::HashMap;
use serde::Serialize;
use std::sync::Arc;

/// An action on the rail.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ActionView {
    /// Unique id.
    pub id: String,
    /// The same in words, for people.
    #[cfg_attr(feature = "openapi", schema(value_type = String))]
    pub label: Arc<str>,
    /// Left out.
    pub removed: bool,
    /// Its number when it is done, from 1; 0 where left out.
    pub number: usize,
    /// Id of the piece whose top edge it seals because the job asks for it besides the recipe; `null` for every other action.
    pub seals_top: Option<String>,
}

/// A step on the rail.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepView {
    /// Unique id.
    pub id: String,
    /// Title of the step.
    pub title: String,
    /// Phase.
    pub phase: Phase,
    /// Whose work it usually is.
    pub trade: Trade,
    /// At which opening, empty for the wall.
    pub opening: String,
    /// Left out.
    pub removed: bool,
    /// The card.
    #[cfg_attr(feature = "openapi", schema(value_type = StepCard))]
    pub card: Arc<StepCard>,
    /// Its actions.
    pub actions: Vec<ActionView>,
    /// Number of actions done before it starts.
    pub starts: usize,
    /// Number of actions done when it is complete.
    pub ends: usize,
    /// Letters of the pieces it places, with their cut sizes.
    pub cuts: Vec<StepCut>,
    /// What is primed before it is placed, as words with its area.
    pub primes: Vec<String>,
    /// What has to cure first.
    pub waits: Vec<StepWait>,
}

/// What has to cure before a step.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepWait {
    /// How long, in hours.
    pub hours: f64,
    /// After which step, by its title.
    pub after: String,
    /// The reason, as the middle of a sentence.
    pub because: String,
}

/// A piece that a step places.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepCut {
    /// Letter on the drawing.
    pub letter: String,
    /// What people call it.
    pub name: String,
    /// Cut size as people read it, empty where it is not cut.
    pub size: String,
}

/// All steps of a plan, in the order in force.
pub(super) fn steps(plan: &Plan, wall: &Finished) -> Result<Vec<StepView>, String> {
    let mut cures: HashMap<StepId, Vec<CureWait>> = HashMap::default();
    for w in cure_waits_on(plan, wall)? {
        cures.entry(w.step).or_default().push(w);
    }
    let primed: HashMap<PieceId, f64> = primers_on(plan, wall)?.into_iter().collect();
    let round = plan.basis.figures.length(fig::CUT_ROUND);
    let mut number = 0;
    let mut out = Vec::with_capacity(plan.order.len());
    for &s in &plan.order {
        let step = &plan.steps[s];
        let removed = plan.is_removed(&step.id);
        let starts = number;
        let mut actions = Vec::new();
        let mut cuts = Vec::new();
        let mut primes = Vec::new();
        for a in &step.actions {
            let left_out = removed || plan.is_removed(&a.id);
            number += usize::from(!left_out);
            actions.push(ActionView {
                id: a.id.clone(),
                label: a.label.clone(),
                removed: left_out,
                number: if left_out { 0 } else { number },
                seals_top: match a.act {
                    Act::Seal { seal } if plan.departures.besides.contains(&seal) => {
                        Some(plan.pieces[plan.seals[seal].behind].id.clone())
                    }
                    _ => None,
                },
            });
            if let Act::Place { piece, .. } | Act::Set { piece } = &a.act {
                let p = &plan.pieces[*piece];
                let size = p
                    .cut
                    .as_ref()
                    .map(|c| format!("{} × {}", c.length.ceil_step(round), c.width.ceil_step(round)))
                    .unwrap_or_default();
                if let Some(ft2) = primed.get(piece).filter(|ft2| **ft2 > 0.0 && !left_out) {
                    let area = if *ft2 < 0.05 { "less than 0.1".to_owned() } else { format!("{ft2:.1}") };
                    primes.push(format!("under the {}, {area} ft²", p.name));
                }
                cuts.push(StepCut { letter: p.letter.clone(), name: p.name.clone(), size });
            }
        }
        let (title, opening) = (step.title.clone(), step.opening.clone().unwrap_or_default());
        out.push(StepView {
            id: step.id.clone(),
            title,
            phase: step.phase,
            trade: step.phase.trade(),
            opening,
            removed,
            card: step.card.clone(),
            actions,
            starts,
            ends: number,
            cuts,
            primes,
            waits: cures
                .get(&s)
                .into_iter()
                .flatten()
                .filter(|_| !removed)
                .map(|w| {
                    let after = plan.steps[w.after].title.clone();
                    StepWait { hours: w.hours, after, because: w.because.clone() }
                })
                .collect(),
        });
    }
    Ok(out)
}
