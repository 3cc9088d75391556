//! What concerns all jobs of a firm: jobs put aside, finding one by a word, and the firm's ways of building.

use crate::{Store, StoreError, written};
use kame_core::job::{Job, Way};
use kame_core::problem::Problem;
use rusqlite::{OptionalExtension, Row, params};
use serde::Serialize;

/// Ways of building that a firm keeps.
pub const MOST_WAYS: i64 = 100;
/// Jobs that one search answers with, and places in each.
const MOST_FOUND: usize = 100;
const MOST_PLACES: usize = 5;

/// A job that was found by a word.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FoundJob {
    /// Number of the job.
    pub id: i64,
    /// Its name.
    pub name: String,
    /// True where it was put aside.
    pub archived: bool,
    /// Where the word stands in it; empty where it stands in its name alone.
    pub places: Vec<FoundPlace>,
}

/// A place in a job in whose name a word stands.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FoundPlace {
    /// Id of the opening or other feature; empty for a wall.
    pub place: String,
    /// What people call it.
    pub name: String,
}

/// A way of building as lists show it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct KeptWay {
    /// Its number.
    pub id: i64,
    /// What people call it.
    pub name: String,
    /// When it was last kept, RFC 3339, UTC.
    pub changed: String,
    /// Who kept it; empty where nobody signs in.
    pub who: String,
    /// Jobs that follow it, those put aside included.
    pub followers: i64,
}

/// Names by which a job is found, a line each: the id of a place, a tab, and its name; walls have no id.
pub(crate) fn words(job: &Job) -> String {
    let walls = job.wall.names().into_iter().map(|name| format!("\t{name}"));
    let places = job.openings.iter().map(|o| format!("{}\t{}", o.id, o.name));
    walls.chain(places).collect::<Vec<_>>().join("\n")
}

impl Store {
    /// Puts a job aside, or takes it back among the others. Nothing of it changes.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn archive(&self, id: i64, aside: bool, who: &str) -> Result<(), StoreError> {
        self.write(|tx| {
            crate::standing(tx, id)?;
            let row = "UPDATE job SET archived = CASE WHEN ?2 THEN strftime('%Y-%m-%dT%H:%M:%fZ') END WHERE id = ?1";
            tx.execute(row, params![id, aside])?;
            let what = if aside { "put a job aside" } else { "took a job back" };
            crate::people::log(tx, who, what, &format!("job {id}"))
        })
    }

    /// Jobs that one may see in whose name, or in the name or id of one of whose walls and places, every word of a text stands, however it is
    /// written. Those put aside come last.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn find(&self, text: &str, sees: impl Fn(i64) -> bool) -> Result<Vec<FoundJob>, StoreError> {
        let wanted: Vec<String> = text.to_lowercase().split_whitespace().map(str::to_owned).collect();
        if wanted.is_empty() {
            return Ok(Vec::new());
        }
        let connection = self.readers.get()?;
        let mut query = connection.prepare_cached(
            "SELECT id, name, archived IS NOT NULL, words FROM job WHERE deleted IS NULL ORDER BY archived IS NOT NULL, changed DESC, id DESC",
        )?;
        let rows =
            query.query_map([], |r| Ok((r.get(0)?, r.get::<_, String>(1)?, r.get(2)?, r.get::<_, String>(3)?)))?;
        let mut out = Vec::new();
        for row in rows {
            let (id, name, archived, words) = row?;
            if !sees(id) {
                continue;
            }
            let mut here = name.to_lowercase();
            // A place counts with the name of its job: "gable W2" finds one window of one job.
            let holds = |text: &str| wanted.iter().all(|w| text.contains(w.as_str()));
            let by_name = holds(&here);
            here.push('\n');
            let mut places = Vec::new();
            for line in words.lines() {
                let low = line.to_lowercase();
                let new = wanted.iter().any(|w| low.contains(w.as_str()));
                if places.len() < MOST_PLACES && new && holds(&format!("{here}{low}")) {
                    let (place, name) = line.split_once('\t').unwrap_or(("", line));
                    places.push(FoundPlace { place: place.to_owned(), name: name.to_owned() });
                }
            }
            if by_name || !places.is_empty() {
                out.push(FoundJob { id, name, archived, places });
            }
            if out.len() == MOST_FOUND {
                break;
            }
        }
        Ok(out)
    }

    /// The firm's ways of building by their names.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn ways(&self) -> Result<Vec<KeptWay>, StoreError> {
        let connection = self.readers.get()?;
        let mut query = connection.prepare_cached(&format!("SELECT {KEPT_WAY} FROM way w ORDER BY w.name"))?;
        let rows = query.query_map([], kept_way)?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// One way of building by its number or, where that is not known, by its name.
    ///
    /// # Errors
    /// [`StoreError::Damaged`] where it does not read.
    pub fn way(&self, id: Option<i64>, name: &str) -> Result<Option<Way>, StoreError> {
        let connection = self.readers.get()?;
        let row = "SELECT id, way FROM way WHERE id = ?1 OR (?1 IS NULL AND name = ?2)";
        let mut query = connection.prepare_cached(row)?;
        let found = query.query_row(params![id, name], |r| Ok((r.get::<_, i64>(0)?, r.get::<_, String>(1)?)));
        let Some((id, doc)) = found.optional()? else { return Ok(None) };
        let way = serde_json::from_str(&doc);
        way.map(Some).map_err(|e| StoreError::Damaged { id, why: format!("a way of building: {e}") })
    }

    /// Keeps a way of building under its name, in place of the one that has it where that is meant.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for a name that is taken, and for more than are kept.
    pub fn keep_way(&self, way: &Way, replace: bool, who: &str) -> Result<KeptWay, StoreError> {
        let wrong = way.problems("$");
        if !wrong.is_empty() {
            return Err(StoreError::Refused(wrong));
        }
        self.write(|tx| {
            let one = "SELECT id FROM way WHERE name = ?1";
            let there: Option<i64> = tx.query_row(one, [&way.name], |r| r.get(0)).optional()?;
            let many: i64 = tx.query_row("SELECT count(*) FROM way", [], |r| r.get(0))?;
            let no = |message: String| Err(StoreError::Refused(vec![Problem::new("$.name", message)]));
            if there.is_some() && !replace {
                return no(format!("a way \"{}\" is kept already: give another name, or say that it is to be replaced", way.name));
            }
            if there.is_none() && many >= MOST_WAYS {
                return no(format!("{many} ways are kept, the most there may be: forget one"));
            }
            tx.execute(
                "INSERT INTO way (name, way, who) VALUES (?1, ?2, ?3)
                 ON CONFLICT (name) DO UPDATE SET name = ?1, way = ?2, who = ?3, changed = strftime('%Y-%m-%dT%H:%M:%fZ')",
                params![way.name, written(way), who],
            )?;
            crate::people::log(tx, who, "kept a way of building", &way.name)?;
            Ok(tx.query_row(&format!("SELECT {KEPT_WAY} FROM way w WHERE w.name = ?1"), [&way.name], kept_way)?)
        })
    }

    /// Forgets a way of building. Jobs that followed it stay as they are.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn forget_way(&self, id: i64, who: &str) -> Result<(), StoreError> {
        self.write(|tx| {
            let name = "DELETE FROM way WHERE id = ?1 RETURNING name";
            let gone: Option<String> = tx.query_row(name, [id], |r| r.get(0)).optional()?;
            crate::people::log(tx, who, "forgot a way of building", &gone.ok_or(StoreError::NotFound { id })?)
        })
    }
}

const KEPT_WAY: &str =
    "w.id, w.name, w.changed, w.who, (SELECT count(*) FROM job j WHERE j.follows = w.name AND j.deleted IS NULL)";

fn kept_way(r: &Row) -> rusqlite::Result<KeptWay> {
    Ok(KeptWay { id: r.get(0)?, name: r.get(1)?, changed: r.get(2)?, who: r.get(3)?, followers: r.get(4)? })
}
