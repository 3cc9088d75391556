//! The record is added to, exactly once, and never changed.

use kame_core::job::Job;
use kame_core::record::{Event, What};
use kame_store::{Change, LARGEST_PHOTO, Position, Store, StoreError, hash_of};
use rusqlite::Connection;
use std::sync::Barrier;
use tempfile::TempDir;

pub fn event(n: u64, note: &str) -> Event {
    Event {
        id: format!("01936f00-0000-7000-8000-{n:012x}"),
        who: "Ada".into(),
        at: "2026-11-29T07:05:00Z".into(),
        place: "W1".into(),
        step: "W1/survey".into(),
        revision: 1,
        what: What::Done,
        note: note.into(),
        photos: Vec::new(),
    }
}

fn made() -> (TempDir, Store, i64) {
    let dir = TempDir::new().expect("a folder");
    let store = Store::open(&dir.path().join("kame.db")).expect("opens");
    let id = store.create(&Job::new("first")).expect("made").id;
    (dir, store, id)
}

#[test]
fn an_event_is_taken_once_and_in_order_and_all_of_them_or_none() {
    let (dir, store, id) = made();
    let first = store.record(id, &[event(1, "a"), event(2, "b")]).expect("taken");
    assert_eq!(first.iter().map(|e| e.number).collect::<Vec<_>>(), [1, 2]);
    // Sent again, with one more, as after a lost answer.
    let again = store.record(id, &[event(2, "b"), event(3, "c")]).expect("taken");
    assert_eq!((&again[0], again[1].number), (&first[1], 3));
    // The same id for something else is refused, and nothing of that sending stays.
    let refused = store.record(id, &[event(4, "d"), event(2, "other")]);
    assert!(matches!(refused, Err(StoreError::Refused(p)) if p[0].path == "$.events[1].id"));
    let refused = store.record(id, &[event(5, "e"), Event { who: String::new(), ..event(6, "f") }]);
    assert!(matches!(refused, Err(StoreError::Refused(p)) if p[0].path == "$.events[1].who"));
    assert!(matches!(store.record(99, &[event(1, "a")]), Err(StoreError::NotFound { id: 99 })));
    drop(store);
    let store = Store::open(&dir.path().join("kame.db")).expect("opens again");
    let all = store.whole_record(id).expect("reads");
    assert_eq!(all.iter().map(|e| e.event.note.as_str()).collect::<Vec<_>>(), ["a", "b", "c"]);
    assert!(store.verify_record(id).expect("looks").broken.is_none());
    assert_eq!(store.entries(id, 3).expect("reads"), all[2..]);
}

#[test]
fn many_at_once_each_end_up_in_one_chain() {
    let (_dir, store, id) = made();
    let start = Barrier::new(8);
    std::thread::scope(|s| {
        for t in 0..8_u64 {
            let (store, start) = (&store, &start);
            s.spawn(move || {
                start.wait();
                for n in 0..20 {
                    // Each sends its own, and all send the same one.
                    let events = [event(1000 * (t + 1) + n, "own"), event(n, "same")];
                    while matches!(store.record(id, &events), Err(StoreError::Busy)) {}
                }
            });
        }
    });
    let whole = store.verify_record(id).expect("looks");
    assert_eq!((whole.entries, whole.broken), (8 * 20 + 20, None));
}

#[test]
fn what_is_on_record_cannot_be_changed_and_a_database_in_which_it_was_is_told() {
    let (dir, store, id) = made();
    store.record(id, &(0..5).map(|n| event(n, "right")).collect::<Vec<_>>()).expect("taken");
    let file = Connection::open(dir.path().join("kame.db")).expect("opens");
    for wrong in [
        "UPDATE record SET entry = replace(entry, 'right', 'wrong') WHERE number = 3",
        "DELETE FROM record WHERE number = 3",
        "DELETE FROM job",
    ] {
        assert!(file.execute(wrong, []).is_err(), "{wrong}");
    }
    // Who takes the locks off can, and is found.
    file.execute_batch("DROP TRIGGER record_is_not_changed; DROP TRIGGER record_is_not_cut;").expect("no locks");
    file.execute("UPDATE record SET entry = replace(entry, 'right', 'wrong') WHERE number = 3", []).expect("changed");
    assert_eq!(store.verify_record(id).expect("looks").broken.expect("found").number, 3);
    file.execute("DELETE FROM record WHERE number = 3", []).expect("cut out");
    assert_eq!(store.verify_record(id).expect("looks").broken.expect("found").number, 3);
}

#[test]
fn copies_and_undo_leave_the_record_alone() {
    let (_dir, store, id) = made();
    store.record(id, &[event(1, "a")]).expect("taken");
    let was = store.job(id).expect("there");
    let next = Job { name: "other".into(), ..was.job.clone() };
    let changed =
        store.commit(id, was.revision, Change { label: "rename", who: "Ada" }, &was.job, &next).expect("kept");
    store.undo(id, changed.revision).expect("undone");
    assert_eq!(store.whole_record(id).expect("reads").len(), 1);
    let copy = store.create(&was.job).expect("made").id;
    assert!(store.whole_record(copy).expect("reads").is_empty());
}

/// A photograph of one pixel, made by hand: PNG, so that its parts can be told.
pub fn png(colour: u8) -> Vec<u8> {
    let mut out = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\0\x01\0\0\0\x01\x08\0\0\0\0".to_vec();
    out.extend([0, 0, 0, colour]);
    out
}

#[test]
fn a_photograph_is_kept_by_its_hash_before_the_entry_that_names_it() {
    let (dir, store, id) = made();
    let (one, hash) = (png(1), hash_of(&png(1)));
    let named = |n: u64, hash: &str| Event { photos: vec![hash.to_owned()], ..event(n, "") };
    let refused = store.record(id, &[event(1, "a"), named(2, &hash)]);
    assert!(
        matches!(refused, Err(StoreError::Refused(p)) if p[0].path == "$.events[1].photos" && p[0].message.contains("send it before"))
    );
    assert!(store.whole_record(id).expect("reads").is_empty(), "nothing of that sending stays");
    for (hash, bytes, says) in [
        (hash.as_str(), &png(2)[..], "changed or cut off"),
        ("../kame.db", &one[..], "64 hexadecimal digits"),
        (hash.as_str(), b"no photograph at all, only words", "expected a JPEG, PNG or WebP"),
        (hash.as_str(), &one[..20], "cut off or damaged"),
        (hash.as_str(), &vec![0; LARGEST_PHOTO + 1][..], "expected at most 8 MB"),
    ] {
        let refused = store.keep_photo(hash, bytes, Position::Without);
        assert!(matches!(&refused, Err(StoreError::Refused(p)) if p[0].message.contains(says)), "{refused:?}");
    }
    store.keep_photo(&hash, &one, Position::Without).expect("kept");
    store.keep_photo(&hash, &one, Position::Without).expect("kept again");
    store.record(id, &[event(1, "a"), named(2, &hash)]).expect("taken");
    assert_eq!(store.photo(&hash).expect("reads"), Some(one.clone()));
    assert!(store.verify_record(id).expect("looks").broken.is_none());
    // Changed, swapped or taken away it is found, and sent again it is whole again.
    let file = dir.path().join("photos").join(&hash[..2]).join(&hash);
    std::fs::write(&file, png(2)).expect("writes");
    let broken = store.verify_record(id).expect("looks").broken.expect("found");
    assert!(broken.number == 2 && broken.why.contains("was changed"), "{broken:?}");
    store.keep_photo(&hash, &one, Position::Without).expect("kept again");
    assert!(store.verify_record(id).expect("looks").broken.is_none());
    std::fs::remove_file(&file).expect("removes");
    assert!(store.verify_record(id).expect("looks").broken.expect("found").why.contains("is not there"));
    // A record of another machine comes in whole or not at all.
    let entries = store.whole_record(id).expect("reads");
    let job = Job::new("elsewhere");
    assert!(
        matches!(store.take_record(&job, &entries), Err(StoreError::Refused(p)) if p[0].message.contains("is not there"))
    );
    store.keep_photo(&hash, &one, Position::Without).expect("kept");
    let mut forged = entries.clone();
    forged[0].event.note = "b".into();
    assert!(
        matches!(store.take_record(&job, &forged), Err(StoreError::Refused(p)) if p[0].message.starts_with("entry 1"))
    );
    let taken = store.take_record(&job, &entries).expect("taken");
    assert_eq!(store.whole_record(taken.id).expect("reads"), entries);
    // And goes on from there.
    store.record(taken.id, &[event(3, "c")]).expect("taken");
    assert!(store.verify_record(taken.id).expect("looks").broken.is_none());
}

/// A JPEG of one pixel whose notes say where it was taken: an Exif directory with one entry that leads to a directory of the position.
fn with_position() -> Vec<u8> {
    let tiff: Vec<u8> = [
        &b"II*\0\x08\0\0\0"[..],
        &b"\x01\0\x25\x88\x04\0\x01\0\0\0\x1a\0\0\0\0\0\0\0"[..],
        &b"\x01\0\x01\0\x02\0\x02\0\0\0N\0\0\0\0\0\0\0"[..],
    ]
    .concat();
    let mut out = b"\xff\xd8\xff\xe1".to_vec();
    out.extend(u16::try_from(2 + 6 + tiff.len()).expect("short").to_be_bytes());
    out.extend(b"Exif\0\0");
    out.extend(tiff);
    out.extend(b"\xff\xc0\0\x0b\x08\0\x01\0\x01\x01\x01\x11\0\xff\xd9");
    out
}

#[test]
fn where_a_photograph_was_taken_is_not_kept_unless_it_is_wanted() {
    let (_dir, store, _) = made();
    let photo = with_position();
    let hash = hash_of(&photo);
    let refused = store.keep_photo(&hash, &photo, Position::Without);
    assert!(
        matches!(&refused, Err(StoreError::Refused(p)) if p[0].message.contains("says where it was taken")),
        "{refused:?}"
    );
    store.keep_photo(&hash, &photo, Position::Kept).expect("kept");
}
