//! A newer model of a building that is a job already: what moved, what is new and what is gone, with the answers, names and products of the job kept
//! where its openings are still there (handbook 8.3).

use super::{FromModel, TakenWall};
use crate::edit::{Edit, apply, free_id};
use crate::job::{CornerSpec, Job, OpeningSpec};
use crate::length::Length;
use serde::Serialize;
use std::collections::{HashMap, HashSet};

/// Something that is otherwise in a newer model.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct NewerChange {
    /// Id of the opening in the job; of a new one the id that it would get.
    pub id: String,
    /// What the job calls it.
    pub name: String,
    /// What is otherwise, as a sentence.
    pub says: String,
}

/// What a newer model would change, before anything is taken.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Newer {
    /// What is otherwise with each opening.
    pub changes: Vec<NewerChange>,
    /// What is otherwise with the walls.
    pub walls: Vec<String>,
    /// The change that takes all of it; `null` where nothing is otherwise, or it could not be built.
    pub edit: Option<Edit>,
    /// Why it could not be built.
    pub refused: Vec<String>,
    /// The walls of the model from above.
    pub drawn: Vec<TakenWall>,
    /// What was left out of the model or taken otherwise, and why.
    pub left_out: Vec<String>,
}

/// Which wall of one job each wall of another is, by name, and by place where there are as many.
fn same_walls(of: &Job, among: &Job) -> Vec<Option<usize>> {
    let (names, others) = (of.wall.names(), among.wall.names());
    let mut free: Vec<Option<&str>> = others.iter().map(|n| Some(*n)).collect();
    let by_name = names.iter().map(|name| {
        let at = free.iter().position(|n| *n == Some(*name))?;
        free[at] = None;
        Some(at)
    });
    let found: Vec<Option<usize>> = by_name.collect();
    let as_many = names.len() == others.len();
    let in_its_place = |(i, at): (usize, &Option<usize>)| at.or((as_many && free[i].is_some()).then_some(i));
    found.iter().enumerate().map(in_its_place).collect()
}

/// The opening of the job that one of the model is: by its id in the model, or by its name where the job was made before ids were kept.
fn known<'a>(job: &'a Job, n: &OpeningSpec) -> Option<&'a OpeningSpec> {
    let by_id = job.openings.iter().find(|o| !o.model.is_empty() && o.model == n.model);
    by_id.or_else(|| {
        let mut named =
            job.openings.iter().filter(|o| o.model.is_empty() && o.feature == n.feature && o.name == n.name);
        named.next().filter(|_| named.next().is_none())
    })
}

/// What is otherwise with an opening that is still there; empty where nothing is.
fn otherwise(was: (&Job, &OpeningSpec), now: (&Job, &OpeningSpec), same_wall: bool) -> String {
    let mut says = Vec::new();
    let ((job, o), (model, n)) = (was, now);
    for (what, a, b) in [("wide", o.width, n.width), ("high", o.height, n.height)] {
        if a != b {
            says.push(format!("{b} {what} instead of {a}"));
        }
    }
    let on = |job: &Job, o: &OpeningSpec| o.wall(&job.wall);
    if !same_wall {
        says.push(format!("now on {}", model.wall.names()[on(model, n)]));
    } else {
        let from = |job: &Job, o: &OpeningSpec| o.left - job.wall.ends()[on(job, o)];
        let (a, b) = (from(job, o), from(model, n));
        if a != b {
            let (by, to) = if b > a { (b - a, "right") } else { (a - b, "left") };
            says.push(format!("moved {by} to the {to}"));
        }
    }
    if o.sill != n.sill {
        let (by, to) = if n.sill > o.sill { (n.sill - o.sill, "up") } else { (o.sill - n.sill, "down") };
        says.push(format!("moved {by} {to}"));
    }
    if o.depth != n.depth {
        says.push(format!("wall {} deep instead of {}", n.depth, o.depth));
    }
    says.join(", ")
}

/// Walls of the job as the newer model has them, and what is otherwise with them.
fn walls(job: &Job, model: &Job, was: &[Option<usize>]) -> (Vec<CornerSpec>, Vec<String>) {
    let mut says = Vec::new();
    let (ends, names) = (job.wall.ends(), job.wall.names());
    for (i, w) in model.wall.ends().windows(2).enumerate() {
        let name = model.wall.names()[i];
        match was[i] {
            None => says.push(format!("{name} is new, {} long", w[1] - w[0])),
            Some(at) => {
                let before = ends[at + 1] - ends[at];
                if before != w[1] - w[0] {
                    says.push(format!("{} is {} long instead of {before}", names[at], w[1] - w[0]));
                }
            }
        }
    }
    let gone = names.iter().enumerate().filter(|(i, _)| !was.contains(&Some(*i)));
    says.extend(gone.map(|(_, name)| format!("{name} is not in the model any more")));
    if job.wall.height != model.wall.height {
        says.push(format!("the walls are {} high instead of {}", model.wall.height, job.wall.height));
    }
    let own = |(i, c): (usize, &CornerSpec)| match was[i + 1].and_then(|at| at.checked_sub(1)) {
        // What is answered for a wall stays with it, and so does what people here call it.
        Some(at) => CornerSpec { at: c.at, kind: c.kind, ..job.wall.corners[at].clone() },
        None => c.clone(),
    };
    (model.wall.corners.iter().enumerate().map(own).collect(), says)
}

/// What a newer model would change on a job.
pub fn newer(job: &Job, found: FromModel) -> Newer {
    let FromModel { job: model, walls: mut drawn, mut left_out } = found;
    let was = same_walls(&model, job);
    let (corners, said_of_walls) = walls(job, &model, &was);
    let mut changes = Vec::new();
    let mut tell = |o: &OpeningSpec, says: String| {
        changes.push(NewerChange { id: o.id.clone(), name: o.name.clone(), says });
    };
    let mut there: HashSet<&str> = HashSet::new();
    // What the picture's openings are called here.
    let mut called: HashMap<&str, String> = HashMap::new();
    let mut next = job.clone();
    for n in &model.openings {
        let Some(o) = known(job, n).filter(|o| there.insert(o.id.as_str())) else {
            let letter: String = n.id.chars().take_while(|c| c.is_ascii_alphabetic()).collect();
            let new = OpeningSpec { id: free_id(&next, &letter), ..n.clone() };
            called.insert(&n.id, new.id.clone());
            tell(&new, format!("new on {}", model.wall.names()[n.wall(&model.wall)]));
            next.openings.push(new);
            continue;
        };
        called.insert(&n.id, o.id.clone());
        let same_wall = was[n.wall(&model.wall)] == Some(o.wall(&job.wall));
        let says = otherwise((job, o), (&model, n), same_wall);
        if !says.is_empty() {
            tell(o, says);
        }
        let (left, sill, width, height, depth) = (n.left, n.sill, n.width, n.height, n.depth);
        if let Some(slot) = next.openings.iter_mut().find(|x| x.id == o.id) {
            *slot = OpeningSpec { left, sill, width, height, depth, model: n.model.clone(), ..o.clone() };
        }
    }
    // What came out of the model and is not in it any more goes; what was put in here stays where it is on its wall.
    let ends = model.wall.ends();
    for o in job.openings.iter().filter(|o| !there.contains(o.id.as_str())) {
        if !o.model.is_empty() {
            tell(o, "not in the model any more".into());
            next.openings.retain(|x| x.id != o.id);
            continue;
        }
        let on = o.wall(&job.wall);
        let Some(now) = was.iter().position(|at| *at == Some(on)) else {
            left_out.push(format!("{} ({}): its wall is gone; look where it belongs", o.id, o.name));
            continue;
        };
        let by: Length = ends[now] - job.wall.ends()[on];
        if let Some(slot) = next.openings.iter_mut().find(|x| x.id == o.id) {
            slot.left = o.left + by;
        }
    }
    for o in drawn.iter_mut().flat_map(|w| &mut w.openings) {
        if let Some(id) = called.remove(o.id.as_str()) {
            o.id = id;
        }
    }
    let edit = Edit::TakeModel { width: model.wall.width, height: model.wall.height, corners, openings: next.openings };
    let (edit, refused) = match apply(job, &edit) {
        Ok((same, _)) if same == *job => (None, Vec::new()),
        Ok(_) => (Some(edit), Vec::new()),
        Err(problems) => (None, problems.into_iter().map(|p| p.message).collect()),
    };
    Newer { changes, walls: said_of_walls, edit, refused, drawn, left_out }
}
