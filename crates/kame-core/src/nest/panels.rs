//! Guillotine cuts of panels, boards and wide sheets: every cut runs from edge to edge, offcuts are used again.

use super::Outcome;
use crate::kit::{Money, SoldSize};
use crate::length::Length;

/// A piece on a sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Placed {
    /// Which piece.
    pub piece: usize,
    /// From the sheet's left edge.
    pub u: Length,
    /// From its lower edge.
    pub v: Length,
    /// True where it is turned by a quarter.
    pub turned: bool,
}

/// A sheet with what is cut from it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct CutSheet {
    /// Its pieces.
    pub pieces: Vec<Placed>,
}

/// Sheets of the size that does best.
pub struct Cheapest<'a> {
    /// Of which size.
    pub size: &'a SoldSize,
    /// Its length.
    pub along: Length,
    /// Its width.
    pub across: Length,
    /// What is cut from each.
    pub sheets: Vec<CutSheet>,
    /// How good it is known to be.
    pub outcome: Outcome,
}

/// Cut from edge to edge from the size that costs least, or has the least area where not every price is known; `None` where a piece is larger
/// than all of them. None is turned.
pub fn cheapest<'a>(
    pieces: &[(Length, Length)],
    sizes: impl Iterator<Item = &'a SoldSize>,
    kerf: Length,
) -> Option<Cheapest<'a>> {
    let sizes: Vec<(&SoldSize, Length, Length)> = sizes.filter_map(|s| Some((s, s.length?, s.width?))).collect();
    let cents = |s: &SoldSize| Money::parse(s.price.as_deref()?).ok().map(|m| m.cents as f64);
    let priced = sizes.iter().all(|(s, ..)| cents(s).is_some());
    let tried = sizes.into_iter().filter_map(|(size, along, across)| {
        let (sheets, too_large, outcome) = sheets(pieces, (along, across), kerf, false);
        too_large.is_empty().then_some(Cheapest { size, along, across, sheets, outcome })
    });
    let one = |c: &Cheapest| match cents(c.size).filter(|_| priced) {
        Some(cents) => cents,
        None => c.along.to_inches_f64() * c.across.to_inches_f64(),
    };
    let cost = |c: &Cheapest| c.sheets.len() as f64 * one(c);
    tried.min_by(|a, b| cost(a).total_cmp(&cost(b)))
}

#[derive(Clone, Copy)]
struct Offcut {
    sheet: usize,
    u: Length,
    v: Length,
    along: Length,
    across: Length,
}

/// Puts pieces, along by across, on sheets of one size: the largest first, each on the offcut it fits most tightly, which is then cut so that the
/// larger rest stays whole. Pieces with a direction are not turned. Also which pieces are larger than a sheet, and what is proved by area and by
/// pieces that cannot share a sheet.
pub fn sheets(
    pieces: &[(Length, Length)],
    sheet: (Length, Length),
    kerf: Length,
    may_turn: bool,
) -> (Vec<CutSheet>, Vec<usize>, Outcome) {
    let fits = |(a, b): (Length, Length), room: (Length, Length)| a <= room.0 && b <= room.1;
    let turned = |(a, b): (Length, Length)| (b, a);
    let can = |i: &usize| fits(pieces[*i], sheet) || (may_turn && fits(turned(pieces[*i]), sheet));
    let (mut list, too_large): (Vec<usize>, Vec<usize>) = (0..pieces.len()).partition(can);
    let size = |i: usize| i128::from(pieces[i].0.units()) * i128::from(pieces[i].1.units());
    list.sort_by_key(|i| (std::cmp::Reverse(size(*i)), *i));
    let mut out: Vec<CutSheet> = Vec::new();
    let mut offcuts: Vec<Offcut> = Vec::new();
    for &i in &list {
        let ways = [Some((pieces[i], false)), may_turn.then_some((turned(pieces[i]), true))];
        let tight = |o: &Offcut, (a, b): (Length, Length)| (o.along - a).min(o.across - b);
        let found = offcuts
            .iter()
            .enumerate()
            .flat_map(|(k, o)| ways.into_iter().flatten().map(move |way| (k, *o, way)))
            .filter(|(_, o, (p, _))| fits(*p, (o.along, o.across)))
            .min_by_key(|(k, o, (p, _))| (tight(o, *p), *k));
        let (o, (p, is_turned)) = match found {
            Some((k, o, way)) => {
                offcuts.swap_remove(k);
                (o, way)
            }
            None => {
                out.push(CutSheet::default());
                let whole =
                    Offcut { sheet: out.len() - 1, u: Length::ZERO, v: Length::ZERO, along: sheet.0, across: sheet.1 };
                let way = ways.into_iter().flatten().find(|(p, _)| fits(*p, sheet)).unwrap_or((pieces[i], false));
                (whole, way)
            }
        };
        out[o.sheet].pieces.push(Placed { piece: i, u: o.u, v: o.v, turned: is_turned });
        let (right, above) = (o.along - p.0 - kerf, o.across - p.1 - kerf);
        // The first cut leaves the larger rest whole.
        let wide_right = i128::from(right.units()) * i128::from(o.across.units())
            >= i128::from(above.units()) * i128::from(o.along.units());
        let beside = Offcut { u: o.u + p.0 + kerf, along: right, across: if wide_right { o.across } else { p.1 }, ..o };
        let over = Offcut { v: o.v + p.1 + kerf, across: above, along: if wide_right { p.0 } else { o.along }, ..o };
        offcuts.extend([beside, over].into_iter().filter(|o| o.along.is_positive() && o.across.is_positive()));
    }
    let all: i128 = list.iter().map(|i| size(*i)).sum();
    let one = (i128::from(sheet.0.units()) * i128::from(sheet.1.units())).max(1);
    let by_area = usize::try_from((all + one - 1) / one).unwrap_or(usize::MAX);
    // Two pieces share a sheet only beside or over each other.
    let half = |a: Length, whole: Length| a.times(2) > whole;
    let alone =
        list.iter().filter(|i| !may_turn && half(pieces[**i].0, sheet.0) && half(pieces[**i].1, sheet.1)).count();
    let outcome = Outcome::of(out.len(), by_area.max(alone));
    (out, too_large, outcome)
}
