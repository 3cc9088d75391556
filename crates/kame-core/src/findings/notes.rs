//! What should be known though no water shows it: short figures, stock, pieces done other than planned.

use super::{Finding, Fix, Severity};
use crate::job::{Deviation, DeviationKind};
use crate::plan::{AsBuilt, Plan, SurfaceId};

/// The deviation behind something done other than planned, and the fault it is.
pub fn deviation(plan: &Plan, as_built: &AsBuilt) -> (Deviation, &'static str) {
    let of = |kind, piece: usize| Deviation { kind, piece: plan.pieces[piece].id.clone() };
    match *as_built {
        AsBuilt::Mouth { piece, .. } => (of(DeviationKind::FishMouth, piece), "F14"),
        AsBuilt::Bead { piece, .. } => (of(DeviationKind::SealedBottom, piece), "F05"),
    }
}

/// Notes of the plan, and deviations that no other finding tells.
pub fn findings(plan: &Plan, said: &[Finding]) -> Vec<Finding> {
    let nowhere = (SurfaceId::WALL, [0.0; 4]);
    let mut out = Vec::new();
    for n in &plan.notes {
        let piece = n.piece.map(|p| &plan.pieces[p]);
        let place = piece.and_then(|p| p.regions.first()).map_or(nowhere, |(on, r)| (*on, r.to_inches()));
        let fix = n.figure.clone().map(|id| Fix::Figure { id });
        let pieces = piece.map(|p| p.id.clone()).into_iter().collect();
        let (reason, remedy) = (n.reason.clone(), n.remedy.clone());
        out.push(Finding { reason, remedy, ..Finding::seen(&n.code, Severity::Note, pieces, place, fix) });
    }
    for a in &plan.as_built {
        let (deviation, code) = deviation(plan, a);
        let fix = Fix::PutRight { deviation };
        if said.iter().any(|f| f.fix.as_ref() == Some(&fix)) {
            continue;
        }
        let (AsBuilt::Mouth { piece, on, rect } | AsBuilt::Bead { piece, on, rect }) = *a;
        let name = &plan.pieces[piece].name;
        let (reason, remedy) = match a {
            AsBuilt::Mouth { .. } => (
                format!(
                    "The {name} stands open in a fish-mouth at its upper edge. Something else keeps water away from it here."
                ),
                format!(
                    "Cut the fish-mouth flat, press it, and patch it on the {name}; a funnel waits for the one day the piece above lets go."
                ),
            ),
            AsBuilt::Bead { .. } => (
                format!("A bead closes the lower edge of the {name}. Water still finds another way out."),
                format!("Take the bead out from under the {name}."),
            ),
        };
        let pieces = vec![plan.pieces[piece].id.clone()];
        let seen = Finding::seen(code, Severity::Note, pieces, (on, rect.to_inches()), Some(fix));
        out.push(Finding { reason, remedy, ..seen });
    }
    out
}
