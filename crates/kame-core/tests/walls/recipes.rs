//! Recipe data and course rules hold for whatever sizes there are.

use kame_core::edit::{Edit, apply};
use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::plan::course::{CourseInput, plan_courses};
use kame_core::plan::{Part, SurfaceId, build};
use kame_core::recipe::schools::{Answers, Schools};
use kame_core::recipe::{ActionSpec, Recipe};
use kame_core::surface::Rect;
use kame_core::trade::{Act, CutId};
use proptest::prelude::*;
use std::collections::BTreeSet;

/// Recipes in which every answer to every question comes up at least once, with the answers that make them.
fn recipes() -> Vec<(Answers, Recipe)> {
    let schools = Schools::shipped().expect("school data");
    let mut fresh = BTreeSet::new();
    let mut out = Vec::new();
    for answers in schools.pairs() {
        let new = answers.iter().fold(false, |new, (q, c)| fresh.insert((q.clone(), c.clone())) || new);
        if new {
            out.push((answers.clone(), Recipe::clone(&schools.recipe(&answers))));
        }
    }
    for q in &schools.questions {
        // What is refused whatever else is answered is there to be told why.
        for c in q.choice.iter().filter(|c| c.refuse.iter().all(|r| !r.when.is_empty())) {
            assert!(fresh.contains(&(q.id.clone(), c.id.clone())), "{}: {} can never be built", q.id, c.id);
        }
    }
    out
}

#[test]
fn every_answer_makes_a_recipe_that_names_each_thing_once() {
    for (answers, r) in recipes() {
        let once = |what: &str, ids: Vec<&str>| {
            let set: BTreeSet<&&str> = ids.iter().collect();
            assert_eq!(set.len(), ids.len(), "{answers:?}: {what} {ids:?}");
        };
        once("surfaces", r.surface.iter().map(|s| s.id.as_str()).collect());
        once("pieces", r.piece.iter().map(|s| s.id.as_str()).collect());
        once("seals", r.seal.iter().map(|s| s.id.as_str()).collect());
        once("cuts", r.cut.iter().map(|s| s.id.as_str()).collect());
        once("steps", r.step.iter().map(|s| s.id.as_str()).collect());
        once("targets", r.target.iter().map(|s| s.id.as_str()).collect());
        assert!(r.step.windows(2).all(|w| w[0].band <= w[1].band));
    }
}

#[test]
fn every_piece_is_placed_every_adhered_one_rolled_every_seal_laid_once() {
    for (name, r) in recipes() {
        let actions: Vec<&ActionSpec> = r.step.iter().flat_map(|s| &s.actions).collect();
        for p in &r.piece {
            let placed = actions.iter().filter(|a| matches!(a, ActionSpec::Place { piece, .. } | ActionSpec::Set { piece } | ActionSpec::Coat { piece, .. } if *piece == p.id)).count();
            assert_eq!(placed, 1, "{name:?}: {}", p.id);
            let rolled = actions.iter().filter(|a| matches!(a, ActionSpec::Press { piece } if *piece == p.id)).count();
            assert_eq!(rolled, usize::from(p.bond == kame_core::layup::Bond::Full), "{name:?}: {}", p.id);
            let cured = actions
                .iter()
                .filter(|a| matches!(a, ActionSpec::Wait { piece: Some(piece), .. } if *piece == p.id))
                .count();
            assert_eq!(cured, usize::from(p.bond == kame_core::layup::Bond::Cured), "{name:?}: {}", p.id);
        }
        for s in &r.seal {
            let laid = actions.iter().filter(|a| matches!(a, ActionSpec::Seal { seal } if *seal == s.id)).count();
            assert_eq!(laid, 1, "{name:?}: {}", s.id);
        }
    }
}

#[test]
fn every_step_says_what_to_check_and_why_in_few_words() {
    for (name, r) in recipes() {
        for s in &r.step {
            assert!(!s.check.is_empty() && !s.why.is_empty() && !s.actions.is_empty(), "{name:?}: {}", s.id);
            assert!(s.what.chars().count() <= 340, "{name:?}: {} is too long for a ladder", s.id);
        }
    }
}

#[test]
fn faults_of_required_overs_are_of_the_catalogue() {
    for (_, r) in recipes() {
        for o in r.over {
            let number: u32 = o.fault.strip_prefix('F').and_then(|n| n.parse().ok()).unwrap_or(0);
            assert!((1..=40).contains(&number) && !o.because.is_empty(), "{} over {}", o.upper, o.lower);
        }
    }
}

#[test]
fn the_recipe_s_own_order_meets_every_required_over() {
    let plan = build(&Job::new("order")).expect("a plan");
    let place = |part: Part| {
        plan.actions().position(|(_, a)| match (part, &a.act) {
            (Part::Piece(p), Act::Place { piece, .. } | Act::Set { piece }) => p == *piece,
            (Part::Flap(f), Act::Drop { flap }) => f == *flap,
            (Part::Barrier(_), Act::Place { piece, .. }) => plan.pieces[*piece].id.starts_with("course"),
            _ => false,
        })
    };
    for o in &plan.overs {
        let (upper, lower) = (place(o.upper).expect("placed"), place(o.lower).expect("placed"));
        assert!(upper > lower, "{} over {}", plan.part_name(o.upper), plan.part_name(o.lower));
        assert!(plan.step_of(o.upper).is_some());
    }
}

#[test]
fn pieces_of_one_opening_lie_inside_its_hull_and_on_their_surfaces() {
    let plan = build(&Job::new("hull")).expect("a plan");
    for p in plan.pieces.iter().filter(|p| p.opening.is_some()) {
        for (on, r) in &p.regions {
            let room = if *on == SurfaceId::WALL { plan.openings[0].hull } else { plan.surfaces[*on].facet.rect() };
            assert!(room.contains(*r), "{}", p.name);
        }
    }
}

#[test]
fn folds_keep_their_size_when_they_are_turned() {
    let plan = build(&Job::new("folds")).expect("a plan");
    for fold in &plan.cuts[CutId(0)].folds {
        let landed = fold.landing(fold.from);
        let sides = |r: Rect| (r.width().min(r.height()), r.width().max(r.height()));
        assert_eq!(sides(landed), sides(fold.from));
        assert!(plan.surfaces[fold.to].facet.rect().contains(landed), "{landed:?}");
    }
}

#[test]
fn wider_tape_makes_wider_flashings_and_longer_heads() {
    let size = |tape: &str| {
        let edit = Edit::SetFigure { id: "jamb_tape_width".into(), value: Some(tape.into()) };
        let (_, plan) = apply(&Job::new("tape"), &edit).unwrap_or_else(|p| panic!("{p:?}"));
        let cut = |id: &str| plan.pieces.iter().find(|p| p.id == id).and_then(|p| p.cut.clone()).expect(id);
        (cut("W1/jamb-flashing-left").width, cut("W1/head-flashing").length)
    };
    let (narrow, wide) = (size("6"), size("9"));
    assert_eq!(wide.0 - narrow.0, Length::inch(3));
    assert_eq!(wide.1 - narrow.1, Length::inch(6));
}

#[test]
fn a_lining_wider_than_any_stock_is_cut_from_its_own_width() {
    let edit = Edit::SetOpening {
        id: "W1".into(),
        name: None,
        left: None,
        sill: None,
        width: None,
        height: None,
        depth: Some(Length::inch(14)),
        flange: None,
    };
    let (_, plan) = apply(&Job::new("deep"), &edit).unwrap_or_else(|p| panic!("{p:?}"));
    let lining = plan.pieces.iter().find(|p| p.id == "W1/lining-left").and_then(|p| p.cut.clone()).expect("lining");
    assert_eq!((lining.width, lining.stock_width), (Length::inch(14), Length::inch(14)));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn courses_cover_the_wall_and_lap_as_asked(w in 100_i64..2000, h in 60_i64..300, roll in 36_i64..120, length in 300_i64..1500, sill in 20_i64..40) {
        let openings = [Rect::new(Length::inch(30), Length::inch(sill), Length::inch(60), Length::inch(sill + 30))];
        let outline = kame_core::surface::Outline::new(Vec::new(), Length::inch(w), Length::inch(h), Length::inch(6));
        let input = CourseInput {
            outline: &outline,
            height: Length::inch(h),
            roll_width: Length::inch(roll),
            roll_length: Length::inch(length),
            lap: Length::inch(4),
            side_lap: Length::inch(6),
            stagger: Length::inch(36),
            corner_clear: Length::inch(12),
            clear_above: Length::inch(10),
            clear_below: Length::inch(6),
            pan_up_turn: Length::inch(6),
            least_strip: Length::inch(12),
            openings: &openings,
            corners: &[],
            corner_wrap: Length::inch(12),
            round: false,
        };
        let plan = plan_courses(&input, None).map_err(|e| TestCaseError::fail(e.to_string()))?;
        prop_assert_eq!(plan.courses[0].bottom, Length::ZERO);
        prop_assert_eq!(plan.courses.last().expect("a course").top, input.height);
        for c in plan.courses.windows(2) {
            prop_assert_eq!(c[0].top - c[1].bottom, input.lap);
        }
        let mut used = std::collections::BTreeMap::new();
        for c in &plan.courses {
            prop_assert!(c.top - c.bottom <= input.roll_width && c.top > c.bottom);
            prop_assert_eq!((c.runs[0].left, c.runs.last().expect("a run").right), (Length::ZERO, Length::inch(w)));
            for r in c.runs.windows(2) {
                prop_assert_eq!(r[0].right - r[1].left, input.side_lap);
            }
            for r in &c.runs {
                prop_assert!(r.roll < plan.rolls);
                let area = (r.right - r.left).to_inches_f64() * (c.top - c.bottom).to_inches_f64();
                *used.entry(r.roll).or_insert(0.0) += area;
            }
        }
        let whole = input.roll_width.to_inches_f64() * input.roll_length.to_inches_f64();
        prop_assert!(used.values().all(|a| *a <= whole + 1e-6), "no roll gives more than it has: {used:?}");
        prop_assert!(!plan.why.is_empty());
    }

    #[test]
    fn every_size_either_builds_or_says_what_is_wrong(w in 0_i64..3000, h in 0_i64..1200, left in -50_i64..400, sill in -50_i64..300, width in 0_i64..300, height in 0_i64..300) {
        let mut job = Job::new("any");
        (job.wall.width, job.wall.height) = (Length::inch(w), Length::inch(h));
        let o = &mut job.openings[0];
        (o.left, o.sill, o.width, o.height) = (Length::inch(left), Length::inch(sill), Length::inch(width), Length::inch(height));
        match build(&job) {
            Ok(plan) => prop_assert!(plan.surfaces[SurfaceId::WALL].facet.rect().contains(plan.openings[0].hull)),
            Err(problems) => prop_assert!(!problems.is_empty() && problems.iter().all(|p| p.path.starts_with("$.") && p.message.len() > 20), "{problems:?}"),
        }
    }
}

#[test]
fn the_document_of_schools_names_every_answer() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/SCHOOLS.md");
    let text = std::fs::read_to_string(path).expect("docs/SCHOOLS.md");
    for q in &Schools::shipped().expect("school data").questions {
        assert!(text.contains(&q.ask), "{}", q.ask);
        for c in &q.choice {
            assert!(
                text.contains(&format!("| **{}** `{}` | {} | {} |", c.name, c.id, c.good, c.asks)),
                "{} {}",
                q.id,
                c.id
            );
        }
    }
}
