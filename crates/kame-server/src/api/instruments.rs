//! Instruments that speak the local interface of docs/INSTRUMENTS.md, wherever they are. Readings can always be typed instead.

use super::body::Ask;
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::{Path, State};
use kame_core::record::{Instrument, InstrumentReading, RawReading, doubt};
use serde::Deserialize;
use serde::de::DeserializeOwned;
use std::time::Duration;
use utoipa::IntoParams;

/// An instrument that has not answered by then is silent.
const PATIENCE: Duration = Duration::from_secs(3);
/// More instruments are not shown, and a longer answer is not read.
const MOST: usize = 60;
const LONGEST: usize = 64 * 1024;

/// What is read.
#[derive(Clone, Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct Quantity {
    /// As an instrument says that it reads it: `temperature`.
    pub quantity: String,
}

fn silent(what: &str) -> Fault {
    Fault::busy(format!("{what} does not answer: is it switched on and near? Type the reading instead."), 5)
}

async fn whole<T: DeserializeOwned>(what: &str, answer: reqwest::Result<reqwest::Response>) -> Result<T, Fault> {
    let mut answer = answer.map_err(|_| silent(what))?;
    let fine = answer.status().is_success();
    let mut bytes = Vec::new();
    while let Some(part) = answer.chunk().await.map_err(|_| silent(what))? {
        bytes.extend_from_slice(&part);
        if bytes.len() > LONGEST {
            return Err(Fault::busy(format!("{what} says more than a reading: type it instead."), 5));
        }
    }
    if !fine {
        let says = String::from_utf8_lossy(&bytes);
        let says: String = says.chars().take(120).collect();
        return Err(Fault::busy(format!("{what} cannot be read ({says}): type the reading instead."), 5));
    }
    serde_json::from_slice(&bytes)
        .map_err(|_| Fault::busy(format!("{what} says what cannot be understood: type the reading instead."), 5))
}

async fn listed(app: &App, base: &str) -> Result<Vec<Instrument>, Fault> {
    let asked = app.http.get(format!("{base}/instruments")).timeout(PATIENCE).send().await;
    let mut all: Vec<Instrument> = whole("the instruments' interface", asked).await?;
    all.truncate(MOST);
    Ok(all)
}

/// Instruments that are there; none where this server was not told of any, or nobody answers.
#[utoipa::path(get, path = "/api/instruments", responses((status = 200, body = Vec<Instrument>)))]
pub async fn instruments(State(app): State<App>) -> Out<Vec<Instrument>> {
    let Some(base) = app.instruments.as_deref() else { return Out(Vec::new()) };
    Out(listed(&app, base).await.unwrap_or_default())
}

/// Starts an instrument and reads it twice: what it says, and what is odd about it.
#[utoipa::path(post, path = "/api/instruments/{serial}/reading", params(("serial" = String, Path), Quantity), responses((status = 200, body = InstrumentReading), (status = 404, body = ProblemDocument), (status = 503, body = ProblemDocument)))]
pub async fn read_instrument(
    State(app): State<App>,
    Path(serial): Path<String>,
    Ask(ask): Ask<Quantity>,
) -> Result<Out<InstrumentReading>, Fault> {
    let none = || Fault::NoSuchPlace(format!("there is no instrument {serial} near; type the reading instead"));
    let base = app.instruments.as_deref().ok_or_else(none)?;
    let all = listed(&app, base).await?;
    let instrument = all.iter().find(|i| i.serial == serial && i.reads.contains(&ask.quantity)).ok_or_else(none)?;
    let at = format!("{base}/instruments/{serial}");
    let started = app.http.post(format!("{at}/start")).timeout(PATIENCE).send().await;
    started.map_err(|_| silent(&instrument.name))?;
    let read = async || {
        let asked =
            app.http.get(format!("{at}/reading")).query(&[("quantity", &ask.quantity)]).timeout(PATIENCE).send().await;
        whole::<RawReading>(&instrument.name, asked).await
    };
    let (first, again) = (read().await?, read().await?);
    let today = super::jobs::stored(&app, |s| Ok(s.today()?)).await?;
    Ok(Out(doubt(instrument, &first, &again, &today)))
}
