//! The stack drawn apart, and schools side by side.

use kame_core::edit::{Edit, apply};
use kame_core::findings::Moment;
use kame_core::job::Job;
use kame_core::plan::build;
use kame_core::recipe::Role;
use kame_core::recipe::schools::Answers;
use kame_core::view::{Exploded, compare, explode};
use std::collections::BTreeSet;

fn answers(list: &[(&str, &str)]) -> Answers {
    list.iter().map(|(q, c)| ((*q).to_owned(), (*c).to_owned())).collect()
}

fn drawn(list: &[(&str, &str)], done: usize) -> (Exploded, kame_core::plan::Plan) {
    let edit = Edit::TakeSchools { opening: "W1".into(), answers: answers(list) };
    let (_, plan) = apply(&Job::new("drawn"), &edit).unwrap_or_else(|p| panic!("{p:?}"));
    let moment = Moment::new(&plan, done).expect("a layup");
    (explode(&plan, &moment, 0).expect("an opening"), plan)
}

fn span(points: impl Iterator<Item = [f64; 2]>, k: usize) -> (f64, f64) {
    points.map(|p| p[k]).fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), x| (lo.min(x), hi.max(x)))
}

#[test]
fn every_placed_piece_of_the_opening_is_lifted_off_in_working_order() {
    for list in [&[][..], &[("unit", "frame"), ("position", "in"), ("sill", "gussets")], &[("barrier", "fluid")]] {
        let (e, plan) = drawn(list, usize::MAX);
        let shown: BTreeSet<&str> = e.pieces.iter().map(|p| p.piece.as_str()).collect();
        for p in plan.pieces.iter().filter(|p| p.opening == Some(0)) {
            assert!(shown.contains(p.id.as_str()), "{list:?}: {} is not drawn", p.id);
        }
        assert!(e.pieces.windows(2).all(|w| w[0].lift <= w[1].lift), "{list:?}");
        let step = |p: &kame_core::view::ExplodedPiece| plan.order.iter().position(|s| plan.steps[*s].title == p.step);
        assert!(e.pieces.windows(2).all(|w| step(&w[0]) <= step(&w[1])), "{list:?}");
    }
}

#[test]
fn lengths_along_the_wall_are_true() {
    let (e, plan) = drawn(&[], usize::MAX);
    let head = e.pieces.iter().find(|p| p.piece == "W1/head-flashing").expect("head flashing");
    let (lo, hi) = span(head.faces.iter().flatten().copied(), 0);
    let cut = plan.pieces.iter().find(|p| p.id == "W1/head-flashing").and_then(|p| p.cut.clone()).expect("cut size");
    assert!((hi - lo - cut.length.to_inches_f64()).abs() < 1e-9);
    let jamb = e.pieces.iter().find(|p| p.piece == "W1/jamb-flashing-left").expect("jamb flashing");
    let (lo, hi) = span(jamb.faces.iter().flatten().copied(), 1);
    let cut =
        plan.pieces.iter().find(|p| p.id == "W1/jamb-flashing-left").and_then(|p| p.cut.clone()).expect("cut size");
    assert!((hi - lo - cut.length.to_inches_f64()).abs() < 1e-9);
}

#[test]
fn what_is_folded_shows_its_folds_and_what_is_flat_has_none() {
    let (e, _) = drawn(&[], usize::MAX);
    let folds = |id: &str| e.pieces.iter().find(|p| p.piece == id).expect(id).folds.len();
    assert!(folds("W1/pan") >= 3, "sill to face, and up both jambs");
    assert_eq!((folds("W1/head-flashing"), folds("W1/patch-left")), (0, 0));
    let unit = e.pieces.iter().find(|p| p.role == Role::Unit).expect("unit");
    assert!(unit.folds.len() >= 4, "the flange turns into the frame on four sides");
}

#[test]
fn everything_lies_in_the_frame_and_pieces_of_one_step_on_one_level() {
    let (e, _) = drawn(&[("head", "cap"), ("sill", "bow-ties")], usize::MAX);
    let [x, y, w, h] = e.frame;
    for p in &e.pieces {
        for c in p.faces.iter().flatten() {
            assert!(c[0] >= x && c[0] <= x + w && c[1] >= y && c[1] <= y + h, "{}", p.name);
        }
    }
    let lift = |id: &str| e.pieces.iter().find(|p| p.piece == id).expect(id).lift;
    assert_eq!(lift("W1/corner-left"), lift("W1/corner-right"));
    assert!(lift("W1/corner-left") > lift("W1/pan") && lift("W1/cap-tape") > lift("W1/head-flashing"));
}

#[test]
fn nothing_is_drawn_before_anything_is_placed() {
    let (e, _) = drawn(&[], 0);
    assert_eq!((e.pieces.len(), e.frame), (0, [0.0; 4]));
}

#[test]
fn a_side_is_the_same_whatever_stands_beside_it() {
    let job = Job::new("beside");
    let (usual, metal, level) = (answers(&[]), answers(&[("sill", "metal")]), answers(&[("seat", "level")]));
    let both = |a: &Answers, b: &Answers| {
        compare(&job, "W1", &[a.clone(), b.clone()], None).unwrap_or_else(|p| panic!("{p:?}"))
    };
    let (one, two) = (both(&usual, &metal), both(&metal, &level));
    let plain = |mut s: kame_core::view::ComparedSide| {
        s.answers.iter_mut().for_each(|a| a.differs = false);
        s
    };
    assert_eq!(plain(one.sides[1].clone()), plain(two.sides[0].clone()));
    assert_ne!(one.sides[0].minutes, one.sides[1].minutes);
    assert_eq!(one.sides[0].answers.iter().filter(|a| a.differs).count(), 1);
}

#[test]
fn a_comparison_leaves_the_job_alone_and_names_the_side_that_cannot_be_built() {
    let job = Job::new("alone");
    let cannot =
        compare(&job, "W1", &[answers(&[]), answers(&[("bottom", "sealed")])], Some("bottom")).expect_err("refused");
    assert!(cannot.iter().all(|p| p.path.starts_with("$.sides[1]")), "{cannot:?}");
    assert_eq!(build(&job).map(|p| p.openings[0].answers["bottom"].clone()).ok().as_deref(), Some("open"));
    let unknown = compare(&job, "D9", &[answers(&[]), answers(&[])], None).expect_err("refused");
    assert!(unknown[0].message.contains("D9"));
}
