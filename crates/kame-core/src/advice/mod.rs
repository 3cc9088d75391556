//! Advice drawn from the interview (A1 to A11). Scores and reasons are data (`data/advice.toml`); the runner-up is always told, what the builder
//! decides otherwise is kept with the reason, and what is proposed together can be built together.

mod taken;
mod together;

pub use taken::{Followed, follow};

use crate::interview::{AdviceOption, Strategy, TAPE_ADVICE, data};
use crate::length::Length;
use crate::profile::{FigureSource, Figures, fig};
use crate::recipe::schools::{Answers, holds};
use crate::water::SIDEWAYS_PER_CLIMB;
use serde::Serialize;
use together::Chosen;

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
    /// What is in force: the best that goes with the rest, or what was decided otherwise.
    pub chosen: String,
    /// The builder decided, and it can be built.
    pub decided: bool,
    /// Why it was decided otherwise; empty where it was not, or no reason was given.
    pub reason: String,
    /// Why the best, or what was decided, does not go with the rest, and what is taken instead; empty where it does.
    pub instead: String,
    /// What taking it writes to walls, openings, figures and products, as sentences.
    pub writes: Vec<String>,
    /// What of it is not written, and why, as sentences.
    pub unwritten: Vec<String>,
    /// All of that is so already.
    pub stands: bool,
    /// What it rests on was asked.
    #[serde(skip)]
    asked: bool,
}

impl Advice {
    /// Something was decided, or something speaks for or against what is in force.
    fn speaks(&self) -> bool {
        self.decided
            || self.asked
                && (!self.instead.is_empty()
                    || self.ranked.iter().any(|r| r.id == self.chosen && !r.reasons.is_empty()))
    }
}

impl Ranked {
    /// What speaks for it.
    fn in_favour(&self) -> Vec<String> {
        self.reasons.iter().filter(|r| r.weight >= 0).map(|r| r.text.clone()).collect()
    }
}

/// All advice for what was answered, by its number, whatever is in the walls already.
///
/// # Errors
/// A sentence if the shipped data were broken; a test keeps it whole.
pub fn advise(strategy: &Strategy, figures: &Figures) -> Result<Vec<Advice>, String> {
    advise_with(&Chosen::best(data()?, strategy, &[])?, strategy, figures)
}

fn advise_with(chosen: &Chosen<'_>, strategy: &Strategy, figures: &Figures) -> Result<Vec<Advice>, String> {
    let mut out = Vec::new();
    for (spec, option) in &chosen.options {
        let ranked = chosen.ranked(spec);
        let decision = strategy.decisions.get(&spec.id);
        let wanted = decision.map_or(ranked[0].id.as_str(), |d| d.choice.as_str());
        let mut instead = String::new();
        if wanted != option.id {
            let name = ranked.iter().find(|r| r.id == wanted).map_or(wanted, |r| r.name.as_str());
            let why = chosen.against(&spec.id, wanted)?;
            let why = why.unwrap_or_else(|| "more speaks for the others that go with what is taken.".into());
            instead = format!("{name} is not taken: {why} The nearest that goes with the rest: {}.", option.name);
        }
        out.push(Advice {
            id: spec.id.clone(),
            about: spec.about.clone(),
            decided: decision.is_some_and(|d| d.choice == option.id),
            reason: decision.map(|d| d.reason.clone()).unwrap_or_default(),
            chosen: option.id.clone(),
            ranked,
            instead,
            writes: Vec::new(),
            unwritten: Vec::new(),
            stands: true,
            asked: true,
        });
    }
    let windows_first = chosen.writes().any(|(_, w)| w.question == "first" && w.answer == "windows");
    out.push(tape_width(strategy, figures, &data()?.tapes, windows_first));
    out.sort_by_key(|a| a.id.trim_start_matches('A').parse::<u32>().unwrap_or(u32::MAX));
    Ok(out)
}

/// An option with the reasons that are met.
fn rank(o: &AdviceOption, known: &Answers) -> Ranked {
    let met =
        o.rule.iter().filter(|r| r.when.split_whitespace().all(|part| answered(part, known) && holds(part, known)));
    let reasons: Vec<Reason> =
        met.map(|r| Reason { text: r.because.clone(), source: r.source, weight: r.score }).collect();
    Ranked { id: o.id.clone(), name: o.name.clone(), score: reasons.iter().map(|r| r.weight).sum(), reasons }
}

/// True where the question of a condition has been answered: nothing is concluded from what is not known.
fn answered(part: &str, known: &Answers) -> bool {
    part.split([':', '!']).next().is_some_and(|q| known.contains_key(q))
}

/// A3: the smallest stocked width that clears the trim's outer edge by the margin, and laps on the barrier.
fn tape_width(strategy: &Strategy, figures: &Figures, tapes: &[String], windows_first: bool) -> Advice {
    let trim = strategy.answers.get("trim").and_then(|t| Length::parse(t).ok()).unwrap_or(Length::ZERO);
    let on_frame = figures.length(fig::TAPE_ON_FRAME);
    let past_trim = trim + figures.length(fig::TRIM_MARGIN) + on_frame;
    // Where units go first, later courses end on the flashing: their side lap has to hold the floor sideways.
    let floor = figures.length(fig::FLOOR_RAIN).to_inches_f64() * SIDEWAYS_PER_CLIMB;
    let side_lap = Length::from_inches_f64(floor).filter(|_| windows_first).unwrap_or(Length::ZERO);
    let on_barrier = figures.length(fig::TAPE_ON_BARRIER).max(side_lap);
    let past_flange = figures.length(fig::FLANGE_USUAL) + on_barrier + on_frame;
    let needed = past_trim.max(past_flange);
    let stocked = tapes.iter().filter_map(|w| Length::parse(w).ok());
    let option = |w: Length| {
        let enough = w >= needed;
        let text = if enough {
            format!(
                "{w} clears {needed}: trim {trim}, {} past it so that the joint of siding and trim has tape behind it, {on_frame} on the frame; at least {} on the barrier.",
                figures.length(fig::TRIM_MARGIN),
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
        decided: decided.is_some(),
        ranked,
        instead: String::new(),
        writes: Vec::new(),
        unwritten: Vec::new(),
        stands: true,
        asked: strategy.answers.contains_key("trim"),
    }
}
