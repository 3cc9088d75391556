//! How things are made, schedules, the truck and the record through a real listener.

use crate::api::{Server, width};
use reqwest::{Response, StatusCode};
use serde_json::{Value, json};

fn school(opening: Option<&str>, question: &str, choice: &str) -> Value {
    json!({"edit": "set_school", "opening": opening, "question": question, "choice": choice})
}

#[tokio::test]
async fn another_school_is_taken_and_what_it_rules_out_goes_back_to_the_usual() {
    let s = Server::start().await;
    let (status, answer) = s.post("/api/jobs/2/edits", Some(1), school(Some("W1"), "cut", "cut-back")).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(answer["state"]["job"]["openings"][0]["schools"]["cut"], "cut-back");
    assert_eq!(answer["view"]["verdict"]["dry"], true);
    // A panel cannot be cut back: the opening goes back to the usual cut, which for a panel is flush.
    let (status, answer) = s.post("/api/jobs/2/edits", Some(2), school(None, "barrier", "panel")).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(answer["state"]["job"]["openings"][0]["schools"], json!({"maker": "on-frame"}));
    let questions = answer["view"]["schools"].as_array().expect("questions");
    let cut = questions.iter().find(|q| q["id"] == "cut").expect("the cut");
    assert_eq!(cut["choice"], "flush");
    let refused = |choice: &str| {
        let c = cut["choices"].as_array().and_then(|l| l.iter().find(|c| c["id"] == choice)).expect("a choice");
        c["refused"].as_str().unwrap_or_default().to_owned()
    };
    assert!(refused("fold-in").contains("cannot be folded"), "{}", refused("fold-in"));
    assert_eq!(refused("flush"), "");
    assert_eq!(answer["view"]["verdict"]["dry"], true);
}

#[tokio::test]
async fn what_cannot_be_built_is_refused_with_the_reason_and_the_nearest_that_can() {
    let s = Server::start().await;
    let refused = async |edit: Value, path: &str, words: &[&str]| {
        let (status, problem) = s.post("/api/jobs/2/edits", Some(1), edit).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        let text = problem.to_string();
        assert!(text.contains(path), "{path}: {text}");
        for w in words {
            assert!(text.contains(w), "{w}: {text}");
        }
    };
    refused(
        school(Some("W1"), "bottom", "sealed"),
        "$.openings[0].schools.bottom",
        &["F05", "The nearest that can: Open"],
    )
    .await;
    refused(school(Some("W1"), "sill", "fluid-alone"), "$.openings[0].schools.sill", &["coats", "Stretch membrane"])
        .await;
    refused(school(Some("W1"), "cut", "open"), "$.openings[0].schools.cut", &["until it is cut", "Fold in"]).await;
    refused(school(Some("W1"), "position", "in"), "$.openings[0].schools.position", &["a flange sits on the face"])
        .await;
    refused(school(Some("W1"), "barrier", "panel"), "$.question", &["there is no question"]).await;
    refused(school(None, "barrier", "straw"), "$.choice", &["straw"]).await;
    refused(school(Some("W9"), "cut", "flush"), "$.opening", &["W9"]).await;
    let planes = json!({"edit": "take_schools", "opening": "W1", "answers": {"barrier": "insulation-face", "outside": "boards"}});
    refused(planes, "outside", &["one drainage plane"]).await;
    let deep = json!({"edit": "take_schools", "opening": "W1", "answers": {"unit": "frame", "position": "between"}});
    let (status, _) = s.post("/api/jobs/2/edits", Some(1), deep).await;
    assert_eq!(status, StatusCode::OK);
    let (status, problem) =
        s.post("/api/jobs/2/edits", Some(2), json!({"edit": "set_opening", "id": "W1", "depth": "2 1/2"})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem.to_string().contains("put it at the face, or make the wall deeper"), "{problem}");
}

#[tokio::test]
async fn nights_say_where_the_wall_may_be_left() {
    let s = Server::start().await;
    let nights = s.json("/api/jobs/3/nights").await;
    let state = |step: &str| {
        let n = nights.as_array().and_then(|l| l.iter().find(|n| n["step"] == step)).expect("a step");
        (n["state"].as_str().unwrap_or_default().to_owned(), n.clone())
    };
    assert_eq!(state("course-1").0, "bare");
    let (covered, n) = state("W3/set");
    assert_eq!(covered, "cover");
    assert!(n["put"][0].as_str().is_some_and(|p| p.starts_with("Cover Reading window")), "{n}");
    assert_eq!(n["places"].as_array().map(Vec::len), Some(1));
    assert_eq!(n["or_go_on"], "Inside seal");
    assert_eq!(state("D1/look").0, "dry");
    let with = s.json("/api/jobs/3?nights=true").await;
    assert_eq!((&with["nights"], with["view"]["done"].as_u64()), (&nights, with["view"]["total"].as_u64()));
    assert!(s.json("/api/jobs/3").await["nights"].is_null());
    assert_eq!(s.get("/api/jobs/99/nights").await.status(), StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn schools_stand_side_by_side() {
    let s = Server::start().await;
    let ask = json!({"opening": "W1", "sides": [{}, {"sill": "metal", "barrier": "adhered"}], "keep": "sill"});
    let (status, both) = s.post("/api/jobs/2/compare", None, ask).await;
    assert_eq!(status, StatusCode::OK, "{both}");
    let differs = |side: usize| -> Vec<String> {
        let answers = both["sides"][side]["answers"].as_array().expect("answers");
        answers
            .iter()
            .filter(|a| a["differs"] == true)
            .map(|a| a["choice"].as_str().unwrap_or_default().to_owned())
            .collect()
    };
    assert_eq!(differs(0), ["loose", "fold-in", "stretch"]);
    assert_eq!(differs(1), ["adhered", "martini", "metal"]);
    for side in both["sides"].as_array().expect("sides") {
        assert_eq!((side["ponds"].as_u64(), side["sections"].as_array().map(Vec::len)), (Some(0), Some(3)));
        assert!(side["minutes"].as_f64().is_some_and(|m| m > 30.0));
        assert!(side["exploded"]["pieces"].as_array().is_some_and(|p| p.len() > 8));
    }
    let least = |side: usize| both["sides"][side]["temperatures"]["least"]["product"].clone();
    assert_eq!(least(0), "Stretch flashing membrane");
    let (status, problem) = s.post("/api/jobs/2/compare", None, json!({"opening": "W1", "sides": [{}]})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem.to_string().contains("found 1 sides, expected 2 to 4"), "{problem}");
    let unknown = json!({"opening": "W7", "sides": [{}, {}]});
    assert_eq!(s.post("/api/jobs/2/compare", None, unknown).await.0, StatusCode::UNPROCESSABLE_ENTITY);
    let nonsense = json!({"opening": "W1", "sides": [{"roof": "flat"}, {"sill": "straw"}]});
    let (status, problem) = s.post("/api/jobs/2/compare", None, nonsense).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem.to_string().contains("there is no question"), "{problem}");
    let cannot = json!({"opening": "W1", "sides": [{}, {"sill": "fluid-strip"}], "keep": "sill"});
    let (_, problem) = s.post("/api/jobs/2/compare", None, cannot).await;
    assert!(problem.to_string().contains("$.sides[1]"), "{problem}");
}

#[tokio::test]
async fn the_strategy_is_asked_advised_decided_and_followed() {
    let s = Server::start().await;
    let before = s.json("/api/jobs/2/strategy").await;
    assert!(before["questions"].as_array().is_some_and(|q| q.len() >= 10));
    assert_eq!(before["advice"].as_array().map(Vec::len), Some(11));
    let strategy = json!({
        "answers": {"exposure": "tall", "airtight": "tight", "season": "warm", "budget": "high", "cladding": "battens", "trim": "5 1/2"},
        "decisions": {"A4": {"choice": "metal", "reason": "salt air"}}
    });
    let set = json!({"edit": "set_strategy", "strategy": strategy});
    assert_eq!(s.post("/api/jobs/2/edits", Some(1), set).await.0, StatusCode::OK);
    let after = s.json("/api/jobs/2/strategy").await;
    let advice =
        |id: &str| after["advice"].as_array().and_then(|l| l.iter().find(|a| a["id"] == id)).expect("advice").clone();
    assert_eq!(advice("A1")["chosen"], "adhered");
    assert_eq!((advice("A4")["chosen"].as_str(), advice("A4")["reason"].as_str()), (Some("metal"), Some("salt air")));
    assert_eq!(advice("A3")["ranked"][0]["id"], "9", "5 1/2 trim, 1 1/2 past it and 1/4 on the frame is 7 1/4");
    let (status, done) = s.post("/api/jobs/2/edits", Some(2), json!({"edit": "follow_advice"})).await;
    assert_eq!(status, StatusCode::OK, "{done}");
    assert_eq!(done["state"]["job"]["wall"]["schools"]["barrier"], "adhered");
    assert_eq!(done["state"]["job"]["openings"][0]["schools"]["sill"], "metal");
    assert_eq!(done["state"]["job"]["figures"]["jamb_tape_width"], "9");
    assert_eq!(done["view"]["verdict"]["dry"], true);
    let wrong = json!({"edit": "set_strategy", "strategy": {"answers": {"cladding": "glass"}}});
    let (status, problem) = s.post("/api/jobs/2/edits", Some(3), wrong).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem.to_string().contains("$.strategy.answers.cladding"), "{problem}");
}

#[tokio::test]
async fn a_mistake_on_purpose_is_found_and_put_right() {
    let s = Server::start().await;
    let made = |so: bool, kind: &str, piece: &str| json!({"edit": "set_as_built", "deviation": {"kind": kind, "piece": piece}, "so": so});
    let (_, sealed) = s.post("/api/jobs/2/edits", Some(1), made(true, "sealed-bottom", "W1/unit")).await;
    let first = &sealed["view"]["findings"][0];
    assert_eq!((first["code"].as_str(), first["severity"].as_str()), (Some("F05"), Some("pond")));
    let tried = s.json("/api/jobs/2/remedies").await;
    assert_eq!(tried["revision"], 2);
    assert_eq!(tried["remedies"][0]["finding"], 1);
    assert_eq!(tried["remedies"][0]["edit"], made(false, "sealed-bottom", "W1/unit"));
    let list = s.json("/api/jobs").await;
    let said = list.as_array().and_then(|l| l.iter().find(|j| j["id"] == 2)).expect("listed")["verdict"].clone();
    assert_eq!(
        (&said, &sealed["view"]["verdict"]["state"]),
        (&json!(2), &json!(2)),
        "the list says what was said last"
    );
    let (_, right) = s.post("/api/jobs/2/edits", Some(2), made(false, "sealed-bottom", "W1/unit")).await;
    assert_eq!(right["view"]["verdict"]["dry"], true);
    let (status, problem) = s.post("/api/jobs/2/edits", Some(3), made(true, "fish-mouth", "W1/roof")).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem.to_string().contains("no piece"), "{problem}");
}

#[tokio::test]
async fn a_schedule_is_read_without_changing_anything_and_taken_over_in_one_edit() {
    let s = Server::start().await;
    let csv = "Mark,Type,Width,Height,Sill\nS1,window,900,1200,800\nS2,hose tap,40,,300\nS3,window,,1200,800\n";
    let (status, read) = s.raw("/api/jobs/2/schedule?unit=mm", csv.as_bytes().to_vec()).await;
    assert_eq!(status, StatusCode::OK, "{read}");
    let rows = read["rows"].as_array().expect("rows");
    assert!(rows[2]["problems"][0].as_str().is_some_and(|p| p.contains("no width")), "{read}");
    assert_eq!(s.json("/api/jobs/2").await["state"]["revision"], 1, "reading changes nothing");
    let openings: Vec<Value> =
        rows.iter().flat_map(|r| r["openings"].as_array().cloned().unwrap_or_default()).collect();
    assert_eq!(openings.len(), 2, "{read}");
    let taken = json!({"edit": "add_openings", "openings": openings});
    let (status, answer) = s.post("/api/jobs/2/edits", Some(1), taken).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    assert_eq!(answer["state"]["undo"], "schedule");
    let (_, mapped) = s.raw("/api/jobs/2/schedule?columns=0:none,1:width,2:height", b"a,b,c\nx,40,48\n".to_vec()).await;
    assert_eq!(mapped["columns"][1]["field"], "width");
    for (query, path) in [("unit=yards", "$.unit"), ("columns=width", "$.columns"), ("columns=1:depthh", "$.columns")] {
        let (status, problem) = s.raw(&format!("/api/jobs/2/schedule?{query}"), csv.as_bytes().to_vec()).await;
        assert_eq!((status, problem["problems"][0]["path"].as_str()), (StatusCode::UNPROCESSABLE_ENTITY, Some(path)));
    }
    let (status, problem) = s.raw("/api/jobs/2/schedule", b"PK\x03\x04".to_vec()).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["detail"].as_str().is_some_and(|d| d.contains("packed file")), "{problem}");
    assert!(s.json("/api/features").await.as_array().is_some_and(|k| k.iter().any(|k| k["id"] == "vent")));
}

#[tokio::test]
async fn the_truck_says_what_to_buy_takes_prices_and_refuses_nonsense() {
    let s = Server::start().await;
    let truck = s.json("/api/jobs/2/truck").await;
    let lines = truck["order"]["lines"].as_array().expect("lines").clone();
    assert!(lines.iter().any(|l| l["product"] == "Stretch flashing membrane"), "{truck}");
    assert!(truck["pairs"].as_array().is_some_and(|p| p.iter().any(|p| p["verdict"] == "unknown")));
    let own = |price: &str| json!({"edit": "set_product", "product": "Joint tape", "own": {"name": "Ours", "sizes": [{"width": "4", "length": "900", "price": price}]}});
    let (status, _) = s.post("/api/jobs/2/edits", Some(1), own("21.50 USD")).await;
    assert_eq!(status, StatusCode::OK);
    let (status, problem) = s.post("/api/jobs/2/edits", Some(2), own("-3")).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem.to_string().contains("expected an amount such as 38.50"), "{problem}");
    let stock = json!({"edit": "set_stock", "stock": [{"product": "Joint tape", "size": {"length": "0"}, "count": 1}]});
    let (status, problem) = s.post("/api/jobs/2/edits", Some(2), stock).await;
    assert_eq!(
        (status, problem["problems"][0]["path"].as_str()),
        (StatusCode::UNPROCESSABLE_ENTITY, Some("$.kit.stock[0].size"))
    );
    let (status, mixed) = s
        .post("/api/mix", None, json!({"ask": "coverage", "ft2": 860, "mil": 12, "loss": 10, "rough": 1, "pail": 5}))
        .await;
    assert_eq!((status, mixed["answer"].as_str()), (StatusCode::OK, Some("7.15 gal: 2 pail(s) of 5 gal.")));
    let (status, problem) = s
        .post("/api/mix", None, json!({"ask": "coverage", "ft2": 860, "mil": -12, "loss": 10, "rough": 1, "pail": 5}))
        .await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem.to_string().contains("between 1 and 250"), "{problem}");
}

/// Reads server-sent events until one of that name has come; what it carries.
async fn heard(r: &mut Response, name: &str) -> String {
    let mut text = String::new();
    loop {
        let chunk = r.chunk().await.expect("a stream").unwrap_or_else(|| panic!("it ended before {name}: {text}"));
        text.push_str(&String::from_utf8_lossy(&chunk));
        let mut events: Vec<&str> = text.split("\n\n").collect();
        let rest = events.pop().unwrap_or_default().to_owned();
        let of = |e: &&str| e.lines().any(|l| l == format!("event: {name}"));
        if let Some(found) = events.iter().find(|e| of(e)) {
            return found.lines().filter_map(|l| l.strip_prefix("data: ")).collect();
        }
        text = rest;
    }
}

#[tokio::test]
async fn ticks_are_taken_on_any_revision_and_told_to_who_listens() {
    let s = Server::start().await;
    let mut listens = s.get("/api/jobs/2/changes").await;
    assert_eq!(listens.headers()["content-type"], "text/event-stream");
    let standing = |revision: i64, bench: i64| json!({"revision": revision, "bench": bench}).to_string();
    let told = |text: String| serde_json::from_str::<Value>(&text).expect("JSON").to_string();
    assert_eq!(told(heard(&mut listens, "standing").await), standing(1, 0));
    let tick = |piece: &str| json!({"piece": piece, "cut": true, "roll": 1});
    let (status, now) = s.post("/api/jobs/2/ticks", None, tick("W1/pan")).await;
    assert_eq!((status, now.to_string()), (StatusCode::OK, standing(1, 1)));
    assert_eq!(told(heard(&mut listens, "standing").await), standing(1, 1));
    // A tick makes no revision, so a change made on the one before it is taken, and keeps the tick.
    let (status, changed) = s.post("/api/jobs/2/edits?cuts=true", Some(1), width("44")).await;
    assert_eq!((status, &changed["state"]["job"]["ticks"]), (StatusCode::OK, &json!(["W1/pan"])));
    let pan = changed["view"]["cut_list"]
        .as_array()
        .expect("groups")
        .iter()
        .flat_map(|g| g["pieces"].as_array().expect("pieces"));
    assert!({ pan }.any(|p| p["id"] == "W1/pan" && p["cut"] == true));
    assert_eq!(s.post("/api/jobs/2/ticks", None, tick("W1/head-flashing")).await.0, StatusCode::OK);
    let (status, refused) = s.post("/api/jobs/2/ticks", None, tick("")).await;
    assert_eq!((status, &refused["problems"][0]["path"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("$.piece")));
    assert_eq!(s.post("/api/jobs/99/ticks", None, tick("W1/pan")).await.0, StatusCode::NOT_FOUND);
    assert_eq!(s.post("/api/jobs/2/edits", Some(1), width("40")).await.0, StatusCode::PRECONDITION_FAILED);
    assert_eq!(s.get("/api/jobs/99/changes").await.status(), StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn the_server_ends_although_somebody_listens() {
    let mut s = Server::start().await;
    let mut listens = s.get("/api/jobs/1/changes").await;
    heard(&mut listens, "standing").await;
    s.stop.take().expect("running").send(()).expect("it runs");
    while listens.chunk().await.expect("a clean end").is_some() {}
}

#[tokio::test]
async fn nesting_tells_how_far_it_is_and_the_same_comes_without_waiting() {
    let s = Server::start().await;
    // However slow the machine is, the search is not cut short.
    let mut told = s.get("/api/jobs/4/truck-progress?by=wall&limit_s=600").await;
    let first: Value = serde_json::from_str(&heard(&mut told, "progress").await).expect("JSON");
    assert!(first["of"].as_u64() > first["done"].as_u64(), "{first}");
    let truck: Value = serde_json::from_str(&heard(&mut told, "truck").await).expect("JSON");
    let plain = s.json("/api/jobs/4/truck?by=wall&limit_s=600").await;
    assert_eq!((&truck["order"], &truck["by"]), (&plain["order"], &json!("wall")));
    let stopped = s.json("/api/jobs/4/truck?limit_s=0").await;
    let lines = |t: &Value| t["order"]["lines"].as_array().map(Vec::len);
    assert_eq!(lines(&stopped), lines(&plain));
    let (refused, unknown) = (s.get("/api/jobs/4/truck?limit_s=-1").await, s.get("/api/jobs/4/truck?by=moon").await);
    assert_eq!((refused.status().as_u16(), unknown.status().as_u16()), (422, 422));
}

#[tokio::test]
async fn kit_and_profile_leave_as_files_and_come_back_the_same() {
    let s = Server::start().await;
    let kit = s.json("/api/jobs/4").await["state"]["job"]["kit"].clone();
    for file in ["kit.json", "kit.csv", "kit.xlsx"] {
        let bytes = s.get(&format!("/api/jobs/4/truck/{file}")).await.bytes().await.expect("a file").to_vec();
        let (status, read) = s.raw("/api/jobs/4/kit", bytes).await;
        assert_eq!((status, &read), (StatusCode::OK, &kit), "{file}");
    }
    let figures = json!({"lap_vertical": "9", "crew": "3"});
    let set = json!({"edit": "set_figures", "figures": figures});
    assert_eq!(s.post("/api/jobs/2/edits", Some(1), set).await.0, StatusCode::OK);
    for file in ["profile.json", "profile.csv", "profile.xlsx"] {
        let bytes = s.get(&format!("/api/jobs/2/truck/{file}")).await.bytes().await.expect("a file").to_vec();
        assert_eq!(s.raw("/api/profile", bytes).await, (StatusCode::OK, figures.clone()), "{file}");
    }
    let keep = json!({"edit": "keep_profile", "name": "long laps", "source": "maker's sheet"});
    assert_eq!(s.post("/api/jobs/2/edits", Some(2), keep).await.0, StatusCode::OK);
    let back = json!({"edit": "restore_profile"});
    assert_eq!(s.post("/api/jobs/2/edits", Some(3), back).await.0, StatusCode::OK);
    let profile = s.json("/api/jobs/2/profile").await;
    assert_eq!(profile["kept"][0]["name"], "long laps");
    let row = profile["rows"].as_array().and_then(|r| r.iter().find(|r| r["id"] == "lap_vertical")).expect("a row");
    assert_eq!((&row["in_force"], &row["kept"][0], &row["differs"]), (&json!("6"), &json!("9"), &json!(true)));
    let unknown = json!({"edit": "restore_profile", "name": "short laps"});
    let (status, answer) = s.post("/api/jobs/2/edits", Some(4), unknown).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(answer["detail"].as_str().is_some_and(|d| d.contains("there are: long laps")), "{answer}");
    let (status, answer) = s.raw("/api/jobs/4/kit", b"%PDF-1.4".to_vec()).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(answer["detail"].as_str().is_some_and(|d| d.contains("this is a PDF")), "{answer}");
    let labels = s.get("/api/jobs/4/truck/labels.pdf").await;
    assert_eq!(labels.headers()["content-type"], "application/pdf");
    for file in ["loads.csv", "loads.xlsx", "quantities.csv?by=day", "quantities.xlsx?by=trade"] {
        assert_eq!(s.get(&format!("/api/jobs/4/truck/{file}")).await.status(), StatusCode::OK, "{file}");
    }
}

#[tokio::test]
async fn what_is_done_on_the_wall_is_on_record_once_and_says_how_the_work_stands() {
    let s = Server::start().await;
    let event = |n: u64, what: Value| {
        json!({"id": format!("01936f00-0000-7000-8000-{n:012x}"), "who": "Ada", "at": "2026-11-29T07:05:00Z", "place": "W1",
               "step": "W1/survey", "revision": 1, "what": what, "note": ""})
    };
    let mut listens = s.get("/api/jobs/2/changes").await;
    heard(&mut listens, "standing").await;
    let sent = json!({"events": [event(1, json!({"is": "begun"})), event(2, json!({"is": "done"}))]});
    let (status, taken) = s.post("/api/jobs/2/record", None, sent.clone()).await;
    assert_eq!((status, taken.as_array().map(Vec::len)), (StatusCode::OK, Some(2)));
    assert_eq!(heard(&mut listens, "record").await, "2");
    let (_, again) = s.post("/api/jobs/2/record", None, sent).await;
    assert_eq!(again, taken, "sent twice it is there once");
    assert_eq!(s.json("/api/jobs/2/record").await, taken);
    assert_eq!(s.json("/api/jobs/2/record?from=2").await.as_array().map(Vec::len), Some(1));
    let whole = s.json("/api/jobs/2/record/verify").await;
    assert_eq!(
        (whole["entries"].as_u64(), &whole["broken"], &whole["last"]),
        (Some(2), &Value::Null, &taken[1]["hash"])
    );
    let stands = s.json("/api/jobs/2/stands?opening=W1").await;
    let of = |id: &str| stands["steps"].as_array().expect("steps").iter().find(|x| x["step"] == id).expect("a step");
    assert_eq!((of("W1/survey")["now"].as_str(), of("W1/head")["now"].as_str()), (Some("done"), Some("open")));
    // As it is built today: what was done and nothing else.
    let built = s.json("/api/jobs/2?built=true&weather=rain").await;
    let survey = built["view"]["steps"].as_array().expect("steps")[0].clone();
    assert_eq!((survey["id"].as_str(), &built["view"]["done"]), (Some("W1/survey"), &survey["ends"]));
    assert_eq!(built["view"]["verdict"]["finished"], false);
    // Also what a change would give, and gives, is of the wall as it is built.
    let preview = json!({"change": width("44"), "moment": {"built": true, "have": "1.0.0"}});
    let (_, seen) = s.post("/api/jobs/2/preview", None, preview).await;
    let (_, after) = s.post("/api/jobs/2/edits?built=true&have=1.0.0", Some(1), width("44")).await;
    for view in [&seen, &after["view"]] {
        assert_eq!((&view["done"], &view["verdict"]["finished"]), (&built["view"]["done"], &json!(false)));
        assert!(view["since"].is_null());
    }
    // Nobody's name for what they have makes anything be kept that there is not.
    assert!(s.json("/api/jobs/2?have=2.0.99999").await["view"]["since"].is_null());
    // A slip is told with its place, and nothing of that sending stays.
    let wrong = json!({"events": [event(3, json!({"is": "done"})), event(4, json!({"is": "left_out"}))]});
    let (status, refused) = s.post("/api/jobs/2/record", None, wrong).await;
    assert_eq!(
        (status, &refused["problems"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("$.events[1].note"))
    );
    assert_eq!(s.json("/api/jobs/2/record").await, taken);
    // Readings are judged without being written down.
    let checks = s.json("/api/jobs/2/checks?step=W1%2Fsurvey").await;
    let width = checks.as_array().expect("checks").iter().find(|c| c["check"] == "opening-width").expect("a check");
    let (_, said) = s.post("/api/jobs/2/judge", None, json!({"check": width["id"], "values": [44.0, 45.0]})).await;
    assert_eq!((said["good"].as_bool(), said["worst"].as_u64()), (Some(false), Some(1)), "{said}");
    let (status, _) = s.post("/api/jobs/2/judge", None, json!({"check": "no", "values": [1.0]})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(s.post("/api/jobs/99/record", None, json!({"events": []})).await.0, StatusCode::NOT_FOUND);
    // As a file it is looked through elsewhere.
    let file = s.get("/api/jobs/2/record.jsonl").await.text().await.expect("text");
    let lines: Vec<kame_core::record::Entry> =
        file.lines().map(|l| serde_json::from_str(l).expect("an entry")).collect();
    assert!(kame_core::record::verify(&lines).broken.is_none() && lines.len() == 2);
}
