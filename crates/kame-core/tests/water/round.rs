//! Walls that go all the way round a building: at the corner at which they come back to their start the barrier goes on as at any other.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{KnownWater, Moment, Severity};
use kame_core::job::{CornerKind, CornerSpec, Job};
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::profile::fig;
use kame_core::sequence::{RAIN, RAIN_NO_GLUE};
use proptest::prelude::*;

fn inch(n: i64) -> Length {
    Length::inch(n)
}

/// A house of four walls, as long as given, with a window near each end of the face.
fn house(long: i64, wide: i64, barriers: [&str; 2]) -> Job {
    let mut job = Job::new("round");
    job.wall.width = inch(2 * (long + wide));
    let corner = |(at, barrier): (i64, &str)| CornerSpec {
        at: inch(at),
        kind: CornerKind::Outside,
        name: format!("Wall at {at}"),
        schools: if barrier == barriers[0] {
            Default::default()
        } else {
            [("barrier".to_owned(), barrier.to_owned())].into()
        },
        products: Default::default(),
    };
    job.wall.schools.insert("barrier".into(), barriers[0].into());
    job.wall.corners =
        [(long, barriers[0]), (long + wide, barriers[1]), (2 * long + wide, barriers[1])].map(corner).to_vec();
    let like = job.openings[0].clone();
    job.openings = [(1, 30), (2, 2 * (long + wide) - 60)]
        .map(|(n, left)| {
            let mut o = like.clone();
            (o.id, o.name, o.left, o.width) = (format!("W{n}"), format!("Window {n}"), inch(left), inch(30));
            o
        })
        .to_vec();
    job
}

fn plan(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn worst(plan: &Plan) -> Option<Severity> {
    Moment::new(plan, usize::MAX).expect("a layup").findings(plan).first().map(|f| f.severity)
}

#[test]
fn every_barrier_goes_round_the_last_corner_and_runs_dry() {
    for barrier in ["loose", "drainable", "plaster", "dark", "adhered", "fluid", "panel", "gypsum", "insulation-face"] {
        let job = house(200, 140, [barrier, barrier]);
        let plan = plan(&job);
        assert!(plan.walls.round && plan.walls.stretches.len() == 1, "{barrier}");
        assert!(worst(&plan).is_none_or(|s| s >= Severity::Glue), "{barrier}");
    }
}

/// Level laps of 14 in hold 14 in: more than any wind, and followed only where a profile asks for more still.
#[test]
fn water_is_followed_as_far_as_the_profile_asks() {
    let mut bare = house(200, 140, ["loose", "loose"]);
    (bare.wall.corners, bare.wall.width) = (Vec::new(), inch(500));
    bare.openings.clear();
    for (id, value) in [("lap_horizontal", "14"), ("lap_vertical", "24")] {
        bare.figures.insert(id.into(), value.into());
    }
    let known = KnownWater::default();
    let mut asked = |floor: &str| {
        bare.figures.insert("floor_rain".into(), floor.into());
        let plan = plan(&bare);
        let moment = Moment::with_known(&plan, usize::MAX, &known).expect("a layup");
        assert!(moment.parts.len() > 1);
        let worst = moment.findings(&plan).first().map(|f| f.severity);
        (moment.head_of(0, RAIN).map(|h| h.inches()), worst == Some(Severity::Leak))
    };
    assert_eq!(asked("2"), (None, false));
    assert_eq!(asked("15"), (Some(14.0), true));
    assert_eq!(asked("2"), (None, false));
}

#[test]
fn the_last_length_of_a_course_lies_over_the_first_past_the_corner_and_holds_what_a_side_lap_holds() {
    let mut bare = house(200, 140, ["loose", "loose"]);
    bare.openings.clear();
    for (id, value) in [("lap_horizontal", "14"), ("lap_vertical", "24"), ("corner_wrap", "12")] {
        bare.figures.insert(id.into(), value.into());
    }
    let plan = plan(&bare);
    let last: Vec<_> = plan.pieces.iter().filter(|p| p.id.starts_with("course-1-")).collect();
    let over = &last[last.len() - 1].regions;
    assert_eq!(over.len(), 2);
    assert_eq!((over[1].1.u0, over[1].1.u1), (Length::ZERO, inch(12)));
    assert_eq!(last[last.len() - 1].cut.as_ref().map(|c| c.length), Some(over[0].1.width() + inch(12)));
    // Level laps hold 14 in and other side laps 24 / 1.5: the one round the corner holds the least, 12 / 1.5.
    let moment = Moment::new(&plan, usize::MAX).expect("a layup");
    for scenario in [RAIN, RAIN_NO_GLUE] {
        assert_eq!(moment.head_of(0, scenario).map(|h| h.inches()), Some(8.0), "{scenario}");
    }
}

#[test]
fn a_sheet_turned_too_short_round_the_last_corner_is_told() {
    let job = house(200, 140, ["loose", "loose"]);
    let short = Edit::SetFigure { id: "corner_wrap".into(), value: Some("4".into()) };
    let (_, short) = apply(&job, &short).unwrap_or_else(|p| panic!("{p:?}"));
    let codes = |plan: &Plan| {
        let found = Moment::new(plan, usize::MAX).expect("a layup").findings(plan);
        found.into_iter().map(|f| f.code).collect::<Vec<_>>()
    };
    assert!(codes(&short).contains(&"F28".to_owned()), "{:?}", codes(&short));
}

#[test]
fn where_the_last_barrier_meets_the_first_a_strip_lies_over_both() {
    let plan = plan(&house(200, 140, ["loose", "panel"]));
    assert_eq!(plan.walls.stretches.len(), 2);
    let strip = plan.pieces.iter().find(|p| p.id == "meeting/strip").expect("the strip");
    let half = Length::from_units(plan.basis.figures.length(fig::MEETING_STRIP).units() / 2);
    let at: Vec<_> = strip.regions.iter().map(|(_, r)| (r.u0, r.u1)).collect();
    assert_eq!(at, [(inch(680) - half, inch(680)), (Length::ZERO, half)]);
    assert!(worst(&plan).is_none_or(|s| s >= Severity::Glue));
}

#[test]
fn walls_that_do_not_come_back_to_their_start_are_not_closed() {
    let mut open = house(200, 140, ["loose", "loose"]);
    open.wall.corners[2].at = inch(500);
    let plan = plan(&open);
    assert!(!plan.walls.round && plan.notes.iter().any(|n| n.code == "S-CLOSE"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn part_by_part_is_as_whole_round_the_last_corner(
        long in 150_i64..260,
        wide in 120_i64..200,
        barrier in 0_usize..4,
        out in 0_usize..60,
    ) {
        let barrier = ["loose", "adhered", "fluid", "panel"][barrier];
        let plan = plan(&house(long, wide, [barrier, barrier]));
        let all = plan.actions().count();
        for done in [all, all.saturating_sub(out)] {
            let parts = Moment::with_known(&plan, done, &KnownWater::default()).map_err(TestCaseError::fail)?;
            let whole = Moment::unparted(&plan, done).map_err(TestCaseError::fail)?;
            prop_assert!(parts.parts.len() > 1);
            for t in 0..plan.water.targets.len() {
                for s in [RAIN, RAIN_NO_GLUE] {
                    let (a, b) = (parts.head_of(t, s), whole.head_of(t, s));
                    let near = |a: f64, b: f64| (a - b).abs() < 1e-4;
                    prop_assert!(
                        match (a, b) { (Some(a), Some(b)) => near(a.inches(), b.inches()), (a, b) => a.is_none() && b.is_none() },
                        "{s} {}: {a:?} in parts, {b:?} whole", plan.water.targets[t].id
                    );
                }
            }
            prop_assert_eq!(parts.ponds(&plan).len(), whole.ponds(&plan).len());
        }
    }
}
