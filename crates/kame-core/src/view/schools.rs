//! The school questions of a wall and its openings with what can be answered now, and what is said about the order of work.

use crate::job::Job;
use crate::plan::Plan;
use crate::recipe::schools::{About, Answers, Feature, Question, Schools, Scope};
use crate::sequence::order_and_loops;
use crate::trade::StepId;
use serde::Serialize;
use std::collections::BTreeMap;

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
    /// Which part of the work it is about.
    pub about: About,
    /// Ids of the openings that answer it so and have the same choice; empty for the wall.
    pub openings: Vec<String>,
    /// The answer in force.
    pub choice: String,
    /// True where the job gives it, false where it is the usual.
    pub own: bool,
    /// True where the steps at openings follow from it.
    pub at_openings: bool,
    /// True where it is seldom answered otherwise than by its default.
    pub seldom: bool,
    /// The answers one can choose from.
    pub choices: Vec<ChoiceView>,
}

/// What an opening answers.
#[derive(Clone, Copy, Debug)]
pub struct OpeningAnswers<'a> {
    /// Its kind of feature.
    pub feature: Feature,
    /// Id of the opening.
    pub id: &'a str,
    /// Answers of its own.
    pub own: &'a Answers,
    /// All answers in force.
    pub all: &'a Answers,
}

/// All questions: the wall's, then those of openings by their kind, each kind's in the order in which they are decided. Openings that answer a
/// question alike and have the same choice are told together.
pub fn school_views(
    schools: &'static Schools,
    wall: &Answers,
    openings: &[OpeningAnswers],
    general: &Answers,
) -> Result<Vec<QuestionView>, String> {
    let for_openings = Schools::of(Feature::Opening)?;
    let view = |schools: &Schools, q: &Question, own: &Answers, all: &Answers| QuestionView {
        id: q.id.clone(),
        ask: q.ask.clone(),
        about: q.about,
        openings: Vec::new(),
        choice: all.get(&q.id).cloned().unwrap_or_default(),
        own: own.contains_key(&q.id),
        seldom: q.seldom,
        at_openings: q.scope == Scope::Opening || for_openings.question(&q.id).is_some(),
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
    };
    let asked = |schools: &'static Schools, scope| {
        schools.questions.iter().filter(move |q| q.scope == scope && !q.choice.is_empty())
    };
    let mut out: Vec<QuestionView> = asked(schools, Scope::Wall).map(|q| view(schools, q, wall, general)).collect();
    // What is asked follows from the answers: those who give the same ones are asked the same.
    let mut alike: BTreeMap<(Feature, &Answers, &Answers), Vec<&str>> = BTreeMap::new();
    for o in openings {
        alike.entry((o.feature, o.own, o.all)).or_default().push(o.id);
    }
    for feature in Feature::ALL {
        let schools = Schools::of(feature)?;
        let here = || alike.iter().filter(|((of, ..), _)| *of == feature);
        for q in asked(schools, Scope::Opening).filter(|_| here().next().is_some()) {
            let from = out.len();
            for ((_, own, all), ids) in here() {
                let mut new = view(schools, q, own, all);
                let same = |old: &&mut QuestionView| {
                    (&old.choice, old.own, &old.choices) == (&new.choice, new.own, &new.choices)
                };
                match out[from..].iter_mut().find(same) {
                    Some(old) => old.openings.extend(ids.iter().map(|id| (*id).to_owned())),
                    None => {
                        new.openings = ids.iter().map(|id| (*id).to_owned()).collect();
                        out.push(new);
                    }
                }
            }
        }
    }
    Ok(out)
}

/// What is said about the order in force.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OrderView {
    /// True where every step can be done and every required over holds in this order.
    pub works: bool,
    /// What putting it right moves, in words; empty where it works.
    pub moves: Vec<String>,
    /// Circles of required overs, each with the lift that breaks it, in words.
    pub circles: Vec<String>,
}

/// What is said about the order in force.
pub fn order_view(plan: &Plan) -> OrderView {
    let (nearest, circles) = order_and_loops(plan);
    let moved = nearest.moved;
    let title = |s: StepId| plan.steps[s].title.as_str();
    let circles = circles.into_iter().map(|c| {
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

/// The questions of all walls, or of one.
pub(super) fn questions(job: &Job, plan: &Plan, wall: usize) -> Result<Vec<QuestionView>, String> {
    let schools = crate::recipe::schools::Schools::of_wall()?;
    let refused =
        |r: Vec<crate::recipe::schools::Refused>| r.into_iter().map(|r| r.message).collect::<Vec<_>>().join(" ");
    let general = schools.complete(&job.wall.answers(wall, schools)).map_err(refused)?;
    let own = job.wall.own(wall).unwrap_or(&job.wall.schools);
    let openings = job.openings.iter().zip(&plan.openings);
    let openings: Vec<OpeningAnswers> = openings
        .map(|(o, p)| OpeningAnswers { feature: o.feature, id: &o.id, own: &o.schools, all: &p.answers })
        .collect();
    school_views(schools, own, &openings, &general)
}
