//! What can be built and should be known: figures that fall short, widths that nobody stocks, walls that do not close, grade too near, and work
//! that was done other than planned.

use super::{AsBuilt, Note, Piece, Plan, Seal, SurfaceId, gap_at_close};
use crate::job::{DeviationKind, Job, LevelKind, LevelSpec};
use crate::length::Length;
use crate::problem::Problem;
use crate::profile::{Figures, Profile, Usual, Usually, fig};
use crate::recipe::Role;
use crate::recipe::schools::{Feature, holds};
use crate::surface::{Edge, Rect};
use crate::trade::{Action, PieceId};
use std::collections::HashMap;

/// Pieces wider than any stocked width.
pub(super) fn unstocked(plan: &Plan) -> Vec<Note> {
    let wide = plan.pieces.iter_enumerated().filter_map(|(i, p)| {
        let cut = p.cut.as_ref()?;
        let widest = cut.widest?;
        (cut.width > widest).then(|| Note {
            code: "S-STOCK".into(),
            piece: Some(i),
            opening: p.opening,
            along: None,
            figure: None,
            fault: false,
            reason: format!("The {} has to be {} wide, and the widest stocked is {widest}.", p.name, cut.width),
            remedy: format!(
                "Make it of two strips, the inner one first and the outer one lapped over it by {} or more; or take a formed pan or a coat.",
                plan.basis.figures.length(fig::LINING_LAP)
            ),
        })
    });
    wide.collect()
}

/// Upright joints of panels that stand near the corner of an opening because no stud is clear of it.
pub(super) fn joints_at_corners(plan: &Plan) -> Vec<Note> {
    let clear = plan.basis.figures.length(fig::PANEL_CORNER_CLEAR);
    let corners: Vec<(Length, usize)> = plan
        .openings
        .iter()
        .enumerate()
        .filter(|(_, o)| o.feature == Feature::Opening)
        .flat_map(|(i, o)| [(o.rect.u0, i), (o.rect.u1, i)])
        .collect();
    // Courses of a sheet have edges, and a coat goes over its joints: only joints of panels are seen.
    let on_panels = |p: &Piece| plan.walls.stretches[p.stretch].courses.courses.is_empty();
    let mut out = Vec::new();
    for (i, p) in plan.pieces.iter_enumerated().filter(|(_, p)| p.role == Role::Joint && p.opening.is_none()) {
        let upright = p.regions.iter().map(|(_, r)| *r).find(|r| r.height() > r.width()).filter(|_| on_panels(p));
        let Some(r) = upright else { continue };
        let at = Length::from_units((r.u0.units() + r.u1.units()) / 2);
        let near = |(corner, of): &&(Length, usize)| {
            let o = plan.openings[*of].rect;
            (at - *corner).units().abs() < clear.units() && r.v0 < o.v1 && o.v0 < r.v1
        };
        let Some((corner, of)) = corners.iter().find(near) else { continue };
        let off = Length::from_units((at - *corner).units().abs());
        out.push(Note {
            code: "F25".into(),
            piece: Some(i),
            opening: Some(*of),
            along: None,
            figure: None,
            fault: false,
            reason: format!(
                "{}: the joint at {at} stands {off} from its corner, {clear} is asked, and no stud that the panels reach is clear of it: corners move, and a joint there opens first.",
                plan.openings[*of].name
            ),
            remedy: "Tape it over its whole length before the opening is cut; or notch one panel round the corner; or shift the opening, if it is not framed yet.".into(),
        });
    }
    out
}

/// Figures of the job outside of what is usual, each where something on this wall is made by it: `without` is the plan with a figure left to the
/// profile, `None` where that cannot be built.
pub(super) fn unusual(plan: &Plan, profile: &Profile, job: &Job, without: impl Fn(&str) -> Option<Plan>) -> Vec<Note> {
    let mut out = Vec::new();
    for f in profile.figures.iter().filter(|f| !f.usual.is_empty()) {
        let Some(own) = job.figures.get(&f.id) else { continue };
        if f.usual.iter().any(|u| u.when.is_empty() && f.lies(own, u) == Usually::Within) {
            continue;
        }
        let Some(usual) = without(&f.id) else { continue };
        for at in used_at(plan, &usual) {
            let answers = at.map_or(&plan.walls.finishes[0].answers, |o| &plan.openings[o].answers);
            let asked: Vec<&Usual> = f.usual.iter().filter(|u| holds(&u.when, answers)).collect();
            if asked.is_empty() || asked.iter().any(|u| f.lies(own, u) == Usually::Within) {
                continue;
            }
            let less = asked.iter().all(|u| f.lies(own, u) == Usually::Less);
            let fault = if less { &f.below } else { &f.above };
            let says: Vec<&str> = asked.iter().map(|u| u.says.as_str()).collect();
            let whose = at.map_or(String::new(), |o| format!("{}: ", plan.openings[o].id));
            out.push(Note {
                code: if fault.is_empty() { UNUSUAL.into() } else { fault.clone() },
                piece: None,
                opening: at,
                along: None,
                figure: Some(f.id.clone()),
                fault: !fault.is_empty(),
                reason: format!("{whose}{} is {own}. {} {}", f.name, says.join(" "), f.why),
                remedy: format!("Set it back to {}, or write down who decided and why.", f.value),
            });
        }
    }
    out
}

/// Code of a figure outside of what is usual that is no fault of the catalogue.
const UNUSUAL: &str = "S-UNUSUAL";

/// What one feature, or the walls themselves, are made by: pieces, beads and steps.
type MadeBy<'a> = (Vec<&'a Piece>, Vec<&'a Seal>, Vec<(&'a str, &'a [Action], &'a str)>);

/// What each feature of a plan is made by; `None` the walls themselves.
fn made(plan: &Plan) -> HashMap<Option<usize>, MadeBy<'_>> {
    let mut out: HashMap<Option<usize>, MadeBy> = HashMap::new();
    for p in &plan.pieces {
        out.entry(p.opening).or_default().0.push(p);
    }
    for s in &plan.seals {
        out.entry(plan.pieces[s.behind].opening).or_default().1.push(s);
    }
    let number: HashMap<&str, usize> = plan.openings.iter().enumerate().map(|(i, o)| (o.id.as_str(), i)).collect();
    for s in &plan.steps {
        let at = s.opening.as_ref().and_then(|id| number.get(id.as_str()).copied());
        out.entry(at).or_default().2.push((&s.id, &s.actions, &s.card.what));
    }
    out
}

/// True where everything on two walls is made alike.
pub fn made_alike(a: &Plan, b: &Plan) -> bool {
    made(a) == made(b)
}

/// Where two plans of the same features differ: `None` the walls themselves, else the number of the feature.
fn used_at(a: &Plan, b: &Plan) -> Vec<Option<usize>> {
    let (one, other) = (made(a), made(b));
    let all = std::iter::once(None).chain((0..a.openings.len()).map(Some));
    all.filter(|at| one.get(at) != other.get(at)).collect()
}

/// What was done other than planned, on the pieces there are.
pub(super) fn as_built(plan: &mut Plan, job: &Job) -> Result<Vec<AsBuilt>, Vec<Problem>> {
    let mut out = Vec::new();
    if job.as_built.is_empty() {
        return Ok(out);
    }
    let inch = Length::inch(1);
    let by_id: HashMap<String, PieceId> = plan.pieces.iter_enumerated().map(|(i, p)| (p.id.clone(), i)).collect();
    for (i, d) in job.as_built.iter().enumerate() {
        let at = |field: &str| format!("$.as_built[{i}].{field}");
        let Some(piece) = by_id.get(&d.piece).copied() else {
            return Err(vec![Problem::new(
                at("piece"),
                format!("there is no piece \"{}\"; name a piece of this job", d.piece),
            )]);
        };
        let planned = plan.pieces[piece].regions.clone();
        plan.departures.as_planned.entry(piece).or_insert(planned);
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
                let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
                let up = plan.basis.figures.length(fig::OFF_LEVEL);
                let left = Rect { u1: middle, ..widest };
                let right = Rect { u0: middle, v0: widest.v0 + up, v1: (widest.v1 + up).min(wall.v1), ..widest };
                plan.pieces[piece].regions =
                    [left, right].into_iter().filter(|r| r.has_area()).map(|r| (SurfaceId::WALL, r)).collect();
                AsBuilt::OffLevel { piece, on: SurfaceId::WALL, rect: right }
            }
            DeviationKind::ShortLeft
            | DeviationKind::ShortRight
            | DeviationKind::ShortTop
            | DeviationKind::ShortBottom => {
                let edge = d.kind.short_at().unwrap_or(Edge::Right);
                short(plan, piece, edge).ok_or_else(|| {
                    let name = &plan.pieces[piece].name;
                    vec![Problem::new(
                        at("kind"),
                        format!("the {name} is not wide enough to stop short there; choose another edge"),
                    )]
                })?
            }
            DeviationKind::FishMouth => {
                let low = widest.v1 - plan.basis.figures.length(fig::MOUTH_DEPTH);
                let rect = Rect::new(middle - inch, low.max(widest.v0), middle + inch, widest.v1);
                AsBuilt::Mouth { piece, on: SurfaceId::WALL, rect }
            }
            DeviationKind::SealedBottom => {
                let lowest = on_wall.clone().min_by_key(|r| r.v0).unwrap_or(widest);
                let v0 = lowest.v0
                    + plan
                        .basis
                        .figures
                        .length(fig::BED_INSET)
                        .min(lowest.height() - plan.basis.figures.length(fig::BED_BEAD))
                        .max(Length::ZERO);
                let rect =
                    Rect::new(lowest.u0, v0, lowest.u1, (v0 + plan.basis.figures.length(fig::BED_BEAD)).min(lowest.v1));
                AsBuilt::Bead { piece, on: SurfaceId::WALL, rect }
            }
        });
    }
    Ok(out)
}

/// Cuts what a piece lacks off the farthest edge of it on the wall; `None` where nothing would be left there.
fn short(plan: &mut Plan, piece: PieceId, edge: Edge) -> Option<AsBuilt> {
    let by = plan.basis.figures.length(fig::SHORT_BY);
    let on_wall = plan.pieces[piece].regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
    let hull = on_wall.reduce(Rect::hull)?;
    let (along, gone) = match edge {
        Edge::Left => (hull.width(), Rect { u1: hull.u0 + by, ..hull }),
        Edge::Right => (hull.width(), Rect { u0: hull.u1 - by, ..hull }),
        Edge::Top => (hull.height(), Rect { v0: hull.v1 - by, ..hull }),
        Edge::Bottom => (hull.height(), Rect { v1: hull.v0 + by, ..hull }),
    };
    if along <= by {
        return None;
    }
    let regions = std::mem::take(&mut plan.pieces[piece].regions);
    let kept = |(on, r): (SurfaceId, Rect)| {
        let parts: Vec<Rect> = if on == SurfaceId::WALL { r.minus(gone).collect() } else { vec![r] };
        parts.into_iter().map(move |r| (on, r))
    };
    plan.pieces[piece].regions = regions.into_iter().flat_map(kept).collect();
    Some(AsBuilt::Short { piece, on: SurfaceId::WALL, rect: gone, edge, by })
}

/// How far the end of walls that go all the way round is beside their start: one way and the other.
fn apart(job: &Job) -> Option<(Length, Length)> {
    let (east, north) = gap_at_close(&job.wall)?;
    let size = |l: Length| if l < Length::ZERO { -l } else { l };
    Some((size(east), size(north)))
}

/// True where the walls go all the way round and come back to where they began.
pub(super) fn all_round(job: &Job, figures: &Figures) -> bool {
    let read_to = figures.length(fig::WALLS_CLOSE);
    apart(job).is_some_and(|(east, north)| east <= read_to && north <= read_to)
}

/// Walls that go all the way round and do not come back to where they began.
pub(super) fn open_round(job: &Job, figures: &Figures) -> Option<Note> {
    let (east, north) = apart(job).filter(|_| !all_round(job, figures))?;
    Some(Note {
        code: "S-CLOSE".into(),
        piece: None,
        opening: None,
        along: None,
        figure: None,
        fault: false,
        reason: format!(
            "The walls go all the way round and do not close: the end is {east} beside the start one way and {north} the other."
        ),
        remedy: "Measure the walls again, corner to corner; opposite walls have to add up to the same.".into(),
    })
}

/// Grade and paving nearer to the foot of the barrier than the rule asks.
pub(super) fn graded(plan: &Plan, job: &Job, rule: &Figures) -> Vec<Note> {
    let near = |l: &LevelSpec| {
        let (id, what) = match l.kind {
            LevelKind::Soil => (fig::CLEAR_SOIL, "soil"),
            LevelKind::Paving => (fig::CLEAR_PAVING, "paving"),
            LevelKind::Floor => return None,
        };
        let (least, clear) = (rule.length(id), -l.at - plan.walls.plate);
        (clear < least).then(|| Note {
            code: "F29".into(),
            piece: None,
            opening: None,
            along: Some(plan.surfaces[SurfaceId::WALL].facet.rect().along_u()),
            figure: None,
            fault: true,
            reason: format!("{} lies {} below the foot of the barrier; over {what} it needs {least}.", l.name, clear.max(Length::ZERO)),
            remedy: format!(
                "Lower the {what} by {}, or end the barrier higher on the foundation with its base flashing; where neither can be, ask who designed it.",
                least - clear
            ),
        })
    };
    job.wall.levels.iter().filter_map(near).collect()
}
