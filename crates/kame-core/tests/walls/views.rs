//! What the screens are given: drawn in lap order, nothing doubled, the section the same stack as the elevation.

use kame_core::edit::{Edit, apply};
use kame_core::findings::KnownWater;
use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::plan::build;
use kame_core::recipe::Role;
use kame_core::view::{
    Ask, GapState, Known, OpeningState, QuestionView, SectionAsk, SectionBand, SectionKind, WallView, Weather, view,
    view_plan,
};

fn job() -> Job {
    let mut job = Job::new("views");
    job.wall.width = Length::inch(180);
    job
}

#[track_caller]
fn edited(job: &Job, edit: Edit) -> Job {
    apply(job, &edit).unwrap_or_else(|p| panic!("{p:?}")).0
}

#[track_caller]
fn seen(job: &Job, ask: Ask) -> WallView {
    view(job, &ask).unwrap_or_else(|p| panic!("{p:?}"))
}

fn at(done: usize) -> Ask {
    Ask { done: Some(done), ..Ask::default() }
}

fn ends(v: &WallView, step: &str) -> usize {
    v.steps.iter().find(|s| s.id == step).unwrap_or_else(|| panic!("{step}")).ends
}

#[test]
fn of_what_the_wall_is_asked_it_is_said_what_the_steps_at_openings_follow_from() {
    let asked = seen(&job(), Ask::default()).schools;
    let of_wall = || asked.iter().filter(|q| q.openings.is_empty());
    let followed: Vec<&str> = of_wall().filter(|q| q.at_openings).map(|q| q.id.as_str()).collect();
    assert_eq!(followed, ["barrier", "second", "first", "outside"]);
    assert!(of_wall().any(|q| !q.at_openings), "base, top and cladding are the wall's own");
    assert!(asked.iter().filter(|q| q.openings == ["W1"]).all(|q| q.at_openings));
}

#[test]
fn openings_that_answer_alike_are_asked_together_and_each_in_the_order_in_which_it_is_decided() {
    let mut one = job();
    one.wall.width = Length::inch(420);
    let copied = edited(&one, Edit::CopyOpening { id: "W1".into(), times: 2, step: Length::inch(100) });
    let own = Edit::SetSchool {
        opening: Some("W2".into()),
        wall: None,
        question: "sill".into(),
        choice: Some("metal".into()),
    };
    let other = edited(&copied, own);
    let of = |asked: &[QuestionView], id: &str| -> Vec<QuestionView> {
        let here = asked.iter().filter(|q| q.openings.iter().any(|o| o == id));
        here.map(|q| QuestionView { openings: Vec::new(), ..q.clone() }).collect()
    };
    let (alike, asked) = (seen(&copied, Ask::default()).schools, seen(&other, Ask::default()).schools);
    assert_eq!(alike.len(), seen(&one, Ask::default()).schools.len(), "three alike take no more room than one");
    assert_eq!(of(&asked, "W1"), of(&alike, "W3"), "what W2 answers is no matter to others");
    let ids = |list: &[QuestionView]| list.iter().map(|q| q.id.clone()).collect::<Vec<_>>();
    assert_eq!(ids(&of(&asked, "W2")), ids(&of(&asked, "W1")));
    let sill = |id: &str| of(&asked, id).into_iter().find(|q| q.id == "sill").map(|q| (q.choice, q.own));
    assert_eq!((sill("W2"), sill("W1").map(|(_, own)| own)), (Some(("metal".into(), true)), Some(false)));
}

#[test]
fn an_opening_is_covered_then_open_then_set() {
    let all = seen(&job(), Ask::default());
    let state = |step: &str| seen(&job(), at(ends(&all, step))).elevation.openings[0].state;
    assert_eq!(seen(&job(), at(0)).elevation.openings[0].state, OpeningState::Open);
    assert_eq!(state("course-2"), OpeningState::Covered);
    assert_eq!(state("W1/cut"), OpeningState::Open);
    assert_eq!(state("W1/set"), OpeningState::Set);
    assert!(all.elevation.openings[0].glass.is_some());
}

#[test]
fn shapes_come_in_lap_order_with_the_flap_last_but_for_the_patches() {
    let v = seen(&job(), Ask::default());
    let place =
        |name: &str| v.elevation.shapes.iter().rposition(|s| s.name == name).unwrap_or_else(|| panic!("{name}"));
    let flap = v.elevation.shapes.iter().rposition(|s| s.role == Role::Barrier).expect("flap");
    assert!(place("sill pan") < place("window") && place("window") < place("left jamb flashing"));
    assert!(
        place("left jamb flashing") < place("head flashing")
            && place("head flashing") < flap
            && flap < place("left slit patch")
    );
}

#[test]
fn a_lifted_flap_is_drawn_held_up_over_its_hinge() {
    let all = seen(&job(), Ask::default());
    let v = seen(&job(), at(ends(&all, "W1/lift-flap")));
    let held: Vec<_> = v.elevation.shapes.iter().filter(|s| s.held).collect();
    assert_eq!(held.len(), 1);
    let top = all.elevation.openings[0].rect[1];
    let lowest = held[0].parts[0].iter().map(|p| p[1]).fold(f64::NEG_INFINITY, f64::max);
    assert!((lowest - (top - 8.0)).abs() < 1e-9, "hangs from the ends of the slits, 8 in up");
}

#[test]
fn edges_are_outlines_without_the_lines_between_parts() {
    let v = seen(&job(), Ask::default());
    let unit = v.elevation.shapes.iter().find(|s| s.name == "window").expect("window");
    // The ring of the flange on the wall: its parts touch, and where they touch there is no line.
    let length = |l: &[f64; 4]| (l[0] - l[2]).hypot(l[1] - l[3]);
    let on_wall: f64 = unit.edges.iter().map(length).sum();
    let all: f64 = unit
        .parts
        .iter()
        .map(|p| (0..4).map(|i| (p[i][0] - p[(i + 1) % 4][0]).hypot(p[i][1] - p[(i + 1) % 4][1])).sum::<f64>())
        .sum();
    assert!(on_wall < all - 1.0, "{on_wall} of {all}");
}

#[test]
fn letters_stand_on_what_can_be_seen() {
    let v = seen(&job(), Ask::default());
    let inside = ["sill pan", "left jamb lining", "bevelled sill board", "back dam"];
    for s in v.elevation.shapes.iter().filter(|s| inside[1..].contains(&s.name.as_str())) {
        assert_eq!(s.label, None, "{} is hidden behind the window", s.name);
    }
    let all = seen(&job(), Ask::default());
    let open = seen(&job(), at(ends(&all, "W1/pan")));
    assert!(open.elevation.shapes.iter().any(|s| s.name == "sill pan" && s.label.is_some()));
}

#[test]
fn dry_weather_marks_nothing_and_rain_marks_what_should_be_dry() {
    let wrong = edited(&job(), Edit::RemoveStep { step: "W1/patches".into() });
    let marks = |job: &Job, weather| seen(job, Ask { weather, ..Ask::default() }).elevation.marks;
    assert!(marks(&wrong, Weather::Dry).is_empty());
    assert!(marks(&job(), Weather::Rain).is_empty());
    let wet = marks(&wrong, Weather::Rain);
    assert!(wet.iter().any(|m| m.level == 0 && m.head.inches == 0.0));
    assert!(wet.iter().all(|m| m.head.inches < 2.0 && m.part.len() == 4));
    assert!(!marks(&job(), Weather::Lost).is_empty(), "the patches lean on glue");
}

#[test]
fn bare_sheathing_is_wet_in_rain() {
    let v = seen(&job(), Ask { done: Some(0), weather: Weather::Rain, ..Ask::default() });
    assert!(!v.elevation.marks.is_empty() && !v.verdict.dry);
    assert!(v.findings[0].reason.contains("falls straight on an open place"), "{}", v.findings[0].reason);
}

fn section(job: &Job, kind: SectionKind, at: f64, weather: Weather) -> kame_core::view::Section {
    let ask = Ask { weather, section: Some(SectionAsk { opening: 0, kind, at }), ..Ask::default() };
    seen(job, ask).section.expect("a section")
}

#[test]
fn the_section_of_the_sill_goes_from_the_barrier_out_to_the_flange() {
    let s = section(&job(), SectionKind::Sill, 0.5, Weather::Dry);
    let names: Vec<&str> = s.bands.iter().map(|b| b.name.as_str()).collect();
    let place = |name: &str| names.iter().position(|n| *n == name).unwrap_or_else(|| panic!("{name} in {names:?}"));
    assert!(place("barrier (course 1)") < place("sill pan") && place("sill pan") < place("window"));
    let states = |state| s.gaps.iter().filter(|g| g.state == state).count();
    assert!(states(GapState::Open) > 0 && states(GapState::Glued) > 0 && states(GapState::Sealed) > 0);
    assert!(s.gaps.iter().all(|g| g.head.is_none()), "dry");
    assert_eq!(s.cut[0], s.cut[2], "an upright cut");
}

#[test]
fn head_and_jamb_are_cut_too_and_the_cut_line_moves() {
    let head = section(&job(), SectionKind::Head, 0.25, Weather::Dry);
    assert!(head.bands.iter().any(|b| b.role == Role::Head) && head.at.contains("9\""), "{}", head.at);
    let jamb = section(&job(), SectionKind::Jamb, 0.5, Weather::Dry);
    assert!(jamb.bands.iter().any(|b| b.role == Role::Lining) && jamb.cut[1] == jamb.cut[3], "a level cut");
    let clamped = section(&job(), SectionKind::Head, f64::NAN, Weather::Dry);
    assert_eq!(clamped.cut[0], section(&job(), SectionKind::Head, 0.5, Weather::Dry).cut[0]);
}

#[test]
fn what_stands_in_the_gap_is_cut_and_drawn_apart_outside_everything_that_sheds() {
    let mut job = job();
    let bare = section(&job, SectionKind::Jamb, 0.5, Weather::Dry);
    job.wall.schools.insert("gap".into(), "battens".into());
    let cut = section(&job, SectionKind::Jamb, 0.5, Weather::Dry);
    let lowest = |b: &SectionBand| b.line.iter().map(|p| p[1]).fold(f64::NEG_INFINITY, f64::max);
    let (furring, sheds): (Vec<&SectionBand>, Vec<&SectionBand>) =
        cut.bands.iter().partition(|b| b.role == Role::Furring);
    assert!(bare.bands.iter().all(|b| b.role != Role::Furring) && !furring.is_empty());
    // Outside is down in a jamb, and all of it is on the drawing.
    let on_face = sheds.iter().filter(|b| b.line.iter().all(|p| p[1] > 0.0));
    let sheds = on_face.map(|b| lowest(b)).fold(f64::NEG_INFINITY, f64::max);
    // Each batten is cut for itself.
    let wide = |b: &SectionBand| (b.line[0][0] - b.line[b.line.len() - 1][0]).abs();
    assert!(furring.len() > 1 && furring.iter().all(|b| wide(b) <= 2.5), "{furring:?}");
    assert!(furring.iter().all(|b| lowest(b) > sheds && lowest(b) < cut.frame[1] + cut.frame[3]));
    let apart = seen(&job, Ask { exploded: Some(0), ..Ask::default() }).exploded.expect("drawn apart");
    let out = |role: Role| apart.pieces.iter().filter(|p| p.role == role).map(|p| p.lift).max();
    assert!(out(Role::Furring) > out(Role::Unit) && out(Role::Furring) > out(Role::Barrier));
}

#[test]
fn rain_with_the_glue_lost_wets_gaps_that_glue_closed() {
    let wet = |w| section(&job(), SectionKind::Jamb, 0.5, w).gaps.iter().filter(|g| g.head.is_some()).count();
    assert!(wet(Weather::Lost) > 0);
    let glued =
        |w| section(&job(), SectionKind::Jamb, 0.5, w).gaps.iter().filter(|g| g.state == GapState::Glued).count();
    assert!(glued(Weather::Rain) > 0 && glued(Weather::Lost) == 0);
}

#[test]
fn no_section_where_there_is_no_opening() {
    let bare = edited(&job(), Edit::RemoveOpening { id: "W1".into() });
    let ask = Ask { section: Some(SectionAsk { opening: 0, kind: SectionKind::Sill, at: 0.5 }), ..Ask::default() };
    let v = seen(&bare, ask);
    assert!(v.section.is_none() && v.elevation.openings.is_empty() && v.verdict.dry);
}

#[test]
fn the_rail_counts_actions_and_leaves_out_what_is_left_out() {
    let v = seen(&edited(&job(), Edit::RemoveStep { step: "W1/lining".into() }), Ask::default());
    let numbers: Vec<usize> = v.steps.iter().flat_map(|s| &s.actions).map(|a| a.number).filter(|n| *n > 0).collect();
    assert_eq!(numbers, (1..=v.total).collect::<Vec<_>>());
    let lining = v.steps.iter().find(|s| s.id == "W1/lining").expect("still on the rail");
    assert!(lining.removed && lining.starts == lining.ends && lining.actions.iter().all(|a| a.removed));
    assert!(v.reordered);
}

#[test]
fn more_actions_than_there_are_means_all() {
    let v = seen(&job(), at(9_999));
    assert_eq!((v.done, v.verdict.dry), (v.total, true));
}

#[test]
fn cards_carry_sizes_and_cautions_stand_beside_the_steps_that_need_them() {
    let v = seen(&job(), Ask::default());
    let card = |step: &str| &v.steps.iter().find(|s| s.id == step).unwrap_or_else(|| panic!("{step}")).card;
    assert!(card("W1/pan").what.contains("Cut 48\" of stretch membrane"), "{}", card("W1/pan").what);
    assert!(
        !v.steps.iter().any(|s| s.card.what.contains('{') || s.card.check.contains('{')),
        "every size is filled in"
    );
    for (step, word) in [
        ("course-1", "Ladder"),
        ("W1/cut", "Knife"),
        ("W1/set", "Two people"),
        ("W1/inside", "Sealant"),
        ("W1/slope", "Saw"),
        ("W1/pan", "Primer"),
        ("W1/head", "Ladder"),
    ] {
        assert!(card(step).caution.contains(word), "{step}: {}", card(step).caution);
    }
}

#[test]
fn own_figures_are_marked_and_the_profile_s_stay_in_sight() {
    let v = seen(
        &edited(&job(), Edit::SetFigure { id: "jamb_tape_width".into(), value: Some("9".into()) }),
        Ask::default(),
    );
    let f = v.figures.iter().find(|f| f.figure.id == "jamb_tape_width").expect("listed");
    assert_eq!((f.own, f.in_force.as_str(), f.figure.value.as_str()), (true, "9", "6"));
    let back = edited(
        &edited(&job(), Edit::SetFigure { id: "jamb_tape_width".into(), value: Some("9".into()) }),
        Edit::SetFigure { id: "jamb_tape_width".into(), value: None },
    );
    assert_eq!(back, job());
}

#[test]
fn a_pan_without_a_dam_asks_the_sill_s_inside_edge_instead() {
    let flat = edited(&job(), Edit::SetFigure { id: "back_dam".into(), value: Some("0".into()) });
    let v = seen(&flat, Ask::default());
    assert!(!v.verdict.dry && v.findings.iter().all(|f| f.code == "F07" || f.lost), "{:?}", v.findings);
    assert!(!v.elevation.shapes.iter().any(|s| s.name == "back dam"));
}

#[test]
fn what_is_let_go_of_is_worked_out_again_and_says_the_same() {
    let job = {
        let mut job = Job::new("wide");
        job.wall.width = Length::inch(480);
        let like = job.openings[0].clone();
        for n in 1..5 {
            let mut o = like.clone();
            (o.id, o.left) = (format!("W{}", n + 1), like.left + Length::inch(80 * n));
            job.openings.push(o);
        }
        job
    };
    let plan = build(&job).expect("a plan");
    let (all, hardly) = (Known::default(), Known { water: KnownWater::within(1), ..Known::default() });
    let section = |kind| Some(SectionAsk { opening: 2, kind, at: 0.5 });
    for weather in [Weather::Dry, Weather::Rain, Weather::Lost] {
        for kind in [SectionKind::Sill, SectionKind::Jamb, SectionKind::Head] {
            let ask = Ask { weather, section: section(kind), ..Ask::default() };
            // Asked twice: what gets wet is known the second time, though the water that told it is not.
            for _ in 0..2 {
                let seen = |known| view_plan(&job, &plan, &ask, known).expect("a view");
                assert_eq!(seen(&hardly), seen(&all), "{weather:?} {kind:?}");
            }
        }
    }
    let whole = all.water.bytes_at_hand();
    // Of what is let go of only the last thing stays: less than a tenth of all.
    assert!(hardly.water.bytes_at_hand() * 10 < whole, "{} of {whole}", hardly.water.bytes_at_hand());
    assert_eq!(hardly.water.len(), all.water.len());
}
