//! The fault catalogue, id by id, as far as plans and water can show it: each is made on purpose and told by its id (docs/FAULTS.md).

use kame_core::edit::{Edit, apply};
use kame_core::findings::Moment;
use kame_core::job::{CornerKind, CornerSpec, Deviation, DeviationKind, FoundKind, FoundSpec, Job, Place};
use kame_core::length::Length;
use kame_core::plan::build;

fn school(opening: bool, question: &str, choice: &str) -> Edit {
    let opening = opening.then(|| "W1".to_owned());
    Edit::SetSchool { opening, wall: None, question: question.into(), choice: Some(choice.into()) }
}

fn without(step: &str) -> Edit {
    Edit::RemoveStep { step: step.into() }
}

fn before(step: &str, other: &str) -> Edit {
    Edit::MoveStep { step: step.into(), before: Some(other.into()) }
}

fn figure(id: &str, value: &str) -> Edit {
    Edit::SetFigure { id: id.into(), value: Some(value.into()) }
}

fn done(kind: DeviationKind, piece: &str) -> Edit {
    Edit::SetAsBuilt { deviation: Deviation { kind, piece: piece.into() }, so: true }
}

fn at(id: &str, question: &str, choice: &str) -> Edit {
    Edit::SetSchool { opening: Some(id.into()), wall: None, question: question.into(), choice: Some(choice.into()) }
}

fn one_more(kind: &str) -> Edit {
    Edit::AddFeature { kind: kind.into(), left: None, sill: None }
}

/// A product said to be of a metal.
fn of_metal(product: &str, metal: &str) -> Edit {
    let own = serde_json::from_value(serde_json::json!({"attributes": {"metal": metal}})).expect("a product");
    Edit::SetProduct { product: product.into(), own: Some(own), stock: None }
}

/// Each fault with the edits that make it, the last one being the mistake.
fn made() -> Vec<(&'static str, Vec<Edit>)> {
    let (barrier, sill, head, flange) = ("barrier", "sill", "head", "flange");
    vec![
        ("F01", vec![before("W1/jambs", "W1/set")]),
        ("F02", vec![figure("lap_horizontal", "1 1/2")]),
        ("F03", vec![figure("head_past", "0")]),
        ("F04", vec![before("W1/head", "W1/jambs")]),
        ("F05", vec![done(DeviationKind::SealedBottom, "W1/unit")]),
        ("F06", vec![before("W1/set", "W1/pan")]),
        ("F07", vec![figure("back_dam", "0")]),
        ("F08", vec![school(true, sill, "gussets"), without("W1/corners")]),
        ("F09", vec![before("W1/lining", "W1/pan")]),
        ("F10", vec![before("W1/drop-flap", "W1/head")]),
        ("F11", vec![without("W1/patches")]),
        ("F12", vec![without("W1/lift-flap")]),
        ("F13", vec![school(true, head, "cap"), before("W1/cap", "W1/head")]),
        ("F14", vec![done(DeviationKind::FishMouth, "W1/head-flashing")]),
        ("F15", vec![without("W1/jambs/2")]),
        ("F17", vec![school(true, flange, "butter"), without("W1/bed")]),
        ("F19", vec![school(true, head, "cap"), of_metal("Metal drip cap", "copper")]),
        ("F21", vec![figure("days_exposed", "200")]),
        ("F22", vec![one_more("pipe"), without("P1/behind")]),
        ("F23", vec![one_more("vent"), without("P1/cut/2")]),
        ("F24", vec![one_more("pipe"), at("P1", "face", "patch")]),
        ("F25", vec![figure("barrier_roll_length", "10'"), figure("opening_corner_clear", "0")]),
        ("F26", vec![done(DeviationKind::OffLevel, "course-2")]),
        ("F27", vec![school(false, barrier, "drainable"), school(false, "laps", "taped")]),
        (
            "F28",
            vec![
                Edit::SetWall {
                    name: None,
                    width: None,
                    height: None,
                    levels: None,
                    corners: Some(vec![CornerSpec {
                        at: Length::inch(160),
                        kind: CornerKind::Outside,
                        name: "East".into(),
                        schools: Default::default(),
                        products: Default::default(),
                    }]),
                },
                figure("corner_wrap", "4"),
            ],
        ),
        ("F29", vec![school(false, "base", "flashing"), Edit::MoveStep { step: "wall/base".into(), before: None }]),
        ("F18", vec![found_hole()]),
        ("F30", vec![one_more("roof"), at("L1", "foot", "bare")]),
        ("F31", vec![one_more("z"), at("L1", "flashed", "none")]),
        ("F32", vec![school(false, barrier, "panel"), before("joints", "panels")]),
        (
            "F33",
            vec![school(false, barrier, "fluid"), school(true, "seat", "level"), school(true, sill, "fluid-alone")],
        ),
        ("F34", vec![school(false, barrier, "plaster"), before("second", "W1/patches")]),
        ("F35", vec![school(false, "gap", "battens"), school(false, "furring", "shut")]),
        ("F36", vec![school(false, "gap", "mat"), school(false, "fixing", "crushed")]),
        ("F37", vec![school(false, "gap", "battens"), school(false, "ends", "bare")]),
        ("F40", vec![without("W1/inside")]),
    ]
}

/// A fastener that missed, found on the finished wall.
fn found_hole() -> Edit {
    let inch = Length::inch;
    let half = Length::inch_fraction(1, 2);
    let place = Place { left: inch(12), bottom: inch(20), width: half, height: half };
    let found = FoundSpec {
        id: "D1".into(),
        what: FoundKind::Hole,
        after: None,
        place,
        pieces: Vec::new(),
        repair: Vec::new(),
        thing: None,
    };
    Edit::SetFound { found }
}

/// What is said of a job after some edits: the codes of its findings, or the sentences that refuse it.
fn said(edits: &[Edit]) -> Result<Vec<String>, String> {
    let mut job = Job::new("faults");
    job.wall.width = Length::inch(320);
    let mut plan = Some(build(&job).expect("a plan"));
    for edit in edits {
        let (next, built) =
            apply(&job, edit).map_err(|p| p.into_iter().map(|p| p.message).collect::<Vec<_>>().join(" "))?;
        (job, plan) = (next, Some(built));
    }
    let plan = plan.expect("a plan");
    Ok(Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan).into_iter().map(|f| f.code).collect())
}

#[test]
fn every_fault_is_told_by_its_id() {
    for (fault, edits) in made() {
        match said(&edits) {
            Ok(codes) => assert!(codes.iter().any(|c| c == fault), "{fault}: {codes:?}"),
            Err(refused) => assert!(refused.contains(fault), "{fault}: {refused}"),
        }
    }
}

#[test]
fn a_right_wall_is_told_none_of_them() {
    for (fault, edits) in made() {
        let (_, right) = edits.split_last().expect("a mistake");
        let codes = said(right).expect("a right wall");
        assert!(codes.iter().all(|c| c != fault), "{fault} before it is made: {codes:?}");
    }
}

#[test]
fn the_table_names_every_fault() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/FAULTS.md");
    let table = std::fs::read_to_string(path).expect("docs/FAULTS.md");
    let row = |id: &str| table.lines().find(|l| l.starts_with(&format!("| {id} |"))).map(str::to_owned);
    for n in 1..=40 {
        let id = format!("F{n:02}");
        let row = row(&id).unwrap_or_else(|| panic!("{id} is not in the table"));
        let told = made().iter().any(|(fault, _)| *fault == id);
        assert_eq!(row.contains("| told |"), told, "{row}");
    }
}
