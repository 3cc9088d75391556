//! Repairs of what was found on a wall that stands: what can be laid, tucked, stuck, coated, slit or taken back there, each tried by the water.
//!
//! # Properties
//! What is proposed leaves nothing wrong on the finished wall that is not wrong without what was found. Proposals stand in order: those that lean on
//! less glue first, then those that open less, then the quicker.

mod moves;
mod over;

use crate::edit::{Edit, apply};
use crate::findings::piece_of;
use crate::findings::{Finding, Fix, KnownWater, Moment, Severity, State, cause_key};
use crate::job::{FOUND_SIZE, FoundKind, FoundSpec, Job, Mend, Place};
use crate::layup::{Bond, Glue};
use crate::length::Length;
use crate::plan::{Effect, Part, Plan, SurfaceId};
use crate::problem::Problem;
use crate::profile::fig;
use crate::recipe::Role;
use crate::recipe::schools::Feature;
use crate::remedies::is_cause_of_worry;
use crate::sequence::{Laid, Stage};
use crate::stop::{STOPPED, Stop};
use crate::surface::{Edge, Rect};
use crate::takeoff::step_minutes;
use crate::trade::{Act, PieceId};
use std::collections::{BTreeMap, BTreeSet};

/// Most ways of mending that are tried for one thing.
pub const MOST_TRIED: usize = 24;

/// A finished wall, as far as repairs are held against each other.
#[derive(Clone, Debug, PartialEq)]
pub struct Standing {
    /// What is said of it.
    pub state: State,
    /// What is wrong with it, by what tells causes apart.
    wrong: BTreeSet<String>,
    /// What leans on glue, by what tells causes apart, each with its sentence.
    leans: BTreeMap<String, String>,
    /// Least head of rain with the glue holding and lost, in inches; `None` where there is no way in.
    pub rain: [Option<f64>; 2],
    /// The worst that is wrong with it, in a sentence; empty where nothing is.
    pub worst: String,
}

impl Standing {
    /// True where nothing is wrong with it that is not wrong with another.
    pub fn is_no_worse_than(&self, other: &Self) -> bool {
        self.wrong.is_subset(&other.wrong) && self.state >= other.state
    }
}

/// One way of mending what was found, as it was tried.
#[derive(Clone, Debug)]
pub struct Proposal {
    /// What it is, in words.
    pub title: String,
    /// The change that makes it part of the plan.
    pub edit: Edit,
    /// The finished wall with it.
    pub after: Standing,
    /// What leans on glue that would not without what was found.
    pub leans: Vec<String>,
    /// Pieces that are taken off and hung or laid again, as they are called.
    pub opened: Vec<String>,
    /// How many those are.
    pub taken_off: usize,
    /// New pieces: how they are called, of what, and how large.
    pub pieces: Vec<NewPiece>,
    /// Minutes of one person.
    pub minutes: f64,
    /// Square feet of new material.
    pub ft2: f64,
    /// The coldest surface on which it can be done, °F, where something sticks or cures.
    pub least_f: Option<f64>,
    /// The plan with it.
    pub plan: Plan,
}

/// A piece that a repair asks for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NewPiece {
    /// What people call it.
    pub name: String,
    /// Generic material.
    pub product: String,
    /// Its size where it is cut.
    pub size: String,
}

/// What can be done about something that was found.
#[derive(Clone, Debug)]
pub struct Proposals {
    /// The finished wall without it.
    pub whole: Standing,
    /// The finished wall with it and nothing done about it.
    pub before: Standing,
    /// The plan with it and nothing done about it.
    pub plan: Plan,
    /// What can be done, the best first.
    pub list: Vec<Proposal>,
    /// What was tried and does not do, each with what is wrong then.
    pub refused: Vec<(String, String)>,
}

impl Proposals {
    /// Why nothing can be proposed; `None` where something is.
    pub fn none(&self) -> Option<String> {
        if !self.list.is_empty() {
            return None;
        }
        let last = self.refused.first().map_or("nothing could be tried there", |(_, why)| why);
        Some(format!("No repair keeps it as it was planned: {last}"))
    }
}

fn stopped(m: String) -> Vec<Problem> {
    vec![Problem::new("$", m)]
}

/// Looks at a finished plan; the worst of it is told that another has not.
fn standing(plan: &Plan, known: &KnownWater, beside: Option<&Standing>) -> Result<Standing, Vec<Problem>> {
    let moment = Moment::with_known(plan, usize::MAX, known).map_err(stopped)?;
    let found = moment.findings(plan);
    let verdict = moment.verdict(plan, &found);
    let rain = [Glue::Holds, Glue::Lost].map(|glue| {
        let of = verdict.heads.iter().find(|h| h.kind == crate::findings::RAIN_KIND && h.glue == glue);
        of.and_then(|h| h.head).map(|h| h.inches())
    });
    let worries = || found.iter().filter(|f| is_cause_of_worry(f));
    let leans = found.iter().filter(|f| f.severity == Severity::Glue);
    Ok(Standing {
        state: verdict.state,
        wrong: worries().map(|f| cause_key(plan, f)).collect(),
        leans: leans.map(|f| (cause_key(plan, f), f.reason.clone())).collect(),
        rain,
        worst: worries()
            .find(|f| beside.is_none_or(|b| !b.wrong.contains(&cause_key(plan, f))))
            .map(|f| f.reason.clone())
            .unwrap_or_default(),
    })
}

/// A free id for what is found next.
pub fn free_id(job: &Job) -> String {
    let taken = |id: &String| job.found.iter().any(|f| f.id == *id) || job.openings.iter().any(|o| o.id == *id);
    (1..).map(|n| format!("D{n}")).find(|id| !taken(id)).unwrap_or_default()
}

/// A finding as something that was found on the wall: where its water gets in on the face, or where the pieces are that it is about.
///
/// # Errors
/// A sentence where nothing of it lies on the face of the wall.
pub fn found_of(plan: &Plan, stage: &Stage, f: &Finding, id: String) -> Result<FoundSpec, Vec<Problem>> {
    let pieces = concerned(plan, stage, f);
    let lies = |r: &Rect| r.intersection(plan.surfaces[SurfaceId::WALL].facet.rect()).filter(|r| r.has_area());
    let on_face =
        |p: &PieceId| plan.pieces[*p].regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
    let hull = || pieces.iter().flat_map(on_face).reduce(Rect::hull);
    let opening = || {
        let of = pieces.iter().find_map(|p| plan.pieces[*p].opening).map(|o| plan.openings[o].rect);
        of.or_else(|| plan.opening_of(f.place.0).map(|o| o.rect))
    };
    let r = edge_of(plan, f).or_else(hull).or_else(opening).as_ref().and_then(lies);
    let Some(r) = r else {
        let message = "nothing of this lies on the face of the wall: mend it by doing it as planned";
        return Err(vec![Problem::new("$", message.to_owned())]);
    };
    let place = placed_at(plan, r);
    let ids = pieces.iter().map(|p| plan.pieces[*p].id.clone()).collect();
    Ok(FoundSpec { id, what: FoundKind::Wrong, after: None, place, pieces: ids, repair: Vec::new(), thing: None })
}

/// What a step lays, as something of which a check failed.
///
/// # Errors
/// A sentence where there is no such step, or it lays nothing on the face of the wall.
pub fn found_at(plan: &Plan, step: &str, id: String) -> Result<FoundSpec, Vec<Problem>> {
    let Some(of) = plan.steps.iter().find(|s| s.id == step) else {
        let message = format!("there is no step \"{step}\" in this job; it may have changed meanwhile");
        return Err(vec![Problem::new("$.step", message)]);
    };
    let mut pieces: Vec<PieceId> = of.actions.iter().flat_map(|a| pieces_of(plan, &a.act)).collect();
    pieces.sort_unstable();
    pieces.dedup();
    let on_face =
        |p: &PieceId| plan.pieces[*p].regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
    let opening = of.opening.as_ref().and_then(|id| plan.openings.iter().find(|o| o.id == *id)).map(|o| o.rect);
    let r = pieces.iter().flat_map(on_face).reduce(Rect::hull).or(opening);
    let r = r.and_then(|r| r.intersection(plan.surfaces[SurfaceId::WALL].facet.rect()));
    let (Some(r), false) = (r, pieces.is_empty()) else {
        let message = format!("\"{}\" lays nothing that could be taken off: do it again, and look again", of.title);
        return Err(vec![Problem::new("$.step", message)]);
    };
    let ids = pieces.iter().map(|p| plan.pieces[*p].id.clone()).collect();
    let place = placed_at(plan, r);
    Ok(FoundSpec { id, what: FoundKind::Failed, after: None, place, pieces: ids, repair: Vec::new(), thing: None })
}

/// The unit at a place, as something to be replaced.
///
/// # Errors
/// A sentence where no unit stands there.
pub fn found_unit(plan: &Plan, seen: FoundSpec) -> Result<FoundSpec, Vec<Problem>> {
    let bottom = seen.place.bottom + plan.walls.plate;
    let (left, place) = (seen.place.left, seen.place);
    let at = Rect::new(left, bottom, left + place.width, bottom + place.height);
    let here = plan.openings.iter().position(|o| o.rect.overlaps(at));
    let unit = plan.pieces.iter().find(|p| p.role == Role::Unit && here.is_some() && p.opening == here);
    let (Some(o), Some(unit)) = (here, unit) else {
        let message = "no unit stands there: point at a window or door";
        return Err(vec![Problem::new("$.place", message.to_owned())]);
    };
    Ok(FoundSpec { place: placed_at(plan, plan.openings[o].rect), pieces: vec![unit.id.clone()], ..seen })
}

/// A job with an opening at its new place, and the old one as something that was found on it.
///
/// # Errors
/// A sentence where there is no such opening, it is where it was, or it cannot be where it is said to be.
pub fn found_moved(
    job: &Job,
    opening: &str,
    place: Place,
    after: Option<String>,
) -> Result<(Job, FoundSpec), Vec<Problem>> {
    let Some(o) = job.openings.iter().find(|o| o.id == opening && o.feature == Feature::Opening) else {
        let message =
            format!("there is no window or door \"{opening}\" on this wall; it may have been removed meanwhile");
        return Err(vec![Problem::new("$.opening", message)]);
    };
    let was = Place { left: o.left, bottom: o.sill, width: o.width, height: o.height };
    if was == place {
        let message = format!("{} is where it was, {} × {}: say where it is now", o.name, o.width, o.height);
        return Err(vec![Problem::new("$.place", message)]);
    }
    let edit = Edit::SetOpening {
        id: opening.to_owned(),
        name: None,
        left: Some(place.left),
        sill: Some(place.bottom),
        width: Some(place.width),
        height: Some(place.height),
        depth: None,
        flange: None,
    };
    let (now, plan) = apply(job, &edit)?;
    let index = plan.openings.iter().position(|o| o.id == opening);
    let pieces = plan.pieces.iter().filter(|p| p.opening.is_some() && p.opening == index).map(|p| p.id.clone());
    let found = FoundSpec {
        id: free_id(job),
        what: FoundKind::Moved,
        after,
        place: was,
        pieces: pieces.collect(),
        repair: Vec::new(),
        thing: None,
    };
    Ok((now, found))
}

/// A place as jobs tell it, no larger than what can be told.
fn placed_at(plan: &Plan, r: Rect) -> Place {
    let most = FOUND_SIZE.most;
    Place { left: r.u0, bottom: r.v0 - plan.walls.plate, width: r.width().min(most), height: r.height().min(most) }
}

/// The pieces an act is about.
fn pieces_of(plan: &Plan, act: &Act) -> Vec<PieceId> {
    match act {
        Act::Place { piece, .. } | Act::Set { piece } | Act::Press { piece } | Act::Coat { piece, .. } => vec![*piece],
        Act::Wait { piece: Some(piece) } => vec![*piece],
        Act::Seal { seal } => vec![plan.seals[*seal].behind],
        Act::Lift { flap } | Act::Drop { flap } => {
            // What lies under or over the flap by the recipes.
            let overs = plan.overs.iter().filter(|o| o.upper == Part::Flap(*flap) || o.lower == Part::Flap(*flap));
            let parts = overs.flat_map(|o| [o.upper, o.lower]);
            parts.filter_map(|p| if let Part::Piece(p) = p { Some(p) } else { None }).collect()
        }
        Act::Cut { cut } => {
            let at = &plan.cuts[*cut];
            let around = at.away.iter().chain(at.flaps.iter().map(|(_, r)| r)).copied().reduce(Rect::hull);
            let hit = |(on, r): &(SurfaceId, Rect)| *on == SurfaceId::WALL && around.is_some_and(|a| a.overlaps(*r));
            let barrier = plan.pieces.iter_enumerated().filter(|(_, p)| p.role.is_barrier());
            barrier.filter(|(_, p)| p.regions.iter().any(hit)).map(|(i, _)| i).collect()
        }
        _ => Vec::new(),
    }
}

/// The pieces a finding is about: those that would be laid otherwise if what is at the bottom of it were right.
pub fn concerned(plan: &Plan, stage: &Stage, f: &Finding) -> Vec<PieceId> {
    let of_step = |id: &str| -> Vec<PieceId> {
        let whole = plan.steps.iter().filter(|s| s.id == *id).flat_map(|s| &s.actions);
        let single = plan.steps.iter().flat_map(|s| &s.actions).filter(|a| a.id == *id);
        whole.chain(single).flat_map(|a| pieces_of(plan, &a.act)).collect()
    };
    let by_id = |id: &String| plan.pieces.position(|p| p.id == *id);
    let mut out: Vec<PieceId> = match &f.fix {
        Some(Fix::Restore { step }) => of_step(step),
        Some(Fix::Move { step, before }) => {
            // Over and under: what is moved, and what lies wrongly over it.
            let mut out = of_step(step);
            out.extend(before.iter().flat_map(|b| of_step(b)));
            out.extend(f.pieces.iter().filter_map(by_id));
            out
        }
        Some(Fix::PutRight { deviation }) => by_id(&deviation.piece).into_iter().collect(),
        Some(Fix::Figure { .. }) | None => f.pieces.iter().filter_map(by_id).collect(),
    };
    if out.is_empty() {
        // Nothing says what is at the bottom of it: everything that was left out, could not be done or was done otherwise.
        out = plan.removed.iter().flat_map(|id| of_step(id)).collect();
        out.extend(stage.blocked.iter().flat_map(|b| pieces_of(plan, &b.act)));
    }
    if f.fix.is_none() {
        out.extend(plan.departures.as_built.iter().map(crate::plan::AsBuilt::piece));
    }
    out.sort_unstable();
    out.dedup();
    out
}

/// The strip along the edge at which a finding's water gets in; `None` where it gets in elsewhere than on the face.
fn edge_of(plan: &Plan, f: &Finding) -> Option<Rect> {
    let way = f.way.as_ref()?;
    let entry = way.entry()?;
    let point = way.points.get(entry.point).filter(|p| p.facet.0 == SurfaceId::WALL.0)?;
    let piece = plan.pieces.get(piece_of(entry.sheet))?;
    let near = |l: Length, at: f64| (l.to_inches_f64() - at).abs() < 0.05;
    let hit = |r: &&(SurfaceId, Rect)| {
        r.0 == SurfaceId::WALL
            && match entry.edge {
                Edge::Top => near(r.1.v1, point.v),
                Edge::Bottom => near(r.1.v0, point.v),
                Edge::Left => near(r.1.u0, point.u),
                Edge::Right => near(r.1.u1, point.u),
            }
    };
    let r = piece.regions.iter().find(hit)?.1;
    let most = plan.basis.figures.length(fig::REPAIR_STUCK_MOST);
    let at = Length::from_inches_f64(point.u)?;
    let (u0, u1) = if r.width() > most + most { (r.u0.max(at - most), r.u1.min(at + most)) } else { (r.u0, r.u1) };
    let thin = Length::inch_fraction(1, 4);
    Some(match entry.edge {
        Edge::Top => Rect { u0, u1, v0: r.v1 - thin, ..r },
        Edge::Bottom => Rect { u0, u1, v1: r.v0 + thin, ..r },
        Edge::Left => Rect { u1: r.u0 + thin, ..r },
        Edge::Right => Rect { u0: r.u1 - thin, ..r },
    })
}

/// What can be done about something that was found; whatever repair it has already is not looked at.
///
/// # Errors
/// What is wrong with it: outside the wall, where nothing lies yet; or that the asker stopped asking.
pub fn propose(job: &Job, found: &FoundSpec, known: &KnownWater, stop: &Stop) -> Result<Proposals, Vec<Problem>> {
    if let Some(thing) = &found.thing {
        let known = |k: &&crate::edit::FeatureKind| k.feature == Feature::Penetration && k.id == *thing;
        if !crate::edit::feature_kinds().map_err(stopped)?.iter().any(|k| known(&k)) {
            let message =
                format!("nothing called \"{thing}\" comes through a wall here: name one such as pipe, duct or vent");
            return Err(vec![Problem::new("$.thing", message)]);
        }
    }
    let mut without = job.clone();
    without.found.retain(|f| f.id != found.id);
    let bare = FoundSpec { repair: Vec::new(), ..found.clone() };
    let (_, plan) = apply(&without, &Edit::SetFound { found: bare.clone() })?;
    let (before_it, at) = moment_of(&plan, &bare.id)?;
    let whole = crate::plan::build(&without)?;
    let whole = standing(&whole, known, None)?;
    // What was done wrong is wrong without being found: it is told itself.
    let beside = (bare.what != FoundKind::Wrong).then_some(&whole);
    let before = standing(&plan, known, beside)?;
    let over = over::LiesOver::new(&plan, &before_it);
    let moves = moves::Moves { job: &without, plan: &plan, stage: &before_it, over, at, found: &bare };
    let mut out = Proposals { whole, before, plan: plan.clone(), list: Vec::new(), refused: Vec::new() };
    for (title, edit) in moves.all().into_iter().take(MOST_TRIED) {
        stop.check().map_err(|_| stopped(STOPPED.into()))?;
        let mended = match apply(&without, &edit) {
            Ok((_, mended)) => mended,
            Err(p) => {
                out.refused.push((title, p.into_iter().next().map(|p| p.message).unwrap_or_default()));
                continue;
            }
        };
        let after = standing(&mended, known, Some(&out.whole))?;
        if does(bare.what, &out.whole, &after) {
            out.list.push(proposal(title, edit, after, &out.whole, mended, &moves));
        } else {
            let new = after.wrong.difference(&out.whole.wrong).next();
            let why =
                if new.is_some() && !after.worst.is_empty() { after.worst } else { after.state.says().to_owned() };
            out.refused.push((title, why));
        }
    }
    let leans = |p: &Proposal| if moves.sticks() { 0 } else { p.leans.len() };
    let key = |p: &Proposal| (leans(p), p.taken_off, (p.minutes * 10.0) as i64);
    out.list.sort_by(|a, b| b.after.state.cmp(&a.after.state).then_with(|| key(a).cmp(&key(b))));
    out.list.dedup_by(|a, b| a.edit == b.edit);
    Ok(out)
}

/// The wall just before something was found, and where on it that is.
fn moment_of(plan: &Plan, id: &str) -> Result<(Stage, Rect), Vec<Problem>> {
    let step = format!("{id}/found");
    let done = plan.actions().take_while(|(s, _)| plan.steps[*s].id != step).map(|(_, a)| a);
    let stage = Stage::after(plan, done);
    let damage = plan.departures.damages.iter().find(|d| d.id == id);
    let at = damage.map(|d| d.rect).ok_or_else(|| stopped(format!("nothing was found as \"{id}\"")))?;
    // What was left out may leave nothing there.
    if damage.is_some_and(|d| d.what.is_of_pieces()) {
        return Ok((stage, at));
    }
    let sheds = |l: &&Laid| {
        let p = &plan.pieces[l.piece];
        l.on == SurfaceId::WALL && l.rect.overlaps(at) && !p.solid && !p.role.is_outside()
    };
    let needs_glue = damage.is_some_and(|d| d.effect == Effect::Open);
    let there: Vec<&Laid> = stage.layers.iter().filter(sheds).collect();
    if there.iter().any(|l| !needs_glue || stage.bond(l.piece) == Bond::Full) {
        return Ok((stage, at));
    }
    if !there.is_empty() {
        let message = "nothing there sticks, so nothing can have let go; what is loose there and should not be is torn";
        return Err(vec![Problem::new("$.place", message.to_owned())]);
    }
    let on = plan.openings.iter().find(|o| o.rect.overlaps(at));
    let message = match on {
        Some(o) => format!("nothing that sheds water lies there: it is in {}; choose a place beside it", o.name),
        None => "nothing lies there yet: choose a later moment, or a place where something hangs".to_owned(),
    };
    Err(vec![Problem::new("$.place", message)])
}

/// True where a wall that was mended is no worse than it would be without what was found; where water gets in at an edge, where that is less.
fn does(what: FoundKind, whole: &Standing, after: &Standing) -> bool {
    let no_worse = after.wrong.is_subset(&whole.wrong);
    match what {
        FoundKind::Wrong => no_worse && (after.wrong.len() < whole.wrong.len() || after.state > whole.state),
        _ => no_worse && after.state >= whole.state.min(State::WhileGlueHolds),
    }
}

fn proposal(
    title: String,
    edit: Edit,
    after: Standing,
    whole: &Standing,
    plan: Plan,
    moves: &moves::Moves,
) -> Proposal {
    let id = if let Edit::AddOpening { opening } = &edit { &opening.id } else { &moves.found.id };
    let prefix = format!("{id}/");
    let of_it = |s: &crate::trade::Step| s.id.starts_with(&prefix);
    let minutes = plan.steps.iter().zip(step_minutes(&plan)).filter(|(s, _)| of_it(s)).map(|(_, m)| m).sum();
    let new = |p: &&crate::plan::Piece| p.id.starts_with(&prefix);
    let area = |p: &crate::plan::Piece| -> f64 {
        p.regions.iter().map(|(_, r)| r.width().to_inches_f64() * r.height().to_inches_f64() / 144.0).sum()
    };
    let mut off: Vec<PieceId> = Vec::new();
    for a in plan.steps.iter().filter(|s| of_it(s)).flat_map(|s| &s.actions) {
        if let Act::Remove { piece: Some(piece) } = a.act {
            off.push(piece);
        }
    }
    // What comes through is flashed where nothing hangs outside it yet.
    if matches!(edit, Edit::AddOpening { .. }) {
        off.extend(moves.outside());
    }
    let again = off.iter().filter(|p| !plan.pieces[**p].comes_off_whole());
    let ft2 =
        plan.pieces.iter().filter(new).map(area).sum::<f64>() + again.map(|p| area(&plan.pieces[*p])).sum::<f64>();
    let mut opened: Vec<String> = Vec::new();
    for p in &off {
        let name = &plan.pieces[*p].name;
        if !opened.contains(name) {
            opened.push(name.clone());
        }
    }
    let sticks = plan.steps.iter().filter(|s| of_it(s)).flat_map(|s| &s.actions).filter_map(|a| match a.act {
        Act::Press { piece } | Act::Coat { piece, .. } => Some(&plan.pieces[piece].product),
        Act::Seal { seal } => Some(&plan.seals[seal].product),
        _ => None,
    });
    let least = |product: &String| plan.product(product).and_then(|p| p.least_f);
    let least_f = sticks.filter_map(least).max_by(f64::total_cmp);
    let round = plan.basis.figures.length(fig::CUT_ROUND);
    let pieces = plan.pieces.iter().filter(new).map(|p| NewPiece {
        name: p.name.clone(),
        product: p.product.clone(),
        size: p
            .cut
            .as_ref()
            .map_or(String::new(), |c| format!("{} × {}", c.length.ceil_step(round), c.width.ceil_step(round))),
    });
    let pieces = pieces.collect();
    // What is done again as planned leans on what the plan leans on.
    let as_planned =
        matches!(&edit, Edit::SetFound { found } if found.repair.iter().all(|m| matches!(m, Mend::Again { .. })));
    let new = after.leans.iter().filter(|(key, _)| !as_planned && !whole.leans.contains_key(*key));
    let leans = new.map(|(_, says)| says.clone()).collect();
    Proposal { title, edit, after, leans, opened, taken_off: off.len(), pieces, minutes, ft2, least_f, plan }
}
