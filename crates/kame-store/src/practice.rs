//! What people have practised: one row for each scene that was answered.

use crate::{Store, StoreError};
use kame_core::practice::DrillResult;
use kame_core::problem::Problem;
use rusqlite::params;

/// Scenes of one person that are looked at, the newest.
pub const MOST_SCENES: i64 = 1000;
/// People whose progress is told.
pub const MOST_PEOPLE: i64 = 200;
/// The longest name.
pub const LONGEST_NAME: usize = 60;
/// The longest id of an answer.
const LONGEST_ID: usize = 64;

impl Store {
    /// Keeps what came of a scene; an answer that came before, by its `id`, is kept once.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for a name or an id that is none; what SQLite says.
    pub fn practised(&self, who: &str, id: Option<&str>, result: &DrillResult) -> Result<(), StoreError> {
        let who = who.trim();
        let n = who.chars().count();
        if n == 0 || n > LONGEST_NAME || who.chars().any(char::is_control) {
            let message = format!("found a name of {n} characters, expected 1 to {LONGEST_NAME} that can be printed");
            return Err(StoreError::Refused(vec![Problem::new("$.who", message)]));
        }
        if let Some(n) = id.map(|id| id.chars().count()).filter(|n| !(1..=LONGEST_ID).contains(n)) {
            let message = format!("found an id of {n} characters, expected 1 to {LONGEST_ID}: take a random one");
            return Err(StoreError::Refused(vec![Problem::new("$.id", message)]));
        }
        // Plain numbers and names can always be written.
        let text = serde_json::to_string(result).unwrap_or_default();
        self.write(|tx| {
            let insert = "INSERT INTO practice (who, result, answer) VALUES (?1, ?2, ?3) ON CONFLICT DO NOTHING";
            tx.execute(insert, params![who, text, id])?;
            Ok(())
        })
    }

    /// The scenes of everybody in their order, person by person; of a person the newest.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn practice(&self) -> Result<Vec<(String, Vec<DrillResult>)>, StoreError> {
        let db = self.readers.get()?;
        let mut people = db.prepare_cached("SELECT who FROM practice GROUP BY who ORDER BY max(id) DESC LIMIT ?1")?;
        let names = people.query_map([MOST_PEOPLE], |r| r.get::<_, String>(0))?.collect::<Result<Vec<_>, _>>()?;
        let mut newest = db.prepare_cached("SELECT result FROM practice WHERE who = ?1 ORDER BY id DESC LIMIT ?2")?;
        let mut out = Vec::with_capacity(names.len());
        for who in names {
            let rows = newest.query_map(params![who, MOST_SCENES], |r| r.get::<_, String>(0))?;
            // What a later version wrote and this one cannot read is passed over.
            let read = rows.filter_map(|text| serde_json::from_str(&text.ok()?).ok());
            let mut results: Vec<DrillResult> = read.collect();
            results.reverse();
            out.push((who, results));
        }
        Ok(out)
    }
}
