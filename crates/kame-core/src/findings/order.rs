//! Required overs, blocked actions and steps left out.

use super::{Finding, Fix, Moment, Severity, words};
use crate::plan::{Over, Part, Plan, SurfaceId};
use crate::recipe::Role;
use crate::sequence::{Laid, Stage, Why};
use crate::surface::Rect;
use crate::trade::{Act, Action, FlapId, PieceId, Step, StepId};
use foldhash::{HashMap, HashSet};
use std::sync::Arc;

/// A required over that does not hold, and where.
pub struct BrokenOver<'a> {
    /// The over.
    pub over: &'a Over,
    /// Where the wrong lap is.
    pub at: (SurfaceId, Rect),
}

/// The layers of each part, from inside to outside.
struct Layered<'a> {
    layers: &'a [Laid],
    pieces: HashMap<PieceId, Vec<usize>>,
    flaps: HashMap<FlapId, Vec<usize>>,
    barrier: HashMap<usize, Vec<usize>>,
}

impl<'a> Layered<'a> {
    fn of(plan: &Plan, stage: &'a Stage) -> Self {
        let mut out = Self {
            layers: &stage.layers,
            pieces: HashMap::default(),
            flaps: HashMap::default(),
            barrier: HashMap::default(),
        };
        for (i, laid) in stage.layers.iter().enumerate() {
            out.pieces.entry(laid.piece).or_default().push(i);
            match laid.flap {
                Some(f) => out.flaps.entry(f).or_default().push(i),
                None if plan.pieces[laid.piece].role == Role::Barrier => {
                    out.barrier.entry(plan.pieces[laid.piece].stretch).or_default().push(i);
                }
                None => {}
            }
        }
        out
    }

    fn part(&self, part: Part) -> &[usize] {
        let list = match part {
            Part::Piece(p) => self.pieces.get(&p),
            Part::Flap(f) => self.flaps.get(&f),
            Part::Barrier(s) => self.barrier.get(&s),
        };
        list.map_or(&[], Vec::as_slice)
    }

    /// Where the first part lies behind the second.
    fn behind(&self, upper: Part, lower: Part) -> Option<(SurfaceId, Rect)> {
        let lowers = self.part(lower);
        self.part(upper).iter().find_map(|&i| {
            let upper = &self.layers[i];
            let outside = lowers[lowers.partition_point(|l| *l <= i)..].iter().map(|l| &self.layers[*l]);
            outside.filter(|l| l.on == upper.on).find_map(|l| Some((upper.on, upper.rect.intersection(l.rect)?)))
        })
    }
}

/// Overs whose upper part lies behind the lower one somewhere.
pub fn broken_overs<'a>(plan: &'a Plan, stage: &Stage) -> Vec<BrokenOver<'a>> {
    let layered = Layered::of(plan, stage);
    let wrong = |over: &'a Over| Some(BrokenOver { over, at: layered.behind(over.upper, over.lower)? });
    plan.overs.iter().filter_map(wrong).collect()
}

/// Overs whose upper part is not there although the lower one is.
pub fn missing_overs<'a>(plan: &'a Plan, stage: &Stage) -> Vec<&'a Over> {
    let layered = Layered::of(plan, stage);
    let there = |part: Part| !layered.part(part).is_empty();
    plan.overs.iter().filter(|o| !there(o.upper) && (there(o.lower) || matches!(o.lower, Part::Flap(_)))).collect()
}

/// What to do so that a broken over holds: its upper step goes right behind its lower one.
pub fn move_fix(plan: &Plan, over: &Over) -> Option<(Fix, String)> {
    let upper = plan.step_of(over.upper)?;
    let lower = match over.lower {
        Part::Barrier(of) => plan.order.iter().rev().map(|&s| &plan.steps[s]).find(|s| hangs_barrier(plan, s, of))?,
        part => plan.step_of(part)?,
    };
    let place = |id: &str| plan.order.iter().position(|&s| plan.steps[s].id == id);
    let at = place(&lower.id)?;
    let before = plan.order.get(at + 1).map(|&s| plan.steps[s].id.clone());
    let remedy = format!("Do \"{}\" after \"{}\".", upper.title, lower.title);
    Some((Fix::Move { step: upper.id.clone(), before }, remedy))
}

fn hangs_barrier(plan: &Plan, step: &Step, stretch: usize) -> bool {
    let barrier = |p: PieceId| plan.pieces[p].role == Role::Barrier && plan.pieces[p].stretch == stretch;
    step.actions.iter().any(|a| matches!(a.act, Act::Place { piece, .. } | Act::Coat { piece, .. } if barrier(piece)))
}

/// What to do so that something left out is done: its step or action restored, or the rail run on.
pub fn left_out_fix(plan: &Plan, part: Part) -> Option<(Fix, String)> {
    let step = plan.step_of(part)?;
    let name = plan.part_name(part);
    if plan.is_removed(&step.id) {
        return Some((Fix::Restore { step: step.id.clone() }, format!("Put the step \"{}\" back.", step.title)));
    }
    let concerned = |a: &&Action| match part {
        Part::Piece(p) => a.act.placed() == Some(p),
        Part::Flap(flap) => a.act == Act::Drop { flap },
        Part::Barrier(_) => false,
    };
    let action = step.actions.iter().filter(concerned).find(|a| plan.is_removed(&a.id))?;
    Some((Fix::Restore { step: action.id.clone() }, format!("Put \"{}\" back: the {name} is not there.", action.label)))
}

/// Findings that need no water: order, blocked actions, steps left out. What a water finding already says is not said again.
pub fn findings(plan: &Plan, moment: &Moment, broken: &[BrokenOver], said: &[Finding]) -> Vec<Finding> {
    let put_back: HashSet<&str> = said
        .iter()
        .filter_map(|f| match &f.fix {
            Some(Fix::Restore { step }) => Some(step.as_str()),
            _ => None,
        })
        .collect();
    let mut out = wrong_way_round(plan, broken, said);
    out.extend(blocked_actions(plan, moment));
    out.extend(steps_left_out(plan, &put_back));
    out.extend(actions_left_out(plan, &put_back));
    out
}

/// Overs that stand the wrong way round.
fn wrong_way_round(plan: &Plan, broken: &[BrokenOver], said: &[Finding]) -> Vec<Finding> {
    let mut out = Vec::new();
    for b in broken {
        let fix = move_fix(plan, b.over);
        if said.iter().any(|f| f.code == b.over.fault && f.fix.as_ref() == fix.as_ref().map(|(f, _)| f)) {
            continue;
        }
        let (upper, lower) = (plan.part_name(b.over.upper), plan.part_name(b.over.lower));
        let reason = format!(
            "The {upper} lies behind the {lower} and belongs over it: {}. As long as the glue holds, no water shows it.",
            b.over.because
        );
        let (fix, remedy) = fix.map_or((None, format!("Put the {upper} over the {lower}.")), |(f, r)| (Some(f), r));
        let pieces = [b.over.upper, b.over.lower].into_iter().filter_map(|p| piece_id(plan, p)).collect();
        let (code, place) = (b.over.fault.clone(), (b.at.0, b.at.1.to_inches()));
        out.push(Finding { reason, remedy, ..Finding::seen(&code, Severity::Order, pieces, place, fix) });
    }
    out
}

/// Actions that could not be done, and what is left out before them.
fn blocked_actions(plan: &Plan, moment: &Moment) -> Vec<Finding> {
    let mut out = Vec::new();
    let by_id: HashMap<&str, (StepId, &Action)> = match moment.stage.blocked.is_empty() {
        true => HashMap::default(),
        false => plan.actions().map(|(s, a)| (a.id.as_str(), (s, a))).collect(),
    };
    for blocked in &moment.stage.blocked {
        let Some(&(step, action)) = by_id.get(blocked.action.as_str()) else { continue };
        let pieces = acted_on(&action.act).and_then(|p| piece_id(plan, p)).into_iter().collect();
        let mut reason = format!(
            "\"{}\" cannot be done in \"{}\": {}.",
            action.label,
            plan.steps[step].title,
            words::why_blocked(plan, &blocked.why)
        );
        let place = acted_on(&action.act).map_or((SurfaceId::WALL, [0.0; 4]), |p| place_of(plan, p));
        let (fix, remedy) = match unblocked_by(plan, step, action, &blocked.why) {
            Some((fix, remedy)) => {
                reason = format!("{} {reason}", left_out_words(plan, &fix));
                (Some(fix), remedy)
            }
            None => (None, words::unblock(plan, &blocked.why)),
        };
        let seen = Finding::seen("S-BLOCKED", Severity::Blocked, pieces, place, fix);
        out.push(Finding { reason, remedy, ..seen });
    }
    out
}

/// Steps that are left out whole.
fn steps_left_out(plan: &Plan, put_back: &HashSet<&str>) -> Vec<Finding> {
    let mut out = Vec::new();
    for step in plan.steps.iter().filter(|s| plan.is_removed(&s.id)) {
        let restored = Fix::Restore { step: step.id.clone() };
        let mut of_water = step.actions.iter().filter(|a| a.act.matters_to_water()).peekable();
        let redone = of_water.peek().is_some() && of_water.all(|a| plan.is_done_in_a_repair(&a.act));
        if put_back.contains(step.id.as_str()) || redone {
            continue;
        }
        let part = step.actions.iter().find_map(|a| acted_on(&a.act));
        let place = part.map_or((SurfaceId::WALL, [0.0; 4]), |p| place_of(plan, p));
        let reason = format!("\"{}\" is left out. {}", step.title, step.card.why);
        let remedy = format!("Put the step \"{}\" back, or write down who decided against it.", step.title);
        let pieces = part.and_then(|p| piece_id(plan, p)).into_iter().collect();
        // A step that places nothing is the fault that its bead or its wait is.
        let faults = step.actions.iter().map(|a| fault_of(plan, &a.act));
        let code = if step.actions.iter().any(|a| placed(&a.act)) {
            None
        } else {
            faults.into_iter().find(|c| *c != NOT_DONE)
        };
        let seen = Finding::seen(code.unwrap_or(NOT_DONE), Severity::Missing, pieces, place, Some(restored));
        out.push(Finding { reason, remedy, ..seen });
    }
    out
}

/// Single actions that are left out of their step.
fn actions_left_out(plan: &Plan, put_back: &HashSet<&str>) -> Vec<Finding> {
    let mut out = Vec::new();
    for (step, a) in plan.steps.iter().flat_map(|s| s.actions.iter().map(move |a| (s, a))) {
        let restored = Fix::Restore { step: a.id.clone() };
        let part = acted_on(&a.act).or(match a.act {
            Act::Seal { seal } => Some(Part::Piece(plan.seals[seal].behind)),
            _ => None,
        });
        if plan.is_removed(&step.id)
            || !plan.is_removed(&a.id)
            || put_back.contains(a.id.as_str())
            || plan.is_done_in_a_repair(&a.act)
        {
            continue;
        }
        let pieces = part.and_then(|p| piece_id(plan, p)).into_iter().collect();
        let place = part.map_or((SurfaceId::WALL, [0.0; 4]), |p| place_of(plan, p));
        out.push(Finding {
            reason: format!("In \"{}\" one thing is left out: {}. {}", step.title, a.label, step.card.why),
            remedy: format!("Put \"{}\" back, or write down who decided against it.", a.label),
            ..Finding::seen(fault_of(plan, &a.act), Severity::Missing, pieces, place, Some(restored))
        });
    }
    out
}

/// What is left out and would have to be done before an action that cannot be done.
fn unblocked_by(plan: &Plan, step: StepId, action: &Action, why: &Why) -> Option<(Fix, String)> {
    let here = |s: &&Arc<Step>| s.opening == plan.steps[step].opening;
    let left_out = |does: &dyn Fn(&Act) -> bool, s: &Step| {
        let done = s.actions.iter().find(|a| does(&a.act))?;
        let id = [&s.id, &done.id].into_iter().find(|id| plan.is_removed(id))?;
        Some((Fix::Restore { step: id.clone() }, format!("Put the step \"{}\" back.", s.title)))
    };
    match why {
        Why::NotCut => plan.steps.iter().filter(here).find_map(|s| left_out(&|a| matches!(a, Act::Cut { .. }), s)),
        Why::NoFlap => {
            let cut_or_lifted = |a: &Act| matches!(a, Act::Cut { .. } | Act::Lift { .. });
            plan.steps.iter().filter(here).find_map(|s| left_out(&cut_or_lifted, s))
        }
        Why::NothingToCut => {
            let hangs = |a: &Act| a.placed().is_some_and(|p| plan.pieces[p].role == Role::Barrier);
            plan.steps.iter().find_map(|s| left_out(&hangs, s))
        }
        Why::NotPlaced { piece } => {
            let placed = plan.steps.iter().find_map(|s| left_out(&|a| a.placed() == Some(*piece), s));
            // It could not be placed either: what that waits for is what this waits for.
            let same_step = || {
                let mut others = plan.steps[step].actions.iter().filter(|a| a.id != action.id);
                others.any(|a| a.act.placed() == Some(*piece)).then_some(())
            };
            placed.or_else(|| {
                same_step()?;
                plan.steps.iter().filter(here).find_map(|s| left_out(&|a| matches!(a, Act::Cut { .. }), s))
            })
        }
        Why::AlreadyPlaced
        | Why::Behind { .. }
        | Why::StuckUnder { .. }
        | Why::TooLateBehind { .. }
        | Why::NothingThere => None,
    }
}

/// That a step is left out, before what comes of it.
fn left_out_words(plan: &Plan, fix: &Fix) -> String {
    let Fix::Restore { step } = fix else { return String::new() };
    let named = plan.steps.iter().find(|s| s.id == *step || s.actions.iter().any(|a| a.id == *step));
    named.map_or(String::new(), |s| format!("\"{}\" is left out.", s.title))
}

/// Code of something left out that is no fault of the catalogue.
const NOT_DONE: &str = "S-MISSING";

fn placed(act: &Act) -> bool {
    matches!(act, Act::Place { .. } | Act::Set { .. } | Act::Coat { .. })
}

/// The fault that it is to leave an action out.
fn fault_of<'a>(plan: &'a Plan, act: &Act) -> &'a str {
    match act {
        Act::Press { .. } => "F15",
        Act::Seal { seal } => &plan.seals[*seal].fault,
        Act::Wait { piece: Some(_) } => "F32",
        _ => NOT_DONE,
    }
}

fn acted_on(act: &Act) -> Option<Part> {
    match act {
        Act::Place { piece, .. } | Act::Set { piece } | Act::Press { piece } | Act::Coat { piece, .. } => {
            Some(Part::Piece(*piece))
        }
        Act::Lift { flap } | Act::Drop { flap } => Some(Part::Flap(*flap)),
        _ => None,
    }
}

fn piece_id(plan: &Plan, part: Part) -> Option<String> {
    match part {
        Part::Piece(p) => Some(plan.pieces[p].id.clone()),
        Part::Flap(f) => Some(plan.flaps[f].id.clone()),
        Part::Barrier(_) => None,
    }
}

fn place_of(plan: &Plan, part: Part) -> (SurfaceId, [f64; 4]) {
    let first = match part {
        Part::Piece(p) => plan.pieces[p].regions.first().copied(),
        Part::Flap(f) => {
            plan.cuts.iter().flat_map(|c| &c.flaps).find(|(i, _)| *i == f).map(|(_, r)| (SurfaceId::WALL, *r))
        }
        Part::Barrier(_) => None,
    };
    first.map_or((SurfaceId::WALL, [0.0; 4]), |(s, r)| (s, r.to_inches()))
}
