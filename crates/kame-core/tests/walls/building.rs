//! What a building has besides openings: its base and top, what runs along its walls, what keeps the cladding off them.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Finding, Moment, Severity};
use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::plan::{Plan, SurfaceId, build};
use kame_core::profile::fig;
use kame_core::recipe::schools::{Answers, Feature, Schools, Scope};
use kame_core::trade::Act;

fn answers(list: &[(&str, &str)]) -> Answers {
    list.iter().map(|(q, c)| ((*q).to_owned(), (*c).to_owned())).collect()
}

/// A level line with these answers, whether it can be built or not.
fn line_unbuilt(own: &[(&str, &str)]) -> Job {
    let mut job = line("z", &Answers::new());
    for (q, c) in own {
        let to = if *q == "barrier" { &mut job.wall.schools } else { &mut job.openings[0].schools };
        to.insert((*q).to_owned(), (*c).to_owned());
    }
    job
}

/// A line of that kind alone on a wall.
pub fn line(kind: &str, own: &Answers) -> Job {
    let schools = Schools::of(Feature::Line).expect("school data");
    let mut job = Job::new("lines");
    job.openings.clear();
    (job.wall.width, job.wall.height) = (Length::inch(200), Length::inch(120));
    let add = Edit::AddFeature { kind: kind.into(), left: Some(Length::inch(40)), sill: None };
    let mut job = apply(&job, &add).unwrap_or_else(|p| panic!("{kind}: {p:?}")).0;
    for (q, c) in own {
        let scope = schools.question(q).expect("a question").scope;
        let to = if scope == Scope::Wall { &mut job.wall.schools } else { &mut job.openings[0].schools };
        to.insert(q.clone(), c.clone());
    }
    job
}

fn plan(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn found(job: &Job) -> Vec<Finding> {
    let plan = plan(job);
    Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan)
}

#[test]
fn every_line_that_is_flashed_through_runs_dry_on_every_barrier() {
    let mut wrong = Vec::new();
    for all in Schools::of(Feature::Line).expect("school data").combinations() {
        let kind = if all["line"] == "roof" { "roof" } else { "z" };
        for f in found(&line(kind, &all)) {
            let meant = [("flashed", "none", "F31"), ("foot", "bare", "F30")];
            // An open joint that nothing closes lets the rain in.
            let open = ["moving", "masonry"].contains(&&*all["line"]) && all["flashed"] == "none";
            let open = open && f.code == "W-LEAK";
            let told = open || meant.iter().any(|(q, c, code)| all[*q] == *c && f.code == *code);
            if f.severity != Severity::Glue && !told {
                wrong.push(format!("{all:?}: {} {}", f.code, f.reason));
            }
        }
    }
    assert!(wrong.is_empty(), "{}\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn a_deck_without_flashing_and_a_roof_without_kick_out_are_told() {
    let codes = |job: &Job| found(job).into_iter().map(|f| f.code).collect::<Vec<_>>();
    assert!(codes(&line("deck", &answers(&[("flashed", "none")]))).contains(&"F31".to_owned()));
    assert!(codes(&line("roof", &answers(&[("foot", "bare")]))).contains(&"F30".to_owned()));
    assert!(!codes(&line("roof", &answers(&[]))).contains(&"F30".to_owned()));
}

#[test]
fn a_joint_to_masonry_is_bridged_thicker_than_one_between_panels() {
    let own = answers(&[("barrier", "panel"), ("line", "masonry"), ("flashed", "liquid")]);
    let job = line("z", &own);
    let bridged = plan(&job);
    let band = bridged.pieces.position(|p| p.id == "L1/band").expect("liquid over the joint");
    let joint = bridged.openings[0].rect;
    assert_eq!(bridged.pieces[band].regions[0].1.v1, joint.v1 + Length::inch(2));
    let coats = bridged.actions().filter_map(|(_, a)| match a.act {
        Act::Coat { piece, wet_mil, coats } if piece == band => Some(wet_mil * f64::from(coats)),
        _ => None,
    });
    assert_eq!(coats.collect::<Vec<_>>(), [70.0]);
    let narrow = Edit::SetFigure { id: "masonry_past".into(), value: Some("1 1/2".into()) };
    let (narrow, _) = apply(&job, &narrow).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(found(&narrow).iter().any(|f| f.code == "F31"), "{:?}", found(&narrow));
    assert!(!found(&job).iter().any(|f| f.code == "F31"), "{:?}", found(&job));
    // On a sheet, and at a change of material, it is refused with the reason.
    for (own, because) in [
        ([("barrier", "loose"), ("line", "masonry"), ("flashed", "liquid")], "edge of the sheet"),
        ([("barrier", "panel"), ("line", "z"), ("flashed", "liquid")], "brings the water out"),
    ] {
        let refused = build(&line_unbuilt(&own)).expect_err("refused");
        assert!(refused.iter().any(|p| p.message.contains(because)), "{refused:?}");
    }
}

#[test]
fn a_joint_that_moves_is_bridged_by_metal_or_silicone_in_two_beads() {
    let own = |flashed| answers(&[("barrier", "panel"), ("line", "moving"), ("flashed", flashed)]);
    let mut job = line("z", &own("silicone"));
    // A gap of 2 1/2 in and 1 1/2 on to each side: 5 1/2 in of strip, cut from 6.
    job.openings[0].height = Length::inch_fraction(5, 2);
    let bridged = plan(&job);
    let strip = bridged.pieces.iter().find(|p| p.id == "L1/band").expect("a strip");
    let (rect, joint) = (strip.regions[0].1, bridged.openings[0].rect);
    assert_eq!((rect.v0, rect.v1), (joint.v0 - Length::inch_fraction(3, 2), joint.v1 + Length::inch_fraction(3, 2)));
    assert_eq!(strip.cut.as_ref().map(|c| c.stock_width), Some(Length::inch(6)));
    let metal = plan(&line("z", &own("metal")));
    let beads: Vec<usize> = metal.seals.iter().filter(|s| s.id == "L1/bed").map(|s| s.rects.len()).collect();
    assert_eq!(beads, [4], "along both sides and across both ends");
    // Without its beads what runs down the wall gets in behind the metal.
    let no_beads = Edit::RemoveStep { step: "L1/flash/1".into() };
    let (open, _) = apply(&line("z", &own("metal")), &no_beads).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(found(&open).iter().any(|f| f.severity == Severity::Leak), "{:?}", found(&open));
    for (own, because) in [
        ([("barrier", "loose"), ("line", "moving"), ("flashed", "metal")], "joints between panels"),
        ([("barrier", "panel"), ("line", "z"), ("flashed", "metal")], "brings the water out"),
        ([("barrier", "panel"), ("line", "moving"), ("flashed", "liquid")], "a coat over a joint that moves tears"),
    ] {
        let refused = build(&line_unbuilt(&own)).expect_err("refused");
        assert!(refused.iter().any(|p| p.message.contains(because)), "{refused:?}");
    }
}

#[test]
fn a_deck_s_waterproofing_goes_up_the_wall_over_the_flashing_and_under_the_barrier() {
    let lapped = line("deck", &answers(&[("deck", "lap")]));
    let built = plan(&lapped);
    let rect = |id: &str| built.pieces.iter().find(|p| p.id == id).map(|p| p.regions[0].1).expect("a piece");
    let (up, leg, deck) = (rect("L1/membrane"), rect("L1/z"), built.openings[0].rect);
    assert_eq!((up.v0, up.v1), (deck.v1, deck.v1 + Length::inch(8)));
    assert!(up.v1 > leg.v1, "higher than the leg of the flashing");
    assert!(found(&lapped).iter().all(|f| f.severity == Severity::Glue), "{:?}", found(&lapped));
    // The flap left up, or dropped before the waterproofing is on the wall: its top edge faces the rain.
    let flash = built.steps.iter().find(|s| s.id == "L1/flash").expect("a step");
    let drop = flash.actions.iter().find(|a| matches!(a.act, Act::Drop { .. })).expect("a drop");
    let (wrong, _) = apply(&lapped, &Edit::RemoveStep { step: drop.id.clone() }).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(found(&wrong).iter().any(|f| f.severity < Severity::Glue), "{:?}", found(&wrong));
    // On a panel the strip over its top edge is the lap.
    let stuck = plan(&line("deck", &answers(&[("barrier", "panel"), ("deck", "lap")])));
    let strip = stuck.pieces.iter().find(|p| p.id == "L1/strip").expect("a strip").regions[0].1;
    assert!(strip.v0 < up.v1 && strip.v1 > up.v1);
    // Nothing but a deck has waterproofing of its own, and without a flashing it has nothing to lie over.
    for own in [[("line", "z"), ("deck", "lap")], [("flashed", "none"), ("deck", "lap")]] {
        let mut job = line("deck", &answers(&[]));
        job.openings[0].schools.extend(answers(&own));
        let refused = build(&job).expect_err("refused");
        assert!(refused.iter().any(|p| p.path.ends_with("schools.deck")), "{refused:?}");
    }
}

#[test]
fn a_flashing_leg_over_the_barrier_is_a_reverse_lap_along_the_whole_line() {
    let job = line("z", &answers(&[]));
    let leave = Edit::RemoveStep { step: "L1/flash/2".into() };
    let (wrong, _) = apply(&job, &leave).unwrap_or_else(|p| panic!("{p:?}"));
    let leak = found(&wrong).into_iter().find(|f| f.code == "F31").expect("told");
    assert!(leak.reason.contains("reverse lap") || leak.severity == Severity::Leak, "{}", leak.reason);
}

#[test]
fn the_barrier_comes_over_the_base_flashing_or_it_is_f29() {
    let mut job = Job::new("base");
    job.wall.schools = answers(&[("base", "flashing")]);
    let right = plan(&job);
    let at = |id: &str| right.order.iter().position(|s| right.steps[*s].id == id).unwrap_or_else(|| panic!("{id}"));
    assert!(at("wall/plate") < at("wall/base") && at("wall/base") < at("course-1"));
    assert!(found(&job).iter().all(|f| f.severity == Severity::Glue), "{:?}", found(&job));
    let late = Edit::MoveStep { step: "wall/base".into(), before: None };
    let (wrong, _) = apply(&job, &late).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(found(&wrong).iter().any(|f| f.code == "F29"), "{:?}", found(&wrong));
    let (righted, after) = apply(&wrong, &Edit::PutRight).unwrap_or_else(|p| panic!("{p:?}"));
    let at = |id: &str| after.order.iter().position(|s| after.steps[*s].id == id).expect("a step");
    assert!(at("wall/base") < at("course-1"));
    assert!(found(&righted).iter().all(|f| f.severity == Severity::Glue));
    for (figure, short) in [("base_leg", "2"), ("base_below", "0")] {
        let buried = Edit::SetFigure { id: figure.into(), value: Some(short.into()) };
        let (buried, _) = apply(&job, &buried).unwrap_or_else(|p| panic!("{p:?}"));
        assert!(found(&buried).iter().any(|f| f.code == "F29"), "{figure}");
    }
}

#[test]
fn what_is_wrong_with_the_gap_is_told_by_its_fault() {
    for (given, code) in [
        (vec![("cladding", "plaster")], "F34"),
        (vec![("cladding", "stone")], "F34"),
        (vec![("gap", "battens"), ("furring", "shut")], "F35"),
        (vec![("gap", "mat"), ("fixing", "crushed")], "F36"),
        (vec![("gap", "battens"), ("ends", "bare")], "F37"),
        (vec![("gap", "battens"), ("ends", "shut")], "F37"),
    ] {
        let mut job = Job::new("gap");
        job.wall.schools = answers(&given);
        assert!(found(&job).iter().any(|f| f.code == code && !f.remedy.is_empty()), "{given:?}");
        job.wall.schools.retain(|q, _| ["cladding", "gap"].contains(&q.as_str()));
        job.wall.schools.insert("gap".into(), "mat".into());
        assert!(!found(&job).iter().any(|f| f.code == code), "{given:?} put right");
    }
    let mut job = Job::new("gap");
    job.wall.schools = answers(&[("gap", "none"), ("furring", "shut")]);
    assert!(build(&job).expect_err("refused")[0].message.contains("no furring"));
}

#[test]
fn longer_in_the_open_than_the_material_bears_is_f21() {
    let mut job = Job::new("open");
    let days = |d: &str| Edit::SetFigure { id: "days_exposed".into(), value: Some(d.into()) };
    job = apply(&job, &days("90")).unwrap_or_else(|p| panic!("{p:?}")).0;
    assert!(!found(&job).iter().any(|f| f.code == "F21"));
    job = apply(&job, &days("200")).unwrap_or_else(|p| panic!("{p:?}")).0;
    let told = found(&job).into_iter().find(|f| f.code == "F21").expect("told");
    assert!(told.reason.contains("for 120 days, and 200 are planned") && told.remedy.contains("sooner"), "{told:?}");
}

#[test]
fn a_line_over_the_whole_wall_ends_where_the_wall_does() {
    let job = line("z", &answers(&[("barrier", "panel")]));
    let to = |left: i64, width: i64| Edit::SetOpening {
        id: "L1".into(),
        name: None,
        left: Some(Length::inch(left)),
        sill: None,
        width: Some(Length::inch(width)),
        height: None,
        depth: None,
        flange: None,
    };
    let (_, plan) = apply(&job, &to(0, 200)).unwrap_or_else(|p| panic!("{p:?}"));
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    assert!(plan.pieces.iter().flat_map(|p| &p.regions).all(|(_, r)| wall.contains(*r)));
    let refused = apply(&job, &to(0, 201)).expect_err("past the end");
    assert!(refused.iter().any(|p| p.path == "$.openings[0].left" && p.message.contains("off a wall")), "{refused:?}");
}

#[test]
fn openings_of_a_wall_with_a_base_and_a_gap_can_be_compared_and_a_corner_job_too() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/heron-spit-station.kame.json");
    let job = kame_core::job::read_job(&std::fs::read(path).expect("demo file")).unwrap_or_else(|p| panic!("{p:?}"));
    for id in ["W3", "P2", "L1"] {
        let own = &job.openings.iter().find(|o| o.id == id).expect("an opening").schools;
        let side: Answers = job.wall.schools.clone().into_iter().chain(own.clone()).collect();
        let both =
            kame_core::view::compare(&job, id, &[side.clone(), side], None).unwrap_or_else(|p| panic!("{id}: {p:?}"));
        assert_eq!(both.sides[0], both.sides[1], "{id}");
        assert!(both.sides[0].answers.iter().all(|a| a.question != "base" && !a.differs));
    }
    let nonsense = answers(&[("chimney", "tall")]);
    let refused = kame_core::view::compare(&job, "W3", &[nonsense.clone(), nonsense], None).expect_err("refused");
    assert!(
        refused.iter().all(|p| p.path.starts_with("$.sides[0]") && p.message.contains("no question \"chimney\"")),
        "{refused:?}"
    );
}

#[test]
fn panels_lie_or_stand_and_are_cut_now_or_later_and_run_dry() {
    for barrier in ["panel", "insulated", "gypsum", "insulation-face"] {
        for (panels, cutting) in [("upright", "now"), ("lying", "later"), ("lying", "now")] {
            let mut job = Job::new("panels");
            job.wall.width = Length::inch(400);
            job.wall.schools = answers(&[("barrier", barrier), ("panels", panels), ("cutting", cutting)]);
            let plan = plan(&job);
            let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
            let wrong: Vec<_> =
                found.iter().filter(|f| !matches!(f.severity, Severity::Glue | Severity::Note)).collect();
            assert!(wrong.is_empty(), "{barrier} {panels} {cutting}: {wrong:#?}");
            let hung = plan.pieces.iter().filter(|p| p.id.starts_with("panel-"));
            let over =
                |o: &kame_core::surface::Rect| hung.clone().flat_map(|p| &p.regions).any(|(_, r)| r.overlaps(*o));
            assert_eq!(over(&plan.openings[0].rect), cutting == "later", "{barrier} {panels}");
        }
    }
}

#[test]
fn rows_of_panels_counted_from_the_top_leave_a_strip_at_the_foot_and_run_dry() {
    for (barrier, panels) in [("panel", "upright"), ("gypsum", "lying"), ("insulated", "upright")] {
        let mut job = Job::new("panels");
        job.wall.width = Length::inch(400);
        job.wall.schools = answers(&[("barrier", barrier), ("panels", panels), ("rows", "top")]);
        let plan = plan(&job);
        let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
        let wrong: Vec<_> = found.iter().filter(|f| !matches!(f.severity, Severity::Glue | Severity::Note)).collect();
        assert!(wrong.is_empty(), "{barrier} {panels}: {wrong:#?}");
        let high = plan.basis.figures.length(if panels == "lying" { fig::PANEL_WIDTH } else { fig::PANEL_LENGTH });
        let top = plan.walls.outline.height();
        let strip = Length::from_units(top.units() % high.units());
        let half = Length::from_units(plan.basis.figures.length(fig::PANEL_GAP).units() / 2);
        let of =
            |row: &str| plan.pieces.iter().find(|p| p.id.starts_with(row)).map(|p| p.regions[0].1).expect("a panel");
        let first = of("panel-1-");
        assert_eq!((first.v0, first.v1), (Length::ZERO, strip - half), "{barrier}");
        let rows = (top.units() - strip.units()) / high.units() + 1;
        assert_eq!(of(&format!("panel-{rows}-")).v1, top, "whole panels end at the top");
    }
    let mut loose = Job::new("sheet");
    loose.wall.schools = answers(&[("barrier", "loose"), ("rows", "top")]);
    assert!(build(&loose).expect_err("refused")[0].message.contains("does not come on panels"));
}

#[test]
fn lying_panels_keep_their_upright_joints_off_those_of_the_row_below() {
    let mut job = Job::new("panels");
    job.wall.width = Length::inch(400);
    job.wall.schools = answers(&[("barrier", "panel"), ("panels", "lying")]);
    let plan = plan(&job);
    let row = |r: usize| -> Vec<Length> {
        let of = |p: &&kame_core::plan::Piece| p.id.starts_with(&format!("panel-{r}-"));
        plan.pieces.iter().filter(of).map(|p| p.regions[0].1.u1).filter(|u| *u < Length::inch(399)).collect()
    };
    assert!(!row(1).is_empty() && !row(2).is_empty());
    for (a, b) in row(1).iter().flat_map(|a| row(2).into_iter().map(move |b| (*a, b))) {
        assert!((a - b).units().abs() >= Length::inch(16).units(), "{a} over {b}");
    }
    let refused = {
        let mut loose = job.clone();
        loose.wall.schools.insert("barrier".into(), "loose".into());
        build(&loose).expect_err("refused")
    };
    assert!(refused[0].message.contains("panels"), "{refused:?}");
}
