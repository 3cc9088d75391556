//! What can be put on a wall, with sizes to start from, and where there is room for it.

use super::{Job, OpeningSpec, Problem};
use crate::detail::schools::{Answers, Feature, Schools};
use crate::length::Length;
use crate::plan::build;
use crate::surface::Rect;
use serde::{Deserialize, Serialize};
use std::sync::OnceLock;

/// A kind of thing that can be put on a wall.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct FeatureKind {
    /// Stable name.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// First letter of the ids of its kind.
    pub letter: String,
    /// What it is.
    pub feature: Feature,
    /// Width to start from.
    pub width: Length,
    /// Height to start from.
    pub height: Length,
    /// Height above the bottom plate at which it is tried first.
    pub sill: Length,
    /// Answers that make it what it is.
    #[serde(default)]
    pub schools: Answers,
}

/// Everything that can be put on a wall.
///
/// # Errors
/// What does not read, if the data were broken; a test keeps it whole.
pub fn feature_kinds() -> Result<&'static [FeatureKind], String> {
    #[derive(Deserialize)]
    struct File {
        feature: Vec<FeatureKind>,
    }
    static KINDS: OnceLock<Result<Vec<FeatureKind>, String>> = OnceLock::new();
    let read = || {
        let file: File = toml::from_str(include_str!("../../data/features.toml")).map_err(|e| e.to_string())?;
        Ok(file.feature)
    };
    KINDS.get_or_init(read).as_deref().map_err(Clone::clone)
}

/// A free id with that first letter.
fn free_id(job: &Job, letter: &str) -> String {
    let taken = |id: &String| job.openings.iter().any(|o| o.id == *id);
    (1..).map(|n| format!("{letter}{n}")).find(|id| !taken(id)).unwrap_or_default()
}

/// How far apart places are tried.
const STRIDE: Length = Length::inch(2);

/// The first place from the left, at the height it has, where a thing with its flashings keeps clear of what is there already.
fn room(job: &Job, thing: &OpeningSpec) -> Result<Option<Length>, Vec<Problem>> {
    // What its flashings reach is what they reach on a wall with room all round.
    let spare = Length::inch(100);
    let mut alone = job.clone();
    alone.wall.corners.clear();
    (alone.wall.width, alone.wall.height) = (thing.width + spare + spare, thing.height + spare + spare);
    alone.openings = vec![OpeningSpec { left: spare, sill: spare, ..thing.clone() }];
    (alone.sequence, alone.as_built) = Default::default();
    let alone = build(&alone)?;
    let (at, hull) = (alone.openings[0].rect, alone.openings[0].hull);
    let plan = build(job)?;
    let wall = plan.surfaces[0].facet.rect();
    let v = thing.sill + plan.plate - at.v0;
    let free = |left: &Length| {
        let u = *left - at.u0;
        let r = Rect::new(hull.u0 + u, hull.v0 + v, hull.u1 + u, hull.v1 + v);
        r.u0 >= wall.u0 && r.u1 <= wall.u1 && plan.openings.iter().all(|o| !o.hull.overlaps(r))
    };
    Ok(std::iter::successors(Some(STRIDE), |left| Some(*left + STRIDE)).take_while(|l| *l < wall.u1).find(free))
}

/// One more of a kind, where there is room or where it is asked for.
pub(super) fn one_more(
    job: &Job,
    kind: &str,
    left: Option<Length>,
    sill: Option<Length>,
) -> Result<OpeningSpec, Vec<Problem>> {
    let kinds = feature_kinds().map_err(|m| vec![Problem::new("$", m)])?;
    let Some(kind) = kinds.iter().find(|k| k.id == kind) else {
        let known = kinds.iter().map(|k| k.id.as_str()).collect::<Vec<_>>().join(", ");
        return Err(vec![Problem::new("$.kind", format!("there is no kind \"{kind}\"; choose one of: {known}"))]);
    };
    let id = free_id(job, &kind.letter);
    let same = job.openings.iter().find(|o| o.feature == kind.feature);
    let mut thing = OpeningSpec {
        name: format!("{} {}", kind.name, id.trim_start_matches(kind.letter.as_str())),
        id,
        feature: kind.feature,
        schools: kind.schools.clone(),
        recipe: None,
        left: left.unwrap_or(STRIDE),
        sill: sill.unwrap_or(kind.sill),
        width: kind.width,
        height: kind.height,
        depth: same.or(job.openings.first()).map_or(Length::inch_fraction(11, 2), |o| o.depth),
        flange: same.map_or(Length::inch_fraction(11, 8), |o| o.flange),
    };
    // What cannot be built on this wall goes back to the usual.
    let schools = Schools::of(kind.feature).map_err(|m| vec![Problem::new("$", m)])?;
    let settled =
        schools.settled(&schools.asked(&job.wall.schools).into_iter().chain(thing.schools.clone()).collect(), None);
    thing.schools.retain(|q, _| settled.contains_key(q));
    if left.is_none() {
        thing.left = room(job, &thing)?.ok_or_else(|| {
            let message = format!(
                "there is no free place {} wide at {} above the plate: say where it goes, or make room",
                thing.width, thing.sill
            );
            vec![Problem::new("$.left", message)]
        })?;
    }
    Ok(thing)
}

/// Copies of one, each `step` to the right of the one before.
pub(super) fn copies(job: &Job, id: &str, times: u32, step: Length) -> Result<Vec<OpeningSpec>, Vec<Problem>> {
    let Some(of) = job.openings.iter().find(|o| o.id == id) else {
        return Err(vec![Problem::new("$.id", format!("there is no opening \"{id}\" to copy"))]);
    };
    if !(1..=MOST_COPIES).contains(&times) {
        let message = format!("found {times} copies, expected 1 to {MOST_COPIES}: copy again for more");
        return Err(vec![Problem::new("$.times", message)]);
    }
    let letter: String = of.id.chars().take_while(|c| !c.is_ascii_digit()).collect();
    let mut all = job.clone();
    for n in 1..=times {
        let id = free_id(&all, &letter);
        let left = of.left + Length::from_units(step.units() * i64::from(n));
        all.openings.push(OpeningSpec { name: format!("{} {}", of.name, n + 1), id, left, ..of.clone() });
    }
    Ok(all.openings.split_off(job.openings.len()))
}

/// Most copies at once.
const MOST_COPIES: u32 = 50;
