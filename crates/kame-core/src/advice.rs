//! Advice drawn from the interview (A1 to A11). Scores and reasons are data (`data/advice.toml`); the runner-up is always told, and what the builder decides otherwise is kept with the reason.

use crate::interview::{AdviceOption, Strategy, TAPE_ADVICE, data};
use crate::job::Job;
use crate::length::Length;
use crate::profile::{FigureSource, Figures, fig};
use crate::recipe::schools::{Answers, Feature, Schools, holds};
use crate::water::SIDEWAYS_PER_CLIMB;
use serde::Serialize;

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
    let of_wall = |q: &String| schools.question(q).is_some_and(|q| q.scope == crate::recipe::schools::Scope::Wall);
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
