//! What can be done about something that was found, as the screen shows it: the wall there before and after, and what each repair leans on.

use super::ask::{Known, data_problem};
use super::finding::{DropPoint, drop_of};
use super::step_picture::{StepPicture, picture_of};
use crate::edit::Edit;
use crate::findings::{Moment, by_cause};
use crate::job::{FoundKind, FoundSpec, Job, Place};
use crate::plan::{Plan, build, found_kind, found_kinds};
use crate::problem::Problem;
use crate::remedies::is_cause_of_worry;
use crate::repair::{
    NewPiece, Proposal, Proposals, Standing, found_at, found_moved, found_of, found_unit, free_id, propose,
};
use crate::trade::{Act, Action};
use serde::{Deserialize, Serialize};

/// What was found: seen by somebody at a place, or told as a finding of the finished wall.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "by", rename_all = "lowercase", deny_unknown_fields)]
pub enum FoundAsk {
    /// Somebody saw it.
    Sight {
        /// The kind of damage or late work.
        what: FoundKind,
        /// The rectangle it takes, from the wall’s left end and the bottom plate.
        place: Place,
        /// Id of the last step done by then; without it the last that is on record, or all of them where nothing is.
        #[serde(default)]
        after: Option<String>,
        /// Its id, where it was found before and its repair is chosen anew.
        #[serde(default)]
        id: Option<String>,
        /// What comes through a late hole, by its id among the kinds of things on a wall (`GET /api/features`); a pipe without one.
        #[serde(default)]
        thing: Option<String>,
    },
    /// An opening moved or grew after it was flashed.
    Moved {
        /// Id of the opening.
        opening: String,
        /// Its rough opening as it is now, from the wall’s left end and the bottom plate.
        place: Place,
        /// Id of the last step done by then; without it the last that is on record, or all of them where nothing is.
        #[serde(default)]
        after: Option<String>,
    },
    /// A check of a step failed.
    Step {
        /// Id of the step.
        step: String,
    },
    /// The wall shows it.
    Finding {
        /// Its number in the list of the finished wall, from 1.
        number: usize,
    },
}

/// A kind of thing that is found.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FoundKindView {
    /// The kind that this describes.
    pub id: FoundKind,
    /// What people call it.
    pub name: String,
    /// What it is, in a sentence.
    pub says: String,
}

/// A finished wall.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StandingView {
    /// 1 water gets in to 6 dry by its laps.
    pub state: u8,
    /// The same in words.
    pub says: String,
    /// The worst that is wrong with it; empty where nothing is.
    pub worst: String,
    /// Least head of rain with the glue holding, in; `null` where there is no way in.
    pub rain: Option<f64>,
    /// The same with the glue lost.
    pub rain_lost: Option<f64>,
}

impl StandingView {
    fn of(s: &Standing) -> Self {
        let [rain, rain_lost] = s.rain;
        Self { state: s.state.number(), says: s.state.says().to_owned(), worst: s.worst.clone(), rain, rain_lost }
    }
}

/// A piece that a repair asks for.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct NewPieceView {
    /// What people call it.
    pub name: String,
    /// Generic material.
    pub product: String,
    /// Its size where it is cut.
    pub size: String,
}

/// One way of mending it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ProposalView {
    /// What it is, in words.
    pub title: String,
    /// The change that makes it part of the plan.
    pub edit: Edit,
    /// The finished wall with it.
    pub after: StandingView,
    /// True where the wall is as good as it would be without what was found, and leans on no more.
    pub as_before: bool,
    /// What leans on glue that would not without what was found.
    pub leans: Vec<String>,
    /// Pieces that come off, as they are called.
    pub opened: Vec<String>,
    /// How many those are.
    pub taken_off: usize,
    /// New pieces.
    pub pieces: Vec<NewPieceView>,
    /// Minutes of one person.
    pub minutes: f64,
    /// Square feet of new material.
    pub ft2: f64,
    /// The coldest surface on which it can be done, °F.
    pub least_f: Option<f64>,
    /// Titles of its steps.
    pub steps: Vec<String>,
    /// What is laid, or what comes off.
    pub picture: Option<StepPicture>,
}

/// A repair that was tried and does not keep the wall as it should be.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct NotSoView {
    /// What is proposed, in a few words.
    pub title: String,
    /// What is wrong with the wall then.
    pub why: String,
}

/// What can be done about something that was found.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RepairsView {
    /// What was found.
    pub found: FoundSpec,
    /// What it is called.
    pub name: String,
    /// The finished wall without it.
    pub whole: StandingView,
    /// The finished wall with it and nothing done about it.
    pub before: StandingView,
    /// The wall there as it was found.
    pub picture: Option<StepPicture>,
    /// How the water gets in there.
    pub drop: Vec<DropPoint>,
    /// What can be done, the best first; each was tried.
    pub proposals: Vec<ProposalView>,
    /// What was tried and does not do.
    pub not_so: Vec<NotSoView>,
    /// Why nothing can be proposed; `null` where something is.
    pub none: Option<String>,
}

/// Every kind of thing that somebody can find.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn found_kind_views() -> Result<Vec<FoundKindView>, String> {
    let seen = found_kinds()?.iter().filter(|k| !matches!(k.id, FoundKind::Wrong | FoundKind::Failed));
    Ok(seen.map(|k| FoundKindView { id: k.id, name: k.name.clone(), says: k.says.clone() }).collect())
}

/// What can be done about something that was found on a wall. `last` is the last step that is on record.
///
/// # Errors
/// What is wrong with it, or that the asker stopped asking.
pub fn repair_views(
    job: &Job,
    ask: FoundAsk,
    last: Option<String>,
    known: &Known,
) -> Result<RepairsView, Vec<Problem>> {
    let found = match ask {
        FoundAsk::Sight { what, place, after, id, thing } => {
            let id = id.unwrap_or_else(|| free_id(job));
            let seen =
                FoundSpec { id, what, after: after.or(last), place, pieces: Vec::new(), repair: Vec::new(), thing };
            match what {
                FoundKind::Unit => found_unit(&build(job)?, seen)?,
                FoundKind::Moved => {
                    let message = "say which opening moved and where it is now, not where it was seen";
                    return Err(vec![Problem::new("$.what", message.to_owned())]);
                }
                _ => seen,
            }
        }
        FoundAsk::Moved { opening, place, after } => return moved_views(job, &opening, place, after.or(last), known),
        FoundAsk::Step { step } => FoundSpec { after: last, ..found_at(&build(job)?, &step, free_id(job))? },
        FoundAsk::Finding { number } => found_by_number(job, number, known)?,
    };
    let all = propose(job, &found, &known.water, &known.stop)?;
    viewed(all, found, known)
}

/// What can be done about an opening that moved or grew: each proposal sets its new place, and closes and flashes.
fn moved_views(
    job: &Job,
    opening: &str,
    place: Place,
    after: Option<String>,
    known: &Known,
) -> Result<RepairsView, Vec<Problem>> {
    let (now, found) = found_moved(job, opening, place, after)?;
    let mut all = propose(&now, &found, &known.water, &known.stop)?;
    for p in &mut all.list {
        if let Edit::SetFound { found } = &p.edit {
            p.edit = Edit::Rebuild { id: opening.to_owned(), place, found: found.clone() };
        }
    }
    viewed(all, found, known)
}

fn viewed(all: Proposals, found: FoundSpec, known: &Known) -> Result<RepairsView, Vec<Problem>> {
    let moment = Moment::with_known(&all.plan, usize::MAX, &known.water).map_err(data_problem)?;
    let told = moment.findings(&all.plan);
    let here =
        told.iter().filter(|f| is_cause_of_worry(f) && (all.before.worst.is_empty() || f.reason == all.before.worst));
    let drop = here.map(|f| drop_of(&all.plan, f)).find(|d| !d.is_empty()).unwrap_or_default();
    let kind = found_kind(found.what).map_err(data_problem)?;
    Ok(RepairsView {
        name: kind.name.clone(),
        whole: StandingView::of(&all.whole),
        before: StandingView::of(&all.before),
        picture: picture_of(&all.plan, &format!("{}/found", found.id)),
        drop,
        none: all.none(),
        proposals: all.list.into_iter().map(|p| proposal(p, &found.id, &all.whole)).collect(),
        not_so: all.refused.into_iter().map(|(title, why)| NotSoView { title, why }).collect(),
        found,
    })
}

fn found_by_number(job: &Job, number: usize, known: &Known) -> Result<FoundSpec, Vec<Problem>> {
    let plan = build(job)?;
    let moment = Moment::with_known(&plan, usize::MAX, &known.water).map_err(data_problem)?;
    let told = moment.findings(&plan);
    let causes = by_cause(&plan, &told);
    let Some(cause) = number.checked_sub(1).and_then(|n| causes.get(n)) else {
        let message =
            format!("there is no finding {number}, there are {}; the wall may have changed meanwhile", causes.len());
        return Err(vec![Problem::new("$.number", message)]);
    };
    found_of(&plan, &moment.stage, cause.told, free_id(job))
}

/// What was found comes to be by it: no work.
fn is_found(a: &Action) -> bool {
    matches!(a.act, Act::Damage { .. })
}

fn proposal(p: Proposal, found: &str, whole: &Standing) -> ProposalView {
    let id = if let Edit::AddOpening { opening } = &p.edit { &opening.id } else { found };
    let prefix = format!("{id}/");
    let steps = || p.plan.order.iter().map(|s| &p.plan.steps[*s]).filter(|s| s.id.starts_with(&prefix));
    ProposalView {
        picture: shown(&p.plan, &prefix),
        steps: steps().filter(|s| !s.actions.iter().any(is_found)).map(|s| s.title.clone()).collect(),
        as_before: p.after.is_no_worse_than(whole) && p.leans.is_empty(),
        after: StandingView::of(&p.after),
        pieces: p
            .pieces
            .into_iter()
            .map(|NewPiece { name, product, size }| NewPieceView { name, product, size })
            .collect(),
        title: p.title,
        edit: p.edit,
        leans: p.leans,
        opened: p.opened,
        taken_off: p.taken_off,
        minutes: p.minutes,
        ft2: p.ft2,
        least_f: p.least_f,
    }
}

/// The step that shows a repair best: the first that lays a new piece, else the one that takes back.
fn shown(plan: &Plan, prefix: &str) -> Option<StepPicture> {
    let of_it = || plan.order.iter().map(|s| &*plan.steps[*s]).filter(|s| s.id.starts_with(prefix));
    let new = |s: &&crate::trade::Step| {
        s.actions
            .iter()
            .filter_map(|a| a.act.placed())
            .any(|p| plan.pieces[p].id.starts_with(prefix) && !plan.pieces[p].solid)
    };
    let off = |s: &&crate::trade::Step| {
        s.actions.iter().any(|a| matches!(a.act, crate::trade::Act::Remove { piece: Some(_) }))
    };
    let lays = |s: &&crate::trade::Step| s.actions.iter().any(|a| a.act.placed().is_some());
    let step = of_it().find(new).or_else(|| of_it().find(off)).or_else(|| of_it().find(lays))?;
    picture_of(plan, &step.id)
}
