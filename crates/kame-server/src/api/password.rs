//! Passwords: what may be one, how they are kept, and whether one is right.

use super::jobs::stored;
use super::me::{AskedFrom, over_tls, person};
use crate::App;
use crate::problem::Fault;
use crate::who::{Who, secret};
use argon2::Argon2;
use argon2::password_hash::phc::PasswordHash;
use argon2::password_hash::{PasswordHasher, PasswordVerifier};
use kame_store::Person;
use std::sync::OnceLock;

/// Least letters of a password.
const SHORTEST: usize = 12;
/// Most letters of a password.
pub const LONGEST: usize = 200;
/// How hard a password is to guess at least: more than ten thousand million tries.
const LEAST_SCORE: zxcvbn::Score = zxcvbn::Score::Four;

/// Hashing takes time and memory on purpose: only so much of it at once.
async fn hashing<T: Send + 'static>(work: impl FnOnce() -> Result<T, Fault> + Send + 'static) -> Result<T, Fault> {
    static PLACES: tokio::sync::Semaphore = tokio::sync::Semaphore::const_new(2);
    let _place = PLACES.acquire().await.map_err(|e| Fault::Internal(e.to_string()))?;
    tokio::task::spawn_blocking(work).await.unwrap_or_else(|e| Err(Fault::Internal(e.to_string())))
}

fn hash(password: &str) -> Result<String, Fault> {
    let made = Argon2::default().hash_password(password.as_bytes());
    made.map(|h| h.to_string()).map_err(|e| Fault::Internal(format!("hashing: {e}")))
}

/// What is kept of a password.
pub async fn hashed(password: String) -> Result<String, Fault> {
    hashing(move || hash(&password)).await
}

/// Whether a password is the one of a hash. Where there is none it takes as long.
pub async fn is_right(password: String, kept: Option<String>) -> Result<bool, Fault> {
    hashing(move || matches_hash(&password, kept.as_deref())).await
}

/// Who asks, once they said their password rightly.
pub async fn said_again(app: &App, who: &Who, from: &AskedFrom, password: &str) -> Result<Person, Fault> {
    over_tls(app, from)?;
    let me = person(who)?.clone();
    app.doors.tries(&me.login, from.ip)?;
    let login = me.login.clone();
    let known = stored(app, move |s| Ok(s.credentials(&login)?)).await?.map(|c| c.password);
    if is_right(password.to_owned(), known).await? { Ok(me) } else { Err(Fault::WrongPassword) }
}

fn matches_hash(password: &str, kept: Option<&str>) -> Result<bool, Fault> {
    static NOBODY: OnceLock<String> = OnceLock::new();
    let nobody = match NOBODY.get() {
        Some(known) => known,
        None => {
            let made = hash(&secret())?;
            NOBODY.get_or_init(|| made)
        }
    };
    let text = kept.unwrap_or(nobody);
    let parsed = PasswordHash::new(text).map_err(|e| Fault::Internal(format!("a kept password: {e}")))?;
    Ok(Argon2::default().verify_password(password.as_bytes(), &parsed).is_ok() && kept.is_some())
}

/// Why a text is no password for who signs in so, where it is none.
pub fn not_a_password(password: &str, login: &str) -> Option<String> {
    let letters = password.chars().count();
    if !(SHORTEST..=LONGEST).contains(&letters) {
        return Some(format!(
            "found {letters} letters, expected {SHORTEST} to {LONGEST}: a few words in a row are good"
        ));
    }
    // Held against the passwords that leaked most often, words, names, keys beside each other, dates and repetitions.
    let guesses = zxcvbn::zxcvbn(password, &[login, "kame"]);
    let own = login.chars().count() > 3 && password.to_lowercase().contains(&login.to_lowercase());
    (own || guesses.score() < LEAST_SCORE)
        .then(|| "that is guessed soon: take words that nobody expects in a row".into())
}
