//! Practice: a perfect player gets everything, a random one does not, the same seed is the same scene, and levels get harder.

use kame_core::findings::KnownWater;
use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::practice::{
    AnswerSheet, Drill, DrillAnswer, DrillResult, LEVELS, MOST_SEED, Marked, Scene, SceneTask, Size, Which, Worth,
    fault_names, grade, hint, mends, perfect, progress, scene, scene_of_job, sheet,
};
use kame_core::record::Go;
use kame_core::stop::Stop;
use kame_core::trade::PieceId;
use kame_core::view::{Known, LiesView, scene_view};
use proptest::prelude::*;
use rand::{RngExt, SeedableRng};
use rand_xorshift::XorShiftRng;
use rayon::prelude::*;
use std::collections::HashSet;

fn which(drill: Drill, level: u8, seed: u64) -> Which {
    Which { drill, level, seed, focus: None }
}

fn made(w: &Which) -> Scene {
    scene(w, &KnownWater::default(), &Stop::default()).unwrap_or_else(|p| panic!("{w:?}: {p:?}"))
}

fn points(s: &Scene, a: &DrillAnswer) -> (f64, bool) {
    let g = grade(s, a, &KnownWater::default()).unwrap_or_else(|p| panic!("{:?} {a:?}: {p:?}", s.which));
    assert!((0.0..=100.0).contains(&g.points) && !g.says.is_empty());
    assert!(g.says.iter().all(|s| s.says.len() > 8), "{:?}", g.says);
    (g.points, g.clean)
}

/// What somebody answers who knows nothing.
fn random(s: &Scene, rng: &mut XorShiftRng) -> DrillAnswer {
    let below = |rng: &mut XorShiftRng, n: usize| rng.random_range(0..u32::try_from(n.max(1)).expect("few")) as usize;
    match &s.task {
        SceneTask::Order(task) => {
            let mut steps = task.to_lay.clone();
            for i in (1..steps.len()).rev() {
                let j = below(rng, i + 1);
                steps.swap(i, j);
            }
            DrillAnswer::Order { steps, wasted: 0, hints: 0 }
        }
        SceneTask::Find(task) => {
            let mark = |rng: &mut XorShiftRng| Marked {
                piece: s.plan.pieces[PieceId(below(rng, s.plan.pieces.len()))].id.clone(),
                fault: task.names[below(rng, task.names.len())].clone(),
            };
            let marks: Vec<Marked> = task.targets.iter().map(|_| mark(rng)).collect();
            let found = task.targets.iter().filter(|t| marks.iter().any(|m| t.pieces.contains(&m.piece))).count();
            let mends = (0..found).map(|_| below(rng, 2)).collect();
            DrillAnswer::Find { marks, hints: 0, mends }
        }
        SceneTask::Measure(task) => {
            let guess = |rng: &mut XorShiftRng| Length::inch(rng.random_range(4..80_i64));
            DrillAnswer::Measure { sizes: task.iter().map(|a| Size { length: guess(rng), width: a.width }).collect() }
        }
        SceneTask::Call(task) => {
            let all = [Go::Go, Go::Prepare, Go::Wait];
            DrillAnswer::Call { calls: task.iter().map(|_| all[below(rng, 3)]).collect() }
        }
        SceneTask::Repair(task) => {
            DrillAnswer::Repair { choices: task.iter().map(|t| below(rng, t.choices.len())).collect() }
        }
    }
}

/// How many seeds of each level are tried: a few in every run, `KAME_SEEDS` says how many else.
fn seeds() -> u64 {
    std::env::var("KAME_SEEDS").ok().and_then(|n| n.parse().ok()).unwrap_or(12)
}

#[test]
fn a_perfect_player_gets_full_marks_and_a_random_one_less_and_less() {
    for drill in Drill::ALL {
        let survived: Vec<f64> = (1..=LEVELS)
            .map(|level| {
                let clean: Vec<[bool; 8]> = (0..seeds())
                    .into_par_iter()
                    .map(|seed| {
                        let s = made(&which(drill, level, seed));
                        assert_eq!(
                            points(&s, &perfect(&s, &KnownWater::default())),
                            (100.0, true),
                            "{drill:?} {level} {seed}"
                        );
                        let mut rng = XorShiftRng::seed_from_u64(seed * 31 + u64::from(level));
                        std::array::from_fn(|_| points(&s, &random(&s, &mut rng)).1)
                    })
                    .collect();
                let all: Vec<bool> = clean.into_iter().flatten().collect();
                all.iter().filter(|c| **c).count() as f64 / all.len() as f64
            })
            .collect();
        println!("{drill:?}: a random player survives {survived:.3?}");
        assert!(survived[0] < 0.75 && survived[4] < 0.2, "{drill:?} {survived:?}");
        assert!(survived[4] < survived[0] || survived[0] < 0.02, "{drill:?} {survived:?}");
        // Few seeds are a rough measure: no level is much easier than the one before.
        assert!(survived.windows(2).all(|w| w[1] <= w[0] + 0.12), "{drill:?} {survived:?}");
    }
}

#[test]
fn the_same_seed_is_the_same_scene_and_another_is_another() {
    for drill in Drill::ALL {
        let told = |seed| {
            let s = made(&which(drill, 3, seed));
            format!("{:?} {:?}", s.job, s.task)
        };
        let some: Vec<String> = (0..4).map(told).collect();
        assert_eq!(some[0], told(0));
        assert_eq!(some.iter().collect::<HashSet<_>>().len(), 4, "{drill:?}");
    }
    // What a seed makes is the same on every machine, and in every version that does not say so.
    let s = made(&which(Drill::Order, 1, 7));
    assert_eq!((s.job.wall.width, s.job.wall.height), (Length::inch(135), Length::inch(197)));
}

#[test]
fn what_is_missed_is_asked_again_and_a_fault_can_be_asked_for() {
    let w = Which { focus: Some("F15".into()), ..which(Drill::Find, 3, 5) };
    let s = made(&w);
    let SceneTask::Find(task) = &s.task else { panic!("{:?}", s.task) };
    assert!(task.targets[0].faults.contains("F15"), "{:?}", task.targets);
    let result = |clean, known: &[&str], missed: &[&str]| DrillResult {
        drill: Drill::Find,
        level: 1,
        points: if clean { 100.0 } else { 30.0 },
        clean,
        known: known.iter().map(|f| (*f).to_owned()).collect(),
        missed: missed.iter().map(|f| (*f).to_owned()).collect(),
        seed: None,
        job: None,
    };
    let find =
        |p: &kame_core::practice::Learnt| p.levels.iter().find(|l| l.drill == Drill::Find).cloned().expect("a level");
    assert_eq!(progress(&[]).focus, None);
    let missed = progress(&[result(false, &[], &["F10"])]);
    assert_eq!((missed.focus.as_deref(), missed.faults[0].due_in, find(&missed).passed), (Some("F10"), 1, 0));
    // Known twice running it sits deeper and comes back later; missed again it is due at once.
    let known = progress(&[result(false, &[], &["F10"]), result(true, &["F10"], &[]), result(true, &["F10"], &[])]);
    assert_eq!((known.focus.clone(), known.faults[0].sits, known.faults[0].due_in), (None, 2, 7));
    assert_eq!((find(&known).passed, find(&known).next, find(&known).scenes), (1, 2, 3), "two clean scenes running");
    let again = progress(&[result(true, &["F10"], &[]), result(false, &[], &["F10"])]);
    assert_eq!((again.focus.as_deref(), again.faults[0].sits), (Some("F10"), 0));
    // One clean, one not, one clean is not two running.
    let broken = progress(&[result(true, &[], &[]), result(false, &[], &[]), result(true, &[], &[])]);
    assert_eq!((find(&broken).passed, find(&broken).running), (0, 1));
}

#[test]
fn any_order_that_works_is_right_and_what_is_thrown_away_costs() {
    let mut others = 0;
    for seed in 0..6 {
        let s = made(&which(Drill::Order, 4, seed));
        let SceneTask::Order(task) = &s.task else { panic!("{:?}", s.task) };
        for i in 0..task.right.len() - 1 {
            let mut steps = task.right.clone();
            steps.swap(i, i + 1);
            others += usize::from(points(&s, &DrillAnswer::Order { steps, wasted: 0, hints: 0 }).1);
        }
    }
    assert!(others > 2, "{others} other orders work");
    let s = made(&which(Drill::Order, 3, 1));
    let SceneTask::Order(task) = &s.task else { panic!("{:?}", s.task) };
    let right = |steps: Vec<String>, wasted, hints| points(&s, &DrillAnswer::Order { steps, wasted, hints });
    assert_eq!(right(task.right.clone(), 2, 0), (80.0, false));
    assert_eq!(right(task.right.clone(), 0, 1), (85.0, false));
}

/// What a sheet gives an answer, added up as its description says.
fn by_sheet(s: &Scene, sheet: &AnswerSheet, answer: &DrillAnswer) -> (f64, Vec<String>) {
    let mut all: Vec<Worth> = Vec::new();
    let mut off = 0.0;
    let mut more: Vec<String> = Vec::new();
    match (sheet, answer) {
        (
            AnswerSheet::Order { outcomes, by_order, wasted: each, wasted_says, hint, .. },
            DrillAnswer::Order { steps, wasted, hints },
        ) => {
            let SceneTask::Order(task) = &s.task else { panic!("{:?}", s.task) };
            let place = |id: &String| task.to_lay.iter().position(|t| t == id).expect("a step").to_string();
            all.push(outcomes[by_order[&steps.iter().map(place).collect::<String>()]].clone());
            off += f64::from(*wasted) * each + f64::from(*hints) * hint;
            more.extend((*wasted > 0).then(|| format!("{wasted} {wasted_says}")));
        }
        (AnswerSheet::Find { targets, alarm, alarm_says, .. }, DrillAnswer::Find { marks, mends, .. }) => {
            let mut chosen = mends.iter();
            for t in targets {
                let here: Vec<&Marked> = marks.iter().filter(|m| t.pieces.contains(&m.piece)).collect();
                let named = here.iter().find_map(|m| t.named.get(&m.fault));
                all.push(named.unwrap_or(if here.is_empty() { &t.missed } else { &t.found }).clone());
                if !here.is_empty() {
                    let taken = chosen.next().and_then(|n| t.mends.get(*n)).map(|m| &m.worth);
                    all.push(taken.unwrap_or(&t.unmended).clone());
                }
            }
            for m in marks.iter().filter(|m| !targets.iter().any(|t| t.pieces.contains(&m.piece))) {
                off += alarm;
                let named = s.plan.pieces.iter().find(|p| p.id == m.piece).map_or(&m.piece, |p| &p.name);
                more.push(format!("{named}: {alarm_says}"));
            }
        }
        (AnswerSheet::Measure { sizes }, DrillAnswer::Measure { sizes: given }) => {
            for (a, g) in sizes.iter().zip(given) {
                let by = g.length.to_inches_f64() - a.length;
                let worth = if by < -a.within {
                    &a.short
                } else if by > a.within {
                    &a.long
                } else {
                    &a.right
                };
                all.push(worth.clone());
            }
        }
        (AnswerSheet::Call { questions }, DrillAnswer::Call { calls }) => {
            let place = |go: &Go| [Go::Go, Go::Prepare, Go::Wait].iter().position(|g| g == go).expect("a call");
            all.extend(questions.iter().zip(calls).map(|(q, go)| q[place(go)].clone()));
        }
        (AnswerSheet::Repair { found }, DrillAnswer::Repair { choices }) => {
            all.extend(found.iter().zip(choices).map(|(f, c)| f[*c].clone()));
        }
        _ => panic!("another drill"),
    }
    let points: f64 = all.iter().map(|w| w.points).sum::<f64>() - off;
    let says = all.into_iter().flat_map(|w| w.says).map(|s| s.says).chain(more);
    (points.clamp(0.0, 100.0).round(), says.collect())
}

#[test]
fn a_sheet_gives_every_answer_what_it_gets_when_it_is_graded() {
    for drill in Drill::ALL {
        for level in 1..=LEVELS {
            // Of seven steps every order is rained on: one scene of that is enough.
            let seeds = if drill == Drill::Order && level == LEVELS { 1 } else { 4_u64 };
            (0..seeds).into_par_iter().for_each(|seed| {
                let s = made(&which(drill, level, seed));
                let written = sheet(&s, &KnownWater::default(), &Stop::default()).expect("written out");
                let mut rng = XorShiftRng::seed_from_u64(seed + 7);
                let answers = (0..6).map(|_| random(&s, &mut rng)).chain([perfect(&s, &KnownWater::default())]);
                for (n, mut answer) in answers.enumerate() {
                    if let DrillAnswer::Order { wasted, hints, .. } = &mut answer {
                        (*wasted, *hints) = (n as u32 % 3, n as u32 % 2);
                    }
                    let g = grade(&s, &answer, &KnownWater::default()).expect("graded");
                    let says: Vec<String> = g.says.iter().map(|s| s.says.clone()).collect();
                    assert_eq!(
                        by_sheet(&s, &written, &answer),
                        (g.points, says),
                        "{drill:?} {level} {seed} {answer:?}"
                    );
                }
            });
        }
    }
}

#[test]
fn hints_are_written_out_as_they_are_given() {
    let none = KnownWater::default();
    let s = made(&which(Drill::Order, 3, 4));
    let AnswerSheet::Order { next, .. } = sheet(&s, &none, &Stop::default()).expect("written out") else { panic!() };
    let mut steps = Vec::new();
    for h in next {
        let asked = DrillAnswer::Order { steps: steps.clone(), wasted: 0, hints: 0 };
        assert_eq!(hint(&s, &asked).as_deref(), Ok(h.says.as_str()));
        steps.push(h.step);
    }
    let s = made(&which(Drill::Find, 3, 2));
    let AnswerSheet::Find { targets, .. } = sheet(&s, &none, &Stop::default()).expect("written out") else { panic!() };
    let mut marks = Vec::new();
    for t in targets {
        let asked = DrillAnswer::Find { marks: marks.clone(), hints: 0, mends: Vec::new() };
        assert_eq!(hint(&s, &asked).as_deref(), Ok(t.hint.as_str()));
        marks.push(Marked { piece: t.pieces[0].clone(), fault: String::new() });
    }
}

#[test]
fn a_building_has_too_many_orders_to_be_written_out_and_says_so() {
    let mut job = Job::new("a row of windows");
    job.wall.width = Length::inch(3200);
    let first = job.openings[0].clone();
    for n in 1..30 {
        let (left, id) = (Length::inch(n * 100) + first.left, format!("R{n}"));
        let mut next = first.clone();
        (next.id, next.name, next.left) = (id.clone(), id, left);
        job.openings.push(next);
    }
    job.wall.schools.insert("barrier".into(), "drainable".into());
    let s = scene_of_job(&which(Drill::Order, 5, 1), &job, &KnownWater::default(), &Stop::default()).expect("a scene");
    let refused = sheet(&s, &KnownWater::default(), &Stop::default()).expect_err("too many");
    assert!(refused[0].message.contains("waits for a signal"), "{refused:?}");
}

#[test]
fn who_lifts_an_edge_is_told_what_lies_over_it_behind_it_and_which_beads() {
    let known = Known::default();
    let s = made(&which(Drill::Find, 1, 3));
    let view = scene_view(&s, &known).expect("drawn");
    // What one piece lies over says that it has that one over it; and no course that is right lies over the next.
    let by_name = |name: &String| view.lies.iter().filter(|l| l.name == *name).collect::<Vec<_>>();
    assert!(!view.lies.is_empty());
    for l in &view.lies {
        for below in &l.over {
            let back = |b: &&LiesView| b.behind.iter().any(|o| o.name == l.name && o.by == below.by);
            assert!(by_name(&below.name).iter().any(back), "{below:?} under {}", l.name);
        }
    }
    let mut all = HashSet::new();
    for seed in 0..20 {
        let s = made(&which(Drill::Find, 2, seed));
        let view = scene_view(&s, &known).expect("drawn");
        let Some(window) = view.lies.iter().find(|l| l.name == "window") else { continue };
        let behind = s.plan.seals.iter().filter(|b| s.plan.pieces[b.behind].id == window.piece);
        let planned: HashSet<&String> = behind.map(|b| &b.name).collect();
        assert!(window.beads.iter().all(|b| planned.contains(b)));
        all.insert(window.beads.len() == planned.len());
    }
    assert_eq!(all.len(), 2, "a bead that was skipped is not felt");
}

#[test]
fn who_follows_every_hint_gets_it_right_and_pays_for_each() {
    for (level, seed) in [(2, 1), (3, 4), (4, 2)] {
        let s = made(&which(Drill::Order, level, seed));
        let SceneTask::Order(task) = &s.task else { panic!("{:?}", s.task) };
        let (mut steps, mut hints): (Vec<String>, u32) = (Vec::new(), 0);
        while steps.len() < task.to_lay.len() {
            let said = hint(&s, &DrillAnswer::Order { steps: steps.clone(), wasted: 0, hints }).expect("a hint");
            hints += 1;
            let next = s.plan.steps.iter().find(|x| {
                task.to_lay.contains(&x.id)
                    && !steps.contains(&x.id)
                    && said.ends_with(&format!("{}.", x.title.to_lowercase()))
            });
            steps.push(next.unwrap_or_else(|| panic!("{said}")).id.clone());
        }
        let done = DrillAnswer::Order { steps, wasted: 0, hints };
        assert_eq!(points(&s, &done).0, (100.0 - 15.0 * f64::from(hints)).max(0.0));
        assert!(hint(&s, &done).is_err_and(|p| p[0].message.contains("let it rain")));
        let s = made(&which(Drill::Find, level, seed));
        let SceneTask::Find(task) = &s.task else { panic!("{:?}", s.task) };
        let mut marks: Vec<Marked> = Vec::new();
        while let Ok(said) = hint(&s, &DrillAnswer::Find { marks: marks.clone(), hints: 0, mends: vec![] }) {
            let looked = |id: &&String| {
                let name = s.plan.pieces.iter().find(|p| p.id == **id).map(|p| p.name.as_str());
                name.is_some_and(|name| said.starts_with(&format!("Look at the {name}")))
            };
            let at = task.targets.iter().flat_map(|t| &t.pieces).find(looked).unwrap_or_else(|| panic!("{said}"));
            marks.push(Marked { piece: at.clone(), fault: String::new() });
        }
        assert_eq!(marks.len(), task.targets.len(), "one hint for each mistake");
        let found = points(&s, &DrillAnswer::Find { marks, hints: 1, mends: vec![] }).0;
        // Half for finding, what could not be mended is no loss, and a hint off.
        assert!((35.0..=65.0).contains(&found), "all found, none named or mended, one hint: {found}");
    }
    let s = made(&which(Drill::Call, 1, 1));
    assert!(
        hint(&s, &perfect(&s, &KnownWater::default())).is_err_and(|p| p[0].message.contains("no hints in this drill"))
    );
}

#[test]
fn what_is_to_be_found_can_be_looked_at_in_sections_and_drawn_apart() {
    let s = made(&which(Drill::Find, 3, 2));
    let view = scene_view(&s, &Known::default()).expect("a view");
    assert_eq!((view.sections.len(), view.apart.len()), (3 * s.plan.openings.len(), s.plan.openings.len()));
    let runs = view.sections.iter().filter_map(|x| x.built.as_ref()).flat_map(|b| &b.runs).count();
    assert!(runs > 6 && view.apart.iter().all(|a| a.pieces.len() > 3), "{runs}");
    let other = scene_view(&made(&which(Drill::Measure, 3, 2)), &Known::default()).expect("a view");
    assert!(other.sections.is_empty() && other.apart.is_empty());
}

/// What a slit patch is cut to is no question of the opening: nobody could work it out from a tape and the card.
#[test]
fn sizes_are_asked_that_follow_from_the_opening() {
    (0..12_u64).into_par_iter().for_each(|seed| {
        for level in [1, 3, 5] {
            let s = made(&which(Drill::Measure, level, seed));
            let SceneTask::Measure(task) = &s.task else { panic!("{:?}", s.task) };
            assert!(!task.is_empty() && task.iter().all(|a| !a.name.contains("slit patch")), "{task:?}");
        }
    });
}

#[test]
fn a_false_alarm_costs_and_naming_counts() {
    let s = made(&which(Drill::Find, 2, 3));
    let SceneTask::Find(task) = &s.task else { panic!("{:?}", s.task) };
    let DrillAnswer::Find { marks, mends: best, .. } = perfect(&s, &KnownWater::default()) else {
        panic!("another drill")
    };
    let offered = mends(&s, &marks, &KnownWater::default()).expect("repairs");
    assert!(offered.len() == 1 && offered[0].titles.len() >= 3, "{offered:?}");
    assert!(offered[0].titles.iter().any(|t| t.starts_with("Leave it")));
    let right =
        s.plan.pieces.iter().find(|p| task.targets.iter().all(|t| !t.pieces.contains(&p.id))).expect("a right piece");
    let with = |marks: Vec<Marked>, mends: Vec<usize>| points(&s, &DrillAnswer::Find { marks, hints: 0, mends }).0;
    let unnamed = marks.iter().map(|m| Marked { fault: String::new(), ..m.clone() }).collect();
    assert_eq!(with(unnamed, best.clone()), 80.0, "a fifth for the name");
    assert_eq!(with(marks.clone(), Vec::new()), 70.0, "three tenths for the repair");
    let leave = offered[0].titles.iter().position(|t| t.starts_with("Leave it")).expect("offered");
    assert_eq!(with(marks.clone(), vec![leave]), 70.0);
    let alarm = Marked { piece: right.id.clone(), fault: String::new() };
    assert_eq!(with(marks.iter().cloned().chain([alarm]).collect(), best.clone()), 80.0);
    assert_eq!(with(Vec::new(), Vec::new()), 0.0);
    for wrong in [vec![99], vec![0, 0]] {
        let answer = DrillAnswer::Find { marks: marks.clone(), hints: 0, mends: wrong };
        assert!(grade(&s, &answer, &KnownWater::default()).is_err());
    }
}

#[test]
fn too_short_is_worse_than_too_long() {
    let s = made(&which(Drill::Measure, 1, 2));
    let SceneTask::Measure(task) = &s.task else { panic!("{:?}", s.task) };
    let with = |by: i64| {
        let sizes = task.iter().map(|a| Size { length: a.length + Length::inch(by), width: a.width }).collect();
        points(&s, &DrillAnswer::Measure { sizes }).0
    };
    assert_eq!((with(0), with(2), with(-2)), (100.0, 60.0, 0.0));
}

#[test]
fn what_cannot_be_is_told_in_a_sentence() {
    let told = |w: Which| scene(&w, &KnownWater::default(), &Stop::default()).expect_err("refused")[0].message.clone();
    assert!(told(which(Drill::Order, 0, 1)).contains("expected 1 to 5"));
    assert!(told(which(Drill::Order, 9, 1)).contains("expected 1 to 5"));
    assert!(told(which(Drill::Order, 1, MOST_SEED + 1)).contains("take a smaller one"));
    assert!(told(Which { focus: Some("F99".into()), ..which(Drill::Find, 1, 1) }).contains("not in the catalogue"));
    // On a job's own wall: with nothing on it there is nothing to practise.
    let mut bare = Job::new("bare");
    bare.openings.clear();
    let on = |job: &Job, drill| scene_of_job(&which(drill, 2, 1), job, &KnownWater::default(), &Stop::default());
    assert!(on(&bare, Drill::Measure).expect_err("nothing is cut")[0].message.contains("nothing on this wall"));
    let own = on(&Job::new("own"), Drill::Find).expect("a wall with a window");
    assert_eq!(points(&own, &perfect(&own, &KnownWater::default())), (100.0, true));
    let s = made(&which(Drill::Order, 2, 1));
    let wrong = |a: DrillAnswer| grade(&s, &a, &KnownWater::default()).expect_err("refused")[0].message.clone();
    assert!(wrong(DrillAnswer::Repair { choices: vec![0] }).contains("answer that one"));
    assert!(
        wrong(DrillAnswer::Order { steps: vec!["no".into()], wasted: 0, hints: 0 })
            .contains("not among what is to be laid")
    );
    assert!(wrong(DrillAnswer::Order { steps: Vec::new(), wasted: 0, hints: 0 }).contains("lay the rest"));
    let s = made(&which(Drill::Repair, 2, 1));
    assert!(grade(&s, &DrillAnswer::Repair { choices: vec![99] }, &KnownWater::default()).is_err());
    assert!(fault_names().count() > 40);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn every_seed_has_a_scene_with_an_answer(
        drill in prop::sample::select(Drill::ALL.to_vec()), level in 1..=LEVELS, seed in 0..MOST_SEED,
    ) {
        let s = made(&which(drill, level, seed));
        prop_assert_eq!(points(&s, &perfect(&s, &KnownWater::default())), (100.0, true));
    }
}

#[test]
fn what_is_not_there_may_be_called_left_out() {
    let called = fault_names().find(|(_, name)| name.contains("left out")).expect("a name").0;
    let mut missing = 0;
    for seed in 0..30 {
        let s = made(&which(Drill::Find, 2, seed));
        let SceneTask::Find(task) = &s.task else { panic!("{:?}", s.task) };
        assert!(task.names.iter().any(|n| n == called), "it can be chosen on every wall");
        if s.job.sequence.removed.is_empty() {
            assert!(task.targets.iter().all(|t| !t.reason.contains(" left out") || t.faults.contains(called)));
            continue;
        }
        missing += 1;
        let right = perfect(&s, &KnownWater::default());
        let DrillAnswer::Find { mut marks, hints, mends } = right else { panic!("{right:?}") };
        marks.iter_mut().for_each(|m| m.fault = called.to_owned());
        assert_eq!(points(&s, &DrillAnswer::Find { marks, hints, mends }), (100.0, true), "{seed}");
    }
    assert!(missing > 3, "{missing} walls lack a piece");
}

#[test]
fn what_no_drawing_shows_is_felt() {
    let known = Known::default();
    let mut felt = HashSet::new();
    for seed in 0..60 {
        let s = made(&which(Drill::Find, 2, seed));
        let SceneTask::Find(task) = &s.task else { panic!("{:?}", s.task) };
        let view = scene_view(&s, &known).expect("drawn");
        for l in view.lies.iter().filter(|l| !l.feels.is_empty()) {
            assert!(task.targets.iter().any(|t| t.pieces.contains(&l.piece)), "{seed}: {l:?} is right");
            felt.extend(l.feels.iter().cloned());
        }
    }
    assert_eq!(felt.len(), 3, "a wrinkle, edges that lift, a coat that comes off: {felt:?}");
}
