//! Clocks of devices held against the server's: what is odd is said, never put right.

use super::chain::Entry;
use crate::date::day_number;
use serde::Serialize;

/// A device's clock that says what cannot be.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum ClockSays {
    /// Later than when it was taken.
    Ahead,
    /// So long before it was taken that it waited for weeks, or the clock is wrong.
    LongBefore,
}

/// Clocks go wrong by so much without anybody minding, minutes.
const SLACK_MIN: i64 = 5;
/// Nothing waits on a device for longer than this, days.
const WAITS_DAYS: i64 = 30;

/// Minutes since 1970 of a time in UTC, RFC 3339.
pub(super) fn minutes(at: &str) -> Option<i64> {
    let number = |from: usize, to: usize| at.get(from..to)?.parse::<i64>().ok();
    Some((day_number(at)? * 24 + number(11, 13)?) * 60 + number(14, 16)?)
}

/// What is odd about the clock of the device that wrote an entry.
pub fn clock(entry: &Entry) -> Option<ClockSays> {
    let (said, taken) = (minutes(&entry.event.at)?, minutes(&entry.taken)?);
    if said > taken + SLACK_MIN {
        Some(ClockSays::Ahead)
    } else if said < taken - WAITS_DAYS * 24 * 60 {
        Some(ClockSays::LongBefore)
    } else {
        None
    }
}
