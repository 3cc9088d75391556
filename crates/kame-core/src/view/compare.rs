//! Two schools on one opening, side by side: water, pieces, material, minutes, temperatures, and what each protects against.

use super::ask::Weather;
use super::ask::{SectionAsk, SectionKind};
use super::exploded::{self, Exploded};
use super::section::{self, Section};
use super::verdict::{VerdictView, WaterHeadView};
use crate::calendar::{CalendarQuestion, Effort, lay, site_of};
use crate::findings::{Moment, Severity, followed};
use crate::job::Job;
use crate::plan::{Plan, build};
use crate::problem::Problem;
use crate::purchase::{Ordering, currency, money, order};
use crate::recipe::schools::{Answers, Schools, Scope};
use crate::stop::Stop;
use crate::takeoff::{TemperatureWindow, cost, labour, minutes, step_minutes, temperatures, uses};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// An answer of one side.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ComparedAnswer {
    /// The question.
    pub question: String,
    /// What is asked.
    pub ask: String,
    /// The answer's stable name.
    pub choice: String,
    /// What people call it.
    pub name: String,
    /// What it is good for.
    pub good: String,
    /// What it asks.
    pub asks: String,
    /// True where the other side answers otherwise.
    pub differs: bool,
}

/// What one side takes of one material.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct MaterialUse {
    /// Generic material.
    pub product: String,
    /// Number of pieces.
    pub pieces: usize,
    /// Their area in ft², as cut.
    pub area: f64,
}

/// The whole job made one way.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct WholeJob {
    /// What its order costs as far as prices are known, as text; empty where none is.
    pub order: String,
    /// Products without a price.
    pub unpriced: usize,
    /// Minutes of one person.
    pub minutes: f64,
    /// What they cost, as text; empty where there is no rate.
    pub labour: String,
    /// Days of work.
    pub days: usize,
    /// How often something waits for a cure.
    pub waits: usize,
}

/// One side.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ComparedSide {
    /// Its answers.
    pub answers: Vec<ComparedAnswer>,
    /// The least head of every water that is asked about, with the glue holding and lost.
    pub heads: Vec<WaterHeadView>,
    /// True where laps alone hold.
    pub by_laps: bool,
    /// What is said of the wall built so, 1 (the worst) to 6.
    pub state: u8,
    /// The same in words.
    pub says: String,
    /// Places that hold only while glue does.
    pub glue_places: usize,
    /// Places where water stands.
    pub ponds: usize,
    /// Anything else that is wrong, as sentences.
    pub wrong: Vec<String>,
    /// Number of pieces of the opening.
    pub pieces: usize,
    /// Number of steps of the opening.
    pub steps: usize,
    /// Minutes of work on the opening.
    pub minutes: f64,
    /// What its material costs by its share of rolls, tubes and panels, as text; empty where no price is known.
    pub material_cost: String,
    /// The same in hundredths of the currency.
    pub material_cents: i64,
    /// What those minutes cost by the profile's rate, as text; empty where none is given.
    pub labour_cost: String,
    /// The same in hundredths of the currency.
    pub labour_cents: i64,
    /// Products it uses that have no price.
    pub unpriced: Vec<String>,
    /// The whole job with every opening of its kind made this way; `None` where it cannot be built so.
    pub whole: Option<WholeJob>,
    /// Surface temperatures at which it can be worked.
    pub temperatures: TemperatureWindow,
    /// Material.
    pub material: Vec<MaterialUse>,
    /// Sections through head, sill and jamb.
    pub sections: Vec<Section>,
    /// The stack drawn apart.
    pub exploded: Option<Exploded>,
}

/// Both sides.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Comparison {
    /// Id of the opening.
    pub opening: String,
    /// To which head water is followed, in.
    pub followed: f64,
    /// The opening as the job has it, with other answers on each side.
    pub sides: Vec<ComparedSide>,
}

/// Compares sets of answers at one opening of a job; each replaces the answers of wall and opening. What cannot be built with the answer to
/// the question `keep` goes back to the usual.
///
/// # Errors
/// What cannot be built, with the side in the path.
pub fn compare(job: &Job, opening: &str, sides: &[Answers], keep: Option<&str>) -> Result<Comparison, Vec<Problem>> {
    compare_until(job, opening, sides, keep, &Stop::default())
}

/// The same for somebody who may stop asking.
///
/// # Errors
/// What cannot be built, with the side in the path.
pub fn compare_until(
    job: &Job,
    opening: &str,
    sides: &[Answers],
    keep: Option<&str>,
    stop: &Stop,
) -> Result<Comparison, Vec<Problem>> {
    let Some(index) = job.openings.iter().position(|o| o.id == opening) else {
        return Err(vec![Problem::new("$.opening", format!("there is no opening \"{opening}\" on this wall"))]);
    };
    let schools = Schools::of(job.openings[index].feature).map_err(|m| vec![Problem::new("$", m)])?;
    let whole = Schools::of_wall().map_err(|m| vec![Problem::new("$", m)])?;
    let whole_job = job;
    let gone = || stop.check().map_err(|m| vec![Problem::new("$", m)]);
    let built = sides.iter().enumerate().map(|(n, answers)| {
        gone()?;
        let mut job = job.clone();
        // What the wall answers beyond that is the same on every side, and no part of the comparison.
        let beyond = |q: &String| whole.question(q).is_some() && schools.question(q).is_none();
        let answers: Answers =
            answers.iter().filter(|(q, _)| !beyond(q)).map(|(q, c)| (q.clone(), c.clone())).collect();
        let everywhere = made_everywhere(whole_job, index, schools, &schools.settled(&answers, keep), stop);
        // The side stands alone on the wall: what others are made of does not matter here.
        job.openings = vec![job.openings[index].clone()];
        (job.sequence, job.as_built, job.sealed) = Default::default();
        let of_wall = |q: &String| schools.question(q).is_some_and(|q| q.scope == Scope::Wall);
        let (wall, own): (Answers, Answers) =
            schools.settled(&answers, keep).into_iter().partition(|(q, _)| of_wall(q));
        job.wall.schools = wall;
        job.wall.corners.iter_mut().for_each(|c| c.schools.clear());
        job.openings[0].schools = own;
        let beside = |p: Problem| Problem::new(format!("$.sides[{n}]{}", p.path.trim_start_matches('$')), p.message);
        let plan = build(&job).map_err(|list| list.into_iter().map(beside).collect::<Vec<_>>())?;
        Ok((plan, everywhere))
    });
    let plans: Vec<(Plan, Option<WholeJob>)> = built.collect::<Result<_, Vec<Problem>>>()?;
    let all: Vec<&Answers> = plans.iter().map(|(p, _)| &p.openings[0].answers).collect();
    let money = currency(&job.kit);
    let side_of = |(plan, whole): &(Plan, Option<WholeJob>)| {
        stop.check()?;
        let mut made = side(schools, plan, &all, &money)?;
        made.whole.clone_from(whole);
        Ok(made)
    };
    let sides: Result<Vec<ComparedSide>, String> = plans.iter().map(side_of).collect();
    // What is asked of the job asks it of every side.
    let followed = plans.iter().map(|(plan, _)| followed(plan)).max().unwrap_or_default().to_inches_f64();
    Ok(Comparison { opening: opening.to_owned(), followed, sides: sides.map_err(|m| vec![Problem::new("$", m)])? })
}

/// Any Monday: where nobody said when work begins.
const A_MONDAY: &str = "2026-03-02";

/// What the job takes with these answers at every opening of that kind; `None` where it cannot be built so.
fn made_everywhere(
    whole_job: &Job,
    index: usize,
    schools: &Schools,
    answers: &Answers,
    stop: &Stop,
) -> Option<WholeJob> {
    let mut job = whole_job.clone();
    (job.sequence, job.as_built, job.sealed) = Default::default();
    let of_wall = |q: &String| schools.question(q).is_some_and(|q| q.scope == Scope::Wall);
    let (wall, own): (Answers, Answers) = answers.clone().into_iter().partition(|(q, _)| of_wall(q));
    let whole = Schools::of_wall().ok()?;
    job.wall.schools = whole.with_the_rest(wall, &job.wall.schools);
    let feature = job.openings[index].feature;
    for o in job.openings.iter_mut().filter(|o| o.feature == feature) {
        o.schools.clone_from(&own);
    }
    let plan = build(&job).ok()?;
    let hurried = || stop.is_hurried();
    let order = order(&plan, &job.kit, &Ordering { stop: &hurried, ..Ordering::default() });
    let mut site = site_of(whole_job, &plan, A_MONDAY);
    // How long it takes and not when: nothing that was agreed on, and no weather.
    site.kept = None;
    let laid =
        lay(&CalendarQuestion { plan: &plan, site: &site, hours: &[], states: &[] }, Effort::Quick, stop).ok()?;
    let days: BTreeSet<u32> = laid.tasks.iter().flat_map(|t| [t.from / 1440, (t.to - 1) / 1440]).collect();
    let minutes: f64 = step_minutes(&plan).iter().sum();
    let money_of = currency(&job.kit);
    Some(WholeJob {
        unpriced: order.unpriced,
        order: order.total,
        minutes,
        labour: priced(labour(&plan, minutes), &money_of),
        days: days.len(),
        waits: laid.tasks.iter().filter(|t| t.waits).count(),
    })
}

fn priced(cents: i64, currency: &str) -> String {
    if cents > 0 { money(cents, currency) } else { String::new() }
}

fn side(schools: &Schools, plan: &Plan, all: &[&Answers], money_of: &str) -> Result<ComparedSide, String> {
    let moment = Moment::new(plan, usize::MAX)?;
    let found = moment.findings(plan);
    let verdict = VerdictView::of(plan, &moment.verdict(plan, &found), &found);
    let count = |s: Severity| found.iter().filter(|f| f.severity == s).count();
    let answers = &plan.openings[0].answers;
    let said = schools.chosen(answers).map(|(q, c)| ComparedAnswer {
        question: q.id.clone(),
        ask: q.ask.clone(),
        choice: c.id.clone(),
        name: c.name.clone(),
        good: c.good.clone(),
        asks: c.asks.clone(),
        differs: all.iter().any(|a| a.get(&q.id) != Some(&c.id)),
    });
    let mut material: BTreeMap<&str, (usize, f64)> = BTreeMap::new();
    let own = || plan.pieces.iter().filter(|p| p.opening == Some(0));
    for p in own() {
        let area = p.cut.as_ref().map_or(0.0, |c| c.length.to_inches_f64() * c.width.to_inches_f64() / 144.0);
        let sum = material.entry(&p.product).or_default();
        *sum = (sum.0 + 1, sum.1 + area);
    }
    let cut = |kind| section::cut(plan, &moment, Weather::Dry, &SectionAsk { opening: 0, kind, at: 0.5 });
    let took = minutes(plan, 0);
    let used = uses(plan);
    let paid = cost(plan, used.iter().filter(|u| u.opening == plan.openings[0].id));
    let bad = |s: Severity| !matches!(s, Severity::Glue | Severity::Pond | Severity::Note);
    Ok(ComparedSide {
        answers: said.collect(),
        by_laps: verdict.by_laps,
        says: verdict.says,
        state: verdict.state,
        heads: verdict.heads,
        glue_places: count(Severity::Glue),
        ponds: count(Severity::Pond),
        wrong: found.iter().filter(|f| bad(f.severity)).map(|f| f.reason.clone()).collect(),
        pieces: own().count(),
        steps: plan.steps.iter().filter(|s| s.opening.is_some()).count(),
        minutes: took,
        material_cost: priced(paid.cents, money_of),
        material_cents: paid.cents,
        labour_cost: priced(labour(plan, took), money_of),
        labour_cents: labour(plan, took),
        unpriced: paid.unpriced,
        whole: None,
        temperatures: temperatures(plan, 0),
        material: material
            .into_iter()
            .map(|(product, (pieces, area))| MaterialUse {
                product: product.to_owned(),
                pieces,
                area: (area * 10.0).round() / 10.0,
            })
            .collect(),
        sections: [SectionKind::Head, SectionKind::Sill, SectionKind::Jamb].into_iter().filter_map(cut).collect(),
        exploded: exploded::explode(plan, &moment, 0),
    })
}
