//! Buildings out of a model: whatever order and direction its walls are drawn in, the same job comes of them; corners turn as they do.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Moment, Severity};
use kame_core::job::{CornerKind, Job};
use kame_core::length::Length;
use kame_core::model::{Fills, FromModel, Model, ModelOpening, ModelWall, Newer, from_model, newer};
use kame_core::plan::build;
use kame_core::recipe::schools::Feature;
use kame_core::stop::Stop;
use proptest::prelude::*;

const THICK: f64 = 8.0;

fn wall(name: &str, from: [f64; 2], to: [f64; 2], openings: Vec<ModelOpening>) -> ModelWall {
    ModelWall { name: name.into(), ends: [from, to], thickness: THICK, foot: 0.0, height: 108.0, openings }
}

fn window(name: &str, from: f64) -> ModelOpening {
    let id = format!("id of {name}");
    ModelOpening { id, name: name.into(), fills: Fills::Window, from, sill: 36.0, width: 36.0, height: 48.0 }
}

/// An L of six walls along their middles, the inner corner at (240, 144); a window on each of three of them.
fn shed() -> Vec<ModelWall> {
    vec![
        wall("South", [0.0, 0.0], [400.0, 0.0], vec![window("s", 60.0)]),
        wall("East", [400.0, 0.0], [400.0, 144.0], vec![]),
        wall("Yard north", [400.0, 144.0], [240.0, 144.0], vec![window("y", 50.0)]),
        wall("Yard east", [240.0, 144.0], [240.0, 300.0], vec![window("e", 60.0)]),
        wall("North", [240.0, 300.0], [0.0, 300.0], vec![]),
        wall("West", [0.0, 300.0], [0.0, 0.0], vec![]),
    ]
}

/// The same wall drawn from its other end.
fn turned(w: &ModelWall) -> ModelWall {
    let length = (w.ends[1][0] - w.ends[0][0]).hypot(w.ends[1][1] - w.ends[0][1]);
    let mut out = w.clone();
    out.ends.reverse();
    out.openings.iter_mut().for_each(|o| o.from = length - o.from - o.width);
    out
}

fn taken(walls: Vec<ModelWall>) -> FromModel {
    from_model(&Model { name: "Shed".into(), walls, left_out: vec![] }, &Stop::default())
        .unwrap_or_else(|p| panic!("{p:?}"))
}

#[test]
fn an_l_has_five_outer_corners_and_an_inner_one_and_its_faces_meet_outside() {
    let FromModel { job, .. } = taken(shed());
    let kinds: Vec<CornerKind> = job.wall.corners.iter().map(|c| c.kind).collect();
    use CornerKind::{Inside, Outside};
    assert_eq!(kinds, [Outside, Outside, Inside, Outside, Outside]);
    // Half a wall longer at each outer corner, half a wall shorter at each inner one.
    let sizes: Vec<Length> = job.wall.ends().windows(2).map(|w| w[1] - w[0]).collect();
    assert_eq!(sizes, [408, 152, 160, 156, 248, 308].map(Length::inch));
    let left = |id: &str| job.openings.iter().find(|o| o.name == id).expect("there").left;
    assert_eq!(left("s"), Length::inch(64));
    assert_eq!(left("y"), Length::inch(408 + 152 + 54));
    assert_eq!(left("e"), Length::inch(408 + 152 + 160 + 56));
    assert!(build(&job).is_ok());
}

#[test]
fn walls_that_do_not_close_stand_in_a_row_and_walls_above_belong_to_those_below() {
    let mut walls: Vec<ModelWall> = shed().into_iter().take(2).collect();
    let loft = ModelWall { foot: 108.0, ..wall("Loft", [200.0, 0.0], [0.0, 0.0], vec![window("l", 20.0)]) };
    let tower = ModelWall { foot: 108.0, ..wall("Tower", [900.0, 900.0], [900.0, 1200.0], vec![window("t", 20.0)]) };
    walls.extend([loft, tower]);
    let FromModel { job, left_out, .. } = taken(walls);
    assert_eq!((job.wall.corners.len(), job.wall.height), (1, Length::inch(216)));
    let l = job.openings.iter().find(|o| o.name == "l").expect("over the south wall");
    // Drawn westwards: its window begins 20 in from the east end of its 200 in. The row begins where the wall does.
    assert_eq!((l.left, l.sill), (Length::inch(144), Length::inch(144)));
    assert!(left_out.iter().any(|s| s.contains("do not close")), "{left_out:?}");
    assert!(left_out.iter().any(|s| s.starts_with("Tower: stands over no outer wall")), "{left_out:?}");
    assert!(job.openings.iter().all(|o| o.name != "t"));
}

#[test]
fn what_cannot_be_built_is_left_out_with_why_and_the_rest_is_taken() {
    let mut walls = shed();
    walls[0].openings.push(ModelOpening { width: 1.0, ..window("slot", 200.0) });
    walls[0].openings.push(ModelOpening { fills: Fills::Nothing, ..window("vent", 300.0) });
    walls[1].openings.push(ModelOpening { fills: Fills::Nothing, width: 60.0, ..window("barn", 40.0) });
    walls.push(wall("Stub", [0.0, -90.0], [12.0, -90.0], vec![]));
    walls.push(wall("Partition", [120.0, 0.0], [120.0, 300.0], vec![]));
    let FromModel { job, left_out, walls } = taken(walls);
    let names: Vec<&str> = job.openings.iter().map(|o| o.name.as_str()).collect();
    assert_eq!(
        names,
        ["s", "vent", "y", "e"],
        "{:?} {left_out:?}",
        job.openings.iter().map(|o| (o.left, o.width)).collect::<Vec<_>>()
    );
    assert_eq!(walls.iter().map(|w| w.openings.len()).sum::<usize>(), 4, "the picture shows what is taken");
    let vent = job.openings.iter().find(|o| o.name == "vent").expect("taken");
    assert_eq!((vent.feature, vent.schools["thing"].as_str()), (Feature::Penetration, "duct"));
    for words in [
        "(slot):",
        "vent in South: a hole of 36\" × 48\" with nothing in it is taken as a duct",
        "barn in East: a hole of 60\"",
        "Stub: 12 in long",
        "Partition: not on the way",
    ] {
        assert!(left_out.iter().any(|l| l.contains(words)), "{words}: {left_out:?}");
    }
}

proptest! {
    /// Nobody draws walls in an order, or all the same way round.
    #[test]
    fn the_same_job_comes_of_the_same_walls(order in Just((0..6).collect::<Vec<usize>>()).prop_shuffle(), round in prop::collection::vec(any::<bool>(), 6)) {
        let all = shed();
        let drawn = order.iter().map(|n| if round[*n] { turned(&all[*n]) } else { all[*n].clone() }).collect();
        prop_assert_eq!(taken(drawn).job, taken(shed()).job);
    }
}

#[test]
fn what_is_put_on_walls_that_go_all_the_way_round_keeps_off_the_lap_where_courses_come_back() {
    let job = taken(shed()).job;
    let before = build(&job).expect("a plan");
    let worst = |plan: &kame_core::plan::Plan| {
        let moment = Moment::new(plan, usize::MAX).expect("a layup");
        moment.findings(plan).first().map(|f| f.severity)
    };
    assert!(before.walls.round && worst(&before).is_none_or(|s| s >= Severity::Glue));
    let (next, plan) = apply(&job, &Edit::AddFeature { kind: "pipe".into(), left: None, sill: None })
        .unwrap_or_else(|p| panic!("{p:?}"));
    let pipe = next.openings.last().expect("a pipe");
    assert!(pipe.left > Length::inch(12) && worst(&plan).is_none_or(|s| s >= Severity::Glue), "{}", pipe.left);
}

/// A job out of the shed with answers, a name and a pipe of its own.
fn worked_on() -> Job {
    let job = taken(shed()).job;
    let put = |job: &Job, edit: Edit| apply(job, &edit).unwrap_or_else(|p| panic!("{p:?}")).0;
    let school = |opening: &str, question: &str, choice: &str| Edit::SetSchool {
        opening: Some(opening.into()),
        wall: None,
        question: question.into(),
        choice: Some(choice.into()),
    };
    let job = put(&job, school("W1", "sill", "gussets"));
    let job = put(
        &job,
        Edit::AddFeature { kind: "pipe".into(), left: Some(Length::inch(600)), sill: Some(Length::inch(20)) },
    );
    let name = Some("Tide room".into());
    let (left, sill, width, height, depth, flange) = Default::default();
    put(&job, Edit::SetOpening { id: "W1".into(), name, left, sill, width, height, depth, flange })
}

fn change(n: &Newer, id: &str) -> String {
    n.changes.iter().find(|c| c.id == id).map(|c| c.says.clone()).unwrap_or_default()
}

#[test]
fn the_same_model_again_changes_nothing() {
    let same = newer(&worked_on(), taken(shed()));
    assert_eq!(
        (same.changes.as_slice(), same.walls.as_slice(), same.edit, same.refused.len()),
        ([].as_slice(), [].as_slice(), None, 0)
    );
}

#[test]
fn a_newer_model_says_what_moved_is_new_or_gone_and_keeps_what_was_answered() {
    let job = worked_on();
    let mut walls = shed();
    // The south wall is 40 in longer, so that the yard moves; its window goes along and is wider; the one in the yard is gone, another comes.
    let moved = |p: [f64; 2]| if p[0] > 300.0 { [p[0] + 40.0, p[1]] } else { p };
    walls.iter_mut().for_each(|w| w.ends = w.ends.map(moved));
    walls[0].openings[0] = ModelOpening { from: 70.0, width: 40.0, ..window("s", 0.0) };
    walls[2].openings.clear();
    walls[4].openings.push(window("n", 50.0));
    let found = newer(&job, taken(walls));
    assert_eq!(change(&found, "W1"), "40\" wide instead of 36\", moved 10\" to the right");
    assert_eq!(change(&found, "W2"), "not in the model any more");
    assert_eq!((change(&found, "W3"), change(&found, "W4")), (String::new(), "new on North".into()));
    assert!(found.walls.iter().any(|w| w.starts_with("South is 37'-4\" long instead of 34'-0\"")), "{:?}", found.walls);
    let (next, plan) = apply(&job, &found.edit.expect("something changes")).unwrap_or_else(|p| panic!("{p:?}"));
    let of = |id: &str| next.openings.iter().find(|o| o.id == id);
    let w1 = of("W1").expect("still there");
    assert_eq!(
        (w1.name.as_str(), w1.schools["sill"].as_str(), w1.left, w1.width),
        ("Tide room", "gussets", Length::inch(74), Length::inch(40))
    );
    assert!(of("W2").is_none() && of("W4").is_some());
    let drawn: Vec<&str> = found.drawn.iter().flat_map(|w| &w.openings).map(|o| o.id.as_str()).collect();
    assert_eq!(drawn, ["W1", "W3", "W4"], "the picture calls them as the job does");
    // What was put in here stays where it is on its wall: 40 in further on the unfolded face, as that wall is now.
    let (was, now) = (job.openings.iter().find(|o| o.id == "P1").expect("a pipe"), of("P1").expect("still there"));
    assert_eq!(now.left - next.wall.ends()[2], was.left - job.wall.ends()[2]);
    assert!(plan.pieces.iter().all(|p| !p.id.starts_with("W2/")));
    // A job of the time before ids were kept is held against the model by names.
    let mut old = job.clone();
    old.openings.iter_mut().for_each(|o| o.model.clear());
    old.openings[0].name = "s".into();
    assert!(
        newer(&old, taken(shed()))
            .edit
            .is_some_and(|e| matches!(e, Edit::TakeModel { openings, .. } if openings[0].model == "id of s"))
    );
}

#[test]
fn a_newer_model_that_cannot_be_built_with_what_is_there_says_why_and_gives_nothing_to_take() {
    let mut job = worked_on();
    job.wall.top = vec![
        kame_core::job::TopPoint { at: Length::ZERO, height: job.wall.height },
        kame_core::job::TopPoint { at: job.wall.width, height: job.wall.height },
    ];
    let mut walls = shed();
    let moved = |p: [f64; 2]| if p[0] > 300.0 { [p[0] + 40.0, p[1]] } else { p };
    walls.iter_mut().for_each(|w| w.ends = w.ends.map(moved));
    let found = newer(&job, taken(walls));
    assert!(found.edit.is_none() && found.refused.iter().any(|r| r.contains("the top runs")), "{:?}", found.refused);
}
