//! What findings say, and in which order.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Finding, Moment, Severity};
use kame_core::job::Job;
use kame_core::length::{Head, Length};
use kame_core::plan::build;

fn found(edits: &[Edit], done: usize) -> Vec<Finding> {
    let job =
        edits.iter().fold(Job::new("findings"), |job, e| apply(&job, e).unwrap_or_else(|p| panic!("{e:?}: {p:?}")).0);
    let plan = build(&job).expect("a plan");
    Moment::new(&plan, done).expect("a layup").findings(&plan)
}

fn remove(step: &str) -> Edit {
    Edit::RemoveStep { step: step.into() }
}

fn before(step: &str, other: &str) -> Edit {
    Edit::MoveStep { step: step.into(), before: Some(other.into()) }
}

fn figure(id: &str, value: &str) -> Edit {
    Edit::SetFigure { id: id.into(), value: Some(value.into()) }
}

#[test]
fn the_worst_comes_first_and_each_severity_after_the_other() {
    let all = found(
        &[remove("W1/patches"), before("W1/head", "W1/jambs"), remove("W1/survey"), before("W1/set", "W1/bed")],
        usize::MAX,
    );
    assert!(all.len() >= 4, "{all:#?}");
    assert!(all.windows(2).all(|w| w[0].severity <= w[1].severity));
    assert_eq!(all[0].severity, Severity::Leak);
    let of = |s| all.iter().any(|f| f.severity == s);
    assert!(of(Severity::Blocked) && of(Severity::Missing), "{all:#?}");
}

#[test]
fn every_finding_has_a_code_a_reason_a_remedy_and_a_place() {
    let all = [
        found(&[remove("W1/patches")], usize::MAX),
        found(&[before("W1/drop-flap", "W1/head")], usize::MAX),
        found(&[before("W1/pan", "W1/jambs")], usize::MAX),
        found(&[remove("W1/slope"), remove("W1/bed")], usize::MAX),
        found(&[], 9),
        found(&[], 0),
    ];
    for f in all.iter().flatten() {
        assert!(!f.code.is_empty() && f.reason.ends_with('.') && f.remedy.ends_with('.'), "{f:#?}");
        assert!(f.reason.starts_with(|c: char| c.is_uppercase() || c == '"'), "{}", f.reason);
        assert!(!f.reason.contains("the the") && !f.remedy.contains("the the"), "{f:#?}");
        assert!(f.place.1.iter().all(|x| x.is_finite()));
        if let (Some(way), Some(head)) = (&f.way, f.head) {
            assert!(
                way.points.iter().all(|p| p.head.inches() <= head.inches() + 1e-6),
                "the way costs no more than its head"
            );
        }
    }
}

#[test]
fn heads_are_told_in_inches_pascals_and_wind() {
    let short = found(&[figure("lap_horizontal", "2"), figure("floor_rain", "3")], usize::MAX);
    let lap = short.iter().find(|f| f.severity == Severity::Leak).unwrap_or_else(|| panic!("{short:#?}"));
    assert!(lap.reason.contains("once the wind holds 2.0 in of water (498 Pa, about 29 m/s)"), "{}", lap.reason);
    assert_eq!(lap.head, Some(Head::from_inches(2.0)));
}

#[test]
fn one_remedy_is_one_finding_however_many_places_it_wets() {
    let all = found(&[remove("W1/patches")], usize::MAX);
    assert_eq!(all.iter().filter(|f| f.code == "F11" && f.severity == Severity::Leak).count(), 1, "{all:#?}");
}

#[test]
fn a_wall_half_done_says_that_it_is_not_finished() {
    let all = found(&[], 8);
    assert!(all.iter().any(|f| f.remedy.contains("not finished") || f.remedy.contains("Go on")), "{all:#?}");
    assert!(all.iter().all(|f| f.severity != Severity::Missing), "what is still to come is not left out");
}

#[test]
fn a_bottom_flange_closed_by_the_bed_ponds() {
    // A flange as wide as the pan's face, and a bead that reaches its lower edge, would be the fault; here the tape closes it.
    let job = Job::new("pond");
    let mut plan = build(&job).expect("a plan");
    let pan = plan.pieces.position(|p| p.id == "W1/pan").expect("pan");
    let bed = plan.seals.position(|s| s.id == "W1/bed").expect("bed");
    let o = plan.openings[0].rect;
    let flange = Length::inch_fraction(11, 8);
    let bottom = kame_core::surface::Rect::new(
        o.u0 - Length::inch(1),
        o.v0 - flange,
        o.u1 + Length::inch(1),
        o.v0 - Length::inch_fraction(1, 2),
    );
    plan.seals[bed].rects.push((kame_core::plan::SurfaceId::WALL, bottom));
    let all = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
    let pond = all.iter().find(|f| f.severity == Severity::Pond).unwrap_or_else(|| panic!("{all:#?}"));
    assert_eq!(pond.code, "W-POND");
    assert!(pond.reason.contains("cannot run out") && pond.remedy.contains("bottom flange"), "{pond:#?}");
    assert!(all.iter().any(|f| f.severity == Severity::Pond && f.pieces.contains(&plan.pieces[pan].id)), "{all:#?}");
}

#[test]
fn blocked_actions_say_why_and_what_comes_first() {
    let says = |edits: &[Edit], reason: &str, remedy: &str| {
        let all = found(edits, usize::MAX);
        let hit = all
            .iter()
            .any(|f| f.severity == Severity::Blocked && f.reason.contains(reason) && f.remedy.contains(remedy));
        assert!(hit, "{reason}: {all:#?}");
    };
    says(&[before("W1/bed", "W1/jambs")], "a bead cannot get behind it", "before the window goes in");
    says(&[before("W1/lining", "W1/jambs")], "nothing gets behind it any more", "before the window goes in");
    says(&[before("W1/inside", "W1/set")], "the window is not there", "Place the window first");
    says(&[before("W1/lift-flap", "W1/cut")], "no such flap", "Cut and lift the flap first");
    says(&[before("W1/cut", "course-1")], "no barrier to cut yet", "Hang the courses first");
    says(&[before("W1/pan", "W1/cut")], "still covers the opening", "Cut the opening first");
}

#[test]
fn a_flap_under_a_stuck_flashing_cannot_be_lifted() {
    let all = found(&[before("W1/head", "W1/lift-flap")], usize::MAX);
    let stuck = all.iter().find(|f| f.severity == Severity::Blocked).unwrap_or_else(|| panic!("{all:#?}"));
    assert!(stuck.reason.contains("head flashing is stuck down over it"), "{}", stuck.reason);
}

#[test]
fn a_lower_floor_finds_less_and_a_higher_one_more() {
    let count = |floor: &str| {
        found(&[figure("floor_rain", floor)], usize::MAX).iter().filter(|f| f.severity == Severity::Leak).count()
    };
    assert_eq!((count("0"), count("2")), (0, 0));
    assert!(count("6") > 0);
}
