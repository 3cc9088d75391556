//! What is done with pieces: acts, the actions of a step, and the card of a step (handbook 3.1).

use super::{Band, CutId, FlapId, Phase, PieceId, SealId};
use serde::Serialize;
use std::sync::Arc;

/// What one action does. Indices are those of the plan.
#[derive(Clone, Debug, PartialEq)]
pub enum Act {
    /// Place a piece, tucked under the loose edges of others.
    Place {
        /// Which piece.
        piece: PieceId,
        /// Tucked under these pieces.
        under: Vec<PieceId>,
    },
    /// Set a unit or a pipe.
    Set {
        /// Which piece.
        piece: PieceId,
    },
    /// Lift a flap and hold it up.
    Lift {
        /// Which flap.
        flap: FlapId,
    },
    /// Drop it again.
    Drop {
        /// Which flap.
        flap: FlapId,
    },
    /// Cut the barrier.
    Cut {
        /// By which pattern.
        cut: CutId,
    },
    /// Roller or squeegee: an adhered piece counts as bonded only after this.
    Press {
        /// Which piece.
        piece: PieceId,
    },
    /// A bead or a smear.
    Seal {
        /// Which seal.
        seal: SealId,
    },
    /// A coat, wet until it has cured.
    Coat {
        /// Which piece.
        piece: PieceId,
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
        piece: Option<PieceId>,
    },
    /// What was found came to be.
    Damage {
        /// Index of what was found in the plan.
        damage: usize,
    },
    /// Liner, blocks, temporary tape, or a temporary piece.
    Remove {
        /// Which piece.
        piece: Option<PieceId>,
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
    pub fn placed(&self) -> Option<PieceId> {
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
    /// The act.
    pub act: Act,
    /// The same in words, for people.
    pub label: Arc<str>,
    /// Ids of the checks that its recipe names.
    pub checks: Vec<String>,
}

/// What stands on the card of a step.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepCard {
    /// What is done in this step.
    pub what: String,
    /// What it goes over.
    pub over: String,
    /// What to check before walking away.
    pub check: String,
    /// The reason, as a sentence.
    pub why: String,
    /// The caution that stands beside it.
    pub caution: String,
}

/// One step of the work.
#[derive(Clone, Debug, PartialEq)]
pub struct Step {
    /// Unique in the plan.
    pub id: String,
    /// Title of the step.
    pub title: String,
    /// Phase.
    pub phase: Phase,
    /// Its band in the order of work.
    pub band: Band,
    /// At which opening, `None` the wall.
    pub opening: Option<String>,
    /// The card.
    pub card: Arc<StepCard>,
    /// What is done.
    pub actions: Vec<Action>,
}
