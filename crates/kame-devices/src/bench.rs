//! The instruments on the bench, and what they read.

use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::sync::{Mutex, PoisonError};

/// A fault to order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Fault {
    /// None.
    None,
    /// It does not answer.
    Silent,
    /// It reads what cannot be.
    OutOfRange,
    /// It reads in another unit.
    WrongUnit,
    /// It reads more each time.
    Drifting,
    /// It was last calibrated years ago.
    OutOfCalibration,
}

/// An instrument as it introduces itself.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
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

/// A reading.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Reading {
    /// Which instrument.
    pub serial: String,
    /// What was read.
    pub quantity: String,
    /// Decimal number as text.
    pub value: String,
    /// Its unit.
    pub unit: String,
}

/// What an instrument reads of a quantity: unit, what it reads here, by how much readings differ, and what it reads in another unit and out of range.
struct Channel {
    quantity: &'static str,
    unit: &'static str,
    here: f64,
    noise: f64,
    other: (&'static str, f64, f64),
    beyond: f64,
}

struct Kind {
    serial: &'static str,
    name: &'static str,
    channels: &'static [Channel],
}

const fn c(
    quantity: &'static str,
    unit: &'static str,
    here: f64,
    noise: f64,
    other: (&'static str, f64, f64),
    beyond: f64,
) -> Channel {
    Channel { quantity, unit, here, noise, other, beyond }
}

/// Degrees Celsius of degrees Fahrenheit: times, then plus.
const CELSIUS: (&str, f64, f64) = ("°C", 1.0 / 1.8, -32.0 / 1.8);
const SAME: (&str, f64, f64) = ("?", 1.0, 0.0);

const KINDS: [Kind; 7] = [
    Kind {
        serial: "CG-1",
        name: "Comb gauge",
        channels: &[c("thickness", "mil", 16.0, 1.0, ("µm", 25.4, 0.0), 900.0)],
    },
    Kind {
        serial: "ST-2",
        name: "Surface thermometer",
        channels: &[c("temperature", "°F", 47.0, 0.4, CELSIUS, 900.0), c("humidity", "%", 78.0, 1.0, SAME, 180.0)],
    },
    Kind { serial: "WM-3", name: "Wood moisture meter", channels: &[c("moisture", "%", 14.0, 0.5, SAME, 250.0)] },
    Kind {
        serial: "DL-4",
        name: "Digital level",
        channels: &[
            c("slope", "%", 6.4, 0.1, ("°", 0.573, 0.0), 400.0),
            c("length", "in", 0.0625, 0.02, ("mm", 25.4, 0.0), 9000.0),
        ],
    },
    Kind {
        serial: "BD-5",
        name: "Blower-door controller",
        channels: &[
            c("pressure", "Pa", 50.0, 0.5, ("inH2O", 0.004, 0.0), 9000.0),
            c("flow", "cfm", 412.0, 3.0, ("m³/h", 1.699, 0.0), 900_000.0),
        ],
    },
    Kind {
        serial: "SR-6",
        name: "Spray rack",
        channels: &[c("spray", "l/min", 3.4, 0.1, ("gal/h", 15.85, 0.0), 900.0)],
    },
    Kind {
        serial: "MA-7",
        name: "Weather mast",
        channels: &[
            c("wind", "mph", 16.0, 3.0, ("m/s", 0.447, 0.0), 900.0),
            c("air", "°F", 44.0, 0.3, CELSIUS, 900.0),
            c("humidity", "%", 81.0, 1.0, SAME, 180.0),
        ],
    },
];
const CALIBRATED: &str = "2026-03-02";
const LONG_AGO: &str = "2021-06-14";
/// A drifting instrument reads so much more each time, of what it reads.
const DRIFT: f64 = 0.04;

#[derive(Default)]
struct State {
    fault: Option<Fault>,
    readings: u32,
    started: bool,
}

/// All instruments with their faults.
#[derive(Default)]
pub struct Bench {
    states: Mutex<HashMap<&'static str, State>>,
}

impl Bench {
    /// Without faults.
    pub fn new() -> Self {
        Self::default()
    }

    fn with<T>(&self, serial: &str, act: impl FnOnce(&Kind, &mut State) -> T) -> Option<T> {
        let kind = KINDS.iter().find(|k| k.serial == serial)?;
        let mut states = self.states.lock().unwrap_or_else(PoisonError::into_inner);
        Some(act(kind, states.entry(kind.serial).or_default()))
    }

    /// Every instrument that is there.
    pub fn instruments(&self) -> Vec<Instrument> {
        let one = |k: &Kind| {
            let old = self.fault(k.serial) == Some(Fault::OutOfCalibration);
            Instrument {
                serial: k.serial.into(),
                name: k.name.into(),
                reads: k.channels.iter().map(|c| c.quantity.to_owned()).collect(),
                calibrated: if old { LONG_AGO } else { CALIBRATED }.into(),
            }
        };
        KINDS.iter().map(one).collect()
    }

    /// Starts an instrument; `None` where there is none of that serial number.
    pub fn start(&self, serial: &str) -> Option<()> {
        self.with(serial, |_, s| s.started = true)
    }

    /// Orders a fault, or none.
    pub fn order(&self, serial: &str, fault: Fault) -> Option<()> {
        self.with(serial, |_, s| s.fault = (fault != Fault::None).then_some(fault))
    }

    /// The fault of an instrument.
    pub fn fault(&self, serial: &str) -> Option<Fault> {
        self.with(serial, |_, s| s.fault).flatten()
    }

    /// Reads. The same readings come in the same order each time, so that what is tried can be tried again.
    ///
    /// # Errors
    /// A sentence: it is not there, was not started, or does not read that.
    pub fn read(&self, serial: &str, quantity: &str) -> Result<Reading, String> {
        let read = self.with(serial, |kind, state| {
            if !state.started {
                return Err("it was not started".to_owned());
            }
            let Some(channel) = kind.channels.iter().find(|c| c.quantity == quantity) else {
                return Err(format!("it does not read {quantity}"));
            };
            let n = state.readings;
            state.readings += 1;
            let wave = f64::from(n * 7 % 5) / 2.0 - 1.0;
            let value = channel.here + channel.noise * wave;
            let (value, unit) = match state.fault {
                Some(Fault::OutOfRange) => (channel.beyond, channel.unit),
                Some(Fault::WrongUnit) => (value * channel.other.1 + channel.other.2, channel.other.0),
                Some(Fault::Drifting) => (channel.here * (1.0 + DRIFT * f64::from(n + 1)), channel.unit),
                _ => (value, channel.unit),
            };
            let value = format!("{}", (value * 100.0).round() / 100.0);
            Ok(Reading { serial: serial.into(), quantity: quantity.into(), value, unit: unit.into() })
        });
        read.unwrap_or_else(|| Err("there is no instrument of that serial number".into()))
    }
}
