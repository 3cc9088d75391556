//! Practice through a real listener: the same scene again, what was laid, answers kept for who gave them, and nonsense refused.

use crate::api::Server;
use reqwest::StatusCode;
use serde_json::{Value, json};

const ORDER: &str = "/api/practice/scene?drill=order&level=1&seed=5";

async fn answer(s: &Server, body: Value) -> (StatusCode, Value) {
    s.post("/api/practice/answer", None, body).await
}

#[tokio::test]
async fn a_scene_is_laid_step_by_step_rained_on_and_kept_for_who_did_it() {
    let s = Server::start().await;
    let scene = s.json(ORDER).await;
    assert_eq!(scene, s.json(ORDER).await, "the same seed");
    let of = json!({"which": scene["which"]});
    // Laps from the bottom up, whatever they are called: the right order is found by trying all of them.
    let steps: Vec<String> =
        scene["lay"].as_array().expect("steps").iter().filter_map(|l| l["step"].as_str().map(str::to_owned)).collect();
    assert_eq!(steps.len(), 3);
    let (status, laid) = s.post("/api/practice/laid", None, json!({"of": of, "steps": [steps[0]]})).await;
    assert_eq!(status, StatusCode::OK, "{laid}");
    assert!(!laid["elevation"]["shapes"].as_array().expect("shapes").is_empty() && laid["sticks"] == false);
    let orders = [[0, 1, 2], [0, 2, 1], [1, 0, 2], [1, 2, 0], [2, 0, 1], [2, 1, 0]];
    let mut points = Vec::new();
    for order in orders {
        let steps: Vec<&String> = order.iter().map(|i| &steps[*i]).collect();
        let (status, graded) =
            answer(&s, json!({"of": of, "answer": {"drill": "order", "steps": steps}, "who": "Cy"})).await;
        assert_eq!(status, StatusCode::OK, "{graded}");
        assert_eq!(graded["clean"], graded["points"].as_f64() == Some(100.0));
        points.push(graded["points"].as_f64().expect("points"));
    }
    assert_eq!(points.iter().filter(|p| **p == 100.0).count(), 1, "one order of three laps holds: {points:?}");
    let kept = s.json("/api/practice/progress").await;
    let cy = &kept["people"][0];
    assert_eq!((&cy["who"], &cy["progress"]["levels"][0]["scenes"]), (&json!("Cy"), &json!(6)), "{cy}");
    assert!(kept["faults"].as_array().is_some_and(|f| f.len() > 40));
    // Sent again because nobody heard that it arrived, it is kept once.
    let again = json!({"of": of, "answer": {"drill": "order", "steps": steps}, "who": "Di", "id": "one"});
    for _ in 0..2 {
        assert_eq!(answer(&s, again.clone()).await.0, StatusCode::OK);
    }
    let kept = s.json("/api/practice/progress").await;
    assert_eq!(kept["people"][0]["progress"]["levels"][0]["scenes"], 1, "{kept}");
    // Without a name nothing is kept.
    let (status, _) = answer(&s, json!({"of": of, "answer": {"drill": "order", "steps": steps}})).await;
    assert_eq!((status, s.json("/api/practice/progress").await), (StatusCode::OK, kept));
}

#[tokio::test]
async fn a_scene_does_not_give_its_answer_away_and_nonsense_is_refused() {
    let s = Server::start().await;
    let scene = s.json("/api/practice/scene?drill=measure&level=5&seed=9").await;
    for size in scene["sizes"].as_array().expect("sizes") {
        assert!(size["length"].is_null() && size["rules"].as_array().is_some_and(|r| !r.is_empty()), "{size}");
    }
    let find = s.json("/api/practice/scene?drill=find&level=2&seed=9").await;
    assert!(find["to_find"] == 1 && find["names"].as_array().is_some_and(|n| n.len() >= 4), "{}", find["names"]);
    let text = find.to_string();
    assert!(!text.contains("targets") && !text.contains("reason"));
    // What every answer gives is written out where it can be; a hint has its price and no more.
    let both = s.json("/api/practice/sheet?drill=find&level=2&seed=9").await;
    let sheet = &both["sheet"];
    assert_eq!((&sheet["drill"], sheet["targets"].as_array().map(Vec::len)), (&json!("find"), Some(1)), "{sheet}");
    assert_eq!(both["scene"], find, "the scene it belongs to");
    let orders = s.json("/api/practice/sheet?drill=order&level=2&seed=5").await;
    assert_eq!(orders["sheet"]["by_order"].as_object().map(serde_json::Map::len), Some(24));
    let orders = s.json("/api/practice/sheet?drill=order&level=4&seed=5").await;
    assert_eq!(orders["sheet"]["by_order"].as_object().map(serde_json::Map::len), Some(720));
    let marks =
        json!({"of": {"which": {"drill": "find", "level": 2, "seed": 9}}, "answer": {"drill": "find", "marks": []}});
    let (status, hint) = s.post("/api/practice/hint", None, marks).await;
    assert!(status == StatusCode::OK && hint["costs"] == 15.0, "{hint}");
    assert!(hint["says"].as_str().is_some_and(|t| t.starts_with("Look at the")), "{hint}");
    // On a job's own wall; one that is wrong as it is planned is not practised on.
    assert_eq!(s.get("/api/practice/scene?drill=find&level=2&seed=1&job=2").await.status(), StatusCode::OK);
    for (path, status) in [
        ("/api/practice/scene?drill=find&level=9&seed=1", StatusCode::UNPROCESSABLE_ENTITY),
        ("/api/practice/scene?drill=find&level=1&seed=9007199254740993", StatusCode::UNPROCESSABLE_ENTITY),
        ("/api/practice/scene?drill=find&level=1&seed=1&focus=F99", StatusCode::UNPROCESSABLE_ENTITY),
        ("/api/practice/scene?drill=find&level=1&seed=1&job=99", StatusCode::NOT_FOUND),
        ("/api/practice/scene?drill=measure&level=1&seed=1&job=5", StatusCode::UNPROCESSABLE_ENTITY),
        ("/api/practice/scene?drill=guess&level=1&seed=1", StatusCode::UNPROCESSABLE_ENTITY),
        ("/api/practice/scene?drill=find&level=1&seed=-1", StatusCode::UNPROCESSABLE_ENTITY),
    ] {
        let r = s.get(path).await;
        let (got, body) = (r.status(), r.text().await.expect("text"));
        assert!(got == status || status.is_client_error() && got == StatusCode::BAD_REQUEST, "{path}: {got} {body}");
    }
    let of = json!({"which": {"drill": "order", "level": 1, "seed": 5}});
    for (body, says) in [
        (json!({"of": of, "answer": {"drill": "find", "marks": []}}), "answer that one"),
        (json!({"of": of, "answer": {"drill": "order", "steps": ["x"]}}), "not among what is to be laid"),
        (json!({"of": of, "answer": {"drill": "order", "steps": []}}), "lay the rest"),
        (json!({"of": of, "answer": {"drill": "order", "steps": vec!["x"; 500]}}), "at most 200"),
    ] {
        let (status, refused) = answer(&s, body).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{refused}");
        assert!(refused.to_string().contains(says), "{says}: {refused}");
    }
    let scene = s.json(ORDER).await;
    let steps: Vec<&Value> = scene["lay"].as_array().expect("steps").iter().map(|l| &l["step"]).collect();
    let (status, refused) =
        answer(&s, json!({"of": of, "answer": {"drill": "order", "steps": steps}, "who": "x".repeat(61)})).await;
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && refused.to_string().contains("a name of 61"), "{refused}");
}
