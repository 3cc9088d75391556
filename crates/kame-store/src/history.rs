//! What a job was before: its changes, how many of them are kept, going back to one of them; and jobs that were deleted.

use crate::{HISTORY, JobState, Place, Row, Store, StoreError, read};
use rusqlite::{Connection, params};
use serde::Serialize;

/// Changes of one job are kept up to so many bytes altogether; of a large building these are fewer than [`HISTORY`].
pub const KEPT_BYTES: i64 = 48 * 1024 * 1024;
/// So many of them are kept, however large.
pub const LEAST_KEPT: i64 = 30;
/// A deleted job that nothing was written down for is gone for good after so many days.
pub const PURGED_AFTER: i64 = 90;

/// A job as it was after a change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Past {
    /// Its place in the history.
    pub position: i64,
    /// What was changed.
    pub label: String,
    /// Who changed it; empty where nobody signed in.
    pub who: String,
    /// True where the job stands now.
    pub now: bool,
    /// Why it cannot be taken; empty where it can.
    pub damaged: String,
}

/// The history of a job.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct History {
    /// The job's revision.
    pub revision: i64,
    /// Its name, as lists show it.
    pub name: String,
    /// The newest first.
    pub past: Vec<Past>,
    /// How many earlier changes are not kept any more.
    pub dropped: i64,
}

/// A job that was deleted.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Deleted {
    /// Number of the job.
    pub id: i64,
    /// Name.
    pub name: String,
    /// When it was deleted, RFC 3339, UTC.
    pub deleted: String,
    /// Entries of its record. Where there are any it is never gone for good.
    pub entries: i64,
    /// Days until it is gone for good; `null` where it never is.
    pub days_left: Option<i64>,
}

/// Drops the earliest changes of a job that has come to `to`, as far as they are too many or too large, and counts them.
pub(crate) fn trim(tx: &Connection, id: i64, to: i64) -> Result<(), StoreError> {
    // The newest are kept for as long as they fit; how long a text is stands beside it and need not be read.
    let keep: i64 = tx.query_row(
        "SELECT coalesce(min(position), ?2) FROM (
            SELECT position, sum(octet_length(job)) OVER (ORDER BY position DESC) AS bytes FROM history WHERE job_id = ?1
         ) WHERE bytes <= ?3 OR position > ?2 - ?4",
        params![id, to, KEPT_BYTES, LEAST_KEPT],
        |r| r.get(0),
    )?;
    let dropped =
        tx.execute("DELETE FROM history WHERE job_id = ?1 AND position < ?2", [id, keep.max(to - HISTORY + 1)])?;
    if dropped > 0 {
        tx.execute("UPDATE job SET dropped = dropped + ?2 WHERE id = ?1", params![id, dropped as i64])?;
    }
    Ok(())
}

impl Store {
    /// What a job was before, the newest first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; what SQLite says.
    pub fn history(&self, id: i64) -> Result<History, StoreError> {
        let connection = self.readers.get()?;
        let place = Place::of(&connection, id)?;
        let (name, dropped) = connection
            .query_row("SELECT name, dropped FROM job WHERE id = ?1", [id], |r| Ok((r.get(0)?, r.get(1)?)))?;
        let mut query = connection
            .prepare_cached("SELECT position, label, job, who FROM history WHERE job_id = ?1 ORDER BY position DESC")?;
        let rows = query.query_map([id], |r| {
            Ok((r.get::<_, i64>(0)?, r.get::<_, String>(1)?, r.get::<_, String>(2)?, r.get::<_, String>(3)?))
        })?;
        let one = |row: Result<(i64, String, String, String), rusqlite::Error>| {
            let (position, label, doc, who) = row?;
            let damaged = read(id, &doc).err().map(|e| e.to_string()).unwrap_or_default();
            Ok(Past { position, label, who, now: position == place.position, damaged })
        };
        let past = rows.map(one).collect::<Result<Vec<_>, StoreError>>()?;
        Ok(History { revision: place.revision, name, past, dropped })
    }

    /// Takes a job to another place of its history, which is a new revision; what came after stays there to be redone.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Stale`], [`StoreError::NoHistory`], [`StoreError::Damaged`] where that does not read either.
    pub fn go_back_to(&self, id: i64, revision: i64, position: i64) -> Result<JobState, StoreError> {
        self.write(|tx| {
            let now = Place::of(tx, id)?;
            if now.revision != revision {
                // What is stale and does not read either is told as stale all the same.
                let current = Row::of(tx, id)?.state();
                return current.map_or_else(Err, |current| Err(crate::stale(revision, current)));
            }
            let query = "SELECT job FROM history WHERE job_id = ?1 AND position = ?2";
            let doc: Option<String> =
                rusqlite::OptionalExtension::optional(tx.query_row(query, [id, position], |r| r.get(0)))?;
            let job = read(id, &doc.ok_or(StoreError::NoHistory { what: "go back to there" })?)?;
            let ticked = now.ticked.clone();
            now.stand_at(tx, position, &job, &ticked)?;
            Row::of(tx, id)?.state()
        })
    }

    /// Jobs that were deleted and can be put back, the one deleted last first.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn deleted(&self) -> Result<Vec<Deleted>, StoreError> {
        let connection = self.readers.get()?;
        let mut query = connection.prepare_cached(
            "SELECT id, name, deleted, (SELECT count(*) FROM record WHERE job_id = job.id),
                    CAST(julianday(deleted) + ?1 - julianday('now') AS INTEGER)
             FROM job WHERE deleted IS NOT NULL ORDER BY deleted DESC, id DESC",
        )?;
        let rows = query.query_map([PURGED_AFTER], |r| {
            let entries: i64 = r.get(3)?;
            let left: i64 = r.get(4)?;
            let days_left = (entries == 0).then_some(left.max(0));
            Ok(Deleted { id: r.get(0)?, name: r.get(1)?, deleted: r.get(2)?, entries, days_left })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Takes away for good what was deleted long ago and has no record; says how many jobs that were.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn purge(&self) -> Result<usize, StoreError> {
        self.write(|tx| {
            let old = "DELETE FROM job WHERE deleted IS NOT NULL AND julianday(deleted) + ?1 < julianday('now')
                       AND NOT EXISTS (SELECT 1 FROM record WHERE job_id = job.id)";
            Ok(tx.execute(old, [PURGED_AFTER])?)
        })
    }
}
