//! May it be left like this tonight? Each step of the order, rained on as it stands; and where rain gets in, the tape or cover that keeps it
//! out until the morning, tried before it is proposed.

use crate::findings::{Finding, Moment, Severity};
use crate::kit::named;
use crate::layup::{Bond, Depth};
use crate::length::Length;
use crate::plan::{Basis, Only, Piece, Plan, PlanTarget, Seal, SurfaceId, Walls};
use crate::profile::fig;
use crate::recipe::{ReachSpec, Role};
use crate::sequence::{Laid, Stage};
use crate::stop::Stop;
use crate::surface::{Edge, Rect};
use crate::trade::{PieceId, StepId};
use lru::LruCache;
use rayon::prelude::*;
use std::borrow::Cow;
use std::collections::HashMap;
use std::fmt::{self, Write};
use std::hash::{DefaultHasher, Hasher};
use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex, PoisonError};
use typed_index_collections::TiVec;

/// How a step may be left overnight, the best first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum NightState {
    /// As it is.
    Dry,
    /// With temporary tape.
    Tape,
    /// With a temporary cover over an opening.
    Cover,
    /// Neither tape nor a cover helps: go on, or keep the rain off altogether.
    Open,
    /// The barrier is not up: the wall itself is bare.
    Bare,
}

/// A temporary piece for one night.
#[derive(Clone, Debug, PartialEq)]
pub struct Temporary {
    /// True for a cover over an opening, false for a tape.
    pub cover: bool,
    /// Where on the wall.
    pub rect: Rect,
    /// What somebody should do, as a sentence.
    pub words: String,
}

/// One night.
#[derive(Clone, Debug, PartialEq)]
pub struct Night {
    /// After which step, as an index into the plan's steps.
    pub step: StepId,
    /// Number of actions done by then.
    pub done: usize,
    /// Whether it may be left.
    pub state: NightState,
    /// What rain does to it as it is; empty where it stays dry.
    pub why: String,
    /// The next step after which it may be left as it is; `None` where there is none.
    pub dry_after: Option<StepId>,
    /// What to put on it for the night.
    pub temporary: Vec<Temporary>,
}

/// Most tapes that are proposed for one night; beyond that a cover is quicker.
const MOST_TAPES: usize = 4;

/// How one opening stands a night.
#[derive(Clone, Debug)]
struct NightAt {
    state: NightState,
    why: String,
    temporary: Vec<Temporary>,
}

/// Nights that were computed already, kept by everything they follow from: after a change at one opening those of the others are known.
///
/// Copies share what they know.
#[derive(Clone, Debug)]
pub struct KnownNights {
    known: Arc<Mutex<LruCache<u64, Arc<Vec<NightAt>>>>>,
    stop: Stop,
}

/// How many openings' nights are kept: a building of some hundred openings, and what it was before the last changes.
const KEPT: NonZeroUsize = NonZeroUsize::new(1024).unwrap();

impl Default for KnownNights {
    fn default() -> Self {
        Self { known: Arc::new(Mutex::new(LruCache::new(KEPT))), stop: Stop::default() }
    }
}

impl KnownNights {
    /// The same for somebody who may stop asking.
    pub fn until(&self, stop: &Stop) -> Self {
        Self { stop: stop.clone(), ..self.clone() }
    }

    fn or_ask(
        &self,
        key: u64,
        ask: impl FnOnce() -> Result<Vec<NightAt>, String>,
    ) -> Result<Arc<Vec<NightAt>>, String> {
        // What is kept is never half written, so a lock that another thread left in a panic can be taken.
        let kept = || self.known.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = kept().get(&key) {
            return Ok(Arc::clone(known));
        }
        let asked = Arc::new(ask()?);
        kept().put(key, Arc::clone(&asked));
        Ok(asked)
    }
}

/// The wall with one opening, or with none where it has none.
struct NightPlace<'a> {
    plan: Cow<'a, Plan>,
    /// Number of the opening in that plan.
    opening: Option<usize>,
    /// Numbers of actions done by the nights at it, in the whole plan and in that one.
    nights: Vec<(usize, usize)>,
}

/// What one opening says of its nights.
struct OpeningNights {
    /// After how many actions each begins, from the first on.
    from: Vec<usize>,
    nights: Arc<Vec<NightAt>>,
}

impl OpeningNights {
    /// The last night by then.
    fn latest(&self, done: usize) -> Option<&NightAt> {
        let begun = self.from.partition_point(|from| *from <= done);
        begun.checked_sub(1).map(|last| &self.nights[last])
    }
}

/// Every night of the order in force.
///
/// # Errors
/// A sentence if a stage were no valid layup; that would be a mistake in recipe data.
pub fn nights(plan: &Plan, known: &KnownNights) -> Result<Vec<Night>, String> {
    let done: Vec<StepId> = plan.actions().map(|(step, _)| step).collect();
    let mut ends: Vec<(StepId, usize)> = Vec::new();
    for (done, step) in done.iter().enumerate() {
        match ends.last_mut() {
            Some((last, end)) if last == step => *end = done + 1,
            _ => ends.push((*step, done + 1)),
        }
    }
    let each = at_each(plan, known, |here| {
        let (mut nights, mut mine) = (Vec::new(), 0);
        let mut ends = ends.iter().peekable();
        for (i, step) in done.iter().enumerate() {
            mine += usize::from(here(*step));
            if let Some((step, end)) = ends.next_if(|(_, end)| *end == i + 1) {
                nights.extend(here(*step).then_some((*end, mine)));
            }
        }
        nights
    })?;
    let mut all: Vec<Night> = ends.iter().map(|(step, done)| worst(&each, *step, *done)).collect();
    let mut next = None;
    for n in all.iter_mut().rev() {
        n.dry_after = next;
        if n.state == NightState::Dry {
            next = Some(n.step);
        }
    }
    Ok(all)
}

/// The one night after so many actions: as [`nights`] says it, without asking about all others.
///
/// # Errors
/// As [`nights`].
pub fn tonight(plan: &Plan, done: usize, known: &KnownNights) -> Result<Night, String> {
    Ok(nights_after(plan, &[done], known)?.remove(0))
}

/// The nights after so many actions each, in rising numbers: as [`nights`] says it of them, without asking about all others; after which step one
/// would be dry is not told.
///
/// # Errors
/// As [`nights`].
pub fn nights_after(plan: &Plan, dones: &[usize], known: &KnownNights) -> Result<Vec<Night>, String> {
    let order: Vec<StepId> = plan.actions().map(|(step, _)| step).collect();
    let dones: Vec<usize> = dones.iter().map(|done| (*done).min(order.len())).collect();
    let each = at_each(plan, known, |here| {
        let (mut nights, mut mine, mut from): (Vec<(usize, usize)>, usize, usize) = (Vec::new(), 0, 0);
        for &done in &dones {
            mine += order[from.min(done)..done].iter().filter(|step| here(**step)).count();
            from = done;
            // Where nothing was done yet nothing is left for the night, and where nothing was done since it is as it was.
            if mine > 0 && nights.last().is_none_or(|(_, before)| *before != mine) {
                nights.push((done, mine));
            }
        }
        nights
    })?;
    let last = |done: usize| order[..done].last().copied().unwrap_or_default();
    Ok(dones.iter().map(|done| worst(&each, last(*done), *done)).collect())
}

/// What each opening says of its nights: numbers of actions done by then, in the whole plan and of those at it or on the walls. Openings do not
/// lie on each other: what gets in at one is found there first. So each is rained on for itself, and a night is as good as its worst opening.
fn at_each(
    plan: &Plan,
    known: &KnownNights,
    nights: impl Fn(&dyn Fn(StepId) -> bool) -> Vec<(usize, usize)> + Sync,
) -> Result<Vec<OpeningNights>, String> {
    // At which opening each step is.
    let number: HashMap<&str, usize> = plan.openings.iter().enumerate().map(|(i, o)| (o.id.as_str(), i)).collect();
    let of: TiVec<StepId, Option<usize>> =
        plan.steps.iter().map(|s| s.opening.as_ref().and_then(|id| number.get(id.as_str()).copied())).collect();
    let free = plan.left_free();
    let place = |o: Option<usize>| -> NightPlace {
        let nights = nights(&|step: StepId| o.is_none() || of[step].is_none() || of[step] == o);
        match o {
            None => NightPlace { plan: Cow::Borrowed(plan), opening: None, nights },
            Some(o) => {
                let Only { plan, opening } = plan.only(o, &free);
                NightPlace { plan: Cow::Owned(plan), opening: Some(opening), nights }
            }
        }
    };
    let openings: Vec<Option<usize>> =
        if plan.openings.is_empty() { vec![None] } else { (0..plan.openings.len()).map(Some).collect() };
    let one = |o: Option<usize>| {
        known.stop.check()?;
        let at = place(o);
        let one = |done: usize| known.stop.check().and_then(|()| night_at(&at.plan, at.opening, done));
        let all = || at.nights.par_iter().map(|(_, done)| one(*done)).collect();
        let nights = known.or_ask(fingerprint(&at), all)?;
        Ok(OpeningNights { from: at.nights.iter().map(|(done, _)| *done).collect(), nights })
    };
    openings.into_par_iter().map(one).collect()
}

/// A night is as good as its worst opening, and everything is put on that any of them asks for.
fn worst(each: &[OpeningNights], step: StepId, done: usize) -> Night {
    let now = || each.iter().filter_map(|said| said.latest(done));
    let told = now().max_by_key(|n| n.state);
    let mut temporary: Vec<Temporary> = Vec::new();
    for t in now().flat_map(|n| &n.temporary) {
        if !temporary.contains(t) {
            temporary.push(t.clone());
        }
    }
    let state = told.map_or(NightState::Dry, |n| n.state);
    Night { step, done, state, why: told.map(|n| n.why.clone()).unwrap_or_default(), dry_after: None, temporary }
}

/// A hash of everything the nights at one opening follow from: what is on the wall and what is at the opening.
fn fingerprint(at: &NightPlace) -> u64 {
    struct Text(DefaultHasher);
    impl Write for Text {
        fn write_str(&mut self, s: &str) -> fmt::Result {
            self.0.write(s.as_bytes());
            Ok(())
        }
    }
    let mut text = Text(DefaultHasher::new());
    let mut add = |what: &dyn fmt::Debug| {
        // Hashing cannot fail.
        let _ = write!(text, "{what:?};");
    };
    // Everything a plan has is named, so that nothing new can be forgotten.
    let Plan {
        walls: Walls { finishes, round, outline, plate, stretches: _, corners: _, footprint: _, levels: _ },
        surfaces,
        stitches,
        openings,
        pieces,
        seals,
        cuts,
        fits,
        flaps,
        steps,
        order,
        removed,
        overs,
        water,
        notes: _,
        departures,
        basis: Basis { figures, moved: _, products: _, recorded: _, bench: _ },
    } = &*at.plan;
    let nights: Vec<usize> = at.nights.iter().map(|(_, done)| *done).collect();
    add(&(nights, at.opening, openings, surfaces, stitches, pieces, seals));
    add(&(cuts, fits, flaps, overs, water, order, removed));
    steps.iter().for_each(|s| add(&(&s.id, &s.title, &s.actions)));
    add(&(departures, figures, finishes, outline, round, plate));
    text.0.finish()
}

fn night_at(plan: &Plan, opening: Option<usize>, done: usize) -> Result<NightAt, String> {
    let said = |state, why: String, temporary| Ok(NightAt { state, why, temporary });
    let Some(first) = leaks(plan, done, &[])? else {
        let why = "The wall is still bare in places: rain falls on the sheathing.";
        return said(NightState::Bare, why.into(), open_tops(plan, done));
    };
    let Some(why) = first.first().map(|worst| worst.reason.clone()) else {
        return said(NightState::Dry, String::new(), Vec::new());
    };
    let covers = covers(plan, opening, &first);
    if let Some(tapes) = taped(plan, done, Vec::new(), first)? {
        return said(NightState::Tape, why, tapes);
    }
    let found = if covers.is_empty() {
        None
    } else {
        let left = leaks(plan, done, &covers)?.unwrap_or_default();
        taped(plan, done, covers, left)?
    };
    match found {
        Some(both) => said(NightState::Cover, why, both),
        None => said(NightState::Open, why, Vec::new()),
    }
}

/// Rain that gets in at less than the floor, with temporary pieces on the wall; `None` where the wall itself is bare.
fn leaks(plan: &Plan, done: usize, temporary: &[Temporary]) -> Result<Option<Vec<Finding>>, String> {
    let mut plan = Cow::Borrowed(plan);
    let mut on = Vec::new();
    for t in temporary {
        on.push((add(plan.to_mut(), t), t.cover));
    }
    let moment = Moment::tonight(&plan, done, |stage| {
        for &(piece, cover) in &on {
            lay(&plan, stage, piece, cover);
        }
    })?;
    Ok(moment.map(|m| m.findings(&plan).into_iter().filter(|f| f.severity == Severity::Leak).collect()))
}

/// Adds a temporary piece to the plan: a tape sticks over its whole area, a cover hangs loose and is taped at its top and sides.
fn add(plan: &mut Plan, t: &Temporary) -> PieceId {
    let number = plan.pieces.len();
    let (role, bond, name) = if t.cover {
        (Role::Barrier, Bond::None, "temporary cover")
    } else {
        (Role::Patch, Bond::Full, "temporary tape")
    };
    let piece = plan.pieces.push_and_get_key(Piece {
        id: format!("tonight-{number}"),
        name: name.into(),
        role,
        letter: "·".into(),
        product: name.into(),
        bond,
        solid: false,
        grips: false,
        regions: vec![(SurfaceId::WALL, t.rect)],
        cut: None,
        opening: None,
        stretch: 0,
        laying: None,
    });
    if t.cover {
        let tape = plan.basis.figures.length(fig::NIGHT_TAPE);
        let r = t.rect;
        let rects = [Rect { v0: r.v1 - tape, ..r }, Rect { u1: r.u0 + tape, ..r }, Rect { u0: r.u1 - tape, ..r }];
        plan.seals.push(Seal {
            id: format!("tonight-{number}/tape"),
            name: "tape round the cover".into(),
            behind: piece,
            reach: ReachSpec::After,
            fault: "F17".into(),
            product: named::FLASHING_TAPE.into(),
            rod: false,
            rects: rects.map(|r| (SurfaceId::WALL, r)).to_vec(),
            laying: None,
        });
        let behind: Vec<PlanTarget> = plan
            .openings
            .iter()
            .filter(|o| t.rect.contains(o.rect))
            .map(|o| PlanTarget {
                id: format!("{}/tonight", o.id),
                name: format!("the open {}", o.name),
                depth: Depth::Substrate,
                on: SurfaceId::WALL,
                rect: o.rect,
                without: None,
            })
            .collect();
        plan.water.targets.extend(behind);
    }
    piece
}

fn lay(plan: &Plan, stage: &mut Stage, piece: PieceId, cover: bool) {
    let rect = plan.pieces[piece].regions[0].1;
    stage.lay(plan, Laid { piece, flap: None, on: SurfaceId::WALL, rect }, !cover);
    if cover {
        stage.seals.extend(plan.seals.position(|s| s.behind == piece));
    }
}

/// Adds one tape after another over the edges where rain gets in, until none does; `None` where that does not help. `found` is what gets in
/// with what is on already.
fn taped(
    plan: &Plan,
    done: usize,
    mut on: Vec<Temporary>,
    mut found: Vec<Finding>,
) -> Result<Option<Vec<Temporary>>, String> {
    let covers = on.len();
    while !found.is_empty() {
        // A tape for each, or none at all: one place that cannot be taped lets the rain in all the same.
        let tapes: Option<Vec<Temporary>> = found.iter().map(|f| tape_over(plan, f)).collect();
        let next = tapes.unwrap_or_default().into_iter().find(|t| !on.contains(t));
        match next.filter(|_| on.len() - covers < MOST_TAPES) {
            Some(tape) => on.push(tape),
            None => return Ok(None),
        }
        found = leaks(plan, done, &on)?.unwrap_or_default();
    }
    Ok(Some(on))
}

/// The tape over the edge at which a finding's water gets in.
fn tape_over(plan: &Plan, f: &Finding) -> Option<Temporary> {
    let way = f.way.as_ref()?;
    let entry = way.entry()?;
    let point = way.points.get(entry.point)?;
    // The finding names the piece first that its water passes first.
    let piece = plan.pieces.iter().find(|p| Some(&p.id) == f.pieces.first())?;
    let side = plan.basis.figures.length(fig::NIGHT_TAPE);
    let near = |l: Length, at: f64| (l.to_inches_f64() - at).abs() < 0.05;
    let (_, r) =
        piece.regions.iter().filter(|(on, _)| *on == f.place.0 && *on == SurfaceId::WALL).find(|(_, r)| match entry
            .edge
        {
            Edge::Top => near(r.v1, point.v),
            Edge::Bottom => near(r.v0, point.v),
            Edge::Left => near(r.u0, point.u),
            Edge::Right => near(r.u1, point.u),
        })?;
    let rect = match entry.edge {
        Edge::Top => Rect::new(r.u0 - side, r.v1 - side, r.u1 + side, r.v1 + side),
        Edge::Left => Rect::new(r.u0 - side, r.v0, r.u0 + side, r.v1 + side),
        Edge::Right => Rect::new(r.u1 - side, r.v0, r.u1 + side, r.v1 + side),
        Edge::Bottom => return None,
    };
    let openings = plan.openings.iter().map(|o| o.rect);
    let rect = openings.fold(vec![rect], |parts, o| parts.into_iter().flat_map(|p| p.minus(o)).collect());
    let rect = rect.into_iter().max_by_key(|r| r.width().units().max(r.height().units()))?;
    let rect = rect.intersection(plan.surfaces[SurfaceId::WALL].facet.rect())?;
    let edge = match entry.edge {
        Edge::Left => "left edge",
        Edge::Right => "right edge",
        _ => "top edge",
    };
    let run = rect.width().max(rect.height()).inches(16);
    Some(Temporary { cover: false, rect, words: format!("Tape {run}\" along the {edge} of the {}.", piece.name) })
}

/// Tapes over the top edges of loose courses above which the wall is bare: what runs down it would get in behind them.
fn open_tops(plan: &Plan, done: usize) -> Vec<Temporary> {
    let stage = Stage::after(plan, plan.actions().take(done).map(|(_, a)| a));
    let side = plan.basis.figures.length(fig::NIGHT_TAPE);
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let hung = stage.layers.iter().filter(|l| l.on == SurfaceId::WALL && plan.pieces[l.piece].role == Role::Barrier);
    let hung: Vec<&Laid> = hung.collect();
    let mut out: Vec<Temporary> = Vec::new();
    for l in hung.iter().filter(|l| stage.bond(l.piece) == Bond::None) {
        let above = Rect { v0: l.rect.v1, v1: l.rect.v1 + Length::inch(1), ..l.rect };
        let Some(above) = above.intersection(wall) else { continue };
        let open = above.minus_all(hung.iter().map(|other| &other.rect).chain(plan.openings.iter().map(|o| &o.rect)));
        for part in open.into_iter().filter(|p| p.width() > side) {
            let rect = Rect { v0: part.v0 - side, v1: (part.v0 + side).min(wall.v1), ..part };
            let words = format!(
                "Tape {}\" along the top edge of the {}: it stands open, and the wall above it is bare.",
                rect.width().inches(16),
                plan.pieces[l.piece].name
            );
            out.push(Temporary { cover: false, rect, words });
        }
    }
    out.truncate(MOST_TAPES);
    out
}

/// A cover over the opening, or over each, that a finding concerns.
fn covers(plan: &Plan, only: Option<usize>, found: &[Finding]) -> Vec<Temporary> {
    let of_opening = |i: usize| {
        let o = &plan.openings[i];
        found.iter().any(|f| {
            let reached = plan.surfaces[f.place.0].opening == Some(i);
            let [u0, v0, u1, v1] = o.hull.to_inches();
            let at = |p: &crate::water::WayPoint| p.u >= u0 && p.u <= u1 && p.v >= v0 && p.v <= v1;
            reached || f.way.as_ref().is_some_and(|w| w.points.iter().any(at))
        })
    };
    (0..plan.openings.len())
        .filter(|i| only.is_none_or(|o| o == *i) && of_opening(*i))
        .filter_map(|i| {
            let o = &plan.openings[i];
            let more = plan.basis.figures.length(fig::NIGHT_COVER);
            let r = o.hull;
            let rect = Rect::new(r.u0 - more, r.v0 - more, r.u1 + more, r.v1 + more)
                .intersection(plan.surfaces[SurfaceId::WALL].facet.rect())?;
            let words = format!(
                "Cover {}: a sheet {}\" × {}\" over the opening, taped along its top and both sides, lower edge free.",
                o.name,
                rect.width().inches(16),
                rect.height().inches(16)
            );
            Some(Temporary { cover: true, rect, words })
        })
        .collect()
}
