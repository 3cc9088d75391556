//! What stands in the gap behind the cladding, and whether air finds its way through it (handbook 3.6).

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Moment, by_cause};
use kame_core::gap::{air_paths, open_ends};
use kame_core::job::{Job, TopPoint};
use kame_core::length::Length;
use kame_core::plan::{Plan, SurfaceId, build};
use kame_core::profile::fig;
use kame_core::sequence::Stage;
use kame_core::surface::Rect;
use proptest::prelude::*;

fn job(answers: &[(&str, &str)]) -> Job {
    let mut job = Job::new("gap");
    job.wall.width = Length::inch(240);
    job.openings[0].left = Length::inch(90);
    for (q, c) in answers {
        job.wall.schools.insert((*q).into(), (*c).into());
    }
    job
}

fn built(job: &Job) -> (Plan, Stage) {
    let plan = build(job).unwrap_or_else(|p| panic!("{p:?}"));
    let stage = Stage::after(&plan, plan.actions().map(|(_, a)| a));
    (plan, stage)
}

fn codes(job: &Job) -> Vec<String> {
    let (plan, _) = built(job);
    let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
    by_cause(&plan, &found).iter().map(|c| c.told.code.clone()).collect()
}

fn inch(n: i64) -> Length {
    Length::inch(n)
}

/// How many of a product the plan uses.
fn counted(plan: &Plan, product: &str) -> f64 {
    let of = |u: kame_core::takeoff::Use| match u.amount {
        kame_core::takeoff::Amount::Count { n } if u.product == product => n,
        _ => 0.0,
    };
    kame_core::takeoff::uses(plan).into_iter().map(of).sum()
}

fn parts(plan: &Plan, id: &str) -> Vec<Rect> {
    plan.pieces.iter().filter(|p| p.id.ends_with(id)).flat_map(|p| p.regions.iter().map(|(_, r)| *r)).collect()
}

#[test]
fn battens_held_off_leave_one_gap_that_air_goes_through() {
    let (plan, stage) = built(&job(&[("gap", "battens")]));
    let paths = air_paths(&plan, &stage);
    assert!(!paths.is_empty() && paths.iter().all(|p| p.moves()), "{paths:#?}");
    // Below the sill every bay is joined to those beside the window.
    let window = plan.openings[0].rect;
    let off = plan.basis.figures.length(fig::FURRING_OFF);
    let under = Rect { v0: window.v0 - off, v1: window.v0, ..window };
    assert!(parts(&plan, "wall/battens").iter().all(|b| !b.overlaps(under)));
    assert!(codes(&job(&[("gap", "battens")])).iter().all(|c| c == "W-GLUE"));
}

#[test]
fn what_shuts_the_gap_off_or_leaves_its_ends_open_is_told_by_its_fault() {
    for (given, code) in [
        (&[("gap", "battens"), ("furring", "shut")][..], "F35"),
        (&[("gap", "battens"), ("ends", "bare")], "F37"),
        (&[("gap", "battens"), ("ends", "shut")], "F37"),
        (&[("gap", "mat"), ("ends", "bare")], "F37"),
        (&[("gap", "mat"), ("cladding", "plaster"), ("beads", "round")], "F13"),
        (&[("gap", "none"), ("cladding", "stone"), ("barrier", "plaster"), ("beads", "round")], "F13"),
        (&[("barrier", "drainable"), ("laps", "taped")], "F27"),
        (&[("barrier", "loose"), ("air", "barrier")], "F27"),
        (&[("barrier", "loose"), ("laps", "taped")], "F27"),
    ] {
        let told = codes(&job(given));
        assert_eq!(told.iter().filter(|c| *c == code).count(), 1, "{given:?} is one cause: {told:?}");
        let right: Vec<_> = given.iter().filter(|(q, _)| ["gap", "cladding", "barrier"].contains(q)).copied().collect();
        assert!(!codes(&job(&right)).iter().any(|c| c == code), "{right:?}");
    }
    for right in [
        &[("gap", "vented")][..],
        &[("gap", "mat"), ("cladding", "plaster")],
        &[("barrier", "loose"), ("laps", "taped"), ("air", "barrier")],
        &[("barrier", "dark"), ("laps", "taped"), ("air", "barrier"), ("gap", "battens")],
    ] {
        let told = codes(&job(right));
        assert!(told.iter().all(|c| c == "W-GLUE"), "{right:?}: {told:?}");
    }
}

#[test]
fn furring_held_off_by_a_slit_is_as_good_as_shut() {
    let mut near = job(&[("gap", "battens")]);
    near.figures.insert("furring_off".into(), "1/4".into());
    let (plan, stage) = built(&near);
    assert!(air_paths(&plan, &stage).iter().any(|p| !p.moves()));
    assert!(codes(&near).iter().any(|c| c == "F35"));
    near.figures.insert("air_way".into(), "1/8".into());
    let (plan, stage) = built(&near);
    assert!(air_paths(&plan, &stage).iter().all(|p| p.moves()), "what counts as a way is a figure");
}

#[test]
fn a_pocket_is_where_the_window_shuts_it_off() {
    let (plan, stage) = built(&job(&[("gap", "battens"), ("furring", "shut")]));
    let window = plan.openings[0].rect;
    let pockets: Vec<_> = air_paths(&plan, &stage).into_iter().filter(|p| !p.moves()).collect();
    assert!(!pockets.is_empty());
    for p in &pockets {
        let around = p.parts.iter().copied().reduce(Rect::hull).expect("a part");
        let under = around.v1 <= window.v0 && p.inlet;
        let over = around.v0 >= window.v1 && p.outlet;
        assert!(under || over, "{around:?}");
        assert!(around.u0 < window.u1 && window.u0 < around.u1);
    }
    // Before the battens are there nothing is told of the gap.
    let before = plan.actions().take_while(|(s, _)| plan.steps[*s].id != "wall/battens").map(|(_, a)| a);
    let stage = Stage::after(&plan, before);
    assert!(air_paths(&plan, &stage).is_empty() && open_ends(&plan, &stage).is_empty());
}

#[test]
fn screens_left_out_are_missing_at_every_end() {
    let right = job(&[("gap", "battens")]);
    let (plan, stage) = built(&right);
    let ends = open_ends(&plan, &stage);
    // Foot, top, and over the head of the one window.
    assert_eq!(
        ends.iter().map(|e| (e.end.lower, e.end.feature)).collect::<Vec<_>>(),
        [(true, None), (false, None), (true, Some(0))]
    );
    assert!(ends.iter().all(|e| e.screened && e.shut.is_none()));
    let without = Edit::RemoveStep { step: "wall/screens".into() };
    let (bare, _) = apply(&right, &without).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(codes(&bare).iter().any(|c| c == "F37"));
}

#[test]
fn what_runs_along_a_wall_ends_the_gap_below_it_and_begins_it_above() {
    let mut with = job(&[("gap", "battens")]);
    with.wall.height = Length::inch(220);
    let add = Edit::AddFeature { kind: "z".into(), left: Some(Length::inch(20)), sill: Some(Length::inch(120)) };
    let (with, _) = apply(&with, &add).unwrap_or_else(|p| panic!("{p:?}"));
    let (plan, stage) = built(&with);
    let line = plan.openings.len() - 1;
    let at: Vec<bool> =
        open_ends(&plan, &stage).iter().filter(|e| e.end.feature == Some(line)).map(|e| e.end.lower).collect();
    assert_eq!(at, [true, false]);
    assert!(air_paths(&plan, &stage).iter().all(|p| p.moves()));
    assert!(parts(&plan, "wall/battens").iter().all(|b| !b.overlaps(plan.openings[line].rect)));
}

#[test]
fn every_batten_is_bought_in_its_own_length() {
    let (plan, _) = built(&job(&[("gap", "battens")]));
    let round = plan.basis.figures.length(fig::CUT_ROUND);
    let mut cut: Vec<Length> = parts(&plan, "wall/battens").iter().map(|r| r.height().ceil_step(round)).collect();
    let of = |u: kame_core::takeoff::Use| match u.amount {
        kame_core::takeoff::Amount::Run { length } if u.product == "Batten" => Some(length),
        _ => None,
    };
    let mut bought: Vec<Length> = kame_core::takeoff::uses(&plan).into_iter().filter_map(of).collect();
    cut.sort_unstable();
    bought.sort_unstable();
    assert_eq!(cut, bought);
    assert!(cut.len() > 10);
    // At both ends, and every 16 in between.
    let screws: i64 = cut.iter().map(|l| (l.units() + inch(16).units() - 1) / inch(16).units() + 1).sum();
    assert_eq!(counted(&plan, "Batten screw"), screws as f64);
    let (boards, _) = built(&job(&[("outside", "boards")]));
    // Those over the heads, cut on their own, too.
    let hung = boards.pieces.iter().filter(|p| p.product == "Insulation board").count();
    assert_eq!(counted(&boards, "Washer fastener"), 2.0 * hung as f64);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    #[test]
    fn wherever_the_windows_stand_held_off_battens_leave_no_pocket(
        gaps in prop::collection::vec((30_i64..90, 20_i64..60, 20_i64..60, 0_i64..8), 1..5),
        spacing in 12_i64..25,
        gable in any::<bool>(),
    ) {
        let mut job = job(&[("gap", "battens")]);
        let window = job.openings[0].clone();
        job.openings.clear();
        let mut left = 20;
        for (i, (apart, width, height, eighths)) in gaps.into_iter().enumerate() {
            let mut o = window.clone();
            (o.id, o.name) = (format!("W{}", i + 1), format!("Window {}", i + 1));
            o.left = Length::inch(left) + Length::inch_fraction(eighths, 8);
            (o.width, o.height) = (Length::inch(width), Length::inch(height));
            o.sill = Length::inch(80 - height);
            job.openings.push(o);
            left += width + apart;
        }
        job.wall.width = Length::inch(left + 20);
        job.figures.insert("batten_spacing".into(), spacing.to_string());
        if gable {
            let half = Length::from_units(job.wall.width.units() / 2);
            let peak = job.wall.height + Length::inch(40);
            job.wall.top = [(Length::ZERO, job.wall.height), (half, peak), (job.wall.width, job.wall.height)]
                .map(|(at, height)| TopPoint { at, height })
                .to_vec();
            job.wall.height = peak;
        }
        let (plan, stage) = built(&job);
        for p in air_paths(&plan, &stage) {
            prop_assert!(p.moves(), "{:?}", p);
        }
        // Battens stand on nothing that comes through, and not on each other.
        let battens = parts(&plan, "wall/battens");
        for (i, b) in battens.iter().enumerate() {
            prop_assert!(plan.openings.iter().all(|o| !o.rect.overlaps(*b)));
            prop_assert!(battens[..i].iter().all(|c| !c.overlaps(*b)), "{:?}", b);
        }
    }
}

#[test]
fn insulation_boards_lie_in_rows_off_opening_corners_and_cover_all_that_is_not_free() {
    let (plan, _) = built(&job(&[("outside", "boards"), ("gap", "battens")]));
    let boards: Vec<&kame_core::plan::Piece> = plan.pieces.iter().filter(|p| p.id.starts_with("insulation-")).collect();
    assert!(boards.len() > 3);
    let all: Vec<Rect> = boards.iter().flat_map(|p| p.regions.iter().map(|(_, r)| *r)).collect();
    for (i, r) in all.iter().enumerate() {
        assert!(all[..i].iter().all(|o| !o.overlaps(*r)), "{r:?}");
    }
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let head: Vec<Rect> = plan.fits.iter().flat_map(|f| &f.away).copied().collect();
    let bare = wall.minus_all(all.iter().chain([&plan.openings[0].rect]).chain(&head));
    assert!(bare.is_empty(), "{bare:?}");
    let (window, clear) = (plan.openings[0].rect, plan.basis.figures.length(fig::PANEL_CORNER_CLEAR));
    for p in &boards {
        let around = p.regions.iter().map(|(_, r)| *r).reduce(Rect::hull).expect("a board");
        let cut = p.cut.as_ref().expect("a size");
        assert_eq!((cut.length, cut.width), (around.width(), around.height()));
        if around.v0 < window.v1 && window.v0 < around.v1 {
            for joint in [around.u0, around.u1].into_iter().filter(|u| wall.u0 < *u && *u < wall.u1) {
                let near = |c: Length| (joint - c).units().abs() < clear.units();
                assert!(joint == window.u0 || joint == window.u1 || !(near(window.u0) || near(window.u1)), "{joint}");
            }
        }
    }
}

#[test]
fn a_top_edge_taped_to_the_soffit_says_nothing_else_of_a_wall_and_leaves_the_gap_open() {
    for barrier in ["loose", "adhered", "panel", "fluid", "dark"] {
        let with = |top: &str| job(&[("barrier", barrier), ("gap", "battens"), ("top", top)]);
        assert_eq!(codes(&with("soffit-taped")), codes(&with("soffit")), "{barrier}");
        let (plan, stage) = built(&with("soffit-taped"));
        let tape = parts(&plan, "wall/top-tape");
        let (top, by) = (plan.walls.outline.height(), plan.basis.figures.length(fig::TOP_TAPE));
        assert!(!tape.is_empty() && tape.iter().all(|r| r.v1 == top && r.v0 == top - by), "{tape:?}");
        assert!(air_paths(&plan, &stage).iter().all(|p| p.moves()), "{barrier}");
    }
}

#[test]
fn a_parapet_cap_follows_gables_and_steps_and_runs_dry() {
    let mut stepped = job(&[("top", "parapet")]);
    let (low, high) = (stepped.wall.height, stepped.wall.height + Length::inch(30));
    let point = |at: i64, height| TopPoint { at: Length::inch(at), height };
    stepped.wall.top =
        vec![point(0, low), point(60, low), point(60, high), point(150, high), point(200, low), point(240, low)];
    stepped.wall.height = high;
    let (plan, _) = built(&stepped);
    let leg = plan.basis.figures.length(fig::PARAPET_LEG);
    let cap = parts(&plan, "wall/parapet");
    for u in [10, 100, 160, 195, 230] {
        let at = Length::inch(u);
        let over: Vec<_> = cap.iter().filter(|r| r.u0 <= at && at < r.u1).collect();
        let top = plan.walls.outline.most_over(kame_core::surface::Interval { lo: at, hi: at + Length::inch(1) });
        assert!(over.len() == 1 && over[0].v1 == top && over[0].height() == leg, "{u}: {over:?}");
    }
    assert!(codes(&stepped).iter().all(|c| c == "W-GLUE"), "{:?}", codes(&stepped));
}

#[test]
fn over_heads_a_mat_closes_its_gap_with_the_tail_of_its_own_fabric() {
    let right = job(&[("gap", "mat")]);
    let (plan, stage) = built(&right);
    let ends = open_ends(&plan, &stage);
    let heads: Vec<Length> =
        ends.iter().filter(|e| e.end.feature == Some(0)).map(|e| e.end.span.hi - e.end.span.lo).collect();
    assert!(!heads.is_empty() && ends.iter().all(|e| e.screened));
    let tail = parts(&plan, "mat-tail");
    assert_eq!(tail.iter().map(|r| r.width()).collect::<Vec<_>>(), heads);
    // The screen that is bought goes along the foot alone.
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    assert!(parts(&plan, "lower-screen").iter().all(|r| r.v0 == wall.v0));
    // Cut off, the gap is bare over the head.
    let step = plan.steps.iter().find(|s| s.id.ends_with("/mat")).expect("the mat's step");
    let lays = |a: &&kame_core::trade::Action| a.act.placed().is_some_and(|p| plan.pieces[p].id.ends_with("mat-tail"));
    let without = Edit::RemoveStep { step: step.actions.iter().find(lays).expect("the tail").id.clone() };
    let (bare, _) = apply(&right, &without).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(codes(&bare).iter().any(|c| c == "F37"), "{:?}", codes(&bare));
}

#[test]
fn beads_are_bent_round_corners_where_a_bar_is_long_enough_and_mitred_where_not() {
    let runs = |w: i64, h: i64, choice: &str| -> Vec<(String, Length)> {
        let mut job = job(&[("cladding", "plaster"), ("barrier", "plaster"), ("gap", "mat"), ("beads", choice)]);
        (job.openings[0].width, job.openings[0].height) = (inch(w), inch(h));
        let (plan, _) = built(&job);
        let of = |u: kame_core::takeoff::Use| match u.amount {
            kame_core::takeoff::Amount::Run { length } if u.what.contains("bead") || u.what.contains("filler") => {
                Some((u.what, length))
            }
            _ => None,
        };
        kame_core::takeoff::uses(&plan).into_iter().filter_map(of).collect()
    };
    let named = |name: &str, all: &[i64]| all.iter().map(|l| (name.to_owned(), inch(*l))).collect::<Vec<_>>();
    // 36 + 24 + 36 is one length of 96; 50 + 36 + 50 is more than a bar of 120: a mitre adds the bead's width at each end that meets another.
    assert_eq!(runs(24, 36, "sides"), named("casing beads", &[96]));
    let (plan, _) = built(&job(&[("gap", "mat")]));
    let wide = plan.basis.figures.length(fig::GAP_END);
    let long = [inch(50) + wide, inch(50) + wide, inch(36) + wide + wide];
    assert_eq!(runs(36, 50, "sides").into_iter().map(|r| r.1).collect::<Vec<_>>(), long);
    // A pocket takes a filler as long as the bead.
    let both: Vec<(String, Length)> =
        named("pocket filler", &[96]).into_iter().chain(named("casing beads", &[96])).collect();
    assert_eq!(runs(24, 36, "pocket"), both);
}
