use serde::{Deserialize, Serialize};

/// Phase of the work, in working order (handbook 1).
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
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
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
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

/// What one action does. Indices are those of the plan.
#[derive(Clone, Debug, PartialEq)]
pub enum Act {
    /// Place a piece, tucked under the loose edges of others.
    Place {
        /// Which piece.
        piece: usize,
        /// Tucked under these pieces.
        under: Vec<usize>,
    },
    /// Set a unit or a pipe.
    Set {
        /// Which piece.
        piece: usize,
    },
    /// Lift a flap and hold it up.
    Lift {
        /// Which flap.
        flap: usize,
    },
    /// Drop it again.
    Drop {
        /// Which flap.
        flap: usize,
    },
    /// Cut the barrier.
    Cut {
        /// By which pattern.
        cut: usize,
    },
    /// Roller or squeegee: an adhered piece counts as bonded only after this.
    Press {
        /// Which piece.
        piece: usize,
    },
    /// A bead or a smear.
    Seal {
        /// Which seal.
        seal: usize,
    },
    /// A coat, wet until it has cured.
    Coat {
        /// Which piece.
        piece: usize,
        /// Wet thickness in mil.
        wet_mil: f64,
        /// Number of coats.
        coats: u32,
    },
    /// Fasteners.
    Fasten,
    /// A measurement.
    Measure,
    /// Somebody has to look before going on.
    Hold,
    /// Skin, cure, dry, full bond; the coat named has cured after it.
    Wait {
        /// Which coat.
        piece: Option<usize>,
    },
    /// Liner, blocks, temporary tape, or a temporary piece.
    Remove {
        /// Which piece.
        piece: Option<usize>,
    },
}

impl Act {
    /// The piece that comes to lie on the wall by it.
    pub fn placed(&self) -> Option<usize> {
        match self {
            Self::Place { piece, .. } | Self::Set { piece } | Self::Coat { piece, .. } => Some(*piece),
            _ => None,
        }
    }
}

/// One action of a step.
#[derive(Clone, Debug, PartialEq)]
pub struct Action {
    /// Unique in the plan, `step/number`.
    pub id: String,
    /// What it does.
    pub act: Act,
    /// In words.
    pub label: String,
}

/// What stands on the card of a step.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepCard {
    /// What to do.
    pub what: String,
    /// What it goes over.
    pub over: String,
    /// What to check before walking away.
    pub check: String,
    /// Why.
    pub why: String,
    /// The caution that stands beside it.
    pub caution: String,
}

/// One step of the work.
#[derive(Clone, Debug, PartialEq)]
pub struct Step {
    /// Unique in the plan.
    pub id: String,
    /// Title.
    pub title: String,
    /// Phase.
    pub phase: Phase,
    /// Place in the order of work that its recipe gives it.
    pub at: u32,
    /// At which opening, `None` the wall.
    pub opening: Option<String>,
    /// The card.
    pub card: StepCard,
    /// What is done.
    pub actions: Vec<Action>,
}
