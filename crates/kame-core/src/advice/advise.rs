//! What is advised for what was answered.

use super::ranked::{Advice, Ranked, Reason};
use super::together::Chosen;
use crate::interview::{Strategy, TAPE_ADVICE, data};
use crate::length::Length;
use crate::profile::{FigureSource, Figures, fig};
use crate::water::SIDEWAYS_PER_CLIMB;

/// All advice for what was answered, by its number, whatever is in the walls already.
///
/// # Errors
/// A sentence if the shipped data were broken; a test keeps it whole.
pub fn advise(strategy: &Strategy, figures: &Figures) -> Result<Vec<Advice>, String> {
    advise_with(&Chosen::best(data()?, strategy, &[])?, strategy, figures)
}

pub(super) fn advise_with(chosen: &Chosen<'_>, strategy: &Strategy, figures: &Figures) -> Result<Vec<Advice>, String> {
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
        Ranked { id: w.inches(16).to_string(), name: format!("{w} tape"), score: weight, reasons, writes: Vec::new() }
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
