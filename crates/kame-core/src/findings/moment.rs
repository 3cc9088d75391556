//! A moment of the work with its water: answered part by part along the wall, so that what did not change need not be answered again.

use super::at_hand::AtHand;
use super::ways::{self, WaysAsked, WaysIn};
use crate::contact::Finished;
use crate::layup::{Glue, Layup};
use crate::length::{Head, Length};
use crate::plan::{Plan, SurfaceId};
use crate::sequence::{LayupMark, Named, Stage, StageLayup, WallWindow, WaterQuestion, Windows};
use crate::stop::{STOPPED, Stop};
use crate::surface::{FacetId, Interval, Patch, Rect};
use crate::trade::PieceId;
use crate::water::{Arrangement, Bounds, Pond, SIDEWAYS_PER_CLIMB, Spread, WaterAnswer, heads_within, run_until};
use lru::LruCache;
use std::num::NonZeroUsize;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

/// Heads above this are not followed, unless a profile asks for more: 12 in of water is about 3 kPa, a wind of 70 m/s (model).
const BEYOND_ANY_WIND: Length = Length::inch(12);

/// Walls are answered in parts about as wide as this: two or three windows.
const PART: Length = Length::inch(96);

/// A wall of so few windows is answered as one.
const WHOLE: usize = 2;

/// Heads are followed as far as this: to what the plan's profile asks of the wall, too.
pub(crate) fn followed(plan: &Plan) -> Length {
    let floors = [false, true].map(|lost| plan.floor(lost));
    floors.into_iter().fold(BEYOND_ANY_WIND, Length::max)
}

/// How far water is followed: in a window that is one stretch of the wall only what can matter to what it answers for.
fn bounds(plan: &Plan, window: Option<&WallWindow>) -> Bounds {
    let core = window.filter(|w| w.beyond.is_none()).map(|w| (FacetId(SurfaceId::WALL.0), w.whole));
    Bounds { head: Some(followed(plan)), core }
}

/// How far along the wall water can get within a head, and a bit.
fn reach(head: Length) -> Length {
    Length::from_units((head.units() as f64 * SIDEWAYS_PER_CLIMB) as i64) + Length::inch(1)
}

/// A layup with its cells and its answer.
#[derive(Debug)]
struct Worked {
    /// Its own, as long as the program runs.
    number: u64,
    layup: Layup,
    bounds: Bounds,
    /// What is reached and what stands. How effort spread is kept apart, with the cells.
    answer: WaterAnswer,
    at_hand: Arc<AtHand>,
    /// What lets the water in, and what was asked about it: kept, because it takes longer to look for than all else that is said of a part.
    ways_in: Mutex<Option<(WaysAsked, Arc<WaysIn>)>>,
    /// What gets wet, by scenario and by the head that was asked.
    wet: Mutex<Vec<KnownWet>>,
}

/// A scenario, the head that was asked, and what gets wet.
type KnownWet = (usize, Length, Arc<Vec<WetPlace>>);

/// Where water gets on a surface of a part.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct WetPlace {
    /// On which facet of the part.
    pub facet: FacetId,
    /// Left, bottom, right, top, in.
    pub rect: [f64; 4],
    /// The least head that brings it there, in.
    pub head: f64,
}

impl Worked {
    fn new(layup: Layup, cells: Arrangement, bounds: Bounds, mut answer: WaterAnswer, at_hand: &Arc<AtHand>) -> Self {
        static NEXT: AtomicU64 = AtomicU64::new(0);
        let number = NEXT.fetch_add(1, Ordering::Relaxed);
        at_hand.keep(number, cells, std::mem::take(&mut answer.spreads));
        answer.reach.retain(|r| r.least.is_some());
        answer.reach.shrink_to_fit();
        let (at_hand, ways_in, wet) = (Arc::clone(at_hand), Mutex::default(), Mutex::default());
        Self { number, layup, bounds, answer, at_hand, ways_in, wet }
    }
}

/// Parts by the mark of their layup and how far heads were followed.
type WorkedParts = LruCache<(LayupMark, Bounds), Arc<Worked>>;

/// Water that was answered already, kept by the mark of the layup it follows from and how far heads were followed: after a change the rest of a wall is known.
///
/// Copies share what they know.
#[derive(Clone, Debug)]
pub struct KnownWater {
    parts: Arc<Mutex<WorkedParts>>,
    at_hand: Arc<AtHand>,
    /// Outlines of windows that were asked about.
    outlines: Arc<Mutex<LruCache<u64, ()>>>,
    stop: Stop,
}

/// How many parts are kept: a building of some hundred openings, and what changed in the last edits.
const KEPT: NonZeroUsize = NonZeroUsize::new(160).unwrap();

impl Default for KnownWater {
    fn default() -> Self {
        Self {
            parts: Arc::new(Mutex::new(LruCache::new(KEPT))),
            at_hand: Arc::default(),
            outlines: Arc::new(Mutex::new(LruCache::new(KEPT))),
            stop: Stop::default(),
        }
    }
}

impl KnownWater {
    /// Nothing yet, and never more than so many bytes of cells and spreading water at hand: what is let go of is worked out again when it is looked at.
    pub fn within(most_bytes: usize) -> Self {
        Self { at_hand: Arc::new(AtHand::within(most_bytes)), ..Self::default() }
    }

    /// The same for somebody who may stop asking.
    pub fn until(&self, stop: &Stop) -> Self {
        Self { stop: stop.clone(), ..self.clone() }
    }

    fn or_work(&self, key: (LayupMark, Bounds), layup: impl FnOnce() -> Layup) -> Result<Arc<Worked>, String> {
        // What is kept is never half written, so a lock that another thread left in a panic can be taken.
        let kept = || self.parts.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = kept().get(&key) {
            return Ok(Arc::clone(known));
        }
        self.stop.check()?;
        let worked = Arc::new(self.work(layup(), key.1)?);
        // What makes room is let go of when others can look again.
        let gone = kept().push(key, Arc::clone(&worked));
        drop(gone);
        Ok(worked)
    }

    fn work(&self, layup: Layup, bounds: Bounds) -> Result<Worked, String> {
        let arrangement = cells(&layup)?;
        let answer = run_until(&layup, &arrangement, bounds, &self.stop).ok_or(STOPPED)?;
        Ok(Worked::new(layup, arrangement, bounds, answer, &self.at_hand))
    }

    /// How many bytes of cells and spreading water are at hand.
    pub fn bytes_at_hand(&self) -> usize {
        self.at_hand.bytes()
    }

    /// The windows whose outlines were not asked about before; none where nothing was.
    fn new_outlines(&self, outlines: &[u64]) -> Vec<usize> {
        let mut known = self.outlines.lock().unwrap_or_else(PoisonError::into_inner);
        let first = known.is_empty();
        let new = outlines.iter().map(|o| known.put(*o, ()).is_none() && !first);
        new.enumerate().filter(|(_, new)| *new).map(|(i, _)| i).collect()
    }

    /// How many parts are known.
    pub fn len(&self) -> usize {
        self.parts.lock().unwrap_or_else(PoisonError::into_inner).len()
    }

    /// True where nothing is known.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }
}

/// A part of a moment: what is asked about one stretch of the wall, and the answer.
#[derive(Clone, Debug)]
pub struct WallPart {
    /// The stretch, `None` where it is the whole wall.
    pub window: Option<WallWindow>,
    /// The piece of each sheet.
    pub pieces: Vec<PieceId>,
    /// The surface of each facet.
    pub surfaces: Vec<SurfaceId>,
    /// The target of the plan behind each target.
    pub targets: Vec<usize>,
    /// The leak of the plan behind each scenario; `None` for rain.
    pub leaks: Vec<Option<usize>>,
    worked: Arc<Worked>,
}

impl WallPart {
    fn new(window: Option<WallWindow>, named: Named, worked: Arc<Worked>) -> Self {
        let Named { pieces, surfaces, targets, leaks } = named;
        Self { window, pieces, surfaces, targets, leaks, worked }
    }

    /// What was asked.
    pub fn layup(&self) -> &Layup {
        &self.worked.layup
    }

    /// Its cells.
    pub fn arrangement(&self) -> Arc<Arrangement> {
        self.worked.at_hand.cells(self.worked.number, &self.worked.layup)
    }

    /// What is reached and what stands: of targets those that are reached.
    pub fn answer(&self) -> &WaterAnswer {
        &self.worked.answer
    }

    /// How effort spread in a scenario.
    pub fn spread(&self, scenario: usize) -> Arc<Spread> {
        let w = &self.worked;
        w.at_hand.spread(w.number, (&w.layup, w.bounds), scenario)
    }

    /// What gets wet in a scenario at less than a head, as it was found when the same was asked before.
    pub fn wet(&self, scenario: usize, head: Length, find: impl FnOnce() -> Vec<WetPlace>) -> Arc<Vec<WetPlace>> {
        let kept = || self.worked.wet.lock().unwrap_or_else(PoisonError::into_inner);
        let known = kept().iter().find(|(s, h, _)| (*s, *h) == (scenario, head)).map(|(.., wet)| Arc::clone(wet));
        known.unwrap_or_else(|| {
            let found = Arc::new(find());
            let mut all = kept();
            // Of a scenario one head is asked, by the plan in force.
            all.retain(|(s, ..)| *s != scenario);
            all.push((scenario, head, Arc::clone(&found)));
            found
        })
    }

    /// Looks for what lets the water in while how effort spread is still at hand.
    fn with_ways_in(self, plan: &Plan) -> Self {
        let ways = self.ways_in(WaysAsked::of(plan, &self), |asked| ways::of_part(&self, asked));
        for (scenario, ways) in ways.iter().enumerate() {
            for way in ways.values() {
                way.traced(&self, scenario);
            }
        }
        self
    }

    /// The scenario of that name.
    pub fn scenario(&self, id: &str) -> Option<usize> {
        self.layup().scenarios.iter().position(|s| s.id == id)
    }

    /// True where a scenario asks with every bond and seal let go.
    pub fn is_lost(&self, scenario: usize) -> bool {
        self.layup().scenarios[scenario].glue == Glue::Lost
    }

    /// What lets the water in, as it was found when the same was asked before.
    pub(super) fn ways_in(&self, asked: WaysAsked, find: impl FnOnce(&WaysAsked) -> WaysIn) -> Arc<WaysIn> {
        let kept = || self.worked.ways_in.lock().unwrap_or_else(PoisonError::into_inner);
        let known = kept().as_ref().filter(|(was, _)| *was == asked).map(|(_, ways)| Arc::clone(ways));
        known.unwrap_or_else(|| {
            let found = Arc::new(find(&asked));
            *kept() = Some((asked, Arc::clone(&found)));
            found
        })
    }

    /// True where it matters that a scenario's water reaches a target of the plan.
    pub fn counts(&self, plan: &Plan, scenario: usize, target: usize) -> bool {
        let openings_only = self.leaks[scenario].is_some_and(|l| plan.water.leaks[l].openings_only);
        !openings_only || plan.water.targets[target].on != SurfaceId::WALL
    }

    /// True where a place is this part's to answer for.
    fn answers_for(&self, plan: &Plan, on: SurfaceId, rect: [f64; 4]) -> bool {
        let Some(w) = self.window else { return true };
        let [lo, hi] = match plan.surfaces[on].opening {
            Some(o) if on != SurfaceId::WALL => {
                let middle = plan.openings[o].rect.to_inches();
                [(middle[0] + middle[2]) / 2.0; 2]
            }
            _ => [rect[0], rect[2]],
        };
        lo < w.core.hi.to_inches_f64() && hi >= w.core.lo.to_inches_f64()
    }

    fn ponds(&self, plan: &Plan) -> Vec<&Pond> {
        let mine = |p: &&Pond| self.answers_for(plan, self.surfaces[p.facet.0], p.rect);
        self.answer().ponds.iter().filter(mine).collect()
    }
}

/// Water that cannot leave, in terms of the plan.
#[derive(Clone, Debug, PartialEq)]
pub struct PondAt {
    /// Name of the scenario.
    pub scenario: String,
    /// Whether its glue holds.
    pub glue: Glue,
    /// The leak it comes from, `None` rain.
    pub leak: Option<usize>,
    /// On which surface.
    pub on: SurfaceId,
    /// The piece it stands on, `None` the substrate.
    pub piece: Option<PieceId>,
    /// Left, bottom, right, top in inches, around all of it.
    pub rect: [f64; 4],
}

/// A moment of the work with its water.
#[derive(Clone, Debug)]
pub struct Moment {
    /// How many actions are done.
    pub done: usize,
    /// True where none is left.
    pub finished: bool,
    /// What lies on the wall.
    pub stage: Arc<Stage>,
    /// What the water model was asked and what it answered, part by part along the wall.
    pub parts: Vec<WallPart>,
}

fn cells(layup: &Layup) -> Result<Arrangement, String> {
    Arrangement::new(layup).map_err(|m| m.iter().map(ToString::to_string).collect::<Vec<_>>().join("; "))
}

/// A window's layup with its sides open to everything that runs there.
fn open_sided(plan: &Plan, w: &WallWindow, mut layup: Layup) -> Layup {
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let inch = Length::inch(1);
    let sides = w.spans().flat_map(|s| {
        let left = (s.lo > wall.u0).then(|| Rect { u0: s.lo, u1: s.lo + inch, ..wall });
        let right = (s.hi < wall.u1).then(|| Rect { u0: s.hi - inch, u1: s.hi, ..wall });
        left.into_iter().chain(right)
    });
    layup.outlets.extend(sides.map(|rect| Patch { facet: FacetId(SurfaceId::WALL.0), rect }));
    layup
}

impl Moment {
    /// The moment after `done` actions (all of them where there are fewer).
    ///
    /// # Errors
    /// A sentence if the stage were no valid layup; that would be a mistake in recipe data.
    pub fn new(plan: &Plan, done: usize) -> Result<Self, String> {
        Self::with_known(plan, done, &KnownWater::default())
    }

    /// The moment after `done` actions, with the water that is known from before.
    ///
    /// # Errors
    /// A sentence if the stage were no valid layup; that would be a mistake in recipe data.
    pub fn with_known(plan: &Plan, done: usize, known: &KnownWater) -> Result<Self, String> {
        Self::with_finished(plan, done, known, &Finished::default())
    }

    /// The same, with the finished wall where that is known.
    pub(crate) fn with_finished(
        plan: &Plan,
        done: usize,
        known: &KnownWater,
        finished: &Finished,
    ) -> Result<Self, String> {
        let (stage, (windows, all)) = rayon::join(
            || match plan.actions().nth(done) {
                Some(_) => Arc::new(Stage::after(plan, plan.actions().take(done).map(|(_, a)| a))),
                None => Arc::clone(finished.stage(plan)),
            },
            || {
                let windows = Windows::along(plan, PART, reach(followed(plan)));
                let in_parts = windows.each().len() > WHOLE;
                if in_parts {
                    answer_ahead(plan, done, &windows, known);
                }
                (in_parts.then_some(windows), plan.actions().count())
            },
        );
        let parts = windows.map(|windows| in_parts(plan, &stage, windows, known)).transpose()?.flatten();
        let parts = match parts {
            Some(parts) => parts,
            None => vec![whole(plan, &stage, known)?],
        };
        Ok(Self { done: done.min(all), finished: done >= all, stage, parts })
    }

    /// The moment after `done` actions, its water answered as one part, however wide the wall.
    ///
    /// # Errors
    /// A sentence if the stage were no valid layup; that would be a mistake in recipe data.
    pub fn unparted(plan: &Plan, done: usize) -> Result<Self, String> {
        let all = plan.actions().count();
        let stage = Stage::after(plan, plan.actions().take(done).map(|(_, a)| a));
        let parts = vec![whole(plan, &stage, &KnownWater::default())?];
        Ok(Self { done: done.min(all), finished: done >= all, stage: Arc::new(stage), parts })
    }

    /// The moment after `done` actions with something laid on it for the night, asked about the heads of rain only, as far as the profile's
    /// floor. `None` where the wall itself is bare.
    ///
    /// # Errors
    /// A sentence if the stage were no valid layup.
    pub fn tonight(plan: &Plan, done: usize, lay: impl FnOnce(&mut Stage)) -> Result<Option<Self>, String> {
        let mut stage = Stage::after(plan, plan.actions().take(done).map(|(_, a)| a));
        lay(&mut stage);
        let mut asked = stage.layup(plan);
        asked.layup.scenarios.truncate(1);
        asked.named.leaks.truncate(1);
        let arrangement = cells(&asked.layup)?;
        if is_bare(plan, &asked, &arrangement) {
            return Ok(None);
        }
        let floor = plan.floor(false);
        let answer = heads_within(&asked.layup, &arrangement, floor);
        let bounds = Bounds { head: Some(floor), core: None };
        let worked = Worked::new(asked.layup, arrangement, bounds, answer, &Arc::default());
        let part = WallPart::new(None, asked.named, Arc::new(worked));
        Ok(Some(Self { done, finished: false, stage: Arc::new(stage), parts: vec![part] }))
    }

    /// The part that answers for an opening.
    pub fn part_of(&self, plan: &Plan, opening: usize) -> &WallPart {
        self.part_at(plan.openings[opening].rect.along_u())
    }

    /// The part that answers for the middle of a stretch of the walls.
    pub fn part_at(&self, along: Interval) -> &WallPart {
        let here = |p: &&WallPart| p.window.is_none_or(|w| along.lo + along.hi < w.core.hi + w.core.hi);
        self.parts.iter().find(here).unwrap_or(&self.parts[self.parts.len() - 1])
    }

    /// The least head of all targets in a scenario.
    pub fn least(&self, scenario: &str) -> Option<Head> {
        self.heads(scenario).map(|(_, h)| h).min_by(|a, b| a.inches().total_cmp(&b.inches()))
    }

    /// The targets of the plan that are reached in a scenario, each with a head there; a target that lies in several parts is told by each.
    pub fn heads(&self, scenario: &str) -> impl Iterator<Item = (usize, Head)> {
        self.parts.iter().flat_map(move |p| {
            let s = p.scenario(scenario);
            let reached = p.answer().reach.iter().filter(move |r| Some(r.scenario) == s);
            reached.filter_map(|r| r.least.map(|(h, _)| (p.targets[r.target], h)))
        })
    }

    /// The least head of one target of the plan in a scenario, `None` never.
    pub fn head_of(&self, target: usize, scenario: &str) -> Option<Head> {
        let here = self.heads(scenario).filter(|(t, _)| *t == target).map(|(_, h)| h);
        here.min_by(|a, b| a.inches().total_cmp(&b.inches()))
    }

    /// All ponds; what stands across several parts is told once.
    pub fn ponds(&self, plan: &Plan) -> Vec<PondAt> {
        let mut out: Vec<PondAt> = Vec::new();
        for part in &self.parts {
            for pond in part.ponds(plan) {
                let scenario = &part.layup().scenarios[pond.scenario];
                let found = PondAt {
                    scenario: scenario.id.clone(),
                    glue: scenario.glue,
                    leak: part.leaks[pond.scenario],
                    on: part.surfaces[pond.facet.0],
                    piece: pond.on.map(|s| part.pieces[s.0]),
                    rect: pond.rect,
                };
                let same = |p: &&mut PondAt| (&p.scenario, p.on, p.piece) == (&found.scenario, found.on, found.piece);
                match out.iter_mut().find(same) {
                    Some(p) => {
                        let (a, b) = (p.rect, found.rect);
                        p.rect = [a[0].min(b[0]), a[1].min(b[1]), a[2].max(b[2]), a[3].max(b[3])];
                    }
                    None => out.push(found),
                }
            }
        }
        out
    }
}

fn whole(plan: &Plan, stage: &Stage, known: &KnownWater) -> Result<WallPart, String> {
    stage.as_one(plan, |q| {
        let (mark, named) = q.mark();
        Ok(WallPart::new(None, named, known.or_work((mark, bounds(plan, None)), || q.layup())?).with_ways_in(plan))
    })
}

/// An edit changes so few windows; where more are new, it is not one edit.
const CHANGED: usize = 6;

/// Answers windows whose outline is new, while the stage is still being laid elsewhere: what is done at openings far from them is left out, which
/// takes a fraction of the time. When they are asked about with the whole stage they are known; were one not the same, it would be answered
/// again, so this is a matter of time only.
fn answer_ahead(plan: &Plan, done: usize, windows: &Windows, known: &KnownWater) {
    let new = known.new_outlines(&windows.outlines(plan));
    if new.is_empty() || new.len() > CHANGED {
        return;
    }
    let here = windows.some(&new);
    let near = here.steps(plan);
    let stage = Stage::after(plan, plan.actions().take(done).filter(|(s, _)| near[*s]).map(|(_, a)| a));
    // What goes wrong here goes wrong again where it is told.
    let _ = in_parts(plan, &stage, here, known);
}

/// Every window answered by itself; `None` where something that stands may have a way out beyond its window.
///
/// Heads are exact: within the head that is [`followed`] water comes from no farther along the wall than the margin of a window. What stands in a window
/// whose sides are shut and still stands where they are open to everything stands for good; anything else is for the whole wall to answer.
fn in_parts(plan: &Plan, stage: &Stage, windows: Windows, known: &KnownWater) -> Result<Option<Vec<WallPart>>, String> {
    let answered = |w: &WallWindow, q: &WaterQuestion| {
        let bounds = bounds(plan, Some(w));
        let (mark, named) = q.mark();
        let part = WallPart::new(Some(*w), named, known.or_work((mark, bounds), || q.layup())?).with_ways_in(plan);
        let ponds = part.ponds(plan);
        if ponds.is_empty() {
            return Ok(Some(part));
        }
        let open = known.or_work((mark.open_sided(), bounds), || open_sided(plan, w, q.layup()))?;
        let stays =
            |p: &&Pond| open.answer.ponds.iter().any(|q| (q.scenario, q.facet, q.on) == (p.scenario, p.facet, p.on));
        let all = ponds.iter().all(stays);
        Ok(all.then_some(part))
    };
    stage.in_windows(plan, windows, answered).into_iter().collect()
}

/// True where the face of the wall lies bare away from every opening.
fn is_bare(plan: &Plan, asked: &StageLayup, a: &Arrangement) -> bool {
    let Some(wall) = asked.named.surfaces.iter().position(|s| *s == SurfaceId::WALL) else { return false };
    a.cells_of(FacetId(wall)).any(|c| {
        let rect = a.cell(c).rect;
        a.stack(c).is_empty() && plan.openings.iter().all(|o| !o.hull.contains(rect))
    })
}
