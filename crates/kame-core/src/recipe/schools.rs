//! The schools: questions on which practitioners differ, their answers as data, and the recipe that a set of answers makes.
//!
//! Every answer adds a part of a recipe (`data/openings/*.toml`). Answers that cannot be built together are refused in data too, with the
//! reason and the nearest thing that can.

use super::mirror::{add_other_sides, turn_over};
use super::spec::{ActionSpec, Recipe};
use lru::LruCache;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

/// Questions in the order in which they are decided; an answer may be refused because of those before it.
const DATA: [&str; 21] = [
    include_str!("../../data/openings/00-common.toml"),
    include_str!("../../data/openings/01-barrier.toml"),
    include_str!("../../data/openings/02-second.toml"),
    include_str!("../../data/openings/03-first.toml"),
    include_str!("../../data/openings/04-apron.toml"),
    include_str!("../../data/openings/05-outside.toml"),
    include_str!("../../data/openings/06-unit.toml"),
    include_str!("../../data/openings/07-maker.toml"),
    include_str!("../../data/openings/08-position.toml"),
    include_str!("../../data/openings/09-cut.toml"),
    include_str!("../../data/openings/10-lining.toml"),
    include_str!("../../data/openings/11-seat.toml"),
    include_str!("../../data/openings/12-dam.toml"),
    include_str!("../../data/openings/13-sill.toml"),
    include_str!("../../data/openings/14-flange.toml"),
    include_str!("../../data/openings/15-jambs.toml"),
    include_str!("../../data/openings/16-bottom.toml"),
    include_str!("../../data/openings/17-head.toml"),
    include_str!("../../data/openings/18-inside.toml"),
    include_str!("../../data/openings/19-beside.toml"),
    include_str!("../../data/openings/20-tuck.toml"),
];

/// Questions about what comes through the barrier other than windows and doors; those of the wall come before them.
const PENETRATIONS: [&str; 7] = [
    include_str!("../../data/penetrations/00-common.toml"),
    include_str!("../../data/penetrations/01-thing.toml"),
    include_str!("../../data/penetrations/02-moment.toml"),
    include_str!("../../data/penetrations/03-face.toml"),
    include_str!("../../data/penetrations/04-sides.toml"),
    include_str!("../../data/penetrations/05-bottom.toml"),
    include_str!("../../data/penetrations/06-hole.toml"),
];

/// Questions about the wall itself beyond those that decide how openings are made; those come before them.
const WALL: [&str; 19] = [
    include_str!("../../data/wall/00-base.toml"),
    include_str!("../../data/wall/01-plate.toml"),
    include_str!("../../data/wall/02-top.toml"),
    include_str!("../../data/wall/03-cladding.toml"),
    include_str!("../../data/wall/04-gap.toml"),
    include_str!("../../data/wall/05-furring.toml"),
    include_str!("../../data/wall/06-boarding.toml"),
    include_str!("../../data/wall/07-fixing.toml"),
    include_str!("../../data/wall/08-ends.toml"),
    include_str!("../../data/wall/09-panels.toml"),
    include_str!("../../data/wall/10-cutting.toml"),
    include_str!("../../data/wall/11-beads.toml"),
    include_str!("../../data/wall/12-air.toml"),
    include_str!("../../data/wall/13-laps.toml"),
    include_str!("../../data/wall/14-sheathing.toml"),
    include_str!("../../data/wall/15-tees.toml"),
    include_str!("../../data/wall/16-lapping.toml"),
    include_str!("../../data/wall/17-hung.toml"),
    include_str!("../../data/wall/18-rows.toml"),
];

/// Questions about what runs along a wall.
const LINES: [&str; 6] = [
    include_str!("../../data/lines/00-common.toml"),
    include_str!("../../data/lines/01-line.toml"),
    include_str!("../../data/lines/02-flashed.toml"),
    include_str!("../../data/lines/03-foot.toml"),
    include_str!("../../data/lines/04-deck.toml"),
    include_str!("../../data/lines/05-rise.toml"),
];

/// What a feature of the wall is: each has questions and recipes of its own over the same actions.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, schemars::JsonSchema,
)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Feature {
    /// A window or door.
    #[default]
    Opening,
    /// A pipe, cable, box, vent, duct, bracket or beam.
    Penetration,
    /// What runs along the wall: a change of material, a belt course, a deck, a roof line.
    Line,
}

impl Feature {
    /// Each of them.
    pub const ALL: [Self; 3] = [Self::Opening, Self::Penetration, Self::Line];
}

/// Answers by question.
pub type Answers = BTreeMap<String, String>;

/// What a question is decided for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Scope {
    /// The whole wall: everything goes to one plane.
    Wall,
    /// One opening.
    Opening,
}

/// Why an answer cannot be built under certain others.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Refusal {
    /// Under which answers.
    pub when: String,
    /// Why, as a sentence.
    pub because: String,
}

fn faulty() -> bool {
    true
}

/// What should be known of an answer although it can be built.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct NoteSpec {
    /// Fault id.
    pub code: String,
    /// False where it is a school that others argue against, and no fault.
    #[serde(default = "faulty")]
    pub fault: bool,
    /// What is so, as a sentence.
    pub reason: String,
    /// What somebody should do, as a sentence.
    pub remedy: String,
    /// Under which answers; empty always.
    #[serde(default)]
    pub when: String,
}

/// One answer to a question.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Choice {
    /// Stable name.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// What it protects against, or is good for.
    pub good: String,
    /// What it asks, or where it is weak.
    pub asks: String,
    /// When it cannot be built.
    #[serde(default)]
    pub refuse: Vec<Refusal>,
    /// What should be known of it.
    #[serde(default)]
    pub note: Vec<NoteSpec>,
    /// How the barrier of the wall is made, where the question decides that.
    pub barrier: Option<BarrierSpec>,
    /// A second layer of the wall outside everything: generic material.
    #[serde(default)]
    pub second: String,
    /// What it adds to the recipe.
    #[serde(default)]
    pub recipe: Recipe,
    /// True where all of the recipe is turned over, left for right.
    #[serde(default)]
    pub turned: bool,
}

/// How the barrier of a wall is made.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct BarrierSpec {
    /// In which shape it comes.
    pub kind: BarrierKind,
    /// What it is called.
    pub name: String,
    /// Generic material.
    pub product: String,
    /// How it holds.
    pub bond: crate::layup::Bond,
    /// Generic material over joints, where there are any.
    #[serde(default)]
    pub joint: String,
    /// How the joints hold.
    #[serde(default = "glued")]
    pub joint_bond: crate::layup::Bond,
    /// Added to the cards of its steps.
    #[serde(default)]
    pub check: String,
    /// The caution on the cards of its steps.
    #[serde(default)]
    pub caution: String,
}

fn glued() -> crate::layup::Bond {
    crate::layup::Bond::Full
}

/// In which shape a barrier comes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum BarrierKind {
    /// From rolls, lapped.
    Courses,
    /// Panels or boards with treated joints.
    Panels,
    /// A coat.
    Coat,
}

/// Which part of the work a question is about: those about the same are asked together.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum About {
    /// The barrier and what lies on it.
    #[default]
    Barrier,
    /// Gap and cladding.
    Cladding,
    /// Base and top of the wall.
    Ends,
    /// The unit and its hole.
    Unit,
    /// The sill.
    Sill,
    /// Jambs, bottom flange and head.
    Sides,
    /// The joint inside the unit, and the one to what stands beside it.
    Joints,
    /// What comes through the wall or runs along it.
    Thing,
    /// How that is flashed.
    Flashed,
}

/// A question with its answers; the first that is not refused is the default.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Question {
    /// Stable name.
    pub id: String,
    /// What is asked.
    pub ask: String,
    /// For what it is decided.
    pub scope: Scope,
    /// Which part of the work it is about.
    #[serde(default)]
    pub about: About,
    /// The barrier is hung by it: where it is answered otherwise, another barrier begins.
    #[serde(default)]
    pub hangs: bool,
    /// Seldom answered otherwise than by its default: shown behind the others.
    #[serde(default)]
    pub seldom: bool,
    /// The answers one can choose from.
    #[serde(default)]
    pub choice: Vec<Choice>,
    /// What every recipe has, whatever is answered.
    #[serde(default)]
    pub recipe: Recipe,
}

/// An answer that cannot be built.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Refused {
    /// The question.
    pub question: String,
    /// Why, as a sentence.
    pub because: String,
    /// Why, and the nearest answer that can, as a sentence.
    pub message: String,
}

/// So many recipes are kept made: those of the answers on a few jobs that are being worked on.
const KEPT_RECIPES: NonZeroUsize = NonZeroUsize::new(64).unwrap();

/// All questions.
#[derive(Clone, Debug)]
pub struct Schools {
    /// In the order in which they are decided.
    pub questions: Vec<Question>,
    /// Recipes by the answers that make them: the same are asked for again at every edit.
    made: Arc<Mutex<LruCache<Answers, Arc<Recipe>>>>,
}

/// True where a condition such as `unit:frame,door cut!flush` holds: every part names a question and the answers it may (`:`) or may not (`!`) have.
pub fn holds(when: &str, answers: &Answers) -> bool {
    when.split_whitespace().all(|part| {
        let is = |question: &str, list: &str| {
            answers.get(question).is_some_and(|answer| list.split(',').any(|choice| choice == answer))
        };
        match (part.split_once(':'), part.split_once('!')) {
            (Some((question, list)), _) => is(question, list),
            (_, Some((question, list))) => !is(question, list),
            _ => false,
        }
    })
}

impl Schools {
    fn of_questions(questions: Vec<Question>) -> Self {
        Self { questions, made: Arc::new(Mutex::new(LruCache::new(KEPT_RECIPES))) }
    }

    /// The shipped ones.
    ///
    /// # Errors
    /// What does not read, if the data were broken; a test keeps it whole.
    pub fn shipped() -> Result<&'static Self, String> {
        static SHIPPED: OnceLock<Result<Schools, String>> = OnceLock::new();
        SHIPPED.get_or_init(|| Ok(Schools::of_questions(questions(&DATA)?))).as_ref().map_err(Clone::clone)
    }

    /// Those of a kind of feature, the wall's questions included; what those add to the recipe of an opening they add to no other.
    ///
    /// # Errors
    /// What does not read, if the data were broken; a test keeps it whole.
    pub fn of(feature: Feature) -> Result<&'static Self, String> {
        static PENETRATION: OnceLock<Result<Schools, String>> = OnceLock::new();
        static LINE: OnceLock<Result<Schools, String>> = OnceLock::new();
        match feature {
            Feature::Opening => Self::shipped(),
            Feature::Penetration => with_the_wall(&PENETRATION, &PENETRATIONS),
            Feature::Line => with_the_wall(&LINE, &LINES),
        }
    }

    /// Those of the wall itself.
    ///
    /// # Errors
    /// What does not read, if the data were broken; a test keeps it whole.
    pub fn of_wall() -> Result<&'static Self, String> {
        static ITSELF: OnceLock<Result<Schools, String>> = OnceLock::new();
        with_the_wall(&ITSELF, &WALL)
    }

    /// The answers given to questions that are asked here.
    pub fn asked(&self, given: &Answers) -> Answers {
        given.iter().filter(|(q, _)| self.question(q).is_some()).map(|(q, c)| (q.clone(), c.clone())).collect()
    }

    /// What should be known of the answers given.
    pub fn notes<'a>(&'a self, answers: &'a Answers) -> impl Iterator<Item = &'a NoteSpec> {
        self.chosen(answers).flat_map(|(_, c)| &c.note).filter(|n| holds(&n.when, answers))
    }

    /// The question of that name.
    pub fn question(&self, id: &str) -> Option<&Question> {
        self.questions.iter().find(|q| q.id == id)
    }

    /// All answers: those given, and for the rest the first that can be built with those before it.
    ///
    /// # Errors
    /// Questions and answers that do not exist, and answers that cannot be built, each with the nearest that can.
    pub fn complete(&self, given: &Answers) -> Result<Answers, Vec<Refused>> {
        let mut out = Answers::new();
        let mut refused = Vec::new();
        for id in given.keys().filter(|id| self.question(id).is_none_or(|q| q.choice.is_empty())) {
            let known = self.questions.iter().filter(|q| !q.choice.is_empty()).map(|q| q.id.as_str());
            let known = known.collect::<Vec<_>>().join(", ");
            let message = format!("there is no question \"{id}\"; choose one of: {known}");
            refused.push(Refused { question: id.clone(), because: message.clone(), message });
        }
        for q in self.questions.iter().filter(|q| !q.choice.is_empty()) {
            let can = |c: &&Choice| refusal(c, &out).is_none();
            let nearest = q.choice.iter().find(can);
            let answer = match given.get(&q.id) {
                None => nearest.unwrap_or(&q.choice[0]),
                Some(id) => match q.choice.iter().find(|c| c.id == *id) {
                    None => {
                        let known = q.choice.iter().map(|c| c.id.as_str()).collect::<Vec<_>>().join(", ");
                        let message = format!("there is no answer \"{id}\" to \"{}\"; choose one of: {known}", q.ask);
                        refused.push(Refused { question: q.id.clone(), because: message.clone(), message });
                        nearest.unwrap_or(&q.choice[0])
                    }
                    Some(c) => {
                        if let Some(because) = refusal(c, &out) {
                            let instead =
                                nearest.map_or(String::new(), |n| format!(" The nearest that can: {}.", n.name));
                            let because = format!("{} cannot be built here: {because}", c.name);
                            let message = format!("{because}{instead}");
                            refused.push(Refused { question: q.id.clone(), because, message });
                        }
                        c
                    }
                },
            };
            out.insert(q.id.clone(), answer.id.clone());
        }
        if refused.is_empty() { Ok(out) } else { Err(refused) }
    }

    /// The answers given without those that cannot be built with the rest; the one to `keep` stays.
    pub fn settled(&self, given: &Answers, keep: Option<&str>) -> Answers {
        let mut own = given.clone();
        while let Err(refused) = self.complete(&own) {
            // What does not exist is not settled: it stays, to be refused by name.
            let known = |q: &str| own.get(q).is_some_and(|c| self.choice(q, c).is_some());
            let drop = refused.into_iter().find(|r| keep != Some(r.question.as_str()) && known(&r.question));
            let Some(r) = drop else { break };
            own.remove(&r.question);
        }
        own
    }

    /// The answers of one wall: its own, and for the rest those of all walls that can be built with them.
    pub fn over(&self, all: &Answers, own: &Answers) -> Answers {
        let mut given: Answers = all.iter().chain(own).map(|(q, c)| (q.clone(), c.clone())).collect();
        while let Err(refused) = self.complete(&given) {
            let inherited =
                |q: &String| !own.contains_key(q) && given.get(q).is_some_and(|c| self.choice(q, c).is_some());
            let Some(r) = refused.into_iter().find(|r| inherited(&r.question)) else { break };
            given.remove(&r.question);
        }
        given
    }

    /// The answers `taken`, and of those `before` to other questions what can still be built with them.
    pub fn with_the_rest(&self, taken: Answers, before: &Answers) -> Answers {
        let settled = self.settled(&before.iter().chain(&taken).map(|(q, c)| (q.clone(), c.clone())).collect(), None);
        // Questions that decide how openings are made are taken as a whole.
        let rest = before.iter().filter(|(q, _)| {
            !taken.contains_key(*q)
                && settled.contains_key(*q)
                && Self::shipped().is_ok_and(|s| s.question(q).is_none())
        });
        rest.map(|(q, c)| (q.clone(), c.clone())).chain(taken.clone()).collect()
    }

    /// Why an answer cannot be built with the other answers given, by those decided before it; `None` where it can.
    pub fn refusal(&self, question: &str, choice: &str, answers: &Answers) -> Option<&str> {
        refusal(self.choice(question, choice)?, answers)
    }

    /// One answer.
    pub fn choice(&self, question: &str, choice: &str) -> Option<&Choice> {
        self.question(question)?.choice.iter().find(|c| c.id == choice)
    }

    /// The answers given, in the order of the questions.
    pub fn chosen<'a>(&'a self, answers: &'a Answers) -> impl Iterator<Item = (&'a Question, &'a Choice)> {
        self.questions.iter().filter_map(|q| Some((q, self.choice(&q.id, answers.get(&q.id)?)?)))
    }

    /// Every set of answers that can be built, one after another: there are too many to hold them all.
    pub fn combinations(&self) -> Combinations<'_> {
        let asked: Vec<&Question> = self.questions.iter().filter(|q| !q.choice.is_empty()).collect();
        Combinations { asked, next: vec![0], answers: Answers::new() }
    }

    /// Sets of answers in which every two answers that can be built together come up together, the rest as they are when nobody says
    /// anything.
    pub fn pairs(&self) -> Vec<Answers> {
        let each = |q: &'_ Question| q.choice.iter().map(|c| (q.id.clone(), c.id.clone())).collect::<Vec<_>>();
        let all: Vec<(String, String)> = self.questions.iter().flat_map(each).collect();
        let both = |(a, b): (&(String, String), &(String, String))| {
            self.complete(&[a.clone(), b.clone()].into_iter().collect()).ok()
        };
        let mut out: Vec<Answers> =
            all.iter().flat_map(|a| all.iter().map(move |b| (a, b))).filter(|(a, b)| a <= b).filter_map(both).collect();
        out.sort();
        out.dedup();
        out
    }

    /// The recipe that a full set of answers makes.
    pub fn recipe(&self, answers: &Answers) -> Arc<Recipe> {
        // A recipe is put there whole, so a lock that another thread left in a panic can be taken.
        let kept = || self.made.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(made) = kept().get(answers) {
            return Arc::clone(made);
        }
        let made = Arc::new(self.make(answers));
        kept().put(answers.clone(), Arc::clone(&made));
        made
    }

    fn make(&self, answers: &Answers) -> Recipe {
        let mut out = Recipe::default();
        for q in &self.questions {
            append(&mut out, &q.recipe, answers);
            if let Some(c) = answers.get(&q.id).and_then(|id| q.choice.iter().find(|c| c.id == *id)) {
                append(&mut out, &c.recipe, answers);
            }
        }
        add_other_sides(&mut out);
        if answers.iter().any(|(q, a)| self.choice(q, a).is_some_and(|c| c.turned)) {
            turn_over(&mut out);
        }
        out.step.sort_by_key(|s| s.band);
        out
    }

    /// What the second layer outside the barrier is of, where there is one.
    pub fn second<'a>(&'a self, answers: &'a Answers) -> Option<&'a str> {
        self.chosen(answers).map(|(_, c)| c.second.as_str()).find(|s| !s.is_empty())
    }

    /// How the barrier of the wall is made under these answers.
    pub fn barrier(&self, answers: &Answers) -> Option<&BarrierSpec> {
        self.questions.iter().find_map(|q| self.choice(&q.id, answers.get(&q.id)?)?.barrier.as_ref())
    }
}

/// Sets of answers, one after another.
pub struct Combinations<'a> {
    asked: Vec<&'a Question>,
    /// For each question answered so far, which answer is tried next.
    next: Vec<usize>,
    answers: Answers,
}

impl Iterator for Combinations<'_> {
    type Item = Answers;

    fn next(&mut self) -> Option<Answers> {
        loop {
            let at = self.next.len().checked_sub(1)?;
            let Some(q) = self.asked.get(at) else {
                self.next.pop();
                return Some(self.answers.clone());
            };
            self.answers.remove(&q.id);
            let from = self.next[at];
            match q.choice.iter().enumerate().skip(from).find(|(_, c)| refusal(c, &self.answers).is_none()) {
                None => {
                    self.next.pop();
                }
                Some((n, c)) => {
                    self.next[at] = n + 1;
                    self.answers.insert(q.id.clone(), c.id.clone());
                    self.next.push(0);
                }
            }
        }
    }
}

/// The wall's questions, which add nothing to these recipes, and those of `data`.
fn with_the_wall(kept: &'static OnceLock<Result<Schools, String>>, data: &[&str]) -> Result<&'static Schools, String> {
    let read = || {
        let mut all: Vec<Question> = questions(&DATA)?.into_iter().filter(|q| q.scope == Scope::Wall).collect();
        for q in &mut all {
            q.recipe = Recipe::default();
            q.choice.iter_mut().for_each(|c| c.recipe = Recipe::default());
        }
        all.extend(questions(data)?);
        Ok(Schools::of_questions(all))
    };
    kept.get_or_init(read).as_ref().map_err(Clone::clone)
}

fn questions(data: &[&str]) -> Result<Vec<Question>, String> {
    let read = |text: &&str| {
        let question: Question =
            toml::from_str(text).map_err(|e| format!("school data {text:.40} does not read: {e}"))?;
        // A check that is named is there.
        for step in question.choice.iter().flat_map(|c| &c.recipe.step).chain(&question.recipe.step) {
            for id in step.actions.iter().flat_map(ActionSpec::checks) {
                super::checks::check(id).map_err(|e| format!("step \"{}\" of {text:.40}: {e}", step.id))?;
            }
        }
        Ok(question)
    };
    data.iter().map(read).collect()
}

fn refusal<'a>(choice: &'a Choice, answers: &Answers) -> Option<&'a str> {
    choice.refuse.iter().find(|r| holds(&r.when, answers)).map(|r| r.because.as_str())
}

/// Adds what belongs to these answers.
fn append(out: &mut Recipe, part: &Recipe, answers: &Answers) {
    let is = |when: &str| holds(when, answers);
    let lets = part.lets.iter().filter(|l| l.get("when").is_none_or(|w| is(w)));
    out.lets
        .extend(lets.map(|l| l.iter().filter(|(k, _)| *k != "when").map(|(k, v)| (k.clone(), v.clone())).collect()));
    out.surface.extend(part.surface.iter().filter(|x| is(&x.when)).cloned());
    out.stitch.extend(part.stitch.iter().filter(|x| is(&x.when)).cloned());
    out.piece.extend(part.piece.iter().filter(|x| is(&x.when)).cloned().map(|mut p| {
        p.regions.retain(|r| is(&r.when));
        p
    }));
    out.seal.extend(part.seal.iter().filter(|x| is(&x.when)).cloned().map(|mut s| {
        s.rects.retain(|r| is(&r.when));
        s
    }));
    out.cut.extend(part.cut.iter().filter(|x| is(&x.when)).cloned().map(|mut c| {
        c.folds.retain(|f| is(&f.when));
        c.flaps.retain(|f| is(&f.when));
        c
    }));
    out.fit.extend(part.fit.iter().filter(|x| is(&x.when)).cloned());
    out.step.extend(part.step.iter().filter(|x| is(&x.when)).cloned());
    out.over.extend(part.over.iter().filter(|x| is(&x.when)).cloned());
    out.target.extend(part.target.iter().filter(|x| is(&x.when)).cloned());
    out.stop.extend(part.stop.iter().filter(|x| is(&x.when)).cloned());
    out.leak.extend(part.leak.iter().filter(|x| is(&x.when)).cloned());
}

#[cfg(test)]
mod tests {
    use super::*;

    fn answers(list: &[(&str, &str)]) -> Answers {
        list.iter().map(|(q, c)| ((*q).to_owned(), (*c).to_owned())).collect()
    }

    #[test]
    fn a_condition_holds_where_every_part_does() {
        let a = answers(&[("unit", "frame"), ("cut", "flush")]);
        assert!(holds("", &a) && holds("unit:frame,door", &a) && holds("unit:frame cut!fold-in", &a));
        assert!(!holds("unit:door", &a) && !holds("unit:frame cut!flush", &a) && !holds("head:cap", &a));
        assert!(holds("head!cap", &a), "what is not answered is not that answer");
    }

    #[test]
    fn what_is_not_answered_is_the_first_that_can_be_built() {
        let schools = Schools::shipped().expect("school data");
        let all = schools.complete(&Answers::new()).expect("defaults");
        assert_eq!(all.len(), schools.questions.iter().filter(|q| !q.choice.is_empty()).count());
        assert_eq!(
            (all["barrier"].as_str(), all["unit"].as_str(), all["cut"].as_str()),
            ("loose", "flanged", "fold-in")
        );
        let panel = schools.complete(&answers(&[("barrier", "panel")])).expect("panel");
        assert_eq!(panel["cut"], "flush");
    }

    #[test]
    fn settling_drops_what_cannot_be_built_and_keeps_what_does_not_exist_to_be_refused() {
        let schools = Schools::shipped().expect("school data");
        let given = answers(&[("barrier", "panel"), ("cut", "fold-in"), ("sill", "metal")]);
        let settled = schools.settled(&given, Some("barrier"));
        assert_eq!(settled, answers(&[("barrier", "panel"), ("sill", "metal")]));
        assert_eq!(schools.settled(&settled, None), settled, "settled once is settled");
        for nonsense in [answers(&[("roof", "flat")]), answers(&[("unit", "tent")])] {
            assert_eq!(schools.settled(&nonsense, None), nonsense);
            assert!(schools.complete(&nonsense).is_err());
        }
        // The one to keep stays although it cannot be built.
        let kept = answers(&[("bottom", "sealed")]);
        assert_eq!(schools.settled(&kept, Some("bottom")), kept);
    }

    #[test]
    fn a_wall_keeps_its_own_answers_and_of_all_walls_what_can_be_built_with_them() {
        let schools = Schools::of_wall().expect("school data");
        let all = answers(&[("barrier", "panel"), ("panels", "lying"), ("base", "flashing")]);
        let sheet = answers(&[("barrier", "loose")]);
        assert_eq!(schools.over(&all, &sheet), answers(&[("barrier", "loose"), ("base", "flashing")]));
        assert_eq!(schools.over(&all, &Answers::new()), all);
        // What is wrong with a wall's own answers stays, to be refused by name.
        for own in [answers(&[("roof", "flat")]), answers(&[("barrier", "loose"), ("panels", "lying")])] {
            let over = schools.over(&all, &own);
            assert!(own.iter().all(|(q, c)| over.get(q) == Some(c)), "{over:?}");
            assert!(schools.complete(&over).is_err());
        }
    }

    #[test]
    fn unknown_questions_and_answers_are_named_with_what_there_is() {
        let schools = Schools::shipped().expect("school data");
        let refused = schools.complete(&answers(&[("roof", "flat"), ("unit", "tent")])).expect_err("refused");
        assert_eq!(refused.len(), 2);
        assert!(refused[0].message.contains("no question \"roof\"") && refused[0].message.contains("barrier"));
        assert!(refused[1].message.contains("\"tent\"") && refused[1].message.contains("flanged"));
    }
}
