//! Findings as screens show them: where each is, and the way its water takes.

use super::elevation;
use crate::findings::{Cause, Finding, HeadReading, Severity};
use crate::plan::{Plan, SurfaceId};
use crate::water::{PassageKind, WaterWay};
use foldhash::HashSet;
use serde::Serialize;
use std::collections::BTreeSet;

/// A point of a drop's way on the drawing.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct DropPoint {
    /// To the right, in.
    pub x: f64,
    /// Down, in.
    pub y: f64,
    /// Effort so far, in of water.
    pub head: f64,
    /// True where the water is behind something.
    pub behind: bool,
    /// True where it gets in behind something just here.
    pub enters: bool,
}

/// A finding as the screen shows it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FindingView {
    /// Number in the list, from 1; also stands on the drawing.
    pub number: usize,
    /// Stable code.
    pub code: String,
    /// Leak, pond, fault, glue or note.
    pub severity: Severity,
    /// Under which water, empty where none is needed.
    pub scenario: String,
    /// True where it shows with the glue lost only.
    pub lost: bool,
    /// Ids of the pieces concerned.
    pub pieces: Vec<String>,
    /// Where to look, on the drawing: x, y.
    pub at: [f64; 2],
    /// The least head at which it happens.
    pub head: Option<HeadReading>,
    /// What happens.
    pub reason: String,
    /// What somebody should do, as a sentence.
    pub remedy: String,
    /// How the drop gets there; empty where no water shows it.
    pub drop: Vec<DropPoint>,
    /// Ids of the openings and other features it shows at.
    pub features: Vec<String>,
    /// The walls it shows on, from 0 at the left.
    pub walls: Vec<usize>,
    /// The other places at which the same cause shows, on the drawing: x, y.
    pub also: Vec<[f64; 2]>,
}

/// How far above its entry a drop is first drawn, in.
const RAIN_COMES_FROM: f64 = 5.0;

/// The walls that a cause shows on: those of its features, else those it lies along.
fn walls_of(plan: &Plan, cause: &Cause) -> Vec<usize> {
    let ends = [0.0].into_iter().chain(plan.walls.corners.iter().map(|c| c.at.to_inches_f64()));
    let starts: Vec<f64> = ends.collect();
    let wall_at = |u: f64| starts.partition_point(|s| *s <= u).saturating_sub(1);
    let at: HashSet<&str> = cause.at.iter().copied().collect();
    let features = plan.openings.iter().filter(|o| at.contains(o.id.as_str()));
    let mut on: BTreeSet<usize> =
        features.map(|o| wall_at(f64::midpoint(o.rect.u0.to_inches_f64(), o.rect.u1.to_inches_f64()))).collect();
    if on.is_empty() {
        for f in [cause.told].into_iter().chain(cause.also.iter().copied()) {
            let [from, _, to, _] = f.place.1;
            let [from, to] = f.along.unwrap_or([from, to]);
            // The right end of a stretch that ends at a corner is not on the wall beyond it.
            on.extend(wall_at(from)..=wall_at((to - 0.01).max(from)));
        }
    }
    on.into_iter().collect()
}

/// The way a finding's water takes, on the drawing.
pub(super) fn drop_of(plan: &Plan, f: &Finding) -> Vec<DropPoint> {
    let mut drawn = f.way.as_ref().map_or_else(Vec::new, |way| drop_points(plan, way));
    // Rain comes down the face before it gets in.
    if let Some(first) = drawn.first().copied().filter(|p| !p.behind) {
        drawn.insert(0, DropPoint { y: first.y - RAIN_COMES_FROM, enters: false, ..first });
    }
    drawn
}

/// A way on the drawing.
pub(super) fn drop_points(plan: &Plan, way: &WaterWay) -> Vec<DropPoint> {
    let enters = |i: usize| {
        way.passages.iter().any(|p| p.point == i && matches!(p.kind, PassageKind::InBehind | PassageKind::InThroughCut))
    };
    let drawn = way.points.iter().enumerate().map(|(i, p)| {
        let [x, y] = elevation::map(plan, SurfaceId(p.facet.0), p.u, p.v);
        DropPoint { x, y, head: p.head.inches(), behind: p.behind.is_some(), enters: enters(i) }
    });
    drawn.collect()
}

/// A cause as it is shown, by its number from 1.
pub(super) fn finding(plan: &Plan, number: usize, cause: &Cause) -> FindingView {
    let f = cause.told;
    let point = |f: &Finding| {
        let [u0, v0, u1, v1] = f.place.1;
        elevation::map(plan, f.place.0, (u0 + u1) / 2.0, (v0 + v1) / 2.0)
    };
    FindingView {
        number,
        code: f.code.clone(),
        severity: f.severity,
        scenario: f.scenario.clone(),
        lost: f.lost,
        pieces: f.pieces.clone(),
        at: point(f),
        head: f.head.map(HeadReading::from),
        reason: f.reason.clone(),
        remedy: f.remedy.clone(),
        drop: drop_of(plan, f),
        features: cause.at.iter().map(|id| (*id).to_owned()).collect(),
        walls: walls_of(plan, cause),
        also: cause.also.iter().map(|f| point(f)).collect(),
    }
}
