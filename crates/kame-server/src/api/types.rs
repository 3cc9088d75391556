use kame_core::job::{Edit, Job};
use kame_core::view::{Ask, SectionAsk, SectionKind, WallView, Weather};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// A job with its place in its own history.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobState {
    /// Number of the job.
    pub id: i64,
    /// Grows with every change; send it as `If-Match: "5"` with the next one.
    pub revision: i64,
    /// What undo would take back, empty where there is nothing.
    pub undo: String,
    /// What redo would do again, empty where there is nothing.
    pub redo: String,
    /// The job.
    pub job: Job,
}

impl From<kame_store::JobState> for JobState {
    fn from(s: kame_store::JobState) -> Self {
        Self { id: s.id, revision: s.revision, undo: s.undo, redo: s.redo, job: s.job }
    }
}

/// A line of the list of jobs.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobSummary {
    /// Number of the job.
    pub id: i64,
    /// Name.
    pub name: String,
    /// Name of its wall.
    pub wall: String,
    /// Number of openings.
    pub openings: usize,
    /// When it was last changed, RFC 3339, UTC.
    pub changed: String,
    /// Its revision.
    pub revision: i64,
}

impl From<kame_store::JobSummary> for JobSummary {
    fn from(s: kame_store::JobSummary) -> Self {
        Self { id: s.id, name: s.name, wall: s.wall, openings: s.openings, changed: s.changed, revision: s.revision }
    }
}

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
