//! Products used beyond what they can do: days and light in the open, wet thickness and coats, grade and permeance behind plaster, laps that a
//! product asks for itself, metals and others that must not touch (handbook 4.10). A product's own figure comes before the profile's.

use super::{Finding, Severity};
use crate::contact::never_may_touch;
use crate::kit::Product;
use crate::plan::{Finish, Plan, SurfaceId};
use crate::profile::fig;
use crate::recipe::Role;
use crate::recipe::schools::holds;
use crate::sequence::Stage;
use crate::trade::Act;
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// What is stuck on a wall that is lapped round corners, over ends and so on, and which of a product's own figures speaks of it.
/// Everything of it.
pub fn findings(plan: &Plan, stage: &Stage) -> Vec<Finding> {
    let known: HashMap<&str, &Product> = plan.products.iter().map(|p| (p.name.as_str(), p)).collect();
    let mut out = Vec::new();
    let mut sheets: BTreeMap<(&str, usize), Vec<usize>> = BTreeMap::new();
    for (i, p) in plan.pieces.iter().enumerate().filter(|(_, p)| matches!(p.role, Role::Barrier | Role::Cover)) {
        let Some((_, r)) = p.regions.iter().find(|(on, _)| *on == SurfaceId::WALL) else { continue };
        let on = plan.finishes.iter().position(|f| f.rect.u0 <= r.u0 && r.u0 < f.rect.u1);
        sheets.entry((&p.product, on.unwrap_or(0))).or_default().push(i);
    }
    let outermost = |finish: usize, role: Role| {
        role == Role::Cover
            || !sheets.iter().any(|((_, f), of)| *f == finish && of.iter().any(|p| plan.pieces[*p].role == Role::Cover))
    };
    let mut told: BTreeSet<(&str, &str)> = BTreeSet::new();
    for ((name, finish), pieces) in &sheets {
        let Some(product) = known.get(name) else { continue };
        let first = pieces[0];
        let mut say = |code: &'static str, reason: String, remedy: &str| {
            if told.insert((name, code)) {
                out.push(told_of(plan, code, first, reason, remedy));
            }
        };
        let days = plan.figures.number(fig::DAYS_EXPOSED);
        if let Some(limit) = product.exposed_days.filter(|limit| days > *limit) {
            say(
                "F21",
                format!(
                    "{name} may stand in the open for {limit} days, and {days} are planned: it tears, fades and lets water through."
                ),
                "Cover it sooner, cover it for the time between, or take a product that may stand longer.",
            );
        }
        let on = &plan.finishes[*finish];
        if holds("cladding:open", &on.answers) && !product.uv && outermost(*finish, plan.pieces[first].role) {
            say(
                "F21",
                format!("{name} lies behind open joints, where light never ends: it does not bear light for good."),
                "Take a dark sheet that is stable in light, or close the joints.",
            );
        }
        if let Some(reason) = behind_plaster(plan, on, product) {
            say(
                "F34",
                reason,
                "Take two layers of the 10-minute grade that let vapour out, or one of the 60-minute grade with a drainage gap in front.",
            );
        }
    }
    out.extend(coats(plan, &known));
    out.extend(never(plan, stage));
    out
}

fn told_of(plan: &Plan, code: &str, piece: usize, reason: String, remedy: &str) -> Finding {
    let p = &plan.pieces[piece];
    let place = p.regions.first().map_or((SurfaceId::WALL, [0.0; 4]), |(on, r)| (*on, r.to_inches()));
    Finding { reason, remedy: remedy.into(), ..Finding::seen(code, Severity::Fault, vec![p.id.clone()], place, None) }
}

/// Why a sheet is not enough behind plaster or stone.
fn behind_plaster(plan: &Plan, on: &Finish, product: &Product) -> Option<String> {
    if !holds("cladding:plaster,stone", &on.answers) || product.kind != "sheet" {
        return None;
    }
    let name = &product.name;
    if holds("second:paper,dark", &on.answers) {
        let asked = plan.figures.number(fig::PLASTER_PERM);
        let perm = product.perm.filter(|perm| *perm < asked)?;
        return Some(format!(
            "Behind plaster or stone each of two layers lets vapour out at {asked} perm; {name} has {perm}."
        ));
    }
    // Nothing in front of one layer is told by the answer that leaves the gap out.
    if holds("gap:none", &on.answers) {
        return None;
    }
    let asked = plan.figures.number(fig::PLASTER_GRADE);
    let grade = product.grade_min.filter(|grade| *grade < asked)?;
    Some(format!(
        "Behind plaster or stone one layer with a gap in front has a grade of {asked} minutes; {name} has {grade}."
    ))
}

/// Coats that are thinner or thicker than their product may be.
fn coats(plan: &Plan, known: &HashMap<&str, &Product>) -> Vec<Finding> {
    let mut out = Vec::new();
    let mut told: BTreeSet<(&str, u64)> = BTreeSet::new();
    for action in plan.steps.iter().filter(|s| !plan.is_removed(&s.id)).flat_map(|s| &s.actions) {
        let Act::Coat { piece, wet_mil, .. } = action.act else { continue };
        let name = plan.pieces[piece].product.as_str();
        let Some(product) = known.get(name) else { continue };
        if !told.insert((name, wet_mil.to_bits())) {
            continue;
        }
        if let Some([least, most]) = product.wet_mil.filter(|[least, most]| wet_mil < *least || wet_mil > *most) {
            let reason = format!(
                "{name} is planned {wet_mil} mil wet a coat; it is made for {least} to {most}: too thin it has voids, too thick it does not cure."
            );
            out.push(told_of(
                plan,
                "F32",
                piece,
                reason,
                "Put it on as thick as its data sheet says, in more coats where more is asked.",
            ));
        }
    }
    out
}

/// Pairs that touch and never may.
fn never(plan: &Plan, stage: &Stage) -> Vec<Finding> {
    let never = never_may_touch(plan, stage).unwrap_or_default();
    let finding = |p: crate::contact::Pair| {
        let piece = plan.pieces.iter().position(|x| x.product == p.upper).unwrap_or_default();
        let reason = format!("{} touches {}, which it never may: {}", p.upper, p.lower, p.because);
        told_of(plan, "F20", piece, reason, &p.remedy)
    };
    never.into_iter().map(finding).collect()
}
