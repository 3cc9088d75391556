//! A roof line that rises to the left is the one that rises to the right, turned over.

use kame_core::findings::Moment;
use kame_core::job::{Job, OpeningSpec};
use kame_core::length::Length;
use kame_core::plan::{Plan, SurfaceId, build};
use kame_core::recipe::schools::Feature;
use kame_core::surface::Rect;
use std::collections::BTreeSet;

const WIDTH: Length = Length::inch(240);

fn roof(barrier: &str, rise: &str) -> Plan {
    let mut job = Job::new("roof");
    (job.wall.width, job.wall.height) = (WIDTH, Length::inch(120));
    job.wall.schools.insert("barrier".into(), barrier.into());
    let mut o = OpeningSpec { feature: Feature::Line, ..job.openings[0].clone() };
    (o.id, o.name) = ("L1".into(), "Boat store roof".into());
    (o.left, o.sill, o.width, o.height) = (Length::inch(60), Length::inch(30), Length::inch(120), Length::inch(60));
    o.schools = [("line", "roof"), ("rise", rise)].map(|(q, a)| (q.to_owned(), a.to_owned())).into();
    job.openings = vec![o];
    build(&job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn turned(r: Rect) -> Rect {
    Rect { u0: WIDTH - r.u1, u1: WIDTH - r.u0, ..r }
}

#[test]
fn what_rises_to_the_left_is_the_same_turned_over() {
    for barrier in ["loose", "adhered", "fluid", "panel"] {
        let (right, left) = (roof(barrier, "right"), roof(barrier, "left"));
        let lies = |plan: &Plan, turn: bool| -> BTreeSet<(String, [i64; 4])> {
            let of = plan.pieces.iter().filter(|p| p.opening.is_some());
            let on_wall = of.flat_map(|p| p.regions.iter().map(move |(on, r)| (p.id.clone(), *on, *r)));
            let here = on_wall.filter(|(_, on, _)| *on == SurfaceId::WALL);
            here.map(|(id, _, r)| {
                let r = if turn { turned(r) } else { r };
                (id, [r.u0, r.v0, r.u1, r.v1].map(Length::units))
            })
            .collect()
        };
        assert!(!lies(&right, false).is_empty());
        assert_eq!(lies(&right, true), lies(&left, false), "{barrier}");
        let said = |plan: &Plan| {
            let moment = Moment::new(plan, usize::MAX).expect("a layup");
            let found = moment.findings(plan);
            let heads = moment.verdict(plan, &found).heads;
            let heads: Vec<_> =
                heads.iter().map(|h| (h.kind.to_owned(), h.head.map(|h| (h.inches() * 1e6).round()))).collect();
            (moment.verdict(plan, &found).state, heads)
        };
        assert_eq!(said(&right), said(&left), "{barrier}: water is the same on both");
    }
}
