//! What comes through the barrier: every set of answers that can be built is rained on, and every single mistake is told.

use kame_core::edit::{Edit, apply, feature_kinds};
use kame_core::faults::{self, Mistake, MistakeOutcome, Right};
use kame_core::findings::{Moment, Severity};
use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::recipe::schools::{Answers, Feature, Schools, Scope};
use std::collections::{BTreeMap, BTreeSet};

/// One thing in the middle of a wall.
pub fn job(answers: &Answers) -> Job {
    let schools = Schools::of(Feature::Penetration).expect("school data");
    let mut job = Job::new("penetrations");
    job.openings.clear();
    (job.wall.width, job.wall.height) = (Length::inch(96), Length::inch(96));
    let add = Edit::AddFeature { kind: "pipe".into(), left: Some(Length::inch(40)), sill: Some(Length::inch(40)) };
    let mut job = apply(&job, &add).unwrap_or_else(|p| panic!("{p:?}")).0;
    for (q, c) in answers {
        let scope = schools.question(q).expect("a question").scope;
        let own = if scope == Scope::Wall { &mut job.wall.schools } else { &mut job.openings[0].schools };
        own.insert(q.clone(), c.clone());
    }
    job
}

fn plan(answers: &Answers) -> Plan {
    build(&job(answers)).unwrap_or_else(|p| panic!("{answers:?}: {p:?}"))
}

fn combinations() -> Vec<Answers> {
    Schools::of(Feature::Penetration).expect("school data").combinations().collect()
}

/// Those in which an answer comes up that did not before.
pub fn sample() -> Vec<Answers> {
    let mut seen = BTreeSet::new();
    let mut fresh = |a: &Answers| {
        a.iter().fold(false, |new, (q, c)| seen.insert((q.clone(), c.clone(), a["barrier"].clone())) || new)
    };
    combinations().into_iter().filter(|a| fresh(a)).collect()
}

#[test]
fn every_combination_done_right_runs_dry_but_for_the_surface_patch() {
    let mut wrong = BTreeMap::new();
    let mut count = 0;
    for answers in combinations() {
        count += 1;
        let plan = plan(&answers);
        let moment = Moment::new(&plan, usize::MAX).unwrap_or_else(|e| panic!("{answers:?}: {e}"));
        let found = moment.findings(&plan);
        if answers["face"] == "patch" {
            assert!(found.iter().any(|f| f.code == "F24"), "{answers:?}");
            continue;
        }
        for f in found.iter().filter(|f| f.severity != Severity::Glue) {
            let entry = wrong.entry((f.severity, f.code.clone(), f.reason.clone())).or_insert((0, answers.clone()));
            entry.0 += 1;
        }
    }
    for ((s, c, r), (n, a)) in &wrong {
        let answers = a.iter().map(|(q, c)| format!("{q}:{c}")).collect::<Vec<_>>().join(" ");
        println!("{n}× {s:?} {c} {r}\n      {answers}");
    }
    println!("{count} combinations");
    assert!(wrong.is_empty());
}

#[test]
fn every_single_mistake_at_a_penetration_is_told_or_has_a_reason_why_it_does_not_matter() {
    let (mut told, mut harmless) = (BTreeMap::new(), BTreeMap::new());
    for answers in sample().into_iter().filter(|a| a["face"] != "patch") {
        let job = job(&answers);
        let plan = build(&job).unwrap_or_else(|p| panic!("{answers:?}: {p:?}"));
        let right = Right::new(&job, &plan).expect("a right wall");
        for mistake in faults::all(&plan) {
            match right.with(&mistake).unwrap_or_else(|e| panic!("{answers:?} {mistake:?}: {e}")) {
                MistakeOutcome::Told { code, state, .. } => {
                    assert!(!state.is_dry(), "{answers:?} {mistake:?} is told and yet {}", state.says());
                    *told.entry(code).or_insert(0) += 1;
                }
                MistakeOutcome::Refused { .. } => {}
                MistakeOutcome::Harmless { reason, .. } if reason == faults::UNUSED => {}
                MistakeOutcome::Harmless { reason, .. } => {
                    *harmless.entry(format!("{mistake:?}")).or_insert(0) += 1;
                    assert!(reason.contains("rain stays out"));
                    assert!(matches!(mistake, Mistake::Swapped { .. }), "{answers:?} {mistake:?}");
                }
            }
        }
    }
    println!("told {told:?}, harmless {harmless:#?}");
    for fault in ["F22", "F23", "F10", "F11", "F14", "F15"] {
        assert!(told.contains_key(fault), "{fault} is never told");
    }
}

#[test]
fn every_kind_finds_its_own_place_and_copies_stand_side_by_side() {
    let mut job = Job::new("kinds");
    job.wall.width = Length::inch(600);
    for kind in feature_kinds().expect("kinds") {
        let add = Edit::AddFeature { kind: kind.id.clone(), left: None, sill: None };
        job = apply(&job, &add).unwrap_or_else(|p| panic!("{}: {p:?}", kind.id)).0;
    }
    let ids: BTreeSet<&String> = job.openings.iter().map(|o| &o.id).collect();
    assert_eq!(ids.len(), 1 + feature_kinds().expect("kinds").len());
    let before = job.openings.len();
    job.wall.width = Length::inch(2000);
    let copy = |times, step| Edit::CopyOpening { id: "P1".into(), times, step: Length::inch(step) };
    // The original stands among others: its copies start past them.
    let far = Edit::SetOpening {
        id: "P1".into(),
        name: None,
        left: Some(Length::inch(700)),
        sill: None,
        width: None,
        height: None,
        depth: None,
        flange: None,
    };
    job = apply(&job, &far).unwrap_or_else(|p| panic!("{p:?}")).0;
    let (with, plan) = apply(&job, &copy(6, 36)).unwrap_or_else(|p| panic!("{p:?}"));
    let lefts: Vec<Length> = with.openings[before..].iter().map(|o| o.left).collect();
    assert_eq!(lefts, (1..=6).map(|n| Length::inch(700 + 36 * n)).collect::<Vec<_>>());
    assert_eq!(plan.openings.len(), before + 6);
    job.openings.iter_mut().find(|o| o.id == "P1").expect("a pipe").name = "n".repeat(120);
    let (named, _) = apply(&job, &copy(1, 36)).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(named.openings.last().map(|o| o.name.chars().count()), Some(120), "the longest name is copied too");
    for (edit, says) in [(copy(0, 36), "between 1 and 50"), (copy(3, 1), "overlaps")] {
        let refused = apply(&job, &edit).expect_err("refused");
        assert!(refused.iter().any(|p| p.message.contains(says)), "{refused:?}");
    }
    let nothing = Edit::AddFeature { kind: "chimney".into(), left: None, sill: None };
    assert!(apply(&job, &nothing).expect_err("refused")[0].message.contains("choose one of: window, door, pipe"));
    let small = Job::new("full");
    let full = apply(&small, &Edit::AddFeature { kind: "window".into(), left: None, sill: None }).expect_err("no room");
    assert!(full[0].message.contains("no free place"), "{full:?}");
}

#[test]
fn a_hole_larger_than_it_has_to_be_gets_side_legs_out_to_sound_barrier() {
    let own = |list: &[(&str, &str)]| list.iter().map(|(q, c)| ((*q).to_owned(), (*c).to_owned())).collect::<Answers>();
    for barrier in ["panel", "loose"] {
        let odd = own(&[("barrier", barrier), ("face", "pieces"), ("hole", "odd")]);
        let legs = plan(&odd);
        let rect = |id: &str| legs.pieces.iter().find(|p| p.id == format!("P1/{id}")).expect("a piece").regions[0].1;
        let thing = legs.openings[0].rect;
        // 6 in of tape, 1/2 in of it on the thing; a leg reaches 4 in past that, and laps 3 in sideways on either side.
        assert_eq!(rect("leg-left").u0, thing.u0 - Length::inch_fraction(19, 2));
        assert_eq!(rect("leg-left").u1 - rect("side-left").u0, Length::inch(3));
        assert!(rect("hood").u0 < rect("leg-left").u0 && rect("seat").u0 == rect("leg-left").u0);
        // The hole is open to 6 1/2 in beside the thing: without a leg it is told.
        let job = job(&odd);
        let leave = Edit::RemoveStep { step: "P1/legs/3".into() };
        let (_, left) = apply(&job, &leave).unwrap_or_else(|p| panic!("{p:?}"));
        let found = Moment::new(&left, usize::MAX).expect("a layup").findings(&left);
        assert!(found.iter().any(|f| f.severity == Severity::Leak), "{barrier}: {found:?}");
    }
    for (refused, says) in [
        ([("barrier", "panel"), ("face", "boot")], "side legs go with seat, sides and hood"),
        ([("barrier", "fluid"), ("face", "pieces")], "filled flush"),
    ] {
        let job = job(&own(&[&refused[..], &[("hole", "odd")]].concat()));
        let problems = build(&job).expect_err("refused");
        assert!(problems.iter().any(|p| p.message.contains(says)), "{problems:?}");
    }
}

#[test]
fn how_far_it_stands_proud_follows_from_what_hangs_outside() {
    let card = |answers: &Answers| {
        let plan = plan(answers);
        plan.steps.iter().find(|s| s.id.ends_with("/set")).expect("a set").card.what.clone()
    };
    // Lap siding of 3/4 in; boards of 1 1/2 under it; 1/4 that shows.
    assert!(card(&Answers::new()).contains("1\" proud"), "{}", card(&Answers::new()));
    let boards = Answers::from([("outside".to_owned(), "boards".to_owned())]);
    assert!(card(&boards).contains("2 1/2\" proud"), "{}", card(&boards));
    // What the job says of gap and cladding goes before what the layers add up to.
    let mut said = job(&boards);
    said.figures.insert("cladding_stack".into(), "1 1/2".into());
    let said = build(&said).unwrap_or_else(|p| panic!("{p:?}"));
    let set = said.steps.iter().find(|s| s.id.ends_with("/set")).expect("a set");
    assert!(set.card.what.contains("3 1/4\" proud"), "{}", set.card.what);
}

#[test]
fn sizes_of_openings_and_penetrations_have_their_own_limits() {
    let mut job = job(&Answers::new());
    job.openings[0].width = Length::inch(50);
    let refused = build(&job).expect_err("too large");
    assert!(
        refused[0].path == "$.openings[0].width" && refused[0].message.contains("size of a penetration"),
        "{refused:?}"
    );
    job.openings[0].width = Length::ZERO;
    let refused = build(&job).expect_err("nothing");
    assert!(refused[0].path == "$.openings[0].width" && refused[0].message.contains("is 0"), "{refused:?}");
}

#[test]
fn the_course_that_comes_later_says_how_it_is_fitted_round_a_hood() {
    let mut job = Job::new("hood");
    let add = Edit::AddFeature { kind: "vent".into(), left: Some(Length::inch(20)), sill: Some(Length::inch(50)) };
    (job, _) = apply(&job, &add).unwrap_or_else(|p| panic!("{p:?}"));
    let hood = job.openings.last_mut().expect("the hood");
    for (q, c) in [("moment", "before"), ("face", "boot")] {
        hood.schools.insert(q.into(), c.into());
    }
    let name = hood.name.clone();
    let said = |job: &Job| -> Vec<String> {
        let plan = build(job).unwrap_or_else(|p| panic!("{p:?}"));
        let cards = plan.steps.iter().map(|s| &s.card.what);
        cards.filter(|w| w.contains("Fit it round")).cloned().collect()
    };
    let cards = said(&job);
    assert!(!cards.is_empty() && cards.iter().all(|w| w.contains(&format!("the vent hood ({name})"))), "{cards:?}");
    let under = |w: &String| w.contains("under the lower flange of the flanged boot; then cut it round the contour");
    assert_eq!(cards.iter().filter(|w| under(w)).count(), 1, "the one below it: {cards:?}");
    job.openings.last_mut().expect("the hood").schools.insert("moment".into(), "after".into());
    assert_eq!(said(&job), Vec::<String>::new());
}

#[test]
fn a_sleeve_lies_along_the_thing_and_is_held_by_a_band_and_not_by_glue() {
    let own = |more: &[(&str, &str)]| -> Answers {
        let base = [("barrier", "loose"), ("face", "boot"), ("moment", "after")];
        base.iter().chain(more).map(|(q, c)| ((*q).to_owned(), (*c).to_owned())).collect()
    };
    // A sleeve of 2 in, or half of what stands proud; half of a band of 1 in, or less, lies on it.
    for (stack, sleeve, grip) in [("3/4", (1, 2), (1, 4)), ("2", (9, 8), (1, 2)), ("5", (2, 1), (1, 2))] {
        let mut job = job(&own(&[]));
        job.figures.insert("cladding_stack".into(), stack.into());
        let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
        let high = |piece: &str| {
            let p = plan.pieces.iter().find(|p| p.id == format!("P1/{piece}")).expect("a piece");
            let on = |name: &str| p.regions.iter().find(|(s, _)| plan.surfaces[*s].name == name).expect("a region").1;
            assert_eq!(on("along-top").height(), on("along-left").width(), "{piece}");
            assert_eq!(on("along-bottom").height(), on("along-right").width(), "{piece}");
            on("along-top").height()
        };
        let inches = |(n, d)| Length::inch_fraction(n, d);
        assert_eq!((high("boot"), high("band")), (inches(sleeve), inches(grip) + inches(grip)), "{stack} outside");
    }
    let job = job(&own(&[]));
    let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
    let moment = Moment::new(&plan, usize::MAX).expect("a layup");
    let right = moment.findings(&plan);
    assert!(moment.verdict(&plan, &right).state.is_dry());
    // What leans on glue there is the slit above, and not the sleeve's end.
    assert!(!right.is_empty() && right.iter().all(|f| !f.reason.contains("the end of its sleeve")), "{right:?}");
    let band = plan.pieces.position(|p| p.id == "P1/band").expect("a band");
    let step = plan.steps.iter().find(|s| s.id == "P1/boot").expect("a step");
    let put = step.actions.iter().find(|a| a.act.placed() == Some(band)).expect("it is put on");
    let (_, left) = apply(&job, &Edit::RemoveStep { step: put.id.clone() }).unwrap_or_else(|p| panic!("{p:?}"));
    let found = Moment::new(&left, usize::MAX).expect("a layup").findings(&left);
    let told = found.iter().find(|f| f.severity == Severity::Leak).expect("a leak");
    assert_eq!((told.code.as_str(), told.pieces[0].as_str()), ("F22", "P1/band"), "{told:?}");
    assert!(told.reason.contains("behind the flanged boot at the end of its sleeve"), "{}", told.reason);
}
