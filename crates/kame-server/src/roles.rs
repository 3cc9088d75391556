//! Which role each operation asks for, by its method and address.

use axum::http::Method;
use kame_store::Role;

/// The least role that an operation asks for; none where everybody may ask, signed in or not. What is not named here may only be changed by who
/// changes jobs.
pub fn least_role(method: &Method, path: &str) -> Option<Role> {
    let parts: Vec<&str> = path.trim_start_matches("/api/").split('/').collect();
    let reads = matches!(*method, Method::GET | Method::HEAD);
    Some(match parts.as_slice() {
        ["me" | "health" | "sign-in" | "join"] => return None,
        ["sign-out" | "sign-out-everywhere" | "password" | "prove"] | ["me" | "second-factor", ..] => Role::None,
        ["people" | "invitations" | "audit", ..] => Role::Owner,
        ["jobs", _, "shares", ..] => Role::Builder,
        ["deleted-jobs"] => Role::Builder,
        ["jobs", ..] if reads => Role::Viewer,
        // Worked out and not kept.
        [
            "jobs",
            _,
            "calendar" | "compare" | "fit" | "go" | "holds" | "judge" | "kit" | "model" | "model.ifc" | "preview"
            | "repairs" | "schedule" | "test",
        ]
        | ["jobs", _, "calendar", "hour"] => Role::Viewer,
        ["practice", "progress" | "played"] => Role::Viewer,
        // They hold what the firm buys at which price.
        ["ways", ..] if reads => Role::Viewer,
        ["mix" | "model" | "profile" | "water" | "practice" | "instruments", ..] => Role::None,
        ["jobs", _, "record" | "ticks"] | ["jobs", _, "photos", _] => Role::Crew,
        _ if reads => Role::None,
        _ => Role::Builder,
    })
}
