//! Checks: every measure and hold carries what is measured, target, tolerance, how it is judged, by whom, and what it guards.

use crate::schools;
use kame_core::checks::{Check, checks_of};
use kame_core::job::{Job, read_job};
use kame_core::plan::{Plan, build};
use kame_core::recipe::checks::{Eyes, Judged, Quantity, checks};
use kame_core::trade::Act;
use std::collections::BTreeSet;

fn plan(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn of(plan: &Plan) -> Vec<Check> {
    checks_of(plan).unwrap_or_else(|e| panic!("{e}"))
}

#[test]
fn the_data_says_what_its_judgement_needs_and_names_faults_of_the_catalogue() {
    let catalogue = include_str!("../../../../docs/FAULTS.md");
    for c in checks().expect("check data") {
        let needs = (c.target.is_some(), c.tolerance.is_some());
        let right = match c.judged {
            Judged::Within => needs == (true, true),
            Judged::Spread => needs == (false, true) && c.readings > 1,
            Judged::Bow => needs == (false, true) && c.readings == 3,
            Judged::Least | Judged::Most => needs == (true, false),
            Judged::Noted | Judged::Yes => needs == (false, false),
        };
        assert!(right && c.readings > 0, "{}", c.id);
        assert_eq!(c.quantity == Quantity::Look, c.judged == Judged::Yes, "{}", c.id);
        assert!(c.spots.is_empty() || c.spots.len() == c.readings as usize, "{}: a spot for each reading", c.id);
        assert!(!c.guards.is_empty() || c.quantity == Quantity::Lot, "{} guards nothing", c.id);
        for fault in &c.guards {
            assert!(catalogue.contains(&format!("| {fault} |")), "{}: {fault}", c.id);
        }
    }
}

#[test]
fn every_measure_and_hold_of_every_recipe_carries_a_check_and_ids_are_unique() {
    let station = include_str!("../../../../demo/heron-spit-station.kame.json");
    let station = read_job(station.as_bytes()).expect("the demo's building");
    let every_answer = schools::sample(usize::MAX).into_iter().map(|a| schools::job(&a));
    for job in every_answer.chain([station]) {
        let plan = plan(&job);
        let all = of(&plan);
        let mut seen = BTreeSet::new();
        assert!(all.iter().all(|c| seen.insert(&c.id)), "{}", job.name);
        for action in plan.steps.iter().flat_map(|s| &s.actions) {
            let carries = all.iter().any(|c| c.action == action.id);
            let must = matches!(
                action.act,
                Act::Measure
                    | Act::Hold
                    | Act::Press { .. }
                    | Act::Seal { .. }
                    | Act::Coat { .. }
                    | Act::Set { .. }
                    | Act::Fasten
            );
            assert_eq!(carries, must, "{}: {}", action.id, action.label);
        }
    }
}

#[test]
fn targets_are_those_of_the_opening_and_of_the_profile() {
    let mut job = Job::new("measured");
    job.figures.insert("opening_tolerance".into(), "3/8".into());
    let all = of(&plan(&job));
    let one = |id: &str| all.iter().find(|c| c.check == id).unwrap_or_else(|| panic!("no {id}"));
    let width = one("opening-width");
    assert_eq!((width.target, width.tolerance, width.unit), (Some(36.0), Some(0.375), "in"));
    assert_eq!(width.asked, "36\" ± 3/8\"");
    assert_eq!(one("opening-diagonals").asked, "no more than 1/4\" apart");
    assert_eq!(one("sill-level").asked, "0\" ± 1/8\"");
    assert_eq!((one("look-before-cover").by, one("opening-width").by), (Eyes::Other, Eyes::Installer));
    // What is stuck wants its product's own least temperature.
    let warm = one("stick-temperature");
    assert!(warm.target.is_some_and(|f| (0.0..60.0).contains(&f)) && warm.asked.ends_with("°F"), "{warm:?}");
    assert!(all.iter().all(|c| !c.removed));
}
