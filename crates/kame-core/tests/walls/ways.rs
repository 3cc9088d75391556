//! A firm's way of building: taken by a job it leaves no difference and touches nothing else; left, nothing changes.

use crate::schools;
use crate::verdict::wall;
use kame_core::edit::{Edit, WayPart, apply, way_differences, way_of};
use kame_core::job::{Job, Way, read_job, write_job};
use kame_core::plan::build;
use kame_core::recipe::schools::Feature;
use proptest::prelude::*;

fn demo(name: &str) -> Job {
    let path = format!("{}/../../demo/{name}.kame.json", env!("CARGO_MANIFEST_DIR"));
    read_job(&std::fs::read(path).expect("demo file")).unwrap_or_else(|p| panic!("{p:?}"))
}

fn any_job() -> impl Strategy<Value = Job> {
    let all = schools::sample(40);
    let lap = prop::sample::select(vec!["", "4", "6", "8"]);
    let names = ["heron-spit-four-openings", "heron-spit-gable", "heron-spit-station", "heron-spit-as-found"];
    let of_demo = prop::sample::select(names.to_vec()).prop_map(demo);
    let made = prop::sample::select(all).prop_map(|answers| schools::job(&answers));
    (prop_oneof![2 => made, 1 => of_demo], lap).prop_map(|(mut job, lap)| {
        job.figures.extend((!lap.is_empty()).then(|| ("lap_horizontal".to_owned(), lap.to_owned())));
        job
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn a_way_that_is_taken_leaves_no_difference_and_touches_nothing_else(job in any_job(), other in any_job()) {
        let way = way_of(&other, "as we build");
        prop_assert_eq!(way_differences(&other, &way).expect("data"), [], "a job is as its own way");
        let take = Edit::TakeWay { way: way.clone() };
        // What cannot be built with the sizes of this job is refused with a sentence, and nothing is done.
        let Ok((next, plan)) = apply(&job, &take) else { return Ok(()) };
        prop_assert_eq!(way_differences(&next, &way).expect("data"), []);
        prop_assert_eq!(&build(&next).expect("a plan").pieces.len(), &plan.pieces.len());
        prop_assert_eq!(&apply(&next, &take).expect("again").0, &next, "taken twice it changes nothing");
        let places = |j: &Job| j.openings.iter().map(|o| (o.id.clone(), o.left, o.sill, o.width, o.height)).collect::<Vec<_>>();
        prop_assert_eq!(places(&next), places(&job));
        prop_assert_eq!((&next.name, &next.wall.corners.len(), &next.kit.stock, &next.site), (&job.name, &job.wall.corners.len(), &job.kit.stock, &job.site));
        // What a thing is no way says.
        for (o, was) in next.openings.iter().zip(&job.openings) {
            prop_assert!(["unit", "thing"].iter().all(|q| o.schools.get(*q).is_none_or(|c| was.schools.get(*q) == Some(c))));
        }
        let left = apply(&next, &Edit::LeaveWay).expect("left").0;
        prop_assert_eq!(left, Job { follows: None, ..next.clone() });
        prop_assert_eq!(read_job(write_job(&next).as_bytes()).expect("reads").follows, Some("as we build".to_owned()));
    }
}

#[test]
fn differences_are_told_by_what_people_call_them_and_where_they_are() {
    let mut ours = wall(&[("barrier", "adhered")], &[("head", "cap")]);
    ours.figures.insert("lap_horizontal".into(), "8".into());
    let way = way_of(&ours, " Ours ");
    assert_eq!((way.name.as_str(), way.features[&Feature::Opening]["head"].as_str()), ("Ours", "cap"));
    let told = way_differences(&Job::new("theirs"), &way).expect("data");
    let of = |part: WayPart| told.iter().filter(|d| d.part == part).collect::<Vec<_>>();
    let (walls, features, figures) = (of(WayPart::Walls), of(WayPart::Features), of(WayPart::Figures));
    assert!(walls.len() == 1 && walls[0].here == "the usual" && walls[0].places.is_empty(), "{told:#?}");
    assert!(features.iter().any(|d| d.places == ["W1"] && d.way != d.here), "{told:#?}");
    assert!(figures.len() == 1 && figures[0].way == "8\"" && figures[0].here.ends_with('"'), "{told:#?}");
}

#[test]
fn what_no_job_could_be_is_refused_by_name() {
    let job = Job::new("plain");
    let refused = |way: Way| apply(&job, &Edit::TakeWay { way }).expect_err("refused").remove(0);
    let named = |name: &str| Way { name: name.into(), ..Way::default() };
    assert_eq!(refused(named(" ")).path, "$.way.name");
    let mut way = named("x");
    way.figures.insert("no_such".into(), "1".into());
    assert!(refused(way).message.contains("no_such"));
    let mut way = named("x");
    way.wall.insert("barrier".into(), "straw".into());
    assert!(refused(way).message.contains("straw"));
    let mut way = named("x");
    way.wall.extend((0..200).map(|n| (format!("q{n}"), "a".into())));
    assert!(refused(way).message.contains("at most 100"));
}
