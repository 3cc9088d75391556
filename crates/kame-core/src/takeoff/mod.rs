//! What to cut, and from which rolls (handbook 5.1, 5.4).

mod cost;
mod mixing;
mod quantity;
mod sums;
mod time;

pub use cost::{Cost, cost, labour};
pub use mixing::{Mix, Mixed, limits as mix_limits, mix};
pub(crate) use quantity::covered;
pub use quantity::{Amount, Bead, Use, bead, coat, piece_amounts, uses};
pub use sums::{By, Sum, sums};
pub use time::{TemperatureLimit, TemperatureWindow, minutes, step_minutes, temperatures};

use crate::length::Length;
use crate::nest::{Cheapest, Cutting, Nesting, Outcome, RollStock, cheapest, nest};
use crate::plan::Plan;
use crate::profile::fig;
use crate::recipe::Role;
use crate::trade::PieceId;
use serde::Serialize;
use std::collections::{BTreeMap, HashMap, HashSet};

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
    /// What the piece is there for.
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
    /// Cut and spoiled: it is cut once more.
    pub spoiled: bool,
    /// From which roll, from 1; 0 where it is not cut from a roll or does not fit on one.
    pub roll: usize,
}

/// All pieces of one product and stock width.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CutGroup {
    /// Generic material.
    pub product: String,
    /// What it is cut from: roll, panel, board.
    pub unit: String,
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
    /// The rolls drawn to scale, where pieces are cut along them; empty where courses take their rolls as they are laid.
    pub bars: Vec<Bar>,
}

/// A roll or panel drawn to scale.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Bar {
    /// Which roll, from 1.
    pub roll: usize,
    /// Its length in inches.
    pub length: f64,
    /// Its width in inches.
    pub width: f64,
    /// Its pieces.
    pub pieces: Vec<BarPiece>,
}

/// A piece on a roll or panel.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct BarPiece {
    /// Id of the piece.
    pub id: String,
    /// Letter and opening.
    pub label: String,
    /// Where it begins, in inches from the end of the roll.
    pub from: f64,
    /// Where it ends.
    pub to: f64,
    /// Its lower edge, in inches from that of the roll or panel.
    pub low: f64,
    /// Its upper edge.
    pub high: f64,
    /// Cut already.
    pub cut: bool,
}

/// Product, stock width, and the length of a roll where there is one.
type Stock = (String, Length, Option<Length>);

/// A piece to cut, and where it was taken from as it was laid: stretch of the walls and roll of that stretch.
struct Wanted {
    laid: Option<(usize, usize)>,
    entry: CutPiece,
}

/// The cut list of a plan: what steps left out would have used is not in it.
pub fn cut_list(plan: &Plan, ticks: &[String]) -> Vec<CutGroup> {
    cut_list_within(plan, ticks, &|| false)
}

/// The same, nested with the best that is found until `enough` says so.
pub fn cut_list_within(plan: &Plan, ticks: &[String], enough: &(dyn Fn() -> bool + Sync)) -> Vec<CutGroup> {
    let round = plan.basis.figures.length(fig::CUT_ROUND);
    let ticks: HashSet<&str> = ticks.iter().map(String::as_str).collect();
    let mut groups: BTreeMap<Stock, Vec<Wanted>> = BTreeMap::new();
    let mut laid_before: HashMap<PieceId, u32> = HashMap::new();
    for (_, action) in plan.actions() {
        let (crate::trade::Act::Place { piece, .. } | crate::trade::Act::Set { piece }) = &action.act else {
            continue;
        };
        // What was taken off and laid again is cut once more, unless it came off whole.
        let times = laid_before.entry(*piece).or_default();
        *times += 1;
        let piece = &plan.pieces[*piece];
        if *times > 1 && piece.comes_off_whole() {
            continue;
        }
        let Some(cut) = &piece.cut else { continue };
        let again = *times > 1;
        let id = if again { format!("{}~again{}", piece.id, *times - 1) } else { piece.id.clone() };
        let (length, width) = (cut.length.ceil_step(round), cut.width.ceil_step(round));
        let entry = CutPiece {
            cut: ticks.contains(id.as_str()),
            id,
            name: if again { format!("{}, again", piece.name) } else { piece.name.clone() },
            letter: piece.letter.clone(),
            role: piece.role,
            opening: piece.opening.map_or_else(String::new, |o| plan.openings[o].id.clone()),
            length,
            width,
            length_text: length.to_string(),
            width_text: width.to_string(),
            spoiled: false,
            roll: 0,
        };
        let group = groups.entry((piece.product.clone(), cut.stock_width, cut.roll)).or_default();
        // What was spoiled has used its length all the same.
        for n in 1..=plan.basis.bench.spoiled.get(&piece.id).copied().unwrap_or(0) {
            let (id, name) = (format!("{}~{n}", piece.id), format!("{}, spoiled", piece.name));
            group.push(Wanted { laid: None, entry: CutPiece { id, name, cut: true, spoiled: true, ..entry.clone() } });
        }
        let laid = cut.taken.map(|roll| (piece.stretch, roll));
        group.push(Wanted { laid, entry });
    }
    groups.into_iter().map(|(stock, pieces)| group(plan, stock, pieces, enough)).collect()
}

fn group(
    plan: &Plan,
    (product, stock, roll): Stock,
    pieces: Vec<Wanted>,
    enough: &(dyn Fn() -> bool + Sync),
) -> CutGroup {
    let cutting = Cutting { stop: enough, ..Cutting::default() };
    let total: Length = pieces.iter().map(|p| p.entry.length).sum();
    let known = plan.product(&product);
    let panel = known.filter(|p| matches!(p.kind.as_str(), "panel" | "board"));
    let mut out = CutGroup {
        unit: panel.map_or_else(|| "roll".into(), |p| p.unit.clone()),
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
        bars: Vec::new(),
    };
    if let Some(made) = across(plan, &out.product, stock, roll, &pieces) {
        on_panels(&mut out, &made, pieces.into_iter().map(|p| p.entry).collect());
        return out;
    }
    let Some(roll) = roll else {
        out.pieces = pieces.into_iter().map(|p| p.entry).collect();
        return out;
    };
    let sizes: Vec<(Length, Length)> = pieces.iter().map(|p| (p.entry.width, p.entry.length)).collect();
    let (laid, cut): (Vec<Wanted>, Vec<Wanted>) = pieces.into_iter().partition(|p| p.laid.is_some());
    // Courses take their rolls as they are laid, ripped strips included; the course rule of their stretch has counted them.
    let courses = !laid.is_empty();
    let mut first = BTreeMap::new();
    for Wanted { laid, entry } in laid {
        let Some((stretch, taken)) = laid else { continue };
        let before = *first.entry(stretch).or_insert(out.rolls);
        out.rolls = before + plan.walls.stretches[stretch].courses.rolls;
        out.pieces.push(CutPiece { roll: before + taken + 1, ..entry });
    }
    let cut: Vec<CutPiece> = cut.into_iter().map(|p| p.entry).collect();
    let lengths: Vec<Length> = cut.iter().map(|p| p.length).collect();
    let nesting = nest(&lengths, &[RollStock::to_buy(roll, None)], &cutting);
    let done: Vec<Option<usize>> = cut.iter().map(|p| cut_from(plan, p, out.rolls)).collect();
    let rolls = with_what_is_cut(&lengths, roll, &done, &nesting, &cutting);
    for (n, pieces) in &rolls {
        let number = out.rolls + n + 1;
        out.bars.push(bar(number, (roll, stock), pieces.iter().map(|&i| &cut[i])));
        out.pieces.extend(pieces.iter().map(|&i| CutPiece { roll: number, ..cut[i].clone() }));
        let used: Length = pieces.iter().map(|&i| lengths[i]).sum();
        out.leftovers.push((roll - used).max(Length::ZERO).to_string());
    }
    if let Some(&i) = nesting.too_long.first() {
        out.remark = format!(
            "The {} is {} long, longer than a roll of {roll}: splice it, the upper part lapping over the lower.",
            cut[i].name, cut[i].length
        );
        out.pieces.extend(nesting.too_long.iter().map(|&i| cut[i].clone()));
    }
    out.rolls += rolls.len();
    (out.bound, out.outcome) = if courses {
        let bound = bound_of_strips(&sizes, stock, roll);
        (bound, Some(Outcome::of(out.rolls, bound)))
    } else {
        let outcome =
            if rolls.len() == nesting.rolls.len() { nesting.outcome } else { Outcome::of(rolls.len(), nesting.bound) };
        (nesting.bound, Some(outcome))
    };
    out
}

/// Puts pieces on the panels that they are cut from.
fn on_panels(out: &mut CutGroup, made: &Cheapest, list: Vec<CutPiece>) {
    let (along, high) = (made.along.to_inches_f64(), made.across.to_inches_f64());
    (out.rolls, out.roll_length, out.stock_width) =
        (made.sheets.len(), made.along.to_string(), made.across.to_string());
    (out.outcome, out.bound) = (Some(made.outcome), made.outcome.bound(made.sheets.len()));
    for (n, sheet) in made.sheets.iter().enumerate() {
        let on = sheet.pieces.iter().map(|p| (&list[p.piece], p.u.to_inches_f64(), p.v.to_inches_f64()));
        out.bars.push(Bar { roll: n + 1, length: along, width: high, pieces: on.map(bar_piece).collect() });
        out.pieces.extend(sheet.pieces.iter().map(|p| CutPiece { roll: n + 1, ..list[p.piece].clone() }));
    }
}

/// The roll, from 0 behind those of the courses, that a piece was cut from already.
fn cut_from(plan: &Plan, piece: &CutPiece, courses: usize) -> Option<usize> {
    plan.basis.bench.rolls.get(&piece.id).filter(|_| piece.cut)?.checked_sub(courses + 1)
}

/// Pieces by roll, what is cut already on the roll it was cut from: as nested where that is the same, else the others are nested on what is left
/// of the rolls begun and on new ones.
fn with_what_is_cut(
    lengths: &[Length],
    roll: Length,
    done: &[Option<usize>],
    nesting: &Nesting,
    cutting: &Cutting,
) -> BTreeMap<usize, Vec<usize>> {
    let nested: BTreeMap<usize, Vec<usize>> =
        nesting.rolls.iter().enumerate().map(|(n, r)| (n, r.pieces.clone())).collect();
    let stays = |(n, pieces): (&usize, &Vec<usize>)| pieces.iter().all(|i| done[*i].is_none_or(|d| d == *n));
    if nested.iter().all(stays) {
        return nested;
    }
    let mut out: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
    for (i, n) in done.iter().enumerate().filter_map(|(i, d)| Some((i, (*d)?))) {
        out.entry(n).or_default().push(i);
    }
    let left = |pieces: &[usize]| roll - pieces.iter().map(|&i| lengths[i]).sum();
    let begun: Vec<(usize, Length)> = out.iter().map(|(n, p)| (*n, left(p))).filter(|(_, l)| l.is_positive()).collect();
    let mut stock: Vec<RollStock> =
        begun.iter().map(|(_, length)| RollStock { length: *length, price: None, on_hand: Some(1) }).collect();
    stock.push(RollStock::to_buy(roll, None));
    let rest: Vec<usize> = (0..lengths.len()).filter(|i| done[*i].is_none()).collect();
    let of_rest: Vec<Length> = rest.iter().map(|&i| lengths[i]).collect();
    for r in nest(&of_rest, &stock, cutting).rolls {
        let new = || (0..).find(|n| !out.contains_key(n)).unwrap_or_default();
        let n = begun.get(r.stock).map_or_else(new, |b| b.0);
        out.entry(n).or_default().extend(r.pieces.iter().map(|&p| rest[p]));
    }
    out
}

/// A lower bound on rolls for strips ripped from a width: by area.
fn bound_of_strips(strips: &[(Length, Length)], width: Length, roll: Length) -> usize {
    let area: i128 = strips.iter().map(|(w, l)| i128::from(w.units()) * i128::from(l.units())).sum();
    let whole = (i128::from(width.units()) * i128::from(roll.units())).max(1);
    ((area + whole - 1) / whole) as usize
}

/// What is cut along and across: panels and boards, and pieces narrower than the sheet they come from. `None` for everything else, and where a
/// piece is larger than any size.
fn across<'a>(
    plan: &'a Plan,
    product: &str,
    stock: Length,
    roll: Option<Length>,
    pieces: &[Wanted],
) -> Option<Cheapest<'a>> {
    let product = plan.product(product)?;
    let panel = matches!(product.kind.as_str(), "panel" | "board");
    let narrow = pieces.iter().all(|p| p.laid.is_none()) && pieces.iter().any(|p| p.entry.width < stock);
    if pieces.is_empty() || !(panel || (product.kind == "sheet" && narrow)) {
        return None;
    }
    let list: Vec<(Length, Length)> = pieces.iter().map(|p| (p.entry.length, p.entry.width)).collect();
    let fits = |s: &&crate::kit::SoldSize| panel || (s.width == Some(stock) && s.length == roll);
    let kerf = if panel { plan.basis.figures.length(fig::SAW_KERF) } else { Length::ZERO };
    cheapest(&list, product.sizes.iter().filter(fits), kerf)
}

fn bar_piece((p, from, low): (&CutPiece, f64, f64)) -> BarPiece {
    let label = if p.opening.is_empty() { p.letter.clone() } else { format!("{} {}", p.letter, p.opening) };
    let (to, high) = (from + p.length.to_inches_f64(), low + p.width.to_inches_f64());
    BarPiece { id: p.id.clone(), label, from, to, low, high, cut: p.cut }
}

fn bar<'a>(number: usize, (roll, stock): (Length, Length), pieces: impl Iterator<Item = &'a CutPiece>) -> Bar {
    let mut at = 0.0;
    let on = |p: &CutPiece| {
        let from = at;
        at += p.length.to_inches_f64();
        bar_piece((p, from, 0.0))
    };
    Bar { roll: number, length: roll.to_inches_f64(), width: stock.to_inches_f64(), pieces: pieces.map(on).collect() }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_cut_stays_on_its_roll_and_the_rest_is_cut_once(
            sizes in prop::collection::vec((1..=60_i64, prop::option::of(0..4_usize)), 1..20),
        ) {
            let roll = Length::inch(100);
            let lengths: Vec<Length> = sizes.iter().map(|(l, _)| Length::inch(*l)).collect();
            // Cut already: as far as there is room on the roll it is said to come from.
            let mut room = [100_i64; 4];
            let done: Vec<Option<usize>> = sizes
                .iter()
                .map(|(l, d)| d.filter(|d| {
                    let fits = room[*d] >= *l;
                    room[*d] -= if fits { *l } else { 0 };
                    fits
                }))
                .collect();
            let nested = nest(&lengths, &[RollStock::to_buy(roll, None)], &Cutting::default());
            let rolls = with_what_is_cut(&lengths, roll, &done, &nested, &Cutting::default());
            let mut seen: Vec<usize> = rolls.values().flatten().copied().collect();
            seen.sort_unstable();
            prop_assert_eq!(seen, (0..lengths.len()).collect::<Vec<_>>());
            for (n, pieces) in &rolls {
                prop_assert!(pieces.iter().map(|&i| lengths[i]).sum::<Length>() <= roll);
                prop_assert!(pieces.iter().all(|&i| done[i].is_none_or(|d| d == *n)));
            }
            if done.iter().all(Option::is_none) {
                prop_assert_eq!(rolls.len(), nested.rolls.len());
            }
        }
    }
}
