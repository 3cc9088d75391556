//! A section as the wall is built: framing, sheathing, the unit, what keeps the cladding off and the cladding to scale; sheets and tapes thicker than
//! they are, each with its mark on a leader; laps, slopes and gaps with their sizes.

mod label;
mod parts;
mod stack;
mod unit;
mod wall;

pub use parts::{Built, Material, SectionMark, SectionRun, SectionShape, SectionSize};

use super::ask::{SectionAsk, SectionKind, Weather};
use super::cut::{Leg, corner_near, legs, mitre, stretch};
use crate::build_up::BuildUp;
use crate::findings::Moment;
use crate::job::CornerSpec;
use crate::length::Length;
use crate::plan::{Finish, Plan, Stretch};
use crate::profile::fig;
use parts::{CORNER, CornerCut, REACH, SectionCut};

/// The cladding at a place along the walls.
fn finish_at(plan: &Plan, u: Length) -> Option<&Finish> {
    plan.walls.finishes.iter().find(|f| f.rect.u0 <= u && u < f.rect.u1).or(plan.walls.finishes.first())
}

/// The layers of a wall by what is answered for its barrier and its cladding.
fn layers_of(plan: &Plan, stretch: Option<&Stretch>, finish: &Finish) -> Option<BuildUp> {
    let mut answers = stretch.map(|s| s.answers.clone()).unwrap_or_default();
    answers.extend(finish.answers.clone());
    BuildUp::of(&answers, &plan.basis.figures).ok()
}

/// The layers of the wall to the left of a corner, and the corner with those to its right.
fn corner_cut(plan: &Plan, corner: &CornerSpec, legs: &[Leg]) -> Option<(BuildUp, CornerCut)> {
    let at = |u: Length| {
        let stretch = plan.walls.stretches.iter().find(|s| s.rect.u0 <= u && u < s.rect.u1);
        layers_of(plan, stretch, finish_at(plan, u)?)
    };
    let (first, last) = (legs.first()?, legs.last()?);
    let seen = [first.span.lo - corner.at, last.span.hi - corner.at].map(Length::to_inches_f64);
    let right = at(corner.at)?;
    Some((
        at(corner.at - Length::from_units(1))?,
        CornerCut { at: corner.at, mitre: mitre(corner), right, level: first.fixed.0, seen },
    ))
}

/// Draws a section as the wall is built.
pub(super) fn build(plan: &Plan, moment: &Moment, weather: Weather, ask: &SectionAsk) -> Option<Built> {
    let opening = plan.openings.get(ask.opening)?;
    let finish = finish_at(plan, opening.rect.u0)?;
    let layers = layers_of(plan, plan.walls.stretches.get(opening.stretch), finish)?;
    let (r, share) = (opening.rect, ask.share());
    let part = |span: Length| Length::from_units((span.units() as f64 * share) as i64);
    let reach = Length::inch(if ask.kind == SectionKind::Corner { CORNER } else { REACH });
    let (legs, solid, _) = legs(plan, ask, r, part(r.width()), part(r.height()), reach);
    let deep = |name: &str| {
        let of = |s: &&crate::plan::Surface| s.opening == Some(ask.opening) && s.name == name;
        plan.surfaces.iter().find(of).map_or(0.0, |s| match ask.kind {
            SectionKind::Jamb => s.facet.width.to_inches_f64(),
            _ => s.facet.height.to_inches_f64(),
        })
    };
    let set_back = match ask.kind {
        SectionKind::Sill => deep("sill-out"),
        SectionKind::Head => deep("head-out"),
        SectionKind::Jamb => deep("jamb-left-out"),
        _ => 0.0,
    };
    let (layers, corner) = match ask.kind {
        SectionKind::Corner => {
            let (left, corner) = corner_cut(plan, corner_near(plan, r.along_u())?, &legs)?;
            (left, Some(corner))
        }
        _ => (layers, None),
    };
    let depth = solid.iter().map(|p| if ask.kind == SectionKind::Jamb { -p[1] } else { p[0] }).fold(0.0, f64::max);
    let depth = if corner.is_some() { 0.0 } else { depth };
    let u = r.u0 + part(r.width());
    let (along, zero) = stretch(plan, ask, u, Length::inch(REACH)).unwrap_or((r.along_v(), r.v0));
    let cut = SectionCut { plan, moment, ask, opening, layers, corner, set_back, depth, along, zero };
    let mut out = Built::default();
    wall::framing(&cut, &solid, &mut out);
    let stacked = stack::sheets(&cut, weather, &legs, &mut out);
    unit::unit(&cut, &stacked, &solid, &mut out);
    let face = wall::outside(&cut, &legs, &stacked, &mut out);
    let laps = stack::laps(&cut, &legs);
    label::sizes(&cut, &laps, face, &mut out);
    label::marks(&cut, face, &mut out);
    let thin = cut.figure(fig::SHEET_THICK);
    let times = (stack::SHEET / thin.max(0.001)).round();
    out.thickened =
        format!("Sheets and tapes are drawn about {times} times as thick as they are; all else is to scale.");
    Some(out)
}
