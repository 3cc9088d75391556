//! Several hands on one job at once: each revision is won by one of them, and nothing that was acknowledged is lost.

use kame_core::edit::{Edit, apply};
use kame_core::job::{Job, Tick};
use kame_store::{Change, JobState, Store, StoreError};
use std::sync::Arc;
use std::thread;
use tempfile::TempDir;

/// Adds a figure, trying again on the newer state as a person would; how often it was told to.
fn set(store: &Store, mut now: JobState, id: &str) -> usize {
    let edit = Edit::SetFigure { id: id.into(), value: Some("5".into()) };
    let mut told = 0;
    loop {
        let (next, _) = apply(&now.job, &edit).expect("fits");
        match store.commit(now.id, now.revision, Change { label: "size", who: "Ada" }, &now.job, &next) {
            Ok(_) => return told,
            Err(StoreError::Stale { current, .. }) => {
                now = *current;
                told += 1;
            }
            Err(e) => panic!("{e}"),
        }
    }
}

#[test]
fn changes_of_two_devices_are_all_kept() {
    let dir = TempDir::new().expect("a folder");
    let store = Arc::new(Store::open(&dir.path().join("kame.db")).expect("opens"));
    let made = store.create(&Job::new("shop")).expect("made");
    let hands = [["jamb_tape_width", "pan_up_turn", "apron_fast"], ["head_tape_width", "formed_up", "metal_up"]];
    let workers = hands.map(|ids| {
        let (store, made) = (Arc::clone(&store), made.clone());
        thread::spawn(move || ids.map(|id| set(&store, made.clone(), id)).iter().sum::<usize>())
    });
    let told: usize = workers.into_iter().map(|w| w.join().expect("no panic")).sum();
    let now = store.job(made.id).expect("there");
    assert!(hands.iter().flatten().all(|id| now.job.figures.contains_key(*id)), "{:?}", now.job.figures);
    assert_eq!(now.revision, made.revision + 6);
    // Every hand started from the first revision each time, so only the very first change can have met it.
    assert!(told >= 5, "{told}");
}

#[test]
fn ticks_of_two_devices_and_a_change_meanwhile_are_all_kept_without_trying_again() {
    let dir = TempDir::new().expect("a folder");
    let store = Arc::new(Store::open(&dir.path().join("kame.db")).expect("opens"));
    let made = store.create(&Job::new("bench")).expect("made");
    let hands = [["W1/pan", "W1/head-flashing", "course-1"], ["W1/patch-left", "W1/patch-right", "course-2"]];
    let workers = hands.map(|pieces| {
        let (store, id) = (Arc::clone(&store), made.id);
        thread::spawn(move || {
            for piece in pieces {
                store.tick(id, &Tick { piece: piece.into(), cut: true, roll: None }).expect("taken");
            }
        })
    });
    set(&store, made.clone(), "jamb_tape_width");
    workers.into_iter().for_each(|w| w.join().expect("no panic"));
    let now = store.job(made.id).expect("there");
    let mut ticks = now.job.ticks.clone();
    ticks.sort();
    assert_eq!(ticks, ["W1/head-flashing", "W1/pan", "W1/patch-left", "W1/patch-right", "course-1", "course-2"]);
    assert_eq!((now.revision, now.bench), (made.revision + 1, made.bench + 6));
}

#[test]
fn two_stores_on_one_file_see_each_other_s_changes() {
    let dir = TempDir::new().expect("a folder");
    let file = dir.path().join("kame.db");
    let (one, two) = (Store::open(&file).expect("opens"), Store::open(&file).expect("opens"));
    let made = one.create(&Job::new("shared")).expect("made");
    set(&two, made.clone(), "jamb_tape_width");
    assert!(one.job(made.id).expect("there").job.figures.contains_key("jamb_tape_width"));
    assert!(matches!(one.undo(made.id, made.revision), Err(StoreError::Stale { .. })));
}
