//! Remedies that are offered were tried: each takes away what it was offered for and adds nothing, and a chain of them ends.

use crate::verdict::{BARRIERS, wall, with};
use kame_core::edit::{Edit, apply};
use kame_core::faults;
use kame_core::findings::{Finding, KnownWater, Moment, cause_key};
use kame_core::job::Job;
use kame_core::plan::{Plan, build};
use kame_core::recipe::schools::Feature;
use kame_core::remedies::{Remedy, is_cause_of_worry, remedies};
use kame_core::stop::Stop;
use proptest::prelude::*;
use std::collections::HashSet;

fn seen(job: &Job) -> (Plan, Vec<Finding>) {
    let plan = build(job).unwrap_or_else(|p| panic!("{p:?}"));
    let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
    (plan, found)
}

/// How much is told that is not as it should be. What is listed as one may be two once something else is put right, so things are counted and
/// not lines of the list.
fn worries(plan: &Plan, found: &[Finding]) -> usize {
    let told: HashSet<String> = found.iter().filter(|f| is_cause_of_worry(f)).map(|f| cause_key(plan, f)).collect();
    told.len()
}

/// The first remedy that is offered for anything on a finished wall.
fn offered(job: &Job, plan: &Plan, found: &[Finding]) -> Option<Remedy> {
    let list = remedies(job, plan, found, &KnownWater::default(), &Stop::default(), 12).expect("not stopped");
    list.into_iter().find_map(|(_, remedy)| remedy)
}

fn walls() -> impl Strategy<Value = Job> {
    let barrier = prop::sample::select(BARRIERS.to_vec());
    (barrier, 0..4_usize).prop_map(|(barrier, kind)| match kind {
        0 => wall(&[("barrier", barrier)], &[]),
        1 => wall(&[("barrier", barrier)], &[("head", "cap"), ("sill", "gussets")]),
        2 => with(Feature::Penetration, [4, 4], barrier, &[("thing", "pipe"), ("face", "pieces")]),
        _ => with(Feature::Line, [80, 4], barrier, &[("line", "z")]),
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn a_chain_of_remedies_ends_in_a_wall_as_planned_or_in_what_a_person_must_do(
        right in walls(),
        picks in prop::collection::vec(any::<prop::sample::Index>(), 1..4),
    ) {
        let Ok(plan) = build(&right) else { return Ok(()) };
        let all = faults::all(&plan);
        let mut job = right.clone();
        for pick in picks {
            // What cannot be made together is not made.
            if let Ok((wrong, _)) = apply(&job, &all[pick.index(all.len())].edit()) {
                job = wrong;
            }
        }
        let (mut plan, mut found) = seen(&job);
        let (mut left, mut steps) = (worries(&plan, &found), 0);
        let most = left;
        while let Some(remedy) = offered(&job, &plan, &found) {
            let (next, _) = apply(&job, &remedy.edit).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
            let (after, now) = seen(&next);
            prop_assert!(worries(&after, &now) < left, "{remedy:?} leaves {left}");
            let (again, _) = apply(&next, &remedy.edit).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
            prop_assert_eq!(&again, &next, "done twice it changes nothing");
            (job, plan, found) = (next, after, now);
            left = worries(&plan, &found);
            steps += 1;
            prop_assert!(steps <= most, "more steps than there were causes");
        }
        for f in found.iter().filter(|f| is_cause_of_worry(f)) {
            prop_assert!(!f.remedy.is_empty() && !f.remedy.contains("lengthen it"), "{f:?}");
        }
        // What is told as one thing is always put right.
        prop_assert!(most > 1 || left == 0, "{found:#?}");
    }
}

#[test]
fn a_lap_too_short_for_the_floor_is_lengthened_by_what_is_missing() {
    let mut job = wall(&[], &[]);
    job.figures =
        [("lap_horizontal", "2"), ("floor_rain", "2 1/2")].map(|(id, v)| (id.to_owned(), v.to_owned())).into();
    let (plan, found) = seen(&job);
    let remedy = offered(&job, &plan, &found).expect("a remedy");
    let (mended, after) = apply(&job, &remedy.edit).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(worries(&after, &seen(&mended).1), 0, "{remedy:?}");
}

#[test]
fn what_no_length_cures_is_not_told_to_be_lengthened() {
    for barrier in BARRIERS {
        for f in seen(&wall(&[("barrier", barrier)], &[])).1 {
            assert!(!f.remedy.contains("lengthen"), "{barrier}: {}", f.remedy);
        }
    }
}

#[test]
fn furring_that_shuts_a_gap_is_answered_otherwise_and_a_single_layer_gets_a_gap() {
    for (given, asked) in [
        (vec![("gap", "battens"), ("furring", "shut")], "F35"),
        (vec![("cladding", "plaster")], "F34"),
        (vec![("gap", "mat"), ("fixing", "crushed")], "F36"),
    ] {
        let job = wall(&given, &[]);
        let (plan, found) = seen(&job);
        assert!(found.iter().any(|f| f.code == asked));
        let remedy = offered(&job, &plan, &found).unwrap_or_else(|| panic!("nothing for {asked}"));
        let (mended, after) = apply(&job, &remedy.edit).unwrap_or_else(|p| panic!("{p:?}"));
        assert_eq!(worries(&after, &seen(&mended).1), 0, "{remedy:?}");
    }
}

#[test]
fn a_step_that_is_put_back_comes_back_with_everything_in_it() {
    let right = with(Feature::Line, [80, 4], "loose", &[("line", "z")]);
    let plan = build(&right).unwrap_or_else(|p| panic!("{p:?}"));
    let without = |job: &Job, id: &str| apply(job, &Edit::RemoveStep { step: id.to_owned() }).expect("left out").0;
    for step in &plan.steps {
        let back = Edit::RestoreStep { step: step.id.clone() };
        for action in &step.actions {
            for wrong in [
                without(&without(&right, &step.id), &action.id),
                without(&without(&right, &action.id), &step.id),
                without(&right, &action.id),
            ] {
                let (mended, _) = apply(&wrong, &back).expect("put back");
                assert_eq!(mended.sequence, right.sequence, "{} without {}", step.id, action.id);
            }
        }
    }
}
