//! Building the plan of a job: everything that is wrong with it is told, or all of it is built.

use super::barrier::{MOST_PANELS, Ways, barrier_steps, cover_steps, most_panels};
use super::{
    AsBuilt, Finish, Note, Opening, Plan, PlanStitchEnd, PlanTarget, Stretch, Surface, SurfaceId, footprint,
    gap_at_close, stretch,
};
use crate::detail::course::{CourseInput, least_first, plan_courses};
use crate::detail::instance::{OpeningSize, instantiate, sizes};
use crate::detail::recipe::{Recipe, Role};
use crate::detail::schools::{Answers, BarrierKind, BarrierSpec, Feature, NoteSpec, Refused, Schools, Scope};
use crate::gap;
use crate::job::{CornerSpec, DeviationKind, Job, LevelKind, LevelSpec, OpeningSpec, Problem};
use crate::layup::Depth;
use crate::length::Length;
use crate::profile::{Figures, Profile};
use crate::sequence::Step;
use crate::surface::{Facet, Outline, Rect, Side};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::rc::Rc;
use std::sync::OnceLock;

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
    let products = job.kit.library().map_err(|m| vec![Problem::new("$.kit", m)])?;
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
    let schools = Schools::shipped().map_err(data)?;
    let whole = Schools::of_wall().map_err(data)?;
    let walls = answers_of_walls(job, whole)?;
    let note = |n: &NoteSpec, of: Option<usize>, whose: &str| Note {
        code: n.code.clone(),
        piece: None,
        opening: of,
        figure: None,
        reason: if whose.is_empty() { n.reason.clone() } else { format!("{whose}: {}", n.reason) },
        remedy: n.remedy.clone(),
    };
    let finishes = stretch::runs(&walls, |a, b| a == b);
    let names = job.wall.names();
    let called = |run: &stretch::Run| if finishes.len() == 1 { String::new() } else { stretch::called(&names, run) };
    // What is said of several runs of walls is said once, with all their names.
    let mut of_walls: Vec<(&NoteSpec, Vec<String>)> = Vec::new();
    for run in &finishes {
        for n in whole.notes(&walls[run.start]) {
            match of_walls.iter_mut().find(|(said, _)| std::ptr::eq(*said, n)) {
                Some((_, names)) => names.push(called(run)),
                None => of_walls.push((n, vec![called(run)])),
            }
        }
    }
    let mut known: Vec<Note> = of_walls.iter().map(|(n, names)| note(n, None, &names.join(", "))).collect();
    let mut answers = Vec::new();
    let mut recipes = Vec::new();
    let mut problems = Vec::new();
    // What is answered alike on the same wall is made alike.
    let mut made: HashMap<(Feature, usize, &Answers), (Answers, Rc<Recipe>)> = HashMap::new();
    for (i, o) in job.openings.iter().enumerate() {
        let schools = Schools::of(o.feature).map_err(data)?;
        let wall = o.wall(&job.wall);
        problems.extend(misplaced_answers(schools, &o.schools, i));
        if let Some((all, recipe)) = made.get(&(o.feature, wall, &o.schools)) {
            recipes.push(Rc::clone(recipe));
            known.extend(schools.notes(all).map(|n| note(n, Some(i), &o.name)));
            answers.push(all.clone());
            continue;
        }
        let of_wall = job.wall.answers(wall, whole);
        let mut given = schools.asked(&of_wall);
        given.extend(o.schools.clone());
        match schools.complete(&given) {
            Ok(all) => {
                let recipe = Rc::new(schools.recipe(&all));
                recipes.push(Rc::clone(&recipe));
                known.extend(schools.notes(&all).map(|n| note(n, Some(i), &o.name)));
                answers.push(all.clone());
                made.insert((o.feature, wall, &o.schools), (all, recipe));
            }
            Err(refused) => problems.extend(refused.into_iter().map(|r| {
                let path = if of_wall.contains_key(&r.question) && !o.schools.contains_key(&r.question) {
                    path_of_wall(job, wall, &r.question)
                } else {
                    format!("$.openings[{i}].schools.{}", r.question)
                };
                Problem::new(path, format!("{}: {}", o.name, r.message))
            })),
        }
    }
    // Every opening has its answers only where none was refused.
    if problems.is_empty() {
        problems = shallow(job, &answers, &figures);
    }
    if !problems.is_empty() {
        return Err(problems);
    }
    let top = job.wall.top.iter().map(|p| (p.at, p.height + plate)).collect();
    let outline = Outline::new(top, wall.width(), wall.height(), figures.length("outline_step"));
    let (least, most) = (least_first(figures.length("lap_horizontal")), figures.length("barrier_roll_width"));
    if let Some(own) = job.wall.first_course.filter(|own| *own < least || *own > most) {
        let message = format!(
            "a first course of {own} cannot be hung: between {least}, twice the lap, and {most}, the width of the roll, it can; or let Kame find the best."
        );
        return Err(vec![Problem::new("$.wall.first_course", message)]);
    }
    let problems = through_the_top(job, &rects, &outline, plate);
    if !problems.is_empty() {
        return Err(problems);
    }
    let mut stretches = stretch::stretches(&job.wall, &walls, whole, &outline);
    let problems = across_a_meeting(job, &rects, &stretches);
    if !problems.is_empty() {
        return Err(problems);
    }
    let on_stretch: Vec<usize> = rects.iter().map(|r| stretch::at(&stretches, r.u0)).collect();
    let size_of = |i: usize| {
        let o = &job.openings[i];
        let (id, rect, stretch) = (o.id.clone(), rects[i], on_stretch[i]);
        OpeningSize { index: Some(i), id, rect, depth: o.depth, flange: o.flange, stretch, finish: None }
    };
    let mut specs = Vec::new();
    let one = stretches.len() == 1;
    for (s, stretch) in stretches.iter_mut().enumerate() {
        let spec =
            schools.barrier(&stretch.answers).ok_or_else(|| data("no answer says what the barrier is".into()))?;
        specs.push(spec);
        if spec.kind != BarrierKind::Courses {
            continue;
        }
        // The flap and its patches want one whole course above the head, which may ask for more than the general figure.
        let mut clear_above = figures.length("course_clear_of_opening");
        let here = || on_stretch.iter().enumerate().filter(|(_, on)| **on == s).map(|(i, _)| i);
        for i in here() {
            let env = sizes(&figures, &recipes[i], &size_of(i)).map_err(|e| data(e.to_string()))?;
            clear_above = clear_above.max(env.length("clear_above").map_err(|e| data(e.to_string()))?);
        }
        let holes: Vec<Rect> = here().map(|i| rects[i]).collect();
        let within = |c: &CornerSpec| stretch.rect.u0 < c.at && c.at < stretch.rect.u1;
        let corners: Vec<Length> = job.wall.corners.iter().filter(|c| within(c)).map(|c| c.at).collect();
        stretch.courses = plan_courses(
            &CourseInput {
                outline: &stretch.outline,
                height: stretch.rect.height(),
                roll_width: figures.length("barrier_roll_width"),
                roll_length: figures.length("barrier_roll_length"),
                lap: figures.length("lap_horizontal"),
                side_lap: figures.length("lap_vertical"),
                stagger: figures.length("course_stagger"),
                corner_clear: figures.length("opening_corner_clear"),
                clear_above,
                clear_below: figures.length("course_clear_of_opening"),
                pan_up_turn: figures.length("pan_up_turn"),
                least_strip: figures.length("course_least_strip"),
                openings: &holes,
                corners: &corners,
                corner_wrap: figures.length("corner_wrap"),
                round: one && all_round(job, &figures),
            },
            job.wall.first_course,
        )
        .map_err(|e| vec![Problem::new("$.figures", e.to_string())])?;
    }
    let problems = too_many_panels(&specs, &stretches, &figures);
    if !problems.is_empty() {
        return Err(problems);
    }
    let facet = Facet { id: "wall".into(), width: wall.width(), height: wall.height(), rise: 1.0, exposed: true };
    let mut plan = Plan {
        surfaces: vec![Surface { facet, opening: None, with: None, sloped_by: None }],
        stitches: Vec::new(),
        openings: Vec::new(),
        pieces: Vec::new(),
        seals: Vec::new(),
        cuts: Vec::new(),
        fits: Vec::new(),
        flaps: Vec::new(),
        steps: Vec::new(),
        order: Vec::new(),
        removed: BTreeSet::new(),
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
        notes: Vec::new(),
        as_built: Vec::new(),
        stretches,
        finishes: Vec::new(),
        corners: job.wall.corners.clone(),
        round: all_round(job, &figures),
        footprint: footprint(&job.wall),
        levels: job.wall.levels.clone(),
        products,
        recorded: job.kit.pairs.clone(),
        bench: job.bench.clone(),
        outline,
        figures,
        plate,
    };
    plan.stitches.extend(closing(&plan));
    let mut steps: Vec<Sited> = Vec::new();
    for (s, spec) in specs.iter().enumerate() {
        // What runs along the wall has the barrier behind it.
        let holes = job.openings.iter().zip(&rects).zip(&on_stretch);
        let holes = holes.filter(|((o, _), on)| o.feature != Feature::Line && **on == s).map(|((_, r), _)| *r);
        let holes: Vec<Rect> = holes.collect();
        let is = |question: &str, answer: &str| plan.stretches[s].answers.get(question).is_some_and(|a| a == answer);
        let ways = Ways { taped: is("laps", "taped"), lying: is("panels", "lying"), cut_now: is("cutting", "now") };
        steps.extend(barrier_steps(&mut plan, spec, s, &holes, ways).into_iter().map(|step| (Some(s), step)));
    }
    for run in &finishes {
        let ends = job.wall.ends();
        let rect = Rect { u0: ends[run.start], u1: ends[run.end], ..wall };
        let rect = Rect { v1: plan.outline.part(rect.along_u()).height(), ..rect };
        let id = format!("{}wall", stretch::prefix(run));
        let stretch = stretch::at(&plan.stretches, rect.u0);
        let finish = Some(plan.finishes.len());
        let around = OpeningSize { index: None, id, rect, depth: plan.plate, flange: plan.plate, stretch, finish };
        plan.finishes.push(Finish { rect, answers: walls[run.start].clone() });
        let of_wall = instantiate(&mut plan, &whole.recipe(&walls[run.start]), &around);
        let of_wall = of_wall.map_err(|e| data(format!("the recipe of the wall: {e}")))?.steps;
        steps.extend(of_wall.into_iter().map(|mut step| {
            let name = called(run);
            if !name.is_empty() {
                step.title = format!("{} on {name}", step.title);
            }
            (Some(stretch), step)
        }));
    }
    let meeting = meetings(&mut plan).map_err(|e| data(format!("the recipe where two barriers meet: {e}")))?;
    let on_wall = steps.len();
    for (i, (recipe, answers)) in recipes.iter().zip(answers).enumerate() {
        let size = size_of(i);
        let first = plan.pieces.len();
        let rect = size.rect;
        let o = &job.openings[i];
        plan.openings.push(Opening {
            id: o.id.clone(),
            name: o.name.clone(),
            feature: o.feature,
            rect,
            hull: rect,
            stretch: size.stretch,
            answers,
            stops: Vec::new(),
            sill: None,
        });
        let returns = plan.surfaces.len();
        let made = instantiate(&mut plan, recipe, &size);
        let made = made.map_err(|e| data(format!("the recipe of {}: {e}", o.name)))?;
        plan.openings[i].stops = made.stops;
        let sill = plan.surfaces[returns..].iter().position(|s| s.facet.id.ends_with("/sill"));
        plan.openings[i].sill = sill.map(|s| SurfaceId(returns + s));
        steps.extend(made.steps.into_iter().map(|step| (Some(size.stretch), step)));
        if o.feature == Feature::Line {
            // What runs along a wall ends where the wall does.
            for p in &mut plan.pieces[first..] {
                p.regions = p.regions.iter().filter_map(|(on, r)| Some((*on, r.intersection(wall)?))).collect();
            }
        }
        let on_wall = plan.pieces[first..].iter().flat_map(|p| &p.regions).filter(|(s, _)| *s == SurfaceId::WALL);
        plan.openings[i].hull = on_wall.fold(rect, |hull, (_, r)| hull.hull(*r));
    }
    let problems = crowded(job, &plan, wall);
    if !problems.is_empty() {
        return Err(problems);
    }
    gap::lay_out(&mut plan);
    let flashed = placed_by(steps.iter().map(|(_, step)| step));
    let mut covers: Vec<Sited> = Vec::new();
    for (s, spec) in specs.iter().enumerate() {
        let boards = plan.stretches[s].answers.get("outside").is_some_and(|a| a == "boards");
        covers.extend(cover_steps(&mut plan, spec, s, boards, &flashed).into_iter().map(|step| (Some(s), step)));
    }
    steps.splice(on_wall..on_wall, covers);
    steps.extend(meeting.into_iter().map(|step| (None, step)));
    let windows_first = |s: usize| plan.stretches[s].answers.get("first").is_some_and(|a| a == "windows");
    plan.steps = in_working_order(steps, windows_first);
    plan.put_in_order(&job.sequence);
    plan.notes = notes(&plan, profile, job);
    plan.notes.extend(known);
    let rule = profile.values(&BTreeMap::new()).map_err(|e| data(e.to_string()))?;
    plan.notes.extend(open_round(job, &plan.figures));
    plan.notes.extend(graded(&plan, job, &rule));
    plan.as_built = as_built(&mut plan, job)?;
    Ok(plan)
}

/// The corner at which walls that go all the way round come back to their start: the right end of the face goes on at its left.
fn closing(plan: &Plan) -> Option<(PlanStitchEnd, PlanStitchEnd)> {
    let wall = plan.surfaces[SurfaceId::WALL.0].facet.rect();
    let stairs = plan.outline.stairs_over(wall.along_u());
    let up = stairs.first()?.1.min(stairs.last()?.1);
    let end = |u, side| PlanStitchEnd { on: SurfaceId::WALL, from: (u, wall.v0), to: (u, up), side };
    plan.round.then(|| (end(wall.u1, Side::Left), end(wall.u0, Side::Right)))
}

/// A step and the stretch of walls it is on; none where two stretches meet.
type Sited = (Option<usize>, Step);

/// Steps of the wall and of all openings: the wall's own steps stand where their recipe puts them, and between two of them one opening is
/// worked after the other. Where windows go first, what is done at an opening until it is flashed comes before the barrier. One stretch is
/// worked after the other; the strips over the corners where they meet come once both are there, and before what hides them.
fn in_working_order(mut steps: Vec<Sited>, windows_first: impl Fn(usize) -> bool) -> Vec<Step> {
    let at = |(on, s): &Sited| match s.at {
        PREPARED..FLASHED if on.is_some_and(&windows_first) && s.opening.is_some() => {
            BEFORE_BARRIER + (s.at - PREPARED) / 10
        }
        at => at,
    };
    let met = steps.iter().filter(|(on, _)| on.is_none()).map(|(_, s)| s.at).min();
    let mut breaks: BTreeMap<Option<usize>, BTreeSet<u32>> = BTreeMap::new();
    for step in steps.iter().filter(|(_, s)| s.opening.is_none()) {
        breaks.entry(step.0).or_default().insert(at(step));
    }
    let part = |s: &Sited| breaks.get(&s.0).map_or(0, |breaks| breaks.iter().filter(|b| **b <= at(s)).count());
    // Before the strips, the strips, after them.
    let block = |(on, s): &Sited| met.map_or(0, |met| if on.is_none() { 1 } else { 2 * usize::from(s.at >= met) });
    // Stable: openings stay in the job's order.
    steps.sort_by_key(|s| (block(s), s.0, part(s), s.1.opening.is_some()));
    steps.into_iter().map(|(_, s)| s).collect()
}

/// The strips over the corners where two stretches meet.
fn meetings(plan: &mut Plan) -> Result<Vec<Step>, String> {
    static RECIPE: OnceLock<Result<Recipe, String>> = OnceLock::new();
    let read = || toml::from_str(include_str!("../../data/meeting.toml")).map_err(|e| e.to_string());
    let recipe = RECIPE.get_or_init(read).as_ref().map_err(Clone::clone)?;
    let mut steps = Vec::new();
    let strips: Vec<(usize, Rect)> = plan.meetings().collect();
    for (right, strip) in strips {
        let rect = Rect { v1: plan.outline.most_over(strip.along_u()), ..strip };
        let id = plan.stretches[right].id("meeting");
        // The stretch to the left of it; that of the first is the last.
        let s = right.checked_sub(1).unwrap_or(plan.stretches.len() - 1);
        let size =
            OpeningSize { index: None, id, rect, depth: plan.plate, flange: plan.plate, stretch: s, finish: None };
        let first = plan.pieces.len();
        steps.extend(instantiate(plan, recipe, &size).map_err(|e| e.to_string())?.steps);
        // Where one wall is lower, the strip ends with it.
        let air = plan.outline.air();
        for p in first..plan.pieces.len() {
            let parts = plan.pieces[p].regions.iter().flat_map(|(on, r)| plan.on_walls(*r).map(move |r| (*on, r)));
            let left = |(on, r): (SurfaceId, Rect)| r.minus_all(&air).into_iter().map(move |r| (on, r));
            plan.pieces[p].regions = parts.flat_map(left).collect();
        }
    }
    Ok(steps)
}

/// All answers of every wall.
fn answers_of_walls(job: &Job, whole: &Schools) -> Result<Vec<Answers>, Vec<Problem>> {
    let mut problems = Vec::new();
    let of = |wall: usize| {
        let problem = |r: Refused| Problem::new(path_of_wall(job, wall, &r.question), r.message);
        whole.complete(&job.wall.answers(wall, whole)).map_err(|list| list.into_iter().map(problem).collect::<Vec<_>>())
    };
    let walls = (0..=job.wall.corners.len()).filter_map(|w| of(w).map_err(|p| problems.extend(p)).ok()).collect();
    // What is wrong with the answers of all walls is said once.
    problems.dedup();
    if problems.is_empty() { Ok(walls) } else { Err(problems) }
}

/// Where the answer of a wall to a question stands in the job.
fn path_of_wall(job: &Job, wall: usize, question: &str) -> String {
    match job.wall.own(wall) {
        Some(own) if own.contains_key(question) => format!("$.wall.corners[{}].schools.{question}", wall - 1),
        _ => format!("$.wall.schools.{question}"),
    }
}

/// What runs on past the corner where one barrier ends and another begins.
fn across_a_meeting(job: &Job, rects: &[Rect], stretches: &[Stretch]) -> Vec<Problem> {
    let across = |(i, (o, r)): (usize, (&OpeningSpec, &Rect))| {
        let at = stretches.iter().skip(1).map(|s| s.rect.u0).find(|at| r.u0 < *at && *at < r.u1)?;
        let message = format!(
            "{} runs from {} to {} across the corner at {at}, where one barrier ends and another begins: make it two, one on each wall.",
            o.name, r.u0, r.u1
        );
        Some(Problem::new(format!("$.openings[{i}].width"), message))
    };
    job.openings.iter().zip(rects).enumerate().filter_map(across).collect()
}

/// From where to where in the order of work an opening is prepared, its unit set and flashed.
const PREPARED: u32 = 300;
const FLASHED: u32 = 600;
/// Where that comes when windows go first.
const BEFORE_BARRIER: u32 = 110;

/// Pieces that steps place, with the steps' places in the order of work.
fn placed_by<'a>(steps: impl Iterator<Item = &'a Step>) -> Vec<(usize, u32)> {
    steps.flat_map(|s| s.actions.iter().filter_map(|a| a.act.placed()).map(|p| (p, s.at))).collect()
}

/// Figures that fall short of the profile's, and pieces wider than any stocked width.
fn notes(plan: &Plan, profile: &Profile, job: &Job) -> Vec<Note> {
    let short = profile.out_of_rule(&job.figures).into_iter().map(|(f, own, fault)| Note {
        code: fault.to_owned(),
        piece: None,
        opening: None,
        figure: Some(f.id.clone()),
        reason: format!("{} is {own}, the profile asks {}: {}", f.name, f.value, f.why),
        remedy: format!(
            "Set it to {} or {}, or write down who decided and why.",
            f.value,
            if fault == f.below { "more" } else { "less" }
        ),
    });
    let wide = plan.pieces.iter().enumerate().filter_map(|(i, p)| {
        let cut = p.cut.as_ref()?;
        let widest = cut.widest?;
        (cut.width > widest).then(|| Note {
            code: "S-STOCK".into(),
            piece: Some(i),
            opening: p.opening,
            figure: None,
            reason: format!("The {} has to be {} wide, and the widest stocked is {widest}.", p.name, cut.width),
            remedy: format!(
                "Make it of two strips, the inner one first and the outer one lapped over it by {} or more; or take a formed pan or a coat.",
                plan.figures.length("lining_lap")
            ),
        })
    });
    short.chain(wide).collect()
}

/// What was done other than planned, on the pieces there are.
fn as_built(plan: &mut Plan, job: &Job) -> Result<Vec<AsBuilt>, Vec<Problem>> {
    let mut out = Vec::new();
    if job.as_built.is_empty() {
        return Ok(out);
    }
    let inch = Length::inch(1);
    let by_id: HashMap<String, usize> = plan.pieces.iter().enumerate().map(|(i, p)| (p.id.clone(), i)).collect();
    for (i, d) in job.as_built.iter().enumerate() {
        let at = |field: &str| format!("$.as_built[{i}].{field}");
        let Some(piece) = by_id.get(&d.piece).copied() else {
            return Err(vec![Problem::new(
                at("piece"),
                format!("there is no piece \"{}\"; name a piece of this job", d.piece),
            )]);
        };
        let on_wall = plan.pieces[piece].regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
        let Some(widest) = on_wall.clone().max_by_key(|r| r.width()) else {
            return Err(vec![Problem::new(
                at("piece"),
                format!("the {} does not lie on the face of the wall", plan.pieces[piece].name),
            )]);
        };
        let middle = widest.u0 + Length::from_units(widest.width().units() / 2);
        out.push(match d.kind {
            DeviationKind::OffLevel => {
                let p = &plan.pieces[piece];
                if p.role != Role::Barrier || p.cut.as_ref().is_none_or(|c| c.roll.is_none()) {
                    let name = &p.name;
                    return Err(vec![Problem::new(
                        at("kind"),
                        format!("the {name} is not a course of sheet, so it cannot run off level; name a course"),
                    )]);
                }
                let wall = plan.surfaces[0].facet.rect();
                let up = plan.figures.length("off_level");
                let left = Rect { u1: middle, ..widest };
                let right = Rect { u0: middle, v0: widest.v0 + up, v1: (widest.v1 + up).min(wall.v1), ..widest };
                plan.pieces[piece].regions =
                    [left, right].into_iter().filter(|r| r.has_area()).map(|r| (SurfaceId::WALL, r)).collect();
                AsBuilt::OffLevel { piece, on: SurfaceId::WALL, rect: right }
            }
            DeviationKind::FishMouth => {
                let low = widest.v1 - plan.figures.length("mouth_depth");
                let rect = Rect::new(middle - inch, low.max(widest.v0), middle + inch, widest.v1);
                AsBuilt::Mouth { piece, on: SurfaceId::WALL, rect }
            }
            DeviationKind::SealedBottom => {
                let lowest = on_wall.clone().min_by_key(|r| r.v0).unwrap_or(widest);
                let v0 = lowest.v0
                    + plan
                        .figures
                        .length("bed_inset")
                        .min(lowest.height() - plan.figures.length("bed_bead"))
                        .max(Length::ZERO);
                let rect = Rect::new(lowest.u0, v0, lowest.u1, (v0 + plan.figures.length("bed_bead")).min(lowest.v1));
                AsBuilt::Bead { piece, on: SurfaceId::WALL, rect }
            }
        });
    }
    Ok(out)
}

/// Answers of an opening to questions that are decided for the whole wall.
fn misplaced_answers(schools: &Schools, own: &Answers, i: usize) -> Vec<Problem> {
    let of_wall = |q: &&String| schools.question(q).is_some_and(|q| q.scope == Scope::Wall);
    own.keys()
        .filter(of_wall)
        .map(|q| {
            let message =
                "this is decided for the whole wall, so that everything goes to one plane: set it on the wall.";
            Problem::new(format!("$.openings[{i}].schools.{q}"), message)
        })
        .collect()
}

/// Panels in such numbers that they are not laid out, counted before any is.
fn too_many_panels(specs: &[&BarrierSpec], stretches: &[Stretch], figures: &Figures) -> Vec<Problem> {
    let of_panels = specs.iter().zip(stretches).filter(|(spec, _)| spec.kind == BarrierKind::Panels);
    let count: i64 = of_panels.map(|(_, on)| most_panels(on, figures)).sum();
    if count <= MOST_PANELS {
        return Vec::new();
    }
    let (width, length) = (figures.length("panel_width"), figures.length("panel_length"));
    let message = format!(
        "the walls take about {count} panels of {width} × {length}, and at most {MOST_PANELS} are laid out in one job: take larger panels, or split the job."
    );
    vec![Problem::new("$.figures", message)]
}

/// Units that cannot stand back because the wall is no deeper than they are.
fn shallow(job: &Job, answers: &[Answers], figures: &Figures) -> Vec<Problem> {
    let frame = figures.length("frame_depth");
    let too = |(i, (o, a)): (usize, (&OpeningSpec, &Answers))| {
        let back = a.get("position").is_some_and(|p| p != "out");
        (back && o.depth <= frame).then(|| {
            let message = format!(
                "{} stands back from the face, but the wall is {} deep and its frame {frame}: put it at the face, or make the wall deeper than {frame}.",
                o.name, o.depth
            );
            Problem::new(format!("$.openings[{i}].depth"), message)
        })
    };
    job.openings.iter().zip(answers).enumerate().filter_map(too).collect()
}

/// Steps in the job's own order; steps it does not name stand behind the step they follow in the recipes.
pub(super) fn order(steps: &[Step], own: &[String]) -> Vec<usize> {
    let known: HashMap<&str, usize> = steps.iter().enumerate().map(|(s, step)| (step.id.as_str(), s)).collect();
    let mut named = vec![false; steps.len()];
    let mut listed: Vec<usize> = Vec::new();
    for s in own.iter().filter_map(|id| known.get(id.as_str()).copied()) {
        if !std::mem::replace(&mut named[s], true) {
            listed.push(s);
        }
    }
    // Behind each named step those that follow it in the recipes up to the next named one; before all of them those at the start.
    let unnamed = |from: usize| (from..steps.len()).take_while(|s| !named[*s]);
    unnamed(0).chain(listed.iter().flat_map(|s| std::iter::once(*s).chain(unnamed(s + 1)))).collect()
}

/// Features that stand through the top of a wall that is not level.
fn through_the_top(job: &Job, rects: &[Rect], outline: &Outline, plate: Length) -> Vec<Problem> {
    let through = |(i, (o, r)): (usize, (&OpeningSpec, &Rect))| {
        let top = outline.least_over(r.along_u());
        (o.feature != Feature::Line && r.v1 > top).then(|| {
            let message = format!(
                "{} reaches {} up, and the wall over it is {} high there: lower it by {}, or move it to where the wall is higher.",
                o.name,
                r.v1 - plate,
                top - plate,
                r.v1 - top
            );
            Problem::new(format!("$.openings[{i}].sill"), message)
        })
    };
    job.openings.iter().zip(rects).enumerate().filter_map(through).collect()
}

/// How far the end of walls that go all the way round is beside their start: one way and the other.
fn apart(job: &Job) -> Option<(Length, Length)> {
    let (east, north) = gap_at_close(&job.wall)?;
    let size = |l: Length| if l < Length::ZERO { -l } else { l };
    Some((size(east), size(north)))
}

/// True where the walls go all the way round and come back to where they began.
fn all_round(job: &Job, figures: &Figures) -> bool {
    let read_to = figures.length("walls_close");
    apart(job).is_some_and(|(east, north)| east <= read_to && north <= read_to)
}

/// Walls that go all the way round and do not come back to where they began.
fn open_round(job: &Job, figures: &Figures) -> Option<Note> {
    let (east, north) = apart(job).filter(|_| !all_round(job, figures))?;
    Some(Note {
        code: "S-CLOSE".into(),
        piece: None,
        opening: None,
        figure: None,
        reason: format!(
            "The walls go all the way round and do not close: the end is {east} beside the start one way and {north} the other."
        ),
        remedy: "Measure the walls again, corner to corner; opposite walls have to add up to the same.".into(),
    })
}

/// Grade and paving nearer to the foot of the barrier than the rule asks.
fn graded(plan: &Plan, job: &Job, rule: &Figures) -> Vec<Note> {
    let near = |l: &LevelSpec| {
        let (id, what) = match l.kind {
            LevelKind::Soil => ("clear_soil", "soil"),
            LevelKind::Paving => ("clear_paving", "paving"),
            LevelKind::Floor => return None,
        };
        let (least, clear) = (rule.length(id), -l.at - plan.plate);
        (clear < least).then(|| Note {
            code: "F29".into(),
            piece: None,
            opening: None,
            figure: None,
            reason: format!("{} lies {} below the foot of the barrier; over {what} it needs {least}.", l.name, clear.max(Length::ZERO)),
            remedy: format!(
                "Lower the {what} by {}, or end the barrier higher on the foundation with its base flashing; where neither can be, ask who designed it.",
                least - clear
            ),
        })
    };
    job.wall.levels.iter().filter_map(near).collect()
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
            ("sill", "top of the wall", h.v1 - plan.outline.least_over(h.along_u())),
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
        let bent = |c: &&CornerSpec| o.feature != Feature::Line && h.u0 < c.at && c.at < h.u1;
        for c in plan.corners.iter().filter(bent) {
            let over = (c.at - h.u0).min(h.u1 - c.at);
            let message = format!(
                "the flashings of {} reach {over} round the corner at {}: move it {over} away from the corner, or make it smaller.",
                job.openings[i].name, c.at
            );
            out.push(Problem::new(format!("$.openings[{i}].left"), message));
        }
        // The strip where two barriers meet lies flat on both, and on nothing else.
        for (strip, whole) in plan.meetings().flat_map(|(_, r)| plan.on_walls(r).map(move |part| (part, r))) {
            let over = (h.u1 - strip.u0).min(strip.u1 - h.u0);
            let at = Length::from_units((whole.u0 + whole.u1).units() / 2);
            if over.is_positive() && !(h.u0 < at && at < h.u1) {
                let message = format!(
                    "the flashings of {} reach {over} under the strip over the corner at {at}, where two barriers meet: move it {over} away from the corner, or make it smaller.",
                    job.openings[i].name
                );
                out.push(Problem::new(format!("$.openings[{i}].left"), message));
            }
        }
        for p in &plan.openings[..i] {
            if let Some(shared) = p.hull.intersection(h) {
                let by = shared.width().min(shared.height());
                let holes = o.feature == Feature::Penetration && p.feature == Feature::Penetration;
                let together = if holes { ", or flash them together as one" } else { "" };
                let message = format!(
                    "the flashings of {} and {} fall on each other by {by}: move them apart by at least {by}{together}.",
                    p.name, o.name
                );
                out.push(Problem::new(format!("$.openings[{i}].left"), message));
            }
        }
    }
    out
}
