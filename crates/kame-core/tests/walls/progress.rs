//! How far a job has come by its record, in a line.

use crate::verdict::wall;
use kame_core::job::Job;
use kame_core::nights::NightState;
use kame_core::plan::{Plan, build};
use kame_core::record::{Entry, Event, What, seal};
use kame_core::view::{JobProgress, Known, progress};

fn after(job: &Job, plan: &Plan, events: &[(&str, What)]) -> JobProgress {
    let mut all: Vec<Entry> = Vec::new();
    for (n, (step, what)) in events.iter().enumerate() {
        let event = Event {
            id: format!("01936f00-0000-7000-8000-{n:012x}"),
            who: "Ada".into(),
            at: "2026-11-30T07:05:00Z".into(),
            place: "W1".into(),
            step: (*step).into(),
            revision: 1,
            what: what.clone(),
            note: String::new(),
            photos: Vec::new(),
        };
        all.push(seal(all.last(), "2026-11-30T08:00:00Z", event));
    }
    progress(job, plan, &all, &Known::default()).expect("progress")
}

#[test]
fn a_job_goes_from_nothing_begun_over_risky_nights_to_all_done() {
    let job = wall(&[], &[]);
    let plan = build(&job).expect("a plan");
    let ids: Vec<&str> = plan.order.iter().map(|s| plan.steps[*s].id.as_str()).collect();
    let none = after(&job, &plan, &[]);
    assert_eq!((none.done, none.of, none.failed, none.tonight), (0, ids.len(), 0, None));
    let next = none.next.expect("a first step");
    assert_eq!(next.step, ids[0]);
    let until = |step: &str| {
        let end = ids.iter().position(|id| *id == step).expect("a step");
        ids[..=end].iter().map(|id| (*id, What::Done)).collect::<Vec<_>>()
    };
    let open = after(&job, &plan, &until("W1/cut"));
    let night = open.tonight.expect("a night");
    assert_eq!(night.state, NightState::Cover, "the opening is cut and nothing is in it");
    assert!(!night.why.is_empty() && night.put[0].starts_with("Cover"), "{night:?}");
    let next = open.next.expect("a next step");
    assert_eq!((next.place.as_str(), next.place_name.is_empty()), ("W1", false));
    // What is left out is not waited for; a check that is not as it should be is counted and is done all the same.
    let mut some = until("W1/cut");
    some.push((ids[0], What::Looked { check: format!("{}/1:look", ids[0]), good: false }));
    let last = *ids.last().expect("steps");
    some.push((last, What::LeftOut));
    let failed = after(&job, &plan, &some);
    assert_eq!((failed.failed, failed.done, failed.of), (1, open.done, ids.len() - 1));
    let all = after(&job, &plan, &until(last));
    assert_eq!((all.done, all.next, all.tonight.map(|n| n.state)), (ids.len(), None, Some(NightState::Dry)));
    // All that is to come is done, and what was left out lets rain in: that is no good news.
    let mut without: Vec<(&str, What)> = until(last);
    without
        .iter_mut()
        .filter(|(id, _)| *id == "W1/head" || *id == "W1/drop-flap")
        .for_each(|(_, what)| *what = What::LeftOut);
    let open = after(&job, &plan, &without);
    assert!(open.next.is_none() && open.tonight.is_some_and(|n| n.state != NightState::Dry && !n.why.is_empty()));
    assert_eq!(all.verdict, none.verdict, "the verdict is of the wall as planned");
}
