//! The interview before anything is planned: its questions, what a builder answered and decided, and the data from which advice is drawn
//! (`data/advice.toml`).

use crate::problem::Problem;
use crate::profile::FigureSource;
use crate::range::Range;
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
pub(crate) struct Rule {
    pub(crate) when: String,
    pub(crate) score: i32,
    pub(crate) because: String,
    pub(crate) source: FigureSource,
}

#[derive(Clone, Debug, Deserialize)]
pub(crate) struct AdviceOption {
    pub(crate) id: String,
    pub(crate) name: String,
    #[serde(default)]
    pub(crate) rule: Vec<Rule>,
}

#[derive(Clone, Debug, Deserialize)]
pub(crate) struct AdviceSpec {
    pub(crate) id: String,
    pub(crate) about: String,
    pub(crate) sets: Option<String>,
    pub(crate) option: Vec<AdviceOption>,
}

#[derive(Clone, Debug, Deserialize)]
pub(crate) struct Data {
    pub(crate) tapes: Vec<String>,
    pub(crate) question: Vec<InterviewQuestion>,
    pub(crate) advice: Vec<AdviceSpec>,
}

pub(crate) fn data() -> Result<&'static Data, String> {
    static READ: OnceLock<Result<Data, String>> = OnceLock::new();
    let read = || toml::from_str(DATA).map_err(|e| format!("the advice data does not read: {e}"));
    READ.get_or_init(read).as_ref().map_err(Clone::clone)
}

/// The advice that is arithmetic.
pub(crate) const TAPE_ADVICE: &str = "A3";

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
