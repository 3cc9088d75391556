//! Keeps other web pages out: a page from elsewhere cannot change a job through the visitor's browser, nor read one by a rebound name.

use crate::App;
use crate::problem::Fault;
use axum::extract::{Request, State};
use axum::http::{HeaderMap, Method, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

fn text(headers: &HeaderMap, name: header::HeaderName) -> Option<&str> {
    headers.get(name).and_then(|v| v.to_str().ok())
}

/// Refuses requests that name another host (on loopback) or come from another origin (where they change something).
pub async fn same_origin(State(app): State<App>, request: Request, next: Next) -> Response {
    let host = text(request.headers(), header::HOST).unwrap_or_default();
    if app.address.ip().is_loopback() {
        let name = host.rsplit_once(':').map_or(host, |(name, _)| name);
        if !matches!(name, "127.0.0.1" | "localhost" | "[::1]") {
            return Fault::forbidden(format!(
                "the request names the host \"{host}\"; open Kame as http://{}",
                app.address
            ))
            .into_response();
        }
    }
    if !matches!(*request.method(), Method::GET | Method::HEAD) {
        let origin = text(request.headers(), header::ORIGIN);
        if let Some(from) = origin.filter(|o| o.split_once("://").is_none_or(|(_, h)| h != host)) {
            return Fault::forbidden(format!("the request comes from {from}; only Kame's own pages may change jobs"))
                .into_response();
        }
    }
    next.run(request).await
}
