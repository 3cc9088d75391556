//! What goes on the truck on which day of the calendar, by when it is ordered, what is taken in at night, and who covers the wall.

use crate::calendar::hours;
use kame_core::calendar::{
    Booked, Booking, CalendarQuestion, Covering, Days, Effort, Hour, book, days, lay, site_of, with_nights,
};
use kame_core::date::{day_number, day_text};
use kame_core::edit::{Edit, apply};
use kame_core::job::{Delivery, Job, SiteSpec, read_job};
use kame_core::kit::{Held, OwnProduct, PairVerdict, products};
use kame_core::nights::{KnownNights, NightState};
use kame_core::plan::{Plan, build};
use kame_core::purchase::{Ordering, order};
use kame_core::record::{StepNow, StepState, states};
use kame_core::stop::Stop;
use kame_core::takeoff::step_minutes;
use std::collections::{BTreeMap, HashSet};

const MONDAY: &str = "2026-03-02";
const SEALANT: &str = "Sealant, movement class 25 or more";

fn wall() -> Job {
    let text = include_str!("../../../../demo/heron-spit-four-openings.kame.json");
    Job { site: None, kit: Default::default(), ..read_job(text.as_bytes()).expect("the demo") }
}

struct Laid {
    plan: Plan,
    site: SiteSpec,
    hours: Vec<Hour>,
    states: Vec<StepState>,
    booking: Booking,
    days: Days,
}

fn laid_with(job: &Job, hours: &[Hour], site: impl Fn(&mut SiteSpec), done: impl Fn(&mut StepState)) -> Laid {
    let plan = build(job).unwrap_or_else(|p| panic!("{p:?}"));
    let mut by = site_of(job, &plan, MONDAY);
    site(&mut by);
    let mut states = states(&plan, &[]);
    states.iter_mut().for_each(done);
    let asked = CalendarQuestion { plan: &plan, site: &by, hours, states: &states };
    let booking = lay(&asked, Effort::Full, &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"));
    let order = order(&plan, &job.kit, &Ordering::default());
    let days = days(&asked, &booking, &order, MONDAY);
    Laid { plan, site: by, hours: hours.to_vec(), states, booking, days }
}

fn laid(job: &Job) -> Laid {
    laid_with(job, &[], |_| {}, |_| {})
}

fn changed(job: &Job, edit: &Edit) -> Job {
    apply(job, edit).unwrap_or_else(|p| panic!("{p:?}")).0
}

/// What is known of a product, changed.
fn known(job: &Job, product: &str, attribute: &str, text: &str) -> Job {
    let own =
        OwnProduct { attributes: BTreeMap::from([(attribute.to_owned(), text.to_owned())]), ..Default::default() };
    changed(job, &Edit::SetProduct { product: product.into(), own: Some(own), stock: None })
}

#[test]
fn every_step_and_every_unit_stands_on_the_day_of_the_calendar() {
    let job = wall();
    let l = laid(&job);
    let order = order(&l.plan, &job.kit, &Ordering::default());
    let on_days: u32 = l.days.days.iter().map(|d| d.minutes).sum();
    assert_eq!(on_days, l.booking.tasks.iter().map(|t| t.to - t.from).sum::<u32>());
    // Two people: whole minutes of each step are half of what one takes, rounded up.
    let of_one: f64 = step_minutes(&l.plan).iter().sum();
    assert!(f64::from(on_days) * 2.0 >= of_one && f64::from(on_days) < of_one, "{on_days} {of_one}");
    for d in &l.days.days {
        let offset =
            u32::try_from(day_number(&d.on).expect("a day") - day_number(MONDAY).expect("a day")).expect("later");
        let booked: HashSet<&str> =
            l.booking.tasks.iter().filter(|t| t.from / 1440 == offset).map(|t| t.step.as_str()).collect();
        assert_eq!(d.steps.iter().map(|s| s.id.as_str()).collect::<HashSet<_>>(), booked, "{}", d.said);
    }
    let needed: u64 = order.lines.iter().flat_map(|l| &l.sizes).map(|s| s.needed).sum();
    let loads: Vec<_> = l.days.days.iter().flat_map(|d| &d.loads).collect();
    assert_eq!(loads.iter().map(|l| l.count).sum::<u64>(), needed);
    assert!(loads.iter().all(|l| l.short + l.held == l.count));
    assert!(l.days.shortages.is_empty(), "an empty truck runs out of nothing");
    assert_eq!(l.days.begins.len(), l.plan.order.len());
    assert_eq!(l.days.who, "Crew, 2 people, 7:00 to 14:00");
}

#[test]
fn what_is_loaded_moves_with_a_delivery_and_what_is_done_is_not_loaded_again() {
    let job = wall();
    let first = laid(&job);
    let of = |l: &Laid, product: &str| -> Vec<String> {
        l.days.days.iter().filter(|d| d.loads.iter().any(|x| x.product == product)).map(|d| d.on.clone()).collect()
    };
    let pans = first.plan.pieces.iter().find(|p| p.id == "W1/pan").expect("a pan").product.to_string();
    assert_eq!(of(&first, &pans)[0], MONDAY);
    let late = laid_with(
        &job,
        &[],
        |site| site.deliveries.push(Delivery { what: pans.clone(), on: "2026-03-11".into() }),
        |_| {},
    );
    assert_eq!(of(&late, &pans)[0], "2026-03-11");
    // All of it is done: nothing is opened for it any more, and it stands on no day.
    let done = laid_with(&job, &[], |_| {}, |s| s.now = StepNow::Done);
    assert!(done.days.days.is_empty() && done.days.buy.is_empty());
    assert!(done.days.begins.iter().all(|d| d == "done"));
    // A unit that came damaged: nothing behind it is loaded for a day that nobody knows.
    let stops = |s: &mut StepState| {
        if s.step == "D1/dry-fit" {
            (s.now, s.bad) = (StepNow::InHand, vec!["D1/dry-fit:unit-whole".into()]);
        }
    };
    let waiting = laid_with(&job, &[], |_| {}, stops);
    let on = |id: &str| {
        let place = waiting.plan.order.iter().position(|s| waiting.plan.steps[*s].id == id).expect("a step");
        waiting.days.begins[place].clone()
    };
    assert_eq!((on("D1/set").as_str(), on("W1/set").get(..4)), ("waits", Some("2026")));
    let door = |l: &Laid| l.days.days.iter().flat_map(|d| &d.loads).filter(|l| l.product.contains("Door")).count();
    assert_eq!((door(&first), door(&waiting)), (1, 0));
}

#[test]
fn what_the_truck_carries_runs_out_on_the_day_it_does() {
    let job = wall();
    let tube = products().expect("products").iter().find(|p| p.name == SEALANT).expect("sealant").sizes[0].clone();
    let stock = vec![Held { product: SEALANT.into(), size: tube, count: 1 }];
    let l = laid(&changed(&job, &Edit::SetStock { stock }));
    let loads: Vec<_> =
        l.days.days.iter().flat_map(|d| d.loads.iter().filter(|l| l.product == SEALANT).map(move |l| (d, l))).collect();
    assert_eq!(loads.iter().map(|(_, l)| l.held).sum::<u64>(), 1);
    let (day, _) = loads.iter().find(|(_, l)| l.short > 0).expect("one tube is not enough");
    assert!(l.days.shortages[0].contains(&format!("runs out on {}", day.said)), "{:?}", l.days.shortages);
}

#[test]
fn what_takes_days_to_come_says_by_when_it_is_ordered() {
    let job = wall();
    let unknown = laid(&job);
    let of = |l: &Laid| l.days.buy.iter().find(|b| b.product == SEALANT).expect("to buy").clone();
    let needed = of(&unknown).needed;
    assert!(of(&unknown).order.is_none() && of(&unknown).says.starts_with("needed "));
    for lead in [0, 1, 30] {
        let l = laid(&known(&job, SEALANT, "lead_days", &lead.to_string()));
        let buy = of(&l);
        let by = day_number(&needed).expect("a day") - i64::from(lead);
        assert_eq!((buy.needed.as_str(), buy.order), (needed.as_str(), Some(day_text(by))));
        assert_eq!(buy.late, by < day_number(MONDAY).expect("a day"), "{lead}");
    }
    let late = of(&laid(&known(&job, SEALANT, "lead_days", "30")));
    assert!(late.says.contains("it comes on Wed 1 Apr if it is ordered today"), "{}", late.says);
    let whole = apply(
        &job,
        &Edit::SetProduct {
            product: SEALANT.into(),
            own: Some(OwnProduct {
                attributes: BTreeMap::from([("lead_days".to_owned(), "9000".to_owned())]),
                ..Default::default()
            }),
            stock: None,
        },
    );
    assert!(whole.is_err(), "more than a year is no time to wait");
}

#[test]
fn what_must_not_freeze_is_taken_in_on_cold_nights_between_its_first_and_last_day() {
    // Two days of work at least, with a night between.
    let job = known(&wall(), SEALANT, "keep_above_f", "45");
    let early = |site: &mut SiteSpec| site.crews[0].hours = [7.0, 10.0];
    let indoors = |air: f64, job: &Job| -> Vec<String> {
        let l = laid_with(job, &hours(30, air, |_| false), early, |_| {});
        assert!(l.days.days.len() > 2, "{}", l.days.days.len());
        l.days.days.iter().flat_map(|d| d.indoors.clone()).collect()
    };
    let cold = indoors(44.0, &job);
    assert!(
        !cold.is_empty() && cold.iter().all(|s| s.contains("it goes down to 44 °F") && s.contains("45 °F")),
        "{cold:?}"
    );
    assert!(indoors(46.0, &job).is_empty());
    // Cold only in the night from Saturday to Sunday, when nobody comes: it is said on Friday.
    let saturday = |air: f64| {
        let mut h = hours(30, 60.0, |_| false);
        h.iter_mut().filter(|h| (5 * 1440 + 1200..6 * 1440).contains(&h.minute)).for_each(|h| h.air_f = air);
        // An hour a day, so that it takes more than a week.
        laid_with(&job, &h, |site| site.crews[0].hours = [7.0, 8.0], |_| {})
    };
    let told: Vec<String> =
        saturday(20.0).days.days.iter().filter(|d| !d.indoors.is_empty()).map(|d| d.on.clone()).collect();
    assert_eq!(told, ["2026-03-06"], "{:?}", saturday(20.0).days.days.iter().map(|d| &d.on).collect::<Vec<_>>());
    assert!(saturday(50.0).days.days.iter().all(|d| d.indoors.is_empty()));
    assert!(indoors(44.0, &wall()).is_empty(), "it is told of what must not freeze alone");
}

#[test]
fn what_cures_moves_what_lies_on_it_and_the_day_says_so() {
    let mut job = Job::new("cure");
    job.wall.schools.insert("barrier".into(), "fluid".into());
    job.openings[0].schools.insert("flange".into(), "tape".into());
    let waiting = laid(&job);
    let said: Vec<&String> = waiting.days.days.iter().flat_map(|d| &d.waits).collect();
    assert!(!said.is_empty() && said.iter().all(|w| w.contains("cures until")), "{said:?}");
    let record = Edit::RecordPair {
        upper: "Flashing tape".into(),
        lower: "Fluid-applied barrier".into(),
        verdict: Some(PairVerdict::After),
        source: "data sheet".into(),
        hours: Some(240.0),
    };
    let longer = laid(&changed(&job, &record));
    assert!(longer.booking.proof.finish >= waiting.booking.proof.finish + 7 * 1440);
}

#[test]
fn whoever_is_at_work_last_covers_what_the_night_would_reach_and_beyond_its_hours_that_is_told() {
    let job = wall();
    let short = |site: &mut SiteSpec| site.crews[0].hours = [7.0, 9.0];
    let mut l = laid_with(&job, &hours(40, 60.0, |_| false), short, |_| {});
    let asked = CalendarQuestion { plan: &l.plan, site: &l.site, hours: &l.hours, states: &l.states };
    l.booking = with_nights(&asked, l.booking.clone(), &KnownNights::default(), &Stop::default()).expect("nights");
    let mut covered = 0;
    for e in &l.booking.nights {
        let ends = l.booking.tasks.iter().filter(|t| (t.to - 1) / 1440 == e.day).map(|t| t.to).max();
        match (e.put.len() as u32, ends) {
            (0, _) | (_, None) => assert!(e.covers.is_none()),
            (many, Some(ends)) => {
                covered += 1;
                assert_ne!(e.state, NightState::Dry, "what stays dry wants nothing");
                let c = e.covers.expect("somebody covers");
                // Ten minutes each, by two.
                assert_eq!((c.from, c.to), (ends, ends + many * 5));
            }
        }
    }
    assert!(covered > 0, "a wall done in two hours a day is open some night");
    let over = |c: &Covering| c.to % 1440 > 9 * 60;
    let beyond = l.booking.nights.iter().filter_map(|e| e.covers).filter(over).count();
    let told = l.booking.warns.iter().filter(|w| w.contains("beyond its hours")).count();
    assert_eq!(told, usize::from(beyond > 0), "{:?}", l.booking.warns);
    let all = book(&asked, &KnownNights::default(), &Stop::default()).expect("booked");
    assert_eq!(all, l.booking, "laid first and its nights after is the same as at once");
}

#[test]
fn covers_for_the_night_are_put_on_within_hours_where_something_else_can_wait() {
    let job = wall();
    let known = KnownNights::default();
    let mut bound = 0;
    for end in [11, 12, 13, 14, 15, 16] {
        let hours_a_day = |site: &mut SiteSpec| site.crews[0].hours = [7.0, f64::from(end)];
        let l = laid_with(&job, &[], hours_a_day, |_| {});
        let asked = CalendarQuestion { plan: &l.plan, site: &l.site, hours: &l.hours, states: &l.states };
        let kept = with_nights(&asked, l.booking.clone(), &known, &Stop::default()).expect("nights");
        let over = |c: Covering| c.to % 1440 > end * 60;
        let beyond = kept.nights.iter().filter_map(|e| e.covers).filter(|c| over(*c)).count();
        assert_eq!(kept.warns.iter().any(|w| w.contains("beyond its hours")), beyond > 0, "{:?}", kept.warns);
        if kept.tasks != l.booking.tasks {
            bound += 1;
            assert_eq!(beyond, 0, "until {end}: {:?}", kept.nights);
            let why = |t: &&Booked| t.why.contains("covers the wall for the night");
            assert!(kept.tasks.iter().any(|t| why(&t)), "until {end}: {:?}", kept.tasks);
        }
    }
    assert!(bound > 0, "some day would have ended with covers after hours");
}

#[test]
fn what_may_be_out_for_some_days_only_is_hung_no_sooner_than_it_can_be_covered() {
    let job = wall();
    // The door comes in two weeks; until it is set nobody can cover the wall.
    let late = |site: &mut SiteSpec| site.deliveries.push(Delivery { what: "D1".into(), on: "2026-03-16".into() });
    let product = laid(&job).booking.fuses.first().map(|f| f.product.clone()).expect("a sheet");
    let hung = |l: &Laid| l.booking.fuses.iter().find(|f| f.product == product).cloned().expect("a fuse");
    let patient = laid_with(&job, &[], late, |_| {});
    let fuse = hung(&patient);
    assert!(!fuse.over && fuse.from < 1440, "it bears that: {fuse:?}");
    assert_eq!(fuse.until, i64::from(patient.booking.proof.finish));
    let short = known(&job, &product, "exposed_days", "10");
    let hurt =
        hung(&laid_with(&short, &[], late, |s| s.now = if s.step == "course-1" { StepNow::Done } else { s.now }));
    assert_eq!(hurt.limit / 1440 - hurt.from / 1440, 11, "the midnight after ten days: {hurt:?}");
    let bound = laid_with(&short, &[], late, |_| {});
    let fuse = hung(&bound);
    assert!(!fuse.over && fuse.from >= 4 * 1440, "hung later: {fuse:?}");
    let first = bound.booking.tasks.iter().find(|t| i64::from(t.from) == fuse.from).expect("a task");
    assert!(first.why.contains("is not out for longer than its 10 days"), "{first:?}");
    assert!(bound.booking.proof.finish <= patient.booking.proof.finish + 2 * 1440, "and hardly later done");
    // What cannot be helped is told.
    let never = known(&job, &product, "exposed_days", "1");
    let told = laid_with(&never, &[], late, |_| {});
    let says = format!("{product} is out since");
    assert!(!hung(&told).over || told.booking.warns.iter().any(|w| w.starts_with(&says)), "{:?}", told.booking);
}

#[test]
fn what_is_hung_later_stays_later_when_covers_bind_as_well() {
    let late = |site: &mut SiteSpec| site.deliveries.push(Delivery { what: "D1".into(), on: "2026-03-16".into() });
    let product = laid(&wall()).booking.fuses.first().map(|f| f.product.clone()).expect("a sheet");
    let job = known(&wall(), &product, "exposed_days", "10");
    let mut both = 0;
    for end in [11, 12, 13, 14, 15, 16] {
        let site = |site: &mut SiteSpec| {
            late(site);
            site.crews[0].hours = [7.0, f64::from(end)];
        };
        let l = laid_with(&job, &[], site, |_| {});
        let asked = CalendarQuestion { plan: &l.plan, site: &l.site, hours: &l.hours, states: &l.states };
        let kept = with_nights(&asked, l.booking.clone(), &KnownNights::default(), &Stop::default()).expect("nights");
        let over = |b: &Booking| b.fuses.iter().filter(|f| f.over).map(|f| f.until - f.limit).sum::<i64>();
        assert!(over(&kept) <= over(&l.booking), "until {end}: {:?}", kept.fuses);
        let bound = |b: &Booking| b.tasks.iter().any(|t| t.why.contains("is not out for longer than"));
        if kept.tasks != l.booking.tasks && bound(&l.booking) {
            both += 1;
            assert!(bound(&kept), "until {end}: it still waits, and says so: {:?}", kept.tasks);
        }
    }
    assert!(both > 0, "some calendar is laid again for its covers while something is hung later");
}

#[test]
fn a_fuse_ends_when_the_boards_or_the_cladding_over_it_are_on() {
    let mut job = wall();
    for (q, a) in [("barrier", "plaster"), ("cladding", "plaster"), ("gap", "mat"), ("hung", "here")] {
        job.wall.schools.insert(q.into(), a.into());
    }
    let l = laid(&job);
    let ends = |what: &str| {
        let of = l.booking.tasks.iter().filter(|t| t.step.ends_with(what)).map(|t| t.to);
        i64::from(of.max().unwrap_or_else(|| panic!("no {what} among {:?}", l.booking.tasks)))
    };
    let sheet = l.plan.pieces.iter().find(|p| p.id.ends_with("course-1")).expect("a course").product.to_string();
    let fuse = l.booking.fuses.iter().find(|f| f.product == sheet).expect("a fuse");
    assert_eq!(fuse.until, ends("/cladding"), "{fuse:?}");
    assert!(fuse.until < i64::from(l.booking.proof.finish), "the film comes off after");
    // Light goes through open joints.
    let mut open = wall();
    for (q, a) in [("barrier", "dark"), ("cladding", "open"), ("gap", "battens"), ("hung", "here")] {
        open.wall.schools.insert(q.into(), a.into());
    }
    let l = laid(&open);
    let sheet_behind = l.plan.pieces.iter().find(|p| p.id.ends_with("course-1")).expect("a course").product.to_string();
    let fuse = l.booking.fuses.iter().find(|f| f.product == sheet_behind).expect("a fuse");
    assert_eq!(fuse.until, i64::from(l.booking.proof.finish));
    // Who hangs it is somebody else: nobody knows when, so it burns until all work is done.
    job.wall.schools.insert("hung".into(), "later".into());
    let open = laid(&job);
    let fuse = open.booking.fuses.iter().find(|f| f.product == sheet).expect("a fuse");
    assert_eq!(fuse.until, i64::from(open.booking.proof.finish));
}

#[test]
fn who_may_stay_longer_stays_to_cover_and_is_not_blamed_for_it() {
    let (job, known) = (wall(), KnownNights::default());
    let covered = |overtime: f64| {
        let two_hours = |site: &mut SiteSpec| {
            let crew = &mut site.crews[0];
            (crew.hours, crew.overtime, crew.people, crew.rate) = ([7.0, 9.0], overtime, 2, Some(60.0));
        };
        let l = laid_with(&job, &[], two_hours, |_| {});
        let asked = CalendarQuestion { plan: &l.plan, site: &l.site, hours: &l.hours, states: &l.states };
        let alone = l.booking.hours[0].covering;
        assert_eq!(alone, 0.0, "nobody has looked at its nights yet");
        with_nights(&asked, l.booking.clone(), &known, &Stop::default()).expect("nights")
    };
    let says = |warns: &[String], words: &str| warns.iter().any(|w| w.contains(words));
    let (not, may) = (covered(0.0), covered(2.0));
    // Covering is counted and paid beside the work, an hour beyond the day half as much again.
    for b in [&not, &may] {
        let of = |c: &Covering| (c.to - c.from, c.to.saturating_sub((c.from / 1440 * 1440 + 540).max(c.from)));
        let each: Vec<(u32, u32)> = b.nights.iter().filter_map(|n| n.covers.as_ref()).map(of).collect();
        let hours = |minutes: u32| f64::from(minutes) / 60.0 * 2.0;
        let (all, beyond) = (hours(each.iter().map(|c| c.0).sum()), hours(each.iter().map(|c| c.1).sum()));
        let h = &b.hours[0];
        assert!(beyond > 0.0 && (h.covering - all).abs() <= 0.05, "{all}: {h:?}");
        assert_eq!(h.covering_cost, Some(((all + beyond * 0.5) * 60.0).round()), "{h:?}");
        assert!(h.covering_says.contains("h to cover for the night, at a cost of"), "{}", h.covering_says);
        // What is only tried has no nights yet: it is held against the work alone.
        assert!(!h.says.contains("night"), "{}", h.says);
    }
    let (not, may) = (not.warns, may.warns);
    assert!(says(&not, "covers for the night beyond its hours") && !says(&not, "stays to cover"), "{not:?}");
    assert!(says(&may, "stays to cover for the night") && !says(&may, "beyond its hours"), "{may:?}");
}
