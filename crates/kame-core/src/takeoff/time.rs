//! Minutes of work, and the surface temperatures at which it can be done (handbook 5.7, 6.1).

use super::quantity::{Amount, piece_amounts};
use crate::length::Length;
use crate::plan::Plan;
use crate::profile::{NumberFigure, fig};
use crate::trade::{Act, PieceId, StepId};
use serde::Serialize;
use std::collections::{BTreeSet, HashMap};
use typed_index_collections::TiVec;

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
    for p in plan.basis.products.iter().filter(|p| used.contains(p.name.as_str())) {
        if let Some(f) = p.least_f.filter(|f| out.least.as_ref().is_none_or(|known| *f > known.degrees)) {
            out.least = Some(TemperatureLimit { degrees: f, product: p.name.clone() });
        }
        if let Some(f) = p.most_f.filter(|f| out.most.as_ref().is_none_or(|known| *f < known.degrees)) {
            out.most = Some(TemperatureLimit { degrees: f, product: p.name.clone() });
        }
    }
    out
}

/// Minutes of one person for each step of the plan, by the profile: for each action a set-up, and so much for each foot or square foot of what is
/// placed, rolled, sealed, coated or fastened, times what ladder or scaffold cost; none for steps left out.
pub fn step_minutes(plan: &Plan) -> TiVec<StepId, f64> {
    let figure = |id: NumberFigure| plan.basis.figures.number(id);
    let mut out: TiVec<StepId, f64> = vec![0.0; plan.steps.len()].into();
    let primed: HashMap<PieceId, f64> = crate::contact::primers(plan).unwrap_or_default().into_iter().collect();
    for (s, step) in plan.steps.iter_enumerated() {
        // A round of fasteners goes along what its step places.
        let placed = step.actions.iter().filter_map(|a| a.act.placed());
        let fastened: f64 = placed.map(|p| Measured::of(plan, p)).map(|m| m.feet + m.around).sum();
        let of = |act: &Act| match act {
            Act::Place { piece, .. } => {
                let m = Measured::of(plan, *piece);
                let prime =
                    primed.get(piece).map_or(0.0, |ft2| figure(fig::MIN_PRIME) + figure(fig::MIN_PRIME_AREA) * ft2);
                prime + figure(fig::MIN_PLACE) + figure(fig::MIN_FOOT) * m.feet + figure(fig::MIN_AREA) * m.ft2
            }
            Act::Set { .. } => figure(fig::MIN_SET),
            Act::Press { piece } => {
                figure(fig::MIN_PRESS) + figure(fig::MIN_PRESS_FOOT) * Measured::of(plan, *piece).feet
            }
            Act::Seal { seal } => {
                let runs = plan.seals[*seal].rects.iter().map(|(_, r)| r.width().max(r.height()));
                figure(fig::MIN_SEAL) + figure(fig::MIN_SEAL_FOOT) * feet(runs.sum())
            }
            Act::Coat { piece, coats, .. } => {
                let area = plan.pieces[*piece].regions.iter().map(|(_, r)| feet(r.width()) * feet(r.height()));
                let ft2: f64 = area.sum();
                f64::from(*coats) * (figure(fig::MIN_COAT) + figure(fig::MIN_COAT_AREA) * ft2)
            }
            Act::Cut { .. } | Act::Lift { .. } | Act::Drop { .. } => figure(fig::MIN_CUT),
            Act::Fasten => figure(fig::MIN_FASTEN) + figure(fig::MIN_FASTEN_FOOT) * fastened,
            Act::Measure | Act::Hold => figure(fig::MIN_MEASURE),
            Act::Remove { piece: Some(_) } => figure(fig::MIN_PLACE),
            Act::Wait { .. } | Act::Remove { piece: None } | Act::Damage { .. } => 0.0,
        };
        if !plan.is_removed(&step.id) {
            let done = step.actions.iter().filter(|a| !plan.is_removed(&a.id));
            out[s] = done.map(|a| of(&a.act)).sum::<f64>() * figure(fig::EXPOSURE_FACTOR);
        }
    }
    out
}

fn feet(l: Length) -> f64 {
    l.to_inches_f64() / 12.0
}

/// What of a piece takes time.
#[derive(Clone, Copy, Debug, Default)]
struct Measured {
    /// Feet of all the parts it is laid in.
    feet: f64,
    /// Square feet where it is laid by area.
    ft2: f64,
    /// Feet round a thing that comes whole, such as a unit.
    around: f64,
}

impl Measured {
    fn of(plan: &Plan, piece: PieceId) -> Self {
        let mut out = Self::default();
        for amount in piece_amounts(plan, piece) {
            match amount {
                Amount::Piece { length, .. } | Amount::Run { length } => out.feet += feet(length),
                Amount::Area { ft2 } => out.ft2 += ft2,
                Amount::Count { .. } => {
                    let around = plan.pieces[piece].regions.iter().map(|(_, r)| r.width() + r.height());
                    out.around += 2.0 * feet(around.max().unwrap_or_default());
                }
                Amount::Volume { .. } => {}
            }
        }
        out
    }
}

/// Minutes of the steps of one opening.
pub fn minutes(plan: &Plan, opening: usize) -> f64 {
    let id = &plan.openings[opening].id;
    let each = step_minutes(plan);
    plan.steps.iter().zip(each).filter(|(s, _)| s.opening.as_ref() == Some(id)).map(|(_, m)| m).sum()
}
