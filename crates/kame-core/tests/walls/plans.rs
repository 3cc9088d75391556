//! Plans of whole jobs: what is right runs dry, each single mistake is told and can be put right, sizes come out as worked by hand.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Fix, Moment, Severity};
use kame_core::job::{Job, read_job, write_job};
use kame_core::layup::Glue;
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::problem::Problem;
use kame_core::sequence::Stage;
use kame_core::surface::Rect;
use kame_core::takeoff::cut_list;
use kame_core::trade::{Act, PieceId, StepId};
use proptest::prelude::*;

fn worked() -> Job {
    let mut job = Job::new("worked example");
    job.wall.width = Length::inch(240);
    let o = &mut job.openings[0];
    (o.left, o.sill, o.width, o.height) =
        (Length::inch(90), Length::inch(30), Length::inch(41), Length::inch_fraction(125, 2));
    job.figures.insert("barrier_roll_width".into(), "120".into());
    job.figures.insert("back_dam".into(), "0".into());
    job
}

#[track_caller]
fn edited(job: &Job, edits: &[Edit]) -> Job {
    edits.iter().fold(job.clone(), |job, e| apply(&job, e).unwrap_or_else(|p| panic!("{e:?}: {p:?}")).0)
}

fn finished(plan: &Plan) -> Moment {
    Moment::new(plan, usize::MAX).expect("a valid layup")
}

/// Severity and code of everything but glue.
fn faults(job: &Job) -> Vec<(Severity, String)> {
    let plan = build(job).expect("a plan");
    finished(&plan)
        .findings(&plan)
        .into_iter()
        // The worked opening has no back dam, which is told.
        .filter(|f| f.severity != Severity::Glue && f.code != "F07")
        .map(|f| (f.severity, f.code))
        .collect()
}

fn remove(step: &str) -> Edit {
    Edit::RemoveStep { step: step.into() }
}

fn move_step(step: &str, before: &str) -> Edit {
    Edit::MoveStep { step: step.into(), before: Some(before.into()) }
}

#[test]
fn the_worked_opening_comes_out_to_the_fraction() {
    let mut job = worked();
    job.openings[0].schools.insert("maker".into(), "on-frame".into());
    let plan = build(&job).expect("a plan");
    let size = |id: &str| plan.pieces.iter().find(|p| p.id == id).and_then(|p| p.cut.clone()).expect(id);
    let pan = size("W1/pan");
    assert_eq!(
        (pan.length, pan.width, pan.stock_width),
        (Length::inch(53), Length::inch_fraction(15, 2), Length::inch(9))
    );
    for side in ["left", "right"] {
        assert_eq!(size(&format!("W1/jamb-flashing-{side}")).length, Length::inch_fraction(269, 4));
    }
    assert_eq!(size("W1/head-flashing").length, Length::inch_fraction(107, 2));
}

#[test]
fn the_cut_list_names_every_placed_piece_once_with_a_proved_bound() {
    let mut job = edited(&worked(), &[remove("W1/patches")]);
    job.ticks.push("W1/pan".into());
    let plan = build(&job).expect("a plan");
    let list = cut_list(&plan, &job.ticks);
    let ids: Vec<&str> = list.iter().flat_map(|g| &g.pieces).map(|p| p.id.as_str()).collect();
    let placed: Vec<&str> =
        plan.pieces.iter().filter(|p| p.cut.is_some() && !p.id.contains("patch")).map(|p| p.id.as_str()).collect();
    assert_eq!(ids.len(), placed.len());
    assert!(placed.iter().all(|p| ids.contains(p)), "{ids:?}");
    assert!(list.iter().flat_map(|g| &g.pieces).all(|p| p.cut == (p.id == "W1/pan")));
    let tape = list.iter().find(|g| g.product == "Flashing tape" && g.stock_width == "6\"").expect("6 in tape");
    assert_eq!((tape.rolls, tape.outcome), (1, Some(kame_core::nest::Outcome::Proved)));
}

#[test]
fn each_step_left_out_is_told_and_its_remedy_puts_it_back() {
    let job = worked();
    assert_eq!(faults(&job), []);
    let plan = build(&job).expect("a plan");
    for step in &plan.steps {
        let without = edited(&job, &[remove(&step.id)]);
        let plan = build(&without).expect("a plan");
        let found = finished(&plan).findings(&plan);
        let restore = Fix::Restore { step: step.id.clone() };
        assert!(found.iter().any(|f| f.fix.as_ref() == Some(&restore)), "{}: {found:?}", step.id);
    }
}

#[test]
fn each_piece_not_rolled_leaks_or_leans_and_says_so() {
    let job = worked();
    let plan = build(&job).expect("a plan");
    let base = finished(&plan).findings(&plan).len();
    let mut told = 0;
    for a in plan.steps.iter().flat_map(|s| &s.actions).filter(|a| matches!(a.act, Act::Press { .. })) {
        let loose = edited(&job, &[remove(&a.id)]);
        let plan = build(&loose).expect("a plan");
        let found = finished(&plan).findings(&plan);
        // Patches and head flashing keep rain out by their bond; what lies behind them is kept dry by laps as well.
        if found.iter().any(|f| f.code == "F15") {
            told += 1;
            assert!(found.len() >= base);
        }
    }
    assert!(told >= 3, "{told} told");
}

/// What a move of one step to before another is told as: severity and code of the worst, and part of its sentence.
#[track_caller]
fn wrong_order(step: &str, before: &str, code: &str, words: &str) {
    let job = edited(&worked(), &[move_step(step, before)]);
    let plan = build(&job).expect("a plan");
    let found = finished(&plan).findings(&plan);
    let hit = found.iter().find(|f| f.code == code && (f.reason.contains(words) || f.remedy.contains(words)));
    let hit = hit.unwrap_or_else(|| panic!("{step} before {before}: {found:#?}"));
    // The remedy it offers leaves nothing but glue.
    if let Some(Fix::Move { step, before }) = &hit.fix {
        let mended = edited(&job, &[Edit::MoveStep { step: step.clone(), before: before.clone() }]);
        assert!(!faults(&mended).iter().any(|(_, c)| c == code), "still {code} after {:?}", hit.fix);
    }
}

#[test]
fn wrong_orders_are_told_by_their_fault_and_mended_by_their_remedy() {
    wrong_order("W1/head", "W1/jambs", "F04", "top edge of the jamb flashing faces the rain");
    wrong_order("W1/drop-flap", "W1/head", "F10", "head flap of the barrier lies behind the head flashing");
    wrong_order("W1/lining", "W1/pan", "F09", "jamb lining lies behind the sill pan");
    wrong_order("W1/set", "W1/pan", "F06", "Set the window");
    wrong_order("W1/set", "W1/bed", "S-BLOCKED", "a bead cannot get behind it");
    wrong_order("W1/pan", "W1/cut", "S-BLOCKED", "still covers the opening");
    wrong_order("W1/cut", "course-1", "S-BLOCKED", "no barrier to cut");
    wrong_order("W1/drop-flap", "W1/lift-flap", "S-BLOCKED", "lifted before it can drop");
    wrong_order("W1/patches", "W1/drop-flap", "F11", "Slit patches");
}

#[test]
fn slits_never_patched_let_gravity_in() {
    let job = edited(&worked(), &[remove("W1/patches")]);
    let plan = build(&job).expect("a plan");
    let found = finished(&plan).findings(&plan);
    let worst = &found[0];
    assert_eq!(
        (worst.code.as_str(), worst.severity, worst.head.map(|h| h.inches())),
        ("F11", Severity::Leak, Some(0.0))
    );
    assert!(worst.reason.starts_with("The left slit patch is left out"), "{}", worst.reason);
    assert!(worst.reason.contains("Rain gets in through the slit in the barrier"), "{}", worst.reason);
    assert!(worst.reason.contains("reaches the sheathing by gravity alone"), "{}", worst.reason);
}

#[test]
fn in_rain_the_right_order_leans_on_glue_only_at_the_slit_patches() {
    let plan = build(&worked()).expect("a plan");
    let found = finished(&plan).findings(&plan);
    // The worked opening has no back dam, which is noted.
    let glue: Vec<_> = found.iter().filter(|f| f.severity == Severity::Glue).collect();
    assert!(!glue.is_empty() && glue.iter().all(|f| f.pieces[0].contains("patch") || f.water != "rain"), "{found:?}");
    assert_eq!(found.len() - glue.len(), 1);
    assert_eq!((found[0].severity, found[0].code.as_str()), (Severity::Fault, "F07"));
}

#[test]
fn water_behind_the_sheet_is_caught_by_the_head_flashing_on_the_sheathing() {
    let plan = build(&worked()).expect("a plan");
    let m = finished(&plan);
    let rooms = plan.water.targets.iter().enumerate().filter(|(_, t)| t.id.contains("room") || t.id.contains("frame"));
    for (i, t) in rooms {
        let head = m.head_of(i, "W1/behind");
        assert!(head.is_none_or(|h| h.inches() >= 2.0), "{}: {head:?}", t.id);
    }
}

#[test]
fn stages_stack_as_they_are_worked() {
    let plan = build(&worked()).expect("a plan");
    let actions: Vec<_> = plan.actions().map(|(_, a)| a).collect();
    let upto = |id: &str| {
        let n = actions.iter().position(|a| a.id == id).expect(id) + 1;
        Stage::after(&plan, actions[..n].iter().copied())
    };
    let index = |id: &str| plan.pieces.position(|p| p.id == id).expect(id);
    let covered = upto("course-1/2");
    assert!(!covered.uncovered(&plan)[0]);
    let cut = upto("W1/cut/1");
    assert!(cut.uncovered(&plan)[0]);
    let lifted = upto("W1/lift-flap/1");
    assert_eq!(lifted.held.len(), 1);
    let done = Stage::after(&plan, actions.iter().copied());
    assert!(done.held.is_empty() && done.blocked.is_empty());
    let rank = |test: &dyn Fn(&kame_core::sequence::Laid) -> bool| done.layers.iter().position(test).expect("laid");
    let flap = rank(&|l| l.flap.is_some());
    let head = rank(&|l| l.piece == index("W1/head-flashing"));
    let jamb = rank(&|l| l.piece == index("W1/jamb-flashing-left"));
    assert!(jamb < head && head < flap);
    // The sides of the sheet lie in the opening, turned round the jambs.
    let folded = done
        .layers
        .iter()
        .filter(|l| l.on != kame_core::plan::SurfaceId::WALL && plan.pieces[l.piece].id.starts_with("course"));
    assert_eq!(folded.count(), 3);
}

#[test]
fn a_piece_tucks_under_a_loose_edge_and_not_under_a_stuck_one() {
    let mut plan = build(&worked()).expect("a plan");
    let pan = plan.pieces.position(|p| p.id == "W1/pan").expect("pan");
    let course = PieceId(0);
    let place = |piece: PieceId, under: Vec<PieceId>| kame_core::trade::Action {
        id: format!("t{}", piece.0),
        act: Act::Place { piece, under },
        label: "".into(),
        checks: Vec::new(),
    };
    plan.pieces[pan].regions.retain(|(s, _)| *s == kame_core::plan::SurfaceId::WALL);
    let tucked = Stage::after(&plan, [&place(course, vec![]), &place(pan, vec![course])]);
    assert!(tucked.blocked.is_empty() && tucked.layers[0].piece == pan, "{:?}", tucked.layers);
    let press = kame_core::trade::Action {
        id: "p".into(),
        act: Act::Press { piece: pan },
        label: "".into(),
        checks: Vec::new(),
    };
    let stuck = Stage::after(&plan, [&place(pan, vec![]), &press, &place(course, vec![pan])]);
    assert_eq!(stuck.blocked.len(), 1, "{:?}", stuck.blocked);
}

#[test]
fn coats_waits_and_temporary_pieces_do_what_they_say() {
    let mut plan = build(&worked()).expect("a plan");
    let pan = plan.pieces.position(|p| p.id == "W1/patch-left").expect("patch");
    plan.pieces[pan].bond = kame_core::layup::Bond::Cured;
    let act =
        |n: usize, act| kame_core::trade::Action { id: format!("t{n}"), act, label: "".into(), checks: Vec::new() };
    let coat = act(1, Act::Coat { piece: pan, wet_mil: 12.0, coats: 1 });
    let wait = act(2, Act::Wait { piece: Some(pan) });
    let gone = act(3, Act::Remove { piece: Some(pan) });
    use kame_core::layup::Bond;
    assert_eq!(Stage::after(&plan, [&coat]).bond(pan), Bond::None, "wet");
    assert_eq!(Stage::after(&plan, [&coat, &wait]).bond(pan), Bond::Cured);
    assert!(!Stage::after(&plan, [&coat, &wait, &gone]).has(pan));
    assert_eq!(Stage::after(&plan, [&wait]).blocked.len(), 1, "nothing to wait for");
    assert_eq!(Stage::after(&plan, [&coat, &coat]).blocked.len(), 1, "twice");
}

#[track_caller]
fn refused(edit: &Edit, path: &str, words: &str) {
    let problems: Vec<Problem> = apply(&worked(), edit).map(|_| ()).expect_err("refused");
    assert!(problems.iter().any(|p| p.path.contains(path) && p.message.contains(words)), "{problems:?}");
}

#[test]
fn bad_sizes_are_refused_with_value_limit_and_remedy() {
    let size = |text: &str| Some(Length::parse(text).expect(text));
    let opening = |left: Option<Length>, sill: Option<Length>, width: Option<Length>, height: Option<Length>| {
        Edit::SetOpening { id: "W1".into(), name: None, left, sill, width, height, depth: None, flange: None }
    };
    refused(
        &opening(None, None, size("0"), None),
        "width",
        "opening width is 0\"; it has to be between 4\" and 20'-0\"",
    );
    refused(&opening(None, None, size("-3"), None), "width", "-3\"");
    refused(&opening(None, None, None, size("90 m")), "height", "it has to be between");
    refused(&opening(size("19'"), None, None, None), "left", "off a wall 20'-0\" wide: put it between 0\" and 16'-7\"");
    refused(&opening(None, size("8'"), None, None), "sill", "off a wall");
    refused(&opening(size("0"), None, None, None), "left", "past the left end of the wall: move it");
    refused(&Edit::SetFigure { id: "jamb_tape_width".into(), value: Some("99".into()) }, "figures", "between 3 and 12");
    refused(&Edit::SetFigure { id: "nonsense".into(), value: Some("1".into()) }, "figures", "no figure");
    refused(&remove("W1/nonsense"), "step", "no step");
    refused(&move_step("W1/pan", "nowhere"), "before", "no step \"nowhere\"");
    refused(&Edit::Spoil { piece: "W9/pan".into(), roll: None }, "piece", "no piece");
    refused(&Edit::Rename { name: "  ".into() }, "name", "between 1 and 120");
    let mut second = worked().openings[0].clone();
    second.id = "W2".into();
    refused(&Edit::AddOpening { opening: second.clone() }, "openings[1]", "overlaps");
    second.left = worked().openings[0].left + worked().openings[0].width + Length::inch_fraction(1, 2);
    refused(&Edit::AddOpening { opening: second }, "openings[1]", "into the other's opening");
}

#[test]
fn two_windows_share_a_wall_and_one_can_go_again() {
    let mut second = worked().openings[0].clone();
    (second.id, second.left) = ("W2".into(), Length::inch(170));
    let both = edited(&worked(), &[Edit::AddOpening { opening: second }]);
    assert_eq!(faults(&both), []);
    let one = edited(&both, &[remove("W2/pan"), Edit::RemoveOpening { id: "W2".into() }]);
    assert_eq!(one, worked());
}

#[test]
fn a_moved_step_keeps_its_place_when_sizes_change_and_home_is_home() {
    let moved = edited(&worked(), &[move_step("W1/head", "W1/jambs")]);
    let narrow = edited(&moved, &[Edit::SetFigure { id: "barrier_roll_width".into(), value: Some("36".into()) }]);
    let plan = build(&narrow).expect("a plan");
    let at = |id: &str| plan.order.iter().position(|s| plan.steps[*s].id == id).expect(id);
    assert!(at("W1/head") < at("W1/jambs"));
    assert!(at("course-2") == at("course-1") + 1, "new courses stand behind the one they follow");
    let home = edited(&moved, &[move_step("W1/head", "W1/drop-flap")]);
    assert!(home.sequence.order.is_empty());
    assert_eq!(edited(&moved, &[Edit::RestoreOrder]), worked());
}

#[test]
fn files_of_version_2_keep_the_tape_on_the_frame_which_is_the_maker_s_answer_since() {
    let text = write_job(&worked());
    let old = read_job(text.replace("\"version\": 3", "\"version\": 2").as_bytes()).expect("a job of version 2");
    assert_eq!((old.version, old.openings[0].schools["maker"].as_str()), (3, "on-frame"));
    let head = |job: &Job| {
        let plan = build(job).expect("a plan");
        plan.pieces.iter().find(|p| p.id == "W1/head-flashing").and_then(|p| p.cut.clone()).expect("a cut").length
    };
    // A quarter of an inch on to the frame at both sides is a half less in all.
    assert_eq!(head(&worked()) - head(&old), Length::inch_fraction(1, 2));
}

#[test]
fn a_bottom_bead_with_gaps_has_one_wherever_the_figure_asks_and_leaves_the_rest() {
    for (width, gaps) in [(20_i64, 1), (40, 2), (60, 3), (90, 5)] {
        let mut job = worked();
        job.openings[0].width = Length::inch(width);
        job.openings[0].schools.insert("bottom".into(), "spaced".into());
        let plan = build(&job).expect("a plan");
        let o = plan.openings[0].rect;
        let bed = plan.seals.iter().find(|s| s.id == "W1/bed").expect("the bead");
        let below: Vec<Rect> = bed.rects.iter().map(|(_, r)| *r).filter(|r| r.v1 <= o.v0).collect();
        assert_eq!(below.len(), gaps + 1, "{width}: a field of 18 in at most");
        let (left, right) = (below[0].u0, below[gaps].u1);
        let laid: Length = below.iter().map(|r| r.width()).sum();
        assert_eq!(right - left - laid, Length::inch(2 * gaps as i64), "each gap is 2 in");
    }
}

#[test]
fn a_job_file_is_read_whole_or_not_at_all() {
    let text = write_job(&worked());
    assert_eq!(read_job(text.as_bytes()), Ok(worked()));
    let bad = |text: &str, path: &str, words: &str| {
        let problems = read_job(text.as_bytes()).expect_err("refused");
        assert!(problems.iter().any(|p| p.path.contains(path) && p.message.contains(words)), "{problems:?}");
    };
    bad("", "$", "EOF");
    bad("[1, 2]", "$", "job");
    bad(&text[..text.len() / 2], "$", "EOF");
    bad(&text.replace("\"version\": 3", "\"version\": 7"), "$.version", "found 7, expected 1 to 3");
    bad(&text.replace("kame-job", "other"), "$.format", "found \"other\"");
    bad(&text.replace("\"41 in\"", "\"wide\""), "$.openings[0].width", "not a length");
    bad(&text.replace("\"41 in\"", "[41]"), "$.openings[0].width", "expected a length");
    bad(&text.replace("\"41 in\"", "\"0 in\""), "$.openings[0].width", "between 4\" and 20'-0\"");
    bad(&text.replace("\"wall\"", "\"walll\""), "$", "walll");
    bad(&format!("{text}{{}}"), "$", "trailing");
    assert!(read_job(&[0xff, 0xfe, 0x00]).expect_err("refused")[0].message.contains("not UTF-8"));
}

#[test]
fn a_file_of_version_1_is_read_as_the_usual_answers_and_written_as_version_2() {
    let text = write_job(&worked());
    let old = text
        .replace("\"version\": 2", "\"version\": 1")
        .replace("\"name\": \"Window 1\",", "\"name\": \"Window 1\", \"recipe\": \"flanged/barrier-first\",")
        .replace("\"schools\": {},", "");
    assert_ne!(old, text);
    assert_eq!(read_job(old.as_bytes()), Ok(worked()));
}

fn jobs() -> impl Strategy<Value = Job> {
    let tape = prop_oneof![Just("6"), Just("9")];
    let sizes = (96_i64..480, 96_i64..640, 24_i64..96, 3_i64..10, 8_i64..24);
    (sizes, tape, prop_oneof![Just("48"), Just("60"), Just("108")], 1_i64..4).prop_map(
        |((w, h, sill, depth, flange), tape, roll, ear)| {
            let mut job = Job::new("any");
            job.wall.width = Length::inch(220);
            job.wall.height = Length::inch(190);
            let o = &mut job.openings[0];
            (o.left, o.sill) = (Length::inch(60), Length::inch(sill));
            (o.width, o.height) = (Length::inch_fraction(w, 5), Length::inch_fraction(h, 8));
            (o.depth, o.flange) = (Length::inch(depth), Length::inch_fraction(flange, 8));
            for (id, value) in [
                ("jamb_tape_width", tape.to_owned()),
                ("head_tape_width", tape.to_owned()),
                ("barrier_roll_width", roll.to_owned()),
                ("pan_ear", ear.to_string()),
            ] {
                job.figures.insert(id.into(), value);
            }
            job
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn every_generated_plan_runs_dry_and_says_where_it_leans_on_glue(job in jobs()) {
        let plan = build(&job);
        let plan = plan.map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        let m = finished(&plan);
        prop_assert!(m.stage.blocked.is_empty());
        let found = m.findings(&plan);
        prop_assert!(found.iter().all(|f| f.severity == Severity::Glue), "{found:#?}");
        let ponds = m.ponds(&plan);
        prop_assert!(ponds.iter().all(|p| p.glue == Glue::Lost), "{ponds:?}");
    }

    #[test]
    fn every_edit_survives_the_file(job in jobs(), order in 0_usize..12) {
        let plan = build(&job).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        let step = plan.steps[StepId(order % plan.steps.len())].id.clone();
        let (moved, _) = apply(&job, &Edit::MoveStep { step, before: None }).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        prop_assert_eq!(read_job(write_job(&moved).as_bytes()), Ok(moved));
    }
}
