//! The `kame` command as a script uses it.

use serde_json::json;
use std::io::Write;
use std::process::{Command, Output, Stdio};

fn kame(args: &[&str], input: &[u8]) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_kame"))
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("kame runs");
    child.stdin.take().expect("a pipe").write_all(input).expect("written");
    child.wait_with_output().expect("ends")
}

const LAP: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../kame-core/tests/cases/shingle-lap-4.layup.json");

#[test]
fn water_prints_heads_and_ponds_and_exits_0() {
    for args in [&["water", LAP][..], &["water", LAP, "--json"]] {
        let out = kame(args, b"");
        assert_eq!(out.status.code(), Some(0));
        let answer: serde_json::Value = serde_json::from_slice(&out.stdout).expect("JSON");
        assert_eq!(
            answer,
            json!({"reach": [{"scenario": "rain", "target": "sheathing", "head_in": 4.0}], "ponds": []})
        );
    }
}

#[test]
fn water_names_every_mistake_on_a_line_of_its_own_and_exits_2() {
    let doc = br#"{"format": "kame-layup", "version": 1, "units": "mm",
        "facets": [{"id": "wall", "width": 24, "height": 24, "rise": 1, "exposed": true}, {"id": "wall", "width": 1, "height": 1, "rise": 2}],
        "sheets": [{"id": "a", "bond": "gum", "regions": [{"facet": "wal", "rect": [0, 0, 9, 9], "rank": 1}]}],
        "targets": [{"id": "t", "facet": "wall", "rect": [0, 0, 99, 1], "at": "inside"}],
        "scenarios": [{"id": "s", "kind": "hail"}], "stiches": []}"#;
    let out = kame(&["water", "-"], doc);
    assert_eq!(out.status.code(), Some(2));
    assert!(out.stdout.is_empty(), "nothing half-read");
    let told = String::from_utf8(out.stderr).expect("text");
    for part in [
        "$.units: found \"mm\"",
        "$.facets[1].id",
        "$.facets[1].rise",
        "$.sheets[0].bond: found \"gum\"",
        "$.sheets[0].regions[0].facet",
        "$.targets[0].at",
        "$.scenarios[0].kind",
        "$.stiches: unknown field",
    ] {
        assert!(told.lines().any(|l| l.contains(part)), "{part} in\n{told}");
    }
}

#[test]
fn water_refuses_what_is_no_layup_in_one_line() {
    for (input, part) in [
        (&b"\xff\xfe"[..], "not UTF-8"),
        (b"", "no JSON"),
        (b"[]", "expected an object"),
        (b"{\"format\": 4", "no JSON"),
    ] {
        let out = kame(&["water", "-"], input);
        assert_eq!(out.status.code(), Some(2));
        assert!(String::from_utf8(out.stderr).expect("text").contains(part));
    }
    let out = kame(&["water", "/no/such/file"], b"");
    assert_eq!((out.status.code(), String::from_utf8(out.stderr).expect("text").lines().count()), (Some(2), 1));
}

/// What is published is what the handlers and types say; `make api` writes it again.
#[test]
fn published_descriptions_are_what_the_program_says() {
    for (of, file) in [
        ("job", "docs/kame-job.schema.json"),
        ("layup", "docs/kame-layup.schema.json"),
        ("api", "docs/openapi.json"),
        ("limits", "web/src/api/limits.gen.json"),
    ] {
        let out = kame(&["schema", of], b"");
        let said = String::from_utf8(out.stdout).expect("text");
        let published = std::fs::read_to_string(format!("{}/../../{file}", env!("CARGO_MANIFEST_DIR")));
        assert!(said == published.expect("a file"), "{file} is stale: see CONTRIBUTING.md");
    }
}

fn demo(name: &str) -> String {
    format!("{}/../../demo/{name}.kame.json", env!("CARGO_MANIFEST_DIR"))
}

#[test]
fn check_says_what_is_so_in_words_and_json_and_by_its_exit_code() {
    let dry = kame(&["check", &demo("heron-spit")], b"");
    assert_eq!(dry.status.code(), Some(0));
    let words = String::from_utf8(dry.stdout).expect("text");
    assert!(words.starts_with("Dry while the glue holds.\n") && words.contains("Rain, glue holds: 4.00 in"), "{words}");
    let wet = kame(&["check", &demo("heron-spit-as-found"), "--json"], b"");
    assert_eq!(wet.status.code(), Some(1));
    let said: serde_json::Value = serde_json::from_slice(&wet.stdout).expect("JSON");
    assert_eq!((&said["state"], &said["dry"], &said["by_laps"]), (&json!(1), &json!(false), &json!(false)));
    let head = |scenario: &str, glue: &str| {
        let heads = said["heads"].as_array().expect("heads");
        heads.iter().find(|h| h["scenario"] == scenario && h["glue"] == glue).map(|h| h["head_in"].clone())
    };
    assert_eq!(head("rain", "holds"), Some(json!(0.0)));
    assert_eq!(head("unit-leak", "holds"), Some(json!(null)), "no way in");
    assert!(head("unit-leak", "lost").is_some() && head("behind", "lost").is_some());
    let first = &said["findings"][0];
    assert_eq!((&first["code"], &first["features"]), (&json!("F11"), &json!(["W1"])));
    for field in ["severity", "pieces", "reason", "remedy"] {
        assert!(!first[field].is_null(), "{field}");
    }
    let stopped = kame(&["check", &demo("heron-spit"), "--done", "3", "--json"], b"");
    assert_eq!(stopped.status.code(), Some(1), "a wall half done is not dry");
}

#[test]
fn check_refuses_what_is_no_job_with_a_line_for_each_mistake() {
    let lines = |input: &[u8]| {
        let out = kame(&["check", "-"], input);
        assert_eq!((out.status.code(), out.stdout.is_empty()), (Some(2), true));
        String::from_utf8(out.stderr).expect("text").lines().count()
    };
    assert_eq!(lines(b"no job"), 1);
    let whole = std::fs::read_to_string(demo("heron-spit")).expect("the demo");
    let mut job: serde_json::Value = serde_json::from_str(&whole).expect("JSON");
    job["name"] = json!("");
    job["wall"]["name"] = json!("");
    assert_eq!(lines(job.to_string().as_bytes()), 2);
}

#[test]
fn order_says_what_to_buy_to_cut_and_how_long_it_takes() {
    let out = kame(&["order", &demo("heron-spit"), "--json"], b"");
    assert_eq!(out.status.code(), Some(0));
    let said: serde_json::Value = serde_json::from_slice(&out.stdout).expect("JSON");
    let piece = |id: &str| said["pieces"].as_array().expect("pieces").iter().find(|p| p["id"] == id).expect(id);
    // 62 1/2 + 2 × 1 3/8 + 2 and 41 + 2 × 6.
    assert_eq!(
        (&piece("W1/jamb-flashing-left")["length_in"], &piece("W1/pan")["length_in"]),
        (&json!(67.25), &json!(53.0))
    );
    assert_eq!(piece("W1/jamb-flashing-left")["product"], "Flashing tape");
    let products = said["products"].as_array().expect("products");
    let sheet = products.iter().find(|p| p["product"] == "Loose barrier sheet").expect("the sheet");
    assert_eq!((&sheet["count"], &sheet["unit"]), (&json!(1), &json!("ft2")));
    assert!(sheet["amount"].as_f64().is_some_and(|ft2| ft2 > 140.0) && sheet["size"].as_str().is_some());
    let minutes = said["minutes"].as_array().expect("minutes");
    assert!(minutes.iter().any(|m| m["step"] == "W1/pan" && m["minutes"].as_f64().is_some_and(|m| m > 0.0)));
    let words = String::from_utf8(kame(&["order", &demo("heron-spit")], b"").stdout).expect("text");
    assert!(
        words.contains("W1/pan: Stretch flashing membrane, 53 in") && words.contains("min of one person"),
        "{words}"
    );
    let refused = kame(&["order", "-"], b"no job");
    assert_eq!((refused.status.code(), refused.stdout.is_empty()), (Some(2), true));
}
