//! Layup documents: what is read, what is refused and with which words; reading and writing are each other's inverse.

use kame_core::layup::{Bond, Depth, Glue, Layup, Source, from_json, layup_schema, to_json};
use kame_core::length::Length;
use kame_core::surface::Edge;
use proptest::prelude::*;
use serde_json::{Value, json};

fn good() -> Value {
    json!({
        "format": "kame-layup", "version": 1, "units": "in",
        "facets": [
            {"id": "wall", "width": 24, "height": 24.5, "rise": 1.0, "exposed": true},
            {"id": "sill", "width": 8, "height": 5, "rise": 0.06}
        ],
        "stitches": [{"a": {"facet": "wall", "from": [8, 8], "to": [16, 8], "side": "below"}, "b": {"facet": "sill", "from": [0, 0], "to": [8, 0], "side": "above"}}],
        "voids": [{"facet": "wall", "rect": [8, 8, 16, 16]}],
        "sheets": [{"id": "a", "bond": "full", "cap": true, "regions": [{"facet": "wall", "rect": [0, 0, 24, 8], "rank": 2}],
                    "cuts": [{"facet": "wall", "from": [3, 1], "to": [3, 4]}]}],
        "seals": [{"under": "a", "facet": "wall", "rect": [0, 0, 1, 1]}],
        "faults": [{"under": "a", "facet": "wall", "rect": [2, 0, 3, 1]}],
        "holes": [{"in": "a", "facet": "wall", "rect": [5, 5, 6, 6]}],
        "targets": [{"id": "t", "facet": "sill", "rect": [0, 0, 8, 5], "at": "any"}],
        "outlets": [{"facet": "wall", "rect": [0, 0, 24, 0.5]}],
        "scenarios": [{"id": "rain", "kind": "rain"}, {"id": "leak", "kind": "leak", "facet": "sill", "rect": [0, 0, 2, 2], "under": "a", "glue": "lost", "drain_head": 2}]
    })
}

#[test]
fn a_whole_document_is_read_field_by_field() {
    let l = from_json(&good()).expect("reads");
    assert_eq!(
        (l.facets[0].height, l.facets[0].exposed, l.facets[1].exposed),
        (Length::inch_fraction(49, 2), true, false)
    );
    assert_eq!((l.sheets[0].bond, l.sheets[0].cap, l.sheets[0].cuts.len()), (Bond::Full, true, 1));
    assert_eq!((l.stitches[0].a.side.edge(), l.stitches[0].b.side.edge()), (Edge::Top, Edge::Bottom));
    assert_eq!(l.targets[0].depth, Depth::Any);
    assert_eq!((l.scenarios[0].glue, l.scenarios[0].drain_head), (Glue::Holds, Length::inch(1)));
    let leak = &l.scenarios[1];
    assert_eq!((leak.glue, leak.drain_head), (Glue::Lost, Length::inch(2)));
    assert!(matches!(leak.source, Source::Leak { under: Some(s), .. } if s.0 == 0));
    assert_eq!((l.facet("sill").map(|f| f.0), l.sheet("b")), (Some(1), None));
}

#[test]
fn lists_that_are_absent_are_empty() {
    let l = from_json(&json!({"format": "kame-layup", "version": 1, "units": "in"})).expect("reads");
    assert_eq!(l, Layup::default());
    assert_eq!(kame_core::water::solve(&l).expect("answers").reach.len(), 0);
}

#[test]
fn notes_and_extensions_are_let_be() {
    let mut doc = good();
    doc["$schema"] = json!("x");
    doc["note"] = json!("made up");
    doc["sheets"][0]["x-colour"] = json!("none");
    assert!(from_json(&doc).is_ok());
}

/// Changes one place of the good document; the mistake has that path and those words.
#[track_caller]
fn refused(pointer: &str, value: Value, path: &str, words: &str) {
    let mut doc = good();
    match doc.pointer_mut(pointer) {
        Some(place) => *place = value,
        None => {
            let (parent, key) = pointer.rsplit_once('/').expect("a pointer");
            doc.pointer_mut(parent).expect("a parent")[key] = value;
        }
    }
    let mistakes = from_json(&doc).expect_err("refused");
    assert!(mistakes.iter().any(|m| m.path == path && m.message.contains(words)), "{pointer}: {mistakes:?}");
}

#[test]
fn each_mistake_names_its_field_what_was_found_and_what_is_expected() {
    refused("/format", json!("other"), "$.format", "found \"other\", expected \"kame-layup\"");
    refused("/version", json!(2), "$.version", "found 2, expected 1");
    refused("/version", json!("1"), "$.version", "found \"1\"");
    refused("/units", json!("mm"), "$.units", "expected \"in\"");
    refused("/facets", json!({}), "$.facets", "found an object, expected a list");
    refused("/facets/0", json!(7), "$.facets[0]", "found 7, expected an object");
    refused("/facets/0/id", json!(""), "$.facets[0].id", "expected a name");
    refused("/facets/1/id", json!("wall"), "$.facets[1].id", "\"wall\" again");
    refused("/facets/0/width", json!(0), "$.facets[0].width", "above 0");
    refused("/facets/0/width", json!(-3), "$.facets[0].width", "above 0");
    refused("/facets/0/width", json!(1e300), "$.facets[0].width", "between");
    refused("/facets/0/width", json!("wide"), "$.facets[0].width", "found \"wide\"");
    refused("/facets/0/rise", json!(1.5), "$.facets[0].rise", "from -1 to 1");
    refused("/facets/0/rise", json!(null), "$.facets[0].rise", "found null");
    refused("/facets/0/exposed", json!("yes"), "$.facets[0].exposed", "true or false");
    refused("/facets/0/colour", json!("red"), "$.facets[0].colour", "unknown field");
    refused("/stitches/0/a/to", json!([16, 9]), "$.stitches[0].a", "slanting");
    refused("/stitches/0/a/to", json!([8, 8]), "$.stitches[0].a", "empty segment");
    refused("/stitches/0/a/to", json!([12, 8]), "$.stitches[0]", "4 and 8 in, expected two of equal length");
    refused("/stitches/0/a/side", json!("left"), "$.stitches[0].a.side", "\"below\" or \"above\" a level segment");
    refused("/stitches/0/b/facet", json!("roof"), "$.stitches[0].b.facet", "the id of a facet in this file");
    refused("/stitches/0/b/to", json!([9, 0]), "$.stitches[0].b", "leaves facet \"sill\"");
    refused("/voids/0/rect", json!([8, 8, 16]), "$.voids[0].rect", "a list of 3");
    refused("/voids/0/rect", json!([16, 8, 8, 16]), "$.voids[0].rect", "left < right");
    refused("/voids/0/rect", json!([8, 8, 99, 16]), "$.voids[0].rect", "inside facet \"wall\", which is 24 × 24.5 in");
    refused("/voids/0/rect/2", json!("16"), "$.voids[0].rect[2]", "found \"16\"");
    refused("/sheets/0/bond", json!("glued"), "$.sheets[0].bond", "\"none\" or \"full\" or \"cured\"");
    refused("/sheets/0/regions/0/rank", json!("top"), "$.sheets[0].regions[0].rank", "expected a number");
    refused("/sheets/0/cuts/0/from", json!(3), "$.sheets[0].cuts[0].from", "[u, v] in inches");
    refused("/seals/0/under", json!("z"), "$.seals[0].under", "the id of a sheet in this file");
    refused("/holes/0/in", json!(4), "$.holes[0].in", "found 4");
    refused("/targets/0/at", json!("inside"), "$.targets[0].at", "\"any\" or \"substrate\"");
    refused("/scenarios/0/kind", json!("hail"), "$.scenarios[0].kind", "\"rain\" or \"leak\"");
    refused("/scenarios/1/glue", json!("weak"), "$.scenarios[1].glue", "\"holds\" or \"lost\"");
    refused("/scenarios/1/drain_head", json!(-1), "$.scenarios[1].drain_head", "0 or more");
    refused("/scenarios/1/id", json!("rain"), "$.scenarios[1].id", "\"rain\" again");
}

#[test]
fn every_mistake_is_told_not_only_the_first() {
    let doc = json!({"format": "x", "version": 9, "units": "cm", "facets": [{}]});
    let mistakes = from_json(&doc).expect_err("refused");
    assert_eq!(mistakes.len(), 7, "{mistakes:?}");
    assert_eq!(mistakes[3].to_string(), "$.facets[0].id: missing, expected a name");
}

#[test]
fn the_schema_names_every_list_the_reader_knows() {
    let schema = layup_schema();
    for (list, _) in good().as_object().expect("an object") {
        assert!(schema["properties"][list].is_object(), "{list}");
    }
}

proptest! {
    #[test]
    fn what_is_written_reads_back_the_same(l in crate::testkit::random::layups()) {
        prop_assert_eq!(from_json(&to_json(&l)), Ok(l));
    }

    #[test]
    fn no_document_makes_the_reader_panic(text in "[\\[\\]{}:,\"a-z0-9.-]{0,80}") {
        if let Ok(doc) = serde_json::from_str::<Value>(&text) {
            prop_assert!(from_json(&doc).is_err());
        }
    }
}
