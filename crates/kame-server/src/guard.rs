//! Keeps other web pages out: a page from elsewhere can neither change a job nor have anything computed through the visitor's browser, nor read one
//! by a rebound name.

use crate::App;
use crate::problem::Fault;
use axum::extract::{Request, State};
use axum::http::{HeaderMap, HeaderName, Method, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use std::net::SocketAddr;
use std::sync::Arc;

/// Where a request comes from, as browsers say it.
const FETCH_SITE: HeaderName = HeaderName::from_static("sec-fetch-site");

/// The names under which Kame is reached. Any other is somebody else's name for this address.
#[derive(Clone, Debug)]
pub struct Hosts(Arc<Vec<String>>);

impl Hosts {
    /// This machine's own names, the address that is listened on, and what was named beside them.
    pub fn new(address: SocketAddr, named: &[String]) -> Self {
        let own = ["localhost", "127.0.0.1", "[::1]"].map(str::to_owned);
        let bound = (!address.ip().is_unspecified()).then(|| match address.ip() {
            std::net::IpAddr::V4(ip) => ip.to_string(),
            std::net::IpAddr::V6(ip) => format!("[{ip}]"),
        });
        let named = named.iter().map(|n| n.to_ascii_lowercase());
        Self(Arc::new(own.into_iter().chain(bound).chain(named).collect()))
    }

    /// True for the name in a `Host` header, with or without a port.
    fn has(&self, host: &str) -> bool {
        let name = match host.rsplit_once(':') {
            Some((name, port)) if port.bytes().all(|b| b.is_ascii_digit()) => name,
            _ => host,
        };
        self.0.iter().any(|known| known.eq_ignore_ascii_case(name))
    }
}

fn text(headers: &HeaderMap, name: HeaderName) -> Option<&str> {
    headers.get(name).and_then(|v| v.to_str().ok())
}

/// Refuses requests that name another host, and those that another page makes.
pub async fn same_origin(State(app): State<App>, request: Request, next: Next) -> Response {
    let host = text(request.headers(), header::HOST).unwrap_or_default();
    if !app.hosts.has(host) {
        let shown: String = host.chars().take(80).collect();
        return Fault::forbidden(format!(
            "the request names the host \"{shown}\"; open Kame as http://{}, or start it with --host {shown} if that is its name",
            app.address
        ))
        .into_response();
    }
    let changes = !matches!(*request.method(), Method::GET | Method::HEAD);
    let origin = text(request.headers(), header::ORIGIN);
    let elsewhere = origin.filter(|o| o.split_once("://").is_none_or(|(_, h)| !h.eq_ignore_ascii_case(host)));
    if let Some(from) = elsewhere.filter(|_| changes) {
        return Fault::forbidden(format!("the request comes from {from}; only Kame's own pages may change jobs"))
            .into_response();
    }
    let site = text(request.headers(), FETCH_SITE);
    let asked_by_another = site.is_some_and(|site| !matches!(site, "same-origin" | "none"));
    if asked_by_another && request.uri().path().starts_with("/api/") {
        return Fault::forbidden("the request comes from another site; only Kame's own pages may ask for jobs".into())
            .into_response();
    }
    next.run(request).await
}
