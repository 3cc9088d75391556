//! A firm at work: twenty people who signed in change one job, tick at its bench and write on its record, two hundred readers look at it by a link,
//! and somebody asks a bare "hello" of the same framework in the same run. Says what each waited and, minute by minute, how much memory and disk the
//! server takes. `cargo bench -p kame-server --bench crowd`; `make soak` does it for an hour.

use axum::Router;
use axum::routing::get;
use kame_server::secret;
use kame_store::{Role, Store};
use reqwest::{Client, Method, StatusCode, redirect::Policy};
use serde_json::{Value, json};
use std::collections::BTreeMap;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};
use tokio::net::TcpListener;

/// The job that all are at, and one of its openings for each who changes it.
const JOB: i64 = 1;
const PEOPLE: usize = 20;
const READERS: usize = 200;
/// Between two things that one of them does: people 2 s, readers 2 s, hello 50 ms, by chance half as much to half as much again.
const PEOPLE_WAIT_MS: u64 = 2000;
const READERS_WAIT_MS: u64 = 2000;
const HELLO_WAIT_MS: u64 = 50;
/// How often somebody whose change came too late tries once more.
const TRIES: usize = 5;

type Fault = Box<dyn std::error::Error + Send + Sync>;

/// How long a kind of request waited each time, and how often it was answered as it should not have been.
type Waited = (Vec<Duration>, usize);

/// What each kind of request waited.
#[derive(Clone, Default)]
struct Waits(Arc<Mutex<BTreeMap<&'static str, Waited>>>);

impl Waits {
    fn add(&self, what: &'static str, waited: Duration, good: bool) {
        let mut all = self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let of = all.entry(what).or_default();
        of.0.push(waited);
        of.1 += usize::from(!good);
    }

    fn say(&self) {
        let mut all = self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        println!("{:<44} {:>8} {:>9} {:>9} {:>9} {:>6}", "", "answers", "p50 ms", "p99 ms", "most ms", "wrong");
        for (what, (waited, wrong)) in &mut *all {
            waited.sort_unstable();
            let at = |share: f64| waited[((waited.len() - 1) as f64 * share) as usize].as_secs_f64() * 1e3;
            println!("{what:<44} {:>8} {:>9.2} {:>9.2} {:>9.2} {wrong:>6}", waited.len(), at(0.5), at(0.99), at(1.0));
        }
    }
}

/// One of them: where they come from, and what they show at the door.
#[derive(Clone)]
struct Page {
    http: Client,
    url: String,
    from: String,
    cookie: String,
    token: String,
    waits: Waits,
}

impl Page {
    /// Asks, and says how it went; the body is read to its end.
    async fn ask(
        &self,
        what: &'static str,
        method: Method,
        path: &str,
        (revision, body): (Option<i64>, Option<Value>),
    ) -> Option<(StatusCode, Value)> {
        let mut request = self.http.request(method, format!("{}{path}", self.url));
        request = request.header("X-Forwarded-For", &self.from).header("Cookie", &self.cookie);
        if let Some(body) = body {
            request = request.header("X-Kame-Token", &self.token).json(&body);
        }
        if let Some(revision) = revision {
            request = request.header("If-Match", format!("\"{revision}\""));
        }
        let began = Instant::now();
        let answer = request.send().await;
        let (status, body) = match answer {
            Ok(answer) => (answer.status(), answer.bytes().await.unwrap_or_default()),
            Err(_) => {
                self.waits.add(what, began.elapsed(), false);
                return None;
            }
        };
        // Whose change was made on an older state is told so, which is right.
        let good = status.is_success() || status == StatusCode::PRECONDITION_FAILED;
        self.waits.add(what, began.elapsed(), good);
        Some((status, serde_json::from_slice(&body).unwrap_or_default()))
    }

    async fn look(&self, what: &'static str, path: &str) -> Value {
        self.ask(what, Method::GET, path, (None, None)).await.map_or(Value::Null, |(_, body)| body)
    }
}

/// Numbers that look like chance and are the same in each run.
struct Chance(u64);

impl Chance {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        self.0 >> 33
    }

    async fn wait(&mut self, about_ms: u64) {
        tokio::time::sleep(Duration::from_millis(about_ms / 2 + self.next() % about_ms)).await;
    }
}

/// Changes, ticks and writes by turns until the end.
async fn person(page: Page, n: usize, openings: Vec<Value>, until: Instant) {
    let mut chance = Chance(n as u64 + 1);
    let mine = openings[n % openings.len()].clone();
    let id = mine["id"].as_str().unwrap_or_default().to_owned();
    let at = format!("/api/jobs/{JOB}");
    let mut round = 0_u64;
    chance.wait(PEOPLE_WAIT_MS).await;
    while Instant::now() < until {
        round += 1;
        match chance.next() % 4 {
            0 => {
                page.look("the job, whole", &at).await;
            }
            1 => {
                let name = if round.is_multiple_of(2) { mine["name"].clone() } else { json!(format!("Seen {n}")) };
                let mut revision =
                    page.look("the job, its moment alone", &format!("{at}?done=3")).await["state"]["revision"].as_i64();
                for _ in 0..TRIES {
                    let edit = json!({"edit": "set_opening", "id": id, "name": name});
                    let path = format!("{at}/edits");
                    let said = page.ask("a change", Method::POST, &path, (revision, Some(edit))).await;
                    match said {
                        Some((StatusCode::PRECONDITION_FAILED, body)) => {
                            revision = body["current"]["revision"].as_i64();
                        }
                        _ => break,
                    }
                }
            }
            2 => {
                let tick = json!({"piece": format!("{id}/head"), "cut": round.is_multiple_of(2)});
                page.ask("a tick", Method::POST, &format!("{at}/ticks"), (None, Some(tick))).await;
            }
            _ => {
                let event = json!({"id": format!("01936f00-0000-7000-8000-{n:04x}{round:08x}"), "who": format!("Hand {n}"),
                    "at": "2026-03-02T07:05:00Z", "place": id, "step": format!("{id}/survey"), "revision": 1,
                    "what": {"is": "noted"}, "note": format!("{n} {round}")});
                let path = format!("{at}/record");
                page.ask("a line on record", Method::POST, &path, (None, Some(json!({"events": [event]})))).await;
            }
        }
        chance.wait(PEOPLE_WAIT_MS).await;
    }
}

/// Looks at a job by a link until the end.
async fn reader(page: Page, n: usize, until: Instant) {
    let mut chance = Chance(n as u64 + 1000);
    chance.wait(READERS_WAIT_MS).await;
    while Instant::now() < until {
        match chance.next() % 4 {
            0 => page.look("the job, whole", &format!("/api/jobs/{JOB}")).await,
            1 => page.look("the job in the rain", &format!("/api/jobs/{JOB}?weather=rain&done=9")).await,
            2 => page.look("its checks", &format!("/api/jobs/{JOB}/checks")).await,
            _ => page.look("the front page", "/").await,
        };
        chance.wait(READERS_WAIT_MS).await;
    }
}

/// Kame as it is run, in a folder of its own.
fn start(data: &Path) -> Result<(Child, String), Fault> {
    use std::io::BufRead;
    let mut child = Command::new(env!("CARGO_BIN_EXE_kame"))
        .args(["demo", "--addr", "127.0.0.1:0", "--sign-in", "--plain-http", "--data"])
        .arg(data)
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()?;
    let mut line = String::new();
    std::io::BufReader::new(child.stdout.take().ok_or("no output")?).read_line(&mut line)?;
    let url = line.trim().strip_prefix("Kame is open at ").ok_or("the server says no address")?.to_owned();
    Ok((child, url))
}

/// Somebody who comes by an invitation.
async fn joined(store: &Store, page: &Page, n: usize) -> Result<Page, Fault> {
    let code = secret();
    store.invite(&code, Role::Builder, None, 1, "the benchmark")?;
    let name = format!("Hand {n}");
    let join = json!({"code": code, "name": name, "login": format!("hand-{n}"), "password": "tide rope lantern gull"});
    let answer = page.http.post(format!("{}/api/join", page.url)).json(&join).send().await?;
    let cookie = cookie_of(&answer)?;
    let me: Value = answer.json().await?;
    let token = me["token"].as_str().ok_or("no token")?.to_owned();
    Ok(Page { cookie, token, from: format!("10.0.0.{}", n + 1), ..page.clone() })
}

fn cookie_of(answer: &reqwest::Response) -> Result<String, Fault> {
    let set = answer.headers().get("set-cookie").ok_or("no cookie")?.to_str()?;
    Ok(set.split(';').next().unwrap_or_default().to_owned())
}

/// Memory of a process, in MB.
fn resident_mb(process: u32) -> f64 {
    let text = std::fs::read_to_string(format!("/proc/{process}/statm")).unwrap_or_default();
    let pages: f64 = text.split_whitespace().nth(1).and_then(|p| p.parse().ok()).unwrap_or(0.0);
    pages * 4096.0 / 1e6
}

fn disk_mb(data: &Path) -> f64 {
    let size = |name: &str| data.join(name).metadata().map_or(0, |m| m.len());
    (size("kame.db") + size("kame.db-wal")) as f64 / 1e6
}

#[tokio::main]
async fn main() -> Result<(), Fault> {
    // Run as a test it has nothing to say.
    if !std::env::args().any(|a| a == "--bench") {
        return Ok(());
    }
    let minutes: f64 = std::env::var("KAME_MINUTES").ok().and_then(|m| m.parse().ok()).unwrap_or(1.0);
    let hello = TcpListener::bind("127.0.0.1:0").await?;
    let bare = format!("http://{}", hello.local_addr()?);
    tokio::spawn(async move { axum::serve(hello, Router::new().route("/", get(async || "hello"))).await });
    let folder = tempfile::TempDir::new()?;
    let (mut child, url) = start(folder.path())?;
    let store = Store::open(&folder.path().join("kame.db"))?;
    let waits = Waits::default();
    let http = Client::builder().redirect(Policy::none()).build()?;
    let nobody =
        Page { http, url, from: "10.1.0.1".into(), cookie: String::new(), token: String::new(), waits: waits.clone() };
    let openings: Vec<Value> =
        serde_json::to_value(store.job(JOB)?.job.openings)?.as_array().cloned().unwrap_or_default();

    let mut people = Vec::new();
    for n in 0..PEOPLE {
        people.push(joined(&store, &nobody, n).await?);
    }
    let code = secret();
    store.share(&code, JOB, None, 1, "the benchmark")?;
    let mut readers = Vec::new();
    for n in 0..READERS {
        let from = format!("10.2.{}.{}", n / 100, n % 100 + 1);
        let opened = nobody.http.get(format!("{}/share/{code}", nobody.url)).header("X-Forwarded-For", &from);
        readers.push(Page { cookie: cookie_of(&opened.send().await?)?, from, ..nobody.clone() });
    }
    let until = Instant::now() + Duration::from_secs_f64(minutes * 60.0);
    let mut all = Vec::new();
    for (n, page) in people.into_iter().enumerate() {
        // Each has the job open, and hears of what others do.
        let heard = page.http.get(format!("{}/api/jobs/{JOB}/changes", page.url)).header("Cookie", &page.cookie);
        let mut heard = heard.send().await?;
        tokio::spawn(async move { while let Ok(Some(_)) = heard.chunk().await {} });
        all.push(tokio::spawn(person(page, n, openings.clone(), until)));
    }
    for (n, page) in readers.into_iter().enumerate() {
        all.push(tokio::spawn(reader(page, n, until)));
    }
    let hello = Page { url: bare, ..nobody };
    all.push(tokio::spawn(async move {
        let mut chance = Chance(0);
        while Instant::now() < until {
            hello.look("hello of the bare framework", "/").await;
            chance.wait(HELLO_WAIT_MS).await;
        }
    }));
    let began = Instant::now();
    println!("{PEOPLE} people and {READERS} readers on one job for {minutes} min");
    while Instant::now() < until {
        let left = until.saturating_duration_since(Instant::now());
        tokio::time::sleep(left.min(Duration::from_secs(60))).await;
        let (at, memory, disk) =
            (began.elapsed().as_secs_f64() / 60.0, resident_mb(child.id()), disk_mb(folder.path()));
        println!("minute {at:>5.1}   memory {memory:>7.1} MB   database {disk:>7.1} MB");
    }
    for one in all {
        one.await?;
    }
    waits.say();
    let revision = store.standing(JOB)?.revision;
    println!("the job is at revision {revision}");
    child.kill()?;
    child.wait()?;
    Ok(())
}
