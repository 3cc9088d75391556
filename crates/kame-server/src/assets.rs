//! The front end inside the binary.

use crate::problem::Fault;
use axum::http::{Method, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Dist;

/// Stands in the page where its number goes, another each time: styles that bear it are the page's own.
const NONCE: &str = "KAME-PAGE-NUMBER";

/// A file of the front end; any other address is a screen of it.
pub async fn serve(method: Method, uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    if path == "api" || path.starts_with("api/") || !matches!(method, Method::GET | Method::HEAD) {
        return Fault::NoSuchPlace(format!(
            "there is nothing at {} {}; /api/openapi.json lists what there is",
            method,
            uri.path()
        ))
        .into_response();
    }
    let (name, file) = match Dist::get(path) {
        Some(file) => (path, Some(file)),
        None if path.starts_with("assets/") => (path, None),
        None => ("index.html", Dist::get("index.html")),
    };
    let Some(file) = file else {
        return Fault::NoSuchPlace(format!("there is no {name}; the front end may not be built: run make demo"))
            .into_response();
    };
    // Built names carry a hash, so they never change; the page itself may.
    let cache = if name.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    let kind = mime_guess::from_path(name).first_or_octet_stream().to_string();
    let headers = [(header::CONTENT_TYPE, kind), (header::CACHE_CONTROL, cache.to_owned())];
    match std::str::from_utf8(&file.data) {
        Ok(page) if name == "index.html" => {
            let nonce = crate::who::secret();
            let policy = [(header::CONTENT_SECURITY_POLICY, crate::content_security_policy(Some(&nonce)))];
            (headers, policy, page.replace(NONCE, &nonce)).into_response()
        }
        _ => (headers, file.data).into_response(),
    }
}
