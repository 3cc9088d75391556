//! What comes in and goes out beyond what the core says.

use json_patch::Patch;
use kame_core::advice::Advice;
use kame_core::calendar::Days;
use kame_core::contact::Pair;
use kame_core::edit::Edit;
use kame_core::interview::{InterviewQuestion, Strategy};
use kame_core::job::Job;
use kame_core::kit::{Attribute, Product};
use kame_core::profile::{FigureRow, ProfileVersion};
use kame_core::purchase::Order;
use kame_core::takeoff::{By, Sum};
use kame_core::view::{Ask, NightView, RemedyView, SectionAsk, SectionKind, WallView, Weather};
use kame_store::JobState;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::{IntoParams, ToSchema};

/// A job with its place in its own history, whole or by what makes it of the one that who asks has.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ToldState {
    /// Number of the job.
    pub id: i64,
    /// Grows with every change, undo and redo included; send it as `If-Match: "5"` with the next one.
    pub revision: i64,
    /// Grows with every tick at the bench, which makes no revision.
    pub bench: i64,
    /// What undo would take back, empty where there is nothing.
    pub undo: String,
    /// What redo would do again, empty where there is nothing.
    pub redo: String,
    /// The job; left out where `change` makes it of what who asks has.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub job: Option<Job>,
    /// What makes the job of the one that who asks has; left out where it is told whole.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub change: Option<JobChange>,
}

/// What makes a job of another one.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobChange {
    /// The other, as who asks calls what they have.
    pub have: String,
    /// Operations of a JSON patch (RFC 6902), in their order; none where it is the same.
    #[schema(value_type = Vec<PatchOperation>)]
    pub patch: Patch,
}

/// An operation of a JSON patch (RFC 6902).
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PatchOperation {
    /// `add`, `remove` or `replace`.
    pub op: String,
    /// Where (RFC 6901).
    pub path: String,
    /// What is put there.
    pub value: Option<serde_json::Value>,
}

impl ToldState {
    /// A job told whole, or, where `had` is given with what it is called, by what makes it of that one.
    pub fn of(state: JobState, had: Option<(&Job, &str)>) -> Self {
        let JobState { id, revision, bench, undo, redo, job } = state;
        let change = had.and_then(|(had, have)| {
            if *had == job {
                return Some(JobChange { have: have.to_owned(), patch: Patch::default() });
            }
            let (was, is) = (serde_json::to_value(had).ok()?, serde_json::to_value(&job).ok()?);
            let patch = json_patch::diff(&was, &is);
            // Where much of it is another, the whole is shorter than what changed.
            let short = serde_json::to_string(&patch).ok()?.len() < serde_json::to_string(&is).ok()?.len() / 2;
            short.then(|| JobChange { have: have.to_owned(), patch })
        });
        let job = change.is_none().then_some(job);
        Self { id, revision, bench, undo, redo, job, change }
    }
}

/// A job with its wall at the moment asked for.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobAnswer {
    /// The job.
    pub state: ToldState,
    /// Everything the screens show.
    pub view: WallView,
    /// Every night of the order, where asked for.
    pub nights: Option<Vec<NightView>>,
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
    /// True where that opening's stack is drawn apart.
    #[serde(default)]
    pub exploded: bool,
    /// Where it is cut, as a share of the opening's width or height, 0 to 1; the middle where it is left out.
    #[serde(default)]
    pub at: Option<f64>,
    /// Whose questions are asked: those of all walls where it is 0 or left out, else of one wall, from 1 behind the first corner.
    #[serde(default)]
    pub wall: usize,
    /// The wall as it is built today, by the record: what was done, in the order in which it was. `done` says nothing then.
    #[serde(default)]
    pub built: bool,
    /// True where the cut list is asked for too.
    #[serde(default)]
    pub cuts: bool,
    /// True where every night is asked for too.
    #[serde(default)]
    pub nights: bool,
    /// What whoever asks has of the plan already: revision, ticks and wall of the answer it came with, as `7.2.0`, and `.cuts` where the cut list
    /// came too. Where that is still so, only what changes with the moment is answered; after a change only what changed with it, where that answer is still known.
    #[serde(default)]
    pub have: Option<String>,
    /// What the drawing is called that whoever asks has: pieces and openings that are as they are in it are left out, where it is still known.
    #[serde(default)]
    pub drawn: Option<String>,
}

impl Moment {
    /// As the core is asked about a job that stands so.
    pub fn ask_at(&self, state: &JobState) -> Ask {
        let now = format!("{}.{}.{}{}", state.revision, state.bench, self.wall, if self.cuts { ".cuts" } else { "" });
        Ask { moment_only: !self.built && self.have.as_ref() == Some(&now), ..self.ask() }
    }

    /// The same question as the core is asked it.
    pub fn ask(&self) -> Ask {
        let section = self.section.map(|kind| SectionAsk { opening: self.opening, kind, at: self.at.unwrap_or(0.5) });
        Ask {
            done: self.done,
            weather: self.weather,
            section,
            exploded: self.exploded.then_some(self.opening),
            wall: self.wall,
            cut_list: self.cuts,
            moment_only: false,
        }
    }
}

/// A new job.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewJob {
    /// What people call it.
    pub name: String,
}

/// Two or more sets of answers to hold against each other at one opening.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Compared {
    /// Id of the opening.
    pub opening: String,
    /// Answers by question, one set a side, 2 to 4 of them.
    pub sides: Vec<BTreeMap<String, String>>,
    /// The question whose answer stays where others cannot be built with it.
    #[serde(default)]
    pub keep: Option<String>,
}

/// What can be done about the findings of a finished wall.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RemediesAnswer {
    /// Revision of the job that was asked about.
    pub revision: i64,
    /// In the order of the findings; those that lean on glue or are merely worth knowing have none.
    pub remedies: Vec<RemedyView>,
}

/// The strategy of a job: what is asked, what was answered, and the advice that follows.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct StrategyAnswer {
    /// What is asked.
    pub questions: Vec<InterviewQuestion>,
    /// What was answered and decided.
    pub strategy: Strategy,
    /// The advice, with what taking it writes and what it cannot.
    pub advice: Vec<Advice>,
    /// What the answers themselves put on the walls, as sentences.
    pub also: Vec<String>,
    /// Answers given before that cannot be built with what is written, as sentences.
    pub gives_way: Vec<String>,
}

/// A change that is only looked at.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Preview {
    /// The change.
    pub change: Edit,
    /// The moment at which its answer is shown.
    #[serde(default)]
    pub moment: Moment,
}

/// How the truck is asked for.
#[derive(Clone, Debug, Default, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct TruckAsk {
    /// By what quantities are summed up.
    #[serde(default)]
    pub by: By,
    /// Most seconds for nesting, 0 to 600; 20 where it is left out.
    #[serde(default)]
    pub limit_s: Option<f64>,
}

/// What to buy and to load, what touches, and the library of products behind both.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Truck {
    /// Everything to buy.
    pub order: Order,
    /// The work laid into days, with what to load.
    pub days: Days,
    /// By what they are summed up.
    pub by: By,
    /// What is used, summed up as asked for.
    pub sums: Vec<Sum>,
    /// Every two products that touch, those with work to do first.
    pub pairs: Vec<Pair>,
    /// All products as they are known and sold here.
    pub products: Vec<Product>,
    /// All products as they ship.
    pub generic: Vec<Product>,
    /// What can be known of a product.
    pub attributes: Vec<Attribute>,
    /// What is known of each product here, as text by attribute.
    pub known: BTreeMap<String, BTreeMap<String, String>>,
}

/// The figures of a job beside those that ship and those kept.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ProfileAnswer {
    /// The profile that ships, with its version.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Versions kept in the job.
    pub kept: Vec<ProfileVersion>,
    /// Every figure.
    pub rows: Vec<FigureRow>,
}

/// What of a job is asked about; all of it where nothing is said.
#[derive(Clone, Debug, Default, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct Where {
    /// Id of a step.
    #[serde(default)]
    pub step: Option<String>,
    /// Id of an opening; empty for the walls themselves.
    #[serde(default)]
    pub opening: Option<String>,
}
