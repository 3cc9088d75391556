//! Readings of instruments: what is taken of them, and what is doubted (handbook 6.5).

use serde::{Deserialize, Serialize};

/// An instrument as it introduces itself.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Instrument {
    /// Its serial number.
    pub serial: String,
    /// What people call it.
    pub name: String,
    /// What it reads.
    pub reads: Vec<String>,
    /// When it was last calibrated, as 2026-03-02.
    pub calibrated: String,
}

/// A reading as an instrument gives it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct RawReading {
    /// What was read.
    pub quantity: String,
    /// Decimal number as text.
    pub value: String,
    /// Its unit.
    pub unit: String,
}

/// A reading with what is to be said of it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct InstrumentReading {
    /// As a decimal number in text, in the unit that is wanted.
    pub value: String,
    /// That unit.
    pub unit: String,
    /// True where it cannot be taken.
    pub refused: bool,
    /// What is odd about it; empty where nothing is.
    pub doubt: String,
}

/// What is read in which unit, and what of it can be.
const QUANTITIES: [(&str, &str, f64, f64); 12] = [
    ("length", "in", -120.0, 1200.0),
    ("slope", "%", -100.0, 100.0),
    ("thickness", "mil", 0.0, 500.0),
    ("temperature", "°F", -60.0, 250.0),
    ("air", "°F", -60.0, 150.0),
    ("humidity", "%", 0.0, 100.0),
    ("moisture", "%", 0.0, 100.0),
    ("pressure", "Pa", -500.0, 1000.0),
    ("flow", "cfm", 0.0, 20_000.0),
    ("spray", "l/min", 0.0, 100.0),
    ("wind", "mph", 0.0, 200.0),
    ("rain", "in/h", 0.0, 20.0),
];
/// Two readings right after each other differ by no more than this part of what was read, or the least of it.
const STEADY: f64 = 0.025;
/// Instruments are calibrated once a year.
const CALIBRATED_YEARS: u32 = 1;

/// One year later, as text: dates as 2026-03-02 sort as they stand.
fn a_year_after(date: &str) -> Option<String> {
    let (year, rest) = date.split_once('-')?;
    Some(format!("{:04}-{rest}", year.parse::<u32>().ok()?.checked_add(CALIBRATED_YEARS)?))
}

/// What is said of a reading taken twice in a row, on a day. Nothing is guessed: another unit is refused, not reckoned.
pub fn doubt(instrument: &Instrument, first: &RawReading, again: &RawReading, today: &str) -> InstrumentReading {
    let name = &instrument.name;
    let answer = |value: &str, unit: &str, refused: bool, doubt: String| InstrumentReading {
        value: value.to_owned(),
        unit: unit.to_owned(),
        refused,
        doubt,
    };
    let refuse = |doubt: String| answer("", "", true, doubt);
    let Some((_, unit, least, most)) = QUANTITIES.iter().find(|q| q.0 == first.quantity) else {
        return refuse(format!("{name} reads {}, which nothing here asks for.", first.quantity));
    };
    if first.unit != *unit {
        return refuse(format!(
            "{name} says {} {}, {unit} is wanted: set it to {unit} and read again, or type it.",
            first.value, first.unit
        ));
    }
    let (Ok(one), Ok(two)) = (first.value.parse::<f64>(), again.value.parse::<f64>()) else {
        return refuse(format!(
            "{name} says \"{}\", which is no number: read it again or type it.",
            first.value.chars().take(20).collect::<String>()
        ));
    };
    if !(*least..=*most).contains(&one) {
        return refuse(format!(
            "{name} says {one} {unit}, which cannot be ({least} to {most}): look at its battery and probe, or type it."
        ));
    }
    let mut doubts = Vec::new();
    // Something is read of everything: what is next to nothing may differ by the least that can be told.
    let slack = (one.abs() * STEADY).max((most - least) * 1e-3);
    if (one - two).abs() > slack {
        doubts.push(format!("{name} does not stand still: {one}, then {two} {unit}. Wait, and read it again."));
    }
    if a_year_after(&instrument.calibrated).is_none_or(|due| today > due.as_str()) {
        doubts.push(format!("{name} was last calibrated {}: once a year is wanted.", instrument.calibrated));
    }
    answer(&first.value, unit, false, doubts.join(" "))
}
