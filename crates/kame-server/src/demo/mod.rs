//! The demo job, loaded where there is none.

mod record;

use kame_core::edit::way_of;
use kame_core::findings::{KnownWater, Moment};
use kame_core::job::{Job, read_job};
use kame_core::plan::build;
use kame_core::practice::{Drill, DrillAnswer, DrillResult, Graded, Which, grade, perfect, scene};
use kame_core::problem::Problem;
use kame_core::stop::Stop;
use kame_store::{JobState, Position, Store, StoreError};

/// Heron Spit field station: the north wall of the bunkhouse as it was found and as it should be, its west wall with four openings; the whole
/// station unfolded round its corners; and of the boat store a blank gable and a window with its lower edge sealed.
const DEMO: [&str; 6] = [
    include_str!("../../../../demo/heron-spit-as-found.kame.json"),
    include_str!("../../../../demo/heron-spit.kame.json"),
    include_str!("../../../../demo/heron-spit-four-openings.kame.json"),
    include_str!("../../../../demo/heron-spit-station.kame.json"),
    include_str!("../../../../demo/heron-spit-gable.kame.json"),
    include_str!("../../../../demo/heron-spit-tide-room.kame.json"),
];

/// Which of them is half built, with a record.
const HALF_BUILT: usize = 2;

/// Which of them is built as the firm builds, what that is called, and which of the others follow it, with differences of their own.
const BY_THE_WAY: usize = 1;
const WAY: &str = "Estuary way";
const FOLLOWERS: [usize; 2] = [BY_THE_WAY, HALF_BUILT];

/// A job with its made-up record and photographs.
fn half_built(store: &Store, job: &Job) -> Result<JobState, StoreError> {
    let broken = |why: String| StoreError::Refused(vec![Problem::new("$.record", why)]);
    let plan = build(job).map_err(StoreError::Refused)?;
    let made = record::made(job, &plan).map_err(broken)?;
    for (hash, photo) in &made.photos {
        store.keep_photo(hash, photo, Position::Without)?;
    }
    store.take_record(job, &made.entries)
}

/// Loads the demo jobs into a store in which no job was ever made. Says whether it did.
///
/// # Errors
/// What the store says.
pub fn load_demo(store: &Store) -> Result<bool, StoreError> {
    if !store.is_untouched()? {
        return Ok(false);
    }
    for (n, text) in DEMO.into_iter().enumerate() {
        let mut job = read_job(text.as_bytes()).map_err(StoreError::Refused)?;
        if n == BY_THE_WAY {
            store.keep_way(&way_of(&job, WAY), false, "")?;
        }
        job.follows = FOLLOWERS.contains(&n).then(|| WAY.to_owned());
        let state = if n == HALF_BUILT { half_built(store, &job)? } else { store.create(&job)? };
        // The list says of each wall what is so before anybody has looked.
        if let Some(verdict) = verdict(&state.job) {
            store.say(state.id, state.revision, verdict)?;
        }
    }
    practised(store)?;
    Ok(true)
}

/// What three people have practised: scenes that were played by somebody who knows everything, and by somebody who does not.
fn practised(store: &Store) -> Result<(), StoreError> {
    let known = KnownWater::default();
    let play = |who: &str, drill: Drill, level: u8, seed: u64, well: bool| -> Result<(), StoreError> {
        let which = Which { drill, level, seed, focus: None };
        let scene = scene(&which, &known, &Stop::default()).map_err(StoreError::Refused)?;
        let right = perfect(&scene, &known);
        let answer = match right {
            DrillAnswer::Order { mut steps, .. } if !well => {
                steps.reverse();
                DrillAnswer::Order { steps, wasted: 1, hints: 0 }
            }
            DrillAnswer::Find { .. } if !well => DrillAnswer::Find { marks: Vec::new(), hints: 0, mends: Vec::new() },
            right => right,
        };
        let Graded { points, clean, known, missed, .. } =
            grade(&scene, &answer, &known).map_err(StoreError::Refused)?;
        let seed = Some(seed);
        store.practised(who, None, &DrillResult { drill, level, points, clean, known, missed, seed, job: None })
    };
    for (who, well) in [("Cy Reed", false), ("Bo Marsh", true), ("Ada Quill", true)] {
        for seed in 0..4 {
            play(who, Drill::Order, 1, seed, true)?;
            play(who, Drill::Find, 3, seed, well || seed == 1)?;
        }
        if well {
            play(who, Drill::Order, 2, 7, true)?;
            play(who, Drill::Call, 1, 7, true)?;
            play(who, Drill::Call, 1, 8, true)?;
        }
    }
    Ok(())
}

/// The number of the state of a finished wall; `None` where it cannot be told.
fn verdict(job: &Job) -> Option<u8> {
    let plan = build(job).ok()?;
    let moment = Moment::new(&plan, usize::MAX).ok()?;
    Some(moment.verdict(&plan, &moment.findings(&plan)).state.number())
}
