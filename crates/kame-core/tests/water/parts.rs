//! A wide wall answered part by part says the same as answered whole, whatever is on it and whatever was done wrong.

use crate::testkit::gaps_made_one_say_the_same;
use kame_core::edit::{Edit, apply};
use kame_core::findings::{Finding, KnownWater, Moment};
use kame_core::job::{Deviation, DeviationKind, Job};
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::recipe::schools::Feature;
use kame_core::sequence::{RAIN, RAIN_NO_GLUE, Windows};
use proptest::prelude::*;
use std::collections::BTreeMap;

const BARRIERS: [&str; 4] = ["loose", "adhered", "fluid", "panel"];

/// A wall of some forty to eighty feet with windows and pipes at odd places.
fn walls() -> impl Strategy<Value = Job> {
    let opening = (20_i64..40, 24_i64..60, 0_i64..8);
    (prop::collection::vec(opening, 3..7), prop::collection::vec(0_i64..40, 0..5), 0..BARRIERS.len()).prop_map(
        |(openings, pipes, barrier)| {
            let mut job = Job::new("wide");
            let (window, mut left) = (job.openings[0].clone(), 30);
            job.openings.clear();
            for (i, (width, gap, eighths)) in openings.into_iter().enumerate() {
                let mut o = window.clone();
                o.id = format!("W{}", i + 1);
                o.name = format!("Window {}", i + 1);
                o.left = Length::inch(left) + Length::inch_fraction(eighths, 8);
                (o.width, o.height) = (Length::inch(width), Length::inch(36));
                job.openings.push(o);
                left += width + gap + 30;
            }
            for (i, at) in pipes.into_iter().enumerate() {
                let mut o = window.clone();
                (o.id, o.name, o.feature) = (format!("P{}", i + 1), format!("Pipe {}", i + 1), Feature::Penetration);
                o.left = Length::inch(40 + 90 * i as i64 + at / 4);
                (o.sill, o.width, o.height) = (Length::inch(4), Length::inch(2), Length::inch(2));
                job.openings.push(o);
            }
            (job.wall.width, job.wall.height) = (Length::inch((left + 60).max(500)), Length::inch(109));
            job.wall.schools.insert("barrier".into(), BARRIERS[barrier].into());
            job
        },
    )
}

type Heads = BTreeMap<(usize, &'static str), f64>;

fn heads(plan: &Plan, m: &Moment) -> Heads {
    let all = (0..plan.water.targets.len()).flat_map(|t| [RAIN, RAIN_NO_GLUE].map(|s| (t, s)));
    all.filter_map(|(t, s)| Some(((t, s), m.head_of(t, s)?.inches()))).collect()
}

fn leaks(plan: &Plan, m: &Moment) -> BTreeMap<(usize, String), f64> {
    let of =
        |l: &kame_core::plan::Leak| m.heads(&l.id).map(|(t, h)| ((t, l.id.clone()), h.inches())).collect::<Vec<_>>();
    let mut out = BTreeMap::new();
    for (key, head) in plan.water.leaks.iter().flat_map(of) {
        let least: &mut f64 = out.entry(key).or_insert(head);
        *least = least.min(head);
    }
    out
}

fn same<K: Ord + std::fmt::Debug>(a: &BTreeMap<K, f64>, b: &BTreeMap<K, f64>) -> Result<(), TestCaseError> {
    let keys = |m: &BTreeMap<K, f64>| format!("{:?}", m.keys().collect::<Vec<_>>());
    prop_assert_eq!(keys(a), keys(b));
    for ((k, x), y) in a.iter().zip(b.values()) {
        prop_assert!((x - y).abs() < 1e-4, "{:?}: {} in parts, {} whole", k, x, y);
    }
    Ok(())
}

fn agree(plan: &Plan, done: usize, known: &KnownWater) -> Result<(), TestCaseError> {
    let parts = Moment::with_known(plan, done, known).map_err(TestCaseError::fail)?;
    let whole = Moment::unparted(plan, done).map_err(TestCaseError::fail)?;
    same(&heads(plan, &parts), &heads(plan, &whole))?;
    same(&leaks(plan, &parts), &leaks(plan, &whole))?;
    let ponds = |m: &Moment| {
        let mut list: Vec<_> = m.ponds(plan).into_iter().map(|p| (p.scenario, p.on, p.piece)).collect();
        list.sort();
        list
    };
    prop_assert_eq!(ponds(&parts), ponds(&whole));
    // Which of two ways that are equally easy is told, past the left jamb or past the right one, is not asked: the cause is where water gets in.
    let told = |m: &Moment| {
        let cause = |f: Finding| (f.code, f.severity, f.pieces.into_iter().next());
        let mut list: Vec<_> = m.findings(plan).into_iter().map(cause).collect();
        list.sort();
        list
    };
    prop_assert_eq!(told(&parts), told(&whole));
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    #[test]
    fn parts_say_what_the_whole_says(job in walls(), stage in 0.0_f64..1.0, wrong in any::<prop::sample::Index>()) {
        let plan = build(&job).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        let known = KnownWater::default();
        let all = plan.actions().count();
        agree(&plan, all, &known)?;
        agree(&plan, (all as f64 * stage) as usize, &known)?;
        // One thing left out, and one lower edge sealed.
        let step = &plan.steps[kame_core::trade::StepId(wrong.index(plan.steps.len()))].id;
        let out = apply(&job, &Edit::RemoveStep { step: step.clone() });
        if let Ok((_, plan)) = out {
            agree(&plan, usize::MAX, &known)?;
        }
        let low: Vec<_> = plan.pieces.iter().filter(|p| p.opening.is_some()).collect();
        let piece = low[wrong.index(low.len())].id.clone();
        let bead = Edit::SetAsBuilt { deviation: Deviation { kind: DeviationKind::SealedBottom, piece }, so: true };
        if let Ok((_, plan)) = apply(&job, &bead) {
            agree(&plan, usize::MAX, &known)?;
        }
    }

    /// A whole wall at any stage as a layup from outside: the same heads and ponds where its gaps are made one.
    #[test]
    fn gaps_of_a_wall_made_one_say_what_its_cells_say(job in walls(), stage in 0.0_f64..1.0) {
        let plan = build(&job).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        let done = (plan.actions().count() as f64 * stage) as usize;
        for done in [done, usize::MAX] {
            let moment = Moment::unparted(&plan, done).expect("a layup");
            prop_assert_eq!(gaps_made_one_say_the_same(moment.parts[0].layup()), Ok(()));
        }
    }

    #[test]
    fn windows_tile_the_wall_and_cut_no_opening(job in walls(), step in 30_i64..200, reach in 1_i64..40) {
        let plan = build(&job).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        let windows = Windows::along(&plan, Length::inch(step), Length::inch(reach));
        let list = windows.each();
        let mut at = Length::ZERO;
        for w in list {
            prop_assert_eq!(w.core.lo, at);
            at = w.core.hi;
            prop_assert!(w.span.lo <= w.core.lo && w.core.hi <= w.span.hi);
            for o in plan.openings.iter().filter(|o| o.feature == Feature::Opening) {
                let along = o.rect.along_u();
                prop_assert!(along.overlap(w.span).is_none_or(|cut| cut == along), "{} is cut by {:?}", o.id, w);
            }
        }
        prop_assert_eq!(at, job.wall.width);
    }
}

#[test]
fn after_a_change_only_the_parts_it_reaches_are_worked_again() {
    let mut job = Job::new("long");
    job.wall.width = Length::inch(2000);
    let copies = Edit::CopyOpening { id: "W1".into(), times: 11, step: Length::inch(150) };
    let (job, plan) = apply(&job, &copies).unwrap_or_else(|p| panic!("{p:?}"));
    let known = KnownWater::default();
    Moment::with_known(&plan, usize::MAX, &known).expect("a layup");
    let before = known.len();
    assert!(before > 15, "{before} parts");
    Moment::with_known(&plan, usize::MAX, &known).expect("a layup");
    assert_eq!(known.len(), before, "nothing changed");
    let size = |width: Option<i64>, left: Option<i64>| {
        let (width, left) = (width.map(Length::inch), left.map(Length::inch));
        Edit::SetOpening {
            id: "W6".into(),
            name: None,
            left,
            sill: None,
            width,
            height: None,
            depth: None,
            flange: None,
        }
    };
    let deviation = Deviation { kind: DeviationKind::FishMouth, piece: "W6/head-flashing".into() };
    let school = |question: &str, choice: &str| Edit::SetSchool {
        opening: Some("W6".into()),
        wall: None,
        question: question.into(),
        choice: Some(choice.into()),
    };
    let edits = [
        size(Some(37), None),
        size(None, Some(803)),
        Edit::RemoveStep { step: "W6/patches".into() },
        Edit::RemoveStep { step: "W6/jambs/2".into() },
        Edit::MoveStep { step: "W6/head".into(), before: Some("W6/jambs".into()) },
        Edit::SetAsBuilt { deviation, so: true },
        school("sill", "formed"),
    ];
    for edit in edits {
        let before = known.len();
        let (_, plan) = apply(&job, &edit).unwrap_or_else(|p| panic!("{edit:?}: {p:?}"));
        Moment::with_known(&plan, usize::MAX, &known).expect("a layup");
        assert!((1..=3).contains(&(known.len() - before)), "{edit:?}: {} parts anew", known.len() - before);
    }
}
