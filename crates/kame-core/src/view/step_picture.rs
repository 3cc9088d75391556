//! The small picture of a step: what is done in it, over what stands there already, and how far past the opening it goes (handbook 8.7).

use super::elevation::{OpeningView, Shape, box_of, corners, held_up, map, openings, shape, shapes};
use crate::length::Length;
use crate::plan::{Plan, SurfaceId};
use crate::sequence::{Laid, Stage};
use crate::surface::Rect;
use crate::trade::{Act, Action, FlapId, PieceId, Step, StepId};
use serde::Serialize;
use std::collections::BTreeMap;

/// Room round what is done, of the larger of its sides: what it goes over is seen, and sizes stand beside it.
const ROOM: f64 = 0.33;
/// No less of the wall is shown than this, in.
const LEAST_SHOWN: f64 = 14.0;

/// Of what was found no less of the wall is shown than this, in.
const FOUND_SHOWN: f64 = 54.0;

/// The picture of a step.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepPicture {
    /// Id of the step.
    pub step: String,
    /// What is shown of the unfolded wall: left, top, width, height.
    pub frame: [f64; 4],
    /// What lies there before, in lap order.
    pub before: Vec<Shape>,
    /// What the step lays, presses, lifts or drops, in the order in which it is done.
    pub now: Vec<Shape>,
    /// Pieces that are taken away.
    pub gone: Vec<Shape>,
    /// Openings in the frame, as they stand after the step.
    pub openings: Vec<OpeningView>,
    /// Beads and smears of the step, as corners of their parts.
    pub beads: Vec<Vec<[f64; 2]>>,
    /// Where it is cut: x1, y1, x2, y2.
    pub cuts: Vec<[f64; 4]>,
    /// Which way a flap goes: from its loose edge as it was to where it is after, x1, y1, x2, y2.
    pub ways: Vec<[f64; 4]>,
    /// How far past the opening what is laid goes.
    pub sizes: Vec<SizeLine>,
    /// The picture in words.
    pub says: String,
}

/// A size with its line.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SizeLine {
    /// Its ends: x1, y1, x2, y2.
    pub line: [f64; 4],
    /// As people read it.
    pub text: String,
    /// Past which side of the opening.
    pub past: PastSide,
}

/// A side of an opening.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum PastSide {
    /// Left.
    Left,
    /// Right.
    Right,
    /// Above.
    Above,
    /// Below.
    Below,
}

/// The pictures of the steps at one opening, or of the walls' own, in the order of work; of one of them where `step` says which.
pub fn step_pictures(plan: &Plan, opening: Option<&str>, step: Option<&str>) -> Vec<StepPicture> {
    // A building's plan is large: at an opening only what is done on the wall and there is needed.
    let at = opening.and_then(|id| plan.openings.iter().position(|o| o.id == id));
    let only = at.map(|o| plan.only(o, &plan.left_free()));
    let plan = only.as_ref().map_or(plan, |o| &o.plan);
    let all: Vec<(StepId, &Action)> = plan.actions().collect();
    let asked = |s: &Step| s.opening.as_deref() == opening && step.is_none_or(|id| s.id == id);
    let steps = plan.order.iter().copied().filter(|&s| asked(&plan.steps[s]) && !plan.is_removed(&plan.steps[s].id));
    steps.filter_map(|s| picture(plan, s, &all)).collect()
}

/// The picture of one step of the walls' own.
pub(super) fn picture_of(plan: &Plan, step: &str) -> Option<StepPicture> {
    let all: Vec<(StepId, &Action)> = plan.actions().collect();
    let at = plan.steps.position(|s| s.id == step)?;
    picture(plan, at, &all)
}

fn picture(plan: &Plan, at: StepId, all: &[(StepId, &Action)]) -> Option<StepPicture> {
    let starts = all.iter().position(|(s, _)| *s == at)?;
    let ends = all.iter().rposition(|(s, _)| *s == at)? + 1;
    let stage = |to: usize| Stage::after(plan, all[..to].iter().map(|(_, a)| *a));
    let (before, after) = (stage(starts), stage(ends));
    let acts: Vec<&Act> = all[starts..ends].iter().map(|(_, a)| &a.act).collect();
    let done = StepDone::of(plan, &acts, (&before, &after));
    let step = &plan.steps[at];
    let opening = step.opening.as_deref().and_then(|id| plan.openings.iter().find(|o| o.id == id));
    let frame = frame(plan, &done, opening.map(|o| o.rect))?;
    let seen = |s: &Shape| s.parts.iter().any(|p| overlaps(p, frame));
    let named = |list: &[(PieceId, Vec<Laid>, bool)]| -> Vec<Shape> {
        list.iter().map(|(piece, laid, held)| shape(plan, *piece, laid, laid, *held)).collect()
    };
    let now = named(&done.now);
    let sizes = opening.map_or_else(Vec::new, |o| sizes(plan, &done, o.rect));
    let mut lies: Vec<Shape> = shapes(plan, &before).into_iter().filter(seen).collect();
    // What is done now is drawn once.
    lies.retain(|s| !now.iter().any(|n| n.piece == s.piece && n.held == s.held && n.parts == s.parts));
    Some(StepPicture {
        step: step.id.clone(),
        frame,
        before: lies,
        openings: openings(plan, &after).into_iter().filter(|o| overlaps(&corners_of(o.rect), frame)).collect(),
        beads: done.beads.iter().map(|(on, r)| corners(plan, *on, *r)).collect(),
        says: says(step, &now, &sizes),
        gone: named(&done.gone),
        cuts: done.cuts,
        ways: done.ways,
        now,
        sizes,
    })
}

fn corners_of([x, y, w, h]: [f64; 4]) -> Vec<[f64; 2]> {
    vec![[x, y], [x + w, y], [x + w, y + h], [x, y + h]]
}

fn overlaps(part: &[[f64; 2]], [x, y, w, h]: [f64; 4]) -> bool {
    let [x0, y0, x1, y1] = around(part.iter().copied());
    x0 < x + w && x1 > x && y0 < y + h && y1 > y
}

fn around(points: impl Iterator<Item = [f64; 2]>) -> [f64; 4] {
    points
        .fold([f64::MAX, f64::MAX, f64::MIN, f64::MIN], |[a, b, c, d], [x, y]| [a.min(x), b.min(y), c.max(x), d.max(y)])
}

/// What a step does, as it is drawn.
#[derive(Default)]
struct StepDone {
    /// Pieces with their parts, and whether they are held up.
    now: Vec<(PieceId, Vec<Laid>, bool)>,
    gone: Vec<(PieceId, Vec<Laid>, bool)>,
    beads: Vec<(SurfaceId, Rect)>,
    cuts: Vec<[f64; 4]>,
    ways: Vec<[f64; 4]>,
    /// Something was found in it.
    found: bool,
}

impl StepDone {
    fn of(plan: &Plan, acts: &[&Act], (before, after): (&Stage, &Stage)) -> Self {
        let mut out = Self::default();
        let lies = |stage: &Stage, piece: PieceId| -> Vec<Laid> {
            stage.layers.iter().filter(|l| l.piece == piece).copied().collect()
        };
        for act in acts {
            match act {
                Act::Place { piece, .. } | Act::Set { piece } | Act::Coat { piece, .. } | Act::Press { piece } => {
                    let laid = lies(after, *piece);
                    if !laid.is_empty() && !out.now.iter().any(|(p, ..)| p == piece) {
                        out.now.push((*piece, laid, false));
                    }
                }
                Act::Lift { flap } | Act::Drop { flap } => out.moved(plan, *flap, before, after),
                Act::Cut { cut } => {
                    let cut = &plan.cuts[*cut];
                    let point =
                        |(u, v): (Length, Length)| map(plan, SurfaceId::WALL, u.to_inches_f64(), v.to_inches_f64());
                    out.cuts.extend(cut.slits.iter().map(|s| {
                        let [[x1, y1], [x2, y2]] = [point(s.from), point(s.to)];
                        [x1, y1, x2, y2]
                    }));
                    out.cuts.extend(cut.away.iter().flat_map(|r| sides(box_of(plan, *r))));
                }
                Act::Seal { seal } => out.beads.extend(plan.seals[*seal].rects.iter().copied()),
                Act::Remove { piece: Some(piece) } => {
                    let laid = lies(before, *piece);
                    out.gone.extend((!laid.is_empty()).then_some((*piece, laid, false)));
                }
                Act::Damage { damage } => {
                    out.found = true;
                    out.cuts.extend(sides(box_of(plan, plan.departures.damages[*damage].rect)));
                }
                Act::Fasten | Act::Measure | Act::Hold | Act::Wait { .. } | Act::Remove { piece: None } => {}
            }
        }
        out
    }

    /// A flap that is lifted or dropped, by piece, as it hangs after.
    fn moved(&mut self, plan: &Plan, flap: FlapId, before: &Stage, after: &Stage) {
        let of = |list: &[Laid]| -> Vec<Laid> { list.iter().filter(|l| l.flap == Some(flap)).copied().collect() };
        let (was_up, is_up) = (of(&before.held), of(&after.held));
        let lies = of(if is_up.is_empty() { &after.layers } else { &before.layers });
        let held = !is_up.is_empty();
        let mut by_piece: BTreeMap<PieceId, Vec<Laid>> = BTreeMap::new();
        for l in if held { &is_up } else { &lies } {
            by_piece.entry(l.piece).or_default().push(if held { held_up(l) } else { *l });
        }
        self.now.extend(by_piece.into_iter().map(|(piece, laid)| (piece, laid, held)));
        // Its loose edge swings about the line it hangs from.
        for l in if held { &is_up } else { &was_up } {
            let middle = (l.rect.u0 + l.rect.u1).to_inches_f64() / 2.0;
            let loose = |v: Length| map(plan, l.on, middle, v.to_inches_f64());
            let (down, up) = (loose(l.rect.v0), loose(l.rect.v1 + l.rect.height()));
            let [from, to] = if held { [down, up] } else { [up, down] };
            self.ways.push([from[0], from[1], to[0], to[1]]);
        }
    }
}

fn sides([x, y, w, h]: [f64; 4]) -> [[f64; 4]; 4] {
    [[x, y, x + w, y], [x + w, y, x + w, y + h], [x, y + h, x + w, y + h], [x, y, x, y + h]]
}

/// What is shown: all that is done and some room, of the opening no more than that; all of the opening where nothing is laid.
fn frame(plan: &Plan, done: &StepDone, opening: Option<Rect>) -> Option<[f64; 4]> {
    let laid = done.now.iter().chain(&done.gone).flat_map(|(_, laid, _)| laid).map(|l| (l.on, l.rect));
    let points = laid.chain(done.beads.iter().copied()).flat_map(|(on, r)| corners(plan, on, r));
    let lines = done.cuts.iter().chain(&done.ways).flat_map(|[a, b, c, d]| [[*a, *b], [*c, *d]]);
    let of_opening = || opening.into_iter().flat_map(|r| corners_of(box_of(plan, r)));
    let work: Vec<[f64; 2]> = points.chain(lines).collect();
    let [x0, y0, x1, y1] = if work.is_empty() { around(of_opening()) } else { around(work.into_iter()) };
    if x0 > x1 {
        return None;
    }
    let (w, h) = (x1 - x0, y1 - y0);
    // What was found is shown with enough of the wall that one knows where it is.
    let least = if done.found { FOUND_SHOWN } else { LEAST_SHOWN };
    let room = (w.max(h) * ROOM).max((least - w.max(h)) / 2.0);
    Some([x0 - room, y0 - room, w + 2.0 * room, h + 2.0 * room])
}

/// How far what is laid goes past each side of the opening, by the piece that goes farthest there.
fn sizes(plan: &Plan, done: &StepDone, opening: Rect) -> Vec<SizeLine> {
    // A flap is where it was cut; only what is laid is measured.
    let laid = done.now.iter().flat_map(|(_, laid, _)| laid);
    let laid = laid.filter(|l| l.on == SurfaceId::WALL && l.flap.is_none());
    let Some(all) = laid.map(|l| l.rect).reduce(Rect::hull) else { return Vec::new() };
    // A course is not laid for the opening.
    if all.width() > opening.width() + opening.width() + opening.height() {
        return Vec::new();
    }
    let [x, y, w, h] = box_of(plan, opening);
    let [ax, ay, aw, ah] = box_of(plan, all);
    let across = (ay.max(y) + (ay + ah).min(y + h)) / 2.0;
    let across = if all.v0 > opening.v1 || all.v1 < opening.v0 { ay + ah / 2.0 } else { across };
    let down = if all.u0 > opening.u1 || all.u1 < opening.u0 { ax + aw / 2.0 } else { x + w / 2.0 };
    let one = |past: Length, side: PastSide, line: [f64; 4]| {
        past.is_positive().then(|| SizeLine { line, text: past.to_string(), past: side })
    };
    [
        one(opening.u0 - all.u0, PastSide::Left, [ax, across, x, across]),
        one(all.u1 - opening.u1, PastSide::Right, [x + w, across, ax + aw, across]),
        one(all.v1 - opening.v1, PastSide::Above, [down, ay, down, y]),
        one(opening.v0 - all.v0, PastSide::Below, [down, y + h, down, ay + ah]),
    ]
    .into_iter()
    .flatten()
    .collect()
}

fn says(step: &Step, now: &[Shape], sizes: &[SizeLine]) -> String {
    let pieces: Vec<String> = now.iter().map(|s| format!("{} {}", s.letter, s.name)).collect();
    let past = sizes.iter().map(|s| {
        let side = match s.past {
            PastSide::Left => "past the left",
            PastSide::Right => "past the right",
            PastSide::Above => "above the opening",
            PastSide::Below => "below the opening",
        };
        format!("{} {side}", s.text)
    });
    let past: Vec<String> = past.collect();
    let mut out = step.title.clone();
    if !pieces.is_empty() {
        out += &format!(": {}", pieces.join(", "));
    }
    if !past.is_empty() {
        out += &format!("; {}", past.join(", "));
    }
    out + "."
}
