//! Walls as places of the calendar: who is where at the same time.

use crate::calendar::site;
use kame_core::calendar::{Booked, Booking, CalendarQuestion, book};
use kame_core::job::{CornerKind, CornerSpec, CrewSpec, Job, SiteSpec};
use kame_core::length::Length;
use kame_core::nights::KnownNights;
use kame_core::plan::build;
use kame_core::stop::Stop;

#[test]
fn walls_hung_differently_are_worked_at_by_two_crews_at_once_and_what_runs_round_a_corner_by_nobody_beside_it() {
    let hung = |second: Option<&str>| {
        let mut job = Job::new("corner");
        job.openings.clear();
        (job.wall.width, job.wall.height) = (Length::inch(600), Length::inch(120));
        let schools = second.map(|b| [("barrier".to_owned(), b.to_owned())].into_iter().collect()).unwrap_or_default();
        let (kind, name, products) = (CornerKind::Outside, "East wall".to_owned(), Default::default());
        job.wall.corners = vec![CornerSpec { at: Length::inch(300), kind, name, schools, products }];
        let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
        let crew = |name: &str| CrewSpec { name: name.into(), ..site().crews[0].clone() };
        let site = SiteSpec { crews: vec![crew("A"), crew("B")], ..site() };
        let asked = CalendarQuestion { plan: &plan, site: &site, hours: &[], states: &[] };
        book(&asked, &KnownNights::default(), &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"))
    };
    let meet = |b: &Booking, apart: &dyn Fn(&Booked, &Booked) -> bool| {
        let pairs = b.tasks.iter().enumerate().flat_map(|(i, t)| b.tasks[..i].iter().map(move |o| (t, o)));
        pairs.filter(|(t, o)| apart(t, o) && t.from < o.to && o.from < t.to).count()
    };
    // Two barriers: each wall has tasks of its own, and crews are at both at the same time.
    let two = hung(Some("panel"));
    assert!([Some(0), Some(1)].iter().all(|w| two.tasks.iter().any(|t| t.wall == *w)), "{:?}", two.tasks);
    assert!(meet(&two, &|t, o| t.wall.zip(o.wall).is_some_and(|(a, b)| a != b)) > 0, "both walls at once");
    assert_eq!(meet(&two, &|t, o| t.wall == o.wall || t.wall.is_none() || o.wall.is_none()), 0, "one crew at a wall");
    // One barrier round the corner: its courses are at both walls, and nobody works beside them.
    let one = hung(None);
    let course = one.tasks.iter().find(|t| t.title.starts_with("Course 1")).expect("a course");
    assert_eq!((course.wall, meet(&one, &|_, _| true)), (None, 0));
}
