//! What people have practised is kept person by person, in its order, and outlives the program.

use kame_core::practice::{Drill, DrillResult};
use kame_store::{LONGEST_NAME, MOST_SCENES, Store, StoreError};
use rusqlite::Connection;
use tempfile::TempDir;

fn result(level: u8, clean: bool) -> DrillResult {
    let missed = if clean { Vec::new() } else { vec!["F10".to_owned()] };
    let points = if clean { 100.0 } else { 30.0 };
    DrillResult { drill: Drill::Find, level, points, clean, known: Vec::new(), missed, seed: Some(7), job: None }
}

#[test]
fn scenes_are_kept_for_who_played_them_who_played_last_first() {
    let dir = TempDir::new().expect("a folder");
    let file = dir.path().join("kame.db");
    let store = Store::open(&file).expect("opens");
    assert_eq!(store.practice().expect("reads"), []);
    for (who, level) in [("Ada", 1), ("Bo", 2), (" Ada ", 3)] {
        store.practised(who, None, &result(level, level != 2)).expect("kept");
    }
    drop(store);
    let kept = Store::open(&file).expect("opens again").practice().expect("reads");
    let told: Vec<(&str, Vec<u8>)> =
        kept.iter().map(|(who, all)| (who.as_str(), all.iter().map(|r| r.level).collect())).collect();
    assert_eq!(told, [("Ada", vec![1, 3]), ("Bo", vec![2])]);
    assert_eq!(kept[1].1[0], result(2, false));
}

#[test]
fn an_answer_that_is_sent_again_is_kept_once() {
    let dir = TempDir::new().expect("a folder");
    let store = Store::open(&dir.path().join("kame.db")).expect("opens");
    for id in [Some("a"), Some("a"), Some("b"), None, None] {
        store.practised("Ada", id, &result(1, true)).expect("kept, or there already");
    }
    assert_eq!(store.practice().expect("reads")[0].1.len(), 4, "those without an id are each their own");
    for id in [String::new(), "x".repeat(65)] {
        let told = store.practised("Ada", Some(&id), &result(1, true)).expect_err("refused");
        assert!(matches!(&told, StoreError::Refused(p) if p[0].path == "$.id"), "{told:?}");
    }
}

#[test]
fn a_name_that_is_none_is_refused_and_of_many_scenes_the_newest_are_read() {
    let dir = TempDir::new().expect("a folder");
    let file = dir.path().join("kame.db");
    let store = Store::open(&file).expect("opens");
    for wrong in ["", "   ", "a\nb", &"x".repeat(LONGEST_NAME + 1)] {
        let told = store.practised(wrong, None, &result(1, true)).expect_err("refused");
        assert!(matches!(&told, StoreError::Refused(p) if p[0].message.contains("that can be printed")), "{told:?}");
    }
    store.practised(&"x".repeat(LONGEST_NAME), None, &result(1, true)).expect("kept");
    // Many at once, as years leave them; and one that a later version wrote.
    let db = Connection::open(&file).expect("opens");
    let text = |level: u8| serde_json::to_string(&result(level, true)).expect("JSON");
    for n in 0..MOST_SCENES + 5 {
        let level = if n < 5 { 1 } else { 2 };
        db.execute("INSERT INTO practice (who, result) VALUES ('Cy', ?1)", [text(level)]).expect("a row");
    }
    db.execute("INSERT INTO practice (who, result) VALUES ('Cy', '{\"drill\":\"juggle\"}')", []).expect("a row");
    let all = store.practice().expect("reads");
    let cy = &all.iter().find(|(who, _)| who == "Cy").expect("Cy").1;
    assert_eq!(cy.len() as i64, MOST_SCENES - 1, "the one that cannot be read is passed over");
    assert!(cy.iter().all(|r| r.level == 2), "the oldest are not read");
}
