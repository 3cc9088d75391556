//! Kame's server: the REST interface over the store and the core, and the front end inside the binary.
#![warn(missing_docs)]

pub mod api;
mod assets;
mod changes;
mod demo;
mod guard;
mod problem;

pub use demo::load_demo;

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
use tower_http::trace::TraceLayer;

/// What handlers share.
#[derive(Clone)]
pub struct App {
    /// The jobs.
    pub store: Arc<Store>,
    /// What was computed already.
    pub known: Arc<Known>,
    /// What changed, told as it happens.
    pub changes: changes::Changes,
    /// Where the server listens.
    pub address: SocketAddr,
}

/// Scripts and everything else from here only; styles may stand inline, because the controls write their own at run time.
const CONTENT_SECURITY_POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; \
                                       font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

/// The whole application.
pub fn router(app: App) -> Router {
    let header = |name: HeaderName, value: &'static str| {
        SetResponseHeaderLayer::overriding(name, HeaderValue::from_static(value))
    };
    // Answers are packed in a hurry: a large building's is megabytes, and who waits for it sits at the machine or beside it.
    api::router()
        .layer(CompressionLayer::new().quality(CompressionLevel::Fastest))
        .fallback(assets::serve)
        .layer(axum::middleware::from_fn_with_state(app.clone(), guard::same_origin))
        .with_state(app)
        .layer(CompressionLayer::new())
        .layer(header(header::CONTENT_SECURITY_POLICY, CONTENT_SECURITY_POLICY))
        .layer(header(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(header(header::X_FRAME_OPTIONS, "DENY"))
        .layer(header(header::REFERRER_POLICY, "no-referrer"))
        .layer(header(HeaderName::from_static("cross-origin-opener-policy"), "same-origin"))
        .layer(CatchPanicLayer::custom(problem::panicked))
        .layer(TraceLayer::new_for_http())
}

/// Serves until `stop` resolves, then lets what is under way end.
///
/// # Errors
/// What the listener says.
pub async fn serve(
    listener: TcpListener,
    store: Arc<Store>,
    stop: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    let address = listener.local_addr()?;
    let changes = changes::Changes::default();
    let app = App { store, known: Arc::default(), changes: changes.clone(), address };
    // Who only listens is sent home, or the server would wait for them.
    let stop = async move {
        stop.await;
        changes.end();
    };
    axum::serve(listener, router(app)).with_graceful_shutdown(stop).await
}
