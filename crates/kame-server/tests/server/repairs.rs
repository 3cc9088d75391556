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
    assert_eq!(kinds.as_array().map(Vec::len), Some(6), "{kinds}");
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
