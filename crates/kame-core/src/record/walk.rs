//! The walk round before cover: every point that somebody looks at, in the order of the scaffold, with what can still be seen of it (handbook 6.3).

use super::state::StepState;
use crate::checks::Check;
use crate::length::Length;
use crate::plan::{Plan, SurfaceId};
use crate::profile::fig;
use crate::recipe::checks::Judged;
use crate::sequence::{Laid, Stage};
use crate::trade::{Act, PieceId, StepId};
use serde::Serialize;
use std::collections::HashMap;

/// What can be seen of a point.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Seen {
    /// It is not done yet.
    NotYet,
    /// The whole piece can be seen.
    Whole,
    /// Some of it.
    Part,
    /// Nothing: something lies over it.
    Hidden,
}

/// What was said of a point.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum PointNow {
    /// Nothing lies over it.
    Open,
    /// It is as it should be.
    Good,
    /// It has to be mended.
    Mend,
    /// It was mended, and has to be looked at again.
    LookAgain,
    /// Nobody can reach it.
    Unreached,
}

/// A point of the walk round.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Point {
    /// Id of the check.
    pub check: String,
    /// Its step.
    pub step: String,
    /// Title of that.
    pub title: String,
    /// Id of the opening; empty for the walls.
    pub place: String,
    /// On which wall, from 0 at the left.
    pub wall: usize,
    /// On which lift of the scaffold, from 0 at the bottom.
    pub lift: u32,
    /// What is looked at.
    pub name: String,
    /// The place, in words.
    pub at: String,
    /// The faults it guards against.
    pub guards: Vec<String>,
    /// A photograph is wanted.
    pub photo: bool,
    /// What can be seen of it.
    pub seen: Seen,
    /// What lies over it, where something does.
    pub under: String,
    /// What was said of it.
    pub now: PointNow,
}

/// What of a piece can be seen, with a piece that lies over it where one does.
fn seen(plan: &Plan, stage: &Stage, piece: PieceId) -> (Seen, String) {
    let (mut hidden, mut free, mut over) = (false, false, None);
    for (i, part) in stage.layers.iter().enumerate().filter(|(_, l)| l.piece == piece) {
        let covers: Vec<&Laid> = stage.layers[i + 1..]
            .iter()
            .filter(|l| l.on == part.on && l.piece != piece && l.rect.overlaps(part.rect))
            .collect();
        let left = part.rect.minus_all(covers.iter().map(|l| &l.rect));
        free |= !left.is_empty();
        hidden |= !covers.is_empty();
        over = over.or_else(|| covers.last().map(|l| l.piece));
    }
    let name = over.map(|p| plan.pieces[p].name.clone()).unwrap_or_default();
    let seen = match (free, hidden) {
        (true, false) => Seen::Whole,
        (true, true) => Seen::Part,
        (false, true) => Seen::Hidden,
        (false, false) => Seen::NotYet,
    };
    (seen, name)
}

/// Where on the unfolded wall something is looked at.
fn place(plan: &Plan, opening: Option<usize>, piece: Option<PieceId>) -> (Length, Length) {
    let middle = |r: crate::surface::Rect| {
        (Length::from_units((r.u0.units() + r.u1.units()) / 2), Length::from_units((r.v0.units() + r.v1.units()) / 2))
    };
    let of_piece =
        |p: PieceId| plan.pieces[p].regions.iter().find(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| middle(*r));
    opening
        .map(|o| middle(plan.openings[o].rect))
        .or_else(|| piece.and_then(of_piece))
        .unwrap_or((Length::ZERO, Length::ZERO))
}

/// Every point that somebody looks at before cover, in the order of the scaffold: wall by wall, lift by lift from the bottom, to and fro.
pub fn walk(plan: &Plan, stage: &Stage, checks: &[Check], states: &[StepState]) -> Vec<Point> {
    let by_step: HashMap<&str, &StepState> = states.iter().map(|s| (s.step.as_str(), s)).collect();
    let steps: HashMap<&str, StepId> = plan.steps.iter_enumerated().map(|(i, s)| (s.id.as_str(), i)).collect();
    let openings: HashMap<&str, usize> = plan.openings.iter().enumerate().map(|(i, o)| (o.id.as_str(), i)).collect();
    let lift = plan.basis.figures.length(fig::SCAFFOLD_LIFT).units().max(1);
    let mut known: HashMap<PieceId, (Seen, String)> = HashMap::new();
    let mut out: Vec<((usize, u32, i64), Point)> = Vec::new();
    for c in checks.iter().filter(|c| c.judged == Judged::Yes && !c.removed) {
        let Some(step) = steps.get(c.step.as_str()).map(|s| &plan.steps[*s]) else { continue };
        let act = step.actions.iter().find(|a| a.id == c.action).map(|a| &a.act);
        let piece = act.and_then(|a| match a {
            Act::Seal { seal } => Some(plan.seals[*seal].behind),
            Act::Press { piece } => Some(*piece),
            a => a.placed(),
        });
        let state = by_step.get(c.step.as_str());
        let done = state
            .is_some_and(|s| !matches!(s.now, super::StepNow::Open | super::StepNow::InHand | super::StepNow::LeftOut));
        let (seen, under) = match piece {
            _ if !done => (Seen::NotYet, String::new()),
            Some(p) => known.entry(p).or_insert_with(|| seen(plan, stage, p)).clone(),
            None => (Seen::Whole, String::new()),
        };
        let opening = openings.get(c.opening.as_str()).copied();
        let (u, v) = place(plan, opening, piece);
        let wall = plan.walls.footprint.iter().rposition(|w| w.along.0 <= u).unwrap_or(0);
        let on = u32::try_from(v.units().max(0) / lift).unwrap_or(0);
        // To and fro: the next lift begins where this one ends.
        let along = if on % 2 == 0 { u.units() } else { -u.units() };
        let has = |list: &dyn Fn(&StepState) -> &Vec<String>| state.is_some_and(|s| list(s).contains(&c.id));
        let now = if has(&|s| &s.bad) {
            PointNow::Mend
        } else if has(&|s| &s.mended) {
            PointNow::LookAgain
        } else if has(&|s| &s.unreached) {
            PointNow::Unreached
        } else if has(&|s| &s.good) {
            PointNow::Good
        } else {
            PointNow::Open
        };
        let point = Point {
            check: c.id.clone(),
            step: c.step.clone(),
            title: step.title.clone(),
            place: c.opening.clone(),
            wall,
            lift: on,
            name: c.name.clone(),
            at: c.at.clone(),
            guards: c.guards.clone(),
            photo: c.photo,
            seen,
            under,
            now,
        };
        out.push(((wall, on, along), point));
    }
    out.sort_by_key(|(at, _)| *at);
    out.into_iter().map(|(_, p)| p).collect()
}
