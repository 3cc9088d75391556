//! Measure it: cut sizes from an opening and the rules, judged by the cut list. Too short is worse than too long.

use super::chance::shuffled;
use super::drill::{FULL, Graded, MOST_ANSWERED, Said};
use crate::job::Job;
use crate::length::Length;
use crate::plan::{Plan, build};
use crate::problem::Problem;
use crate::profile::fig;
use crate::takeoff::cut_list;
use rand_xorshift::XorShiftRng;
use serde::{Deserialize, Serialize};
use std::collections::{HashMap, HashSet};
use std::sync::Arc;

/// A piece whose size is asked.
#[derive(Clone, Debug, PartialEq)]
pub struct AskedSize {
    /// Id of the piece.
    pub piece: String,
    /// What people call it.
    pub name: String,
    /// Generic material.
    pub product: String,
    /// Step that lays it.
    pub step: String,
    /// What is right, along.
    pub length: Length,
    /// Across the roll, or the shorter side.
    pub width: Length,
    /// How close is close enough.
    pub within: Length,
}

/// A size as the learner gives it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Size {
    /// Along.
    pub length: Length,
    /// Across the roll, or the shorter side.
    pub width: Length,
}

/// How many sizes are asked at each level.
const PIECES: [usize; 5] = [1, 2, 3, 4, 5];
/// The share of points for a piece that is too long: it can be used, and some of it is wasted.
const TOO_LONG: f64 = 0.6;

/// Ids of the pieces whose length follows from the opening: of others a learner cannot work it out from a tape and the card.
fn by_the_opening(job: &Job, plan: &Plan) -> Result<HashSet<String>, String> {
    let lengths = |plan: &Plan| -> HashMap<String, Length> {
        cut_list(plan, &[]).iter().flat_map(|g| &g.pieces).map(|p| (p.id.clone(), p.length)).collect()
    };
    let mut larger = job.clone();
    for o in &mut larger.openings {
        (o.width, o.height) = (o.width + ONE, o.height + ONE);
    }
    let larger = build(&larger).map_err(|p| p.first().map_or(String::new(), |p| p.message.clone()))?;
    let (now, then) = (lengths(plan), lengths(&larger));
    Ok(now.into_iter().filter(|(id, l)| then.get(id).is_some_and(|t| t != l)).map(|(id, _)| id).collect())
}

/// By so much an opening is larger to see which lengths follow from it.
const ONE: Length = Length::inch(1);

pub(super) fn task(job: &Job, plan: &Plan, level: u8, rng: &mut XorShiftRng) -> Result<Vec<AskedSize>, String> {
    let asked = by_the_opening(job, plan)?;
    let list = cut_list(plan, &[]);
    let within = plan.basis.figures.length(fig::CUT_ROUND);
    let step = |id: &str| {
        let lays = |s: &&Arc<crate::trade::Step>| {
            s.actions.iter().filter_map(|a| a.act.placed()).any(|p| plan.pieces[p].id == id)
        };
        plan.steps.iter().find(lays).map(|s| s.id.clone())
    };
    let mut all: Vec<AskedSize> = Vec::new();
    for group in &list {
        for p in group.pieces.iter().filter(|p| !p.opening.is_empty() && asked.contains(&p.id)) {
            // Left and right are the same sum.
            let plain = |name: &str| name.replace("left", "").replace("right", "");
            if all.iter().any(|a| plain(&a.name) == plain(&p.name)) {
                continue;
            }
            let Some(step) = step(&p.id) else { continue };
            let (piece, name, product) = (p.id.clone(), p.name.clone(), group.product.clone());
            all.push(AskedSize { piece, name, product, step, length: p.length, width: p.width, within });
        }
    }
    if all.is_empty() {
        return Err("nothing on it is cut by the size of an opening".into());
    }
    shuffled(rng, &mut all);
    all.truncate(PIECES[usize::from(level.clamp(1, 5)) - 1]);
    Ok(all)
}

pub(super) fn grade(task: &[AskedSize], sizes: &[Size]) -> Result<Graded, Vec<Problem>> {
    if sizes.len() != task.len() || sizes.len() > MOST_ANSWERED {
        let message = format!("found {} sizes, expected {}: give one for each piece", sizes.len(), task.len());
        return Err(vec![Problem::new("$.answer.sizes", message)]);
    }
    let (mut points, mut says) = (0.0, Vec::new());
    for (a, s) in task.iter().zip(sizes) {
        let off = [s.length - a.length, s.width - a.width];
        let short = off.iter().any(|o| *o < -a.within);
        let long = off.iter().any(|o| *o > a.within);
        let (worth, said) = worth(task, a, short, long);
        points += worth;
        says.push(said);
    }
    Ok(Graded::new(points, says))
}

/// What a size gives that is too short, too long or neither.
pub(super) fn worth(task: &[AskedSize], a: &AskedSize, short: bool, long: bool) -> (f64, Said) {
    let (share, words) = match (short, long) {
        (true, _) => (0.0, "Too short: it is thrown away, or laps less than it should"),
        (false, true) => (TOO_LONG, "Too long: it can be trimmed, and some is wasted"),
        (false, false) => (1.0, "Right"),
    };
    let says = format!("{}: {words}. It is {} × {}.", a.name, a.length, a.width);
    let fault = if short { "F02".into() } else { String::new() };
    (share * FULL / task.len().max(1) as f64, Said { good: share >= 1.0, says, fault })
}
