//! A building as somebody modelled it, and the job that it becomes: outer walls in order round the building, unfolded, with their windows and doors
//! (handbook 8.3). Where the model comes from is of no matter here; lengths are inches, north is up.

mod newer;

pub use newer::{Newer, NewerChange, newer};

use crate::edit::{FeatureKind, feature_kinds};
use crate::job::{CornerKind, CornerSpec, Job, MOST_OPENINGS, OpeningSpec, PENETRATION_SIZE};
use crate::length::Length;
use crate::plan::build;
use crate::problem::Problem;
use crate::range::NAME;
use crate::stop::Stop;
use serde::Serialize;

/// What fills a hole in a wall.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Fills {
    /// A window.
    Window,
    /// A door.
    Door,
    /// Nothing that is known.
    Nothing,
}

/// A hole in a wall.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ModelOpening {
    /// Its id in the model, which stays when it moves; empty where it has none.
    pub id: String,
    /// What the model calls it.
    pub name: String,
    /// What is in it.
    pub fills: Fills,
    /// From the wall's first end.
    pub from: f64,
    /// Above the wall's foot.
    pub sill: f64,
    /// Width.
    pub width: f64,
    /// Height.
    pub height: f64,
}

/// A straight wall.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ModelWall {
    /// What the model calls it.
    pub name: String,
    /// Its ends along its middle, from above.
    pub ends: [[f64; 2]; 2],
    /// How thick it is.
    pub thickness: f64,
    /// Height of its foot.
    pub foot: f64,
    /// How high it is.
    pub height: f64,
    /// Holes in it.
    pub openings: Vec<ModelOpening>,
}

/// A building.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Model {
    /// Its name.
    pub name: String,
    /// Walls that are or may be on the outside.
    pub walls: Vec<ModelWall>,
    /// What was left out already, a sentence each.
    pub left_out: Vec<String>,
}

/// A wall of the job seen from above, for a picture.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TakenWall {
    /// Its name.
    pub name: String,
    /// Its outer face from its left end to its right one as seen from outside, inches, north up.
    pub line: [[f64; 2]; 2],
    /// Ids of what stands on it, with where it is on the line.
    pub openings: Vec<TakenOpening>,
}

/// An opening of the job seen from above.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TakenOpening {
    /// Id, by which others name it.
    pub id: String,
    /// What it is in the model.
    pub fills: Fills,
    /// Its ends on the outer face.
    pub line: [[f64; 2]; 2],
}

/// The job that a model becomes, before anything is kept.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FromModel {
    /// The job that comes of it.
    pub job: Job,
    /// Its walls from above.
    pub walls: Vec<TakenWall>,
    /// What was left out or taken otherwise, and why.
    pub left_out: Vec<String>,
}

/// Shorter walls are no walls to flash.
const SHORTEST: f64 = 24.0;
/// Walls whose feet are within this stand on one storey.
const STOREY: f64 = 24.0;
/// Ends of walls that meet are no farther apart than their thickness and this.
const APART: f64 = 8.0;
/// Walls one above the other stand within this.
const ABOVE: f64 = 24.0;
/// The sine of an angle at which two walls still go on straight.
const STRAIGHT: f64 = 0.05;
/// A hole with nothing in it is taken as a pipe's up to this size, and as a duct's beyond.
const PIPE: f64 = 6.0;
/// So many walls of a storey are looked at.
const MOST_WALLS: usize = 2_000;

fn minus(a: [f64; 2], b: [f64; 2]) -> [f64; 2] {
    [a[0] - b[0], a[1] - b[1]]
}
fn plus(a: [f64; 2], b: [f64; 2], times: f64) -> [f64; 2] {
    [a[0] + b[0] * times, a[1] + b[1] * times]
}
fn dot(a: [f64; 2], b: [f64; 2]) -> f64 {
    a[0] * b[0] + a[1] * b[1]
}
fn cross(a: [f64; 2], b: [f64; 2]) -> f64 {
    a[0] * b[1] - a[1] * b[0]
}
fn length(a: [f64; 2]) -> f64 {
    dot(a, a).sqrt()
}

impl ModelWall {
    fn along(&self) -> [f64; 2] {
        let run = minus(self.ends[1], self.ends[0]);
        let l = length(run).max(1e-9);
        [run[0] / l, run[1] / l]
    }

    fn length(&self) -> f64 {
        length(minus(self.ends[1], self.ends[0]))
    }

    fn turned(&self) -> Self {
        let l = self.length();
        let mut out = self.clone();
        out.ends.reverse();
        out.openings.iter_mut().for_each(|o| o.from = l - o.from - o.width);
        out
    }

    /// Where its outer face begins, the outside being to the right of who walks along it.
    fn face(&self) -> [f64; 2] {
        let along = self.along();
        plus(self.ends[0], [along[1], -along[0]], self.thickness / 2.0)
    }
}

/// Walls one after another round a building, so that the outside is to the right; those that are on no such way are left.
fn round(mut walls: Vec<ModelWall>) -> (Vec<ModelWall>, Vec<ModelWall>, bool) {
    let mut best: Vec<ModelWall> = Vec::new();
    let mut rest: Vec<ModelWall> = Vec::new();
    while !walls.is_empty() {
        // The one farthest south is on the outside; walked eastwards the outside is to its right.
        let south = |w: &ModelWall| w.ends[0][1] + w.ends[1][1];
        let first = (0..walls.len()).min_by(|a, b| south(&walls[*a]).total_cmp(&south(&walls[*b]))).unwrap_or(0);
        let first = walls.swap_remove(first);
        let first = if first.ends[0][0] <= first.ends[1][0] { first } else { first.turned() };
        let mut way = vec![first];
        while let Some((next, turned)) = nearest(&walls, &way[way.len() - 1]) {
            let wall = walls.swap_remove(next);
            way.push(if turned { wall.turned() } else { wall });
        }
        let whole = |list: &[ModelWall]| list.iter().map(ModelWall::length).sum::<f64>();
        if whole(&way) > whole(&best) {
            rest.append(&mut best);
            best = way;
        } else {
            rest.append(&mut way);
        }
    }
    let closed = match (best.first(), best.last()) {
        (Some(a), Some(b)) if best.len() > 2 => {
            length(minus(a.ends[0], b.ends[1])) <= (a.thickness + b.thickness) / 2.0 + APART
        }
        _ => false,
    };
    let area: f64 = best.iter().map(|w| cross(w.ends[0], w.ends[1])).sum();
    if closed && area < 0.0 {
        best.reverse();
        best = best.iter().map(ModelWall::turned).collect();
    }
    (best, rest, closed)
}

/// The wall that goes on where one ends: of several the one that turns most to the outside.
fn nearest(walls: &[ModelWall], at: &ModelWall) -> Option<(usize, bool)> {
    let (end, along) = (at.ends[1], at.along());
    let mut best: Option<(f64, usize, bool)> = None;
    for (n, w) in walls.iter().enumerate() {
        for (turned, start) in [(false, w.ends[0]), (true, w.ends[1])] {
            if length(minus(start, end)) > (at.thickness + w.thickness) / 2.0 + APART {
                continue;
            }
            let on = if turned { w.turned().along() } else { w.along() };
            let turn = cross(along, on).atan2(dot(along, on));
            if best.is_none_or(|b| turn < b.0) {
                best = Some((turn, n, turned));
            }
        }
    }
    best.map(|(_, n, turned)| (n, turned))
}

/// A wall of the job: its outer face, and what stands on it from its left end.
struct Face {
    name: String,
    from: [f64; 2],
    along: [f64; 2],
    length: f64,
    foot: f64,
    depth: f64,
    openings: Vec<(f64, ModelOpening)>,
}

impl Face {
    fn to(&self) -> [f64; 2] {
        plus(self.from, self.along, self.length)
    }

    /// Takes the openings of a wall that stands in this face.
    fn take(&mut self, wall: &ModelWall) {
        let forward = dot(wall.along(), self.along) > 0.0;
        let wall = if forward { wall.clone() } else { wall.turned() };
        for o in &wall.openings {
            let at = dot(minus(plus(wall.ends[0], wall.along(), o.from), self.from), self.along);
            self.openings.push((at, ModelOpening { sill: o.sill + wall.foot - self.foot, ..o.clone() }));
        }
    }
}

/// Outer faces with their corners: walls that go on straight are one.
fn faces(way: &[ModelWall], closed: bool) -> Vec<Face> {
    let mut groups: Vec<Vec<&ModelWall>> = Vec::new();
    for w in way {
        match groups.last_mut() {
            Some(group)
                if cross(group[0].along(), w.along()).abs() < STRAIGHT && dot(group[0].along(), w.along()) > 0.0 =>
            {
                group.push(w);
            }
            _ => groups.push(vec![w]),
        }
    }
    // What begins in the middle of a wall ends in it.
    if closed && groups.len() > 3 {
        let same = |a: &ModelWall, b: &ModelWall| {
            cross(a.along(), b.along()).abs() < STRAIGHT && dot(a.along(), b.along()) > 0.0
        };
        if same(groups[0][0], groups[groups.len() - 1][0])
            && let Some(mut last) = groups.pop()
        {
            last.append(&mut groups[0]);
            groups[0] = last;
        }
    }
    let n = groups.len();
    let meet = |a: &ModelWall, b: &ModelWall| {
        let (p, d, q, e) = (a.face(), a.along(), b.face(), b.along());
        plus(p, d, cross(minus(q, p), e) / cross(d, e))
    };
    let begins = |i: usize| match i {
        0 if !closed => groups[0][0].face(),
        0 => meet(groups[n - 1][0], groups[0][0]),
        i => meet(groups[i - 1][0], groups[i][0]),
    };
    let ends = |i: usize| match i {
        i if i + 1 < n => begins(i + 1),
        _ if closed => begins(0),
        i => {
            let last = groups[i][groups[i].len() - 1];
            plus(last.face(), last.along(), last.length())
        }
    };
    let one = |i: usize| {
        let first = groups[i][0];
        let (from, to) = (begins(i), ends(i));
        let mut face = Face {
            name: first.name.clone(),
            from,
            along: first.along(),
            length: length(minus(to, from)),
            foot: first.foot,
            depth: first.thickness,
            openings: Vec::new(),
        };
        groups[i].iter().for_each(|w| face.take(w));
        face
    };
    (0..n).map(one).collect()
}

fn size(inches: f64) -> Length {
    /// To the eighth of an inch, as a tape is read.
    const PARTS: i64 = 8;
    Length::from_inches_f64(inches).unwrap_or(Length::ZERO).round_to(PARTS)
}

fn short(text: &str, otherwise: &str) -> String {
    let plain: String = text.chars().filter(|c| !c.is_control()).take(NAME.most).collect();
    if plain.trim().is_empty() { otherwise.to_owned() } else { plain.trim().to_owned() }
}

/// The job that a model becomes.
///
/// # Errors
/// Where there is no outer wall in it, or what becomes of it cannot be built, with what to do; where nobody waits any more.
pub fn from_model(model: &Model, stop: &Stop) -> Result<FromModel, Vec<Problem>> {
    let refuse = |m: String| vec![Problem::new("$", m)];
    let mut left_out = model.left_out.clone();
    let (walls, small): (Vec<_>, Vec<_>) = model.walls.iter().cloned().partition(|w| w.length() >= SHORTEST);
    left_out.extend(small.iter().map(|w| {
        format!("{}: {:.0} in long, shorter than a wall that is flashed", short(&w.name, "a wall"), w.length())
    }));
    let Some(ground) = walls.iter().map(|w| w.foot).min_by(f64::total_cmp) else {
        return Err(refuse("there is no straight wall in it: see what was left out, or draw the wall here".into()));
    };
    let (lowest, above): (Vec<_>, Vec<_>) = walls.into_iter().partition(|w| w.foot <= ground + STOREY);
    if lowest.len() > MOST_WALLS {
        return Err(refuse(format!(
            "{} walls stand on the ground, at most {MOST_WALLS} are looked at: export one building at a time",
            lowest.len()
        )));
    }
    let (way, rest, closed) = round(lowest);
    left_out.extend(rest.iter().map(|w| format!("{}: not on the way round the building", short(&w.name, "a wall"))));
    if !closed {
        left_out.push("the walls do not close round the building: they are taken in a row, seen from the side on which they run to the right".into());
    }
    let mut faces = faces(&way, closed);
    let mut top = way.iter().map(|w| w.foot + w.height).fold(0.0, f64::max);
    for w in above {
        let mid = plus(w.ends[0], minus(w.ends[1], w.ends[0]), 0.5);
        let stands = |f: &&mut Face| {
            let at = minus(mid, f.from);
            let on = dot(at, f.along);
            cross(f.along, w.along()).abs() < STRAIGHT
                && cross(f.along, at).abs() < ABOVE + f.depth
                && (0.0..=f.length).contains(&on)
        };
        match faces.iter_mut().find(stands) {
            Some(face) => {
                top = top.max(w.foot + w.height);
                face.take(&w);
            }
            None => {
                left_out.push(format!("{}: stands over no outer wall of the ground floor", short(&w.name, "a wall")))
            }
        }
    }
    let kinds = feature_kinds().map_err(&refuse)?;
    ModelBuilder { kinds, left_out, stop }.job(&model.name, faces, closed, top - ground)
}

struct ModelBuilder<'a> {
    kinds: &'static [FeatureKind],
    left_out: Vec<String>,
    stop: &'a Stop,
}

impl ModelBuilder<'_> {
    fn job(mut self, name: &str, faces: Vec<Face>, closed: bool, height: f64) -> Result<FromModel, Vec<Problem>> {
        let mut job = Job::new(&short(name, "Building"));
        let plain = job.openings[0].clone();
        job.openings.clear();
        job.wall.height = size(height);
        job.wall.name = short(&faces[0].name, "Wall 1");
        let mut at = Length::ZERO;
        let mut walls = Vec::new();
        for (n, face) in faces.iter().enumerate() {
            if n > 0 {
                let before = faces[n - 1].along;
                let kind = if cross(before, face.along) > 0.0 { CornerKind::Outside } else { CornerKind::Inside };
                let angle = cross(before, face.along).atan2(dot(before, face.along)).to_degrees().abs();
                let wall = short(&face.name, &format!("Wall {}", n + 1));
                if (angle - 90.0).abs() > 5.0 {
                    self.left_out
                        .push(format!("{wall}: it turns by {angle:.0}°, and is shown as a right angle from above"));
                }
                job.wall.corners.push(CornerSpec {
                    at,
                    kind,
                    name: wall,
                    schools: Default::default(),
                    products: Default::default(),
                });
            }
            walls.push(self.openings(&mut job, &plain, face, at));
            at += size(face.length);
        }
        job.wall.width = at;
        if closed {
            self.left_out.push(format!(
                "the walls close round the building: they are unfolded from the left end of {}",
                job.wall.name
            ));
        }
        self.buildable(&mut job)?;
        for w in &mut walls {
            w.openings.retain(|o| job.openings.iter().any(|kept| kept.id == o.id));
        }
        Ok(FromModel { job, walls, left_out: self.left_out })
    }

    fn openings(&mut self, job: &mut Job, plain: &OpeningSpec, face: &Face, at: Length) -> TakenWall {
        let mut out = TakenWall { name: face.name.clone(), line: [face.from, face.to()], openings: Vec::new() };
        let mut list: Vec<&(f64, ModelOpening)> = face.openings.iter().collect();
        list.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.sill.total_cmp(&b.1.sill)));
        for (from, o) in list {
            let what = short(&o.name, "a hole");
            let id = match o.fills {
                Fills::Window => "window",
                Fills::Door => "door",
                Fills::Nothing if o.width.max(o.height) <= PIPE => "pipe",
                Fills::Nothing => "duct",
            };
            let Some(kind) = self.kinds.iter().find(|k| k.id == id) else { continue };
            let (w, h) = (size(o.width), size(o.height));
            if o.fills == Fills::Nothing && w.max(h) > PENETRATION_SIZE.most {
                self.left_out.push(format!(
                    "{what} in {}: a hole of {w} × {h} with nothing in it; put in what comes through there",
                    face.name
                ));
                continue;
            }
            if o.fills == Fills::Nothing {
                self.left_out.push(format!(
                    "{what} in {}: a hole of {w} × {h} with nothing in it is taken as a {}; say what comes through there",
                    face.name, kind.id
                ));
            }
            if job.openings.len() >= MOST_OPENINGS {
                self.left_out.push(format!("{what}: more than {MOST_OPENINGS} in one job; split the building"));
                continue;
            }
            let many = job.openings.iter().filter(|x| x.id.starts_with(&kind.letter)).count();
            let spec = OpeningSpec {
                id: format!("{}{}", kind.letter, many + 1),
                name: what,
                feature: kind.feature,
                schools: kind.schools.clone(),
                left: at + size(*from),
                sill: size(o.sill.max(0.0)),
                width: w,
                height: h,
                depth: size(face.depth.clamp(2.0, 16.0)),
                model: o.id.clone(),
                ..plain.clone()
            };
            let ends = [plus(face.from, face.along, *from), plus(face.from, face.along, from + o.width)];
            out.openings.push(TakenOpening { id: spec.id.clone(), fills: o.fills, line: ends });
            job.openings.push(spec);
        }
        out
    }

    /// Leaves out what cannot be built, with why, until the rest can.
    fn buildable(&mut self, job: &mut Job) -> Result<(), Vec<Problem>> {
        let wrong = |job: &Job| {
            let within = job.problems();
            if within.is_empty() { build(job).err() } else { Some(within) }
        };
        while let Some(problems) = wrong(job) {
            self.stop.check().map_err(|m| vec![Problem::new("$", m)])?;
            let index = |p: &Problem| {
                let at: usize = p.path.strip_prefix("$.openings[")?.split(']').next()?.parse().ok()?;
                Some((at, p.message.clone()))
            };
            // All at once, from the last: each opening is left out once, for the first that is wrong with it.
            let mut gone: Vec<(usize, String)> = problems.iter().filter_map(index).collect();
            gone.retain(|(at, _)| *at < job.openings.len());
            gone.sort_by_key(|(at, _)| std::cmp::Reverse(*at));
            gone.dedup_by_key(|(at, _)| *at);
            if gone.is_empty() {
                return Err(problems);
            }
            for (at, why) in gone {
                let lost = job.openings.remove(at);
                self.left_out.push(format!("{} ({}): {why}", lost.id, lost.name));
            }
        }
        Ok(())
    }
}
