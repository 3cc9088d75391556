//! The calendar: whatever is asked, what is laid keeps every rule; nothing beats the bound; small ones are as good as trying everything.

use kame_core::calendar::{
    After, Agreed, Booked, Booking, Calendar, CalendarQuestion, Crew, Effort, Hour, Instance, Task, Window, WorkPlace,
    at_minute, book, daylight, humidity, is_moved, learnt, solve, solve_near, sun, surface_f,
};
use kame_core::checks::checks_of;
use kame_core::job::{CrewSpec, Deadline, Delivery, KeptPlan, Pin, SiteSpec, Standpoint, Visit, read_job};
use kame_core::nights::KnownNights;
use kame_core::plan::build;
use kame_core::record::{Event, What, seal, states};
use kame_core::stop::Stop;
use kame_core::trade::{Phase, Trade};
use proptest::prelude::*;
use std::collections::HashSet;

/// A day's hours, 7 to 15.5.
fn days(n: u32, skip: &[u32]) -> Vec<Window> {
    (0..n).filter(|d| !skip.contains(d)).map(|d| [d * 1440 + 420, d * 1440 + 930]).collect()
}

fn crew(name: &str, trade: &str, works: Vec<Window>) -> Crew {
    Crew { name: name.into(), trades: vec![trade.into()], works }
}

fn task(id: &str, trade: &str, place: usize, minutes: u32, after: &[usize]) -> Task {
    let after = after.iter().map(|t| After { task: *t, minutes: 0 }).collect();
    Task { id: id.into(), trade: trade.into(), place: Some(place), minutes, after, ..Task::default() }
}

fn instance(crews: Vec<Crew>, places: usize, tasks: Vec<Task>) -> Instance {
    let places = (0..places).map(|p| WorkPlace { name: format!("P{p}"), apart: vec![] }).collect();
    Instance { format: "kame-days".into(), version: 1, crews, places, tasks }
}

fn solved(of: &Instance) -> Calendar {
    assert_eq!(of.problems(), [], "understood");
    solve(of, &Stop::default()).unwrap_or_else(|e| panic!("{e}"))
}

/// Every rule that a calendar has to keep, asked of it one by one.
fn breaks(of: &Instance, c: &Calendar) -> Option<String> {
    let inside = |windows: &[Window], from: u32, to: u32| windows.iter().any(|w| w[0] <= from && to <= w[1]);
    for (i, (t, l)) in of.tasks.iter().zip(&c.laid).enumerate() {
        let crew = &of.crews[l.crew];
        if l.to - l.from != t.minutes || l.from < t.earliest || !crew.trades.contains(&t.trade) {
            return Some(format!("{i}: {l:?}"));
        }
        if !inside(&crew.works, l.from, l.to) || t.open.as_deref().is_some_and(|o| !inside(o, l.from, l.to)) {
            return Some(format!("{i} outside its hours: {l:?}"));
        }
        if let Some(a) = t.after.iter().find(|a| c.laid[a.task].to + a.minutes > l.from) {
            return Some(format!("{i} before {a:?}"));
        }
        for (j, (o, m)) in of.tasks.iter().zip(&c.laid).enumerate().take(i) {
            let meet = l.from < m.to && m.from < l.to;
            let apart =
                |p: usize, q: usize| p == q || of.places[p].apart.contains(&q) || of.places[q].apart.contains(&p);
            let in_the_way = t.place.zip(o.place).is_some_and(|(p, q)| apart(p, q));
            if meet && (l.crew == m.crew || in_the_way) {
                return Some(format!("{i} and {j} at once"));
            }
        }
    }
    let finish = c.laid.iter().map(|l| l.to).max().unwrap_or(0);
    (finish != c.proof.finish || c.proof.bound > finish).then(|| format!("{:?}", c.proof))
}

fn anything(most: usize) -> impl Strategy<Value = Instance> {
    let task = (
        0..2_u8,
        0..3_usize,
        10..200_u32,
        prop::collection::vec((any::<prop::sample::Index>(), 0..300_u32), 0..3),
        0..2_000_u32,
        prop::option::of(0..3_u8),
    );
    (prop::collection::vec(task, 1..most), 1..3_usize, any::<bool>()).prop_map(|(all, crews, apart)| {
        let trades = ["barrier", "window"];
        let mut people: Vec<Crew> =
            (0..crews).map(|n| crew(&format!("B{n}"), "barrier", days(40, &[n as u32 + 1]))).collect();
        people.push(crew("W", "window", days(40, &[5, 6])));
        let tasks = all
            .iter()
            .enumerate()
            .map(|(i, (trade, place, minutes, after, earliest, open))| {
                let after = if i == 0 {
                    vec![]
                } else {
                    after.iter().map(|(at, wait)| After { task: at.index(i), minutes: *wait }).collect()
                };
                // Mornings, afternoons, or dry days alone.
                let open = open.map(|kind| {
                    (0..40)
                        .filter(|d| kind != 2 || d % 3 > 0)
                        .map(|d| match kind {
                            0 => [d * 1440 + 420, d * 1440 + 720],
                            1 => [d * 1440 + 600, d * 1440 + 930],
                            _ => [d * 1440, d * 1440 + 1440],
                        })
                        .collect()
                });
                Task {
                    id: format!("t{i}"),
                    trade: trades[usize::from(*trade)].into(),
                    place: Some(*place),
                    minutes: *minutes,
                    after,
                    earliest: *earliest,
                    open,
                    latest: None,
                }
            })
            .collect();
        let mut of = instance(people, 3, tasks);
        if apart {
            (of.places[0].apart, of.places[1].apart) = (vec![1], vec![0]);
        }
        of
    })
}

/// The earliest end over all orders in which tasks can be laid one after another, each as early as it can.
fn best_of_all(of: &Instance) -> u32 {
    fn earliest(of: &Instance, laid: &[Option<(u32, u32, usize)>], i: usize, crew: usize) -> Option<u32> {
        let t = &of.tasks[i];
        let from =
            t.after.iter().map(|a| laid[a.task].map_or(0, |l| l.1 + a.minutes)).max().unwrap_or(0).max(t.earliest);
        let inside = |windows: &[Window], at: u32| windows.iter().any(|w| w[0] <= at && at + t.minutes <= w[1]);
        let taken = |at: u32| {
            laid.iter().enumerate().any(|(j, l)| {
                l.is_some_and(|(a, b, c)| {
                    let apart = of.tasks[j].place == t.place
                        || t.place.zip(of.tasks[j].place).is_some_and(|(p, q)| of.places[p].apart.contains(&q));
                    at < b && a < at + t.minutes && (c == crew || apart)
                })
            })
        };
        // Every start that can matter: where something ends or a window begins, and those after one another.
        let mut starts: Vec<u32> = vec![from];
        starts.extend(of.crews[crew].works.iter().map(|w| w[0]));
        starts.extend(t.open.iter().flatten().map(|w| w[0]));
        starts.extend(laid.iter().flatten().map(|l| l.1));
        starts.sort_unstable();
        starts.into_iter().filter(|s| *s >= from).find(|s| {
            inside(&of.crews[crew].works, *s) && t.open.as_deref().is_none_or(|o| inside(o, *s)) && !taken(*s)
        })
    }
    fn go(of: &Instance, laid: &mut Vec<Option<(u32, u32, usize)>>, best: &mut u32) {
        let end = laid.iter().flatten().map(|l| l.1).max().unwrap_or(0);
        if end >= *best {
            return;
        }
        if laid.iter().all(Option::is_some) {
            *best = end;
            return;
        }
        for i in 0..of.tasks.len() {
            if laid[i].is_some() || of.tasks[i].after.iter().any(|a| laid[a.task].is_none()) {
                continue;
            }
            for crew in (0..of.crews.len()).filter(|c| of.crews[*c].trades.contains(&of.tasks[i].trade)) {
                if let Some(from) = earliest(of, laid, i, crew) {
                    laid[i] = Some((from, from + of.tasks[i].minutes, crew));
                    go(of, laid, best);
                    laid[i] = None;
                }
            }
        }
    }
    let mut best = u32::MAX;
    go(of, &mut vec![None; of.tasks.len()], &mut best);
    best
}

proptest! {
    #[test]
    fn what_is_laid_keeps_every_rule_and_nothing_beats_the_bound(of in anything(30)) {
        prop_assert_eq!(of.problems(), []);
        let c = solve(&of, &Stop::default()).expect("time enough");
        prop_assert_eq!(breaks(&of, &c), None);
    }

    #[test]
    fn small_ones_are_as_good_as_trying_everything(of in anything(6)) {
        let best = best_of_all(&of);
        let c = solve(&of, &Stop::default()).expect("time enough");
        prop_assert!(c.proof.bound <= best, "bound {} of {best}", c.proof.bound);
        // Said to be the best it is; else it is no more than a day from it.
        prop_assert!(if c.proof.best { c.proof.finish == best } else { c.proof.finish <= best + 1440 }, "{:?} of {best}", c.proof);
    }

    /// Laid anew nothing moves; and where something has to, every rule is kept all the same.
    #[test]
    fn what_was_agreed_on_stays_where_it_can(of in anything(24), late in 0..24_usize, by in 1..5_u32) {
        let first = solve(&of, &Stop::default()).expect("time enough");
        let agreed: Vec<Agreed> = first.laid.iter().map(|l| Some(*l)).collect();
        let again = solve_near(&of, &agreed, Effort::Full, &Stop::default()).expect("time enough");
        let moved = |c: &Calendar| agreed.iter().zip(&c.laid).filter(|(a, l)| is_moved(a, l)).count();
        prop_assert_eq!((moved(&again), breaks(&of, &again)), (0, None));
        prop_assert!(again.proof.finish / 1440 == first.proof.finish / 1440);
        let mut changed = of.clone();
        let i = late % changed.tasks.len();
        changed.tasks[i].earliest = (first.laid[i].from / 1440 + by) * 1440;
        if let Ok(near) = solve_near(&changed, &agreed, Effort::Full, &Stop::default()) {
            prop_assert_eq!(breaks(&changed, &near), None);
            prop_assert!(is_moved(&agreed[i], &near.laid[i]), "what comes later is later");
            // Nothing is done before its day.
            prop_assert!(agreed.iter().zip(&near.laid).all(|(a, l)| a.is_none_or(|a| l.from / 1440 >= a.from / 1440)));
        }
    }

    #[test]
    fn written_and_read_again_it_is_the_same(of in anything(12)) {
        let text = serde_json::to_string(&of).expect("JSON");
        prop_assert_eq!(serde_json::from_str::<Instance>(&text).expect("an instance"), of);
    }
}

#[test]
fn each_rule_can_be_seen_to_bind() {
    let barrier = || vec![crew("A", "barrier", days(9, &[]))];
    let start = |of: &Instance, i: usize| solved(of).laid[i].from;
    let morning = 420;
    // One crew does one thing after another; two do both at once; at one place nobody is in anybody's way.
    let two = |crews: Vec<Crew>, places: [usize; 2]| {
        instance(crews, 2, vec![task("a", "barrier", places[0], 60, &[]), task("b", "barrier", places[1], 60, &[])])
    };
    let pair = || vec![crew("A", "barrier", days(9, &[])), crew("B", "barrier", days(9, &[]))];
    assert_eq!(solved(&two(barrier(), [0, 1])).proof.finish, morning + 120);
    assert_eq!(solved(&two(pair(), [0, 1])).proof.finish, morning + 60);
    assert_eq!(solved(&two(pair(), [0, 0])).proof.finish, morning + 120);
    let mut above = two(pair(), [0, 1]);
    (above.places[0].apart, above.places[1].apart) = (vec![1], vec![0]);
    assert_eq!(solved(&above).proof.finish, morning + 120, "nobody works above another");
    above.places[1].apart.clear();
    assert_eq!(solved(&above).proof.finish, morning + 120, "nor below, whoever of the two says so");
    // A cure, a delivery, rain, a day off, a day that is over.
    let mut one = instance(barrier(), 1, vec![task("a", "barrier", 0, 60, &[]), task("b", "barrier", 0, 60, &[0])]);
    assert_eq!(start(&one, 1), morning + 60);
    one.tasks[1].after[0].minutes = 24 * 60;
    assert_eq!(start(&one, 1), 1440 + morning + 60);
    one.tasks[1].earliest = 4 * 1440;
    assert_eq!(start(&one, 1), 4 * 1440 + morning);
    one.tasks[1].open = Some(vec![[5 * 1440 + 600, 5 * 1440 + 700]]);
    assert_eq!(start(&one, 1), 5 * 1440 + 600);
    one.tasks[1].open = None;
    one.tasks[1].earliest = 0;
    one.crews[0].works = days(9, &[1]);
    assert_eq!(start(&one, 1), 2 * 1440 + morning, "a day off");
    one.tasks[0].minutes = 500;
    one.tasks[1].after[0].minutes = 0;
    assert_eq!(start(&one, 1), 2 * 1440 + morning, "it does not fit into what is left of the day");
    // A deadline goes before an earlier end.
    let mut late =
        instance(barrier(), 2, vec![task("long", "barrier", 0, 300, &[]), task("short", "barrier", 1, 100, &[])]);
    late.tasks[1].latest = Some(morning + 100);
    let c = solved(&late);
    assert_eq!((c.laid[1].from, c.proof.late), (morning, 0));
    late.tasks[1].latest = Some(morning + 50);
    assert_eq!(solved(&late).proof.late, 50, "what cannot be met is said");
    assert!(!solved(&late).proof.best);
}

#[test]
fn what_cannot_be_understood_or_done_is_said() {
    let says = |of: &Instance| {
        of.problems().into_iter().map(|p| format!("{} {}", p.path, p.message)).collect::<Vec<_>>().join("; ")
    };
    let right = instance(
        vec![crew("A", "barrier", days(3, &[]))],
        1,
        vec![task("a", "barrier", 0, 60, &[]), task("b", "barrier", 0, 60, &[0])],
    );
    assert_eq!(says(&right), "");
    let change = |change: &dyn Fn(&mut Instance)| {
        let mut of = right.clone();
        change(&mut of);
        says(&of)
    };
    assert!(change(&|i| i.tasks[0].after = vec![After { task: 1, minutes: 0 }]).contains("in a circle"));
    assert!(change(&|i| i.crews[0].works.clear()).contains("A never works"));
    assert!(change(&|i| i.crews[0].works = vec![[900, 600]]).contains("$.crews[0].works[0]"));
    assert!(
        change(&|i| i.crews[0].works = vec![[600, 900], [800, 1000]]).contains("begins before the one before it ends")
    );
    assert!(change(&|i| i.tasks[0].trade = "roof".into()).contains("nobody does \"roof\""));
    assert!(change(&|i| i.tasks[0].minutes = 0).contains("$.tasks[0].minutes"));
    assert!(change(&|i| i.tasks[1].place = Some(7)).contains("$.tasks[1].place"));
    assert!(change(&|i| i.tasks[1].after = vec![After { task: 1, minutes: 0 }]).contains("$.tasks[1].after"));
    assert!(change(&|i| i.format = "other".into()).contains("expected \"kame-days\""));
    let mut never = right;
    never.tasks[1].minutes = 600;
    let nowhere = solve(&never, &Stop::default()).expect_err("no day is so long");
    assert_eq!(
        nowhere.to_string(),
        "b finds no 600 min in a row from minute 480 on in which a crew works and it can be done"
    );
}

/// Hours of one kind of weather, from midnight of the first day on; rain in some of them.
pub fn hours(days: u32, air_f: f64, rains: impl Fn(u32) -> bool) -> Vec<Hour> {
    let hour = |n: u32| Hour {
        minute: n * 60,
        air_f,
        dew_f: air_f - 20.0,
        rain_in: if rains(n) { 0.1 } else { 0.0 },
        wind_mph: 5.0,
        direct_wm2: 0.0,
        diffuse_wm2: 50.0,
    };
    (0..days * 24).map(hour).collect()
}

pub(crate) fn laid(site: &SiteSpec, hours: &[Hour]) -> Result<Booking, String> {
    let text = include_str!("../../../../demo/heron-spit-four-openings.kame.json");
    let plan = build(&read_job(text.as_bytes()).expect("the demo")).expect("a plan");
    let asked = CalendarQuestion { plan: &plan, site, hours, states: &[] };
    book(&asked, &KnownNights::default(), &Stop::default()).map_err(|p| format!("{} {}", p[0].path, p[0].message))
}

/// A Monday.
pub(crate) fn site() -> SiteSpec {
    SiteSpec::usual("2026-03-02")
}

#[test]
fn steps_of_a_wall_follow_the_sun_the_rain_and_what_comes_and_each_says_why() {
    let dry = laid(&site(), &hours(14, 60.0, |_| false)).expect("laid");
    let day = |t: &Booked| t.from / 1440;
    let of = |b: &Booking, step: &str| {
        b.tasks.iter().find(|t| t.step == step).unwrap_or_else(|| panic!("no {step}")).clone()
    };
    assert!(dry.proof.best && dry.tasks.iter().all(|t| day(t) == 0), "{}", dry.says);
    assert!(dry.says.starts_with("Done Mon 2 Mar, ") && dry.says.ends_with("proved best."), "{}", dry.says);
    // Rain until Wednesday noon: what sticks waits until it has dried, and says so.
    let wet = laid(&site(), &hours(14, 60.0, |n| n < 60)).expect("laid");
    let pan = of(&wet, "W1/pan");
    assert!(pan.from >= 62 * 60 && day(&pan) == 2, "{pan:?}");
    assert!(
        wet.tasks.iter().any(|t| t.why.contains("Wet: wipe and dry it") || t.why.contains("Rain in")),
        "{:?}",
        wet.tasks.iter().map(|t| &t.why).collect::<Vec<_>>()
    );
    assert!(day(&of(&wet, "W1/survey")) == 0, "measuring does not wait for the sun");
    // Cold: nothing that sticks is ever done, and that is said with what would help.
    let cold = laid(&site(), &hours(300, -10.0, |_| false)).expect_err("too cold");
    assert!(cold.starts_with("$.site") && cold.contains("a product that bears more cold"), "{cold}");
    // The door comes next week.
    let late = SiteSpec { deliveries: vec![Delivery { what: "D1".into(), on: "2026-03-11".into() }], ..site() };
    let b = laid(&late, &[]).expect("laid");
    let set = of(&b, "D1/set");
    assert_eq!((day(&set), set.why.as_str()), (9, "Comes on Wed 11 Mar, 0:00."), "{set:?}");
    // Nights until then the open door is covered.
    let first = b.nights.first().expect("a night");
    assert!(first.put.iter().any(|p| p.starts_with("Cover Store door")), "{first:?}");
    assert_eq!(b.nights.last().map(|e| e.day), Some(9));
    // Another crew that does not come on the first day, and one that does only windows.
    let crew = |name: &str, trades: &[Trade], off: &[&str]| CrewSpec {
        name: name.into(),
        trades: trades.to_vec(),
        off: off.iter().map(|d| (*d).to_owned()).collect(),
        ..site().crews[0].clone()
    };
    let two = SiteSpec {
        crews: vec![
            crew("A", &[Trade::Lead, Trade::Barrier, Trade::Cladding], &[]),
            crew("B", &[Trade::Window], &["2026-03-02"]),
        ],
        ..site()
    };
    let b = laid(&two, &[]).expect("laid");
    assert!(b.tasks.iter().all(|t| (t.trade == Trade::Window) == (t.crew == 1)));
    assert_eq!(day(&of(&b, "W1/set")), 1, "the window crew is off on Monday");
    let nobody = SiteSpec { crews: vec![crew("A", &[Trade::Barrier], &[])], ..site() };
    assert!(laid(&nobody, &[]).expect_err("nobody measures").contains("needs a crew that does"));
    for (wrong, why) in [
        (SiteSpec { from: "2026-02-30".into(), ..site() }, "$.site.from"),
        (SiteSpec { crews: vec![], ..site() }, "$.site.crews"),
        (
            SiteSpec { crews: vec![CrewSpec { hours: [9.0, 9.5], ..site().crews[0].clone() }], ..site() },
            "give them an hour at least",
        ),
        (
            SiteSpec { deliveries: vec![Delivery { what: "D1".into(), on: "soon".into() }], ..site() },
            "$.site.deliveries[0].on",
        ),
    ] {
        let says = laid(&wrong, &[]).expect_err("refused");
        assert!(says.contains(why), "{says}");
    }
}

#[test]
fn what_is_done_is_not_laid_again_and_a_damaged_unit_waits_for_another() {
    let text = include_str!("../../../../demo/heron-spit-four-openings.kame.json");
    let plan = build(&read_job(text.as_bytes()).expect("the demo")).expect("a plan");
    let event = |n: u64, step: &str, what: What| {
        let e = Event {
            id: format!("01936f00-0000-7000-8000-{n:012x}"),
            who: "Ada".into(),
            at: "2026-03-02T07:00:00Z".into(),
            place: "W3".into(),
            step: step.into(),
            revision: 1,
            what,
            note: String::new(),
            photos: vec![],
        };
        seal(None, "2026-03-02T07:00:01Z", e)
    };
    let check = checks_of(&plan)
        .expect("checks")
        .into_iter()
        .find(|c| c.opening == "W3" && c.check == "unit-whole")
        .expect("a check");
    let entries =
        [event(1, "W1/survey", What::Done), event(2, &check.step, What::Looked { check: check.id, good: false })];
    let states = states(&plan, &entries);
    let of = |site: &SiteSpec| {
        book(
            &CalendarQuestion { plan: &plan, site, hours: &[], states: &states },
            &KnownNights::default(),
            &Stop::default(),
        )
        .expect("laid")
    };
    let b = of(&site());
    assert!(b.tasks.iter().all(|t| t.step != "W1/survey" && t.place != "W3"));
    assert_eq!(b.warns, ["W3 waits for another unit: say on which day it comes."]);
    let late = SiteSpec { deliveries: vec![Delivery { what: "W3".into(), on: "2026-03-09".into() }], ..site() };
    let b = of(&late);
    assert!(b.warns.is_empty() && b.tasks.iter().filter(|t| t.place == "W3").all(|t| t.from >= 7 * 1440));
}

#[test]
fn the_sun_stands_where_it_does_and_warms_the_wall_it_shines_on() {
    let at = Standpoint { latitude: 45.5, longitude: -123.9, utc_hours: -8.0, facing: 270.0 };
    // Noon by the sun at the equinox: 90 − 45.5 degrees up, in the south; 123.9 degrees west are 15.6 min behind the time zone's meridian.
    let (up, round) = sun("2026-03-20", 12 * 60 + 16 + 7, &at).expect("a day");
    assert!((up - 44.5).abs() < 0.6 && (round - 180.0).abs() < 2.0, "{up} {round}");
    let (morning, east) = sun("2026-03-20", 8 * 60, &at).expect("a day");
    assert!((10.0..30.0).contains(&morning) && (90.0..130.0).contains(&east), "{morning} {east}");
    assert!(sun("2026-03-20", 0, &at).is_some_and(|(up, _)| up < -30.0));
    let bright = Hour { air_f: 50.0, direct_wm2: 700.0, diffuse_wm2: 100.0, ..Hour::default() };
    let afternoon = Some((30.0, 260.0));
    let west = surface_f(&bright, afternoon, 270.0);
    let east = surface_f(&bright, afternoon, 90.0);
    // 0.6 (700 cos 30 cos 10 + 50) / 5.7 K above the air, without wind.
    let wanted = 50.0 + 0.6 * (700.0 * 30.0_f64.to_radians().cos() * 10.0_f64.to_radians().cos() + 50.0) / 5.7 * 1.8;
    assert!((west - wanted).abs() < 1e-9 && (east - (50.0 + 0.6 * 50.0 / 5.7 * 1.8)).abs() < 1e-9, "{west} {east}");
    let windy = Hour { wind_mph: 20.0, ..bright };
    assert!(surface_f(&windy, afternoon, 270.0) < west - 50.0);
    assert!((humidity(60.0, 60.0) - 100.0).abs() < 1e-9 && humidity(60.0, 40.0) < 50.0);
}

/// A calendar as it is agreed on.
fn kept(b: &Booking) -> KeptPlan {
    let mut parts: std::collections::BTreeMap<&str, Vec<&Booked>> = std::collections::BTreeMap::new();
    for t in &b.tasks {
        parts.entry(&t.step).or_default().push(t);
    }
    let of = |(step, parts): (&str, Vec<&Booked>)| {
        let many = parts.len() > 1;
        let name = move |n: usize| if many { format!("{step} {}", n + 1) } else { step.to_owned() };
        parts.into_iter().enumerate().map(|(n, t)| (name(n), [t.crew as u32, t.from])).collect::<Vec<_>>()
    };
    let tasks = parts.into_iter().flat_map(of).collect();
    KeptPlan { from: b.from.clone(), crews: b.crews.clone(), tasks, forecast: b.forecast.clone() }
}

#[test]
fn visits_are_waited_for_and_told_where_they_come_too_early() {
    let visit = |on: &str, before, place: Option<&str>| Visit {
        name: "the inspector".into(),
        on: on.into(),
        before,
        place: place.map(Into::into),
    };
    let with = |v: Visit| laid(&SiteSpec { visits: vec![v], ..site() }, &[]).expect("laid");
    let b = with(visit("2026-03-05", Phase::Flashing, Some("W1")));
    let first = |b: &Booking, place: &str, late: bool| {
        let flashing = |t: &&Booked| t.place == place && ["jambs", "head"].iter().any(|s| t.step.ends_with(s)) == late;
        b.tasks.iter().filter(flashing).map(|t| t.from / 1440).min().expect("a task")
    };
    assert_eq!((first(&b, "W1", false), first(&b, "W1", true), first(&b, "W2", true)), (0, 4, 0), "{}", b.says);
    let waits = b.tasks.iter().find(|t| t.step == "W1/jambs").expect("a task");
    assert_eq!(waits.why, "Waits for the inspector, on 2026-03-05.");
    assert!(b.warns.is_empty(), "{:?}", b.warns);
    // Before the first day is over nothing is ready.
    let early = SiteSpec {
        visits: vec![visit("2026-03-02", Phase::Flashing, None)],
        deliveries: vec![Delivery { what: "D1".into(), on: "2026-03-11".into() }],
        ..site()
    };
    let b = laid(&early, &[]).expect("laid");
    assert!(
        b.warns
            .iter()
            .any(|w| w.starts_with("the inspector comes on 2026-03-02, before") && w.ends_with("ask for another day.")),
        "{:?}",
        b.warns
    );
}

#[test]
fn pins_hold_and_what_cannot_be_pinned_is_told() {
    let pin = |step: &str, on: &str| Pin { step: step.into(), on: on.into() };
    let b = laid(&SiteSpec { pins: vec![pin("W2/set", "2026-03-04")], ..site() }, &[]).expect("laid");
    let set = b.tasks.iter().find(|t| t.step == "W2/set").expect("a task");
    assert_eq!((set.from / 1440, set.why.as_str()), (2, "Pinned to 2026-03-04."));
    assert!(b.warns.is_empty(), "{:?}", b.warns);
    // The door is not there yet on the day it is pinned to.
    let late = SiteSpec {
        pins: vec![pin("D1/set", "2026-03-04")],
        deliveries: vec![Delivery { what: "D1".into(), on: "2026-03-11".into() }],
        ..site()
    };
    let b = laid(&late, &[]).expect("laid");
    assert!(b.warns.iter().any(|w| w.contains("cannot be done on 2026-03-04")), "{:?}", b.warns);
    let gone = laid(&SiteSpec { pins: vec![pin("W9/set", "2026-03-04")], ..site() }, &[]).expect("laid");
    assert!(gone.warns.iter().any(|w| w.contains("take the pin out")), "{:?}", gone.warns);
    for (pins, why) in [
        (vec![pin("W2/set", "soon")], "$.site.pins[0].on"),
        (vec![pin("W2/set", "2026-03-04"), pin("W2/set", "2026-03-05")], "pinned twice"),
    ] {
        let says = laid(&SiteSpec { pins, ..site() }, &[]).expect_err("refused");
        assert!(says.contains(why), "{says}");
    }
}

#[test]
fn a_later_delivery_moves_what_waits_for_it_and_nothing_else() {
    let two = SiteSpec {
        crews: vec![
            CrewSpec { name: "A".into(), ..site().crews[0].clone() },
            CrewSpec { name: "B".into(), people: 1, ..site().crews[0].clone() },
        ],
        ..site()
    };
    let first = laid(&two, &[]).expect("laid");
    assert!(!first.kept && first.moved.is_empty());
    let agreed = SiteSpec { kept: Some(kept(&first)), ..two };
    let again = laid(&agreed, &[]).expect("laid");
    assert!(again.kept && again.moved.is_empty(), "{:?}", again.moved);
    let later =
        SiteSpec { deliveries: vec![Delivery { what: "D1".into(), on: "2026-03-11".into() }], ..agreed.clone() };
    let b = laid(&later, &[]).expect("laid");
    let set = b.moved.iter().find(|m| m.step == "D1/set").expect("moved");
    assert!(set.from / 1440 == 9 && set.was / 1440 == 0 && set.why.starts_with("Comes on Wed 11 Mar"), "{set:?}");
    assert!(
        b.moved.iter().all(|m| m.place == "D1" || m.place.is_empty()),
        "only the door, and what goes over it: {:?}",
        b.moved
    );
    // A crew that is gone has agreed on nothing; the days move with the first one.
    let alone = SiteSpec { crews: vec![agreed.crews[0].clone()], from: "2026-03-03".into(), ..agreed };
    let b = laid(&alone, &[]).expect("laid");
    assert!(b.tasks.iter().all(|t| t.crew == 0));
    let odd = SiteSpec {
        kept: Some(KeptPlan {
            from: "2026-03-02".into(),
            crews: vec!["A".into()],
            tasks: [("W1/set".to_owned(), [7, 0])].into(),
            forecast: Vec::new(),
        }),
        ..site()
    };
    assert!(laid(&odd, &[]).expect_err("refused").contains("expected one of its crews"));
}

#[test]
fn minutes_really_taken_are_learnt_from_what_was_written_down_one_after_another() {
    let text = include_str!("../../../../demo/heron-spit-four-openings.kame.json");
    let plan = build(&read_job(text.as_bytes()).expect("the demo")).expect("a plan");
    let minutes = kame_core::takeoff::step_minutes(&plan);
    let timed: Vec<kame_core::trade::StepId> =
        plan.order.iter().copied().filter(|s| minutes[*s] > 0.0).take(9).collect();
    let mut entries: Vec<kame_core::record::Entry> = Vec::new();
    let mut add = |n: u64, who: &str, at: String, step: &str, what: What| {
        let event = Event {
            id: format!("01936f00-0000-7000-8000-{n:012x}"),
            who: who.into(),
            at,
            place: String::new(),
            step: step.into(),
            revision: 1,
            what,
            note: String::new(),
            photos: Vec::new(),
        };
        let entry = seal(entries.last(), "2026-03-05T00:00:00Z", event);
        entries.push(entry);
    };
    // Ada takes twice as long as the profile says, to the minute; a night and a long lunch are no work, and Bo says nothing between.
    let (mut at, mut n) = (7 * 60, 1);
    let clock = |day: u32, minute: u32| format!("2026-03-0{day}T{:02}:{:02}:00Z", minute / 60, minute % 60);
    add(n, "Ada", clock(2, at), "", What::Begun);
    let mut taken = 0.0;
    for s in &timed {
        n += 1;
        let minute = (2.0 * minutes[*s]).round().max(1.0) as u32;
        at += minute;
        // What is read just before belongs to the step.
        add(100 + n, "Ada", clock(2, at - 1), &plan.steps[*s].id, What::Noted);
        if minute <= 180 {
            taken += f64::from(minute);
        }
        add(n, "Ada", clock(2, at), &plan.steps[*s].id, What::Done);
    }
    add(50, "Ada", clock(3, 7 * 60), &plan.steps[timed[0]].id, What::Done);
    add(51, "Bo", clock(3, 8 * 60), &plan.steps[timed[1]].id, What::Done);
    add(52, "Bo", clock(3, 13 * 60), &plan.steps[timed[2]].id, What::Done);
    let l = learnt(&plan, &entries);
    let all = l.all.expect("enough of them");
    assert_eq!((all.taken, l.people.len(), l.people[0].of.as_str()), (taken, 1, "Ada"));
    assert!((all.factor - 2.0).abs() < 0.2, "{all:?}");
    assert_eq!(l.kinds.iter().map(|k| k.steps).sum::<usize>(), all.steps);
    let offer = l.offer.expect("a figure");
    assert_eq!(
        (offer.figure.as_str(), offer.now.as_str(), offer.offered),
        ("exposure_factor", "1", format!("{:.2}", all.factor))
    );
    // Too few say nothing.
    let few = learnt(&plan, &entries[..3]);
    assert!(few.all.is_none() && few.offer.is_none());
}

#[test]
fn the_forecast_is_kept_with_what_was_agreed_on_and_what_is_otherwise_since_is_told() {
    let dry = hours(30, 50.0, |_| false);
    let b = laid(&site(), &dry).expect("laid");
    assert!(b.changed.is_empty() && b.forecast.len() as u32 == b.proof.finish / 1440 + 3, "{:?}", b.forecast);
    let first = &b.forecast[0];
    assert_eq!((first.on.as_str(), first.rain_in, first.least_f, first.wind_mph), ("2026-03-02", 0.0, 50.0, 5.0));
    let agreed = SiteSpec { kept: Some(kept(&b)), ..site() };
    assert!(laid(&agreed, &dry).expect("laid").changed.is_empty());
    // Three hours of rain on Tuesday, and frost from the first day on.
    let wet = laid(&agreed, &hours(30, 50.0, |n| (30..33).contains(&n))).expect("laid");
    assert_eq!(wet.changed, ["Tue 3 Mar: 0.30 in of rain, where 0.00 was forecast."]);
    let colder = laid(&agreed, &hours(30, 41.0, |_| false)).expect("laid");
    assert!(colder.changed[0].contains("41 to 41 °F, where 50 to 50 was forecast"), "{:?}", colder.changed);
    assert_eq!(colder.changed.len(), b.forecast.len());
    // What is no weather is refused.
    let mut odd = agreed;
    odd.kept.as_mut().expect("kept").forecast[0].rain_in = f64::NAN;
    assert!(laid(&odd, &dry).expect_err("refused").contains("$.site.kept.forecast"));
}

#[test]
fn at_each_hour_stands_what_is_on_record_and_what_is_over_by_then() {
    let text = include_str!("../../../../demo/heron-spit-four-openings.kame.json");
    let job = read_job(text.as_bytes()).expect("the demo");
    let plan = build(&job).expect("a plan");
    // The first two steps of the wall are on record.
    let first: Vec<&str> = plan.order.iter().take(2).map(|s| plan.steps[*s].id.as_str()).collect();
    let mut entries = Vec::new();
    for (n, step) in first.iter().enumerate() {
        let event = Event {
            id: format!("01936f00-0000-7000-8000-{n:012x}"),
            who: "Ada".into(),
            at: "2026-03-01T09:00:00Z".into(),
            place: String::new(),
            step: (*step).into(),
            revision: 1,
            what: What::Done,
            note: String::new(),
            photos: Vec::new(),
        };
        let entry = seal(entries.last(), "2026-03-01T09:00:01Z", event);
        entries.push(entry);
    }
    let done = states(&plan, &entries);
    let site = site();
    let asked = CalendarQuestion { plan: &plan, site: &site, hours: &[], states: &done };
    let booking = book(&asked, &KnownNights::default(), &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"));
    let end = |id: &str| booking.tasks.iter().filter(|t| t.step == id).map(|t| t.to).max();
    let mut last = 0;
    for minute in (0..=booking.proof.finish).step_by(30).chain([booking.proof.finish]) {
        let (sequence, actions) = at_minute(&plan, &job.sequence, &entries, &booking.tasks, minute);
        assert!(actions >= last, "{minute}: nothing is undone");
        last = actions;
        let mut then = plan.clone();
        then.put_in_order(&sequence);
        assert_eq!(then.order.len(), plan.order.len());
        let stands: HashSet<&str> = then.actions().take(actions).map(|(s, _)| then.steps[s].id.as_str()).collect();
        for (s, _) in then.actions() {
            let id = then.steps[s].id.as_str();
            if let Some(end) = end(id) {
                assert_eq!(stands.contains(id), end <= minute, "{id} at {minute}");
            } else if first.contains(&id) {
                assert!(stands.contains(id), "{id} is on record");
            }
        }
    }
    assert_eq!(last, plan.actions().count(), "at the end all of it stands");
}

#[test]
fn at_the_equator_the_sun_rises_at_six_and_twilight_is_a_fifteenth_of_an_hour_a_degree() {
    let stands = Standpoint { latitude: 0.0, longitude: 0.0, utc_hours: 0.0, facing: 0.0 };
    let site = SiteSpec { stands, ..SiteSpec::usual("2026-03-20") };
    let (sun, civil) = (daylight(&site, 0, 0.0), daylight(&site, 0, 6.0));
    // The clock is 7 min ahead of the sun in March.
    assert!(sun[0].abs_diff(367) <= 2 && sun[1].abs_diff(18 * 60 + 7) <= 2, "{sun:?}");
    assert!((sun[0] - civil[0]).abs_diff(24) <= 1 && (civil[1] - sun[1]).abs_diff(24) <= 1, "{sun:?} {civil:?}");
    let winter = SiteSpec::usual("2026-12-01");
    let june = SiteSpec::usual("2026-06-01");
    for day in 0..20 {
        let [dawn, dusk] = daylight(&winter, day, 6.0);
        let [early, late] = daylight(&june, day, 6.0);
        assert!(day * 1440 < dawn && dawn < dusk && dusk < (day + 1) * 1440);
        assert!(late - early > dusk - dawn + 5 * 60, "June's days are hours longer: {day}");
    }
}

#[test]
fn nobody_works_in_the_dark_and_who_waits_for_light_says_so() {
    let mut site = SiteSpec::usual("2026-12-07");
    site.crews[0].hours = [6.0, 18.0];
    let light = laid(&site, &[]).expect("laid");
    for t in &light.tasks {
        let [dawn, dusk] = daylight(&site, t.from / 1440, 6.0);
        assert!(dawn <= t.from && t.to <= dusk, "{t:?}");
    }
    assert!(light.tasks.iter().any(|t| t.why.starts_with("It is dark until ")), "{:?}", light.tasks);
    let lamps = laid(&SiteSpec { daylight: false, ..site.clone() }, &[]).expect("laid");
    assert_eq!(lamps.tasks[0].from, 6 * 60);
    assert!(lamps.proof.finish < light.proof.finish);
}

#[test]
fn what_is_asked_for_by_a_day_comes_first_or_is_told_with_the_smallest_change_that_would_meet_it() {
    let end_of =
        |b: &Booking, place: &str| b.tasks.iter().filter(|t| t.place == place).map(|t| t.to).max().expect("tasks");
    let deadline = |on: &str, place: Option<&str>| Deadline {
        name: "The inspector".into(),
        on: on.into(),
        until: None,
        place: place.map(Into::into),
    };
    let mut site = site();
    (site.crews[0].people, site.crews[0].hours) = (1, [7.0, 10.0]);
    let free = laid(&site, &[]).expect("laid");
    // Of the openings, whichever would be done last is asked for first.
    let places: HashSet<&str> = free.tasks.iter().map(|t| t.place.as_str()).filter(|p| !p.is_empty()).collect();
    let last = places.iter().copied().max_by_key(|p| end_of(&free, p)).expect("openings").to_owned();
    let first = places.iter().copied().map(|p| end_of(&free, p)).min().expect("openings");
    let day = |minute: u32| {
        kame_core::date::day_text(
            kame_core::date::day_number("2026-03-02").expect("a day") + i64::from((minute - 1) / 1440),
        )
    };
    assert!(day(first) < day(end_of(&free, &last)), "it takes some days");
    site.deadlines = vec![deadline(&day(first), Some(&last))];
    let asked = laid(&site, &[]).expect("laid");
    assert!(end_of(&asked, &last) < end_of(&free, &last), "it comes sooner");
    // All of it on the first day: it is told, and what would meet it does.
    site.deadlines = vec![deadline("2026-03-02", None)];
    let missed = laid(&site, &[]).expect("laid");
    assert!(missed.proof.late > 0);
    let told = |b: &Booking, what: &str| b.warns.iter().any(|w| w.contains(what));
    assert!(
        told(&missed, "The inspector is asked for by 2026-03-02") && told(&missed, "ask for another day"),
        "{:?}",
        missed.warns
    );
    // A day before the end an hour more or a weekend is enough, and laid so it is met.
    let finish = free.proof.finish;
    site.deadlines = vec![deadline(&day(finish - 1440), None)];
    let near = laid(&site, &[]).expect("laid");
    if near.proof.late > 0 {
        assert!(
            told(&near, "would be met with an hour more each day") || told(&near, "would be met with"),
            "{:?}",
            near.warns
        );
        site.crews.push(CrewSpec { name: "Crew 2".into(), ..site.crews[0].clone() });
        site.crews.iter_mut().for_each(|c| (c.hours[1], c.weekends) = (19.0, true));
        let met = laid(&site, &[]).expect("laid");
        assert!(met.proof.late == 0 && !told(&met, "is asked for by"), "{:?}", met.warns);
    }
    // What comes after the day is named.
    let comes = vec![Delivery { what: "W1".into(), on: "2026-03-09".into() }];
    let after = SiteSpec { deliveries: comes, deadlines: vec![deadline("2026-03-05", Some("W1"))], ..site.clone() };
    assert!(told(&laid(&after, &[]).expect("laid"), "W1 comes on 2026-03-09: ask for it sooner"));
    let gone = SiteSpec { deadlines: vec![deadline("2026-03-05", Some("W99"))], ..site.clone() };
    assert!(told(&laid(&gone, &[]).expect("laid"), "at W99, which is not on the walls"));
    let odd = SiteSpec { deadlines: vec![deadline("soon", None)], ..site };
    assert!(laid(&odd, &[]).expect_err("refused").contains("$.site.deadlines[0].on"));
}
