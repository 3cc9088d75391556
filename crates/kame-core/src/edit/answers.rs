//! Changes of answers to questions, and which others they take along.

use super::no;
use crate::job::{Job, MOST_ANSWERS, WallSpec};
use crate::problem::Problem;
use crate::recipe::schools::{Answers, Feature, Schools, Scope};

/// Answers a question, and forgets answers that cannot be built with it.
pub(super) fn set_school(
    job: &mut Job,
    opening: Option<&str>,
    wall: usize,
    question: &str,
    choice: Option<&str>,
) -> Result<(), Vec<Problem>> {
    let no = |path: &str, message: String| vec![Problem::new(path, message)];
    let asked = opening.map(|id| job.openings.iter().find(|o| o.id == id));
    let whole = Schools::of_wall().map_err(|m| no("$", m))?;
    let schools = match opening {
        None => whole,
        Some(_) => schools_of(asked.flatten().map(|o| o.feature).unwrap_or_default())?,
    };
    let scope = if opening.is_some() { Scope::Opening } else { Scope::Wall };
    if schools.question(question).is_none_or(|q| q.scope != scope) {
        let known: Vec<&str> = schools.questions.iter().filter(|q| q.scope == scope).map(|q| q.id.as_str()).collect();
        return Err(no(
            "$.question",
            format!("there is no question \"{question}\" here; choose one of: {}", known.join(", ")),
        ));
    }
    let corners = job.wall.corners.len();
    let own = match opening {
        None if wall == 0 => &mut job.wall.schools,
        None => {
            let of = job.wall.corners.get_mut(wall - 1).map(|c| &mut c.schools);
            of.ok_or_else(|| no("$.wall", format!("there is no wall {}; this job has {}", wall + 1, corners + 1)))?
        }
        Some(id) => {
            let o = job.openings.iter_mut().find(|o| o.id == id);
            &mut o.ok_or_else(|| no("$.opening", format!("there is no opening \"{id}\" on this wall")))?.schools
        }
    };
    match choice {
        None => own.remove(question),
        Some(choice) => {
            if schools.choice(question, choice).is_none() {
                return Err(no("$.choice", format!("there is no answer \"{choice}\" to \"{question}\"")));
            }
            own.insert(question.to_owned(), choice.to_owned())
        }
    };
    // The answer itself may be refused; every other that is goes back to the usual.
    if scope == Scope::Wall {
        if wall == 0 {
            job.wall.schools = whole.settled(&job.wall.schools, Some(question));
        }
        settle_walls(&mut job.wall, whole, Some((wall, question)));
    }
    for i in 0..job.openings.len() {
        let asked = match opening {
            Some(id) => job.openings[i].id == id,
            None => wall == 0 || job.openings[i].wall(&job.wall) == wall,
        };
        if asked {
            settle_opening(job, i, whole, Some(question))?;
        }
    }
    Ok(())
}

/// All answers of one opening at once. Answers about the wall alone are not asked here, and stay where they can still be built.
pub(super) fn take_schools(next: &mut Job, opening: &str, answers: &Answers) -> Result<(), Vec<Problem>> {
    let Some(at) = next.openings.iter().position(|o| o.id == opening) else {
        return no("$.opening", format!("there is no opening \"{opening}\" on this wall"));
    };
    if answers.len() > MOST_ANSWERS {
        return no("$.answers", format!("found {} answers, expected at most {MOST_ANSWERS}", answers.len()));
    }
    let schools = schools_of(next.openings[at].feature)?;
    let of_wall = |q: &String| schools.question(q).is_some_and(|q| q.scope == Scope::Wall);
    let (wall, own): (Answers, Answers) = answers.clone().into_iter().partition(|(q, _)| of_wall(q));
    next.openings[at].schools = own;
    let whole = Schools::of_wall().map_err(|m| vec![Problem::new("$", m)])?;
    let on = next.openings[at].wall(&next.wall);
    let slot = own_or_all(&mut next.wall, on);
    *slot = whole.with_the_rest(wall, slot);
    settle_walls(&mut next.wall, whole, None);
    settle_openings(next, Some(at))
}

/// The answers in which what is decided for one wall is kept: its own where it has any, else those of all walls.
fn own_or_all(walls: &mut WallSpec, wall: usize) -> &mut Answers {
    if walls.own(wall).is_some_and(|own| !own.is_empty()) {
        &mut walls.corners[wall - 1].schools
    } else {
        &mut walls.schools
    }
}

/// Walls give up answers of their own that cannot be built there; the one to `keep`, of a wall and its question, stays.
fn settle_walls(walls: &mut WallSpec, whole: &Schools, keep: Option<(usize, &str)>) {
    let all = walls.schools.clone();
    for (i, c) in walls.corners.iter_mut().enumerate() {
        let kept = keep.and_then(|(wall, question)| (wall == i + 1).then_some(question));
        let settled = whole.settled(&whole.over(&all, &c.schools), kept);
        c.schools.retain(|q, _| kept == Some(q.as_str()) || settled.contains_key(q));
    }
}

/// An opening gives up answers that cannot be built on its wall, but for the one to `keep`.
fn settle_opening(job: &mut Job, at: usize, whole: &Schools, keep: Option<&str>) -> Result<(), Vec<Problem>> {
    let of_wall = job.wall.answers(job.openings[at].wall(&job.wall), whole);
    let o = &mut job.openings[at];
    let schools = schools_of(o.feature)?;
    let settled = schools.settled(&given_with(&schools.asked(&of_wall), &o.schools), keep);
    o.schools.retain(|q, _| keep == Some(q.as_str()) || settled.contains_key(q));
    Ok(())
}

/// Openings other than the one to keep give up answers that cannot be built on their walls.
fn settle_openings(job: &mut Job, keep: Option<usize>) -> Result<(), Vec<Problem>> {
    let whole = Schools::of_wall().map_err(|m| vec![Problem::new("$", m)])?;
    (0..job.openings.len()).filter(|i| keep != Some(*i)).try_for_each(|i| settle_opening(job, i, whole, None))
}

/// Every wall and everything on it gives up answers that cannot be built there.
pub(super) fn settle_all(next: &mut Job) -> Result<(), Vec<Problem>> {
    let whole = Schools::of_wall().map_err(|m| vec![Problem::new("$", m)])?;
    settle_walls(&mut next.wall, whole, None);
    settle_openings(next, None)
}

fn schools_of(feature: Feature) -> Result<&'static Schools, Vec<Problem>> {
    Schools::of(feature).map_err(|m| vec![Problem::new("$", m)])
}

fn given_with(wall: &Answers, own: &Answers) -> Answers {
    wall.iter().chain(own).map(|(q, c)| (q.clone(), c.clone())).collect()
}
