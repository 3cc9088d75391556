//! Wind pressure as the height of water it holds up, in inches.

use super::{Length, UNITS_PER_INCH};
use serde::Serialize;

/// Pascals that one inch of standing water presses with (handbook 4.4).
pub const PASCALS_PER_INCH: f64 = 249.0;
/// Density of air in kg/m³ used to turn a pressure into the wind that makes it (handbook 4.4).
pub const AIR_DENSITY: f64 = 1.2;

/// How hard wind has to push before water gets somewhere, in inches of water; 0 means gravity alone.
#[derive(Clone, Copy, Debug, Default, PartialEq, PartialOrd, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(transparent)]
pub struct Head(f64);

impl Head {
    /// Gravity alone.
    pub const ZERO: Head = Head(0.0);

    /// From effort counted in length units (25 nm of climb), rounded to a millionth of an inch so that float dust does not show.
    pub fn from_units(effort: f64) -> Self {
        Self(((effort / UNITS_PER_INCH as f64) * 1e6).round() / 1e6)
    }

    /// From inches of water.
    pub const fn from_inches(inches: f64) -> Self {
        Self(inches)
    }

    /// Inches of water.
    pub const fn inches(self) -> f64 {
        self.0
    }

    /// The same pressure in pascals: 1 in = 249 Pa.
    pub fn pascals(self) -> f64 {
        self.0 * PASCALS_PER_INCH
    }

    /// The wind that makes this pressure, in m/s: √(2 P / 1.2).
    pub fn wind(self) -> f64 {
        (2.0 * self.pascals() / AIR_DENSITY).sqrt()
    }

    /// As an exact length for sentences such as "lengthen it by".
    pub fn as_length(self) -> Length {
        Length::from_inches_f64(self.0).unwrap_or_default()
    }
}
