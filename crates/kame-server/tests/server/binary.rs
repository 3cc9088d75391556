//! The program as it is started: address, data folder, a hard end, a polite end.

use serde_json::{Value, json};
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use tempfile::TempDir;

pub struct Running {
    pub child: Child,
    pub url: String,
}

pub fn start(command: &str, data: &Path) -> Running {
    let mut child = Command::new(env!("CARGO_BIN_EXE_kame"))
        .arg(command)
        .env("KAME_ADDR", "127.0.0.1:0")
        .env("KAME_DATA", data)
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .expect("kame starts");
    let mut line = String::new();
    BufReader::new(child.stdout.take().expect("a pipe")).read_line(&mut line).expect("a line");
    let url = line.trim().strip_prefix("Kame is open at ").unwrap_or_else(|| panic!("{line}")).to_owned();
    Running { child, url }
}

pub async fn get(url: &str) -> Value {
    reqwest::get(url).await.expect("an answer").json().await.expect("JSON")
}

#[tokio::test]
async fn what_was_acknowledged_survives_a_hard_end() {
    let data = TempDir::new().expect("a folder");
    let mut first = start("demo", data.path());
    let edit = reqwest::Client::new()
        .post(format!("{}/api/jobs/2/edits", first.url))
        .header("If-Match", "\"1\"")
        .json(&json!({"edit": "set_opening", "id": "W1", "width": "44"}))
        .send()
        .await
        .expect("an answer");
    assert!(edit.status().is_success());
    first.child.kill().expect("killed");
    first.child.wait().expect("ended");

    let mut second = start("demo", data.path());
    let jobs = get(&format!("{}/api/jobs", second.url)).await;
    assert_eq!(jobs.as_array().map(Vec::len), Some(crate::DEMO_JOBS), "the demo is loaded once");
    let job = get(&format!("{}/api/jobs/2", second.url)).await;
    assert_eq!(
        (job["state"]["revision"].as_i64(), job["state"]["job"]["openings"][0]["width"].as_str()),
        (Some(2), Some("44 in"))
    );

    let asked = Command::new("kill").arg(second.child.id().to_string()).status().expect("kill runs");
    assert!(asked.success());
    assert!(second.child.wait().expect("ended").success(), "asked politely, it ends well");
}

#[tokio::test]
async fn serve_starts_empty() {
    let data = TempDir::new().expect("a folder");
    let mut kame = start("serve", &data.path().join("not/yet/there"));
    assert_eq!(get(&format!("{}/api/jobs", kame.url)).await, json!([]));
    kame.child.kill().expect("killed");
    kame.child.wait().expect("ended");
}

#[test]
fn an_address_that_is_taken_is_said_plainly() {
    let data = TempDir::new().expect("a folder");
    let taken = std::net::TcpListener::bind("127.0.0.1:0").expect("a port");
    let out = Command::new(env!("CARGO_BIN_EXE_kame"))
        .args(["serve", "--addr", &taken.local_addr().expect("an address").to_string(), "--data"])
        .arg(data.path())
        .output()
        .expect("kame runs");
    assert_eq!(out.status.code(), Some(1));
    let told = String::from_utf8_lossy(&out.stderr);
    assert!(told.contains("cannot listen on") && told.contains("KAME_ADDR"), "{told}");
}

#[tokio::test]
async fn beyond_this_machine_people_sign_in_and_the_first_comes_by_the_printed_code() {
    let data = TempDir::new().expect("a folder");
    let mut child = Command::new(env!("CARGO_BIN_EXE_kame"))
        .args(["serve", "--addr", "0.0.0.0:0", "--plain-http", "--data"])
        .arg(data.path())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .expect("kame starts");
    let mut lines = BufReader::new(child.stdout.take().expect("a pipe")).lines();
    let mut line = || lines.next().expect("a line").expect("text");
    let port = line().rsplit(':').next().expect("a port").to_owned();
    let said = line();
    let code = said.rsplit(' ').next().expect("a code").to_owned();
    assert!(said.contains("Nobody has come yet") && code.len() == 32, "{said}");
    let url = format!("http://127.0.0.1:{port}");
    let asked = reqwest::get(format!("{url}/api/jobs")).await.expect("an answer");
    assert_eq!(asked.status(), reqwest::StatusCode::UNAUTHORIZED);
    let join = json!({"code": code, "name": "Ada", "login": "ada", "password": "tide rope lantern gull"});
    let joined = reqwest::Client::new().post(format!("{url}/api/join")).json(&join).send().await.expect("an answer");
    assert_eq!(joined.status(), reqwest::StatusCode::OK);
    let cookie = joined.headers()["set-cookie"].to_str().expect("text").to_owned();
    assert!(cookie.starts_with("kame=") && !cookie.contains("Secure"), "over plain HTTP, as was said: {cookie}");
    child.kill().expect("killed");
    child.wait().expect("ended");
}

#[tokio::test]
async fn where_no_owner_can_sign_in_any_more_the_machine_lets_one_in() {
    let data = TempDir::new().expect("a folder");
    let run = |folder: &Path| {
        Command::new(env!("CARGO_BIN_EXE_kame")).args(["let-in", "--data"]).arg(folder).output().expect("kame runs")
    };
    let none = run(data.path());
    let told = String::from_utf8_lossy(&none.stderr).into_owned();
    assert!(none.status.code() == Some(1) && told.contains("keeps no data"), "{told}");
    let mut kame = Command::new(env!("CARGO_BIN_EXE_kame"))
        .args(["serve", "--addr", "127.0.0.1:0", "--sign-in", "--plain-http", "--data"])
        .arg(data.path())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .expect("kame starts");
    // Whoever started it goes away after the first line, which is no reason to end.
    let mut line = String::new();
    BufReader::new(kame.stdout.take().expect("a pipe")).read_line(&mut line).expect("a line");
    let url = line.trim().strip_prefix("Kame is open at ").expect("an address").to_owned();
    let out = run(data.path());
    assert!(out.status.success(), "{out:?}");
    let said = String::from_utf8_lossy(&out.stdout).into_owned();
    let join = |login: &str| {
        let code = said.split_whitespace().last().unwrap_or_default();
        let join = json!({"code": code, "name": login, "login": login, "password": "tide rope lantern gull"});
        reqwest::Client::new().post(format!("{url}/api/join")).json(&join).send()
    };
    let joined = join("ada").await.expect("an answer");
    assert_eq!(joined.status(), reqwest::StatusCode::OK);
    let me: Value = joined.json().await.expect("JSON");
    assert_eq!(me["person"]["role"], "owner", "{me}");
    assert!(!join("ben").await.expect("an answer").status().is_success(), "once");
    kame.kill().expect("killed");
    kame.wait().expect("ended");
}

#[cfg(unix)]
#[test]
fn the_folder_for_the_data_is_its_owner_s_alone() {
    use std::os::unix::fs::PermissionsExt;
    let data = TempDir::new().expect("a folder");
    let folder = data.path().join("data");
    let mut kame = start("serve", &folder);
    let mode = |file: &Path| file.metadata().expect("there").permissions().mode() & 0o777;
    assert_eq!((mode(&folder), mode(&folder.join("kame.db"))), (0o700, 0o600));
    kame.child.kill().expect("killed");
    kame.child.wait().expect("ended");
}

#[test]
fn a_database_of_another_program_is_named_in_one_line() {
    let data = TempDir::new().expect("a folder");
    let other = rusqlite::Connection::open(data.path().join("kame.db")).expect("opens");
    other.execute_batch("CREATE TABLE invoices (id INTEGER)").expect("made");
    let out = Command::new(env!("CARGO_BIN_EXE_kame"))
        .args(["serve", "--addr", "127.0.0.1:0", "--data"])
        .arg(data.path())
        .output();
    let out = out.expect("kame runs");
    let told = String::from_utf8_lossy(&out.stderr);
    assert_eq!((out.status.code(), told.lines().count()), (Some(1), 1), "{told}");
    assert!(told.contains("database of another program") && !told.contains("CREATE"), "{told}");
}

/// Asked politely it ends, whatever is being worked at and whoever listens.
#[tokio::test]
async fn it_ends_when_it_is_asked_to_in_the_midst_of_long_work() {
    let data = TempDir::new().expect("a folder");
    let mut kame = start("demo", data.path());
    let http = reqwest::Client::new();
    let region = |i: usize| json!({"facet": "w", "rect": [i, i, i + 500, i + 500], "rank": i});
    let work = json!({
        "format": "kame-layup", "version": 1, "units": "in",
        "facets": [{"id": "w", "width": 1000, "height": 1000, "rise": 1, "exposed": true}],
        "sheets": (0..150).map(|i| json!({"id": format!("s{i}"), "bond": "none", "regions": [region(i)]})).collect::<Vec<_>>(),
        "scenarios": (0..2000).map(|i| json!({"id": format!("r{i}"), "kind": "rain"})).collect::<Vec<_>>(),
    });
    let long = http.post(format!("{}/api/water", kame.url)).json(&work).send();
    let long = tokio::spawn(long);
    let listens = http.get(format!("{}/api/jobs/1/changes", kame.url)).send().await.expect("an answer");
    let asked = Command::new("kill").arg(kame.child.id().to_string()).status().expect("kill runs");
    assert!(asked.success());
    assert!(kame.child.wait().expect("ended").success());
    drop((long, listens));
}

/// Somebody at the wall who writes down one thing after another, and sends again what was not answered.
async fn write_down(url: String, who: u64, from: u64, told: tokio::sync::mpsc::UnboundedSender<(u64, u64)>) {
    let client = reqwest::Client::new();
    for n in from.. {
        let event = json!({"id": format!("01936f00-0000-7000-8000-{who:04x}{n:08x}"), "who": "Ada", "at": "2026-11-29T07:05:00Z", "place": "W1",
                           "step": "W1/survey", "revision": 1, "what": {"is": "noted"}, "note": format!("{who} {n}")});
        let sent = client.post(format!("{url}/api/jobs/2/record")).json(&json!({"events": [event]})).send().await;
        // It is dead, or died while it answered: sent again when it is back.
        let Ok(answer) = sent else { return };
        let taken = answer.status().is_success() && answer.bytes().await.is_ok();
        if !taken || told.send((who, n)).is_err() {
            return;
        }
    }
}

/// Kills the program in the midst of writing, KAME_KILLS times: what was answered is on record, once, and the record is whole.
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn nothing_that_was_acknowledged_is_lost_however_often_it_is_killed() {
    let kills: usize = std::env::var("KAME_KILLS").ok().and_then(|k| k.parse().ok()).unwrap_or(5);
    let data = TempDir::new().expect("a folder");
    let mut next = [0_u64; 3];
    for round in 0..=kills {
        let mut kame = start("demo", data.path());
        let (told, mut heard) = tokio::sync::mpsc::unbounded_channel();
        for (who, from) in next.iter().enumerate() {
            tokio::spawn(write_down(kame.url.clone(), who as u64, *from, told.clone()));
        }
        drop(told);
        // Another moment each time: after so many answers, while others are on their way.
        for _ in 0..5 + round * 7 % 31 {
            let (who, n) = heard.recv().await.expect("somebody writes");
            next[who as usize] = n + 1;
        }
        kame.child.kill().expect("killed");
        kame.child.wait().expect("ended");
        while let Some((who, n)) = heard.recv().await {
            next[who as usize] = n + 1;
        }
    }
    let mut kame = start("demo", data.path());
    let whole = get(&format!("{}/api/jobs/2/record/verify", kame.url)).await;
    assert!(whole["broken"].is_null(), "{whole}");
    let mut there = std::collections::HashMap::new();
    let mut from = 1;
    loop {
        let page = get(&format!("{}/api/jobs/2/record?from={from}", kame.url)).await;
        let page = page.as_array().expect("entries");
        for e in page {
            *there.entry(e["event"]["note"].as_str().expect("a note").to_owned()).or_insert(0) += 1;
        }
        from += page.len();
        if page.len() < 1000 {
            break;
        }
    }
    let acknowledged: u64 = next.iter().sum();
    println!("{} kills, {acknowledged} acknowledged, {} on record", kills + 1, there.len());
    for (who, until) in next.iter().enumerate() {
        for n in 0..*until {
            assert_eq!(there.get(&format!("{who} {n}")), Some(&1), "{who} {n}");
        }
    }
    assert!(acknowledged >= 5 * kills as u64 && there.values().all(|times| *times == 1));
    kame.child.kill().expect("killed");
    kame.child.wait().expect("ended");
}
