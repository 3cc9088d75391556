//! The store keeps what it acknowledged and refuses what is stale.

use kame_core::job::{Edit, Job, Problem, apply};
use kame_store::{Store, StoreError};
use tempfile::TempDir;

fn store() -> (TempDir, Store) {
    let dir = TempDir::new().expect("a folder");
    let store = Store::open(&dir.path().join("kame.db")).expect("opens");
    (dir, store)
}

fn rename(name: &str) -> impl FnOnce(&Job) -> Result<Job, Vec<Problem>> {
    let edit = Edit::Rename { name: name.into() };
    move |job| apply(job, &edit).map(|(job, _)| job)
}

#[test]
fn a_second_opening_finds_everything_with_its_history() {
    let (dir, store) = store();
    assert!(store.is_untouched().expect("asks"));
    let made = store.create(&Job::new("first")).expect("made");
    store.change(made.id, made.revision, "rename", rename("second")).expect("changed");
    drop(store);
    let store = Store::open(&dir.path().join("kame.db")).expect("opens again");
    let now = store.job(made.id).expect("there");
    assert_eq!((now.job.name.as_str(), now.undo.as_str(), now.redo.as_str()), ("second", "rename", ""));
    let back = store.undo(now.id, now.revision).expect("undone");
    assert_eq!((back.job.name.as_str(), back.undo.as_str(), back.redo.as_str()), ("first", "", "rename"));
    assert_eq!(store.redo(back.id, back.revision).expect("redone").job.name, "second");
    assert_eq!(store.jobs().expect("list")[0].name, "second");
}

#[test]
fn a_stale_change_is_told_the_newer_state_and_changes_nothing() {
    let (_dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    let newer = store.change(made.id, made.revision, "rename", rename("theirs")).expect("changed");
    let error = store.change(made.id, made.revision, "rename", rename("mine")).expect_err("stale");
    let StoreError::Stale { yours, current } = error else { panic!("{error:?}") };
    assert_eq!((yours, *current), (made.revision, newer.clone()));
    assert!(matches!(store.undo(made.id, made.revision), Err(StoreError::Stale { .. })));
    assert_eq!(store.job(made.id).expect("there"), newer);
}

#[test]
fn a_refused_change_leaves_no_trace() {
    let (_dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    let refused = store.change(made.id, made.revision, "rename", rename(""));
    assert!(matches!(refused, Err(StoreError::Refused(p)) if p[0].path == "$.name"));
    assert_eq!(store.job(made.id).expect("there"), made);
    assert!(matches!(store.undo(made.id, made.revision), Err(StoreError::NoHistory { what: "undo" })));
}

#[test]
fn a_change_that_changes_nothing_makes_no_revision() {
    let (_dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    assert_eq!(store.change(made.id, made.revision, "rename", rename("first")).expect("same"), made);
}

#[test]
fn a_new_change_after_undo_forgets_what_was_undone() {
    let (_dir, store) = store();
    let s = store.create(&Job::new("a")).expect("made");
    let s = store.change(s.id, s.revision, "to b", rename("b")).expect("b");
    let s = store.undo(s.id, s.revision).expect("undone");
    let s = store.change(s.id, s.revision, "to c", rename("c")).expect("c");
    assert_eq!((s.undo.as_str(), s.redo.as_str()), ("to c", ""));
    assert!(matches!(store.redo(s.id, s.revision), Err(StoreError::NoHistory { what: "redo" })));
}

#[test]
fn a_deleted_job_is_gone_until_it_is_put_back() {
    let (_dir, store) = store();
    let s = store.create(&Job::new("a")).expect("made");
    store.delete(s.id).expect("deleted");
    assert!(store.jobs().expect("list").is_empty());
    assert!(matches!(store.job(s.id), Err(StoreError::NotFound { .. })));
    assert!(matches!(store.delete(s.id), Err(StoreError::NotFound { .. })));
    assert!(!store.is_untouched().expect("asks"), "a deleted job was a job");
    assert_eq!(store.restore(s.id).expect("back"), s);
    assert!(matches!(store.restore(s.id + 9), Err(StoreError::NotFound { .. })));
}

#[test]
fn history_is_bounded_and_its_end_is_kept() {
    let (_dir, store) = store();
    let mut s = store.create(&Job::new("n")).expect("made");
    for n in 0..kame_store::HISTORY + 5 {
        s = store.change(s.id, s.revision, "rename", rename(&format!("n{n}"))).expect("changed");
    }
    let mut undone = 0;
    while let Ok(back) = store.undo(s.id, s.revision) {
        s = back;
        undone += 1;
    }
    assert_eq!(undone, kame_store::HISTORY - 1);
}

#[test]
fn a_change_that_stands_in_nobody_s_way_is_made_on_whatever_the_job_has_become() {
    let (_dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    let theirs = store.change(made.id, made.revision, "rename", rename("theirs")).expect("changed");
    let tick = Edit::Tick { piece: "W1/pan".into(), cut: true };
    let late = store.change(made.id, None, "tick", |job| apply(job, &tick).map(|(job, _)| job)).expect("taken");
    assert_eq!((late.revision, late.job.name.as_str()), (theirs.revision + 1, "theirs"));
    assert_eq!(late.job.ticks, ["W1/pan"]);
    assert_eq!(late.job.bench.rolls.get("W1/pan"), Some(&1), "and from which roll it was cut");
    assert!(store.change(99, None, "rename", rename("nobody")).is_err());
}
