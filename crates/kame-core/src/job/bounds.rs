//! How much of everything one job may hold. What is read from outside is counted before anything is looked up, compared or laid out.

use super::{Job, MOST_FOUND, MOST_LEVELS, MOST_OPENINGS, MOST_TOP_POINTS};
use crate::problem::Problem;
use crate::recipe::schools::Answers;

/// Most corners of the walls.
pub const MOST_CORNERS: usize = 200;
/// Most answers to school questions in one place; there are fewer questions than that.
pub const MOST_ANSWERS: usize = 100;
/// Most figures of a job's own; a profile has fewer.
pub const MOST_FIGURES: usize = 500;
/// Most ids of steps, actions or pieces in one list.
pub const MOST_IDS: usize = 50_000;
/// Most pieces done other than planned.
pub const MOST_DEVIATIONS: usize = 2_000;
/// Most own products.
pub const MOST_PRODUCTS: usize = 500;
/// Most problems told of one job.
pub const MOST_PROBLEMS: usize = 100;

/// One thing that is counted.
struct Counted<'a> {
    what: &'a str,
    path: String,
    found: usize,
    most: usize,
}

/// What there is too much of in a job. Where anything is told, nothing else has been looked at.
pub(super) fn too_many(job: &Job) -> Vec<Problem> {
    let wall = &job.wall;
    let one = |what, path: &str, found, most| Counted { what, path: path.to_owned(), found, most };
    let answers =
        |path: String, list: &Answers| Counted { what: "answers", path, found: list.len(), most: MOST_ANSWERS };
    let counted = [
        one("openings", "$.openings", job.openings.len(), MOST_OPENINGS),
        one("corners", "$.wall.corners", wall.corners.len(), MOST_CORNERS),
        one("points of the top", "$.wall.top", wall.top.len(), MOST_TOP_POINTS),
        one("level lines", "$.wall.levels", wall.levels.len(), MOST_LEVELS),
        one("figures", "$.figures", job.figures.len(), MOST_FIGURES),
        one("steps", "$.sequence.order", job.sequence.order.len(), MOST_IDS),
        one("steps", "$.sequence.removed", job.sequence.removed.len(), MOST_IDS),
        one("deviations", "$.as_built", job.as_built.len(), MOST_DEVIATIONS),
        one("pieces", "$.sealed", job.sealed.len(), MOST_DEVIATIONS),
        one("things found", "$.found", job.found.len(), MOST_FOUND),
        one("pieces", "$.ticks", job.ticks.len(), MOST_IDS),
        one("pieces", "$.bench.spoiled", job.bench.spoiled.len(), MOST_IDS),
        one("pieces", "$.bench.rolls", job.bench.rolls.len(), MOST_IDS),
        one("products", "$.kit.products", job.kit.products.len(), MOST_PRODUCTS),
        one("answers", "$.strategy.answers", job.strategy.answers.len(), MOST_ANSWERS),
        one("decisions", "$.strategy.decisions", job.strategy.decisions.len(), MOST_ANSWERS),
        answers("$.wall.schools".into(), &wall.schools),
        one("products", "$.wall.products", wall.products.len(), MOST_PRODUCTS),
    ];
    let of_corners = wall.corners.iter().enumerate();
    let of_corners = of_corners.map(|(i, c)| answers(format!("$.wall.corners[{i}].schools"), &c.schools));
    let of_openings = job.openings.iter().enumerate();
    let of_openings = of_openings.map(|(i, o)| answers(format!("$.openings[{i}].schools"), &o.schools));
    let chosen = wall.corners.iter().map(|c| &c.products).chain(job.openings.iter().map(|o| &o.products));
    let chosen = chosen.map(|c| one("products", "$.openings", c.len(), MOST_PRODUCTS));
    let of_profiles = job.profiles.iter().enumerate().map(|(i, p)| Counted {
        what: "figures",
        path: format!("$.profiles[{i}].figures"),
        found: p.figures.len(),
        most: MOST_FIGURES,
    });
    let all = counted.into_iter().chain(of_corners).chain(of_openings).chain(chosen).chain(of_profiles);
    all.filter(|c| c.found > c.most)
        .take(MOST_PROBLEMS)
        .map(|Counted { what, path, found, most }| {
            let message = format!(
                "found {found} {what}, at most {most} in one job: leave out what is not needed, or split the job"
            );
            Problem::new(path, message)
        })
        .collect()
}

/// The first problems of a list, and how many more there are.
pub(super) fn shortened(mut problems: Vec<Problem>) -> Vec<Problem> {
    let more = problems.len().saturating_sub(MOST_PROBLEMS);
    if more > 0 {
        problems.truncate(MOST_PROBLEMS);
        problems.push(Problem::new("$", format!("and {more} more: mend these first, then read it again")));
    }
    problems
}
