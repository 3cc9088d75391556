//! Several hands on one job at once: each revision is won by one of them, and nothing that was acknowledged is lost.

use kame_core::job::{Edit, Job, apply};
use kame_store::{JobState, Store, StoreError};
use std::sync::Arc;
use std::thread;
use tempfile::TempDir;

/// Adds a tick, trying again on the newer state as a person would; how often it was told to.
fn tick(store: &Store, mut now: JobState, piece: &str) -> usize {
    let edit = Edit::Tick { piece: piece.into(), cut: true };
    let mut told = 0;
    loop {
        match store.change(now.id, now.revision, "tick", |job| apply(job, &edit).map(|(job, _)| job)) {
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
fn ticks_of_two_devices_are_all_kept() {
    let dir = TempDir::new().expect("a folder");
    let store = Arc::new(Store::open(&dir.path().join("kame.db")).expect("opens"));
    let made = store.create(&Job::new("bench")).expect("made");
    let hands = [["W1/pan", "W1/head-flashing", "course-1"], ["W1/patch-left", "W1/patch-right", "course-2"]];
    let workers = hands.map(|pieces| {
        let (store, made) = (Arc::clone(&store), made.clone());
        thread::spawn(move || pieces.map(|p| tick(&store, made.clone(), p)).iter().sum::<usize>())
    });
    let told: usize = workers.into_iter().map(|w| w.join().expect("no panic")).sum();
    let now = store.job(made.id).expect("there");
    let mut ticks = now.job.ticks.clone();
    ticks.sort();
    assert_eq!(ticks, ["W1/head-flashing", "W1/pan", "W1/patch-left", "W1/patch-right", "course-1", "course-2"]);
    assert_eq!(now.revision, made.revision + 6);
    // Every hand started from the first revision each time, so only the very first change can have met it.
    assert!(told >= 5, "{told}");
}

#[test]
fn two_stores_on_one_file_see_each_other_s_changes() {
    let dir = TempDir::new().expect("a folder");
    let file = dir.path().join("kame.db");
    let (one, two) = (Store::open(&file).expect("opens"), Store::open(&file).expect("opens"));
    let made = one.create(&Job::new("shared")).expect("made");
    tick(&two, made.clone(), "W1/pan");
    assert_eq!(one.job(made.id).expect("there").job.ticks, ["W1/pan"]);
    assert!(matches!(one.undo(made.id, made.revision), Err(StoreError::Stale { .. })));
}
