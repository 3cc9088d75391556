//! What hangs on the whole wall: panels and coats, courses fitted round units that stand, notes, and things done other than planned.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Finding, Fix, Moment, Severity};
use kame_core::job::{Deviation, DeviationKind, Job};
use kame_core::kit::products;
use kame_core::layup::Bond;
use kame_core::length::Length;
use kame_core::plan::{Plan, SurfaceId, build};
use kame_core::profile::fig;
use kame_core::sequence::Stage;
use kame_core::surface::Rect;
use kame_core::takeoff::{minutes, temperatures};
use kame_core::trade::PieceId;
use proptest::prelude::*;

fn job(wall: &[(&str, &str)], opening: &[(&str, &str)]) -> Job {
    let mut job = Job::new("families");
    job.wall.width = Length::inch(150);
    for (q, c) in wall {
        job.wall.schools.insert((*q).to_owned(), (*c).to_owned());
    }
    for (q, c) in opening {
        job.openings[0].schools.insert((*q).to_owned(), (*c).to_owned());
    }
    job
}

fn plan(wall: &[(&str, &str)], opening: &[(&str, &str)]) -> Plan {
    build(&job(wall, opening)).unwrap_or_else(|p| panic!("{p:?}"))
}

fn finished(plan: &Plan) -> Stage {
    Stage::after(plan, plan.actions().map(|(_, a)| a))
}

fn on_wall(plan: &Plan, prefix: &str) -> Vec<Rect> {
    let of = plan.pieces.iter().filter(|p| p.id.starts_with(prefix));
    of.flat_map(|p| &p.regions).filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r).collect()
}

fn found(plan: &Plan) -> Vec<Finding> {
    Moment::new(plan, usize::MAX).expect("a layup").findings(plan)
}

#[test]
fn panels_fill_the_wall_but_for_their_gaps_and_every_gap_is_taped() {
    let plan = plan(&[("barrier", "panel")], &[]);
    let (panels, joints) = (on_wall(&plan, "panel-"), on_wall(&plan, "joint-"));
    let gap = plan.basis.figures.length(fig::PANEL_GAP);
    let wall = plan.surfaces[SurfaceId::WALL].facet.rect();
    let area = |r: &Rect| r.width().to_inches_f64() * r.height().to_inches_f64();
    let bare = panels.iter().fold(vec![wall], |bare, p| bare.into_iter().flat_map(|r| r.minus(*p)).collect::<Vec<_>>());
    assert!(bare.iter().all(|r| r.width() == gap || r.height() == gap), "only gaps are bare: {bare:?}");
    assert!(bare.iter().map(area).sum::<f64>() > 0.0);
    let open = joints.iter().fold(bare, |bare, j| bare.into_iter().flat_map(|r| r.minus(*j)).collect::<Vec<_>>());
    assert_eq!(open, [], "every gap lies under a joint");
}

#[test]
fn a_factory_face_needs_no_cure_and_a_coat_does() {
    let panels = plan(&[("barrier", "panel")], &[]);
    let first = panels.pieces.position(|p| p.id == "panel-1-1").expect("a panel");
    assert_eq!(finished(&panels).bond(first), Bond::Cured);
    let coat = plan(&[("barrier", "fluid")], &[]);
    let piece = coat.pieces.position(|p| p.id == "coat").expect("the coat");
    let until = coat.actions().position(|(s, _)| coat.steps[s].id == "coat").expect("the coat's step");
    let wet = Stage::after(&coat, coat.actions().take(until + 1).map(|(_, a)| a));
    assert_eq!((wet.bond(piece), finished(&coat).bond(piece)), (Bond::None, Bond::Cured));
}

#[test]
fn later_courses_go_under_the_apron_and_over_the_flashings() {
    let plan = plan(&[("first", "windows")], &[]);
    let stage = finished(&plan);
    let rank = |id: &str, at: (i64, i64)| {
        let (u, v) = (Length::inch(at.0), Length::inch(at.1));
        stage.layers.iter().position(|l| {
            l.on == SurfaceId::WALL && plan.pieces[l.piece].id.starts_with(id) && l.rect.contains(Rect::new(u, v, u, v))
        })
    };
    // The opening runs from 52 to 88 and from 33 (above the lower edge of the barrier) up; the apron hangs from 33 down to 21.
    let (apron, course) = (rank("W1/apron", (70, 25)).expect("apron"), rank("course", (70, 25)).expect("course"));
    assert!(course < apron, "under the loose part of the apron");
    let (apron, course) = (rank("W1/apron", (44, 31)).expect("apron"), rank("course", (44, 31)).expect("course"));
    assert!(course > apron, "over its fastened top, beside the unit");
    let (jamb, course) =
        (rank("W1/jamb-flashing-left", (48, 50)).expect("jamb"), rank("course", (48, 50)).expect("course"));
    assert!(course > jamb, "over the jamb flashing");
    assert_eq!(rank("course", (70, 50)), None, "never over the unit");
    assert!(stage.blocked.is_empty(), "{:?}", stage.blocked);
}

#[test]
fn the_outer_paper_lies_over_every_flashing_and_the_insulation_leaves_the_head_free() {
    let paper = plan(&[("barrier", "plaster")], &[]);
    let stage = finished(&paper);
    let last_flashing =
        stage.layers.iter().rposition(|l| paper.pieces[l.piece].opening == Some(0)).expect("a flashing");
    let first_outer = stage.layers.iter().position(|l| paper.pieces[l.piece].id.starts_with("second-")).expect("paper");
    assert!(first_outer > last_flashing);
    let boards = plan(&[("outside", "boards")], &[]);
    let opening = boards.openings[0].rect;
    assert!(on_wall(&boards, "insulation").iter().all(|r| !r.overlaps(opening)));
    let lower = on_wall(&boards, "W1/ins-lower");
    assert!(on_wall(&boards, "insulation").iter().all(|r| !r.overlaps(lower[0])), "the head piece is cut on its own");
}

#[test]
fn a_short_figure_is_noted_with_its_fault_and_set_back_by_its_remedy() {
    let edit = Edit::SetFigure { id: "skip_gap".into(), value: Some("1".into()) };
    let (_, plan) = apply(&job(&[], &[]), &edit).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(found(&plan).iter().all(|f| f.severity == Severity::Glue), "no bead at the bottom is skipped here");
    let (short, plan) = apply(&job(&[], &[("bottom", "skipped")]), &edit).unwrap_or_else(|p| panic!("{p:?}"));
    let notes = found(&plan);
    let note = notes.iter().find(|f| f.severity == Severity::Fault).expect("a fault");
    assert_eq!(note.code, "F05");
    assert!(note.reason.contains("is 1. Gaps of 3 in at both ends"), "{}", note.reason);
    assert_eq!(note.fix, Some(Fix::Figure { id: "skip_gap".into() }));
    let (_, plan) =
        apply(&short, &Edit::SetFigure { id: "skip_gap".into(), value: None }).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(found(&plan).iter().all(|f| f.severity == Severity::Glue));
}

#[test]
fn a_pan_wider_than_any_stock_is_noted_with_what_can_be_done() {
    let mut deep = job(&[], &[]);
    deep.openings[0].depth = Length::inch(12);
    let plan = build(&deep).unwrap_or_else(|p| panic!("{p:?}"));
    let notes = found(&plan);
    let note = notes.iter().find(|f| f.code == "S-STOCK" && f.pieces == ["W1/pan"]).expect("a note");
    assert!(note.reason.contains("the widest stocked is 12\"") && note.remedy.contains("two strips"), "{note:?}");
    // A pan that is formed is not cut from a roll.
    deep.openings[0].schools.insert("sill".into(), "formed".into());
    let plan = build(&deep).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(found(&plan).iter().all(|f| f.pieces != ["W1/pan"] || f.code != "S-STOCK"));
}

#[test]
fn what_was_done_other_than_planned_goes_with_its_piece() {
    let cap = job(&[], &[("head", "cap")]);
    let mouth = Deviation { kind: DeviationKind::FishMouth, piece: "W1/cap-tape".into() };
    let (made, plan) =
        apply(&cap, &Edit::SetAsBuilt { deviation: mouth.clone(), so: true }).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(found(&plan).iter().any(|f| f.code == "F14" && f.fix == Some(Fix::PutRight { deviation: mouth.clone() })));
    let back = Edit::SetSchool { opening: Some("W1".into()), wall: None, question: "head".into(), choice: None };
    let (without, _) = apply(&made, &back).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(without.as_built, [], "there is no cap tape any more");
    let inside = Deviation { kind: DeviationKind::FishMouth, piece: "W1/lining-left".into() };
    let problems = apply(&cap, &Edit::SetAsBuilt { deviation: inside, so: true }).expect_err("refused");
    assert!(problems[0].message.contains("does not lie on the face"), "{problems:?}");
}

#[test]
fn each_sealed_bottom_is_told_at_its_own_opening() {
    let mut two = job(&[], &[]);
    two.wall.width = Length::inch(260);
    let second = kame_core::job::OpeningSpec { id: "W2".into(), left: Length::inch(160), ..two.openings[0].clone() };
    two.openings.push(second);
    let sealed = |id: &str| Deviation { kind: DeviationKind::SealedBottom, piece: format!("{id}/unit") };
    let told = |as_built: Vec<Deviation>| -> Vec<Option<Fix>> {
        let plan = build(&Job { as_built, ..two.clone() }).unwrap_or_else(|p| panic!("{p:?}"));
        found(&plan).into_iter().filter(|f| f.code == "F05").map(|f| f.fix).collect()
    };
    let right = |id: &str| Some(Fix::PutRight { deviation: sealed(id) });
    assert_eq!(told(vec![sealed("W2")]), [right("W2")]);
    let both = told(vec![sealed("W1"), sealed("W2")]);
    assert!(both.len() == 2 && both.contains(&right("W1")) && both.contains(&right("W2")), "{both:?}");
}

#[test]
fn minutes_add_up_and_every_material_is_in_the_library() {
    let usual = plan(&[], &[]);
    let (_, without) =
        apply(&job(&[], &[]), &Edit::RemoveStep { step: "W1/bed".into() }).unwrap_or_else(|p| panic!("{p:?}"));
    let seal = usual.seals.iter().find(|s| s.id == "W1/bed").expect("the bead behind the flange");
    let run: f64 = seal.rects.iter().map(|(_, r)| r.width().max(r.height()).to_inches_f64() / 12.0).sum();
    let bead = usual.basis.figures.number(fig::MIN_SEAL) + usual.basis.figures.number(fig::MIN_SEAL_FOOT) * run;
    assert!((minutes(&usual, 0) - minutes(&without, 0) - bead).abs() < 1e-9);
    let known: Vec<&str> = products().expect("products").iter().map(|p| p.name.as_str()).collect();
    let schools = kame_core::recipe::schools::Schools::shipped().expect("schools");
    for q in &schools.questions {
        for c in &q.choice {
            let barrier =
                c.barrier.iter().flat_map(|b| [&b.product, &b.joint]).chain([&c.second]).filter(|p| !p.is_empty());
            for product in c.recipe.piece.iter().map(|p| &p.product).chain(barrier) {
                assert!(known.contains(&product.as_str()), "\"{product}\" ({} {})", q.id, c.id);
            }
        }
    }
    let window = temperatures(&plan(&[], &[("flange", "membrane")]), 0);
    assert_eq!(window.least.map(|l| (l.degrees, l.product)), Some((50.0, "Thick flashing membrane".to_owned())));
    assert_eq!(window.most.map(|l| l.degrees), Some(110.0));
}

#[test]
fn coats_follow_the_product_and_what_is_laid_out_under_them_is_bounded() {
    use kame_core::kit::KitSpec;
    use kame_core::trade::Act;
    let mut two = job(&[("barrier", "fluid")], &[]);
    let text = r#"{"products": {"Fluid-applied barrier": {"attributes": {"coats": "2"}}}}"#;
    two.kit = serde_json::from_str::<KitSpec>(text).expect("a kit");
    let coats = |job: &Job| {
        let plan = build(job).unwrap_or_else(|p| panic!("{p:?}"));
        let of = |p: PieceId| plan.pieces[p].id == "coat";
        plan.actions().find_map(|(_, a)| match a.act {
            Act::Coat { piece, coats, .. } if of(piece) => Some(coats),
            _ => None,
        })
    };
    assert_eq!((coats(&job(&[("barrier", "fluid")], &[])), coats(&two)), (Some(1), Some(2)));
    for barrier in ["fluid", "loose"] {
        let mut large =
            job(&[("barrier", barrier), ("sheathing", if barrier == "loose" { "taped" } else { "plain" })], &[]);
        (large.wall.width, large.wall.height) = (Length::inch(24_000), Length::inch(700));
        large
            .figures
            .extend([("panel_width".to_owned(), "24".to_owned()), ("panel_length".to_owned(), "48".to_owned())]);
        let problems = build(&large).expect_err("too many");
        assert!(problems.iter().any(|p| p.message.contains("take larger panels")), "{problems:?}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Upright joints stand on studs counted from the left end; where a stud is clear of the opening's corners they stand there, and where none
    /// is that is told.
    #[test]
    fn panel_joints_stand_on_studs_and_keep_clear_of_opening_corners_where_they_can(
        left in 12_i64..90, width in 20_i64..46, wall in 140_i64..400, stud in prop_oneof![Just(16_i64), Just(24)],
    ) {
        let mut job = job(&[("barrier", "panel")], &[]);
        job.wall.width = Length::inch(wall);
        job.figures.insert("stud_spacing".into(), stud.to_string());
        (job.openings[0].left, job.openings[0].width) = (Length::inch(left), Length::inch(width));
        let Ok(plan) = build(&job) else { return Ok(()) };
        let clear = plan.basis.figures.length(fig::PANEL_CORNER_CLEAR);
        let o = plan.openings[0].rect;
        // By its left edge: the last strip may be cut off by the wall's end.
        let half = plan.basis.figures.length(fig::JOINT_TAPE_WIDTH).units() / 2;
        let middle = |r: &Rect| r.u0 + Length::from_units(half);
        let upright: Vec<Length> = on_wall(&plan, "joint-").iter().filter(|r| r.height() > r.width()).map(middle).collect();
        prop_assert!(upright.iter().all(|u| u.units() % Length::inch(stud).units() == 0), "{upright:?}");
        let near = |at: Length| [o.u0, o.u1].iter().any(|corner| (at - *corner).units().abs() < clear.units());
        let told = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan).iter().filter(|f| f.code == "F25").count();
        prop_assert_eq!(upright.iter().filter(|u| near(**u)).count(), told);
        prop_assert!(on_wall(&plan, "panel-").iter().all(|r| r.width() <= plan.basis.figures.length(fig::PANEL_WIDTH)));
        // Held against every choice of studs: can all joints keep clear?
        let studs: Vec<i64> = (1..).map(|n| n * stud).take_while(|u| *u < wall).filter(|u| !near(Length::inch(*u))).collect();
        let mut reached = vec![0_i64];
        for s in studs.into_iter().chain([wall]) {
            if reached.iter().any(|r| s - r <= 48) {
                reached.push(s);
            }
        }
        prop_assert_eq!(told == 0, reached.contains(&wall));
    }
}
