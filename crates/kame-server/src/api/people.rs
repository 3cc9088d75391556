//! People: signing in and out, coming by invitation, roles, leaving, links to one job, and the log of all that.

use super::account::opens;
use super::body::{Ask, JobId, JobPart, Json, Number};
use super::jobs::stored;
use super::me::{AskedFrom, Me, of_person, one, over_tls, person};
use super::password::{LONGEST, hashed, is_right, not_a_password, said_again};
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use crate::who::{Kept, Who, begin, end, kept, secret};
use axum::Json as Out;
use axum::extract::{Path, State};
use axum::response::{IntoResponse, Redirect, Response};
use kame_core::problem::Problem;
use kame_store::{Invitation, Logged, NewPerson, Person, Role, Share};
use serde::{Deserialize, Serialize};
use tower_sessions::Session;
use utoipa::{IntoParams, ToSchema};

/// Letters of a name and of what somebody signs in with.
const LONGEST_NAME: usize = 80;
/// Days that an invitation and a link are open.
const INVITED_DAYS: u32 = 7;
const MOST_DAYS: u32 = 366;

/// With what somebody signs in.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignIn {
    /// What they sign in with.
    pub login: String,
    /// Their password.
    pub password: String,
    /// Six figures, or a spare code, where a second factor is set.
    #[serde(default)]
    pub code: String,
}

/// Somebody who comes by an invitation.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Join {
    /// The code of the invitation, or the one that Kame printed.
    pub code: String,
    /// What stands in the record and the history.
    pub name: String,
    /// What they will sign in with.
    pub login: String,
    /// At least 12 letters.
    pub password: String,
}

/// Another password.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewPassword {
    /// The one so far.
    pub old: String,
    /// At least 12 letters.
    pub new: String,
}

/// Whom to invite.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Invite {
    /// What they may do.
    pub role: Role,
    /// On which job alone; in the firm where it is left out.
    #[serde(default)]
    pub job: Option<i64>,
}

/// An invitation with its code, which is shown this once.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Invited {
    /// The code.
    pub code: String,
    /// The invitation.
    pub invitation: Invitation,
}

/// What somebody may do.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SetRole {
    /// On which job; in the firm where it is left out.
    #[serde(default)]
    pub job: Option<i64>,
    /// What they may do; left out on a job where it is to be as in the firm.
    #[serde(default)]
    pub role: Option<Role>,
}

/// What a link shows, and for how long.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShareAsk {
    /// Id of the opening whose steps it shows; all of the job where it is left out.
    #[serde(default)]
    pub place: Option<String>,
    /// For how many days, 1 to 366.
    pub days: u32,
}

/// A link with its address, which is shown this once.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Shared {
    /// The address below Kame's own.
    pub address: String,
    /// The link.
    pub share: Share,
}

/// From where the log is read.
#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct Before {
    /// Lines before this number; the newest where it is left out.
    #[serde(default)]
    pub before: Option<i64>,
}

fn not_a_name(text: &str) -> Option<String> {
    let letters = text.trim().chars().count();
    let plain = !text.chars().any(char::is_control) && text.trim() == text;
    (!(1..=LONGEST_NAME).contains(&letters) || !plain)
        .then(|| format!("found {letters} letters, expected 1 to {LONGEST_NAME}, none of them a control letter and no blank at the ends"))
}

/// Signs somebody in.
#[utoipa::path(post, path = "/api/sign-in", request_body = SignIn, responses((status = 200, body = Me), (status = 403, body = ProblemDocument), (status = 429, body = ProblemDocument)))]
pub async fn sign_in(
    State(app): State<App>,
    session: Session,
    from: AskedFrom,
    Json(ask): Json<SignIn>,
) -> Result<Out<Me>, Fault> {
    over_tls(&app, &from)?;
    app.doors.tries(&ask.login.chars().take(LONGEST_NAME).collect::<String>(), from.ip)?;
    if ask.password.chars().count() > LONGEST || ask.login.chars().count() > LONGEST_NAME {
        return Err(Fault::WrongPassword);
    }
    let login = ask.login.clone();
    let found = stored(&app, move |s| Ok(s.credentials(&login)?)).await?;
    let known = found.as_ref().map(|c| c.password.clone());
    let right = is_right(ask.password.clone(), known).await?;
    let Some(found) = found.filter(|_| right) else {
        let login: String = ask.login.chars().filter(|c| !c.is_control()).collect();
        stored(&app, move |s| Ok(s.log("", "did not sign in", &login)?)).await?;
        return Err(Fault::WrongPassword);
    };
    if !opens(&app, found.id, &ask.code).await? {
        let login: String = ask.login.chars().filter(|c| !c.is_control()).collect();
        stored(&app, move |s| Ok(s.log("", "did not sign in", &login)?)).await?;
        return Err(Fault::WrongCode);
    }
    let (id, epoch) = (found.id, found.epoch);
    let person = stored(&app, move |s| {
        let person = s.person_in(id, epoch)?;
        if let Some(p) = &person {
            s.log(&p.name, "signed in", "")?;
        }
        Ok(person)
    });
    let person = person.await?.ok_or(Fault::WrongPassword)?;
    let begun = Kept::new(id, Some(epoch));
    begin(&session, &begun).await?;
    Ok(Out(of_person(&app, person, begun.token).await?))
}

/// Signs out.
#[utoipa::path(post, path = "/api/sign-out", responses((status = 204)))]
pub async fn sign_out(State(app): State<App>, session: Session, who: Who) -> Result<Response, Fault> {
    end(&session).await?;
    if let Who::Person(p) = who {
        stored(&app, move |s| Ok(s.log(&p.name, "signed out", "")?)).await?;
    }
    Ok(axum::http::StatusCode::NO_CONTENT.into_response())
}

/// Ends all sessions of who asks, and this one begins anew.
#[utoipa::path(post, path = "/api/sign-out-everywhere", responses((status = 200, body = Me), (status = 401, body = ProblemDocument)))]
pub async fn sign_out_everywhere(State(app): State<App>, session: Session, who: Who) -> Result<Out<Me>, Fault> {
    let me = person(&who)?.clone();
    let (id, name) = (me.id, me.name.clone());
    let epoch = stored(&app, move |s| Ok(s.end_sessions(id, &name)?)).await?;
    let begun = Kept::goes_on(kept(&app, &session).await?.as_ref(), id, epoch);
    begin(&session, &begun).await?;
    Ok(Out(of_person(&app, me, begun.token).await?))
}

/// Another password for who asks. All other sessions end.
#[utoipa::path(post, path = "/api/password", request_body = NewPassword, responses((status = 200, body = Me), (status = 403, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn new_password(
    State(app): State<App>,
    session: Session,
    who: Who,
    from: AskedFrom,
    Json(ask): Json<NewPassword>,
) -> Result<Out<Me>, Fault> {
    let me = said_again(&app, &who, &from, &ask.old).await?;
    if let Some(why) = not_a_password(&ask.new, &me.login) {
        return Err(one("$.new", why));
    }
    let hashed = hashed(ask.new).await?;
    let (id, name) = (me.id, me.name.clone());
    let epoch = stored(&app, move |s| Ok(s.set_password(id, &hashed, &name)?)).await?;
    let begun = Kept::new(id, Some(epoch));
    begin(&session, &begun).await?;
    Ok(Out(of_person(&app, me, begun.token).await?))
}

/// Somebody comes by an invitation and is signed in.
#[utoipa::path(post, path = "/api/join", request_body = Join, responses((status = 200, body = Me), (status = 422, body = ProblemDocument), (status = 429, body = ProblemDocument)))]
pub async fn join(
    State(app): State<App>,
    session: Session,
    from: AskedFrom,
    Json(ask): Json<Join>,
) -> Result<Out<Me>, Fault> {
    over_tls(&app, &from)?;
    app.doors.comes(from.ip)?;
    let wrong = [("$.name", not_a_name(&ask.name)), ("$.login", not_a_name(&ask.login))];
    let wrong = wrong.into_iter().chain([("$.password", not_a_password(&ask.password, &ask.login))]);
    let problems: Vec<Problem> = wrong.filter_map(|(path, why)| Some(Problem::new(path, why?))).collect();
    if !problems.is_empty() {
        return Err(problems.into());
    }
    let Join { code, name, login, password } = ask;
    let hashed = hashed(password).await?;
    let code = code.trim().to_lowercase();
    let new = NewPerson { name, login, password: hashed };
    let person = stored(&app, move |s| Ok(s.join(&code, &new)?)).await?;
    let begun = Kept::new(person.id, Some(0));
    begin(&session, &begun).await?;
    Ok(Out(of_person(&app, person, begun.token).await?))
}

/// Everybody, and what they may do.
#[utoipa::path(get, path = "/api/people", responses((status = 200, body = Vec<Person>), (status = 403, body = ProblemDocument)))]
pub async fn people(State(app): State<App>) -> Result<Out<Vec<Person>>, Fault> {
    stored(&app, |s| Ok(Out(s.people()?))).await
}

/// Says what somebody may do, in the firm or on a job.
#[utoipa::path(post, path = "/api/people/{id}/role", params(("id" = i64, Path)), request_body = SetRole, responses((status = 204), (status = 422, body = ProblemDocument)))]
pub async fn set_role(
    State(app): State<App>,
    Number(id): Number,
    who: Who,
    Json(ask): Json<SetRole>,
) -> Result<Response, Fault> {
    stored(&app, move |s| Ok(s.set_role(id, ask.job, ask.role, who.name())?)).await?;
    Ok(axum::http::StatusCode::NO_CONTENT.into_response())
}

/// Somebody leaves. What they wrote down stays.
#[utoipa::path(post, path = "/api/people/{id}/end", params(("id" = i64, Path)), responses((status = 204), (status = 422, body = ProblemDocument)))]
pub async fn offboard(State(app): State<App>, Number(id): Number, who: Who) -> Result<Response, Fault> {
    stored(&app, move |s| Ok(s.offboard(id, who.name())?)).await?;
    Ok(axum::http::StatusCode::NO_CONTENT.into_response())
}

/// Invitations that are open.
#[utoipa::path(get, path = "/api/invitations", responses((status = 200, body = Vec<Invitation>)))]
pub async fn invitations(State(app): State<App>) -> Result<Out<Vec<Invitation>>, Fault> {
    stored(&app, |s| Ok(Out(s.invitations()?))).await
}

/// Invites somebody, for seven days. The code is shown this once.
#[utoipa::path(post, path = "/api/invitations", request_body = Invite, responses((status = 200, body = Invited), (status = 422, body = ProblemDocument)))]
pub async fn invite(State(app): State<App>, who: Who, Json(ask): Json<Invite>) -> Result<Out<Invited>, Fault> {
    if ask.role == Role::None || (ask.role == Role::Owner && ask.job.is_some()) {
        return Err(one("$.role", "say viewer, crew or builder; owner in the firm alone"));
    }
    let code = secret();
    let sent = code.clone();
    let made = stored(&app, move |s| {
        if let Some(job) = ask.job {
            s.standing(job)?;
        }
        Ok(s.invite(&sent, ask.role, ask.job, INVITED_DAYS, who.name())?)
    });
    Ok(Out(Invited { invitation: made.await?, code }))
}

/// Takes an invitation back.
#[utoipa::path(delete, path = "/api/invitations/{id}", params(("id" = i64, Path)), responses((status = 204)))]
pub async fn take_back(State(app): State<App>, Number(id): Number, who: Who) -> Result<Response, Fault> {
    stored(&app, move |s| Ok(s.take_back_invitation(id, who.name())?)).await?;
    Ok(axum::http::StatusCode::NO_CONTENT.into_response())
}

/// What was done with people, sessions and links, the newest first.
#[utoipa::path(get, path = "/api/audit", params(Before), responses((status = 200, body = Vec<Logged>)))]
pub async fn audit(State(app): State<App>, Ask(from): Ask<Before>) -> Result<Out<Vec<Logged>>, Fault> {
    stored(&app, move |s| Ok(Out(s.audit(from.before)?))).await
}

/// Links to a job that are open.
#[utoipa::path(get, path = "/api/jobs/{id}/shares", params(("id" = i64, Path)), responses((status = 200, body = Vec<Share>)))]
pub async fn shares(State(app): State<App>, JobId(id): JobId) -> Result<Out<Vec<Share>>, Fault> {
    stored(&app, move |s| Ok(Out(s.shares(id)?))).await
}

/// A link that shows a job, or the steps of one opening, to whoever has it. Its address is shown this once.
#[utoipa::path(post, path = "/api/jobs/{id}/shares", params(("id" = i64, Path)), request_body = ShareAsk, responses((status = 200, body = Shared), (status = 404, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn share(
    State(app): State<App>,
    JobId(id): JobId,
    who: Who,
    Json(ask): Json<ShareAsk>,
) -> Result<Out<Shared>, Fault> {
    if !app.doors.required {
        return Err(Fault::forbidden(
            "nobody signs in here, so that a link would open nothing more: start Kame with --sign-in for that".into(),
        ));
    }
    if !(1..=MOST_DAYS).contains(&ask.days) {
        return Err(one("$.days", format!("found {} days, expected 1 to {MOST_DAYS}", ask.days)));
    }
    let code = secret();
    let sent = code.clone();
    let made = stored(&app, move |s| {
        if let Some(place) = &ask.place
            && !s.job(id)?.job.openings.iter().any(|o| o.id == *place)
        {
            return Err(one("$.place", format!("there is no opening \"{place}\" in this job")));
        }
        Ok(s.share(&sent, id, ask.place.as_deref(), ask.days, who.name())?)
    });
    Ok(Out(Shared { share: made.await?, address: format!("/share/{code}") }))
}

/// Takes a link back.
#[utoipa::path(delete, path = "/api/jobs/{id}/shares/{share}", params(("id" = i64, Path), ("share" = i64, Path)), responses((status = 204)))]
pub async fn take_back_share(State(app): State<App>, JobPart(id, share): JobPart, who: Who) -> Result<Response, Fault> {
    let share = share.parse().map_err(|_| Fault::NoSuchPlace(format!("\"{share}\" is no number of a link")))?;
    stored(&app, move |s| Ok(s.take_back_share(id, share, who.name())?)).await?;
    Ok(axum::http::StatusCode::NO_CONTENT.into_response())
}

/// Opens a link: a session that shows its job and nothing else, and the page of it.
pub async fn open_share(
    State(app): State<App>,
    session: Session,
    from: AskedFrom,
    Path(code): Path<String>,
) -> Result<Response, Fault> {
    app.doors.comes(from.ip)?;
    let found = stored(&app, move |s| Ok(s.shared(&code)?)).await?;
    let Some(share) = found else {
        return Err(Fault::NoSuchPlace(
            "the link opens nothing: it was taken back or is past its day. Ask for another".into(),
        ));
    };
    begin(&session, &Kept::new(share.id, None)).await?;
    let at = share.place.as_ref().map_or(String::new(), |p| format!("/steps?place={p}"));
    Ok(Redirect::to(&format!("/jobs/{}{at}", share.job)).into_response())
}
