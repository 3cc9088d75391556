//! What was measured at a place, put together: the opening against its unit.

use super::fit::{Fit, Rough, RoundRoom, fit};
use super::go::{Conditions, Go, GoAnswer, PutOn, go};
use crate::checks::Check;
use crate::length::Length;
use crate::plan::Plan;
use crate::profile::fig;
use crate::recipe::checks::Reads;
use crate::trade::Act;
use std::collections::BTreeMap;

/// The opening of a plan held against its unit, by readings of its checks; `None` where there is no such opening.
pub fn fit_of(plan: &Plan, checks: &[Check], opening: &str, readings: &BTreeMap<String, Vec<f64>>) -> Option<Fit> {
    let o = plan.openings.iter().find(|o| o.id == opening)?;
    let inches = |f| plan.basis.figures.length(f).to_inches_f64();
    let mut rough = Rough::default();
    for c in checks.iter().filter(|c| c.opening == opening) {
        let (Some(reads), Some(values)) = (c.reads, readings.get(&c.id)) else { continue };
        match reads {
            Reads::Widths => rough.widths.clone_from(values),
            Reads::Heights => rough.heights.clone_from(values),
            Reads::Diagonals => rough.diagonals.clone_from(values),
            Reads::Jambs => rough.jambs.clone_from(values),
            Reads::Level => rough.level = values.first().map(|v| v * c.times),
        }
    }
    let usual = plan.basis.figures.length(fig::CLEARANCE);
    let less = |l: Length| (l - usual - usual).to_inches_f64().max(0.0);
    let room = RoundRoom {
        least: inches(fig::CLEARANCE_LEAST),
        most: inches(fig::CLEARANCE_MOST),
        corner: inches(fig::SHIM_CORNER),
        spacing: inches(fig::SHIM_SPACING),
    };
    Some(fit(&rough, [less(o.rect.width()), less(o.rect.height())], &room))
}

/// Whether a step may be done as it is now: the hardest of what its products say. `None` where it neither sticks, coats, seals nor hangs a sheet, or is
/// not in the plan.
pub fn go_of(plan: &Plan, step: &str, now: &Conditions) -> Option<GoAnswer> {
    let step = plan.steps.iter().find(|s| s.id == step)?;
    let mut out: Option<GoAnswer> = None;
    for action in &step.actions {
        let (product, put_on) = match action.act {
            Act::Press { piece } => (&plan.pieces[piece].product, PutOn::Stuck),
            Act::Coat { piece, .. } => (&plan.pieces[piece].product, PutOn::Coated),
            Act::Seal { seal } => (&plan.seals[seal].product, PutOn::Sealed),
            Act::Place { piece, .. } if plan.pieces[piece].role.is_barrier() => {
                (&plan.pieces[piece].product, PutOn::Hung)
            }
            _ => continue,
        };
        let Some(product) = plan.product(product) else { continue };
        let answer = go(product, put_on, now, &plan.basis.figures);
        out = Some(match out {
            None => answer,
            Some(mut all) => {
                for s in answer.says {
                    if !all.says.contains(&s) {
                        if answer.go > all.go { all.says.insert(0, s) } else { all.says.push(s) }
                    }
                }
                all.go = all.go.max(answer.go);
                all.skin_min = match (all.skin_min, answer.skin_min) {
                    (Some(a), Some(b)) => Some(a.min(b)),
                    (a, b) => a.or(b),
                };
                all
            }
        });
    }
    out.map(|mut a| {
        if a.go == Go::Go && a.says.is_empty() {
            a.says.push("Nothing stands against it.".into());
        }
        a
    })
}
