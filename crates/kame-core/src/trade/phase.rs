//! Phases of the work and whose work they are (handbook 1).

use serde::{Deserialize, Serialize};

/// Phase of the work, in working order (handbook 1).
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Phase {
    /// Measuring before anything is placed.
    Survey,
    /// Barrier on the wall.
    Barrier,
    /// Opening preparation.
    Preparation,
    /// Receive and set the unit.
    Unit,
    /// Flash the unit.
    Flashing,
    /// Inside.
    Inside,
    /// Look and test.
    Check,
    /// What is hung outside the barrier.
    Cover,
}

/// Whose work a step usually is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, serde::Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Trade {
    /// Who measures, inspects and signs.
    Lead,
    /// Who hangs the barrier and flashes it.
    Barrier,
    /// Who sets windows and doors.
    Window,
    /// Who hangs what covers the barrier.
    Cladding,
}

impl Phase {
    /// Whose work it usually is.
    pub fn trade(self) -> Trade {
        match self {
            Self::Survey | Self::Check => Trade::Lead,
            Self::Barrier | Self::Preparation | Self::Flashing => Trade::Barrier,
            Self::Unit | Self::Inside => Trade::Window,
            Self::Cover => Trade::Cladding,
        }
    }
}
