//! A plan on the calendar: its steps as tasks with everything that binds them, laid, each with why it stands where it stands; and every night of it.

use super::deadline::{latest, missed_by, would_meet};
use super::forecast::{changed, forecast};
use super::fuses::{Burning, Fuse, burning, exposed, fuses, told};
use super::ground::{Booked, Bound, CalendarQuestion, GroundBuilder, HORIZON, NotBefore, TaskPart, placed, stopped};
use super::instance::{After, Crew, Instance, Task, Window, WorkPlace};
use super::light::working_longer;
use super::nights::{NightPlan, bare_in_rain, beyond_hours, each_night};
use super::solve::{Agreed, Effort, LaidTask, Proof, solve_near};
use super::weather::evening;
use super::why::{MovedTask, moved, warns, why};
use super::worked::{CrewHours, hours_of, overtime_of, overtime_said};
use crate::contact::cure_waits;
use crate::date::{day_number, minute_said};
use crate::job::{CrewSpec, KeptDay, SiteSpec};
use crate::length::Length;
use crate::nights::{KnownNights, NightState};
use crate::plan::{Opening, Plan, SurfaceId};
use crate::problem::Problem;
use crate::record::{StepNow, StepState};
use crate::stop::Stop;
use crate::surface::Rect;
use crate::takeoff::step_minutes;
use crate::trade::{Act, Step, StepId, Trade};
use serde::Serialize;
use std::collections::{HashMap, HashSet, VecDeque};

/// No part of a step is longer, minutes: it fits between two looks at the sky.
const PART: u32 = 120;
/// No step is cut into shorter parts for the sake of days that are nearly all dark: it is done on others, minutes.
const LEAST_PART: u32 = 30;
/// An end that is farther from its bound, in percent, is only called the best of what was tried.
const WITHIN: u64 = 10;

/// A plan on the calendar.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Booking {
    /// The first day.
    pub from: String,
    /// Names of the crews.
    pub crews: Vec<String>,
    /// What is done, in the order of its beginning.
    pub tasks: Vec<Booked>,
    /// What is otherwise than was agreed on.
    pub moved: Vec<MovedTask>,
    /// True where a calendar was agreed on, and this one is as near to it as can be.
    pub kept: bool,
    /// How good it is known to be.
    pub proof: Proof,
    /// The same in words.
    pub says: String,
    /// Nights from the first day of work to the last.
    pub nights: Vec<NightPlan>,
    /// What should be known: what is past its time in the open.
    pub warns: Vec<String>,
    /// How long products are in the open, in the order in which they are hung.
    pub fuses: Vec<Fuse>,
    /// What each crew works in all, without its covers for the night.
    pub hours: Vec<CrewHours>,
    /// The forecast that it was laid by, day by day.
    pub forecast: Vec<KeptDay>,
    /// Days that are forecast otherwise than when a calendar was agreed on, a sentence each.
    pub changed: Vec<String>,
    /// Surface of each wall in each hour of the weather, °F.
    pub surfaces: Vec<Vec<f64>>,
    /// What a calendar that was laid before asked of it.
    #[serde(skip)]
    pub(super) laid_by: Bound,
    /// How long what each step hangs is in the open.
    #[serde(skip)]
    pub(super) burning: Vec<Burning>,
}

fn word(trade: Trade) -> String {
    serde_json::to_value(trade).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

/// Crews as plain numbers, without the minutes at the end of a day that belong to covering the wall; and the shortest day of each, minutes.
fn crews(asked: &CalendarQuestion, bound: &Bound) -> (Vec<Crew>, Vec<u32>) {
    let one = |(n, c): (usize, &CrewSpec)| {
        let longer = |d: u32| if d < bound.longer_before { overtime_of(c) } else { 0 };
        let days: Vec<(u32, Window)> =
            (0..HORIZON as u32).filter_map(|d| Some((d, working_longer(asked, c, d, longer(d))?))).collect();
        let shortest = days.iter().map(|(_, [from, to])| to - from).min().unwrap_or(PART);
        let less = |(d, [from, to]): (u32, Window)| {
            [from, to.saturating_sub(bound.reserved.get(&(n, d)).copied().unwrap_or_default())]
        };
        let works = days.into_iter().map(less).filter(|[from, to]| from < to).collect();
        let trades = c.trades.iter().map(|t| word(*t)).collect();
        (Crew { name: c.name.clone(), trades, works }, shortest)
    };
    asked.site.crews.iter().enumerate().map(one).unzip()
}

/// Openings as places, behind them each wall, and where there are several all of them together: nobody works at one while something is hung round
/// its corner.
fn places(plan: &Plan) -> Vec<WorkPlace> {
    let one = |(i, o): (usize, &Opening)| {
        // One above the other nobody works at the same time.
        let above =
            |j: &usize| *j != i && o.rect.u0 < plan.openings[*j].rect.u1 && plan.openings[*j].rect.u0 < o.rect.u1;
        WorkPlace { name: o.id.clone(), apart: (0..plan.openings.len()).filter(above).collect() }
    };
    let mut out: Vec<WorkPlace> = plan.openings.iter().enumerate().map(one).collect();
    let walls = out.len()..out.len() + plan.walls.corners.len() + 1;
    if walls.len() == 1 {
        out.push(WorkPlace { name: "walls".into(), apart: Vec::new() });
        return out;
    }
    out.extend((1..=walls.len()).map(|w| WorkPlace { name: format!("wall {w}"), apart: Vec::new() }));
    out.push(WorkPlace { name: "walls".into(), apart: walls.collect() });
    out
}

/// Which walls a step of the walls is done at: those on which it lays something; all of them where that is not told.
fn walls_of(plan: &Plan, here: &[Rect]) -> Vec<usize> {
    let starts: Vec<Length> = std::iter::once(Length::ZERO).chain(plan.walls.corners.iter().map(|c| c.at)).collect();
    let ends = starts.iter().skip(1).copied().chain([plan.surfaces[SurfaceId::WALL].facet.width]);
    let at = |(from, to): (&Length, Length)| here.iter().any(|r| r.u0 < to && *from < r.u1);
    let found: Vec<usize> = starts.iter().zip(ends).enumerate().filter(|(_, wall)| at(*wall)).map(|(w, _)| w).collect();
    if found.is_empty() { (0..starts.len()).collect() } else { found }
}

/// The wall that a step of the walls is done at, where it is one of several.
fn wall_of(plan: &Plan, step: &Step, s: StepId) -> Option<usize> {
    if step.opening.is_some() || plan.walls.corners.is_empty() {
        return None;
    }
    match walls_of(plan, &placed(plan, s)).as_slice() {
        [wall] => Some(*wall),
        _ => None,
    }
}

/// Where a step is done.
enum Site {
    Opening(usize),
    /// At these walls themselves.
    Walls(Vec<usize>),
}

impl Site {
    /// Its number among the [`places`].
    fn place(&self, plan: &Plan) -> usize {
        let first = plan.openings.len();
        match self {
            Self::Opening(o) => *o,
            Self::Walls(at) if at.len() == 1 => first + at[0],
            Self::Walls(_) => first + plan.walls.corners.len() + 1,
        }
    }
}

/// Tasks as they are put together in the order of work.
#[derive(Default)]
struct Tasks {
    tasks: Vec<Task>,
    parts: Vec<TaskPart>,
    /// The last task of each step, at each opening, and of what is done at each wall itself.
    of_step: HashMap<StepId, usize>,
    at_opening: HashMap<usize, usize>,
    at_wall: HashMap<usize, usize>,
    /// Tasks of the walls: at which, and where they lay something.
    of_walls: Vec<(usize, Vec<usize>, Vec<Rect>)>,
}

impl Tasks {
    /// What a step has to wait for: what was done there before, and what lies where this is laid, whoever does it. Work at one wall goes one after
    /// another, so that the last of it stands for all of that wall; an opening near a corner waits for the last of each wall it reaches.
    fn before(&self, plan: &Plan, at: &Site, here: &[Rect]) -> Vec<After> {
        let mut out: Vec<usize> = match at {
            Site::Walls(walls) => {
                let met = |o: &usize| here.iter().any(|h| h.overlaps(plan.openings[*o].hull));
                let of_walls = walls.iter().filter_map(|w| self.at_wall.get(w));
                of_walls
                    .chain((0..plan.openings.len()).filter(met).filter_map(|o| self.at_opening.get(&o)))
                    .copied()
                    .collect()
            }
            Site::Opening(o) => {
                let hull = plan.openings[*o].hull;
                let mut last_of: HashMap<usize, usize> = HashMap::new();
                for (task, walls, rects) in &self.of_walls {
                    if rects.iter().any(|r| r.overlaps(hull)) {
                        last_of.extend(walls.iter().map(|w| (*w, *task)));
                    }
                }
                self.at_opening.get(o).into_iter().chain(last_of.values()).copied().collect()
            }
        };
        out.sort_unstable();
        out.dedup();
        out.into_iter().map(|task| After { task, minutes: 0 }).collect()
    }

    /// Adds a step in as many parts as it takes, each of which follows the one before.
    fn add(&mut self, (s, step): (StepId, &Step), task: &Task, because: &str, all: u32, many: u32) {
        for n in 0..many {
            let id = if many == 1 { step.id.clone() } else { format!("{} {}", step.id, n + 1) };
            let minutes = all / many + u32::from(n < all % many);
            let after = match n {
                0 => task.after.clone(),
                _ => vec![After { task: self.tasks.len() - 1, minutes: 0 }],
            };
            self.tasks.push(Task { id, minutes, after, ..task.clone() });
            self.parts.push(TaskPart { step: s, because: because.to_owned() });
        }
    }
}

/// Not before when a step is done, by when where it is pinned, and why: what has to come, who has to have been there, what was pinned.
fn bound(site: &SiteSpec, first: i64, step: &Step, comes: u32) -> (u32, Option<u32>, String) {
    let day = |text: &str| day_number(text).map(|d| u32::try_from((d - first).max(0)).unwrap_or(0));
    let (mut earliest, mut because) = (comes, String::new());
    if comes > 0 {
        because = format!("Comes on {}.", minute_said(comes, first));
    }
    for v in &site.visits {
        let waits = step.phase >= v.before && v.place.as_ref().is_none_or(|p| step.opening.as_ref() == Some(p));
        let after = day(&v.on).map_or(0, |d| (d + 1) * 1440);
        if waits && after > earliest {
            (earliest, because) = (after, format!("Waits for {}, on {}.", v.name, v.on));
        }
    }
    let pinned = site.pins.iter().find(|p| p.step == step.id).and_then(|p| day(&p.on));
    if let Some(d) = pinned.filter(|d| d * 1440 >= earliest) {
        (earliest, because) = (d * 1440, format!("Pinned to {}.", crate::date::day_text(first + i64::from(d))));
    }
    let pinned = pinned.map(|d| (d + 1) * 1440);
    (earliest, pinned.into_iter().chain(latest(site, step)).min(), because)
}

/// What was agreed on, task by task; a crew that is gone has agreed on nothing.
fn agreed(of: &Instance, site: &SiteSpec) -> Vec<Agreed> {
    let Some(kept) = &site.kept else { return Vec::new() };
    let days = day_number(&kept.from).unwrap_or_default() - day_number(&site.from).unwrap_or_default();
    let one = |t: &Task| {
        let [crew, from] = *kept.tasks.get(&t.id)?;
        let name = kept.crews.get(crew as usize)?;
        let crew = of.crews.iter().position(|c| c.name == *name)?;
        let from = u32::try_from(i64::from(from) + days * 1440).ok()?;
        of.crews[crew].trades.contains(&t.trade).then_some(LaidTask { from, to: from + t.minutes, crew })
    };
    of.tasks.iter().map(one).collect()
}

/// The minute by which everything that a step takes is there: the products that it places, and the unit that it sets.
fn comes_by(plan: &Plan, step: &Step, comes: &dyn Fn(&str) -> u32) -> u32 {
    let pieces = step.actions.iter().filter_map(|a| a.act.placed());
    let products = pieces.map(|p| comes(&plan.pieces[p].product)).max().unwrap_or(0);
    let sets = step.actions.iter().any(|a| matches!(a.act, Act::Set { .. }));
    let unit = step.opening.as_deref().filter(|_| sets).map_or(0, comes);
    products.max(unit)
}

/// True for what closes the walls themselves: courses, panels and coats, with their joints and the strips where barriers meet.
fn closes_walls(step: &Step) -> bool {
    step.opening.is_none() && step.phase.trade() == Trade::Barrier
}

/// When a step may be done, with why: no sooner than what it places can be covered before its days in the open are over.
fn not_too_soon(
    builder: &GroundBuilder,
    step: StepId,
    (earliest, latest, because): (u32, Option<u32>, String),
) -> (u32, Option<u32>, String) {
    match builder.bound.not_before.get(&step).filter(|b| b.from > earliest) {
        Some(NotBefore { from, product, days }) => {
            (*from, latest, format!("No sooner, so that {product} is not out for longer than its {days} days."))
        }
        None => (earliest, latest, because),
    }
}

/// The instance of a plan, and which step each task is of.
///
/// # Errors
/// What of the site cannot be, or what no crew does.
fn instance(builder: &mut GroundBuilder) -> Result<(Instance, Vec<TaskPart>), Vec<Problem>> {
    let CalendarQuestion { plan, site, states, .. } = *builder.asked;
    let problems = site.problems("$.site");
    if !problems.is_empty() {
        return Err(problems);
    }
    let first = day_number(&site.from).unwrap_or_default();
    let over = |s: &&StepState| !matches!(s.now, StepNow::Open | StepNow::InHand);
    let over: HashSet<&str> = states.iter().filter(over).map(|s| s.step.as_str()).collect();
    let minutes = step_minutes(plan);
    let cures = cure_waits(plan).map_err(|m| vec![Problem::new("$", m)])?;
    let comes = |what: &str| {
        let days = site.deliveries.iter().filter(|d| d.what == what).filter_map(|d| day_number(&d.on));
        days.map(|d| u32::try_from((d - first).max(0)).unwrap_or(0) * 1440).max().unwrap_or(0)
    };
    let stopped = stopped(plan, states);
    let number: HashMap<&str, usize> = plan.openings.iter().enumerate().map(|(i, o)| (o.id.as_str(), i)).collect();
    let (crews, shortest) = crews(builder.asked, builder.bound);
    let mut all = Tasks::default();
    for &s in &plan.order {
        let step = &plan.steps[s];
        let opening = step.opening.as_deref();
        // A unit that came damaged is not set before another is there.
        let waits = opening.filter(|o| stopped.contains(*o)).map(comes);
        if plan.is_removed(&step.id) || over.contains(step.id.as_str()) || minutes[s] <= 0.0 || waits == Some(0) {
            continue;
        }
        let trade = step.phase.trade();
        let able = || site.crews.iter().zip(&shortest).filter(|(c, _)| c.trades.contains(&trade));
        let Some(people) = able().map(|(c, _)| c.people).min() else {
            let message = format!("nobody does {}: \"{}\" needs a crew that does", word(trade), step.title);
            return Err(vec![Problem::new("$.site.crews", message)]);
        };
        // A part fits into the shortest day of those who do it.
        let day = able().map(|(_, day)| *day).min().unwrap_or(PART);
        let takes = (minutes[s] / f64::from(people)).ceil().max(1.0) as u32;
        let here = placed(plan, s);
        let at = match opening.and_then(|id| number.get(id)) {
            Some(o) => Site::Opening(*o),
            None => Site::Walls(walls_of(plan, &here)),
        };
        let mut after = all.before(plan, &at, &here);
        after.extend(cures.iter().filter(|w| w.step == s).filter_map(|w| {
            let minutes = (w.hours * 60.0).round() as u32;
            all.of_step.get(&w.after).map(|t| After { task: *t, minutes })
        }));
        let comes = comes_by(plan, step, &comes).max(waits.unwrap_or(0));
        let (earliest, latest, because) = not_too_soon(builder, s, bound(site, first, step, comes));
        let latest = latest.into_iter().chain(builder.bound.hung_by.filter(|_| closes_walls(step))).min();
        let task = Task {
            trade: word(trade),
            place: Some(at.place(plan)),
            after,
            earliest,
            latest,
            open: builder.open(s),
            ..Task::default()
        };
        all.add((s, step), &task, &because, takes, takes.div_ceil(PART.min(day.max(LEAST_PART))));
        let last = all.tasks.len() - 1;
        all.of_step.insert(s, last);
        match at {
            Site::Opening(o) => drop(all.at_opening.insert(o, last)),
            Site::Walls(walls) => {
                all.at_wall.extend(walls.iter().map(|w| (*w, last)));
                all.of_walls.push((last, walls, here));
            }
        }
    }
    let Tasks { tasks, parts, .. } = all;
    let of = Instance { format: "kame-days".into(), version: 1, crews, places: places(plan), tasks };
    Ok((of, parts))
}

/// The instance of a plan on its calendar, for other solvers.
///
/// # Errors
/// As [`book`].
pub fn instance_of(asked: &CalendarQuestion) -> Result<Instance, Vec<Problem>> {
    Ok(instance(&mut GroundBuilder::new(asked, &Bound::default()))?.0)
}

/// Lays a plan on the calendar, with its nights.
///
/// # Errors
/// What of the site cannot be; what no crew does, or finds no time for, with what to do; what cannot be answered of a night.
pub fn book(asked: &CalendarQuestion, known: &KnownNights, stop: &Stop) -> Result<Booking, Vec<Problem>> {
    with_nights(asked, lay(asked, Effort::Full, stop)?, known, stop)
}

/// How often a calendar is laid again because of what the one before has shown.
const ROUNDS: usize = 3;

/// A calendar with every night of it, and with who covers what and when. Where that would be beyond a crew's hours, it is laid again with the
/// minutes kept free at the end of those days, near to what it was, as long as fewer minutes are beyond hours then.
///
/// # Errors
/// What cannot be laid; what cannot be answered of a night.
pub fn with_nights(
    asked: &CalendarQuestion,
    mut booking: Booking,
    known: &KnownNights,
    stop: &Stop,
) -> Result<Booking, Vec<Problem>> {
    add_nights(asked, &mut booking, known)?;
    let booking = within_hours(asked, booking, known, stop)?;
    let mut booking = before_rain(asked, booking, known, stop)?;
    booking.warns.extend(overtime_said(asked, &booking.tasks));
    booking.warns.extend(super::nights::overtime(asked, &booking.nights));
    let longer = Bound { longer_before: booking.laid_by.longer_before, ..Bound::default() };
    let by_another = |site: &SiteSpec| {
        let asked = CalendarQuestion { site, ..*asked };
        Some(lay_once(&asked, &longer, None, Effort::Quick, stop).ok()?.tasks)
    };
    booking.warns.extend(would_meet(asked, &booking.tasks, &by_another));
    Ok(booking)
}

/// A calendar laid again with minutes kept free at the end of days on which covering would be beyond a crew's hours, as long as fewer are.
fn within_hours(
    asked: &CalendarQuestion,
    mut booking: Booking,
    known: &KnownNights,
    stop: &Stop,
) -> Result<Booking, Vec<Problem>> {
    let mut bound = booking.laid_by.clone();
    for _ in 0..ROUNDS {
        let beyond = beyond_hours(asked, &booking.nights);
        if beyond.is_empty() {
            break;
        }
        for b in &beyond {
            let most = bound.reserved.entry((b.crew, b.day)).or_default();
            *most = (*most).max(b.takes);
        }
        let Ok(mut next) = lay_once(asked, &bound, Some(&booking), Effort::Quick, stop) else { break };
        add_nights(asked, &mut next, known)?;
        // What would then be in the open for too long weighs more than covers after hours.
        let minutes = |all: &[super::nights::Beyond]| all.iter().map(|b| b.over).sum::<u32>();
        let after = minutes(&beyond_hours(asked, &next.nights));
        if past_its_days(&next) > past_its_days(&booking) || after >= minutes(&beyond) {
            break;
        }
        booking = next;
    }
    Ok(booking)
}

/// A calendar with fewer rainy nights on which the wall is bare: the barrier is hung by the evening of one of them, the first on which that can be done.
/// A wall that is not bare can be taped or covered for a night, so that no other order has to be sought for it. That comes after what is in the
/// open for too long or late for its day, and before when all is done.
fn before_rain(
    asked: &CalendarQuestion,
    booking: Booking,
    known: &KnownNights,
    stop: &Stop,
) -> Result<Booking, Vec<Problem>> {
    let badness = |b: &Booking| (past_its_days(b), missed_by(asked, &b.tasks), bare_in_rain(&b.nights).count());
    for day in bare_in_rain(&booking.nights).take(ROUNDS) {
        let bound = Bound { hung_by: Some(evening(day)), ..booking.laid_by.clone() };
        let hung = |effort| {
            let next = lay_once(asked, &bound, None, effort, stop).ok()?;
            (next.proof.late <= booking.proof.late).then_some(next)
        };
        let Some(quick) = hung(Effort::Quick) else { continue };
        let mut next = hung(Effort::Full).unwrap_or(quick);
        add_nights(asked, &mut next, known)?;
        let next = within_hours(asked, next, known, stop)?;
        if badness(&next) < badness(&booking) {
            return Ok(next);
        }
    }
    Ok(booking)
}

fn add_nights(asked: &CalendarQuestion, booking: &mut Booking, known: &KnownNights) -> Result<(), Vec<Problem>> {
    booking.nights = each_night(asked, &booking.tasks, known)?;
    let covers = booking.nights.iter().filter_map(|n| n.covers).map(|c| (c.crew, c.from, c.to));
    booking.hours = hours_of(asked, &booking.tasks, covers);
    Ok(())
}

/// Lays a plan on the calendar, without its nights. Where work is late for a day by which it is asked, or something would be in the open for
/// longer than it may, crews stay longer as far as they may: on as few of the first days as makes it as good as it can be.
///
/// # Errors
/// As [`book`].
pub fn lay(asked: &CalendarQuestion, effort: Effort, stop: &Stop) -> Result<Booking, Vec<Problem>> {
    let usual = lay_hung(asked, 0, effort, stop)?;
    let badness = |b: &Booking| (past_its_days(b), missed_by(asked, &b.tasks));
    if badness(&usual) == (0, 0) || asked.site.crews.iter().all(|c| overtime_of(c) == 0) {
        return Ok(usual);
    }
    let last = usual.proof.finish.div_ceil(1440).max(1);
    let all = lay_hung(asked, last, effort, stop)?;
    let best = badness(&all);
    if best >= badness(&usual) {
        return Ok(usual);
    }
    // As good with so few days: halved until one is left.
    let (mut few, mut enough, mut booking) = (0, last, all);
    while enough - few > 1 {
        let middle = u32::midpoint(few, enough);
        let next = lay_hung(asked, middle, Effort::Quick, stop)?;
        if badness(&next) <= best {
            (enough, booking) = (middle, next);
        } else {
            few = middle;
        }
    }
    Ok(booking)
}

/// Lays a plan whose crews stay longer on days before one. What would be in the open for longer than it may is hung later, as long as it is out
/// for a shorter time then.
fn lay_hung(
    asked: &CalendarQuestion,
    longer_before: u32,
    effort: Effort,
    stop: &Stop,
) -> Result<Booking, Vec<Problem>> {
    let mut bound = Bound { longer_before, ..Bound::default() };
    let mut booking = lay_once(asked, &bound, None, effort, stop)?;
    for _ in 0..ROUNDS {
        let later = hung_later(&booking);
        if later.is_empty() {
            break;
        }
        bound.not_before.extend(later);
        let next = lay_once(asked, &bound, None, effort, stop)?;
        if past_its_days(&next) >= past_its_days(&booking) {
            break;
        }
        booking = next;
    }
    Ok(booking)
}

/// Minutes that what is hung would be in the open beyond its days, all of it together.
fn past_its_days(booking: &Booking) -> i64 {
    booking.burning.iter().map(|b| (b.fuse.until - b.fuse.limit).max(0)).sum()
}

/// Steps that would hang something for too long in the open and are not done yet, each with the minute before which it should not be.
fn hung_later(booking: &Booking) -> HashMap<StepId, NotBefore> {
    let over = booking.burning.iter().filter(|b| b.fuse.over && b.fuse.from >= 0);
    let later = over.filter_map(|b| {
        let f = &b.fuse;
        let days_over = (f.until - f.limit + 1439) / 1440;
        let from = u32::try_from(f.from / 1440 + days_over).ok()? * 1440;
        Some((b.step, NotBefore { from, product: f.product.clone(), days: f.days() }))
    });
    let mut out: HashMap<StepId, NotBefore> = HashMap::new();
    for (step, not_before) in later {
        let known = out.entry(step).or_insert_with(|| not_before.clone());
        if known.from < not_before.from {
            *known = not_before;
        }
    }
    out
}

/// A calendar as something to stay near to, task by task. Parts of a step follow each other in their order.
fn as_laid(of: &Instance, parts: &[TaskPart], plan: &Plan, booking: &Booking) -> Vec<Agreed> {
    let mut laid: HashMap<&str, VecDeque<&Booked>> = HashMap::new();
    for t in &booking.tasks {
        laid.entry(t.step.as_str()).or_default().push_back(t);
    }
    let mut next = |part: &TaskPart| laid.get_mut(plan.steps[part.step].id.as_str())?.pop_front();
    let one = |(_, part): (&Task, &TaskPart)| next(part).map(|t| LaidTask { from: t.from, to: t.to, crew: t.crew });
    of.tasks.iter().zip(parts).map(one).collect()
}

/// Lays a plan once: near to a calendar where one is given, else near to what was agreed on.
fn lay_once(
    asked: &CalendarQuestion,
    bound: &Bound,
    near: Option<&Booking>,
    effort: Effort,
    stop: &Stop,
) -> Result<Booking, Vec<Problem>> {
    let mut builder = GroundBuilder::new(asked, bound);
    let (of, parts) = instance(&mut builder)?;
    let wrong = of.problems();
    if !wrong.is_empty() {
        return Err(wrong);
    }
    let agreed = agreed(&of, asked.site);
    let stays = near.map(|booking| as_laid(&of, &parts, asked.plan, booking));
    let calendar = solve_near(&of, stays.as_ref().unwrap_or(&agreed), effort, stop).map_err(|e| {
        let step = &asked.plan.steps[parts[e.task].step];
        let at = step.opening.as_deref().unwrap_or("the walls");
        let message = format!(
            "\"{}\" at {at} finds no {} min in a row in {HORIZON} days in which a crew works and it may be done: another season, longer days, or a product that bears more cold",
            step.title, e.minutes
        );
        vec![Problem::new("$.site", message)]
    })?;
    let mut tasks: Vec<Booked> = (0..of.tasks.len())
        .map(|i| {
            let step = &asked.plan.steps[parts[i].step];
            let l = calendar.laid[i];
            let (why, waits) = why(&of, &calendar, &parts, &builder, i);
            Booked {
                step: step.id.clone(),
                title: step.title.clone(),
                place: step.opening.clone().unwrap_or_default(),
                wall: wall_of(asked.plan, step, parts[i].step),
                trade: step.phase.trade(),
                crew: l.crew,
                from: l.from,
                to: l.to,
                why,
                waits,
            }
        })
        .collect();
    tasks.sort_by_key(|t| (t.from, t.crew));
    let moved = moved(&of, &agreed, &calendar, &parts, &builder);
    let burning = burning(asked, &exposed(asked.plan), &tasks, calendar.proof.finish);
    let fuses = fuses(&burning);
    let mut warns = warns(asked, &tasks);
    warns.extend(told(asked, &fuses));
    let mut booking = Booking {
        says: String::new(),
        from: asked.site.from.clone(),
        crews: of.crews.into_iter().map(|c| c.name).collect(),
        tasks,
        moved,
        kept: asked.site.kept.is_some(),
        proof: calendar.proof,
        nights: Vec::new(),
        warns,
        fuses,
        hours: Vec::new(),
        forecast: forecast(asked, calendar.proof.finish),
        changed: changed(asked),
        surfaces: builder.surfaces,
        laid_by: bound.clone(),
        burning,
    };
    booking.says = booking.says();
    booking.hours = hours_of(asked, &booking.tasks, std::iter::empty());
    Ok(booking)
}

impl Booking {
    /// The same in lines for people at a terminal.
    pub fn in_words(&self) -> String {
        let first = day_number(&self.from).unwrap_or_default();
        let mut out = format!("{}\n", self.says());
        for t in &self.tasks {
            let place = if t.place.is_empty() { "walls" } else { &t.place };
            out += &format!(
                "{} to {}:{:02}  {}  {place}: {}. {}\n",
                minute_said(t.from, first),
                t.to % 1440 / 60,
                t.to % 60,
                self.crews[t.crew],
                t.title,
                t.why
            );
        }
        for e in self.nights.iter().filter(|e| e.state != NightState::Dry) {
            out += &format!("{} night: {}\n", minute_said(e.day * 1440, first), e.why);
            out.extend(e.put.iter().map(|p| format!("    {p}\n")));
            if let Some(c) = &e.covers {
                let crew = &self.crews[c.crew];
                out += &format!(
                    "    by {crew}, {} to {}:{:02}\n",
                    minute_said(c.from, first),
                    c.to % 1440 / 60,
                    c.to % 60
                );
            }
        }
        let of = |h: &CrewHours| match h.covering_says.as_str() {
            "" => format!("{}\n", h.says),
            covers => format!("{}; {covers}\n", h.says),
        };
        out.extend(self.hours.iter().map(of));
        out.extend(self.warns.iter().map(|w| format!("{w}\n")));
        out
    }

    /// When it is done, and how good that is known to be.
    pub fn says(&self) -> String {
        let first = day_number(&self.from).unwrap_or_default();
        let Proof { finish, bound, best, .. } = self.proof;
        let done = if self.tasks.is_empty() {
            "Nothing is left to do".to_owned()
        } else {
            format!("Done {}", minute_said(finish, first))
        };
        let days = |minute: u32| minute.div_ceil(1440);
        if best {
            format!("{done}: proved best.")
        } else if days(finish) == days(bound) {
            format!("{done}: on the earliest day there can be.")
        } else {
            let bound_said = minute_said(bound, first);
            match (100 * u64::from(finish - bound)).div_ceil(u64::from(bound.max(1))) {
                share @ ..=WITHIN => format!("{done}, within {share} % of the best: nothing ends before {bound_said}."),
                _ => {
                    format!("{done}, the best of {} orders tried: nothing ends before {bound_said}.", self.proof.tried)
                }
            }
        }
    }
}
