//! What the server answers under load beside a bare "hello" of the same framework, and what small requests wait while the largest jobs the limits
//! allow are worked at. Client and server share the machine. `cargo bench -p kame-server --bench load`.

use axum::Router;
use axum::routing::get;
use kame_core::job::{CornerKind, CornerSpec, Job, write_job};
use kame_core::length::Length;
use kame_core::recipe::schools::Feature;
use kame_server::{Serving, load_demo};
use kame_store::Store;
use std::sync::Arc;
use std::time::{Duration, Instant};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};

/// Connections that ask one after the other.
const CONNECTIONS: usize = 16;
/// How long each thing is measured.
const FOR: Duration = Duration::from_secs(4);

/// What came of asking for a while.
struct Load {
    answers: usize,
    waited: Vec<Duration>,
    wrong: usize,
}

impl Load {
    fn said(&self, over: Duration) -> String {
        let at = |share: f64| {
            let i = ((self.waited.len() as f64 * share) as usize).min(self.waited.len().saturating_sub(1));
            self.waited.get(i).map_or(0.0, |d| d.as_secs_f64() * 1e3)
        };
        let per_s = self.answers as f64 / over.as_secs_f64();
        format!(
            "{per_s:>8.0} /s   p50 {:>7.2} ms   p99 {:>7.2} ms   most {:>7.2} ms   not 200: {}",
            at(0.5),
            at(0.99),
            at(1.0),
            self.wrong
        )
    }
}

/// Reads one answer; true where it is 200.
async fn answer(stream: &mut TcpStream, room: &mut Vec<u8>) -> std::io::Result<bool> {
    room.clear();
    loop {
        let mut part = [0; 64 * 1024];
        let n = stream.read(&mut part).await?;
        if n == 0 {
            return Err(std::io::ErrorKind::UnexpectedEof.into());
        }
        room.extend_from_slice(&part[..n]);
        let Some(head) = room.windows(4).position(|w| w == b"\r\n\r\n") else { continue };
        let text = String::from_utf8_lossy(&room[..head]).to_ascii_lowercase();
        let length = text.split("content-length: ").nth(1).and_then(|t| t.lines().next()?.trim().parse::<usize>().ok());
        let whole = match length {
            Some(length) => room.len() >= head + 4 + length,
            None => room.ends_with(b"0\r\n\r\n"),
        };
        if whole {
            return Ok(text.starts_with("http/1.1 200"));
        }
    }
}

async fn ask(address: &str, request: &str, connections: usize, over: Duration) -> Load {
    let end = Instant::now() + over;
    let one = |address: String, request: String| async move {
        let mut load = Load { answers: 0, waited: Vec::new(), wrong: 0 };
        let Ok(mut stream) = TcpStream::connect(&address).await else { return load };
        let _ = stream.set_nodelay(true);
        let mut room = Vec::new();
        while Instant::now() < end {
            let began = Instant::now();
            if stream.write_all(request.as_bytes()).await.is_err() {
                break;
            }
            let Ok(good) = answer(&mut stream, &mut room).await else { break };
            load.waited.push(began.elapsed());
            load.answers += 1;
            load.wrong += usize::from(!good);
        }
        load
    };
    let all: Vec<_> = (0..connections).map(|_| tokio::spawn(one(address.to_owned(), request.to_owned()))).collect();
    let mut out = Load { answers: 0, waited: Vec::new(), wrong: 0 };
    for task in all {
        let Ok(load) = task.await else { continue };
        out.answers += load.answers;
        out.wrong += load.wrong;
        out.waited.extend(load.waited);
    }
    out.waited.sort_unstable();
    out
}

fn get_of(path: &str) -> String {
    format!("GET {path} HTTP/1.1\r\nHost: localhost\r\n\r\n")
}

fn post_of(path: &str, body: &str) -> String {
    format!(
        "POST {path} HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\nContent-Length: {}\r\n\r\n{body}",
        body.len()
    )
}

/// The largest job there may be: 1500 features on walls 2000 ft long.
fn largest() -> Job {
    let mut job = Job::new("largest");
    let like = job.openings.remove(0);
    (job.wall.width, job.wall.height) = (Length::inch(24_000), Length::inch(340));
    let corner = |i: i64| CornerSpec {
        at: Length::inch(600 * i),
        kind: CornerKind::Outside,
        name: format!("Wall {}", i + 1),
        schools: Default::default(),
        products: Default::default(),
    };
    job.wall.corners = (1..40).map(corner).collect();
    for k in 0..900_i64 {
        let (w, row, column) = (k / 24, k % 24 % 3, k % 24 / 3);
        let mut o = like.clone();
        o.id = format!("W{}", k + 1);
        o.left = Length::inch(600 * w + 26 + column * 70) + Length::inch_fraction((k * 7) % 13, 8);
        o.sill = Length::inch(28 + row * 104) + Length::inch_fraction((k * 5) % 11, 8);
        (o.width, o.height) = (Length::inch(28), Length::inch(40));
        job.openings.push(o);
    }
    for k in 0..600_i64 {
        let (w, i) = (k % 40, k / 40);
        let mut o = like.clone();
        (o.id, o.feature) = (format!("P{}", k + 1), Feature::Penetration);
        o.left = Length::inch(600 * w + 14 + i / 3 * 64) + Length::inch_fraction((k * 3) % 7, 8);
        o.sill = Length::inch([4, 92, 204][(i % 3) as usize]) + Length::inch_fraction(k % 5, 8);
        (o.width, o.height) = (Length::inch(2), Length::inch(2));
        job.openings.push(o);
    }
    job
}

/// As large a layup as is answered.
fn stepped(n: usize) -> String {
    let sheet = |i: usize| {
        let r = [i * 2, i * 2, i * 2 + 500, i * 2 + 500];
        format!("{{\"id\":\"s{i}\",\"bond\":\"none\",\"regions\":[{{\"facet\":\"w\",\"rect\":{r:?},\"rank\":{i}}}]}}")
    };
    let sheets: Vec<String> = (0..n).map(sheet).collect();
    format!(
        "{{\"format\":\"kame-layup\",\"version\":1,\"units\":\"in\",\"facets\":[{{\"id\":\"w\",\"width\":1000,\"height\":1000,\"rise\":1,\"exposed\":true}}],\"sheets\":[{}],\"scenarios\":[{{\"id\":\"r\",\"kind\":\"rain\"}},{{\"id\":\"l\",\"kind\":\"rain\",\"glue\":\"lost\"}}]}}",
        sheets.join(",")
    )
}

fn resident_mb() -> f64 {
    let text = std::fs::read_to_string("/proc/self/statm").unwrap_or_default();
    let pages: f64 = text.split_whitespace().nth(1).and_then(|p| p.parse().ok()).unwrap_or(0.0);
    pages * 4096.0 / 1e6
}

#[tokio::main]
async fn main() -> Result<(), Box<dyn std::error::Error>> {
    // Run as a test it has nothing to say.
    if !std::env::args().any(|a| a == "--bench") {
        return Ok(());
    }
    let hello = TcpListener::bind("127.0.0.1:0").await?;
    let bare = hello.local_addr()?.to_string();
    tokio::spawn(async move { axum::serve(hello, Router::new().route("/", get(async || "hello"))).await });
    let folder = tempfile::TempDir::new()?;
    let store = Arc::new(Store::open(&folder.path().join("kame.db"))?);
    load_demo(&store)?;
    let listener = TcpListener::bind("127.0.0.1:0").await?;
    let kame = listener.local_addr()?.to_string();
    tokio::spawn(kame_server::serve(listener, store, Serving::default(), std::future::pending()));

    println!("{CONNECTIONS} connections, {} s each:", FOR.as_secs());
    let show = async |what: &str, address: &str, request: &str, connections: usize| {
        let load = ask(address, request, connections, FOR).await;
        println!("{what:<44} {}", load.said(FOR));
    };
    show("hello of the bare framework", &bare, &get_of("/"), CONNECTIONS).await;
    show("the front page", &kame, &get_of("/"), CONNECTIONS).await;
    show("the list of jobs", &kame, &get_of("/api/jobs"), CONNECTIONS).await;
    show("a job of one window, whole", &kame, &get_of("/api/jobs/2"), CONNECTIONS).await;

    let before = resident_mb();
    let mut silent = Vec::new();
    for _ in 0..1000 {
        silent.push(TcpStream::connect(&kame).await?);
    }
    show("the list, 1000 silent connections beside it", &kame, &get_of("/api/jobs"), 1).await;
    println!("{:<44} {:>8.1} MB", "memory for 1000 silent connections", resident_mb() - before);
    drop(silent);

    let text = write_job(&largest());
    let mut stream = TcpStream::connect(&kame).await?;
    let mut room = Vec::new();
    let began = Instant::now();
    stream.write_all(post_of("/api/import", &text).as_bytes()).await?;
    answer(&mut stream, &mut room).await?;
    let told: String = String::from_utf8_lossy(&room).chars().take(200).collect();
    println!(
        "\nimport of the largest job: {:.1} s ({})",
        began.elapsed().as_secs_f64(),
        told.lines().next().unwrap_or_default()
    );
    println!("two connections, small requests:");
    show("alone: the list", &kame, &get_of("/api/jobs"), 2).await;
    show("alone: a job of one window", &kame, &get_of("/api/jobs/2"), 2).await;
    let tick = post_of("/api/jobs/2/ticks", "{\"piece\":\"W1/pan\",\"cut\":true}");
    show("alone: a tick", &kame, &tick, 2).await;
    for (what, request) in [
        ("whole views of the largest job", get_of("/api/jobs/5")),
        ("all evenings of the largest job", get_of("/api/jobs/5/nights")),
        ("what to buy for the largest job", get_of("/api/jobs/5/truck?limit_s=20")),
        ("layups of 100 stepped sheets", post_of("/api/water", &stepped(100))),
    ] {
        let heavy = tokio::spawn({
            let kame = kame.clone();
            async move { ask(&kame, &request, 2, 4 * FOR).await }
        });
        tokio::time::sleep(Duration::from_millis(500)).await;
        println!("while {what} are worked out:");
        show("  the list", &kame, &get_of("/api/jobs"), 2).await;
        show("  a job of one window", &kame, &get_of("/api/jobs/2"), 2).await;
        show("  a tick", &kame, &tick, 2).await;
        let heavy = heavy.await?;
        println!("  {:<42} {}", "each of them", heavy.said(4 * FOR));
    }
    println!("{:<44} {:>8.1} MB", "memory at the end", resident_mb());
    Ok(())
}
