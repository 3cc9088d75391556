//! The demo's record: the bunkhouse's west wall half built on a windy day by two people, made up, with photographs that Kame draws itself.

use kame_core::checks::{Check, checks_of};
use kame_core::job::Job;
use kame_core::plan::Plan;
use kame_core::recipe::checks::{Eyes, Judged, Quantity};
use kame_core::record::{Entry, Event, SeenWater, TestKind, WaterDid, What, as_built, judge, seal};
use kame_core::trade::{Step, StepId};
use kame_core::view::{Ask, Known, view_plan};
use kame_formats::{Drawing, Shot, jpeg};
use kame_store::hash_of;

const ADA: &str = "Ada Quill";
const BO: &str = "Bo Marsh";
/// The opening whose unit came damaged.
const DAMAGED: &str = "W3";
/// The piece that did not go on flat.
const FAILED: &str = "W2/jambs";
/// The last step that somebody has had in hand.
const LAST: &str = "W3/dry-fit";
/// When it began, minutes of the day, and how long a thing takes.
const BEGAN: usize = 7 * 60 + 5;
const EACH: usize = 2;

/// A record as it grows.
struct Writer {
    entries: Vec<Entry>,
    minute: usize,
}

impl Writer {
    fn time(minute: usize) -> String {
        format!("2026-03-{:02}T{:02}:{:02}", 10 + minute / 1440, minute / 60 % 24, minute % 60)
    }

    /// Writes something down: when it was said, and how many minutes later it came in.
    fn put(&mut self, who: &str, step: &Step, (what, note): (What, &str), photos: Vec<String>, waits: usize) {
        let n = self.entries.len();
        let said = BEGAN + self.minute;
        self.minute += EACH;
        let event = Event {
            id: format!("019a4f00-{:04x}-7000-8000-{n:012x}", self.minute % 0xffff),
            who: who.into(),
            at: format!("{}:12Z", Self::time(said)),
            place: step.opening.clone().unwrap_or_default(),
            step: step.id.clone(),
            revision: 1,
            what,
            note: note.into(),
            photos,
        };
        let taken = format!("{}:14.000Z", Self::time(said + waits));
        self.entries.push(seal(self.entries.last(), &taken, event));
    }
}

/// What somebody who measures well reads: near what is asked, and not always the same.
fn readings(check: &Check, step: usize) -> Vec<String> {
    let near = [0.0, 0.0625, -0.0625];
    let one = |i: usize| {
        let middle = match (check.quantity, check.judged) {
            (Quantity::Temperature, _) => return 47.0,
            (_, Judged::Within) => check.target.unwrap_or(0.0) / check.times,
            (Quantity::Slope | Quantity::Thickness, _) => return check.target.unwrap_or(0.0) + 1.0,
            (_, Judged::Least) => return check.target.unwrap_or(0.0) + 0.25,
            (_, Judged::Spread) => return 60.0 + near[(i + step) % 2],
            (_, Judged::Bow) => return 34.0,
            _ => 1.5,
        };
        middle + near[(i + step) % near.len()] / check.times.max(1.0)
    };
    (0..check.readings as usize).map(|i| format!("{}", (one(i) * 16.0).round() / 16.0)).collect()
}

/// A record with its photographs, by their hash.
pub struct MadeRecord {
    pub entries: Vec<Entry>,
    pub photos: Vec<(String, Vec<u8>)>,
}

/// Photographs of an opening as it stands: from afar and from near, in the light of the hour.
fn photo(
    job: &Job,
    plan: &Plan,
    entries: &[Entry],
    opening: &str,
    near: [f64; 4],
    light: f32,
) -> Result<Vec<u8>, String> {
    let (order, done) = as_built(plan, &job.sequence, entries);
    let mut today = plan.clone();
    today.put_in_order(&order);
    let view = view_plan(job, &today, &Ask { done: Some(done), ..Ask::default() }, &Known::default())
        .map_err(|p| format!("{p:?}"))?;
    let drawing = Drawing::elevation(&view.elevation, "");
    let [x, y, w, h] =
        view.elevation.openings.iter().find(|o| o.id == opening).map_or([0.0, 0.0, 60.0, 60.0], |o| o.rect);
    let frame = [x + w * near[0], y + h * near[1], w * near[2], h * near[3]];
    jpeg(&drawing, Shot { frame, across: 640, light })
}

/// Around an opening, and at its lower left corner: left, top, width and height in parts of its own.
const AROUND: [f64; 4] = [-0.4, -0.3, 1.8, 1.6];
const CORNER: [f64; 4] = [-0.3, 0.6, 0.7, 0.6];

/// The record while it is made.
struct Making<'a> {
    job: &'a Job,
    plan: &'a Plan,
    checks: Vec<Check>,
    w: Writer,
    photos: Vec<(String, Vec<u8>)>,
    /// It has been said that a piece did not go on flat.
    failed: bool,
}

impl Making<'_> {
    fn take(&mut self, opening: &str, near: [f64; 4], light: f32) -> Result<Vec<String>, String> {
        let bytes = photo(self.job, self.plan, &self.w.entries, opening, near, light)?;
        let hash = hash_of(&bytes);
        self.photos.push((hash.clone(), bytes));
        Ok(vec![hash])
    }

    /// True once the unit that came damaged was looked at.
    fn is_damaged(&self, place: &str) -> bool {
        let hurt = |e: &Entry| e.event.place == DAMAGED && matches!(e.event.what, What::Looked { good: false, .. });
        place == DAMAGED && self.w.entries.iter().any(hurt)
    }

    /// What somebody writes down of a check; true where the step can be done.
    fn check(&mut self, c: &Check, step: &Step, who: &str, n: usize) -> Result<bool, String> {
        let place = step.opening.as_deref().unwrap_or_default();
        let looks = if c.by == Eyes::Other && who == ADA { BO } else { who };
        let looked = |good| What::Looked { check: c.id.clone(), good };
        match c.quantity {
            Quantity::Lot => {
                let text = match c.check.as_str() {
                    "unit-mark" | "unit-arrived" => format!("HS-{place}-0417"),
                    "unit-parts" => format!("bucket {place}, loft"),
                    _ => format!("L-{:04}", 4000 + n),
                };
                self.w.put(looks, step, (What::Lot { check: c.id.clone(), text }, ""), vec![], 0);
            }
            Quantity::Look if place == DAMAGED && c.check == "unit-whole" => {
                let shot = self.take(place, CORNER, 0.8)?;
                let note = "Lower left corner of the flange is bent, the bead of the glass is open.";
                self.w.put(looks, step, (looked(false), note), shot, 0);
                return Ok(false);
            }
            Quantity::Look if step.id == FAILED && c.check == "pressed" && !self.failed => {
                let shot = self.take(place, CORNER, 0.92)?;
                self.w.put(looks, step, (looked(false), "Fish-mouth at the foot, a finger goes in."), shot, 0);
                self.failed = true;
            }
            Quantity::Look => {
                let shot = if c.photo { self.take(place, AROUND, 1.0)? } else { vec![] };
                self.w.put(looks, step, (looked(true), ""), shot, 0);
            }
            _ => self.reading(c, step, looks, n),
        }
        Ok(true)
    }

    /// Readings of a check. Once somebody reads what is off, and reads it again when it is put right.
    fn reading(&mut self, c: &Check, step: &Step, looks: &str, n: usize) {
        let values = readings(c, n);
        let read = |values: Vec<String>, instrument: &str, good| What::Reading {
            check: c.id.clone(),
            values,
            unit: c.unit.into(),
            instrument: instrument.into(),
            asked: c.asked.clone(),
            good,
        };
        if c.check == "opening-width" && step.opening.as_deref() == Some("W1") {
            let off = values.iter().map(|v| format!("{}", v.parse::<f64>().unwrap_or(0.0) + 0.5)).collect();
            self.w.put(ADA, step, (read(off, "", Some(false)), ""), vec![], 0);
            let mended = What::Mended { check: c.id.clone() };
            self.w.put(ADA, step, (mended, "Right jamb packed out with ripped plywood."), vec![], 0);
        }
        let numbers: Vec<f64> = values.iter().filter_map(|v| v.parse().ok()).collect();
        let good = judge(c, &numbers, None).good;
        let instrument = if c.quantity == Quantity::Temperature { "surface thermometer ST-2" } else { "" };
        self.w.put(looks, step, (read(values, instrument, good), ""), vec![], 0);
    }

    /// A step with its checks, the `n`th of the day.
    fn step(&mut self, step: &Step, n: usize, otherwise: bool) -> Result<(), String> {
        if self.is_damaged(step.opening.as_deref().unwrap_or_default()) {
            return Ok(());
        }
        let who = if n % 5 == 3 { BO } else { ADA };
        let here: Vec<Check> = self.checks.iter().filter(|c| c.step == step.id && !c.removed).cloned().collect();
        let mut whole = true;
        for c in &here {
            whole &= self.check(c, step, who, n)?;
        }
        if whole {
            let done = if otherwise {
                (What::Otherwise, "Header sits 3/8 low: packed with ripped plywood first.")
            } else {
                (What::Done, "")
            };
            self.w.put(who, step, done, vec![], 0);
        }
        Ok(())
    }

    /// Two who were out of reach of each other and do not agree, a drainage test, and a stop for wind.
    fn ends(&mut self) -> Result<(), String> {
        let plan = self.plan;
        let at = |id: &str| plan.steps.iter().find(|s| s.id == id).ok_or_else(|| format!("there is no step {id}"));
        let survey = at("W1/survey")?;
        if let Some(level) = self.checks.iter().find(|c| c.step == survey.id && c.check == "sill-level") {
            let read = |value: &str, good| What::Reading {
                check: level.id.clone(),
                values: vec![value.into()],
                unit: level.unit.into(),
                instrument: String::new(),
                asked: level.asked.clone(),
                good: Some(good),
            };
            self.w.put(ADA, survey, (read("0.0625", true), "Level again after the night."), vec![], 30);
            self.w.put(BO, survey, (read("0.25", false), "Right end is high."), vec![], 45);
        }
        let rows = vec![vec!["2".to_owned(), "1.9".to_owned(), "4".to_owned()]];
        let spot = |x: &str| SeenWater { did: WaterDid::Out, x: x.into(), y: "-0.5".into() };
        let test = What::Test { test: TestKind::Drainage, rows, seen: vec![spot("9"), spot("27.5")] };
        let note = "Poured on the pan: all out over the face, none at the jambs.";
        self.w.put(BO, at("W1/pan")?, (test, note), vec![], 0);
        let shot = self.take("W2", AROUND, 0.7)?;
        let note = "Gusts over 20 mph: no more sheet today. Tape over W2's head for the night.";
        self.w.put(ADA, at(FAILED)?, (What::Stopped, note), shot, 0);
        Ok(())
    }
}

/// The record of a job half built.
///
/// # Errors
/// Where the shipped data were broken; a test keeps it whole.
pub fn made(job: &Job, plan: &Plan) -> Result<MadeRecord, String> {
    let is_last = |s: &StepId| plan.steps[*s].id == LAST;
    let until = plan.order.iter().position(is_last).ok_or_else(|| format!("there is no step {LAST}"))? + 1;
    let w = Writer { entries: Vec::new(), minute: 0 };
    let mut making = Making { job, plan, checks: checks_of(plan)?, w, photos: Vec::new(), failed: false };
    for (n, s) in plan.order[..until].iter().enumerate() {
        making.step(&plan.steps[*s], n, n == until / 3)?;
    }
    making.ends()?;
    Ok(MadeRecord { entries: making.w.entries, photos: making.photos })
}
