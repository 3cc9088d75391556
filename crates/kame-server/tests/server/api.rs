//! The interface through a real listener.

use kame_server::{Serving, load_demo};
use kame_store::Store;
use reqwest::{Client, Method, Response, StatusCode};
use serde_json::{Value, json};
use std::sync::Arc;
use tempfile::TempDir;
use tokio::sync::oneshot;

/// A server of its own, with the demo's jobs.
pub struct Server {
    pub url: String,
    pub http: Client,
    pub data: TempDir,
    pub stop: Option<oneshot::Sender<()>>,
}

impl Server {
    pub async fn start() -> Self {
        Self::serving(Serving::default()).await
    }

    pub async fn serving(how: Serving) -> Self {
        Self::at(TempDir::new().expect("a folder"), how).await
    }

    async fn at(data: TempDir, how: Serving) -> Self {
        let store = Arc::new(Store::open(&data.path().join("kame.db")).expect("a store"));
        load_demo(&store).expect("the demo");
        let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.expect("a port");
        let url = format!("http://{}", listener.local_addr().expect("an address"));
        let (stop, stopped) = oneshot::channel::<()>();
        tokio::spawn(kame_server::serve(listener, store, how, async {
            stopped.await.ok();
        }));
        Self { url, http: Client::new(), data, stop: Some(stop) }
    }

    pub async fn get(&self, path: &str) -> Response {
        self.http.get(format!("{}{path}", self.url)).send().await.expect("an answer")
    }

    pub async fn json(&self, path: &str) -> Value {
        let r = self.get(path).await;
        assert!(r.status().is_success(), "{path}: {}", r.status());
        r.json().await.expect("JSON")
    }

    pub async fn post(&self, path: &str, revision: Option<i64>, body: Value) -> (StatusCode, Value) {
        let mut request = self.http.post(format!("{}{path}", self.url)).json(&body);
        if let Some(r) = revision {
            request = request.header("If-Match", format!("\"{r}\""));
        }
        let r = request.send().await.expect("an answer");
        (r.status(), r.json().await.unwrap_or_default())
    }

    pub async fn raw(&self, path: &str, body: Vec<u8>) -> (StatusCode, Value) {
        let r = self.http.post(format!("{}{path}", self.url)).body(body).send().await.expect("an answer");
        (r.status(), r.json().await.unwrap_or_default())
    }
}

pub fn width(text: &str) -> Value {
    json!({"edit": "set_opening", "id": "W1", "width": text})
}

#[tokio::test]
async fn the_demo_has_right_walls_and_one_as_it_was_found() {
    let s = Server::start().await;
    let jobs = s.json("/api/jobs").await;
    assert_eq!(jobs.as_array().map(Vec::len), Some(crate::DEMO_JOBS));
    let said: Vec<Option<u64>> = jobs.as_array().into_iter().flatten().map(|j| j["verdict"].as_u64()).collect();
    assert_eq!(said, [2, 6, 1, 5, 5, 1].map(Some), "each wall's verdict before anybody has looked");
    let right = s.json("/api/jobs/2").await;
    assert_eq!(right["view"]["verdict"]["dry"], true);
    let found = s.json("/api/jobs/1?weather=rain").await;
    assert_eq!(found["view"]["verdict"]["dry"], false);
    let worst = &found["view"]["findings"][0];
    assert_eq!((worst["code"].as_str(), worst["head"]["inches"].as_f64()), (Some("F11"), Some(0.0)));
    assert!(worst["drop"].as_array().is_some_and(|d| d.len() > 1), "the drop's way is drawn");
    assert!(found["view"]["elevation"]["marks"].as_array().is_some_and(|m| !m.is_empty()));
}

#[tokio::test]
async fn an_edit_changes_everything_and_undo_survives_a_new_start() {
    let mut s = Server::start().await;
    let (status, after) = s.post("/api/jobs/2/edits?cuts=true", Some(1), width("44 1/2")).await;
    assert_eq!(status, StatusCode::OK);
    let head = after["view"]["cut_list"]
        .as_array()
        .expect("groups")
        .iter()
        .flat_map(|g| g["pieces"].as_array().expect("pieces"))
        .find(|p| p["id"] == "W1/head-flashing");
    // 44 1/2 + 2 × (6 − 1/2 − 1/4 + 2), as the demo laps the head flashing 2 in past.
    assert_eq!(head.expect("head flashing")["length_text"], "59\"");
    assert_eq!(after["state"]["revision"], 2);
    s.stop.take().expect("running").send(()).expect("stops");
    let s = Server::at(s.data, Serving::default()).await;
    let again = s.json("/api/jobs/2").await;
    assert_eq!(
        (again["state"]["revision"].as_i64(), again["state"]["job"]["openings"][0]["width"].as_str()),
        (Some(2), Some("44 1/2 in"))
    );
    let (status, undone) = s.post("/api/jobs/2/undo", Some(2), json!({})).await;
    assert_eq!((status, undone["state"]["job"]["openings"][0]["width"].as_str()), (StatusCode::OK, Some("41 in")));
    let (status, redone) = s.post("/api/jobs/2/redo", Some(3), json!({})).await;
    assert_eq!((status, redone["state"]["job"]["openings"][0]["width"].as_str()), (StatusCode::OK, Some("44 1/2 in")));
}

#[tokio::test]
async fn a_stale_write_is_told_the_newer_state() {
    let s = Server::start().await;
    s.post("/api/jobs/2/edits", Some(1), width("44")).await;
    let (status, problem) = s.post("/api/jobs/2/edits", Some(1), width("50")).await;
    assert_eq!(status, StatusCode::PRECONDITION_FAILED);
    assert_eq!(problem["current"]["job"]["openings"][0]["width"], "44 in");
    assert_eq!(s.json("/api/jobs/2").await["state"]["revision"], 2);
    let (status, problem) = s.post("/api/jobs/2/edits", None, width("50")).await;
    assert_eq!(status, StatusCode::PRECONDITION_REQUIRED);
    assert!(problem["detail"].as_str().is_some_and(|d| d.contains("If-Match")));
}

/// An answer to a change with what it leaves out taken from before.
fn merged(before: &Value, after: &Value) -> Value {
    let (mut out, since) = (after.clone(), &after["since"]);
    for part in since["same"].as_array().expect("parts") {
        out[part.as_str().expect("a name")] = before[part.as_str().expect("a name")].clone();
    }
    let list = |v: &Value| v["steps"].as_array().expect("steps").clone();
    let id = |s: &Value| s["id"].as_str().expect("an id").to_owned();
    let mut known: std::collections::HashMap<String, Value> = list(before).into_iter().map(|s| (id(&s), s)).collect();
    known.extend(list(after).into_iter().map(|s| (id(&s), s)));
    let order: Vec<String> = match since["steps"].as_array().expect("ids") {
        ids if ids.is_empty() => list(before).iter().map(id).collect(),
        ids => ids.iter().map(|i| i.as_str().expect("an id").to_owned()).collect(),
    };
    out["steps"] = order.iter().map(|id| known[id].clone()).collect();
    out["since"] = Value::Null;
    out["elevation"] = redrawn(&before["elevation"], &after["elevation"]);
    out["findings"] = whole(&after["findings"], &before["findings"], &after["elevation"]["kept"]["findings"]);
    out
}

/// A list of which what was kept is taken from the one before, by runs.
fn whole(rest: &Value, before: &Value, runs: &Value) -> Value {
    let mut all = rest.as_array().expect("a list").clone();
    for run in runs.as_array().expect("runs") {
        let [at, from, many] = [0, 1, 2].map(|i| run[i].as_u64().expect("a number") as usize);
        let were = &before.as_array().expect("a list")[from..from + many];
        all.splice(at..at, were.iter().cloned());
    }
    all.into()
}

/// A drawing with the pieces and openings it leaves out taken from before.
fn redrawn(before: &Value, after: &Value) -> Value {
    let (mut out, kept) = (after.clone(), &after["kept"]);
    assert_eq!(kept["have"], before["called"]);
    for list in ["shapes", "openings"] {
        out[list] = whole(&after[list], &before[list], &kept[list]);
    }
    for part in kept["parts"].as_array().expect("a list") {
        let [shape, from] = ["shape", "from"].map(|of| part[of].as_u64().expect("a place") as usize);
        for list in ["parts", "edges"] {
            out["shapes"][shape][list] = whole(&out["shapes"][shape][list], &before["shapes"][from][list], &part[list]);
        }
    }
    out["kept"] = Value::Null;
    // Nobody keeps what is only looked at.
    out["called"] = Value::Null;
    out
}

#[tokio::test]
async fn who_has_the_plan_is_sent_what_changed_and_that_makes_the_whole() {
    let s = Server::start().await;
    let full = s.json("/api/jobs/3").await;
    let have = |v: &Value| format!("{}.{}.0", v["state"]["revision"], v["state"]["bench"]);
    // A moment without the plan; what is not had any more, or never was, comes whole.
    let moment = s.json(&format!("/api/jobs/3?done=20&have={}", have(&full))).await;
    assert_eq!(
        (moment["view"]["moment_only"].as_bool(), moment["view"]["steps"].as_array().map(Vec::len)),
        (Some(true), Some(0))
    );
    assert!(moment["state"]["job"].is_null() && moment["state"]["change"]["patch"] == json!([]), "{moment}");
    assert_eq!(s.json("/api/jobs/3?done=20&have=99.0.0").await["view"]["moment_only"], false);
    let whole = s.json("/api/jobs/3?done=20").await;
    for part in ["elevation", "findings", "verdict", "done"] {
        assert_eq!(moment["view"][part], whole["view"][part], "{part}");
    }
    let edits = [
        width("36 1/2"),
        json!({"edit": "set_school", "opening": "W1", "question": "sill", "choice": "gussets"}),
        json!({"edit": "remove_opening", "id": "W2"}),
        json!({"edit": "set_figure", "id": "head_past", "value": "3"}),
    ];
    let mut before = full;
    for edit in edits {
        let revision = before["state"]["revision"].as_i64().expect("a number");
        let called = before["view"]["elevation"]["called"].as_str().expect("a name").to_owned();
        let preview = json!({"change": edit, "moment": {"have": have(&before), "drawn": called}});
        let (status, seen) = s.post("/api/jobs/3/preview", None, preview).await;
        assert_eq!(status, StatusCode::OK, "{seen}");
        let asked = format!("/api/jobs/3/edits?have={}&drawn={called}", have(&before));
        let (status, after) = s.post(&asked, Some(revision), edit.clone()).await;
        assert_eq!(status, StatusCode::OK, "{after}");
        let now = s.json("/api/jobs/3").await;
        let count = |v: &Value, list: &str| v[list].as_array().map_or(0, Vec::len);
        assert!(count(&after["view"], "steps") < count(&now["view"], "steps"), "{edit}");
        assert!(count(&after["view"]["elevation"], "shapes") < count(&now["view"]["elevation"], "shapes"), "{edit}");
        let mut whole = now["view"].clone();
        whole["elevation"]["called"] = Value::Null;
        assert_eq!(merged(&before["view"], &after["view"]), whole, "{edit}");
        // Of the job what changed travels; where that is most of it, the job.
        let mut job = before["state"]["job"].clone();
        let change = &after["state"]["change"];
        if change.is_null() {
            job = after["state"]["job"].clone();
        } else {
            assert!(after["state"]["job"].is_null() && change["have"] == have(&before).as_str(), "{edit}: {after}");
            let patch: json_patch::Patch = serde_json::from_value(change["patch"].clone()).expect("a patch");
            json_patch::patch(&mut job, &patch).expect("fits");
        }
        assert_eq!(change.is_null(), edit["edit"] == "remove_opening", "{edit}");
        assert_eq!(job, now["state"]["job"], "{edit}");
        assert_eq!(merged(&before["view"], &seen), whole, "looked at: {edit}");
        before = now;
    }
    // Undone, it is as it was two answers before.
    let called = before["view"]["elevation"]["called"].as_str().expect("a name");
    let asked = format!("/api/jobs/3/undo?have={}&drawn={called}", have(&before));
    let (_, undone) = s.post(&asked, Some(5), json!({})).await;
    let mut whole = s.json("/api/jobs/3").await["view"].clone();
    whole["elevation"]["called"] = Value::Null;
    assert_eq!(merged(&before["view"], &undone["view"]), whole);
    // An action back, only what lies otherwise travels.
    let back = s.json("/api/jobs/3?done=20").await;
    let called = back["view"]["elevation"]["called"].as_str().expect("a name");
    let next = s.json(&format!("/api/jobs/3?done=21&drawn={called}")).await;
    assert!(next["view"]["elevation"]["shapes"].as_array().is_some_and(|s| s.len() < 6));
    let mut whole = s.json("/api/jobs/3?done=21").await["view"]["elevation"].clone();
    whole["called"] = Value::Null;
    assert_eq!(redrawn(&back["view"]["elevation"], &next["view"]["elevation"]), whole);
    let (_, after) = s.post("/api/jobs/3/edits?have=99.0.0&drawn=99.0.20.Dry", Some(6), width("37")).await;
    assert!(after["view"]["since"].is_null() && after["view"]["elevation"]["kept"].is_null(), "not known any more");
}

#[tokio::test]
async fn a_preview_changes_nothing() {
    let s = Server::start().await;
    let (status, view) =
        s.post("/api/jobs/2/preview", None, json!({"change": width("50"), "moment": {"weather": "rain"}})).await;
    assert_eq!((status, view["elevation"]["openings"][0]["width"].as_str()), (StatusCode::OK, Some("50\"")));
    assert_eq!(s.json("/api/jobs/2").await["state"]["revision"], 1);
}

#[tokio::test]
async fn cards_and_findings_are_said_in_the_language_that_is_asked_for_and_nothing_else_changes() {
    let s = Server::start().await;
    let asked = async |path: &str, language: &str| -> Value {
        let request = s.http.get(format!("{}{path}", s.url)).header("Accept-Language", language);
        request.send().await.expect("an answer").json().await.expect("JSON")
    };
    for path in
        ["/api/jobs/2", "/api/jobs/2?nights=true&done=20", "/api/jobs/2/checks", "/api/jobs/2/pictures?opening=W1"]
    {
        let (plain, english, spanish) =
            (s.json(path).await, asked(path, "en").await, asked(path, "es-US,en;q=0.5").await);
        assert_eq!(plain, english, "{path}");
        assert_ne!(plain, spanish, "{path}");
    }
    let (english, spanish) = (s.json("/api/jobs/2").await, asked("/api/jobs/2", "es").await);
    let step = |v: &Value| v["view"]["steps"].as_array().expect("steps")[0].clone();
    assert_ne!(step(&english)["title"], step(&spanish)["title"]);
    assert_eq!(step(&english)["id"], step(&spanish)["id"]);
    assert_eq!(english["state"], spanish["state"], "what people wrote stays as they did");
    assert_eq!(spanish["view"]["verdict"]["says"], "Seco mientras aguante el pegamento");
    // What is kept is kept in one language: after an edit in Spanish the job reads as before.
    let edit = s.http.post(format!("{}/api/jobs/2/edits", s.url)).header("Accept-Language", "es");
    let edit = edit.header("If-Match", "\"1\"").json(&json!({"edit": "rename", "name": "Pared"}));
    let after: Value = edit.send().await.expect("an answer").json().await.expect("JSON");
    assert_eq!(step(&after)["title"], step(&spanish)["title"]);
    assert_eq!(step(&s.json("/api/jobs/2").await)["title"], step(&english)["title"]);
}

#[tokio::test]
async fn scrubbing_shows_the_wall_at_that_moment() {
    let s = Server::start().await;
    let pieces = |v: &Value| v["view"]["elevation"]["shapes"].as_array().map_or(0, Vec::len);
    let (none, some, all) =
        (s.json("/api/jobs/2?done=0").await, s.json("/api/jobs/2?done=14").await, s.json("/api/jobs/2").await);
    assert!(pieces(&none) == 0 && pieces(&none) < pieces(&some) && pieces(&some) < pieces(&all));
    let section = s.json("/api/jobs/2?section=sill&at=0.5").await;
    let bands = section["view"]["section"]["bands"].as_array().expect("bands").len();
    assert!(bands >= 4, "{bands} sheets in the section of the sill");
    for kind in ["head", "jamb"] {
        assert!(
            s.json(&format!("/api/jobs/2?section={kind}")).await["view"]["section"]["gaps"]
                .as_array()
                .is_some_and(|g| !g.is_empty())
        );
    }
}

#[tokio::test]
async fn jobs_are_made_copied_renamed_deleted_and_put_back() {
    let s = Server::start().await;
    let (status, made) = s.post("/api/jobs", None, json!({"name": "Boat store"})).await;
    assert_eq!(status, StatusCode::CREATED);
    let id = made["id"].as_i64().expect("a number");
    let (status, copy) = s.post(&format!("/api/jobs/{id}/copy"), None, json!({})).await;
    assert_eq!((status, copy["job"]["name"].as_str()), (StatusCode::CREATED, Some("Boat store (copy)")));
    let (_, renamed) =
        s.post(&format!("/api/jobs/{id}/edits"), Some(1), json!({"edit": "rename", "name": "Slip"})).await;
    assert_eq!(renamed["state"]["job"]["name"], "Slip");
    let delete = |revision: i64| {
        let at = s.http.delete(format!("{}/api/jobs/{id}", s.url));
        at.header("If-Match", format!("\"{revision}\"")).send()
    };
    assert_eq!(delete(1).await.expect("an answer").status(), StatusCode::PRECONDITION_FAILED, "it was renamed since");
    assert_eq!(delete(2).await.expect("an answer").status(), StatusCode::NO_CONTENT);
    assert_eq!(s.get(&format!("/api/jobs/{id}")).await.status(), StatusCode::NOT_FOUND);
    let (status, back) = s.post(&format!("/api/jobs/{id}/restore"), None, json!({})).await;
    assert_eq!((status, back["job"]["name"].as_str()), (StatusCode::OK, Some("Slip")));
}

#[tokio::test]
async fn files_go_out_and_come_in_again() {
    let s = Server::start().await;
    let file = s.get("/api/jobs/1/file").await;
    let name = file.headers()["content-disposition"].to_str().expect("text").to_owned();
    assert!(name.contains("heron-spit-field-station-bunkhouse-north-wall-as-found.kame.json"), "{name}");
    let text = file.text().await.expect("text");
    let (status, read) = s.raw("/api/import", text.clone().into_bytes()).await;
    assert_eq!(status, StatusCode::CREATED);
    let again = s.get(&format!("/api/jobs/{}/file", read["id"])).await.text().await.expect("text");
    assert_eq!(again, text, "lossless");
    assert!(s.get("/api/jobs/1/cut-list.csv").await.text().await.expect("text").starts_with("product,stock width"));
    let drawing = async |file: &str| {
        let answer = s.get(&format!("/api/jobs/1/drawings/{file}")).await;
        (answer.status(), answer.bytes().await.expect("bytes").to_vec())
    };
    for (file, begins) in [
        ("elevation.svg?done=20", &b"<svg"[..]),
        ("elevation.pdf", b"%PDF-"),
        ("elevation.dxf", b"  0"),
        ("section.svg?section=jamb&opening=0", b"<svg"),
        ("section.dxf", b"  0"),
        ("section.pdf?section=head", b"%PDF-"),
        ("building.svg", b"<svg"),
        ("folded.pdf?done=20", b"%PDF-"),
        ("apart.svg?opening=0", b"<svg"),
        ("steps.dxf?opening=0", b"  0"),
    ] {
        let (status, bytes) = drawing(file).await;
        assert!(
            status == StatusCode::OK && bytes.starts_with(begins),
            "{file}: {status} {:?}",
            &bytes[..20.min(bytes.len())]
        );
    }
    for file in ["section.svg?opening=99", "apart.svg?opening=99", "steps.svg?opening=99"] {
        let (status, bytes) = drawing(file).await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{file}");
        assert!(String::from_utf8_lossy(&bytes).contains("no such opening"), "{file}");
    }
    for file in ["elevation.dwg", "plan.svg", "elevation"] {
        let (status, bytes) = drawing(file).await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{file}");
        assert!(String::from_utf8_lossy(&bytes).contains("ask for elevation, section, building"), "{file}");
    }
    let layup = s.json("/api/jobs/1/layup").await;
    let (status, water) = s.post("/api/water", None, layup).await;
    assert_eq!(status, StatusCode::OK);
    let rain = water["reach"]
        .as_array()
        .expect("heads")
        .iter()
        .find(|r| r["scenario"] == "rain" && r["target"] == "sheathing");
    assert_eq!(rain.expect("asked")["head_in"], 0.0);
}

#[tokio::test]
async fn bad_input_gets_a_sentence_with_a_path_and_changes_nothing() {
    let s = Server::start().await;
    let refused = async |body: Value, path: &str, words: &str| {
        let (status, problem) = s.post("/api/jobs/2/edits", Some(1), body.clone()).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{body}: {problem}");
        let told = &problem["problems"][0];
        assert!(told["path"].as_str().is_some_and(|p| p.contains(path)), "{problem}");
        assert!(told["message"].as_str().is_some_and(|m| m.contains(words)), "{problem}");
    };
    refused(width("0"), "width", "between 4\" and 20'-0\"").await;
    refused(width("-4"), "width", "between").await;
    refused(width("999 m"), "width", "longer than 2000 ft (610 m)").await;
    refused(width("19'"), "left", "off a wall").await;
    refused(width("wide"), "width", "not a length").await;
    refused(json!({"edit": "set_opening", "id": "W1", "width": [4]}), "width", "expected a length").await;
    refused(json!({"edit": "set_opening", "id": "W7", "width": "40"}), "id", "no opening \"W7\"").await;
    refused(json!({"edit": "paint"}), "$.edit", "unknown variant").await;
    refused(json!({"edit": "set_opening", "id": "W1", "colour": "red"}), "$.colour", "unknown field").await;
    let (status, problem) = s.raw("/api/jobs", b"{\"name\": ".to_vec()).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    assert!(problem["detail"].as_str().is_some_and(|d| d.contains("not JSON")), "{problem}");
    let (status, problem) = s.raw("/api/import", vec![0xff, 0xfe, 0]).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["detail"].as_str().is_some_and(|d| d.contains("not UTF-8")), "{problem}");
    let (status, problem) = s.raw("/api/water", b"{\"format\": \"kame-layup\", \"version\": 3}".to_vec()).await;
    assert_eq!(
        (status, problem["problems"][0]["path"].as_str()),
        (StatusCode::UNPROCESSABLE_ENTITY, Some("$.version"))
    );
    assert_eq!(s.get("/api/jobs/99").await.status(), StatusCode::NOT_FOUND);
    assert_eq!(s.get("/api/jobs/abc").await.status(), StatusCode::NOT_FOUND);
    assert_eq!(s.get("/api/nothing").await.status(), StatusCode::NOT_FOUND);
    assert_eq!(s.get("/api/jobs/2?weather=hail").await.status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(s.json("/api/jobs/2").await["state"]["revision"], 1);
}

#[tokio::test]
async fn a_hundred_megabytes_are_turned_away() {
    let s = Server::start().await;
    let sent = s.http.post(format!("{}/api/import", s.url)).body(vec![b' '; 100 << 20]).send().await;
    // The server may answer and hang up before all has arrived; if the answer comes through it is a sentence.
    if let Ok(r) = sent {
        assert_eq!(r.status(), StatusCode::PAYLOAD_TOO_LARGE);
    }
    let (status, problem) = s.raw("/api/import", vec![b' '; 3 << 20]).await;
    assert_eq!(status, StatusCode::PAYLOAD_TOO_LARGE);
    assert!(problem["detail"].as_str().is_some_and(|d| d.contains("larger than 2 MB")), "{problem}");
    assert_eq!(s.json("/api/jobs").await.as_array().map(Vec::len), Some(crate::DEMO_JOBS));
}

#[tokio::test]
async fn other_pages_cannot_reach_in() {
    let s = Server::start().await;
    let rebound =
        s.http.get(format!("{}/api/jobs", s.url)).header("Host", "evil.example").send().await.expect("an answer");
    assert_eq!(rebound.status(), StatusCode::FORBIDDEN);
    let foreign = s
        .http
        .request(Method::POST, format!("{}/api/jobs", s.url))
        .header("Origin", "http://evil.example")
        .json(&json!({"name": "x"}))
        .send()
        .await;
    assert_eq!(foreign.expect("an answer").status(), StatusCode::FORBIDDEN);
    let own = s.get("/api/jobs").await;
    let policy = own.headers()["content-security-policy"].to_str().expect("text").to_owned();
    assert!(policy.contains("script-src 'self'; style-src 'self';") && !policy.contains("unsafe"), "{policy}");
    // A page's own styles bear its number, which no other page has.
    let page = async || {
        let page = s.get("/jobs/1").await;
        let policy = page.headers()["content-security-policy"].to_str().expect("text").to_owned();
        let nonce = policy.split("'nonce-").nth(1).and_then(|n| n.split('\'').next()).expect("a number").to_owned();
        assert!(policy.contains("script-src 'self';") && !policy.contains("unsafe"), "{policy}");
        let text = page.text().await.expect("a page");
        assert!(text.contains(&format!("nonce=\"{nonce}\"")) && !text.contains("KAME-PAGE-NUMBER"), "{text}");
        nonce
    };
    assert!(page().await.len() == 32 && page().await != page().await);
    assert_eq!(own.headers()["x-content-type-options"], "nosniff");
}

#[tokio::test]
async fn the_description_lists_what_there_is() {
    let s = Server::start().await;
    let api = s.json("/api/openapi.json").await;
    assert!(api["paths"]["/api/jobs/{id}/edits"]["post"].is_object());
    assert!(s.json("/api/schema/job.json").await["properties"]["openings"].is_object());
    assert_eq!(s.json("/api/schema/layup.json").await["title"], "kame-layup");
}
