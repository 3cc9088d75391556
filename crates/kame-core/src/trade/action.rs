//! What is done with pieces: acts, the actions of a step, and the card of a step (handbook 3.1).

use super::{Band, Phase};
use serde::Serialize;

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
    /// What was found came to be.
    Damage {
        /// Which.
        damage: usize,
    },
    /// Liner, blocks, temporary tape, or a temporary piece.
    Remove {
        /// Which piece.
        piece: Option<usize>,
    },
}

impl Act {
    /// True for what can change where water goes.
    pub fn matters_to_water(&self) -> bool {
        !matches!(
            self,
            Self::Fasten
                | Self::Measure
                | Self::Hold
                | Self::Damage { .. }
                | Self::Remove { piece: None }
                | Self::Wait { piece: None }
        )
    }

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
    /// Ids of the checks that its recipe names.
    pub checks: Vec<String>,
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
    /// Its band in the order of work.
    pub band: Band,
    /// At which opening, `None` the wall.
    pub opening: Option<String>,
    /// The card.
    pub card: StepCard,
    /// What is done.
    pub actions: Vec<Action>,
}
