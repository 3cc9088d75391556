//! Following the firm's way of building: what of a job is its way, taking one, and where a job differs from it.

use super::answers::settle_all;
use super::feature::feature_kinds;
use crate::job::{Job, OpeningSpec, WallSpec, Way};
use crate::kit::OwnProduct;
use crate::problem::Problem;
use crate::profile::{FigureValue, Profile};
use crate::recipe::schools::{Answers, Feature, Schools, Scope};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// What of a job a difference is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum WayPart {
    /// How the walls are made.
    Walls,
    /// How what is on them is made.
    Features,
    /// Figures.
    Figures,
    /// Products, and what touches.
    Products,
}

/// Something that is otherwise in a job than in a way.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct WayDifference {
    /// What it is about.
    pub part: WayPart,
    /// The question, figure or product.
    pub what: String,
    /// What the job has.
    pub here: String,
    /// What the way has.
    pub way: String,
    /// Ids of the openings and other features; empty where it is about the whole job.
    pub places: Vec<String>,
}

/// Questions that say what a feature is, not how it is made: no way answers them.
fn what_it_is(feature: Feature) -> BTreeSet<&'static str> {
    let kinds = feature_kinds().unwrap_or_default().iter().filter(|k| k.feature == feature);
    kinds.flat_map(|k| k.schools.keys().map(String::as_str)).collect()
}

/// The way of a job: its own answers, figures and products. Of what is on the walls, those answers that every feature of its kind gives.
pub fn way_of(job: &Job, name: &str) -> Way {
    let of_all = |feature: Feature| {
        let mut all = job.openings.iter().filter(|o| o.feature == feature).map(|o| &o.schools);
        let mut common: Answers = all.next().cloned().unwrap_or_default();
        all.for_each(|a| common.retain(|q, c| a.get(q) == Some(c)));
        let is = what_it_is(feature);
        common.retain(|q, _| !is.contains(q.as_str()));
        (feature, common)
    };
    Way {
        name: name.trim().to_owned(),
        wall: job.wall.schools.clone(),
        features: Feature::ALL.into_iter().map(of_all).filter(|(_, answers)| !answers.is_empty()).collect(),
        products: job.wall.products.clone(),
        figures: job.figures.clone(),
        own: job.kit.products.clone(),
        pairs: job.kit.pairs.clone(),
    }
}

/// What is on the walls by a way: the own answers of each feature, and in their place those of the way that can be built with what it is.
struct ByWay<'a> {
    walls: WallSpec,
    way: &'a Way,
    /// Features of one kind on one wall with the same answers become the same.
    known: HashMap<(usize, Feature, Answers), Answers>,
}

impl<'a> ByWay<'a> {
    fn new(job: &Job, way: &'a Way) -> Self {
        let walls = WallSpec { schools: way.wall.clone(), ..job.wall.clone() };
        Self { walls, way, known: HashMap::new() }
    }

    fn answers(&mut self, o: &OpeningSpec) -> Result<Answers, String> {
        let key = (o.wall(&self.walls), o.feature, o.schools.clone());
        if let Some(known) = self.known.get(&key) {
            return Ok(known.clone());
        }
        let schools = Schools::of(o.feature)?;
        let of_wall = schools.asked(&self.walls.answers(key.0, Schools::of_wall()?));
        let with = |own: &Answers| of_wall.iter().chain(own).map(|(q, c)| (q.clone(), c.clone())).collect::<Answers>();
        let can = |own: &Answers| schools.complete(&with(own)).is_ok();
        let of_it = |q: &str| schools.question(q).is_some_and(|q| q.scope == Scope::Opening);
        // What cannot be built on walls made so goes first.
        let settled = schools.settled(&with(&o.schools), None);
        let mut own: Answers = o.schools.clone().into_iter().filter(|(q, _)| settled.contains_key(q)).collect();
        let mut open: Vec<_> =
            self.way.features.get(&o.feature).into_iter().flatten().filter(|(q, _)| of_it(q)).collect();
        // What can be built only with another answer of the way is tried again once that is there; what cannot be built at this one at all it goes
        // on to do in its own way.
        loop {
            let before = open.len();
            open.retain(|(question, choice)| {
                let mut next = own.clone();
                next.insert((*question).clone(), (*choice).clone());
                let fits = can(&next);
                if fits {
                    own = next;
                }
                !fits
            });
            if open.len() == before {
                break;
            }
        }
        self.known.insert(key, own.clone());
        Ok(own)
    }
}

/// Own products that one wall or one feature uses: they stay, whatever the way has.
fn used_in_places(job: &Job) -> BTreeSet<&str> {
    let places = job.wall.corners.iter().map(|c| &c.products).chain(job.openings.iter().map(|o| &o.products));
    places.flat_map(|p| p.values().map(String::as_str)).collect()
}

/// Takes all of a way: what is on the truck, on the walls and at the bench stays.
pub(super) fn take_way(next: &mut Job, way: &Way) -> Result<(), Vec<Problem>> {
    let data = |m: String| vec![Problem::new("$.way", m)];
    let wrong = way.problems("$.way");
    if !wrong.is_empty() {
        return Err(wrong);
    }
    let mut by_way = ByWay::new(next, way);
    let answers: Result<Vec<Answers>, String> = next.openings.iter().map(|o| by_way.answers(o)).collect();
    for (o, own) in next.openings.iter_mut().zip(answers.map_err(data)?) {
        o.schools = own;
    }
    next.wall.schools.clone_from(&way.wall);
    settle_all(next)?;
    next.wall.products.clone_from(&way.products);
    next.figures.clone_from(&way.figures);
    let used = used_in_places(next);
    let mut own = way.own.clone();
    own.extend(
        next.kit.products.iter().filter(|(p, _)| used.contains(p.as_str())).map(|(p, o)| (p.clone(), o.clone())),
    );
    next.kit.products = own;
    next.kit.pairs.clone_from(&way.pairs);
    next.follows = Some(way.name.clone());
    Ok(())
}

/// What stands under the same key in two tables, where it is not the same.
fn differing<'a, V: PartialEq>(
    here: &'a BTreeMap<String, V>,
    way: &'a BTreeMap<String, V>,
) -> impl Iterator<Item = (&'a str, Option<&'a V>, Option<&'a V>)> {
    let keys: BTreeSet<&String> = here.keys().chain(way.keys()).collect();
    let both = move |key: &'a String| (key.as_str(), here.get(key), way.get(key));
    keys.into_iter().map(both).filter(|(_, a, b)| a != b)
}

fn said(schools: &Schools, question: &str, choice: Option<&String>) -> String {
    let name = |c: &String| schools.choice(question, c).map_or_else(|| c.clone(), |c| c.name.clone());
    choice.map_or_else(|| "the usual".to_owned(), name)
}

/// Where a job differs from a way, part by part.
///
/// # Errors
/// What does not read, if the data were broken.
pub fn way_differences(job: &Job, way: &Way) -> Result<Vec<WayDifference>, String> {
    let whole = Schools::of_wall()?;
    let profile = Profile::general_practice().map_err(|e| e.to_string())?;
    let asked = |schools: &Schools, q: &str| schools.question(q).map_or_else(|| q.to_owned(), |q| q.ask.clone());
    let on_all = |part, what, here, way| WayDifference { part, what, here, way, places: Vec::new() };
    let mut out: Vec<WayDifference> = differing(&job.wall.schools, &way.wall)
        .map(|(q, here, way)| on_all(WayPart::Walls, asked(whole, q), said(whole, q, here), said(whole, q, way)))
        .collect();
    // Features that answer a question alike are told together.
    let mut by_way = ByWay::new(job, way);
    for (feature, wanted) in &way.features {
        let schools = Schools::of(*feature)?;
        let mut alike: BTreeMap<(&str, Option<&String>), Vec<String>> = BTreeMap::new();
        for o in job.openings.iter().filter(|o| o.feature == *feature) {
            let could = by_way.answers(o)?;
            let other = |q: &str, c: &String| o.schools.get(q) != Some(c) && could.get(q) == Some(c);
            for (q, _) in wanted.iter().filter(|(q, c)| other(q, c)) {
                alike.entry((q.as_str(), o.schools.get(q))).or_default().push(o.id.clone());
            }
        }
        out.extend(alike.into_iter().map(|((q, here), places)| WayDifference {
            part: WayPart::Features,
            what: asked(schools, q),
            here: said(schools, q, here),
            way: said(schools, q, wanted.get(q)),
            places,
        }));
    }
    let figure = |id: &str| profile.figure(id).ok();
    let value = |id: &str, own: Option<&String>| {
        let text = own.cloned().unwrap_or_else(|| figure(id).map_or_else(String::new, |f| f.value.clone()));
        match figure(id).and_then(|f| f.checked(&text).ok()) {
            Some(FigureValue::Length(l)) => l.to_string(),
            _ => text,
        }
    };
    out.extend(differing(&job.figures, &way.figures).map(|(id, here, way)| {
        let name = figure(id).map_or_else(|| id.to_owned(), |f| f.name.clone());
        on_all(WayPart::Figures, name, value(id, here), value(id, way))
    }));
    let used = |product: Option<&String>, generic: &str| product.cloned().unwrap_or_else(|| generic.to_owned());
    out.extend(
        differing(&job.wall.products, &way.products)
            .map(|(p, here, way)| on_all(WayPart::Products, p.to_owned(), used(here, p), used(way, p))),
    );
    let own = |p: Option<&OwnProduct>| {
        p.map_or_else(|| "as shipped".to_owned(), |p| if p.name.is_empty() { "own".to_owned() } else { p.name.clone() })
    };
    let in_places = used_in_places(job);
    out.extend(
        differing(&job.kit.products, &way.own)
            .filter(|(p, _, _)| !in_places.contains(p))
            .map(|(p, here, way)| on_all(WayPart::Products, p.to_owned(), own(here), own(way))),
    );
    if job.kit.pairs != way.pairs {
        let many = |n: usize| if n == 1 { "1 pair".to_owned() } else { format!("{n} pairs") };
        let what = "Pairs that touch".to_owned();
        out.push(on_all(WayPart::Products, what, many(job.kit.pairs.len()), many(way.pairs.len())));
    }
    Ok(out)
}
