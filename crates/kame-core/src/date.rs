//! Days of the civil calendar, as numbers and as text.

/// Days from 1970-01-01 to a day given as 2026-03-02, or to the beginning of a time in UTC; `None` where it is no day.
pub fn day_number(text: &str) -> Option<i64> {
    let number = |from: usize, to: usize| text.get(from..to)?.parse::<i64>().ok();
    let (year, month, day) = (number(0, 4)?, number(5, 7)?, number(8, 10)?);
    let separated = text.as_bytes().get(4) == Some(&b'-') && text.as_bytes().get(7) == Some(&b'-');
    // Years begin in March, so that the odd day is the last.
    let (y, m) = if month <= 2 { (year - 1, month + 9) } else { (year, month - 3) };
    let number = 365 * y + y / 4 - y / 100 + y / 400 + (153 * m + 2) / 5 + day - 719_469;
    let real = (1..=12).contains(&month) && (1..=31).contains(&day) && y >= 0;
    // A day that is none, as the 31st of April, is another one's number.
    (separated && real && text.get(..10) == Some(day_text(number).as_str())).then_some(number)
}

/// A day as 2026-03-02, by its number from 1970-01-01.
pub fn day_text(number: i64) -> String {
    // Counted from the first of March of the year 0, in runs of 400 years.
    let n = number + 719_468;
    let (era, of_era) = (n.div_euclid(146_097), n.rem_euclid(146_097));
    let year = (of_era - of_era / 1460 + of_era / 36_524 - of_era / 146_096) / 365;
    let of_year = of_era - (365 * year + year / 4 - year / 100);
    let m = (5 * of_year + 2) / 153;
    let (day, month) = (of_year - (153 * m + 2) / 5 + 1, if m < 10 { m + 3 } else { m - 9 });
    let year = year + era * 400 + i64::from(month <= 2);
    format!("{year:04}-{month:02}-{day:02}")
}

/// Monday is 0.
pub fn weekday(number: i64) -> u32 {
    (number + 3).rem_euclid(7) as u32
}

const DAYS: [&str; 7] = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const MONTHS: [&str; 12] = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/// A day as people say it: Tue 3 Mar.
pub fn day_said(number: i64) -> String {
    let date = day_text(number);
    let part = |from: usize, to: usize| date.get(from..to).and_then(|t| t.parse::<usize>().ok()).unwrap_or(1);
    format!("{} {} {}", DAYS[weekday(number) as usize], part(8, 10), MONTHS[part(5, 7) - 1])
}

/// A minute from midnight of a day as people say it: Tue 3 Mar, 10:20.
pub fn minute_said(minute: u32, first: i64) -> String {
    format!("{}, {}:{:02}", day_said(first + i64::from(minute / 1440)), minute % 1440 / 60, minute % 60)
}

#[cfg(test)]
mod tests {
    use super::{day_number, day_said, day_text, minute_said, weekday};
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn text_and_number_are_the_same_day(n in -100_000_i64..1_000_000) {
            let text = day_text(n);
            prop_assert_eq!(day_number(&text), Some(n), "{}", text);
            prop_assert_eq!((weekday(n) + 1) % 7, weekday(n + 1));
        }
    }

    #[test]
    fn known_days_are_what_they_are_and_others_are_none() {
        assert_eq!(
            (day_number("1970-01-01"), day_number("2000-02-29"), day_number("2026-11-29T07:05:00Z")),
            (Some(0), Some(11_016), Some(20_786))
        );
        let sunday = day_number("2026-11-29").expect("a day");
        assert_eq!(weekday(sunday), 6);
        assert_eq!(
            (day_said(sunday), minute_said(2 * 1440 + 425, sunday)),
            ("Sun 29 Nov".into(), "Tue 1 Dec, 7:05".into())
        );
        for none in ["2026-02-29", "2026-13-01", "2026-04-31", "26-04-01", "2026/04/01", "", "2026-00-10"] {
            assert_eq!(day_number(none), None, "{none}");
        }
    }
}
