//! Jobs in SQLite: revisions, undo and redo that survive a reload, optimistic concurrency. Calls block; the server keeps them off its
//! async threads. Nothing is computed while the database is held: who changes a job reads it, works out the new one, and commits that.
#![warn(missing_docs)]

mod account;
mod error;
mod file;
mod firm;
mod folder;
mod history;
mod migrations;
mod people;
mod photo;
mod practice;
mod record;

pub use account::SecondFactor;
pub use error::StoreError;
pub use firm::{FoundJob, FoundPlace, KeptWay, MOST_WAYS};
pub use folder::{Found, Held, Manifest, back_up, hold, look_through, restore};
pub use history::{Deleted, History, KEPT_BYTES, LEAST_KEPT, PURGED_AFTER, Past};
pub use people::{
    AUDIT_PAGE, Credentials, Invitation, JobRole, Logged, MOST_OPEN, MOST_PERSONS, NewPerson, Person, Role, Share,
};
pub use photo::{LARGEST_PHOTO, MOST_PIXELS, Position, hash_of, not_a_photo, photo_size};
pub use practice::{LONGEST_NAME, MOST_PEOPLE, MOST_SCENES};
pub use record::{MOST_ENTRIES, PAGE};

use file::{Connections, Identity, Opened};
use kame_core::job::{Job, Tick, Ticked, read_job, write_job};
use kame_core::problem::Problem;
use rusqlite::{Connection, OptionalExtension, Transaction, TransactionBehavior, params};
use serde::Serialize;
use std::path::{Path, PathBuf};

/// Changes kept for undo, per job.
pub const HISTORY: i64 = 500;

/// A job with its place in its own history.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct JobState {
    /// Number of the job.
    pub id: i64,
    /// Grows with every change, undo and redo included; send it as `If-Match: "5"` with the next one.
    pub revision: i64,
    /// Grows with every tick at the bench, which makes no revision.
    pub bench: i64,
    /// What undo would take back, empty where there is nothing.
    pub undo: String,
    /// What redo would do again, empty where there is nothing.
    pub redo: String,
    /// The job.
    pub job: Job,
}

/// How far a job has come.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Standing {
    /// Its revision.
    pub revision: i64,
    /// Grows with every tick at the bench.
    pub bench: i64,
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
    pub openings: i64,
    /// When it was last changed, RFC 3339, UTC.
    pub changed: String,
    /// Its revision.
    pub revision: i64,
    /// What was said of the finished wall at this revision, 1 (the worst) to 6; `null` where nobody has looked yet.
    pub verdict: Option<u8>,
    /// When it was put aside; `null` where it is among the others.
    pub archived: Option<String>,
    /// The firm's way of building that it follows; `null` where it goes its own.
    pub follows: Option<String>,
}

/// What a change is called, and who made it; empty where nobody signs in.
#[derive(Clone, Copy, Debug)]
pub struct Change<'a> {
    /// What people call it.
    pub label: &'a str,
    /// Name of who made it.
    pub who: &'a str,
}

/// The database of jobs.
pub struct Store {
    /// None where it is open for reading only, with why.
    writer: Result<Connections, String>,
    readers: Connections,
    file: PathBuf,
    identity: Identity,
    /// Folder of the photographs, beside the database.
    photos: PathBuf,
}

impl Store {
    /// Opens the database in a file, making or migrating it. The file is readable by its owner alone. One that is damaged is opened for reading only.
    ///
    /// # Errors
    /// A database of another program or of a newer one; what SQLite says.
    pub fn open(path: &Path) -> Result<Self, StoreError> {
        let Opened { writer, readers, identity } = file::open(path)?;
        Ok(Self { writer, readers, file: path.to_owned(), identity, photos: path.with_file_name("photos") })
    }

    /// Why nothing can be written, where that is so.
    pub fn read_only(&self) -> Option<&str> {
        self.writer.as_ref().err().map(String::as_str)
    }

    fn write<T>(&self, work: impl FnOnce(&Transaction) -> Result<T, StoreError>) -> Result<T, StoreError> {
        let writer = self.writer.as_ref().map_err(|why| StoreError::ReadOnly { why: why.clone() })?;
        // What is written to a file that was moved away is found by nobody.
        if Identity::of(&self.file) != Some(self.identity) {
            return Err(StoreError::Moved { file: self.file.clone() });
        }
        let mut connection = writer.get()?;
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
        let connection = self.readers.get()?;
        let mut query = connection.prepare_cached(
            "SELECT id, name, wall, openings, changed, revision, CASE WHEN verdict_of = revision THEN verdict END, archived, follows FROM job WHERE deleted IS NULL ORDER BY changed DESC, id DESC",
        )?;
        let rows = query.query_map([], |r| {
            Ok(JobSummary {
                id: r.get(0)?,
                name: r.get(1)?,
                wall: r.get(2)?,
                openings: r.get(3)?,
                changed: r.get(4)?,
                revision: r.get(5)?,
                verdict: r.get(6)?,
                archived: r.get(7)?,
                follows: r.get(8)?,
            })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// True where no job was ever made, deleted ones included.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn is_untouched(&self) -> Result<bool, StoreError> {
        Ok(self.readers.get()?.query_row("SELECT NOT EXISTS (SELECT 1 FROM job)", [], |r| r.get(0))?)
    }

    /// One job.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn job(&self, id: i64) -> Result<JobState, StoreError> {
        // Read while the connection is held, understood after.
        let row = Row::of(&*self.readers.get()?, id)?;
        row.state()
    }

    /// How far a job has come.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn standing(&self, id: i64) -> Result<Standing, StoreError> {
        standing(&*self.readers.get()?, id)
    }

    /// Keeps what is said of the finished wall at a revision, for lists; what is known already is not written again.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn say(&self, id: i64, revision: i64, verdict: u8) -> Result<(), StoreError> {
        let known = "SELECT EXISTS (SELECT 1 FROM job WHERE id = ?1 AND (verdict_of = ?2 OR revision <> ?2))";
        if self.readers.get()?.query_row(known, [id, revision], |r| r.get(0))? {
            return Ok(());
        }
        self.write(|tx| {
            let row = "UPDATE job SET verdict = ?3, verdict_of = ?2 WHERE id = ?1 AND revision = ?2";
            tx.execute(row, params![id, revision, verdict])?;
            Ok(())
        })
    }

    /// A new job.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn create(&self, job: &Job) -> Result<JobState, StoreError> {
        let id = self.write(|tx| create_in(tx, job))?;
        self.job(id)
    }

    /// Keeps a change: the job as it was read, and as it should be. What was ticked off meanwhile stays.
    ///
    /// # Errors
    /// [`StoreError::Stale`] with the newer state where the job has another revision than the one it was read at.
    pub fn commit(
        &self,
        id: i64,
        revision: i64,
        change: Change,
        was: &Job,
        next: &Job,
    ) -> Result<JobState, StoreError> {
        let Change { label, who } = change;
        if next == was {
            let now = self.job(id)?;
            return if now.revision == revision { Ok(now) } else { Err(stale(revision, now)) };
        }
        let doc = write_job(next);
        self.write(|tx| {
            let now = Place::fresh(tx, id, revision)?;
            let mut ticked = now.ticked.clone();
            ticked.carry(&Ticked::of(was), &Ticked::of(next));
            let changed = Ticked::changed(&now.ticked, &ticked).map(|c| written(&c));
            tx.execute("DELETE FROM history WHERE job_id = ?1 AND position > ?2", [id, now.position])?;
            let to = now.position + 1;
            tx.execute(
                "INSERT INTO history (job_id, position, label, job, ticks_changed, who) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
                params![id, to, label, doc, changed, who],
            )?;
            history::trim(tx, id, to)?;
            now.stand_at(tx, to, next, &ticked)?;
            let mut job = next.clone();
            let bench = now.bench + i64::from(ticked != now.ticked);
            ticked.into_job(&mut job);
            Ok(JobState { id, revision: revision + 1, bench, undo: label.to_owned(), redo: String::new(), job })
        })
    }

    /// Ticks a piece off at the bench, or not. That is no change of the job: it makes no revision and is not undone.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Refused`] for what cannot be a piece.
    pub fn tick(&self, id: i64, tick: &Tick) -> Result<Standing, StoreError> {
        self.write(|tx| {
            let now = Place::of(tx, id)?;
            let mut ticked = now.ticked;
            ticked.tick(tick).map_err(StoreError::Refused)?;
            tx.execute(
                "UPDATE job SET ticked = ?2, bench = bench + 1, changed = strftime('%Y-%m-%dT%H:%M:%fZ') WHERE id = ?1",
                params![id, written(&ticked)],
            )?;
            Ok(Standing { revision: now.revision, bench: now.bench + 1 })
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
            let now = Place::fresh(tx, id, revision)?;
            let to = now.position + by;
            let query = "SELECT job FROM history WHERE job_id = ?1 AND position = ?2";
            let doc: Option<String> = tx.query_row(query, [id, to], |r| r.get(0)).optional()?;
            let job = read(id, &doc.ok_or(StoreError::NoHistory { what })?)?;
            // The change itself stands at the later of the two places.
            let query = "SELECT ticks_changed FROM history WHERE job_id = ?1 AND position = ?2";
            let changed: Option<String> = tx.query_row(query, [id, to.max(now.position)], |r| r.get(0))?;
            let mut ticked = now.ticked.clone();
            if let Some([before, after]) = changed.map(|c| in_ticks::<[Ticked; 2]>(id, &c)).transpose()? {
                let (from, to) = if by > 0 { (&before, &after) } else { (&after, &before) };
                ticked.carry(from, to);
            }
            now.stand_at(tx, to, &job, &ticked)?;
            Row::of(tx, id)?.state()
        })
    }

    /// Takes a job off the list; it can be put back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Stale`] where it was changed meanwhile.
    pub fn delete(&self, id: i64, revision: i64) -> Result<(), StoreError> {
        self.write(|tx| {
            Place::fresh(tx, id, revision)?;
            tx.execute("UPDATE job SET deleted = strftime('%Y-%m-%dT%H:%M:%fZ') WHERE id = ?1", [id])?;
            Ok(())
        })
    }

    /// Puts a deleted job back on the list.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn restore(&self, id: i64) -> Result<JobState, StoreError> {
        self.write(|tx| {
            tx.execute("UPDATE job SET deleted = NULL WHERE id = ?1", [id])?;
            Row::of(tx, id)?.state()
        })
    }
}

fn stale(yours: i64, current: JobState) -> StoreError {
    StoreError::Stale { yours, current: Box::new(current) }
}

fn written(ticks: &impl serde::Serialize) -> String {
    serde_json::to_string(ticks).unwrap_or_default()
}

fn read(id: i64, doc: &str) -> Result<Job, StoreError> {
    let told = |p: Vec<Problem>| p.into_iter().map(|p| format!("{}: {}", p.path, p.message)).collect::<Vec<_>>();
    read_job(doc.as_bytes()).map_err(|p| StoreError::Damaged { id, why: told(p).join("; ") })
}

fn standing(connection: &Connection, id: i64) -> Result<Standing, StoreError> {
    let mut query = connection.prepare_cached("SELECT revision, bench FROM job WHERE id = ?1 AND deleted IS NULL")?;
    let row = query.query_row([id], |r| Ok(Standing { revision: r.get(0)?, bench: r.get(1)? })).optional()?;
    row.ok_or(StoreError::NotFound { id })
}

/// Makes a job, and says its number.
fn create_in(tx: &Connection, job: &Job) -> Result<i64, StoreError> {
    tx.execute(
        "INSERT INTO job (name, wall, openings, ticked, words, follows, position, revision) VALUES (?1, ?2, ?3, ?4, ?5, ?6, 0, 1)",
        params![
            job.name,
            job.wall.name,
            job.openings.len() as i64,
            written(&Ticked::of(job)),
            firm::words(job),
            job.follows
        ],
    )?;
    let id = tx.last_insert_rowid();
    let row = "INSERT INTO history (job_id, position, label, job) VALUES (?1, 0, 'made', ?2)";
    tx.execute(row, params![id, write_job(job)])?;
    Ok(id)
}

/// Where a job stands in its history, and what is ticked off.
struct Place {
    id: i64,
    revision: i64,
    position: i64,
    bench: i64,
    ticked: Ticked,
}

impl Place {
    fn of(connection: &Connection, id: i64) -> Result<Self, StoreError> {
        let mut query = connection
            .prepare_cached("SELECT revision, position, bench, ticked FROM job WHERE id = ?1 AND deleted IS NULL")?;
        let row =
            query.query_row([id], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get::<_, String>(3)?))).optional()?;
        let (revision, position, bench, ticked) = row.ok_or(StoreError::NotFound { id })?;
        Ok(Self { id, revision, position, bench, ticked: in_ticks(id, &ticked)? })
    }

    /// Unless somebody else was faster.
    fn fresh(connection: &Connection, id: i64, revision: i64) -> Result<Self, StoreError> {
        let now = Self::of(connection, id)?;
        if now.revision == revision { Ok(now) } else { Err(stale(revision, Row::of(connection, id)?.state()?)) }
    }

    /// Puts the job at another place of its history, which is a new revision, with what lists show of it.
    fn stand_at(&self, tx: &Transaction, position: i64, job: &Job, ticked: &Ticked) -> Result<(), StoreError> {
        let bench = self.bench + i64::from(*ticked != self.ticked);
        let openings = job.openings.len() as i64;
        tx.execute(
            "UPDATE job SET position = ?2, name = ?3, wall = ?4, openings = ?5, ticked = ?6, bench = ?7, words = ?8, follows = ?9,
             revision = revision + 1, changed = strftime('%Y-%m-%dT%H:%M:%fZ') WHERE id = ?1",
            params![
                self.id,
                position,
                job.name,
                job.wall.name,
                openings,
                written(ticked),
                bench,
                firm::words(job),
                job.follows
            ],
        )?;
        Ok(())
    }
}

fn in_ticks<T: serde::de::DeserializeOwned>(id: i64, text: &str) -> Result<T, StoreError> {
    serde_json::from_str(text).map_err(|e| StoreError::Damaged { id, why: format!("what is ticked off: {e}") })
}

/// A job as it stands in the database.
struct Row {
    id: i64,
    standing: Standing,
    doc: String,
    ticked: String,
    undo: String,
    redo: String,
}

impl Row {
    fn of(connection: &Connection, id: i64) -> Result<Self, StoreError> {
        // What undo takes back is the change that led here, where there is something before it.
        let mut query = connection.prepare_cached(
            "SELECT j.revision, j.bench, h.job, j.ticked, iif(b.position IS NULL, '', h.label), coalesce(n.label, '')
             FROM job j JOIN history h ON h.job_id = j.id AND h.position = j.position
             LEFT JOIN history b ON b.job_id = j.id AND b.position = j.position - 1
             LEFT JOIN history n ON n.job_id = j.id AND n.position = j.position + 1
             WHERE j.id = ?1 AND j.deleted IS NULL",
        )?;
        let row = query.query_row([id], |r| {
            let standing = Standing { revision: r.get(0)?, bench: r.get(1)? };
            Ok(Self { id, standing, doc: r.get(2)?, ticked: r.get(3)?, undo: r.get(4)?, redo: r.get(5)? })
        });
        row.optional()?.ok_or(StoreError::NotFound { id })
    }

    fn state(self) -> Result<JobState, StoreError> {
        let Self { id, standing: Standing { revision, bench }, doc, ticked, undo, redo } = self;
        let mut job = read(id, &doc)?;
        in_ticks::<Ticked>(id, &ticked)?.into_job(&mut job);
        Ok(JobState { id, revision, bench, undo, redo, job })
    }
}
