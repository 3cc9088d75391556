//! Walls with barriers and claddings of their own: stretches, and the strip over the corner where two meet.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Moment, Severity};
use kame_core::job::{CornerKind, CornerSpec, Job};
use kame_core::length::Length;
use kame_core::plan::{Plan, SurfaceId, build};
use kame_core::recipe::schools::Answers;
use kame_core::sequence::nearest_working_order;
use kame_core::takeoff::cut_list;
use proptest::prelude::*;
use std::collections::BTreeSet;

fn inch(n: i64) -> Length {
    Length::inch(n)
}

const BARRIERS: [&str; 10] =
    ["loose", "drainable", "plaster", "dark", "adhered", "fluid", "panel", "insulated", "gypsum", "insulation-face"];

fn answers(list: &[(&str, &str)]) -> Answers {
    list.iter().map(|(q, c)| ((*q).to_owned(), (*c).to_owned())).collect()
}

/// Walls of 12 ft, one after the other, each with its answers; a window in the middle of every one.
fn job(walls: &[&[(&str, &str)]]) -> Job {
    let mut job = Job::new("stretches");
    job.wall.width = inch(144 * walls.len() as i64);
    job.wall.schools = answers(walls[0]);
    let corner = |(i, own): (usize, &&[(&str, &str)])| CornerSpec {
        at: inch(144 * i as i64),
        kind: if i % 3 == 2 { CornerKind::Inside } else { CornerKind::Outside },
        name: format!("Wall {}", i + 1),
        schools: answers(own),
        products: Default::default(),
    };
    job.wall.corners = walls.iter().enumerate().skip(1).map(corner).collect();
    let window = job.openings.remove(0);
    job.openings = (0..walls.len())
        .map(|i| {
            let mut o = window.clone();
            (o.id, o.left) = (format!("W{}", i + 1), o.left + inch(144 * i as i64));
            o
        })
        .collect();
    job
}

fn plan(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn wrong(plan: &Plan) -> Vec<String> {
    let moment = Moment::new(plan, usize::MAX).expect("a layup");
    let found = moment.findings(plan);
    found.iter().filter(|f| f.severity != Severity::Glue).map(|f| format!("{} {}", f.code, f.reason)).collect()
}

#[test]
fn walls_that_answer_alike_are_one_stretch_and_keep_their_plain_ids() {
    let same = plan(&job(&[&[("barrier", "loose")], &[], &[("barrier", "loose"), ("cladding", "lap")]]));
    assert_eq!(same.walls.stretches.len(), 1);
    assert_eq!(same.meetings().count(), 0);
    assert!(same.pieces.iter().any(|p| p.id == "course-1" && p.regions[0].1.width() == inch(432)));
    // Another cladding alone does not end a barrier.
    let clad = plan(&job(&[&[("barrier", "loose")], &[("gap", "mat")]]));
    assert_eq!(clad.walls.stretches.len(), 1);
    assert!(clad.steps.iter().any(|s| s.id.starts_with("w2.wall/") && s.title.ends_with(" on Wall 2")));
    assert!(!clad.steps.iter().any(|s| s.id.starts_with("wall/mat")), "the first wall has no mat");
}

#[test]
fn each_wall_has_its_own_barrier_and_a_strip_lies_over_the_corner() {
    let job = job(&[&[("barrier", "loose")], &[("barrier", "fluid")], &[("barrier", "panel")]]);
    let plan = plan(&job);
    let extent = |id: &str| {
        let of = plan.pieces.iter().filter(|p| p.id.starts_with(id)).flat_map(|p| &p.regions).map(|(_, r)| *r);
        let hull = of.reduce(kame_core::surface::Rect::hull).unwrap_or_else(|| panic!("no {id}"));
        (hull.u0, hull.u1)
    };
    assert_eq!(extent("course-"), (inch(0), inch(144)));
    assert_eq!(extent("w2.coat"), (inch(144), inch(288)));
    assert_eq!(extent("w3.panel-"), (inch(288), inch(432)));
    // Half of its 12 in on each barrier.
    assert_eq!(extent("w2.meeting/strip"), (inch(138), inch(150)));
    assert_eq!(extent("w3.meeting/strip"), (inch(282), inch(294)));
    let barrier = |i: usize| plan.openings[i].answers["barrier"].as_str();
    assert_eq!((barrier(0), barrier(1), barrier(2)), ("loose", "fluid", "panel"));
    // The strips come when both barriers are there.
    let at = |id: &str| plan.steps.position(|s| s.id == id).unwrap_or_else(|| panic!("no step {id}"));
    assert!(at("w2.coat") < at("w2.meeting/strip") && at("w3.joints") < at("w3.meeting/strip"));
    assert!(nearest_working_order(&plan).moved.is_empty());
    assert_eq!(wrong(&plan), Vec::<String>::new());
}

#[test]
fn every_two_barriers_meet_dry() {
    for left in BARRIERS {
        for right in BARRIERS.into_iter().filter(|r| *r != left) {
            let plan = plan(&job(&[&[("barrier", left)], &[("barrier", right)]]));
            assert_eq!(wrong(&plan), Vec::<String>::new(), "{left} and {right}");
            assert!(nearest_working_order(&plan).moved.is_empty(), "{left} and {right}");
        }
    }
}

#[test]
fn without_its_strip_the_corner_is_told_and_a_narrow_one_is_f28() {
    let mut job = job(&[&[("barrier", "loose")], &[("barrier", "adhered")]]);
    let (_, open) =
        apply(&job, &Edit::RemoveStep { step: "w2.meeting/strip".into() }).unwrap_or_else(|p| panic!("{p:?}"));
    let said = wrong(&open);
    assert!(said.iter().any(|s| s.starts_with("F28") && s.contains("right edge")), "{said:?}");
    job.figures.insert("meeting_strip".into(), "3".into());
    assert!(plan(&job).notes.iter().any(|n| n.code == "F28" && n.reason.contains("Strip where two barriers meet")));
}

#[test]
fn walls_of_two_heights_each_hang_their_courses_to_their_own_top() {
    let mut job = job(&[&[("barrier", "loose")], &[("barrier", "adhered")]]);
    job.wall.height = inch(200);
    let low = Edit::ShapeTop { wall: 1, shape: kame_core::edit::TopShape::Low, low: inch(100) };
    let (_, plan) = apply(&job, &low).unwrap_or_else(|p| panic!("{p:?}"));
    let top = |s: usize| plan.walls.stretches[s].courses.courses.last().expect("a course").top;
    assert_eq!((top(0), top(1)), (inch(200) + plan.walls.plate, inch(100) + plan.walls.plate));
    let strip = plan.pieces.iter().find(|p| p.id == "w2.meeting/strip").expect("a strip");
    let over_low = strip.regions.iter().filter(|(on, r)| *on == SurfaceId::WALL && r.u1 > inch(144));
    assert!(over_low.clone().count() > 0 && over_low.clone().all(|(_, r)| r.v1 <= inch(100) + plan.walls.plate));
    assert_eq!(wrong(&plan), Vec::<String>::new());
}

#[test]
fn answers_of_one_wall_are_given_and_taken_back_and_settle_what_stands_on_it() {
    let job = job(&[&[("barrier", "loose")], &[]]);
    let set = |job: &Job, wall: usize, question: &str, choice: Option<&str>| {
        let choice = choice.map(str::to_owned);
        apply(job, &Edit::SetSchool { opening: None, wall: Some(wall), question: question.into(), choice })
    };
    let (cut, _) = apply(
        &job,
        &Edit::SetSchool {
            opening: Some("W2".into()),
            wall: None,
            question: "cut".into(),
            choice: Some("fold-in".into()),
        },
    )
    .unwrap_or_else(|p| panic!("{p:?}"));
    let (panels, plan) = set(&cut, 1, "barrier", Some("panel")).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(panels.wall.corners[0].schools, answers(&[("barrier", "panel")]));
    assert_eq!(panels.wall.schools, answers(&[("barrier", "loose")]));
    // A panel is not folded in: that answer goes, on this wall only.
    assert!(panels.openings[1].schools.is_empty() && plan.openings[0].answers["cut"] == "fold-in");
    let (lying, _) = set(&panels, 1, "panels", Some("lying")).unwrap_or_else(|p| panic!("{p:?}"));
    let (back, one) = set(&lying, 1, "barrier", None).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(back.wall.corners[0].schools.is_empty(), "{:?}", back.wall.corners[0].schools);
    assert_eq!(one.walls.stretches.len(), 1);
    let none = set(&job, 7, "barrier", Some("panel")).expect_err("no such wall");
    assert!(none[0].path == "$.wall" && none[0].message.contains("no wall 8"), "{none:?}");
    let refused = set(&job, 1, "panels", Some("lying")).expect_err("a sheet has no panels");
    assert!(refused[0].path == "$.wall.corners[0].schools.panels", "{refused:?}");
}

#[test]
fn what_all_walls_answer_is_kept_where_a_wall_of_its_own_can_build_it() {
    let mut job = job(&[&[("barrier", "panel"), ("panels", "lying")], &[("barrier", "loose")]]);
    job.wall.schools.insert("base".into(), "flashing".into());
    let plan = plan(&job);
    assert_eq!(plan.walls.stretches[1].answers["base"], "flashing");
    assert_eq!(plan.walls.stretches[1].answers["panels"], "upright", "lying panels are not taken along to a sheet");
}

#[test]
fn openings_stand_beside_the_strip_and_lines_end_before_it() {
    let job = job(&[&[("barrier", "loose")], &[("barrier", "panel")]]);
    let moved = |left: i64| {
        let mut job = job.clone();
        job.openings[0].left = inch(left);
        build(&job)
    };
    assert!(moved(60).is_ok());
    let near = moved(98).unwrap_or_else(|p| panic!("{p:?}"));
    let (strip, hole) = (near.meetings().next().expect("a strip").1, near.openings[0].rect);
    assert!(hole.u1 > strip.u0 - inch(8), "the strip stands beside the window");
    let lies = near.pieces.iter().filter(|p| p.opening.is_none() && p.product.contains("tape"));
    assert!(lies.flat_map(|p| &p.regions).all(|(_, r)| !r.overlaps(hole)), "no strip lies over the hole");
    let found = Moment::new(&near, usize::MAX).expect("a layup").findings(&near);
    assert!(found.iter().all(|f| f.severity >= Severity::Glue), "{found:#?}");
    let (lined, _) = apply(&job, &Edit::AddFeature { kind: "z".into(), left: Some(inch(4)), sill: Some(inch(14)) })
        .unwrap_or_else(|p| panic!("{p:?}"));
    let mut long = lined.clone();
    long.openings.last_mut().expect("a line").width = inch(200);
    let across = build(&long).map(|_| ()).expect_err("across");
    assert!(across[0].message.contains("make it two, one on each wall"), "{across:?}");
}

#[test]
fn a_thing_that_finds_its_own_place_keeps_off_the_strip_and_takes_answers_of_its_wall() {
    let mut job = job(&[&[("barrier", "loose")], &[("barrier", "panel")]]);
    for _ in 0..16 {
        let add = Edit::AddFeature { kind: "pipe".into(), left: None, sill: Some(inch(10)) };
        job = apply(&job, &add).unwrap_or_else(|p| panic!("{p:?}")).0;
    }
    let plan = plan(&job);
    let (_, strip) = plan.meetings().next().expect("a strip");
    assert!(plan.openings.iter().all(|o| o.hull.intersection(strip).is_none()));
    assert!(plan.openings[2..].iter().any(|o| o.stretch == 1), "some came to stand on the second wall");
}

#[test]
fn every_course_is_on_a_roll_of_its_own_stretch_and_the_outer_paper_is_counted() {
    let job = job(&[&[("barrier", "plaster")], &[("barrier", "panel")], &[("barrier", "plaster")]]);
    let plan = plan(&job);
    let list = cut_list(&plan, &[]);
    let paper = list.iter().find(|g| g.product.contains("Plaster paper")).expect("paper");
    let in_plan = plan.pieces.iter().filter(|p| p.product == paper.product && p.cut.is_some()).count();
    assert_eq!(paper.pieces.len(), in_plan, "no piece is lost");
    assert!(paper.pieces.iter().all(|p| (1..=paper.rolls).contains(&p.roll)), "{:?}", paper.pieces);
    assert!(paper.rolls >= paper.bound);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// Whatever barriers stand next to each other, whatever the cladding: dry, and in an order that works.
    #[test]
    fn any_row_of_walls_is_dry(walls in prop::collection::vec((0_usize..10, 0_usize..3), 2..5)) {
        let gaps = ["none", "mat", "battens"];
        let own: Vec<Vec<(&str, &str)>> = walls.iter().map(|(b, g)| vec![("barrier", BARRIERS[*b]), ("gap", gaps[*g])]).collect();
        let lists: Vec<&[(&str, &str)]> = own.iter().map(Vec::as_slice).collect();
        let built = build(&job(&lists));
        prop_assume!(built.is_ok());
        let plan = built.expect("it is");
        prop_assert_eq!(wrong(&plan), Vec::<String>::new());
        prop_assert!(nearest_working_order(&plan).moved.is_empty());
        let pieces: BTreeSet<&str> = plan.pieces.iter().map(|p| p.id.as_str()).collect();
        let steps: BTreeSet<&str> = plan.steps.iter().map(|s| s.id.as_str()).collect();
        prop_assert_eq!((pieces.len(), steps.len()), (plan.pieces.len(), plan.steps.len()), "each id once");
    }
}
