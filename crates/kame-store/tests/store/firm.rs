//! All jobs of a firm: put aside and taken back, found by a word, following a way of building.

use kame_core::edit::{Edit, apply, way_of};
use kame_core::job::{Job, Way};
use kame_store::{Change, MOST_WAYS, Store, StoreError};
use tempfile::TempDir;

fn store() -> (TempDir, Store) {
    let dir = TempDir::new().expect("a folder");
    let store = Store::open(&dir.path().join("kame.db")).expect("opens");
    (dir, store)
}

fn named(job: &str, wall: &str, window: &str) -> Job {
    let mut made = Job::new(job);
    made.wall.name = wall.into();
    made.openings[0].name = window.into();
    made
}

fn says<T>(answer: Result<T, StoreError>, what: &str) -> bool {
    matches!(answer, Err(StoreError::Refused(p)) if p[0].message.contains(what))
}

#[test]
fn a_job_is_found_by_words_of_its_name_its_walls_and_its_places() {
    let (_dir, store) = store();
    let boat = store.create(&named("Boat store", "East wall", "Reading room")).expect("made").id;
    let bunk = store.create(&named("Bunkhouse", "Straße", "ÖSTLICH %_")).expect("made").id;
    let found = |text: &str| store.find(text, |_| true).expect("looked").into_iter().map(|f| f.id).collect::<Vec<_>>();
    assert_eq!((found("boat"), found("EAST"), found("östlich")), (vec![boat], vec![boat], vec![bunk]));
    assert_eq!((found("%_"), found("% x")), (vec![bunk], vec![]), "no letter has a meaning of its own");
    assert_eq!(found("boat w1"), [boat], "a place counts with the name of its job");
    assert_eq!((found("boat straße"), found("  ")), (vec![], vec![]));
    let hit = store.find("reading", |_| true).expect("looked").remove(0);
    assert_eq!(
        (hit.places.len(), hit.places[0].place.as_str(), hit.places[0].name.as_str()),
        (1, "W1", "Reading room")
    );
    assert!(store.find("boat", |_| true).expect("looked")[0].places.is_empty(), "its name alone");
    // Another name is found at once, the earlier one no more; undone it is the other way round.
    let was = store.job(boat).expect("there");
    let (next, _) = apply(&was.job, &Edit::Rename { name: "Slipway".into() }).expect("renamed");
    let now = store.commit(boat, 1, Change { label: "rename", who: "" }, &was.job, &next).expect("kept");
    assert_eq!((found("slip"), found("boat")), (vec![boat], vec![]));
    store.undo(boat, now.revision).expect("undone");
    assert_eq!((found("slip"), found("boat")), (vec![], vec![boat]));
}

/// Jobs that one may not see take no room among those that are told.
#[test]
fn of_many_jobs_those_are_found_that_one_may_see() {
    let (_dir, store) = store();
    let mine = store.create(&Job::new("Quay wall")).expect("made").id;
    for _ in 0..100 {
        store.create(&Job::new("Quay wall")).expect("made");
    }
    assert!(store.find("quay", |_| true).expect("looked").iter().all(|f| f.id != mine), "a hundred newer ones are");
    let found = store.find("quay", |id| id == mine).expect("looked");
    assert_eq!(found.iter().map(|f| f.id).collect::<Vec<_>>(), [mine]);
}

#[test]
fn a_job_that_is_put_aside_keeps_everything_and_comes_last() {
    let (_dir, store) = store();
    let [old, new] = ["Old wall", "New wall"].map(|n| store.create(&Job::new(n)).expect("made").id);
    store.archive(new, true, "Ada").expect("put aside");
    let all = store.jobs().expect("read");
    assert_eq!(all.iter().filter(|j| j.archived.is_some()).map(|j| j.id).collect::<Vec<_>>(), [new]);
    assert_eq!(store.job(new).expect("read").revision, 1, "no change of the job");
    assert_eq!(store.find("wall", |_| true).expect("looked").iter().map(|f| f.id).collect::<Vec<_>>(), [old, new]);
    store.archive(new, false, "Ada").expect("taken back");
    assert!(store.jobs().expect("read").iter().all(|j| j.archived.is_none()));
    assert!(matches!(store.archive(99, true, "Ada"), Err(StoreError::NotFound { id: 99 })));
    let log: Vec<String> = store.audit(None).expect("read").into_iter().map(|l| l.what).collect();
    assert_eq!(log, ["took a job back", "put a job aside"]);
}

#[test]
fn a_way_is_kept_once_under_its_name_and_says_who_follows_it() {
    let (_dir, store) = store();
    let mut ours = Job::new("ours");
    ours.figures.insert("lap_horizontal".into(), "8".into());
    let way = way_of(&ours, "Our way");
    let kept = store.keep_way(&way, false, "Ada").expect("kept");
    assert_eq!((kept.followers, kept.who.as_str()), (0, "Ada"));
    let other = store.create(&Job::new("other")).expect("made");
    let (next, _) = apply(&other.job, &Edit::TakeWay { way: way.clone() }).expect("taken");
    store.commit(other.id, 1, Change { label: "way", who: "" }, &other.job, &next).expect("kept");
    assert_eq!(store.jobs().expect("read")[0].follows.as_deref(), Some("Our way"));
    assert_eq!(store.ways().expect("read")[0].followers, 1);
    assert_eq!(store.way(None, "OUR way").expect("read").as_ref(), Some(&way));
    let again = store.keep_way(&Way { name: "our WAY".into(), ..Way::default() }, false, "Ben");
    assert!(says(again, "kept already"), "one name however it is written");
    let replaced = store.keep_way(&Way { name: "Our way".into(), ..Way::default() }, true, "Ben").expect("replaced");
    assert_eq!((replaced.id, replaced.who.as_str(), replaced.followers), (kept.id, "Ben", 1));
    assert!(matches!(store.keep_way(&Way::default(), false, ""), Err(StoreError::Refused(_))), "without a name");
    store.forget_way(kept.id, "Ada").expect("forgotten");
    assert_eq!(store.way(Some(kept.id), "").expect("read"), None);
    assert_eq!(store.jobs().expect("read")[0].follows.as_deref(), Some("Our way"), "what followed it stays as it is");
    assert!(matches!(store.forget_way(kept.id, "Ada"), Err(StoreError::NotFound { .. })));
}

#[test]
fn there_is_an_end_to_ways() {
    let (_dir, store) = store();
    let named = |n: i64| Way { name: format!("way {n}"), ..Way::default() };
    (0..MOST_WAYS).for_each(|n| drop(store.keep_way(&named(n), false, "").expect("kept")));
    assert!(says(store.keep_way(&named(MOST_WAYS), false, ""), "the most there may be"));
    store.keep_way(&named(0), true, "").expect("one that is there is replaced all the same");
}
