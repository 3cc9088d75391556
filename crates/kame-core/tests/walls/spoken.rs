//! The core's words in Spanish: every card, check and piece of every school is said in whole.

use crate::schools;
use kame_core::checks::checks_of;
use kame_core::edit::{Edit, apply};
use kame_core::job::{Job, read_job};
use kame_core::language::{Language, Words};
use kame_core::plan::build;
use kame_core::recipe::schools::{Feature, Schools};
use kame_core::view::{Ask, Known, view_plan};
use std::collections::{BTreeMap, BTreeSet};

fn spanish() -> &'static Words {
    Language::Spanish.words().expect("Spanish")
}

/// What is shown of a wall at its steps and checks, in English; names that people gave are not in it.
fn shown(job: &Job) -> Vec<String> {
    let plan = build(job).unwrap_or_else(|p| panic!("{}: {p:?}", job.name));
    let view = view_plan(job, &plan, &Ask::default(), &Known::default()).expect("a view");
    let mut out = Vec::new();
    for s in view.steps {
        let card = std::sync::Arc::unwrap_or_clone(s.card);
        out.extend([s.title, card.what, card.over, card.check, card.why, card.caution]);
        out.extend(s.actions.into_iter().map(|a| a.label.to_string()));
        out.extend(s.cuts.into_iter().map(|c| c.name));
        out.extend(s.primes);
        out.extend(s.waits.into_iter().flat_map(|w| [w.after, w.because]));
    }
    for q in view.schools {
        out.push(q.ask);
        out.extend(q.choices.into_iter().flat_map(|c| [c.name, c.good, c.asks]));
    }
    for b in view.build_ups {
        out.extend(b.layers.into_iter().map(|l| l.layer.name));
        out.extend(b.says);
    }
    out.extend(view.elevation.shapes.into_iter().flat_map(|s| [s.name, s.product]));
    for c in checks_of(&plan).expect("checks") {
        out.extend([c.name, c.at, c.asked, c.above, c.below]);
        out.extend(c.spots.into_iter().flat_map(|s| [s.name, s.above, s.below]));
    }
    out.retain(|text| text.contains(char::is_alphabetic));
    out
}

/// Walls of every school, with every kind of thing on them.
fn walls() -> Vec<Job> {
    let mut out: Vec<Job> = schools::sample(usize::MAX).iter().map(schools::job).collect();
    out.extend(crate::penetrations::sample().iter().map(crate::penetrations::job));
    for all in Schools::of(Feature::Line).expect("school data").combinations() {
        out.push(crate::building::line(if all["line"] == "roof" { "roof" } else { "z" }, &all));
    }
    // Every answer of a wall, where it can be built with the rest as it is.
    for q in &Schools::of_wall().expect("school data").questions {
        for c in &q.choice {
            let mut job = Job::new("walls");
            job.wall.schools.insert(q.id.clone(), c.id.clone());
            out.extend(Some(job).filter(|job| build(job).is_ok()));
        }
    }
    for demo in [
        include_str!("../../../../demo/heron-spit.kame.json"),
        include_str!("../../../../demo/heron-spit-station.kame.json"),
        include_str!("../../../../demo/heron-spit-as-found.kame.json"),
        include_str!("../../../../demo/heron-spit-four-openings.kame.json"),
    ] {
        out.push(read_job(demo.as_bytes()).expect("the demo"));
    }
    out
}

#[test]
fn every_card_check_and_piece_of_every_school_is_said_in_spanish() {
    let mut missing: BTreeMap<String, usize> = BTreeMap::new();
    for text in walls().iter().flat_map(shown) {
        if spanish().of(&text).is_none() {
            *missing.entry(text).or_default() += 1;
        }
    }
    for (text, n) in &missing {
        println!("{n}× {text}");
    }
    assert!(missing.is_empty(), "{} texts are not said", missing.len());
}

/// What the water and the rules say of a wall, in English.
fn told(job: &Job) -> Vec<String> {
    let view = kame_core::view::view(job, &Ask::default()).unwrap_or_else(|p| panic!("{}: {p:?}", job.name));
    let mut out = vec![view.verdict.says];
    out.extend(view.verdict.heads.into_iter().flat_map(|h| [h.name, h.reaches]));
    out.extend(view.verdict.leans.into_iter().map(|l| l.says));
    out.extend(view.findings.into_iter().flat_map(|f| [f.reason, f.remedy]));
    out.retain(|text| text.contains(char::is_alphabetic));
    out
}

#[test]
fn what_is_said_of_every_step_left_out_is_said_in_spanish() {
    let mut missing: BTreeMap<String, usize> = BTreeMap::new();
    let mut all = 0;
    let picked = walls();
    let every = picked.len() / 24;
    for job in picked.iter().step_by(every.max(1)) {
        let plan = build(job).unwrap_or_else(|p| panic!("{}: {p:?}", job.name));
        let steps = plan.steps.iter().map(|s| s.id.clone());
        let without = steps.filter_map(|step| Some(apply(job, &Edit::RemoveStep { step }).ok()?.0));
        for text in std::iter::once(job.clone()).chain(without.step_by(3)).flat_map(|job| told(&job)) {
            all += 1;
            if spanish().of(&text).is_none() {
                *missing.entry(text).or_default() += 1;
            }
        }
    }
    for (text, n) in &missing {
        println!("{n}× {text}");
    }
    println!("{} of {all} are not said", missing.values().sum::<usize>());
    assert!(missing.is_empty(), "{} texts are not said", missing.len());
}

#[test]
fn sizes_and_letters_are_the_same_in_both_languages() {
    let numbers = |text: &str| -> BTreeMap<String, usize> {
        let mut out = BTreeMap::new();
        for n in
            text.split(|c: char| !c.is_ascii_digit() && c != '/').filter(|n| n.contains(|c: char| c.is_ascii_digit()))
        {
            *out.entry(n.to_owned()).or_default() += 1;
        }
        out
    };
    let station = include_str!("../../../../demo/heron-spit-station.kame.json");
    let job = read_job(station.as_bytes()).expect("the demo's building");
    let texts: BTreeSet<String> = shown(&job).into_iter().collect();
    assert!(texts.iter().filter(|t| !numbers(t).is_empty()).count() > 100);
    for text in texts {
        let said = spanish().of(&text).unwrap_or_else(|| panic!("{text}"));
        assert_eq!(numbers(&said), numbers(&text), "{text}\n{said}");
    }
}

/// Every sentence of the data that is said has English that stands in the data.
#[test]
fn no_line_is_left_over_from_what_is_not_there_any_more() {
    fn texts(value: &toml::Value, out: &mut BTreeSet<String>) {
        match value {
            toml::Value::String(s) => {
                out.insert(s.clone());
                // The other side of what is there twice.
                out.insert(s.replace("left", "right"));
            }
            toml::Value::Array(all) => all.iter().for_each(|v| texts(v, out)),
            toml::Value::Table(all) => all.values().for_each(|v| texts(v, out)),
            _ => {}
        }
    }
    let data = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("data");
    let mut there = BTreeSet::new();
    let read = |path: &std::path::Path| std::fs::read_to_string(path).expect("data");
    let mut folders = vec![data.clone()];
    while let Some(folder) = folders.pop() {
        for entry in std::fs::read_dir(folder).expect("data") {
            let path = entry.expect("data").path();
            if path.is_dir() && path.file_name().is_some_and(|n| n != "es") {
                folders.push(path);
            } else if path.extension().is_some_and(|e| e == "toml") {
                texts(&toml::from_str(&read(&path)).expect("data"), &mut there);
            }
        }
    }
    // What the code puts together stands in the code.
    let of_code = ["es/told.toml", "es/findings.toml"].map(|file| read(&data.join(file)));
    let told: Vec<BTreeMap<String, String>> = of_code.iter().map(|file| toml::from_str(file).expect("data")).collect();
    let code_too = |line: &String| told.iter().any(|file| file.contains_key(line)) || line.contains("{=");
    let gone: Vec<String> = spanish().english().filter(|line| !there.contains(line) && !code_too(line)).collect();
    assert!(gone.is_empty(), "{gone:#?}");
}
