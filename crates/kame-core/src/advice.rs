//! Strategy: what is asked before anything is planned, and the advice drawn from it (A1 to A11). Scores and reasons are data
//! (`data/advice.toml`); the runner-up is always told, and what the builder decides otherwise is kept with the reason.

use crate::detail::schools::{Answers, Feature, Schools, holds};
use crate::job::{Job, Problem};
use crate::length::Length;
use crate::profile::{FigureSource, Figures};
use crate::range::Range;
use crate::water::SIDEWAYS_PER_CLIMB;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::OnceLock;

const DATA: &str = include_str!("../data/advice.toml");

/// Characters of the reason for a decision.
pub const REASON: Range<usize> =
    Range { what: "the length of the reason in characters", least: 0, most: 300, remedy: "shorten it" };

/// What a builder decided otherwise than advised.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Decision {
    /// Which option.
    pub choice: String,
    /// Why.
    #[serde(default)]
    pub reason: String,
}

/// The interview as it stands.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Strategy {
    /// Answers by question, such as `"cladding": "lap"`.
    pub answers: BTreeMap<String, String>,
    /// Decisions by advice, such as `"A1"`.
    pub decisions: BTreeMap<String, Decision>,
}

/// An answer of the interview.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct InterviewOption {
    /// Stable name.
    pub id: String,
    /// What people call it.
    pub name: String,
}

/// A question of the interview.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct InterviewQuestion {
    /// Stable name.
    pub id: String,
    /// What is asked.
    pub ask: String,
    /// Its answers.
    #[serde(rename(deserialize = "option"))]
    pub options: Vec<InterviewOption>,
}

#[derive(Clone, Debug, Deserialize)]
struct Rule {
    when: String,
    score: i32,
    because: String,
    source: FigureSource,
}

#[derive(Clone, Debug, Deserialize)]
struct AdviceOption {
    id: String,
    name: String,
    #[serde(default)]
    rule: Vec<Rule>,
}

#[derive(Clone, Debug, Deserialize)]
struct AdviceSpec {
    id: String,
    about: String,
    sets: Option<String>,
    option: Vec<AdviceOption>,
}

#[derive(Clone, Debug, Deserialize)]
struct Data {
    tapes: Vec<String>,
    question: Vec<InterviewQuestion>,
    advice: Vec<AdviceSpec>,
}

fn data() -> Result<&'static Data, String> {
    static READ: OnceLock<Result<Data, String>> = OnceLock::new();
    let read = || toml::from_str(DATA).map_err(|e| format!("the advice data does not read: {e}"));
    READ.get_or_init(read).as_ref().map_err(Clone::clone)
}

/// One reason for or against an option.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Reason {
    /// The reason, as a sentence.
    pub text: String,
    /// Where it comes from.
    pub source: FigureSource,
    /// What it weighs; below zero it speaks against.
    pub weight: i32,
}

/// One option of an advice with its weight.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Ranked {
    /// Stable name.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// Sum of the weights of its reasons.
    pub score: i32,
    /// Its reasons.
    pub reasons: Vec<Reason>,
}

/// One advice: all options, the best first; the second is the runner-up.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Advice {
    /// `A1` to `A11`.
    pub id: String,
    /// What it is about.
    pub about: String,
    /// Options, the best first.
    pub ranked: Vec<Ranked>,
    /// What is in force: the best, or what was decided otherwise.
    pub chosen: String,
    /// Why it was decided otherwise; empty where it was not, or no reason was given.
    pub reason: String,
    /// The school question that it answers, where it does.
    pub sets: Option<String>,
}

/// The questions of the interview.
///
/// # Errors
/// A sentence if the shipped data were broken; a test keeps it whole.
pub fn interview() -> Result<&'static [InterviewQuestion], String> {
    Ok(&data()?.question)
}

impl Strategy {
    /// Everything that is not a question, answer, advice or option there is, or too long.
    pub fn problems(&self) -> Vec<Problem> {
        let Ok(data) = data() else { return Vec::new() };
        let mut out = Vec::new();
        for (q, a) in &self.answers {
            let path = format!("$.strategy.answers.{q}");
            match data.question.iter().find(|known| known.id == *q) {
                None => {
                    let known: Vec<&str> = data.question.iter().map(|q| q.id.as_str()).collect();
                    out.push(Problem::new(
                        path,
                        format!("there is no question \"{q}\"; choose one of: {}", known.join(", ")),
                    ));
                }
                Some(known) if known.options.iter().all(|o| o.id != *a) => {
                    let known: Vec<&str> = known.options.iter().map(|o| o.id.as_str()).collect();
                    out.push(Problem::new(
                        path,
                        format!("there is no answer \"{a}\"; choose one of: {}", known.join(", ")),
                    ));
                }
                Some(_) => {}
            }
        }
        for (id, d) in &self.decisions {
            let path = format!("$.strategy.decisions.{id}");
            let known = data.advice.iter().find(|a| a.id == *id);
            let options: Vec<&str> = match known {
                _ if id == TAPE_ADVICE => data.tapes.iter().map(String::as_str).collect(),
                Some(a) => a.option.iter().map(|o| o.id.as_str()).collect(),
                None => Vec::new(),
            };
            if !options.contains(&d.choice.as_str()) {
                let message = format!(
                    "there is no option \"{}\" of advice \"{id}\"; choose one of: {}",
                    d.choice,
                    options.join(", ")
                );
                out.push(Problem::new(path, message));
            } else if let Err(message) = REASON.check(d.reason.chars().count()) {
                out.push(Problem::new(path, message));
            }
        }
        out
    }
}

/// The advice that is arithmetic.
const TAPE_ADVICE: &str = "A3";
/// Where it stands among the others.
const TAPE_PLACE: usize = 2;

/// All advice for what was answered; each may rest on those before it.
///
/// # Errors
/// A sentence if the shipped data were broken; a test keeps it whole.
pub fn advise(strategy: &Strategy, figures: &Figures) -> Result<Vec<Advice>, String> {
    let mut known: Answers = strategy.answers.clone();
    let mut out = Vec::new();
    for spec in &data()?.advice {
        let rank = |o: &AdviceOption| {
            let met = o
                .rule
                .iter()
                .filter(|r| r.when.split_whitespace().all(|part| answered(part, &known) && holds(part, &known)));
            let reasons: Vec<Reason> =
                met.map(|r| Reason { text: r.because.clone(), source: r.source, weight: r.score }).collect();
            Ranked { id: o.id.clone(), name: o.name.clone(), score: reasons.iter().map(|r| r.weight).sum(), reasons }
        };
        let mut ranked: Vec<Ranked> = spec.option.iter().map(rank).collect();
        // Stable: of equals the one named first.
        ranked.sort_by_key(|r| -r.score);
        let decided = strategy.decisions.get(&spec.id);
        let chosen = decided.map_or_else(|| ranked[0].id.clone(), |d| d.choice.clone());
        known.insert(spec.id.clone(), chosen.clone());
        let reason = decided.map(|d| d.reason.clone()).unwrap_or_default();
        out.push(Advice {
            id: spec.id.clone(),
            about: spec.about.clone(),
            ranked,
            chosen,
            reason,
            sets: spec.sets.clone(),
        });
    }
    let windows_first = out.iter().any(|a| a.sets.as_deref() == Some("first") && a.chosen == "windows");
    out.insert(TAPE_PLACE.min(out.len()), tape_width(strategy, figures, &data()?.tapes, windows_first));
    Ok(out)
}

/// True where the question of a condition has been answered: nothing is concluded from what is not known.
fn answered(part: &str, known: &Answers) -> bool {
    part.split([':', '!']).next().is_some_and(|q| known.contains_key(q))
}

/// A3: the smallest stocked width that clears the trim's outer edge by the margin, and laps on the barrier.
fn tape_width(strategy: &Strategy, figures: &Figures, tapes: &[String], windows_first: bool) -> Advice {
    let trim = strategy.answers.get("trim").and_then(|t| Length::parse(t).ok()).unwrap_or(Length::ZERO);
    let on_frame = figures.length("tape_on_frame");
    let past_trim = trim + figures.length("trim_margin") + on_frame;
    // Where units go first, later courses end on the flashing: their side lap has to hold the floor sideways.
    let floor = figures.length("floor_rain").to_inches_f64() * SIDEWAYS_PER_CLIMB;
    let side_lap = Length::from_inches_f64(floor).filter(|_| windows_first).unwrap_or(Length::ZERO);
    let on_barrier = figures.length("tape_on_barrier").max(side_lap);
    let past_flange = figures.length("flange_usual") + on_barrier + on_frame;
    let needed = past_trim.max(past_flange);
    let stocked = tapes.iter().filter_map(|w| Length::parse(w).ok());
    let option = |w: Length| {
        let enough = w >= needed;
        let text = if enough {
            format!(
                "{w} clears {needed}: trim {trim}, {} past it so that the joint of siding and trim has tape behind it, {on_frame} on the frame; at least {} on the barrier.",
                figures.length("trim_margin"),
                on_barrier
            )
        } else {
            format!("{w} is short of {needed}: the joint between trim and siding would have no tape behind it.")
        };
        let weight = if enough { 10 - (w.units() / Length::inch(1).units()) as i32 / 2 } else { -9 };
        let reasons = vec![Reason { text, source: FigureSource::Practice, weight }];
        Ranked { id: w.inches(16).to_string(), name: format!("{w} tape"), score: weight, reasons }
    };
    let mut ranked: Vec<Ranked> = stocked.map(option).collect();
    ranked.sort_by_key(|r| -r.score);
    let decided = strategy.decisions.get(TAPE_ADVICE);
    Advice {
        id: TAPE_ADVICE.into(),
        about: "Tape width".into(),
        chosen: decided.map_or_else(|| ranked[0].id.clone(), |d| d.choice.clone()),
        reason: decided.map(|d| d.reason.clone()).unwrap_or_default(),
        ranked,
        sets: None,
    }
}

/// The job with everything set as advised or decided: the wall's schools, the openings' where they have none of their own, the tape width.
/// What cannot be built together keeps to what was decided first.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn follow(job: &Job, figures: &Figures) -> Result<Job, String> {
    let schools = Schools::shipped()?;
    let mut next = job.clone();
    let mut given = Answers::new();
    for a in advise(&job.strategy, figures)? {
        if a.id == TAPE_ADVICE {
            next.figures.insert("jamb_tape_width".into(), a.chosen.clone());
            next.figures.insert("head_tape_width".into(), a.chosen);
            continue;
        }
        let Some(question) = a.sets else { continue };
        // The plane at the insulation's face is a barrier of its own.
        let (question, choice) = match (question.as_str(), a.chosen.as_str()) {
            ("outside", "face") => {
                given.insert("outside".into(), "none".into());
                ("barrier".to_owned(), "insulation-face".to_owned())
            }
            _ => (question, a.chosen),
        };
        let mut with = given.clone();
        with.insert(question, choice);
        if schools.complete(&with).is_ok() {
            given = with;
        }
    }
    let given = schools.settled(&given, None);
    let of_wall = |q: &String| schools.question(q).is_some_and(|q| q.scope == crate::detail::schools::Scope::Wall);
    let (wall, opening): (Answers, Answers) = given.into_iter().partition(|(q, _)| of_wall(q));
    next.wall.schools = Schools::of_wall()?.with_the_rest(wall, &job.wall.schools);
    // What comes through otherwise has questions of its own; it keeps its answers where they can still be built.
    for o in &mut next.openings {
        let of = Schools::of(o.feature)?;
        if o.feature != Feature::Opening {
            let wall = of.asked(&next.wall.schools);
            let settled = of.settled(&wall.into_iter().chain(o.schools.clone()).collect(), None);
            o.schools.retain(|q, _| settled.contains_key(q));
            continue;
        }
        o.schools.retain(|q, _| !opening.contains_key(q));
        o.schools.extend(opening.clone());
        let all = |o: &Answers| {
            schools.asked(&next.wall.schools).iter().chain(o).map(|(q, c)| (q.clone(), c.clone())).collect::<Answers>()
        };
        let settled = schools.settled(&all(&o.schools), None);
        o.schools.retain(|q, _| settled.contains_key(q));
    }
    Ok(next)
}
