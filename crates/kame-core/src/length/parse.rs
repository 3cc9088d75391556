//! Reading lengths as people write them.

use super::{LONGEST, LONGEST_SAID, Length, UNITS_PER_INCH, UNITS_PER_MM};

/// Why a text is not a length. Each message names what was found and what is expected.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum LengthError {
    /// Nothing was written.
    #[error("the length is empty; write it like 40 1/2, 3'-4 1/2\" or 1028 mm")]
    Empty,
    /// Something that is no number and no unit.
    #[error("\"{text}\" is not a length (stuck at \"{at}\"); write it like 40 1/2, 3'-4 1/2\" or 1028 mm")]
    NotALength {
        /// The whole text.
        text: String,
        /// The part that could not be read.
        at: String,
    },
    /// A fraction over zero.
    #[error("\"{text}\" divides by zero; write the fraction like 1/2")]
    DividesByZero {
        /// The whole text.
        text: String,
    },
    /// Longer than any wall.
    #[error("\"{text}\" is longer than {LONGEST_SAID}, the longest length Kame takes; check the unit")]
    TooLong {
        /// The whole text.
        text: String,
    },
}

/// A value as numerator over denominator, so that nothing is rounded before the unit is known.
#[derive(Clone, Copy)]
struct Ratio {
    num: i128,
    den: i128,
}

impl Length {
    /// Reads feet-inches-fractions and metric: `3'-4 1/2"`, `40 1/2`, `40.5"`, `3 ft 4 in`, `1028 mm`, `1.03 m`. Without a unit it is inches.
    /// What lies between two units of 25 nm goes to the nearer one.
    ///
    /// # Errors
    /// [`LengthError`] with the text that could not be read.
    pub fn parse(text: &str) -> Result<Self, LengthError> {
        let clean = normalise(text);
        let mut rest = clean.trim();
        if rest.is_empty() {
            return Err(LengthError::Empty);
        }
        let negative = rest.starts_with('-');
        rest = rest.trim_start_matches(['-', '+']).trim_start();
        let mut total: i128 = 0;
        let (mut seen_feet, mut seen_end) = (false, false);
        while !rest.is_empty() {
            let stuck = || LengthError::NotALength { text: shorten(text), at: shorten(rest) };
            if seen_end {
                return Err(stuck());
            }
            let (ratio, after) = number(rest, text)?.ok_or_else(stuck)?;
            let (unit, after) =
                unit(after).ok_or_else(|| LengthError::NotALength { text: shorten(text), at: shorten(after) })?;
            match unit {
                Unit::Feet if seen_feet => return Err(stuck()),
                Unit::Feet => seen_feet = true,
                Unit::Inch => seen_end = true,
                Unit::Metric(_) if seen_feet => return Err(stuck()),
                Unit::Metric(_) => seen_end = true,
            }
            let per = match unit {
                Unit::Feet => 12 * UNITS_PER_INCH,
                Unit::Inch => UNITS_PER_INCH,
                Unit::Metric(units) => units,
            };
            let long = || LengthError::TooLong { text: shorten(text) };
            let twice = ratio.num.checked_mul(2 * i128::from(per)).ok_or_else(long)?;
            total += twice.checked_add(ratio.den).ok_or_else(long)?.div_euclid(2 * ratio.den);
            if total > i128::from(LONGEST.units()) {
                return Err(long());
            }
            rest = after.trim_start();
            if seen_feet && !seen_end {
                rest = rest.trim_start_matches('-').trim_start();
            }
        }
        let units = total as i64;
        Ok(Length::from_units(if negative { -units } else { units }))
    }
}

/// Typographic marks as people paste them, in their plain form.
fn normalise(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '′' | '’' | '‘' => out.push('\''),
            '″' | '”' | '“' => out.push('"'),
            '−' | '–' | '—' => out.push('-'),
            '\u{a0}' | '\u{202f}' => out.push(' '),
            '⁄' => out.push('/'),
            '¼' => out.push_str(" 1/4"),
            '½' => out.push_str(" 1/2"),
            '¾' => out.push_str(" 3/4"),
            '⅛' => out.push_str(" 1/8"),
            '⅜' => out.push_str(" 3/8"),
            '⅝' => out.push_str(" 5/8"),
            '⅞' => out.push_str(" 7/8"),
            _ => out.extend(c.to_lowercase()),
        }
    }
    out
}

fn shorten(text: &str) -> String {
    let mut s: String = text.chars().take(40).collect();
    if s.len() < text.len() {
        s.push('…');
    }
    s
}

enum Unit {
    Feet,
    Inch,
    Metric(i64),
}

/// The unit at the start of `s` (inches where the text ends), and what follows it.
fn unit(s: &str) -> Option<(Unit, &str)> {
    let s = s.trim_start();
    if s.is_empty() {
        return Some((Unit::Inch, s));
    }
    const NAMES: &[(&str, Unit)] = &[
        ("feet", Unit::Feet),
        ("foot", Unit::Feet),
        ("ft", Unit::Feet),
        ("''", Unit::Inch),
        ("'", Unit::Feet),
        ("inches", Unit::Inch),
        ("inch", Unit::Inch),
        ("in", Unit::Inch),
        ("\"", Unit::Inch),
        ("mm", Unit::Metric(UNITS_PER_MM)),
        ("cm", Unit::Metric(10 * UNITS_PER_MM)),
        ("m", Unit::Metric(1000 * UNITS_PER_MM)),
    ];
    for (name, unit) in NAMES {
        if let Some(after) = s.strip_prefix(name) {
            let unit = match unit {
                Unit::Feet => Unit::Feet,
                Unit::Inch => Unit::Inch,
                Unit::Metric(u) => Unit::Metric(*u),
            };
            return Some((unit, after.strip_prefix('.').unwrap_or(after)));
        }
    }
    None
}

/// A number at the start of `s`: `40`, `40.5`, `1/2`, `40 1/2`, `40-1/2`; `None` where none stands there.
fn number<'a>(s: &'a str, whole_text: &str) -> Result<Option<(Ratio, &'a str)>, LengthError> {
    let Some((first, after)) = decimal(s, whole_text)? else { return Ok(None) };
    if let Some(below) = after.trim_start().strip_prefix('/') {
        return fraction(first, below.trim_start(), whole_text);
    }
    let gap = after.trim_start_matches([' ', '-']);
    if gap.len() < after.len()
        && first.den == 1
        && let Some((top, rest)) = decimal(gap, whole_text)?
        && let Some(below) = rest.trim_start().strip_prefix('/')
        && let Some((part, rest)) = fraction(top, below.trim_start(), whole_text)?
    {
        let num = first.num * part.den + part.num;
        return Ok(Some((Ratio { num, den: part.den }, rest)));
    }
    Ok(Some((first, after)))
}

fn fraction<'a>(top: Ratio, below: &'a str, whole_text: &str) -> Result<Option<(Ratio, &'a str)>, LengthError> {
    let Some((bottom, rest)) = decimal(below, whole_text)? else { return Ok(None) };
    if bottom.num == 0 {
        return Err(LengthError::DividesByZero { text: shorten(whole_text) });
    }
    Ok(Some((Ratio { num: top.num * bottom.den, den: top.den * bottom.num }, rest)))
}

fn decimal<'a>(s: &'a str, whole_text: &str) -> Result<Option<(Ratio, &'a str)>, LengthError> {
    let end = s.find(|c: char| !c.is_ascii_digit() && c != '.').unwrap_or(s.len());
    let (digits, rest) = s.split_at(end);
    let (whole, part) = digits.split_once('.').unwrap_or((digits, ""));
    if (whole.is_empty() && part.is_empty()) || part.contains('.') {
        return Ok(None);
    }
    if whole.trim_start_matches('0').len() > 9 || part.len() > 9 {
        return Err(LengthError::TooLong { text: shorten(whole_text) });
    }
    let den = 10_i128.pow(part.len() as u32);
    let num: i128 = format!("0{whole}{part}").parse().unwrap_or_default();
    Ok(Some((Ratio { num, den }, rest)))
}
