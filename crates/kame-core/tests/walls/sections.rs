//! Sections as walls are built: every part named once, leaders that never cross, laps with their sizes, the unit by its kind.

use kame_core::job::{CornerKind, CornerSpec, Job, read_job};
use kame_core::length::Length;
use kame_core::plan::build;
use kame_core::recipe::schools::{Feature, Schools, Scope};
use kame_core::stop::Stop;
use kame_core::view::{
    Ask, Built, ChoicePictures, ChoicesAsk, Material, Section, SectionAsk, SectionKind, Weather, choices, view,
};
use std::collections::BTreeMap;

fn demo(name: &str) -> Job {
    let path = format!("{}/../../demo/{name}.kame.json", env!("CARGO_MANIFEST_DIR"));
    read_job(&std::fs::read(path).expect("the demo")).unwrap_or_else(|p| panic!("{p:?}"))
}

fn built(job: &Job, opening: usize, kind: SectionKind, done: Option<usize>) -> Option<Built> {
    let section = Some(SectionAsk { opening, kind, at: 0.5 });
    let ask = Ask { section, done, weather: Weather::Rain, ..Ask::default() };
    view(job, &ask).unwrap_or_else(|p| panic!("{p:?}")).section.and_then(|s| s.built)
}

/// True where two stretches cross, not where they only touch.
fn cross([a, b]: [[f64; 2]; 2], [c, d]: [[f64; 2]; 2]) -> bool {
    let side = |p: [f64; 2], q: [f64; 2], r: [f64; 2]| (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
    let apart = |x: f64, y: f64| x * y < -1e-9;
    apart(side(a, b, c), side(a, b, d)) && apart(side(c, d, a), side(c, d, b))
}

#[track_caller]
fn right(b: &Built, what: &str) {
    assert!(b.frame[2] > 5.0 && b.frame[3] > 3.0, "{what}: {:?}", b.frame);
    for (i, m) in b.marks.iter().enumerate() {
        for n in &b.marks[i + 1..] {
            assert!(m.text != n.text, "{what}: {} names {} and {}", m.text, m.name, n.name);
            let parts = |l: &[[f64; 2]; 3]| [[l[0], l[1]], [l[1], l[2]]];
            for p in parts(&m.leader) {
                for q in parts(&n.leader) {
                    assert!(!cross(p, q), "{what}: the leaders of {} and {} cross", m.name, n.name);
                }
            }
        }
        let [x, y] = m.leader[2];
        let inside = x >= b.frame[0] && x <= b.frame[0] + b.frame[2] && y >= b.frame[1] && y <= b.frame[1] + b.frame[3];
        assert!(inside, "{what}: the mark of {} stands outside of {:?}: {x} {y}", m.name, b.frame);
    }
    let points = b.runs.iter().flat_map(|r| &r.line).chain(b.shapes.iter().flat_map(|s| &s.outline));
    assert!(points.into_iter().all(|p| p.iter().all(|c| c.is_finite())), "{what}");
    for s in b.shapes.iter().filter(|s| s.outline.len() > 2) {
        let area = |o: &[[f64; 2]]| {
            (0..o.len()).map(|i| o[i][0] * o[(i + 1) % o.len()][1] - o[(i + 1) % o.len()][0] * o[i][1]).sum::<f64>()
        };
        assert!(area(&s.outline).abs() > 1e-6, "{what}: {} has no area: {:?}", s.name, s.outline);
    }
}

#[test]
fn every_feature_of_the_demo_is_cut_by_each_kind_and_every_mark_is_its_own() {
    let mut cut = 0;
    for name in ["heron-spit-four-openings", "heron-spit-station"] {
        let job = demo(name);
        let few = job.openings.iter().enumerate().step_by(if job.openings.len() > 20 { 7 } else { 1 });
        for (i, o) in few {
            for kind in SectionKind::of(o.feature, !job.wall.corners.is_empty()) {
                let b = built(&job, i, *kind, None).unwrap_or_else(|| panic!("{} {kind:?}", o.id));
                right(&b, &format!("{name} {} {kind:?}", o.id));
                assert!(
                    b.shapes.iter().any(|s| matches!(s.of, Material::Framing | Material::Stud)),
                    "{} {kind:?}",
                    o.id
                );
                assert!(b.shapes.iter().any(|s| s.of == Material::Cladding), "{} {kind:?}", o.id);
                cut += 1;
            }
        }
    }
    assert!(cut > 30, "{cut}");
}

#[test]
fn units_are_drawn_by_their_kind_on_every_barrier() {
    let barriers = ["loose", "plaster", "adhered", "fluid", "panel", "insulated", "gypsum", "insulation-face"];
    let units: [(&str, &str); 4] = [("flanged", "out"), ("frame", "out"), ("frame", "in"), ("door", "out")];
    for barrier in barriers {
        for (unit, position) in units {
            let mut job = Job::new("units");
            job.wall.schools.insert("barrier".into(), barrier.into());
            job.openings[0].schools =
                [("unit", unit), ("position", position)].map(|(q, a)| (q.to_owned(), a.to_owned())).into();
            let schools = Schools::of(Feature::Opening).expect("schools");
            let all = job.wall.schools.iter().chain(&job.openings[0].schools).map(|(q, a)| (q.clone(), a.clone()));
            if schools.complete(&all.collect()).is_err() {
                continue;
            }
            for kind in [SectionKind::Sill, SectionKind::Head, SectionKind::Jamb] {
                let b = built(&job, 0, kind, None).expect("cut");
                let what = format!("{barrier} {unit} {position} {kind:?}");
                right(&b, &what);
                let has = |name: &str| b.shapes.iter().any(|s| s.name == name);
                assert_eq!(has("threshold"), unit == "door" && kind == SectionKind::Sill, "{what}");
                assert_eq!(has("glass"), unit != "door", "{what}");
                assert_eq!(has("nail through the flange"), unit == "flanged" && kind != SectionKind::Sill, "{what}");
                let frame = b.shapes.iter().find(|s| s.of == Material::Frame).expect("a frame");
                assert!(frame.step.as_deref() == Some("W1/set"), "{what}: {:?}", frame.step);
            }
        }
    }
}

#[test]
fn what_is_not_there_yet_is_not_drawn_and_laps_carry_their_sizes() {
    let job = Job::new("laps");
    let nothing = built(&job, 0, SectionKind::Sill, Some(0)).expect("cut");
    right(&nothing, "nothing done");
    assert!(
        nothing.runs.is_empty() && nothing.shapes.iter().all(|s| !matches!(s.of, Material::Frame | Material::Cladding))
    );
    let done = built(&job, 0, SectionKind::Head, None).expect("cut");
    // The sheet hangs over the head flashing by what the plan says.
    let plan = kame_core::plan::build(&job).expect("a plan");
    let over = done.sizes.iter().find(|z| z.what.ends_with("over head flashing")).expect("the lap is sized");
    let head = plan.pieces.iter().find(|p| p.id == "W1/head-flashing").expect("there");
    let top = head.regions[0].1.v1;
    let drawn = (over.line[0][1] - over.line[1][1]).abs();
    assert!((Length::parse(&over.text).expect("a length").to_inches_f64() - drawn).abs() < 1e-9, "{over:?}");
    assert!(drawn <= (top - plan.openings[0].rect.v1).to_inches_f64() + 1e-9);
    assert!(done.thickened.contains("5 times"), "{}", done.thickened);
}

#[test]
fn a_stack_drawn_apart_fills_its_frame_and_its_leaders_never_cross() {
    let job = demo("heron-spit-four-openings");
    for i in 0..job.openings.len() {
        let ask = Ask { exploded: Some(i), ..Ask::default() };
        let x = view(&job, &ask).unwrap_or_else(|p| panic!("{p:?}")).exploded.expect("drawn apart");
        assert!(x.ground.len() >= 4 && x.pieces.len() > 3, "{}: {}", x.opening, x.pieces.len());
        let [left, top, width, height] = x.frame;
        assert!((0.8..2.6).contains(&(width / height)), "{}: {width} by {height}", x.opening);
        for (n, p) in x.pieces.iter().enumerate() {
            let points = p.faces.iter().flatten().chain(&p.leader);
            for q in points {
                let inside = q[0] >= left && q[0] <= left + width && q[1] >= top && q[1] <= top + height;
                assert!(inside, "{} {}: {q:?} outside of {:?}", x.opening, p.name, x.frame);
            }
            for q in &x.pieces[n + 1..] {
                let bent = |l: &[[f64; 2]; 3]| [l[1], l[2]];
                assert!(!cross(bent(&p.leader), bent(&q.leader)), "{}: {} and {}", x.opening, p.name, q.name);
            }
            // Lifted along one slanted axis: the thread goes back to where it lies.
            let [from, to] = p.thread;
            let slant = (to[1] - from[1]) / (to[0] - from[0]);
            assert!((slant - 0.26 / -0.6).abs() < 1e-6, "{}: {slant}", p.name);
        }
        assert!(x.pieces.windows(2).all(|w| w[0].lift <= w[1].lift));
    }
}

#[test]
fn answers_to_a_question_are_drawn_in_the_section_in_which_they_differ_most() {
    let job = Job::new("choices");
    let of = |question: &str, opening: Option<&str>| {
        choices(&job, ChoicesAsk { question, opening, wall: 0 }, &Stop::default()).map_err(|p| p[0].path.clone())
    };
    // How the corners of a pan are made is seen on the pieces themselves: only those that differ are drawn.
    let pans = of("sill", Some("W1")).expect("drawn").choices;
    let apart: Vec<_> = pans.iter().filter_map(|c| c.apart.as_ref()).collect();
    assert!(apart.len() >= 8 && pans.iter().all(|c| c.section.is_none()), "{pans:?}");
    let names = |n: usize| apart[n].pieces.iter().map(|p| p.name.as_str()).collect::<Vec<_>>();
    assert!((0..apart.len()).all(|n| !names(n).is_empty() && !names(n).contains(&"window")), "{:?}", names(0));
    let drawn = |all: ChoicePictures| -> Vec<Section> { all.choices.into_iter().filter_map(|c| c.section).collect() };
    for (question, kind) in [("dam", SectionKind::Sill), ("head", SectionKind::Head)] {
        let sections = drawn(of(question, Some("W1")).expect("drawn"));
        assert!(sections.len() >= 2 && sections.iter().all(|s| s.kind == kind && s.built.is_some()), "{question}");
        assert!(sections.iter().any(|s| s.built != sections[0].built), "{question}");
    }
    let base = drawn(of("base", None).expect("drawn"));
    assert!(base.len() >= 3 && base.iter().all(|s| s.kind == SectionKind::Base), "{base:?}");
    // Which end courses are hung from is seen in no section.
    let lapping = of("lapping", None).expect("answered");
    assert!(lapping.choices.iter().all(|c| c.section.is_none() && c.apart.is_none()), "{lapping:?}");
    assert_eq!(of("moon", Some("W1")), Err("$.question".to_owned()));
    assert_eq!(of("sill", Some("W9")), Err("$.opening".to_owned()));
    let stopped = Stop::default();
    stopped.stop();
    let ask = ChoicesAsk { question: "sill", opening: Some("W1"), wall: 0 };
    assert!(choices(&job, ask, &stopped).is_err());
}

#[test]
fn every_question_can_be_drawn_at_what_it_is_asked_of_and_what_is_built_now_is_among_its_pictures() {
    for feature in Feature::ALL {
        let mut job = Job::new("all");
        job.openings[0].feature = feature;
        if feature == Feature::Penetration {
            (job.openings[0].width, job.openings[0].height) = (Length::inch(4), Length::inch(4));
        }
        let plan = build(&job).unwrap_or_else(|p| panic!("{feature:?}: {p:?}"));
        let asked = Schools::of(feature).expect("schools").questions.iter().filter(|q| !q.choice.is_empty());
        for q in asked {
            let opening = (q.scope == Scope::Opening).then_some("W1");
            let ask = ChoicesAsk { question: &q.id, opening, wall: 0 };
            let all = choices(&job, ask, &Stop::default()).unwrap_or_else(|p| panic!("{}: {p:?}", q.id));
            let now = all.choices.iter().find(|c| Some(&c.choice) == plan.openings[0].answers.get(&q.id));
            let shown = |c: &kame_core::view::ChoicePicture| c.section.is_some() || c.apart.is_some();
            assert!(!all.choices.iter().any(shown) || now.is_some_and(shown), "{feature:?} {}", q.id);
        }
    }
}

#[test]
fn sheets_run_round_a_corner_in_one_line_and_say_how_far_they_go_past_it() {
    for (kind, turn) in [(CornerKind::Outside, 1.0), (CornerKind::Inside, -1.0)] {
        let mut job = Job::new("corner");
        let at = Length::inch(100);
        let name = "East".to_owned();
        job.wall.corners = vec![CornerSpec { at, kind, name, schools: BTreeMap::new(), products: BTreeMap::new() }];
        let plan = build(&job).expect("a plan");
        let section = Some(SectionAsk { opening: 0, kind: SectionKind::Corner, at: 0.5 });
        let cut = view(&job, &Ask { section, ..Ask::default() }).expect("a view").section.expect("cut");
        let height = plan.openings[0].rect.v0.to_inches_f64() + plan.openings[0].rect.height().to_inches_f64() / 2.0;
        assert_eq!((cut.cut[0] + cut.cut[2]) / 2.0, 100.0, "the cut line is about the corner");
        assert!(cut.bands.iter().any(|b| b.line.iter().any(|p| (p[0] - turn * p[1]).abs() < 1e-9 && p[1] > 0.0)));
        let b = cut.built.expect("built");
        right(&b, &format!("{kind:?}"));
        // A sheet that lies on both sides of the corner is one line, through where both walls' planes at its depth meet.
        let round = |p: &&kame_core::plan::Piece| {
            p.regions
                .iter()
                .any(|(_, r)| r.u0 < at && at < r.u1 && r.v0.to_inches_f64() < height && height < r.v1.to_inches_f64())
        };
        let sheets: Vec<_> = plan.pieces.iter().filter(round).filter(|p| !p.role.is_outside()).collect();
        assert!(!sheets.is_empty(), "{kind:?}");
        for p in sheets {
            let line = &b.runs.iter().find(|r| r.piece == p.id).unwrap_or_else(|| panic!("{}", p.id)).line;
            let on_left = line.iter().find(|q| q[0] < -1.0).unwrap_or_else(|| panic!("{} {line:?}", p.id));
            let out = on_left[1];
            let meets = line.iter().any(|q| (q[0] - turn * out).abs() < 1e-9 && (q[1] - out).abs() < 1e-9);
            let on_right = line.iter().any(|q| (q[0] - turn * out).abs() < 1e-9 && q[1] * turn < -1.0);
            assert!(meets && on_right, "{kind:?} {}: {line:?}", p.id);
        }
        for z in b.sizes.iter().filter(|z| z.what.ends_with("past the corner")) {
            let [p, q] = z.line;
            let drawn = (p[0] - q[0]).hypot(p[1] - q[1]);
            assert!((Length::parse(&z.text).expect("a length").to_inches_f64() - drawn).abs() < 1e-9, "{z:?}");
            let name = z.what.trim_end_matches(" past the corner");
            let mine = plan.pieces.iter().filter(|p| p.name == name).flat_map(|p| &p.regions);
            let edges: Vec<f64> =
                mine.flat_map(|(_, r)| [r.u0, r.u1]).map(|u| (u - at).to_inches_f64().abs()).collect();
            assert!(edges.iter().any(|e| (e - drawn).abs() < 1e-9), "{z:?} {edges:?}");
        }
        // Each part of both walls is named once, and what stands on the right wall alone is named there.
        for what in ["corner studs", "board inside", "insulation between studs"] {
            assert_eq!(b.marks.iter().filter(|m| m.name == what).count(), 1, "{kind:?} {what}");
        }
    }
}

#[test]
fn walls_without_a_corner_are_cut_by_what_they_have() {
    let job = Job::new("no corner");
    let section = Some(SectionAsk { opening: 0, kind: SectionKind::Corner, at: 0.5 });
    let cut = view(&job, &Ask { section, ..Ask::default() }).expect("a view").section.expect("cut");
    assert_eq!(cut.kind, SectionKind::Sill);
}
