//! Which orders work, the nearest that does, and circles that only a lift breaks.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Moment, Severity};
use kame_core::job::Job;
use kame_core::plan::{Plan, build};
use kame_core::sequence::{Needs, loops, nearest_working_order};
use kame_core::trade::StepId;
use proptest::prelude::*;

fn plan() -> Plan {
    build(&Job::new("orders")).expect("a plan")
}

fn place(plan: &Plan, id: &str) -> StepId {
    plan.steps.position(|s| s.id == id).unwrap_or_else(|| panic!("no step {id}"))
}

#[test]
fn the_recipe_s_own_order_works_and_is_left_alone() {
    let plan = plan();
    assert_eq!(Needs::of(&plan).broken(&plan.order), []);
    let right = nearest_working_order(&plan);
    assert_eq!((right.order, right.moved), (plan.order.clone(), vec![]));
}

#[test]
fn one_step_out_of_place_is_the_one_that_is_moved_back() {
    let moved = Edit::MoveStep { step: "W1/head".into(), before: Some("W1/jambs".into()) };
    let (_, wrong) = apply(&Job::new("orders"), &moved).unwrap_or_else(|p| panic!("{p:?}"));
    let right = nearest_working_order(&wrong);
    assert_eq!(right.moved.len(), 1);
    let words = right.moved[0].words(&wrong);
    assert!(
        words == "\"Head flashing\" (W1) after \"Jamb flashings\" (W1)"
            || words == "\"Jamb flashings\" (W1) after \"Set the window\" (W1)",
        "{words}"
    );
    let (job, mended) =
        apply(&apply(&Job::new("orders"), &moved).unwrap_or_else(|p| panic!("{p:?}")).0, &Edit::PutRight)
            .unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(mended.order, plan().order);
    assert!(job.sequence.order.is_empty(), "back in the recipe's own order there is nothing to keep");
}

#[test]
fn the_head_flap_is_the_standing_circle_and_its_shortest_lift_is_one_step() {
    let plan = plan();
    let circles = loops(&plan);
    assert_eq!(circles.len(), 1);
    let c = &circles[0];
    assert_eq!(c.parts, ["barrier", "window", "head flashing"]);
    assert_eq!((c.lift_before, c.drop_after), (place(&plan, "W1/head"), place(&plan, "W1/head")));
    assert_eq!(c.held, 1);
    assert!(c.held_now.is_some_and(|now| now >= c.held), "{c:?}");
    let dropped = Edit::RemoveStep { step: "W1/lift-flap".into() };
    let (_, without) = apply(&Job::new("orders"), &dropped).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(loops(&without)[0].held_now, None);
}

#[test]
fn where_nothing_is_lapped_over_itself_there_is_no_circle() {
    let mut job = Job::new("panel");
    job.wall.schools.insert("barrier".into(), "panel".into());
    assert_eq!(loops(&build(&job).expect("a plan")), []);
}

/// The fewest steps to move, by trying every set, for a handful of steps.
fn fewest_by_trying(plan: &Plan, order: &[StepId]) -> usize {
    let needs = Needs::of(plan);
    let broken = |kept: &[StepId]| {
        let mut alone = kept.to_vec();
        // Those moved stand out of the way: only pairs among the kept count.
        alone.retain(|s| kept.contains(s));
        needs.broken_among(&alone)
    };
    (0..=order.len())
        .find(|&n| {
            subsets(order.len(), n).iter().any(|out| {
                let kept: Vec<StepId> =
                    order.iter().enumerate().filter(|(i, _)| !out.contains(i)).map(|(_, s)| *s).collect();
                !broken(&kept)
            })
        })
        .unwrap_or(order.len())
}

fn subsets(of: usize, size: usize) -> Vec<Vec<usize>> {
    if size == 0 {
        return vec![vec![]];
    }
    (size - 1..of)
        .flat_map(|last| {
            subsets(last, size - 1).into_iter().map(move |mut s| {
                s.push(last);
                s
            })
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn any_shuffle_is_put_right_by_the_fewest_moves(moves in prop::collection::vec((0_usize..17, 0_usize..17), 1..4)) {
        let mut plan = plan();
        for (from, to) in moves {
            let n = plan.order.len();
            let step = plan.order.remove(from % n);
            plan.order.insert(to % n, step);
        }
        let right = nearest_working_order(&plan);
        let mut sorted = right.order.clone();
        sorted.sort_unstable();
        prop_assert_eq!(sorted, plan.steps.keys().collect::<Vec<_>>());
        prop_assert_eq!(Needs::of(&plan).broken(&right.order), vec![]);
        prop_assert_eq!(right.moved.len(), fewest_by_trying(&plan, &plan.order));
        // Those that stay keep their order among themselves.
        let stays = |order: &[StepId]| order.iter().copied().filter(|s| right.moved.iter().all(|m| m.step != *s)).collect::<Vec<_>>();
        prop_assert_eq!(stays(&right.order), stays(&plan.order));
        let mut mended = plan.clone();
        mended.order = right.order;
        let found = Moment::new(&mended, usize::MAX).expect("a layup").findings(&mended);
        let wrong: Vec<&str> = found
            .iter()
            .filter(|f| !matches!(f.severity, Severity::Glue | Severity::Note))
            .map(|f| f.reason.as_str())
            .collect();
        prop_assert!(wrong.is_empty(), "{:?}", wrong);
    }
}
