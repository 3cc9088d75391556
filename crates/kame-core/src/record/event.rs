//! What a device says was done, and what of it is taken.

use super::number::not_a_reading;
use super::test::{SeenWater, TestKind, not_seen_so};
use crate::problem::Problem;
use crate::range::{NAME, Range};
use serde::{Deserialize, Serialize};

/// Characters of a name or initials.
pub const WHO: Range<usize> =
    Range { what: "the length of who did it in characters", least: 1, most: 60, remedy: "write a name or initials" };
/// Characters of a note.
pub const NOTE: Range<usize> =
    Range { what: "the length of a note in characters", least: 0, most: 1000, remedy: "split it into two notes" };
/// Readings of one check.
pub const MOST_READINGS: usize = 24;
/// Events that are taken at once.
pub const MOST_AT_ONCE: usize = 500;
/// Photographs of one event.
pub const MOST_PHOTOS: usize = 12;
/// Something that was done, measured or seen, as the device says it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Event {
    /// Made by the device, UUID of version 7: an event that is sent twice is taken once.
    pub id: String,
    /// Name or initials of who did it.
    pub who: String,
    /// When, by the device's clock, RFC 3339 in UTC.
    pub at: String,
    /// Id of the opening or other feature; empty for the walls themselves.
    #[serde(default)]
    pub place: String,
    /// Id of the step; empty where it is about no step.
    #[serde(default)]
    pub step: String,
    /// Revision of the job that the device had.
    pub revision: i64,
    /// What happened.
    pub what: What,
    /// A note in the words of whoever did it.
    #[serde(default)]
    pub note: String,
    /// SHA-256 of photographs that belong to it, 64 hexadecimal digits each.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub photos: Vec<String>,
}

/// What happened.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "is", rename_all = "snake_case", deny_unknown_fields)]
pub enum What {
    /// A step is in hand.
    Begun,
    /// A step is done.
    Done,
    /// A step is left out; the note says why.
    LeftOut,
    /// A step was done other than planned; the note says how.
    Otherwise,
    /// Work stops here; the note says how it was left.
    Stopped,
    /// A check was read.
    Reading {
        /// Id of the check in the plan.
        check: String,
        /// The readings in the check's unit, as decimal numbers in text, `36.4375`: what is hashed and read again is then the same to the last digit.
        values: Vec<String>,
        /// That unit.
        unit: String,
        /// By which instrument, where it was one.
        #[serde(default)]
        instrument: String,
        /// What it should have been when it was read, in words.
        #[serde(default)]
        asked: String,
        /// Whether it was as it should be; `null` where that is not judged.
        #[serde(default)]
        good: Option<bool>,
    },
    /// Somebody looked.
    Looked {
        /// Id of the check in the plan.
        check: String,
        /// Whether it was as it should be.
        good: bool,
    },
    /// Nobody can look at it any more, or reach it.
    NotReached {
        /// Id of the check in the plan.
        check: String,
    },
    /// What a check found was put right; it is looked at again after that.
    Mended {
        /// Id of the check in the plan.
        check: String,
    },
    /// A test was made.
    Test {
        /// The kind of test.
        test: TestKind,
        /// What was read, row by row, as decimal numbers in text; the columns are those of the test.
        rows: Vec<Vec<String>>,
        /// Where water was seen, for tests with water.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        seen: Vec<SeenWater>,
    },
    /// A lot, mark or serial was written down.
    Lot {
        /// Id of the check in the plan.
        check: String,
        /// As it stands on the liner, core or label.
        text: String,
    },
    /// Something to know.
    Noted,
    /// An entry before this one is wrong; the note says what is right.
    Corrects {
        /// Id, by which others name it.
        id: String,
    },
}

impl Event {
    /// What of it cannot be taken, with paths under `path`.
    pub fn problems(&self, path: &str) -> Vec<Problem> {
        let mut out = Vec::new();
        let mut no = |field: &str, wrong: Option<String>| {
            out.extend(wrong.map(|m| Problem::new(format!("{path}.{field}"), m)));
        };
        no("id", not_an_id(&self.id));
        no("who", WHO.check(self.who.trim().chars().count()).err());
        no("at", not_a_time(&self.at));
        no("place", NAME.check(self.place.chars().count().max(1)).err());
        no("step", NAME.check(self.step.chars().count().max(1)).err());
        no("note", NOTE.check(self.note.chars().count()).err());
        let many = self.photos.len() > MOST_PHOTOS;
        no("photos", many.then(|| format!("found {} photographs, expected at most {MOST_PHOTOS}", self.photos.len())));
        no("photos", self.photos.iter().find_map(|p| not_a_hash(p)));
        match &self.what {
            What::Reading { check, values, unit, instrument, asked, .. } => {
                no("what.check", NAME.check(check.chars().count()).err());
                let many = values.is_empty() || values.len() > MOST_READINGS;
                no(
                    "what.values",
                    many.then(|| format!("found {} readings, expected 1 to {MOST_READINGS}", values.len())),
                );
                no("what.values", values.iter().find_map(|v| not_a_reading(v)));
                let long = |text: &str| NAME.check(text.chars().count().max(1)).err();
                no("what.unit", long(unit));
                no("what.instrument", long(instrument));
                no("what.asked", long(asked));
            }
            What::Looked { check, .. } | What::NotReached { check } | What::Mended { check } => {
                no("what.check", NAME.check(check.chars().count()).err());
            }
            What::Test { test, rows, seen } => {
                no("what.rows", test.problem(rows));
                no("what.seen", not_seen_so(seen));
            }
            What::Lot { check, text } => {
                no("what.check", NAME.check(check.chars().count()).err());
                no("what.text", NAME.check(text.trim().chars().count()).err());
            }
            What::Corrects { id } => no("what.id", not_an_id(id)),
            What::LeftOut | What::Otherwise => no(
                "note",
                self.note.trim().is_empty().then(|| "says nothing; write down what was done instead, or why".into()),
            ),
            What::Begun | What::Done | What::Stopped | What::Noted => {}
        }
        out
    }
}

/// What is wrong with the hash of a photograph.
pub fn not_a_hash(text: &str) -> Option<String> {
    let right = text.len() == 64 && text.bytes().all(|b| b.is_ascii_digit() || (b'a'..=b'f').contains(&b));
    (!right).then(|| {
        let found: String = text.chars().take(70).collect();
        format!("found \"{found}\", expected the SHA-256 of a photograph, 64 hexadecimal digits in small letters")
    })
}

/// What is wrong with an id: 8-4-4-4-12 hexadecimal digits, version 7.
fn not_an_id(id: &str) -> Option<String> {
    let lengths = id.split('-').map(str::len).eq([8, 4, 4, 4, 12]);
    let digits = id.chars().all(|c| c == '-' || c.is_ascii_digit() || ('a'..='f').contains(&c));
    let version = id.as_bytes().get(14) == Some(&b'7');
    (!(lengths && digits && version)).then(|| {
        format!("found \"{}\", expected a UUID of version 7 in small letters", id.chars().take(40).collect::<String>())
    })
}

/// What is wrong with a time: `2026-11-29T07:05:00Z`, with or without parts of a second.
pub fn not_a_time(at: &str) -> Option<String> {
    let shape = |c: u8, want: u8| if want == b'0' { c.is_ascii_digit() } else { c == want };
    let (head, tail) = at.as_bytes().split_at(at.len().min(19));
    let begins = head.len() == 19 && head.iter().zip(b"0000-00-00T00:00:00").all(|(c, w)| shape(*c, *w));
    let ends = match tail {
        [b'Z'] => true,
        [b'.', digits @ .., b'Z'] => (1..=9).contains(&digits.len()) && digits.iter().all(u8::is_ascii_digit),
        _ => false,
    };
    (!(begins && ends)).then(|| {
        format!(
            "found \"{}\", expected a time in UTC, as 2026-11-29T07:05:00Z",
            at.chars().take(40).collect::<String>()
        )
    })
}
