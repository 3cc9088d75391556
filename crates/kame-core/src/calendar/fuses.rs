//! Clocks of what stands in the open: from the day on which it is hung until all of it is covered (handbook 6.1).

use super::ground::{Booked, CalendarQuestion};
use crate::date::{day_number, day_text};
use crate::plan::{Piece, Plan, SurfaceId};
use crate::profile::fig;
use crate::recipe::{Role, answer};
use crate::record::StepNow;
use crate::surface::Rect;
use crate::trade::{PieceId, StepId};
use serde::Serialize;
use std::collections::{BTreeSet, HashMap};

const DAY: i64 = 1440;

/// How long a product is in the open, by whichever of its pieces is worst off. Minutes are counted from midnight of the first day, below zero
/// before it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Fuse {
    /// Generic product.
    pub product: String,
    /// When it is hung.
    pub from: i64,
    /// The midnight after the last day on which it may be in the open.
    pub limit: i64,
    /// When it is covered; where nothing of the plan covers all of it, when all work is done, so that somebody can.
    pub until: i64,
    /// True where that is later than `limit`.
    pub over: bool,
}

impl Fuse {
    /// How many days it may be in the open.
    pub(super) fn days(&self) -> i64 {
        self.limit / DAY - 1 - self.from.div_euclid(DAY)
    }
}

/// What a step hangs that may stand in the open for some days only.
#[derive(Clone, Debug)]
pub(super) struct Exposed<'a> {
    step: StepId,
    product: &'a str,
    days: i64,
    /// Steps that together cover all of it; none where it stays in the open.
    covered: Option<BTreeSet<StepId>>,
}

/// The fuse of what one step hangs.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Burning {
    pub(super) step: StepId,
    pub(super) fuse: Fuse,
}

/// What covers from light: boards, a second layer, the cladding with its trim, but for cladding with open joints. Each with its step.
fn covers(plan: &Plan) -> Vec<(StepId, Rect)> {
    let joint = plan.basis.figures.length(fig::BEAD_JOINT).max(plan.basis.figures.length(fig::CAP_GAP));
    // Joints are sealed or lie in the shadow of what stands beside them.
    let with_joint = move |r: &Rect| Rect::new(r.u0 - joint, r.v0 - joint, r.u1 + joint, r.v1 + joint);
    let open_joints = |p: PieceId| {
        let at = plan.pieces[p].laying.and_then(|l| plan.walls.finishes.get(l.finish));
        at.is_some_and(|f| answer::CLADDING_OPEN.is_in(&f.answers))
    };
    let covering = |p: PieceId| match plan.pieces[p].role {
        Role::Cover => true,
        Role::Cladding => !open_joints(p),
        _ => false,
    };
    let placed = plan.actions().filter_map(|(s, a)| Some((s, a.act.placed()?))).filter(|(_, p)| covering(*p));
    let mut out: Vec<(StepId, Rect)> = placed
        .flat_map(|(s, p)| plan.pieces[p].regions.iter().map(move |(_, r)| (s, *r)))
        .map(|(s, r)| (s, with_joint(&r)))
        .collect();
    out.sort_by_key(|(_, r)| r.u0);
    out
}

/// Steps that together cover a piece where it lies on the face of the wall, but for openings and for what runs along or comes through: there the
/// unit, a flashing or the thing itself lies over it.
fn covered(plan: &Plan, piece: &Piece, here: &[(StepId, Rect)], own: StepId) -> Option<BTreeSet<StepId>> {
    let mut steps = BTreeSet::new();
    let features = |r: Rect| plan.openings.iter().filter(move |o| o.hull.overlaps(r));
    for (_, r) in piece.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL) {
        let over = here.iter().take_while(|(_, c)| c.u0 < r.u1).filter(|(s, c)| *s != own && c.overlaps(*r));
        let (by, mut taken): (Vec<StepId>, Vec<Rect>) = over.copied().unzip();
        taken.extend(features(*r).flat_map(|o| o.stops.iter().copied().chain([o.rect])));
        if !r.minus_all(&taken).is_empty() {
            return None;
        }
        steps.extend(by);
    }
    (!steps.is_empty()).then_some(steps)
}

/// Everything that may stand in the open for some days only, with what covers it.
pub(super) fn exposed(plan: &Plan) -> Vec<Exposed<'_>> {
    let here = covers(plan);
    let mut out: Vec<Exposed> = Vec::new();
    for (step, action) in plan.actions() {
        let Some(piece) = action.act.placed().map(|p| &plan.pieces[p]) else { continue };
        let Some(days) = plan.product(&piece.product).and_then(|p| p.exposed_days) else { continue };
        let covered = covered(plan, piece, &here, step);
        match out.iter_mut().find(|e| e.step == step && e.product == piece.product) {
            Some(e) => {
                e.covered = e.covered.take().zip(covered).map(|(mut a, b)| {
                    a.extend(b);
                    a
                });
            }
            None => out.push(Exposed { step, product: &piece.product, days: days as i64, covered }),
        }
    }
    out
}

/// The fuse of everything that may stand in the open for some days only and is hung, step by step.
pub(super) fn burning(asked: &CalendarQuestion, exposed: &[Exposed], tasks: &[Booked], finish: u32) -> Vec<Burning> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let known: HashMap<&str, StepId> = asked.plan.steps.iter_enumerated().map(|(s, x)| (x.id.as_str(), s)).collect();
    let mut when: HashMap<StepId, (i64, i64)> = HashMap::new();
    let done = asked.states.iter().filter(|s| matches!(s.now, StepNow::Done | StepNow::LookedAt | StepNow::Failed));
    let before = done.filter_map(|s| {
        let at = (day_number(&s.at)? - first) * DAY;
        Some((s.step.as_str(), (at, at)))
    });
    let booked = tasks.iter().map(|t| (t.step.as_str(), (i64::from(t.from), i64::from(t.to))));
    for (step, (from, to)) in before.chain(booked) {
        let Some(step) = known.get(step) else { continue };
        let span = when.entry(*step).or_insert((from, to));
        *span = (span.0.min(from), span.1.max(to));
    }
    let one = |e: &Exposed| {
        let (from, _) = *when.get(&e.step)?;
        let ends = e.covered.iter().flatten().map(|s| when.get(s).map(|w| w.1)).collect::<Option<Vec<i64>>>();
        let until = ends.and_then(|ends| ends.into_iter().max()).unwrap_or(i64::from(finish)).max(from);
        let limit = (from.div_euclid(DAY) + e.days + 1) * DAY;
        let fuse = Fuse { product: e.product.to_owned(), from, limit, until, over: until > limit };
        Some(Burning { step: e.step, fuse })
    };
    exposed.iter().filter_map(one).collect()
}

/// The fuse of every product, of whichever step is worst off, in the order in which they are lit.
pub(super) fn fuses(burning: &[Burning]) -> Vec<Fuse> {
    let mut out: Vec<Fuse> = Vec::new();
    for Burning { fuse, .. } in burning {
        let spare = |f: &Fuse| (f.limit - f.until, f.from);
        match out.iter_mut().find(|f| f.product == fuse.product) {
            Some(f) if spare(f) <= spare(fuse) => {}
            Some(f) => *f = fuse.clone(),
            None => out.push(fuse.clone()),
        }
    }
    out.sort_by(|a, b| (a.from, &a.product).cmp(&(b.from, &b.product)));
    out
}

/// What should be known of fuses, as sentences.
pub(super) fn told(asked: &CalendarQuestion, fuses: &[Fuse]) -> Vec<String> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let day = |minute: i64| day_text(first + minute.div_euclid(DAY));
    let share = asked.plan.basis.figures.number(fig::EXPOSURE_TOLD) / 100.0;
    let told = fuses.iter().filter(|f| (f.until - f.from) as f64 > share * (f.limit - f.from) as f64);
    let says = |f: &Fuse| {
        format!(
            "{} is out since {}: cover it before {}, {} days are allowed.",
            f.product,
            day(f.from),
            day(f.limit - DAY),
            f.days()
        )
    };
    told.map(says).collect()
}
