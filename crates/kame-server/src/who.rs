//! Who asks, and what they may do. Where nobody has to sign in everybody may do everything, as on one's own machine. Elsewhere each request is held
//! against its session, the role it needs, the token of the page it comes from, and how much one person or address may ask.

use crate::App;
use crate::problem::Fault;
use crate::roles::least_role;
use async_trait::async_trait;
use axum::extract::{FromRequestParts, Request, State};
use axum::http::request::Parts;
use axum::http::{HeaderName, Method};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use governor::clock::{Clock, DefaultClock};
use governor::{DefaultKeyedRateLimiter, Quota, RateLimiter};
use kame_store::{Person, Role, Share, Store, StoreError};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use std::net::IpAddr;
use std::num::NonZeroU32;
use std::sync::Arc;
use time::{Duration, OffsetDateTime};
use tower_sessions::session::{Id, Record};
use tower_sessions::session_store::{Error as SessionFault, Result as Sessioned};
use tower_sessions::{Expiry, Session, SessionManagerLayer, SessionStore, cookie::SameSite};

/// A session in which nothing is asked ends after so long, and each after so long whatever is asked.
const IDLE: Duration = Duration::hours(12);
const LONGEST: Duration = Duration::days(30);
/// When it was last used is written down no more often than this.
const SEEN_EVERY: Duration = Duration::minutes(10);
/// What others may do is changed by who said their password no longer ago than this.
const PROVED: Duration = Duration::minutes(15);
/// What stands in a session.
const KEPT: &str = "kept";
/// The header in which a page says its token.
pub const TOKEN: HeaderName = HeaderName::from_static("x-kame-token");

/// Who asks.
#[derive(Clone, Debug)]
pub enum Who {
    /// Nobody signs in here.
    Anybody,
    /// Somebody who signed in.
    Person(Arc<Person>),
    /// Somebody with a link to a job.
    Guest(Arc<Share>),
    /// Nobody who signed in.
    Nobody,
}

impl Who {
    /// What stands beside what they do; empty where nobody signs in.
    pub fn name(&self) -> &str {
        match self {
            Self::Person(p) => &p.name,
            Self::Anybody | Self::Guest(_) | Self::Nobody => "",
        }
    }

    /// What they may do on a job, or in the firm.
    pub fn may(&self, job: Option<i64>) -> Role {
        match self {
            Self::Anybody => Role::Owner,
            Self::Person(p) => p.may(job),
            Self::Guest(s) if job == Some(s.job) => Role::Viewer,
            Self::Guest(_) | Self::Nobody => Role::None,
        }
    }
}

impl<S: Sync> FromRequestParts<S> for Who {
    type Rejection = Fault;
    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Fault> {
        Ok(parts.extensions.get().cloned().unwrap_or(Self::Nobody))
    }
}

/// From which address somebody asks.
#[derive(Clone, Copy, Debug)]
pub struct Peer(pub IpAddr);

/// What a session holds.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Kept {
    /// Number of the person, or of the link.
    pub id: i64,
    /// The number that the person's sessions had; none for a link.
    pub epoch: Option<i64>,
    /// When it began, seconds since 1970.
    pub since: i64,
    /// When it was last used.
    pub seen: i64,
    /// What a page says with each change.
    pub token: String,
    /// When the password was said last.
    #[serde(default)]
    pub proved: i64,
}

impl Kept {
    /// A session that begins now.
    pub fn new(id: i64, epoch: Option<i64>) -> Self {
        let now = OffsetDateTime::now_utc().unix_timestamp();
        Self { id, epoch, since: now, seen: now, token: secret(), proved: now }
    }

    /// A session that goes on under another number: the password was said as long ago as before.
    pub fn goes_on(before: Option<&Self>, id: i64, epoch: i64) -> Self {
        Self { proved: before.map_or(0, |k| k.proved), ..Self::new(id, Some(epoch)) }
    }
}

/// Letters of secrets: none that are taken for each other.
const LETTERS: &[u8; 32] = b"abcdefghjkmnpqrstuvwxyz234567890";

/// Bytes that nobody guesses, up to 32.
pub fn chance<const N: usize>() -> [u8; N] {
    // The numbers of sessions come from the system's own source of chance.
    let all: Vec<u8> = (0..2).flat_map(|_| Id::default().0.to_le_bytes()).collect();
    std::array::from_fn(|i| all[i])
}

/// A secret of 160 bits that nobody guesses.
pub fn secret() -> String {
    chance::<32>().iter().map(|b| LETTERS[usize::from(b & 31)] as char).collect()
}

/// How people come in.
#[derive(Clone)]
pub struct Doors {
    /// Whether they have to sign in.
    pub required: bool,
    /// Whether passwords may come over plain HTTP.
    pub plain_http: bool,
    /// Whether owners say who may do what with a second factor alone.
    pub owners_by_two: bool,
    limits: Arc<Limits>,
}

/// How much is asked at most, by whom or from where.
struct Limits {
    /// Tries to sign in, by the name they are for.
    tries: DefaultKeyedRateLimiter<String>,
    /// Tries, codes and links, by address: a whole office may come from one.
    doors: DefaultKeyedRateLimiter<String>,
    /// Changes.
    changes: DefaultKeyedRateLimiter<String>,
    /// What is worked out.
    work: DefaultKeyedRateLimiter<String>,
}

/// A try to sign in with a name every so many seconds, after the first so many at once; and at the doors from one address.
const TRY_EVERY_S: u64 = 30;
const TRIES: u32 = 10;
const AT_DOORS_EVERY_S: u64 = 2;
const AT_DOORS: u32 = 120;
/// Changes and questions of one person a minute.
const CHANGES: u32 = 600;
const QUESTIONS: u32 = 1200;

impl Doors {
    /// Doors that are open to everybody, or to who signs in.
    pub fn new(required: bool, plain_http: bool, owners_by_two: bool) -> Self {
        let of = |n: u32| NonZeroU32::new(n).unwrap_or(NonZeroU32::MIN);
        let every = |s: u64, burst: u32| {
            let quota = Quota::with_period(std::time::Duration::from_secs(s));
            quota.map_or(Quota::per_minute(of(2)), |q| q.allow_burst(of(burst)))
        };
        let limits = Limits {
            tries: RateLimiter::keyed(every(TRY_EVERY_S, TRIES)),
            doors: RateLimiter::keyed(every(AT_DOORS_EVERY_S, AT_DOORS)),
            changes: RateLimiter::keyed(Quota::per_minute(of(CHANGES))),
            work: RateLimiter::keyed(Quota::per_minute(of(QUESTIONS))),
        };
        Self { required, plain_http, owners_by_two, limits: Arc::new(limits) }
    }

    /// One more try to sign in, for a name and from an address.
    ///
    /// # Errors
    /// Where there were too many.
    pub fn tries(&self, login: &str, from: Option<IpAddr>) -> Result<(), Fault> {
        self.comes(from)?;
        held(&self.limits.tries, login.to_lowercase())
    }

    /// Somebody more with a code or a link, which nobody guesses.
    ///
    /// # Errors
    /// Where there were too many from one address.
    pub fn comes(&self, from: Option<IpAddr>) -> Result<(), Fault> {
        from.map_or(Ok(()), |ip| held(&self.limits.doors, ip.to_string()))
    }
}

/// One more of what is limited.
fn held(limiter: &DefaultKeyedRateLimiter<String>, key: String) -> Result<(), Fault> {
    /// Keys that are remembered; those that have been quiet are forgotten first.
    const MOST_KEYS: usize = 20_000;
    if limiter.len() > MOST_KEYS {
        limiter.retain_recent();
    }
    limiter.check_key(&key).map_err(|not| {
        let wait = not.wait_time_from(DefaultClock::default().now()).as_secs() + 1;
        let again_s = u32::try_from(wait).unwrap_or(u32::MAX);
        Fault::TooMany { detail: format!("that is asked too often: come again in {again_s} s"), again_s }
    })
}

/// Sessions in the database.
#[derive(Clone)]
pub struct Sessions(Arc<Store>);

impl std::fmt::Debug for Sessions {
    fn fmt(&self, f: &mut std::fmt::Formatter) -> std::fmt::Result {
        f.write_str("Sessions")
    }
}

impl Sessions {
    async fn with<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Sessioned<T> {
        let store = Arc::clone(&self.0);
        let done = tokio::task::spawn_blocking(move || work(&store)).await;
        done.map_err(|e| SessionFault::Backend(e.to_string()))?.map_err(|e| SessionFault::Backend(e.to_string()))
    }
}

#[async_trait]
impl SessionStore for Sessions {
    async fn save(&self, record: &Record) -> Sessioned<()> {
        let data = serde_json::to_string(&record.data).map_err(|e| SessionFault::Encode(e.to_string()))?;
        let (key, until) = (record.id.to_string(), record.expiry_date.unix_timestamp());
        self.with(move |s| s.keep_session(&key, &data, until)).await
    }

    async fn load(&self, id: &Id) -> Sessioned<Option<Record>> {
        let key = id.to_string();
        let Some((data, until)) = self.with(move |s| s.session(&key)).await? else { return Ok(None) };
        let data = serde_json::from_str(&data).map_err(|e| SessionFault::Decode(e.to_string()))?;
        let until = OffsetDateTime::from_unix_timestamp(until).map_err(|e| SessionFault::Decode(e.to_string()))?;
        Ok(Some(Record { id: *id, data, expiry_date: until }))
    }

    async fn delete(&self, id: &Id) -> Sessioned<()> {
        let key = id.to_string();
        self.with(move |s| s.end_session(&key)).await
    }
}

/// Sessions by a cookie that scripts cannot read, that no other site sends, and that goes over TLS alone unless plain HTTP is meant.
pub fn sessions(store: Arc<Store>, doors: &Doors) -> SessionManagerLayer<Sessions> {
    let name = if doors.plain_http { "kame" } else { "__Host-kame" };
    SessionManagerLayer::new(Sessions(store))
        .with_name(name)
        .with_http_only(true)
        .with_same_site(SameSite::Lax)
        .with_secure(!doors.plain_http)
        .with_path("/")
        .with_expiry(Expiry::OnInactivity(IDLE))
}

fn lost(e: impl std::fmt::Display) -> Fault {
    Fault::Internal(format!("the session: {e}"))
}

/// Begins a session, under another name than whatever was before.
///
/// # Errors
/// Where it cannot be kept.
pub async fn begin(session: &Session, kept: &Kept) -> Result<(), Fault> {
    session.cycle_id().await.map_err(lost)?;
    session.insert(KEPT, kept).await.map_err(lost)
}

/// Ends a session.
///
/// # Errors
/// Where it cannot be ended.
pub async fn end(session: &Session) -> Result<(), Fault> {
    session.flush().await.map_err(lost)
}

/// Puts something beside what stands in a session.
///
/// # Errors
/// Where it cannot be kept.
pub async fn put(session: &Session, name: &str, what: &impl Serialize) -> Result<(), Fault> {
    session.insert(name, what).await.map_err(lost)
}

/// Takes something out of a session.
///
/// # Errors
/// Where it cannot be read.
pub async fn taken<T: DeserializeOwned>(session: &Session, name: &str) -> Result<Option<T>, Fault> {
    session.remove(name).await.map_err(lost)
}

/// The password was said once more.
///
/// # Errors
/// Where it cannot be kept.
pub async fn prove(app: &App, session: &Session) -> Result<(), Fault> {
    let Some(kept) = kept(app, session).await? else { return Err(Fault::NotSignedIn) };
    put(session, KEPT, &Kept { proved: OffsetDateTime::now_utc().unix_timestamp(), ..kept }).await
}

/// What stands in a session that has not ended.
///
/// # Errors
/// Where it cannot be read.
pub async fn kept(app: &App, session: &Session) -> Result<Option<Kept>, Fault> {
    let Some(mut kept) = session.get::<Kept>(KEPT).await.map_err(lost)? else { return Ok(None) };
    let now = OffsetDateTime::now_utc().unix_timestamp();
    if now - kept.since > LONGEST.whole_seconds() {
        end(session).await?;
        return Ok(None);
    }
    // Where nothing can be written who is in goes on reading.
    if now - kept.seen > SEEN_EVERY.whole_seconds() && app.store.read_only().is_none() {
        kept.seen = now;
        session.insert(KEPT, &kept).await.map_err(lost)?;
    }
    Ok(Some(kept))
}

/// Who a session belongs to.
async fn who_in(app: &App, kept: &Kept) -> Result<Who, Fault> {
    let (store, id, epoch) = (Arc::clone(&app.store), kept.id, kept.epoch);
    let find = move || match epoch {
        Some(epoch) => Ok(store.person_in(id, epoch)?.map_or(Who::Nobody, |p| Who::Person(Arc::new(p)))),
        None => Ok(store.share_of(id)?.map_or(Who::Nobody, |s| Who::Guest(Arc::new(s)))),
    };
    tokio::task::spawn_blocking(find).await.map_err(lost)?.map_err(|e: StoreError| e.into())
}

/// Number of the job that an address is about.
fn job_of(path: &str) -> Option<i64> {
    path.strip_prefix("/api/jobs/")?.split('/').next()?.parse().ok()
}

/// From which address somebody asks: what a proxy on this machine says, or the connection's own.
pub fn address(request: &Parts) -> Option<IpAddr> {
    let peer = request.extensions.get::<Peer>().map(|p| p.0)?;
    if !peer.is_loopback() {
        return Some(peer);
    }
    let said = request.headers.get("x-forwarded-for").and_then(|v| v.to_str().ok());
    // The last is what the proxy itself saw; what stands before it anybody can write.
    Some(said.and_then(|v| v.rsplit(',').next()?.trim().parse().ok()).unwrap_or(peer))
}

/// Lets a request in, or says why not.
pub async fn enter(State(app): State<App>, session: Session, request: Request, next: Next) -> Response {
    match entered(&app, &session, request).await {
        Ok(request) => next.run(request).await,
        Err(fault) => fault.into_response(),
    }
}

async fn entered(app: &App, session: &Session, request: Request) -> Result<Request, Fault> {
    let (mut parts, body) = request.into_parts();
    let path = parts.uri.path().to_owned();
    if !app.doors.required {
        parts.extensions.insert(Who::Anybody);
        return Ok(Request::from_parts(parts, body));
    }
    let is_api = path.starts_with("/api/");
    // A number that is written otherwise, as with %34 for 4, would be of a job whose roles were not looked at.
    if path.starts_with("/api/jobs/") && job_of(&path).is_none() {
        return Err(Fault::NoSuchPlace("the address names no job: jobs have numbers, written in digits".into()));
    }
    let kept = if is_api { kept(app, session).await? } else { None };
    let who = match &kept {
        Some(kept) => who_in(app, kept).await?,
        None => Who::Nobody,
    };
    let changes = !matches!(parts.method, Method::GET | Method::HEAD | Method::OPTIONS);
    if is_api && let Some(needed) = least_role(&parts.method, &path) {
        if matches!(who, Who::Nobody) {
            return Err(Fault::NotSignedIn);
        }
        let has = who.may(job_of(&path));
        // Lists are read by everybody who signed in, and hold what they may see.
        let is_list = parts.method == Method::GET && path == "/api/jobs" && matches!(who, Who::Person(_));
        if has < needed && !is_list {
            return Err(Fault::forbidden(format!(
                "that takes a {} here: ask an owner for it",
                serde_json::to_value(needed).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
            )));
        }
        if let Who::Person(p) = &who
            && needed == Role::Owner
        {
            if app.doors.owners_by_two && !p.second_factor {
                return Err(Fault::forbidden(
                    "owners have a second factor here: set yours first, under your own name".into(),
                ));
            }
            let proved = kept.as_ref().map_or(0, |k| k.proved);
            if changes && OffsetDateTime::now_utc().unix_timestamp() - proved > PROVED.whole_seconds() {
                return Err(Fault::ProveAgain);
            }
        }
        if let Who::Guest(share) = &who
            && path != "/api/sign-out"
        {
            outside(share, &path)?;
        }
        let key = who_key(&who, &parts);
        if changes {
            let said = parts.headers.get(TOKEN).and_then(|v| v.to_str().ok());
            if said.is_none() || said != kept.as_ref().map(|k| k.token.as_str()) {
                return Err(Fault::forbidden("the page is not of this session any more: load it again".into()));
            }
            held(&app.doors.limits.changes, key)?;
        } else {
            held(&app.doors.limits.work, key)?;
        }
    }
    parts.extensions.insert(who);
    Ok(Request::from_parts(parts, body))
}

fn who_key(who: &Who, parts: &Parts) -> String {
    match who {
        Who::Person(p) => format!("person {}", p.id),
        Who::Guest(s) => format!("link {} {:?}", s.id, address(parts)),
        Who::Anybody | Who::Nobody => format!("{:?}", address(parts)),
    }
}

/// A link shows a job without its record, history and calendar, in which people are named, and without what the whole firm does; one to an opening
/// shows how it stands and its steps alone.
fn outside(share: &Share, path: &str) -> Result<(), Fault> {
    let refused = || Fault::forbidden("the link does not show that".into());
    let rest = path.strip_prefix(&format!("/api/jobs/{}", share.job)).ok_or_else(refused)?;
    let steps = ["", "/checks", "/pictures", "/stands", "/nights"];
    let within = ["/record", "/minutes", "/history", "/shares", "/calendar", "/photos", "/way"];
    let is = |list: &[&str]| list.iter().any(|p| rest == *p || (!p.is_empty() && rest.starts_with(&format!("{p}/"))));
    if is(&within) || (share.place.is_some() && !is(&steps)) {
        return Err(refused());
    }
    Ok(())
}
