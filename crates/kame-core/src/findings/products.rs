//! Products used beyond what they can do: days and light in the open, wet thickness and coats, grade and permeance behind plaster, laps that a
//! product asks for itself, metals and others that must not touch (handbook 4.10). A product's own figure comes before the profile's.

use super::{Finding, Severity};
use crate::contact::{KnownPairs, never_may_touch};
use crate::kit::{PairVerdict, Product, named};
use crate::length::Length;
use crate::plan::{Finish, Piece, Plan, SurfaceId};
use crate::profile::fig;
use crate::recipe::Role;
use crate::recipe::answer;
use crate::sequence::Stage;
use crate::surface::Rect;
use crate::trade::{Act, PieceId};
use foldhash::HashMap;
use std::collections::{BTreeMap, BTreeSet, HashSet};

/// What is stuck on a wall that is lapped round corners, over ends and so on, and which of a product's own figures speaks of it.
/// Everything of it.
pub fn findings(plan: &Plan, stage: &Stage) -> Vec<Finding> {
    let known: HashMap<&str, &Product> = plan.basis.products.iter().map(|p| (p.name.as_str(), p)).collect();
    let mut out = Vec::new();
    let mut sheets: BTreeMap<(&str, usize), Vec<PieceId>> = BTreeMap::new();
    for (i, p) in plan.pieces.iter_enumerated().filter(|(_, p)| matches!(p.role, Role::Barrier | Role::Cover)) {
        let Some((_, r)) = p.regions.iter().find(|(on, _)| *on == SurfaceId::WALL) else { continue };
        let on = plan.walls.finishes.iter().position(|f| f.rect.u0 <= r.u0 && r.u0 < f.rect.u1);
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
        let days = plan.basis.figures.number(fig::DAYS_EXPOSED);
        if let Some(limit) = product.exposed_days.filter(|limit| days > *limit) {
            say(
                "F21",
                format!(
                    "{name} may stand in the open for {limit} days, and {days} are planned: it tears, fades and lets water through."
                ),
                "Cover it sooner, cover it for the time between, or take a product that may stand longer.",
            );
        }
        let on = &plan.walls.finishes[*finish];
        if answer::CLADDING_OPEN.is_in(&on.answers) && !product.uv && outermost(*finish, plan.pieces[first].role) {
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
    out.extend(temperatures(plan, &known));
    out.extend(off_framing(plan));
    out.extend(never(plan, stage));
    out.extend(nails(plan));
    out
}

fn told_of(plan: &Plan, code: &str, piece: PieceId, reason: String, remedy: &str) -> Finding {
    let p = &plan.pieces[piece];
    let place = p.regions.first().map_or((SurfaceId::WALL, [0.0; 4]), |(on, r)| (*on, r.to_inches()));
    Finding { reason, remedy: remedy.into(), ..Finding::seen(code, Severity::Fault, vec![p.id.clone()], place, None) }
}

/// Why a sheet is not enough behind plaster or stone.
fn behind_plaster(plan: &Plan, on: &Finish, product: &Product) -> Option<String> {
    if !answer::CLADDING_PLASTERED.is_in(&on.answers) || product.kind != "sheet" {
        return None;
    }
    let name = &product.name;
    if answer::SECOND_LAYER.is_in(&on.answers) {
        let asked = plan.basis.figures.number(fig::PLASTER_PERM);
        let perm = product.perm.filter(|perm| *perm < asked)?;
        return Some(format!(
            "Behind plaster or stone each of two layers lets vapour out at {asked} perm; {name} has {perm}."
        ));
    }
    // Nothing in front of one layer is told by the answer that leaves the gap out.
    if answer::GAP_NONE.is_in(&on.answers) {
        return None;
    }
    let asked = plan.basis.figures.number(fig::PLASTER_GRADE);
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

/// What sticks or cures and is to be put on where it is colder or hotter than its product bears.
fn temperatures(plan: &Plan, known: &HashMap<&str, &Product>) -> Vec<Finding> {
    let (cold, hot) = (plan.basis.figures.number(fig::WORK_COLD_F), plan.basis.figures.number(fig::WORK_HOT_F));
    let mut out = Vec::new();
    let mut told: BTreeSet<&str> = BTreeSet::new();
    let acts = plan.steps.iter().filter(|s| !plan.is_removed(&s.id)).flat_map(|s| &s.actions);
    for action in acts.filter(|a| !plan.is_removed(&a.id)) {
        let (piece, name) = match action.act {
            Act::Press { piece } | Act::Coat { piece, .. } => (piece, plan.pieces[piece].product.as_str()),
            Act::Seal { seal } => (plan.seals[seal].behind, plan.seals[seal].product.as_str()),
            _ => continue,
        };
        let Some(product) = known.get(name) else { continue };
        let outside = match (product.least_f, product.most_f) {
            (Some(least), _) if cold < least => Some(format!("at {cold} °F, and it is worked from {least} °F up")),
            (_, Some(most)) if hot > most => Some(format!("at {hot} °F, and it is worked up to {most} °F")),
            _ => None,
        };
        if let Some(outside) = outside.filter(|_| told.insert(name)) {
            out.push(told_of(
                plan,
                TEMPERATURE,
                piece,
                format!("{name} is to be put on surfaces {outside}: it does not stick, or does not cure."),
                "Take a product that bears it, warm or shade the surface, or wait for the hour.",
            ));
        }
    }
    out
}

/// Code of what is put on colder or hotter than it bears.
const TEMPERATURE: &str = "S-TEMPERATURE";

/// Upright joints of panels that stand on no stud, one finding for each stretch of the walls. At corners, and where walls end, there is framing.
fn off_framing(plan: &Plan) -> Vec<Finding> {
    let apart = plan.basis.figures.length(fig::STUD_SPACING).units().max(1);
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let starts: Vec<Length> = [wall.u0].into_iter().chain(plan.walls.corners.iter().map(|c| c.at)).collect();
    let off = |at: Length| {
        let start = starts[starts.partition_point(|s| *s <= at).saturating_sub(1)];
        (at - start).units() % apart != 0
    };
    let wide = [fig::JOINT_TAPE_WIDTH, fig::JOINT_LIQUID_WIDTH].map(|f| plan.basis.figures.length(f).units() / 2);
    let mut out = Vec::new();
    for (s, stretch) in plan.walls.stretches.iter().enumerate() {
        let joint = |p: &Piece| p.stretch == s && p.role == Role::Joint && p.opening.is_none();
        // Where a strip was laid otherwise than planned the joint is where it was.
        let planned = |i: PieceId| plan.departures.as_planned.get(&i).unwrap_or(&plan.pieces[i].regions);
        let stands_off = |i: PieceId| {
            // An opening cuts a strip: all of it together is as wide as it was, or its middle is not known.
            let strip = planned(i).iter().map(|(_, r)| *r).reduce(Rect::hull).filter(|r| r.height() > r.width());
            let whole = strip.filter(|r| wide.contains(&(r.width().units() / 2)));
            let within = whole.filter(|r| r.u0 > stretch.rect.u0 && r.u1 < stretch.rect.u1);
            within.is_some_and(|r| off(Length::from_units((r.u0 + r.u1).units() / 2)))
        };
        let joints = plan.pieces.iter_enumerated().filter(|(_, p)| joint(p)).map(|(i, _)| i);
        let off: Vec<PieceId> = joints.filter(|i| stands_off(*i)).collect();
        if let Some(first) = off.first() {
            let (many, studs) = (off.len(), Length::from_units(apart));
            out.push(told_of(
                plan,
                FRAMING,
                *first,
                format!("{many} upright joint(s) of panels stand on no stud: studs are {studs} apart. What is nailed to nothing moves, and its joint opens."),
                "Take panels as wide as studs allow, or block behind each joint.",
            ));
        }
    }
    out
}

/// Code of panels' edges that are on no framing.
const FRAMING: &str = "S-FRAMING";

/// Pairs that touch and never may.
fn never(plan: &Plan, stage: &Stage) -> Vec<Finding> {
    let never = never_may_touch(plan, stage).unwrap_or_default();
    let finding = |p: crate::contact::Pair| {
        let piece = plan.pieces.position(|x| x.product == p.upper).unwrap_or_default();
        let reason = format!("{} touches {}, which it never may: {}", p.upper, p.lower, p.because);
        let metal = |name: &str| plan.product(name).is_some_and(|k| !k.metal.is_empty());
        let code = if metal(&p.upper) && metal(&p.lower) { "F19" } else { "F20" };
        told_of(plan, code, piece, reason, &p.remedy)
    };
    never.into_iter().map(finding).collect()
}

/// Fasteners of units that go through metal which they never may touch, such as galvanised nails through a copper pan: one finding for each
/// product they go through (handbook 2, metals; 3, unit).
fn nails(plan: &Plan) -> Vec<Finding> {
    let Ok(known) = KnownPairs::new(plan) else { return Vec::new() };
    let metals = plan.basis.products.iter().filter(|p| !p.metal.is_empty());
    let metals: HashSet<&str> = metals.map(|p| p.name.as_str()).collect();
    let is_eaten = |product: &str| metals.contains(product);
    let never = |product| known.of(named::UNIT_FASTENER, product).filter(|t| t.verdict == PairVerdict::Never);
    let mut told: BTreeSet<&str> = BTreeSet::new();
    let mut out = Vec::new();
    for (i, piece) in plan.pieces.iter_enumerated().filter(|(_, p)| p.opening.is_some() && is_eaten(&p.product)) {
        let Some(pair) = never(&piece.product) else { continue };
        let unit = plan.pieces.iter().find(|p| p.solid && p.opening == piece.opening);
        // A unit that stands back has no flange, and is fastened through its frame.
        if unit.is_some_and(|u| lies_on(u, piece)) && is_laid_first(plan, i) && told.insert(&piece.product) {
            let reason = format!(
                "{} goes through the {}, which it never may touch: {}",
                named::UNIT_FASTENER,
                piece.name,
                pair.because
            );
            out.push(told_of(plan, "F19", i, reason, &pair.remedy));
        }
    }
    out
}

/// True where two pieces overlap on the face of the wall.
fn lies_on(a: &Piece, b: &Piece) -> bool {
    let face =
        |p: &'_ Piece| p.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r).collect::<Vec<_>>();
    face(a).iter().any(|r| face(b).iter().any(|q| r.overlaps(*q)))
}

/// True where a piece is laid before the unit of its opening.
fn is_laid_first(plan: &Plan, piece: PieceId) -> bool {
    let opening = plan.pieces[piece].opening;
    let placed = plan.actions().filter_map(|(_, a)| a.act.placed());
    let first = placed.into_iter().find(|p| *p == piece || plan.pieces[*p].solid && plan.pieces[*p].opening == opening);
    first == Some(piece)
}
