//! Closed forms and laws of the water model (handbook 4.8), and the exact solver against the grid.

use crate::testkit::*;
use kame_core::layup::{Bond, Depth, Glue, Layup, Region, Scenario, Sheet, SheetId, Source, Target};
use kame_core::length::Length;
use kame_core::surface::{Facet, FacetId, Segment, Side, Stitch, StitchEnd};
use proptest::prelude::*;

fn lap(width: f64, shingled: bool) -> Layup {
    let mut l = wall(48.0, 48.0);
    let (upper, lower) = if shingled { (2.0, 1.0) } else { (1.0, 2.0) };
    sheet(&mut l, "upper", Bond::None, [0.0, 20.0, 48.0, 48.0], upper);
    sheet(&mut l, "lower", Bond::None, [0.0, 0.0, 48.0, 20.0 + width], lower);
    sheathing(&mut l, [4.0, 4.0, 44.0, 44.0]);
    l
}

fn side_lap(width: f64) -> Layup {
    let mut l = wall(48.0, 48.0);
    sheet(&mut l, "left", Bond::None, [0.0, 0.0, 20.0 + width, 48.0], 1.0);
    sheet(&mut l, "right", Bond::None, [20.0, 0.0, 48.0, 48.0], 2.0);
    sheathing(&mut l, [4.0, 4.0, 44.0, 44.0]);
    l
}

#[track_caller]
fn same(found: Option<f64>, expected: f64) {
    let found = found.expect("a head");
    assert!((found - expected).abs() < 1e-5, "found {found}, expected {expected}");
}

#[test]
fn a_shingled_lap_holds_its_width_and_a_reverse_lap_holds_nothing() {
    same(head(&lap(4.0, true), "rain"), 4.0);
    same(head(&lap(4.0, false), "rain"), 0.0);
    same(head(&side_lap(6.0), "rain"), 4.0);
}

#[test]
fn a_reverse_lap_with_its_top_edge_taped_holds_by_glue_alone() {
    let mut l = lap(4.0, false);
    sheet(&mut l, "tape", Bond::Full, [0.0, 22.0, 48.0, 26.0], 3.0);
    assert_eq!(head(&l, "rain"), None);
    same(head(&l, "lost"), 0.0);
    // A factory facing in its place is not glue.
    l.sheets[2].bond = Bond::Cured;
    assert_eq!(head(&l, "lost"), None);
}

#[test]
fn a_fish_mouth_through_the_tape_lets_gravity_in() {
    let mut l = lap(4.0, false);
    let tape = sheet(&mut l, "tape", Bond::Full, [0.0, 22.0, 48.0, 26.0], 3.0);
    l.faults.push(on(tape, [10.0, 23.0, 11.0, 26.0]));
    same(head(&l, "rain"), 0.0);
}

#[test]
fn an_overhanging_facet_turns_climbing_round() {
    // On a facet that falls toward +v a lap open at its top is the shingled one.
    let mut l = lap(4.0, false);
    l.facets[0].rise = -1.0;
    same(head(&l, "rain"), 4.0);
    let mut level = lap(4.0, true);
    level.facets[0].rise = 0.0;
    same(head(&level, "rain"), 0.0);
}

#[test]
fn equal_ranks_and_sheets_on_themselves_are_named() {
    let mut l = lap(4.0, true);
    l.sheets[0].regions[0].rank = 1.0;
    let mistakes = kame_core::water::solve(&l).expect_err("equal ranks");
    assert!(mistakes[0].message.contains("\"upper\" and \"lower\" have the same rank"), "{mistakes:?}");
    let mut l = lap(4.0, true);
    let again = l.sheets[0].regions[0];
    l.sheets[0].regions.push(kame_core::layup::Region { rank: 9.0, ..again });
    assert!(kame_core::water::solve(&l).expect_err("twice")[0].message.contains("overlaps itself"));
}

#[test]
fn every_way_starts_outside_ends_at_its_head_and_never_gets_easier() {
    let l = lap(4.0, true);
    let a = kame_core::water::Arrangement::new(&l).expect("cells");
    let answer = kame_core::water::run(&l, &a);
    let (head, spot) = answer.reach[0].least.expect("reached");
    let way = kame_core::water::answer::way_to(&l, &a, &answer.spreads[0], &spot);
    assert_eq!(way.points[0].behind, None, "starts on the open face");
    assert!(way.points.windows(2).all(|w| w[0].head.inches() <= w[1].head.inches() + 1e-9));
    assert_eq!(way.points.last().map(|p| p.head), Some(head));
    let entry = way.entry().expect("gets in behind something");
    assert_eq!((l.sheets[entry.sheet.0].id.as_str(), entry.edge), ("upper", kame_core::surface::Edge::Bottom));
}

/// `None` is never, so above everything.
fn at_least(a: Option<f64>, b: Option<f64>) -> bool {
    match (a, b) {
        (None, _) => true,
        (Some(_), None) => false,
        (Some(a), Some(b)) => a >= b - 1e-5,
    }
}

fn mirrored(l: &Layup) -> Layup {
    let mut m = l.clone();
    let w = l.facets[0].width;
    let flip = |r: &mut kame_core::surface::Rect| (r.u0, r.u1) = (w - r.u1, w - r.u0);
    m.sheets.iter_mut().flat_map(|s| &mut s.regions).for_each(|r| flip(&mut r.at.rect));
    m.seals.iter_mut().chain(&mut m.faults).chain(&mut m.holes).for_each(|o| flip(&mut o.at.rect));
    m.targets.iter_mut().for_each(|t| flip(&mut t.at.rect));
    m.outlets.iter_mut().for_each(|p| flip(&mut p.rect));
    m
}

fn scaled(l: &Layup, k: i64) -> Layup {
    let mut m = l.clone();
    let grow = |r: &mut kame_core::surface::Rect| {
        *r = kame_core::surface::Rect::new(r.u0.times(k), r.v0.times(k), r.u1.times(k), r.v1.times(k))
    };
    for f in &mut m.facets {
        (f.width, f.height) = (f.width.times(k), f.height.times(k));
    }
    m.sheets.iter_mut().flat_map(|s| &mut s.regions).for_each(|r| grow(&mut r.at.rect));
    m.seals.iter_mut().chain(&mut m.faults).chain(&mut m.holes).for_each(|o| grow(&mut o.at.rect));
    m.targets.iter_mut().for_each(|t| grow(&mut t.at.rect));
    m
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn laps_hold_their_width(eighths in 1_i64..160) {
        let w = eighths as f64 / 8.0;
        prop_assert_eq!(head(&lap(w, true), "rain"), Some(w));
        prop_assert_eq!(head(&lap(w, false), "rain"), Some(0.0));
        prop_assert!((head(&side_lap(w), "rain").expect("a head") - w / 1.5).abs() < 1e-5);
    }

    #[test]
    fn a_bond_or_seal_more_never_lowers_a_head(l in random::layups(), which in 0_usize..6) {
        let before = heads(&l);
        let which = which % l.sheets.len();
        let mut bonded = l.clone();
        if bonded.sheets[which].bond == Bond::None {
            bonded.sheets[which].bond = Bond::Full;
        }
        let mut sealed = l.clone();
        sealed.seals.push(on(kame_core::layup::SheetId(which), [6.0, 6.0, 18.0, 9.0]));
        for more in [heads(&bonded), heads(&sealed)] {
            prop_assert!(more.iter().zip(&before).all(|(m, b)| at_least(*m, *b)), "{before:?} {more:?}");
        }
    }

    #[test]
    fn a_fault_or_hole_more_never_raises_a_head(l in random::layups(), which in 0_usize..6) {
        let before = heads(&l);
        let o = on(kame_core::layup::SheetId(which % l.sheets.len()), [6.0, 6.0, 18.0, 9.0]);
        let (mut faulted, mut holed) = (l.clone(), l.clone());
        faulted.faults.push(o);
        holed.holes.push(o);
        prop_assert!(before.iter().zip(heads(&faulted)).all(|(b, m)| at_least(*b, m)));
        prop_assert!(before.iter().zip(heads(&holed)).all(|(b, m)| at_least(*b, m)));
    }

    #[test]
    fn lost_glue_never_helps(l in random::layups()) {
        prop_assert!(at_least(head(&l, "rain"), head(&l, "lost")));
    }

    #[test]
    fn left_and_right_are_the_same(l in random::layups()) {
        prop_assert_eq!(heads(&l), heads(&mirrored(&l)));
    }

    #[test]
    fn heads_grow_with_the_lengths(l in random::layups(), k in 2_i64..9) {
        let grown: Vec<_> = heads(&l).iter().map(|h| h.map(|h| h * k as f64)).collect();
        for (a, b) in heads(&scaled(&l, k)).into_iter().zip(grown) {
            prop_assert!(at_least(a, b) && at_least(b, a.map(|a| a - 1e-4)), "{a:?} {b:?}");
        }
    }

    #[test]
    fn a_sheet_in_two_touching_regions_is_the_same_sheet(l in random::layups(), which in 0_usize..6) {
        let mut split = l.clone();
        let i = which % split.sheets.len();
        let whole = split.sheets[i].regions[0];
        let middle = Length::from_units((whole.at.rect.v0.units() + whole.at.rect.v1.units()) / 2);
        let (mut low, mut high) = (whole, whole);
        (low.at.rect.v1, high.at.rect.v0) = (middle, middle);
        split.sheets[i].regions = vec![low, high];
        prop_assert_eq!(heads(&split), heads(&l));
    }

    /// Water of a leak that has reached an open face is out: lines that divide the face make no difference to what it reaches.
    #[test]
    fn where_a_leak_comes_out_does_not_depend_on_how_the_face_is_divided(
        l in random::layups(),
        which in 0_usize..6,
        lines in prop::collection::vec((0_i64..24, any::<bool>()), 1..6),
    ) {
        let mut l = l;
        l.targets.clear();
        for u in (0..24).step_by(4) {
            for (v, depth) in [(0.0, Depth::Any), (9.0, Depth::Substrate), (18.0, Depth::Any)] {
                let rect = [u as f64, v, u as f64 + 3.0, v + 5.0];
                l.targets.push(Target { id: format!("{u} {v}"), at: patch(0, rect), depth });
            }
        }
        let under = SheetId(which % l.sheets.len());
        let at = l.sheets[under.0].regions[0].at;
        l.scenarios = vec![Scenario { source: Source::Leak { at, under: Some(under) }, ..l.scenarios[0].clone() }];
        let mut divided = l.clone();
        let cuts = lines.iter().map(|&(at, upright)| {
            let at = Length::inch(at);
            let (from, to) = if upright { ((at, Length::ZERO), (at, Length::inch(24))) } else { ((Length::ZERO, at), (Length::inch(24), at)) };
            Segment { facet: FacetId(0), from, to }
        });
        // A sheet that lies nowhere: its cuts divide the face and mean nothing.
        divided.sheets.push(Sheet { id: "nowhere".into(), bond: Bond::None, cap: false, regions: vec![], cuts: cuts.collect() });
        for (a, b) in heads(&l).into_iter().zip(heads(&divided)) {
            prop_assert!(at_least(a, b) && at_least(b, a), "{a:?} {b:?}");
        }
    }

    /// Where only heads and ponds are asked, gaps that run on over many cells are one: with cuts, a facet that is stitched on beside or in the
    /// middle of the wall, leaks behind sheets, and outlets.
    #[test]
    fn gaps_made_one_say_what_their_cells_say(
        l in random::layups(),
        cuts in prop::collection::vec((0_usize..6, 1_i64..23, 0_i64..20, 2_i64..16, any::<bool>()), 0..5),
        seam in prop::option::of((1_i64..23, 0_i64..12, 4_i64..12, any::<bool>(), any::<bool>())),
        leak in prop::option::of((0_usize..6, any::<bool>())),
        outlet in prop::option::of((0_i64..20, 0_i64..20)),
    ) {
        let mut l = l;
        let count = l.sheets.len();
        for (sheet, at, from, long, upright) in cuts {
            let (at, from, to) = (Length::inch(at), Length::inch(from), Length::inch((from + long).min(24)));
            let (from, to) = if upright { ((at, from), (at, to)) } else { ((from, at), (to, at)) };
            l.sheets[sheet % count].cuts.push(Segment { facet: FacetId(0), from, to });
        }
        if let Some((at, from, long, goes_on, backward)) = seam {
            let (side, end) = (Length::inch(long), Length::inch(from + long));
            let rise = if backward { -1.0 } else { 1.0 };
            l.facets.push(Facet { id: "fin".into(), width: Length::inch(6), height: side, rise, exposed: goes_on });
            let on_wall = Segment { facet: FacetId(0), from: (Length::inch(at), Length::inch(from)), to: (Length::inch(at), end) };
            let (low, high) = ((Length::ZERO, Length::ZERO), (Length::ZERO, side));
            let (first, last) = if backward { (high, low) } else { (low, high) };
            l.stitches.push(Stitch {
                a: StitchEnd { segment: on_wall, side: Side::Left },
                b: StitchEnd { segment: Segment { facet: FacetId(1), from: first, to: last }, side: Side::Right },
            });
            let turned = if goes_on { 0 } else { count - 1 };
            let rect = [0.0, 0.0, 4.0, long as f64];
            l.sheets[turned].regions.push(Region { at: patch(1, rect), rank: 50.0 });
            l.targets.push(Target { id: "fin".into(), at: patch(1, [1.0, 0.0, 5.0, long as f64]), depth: Depth::Substrate });
        }
        if let Some((under, lost)) = leak {
            let under = SheetId(under % count);
            let (at, glue) = (l.sheets[under.0].regions[0].at, if lost { Glue::Lost } else { Glue::Holds });
            let source = Source::Leak { at, under: Some(under) };
            l.scenarios.push(Scenario { id: "leak".into(), source, glue, drain_head: Length::inch(1) });
        }
        l.outlets.extend(outlet.map(|(u, v)| patch(0, [u as f64, v as f64, u as f64 + 3.0, v as f64 + 2.0])));
        prop_assert_eq!(gaps_made_one_say_the_same(&l), Ok(()));
    }

    #[test]
    fn the_grid_comes_down_to_the_exact_answer(l in random::layups()) {
        let answer = kame_core::water::solve(&l).expect("valid");
        let [coarse, fine] = [1, 2].map(|n| grid::solve(&l, Length::inch_fraction(1, n)));
        for (i, r) in answer.reach.iter().enumerate() {
            let exact = r.least.map(|(h, _)| h.inches());
            let (c, f) = (coarse.heads[i].2, fine.heads[i].2);
            prop_assert_eq!(exact.is_none(), f.is_none(), "never: exact {:?}, grid {:?}", exact, f);
            prop_assert_eq!(exact.is_none(), c.is_none());
            if let (Some(x), Some(c), Some(f)) = (exact, c, f) {
                // The grid pays for its squares and never less than the exact way; halving them takes off at most half of that.
                prop_assert!(x <= f + 1e-5 && f <= c + 1e-5, "exact {x}, fine {f}, coarse {c}");
                prop_assert!(2.0 * f - c >= x - 1e-4 && f - x < 4.0, "exact {x}, fine {f}, coarse {c}");
            }
        }
        // A wet strip narrower than a square can escape the grid, one that gravity alone wets cannot.
        let mut by_gravity = l.clone();
        by_gravity.scenarios.iter_mut().for_each(|s| s.drain_head = Length::ZERO);
        let ponds = |l: &Layup| -> std::collections::BTreeSet<_> {
            kame_core::water::solve(l).expect("valid").ponds.iter().map(|p| (p.scenario, p.facet.0, p.on.map(|s| s.0))).collect()
        };
        prop_assert!(fine.ponds.is_subset(&ponds(&l)), "grid {:?}", fine.ponds);
        prop_assert!(ponds(&by_gravity).is_subset(&fine.ponds), "grid {:?}", fine.ponds);
    }
}
