//! Repairs through a real listener: asked for at a place, for a finding and for a failed check; taken, built on, and refused with a sentence.

use crate::api::Server;
use reqwest::StatusCode;
use serde_json::{Value, json};

/// The demo's gable without openings, dry by its laps; and its job that is half built.
const GABLE: &str = "/api/jobs/5";
const HALF: &str = "/api/jobs/3";

fn tear(left: &str, bottom: &str) -> Value {
    json!({"by": "sight", "what": "tear", "place": {"left": left, "bottom": bottom, "width": "6 in", "height": "3 in"}})
}

#[tokio::test]
async fn a_repair_is_asked_for_taken_and_part_of_the_plan_from_then_on() {
    let s = Server::start().await;
    let kinds = s.json("/api/found-kinds").await;
    assert_eq!(kinds.as_array().map(Vec::len), Some(8), "{kinds}");
    let (status, found) = s.post(&format!("{GABLE}/repairs"), None, tear("40 in", "30 in")).await;
    assert_eq!(status, StatusCode::OK, "{found}");
    assert_eq!(
        (&found["before"]["state"], &found["whole"]["state"], &found["found"]["id"]),
        (&json!(1), &json!(6), &json!("D1"))
    );
    let best = &found["proposals"][0];
    assert!(best["title"] == "A new piece under the lap above it" && best["as_before"] == true, "{best}");
    assert!(
        best["leans"] == json!([])
            && best["picture"]["now"][0]["letter"] == "R1"
            && best["minutes"].as_f64() > Some(0.0)
    );
    assert!(!found["drop"].as_array().expect("a way").is_empty());
    // Nothing was kept by asking.
    assert_eq!(s.json(GABLE).await["state"]["job"]["found"], Value::Null);
    let (status, kept) = s.post(&format!("{GABLE}/edits"), Some(1), best["edit"].clone()).await;
    assert_eq!(status, StatusCode::OK, "{kept}");
    let now = s.json(GABLE).await;
    assert_eq!(
        (&now["state"]["job"]["found"][0]["id"], &now["view"]["verdict"]["state"]),
        (&json!("D1"), &json!(6)),
        "{}",
        now["state"]
    );
    let steps: Vec<&str> =
        now["view"]["steps"].as_array().expect("steps").iter().filter_map(|x| x["id"].as_str()).collect();
    assert!(steps.ends_with(&["D1/found", "D1/1"]), "{steps:?}");
    // What comes next is torn through it, and has the next number.
    let (_, again) = s.post(&format!("{GABLE}/repairs"), None, tear("41 in", "31 in")).await;
    assert_eq!((&again["found"]["id"], &again["before"]["state"]), (&json!("D2"), &json!(1)));
}

#[tokio::test]
async fn findings_and_failed_checks_open_repairs_too() {
    let s = Server::start().await;
    // The slit patches of the first job are left out.
    let (status, found) = s.post("/api/jobs/1/repairs", None, json!({"by": "finding", "number": 1})).await;
    assert_eq!((status, &found["found"]["what"]), (StatusCode::OK, &json!("wrong")), "{found}");
    let best = &found["proposals"][0];
    assert!(
        best["title"] == "Do now what was left out" && best["as_before"] == true && best["leans"] == json!([]),
        "{best}"
    );
    // What a check found wrong is mended on the wall as it stands today.
    let (status, failed) = s.post(&format!("{HALF}/repairs"), None, json!({"by": "step", "step": "W2/jambs"})).await;
    assert_eq!((status, &failed["found"]["what"]), (StatusCode::OK, &json!("failed")), "{failed}");
    assert!(failed["found"]["after"].is_string() && failed["none"].is_null(), "{failed}");
    for (path, ask, says) in [
        ("/api/jobs/1", json!({"by": "finding", "number": 99}), "there is no finding 99"),
        ("/api/jobs/1", json!({"by": "step", "step": "W9/pan"}), "there is no step"),
        (GABLE, tear("4000 in", "30 in"), "outside the wall"),
        (GABLE, tear("9999999 in", "30 in"), ""),
        (GABLE, json!({"by": "guess"}), ""),
        (
            GABLE,
            json!({"by": "sight", "what": "fire", "place": {"left": "1", "bottom": "1", "width": "1", "height": "1"}}),
            "",
        ),
    ] {
        let (status, refused) = s.post(&format!("{path}/repairs"), None, ask.clone()).await;
        assert!(status.is_client_error(), "{ask} {status}");
        assert!(refused.to_string().contains(says), "{ask}: {refused}");
    }
    // A repair of pieces that are not there is refused, and nothing of it kept.
    let edit = json!({"edit": "set_found", "found": {"id": "D7", "what": "tear", "place": tear("40 in", "30 in")["place"],
        "repair": [{"do": "open", "pieces": ["nothing"]}]}});
    let (status, refused) = s.post(&format!("{GABLE}/edits"), Some(1), edit).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.to_string().contains("there is no piece"), "{refused}");
}

#[tokio::test]
async fn a_repair_is_laid_on_the_calendar_and_what_was_agreed_on_stays() {
    let s = Server::start().await;
    let calendar = async |ask: Value| {
        let (status, answer) = s.post(&format!("{GABLE}/calendar"), None, ask).await;
        assert_eq!(status, StatusCode::OK, "{answer}");
        answer
    };
    let site = json!({"from": "2026-03-02", "stands": {"latitude": 45.5, "longitude": -123.9, "utc_hours": -8.0, "facing": 270.0},
        "crews": [{"name": "A", "trades": ["lead", "barrier", "window", "cladding"], "people": 1, "hours": [7.0, 15.5]}]});
    let (_, found) = s.post(&format!("{GABLE}/repairs"), None, tear("40 in", "30 in")).await;
    let (status, _) = s.post(&format!("{GABLE}/edits"), Some(1), found["proposals"][0]["edit"].clone()).await;
    assert_eq!(status, StatusCode::OK);
    let first = calendar(json!({"site": site, "weather": null})).await;
    let tasks = first["booking"]["tasks"].as_array().expect("tasks");
    let patch = tasks.iter().find(|t| t["step"] == "D1/1").expect("the repair is a task");
    assert!(patch["why"].as_str().is_some_and(|w| w.starts_with("After ")), "{patch}");
    // Agreed on and kept; with two days off what has to moves, and says why; from nothing nothing is said to move.
    let mut kept = serde_json::Map::new();
    for t in tasks {
        let step = t["step"].as_str().expect("a step");
        let parts: Vec<&Value> = tasks.iter().filter(|o| o["step"] == step).collect();
        let n = parts.iter().position(|o| o["from"] == t["from"]).expect("itself");
        let id = if parts.len() > 1 { format!("{step} {}", n + 1) } else { step.to_owned() };
        kept.insert(id, json!([t["crew"], t["from"]]));
    }
    let mut agreed = site.clone();
    agreed["kept"] = json!({"from": "2026-03-02", "crews": ["A"], "tasks": kept});
    let (status, refused) =
        s.post(&format!("{GABLE}/edits"), Some(2), json!({"edit": "set_site", "site": agreed})).await;
    assert_eq!(status, StatusCode::OK, "{refused}");
    let again = calendar(json!({})).await;
    assert_eq!((&again["booking"]["kept"], &again["booking"]["moved"]), (&json!(true), &json!([])));
    agreed["crews"][0]["off"] = json!(["2026-03-02", "2026-03-03"]);
    let late = calendar(json!({"site": agreed})).await;
    let moved = late["booking"]["moved"].as_array().expect("moves");
    assert!(!moved.is_empty() && moved.iter().all(|m| m["from"].as_u64() >= Some(2 * 1440)), "{moved:?}");
    assert!(moved[0]["why"].as_str().is_some_and(|w| !w.is_empty()));
    let anew = calendar(json!({"site": agreed, "anew": true})).await;
    assert_eq!((&anew["booking"]["kept"], &anew["booking"]["moved"]), (&json!(false), &json!([])));
    for (field, value, says) in [
        ("visits", json!([{"name": "", "on": "2026-03-05", "before": "cover"}]), "visits[0].name"),
        ("visits", json!([{"name": "x", "on": "some day", "before": "cover"}]), "visits[0].on"),
        ("visits", json!([{"name": "x", "on": "2026-03-05", "before": "lunch"}]), ""),
        ("pins", json!([{"step": "course-1", "on": "2026-02-30"}]), "pins[0].on"),
        ("kept", json!({"from": "2026-03-02", "crews": [], "tasks": {}}), "kept.crews"),
        (
            "kept",
            json!({"from": "2026-03-02", "crews": ["A"], "tasks": {"course-1": [0, 4_000_000_000_u32]}}),
            "kept.tasks",
        ),
    ] {
        let mut wrong = site.clone();
        wrong[field] = value;
        let (status, refused) = s.post(&format!("{GABLE}/calendar"), None, json!({"site": wrong})).await;
        assert!(status.is_client_error() && refused.to_string().contains(says), "{field}: {status} {refused}");
    }
}
