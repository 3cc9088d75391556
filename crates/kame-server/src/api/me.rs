//! Who is asking, and from where.

use super::jobs::stored;
use crate::App;
use crate::problem::Fault;
use crate::who::{Who, address, kept};
use axum::Json as Out;
use axum::extract::{FromRequestParts, State};
use axum::http::header;
use axum::http::request::Parts;
use kame_core::problem::Problem;
use kame_store::{Logged, Person, Share};
use serde::Serialize;
use tower_sessions::Session;
use utoipa::ToSchema;

/// Who is asking, and whether anybody has to sign in.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Me {
    /// True where people sign in.
    pub signs_in: bool,
    /// True where nobody has come yet: the code that Kame printed makes the first.
    pub first: bool,
    /// Who has signed in.
    pub person: Option<Person>,
    /// The job that a link shows.
    pub share: Option<Share>,
    /// What a page says with each change, as `X-Kame-Token`.
    pub token: Option<String>,
    /// What changed with the account since they last said that they saw it.
    pub changed: Vec<Logged>,
    /// How many spare codes are left, where a second factor is set.
    pub spare_codes: Option<u32>,
}

/// From where somebody asks.
pub struct AskedFrom {
    /// The address, where it is known.
    pub ip: Option<std::net::IpAddr>,
    /// True where they came over plain HTTP, by what their browser says.
    plain: bool,
}

impl<S: Sync> FromRequestParts<S> for AskedFrom {
    type Rejection = Fault;
    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Fault> {
        let origin = parts.headers.get(header::ORIGIN).and_then(|v| v.to_str().ok()).unwrap_or_default();
        let local = ["http://localhost", "http://127.0.0.1", "http://[::1]"].iter().any(|l| origin.starts_with(l));
        Ok(Self { ip: address(parts), plain: origin.starts_with("http://") && !local })
    }
}

/// Refuses one value, by its path.
pub fn one(path: &str, why: impl Into<String>) -> Fault {
    Fault::Refused(vec![Problem::new(path, why.into())])
}

/// Who is asking.
#[utoipa::path(get, path = "/api/me", responses((status = 200, body = Me)))]
pub async fn me(State(app): State<App>, session: Session, who: Who) -> Result<Out<Me>, Fault> {
    let signs_in = app.doors.required;
    let first = signs_in && stored(&app, |s| Ok(s.has_nobody()?)).await?;
    let (person, share) = match who {
        Who::Person(p) => (Some((*p).clone()), None),
        Who::Guest(s) => (None, Some((*s).clone())),
        Who::Anybody | Who::Nobody => (None, None),
    };
    let known = person.is_some() || share.is_some();
    let token = if known { kept(&app, &session).await?.map(|k| k.token) } else { None };
    let none = Me { signs_in, first, person: None, share, token, changed: Vec::new(), spare_codes: None };
    Ok(Out(match person {
        Some(person) => with_account(&app, none, person).await?,
        None => none,
    }))
}

/// Somebody who has just come in, or whose session began anew.
pub async fn of_person(app: &App, person: Person, token: String) -> Result<Me, Fault> {
    let (first, share, changed) = (false, None, Vec::new());
    let bare = Me { signs_in: true, first, person: None, share, token: Some(token), changed, spare_codes: None };
    with_account(app, bare, person).await
}

/// With what is told of somebody's account.
async fn with_account(app: &App, bare: Me, person: Person) -> Result<Me, Fault> {
    let (id, has_second) = (person.id, person.second_factor);
    let told = stored(app, move |s| {
        let left = if has_second { Some(s.spare_codes(id)?) } else { None };
        Ok((s.unseen(id)?, left))
    });
    let (changed, spare_codes) = told.await?;
    Ok(Me { person: Some(person), changed, spare_codes, ..bare })
}

/// Refuses what would send a password where others can read it.
pub fn over_tls(app: &App, from: &AskedFrom) -> Result<(), Fault> {
    if from.plain && !app.doors.plain_http {
        return Err(Fault::forbidden(
            "passwords go over https alone: open Kame by its https address (docs/OPERATIONS.md), or start it with --plain-http where nobody listens on the way".into(),
        ));
    }
    Ok(())
}

/// The person who asks; a link is none.
pub fn person(who: &Who) -> Result<&Person, Fault> {
    match who {
        Who::Person(p) => Ok(p),
        Who::Anybody => Err(Fault::forbidden("nobody signs in here: start Kame with --sign-in for that".into())),
        Who::Guest(_) | Who::Nobody => Err(Fault::NotSignedIn),
    }
}
