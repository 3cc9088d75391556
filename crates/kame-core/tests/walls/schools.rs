//! Every set of answers that can be built, checked by water: a sample here, all of them with `KAME_SWEEP=1` (see docs/SCHOOLS.md).

use kame_core::faults::{self, Mistake, MistakeOutcome, Right};
use kame_core::findings::{Moment, Severity};
use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::recipe::schools::{Answers, Schools};

/// One opening in the middle of a wall with room for every apron and flashing.
pub fn job(answers: &Answers) -> Job {
    let schools = Schools::shipped().expect("school data");
    let mut job = Job::new("schools");
    job.wall.width = Length::inch(120);
    let o = &mut job.openings[0];
    (o.left, o.sill, o.width, o.height) = (Length::inch(42), Length::inch(34), Length::inch(36), Length::inch(40));
    for (q, c) in answers {
        let scope = schools.question(q).expect("a question").scope;
        let own = if scope == kame_core::recipe::schools::Scope::Wall { &mut job.wall.schools } else { &mut o.schools };
        own.insert(q.clone(), c.clone());
    }
    job
}

fn plan(answers: &Answers) -> Plan {
    build(&job(answers)).unwrap_or_else(|p| panic!("{answers:?}: {p:?}"))
}

/// The combinations to check: every `step`-th pair of answers that can be built together with the rest as nobody said anything, every answer
/// among them; with `KAME_SWEEP` every so many of all combinations (`1` is all).
pub fn sample(step: usize) -> Vec<Answers> {
    let schools = Schools::shipped().expect("school data");
    if let Some(every) = std::env::var("KAME_SWEEP").ok().and_then(|v| v.parse().ok()) {
        return schools.combinations().filter(|a| a["beside"] != "shared").step_by(every).collect();
    }
    let mut seen = std::collections::BTreeSet::new();
    let fresh = |a: &Answers, seen: &mut std::collections::BTreeSet<(String, String)>| {
        a.iter().fold(false, |new, (q, c)| seen.insert((q.clone(), c.clone())) || new)
    };
    // What two openings share is built with two of them, elsewhere.
    let alone = schools.pairs().into_iter().filter(|a| a["beside"] != "shared");
    alone.enumerate().filter(|(i, a)| fresh(a, &mut seen) || i % step == 0).map(|(_, a)| a).collect()
}

#[test]
fn every_combination_done_right_runs_dry() {
    let list = sample(5);
    let mut wrong = std::collections::BTreeMap::new();
    for answers in &list {
        let plan = plan(answers);
        let moment = Moment::new(&plan, usize::MAX).unwrap_or_else(|e| panic!("{answers:?}: {e}"));
        for f in moment.findings(&plan).iter().filter(|f| f.severity != Severity::Glue) {
            let entry = wrong.entry((f.severity, f.code.clone(), f.reason.clone())).or_insert((0, answers.clone()));
            entry.0 += 1;
        }
    }
    for ((s, c, r), (n, a)) in &wrong {
        println!(
            "{n}× {s:?} {c} {r}\n      {}",
            a.iter().map(|(q, c)| format!("{q}:{c}")).collect::<Vec<_>>().join(" ")
        );
    }
    println!("{} combinations", list.len());
    assert!(wrong.is_empty());
}

#[test]
fn every_single_mistake_is_told_or_has_a_reason_why_it_does_not_matter() {
    let mut harmless = std::collections::BTreeMap::new();
    let (mut told, mut refused) = (std::collections::BTreeMap::new(), 0);
    for answers in sample(usize::MAX) {
        let job = job(&answers);
        let plan = build(&job).unwrap_or_else(|p| panic!("{answers:?}: {p:?}"));
        let right = Right::new(&job, &plan).expect("a right wall");
        for mistake in faults::all(&plan) {
            match right.with(&mistake).unwrap_or_else(|e| panic!("{answers:?} {mistake:?}: {e}")) {
                MistakeOutcome::Told { code, state, .. } => {
                    assert!(!state.is_dry(), "{answers:?} {mistake:?} is told and yet {}", state.says());
                    *told.entry(code).or_insert(0) += 1;
                }
                MistakeOutcome::Refused { .. } => refused += 1,
                MistakeOutcome::Harmless { reason, .. } if reason == faults::UNUSED => {}
                MistakeOutcome::Harmless { reason, .. } => {
                    *harmless.entry(format!("{mistake:?}")).or_insert(0) += 1;
                    assert!(reason.contains("rain stays out"));
                    assert!(matches!(mistake, Mistake::Swapped { .. }), "{answers:?} {mistake:?}");
                }
            }
        }
    }
    println!("told {told:?}, refused {refused}, harmless {harmless:#?}");
    for fault in ["F01", "F03", "F04", "F05", "F06", "F08", "F09", "F10", "F11", "F13", "F14", "F15", "F17"] {
        assert!(told.contains_key(fault), "{fault} is never told");
    }
}

#[test]
fn left_and_right_are_each_other_s_mirror_in_every_school() {
    for answers in sample(usize::MAX) {
        let plan = plan(&answers);
        let o = plan.openings[0].rect;
        let middle = o.u0 + o.u1;
        let on_wall = |id: &str| -> Vec<_> {
            let piece = plan.pieces.iter().find(|p| p.id == id).unwrap_or_else(|| panic!("{id}"));
            let on = piece.regions.iter().filter(|(on, _)| *on == kame_core::plan::SurfaceId::WALL);
            let mut list: Vec<_> = on.map(|(_, r)| (r.u0, r.v0, r.u1, r.v1)).collect();
            list.sort();
            list
        };
        for p in plan.pieces.iter().filter(|p| p.id.contains("left")) {
            let mut turned: Vec<_> =
                on_wall(&p.id).into_iter().map(|(u0, v0, u1, v1)| (middle - u1, v0, middle - u0, v1)).collect();
            turned.sort();
            assert_eq!(turned, on_wall(&p.id.replace("left", "right")), "{answers:?} {}", p.id);
        }
        let moment = Moment::new(&plan, usize::MAX).expect("a layup");
        let index = |target: &str| plan.water.targets.iter().position(|t| t.id == target).expect("a target");
        let head = |target: &str, scenario: &str| moment.head_of(index(target), scenario);
        for t in plan.water.targets.iter().filter(|t| t.id.contains("left")) {
            for scenario in ["rain", "rain-no-glue"] {
                let (l, r) = (head(&t.id, scenario), head(&t.id.replace("left", "right"), scenario));
                let same = match (l, r) {
                    (Some(l), Some(r)) => (l.inches() - r.inches()).abs() < 0.02,
                    (None, None) => true,
                    _ => false,
                };
                // The halves of a formed pan lap to one side.
                assert!(
                    same || answers["sill"] == "formed" || answers["barrier"].contains("panel"),
                    "{answers:?} {} {scenario}",
                    t.id
                );
            }
        }
    }
}
