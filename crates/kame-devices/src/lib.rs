//! Simulated instruments with a small local interface: discover, start, read, stream, and faults to order. docs/INSTRUMENTS.md describes it; whoever has
//! real ones puts them behind the same interface. Nothing of Kame is in here, and neither server nor store has this in them.
#![warn(missing_docs)]

mod bench;
mod sky;

pub use bench::{Bench, Fault, Instrument, Reading};
pub use sky::{SkyHour, hours};

use axum::extract::{Path, Query, State};
use axum::http::StatusCode;
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post, put};
use axum::{Json, Router};
use futures_util::stream;
use serde::Deserialize;
use serde_json::json;
use std::convert::Infallible;
use std::sync::Arc;
use std::time::Duration;

/// A silent instrument keeps whoever asks waiting so long, then says nothing still.
const SILENCE: Duration = Duration::from_secs(30);
/// Readings of a stream come so far apart.
const EACH: Duration = Duration::from_millis(500);

/// What is read.
#[derive(Debug, Deserialize)]
struct Ask {
    quantity: String,
}

/// A fault that is ordered.
#[derive(Debug, Deserialize)]
struct Order {
    fault: Fault,
}

fn refused(status: StatusCode, says: &str) -> Response {
    (status, Json(json!({ "says": says }))).into_response()
}

async fn discover(State(bench): State<Arc<Bench>>) -> Json<Vec<Instrument>> {
    Json(bench.instruments())
}

async fn start(State(bench): State<Arc<Bench>>, Path(serial): Path<String>) -> Response {
    match bench.start(&serial) {
        Some(()) => StatusCode::NO_CONTENT.into_response(),
        None => refused(StatusCode::NOT_FOUND, "there is no instrument of that serial number"),
    }
}

async fn read(State(bench): State<Arc<Bench>>, Path(serial): Path<String>, Query(ask): Query<Ask>) -> Response {
    if bench.fault(&serial) == Some(Fault::Silent) {
        tokio::time::sleep(SILENCE).await;
        return refused(StatusCode::GATEWAY_TIMEOUT, "no answer");
    }
    match bench.read(&serial, &ask.quantity) {
        Ok(reading) => Json(reading).into_response(),
        Err(says) => refused(StatusCode::UNPROCESSABLE_ENTITY, &says),
    }
}

async fn follow(State(bench): State<Arc<Bench>>, Path(serial): Path<String>, Query(ask): Query<Ask>) -> Response {
    if let Err(says) = bench.read(&serial, &ask.quantity) {
        return refused(StatusCode::UNPROCESSABLE_ENTITY, &says);
    }
    let next = move |bench: Arc<Bench>| {
        let (serial, quantity) = (serial.clone(), ask.quantity.clone());
        async move {
            tokio::time::sleep(EACH).await;
            while bench.fault(&serial) == Some(Fault::Silent) {
                tokio::time::sleep(EACH).await;
            }
            let reading = bench.read(&serial, &quantity).ok()?;
            let event = Event::default().event("reading").json_data(reading).ok()?;
            Some((Ok::<_, Infallible>(event), bench))
        }
    };
    Sse::new(stream::unfold(bench, next)).keep_alive(KeepAlive::default()).into_response()
}

async fn order(State(bench): State<Arc<Bench>>, Path(serial): Path<String>, Json(order): Json<Order>) -> Response {
    match bench.order(&serial, order.fault) {
        Some(()) => StatusCode::NO_CONTENT.into_response(),
        None => refused(StatusCode::NOT_FOUND, "there is no instrument of that serial number"),
    }
}

/// Which hours are asked for.
#[derive(Debug, Deserialize)]
struct Sky {
    /// Number of the first day since 1970-01-01.
    first: i64,
    /// For how many days.
    days: u32,
    /// The day on which it is asked, by the same count: what lies behind it is told as it was.
    asked: i64,
}

/// Days that are told at most.
const MOST_DAYS: u32 = 366;

async fn weather(Query(ask): Query<Sky>) -> Response {
    if !(1..=MOST_DAYS).contains(&ask.days)
        || !(0..1_000_000).contains(&ask.first)
        || !(0..1_000_000).contains(&ask.asked)
    {
        return refused(StatusCode::UNPROCESSABLE_ENTITY, "expected 1 to 366 days from 1970 on");
    }
    Json(hours(ask.first, ask.days, ask.asked)).into_response()
}

/// The interface.
pub fn router() -> Router {
    Router::new()
        .route("/weather", get(weather))
        .route("/instruments", get(discover))
        .route("/instruments/{serial}/start", post(start))
        .route("/instruments/{serial}/reading", get(read))
        .route("/instruments/{serial}/stream", get(follow))
        .route("/instruments/{serial}/fault", put(order))
        .with_state(Arc::new(Bench::new()))
}
