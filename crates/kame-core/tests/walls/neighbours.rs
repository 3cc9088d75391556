//! Features that stand close together, at a corner, at the floor or under a soffit: nothing ordinary is refused, and what is built runs dry.

use kame_core::findings::{Moment, State};
use kame_core::job::{CornerKind, CornerSpec, Job, OpeningSpec};
use kame_core::length::Length;
use kame_core::plan::{Plan, SurfaceId, build};
use kame_core::problem::Problem;
use kame_core::recipe::schools::Feature;
use kame_core::surface::Rect;
use proptest::prelude::*;

fn inch(n: i64) -> Length {
    Length::inch(n)
}

fn opening(id: &str, (left, sill): (i64, i64), (width, height): (i64, i64)) -> OpeningSpec {
    let mut o = Job::new("like").openings[0].clone();
    (o.id, o.name) = (id.into(), id.into());
    (o.left, o.sill, o.width, o.height) = (inch(left), inch(sill), inch(width), inch(height));
    o
}

fn hole(id: &str, at: (i64, i64), size: (i64, i64)) -> OpeningSpec {
    OpeningSpec { feature: Feature::Penetration, ..opening(id, at, size) }
}

fn wall(barrier: &str, openings: Vec<OpeningSpec>) -> Job {
    let mut job = Job::new("neighbours");
    (job.wall.width, job.wall.height) = (inch(240), inch(120));
    job.wall.schools.insert("barrier".into(), barrier.into());
    job.openings = openings;
    job
}

fn plan(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn state(job: &Job) -> State {
    let plan = plan(job);
    let moment = Moment::new(&plan, usize::MAX).expect("a layup");
    moment.verdict(&plan, &moment.findings(&plan)).state
}

const BARRIERS: [&str; 5] = ["loose", "adhered", "fluid", "panel", "gypsum"];

#[test]
fn windows_with_a_narrow_pier_and_windows_over_each_other_run_dry() {
    for barrier in BARRIERS {
        for pier in [2, 3, 4, 6, 8, 10, 12] {
            let pair = vec![opening("W1", (60, 36), (30, 48)), opening("W2", (90 + pier, 36), (30, 48))];
            assert!(state(&wall(barrier, pair)).is_dry(), "a pier of {pier} in, {barrier}");
        }
        for between in [4, 8, 12, 16] {
            let pair = vec![opening("W1", (60, 8), (30, 36)), opening("W2", (60, 44 + between), (30, 36))];
            assert!(state(&wall(barrier, pair)).is_dry(), "{between} in over each other, {barrier}");
        }
        let row = (0..5).map(|i| opening(&format!("W{}", i + 1), (20 + 34 * i, 36), (30, 48))).collect();
        assert!(state(&wall(barrier, row)).is_dry(), "a row of five, {barrier}");
    }
}

#[test]
fn windows_at_corners_under_soffits_doors_at_the_floor_and_small_openings_run_dry() {
    for barrier in BARRIERS {
        for kind in [CornerKind::Outside, CornerKind::Inside] {
            let mut job = wall(barrier, vec![opening("W1", (122, 36), (30, 48))]);
            let corner = CornerSpec {
                at: inch(120),
                kind,
                name: "B".into(),
                schools: Default::default(),
                products: Default::default(),
            };
            job.wall.corners = vec![corner];
            assert!(state(&job).is_dry(), "2 in from a corner, {barrier}");
            assert!(plan(&job).openings[0].hull.u0 < inch(120), "its flashings turn the corner");
        }
        assert!(state(&wall(barrier, vec![opening("W1", (60, 70), (30, 48))])).is_dry(), "under a soffit, {barrier}");
        assert!(state(&wall(barrier, vec![opening("D1", (60, 0), (36, 80))])).is_dry(), "at the floor, {barrier}");
        assert!(state(&wall(barrier, vec![opening("W1", (60, 36), (6, 6))])).is_dry(), "6 × 6, {barrier}");
    }
}

#[test]
fn a_pipe_under_a_sill_or_over_a_head_runs_dry() {
    for barrier in BARRIERS {
        let window = || opening("W1", (60, 36), (30, 48));
        for (pipe, what) in [((70, 30), "under the sill"), ((70, 90), "over the head")] {
            let job = wall(barrier, vec![window(), hole("P1", pipe, (2, 2))]);
            assert!(state(&job).is_dry(), "a pipe {what}, {barrier}");
        }
    }
}

#[test]
fn water_behind_the_sheet_is_asked_beside_a_pipe_that_stands_over_the_head() {
    let pair = vec![opening("W1", (60, 20), (30, 40)), hole("P1", (74, 62), (2, 2))];
    let plan = plan(&wall("loose", pair));
    let leak = plan.water.leaks.iter().find(|l| l.id == "W1/behind").expect("still asked");
    assert!(leak.rect.v0 >= plan.openings[0].rect.v1 && leak.rect.width() > inch(5));
}

#[test]
fn a_door_over_a_deck_runs_dry_and_the_deck_s_flashing_is_cut_round_it() {
    let schools = [("line".to_owned(), "deck".to_owned())].into();
    let deck = OpeningSpec { feature: Feature::Line, schools, ..opening("L1", (30, 18), (150, 8)) };
    let job = wall("loose", vec![deck, opening("D1", (60, 26), (36, 80))]);
    assert!(state(&job).is_dry());
    let (plan, hole) = (plan(&job), plan(&job).openings[1].rect);
    let of_deck = plan.pieces.iter().filter(|p| p.opening == Some(0)).flat_map(|p| &p.regions);
    assert!(of_deck.filter(|(on, _)| *on == SurfaceId::WALL).all(|(_, r)| !r.overlaps(hole)));
}

#[test]
fn what_is_left_out_in_a_crowd_is_told() {
    let mut job = wall("adhered", vec![opening("W1", (60, 36), (30, 48)), opening("W2", (93, 36), (30, 48))]);
    let steps: Vec<String> = plan(&job).steps.iter().map(|s| s.id.clone()).collect();
    for part in ["pan", "jambs", "head", "set"] {
        for id in ["W1", "W2"] {
            let step = format!("{id}/{part}");
            assert!(steps.contains(&step), "{step}");
            job.sequence.removed = vec![step];
            assert!(!state(&job).is_dry(), "{id} without {part}");
        }
    }
}

#[test]
fn neighbours_are_worked_band_by_band_and_the_lower_before_the_upper() {
    let beside = plan(&wall("adhered", vec![opening("W1", (60, 36), (30, 48)), opening("W2", (93, 36), (30, 48))]));
    let at = |plan: &Plan, id: &str| plan.order.iter().position(|s| plan.steps[*s].id == id).expect("a step");
    assert!(at(&beside, "W2/jambs") < at(&beside, "W1/head"), "both jambs before either head");
    let above = plan(&wall("adhered", vec![opening("W2", (60, 60), (30, 40)), opening("W1", (60, 12), (30, 42))]));
    assert!(at(&above, "W1/head") < at(&above, "W2/pan"), "the upper pan lies over the lower head flashing");
}

#[test]
fn flashings_are_cut_as_long_as_they_lie() {
    let alone = plan(&wall("adhered", vec![opening("W1", (60, 36), (30, 48))]));
    let pair = plan(&wall("adhered", vec![opening("W1", (60, 36), (30, 48)), opening("W2", (93, 36), (30, 48))]));
    let jamb = |plan: &Plan| {
        let p = plan.pieces.iter().find(|p| p.id == "W1/jamb-flashing-right").expect("a jamb flashing");
        (p.regions[0].1, p.cut.as_ref().expect("cut").width)
    };
    let ((lies, _), (there, width)) = (jamb(&alone), jamb(&pair));
    assert!(lies.u1 > inch(93) && there.u1 == inch(93), "it ends at the neighbour's hole");
    assert_eq!(width, jamb(&alone).1 - (lies.u1 - there.u1));
}

#[test]
fn only_what_cannot_exist_is_refused_with_both_things_and_the_measure() {
    let said = |openings: Vec<OpeningSpec>| -> Vec<Problem> {
        build(&wall("loose", openings)).map(|_| ()).expect_err("refused")
    };
    let into = said(vec![opening("W1", (60, 36), (30, 48)), opening("W2", (90, 36), (30, 48))]);
    assert!(
        into[0].message.contains("W2") && into[0].message.contains("W1") && into[0].message.contains("7/8\""),
        "{into:?}"
    );
    let end = said(vec![opening("W1", (0, 36), (30, 48))]);
    assert!(end[0].message.contains("the flange of W1 reaches 7/8\" past the left end"), "{end:?}");
    let over = said(vec![opening("W1", (60, 36), (30, 48)), opening("W2", (80, 36), (30, 48))]);
    assert!(over[0].message.contains("overlaps"), "{over:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// Random neighbours are built, or refused because a flange would reach where it cannot; what is built stays on the wall and out of others'
    /// holes, and water finds a verdict.
    #[test]
    fn random_neighbours_are_built_and_rained_on(
        barrier in 0usize..BARRIERS.len(),
        places in prop::collection::vec((0i64..220, 0i64..100, 4i64..40, 4i64..50, any::<bool>()), 2..6),
    ) {
        let one = |(i, (left, sill, w, h, pipe)): (usize, &(i64, i64, i64, i64, bool))| {
            let id = format!("{}{}", if *pipe { "P" } else { "W" }, i + 1);
            let size = if *pipe { (*w % 6 + 1, *h % 6 + 1) } else { (*w, *h) };
            if *pipe { hole(&id, (*left, *sill), size) } else { opening(&id, (*left, *sill), size) }
        };
        let job = wall(BARRIERS[barrier], places.iter().enumerate().map(one).collect());
        match build(&job) {
            Err(problems) => {
                let known = ["flange of", "overlaps", "off a wall"];
                prop_assert!(problems.iter().all(|p| known.iter().any(|k| p.message.contains(k))), "{problems:?}");
            }
            Ok(plan) => {
                let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
                let of = plan.pieces.iter().filter(|p| !p.solid).filter_map(|p| Some((p, p.opening?)));
                for (p, o) in of {
                    let mut lies = p.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
                    let others: Vec<Rect> =
                        plan.openings.iter().enumerate().filter(|(n, _)| *n != o).map(|(_, o)| o.rect).collect();
                    prop_assert!(
                        lies.all(|r| wall.contains(r) && others.iter().all(|hole| !hole.overlaps(r))),
                        "{}", p.id
                    );
                }
                let moment = Moment::new(&plan, usize::MAX).expect("a layup");
                let found = moment.findings(&plan);
                let verdict = moment.verdict(&plan, &found);
                prop_assert!(verdict.state.is_dry() || !found.is_empty(), "what is not dry says why");
                prop_assert!(found.iter().all(|f| !f.reason.contains("reaches -")), "{found:?}");
            }
        }
    }
}

/// Windows in a row, each sharing with the one to its right.
fn sharing(barrier: &str, pier: i64, count: i64, answers: &[(&str, &str)]) -> Job {
    let mut row: Vec<OpeningSpec> =
        (0..count).map(|i| opening(&format!("W{}", i + 1), (30 + (30 + pier) * i, 36), (30, 48))).collect();
    for (i, o) in row.iter_mut().enumerate() {
        o.schools.extend(answers.iter().map(|(q, a)| ((*q).to_owned(), (*a).to_owned())));
        if i as i64 + 1 < count {
            o.schools.insert("beside".into(), "shared".into());
        }
    }
    wall(barrier, row)
}

#[test]
fn flashings_shared_over_a_pier_are_one_piece_each_and_run_dry() {
    for barrier in BARRIERS {
        for pier in [2, 4, 8, 12] {
            assert!(state(&sharing(barrier, pier, 2, &[])).is_dry(), "a pier of {pier} in, {barrier}");
        }
        for answers in [[("flange", "membrane")], [("sill", "metal")], [("sill", "gussets")], [("head", "cap")]] {
            assert!(state(&sharing(barrier, 4, 3, &answers)).is_dry(), "{answers:?}, {barrier}");
        }
    }
    let plan = plan(&sharing("panel", 4, 3, &[]));
    let placed: Vec<&str> =
        plan.actions().filter_map(|(_, a)| a.act.placed()).map(|p| plan.pieces[p].id.as_str()).collect();
    let ending = |end: &str| placed.iter().filter(|id| id.ends_with(end)).count();
    assert_eq!(
        (ending("head-flashing"), ending("/pan"), ending("jamb-flashing-left"), ending("jamb-flashing-right")),
        (1, 1, 1, 3)
    );
    let size = |id: &str| plan.pieces.iter().find(|p| p.id == id).and_then(|p| p.cut.clone()).expect(id);
    let own = |o: usize| plan.openings[o].rect;
    // Past the outer edges of the outer jambs on both sides, and from one opening to the next over the piers.
    let jamb = size("W1/jamb-flashing-left").width - plan.basis.figures.length(kame_core::profile::fig::CLEARANCE);
    // The head flashing is an inch past them.
    let past = inch(1);
    assert_eq!(size("W3/head-flashing").length, own(2).u1 - own(0).u0 + jamb + jamb + past + past);
    let pier = plan.pieces.iter().find(|p| p.id == "W1/jamb-flashing-right").expect("over the pier");
    assert!(pier.regions[0].1.u0 <= own(0).u1 && own(1).u0 <= pier.regions[0].1.u1, "{:?}", pier.regions);
    let card = &plan.steps.iter().find(|s| s.id == "W1/head").expect("a step").card.what;
    assert!(card.contains("through over"), "{card}");
}

#[test]
fn what_is_shared_and_left_out_is_told_and_what_cannot_be_shared_is_built_for_itself_and_told() {
    for barrier in BARRIERS {
        for step in ["W2/head", "W1/pan", "W1/jambs"] {
            let mut job = sharing(barrier, 4, 2, &[]);
            job.sequence.removed = vec![step.into()];
            assert!(!state(&job).is_dry(), "{barrier} without {step}");
        }
    }
    let told = |job: &Job, words: &str| {
        let plan = plan(job);
        let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
        assert!(found.iter().any(|f| f.code == "S-SHARED" && f.reason.contains(words)), "{found:?}");
        assert!(state(job).is_dry(), "{words}");
        assert!(plan.actions().filter_map(|(_, a)| a.act.placed()).any(|p| plan.pieces[p].id == "W1/head-flashing"));
    };
    told(&sharing("loose", 20, 2, &[]), "20\"");
    let mut high = sharing("loose", 4, 2, &[]);
    high.openings[1].sill = inch(40);
    told(&high, "its sill and head");
    let mut other = sharing("loose", 4, 2, &[]);
    other.openings[1].schools.insert("sill".into(), "metal".into());
    told(&other, "made another way");
    let mut alone = sharing("loose", 4, 2, &[]);
    alone.openings.truncate(1);
    told(&alone, "nothing stands to its right");
}
