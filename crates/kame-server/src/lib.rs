//! Kame's server: the REST interface over the store and the core, and the front end inside the binary.
#![warn(missing_docs)]

pub mod api;
mod assets;
mod changes;
mod demo;
mod guard;
mod listen;
mod problem;
mod recent;
mod roles;
mod who;
mod work;

pub use demo::load_demo;
pub use listen::Patience;
pub use who::secret;

use axum::Router;
use axum::http::{HeaderName, HeaderValue, header};
use kame_core::view::Known;
use kame_store::Store;
use std::net::SocketAddr;
use std::sync::Arc;
use tokio::net::TcpListener;
use tower_http::CompressionLevel;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::timeout::RequestBodyTimeoutLayer;
use tower_http::trace::TraceLayer;
use work::Works;

/// What handlers share.
#[derive(Clone)]
pub struct App {
    /// The jobs.
    pub store: Arc<Store>,
    /// What was computed already.
    pub known: Arc<Known>,
    /// What was answered lately.
    pub recent: Arc<recent::Recent>,
    /// What changed, told as it happens.
    pub changes: changes::Changes,
    /// Where work is done.
    pub works: Works,
    /// Where the server listens.
    pub address: SocketAddr,
    /// Under which names it is reached.
    pub hosts: guard::Hosts,
    /// Where instruments are, where there are any.
    pub instruments: Option<Arc<str>>,
    /// Asks them.
    pub http: reqwest::Client,
    /// How people come in.
    pub doors: who::Doors,
    /// How long one may listen for changes before asking anew; no end where nobody signs in.
    pub listening: Option<std::time::Duration>,
}

/// Scripts, styles and everything else from here only. What the controls write themselves bears the number of the page that they are on.
fn content_security_policy(page: Option<&str>) -> String {
    let styles = page.map_or(String::new(), |nonce| format!(" 'nonce-{nonce}'"));
    format!(
        "default-src 'self'; script-src 'self'; style-src 'self'{styles}; img-src 'self' data:; font-src 'self'; connect-src 'self'; object-src 'none'; \
         base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    )
}

/// Of what a browser can do only the camera is used, for photographs and labels.
const PERMISSIONS: &str = "camera=(self), geolocation=(), microphone=(), payment=(), usb=()";

/// The whole application.
fn router(app: App, patience: Patience) -> Router {
    let header = |name: HeaderName, value: &'static str| {
        SetResponseHeaderLayer::overriding(name, HeaderValue::from_static(value))
    };
    // A page says its own.
    let elsewhere = HeaderValue::from_str(&content_security_policy(None)).ok();
    // Answers are packed in a hurry: a large building's is megabytes, and who waits for it sits at the machine or beside it.
    api::router()
        .layer(CompressionLayer::new().quality(CompressionLevel::Fastest))
        .fallback(assets::serve)
        .layer(axum::middleware::from_fn_with_state(app.clone(), who::enter))
        .layer(who::sessions(Arc::clone(&app.store), &app.doors))
        .layer(axum::middleware::from_fn_with_state(app.clone(), guard::same_origin))
        .with_state(app)
        .layer(CompressionLayer::new())
        .layer(SetResponseHeaderLayer::if_not_present(header::CONTENT_SECURITY_POLICY, elsewhere))
        .layer(header(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(header(header::X_FRAME_OPTIONS, "DENY"))
        .layer(header(header::REFERRER_POLICY, "no-referrer"))
        .layer(header(HeaderName::from_static("cross-origin-opener-policy"), "same-origin"))
        .layer(header(HeaderName::from_static("cross-origin-resource-policy"), "same-origin"))
        .layer(header(HeaderName::from_static("permissions-policy"), PERMISSIONS))
        .layer(header(HeaderName::from_static("x-robots-tag"), "noindex, nofollow"))
        .layer(SetResponseHeaderLayer::if_not_present(header::CACHE_CONTROL, HeaderValue::from_static("no-store")))
        .layer(CatchPanicLayer::custom(problem::panicked))
        .layer(RequestBodyTimeoutLayer::new(patience.body))
        .layer(TraceLayer::new_for_http())
}

/// How it is served.
#[derive(Clone, Debug, Default)]
pub struct Serving {
    /// Hosts it is reached by besides this machine's own names.
    pub hosts: Vec<String>,
    /// How long others are waited for.
    pub patience: Patience,
    /// No question is worked at for longer than this, nor than its own limit.
    pub longest: Option<std::time::Duration>,
    /// Address of instruments, as `http://127.0.0.1:4610`.
    pub instruments: Option<String>,
    /// Whether people sign in.
    pub sign_in: bool,
    /// Whether passwords may come over plain HTTP.
    pub plain_http: bool,
    /// Whether owners say who may do what with a second factor alone.
    pub owners_by_two: bool,
}

/// Serves until `stop` resolves, then lets what is under way end for a few seconds.
///
/// # Errors
/// What the listener says; where threads cannot be made.
pub async fn serve(
    listener: TcpListener,
    store: Arc<Store>,
    how: Serving,
    stop: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    let address = listener.local_addr()?;
    let changes = changes::Changes::default();
    let works = Works::new(how.longest).map_err(std::io::Error::other)?;
    let hosts = guard::Hosts::new(address, &how.hosts);
    let app = App {
        store,
        known: Arc::default(),
        recent: Arc::default(),
        changes: changes.clone(),
        works,
        address,
        hosts,
        instruments: how.instruments.as_deref().map(|base| base.trim_end_matches('/').into()),
        // Instruments are near: nobody stands between.
        http: reqwest::Client::builder().no_proxy().build().map_err(std::io::Error::other)?,
        doors: who::Doors::new(how.sign_in, how.plain_http, how.owners_by_two),
        listening: how.sign_in.then_some(how.patience.listening),
    };
    // Who only listens is sent home, or the server would wait for them.
    let stop = async move {
        stop.await;
        changes.end();
    };
    listen::serve(listener, router(app, how.patience), how.patience, stop).await;
    Ok(())
}
