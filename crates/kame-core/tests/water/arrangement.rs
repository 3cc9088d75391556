//! The division into cells: nothing lost, nothing doubled, neighbours seen from both sides.

use crate::testkit::*;
use kame_core::layup::{Bond, Glue, Layup};
use kame_core::length::Length;
use kame_core::surface::{Edge, FacetId, Interval, Rect, Segment};
use kame_core::water::{Arrangement, Bounds, CellId, WaterAnswer, run_within};
use proptest::prelude::*;

fn area(r: Rect) -> f64 {
    r.width().to_inches_f64() * r.height().to_inches_f64()
}

fn cells(a: &Arrangement) -> impl Iterator<Item = CellId> + '_ {
    (0..a.cells.len()).map(|i| CellId(i as u32))
}

fn divided(l: &Layup) -> Arrangement {
    Arrangement::new(l).expect("cells")
}

#[test]
fn a_void_has_no_cells() {
    let mut l = wall(24.0, 24.0);
    l.voids.push(patch(0, [8.0, 8.0, 16.0, 16.0]));
    let a = divided(&l);
    assert!((cells(&a).map(|c| area(a.cell(c).rect)).sum::<f64>() - (576.0 - 64.0)).abs() < 1e-9);
    assert!(cells(&a).all(|c| !a.cell(c).rect.overlaps(patch(0, [8.0, 8.0, 16.0, 16.0]).rect)));
}

#[test]
fn a_bare_wall_is_one_cell_with_an_open_face() {
    let a = divided(&wall(24.0, 24.0));
    assert_eq!((a.cells.len(), a.borders.len(), a.states()), (1, 0, 1));
    assert!(a.is_open_face(CellId(0), 0) && !a.is_closed(CellId(0), 0, Glue::Holds));
}

#[test]
fn the_stack_runs_from_inside_to_outside_by_rank_not_by_order_in_the_file() {
    let mut l = wall(24.0, 24.0);
    sheet(&mut l, "outer", Bond::None, [0.0, 0.0, 24.0, 24.0], 7.5);
    sheet(&mut l, "inner", Bond::Full, [0.0, 0.0, 24.0, 24.0], -2.0);
    let a = divided(&l);
    assert_eq!(a.stack(CellId(0)).iter().map(|x| x.sheet.0).collect::<Vec<_>>(), [1, 0]);
    assert!(a.is_closed(CellId(0), 0, Glue::Holds) && !a.is_closed(CellId(0), 0, Glue::Lost));
    assert!(!a.is_closed(CellId(0), 1, Glue::Holds));
}

#[test]
fn a_fault_opens_what_a_bond_or_a_seal_closes() {
    let mut l = wall(24.0, 24.0);
    let bonded = sheet(&mut l, "bonded", Bond::Full, [0.0, 0.0, 12.0, 24.0], 1.0);
    let sealed = sheet(&mut l, "sealed", Bond::None, [12.0, 0.0, 24.0, 24.0], 2.0);
    l.seals.push(on(sealed, [12.0, 0.0, 24.0, 24.0]));
    l.faults.push(on(bonded, [0.0, 0.0, 12.0, 12.0]));
    l.faults.push(on(sealed, [12.0, 0.0, 24.0, 12.0]));
    let a = divided(&l);
    for c in cells(&a) {
        let low = a.cell(c).rect.v0.to_inches_f64() < 12.0;
        assert_eq!(a.is_closed(c, 0, Glue::Holds), !low, "{:?}", a.cell(c).rect.to_inches());
        assert!(!a.is_closed(c, 0, Glue::Lost));
    }
}

#[test]
fn water_keeps_to_its_side_of_a_sheet_that_goes_on() {
    let mut l = wall(24.0, 24.0);
    sheet(&mut l, "through", Bond::None, [0.0, 0.0, 24.0, 24.0], 2.0);
    sheet(&mut l, "left", Bond::None, [0.0, 0.0, 12.0, 24.0], 1.0);
    sheet(&mut l, "out", Bond::None, [0.0, 0.0, 12.0, 24.0], 3.0);
    let a = divided(&l);
    let border = &a.borders[0];
    let end = usize::from(a.stack(border.cells[0]).len() != 3);
    // From the three-sheet side: gaps 0 and 1 lie inside the sheet, 2 and 3 outside.
    let across: Vec<_> = (0..4).map(|g| a.gaps_across(border, end, g)).collect();
    assert_eq!(across, [0..1, 0..1, 1..2, 1..2]);
    let back: Vec<_> = (0..2).map(|g| a.gaps_across(border, 1 - end, g)).collect();
    assert_eq!(back, [0..2, 2..4]);
}

#[test]
fn where_two_sheets_change_places_nothing_gets_across_between_them() {
    let mut l = wall(24.0, 24.0);
    for (id, ranks) in [("a", [1.0, 2.0]), ("b", [2.0, 1.0])] {
        let s = sheet(&mut l, id, Bond::None, [0.0, 0.0, 12.0, 24.0], ranks[0]);
        let region = kame_core::layup::Region { at: patch(0, [12.0, 0.0, 24.0, 24.0]), rank: ranks[1] };
        l.sheets[s.0].regions.push(region);
    }
    let a = divided(&l);
    let border = &a.borders[0];
    assert!(a.gaps_across(border, 0, 1).is_empty() && a.gaps_across(border, 1, 1).is_empty());
    assert_eq!((a.gaps_across(border, 0, 0), a.gaps_across(border, 0, 2)), (0..1, 2..3));
}

#[test]
fn a_cut_divides_a_border_at_its_ends() {
    let mut l = wall(24.0, 24.0);
    let s = sheet(&mut l, "s", Bond::None, [0.0, 0.0, 24.0, 24.0], 1.0);
    let cut =
        kame_core::surface::Segment { facet: FacetId(0), from: (inch(12.0), inch(6.0)), to: (inch(12.0), inch(10.0)) };
    l.sheets[s.0].cuts.push(cut);
    let a = divided(&l);
    let open: f64 = a
        .borders
        .iter()
        .filter(|b| b.edges[0].is_upright() && !a.is_continuous(b, 0, 0))
        .map(|b| b.spans[0].span().to_inches_f64())
        .sum();
    assert!((open - 4.0).abs() < 1e-9, "{open}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn cells_cover_the_facet_once(l in random::layups()) {
        let a = divided(&l);
        let all: Vec<CellId> = cells(&a).collect();
        let sum: f64 = all.iter().map(|c| area(a.cell(*c).rect)).sum();
        prop_assert!((sum - 576.0).abs() < 1e-6, "{sum}");
        for (i, c) in all.iter().enumerate() {
            prop_assert!(all[i + 1..].iter().all(|d| !a.cell(*c).rect.overlaps(a.cell(*d).rect)));
        }
    }

    /// Cells one above the other with the same sides and the same sheets would be one, but for a line of the layup between them.
    #[test]
    fn nothing_is_divided_for_the_sake_of_what_lies_beside_it(l in random::layups()) {
        let a = divided(&l);
        let stitched = l.stitches.iter().flat_map(|s| [s.a.segment, s.b.segment]);
        let lines: Vec<_> = l.sheets.iter().flat_map(|s| s.cuts.clone()).chain(stitched).collect();
        for border in a.borders.iter().filter(|b| matches!(b.edges, [Edge::Top, Edge::Bottom])) {
            let [low, high] = border.cells.map(|c| a.cell(c));
            let (sides, line) = (low.rect.along_u(), low.rect.v1);
            if low.facet != high.facet || line != high.rect.v0 || sides != high.rect.along_u() {
                continue;
            }
            let on_it = |s: &Segment| s.facet == low.facet && !s.is_upright() && s.line() == line;
            let ruled = lines.iter().any(|s| on_it(s) && s.span().overlap(sides).is_some());
            prop_assert!(ruled || a.stack(border.cells[0]) != a.stack(border.cells[1]), "{:?} under {:?}", low.rect, high.rect);
        }
    }

    #[test]
    fn a_cell_has_the_sheets_that_lie_over_all_of_it_and_none_that_lies_over_some(l in random::layups()) {
        let a = divided(&l);
        for (i, s) in l.sheets.iter().enumerate() {
            let holes: Vec<_> = l.holes.iter().filter(|h| h.sheet.0 == i).map(|h| h.at.rect).collect();
            let lies: Vec<_> = s.regions.iter().flat_map(|g| g.at.rect.minus_all(&holes)).collect();
            for c in cells(&a) {
                let r = a.cell(c).rect;
                if a.stack(c).iter().any(|x| x.sheet.0 == i) {
                    prop_assert!(r.minus_all(&lies).is_empty(), "{} is missing from some of {r:?}", s.id);
                } else {
                    prop_assert!(lies.iter().all(|part| !part.overlaps(r)), "{} is not told of {r:?}", s.id);
                }
            }
        }
    }

    #[test]
    fn borders_are_edges_of_both_cells_and_cross_both_ways(l in random::layups()) {
        let a = divided(&l);
        for b in &a.borders {
            for end in 0..2 {
                let r = a.cell(b.cells[end]).rect;
                prop_assert!(b.edges[end].span_of(r).overlap(b.spans[end]) == Some(b.spans[end]));
                let lo = b.spans[end].lo.units() as f64;
                prop_assert_eq!(b.across(1 - end, b.across(end, lo)), lo);
                for g in 0..=a.stack(b.cells[end]).len() {
                    for h in a.gaps_across(b, end, g) {
                        prop_assert!(a.gaps_across(b, 1 - end, h).contains(&g), "a move back is as possible");
                    }
                }
            }
            prop_assert_eq!(b.edges[0].opposite(), b.edges[1]);
            prop_assert!(matches!(b.edges[0], Edge::Right | Edge::Top));
        }
    }

    #[test]
    fn inside_a_facet_every_shared_edge_is_a_border(l in random::layups()) {
        let a = divided(&l);
        let inner: f64 = cells(&a)
            .flat_map(|c| [Edge::Right, Edge::Top].map(|e| (e, a.cell(c).rect)))
            .filter(|(e, r)| e.line_of(*r) < inch(24.0))
            .map(|(e, r)| e.span_of(r).span().to_inches_f64())
            .sum();
        let borders: f64 = a.borders.iter().map(|b| b.spans[0].span().to_inches_f64()).sum();
        prop_assert!((inner - borders).abs() < 1e-6, "{inner} {borders}");
    }

    #[test]
    fn a_limit_leaves_out_only_what_is_harder(l in random::layups(), limit in 0_i64..8) {
        let a = divided(&l);
        let free = kame_core::water::run(&l, &a);
        let bound = run_within(&l, &a, Bounds { head: Some(Length::inch(limit)), core: None });
        for (f, b) in free.reach.iter().zip(&bound.reach) {
            let head = |r: &kame_core::water::Reach| r.least.map(|(h, _)| h.inches());
            match head(f) {
                Some(h) if h <= limit as f64 => prop_assert_eq!(head(b), Some(h)),
                // A front is followed where its nearest part lies within the limit, so a little more may still be answered.
                _ => prop_assert!(head(b).is_none() || head(b) >= head(f)),
            }
        }
    }

    #[test]
    fn what_cannot_reach_the_stretch_that_is_asked_about_need_not_be_followed(
        l in random::layups(),
        limit in 0_i64..10,
        (lo, width) in (0_i64..22, 1_i64..12),
    ) {
        let mut l = l;
        let core = Interval { lo: Length::inch(lo), hi: Length::inch((lo + width).min(24)) };
        let asked = &mut l.targets[0].at.rect;
        (asked.u0, asked.u1) = (core.lo, core.hi);
        let a = divided(&l);
        let head = Some(Length::inch(limit));
        let all = run_within(&l, &a, Bounds { head, core: None });
        let some = run_within(&l, &a, Bounds { head, core: Some((FacetId(0), core)) });
        let heads = |w: &WaterAnswer| w.reach.iter().map(|r| r.least.map(|(h, _)| h)).collect::<Vec<_>>();
        prop_assert_eq!(heads(&some), heads(&all));
        for (fewer, more) in some.spreads.iter().zip(&all.spreads) {
            prop_assert!(fewer.kept.len() <= more.kept.len());
        }
    }
}
