//! The JSON Schema of the layup document.

use serde_json::{Value, json};

/// The JSON Schema of a `kame-layup` document, version 1.
pub fn layup_schema() -> Value {
    let rect = json!({"type": "array", "items": {"type": "number"}, "minItems": 4, "maxItems": 4, "description": "left, bottom, right, top in inches"});
    let point = json!({"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2, "description": "u, v in inches"});
    let patch = |extra: Value| {
        let mut props = json!({"facet": {"type": "string"}, "rect": {"$ref": "#/$defs/rect"}});
        let mut required = vec!["facet".to_owned(), "rect".to_owned()];
        for (k, v) in extra.as_object().into_iter().flatten() {
            props[k] = v.clone();
            required.push(k.clone());
        }
        json!({"type": "object", "properties": props, "required": required, "additionalProperties": false})
    };
    let list = |items: Value| json!({"type": "array", "items": items});
    let text = json!({"type": "string"});
    let segment = json!({"facet": text, "from": {"$ref": "#/$defs/point"}, "to": {"$ref": "#/$defs/point"}});
    let mut end = segment.clone();
    end["side"] = json!({"enum": ["below", "above", "left", "right"]});
    let end = json!({"type": "object", "properties": end, "required": ["facet", "from", "to", "side"]});
    json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "kame-layup",
        "description": "A wall of overlapping pieces at one moment of the work. Lists that are absent are empty.",
        "type": "object",
        "required": ["format", "version", "units"],
        "properties": {
            "format": {"const": "kame-layup"}, "version": {"const": 1}, "units": {"const": "in"},
            "facets": list(json!({"type": "object", "required": ["id", "width", "height", "rise"], "properties": {
                "id": text, "width": {"type": "number", "exclusiveMinimum": 0}, "height": {"type": "number", "exclusiveMinimum": 0},
                "rise": {"type": "number", "minimum": -1, "maximum": 1, "description": "sine of the slope going up v"}, "exposed": {"type": "boolean", "default": false}}})),
            "stitches": list(json!({"type": "object", "required": ["a", "b"], "properties": {"a": end, "b": end}})),
            "voids": list(patch(json!({}))),
            "sheets": list(json!({"type": "object", "required": ["id", "bond"], "properties": {
                "id": text, "bond": {"enum": ["none", "full", "cured"]}, "cap": {"type": "boolean", "default": false},
                "regions": list(patch(json!({"rank": {"type": "number"}}))),
                "cuts": list(json!({"type": "object", "properties": segment, "required": ["facet", "from", "to"]}))}})),
            "seals": list(patch(json!({"under": text}))),
            "faults": list(patch(json!({"under": text}))),
            "holes": list(patch(json!({"in": text}))),
            "targets": list(patch(json!({"id": text, "at": {"enum": ["any", "substrate"]}}))),
            "outlets": list(patch(json!({}))),
            "scenarios": list(json!({"type": "object", "required": ["id", "kind"], "properties": {
                "id": text, "kind": {"enum": ["rain", "leak"]}, "glue": {"enum": ["holds", "lost"], "default": "holds"},
                "drain_head": {"type": "number", "minimum": 0, "default": 1}, "facet": text, "rect": {"$ref": "#/$defs/rect"}, "under": text}}))
        },
        "$defs": {"rect": rect, "point": point}
    })
}
