//! A section as the wall is built: framing, sheathing, the unit, what keeps the cladding off and the cladding to scale; sheets and tapes thicker than
//! they are, each with its mark on a leader; laps, slopes and gaps with their sizes.

mod label;
mod parts;
mod stack;
mod unit;
mod wall;

pub use parts::{Built, Material, SectionMark, SectionRun, SectionShape, SectionSize};

use super::ask::{SectionAsk, SectionKind, Weather};
use super::cut::{legs, stretch};
use crate::build_up::BuildUp;
use crate::findings::Moment;
use crate::length::Length;
use crate::plan::Plan;
use crate::profile::fig;
use parts::{REACH, SectionCut};

/// Draws a section as the wall is built.
pub(super) fn build(plan: &Plan, moment: &Moment, weather: Weather, ask: &SectionAsk) -> Option<Built> {
    let opening = plan.openings.get(ask.opening)?;
    let finish = plan.walls.finishes.iter().find(|f| f.rect.u0 <= opening.rect.u0 && opening.rect.u0 < f.rect.u1);
    let finish = finish.or(plan.walls.finishes.first())?;
    let mut answers = plan.walls.stretches.get(opening.stretch).map(|s| s.answers.clone()).unwrap_or_default();
    answers.extend(finish.answers.clone());
    let layers = BuildUp::of(&answers, &plan.basis.figures).ok()?;
    let (r, share) = (opening.rect, ask.share());
    let part = |span: Length| Length::from_units((span.units() as f64 * share) as i64);
    let (legs, solid, _) = legs(plan, ask, r, part(r.width()), part(r.height()), Length::inch(REACH));
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
    let depth = solid.iter().map(|p| if ask.kind == SectionKind::Jamb { -p[1] } else { p[0] }).fold(0.0, f64::max);
    let u = r.u0 + part(r.width());
    let (along, zero) = stretch(plan, ask, u, Length::inch(REACH)).unwrap_or((r.along_v(), r.v0));
    let cut = SectionCut { plan, moment, ask, opening, layers, set_back, depth, along, zero };
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
