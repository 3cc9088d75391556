//! Cards of what is hung on the whole wall. What stands on them is data, filled in from the figures by which the same is counted (handbook 3.1).

use super::{Fitting, Plan, Stretch};
use crate::layup::Bond;
use crate::recipe::expr::{Env, ExprError};
use crate::recipe::schools::{Answers, BarrierKind, BarrierSpec, Feature, holds};
use crate::recipe::{FitOf, Role};
use crate::surface::Rect;
use crate::trade::{Band, Phase, Step, StepCard};
use serde::Deserialize;
use std::sync::{Arc, OnceLock};

const DATA: &str = include_str!("../../data/hung.toml");

/// A sentence, said where the answers fit.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Sentence {
    #[serde(default)]
    when: String,
    say: String,
}

/// A card as it stands in the data.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct CardSpec {
    id: String,
    title: Vec<Sentence>,
    band: Band,
    phase: Phase,
    what: Vec<Sentence>,
    #[serde(default)]
    over: Vec<Sentence>,
    check: Vec<Sentence>,
    why: Vec<Sentence>,
    /// Empty where the barrier's own caution stands there.
    #[serde(default)]
    caution: String,
    /// What is measured before anything else is done; empty where nothing is.
    #[serde(default)]
    measure: String,
    /// The checks of that measure.
    #[serde(default)]
    measured_by: Vec<String>,
    /// What is said of the fasteners of the step.
    #[serde(default)]
    fasten: Vec<Sentence>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    card: Vec<CardSpec>,
    /// What is said of a course that is fitted round something.
    fitted: Vec<Sentence>,
}

fn shipped() -> Result<&'static File, String> {
    static READ: OnceLock<Result<File, String>> = OnceLock::new();
    let read = || toml::from_str(DATA).map_err(|e| format!("the cards of what is hung do not read: {e}"));
    READ.get_or_init(read).as_ref().map_err(Clone::clone)
}

/// Says on the cards of courses round what they are fitted.
///
/// # Errors
/// [`ExprError`] where the data names something that is not there.
pub fn say_what_is_fitted<'s>(plan: &Plan, steps: impl Iterator<Item = &'s mut Arc<Step>>) -> Result<(), ExprError> {
    let broken = |expr: String| ExprError::Unknown { name: "fitted".to_owned(), expr };
    let (sentences, env) = (&shipped().map_err(broken)?.fitted, Env::of(&plan.basis.figures));
    // How courses meet units that stand before them is on their own cards.
    let comes_through = |f: &&Fitting| {
        f.of == FitOf::Courses
            && plan.pieces[f.unit].opening.is_some_and(|o| plan.openings[o].feature == Feature::Penetration)
    };
    let fits: Vec<&Fitting> = plan.fits.iter().filter(comes_through).collect();
    if fits.is_empty() {
        return Ok(());
    }
    for step in steps {
        let laid = step.actions.iter().filter_map(|a| a.act.placed()).map(|p| &plan.pieces[p]);
        let sheets: Vec<Rect> =
            laid.filter(|p| p.role == Role::Barrier).flat_map(|p| p.regions.iter().map(|(_, r)| *r)).collect();
        for fit in &fits {
            let tucked = fit.tuck.iter().find(|(_, r)| sheets.iter().any(|s| s.overlaps(*r)));
            if tucked.is_none() && !fit.away.iter().any(|a| sheets.iter().any(|s| s.overlaps(*a))) {
                continue;
            }
            let unit = &plan.pieces[fit.unit];
            let place = unit.opening.map_or("", |o| plan.openings[o].name.as_str());
            let thing = format!("the {} ({place})", unit.name);
            let flange = tucked.map_or(String::new(), |(p, _)| plan.pieces[*p].name.clone());
            let answers: Answers =
                [("tucked".to_owned(), if tucked.is_some() { "yes" } else { "no" }.to_owned())].into_iter().collect();
            for s in sentences.iter().filter(|s| holds(&s.when, &answers)) {
                let said = filled(&s.say, &[("thing", &thing), ("flange", &flange)], &env)?;
                let what = format!("{} {said}", step.card.what);
                Arc::make_mut(&mut Arc::make_mut(step).card).what = what;
            }
        }
    }
    Ok(())
}

/// A card filled in, with what else its step says.
#[derive(Clone, Debug)]
pub struct Card {
    /// Title of the step.
    pub title: String,
    /// Its band in the order of work.
    pub band: Band,
    /// Its phase.
    pub phase: Phase,
    /// The card.
    pub card: StepCard,
    /// What is measured before anything else is done, and the checks of that.
    pub measure: Option<(String, Vec<String>)>,
    /// What is said of its fasteners; empty where it has none.
    pub fasten: String,
}

/// What a card is filled in with beside the wall's answers and the figures.
#[derive(Clone, Debug, Default)]
pub struct Facts<'a> {
    /// Answers to questions that nobody is asked: which of several things is hung.
    pub answers: Vec<(&'a str, &'a str)>,
    /// Words that stand for a name in braces.
    pub words: Vec<(&'a str, String)>,
}

/// A card of a stretch, filled in.
///
/// # Errors
/// [`ExprError`] where the data names no card, or something that is not there.
pub fn card(plan: &Plan, on: &Stretch, spec: &BarrierSpec, id: &str, facts: &Facts) -> Result<Card, ExprError> {
    let broken = |expr: String| ExprError::Unknown { name: id.to_owned(), expr };
    let of = shipped().map_err(broken)?.card.iter().find(|c| c.id == id).ok_or_else(|| broken("a card".into()))?;
    let mut answers: Answers = on.answers.clone();
    let shape = match spec.kind {
        BarrierKind::Courses => "courses",
        BarrierKind::Panels => "panels",
        BarrierKind::Coat => "coat",
    };
    let joints = if spec.kind == BarrierKind::Coat || spec.joint_bond == Bond::Cured { "liquid" } else { "tape" };
    let bond = if spec.bond == Bond::Full { "stuck" } else { "loose" };
    let own = [("shape", shape), ("joints", joints), ("bond", bond)];
    answers.extend(own.iter().chain(&facts.answers).map(|(q, a)| ((*q).to_owned(), (*a).to_owned())));
    let env = Env::of(&plan.basis.figures);
    let own = [("barrier", &spec.name), ("joint", &spec.joint), ("check", &spec.check)];
    let words: Vec<(&str, &String)> = own.into_iter().chain(facts.words.iter().map(|(n, w)| (*n, w))).collect();
    let fill = |sentences: &[Sentence]| {
        let said = sentences.iter().filter(|s| holds(&s.when, &answers)).map(|s| filled(&s.say, &words, &env));
        let said = said.map(|text| text.map(|t| t.trim().to_owned()));
        said.collect::<Result<Vec<_>, _>>().map(|said| said.join(" "))
    };
    let caution = if of.caution.is_empty() { spec.caution.clone() } else { of.caution.clone() };
    let card = StepCard {
        what: fill(&of.what)?,
        over: fill(&of.over)?,
        check: fill(&of.check)?,
        why: fill(&of.why)?,
        caution,
    };
    let measure = (!of.measure.is_empty()).then(|| (of.measure.clone(), of.measured_by.clone()));
    Ok(Card { title: fill(&of.title)?, band: of.band, phase: of.phase, card, measure, fasten: fill(&of.fasten)? })
}

/// A sentence with its words put in and the rest of its braces filled in. Words are put in as they are: people type names with braces, too.
fn filled(say: &str, words: &[(&str, &String)], env: &Env) -> Result<String, ExprError> {
    let word = words.iter().find_map(|(name, word)| Some((say.split_once(&format!("{{{name}}}"))?, word)));
    match word {
        Some(((before, after), word)) => {
            Ok([filled(before, words, env)?, (*word).clone(), filled(after, words, env)?].concat())
        }
        None => env.fill(say),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::Job;
    use crate::plan::build;
    use crate::recipe::schools::Schools;

    /// What cards ask beside the questions of the wall.
    const OWN: [&str; 9] = ["shape", "joints", "bond", "course", "highest", "ripped", "furred", "paper", "coats"];
    const WORDS: [&str; 9] = ["barrier", "joint", "check", "corners", "number", "bottom", "top", "height", "times"];

    #[test]
    fn a_name_with_braces_stands_on_the_card_as_it_was_typed() {
        let (name, none) = ("North {lap} } {".to_owned(), String::new());
        let words = [("corners", &name), ("check", &none)];
        let plan = build(&Job::new("any")).expect("a plan");
        let said = |say: &str| filled(say, &words, &Env::of(&plan.basis.figures)).expect("filled in");
        assert_eq!(said("At {corners}: turn {corner_wrap}."), format!("At {name}: turn {}.", said("{corner_wrap}")));
        assert_eq!(said("{check}{corners}, {corners} {check}!"), format!("{name}, {name} !"));
    }

    #[test]
    fn every_sentence_asks_for_what_is_there_and_can_be_filled_in() {
        let plan = build(&Job::new("any")).expect("a plan");
        let env = Env::of(&plan.basis.figures);
        let questions = &Schools::of_wall().expect("questions").questions;
        for card in &shipped().expect("data/hung.toml").card {
            let all = [&card.title, &card.what, &card.over, &card.check, &card.why, &card.fasten];
            for sentence in all.into_iter().flatten() {
                let text = WORDS.iter().fold(sentence.say.clone(), |t, w| t.replace(&format!("{{{w}}}"), w));
                env.fill(&text).unwrap_or_else(|e| panic!("{}: {e}", card.id));
                for part in sentence.when.split_whitespace() {
                    let question = part.split([':', '!']).next().unwrap_or_default();
                    let asked = questions.iter().find(|q| q.id == question);
                    assert!(asked.is_some() || OWN.contains(&question), "{}: nobody asks {question}", card.id);
                    let named = part[question.len() + 1..].split(',');
                    let known = |c: &str| asked.is_none_or(|q| q.choice.iter().any(|k| k.id == c));
                    assert!(named.clone().all(known), "{}: {part}", card.id);
                }
            }
        }
    }
}
