//! How the schema came to be, oldest first; forward only.

use rusqlite_migration::{M, Migrations};

/// 2026-11-23. Why: jobs with their whole history, so that undo survives a reload and no change is lost.
const JOBS: &str = "
CREATE TABLE job (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    position INTEGER NOT NULL,
    revision INTEGER NOT NULL,
    changed TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    deleted TEXT
) STRICT;
CREATE TABLE history (
    job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    label TEXT NOT NULL,
    job TEXT NOT NULL,
    PRIMARY KEY (job_id, position)
) STRICT;
";

/// 2026-11-28. Why: the list of jobs is read without reading the jobs; ticks stand beside the history, so that nobody's undo takes back a tick
/// and no tick takes away anybody's redo.
const BESIDE: &str = "
ALTER TABLE job ADD COLUMN wall TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN openings INTEGER NOT NULL DEFAULT 0;
ALTER TABLE job ADD COLUMN ticked TEXT NOT NULL DEFAULT '{\"ticks\":[],\"rolls\":{}}';
ALTER TABLE job ADD COLUMN bench INTEGER NOT NULL DEFAULT 0;
UPDATE job SET
    wall = coalesce(h.job ->> '$.wall.name', ''),
    openings = coalesce(json_array_length(h.job, '$.openings'), 0),
    ticked = json_object(
        'ticks', json(coalesce(h.job -> '$.ticks', '[]')),
        'rolls', json(coalesce(h.job -> '$.bench.rolls', '{}')))
FROM history h
WHERE h.job_id = job.id AND h.position = job.position AND json_valid(h.job);
";

/// 2026-11-29. Why: the list of jobs shows what was last said of each wall, and for which revision.
const VERDICT: &str = "
ALTER TABLE job ADD COLUMN verdict INTEGER;
ALTER TABLE job ADD COLUMN verdict_of INTEGER;
";

/// 2026-11-29. Why: a change that takes ticks away, as of a spoiled piece or a removed opening, gives them back when it is undone.
const TICKS_CHANGED: &str = "
ALTER TABLE history ADD COLUMN ticks_changed TEXT;
";

/// 2026-11-29. Why: what was done on the wall is on record for good: entries are added and never changed, and no undo, copy or import touches them.
const RECORD: &str = "
CREATE TABLE record (
    job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE RESTRICT,
    number INTEGER NOT NULL,
    event TEXT NOT NULL,
    entry TEXT NOT NULL,
    PRIMARY KEY (job_id, number),
    UNIQUE (job_id, event)
) STRICT;
CREATE TRIGGER record_is_not_changed BEFORE UPDATE ON record BEGIN SELECT raise(ABORT, 'the record is only added to'); END;
CREATE TRIGGER record_is_not_cut BEFORE DELETE ON record BEGIN SELECT raise(ABORT, 'the record is only added to'); END;
";

/// 2026-11-30. Why: what people have practised comes back to them, and a lead sees who can do what.
const PRACTICE: &str = "
CREATE TABLE practice (
    id INTEGER PRIMARY KEY,
    who TEXT NOT NULL,
    at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    result TEXT NOT NULL
) STRICT;
CREATE INDEX practice_who ON practice (who, id);
";

/// 2026-11-30. Why: of a large job fewer changes are kept than of a small one, and how many are not kept any more is said.
const DROPPED: &str = "
ALTER TABLE job ADD COLUMN dropped INTEGER NOT NULL DEFAULT 0;
";

/// 2026-11-30. Why: beyond one's own machine people sign in, each may do what their role says, and who did what is known. What is secret stands here
/// by its hash.
const PEOPLE: &str = "
CREATE TABLE person (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE UNIQUE,
    login TEXT NOT NULL COLLATE NOCASE UNIQUE,
    password TEXT NOT NULL,
    role TEXT NOT NULL,
    epoch INTEGER NOT NULL DEFAULT 0,
    made TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    ended TEXT
) STRICT;
CREATE TABLE job_role (
    person_id INTEGER NOT NULL REFERENCES person (id),
    job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    role TEXT NOT NULL,
    PRIMARY KEY (person_id, job_id)
) STRICT;
CREATE TABLE session (
    key TEXT PRIMARY KEY,
    data TEXT NOT NULL,
    until INTEGER NOT NULL
) STRICT;
CREATE TABLE invitation (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    role TEXT NOT NULL,
    job_id INTEGER REFERENCES job (id) ON DELETE CASCADE,
    until TEXT NOT NULL,
    made_by TEXT NOT NULL
) STRICT;
CREATE TABLE share (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    code TEXT NOT NULL UNIQUE,
    job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    place TEXT,
    until TEXT NOT NULL,
    made_by TEXT NOT NULL
) STRICT;
CREATE TABLE audit (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    who TEXT NOT NULL,
    what TEXT NOT NULL,
    about TEXT NOT NULL
) STRICT;
ALTER TABLE history ADD COLUMN who TEXT NOT NULL DEFAULT '';
";

/// 2026-11-30. Why: jobs of a firm are put aside, found by a word, and follow its ways of building.
const FIRM: &str = "
ALTER TABLE job ADD COLUMN archived TEXT;
ALTER TABLE job ADD COLUMN words TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN follows TEXT COLLATE NOCASE;
UPDATE job SET words = coalesce((
    SELECT group_concat(line, char(10)) FROM (
        SELECT char(9) || coalesce(h.job ->> '$.wall.name', '') AS line
        UNION ALL SELECT char(9) || (value ->> '$.name') FROM json_each(h.job, '$.wall.corners')
        UNION ALL SELECT (value ->> '$.id') || char(9) || (value ->> '$.name') FROM json_each(h.job, '$.openings')
    )), '')
FROM history h
WHERE h.job_id = job.id AND h.position = job.position AND json_valid(h.job);
CREATE TABLE way (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE UNIQUE,
    way TEXT NOT NULL,
    changed TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    who TEXT NOT NULL
) STRICT;
";

/// 2026-12-01. Why: an answer to a scene that is sent again, because nobody heard that it arrived, is kept once.
const ANSWERED_ONCE: &str = "
ALTER TABLE practice ADD COLUMN answer TEXT;
CREATE UNIQUE INDEX practice_answer ON practice (answer) WHERE answer IS NOT NULL;
";

/// 2026-12-01. Why: a password that somebody has seen is not enough to come in, and whoever's account changes learns of it. What changed before
/// this has been told by whoever changed it.
const ACCOUNT: &str = "
ALTER TABLE person ADD COLUMN second TEXT;
ALTER TABLE person ADD COLUMN second_step INTEGER NOT NULL DEFAULT 0;
ALTER TABLE person ADD COLUMN seen INTEGER NOT NULL DEFAULT 0;
UPDATE person SET seen = (SELECT coalesce(max(id), 0) FROM audit);
CREATE TABLE spare_code (
    person_id INTEGER NOT NULL REFERENCES person (id),
    hash TEXT NOT NULL,
    PRIMARY KEY (person_id, hash)
) STRICT;
";

/// Version of the newest schema.
pub const NEWEST: i64 = 11;

/// All migrations.
pub fn all() -> Migrations<'static> {
    Migrations::new(vec![
        M::up(JOBS),
        M::up(BESIDE),
        M::up(VERDICT),
        M::up(TICKS_CHANGED),
        M::up(RECORD),
        M::up(PRACTICE),
        M::up(DROPPED),
        M::up(PEOPLE),
        M::up(FIRM),
        M::up(ANSWERED_ONCE),
        M::up(ACCOUNT),
    ])
}

#[cfg(test)]
mod tests {
    use rusqlite::Connection;

    #[test]
    fn migrations_run_from_nothing_to_the_newest() {
        let mut connection = Connection::open_in_memory().expect("opens");
        super::all().to_latest(&mut connection).expect("valid SQL");
        let version: i64 = connection.pragma_query_value(None, "user_version", |r| r.get(0)).expect("a number");
        assert_eq!(version, super::NEWEST);
    }

    #[test]
    fn a_file_of_the_first_schema_keeps_its_jobs_and_their_ticks() {
        let mut connection = Connection::open_in_memory().expect("opens");
        super::all().to_version(&mut connection, 1).expect("the first schema");
        let whole = r#"{"wall":{"name":"North"},"openings":[{},{}],"ticks":["W1/pan"],"bench":{"rolls":{"W1/pan":3}}}"#;
        for (id, doc) in [(1, whole), (2, r#"{"wall":{"name":"Bare"}}"#), (3, "no JSON")] {
            let rows = "INSERT INTO job (id, name, position, revision) VALUES (?1, 'a', 4, 7)";
            connection.execute(rows, [id]).expect("a job");
            let rows = "INSERT INTO history (job_id, position, label, job) VALUES (?1, 4, 'made', ?2)";
            connection.execute(rows, rusqlite::params![id, doc]).expect("its history");
        }
        super::all().to_latest(&mut connection).expect("migrates");
        let row = |id: i64| {
            let query = "SELECT wall, openings, ticked, revision FROM job WHERE id = ?1";
            let read = |r: &rusqlite::Row| Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?));
            connection.query_row(query, [id], read).expect("a row")
        };
        let of = |wall: &str, n: i64, ticked: &str| (wall.to_owned(), n, ticked.to_owned(), 7_i64);
        assert_eq!(row(1), of("North", 2, r#"{"ticks":["W1/pan"],"rolls":{"W1/pan":3}}"#));
        assert_eq!(row(2), of("Bare", 0, r#"{"ticks":[],"rolls":{}}"#));
        assert_eq!(row(3), of("", 0, r#"{"ticks":[],"rolls":{}}"#));
    }
}
