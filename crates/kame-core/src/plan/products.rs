//! Which product is used where: of several of a kind the one chosen for the place. What a product asks goes before the figures of the profile.

use super::{Plan, SurfaceId};
use crate::job::Job;
use crate::kit::Product;
use crate::length::Length;
use crate::profile::{FigureValue, Figures, Profile};
use crate::recipe::schools::{Answers, Schools};
use crate::trade::{Act, PieceId};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// In `asked.of`: whatever the barriers of the walls are made of.
const BARRIER: &str = "barrier";

/// A figure that a product moved, and which product.
#[derive(Clone, Debug, PartialEq)]
pub struct MovedFigure {
    /// The figure.
    pub figure: String,
    /// The product that asks.
    pub product: String,
    /// What is in force for it.
    pub value: FigureValue,
}

/// The figures with what products ask in place of what the profile or the job says, where they ask for something else.
pub(super) fn asked(
    job: &Job,
    profile: &Profile,
    figures: &Figures,
    library: &[Product],
    walls: &[Answers],
) -> Result<(Figures, Vec<MovedFigure>), String> {
    let barriers = barriers(walls)?;
    let (mut out, mut moved) = (figures.clone(), BTreeMap::new());
    for (figure, ask) in profile.figures.iter().filter_map(|f| Some((f, f.asked.as_ref()?))) {
        let names = ask.of.iter().flat_map(|of| if of == BARRIER { barriers.clone() } else { vec![of.as_str()] });
        let used: BTreeSet<&str> = names.flat_map(|generic| used(job, generic)).collect();
        for p in library.iter().filter(|p| used.contains(p.name.as_str())) {
            let Some(now) = out.get(&figure.id) else { continue };
            let value = serde_json::to_value(p).map_err(|e| e.to_string())?;
            let next = match (now, &value[&ask.attribute]) {
                (FigureValue::Length(l), serde_json::Value::String(text)) => {
                    FigureValue::Length(l.max(Length::parse(text).map_err(|e| e.to_string())?))
                }
                (FigureValue::Number(n), serde_json::Value::Array(ends)) => {
                    let end = |i: usize| ends.get(i).and_then(serde_json::Value::as_f64).map(|e| e * ask.times);
                    let n = end(0).map_or(n, |least| n.max(least));
                    FigureValue::Number(end(1).map_or(n, |most| n.min(most)))
                }
                _ => now,
            };
            if next != now {
                out.set(&figure.id, next);
                let product = p.name.clone();
                moved.insert(figure.id.clone(), MovedFigure { figure: figure.id.clone(), product, value: next });
            }
        }
    }
    Ok((out, moved.into_values().collect()))
}

/// What the barriers of walls with these answers are made of.
fn barriers(walls: &[Answers]) -> Result<Vec<&'static str>, String> {
    let schools = Schools::shipped()?;
    let mut out: Vec<&str> = Vec::new();
    for answers in walls {
        let all = schools.complete(&schools.asked(answers)).unwrap_or_default();
        out.extend(schools.barrier(&all).map(|b| b.product.as_str()));
    }
    out.sort_unstable();
    out.dedup();
    Ok(out)
}

/// The products that are used anywhere for a generic one.
fn used<'a>(job: &'a Job, generic: &'a str) -> Vec<&'a str> {
    let places = job.wall.corners.iter().map(|c| &c.products).chain(job.openings.iter().map(|o| &o.products));
    let chosen = places.filter_map(|c| c.get(generic)).map(String::as_str);
    chosen.chain([job.wall.used(0, generic)]).collect()
}

/// Puts the product chosen for its place in place of each generic one.
pub(super) fn choose(plan: &mut Plan, job: &Job) {
    let mut chosen = job.wall.corners.iter().map(|c| &c.products).chain(job.openings.iter().map(|o| &o.products));
    if job.wall.products.is_empty() && chosen.all(BTreeMap::is_empty) {
        return;
    }
    let at = |plan: &Plan, piece: PieceId, generic: &str| -> Option<String> {
        let p = &plan.pieces[piece];
        let opening = p.opening.map(|o| &job.openings[o]);
        if let Some(own) = opening.and_then(|o| o.products.get(generic)) {
            return Some(own.clone());
        }
        let on_wall = p.regions.iter().find(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| r.u0);
        let wall = match opening {
            Some(o) => o.wall(&job.wall),
            None => job.wall.wall_at(on_wall.unwrap_or(plan.walls.stretches[p.stretch].rect.u0)),
        };
        Some(job.wall.used(wall, generic).to_owned())
    };
    for piece in plan.pieces.keys() {
        if let Some(product) = at(plan, piece, &plan.pieces[piece].product) {
            plan.pieces[piece].product = product;
        }
    }
    for seal in plan.seals.keys() {
        if let Some(product) = at(plan, plan.seals[seal].behind, &plan.seals[seal].product) {
            plan.seals[seal].product = product;
        }
    }
    let mut steps = std::mem::take(&mut plan.steps);
    for step in steps.iter_mut().filter(|s| s.actions.iter().any(|a| matches!(a.act, Act::Coat { .. }))) {
        for action in &mut Arc::make_mut(step).actions {
            if let Act::Coat { piece, coats, .. } = &mut action.act {
                *coats = (*coats).max(plan.coats(&plan.pieces[*piece].product));
            }
        }
    }
    plan.steps = steps;
}
