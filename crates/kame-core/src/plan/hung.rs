//! What everything that is hung on a whole wall is made with: how it is hung where there is a choice, where it lies, and its steps.

use super::cards::Card;
use super::{Plan, Stretch, SurfaceId};
use crate::surface::Rect;
use crate::trade::{Act, Action, Step};

/// How the barrier is hung where there is a choice.
#[derive(Clone, Copy, Debug, Default)]
pub struct Ways {
    /// The sheathing behind a sheet taped.
    pub sheathing: bool,
    /// Level laps of a sheet taped.
    pub taped: bool,
    /// Courses of a sheet hung from the top down, each over the lower edge of the one above, its top edge smeared.
    pub downward: bool,
    /// The long side of panels level.
    pub lying: bool,
    /// Rows of panels counted from the top: what is left of them is a strip at the foot.
    pub from_top: bool,
    /// Rows of panels so that none ends near the plate under a gable.
    pub bridging: bool,
    /// Openings in panels cut as they are hung.
    pub cut_now: bool,
    /// How strips over joints of panels meet at tees.
    pub tees: Tees,
}

/// How strips over joints of panels meet where an upright joint ends at a level one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Tees {
    /// Upright ones run over level ones.
    #[default]
    UprightOver,
    /// Level ones run over upright ones.
    LevelOver,
    /// Upright ones end half-way over level ones.
    HalfWay,
}

/// The parts of a rectangle as they lie on the walls.
pub fn on_walls(plan: &Plan, rect: Rect) -> Vec<(SurfaceId, Rect)> {
    plan.on_walls(rect).map(|r| (SurfaceId::WALL, r)).collect()
}

/// What holes leave of a rectangle of the wall.
pub fn minus(rect: Rect, free: &[Rect]) -> Vec<(SurfaceId, Rect)> {
    rect.minus_all(free).into_iter().map(|r| (SurfaceId::WALL, r)).collect()
}

/// A step of a stretch of the walls, with its card.
pub fn step(on: &Stretch, id: &str, card: Card, acts: Vec<(Act, String)>) -> Step {
    let Card { title, band, phase, card, measure, .. } = card;
    let (id, title) = (on.id(id), on.name(&title));
    let measure = measure.map(|(what, checks)| (Act::Measure, format!("measure {what}"), checks));
    let acts = measure.into_iter().chain(acts.into_iter().map(|(act, label)| (act, label, Vec::new())));
    let action = |(n, (act, label, checks)): (usize, (Act, String, Vec<String>))| Action {
        id: format!("{id}/{}", n + 1),
        act,
        label: label.into(),
        checks,
    };
    let actions = acts.enumerate().map(action).collect();
    Step { id, title, phase, band, opening: None, card: card.into(), actions }
}
