//! Buildings out of a model: whatever order and direction its walls are drawn in, the same job comes of them; corners turn as they do.

use kame_core::job::CornerKind;
use kame_core::length::Length;
use kame_core::model::{Fills, FromModel, Model, ModelOpening, ModelWall, from_model};
use kame_core::plan::build;
use kame_core::stop::Stop;
use proptest::prelude::*;

const THICK: f64 = 8.0;

fn wall(name: &str, from: [f64; 2], to: [f64; 2], openings: Vec<ModelOpening>) -> ModelWall {
    ModelWall { name: name.into(), ends: [from, to], thickness: THICK, foot: 0.0, height: 108.0, openings }
}

fn window(name: &str, from: f64) -> ModelOpening {
    ModelOpening { name: name.into(), fills: Fills::Window, from, sill: 36.0, width: 36.0, height: 48.0 }
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
    walls.push(wall("Stub", [0.0, -90.0], [12.0, -90.0], vec![]));
    walls.push(wall("Partition", [120.0, 0.0], [120.0, 300.0], vec![]));
    let FromModel { job, left_out, walls } = taken(walls);
    let names: Vec<&str> = job.openings.iter().map(|o| o.name.as_str()).collect();
    assert_eq!(
        names,
        ["s", "y", "e"],
        "{:?} {left_out:?}",
        job.openings.iter().map(|o| (o.left, o.width)).collect::<Vec<_>>()
    );
    assert_eq!(walls.iter().map(|w| w.openings.len()).sum::<usize>(), 3, "the picture shows what is taken");
    for words in ["(slot):", "vent in South: a hole of", "Stub: 12 in long", "Partition: not on the way"] {
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
