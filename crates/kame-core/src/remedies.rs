//! Remedies are tried before they are told: each is an edit that is made, answered again, and offered only where what it was offered for is gone
//! and nothing came that was not there (handbook 4.12).
//!
//! # Properties
//! Every remedy takes at least one cause away and adds none, so that a chain of them ends, at most in as many steps as there were causes.

use crate::edit::{Edit, apply};
use crate::findings::{Cause, Finding, Fix, KnownWater, Moment, Severity, by_cause, cause_key};
use crate::job::Job;
use crate::length::Length;
use crate::plan::{Piece, Plan};
use crate::profile::{FigureKind, FigureValue, Profile, fig};
use crate::recipe::schools::{Answers, Feature, Schools};
use crate::stop::Stop;
use std::collections::BTreeSet;

/// A remedy that was tried.
#[derive(Clone, Debug, PartialEq)]
pub struct Remedy {
    /// The edit.
    pub edit: Edit,
    /// What it does, in words.
    pub words: String,
}

/// What is tried, the nearest first; what is asked for where nothing else cures stands last.
type Candidate = (Edit, String);

/// Most edits that are tried for one cause.
pub const MOST_TRIED: usize = 120;

/// The causes on a finished wall that something can be done about, each with its place in the list of causes and the remedy that cures it, or
/// `None` where only a person can. At most the first `most` are tried.
///
/// # Errors
/// A sentence if the asker stopped asking.
pub fn remedies(
    job: &Job,
    plan: &Plan,
    found: &[Finding],
    known: &KnownWater,
    stop: &Stop,
    most: usize,
) -> Result<Vec<(usize, Option<Remedy>)>, String> {
    let causes = by_cause(plan, found);
    let wall = Before { job, plan, keys: keys(plan, found), known, stop };
    let asked = causes.iter().enumerate().filter(|(_, c)| is_cause_of_worry(c.told)).take(most);
    asked.map(|(i, c)| Ok((i, wall.remedy(c)?))).collect()
}

/// True for what remedies are sought for: everything that is not as it should be, and no mere note or glue.
pub fn is_cause_of_worry(f: &Finding) -> bool {
    !matches!(f.severity, Severity::Glue | Severity::Note)
}

/// What tells the causes of worry of a wall apart.
fn keys(plan: &Plan, found: &[Finding]) -> BTreeSet<String> {
    let worry = found.iter().filter(|f| is_cause_of_worry(f));
    worry.map(|f| cause_key(plan, f)).collect()
}

/// The wall as it is, before anything is tried.
struct Before<'a> {
    job: &'a Job,
    plan: &'a Plan,
    keys: BTreeSet<String>,
    known: &'a KnownWater,
    stop: &'a Stop,
}

impl Before<'_> {
    fn remedy(&self, cause: &Cause) -> Result<Option<Remedy>, String> {
        let all: BTreeSet<String> =
            [cause.told].into_iter().chain(cause.also.iter().copied()).map(|f| cause_key(self.plan, f)).collect();
        let mut tried: Vec<Edit> = Vec::new();
        for (edit, words) in self.candidates(cause) {
            if tried.len() == MOST_TRIED {
                break;
            }
            if tried.contains(&edit) {
                continue;
            }
            self.stop.check()?;
            if self.cures(&edit, &all)? {
                return Ok(Some(Remedy { edit, words }));
            }
            tried.push(edit);
        }
        Ok(None)
    }

    /// True where everything that was told of a cause is gone after an edit, and nothing is there that was not.
    fn cures(&self, edit: &Edit, gone: &BTreeSet<String>) -> Result<bool, String> {
        let Ok((job, plan)) = apply(self.job, edit) else { return Ok(false) };
        if job.openings.len() != self.job.openings.len() && !matches!(edit, Edit::FlashTogether { .. }) {
            return Ok(false);
        }
        let moment = Moment::with_known(&plan, usize::MAX, self.known)?;
        let now = keys(&plan, &moment.findings(&plan));
        Ok(gone.is_disjoint(&now) && now.is_subset(&self.keys))
    }

    /// Everything that might cure it: what was left out or done otherwise is put right first, then the order, then sizes, then other answers.
    fn candidates(&self, cause: &Cause) -> Vec<Candidate> {
        let mut out: Vec<Candidate> = Vec::new();
        let f = cause.told;
        if let Some(fix) = &f.fix {
            out.push((edit_of(fix), f.remedy.clone()));
            if let Fix::Move { step, before } = fix {
                out.push((Edit::MoveStep { step: step.clone(), before: before.clone() }, f.remedy.clone()));
            }
        }
        out.extend(self.left_out());
        let as_built = self.job.as_built.iter().map(|d| Edit::SetAsBuilt { deviation: d.clone(), so: false });
        out.extend(as_built.map(|e| (e, "Make it as it was planned.".to_owned())));
        if !self.job.sequence.order.is_empty() {
            out.push((Edit::PutRight, "Do the steps in the nearest order that works.".into()));
            let moved = Edit::RestoreOrder;
            out.push((moved, "Do every step, in the recipes' own order.".into()));
        }
        out.extend(self.own_figures());
        out.extend(self.together(cause));
        out.extend(self.longer(f));
        out.extend(self.sealed_top(f));
        out.extend(self.other_answers(cause));
        out
    }

    fn left_out(&self) -> Vec<Candidate> {
        let named = |id: &String| {
            let step = self.plan.steps.iter().find(|s| s.id == *id || s.actions.iter().any(|a| a.id == *id))?;
            let what = step.actions.iter().find(|a| a.id == *id).map_or(&*step.title, |a| &*a.label);
            Some((Edit::RestoreStep { step: id.clone() }, format!("Put \"{what}\" back.")))
        };
        self.job.sequence.removed.iter().filter_map(named).collect()
    }

    /// Holes that stand so close that their flashings fall on each other get one flashing over both.
    fn together(&self, cause: &Cause) -> Vec<Candidate> {
        let holes = || self.plan.openings.iter().filter(|o| o.feature == Feature::Penetration);
        let mut out = Vec::new();
        for one in holes().filter(|o| cause.at.contains(&o.id.as_str())) {
            for other in holes().filter(|o| o.id != one.id && o.hull.overlaps(one.hull)) {
                let edit = Edit::FlashTogether { id: one.id.clone(), with: other.id.clone(), left: None, sill: None };
                out.push((edit, format!("Flash {} and {} together as one.", one.name, other.name)));
            }
        }
        out
    }

    fn own_figures(&self) -> Vec<Candidate> {
        let Ok(profile) = Profile::general_practice() else { return Vec::new() };
        let own = profile.figures.iter().filter(|f| self.job.figures.contains_key(&f.id));
        let back = |f: &crate::profile::Figure| {
            (Edit::SetFigure { id: f.id.clone(), value: None }, format!("Set \"{}\" back to {}.", f.name, f.value))
        };
        own.map(back).collect()
    }

    /// A longer lap: sizes of which less than is usual is a fault, each by what is missing and within what is usual.
    fn longer(&self, f: &Finding) -> Vec<Candidate> {
        let (Some(head), Ok(profile)) = (f.head, Profile::general_practice()) else { return Vec::new() };
        let floor = self.plan.floor(f.lost);
        let short = floor - head.as_length();
        let round = self.plan.basis.figures.length(fig::CUT_ROUND);
        // Sideways a lap has to be half as wide again.
        let by = [short, short + Length::from_units(short.units() / 2)].map(|by| by.ceil_step(round));
        let sizes = profile.figures.iter().filter(|f| f.kind == FigureKind::Length && !f.usual.is_empty());
        let longer = sizes.filter_map(|f| match self.plan.basis.figures.get(&f.id)? {
            FigureValue::Length(now) => Some((f, now)),
            FigureValue::Number(_) => None,
        });
        let longer = longer.flat_map(|(f, now)| by.into_iter().map(move |by| (f, now + by)));
        let allowed = longer.filter(|(f, l)| {
            let text = l.to_string();
            f.checked(&text).is_ok() && f.usual.iter().any(|u| f.lies(&text, u) == crate::profile::Usually::Within)
        });
        let edit = |(f, l): (&crate::profile::Figure, Length)| {
            let words = format!("Make \"{}\" {l}: that keeps it dry.", f.name);
            (Edit::SetFigure { id: f.id.clone(), value: Some(l.to_string()) }, words)
        };
        allowed.map(edit).collect()
    }

    /// A bead along the top edge of one of the pieces that the water passes; where a job asks for one that is not needed, none.
    fn sealed_top(&self, f: &Finding) -> Vec<Candidate> {
        let passed = f.pieces.iter().filter_map(|id| self.plan.pieces.iter().find(|p| p.id == *id && !p.solid));
        let seal = |p: &Piece| {
            let words = format!("Lay a bead along the top edge of the {}: that keeps it dry.", p.name);
            (Edit::SealTop { piece: p.id.clone(), so: true }, words)
        };
        let unsealed = |p: &&Piece| f.head.is_some() && !self.job.sealed.contains(&p.id);
        let lay: Vec<Candidate> = passed.filter(unsealed).map(seal).collect();
        let leave = self.job.sealed.iter().map(|id| {
            (Edit::SealTop { piece: id.clone(), so: false }, "Leave out the bead that no recipe asks for.".to_owned())
        });
        lay.into_iter().chain(leave).collect()
    }

    /// Another answer to one question, of the features it shows at and of the walls.
    fn other_answers(&self, cause: &Cause) -> Vec<Candidate> {
        let mut out = Vec::new();
        for at in &cause.at {
            let Some(o) = self.plan.openings.iter().find(|o| o.id == **at) else { continue };
            let Ok(schools) = Schools::of(o.feature) else { continue };
            out.extend(others(schools, &o.answers, |question, choice| Edit::SetSchool {
                opening: Some(o.id.clone()),
                wall: None,
                question,
                choice: Some(choice),
            }));
        }
        if let (Ok(schools), Some(finish)) = (Schools::of_wall(), self.plan.walls.finishes.first()) {
            out.extend(others(schools, &finish.answers, |question, choice| Edit::SetSchool {
                opening: None,
                wall: None,
                question,
                choice: Some(choice),
            }));
        }
        out
    }
}

fn others(schools: &Schools, answers: &Answers, edit: impl Fn(String, String) -> Edit) -> Vec<Candidate> {
    let mut out = Vec::new();
    for (question, chosen) in schools.chosen(answers) {
        for other in question.choice.iter().filter(|c| c.id != chosen.id) {
            let words = format!("{} Take \"{}\" instead of \"{}\".", question.ask, other.name, chosen.name);
            out.push((edit(question.id.clone(), other.id.clone()), words));
        }
    }
    out
}

/// The edit that undoes what a finding says is at the bottom of it.
fn edit_of(fix: &Fix) -> Edit {
    match fix.clone() {
        Fix::Move { .. } => Edit::PutRight,
        Fix::Restore { step } => Edit::RestoreStep { step },
        Fix::PutRight { deviation } => Edit::SetAsBuilt { deviation, so: false },
        Fix::Figure { id } => Edit::SetFigure { id, value: None },
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_bead_is_refused_where_there_is_no_such_edge() {
        let job = Job::new("seals");
        for (piece, says) in [("nothing", "there is no piece"), ("W1/lining-left", "no top edge")] {
            let refused = apply(&job, &Edit::SealTop { piece: piece.into(), so: true }).expect_err("refused");
            assert!(refused[0].message.contains(says), "{refused:?}");
        }
        let mut twice = job.clone();
        twice.sealed = vec!["course-1".into(), "course-1".into()];
        let refused = crate::plan::build(&twice).expect_err("refused");
        assert_eq!(refused[0].path, "$.sealed[1]");
    }
}
