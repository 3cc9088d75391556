//! Walls that turn corners: one unfolded face, whose sheets are turned round.

use kame_core::edit::{Edit, apply};
use kame_core::findings::Moment;
use kame_core::job::{CornerKind, CornerSpec, Job};
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::surface::Rect;

fn corner(at: i64, kind: CornerKind, name: &str) -> CornerSpec {
    CornerSpec {
        at: Length::inch(at),
        kind,
        name: name.into(),
        schools: Default::default(),
        products: Default::default(),
    }
}

/// Three walls round an outside and an inside corner, one window on the second.
fn job(barrier: &str) -> Job {
    let mut job = Job::new("corners");
    (job.wall.width, job.wall.height) = (Length::inch(480), Length::inch(109));
    job.wall.corners = vec![corner(144, CornerKind::Outside, "East wall"), corner(336, CornerKind::Inside, "Wing")];
    job.wall.schools.insert("barrier".into(), barrier.into());
    job.openings[0].left = Length::inch(220);
    job
}

fn plan(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn heads(plan: &Plan) -> Vec<(String, Option<f64>)> {
    let moment = Moment::new(plan, usize::MAX).expect("a layup");
    let ids = moment.parts[0].layup().scenarios.iter().map(|s| s.id.clone());
    let each = ids.flat_map(|s| {
        let heads = plan
            .water
            .targets
            .iter()
            .enumerate()
            .map(|(i, t)| (format!("{s} {}", t.id), moment.head_of(i, &s).map(|h| h.inches())));
        heads.collect::<Vec<_>>()
    });
    each.collect()
}

#[test]
fn a_sheet_turned_round_a_corner_keeps_the_water_out_as_on_the_flat() {
    for barrier in ["loose", "adhered", "fluid"] {
        let bent = job(barrier);
        let mut flat = bent.clone();
        flat.wall.corners.clear();
        assert_eq!(heads(&plan(&bent)), heads(&plan(&flat)), "{barrier}");
    }
}

#[test]
fn panels_meet_at_every_corner_under_tape_half_on_each_side() {
    let plan = plan(&job("panel"));
    for c in [144, 336] {
        let at = Length::inch(c);
        let ends = plan.pieces.iter().filter(|p| p.id.starts_with("panel-")).flat_map(|p| &p.regions);
        assert!(ends.clone().all(|(_, r)| r.u1 <= at || r.u0 >= at), "a panel is bent round {c}");
        let half = |r: &Rect| (r.u0 + r.u1 == at + at) && r.height() > r.width();
        assert!(plan.pieces.iter().filter(|p| p.id.starts_with("joint-")).any(|p| half(&p.regions[0].1)), "{c}");
    }
}

#[test]
fn a_card_says_how_far_to_turn_and_a_shorter_turn_is_f28() {
    let mut job = job("loose");
    let right = plan(&job);
    let card = &right.steps.iter().find(|s| s.id == "corners").expect("corners").card;
    assert!(card.what.contains("12\" past the corner") && card.check.contains("East wall, Wing"), "{card:?}");
    assert!(right.notes.is_empty(), "{:?}", right.notes);
    job.figures.insert("corner_wrap".into(), "4".into());
    let short = plan(&job);
    assert!(short.notes.iter().any(|n| n.code == "F28"), "{:?}", short.notes);
}

#[test]
fn openings_keep_off_corners_and_corners_keep_their_order() {
    let job = job("loose");
    let moved = |left: i64| {
        let to = Edit::SetOpening {
            id: "W1".into(),
            name: None,
            left: Some(Length::inch(left)),
            sill: None,
            width: None,
            height: None,
            depth: None,
            flange: None,
        };
        apply(&job, &to)
    };
    assert!(moved(200).is_ok());
    assert!(moved(146).is_ok(), "flashings turn the corner");
    let near = moved(144).expect_err("the flange does not");
    assert!(near[0].message.contains("round the corner at") && near[0].message.contains("away"), "{near:?}");
    let across = moved(130).expect_err("across");
    assert!(across[0].path == "$.openings[0].left", "{across:?}");
    let corners = |list: Vec<CornerSpec>| {
        apply(&job, &Edit::SetWall { name: None, width: None, height: None, corners: Some(list), levels: None })
    };
    assert!(corners(Vec::new()).is_ok());
    let (sorted, _) = corners(vec![corner(400, CornerKind::Outside, "B"), corner(100, CornerKind::Outside, "C")])
        .unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(sorted.wall.corners.iter().map(|c| c.name.as_str()).collect::<Vec<_>>(), ["C", "B"]);
    let near = corners(vec![corner(100, CornerKind::Outside, "B"), corner(110, CornerKind::Outside, "C")]);
    let said = near.expect_err("too near each other");
    assert!(
        said.iter().any(|p| p.path.starts_with("$.wall.corners") && p.message.contains("left to right")),
        "{said:?}"
    );
    let refused =
        |list| corners(list).expect_err("refused").into_iter().map(|p| (p.path, p.message)).collect::<Vec<_>>();
    let past = refused(vec![corner(600, CornerKind::Outside, "B")]);
    assert!(
        past.iter().any(|(path, m)| path == "$.wall.corners[0].at" && m.contains("wall from corner to corner")),
        "{past:?}"
    );
    let nameless = refused(vec![corner(144, CornerKind::Outside, " ")]);
    assert!(
        nameless.iter().any(|(path, m)| path == "$.wall.corners[0].name" && m.contains("between 1 and 120")),
        "{nameless:?}"
    );
}

#[test]
fn a_corner_may_be_called_anything_and_its_card_says_so() {
    for barrier in ["loose", "panel", "fluid"] {
        let mut job = job(barrier);
        for c in &mut job.wall.corners {
            c.name = "North {lap} } {".into();
        }
        let plan = plan(&job);
        let corners = plan.steps.iter().find(|s| s.id == "corners").expect("a step of corners");
        assert!(corners.card.check.contains("North {lap} } {"), "{barrier}: {}", corners.card.check);
    }
}
