//! All jobs of a firm: how far each has come, put aside, found by a word, following a way; over the wire.

use crate::api::Server;
use reqwest::StatusCode;
use serde_json::{Value, json};

async fn get(s: &Server, path: &str) -> Value {
    let answer = s.get(path).await;
    assert_eq!(answer.status(), StatusCode::OK, "{path}");
    answer.json().await.expect("JSON")
}

#[tokio::test]
async fn each_job_says_how_far_it_has_come_and_goes_on_when_something_is_written_down() {
    let s = Server::start().await;
    let west = get(&s, "/api/jobs/3/progress").await;
    assert!(west["done"].as_u64() > Some(0) && west["done"].as_u64() < west["of"].as_u64(), "{west}");
    assert_eq!(west["tonight"]["state"], "cover", "{west}");
    assert!(west["differs"].as_u64() > Some(0), "{west}");
    let north = get(&s, "/api/jobs/2/progress").await;
    assert_eq!((&north["done"], &north["tonight"], &north["differs"]), (&json!(0), &Value::Null, &json!(0)));
    let first = north["next"]["step"].clone();
    let event = json!({"id": "01936f00-0000-7000-8000-00000000f1a0", "who": "Ada", "at": "2026-11-30T07:05:00Z", "place": "W1",
                       "step": first, "revision": 1, "what": {"is": "done"}});
    let (status, body) = s.post("/api/jobs/2/record", None, json!({"events": [event]})).await;
    assert_eq!(status, StatusCode::OK, "{body}");
    let now = get(&s, "/api/jobs/2/progress").await;
    assert!(now["done"] == 1 && now["next"]["step"] != first && now["tonight"]["state"] == "bare", "{now}");
    assert_eq!(s.get("/api/jobs/77/progress").await.status(), StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_job_is_put_aside_found_all_the_same_and_taken_back() {
    let s = Server::start().await;
    let (status, _) = s.post("/api/jobs/3/archive", None, json!({"aside": true})).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let aside = |list: &Value| list.as_array().expect("jobs").iter().find(|j| j["id"] == 3).expect("there").clone();
    assert!(aside(&get(&s, "/api/jobs").await)["archived"].is_string());
    let found = get(&s, "/api/search?text=wash%20west").await;
    assert_eq!(
        (&found[0]["id"], &found[0]["archived"], &found[0]["places"][0]["place"]),
        (&json!(3), &json!(true), &json!("W2")),
        "{found}"
    );
    let (status, _) = s.post("/api/jobs/3/archive", None, json!({"aside": false})).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    assert!(aside(&get(&s, "/api/jobs").await)["archived"].is_null());
    let long = s.get(&format!("/api/search?text={}", "x".repeat(101))).await;
    assert_eq!(long.status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert!(long.text().await.expect("text").contains("at most 100"));
}

#[tokio::test]
async fn a_way_is_kept_taken_by_another_job_and_told_where_it_is_left() {
    let s = Server::start().await;
    let (status, kept) = s.post("/api/ways", None, json!({"job": 5, "name": "Gable way"})).await;
    assert_eq!(status, StatusCode::OK, "{kept}");
    let (status, twice) = s.post("/api/ways", None, json!({"job": 5, "name": "gable WAY"})).await;
    assert_eq!(
        (status, &twice["problems"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("$.name")),
        "{twice}"
    );
    let id = &kept["id"];
    let way = get(&s, &format!("/api/ways/{id}")).await;
    let against = get(&s, &format!("/api/jobs/2/way?way={id}")).await;
    assert!(against["differences"].as_array().is_some_and(|d| !d.is_empty()), "{against}");
    assert_eq!(against["follows"], "Estuary way");
    let (status, taken) = s.post("/api/jobs/2/edits", Some(1), json!({"edit": "take_way", "way": way})).await;
    assert_eq!((status, &taken["state"]["undo"]), (StatusCode::OK, &json!("the firm's way taken")), "{taken}");
    let here = get(&s, "/api/jobs/2/way").await;
    assert_eq!((&here["follows"], &here["differences"]), (&json!("Gable way"), &json!([])));
    let (status, _) =
        s.post("/api/jobs/2/edits", Some(2), json!({"edit": "set_figure", "id": "lap_horizontal", "value": "9"})).await;
    assert_eq!(status, StatusCode::OK);
    let here = get(&s, "/api/jobs/2/way").await;
    assert_eq!(
        (here["differences"].as_array().map(Vec::len), &here["differences"][0]["part"]),
        (Some(1), &json!("figures")),
        "{here}"
    );
    let gone = s.http.delete(format!("{}/api/ways/{id}", s.url)).send().await.expect("an answer");
    assert_eq!(gone.status(), StatusCode::NO_CONTENT);
    let lost = get(&s, "/api/jobs/2/way").await;
    assert_eq!((&lost["follows"], &lost["way"]), (&json!("Gable way"), &Value::Null));
    for path in [format!("/api/ways/{id}"), "/api/ways/x".into(), format!("/api/jobs/2/way?way={id}")] {
        assert_eq!(s.get(&path).await.status(), StatusCode::NOT_FOUND, "{path}");
    }
}
