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

/// All migrations, oldest first; forward only.
pub fn all() -> Migrations<'static> {
    Migrations::new(vec![M::up(JOBS)])
}

#[cfg(test)]
mod tests {
    #[test]
    fn migrations_run_from_nothing() {
        super::all().validate().expect("valid SQL");
    }
}
