//! What is asked of a wall, and what is known of it from before.

use crate::findings::KnownWater;
use crate::nights::KnownNights;
use crate::problem::Problem;
use crate::recipe::schools::Feature;
use crate::stop::Stop;
use serde::{Deserialize, Serialize};

/// Which water is shown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Weather {
    /// None.
    #[default]
    Dry,
    /// Rain, glue holding.
    Rain,
    /// Rain, every bond and seal let go.
    Lost,
}

/// Which part of the opening is cut.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum SectionKind {
    /// Upright cut through the sill.
    Sill,
    /// Upright cut through the head.
    Head,
    /// Level cut through the left jamb.
    Jamb,
    /// Upright cut through whatever it is and the wall round it: a pipe, a deck, a belt course.
    Through,
    /// Upright cut through the foot of the wall.
    Base,
    /// Upright cut through the top of the wall.
    Top,
    /// Level cut through the nearest corner of the walls.
    Corner,
}

/// Which section is asked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SectionAsk {
    /// At which opening.
    pub opening: usize,
    /// Through what.
    pub kind: SectionKind,
    /// Where, as a share of the opening's width (sill, head) or height (jamb, corner), 0 to 1.
    pub at: f64,
}

impl SectionKind {
    /// Those by which a feature is cut: a corner only where the walls have one.
    pub fn of(feature: Feature, has_corners: bool) -> &'static [Self] {
        match (feature, has_corners) {
            (Feature::Opening, true) => &[Self::Sill, Self::Head, Self::Jamb, Self::Base, Self::Top, Self::Corner],
            (Feature::Opening, false) => &[Self::Sill, Self::Head, Self::Jamb, Self::Base, Self::Top],
            (_, true) => &[Self::Through, Self::Base, Self::Top, Self::Corner],
            (_, false) => &[Self::Through, Self::Base, Self::Top],
        }
    }

    /// The cut is level; else it is upright.
    pub fn is_level(self) -> bool {
        matches!(self, Self::Jamb | Self::Corner)
    }
}

impl SectionAsk {
    /// Where it is cut, inside the opening.
    pub(super) fn share(&self) -> f64 {
        if self.at.is_finite() { self.at.clamp(0.02, 0.98) } else { 0.5 }
    }
}

/// What is asked of a wall.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Ask {
    /// How many actions are done, `None` all.
    pub done: Option<usize>,
    /// Which water.
    pub weather: Weather,
    /// Which section.
    pub section: Option<SectionAsk>,
    /// Which opening is drawn apart.
    pub exploded: Option<usize>,
    /// Whose questions are asked: all walls' where this is 0, else those of one wall, from 1 behind the first corner.
    pub wall: usize,
    /// The cut list is asked for, nested on rolls.
    pub cut_list: bool,
    /// Only what changes with the moment is answered: who asks has the rest of the plan from before.
    pub moment_only: bool,
}

/// What was computed for other questions and may be known for this one: water part by part, nights opening by opening.
#[derive(Debug, Default)]
pub struct Known {
    /// Parts of walls.
    pub water: KnownWater,
    /// Openings' nights.
    pub nights: KnownNights,
    /// Whoever asks may stop asking.
    pub stop: Stop,
}

impl Known {
    /// The same knowledge, shared, for somebody who may stop asking.
    pub fn until(&self, stop: &Stop) -> Self {
        Self { water: self.water.until(stop), nights: self.nights.until(stop), stop: stop.clone() }
    }
}

/// A mistake in data that ships with Kame, as a problem of the whole job.
pub(super) fn data_problem(message: String) -> Vec<Problem> {
    vec![Problem::new("$", message)]
}
