//! Lengths as people read them: inches with fractions, feet and inches, millimetres.

use super::{Length, UNITS_PER_INCH, UNITS_PER_MM};
use std::fmt;

/// From here on lengths are told in feet and inches: openings and their pieces are measured in inches.
const FEET_FROM: i64 = 96 * UNITS_PER_INCH;
/// The finest fraction of an inch people write.
const FINEST: i64 = 64;

impl Length {
    /// Inches with a fraction to the nearest `1/denominator`: `40 1/2`, without a unit mark.
    pub fn inches(self, denominator: i64) -> String {
        let rounded = self.round_to(denominator);
        let sign = if rounded.units() < 0 { "-" } else { "" };
        let units = rounded.units().abs();
        let (whole, part) = (units / UNITS_PER_INCH, units % UNITS_PER_INCH);
        match (whole, fraction(part, denominator)) {
            (w, None) => format!("{sign}{w}"),
            (0, Some(f)) => format!("{sign}{f}"),
            (w, Some(f)) => format!("{sign}{w} {f}"),
        }
    }

    /// As on a drawing: `62 1/2"` below eight feet, `19'-6"` from there.
    pub fn feet_inches(self, denominator: i64) -> String {
        let rounded = self.round_to(denominator);
        let units = rounded.units().abs();
        if units < FEET_FROM {
            return format!("{}\"", self.inches(denominator));
        }
        let sign = if rounded.units() < 0 { "-" } else { "" };
        let feet = units / (12 * UNITS_PER_INCH);
        let inches = Length::from_units(units % (12 * UNITS_PER_INCH)).inches(denominator);
        format!("{sign}{feet}'-{inches}\"")
    }

    /// Millimetres to 0.1 mm: `1028.7 mm`.
    pub fn millimetres(self) -> String {
        let tenths = (self.units() + UNITS_PER_MM / 20).div_euclid(UNITS_PER_MM / 10);
        let sign = if tenths < 0 { "-" } else { "" };
        match tenths.abs() % 10 {
            0 => format!("{sign}{} mm", tenths.abs() / 10),
            t => format!("{sign}{}.{t} mm", tenths.abs() / 10),
        }
    }

    /// A text from which exactly this length is read again: inches to 1/64 where that is exact, else decimal millimetres.
    pub fn exact(self) -> String {
        if self.units() % (UNITS_PER_INCH / FINEST) == 0 {
            return format!("{} in", self.inches(FINEST));
        }
        let sign = if self.units() < 0 { "-" } else { "" };
        let units = self.units().abs();
        // One unit is 25 millionths of a millimetre, so six decimals are always enough.
        let decimals = format!("{:06}", units % UNITS_PER_MM * 25);
        let decimals = decimals.trim_end_matches('0');
        let point = if decimals.is_empty() { "" } else { "." };
        format!("{sign}{}{point}{decimals} mm", units / UNITS_PER_MM)
    }
}

impl fmt::Display for Length {
    /// Feet-inches to 1/16, the trade's reading.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.feet_inches(16))
    }
}

/// `part` units of an inch as a reduced fraction, `None` where it is zero.
fn fraction(part: i64, denominator: i64) -> Option<String> {
    let mut num = part / (UNITS_PER_INCH / denominator);
    let mut den = denominator;
    if num == 0 {
        return None;
    }
    while num % 2 == 0 && den % 2 == 0 {
        num /= 2;
        den /= 2;
    }
    Some(format!("{num}/{den}"))
}
