//! Which options go with each other. Advice that is decided together is searched for the set with the greatest sum that can be built; what follows
//! takes the best that goes with it.

use super::ranked::{Ranked, rank};
use crate::interview::{AdviceOption, AdviceSpec, Data, Strategy, WrittenAnswer};
use crate::job::Job;
use crate::recipe::schools::{Answers, Feature, Schools, Scope, holds};

/// What a decision of the builder weighs: it stands wherever it can be built.
const DECIDED: i32 = 100_000;

/// Questions that say what is there, not how it is made: no advice changes those.
pub(super) const FACTS: [&str; 4] = ["unit", "position", "thing", "line"];

/// What is there, each once.
pub(super) fn facts(job: &Job) -> Vec<(Feature, Answers)> {
    let of = |q: &&String| FACTS.contains(&q.as_str());
    let facts = job.openings.iter().map(|o| (o.feature, o.schools.iter().filter(|(q, _)| of(q))));
    let mut out: Vec<(Feature, Answers)> =
        facts.map(|(f, a)| (f, a.map(|(q, a)| (q.clone(), a.clone())).collect())).collect();
    out.sort();
    out.dedup();
    out
}

/// Options chosen so far, one for each advice from the first.
#[derive(Clone)]
pub(super) struct Chosen<'a> {
    data: &'a Data,
    strategy: &'a Strategy,
    facts: &'a [(Feature, Answers)],
    /// Answers of the interview, and the options by advice.
    pub(super) known: Answers,
    pub(super) options: Vec<(&'a AdviceSpec, &'a AdviceOption)>,
}

impl<'a> Chosen<'a> {
    /// The best that can be built together.
    ///
    /// # Errors
    /// A sentence if the shipped data were broken.
    pub(super) fn best(
        data: &'a Data,
        strategy: &'a Strategy,
        facts: &'a [(Feature, Answers)],
    ) -> Result<Self, String> {
        let none = Self { data, strategy, facts, known: strategy.answers.clone(), options: Vec::new() };
        let mut best = None;
        none.search(0, &mut best)?;
        let mut out = best.map_or(none, |(_, chosen)| chosen);
        for spec in &data.advice[out.options.len()..] {
            let wanted = out.wanted(spec);
            let mut fits = None;
            for (option, _) in &wanted {
                let next = out.with(spec, option);
                if next.refused()?.is_none() {
                    fits = Some(next);
                    break;
                }
            }
            // Where nothing goes with the rest, the best stands, and what of it is not written is told.
            out = fits.unwrap_or_else(|| out.with(spec, wanted[0].0));
        }
        Ok(out)
    }

    /// Tries each option of each advice that is decided with others.
    fn search(&self, sum: i32, best: &mut Option<(i32, Self)>) -> Result<(), String> {
        let Some(spec) = self.data.advice.get(self.options.len()).filter(|s| s.together > 0) else {
            if best.as_ref().is_none_or(|(most, _)| sum > *most) {
                *best = Some((sum, self.clone()));
            }
            return Ok(());
        };
        for (option, score) in self.wanted(spec) {
            let next = self.with(spec, option);
            if next.refused()?.is_none() {
                next.search(sum + score * spec.together, best)?;
            }
        }
        Ok(())
    }

    /// Options with what they weigh, the best first: of equals the one named first.
    fn wanted(&self, spec: &'a AdviceSpec) -> Vec<(&'a AdviceOption, i32)> {
        let decided = self.strategy.decisions.get(&spec.id).map(|d| d.choice.as_str());
        let weigh = |o: &'a AdviceOption| {
            (o, rank(o, &self.known).score + if decided == Some(o.id.as_str()) { DECIDED } else { 0 })
        };
        let mut out: Vec<_> = spec.option.iter().map(weigh).collect();
        out.sort_by_key(|(_, score)| -score);
        out
    }

    fn with(&self, spec: &'a AdviceSpec, option: &'a AdviceOption) -> Self {
        let mut next = self.clone();
        next.known.insert(spec.id.clone(), option.id.clone());
        next.options.push((spec, option));
        next
    }

    /// All options of an advice in the order of their scores, as they were when it was decided.
    pub(super) fn ranked(&self, spec: &AdviceSpec) -> Vec<Ranked> {
        let before = self.data.advice.iter().take_while(|s| s.id != spec.id);
        let mut known = self.strategy.answers.clone();
        known.extend(before.filter_map(|s| Some((s.id.clone(), self.known.get(&s.id)?.clone()))));
        let mut out: Vec<Ranked> = spec.option.iter().map(|o| rank(o, &known)).collect();
        out.sort_by_key(|r| -r.score);
        out
    }

    /// Why another option of an advice does not go with the rest; none where it does.
    ///
    /// # Errors
    /// A sentence if the shipped data were broken.
    pub(super) fn against(&self, id: &str, option: &str) -> Result<Option<String>, String> {
        let mut other = self.clone();
        // What is decided later goes with it, not the other way round.
        let at = self.options.iter().position(|(s, _)| s.id == id).unwrap_or(0);
        let kept = self.options.iter().take_while(|(s, _)| s.together > 0).count().max(at + 1);
        for (spec, _) in other.options.drain(kept..) {
            other.known.remove(&spec.id);
        }
        for (spec, o) in &mut other.options {
            if spec.id == id {
                *o = spec.option.iter().find(|o| o.id == option).unwrap_or(o);
            }
        }
        other.known.insert(id.to_owned(), option.to_owned());
        other.refused()
    }

    /// Answers that the options put on the wall, each with the advice it comes from.
    pub(super) fn writes(&self) -> impl Iterator<Item = (&'a AdviceSpec, &'a WrittenAnswer)> {
        self.options
            .iter()
            .flat_map(|(spec, o)| o.writes.iter().map(move |w| (*spec, w)))
            .filter(|(_, w)| holds(&w.when, &self.known))
    }

    /// Answers that the interview puts on the wall.
    pub(super) fn said(&self) -> impl Iterator<Item = &'a WrittenAnswer> {
        let answer = |q: &'a crate::interview::InterviewQuestion| {
            let given = self.strategy.answers.get(&q.id)?;
            q.options.iter().find(|o| o.id == *given)
        };
        self.data.question.iter().filter_map(answer).flat_map(|o| &o.writes)
    }

    /// Why the options chosen so far do not go with each other.
    fn refused(&self) -> Result<Option<String>, String> {
        for (_, o) in &self.options {
            let lost = |part: &&str| {
                let asked = part.split([':', '!']).next().unwrap_or_default();
                self.known.contains_key(asked) && !holds(part, &self.known)
            };
            if let Some(part) = o.needs.split_whitespace().find(lost) {
                let other = part.split([':', '!']).next().unwrap_or_default();
                let name = self.options.iter().find(|(s, _)| s.id == other).map_or(other, |(_, o)| o.name.as_str());
                return Ok(Some(format!("\"{}\" does not go with \"{name}\".", o.name)));
            }
        }
        let mut given = Answers::new();
        for w in self.writes().map(|(_, w)| w).chain(self.said()) {
            let before = given.insert(w.question.clone(), w.answer.clone());
            if before.is_some_and(|b| b != w.answer) {
                return Ok(Some(format!("two of them answer \"{}\" each in its own way.", w.question)));
            }
        }
        for schools in [Schools::shipped()?, Schools::of_wall()?] {
            if let Err(refused) = schools.complete(&schools.asked(&given)) {
                return Ok(refused.into_iter().next().map(|r| r.because));
            }
        }
        for (feature, facts) in self.facts {
            let schools = Schools::of(*feature)?;
            let of_wall = given.iter().filter(|(q, _)| schools.question(q).is_some_and(|q| q.scope == Scope::Wall));
            let all = of_wall.chain(facts).map(|(q, a)| (q.clone(), a.clone())).collect();
            if let Err(refused) = schools.complete(&all) {
                return Ok(refused.into_iter().next().map(|r| r.because));
            }
        }
        Ok(None)
    }
}
