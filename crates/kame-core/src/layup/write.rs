//! A layup written as its document.

use super::{Depth, Glue, Layup, OnSheet, Source};
use crate::length::Length;
use crate::surface::{FacetId, Patch, Segment, StitchEnd};
use serde_json::{Map, Value, json};

/// Decimal inches. Lengths typed in sixteenths or tenths of a millimetre come out as the nearest double and read back exactly.
fn inches(l: Length) -> Value {
    json!(l.to_inches_f64())
}

/// The layup as a `kame-layup` document, version 1 (handbook 4.6). Empty lists are left out.
pub fn to_json(layup: &Layup) -> Value {
    let facet = |id: FacetId| layup.facets[id.0].id.clone();
    let rect = |p: Patch| json!(p.rect.to_inches());
    let point = |(u, v): (Length, Length)| json!([inches(u), inches(v)]);
    let segment = |s: &Segment| json!({"facet": facet(s.facet), "from": point(s.from), "to": point(s.to)});
    let end = |e: &StitchEnd| {
        let mut v = segment(&e.segment);
        v["side"] = json!(e.side.name());
        v
    };
    let patch = |p: &Patch| json!({"facet": facet(p.facet), "rect": rect(*p)});
    let on = |key: &str, o: &OnSheet| {
        let mut v = patch(&o.at);
        v[key] = json!(layup.sheets[o.sheet.0].id);
        v
    };
    let mut doc = Map::new();
    doc.insert("format".into(), json!("kame-layup"));
    doc.insert("version".into(), json!(1));
    doc.insert("units".into(), json!("in"));
    let mut list = |name: &str, items: Vec<Value>| {
        if !items.is_empty() {
            doc.insert(name.into(), Value::Array(items));
        }
    };
    let facets = layup.facets.iter().map(|f| json!({"id": f.id, "width": inches(f.width), "height": inches(f.height), "rise": f.rise, "exposed": f.exposed}));
    list("facets", facets.collect());
    list("stitches", layup.stitches.iter().map(|s| json!({"a": end(&s.a), "b": end(&s.b)})).collect());
    list("voids", layup.voids.iter().map(patch).collect());
    let sheets = layup.sheets.iter().map(|s| {
        let regions: Vec<Value> =
            s.regions.iter().map(|r| json!({"facet": facet(r.at.facet), "rect": rect(r.at), "rank": r.rank})).collect();
        let cuts: Vec<Value> = s.cuts.iter().map(segment).collect();
        json!({"id": s.id, "bond": s.bond, "cap": s.cap, "regions": regions, "cuts": cuts})
    });
    list("sheets", sheets.collect());
    list("seals", layup.seals.iter().map(|o| on("under", o)).collect());
    list("faults", layup.faults.iter().map(|o| on("under", o)).collect());
    list("holes", layup.holes.iter().map(|o| on("in", o)).collect());
    let targets = layup.targets.iter().map(|t| {
        let mut v = patch(&t.at);
        v["id"] = json!(t.id);
        v["at"] = json!(if t.depth == Depth::Any { "any" } else { "substrate" });
        v
    });
    list("targets", targets.collect());
    list("outlets", layup.outlets.iter().map(patch).collect());
    let scenarios = layup.scenarios.iter().map(|s| {
        let mut v = json!({"id": s.id, "drain_head": inches(s.drain_head), "glue": if s.glue == Glue::Lost { "lost" } else { "holds" }});
        match &s.source {
            Source::Rain => v["kind"] = json!("rain"),
            Source::Leak { at, under } => {
                v["kind"] = json!("leak");
                v["facet"] = json!(facet(at.facet));
                v["rect"] = rect(*at);
                if let Some(id) = under {
                    v["under"] = json!(layup.sheets[id.0].id);
                }
            }
        }
        v
    });
    list("scenarios", scenarios.collect());
    Value::Object(doc)
}
