//! On the wall: openings held against their units, go or wait, tests of what was built, the walk round, clocks, and people who differ.

use crate::verdict::wall;
use kame_core::checks::checks_of;
use kame_core::job::{SequenceSpec, read_job};
use kame_core::kit::Product;
use kame_core::plan::{Plan, build};
use kame_core::record::{
    ClockSays, Conditions, Entry, Event, Fits, Go, PointNow, PutOn, Rough, RoundRoom, Seen, SeenWater, StepNow,
    TestKind, WaterDid, What, air_fit, as_built, clock, dew_point_f, fit, fit_of, go, go_of, judge, lines, rack, seal,
    shim_places, skin_minutes, states, test_answer, walk,
};
use kame_core::sequence::Stage;
use kame_core::view::{Known, TestPicture, holds, seen_judged, test_picture};
use proptest::prelude::*;
use std::collections::BTreeMap;

const ROOM: RoundRoom = RoundRoom { least: 0.25, most: 0.75, corner: 4.0, spacing: 16.0 };

fn plan() -> Plan {
    build(&wall(&[], &[])).expect("a plan")
}

fn event(n: u64, who: &str, at: &str, step: &str, what: What) -> Event {
    Event {
        id: format!("01936f00-0000-7000-8000-{n:012x}"),
        who: who.into(),
        at: at.into(),
        place: "W1".into(),
        step: step.into(),
        revision: 1,
        what,
        note: String::new(),
        photos: Vec::new(),
    }
}

fn sealed(all: &[(&str, Event)]) -> Vec<Entry> {
    let mut out: Vec<Entry> = Vec::new();
    for (taken, e) in all {
        out.push(seal(out.last(), taken, e.clone()));
    }
    out
}

proptest! {
    #[test]
    fn a_frame_pushed_over_by_s_has_diagonals_that_say_s(w in 12.0..200.0_f64, h in 12.0..200.0_f64, s in -6.0..6.0_f64) {
        let one = (w + s).hypot(h);
        let other = (w - s).hypot(h);
        prop_assert!((rack(one, other, w) - s).abs() < 1e-6);
    }

    #[test]
    fn an_opening_without_lean_leaves_half_of_what_is_free_on_each_side(width in 20.0..60.0_f64, free in -1.0..3.0_f64, height in 20.0..90.0_f64) {
        let rough = Rough { widths: vec![width; 3], ..Rough::default() };
        let answer = fit(&rough, [width - free, height], &ROOM);
        let each = free / 2.0;
        // Nearer to an edge than a rule can be read nothing is asked.
        prop_assume!([0.0, ROOM.least, ROOM.most].iter().all(|e| (each - e).abs() > 1e-3));
        let wanted = match each {
            e if e < 0.0 => Fits::Cannot,
            e if !(ROOM.least..=ROOM.most).contains(&e) => Fits::Move,
            _ => Fits::Fits,
        };
        prop_assert_eq!(answer.fits, Some(wanted), "{:?}", answer.says);
    }

    #[test]
    fn moving_what_it_says_makes_it_fit(widths in prop::collection::vec(35.0..37.5_f64, 3), lean in -0.5..0.5_f64) {
        let unit = [35.0, 47.0];
        let with = |more: f64| Rough { widths: widths.iter().map(|w| w + more).collect(), jambs: vec![lean], ..Rough::default() };
        // Every jamb moved out by the same: what is free grows by that, until it fits.
        let left: Vec<f64> = [1.0, 0.5, 0.0].iter().map(|y| y * lean).collect();
        let right: Vec<f64> = widths.iter().zip(&left).map(|(w, l)| w + l).collect();
        let free = right.iter().copied().fold(f64::INFINITY, f64::min) - left.iter().copied().fold(f64::NEG_INFINITY, f64::max) - unit[0];
        let answer = fit(&with(1.0 - free), unit, &ROOM);
        prop_assert_eq!(answer.fits, Some(Fits::Fits), "{:?}", answer.says);
        // No shim is thinner than the gap of a unit that stands in the middle.
        prop_assert!(answer.shims.iter().all(|s| !s.thick_text.starts_with('-')), "{:?}", answer.shims);
    }

    #[test]
    fn shims_stand_near_both_ends_and_no_farther_apart_than_asked(long in 9.0..140.0_f64) {
        let all = shim_places(long, &ROOM);
        prop_assert!((all[0] - 4.0).abs() < 1e-9 && (all[all.len() - 1] - (long - 4.0)).abs() < 1e-9);
        prop_assert!(all.windows(2).all(|w| w[1] > w[0] && w[1] - w[0] <= 16.0 + 1e-6));
        // One fewer would stand too far apart.
        prop_assert!(all.len() == 2 || (long - 8.0) / (all.len() - 2) as f64 > 16.0 - 1e-6);
    }

    #[test]
    fn a_line_through_readings_that_lie_on_one_is_that_line(n in 0.5..1.0_f64, c in 1.0..400.0_f64, volume in 500.0..80_000.0_f64) {
        let points: Vec<(f64, f64)> = [15.0, 25.0, 35.0, 50.0, 60.0].iter().map(|p: &f64| (*p, c * p.powf(n))).collect();
        let air = air_fit(&points, volume).expect("a line");
        prop_assert!((air.n - n).abs() < 1e-9 && (air.c / c - 1.0).abs() < 1e-9 && air.r2 > 1.0 - 1e-9);
        prop_assert!((air.q50 / points[3].1 - 1.0).abs() < 1e-9);
        prop_assert!((air.ach50 - air.q50 * 60.0 / volume).abs() < 1e-9);
    }

    #[test]
    fn what_is_colder_is_never_more_of_a_go(f in 0.0..120.0_f64, colder in 0.0..60.0_f64) {
        let tape = Product { least_f: Some(40.0), dry: true, ..plain() };
        let at = |surface: f64| go(&tape, PutOn::Stuck, &Conditions { surface_f: Some(surface), ..Conditions::default() }, &plan().basis.figures).go;
        prop_assert!(at(f - colder) >= at(f));
    }
}

fn plain() -> Product {
    plan().basis.products.iter().find(|p| p.name == "Loose barrier sheet").expect("shipped").clone()
}

#[test]
fn an_opening_is_held_against_its_unit_and_the_jamb_to_move_is_named() {
    let says = |widths: [f64; 3], jambs: &[f64], heights: &[f64]| {
        let rough =
            Rough { widths: widths.to_vec(), jambs: jambs.to_vec(), heights: heights.to_vec(), ..Rough::default() };
        fit(&rough, [35.0, 47.0], &ROOM)
    };
    let right = says([36.0; 3], &[0.0], &[48.0; 3]);
    assert_eq!(right.says, ["Fits: 1/2\" each side.", "1/2\" above and below."]);
    assert_eq!(right.shims[0].thick_text, "1/2\"");
    let narrow = says([34.75, 36.0, 36.0], &[0.0], &[]);
    assert_eq!(
        (narrow.fits, narrow.says[0].as_str()),
        (Some(Fits::Cannot), "Cannot be set: 1/4\" too narrow at the top.")
    );
    // The right jamb comes in 5/8 at the top: 3/8 in all are free, 1/2 are wanted.
    let leans = says([35.375, 36.0, 36.0], &[0.0], &[]);
    assert_eq!(leans.says[0], "3/16\" each side, at least 1/4\" wanted: trim the right jamb at the top by 1/8\".");
    let left = says([36.0, 36.3125, 36.625], &[0.625], &[]);
    assert_eq!(left.says[0], "Fits: 1/2\" each side.", "the left leans in as far as the opening is wider below");
    assert_eq!(
        says([37.0; 3], &[0.0], &[]).says[0],
        "1\" each side, at most 3/4\" wanted: pack each jamb out by 1/4\"."
    );
    let racked = Rough {
        widths: vec![36.0; 3],
        diagonals: vec![37.5_f64.hypot(48.0), 34.5_f64.hypot(48.0)],
        ..Rough::default()
    };
    assert_eq!(fit(&racked, [35.0, 47.0], &ROOM).fits, Some(Fits::Cannot), "1 1/2 in out of square, 1 in is free");
    let sloped = Rough { heights: vec![48.0; 3], level: Some(0.25), ..Rough::default() };
    assert_eq!(fit(&sloped, [35.0, 47.0], &ROOM).says, ["3/8\" above and below. Block the left end 1/4\" higher."]);
    assert_eq!(fit(&Rough::default(), [35.0, 47.0], &ROOM).fits, None, "nothing was measured");
}

#[test]
fn readings_of_a_place_are_put_together_and_the_unit_is_as_much_smaller_as_the_figures_say() {
    let plan = plan();
    let checks = checks_of(&plan).expect("checks");
    let id = |name: &str| checks.iter().find(|c| c.check == name && c.opening == "W1").expect("a check").id.clone();
    let width = plan.openings[0].rect.width().to_inches_f64();
    let read =
        BTreeMap::from([(id("opening-width"), vec![width, width, width - 0.75]), (id("sill-level"), vec![0.125])]);
    let answer = fit_of(&plan, &checks, "W1", &read).expect("an opening");
    assert_eq!(answer.says, ["1/8\" each side, at least 1/4\" wanted: trim the right jamb at the bottom by 1/4\"."]);
    assert!(fit_of(&plan, &checks, "nowhere", &read).is_none());
    // A level is read over 2 ft and counts over the whole opening.
    let level = checks.iter().find(|c| c.check == "sill-level").expect("a check");
    assert!((level.times - (width / 24.0).max(1.0)).abs() < 1e-9);
    let off = judge(level, &[0.25], None);
    assert_eq!((off.good, off.says.as_str()), (Some(false), "3/8\" off. Raise the left end by 3/8\"."));
    assert_eq!(judge(level, &[-0.25], None).says, "3/8\" off. Raise the right end by 3/8\".");
    let bow = checks.iter().find(|c| c.check == "unit-widths").expect("a check");
    assert_eq!(judge(bow, &[35.0, 35.125, 35.0], None).good, Some(true));
    let out = judge(bow, &[35.0, 35.25, 35.0], None);
    assert_eq!(
        out.says,
        "The middle is 1/4\" wider than the rest. Ease the fasteners and press the jambs in at the middle, 1/4\" in all."
    );
}

#[test]
fn go_prepare_or_wait_says_why_and_by_how_much() {
    let figures = &plan().basis.figures;
    let tape = Product { name: "Tape".into(), least_f: Some(40.0), most_f: Some(120.0), dry: true, ..plain() };
    let coat = Product { name: "Coat".into(), least_f: Some(35.0), skin_min: Some(40.0), dry: true, ..plain() };
    let now = Conditions { surface_f: Some(60.0), air_f: Some(60.0), humidity: Some(50.0), ..Conditions::default() };
    let says = |p: &Product, how: PutOn, c: Conditions| {
        let a = go(p, how, &c, figures);
        (a.go, a.says.first().cloned().unwrap_or_default())
    };
    assert_eq!(says(&tape, PutOn::Stuck, now), (Go::Go, String::new()));
    let (go_, why) = says(&tape, PutOn::Stuck, Conditions { surface_f: Some(34.0), ..now });
    assert!(go_ == Go::Prepare && why.starts_with("34 °F: warm it to 40 °F for Tape"), "{why}");
    assert_eq!(says(&tape, PutOn::Stuck, Conditions { surface_f: Some(5.0), ..now }).0, Go::Wait);
    assert_eq!(says(&tape, PutOn::Stuck, Conditions { surface_f: Some(130.0), ..now }).0, Go::Prepare);
    assert!(says(&tape, PutOn::Stuck, Conditions { wet: true, ..now }).1.starts_with("Wet"));
    assert!(says(&tape, PutOn::Stuck, Conditions { humidity: Some(95.0), ..now }).1.starts_with("Dew forms at 59 °F"));
    assert!(says(&tape, PutOn::Stuck, Conditions { frost: true, ..now }).1.contains("Never a flame"));
    assert!(says(&coat, PutOn::Coated, Conditions { sun: true, ..now }).1.contains("blisters"));
    assert_eq!(says(&coat, PutOn::Coated, Conditions { rain_in_h: Some(1.0), ..now }).0, Go::Wait);
    assert_eq!(says(&coat, PutOn::Coated, Conditions { rain_in_h: Some(9.0), ..now }).0, Go::Go);
    assert!(
        says(&coat, PutOn::Coated, Conditions { surface_f: Some(130.0), humidity: Some(80.0), ..now })
            .1
            .starts_with("Skins in")
    );
    assert_eq!(says(&tape, PutOn::Hung, Conditions { wind_mph: Some(22.0), ..now }).0, Go::Wait);
    assert_eq!(says(&tape, PutOn::Stuck, Conditions { wind_mph: Some(22.0), ..now }).0, Go::Go);
    assert_eq!(says(&tape, PutOn::Stuck, Conditions { wind_mph: Some(30.0), ..now }).0, Go::Wait);
    assert_eq!(says(&tape, PutOn::Stuck, Conditions::default()).0, Go::Prepare, "what was not measured is no go");
    // At 100 % the dew point is the air's; at 68 °F and 50 % it is 48.7 °F (tables: 9.3 °C).
    assert!((dew_point_f(68.0, 100.0) - 68.0).abs() < 1e-9 && (dew_point_f(68.0, 50.0) - 48.7).abs() < 0.1);
    let skin = |f: f64, h: f64| skin_minutes(&coat, f, Some(h), figures).expect("minutes");
    assert!(
        (skin(75.0, 50.0) - 40.0).abs() < 1e-9
            && (skin(93.0, 50.0) - 20.0).abs() < 1e-9
            && (skin(57.0, 50.0) - 80.0).abs() < 1e-9
    );
    assert!((skin(75.0, 80.0) - 28.0).abs() < 1e-9 && (skin(75.0, 20.0) - 52.0).abs() < 1e-9);
    // Steps of a plan: what sticks says what its own product wants, what is only measured says nothing.
    let plan = plan();
    let cold = Conditions { surface_f: Some(20.0), ..Conditions::default() };
    assert!(go_of(&plan, "W1/jambs", &cold).is_some_and(|a| a.go > Go::Go));
    assert!(go_of(&plan, "W1/survey", &cold).is_none() && go_of(&plan, "nowhere", &cold).is_none());
}

#[test]
fn tests_of_what_was_built_say_what_their_numbers_mean() {
    let figures = &plan().basis.figures;
    let rows = |text: &str| -> Vec<Vec<String>> {
        text.split(';').map(|r| r.split(' ').map(str::to_owned).collect()).collect()
    };
    let says = |kind: TestKind, text: &str| {
        assert_eq!(kind.problem(&rows(text)), None, "{text}");
        let a = test_answer(kind, &rows(text), figures);
        (a.good, a.says)
    };
    assert_eq!(says(TestKind::Drainage, "2 1.9 5").0, Some(true));
    assert_eq!(
        says(TestKind::Drainage, "2 1 5"),
        (Some(false), "1 of 2 l came out in 5 min: look where the rest stands.".into())
    );
    assert_eq!(says(TestKind::Drainage, "1 2 5").0, Some(false), "more out than in");
    assert_eq!(says(TestKind::Spray, "0 15 0;12 15 0;24 15 0").0, Some(true));
    assert!(says(TestKind::Spray, "0 15 0;12 7 1").1.contains("spray 12 in above the sill, after 7 min"));
    assert_eq!(says(TestKind::Pull, "1;1;1").0, Some(true));
    assert_eq!(says(TestKind::Pull, "1;0;1").0, Some(false));
    assert_eq!((says(TestKind::Moisture, "12;19").0, says(TestKind::Moisture, "12;24").0), (Some(true), Some(false)));
    let air = |f: &dyn Fn(f64) -> f64| {
        let lines: Vec<String> = [15.0, 25.0, 35.0, 50.0, 60.0].iter().map(|p| format!("{p} {:.4}", f(*p))).collect();
        says(TestKind::Air, &format!("12000;{}", lines.join(";")))
    };
    assert!(
        air(&|p| 30.0 * p.powf(0.65)).1.starts_with("381 cfm and 1.91 air changes"),
        "{:?}",
        air(&|p| 30.0 * p.powf(0.65))
    );
    assert!(air(&|p| 2.0 * p.powf(1.3)).1.contains("n is 1.30"));
    assert!(air(&|p| if p == 35.0 { 900.0 } else { 30.0 * p.powf(0.65) }).0 == Some(false));
    assert!(TestKind::Air.problem(&rows("12000;15 100;25 150")).is_some_and(|p| p.contains("expected 6 to 60")));
    assert!(TestKind::Spray.problem(&rows("0 15")).is_some_and(|p| p.contains("expected 3")));
    assert!(TestKind::Moisture.problem(&rows("wet")).is_some_and(|p| p.contains("expected a decimal number")));
}

#[test]
fn two_who_did_not_know_of_each_other_and_differ_are_both_told_until_somebody_settles_it() {
    let plan = plan();
    let looked = |good: bool| What::Looked { check: "c".into(), good };
    let of = |all: &[(&str, Event)]| {
        states(&plan, &sealed(all)).into_iter().find(|s| s.step == "W1/survey").expect("a step")
    };
    // Bo wrote at 9:05 what came in at 9:30; Ada wrote at 9:10 what was taken at once.
    let ada = ("2026-11-29T09:10:01.000Z", event(1, "Ada", "2026-11-29T09:10:00.000Z", "W1/survey", looked(true)));
    let bo = ("2026-11-29T09:30:00.000Z", event(2, "Bo", "2026-11-29T09:05:00.000Z", "W1/survey", looked(false)));
    let differ = of(&[ada.clone(), bo.clone()]).differ;
    assert_eq!(differ.len(), 1);
    assert_eq!(
        (differ[0].check.as_str(), differ[0].entries, &differ[0].who),
        ("c", [1, 2], &["Ada".to_owned(), "Bo".to_owned()])
    );
    // Who looks after both were on record settles it; so does nobody who agrees.
    let cy = ("2026-11-29T10:00:01.000Z", event(3, "Cy", "2026-11-29T10:00:00.000Z", "W1/survey", looked(true)));
    assert!(of(&[ada.clone(), bo, cy]).differ.is_empty());
    let same = ("2026-11-29T09:30:00.000Z", event(2, "Bo", "2026-11-29T09:05:00.000Z", "W1/survey", looked(true)));
    assert!(of(&[ada.clone(), same]).differ.is_empty());
    // Who saw the first and says otherwise has mended it, and does not differ.
    let after = ("2026-11-29T11:00:01.000Z", event(2, "Bo", "2026-11-29T11:00:00.000Z", "W1/survey", looked(false)));
    assert!(of(&[ada, after]).differ.is_empty());
}

#[test]
fn who_did_it_cannot_be_the_other_who_looks() {
    let plan = plan();
    let look = "W1/look/1:look-before-cover";
    let of = |who: &str| {
        let done = event(1, "Ada Quill", "2026-11-29T09:00:00Z", "W1/look", What::Done);
        let looked = event(2, who, "2026-11-29T09:10:00Z", "W1/look", What::Looked { check: look.into(), good: true });
        let all = sealed(&[("2026-11-29T09:00:01Z", done), ("2026-11-29T09:10:01Z", looked)]);
        states(&plan, &all).into_iter().find(|s| s.step == "W1/look").expect("a step")
    };
    let alone = of(" ada quill ");
    assert!(alone.good.is_empty() && alone.alone == [look], "{alone:?}");
    assert_eq!(alone.now, StepNow::Done);
    let other = of("Bo Marsh");
    assert!(other.good == [look] && other.alone.is_empty());
    assert_eq!(other.now, StepNow::LookedAt);
}

#[test]
fn the_walk_round_goes_along_the_scaffold_and_knows_what_is_hidden() {
    let job = wall(&[], &[]);
    let plan = plan();
    let checks = checks_of(&plan).expect("checks");
    let done = |until: usize| -> Vec<Entry> {
        let all: Vec<(&str, Event)> = plan.order[..until]
            .iter()
            .enumerate()
            .map(|(n, s)| {
                ("2026-11-29T10:00:00Z", event(n as u64, "Ada", "2026-11-29T09:00:00Z", &plan.steps[*s].id, What::Done))
            })
            .collect();
        sealed(&all)
    };
    let round = |entries: &[Entry]| {
        let (sequence, actions) = as_built(&plan, &job.sequence, entries);
        let mut today = plan.clone();
        today.put_in_order(&sequence);
        let stage = Stage::after(&today, today.actions().take(actions).map(|(_, a)| a));
        walk(&today, &stage, &checks, &states(&plan, entries))
    };
    let bare = round(&[]);
    assert!(!bare.is_empty() && bare.iter().all(|p| p.seen == Seen::NotYet && p.now == PointNow::Open));
    let mut all = done(plan.order.len());
    let points = round(&all);
    assert!(points.windows(2).all(|w| (w[0].wall, w[0].lift) <= (w[1].wall, w[1].lift)), "lift by lift");
    // The pan's floor lies under the window; the jamb flashings lie under the head's, in part.
    let of = |points: &[kame_core::record::Point], step: &str, check: &str| {
        points
            .iter()
            .find(|p| p.step == step && p.check.ends_with(check))
            .unwrap_or_else(|| panic!("{step} {check}"))
            .clone()
    };
    let jambs = of(&points, "W1/jambs", ":pressed");
    assert!(jambs.seen == Seen::Part && !jambs.under.is_empty(), "{jambs:?}");
    let bead = points.iter().find(|p| p.check.ends_with(":bead-unbroken")).expect("a bead");
    assert_ne!(bead.seen, Seen::NotYet);
    let say = |all: &mut Vec<Entry>, what: What| {
        let e = event(900 + all.len() as u64, "Bo", "2026-11-29T11:00:00Z", "W1/jambs", what);
        all.push(seal(all.last(), "2026-11-29T11:00:01Z", e));
    };
    let check = jambs.check.clone();
    for (what, now) in [
        (What::Looked { check: check.clone(), good: false }, PointNow::Mend),
        (What::Mended { check: check.clone() }, PointNow::LookAgain),
        (What::Looked { check: check.clone(), good: true }, PointNow::Good),
        (What::NotReached { check: check.clone() }, PointNow::Unreached),
    ] {
        say(&mut all, what);
        assert_eq!(of(&round(&all), "W1/jambs", ":pressed").now, now);
    }
}

#[test]
fn a_clock_that_says_what_cannot_be_is_noticed_over_the_ends_of_years_and_leap_days() {
    let of = |at: &str, taken: &str| clock(&seal(None, taken, event(1, "Ada", at, "", What::Noted)));
    assert_eq!(of("2026-11-29T09:00:00Z", "2026-11-29T09:00:01.5Z"), None);
    assert_eq!(of("2026-11-29T09:04:00Z", "2026-11-29T09:00:00Z"), None, "minutes are forgiven");
    assert_eq!(of("2026-11-29T09:06:00Z", "2026-11-29T09:00:00Z"), Some(ClockSays::Ahead));
    assert_eq!(of("2027-11-29T09:00:00Z", "2026-11-29T09:00:00Z"), Some(ClockSays::Ahead));
    assert_eq!(of("2025-11-29T09:00:00Z", "2026-11-29T09:00:00Z"), Some(ClockSays::LongBefore));
    assert_eq!(of("2026-12-20T09:00:00Z", "2027-01-15T09:00:00Z"), None, "26 days over new year");
    assert_eq!(of("2028-02-29T23:58:00Z", "2028-03-01T00:01:00Z"), None, "a leap day");
    assert_eq!(of("2028-03-01T00:07:00Z", "2028-02-29T23:58:00Z"), Some(ClockSays::Ahead));
}

#[test]
fn what_was_done_to_a_step_that_is_in_the_plan_no_more_is_kept_and_told() {
    let plan = plan();
    let at = "2026-11-29T09:00:00Z";
    let all = sealed(&[
        (at, event(1, "Ada", at, "W1/jambs", What::Done)),
        (at, event(2, "Ada", "2028-11-29T09:00:00Z", "W9/gone", What::Done)),
        (at, event(3, "Ada", at, "", What::Noted)),
    ]);
    let told = lines(&plan, &checks_of(&plan).expect("checks"), &all);
    let odd: Vec<&str> = told.iter().map(|l| l.odd.as_str()).collect();
    assert_eq!(odd, ["", "its device's clock was ahead; its step is not in the plan any more", ""]);
}

#[test]
fn the_same_mistake_at_a_second_opening_does_not_hold_because_it_was_made_at_the_first() {
    let text = include_str!("../../../../demo/heron-spit-station.kame.json");
    let job = read_job(text.as_bytes()).expect("the demo");
    let plan = build(&job).expect("a plan");
    let head = |o: &str| format!("{o}/jambs");
    let both: Vec<String> = ["W1", "W3"].map(head).to_vec();
    assert!(both.iter().all(|id| plan.steps.iter().any(|s| s.id == *id)), "both have jambs");
    let without = |removed: &[String]| SequenceSpec { order: vec![], removed: removed.to_vec() };
    let known = Known::default();
    let (first, second) = (without(&both[..1]), without(&both));
    let answer = holds((&plan, &first), (&plan, &second), &known).expect("an answer");
    assert!(!answer.holds && answer.says.starts_with("It does not hold"), "{}", answer.says);
    assert!(answer.new.iter().any(|f| f.features.iter().any(|o| o == "W3")), "{:?}", answer.new);
    let same = holds((&plan, &second), (&plan, &second), &known).expect("an answer");
    assert!(same.holds && same.new.is_empty());
}

fn expected(plan: &Plan, done: usize) -> TestPicture {
    test_picture(plan, done, "W1", &Known::default()).expect("a picture")
}

fn spot(did: WaterDid, [x, y]: [f64; 2]) -> SeenWater {
    SeenWater { did, x: format!("{x:.4}"), y: format!("{y:.4}") }
}

/// Counted from the place's corner, right and up.
fn from_corner(p: &TestPicture, [x, y]: [f64; 2]) -> [f64; 2] {
    [x - p.origin[0], p.origin[1] - y]
}

#[test]
fn water_poured_into_a_finished_window_comes_out_by_itself_under_it_on_walls_of_every_family() {
    for barrier in ["loose", "drainable", "dark", "panel", "adhered", "fluid", "gypsum", "insulated", "plaster"] {
        let plan = build(&wall(&[("barrier", barrier)], &[])).expect("a plan");
        let picture = expected(&plan, usize::MAX);
        let out = picture.outs.iter().find(|o| o.name == "The unit leaks into its pan");
        let out = out.unwrap_or_else(|| panic!("{barrier}: no way out among {:?}", picture.outs));
        assert!(out.says.ends_with("by its own weight"), "{barrier}: {}", out.says);
        assert!(!out.along.is_empty() && out.drop.len() > 1, "{barrier}");
        for [x0, y0, x1, y1] in &out.along {
            let lowest = picture.elevation.openings[0].rect[1] + picture.elevation.openings[0].rect[3];
            assert!(y0.min(*y1) >= lowest - 6.0 && x1 >= x0, "{barrier}: comes out at {y0}, the foot is at {lowest}");
        }
        assert!(picture.ins.is_empty(), "{barrier}: {:?}", picture.ins);
    }
}

#[test]
fn what_is_poured_on_a_pan_before_its_window_runs_over_the_sill_and_what_leaks_is_drawn() {
    let job = wall(&[], &[]);
    let plan = build(&job).expect("a plan");
    let pan = plan.actions().position(|(s, _)| plan.steps[s].id == "W1/set").expect("the window's step");
    let picture = expected(&plan, pan);
    assert_eq!(picture.outs.len(), 1, "{:?}", picture.outs);
    assert_eq!(picture.outs[0].name, "Water on the open sill");
    // Without jamb flashing rain gets in: that is drawn.
    let mut job = job;
    job.sequence.removed = ["W1/jambs", "W1/bed", "W1/head"].map(String::from).to_vec();
    let wet = expected(&build(&job).expect("a plan"), usize::MAX);
    assert!(!wet.ins.is_empty());
    let nowhere = test_picture(&plan, 0, "X9", &Known::default()).expect_err("no such place");
    assert!(nowhere[0].message.contains("there is no opening \"X9\""), "{nowhere:?}");
    // A test without spots says what its numbers say, also where its opening is gone.
    assert_eq!(seen_judged(&plan, 0, "X9", &[], &Known::default()), Ok(vec![]));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// A spot on the way out is right, one farther from it than is near is not, and says how far; water that stands or comes in is never right.
    #[test]
    fn a_spot_is_as_good_as_it_is_near_to_the_way_out(along in 0.0..1.0_f64, below in 0.0..30.0_f64) {
        let (plan, known) = (plan(), Known::default());
        let picture = expected(&plan, usize::MAX);
        let lines: Vec<[f64; 4]> = picture.outs.iter().flat_map(|o| o.along.clone()).collect();
        let [x0, y0, x1, y1] = lines[0];
        let on = [x0 + along * (x1 - x0), y0 + along * (y1 - y0) + below];
        // How far a spot right below a line is from any of them: all are level, or the test says so.
        let away = lines.iter().map(|l| {
            let aside = (l[0] - on[0]).max(on[0] - l[2]).max(0.0);
            let (lo, hi) = (l[1].min(l[3]), l[1].max(l[3]));
            aside.hypot((lo - on[1]).max(on[1] - hi).max(0.0))
        }).fold(f64::INFINITY, f64::min);
        prop_assume!((away - 6.0).abs() > 0.01);
        let at = from_corner(&picture, on);
        let all = [WaterDid::Out, WaterDid::Stands, WaterDid::In].map(|did| spot(did, at));
        let judged = seen_judged(&plan, usize::MAX, "W1", &all, &known).expect("judged");
        prop_assert_eq!(judged[0].good, away < 6.0, "{} in: {}", away, judged[0].says);
        if away > 6.0 {
            let said = format!("{away:.0} in from where it should");
            prop_assert!(judged[0].says.contains(&said), "{said}: {}", judged[0].says);
        }
        prop_assert!(!judged[1].good && !judged[2].good);
    }
}
