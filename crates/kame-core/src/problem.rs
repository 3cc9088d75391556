//! What is wrong with what somebody gave, and where.

use serde::Serialize;

/// One thing wrong with a job: where, and a sentence with value, limit and remedy.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Problem {
    /// JSON path such as `$.openings[0].width`.
    pub path: String,
    /// What is wrong and what to do.
    pub message: String,
}

impl Problem {
    /// From path and sentence.
    pub fn new(path: impl Into<String>, message: impl Into<String>) -> Self {
        Self { path: path.into(), message: message.into() }
    }
}
