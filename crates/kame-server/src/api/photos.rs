//! Photographs of the record.

use super::body::{Ask, JobPart, Whole};
use super::jobs::stored;
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use kame_store::{LARGEST_PHOTO, Position};
use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};

/// Whether a photograph may say where it was taken.
#[derive(Clone, Copy, Debug, Default, Deserialize, PartialEq, Eq, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum Wanted {
    /// It is refused where it does.
    #[default]
    Without,
    /// It was wanted.
    Kept,
}

/// How a photograph is sent.
#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct Sending {
    /// `kept` where the position in it was wanted.
    #[serde(default)]
    #[param(inline)]
    pub position: Wanted,
}

/// Keeps a photograph under its SHA-256: it is on the disk for good when this is answered, and may then be named by an entry. At most 8 MB; JPEG, PNG or WebP.
#[utoipa::path(put, path = "/api/jobs/{id}/photos/{hash}", params(("id" = i64, Path), ("hash" = String, Path), Sending), request_body(content = Vec<u8>, content_type = "image/jpeg"), responses((status = 204), (status = 404, body = ProblemDocument), (status = 413, body = ProblemDocument), (status = 422, body = ProblemDocument), (status = 507, body = ProblemDocument)))]
pub async fn keep_photo(
    State(app): State<App>,
    JobPart(id, hash): JobPart,
    Ask(how): Ask<Sending>,
    Whole(bytes): Whole<{ LARGEST_PHOTO >> 20 }>,
) -> Result<StatusCode, Fault> {
    let position = if how.position == Wanted::Kept { Position::Kept } else { Position::Without };
    stored(&app, move |s| {
        s.standing(id)?;
        s.keep_photo(&hash, &bytes, position)?;
        Ok(StatusCode::NO_CONTENT)
    })
    .await
}

/// What the file of a photograph is.
fn kind(bytes: &[u8]) -> &'static str {
    match bytes {
        [0x89, b'P', ..] => "image/png",
        [b'R', b'I', b'F', b'F', ..] => "image/webp",
        _ => "image/jpeg",
    }
}

/// A photograph by its SHA-256.
#[utoipa::path(get, path = "/api/jobs/{id}/photos/{hash}", params(("id" = i64, Path), ("hash" = String, Path)), responses((status = 200, content_type = "image/jpeg"), (status = 404, body = ProblemDocument)))]
pub async fn photo(State(app): State<App>, JobPart(id, hash): JobPart) -> Result<impl IntoResponse, Fault> {
    stored(&app, move |s| {
        s.standing(id)?;
        let bytes = s.photo(&hash)?.ok_or_else(|| Fault::NoSuchPlace(format!("there is no photograph {hash}")))?;
        // What is named by its hash never changes.
        let headers =
            [(header::CONTENT_TYPE, kind(&bytes)), (header::CACHE_CONTROL, "private, max-age=31536000, immutable")];
        Ok((headers, bytes))
    })
    .await
}
