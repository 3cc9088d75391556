//! The interview, the advice, and what following it makes of a job.

use kame_core::advice::{Advice, advise, follow};
use kame_core::edit::{Edit, apply};
use kame_core::findings::{Moment, Severity};
use kame_core::interview::{Decision, Strategy, interview};
use kame_core::job::{Job, read_job, write_job};
use kame_core::plan::build;
use kame_core::profile::{Figures, Profile};
use kame_core::recipe::schools::Schools;
use proptest::prelude::*;
use proptest::strategy::Strategy as Generated;
use std::collections::BTreeMap;

fn figures() -> Figures {
    Profile::general_practice().expect("profile").values(&BTreeMap::new()).expect("in range")
}

fn strategy(answers: &[(&str, &str)]) -> Strategy {
    let answers = answers.iter().map(|(q, a)| ((*q).to_owned(), (*a).to_owned())).collect();
    Strategy { answers, decisions: BTreeMap::new() }
}

fn about(s: &Strategy, id: &str) -> Advice {
    advise(s, &figures()).expect("advice").into_iter().find(|a| a.id == id).unwrap_or_else(|| panic!("no {id}"))
}

#[track_caller]
fn case(answers: &[(&str, &str)], id: &str, best: &str, because: &str) {
    let a = about(&strategy(answers), id);
    assert_eq!(a.chosen, best, "{id}: {:?}", a.ranked.iter().map(|r| (&r.id, r.score)).collect::<Vec<_>>());
    assert!(a.ranked[0].reasons.iter().any(|r| r.text.contains(because)), "{id}: {:?}", a.ranked[0].reasons);
}

#[test]
fn each_advice_follows_from_what_was_answered() {
    case(&[("budget", "low"), ("exposure", "low")], "A1", "loose", "costs least");
    case(&[("exposure", "tall"), ("season", "warm"), ("budget", "high")], "A1", "adhered", "cannot flutter");
    case(&[("delivery", "late"), ("crew", "new")], "A1", "panel", "wait uncut");
    case(&[("shape", "broken"), ("airtight", "tight"), ("season", "warm")], "A1", "fluid", "any shape");
    case(&[("cladding", "open-joint")], "A1", "dark", "Light falls");
    case(&[("cladding", "plaster")], "A1", "plaster", "two layers");
    case(&[("cladding", "plaster")], "A2", "two", "outer layer takes the bond");
    case(&[("cladding", "stone"), ("climate", "wet")], "A2", "gap", "driving rain");
    case(&[("cladding", "lap")], "A2", "one", "one layer is enough");
    case(&[("crew", "new")], "A4", "stretch", "No corner");
    case(&[("climate", "cold")], "A5", "class50", "move most");
    case(&[("first", "windows"), ("cladding", "plaster")], "A6", "windows", "loose aprons");
    case(&[("first", "windows"), ("delivery", "late")], "A6", "barrier", "closed before");
    case(&[("airtight", "tight")], "A8", "taped", "tested wall");
    case(&[], "A9", "one", "tested together");
    case(&[("insulation", "thick")], "A10", "boards", "ask too much");
    case(&[("insulation", "thin")], "A10", "face", "one plane");
    case(&[("cladding", "battens")], "A11", "battens", "hangs on them");
    case(&[("cladding", "stone")], "A11", "mat", "mortar out of the gap");
}

#[test]
fn later_advice_rests_on_earlier() {
    case(&[("cladding", "open-joint")], "A7", "fold-in", "turns in");
    case(&[("exposure", "tall"), ("season", "warm"), ("budget", "high")], "A7", "martini", "stuck-down");
    case(&[("delivery", "late"), ("crew", "new")], "A7", "flush", "cut flush");
    case(&[("shape", "broken"), ("airtight", "tight"), ("season", "warm")], "A4", "fluid-strip", "Coat and band");
}

#[test]
fn tape_clears_the_trim_by_the_margin() {
    // Trim 3 1/2, 1 1/2 past it, 1/4 on the frame: 5 1/4, so 6 in.
    for (trim, tape) in [("0", "4"), ("2 1/2", "6"), ("3 1/2", "6"), ("5 1/2", "9")] {
        let a = about(&strategy(&[("trim", trim)]), "A3");
        assert_eq!(a.chosen, tape, "trim {trim}");
    }
    // Later courses end on the flashing: 2 in of head ask for 3 in sideways past the flange, so 4 in of tape is too narrow.
    assert_eq!(about(&strategy(&[("trim", "0"), ("first", "windows")]), "A3").chosen, "6");
    assert!(about(&strategy(&[("trim", "3 1/2")]), "A3").ranked[0].reasons[0].text.contains("5 1/4"));
}

#[test]
fn nothing_is_concluded_from_what_was_not_asked() {
    let a = about(&Strategy::default(), "A1");
    assert!(a.ranked.iter().all(|r| r.score == 0 && r.reasons.is_empty()), "{a:?}");
}

#[test]
fn advice_that_sets_a_school_names_answers_that_exist() {
    let schools = Schools::shipped().expect("schools");
    for a in advise(&Strategy::default(), &figures()).expect("advice") {
        assert!(a.ranked.len() >= 2, "{} has no runner-up", a.id);
        let Some(question) = &a.sets else { continue };
        for r in &a.ranked {
            let face = (question.as_str(), r.id.as_str()) == ("outside", "face");
            assert!(face || schools.choice(question, &r.id).is_some(), "{} {}", a.id, r.id);
        }
    }
}

#[test]
fn a_decision_stands_with_its_reason_through_the_file() {
    let mut s = strategy(&[("budget", "low"), ("exposure", "low")]);
    s.decisions.insert("A1".into(), Decision { choice: "adhered".into(), reason: "the spit is windy".into() });
    let a = about(&s, "A1");
    assert_eq!(
        (a.chosen.as_str(), a.reason.as_str(), a.ranked[0].id.as_str()),
        ("adhered", "the spit is windy", "loose")
    );
    let (job, _) =
        apply(&Job::new("decided"), &Edit::SetStrategy { strategy: s.clone() }).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(read_job(write_job(&job).as_bytes()).map(|j| j.strategy), Ok(s));
}

#[test]
fn what_is_not_there_is_refused_by_name() {
    let refused = |s: Strategy, path: &str, words: &str| {
        let problems = s.problems();
        assert!(problems.iter().any(|p| p.path.contains(path) && p.message.contains(words)), "{problems:?}");
    };
    refused(strategy(&[("roof", "flat")]), "answers.roof", "no question \"roof\"");
    refused(strategy(&[("cladding", "glass")]), "answers.cladding", "choose one of: lap");
    let decided = |id: &str, choice: &str, reason: String| {
        let decision = Decision { choice: choice.into(), reason };
        Strategy { answers: BTreeMap::new(), decisions: BTreeMap::from([(id.to_owned(), decision)]) }
    };
    refused(decided("A1", "straw", String::new()), "decisions.A1", "no option \"straw\"");
    refused(decided("A3", "banana", String::new()), "decisions.A3", "choose one of: 4, 6, 9, 12");
    refused(decided("A99", "loose", String::new()), "decisions.A99", "A99");
    refused(decided("A1", "loose", "x".repeat(301)), "decisions.A1", "is 301; it has to be between 0 and 300");
}

fn any_answers() -> impl Generated<Value = Strategy> {
    let questions = interview().expect("questions");
    let one = |q: &'static kame_core::interview::InterviewQuestion| {
        let ids: Vec<Option<String>> = q.options.iter().map(|o| Some(o.id.clone())).chain([None]).collect();
        prop::sample::select(ids).prop_map(move |a| a.map(|a| (q.id.clone(), a)))
    };
    let all: Vec<_> = questions.iter().map(one).collect();
    all.prop_map(|list| Strategy { answers: list.into_iter().flatten().collect(), decisions: BTreeMap::new() })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(192))]

    #[test]
    fn whatever_is_answered_the_wall_that_follows_runs_dry(s in any_answers()) {
        let mut job = Job::new("followed");
        job.wall.width = kame_core::length::Length::inch(160);
        job.strategy = s;
        let followed = follow(&job, &figures()).expect("followed");
        let plan = build(&followed);
        prop_assert!(plan.is_ok(), "{:?} {:?}", followed.wall.schools, plan.err());
        let plan = plan.expect("checked");
        let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
        let wrong: Vec<&str> = found.iter().filter(|f| f.severity < Severity::Glue).map(|f| f.reason.as_str()).collect();
        prop_assert!(wrong.is_empty(), "{:?} {:?}", followed.wall.schools, wrong);
    }

    #[test]
    fn options_stand_in_the_order_of_their_scores(s in any_answers()) {
        for a in advise(&s, &figures()).expect("advice") {
            prop_assert!(a.ranked.windows(2).all(|w| w[0].score >= w[1].score));
            prop_assert_eq!(&a.chosen, &a.ranked[0].id);
            for r in &a.ranked {
                prop_assert_eq!(r.score, r.reasons.iter().map(|x| x.weight).sum::<i32>());
            }
        }
    }
}
