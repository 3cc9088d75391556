//! What may be left overnight, and what keeps the rain out where it may not.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Moment, Severity};
use kame_core::job::{Job, read_job};
use kame_core::length::Length;
use kame_core::nights::{KnownNights, Night, NightState, nights, nights_after, tonight};
use kame_core::plan::{Opening, Plan, SurfaceId, build};
use kame_core::recipe::schools::Answers;
use kame_core::sequence::{Laid, Stage};
use kame_core::surface::Rect;
use kame_core::trade::{Action, StepId};

fn plan(answers: &[(&str, &str)]) -> Plan {
    let mut job = Job::new("nights");
    for (q, c) in answers {
        let own: &mut Answers = if ["barrier", "first", "outside"].contains(q) {
            &mut job.wall.schools
        } else {
            &mut job.openings[0].schools
        };
        own.insert((*q).to_owned(), (*c).to_owned());
    }
    build(&job).unwrap_or_else(|p| panic!("{p:?}"))
}

#[track_caller]
fn at<'a>(plan: &Plan, nights: &'a [Night], step: &str) -> &'a Night {
    nights.iter().find(|n| plan.steps[n.step].id == step).unwrap_or_else(|| panic!("no step {step}"))
}

#[test]
fn the_usual_window_is_left_covered_until_its_slits_are_patched() {
    let plan = plan(&[]);
    let list = nights(&plan, &KnownNights::default()).expect("nights");
    let state = |step: &str| at(&plan, &list, step).state;
    assert_eq!((state("W1/survey"), state("course-1")), (NightState::Bare, NightState::Bare));
    assert_eq!(state("course-2"), NightState::Dry, "the opening is not cut yet");
    for step in ["W1/cut", "W1/pan", "W1/set", "W1/jambs", "W1/head"] {
        assert_eq!(state(step), NightState::Cover, "{step}");
    }
    assert_eq!((state("W1/inside"), state("W1/look")), (NightState::Dry, NightState::Dry));
    let course = at(&plan, &list, "course-1");
    assert!(
        course.temporary[0].words.contains("along the top edge of the barrier (course 1)"),
        "{:?}",
        course.temporary
    );
    let head = at(&plan, &list, "W1/head");
    assert_eq!(
        head.dry_after.map(|s| plan.steps[s].id.as_str()),
        Some("W1/patches"),
        "an inside seal that is to come asks for no cover"
    );
    assert!(head.temporary[0].words.starts_with("Cover Window 1: a sheet"), "{:?}", head.temporary);
}

#[test]
fn every_night_says_why_or_stays_dry_in_every_school() {
    for answers in [
        vec![("first", "windows")],
        vec![("barrier", "panel")],
        vec![("barrier", "fluid"), ("flange", "liquid")],
        vec![("barrier", "adhered")],
        vec![("barrier", "plaster")],
        vec![("unit", "frame"), ("position", "in"), ("head", "cap")],
        vec![("outside", "boards"), ("sill", "formed")],
    ] {
        let plan = plan(&answers);
        let list = nights(&plan, &KnownNights::default()).expect("nights");
        assert_eq!(list.len(), plan.steps.len());
        assert_eq!(list.last().map(|n| n.state), Some(NightState::Dry), "{answers:?}");
        for n in &list {
            assert_eq!(n.state == NightState::Dry, n.why.is_empty(), "{answers:?} {n:?}");
            let proposed = matches!(n.state, NightState::Tape | NightState::Cover);
            // On a bare wall the top edges of courses are taped, which does not keep the wall itself dry.
            let tops = n.state == NightState::Bare && n.temporary.iter().all(|t| t.words.contains("top edge of the"));
            assert!(tops || proposed != n.temporary.is_empty(), "{answers:?} {n:?}");
            assert_ne!(n.state, NightState::Open, "{answers:?} {}: {}", plan.steps[n.step].id, n.why);
        }
    }
}

#[test]
fn an_unpatched_slit_may_be_left_with_tape() {
    let (job, _) =
        apply(&Job::new("slit"), &Edit::RemoveStep { step: "W1/patches".into() }).unwrap_or_else(|p| panic!("{p:?}"));
    let plan = build(&job).expect("a plan");
    let list = nights(&plan, &KnownNights::default()).expect("nights");
    let last = list.last().expect("a night");
    assert!(matches!(last.state, NightState::Tape | NightState::Cover), "{last:?}");
    assert!(!last.why.is_empty() && !last.temporary.is_empty());
}

#[test]
fn openings_asked_one_by_one_say_what_the_whole_wall_says() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/heron-spit-four-openings.kame.json");
    let mut job = read_job(&std::fs::read(path).expect("demo file")).unwrap_or_else(|p| panic!("{p:?}"));
    // One mistake that stays to the end, so that one opening leaks while others are worked at.
    for edit in [Edit::RemoveStep { step: "W1/patches".into() }, Edit::RemoveStep { step: "W2/drop-flap".into() }] {
        job = apply(&job, &edit).unwrap_or_else(|p| panic!("{p:?}")).0;
        let plan = build(&job).expect("a plan");
        for n in nights(&plan, &KnownNights::default()).expect("nights") {
            let whole = Moment::tonight(&plan, n.done, |_| ()).expect("a layup");
            let leak = |m: Moment| m.findings(&plan).iter().any(|f| f.severity == Severity::Leak);
            let leaks = whole.is_none_or(leak);
            assert_eq!(leaks, n.state != NightState::Dry, "{}: {}", plan.steps[n.step].id, n.why);
            // Asked about alone it is the same night.
            let alone = tonight(&plan, n.done, &KnownNights::default()).expect("a night");
            assert_eq!(alone, Night { dry_after: None, ..n });
        }
    }
}

/// Held against the whole plan with the actions at other openings left out.
#[test]
fn a_plan_of_one_opening_lays_on_the_walls_and_at_it_what_the_whole_one_lays() {
    let path = |name: &str| format!("{}/../../demo/{name}.kame.json", env!("CARGO_MANIFEST_DIR"));
    for name in ["heron-spit-station", "heron-spit-four-openings"] {
        let job = read_job(&std::fs::read(path(name)).expect("demo file")).unwrap_or_else(|p| panic!("{p:?}"));
        let plan = build(&job).expect("a plan");
        let free = plan.left_free();
        let lies = |p: &Plan, stage: &Stage, of: &Opening| -> Vec<(String, Option<String>, String, Rect)> {
            let here = |l: &&Laid| p.opening_of(l.on).is_none_or(|o| o.id == of.id);
            let flap = |l: &Laid| l.flap.map(|f| p.flaps[f].id.clone());
            let told = |l: &Laid| (p.pieces[l.piece].id.clone(), flap(l), p.surfaces[l.on].facet.id.clone(), l.rect);
            stage.layers.iter().filter(here).map(told).collect()
        };
        for (i, o) in plan.openings.iter().enumerate() {
            let only = plan.only(i, &free);
            assert_eq!(only.plan.openings[only.opening].id, o.id);
            let wanted = |s: StepId| plan.steps[s].opening.as_ref().is_none_or(|id| *id == o.id);
            let all: Vec<&Action> = plan.actions().filter(|(s, _)| wanted(*s)).map(|(_, a)| a).collect();
            let mine: Vec<&Action> = only.plan.actions().map(|(_, a)| a).collect();
            assert_eq!(all.iter().map(|a| &a.id).collect::<Vec<_>>(), mine.iter().map(|a| &a.id).collect::<Vec<_>>());
            for done in [mine.len() / 3, 2 * mine.len() / 3, mine.len()] {
                let whole = Stage::after(&plan, all[..done].iter().copied());
                let small = Stage::after(&only.plan, mine[..done].iter().copied());
                assert_eq!(lies(&plan, &whole, o), lies(&only.plan, &small, o), "{name}, {}, {done}", o.id);
                assert_eq!(whole.blocked.len(), small.blocked.len());
                assert_eq!((whole.seals.len(), whole.slits.len()), (small.seals.len(), small.slits.len()));
            }
        }
    }
}

#[test]
fn what_is_proposed_covers_what_it_names() {
    let plan = plan(&[]);
    for n in nights(&plan, &KnownNights::default()).expect("nights") {
        for t in &n.temporary {
            let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
            assert!(wall.contains(t.rect), "{}", t.words);
            assert_eq!(t.cover, t.words.starts_with("Cover"), "{}", t.words);
            assert!(!t.cover || t.rect.contains(plan.openings[0].hull), "{}", t.words);
        }
    }
}

/// What is known from before a change is used only where it still holds: after every change in a row, known nights are those asked anew.
#[test]
fn known_nights_are_those_asked_anew_whatever_was_changed_before() {
    let text = include_bytes!("../../../../demo/heron-spit-four-openings.kame.json");
    let mut job = read_job(text).expect("the demo job");
    let known = KnownNights::default();
    let size = |id: &str, width: i64| Edit::SetOpening {
        id: id.into(),
        name: None,
        left: None,
        sill: None,
        width: Some(Length::inch_fraction(width, 2)),
        height: None,
        depth: None,
        flange: None,
    };
    let school = |opening: &str, question: &str, choice: &str| Edit::SetSchool {
        wall: None,
        opening: Some(opening.into()),
        question: question.into(),
        choice: Some(choice.into()),
    };
    let changes = [
        size("W1", 71),
        size("W1", 73),
        school("W2", "sill", "gussets"),
        Edit::SetFigure { id: "pan_up_turn".into(), value: Some("4 in".into()) },
        size("D1", 75),
        school("W1", "sill", "formed"),
        size("W1", 71),
    ];
    for change in changes {
        let (next, plan) = apply(&job, &change).unwrap_or_else(|p| panic!("{change:?}: {p:?}"));
        let fresh = nights(&plan, &KnownNights::default()).expect("nights");
        assert_eq!(nights(&plan, &known).expect("nights"), fresh, "{change:?}");
        job = next;
    }
}

#[test]
fn some_nights_are_asked_for_as_they_are_among_all() {
    let plan = plan(&[("barrier", "panel")]);
    let known = KnownNights::default();
    let all = nights(&plan, &known).expect("nights");
    let some: Vec<_> = all.iter().skip(1).step_by(3).collect();
    let dones: Vec<usize> = some.iter().map(|n| n.done).collect();
    let asked = nights_after(&plan, &dones, &known).expect("nights");
    assert!(some.len() >= 4 && asked.len() == some.len());
    for (a, b) in asked.iter().zip(some) {
        assert_eq!((a.step, a.done, a.state, &a.why, &a.temporary), (b.step, b.done, b.state, &b.why, &b.temporary));
    }
    // Before anything is done nothing is left for the night; after more than there is, everything is done.
    let ends = nights_after(&plan, &[0, usize::MAX], &known).expect("nights");
    assert_eq!((ends[0].state, ends[0].done), (NightState::Dry, 0));
    assert_eq!(all.last().map(|n| (n.state, n.done)), Some((ends[1].state, ends[1].done)));
}
