//! The `kame` binary: thin faces of the core and the server.

use anyhow::{Context, bail};
use clap::{Parser, Subcommand, ValueEnum};
use kame_core::record::{self, Whole};
use kame_core::stop::Stop;
use kame_core::{calendar, job, layup, view, water};
use kame_formats::{Archive, read_entries};
use kame_server::Serving;
use kame_store::{Store, hash_of};
use std::io::{Read, Write};
use std::net::SocketAddr;
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::sync::Arc;
use std::time::Duration;

/// A plan is many small things, and each edit makes them anew.
#[global_allocator]
static MEMORY: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Plans the lapping of weather barriers and flashings piece by piece, and runs water over it before anyone cuts.
#[derive(Parser)]
#[command(version, about)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serve Kame in a browser.
    Serve(Place),
    /// Serve Kame, with the demo job where no job was ever made.
    Demo(Place),
    /// Serve simulated instruments, which the demo starts by itself.
    Devices {
        /// Where to listen.
        #[arg(long, env = "KAME_DEVICES", default_value = "127.0.0.1:4610")]
        addr: SocketAddr,
    },
    /// Answer a layup file (`kame-layup`) with heads and ponds, as JSON. Exit 2 with one line per mistake where the file is wrong.
    Water {
        /// The file, or `-` for standard input.
        file: PathBuf,
        /// JSON on one line instead of indented.
        #[arg(long)]
        json: bool,
    },
    /// Check a job file (`*.kame.json`): the verdict, the least head of every water, and what was found. Exit 0 where it is dry, 1 where it is not, 2
    /// with one line per mistake where the file cannot be read or built. Or look a folder of data or a backup through, also while a server runs: the
    /// database, every job, every record and photograph. Exit 0 where it is whole, 1 with a line for each thing that is not, 2 where it cannot be read.
    Check {
        /// The file, `-` for standard input, or the folder.
        file: PathBuf,
        /// After so many actions of the order of work; all of them where this is not given.
        #[arg(long)]
        done: Option<usize>,
        /// JSON on one line instead of words.
        #[arg(long)]
        json: bool,
    },
    /// Say of a job file (`*.kame.json`) what to buy, what to cut, and how long each step takes. Exit 2 with one line per mistake where the file cannot
    /// be read or built.
    Order {
        /// The file, or `-` for standard input.
        file: PathBuf,
        /// JSON on one line instead of words.
        #[arg(long)]
        json: bool,
    },
    /// Lay a job file (`*.kame.json`) on the calendar, with its own crews and deliveries; or solve an instance as plain numbers (docs/DAYS.md). Exit 2
    /// with one line per mistake where a file cannot be read or nothing can be laid.
    Days {
        /// The job file, or `-` for standard input.
        #[arg(required_unless_present = "instance")]
        file: Option<PathBuf>,
        /// Hours of weather: a table or an EPW file.
        #[arg(long)]
        weather: Option<PathBuf>,
        /// The first day, as 2026-03-02, where the job says none.
        #[arg(long, default_value = "2026-03-02")]
        from: String,
        /// Solve this instance instead of a job.
        #[arg(long, conflicts_with = "file")]
        instance: Option<PathBuf>,
        /// Print the instance of the job instead of solving it, for another solver.
        #[arg(long)]
        as_instance: bool,
        /// JSON on one line instead of words.
        #[arg(long)]
        json: bool,
    },
    /// Back a folder of data up into a new folder, also while a server runs: the database as it stands at one moment and every photograph, looked
    /// through before it is called a backup.
    Backup {
        /// The new folder.
        to: PathBuf,
        /// The folder that keeps the data.
        #[arg(long, env = "KAME_DATA", default_value = "data")]
        data: PathBuf,
    },
    /// Restore a backup into a new folder, and look it through there. Serve it with `kame serve --data FOLDER`.
    Restore {
        /// The backup.
        from: PathBuf,
        /// The new folder.
        to: PathBuf,
    },
    /// Print a code that lets one more owner in, once and for a day, also while a server runs: the way back where no owner can sign in any more.
    /// Whoever can read the folder could read everything in it anyway.
    LetIn {
        /// The folder that keeps the data.
        #[arg(long, env = "KAME_DATA", default_value = "data")]
        data: PathBuf,
    },
    /// Look a record through: an archive (`*.zip`), a folder that one was unpacked to, or the entries alone (`*.jsonl`). Exit 0 where it is whole, 1 with
    /// the first entry that is not as it was written, 2 where it cannot be read.
    Record {
        /// What to do with it.
        #[command(subcommand)]
        act: RecordAct,
    },
    /// Print a published description.
    Schema {
        /// What is described.
        of: Described,
    },
}

#[derive(Subcommand)]
enum RecordAct {
    /// Say whether it is whole, and where it is not.
    Verify {
        /// Archive, folder or file, or `-` for standard input.
        file: PathBuf,
    },
}

#[derive(Clone, Copy, ValueEnum)]
enum Described {
    /// The job file.
    Job,
    /// The layup file.
    Layup,
    /// An entry of the record.
    Record,
    /// The REST interface.
    Api,
    /// The limits of all fields that people fill in.
    Limits,
}

#[derive(clap::Args)]
struct Place {
    /// Where to listen.
    #[arg(long, env = "KAME_ADDR", default_value = "127.0.0.1:4600")]
    addr: SocketAddr,
    /// A name or address under which it is reached besides this machine's own, once for each.
    #[arg(long = "host", env = "KAME_HOSTS", value_delimiter = ',')]
    hosts: Vec<String>,
    /// Have people sign in also where Kame is reached from this machine alone, as behind a proxy. Beyond this machine they always do.
    #[arg(long, env = "KAME_SIGN_IN")]
    sign_in: bool,
    /// Let nobody sign in beyond this machine: whoever reaches the address can read and change every job.
    #[arg(long, env = "KAME_LET_ANYONE_IN", conflicts_with = "sign_in")]
    let_anyone_in: bool,
    /// Take passwords over plain HTTP: whoever listens on the way reads them.
    #[arg(long, env = "KAME_PLAIN_HTTP")]
    plain_http: bool,
    /// Let owners say who may do what only once they have a second factor.
    #[arg(long, env = "KAME_OWNERS_BY_TWO")]
    owners_by_two: bool,
    /// Folder that keeps the data.
    #[arg(long, env = "KAME_DATA", default_value = "data")]
    data: PathBuf,
    /// Where instruments are, as http://127.0.0.1:4610 (docs/INSTRUMENTS.md).
    #[arg(long, env = "KAME_INSTRUMENTS")]
    instruments: Option<String>,
}

fn main() -> ExitCode {
    let outcome = match Cli::parse().command {
        Command::Serve(place) => run(&place, false),
        Command::Demo(place) => run(&place, true),
        Command::Devices { addr } => devices(addr),
        Command::Water { file, json } => return water(&file, json),
        Command::Check { file, json, .. } if file.is_dir() => return looked_through(&file, json),
        Command::Check { file, done, json } => return check(&file, done, json),
        Command::Backup { to, data } => kame_store::back_up(&data, &to)
            .map(|f| println!("backed up to {}: {}", to.display(), f.in_words()))
            .map_err(Into::into),
        Command::Restore { from, to } => kame_store::restore(&from, &to)
            .map(|f| println!("restored to {}: {}", to.display(), f.in_words()))
            .map_err(Into::into),
        Command::LetIn { data } => let_in(&data),
        Command::Order { file, json } => return ordered(&file, json),
        Command::Days { file, weather, from, instance, as_instance, json } => {
            let asked = DaysAsked { file, weather, from, instance, as_instance, json };
            return laid(&asked).unwrap_or_else(refuse);
        }
        Command::Record { act: RecordAct::Verify { file } } => return verified(&file),
        Command::Schema { of } => print(&match of {
            Described::Job => job::job_schema(),
            Described::Layup => layup::layup_schema(),
            Described::Record => record::entry_schema(),
            Described::Limits => serde_json::to_value(kame_core::view::form_limits()).unwrap_or_default(),
            Described::Api => serde_json::to_value(kame_server::api::description()).unwrap_or_default(),
        }),
    };
    match outcome {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("kame: {e:#}");
            ExitCode::FAILURE
        }
    }
}

/// Looks a folder of data through.
fn looked_through(folder: &Path, json: bool) -> ExitCode {
    let found = match kame_store::look_through(folder) {
        Ok(found) => found,
        Err(e) => return refuse([e.to_string()]),
    };
    if json {
        println!("{}", serde_json::to_string(&found).unwrap_or_default());
    } else {
        found.wrong.iter().for_each(|w| println!("{w}"));
        println!("{}: {}", if found.wrong.is_empty() { "whole" } else { "not whole" }, found.in_words());
    }
    if found.wrong.is_empty() { ExitCode::SUCCESS } else { ExitCode::FAILURE }
}

/// Prints a code for one more owner.
fn let_in(data: &Path) -> anyhow::Result<()> {
    let file = data.join("kame.db");
    if !file.is_file() {
        bail!("{} keeps no data: name the folder with --data", data.display());
    }
    let code = kame_server::secret();
    Store::open(&file)?.invite(&code, kame_store::Role::Owner, None, 1, "the machine")?;
    println!("Open Kame and give this code, which lets one owner in, once and for a day: {code}");
    Ok(())
}

/// Looks a record through.
fn verified(file: &Path) -> ExitCode {
    match whole(file) {
        Err(e) => {
            eprintln!("kame: {e:#}");
            ExitCode::from(2)
        }
        Ok(Whole { broken: Some(broken), .. }) => {
            println!("{broken}");
            ExitCode::FAILURE
        }
        Ok(Whole { entries, last, .. }) => {
            println!("whole: {entries} entries, the last {last}");
            ExitCode::SUCCESS
        }
    }
}

/// What is said of a record: of an archive and of a folder with their photographs, of a file of entries without.
fn whole(file: &Path) -> anyhow::Result<Whole> {
    if file.is_dir() {
        let entries = read_entries(&read(&file.join("record.jsonl"))?).map_err(anyhow::Error::msg)?;
        let photo = |hash: &str| read(&file.join("photos").join(hash)).ok().map(|bytes| hash_of(&bytes));
        let whole = record::verify(&entries);
        let broken = whole.broken.or_else(|| record::broken_photo(&entries, photo));
        return Ok(Whole { broken, ..whole });
    }
    let bytes = read(file)?;
    if bytes.starts_with(b"PK") {
        return Ok(Archive::read(bytes).map_err(anyhow::Error::msg)?.verify(hash_of));
    }
    Ok(record::verify(&read_entries(&bytes).map_err(anyhow::Error::msg)?))
}

fn print(value: &serde_json::Value) -> anyhow::Result<()> {
    println!("{}", serde_json::to_string_pretty(value)?);
    Ok(())
}

/// The longest that one file is worked at.
const LONGEST_WORK: Duration = Duration::from_secs(600);
/// The largest file that is read.
const LARGEST_FILE: u64 = 256 * 1024 * 1024;

fn read(file: &Path) -> anyhow::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    let name = file.display();
    if file.as_os_str() == "-" {
        std::io::stdin().take(LARGEST_FILE + 1).read_to_end(&mut bytes).context("standard input")?;
    } else {
        std::fs::File::open(file)
            .and_then(|f| f.take(LARGEST_FILE + 1).read_to_end(&mut bytes))
            .with_context(|| format!("{name}"))?;
    }
    if bytes.len() as u64 > LARGEST_FILE {
        bail!("{name} is larger than 256 MB, the most that is read");
    }
    Ok(bytes)
}

/// Whoever waits at a terminal waits for the end, or for this.
fn patience() -> Stop {
    let stop = Stop::default();
    let late = stop.clone();
    std::thread::spawn(move || {
        std::thread::sleep(LONGEST_WORK);
        late.stop();
    });
    stop
}

/// Exit code of a file that cannot be read.
const CANNOT_BE_READ: u8 = 2;

fn refuse(mistakes: impl IntoIterator<Item = String>) -> ExitCode {
    for m in mistakes {
        eprintln!("{m}");
    }
    ExitCode::from(CANNOT_BE_READ)
}

fn ordered(file: &Path, json: bool) -> ExitCode {
    let bytes = match read(file) {
        Ok(bytes) => bytes,
        Err(e) => return refuse([format!("{e:#}")]),
    };
    match job::read_job(&bytes).and_then(|job| view::ordered(&job, &patience())) {
        Ok(ordered) => {
            match json {
                true => println!("{}", serde_json::to_string(&ordered).unwrap_or_default()),
                false => print!("{}", ordered.in_words()),
            }
            ExitCode::SUCCESS
        }
        Err(problems) => refuse(problems.iter().map(|p| format!("{}: {}", p.path, p.message))),
    }
}

/// What `kame days` is asked.
struct DaysAsked {
    file: Option<PathBuf>,
    weather: Option<PathBuf>,
    from: String,
    instance: Option<PathBuf>,
    as_instance: bool,
    json: bool,
}

/// Lays a job, or an instance, on the calendar.
fn laid(asked: &DaysAsked) -> Result<ExitCode, Vec<String>> {
    let one = |e: anyhow::Error| vec![format!("{e:#}")];
    let told = |p: Vec<kame_core::problem::Problem>| {
        p.iter().map(|p| format!("{}: {}", p.path, p.message)).collect::<Vec<_>>()
    };
    let stop = patience();
    if let Some(file) = &asked.instance {
        let bytes = read(file).map_err(one)?;
        let of: calendar::Instance = serde_json::from_slice(&bytes).map_err(|e| vec![format!("$: {e}")])?;
        let wrong = of.problems();
        if !wrong.is_empty() {
            return Err(told(wrong));
        }
        let solved = calendar::solve(&of, &stop).map_err(|e| vec![format!("$.tasks[{}]: {e}", e.task)])?;
        println!("{}", serde_json::to_string(&solved).unwrap_or_default());
        return Ok(ExitCode::SUCCESS);
    }
    let job = job::read_job(&read(asked.file.as_deref().unwrap_or(Path::new("-"))).map_err(one)?).map_err(told)?;
    let plan = kame_core::plan::build(&job).map_err(told)?;
    let site = calendar::site_of(&job, &plan, &asked.from);
    let hours = match &asked.weather {
        None => Vec::new(),
        Some(file) => {
            let text = String::from_utf8(read(file).map_err(one)?)
                .map_err(|_| vec![format!("{} is no text", file.display())])?;
            kame_formats::read_weather(&text, &site.from).map_err(|m| vec![format!("{}: {m}", file.display())])?
        }
    };
    let question = calendar::CalendarQuestion { plan: &plan, site: &site, hours: &hours, states: &[] };
    if asked.as_instance {
        println!("{}", serde_json::to_string(&calendar::instance_of(&question).map_err(told)?).unwrap_or_default());
        return Ok(ExitCode::SUCCESS);
    }
    let booking =
        calendar::book(&question, &kame_core::nights::KnownNights::default().until(&stop), &stop).map_err(told)?;
    match asked.json {
        true => println!("{}", serde_json::to_string(&booking).unwrap_or_default()),
        false => print!("{}", booking.in_words()),
    }
    Ok(ExitCode::SUCCESS)
}

fn check(file: &Path, done: Option<usize>, json: bool) -> ExitCode {
    let bytes = match read(file) {
        Ok(bytes) => bytes,
        Err(e) => return refuse([format!("{e:#}")]),
    };
    let known = view::Known::default().until(&patience());
    let checked = job::read_job(&bytes).and_then(|job| view::check(&job, done, &known));
    match checked {
        Ok(checked) => {
            match json {
                true => println!("{}", serde_json::to_string(&checked).unwrap_or_default()),
                false => print!("{}", checked.in_words()),
            }
            if checked.verdict.dry { ExitCode::SUCCESS } else { ExitCode::FAILURE }
        }
        Err(problems) => refuse(problems.iter().map(|p| format!("{}: {}", p.path, p.message))),
    }
}

fn water(file: &Path, compact: bool) -> ExitCode {
    let mistakes = match read(file) {
        Err(e) => vec![format!("{e:#}")],
        Ok(bytes) => match answer(&bytes) {
            Ok(answer) => {
                let text = if compact { serde_json::to_string(&answer) } else { serde_json::to_string_pretty(&answer) };
                println!("{}", text.unwrap_or_default());
                return ExitCode::SUCCESS;
            }
            Err(mistakes) => mistakes,
        },
    };
    refuse(mistakes)
}

fn answer(bytes: &[u8]) -> Result<serde_json::Value, Vec<String>> {
    let text = std::str::from_utf8(bytes)
        .map_err(|e| vec![format!("$: found a byte that is not UTF-8 at {}, expected JSON text", e.valid_up_to())])?;
    let doc: serde_json::Value = serde_json::from_str(text.trim_start_matches('\u{feff}'))
        .map_err(|e| vec![format!("$: found no JSON ({e}), expected a kame-layup document")])?;
    let told = |m: Vec<layup::FileMistake>| m.iter().map(ToString::to_string).collect::<Vec<_>>();
    let layup = layup::from_json(&doc).map_err(told)?;
    drop(doc);
    let stop = patience();
    let answer = water::solve_within(&layup, water::Limits::default(), &stop).map_err(|e| match e {
        water::Unanswered::Mistakes(m) => told(m),
        water::Unanswered::Stopped => {
            vec![format!("$: not answered within {} s: ask about a part of it", LONGEST_WORK.as_secs())]
        }
    })?;
    Ok(answer.to_json(&layup))
}

/// How long work that nobody waits for any more may go on after the last answer.
const LAST_WORK: Duration = Duration::from_secs(1);

fn run(place: &Place, demo: bool) -> anyhow::Result<()> {
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build().context("threads")?;
    let outcome = runtime.block_on(served(place, demo));
    runtime.shutdown_timeout(LAST_WORK);
    outcome
}

async fn served(place: &Place, demo: bool) -> anyhow::Result<()> {
    let filter =
        tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "info,tower_http=warn".into());
    tracing_subscriber::fmt().json().with_env_filter(filter).with_writer(std::io::stderr).init();
    // Who is reached by another name is reached by others, a proxy on this machine included.
    let beyond = !place.addr.ip().is_loopback() || !place.hosts.is_empty();
    let sign_in = place.sign_in || (beyond && !place.let_anyone_in);
    own_folder(&place.data).with_context(|| format!("the data folder {}", place.data.display()))?;
    // Ours until the process ends.
    let held = kame_store::hold(&place.data)?;
    let file = place.data.join("kame.db");
    let store = tokio::task::spawn_blocking(move || -> anyhow::Result<Store> {
        let store = Store::open(&file)?;
        if let Some(why) = store.read_only() {
            tracing::error!("{why}");
            eprintln!("kame: {why}. Until then everything can be read, and nothing changed");
            return Ok(store);
        }
        let purged = store.purge()?;
        if purged > 0 {
            tracing::info!(purged, "jobs that were deleted long ago are gone");
        }
        if demo && kame_server::load_demo(&store)? {
            tracing::info!("demo job loaded");
        }
        Ok(store)
    })
    .await??;
    // Before anybody is let in: a request to end that comes with the first connection would end it without a word.
    let stop = stopped().context("signals")?;
    let listener = tokio::net::TcpListener::bind(place.addr).await.with_context(|| {
        format!("cannot listen on {}; is Kame running already? KAME_ADDR chooses another address", place.addr)
    })?;
    let address = listener.local_addr()?;
    if beyond && !sign_in {
        tracing::warn!(%address, "anyone who reaches this address can read and change every job, as --let-anyone-in says");
    }
    tell(&format!("Kame is open at http://{address}"));
    if sign_in && store.has_nobody()? && store.read_only().is_none() {
        // The one that an earlier start printed opens nothing any more.
        for earlier in store.invitations()?.iter().filter(|i| i.by == "Kame") {
            store.take_back_invitation(earlier.id, "Kame")?;
        }
        let code = kame_server::secret();
        store.invite(&code, kame_store::Role::Owner, None, 1, "Kame")?;
        tell(&format!("Nobody has come yet. Open Kame and give this code, which opens it once and for a day: {code}"));
    }
    let own = if demo && place.instruments.is_none() { own_instruments().await } else { None };
    let instruments = place.instruments.clone().or_else(|| own.as_ref().map(|(_, url)| url.clone()));
    let (hosts, plain_http, owners_by_two) = (place.hosts.clone(), place.plain_http, place.owners_by_two);
    let how = Serving { hosts, instruments, sign_in, plain_http, owners_by_two, ..Serving::default() };
    kame_server::serve(listener, Arc::new(store), how, stop).await?;
    drop(own);
    drop(held);
    tracing::info!("stopped");
    Ok(())
}

/// Says something to whoever started this; that nobody listens any more is no reason to end.
fn tell(line: &str) {
    let _ = writeln!(std::io::stdout(), "{line}");
}

/// The program of the instruments, which stands beside this one: nothing of it is in here.
fn beside() -> anyhow::Result<PathBuf> {
    let here = std::env::current_exe().context("where this program is")?;
    Ok(here.with_file_name(format!("kame-devices{}", std::env::consts::EXE_SUFFIX)))
}

/// Serves the instruments in place of this program.
fn devices(addr: SocketAddr) -> anyhow::Result<()> {
    let program = beside()?;
    let why = std::os::unix::process::CommandExt::exec(
        std::process::Command::new(&program).arg("--addr").arg(addr.to_string()),
    );
    Err(why)
        .with_context(|| format!("{} cannot be started; build it with cargo build -p kame-devices", program.display()))
}

/// Instruments that end with this program, on any free port; without them readings are typed.
async fn own_instruments() -> Option<(tokio::process::Child, String)> {
    let mut command = tokio::process::Command::new(beside().ok()?);
    let pipe = std::process::Stdio::piped;
    command.args(["--addr", "127.0.0.1:0", "--attached"]).stdin(pipe()).stdout(pipe()).kill_on_drop(true);
    let mut child = command.spawn().ok()?;
    let mut line = String::new();
    let mut said = tokio::io::BufReader::new(child.stdout.take()?);
    let read = tokio::io::AsyncBufReadExt::read_line(&mut said, &mut line);
    tokio::time::timeout(Duration::from_secs(5), read).await.ok()?.ok()?;
    let url = line.split_whitespace().last()?.to_owned();
    Some((child, url))
}

/// Makes the folder for the data, which its owner alone may look into.
fn own_folder(folder: &Path) -> std::io::Result<()> {
    let mut make = std::fs::DirBuilder::new();
    make.recursive(true);
    #[cfg(unix)]
    std::os::unix::fs::DirBuilderExt::mode(&mut make, 0o700);
    make.create(folder)
}

/// Heard from the moment this is called; what it gives resolves on Ctrl-C or a polite request to end.
fn stopped() -> std::io::Result<impl Future<Output = ()>> {
    let mut end = tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate())?;
    Ok(async move {
        tokio::select! {
            _ = tokio::signal::ctrl_c() => {}
            _ = end.recv() => {}
        }
    })
}
