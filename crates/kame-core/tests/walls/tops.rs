//! Gables, rakes, steps and levels: what lies above the top is no wall, and what lies below it runs dry.

use kame_core::edit::{Edit, TopShape, apply};
use kame_core::findings::{Moment, Severity};
use kame_core::job::{CornerKind, CornerSpec, Job, LevelKind, LevelSpec, TopPoint};
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::profile::fig;
use kame_core::view::{Known, remedy_views};
use proptest::prelude::*;

fn inch(n: i64) -> Length {
    Length::inch(n)
}

const SHAPES: [TopShape; 7] = [
    TopShape::Level,
    TopShape::Low,
    TopShape::Gable,
    TopShape::RakeRight,
    TopShape::RakeLeft,
    TopShape::StepRight,
    TopShape::StepLeft,
];

/// Two walls of 20 ft, 16 ft high, a window low on the first.
fn job(barrier: &str) -> Job {
    let mut job = Job::new("tops");
    (job.wall.width, job.wall.height) = (inch(480), inch(192));
    job.wall.corners = vec![CornerSpec {
        at: inch(240),
        kind: CornerKind::Outside,
        name: "Gable end".into(),
        schools: Default::default(),
        products: Default::default(),
    }];
    job.wall.schools.insert("barrier".into(), barrier.into());
    job
}

fn with(job: &Job, edit: &Edit) -> (Job, Plan) {
    apply(job, edit).unwrap_or_else(|p| panic!("{p:?}"))
}

fn refused(job: &Job, edit: &Edit) -> String {
    let problems = apply(job, edit).expect_err("refused");
    problems.into_iter().map(|p| format!("{} {}", p.path, p.message)).collect::<Vec<_>>().join("\n")
}

fn gable() -> Edit {
    Edit::ShapeTop { wall: 1, shape: TopShape::Gable, low: inch(108) }
}

#[test]
fn a_gable_is_put_on_one_wall_and_taken_off_again() {
    let (job, plan) = with(&job("loose"), &gable());
    let points: Vec<(Length, Length)> = job.wall.top.iter().map(|p| (p.at, p.height)).collect();
    let expected = [(0, 192), (240, 192), (240, 108), (360, 192), (480, 108)].map(|(a, h)| (inch(a), inch(h)));
    assert_eq!(points, expected);
    assert!(plan.walls.outline.area(inch(480)) < 480.0 * 193.0);
    let (level, _) = with(&job, &Edit::ShapeTop { wall: 1, shape: TopShape::Level, low: inch(108) });
    assert!(level.wall.top.is_empty());
}

#[test]
fn the_top_goes_with_its_corners() {
    let (gabled, _) = with(&job("loose"), &gable());
    let wider = Edit::SetWall { name: None, width: Some(inch(720)), height: None, corners: None, levels: None };
    let (wider, _) = with(&gabled, &wider);
    let at: Vec<Length> = wider.wall.top.iter().map(|p| p.at).collect();
    assert_eq!(at, [0, 240, 240, 480, 720].map(inch));
}

#[test]
fn what_stands_through_the_top_is_told_with_the_room_there_is() {
    let (mut high, _) = with(&job("loose"), &gable());
    high.openings[0].left = inch(250);
    high.openings[0].sill = inch(70);
    let problems = build(&high).expect_err("refused");
    assert!(
        problems[0].message.contains("the wall over it is") && problems[0].message.contains("lower it by"),
        "{problems:?}"
    );
}

#[test]
fn flashings_end_under_a_slope_and_a_flange_that_does_not_fit_is_told() {
    let (mut under, _) = with(&job("loose"), &gable());
    // The rough opening ends just below the rake, its head flashing would not: it ends at the top.
    (under.openings[0].left, under.openings[0].sill) = (inch(290), inch(88));
    let plan = build(&under).unwrap_or_else(|p| panic!("{p:?}"));
    let o = &plan.openings[0];
    assert!(o.hull.v1 <= plan.walls.outline.least_over(o.hull.along_u()));
    // Where the flange itself would not fit, it is told.
    under.openings[0].sill = inch(94);
    let problems = build(&under).expect_err("refused");
    assert!(
        problems[0].message.contains("top of the wall") || problems[0].message.contains("lower it"),
        "{problems:?}"
    );
}

#[test]
fn walls_that_go_round_and_do_not_close_are_told() {
    let around = |last: i64| {
        let mut job = job("loose");
        let corner = |at: i64| CornerSpec {
            at: inch(at),
            kind: CornerKind::Outside,
            name: format!("At {at}"),
            schools: Default::default(),
            products: Default::default(),
        };
        job.wall.corners = vec![corner(240), corner(360), corner(600)];
        job.wall.width = inch(600 + last);
        let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
        plan.notes.iter().filter(|n| n.code == "S-CLOSE").map(|n| n.reason.clone()).collect::<Vec<_>>()
    };
    assert!(around(120).is_empty(), "240 by 120 closes");
    let open = around(110);
    assert!(open.len() == 1 && open[0].contains("10\""), "{open:?}");
}

#[test]
fn a_top_that_does_not_close_is_refused_with_its_ends() {
    let mut bad = job("loose");
    let point = |at: i64, height: i64| TopPoint { at: inch(at), height: inch(height) };
    bad.wall.top = vec![point(0, 108), point(300, 108)];
    assert!(format!("{:?}", build(&bad)).contains("the walls from 0"), "{:?}", build(&bad));
    bad.wall.top = vec![point(0, 108), point(300, 400), point(480, 108)];
    assert!(format!("{:?}", build(&bad)).contains("that of the highest point"));
    bad.wall.top = vec![point(0, 108), point(300, 150), point(200, 150), point(480, 108)];
    assert!(format!("{:?}", build(&bad)).contains("from left to right"));
    assert!(
        refused(&job("loose"), &Edit::ShapeTop { wall: 7, shape: TopShape::Gable, low: inch(99) })
            .contains("no wall 8")
    );
}

#[test]
fn more_points_or_lines_than_a_building_has_are_refused_with_the_limit() {
    let mut many = job("loose");
    let zigzag = |i: i64| TopPoint { at: inch(480), height: inch(100 + i % 2) };
    many.wall.top = (0..500).map(zigzag).collect();
    many.wall.levels = vec![LevelSpec { kind: LevelKind::Floor, at: inch(100), name: "Floor".into() }; 60];
    let told = format!("{:?}", build(&many).expect_err("refused"));
    assert!(told.contains("at most 400") && told.contains("at most 40 in one job"), "{told}");
}

#[test]
fn panels_and_courses_stop_where_the_wall_does() {
    for barrier in ["loose", "panel"] {
        let level: f64 =
            area(&with(&job(barrier), &Edit::ShapeTop { wall: 1, shape: TopShape::Level, low: inch(108) }).1);
        let gabled = area(&with(&job(barrier), &gable()).1);
        assert!(gabled < level - 1000.0, "{barrier}: {gabled} of {level}");
    }
}

fn area(plan: &Plan) -> f64 {
    let barrier = plan.pieces.iter().filter(|p| p.role.is_barrier() && p.opening.is_none());
    let cut = barrier.filter_map(|p| p.cut.as_ref());
    cut.map(|c| c.length.to_inches_f64() * c.width.to_inches_f64()).sum()
}

#[test]
fn grade_too_near_the_foot_is_told_with_what_is_missing_and_floors_are_not() {
    let level = |kind, at: i64| LevelSpec { kind, at: inch(at), name: format!("{kind:?}") };
    let told = |levels: Vec<LevelSpec>| {
        let set = Edit::SetWall { name: None, width: None, height: None, corners: None, levels: Some(levels) };
        let (_, plan) = with(&job("loose"), &set);
        plan.notes.iter().filter(|n| n.code == "F29").map(|n| n.remedy.clone()).collect::<Vec<_>>()
    };
    // The foot lies 1 in below the plate: soil 3 in below the plate leaves 2 in of the 4 it needs.
    let soil = told(vec![level(LevelKind::Soil, -3)]);
    assert!(soil.len() == 1 && soil[0].contains("Lower the soil by 2\""), "{soil:?}");
    assert!(
        told(vec![level(LevelKind::Soil, -5), level(LevelKind::Paving, -3), level(LevelKind::Floor, 110)]).is_empty()
    );
    let far = Edit::SetWall {
        name: None,
        width: None,
        height: None,
        corners: None,
        levels: Some(vec![level(LevelKind::Floor, 900)]),
    };
    assert!(refused(&job("loose"), &far).contains("floor line"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn whatever_the_top_the_wall_runs_dry(
        shapes in prop::collection::vec((0..SHAPES.len(), 100_i64..180), 2),
        barrier in prop::sample::select(vec!["loose", "adhered", "fluid", "panel"]),
    ) {
        let mut job = job(barrier);
        for (wall, (shape, low)) in shapes.into_iter().enumerate() {
            let edit = Edit::ShapeTop { wall, shape: SHAPES[shape], low: inch(low) };
            job = apply(&job, &edit).map_err(|p| TestCaseError::fail(format!("{p:?}")))?.0;
        }
        let plan = build(&job).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        let found = Moment::new(&plan, usize::MAX).map_err(TestCaseError::fail)?.findings(&plan);
        let wrong: Vec<_> = found.iter().filter(|f| !matches!(f.severity, Severity::Glue | Severity::Note)).collect();
        prop_assert!(wrong.is_empty(), "{:?}", wrong);
    }
}

#[test]
fn a_course_line_can_be_moved_and_what_it_costs_is_told() {
    let job = job("loose");
    let best = build(&job).expect("fits");
    let (own, plan) = with(&job, &Edit::SetFirstCourse { height: Some(inch(50)) });
    assert_eq!(plan.walls.stretches[0].courses.courses[0].top, inch(50));
    assert!(
        plan.walls.stretches[0].courses.why.contains("by your choice")
            && plan.walls.stretches[0].courses.why.contains("The best start"),
        "{}",
        plan.walls.stretches[0].courses.why
    );
    let (back, plan) = with(&own, &Edit::SetFirstCourse { height: None });
    assert_eq!((back, plan.walls.stretches[0].courses.clone()), (job.clone(), best.walls.stretches[0].courses.clone()));
    let said = refused(&job, &Edit::SetFirstCourse { height: Some(inch(3)) });
    assert!(said.contains("twice the lap"), "{said}");
}

#[test]
fn two_pipes_that_crowd_each_other_are_flashed_together_and_run_dry() {
    let mut job = job("loose");
    job.openings.clear();
    let pipe = |left: i64| Edit::AddFeature { kind: "pipe".into(), left: Some(inch(left)), sill: Some(inch(30)) };
    let (one, _) = with(&job, &pipe(60));
    let (crowd, plan) = with(&one, &pipe(63));
    let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
    assert!(found[0].severity == Severity::Leak, "an inch apart neither flange lies on the barrier: {found:?}");
    let known = Known::default();
    let told = remedy_views(&crowd, &known).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(told.iter().any(|r| r.words.contains("together as one") && r.edit.is_some()), "{told:?}");
    let (two, _) = with(&one, &pipe(150));
    let together = Edit::FlashTogether { id: "P2".into(), with: "P1".into(), left: Some(inch(64)), sill: None };
    let (both, plan) = with(&two, &together);
    let [o] = &both.openings[..] else { panic!("one feature") };
    assert_eq!((o.left, o.left + o.width), (one.openings[0].left, inch(64) + one.openings[0].width));
    let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
    assert!(found.iter().all(|f| matches!(f.severity, Severity::Glue | Severity::Note)), "{found:?}");
    let same = Edit::FlashTogether { id: "P1".into(), with: "P1".into(), left: None, sill: None };
    assert!(refused(&two, &same).contains("itself"));
    let far = Edit::FlashTogether { id: "P1".into(), with: "P2".into(), left: None, sill: None };
    assert!(refused(&two, &far).contains("size of a penetration"), "{}", refused(&two, &far));
}

#[test]
fn a_schedule_finds_room_on_walls_whose_top_is_not_level() {
    let station = include_str!("../../../../demo/heron-spit-station.kame.json");
    let job = kame_core::job::read_job(station.as_bytes()).expect("the demo's building");
    assert!(!job.wall.top.is_empty());
    let table = [
        ["Mark", "Type", "Width", "Height", "Sill"],
        ["S1", "window", "36", "48", "32"],
        ["S2", "hose tap", "1 1/2", "", "12"],
    ];
    let rows: Vec<Vec<String>> = table.iter().map(|r| r.iter().map(|c| (*c).to_owned()).collect()).collect();
    let read = kame_core::edit::read_schedule(&job, &rows, &Default::default(), "in").expect("a schedule");
    let problems: Vec<_> = read.rows.iter().flat_map(|r| &r.problems).collect();
    assert!(problems.is_empty(), "{problems:?}");
    let openings: Vec<_> = read.rows.into_iter().flat_map(|r| r.openings).collect();
    assert_eq!(openings.len(), 2);
    let (taken, _) = apply(&job, &Edit::AddOpenings { openings }).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(taken.openings.len(), job.openings.len() + 2);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Panels that tie a gable to the wall below it: no level joint near the plate, whole rows but for the first, and the wall as dry as before.
    #[test]
    fn panels_reach_past_the_plate_under_a_gable(low in 80_i64..200, more in 20_i64..90, lying in any::<bool>()) {
        let mut job = Job::new("gable");
        (job.wall.width, job.wall.height) = (inch(240), inch(low + more));
        let answers = [("barrier", "panel"), ("rows", "bridging"), ("panels", if lying { "lying" } else { "upright" })];
        job.wall.schools = answers.map(|(q, a)| (q.to_owned(), a.to_owned())).into();
        let level = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
        let (_, plan) = with(&job, &Edit::ShapeTop { wall: 0, shape: TopShape::Gable, low: inch(low) });
        let joints = |plan: &Plan| -> Vec<Length> {
            let mut at: Vec<Length> = (plan.pieces.iter().filter(|p| p.id.starts_with("panel-")))
                .flat_map(|p| p.regions.iter().map(|(_, r)| r.v0))
                .collect();
            at.sort_unstable();
            at.dedup();
            at
        };
        let f = |id| plan.basis.figures.length(id);
        let high = if lying { f(fig::PANEL_WIDTH) } else { f(fig::PANEL_LENGTH) };
        let (plate, past) = (plan.walls.plate + inch(low), f(fig::GABLE_BRIDGE) - f(fig::PANEL_GAP));
        let rows = joints(&plan);
        for at in &rows[1..] {
            prop_assert!((*at - plate).units().abs() >= past.units(), "a joint at {at} and the plate at {plate}");
        }
        for two in rows[1..].windows(2) {
            prop_assert_eq!(two[1] - two[0], high);
        }
        // Without a gable rows are whole from the foot up.
        prop_assert!(joints(&level)[1..].windows(2).all(|two| two[1] - two[0] == high));
        let worst = |plan: &Plan| {
            let moment = Moment::new(plan, usize::MAX).expect("a layup");
            let found = moment.findings(plan);
            moment.verdict(plan, &found).state
        };
        let mut foot = job.clone();
        foot.wall.schools.insert("rows".into(), "foot".into());
        let (_, foot) = with(&foot, &Edit::ShapeTop { wall: 0, shape: TopShape::Gable, low: inch(low) });
        prop_assert_eq!(worst(&plan), worst(&foot));
    }
}

#[test]
fn a_gable_beside_a_low_wing_is_tied_at_its_own_plate() {
    let mut job = Job::new("wing and gable");
    job.openings.clear();
    (job.wall.width, job.wall.height) = (inch(240), inch(200));
    let top = [(0, 96), (100, 96), (100, 144), (170, 200), (240, 144)];
    job.wall.top = top.iter().map(|(u, v)| TopPoint { at: inch(*u), height: inch(*v) }).collect();
    job.wall.schools = [("barrier", "panel"), ("rows", "bridging"), ("panels", "lying")]
        .map(|(q, a)| (q.to_owned(), a.to_owned()))
        .into();
    let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
    let plate = plan.walls.plate + inch(144);
    let past = plan.basis.figures.length(fig::GABLE_BRIDGE) - plan.basis.figures.length(fig::PANEL_GAP);
    let panels = plan.pieces.iter().filter(|p| p.id.starts_with("panel-"));
    let rows: std::collections::BTreeSet<Length> = panels.flat_map(|p| p.regions.iter().map(|(_, r)| r.v0)).collect();
    assert!(rows.iter().all(|at| (*at - plate).units().abs() >= past.units()), "{plate}: {rows:?}");
}
