//! The public layups with their expected answers (handbook 4.6): zeros and nevers exactly, ponds as a set, heads within 0.3 in.

use kame_core::{layup, water};
use serde_json::Value;
use std::collections::BTreeSet;
use std::path::Path;

fn read(path: &Path) -> Value {
    serde_json::from_str(&std::fs::read_to_string(path).expect("case file")).expect("JSON")
}

/// How near a head has to be to the published one, in inches of water.
const AGREES_WITHIN: f64 = 0.3;

type PondKey = (String, String, Option<String>);

fn ponds(answer: &Value) -> BTreeSet<PondKey> {
    let key = |p: &Value| {
        let text = |k: &str| p[k].as_str().map(str::to_owned);
        (text("scenario").expect("scenario"), text("facet").expect("facet"), text("on"))
    };
    answer["ponds"].as_array().expect("ponds").iter().map(key).collect()
}

#[test]
fn every_public_case_agrees() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases");
    let mut seen = 0;
    let mut wrong = Vec::new();
    for entry in std::fs::read_dir(folder).expect("cases").flatten() {
        let path = entry.path();
        let name = path.file_name().and_then(|n| n.to_str()).unwrap_or_default().to_owned();
        let Some(stem) = name.strip_suffix(".layup.json") else { continue };
        let layup = layup::from_json(&read(&path)).unwrap_or_else(|m| panic!("{name}: {m:?}"));
        let answer = water::solve(&layup).unwrap_or_else(|m| panic!("{name}: {m:?}"));
        crate::testkit::gaps_made_one_say_the_same(&layup).unwrap_or_else(|m| panic!("{name}: {m}"));
        let answer = answer.to_json(&layup);
        let expected = read(&path.with_file_name(format!("{stem}.expected.json")));
        for e in expected["reach"].as_array().expect("reach") {
            let reach = answer["reach"].as_array().expect("reach");
            let at = reach
                .iter()
                .position(|r| r["scenario"] == e["scenario"] && r["target"] == e["target"])
                .expect("an answer");
            let ours = reach[at]["head_in"].as_f64();
            let agrees = match (e["head_in"].as_f64(), ours) {
                (Some(0.0), Some(y)) => y == 0.0,
                (Some(x), Some(y)) => (x - y).abs() <= AGREES_WITHIN,
                (None, None) => true,
                _ => false,
            };
            if !agrees {
                wrong.push(format!(
                    "{name} {} {}: expected {}, found {ours:?}",
                    e["scenario"], e["target"], e["head_in"]
                ));
            }
        }
        if ponds(&expected) != ponds(&answer) {
            wrong.push(format!("{name}: expected ponds {:?}, found {:?}", ponds(&expected), ponds(&answer)));
        }
        seen += 1;
    }
    assert_eq!(seen, 15, "number of public cases");
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
