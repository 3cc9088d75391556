//! What a calendar of a plan is laid by: who works when, in which weather, what is done; what each step asks of the hour, and the steps once they stand
//! on it.

use super::instance::Window;
use super::weather::{Hour, conditions, sun, surface_f};
use crate::job::{Job, SiteSpec};
use crate::plan::{Plan, SurfaceId};
use crate::profile::fig;
use crate::recipe::checks::check_at;
use crate::record::{Go, StepState, go_of};
use crate::surface::Rect;
use crate::trade::{Act, StepId, Trade};
use serde::Serialize;
use std::collections::{HashMap, HashSet};

/// How far ahead the calendar reaches, in days.
pub(super) const HORIZON: i64 = 240;

/// A step, or a part of one, on the calendar.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Booked {
    /// Id of the step.
    pub step: String,
    /// Its title.
    pub title: String,
    /// Id of the opening; empty for the walls.
    pub place: String,
    /// On which wall, from 0 at the left, where it is done at one wall itself; `null` at an opening, and round corners.
    pub wall: Option<usize>,
    /// Whose work it is.
    pub trade: Trade,
    /// Index of the crew.
    pub crew: usize,
    /// From when, minutes since midnight of the first day.
    pub from: u32,
    /// Until when.
    pub to: u32,
    /// Why not sooner.
    pub why: String,
    /// True where something has to cure before.
    pub waits: bool,
}

/// Where each wall looks, degrees from north by east.
fn facings(plan: &Plan, first: f64) -> Vec<f64> {
    let heading = |w: &crate::plan::WallFromAbove| {
        let run = |a: crate::length::Length, b: crate::length::Length| (b - a).to_inches_f64();
        run(w.from.1, w.to.1).atan2(run(w.from.0, w.to.0)).to_degrees()
    };
    let at = plan.walls.footprint.first().map_or(0.0, heading);
    // Seen from outside walls run to the right: turned by the same as its run, but the other way round the compass.
    plan.walls.footprint.iter().map(|w| (first - (heading(w) - at)).rem_euclid(360.0)).collect()
}

/// Everything that is asked about a plan on the calendar.
#[derive(Clone, Copy)]
pub struct CalendarQuestion<'a> {
    /// The plan.
    pub plan: &'a Plan,
    /// Who works, when.
    pub site: &'a SiteSpec,
    /// Hours of weather from midnight of the first day; none where it is not known.
    pub hours: &'a [Hour],
    /// What is done, by the record.
    pub states: &'a [StepState],
}

/// Who works on a job, as it says; where nobody said, one crew of as many as the figures say, for as many hours a day.
pub fn site_of(job: &Job, plan: &Plan, from: &str) -> SiteSpec {
    job.site.clone().unwrap_or_else(|| {
        let mut site = SiteSpec::usual(from);
        let hours = plan.basis.figures.number(fig::DAY_HOURS);
        for crew in &mut site.crews {
            crew.people = plan.basis.figures.number(fig::CREW).round() as u32;
            crew.hours[1] = (crew.hours[0] + hours).min(24.0);
        }
        site
    })
}

/// A part of a step as a task.
pub(super) struct TaskPart {
    pub(super) step: StepId,
    /// Why not before its earliest minute.
    pub(super) because: String,
}

/// Openings at which nothing that follows is done: a check that stops all else is not as it should be.
pub(super) fn stopped(plan: &Plan, states: &[StepState]) -> HashSet<String> {
    let stops = |id: &String| check_at(id).is_ok_and(|c| c.stops);
    let bad: HashSet<&str> =
        states.iter().filter(|s| s.bad.iter().chain(&s.mended).any(stops)).map(|s| s.step.as_str()).collect();
    plan.steps.iter().filter(|s| bad.contains(s.id.as_str())).filter_map(|s| s.opening.clone()).collect()
}

/// The minute before which a step does not hang what may be in the open for so many days only.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct NotBefore {
    pub(super) from: u32,
    pub(super) product: String,
    pub(super) days: i64,
}

/// What a calendar that was laid before asks of the next one.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Bound {
    /// Minutes at the end of a crew's day that belong to covering the wall for the night, by crew and day.
    pub(super) reserved: HashMap<(usize, u32), u32>,
    /// Steps that hang something no sooner than at a minute, so that its days in the open last until it can be covered.
    pub(super) not_before: HashMap<StepId, NotBefore>,
    /// What closes the walls themselves is done by this minute, so that rain of that night finds none bare.
    pub(super) hung_by: Option<u32>,
    /// Crews stay longer on days before this one, as long as they may.
    pub(super) longer_before: u32,
}

pub(super) struct GroundBuilder<'a> {
    pub(super) asked: &'a CalendarQuestion<'a>,
    pub(super) bound: &'a Bound,
    facings: Vec<f64>,
    pub(super) surfaces: Vec<Vec<f64>>,
    suns: Vec<Option<(f64, f64)>>,
    /// Hours in which steps that ask the same may be done, by what they ask and the wall.
    open: HashMap<(usize, Vec<String>), Vec<Window>>,
}

impl<'a> GroundBuilder<'a> {
    pub(super) fn new(asked: &'a CalendarQuestion<'a>, bound: &'a Bound) -> Self {
        let facings = facings(asked.plan, asked.site.stands.facing);
        let suns: Vec<_> =
            asked.hours.iter().map(|h| sun(&asked.site.from, h.minute + 30, &asked.site.stands)).collect();
        let surface = |f: &f64| asked.hours.iter().zip(&suns).map(|(h, s)| surface_f(h, *s, *f)).collect();
        let surfaces = facings.iter().map(surface).collect();
        Self { asked, bound, facings, surfaces, suns, open: HashMap::new() }
    }

    /// On which wall a step is.
    pub(super) fn wall(&self, step: StepId) -> usize {
        let plan = self.asked.plan;
        let opening = plan.steps[step].opening.as_ref().and_then(|id| plan.openings.iter().find(|o| o.id == *id));
        let at = opening.map(|o| o.rect.u0).or_else(|| placed(plan, step).first().map(|r| r.u0));
        at.and_then(|u| plan.walls.footprint.iter().rposition(|w| w.along.0 <= u)).unwrap_or(0)
    }

    /// What a step asks of weather: the products that it sticks, coats, seals or hangs.
    fn asks(&self, step: StepId) -> Vec<String> {
        let plan = self.asked.plan;
        let mut out: Vec<String> = plan.steps[step]
            .actions
            .iter()
            .filter_map(|a| match a.act {
                Act::Press { piece } | Act::Coat { piece, .. } => {
                    Some(format!("{:?} {}", std::mem::discriminant(&a.act), plan.pieces[piece].product))
                }
                Act::Place { piece, .. } if plan.pieces[piece].role.is_barrier() => {
                    Some(format!("hung {}", plan.pieces[piece].product))
                }
                Act::Seal { seal } => Some(format!("sealed {}", plan.seals[seal].product)),
                _ => None,
            })
            .collect();
        out.sort();
        out.dedup();
        out
    }

    /// Whether a step may be done in an hour, with the reasons; hours are numbered from the first day's midnight.
    pub(super) fn says(&self, step: StepId, wall: usize, hour: usize) -> Option<(Go, String)> {
        let sunny = self.suns[hour]
            .is_some_and(|(up, round)| up > 0.0 && (round - self.facings[wall]).to_radians().cos() > 0.0)
            && self.asked.hours[hour].direct_wm2 > 120.0;
        let now = conditions(self.asked.hours, hour, self.surfaces[wall][hour], sunny);
        let answer = go_of(self.asked.plan, &self.asked.plan.steps[step].id, &now)?;
        Some((answer.go, answer.says.into_iter().next().unwrap_or_default()))
    }

    /// Hours in which a step may be done; any where nothing is asked or no weather is known.
    pub(super) fn open(&mut self, step: StepId) -> Option<Vec<Window>> {
        let asks = self.asks(step);
        if asks.is_empty() || self.asked.hours.is_empty() {
            return None;
        }
        let wall = self.wall(step);
        if let Some(known) = self.open.get(&(wall, asks.clone())) {
            return Some(known.clone());
        }
        let mut out: Vec<Window> = Vec::new();
        let horizon = HORIZON as u32 * 1440;
        for (n, h) in self.asked.hours.iter().enumerate().take_while(|(_, h)| h.minute < horizon) {
            if self.says(step, wall, n).is_none_or(|(go, _)| go == Go::Go) {
                match out.last_mut() {
                    Some(last) if last[1] == h.minute => last[1] = h.minute + 60,
                    _ => out.push([h.minute, h.minute + 60]),
                }
            }
        }
        // What comes behind the last hour that is known is not forbidden.
        if let Some(end) = self.asked.hours.last().map(|h| h.minute + 60).filter(|end| *end < horizon) {
            match out.last_mut() {
                Some(last) if last[1] == end => last[1] = horizon,
                _ => out.push([end, horizon]),
            }
        }
        self.open.insert((wall, asks), out.clone());
        Some(out)
    }
}

/// Where a step lays something on the walls.
pub(super) fn placed(plan: &Plan, step: StepId) -> Vec<Rect> {
    let pieces = plan.steps[step].actions.iter().filter_map(|a| a.act.placed());
    pieces.flat_map(|p| &plan.pieces[p].regions).filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r).collect()
}
