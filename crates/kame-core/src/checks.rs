//! What is measured or looked at in a job, step by step: every check with its target here, its tolerance and how it is judged (handbook 6.2, 6.3).

use crate::length::Length;
use crate::plan::Plan;
use crate::recipe::checks::{CheckSpec, Eyes, Judged, On, Quantity, ReadingSpot, Reads, check, checks, id_at};
use crate::recipe::expr::{Env, Value};
use crate::trade::{Act, Action, Step};
use serde::Serialize;

/// A check at one action of a plan.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Check {
    /// Unique in the job: the action's id and the check's.
    pub id: String,
    /// Stable name of the check.
    pub check: String,
    /// The step it belongs to.
    pub step: String,
    /// The action it belongs to.
    pub action: String,
    /// Where in the job: id of the opening, empty for the walls.
    pub opening: String,
    /// What is measured or looked at.
    pub name: String,
    /// The place, in words.
    pub at: String,
    /// How many readings.
    pub readings: u32,
    /// What is read.
    pub quantity: Quantity,
    /// Its unit; empty where nothing is read, or a text.
    pub unit: &'static str,
    /// What it should be, in its unit; `null` where nothing is said.
    pub target: Option<f64>,
    /// How far it may be from that, in its unit.
    pub tolerance: Option<f64>,
    /// No reading may be less; `null` where that is not asked.
    pub least: Option<f64>,
    /// No reading may be more.
    pub most: Option<f64>,
    /// No two readings may be farther apart.
    pub apart: Option<f64>,
    /// Target and tolerance as people write them.
    pub asked: String,
    /// How it is judged.
    pub judged: Judged,
    /// Who may look.
    pub by: Eyes,
    /// The faults it guards against.
    pub guards: Vec<String>,
    /// Where each reading is taken, in parts of the opening; empty where a picture says nothing.
    pub spots: Vec<ReadingSpot>,
    /// What to do where a reading is too much and its spot says nothing.
    pub above: String,
    /// What to do where it is too little.
    pub below: String,
    /// What a reading is multiplied by before it counts: it is read over a level and counts over the whole width. Bounds are those of the reading.
    pub times: f64,
    /// What of the opening it reads.
    pub reads: Option<Reads>,
    /// A photograph is wanted.
    pub photo: bool,
    /// Where it is not as it should be, nothing that follows here is done until it is.
    pub stops: bool,
    /// True where the step is left out.
    pub removed: bool,
}

/// Every check of a plan in the order of work.
///
/// # Errors
/// A sentence if the shipped data were broken; a test keeps it whole.
pub fn checks_of(plan: &Plan) -> Result<Vec<Check>, String> {
    let mut out = Vec::new();
    for step in plan.order.iter().map(|s| &plan.steps[*s]) {
        for action in &step.actions {
            for spec in at(action)? {
                out.extend(one(plan, step, action, spec)?);
            }
        }
    }
    Ok(out)
}

/// The checks that stand at an action: those its recipe names, and those of its kind.
fn at(action: &Action) -> Result<Vec<&'static CheckSpec>, String> {
    let kind = match action.act {
        Act::Coat { .. } => Some(On::Coat),
        Act::Press { .. } => Some(On::Press),
        Act::Seal { .. } => Some(On::Seal),
        Act::Fasten => Some(On::Fasten),
        Act::Set { .. } => Some(On::Set),
        _ => None,
    };
    let named = action.checks.iter().map(|id| check(id));
    let of_kind = checks()?.iter().filter(|c| c.on.is_some() && c.on == kind).map(Ok);
    named.chain(of_kind).collect()
}

/// One check with its figures; `None` where its target is something that is not known of the product.
fn one(plan: &Plan, step: &Step, action: &Action, spec: &'static CheckSpec) -> Result<Option<Check>, String> {
    let mut env = Env::of(&plan.basis.figures);
    let opening = step.opening.as_ref().and_then(|id| plan.openings.iter().find(|o| o.id == *id));
    if let Some(o) = opening {
        env.set("width", Value::Length(o.rect.width()));
        env.set("height", Value::Length(o.rect.height()));
    }
    let piece = match action.act {
        Act::Press { piece } | Act::Set { piece } => Some(piece),
        Act::Coat { piece, wet_mil, .. } => {
            env.set("wet_mil", Value::Number(wet_mil));
            Some(piece)
        }
        Act::Seal { seal } => Some(plan.seals[seal].behind),
        _ => None,
    };
    let product = piece.and_then(|p| plan.product(&plan.pieces[p].product));
    let least = product.and_then(|p| p.least_f);
    if let Some(f) = least {
        env.set("least_f", Value::Number(f));
    }
    if spec.quantity == Quantity::Temperature && least.is_none() {
        return Ok(None);
    }
    let value = |of: &Option<String>| of.as_deref().map(|expr| env.value(expr).map_err(|e| e.to_string())).transpose();
    let (target, tolerance) = (value(&spec.target)?, value(&spec.tolerance)?);
    let (wanted, by) = (target.map(number), tolerance.map(number));
    let over = value(&spec.over)?.map(number).filter(|o| *o > 0.0);
    let times = over.zip(opening).map_or(1.0, |(over, o)| (o.rect.width().to_inches_f64() / over).max(1.0));
    let (least, most, apart) = match spec.judged {
        Judged::Within => {
            let (wanted, by) = (wanted.map(|t| t / times), by.map(|by| by / times));
            (wanted.zip(by).map(|(t, by)| t - by), wanted.zip(by).map(|(t, by)| t + by), None)
        }
        Judged::Least => (wanted, None, None),
        Judged::Most => (None, wanted, None),
        Judged::Spread => (None, None, by),
        Judged::Bow | Judged::Noted | Judged::Yes => (None, None, None),
    };
    Ok(Some(Check {
        id: id_at(&action.id, &spec.id),
        check: spec.id.clone(),
        step: step.id.clone(),
        action: action.id.clone(),
        opening: step.opening.clone().unwrap_or_default(),
        name: spec.name.clone(),
        at: spec.at.clone(),
        readings: spec.readings,
        quantity: spec.quantity,
        unit: spec.quantity.unit(),
        target: wanted,
        tolerance: by,
        least,
        most,
        apart,
        asked: asked(spec, target, tolerance),
        judged: spec.judged,
        by: spec.by,
        guards: spec.guards.clone(),
        spots: spec.spots.clone(),
        above: spec.above.clone(),
        below: spec.below.clone(),
        times,
        reads: spec.reads,
        photo: spec.photo,
        stops: spec.stops,
        removed: plan.is_removed(&step.id) || plan.is_removed(&action.id),
    }))
}

fn number(v: Value) -> f64 {
    match v {
        Value::Length(l) => l.to_inches_f64(),
        Value::Number(n) => n,
    }
}

/// Target and tolerance in words; empty where nothing is asked.
fn asked(spec: &CheckSpec, target: Option<Value>, tolerance: Option<Value>) -> String {
    let unit = spec.quantity.unit();
    let said = |v: Value| match v {
        Value::Length(l) => l.to_string(),
        // A plain nought stands for a length where lengths are read.
        Value::Number(n) if spec.quantity == Quantity::Length => {
            Length::from_inches_f64(n).unwrap_or(Length::ZERO).to_string()
        }
        Value::Number(n) => format!("{n} {unit}"),
    };
    match (spec.judged, target, tolerance) {
        (Judged::Within, Some(t), Some(by)) => format!("{} ± {}", said(t), said(by)),
        (Judged::Bow, _, Some(by)) => format!("the middle within {} of the others", said(by)),
        (Judged::Spread, _, Some(by)) => format!("no more than {} apart", said(by)),
        (Judged::Least, Some(t), _) => format!("at least {}", said(t)),
        (Judged::Most, Some(t), _) => format!("at most {}", said(t)),
        _ => String::new(),
    }
}
