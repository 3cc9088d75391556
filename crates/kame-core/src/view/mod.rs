//! Everything a screen shows of a wall at one moment, answered whole: the browser draws it and computes nothing.
//!
//! Drawing coordinates are inches with `x` to the right and `y` down; the wall's top left corner is the origin.

mod build_up;
mod built;
mod check;
mod compare;
mod cut;
mod drawn;
mod elevation;
mod evenings;
mod exploded;
mod flashing;
mod forms;
mod handover;
mod holds;
mod marks;
mod ordered;
mod planned;
mod practice;
mod progress;
mod repairs;
mod schools;
mod section;
mod step_picture;

pub use build_up::{BuildUpView, LayerView};
pub use built::{Built, Material, SectionMark, SectionRun, SectionShape, SectionSize};
pub use check::{CheckView, CheckedFinding, RemedyView, check, remedy_views};
pub use compare::{ComparedAnswer, Comparison, MaterialUse, Side, compare, compare_until};
pub use cut::{GapState, GapView, SectionAsk, SectionKind};
pub use drawn::Drawn;
pub use elevation::{AirView, CornerView, Elevation, Kept, KeyWall, LevelView, Mark, OpeningState, OpeningView, Shape};
pub use evenings::{NightView, night_views};
pub use exploded::{Exploded, ExplodedPiece, explode};
pub use flashing::{Flashing, flashings};
pub use forms::form_limits;
pub use handover::{HandoverLine, handover};
pub use holds::{HoldsView, holds};
pub use ordered::{OrderedPiece, OrderedProduct, OrderedView, StepMinutes, ordered};
pub use planned::{Planned, Since, leave_out, planned};
pub use practice::{
    CallView, FaultNameView, FoundView, GradedView, LaidView, LayView, SceneView, SizeAskView, graded_view, laid_view,
    scene_view,
};
pub use progress::{JobProgress, NextStep, TonightView, progress};
pub use repairs::{
    FoundAsk, FoundKindView, NewPieceView, NotSoView, ProposalView, RepairsView, StandingView, found_kind_views,
    repair_views,
};
pub use schools::{ChoiceView, OpeningAnswers, OrderView, QuestionView, order_view, school_views};
pub use section::{Band, Section};
pub use step_picture::{PastSide, SizeLine, StepPicture, step_pictures};

use crate::evenings::KnownEvenings;
use crate::findings::{Cause, Finding, HeadReading, KnownWater, Moment, Severity, State, Verdict, by_cause, leaning};
use crate::job::Job;
use crate::layup::Glue;
use crate::length::Head;
use crate::plan::{Plan, SurfaceId, build};
use crate::problem::Problem;
use crate::profile::fig;
use crate::stop::Stop;
use crate::takeoff::CutGroup;
use crate::trade::{Phase, StepCard, Trade};
use crate::water::PassageKind;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

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

/// An action on the rail.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ActionView {
    /// Unique id.
    pub id: String,
    /// In words.
    pub label: String,
    /// Left out.
    pub removed: bool,
    /// Its number when it is done, from 1; 0 where left out.
    pub number: usize,
}

/// A step on the rail.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepView {
    /// Unique id.
    pub id: String,
    /// Title.
    pub title: String,
    /// Phase.
    pub phase: Phase,
    /// Whose work it usually is.
    pub trade: Trade,
    /// At which opening, empty for the wall.
    pub opening: String,
    /// Left out.
    pub removed: bool,
    /// The card.
    pub card: StepCard,
    /// Its actions.
    pub actions: Vec<ActionView>,
    /// Number of actions done before it starts.
    pub starts: usize,
    /// Number of actions done when it is complete.
    pub ends: usize,
    /// Letters of the pieces it places, with their cut sizes.
    pub cuts: Vec<StepCut>,
    /// What is primed before it is placed, as words with its area.
    pub primes: Vec<String>,
    /// What has to cure first.
    pub waits: Vec<StepWait>,
}

/// What has to cure before a step.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepWait {
    /// How long, in hours.
    pub hours: f64,
    /// After which step, by its title.
    pub after: String,
    /// Why.
    pub because: String,
}

/// A piece that a step places.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StepCut {
    /// Letter on the drawing.
    pub letter: String,
    /// What people call it.
    pub name: String,
    /// Cut size as people read it, empty where it is not cut.
    pub size: String,
}

/// A point of a drop's way on the drawing.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct DropPoint {
    /// To the right, in.
    pub x: f64,
    /// Down, in.
    pub y: f64,
    /// Effort so far, in of water.
    pub head: f64,
    /// True where the water is behind something.
    pub behind: bool,
    /// True where it gets in behind something just here.
    pub enters: bool,
}

/// A finding as the screen shows it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FindingView {
    /// Number in the list, from 1; also stands on the drawing.
    pub number: usize,
    /// Stable code.
    pub code: String,
    /// How bad.
    pub severity: Severity,
    /// Under which water, empty where none is needed.
    pub scenario: String,
    /// True where it shows with the glue lost only.
    pub lost: bool,
    /// Ids of the pieces concerned.
    pub pieces: Vec<String>,
    /// Where to look, on the drawing: x, y.
    pub at: [f64; 2],
    /// The least head at which it happens.
    pub head: Option<HeadReading>,
    /// What happens.
    pub reason: String,
    /// What to do.
    pub remedy: String,
    /// How the drop gets there; empty where no water shows it.
    pub drop: Vec<DropPoint>,
    /// Ids of the openings and other features it shows at.
    pub features: Vec<String>,
    /// The walls it shows on, from 0 at the left.
    pub walls: Vec<usize>,
    /// The other places at which the same cause shows, on the drawing: x, y.
    pub also: Vec<[f64; 2]>,
}

/// A figure in force, for the panel of sizes.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FigureView {
    /// The figure with the profile's own value.
    #[serde(flatten)]
    pub figure: crate::profile::Figure,
    /// The value in force, as people read it.
    pub in_force: String,
    /// True where the job has a value of its own.
    pub own: bool,
    /// The product that asks for what is in force, where it is not what the profile or the job says.
    pub asked_by: Option<String>,
}

/// The least head at which one kind of water gets where it must not.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct WaterHeadView {
    /// Which water: `rain`, `unit-leak` (a unit leaks into its pan), `behind` (water behind the sheet); all features of the wall together.
    pub scenario: String,
    /// What people call it.
    pub name: String,
    /// `holds` or `lost`.
    pub glue: GlueView,
    /// Inches of water, `null` where there is no way in at less than is followed (12 in, or what the job asks where that is more).
    pub head_in: Option<f64>,
    /// The same in the readings people use.
    pub head: Option<HeadReading>,
    /// The least that is asked, in.
    pub floor: f64,
    /// What is reached at that head; empty where nothing is.
    pub reaches: String,
}

/// Whether adhesives and sealants hold.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum GlueView {
    /// They hold.
    Holds,
    /// All of them have let go.
    Lost,
}

/// What may be said of the moment shown.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct VerdictView {
    /// 1 water gets in, 2 water stands, 3 not as planned, 4 not finished, 5 dry while the glue holds, 6 dry by its laps: the first that holds.
    pub state: u8,
    /// The same in words.
    pub says: String,
    /// True in states 5 and 6.
    pub dry: bool,
    /// True in state 6.
    pub by_laps: bool,
    /// True where every step is done.
    pub finished: bool,
    /// Every water, with the glue holding and lost.
    pub heads: Vec<WaterHeadView>,
    /// What leans on glue, one for each kind of edge, what is unusual first.
    pub leans: Vec<LeanView>,
}

/// A kind of edge that is held by glue.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LeanView {
    /// In words.
    pub says: String,
    /// In how many places.
    pub places: usize,
    /// True where every school that makes it at all makes it so.
    pub usual: bool,
}

impl VerdictView {
    fn of(plan: &Plan, verdict: &Verdict, found: &[Finding]) -> Self {
        let heads = verdict.heads.iter().map(|w| WaterHeadView {
            scenario: w.kind.to_owned(),
            name: w.name.to_owned(),
            glue: if w.glue == Glue::Lost { GlueView::Lost } else { GlueView::Holds },
            head_in: w.head.map(Head::inches),
            head: w.head.map(HeadReading::from),
            floor: w.floor,
            reaches: w.target.map(|t| plan.targets[t].name.clone()).unwrap_or_default(),
        });
        Self {
            state: verdict.state.number(),
            says: verdict.state.says().to_owned(),
            dry: verdict.state.is_dry(),
            by_laps: verdict.state == State::ByLaps,
            finished: verdict.finished,
            heads: heads.collect(),
            leans: leaning(plan, found)
                .into_iter()
                .map(|l| LeanView { says: l.lean.says.clone(), places: l.places, usual: l.lean.usual })
                .collect(),
        }
    }
}

/// A wall at one moment.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct WallView {
    /// Number of actions done.
    pub done: usize,
    /// Number of all actions.
    pub total: usize,
    /// The elevation.
    pub elevation: Elevation,
    /// The rail, in the order in force.
    pub steps: Vec<StepView>,
    /// True where the order or the choice of steps is not the recipes' own.
    pub reordered: bool,
    /// The section asked for.
    pub section: Option<Section>,
    /// The stack of the chosen opening drawn apart, where asked for.
    pub exploded: Option<Exploded>,
    /// The school questions, the wall's first.
    pub schools: Vec<QuestionView>,
    /// What is said about the order in force.
    pub order: OrderView,
    /// What is wrong at this moment.
    pub findings: Vec<FindingView>,
    /// What may be said of it.
    pub verdict: VerdictView,
    /// The cut list, where it is asked for.
    pub cut_list: Vec<CutGroup>,
    /// Why the courses are as they are.
    pub courses_why: String,
    /// The layers of each run of walls.
    pub build_ups: Vec<BuildUpView>,
    /// Figures in force.
    pub figures: Vec<FigureView>,
    /// Steps, order, questions, cut list, courses, build-ups and figures are left out: they are as whoever asks has them.
    pub moment_only: bool,
    /// After a change: what is left out because it is as whoever asks has it.
    pub since: Option<Since>,
}

/// Answers for a wall.
///
/// # Errors
/// What is wrong with the job.
pub fn view(job: &Job, ask: &Ask) -> Result<WallView, Vec<Problem>> {
    let plan = build(job)?;
    view_plan(job, &plan, ask, &Known::default())
}

/// What was computed for other questions and may be known for this one: water part by part, evenings opening by opening.
#[derive(Debug, Default)]
pub struct Known {
    /// Parts of walls.
    pub water: KnownWater,
    /// Openings' evenings.
    pub evenings: KnownEvenings,
    /// Whoever asks may stop asking.
    pub stop: Stop,
}

impl Known {
    /// The same, shared, for somebody who may stop asking.
    pub fn until(&self, stop: &Stop) -> Self {
        Self { water: self.water.until(stop), evenings: self.evenings.until(stop), stop: stop.clone() }
    }
}

/// A mistake in data that ships with Kame, as a problem of the whole job.
fn data_problem(message: String) -> Vec<Problem> {
    vec![Problem::new("$", message)]
}

/// Answers for a wall whose plan is built already, with what is known from before.
///
/// # Errors
/// A sentence if the stage were no valid layup; that would be a mistake in recipe data.
pub fn view_plan(job: &Job, plan: &Plan, ask: &Ask, known: &Known) -> Result<WallView, Vec<Problem>> {
    let watered = || {
        let moment = Moment::with_known(plan, ask.done.unwrap_or(usize::MAX), &known.water)?;
        let (found, elevation) = rayon::join(|| moment.findings(plan), || elevation::draw(plan, &moment, ask.weather));
        Ok((moment, found, elevation))
    };
    // What the plan alone says is made beside the water, which leaves a core free for much of its time.
    let said = || if ask.moment_only { Ok(Planned::default()) } else { planned(job, plan, ask, &known.stop) };
    let (watered, said) = rayon::join(watered, said);
    let said = said?;
    let (moment, found, elevation) = watered.map_err(data_problem)?;
    // On a wall that is still being built, water is shown when it is asked for.
    let told = |f: &&Finding| {
        moment.finished || ask.weather != Weather::Dry || f.way.is_none() && f.severity != Severity::Pond
    };
    let shown: Vec<Finding> = found.iter().filter(told).cloned().collect();
    let causes = by_cause(plan, &shown);
    Ok(WallView {
        done: moment.done,
        total: plan.actions().count(),
        steps: said.steps,
        reordered: !job.sequence.order.is_empty() || !job.sequence.removed.is_empty(),
        section: ask.section.and_then(|s| section::cut(plan, &moment, ask.weather, &s)),
        exploded: ask.exploded.and_then(|o| exploded::explode(plan, &moment, o)),
        schools: said.schools,
        order: said.order,
        findings: causes.iter().enumerate().map(|(i, c)| finding(plan, i + 1, c)).collect(),
        verdict: VerdictView::of(plan, &moment.verdict(plan, &found), &found),
        cut_list: said.cut_list,
        courses_why: said.courses_why,
        build_ups: said.build_ups,
        figures: said.figures,
        moment_only: ask.moment_only,
        since: None,
        elevation,
    })
}

/// Answers for a wall and all its evenings at once, with what is known of them from before.
///
/// # Errors
/// A sentence if a stage were no valid layup; that would be a mistake in recipe data.
pub fn view_with_nights(
    job: &Job,
    plan: &Plan,
    ask: &Ask,
    known: &Known,
) -> Result<(WallView, Vec<NightView>), Vec<Problem>> {
    let (view, nights) = rayon::join(|| view_plan(job, plan, ask, known), || night_views(plan, &known.evenings));
    Ok((view?, nights.map_err(data_problem)?))
}

/// Why the courses lie as they do, stretch by stretch.
fn courses_why(plan: &Plan) -> String {
    let hung = plan.stretches.iter().filter(|s| !s.courses.courses.is_empty());
    let said = hung.map(|s| match s.name("").trim_start_matches(" on ") {
        "" => s.courses.why.clone(),
        name => format!("{name}: {}", s.courses.why),
    });
    said.collect::<Vec<_>>().join(" ")
}

fn questions(job: &Job, plan: &Plan, wall: usize) -> Result<Vec<QuestionView>, String> {
    let schools = crate::recipe::schools::Schools::of_wall()?;
    let refused =
        |r: Vec<crate::recipe::schools::Refused>| r.into_iter().map(|r| r.message).collect::<Vec<_>>().join(" ");
    let general = schools.complete(&job.wall.answers(wall, schools)).map_err(refused)?;
    let own = job.wall.own(wall).unwrap_or(&job.wall.schools);
    let openings = job.openings.iter().zip(&plan.openings);
    let openings: Vec<OpeningAnswers> = openings
        .map(|(o, p)| OpeningAnswers { feature: o.feature, id: &o.id, own: &o.schools, all: &p.answers })
        .collect();
    school_views(schools, own, &openings, &general)
}

/// How far above its entry a drop is first drawn, in.
const RAIN_COMES_FROM: f64 = 5.0;

fn steps(plan: &Plan) -> Result<Vec<StepView>, String> {
    let cures = crate::contact::cure_waits(plan)?;
    let primed: std::collections::HashMap<usize, f64> = crate::contact::primers(plan)?.into_iter().collect();
    let mut number = 0;
    let mut out = Vec::new();
    for &s in &plan.order {
        let step = &plan.steps[s];
        let removed = plan.is_removed(&step.id);
        let starts = number;
        let mut actions = Vec::new();
        let mut cuts = Vec::new();
        let mut primes = Vec::new();
        for a in &step.actions {
            let left_out = removed || plan.is_removed(&a.id);
            number += usize::from(!left_out);
            actions.push(ActionView {
                id: a.id.clone(),
                label: a.label.clone(),
                removed: left_out,
                number: if left_out { 0 } else { number },
            });
            if let crate::trade::Act::Place { piece, .. } | crate::trade::Act::Set { piece } = &a.act {
                let p = &plan.pieces[*piece];
                let round = plan.figures.length(fig::CUT_ROUND);
                let size = p
                    .cut
                    .as_ref()
                    .map(|c| format!("{} × {}", c.length.ceil_step(round), c.width.ceil_step(round)))
                    .unwrap_or_default();
                if let Some(ft2) = primed.get(piece).filter(|ft2| **ft2 > 0.0 && !left_out) {
                    let area = if *ft2 < 0.05 { "less than 0.1".to_owned() } else { format!("{ft2:.1}") };
                    primes.push(format!("under the {}, {area} ft²", p.name));
                }
                cuts.push(StepCut { letter: p.letter.clone(), name: p.name.clone(), size });
            }
        }
        let (title, opening) = (step.title.clone(), step.opening.clone().unwrap_or_default());
        out.push(StepView {
            id: step.id.clone(),
            title,
            phase: step.phase,
            trade: step.phase.trade(),
            opening,
            removed,
            card: step.card.clone(),
            actions,
            starts,
            ends: number,
            cuts,
            primes,
            waits: cures
                .iter()
                .filter(|w| w.step == s && !removed)
                .map(|w| {
                    let after = plan.steps[w.after].title.clone();
                    StepWait { hours: w.hours, after, because: w.because.clone() }
                })
                .collect(),
        });
    }
    Ok(out)
}

/// The walls that a cause shows on: those of its features, else those it lies along.
fn walls_of(plan: &Plan, cause: &Cause) -> Vec<usize> {
    let ends = [0.0].into_iter().chain(plan.corners.iter().map(|c| c.at.to_inches_f64()));
    let starts: Vec<f64> = ends.collect();
    let wall_at = |u: f64| starts.partition_point(|s| *s <= u).saturating_sub(1);
    let features = plan.openings.iter().filter(|o| cause.at.contains(&o.id.as_str()));
    let mut on: BTreeSet<usize> =
        features.map(|o| wall_at(f64::midpoint(o.rect.u0.to_inches_f64(), o.rect.u1.to_inches_f64()))).collect();
    if on.is_empty() {
        for f in [cause.told].into_iter().chain(cause.also.iter().copied()) {
            let [from, _, to, _] = f.place.1;
            let [from, to] = f.along.unwrap_or([from, to]);
            // The right end of a stretch that ends at a corner is not on the wall beyond it.
            on.extend(wall_at(from)..=wall_at((to - 0.01).max(from)));
        }
    }
    on.into_iter().collect()
}

/// The way a finding's water takes, on the drawing.
fn drop_of(plan: &Plan, f: &Finding) -> Vec<DropPoint> {
    f.way.as_ref().map_or_else(Vec::new, |way| {
        let enters = |i: usize| {
            way.passages
                .iter()
                .any(|p| p.point == i && matches!(p.kind, PassageKind::InBehind | PassageKind::InThroughCut))
        };
        let drawn = way.points.iter().enumerate().map(|(i, p)| {
            let [x, y] = elevation::map(plan, SurfaceId(p.facet.0), p.u, p.v);
            DropPoint { x, y, head: p.head.inches(), behind: p.behind.is_some(), enters: enters(i) }
        });
        let mut drawn: Vec<DropPoint> = drawn.collect();
        // Rain comes down the face before it gets in.
        if let Some(first) = drawn.first().copied().filter(|p| !p.behind) {
            drawn.insert(0, DropPoint { y: first.y - RAIN_COMES_FROM, enters: false, ..first });
        }
        drawn
    })
}

fn finding(plan: &Plan, number: usize, cause: &Cause) -> FindingView {
    let f = cause.told;
    let point = |f: &Finding| {
        let [u0, v0, u1, v1] = f.place.1;
        elevation::map(plan, f.place.0, (u0 + u1) / 2.0, (v0 + v1) / 2.0)
    };
    FindingView {
        number,
        code: f.code.clone(),
        severity: f.severity,
        scenario: f.scenario.clone(),
        lost: f.lost,
        pieces: f.pieces.clone(),
        at: point(f),
        head: f.head.map(HeadReading::from),
        reason: f.reason.clone(),
        remedy: f.remedy.clone(),
        drop: drop_of(plan, f),
        features: cause.at.iter().map(|id| (*id).to_owned()).collect(),
        walls: walls_of(plan, cause),
        also: cause.also.iter().map(|f| point(f)).collect(),
    }
}
