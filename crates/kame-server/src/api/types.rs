use kame_core::job::Edit;
use kame_core::view::{Ask, SectionAsk, SectionKind, WallView, Weather};
use kame_store::JobState;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// A job with its wall at the moment asked for.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobAnswer {
    /// The job.
    pub state: JobState,
    /// Everything the screens show.
    pub view: WallView,
}

/// Which moment, which water, which section.
#[derive(Clone, Debug, Default, Deserialize, IntoParams, ToSchema)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct Moment {
    /// Number of actions done; all where it is left out.
    #[serde(default)]
    pub done: Option<usize>,
    /// Which water.
    #[serde(default)]
    pub weather: Weather,
    /// Section through what.
    #[serde(default)]
    pub section: Option<SectionKind>,
    /// Index of the opening that is cut.
    #[serde(default)]
    pub opening: usize,
    /// Where it is cut, as a share of the opening's width or height, 0 to 1; the middle where it is left out.
    #[serde(default)]
    pub at: Option<f64>,
}

impl Moment {
    /// As the core is asked.
    pub fn ask(&self) -> Ask {
        let section = self.section.map(|kind| SectionAsk { opening: self.opening, kind, at: self.at.unwrap_or(0.5) });
        Ask { done: self.done, weather: self.weather, section }
    }
}

/// A new job.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewJob {
    /// What people call it.
    pub name: String,
}

/// A change that is only looked at.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Preview {
    /// The change.
    pub change: Edit,
    /// Which moment.
    #[serde(default)]
    pub moment: Moment,
}
