//! The record: whatever is changed in it is found; readings are held against the plan; how the work stands follows from it alone.

use crate::verdict::wall;
use kame_core::checks::{Check, checks_of};
use kame_core::findings::Moment;
use kame_core::plan::build;
use kame_core::profile::Profile;
use kame_core::record::{
    Drying, Entry, Event, SeenWater, StepNow, TestKind, WaterDid, What, as_built, drying, judge, seal, states, verify,
};
use proptest::prelude::*;

fn event(n: u64, step: &str, what: What) -> Event {
    Event {
        id: format!("01936f00-0000-7000-8000-{n:012x}"),
        who: "Ada".into(),
        at: "2026-11-29T07:05:00Z".into(),
        place: "W1".into(),
        step: step.into(),
        revision: 1,
        what,
        note: "as found".into(),
        photos: Vec::new(),
    }
}

fn what() -> impl Strategy<Value = What> {
    let check = || "W1/survey/1:opening-width".to_owned();
    prop_oneof![
        Just(What::Begun),
        Just(What::Done),
        Just(What::Otherwise),
        any::<bool>().prop_map(move |good| What::Looked { check: check(), good }),
        prop::collection::vec("-?[0-9]{1,3}([.][0-9]{1,6})?", 1..5).prop_map(move |values| What::Reading {
            check: check(),
            values,
            unit: "in".into(),
            instrument: String::new(),
            asked: "36\" ± 1/4\"".into(),
            good: Some(true),
        }),
    ]
}

fn record(all: Vec<(What, String)>) -> Vec<Entry> {
    let mut out: Vec<Entry> = Vec::new();
    for (n, (what, note)) in all.into_iter().enumerate() {
        let event = Event { note, ..event(n as u64, "W1/survey", what) };
        out.push(seal(out.last(), "2026-11-29T07:06:00.123Z", event));
    }
    out
}

/// One thing done to a record that should not be.
#[derive(Clone, Copy, Debug)]
enum Forged {
    Note,
    Who,
    Time,
    Taken,
    Number,
    Hash,
    Swapped,
    TakenOut,
    Twice,
    SealedAnew,
}

proptest! {
    #[test]
    fn a_record_is_whole_and_anything_done_to_it_is_found(
        all in prop::collection::vec((what(), "[a-z ]{0,12}"), 2..12),
        at in any::<prop::sample::Index>(),
        forged in prop::sample::select(vec![
            Forged::Note, Forged::Who, Forged::Time, Forged::Taken, Forged::Number, Forged::Hash, Forged::Swapped, Forged::TakenOut, Forged::Twice,
            Forged::SealedAnew,
        ]),
    ) {
        let right = record(all);
        prop_assert!(verify(&right).broken.is_none());
        // Written and read again it is the same: the hash is of what stands in the file.
        let text: Vec<String> = right.iter().map(|e| serde_json::to_string(e).expect("JSON")).collect();
        let again: Vec<Entry> = text.iter().map(|t| serde_json::from_str(t).expect("an entry")).collect();
        prop_assert_eq!(&again, &right);
        prop_assert!(verify(&again).broken.is_none());
        // Cut off at the end it is whole, but the last hash is another.
        let cut = verify(&right[..right.len() - 1]);
        prop_assert!(cut.broken.is_none() && cut.last != verify(&right).last);
        // All but the last, which nothing follows, so that every kind of forgery can be tried.
        let i = at.index(right.len() - 1);
        let mut wrong = right.clone();
        match forged {
            Forged::Note => wrong[i].event.note.push('!'),
            Forged::Who => wrong[i].event.who = "Bo".into(),
            Forged::Time => wrong[i].event.at = "2026-11-29T07:05:01Z".into(),
            Forged::Taken => wrong[i].taken = "2026-11-29T07:06:00.124Z".into(),
            Forged::Number => wrong[i].number += 1,
            Forged::Hash => wrong[i].hash = wrong[i + 1].hash.clone(),
            Forged::Swapped => wrong.swap(i, i + 1),
            Forged::TakenOut => drop(wrong.remove(i)),
            Forged::Twice => wrong.insert(i, right[i].clone()),
            Forged::SealedAnew => {
                let before = i.checked_sub(1).map(|b| right[b].clone());
                let mut event = right[i].event.clone();
                event.note = "better so".into();
                prop_assume!(event != right[i].event);
                wrong[i] = seal(before.as_ref(), &right[i].taken, event);
            }
        }
        let found = verify(&wrong).broken.expect("found");
        prop_assert!((i + 1..=i + 2).contains(&(found.number as usize)), "{forged:?} at {i}: {found:?}");
    }
}

#[test]
fn what_cannot_be_taken_is_refused_with_its_place() {
    let paths = |e: &Event| e.problems("$").into_iter().map(|p| p.path).collect::<Vec<_>>();
    let right = event(1, "W1/survey", What::Done);
    assert!(paths(&right).is_empty());
    let reading = |values: &[&str]| What::Reading {
        check: "c".into(),
        values: values.iter().map(|v| (*v).to_owned()).collect(),
        unit: "in".into(),
        instrument: String::new(),
        asked: String::new(),
        good: None,
    };
    let seen = |x: &str| SeenWater { did: WaterDid::Out, x: x.into(), y: "-0.5".into() };
    let drained =
        |seen: Vec<SeenWater>| What::Test { test: TestKind::Drainage, rows: vec![vec!["1".to_owned(); 3]], seen };
    assert!(paths(&Event { what: drained(vec![seen("-12.25"); 24]), ..right.clone() }).is_empty());
    assert!(paths(&Event { what: reading(&["36.4375", "-2", "0.015625"]), ..right.clone() }).is_empty());
    for (wrong, path) in [
        (Event { id: "01936f00-0000-4000-8000-000000000001".into(), ..right.clone() }, "$.id"),
        (Event { id: "no".into(), ..right.clone() }, "$.id"),
        (Event { who: "  ".into(), ..right.clone() }, "$.who"),
        (Event { at: "yesterday".into(), ..right.clone() }, "$.at"),
        (Event { at: "2026-11-29T07:05:00".into(), ..right.clone() }, "$.at"),
        (Event { note: "x".repeat(1001), ..right.clone() }, "$.note"),
        (Event { what: What::LeftOut, note: " ".into(), ..right.clone() }, "$.note"),
        (Event { what: reading(&[]), ..right.clone() }, "$.what.values"),
        (Event { what: reading(&["NaN"]), ..right.clone() }, "$.what.values"),
        (Event { what: reading(&["36 1/2"]), ..right.clone() }, "$.what.values"),
        (Event { what: reading(&["1e3"]), ..right.clone() }, "$.what.values"),
        (Event { what: reading(&["-"]), ..right.clone() }, "$.what.values"),
        (Event { what: reading(&["40000"]), ..right.clone() }, "$.what.values"),
        (Event { what: reading(&["1"; 25]), ..right.clone() }, "$.what.values"),
        (Event { what: What::Lot { check: "c".into(), text: String::new() }, ..right.clone() }, "$.what.text"),
        (Event { photos: vec!["0".repeat(63)], ..right.clone() }, "$.photos"),
        (Event { photos: vec!["A".repeat(64)], ..right.clone() }, "$.photos"),
        (Event { photos: vec!["a".repeat(64); 13], ..right.clone() }, "$.photos"),
        (
            Event { what: What::Test { test: TestKind::Pull, rows: vec![], seen: vec![] }, ..right.clone() },
            "$.what.rows",
        ),
        (Event { what: drained(vec![seen("1e9")]), ..right.clone() }, "$.what.seen"),
        (Event { what: drained(vec![seen("1"); 25]), ..right.clone() }, "$.what.seen"),
        (Event { what: What::Mended { check: String::new() }, ..right.clone() }, "$.what.check"),
        (Event { what: What::Corrects { id: "x".into() }, ..right }, "$.what.id"),
    ] {
        assert_eq!(paths(&wrong), [path], "{wrong:?}");
    }
}

fn check(id: &str) -> Check {
    let plan = build(&wall(&[], &[])).expect("a plan");
    checks_of(&plan).expect("checks").into_iter().find(|c| c.check == id).unwrap_or_else(|| panic!("no {id}"))
}

#[test]
fn readings_are_judged_and_it_is_said_what_to_do() {
    let width = check("opening-width");
    let (want, by) = (width.target.expect("a width"), width.tolerance.expect("a tolerance"));
    let says = |values: &[f64]| judge(&width, values, None);
    assert_eq!((says(&[want]).good, says(&[want]).says.as_str()), (None, "2 more to read."));
    assert_eq!(says(&[want, want + by, want - by]).good, Some(true), "at the edge it is still right");
    let off = says(&[want, want + by + 0.125, want]);
    assert_eq!((off.good, off.worst), (Some(false), Some(1)));
    assert_eq!(off.says, "3/8\" too much. Pack it out by at least 1/8\".");
    assert_eq!(
        says(&[want - by - 0.25]).says,
        "1/2\" too little. Trim it by at least 1/4\".",
        "told at once, before all are read"
    );
    // Two diagonals of an opening 36 in wide, 60 and 59 in: (60² − 59²) / (4 × 36) = 119 / 144, about 13/16.
    let diagonals = judge(&check("opening-diagonals"), &[60.0, 59.0], Some([36.0, 48.0]));
    assert_eq!(diagonals.good, Some(false));
    assert_eq!(diagonals.says, "1\" apart, no more than 1/4\" wanted. Push the head 13/16\" to the left.");
    assert_eq!(judge(&check("opening-diagonals"), &[60.0], None).good, None);
    let warm = check("stick-temperature");
    let least = warm.target.expect("a temperature");
    assert_eq!(judge(&warm, &[least], None).good, Some(true));
    let cold = judge(&warm, &[least - 1.0], None);
    assert_eq!((cold.good, cold.says), (Some(false), format!("{} °F, at least {least} °F wanted.", least - 1.0)));
}

#[test]
fn how_the_work_stands_follows_from_the_record_and_what_is_corrected_was_not_said() {
    let plan = build(&wall(&[], &[])).expect("a plan");
    let looked = |good: bool| What::Looked { check: "W1/survey/1:look".into(), good };
    let now = |events: &[Event]| {
        let mut all: Vec<Entry> = Vec::new();
        for e in events {
            all.push(seal(all.last(), "2026-11-29T08:00:00Z", e.clone()));
        }
        let all = states(&plan, &all);
        assert_eq!(all.len(), plan.steps.len());
        all.into_iter().find(|s| s.step == "W1/survey").expect("the step")
    };
    let (begun, done) = (event(1, "W1/survey", What::Begun), event(2, "W1/survey", What::Done));
    let (bad, good) = (event(3, "W1/survey", looked(false)), event(4, "W1/survey", looked(true)));
    assert_eq!(now(&[]).now, StepNow::Open);
    assert_eq!(now(std::slice::from_ref(&begun)).now, StepNow::InHand);
    assert_eq!(now(&[begun.clone(), done.clone()]).now, StepNow::Done);
    assert_eq!(now(&[done.clone(), bad.clone()]).now, StepNow::Failed);
    let mended = now(&[done.clone(), bad.clone(), good]);
    assert_eq!(mended.now, StepNow::LookedAt, "the last reading counts");
    assert_eq!((mended.good.len(), mended.bad.len()), (1, 0));
    assert_eq!(now(std::slice::from_ref(&bad)).bad, ["W1/survey/1:look"]);
    let wrong = event(5, "W1/survey", What::Corrects { id: bad.id.clone() });
    assert_eq!(now(&[begun, done, bad, wrong]).now, StepNow::Done);
    assert_eq!(now(&[event(6, "W1/survey", What::LeftOut)]).now, StepNow::LeftOut);
    assert_eq!(now(&[event(7, "W1/head", What::Done)]).now, StepNow::Open, "another step says nothing of it");
}

#[test]
fn the_wall_as_built_is_the_steps_that_were_done_in_the_order_in_which_they_were() {
    let job = wall(&[], &[]);
    let plan = build(&job).expect("a plan");
    let all = |said: &[(&str, What)]| {
        let mut out: Vec<Entry> = Vec::new();
        for (n, (step, what)) in said.iter().enumerate() {
            out.push(seal(out.last(), "2026-11-29T08:00:00Z", event(n as u64, step, what.clone())));
        }
        out
    };
    let ids: Vec<&str> = plan.order.iter().map(|s| plan.steps[*s].id.as_str()).collect();
    let (sequence, done) = as_built(&plan, &job.sequence, &all(&[]));
    assert_eq!((sequence.order.iter().map(String::as_str).collect::<Vec<_>>(), done), (ids.clone(), 0));
    // Everything done as planned is the planned wall.
    let right: Vec<(&str, What)> = ids.iter().map(|id| (*id, What::Done)).collect();
    let (sequence, done) = as_built(&plan, &job.sequence, &all(&right));
    assert_eq!(done, plan.actions().count());
    assert!(sequence.removed.is_empty() && sequence.order == ids);
    // Head before jambs, jambs never, patches left out: that is what lies there.
    let (head, jambs) = ("W1/head", "W1/jambs");
    let until: Vec<&str> = ids.iter().copied().take_while(|id| *id != jambs).collect();
    let mut said: Vec<(&str, What)> = until.iter().map(|id| (*id, What::Done)).collect();
    said.extend([(head, What::Otherwise), ("W1/patches", What::LeftOut), ("nowhere", What::Done), (head, What::Done)]);
    let (sequence, done) = as_built(&plan, &job.sequence, &all(&said));
    assert_eq!(sequence.removed, ["W1/patches"]);
    assert_eq!(&sequence.order[..=until.len()], [&until[..], &[head]].concat());
    let mut today = plan.clone();
    today.put_in_order(&sequence);
    let moment = Moment::new(&today, done).expect("a layup");
    let lies = |id: &str| moment.stage.has(today.pieces.position(|p| p.id == id).expect("a piece"));
    assert!(lies("W1/head-flashing") && !lies("W1/jamb-flashing-left") && !moment.finished);
}

/// Moisture read at W1, by day of December and hour.
fn moisture(reads: &[(u32, u32, &str)]) -> Vec<Entry> {
    let mut out: Vec<Entry> = Vec::new();
    for (n, (day, hour, percent)) in reads.iter().enumerate() {
        let rows = vec![vec!["11".to_owned()], vec![(*percent).to_owned()]];
        let what = What::Test { test: TestKind::Moisture, rows, seen: vec![] };
        let event = Event { at: format!("2026-12-{day:02}T{hour:02}:00:00Z"), ..event(n as u64, "", what) };
        out.push(seal(out.last(), "2026-12-20T08:00:00Z", event));
    }
    out
}

fn goes(entries: &[Entry], now: Option<(&str, &[Vec<String>])>) -> Option<Drying> {
    let figures = Profile::general_practice().expect("profile").values(&Default::default()).expect("values");
    drying(entries, "W1", now, &figures)
}

#[test]
fn moisture_over_days_says_when_it_is_dry_and_whether_it_went_as_expected() {
    let read = |percent: &str| vec![vec![percent.to_owned()]];
    assert_eq!(goes(&[], None), None, "nobody read any");
    let one = goes(&moisture(&[(1, 8, "24")]), None).expect("a reading");
    assert!(one.per_day.is_none() && one.says.contains("read it at the same place tomorrow"), "{}", one.says);
    // Two a day less: 19 half a day after the last, so on the day after.
    let two = moisture(&[(1, 8, "24"), (2, 8, "22")]);
    let three = goes(&two, Some(("2026-12-03T08:00:00Z", &read("20")))).expect("readings");
    assert_eq!((three.expected, three.per_day, three.dry_on.as_deref()), (Some(20.0), Some(2.0), Some("2026-12-04")));
    assert!(
        three.says.contains("19 % is likely on Fri 4 Dec. 20 % was to be expected now, 20 % is seen."),
        "{}",
        three.says
    );
    // Slower than it went before, it is seen against what was expected.
    let slower = goes(&two, Some(("2026-12-03T08:00:00Z", &read("21.7")))).expect("readings");
    assert!(slower.expected == Some(20.0) && slower.per_day < three.per_day && slower.dry_on > three.dry_on);
    let wet = goes(&two, Some(("2026-12-04T08:00:00Z", &read("27")))).expect("readings");
    assert!(wet.dry_on.is_none() && wet.says.contains("does not dry"), "{}", wet.says);
    let dry = goes(&two, Some(("2026-12-05T08:00:00Z", &read("17")))).expect("readings");
    assert!(dry.dry_on.is_none() && dry.says.contains("dry enough to cover"), "{}", dry.says);
    // Twice within an hour says nothing of how it goes; nor does what was corrected, or read elsewhere.
    let soon = goes(&moisture(&[(1, 8, "24"), (1, 9, "22")]), None).expect("readings");
    assert_eq!((soon.per_day, soon.dry_on), (None, None));
    let mut corrected = moisture(&[(1, 8, "60"), (2, 8, "24")]);
    let id = corrected[0].event.id.clone();
    corrected.push(seal(corrected.last(), "2026-12-20T08:00:00Z", event(9, "", What::Corrects { id })));
    assert_eq!(goes(&corrected, None).map(|d| d.reads.len()), Some(1));
    // A clock that is a year off counts by when its entry was taken.
    let mut ahead = two.clone();
    ahead.truncate(1);
    let what = What::Test { test: TestKind::Moisture, rows: read("22"), seen: vec![] };
    let wrong = Event { at: "2027-12-02T08:00:00Z".into(), ..event(7, "", what) };
    ahead.push(seal(ahead.last(), "2026-12-02T08:00:00Z", wrong));
    assert_eq!(goes(&ahead, None).map(|d| d.reads[1].day), Some(1.0));
    let mut elsewhere = two.clone();
    elsewhere.iter_mut().for_each(|e| e.event.place = "W2".into());
    assert_eq!(goes(&elsewhere, None), None);
}

proptest! {
    /// Wood that dries evenly: what is expected is what is read, and the day told is the first on which it is dry enough.
    #[test]
    fn wood_that_dries_evenly_is_dry_on_the_day_that_is_told(from in 22_u32..40, tenths in 2_u32..30, days in 3_u32..9) {
        let at = |day: u32| f64::from(from) - f64::from(tenths) / 10.0 * f64::from(day);
        let texts: Vec<String> = (0..days).map(|d| format!("{:.1}", at(d).max(11.0))).collect();
        let list: Vec<(u32, u32, &str)> = texts.iter().enumerate().map(|(d, t)| (d as u32 + 1, 0, t.as_str())).collect();
        let goes = goes(&moisture(&list), None).expect("readings");
        prop_assume!(at(days - 1) > goes.allowed);
        prop_assert_eq!(goes.per_day, Some(f64::from(tenths) / 10.0));
        let last = goes.reads.last().expect("a reading");
        prop_assert!((goes.expected.expect("enough readings") - last.most).abs() < 0.1);
        let needs = (f64::from(from) - goes.allowed) / (f64::from(tenths) / 10.0);
        let first = (needs - 1e-6).ceil() as i64;
        if needs - f64::from(days - 1) < 59.0 {
            let day = kame_core::date::day_number("2026-12-01").expect("a day") + first;
            prop_assert_eq!(goes.dry_on, Some(kame_core::date::day_text(day)));
        }
    }
}
