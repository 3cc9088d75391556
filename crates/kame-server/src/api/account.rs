//! One's own account: the second factor, saying the password once more, what changed, and everything that is kept.

use super::body::{Json, Number};
use super::jobs::stored;
use super::me::{AskedFrom, Me, of_person, one, person};
use super::password::said_again;
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use crate::who::{Kept, Who, begin, chance, kept, prove, put, secret, taken};
use axum::Json as Out;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use kame_store::{Logged, Person, SecondFactor};
use serde::{Deserialize, Serialize};
use std::time::{SystemTime, UNIX_EPOCH};
use totp_rs::{Builder, Secret, Totp};
use tower_sessions::Session;
use utoipa::ToSchema;

/// Spare codes, for when the telephone is lost.
const SPARE_CODES: usize = 10;
/// Letters of a spare code: 60 bits.
const SPARE_LETTERS: usize = 12;
/// Where a secret that is not yet confirmed stands in a session.
const OFFERED: &str = "offered";
/// Bytes of a secret.
const SECRET_BYTES: usize = 20;
/// Letters of what is said as a code.
const LONGEST_CODE: usize = 40;

/// Says the password once more, with figures of the second factor where there is one.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Proof {
    /// The password.
    pub password: String,
    /// Six figures, or a spare code, where a second factor is set.
    #[serde(default)]
    pub code: String,
}

/// Figures that the telephone shows.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Figures {
    /// Six figures.
    pub code: String,
}

/// A second factor that is not set yet: it is once the telephone's figures are said.
#[derive(Clone, Serialize, ToSchema)]
pub struct Offered {
    /// The secret, to be typed where no picture can be read.
    pub secret: String,
    /// The same as an address that telephones know.
    pub address: String,
    /// The address as a picture, SVG.
    pub picture: String,
}

/// A second factor that is set.
#[derive(Clone, Serialize, ToSchema)]
pub struct SetSecond {
    /// Codes for when the telephone is lost, good once each. They are shown this once.
    pub spare: Vec<String>,
    /// Who is asking.
    pub me: Me,
}

/// Up to which line of the log somebody saw what changed.
#[derive(Clone, Copy, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Saw {
    /// Number of the line.
    pub line: i64,
}

/// Everything that is kept of somebody.
#[derive(Clone, Serialize, ToSchema)]
pub struct AllOfMe {
    /// The account.
    pub person: Person,
    /// Lines of the log that they did or that are about them, the newest first.
    pub log: Vec<Logged>,
    /// Entries of records that bear their name; records are kept whole.
    pub entries: i64,
    /// Changes of jobs that bear their name.
    pub changes: i64,
}

fn telephone(secret: &str) -> Result<Totp, Fault> {
    let inside = |e: String| Fault::Internal(format!("a second factor: {e}"));
    let secret = Secret::try_from_base32(secret).map_err(|e| inside(e.to_string()))?;
    Builder::new().with_secret(secret).build().map_err(|e| inside(e.to_string()))
}

/// The step of half a minute that figures are of, now or the one before or after.
fn step_of(secret: &str, figures: &str) -> Result<Option<i64>, Fault> {
    let now = SystemTime::now().duration_since(UNIX_EPOCH).map_err(|e| Fault::Internal(e.to_string()))?;
    let step = telephone(secret)?.check(figures, now.as_secs());
    Ok(step.and_then(|s| i64::try_from(s).ok()))
}

/// Whether a code opens a second factor: figures that were not used before, or a spare code, which is used up by it.
///
/// # Errors
/// [`Fault::CodeAsked`] where none was said.
pub async fn opens(app: &App, id: i64, code: &str) -> Result<bool, Fault> {
    let Some(second) = stored(app, move |s| Ok(s.second_factor(id)?)).await? else { return Ok(true) };
    let code: String = code.chars().filter(|c| !c.is_whitespace() && *c != '-').take(LONGEST_CODE).collect();
    if code.is_empty() {
        return Err(Fault::CodeAsked);
    }
    if code.chars().all(|c| c.is_ascii_digit()) && code.len() == 6 {
        return match step_of(&second.secret, &code)?.filter(|step| *step > second.step) {
            Some(step) => stored(app, move |s| Ok(s.use_step(id, step)?)).await,
            None => Ok(false),
        };
    }
    stored(app, move |s| Ok(s.use_spare_code(id, &code.to_lowercase())?)).await
}

/// Who asks, once their password, and the second factor where there is one, were said rightly.
async fn proved(app: &App, who: &Who, from: &AskedFrom, ask: &Proof) -> Result<Person, Fault> {
    let me = said_again(app, who, from, &ask.password).await?;
    if !opens(app, me.id, &ask.code).await? {
        return Err(Fault::WrongCode);
    }
    Ok(me)
}

/// Says the password once more, as changing what others may do asks for.
#[utoipa::path(post, path = "/api/prove", request_body = Proof, responses((status = 204), (status = 403, body = ProblemDocument), (status = 429, body = ProblemDocument)))]
pub async fn prove_again(
    State(app): State<App>,
    session: Session,
    who: Who,
    from: AskedFrom,
    Json(ask): Json<Proof>,
) -> Result<Response, Fault> {
    proved(&app, &who, &from, &ask).await?;
    prove(&app, &session).await?;
    Ok(StatusCode::NO_CONTENT.into_response())
}

/// Offers a second factor: a secret for the telephone, set once its figures are said.
#[utoipa::path(post, path = "/api/second-factor", request_body = Proof, responses((status = 200, body = Offered), (status = 403, body = ProblemDocument)))]
pub async fn offer(
    State(app): State<App>,
    session: Session,
    who: Who,
    from: AskedFrom,
    Json(ask): Json<Proof>,
) -> Result<Out<Offered>, Fault> {
    let me = proved(&app, &who, &from, &ask).await?;
    let secret = Secret::from(chance::<SECRET_BYTES>().to_vec()).to_base32();
    let address = format!("otpauth://totp/Kame:{}?secret={secret}&issuer=Kame", url_part(&me.login));
    let picture = kame_formats::code_svg(&address).map_err(Fault::Internal)?;
    put(&session, OFFERED, &secret).await?;
    Ok(Out(Offered { secret, address, picture }))
}

/// A text as a part of an address.
fn url_part(text: &str) -> String {
    let byte = |b: u8| if b.is_ascii_alphanumeric() { char::from(b).to_string() } else { format!("%{b:02X}") };
    text.bytes().map(byte).collect()
}

/// Sets the second factor that was offered, by the figures that the telephone shows now. All other sessions end.
#[utoipa::path(post, path = "/api/second-factor/set", request_body = Figures, responses((status = 200, body = SetSecond), (status = 403, body = ProblemDocument), (status = 422, body = ProblemDocument)))]
pub async fn set_second(
    State(app): State<App>,
    session: Session,
    who: Who,
    Json(ask): Json<Figures>,
) -> Result<Out<SetSecond>, Fault> {
    let me = person(&who)?.clone();
    let Some(offered) = taken::<String>(&session, OFFERED).await? else {
        return Err(one("$", "no second factor is offered: ask for one first"));
    };
    let code: String = ask.code.chars().filter(char::is_ascii_digit).take(LONGEST_CODE).collect();
    let Some(step) = step_of(&offered, &code)? else {
        // The same picture may be tried again.
        put(&session, OFFERED, &offered).await?;
        return Err(Fault::WrongCode);
    };
    let spare: Vec<String> = (0..SPARE_CODES).map(|_| secret().chars().take(SPARE_LETTERS).collect()).collect();
    let (id, name, codes) = (me.id, me.name.clone(), spare.clone());
    let new = SecondFactor { secret: offered, step };
    let epoch = stored(&app, move |s| Ok(s.set_second_factor(id, &new, &codes, &name)?)).await?;
    let begun = Kept::goes_on(kept(&app, &session).await?.as_ref(), id, epoch);
    begin(&session, &begun).await?;
    Ok(Out(SetSecond { spare, me: of_person(&app, Person { second_factor: true, ..me }, begun.token).await? }))
}

/// Takes one's own second factor away.
#[utoipa::path(post, path = "/api/second-factor/remove", request_body = Proof, responses((status = 204), (status = 403, body = ProblemDocument)))]
pub async fn remove_second(
    State(app): State<App>,
    who: Who,
    from: AskedFrom,
    Json(ask): Json<Proof>,
) -> Result<Response, Fault> {
    let me = proved(&app, &who, &from, &ask).await?;
    stored(&app, move |s| Ok(s.drop_second_factor(me.id, &me.name)?)).await?;
    Ok(StatusCode::NO_CONTENT.into_response())
}

/// Takes the second factor of somebody away who lost the telephone and the spare codes.
#[utoipa::path(post, path = "/api/people/{id}/second-factor/remove", params(("id" = i64, Path)), responses((status = 204), (status = 403, body = ProblemDocument)))]
pub async fn remove_second_of(State(app): State<App>, Number(id): Number, who: Who) -> Result<Response, Fault> {
    stored(&app, move |s| Ok(s.drop_second_factor(id, who.name())?)).await?;
    Ok(StatusCode::NO_CONTENT.into_response())
}

/// Says that what changed with one's account was seen.
#[utoipa::path(post, path = "/api/me/saw", request_body = Saw, responses((status = 204)))]
pub async fn saw(State(app): State<App>, who: Who, Json(ask): Json<Saw>) -> Result<Response, Fault> {
    let id = person(&who)?.id;
    stored(&app, move |s| Ok(s.saw(id, ask.line)?)).await?;
    Ok(StatusCode::NO_CONTENT.into_response())
}

/// Everything that is kept of who asks, as a file.
#[utoipa::path(get, path = "/api/me/all", responses((status = 200, body = AllOfMe)))]
pub async fn all_of_me(State(app): State<App>, who: Who) -> Result<Response, Fault> {
    let me = person(&who)?.clone();
    let all = stored(&app, move |s| {
        let (log, (entries, changes)) = (s.log_of(me.id)?, s.named_in(&me.name)?);
        Ok(AllOfMe { person: me, log, entries, changes })
    });
    let as_file = [(header::CONTENT_DISPOSITION, "attachment; filename=\"kame-account.json\"")];
    Ok((as_file, Out(all.await?)).into_response())
}
