//! Opening the database file: whose it is, who may read it, whether it is whole, and the connections to it.

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

/// Connections to a database.
pub struct Opened {
    /// The one to write with; none where what is there is damaged, with why.
    pub writer: Result<Connections, String>,
    /// Those to read with.
    pub readers: Connections,
    /// Which file it is, whatever is put in its place later.
    pub identity: Identity,
}

/// A file, whatever it is called: where the file system keeps it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Identity(u64, u64);

impl Identity {
    /// Of the file that stands at a path now.
    pub fn of(file: &Path) -> Option<Self> {
        use std::os::unix::fs::MetadataExt;
        std::fs::metadata(file).ok().map(|m| Self(m.dev(), m.ino()))
    }
}

/// Opens a database, made or migrated where it has to be. One that is damaged is opened for reading alone.
pub fn open(file: &Path) -> Result<Opened, StoreError> {
    belongs_to_its_owner(file)?;
    let damage = prepare(file)?;
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
    let reader =
        SqliteConnectionManager::file(file).with_flags(READING).with_init(move |c| c.busy_timeout(READERS_WAIT));
    let identity = Identity::of(file).ok_or_else(|| StoreError::Moved { file: file.to_owned() })?;
    let writer = match damage {
        None => Ok(pool(writer, 1, WRITERS_WAIT)?),
        Some(why) => Err(why),
    };
    Ok(Opened { writer, readers: pool(reader, READERS, READERS_WAIT)?, identity })
}

const READING: OpenFlags = OpenFlags::SQLITE_OPEN_READ_ONLY.union(OpenFlags::SQLITE_OPEN_NO_MUTEX);

/// A connection that reads and cannot write.
pub fn to_read(file: &Path) -> Result<Connection, StoreError> {
    if !file.is_file() {
        return Err(StoreError::File { file: file.to_owned(), why: "there is no such file".into() });
    }
    let connection = Connection::open_with_flags(file, READING)?;
    connection.busy_timeout(READERS_WAIT)?;
    Ok(connection)
}

/// So many mistakes of a damaged database are told.
const MOST_MISTAKES: u32 = 20;

/// What is wrong in a database, by SQLite's own look at every page and at what rows say of each other.
pub fn damage(connection: &Connection) -> Vec<String> {
    let told = |e: rusqlite::Error| vec![e.to_string()];
    let looked = || -> Result<Vec<String>, rusqlite::Error> {
        let mut query = connection.prepare(&format!("PRAGMA integrity_check({MOST_MISTAKES})"))?;
        let lines = query.query_map([], |r| r.get::<_, String>(0))?.collect::<Result<Vec<_>, _>>()?;
        let mut out: Vec<String> = lines.into_iter().filter(|l| l != "ok").collect();
        let mut query = connection.prepare("PRAGMA foreign_key_check")?;
        let lost = query.query_map([], |r| r.get::<_, String>(0))?.collect::<Result<Vec<_>, _>>()?;
        let mut tables: Vec<String> = lost.clone();
        tables.dedup();
        for table in tables {
            let many = lost.iter().filter(|t| **t == table).count();
            out.push(format!("{many} rows of \"{table}\" belong to a job that is not there"));
        }
        Ok(out)
    };
    looked().unwrap_or_else(told)
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

/// Looks whose database it is and whether it is whole before anything in it is changed, then brings it to the newest schema, the old one kept beside
/// it. Says what is damaged where something is.
fn prepare(file: &Path) -> Result<Option<String>, StoreError> {
    let mut connection = Connection::open(file)?;
    connection.busy_timeout(WRITERS_WAIT)?;
    let unreadable = |e: rusqlite::Error| match StoreError::from(e) {
        StoreError::Database(e) => StoreError::File { file: file.to_owned(), why: format!("{e}; is it a database?") },
        StoreError::Corrupt => StoreError::File {
            file: file.to_owned(),
            why: "is it a database? If it was, it is damaged beyond reading: restore a backup with kame restore".into(),
        },
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
    let mistakes = damage(&connection);
    if let Some(first) = mistakes.first() {
        let say = format!(
            "{} is damaged ({first}{})",
            file.display(),
            if mistakes.len() > 1 { format!(", and {} more", mistakes.len() - 1) } else { String::new() }
        );
        if found < known {
            let why = format!("{say}, and of an earlier schema: restore a backup with kame restore");
            return Err(StoreError::File { file: file.to_owned(), why });
        }
        return Ok(Some(format!("{say}: restore a backup with kame restore, or see with kame check what is lost")));
    }
    if found > 0 && found < known {
        keep_earlier(&connection, file, found)?;
    }
    connection.pragma_update(None, "journal_mode", "WAL")?;
    connection.pragma_update(None, "synchronous", "FULL")?;
    connection.pragma_update(None, "foreign_keys", true)?;
    migrations::all().to_latest(&mut connection).map_err(|e| match e {
        rusqlite_migration::Error::RusqliteError { err, .. } => unreadable(err),
        other => StoreError::File { file: file.to_owned(), why: other.to_string() },
    })?;
    connection.pragma_update(None, "application_id", APPLICATION_ID)?;
    Ok(None)
}

/// Keeps a database as it is before it is brought to a newer schema, so that an earlier program can go back to it.
fn keep_earlier(connection: &Connection, file: &Path, schema: i64) -> Result<(), StoreError> {
    let beside = file.with_file_name(format!("kame-schema-{schema}.db"));
    if beside.exists() {
        return Ok(());
    }
    snapshot(connection, &beside)
}

/// A copy of a database as it stands at one moment, whole in one file, while others go on writing. Nothing is left behind where it fails.
pub fn snapshot(connection: &Connection, to: &Path) -> Result<(), StoreError> {
    let copied = || -> Result<(), StoreError> {
        belongs_to_its_owner(to)?;
        let mut copy = Connection::open(to)?;
        {
            let backup = rusqlite::backup::Backup::new(connection, &mut copy)?;
            // All pages in one step: who writes meanwhile is not waited for, and does not make it begin again.
            while backup.step(-1)? != rusqlite::backup::StepResult::Done {
                std::thread::sleep(std::time::Duration::from_millis(20));
            }
        }
        copy.pragma_update(None, "journal_mode", "DELETE")?;
        copy.close().map_err(|(_, e)| StoreError::from(e))?;
        std::fs::File::open(to).and_then(|f| f.sync_all()).map_err(crate::error::kept(to))
    };
    let done = copied();
    if done.is_err() {
        // What is half written helps nobody.
        std::fs::remove_file(to).ok();
    }
    done
}
