//! What to cut, and from which rolls (handbook 5.1, 5.4).

mod nest;
mod time;

pub use nest::{Nesting, Outcome, Roll, nest};
pub use time::{Product, TemperatureLimit, TemperatureWindow, minutes, products, temperatures};

use crate::detail::recipe::Role;
use crate::length::Length;
use crate::plan::Plan;
use serde::Serialize;
use std::collections::BTreeMap;

/// One piece to cut.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CutPiece {
    /// Id of the piece.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Letter on drawings.
    pub letter: String,
    /// What it does.
    pub role: Role,
    /// At which opening, empty for the wall.
    pub opening: String,
    /// Length to cut, rounded up, never down.
    pub length: Length,
    /// Width to cut, rounded up, never down.
    pub width: Length,
    /// Length as people read it.
    pub length_text: String,
    /// Width as people read it.
    pub width_text: String,
    /// Ticked off at the bench.
    pub cut: bool,
    /// From which roll, from 1; 0 where it is not cut from a roll or does not fit on one.
    pub roll: usize,
}

/// All pieces of one product and stock width.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CutGroup {
    /// Generic material.
    pub product: String,
    /// Width of the stock, as text.
    pub stock_width: String,
    /// Length of a whole roll, as text; empty where it is not cut from a roll.
    pub roll_length: String,
    /// Pieces in cutting order: roll by roll, the longest first.
    pub pieces: Vec<CutPiece>,
    /// Length of all pieces together, as text.
    pub total: String,
    /// Whole rolls needed.
    pub rolls: usize,
    /// How good the nesting is known to be.
    pub outcome: Option<Outcome>,
    /// No nesting needs fewer rolls than this.
    pub bound: usize,
    /// What is left of the rolls, as text, roll by roll.
    pub leftovers: Vec<String>,
    /// What to know about this group, in a sentence; empty where there is nothing.
    pub remark: String,
}

/// Product, stock width, and the length of a roll where there is one.
type Stock = (String, Length, Option<Length>);

/// The cut list of a plan: what steps left out would have used is not in it.
pub fn cut_list(plan: &Plan, ticks: &[String]) -> Vec<CutGroup> {
    let round = plan.figures.length("cut_round");
    let mut groups: BTreeMap<Stock, Vec<(Length, CutPiece)>> = BTreeMap::new();
    for (_, action) in plan.actions() {
        let (crate::sequence::Act::Place { piece, .. } | crate::sequence::Act::Set { piece }) = &action.act else {
            continue;
        };
        let piece = &plan.pieces[*piece];
        let Some(cut) = &piece.cut else { continue };
        let (length, width) = (cut.length.ceil_step(round), cut.width.ceil_step(round));
        let entry = CutPiece {
            id: piece.id.clone(),
            name: piece.name.clone(),
            letter: piece.letter.clone(),
            role: piece.role,
            opening: piece.opening.map_or_else(String::new, |o| plan.openings[o].id.clone()),
            length,
            width,
            length_text: length.to_string(),
            width_text: width.to_string(),
            cut: ticks.contains(&piece.id),
            roll: 0,
        };
        groups.entry((piece.product.clone(), cut.stock_width, cut.roll)).or_default().push((length, entry));
    }
    groups.into_iter().map(|((product, stock, roll), pieces)| group(plan, product, stock, roll, pieces)).collect()
}

fn group(
    plan: &Plan,
    product: String,
    stock: Length,
    roll: Option<Length>,
    pieces: Vec<(Length, CutPiece)>,
) -> CutGroup {
    let total: Length = pieces.iter().map(|p| p.0).sum();
    let mut out = CutGroup {
        product,
        stock_width: stock.to_string(),
        roll_length: roll.map(|r| r.to_string()).unwrap_or_default(),
        pieces: Vec::new(),
        total: total.to_string(),
        rolls: 0,
        outcome: None,
        bound: 0,
        leftovers: Vec::new(),
        remark: String::new(),
    };
    let Some(roll) = roll else {
        out.pieces = pieces.into_iter().map(|p| p.1).collect();
        return out;
    };
    let barrier = pieces.iter().any(|p| p.1.role == Role::Barrier);
    if barrier {
        // Courses take their rolls as they are laid, ripped strips included; the course rule has counted them.
        out.rolls = plan.courses.rolls;
        let runs: Vec<usize> = plan.courses.courses.iter().flat_map(|c| &c.runs).map(|r| r.roll + 1).collect();
        out.pieces = pieces.into_iter().zip(runs).map(|((_, p), roll)| CutPiece { roll, ..p }).collect();
        out.bound =
            nest::bound_of_strips(&out.pieces.iter().map(|p| (p.width, p.length)).collect::<Vec<_>>(), stock, roll);
        out.outcome = Some(Outcome::of(out.rolls, out.bound));
        return out;
    }
    let lengths: Vec<Length> = pieces.iter().map(|p| p.0).collect();
    let nesting = nest(&lengths, roll);
    let pieces: Vec<CutPiece> = pieces.into_iter().map(|p| p.1).collect();
    for (n, r) in nesting.rolls.iter().enumerate() {
        out.pieces.extend(r.pieces.iter().map(|&i| CutPiece { roll: n + 1, ..pieces[i].clone() }));
        out.leftovers.push(r.left.to_string());
    }
    if let Some(&i) = nesting.too_long.first() {
        out.remark = format!(
            "The {} is {} long, longer than a roll of {roll}: splice it, the upper part lapping over the lower.",
            pieces[i].name, pieces[i].length
        );
        out.pieces.extend(nesting.too_long.iter().map(|&i| pieces[i].clone()));
    }
    (out.rolls, out.bound, out.outcome) = (nesting.rolls.len(), nesting.bound, Some(nesting.outcome));
    out
}
