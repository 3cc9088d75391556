//! The small picture of a step shows all that the step does, inside its frame, with the sizes of the plan.

use crate::verdict::{BARRIERS, wall, with};
use kame_core::job::{Job, read_job};
use kame_core::plan::{Plan, build};
use kame_core::recipe::schools::Feature;
use kame_core::trade::Act;
use kame_core::view::{PastSide, StepPicture, step_pictures};
use std::collections::HashSet;

fn pictures(job: &Job, opening: Option<&str>) -> (Plan, Vec<StepPicture>) {
    let plan = build(job).unwrap_or_else(|p| panic!("{p:?}"));
    let all = step_pictures(&plan, opening, None);
    (plan, all)
}

fn of<'a>(all: &'a [StepPicture], step: &str) -> &'a StepPicture {
    all.iter().find(|p| p.step == step).unwrap_or_else(|| panic!("no picture of {step}"))
}

#[test]
fn every_step_that_lays_something_shows_it_inside_its_frame_at_every_feature_of_the_demo() {
    let shipped = std::fs::read_dir(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo")).expect("the demo");
    for file in shipped.map(|f| f.expect("a file").path()).filter(|f| f.to_string_lossy().ends_with(".kame.json")) {
        let job = read_job(&std::fs::read(file).expect("a demo job")).unwrap_or_else(|p| panic!("{p:?}"));
        let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
        for at in plan.openings.iter().map(|o| Some(o.id.as_str())).chain([None]) {
            let all = step_pictures(&plan, at, None);
            for step in plan.steps.iter().filter(|s| s.opening.as_deref() == at && !plan.is_removed(&s.id)) {
                let done = step.actions.iter().filter(|a| !plan.is_removed(&a.id));
                let laid: HashSet<&str> =
                    done.filter_map(|a| a.act.placed()).map(|p| plan.pieces[p].id.as_str()).collect();
                let Some(picture) = all.iter().find(|p| p.step == step.id) else {
                    assert!(laid.is_empty(), "{}: nothing is drawn", step.id);
                    continue;
                };
                let drawn: HashSet<&str> = picture.now.iter().map(|s| s.piece.as_str()).collect();
                // A piece may be cut away in the very step that lays it, and what cannot be done is not drawn.
                assert!(laid.is_empty() || laid.intersection(&drawn).next().is_some(), "{}: {laid:?}", step.id);
                let [x, y, w, h] = picture.frame;
                for c in picture.now.iter().flat_map(|s| s.parts.iter().flatten()) {
                    let inside = c[0] >= x && c[0] <= x + w && c[1] >= y && c[1] <= y + h;
                    assert!(inside, "{}: {c:?} outside {:?}", step.id, picture.frame);
                }
                assert!(picture.says.starts_with(&step.title));
            }
        }
    }
}

#[test]
fn what_is_laid_goes_past_the_opening_by_the_figures() {
    let (plan, all) = pictures(&wall(&[], &[]), Some("W1"));
    let opening = plan.openings[0].rect;
    for (step, pieces) in [("W1/head", vec!["W1/head-flashing"]), ("W1/jambs", vec!["W1/jamb-left", "W1/jamb-right"])] {
        let laid = plan.pieces.iter().filter(|p| pieces.contains(&p.id.as_str()) || p.id == pieces[0]);
        let rects: Vec<_> = laid.flat_map(|p| p.regions.iter().map(|(_, r)| *r)).collect();
        let picture = of(&all, step);
        if step == "W1/head" {
            let left = opening.u0 - rects.iter().map(|r| r.u0).min().expect("a part");
            let said = picture.sizes.iter().find(|s| s.past == PastSide::Left).expect("a size");
            assert_eq!(said.text, left.to_string());
            assert_eq!(said.line[2] - said.line[0], left.to_inches_f64());
        }
        let text = |side: PastSide| picture.sizes.iter().find(|s| s.past == side).map(|s| s.text.as_str());
        assert_eq!(text(PastSide::Left), text(PastSide::Right), "{step}: as far on both sides");
        assert!(picture.says.contains(text(PastSide::Left).expect("a size")));
    }
}

#[test]
fn a_flap_is_drawn_held_up_when_it_is_lifted_and_down_when_it_is_dropped() {
    let job = wall(&[("barrier", "loose")], &[]);
    let (plan, all) = pictures(&job, Some("W1"));
    let with = |lift: bool| {
        let does = |a: &Act| if lift { matches!(a, Act::Lift { .. }) } else { matches!(a, Act::Drop { .. }) };
        let step = plan.steps.iter().find(|s| s.opening.is_some() && s.actions.iter().any(|a| does(&a.act)));
        of(&all, &step.expect("a step with a flap").id)
    };
    let (up, down) = (with(true), with(false));
    assert!(up.now.iter().any(|s| s.held) && down.now.iter().all(|s| !s.held));
    // Drawn from the top down: lifted it goes up, dropped it comes down.
    assert!(!up.ways.is_empty() && up.ways.iter().all(|w| w[3] < w[1]));
    assert!(!down.ways.is_empty() && down.ways.iter().all(|w| w[3] > w[1]));
    assert!(up.sizes.is_empty() && down.sizes.is_empty(), "a flap is where it was cut");
}

#[test]
fn every_barrier_and_feature_has_its_pictures_and_one_can_be_asked_for() {
    for barrier in BARRIERS {
        for job in [
            wall(&[("barrier", barrier)], &[]),
            with(Feature::Penetration, [4, 4], barrier, &[]),
            with(Feature::Line, [80, 4], barrier, &[]),
        ] {
            let Ok(plan) = build(&job) else { continue };
            let all = step_pictures(&plan, Some("W1"), None);
            assert!(all.iter().any(|p| !p.now.is_empty()), "{barrier}");
            let one = step_pictures(&plan, Some("W1"), Some(&all[0].step));
            assert_eq!(one, all[..1]);
            for p in all {
                assert!(p.frame[2] >= 14.0 || p.frame[3] >= 14.0, "{}", p.step);
            }
        }
    }
    assert!(step_pictures(&build(&wall(&[], &[])).expect("a plan"), Some("nowhere"), None).is_empty());
}
