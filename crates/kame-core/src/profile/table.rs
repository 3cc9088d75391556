//! Profiles as files and as versions: JSON, a table, and two held against each other.

use super::{Figure, FigureKind, FigureSource, Profile};
use crate::problem::Problem;
use crate::range::NAME;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A set of figures kept under a name.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct ProfileVersion {
    /// What people call it.
    pub name: String,
    /// Where its figures come from, in a sentence.
    pub source: String,
    /// Figures that are not the shipped profile's, as text.
    pub figures: BTreeMap<String, String>,
}

/// Most versions kept in one job.
const MOST_VERSIONS: usize = 40;

/// What is wrong with the versions kept in a job, with paths under `$.profiles`.
pub fn version_problems(list: &[ProfileVersion]) -> Vec<Problem> {
    let mut out = Vec::new();
    if list.len() > MOST_VERSIONS {
        let message = format!("found {} kept profiles, at most {MOST_VERSIONS}: forget some", list.len());
        out.push(Problem::new("$.profiles", message));
    }
    let profile = Profile::general_practice();
    for (i, v) in list.iter().enumerate() {
        let path = format!("$.profiles[{i}]");
        for (field, text, least) in [("name", &v.name, 1), ("source", &v.source, 0)] {
            let n = text.trim().chars().count();
            if n < least || n > NAME.most || text.chars().any(char::is_control) {
                let message =
                    format!("the {field} of a kept profile has {n} characters, expected {least} to {}", NAME.most);
                out.push(Problem::new(format!("{path}.{field}"), message));
            }
        }
        if list[..i].iter().any(|w| w.name == v.name) {
            out.push(Problem::new(
                format!("{path}.name"),
                format!("a profile \"{}\" is kept already: give it another name", v.name),
            ));
        }
        if let Some(Err(e)) = profile.as_ref().ok().map(|p| p.values(&v.figures)) {
            out.push(Problem::new(format!("{path}.figures"), format!("{}: {e}", v.name)));
        }
    }
    out
}

/// A figure in several profiles.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FigureRow {
    /// The figure as shipped.
    #[serde(flatten)]
    pub figure: Figure,
    /// The value in force in this job.
    pub in_force: String,
    /// Its values in the versions kept, in their order.
    pub kept: Vec<String>,
    /// True where not all of them are the same.
    pub differs: bool,
}

/// Every figure as shipped, in force, and in each version kept.
pub fn held_together(profile: &Profile, own: &BTreeMap<String, String>, kept: &[ProfileVersion]) -> Vec<FigureRow> {
    let row = |f: &Figure| {
        let of = |m: &BTreeMap<String, String>| m.get(&f.id).unwrap_or(&f.value).clone();
        let (in_force, kept): (String, Vec<String>) = (of(own), kept.iter().map(|k| of(&k.figures)).collect());
        // The same written otherwise is the same.
        let value = |text: &String| f.checked(text).ok();
        let differs = kept.iter().chain([&in_force]).any(|v| value(v) != value(&f.value));
        FigureRow { figure: f.clone(), in_force, kept, differs }
    };
    profile.figures.iter().map(row).collect()
}

const COLUMNS: [&str; 8] = ["figure", "name", "value", "counts", "least", "most", "source", "why"];

fn word<T: Serialize>(of: T) -> String {
    serde_json::to_value(of).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

/// The figures in force as a table with a heading.
pub fn profile_rows(profile: &Profile, own: &BTreeMap<String, String>) -> Vec<Vec<String>> {
    let counts = |k: FigureKind| word(k);
    let said = |f: &Figure, s: FigureSource| if own.contains_key(&f.id) { "this job".to_owned() } else { word(s) };
    let row = |f: &Figure| {
        vec![
            f.id.clone(),
            f.name.clone(),
            own.get(&f.id).unwrap_or(&f.value).clone(),
            counts(f.kind),
            f.least.clone(),
            f.most.clone(),
            said(f, f.source),
            f.why.clone(),
        ]
    };
    [COLUMNS.map(str::to_owned).to_vec()].into_iter().chain(profile.figures.iter().map(row)).collect()
}

/// The figures of a table that are not the shipped profile's; those it does not name are as shipped.
///
/// # Errors
/// Everything that does not read, by row and column; nothing is half taken.
pub fn read_profile_rows(profile: &Profile, rows: &[Vec<String>]) -> Result<BTreeMap<String, String>, Vec<Problem>> {
    let no = |path: &str, message: &str| vec![Problem::new(path, message)];
    let Some((head, rows)) = rows.split_first() else {
        return Err(no("$", "the table is empty: it needs a heading with the columns \"figure\" and \"value\""));
    };
    let column = |name: &str| head.iter().position(|h| h.trim().eq_ignore_ascii_case(name));
    let (Some(id), Some(value)) = (column("figure"), column("value")) else {
        return Err(no(
            "row 1",
            "the heading needs the columns \"figure\" and \"value\", as in the table saved from here",
        ));
    };
    let mut out = BTreeMap::new();
    let mut wrong = Vec::new();
    for (n, row) in rows.iter().enumerate() {
        let cell = |c: usize| row.get(c).map(|t| t.trim().trim_start_matches('\'').trim()).unwrap_or_default();
        if row.iter().all(|c| c.trim().is_empty()) {
            continue;
        }
        let path = |column: &str| format!("row {}, column \"{column}\"", n + 2);
        match profile.figures.iter().find(|f| f.id == cell(id)) {
            None => wrong.push(Problem::new(
                path("figure"),
                format!("there is no figure \"{}\"; name one as in the table saved from here", cell(id)),
            )),
            Some(f) => match (f.checked(cell(value)), f.checked(&f.value)) {
                (Err(e), _) => wrong.push(Problem::new(path("value"), e.to_string())),
                (Ok(v), Ok(shipped)) if v == shipped => {}
                (Ok(_), _) => {
                    out.insert(f.id.clone(), cell(value).to_owned());
                }
            },
        }
    }
    if wrong.is_empty() { Ok(out) } else { Err(wrong) }
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct ProfileFile {
    format: String,
    version: u32,
    base: String,
    figures: BTreeMap<String, String>,
}

const FORMAT: &str = "kame-profile";
const VERSION: u32 = 1;

/// A job's own figures as a JSON file, with the profile they stand on.
pub fn write_profile_file(profile: &Profile, own: &BTreeMap<String, String>) -> String {
    let file = ProfileFile { format: FORMAT.into(), version: VERSION, base: profile.id.clone(), figures: own.clone() };
    serde_json::to_string_pretty(&file).unwrap_or_default() + "\n"
}

/// Reads it again.
///
/// # Errors
/// What is wrong with it.
pub fn read_profile_file(profile: &Profile, bytes: &[u8]) -> Result<BTreeMap<String, String>, Vec<Problem>> {
    let one = |path: String, message: String| vec![Problem::new(path, message)];
    let mut de = serde_json::Deserializer::from_slice(bytes);
    let file: ProfileFile = serde_path_to_error::deserialize(&mut de)
        .map_err(|e| one(format!("$.{}", e.path()), format!("{}; this is not a whole Kame profile", e.inner())))?;
    if (file.format.as_str(), file.version) != (FORMAT, VERSION) {
        let found = format!("{} {}", file.format, file.version);
        return Err(one(
            "$.format".into(),
            format!("found {found}, expected {FORMAT} {VERSION}: save it anew from here"),
        ));
    }
    profile.values(&file.figures).map_err(|e| one("$.figures".into(), e.to_string()))?;
    Ok(file.figures)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn profile() -> &'static Profile {
        Profile::general_practice().expect("profile")
    }

    proptest! {
        #[test]
        fn figures_read_again_from_file_and_table(
            chosen in prop::collection::btree_map(0..profile().figures.len(), any::<bool>(), 0..8),
        ) {
            // The least and the greatest allowed values are values too.
            let own: BTreeMap<String, String> = chosen
                .into_iter()
                .map(|(i, most)| (&profile().figures[i], most))
                .map(|(f, most)| (f.id.clone(), if most { f.most.clone() } else { f.least.clone() }))
                .filter(|(id, v)| {
                    let f = profile().figure(id).expect("figure");
                    f.checked(v) != f.checked(&f.value)
                })
                .collect();
            let file = write_profile_file(profile(), &own);
            let read = read_profile_file(profile(), file.as_bytes());
            prop_assert_eq!(read.as_ref(), Ok(&own));
            let rows = profile_rows(profile(), &own);
            let read = read_profile_rows(profile(), &rows);
            prop_assert_eq!(read.as_ref(), Ok(&own));
            let kept = ProfileVersion { name: "kept".into(), figures: own.clone(), ..ProfileVersion::default() };
            let rows = held_together(profile(), &BTreeMap::new(), &[kept]);
            let differing: Vec<&str> = rows.iter().filter(|r| r.differs).map(|r| r.figure.id.as_str()).collect();
            prop_assert!(differing.len() == own.len() && differing.iter().all(|id| own.contains_key(*id)));
        }
    }

    #[test]
    fn a_table_or_file_that_is_wrong_is_named_by_its_place() {
        let rows = |text: &str| -> Vec<Vec<String>> {
            text.lines().map(|l| l.split(';').map(str::to_owned).collect()).collect()
        };
        let said = |text: &str| {
            let list = read_profile_rows(profile(), &rows(text)).expect_err("refused");
            list.into_iter().map(|p| format!("{}: {}", p.path, p.message)).collect::<Vec<_>>().join("\n")
        };
        assert!(said("").contains("empty"));
        assert!(said("figure;name\nx;y").contains("\"figure\" and \"value\""));
        let two = said("figure;value\nlap_sideways;3\nlap_vertical;1");
        assert!(two.contains("row 2, column \"figure\"") && two.contains("row 3, column \"value\""), "{two}");
        assert!(two.contains("has to be between 2 and 36"), "{two}");
        let file = |t: &str| read_profile_file(profile(), t.as_bytes()).expect_err("refused")[0].message.clone();
        assert!(file("[]").contains("not a whole Kame profile"));
        let old = r#"{"format":"kame-profile","version":7,"base":"x","figures":{}}"#;
        assert!(file(old).contains("found kame-profile 7"));
        let wide = r#"{"format":"kame-profile","version":1,"base":"x","figures":{"jamb_tape_width":"99"}}"#;
        assert!(file(wide).contains("is 99"));
    }

    #[test]
    fn kept_profiles_have_names_of_their_own_and_figures_that_can_be() {
        let v = |name: &str, value: &str| ProfileVersion {
            name: name.into(),
            source: String::new(),
            figures: [("lap_vertical".to_owned(), value.to_owned())].into(),
        };
        assert!(version_problems(&[v("spring", "8"), v("autumn", "12")]).is_empty());
        let said = |list: &[ProfileVersion]| version_problems(list)[0].message.clone();
        assert!(said(&[v("spring", "8"), v("spring", "9")]).contains("kept already"));
        assert!(said(&[v(" ", "8")]).contains("expected 1 to"));
        assert!(said(&[v("short", "1")]).contains("between 2 and 36"));
        assert!(said(&vec![v("a", "8"); 41]).contains("found 41 kept profiles"));
    }
}
