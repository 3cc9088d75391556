//! The `kame` command as a script uses it.

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
            serde_json::json!({"reach": [{"scenario": "rain", "target": "sheathing", "head_in": 4.0}], "ponds": []})
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
