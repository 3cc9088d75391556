//! Data kept: backups from a running server, restored; damage told; one server at a time; what was deleted, and what a job was before.

use crate::api::Server;
use crate::binary::{get, start};
use reqwest::StatusCode;
use serde_json::{Value, json};
use std::path::Path;
use std::process::{Command, Output};
use tempfile::TempDir;

fn kame(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_kame")).args(args).output().expect("kame runs")
}

fn said(out: &Output) -> String {
    String::from_utf8_lossy(&out.stdout).into_owned() + &String::from_utf8_lossy(&out.stderr)
}

fn text(path: &Path) -> &str {
    path.to_str().expect("a name")
}

#[tokio::test]
async fn a_running_server_is_backed_up_and_the_backup_restored_and_served() {
    let dir = TempDir::new().expect("a folder");
    let (data, to, again) = (dir.path().join("data"), dir.path().join("backup"), dir.path().join("again"));
    let mut first = start("demo", &data);
    let client = reqwest::Client::new();
    let edit = json!({"edit": "set_opening", "id": "W1", "width": "44"});
    let url = format!("{}/api/jobs/2/edits", first.url);
    let kept = client.post(url).header("If-Match", "\"1\"").json(&edit).send().await.expect("an answer");
    assert!(kept.status().is_success());
    let made = kame(&["backup", text(&to), "--data", text(&data)]);
    assert!(made.status.success() && said(&made).contains("6 jobs"), "{}", said(&made));
    let whole = kame(&["check", text(&to)]);
    assert!(whole.status.success() && said(&whole).starts_with("whole: schema"), "{}", said(&whole));
    let live = kame(&["check", text(&data), "--json"]);
    let found: Value = serde_json::from_slice(&live.stdout).expect("JSON");
    assert!(live.status.success() && found["entries"].as_i64() > Some(100) && found["wrong"] == json!([]), "{found}");
    // Another server finds the folder taken, and says so.
    let second = kame(&["serve", "--addr", "127.0.0.1:0", "--data", text(&data)]);
    assert_eq!(second.status.code(), Some(1));
    assert!(said(&second).contains("is in use by another Kame"), "{}", said(&second));
    first.child.kill().expect("killed");
    first.child.wait().expect("ended");
    // What was copied by hand is none; what was backed up is.
    let copied = kame(&["restore", text(&data), text(&again)]);
    assert_eq!(copied.status.code(), Some(1));
    assert!(said(&copied).contains("copied and not made by kame backup"), "{}", said(&copied));
    assert!(kame(&["restore", text(&to), text(&again)]).status.success());
    let mut third = start("serve", &again);
    let job = get(&format!("{}/api/jobs/2", third.url)).await;
    assert_eq!(job["state"]["job"]["openings"][0]["width"], "44 in");
    let looked = get(&format!("{}/api/jobs/3/record/verify", third.url)).await;
    assert!(looked["broken"].is_null() && looked["entries"].as_i64() > Some(100), "{looked}");
    third.child.kill().expect("killed");
    third.child.wait().expect("ended");
}

#[tokio::test]
async fn a_damaged_database_is_served_for_reading_and_says_what_to_do() {
    let dir = TempDir::new().expect("a folder");
    let data = dir.path().join("data");
    let mut first = start("demo", &data);
    let asked = Command::new("kill").arg(first.child.id().to_string()).status().expect("kill runs");
    assert!(asked.success() && first.child.wait().expect("ended").success());
    let file = data.join("kame.db");
    rusqlite::Connection::open(&file)
        .expect("opens")
        .execute_batch("PRAGMA wal_checkpoint(TRUNCATE); DELETE FROM practice")
        .expect("in one");
    // A page that only the practised scenes stand on, so that jobs read.
    let root = rusqlite::Connection::open(&file)
        .expect("opens")
        .query_row("SELECT rootpage FROM sqlite_schema WHERE name = 'practice_who'", [], |r| r.get::<_, i64>(0))
        .expect("a page") as usize;
    rusqlite::Connection::open(&file).expect("opens").execute_batch("PRAGMA wal_checkpoint(TRUNCATE)").expect("in one");
    let mut bytes = std::fs::read(&file).expect("read");
    bytes[(root - 1) * 4096..root * 4096].fill(0);
    std::fs::write(&file, bytes).expect("written");
    let checked = kame(&["check", text(&data)]);
    assert_eq!(checked.status.code(), Some(1), "{}", said(&checked));
    let mut second = start("demo", &data);
    let jobs = get(&format!("{}/api/jobs", second.url)).await;
    assert_eq!(jobs.as_array().map(Vec::len), Some(crate::DEMO_JOBS), "what can be read is read");
    let health = get(&format!("{}/api/health", second.url)).await;
    assert!(
        health["read_only"].as_str().is_some_and(|w| w.contains("is damaged") && w.contains("kame restore")),
        "{health}"
    );
    let url = format!("{}/api/jobs", second.url);
    let refused = reqwest::Client::new().post(url).json(&json!({"name": "new"})).send().await.expect("an answer");
    assert_eq!(refused.status(), StatusCode::SERVICE_UNAVAILABLE);
    let doc: Value = refused.json().await.expect("JSON");
    assert!(doc["type"] == "read-only" && doc["detail"].as_str().is_some_and(|d| d.contains("reading only")), "{doc}");
    second.child.kill().expect("killed");
    second.child.wait().expect("ended");
}

#[tokio::test]
async fn a_job_goes_back_to_what_it_was_and_one_that_does_not_read_offers_it() {
    let s = Server::start().await;
    for (revision, width) in [(1, "44"), (2, "45")] {
        let edit = json!({"edit": "set_opening", "id": "W1", "width": width});
        let (status, body) = s.post("/api/jobs/2/edits", Some(revision), edit).await;
        assert_eq!(status, StatusCode::OK, "{body}");
    }
    let other = rusqlite::Connection::open(s.data.path().join("kame.db")).expect("opens");
    other.execute_batch("UPDATE history SET job = '{' WHERE job_id = 2 AND position = 2").expect("damaged");
    let lost = s.get("/api/jobs/2").await;
    assert_eq!(lost.status(), StatusCode::CONFLICT);
    let doc: Value = lost.json().await.expect("JSON");
    assert_eq!(doc["type"], "unreadable-job", "{doc}");
    let history: Value = s.get("/api/jobs/2/history").await.json().await.expect("JSON");
    let damaged: Vec<bool> = history["past"].as_array().expect("a list").iter().map(|p| p["damaged"] != "").collect();
    assert_eq!((damaged, &history["revision"]), (vec![true, false, false], &json!(3)));
    let (status, stale) = s.post("/api/jobs/2/history", Some(2), json!({"position": 1})).await;
    assert_eq!(status, StatusCode::CONFLICT, "what it is now cannot even be told: {stale}");
    let (status, back) = s.post("/api/jobs/2/history", Some(3), json!({"position": 1})).await;
    assert_eq!((status, &back["job"]["openings"][0]["width"]), (StatusCode::OK, &json!("44 in")), "{back}");
    let (status, refused) = s.post("/api/jobs/2/history", Some(4), json!({"position": 9})).await;
    assert_eq!((status, &refused["type"]), (StatusCode::CONFLICT, &json!("no-history")));
    assert_eq!(s.get("/api/jobs/2").await.status(), StatusCode::OK);
    // Deleted, it stands on a list of its own.
    let gone =
        s.http.delete(format!("{}/api/jobs/2", s.url)).header("If-Match", "\"4\"").send().await.expect("an answer");
    assert!(gone.status().is_success());
    let list: Value = s.get("/api/deleted-jobs").await.json().await.expect("JSON");
    assert_eq!((list.as_array().map(Vec::len), &list[0]["id"]), (Some(1), &json!(2)), "{list}");
}

#[tokio::test]
async fn a_building_model_is_shown_before_it_is_taken_and_becomes_a_job() {
    let s = Server::start().await;
    let ifc = include_str!("../../../kame-formats/tests/formats/models/boat-shed-ifc4.ifc");
    let post = |path: &'static str, body: String| s.http.post(format!("{}{path}", s.url)).body(body).send();
    let shown = post("/api/model", ifc.to_owned()).await.expect("an answer");
    assert_eq!(shown.status(), StatusCode::OK);
    let model: Value = shown.json().await.expect("JSON");
    assert_eq!(model["walls"].as_array().map(Vec::len), Some(4));
    let jobs: Value = s.get("/api/jobs").await.json().await.expect("JSON");
    assert_eq!(jobs.as_array().map(Vec::len), Some(crate::DEMO_JOBS), "nothing is kept");
    let taken = post("/api/import", model["job"].to_string()).await.expect("an answer");
    assert_eq!(taken.status(), StatusCode::CREATED);
    let job: Value = taken.json().await.expect("JSON");
    let wall: Value = s.get(&format!("/api/jobs/{}", job["id"])).await.json().await.expect("JSON");
    assert_eq!(wall["view"]["elevation"]["openings"].as_array().map(Vec::len), Some(5), "planned without a size typed");
    // The same model again changes nothing; what was changed here meanwhile is told, and kept nowhere.
    let newer = async |s: &Server| -> Value {
        let url = format!("{}/api/jobs/{}/model", s.url, job["id"]);
        s.http.post(url).body(ifc).send().await.expect("an answer").json().await.expect("JSON")
    };
    let same = newer(&s).await;
    assert_eq!((&same["changes"], &same["edit"], &same["walls"]), (&json!([]), &Value::Null, &json!([])), "{same}");
    let edit = json!({"edit": "set_opening", "id": "W1", "name": "Tide room", "width": "30"});
    assert_eq!(s.post(&format!("/api/jobs/{}/edits", job["id"]), Some(1), edit).await.0, StatusCode::OK);
    let told = newer(&s).await;
    assert_eq!((&told["changes"][0]["id"], &told["changes"][0]["name"]), (&json!("W1"), &json!("Tide room")), "{told}");
    assert!(told["changes"][0]["says"].as_str().is_some_and(|t| t.contains("wide instead of 30")), "{told}");
    let (status, taken) = s.post(&format!("/api/jobs/{}/edits", job["id"]), Some(2), told["edit"].clone()).await;
    assert_eq!((status, &taken["state"]["undo"]), (StatusCode::OK, &json!("newer building model")), "{taken}");
    assert_eq!(newer(&s).await["edit"], Value::Null);
    // What is planned goes out in the same file.
    let noted =
        s.http.post(format!("{}/api/jobs/{}/model.ifc", s.url, job["id"])).body(ifc).send().await.expect("an answer");
    assert_eq!(
        (noted.status(), noted.headers()["content-type"].to_str().ok()),
        (StatusCode::OK, Some("application/x-step"))
    );
    let text = noted.text().await.expect("text");
    assert!(
        text.contains("'Verdict',$,IFCTEXT('Dry while the glue holds')") && text.contains("Back dam strip, 47 1/4\"'"),
        "{}",
        &text[text.len() - 3000..]
    );
    let other = s.http.post(format!("{}/api/jobs/2/model.ifc", s.url)).body(ifc).send().await.expect("an answer");
    assert_eq!(other.status(), StatusCode::UNPROCESSABLE_ENTITY, "a job that came out of no model");
    let refused = post("/api/model", "solid shed".to_owned()).await.expect("an answer");
    assert_eq!(refused.status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.text().await.expect("text").contains("export the model as IFC 4"));
}
