//! Bench and truck: what to buy, what touches, and the calculators.

use super::body::{JobId, JobPart, Json};
use super::files::download;
use super::jobs::blocking;
use super::types::Truck;
use crate::App;
use crate::problem::{Fault, ProblemDocument};
use axum::Json as Out;
use axum::extract::State;
use axum::response::{IntoResponse, Response};
use kame_core::kit::touching_pairs;
use kame_core::plan::build;
use kame_core::takeoff::{Mix, Mixed, mix, order};

/// What to buy for a job, what touches in it, and the library behind both.
#[utoipa::path(get, path = "/api/jobs/{id}/truck", params(("id" = i64, Path)), responses((status = 200, body = Truck), (status = 404, body = ProblemDocument)))]
pub async fn truck(State(app): State<App>, JobId(id): JobId) -> Result<Out<Truck>, Fault> {
    blocking(&app, move |s| {
        let job = s.job(id)?.job;
        let plan = build(&job)?;
        let order = order(&plan, &job.kit).map_err(Fault::Internal)?;
        let pairs = touching_pairs(&plan).map_err(Fault::Internal)?;
        Ok(Out(Truck { order, pairs, products: plan.products.into_owned() }))
    })
    .await
}

/// The order as a file: `order.csv` or `order.xlsx`.
#[utoipa::path(get, path = "/api/jobs/{id}/truck/{file}", params(("id" = i64, Path), ("file" = String, Path)), responses((status = 200, content_type = "text/csv"), (status = 404, body = ProblemDocument)))]
pub async fn order_file(State(app): State<App>, JobPart(id, file): JobPart) -> Result<Response, Fault> {
    blocking(&app, move |s| {
        let job = s.job(id)?.job;
        let order = order(&build(&job)?, &job.kit).map_err(Fault::Internal)?;
        match file.as_str() {
            "order.csv" => {
                let text = kame_formats::order_csv(&order).map_err(|e| Fault::Internal(e.to_string()))?;
                Ok(download(&job.name, "-order.csv", "text/csv; charset=utf-8", text).into_response())
            }
            "order.xlsx" => {
                let bytes = kame_formats::order_xlsx(&order).map_err(|e| Fault::Internal(e.to_string()))?;
                Ok(download(&job.name, "-order.xlsx", XLSX, bytes).into_response())
            }
            _ => Err(Fault::NoSuchPlace(format!("there is no file \"{file}\": ask for order.csv or order.xlsx"))),
        }
    })
    .await
}

const XLSX: &str = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";

/// A calculator: bead to a tube, coverage by gauge, tape width, fastener length, liquid left.
#[utoipa::path(post, path = "/api/mix", request_body = Mix, responses((status = 200, body = Mixed), (status = 422, body = ProblemDocument)))]
pub async fn mixed(Json(ask): Json<Mix>) -> Result<Out<Mixed>, Fault> {
    Ok(Out(mix(&ask)?))
}
