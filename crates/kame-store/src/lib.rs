//! Jobs in SQLite: revisions, undo and redo that survive a reload, optimistic concurrency. Calls block; the server keeps them off its
//! async threads.
#![warn(missing_docs)]

mod migrations;

use kame_core::job::{Job, Problem, read_job, write_job};
use rusqlite::{Connection, OptionalExtension, Transaction, TransactionBehavior, params};
use serde::Serialize;
use std::path::Path;
use std::sync::{Mutex, MutexGuard, PoisonError};

/// Changes kept for undo, per job.
pub const HISTORY: i64 = 500;

/// Why a call failed.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// No such job, or it was deleted.
    #[error("there is no job {id}; it may have been deleted meanwhile")]
    NotFound {
        /// Which.
        id: i64,
    },
    /// Somebody else changed the job first.
    #[error("the job was changed meanwhile: you have revision {yours}, it is at {}", current.revision)]
    Stale {
        /// The revision the caller had.
        yours: i64,
        /// The job as it is.
        current: Box<JobState>,
    },
    /// Nothing to undo or redo.
    #[error("there is nothing to {what}")]
    NoHistory {
        /// `undo` or `redo`.
        what: &'static str,
    },
    /// The change itself was refused.
    #[error("the change was refused")]
    Refused(Vec<Problem>),
    /// A stored job does not read.
    #[error("job {id} in the database does not read: {why}")]
    Damaged {
        /// Which.
        id: i64,
        /// Why.
        why: String,
    },
    /// The database.
    #[error("database: {0}")]
    Database(#[from] rusqlite::Error),
    /// The database's version.
    #[error("database: {0}")]
    Migration(#[from] rusqlite_migration::Error),
}

/// A job with its place in its own history.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct JobState {
    /// Number of the job.
    pub id: i64,
    /// Grows with every change, undo and redo included; send it as `If-Match: "5"` with the next one.
    pub revision: i64,
    /// What undo would take back, empty where there is nothing.
    pub undo: String,
    /// What redo would do again, empty where there is nothing.
    pub redo: String,
    /// The job.
    pub job: Job,
}

/// A line of the list of jobs.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct JobSummary {
    /// Number of the job.
    pub id: i64,
    /// Name.
    pub name: String,
    /// Name of its wall.
    pub wall: String,
    /// Number of openings.
    pub openings: usize,
    /// When it was last changed, RFC 3339, UTC.
    pub changed: String,
    /// Its revision.
    pub revision: i64,
}

/// The database of jobs.
pub struct Store {
    connection: Mutex<Connection>,
}

impl Store {
    /// Opens the database in a file, making or migrating it.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn open(path: &Path) -> Result<Self, StoreError> {
        Self::with(Connection::open(path)?)
    }

    fn with(mut connection: Connection) -> Result<Self, StoreError> {
        connection.pragma_update(None, "journal_mode", "WAL")?;
        connection.pragma_update(None, "synchronous", "FULL")?;
        connection.pragma_update(None, "foreign_keys", true)?;
        connection.busy_timeout(std::time::Duration::from_secs(5))?;
        migrations::all().to_latest(&mut connection)?;
        Ok(Self { connection: Mutex::new(connection) })
    }

    /// A panic elsewhere leaves no half change: every change is one transaction.
    fn lock(&self) -> MutexGuard<'_, Connection> {
        self.connection.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn write<T>(&self, work: impl FnOnce(&Transaction) -> Result<T, StoreError>) -> Result<T, StoreError> {
        let mut connection = self.lock();
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let out = work(&tx)?;
        tx.commit()?;
        Ok(out)
    }

    /// All jobs that are not deleted, the one changed last first.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn jobs(&self) -> Result<Vec<JobSummary>, StoreError> {
        let connection = self.lock();
        let mut query = connection.prepare(
            "SELECT j.id, j.name, j.changed, j.revision, h.job FROM job j JOIN history h ON h.job_id = j.id AND h.position = j.position
             WHERE j.deleted IS NULL ORDER BY j.changed DESC, j.id DESC",
        )?;
        let rows = query.query_map([], |r| {
            let doc: String = r.get(4)?;
            let doc: serde_json::Value = serde_json::from_str(&doc).unwrap_or_default();
            Ok(JobSummary {
                id: r.get(0)?,
                name: r.get(1)?,
                wall: doc["wall"]["name"].as_str().unwrap_or_default().to_owned(),
                openings: doc["openings"].as_array().map_or(0, Vec::len),
                changed: r.get(2)?,
                revision: r.get(3)?,
            })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// True where no job was ever made, deleted ones included.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn is_untouched(&self) -> Result<bool, StoreError> {
        Ok(self.lock().query_row("SELECT NOT EXISTS (SELECT 1 FROM job)", [], |r| r.get(0))?)
    }

    /// One job.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn job(&self, id: i64) -> Result<JobState, StoreError> {
        state(&self.lock(), id)
    }

    /// A new job.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn create(&self, job: &Job) -> Result<JobState, StoreError> {
        self.write(|tx| {
            tx.execute("INSERT INTO job (name, position, revision) VALUES (?1, 0, 1)", [&job.name])?;
            let id = tx.last_insert_rowid();
            tx.execute(
                "INSERT INTO history (job_id, position, label, job) VALUES (?1, 0, 'made', ?2)",
                params![id, write_job(job)],
            )?;
            state(tx, id)
        })
    }

    /// One change: the job as it is goes in, the job as it should be comes out. Nothing is kept where it is refused. Without a revision the
    /// change is made on whatever the job has become.
    ///
    /// # Errors
    /// [`StoreError::Stale`] with the newer state; [`StoreError::Refused`] with what `change` says.
    pub fn change(
        &self,
        id: i64,
        revision: impl Into<Option<i64>>,
        label: &str,
        change: impl FnOnce(&Job) -> Result<Job, Vec<Problem>>,
    ) -> Result<JobState, StoreError> {
        self.write(|tx| {
            let now = fresh(tx, id, revision.into())?;
            let next = change(&now.job).map_err(StoreError::Refused)?;
            if next == now.job {
                return Ok(now);
            }
            let position: i64 = tx.query_row("SELECT position FROM job WHERE id = ?1", [id], |r| r.get(0))?;
            tx.execute("DELETE FROM history WHERE job_id = ?1 AND position > ?2", [id, position])?;
            tx.execute(
                "INSERT INTO history (job_id, position, label, job) VALUES (?1, ?2, ?3, ?4)",
                params![id, position + 1, label, write_job(&next)],
            )?;
            tx.execute("DELETE FROM history WHERE job_id = ?1 AND position <= ?2", [id, position + 1 - HISTORY])?;
            stand_at(tx, id, position + 1)
        })
    }

    /// One change back.
    ///
    /// # Errors
    /// [`StoreError::Stale`], [`StoreError::NoHistory`].
    pub fn undo(&self, id: i64, revision: i64) -> Result<JobState, StoreError> {
        self.step(id, revision, -1, "undo")
    }

    /// One change forward again.
    ///
    /// # Errors
    /// [`StoreError::Stale`], [`StoreError::NoHistory`].
    pub fn redo(&self, id: i64, revision: i64) -> Result<JobState, StoreError> {
        self.step(id, revision, 1, "redo")
    }

    fn step(&self, id: i64, revision: i64, by: i64, what: &'static str) -> Result<JobState, StoreError> {
        self.write(|tx| {
            fresh(tx, id, Some(revision))?;
            let position: i64 = tx.query_row("SELECT position FROM job WHERE id = ?1", [id], |r| r.get(0))?;
            let there = label(tx, id, position + by)?;
            if there.is_none() {
                return Err(StoreError::NoHistory { what });
            }
            stand_at(tx, id, position + by)
        })
    }

    /// Takes a job off the list; it can be put back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn delete(&self, id: i64) -> Result<(), StoreError> {
        self.write(|tx| {
            match tx.execute(
                "UPDATE job SET deleted = strftime('%Y-%m-%dT%H:%M:%fZ') WHERE id = ?1 AND deleted IS NULL",
                [id],
            )? {
                0 => Err(StoreError::NotFound { id }),
                _ => Ok(()),
            }
        })
    }

    /// Puts a deleted job back on the list.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn restore(&self, id: i64) -> Result<JobState, StoreError> {
        self.write(|tx| {
            tx.execute("UPDATE job SET deleted = NULL WHERE id = ?1", [id])?;
            state(tx, id)
        })
    }
}

/// The job, unless somebody else was faster.
fn fresh(connection: &Connection, id: i64, revision: Option<i64>) -> Result<JobState, StoreError> {
    let now = state(connection, id)?;
    match revision {
        Some(yours) if yours != now.revision => Err(StoreError::Stale { yours, current: Box::new(now) }),
        _ => Ok(now),
    }
}

fn stand_at(tx: &Transaction, id: i64, position: i64) -> Result<JobState, StoreError> {
    tx.execute(
        "UPDATE job SET position = ?2, revision = revision + 1, changed = strftime('%Y-%m-%dT%H:%M:%fZ') WHERE id = ?1",
        [id, position],
    )?;
    let now = state(tx, id)?;
    tx.execute("UPDATE job SET name = ?2 WHERE id = ?1", params![id, now.job.name])?;
    Ok(now)
}

fn label(connection: &Connection, id: i64, position: i64) -> Result<Option<String>, StoreError> {
    let query = "SELECT label FROM history WHERE job_id = ?1 AND position = ?2";
    Ok(connection.query_row(query, [id, position], |r| r.get(0)).optional()?)
}

fn state(connection: &Connection, id: i64) -> Result<JobState, StoreError> {
    let query = "SELECT j.revision, j.position, h.job, h.label FROM job j JOIN history h ON h.job_id = j.id AND h.position = j.position
                 WHERE j.id = ?1 AND j.deleted IS NULL";
    let row = connection.query_row(query, [id], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?))).optional()?;
    let (revision, position, doc, last): (i64, i64, String, String) = row.ok_or(StoreError::NotFound { id })?;
    let why = |p: Vec<Problem>| StoreError::Damaged {
        id,
        why: p.into_iter().map(|p| format!("{}: {}", p.path, p.message)).collect::<Vec<_>>().join("; "),
    };
    let job = read_job(doc.as_bytes()).map_err(why)?;
    let undo = if label(connection, id, position - 1)?.is_some() { last } else { String::new() };
    let redo = label(connection, id, position + 1)?.unwrap_or_default();
    Ok(JobState { id, revision, undo, redo, job })
}
