//! Opening the database file: whose it is, who may read it, and the connections to it.

use crate::error::StoreError;
use crate::migrations;
use r2d2::Pool;
use r2d2_sqlite::SqliteConnectionManager;
use rusqlite::{Connection, OpenFlags};
use std::path::Path;
use std::time::Duration;

/// Marks a database as Kame's: the letters KAME.
const APPLICATION_ID: i32 = 0x4b41_4d45;
/// How long a change waits for another before it is told to come again.
const WRITERS_WAIT: Duration = Duration::from_secs(2);
/// How long reading waits for a connection.
const READERS_WAIT: Duration = Duration::from_secs(1);
/// Connections to read with. Readers never wait for who writes.
const READERS: u32 = 4;

pub type Connections = Pool<SqliteConnectionManager>;

/// The one connection to write with, and those to read with.
pub fn open(file: &Path) -> Result<(Connections, Connections), StoreError> {
    belongs_to_its_owner(file)?;
    prepare(file)?;
    let settled = |c: &mut Connection, wait: Duration| {
        c.busy_timeout(wait)?;
        c.pragma_update(None, "synchronous", "FULL")?;
        c.pragma_update(None, "foreign_keys", true)
    };
    let pool = |manager, most, wait| {
        let build = Pool::builder().max_size(most).min_idle(Some(1)).connection_timeout(wait).test_on_check_out(false);
        build.build(manager).map_err(StoreError::from)
    };
    let writer = SqliteConnectionManager::file(file).with_init(move |c| settled(c, WRITERS_WAIT));
    let reading = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let reader =
        SqliteConnectionManager::file(file).with_flags(reading).with_init(move |c| c.busy_timeout(READERS_WAIT));
    Ok((pool(writer, 1, WRITERS_WAIT)?, pool(reader, READERS, READERS_WAIT)?))
}

/// Makes the file where there is none, readable by its owner alone. SQLite gives the files it puts beside it the same rights.
fn belongs_to_its_owner(file: &Path) -> Result<(), StoreError> {
    let why = |e: std::io::Error| StoreError::File { file: file.to_owned(), why: e.to_string() };
    let mut open = std::fs::OpenOptions::new();
    open.create(true).append(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut open, 0o600);
    let made = open.open(file).map_err(why)?;
    #[cfg(unix)]
    made.set_permissions(std::os::unix::fs::PermissionsExt::from_mode(0o600)).map_err(why)?;
    Ok(())
}

/// Looks whose database it is before anything in it is changed, then brings it to the newest schema.
fn prepare(file: &Path) -> Result<(), StoreError> {
    let mut connection = Connection::open(file)?;
    connection.busy_timeout(WRITERS_WAIT)?;
    let unreadable = |e: rusqlite::Error| match StoreError::from(e) {
        StoreError::Database(e) => StoreError::File { file: file.to_owned(), why: format!("{e}; is it a database?") },
        other => other,
    };
    let number = |pragma: &str| connection.pragma_query_value(None, pragma, |r| r.get::<_, i64>(0)).map_err(unreadable);
    let (found, known) = (number("user_version")?, migrations::NEWEST);
    let marked = number("application_id")?;
    let tables = connection
        .prepare("SELECT name FROM sqlite_schema WHERE type = 'table'")
        .and_then(|mut q| q.query_map([], |r| r.get::<_, String>(0))?.collect::<Result<Vec<String>, _>>())
        .map_err(unreadable)?;
    let ours =
        marked == i64::from(APPLICATION_ID) || (marked == 0 && found > 0 && tables.iter().any(|t| t == "history"));
    if let Some(table) = tables.into_iter().next().filter(|_| !ours) {
        return Err(StoreError::Foreign { file: file.to_owned(), table });
    }
    if found > known {
        return Err(StoreError::Newer { file: file.to_owned(), found, known });
    }
    connection.pragma_update(None, "journal_mode", "WAL")?;
    connection.pragma_update(None, "synchronous", "FULL")?;
    connection.pragma_update(None, "foreign_keys", true)?;
    migrations::all().to_latest(&mut connection).map_err(|e| match e {
        rusqlite_migration::Error::RusqliteError { err, .. } => unreadable(err),
        other => StoreError::File { file: file.to_owned(), why: other.to_string() },
    })?;
    connection.pragma_update(None, "application_id", APPLICATION_ID)?;
    Ok(())
}
