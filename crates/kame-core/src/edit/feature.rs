//! What can be put on a wall, with sizes to start from, and where there is room for it.

use crate::job::{Job, OpeningSpec};
use crate::length::Length;
use crate::plan::{Opening, Piece, SurfaceId, build};
use crate::problem::Problem;
use crate::range::{NAME, Range};
use crate::recipe::Role;
use crate::recipe::schools::{Answers, Feature, Schools};
use crate::surface::Rect;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::sync::OnceLock;

/// Copies of an opening made at once.
pub const COPIES: Range<u32> = Range { what: "number of copies", least: 1, most: 50, remedy: "copy again for more" };

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
    /// Opening, penetration or line.
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
pub(crate) fn free_id(job: &Job, letter: &str) -> String {
    let taken = |id: &String| job.openings.iter().any(|o| o.id == *id);
    (1..).map(|n| format!("{letter}{n}")).find(|id| !taken(id)).unwrap_or_default()
}

/// How far apart places are tried.
const STRIDE: Length = Length::inch(2);

/// A place that is taken.
struct TakenRoom {
    by: String,
    /// With the flashings.
    hull: Rect,
    /// The hole; `None` for what has none.
    hole: Option<Rect>,
}

/// Finds places on a wall for one thing after another.
pub(super) struct Placer {
    wall: Rect,
    plate: Length,
    corners: Vec<Length>,
    hulls: Vec<TakenRoom>,
    /// Rectangle and hull of things by what they are and how large, as they are with room all round.
    known: HashMap<String, (Rect, Rect)>,
}

impl Placer {
    pub(super) fn new(job: &Job) -> Result<Self, Vec<Problem>> {
        let plan = build(job)?;
        let hole = |o: &Opening| Some(o.rect).filter(|_| o.feature != Feature::Line);
        let hulls = plan.openings.iter().map(|o| TakenRoom { by: o.name.clone(), hull: o.hull, hole: hole(o) });
        let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
        // Courses that go all the way round end past the corner at which they began: a patch over that lap would let in what runs behind it.
        let begins = |r: &&(SurfaceId, Rect)| r.0 == SurfaceId::WALL && r.1.u0 == wall.u0;
        let comes_round = |p: &&Piece| p.regions.iter().any(|(on, r)| *on == SurfaceId::WALL && r.u1 == wall.u1);
        let laps = plan.pieces.iter().filter(|p| plan.walls.round && p.role == Role::Barrier).filter(comes_round);
        let lap =
            laps.flat_map(|p| p.regions.iter().filter(begins)).map(|(_, r)| r.u1).filter(|u1| *u1 < wall.u1).max();
        let lap = lap.map(|end| TakenRoom {
            by: "the lap round the corner".to_owned(),
            hull: Rect::new(wall.u0, wall.v0, end, wall.v1),
            hole: None,
        });
        Ok(Self {
            wall,
            plate: plan.walls.plate,
            corners: job.wall.corners.iter().map(|c| c.at).collect(),
            // The strips over corners where two barriers meet are in the way too.
            hulls: plan
                .meetings()
                .flat_map(|(_, r)| plan.on_walls(r))
                .map(|hull| TakenRoom { by: "the corner".to_owned(), hull, hole: None })
                .chain(lap)
                .chain(hulls)
                .collect(),
            known: HashMap::new(),
        })
    }

    /// The hole of a thing where it stands.
    fn hole(&self, thing: &OpeningSpec) -> Rect {
        let sill = thing.sill + self.plate;
        Rect::new(thing.left, sill, thing.left + thing.width, sill + thing.height)
    }

    /// What a thing takes on the wall with its flashings where it stands.
    fn hull(&mut self, job: &Job, thing: &OpeningSpec) -> Result<Rect, Vec<Problem>> {
        let wall = thing.wall(&job.wall);
        let own = job.wall.own(wall).filter(|own| !own.is_empty());
        let key =
            format!("{:?}", (thing.feature, &thing.schools, thing.width, thing.height, thing.depth, thing.flange, own));
        let (at, hull) = match self.known.get(&key) {
            Some(known) => *known,
            None => {
                let spare = Length::inch(100);
                let mut alone = Job { openings: Vec::new(), ..job.clone() };
                (alone.wall.width, alone.wall.height) = (thing.width + spare + spare, thing.height + spare + spare);
                alone.wall.corners.clear();
                // The wall it is tried on is level and as high as it needs.
                alone.wall.top.clear();
                alone.wall.levels.clear();
                alone.wall.first_course = None;
                alone.wall.schools = job.wall.answers(wall, whole()?);
                alone.openings.push(OpeningSpec { left: spare, sill: spare, ..thing.clone() });
                (alone.sequence, alone.as_built, alone.sealed) = Default::default();
                let of = |p: Problem| Problem::new("$.openings", p.message);
                let alone = build(&alone).map_err(|p| p.into_iter().map(of).collect::<Vec<_>>())?;
                let found = (alone.openings[0].rect, alone.openings[0].hull);
                self.known.insert(key, found);
                found
            }
        };
        let (u, v) = (thing.left - at.u0, thing.sill + self.plate - at.v0);
        Ok(Rect::new(hull.u0 + u, hull.v0 + v, hull.u1 + u, hull.v1 + v))
    }

    /// A thing at the first place from the left, at the height it has, where it keeps clear with its flashings of what is there already and
    /// of corners; it gives up answers that cannot be built on the wall it comes to. `None` where there is none; a thing that is too low or too
    /// high wherever it stands is told so.
    pub(super) fn room(&mut self, job: &Job, thing: &OpeningSpec) -> Result<Option<OpeningSpec>, Vec<Problem>> {
        let start = OpeningSpec { left: self.wall.u0, ..thing.clone() };
        let mut left = Length::ZERO;
        let mut known: Option<(usize, Answers)> = None;
        loop {
            let mut here = OpeningSpec { left: left.ceil_step(STRIDE), ..start.clone() };
            if here.left + here.width > self.wall.u1 {
                return Ok(None);
            }
            let wall = here.wall(&job.wall);
            here.schools = match known.take().filter(|(of, _)| *of == wall) {
                Some((_, schools)) => schools,
                None => buildable(job, here.feature, &thing.schools, wall)?,
            };
            known = Some((wall, here.schools.clone()));
            let r = self.hull(job, &here)?;
            if r.u0 < self.wall.u0 {
                left = here.left + (self.wall.u0 - r.u0);
                continue;
            }
            // Flashings end where the wall does; the hole itself has to be in it.
            let hole = self.hole(&here);
            if hole.v0 < self.wall.v0 || hole.v1 > self.wall.v1 {
                return Err(vec![self.misses_height(&here, hole)]);
            }
            if r.u1 > self.wall.u1 {
                return Ok(None);
            }
            let bent = self.corners.iter().filter(|c| r.u0 < **c && **c < r.u1).copied();
            let met = self.hulls.iter().filter(|t| t.hull.overlaps(r)).map(|t| t.hull.u1);
            match bent.chain(met).max() {
                None => return Ok(Some(here)),
                Some(past) => left = here.left + (past - r.u0),
            }
        }
    }

    /// Says by how much a thing is too low or too high for the wall wherever it stands along it, and how low or high it may be.
    fn misses_height(&self, thing: &OpeningSpec, hole: Rect) -> Problem {
        let (low, high) = (self.wall.v0 - hole.v0, hole.v1 - self.wall.v1);
        let (by, edge, remedy) = if low > Length::ZERO && high > Length::ZERO {
            (low + high, "both its edges", "make it lower, or the wall higher".to_owned())
        } else if low > Length::ZERO {
            (low, "its lower edge", format!("give it a sill of {} or more", thing.sill + low))
        } else {
            (high, "its top", format!("give it a sill of {} or less, or make it lower", thing.sill - high))
        };
        let message = format!(
            "with its sill at {} above the plate {} reaches {by} past the wall at {edge}: {remedy}",
            thing.sill, thing.name
        );
        Problem::new("$.openings", message)
    }

    /// How many places are taken.
    pub(super) fn taken(&self) -> usize {
        self.hulls.len()
    }

    /// Gives back the places that were taken since there were so many.
    pub(super) fn back_to(&mut self, taken: usize) {
        self.hulls.truncate(taken);
    }

    /// Takes the place a thing stands at, or says what is in its way.
    pub(super) fn take(&mut self, job: &Job, thing: &OpeningSpec) -> Result<(), Vec<Problem>> {
        let hull = self.hull(job, thing)?;
        let hole = Some(self.hole(thing)).filter(|_| thing.feature != Feature::Line);
        if hole.is_some_and(|hole| !self.wall.contains(hole)) {
            let message = format!("{} reaches past the wall: move it or make it smaller.", thing.name);
            return Err(vec![Problem::new("$.openings", message)]);
        }
        let met = |t: &&TakenRoom| t.hole.zip(hole).is_some_and(|(a, b)| a.overlaps(b));
        if let Some(TakenRoom { by, .. }) = self.hulls.iter().find(met) {
            let message = format!("it overlaps {by}: move one of them, or make one smaller.");
            return Err(vec![Problem::new("$.openings", message)]);
        }
        // Flashings end where the wall does.
        let hull = hull.intersection(self.wall).unwrap_or(hull);
        self.hulls.push(TakenRoom { by: thing.name.clone(), hull, hole });
        Ok(())
    }
}

/// Of the answers of a thing those that can be built on a wall.
pub(super) fn buildable(job: &Job, feature: Feature, own: &Answers, wall: usize) -> Result<Answers, Vec<Problem>> {
    let schools = Schools::of(feature).map_err(|m| vec![Problem::new("$", m)])?;
    let of_wall = job.wall.answers(wall, whole()?);
    let all = schools.asked(&of_wall).into_iter().chain(own.clone()).collect();
    let settled = schools.settled(&all, None);
    Ok(own.iter().filter(|(q, _)| settled.contains_key(*q)).map(|(q, c)| (q.clone(), c.clone())).collect())
}

fn whole() -> Result<&'static Schools, Vec<Problem>> {
    Schools::of_wall().map_err(|m| vec![Problem::new("$", m)])
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
        products: Default::default(),
        recipe: None,
        left: left.unwrap_or(STRIDE),
        sill: sill.unwrap_or(kind.sill),
        width: kind.width,
        height: kind.height,
        depth: same.or(job.openings.first()).map_or(Length::inch_fraction(11, 2), |o| o.depth),
        flange: same.map_or(Length::inch_fraction(11, 8), |o| o.flange),
        model: String::new(),
    };
    if left.is_some() {
        thing.schools = buildable(job, thing.feature, &kind.schools, thing.wall(&job.wall))?;
    } else {
        thing = Placer::new(job)?.room(job, &thing)?.ok_or_else(|| {
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
    COPIES.check(times).map_err(|message| vec![Problem::new("$.times", message)])?;
    let letter: String = of.id.chars().take_while(|c| !c.is_ascii_digit()).collect();
    let mut all = job.clone();
    for n in 1..=times {
        let id = free_id(&all, &letter);
        let left = of.left + Length::from_units(step.units() * i64::from(n));
        all.openings.push(OpeningSpec {
            name: numbered(&of.name, n + 1),
            id,
            left,
            model: String::new(),
            ..of.clone()
        });
    }
    Ok(all.openings.split_off(job.openings.len()))
}

/// A name with a number behind it, no longer than names may be.
fn numbered(name: &str, n: u32) -> String {
    let end = format!(" {n}");
    name.chars().take(NAME.most - end.len()).collect::<String>() + &end
}
