//! Taking advice: one set of answers that can be built together, written to every wall and opening it speaks of. What cannot be written is told,
//! and so is what was answered before and gives way.

use super::advise::advise_with;
use super::ranked::{Advice, Ranked};
use super::together::{Chosen, FACTS, facts};
use crate::interview::{AdviceOption, TAPE_ADVICE, Taken, WrittenAnswer, data};
use crate::job::{Job, OpeningSpec};
use crate::kit::{OwnProduct, attributes, known, products};
use crate::length::Length;
use crate::profile::{FigureValue, Figures, Profile};
use crate::recipe::schools::{Answers, Feature, Schools, Scope, holds};
use std::collections::BTreeMap;

/// What taking all advice makes of a job.
#[derive(Clone, Debug)]
pub struct Followed {
    /// The job as it would be.
    pub job: Job,
    /// The advice, with what of it is written and what is not.
    pub advice: Vec<Advice>,
    /// What the answers of the interview themselves put on the walls, as sentences.
    pub also: Vec<String>,
    /// Answers given before that cannot be built with what is written, as sentences.
    pub gives_way: Vec<String>,
}

/// The job with everything set as advised or decided.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn follow(job: &Job, figures: &Figures) -> Result<Followed, String> {
    let facts = facts(job);
    let chosen = Chosen::best(data()?, &job.strategy, &facts)?;
    let mut advice = advise_with(&chosen, &job.strategy, figures)?;
    // Advice without a reason for or against changes nothing: the wall keeps what it has.
    let said: Vec<String> = advice.iter().filter(|a| a.speaks()).map(|a| a.id.clone()).collect();
    let speaks = |id: &str| said.iter().any(|s| s == id);
    let writes: Vec<(&str, &WrittenAnswer)> = chosen
        .writes()
        .filter(|(s, _)| speaks(&s.id))
        .map(|(s, w)| (s.id.as_str(), w))
        .chain(chosen.said().map(|w| ("", w)))
        .collect();
    let given: Answers = writes.iter().map(|(_, w)| (w.question.clone(), w.answer.clone())).collect();
    let mut next = job.clone();
    let mut gives_way = write_walls(&mut next, &given)?;
    gives_way.extend(write_openings(&mut next, &given)?);
    let mut also = Vec::new();
    for (id, w) in &writes {
        let (text, not) = (sentence(w)?, not_written(&next, w)?);
        match advice.iter_mut().find(|a| a.id == *id) {
            Some(a) => {
                a.stands = a.stands && not_written(job, w)?.is_empty();
                a.writes.push(text);
                a.unwritten.extend(not);
            }
            None => also.extend([text].into_iter().chain(not)),
        }
    }
    for (spec, option) in chosen.options.iter().filter(|(s, _)| speaks(&s.id)) {
        let Some(a) = advice.iter_mut().find(|a| a.id == spec.id) else { continue };
        let set = write_figures(&mut next, option, &chosen.known, figures)?;
        let asked = write_products(&mut next, option, &chosen.known)?;
        a.stands = a.stands && set.is_empty() && asked.is_empty();
        a.writes.extend(set.into_iter().chain(asked));
        a.unwritten.extend((!option.unwritten.is_empty()).then(|| option.unwritten.clone()));
    }
    if let Some(a) = advice.iter_mut().find(|a| a.id == TAPE_ADVICE && a.speaks()) {
        let width = Length::parse(&a.chosen).map_err(|e| e.to_string())?;
        for id in ["jamb_tape_width", "head_tape_width"] {
            a.stands = a.stands && figures.get(id) == Some(FigureValue::Length(width));
            next.figures.insert(id.into(), a.chosen.clone());
        }
        a.writes.push(format!("Tape at jambs and head: {} in.", a.chosen));
    }
    for a in advice.iter_mut() {
        // Advice that writes nothing is not called in force.
        a.stands = a.stands && !a.writes.is_empty();
        if a.speaks() {
            let because = a.ranked.iter().find(|r| r.id == a.chosen).map(Ranked::in_favour).unwrap_or_default();
            next.strategy.taken.insert(a.id.clone(), Taken { choice: a.chosen.clone(), because });
        }
    }
    Ok(Followed { job: next, advice, also, gives_way })
}

/// Starts from `first` and adds what else can still be built with it, in the order of the questions; those that cannot come back with the reason.
fn added(schools: &Schools, first: Answers, more: &Answers) -> (Answers, Vec<(String, String)>) {
    let (mut out, mut lost) = (first, Vec::new());
    for q in &schools.questions {
        let Some(answer) = more.get(&q.id).filter(|_| !out.contains_key(&q.id)) else { continue };
        out.insert(q.id.clone(), answer.clone());
        if let Err(refused) = schools.complete(&out) {
            out.remove(&q.id);
            lost.push((q.id.clone(), refused.into_iter().next().map(|r| r.because).unwrap_or_default()));
        }
    }
    (out, lost)
}

/// Writes the answers of walls to all of them; what was answered otherwise before and cannot stay is said.
fn write_walls(job: &mut Job, given: &Answers) -> Result<Vec<String>, String> {
    let of_wall = Schools::of_wall()?;
    let (all, lost) = added(of_wall, of_wall.asked(given), &job.wall.schools);
    let mut out: Vec<String> = lost.into_iter().map(|(_, why)| why).collect();
    for c in &mut job.wall.corners {
        let mut own = std::mem::take(&mut c.schools);
        let gone: Vec<String> =
            own.iter().filter(|(q, a)| given.get(*q).is_some_and(|g| g != *a)).map(|(q, _)| q.clone()).collect();
        for q in gone {
            let before = own.remove(&q).unwrap_or_default();
            let name = of_wall.choice(&q, &before).map_or(before.as_str(), |c| c.name.as_str());
            let ask = of_wall.question(&q).map_or(q.as_str(), |q| q.ask.as_str());
            out.push(format!("{}: no longer {name} ({ask})", c.name));
        }
        own.retain(|q, _| !given.contains_key(q));
        // What is answered for all walls and was not written may be otherwise here.
        let written: Answers =
            all.iter().filter(|(q, _)| given.contains_key(*q)).map(|(q, a)| (q.clone(), a.clone())).collect();
        let (with, lost) = added(of_wall, written, &own);
        out.extend(lost.into_iter().map(|(_, why)| format!("{}: {why}", c.name)));
        own.retain(|q, _| with.contains_key(q));
        c.schools = own;
    }
    job.wall.schools = all;
    Ok(out)
}

/// Writes the answers of openings to windows and doors, and lets go what cannot be built on the walls as they are now.
fn write_openings(job: &mut Job, given: &Answers) -> Result<Vec<String>, String> {
    let mut out: BTreeMap<String, Vec<String>> = BTreeMap::new();
    let walls = job.wall.clone();
    for o in &mut job.openings {
        let schools = Schools::of(o.feature)?;
        let wall = schools.asked(&walls.answers(o.wall(&walls), Schools::of_wall()?));
        let mut first = wall.clone();
        if o.feature == Feature::Opening {
            let stays = o.schools.iter().filter(|(q, _)| FACTS.contains(&q.as_str()));
            first = added(schools, first, &stays.map(|(q, a)| (q.clone(), a.clone())).collect()).0;
            first = added(schools, first, &of_openings(schools, given)).0;
        }
        let (all, lost) = added(schools, first, &o.schools);
        for (_, why) in lost {
            out.entry(why).or_default().push(o.id.clone());
        }
        o.schools = all.into_iter().filter(|(q, _)| !wall.contains_key(q)).collect();
    }
    Ok(out.into_iter().map(|(why, at)| format!("{}: {why}", at.join(", "))).collect())
}

fn of_openings(schools: &Schools, given: &Answers) -> Answers {
    let asked = given.iter().filter(|(q, _)| schools.question(q).is_some_and(|q| q.scope == Scope::Opening));
    asked.map(|(q, a)| (q.clone(), a.clone())).collect()
}

/// Where an answer is not so, with the reason, as sentences.
fn not_written(job: &Job, w: &WrittenAnswer) -> Result<Vec<String>, String> {
    let of_wall = Schools::of_wall()?;
    let mut out: BTreeMap<String, Vec<String>> = BTreeMap::new();
    let mut not = |schools: &Schools, answers: &Answers, at: &str| {
        let so = schools.complete(&schools.asked(answers)).is_ok_and(|all| all.get(&w.question) == Some(&w.answer));
        if !so {
            let mut asked = schools.asked(answers);
            asked.insert(w.question.clone(), w.answer.clone());
            let why = schools.complete(&asked).err().and_then(|r| r.into_iter().next()).map(|r| r.message);
            out.entry(why.unwrap_or_else(|| "answered otherwise.".into())).or_default().push(at.to_owned());
        }
    };
    if of_wall.question(&w.question).is_some() {
        for (n, name) in job.wall.names().iter().enumerate() {
            not(of_wall, &job.wall.answers(n, of_wall), name);
        }
    } else {
        let schools = Schools::shipped()?;
        for o in job.openings.iter().filter(|o| o.feature == Feature::Opening) {
            not(schools, &with_own(job, o, schools)?, &o.id);
        }
    }
    Ok(out.into_iter().map(|(why, at)| format!("Not at {}: {why}", at.join(", "))).collect())
}

fn with_own(job: &Job, o: &OpeningSpec, schools: &Schools) -> Result<Answers, String> {
    let wall = schools.asked(&job.wall.answers(o.wall(&job.wall), Schools::of_wall()?));
    Ok(wall.into_iter().chain(o.schools.clone()).collect())
}

fn sentence(w: &WrittenAnswer) -> Result<String, String> {
    for schools in [Schools::of_wall()?, Schools::shipped()?] {
        if let (Some(q), Some(c)) = (schools.question(&w.question), schools.choice(&w.question, &w.answer)) {
            return Ok(format!("{} {}.", q.ask, c.name));
        }
    }
    Err(format!("the advice data write \"{}\" to \"{}\", which is not there", w.answer, w.question))
}

/// Brings figures within what an option asks for; those that lie there stay as they are.
fn write_figures(
    job: &mut Job,
    option: &AdviceOption,
    known: &Answers,
    figures: &Figures,
) -> Result<Vec<String>, String> {
    let mut out = Vec::new();
    let length = |t: &String| Length::parse(t).map_err(|e| e.to_string());
    for b in option.figures.iter().filter(|b| holds(&b.when, known)) {
        let Some(FigureValue::Length(now)) = figures.get(&b.figure) else {
            return Err(format!("the advice data name no length \"{}\"", b.figure));
        };
        let (least, most) = (b.least.as_ref().map(length).transpose()?, b.most.as_ref().map(length).transpose()?);
        let kept = now.max(least.unwrap_or(now));
        let kept = most.map_or(kept, |m| kept.min(m));
        if kept != now {
            job.figures.insert(b.figure.clone(), kept.inches(16).to_string());
            let profile = Profile::general_practice().map_err(|e| e.to_string())?;
            let name = &profile.figure(&b.figure).map_err(|e| e.to_string())?.name;
            out.push(format!("{name}: {kept}, was {now}."));
        }
    }
    Ok(out)
}

/// Makes the crew's own products ask for what an option asks: what is bought has to have it.
fn write_products(job: &mut Job, option: &AdviceOption, known_so_far: &Answers) -> Result<Vec<String>, String> {
    let mut out = Vec::new();
    for asked in option.products.iter().filter(|a| holds(&a.when, known_so_far)) {
        let generic = products()?.iter().find(|p| p.name == asked.product);
        let generic = generic.ok_or_else(|| format!("the advice data name no product \"{}\"", asked.product))?;
        let attribute = attributes()?.iter().find(|a| a.id == asked.attribute);
        let attribute =
            attribute.ok_or_else(|| format!("the advice data name no attribute \"{}\"", asked.attribute))?;
        let own = job.kit.products.get(&asked.product).cloned().unwrap_or_default();
        let now = own.attributes.get(&asked.attribute).cloned().or(known(generic)?.get(&asked.attribute).cloned());
        let now = now.unwrap_or_default();
        let enough = match (&asked.is, asked.least) {
            (Some(is), _) => now == *is,
            (None, least) => now.parse::<f64>().is_ok_and(|n| n >= least.unwrap_or(n)),
        };
        if !enough {
            let value = asked.is.clone().or(asked.least.map(|l| l.to_string())).unwrap_or_default();
            let (name, what) = (job.kit.called(&asked.product).to_owned(), attribute.name.to_lowercase());
            out.push(format!("Buy {name} of this kind: {what} {value}{}.", was(&now)));
            let mut attributes = own.attributes.clone();
            attributes.insert(asked.attribute.clone(), value);
            job.kit.set_product(&asked.product, Some(OwnProduct { attributes, ..own }));
        }
    }
    Ok(out)
}

fn was(now: &str) -> String {
    if now.is_empty() { String::new() } else { format!(" (so far: {now})") }
}
