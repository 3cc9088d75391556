//! A unit that is replaced, and an opening that moved or grew, on a wall that stands.

use crate::verdict::{BARRIERS, wall};
use kame_core::edit::{Edit, FeatureKind, apply, feature_kinds};
use kame_core::findings::{KnownWater, Moment, State};
use kame_core::job::{FoundKind, Job, Place};
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::recipe::schools::Feature;
use kame_core::repair::{Proposals, found_moved, propose};
use kame_core::stop::Stop;
use kame_core::view::{FoundAsk, Known, RepairsView, repair_views};
use proptest::prelude::*;
use rayon::prelude::*;

fn state(plan: &Plan) -> State {
    let moment = Moment::new(plan, usize::MAX).expect("a layup");
    State::of(&moment.findings(plan), true)
}

/// Where W1 is, moved by so many inches and larger by so many.
fn now(job: &Job, [right, up, wider, higher]: [i64; 4]) -> Place {
    let (o, inch) = (&job.openings[0], Length::inch);
    Place {
        left: o.left + inch(right),
        bottom: o.sill + inch(up),
        width: o.width + inch(wider),
        height: o.height + inch(higher),
    }
}

fn moved(job: &Job, by: [i64; 4]) -> Proposals {
    let (after, found) = found_moved(job, "W1", now(job, by), None).unwrap_or_else(|p| panic!("{p:?}"));
    propose(&after, &found, &KnownWater::default(), &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"))
}

fn asked(job: &Job, ask: FoundAsk) -> Result<RepairsView, String> {
    repair_views(job, ask, None, &Known::default()).map_err(|p| p[0].message.clone())
}

#[test]
fn an_opening_that_moved_or_grew_is_flashed_where_it_is_now_on_walls_of_every_family() {
    let ways = [
        [0, 0, 6, 0],
        [0, -1, 0, 0],
        [12, 0, 0, 0],
        [-9, 0, 0, 0],
        [0, 6, 0, -6],
        [0, -8, 0, 0],
        [3, -4, 2, 6],
        [44, 0, 0, 0],
    ];
    let all: Vec<(&str, [i64; 4])> = BARRIERS.iter().flat_map(|b| ways.map(|by| (*b, by))).collect();
    all.into_par_iter().for_each(|(barrier, by)| {
        let job = wall(&[("barrier", barrier)], &[]);
        let p = moved(&job, by);
        assert!(!p.list.is_empty(), "{barrier} {by:?}: {:?}", p.refused);
        for x in &p.list {
            assert!(x.after.state.is_dry(), "{barrier} {by:?} {}", x.title);
            assert_eq!(x.after.state, state(&x.plan), "{barrier} {by:?} {}", x.title);
            // Everything of the window is off and on again.
            assert!(x.opened.iter().any(|name| name.contains("window")), "{barrier} {by:?}: {:?}", x.opened);
        }
        // What is left of the old hole beside the new one is closed by a piece, but where the sheet is folded into the opening: a piece that only
        // lies on the wall leaves the jamb bare there.
        if matches!(by, [12 | -9, 0, 0, 0]) {
            let closed = p.list.iter().any(|x| x.title.starts_with("Close"));
            let tried = p.refused.iter().any(|(title, why)| title.starts_with("Close") && why.contains("leaks"));
            let folded = ["loose", "drainable", "plaster", "dark"].contains(&barrier);
            assert_eq!((closed, tried), (!folded, folded), "{barrier} {by:?}: {:?}", p.refused);
        }
        // Until something is done about it the wall is not as it should be.
        assert!(p.before.state < p.whole.state, "{barrier} {by:?}: {:?}", p.before.state);
    });
}

/// A tear that lies under a flashing shows once the glue has let go; that it is there is no good news before that either.
#[test]
fn what_was_found_is_told_where_no_water_shows_it_while_the_glue_holds() {
    for barrier in BARRIERS {
        let job = wall(&[("barrier", barrier)], &[]);
        let o = &job.openings[0];
        let place = Place { left: o.left - Length::inch(2), bottom: o.sill + Length::inch(20), ..now(&job, [0; 4]) };
        let place = Place { width: Length::inch(1), height: Length::inch(1), ..place };
        let ask = FoundAsk::Sight { what: FoundKind::Tear, place, after: None, id: None, thing: None };
        let view = asked(&job, ask).unwrap_or_else(|m| panic!("{barrier}: {m}"));
        assert!(view.before.state <= 3 && view.before.worst.contains("D1"), "{barrier}: {:?}", view.before);
    }
}

#[test]
fn a_late_hole_of_any_kind_is_flashed_as_what_comes_through_it() {
    let things: Vec<&FeatureKind> =
        feature_kinds().expect("data").iter().filter(|k| k.feature == Feature::Penetration).collect();
    let all: Vec<(&str, &FeatureKind)> = BARRIERS.iter().flat_map(|b| things.iter().map(|t| (*b, *t))).collect();
    assert!(things.len() >= 8);
    all.into_par_iter().for_each(|(barrier, thing)| {
        let job = wall(&[("barrier", barrier)], &[]);
        let inch = Length::inch;
        let place = Place { left: inch(12), bottom: inch(50), width: thing.width, height: thing.height };
        let of = |thing: &str| FoundAsk::Sight {
            what: FoundKind::LateHole,
            place,
            after: None,
            id: None,
            thing: Some(thing.into()),
        };
        let view = asked(&job, of(&thing.id)).unwrap_or_else(|m| panic!("{barrier} {}: {m}", thing.id));
        let best = view.proposals.first().unwrap_or_else(|| panic!("{barrier} {}: {:?}", thing.id, view.not_so));
        assert!(best.after.state >= 5, "{barrier} {}: {}", thing.id, best.after.worst);
        assert!(best.title.contains(&thing.name.to_lowercase()), "{}", best.title);
        let Edit::AddOpening { opening } = &best.edit else { panic!("{:?}", best.edit) };
        assert!(thing.schools.iter().all(|(q, a)| opening.schools.get(q) == Some(a)), "{:?}", opening.schools);
        assert!(asked(&job, of("window")).is_err_and(|m| m.contains("name one such as pipe")));
    });
}

#[test]
fn what_is_taken_moves_the_opening_and_mends_the_wall_in_one_change() {
    let job = wall(&[], &[]);
    let place = now(&job, [12, 0, 0, 0]);
    let view = asked(&job, FoundAsk::Moved { opening: "W1".into(), place, after: None }).expect("proposals");
    let best = &view.proposals[0];
    assert!(matches!(best.edit, Edit::Rebuild { .. }), "{:?}", best.edit);
    let (next, plan) = apply(&job, &best.edit).expect("a plan");
    assert_eq!((next.openings[0].left, next.found.len()), (place.left, 1));
    assert_eq!(next.found[0].place.left, job.openings[0].left, "the old hole");
    assert!(state(&plan).is_dry());
    assert_eq!(build(&next).expect("a plan").steps.len(), plan.steps.len());
    // Its steps come after those of the wall, and take the old flashing off before anything new is laid.
    let own: Vec<&str> =
        plan.order.iter().map(|s| plan.steps[*s].id.as_str()).filter(|id| id.starts_with("D1/")).collect();
    assert!(own.len() > 3 && own[0] == "D1/found", "{own:?}");
}

#[test]
fn a_unit_is_replaced_on_walls_of_every_family_with_what_lies_over_it() {
    BARRIERS.par_iter().for_each(|barrier| {
        let job = wall(&[("barrier", barrier)], &[]);
        let o = &job.openings[0];
        let place = Place { left: o.left + Length::inch(8), bottom: o.sill + Length::inch(9), ..now(&job, [0; 4]) };
        let place = Place { width: Length::inch(1), height: Length::inch(1), ..place };
        let ask = FoundAsk::Sight { what: FoundKind::Unit, place, after: None, id: None, thing: None };
        let view = asked(&job, ask).unwrap_or_else(|m| panic!("{barrier}: {m}"));
        let p = view.proposals.first().unwrap_or_else(|| panic!("{barrier}: {:?}", view.not_so));
        assert_eq!((p.after.state, view.before.state), (view.whole.state, 3), "{barrier}: {}", p.after.worst);
        assert!(p.opened.iter().any(|name| name.contains("window")) && p.taken_off > 1, "{barrier}: {:?}", p.opened);
        assert!(p.minutes > 0.0 && p.pieces.is_empty(), "{barrier}");
    });
}

#[test]
fn what_cannot_have_moved_is_told() {
    let job = wall(&[], &[]);
    let place = now(&job, [0; 4]);
    let of = |opening: &str, place| asked(&job, FoundAsk::Moved { opening: opening.into(), place, after: None });
    assert!(of("X9", place).is_err_and(|m| m.contains("there is no window or door \"X9\"")));
    assert!(of("W1", place).is_err_and(|m| m.contains("is where it was")));
    let out = Place { left: Length::inch(4000), ..place };
    assert!(of("W1", out).is_err_and(|m| m.contains("wall")));
    let sight =
        |what, left| FoundAsk::Sight { what, place: Place { left, ..place }, after: None, id: None, thing: None };
    assert!(asked(&job, sight(FoundKind::Moved, place.left)).is_err_and(|m| m.contains("say which opening moved")));
    let beside = Place { left: Length::inch(1), width: Length::inch(2), ..place };
    let ask = FoundAsk::Sight { what: FoundKind::Unit, place: beside, after: None, id: None, thing: None };
    assert!(asked(&job, ask).is_err_and(|m| m.contains("no unit stands there")));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Wherever an opening moves: what is proposed is dry, or it is said why nothing is.
    #[test]
    fn wherever_an_opening_moves_it_is_mended_or_it_is_said_why(
        barrier in prop::sample::select(BARRIERS.to_vec()),
        by in [-14_i64..40, -10_i64..10, -4_i64..8, -6_i64..8],
    ) {
        let job = wall(&[("barrier", barrier)], &[]);
        let place = now(&job, by);
        prop_assume!(by != [0; 4]);
        let Ok((after, found)) = found_moved(&job, "W1", place, None) else { return Ok(()) };
        let p = propose(&after, &found, &KnownWater::default(), &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"));
        if !p.whole.state.is_dry() {
            return Ok(());
        }
        prop_assert!(!p.list.is_empty() || p.none().is_some());
        for x in &p.list {
            prop_assert!(x.after.state.is_dry(), "{barrier} {by:?} {}", x.title);
        }
    }
}
