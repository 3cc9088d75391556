//! Every operation of the interface as its description says it may be asked, and almost so: each request is answered or refused with a sentence.
//! A test run asks each a few times, `make hammer` once for every thousand of `KAME_CASES`.

use crate::api::Server;
use reqwest::Method;
use serde_json::{Map, Value, json};

/// Numbers that look like chance: what was asked can be asked again.
struct Chance(u64);

impl Chance {
    fn below(&mut self, n: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        ((self.0 >> 33) % n.max(1) as u64) as usize
    }

    fn one_in(&mut self, n: usize) -> bool {
        self.below(n) == 0
    }

    fn of<T: Clone>(&mut self, list: &[T]) -> T {
        list[self.below(list.len())].clone()
    }
}

/// Words that mean something somewhere, and such as mean trouble.
const WORDS: [&str; 34] = [
    "W1",
    "W1/pan",
    "course-1",
    "W1/survey",
    "36",
    "48 1/2",
    "3'-6\"",
    "1028 mm",
    "lap_horizontal",
    "barrier",
    "loose",
    "panel",
    "unit",
    "flanged",
    "Flashing tape",
    "window",
    "pipe",
    "2026-03-02",
    "2026-11-30T07:05:00Z",
    "01936f00-0000-7000-8000-00000000aaaa",
    "head",
    "rain",
    "Ada",
    "",
    "\u{ffff}",
    "=1+1",
    "<b>",
    "../../x",
    "'; DROP TABLE job",
    "-1",
    "1e309",
    "NaN",
    "W99",
    "🐢",
];

/// What may stand where a schema says so; now and then something else.
fn made(schemas: &Value, schema: &Value, depth: usize, chance: &mut Chance) -> Value {
    if chance.one_in(40) {
        let odd = [json!(null), json!([]), json!({}), json!("x"), json!(-1), json!(1e300), json!(true), json!([[[]]])];
        return chance.of(&odd);
    }
    if let Some(name) = schema["$ref"].as_str().and_then(|r| r.rsplit('/').next()) {
        return if depth > 12 { Value::Null } else { made(schemas, &schemas[name], depth + 1, chance) };
    }
    for several in ["oneOf", "anyOf"] {
        if let Some(list) = schema[several].as_array() {
            let one = chance.of(list);
            return made(schemas, &one, depth + 1, chance);
        }
    }
    if let Some(list) = schema["allOf"].as_array() {
        let mut all = Map::new();
        for part in list {
            if let Value::Object(of) = made(schemas, part, depth + 1, chance) {
                all.extend(of);
            }
        }
        return Value::Object(all);
    }
    if let Some(list) = schema["enum"].as_array() {
        return chance.of(list);
    }
    let kind = match &schema["type"] {
        Value::Array(kinds) => chance.of(kinds),
        one => one.clone(),
    };
    match kind.as_str().unwrap_or_default() {
        "object" => {
            let mut out = Map::new();
            let required: Vec<&str> =
                schema["required"].as_array().into_iter().flatten().filter_map(Value::as_str).collect();
            for (name, of) in schema["properties"].as_object().into_iter().flatten() {
                let wanted = if required.contains(&name.as_str()) { !chance.one_in(30) } else { chance.one_in(2) };
                if wanted {
                    out.insert(name.clone(), made(schemas, of, depth + 1, chance));
                }
            }
            if let Some(of) = schema.get("additionalProperties").filter(|a| a.is_object()) {
                for _ in 0..chance.below(3) {
                    out.insert(chance.of(&WORDS).to_owned(), made(schemas, of, depth + 1, chance));
                }
            }
            Value::Object(out)
        }
        "array" => {
            let many = if chance.one_in(30) { 300 } else { chance.below(4) };
            let many = if depth > 6 { many.min(2) } else { many };
            (0..many).map(|_| made(schemas, &schema["items"], depth + 1, chance)).collect()
        }
        "integer" => json!(chance.of(&[0_i64, 1, 2, 3, 7, 60, 1000, -1, i64::MAX, i64::MIN])),
        "number" => json!(chance.of(&[0.0, 0.5, 1.0, 12.0, 45.25, 70.0, -3.0, 1e9, 1e-9, f64::MAX])),
        "boolean" => json!(chance.one_in(2)),
        "null" => Value::Null,
        _ => json!(chance.of(&WORDS)),
    }
}

/// An operation of the description.
struct Operation {
    method: Method,
    path: String,
    said: Value,
}

/// All of them but such as answer for as long as somebody listens.
fn operations(description: &Value) -> Vec<Operation> {
    let mut out = Vec::new();
    for (path, of) in description["paths"].as_object().expect("paths") {
        for (method, said) in of.as_object().expect("operations") {
            let method = Method::from_bytes(method.to_uppercase().as_bytes()).expect("a method");
            if !path.ends_with("/changes") && !path.ends_with("/truck/progress") {
                out.push(Operation { method, path: path.clone(), said: said.clone() });
            }
        }
    }
    out
}

fn address(op: &Operation, schemas: &Value, chance: &mut Chance) -> String {
    let mut url = String::new();
    for part in op.path.split_inclusive('/') {
        let slash = part.ends_with('/');
        let name = part.trim_end_matches('/');
        match name.starts_with('{') {
            // Jobs there are, and such as there are not.
            true if name == "{id}" => {
                url.push_str(chance.of(&["1", "2", "3", "4", "5", "6", "2", "3", "9", "-1", "x"]))
            }
            true => url.push_str(&urlencoded(chance.of(&WORDS))),
            false => url.push_str(name),
        }
        url.push_str(if slash { "/" } else { "" });
    }
    let mut sep = '?';
    for p in op.said["parameters"].as_array().into_iter().flatten().filter(|p| p["in"] == "query") {
        if chance.one_in(3) || p["required"] == true {
            let value = match made(schemas, &p["schema"], 6, chance) {
                Value::String(s) => s,
                other => other.to_string(),
            };
            url.push_str(&format!("{sep}{}={}", p["name"].as_str().expect("a name"), urlencoded(&value)));
            sep = '&';
        }
    }
    url
}

fn urlencoded(text: &str) -> String {
    text.bytes()
        .map(|b| if b.is_ascii_alphanumeric() { char::from(b).to_string() } else { format!("%{b:02X}") })
        .collect()
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn every_operation_answers_or_refuses_what_its_description_lets_through() {
    let rounds = std::env::var("KAME_CASES").ok().and_then(|n| n.parse().ok()).map_or(15, |n: usize| n / 1000);
    let mut chance = Chance(20_261_130);
    // What is made and changed piles up: now and then it begins anew.
    for _ in 0..rounds.div_ceil(50) {
        let s = Server::start().await;
        let description: Value = s.json("/api/openapi.json").await;
        let (all, schemas) = (operations(&description), &description["components"]["schemas"]);
        assert!(all.len() > 80, "{}", all.len());
        for _ in 0..rounds.min(50) {
            for op in &all {
                let url = address(op, schemas, &mut chance);
                let mut request = s.http.request(op.method.clone(), format!("{}{url}", s.url));
                request = request.header("If-Match", format!("\"{}\"", chance.of(&[1, 1, 1, 2, 3, 99])));
                let content = op.said["requestBody"]["content"].as_object().and_then(|c| c.values().next());
                let body = content.map(|c| made(schemas, &c["schema"], 0, &mut chance).to_string());
                if let Some(body) = &body {
                    request = request.header("Content-Type", "application/json").body(body.clone());
                }
                let said = || format!("{} {url} {}", op.method, body.clone().unwrap_or_default());
                let answer = request.send().await.unwrap_or_else(|e| panic!("{}: {e}", said()));
                let status = answer.status().as_u16();
                let text = answer.text().await.unwrap_or_default();
                assert!(status < 500 || status == 503, "{status} {text}: {}", said());
                if status >= 400 && status != 405 {
                    let problem: Value = serde_json::from_str(&text).unwrap_or_default();
                    assert!(problem["detail"].as_str().is_some_and(|d| !d.is_empty()), "{status} {text}: {}", said());
                }
            }
        }
        assert_eq!(s.get("/api/jobs").await.status().as_u16(), 200, "it still serves");
    }
}
