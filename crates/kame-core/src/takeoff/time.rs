//! Minutes of work, and the surface temperatures at which it can be done (handbook 5.7, 6.1).

use crate::plan::Plan;
use crate::profile::{NumberFigure, fig};
use crate::trade::Act;
use serde::Serialize;
use std::collections::BTreeSet;

/// One end of a range of surface temperatures.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TemperatureLimit {
    /// °F.
    pub degrees: f64,
    /// The material that sets it.
    pub product: String,
}

/// Surface temperatures at which everything of an opening can be worked, °F, with the material that sets each end.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TemperatureWindow {
    /// Least.
    pub least: Option<TemperatureLimit>,
    /// Greatest.
    pub most: Option<TemperatureLimit>,
}

/// The window of everything that an opening's pieces are made of.
pub fn temperatures(plan: &Plan, opening: usize) -> TemperatureWindow {
    let used: BTreeSet<&str> =
        plan.pieces.iter().filter(|p| p.opening == Some(opening)).map(|p| p.product.as_str()).collect();
    let mut out = TemperatureWindow::default();
    for p in plan.products.iter().filter(|p| used.contains(p.name.as_str())) {
        if let Some(f) = p.least_f.filter(|f| out.least.as_ref().is_none_or(|known| *f > known.degrees)) {
            out.least = Some(TemperatureLimit { degrees: f, product: p.name.clone() });
        }
        if let Some(f) = p.most_f.filter(|f| out.most.as_ref().is_none_or(|known| *f < known.degrees)) {
            out.most = Some(TemperatureLimit { degrees: f, product: p.name.clone() });
        }
    }
    out
}

/// Minutes of one person for each step of the plan, by the profile: so much for each action and each foot of a piece that is placed, times what
/// ladder or scaffold cost; none for steps left out.
pub fn step_minutes(plan: &Plan) -> Vec<f64> {
    let figure = |id: NumberFigure| plan.figures.number(id);
    let feet = |piece: usize| plan.pieces[piece].cut.as_ref().map_or(0.0, |c| c.length.to_inches_f64() / 12.0);
    let of = |act: &Act| match act {
        Act::Place { piece, .. } => figure(fig::MIN_PLACE) + figure(fig::MIN_FOOT) * feet(*piece),
        Act::Set { .. } => figure(fig::MIN_SET),
        Act::Press { .. } => figure(fig::MIN_PRESS),
        Act::Seal { .. } => figure(fig::MIN_SEAL),
        Act::Coat { .. } => figure(fig::MIN_COAT),
        Act::Cut { .. } | Act::Lift { .. } | Act::Drop { .. } => figure(fig::MIN_CUT),
        Act::Fasten => figure(fig::MIN_FASTEN),
        Act::Measure | Act::Hold => figure(fig::MIN_MEASURE),
        Act::Wait { .. } | Act::Remove { .. } => 0.0,
    };
    let mut out = vec![0.0; plan.steps.len()];
    for (s, action) in plan.actions() {
        out[s] += of(&action.act) * figure(fig::EXPOSURE_FACTOR);
    }
    out
}

/// Minutes of the steps of one opening.
pub fn minutes(plan: &Plan, opening: usize) -> f64 {
    let id = &plan.openings[opening].id;
    let each = step_minutes(plan);
    plan.steps.iter().zip(each).filter(|(s, _)| s.opening.as_ref() == Some(id)).map(|(_, m)| m).sum()
}
