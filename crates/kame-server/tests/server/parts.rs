//! Everything that is built in, and what may be done with it: licences that let Kame be passed on, and no other.

use serde_json::Value;
use spdx::{Expression, ParseMode};
use std::path::Path;
use std::process::Command;

/// Licences that ask for no more than their text beside what is passed on; and one that asks for its own files, changed, which none is.
const ALLOWED: [&str; 13] = [
    "MIT",
    "MIT-0",
    "Apache-2.0",
    "BSD-2-Clause",
    "BSD-3-Clause",
    "ISC",
    "Zlib",
    "0BSD",
    "CC0-1.0",
    "Unicode-3.0",
    "IJG",
    "OFL-1.1",
    "MPL-2.0",
];

fn is_allowed(licence: &str) -> bool {
    let of = |req: &spdx::LicenseReq| req.license.id().is_some_and(|id| ALLOWED.contains(&id.name));
    Expression::parse_mode(licence, ParseMode::LAX).is_ok_and(|e| e.evaluate(of))
}

#[test]
fn licences_are_understood_by_what_they_say() {
    for good in [
        "MIT",
        "MIT/Apache-2.0",
        "Apache-2.0 WITH LLVM-exception OR Apache-2.0 OR MIT",
        "(MIT OR GPL-3.0-only) AND IJG",
    ] {
        assert!(is_allowed(good), "{good}");
    }
    for bad in ["GPL-3.0-only", "MIT AND AGPL-3.0-only", "LGPL-2.1-or-later", "", "whatever"] {
        assert!(!is_allowed(bad), "{bad}");
    }
}

#[test]
fn every_part_may_be_passed_on() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".into());
    // What is built for other machines need not have been fetched.
    let says = Command::new(&cargo).arg("-vV").output().expect("cargo runs").stdout;
    let says = String::from_utf8_lossy(&says).into_owned();
    let host = says.lines().find_map(|l| l.strip_prefix("host: ")).expect("a machine");
    let args = ["metadata", "--offline", "--locked", "--format-version", "1", "--filter-platform", host];
    let told = Command::new(cargo).args(args).current_dir(&root).output().expect("cargo runs");
    assert!(told.status.success(), "{}", String::from_utf8_lossy(&told.stderr));
    let crates: Value = serde_json::from_slice(&told.stdout).expect("JSON");
    let crates = crates["packages"].as_array().expect("packages");
    let text = |v: &Value| v.as_str().unwrap_or_default().to_owned();
    let mut all: Vec<(String, String)> = crates.iter().map(|p| (text(&p["name"]), text(&p["license"]))).collect();
    let lock = std::fs::read(root.join("web/package-lock.json")).expect("the lock file of the front end");
    let lock: Value = serde_json::from_slice(&lock).expect("JSON");
    // What is only built with is not passed on.
    let ships =
        lock["packages"].as_object().expect("packages").iter().filter(|(name, p)| !name.is_empty() && p["dev"] != true);
    all.extend(ships.map(|(name, p)| (name.clone(), text(&p["license"]))));
    assert!(all.len() > 300, "{}", all.len());
    let bad: Vec<_> = all.into_iter().filter(|(_, licence)| !is_allowed(licence)).collect();
    assert!(bad.is_empty(), "{bad:?}");
}
