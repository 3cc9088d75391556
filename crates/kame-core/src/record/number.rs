//! Numbers as the record has them: decimal, in text, so that what is hashed and read again is the same to the last digit.

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
