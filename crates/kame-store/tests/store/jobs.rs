//! The store keeps what it acknowledged and refuses what is stale.

use kame_core::edit::{Edit, apply};
use kame_core::job::{Job, Tick};
use kame_store::{Change, JobState, Standing, Store, StoreError};
use rusqlite::Connection;
use std::path::PathBuf;
use tempfile::TempDir;

fn store() -> (TempDir, Store) {
    let dir = TempDir::new().expect("a folder");
    let store = Store::open(&dir.path().join("kame.db")).expect("opens");
    (dir, store)
}

/// Renames a job as it was read.
fn rename(store: &Store, was: &JobState, label: &str, name: &str) -> Result<JobState, StoreError> {
    let (next, _) = apply(&was.job, &Edit::Rename { name: name.into() }).map_err(StoreError::Refused)?;
    store.commit(was.id, was.revision, Change { label, who: "Ada" }, &was.job, &next)
}

fn tick(piece: &str) -> Tick {
    Tick { piece: piece.into(), cut: true, roll: Some(1) }
}

#[test]
fn a_second_opening_finds_everything_with_its_history() {
    let (dir, store) = store();
    assert!(store.is_untouched().expect("asks"));
    let made = store.create(&Job::new("first")).expect("made");
    rename(&store, &made, "rename", "second").expect("changed");
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
    let newer = rename(&store, &made, "rename", "theirs").expect("changed");
    let error = rename(&store, &made, "rename", "mine").expect_err("stale");
    let StoreError::Stale { yours, current } = error else { panic!("{error:?}") };
    assert_eq!((yours, *current), (made.revision, newer.clone()));
    assert!(matches!(store.undo(made.id, made.revision), Err(StoreError::Stale { .. })));
    assert_eq!(store.job(made.id).expect("there"), newer);
}

#[test]
fn a_refused_change_leaves_no_trace() {
    let (_dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    let refused = rename(&store, &made, "rename", "");
    assert!(matches!(refused, Err(StoreError::Refused(p)) if p[0].path == "$.name"));
    assert_eq!(store.job(made.id).expect("there"), made);
    assert!(matches!(store.undo(made.id, made.revision), Err(StoreError::NoHistory { what: "undo" })));
}

#[test]
fn a_change_that_changes_nothing_makes_no_revision() {
    let (_dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    assert_eq!(rename(&store, &made, "rename", "first").expect("same"), made);
}

#[test]
fn a_new_change_after_undo_forgets_what_was_undone() {
    let (_dir, store) = store();
    let s = store.create(&Job::new("a")).expect("made");
    let s = rename(&store, &s, "to b", "b").expect("b");
    let s = store.undo(s.id, s.revision).expect("undone");
    let s = rename(&store, &s, "to c", "c").expect("c");
    assert_eq!((s.undo.as_str(), s.redo.as_str()), ("to c", ""));
    assert!(matches!(store.redo(s.id, s.revision), Err(StoreError::NoHistory { what: "redo" })));
}

#[test]
fn a_deleted_job_is_gone_until_it_is_put_back() {
    let (_dir, store) = store();
    let s = store.create(&Job::new("a")).expect("made");
    let newer = rename(&store, &s, "rename", "b").expect("renamed");
    assert!(matches!(store.delete(s.id, s.revision), Err(StoreError::Stale { .. })), "somebody changed it meanwhile");
    let s = newer;
    store.delete(s.id, s.revision).expect("deleted");
    assert!(store.jobs().expect("list").is_empty());
    assert!(matches!(store.job(s.id), Err(StoreError::NotFound { .. })));
    assert!(matches!(store.delete(s.id, s.revision), Err(StoreError::NotFound { .. })));
    assert!(!store.is_untouched().expect("asks"), "a deleted job was a job");
    assert_eq!(store.restore(s.id).expect("back"), s);
    assert!(matches!(store.restore(s.id + 9), Err(StoreError::NotFound { .. })));
}

#[test]
fn history_is_bounded_and_its_end_is_kept() {
    let (_dir, store) = store();
    let mut s = store.create(&Job::new("n")).expect("made");
    for n in 0..kame_store::HISTORY + 5 {
        s = rename(&store, &s, "rename", &format!("n{n}")).expect("changed");
    }
    let mut undone = 0;
    while let Ok(back) = store.undo(s.id, s.revision) {
        s = back;
        undone += 1;
    }
    assert_eq!(undone, kame_store::HISTORY - 1);
}

#[test]
fn a_tick_takes_no_revision_and_no_redo_and_undo_takes_no_tick() {
    let (_dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    let theirs = rename(&store, &made, "rename", "theirs").expect("changed");
    let back = store.undo(theirs.id, theirs.revision).expect("undone");
    let standing = store.tick(made.id, &tick("W1/pan")).expect("ticked");
    assert_eq!(standing, Standing { revision: back.revision, bench: back.bench + 1 });
    let now = store.job(made.id).expect("there");
    assert_eq!((now.redo.as_str(), now.job.ticks.as_slice()), ("rename", ["W1/pan".to_owned()].as_slice()));
    assert_eq!(now.job.bench.rolls.get("W1/pan"), Some(&1), "and from which roll it was cut");
    let again = store.redo(now.id, now.revision).expect("redone");
    assert_eq!((again.job.name.as_str(), again.job.ticks.len()), ("theirs", 1));
    assert_eq!(store.undo(again.id, again.revision).expect("undone").job.ticks, ["W1/pan"]);
    let untick = Tick { piece: "W1/pan".into(), cut: false, roll: None };
    store.tick(made.id, &untick).expect("taken back");
    assert!(store.job(made.id).expect("there").job.ticks.is_empty());
    assert!(matches!(store.tick(99, &tick("W1/pan")), Err(StoreError::NotFound { .. })));
    assert!(matches!(store.tick(made.id, &tick("")), Err(StoreError::Refused(_))));
}

#[test]
fn a_change_that_took_ticks_away_gives_them_back_when_it_is_undone() {
    let (_dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    store.tick(made.id, &tick("W1/pan")).expect("ticked");
    let was = store.job(made.id).expect("there");
    let spoil = Edit::Spoil { piece: "W1/pan".into(), roll: Some(1) };
    let (next, _) = apply(&was.job, &spoil).expect("spoiled");
    let spoiled =
        store.commit(made.id, was.revision, Change { label: "spoiled", who: "Ada" }, &was.job, &next).expect("kept");
    let rolls = |job: &Job| job.bench.rolls.clone().into_iter().collect::<Vec<_>>();
    assert_eq!((spoiled.job.ticks.len(), rolls(&spoiled.job)), (0, vec![("W1/pan~1".to_owned(), 1)]));
    // Ticked off by others meanwhile, it stays.
    store.tick(made.id, &tick("W1/sill-membrane")).expect("ticked");
    let back = store.undo(made.id, spoiled.revision).expect("undone").job;
    assert_eq!(back.ticks, ["W1/sill-membrane", "W1/pan"]);
    assert_eq!(rolls(&back), [("W1/pan".to_owned(), 1), ("W1/sill-membrane".to_owned(), 1)]);
    assert!(back.bench.spoiled.is_empty());
    let again = store.redo(made.id, spoiled.revision + 1).expect("redone").job;
    assert_eq!(again.ticks, ["W1/sill-membrane"]);
    assert!(again.bench.rolls.contains_key("W1/pan~1") && !again.bench.rolls.contains_key("W1/pan"));
}

#[test]
fn a_change_worked_out_before_a_tick_keeps_the_tick() {
    let (_dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    store.tick(made.id, &tick("W1/pan")).expect("ticked");
    let renamed = rename(&store, &made, "rename", "second").expect("the revision is still the same");
    assert_eq!(renamed.job.ticks, ["W1/pan"]);
    assert_eq!(store.job(made.id).expect("there"), renamed);
}

#[test]
fn who_reads_does_not_wait_for_who_writes_and_who_writes_is_told_to_come_again() {
    let (dir, store) = store();
    let made = store.create(&Job::new("first")).expect("made");
    let other = Connection::open(dir.path().join("kame.db")).expect("opens");
    other.execute_batch("BEGIN IMMEDIATE; UPDATE job SET name = 'held'").expect("holds it");
    assert_eq!(store.job(made.id).expect("read all the same"), made);
    assert_eq!(store.jobs().expect("listed").len(), 1);
    assert!(matches!(rename(&store, &made, "rename", "mine"), Err(StoreError::Busy)));
    other.execute_batch("ROLLBACK").expect("lets go");
    assert_eq!(rename(&store, &made, "rename", "mine").expect("changed").job.name, "mine");
}

/// A database file made by `sql`.
fn made_by(sql: &str) -> (TempDir, PathBuf) {
    let dir = TempDir::new().expect("a folder");
    let file = dir.path().join("kame.db");
    Connection::open(&file).expect("opens").execute_batch(sql).expect("made");
    (dir, file)
}

fn refused(file: &std::path::Path) -> String {
    Store::open(file).err().expect("refused").to_string()
}

#[test]
fn what_is_not_ours_is_named_in_one_sentence_and_left_as_it_is() {
    let (_dir, file) = made_by("CREATE TABLE invoices (id INTEGER PRIMARY KEY)");
    assert!(refused(&file).ends_with(
        "is a database of another program (it has a table \"invoices\"): name another folder for Kame's data"
    ));
    let left = Connection::open(&file).expect("opens");
    let tables: i64 = left.query_row("SELECT count(*) FROM sqlite_schema", [], |r| r.get(0)).expect("counted");
    assert_eq!(tables, 1);
    let (_dir, file) = made_by("CREATE TABLE history (id INTEGER); PRAGMA user_version = 99");
    assert!(
        refused(&file).contains("written by a newer Kame (its schema is 99, this one knows 11)"),
        "{}",
        refused(&file)
    );
    let dir = TempDir::new().expect("a folder");
    let file = dir.path().join("kame.db");
    std::fs::write(&file, "no database at all, and longer than a header of one ".repeat(40)).expect("written");
    assert!(refused(&file).contains("is it a database?"), "{}", refused(&file));
}

#[cfg(unix)]
#[test]
fn the_database_is_readable_by_its_owner_alone() {
    use std::os::unix::fs::PermissionsExt;
    let (dir, store) = store();
    store.create(&Job::new("first")).expect("made");
    for file in std::fs::read_dir(dir.path()).expect("lists").flatten() {
        let mode = file.metadata().expect("there").permissions().mode() & 0o777;
        assert_eq!(mode, 0o600, "{:?}", file.path());
    }
}
