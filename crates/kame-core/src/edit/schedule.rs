//! A schedule of openings and penetrations as a table: columns recognised by name, each row an opening or a sentence why not.

use super::feature::{FeatureKind, Placer, feature_kinds, free_id};
use crate::job::{Job, MOST_OPENINGS, OpeningSpec};
use crate::length::Length;
use crate::plan::build;
use crate::problem::Problem;
use crate::range::NAME;
use crate::recipe::schools::Feature;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// What a column can mean.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Field {
    /// Short id.
    Mark,
    /// What people call it.
    Name,
    /// Window, door, pipe and so on.
    Kind,
    /// Width.
    Width,
    /// Height.
    Height,
    /// From the left end of the wall.
    Left,
    /// From the bottom plate.
    Sill,
    /// Depth of the wall.
    Depth,
    /// Width of the flange.
    Flange,
    /// How many of it.
    Count,
}

/// Names under which a column is recognised, lower case; a name is matched whole first, then by its words.
const NAMES: [(Field, &[&str]); 10] = [
    (Field::Mark, &["mark", "id", "tag", "no", "no.", "number", "label", "pos"]),
    (Field::Name, &["name", "description", "room", "location", "remark"]),
    (Field::Kind, &["kind", "type", "what", "category", "item"]),
    (Field::Width, &["width", "w", "ro width", "rough width", "opening width", "diameter", "size"]),
    (Field::Height, &["height", "h", "ro height", "rough height", "opening height"]),
    (Field::Left, &["left", "x", "from left", "offset", "position"]),
    (Field::Sill, &["sill", "y", "sill height", "above plate", "bottom"]),
    (Field::Depth, &["depth", "wall depth", "thickness"]),
    (Field::Flange, &["flange", "fin", "flange width"]),
    (Field::Count, &["count", "qty", "quantity", "pieces", "pcs"]),
];

/// Most rows that are read.
pub const MOST_ROWS: usize = 2000;

/// A column of the table and what it is taken for.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Column {
    /// As the file names it.
    pub name: String,
    /// What it is taken for; `None` where it is left out.
    pub field: Option<Field>,
    /// The unit of its plain numbers, as in `in`, `mm`, `cm`, `m`, `ft`.
    pub unit: String,
}

/// A row of the table.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ScheduleRow {
    /// Number of the row in the file, the heading being 1.
    pub row: usize,
    /// What it becomes, as many as it counts; empty where something is wrong with it.
    pub openings: Vec<OpeningSpec>,
    /// What is wrong with it, a sentence each.
    pub problems: Vec<String>,
}

/// A schedule as it was understood.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Schedule {
    /// Its columns.
    pub columns: Vec<Column>,
    /// Its rows, those without anything in them left out.
    pub rows: Vec<ScheduleRow>,
}

/// What the columns are to be taken for, by number from 0, where they were not understood.
pub type Mapping = BTreeMap<usize, Option<Field>>;

/// Understands a table for a job. `rows` begin with the heading; `unit` is that of plain numbers whose column names none.
///
/// # Errors
/// What is wrong with the table as a whole.
pub fn read_schedule(job: &Job, rows: &[Vec<String>], mapping: &Mapping, unit: &str) -> Result<Schedule, Vec<Problem>> {
    let no = |message: String| Err(vec![Problem::new("$", message)]);
    let Some((heading, body)) = rows.split_first() else {
        return no("the table is empty: its first row has to name the columns".into());
    };
    if body.len() > MOST_ROWS {
        return no(format!("found {} rows, at most {MOST_ROWS} are read at once: split the table", body.len()));
    }
    let columns = columns(heading, mapping, unit);
    if !columns.iter().any(|c| c.field == Some(Field::Width)) {
        let names = heading.iter().map(|h| h.trim()).filter(|h| !h.is_empty()).collect::<Vec<_>>();
        let found =
            if names.is_empty() { "no names".into() } else { names.join(", ").chars().take(200).collect::<String>() };
        return no(format!(
            "no column is a width: the first row has {found}. Say which column it is, or name it \"Width\""
        ));
    }
    let kinds = feature_kinds().map_err(|m| vec![Problem::new("$", m)])?;
    let mut placer = Placer::new(job)?;
    let mut all = job.clone();
    let mut out = Vec::new();
    for (n, cells) in body.iter().enumerate() {
        if cells.iter().all(|c| c.trim().is_empty()) {
            continue;
        }
        let mut row = ScheduleRow { row: n + 2, openings: Vec::new(), problems: Vec::new() };
        let before = placer.taken();
        match one(&all, &columns, cells, kinds) {
            Ok((_, count, _)) if all.openings.len() + count > MOST_OPENINGS => {
                row.problems
                    .push(format!("with it there would be more than {MOST_OPENINGS} in one job: split the job"));
            }
            Ok((thing, count, placed)) => place(&mut all, &mut placer, &mut row, (&thing, count, placed)),
            Err(problems) => row.problems = problems,
        }
        if !row.problems.is_empty() {
            // Of a row that cannot be taken whole nothing is taken, and it is in nobody's way.
            all.openings.truncate(all.openings.len() - row.openings.len());
            placer.back_to(before);
            row.openings.clear();
        }
        out.push(row);
    }
    pass_together(job, all, &mut out)?;
    Ok(Schedule { columns, rows: out })
}

/// Puts so many of a thing of a row where there is room, the first where the row says; what is wrong is told in the row.
fn place(
    all: &mut Job,
    placer: &mut Placer,
    row: &mut ScheduleRow,
    (thing, count, placed): (&OpeningSpec, usize, bool),
) {
    for k in 0..count {
        let mut next = thing.clone();
        if k > 0 {
            next.id = free_id(all, letters(&thing.id));
        }
        if !(placed && k == 0) {
            match placer.room(all, &next) {
                Ok(Some(there)) => next = there,
                Ok(None) => row.problems.push(format!(
                    "there is no free place {} wide at {} above the plate: make the wall longer, or give its place",
                    next.width, next.sill
                )),
                Err(p) => row.problems.extend(p.into_iter().map(|p| p.message)),
            }
        }
        if row.problems.is_empty()
            && let Err(p) = placer.take(all, &next)
        {
            row.problems.extend(p.into_iter().map(|p| p.message));
        }
        // What is wrong with the first is wrong with all of them.
        if !row.problems.is_empty() {
            return;
        }
        all.openings.push(next.clone());
        row.openings.push(next);
    }
}

/// What passes row by row has to pass together; whoever does not is named and left out.
fn pass_together(job: &Job, mut all: Job, out: &mut [ScheduleRow]) -> Result<(), Vec<Problem>> {
    while let Err(problems) = build(&all) {
        let index =
            |p: &Problem| p.path.strip_prefix("$.openings[").and_then(|r| r.split(']').next()?.parse::<usize>().ok());
        let Some((at, said)) = problems.iter().find_map(|p| Some((index(p)?, p.message.clone()))) else {
            return Err(problems);
        };
        let Some(id) = all.openings.get(at).filter(|_| at >= job.openings.len()).map(|o| o.id.clone()) else {
            return Err(problems);
        };
        let Some(row) = out.iter_mut().find(|r| r.openings.iter().any(|o| o.id == id)) else { return Err(problems) };
        all.openings.retain(|o| !row.openings.iter().any(|mine| mine.id == o.id));
        row.openings.clear();
        row.problems.push(said);
    }
    Ok(())
}

fn letters(id: &str) -> &str {
    id.trim_end_matches(|c: char| c.is_ascii_digit())
}

/// The columns, by their names or as they were mapped.
fn columns(heading: &[String], mapping: &Mapping, unit: &str) -> Vec<Column> {
    let mut taken: Vec<Field> = mapping.values().flatten().copied().collect();
    let mut out = Vec::new();
    for (i, name) in heading.iter().enumerate() {
        let low = name.trim().to_lowercase();
        let (bare, own) = split_unit(&low);
        let known = |whole: bool| {
            NAMES.iter().find(|(f, names)| {
                !taken.contains(f)
                    && names.iter().any(|n| if whole { *n == bare } else { bare.split_whitespace().any(|w| w == *n) })
            })
        };
        let field = match mapping.get(&i) {
            Some(field) => *field,
            None => known(true).or_else(|| known(false)).map(|(f, _)| *f),
        };
        if !mapping.contains_key(&i) {
            taken.extend(field);
        }
        out.push(Column { name: name.trim().chars().take(80).collect(), field, unit: own.unwrap_or(unit).to_owned() });
    }
    out
}

/// A column's name without the unit in it: `width (mm)`, `height [in]`, `sill, mm`.
fn split_unit(name: &str) -> (String, Option<&'static str>) {
    const UNITS: [(&str, &str); 9] = [
        ("mm", "mm"),
        ("cm", "cm"),
        ("m", "m"),
        ("in", "in"),
        ("inch", "in"),
        ("inches", "in"),
        ("\"", "in"),
        ("ft", "ft"),
        ("feet", "ft"),
    ];
    let words: Vec<&str> =
        name.split(|c: char| c.is_whitespace() || "()[],".contains(c)).filter(|w| !w.is_empty()).collect();
    match words.split_last() {
        Some((last, rest)) if !rest.is_empty() => match UNITS.iter().find(|(w, _)| w == last) {
            Some((_, unit)) => (rest.join(" "), Some(unit)),
            None => (words.join(" "), None),
        },
        _ => (words.join(" "), None),
    }
}

/// The kind of feature that a text names.
fn kind_of<'a>(text: &str, kinds: &'a [FeatureKind]) -> Result<&'a FeatureKind, String> {
    let low = text.to_lowercase();
    let named = |k: &&FeatureKind| low == k.id || low == k.name.to_lowercase();
    let within = |k: &&FeatureKind| low.split(|c: char| !c.is_alphanumeric()).any(|w| w == k.id);
    kinds.iter().find(named).or_else(|| kinds.iter().find(within)).ok_or_else(|| {
        let known = kinds.iter().map(|k| k.id.as_str()).collect::<Vec<_>>().join(", ");
        let text = text.chars().take(40).collect::<String>();
        format!("\"{text}\" is no kind Kame knows; write one of: {known}")
    })
}

/// The id of a thing: its mark, or a free one where it has none.
fn id_of(job: &Job, kind: &FeatureKind, mark: Option<&str>) -> Result<String, String> {
    let Some(mark) = mark else { return Ok(free_id(job, &kind.letter)) };
    let id: String = mark.chars().filter(|c| c.is_ascii_alphanumeric() || *c == '-').take(12).collect();
    if id.is_empty() {
        return Err("its mark has no letter or digit: give it one, or leave it empty".into());
    }
    if job.openings.iter().any(|o| o.id == id) {
        return Err(format!("its mark \"{id}\" is there already: give it another"));
    }
    Ok(id)
}

/// One row: the thing, how many of it, and whether its place is given.
fn one(
    job: &Job,
    columns: &[Column],
    cells: &[String],
    kinds: &[FeatureKind],
) -> Result<(OpeningSpec, usize, bool), Vec<String>> {
    let mut problems = Vec::new();
    let cell = |f: Field| {
        let (i, column) = columns.iter().enumerate().find(|(_, c)| c.field == Some(f))?;
        let text = cells.get(i).map(|t| t.trim()).filter(|t| !t.is_empty())?;
        Some((text, column))
    };
    let mut length = |f: Field| -> Option<Length> {
        let (text, column) = cell(f)?;
        let plain = text.parse::<f64>().is_ok();
        let with = if plain { format!("{text} {}", column.unit) } else { text.to_owned() };
        Length::parse(&with)
            .map_err(|e| {
                problems.push(format!(
                    "{} \"{}\" is not a length: {e}",
                    column.name,
                    text.chars().take(40).collect::<String>()
                ))
            })
            .ok()
    };
    let width = length(Field::Width);
    let (height, left, sill) = (length(Field::Height), length(Field::Left), length(Field::Sill));
    let (depth, flange) = (length(Field::Depth), length(Field::Flange));
    let kind = match cell(Field::Kind) {
        None => kinds.first(),
        Some((text, _)) => kind_of(text, kinds).map_err(|e| problems.push(e)).ok(),
    };
    if width.is_none() && cell(Field::Width).is_none() {
        problems
            .push("it has no width: fill it in; cells that were merged keep their value in the first row only".into());
    }
    let count = match cell(Field::Count).map(|(t, _)| t.parse::<f64>()) {
        None => 1,
        Some(Ok(n)) if n.fract() == 0.0 && (1.0..=100.0).contains(&n) => n as usize,
        Some(_) => {
            problems.push("its count is not a whole number from 1 to 100".into());
            1
        }
    };
    let (Some(kind), Some(width), true) = (kind, width, problems.is_empty()) else { return Err(problems) };
    // What is round has one size.
    let height = match (height, kind.feature) {
        (Some(h), _) => h,
        (None, Feature::Penetration) => width,
        (None, _) => return Err(vec!["it has no height: fill it in".into()]),
    };
    let id = id_of(job, kind, cell(Field::Mark).map(|(text, _)| text)).map_err(|e| vec![e])?;
    let same = job.openings.iter().find(|o| o.feature == kind.feature);
    let name =
        cell(Field::Name).map_or_else(|| format!("{} {id}", kind.name), |(t, _)| t.chars().take(NAME.most).collect());
    let mut thing = OpeningSpec {
        name,
        id,
        feature: kind.feature,
        schools: kind.schools.clone(),
        products: Default::default(),
        recipe: None,
        left: left.unwrap_or(Length::ZERO),
        sill: sill.unwrap_or(kind.sill),
        width,
        height,
        depth: depth.or(same.map(|o| o.depth)).unwrap_or(Length::inch_fraction(11, 2)),
        flange: flange.or(same.map(|o| o.flange)).unwrap_or(Length::inch_fraction(11, 8)),
        model: String::new(),
    };
    if left.is_some() {
        let said = |p: Vec<Problem>| p.into_iter().map(|p| p.message).collect::<Vec<_>>();
        thing.schools =
            super::feature::buildable(job, kind.feature, &kind.schools, thing.wall(&job.wall)).map_err(said)?;
    }
    Ok((thing, count, left.is_some()))
}
