//! The folder of the data: backed up while it is written, restored, looked through; damaged, moved, held, of every earlier schema.

use crate::record::{event, png};
use kame_core::edit::{Edit, apply};
use kame_core::job::Job;
use kame_store::{
    Change, JobState, LEAST_KEPT, Position, Store, StoreError, back_up, hash_of, hold, look_through, restore,
};
use rusqlite::Connection;
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use tempfile::TempDir;

fn folder() -> (TempDir, PathBuf, Store) {
    let dir = TempDir::new().expect("a folder");
    let data = dir.path().join("data");
    fs::create_dir(&data).expect("made");
    let store = Store::open(&data.join("kame.db")).expect("opens");
    (dir, data, store)
}

fn rename(store: &Store, was: &JobState, name: &str) -> Result<JobState, StoreError> {
    let (next, _) = apply(&was.job, &Edit::Rename { name: name.into() }).map_err(StoreError::Refused)?;
    store.commit(was.id, was.revision, Change { label: "rename", who: "Ada" }, &was.job, &next)
}

/// Some jobs, a record with a photograph, and a job that was deleted.
fn filled(store: &Store) -> JobState {
    let made = store.create(&Job::new("north")).expect("made");
    let photo = png(3);
    let hash = hash_of(&photo);
    store.keep_photo(&hash, &photo, Position::Without).expect("kept");
    let mut seen = event(1, "one");
    seen.photos = vec![hash];
    store.record(made.id, &[seen, event(2, "two")]).expect("on record");
    let gone = store.create(&Job::new("gone")).expect("made");
    store.delete(gone.id, gone.revision).expect("deleted");
    made
}

/// Zeros in a page of a file, counted from 1.
fn zero_page(file: &Path, page: usize) {
    let mut bytes = fs::read(file).expect("read");
    bytes[(page - 1) * 4096..page * 4096].fill(0);
    fs::write(file, bytes).expect("written");
}

#[test]
fn a_backup_taken_while_others_write_holds_one_moment_and_is_restored_as_it_was() {
    let (dir, data, store) = folder();
    let made = filled(&store);
    let ended = AtomicBool::new(false);
    let (to, last) = (
        dir.path().join("backup"),
        std::thread::scope(|scope| {
            let writing = scope.spawn(|| {
                let mut now = made.clone();
                let mut names = 0;
                while !ended.load(Ordering::Relaxed) {
                    names += 1;
                    now = rename(&store, &now, &format!("name {names}")).expect("changed");
                }
                names
            });
            // Somebody has written before it begins.
            while store.job(made.id).expect("there").revision < 5 {
                std::thread::yield_now();
            }
            let found = back_up(&data, &dir.path().join("backup")).expect("backed up");
            ended.store(true, Ordering::Relaxed);
            assert_eq!((found.jobs, found.entries, found.photos, found.unnamed), (2, 2, 1, 0));
            writing.join().expect("written")
        }),
    );
    let again = dir.path().join("again");
    let found = restore(&to, &again).expect("restored");
    assert!(found.wrong.is_empty() && found == look_through(&to).expect("looked through"), "{:?}", found.wrong);
    let store = Store::open(&again.join("kame.db")).expect("opens");
    let job = store.job(made.id).expect("there");
    let number: i64 = job.job.name.strip_prefix("name ").expect("renamed").parse().expect("a number");
    // A moment while others wrote: neither before they began nor after they ended, and its own history leads there.
    assert!(
        (4..=last).contains(&number) && job.revision == number + 1,
        "{number} of {last}, revision {}",
        job.revision
    );
    assert_eq!(store.undo(job.id, job.revision).expect("undone").job.name, format!("name {}", number - 1));
    assert!(store.verify_record(made.id).expect("looked").broken.is_none());
    assert_eq!(store.deleted().expect("list").len(), 1);
}

#[test]
fn what_is_no_backup_or_was_changed_is_not_restored_and_nothing_is_left_of_it() {
    let (dir, data, store) = folder();
    filled(&store);
    let to = dir.path().join("backup");
    back_up(&data, &to).expect("backed up");
    let refused = |from: &Path| {
        let new = dir.path().join("new");
        let said = restore(from, &new).expect_err("refused").to_string();
        assert!(!new.exists(), "{said}");
        said
    };
    assert!(refused(&data).contains("copied and not made by kame backup"));
    assert!(refused(dir.path()).contains("there is no backup.json in it"));
    let said = back_up(&data, &to).expect_err("something is there").to_string();
    assert!(said.contains("something is there already"), "{said}");
    // A photograph that was changed, one that is lost, a database that was changed, a manifest of another program.
    let photo = walk(&to.join("photos"));
    let whole = fs::read(&photo).expect("read");
    fs::write(&photo, b"another").expect("written");
    assert!(refused(&to).contains("was changed"), "{}", refused(&to));
    fs::remove_file(&photo).expect("removed");
    assert!(refused(&to).contains("is not there any more"));
    fs::write(&photo, whole).expect("written");
    let manifest = fs::read_to_string(to.join("backup.json")).expect("read");
    fs::write(to.join("backup.json"), manifest.replace("kame-backup", "tape")).expect("written");
    assert!(refused(&to).contains("expected kame-backup 1"));
    fs::write(to.join("backup.json"), &manifest).expect("written");
    restore(&to, &dir.path().join("as it was")).expect("whole again");
    let database = Connection::open(to.join("kame.db")).expect("opens");
    database.execute_batch("UPDATE job SET name = 'other'").expect("changed");
    assert!(refused(&to).contains("not as it was backed up"));
}

/// The first file below a folder.
fn walk(folder: &Path) -> PathBuf {
    let first = fs::read_dir(folder).expect("read").next().expect("something").expect("an entry").path();
    if first.is_dir() { walk(&first) } else { first }
}

#[test]
fn whatever_page_is_zeroed_it_is_told_and_nothing_is_written_to_it() {
    let (dir, data, store) = folder();
    let made = filled(&store);
    let mut now = made;
    for n in 0..60 {
        now = rename(&store, &now, &format!("name {n}")).expect("changed");
    }
    drop(store);
    // As one file, whatever stood beside it.
    let file = data.join("kame.db");
    Connection::open(&file).expect("opens").execute_batch("PRAGMA wal_checkpoint(TRUNCATE)").expect("in one");
    let pages = fs::metadata(&file).expect("there").len() as usize / 4096;
    assert!(pages > 12, "{pages}");
    let (mut refused, mut read_only) = (0, 0);
    for page in 1..=pages {
        let copy = dir.path().join(format!("page-{page}"));
        fs::create_dir(&copy).expect("made");
        let damaged = copy.join("kame.db");
        fs::copy(&file, &damaged).expect("copied");
        zero_page(&damaged, page);
        let before = fs::read(&damaged).expect("read");
        match Store::open(&damaged) {
            Err(e) => {
                refused += 1;
                assert!(
                    e.to_string().contains("kame restore") || e.to_string().contains("is it a database"),
                    "{page}: {e}"
                );
            }
            Ok(store) => {
                let why = store.read_only().unwrap_or_else(|| panic!("page {page} of {pages} is not noticed"));
                assert!(why.contains("is damaged") && why.contains("kame restore"), "{why}");
                read_only += 1;
                assert!(matches!(store.create(&Job::new("new")), Err(StoreError::ReadOnly { .. })));
                // What can be read still is; what cannot says so.
                assert!(matches!(store.jobs(), Ok(_) | Err(StoreError::Corrupt)));
                assert!(matches!(
                    store.job(1),
                    Ok(_) | Err(StoreError::Corrupt | StoreError::NotFound { .. } | StoreError::Damaged { .. })
                ));
                assert!(back_up(&copy, &dir.path().join("no")).is_err() && !dir.path().join("no").exists());
            }
        }
        assert!(before == fs::read(&damaged).expect("read"), "page {page}: what is damaged is left as it is");
        match look_through(&copy) {
            Ok(found) => assert!(!found.wrong.is_empty(), "page {page}"),
            Err(e) => assert!(!e.to_string().is_empty()),
        }
    }
    assert!(refused >= 1 && read_only > refused, "{refused} refused, {read_only} read only");
}

#[test]
fn one_server_has_a_folder_at_a_time() {
    let (_dir, data, _store) = folder();
    let held = hold(&data).expect("free");
    let said = hold(&data).err().expect("held").to_string();
    assert!(said.contains("is in use by another Kame") && said.contains("--data"), "{said}");
    drop(held);
    hold(&data).expect("free again");
}

#[test]
fn a_file_that_is_moved_away_or_replaced_is_noticed_by_the_next_change() {
    let (dir, data, store) = folder();
    let made = filled(&store);
    let file = data.join("kame.db");
    let away = dir.path().join("away.db");
    fs::rename(&file, &away).expect("moved");
    let said = rename(&store, &made, "lost").expect_err("noticed").to_string();
    assert!(said.contains("was moved away or replaced"), "{said}");
    fs::write(&file, b"another").expect("written");
    assert!(matches!(rename(&store, &made, "lost"), Err(StoreError::Moved { .. })));
    fs::remove_file(&file).expect("removed");
    fs::rename(&away, &file).expect("put back");
    assert_eq!(rename(&store, &made, "kept").expect("changed").job.name, "kept");
}

#[test]
fn one_state_that_does_not_read_does_not_lock_its_job() {
    let (_dir, data, store) = folder();
    let made = filled(&store);
    let one = rename(&store, &made, "one").expect("changed");
    let two = rename(&store, &one, "two").expect("changed");
    let other = Connection::open(data.join("kame.db")).expect("opens");
    other.execute_batch("UPDATE history SET job = 'no job' WHERE job_id = 1 AND position = 2").expect("damaged");
    assert!(matches!(store.job(1), Err(StoreError::Damaged { id: 1, .. })));
    assert!(look_through(&data).expect("looked").wrong[0].contains("job 1 in the database does not read"));
    let history = store.history(1).expect("listed");
    assert_eq!((history.name.as_str(), history.revision), ("two", two.revision));
    let told: Vec<_> = history.past.iter().map(|p| (p.position, p.now, p.damaged.is_empty())).collect();
    assert_eq!(told, [(2, true, false), (1, false, true), (0, false, true)]);
    assert!(matches!(store.go_back_to(1, two.revision, 2), Err(StoreError::Damaged { .. })));
    assert!(matches!(store.go_back_to(1, two.revision, 7), Err(StoreError::NoHistory { .. })));
    let back = store.go_back_to(1, two.revision, 1).expect("an earlier one");
    assert_eq!((back.job.name.as_str(), back.revision), ("one", two.revision + 1));
    assert!(matches!(store.go_back_to(1, two.revision, 0), Err(StoreError::Stale { .. })));
    assert!(look_through(&data).expect("looked").wrong.is_empty(), "what it is reads again");
    assert_eq!(rename(&store, &back, "three").expect("changed").job.name, "three");
}

#[test]
fn of_many_changes_the_newest_are_kept_and_the_file_does_not_swell() {
    let (_dir, data, store) = folder();
    let mut now = store.create(&Job::new("start")).expect("made");
    let size = || fs::metadata(data.join("kame.db")).expect("there").len();
    let mut after_a_thousand = 0;
    for n in 0..3_000 {
        now = rename(&store, &now, &format!("name {n}")).expect("changed");
        if n == 1_000 {
            after_a_thousand = size();
        }
    }
    let history = store.history(now.id).expect("listed");
    assert_eq!(history.past.len() as i64 + history.dropped, 3_001);
    assert_eq!(history.past.len() as i64, kame_store::HISTORY);
    assert!(size() <= after_a_thousand * 5 / 4, "{after_a_thousand} bytes became {}", size());
    // Of large ones fewer, and never fewer than can be undone in a day.
    let other = Connection::open(data.join("kame.db")).expect("opens");
    let grown = "UPDATE history SET job = json_set(job, '$.name', printf('%.*c', 4000000, 'x')) WHERE job_id = 1";
    other.execute_batch(grown).expect("grown");
    let kept = rename(&store, &now, "after").expect("changed");
    let history = store.history(kept.id).expect("listed");
    assert_eq!(history.past.len() as i64, LEAST_KEPT);
    assert_eq!(history.past.len() as i64 + history.dropped, 3_002);
}

#[test]
fn deleted_jobs_are_listed_put_back_and_gone_by_rule_but_never_those_with_a_record() {
    let (_dir, data, store) = folder();
    let made = filled(&store);
    store.delete(made.id, made.revision).expect("deleted");
    let mut list = store.deleted().expect("list");
    list.sort_by_key(|d| d.id);
    assert_eq!(list.iter().map(|d| (d.name.as_str(), d.entries)).collect::<Vec<_>>(), [("north", 2), ("gone", 0)]);
    assert_eq!(list[0].days_left, None);
    assert!(list[1].days_left.is_some_and(|d| (89..=90).contains(&d)), "{:?}", list[1]);
    assert_eq!(store.purge().expect("asked"), 0);
    let other = Connection::open(data.join("kame.db")).expect("opens");
    other.execute_batch("UPDATE job SET deleted = '2020-01-01T00:00:00.000Z'").expect("long ago");
    assert_eq!(store.purge().expect("asked"), 1);
    assert_eq!(store.deleted().expect("list").len(), 1, "what was written down stays");
    assert_eq!(store.restore(made.id).expect("back").job.name, "north");
    assert!(store.verify_record(made.id).expect("looked").broken.is_none());
}

#[test]
fn every_earlier_schema_is_brought_to_this_one_with_nothing_lost_and_kept_beside_it() {
    let schemas = [
        include_str!("schemas/1.sql"),
        include_str!("schemas/2.sql"),
        include_str!("schemas/3.sql"),
        include_str!("schemas/4.sql"),
        include_str!("schemas/5.sql"),
        include_str!("schemas/6.sql"),
        include_str!("schemas/7.sql"),
        include_str!("schemas/8.sql"),
        include_str!("schemas/9.sql"),
        include_str!("schemas/10.sql"),
    ];
    for (n, sql) in (1..).zip(schemas) {
        let dir = TempDir::new().expect("a folder");
        let file = dir.path().join("kame.db");
        Connection::open(&file).expect("opens").execute_batch(sql).unwrap_or_else(|e| panic!("schema {n}: {e}"));
        let before = look_through(dir.path()).expect("looked");
        assert_eq!((before.schema, before.jobs, before.wrong.as_slice()), (n, 2, [].as_slice()), "as it was");
        let store = Store::open(&file).unwrap_or_else(|e| panic!("schema {n}: {e}"));
        let now = store.job(1).expect("there");
        assert_eq!(
            (now.job.name.as_str(), now.undo.as_str(), now.redo.as_str(), now.revision),
            ("renamed", "rename", "rename", 4)
        );
        assert_eq!(now.job.ticks, ["W1/pan"], "schema {n}");
        assert!(kame_core::plan::build(&now.job).is_ok(), "schema {n}");
        // Found by names it had before there was anything to be found by.
        let found = store.find("renamed", |_| true).expect("looked");
        assert_eq!(found.iter().map(|f| f.id).collect::<Vec<_>>(), [1], "schema {n}");
        assert!(!store.find("w1", |_| true).expect("looked")[0].places.is_empty(), "schema {n}");
        assert_eq!(store.people().expect("read").len(), usize::from(n >= 8), "schema {n}");
        let back = store.undo(1, 4).expect("undone");
        assert_eq!(back.job.name, "made so");
        let on = store.redo(1, 5).and_then(|j| store.redo(1, j.revision)).expect("redone twice");
        assert_eq!(on.job.name, "renamed twice");
        assert_eq!(store.deleted().expect("list").len(), 1);
        let entries = if n >= 5 { 3 } else { 0 };
        assert_eq!(
            (store.whole_record(1).expect("read").len(), store.verify_record(1).expect("looked").broken),
            (entries, None)
        );
        let after = look_through(dir.path()).expect("looked");
        assert!(after.wrong.is_empty() && after.entries == entries, "{:?}", after.wrong);
        // The earlier program finds what it had.
        let kept = Connection::open(dir.path().join(format!("kame-schema-{n}.db"))).expect("opens");
        let version: i64 = kept.pragma_query_value(None, "user_version", |r| r.get(0)).expect("a number");
        let names: i64 = kept.query_row("SELECT count(*) FROM history", [], |r| r.get(0)).expect("counted");
        assert_eq!((version, names), (n, 4));
        drop(store);
        Store::open(&file).expect("opens again");
    }
}
