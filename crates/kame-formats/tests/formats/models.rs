//! Building models: what stands in them becomes a job without a size being typed; what cannot is told; damaged ones are read or refused.

use kame_core::job::{CornerKind, Job};
use kame_core::length::Length;
use kame_core::model::{FromModel, from_model};
use kame_core::plan::build;
use kame_core::stop::Stop;
use kame_formats::{ModelNote, PROPERTY_SET, read_ifc, write_notes};
use proptest::prelude::*;

const IFC4_MM: &str = include_str!("models/boat-shed-ifc4.ifc");
const IFC2X3_M: &str = include_str!("models/boat-shed-ifc2x3.ifc");

fn taken(text: &str) -> FromModel {
    let model = read_ifc(text.as_bytes(), &Stop::default()).unwrap_or_else(|e| panic!("{e}"));
    from_model(&model, &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"))
}

/// Metres to an eighth of an inch.
fn m(metres: f64) -> Length {
    Length::from_inches_f64(metres / 0.0254).expect("a length").round_to(8)
}

#[test]
fn outer_walls_stand_in_order_round_the_building_with_what_is_in_them_in_millimetres_and_in_metres() {
    for text in [IFC4_MM, IFC2X3_M] {
        let FromModel { job, walls, left_out } = taken(text);
        assert_eq!(job.name, "Heron Spit boat shed");
        // Walls 0.2 thick whose middles make 6 by 4: 6.2 by 4.2 outside, from the south wall round by the east.
        assert_eq!(job.wall.names(), ["South", "East", "North", "West"]);
        let ends = job.wall.ends();
        for (end, metres) in ends.iter().zip([0.0, 6.2, 10.4, 16.6, 20.8]) {
            let off = (end.to_inches_f64() - metres / 0.0254).abs();
            assert!(off < 0.3, "{end} for {metres} m");
        }
        assert!(job.wall.corners.iter().all(|c| c.kind == CornerKind::Outside));
        assert_eq!(job.wall.height, m(5.5), "two storeys");
        let at =
            |name: &str| job.openings.iter().find(|o| o.name == name).unwrap_or_else(|| panic!("no {name}")).clone();
        let close = |a: Length, metres: f64| (a.to_inches_f64() - metres / 0.0254).abs() < 0.2;
        for (name, left, sill, width, height) in [
            ("Bench window", 1.1, 0.9, 1.2, 1.0),
            ("Slip door", 3.6, 0.0, 1.0, 2.1),
            // The east wall is drawn southwards: 1.0 to 1.8 from its north end.
            ("Net window", 6.2 + 2.3, 1.0, 0.8, 1.2),
            // One storey up, over the south wall.
            ("Loft window", 2.1, 3.8, 1.0, 1.1),
        ] {
            let o = at(name);
            let same = close(o.left, left) && close(o.sill, sill) && close(o.width, width) && close(o.height, height);
            assert!(same, "{name}: {} {} {} {}", o.left, o.sill, o.width, o.height);
        }
        assert_eq!(job.openings.len(), 5, "with a hole that nothing is in");
        assert_eq!(at("Slip door").schools.get("unit").map(String::as_str), Some("door"));
        let plan = build(&job).expect("planned without a size being typed");
        assert!(plan.steps.iter().any(|s| s.opening.as_deref() == Some(at("Loft window").id.as_str())));
        assert!(left_out.iter().any(|l| l == "1 inner wall"), "{left_out:?}");
        assert!(left_out.iter().any(|l| l.contains("in West") && l.contains("nothing in it")), "{left_out:?}");
        assert!(left_out.iter().any(|l| l.contains("1 slab: walls")), "{left_out:?}");
        // The picture from above shows the same.
        assert_eq!(walls.len(), 4);
        assert_eq!(walls.iter().map(|w| w.openings.len()).collect::<Vec<_>>(), [3, 1, 0, 1]);
        let [from, to] = walls[0].line;
        assert!((to[0] - from[0] - 6.2 / 0.0254).abs() < 0.01 && (to[1] - from[1]).abs() < 0.01, "{from:?} {to:?}");
    }
}

#[test]
fn what_is_no_model_or_says_too_little_is_refused_with_what_to_do() {
    let refused = |text: &str| read_ifc(text.as_bytes(), &Stop::default()).expect_err("refused");
    assert!(refused("").contains("IFC file in STEP form"));
    assert!(refused("<ifcXML/>").contains("not as XML"));
    assert!(refused("ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));").contains("no IFC 2x3 or IFC 4"));
    let stop = Stop::default();
    stop.stop();
    assert!(read_ifc(IFC4_MM.as_bytes(), &stop).is_err(), "nobody waits any more");
    let empty =
        read_ifc(b"ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\nENDSEC;\n", &Stop::default());
    let said = from_model(&empty.expect("read"), &Stop::default()).expect_err("nothing in it");
    assert!(said[0].message.contains("no straight wall"), "{said:?}");
}

#[test]
fn a_wall_without_a_shape_and_a_placement_that_goes_in_circles_are_told() {
    // The placement that the north wall stands in stands in itself.
    let wall = IFC4_MM.lines().find(|l| l.contains("=IFCWALL(") && l.contains("'North'")).expect("a wall");
    let placement = wall.split(',').nth(5).expect("a placement").to_owned();
    let circle = |l: &str| {
        let own = l.starts_with(&format!("{placement}="));
        let inner = l.split(['(', ',']).nth(1).unwrap_or_default().to_owned();
        if own { l.replacen(&inner, &placement, 1) } else { l.to_owned() }
    };
    let text: String = IFC4_MM.lines().map(circle).collect::<Vec<_>>().join("\n");
    assert!(text != IFC4_MM);
    let model = read_ifc(text.as_bytes(), &Stop::default()).expect("read");
    assert!(model.left_out.iter().any(|l| l.contains("North: where it stands cannot be read")), "{:?}", model.left_out);
    let shapeless = IFC4_MM.replace("IFCEXTRUDEDAREASOLID", "IFCREVOLVEDAREASOLID");
    let model = read_ifc(shapeless.as_bytes(), &Stop::default()).expect("read");
    assert!(model.walls.is_empty());
    assert!(model.left_out.iter().any(|l| l.contains("North: its shape cannot be read")), "{:?}", model.left_out);
}

#[test]
fn a_shape_that_stands_in_itself_twice_over_ends() {
    let lines: Vec<&str> = IFC4_MM.lines().collect();
    let solid = lines.iter().find(|l| l.contains("=IFCEXTRUDEDAREASOLID(")).expect("a solid");
    let id = solid.split('=').next().expect("an id");
    let (map, shape) = ("#9001", "#9002");
    // The wall's body is a mapped item of a shape that holds that same item twice.
    let nested = format!(
        "{id}=IFCMAPPEDITEM({map},$);\n{map}=IFCREPRESENTATIONMAP($,{shape});\n{shape}=IFCSHAPEREPRESENTATION($,'Body','MappedRepresentation',({id},{id}));"
    );
    let text = lines.iter().map(|l| if l == solid { nested.as_str() } else { l }).collect::<Vec<_>>().join("\n");
    let model = read_ifc(text.as_bytes(), &Stop::default()).expect("read");
    assert!(model.left_out.iter().any(|l| l.contains("North: its shape cannot be read")), "{:?}", model.left_out);
}

fn answered(text: &[u8]) -> Option<Job> {
    from_model(&read_ifc(text, &Stop::default()).ok()?, &Stop::default()).ok().map(|f| f.job)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 160, ..ProptestConfig::default() })]
    /// Whatever bytes are changed, cut out or doubled, a model is read or refused, and what it becomes can be built.
    #[test]
    fn damaged_models_are_read_or_refused(
        places in prop::collection::vec((0..IFC4_MM.len(), any::<u8>(), 0..4_u8, 1..400_usize), 1..12),
        mm in any::<bool>(),
    ) {
        let mut bytes = if mm { IFC4_MM } else { IFC2X3_M }.as_bytes().to_vec();
        for (at, byte, how, many) in places {
            let at = at % bytes.len().max(1);
            let to = (at + many).min(bytes.len());
            match how {
                0 => bytes[at] = byte,
                1 => drop(bytes.drain(at..to)),
                2 => bytes.extend_from_within(at..to),
                // A number that is another: references, sizes and counts.
                _ => bytes[at..to].iter_mut().filter(|b| b.is_ascii_digit()).for_each(|b| *b = b'0' + byte % 10),
            }
            if bytes.is_empty() {
                break;
            }
        }
        if let Some(job) = answered(&bytes) {
            prop_assert!(build(&job).is_ok());
        }
    }
}

#[test]
fn what_is_planned_is_written_into_the_same_model_and_replaced_the_next_time() {
    for text in [IFC4_MM, IFC2X3_M] {
        let job = taken(text).job;
        let say = |what: &str| -> Vec<ModelNote> {
            let of = |o: &kame_core::job::OpeningSpec| ModelNote {
                id: o.model.clone(),
                properties: vec![("Mark".into(), o.id.clone()), ("Says".into(), format!("{what}: it's 36\" × 9\\ °"))],
            };
            job.openings.iter().map(of).chain([ModelNote { id: "not there".into(), properties: vec![] }]).collect()
        };
        let written = |bytes: &[u8], what: &str| {
            let (out, said) = write_notes(bytes, &say(what), &Stop::default()).expect("written");
            assert_eq!(said, job.openings.len());
            String::from_utf8(out).expect("text")
        };
        let once = written(text.as_bytes(), "first");
        assert_eq!(once.matches(PROPERTY_SET).count(), job.openings.len());
        assert!(
            once.contains("IFCTEXT('first: it''s 36\" \\X2\\00D7\\X0\\ 9\\\\ \\X2\\00B0\\X0\\')"),
            "as STEP writes letters"
        );
        // Everything else is there byte for byte, in its place.
        let ours = |line: &&str| !(line.contains(PROPERTY_SET) || line.contains("IFCTEXT(") || once_only(text, line));
        let kept: Vec<&str> = once.lines().filter(ours).collect();
        assert_eq!(kept, text.lines().collect::<Vec<_>>());
        assert_eq!(taken(&once).job, job, "it reads as before");
        // Written once more the earlier sets are gone, and their ids are the same.
        let twice = written(once.as_bytes(), "second");
        assert_eq!((twice.matches(PROPERTY_SET).count(), twice.matches("first").count()), (job.openings.len(), 0));
        assert_eq!(twice.lines().count(), once.lines().count());
        let ids = |text: &str| -> Vec<String> {
            let of = |l: &str| l.split('\'').nth(1).map(str::to_owned);
            text.lines().filter(|l| l.contains(PROPERTY_SET)).filter_map(of).collect()
        };
        assert_eq!(ids(&once), ids(&twice));
        assert!(ids(&once).iter().all(|id| id.len() == 22 && id.as_bytes()[0] <= b'3'));
    }
    let cut = &IFC4_MM[..IFC4_MM.len() / 2];
    let cut = cut.replace("ENDSEC;", "");
    assert!(write_notes(cut.as_bytes(), &[], &Stop::default()).is_err_and(|e| e.contains("ends in the midst")));
}

/// True for a relation that an earlier text has not.
fn once_only(before: &str, line: &str) -> bool {
    line.contains("IFCRELDEFINESBYPROPERTIES(") && !before.contains(line)
}
