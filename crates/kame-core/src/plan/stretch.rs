//! Stretches: runs of walls on which the barrier is hung alike. Where two meet, at a corner, a strip goes over the ends of both.

use crate::job::WallSpec;
use crate::length::Length;
use crate::plan::course::CoursePlan;
use crate::recipe::schools::{Answers, Schools};
use crate::surface::{Interval, Outline, Rect};

/// A run of walls on which the barrier is hung alike.
#[derive(Clone, Debug)]
pub struct Stretch {
    /// Before the ids of its steps and pieces: empty for the one that begins at the left end, so that those ids are plain.
    prefix: String,
    /// Behind the names of its steps and pieces: empty where it is the only one.
    suffix: String,
    /// All of it, up to its own highest point.
    pub rect: Rect,
    /// Its part of the top of the walls.
    pub outline: Outline,
    /// The answers to the wall's questions here, all of them.
    pub answers: Answers,
    /// Courses; empty where the barrier is of panels or a coat.
    pub courses: CoursePlan,
}

impl Stretch {
    /// The id of a step or piece of this stretch.
    pub fn id(&self, name: &str) -> String {
        format!("{}{name}", self.prefix)
    }

    /// The name of a step or piece of this stretch.
    pub fn name(&self, name: &str) -> String {
        format!("{name}{}", self.suffix)
    }

    /// The name of a step or piece without what says where it is.
    pub fn plain<'a>(&self, name: &'a str) -> &'a str {
        name.strip_suffix(self.suffix.as_str()).unwrap_or(name)
    }
}

/// Walls next to each other that answer alike, as indices of walls.
pub(super) type WallRun = std::ops::Range<usize>;

/// Runs of neighbouring walls for which `alike` holds from one to the next.
pub(super) fn runs(walls: &[Answers], alike: impl Fn(&Answers, &Answers) -> bool) -> Vec<WallRun> {
    let mut out: Vec<WallRun> = Vec::new();
    for (i, answers) in walls.iter().enumerate() {
        match out.last_mut().filter(|run| alike(&walls[run.start], answers)) {
            Some(run) => run.end = i + 1,
            None => out.push(i..i + 1),
        }
    }
    out
}

/// The stretches of a building, their courses yet to be planned: a new one begins where a question that decides how the barrier is hung is
/// answered otherwise.
pub(super) fn stretches(wall: &WallSpec, walls: &[Answers], schools: &Schools, outline: &Outline) -> Vec<Stretch> {
    let hung =
        |a: &Answers, b: &Answers| schools.questions.iter().filter(|q| q.hangs).all(|q| a.get(&q.id) == b.get(&q.id));
    let runs = runs(walls, hung);
    let (ends, names) = (wall.ends(), wall.names());
    let one = runs.len() == 1;
    let of = |run: &WallRun| {
        let outline = outline.part(Interval { lo: ends[run.start], hi: ends[run.end] });
        let suffix = if one { String::new() } else { format!(" on {}", called(&names, run)) };
        Stretch {
            prefix: prefix(run),
            suffix,
            rect: Rect::new(ends[run.start], Length::ZERO, ends[run.end], outline.height()),
            outline,
            answers: walls[run.start].clone(),
            courses: CoursePlan::default(),
        }
    };
    runs.iter().map(of).collect()
}

/// What people call a run of walls.
pub(super) fn called(names: &[&str], run: &WallRun) -> String {
    match &names[run.clone()] {
        [only] => (*only).to_owned(),
        list => format!("{} to {}", list[0], list[list.len() - 1]),
    }
}

/// Before the ids of what is on a run of walls; no feature's id has a dot.
pub(super) fn prefix(run: &WallRun) -> String {
    if run.start == 0 { String::new() } else { format!("w{}.", run.start + 1) }
}

/// The stretch that a place along the walls is on.
pub(super) fn at(stretches: &[Stretch], u: Length) -> usize {
    stretches.iter().rposition(|s| s.rect.u0 <= u).unwrap_or(0)
}
