//! The demo jobs: what a newcomer finds there.

use kame_core::findings::{Moment, Severity, State};
use kame_core::job::{Job, read_job};
use kame_core::plan::build;
use std::collections::BTreeSet;

fn demo(name: &str) -> Job {
    let path = format!("{}/../../demo/{name}.kame.json", env!("CARGO_MANIFEST_DIR"));
    read_job(&std::fs::read(path).expect("demo file")).unwrap_or_else(|p| panic!("{p:?}"))
}

#[test]
fn the_wall_with_four_openings_is_right_in_four_recipes() {
    let job = demo("heron-spit-four-openings");
    let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
    let recipes: BTreeSet<_> = plan.openings.iter().map(|o| &o.answers).collect();
    assert_eq!((plan.openings.len(), recipes.len()), (4, 4));
    let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
    assert!(found.iter().all(|f| f.severity == Severity::Glue), "{found:#?}");
}

#[test]
fn the_north_wall_leaks_as_found_and_not_as_it_should_be() {
    let worst = |name: &str| {
        let plan = build(&demo(name)).unwrap_or_else(|p| panic!("{p:?}"));
        Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan).first().map(|f| f.severity)
    };
    assert_eq!(worst("heron-spit-as-found"), Some(Severity::Leak));
    assert!(worst("heron-spit").is_none_or(|s| s >= Severity::Glue));
}

#[test]
fn the_demo_shows_every_state_of_a_wall() {
    let states = |name: &str, done: usize| {
        let plan = build(&demo(name)).unwrap_or_else(|p| panic!("{p:?}"));
        let moment = Moment::new(&plan, done).expect("a layup");
        moment.verdict(&plan, &moment.findings(&plan)).state
    };
    let all = usize::MAX;
    assert_eq!(states("heron-spit-as-found", all), State::GetsIn);
    assert_eq!(states("heron-spit-tide-room", all), State::Stands);
    assert_eq!(states("heron-spit-tide-room", 5), State::NotAsPlanned);
    assert_eq!(states("heron-spit-gable", 5), State::Unfinished);
    assert_eq!(states("heron-spit-four-openings", all), State::WhileGlueHolds);
    assert_eq!(states("heron-spit-gable", all), State::ByLaps);
}

#[test]
fn the_station_has_its_walls_its_holes_and_a_handful_of_honest_mistakes() {
    let job = demo("heron-spit-station");
    let plan = build(&job).unwrap_or_else(|p| panic!("{p:#?}"));
    let moment = Moment::new(&plan, usize::MAX).expect("a layup");
    let found = moment.findings(&plan);
    let wrong: BTreeSet<&str> =
        found.iter().filter(|f| f.severity != Severity::Glue).map(|f| f.code.as_str()).collect();
    assert_eq!((job.wall.corners.len(), plan.openings.len()), (6, 31));
    // Sheet on the bunkhouse, stuck on its weather side, panels on the boat store; plaster there and laps elsewhere.
    let barriers: Vec<&str> = plan.walls.stretches.iter().map(|s| s.answers["barrier"].as_str()).collect();
    assert_eq!(barriers, ["loose", "adhered", "loose", "panel"]);
    assert_eq!(plan.walls.stretches[3].answers["cladding"], "plaster");
    assert_eq!(wrong.into_iter().collect::<Vec<_>>(), ["F24", "F29", "F30", "F34", "F35"]);
    // Water gets in at the late cable and nowhere else.
    let cable = plan.openings.iter().find(|o| o.id == "P6").expect("the cable").hull.to_inches();
    let leaks: Vec<_> = found.iter().filter(|f| f.severity == Severity::Leak).collect();
    assert!(!leaks.is_empty());
    for f in leaks {
        let [u0, v0, u1, v1] = f.place.1;
        assert!(u0 < cable[2] && v0 < cable[3] && u1 > cable[0] && v1 > cable[1], "{} {:?}", f.reason, f.place);
    }
}
