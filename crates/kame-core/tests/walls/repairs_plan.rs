//! What was found and its repair as parts of a plan: on the stack, in the cut list, in minutes and checks, on record, in files.

use crate::verdict::{answers, wall};
use kame_core::checks::checks_of;
use kame_core::edit::{Edit, apply};
use kame_core::findings::{KnownWater, Moment};
use kame_core::job::{CornerKind, CornerSpec, FoundKind, FoundSpec, Holds, Job, Mend, Place, read_job, write_job};
use kame_core::length::Length;
use kame_core::plan::{Plan, SurfaceId, build};
use kame_core::record::{Event, What, as_built, seal};
use kame_core::repair::{Proposal, found_at, propose};
use kame_core::sequence::{Stage, nearest_working_order};
use kame_core::stop::Stop;
use kame_core::surface::Rect;
use kame_core::takeoff::{cut_list, step_minutes, uses};
use kame_core::trade::{Act, Phase};

const TEAR: [i64; 4] = [12, 20, 8, 3];

fn found(what: FoundKind, [left, bottom, width, height]: [i64; 4]) -> FoundSpec {
    let inch = Length::inch;
    let place = Place { left: inch(left), bottom: inch(bottom), width: inch(width), height: inch(height) };
    FoundSpec { id: "D1".into(), what, after: None, place, pieces: Vec::new(), repair: Vec::new(), thing: None }
}

fn with(job: &Job, f: FoundSpec) -> (Job, Plan) {
    apply(job, &Edit::SetFound { found: f }).unwrap_or_else(|p| panic!("{p:?}"))
}

fn proposal(job: &Job, f: &FoundSpec, title: &str) -> Proposal {
    let all = propose(job, f, &KnownWater::default(), &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"));
    all.list.into_iter().find(|p| p.title == title).unwrap_or_else(|| panic!("no \"{title}\": {:?}", all.refused))
}

fn stage(plan: &Plan) -> Stage {
    Stage::after(plan, plan.actions().map(|(_, a)| a))
}

/// Square inches of everything on the face that sheds.
fn area(plan: &Plan, stage: &Stage) -> f64 {
    let on_face = stage.layers.iter().filter(|l| l.on == SurfaceId::WALL && !plan.pieces[l.piece].solid);
    on_face.map(|l| l.rect.width().to_inches_f64() * l.rect.height().to_inches_f64()).sum()
}

fn minutes(plan: &Plan) -> f64 {
    let of_it = plan.steps.iter().zip(step_minutes(plan)).filter(|(s, _)| s.id.starts_with("D1/"));
    of_it.map(|(_, m)| m).sum()
}

#[test]
fn a_tear_takes_its_own_area_out_of_each_layer_and_nothing_else() {
    for (barrier, layers) in [("loose", 1.0), ("plaster", 2.0), ("adhered", 1.0)] {
        let job = wall(&[("barrier", barrier)], &[]);
        let whole = build(&job).expect("a plan");
        let (_, torn) = with(&job, found(FoundKind::Tear, TEAR));
        let gone = area(&whole, &stage(&whole)) - area(&torn, &stage(&torn));
        assert!((gone - layers * 24.0).abs() < 1e-6, "{barrier}: {gone}");
        assert!(stage(&torn).blocked.is_empty());
    }
    // Worn by light is the same; wet and wrong hurt nothing.
    let job = wall(&[], &[]);
    let whole = build(&job).expect("a plan");
    for (what, lost) in
        [(FoundKind::Worn, 24.0), (FoundKind::Wet, 0.0), (FoundKind::Wrong, 0.0), (FoundKind::Failed, 0.0)]
    {
        let (_, plan) = with(&job, found(what, TEAR));
        let gone = area(&whole, &stage(&whole)) - area(&plan, &stage(&plan));
        assert!((gone - lost).abs() < 1e-6, "{what:?}: {gone}");
    }
}

#[test]
fn what_let_go_is_open_behind_the_outermost_piece_that_sticks_until_it_is_laid_anew() {
    let job = wall(&[], &[]);
    let whole = build(&job).expect("a plan");
    let jamb = whole.pieces.position(|p| p.id == "W1/jamb-flashing-left").expect("a jamb flashing");
    let r = whole.pieces[jamb].regions.iter().find(|(on, _)| *on == SurfaceId::WALL).expect("on the face").1;
    let place = Place { left: r.u0, bottom: r.v0 - whole.walls.plate, width: Length::inch(2), height: Length::inch(6) };
    let f = FoundSpec { place, ..found(FoundKind::LetGo, TEAR) };
    let (_, open) = with(&job, f.clone());
    let let_go = stage(&open).let_go;
    assert_eq!(let_go.len(), 1);
    assert_eq!(
        (let_go[0].0, let_go[0].2),
        (jamb, Rect::new(r.u0, r.v0, r.u0 + Length::inch(2), r.v0 + Length::inch(6)))
    );
    let again = proposal(&job, &f, "Take it back to here and do it again");
    assert!(stage(&again.plan).let_go.is_empty(), "what is laid anew sticks");
    assert!(!stage(&again.plan).is_renewed(whole.pieces.position(|p| p.id == "course-1").expect("a course")));
    assert!(stage(&again.plan).is_renewed(jamb));
}

#[test]
fn the_figures_say_how_large_a_piece_is() {
    let mut job = wall(&[], &[]);
    job.figures.insert("repair_past".into(), "9".into());
    job.figures.insert("repair_tuck".into(), "5".into());
    let p = proposal(&job, &found(FoundKind::Tear, TEAR), "A new piece under the lap above it");
    let Edit::SetFound { found } = &p.edit else { panic!("{:?}", p.edit) };
    let Mend::Lay { place, .. } = &found.repair[0] else { panic!("{:?}", found.repair) };
    assert_eq!((place.left, place.width, place.bottom), (Length::inch(3), Length::inch(26), Length::inch(11)));
    // As a sheet of the barrier it is counted in square feet: its area, to the inch.
    let ft2 = place.width.to_inches_f64() * place.height.to_inches_f64() / 144.0;
    assert!((p.ft2 - ft2).abs() < 1e-6 && p.taken_off == 0);
    assert_eq!(p.pieces.len(), 1);
    assert_eq!(p.pieces[0].product, "Loose barrier sheet");
}

#[test]
fn material_minutes_and_checks_of_a_repair_are_those_of_any_step() {
    let job = wall(&[], &[]);
    let before = build(&job).expect("a plan");
    let count = |plan: &Plan, product: &str| uses(plan).iter().filter(|u| u.product == product).count();
    let patch = proposal(&job, &found(FoundKind::Tear, TEAR), "A new piece under the lap above it");
    assert_eq!(count(&patch.plan, "Loose barrier sheet"), count(&before, "Loose barrier sheet") + 1);
    assert!((minutes(&patch.plan) - patch.minutes).abs() < 1e-9 && patch.minutes > 1.0);
    let stuck = proposal(&job, &found(FoundKind::Tear, TEAR), "A piece stuck over it");
    let sealant = "Sealant, movement class 25 or more";
    assert_eq!(count(&stuck.plan, sealant), count(&before, sealant) + 1, "the bead along its top");
    let checks = checks_of(&stuck.plan).expect("data");
    let of_it: Vec<&str> = checks.iter().filter(|c| c.step.starts_with("D1/")).map(|c| c.check.as_str()).collect();
    assert!(of_it.iter().any(|c| c.contains("roll") || c.contains("press")), "{of_it:?}");
    // Taken back: what stuck is cut and bought once more, the window is not.
    let again = proposal(&job, &found(FoundKind::Tear, TEAR), "Take it back to here and do it again");
    assert_eq!(count(&again.plan, "Flanged window"), count(&before, "Flanged window"));
    assert_eq!(count(&again.plan, "Loose barrier sheet"), 2 * count(&before, "Loose barrier sheet"));
    let pans = |plan: &Plan| -> Vec<String> {
        let all = cut_list(plan, &["W1/pan".to_owned()]);
        all.iter()
            .flat_map(|g| &g.pieces)
            .filter(|p| p.id.starts_with("W1/pan"))
            .map(|p| format!("{} {}", p.id, p.cut))
            .collect()
    };
    assert_eq!(pans(&before), ["W1/pan true"]);
    assert_eq!(pans(&again.plan), ["W1/pan true", "W1/pan~again1 false"]);
    assert!(again.minutes > 5.0 * patch.minutes && again.opened.iter().any(|n| n == "window"));
}

#[test]
fn a_slit_leaves_the_sheet_below_behind_the_piece_and_the_edge_above_over_it() {
    let job = wall(&[("barrier", "plaster")], &[]);
    let p = proposal(&job, &found(FoundKind::Tear, TEAR), "A new piece under a slit above it");
    let (plan, now) = (&p.plan, stage(&p.plan));
    let patch =
        plan.pieces.position(|x| x.id.starts_with("D1/") && x.bond == kame_core::layup::Bond::None).expect("a piece");
    let ranks = |which: &dyn Fn(&kame_core::sequence::Laid) -> bool| -> Vec<usize> {
        now.layers.iter().enumerate().filter(|(_, l)| which(l)).map(|(n, _)| n).collect()
    };
    let mine = ranks(&|l| l.piece == patch);
    let edge = ranks(&|l| l.flap.is_some_and(|f| plan.flaps[f].id.starts_with("D1/")));
    let sheet = ranks(&|l| plan.pieces[l.piece].id == "course-1" && l.flap.is_none());
    assert!(!edge.is_empty() && mine.iter().all(|m| edge.iter().all(|e| m < e)), "the edge lies over it");
    assert!(mine.iter().all(|m| sheet.iter().all(|s| s < m)), "and it over the sheet");
    assert!(now.held.is_empty() && now.blocked.is_empty());
    let steps: Vec<&str> = plan
        .steps
        .iter()
        .filter(|s| s.id.starts_with("D1/"))
        .flat_map(|s| &s.actions)
        .map(|a| match a.act {
            Act::Cut { .. } => "cut",
            Act::Lift { .. } => "lift",
            Act::Place { .. } => "lay",
            Act::Drop { .. } => "drop",
            Act::Press { .. } => "press",
            Act::Remove { .. } => "off",
            _ => "",
        })
        .filter(|w| !w.is_empty())
        .collect();
    assert_eq!(steps, ["off", "off", "cut", "lift", "lay", "drop", "lay", "press", "lay", "press", "lay", "lay"]);
}

#[test]
fn what_was_found_once_steps_were_done_comes_before_what_is_still_to_do() {
    let job = wall(&[], &[]);
    let mut f = found(FoundKind::Tear, TEAR);
    f.after = Some("course-2".into());
    let p = proposal(&job, &f, "A new piece under the lap above it");
    let (kept, plan) = apply(&job, &p.edit).expect("applies");
    let event = |n: u64, step: &str| Event {
        id: format!("01936f00-0000-7000-8000-{n:012x}"),
        who: "Ada".into(),
        at: "2026-11-29T07:05:00Z".into(),
        place: String::new(),
        step: step.into(),
        revision: 1,
        what: What::Done,
        note: String::new(),
        photos: Vec::new(),
    };
    let mut entries = Vec::new();
    for (n, step) in ["course-1", "course-2"].iter().enumerate() {
        let entry = seal(entries.last(), "2026-11-29T07:06:00Z", event(n as u64 + 1, step));
        entries.push(entry);
    }
    let (order, done) = as_built(&plan, &kept.sequence, &entries);
    assert_eq!(order.order[..4], ["course-1", "course-2", "D1/found", "D1/1"], "{:?}", &order.order[..6]);
    assert_eq!(done, 4, "two courses, hung and fastened");
    // The repair is done on the wall, and then it is done.
    let entry = seal(entries.last(), "2026-11-29T08:00:00Z", event(9, "D1/1"));
    entries.push(entry);
    let (_, done) = as_built(&plan, &kept.sequence, &entries);
    assert_eq!(done, 4 + plan.steps.iter().find(|s| s.id == "D1/1").expect("a step").actions.len());
}

#[test]
fn a_repair_left_out_is_told_and_putting_the_order_right_leaves_it_where_it_is() {
    let job = wall(&[], &[]);
    let again = proposal(&job, &found(FoundKind::Tear, TEAR), "Take it back to here and do it again");
    let (kept, plan) = apply(&job, &again.edit).expect("applies");
    assert_eq!(nearest_working_order(&plan).moved, [], "nothing stands the wrong way round");
    let (_, without) = apply(&kept, &Edit::RemoveStep { step: "D1/1/course-1".into() }).expect("applies");
    let moment = Moment::new(&without, usize::MAX).expect("a layup");
    let told = moment.findings(&without);
    assert!(told.iter().any(|f| f.code != "W-GLUE" && f.severity < kame_core::findings::Severity::Glue), "{told:?}");
    // Steps of a repair are its own trade's, and what was found is looked at.
    let phases: Vec<Phase> = plan.steps.iter().filter(|s| s.id == "D1/found").map(|s| s.phase).collect();
    assert_eq!(phases, [Phase::Check]);
}

#[test]
fn a_failed_check_takes_the_piece_off_or_sticks_another_over_it() {
    let job = wall(&[], &[]);
    let plan = build(&job).expect("a plan");
    let jambs = found_at(&plan, "W1/jambs", "D1".into()).expect("pieces on the face");
    assert_eq!(jambs.pieces, ["W1/jamb-flashing-left", "W1/jamb-flashing-right"]);
    let all = propose(&job, &jambs, &KnownWater::default(), &Stop::default()).expect("proposals");
    assert!(all.list.iter().any(|p| p.title.starts_with("Take it back")), "{:?}", all.refused);
    assert!(all.list.iter().all(|p| p.after.is_no_worse_than(&all.whole)));
    let says = |step: &str| found_at(&plan, step, "D1".into()).expect_err("refused")[0].message.clone();
    assert!(says("W9/pan").contains("there is no step"));
    assert!(says("W1/survey").contains("lays nothing"));
}

#[test]
fn damage_lies_across_corners_and_on_unfolded_walls() {
    let mut job = wall(&[], &[]);
    let at = Length::inch(100);
    job.wall.corners = vec![CornerSpec {
        at,
        kind: CornerKind::Outside,
        name: "East".into(),
        schools: answers(&[]),
        products: Default::default(),
    }];
    job.wall.width = Length::inch(240);
    job.openings[0].left = Length::inch(40);
    let p = proposal(&job, &found(FoundKind::Tear, [97, 20, 8, 3]), "A new piece under the lap above it");
    assert!(p.after.state.is_dry());
    let Edit::SetFound { found } = &p.edit else { panic!("{:?}", p.edit) };
    let Mend::Lay { place, holds, .. } = &found.repair[0] else { panic!("{:?}", found.repair) };
    assert!(
        place.left < at && at < place.left + place.width && *holds == Holds::Loose,
        "turned round the corner in one piece"
    );
}

#[test]
fn files_keep_what_was_found_and_refuse_what_cannot_be() {
    let job = wall(&[], &[]);
    let p = proposal(&job, &found(FoundKind::Tear, TEAR), "A piece stuck over it");
    let (kept, _) = apply(&job, &p.edit).expect("applies");
    let text = write_job(&kept);
    assert_eq!(read_job(text.as_bytes()).expect("reads"), kept);
    assert!(!write_job(&job).contains("found"), "nothing is written where nothing was found");
    for (from, to, says) in [
        ("\"tear\"", "\"fire\"", "unknown variant"),
        ("\"do\": \"lay\"", "\"do\": \"glue\"", "unknown variant"),
        ("\"sealed\"", "\"sealing\"", "unknown field"),
    ] {
        let wrong = text.replace(from, to);
        assert_ne!(wrong, text, "{from}");
        let told = read_job(wrong.as_bytes()).expect_err("refused");
        assert!(told[0].message.contains(says) && told[0].path.contains("found"), "{told:?}");
    }
    let many = |n: usize| {
        let one = |i: usize| FoundSpec { id: format!("D{i}"), ..found(FoundKind::Wet, TEAR) };
        let mut job = job.clone();
        job.found = (1..=n).map(one).collect();
        job.problems()
    };
    assert!(many(200).is_empty());
    assert!(many(201)[0].message.contains("at most 200"), "{:?}", many(201));
    let mut twice = job.clone();
    twice.found = vec![found(FoundKind::Wet, TEAR); 2];
    assert!(twice.problems()[0].message.contains("nothing else on the wall has"));
    let mut long = job;
    let slit = Mend::Slit { left: Length::inch(1), at: Length::inch(1), width: Length::inch(4), lift: Length::inch(4) };
    long.found = vec![FoundSpec { repair: vec![slit; 41], ..found(FoundKind::Tear, TEAR) }];
    assert!(long.problems()[0].message.contains("at most 40"));
}
