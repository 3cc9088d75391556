//! The answers to a question as pictures: the section in which they differ most, cut through the same place made each way; or the pieces that are not
//! the same in all of them drawn apart, where that tells more of them from each other.

use super::ask::{SectionAsk, SectionKind, Weather, data_problem};
use super::exploded::{Exploded, explode_some};
use super::section::{self, Section};
use crate::edit::{Edit, apply};
use crate::findings::Moment;
use crate::job::Job;
use crate::length::Length;
use crate::plan::{Piece, Plan};
use crate::problem::Problem;
use crate::recipe::schools::{Choice, Question, Schools};
use crate::stop::Stop;
use crate::trade::PieceId;
use serde::Serialize;
use std::collections::HashSet;

/// Which question's answers are drawn.
#[derive(Clone, Copy, Debug)]
pub struct ChoicesAsk<'a> {
    /// Id of the question.
    pub question: &'a str,
    /// At which opening it is asked; `None` for the walls.
    pub opening: Option<&'a str>,
    /// Of which wall, from 1 behind the first corner; 0 for all of them.
    pub wall: usize,
}

/// One answer.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ChoicePicture {
    /// Stable name of the answer.
    pub choice: String,
    /// The wall made so, cut where the answers differ most; `null` where it cannot be built so, or where no section shows the difference best.
    pub section: Option<Section>,
    /// The pieces that are not the same whatever is answered, drawn apart, where that shows the difference best.
    pub apart: Option<Exploded>,
}

/// All answers to a question.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ChoicePictures {
    /// Id of the question.
    pub question: String,
    /// Its answers, in the order in which they are offered.
    pub choices: Vec<ChoicePicture>,
}

/// A place made by one answer.
struct MadeSo {
    plan: Plan,
    moment: Moment,
    cuts: Vec<Option<Section>>,
}

impl MadeSo {
    /// What tells its pieces apart.
    fn pieces(&self, told_by: ToldBy) -> HashSet<String> {
        self.plan.pieces.iter().filter(|p| p.opening.is_some()).map(told_by).collect()
    }
}

/// By what pieces are told apart.
type ToldBy = fn(&Piece) -> String;

fn by_name(p: &Piece) -> String {
    format!("{} {}", p.name, p.product)
}

fn by_place(p: &Piece) -> String {
    format!("{} {} {:?}", p.name, p.product, p.regions)
}

/// Draws the answers to a question at one place of a job, all else as it is.
///
/// # Errors
/// That there is no such question or opening, or that the asker stopped asking.
pub fn choices(job: &Job, ask: ChoicesAsk, stop: &Stop) -> Result<ChoicePictures, Vec<Problem>> {
    let job = &alone(job, ask)?;
    let kinds = SectionKind::of(job.openings[0].feature, false);
    let question = question(ask, job)?;
    let made = question.choice.iter().map(|choice| {
        stop.check().map_err(data_problem)?;
        let edit = Edit::SetSchool {
            opening: ask.opening.map(str::to_owned),
            wall: ask.opening.is_none().then_some(ask.wall),
            question: ask.question.to_owned(),
            choice: Some(choice.id.clone()),
        };
        // What cannot be built has no picture; why not stands with the question.
        let Ok((_, plan)) = apply(job, &edit) else { return Ok(None) };
        let moment = Moment::new(&plan, usize::MAX).map_err(data_problem)?;
        let cut = |kind| section::cut(&plan, &moment, Weather::Dry, &SectionAsk { opening: 0, kind, at: 0.5 });
        let cuts = kinds.iter().map(|kind| cut(*kind)).collect();
        Ok(Some(MadeSo { cuts, plan, moment }))
    });
    let made: Vec<Option<MadeSo>> = made.collect::<Result<_, Vec<Problem>>>()?;
    let shown = most_telling(&made, kinds.len());
    let picture = |(choice, made): (&Choice, Option<MadeSo>)| {
        let (section, apart) = match (made, &shown) {
            (Some(mut made), Shown::Section(k)) => (made.cuts.swap_remove(*k).map(as_picture), None),
            (Some(made), Shown::Apart(alike, told_by)) => {
                let own = |piece: PieceId| {
                    let p = &made.plan.pieces[piece];
                    p.opening.is_some() && !alike.contains(&told_by(p))
                };
                (None, explode_some(&made.plan, &made.moment, 0, own))
            }
            _ => (None, None),
        };
        ChoicePicture { choice: choice.id.clone(), section, apart }
    };
    let choices = question.choice.iter().zip(made).map(picture).collect();
    Ok(ChoicePictures { question: ask.question.to_owned(), choices })
}

/// The job with one place alone: the opening that is asked about, else the first on the wall that is. What others are made of does not matter there.
fn alone(job: &Job, ask: ChoicesAsk) -> Result<Job, Vec<Problem>> {
    let mut job = job.clone();
    let ends = |wall: usize| job.wall.corners.get(wall).map_or(job.wall.width, |c| c.at);
    let from = if ask.wall == 0 { Length::ZERO } else { ends(ask.wall - 1) };
    let on_wall = |left: Length| from <= left && left < ends(ask.wall);
    let found = match ask.opening {
        Some(id) => Some(
            job.openings
                .iter()
                .find(|o| o.id == id)
                .ok_or_else(|| vec![Problem::new("$.opening", format!("there is no opening \"{id}\" in this job"))])?,
        ),
        None => job.openings.iter().find(|o| on_wall(o.left)).or_else(|| job.openings.first()),
    };
    // A wall without openings is cut through one that might be there.
    let one = found.cloned().unwrap_or_else(|| Job::new("").openings[0].clone());
    job.openings = vec![one];
    (job.sequence, job.as_built, job.sealed, job.site) = Default::default();
    Ok(job)
}

fn question(ask: ChoicesAsk, job: &Job) -> Result<&'static Question, Vec<Problem>> {
    let schools = if ask.opening.is_some() { Schools::of(job.openings[0].feature) } else { Schools::of_wall() };
    let unknown =
        || vec![Problem::new("$.question", format!("nothing is asked here by the name \"{}\"", ask.question))];
    schools.map_err(data_problem)?.question(ask.question).ok_or_else(unknown)
}

/// By what the answers are shown.
enum Shown {
    /// A section, by its number among those of the feature.
    Section(usize),
    /// The pieces drawn apart, but for those that are alike in all, and by what they are.
    Apart(HashSet<String>, ToldBy),
    /// Nothing that is drawn tells them from each other.
    Nothing,
}

/// What tells most of them from each other: a section, or the pieces drawn apart where that tells more than any.
fn most_telling(made: &[Option<MadeSo>], kinds: usize) -> Shown {
    let made = || made.iter().flatten();
    let pictures = |k: usize| {
        let mut seen: Vec<&Section> = Vec::new();
        for cut in made().filter_map(|m| m.cuts[k].as_ref()) {
            if !seen.iter().any(|s| s.built == cut.built) {
                seen.push(cut);
            }
        }
        seen.len()
    };
    let pieces: Vec<HashSet<String>> = made().map(|m| m.pieces(by_place)).collect();
    let apart = pieces.iter().enumerate().filter(|(n, p)| !pieces[..*n].contains(p)).count();
    let best = (0..kinds).rev().map(|k| (pictures(k), k)).max_by_key(|(many, _)| *many);
    match best {
        Some((many, k)) if many >= apart && many > 1 => Shown::Section(k),
        _ if apart > 1 => {
            let alike = |told_by| {
                let all = made().map(|m| m.pieces(told_by));
                all.reduce(|alike, p| &alike & &p).unwrap_or_default()
            };
            // Other pieces tell more than the same ones elsewhere, where each answer has some.
            let names = alike(by_name);
            let each_has = made().all(|m| m.pieces(by_name).iter().any(|p| !names.contains(p)));
            if each_has { Shown::Apart(names, by_name) } else { Shown::Apart(alike(by_place), by_place) }
        }
        _ => Shown::Nothing,
    }
}

/// What is drawn as it is built alone: nothing else of the section travels.
fn as_picture(section: Section) -> Section {
    Section { solid: Vec::new(), bands: Vec::new(), gaps: Vec::new(), ..section }
}
