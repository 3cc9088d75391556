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

/// Reasons kept with a piece of advice that was taken.
const BECAUSE: Range<usize> =
    Range { what: "how many reasons there are", least: 0, most: 20, remedy: "keep those that decided" };

/// What a builder decided otherwise than advised.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Decision {
    /// Which option.
    pub choice: String,
    /// The reason, as a sentence.
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
    /// What was written to the walls, by advice, with what spoke for it.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub taken: BTreeMap<String, Taken>,
}

/// A piece of advice as it was taken.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Taken {
    /// Which option.
    pub choice: String,
    /// What spoke for it then; a reason of one's own stands with the decision.
    #[serde(default)]
    pub because: Vec<String>,
}

/// An answer of the interview.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct InterviewOption {
    /// Stable name.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// What it puts on every wall when the advice is taken.
    #[serde(default)]
    pub writes: Vec<WrittenAnswer>,
}

/// An answer to a school question that an option puts on every wall, or at every opening.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WrittenAnswer {
    /// Under which answers and options; under any where it is empty.
    #[serde(default)]
    pub when: String,
    /// The school question.
    pub question: String,
    /// The answer to it.
    pub answer: String,
}

/// A figure that an option keeps within bounds.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Bounded {
    #[serde(default)]
    pub(crate) when: String,
    pub(crate) figure: String,
    pub(crate) least: Option<String>,
    pub(crate) most: Option<String>,
}

/// What an option asks of a product: so much of it at least, or that it is so.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct AskedOfProduct {
    #[serde(default)]
    pub(crate) when: String,
    pub(crate) product: String,
    pub(crate) attribute: String,
    pub(crate) least: Option<f64>,
    pub(crate) is: Option<String>,
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
#[serde(deny_unknown_fields)]
pub(crate) struct AdviceOption {
    pub(crate) id: String,
    pub(crate) name: String,
    /// Options of other advice with which it goes, as a condition.
    #[serde(default)]
    pub(crate) needs: String,
    #[serde(default)]
    pub(crate) writes: Vec<WrittenAnswer>,
    #[serde(default)]
    pub(crate) figures: Vec<Bounded>,
    #[serde(default)]
    pub(crate) products: Vec<AskedOfProduct>,
    /// What no answer can say of it, as a sentence.
    #[serde(default)]
    pub(crate) unwritten: String,
    #[serde(default)]
    pub(crate) rule: Vec<Rule>,
}

#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct AdviceSpec {
    pub(crate) id: String,
    pub(crate) about: String,
    /// Decided as one with the others that have such a number: the set with the greatest sum that can be built, its scores times this.
    #[serde(default)]
    pub(crate) together: i32,
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
            out.extend(not_an_option(data, &path, id, &d.choice));
            out.extend(REASON.check(d.reason.chars().count()).err().map(|m| Problem::new(path, m)));
        }
        for (id, t) in &self.taken {
            let path = format!("$.strategy.taken.{id}");
            out.extend(not_an_option(data, &path, id, &t.choice));
            out.extend(BECAUSE.check(t.because.len()).err().map(|m| Problem::new(path.clone(), m)));
            let long = t.because.iter().find_map(|b| REASON.check(b.chars().count()).err());
            out.extend(long.map(|m| Problem::new(path, m)));
        }
        out
    }
}

fn not_an_option(data: &Data, path: &str, id: &str, choice: &str) -> Option<Problem> {
    let known = data.advice.iter().find(|a| a.id == id);
    let options: Vec<&str> = match known {
        _ if id == TAPE_ADVICE => data.tapes.iter().map(String::as_str).collect(),
        Some(a) => a.option.iter().map(|o| o.id.as_str()).collect(),
        None => Vec::new(),
    };
    let known = options.join(", ");
    let say = || format!("there is no option \"{choice}\" of advice \"{id}\"; choose one of: {known}");
    (!options.contains(&choice)).then(|| Problem::new(path, say()))
}
