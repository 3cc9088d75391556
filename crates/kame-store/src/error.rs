//! Why a call failed.

use crate::JobState;
use kame_core::problem::Problem;
use rusqlite::ErrorCode;
use std::path::{Path, PathBuf};

/// Why a call failed.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// No such job, or it was deleted.
    #[error("there is no job {id}; it may have been deleted meanwhile")]
    NotFound {
        /// Number of the job.
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
    /// Another process or many others are writing.
    #[error("the database is in use by others just now; nothing was changed. Try again in a moment.")]
    Busy,
    /// The file is a database, but not Kame's.
    #[error(
        "{file} is a database of another program (it has a table \"{table}\"): name another folder for Kame's data"
    )]
    Foreign {
        /// The file.
        file: PathBuf,
        /// One of its tables.
        table: String,
    },
    /// The file was written by a newer program.
    #[error("{file} was written by a newer Kame (its schema is {found}, this one knows {known}): use the newer one")]
    Newer {
        /// The file.
        file: PathBuf,
        /// Version of its schema.
        found: i64,
        /// The newest this program knows.
        known: i64,
    },
    /// The file cannot be used.
    #[error("{file} cannot be used: {why}")]
    File {
        /// The file.
        file: PathBuf,
        /// What is wrong with it, as a sentence.
        why: String,
    },
    /// Another server keeps its data in the folder.
    #[error(
        "{folder} is in use by another Kame: one server keeps its data there at a time. End that one, or name another folder (--data)"
    )]
    Held {
        /// The folder.
        folder: PathBuf,
    },
    /// What is there may be read and not written.
    #[error("{why}; it is open for reading only, and nothing was changed")]
    ReadOnly {
        /// Why, and what to do.
        why: String,
    },
    /// The file is not where it was, or another stands there.
    #[error(
        "{file} was moved away or replaced while Kame was running; nothing was changed. Put it back and start Kame again"
    )]
    Moved {
        /// The file.
        file: PathBuf,
    },
    /// A part of the database cannot be read.
    #[error(
        "a part of the database cannot be read; nothing was changed. Look it through with kame check, and restore a backup with kame restore"
    )]
    Corrupt,
    /// What should be a backup is none.
    #[error("{folder} is no backup that can be used: {why}")]
    NoBackup {
        /// The folder.
        folder: PathBuf,
        /// What is wrong with it, as a sentence.
        why: String,
    },
    /// A stored job does not read.
    #[error("job {id} in the database does not read: {why}")]
    Damaged {
        /// Number of the job.
        id: i64,
        /// What is wrong with it, as a sentence.
        why: String,
    },
    /// No room is left where the data is kept.
    #[error(
        "there is no room left on the disk that keeps Kame's data; nothing was changed. Make room and send it again."
    )]
    Full,
    /// The database.
    #[error("database: {0}")]
    Database(rusqlite::Error),
}

impl From<rusqlite::Error> for StoreError {
    fn from(e: rusqlite::Error) -> Self {
        match e.sqlite_error_code() {
            Some(ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked) => Self::Busy,
            Some(ErrorCode::DiskFull) => Self::Full,
            Some(ErrorCode::DatabaseCorrupt | ErrorCode::NotADatabase) => Self::Corrupt,
            Some(ErrorCode::ReadOnly) => Self::ReadOnly { why: "the database or its folder may not be written".into() },
            _ => Self::Database(e),
        }
    }
}

impl From<r2d2::Error> for StoreError {
    /// All connections are in use for longer than a caller waits.
    fn from(_: r2d2::Error) -> Self {
        Self::Busy
    }
}

/// What a file says that could not be written or read.
pub(crate) fn kept(file: &Path) -> impl Fn(std::io::Error) -> StoreError + '_ {
    |e| match e.kind() {
        std::io::ErrorKind::StorageFull | std::io::ErrorKind::QuotaExceeded => StoreError::Full,
        _ => StoreError::File { file: file.to_owned(), why: e.to_string() },
    }
}

#[cfg(test)]
mod tests {
    use super::StoreError;
    use rusqlite::Connection;

    #[test]
    fn a_full_disk_is_told_as_such() {
        let db = Connection::open_in_memory().expect("opens");
        db.execute_batch("PRAGMA max_page_count = 4; CREATE TABLE t (x BLOB)").expect("a table");
        let full = db.execute("INSERT INTO t VALUES (zeroblob(100000))", []).expect_err("no room");
        assert!(matches!(StoreError::from(full), StoreError::Full));
        let no_room = std::io::Error::from(std::io::ErrorKind::StorageFull);
        let kept = super::kept("x".as_ref())(no_room);
        assert!(matches!(kept, StoreError::Full));
    }
}
