//! Corners, sills, ponds and ways: closed forms on facets joined by stitches.

use crate::testkit::*;
use kame_core::layup::{Bond, Depth, Glue, Layup, Region, Scenario, Sheet, Source, Target};
use kame_core::length::Length;
use kame_core::surface::{Edge, Facet, FacetId, Segment, Side, Stitch, StitchEnd};
use kame_core::water::answer::{spots, way_to};
use kame_core::water::{Arrangement, Entries, PassageKind, WaterWay, run, solve};
use proptest::prelude::*;

fn facet(l: &mut Layup, id: &str, width: f64, height: f64, rise: f64, exposed: bool) {
    l.facets.push(Facet { id: id.into(), width: inch(width), height: inch(height), rise, exposed });
}

type End = (usize, [f64; 2], [f64; 2], Side);

fn stitch(l: &mut Layup, ends: [End; 2]) {
    let [a, b] = ends.map(|(f, from, to, side)| {
        let point = |p: [f64; 2]| (inch(p[0]), inch(p[1]));
        StitchEnd { segment: Segment { facet: FacetId(f), from: point(from), to: point(to) }, side }
    });
    l.stitches.push(Stitch { a, b });
}

fn piece(l: &mut Layup, id: &str, bond: Bond, regions: &[(usize, [f64; 4], f64)]) {
    let regions = regions.iter().map(|(f, r, rank)| Region { at: patch(*f, *r), rank: *rank }).collect();
    l.sheets.push(Sheet { id: id.into(), bond, cap: false, regions, cuts: vec![] });
}

fn ask(l: &mut Layup, id: &str, facet: usize, rect: [f64; 4], depth: Depth) {
    l.targets.push(Target { id: id.into(), at: patch(facet, rect), depth });
}

fn leak(l: &mut Layup, facet: usize, rect: [f64; 4]) {
    let source = Source::Leak { at: patch(facet, rect), under: None };
    l.scenarios.push(Scenario { id: "leak".into(), source, glue: Glue::Holds, drain_head: Length::inch(1) });
}

#[track_caller]
fn asks(l: &Layup, scenario: &str, target: &str) -> Option<f64> {
    solve(l).expect("valid").head(l, scenario, target).expect("asked").map(|h| h.inches())
}

#[track_caller]
fn close(found: Option<f64>, expected: f64) {
    let found = found.expect("a head");
    assert!((found - expected).abs() < 1e-5, "found {found}, expected {expected}");
}

/// Two plumb walls at an outside corner; `flipped` builds the return upside down, so that the stitch runs against itself.
fn corner(wrap: f64, flipped: bool) -> Layup {
    let mut l = wall(24.0, 24.0);
    facet(&mut l, "return", 24.0, 24.0, if flipped { -1.0 } else { 1.0 }, true);
    let (from, to) = if flipped { ([0.0, 24.0], [0.0, 0.0]) } else { ([0.0, 0.0], [0.0, 24.0]) };
    stitch(&mut l, [(0, [24.0, 0.0], [24.0, 24.0], Side::Left), (1, from, to, Side::Right)]);
    piece(&mut l, "first", Bond::None, &[(1, [0.0, 0.0, 24.0, 24.0], 1.0)]);
    piece(&mut l, "second", Bond::None, &[(0, [0.0, 0.0, 24.0, 24.0], 2.0), (1, [0.0, 0.0, wrap, 24.0], 2.0)]);
    ask(&mut l, "corner", 0, [22.0, 4.0, 24.0, 20.0], Depth::Substrate);
    l
}

#[test]
fn a_sheet_turned_round_a_corner_holds_two_thirds_of_its_turn() {
    close(asks(&corner(12.0, false), "rain", "corner"), 8.0);
    close(asks(&corner(6.0, false), "rain", "corner"), 4.0);
    close(asks(&corner(12.0, true), "rain", "corner"), 8.0);
}

#[test]
fn a_cut_along_the_corner_parts_the_sheet_there() {
    let mut l = corner(12.0, false);
    l.sheets[1].cuts.push(Segment { facet: FacetId(0), from: (inch(24.0), inch(2.0)), to: (inch(24.0), inch(22.0)) });
    close(asks(&l, "rain", "corner"), 0.0);
    let elsewhere = Segment { facet: FacetId(0), from: (inch(24.0), inch(0.0)), to: (inch(24.0), inch(1.0)) };
    l.sheets[1].cuts = vec![elsewhere];
    // Through the short cut at the foot, then 3 in up behind the sheet to the target.
    close(asks(&l, "rain", "corner"), 3.0);
}

/// An open sill of some slope with a back dam, leaking from its front.
fn sill(rise: f64, dam: f64) -> Layup {
    let mut l = wall(24.0, 24.0);
    l.voids.push(patch(0, [4.0, 8.0, 20.0, 20.0]));
    facet(&mut l, "sill", 16.0, 6.0, rise, false);
    facet(&mut l, "dam", 16.0, dam, 1.0, false);
    stitch(&mut l, [(0, [4.0, 8.0], [20.0, 8.0], Side::Below), (1, [0.0, 0.0], [16.0, 0.0], Side::Above)]);
    stitch(&mut l, [(1, [0.0, 6.0], [16.0, 6.0], Side::Below), (2, [0.0, 0.0], [16.0, 0.0], Side::Above)]);
    piece(
        &mut l,
        "pan",
        Bond::Cured,
        &[(1, [0.0, 0.0, 16.0, 6.0], 1.0), (2, [0.0, 0.0, 16.0, dam], 1.0), (0, [4.0, 6.0, 20.0, 8.0], 1.0)],
    );
    ask(&mut l, "room", 2, [0.0, dam / 2.0, 16.0, dam], Depth::Any);
    leak(&mut l, 1, [0.0, 0.0, 2.0, 2.0]);
    l
}

#[test]
fn the_dam_s_height_and_the_sill_s_rise_add_up_to_the_head_of_the_room() {
    close(asks(&sill(0.1, 2.0), "leak", "room"), 4.0 * 0.1 + 1.0);
    // A sill that slopes in leads water to the dam by itself.
    close(asks(&sill(-0.1, 2.0), "leak", "room"), 1.0);
}

#[test]
fn a_sill_that_slopes_in_ponds_and_one_that_slopes_out_does_not() {
    let ponds =
        |l: &Layup| solve(l).expect("valid").ponds.iter().map(|p| (p.facet.0, p.on.map(|s| s.0))).collect::<Vec<_>>();
    assert_eq!(ponds(&sill(0.1, 2.0)), []);
    let inward = ponds(&sill(-0.1, 2.0));
    assert!(inward.contains(&(1, Some(0))), "{inward:?}");
}

#[test]
fn an_outlet_in_the_pan_empties_it() {
    let mut l = sill(-0.1, 2.0);
    l.outlets.push(patch(1, [7.0, 5.0, 9.0, 6.0]));
    let on_sill: Vec<_> = solve(&l).expect("valid").ponds.into_iter().filter(|p| p.facet.0 == 1).collect();
    assert!(on_sill.is_empty(), "{on_sill:?}");
}

#[test]
fn the_drain_head_decides_what_counts_as_wet() {
    let mut l = sill(-0.1, 2.0);
    let area = |l: &Layup| {
        let p = solve(l).expect("valid").ponds.into_iter().find(|p| p.scenario == 2 && p.facet.0 == 2)?;
        Some(p.rect[3])
    };
    close(area(&l), 1.0);
    l.scenarios.last_mut().expect("leak").drain_head = inch(0.5);
    close(area(&l), 0.5);
}

#[test]
fn a_solid_thing_closes_what_is_outside_it_on_sheltered_facets_only() {
    let mut l = sill(0.1, 2.0);
    l.sheets.push(Sheet {
        id: "unit".into(),
        bond: Bond::None,
        cap: true,
        regions: vec![Region { at: patch(1, [0.0, 3.0, 16.0, 4.0]), rank: 5.0 }],
        cuts: vec![],
    });
    // Under the solid thing the way is open, over it there is none; a bead closes the rest.
    close(asks(&l, "leak", "room"), 4.0 * 0.1 + 1.0);
    l.seals
        .push(kame_core::layup::OnSheet { sheet: kame_core::layup::SheetId(1), at: patch(1, [0.0, 3.0, 16.0, 3.5]) });
    assert_eq!(asks(&l, "leak", "room"), None);
}

#[test]
fn slopes_in_between_cost_their_sine() {
    let mut l = wall(24.0, 24.0);
    l.facets[0].rise = 0.5;
    piece(&mut l, "upper", Bond::None, &[(0, [0.0, 10.0, 24.0, 24.0], 2.0)]);
    piece(&mut l, "lower", Bond::None, &[(0, [0.0, 0.0, 24.0, 14.0], 1.0)]);
    ask(&mut l, "t", 0, [8.0, 4.0, 16.0, 20.0], Depth::Substrate);
    close(asks(&l, "rain", "t"), 2.0);
}

fn way(l: &Layup) -> WaterWay {
    let a = Arrangement::new(l).expect("cells");
    let answer = run(l, &a);
    let (_, spot) = answer.reach[0].least.expect("reached");
    way_to(l, &a, &answer.spreads[0], &spot)
}

#[test]
fn a_way_round_a_corner_passes_the_stitch_at_the_same_height() {
    let w = way(&corner(12.0, false));
    let facets: Vec<usize> = w.points.iter().map(|p| p.facet.0).collect();
    assert!(facets.windows(2).filter(|f| f[0] != f[1]).count() == 1, "one crossing: {facets:?}");
    let at = facets.windows(2).position(|f| f[0] != f[1]).expect("a crossing");
    assert!((w.points[at].v - w.points[at + 1].v).abs() < 1e-9);
    let entry = w.entry().expect("gets in");
    assert_eq!((entry.sheet.0, entry.edge, entry.kind), (1, Edge::Right, PassageKind::InBehind));
}

#[test]
fn a_way_through_a_slit_says_so() {
    let mut l = wall(24.0, 24.0);
    piece(&mut l, "sheet", Bond::None, &[(0, [0.0, 0.0, 12.0, 24.0], 1.0), (0, [12.0, 0.0, 24.0, 24.0], 1.0)]);
    piece(&mut l, "inner", Bond::None, &[(0, [2.0, 0.0, 12.0, 24.0], 0.5)]);
    l.sheets[0].cuts.push(Segment { facet: FacetId(0), from: (inch(12.0), inch(4.0)), to: (inch(12.0), inch(20.0)) });
    ask(&mut l, "t", 0, [14.0, 4.0, 20.0, 20.0], Depth::Substrate);
    let w = way(&l);
    let entry = w.entry().expect("gets in");
    assert_eq!((entry.sheet.0, entry.kind), (0, PassageKind::InThroughCut));
    // The same slit where nothing lies behind it on either side is as open.
    close(asks(&l, "rain", "t"), 2.0 / 1.5);
}

#[test]
fn water_that_comes_out_is_noted_with_the_edge_it_leaves() {
    let l = sill(0.1, 2.0);
    let a = Arrangement::new(&l).expect("cells");
    let answer = run(&l, &a);
    let leak = answer.reach.iter().find(|r| r.scenario == 2).and_then(|r| r.least).expect("reached");
    let w = way_to(&l, &a, &answer.spreads[2], &leak.1);
    assert!(w.points.first().is_some_and(|p| p.facet.0 == 1) && w.points.last().is_some_and(|p| p.facet.0 == 2));
    assert!(w.passages.is_empty(), "the pan goes on across the stitch: {:?}", w.passages);
}

#[test]
fn what_has_got_in_runs_on_down_until_it_is_out() {
    let mut l = wall(24.0, 24.0);
    piece(&mut l, "sheet", Bond::None, &[(0, [0.0, 4.0, 24.0, 20.0], 1.0)]);
    ask(&mut l, "t", 0, [8.0, 18.0, 16.0, 20.0], Depth::Substrate);
    let a = Arrangement::new(&l).expect("cells");
    let answer = run(&l, &a);
    let (_, spot) = answer.reach[0].least.expect("reached");
    let kept = answer.spreads[0].kept[spot.front.expect("behind the sheet") as usize];
    let short = way_to(&l, &a, &answer.spreads[0], &spot);
    let long = short.clone().run_on(&l, &a, Glue::Holds, kept.cell, usize::from(kept.gap), spot.point);
    assert_eq!(long.points[..short.points.len()], short.points[..]);
    let last = long.points.last().expect("points");
    assert!(last.v <= 4.0 + 1e-9 && last.behind.is_none(), "{last:?}");
}

#[test]
fn a_way_starts_on_the_open_face_where_nothing_covers() {
    let mut l = wall(24.0, 24.0);
    ask(&mut l, "t", 0, [8.0, 8.0, 9.0, 9.0], Depth::Substrate);
    let w = way(&l);
    assert_eq!((w.points.len(), w.passages.len(), w.points[0].head.inches()), (1, 0, 0.0));
    assert_eq!(w.entry(), None);
}

#[test]
fn the_grid_agrees_on_corners_and_sills_as_its_squares_shrink() {
    for l in [corner(12.0, false), corner(6.0, true), sill(0.1, 2.0), sill(-0.1, 2.0)] {
        let exact = solve(&l).expect("valid");
        let [coarse, fine] = [2, 4].map(|n| grid::solve(&l, Length::inch_fraction(1, n)));
        for (i, r) in exact.reach.iter().enumerate() {
            let x = r.least.map(|(h, _)| h.inches());
            match (x, coarse.heads[i].2, fine.heads[i].2) {
                (Some(x), Some(c), Some(f)) => assert!(x <= f + 1e-5 && f <= c + 1e-5 && f - x < 0.7, "{x} {f} {c}"),
                (x, c, f) => assert!(x.is_none() && c.is_none() && f.is_none(), "{x:?} {c:?} {f:?}"),
            }
        }
        let ponds: std::collections::BTreeSet<_> =
            exact.ponds.iter().map(|p| (p.scenario, p.facet.0, p.on.map(|s| s.0))).collect();
        assert_eq!(ponds, fine.ponds);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// What tells ways apart is what the ways say when they are traced, in whatever order it is asked.
    #[test]
    fn how_a_front_was_entered_is_what_its_way_says(l in random::layups(), first in any::<prop::sample::Index>()) {
        let a = Arrangement::new(&l).map_err(|m| TestCaseError::fail(format!("{m:?}")))?;
        for spread in run(&l, &a).spreads.iter().filter(|s| !s.kept.is_empty()) {
            let mut entries = Entries::new(&a, spread);
            let begun = first.index(spread.kept.len());
            for (i, kept) in spread.kept.iter().enumerate().skip(begun).chain(spread.kept.iter().enumerate()) {
                let point = kept.front.least_in(a.cell(kept.cell).rect);
                let way = WaterWay::to(&l, &a, spread, i as u32, point);
                let entered = entries.of(i as u32);
                prop_assert_eq!(entered.first, way.entry().map(|p| (p.sheet, p.edge, p.kind)));
                prop_assert_eq!(entered.passages, way.passages.len());
            }
        }
    }

    /// The least of all spots up to a head is the target's head where that is lower, and nothing lower is left out.
    #[test]
    fn spots_up_to_a_head_give_the_heads_below_it(l in random::layups(), eighths in 1_i64..80) {
        let (a, below) = (Arrangement::new(&l).map_err(|m| TestCaseError::fail(format!("{m:?}")))?, Length::inch_fraction(eighths, 8));
        let answer = run(&l, &a);
        for (s, spread) in answer.spreads.iter().enumerate() {
            let mut least = vec![f64::INFINITY; l.targets.len()];
            spots(&l, &a, spread, below, |t, head, _| least[t] = least[t].min(head.inches()));
            for r in answer.reach.iter().filter(|r| r.scenario == s) {
                let head = r.least.map_or(f64::INFINITY, |(h, _)| h.inches());
                let told = head < below.to_inches_f64();
                prop_assert!(if told { least[r.target] == head } else { least[r.target] >= head }, "{} {head}", least[r.target]);
            }
        }
    }
}
