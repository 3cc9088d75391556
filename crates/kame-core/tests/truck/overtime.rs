//! Overtime where work is late, and what crews work and cost.

use crate::calendar::{laid, site};
use kame_core::calendar::{Booked, Booking};
use kame_core::job::{CrewSpec, Deadline};

#[test]
fn crews_stay_longer_only_where_work_is_late_and_what_they_work_is_counted_and_paid() {
    let mut site = site();
    (site.crews[0].people, site.crews[0].hours, site.crews[0].rate) = (2, [7.0, 10.0], Some(40.0));
    let usual = laid(&site, &[]).expect("laid");
    let worked = |b: &Booking| -> (u32, u32) {
        let beyond = |t: &Booked| t.to.saturating_sub((t.from / 1440 * 1440 + 600).max(t.from));
        (b.tasks.iter().map(|t| t.to - t.from).sum(), b.tasks.iter().map(beyond).sum())
    };
    // All people's hours, and nobody stays longer without need.
    let tenths = |minutes: u32| (f64::from(minutes) / 60.0 * 2.0 * 10.0).round() / 10.0;
    let (all, beyond) = worked(&usual);
    assert_eq!((beyond, usual.hours[0].hours), (0, tenths(all)));
    site.crews[0].overtime = 2.0;
    assert_eq!(laid(&site, &[]).expect("laid").tasks, usual.tasks, "nothing is late");
    // A day sooner than it ends: they stay longer, no longer than they may, and on as few of the first days as that takes.
    let day = |minute: u32| {
        kame_core::date::day_text(kame_core::date::day_number("2026-03-02").expect("a day") + i64::from(minute / 1440))
    };
    let by = usual.proof.finish - 1440;
    let deadline = Deadline { name: "The scaffold".into(), on: day(by), until: None, place: None };
    site.deadlines = vec![deadline];
    let longer = laid(&site, &[]).expect("laid");
    let last = longer.tasks.iter().map(|t| t.to).max().expect("tasks");
    assert!(last / 1440 <= by / 1440, "it is done by then: {}", longer.says);
    assert!(longer.tasks.iter().all(|t| t.to % 1440 <= 12 * 60), "two hours at most");
    assert!(
        worked(&longer).1 > 0 && longer.warns.iter().any(|w| w.starts_with("Crew stay longer, ")),
        "{:?}",
        longer.warns
    );
    let h = &longer.hours[0];
    assert!(h.overtime > 0.0 && h.overtime < h.hours, "{h:?}");
    // An hour beyond the day is paid half as much again.
    let cost = h.cost.expect("a rate");
    assert!((cost - (h.hours + h.overtime * 0.5) * 40.0).abs() <= 40.0 * 0.1, "{h:?}");
    // Without a rate nobody says what it costs, unless the profile does.
    site.crews[0].rate = None;
    assert_eq!(laid(&site, &[]).expect("laid").hours[0].cost, None);
    let odd = |change: fn(&mut CrewSpec)| {
        let mut site = site.clone();
        change(&mut site.crews[0]);
        laid(&site, &[]).expect_err("refused")
    };
    assert!(odd(|c| c.overtime = 9.0).contains("$.site.crews[0].overtime"));
    assert!(odd(|c| c.overtime = f64::NAN).contains("$.site.crews[0].overtime"));
    assert!(odd(|c| c.rate = Some(-1.0)).contains("$.site.crews[0].rate"));
}
