//! The interview, the advice, and what following it makes of a job.

use kame_core::advice::{Advice, advise, follow};
use kame_core::edit::{Edit, apply};
use kame_core::findings::{Moment, Severity};
use kame_core::interview::{Decision, Strategy, interview};
use kame_core::job::{CornerKind, CornerSpec, Job, OpeningSpec, read_job, write_job};
use kame_core::length::Length;
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
    Strategy { answers, decisions: BTreeMap::new(), ..Strategy::default() }
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
fn every_option_can_be_decided_for_and_what_it_writes_is_there() {
    let mut written = 0;
    for a in advise(&Strategy::default(), &figures()).expect("advice") {
        assert!(a.ranked.len() >= 2, "{} has no runner-up", a.id);
        for r in &a.ranked {
            let mut job = Job::new("decided");
            let decision = Decision { choice: r.id.clone(), reason: String::new() };
            job.strategy.decisions.insert(a.id.clone(), decision);
            let all = follow(&job, &figures()).unwrap_or_else(|e| panic!("{} {}: {e}", a.id, r.id));
            let it = all.advice.iter().find(|b| b.id == a.id).expect("there");
            assert!(it.decided ^ !it.instead.is_empty(), "{} {}: {it:?}", a.id, r.id);
            written += usize::from(!it.writes.is_empty());
        }
    }
    assert!(written > 30, "{written}");
}

/// A job of three walls with windows on two of them, the last with answers of its own.
fn site(answers: &[(&str, &str)]) -> Job {
    let mut job = Job::new("site");
    job.wall.width = Length::inch(480);
    let corner = |at, schools: &[(&str, &str)]| CornerSpec {
        at: Length::inch(at),
        name: format!("Wall at {at}"),
        kind: CornerKind::Outside,
        schools: schools.iter().map(|(q, a)| ((*q).to_owned(), (*a).to_owned())).collect(),
        products: Default::default(),
    };
    job.wall.corners = vec![corner(200, &[]), corner(360, &[("cladding", "panel"), ("gap", "battens")])];
    let first = job.openings[0].clone();
    job.openings.push(OpeningSpec { id: "W2".into(), left: Length::inch(250), ..first });
    job.strategy = strategy(answers);
    job
}

type Pairs = &'static [(&'static str, &'static str)];

/// Sites with what each must come to, on every wall.
#[test]
fn what_is_advised_goes_together_is_on_every_wall_and_runs_dry() {
    let sites: [(&str, Pairs, Pairs); 6] = [
        (
            "plaster on a rainy coast",
            &[("cladding", "plaster"), ("climate", "wet"), ("exposure", "windy"), ("season", "warm")],
            &[("cladding", "plaster"), ("barrier", "plaster"), ("gap", "mat")],
        ),
        (
            "open joints, tall and tight",
            &[("cladding", "open-joint"), ("exposure", "tall"), ("airtight", "tight"), ("insulation", "none")],
            &[("cladding", "open"), ("barrier", "dark"), ("gap", "vented"), ("laps", "taped"), ("air", "barrier")],
        ),
        (
            "thin insulation outside",
            &[("cladding", "lap"), ("insulation", "thin"), ("climate", "wet")],
            &[("barrier", "insulation-face"), ("outside", "none"), ("cladding", "lap"), ("gap", "vented")],
        ),
        (
            "thick insulation outside, plaster",
            &[("cladding", "plaster"), ("insulation", "thick")],
            &[("outside", "boards"), ("cladding", "plaster"), ("second", "paper"), ("gap", "mat")],
        ),
        (
            "adhered stone with bays",
            &[
                ("cladding", "stone"),
                ("shape", "broken"),
                ("season", "warm"),
                ("budget", "high"),
                ("airtight", "tight"),
            ],
            &[("cladding", "stone"), ("barrier", "fluid"), ("gap", "mat"), ("second", "paper")],
        ),
        (
            "late windows",
            &[("cladding", "lap"), ("delivery", "late"), ("first", "windows"), ("crew", "new")],
            &[("barrier", "panel"), ("first", "barrier"), ("cladding", "lap")],
        ),
    ];
    let of_wall = Schools::of_wall().expect("schools");
    for (name, answers, expected) in sites {
        let job = site(answers);
        let all = follow(&job, &figures()).unwrap_or_else(|e| panic!("{name}: {e}"));
        for n in 0..3 {
            let has =
                of_wall.complete(&all.job.wall.answers(n, of_wall)).unwrap_or_else(|r| panic!("{name} {n}: {r:?}"));
            for (q, a) in expected {
                assert_eq!(has[*q], *a, "{name}, wall {n}: {q}; {:#?}", all.advice);
            }
        }
        // Each piece of advice is on the walls, or says why not; what was there before and is not any more is said.
        let own = all.gives_way.iter().filter(|g| g.starts_with("Wall at 360: no longer Panels on battens")).count();
        assert!(own >= 1, "{name}: {:?}", all.gives_way);
        let silent = |a: &&Advice| a.ranked.iter().any(|r| r.id == a.chosen && !r.reasons.is_empty()) && a.id != "A3";
        let apart =
            all.advice.iter().filter(silent).filter(|a| a.writes.is_empty() && a.unwritten.is_empty() && a.id != "A5");
        let apart: Vec<&str> = apart.map(|a| a.id.as_str()).collect();
        assert!(apart.is_empty(), "{name}: {apart:?}");
        let own = Profile::general_practice().expect("profile").values(&all.job.figures).expect("in range");
        let (plan, again) = (build(&all.job), follow(&all.job, &own).expect("again"));
        assert!(again.gives_way.is_empty(), "{name}: {:?}", again.gives_way);
        assert!(again.advice.iter().all(|a| a.stands || a.writes.is_empty()), "{name}: {:#?}", again.advice);
        assert_eq!(again.job, all.job, "{name}: taken once is taken");
        let plan = plan.unwrap_or_else(|p| panic!("{name}: {p:?}"));
        let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
        let wrong: Vec<&str> =
            found.iter().filter(|f| f.severity < Severity::Glue).map(|f| f.reason.as_str()).collect();
        assert!(wrong.is_empty(), "{name}: {wrong:?}");
        assert_eq!(read_job(write_job(&all.job).as_bytes()).as_ref(), Ok(&all.job), "{name}");
        assert!(!all.job.strategy.taken.is_empty());
    }
}

#[test]
fn what_cannot_be_built_together_is_said_with_the_nearest_and_nothing_is_dropped_silently() {
    let mut job = site(&[("cladding", "plaster"), ("insulation", "thick")]);
    job.strategy.decisions.insert("A1".into(), Decision { choice: "plaster".into(), reason: "as always".into() });
    job.strategy.decisions.insert("A10".into(), Decision { choice: "boards".into(), reason: String::new() });
    let all = follow(&job, &figures()).expect("followed");
    let told: Vec<&str> = all.advice.iter().map(|a| a.instead.as_str()).filter(|i| !i.is_empty()).collect();
    assert!(told.len() == 1 && told[0].contains("bond break right behind the lath"), "{told:?}");
    assert!(told[0].contains("The nearest that goes with the rest:"), "{told:?}");
    // An opening on which it cannot be built is named with the reason.
    let mut job = site(&[("delivery", "late"), ("crew", "new"), ("cladding", "lap")]);
    job.openings[1].schools.insert("unit".into(), "door".into());
    job.strategy.decisions.insert("A4".into(), Decision { choice: "fluid-strip".into(), reason: String::new() });
    let all = follow(&job, &figures()).expect("followed");
    let a4 = all.advice.iter().find(|a| a.id == "A4").expect("A4");
    assert!(a4.instead.contains("Liquid flashing with an impermeable strip is not taken") && !a4.decided, "{a4:?}");
    // What is there stays what it is: a door is not made a window because plaster would like windows first.
    let mut job = site(&[("cladding", "plaster"), ("first", "windows")]);
    assert_eq!(follow(&job, &figures()).expect("followed").job.wall.schools["first"], "windows");
    job.openings[1].schools.insert("unit".into(), "door".into());
    let all = follow(&job, &figures()).expect("followed");
    let a6 = all.advice.iter().find(|a| a.id == "A6").expect("A6");
    assert!(a6.instead.contains("without a flange the later courses have nothing to be taped to"), "{a6:?}");
    assert_eq!(
        (all.job.wall.schools["first"].as_str(), all.job.openings[1].schools["unit"].as_str()),
        ("barrier", "door")
    );
    // What no answer can say is said.
    let mut job = site(&[("budget", "low")]);
    job.strategy.decisions.insert("A9".into(), Decision { choice: "mix".into(), reason: String::new() });
    let all = follow(&job, &figures()).expect("followed");
    let a9 = all.advice.iter().find(|a| a.id == "A9").expect("A9");
    assert!(a9.unwritten[0].contains("under Kit") && a9.writes.is_empty() && !a9.stands, "{a9:?}");
}

#[test]
fn figures_and_products_are_brought_within_what_is_advised_and_left_alone_where_they_are() {
    let mut job = site(&[("cladding", "plaster"), ("climate", "cold"), ("insulation", "thick"), ("trim", "5 1/2")]);
    job.figures.insert("mat_thick".into(), "1".into());
    let own = Profile::general_practice().expect("profile").values(&job.figures).expect("in range");
    let all = follow(&job, &own).expect("followed");
    assert_eq!(all.job.figures["mat_thick"], "3/8", "1/4 to 3/8");
    assert_eq!(all.job.figures["insulation_thick"], "2");
    assert_eq!(all.job.figures["jamb_tape_width"], "9");
    assert_eq!(all.job.kit.products["Sealant, movement class 25 or more"].attributes["movement"], "50");
    assert!(build(&all.job).is_ok());
    job.figures.insert("mat_thick".into(), "1/4".into());
    let own = Profile::general_practice().expect("profile").values(&job.figures).expect("in range");
    assert_eq!(follow(&job, &own).expect("followed").job.figures["mat_thick"], "1/4");
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
        Strategy {
            answers: BTreeMap::new(),
            decisions: BTreeMap::from([(id.to_owned(), decision)]),
            ..Strategy::default()
        }
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
    all.prop_map(|list| Strategy {
        answers: list.into_iter().flatten().collect(),
        decisions: BTreeMap::new(),
        ..Strategy::default()
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(192))]

    #[test]
    fn whatever_is_answered_the_wall_that_follows_runs_dry(s in any_answers()) {
        let mut job = Job::new("followed");
        job.wall.width = Length::inch(160);
        job.strategy = s;
        let all = follow(&job, &figures()).expect("followed");
        prop_assert!(all.advice.iter().all(|a| a.unwritten.iter().all(|u| !u.contains("answered otherwise"))), "{:?}", all.advice);
        let followed = all.job;
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
            prop_assert_eq!(a.chosen == a.ranked[0].id, a.instead.is_empty());
            for r in &a.ranked {
                prop_assert_eq!(r.score, r.reasons.iter().map(|x| x.weight).sum::<i32>());
            }
        }
    }
}
