//! What can be built and should be known: figures that fall short, widths that nobody stocks, walls that do not close, grade too near, and work
//! that was done other than planned.

use super::{AsBuilt, Note, Plan, SurfaceId, gap_at_close};
use crate::job::{DeviationKind, Job, LevelKind, LevelSpec};
use crate::length::Length;
use crate::problem::Problem;
use crate::profile::{Figures, Profile, fig};
use crate::recipe::Role;
use crate::surface::Rect;
use std::collections::HashMap;

/// Figures that fall short of the profile's, and pieces wider than any stocked width.
pub(super) fn notes(plan: &Plan, profile: &Profile, job: &Job) -> Vec<Note> {
    let short = profile.out_of_rule(&job.figures).into_iter().map(|(f, own, fault)| Note {
        code: fault.to_owned(),
        piece: None,
        opening: None,
        figure: Some(f.id.clone()),
        reason: format!("{} is {own}, the profile asks {}: {}", f.name, f.value, f.why),
        remedy: format!(
            "Set it to {} or {}, or write down who decided and why.",
            f.value,
            if fault == f.below { "more" } else { "less" }
        ),
    });
    let wide = plan.pieces.iter().enumerate().filter_map(|(i, p)| {
        let cut = p.cut.as_ref()?;
        let widest = cut.widest?;
        (cut.width > widest).then(|| Note {
            code: "S-STOCK".into(),
            piece: Some(i),
            opening: p.opening,
            figure: None,
            reason: format!("The {} has to be {} wide, and the widest stocked is {widest}.", p.name, cut.width),
            remedy: format!(
                "Make it of two strips, the inner one first and the outer one lapped over it by {} or more; or take a formed pan or a coat.",
                plan.figures.length(fig::LINING_LAP)
            ),
        })
    });
    short.chain(wide).collect()
}

/// What was done other than planned, on the pieces there are.
pub(super) fn as_built(plan: &mut Plan, job: &Job) -> Result<Vec<AsBuilt>, Vec<Problem>> {
    let mut out = Vec::new();
    if job.as_built.is_empty() {
        return Ok(out);
    }
    let inch = Length::inch(1);
    let by_id: HashMap<String, usize> = plan.pieces.iter().enumerate().map(|(i, p)| (p.id.clone(), i)).collect();
    for (i, d) in job.as_built.iter().enumerate() {
        let at = |field: &str| format!("$.as_built[{i}].{field}");
        let Some(piece) = by_id.get(&d.piece).copied() else {
            return Err(vec![Problem::new(
                at("piece"),
                format!("there is no piece \"{}\"; name a piece of this job", d.piece),
            )]);
        };
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
                let wall = plan.surfaces[0].facet.rect();
                let up = plan.figures.length(fig::OFF_LEVEL);
                let left = Rect { u1: middle, ..widest };
                let right = Rect { u0: middle, v0: widest.v0 + up, v1: (widest.v1 + up).min(wall.v1), ..widest };
                plan.pieces[piece].regions =
                    [left, right].into_iter().filter(|r| r.has_area()).map(|r| (SurfaceId::WALL, r)).collect();
                AsBuilt::OffLevel { piece, on: SurfaceId::WALL, rect: right }
            }
            DeviationKind::FishMouth => {
                let low = widest.v1 - plan.figures.length(fig::MOUTH_DEPTH);
                let rect = Rect::new(middle - inch, low.max(widest.v0), middle + inch, widest.v1);
                AsBuilt::Mouth { piece, on: SurfaceId::WALL, rect }
            }
            DeviationKind::SealedBottom => {
                let lowest = on_wall.clone().min_by_key(|r| r.v0).unwrap_or(widest);
                let v0 = lowest.v0
                    + plan
                        .figures
                        .length(fig::BED_INSET)
                        .min(lowest.height() - plan.figures.length(fig::BED_BEAD))
                        .max(Length::ZERO);
                let rect =
                    Rect::new(lowest.u0, v0, lowest.u1, (v0 + plan.figures.length(fig::BED_BEAD)).min(lowest.v1));
                AsBuilt::Bead { piece, on: SurfaceId::WALL, rect }
            }
        });
    }
    Ok(out)
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
        figure: None,
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
        let (least, clear) = (rule.length(id), -l.at - plan.plate);
        (clear < least).then(|| Note {
            code: "F29".into(),
            piece: None,
            opening: None,
            figure: None,
            reason: format!("{} lies {} below the foot of the barrier; over {what} it needs {least}.", l.name, clear.max(Length::ZERO)),
            remedy: format!(
                "Lower the {what} by {}, or end the barrier higher on the foundation with its base flashing; where neither can be, ask who designed it.",
                least - clear
            ),
        })
    };
    job.wall.levels.iter().filter_map(near).collect()
}
