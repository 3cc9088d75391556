//! What is wrong with a job by itself: kind of file, names, sizes, what hangs on it, ids. What needs geometry is checked when the plan is built.

use super::{
    FLANGE, FLOOR_LINE, GRADE_LINE, JOB_FORMAT, JOB_VERSION, Job, LINE_HEIGHT, LINE_LENGTH, LevelKind, MOST_MODEL_ID,
    OLDEST_JOB_VERSION, OPENING_DEPTH, OPENING_HEIGHT, OPENING_WIDTH, PENETRATION_SIZE, SPOILED, WALL_BETWEEN,
    WALL_HEIGHT, WALL_WIDTH, WallSpec, found, way,
};
use crate::length::Length;
use crate::problem::Problem;
use crate::profile::version_problems;
use crate::range::{LengthRange, NAME};
use crate::recipe::schools::Feature;
use std::collections::HashSet;

impl Job {
    pub(super) fn wrong(&self) -> Vec<Problem> {
        let mut out = Vec::new();
        for ask in [kind_of_file, names, sizes, what_belongs_to_it, ids] {
            ask(self, &mut out);
        }
        out
    }
}

/// Another kind of file, or one of another version.
fn kind_of_file(job: &Job, out: &mut Vec<Problem>) {
    if job.format != JOB_FORMAT {
        out.push(Problem::new(
            "$.format",
            format!("found \"{}\", expected \"{JOB_FORMAT}\": is this another kind of file?", job.format),
        ));
    }
    if !(OLDEST_JOB_VERSION..=JOB_VERSION).contains(&job.version) {
        out.push(Problem::new(
            "$.version",
            format!(
                "found {}, expected {OLDEST_JOB_VERSION} to {JOB_VERSION}: use a newer Kame for newer files",
                job.version
            ),
        ));
    }
}

/// Names of the job, its walls and what is on them.
fn names(job: &Job, out: &mut Vec<Problem>) {
    let mut name = |path: String, text: &str| {
        let n = text.trim().chars().count();
        match NAME.check(n) {
            Err(message) => out.push(Problem::new(path, message)),
            Ok(_) if text.chars().any(char::is_control) => {
                out.push(Problem::new(
                    path,
                    format!("found {text:?}, a name has printable characters: {}", NAME.remedy),
                ));
            }
            Ok(_) => {}
        }
    };
    name("$.name".into(), &job.name);
    name("$.wall.name".into(), &job.wall.name);
    for (i, c) in job.wall.corners.iter().enumerate() {
        name(format!("$.wall.corners[{i}].name"), &c.name);
    }
    for (i, l) in job.wall.levels.iter().enumerate() {
        name(format!("$.wall.levels[{i}].name"), &l.name);
    }
    for (i, o) in job.openings.iter().enumerate() {
        name(format!("$.openings[{i}].name"), &o.name);
    }
}

/// Sizes and places out of their ranges.
fn sizes(job: &Job, out: &mut Vec<Problem>) {
    let mut range = |path: String, r: &LengthRange, l: Length| {
        if let Err(message) = r.check(l) {
            out.push(Problem::new(path, message));
        }
    };
    let ends = [Length::ZERO].into_iter().chain(job.wall.corners.iter().map(|c| c.at)).chain([job.wall.width]);
    let ends: Vec<Length> = ends.collect();
    for (i, w) in ends.windows(2).enumerate().filter(|_| !job.wall.corners.is_empty()) {
        let n = i.min(job.wall.corners.len() - 1);
        range(format!("$.wall.corners[{n}].at"), &WALL_BETWEEN, w[1] - w[0]);
    }
    for (i, l) in job.wall.levels.iter().enumerate() {
        let reach = if l.kind == LevelKind::Floor { &FLOOR_LINE } else { &GRADE_LINE };
        range(format!("$.wall.levels[{i}].at"), reach, l.at);
    }
    for (i, p) in job.wall.top.iter().enumerate() {
        range(format!("$.wall.top[{i}].height"), &WALL_HEIGHT, p.height);
    }
    range("$.wall.width".into(), &WALL_WIDTH, job.wall.width);
    range("$.wall.height".into(), &WALL_HEIGHT, job.wall.height);
    for (i, o) in job.openings.iter().enumerate() {
        let at = |field: &str| format!("$.openings[{i}].{field}");
        let (width, height) = match o.feature {
            Feature::Opening => (&OPENING_WIDTH, &OPENING_HEIGHT),
            Feature::Penetration => (&PENETRATION_SIZE, &PENETRATION_SIZE),
            Feature::Line => (&LINE_LENGTH, &LINE_HEIGHT),
        };
        range(at("width"), width, o.width);
        range(at("height"), height, o.height);
        range(at("depth"), &OPENING_DEPTH, o.depth);
        range(at("flange"), &FLANGE, o.flange);
    }
}

/// Strategy, days, kit, kept figures, the bench, what was found.
fn what_belongs_to_it(job: &Job, out: &mut Vec<Problem>) {
    let follows = job.follows.as_deref().and_then(way::wrong_name);
    out.extend(follows.map(|m| Problem::new("$.follows", m)));
    out.extend(top_problems(&job.wall));
    out.extend(job.strategy.problems());
    out.extend(job.site.iter().flat_map(|s| s.problems("$.site")));
    out.extend(job.kit.problems());
    out.extend(job.kit.chosen_problems(&job.wall.products, "$.wall", "the walls"));
    for (i, c) in job.wall.corners.iter().enumerate() {
        out.extend(job.kit.chosen_problems(&c.products, &format!("$.wall.corners[{i}]"), &c.name));
    }
    for (i, o) in job.openings.iter().enumerate() {
        out.extend(job.kit.chosen_problems(&o.products, &format!("$.openings[{i}]"), &o.id));
    }
    out.extend(version_problems(&job.profiles));
    for (piece, n) in &job.bench.spoiled {
        if let Err(message) = SPOILED.check(*n) {
            out.push(Problem::new(format!("$.bench.spoiled[\"{piece}\"]"), message));
        }
    }
    out.extend(found::problems(&job.found, job.openings.iter().map(|o| o.id.as_str())));
}

/// Ids that cannot be, or are there twice.
fn ids(job: &Job, out: &mut Vec<Problem>) {
    let mut ids = HashSet::new();
    for (i, o) in job.openings.iter().enumerate() {
        let plain = !o.id.is_empty() && o.id.len() <= 12 && o.id.chars().all(|c| c.is_ascii_alphanumeric() || c == '-');
        if !plain {
            out.push(Problem::new(
                format!("$.openings[{i}].id"),
                format!(
                    "found \"{}\", expected 1 to 12 letters, digits or hyphens",
                    o.id.chars().take(20).collect::<String>()
                ),
            ));
        }
        if o.model.len() > MOST_MODEL_ID || o.model.chars().any(char::is_control) {
            out.push(Problem::new(
                format!("$.openings[{i}].model"),
                format!(
                    "the id in the building model has {} bytes, expected at most {MOST_MODEL_ID}, printable",
                    o.model.len()
                ),
            ));
        }
        if !ids.insert(&o.id) {
            out.push(Problem::new(
                format!("$.openings[{i}].id"),
                format!("found \"{}\" again, expected an id no other opening has", o.id),
            ));
        }
    }
}

/// What is wrong with the top of the walls.
fn top_problems(wall: &WallSpec) -> Vec<Problem> {
    let mut out = Vec::new();
    let (Some(first), Some(last)) = (wall.top.first(), wall.top.last()) else { return out };
    if first.at != Length::ZERO || last.at != wall.width {
        out.push(Problem::new(
            "$.wall.top",
            format!(
                "the top runs from {} to {}, the walls from 0 to {}: give its first point at 0 and its last at {}.",
                first.at, last.at, wall.width, wall.width
            ),
        ));
    }
    for (i, w) in wall.top.windows(2).enumerate() {
        if w[1].at < w[0].at {
            out.push(Problem::new(
                format!("$.wall.top[{}].at", i + 1),
                format!("found {} after {}: give the points from left to right.", w[1].at, w[0].at),
            ));
        }
    }
    for (i, p) in wall.top.iter().enumerate().filter(|(_, p)| p.height > wall.height) {
        out.push(Problem::new(
            format!("$.wall.top[{i}].height"),
            format!(
                "found {}, above the height of the walls, {}: the height is that of the highest point; raise it or lower this.",
                p.height, wall.height
            ),
        ));
    }
    out
}
