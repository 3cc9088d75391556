//! A scene of practice as the screen shows it, without what would give the answer away; and what comes of an answer.

use super::ask::{Known, SectionAsk, SectionKind, Weather, data_problem};
use super::elevation::{Elevation, draw};
use super::exploded::{Exploded, explode};
use super::finding::{DropPoint, drop_of};
use super::section::{Section, cut};
use super::step_picture::{StepPicture, picture_of, step_pictures};
use crate::findings::Moment;
use crate::layup::Bond;
use crate::length::Length;
use crate::plan::{AsBuilt, Part, Plan, SurfaceId};
use crate::practice::{
    CallQuestion, Drill, DrillAnswer, Graded, LEVELS, Said, Scene, SceneTask, Which, fault_name, grade, look,
};
use crate::problem::Problem;
use crate::record::{Conditions, go_rules};
use crate::remedies::is_cause_of_worry;
use crate::sequence::Stage;
use crate::trade::PieceId;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// A step that can be laid.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LayView {
    /// Id of the step.
    pub step: String,
    /// Its title.
    pub title: String,
    /// What it lays, as it lies on the wall.
    pub picture: Option<StepPicture>,
}

/// A name to choose from.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FaultNameView {
    /// Id of the catalogue.
    pub id: String,
    /// What people call it.
    pub name: String,
}

/// A piece whose size is asked.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SizeAskView {
    /// What people call it.
    pub name: String,
    /// Generic material.
    pub product: String,
    /// Its width, which the roll gives.
    pub width: String,
    /// What the rules ask, in words.
    pub rules: Vec<String>,
    /// The step that lays it.
    pub picture: Option<StepPicture>,
}

/// Weather on a step.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CallView {
    /// Title of the step.
    pub title: String,
    /// What it sticks, coats or seals with, each with what it asks.
    pub products: Vec<String>,
    /// What it is like there.
    pub now: Conditions,
    /// Dew point, °F, at the first levels, where it can be worked out.
    pub dew_f: Option<f64>,
    /// Minutes until it skins there, at the first levels, where anything is known of that.
    pub skin_min: Option<f64>,
}

/// Something that was found, and what could be done.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FoundView {
    /// What it is, in a sentence.
    pub says: String,
    /// The wall there.
    pub picture: Option<StepPicture>,
    /// What can be chosen.
    pub choices: Vec<String>,
}

/// What laps with a piece.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LapView {
    /// What people call it.
    pub name: String,
    /// How far the two lap, the short way, in.
    pub by: String,
}

/// How a piece lies: what a hand feels that lifts its edge.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LiesView {
    /// Id of the piece.
    pub piece: String,
    /// What people call it.
    pub name: String,
    /// What it lies over.
    pub over: Vec<LapView>,
    /// What lies over it.
    pub behind: Vec<LapView>,
    /// Names of beads and smears behind it.
    pub beads: Vec<String>,
    /// What else a hand feels, in a sentence each: an edge that stands open, edges that were not rolled.
    pub feels: Vec<String>,
    /// What the card asks of it, at the first levels.
    pub asked: Vec<String>,
}

/// A scene.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SceneView {
    /// Which it is.
    pub which: Which,
    /// What is to be learnt at this level, in a sentence.
    pub aim: String,
    /// The wall as the learner meets it.
    pub elevation: Elevation,
    /// Steps to lay, mixed.
    pub lay: Vec<LayView>,
    /// Names of faults to choose from, and how many there are to find.
    pub names: Vec<FaultNameView>,
    /// How many faults there are to find.
    pub to_find: usize,
    /// The wall cut through head, sill and jamb of its openings, where something is to be found.
    pub sections: Vec<Section>,
    /// Its openings drawn apart, where something is to be found.
    pub apart: Vec<Exploded>,
    /// How each piece lies, where something is to be found.
    pub lies: Vec<LiesView>,
    /// Pieces whose sizes are asked.
    pub sizes: Vec<SizeAskView>,
    /// Weather to call.
    pub calls: Vec<CallView>,
    /// By what weather is judged, at the first levels.
    pub call_rules: Vec<String>,
    /// Things that were found.
    pub found: Vec<FoundView>,
}

/// The wall with what was laid so far.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LaidView {
    /// As it stands.
    pub elevation: Elevation,
    /// What could not be laid, in a sentence each.
    pub blocked: Vec<String>,
    /// True where the last that was laid sticks: taken back it is thrown away.
    pub sticks: bool,
}

/// What comes of an answer.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct GradedView {
    /// From 0 to 100.
    pub points: f64,
    /// True where everything was right.
    pub clean: bool,
    /// One sentence for each thing.
    pub says: Vec<Said>,
    /// Faults that were known.
    pub known: Vec<String>,
    /// Faults that were missed or made.
    pub missed: Vec<String>,
    /// The wall as the learner left it, finished; `null` where nothing was laid.
    pub elevation: Option<Elevation>,
    /// How the water got in; empty where it did not.
    pub drop: Vec<DropPoint>,
}

/// Openings of a wall that are cut and drawn apart.
const MOST_CUT: usize = 4;

/// What is to be learnt at each level, on what kind of wall.
const AIMS: [&str; LEVELS as usize] = [
    "Laps: what is higher lies over what is lower.",
    "One window on a face that is taped or coated: sill first, head last.",
    "A loose sheet: what is slit, lifted and dropped again.",
    "Any barrier, any way of the trade: what leans on glue and what on laps.",
    "Windows first, insulation outside, plaster: everything at once.",
];
/// The same where sizes are asked.
const SIZE_AIMS: [&str; LEVELS as usize] = [
    "One size: the opening, and what goes past it on both sides.",
    "Two sizes on a face that is taped or coated.",
    "Three sizes on a loose sheet.",
    "Four sizes, any barrier, any way of the trade.",
    "Five sizes: windows first, insulation outside, plaster.",
];
/// The same where weather is called.
const CALL_AIMS: [&str; LEVELS as usize] = [
    "Two calls, by the rules below.",
    "Three calls, by the rules below.",
    "Four calls, by heart.",
    "Five calls, by heart, for any product.",
    "Six calls, by heart, for any product.",
];
/// Up to this level the rules stand beside the questions: those of weather, with what has to be worked out for them, and what cards ask of a piece.
const RULES_SHOWN: u8 = 2;
/// On plans of more pieces nobody feels his way through all of them.
const MOST_FELT: usize = 400;

/// A wall of so many times its height is too wide to be shown whole in a small picture.
const WIDEST_WHOLE: f64 = 4.0;

fn aim(which: &Which) -> String {
    let aims = match which.drill {
        Drill::Order | Drill::Find | Drill::Repair => &AIMS,
        Drill::Measure => &SIZE_AIMS,
        Drill::Call => &CALL_AIMS,
    };
    aims[usize::from(which.level.clamp(1, LEVELS)) - 1].to_owned()
}

/// A scene without its answer.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn scene_view(scene: &Scene, known: &Known) -> Result<SceneView, Vec<Problem>> {
    let mut out = SceneView {
        which: scene.which.clone(),
        aim: aim(&scene.which),
        elevation: stands(&scene.plan, usize::MAX, known)?,
        lay: Vec::new(),
        names: Vec::new(),
        to_find: 0,
        sections: Vec::new(),
        apart: Vec::new(),
        lies: Vec::new(),
        sizes: Vec::new(),
        calls: Vec::new(),
        call_rules: Vec::new(),
        found: Vec::new(),
    };
    match &scene.task {
        SceneTask::Order(task) => {
            let looked = look(scene, &[])?;
            out.elevation = stands(&looked.plan, looked.done, known)?;
            out.lay = task.to_lay.iter().map(|id| lay(&scene.plan, id)).collect();
        }
        SceneTask::Find(task) => {
            out.to_find = task.targets.len();
            (out.sections, out.apart) = looked_through(&scene.plan, known)?;
            out.lies = lies(&scene.plan, scene.which.level <= RULES_SHOWN);
            let name =
                |id: &String| FaultNameView { id: id.clone(), name: fault_name(id).unwrap_or_default().to_owned() };
            out.names = task.names.iter().map(name).collect();
        }
        SceneTask::Measure(task) => {
            out.sizes = task
                .iter()
                .map(|a| {
                    let step = scene.plan.steps.iter().find(|s| s.id == a.step);
                    let card = step.map(|s| [&s.card.what, &s.card.over, &s.card.check]).into_iter().flatten();
                    // What is asked is not said.
                    let hidden = |text: &String| text.replace(&a.length.to_string(), "…");
                    SizeAskView {
                        name: a.name.clone(),
                        product: a.product.clone(),
                        width: a.width.to_string(),
                        rules: card.filter(|t| !t.is_empty()).map(hidden).collect(),
                        picture: lay(&scene.plan, &a.step).picture,
                    }
                })
                .collect();
        }
        SceneTask::Call(task) => {
            let shown = scene.which.level <= RULES_SHOWN;
            if shown {
                out.call_rules = go_rules(&scene.plan.basis.figures);
            }
            out.calls = task.iter().map(|q| call_view(&scene.plan, q, shown)).collect();
        }
        SceneTask::Repair(tasks) => {
            for t in tasks {
                let kind = crate::plan::found_kind(t.found.what).map_err(data_problem)?;
                out.found.push(FoundView {
                    says: kind.says.clone(),
                    picture: picture_of(&t.plan, &format!("{}/found", t.found.id)),
                    choices: t.choices.iter().map(|c| c.title.clone()).collect(),
                });
            }
        }
    }
    Ok(out)
}

/// Weather to call; what has to be worked out for it only where that is shown.
fn call_view(plan: &Plan, q: &CallQuestion, shown: bool) -> CallView {
    let asks = |name: &String| {
        let p = plan.product(name);
        let least = p.and_then(|p| p.least_f).map(|f| format!(", not under {f} °F")).unwrap_or_default();
        let asks = p.map(|p| p.asks.clone()).filter(|a| !a.is_empty()).map(|a| format!(": {a}")).unwrap_or_default();
        format!("{name}{asks}{least}")
    };
    CallView {
        title: q.title.clone(),
        products: q.products.iter().map(asks).collect(),
        now: q.now,
        dew_f: q.right.dew_f.filter(|_| shown),
        skin_min: q.right.skin_min.filter(|_| shown),
    }
}

/// The finished wall cut through each of its openings, and drawn apart there, without water.
fn looked_through(plan: &Plan, known: &Known) -> Result<(Vec<Section>, Vec<Exploded>), Vec<Problem>> {
    let moment = Moment::with_known(plan, usize::MAX, &known.water).map_err(data_problem)?;
    let (mut sections, mut apart) = (Vec::new(), Vec::new());
    for opening in 0..plan.openings.len().min(MOST_CUT) {
        let kinds = [SectionKind::Head, SectionKind::Sill, SectionKind::Jamb];
        let cuts = kinds.map(|kind| cut(plan, &moment, Weather::Dry, &SectionAsk { opening, kind, at: 0.5 }));
        sections.extend(cuts.into_iter().flatten());
        apart.extend(explode(plan, &moment, opening));
    }
    Ok((sections, apart))
}

/// How each piece lies on the finished wall, by name, with what its card asks where that is shown.
fn lies(plan: &Plan, cards: bool) -> Vec<LiesView> {
    if plan.pieces.len() > MOST_FELT {
        return Vec::new();
    }
    let stage = Stage::after(plan, plan.actions().map(|(_, a)| a));
    let name = |p: PieceId| plan.pieces[p].name.clone();
    let there = plan.pieces.keys().filter(|p| stage.layers.iter().any(|l| l.piece == *p));
    let each = there.map(|piece| {
        let (mut over, mut behind) = (BTreeMap::new(), BTreeMap::new());
        for (rank, mine) in stage.layers.iter().enumerate().filter(|(_, l)| l.piece == piece) {
            for (other, l) in stage.layers.iter().enumerate().filter(|(_, l)| l.piece != piece && l.on == mine.on) {
                if let Some(lap) = l.rect.intersection(mine.rect) {
                    let to = if other < rank { &mut over } else { &mut behind };
                    let by = to.entry(name(l.piece)).or_insert(Length::ZERO);
                    *by = (*by).max(lap.width().min(lap.height()));
                }
            }
        }
        let beads = stage.seals.iter().filter(|s| plan.seals[**s].behind == piece);
        let beads: BTreeSet<String> = beads.map(|s| plan.seals[*s].name.clone()).collect();
        let of = |laps: BTreeMap<String, Length>| {
            laps.into_iter().map(|(name, by)| LapView { name, by: by.to_string() }).collect()
        };
        let mouth = plan.departures.as_built.iter().any(|a| matches!(a, AsBuilt::Mouth { .. }) && a.piece() == piece);
        let lacks = |bond| plan.pieces[piece].bond == bond && stage.bond(piece) == Bond::None;
        let card = plan.step_of(Part::Piece(piece)).filter(|_| cards).map(|s| &s.card);
        let felt = [
            (mouth, "An edge stands open: a wrinkle."),
            (lacks(Bond::Full), "Its edges lift: nothing holds them down."),
            (lacks(Bond::Cured), "It comes off on the finger: it has not cured."),
        ];
        LiesView {
            piece: plan.pieces[piece].id.clone(),
            name: name(piece),
            over: of(over),
            behind: of(behind),
            beads: beads.into_iter().collect(),
            feels: felt.into_iter().filter(|f| f.0).map(|f| f.1.to_owned()).collect(),
            asked: card.map(|c| [&c.over, &c.check]).into_iter().flatten().filter(|t| !t.is_empty()).cloned().collect(),
        }
    });
    each.collect()
}

/// The elevation at a moment, without water and letters that help.
fn stands(plan: &Plan, done: usize, known: &Known) -> Result<Elevation, Vec<Problem>> {
    let moment = Moment::with_known(plan, done, &known.water).map_err(data_problem)?;
    Ok(draw(plan, &moment, Weather::Dry))
}

fn lay(plan: &Plan, id: &str) -> LayView {
    let step = plan.steps.iter().find(|s| s.id == id);
    let opening = step.and_then(|s| s.opening.as_deref());
    // What belongs to the wall and not to an opening is shown where it is on the wall.
    let wall = &plan.surfaces[SurfaceId::WALL].facet;
    let (width, height) = (wall.width.to_inches_f64(), wall.height.to_inches_f64());
    let whole = opening.is_none() && width < WIDEST_WHOLE * height;
    let alone = |p: StepPicture| StepPicture {
        before: Vec::new(),
        frame: if whole { [0.0, 0.0, width, height] } else { p.frame },
        ..p
    };
    let picture = step_pictures(plan, opening, Some(id)).into_iter().next().map(alone);
    LayView { step: id.to_owned(), title: step.map_or(String::new(), |s| s.title.clone()), picture }
}

/// The wall with what was laid so far.
///
/// # Errors
/// What is wrong with the answer.
pub fn laid_view(scene: &Scene, steps: &[String], known: &Known) -> Result<LaidView, Vec<Problem>> {
    let looked = look(scene, steps)?;
    let elevation = stands(&looked.plan, looked.done, known)?;
    Ok(LaidView { elevation, blocked: looked.blocked, sticks: looked.sticks })
}

/// Grades an answer, and shows the wall as it was left.
///
/// # Errors
/// What is wrong with the answer.
pub fn graded_view(scene: &Scene, answer: &DrillAnswer, known: &Known) -> Result<GradedView, Vec<Problem>> {
    let Graded { points, clean, says, known: right, missed } = grade(scene, answer, &known.water)?;
    let plan = match answer {
        DrillAnswer::Order { steps, .. } => Some(look(scene, steps)?.plan),
        DrillAnswer::Find { .. } => Some(scene.plan.clone()),
        _ => None,
    };
    let (mut elevation, mut drop) = (None, Vec::new());
    if let Some(plan) = plan {
        let moment = Moment::with_known(&plan, usize::MAX, &known.water).map_err(data_problem)?;
        let found = moment.findings(&plan);
        let ways = found.iter().filter(|f| is_cause_of_worry(f)).map(|f| drop_of(&plan, f));
        drop = ways.into_iter().find(|d| !d.is_empty()).unwrap_or_default();
        elevation = Some(draw(&plan, &moment, Weather::Dry));
    }
    Ok(GradedView { points, clean, says, known: right, missed, elevation, drop })
}
