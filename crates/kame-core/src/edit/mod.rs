//! Changes of a job: each makes another job and its plan, or is refused.

mod answers;
mod feature;
mod kit;
mod order;
mod schedule;
mod shape;
mod way;

pub(crate) use feature::free_id;
pub use feature::{COPIES, FeatureKind, feature_kinds};
pub use schedule::{Column, Field, MOST_ROWS, Mapping, Schedule, ScheduleRow, read_schedule};
pub use shape::TopShape;
pub use way::{WayDifference, WayPart, way_differences, way_of};

use self::answers::{set_school, take_schools};
use self::kit::{products_at, record_pair, set_product};
use self::order::in_another_order;
use self::shape::{set_wall, shaped};
use crate::advice::follow;
use crate::interview::Strategy;
use crate::job::{CornerSpec, Deviation, FoundSpec, Job, LevelSpec, OpeningSpec, Place, SiteSpec, Way};
use crate::kit::{Held, KitSpec, OwnProduct, PairVerdict};
use crate::length::Length;
use crate::plan::{Plan, build};
use crate::problem::Problem;
use crate::profile::{Profile, ProfileVersion};
use crate::range::NAME;
use crate::recipe::schools::Feature;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashSet};

/// One change to a job. What is left out stays as it is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "edit", rename_all = "snake_case", deny_unknown_fields)]
pub enum Edit {
    /// Another name for the job.
    Rename {
        /// The new name.
        name: String,
    },
    /// Another name or size of the wall.
    SetWall {
        /// What people call it.
        #[serde(default)]
        name: Option<String>,
        /// Corner to corner.
        #[serde(default)]
        width: Option<Length>,
        /// From the bottom plate.
        #[serde(default)]
        height: Option<Length>,
        /// All corners, in any order.
        #[serde(default)]
        corners: Option<Vec<CornerSpec>>,
        /// Grade, paving and floors.
        #[serde(default)]
        levels: Option<Vec<LevelSpec>>,
    },
    /// Another height of the first course, or the best again.
    SetFirstCourse {
        /// How high, `None` for the best.
        #[serde(default)]
        height: Option<Length>,
    },
    /// Two things that come through the barrier close to each other, flashed as one.
    FlashTogether {
        /// Which stays, as the outline of both.
        id: String,
        /// Which goes into it.
        with: String,
        /// From the wall's left end to the first, where it is not where it was.
        #[serde(default)]
        left: Option<Length>,
        /// From the bottom plate to the first, where it is not where it was.
        #[serde(default)]
        sill: Option<Length>,
    },
    /// Another top of the wall between two corners.
    ShapeTop {
        /// Which wall, from 0 at the left.
        wall: usize,
        /// Its shape.
        shape: TopShape,
        /// Height of its low side from the bottom plate; the high side has the height of the walls.
        low: Length,
    },
    /// Another place or size of an opening.
    SetOpening {
        /// Id of what is changed.
        id: String,
        /// What people call it.
        #[serde(default)]
        name: Option<String>,
        /// From the wall's left end.
        #[serde(default)]
        left: Option<Length>,
        /// From the bottom plate.
        #[serde(default)]
        sill: Option<Length>,
        /// Rough opening.
        #[serde(default)]
        width: Option<Length>,
        /// Rough opening.
        #[serde(default)]
        height: Option<Length>,
        /// Depth of the wall.
        #[serde(default)]
        depth: Option<Length>,
        /// Width of the flange.
        #[serde(default)]
        flange: Option<Length>,
    },
    /// Another answer to a school question; without one the usual is in force again. What the new answer rules out among the others goes
    /// back to the usual too.
    SetSchool {
        /// At which opening; without one, for the walls.
        #[serde(default)]
        opening: Option<String>,
        /// For which wall, from 1 behind the first corner; without one, or with 0, for all walls that have no answer of their own.
        #[serde(default)]
        wall: Option<usize>,
        /// Which question.
        question: String,
        /// The answer.
        #[serde(default)]
        choice: Option<String>,
    },
    /// All answers at once, for the wall and one opening; what is not given is the usual.
    TakeSchools {
        /// At which opening.
        opening: String,
        /// Answers by question.
        answers: BTreeMap<String, String>,
    },
    /// One more opening.
    AddOpening {
        /// The new value as a whole.
        opening: OpeningSpec,
    },
    /// One more of a kind of thing, with sizes to start from; where it goes is the first free place unless it is said.
    AddFeature {
        /// Which kind.
        kind: String,
        /// From the wall's left end.
        #[serde(default)]
        left: Option<Length>,
        /// From the bottom plate.
        #[serde(default)]
        sill: Option<Length>,
    },
    /// Several at once, as a schedule gives them.
    AddOpenings {
        /// Everything about each opening.
        openings: Vec<OpeningSpec>,
    },
    /// Copies of an opening or penetration, side by side.
    CopyOpening {
        /// Of which.
        id: String,
        /// How many.
        times: u32,
        /// From one to the next.
        step: Length,
    },
    /// An opening less.
    RemoveOpening {
        /// Id of what is changed.
        id: String,
    },
    /// A figure of this job's own; without a value the profile's is in force again.
    SetFigure {
        /// Id of what is changed.
        id: String,
        /// The value as text.
        #[serde(default)]
        value: Option<String>,
    },
    /// All figures of this job's own at once, as from a file; those not given are the profile's.
    SetFigures {
        /// Values as text.
        figures: BTreeMap<String, String>,
    },
    /// The figures in force kept under a name, in place of what was kept under it before.
    KeepProfile {
        /// What people call it.
        name: String,
        /// Where the figures come from.
        #[serde(default)]
        source: String,
    },
    /// The figures kept under a name in force again; the shipped profile's without one.
    RestoreProfile {
        /// Name of the profile; none for general practice.
        #[serde(default)]
        name: Option<String>,
    },
    /// A kept profile less.
    ForgetProfile {
        /// Name of the profile.
        name: String,
    },
    /// A step moved before another, or to the end.
    MoveStep {
        /// Id of the step.
        step: String,
        /// Before which; without one, to the end.
        #[serde(default)]
        before: Option<String>,
    },
    /// A step or a single action left out.
    RemoveStep {
        /// Id of the step or action.
        step: String,
    },
    /// A step or action done after all; a step with everything in it.
    RestoreStep {
        /// Id of the step or action.
        step: String,
    },
    /// The nearest order in which every step can be done and every required over holds.
    PutRight,
    /// Other crews, days, deliveries or another place of the building; without it nothing is said of them.
    SetSite {
        /// The crews, days, deliveries and place.
        #[serde(default)]
        site: Option<SiteSpec>,
    },
    /// Another answer to the strategy interview, or another decision about an advice.
    SetStrategy {
        /// The new value as a whole.
        strategy: Strategy,
    },
    /// Everything set as the strategy advises or as was decided.
    FollowAdvice,
    /// All of the firm's way of building: answers, figures and products. The job follows it from then on.
    TakeWay {
        /// The way.
        way: Way,
    },
    /// Walls and openings as a newer building model has them.
    TakeModel {
        /// All of the walls, unfolded.
        width: Length,
        /// From the bottom plate up.
        height: Length,
        /// Corners from left to right.
        corners: Vec<CornerSpec>,
        /// Everything that is on the walls then.
        openings: Vec<OpeningSpec>,
    },
    /// The job goes its own way from here on; nothing else changes.
    LeaveWay,
    /// The recipes' own order, nothing left out.
    RestoreOrder,
    /// A piece done other than planned, or put right again.
    SetAsBuilt {
        /// The piece, and what was done otherwise.
        deviation: Deviation,
        /// True where it is so.
        so: bool,
    },
    /// A bead along the top edge of a piece whose recipe asks for none, or no such bead any more.
    SealTop {
        /// Id of the piece.
        piece: String,
        /// True where the bead is laid.
        so: bool,
    },
    /// Something found on the wall as it stands, with its repair where that is chosen; in place of what has the same id.
    SetFound {
        /// The new value as a whole.
        found: FoundSpec,
    },
    /// An opening that moved or grew on a wall that stands: its new place and size, and what is done about the old hole.
    Rebuild {
        /// Id of the opening.
        id: String,
        /// The new rough opening.
        place: Place,
        /// The old one as something that was found, with its repair.
        found: FoundSpec,
    },
    /// What was found, and its repair, less.
    RemoveFound {
        /// Id of what is changed.
        id: String,
    },
    /// The crew's own product where the plan says a generic one; without it the generic one again.
    SetProduct {
        /// The generic product.
        product: String,
        /// Its name and how it is sold, with prices.
        #[serde(default)]
        own: Option<OwnProduct>,
        /// All that is on the truck of it; as it was where it is left out.
        #[serde(default)]
        stock: Option<Vec<Held>>,
    },
    /// Which product of a kind is used at an opening, on one wall, or on all walls; without it the one of the wall, or the generic one.
    UseProduct {
        /// The generic product.
        product: String,
        /// Which of its kind.
        #[serde(default)]
        other: Option<String>,
        /// The opening or other feature.
        #[serde(default)]
        opening: Option<String>,
        /// The wall from 0 at the left, where it is not for an opening; 0 for all walls.
        #[serde(default)]
        wall: Option<usize>,
    },
    /// All of the kit, as from a file.
    SetKit {
        /// Products, stock and recorded pairs.
        kit: KitSpec,
    },
    /// What is on the truck, all of it.
    SetStock {
        /// Everything.
        stock: Vec<Held>,
    },
    /// What somebody found out about two products that touch; without a verdict it is open again.
    RecordPair {
        /// The upper product.
        upper: String,
        /// What it lies on.
        lower: String,
        /// What they said.
        #[serde(default)]
        verdict: Option<PairVerdict>,
        /// Who said it, where it is written.
        #[serde(default)]
        source: String,
        /// Hours the lower has to cure first, where they said "fine after".
        #[serde(default)]
        hours: Option<f64>,
    },
    /// A piece that was spoiled at the bench: it is cut once more, and nested with the rest.
    Spoil {
        /// Id of the piece.
        piece: String,
        /// From which roll of its product it was cut, as the cut list says; left out where it comes from none.
        #[serde(default)]
        roll: Option<usize>,
    },
}

fn set<T>(slot: &mut T, value: &Option<T>)
where
    T: Clone,
{
    if let Some(v) = value {
        *slot = v.clone();
    }
}

/// The job after one edit, with its plan. The job given is left as it is.
///
/// # Errors
/// What is wrong with the job that would result.
pub fn apply(job: &Job, edit: &Edit) -> Result<(Job, Plan), Vec<Problem>> {
    let mut next = job.clone();
    next.make_current();
    match edit {
        Edit::MoveStep { .. }
        | Edit::RemoveStep { .. }
        | Edit::RestoreStep { .. }
        | Edit::PutRight
        | Edit::RestoreOrder => return in_another_order(next, edit),
        _ => change(job, &mut next, edit)?,
    }
    if !matches!(edit, Edit::SetAsBuilt { .. } | Edit::SealTop { .. }) {
        forget_lost_deviations(&mut next)?;
    }
    let plan = build(&next)?;
    if let Edit::Spoil { piece, .. } = edit
        && !plan.pieces.iter().any(|p| p.id == *piece && p.cut.is_some())
    {
        return no("$.piece", format!("there is no piece \"{piece}\" in the cut list; it may have changed meanwhile"));
    }
    forget_what_is_gone(&mut next, &plan);
    Ok((next, plan))
}

fn no<T>(path: &str, message: String) -> Result<T, Vec<Problem>> {
    Err(vec![Problem::new(path, message)])
}

fn no_opening<T>(path: &str, id: &str) -> Result<T, Vec<Problem>> {
    no(path, format!("there is no opening \"{id}\" on this wall; it may have been removed meanwhile"))
}

/// Makes one change; edits of the order of work are made elsewhere.
fn change(job: &Job, next: &mut Job, edit: &Edit) -> Result<(), Vec<Problem>> {
    match edit {
        Edit::Rename { name } => next.name = name.trim().to_owned(),
        Edit::SetFirstCourse { height } => next.wall.first_course = *height,
        Edit::FlashTogether { id, with, left, sill } => flash_together(next, id, with, *left, *sill)?,
        Edit::ShapeTop { wall, shape, low } => next.wall.top = shaped(&job.wall, *wall, *shape, *low)?,
        Edit::SetWall { .. } => set_wall(&mut next.wall, edit),
        Edit::SetOpening { .. } => set_opening(next, edit)?,
        Edit::SetSchool { opening, wall, question, choice } => {
            set_school(next, opening.as_deref(), wall.unwrap_or(0), question, choice.as_deref())?;
        }
        Edit::TakeSchools { opening, answers } => take_schools(next, opening, answers)?,
        Edit::AddOpening { opening } => next.openings.push(opening.clone()),
        Edit::AddFeature { kind, left, sill } => next.openings.push(feature::one_more(job, kind, *left, *sill)?),
        Edit::AddOpenings { openings } => next.openings.extend(openings.iter().cloned()),
        Edit::CopyOpening { id, times, step } => next.openings.extend(feature::copies(job, id, *times, *step)?),
        Edit::RemoveOpening { id } => remove_opening(next, id)?,
        Edit::SetFigure { id, value: Some(v) } => drop(next.figures.insert(id.clone(), v.clone())),
        Edit::SetFigure { id, value: None } => drop(next.figures.remove(id)),
        Edit::SetFigures { figures } => next.figures.clone_from(figures),
        Edit::KeepProfile { name, source } => keep_profile(next, name, source),
        Edit::RestoreProfile { name: None } => next.figures.clear(),
        Edit::RestoreProfile { name: Some(name) } => restore_profile(job, next, name)?,
        Edit::ForgetProfile { name } => next.profiles.retain(|p| p.name != *name),
        Edit::SetStrategy { strategy } => next.strategy = strategy.clone(),
        Edit::SetSite { site } => next.site.clone_from(site),
        Edit::FollowAdvice => follow_advice(job, next)?,
        Edit::TakeWay { way } => way::take_way(next, way)?,
        Edit::LeaveWay => next.follows = None,
        Edit::TakeModel { .. } => take_model(job, next, edit),
        Edit::SetAsBuilt { deviation, so } => {
            next.as_built.retain(|d| d != deviation);
            next.as_built.extend(so.then(|| deviation.clone()));
        }
        Edit::SealTop { piece, so } => {
            next.sealed.retain(|p| p != piece);
            next.sealed.extend(so.then(|| piece.clone()));
        }
        Edit::SetFound { found } => set_found(next, found),
        Edit::Rebuild { id, place, found } => {
            let Some(o) = next.openings.iter_mut().find(|o| o.id == *id) else { return no_opening("$.id", id) };
            (o.left, o.sill, o.width, o.height) = (place.left, place.bottom, place.width, place.height);
            set_found(next, found);
        }
        Edit::RemoveFound { id } => remove_found(next, id)?,
        Edit::UseProduct { product, other, opening, wall } => {
            let here = products_at(next, opening.as_deref(), wall.unwrap_or(0))?;
            here.remove(product);
            here.extend(other.clone().map(|o| (product.clone(), o)));
        }
        Edit::SetProduct { product, own, stock } => set_product(next, product, own.as_ref(), stock.as_deref())?,
        Edit::SetKit { kit } => next.kit = kit.clone(),
        Edit::SetStock { stock } => next.kit.stock = stock.clone(),
        Edit::RecordPair { .. } => record_pair(next, edit),
        Edit::Spoil { piece, roll } => {
            next.ticks.retain(|p| p != piece);
            next.bench.rolls.remove(piece);
            let times = next.bench.spoiled.entry(piece.clone()).or_default();
            *times += 1;
            next.bench.rolls.extend(roll.map(|roll| (format!("{piece}~{times}"), roll)));
        }
        Edit::MoveStep { .. }
        | Edit::RemoveStep { .. }
        | Edit::RestoreStep { .. }
        | Edit::PutRight
        | Edit::RestoreOrder => {}
    }
    Ok(())
}

fn remove_opening(next: &mut Job, id: &str) -> Result<(), Vec<Problem>> {
    let before = next.openings.len();
    next.openings.retain(|o| o.id != *id);
    if next.openings.len() == before {
        return no_opening("$.id", id);
    }
    forget_steps_at(next, id);
    Ok(())
}

fn remove_found(next: &mut Job, id: &str) -> Result<(), Vec<Problem>> {
    let before = next.found.len();
    next.found.retain(|f| f.id != *id);
    if next.found.len() == before {
        return no("$.id", format!("nothing was found as \"{id}\"; it may have been removed meanwhile"));
    }
    forget_steps_at(next, id);
    Ok(())
}

fn follow_advice(job: &Job, next: &mut Job) -> Result<(), Vec<Problem>> {
    let data = |m: String| vec![Problem::new("$", m)];
    let profile = Profile::general_practice().map_err(|e| data(e.to_string()))?;
    let figures = profile.values(&job.figures).map_err(|e| vec![Problem::new("$.figures", e.to_string())])?;
    *next = follow(next, &figures).map_err(data)?.job;
    Ok(())
}

fn take_model(job: &Job, next: &mut Job, edit: &Edit) {
    let Edit::TakeModel { width, height, corners, openings } = edit else { return };
    (next.wall.width, next.wall.height) = (*width, *height);
    next.wall.corners.clone_from(corners);
    next.openings.clone_from(openings);
    let stays: HashSet<&str> = openings.iter().map(|o| o.id.as_str()).collect();
    let gone: Vec<&str> = job.openings.iter().map(|o| o.id.as_str()).filter(|id| !stays.contains(id)).collect();
    gone.into_iter().for_each(|id| forget_steps_at(next, id));
}

fn set_found(next: &mut Job, found: &FoundSpec) {
    match next.found.iter_mut().find(|f| f.id == found.id) {
        Some(known) => known.clone_from(found),
        None => next.found.push(found.clone()),
    }
}

fn set_opening(next: &mut Job, edit: &Edit) -> Result<(), Vec<Problem>> {
    let Edit::SetOpening { id, name, left, sill, width, height, depth, flange } = edit else { return Ok(()) };
    let Some(o) = next.openings.iter_mut().find(|o| o.id == *id) else { return no_opening("$.id", id) };
    set(&mut o.name, name);
    for (slot, value) in [
        (&mut o.left, left),
        (&mut o.sill, sill),
        (&mut o.width, width),
        (&mut o.height, height),
        (&mut o.depth, depth),
        (&mut o.flange, flange),
    ] {
        set(slot, value);
    }
    Ok(())
}

fn keep_profile(next: &mut Job, name: &str, source: &str) {
    let (name, source) = (name.trim().to_owned(), source.trim().to_owned());
    let kept = ProfileVersion { name, source, figures: next.figures.clone() };
    match next.profiles.iter_mut().find(|p| p.name == kept.name) {
        Some(old) => *old = kept,
        None => next.profiles.push(kept),
    }
}

fn restore_profile(job: &Job, next: &mut Job, name: &str) -> Result<(), Vec<Problem>> {
    let Some(kept) = job.profiles.iter().find(|p| p.name == name) else {
        let known: Vec<&str> = job.profiles.iter().map(|p| p.name.as_str()).collect();
        return no("$.name", format!("no profile \"{name}\" is kept; there are: {}", known.join(", ")));
    };
    next.figures.clone_from(&kept.figures);
    Ok(())
}

/// What no longer exists is forgotten, so that it does not come back to life under an old name.
fn forget_what_is_gone(job: &mut Job, plan: &Plan) {
    if !(job.sequence.order.is_empty() && job.sequence.removed.is_empty()) {
        let done = ids(plan);
        job.sequence.order.retain(|id| done.contains(id.as_str()));
        job.sequence.removed.retain(|id| done.contains(id.as_str()));
    }
    if job.ticks.is_empty() && job.bench.spoiled.is_empty() && job.bench.rolls.is_empty() {
        return;
    }
    let pieces: HashSet<&str> = plan.pieces.iter().map(|p| p.id.as_str()).collect();
    let there = |id: &str| pieces.contains(id.split('~').next().unwrap_or_default());
    job.ticks.retain(|id| there(id));
    job.bench.spoiled.retain(|id, _| there(id));
    job.bench.rolls.retain(|id, _| there(id));
}

/// Ids of all steps and actions.
fn ids(plan: &Plan) -> HashSet<&str> {
    plan.steps.iter().flat_map(|s| s.actions.iter().map(|a| a.id.as_str()).chain([s.id.as_str()])).collect()
}

/// What was said of steps and pieces of a feature that is gone goes with it.
fn forget_steps_at(job: &mut Job, id: &str) {
    let prefix = format!("{id}/");
    for list in [&mut job.sequence.order, &mut job.sequence.removed, &mut job.ticks] {
        list.retain(|s| !s.starts_with(&prefix));
    }
}

/// Makes one feature of two: their outline, with the name of both.
fn flash_together(
    job: &mut Job,
    id: &str,
    with: &str,
    left: Option<Length>,
    sill: Option<Length>,
) -> Result<(), Vec<Problem>> {
    let find = |id: &str| {
        let found = job.openings.iter().find(|o| o.id == id && o.feature == Feature::Penetration);
        found.cloned().ok_or_else(|| {
            vec![Problem::new(
                "$.id",
                format!("there is no penetration \"{id}\" on this wall; windows and lines are flashed by themselves"),
            )]
        })
    };
    let (mut one, other) = (find(id)?, find(with)?);
    if id == with {
        return Err(vec![Problem::new("$.with", format!("{id} cannot be flashed together with itself; name another"))]);
    }
    (one.left, one.sill) = (left.unwrap_or(one.left), sill.unwrap_or(one.sill));
    let (right, top) =
        ((one.left + one.width).max(other.left + other.width), (one.sill + one.height).max(other.sill + other.height));
    (one.left, one.sill) = (one.left.min(other.left), one.sill.min(other.sill));
    (one.width, one.height) = (right - one.left, top - one.sill);
    let name = format!("{} + {}", one.name, other.name);
    if name.chars().count() <= NAME.most {
        one.name = name;
    }
    job.openings.retain(|o| o.id != with);
    forget_steps_at(job, with);
    if let Some(o) = job.openings.iter_mut().find(|o| o.id == id) {
        *o = one;
    }
    Ok(())
}

/// Deviations and beads of pieces that the change took away go with them.
fn forget_lost_deviations(job: &mut Job) -> Result<(), Vec<Problem>> {
    if !(job.as_built.is_empty() && job.sealed.is_empty()) {
        let (as_built, sealed) = (std::mem::take(&mut job.as_built), std::mem::take(&mut job.sealed));
        let plan = build(job)?;
        let pieces: HashSet<&str> = plan.pieces.iter().map(|p| p.id.as_str()).collect();
        let there = |id: &str| pieces.contains(id);
        job.as_built = as_built.into_iter().filter(|d| there(&d.piece)).collect();
        job.sealed = sealed.into_iter().filter(|p| there(p)).collect();
    }
    Ok(())
}
