//! Every single mistake that can be made on every family of walls: removed, swapped and shortened steps and pieces, and figures beyond what is
//! usual. What is not told stands in docs/FAULTS.md with the reason why it does not matter.

use crate::verdict::{BARRIERS, wall, with};
use kame_core::faults::{Mistake, MistakeOutcome, Right, UNUSED, all};
use kame_core::job::Job;
use kame_core::plan::build;
use kame_core::recipe::schools::Feature;
use rayon::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

fn walls() -> Vec<Job> {
    let mut out = Vec::new();
    for barrier in BARRIERS {
        for (unit, first) in [("flanged", "barrier"), ("frame", "barrier"), ("door", "barrier"), ("flanged", "windows")]
        {
            for head in ["tape", "cap"] {
                out.push(wall(&[("barrier", barrier), ("first", first)], &[("unit", unit), ("head", head)]));
            }
        }
        for sill in ["gussets", "formed-corners", "formed"] {
            out.push(wall(&[("barrier", barrier)], &[("sill", sill)]));
        }
        for face in ["boot", "pieces", "liquid", "cross"] {
            out.push(with(Feature::Penetration, [4, 4], barrier, &[("thing", "pipe"), ("face", face)]));
        }
        for (line, high) in [("z", 1), ("masonry", 1), ("moving", 1), ("deck", 8), ("roof", 40)] {
            out.push(with(Feature::Line, [80, high], barrier, &[("line", line)]));
        }
    }
    out.retain(|job| build(job).is_ok());
    out
}

/// What kind of mistake it is, and what stands for it in the table where it is not told.
fn kind(mistake: &Mistake) -> (&'static str, String) {
    let plain = |id: &str| id.rsplit('/').next().unwrap_or(id).split('-').next().unwrap_or(id).to_owned();
    match mistake {
        Mistake::Swapped { step, before } => ("swapped", format!("{} before {}", plain(step), plain(before))),
        Mistake::LeftOut { what } => ("left out", plain(what)),
        Mistake::Short { figure, .. } => ("figure", figure.clone()),
        Mistake::AsBuilt(d) => ("done otherwise", format!("{:?}", d.kind)),
    }
}

/// How many of a kind were told by name, told otherwise, not told, and could not be made.
#[derive(Default, Debug)]
struct Tally {
    named: usize,
    otherwise: usize,
    silent: usize,
    refused: usize,
}

#[test]
fn nearly_every_single_mistake_is_told_by_name_and_none_that_is_told_is_called_dry() {
    // A sample; `KAME_SWEEP=1` makes all of them.
    let step: usize = std::env::var("KAME_SWEEP").ok().and_then(|v| v.parse().ok()).unwrap_or(9);
    let walls = walls();
    assert!(walls.len() > 150, "{} walls", walls.len());
    let tried: Vec<(Mistake, MistakeOutcome)> = walls
        .par_iter()
        .enumerate()
        .flat_map_iter(|(w, job)| {
            let plan = build(job).unwrap_or_else(|p| panic!("{p:?}"));
            let right = Right::new(job, &plan).expect("a layup");
            let some = all(&plan).into_iter().enumerate().filter(|(i, _)| (i + w) % step == 0);
            some.map(|(_, m)| (m.clone(), right.with(&m).expect("a layup"))).collect::<Vec<_>>()
        })
        .collect();
    let mut tallies: BTreeMap<&str, Tally> = BTreeMap::new();
    let mut silent: BTreeSet<String> = BTreeSet::new();
    for (mistake, outcome) in &tried {
        let (kind, what) = kind(mistake);
        let tally = tallies.entry(kind).or_default();
        match outcome {
            MistakeOutcome::Told { named, state, reason, .. } => {
                assert!(!state.is_dry(), "{mistake:?} is told ({reason}) and yet {}", state.says());
                *(if *named { &mut tally.named } else { &mut tally.otherwise }) += 1;
            }
            MistakeOutcome::Harmless { reason, .. } if reason == UNUSED => {}
            MistakeOutcome::Harmless { .. } => {
                tally.silent += 1;
                silent.insert(format!("{kind}: {what}"));
            }
            MistakeOutcome::Refused { .. } => tally.refused += 1,
        }
    }
    println!("{tallies:#?}\n{silent:#?}");
    let sum = |of: fn(&Tally) -> usize| tallies.values().map(of).sum::<usize>();
    let (named, made) = (sum(|t| t.named), sum(|t| t.named + t.otherwise + t.silent));
    assert!(made > 1000 && named * 100 >= made * 98, "{named} of {made} are told by name: {tallies:#?}");
    let table =
        std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/FAULTS.md")).expect("docs/FAULTS.md");
    let unlisted: Vec<&String> = silent.iter().filter(|s| !table.contains(&format!("`{s}`"))).collect();
    assert!(unlisted.is_empty(), "not told, and not in docs/FAULTS.md: {unlisted:#?}");
}
