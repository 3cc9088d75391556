//! Walls as places of the calendar: who is where at the same time.

use crate::calendar::{hours, site};
use kame_core::calendar::{Booked, Booking, CalendarQuestion, book};
use kame_core::job::{CornerKind, CornerSpec, CrewSpec, Job, OpeningSpec, SiteSpec};
use kame_core::length::Length;
use kame_core::nights::{KnownNights, NightState};
use kame_core::plan::{Plan, SurfaceId, build};
use kame_core::stop::Stop;

/// A wall of that length that turns into another one, which has a barrier of its own where one is named.
fn turning(at: i64, second: Option<&str>) -> Job {
    let mut job = Job::new("corner");
    (job.wall.width, job.wall.height) = (Length::inch(600), Length::inch(120));
    let schools = second.map(|b| [("barrier".to_owned(), b.to_owned())].into_iter().collect()).unwrap_or_default();
    let (kind, name, products) = (CornerKind::Outside, "East wall".to_owned(), Default::default());
    job.wall.corners = vec![CornerSpec { at: Length::inch(at), kind, name, schools, products }];
    job
}

/// The plan of two crews alike.
fn by_two_crews(plan: &Plan) -> Booking {
    let crew = |name: &str| CrewSpec { name: name.into(), ..site().crews[0].clone() };
    let site = SiteSpec { crews: vec![crew("A"), crew("B")], ..site() };
    let asked = CalendarQuestion { plan, site: &site, hours: &[], states: &[] };
    book(&asked, &KnownNights::default(), &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"))
}

#[test]
fn walls_hung_differently_are_worked_at_by_two_crews_at_once_and_what_runs_round_a_corner_by_nobody_beside_it() {
    let hung = |second: Option<&str>| {
        let mut job = turning(300, second);
        job.openings.clear();
        by_two_crews(&build(&job).unwrap_or_else(|p| panic!("{p:?}")))
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

#[test]
fn a_window_at_a_corner_waits_for_what_lies_behind_it_on_both_walls() {
    let mut job = turning(500, Some("panel"));
    job.openings[0].left = Length::inch(502);
    let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
    let laid = by_two_crews(&plan);
    let (hull, corner) = (plan.openings[0].hull, Length::inch(500));
    assert!(hull.u0 < corner && corner < hull.u1, "its flashings reach past the corner: {hull:?}");
    // What is hung there before anything is done at the window, wall by wall.
    let place = |step: &str| plan.order.iter().position(|s| plan.steps[*s].id == step).expect("planned");
    let behind = |t: &Booked| {
        let step = &plan.steps[plan.order[place(&t.step)]];
        let pieces = step.actions.iter().filter_map(|a| a.act.placed()).map(|p| &plan.pieces[p]);
        let mut regions = pieces.flat_map(|p| &p.regions);
        t.place.is_empty() && regions.any(|(on, r)| *on == SurfaceId::WALL && r.overlaps(hull))
    };
    let mut waited = [0, 0];
    for at_window in laid.tasks.iter().filter(|t| t.place == "W1") {
        for t in laid.tasks.iter().filter(|t| behind(t) && place(&t.step) < place(&at_window.step)) {
            assert!(t.to <= at_window.from, "{} before {} is done", at_window.title, t.title);
            t.wall.into_iter().for_each(|w| waited[w] += 1);
        }
    }
    assert!(waited.iter().all(|n| *n > 0), "on both walls: {waited:?}");
}

#[test]
fn a_wall_that_would_stand_bare_in_the_rain_is_hung_before_it() {
    let mut job = turning(300, Some("panel"));
    let like = job.openings[0].clone();
    for n in 2..5 {
        let (id, left) = (format!("W{n}"), like.left + Length::inch(60 * (n - 1)));
        job.openings.push(OpeningSpec { name: id.clone(), id, left, ..like.clone() });
    }
    let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
    // Two hours a day: the windows of one wall keep its crew for days, while nobody waits for the other.
    let crew = CrewSpec { hours: [8.0, 10.0], ..site().crews[0].clone() };
    let site = SiteSpec { crews: vec![crew], ..site() };
    let laid = |rainy: Option<u32>| {
        let weather = hours(60, 60.0, |h| rainy.is_some_and(|day| h / 24 == day && h % 24 >= 22));
        let asked = CalendarQuestion { plan: &plan, site: &site, hours: &weather, states: &[] };
        book(&asked, &KnownNights::default(), &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"))
    };
    let on = |b: &Booking, day: u32| b.nights.iter().find(|n| n.day == day).map(|n| n.state);
    let dry = laid(None);
    let last = dry.nights.iter().filter(|n| n.state == NightState::Bare).map(|n| n.day).max().expect("begun bare");
    let rained_on = laid(Some(last));
    assert_ne!(on(&rained_on, last), Some(NightState::Bare), "{:?}", rained_on.tasks);
    assert!(rained_on.proof.late == 0 && rained_on.tasks.len() == dry.tasks.len());
    // On the first night nothing can be up yet: the order stays as it was.
    let first = laid(Some(0));
    assert_eq!(on(&first, 0), Some(NightState::Bare));
    assert_eq!(first.proof.finish, dry.proof.finish);
}
