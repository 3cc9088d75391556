//! What belongs to one person's account: the second factor, what changed with it that they have not seen, and everything that is kept of them.

use crate::people::log;
use crate::photo::hash_of;
use crate::{Logged, Store, StoreError};
use rusqlite::{OptionalExtension, Row, params};

/// Changes that are told at once; the log has all.
const TOLD_AT_ONCE: u32 = 20;

/// Lines of the log about one person: what they did to their own account, what others did to it, and who tried to come in as them.
const ABOUT: &str = "(who = p.name AND what IN ('changed a password', 'ended all sessions', 'set a second factor', 'took a second factor away', 'used a spare code'))
    OR (what IN ('changed a role', 'took a second factor away') AND who <> p.name
        AND (about = p.name OR substr(about, 1, length(p.name) + 1) = p.name || ':' OR substr(about, 1, length(p.name) + 8) = p.name || ' on job '))
    OR (what = 'did not sign in' AND about = p.login COLLATE NOCASE)";

/// What the second factor of somebody is held against.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SecondFactor {
    /// The secret that their telephone has too, base 32.
    pub secret: String,
    /// The newest step of half a minute whose figures were used.
    pub step: i64,
}

fn line(r: &Row) -> Result<Logged, rusqlite::Error> {
    Ok(Logged { id: r.get(0)?, at: r.get(1)?, who: r.get(2)?, what: r.get(3)?, about: r.get(4)? })
}

impl Store {
    /// The second factor of somebody, where they have one.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn second_factor(&self, id: i64) -> Result<Option<SecondFactor>, StoreError> {
        let query = "SELECT second, second_step FROM person WHERE id = ?1 AND second IS NOT NULL";
        let read = |r: &Row| Ok(SecondFactor { secret: r.get(0)?, step: r.get(1)? });
        Ok(self.readers.get()?.query_row(query, [id], read).optional()?)
    }

    /// Gives somebody a second factor, of which the figures of a step were used, with spare codes that are good once each; this ends all sessions,
    /// and says with which number new ones begin.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn set_second_factor(
        &self,
        id: i64,
        new: &SecondFactor,
        spare: &[String],
        by: &str,
    ) -> Result<i64, StoreError> {
        let hashes: Vec<String> = spare.iter().map(|code| hash_of(code.as_bytes())).collect();
        self.write(|tx| {
            let row =
                "UPDATE person SET second = ?2, second_step = ?3, epoch = epoch + 1 WHERE id = ?1 RETURNING epoch";
            let epoch = tx.query_row(row, params![id, new.secret, new.step], |r| r.get(0))?;
            tx.execute("DELETE FROM spare_code WHERE person_id = ?1", [id])?;
            for hash in &hashes {
                tx.execute("INSERT INTO spare_code VALUES (?1, ?2)", params![id, hash])?;
            }
            log(tx, by, "set a second factor", "")?;
            Ok(epoch)
        })
    }

    /// Takes the second factor of somebody away; says whether there was one.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn drop_second_factor(&self, id: i64, by: &str) -> Result<bool, StoreError> {
        self.write(|tx| {
            let row = "UPDATE person SET second = NULL WHERE id = ?1 AND second IS NOT NULL RETURNING name";
            let Some(name) = tx.query_row(row, [id], |r| r.get::<_, String>(0)).optional()? else { return Ok(false) };
            tx.execute("DELETE FROM spare_code WHERE person_id = ?1", [id])?;
            log(tx, by, "took a second factor away", if name == by { "" } else { &name })?;
            Ok(true)
        })
    }

    /// Uses the figures of a step up: true where neither they nor newer ones were used before.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn use_step(&self, id: i64, step: i64) -> Result<bool, StoreError> {
        let row = "UPDATE person SET second_step = ?2 WHERE id = ?1 AND second IS NOT NULL AND second_step < ?2";
        self.write(|tx| Ok(tx.execute(row, [id, step])? > 0))
    }

    /// Uses a spare code up: true where it was one that was not used before.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn use_spare_code(&self, id: i64, code: &str) -> Result<bool, StoreError> {
        self.write(|tx| {
            let row = "DELETE FROM spare_code WHERE person_id = ?1 AND hash = ?2";
            let used = tx.execute(row, params![id, hash_of(code.as_bytes())])? > 0;
            if used {
                let name: String = tx.query_row("SELECT name FROM person WHERE id = ?1", [id], |r| r.get(0))?;
                log(tx, &name, "used a spare code", "")?;
            }
            Ok(used)
        })
    }

    /// How many spare codes of somebody are left.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn spare_codes(&self, id: i64) -> Result<u32, StoreError> {
        let query = "SELECT count(*) FROM spare_code WHERE person_id = ?1";
        Ok(self.readers.get()?.query_row(query, [id], |r| r.get(0))?)
    }

    /// What changed with somebody's account since they last said that they saw it, the oldest first.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn unseen(&self, id: i64) -> Result<Vec<Logged>, StoreError> {
        let query = format!(
            "SELECT a.id, at, who, what, about FROM audit a, person p
             WHERE p.id = ?1 AND a.id > p.seen AND ({ABOUT}) ORDER BY a.id LIMIT {TOLD_AT_ONCE}"
        );
        let connection = self.readers.get()?;
        let mut query = connection.prepare_cached(&query)?;
        Ok(query.query_map([id], line)?.collect::<Result<_, _>>()?)
    }

    /// They saw what changed up to a line of the log.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn saw(&self, id: i64, line: i64) -> Result<(), StoreError> {
        let row =
            "UPDATE person SET seen = min(?2, (SELECT coalesce(max(id), 0) FROM audit)) WHERE id = ?1 AND seen < ?2";
        self.write(|tx| {
            tx.execute(row, [id, line])?;
            Ok(())
        })
    }

    /// Every line of the log that somebody did or that is about them, the newest first.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn log_of(&self, id: i64) -> Result<Vec<Logged>, StoreError> {
        let query = format!(
            "SELECT a.id, at, who, what, about FROM audit a, person p WHERE p.id = ?1 AND (who = p.name OR {ABOUT}) ORDER BY a.id DESC"
        );
        let connection = self.readers.get()?;
        let mut query = connection.prepare_cached(&query)?;
        Ok(query.query_map([id], line)?.collect::<Result<_, _>>()?)
    }

    /// How many entries of records and of histories bear somebody's name.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn named_in(&self, name: &str) -> Result<(i64, i64), StoreError> {
        let connection = self.readers.get()?;
        let count = |query: &str| connection.query_row(query, [name], |r| r.get(0));
        Ok((
            count("SELECT count(*) FROM record WHERE entry ->> '$.event.who' = ?1")?,
            count("SELECT count(*) FROM history WHERE who = ?1")?,
        ))
    }
}
