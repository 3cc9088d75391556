//! Advice with its options ranked, each with its reasons.

use crate::interview::{AdviceOption, WrittenAnswer};
use crate::profile::FigureSource;
use crate::recipe::schools::{Answers, holds};
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
    /// What it puts on walls and openings when it is taken.
    pub writes: Vec<WrittenAnswer>,
}

/// One advice: all options, the best first; the second is the runner-up.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Advice {
    /// `A1` to `A11`.
    pub id: String,
    /// The subject of the advice, in words.
    pub about: String,
    /// Options, the best first.
    pub ranked: Vec<Ranked>,
    /// What is in force: the best that goes with the rest, or what was decided otherwise.
    pub chosen: String,
    /// True where the builder chose this option and it can be built.
    pub decided: bool,
    /// Why it was decided otherwise; empty where it was not, or no reason was given.
    pub reason: String,
    /// Why the best, or what was decided, does not go with the rest, and what is taken instead; empty where it does.
    pub instead: String,
    /// What taking it writes to walls, openings, figures and products, as sentences.
    pub writes: Vec<String>,
    /// What of it is not written, and why, as sentences.
    pub unwritten: Vec<String>,
    /// True where the job already has everything that the advice writes.
    pub stands: bool,
    /// True where the interview asked what the advice rests on.
    #[serde(skip)]
    pub(super) asked: bool,
}

impl Advice {
    /// Something was decided, or something speaks for or against what is in force.
    pub(super) fn speaks(&self) -> bool {
        self.decided
            || self.asked
                && (!self.instead.is_empty()
                    || self.ranked.iter().any(|r| r.id == self.chosen && !r.reasons.is_empty()))
    }
}

impl Ranked {
    /// Reasons in favour of the option in force, as sentences.
    pub(super) fn in_favour(&self) -> Vec<String> {
        self.reasons.iter().filter(|r| r.weight >= 0).map(|r| r.text.clone()).collect()
    }
}

/// An option with the reasons that are met.
pub(super) fn rank(o: &AdviceOption, known: &Answers) -> Ranked {
    let met =
        o.rule.iter().filter(|r| r.when.split_whitespace().all(|part| answered(part, known) && holds(part, known)));
    let reasons: Vec<Reason> =
        met.map(|r| Reason { text: r.because.clone(), source: r.source, weight: r.score }).collect();
    Ranked {
        id: o.id.clone(),
        name: o.name.clone(),
        score: reasons.iter().map(|r| r.weight).sum(),
        reasons,
        writes: o.writes.clone(),
    }
}

/// True where the question of a condition has been answered: nothing is concluded from what is not known.
fn answered(part: &str, known: &Answers) -> bool {
    part.split([':', '!']).next().is_some_and(|q| known.contains_key(q))
}
