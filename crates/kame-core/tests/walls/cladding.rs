//! The cladding as part of the plan: where it lies, what it takes, that it says nothing of a right wall, and when it is drawn (handbook 3.6).

use kame_core::findings::{Moment, State, by_cause};
use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::plan::{Plan, SurfaceId, build};
use kame_core::profile::fig;
use kame_core::recipe::Role;
use kame_core::surface::Rect;
use kame_core::takeoff::{Amount, uses};
use kame_core::view::{Ask, Material, SectionAsk, SectionKind, view};
use proptest::prelude::*;

/// A cladding with what it is hung on.
const CLADDINGS: [&[(&str, &str)]; 5] = [
    &[("cladding", "lap"), ("gap", "battens")],
    &[("cladding", "panel"), ("gap", "battens")],
    &[("cladding", "open"), ("gap", "battens"), ("barrier", "dark")],
    &[("cladding", "plaster"), ("barrier", "plaster"), ("gap", "mat")],
    &[("cladding", "stone"), ("barrier", "plaster"), ("gap", "mat")],
];

fn job(answers: &[(&str, &str)], hung: &str) -> Job {
    let mut job = Job::new("cladding");
    job.wall.width = Length::inch(240);
    job.openings[0].left = Length::inch(90);
    for (q, c) in answers.iter().chain(&[("hung", hung)]) {
        job.wall.schools.insert((*q).into(), (*c).into());
    }
    job
}

fn built(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

/// The state of the wall, and what is told of it.
fn told(job: &Job) -> (State, Vec<String>) {
    let plan = built(job);
    let moment = Moment::new(&plan, usize::MAX).expect("a layup");
    let found = moment.findings(&plan);
    let codes = by_cause(&plan, &found).iter().map(|c| c.told.code.clone()).collect();
    (moment.verdict(&plan, &found).state, codes)
}

fn parts(plan: &Plan, id: &str) -> Vec<Rect> {
    plan.pieces.iter().filter(|p| p.id.ends_with(id)).flat_map(|p| p.regions.iter().map(|(_, r)| *r)).collect()
}

fn ft2(rects: &[Rect]) -> f64 {
    rects.iter().map(|r| r.width().to_inches_f64() * r.height().to_inches_f64()).sum::<f64>() / 144.0
}

#[test]
fn a_right_wall_is_told_the_same_with_its_cladding_and_ends_with_it() {
    for answers in CLADDINGS {
        let (without, with) = (job(answers, "later"), job(answers, "here"));
        assert_eq!(told(&with), told(&without), "{answers:?}");
        let (without, with) = (built(&without), built(&with));
        assert!(with.steps.len() > without.steps.len());
        let last = &with.steps[*with.order.last().expect("a step")];
        let open = answers[0].1 == "open";
        assert!(last.id.ends_with(if open { "/cladding" } else { "/joints" }), "{}", last.id);
    }
}

#[test]
fn cladding_covers_the_wall_but_for_openings_with_their_joints_and_trim() {
    let plan = built(&job(CLADDINGS[0], "here"));
    let f = |id| plan.basis.figures.length(id);
    let (joint, head, trim) = (f(fig::BEAD_JOINT), f(fig::CAP_GAP), f(fig::TRIM_WIDTH));
    let window = plan.openings[0].rect;
    let hole = Rect {
        u0: window.u0 - joint - trim - joint,
        v0: window.v0 - joint - trim - joint,
        u1: window.u1 + joint + trim + joint,
        v1: window.v1 + head + trim + head,
    };
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let clad = parts(&plan, "wall/cladding");
    let whole = Rect { v1: plan.walls.outline.height(), ..wall };
    let same = |a: f64, b: f64| (a - b).abs() < 1e-9;
    // A board at each end of the wall, and its joint.
    let corners = [whole.u0, whole.u1 - trim].map(|u0| Rect { u0, u1: u0 + trim, ..whole });
    assert_eq!(parts(&plan, "wall/corners"), corners);
    let beside = corners.map(|r| Rect { u1: r.u1 + joint, ..r });
    assert!(same(ft2(&clad), ft2(&[whole]) - ft2(&[hole]) - ft2(&beside)));
    assert!(clad.iter().all(|r| !r.overlaps(hole)));
    for (i, r) in clad.iter().enumerate() {
        assert!(clad[..i].iter().all(|o| !o.overlaps(*r)), "no board lies twice");
    }
    // Four boards of trim stand in the ring between frame and cladding, off both by the joint.
    let boards = parts(&plan, "wall/trim");
    assert_eq!(boards.len(), 4);
    let inner = Rect { u0: window.u0 - joint, v0: window.v0 - joint, u1: window.u1 + joint, v1: window.v1 + head };
    let outer = Rect { u0: inner.u0 - trim, v0: inner.v0 - trim, u1: inner.u1 + trim, v1: inner.v1 + trim };
    assert!(same(ft2(&boards), ft2(&[outer]) - ft2(&[inner])));
}

#[test]
fn joints_are_sealed_at_jambs_sills_and_corner_boards_and_never_at_a_head() {
    for answers in CLADDINGS {
        let plan = built(&job(answers, "here"));
        let f = |id| plan.basis.figures.length(id);
        let (joint, head, trim) = (f(fig::BEAD_JOINT), f(fig::CAP_GAP), f(fig::TRIM_WIDTH));
        let (window, high) = (plan.openings[0].rect, plan.walls.outline.height());
        let sealed: Vec<Rect> = (plan.seals.iter().filter(|s| s.id.ends_with("wall/joints")))
            .flat_map(|s| s.rects.iter().map(|(_, r)| *r))
            .collect();
        let frame = window.height() + window.height() + window.width();
        let run: Length = match answers[0].1 {
            "open" => Length::ZERO,
            "plaster" | "stone" => frame,
            // Outside the trim, from the foot of the sill's board to the top of the head's, and beside the boards at both corners.
            _ => frame + (window.height() + joint + head + trim + trim).times(2) + high.times(2),
        };
        assert_eq!(sealed.iter().map(|r| r.width().max(r.height())).sum::<Length>(), run, "{answers:?}");
        for r in &sealed {
            assert_eq!(r.width().min(r.height()), joint);
            assert!(r.height() > r.width() || r.v1 == window.v0, "{r:?} lies across a head");
        }
        let bought = uses(&plan).into_iter().any(|u| u.what.starts_with("sealant"));
        assert_eq!(bought, !sealed.is_empty(), "{answers:?}");
    }
}

#[test]
fn what_hangs_outside_is_missed_where_it_is_left_out_and_is_no_reason_for_water() {
    let mut job = job(CLADDINGS[0], "here");
    for step in ["wall/trim", "wall/battens", "wall/cladding"] {
        job.sequence.removed = vec![step.into()];
        let plan = built(&job);
        let moment = Moment::new(&plan, usize::MAX).expect("a layup");
        let found = moment.findings(&plan);
        let of_step =
            |id: &String| id.starts_with("wall/") && plan.pieces.iter().any(|p| p.id == *id && p.role.is_outside());
        let about: Vec<_> = found.iter().filter(|f| f.pieces.iter().any(of_step)).collect();
        assert!(!about.is_empty() && moment.verdict(&plan, &found).state < State::WhileGlueHolds, "{step}");
        for f in &about {
            assert!(f.way.is_none() && !f.reason.contains("glue"), "{step}: {} {}", f.code, f.reason);
        }
    }
}

#[test]
fn plaster_is_bought_by_its_thickness_with_lath_and_film_that_comes_off() {
    let plan = built(&job(CLADDINGS[3], "here"));
    let clad = parts(&plan, "wall/cladding");
    let used = uses(&plan);
    let of = |product: &str| used.iter().filter(|u| u.product == product).map(|u| u.amount).collect::<Vec<_>>();
    let [Amount::Volume { fl_oz }] = of("Plaster")[..] else { panic!("one amount of plaster") };
    let number = |id| plan.basis.figures.number(id);
    let mil = plan.basis.figures.number(fig::PLASTER_COAT_MIL) * 3.0;
    let thick = ft2(&clad) * 144.0 * mil / 1000.0;
    let lost = number(fig::SUBSTRATE_FACTOR) / (1.0 - number(fig::COAT_LOSS) / 100.0);
    assert!((fl_oz - thick / 231.0 * 128.0 * lost).abs() < 1e-6 * fl_oz, "{fl_oz}");
    let lath = of("Lath").into_iter().map(|a| match a {
        Amount::Piece { length, width, .. } => length.to_inches_f64() * width.to_inches_f64() / 144.0,
        other => panic!("{other:?}"),
    });
    assert!(lath.sum::<f64>() >= ft2(&clad), "lath behind all of it");
    assert!(!of("Protective film").is_empty());
    let moment = Moment::new(&plan, usize::MAX).expect("a layup");
    let on = |role: Role| {
        moment
            .stage
            .layers
            .iter()
            .any(|l| plan.pieces[l.piece].role == role && plan.pieces[l.piece].id.ends_with("film"))
    };
    assert!(!on(Role::Lath), "the film is off at the end");
}

#[test]
fn the_section_shows_the_cladding_once_its_step_is_done() {
    let job = job(CLADDINGS[1], "here");
    let actions = built(&job).actions().count();
    let clad = |done: usize| {
        let section = Some(SectionAsk { opening: 0, kind: SectionKind::Head, at: 0.5 });
        let ask = Ask { section, done: Some(done), ..Ask::default() };
        let section = view(&job, &ask).unwrap_or_else(|p| panic!("{p:?}")).section.and_then(|s| s.built);
        section.expect("a section").shapes.iter().any(|s| s.of == Material::Cladding)
    };
    // Its last actions place the panels, fasten them, and seal their joints.
    assert!(clad(actions - 2) && !clad(actions - 3));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Wherever openings stand, cladding and trim lie on the wall, off every opening by its joint, and not over each other.
    #[test]
    fn cladding_keeps_its_joints(
        which in 0_usize..5,
        at in prop::collection::vec((10_i64..60, 12_i64..40, 12_i64..50), 1..4),
    ) {
        let mut job = job(CLADDINGS[which], "here");
        let first = job.openings[0].clone();
        job.openings.clear();
        let mut u = Length::ZERO;
        for (n, (gap, wide, high)) in at.iter().enumerate() {
            let mut o = first.clone();
            (o.id, o.name) = (format!("W{}", n + 1), format!("Window {}", n + 1));
            (o.left, o.width, o.height) = (u + Length::inch(*gap), Length::inch(*wide), Length::inch(*high));
            u = o.left + o.width;
            job.openings.push(o);
        }
        prop_assume!(u + Length::inch(12) < job.wall.width);
        let Ok(plan) = build(&job) else { return Ok(()) };
        let joint = plan.basis.figures.length(fig::BEAD_JOINT);
        let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
        let seen: Vec<Rect> = plan.pieces.iter().filter(|p| p.role == Role::Cladding).flat_map(|p| p.regions.iter().map(|(_, r)| *r)).collect();
        prop_assert!(!seen.is_empty());
        for (i, r) in seen.iter().enumerate() {
            prop_assert!(r.has_area() && r.intersection(wall) == Some(*r));
            prop_assert!(seen[..i].iter().all(|o| !o.overlaps(*r)), "{r:?}");
            for o in &plan.openings {
                let w = o.rect;
                let near = Rect { u0: w.u0 - joint, v0: w.v0 - joint, u1: w.u1 + joint, v1: w.v1 };
                prop_assert!(!near.overlaps(*r), "{r:?} at {}", o.id);
            }
        }
    }
}

#[test]
fn cladding_that_is_tight_on_a_cap_is_told() {
    let mut tight = job(CLADDINGS[0], "here");
    tight.openings[0].schools.insert("head".into(), "cap".into());
    assert!(!told(&tight).1.iter().any(|c| c == "F13"), "{:?}", told(&tight));
    tight.figures.insert("cap_gap".into(), "1/16".into());
    assert!(told(&tight).1.iter().any(|c| c == "F13"), "{:?}", told(&tight));
}
