//! The demo jobs: what a newcomer finds there.

use kame_core::findings::{Moment, Severity};
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
