//! The folder that keeps the data: held by one server at a time, looked through, backed up while it is used, restored into another.

use crate::error::{StoreError, kept};
use crate::file::{damage, snapshot, to_read};
use crate::migrations::NEWEST;
use crate::photo::hash_of;
use crate::{in_ticks, read};
use kame_core::job::Ticked;
use kame_core::record::{Entry, broken_photo, verify};
use rusqlite::Connection;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::BTreeMap;
use std::fs::{self, File, TryLockError};
use std::io::Read;
use std::path::{Path, PathBuf};

/// Names in the folder of the data, and of a backup.
const DATABASE: &str = "kame.db";
const PHOTOS: &str = "photos";
const LOCK: &str = "kame.lock";
const MANIFEST: &str = "backup.json";
/// What the manifest of a backup says it is.
const FORMAT: &str = "kame-backup";
const VERSION: u32 = 1;

/// A folder that is ours for as long as this is kept, also after a hard end of whoever had it.
pub struct Held(#[expect(dead_code, reason = "what is locked is let go when it is dropped")] File);

/// Holds a folder of data for one server.
///
/// # Errors
/// [`StoreError::Held`] where another server has it; what the file system says.
pub fn hold(folder: &Path) -> Result<Held, StoreError> {
    let file = folder.join(LOCK);
    let lock = fs::OpenOptions::new().create(true).append(true).open(&file).map_err(kept(&file))?;
    match lock.try_lock() {
        Ok(()) => Ok(Held(lock)),
        Err(TryLockError::WouldBlock) => Err(StoreError::Held { folder: folder.to_owned() }),
        Err(TryLockError::Error(e)) => Err(kept(&file)(e)),
    }
}

/// What is in a folder of data, and what is wrong in it.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Found {
    /// Schema of the database.
    pub schema: i64,
    /// Jobs, deleted ones included.
    pub jobs: usize,
    /// Entries of all records.
    pub entries: usize,
    /// Photographs on the disk.
    pub photos: usize,
    /// Those that no entry names.
    pub unnamed: usize,
    /// What is wrong, each a sentence.
    pub wrong: Vec<String>,
}

impl Found {
    /// The same in a line.
    pub fn in_words(&self) -> String {
        let Self { schema, jobs, entries, photos, unnamed, .. } = self;
        format!(
            "schema {schema}, {jobs} jobs, {entries} entries on record, {photos} photographs ({unnamed} that no entry names)"
        )
    }
}

/// What a backup holds, written last of all.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Manifest {
    /// `kame-backup`.
    pub format: String,
    /// Version of this format.
    pub version: u32,
    /// When it was made, RFC 3339, UTC.
    pub made: String,
    /// Schema of the database.
    pub schema: i64,
    /// SHA-256 of the database.
    pub database: String,
    /// Bytes of each photograph by its hash, which is its name.
    pub photos: BTreeMap<String, u64>,
}

/// Looks a folder of data or a backup through: every page and every row of the database, that each job and its record read and are whole, that each
/// photograph is there and as it was taken. Nothing is changed, and a server may be running.
///
/// # Errors
/// Where there is no database that can be opened at all.
pub fn look_through(folder: &Path) -> Result<Found, StoreError> {
    let connection = to_read(&folder.join(DATABASE))?;
    let mut found = Found { wrong: damage(&connection), ..Found::default() };
    let photos = photographs(&folder.join(PHOTOS))?;
    found.photos = photos.len();
    let told = |found: &mut Found, e: StoreError| found.wrong.push(e.to_string());
    match connection.pragma_query_value(None, "user_version", |r| r.get(0)) {
        Ok(schema) => found.schema = schema,
        Err(e) => told(&mut found, e.into()),
    }
    if found.schema > NEWEST {
        return Err(StoreError::Newer { file: folder.join(DATABASE), found: found.schema, known: NEWEST });
    }
    let mut named = std::collections::HashSet::new();
    match jobs(&connection) {
        Err(e) => told(&mut found, e),
        Ok(list) => {
            found.jobs = list.len();
            for id in list {
                if let Err(e) = job_reads(&connection, id) {
                    told(&mut found, e);
                }
                // Records came with the fifth schema.
                let entries = if found.schema >= 5 { record(&connection, id) } else { Ok(Vec::new()) };
                match entries {
                    Err(e) => told(&mut found, e),
                    Ok(entries) => {
                        found.entries += entries.len();
                        let whole = verify(&entries).broken;
                        let photo = |hash: &str| photos.get(hash).and_then(|p| fs::read(p).ok()).map(|b| hash_of(&b));
                        if let Some(broken) = whole.or_else(|| broken_photo(&entries, photo)) {
                            found.wrong.push(format!("the record of job {id}: {broken}"));
                        }
                        named.extend(entries.into_iter().flat_map(|e| e.event.photos));
                    }
                }
            }
        }
    }
    found.unnamed = photos.keys().filter(|p| !named.contains(*p)).count();
    Ok(found)
}

fn jobs(connection: &Connection) -> Result<Vec<i64>, StoreError> {
    let mut query = connection.prepare("SELECT id FROM job ORDER BY id")?;
    Ok(query.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?)
}

/// That a job reads as it stands, and what is ticked off in it.
fn job_reads(connection: &Connection, id: i64) -> Result<(), StoreError> {
    let query = "SELECT h.job FROM job j JOIN history h ON h.job_id = j.id AND h.position = j.position WHERE j.id = ?1";
    let doc: String = connection.query_row(query, [id], |r| r.get(0)).map_err(|e| match e {
        rusqlite::Error::QueryReturnedNoRows => {
            StoreError::Damaged { id, why: "what it is stands nowhere in its history".into() }
        }
        e => e.into(),
    })?;
    read(id, &doc)?;
    let ticked = "SELECT ticked FROM job WHERE id = ?1";
    match connection.query_row(ticked, [id], |r| r.get::<_, String>(0)) {
        Ok(text) => in_ticks::<Ticked>(id, &text).map(drop),
        // Ticks came beside the job with the second schema.
        Err(rusqlite::Error::SqlInputError { .. }) => Ok(()),
        Err(e) => Err(e.into()),
    }
}

fn record(connection: &Connection, id: i64) -> Result<Vec<Entry>, StoreError> {
    let mut query = connection.prepare_cached("SELECT entry FROM record WHERE job_id = ?1 ORDER BY number")?;
    let rows = query.query_map([id], |r| r.get::<_, String>(0))?;
    rows.map(|text| {
        serde_json::from_str(&text?).map_err(|e| StoreError::Damaged { id, why: format!("its record: {e}") })
    })
    .collect()
}

/// Photographs in a folder by their hash. What is called otherwise is none of ours.
fn photographs(folder: &Path) -> Result<BTreeMap<String, PathBuf>, StoreError> {
    let mut out = BTreeMap::new();
    let why = kept(folder);
    let list = |of: &Path| match fs::read_dir(of) {
        Ok(list) => list.collect::<Result<Vec<_>, _>>(),
        Err(e) if e.kind() == std::io::ErrorKind::NotFound => Ok(Vec::new()),
        Err(e) => Err(e),
    };
    for shelf in list(folder).map_err(&why)? {
        if !shelf.path().is_dir() {
            continue;
        }
        for photo in list(&shelf.path()).map_err(&why)? {
            let name = photo.file_name().to_string_lossy().into_owned();
            if kame_core::record::not_a_hash(&name).is_none() {
                out.insert(name, photo.path());
            }
        }
    }
    Ok(out)
}

/// SHA-256 of a file, a part at a time: a database may be larger than memory.
fn hash_of_file(file: &Path) -> Result<String, StoreError> {
    let why = kept(file);
    let mut from = File::open(file).map_err(&why)?;
    let mut hasher = Sha256::new();
    let mut part = vec![0_u8; 1 << 20];
    loop {
        match from.read(&mut part).map_err(&why)? {
            0 => return Ok(hasher.finalize().iter().map(|b| format!("{b:02x}")).collect()),
            n => hasher.update(&part[..n]),
        }
    }
}

fn now(connection: &Connection) -> Result<String, StoreError> {
    Ok(connection.query_row("SELECT strftime('%Y-%m-%dT%H:%M:%SZ')", [], |r| r.get(0))?)
}

/// Copies photographs into another folder, each looked at as it is copied.
fn copy_photos(from: &BTreeMap<String, PathBuf>, to: &Path) -> Result<BTreeMap<String, u64>, StoreError> {
    let mut out = BTreeMap::new();
    for (hash, file) in from {
        let bytes = fs::read(file).map_err(kept(file))?;
        let shelf = to.join(PHOTOS).join(&hash[..2]);
        let why = kept(&shelf);
        fs::create_dir_all(&shelf).map_err(&why)?;
        let copy = shelf.join(hash);
        fs::write(&copy, &bytes).and_then(|()| File::open(&copy)?.sync_all()).map_err(&why)?;
        out.insert(hash.clone(), bytes.len() as u64);
    }
    Ok(out)
}

/// A folder beside the one that is to be made, which takes its place once all of it is there.
fn made_beside(to: &Path, fill: impl FnOnce(&Path) -> Result<Found, StoreError>) -> Result<Found, StoreError> {
    if to.exists() && fs::read_dir(to).map_err(kept(to))?.next().is_some() {
        return Err(StoreError::File {
            file: to.to_owned(),
            why: "something is there already: name a new folder".into(),
        });
    }
    let parent = to.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
    fs::create_dir_all(parent).map_err(kept(parent))?;
    let beside = tempfile::Builder::new().prefix(".kame-").tempdir_in(parent).map_err(kept(parent))?;
    let found = fill(beside.path())?;
    if to.exists() {
        fs::remove_dir(to).map_err(kept(to))?;
    }
    let whole = beside.keep();
    fs::rename(&whole, to).map_err(kept(to))?;
    File::open(parent).and_then(|f| f.sync_all()).map_err(kept(parent))?;
    Ok(found)
}

/// Backs a folder of data up into a new one, while a server may be writing: the database as it stands at one moment, every photograph, and what they
/// are. The backup is looked through before it is called one.
///
/// # Errors
/// What cannot be read or written; [`StoreError::NoBackup`] where what was copied is not whole.
pub fn back_up(folder: &Path, to: &Path) -> Result<Found, StoreError> {
    made_beside(to, |beside| {
        let connection = to_read(&folder.join(DATABASE))?;
        let database = beside.join(DATABASE);
        snapshot(&connection, &database)?;
        // Each photograph is on the disk before an entry names it: what the database names is there.
        let photos = copy_photos(&photographs(&folder.join(PHOTOS))?, beside)?;
        let found = look_through(beside)?;
        let manifest = Manifest {
            format: FORMAT.into(),
            version: VERSION,
            made: now(&connection)?,
            schema: found.schema,
            database: hash_of_file(&database)?,
            photos,
        };
        if let Some(first) = found.wrong.first() {
            let why = format!("what is in {} is not whole: {first}", folder.display());
            return Err(StoreError::NoBackup { folder: to.to_owned(), why });
        }
        let file = beside.join(MANIFEST);
        let text = serde_json::to_vec_pretty(&manifest).unwrap_or_default();
        fs::write(&file, text).and_then(|()| File::open(&file)?.sync_all()).map_err(kept(&file))?;
        Ok(found)
    })
}

/// Reads what a backup says it holds and holds it against what is there.
fn manifest_of(folder: &Path) -> Result<Manifest, StoreError> {
    let refuse = |why: String| StoreError::NoBackup { folder: folder.to_owned(), why };
    let text = match fs::read(folder.join(MANIFEST)) {
        Ok(text) => text,
        Err(_) if folder.join(DATABASE).exists() => {
            return Err(refuse(format!(
                "it has a database and no {MANIFEST}: it was copied and not made by kame backup, and may miss its latest changes"
            )));
        }
        Err(_) => return Err(refuse(format!("there is no {MANIFEST} in it: name a folder that kame backup made"))),
    };
    let manifest: Manifest =
        serde_json::from_slice(&text).map_err(|e| refuse(format!("{MANIFEST} does not read: {e}")))?;
    if manifest.format != FORMAT || manifest.version != VERSION {
        return Err(refuse(format!(
            "{MANIFEST} says {} {}, expected {FORMAT} {VERSION}: use the Kame that made it",
            manifest.format, manifest.version
        )));
    }
    let database = folder.join(DATABASE);
    if hash_of_file(&database)? != manifest.database {
        return Err(refuse(format!("{DATABASE} is not as it was backed up: use another backup")));
    }
    let there = photographs(&folder.join(PHOTOS))?;
    if let Some(lost) = manifest.photos.keys().find(|p| !there.contains_key(*p)) {
        return Err(refuse(format!("the photograph {lost} is not there any more: use another backup")));
    }
    Ok(manifest)
}

/// Restores a backup into a new folder, and looks it through there.
///
/// # Errors
/// [`StoreError::NoBackup`] for what is none, was changed, or is not whole; a folder in which something is already.
pub fn restore(from: &Path, to: &Path) -> Result<Found, StoreError> {
    manifest_of(from)?;
    made_beside(to, |beside| {
        let database = beside.join(DATABASE);
        fs::copy(from.join(DATABASE), &database).map_err(kept(&database))?;
        File::open(&database).and_then(|f| f.sync_all()).map_err(kept(&database))?;
        copy_photos(&photographs(&from.join(PHOTOS))?, beside)?;
        let found = look_through(beside)?;
        match found.wrong.first() {
            None => Ok(found),
            Some(first) => Err(StoreError::NoBackup { folder: from.to_owned(), why: first.clone() }),
        }
    })
}
