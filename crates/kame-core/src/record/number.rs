//! Numbers as the record has them: decimal, in text, so that what is hashed and read again is the same to the last digit.

use crate::range::Range;

/// What can be read: anything beyond is a slip of the finger, whatever the unit.
const READING: Range<f64> =
    Range { what: "a reading", least: -10_000.0, most: 10_000.0, remedy: "look at the instrument and its unit again" };

/// What is wrong with a number: decimal, with at most six digits on either side of the point.
pub(super) fn not_a_number(text: &str) -> Option<String> {
    let (whole, part) =
        text.strip_prefix('-').unwrap_or(text).split_once('.').unwrap_or((text.trim_start_matches('-'), "0"));
    let digits = |t: &str| (1..=6).contains(&t.len()) && t.bytes().all(|b| b.is_ascii_digit());
    (!(digits(whole) && digits(part))).then(|| {
        let found: String = text.chars().take(40).collect();
        format!("found \"{found}\", expected a decimal number, as 36.4375")
    })
}

/// What is wrong with a reading.
pub(super) fn not_a_reading(text: &str) -> Option<String> {
    not_a_number(text).or_else(|| {
        text.parse().map_or_else(|_| Some(format!("found \"{text}\", expected a number")), |v| READING.check(v).err())
    })
}
