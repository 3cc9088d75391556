use super::{CutSize, Opening, Over, Part, Piece, Plan, PlanTarget, Surface, SurfaceId};
use crate::detail::course::{Course, CourseInput, plan_courses};
use crate::detail::instance::{OpeningSize, instantiate};
use crate::detail::recipe::{Recipe, Role};
use crate::job::{Job, Problem};
use crate::layup::{Bond, Depth};
use crate::length::Length;
use crate::profile::{Figures, Profile};
use crate::sequence::{Act, Action, Phase, Step, StepCard};
use crate::surface::{Facet, Rect};

/// Water that runs off the foot of the wall has left it: the lowest part counts as outlet.
const FOOT: Length = Length::inch_fraction(1, 2);

/// Builds the plan of a job.
///
/// # Errors
/// Everything that is wrong with the job, each with its JSON path and a remedy.
pub fn build(job: &Job) -> Result<Plan, Vec<Problem>> {
    let problems = job.problems();
    if !problems.is_empty() {
        return Err(problems);
    }
    let data = |message: String| vec![Problem::new("$", message)];
    let profile = Profile::general_practice().map_err(|e| data(e.to_string()))?;
    let figures = profile.values(&job.figures).map_err(|e| vec![Problem::new("$.figures", e.to_string())])?;
    let plate = figures.length("first_course_below_plate");
    let wall = Rect::new(Length::ZERO, Length::ZERO, job.wall.width, job.wall.height + plate);
    let rects: Vec<Rect> = job
        .openings
        .iter()
        .map(|o| Rect::new(o.left, o.sill + plate, o.left + o.width, o.sill + plate + o.height))
        .collect();
    let problems = misplaced(job, &rects, wall, plate);
    if !problems.is_empty() {
        return Err(problems);
    }
    let courses = plan_courses(&CourseInput {
        width: wall.width(),
        height: wall.height(),
        roll_width: figures.length("barrier_roll_width"),
        roll_length: figures.length("barrier_roll_length"),
        lap: figures.length("lap_horizontal"),
        side_lap: figures.length("lap_vertical"),
        stagger: figures.length("course_stagger"),
        corner_clear: figures.length("opening_corner_clear"),
        // The flap and its patches want one whole course above the head, which may ask for more than the general figure.
        clear_above: figures
            .length("course_clear_of_opening")
            .max(figures.length("flap_slit_up") + figures.length("patch_past")),
        clear_below: figures.length("course_clear_of_opening"),
        pan_up_turn: figures.length("pan_up_turn"),
        least_strip: figures.length("course_least_strip"),
        openings: &rects,
    });
    let facet = Facet { id: "wall".into(), width: wall.width(), height: wall.height(), rise: 1.0, exposed: true };
    let mut plan = Plan {
        surfaces: vec![Surface { facet, opening: None, with: None, sloped_by: None }],
        stitches: Vec::new(),
        openings: Vec::new(),
        pieces: Vec::new(),
        seals: Vec::new(),
        cuts: Vec::new(),
        flaps: Vec::new(),
        steps: Vec::new(),
        order: Vec::new(),
        removed: job.sequence.removed.clone(),
        overs: Vec::new(),
        targets: vec![PlanTarget {
            id: "sheathing".into(),
            name: "the sheathing".into(),
            depth: Depth::Substrate,
            on: SurfaceId::WALL,
            rect: wall,
            without: None,
        }],
        outlets: vec![Rect { v1: FOOT, ..wall }],
        leaks: Vec::new(),
        courses,
        figures,
        plate,
    };
    let barrier = barrier_steps(&mut plan);
    let mut details = Vec::new();
    for (i, (o, rect)) in job.openings.iter().zip(&rects).enumerate() {
        let recipe = Recipe::named(&o.recipe).map_err(|m| vec![Problem::new(format!("$.openings[{i}].recipe"), m)])?;
        let first = plan.pieces.len();
        plan.openings.push(Opening { id: o.id.clone(), name: o.name.clone(), rect: *rect, hull: *rect });
        let size = OpeningSize { index: i, id: o.id.clone(), rect: *rect, depth: o.depth, flange: o.flange };
        details.push(instantiate(&mut plan, &recipe, &size).map_err(|e| data(format!("recipe {}: {e}", o.recipe)))?);
        let on_wall = plan.pieces[first..].iter().flat_map(|p| &p.regions).filter(|(s, _)| *s == SurfaceId::WALL);
        plan.openings[i].hull = on_wall.fold(*rect, |hull, (_, r)| hull.hull(*r));
    }
    let problems = crowded(job, &plan, wall);
    if !problems.is_empty() {
        return Err(problems);
    }
    let (survey, rest): (Vec<Step>, Vec<Step>) =
        details.into_iter().flat_map(|d| d.steps).partition(|s| s.phase == Phase::Survey);
    plan.steps = survey.into_iter().chain(barrier).chain(rest).collect();
    plan.order = order(&plan.steps, &job.sequence.order);
    Ok(plan)
}

/// Steps in the job's own order; steps it does not name stand behind the step they follow in the recipes.
fn order(steps: &[Step], own: &[String]) -> Vec<usize> {
    let mut order: Vec<usize> = Vec::with_capacity(steps.len());
    for id in own {
        if let Some(s) = steps.iter().position(|s| s.id == *id)
            && !order.contains(&s)
        {
            order.push(s);
        }
    }
    for s in 0..steps.len() {
        if !order.contains(&s) {
            let after = s.checked_sub(1).and_then(|before| order.iter().position(|o| *o == before));
            order.insert(after.map_or(0, |a| a + 1), s);
        }
    }
    order
}

fn misplaced(job: &Job, rects: &[Rect], wall: Rect, plate: Length) -> Vec<Problem> {
    let mut out = Vec::new();
    for (i, (o, r)) in job.openings.iter().zip(rects).enumerate() {
        let at = |field: &str| format!("$.openings[{i}].{field}");
        let room = |size: Length, least: Length, most: Length| {
            if most < least {
                format!("make it smaller: {size} does not fit at all")
            } else {
                format!("put it between {least} and {most}")
            }
        };
        if r.u0 < wall.u0 || r.u1 > wall.u1 {
            let remedy = room(o.width, Length::ZERO, wall.u1 - o.width);
            out.push(Problem::new(
                at("left"),
                format!("{} runs from {} to {}, off a wall {} wide: {remedy}.", o.name, r.u0, r.u1, wall.u1),
            ));
        }
        if r.v0 < wall.v0 + plate || r.v1 > wall.v1 {
            let remedy = room(o.height, Length::ZERO, wall.v1 - plate - o.height);
            out.push(Problem::new(
                at("sill"),
                format!(
                    "{} stands from {} to {} above the plate, off a wall {} high: {remedy}.",
                    o.name,
                    r.v0 - plate,
                    r.v1 - plate,
                    wall.v1 - plate
                ),
            ));
        }
        for (p, q) in job.openings[..i].iter().zip(rects) {
            if r.overlaps(*q) {
                out.push(Problem::new(
                    at("left"),
                    format!("{} overlaps {}: move one of them, or make one smaller.", o.name, p.name),
                ));
            }
        }
    }
    out
}

/// Openings whose flashings leave the wall or fall on those of another.
fn crowded(job: &Job, plan: &Plan, wall: Rect) -> Vec<Problem> {
    let mut out = Vec::new();
    for (i, o) in plan.openings.iter().enumerate() {
        let h = o.hull;
        let sides = [
            ("left", "left end of the wall", wall.u0 - h.u0),
            ("left", "right end of the wall", h.u1 - wall.u1),
            ("sill", "foot of the wall", wall.v0 - h.v0),
            ("sill", "top of the wall", h.v1 - wall.v1),
        ];
        for (field, side, over) in sides {
            if over.is_positive() {
                let message = format!(
                    "the flashings of {} reach {over} past the {side}: move it {over} away, or make it smaller.",
                    job.openings[i].name
                );
                out.push(Problem::new(format!("$.openings[{i}].{field}"), message));
            }
        }
        for p in &plan.openings[..i] {
            if let Some(shared) = p.hull.intersection(h) {
                let by = shared.width().min(shared.height());
                let message = format!(
                    "the flashings of {} and {} fall on each other by {by}: move them apart by at least {by}.",
                    p.name, o.name
                );
                out.push(Problem::new(format!("$.openings[{i}].left"), message));
            }
        }
    }
    out
}

/// The courses as pieces, one step each, with the laps they need.
fn barrier_steps(plan: &mut Plan) -> Vec<Step> {
    let figures = plan.figures.clone();
    let courses = plan.courses.courses.clone();
    let mut steps = Vec::new();
    let mut below: Vec<usize> = Vec::new();
    for (n, course) in courses.iter().enumerate() {
        let mut here = Vec::new();
        for (k, run) in course.runs.iter().enumerate() {
            let number = n + 1;
            let (id, name) = if course.runs.len() == 1 {
                (format!("course-{number}"), format!("barrier (course {number})"))
            } else {
                (format!("course-{number}-{}", k + 1), format!("barrier (course {number}, length {})", k + 1))
            };
            let rect = Rect::new(run.left, course.bottom, run.right, course.top);
            let cut = CutSize {
                length: rect.width(),
                width: rect.height(),
                stock_width: figures.length("barrier_roll_width"),
                roll: Some(figures.length("barrier_roll_length")),
            };
            let piece = Piece {
                id,
                name,
                role: Role::Barrier,
                letter: format!("C{number}"),
                product: "Loose barrier sheet".into(),
                bond: Bond::None,
                solid: false,
                regions: vec![(SurfaceId::WALL, rect)],
                cut: Some(cut),
                opening: None,
            };
            let index = plan.pieces.len();
            plan.pieces.push(piece);
            let lowers = below.iter().chain(here.last());
            let overs: Vec<Over> = lowers
                .map(|&lower| Over {
                    upper: Part::Piece(index),
                    lower: Part::Piece(lower),
                    fault: "F01".into(),
                    because: "the upper course has to lap over the lower one".into(),
                    opening: None,
                })
                .collect();
            plan.overs.extend(overs);
            here.push(index);
        }
        steps.push(course_step(plan, &figures, course, n, &here));
        below = here;
    }
    steps
}

fn course_step(plan: &Plan, figures: &Figures, course: &Course, n: usize, pieces: &[usize]) -> Step {
    let number = n + 1;
    let id = format!("course-{number}");
    let lap = figures.length("lap_horizontal");
    let height = course.top - course.bottom;
    let mut actions = Vec::new();
    for &piece in pieces {
        actions.push(Action {
            id: format!("{id}/{}", actions.len() + 1),
            act: Act::Place { piece, under: Vec::new() },
            label: format!("hang the {}", plan.pieces[piece].name),
        });
    }
    actions.push(Action {
        id: format!("{id}/{}", actions.len() + 1),
        act: Act::Fasten,
        label: "fasten: one per 3 square feet, at most 16 in apart at edges and laps".into(),
    });
    let ripped =
        if height < figures.length("barrier_roll_width") { format!(" Rip it to {height}.") } else { String::new() };
    let card = StepCard {
        what: format!(
            "Hang the sheet with its lower edge at {} from the foot, its upper edge at {}.{ripped} Keep it level and flat, fasten near the studs.",
            course.bottom, course.top
        ),
        over: if n == 0 { String::new() } else { format!("Over the course below by {lap}.") },
        check: format!("Level; lap {lap}; no wrinkles at edges. Leave the opening covered until it is cut."),
        why: if n == 0 {
            "From the bottom up: each course sheds over the one below. The first laps over the base flashing.".into()
        } else {
            "Water running down meets only edges it falls off.".into()
        },
        caution: "Ladder or scaffold: a loose sheet is a sail. Not in wind over 20 mph, not alone.".into(),
    };
    Step { id, title: format!("Course {number}"), phase: Phase::Barrier, opening: None, card, actions }
}
