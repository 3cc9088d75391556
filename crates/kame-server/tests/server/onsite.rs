//! On the wall through a real listener: measured, asked, photographed, tested, looked at; the record out and in again; instruments and their faults.

use crate::api::Server;
use kame_server::Serving;
use kame_store::hash_of;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use std::io::{Cursor, Read, Write};
use std::process::Command;
use zip::{ZipArchive, ZipWriter, write::SimpleFileOptions};

/// The demo's job that is half built.
const HALF: &str = "/api/jobs/3";

fn event(n: u64, step: &str, what: Value) -> Value {
    json!({
        "id": format!("01936f00-0000-7000-8000-{n:012x}"), "who": "Cy", "at": "2026-11-29T07:05:00Z", "place": "D1", "step": step,
        "revision": 1, "what": what, "note": "as it is"
    })
}

/// A picture that Kame has drawn: the demo has some.
async fn photo(s: &Server) -> Vec<u8> {
    let record = s.json(&format!("{HALF}/record")).await;
    let all = record.as_array().expect("entries");
    let hash = all.iter().find_map(|e| e["event"]["photos"][0].as_str()).expect("a photograph");
    s.get(&format!("{HALF}/photos/{hash}")).await.bytes().await.expect("bytes").to_vec()
}

#[tokio::test]
async fn the_demo_is_half_built_by_two_people_with_photographs_a_failed_check_and_a_damaged_unit() {
    let s = Server::start().await;
    let whole = s.json(&format!("{HALF}/record/verify")).await;
    assert!(whole["broken"].is_null() && whole["entries"].as_u64().is_some_and(|n| n > 150), "{whole}");
    let lines = s.json(&format!("{HALF}/record/lines")).await;
    let lines = lines.as_array().expect("lines");
    let has = |test: &dyn Fn(&Value) -> bool| lines.iter().any(test);
    assert!(has(&|l| l["who"] == "Ada Quill") && has(&|l| l["who"] == "Bo Marsh"));
    assert!(has(&|l| l["what"].as_str().is_some_and(|w| w.starts_with("not so: glass, frame and flange are whole"))));
    assert!(has(&|l| l["what"].as_str().is_some_and(|w| w.starts_with("test: 1.9 of 2 l came out"))));
    assert!(has(&|l| !l["photos"].as_array().expect("photos").is_empty()));
    let stands = s.json(&format!("{HALF}/stands")).await;
    let steps = stands["steps"].as_array().expect("steps");
    let failed = |id: &str| steps.iter().any(|x| x["step"] == id && x["now"] == "failed");
    assert!(failed("W2/jambs") && failed("W3/dry-fit"));
    assert!(steps.iter().any(|x| x["differ"].as_array().is_some_and(|d| d.len() == 1)), "two do not agree");
    assert!(steps.iter().any(|x| x["now"] == "open"), "half built");
}

#[tokio::test]
async fn photographs_are_kept_before_they_are_named_and_what_is_none_is_refused_with_a_sentence() {
    let s = Server::start().await;
    let picture = photo(&s).await;
    let put = async |hash: &str, bytes: Vec<u8>| {
        let sent = s.http.request(Method::PUT, format!("{}/api/jobs/1/photos/{hash}", s.url)).body(bytes).send().await;
        let r = sent.expect("an answer");
        (r.status(), r.json::<Value>().await.unwrap_or_default()["detail"].as_str().unwrap_or_default().to_owned())
    };
    let words = b"only words, no picture".to_vec();
    let (status, says) = put(&hash_of(&words), words).await;
    assert_eq!(
        (status, says.contains("expected a JPEG, PNG or WebP")),
        (StatusCode::UNPROCESSABLE_ENTITY, true),
        "{says}"
    );
    let (status, says) = put(&hash_of(b"other"), picture.clone()).await;
    assert_eq!((status, says.contains("changed or cut off")), (StatusCode::UNPROCESSABLE_ENTITY, true), "{says}");
    let (status, says) = put(&"a".repeat(64), vec![0xff; 80 << 20]).await;
    assert_eq!((status, says.contains("larger than 8 MB")), (StatusCode::PAYLOAD_TOO_LARGE, true), "{says}");
    let (status, says) = put("..%2F..%2Fkame.db", picture.clone()).await;
    assert_eq!((status, says.contains("64 hexadecimal digits")), (StatusCode::UNPROCESSABLE_ENTITY, true), "{says}");
    // Named before it is there it is refused; after it, taken.
    let mut other = picture.clone();
    other.extend(b"one more byte");
    let hash = hash_of(&other);
    let mut named = event(1, "D1/survey", json!({"is": "noted"}));
    named["photos"] = json!([hash]);
    let (status, refused) = s.post("/api/jobs/1/record", None, json!({ "events": [named] })).await;
    assert_eq!(
        (status, &refused["problems"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("$.events[0].photos"))
    );
    assert_eq!(put(&hash, other.clone()).await.0, StatusCode::NO_CONTENT);
    assert_eq!(s.post("/api/jobs/1/record", None, json!({ "events": [named] })).await.0, StatusCode::OK);
    let back = s.get(&format!("/api/jobs/1/photos/{hash}")).await;
    assert_eq!(back.headers()["content-type"], "image/jpeg");
    assert_eq!(back.bytes().await.expect("bytes"), other);
    assert_eq!(s.get(&format!("/api/jobs/1/photos/{}", "0".repeat(64))).await.status(), StatusCode::NOT_FOUND);
}

/// An archive with one part of it other than it was; left out where nothing is given for it.
fn with_part(archive: &[u8], name: &str, other: Option<&[u8]>) -> Vec<u8> {
    let mut old = ZipArchive::new(Cursor::new(archive)).expect("an archive");
    let mut new = ZipWriter::new(Cursor::new(Vec::new()));
    for i in 0..old.len() {
        let mut file = old.by_index(i).expect("a part");
        let mut bytes = Vec::new();
        let called = file.name().expect("a name").into_owned();
        file.read_to_end(&mut bytes).expect("reads");
        let here = called == name;
        if here && other.is_none() {
            continue;
        }
        new.start_file(called, SimpleFileOptions::default()).expect("begins");
        new.write_all(other.filter(|_| here).unwrap_or(&bytes)).expect("writes");
    }
    new.finish().expect("ends").into_inner()
}

fn part(archive: &[u8], name: &str) -> Vec<u8> {
    let mut zip = ZipArchive::new(Cursor::new(archive)).expect("an archive");
    let mut out = Vec::new();
    zip.by_name(name).expect("a part").read_to_end(&mut out).expect("reads");
    out
}

fn verified(path: &std::path::Path) -> (Option<i32>, String) {
    let run = Command::new(env!("CARGO_BIN_EXE_kame")).args(["record", "verify"]).arg(path).output().expect("runs");
    (run.status.code(), String::from_utf8_lossy(&run.stdout).into_owned() + &String::from_utf8_lossy(&run.stderr))
}

#[tokio::test]
async fn the_archive_says_by_itself_whether_it_is_whole_and_comes_in_again_elsewhere() {
    let s = Server::start().await;
    let archive = s.get(&format!("{HALF}/record.zip")).await.bytes().await.expect("bytes").to_vec();
    let names: Vec<String> = ZipArchive::new(Cursor::new(&archive))
        .expect("an archive")
        .file_names()
        .map(|n| n.expect("a name").into_owned())
        .collect();
    let picture = names.iter().find(|n| n.starts_with("photos/")).expect("photographs").clone();
    for name in ["record.jsonl", "record.csv", "record.pdf", "job.kame.json", "kame-record.schema.json", "READ ME.txt"]
    {
        assert!(names.iter().any(|n| n == name), "{name}");
    }
    let folder = tempfile::TempDir::new().expect("a folder");
    let file = folder.path().join("record.zip");
    let said = |bytes: &[u8]| {
        std::fs::write(&file, bytes).expect("writes");
        verified(&file)
    };
    let (code, says) = said(&archive);
    assert!(code == Some(0) && says.starts_with("whole: "), "{says}");
    let chain = String::from_utf8(part(&archive, "record.jsonl")).expect("text");
    let mut lines: Vec<&str> = chain.lines().collect();
    let changed = chain.replacen("Bo Marsh", "Bo Marsx", 1);
    let cut = lines[..lines.len() - 1].join("\n");
    lines.swap(4, 5);
    let swapped = lines.join("\n");
    let table = String::from_utf8(part(&archive, "record.csv")).expect("text").replacen("Ada Quill", "Bo Marsh", 1);
    let mut drawn = part(&archive, &picture);
    *drawn.last_mut().expect("bytes") ^= 1;
    for (name, other, why) in [
        ("record.jsonl", Some(changed.as_bytes()), "something in it was changed"),
        ("record.jsonl", Some(swapped.as_bytes()), "one was taken out, put in or moved"),
        ("record.jsonl", Some(cut.as_bytes()), "stands in record.csv alone"),
        ("record.csv", Some(table.as_bytes()), "stands otherwise in record.csv"),
        (picture.as_str(), Some(&drawn[..]), "was changed"),
        (picture.as_str(), None, "is not there"),
    ] {
        let forged = with_part(&archive, name, other);
        let (code, says) = said(&forged);
        assert!(code == Some(1) && says.contains(why), "{name}: {says}");
        let (status, refused) = s.raw("/api/records", forged).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(refused["detail"].as_str().is_some_and(|d| d.contains("only what is whole is taken")), "{refused}");
    }
    for (name, other, why) in [
        ("record.jsonl", Some(&b"{"[..]), "line 1"),
        ("record.jsonl", None, "found no record.jsonl"),
        ("job.kame.json", None, "found no job.kame.json"),
    ] {
        let (code, says) = said(&with_part(&archive, name, other));
        assert!(code == Some(2) && says.contains(why), "{name}: {says}");
    }
    // A part that is small packed and vast unpacked is not read.
    let (code, says) = said(&with_part(&archive, "record.csv", Some(&vec![b'0'; 80 << 20])));
    assert!(code == Some(2) && says.contains("unpacks to more than 64 MB"), "{says}");
    // Unpacked to a folder it says the same.
    let unpacked = folder.path().join("unpacked");
    ZipArchive::new(Cursor::new(&archive)).expect("an archive").extract(&unpacked).expect("unpacks");
    assert_eq!(verified(&unpacked).0, Some(0));
    std::fs::write(unpacked.join(&picture), b"another").expect("writes");
    assert!(verified(&unpacked).1.contains("was changed"));
    // In again in a Kame that never saw it.
    let elsewhere = Server::start().await;
    let (status, made) = elsewhere.raw("/api/records", archive.clone()).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let at = format!("/api/jobs/{}", made["id"]);
    assert_eq!(elsewhere.json(&format!("{at}/record")).await, s.json(&format!("{HALF}/record")).await);
    assert!(elsewhere.json(&format!("{at}/record/verify")).await["broken"].is_null());
    let (status, refused) = elsewhere.raw("/api/records", b"no archive".to_vec()).await;
    assert!(
        status == StatusCode::UNPROCESSABLE_ENTITY && refused["detail"].as_str().is_some_and(|d| d.contains("no ZIP")),
        "{refused}"
    );
}

#[tokio::test]
async fn the_record_its_table_damage_handover_and_labels_leave_as_papers() {
    let s = Server::start().await;
    for path in [
        "record.pdf",
        "record.pdf?opening=W1",
        "damage.pdf?opening=W3",
        "handover.pdf",
        "place-labels.pdf",
        "place-labels.pdf?base=https://kame.example",
    ] {
        let r = s.get(&format!("{HALF}/{path}")).await;
        assert_eq!(
            (r.status(), &r.headers()["content-type"]),
            (StatusCode::OK, &"application/pdf".parse().expect("a header")),
            "{path}"
        );
        let bytes = r.bytes().await.expect("bytes");
        assert!(bytes.starts_with(b"%PDF") && bytes.len() > 1500, "{path}");
    }
    // A record of nothing is a paper that says so.
    assert_eq!(s.get("/api/jobs/1/record.pdf").await.status(), StatusCode::OK);
    let table = s.get(&format!("{HALF}/record.csv")).await.text().await.expect("text");
    let entries = s.json(&format!("{HALF}/record/verify")).await["entries"].as_u64().expect("a number");
    assert_eq!(table.lines().count() as u64, entries + 1);
    for (path, why) in [
        ("damage.pdf?opening=X9", "there is no opening"),
        ("place-labels.pdf?base=javascript:1", "expected an address"),
    ] {
        let r = s.get(&format!("{HALF}/{path}")).await;
        assert_eq!(r.status(), StatusCode::UNPROCESSABLE_ENTITY);
        assert!(r.text().await.expect("text").contains(why), "{path}");
    }
    let handed = s.json(&format!("{HALF}/handover")).await;
    let all = handed.as_array().expect("lines");
    assert!(
        all.iter().all(|l| l["from"] != l["to"])
            && all.iter().any(|l| l["ready"] == true)
            && all.iter().any(|l| l["ready"] == false)
    );
}

#[tokio::test]
async fn what_is_asked_at_the_wall_is_answered_and_what_cannot_be_is_refused() {
    let s = Server::start().await;
    let checks = s.json("/api/jobs/2/checks?opening=W1").await;
    let id = |name: &str| {
        checks.as_array().expect("checks").iter().find(|c| c["check"] == name).expect("a check")["id"]
            .as_str()
            .expect("an id")
            .to_owned()
    };
    let ask = json!({"opening": "W1", "readings": {id("opening-width"): [41.0, 41.0, 40.0]}});
    let (status, fit) = s.post("/api/jobs/2/fit", None, ask).await;
    assert_eq!((status, &fit["fits"]), (StatusCode::OK, &json!("move")), "{fit}");
    assert!(fit["says"][0].as_str().is_some_and(|t| t.contains("trim the right jamb at the bottom by 1/2\"")), "{fit}");
    assert!(fit["shims"].as_array().is_some_and(|x| x.len() >= 6));
    let refused = async |path: &str, body: Value, why: &str| {
        let (status, said) = s.post(path, None, body).await;
        let detail = said["detail"].as_str().unwrap_or_default().to_owned();
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && detail.contains(why), "{path}: {said}");
    };
    refused("/api/jobs/2/fit", json!({"opening": "X9", "readings": {}}), "there is no opening").await;
    refused("/api/jobs/2/fit", json!({"opening": "W1", "readings": {"a": vec![1.0; 25]}}), "expected at most").await;
    let go = async |step: &str, now: Value| s.post("/api/jobs/2/go", None, json!({"step": step, "now": now})).await.1;
    assert_eq!(go("W1/jambs", json!({"surface_f": 60})).await["go"], "go");
    assert_eq!(go("W1/jambs", json!({"surface_f": 60, "frost": true})).await["go"], "prepare");
    assert_eq!(go("W1/survey", json!({})).await, Value::Null);
    refused("/api/jobs/2/go", json!({"step": "W1/jambs", "now": {"surface_f": 900}}), "temperature").await;
    refused("/api/jobs/2/go", json!({"step": "W1/jambs", "now": {"humidity": -1}}), "humidity").await;
    let (_, test) = s.post("/api/jobs/2/test", None, json!({"test": "drainage", "rows": [["2", "1.9", "5"]]})).await;
    assert_eq!((&test["seen"]["good"], test["predicted"]["heads"].is_array()), (&json!(true), true), "{test}");
    // Where water was seen is held against where it should come out; nothing is built here yet.
    let spots = |x: &str| json!({"test": "drainage", "rows": [["2", "1.9", "5"]], "place": "W1", "seen": [{"did": "out", "x": x, "y": "0"}]});
    let (_, test) = s.post("/api/jobs/2/test", None, spots("9")).await;
    assert!(test["spots"][0]["says"].as_str().is_some_and(|t| t.starts_with("Water came out")), "{test}");
    refused("/api/jobs/2/test", spots("a foot"), "expected a decimal number").await;
    let picture = s.json("/api/jobs/3/expected?opening=W1").await;
    assert!(picture["outs"].is_array() && picture["frame"][2].as_f64().is_some_and(|w| w > 20.0), "{picture}");
    assert!(picture["elevation"]["shapes"].as_array().is_some_and(|x| !x.is_empty() && x.len() < 60));
    assert_eq!(s.get("/api/jobs/3/expected?opening=X9").await.status(), StatusCode::UNPROCESSABLE_ENTITY);
    // Moisture is held against what was read there before.
    let read = json!({"test": "moisture", "rows": [["22"]], "place": "W1", "at": "2026-11-29T07:05:00Z"});
    let (_, test) = s.post("/api/jobs/2/test", None, read).await;
    assert_eq!(
        (&test["seen"]["good"], test["drying"]["reads"].as_array().map(Vec::len)),
        (&json!(false), Some(1)),
        "{test}"
    );
    let odd = json!({"test": "moisture", "rows": [["22"]], "place": "W1", "at": "yesterday"});
    refused("/api/jobs/2/test", odd, "expected a time in UTC").await;
    refused("/api/jobs/2/test", json!({"test": "air", "rows": [["12000"], ["50", "400"]]}), "expected 6 to 60").await;
    // What is different is held against what was planned; nothing is written down by asking.
    let left_out = event(1, "W1/jambs", json!({"is": "left_out"}));
    let (_, holds) = s.post("/api/jobs/2/holds", None, json!({ "events": [left_out] })).await;
    assert!(
        holds["holds"] == false && holds["says"].as_str().is_some_and(|t| t.starts_with("It does not hold.")),
        "{holds}"
    );
    let wide = json!({"change": {"edit": "set_opening", "id": "W1", "width": "41 1/4 in"}});
    let (_, holds) = s.post("/api/jobs/2/holds", None, wide).await;
    assert!(holds["holds"] == true && holds["new"].as_array().is_some_and(Vec::is_empty), "{holds}");
    refused("/api/jobs/2/holds", json!({"events": [event(1, "W1/jambs", json!({"is": "noted"})), {"id": "x", "who": "", "at": "", "revision": 1, "what": {"is": "done"}}]}), "UUID").await;
    assert_eq!(s.json("/api/jobs/2/record").await, json!([]));
    // The walk round of what is built: what is bad is to be mended, what is not there yet is not looked at.
    let walk = s.json(&format!("{HALF}/walk")).await;
    let points = walk.as_array().expect("points");
    assert!(points.iter().any(|p| p["now"] == "mend" && p["step"] == "W2/jambs"));
    assert!(points.iter().filter(|p| p["seen"] == "not-yet").all(|p| p["now"] == "open"));
}

#[tokio::test]
async fn instruments_are_read_and_each_fault_is_one_clear_sentence() {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.expect("a port");
    let bench = format!("http://{}", listener.local_addr().expect("an address"));
    let serving = tokio::spawn(async move { axum::serve(listener, kame_devices::router()).await });
    let s = Server::serving(Serving { instruments: Some(bench.clone()), ..Serving::default() }).await;
    assert_eq!(s.json("/api/instruments").await.as_array().map(Vec::len), Some(7));
    let order = async |fault: &str| {
        let sent = s.http.put(format!("{bench}/instruments/ST-2/fault")).json(&json!({ "fault": fault })).send().await;
        assert!(sent.expect("an answer").status().is_success());
    };
    let read = async || s.post("/api/instruments/ST-2/reading?quantity=temperature", None, json!({})).await;
    let (status, right) = read().await;
    assert_eq!(
        (status, &right["refused"], &right["doubt"], &right["unit"]),
        (StatusCode::OK, &json!(false), &json!(""), &json!("°F")),
        "{right}"
    );
    for (fault, refused, why) in [
        ("wrong-unit", true, "°F is wanted"),
        ("out-of-range", true, "which cannot be"),
        ("drifting", false, "does not stand still"),
        ("out-of-calibration", false, "was last calibrated 2021-06-14"),
    ] {
        order(fault).await;
        let (_, said) = read().await;
        assert!(
            said["refused"] == refused && said["doubt"].as_str().is_some_and(|d| d.contains(why)),
            "{fault}: {said}"
        );
    }
    order("silent").await;
    let (status, said) = read().await;
    assert!(
        status == StatusCode::SERVICE_UNAVAILABLE
            && said["detail"].as_str().is_some_and(|d| d.contains("does not answer")),
        "{said}"
    );
    assert_eq!(
        s.post("/api/instruments/nobody/reading?quantity=slope", None, json!({})).await.0,
        StatusCode::NOT_FOUND
    );
    // Gone altogether nothing is offered, and readings are typed.
    serving.abort();
    serving.await.ok();
    assert_eq!(s.json("/api/instruments").await, json!([]));
}

#[tokio::test]
async fn the_work_is_laid_on_a_calendar_with_crews_deliveries_and_weather() {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.expect("a port");
    let bench = format!("http://{}", listener.local_addr().expect("an address"));
    tokio::spawn(async move { axum::serve(listener, kame_devices::router()).await });
    let s = Server::serving(Serving { instruments: Some(bench), ..Serving::default() }).await;
    let (status, first) = s.post(&format!("{HALF}/calendar"), None, json!({})).await;
    assert_eq!(status, StatusCode::OK, "{first}");
    assert_eq!(first["hours"].as_array().map(Vec::len), Some(60 * 24));
    assert!(first["weather"].as_str().is_some_and(|w| w.starts_with("forecast of ")));
    let tasks = first["booking"]["tasks"].as_array().expect("tasks");
    assert!(
        !tasks.is_empty() && tasks.iter().all(|t| t["place"] != "W3" && t["step"] != "W1/survey"),
        "what is done or waits is not laid"
    );
    assert!(first["booking"]["warns"][0].as_str().is_some_and(|w| w.starts_with("W3 waits for another unit")));
    for (path, kind, begins) in [
        ("calendar.ics?crew=1", "text/calendar; charset=utf-8", "BEGIN:VCALENDAR"),
        ("calendar/calendar.csv", "text/csv; charset=utf-8", "day,from,to,crew"),
        ("calendar/calendar.xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "PK"),
        ("calendar/weeks.pdf?crew=0", "application/pdf", "%PDF"),
    ] {
        let r = s.get(&format!("{HALF}/{path}")).await;
        assert_eq!(r.headers()["content-type"], kind);
        assert!(r.text().await.expect("text").starts_with(begins), "{path}");
    }
    assert_eq!(s.get(&format!("{HALF}/calendar.ics?crew=7")).await.status(), StatusCode::UNPROCESSABLE_ENTITY);
    // The wall hour by hour: before anything is booked what is on record stands, at the end all but what waits.
    let at = async |minute: u64, rain: bool| {
        let (status, view) =
            s.post(&format!("{HALF}/calendar/hour"), None, json!({"minute": minute, "rain": rain})).await;
        assert_eq!(status, StatusCode::OK, "{view}");
        view
    };
    let end = first["booking"]["proof"]["finish"].as_u64().expect("a minute");
    let built = s.json(&format!("{HALF}?built=true")).await;
    let (begun, half, over) = (at(0, false).await, at(end / 2, true).await, at(end, false).await);
    assert_eq!(begun["done"], built["view"]["done"], "as it is built");
    assert_eq!(begun["elevation"]["shapes"], built["view"]["elevation"]["shapes"]);
    assert!(half["done"].as_u64() > begun["done"].as_u64() && over["done"].as_u64() > half["done"].as_u64());
    assert!(over["done"].as_u64() < over["total"].as_u64(), "W3 waits for another unit");
    let (status, refused) = s.post(&format!("{HALF}/calendar/hour"), None, json!({"minute": -1})).await;
    assert!(status.is_client_error() && refused["detail"].is_string(), "{refused}");
    // Without weather nothing waits for it; with a file that is none it is said.
    let plain = Server::start().await;
    let (_, bare) = plain.post("/api/jobs/2/calendar", None, json!({})).await;
    assert!(bare["hours"].as_array().is_some_and(Vec::is_empty) && bare["booking"]["proof"]["best"] == true, "{bare}");
    let (status, refused) = plain.post("/api/jobs/2/calendar", None, json!({"weather": "time\n1"})).await;
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && refused["problems"][0]["path"] == "$.weather", "{refused}");
    // Crews are kept with the job, and undone with it.
    let site = json!({"from": "2026-03-02", "crews": [{"name": "A", "trades": ["lead", "barrier", "window", "cladding"], "people": 1, "hours": [8, 12]}], "stands": {"latitude": 45, "longitude": -120, "utc_hours": -8, "facing": 0}});
    let (status, kept) = plain.post("/api/jobs/2/edits", Some(1), json!({"edit": "set_site", "site": site})).await;
    assert_eq!((status, &kept["state"]["undo"]), (StatusCode::OK, &json!("crews and days")), "{kept}");
    let (_, slow) = plain.post("/api/jobs/2/calendar", None, json!({})).await;
    assert_eq!(slow["site"]["from"], "2026-03-02");
    let mut more = site.clone();
    (more["crews"][0]["people"], more["crews"][0]["hours"]) = (json!(3), json!([7, 16]));
    let (_, fast) = plain.post("/api/jobs/2/calendar", None, json!({ "site": more })).await;
    assert!(slow["booking"]["proof"]["finish"].as_u64() > fast["booking"]["proof"]["finish"].as_u64());
    // Another way to build it is tried and not kept: the top taped to the soffit is a step more.
    let another = |choice: &str| json!({"change": {"edit": "set_school", "question": "top", "choice": choice}});
    let (status, taped) = plain.post("/api/jobs/2/calendar", None, another("soffit-taped")).await;
    let steps = |v: &Value| -> std::collections::BTreeSet<String> {
        v["booking"]["tasks"]
            .as_array()
            .expect("tasks")
            .iter()
            .map(|t| t["step"].as_str().expect("a step").to_owned())
            .collect()
    };
    assert_eq!(status, StatusCode::OK, "{taped}");
    assert_eq!(steps(&taped).difference(&steps(&slow)).collect::<Vec<_>>(), ["wall/top-tape"]);
    assert!(taped["booking"]["proof"]["finish"].as_u64() > slow["booking"]["proof"]["finish"].as_u64());
    assert_eq!(plain.json("/api/jobs/2").await["state"]["revision"], 2);
    let (status, refused) = plain.post("/api/jobs/2/calendar", None, another("straw")).await;
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && refused["detail"].is_string(), "{refused}");
    let mut wrong = site.clone();
    wrong["crews"][0]["hours"] = json!([8, 8]);
    let (status, refused) = plain.post("/api/jobs/2/edits", Some(2), json!({"edit": "set_site", "site": wrong})).await;
    assert!(
        status == StatusCode::UNPROCESSABLE_ENTITY
            && refused["detail"].as_str().is_some_and(|d| d.contains("an hour at least")),
        "{refused}"
    );
}

#[test]
fn days_are_laid_from_a_script_and_instances_are_solved() {
    let run = |args: &[&str]| {
        let out = Command::new(env!("CARGO_BIN_EXE_kame")).arg("days").args(args).output().expect("runs");
        (out.status.code(), String::from_utf8(out.stdout).expect("text"), String::from_utf8(out.stderr).expect("text"))
    };
    let job = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/heron-spit-four-openings.kame.json");
    let (code, words, _) = run(&[job]);
    assert!(code == Some(0) && words.contains("Comes on Tue 24 Mar"), "{words}");
    let (_, text, _) = run(&[job, "--json"]);
    let booking: Value = serde_json::from_str(&text).expect("JSON");
    assert_eq!(booking["crews"], json!(["Ada and Bo", "Window crew"]));
    // The same as plain numbers, solved as such.
    let folder = tempfile::TempDir::new().expect("a folder");
    let file = folder.path().join("days.json");
    let (_, instance, _) = run(&[job, "--as-instance"]);
    std::fs::write(&file, &instance).expect("writes");
    let path = file.to_str().expect("a path");
    let (code, solved, _) = run(&["--instance", path]);
    let solved: Value = serde_json::from_str(&solved).expect("JSON");
    assert_eq!((code, &solved["proof"]["finish"]), (Some(0), &booking["proof"]["finish"]));
    std::fs::write(&file, instance.replace("\"minutes\":", "\"minute\":")).expect("writes");
    let (code, _, says) = run(&["--instance", path]);
    assert!(code == Some(2) && says.contains("minute"), "{says}");
    let weather = folder.path().join("weather.csv");
    std::fs::write(&weather, "time,air_f\n").expect("writes");
    let (code, _, says) = run(&[job, "--weather", weather.to_str().expect("a path")]);
    assert!(code == Some(2) && says.contains("found no column \"dew_f\""), "{says}");
}

#[test]
fn kame_devices_serves_the_instruments_that_stand_beside_it() {
    let mut child = Command::new(env!("CARGO_BIN_EXE_kame"))
        .args(["devices", "--addr", "127.0.0.1:0"])
        .stdout(std::process::Stdio::piped())
        .spawn()
        .expect("starts");
    let mut line = String::new();
    let mut out = std::io::BufReader::new(child.stdout.take().expect("what it says"));
    std::io::BufRead::read_line(&mut out, &mut line).expect("a line");
    child.kill().expect("ends");
    child.wait().expect("ended");
    assert!(line.starts_with("Instruments are at http://127.0.0.1:"), "{line}");
}
