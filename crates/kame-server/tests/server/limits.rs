//! What was seen to kill it, to hang it or to make others wait, each as it was seen.

use crate::api::Server;
use kame_core::edit::{Edit, apply};
use kame_core::job::{CornerKind, Job, write_job};
use kame_core::length::Length;
use kame_server::{Patience, Serving};
use reqwest::{Response, StatusCode};
use serde_json::{Value, json};
use std::fmt::Write;
use std::time::Duration;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;

fn inch(n: i64) -> Length {
    Length::inch(n)
}

/// A wall 200 ft long with brackets 24 in apart from 50 ft on: upright laps have no clear place there.
fn bracketed() -> Job {
    let mut job = Job::new("brackets");
    (job.wall.width, job.openings) = (inch(2400), Vec::new());
    let edit = Edit::AddFeature { kind: "bracket".into(), left: Some(inch(600)), sill: Some(inch(40)) };
    let (mut job, _) = apply(&job, &edit).unwrap_or_else(|p| panic!("{p:?}"));
    (job.openings[0].width, job.openings[0].height) = (inch(2), inch(4));
    let like = job.openings[0].clone();
    for n in 1..74 {
        let mut o = like.clone();
        (o.id, o.name, o.left) = (format!("B{}", n + 1), format!("Bracket {}", n + 1), inch(600 + 24 * n));
        job.openings.push(o);
    }
    job
}

#[tokio::test]
async fn a_wall_on_which_no_upright_lap_is_clear_is_laid_out_and_says_so() {
    let s = Server::start().await;
    let (status, made) = s.raw("/api/import", write_job(&bracketed()).into_bytes()).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let job = s.json(&format!("/api/jobs/{}", made["id"])).await;
    assert!(
        job["view"]["courses_why"].as_str().is_some_and(|w| w.contains("no clear place")),
        "{}",
        job["view"]["courses_why"]
    );
}

#[tokio::test]
async fn windows_all_along_a_wall_and_short_rolls_are_laid_out_with_shipped_figures() {
    let s = Server::start().await;
    let mut job = Job::new("row");
    job.wall.width = inch(1440);
    (job.openings[0].left, job.openings[0].width) = (inch(23), inch(23));
    let copies = Edit::CopyOpening { id: "W1".into(), times: 29, step: inch(46) };
    let answered = |job: &Job| match kame_core::plan::build(job) {
        Ok(plan) => plan.pieces.len() > 30,
        Err(problems) => !problems.is_empty(),
    };
    let mut row = job.clone();
    for n in 1..30 {
        let mut o = job.openings[0].clone();
        (o.id, o.name, o.left) = (format!("W{}", n + 1), format!("Window {}", n + 1), inch(23 + 46 * n));
        row.openings.push(o);
    }
    assert!(answered(&row) && apply(&job, &copies).map_or_else(|p| !p.is_empty(), |(job, _)| answered(&job)));
    let short = json!({"edit": "set_figure", "id": "barrier_roll_length", "value": "10'"});
    assert_eq!(s.post("/api/jobs/4/edits", Some(1), short).await.0, StatusCode::OK);
}

#[tokio::test]
async fn two_allowed_figures_that_cannot_be_together_are_refused_with_both_and_the_limit() {
    let s = Server::start().await;
    let set = |id: &str, value: &str| json!({"edit": "set_figure", "id": id, "value": value});
    let (status, _) = s.post("/api/jobs/2/edits", Some(1), set("barrier_roll_width", "18")).await;
    assert_eq!(status, StatusCode::OK);
    let (status, refused) = s.post("/api/jobs/2/edits", Some(2), set("lap_horizontal", "18")).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let says = refused["detail"].as_str().unwrap_or_default();
    assert!(says.contains("lap of 18\"") && says.contains("roll 18\" wide") && says.contains("9\" or less"), "{says}");
    let tube = json!({"edit": "set_product", "product": "Sealant, movement class 25 or more", "own": {"sizes": [{"fl_oz": 1e-9}]}});
    let (status, refused) = s.post("/api/jobs/2/edits", Some(2), tube).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused["detail"].as_str().is_some_and(|d| d.contains("between 0.1 and 100000")), "{refused}");
}

#[tokio::test]
async fn thousands_of_unknown_keys_are_refused_and_others_are_answered_meanwhile() {
    let s = Server::start().await;
    let mut body = String::from("{\"edit\":\"rename\"");
    (0..30_000).for_each(|n| write!(body, ",\"k{n}\":1").expect("written"));
    body.push('}');
    let send =
        |path: &str| s.http.post(format!("{}{path}", s.url)).header("If-Match", "\"1\"").body(body.clone()).send();
    let many = futures_util::future::join_all(
        ["/api/jobs/1/edits", "/api/jobs/2/edits", "/api/jobs", "/api/jobs/1/preview"].map(send),
    );
    let (refused, jobs) = tokio::join!(many, s.json("/api/jobs"));
    assert_eq!(jobs.as_array().map(Vec::len), Some(crate::DEMO_JOBS));
    for r in refused {
        assert_eq!(r.expect("an answer").status(), StatusCode::UNPROCESSABLE_ENTITY);
    }
    // The same in places of a job where any key may stand.
    let keys =
        |of: Value| (0..30_000).map(|n| (format!("k{n}"), of.clone())).collect::<serde_json::Map<String, Value>>();
    let job = serde_json::to_value(Job::new("keys")).expect("JSON");
    for path in ["/figures", "/wall/schools", "/openings/0/schools", "/bench/rolls", "/strategy/answers"] {
        let mut job = job.clone();
        if path.starts_with("/bench") {
            job["bench"] = json!({"rolls": {}});
        }
        *job.pointer_mut(path).unwrap_or_else(|| panic!("{path}")) =
            keys(if path.starts_with("/bench") { json!(1) } else { json!("1") }).into();
        let (status, refused) = s.raw("/api/import", job.to_string().into_bytes()).await;
        let expected = if path.starts_with("/bench") { StatusCode::CREATED } else { StatusCode::UNPROCESSABLE_ENTITY };
        assert_eq!(status, expected, "{path}: {refused}");
    }
}

#[tokio::test]
async fn more_of_anything_than_a_job_may_hold_is_refused_before_it_is_looked_at() {
    let s = Server::start().await;
    let job = serde_json::to_value(Job::new("many")).expect("JSON");
    let corner = |n: usize| json!({"at": 24 + 8 * n, "kind": CornerKind::Outside, "name": "c"});
    let opening = |n: usize| {
        let mut o = job["openings"][0].clone();
        o["id"] = json!(format!("W{n}"));
        o
    };
    let lists: [(&str, Vec<Value>); 4] = [
        ("/wall/corners", (0..2000).map(corner).collect()),
        ("/openings", (0..1501).map(opening).collect()),
        ("/ticks", (0..60_000).map(|n| json!(format!("p{n}"))).collect()),
        ("/as_built", (0..5000).map(|n| json!({"kind": "fish-mouth", "piece": format!("p{n}")})).collect()),
    ];
    for (path, list) in lists {
        let mut job = job.clone();
        *job.pointer_mut(path).unwrap_or_else(|| panic!("{path}")) = list.into();
        let (status, refused) = s.raw("/api/import", job.to_string().into_bytes()).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
        assert!(refused["detail"].as_str().is_some_and(|d| d.contains("at most")), "{path}: {refused}");
    }
}

/// A layup of sheets on a wall 1000 in square, each as `rect` says.
fn sheets(n: usize, rect: impl Fn(usize) -> [usize; 4], scenarios: usize, holes: usize) -> Value {
    let on = |r: [usize; 4]| json!({"facet": "w", "rect": r});
    let sheet = |i: usize| {
        let mut region = on(rect(i));
        region["rank"] = json!(i);
        json!({"id": format!("s{i}"), "bond": "none", "regions": [region]})
    };
    let hole = |i: usize| json!({"in": "s0", "facet": "w", "rect": [3 * (i % 300), 3 * (i / 300), 3 * (i % 300) + 1, 3 * (i / 300) + 1]});
    json!({
        "format": "kame-layup", "version": 1, "units": "in",
        "facets": [{"id": "w", "width": 1000, "height": 1000, "rise": 1, "exposed": true}],
        "sheets": (0..n).map(sheet).collect::<Vec<_>>(),
        "holes": (0..holes).map(hole).collect::<Vec<_>>(),
        "targets": [{"id": "t", "facet": "w", "rect": [100, 100, 900, 900], "at": "substrate"}],
        "scenarios": (0..scenarios).map(|i| json!({"id": format!("r{i}"), "kind": "rain"})).collect::<Vec<_>>(),
    })
}

#[tokio::test]
async fn a_layup_that_asks_for_more_than_there_is_room_for_is_refused_and_a_large_one_is_answered() {
    let s = Server::start().await;
    let (status, answer) = s.post("/api/water", None, sheets(1, |_| [0, 0, 1000, 1000], 1, 3000)).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    let (status, answer) =
        s.post("/api/water", None, sheets(20, |i| [i * 10, i * 10, i * 10 + 500, i * 10 + 500], 200, 0)).await;
    assert_eq!((status, answer["reach"].as_array().map(Vec::len)), (StatusCode::OK, Some(200)));
    // One within the other, as deep as a file can say.
    let (status, refused) = s.post("/api/water", None, sheets(150, |i| [i, i, 1000 - i, 1000 - i], 1, 0)).await;
    assert_eq!(status, StatusCode::OK, "{refused}");
    let (status, refused) =
        s.post("/api/water", None, sheets(1600, |i| [i % 400, i % 390, i % 400 + 590, i % 390 + 590], 1, 0)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused["detail"].as_str().is_some_and(|d| d.contains("ask about a part of it")), "{refused}");
}

#[tokio::test]
async fn a_wall_that_is_drawn_is_a_layup_that_is_answered() {
    let s = Server::start().await;
    let mut job = Job::new("high");
    (job.wall.width, job.wall.height) = (inch(6000), inch(480));
    job.wall.schools.insert("barrier".into(), "panel".into());
    let (status, made) = s.raw("/api/import", write_job(&job).into_bytes()).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let layup = s.get(&format!("/api/jobs/{}/layup", made["id"])).await.bytes().await.expect("a file");
    let (status, answer) = s.raw("/api/water", layup.to_vec()).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
}

#[tokio::test]
async fn a_spreadsheet_that_says_it_is_larger_than_it_is_is_refused() {
    let s = Server::start().await;
    let sheet = "<worksheet><sheetData><row><c r=\"XFD1048576\"><v>1</v></c></row></sheetData></worksheet>";
    let book = crate::packed(&[
        (
            "_rels/.rels",
            "<Relationships><Relationship Id=\"r1\" Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>",
        ),
        (
            "xl/workbook.xml",
            "<workbook xmlns:r=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships\"><sheets><sheet name=\"A\" sheetId=\"1\" r:id=\"r1\"/></sheets></workbook>",
        ),
        (
            "xl/_rels/workbook.xml.rels",
            "<Relationships><Relationship Id=\"r1\" Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet\" Target=\"worksheets/sheet1.xml\"/></Relationships>",
        ),
        ("xl/worksheets/sheet1.xml", sheet),
    ]);
    for path in ["/api/profile", "/api/jobs/2/kit", "/api/jobs/2/schedule"] {
        let (status, refused) = s.raw(path, book.clone()).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
        assert!(refused["detail"].as_str().is_some_and(|d| d.contains("more than 20000 rows")), "{path}: {refused}");
    }
}

#[tokio::test]
async fn connections_that_say_nothing_and_bodies_that_do_not_go_on_are_let_go() {
    let patience =
        Patience { headers: Duration::from_millis(200), body: Duration::from_millis(200), ..Patience::default() };
    let s = Server::serving(Serving { patience, ..Serving::default() }).await;
    let address = s.url.trim_start_matches("http://").to_owned();
    let mut rest = Vec::new();
    for said in ["", "GET / HTTP/1.1\r\nHost: local"] {
        let mut silent = TcpStream::connect(&address).await.expect("connected");
        silent.write_all(said.as_bytes()).await.expect("written");
        silent.read_to_end(&mut rest).await.expect("closed by the server");
    }
    let mut slow = TcpStream::connect(&address).await.expect("connected");
    let head = "POST /api/import HTTP/1.1\r\nHost: localhost\r\nContent-Length: 1000\r\n\r\n{\"for";
    slow.write_all(head.as_bytes()).await.expect("written");
    let mut answer = vec![0; 2000];
    let n = slow.read(&mut answer).await.expect("an answer");
    let answer = String::from_utf8_lossy(&answer[..n]).into_owned();
    assert!(answer.starts_with("HTTP/1.1 408"), "{answer}");
}

#[tokio::test]
async fn only_so_many_are_connected_at_once_and_the_next_is_served_when_one_leaves() {
    let patience = Patience { connections: 2, ..Patience::default() };
    let s = Server::serving(Serving { patience, ..Serving::default() }).await;
    let address = s.url.trim_start_matches("http://").to_owned();
    let first = TcpStream::connect(&address).await.expect("connected");
    let second = TcpStream::connect(&address).await.expect("connected");
    let third = tokio::spawn(reqwest::get(format!("{}/api/jobs", s.url)));
    drop(first);
    let answer = third.await.expect("it ran").expect("an answer");
    assert_eq!(answer.status(), StatusCode::OK);
    drop(second);
}

#[tokio::test]
async fn who_is_reached_by_another_name_or_asked_by_another_site_says_nothing() {
    let hosts = vec!["Site-Office".to_owned()];
    let s = Server::serving(Serving { hosts, ..Serving::default() }).await;
    let ask = |host: &str| s.http.get(format!("{}/api/jobs", s.url)).header("Host", host).send();
    for known in ["localhost", "LOCALHOST:4600", "127.0.0.1", "[::1]:4600", "site-office", "SITE-OFFICE:80"] {
        assert_eq!(ask(known).await.expect("an answer").status(), StatusCode::OK, "{known}");
    }
    for unknown in ["evil.example", "localhost.evil.example", "127.0.0.1.evil.example", "192.168.1.9", ""] {
        assert_eq!(ask(unknown).await.expect("an answer").status(), StatusCode::FORBIDDEN, "{unknown}");
    }
    let from = |site: &str, path: &str| s.http.get(format!("{}{path}", s.url)).header("Sec-Fetch-Site", site).send();
    for heavy in ["/api/jobs/4/nights", "/api/jobs/4/truck/order.xlsx", "/api/jobs"] {
        assert_eq!(from("cross-site", heavy).await.expect("an answer").status(), StatusCode::FORBIDDEN, "{heavy}");
        assert_eq!(from("same-site", heavy).await.expect("an answer").status(), StatusCode::FORBIDDEN, "{heavy}");
    }
    assert_eq!(from("same-origin", "/api/jobs").await.expect("an answer").status(), StatusCode::OK);
    assert_eq!(from("none", "/api/jobs").await.expect("an answer").status(), StatusCode::OK);
    let head = s.http.head(&s.url).send().await.expect("an answer");
    assert_eq!((head.status(), head.headers()["content-type"].to_str().ok()), (StatusCode::OK, Some("text/html")));
    assert!(head.bytes().await.expect("a body").is_empty());
}

#[tokio::test]
async fn while_another_process_holds_the_database_reading_goes_on_and_writing_is_told_to_come_again() {
    let s = Server::start().await;
    let other = rusqlite::Connection::open(s.data.path().join("kame.db")).expect("opens");
    other.execute_batch("BEGIN IMMEDIATE; UPDATE job SET name = name").expect("held");
    assert_eq!(s.get("/api/jobs/1").await.status(), StatusCode::OK);
    let rename = json!({"edit": "rename", "name": "held"});
    let sent = s.http.post(format!("{}/api/jobs/1/edits", s.url)).header("If-Match", "\"1\"").json(&rename).send();
    let (busy, list) = tokio::join!(sent, s.json("/api/jobs"));
    let busy = busy.expect("an answer");
    assert_eq!(list.as_array().map(Vec::len), Some(crate::DEMO_JOBS));
    assert_eq!((busy.status(), busy.headers().get("Retry-After").is_some()), (StatusCode::SERVICE_UNAVAILABLE, true));
    other.execute_batch("ROLLBACK").expect("let go");
    assert_eq!(s.post("/api/jobs/1/edits", Some(1), rename).await.0, StatusCode::OK);
}

#[tokio::test]
async fn long_work_that_nobody_waits_for_ends_and_where_too_much_is_asked_the_next_is_told_when_to_come() {
    let s = Server::start().await;
    // Some seconds of work each.
    let work = sheets(150, |i| [i * 3, i * 3, i * 3 + 500, i * 3 + 500], 400, 0);
    let send = || s.http.post(format!("{}/api/water", s.url)).json(&work).send();
    let mut waiting: Vec<_> = (0..60).map(|_| tokio::spawn(send())).collect();
    // Somebody is told that it is full, with when to come again, while small requests are answered.
    let full = loop {
        let (done, _, rest) = futures_util::future::select_all(waiting).await;
        waiting = rest;
        let answer: Response = done.expect("it ran").expect("an answer");
        if answer.status() == StatusCode::SERVICE_UNAVAILABLE {
            break answer;
        }
    };
    assert!(full.headers().contains_key("Retry-After"));
    assert_eq!(s.get("/api/jobs/2").await.status(), StatusCode::OK);
    // Everybody hangs up; there is room again although nobody's work was finished.
    waiting.iter().for_each(tokio::task::JoinHandle::abort);
    let small = || s.post("/api/water", None, sheets(1, |_| [0, 0, 1000, 1000], 1, 0));
    while small().await.0 != StatusCode::OK {
        tokio::task::yield_now().await;
    }
}

#[tokio::test]
async fn an_edit_whose_answer_takes_too_long_is_not_kept() {
    let s = Server::serving(Serving { longest: Some(Duration::ZERO), ..Serving::default() }).await;
    let before = s.json("/api/jobs").await;
    let (status, said) = s.post("/api/jobs/4/edits", Some(1), json!({"edit": "rename", "name": "too late"})).await;
    assert_eq!(status, StatusCode::SERVICE_UNAVAILABLE, "{said}");
    assert!(said["type"].as_str().is_some_and(|t| t.ends_with("too-long")), "{said}");
    assert_eq!(s.json("/api/jobs").await, before);
}

#[tokio::test]
async fn a_name_with_what_xml_cannot_hold_still_makes_a_drawing_that_parses() {
    let s = Server::start().await;
    let rename = json!({"edit": "rename", "name": "a\u{FFFF}b<&"});
    assert_eq!(s.post("/api/jobs/2/edits", Some(1), rename).await.0, StatusCode::OK);
    let svg = s.get("/api/jobs/2/drawings/elevation.svg").await.text().await.expect("text");
    assert!(svg.contains("<title>ab&lt;&amp;</title>") && !svg.contains('\u{FFFF}'));
}
