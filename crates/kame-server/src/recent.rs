//! What was answered lately: plans need not be built again, and what somebody has already need not travel again.

use kame_core::calendar::{Booking, CalendarQuestion, book};
use kame_core::job::Job;
use kame_core::nights::KnownNights;
use kame_core::plan::{Plan, build};
use kame_core::problem::Problem;
use kame_core::record::Entry;
use kame_core::stop::Stop;
use kame_core::view::{Ask, Drawn, JobProgress, Planned, WallView, leave_out, planned};
use kame_store::{JobState, Store, StoreError};
use std::collections::{HashMap, VecDeque};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::{Arc, Mutex, PoisonError};

/// So many plans are kept.
const MOST_PLANS: usize = 6;
/// Plans and drawings of so many pieces altogether are kept, and one more whatever its size.
const MOST_PIECES: usize = 30_000;
const MOST_MARKS: usize = 400_000;

/// A job as it stood: its id, revision and ticks.
type Standing = (i64, i64, i64);

/// A plan, and what it says once somebody wanted to know.
pub struct MadePlan {
    /// The job.
    pub job: Job,
    /// The plan.
    pub plan: Plan,
    said: Mutex<HashMap<(usize, bool), Arc<Planned>>>,
}

impl MadePlan {
    /// A plan of a job.
    pub fn new(job: Job, plan: Plan) -> Self {
        Self { job, plan, said: Mutex::default() }
    }

    /// What the plan says; questions of all walls, or of one from 1 behind the first corner.
    fn said(&self, wall: usize, cut_list: bool, stop: &Stop) -> Result<Arc<Planned>, Vec<Problem>> {
        let key = (wall, cut_list);
        if let Some(said) = self.said.lock().unwrap_or_else(PoisonError::into_inner).get(&key) {
            return Ok(Arc::clone(said));
        }
        let said = Arc::new(planned(&self.job, &self.plan, &Ask { wall, cut_list, ..Ask::default() }, stop)?);
        self.said.lock().unwrap_or_else(PoisonError::into_inner).insert(key, Arc::clone(&said));
        Ok(said)
    }
}

/// Things by what they are called, the one used last in front.
struct Shelf<K, V> {
    kept: Mutex<VecDeque<(K, Arc<V>)>>,
}

impl<K, V> Default for Shelf<K, V> {
    fn default() -> Self {
        Self { kept: Mutex::default() }
    }
}

impl<K: PartialEq, V> Shelf<K, V> {
    fn take(&self, key: &K) -> Option<Arc<V>> {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        let at = kept.iter().position(|(k, _)| k == key)?;
        let found = kept.remove(at)?;
        let value = Arc::clone(&found.1);
        kept.push_front(found);
        Some(value)
    }

    /// Puts one in front; of those behind it stay as many as together weigh no more than `most`.
    fn put(&self, key: K, value: Arc<V>, weight: impl Fn(&V) -> usize, most: usize) {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        kept.retain(|(k, _)| *k != key);
        kept.push_front((key, value));
        let mut all = 0;
        let fit = kept.iter().take_while(|(_, v)| {
            all += weight(v);
            all <= most
        });
        let fit = fit.count().max(1);
        kept.truncate(fit);
    }
}

/// So many jobs' records are remembered; of more the one asked for longest ago is read anew.
const MOST_RECORDS: usize = 6;

/// So many tasks of calendars are kept altogether.
const MOST_TASKS: usize = 20_000;

/// So many jobs' progress is remembered: all of a firm's.
const MOST_PROGRESS: usize = 500;

/// What was answered lately.
#[derive(Default)]
pub struct Recent {
    records: Shelf<i64, Vec<Entry>>,
    plans: Shelf<Standing, MadePlan>,
    calendars: Shelf<(Standing, u64), Booking>,
    drawings: Shelf<(i64, String), Drawn>,
    progress: Shelf<(Standing, u64), JobProgress>,
}

impl Recent {
    /// The whole record of a job. It is only ever added to: what was read before is read no more.
    ///
    /// # Errors
    /// What the store says.
    pub fn record(&self, store: &Store, id: i64) -> Result<Arc<Vec<Entry>>, StoreError> {
        let Some(known) = self.records.take(&id) else {
            let all = Arc::new(store.whole_record(id)?);
            self.records.put(id, Arc::clone(&all), |_| 1, MOST_RECORDS);
            return Ok(all);
        };
        let mut new = store.entries(id, known.len() as u64 + 1)?;
        if new.is_empty() {
            return Ok(known);
        }
        let mut all = known.to_vec();
        while !new.is_empty() {
            all.append(&mut new);
            new = store.entries(id, all.len() as u64 + 1)?;
        }
        let all = Arc::new(all);
        self.records.put(id, Arc::clone(&all), |_| 1, MOST_RECORDS);
        Ok(all)
    }

    /// The plan of a job as it stands.
    ///
    /// # Errors
    /// What is wrong with the job.
    pub fn plan(&self, state: &JobState) -> Result<Arc<MadePlan>, Vec<Problem>> {
        let standing = (state.id, state.revision, state.bench);
        if let Some(made) = self.plans.take(&standing) {
            return Ok(made);
        }
        Ok(self.keep(standing, &state.job, build(&state.job)?))
    }

    /// A job on the calendar, without its nights, by everything that it was laid by.
    ///
    /// # Errors
    /// What cannot be laid.
    pub fn calendar(
        &self,
        state: &JobState,
        asked: &CalendarQuestion,
        known: &KnownNights,
        stop: &Stop,
    ) -> Result<Arc<Booking>, Vec<Problem>> {
        let mut by = DefaultHasher::new();
        for part in
            [serde_json::to_string(asked.site), serde_json::to_string(asked.hours), serde_json::to_string(asked.states)]
        {
            part.unwrap_or_default().hash(&mut by);
        }
        let key = ((state.id, state.revision, state.bench), by.finish());
        if let Some(known) = self.calendars.take(&key) {
            return Ok(known);
        }
        let laid = Arc::new(book(asked, known, stop)?);
        // In a hurry it is not as good as it could be.
        if !stop.is_hurried() {
            self.calendars.put(key, Arc::clone(&laid), |b| b.tasks.len(), MOST_TASKS);
        }
        Ok(laid)
    }

    /// How far a job has come, up to an entry of its record.
    ///
    /// # Errors
    /// What working it out says.
    pub fn progress<E>(
        &self,
        state: &JobState,
        last: u64,
        ask: impl FnOnce() -> Result<JobProgress, E>,
    ) -> Result<Arc<JobProgress>, E> {
        let key = ((state.id, state.revision, state.bench), last);
        if let Some(known) = self.progress.take(&key) {
            return Ok(known);
        }
        let found = Arc::new(ask()?);
        self.progress.put(key, Arc::clone(&found), |_| 1, MOST_PROGRESS);
        Ok(found)
    }

    /// Keeps a plan that was built for a change, with what it says where that was worked out for the answer.
    pub fn keep_plan(&self, state: &JobState, plan: Plan, said: Option<((usize, bool), Planned)>) {
        let made = self.keep((state.id, state.revision, state.bench), &state.job, plan);
        if let Some((asked, said)) = said {
            made.said.lock().unwrap_or_else(PoisonError::into_inner).insert(asked, Arc::new(said));
        }
    }

    fn keep(&self, standing: Standing, job: &Job, plan: Plan) -> Arc<MadePlan> {
        let made = Arc::new(MadePlan::new(job.clone(), plan));
        let weight = |m: &MadePlan| m.plan.pieces.len().max(MOST_PIECES / MOST_PLANS);
        self.plans.put(standing, Arc::clone(&made), weight, MOST_PIECES);
        made
    }

    /// The plan, with its job, of what somebody calls `have`, where it is still known.
    pub fn made(&self, id: i64, have: &str) -> Option<Arc<MadePlan>> {
        let mut numbers = have.split('.').map(str::parse::<i64>);
        let (Some(Ok(revision)), Some(Ok(bench))) = (numbers.next(), numbers.next()) else { return None };
        self.plans.take(&(id, revision, bench))
    }

    /// What the plan said that somebody calls `have`, where it is still known.
    ///
    /// # Errors
    /// Where its questions could not be asked, or nobody waits any more.
    pub fn had(&self, id: i64, have: &str, stop: &Stop) -> Result<Option<Arc<Planned>>, Vec<Problem>> {
        let cut_list = have.ends_with(".cuts");
        let Some(Ok(wall)) = have.split('.').nth(2).map(str::parse::<usize>) else { return Ok(None) };
        let Some(made) = self.made(id, have) else { return Ok(None) };
        // What is said is kept for each wall, of which there are as many as the job has.
        let wall = Some(wall).filter(|w| *w <= made.job.wall.corners.len());
        wall.map(|wall| made.said(wall, cut_list, stop)).transpose()
    }

    /// An answer without what whoever asks has: of the plan by `have`, of the drawing by `drawn`. The drawing is remembered under `called`. All that
    /// the plan says is given back where some of it was left out.
    pub fn without(
        &self,
        id: i64,
        view: &mut WallView,
        had: Option<(Arc<Planned>, &str)>,
        drawn: Option<&str>,
        called: Option<String>,
    ) -> Option<Planned> {
        let said = had.map(|(before, have)| leave_out(view, &before, have));
        let before = drawn.and_then(|have| Some((self.drawings.take(&(id, have.to_owned()))?, have)));
        if before.is_none() && called.is_none() {
            return said;
        }
        let now = Arc::new(Drawn::of(view));
        if let Some((before, have)) = before {
            now.leave_out(view, &before, have);
        }
        if let Some(called) = called {
            view.elevation.called.clone_from(&called);
            self.drawings.put((id, called), now, Drawn::weight, MOST_MARKS);
        }
        said
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_shelf_holds_what_was_used_last_and_no_more_than_it_bears() {
        let shelf: Shelf<u8, usize> = Shelf::default();
        for k in 0..4_u8 {
            shelf.put(k, Arc::new(10), |w| *w, 30);
        }
        assert!(shelf.take(&0).is_none());
        assert!(shelf.take(&1).is_some());
        shelf.put(9, Arc::new(10), |w| *w, 30);
        assert_eq!((shelf.take(&1).is_some(), shelf.take(&2).is_some(), shelf.take(&3).is_some()), (true, false, true));
        // What is too heavy stands alone.
        shelf.put(5, Arc::new(99), |w| *w, 30);
        assert_eq!((shelf.take(&5).is_some(), shelf.take(&9).is_some()), (true, false));
    }
}
