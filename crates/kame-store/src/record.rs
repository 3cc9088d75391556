//! The record of a job: entries that are added and never changed.

use crate::photo::hash_of;
use crate::{JobState, Row, Store, StoreError, create_in, standing};
use kame_core::job::Job;
use kame_core::problem::Problem;
use kame_core::record::{Entry, Event, MOST_AT_ONCE, Whole, broken_photo, seal, verify};
use rusqlite::{Connection, OptionalExtension, params};

/// Entries of one job.
pub const MOST_ENTRIES: u64 = 50_000;
/// Entries that are read at once.
pub const PAGE: u64 = 1000;

impl Store {
    /// Adds events to the record of a job, all of them or none. One that is there already is answered as it stands, so that sending again is safe.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Refused`] for events that cannot be taken, for an id that stands for something else already, and where
    /// the record is full.
    pub fn record(&self, id: i64, events: &[Event]) -> Result<Vec<Entry>, StoreError> {
        if events.len() > MOST_AT_ONCE {
            let message = format!(
                "found {} events, expected at most {MOST_AT_ONCE} at once: send the rest after them",
                events.len()
            );
            return Err(StoreError::Refused(vec![Problem::new("$.events", message)]));
        }
        let wrong: Vec<Problem> =
            events.iter().enumerate().flat_map(|(i, e)| e.problems(&format!("$.events[{i}]"))).collect();
        if !wrong.is_empty() {
            return Err(StoreError::Refused(wrong));
        }
        let missing = |e: &Event| e.photos.iter().find(|p| !self.has_photo(p)).cloned();
        if let Some((i, hash)) = events.iter().enumerate().find_map(|(i, e)| missing(e).map(|h| (i, h))) {
            let message = format!("the photograph {hash} is not here: send it before the entry that names it");
            return Err(StoreError::Refused(vec![Problem::new(format!("$.events[{i}].photos"), message)]));
        }
        self.write(|tx| {
            standing(tx, id)?;
            let taken: String = tx.query_row("SELECT strftime('%Y-%m-%dT%H:%M:%fZ')", [], |r| r.get(0))?;
            let mut last = last(tx, id)?;
            let mut out = Vec::with_capacity(events.len());
            for (i, event) in events.iter().enumerate() {
                if let Some(there) = by_event(tx, id, &event.id)? {
                    if there.event != *event {
                        let message = format!(
                            "{} stands for something else in the record already: give each event an id of its own",
                            event.id
                        );
                        return Err(StoreError::Refused(vec![Problem::new(format!("$.events[{i}].id"), message)]));
                    }
                    out.push(there);
                    continue;
                }
                let entry = seal(last.as_ref(), &taken, event.clone());
                if entry.number > MOST_ENTRIES {
                    let message = format!(
                        "the record holds {MOST_ENTRIES} entries, the most there may be: go on in a copy of the job"
                    );
                    return Err(StoreError::Refused(vec![Problem::new("$.events", message)]));
                }
                put(tx, id, &entry)?;
                last = Some(entry.clone());
                out.push(entry);
            }
            Ok(out)
        })
    }

    /// The day, by the database's clock, as 2026-11-29.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn today(&self) -> Result<String, StoreError> {
        Ok(self.readers.get()?.query_row("SELECT strftime('%Y-%m-%d')", [], |r| r.get(0))?)
    }

    /// Entries of a job's record from a number on, a page of them.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; what SQLite says.
    pub fn entries(&self, id: i64, from: u64) -> Result<Vec<Entry>, StoreError> {
        let connection = self.readers.get()?;
        standing(&connection, id)?;
        let mut query = connection
            .prepare_cached("SELECT entry FROM record WHERE job_id = ?1 AND number >= ?2 ORDER BY number LIMIT ?3")?;
        let from = i64::try_from(from).unwrap_or(i64::MAX);
        let rows = query.query_map([id, from, PAGE as i64], |r| r.get::<_, String>(0))?;
        rows.map(|text| read(id, &text?)).collect()
    }

    /// Number of the last entry of a job's record; 0 where there is none.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn last_entry(&self, id: i64) -> Result<u64, StoreError> {
        let row = "SELECT coalesce(max(number), 0) FROM record WHERE job_id = ?1";
        let last: i64 = self.readers.get()?.prepare_cached(row)?.query_row([id], |r| r.get(0))?;
        Ok(last.unsigned_abs())
    }

    /// The whole record of a job.
    ///
    /// # Errors
    /// As [`Store::entries`].
    pub fn whole_record(&self, id: i64) -> Result<Vec<Entry>, StoreError> {
        let mut all = Vec::new();
        loop {
            let page = self.entries(id, all.len() as u64 + 1)?;
            let is_last = (page.len() as u64) < PAGE;
            all.extend(page);
            if is_last {
                return Ok(all);
            }
        }
    }

    /// Whether the record of a job is whole, photographs included.
    ///
    /// # Errors
    /// As [`Store::entries`].
    pub fn verify_record(&self, id: i64) -> Result<Whole, StoreError> {
        let entries = self.whole_record(id)?;
        let whole = verify(&entries);
        let photo = |hash: &str| self.photo(hash).ok().flatten().map(|bytes| hash_of(&bytes));
        Ok(Whole { broken: whole.broken.or_else(|| broken_photo(&entries, photo)), ..whole })
    }

    /// Takes a record that was kept elsewhere, entry by entry as it is, into a new job.
    ///
    /// # Errors
    /// [`StoreError::Refused`] where it is not whole, is too long, or names photographs that are not here.
    pub fn take_record(&self, job: &Job, entries: &[Entry]) -> Result<JobState, StoreError> {
        let refuse = |why: String| Err(StoreError::Refused(vec![Problem::new("$.record", why)]));
        if entries.len() as u64 > MOST_ENTRIES {
            return refuse(format!("found {} entries, expected at most {MOST_ENTRIES}", entries.len()));
        }
        let photo = |hash: &str| self.has_photo(hash).then(|| hash.to_owned());
        if let Some(broken) = verify(entries).broken.or_else(|| broken_photo(entries, photo)) {
            return refuse(format!("{broken}: only what is whole is taken"));
        }
        self.write(|tx| {
            let made = create_in(tx, job)?;
            for e in entries {
                put(tx, made, e)?;
            }
            Row::of(tx, made)?.state()
        })
    }
}

fn put(tx: &Connection, id: i64, entry: &Entry) -> Result<(), StoreError> {
    let text = serde_json::to_string(entry).map_err(|e| damaged(id, &e))?;
    let row = "INSERT INTO record (job_id, number, event, entry) VALUES (?1, ?2, ?3, ?4)";
    tx.execute(row, params![id, entry.number as i64, entry.event.id, text])?;
    Ok(())
}

fn damaged(id: i64, why: &dyn std::fmt::Display) -> StoreError {
    StoreError::Damaged { id, why: format!("its record: {why}") }
}

fn read(id: i64, text: &str) -> Result<Entry, StoreError> {
    serde_json::from_str(text).map_err(|e| damaged(id, &e))
}

fn last(connection: &Connection, id: i64) -> Result<Option<Entry>, StoreError> {
    let query = "SELECT entry FROM record WHERE job_id = ?1 ORDER BY number DESC LIMIT 1";
    let text: Option<String> = connection.query_row(query, [id], |r| r.get(0)).optional()?;
    text.map(|t| read(id, &t)).transpose()
}

fn by_event(connection: &Connection, id: i64, event: &str) -> Result<Option<Entry>, StoreError> {
    let mut query = connection.prepare_cached("SELECT entry FROM record WHERE job_id = ?1 AND event = ?2")?;
    let text: Option<String> = query.query_row(params![id, event], |r| r.get(0)).optional()?;
    text.map(|t| read(id, &t)).transpose()
}
