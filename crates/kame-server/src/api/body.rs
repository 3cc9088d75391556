//! Reading what comes in, so that every refusal is a sentence with a path.

use super::LARGEST_BODY;
use crate::App;
use crate::problem::Fault;
use axum::body::Bytes;
use axum::extract::rejection::{BytesRejection, PathRejection, QueryRejection};
use axum::extract::{DefaultBodyLimit, FromRequest, FromRequestParts, Path, Query, Request};
use axum::http::request::Parts;
use axum::http::{StatusCode, header};
use kame_core::language::Language;
use kame_core::problem::Problem;
use serde::de::DeserializeOwned;
use std::convert::Infallible;
use tower_http::timeout::TimeoutError;

/// A whole body of at most so many megabytes.
pub struct Whole<const MB: usize = { LARGEST_BODY >> 20 }>(pub Bytes);

impl<S: Send + Sync, const MB: usize> FromRequest<S> for Whole<MB> {
    type Rejection = Fault;
    async fn from_request(mut request: Request, state: &S) -> Result<Self, Fault> {
        DefaultBodyLimit::max(MB << 20).apply(&mut request);
        let read = Bytes::from_request(request, state).await;
        read.map(Whole).map_err(|e: BytesRejection| {
            if e.status() == StatusCode::PAYLOAD_TOO_LARGE {
                return Fault::TooLarge(format!("the file is larger than {MB} MB, the most that is taken; a whole wall takes a few kB: is it the right file?"));
            }
            if stopped_coming(&e) {
                return Fault::TooSlow;
            }
            Fault::Unreadable(format!("the body could not be read: {e}"))
        })
    }
}

/// True where the rest of a body did not come in time.
fn stopped_coming(e: &(dyn std::error::Error + 'static)) -> bool {
    std::iter::successors(Some(e), |e| e.source()).any(|e| e.is::<TimeoutError>())
}

/// A JSON body. The message names path, what was found and what is expected.
pub struct Json<T>(pub T);

/// Longer bodies are read off the async threads.
const SHORT: usize = 16 * 1024;

impl<T: DeserializeOwned + Send + 'static> FromRequest<App> for Json<T> {
    type Rejection = Fault;
    async fn from_request(request: Request, app: &App) -> Result<Self, Fault> {
        let Whole(bytes): Whole = Whole::from_request(request, app).await?;
        if bytes.len() <= SHORT {
            return read_json(&bytes).map(Json);
        }
        app.works.small.quickly(move || read_json(&bytes).map(Json)).await
    }
}

/// Reads JSON.
pub fn read_json<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, Fault> {
    let mut de = serde_json::Deserializer::from_slice(bytes);
    serde_path_to_error::deserialize(&mut de).map_err(|e| {
        let inner = e.inner();
        if inner.is_syntax() || inner.is_eof() {
            return Fault::Unreadable(format!("the body is not JSON: {inner}"));
        }
        let path = e.path().to_string();
        let path = if path == "." {
            field_at_fault::<T>(bytes, &inner.to_string()).map_or("$".into(), |f| format!("$.{f}"))
        } else {
            format!("$.{path}")
        };
        Fault::Refused(vec![Problem::new(path, inner.to_string())])
    })
}

/// Of so many fields the one at fault is looked for: what is sent has fewer.
const MOST_FIELDS: usize = 24;

/// Values that choose their own shape by a tag are read in one go, so the path ends at the whole. The field at fault is the one without
/// which it reads, or at least the complaint is another.
fn field_at_fault<T: DeserializeOwned>(bytes: &[u8], complaint: &str) -> Option<String> {
    let whole: serde_json::Map<String, serde_json::Value> = serde_json::from_slice(bytes).ok()?;
    if whole.len() > MOST_FIELDS || bytes.len() > SHORT {
        return None;
    }
    let without = |key: &String| {
        let mut rest = whole.clone();
        rest.remove(key);
        serde_json::from_value::<T>(rest.into()).map_err(|e| e.to_string())
    };
    let cures = whole.keys().find(|k| without(k).is_ok());
    cures.or_else(|| whole.keys().find(|k| without(k).is_err_and(|e| e != complaint))).cloned()
}

/// The number of a job in the address.
pub struct JobId(pub i64);

impl<S: Send + Sync> FromRequestParts<S> for JobId {
    type Rejection = Fault;
    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Fault> {
        let read = Path::<i64>::from_request_parts(parts, state).await;
        read.map(|Path(id)| Self(id)).map_err(|_: PathRejection| {
            Fault::NoSuchPlace(format!("{} names no job: jobs have numbers", parts.uri.path()))
        })
    }
}

/// The number of something else in the address.
pub struct Number(pub i64);

impl<S: Send + Sync> FromRequestParts<S> for Number {
    type Rejection = Fault;
    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Fault> {
        let read = Path::<i64>::from_request_parts(parts, state).await;
        read.map(|Path(id)| Self(id)).map_err(|_: PathRejection| {
            Fault::NoSuchPlace(format!("{} names nothing: it should end in a number", parts.uri.path()))
        })
    }
}

/// The number of a job and the name of a part of it, from the address.
pub struct JobPart(pub i64, pub String);

impl<S: Send + Sync> FromRequestParts<S> for JobPart {
    type Rejection = Fault;
    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Fault> {
        let read = Path::<(i64, String)>::from_request_parts(parts, state).await;
        read.map(|Path((id, part))| Self(id, part)).map_err(|_: PathRejection| {
            Fault::NoSuchPlace(format!("{} names no job: jobs have numbers", parts.uri.path()))
        })
    }
}

/// The query of an address.
pub struct Ask<T>(pub T);

impl<S: Send + Sync, T: DeserializeOwned> FromRequestParts<S> for Ask<T> {
    type Rejection = Fault;
    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Fault> {
        let read = Query::<T>::from_request_parts(parts, state).await;
        read.map(|Query(q)| Self(q))
            .map_err(|e: QueryRejection| Fault::Refused(vec![Problem::new("$query", e.body_text())]))
    }
}

/// The revision on which a change was made, from `If-Match: "5"`.
pub struct Revision(pub i64);

impl<S: Send + Sync> FromRequestParts<S> for Revision {
    type Rejection = Fault;
    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Fault> {
        let given = parts.headers.get(header::IF_MATCH).ok_or(Fault::NoRevision)?;
        let number = given.to_str().ok().and_then(|t| t.trim().trim_matches('"').parse().ok());
        number
            .map(Revision)
            .ok_or_else(|| Fault::Unreadable(format!("If-Match is {given:?}, expected a revision such as \"5\"")))
    }
}

/// The language in which the core's words are shown, by `Accept-Language`.
#[derive(Clone, Copy)]
pub struct Spoken(pub Language);

impl<S: Send + Sync> FromRequestParts<S> for Spoken {
    type Rejection = Infallible;
    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        let given = parts.headers.get(header::ACCEPT_LANGUAGE).and_then(|v| v.to_str().ok());
        Ok(Self(given.map(Language::asked).unwrap_or_default()))
    }
}
