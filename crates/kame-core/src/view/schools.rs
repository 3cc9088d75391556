//! The school questions of a wall and its openings with what can be answered now, and what is said about the order of work.

use crate::detail::schools::{Answers, Feature, Schools, Scope};
use crate::plan::Plan;
use crate::sequence::{loops, nearest_working_order};
use serde::Serialize;

/// An answer that can be given, or why it cannot.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ChoiceView {
    /// Stable name.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// What it is good for.
    pub good: String,
    /// What it asks.
    pub asks: String,
    /// Why it cannot be built here; empty where it can.
    pub refused: String,
}

/// A question with its answers.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct QuestionView {
    /// Stable name.
    pub id: String,
    /// What is asked.
    pub ask: String,
    /// Id of the opening; empty for the wall.
    pub opening: String,
    /// The answer in force.
    pub choice: String,
    /// True where the job gives it, false where it is the usual.
    pub own: bool,
    /// True where the steps at openings follow from it.
    pub at_openings: bool,
    /// Answers.
    pub choices: Vec<ChoiceView>,
}

/// What an opening answers.
#[derive(Clone, Debug)]
pub struct OpeningAnswers {
    /// The questions of its kind of feature.
    pub schools: &'static Schools,
    /// Id of the opening.
    pub id: String,
    /// Answers of its own.
    pub own: Answers,
    /// All answers in force.
    pub all: Answers,
}

/// All questions: the wall's, then each opening's.
pub fn school_views(
    schools: &Schools,
    wall: &Answers,
    openings: &[OpeningAnswers],
    general: &Answers,
) -> Result<Vec<QuestionView>, String> {
    let for_openings = Schools::of(Feature::Opening)?;
    let view = |schools: &Schools, opening: &str, own: &Answers, all: &Answers, scope: Scope| -> Vec<QuestionView> {
        let asked = schools.questions.iter().filter(|q| q.scope == scope && !q.choice.is_empty());
        asked
            .map(|q| QuestionView {
                id: q.id.clone(),
                ask: q.ask.clone(),
                opening: opening.to_owned(),
                choice: all.get(&q.id).cloned().unwrap_or_default(),
                own: own.contains_key(&q.id),
                at_openings: !opening.is_empty() || for_openings.question(&q.id).is_some(),
                choices: q
                    .choice
                    .iter()
                    .map(|c| ChoiceView {
                        id: c.id.clone(),
                        name: c.name.clone(),
                        good: c.good.clone(),
                        asks: c.asks.clone(),
                        refused: schools.refusal(&q.id, &c.id, all).unwrap_or_default().to_owned(),
                    })
                    .collect(),
            })
            .collect()
    };
    let mut out = view(schools, "", wall, general, Scope::Wall);
    for o in openings {
        out.extend(view(o.schools, &o.id, &o.own, &o.all, Scope::Opening));
    }
    Ok(out)
}

/// What is said about the order in force.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OrderView {
    /// True where every step can be done and every required over holds in this order.
    pub works: bool,
    /// What putting it right moves, in words; empty where it works.
    pub moves: Vec<String>,
    /// Circles of required overs, each with the lift that breaks it, in words.
    pub circles: Vec<String>,
}

/// Says it.
pub fn order_view(plan: &Plan) -> OrderView {
    let moved = nearest_working_order(plan).moved;
    let title = |s: usize| plan.steps[s].title.as_str();
    let circles = loops(plan).into_iter().map(|c| {
        let mut parts = c.parts.clone();
        parts.extend(c.parts.first().cloned());
        let flap = &plan.flaps[c.flap];
        let whose = flap.id.split('/').next().unwrap_or_default();
        let now = match c.held_now {
            Some(now) if now > c.held => format!(" In this order it is held up for {now} steps."),
            Some(_) => String::new(),
            None => " In this order it is not lifted and dropped round them.".to_owned(),
        };
        format!(
            "{whose}: {} goes round in a circle. The shortest way out: lift the {} before \"{}\", drop it after \"{}\".{now}",
            parts.join(" under "),
            flap.name,
            title(c.lift_before),
            title(c.drop_after)
        )
    });
    OrderView {
        works: moved.is_empty(),
        moves: moved.iter().map(|m| m.words(plan)).collect(),
        circles: circles.collect(),
    }
}
