//! Building the plan of a job, phase by phase: everything that is wrong with it is told, or all of it is built.

use super::added::OpeningSize;
use super::barrier::{Outside, barrier_steps, cover_steps};
use super::course::{CourseInput, least_first, plan_courses};
use super::hung::{Tees, Ways};
use super::instance::{Planned, instantiate, instantiate_each};
use super::stretch::{WallRun, called, prefix, runs};
use super::working_order::{Sited, in_working_order};
use super::{
    Basis, Departures, Finish, MovedFigure, Note, Opening, Plan, PlanStitchEnd, PlanTarget, Stretch, Surface,
    SurfaceId, Walls, WaterAsked, cards, footprint, found, furring, kept, neighbours, notes, products, refused, shared,
    stretch, top_beads,
};
use crate::build_up::BuildUp;
use crate::job::{CornerSpec, Job};
use crate::kit::Product;
use crate::layup::Depth;
use crate::length::Length;
use crate::problem::Problem;
use crate::profile::{Figures, Profile, fig};
use crate::recipe::Recipe;
use crate::recipe::answer;
use crate::recipe::expr::ExprError;
use crate::recipe::schools::{Answers, BarrierKind, BarrierSpec, Feature, NoteSpec, Refused, Schools};
use crate::surface::{Facet, Interval, Outline, Rect, Side};
use crate::trade::{Band, PieceId, Step};
use foldhash::HashMap;
use rayon::prelude::*;
use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;
use std::sync::OnceLock;
use typed_index_collections::TiVec;

/// What the walls' own face is called.
const WALL_NAME: &str = "wall";

/// Water that runs off the foot of the wall has left it: the lowest part counts as outlet.
const FOOT: Length = Length::inch_fraction(1, 2);

/// Builds the plan of a job.
///
/// # Errors
/// Everything that is wrong with the job, each with its JSON path and a remedy.
pub fn build(job: &Job) -> Result<Plan, Vec<Problem>> {
    let (site, mut plan, known) = unnoted(job)?;
    site.note(&mut plan, known)?;
    plan.departures.as_built = notes::as_built(&mut plan, job)?;
    found::place(&mut plan, job)?;
    Ok(plan)
}

/// The plan without what should be known of it, and what is known from its answers.
fn unnoted(job: &Job) -> Result<(Site<'_>, Plan, Vec<Note>), Vec<Problem>> {
    let site = Site::survey(job)?;
    let made = site.recipes()?;
    let hung = site.hang(&made)?;
    let mut plan = site.bare(hung.stretches, hung.outline)?;
    let mut steps = site.barrier(&mut plan, &hung.specs).map_err(of_cards)?;
    steps.extend(site.finish(&mut plan)?);
    let strips = plan.pieces.next_key();
    let meeting = meetings(&mut plan).map_err(|e| broken(format!("the recipe where two barriers meet: {e}")))?;
    let strips = strips..plan.pieces.next_key();
    let on_wall = steps.len();
    steps.extend(site.openings(&mut plan, &made, &hung.sites, hung.planned)?);
    cards::say_what_is_fitted(&plan, steps[..on_wall].iter_mut().map(|(_, step)| step)).map_err(of_cards)?;
    all_right(refused::crowded(job, &plan, site.wall))?;
    let (joined, alone) = shared::share(&mut plan, &mut steps);
    let mut gone = neighbours::fit(&mut plan, strips);
    gone.extend(joined);
    neighbours::leave_out_what_is_gone(&mut plan, &mut steps, &gone);
    furring::lay_out(&mut plan);
    let covers = covers(&mut plan, &hung.specs, &steps)?;
    steps.splice(on_wall..on_wall, covers);
    steps.extend(meeting.into_iter().map(|step| (None, step)));
    let windows_first = |s: usize| answer::FIRST_WINDOWS.is_in(&plan.walls.stretches[s].answers);
    plan.steps = in_working_order(steps, windows_first, &neighbours::ranks(&plan)).into();
    top_beads::lay(&mut plan, job)?;
    plan.put_in_order(&job.sequence);
    products::choose(&mut plan, job);
    Ok((site, plan, made.notes.into_iter().chain(alone).collect()))
}

/// A mistake in shipped data as a problem of the whole job. Tests keep the data whole.
fn broken(message: String) -> Vec<Problem> {
    vec![Problem::new("$", message)]
}

fn all_right(problems: Vec<Problem>) -> Result<(), Vec<Problem>> {
    if problems.is_empty() { Ok(()) } else { Err(problems) }
}

/// The job as it lies on the wall, before anything is built.
struct Site<'a> {
    job: &'a Job,
    profile: &'static Profile,
    figures: Figures,
    /// Figures that products moved.
    moved: Vec<MovedFigure>,
    /// Every material as it is known and sold here.
    library: Cow<'static, [Product]>,
    /// From the lower edge of the barrier up to the bottom plate.
    plate: Length,
    /// All of the walls.
    wall: Rect,
    /// Openings and other features on the wall.
    rects: Vec<Rect>,
    /// The wall's own questions.
    whole: &'static Schools,
    /// Answers of each wall.
    walls: Vec<Answers>,
    /// Walls that answer every question alike.
    finishes: Vec<WallRun>,
    /// From the barrier to the face of each of those runs: what its layers add up to, or what the job says.
    outsides: Vec<Length>,
}

/// What each feature is made of, and what is to be known of it.
struct Made {
    answers: Vec<Answers>,
    recipes: Vec<Arc<Recipe>>,
    notes: Vec<Note>,
}

/// The barrier as it will be hung.
struct Hung<'m> {
    outline: Outline,
    stretches: Vec<Stretch>,
    specs: Vec<&'static BarrierSpec>,
    /// Where each feature is, and how far its recipe is made there.
    sites: Vec<OpeningSize>,
    planned: Vec<Planned<'m>>,
}

impl<'a> Site<'a> {
    /// Where everything is, and what the walls answer.
    fn survey(job: &'a Job) -> Result<Self, Vec<Problem>> {
        all_right(job.problems())?;
        let profile = Profile::general_practice().map_err(|e| broken(e.to_string()))?;
        let figures = profile.values(&job.figures).map_err(|e| vec![Problem::new("$.figures", e.to_string())])?;
        let plate = figures.length(fig::FIRST_COURSE_BELOW_PLATE);
        let wall = Rect::new(Length::ZERO, Length::ZERO, job.wall.width, job.wall.height + plate);
        let on_wall = |o: &crate::job::OpeningSpec| {
            Rect::new(o.left, o.sill + plate, o.left + o.width, o.sill + plate + o.height)
        };
        let rects: Vec<Rect> = job.openings.iter().map(on_wall).collect();
        all_right(refused::misplaced(job, &rects, wall, plate))?;
        let whole = Schools::of_wall().map_err(broken)?;
        let walls = answers_of_walls(job, whole)?;
        let finishes = runs(&walls, |a, b| a == b);
        let library = job.kit.library().map_err(|m| vec![Problem::new("$.kit", m)])?;
        let (figures, moved) = products::asked(job, profile, &figures, &library, &walls).map_err(broken)?;
        let figures = kept::figures_as_before(figures);
        let outsides = finishes.iter().map(|run| outside(job, &walls[run.start], &figures)).collect();
        Ok(Self { job, profile, figures, moved, library, plate, wall, rects, whole, walls, finishes, outsides })
    }

    /// What a run of walls is called where there are several.
    fn called(&self, run: &WallRun) -> String {
        if self.finishes.len() == 1 { String::new() } else { called(&self.job.wall.names(), run) }
    }

    /// What is to be known of the walls' answers: of several runs once, with all their names.
    fn notes_of_walls(&self) -> Vec<Note> {
        let ends = self.job.wall.ends();
        let mut told: Vec<(&NoteSpec, Vec<String>, Interval)> = Vec::new();
        for run in &self.finishes {
            let here = Interval { lo: ends[run.start], hi: ends[run.end] };
            for n in self.whole.notes(&self.walls[run.start]) {
                match told.iter_mut().find(|(said, ..)| std::ptr::eq(*said, n)) {
                    Some((_, names, along)) => {
                        names.push(self.called(run));
                        along.hi = here.hi;
                    }
                    None => told.push((n, vec![self.called(run)], here)),
                }
            }
        }
        told.iter().map(|(n, names, along)| Note { along: Some(*along), ..note(n, None, &names.join(", ")) }).collect()
    }

    /// The answers and the recipe of each feature. What is answered alike on the same wall is made alike.
    fn recipes(&self) -> Result<Made, Vec<Problem>> {
        let job = self.job;
        let mut out = Made { answers: Vec::new(), recipes: Vec::new(), notes: self.notes_of_walls() };
        let mut problems = Vec::new();
        let mut made: HashMap<(Feature, usize, &Answers), (Answers, Arc<Recipe>)> = HashMap::default();
        for (i, o) in job.openings.iter().enumerate() {
            let schools = Schools::of(o.feature).map_err(broken)?;
            let wall = o.wall(&job.wall);
            problems.extend(refused::misplaced_answers(schools, &o.schools, i));
            let known = made.get(&(o.feature, wall, &o.schools)).cloned();
            let (all, recipe) = match known {
                Some(known) => known,
                None => match self.complete(schools, i, wall) {
                    Ok(all) => {
                        let new = (all.clone(), schools.recipe(&all));
                        made.insert((o.feature, wall, &o.schools), new.clone());
                        new
                    }
                    Err(p) => {
                        problems.extend(p);
                        continue;
                    }
                },
            };
            out.notes.extend(schools.notes(&all).map(|n| note(n, Some(i), &o.name)));
            out.recipes.push(recipe);
            out.answers.push(all);
        }
        // Every opening has its answers only where none was refused.
        if problems.is_empty() {
            problems = refused::shallow(job, &out.answers, &self.figures);
        }
        all_right(problems)?;
        Ok(out)
    }

    /// All answers of one feature: its own, those of its wall, and what follows from them.
    fn complete(&self, schools: &Schools, i: usize, wall: usize) -> Result<Answers, Vec<Problem>> {
        let o = &self.job.openings[i];
        let of_wall = self.job.wall.answers(wall, self.whole);
        let mut given = schools.asked(&of_wall);
        given.extend(o.schools.clone());
        schools.complete(&given).map_err(|refused| {
            let told = |r: Refused| {
                let path = if of_wall.contains_key(&r.question) && !o.schools.contains_key(&r.question) {
                    path_of_wall(self.job, wall, &r.question)
                } else {
                    format!("$.openings[{i}].schools.{}", r.question)
                };
                Problem::new(path, format!("{}: {}", o.name, r.message))
            };
            refused.into_iter().map(told).collect()
        })
    }

    /// The top of the walls.
    fn outline(&self) -> Result<Outline, Vec<Problem>> {
        let (job, figures) = (self.job, &self.figures);
        let top = job.wall.top.iter().map(|p| (p.at, p.height + self.plate)).collect();
        let outline = Outline::new(top, self.wall.width(), self.wall.height(), figures.length(fig::OUTLINE_STEP));
        let (least, most) = (least_first(figures.length(fig::LAP_HORIZONTAL)), figures.length(fig::BARRIER_ROLL_WIDTH));
        if let Some(own) = job.wall.first_course.filter(|own| *own < least || *own > most) {
            let message = format!(
                "a first course of {own} cannot be hung: between {least}, twice the lap, and {most}, the width of the roll, it can; or let Kame find the best."
            );
            return Err(vec![Problem::new("$.wall.first_course", message)]);
        }
        all_right(refused::through_the_top(job, &self.rects, &outline, self.plate))?;
        Ok(outline)
    }

    /// Where the barrier is hung alike, and its courses.
    fn hang<'m>(&self, made: &'m Made) -> Result<Hung<'m>, Vec<Problem>> {
        let outline = self.outline()?;
        let mut stretches = stretch::stretches(&self.job.wall, &self.walls, self.whole, &outline);
        all_right(refused::across_a_meeting(self.job, &self.rects, &stretches))?;
        let on_stretch: Vec<usize> = self.rects.iter().map(|r| stretch::at(&stretches, r.u0)).collect();
        let sites: Vec<OpeningSize> = on_stretch.iter().enumerate().map(|(i, s)| self.size_of(i, *s)).collect();
        let walls = (self.wall, stretches.len());
        let plan_at = |(site, recipe): (&OpeningSize, &'m Arc<Recipe>)| Planned::of(&self.figures, recipe, site, walls);
        let planned: Result<Vec<Planned<'m>>, ExprError> = sites.par_iter().zip(&made.recipes).map(plan_at).collect();
        let planned = planned.map_err(|e| broken(e.to_string()))?;
        let schools = Schools::shipped().map_err(broken)?;
        let mut specs = Vec::new();
        let one = stretches.len() == 1;
        for (s, stretch) in stretches.iter_mut().enumerate() {
            let spec =
                schools.barrier(&stretch.answers).ok_or_else(|| broken("no answer says what the barrier is".into()))?;
            specs.push(spec);
            if spec.kind == BarrierKind::Courses {
                let here: Vec<usize> = (0..on_stretch.len()).filter(|i| on_stretch[*i] == s).collect();
                self.courses(stretch, &here, &planned, one)?;
            }
        }
        all_right(refused::too_many_panels(&specs, &stretches, &self.figures))?;
        Ok(Hung { outline, stretches, specs, sites, planned })
    }

    /// Plans the courses of one stretch round the features that are on it.
    fn courses(
        &self,
        stretch: &mut Stretch,
        here: &[usize],
        planned: &[Planned],
        one: bool,
    ) -> Result<(), Vec<Problem>> {
        let figures = &self.figures;
        // The flap and its patches want one whole course above the head, which may ask for more than the general figure.
        let mut clear_above = figures.length(fig::COURSE_CLEAR_OF_OPENING);
        for &i in here {
            clear_above = clear_above.max(planned[i].clear_above().map_err(|e| broken(e.to_string()))?);
        }
        let holes: Vec<Rect> = here.iter().map(|i| self.rects[*i]).collect();
        let within = |c: &CornerSpec| stretch.rect.u0 < c.at && c.at < stretch.rect.u1;
        let corners: Vec<Length> = self.job.wall.corners.iter().filter(|c| within(c)).map(|c| c.at).collect();
        stretch.courses = plan_courses(
            &CourseInput {
                outline: &stretch.outline,
                height: stretch.rect.height(),
                roll_width: figures.length(fig::BARRIER_ROLL_WIDTH),
                roll_length: figures.length(fig::BARRIER_ROLL_LENGTH),
                lap: figures.length(fig::LAP_HORIZONTAL),
                side_lap: figures.length(fig::LAP_VERTICAL),
                stagger: figures.length(fig::COURSE_STAGGER),
                corner_clear: figures.length(fig::OPENING_CORNER_CLEAR),
                clear_above,
                clear_below: figures.length(fig::COURSE_CLEAR_OF_OPENING),
                pan_up_turn: figures.length(fig::PAN_UP_TURN),
                least_strip: figures.length(fig::COURSE_LEAST_STRIP),
                openings: &holes,
                corners: &corners,
                corner_wrap: figures.length(fig::CORNER_WRAP),
                round: one && notes::all_round(self.job, figures),
            },
            self.job.wall.first_course,
        )
        .map_err(|e| vec![Problem::new("$.figures", e.to_string())])?;
        Ok(())
    }

    fn size_of(&self, i: usize, stretch: usize) -> OpeningSize {
        let o = &self.job.openings[i];
        OpeningSize {
            index: Some(i),
            id: o.id.clone(),
            rect: self.rects[i],
            depth: o.depth,
            flange: o.flange,
            stretch,
            finish: None,
            outside: self.outside(self.job.wall.wall_at(self.rects[i].u0)),
            ends_with_wall: o.feature == Feature::Line,
        }
    }

    /// From the barrier to the face of a wall.
    fn outside(&self, wall: usize) -> Length {
        let run = self.finishes.iter().rposition(|run| run.start <= wall).unwrap_or_default();
        self.outsides[run]
    }

    /// A plan with nothing on the walls.
    fn bare(&self, stretches: Vec<Stretch>, outline: Outline) -> Result<Plan, Vec<Problem>> {
        let (job, wall) = (self.job, self.wall);
        let facet =
            Facet { id: WALL_NAME.into(), width: wall.width(), height: wall.height(), rise: 1.0, exposed: true };
        let mut plan = Plan {
            surfaces: vec![Surface { name: WALL_NAME.into(), facet, opening: None, with: None, sloped_by: None }]
                .into(),
            stitches: Vec::new(),
            openings: Vec::new(),
            pieces: TiVec::new(),
            seals: TiVec::new(),
            cuts: TiVec::new(),
            fits: Vec::new(),
            flaps: TiVec::new(),
            steps: TiVec::new(),
            order: Vec::new(),
            removed: BTreeSet::new(),
            overs: Vec::new(),
            water: WaterAsked {
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
            },
            notes: Vec::new(),
            departures: Departures::default(),
            walls: Walls {
                stretches,
                finishes: Vec::new(),
                corners: job.wall.corners.clone(),
                round: notes::all_round(job, &self.figures),
                footprint: footprint(&job.wall),
                levels: job.wall.levels.clone(),
                outline,
                plate: self.plate,
            },
            basis: Basis {
                figures: self.figures.clone(),
                moved: self.moved.clone(),
                products: self.library.clone(),
                recorded: job.kit.pairs.clone(),
                bench: job.bench.clone(),
            },
        };
        plan.stitches.extend(closing(&plan));
        Ok(plan)
    }

    /// The barrier itself, stretch by stretch.
    fn barrier(&self, plan: &mut Plan, specs: &[&BarrierSpec]) -> Result<Vec<Sited>, ExprError> {
        let mut steps: Vec<Sited> = Vec::new();
        for (s, spec) in specs.iter().enumerate() {
            // What runs along the wall has the barrier behind it.
            let here = |r: &Rect| stretch::at(&plan.walls.stretches, r.u0) == s;
            let holes = self.job.openings.iter().zip(&self.rects);
            let holes = holes.filter(|(o, r)| o.feature != Feature::Line && here(r)).map(|(_, r)| *r);
            let holes: Vec<Rect> = holes.collect();
            let given = &plan.walls.stretches[s].answers;
            let ways = Ways {
                sheathing: answer::SHEATHING_TAPED.is_in(given),
                taped: answer::LAPS_TAPED.is_in(given),
                downward: answer::COURSES_DOWNWARD.is_in(given),
                lying: answer::PANELS_LYING.is_in(given),
                from_top: answer::ROWS_FROM_TOP.is_in(given),
                bridging: answer::ROWS_BRIDGING.is_in(given),
                cut_now: answer::PANELS_CUT_NOW.is_in(given),
                tees: match given {
                    _ if answer::TEES_LEVEL.is_in(given) => Tees::LevelOver,
                    _ if answer::TEES_HALF.is_in(given) => Tees::HalfWay,
                    _ => Tees::UprightOver,
                },
            };
            steps.extend(barrier_steps(plan, spec, s, &holes, ways)?.into_iter().map(|step| (Some(s), Arc::new(step))));
        }
        Ok(steps)
    }

    /// What is at the foot and the top of each run of walls, and outside its barrier.
    fn finish(&self, plan: &mut Plan) -> Result<Vec<Sited>, Vec<Problem>> {
        let ends = self.job.wall.ends();
        let mut steps = Vec::new();
        for run in &self.finishes {
            let rect = Rect { u0: ends[run.start], u1: ends[run.end], ..self.wall };
            let rect = Rect { v1: plan.walls.outline.part(rect.along_u()).height(), ..rect };
            let id = format!("{}wall", prefix(run));
            let stretch = stretch::at(&plan.walls.stretches, rect.u0);
            let finish = Some(plan.walls.finishes.len());
            let (depth, flange, outside) = (plan.walls.plate, plan.walls.plate, self.outside(run.start));
            let ends_with_wall = false;
            let around = OpeningSize { index: None, id, rect, depth, flange, stretch, finish, outside, ends_with_wall };
            plan.walls.finishes.push(Finish { rect, answers: self.walls[run.start].clone() });
            let of_wall = instantiate(plan, &self.whole.recipe(&self.walls[run.start]), &around);
            let of_wall = of_wall.map_err(|e| broken(format!("the recipe of the wall: {e}")))?.steps;
            let name = self.called(run);
            steps.extend(of_wall.into_iter().map(|mut step| {
                if !name.is_empty() {
                    let title = format!("{} on {name}", step.title);
                    Arc::make_mut(&mut step).title = title;
                }
                (Some(stretch), step)
            }));
        }
        Ok(steps)
    }

    /// Every feature by its recipe.
    fn openings(
        &self,
        plan: &mut Plan,
        made: &Made,
        sites: &[OpeningSize],
        planned: Vec<Planned<'_>>,
    ) -> Result<Vec<Sited>, Vec<Problem>> {
        make_room(plan, &made.recipes);
        let first = plan.pieces.next_key();
        let features = self.job.openings.iter().zip(sites).zip(&made.answers);
        plan.openings.extend(features.map(|((o, site), answers)| Opening {
            id: o.id.clone(),
            name: o.name.clone(),
            feature: o.feature,
            rect: site.rect,
            hull: site.rect,
            shared: Vec::new(),
            stretch: site.stretch,
            answers: answers.clone(),
            stops: Vec::new(),
            sill: None,
        }));
        let details = instantiate_each(plan, &made.recipes, sites, planned)
            .map_err(|(i, e)| broken(format!("the recipe of {}: {e}", self.job.openings[i].name)))?;
        for (piece, opening) in plan.pieces[first..].iter().filter_map(|p| Some((p, p.opening?))) {
            let on_wall = piece.regions.iter().filter(|(s, _)| *s == SurfaceId::WALL);
            let hull = &mut plan.openings[opening].hull;
            *hull = on_wall.fold(*hull, |hull, (_, r)| hull.hull(*r));
        }
        let mut steps = Vec::with_capacity(made.recipes.iter().map(|r| r.step.len()).sum());
        for (i, detail) in details.iter().map(|made| &made.detail).enumerate() {
            (plan.openings[i].stops, plan.openings[i].sill) = (detail.stops.clone(), detail.sill);
            steps.extend(detail.steps.iter().map(|step| (Some(sites[i].stretch), Arc::clone(step))));
        }
        Ok(steps)
    }

    /// What can be built and should be known.
    fn note(&self, plan: &mut Plan, known: Vec<Note>) -> Result<(), Vec<Problem>> {
        let rule = self.profile.values(&BTreeMap::new()).map_err(|e| broken(e.to_string()))?;
        let without = |figure: &str| {
            let mut job = self.job.clone();
            job.figures.remove(figure);
            unnoted(&job).ok().map(|(_, plan, _)| plan)
        };
        plan.notes = notes::unusual(plan, self.profile, self.job, without);
        plan.notes.extend(notes::unstocked(plan));
        plan.notes.extend(notes::joints_at_corners(plan));
        plan.notes.extend(known);
        plan.notes.extend(notes::open_round(self.job, &plan.basis.figures));
        plan.notes.extend(notes::graded(plan, self.job, &rule));
        Ok(())
    }
}

/// From the barrier to the face of a wall that answers so.
fn outside(job: &Job, answers: &Answers, figures: &Figures) -> Length {
    if !job.figures.contains_key(fig::CLADDING_STACK.id()) {
        return BuildUp::of(answers, figures).unwrap_or_default().outside_barrier();
    }
    let boards =
        if answer::OUTSIDE_BOARDS.is_in(answers) { figures.length(fig::INSULATION_THICK) } else { Length::ZERO };
    figures.length(fig::CLADDING_STACK) + boards
}

/// Makes room in a plan for what recipes add, so that its lists are not moved again and again as they grow.
fn make_room(plan: &mut Plan, recipes: &[Arc<Recipe>]) {
    let of = |count: fn(&Recipe) -> usize| recipes.iter().map(|r| count(r)).sum::<usize>();
    plan.pieces.reserve(of(|r| r.piece.len()));
    plan.seals.reserve(of(|r| r.seal.len()));
    plan.surfaces.reserve(of(|r| r.surface.len()));
    plan.stitches.reserve(of(|r| r.stitch.len()));
    plan.overs.reserve(of(|r| r.over.len()));
    plan.water.targets.reserve(of(|r| r.target.len()));
    plan.water.leaks.reserve(of(|r| r.leak.len()));
}

fn of_cards(e: ExprError) -> Vec<Problem> {
    broken(format!("the cards of what is hung: {e}"))
}

fn note(n: &NoteSpec, of: Option<usize>, whose: &str) -> Note {
    Note {
        code: n.code.clone(),
        piece: None,
        opening: of,
        along: None,
        figure: None,
        fault: n.fault,
        reason: if whose.is_empty() { n.reason.clone() } else { format!("{whose}: {}", n.reason) },
        remedy: n.remedy.clone(),
    }
}

/// What hangs outside the barrier, over what was placed before it.
fn covers(plan: &mut Plan, specs: &[&BarrierSpec], steps: &[Sited]) -> Result<Vec<Sited>, Vec<Problem>> {
    let schools = Schools::shipped().map_err(broken)?;
    let flashed = placed_by(steps.iter().map(|(_, step)| &**step));
    let mut out: Vec<Sited> = Vec::new();
    for (s, spec) in specs.iter().enumerate() {
        let answers = &plan.walls.stretches[s].answers;
        let boards = answer::OUTSIDE_BOARDS.is_in(answers);
        let second = schools.second(answers).map(str::to_owned);
        let hung = cover_steps(plan, spec, s, Outside { second, boards }, &flashed).map_err(of_cards)?;
        out.extend(hung.into_iter().map(|step| (Some(s), Arc::new(step))));
    }
    Ok(out)
}

/// The corner at which walls that go all the way round come back to their start: the right end of the face goes on at its left.
fn closing(plan: &Plan) -> Option<(PlanStitchEnd, PlanStitchEnd)> {
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let stairs = plan.walls.outline.stairs_over(wall.along_u());
    let up = stairs.first()?.1.min(stairs.last()?.1);
    let end = |u, side| PlanStitchEnd { on: SurfaceId::WALL, from: (u, wall.v0), to: (u, up), side };
    plan.walls.round.then(|| (end(wall.u1, Side::Left), end(wall.u0, Side::Right)))
}

/// The strips over the corners where two stretches meet.
fn meetings(plan: &mut Plan) -> Result<Vec<Arc<Step>>, String> {
    static RECIPE: OnceLock<Result<Recipe, String>> = OnceLock::new();
    let read = || toml::from_str(include_str!("../../data/meeting.toml")).map_err(|e| e.to_string());
    let recipe = RECIPE.get_or_init(read).as_ref().map_err(Clone::clone)?;
    let mut steps = Vec::new();
    let strips: Vec<(usize, Rect)> = plan.meetings().collect();
    for (right, strip) in strips {
        let rect = Rect { v1: plan.walls.outline.most_over(strip.along_u()), ..strip };
        let id = plan.walls.stretches[right].id("meeting");
        // The stretch to the left of it; that of the first is the last.
        let s = right.checked_sub(1).unwrap_or(plan.walls.stretches.len() - 1);
        let size = OpeningSize {
            index: None,
            id,
            rect,
            depth: plan.walls.plate,
            flange: plan.walls.plate,
            stretch: s,
            finish: None,
            outside: Length::ZERO,
            ends_with_wall: false,
        };
        let first = plan.pieces.next_key();
        steps.extend(instantiate(plan, recipe, &size).map_err(|e| e.to_string())?.steps);
        // Where one wall is lower, the strip ends with it.
        let air = plan.walls.outline.air();
        for p in plan.pieces.keys().skip(first.0) {
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

/// Pieces that steps place, with the steps' bands in the order of work.
fn placed_by<'a>(steps: impl Iterator<Item = &'a Step>) -> Vec<(PieceId, Band)> {
    steps.flat_map(|s| s.actions.iter().filter_map(|a| a.act.placed()).map(|p| (p, s.band))).collect()
}
