//! Where a finding is.

use super::Finding;
use crate::layup::SheetId;
use crate::plan::{Plan, SurfaceId};
use crate::trade::PieceId;

/// The piece that a sheet of a finding's way stands for: such a way is told in terms of the plan.
pub fn piece_of(sheet: SheetId) -> PieceId {
    PieceId(sheet.0)
}

/// The feature that a finding is at.
pub(super) fn feature_at(plan: &Plan, f: &Finding, piece: impl Fn(&str) -> Option<PieceId>) -> Option<usize> {
    let (surface, [u0, v0, u1, v1]) = f.place;
    if surface != SurfaceId::WALL {
        return plan.surfaces[surface].opening;
    }
    let of_piece = |id: &String| plan.pieces[piece(id)?].opening;
    f.pieces.iter().find_map(of_piece).or_else(|| {
        plan.openings.iter().position(|o| {
            let [a, b, c, d] = o.hull.to_inches();
            u0 < c && v0 < d && u1 > a && v1 > b && u1 - u0 < plan.surfaces[SurfaceId::WALL].facet.width.to_inches_f64()
        })
    })
}
