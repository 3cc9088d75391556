//! Who may do what: people with their roles in the firm and on single jobs, their sessions, invitations, links to one job, and what was done with all
//! of it. Passwords come here hashed; codes and sessions are kept by their hash, so that who reads the file cannot use them.

use crate::photo::hash_of;
use crate::{Store, StoreError};
use kame_core::problem::Problem;
use rusqlite::{Connection, OptionalExtension, Row, params};
use serde::{Deserialize, Serialize};

/// People of a firm, those who left included.
pub const MOST_PERSONS: i64 = 500;
/// Invitations and links that are open at once.
pub const MOST_OPEN: i64 = 200;
/// Lines of the log that are read at once.
pub const AUDIT_PAGE: i64 = 500;
/// Lines of the log that are kept.
const AUDIT_KEPT: i64 = 100_000;

/// What somebody may do, each all that stands before it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = PersonRole))]
#[serde(rename_all = "kebab-case")]
pub enum Role {
    /// Sees nothing but jobs on which they have a role of their own.
    None,
    /// Reads, and has things worked out.
    Viewer,
    /// Writes down what is done on the wall and at the bench.
    Crew,
    /// Changes jobs.
    Builder,
    /// Says who may do what.
    Owner,
}

impl Role {
    fn word(self) -> &'static str {
        match self {
            Self::None => "none",
            Self::Viewer => "viewer",
            Self::Crew => "crew",
            Self::Builder => "builder",
            Self::Owner => "owner",
        }
    }

    fn read(word: &str) -> Self {
        [Self::Viewer, Self::Crew, Self::Builder, Self::Owner]
            .into_iter()
            .find(|r| r.word() == word)
            .unwrap_or(Self::None)
    }
}

/// Somebody who signs in.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Person {
    /// Its number in the database.
    pub id: i64,
    /// What stands in the record and the history.
    pub name: String,
    /// What they sign in with.
    pub login: String,
    /// What they may do in the firm.
    pub role: Role,
    /// When they came, RFC 3339, UTC.
    pub made: String,
    /// When they left; `null` while they are here.
    pub ended: Option<String>,
    /// What they may do on single jobs where that is otherwise.
    pub jobs: Vec<JobRole>,
    /// True where they say figures of their telephone besides the password.
    pub second_factor: bool,
}

/// What somebody may do on a job.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct JobRole {
    /// Number of the job.
    pub job: i64,
    /// What they may do on it.
    pub role: Role,
}

impl Person {
    /// What they may do on a job, or in the firm where none is meant.
    pub fn may(&self, job: Option<i64>) -> Role {
        if self.role == Role::Owner {
            return Role::Owner;
        }
        job.and_then(|j| self.jobs.iter().find(|r| r.job == j)).map_or(self.role, |r| r.role)
    }
}

/// What it takes to sign somebody in.
#[derive(Clone, Debug)]
pub struct Credentials {
    /// Number of the person.
    pub id: i64,
    /// The hash of their password.
    pub password: String,
    /// Sessions of another number have ended.
    pub epoch: i64,
}

/// A new person, with a hashed password.
#[derive(Clone, Debug)]
pub struct NewPerson {
    /// What stands in the record.
    pub name: String,
    /// What they sign in with.
    pub login: String,
    /// Hash of the password.
    pub password: String,
}

/// An invitation that is open, without its code.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Invitation {
    /// Its number in the database.
    pub id: i64,
    /// What who comes may do.
    pub role: Role,
    /// On which job alone; `null` for the firm.
    pub job: Option<i64>,
    /// Until when, RFC 3339, UTC.
    pub until: String,
    /// Who invites.
    pub by: String,
}

/// A link to one job, without its code.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Share {
    /// Its number in the database.
    pub id: i64,
    /// Number of the job.
    pub job: i64,
    /// The opening whose steps it shows; `null` for all of the job.
    pub place: Option<String>,
    /// Until when, RFC 3339, UTC.
    pub until: String,
    /// Who gave it.
    pub by: String,
}

/// A line of the log.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Logged {
    /// Its number in the database.
    pub id: i64,
    /// When it was done, RFC 3339, UTC.
    pub at: String,
    /// Who did it; empty where nobody was signed in.
    pub who: String,
    /// What was done.
    pub what: String,
    /// The person, job or link that it was done with.
    pub about: String,
}

const PERSON: &str = "SELECT id, name, login, role, made, ended, second IS NOT NULL FROM person";

fn person_of(r: &Row) -> Result<Person, rusqlite::Error> {
    let role: String = r.get(3)?;
    let (id, name, login) = (r.get(0)?, r.get(1)?, r.get(2)?);
    let (made, ended, second_factor) = (r.get(4)?, r.get(5)?, r.get(6)?);
    Ok(Person { id, name, login, role: Role::read(&role), made, ended, jobs: Vec::new(), second_factor })
}

fn with_jobs(connection: &Connection, person: Person) -> Result<Person, StoreError> {
    let mut query =
        connection.prepare_cached("SELECT job_id, role FROM job_role WHERE person_id = ?1 ORDER BY job_id")?;
    let rows = query.query_map([person.id], |r| Ok((r.get(0)?, r.get::<_, String>(1)?)))?;
    let jobs = rows.map(|r| r.map(|(job, role)| JobRole { job, role: Role::read(&role) })).collect::<Result<_, _>>()?;
    Ok(Person { jobs, ..person })
}

fn refused<T>(path: &str, why: impl Into<String>) -> Result<T, StoreError> {
    Err(StoreError::Refused(vec![Problem::new(path, why.into())]))
}

pub(crate) fn log(tx: &Connection, who: &str, what: &str, about: &str) -> Result<(), StoreError> {
    tx.execute("INSERT INTO audit (who, what, about) VALUES (?1, ?2, ?3)", [who, what, about])?;
    tx.execute("DELETE FROM audit WHERE id <= (SELECT max(id) FROM audit) - ?1", [AUDIT_KEPT])?;
    Ok(())
}

fn owners(tx: &Connection) -> Result<i64, StoreError> {
    Ok(tx.query_row("SELECT count(*) FROM person WHERE role = 'owner' AND ended IS NULL", [], |r| r.get(0))?)
}

impl Store {
    /// Everybody, those who left last.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn people(&self) -> Result<Vec<Person>, StoreError> {
        let connection = self.readers.get()?;
        let mut query = connection.prepare(&format!("{PERSON} ORDER BY ended IS NOT NULL, name, id"))?;
        let all = query.query_map([], person_of)?.collect::<Result<Vec<_>, _>>()?;
        all.into_iter().map(|p| with_jobs(&connection, p)).collect()
    }

    /// True where nobody signs in yet.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn has_nobody(&self) -> Result<bool, StoreError> {
        Ok(self.readers.get()?.query_row("SELECT NOT EXISTS (SELECT 1 FROM person)", [], |r| r.get(0))?)
    }

    /// What it takes to sign somebody in who is still here.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn credentials(&self, login: &str) -> Result<Option<Credentials>, StoreError> {
        let query = "SELECT id, password, epoch FROM person WHERE login = ?1 COLLATE NOCASE AND ended IS NULL";
        let read = |r: &Row| Ok(Credentials { id: r.get(0)?, password: r.get(1)?, epoch: r.get(2)? });
        Ok(self.readers.get()?.query_row(query, [login], read).optional()?)
    }

    /// Somebody whose session has the number that their sessions have now; `None` where they left or signed out everywhere.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn person_in(&self, id: i64, epoch: i64) -> Result<Option<Person>, StoreError> {
        let connection = self.readers.get()?;
        let mut query =
            connection.prepare_cached(&format!("{PERSON} WHERE id = ?1 AND epoch = ?2 AND ended IS NULL"))?;
        let found = query.query_row([id, epoch], person_of).optional()?;
        found.map(|p| with_jobs(&connection, p)).transpose()
    }

    /// An invitation that a code opens once until `days` are over.
    ///
    /// # Errors
    /// [`StoreError::Refused`] where too many are open.
    pub fn invite(
        &self,
        code: &str,
        role: Role,
        job: Option<i64>,
        days: u32,
        by: &str,
    ) -> Result<Invitation, StoreError> {
        self.write(|tx| {
            tx.execute("DELETE FROM invitation WHERE until < strftime('%Y-%m-%dT%H:%M:%fZ')", [])?;
            let open: i64 = tx.query_row("SELECT count(*) FROM invitation", [], |r| r.get(0))?;
            if open >= MOST_OPEN {
                return refused("$", format!("{open} invitations are open, the most there may be: take some back"));
            }
            let row = "INSERT INTO invitation (code, role, job_id, until, made_by)
                       VALUES (?1, ?2, ?3, strftime('%Y-%m-%dT%H:%M:%fZ', 'now', ?4), ?5)";
            tx.execute(row, params![hash_of(code.as_bytes()), role.word(), job, format!("+{days} days"), by])?;
            let id = tx.last_insert_rowid();
            log(
                tx,
                by,
                "invited",
                &format!("{}{}", role.word(), job.map_or(String::new(), |j| format!(" of job {j}"))),
            )?;
            invitation(tx, "id = ?1", &id.to_string())?.ok_or(StoreError::Busy)
        })
    }

    /// Invitations that are open.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn invitations(&self) -> Result<Vec<Invitation>, StoreError> {
        let connection = self.readers.get()?;
        let mut query = connection.prepare_cached(&format!("{INVITATION} ORDER BY until"))?;
        Ok(query.query_map([], invitation_of)?.collect::<Result<_, _>>()?)
    }

    /// Takes an invitation back.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn take_back_invitation(&self, id: i64, by: &str) -> Result<(), StoreError> {
        self.write(|tx| {
            if tx.execute("DELETE FROM invitation WHERE id = ?1", [id])? > 0 {
                log(tx, by, "took an invitation back", &id.to_string())?;
            }
            Ok(())
        })
    }

    /// Somebody comes by an invitation, which is used up by it.
    ///
    /// # Errors
    /// [`StoreError::Refused`] where the code opens nothing, the login is taken, or too many are here.
    pub fn join(&self, code: &str, new: &NewPerson) -> Result<Person, StoreError> {
        self.write(|tx| {
            let Some(invited) = invitation(tx, "code = ?1", &hash_of(code.as_bytes()))? else {
                log(tx, "", "a code that opens nothing", &new.login)?;
                return Ok(Err(
                    "the code opens nothing: it was used already, is past its day, or is mistyped. Ask for another",
                ));
            };
            let many: i64 = tx.query_row("SELECT count(*) FROM person", [], |r| r.get(0))?;
            if many >= MOST_PERSONS {
                return Ok(Err("there are as many people as there may be"));
            }
            let taken =
                "SELECT EXISTS (SELECT 1 FROM person WHERE login = ?1 COLLATE NOCASE OR name = ?2 COLLATE NOCASE)";
            if tx.query_row(taken, [&new.login, &new.name], |r| r.get(0))? {
                return Ok(Err("somebody has that name or signs in with it already: take another"));
            }
            let of_firm = if invited.job.is_some() { Role::None } else { invited.role };
            let row = "INSERT INTO person (name, login, password, role, seen)
                       VALUES (?1, ?2, ?3, ?4, (SELECT coalesce(max(id), 0) FROM audit))";
            tx.execute(row, params![new.name, new.login, new.password, of_firm.word()])?;
            let id = tx.last_insert_rowid();
            if let Some(job) = invited.job {
                tx.execute("INSERT INTO job_role VALUES (?1, ?2, ?3)", params![id, job, invited.role.word()])?;
            }
            tx.execute("DELETE FROM invitation WHERE id = ?1", [invited.id])?;
            log(tx, &new.name, "joined", invited.role.word())?;
            let made = tx.query_row(&format!("{PERSON} WHERE id = ?1"), [id], person_of)?;
            Ok(Ok(with_jobs(tx, made)?))
        })?
        .or_else(|why: &str| refused("$", why))
    }

    /// Says what somebody may do, in the firm or on a job; without a role the one on the job is that of the firm again. Their sessions go on with it.
    ///
    /// # Errors
    /// [`StoreError::Refused`] where nobody would be left who says who may do what.
    pub fn set_role(&self, id: i64, job: Option<i64>, role: Option<Role>, by: &str) -> Result<(), StoreError> {
        self.write(|tx| {
            let Some(before) = tx.query_row(&format!("{PERSON} WHERE id = ?1"), [id], person_of).optional()? else {
                return refused("$", format!("there is no person {id}"));
            };
            if let Some(job) = job {
                crate::standing(tx, job)?;
            }
            match (job, role) {
                (Some(job), None) => {
                    tx.execute("DELETE FROM job_role WHERE person_id = ?1 AND job_id = ?2", [id, job])?;
                }
                (Some(_), Some(Role::Owner)) => return refused("$.role", "owners are owners of the firm"),
                (Some(job), Some(role)) => {
                    let row = "INSERT INTO job_role VALUES (?1, ?2, ?3) ON CONFLICT DO UPDATE SET role = excluded.role";
                    tx.execute(row, params![id, job, role.word()])?;
                }
                (None, None) => return refused("$.role", "say which role"),
                (None, Some(role)) => {
                    tx.execute("UPDATE person SET role = ?2 WHERE id = ?1", params![id, role.word()])?;
                }
            }
            if owners(tx)? == 0 {
                return refused("$.role", "somebody has to say who may do what: make another person owner first");
            }
            let word = role.map_or("as in the firm", Role::word);
            let about =
                job.map_or(format!("{}: {word}", before.name), |j| format!("{} on job {j}: {word}", before.name));
            log(tx, by, "changed a role", &about)
        })
    }

    /// Somebody leaves: they sign in no more and their sessions end. What they wrote down stays.
    ///
    /// # Errors
    /// [`StoreError::Refused`] where nobody would be left who says who may do what.
    pub fn offboard(&self, id: i64, by: &str) -> Result<(), StoreError> {
        self.write(|tx| {
            let end = "UPDATE person SET ended = strftime('%Y-%m-%dT%H:%M:%fZ'), epoch = epoch + 1 WHERE id = ?1 AND ended IS NULL";
            if tx.execute(end, [id])? == 0 {
                return refused("$", format!("there is no person {id} who is still here"));
            }
            // With what they signed in is nobody's any more.
            tx.execute("UPDATE person SET password = '', second = NULL WHERE id = ?1", [id])?;
            tx.execute("DELETE FROM spare_code WHERE person_id = ?1", [id])?;
            if owners(tx)? == 0 {
                return refused("$", "somebody has to say who may do what: make another person owner first");
            }
            let name: String = tx.query_row("SELECT name FROM person WHERE id = ?1", [id], |r| r.get(0))?;
            log(tx, by, "ended", &name)
        })
    }

    /// Ends all sessions of somebody, and says with which number new ones begin.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn end_sessions(&self, id: i64, by: &str) -> Result<i64, StoreError> {
        self.write(|tx| {
            let epoch =
                tx.query_row("UPDATE person SET epoch = epoch + 1 WHERE id = ?1 RETURNING epoch", [id], |r| r.get(0))?;
            log(tx, by, "ended all sessions", "")?;
            Ok(epoch)
        })
    }

    /// Another password, which ends all sessions; says with which number new ones begin.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn set_password(&self, id: i64, password: &str, by: &str) -> Result<i64, StoreError> {
        self.write(|tx| {
            let row = "UPDATE person SET password = ?2, epoch = epoch + 1 WHERE id = ?1 RETURNING epoch";
            let epoch = tx.query_row(row, params![id, password], |r| r.get(0))?;
            log(tx, by, "changed a password", "")?;
            Ok(epoch)
        })
    }

    /// A link to a job that a code opens until `days` are over.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Refused`] where too many are open.
    pub fn share(&self, code: &str, job: i64, place: Option<&str>, days: u32, by: &str) -> Result<Share, StoreError> {
        self.write(|tx| {
            crate::standing(tx, job)?;
            tx.execute("DELETE FROM share WHERE until < strftime('%Y-%m-%dT%H:%M:%fZ')", [])?;
            let open: i64 = tx.query_row("SELECT count(*) FROM share", [], |r| r.get(0))?;
            if open >= MOST_OPEN {
                return refused("$", format!("{open} links are open, the most there may be: take some back"));
            }
            let row = "INSERT INTO share (code, job_id, place, until, made_by)
                       VALUES (?1, ?2, ?3, strftime('%Y-%m-%dT%H:%M:%fZ', 'now', ?4), ?5)";
            tx.execute(row, params![hash_of(code.as_bytes()), job, place, format!("+{days} days"), by])?;
            let id = tx.last_insert_rowid();
            log(tx, by, "shared", &format!("job {job}{}", place.map_or(String::new(), |p| format!(", {p}"))))?;
            Ok(tx.query_row(&format!("{SHARE} WHERE id = ?1"), [id], share_of)?)
        })
    }

    /// What a code opens, where it still does.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn shared(&self, code: &str) -> Result<Option<Share>, StoreError> {
        let query = format!("{SHARE} WHERE code = ?1 AND until > strftime('%Y-%m-%dT%H:%M:%fZ')");
        Ok(self.readers.get()?.query_row(&query, [hash_of(code.as_bytes())], share_of).optional()?)
    }

    /// A link by its number, where it still opens something.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn share_of(&self, id: i64) -> Result<Option<Share>, StoreError> {
        let query = format!("{SHARE} WHERE id = ?1 AND until > strftime('%Y-%m-%dT%H:%M:%fZ')");
        Ok(self.readers.get()?.query_row(&query, [id], share_of).optional()?)
    }

    /// Links to a job that are open.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn shares(&self, job: i64) -> Result<Vec<Share>, StoreError> {
        let connection = self.readers.get()?;
        let query = format!("{SHARE} WHERE job_id = ?1 AND until > strftime('%Y-%m-%dT%H:%M:%fZ') ORDER BY until");
        let mut query = connection.prepare_cached(&query)?;
        Ok(query.query_map([job], share_of)?.collect::<Result<_, _>>()?)
    }

    /// Takes a link to a job back.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn take_back_share(&self, job: i64, id: i64, by: &str) -> Result<(), StoreError> {
        self.write(|tx| {
            if tx.execute("DELETE FROM share WHERE id = ?1 AND job_id = ?2", [id, job])? > 0 {
                log(tx, by, "took a link back", &format!("job {job}"))?;
            }
            Ok(())
        })
    }

    /// Writes a line of the log.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn log(&self, who: &str, what: &str, about: &str) -> Result<(), StoreError> {
        self.write(|tx| log(tx, who, what, about))
    }

    /// The log, the newest first; lines before a number where one is given.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn audit(&self, before: Option<i64>) -> Result<Vec<Logged>, StoreError> {
        let connection = self.readers.get()?;
        let mut query = connection
            .prepare_cached("SELECT id, at, who, what, about FROM audit WHERE id < ?1 ORDER BY id DESC LIMIT ?2")?;
        let rows = query.query_map([before.unwrap_or(i64::MAX), AUDIT_PAGE], |r| {
            Ok(Logged { id: r.get(0)?, at: r.get(1)?, who: r.get(2)?, what: r.get(3)?, about: r.get(4)? })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Keeps a session until a second since 1970.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn keep_session(&self, key: &str, data: &str, until: i64) -> Result<(), StoreError> {
        self.write(|tx| {
            tx.execute("DELETE FROM session WHERE until < CAST(strftime('%s') AS INTEGER)", [])?;
            let row = "INSERT INTO session VALUES (?1, ?2, ?3) ON CONFLICT DO UPDATE SET data = excluded.data, until = excluded.until";
            tx.execute(row, params![hash_of(key.as_bytes()), data, until])?;
            Ok(())
        })
    }

    /// A session that has not ended, with its end.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn session(&self, key: &str) -> Result<Option<(String, i64)>, StoreError> {
        let query = "SELECT data, until FROM session WHERE key = ?1 AND until >= CAST(strftime('%s') AS INTEGER)";
        let connection = self.readers.get()?;
        let mut query = connection.prepare_cached(query)?;
        Ok(query.query_row([hash_of(key.as_bytes())], |r| Ok((r.get(0)?, r.get(1)?))).optional()?)
    }

    /// Ends a session.
    ///
    /// # Errors
    /// What SQLite says.
    pub fn end_session(&self, key: &str) -> Result<(), StoreError> {
        self.write(|tx| {
            tx.execute("DELETE FROM session WHERE key = ?1", [hash_of(key.as_bytes())])?;
            Ok(())
        })
    }
}

const INVITATION: &str =
    "SELECT id, role, job_id, until, made_by FROM invitation WHERE until > strftime('%Y-%m-%dT%H:%M:%fZ')";

fn invitation_of(r: &Row) -> Result<Invitation, rusqlite::Error> {
    let role: String = r.get(1)?;
    Ok(Invitation { id: r.get(0)?, role: Role::read(&role), job: r.get(2)?, until: r.get(3)?, by: r.get(4)? })
}

fn invitation(connection: &Connection, which: &str, value: &str) -> Result<Option<Invitation>, StoreError> {
    Ok(connection.query_row(&format!("{INVITATION} AND {which}"), [value], invitation_of).optional()?)
}

const SHARE: &str = "SELECT id, job_id, place, until, made_by FROM share";

fn share_of(r: &Row) -> Result<Share, rusqlite::Error> {
    Ok(Share { id: r.get(0)?, job: r.get(1)?, place: r.get(2)?, until: r.get(3)?, by: r.get(4)? })
}
