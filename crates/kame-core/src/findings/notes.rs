//! What should be known though no water shows it: short figures, stock, pieces done other than planned.

use super::{Finding, Fix, Severity};
use crate::job::{Deviation, DeviationKind};
use crate::plan::{AsBuilt, Damage, Effect, Plan, SurfaceId, found_kind};
use crate::profile::fig;
use crate::sequence::Stage;
use crate::surface::Edge;
use crate::trade::PieceId;

/// The deviation behind something done other than planned, and the fault it is.
pub fn deviation(plan: &Plan, as_built: &AsBuilt) -> (Deviation, &'static str) {
    let of = |kind, piece: PieceId| Deviation { kind, piece: plan.pieces[piece].id.clone() };
    match *as_built {
        AsBuilt::Mouth { piece, .. } => (of(DeviationKind::FishMouth, piece), "F14"),
        AsBuilt::Bead { piece, .. } => (of(DeviationKind::SealedBottom, piece), "F05"),
        AsBuilt::OffLevel { piece, .. } => (of(DeviationKind::OffLevel, piece), "F26"),
        AsBuilt::Short { piece, edge, .. } => (of(short_kind(edge), piece), "F02"),
    }
}

fn short_kind(edge: Edge) -> DeviationKind {
    match edge {
        Edge::Left => DeviationKind::ShortLeft,
        Edge::Right => DeviationKind::ShortRight,
        Edge::Top => DeviationKind::ShortTop,
        Edge::Bottom => DeviationKind::ShortBottom,
    }
}

/// What was done other than planned, and what to do about it.
pub fn as_built_words(plan: &Plan, a: &AsBuilt) -> (String, String) {
    let name = &plan.pieces[a.piece()].name;
    match *a {
        AsBuilt::Mouth { .. } => (
            format!("The {name} stands open in a fish-mouth at its upper edge."),
            format!("Cut the fish-mouth in the {name} flat, press it and patch it: it is a funnel."),
        ),
        AsBuilt::Bead { .. } => (
            format!("A bead closes the lower edge of the {name}."),
            format!("Take the bead out from under the {name}: what gets in has to get out."),
        ),
        AsBuilt::OffLevel { .. } => (
            format!(
                "The right half of the {name} hangs {} too high: its lap over the course below is that much shorter.",
                plan.basis.figures.length(fig::OFF_LEVEL)
            ),
            format!("Snap a line and hang the {name} to it, or add a strip behind its lower edge."),
        ),
        AsBuilt::Short { by, edge, .. } => (
            format!("The {name} stops {by} short at its {}.", super::words::edge(edge)),
            format!(
                "Put a piece on the {name} that reaches where it should, lapped as water runs; or take it off and cut it again."
            ),
        ),
    }
}

/// What to do about it.
pub const MEND: &str = "Choose a repair: each that is proposed was rained on.";

fn of_damage(d: &Damage) -> String {
    format!("{}: ", d.id)
}

/// The fault as which it is told until it is mended.
pub fn found_code(d: &Damage) -> &'static str {
    found_kind(d.what).map_or("S-FOUND", |k| &k.fault)
}

/// What was found, in a sentence.
pub fn found_words(d: &Damage) -> String {
    let says = found_kind(d.what).map_or("", |k| &k.says);
    format!("{}{says}", of_damage(d))
}

/// Gives a leak that no over and no left-out step explains the fault of the answer it follows from, where the feature it is at has one.
pub fn explain(plan: &Plan, f: &mut Finding) {
    let Some(at) = super::place::feature_at(plan, f, |id| plan.pieces.position(|p| p.id == id)) else {
        return;
    };
    if let Some(n) = plan.notes.iter().find(|n| n.opening == Some(at) && n.piece.is_none()) {
        (f.code, f.remedy) = (n.code.clone(), n.remedy.clone());
        f.fix = n.figure.clone().map(|id| Fix::Figure { id });
        f.reason = format!("{} {}", n.reason, f.reason);
    }
}

/// Notes of the plan, and deviations that no other finding tells.
pub fn findings(plan: &Plan, stage: &Stage, said: &[Finding]) -> Vec<Finding> {
    let nowhere = (SurfaceId::WALL, [0.0; 4]);
    let mut out = Vec::new();
    for n in plan
        .notes
        .iter()
        .filter(|n| !said.iter().any(|f| n.opening.is_some() && f.code == n.code && f.reason.starts_with(&n.reason)))
    {
        let piece = n.piece.map(|p| &plan.pieces[p]);
        let rect = n.opening.map_or(nowhere, |o| (SurfaceId::WALL, plan.openings[o].rect.to_inches()));
        let place = piece.and_then(|p| p.regions.first()).map_or(rect, |(on, r)| (*on, r.to_inches()));
        let fix = n.figure.clone().map(|id| Fix::Figure { id });
        let pieces = piece.map(|p| p.id.clone()).into_iter().collect();
        let (reason, remedy) = (n.reason.clone(), n.remedy.clone());
        let severity = if n.fault { Severity::Fault } else { Severity::Note };
        let along = n.along.map(|a| [a.lo.to_inches_f64(), a.hi.to_inches_f64()]);
        out.push(Finding { reason, remedy, along, ..Finding::seen(&n.code, severity, pieces, place, fix) });
    }
    // What was patched as it stands is mended, unless water or a rule says otherwise.
    for a in plan.departures.as_built.iter().filter(|a| !stage.is_renewed(a.piece()) && !plan.is_mended(a.piece())) {
        let (deviation, code) = deviation(plan, a);
        let fix = Fix::PutRight { deviation };
        if said.iter().any(|f| f.fix.as_ref() == Some(&fix)) {
            continue;
        }
        let (piece, (on, rect)) = (a.piece(), a.place());
        let (reason, remedy) = as_built_words(plan, a);
        let reason = format!("{reason} No water shows it.");
        let pieces = vec![plan.pieces[piece].id.clone()];
        let seen = Finding::seen(code, Severity::Fault, pieces, (on, rect.to_inches()), Some(fix));
        out.push(Finding { reason, remedy, ..seen });
    }
    // What shows only once glue has let go is not said as long as it holds: what was found is no good news all the same.
    let worries = |f: &&Finding| f.severity < Severity::Glue;
    let said_already = |d: &Damage| said.iter().filter(worries).any(|f| f.reason.starts_with(&of_damage(d)));
    for d in plan.departures.damages.iter().filter(|d| !d.mended && !said_already(d)) {
        let unseen = if d.effect == Effect::None { "" } else { " No water shows it." };
        let reason = format!("{}{unseen}", found_words(d));
        let seen =
            Finding::seen(found_code(d), Severity::Fault, Vec::new(), (SurfaceId::WALL, d.rect.to_inches()), None);
        out.push(Finding { reason, remedy: MEND.into(), ..seen });
    }
    out
}
