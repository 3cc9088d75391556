//! Reading a `kame-layup` document. Every mistake is collected with its JSON path; nothing is half-read.

use super::{Bond, DEFAULT_DRAIN_HEAD, Depth, Glue, Layup, OnSheet, Region, Scenario, Sheet, SheetId, Source, Target};
use crate::length::{LONGEST, Length};
use crate::surface::{Facet, FacetId, Patch, Rect, Segment, Side, Stitch, StitchEnd};
use serde_json::{Map, Value};
use std::collections::HashMap;
use std::fmt;

/// Most items that one list of a layup may hold.
const MOST_ITEMS: usize = 200_000;

/// One mistake in a file: where, what was found, what is expected.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FileMistake {
    /// JSON path such as `$.sheets[2].bond`.
    pub path: String,
    /// What was found and what is expected, in one clause.
    pub message: String,
}

impl fmt::Display for FileMistake {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.path, self.message)
    }
}

/// Reads a whole layup.
///
/// # Errors
/// Every mistake of the document, in the order of reading.
pub fn from_json(doc: &Value) -> Result<Layup, Vec<FileMistake>> {
    let mut r = Reader { mistakes: Vec::new() };
    let layup = r.layup(doc);
    if r.mistakes.is_empty() { Ok(layup) } else { Err(r.mistakes) }
}

struct Reader {
    mistakes: Vec<FileMistake>,
}

type Names = HashMap<String, usize>;

/// What the later lists refer to.
struct KnownNames<'a> {
    facets: &'a [Facet],
    facet_names: &'a Names,
    sheet_names: &'a Names,
}

fn found(v: &Value) -> String {
    let text = match v {
        Value::Null => "null".into(),
        Value::String(s) => format!("\"{s}\""),
        Value::Array(a) => format!("a list of {}", a.len()),
        Value::Object(_) => "an object".into(),
        other => other.to_string(),
    };
    if text.chars().count() > 60 { text.chars().take(60).chain(['…']).collect() } else { text }
}

impl Reader {
    fn wrong(&mut self, path: &str, message: impl Into<String>) {
        self.mistakes.push(FileMistake { path: path.into(), message: message.into() });
    }

    fn object<'a>(&mut self, v: &'a Value, path: &str, known: &[&str]) -> Option<&'a Map<String, Value>> {
        let Some(o) = v.as_object() else {
            self.wrong(path, format!("found {}, expected an object", found(v)));
            return None;
        };
        for key in o.keys() {
            let free = key.starts_with('$') || key.starts_with("x-") || matches!(key.as_str(), "note" | "name");
            if !free && !known.contains(&key.as_str()) {
                self.wrong(&format!("{path}.{key}"), format!("unknown field, expected one of {}", known.join(", ")));
            }
        }
        Some(o)
    }

    fn list<'a>(&mut self, o: &'a Map<String, Value>, key: &str, path: &str) -> &'a [Value] {
        match o.get(key) {
            None => &[],
            Some(Value::Array(items)) if items.len() <= MOST_ITEMS => items,
            Some(Value::Array(items)) => {
                self.wrong(
                    &format!("{path}.{key}"),
                    format!("found {} items, expected at most {MOST_ITEMS}", items.len()),
                );
                &[]
            }
            Some(v) => {
                self.wrong(&format!("{path}.{key}"), format!("found {}, expected a list", found(v)));
                &[]
            }
        }
    }

    fn need<'a>(&mut self, o: &'a Map<String, Value>, key: &str, path: &str, expected: &str) -> Option<&'a Value> {
        let v = o.get(key);
        if v.is_none() {
            self.wrong(&format!("{path}.{key}"), format!("missing, expected {expected}"));
        }
        v
    }

    fn text<'a>(&mut self, o: &'a Map<String, Value>, key: &str, path: &str, expected: &str) -> Option<&'a str> {
        let v = self.need(o, key, path, expected)?;
        if v.as_str().is_none() {
            self.wrong(&format!("{path}.{key}"), format!("found {}, expected {expected}", found(v)));
        }
        v.as_str()
    }

    fn flag(&mut self, o: &Map<String, Value>, key: &str, path: &str) -> bool {
        match o.get(key) {
            None => false,
            Some(Value::Bool(b)) => *b,
            Some(v) => {
                self.wrong(&format!("{path}.{key}"), format!("found {}, expected true or false", found(v)));
                false
            }
        }
    }

    fn choice<T: Copy>(&mut self, o: &Map<String, Value>, key: &str, path: &str, choices: &[(&str, T)]) -> Option<T> {
        let names: Vec<_> = choices.iter().map(|(n, _)| format!("\"{n}\"")).collect();
        let expected = names.join(" or ");
        let text = self.text(o, key, path, &expected)?;
        let hit = choices.iter().find(|(n, _)| *n == text).map(|(_, t)| *t);
        if hit.is_none() {
            self.wrong(&format!("{path}.{key}"), format!("found \"{text}\", expected {expected}"));
        }
        hit
    }

    fn length(&mut self, v: &Value, path: &str) -> Option<Length> {
        let l = v.as_f64().and_then(Length::from_inches_f64).filter(|l| l.units().abs() <= LONGEST.units());
        if l.is_none() {
            let most = LONGEST.to_inches_f64();
            self.wrong(path, format!("found {}, expected a number of inches between -{most} and {most}", found(v)));
        }
        l
    }

    fn id(&mut self, o: &Map<String, Value>, path: &str, names: &mut Names, index: usize) -> Option<String> {
        let id = self.text(o, "id", path, "a name")?.to_owned();
        if id.is_empty() {
            self.wrong(&format!("{path}.id"), "found \"\", expected a name");
        }
        if let Some(first) = names.insert(id.clone(), index) {
            self.wrong(
                &format!("{path}.id"),
                format!("found \"{id}\" again, expected a name not yet used (item {first} has it)"),
            );
        }
        Some(id)
    }

    fn reference(&mut self, o: &Map<String, Value>, key: &str, path: &str, names: &Names, kind: &str) -> Option<usize> {
        let text = self.text(o, key, path, &format!("the id of a {kind}"))?;
        let hit = names.get(text).copied();
        if hit.is_none() {
            self.wrong(&format!("{path}.{key}"), format!("found \"{text}\", expected the id of a {kind} in this file"));
        }
        hit
    }

    fn facet_ref(&mut self, o: &Map<String, Value>, path: &str, k: &KnownNames) -> Option<FacetId> {
        self.reference(o, "facet", path, k.facet_names, "facet").map(FacetId)
    }

    fn numbers<const N: usize>(
        &mut self,
        o: &Map<String, Value>,
        key: &str,
        path: &str,
        expected: &str,
    ) -> Option<[Length; N]> {
        let v = self.need(o, key, path, expected)?;
        let path = format!("{path}.{key}");
        let Some(items) = v.as_array().filter(|a| a.len() == N) else {
            self.wrong(&path, format!("found {}, expected {expected}", found(v)));
            return None;
        };
        let mut out = [Length::ZERO; N];
        let mut whole = true;
        for (i, item) in items.iter().enumerate() {
            match self.length(item, &format!("{path}[{i}]")) {
                Some(l) => out[i] = l,
                None => whole = false,
            }
        }
        whole.then_some(out)
    }

    fn patch(&mut self, o: &Map<String, Value>, path: &str, k: &KnownNames) -> Option<Patch> {
        let facet = self.facet_ref(o, path, k);
        let [u0, v0, u1, v1] = self.numbers(o, "rect", path, "[left, bottom, right, top] in inches")?;
        let rect = Rect::new(u0, v0, u1, v1);
        let path = format!("{path}.rect");
        if !rect.has_area() {
            self.wrong(&path, format!("found {:?}, expected left < right and bottom < top", rect.to_inches()));
            return None;
        }
        let facet = facet?;
        let whole = k.facets[facet.0].rect();
        if !whole.contains(rect) {
            let (id, [_, _, w, h]) = (&k.facets[facet.0].id, whole.to_inches());
            self.wrong(
                &path,
                format!(
                    "found {:?}, expected a rectangle inside facet \"{id}\", which is {w} × {h} in",
                    rect.to_inches()
                ),
            );
            return None;
        }
        Some(Patch { facet, rect })
    }

    fn segment(&mut self, o: &Map<String, Value>, path: &str, k: &KnownNames) -> Option<Segment> {
        let facet = self.facet_ref(o, path, k);
        let from = self.numbers(o, "from", path, "[u, v] in inches").map(|[u, v]: [Length; 2]| (u, v));
        let to = self.numbers(o, "to", path, "[u, v] in inches").map(|[u, v]: [Length; 2]| (u, v));
        let (facet, from, to) = (facet?, from?, to?);
        if (from.0 == to.0) == (from.1 == to.1) {
            self.wrong(path, "found a slanting or empty segment, expected a level or an upright one with a length");
            return None;
        }
        let whole = k.facets[facet.0].rect();
        if [from, to].iter().any(|p| p.0 < whole.u0 || p.0 > whole.u1 || p.1 < whole.v0 || p.1 > whole.v1) {
            let [_, _, w, h] = whole.to_inches();
            self.wrong(
                path,
                format!(
                    "found a segment that leaves facet \"{}\", expected it inside {w} × {h} in",
                    k.facets[facet.0].id
                ),
            );
            return None;
        }
        Some(Segment { facet, from, to })
    }

    fn layup(&mut self, doc: &Value) -> Layup {
        const LISTS: [&str; 13] = [
            "format",
            "version",
            "units",
            "facets",
            "stitches",
            "voids",
            "sheets",
            "seals",
            "faults",
            "holes",
            "targets",
            "outlets",
            "scenarios",
        ];
        let mut out = Layup::default();
        let Some(o) = self.object(doc, "$", &LISTS) else { return out };
        self.choice(o, "format", "$", &[("kame-layup", ())]);
        match self.need(o, "version", "$", "1") {
            Some(v) if v.as_f64() != Some(1.0) => {
                self.wrong("$.version", format!("found {}, expected 1, the version this program reads", found(v)))
            }
            _ => {}
        }
        self.choice(o, "units", "$", &[("in", ())]);
        let mut facet_names = Names::new();
        for (i, v) in self.list(o, "facets", "$").iter().enumerate() {
            // A facet that cannot be read still takes its index, so that later references point at the right one.
            let facet = self.facet(v, &format!("$.facets[{i}]"), &mut facet_names, i);
            out.facets.push(facet);
        }
        let mut sheet_names = Names::new();
        let sheets = self.list(o, "sheets", "$");
        {
            let k = KnownNames { facets: &out.facets, facet_names: &facet_names, sheet_names: &Names::new() };
            for (i, v) in sheets.iter().enumerate() {
                let sheet = self.sheet(v, &format!("$.sheets[{i}]"), &k, &mut sheet_names, i);
                out.sheets.push(sheet);
            }
        }
        let k = KnownNames { facets: &out.facets, facet_names: &facet_names, sheet_names: &sheet_names };
        for (i, v) in self.list(o, "stitches", "$").iter().enumerate() {
            out.stitches.extend(self.stitch(v, &format!("$.stitches[{i}]"), &k));
        }
        out.voids = self.patches(o, "voids", &k);
        out.outlets = self.patches(o, "outlets", &k);
        out.seals = self.on_sheets(o, "seals", "under", &k);
        out.faults = self.on_sheets(o, "faults", "under", &k);
        out.holes = self.on_sheets(o, "holes", "in", &k);
        let mut names = Names::new();
        for (i, v) in self.list(o, "targets", "$").iter().enumerate() {
            out.targets.extend(self.target(v, &format!("$.targets[{i}]"), &k, &mut names, i));
        }
        let mut names = Names::new();
        for (i, v) in self.list(o, "scenarios", "$").iter().enumerate() {
            out.scenarios.extend(self.scenario(v, &format!("$.scenarios[{i}]"), &k, &mut names, i));
        }
        out
    }

    fn facet(&mut self, v: &Value, path: &str, names: &mut Names, index: usize) -> Facet {
        let mut facet =
            Facet { id: String::new(), width: Length::ZERO, height: Length::ZERO, rise: 1.0, exposed: false };
        let Some(o) = self.object(v, path, &["id", "width", "height", "rise", "exposed"]) else { return facet };
        facet.id = self.id(o, path, names, index).unwrap_or_default();
        for (key, slot) in [("width", &mut facet.width), ("height", &mut facet.height)] {
            let Some(v) = self.need(o, key, path, "a number of inches above 0") else { continue };
            let at = format!("{path}.{key}");
            if let Some(l) = self.length(v, &at) {
                if !l.is_positive() {
                    self.wrong(&at, format!("found {}, expected a number of inches above 0", found(v)));
                }
                *slot = l;
            }
        }
        if let Some(v) = self.need(o, "rise", path, "the sine of the slope, from -1 to 1") {
            match v.as_f64().filter(|r| (-1.0..=1.0).contains(r)) {
                Some(r) => facet.rise = r,
                None => self.wrong(
                    &format!("{path}.rise"),
                    format!("found {}, expected the sine of the slope, from -1 to 1", found(v)),
                ),
            }
        }
        facet.exposed = self.flag(o, "exposed", path);
        facet
    }

    fn sheet(&mut self, v: &Value, path: &str, k: &KnownNames, names: &mut Names, index: usize) -> Sheet {
        let mut sheet =
            Sheet { id: String::new(), bond: Bond::None, cap: false, regions: Vec::new(), cuts: Vec::new() };
        let Some(o) = self.object(v, path, &["id", "bond", "cap", "regions", "cuts"]) else { return sheet };
        sheet.id = self.id(o, path, names, index).unwrap_or_default();
        if let Some(bond) =
            self.choice(o, "bond", path, &[("none", Bond::None), ("full", Bond::Full), ("cured", Bond::Cured)])
        {
            sheet.bond = bond;
        }
        sheet.cap = self.flag(o, "cap", path);
        for (i, v) in self.list(o, "regions", path).iter().enumerate() {
            let path = format!("{path}.regions[{i}]");
            let Some(o) = self.object(v, &path, &["facet", "rect", "rank"]) else { continue };
            let at = self.patch(o, &path, k);
            let rank = self.need(o, "rank", &path, "a number").map(|v| (v, v.as_f64()));
            match (at, rank) {
                (Some(at), Some((_, Some(rank)))) => sheet.regions.push(Region { at, rank }),
                (_, Some((v, None))) => {
                    self.wrong(&format!("{path}.rank"), format!("found {}, expected a number", found(v)))
                }
                _ => {}
            }
        }
        for (i, v) in self.list(o, "cuts", path).iter().enumerate() {
            let path = format!("{path}.cuts[{i}]");
            if let Some(o) = self.object(v, &path, &["facet", "from", "to"]) {
                sheet.cuts.extend(self.segment(o, &path, k));
            }
        }
        sheet
    }

    fn stitch(&mut self, v: &Value, path: &str, k: &KnownNames) -> Option<Stitch> {
        let o = self.object(v, path, &["a", "b"])?;
        let a = self.stitch_end(o, "a", path, k);
        let b = self.stitch_end(o, "b", path, k);
        let (a, b) = (a?, b?);
        if a.segment.length() != b.segment.length() {
            let (la, lb) = (a.segment.length().to_inches_f64(), b.segment.length().to_inches_f64());
            self.wrong(path, format!("found segments of {la} and {lb} in, expected two of equal length"));
            return None;
        }
        Some(Stitch { a, b })
    }

    fn stitch_end(&mut self, o: &Map<String, Value>, key: &str, path: &str, k: &KnownNames) -> Option<StitchEnd> {
        let v = self.need(o, key, path, "{facet, from, to, side}")?;
        let path = format!("{path}.{key}");
        let o = self.object(v, &path, &["facet", "from", "to", "side"])?;
        let segment = self.segment(o, &path, k);
        let side = self.choice(
            o,
            "side",
            &path,
            &[("below", Side::Below), ("above", Side::Above), ("left", Side::Left), ("right", Side::Right)],
        );
        let (segment, side) = (segment?, side?);
        if side.edge().is_upright() != segment.is_upright() {
            let expected = if segment.is_upright() {
                "\"left\" or \"right\" of an upright segment"
            } else {
                "\"below\" or \"above\" a level segment"
            };
            self.wrong(&format!("{path}.side"), format!("found \"{}\", expected {expected}", side.name()));
            return None;
        }
        Some(StitchEnd { segment, side })
    }

    fn patches(&mut self, o: &Map<String, Value>, key: &str, k: &KnownNames) -> Vec<Patch> {
        let mut out = Vec::new();
        for (i, v) in self.list(o, key, "$").iter().enumerate() {
            let path = format!("$.{key}[{i}]");
            if let Some(o) = self.object(v, &path, &["facet", "rect"]) {
                out.extend(self.patch(o, &path, k));
            }
        }
        out
    }

    fn on_sheets(&mut self, o: &Map<String, Value>, key: &str, of: &str, k: &KnownNames) -> Vec<OnSheet> {
        let mut out = Vec::new();
        for (i, v) in self.list(o, key, "$").iter().enumerate() {
            let path = format!("$.{key}[{i}]");
            let Some(o) = self.object(v, &path, &[of, "facet", "rect"]) else { continue };
            let sheet = self.reference(o, of, &path, k.sheet_names, "sheet");
            let at = self.patch(o, &path, k);
            if let (Some(sheet), Some(at)) = (sheet, at) {
                out.push(OnSheet { sheet: SheetId(sheet), at });
            }
        }
        out
    }

    fn target(&mut self, v: &Value, path: &str, k: &KnownNames, names: &mut Names, index: usize) -> Option<Target> {
        let o = self.object(v, path, &["id", "facet", "rect", "at"])?;
        let id = self.id(o, path, names, index);
        let at = self.patch(o, path, k);
        let depth = self.choice(o, "at", path, &[("any", Depth::Any), ("substrate", Depth::Substrate)]);
        Some(Target { id: id?, at: at?, depth: depth? })
    }

    fn scenario(&mut self, v: &Value, path: &str, k: &KnownNames, names: &mut Names, index: usize) -> Option<Scenario> {
        let o = self.object(v, path, &["id", "kind", "facet", "rect", "under", "glue", "drain_head"])?;
        let id = self.id(o, path, names, index);
        let rain = self.choice(o, "kind", path, &[("rain", true), ("leak", false)]);
        let glue = match o.contains_key("glue") {
            true => self.choice(o, "glue", path, &[("holds", Glue::Holds), ("lost", Glue::Lost)]),
            false => Some(Glue::Holds),
        };
        let drain_head = match o.get("drain_head") {
            None => Some(DEFAULT_DRAIN_HEAD),
            Some(v) => {
                let at = format!("{path}.drain_head");
                let l = self.length(v, &at);
                if l.is_some_and(|l| l < Length::ZERO) {
                    self.wrong(&at, format!("found {}, expected inches of water, 0 or more", found(v)));
                }
                l
            }
        };
        let source = if rain? {
            Some(Source::Rain)
        } else {
            let at = self.patch(o, path, k);
            let under = match o.get("under") {
                None | Some(Value::Null) => Some(None),
                Some(_) => self.reference(o, "under", path, k.sheet_names, "sheet").map(|s| Some(SheetId(s))),
            };
            at.zip(under).map(|(at, under)| Source::Leak { at, under })
        };
        Some(Scenario { id: id?, source: source?, glue: glue?, drain_head: drain_head? })
    }
}
