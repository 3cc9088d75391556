//! Faults as problem documents (RFC 9457), the status beside each variant, in this one place.

use axum::Json;
use axum::body::Body;
use axum::http::{HeaderValue, Response as HttpResponse, StatusCode, header};
use axum::response::{IntoResponse, Response};
use kame_core::problem::Problem;
use kame_store::{JobState, StoreError};
use serde::Serialize;
use utoipa::ToSchema;

/// A problem document.
#[derive(Debug, Serialize, ToSchema)]
pub struct ProblemDocument {
    /// Stable name of the kind of problem.
    #[serde(rename = "type")]
    pub kind: String,
    /// HTTP status.
    pub status: u16,
    /// What is wrong and what to do.
    pub detail: String,
    /// Each single problem with its JSON path.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub problems: Vec<Problem>,
    /// The newer state, where the change was made on an older one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub current: Option<Box<JobState>>,
}

/// What a handler can fail with.
#[derive(Debug)]
pub enum Fault {
    /// From the store.
    Store(StoreError),
    /// Input that was understood and refused.
    Refused(Vec<Problem>),
    /// Input that could not be read at all.
    Unreadable(String),
    /// More than is taken.
    TooLarge(String),
    /// What was sent stopped coming.
    TooSlow,
    /// No revision given with a change.
    NoRevision,
    /// Too much at once: what, and in how many seconds to come again.
    Busy {
        /// What there is too much of, and why.
        detail: String,
        /// Seconds until it may be asked again.
        again_s: u32,
    },
    /// Work that did not end in time: asking again would not help.
    TooLong(String),
    /// Nobody has signed in.
    NotSignedIn,
    /// Not with that name and password.
    WrongPassword,
    /// The password was right, and the figures of the second factor are still to be said.
    CodeAsked,
    /// Not with those figures.
    WrongCode,
    /// The password was said too long ago for what is asked.
    ProveAgain,
    /// Asked too often: what, and in how many seconds to come again.
    TooMany {
        /// What was asked too often.
        detail: String,
        /// Seconds until it may be asked again.
        again_s: u32,
    },
    /// Not from here, or not by who asks.
    Forbidden(String),
    /// No such address.
    NoSuchPlace(String),
    /// Our own mistake.
    Internal(String),
}

impl Fault {
    /// Not from here.
    pub fn forbidden(detail: String) -> Self {
        Self::Forbidden(detail)
    }

    /// Too much at once.
    pub fn busy(detail: impl Into<String>, again_s: u32) -> Self {
        Self::Busy { detail: detail.into(), again_s }
    }
}

impl From<StoreError> for Fault {
    fn from(e: StoreError) -> Self {
        match e {
            StoreError::Busy => Self::busy(e.to_string(), 1),
            StoreError::Refused(problems) => Self::Refused(problems),
            e => Self::Store(e),
        }
    }
}

impl From<Vec<Problem>> for Fault {
    fn from(problems: Vec<Problem>) -> Self {
        Self::Refused(problems)
    }
}

fn sentence(problems: &[Problem]) -> String {
    match problems {
        [] => "the input was refused".into(),
        [one] => one.message.clone(),
        [first, rest @ ..] => format!("{} ({} more)", first.message, rest.len()),
    }
}

fn doc(status: StatusCode, kind: &str, detail: String, problems: Vec<Problem>) -> ProblemDocument {
    ProblemDocument { kind: kind.into(), status: status.as_u16(), detail, problems, current: None }
}

/// What the store could not do, as a problem document.
fn of_store(e: StoreError) -> ProblemDocument {
    match e {
        e @ StoreError::NotFound { .. } => doc(StatusCode::NOT_FOUND, "no-job", e.to_string(), vec![]),
        e @ StoreError::Full => doc(StatusCode::INSUFFICIENT_STORAGE, "disk-full", e.to_string(), vec![]),
        e @ (StoreError::ReadOnly { .. } | StoreError::Moved { .. } | StoreError::Corrupt) => {
            tracing::error!(error = %e, "store");
            doc(StatusCode::SERVICE_UNAVAILABLE, "read-only", e.to_string(), vec![])
        }
        e @ StoreError::Damaged { .. } => {
            tracing::error!(error = %e, "store");
            doc(StatusCode::CONFLICT, "unreadable-job", e.to_string(), vec![])
        }
        e @ StoreError::NoHistory { .. } => doc(StatusCode::CONFLICT, "no-history", e.to_string(), vec![]),
        e @ StoreError::Stale { .. } => {
            let detail = e.to_string();
            let StoreError::Stale { current, .. } = e else {
                return doc(StatusCode::PRECONDITION_FAILED, "stale", detail, vec![]);
            };
            ProblemDocument { current: Some(current), ..doc(StatusCode::PRECONDITION_FAILED, "stale", detail, vec![]) }
        }
        e => {
            tracing::error!(error = %e, "store");
            doc(
                StatusCode::INTERNAL_SERVER_ERROR,
                "store",
                "the database could not be used; nothing was changed. See the log.".into(),
                vec![],
            )
        }
    }
}

impl Fault {
    /// As a problem document.
    pub fn document(self) -> ProblemDocument {
        match self {
            Self::Store(StoreError::Refused(problems)) | Self::Refused(problems) => {
                doc(StatusCode::UNPROCESSABLE_ENTITY, "refused", sentence(&problems), problems)
            }
            Self::Store(e) => of_store(e),
            Self::Unreadable(detail) => doc(StatusCode::BAD_REQUEST, "unreadable", detail, vec![]),
            Self::TooLarge(detail) => doc(StatusCode::PAYLOAD_TOO_LARGE, "too-large", detail, vec![]),
            Self::TooSlow => doc(
                StatusCode::REQUEST_TIMEOUT,
                "too-slow",
                "what was sent stopped coming before it was whole; nothing was changed. Send it again.".into(),
                vec![],
            ),
            Self::NoRevision => doc(
                StatusCode::PRECONDITION_REQUIRED,
                "no-revision",
                "the change does not say on which revision it was made; send the revision as If-Match: \"5\"".into(),
                vec![],
            ),
            Self::Busy { detail, .. } => doc(StatusCode::SERVICE_UNAVAILABLE, "busy", detail, vec![]),
            Self::TooLong(detail) => doc(StatusCode::SERVICE_UNAVAILABLE, "too-long", detail, vec![]),
            Self::NotSignedIn => doc(StatusCode::UNAUTHORIZED, "not-signed-in", "sign in first".into(), vec![]),
            Self::WrongPassword => doc(
                StatusCode::FORBIDDEN,
                "wrong-password",
                "nobody signs in with that name and that password".into(),
                vec![],
            ),
            Self::CodeAsked => doc(
                StatusCode::FORBIDDEN,
                "code-asked",
                "say the six figures that your telephone shows, or a spare code".into(),
                vec![],
            ),
            Self::WrongCode => doc(
                StatusCode::FORBIDDEN,
                "wrong-code",
                "that is not what the telephone shows, or it was used already: wait for the next figures".into(),
                vec![],
            ),
            Self::ProveAgain => doc(
                StatusCode::FORBIDDEN,
                "say-password",
                "you said your password some time ago: say it again for this".into(),
                vec![],
            ),
            Self::TooMany { detail, .. } => doc(StatusCode::TOO_MANY_REQUESTS, "too-many", detail, vec![]),
            Self::Forbidden(detail) => doc(StatusCode::FORBIDDEN, "forbidden", detail, vec![]),
            Self::NoSuchPlace(detail) => doc(StatusCode::NOT_FOUND, "no-such-place", detail, vec![]),
            Self::Internal(detail) => {
                tracing::error!(error = %detail, "internal");
                doc(
                    StatusCode::INTERNAL_SERVER_ERROR,
                    "internal",
                    "something went wrong in Kame; nothing was changed. See the log.".into(),
                    vec![],
                )
            }
        }
    }
}

impl IntoResponse for Fault {
    fn into_response(self) -> Response {
        let again = match &self {
            Self::Busy { again_s, .. } | Self::TooMany { again_s, .. } => Some(HeaderValue::from(*again_s)),
            _ => None,
        };
        let doc = self.document();
        let status = StatusCode::from_u16(doc.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        let mut response = (status, Json(doc)).into_response();
        response.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/problem+json"));
        if let Some(again) = again {
            response.headers_mut().insert(header::RETRY_AFTER, again);
        }
        response
    }
}

/// The answer to a panic: a plain problem; what happened stands in the log.
pub fn panicked(_: Box<dyn std::any::Any + Send + 'static>) -> HttpResponse<Body> {
    Fault::Internal("a handler panicked".into()).into_response()
}
