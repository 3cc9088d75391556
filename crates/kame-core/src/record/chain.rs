//! The chain: each entry carries the hash of the one before it and of its own content.

use super::event::Event;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};

/// What the first entry carries in place of a hash.
pub const START: &str = "0000000000000000000000000000000000000000000000000000000000000000";

/// An event as it stands in the record.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Entry {
    /// Its place in the record, from 1.
    pub number: u64,
    /// When the server took it, RFC 3339 in UTC.
    pub taken: String,
    /// What happened.
    pub event: Event,
    /// Hash of the entry before it; noughts for the first.
    pub before: String,
    /// SHA-256 of `before`, `number`, `taken` and `event`, each as JSON and followed by a line feed, in hexadecimal digits.
    pub hash: String,
}

/// Where a record is not whole.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, thiserror::Error)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[error("entry {number}: {why}")]
pub struct Broken {
    /// Which entry.
    pub number: u64,
    /// What is wrong with it.
    pub why: String,
}

/// What is said of a record that was looked through.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Whole {
    /// How many entries there are.
    pub entries: u64,
    /// Hash of the last one: written down elsewhere, it says that nothing was cut off the end.
    pub last: String,
    /// Where it is not whole; `null` where it is.
    pub broken: Option<Broken>,
}

/// JSON of texts, numbers and lists of them, which can always be written.
fn json<T: Serialize + ?Sized>(of: &T) -> String {
    serde_json::to_string(of).unwrap_or_default()
}

/// The JSON Schema of an entry.
pub fn entry_schema() -> serde_json::Value {
    schemars::schema_for!(Entry).to_value()
}

fn hash(number: u64, taken: &str, event: &Event, before: &str) -> String {
    let mut sum = Sha256::new();
    sum.update(format!("{}\n{number}\n{}\n{}\n", json(before), json(taken), json(event)));
    sum.finalize().iter().map(|b| format!("{b:02x}")).collect()
}

/// An entry behind the last of a record.
pub fn seal(last: Option<&Entry>, taken: &str, event: Event) -> Entry {
    let number = last.map_or(1, |e| e.number + 1);
    let before = last.map_or(START, |e| e.hash.as_str()).to_owned();
    let hash = hash(number, taken, &event, &before);
    Entry { number, taken: taken.to_owned(), event, before, hash }
}

/// Looks a record through: every number follows, every entry carries the hash before it and its own.
pub fn verify(entries: &[Entry]) -> Whole {
    let mut before = START.to_owned();
    let mut broken = None;
    for (i, e) in entries.iter().enumerate() {
        let number = i as u64 + 1;
        let no = |why: &str| Some(Broken { number, why: why.to_owned() });
        broken = if e.number != number {
            no(&format!(
                "stands where entry {number} should, and calls itself {}: one was taken out, put in or moved",
                e.number
            ))
        } else if e.before != before {
            no("does not follow from the entry before it: one was taken out, put in or changed")
        } else if e.hash != hash(e.number, &e.taken, &e.event, &e.before) {
            no("is not as it was written: something in it was changed")
        } else {
            None
        };
        if broken.is_some() {
            break;
        }
        before.clone_from(&e.hash);
    }
    Whole { entries: entries.len() as u64, last: before, broken }
}

/// The first entry whose photograph is not the one that was taken. `hash` says what lies under a name: the hash of it, `None` where nothing does.
pub fn broken_photo(entries: &[Entry], hash: impl Fn(&str) -> Option<String>) -> Option<Broken> {
    entries.iter().find_map(|e| {
        e.event.photos.iter().find_map(|photo| {
            let why = match hash(photo) {
                None => format!("its photograph {photo} is not there"),
                Some(found) if found != *photo => format!("its photograph {photo} was changed"),
                Some(_) => return None,
            };
            Some(Broken { number: e.number, why })
        })
    })
}
