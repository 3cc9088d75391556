//! How much water each place takes: the least head that gets in there, beside what is asked.

use super::ask::{Known, data_problem};
use crate::findings::{Moment, PlaceHead, followed};
use crate::length::Head;
use crate::plan::{Opening, Plan};
use crate::problem::Problem;
use serde::Serialize;

/// The least heads at which any water gets in at one place, in.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PlaceHeadView {
    /// Id of the opening.
    pub id: String,
    /// While the glue holds; `null` where there is no way in at less than is followed.
    pub holds: Option<f64>,
    /// Once the glue is lost; `null` where there is no way in at less than is followed.
    pub lost: Option<f64>,
}

/// The least heads of all places.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct HeadsView {
    /// The least that is asked while the glue holds, and once it is lost, in.
    pub floors: [f64; 2],
    /// To which head water is followed, in.
    pub followed: f64,
    /// Every place, in the order of the job.
    pub places: Vec<PlaceHeadView>,
}

/// The least heads of all places after so many actions.
///
/// # Errors
/// What is wrong with the data if the stage were no valid layup, or that the asker stopped asking.
pub fn heads(plan: &Plan, done: usize, known: &Known) -> Result<HeadsView, Vec<Problem>> {
    let moment = Moment::with_known(plan, done, &known.water).map_err(data_problem)?;
    let rounded = |h: Option<Head>| h.map(|h| (h.inches() * 100.0).round() / 100.0);
    let of_place = |(o, h): (&Opening, PlaceHead)| PlaceHeadView {
        id: o.id.clone(),
        holds: rounded(h.holds),
        lost: rounded(h.lost),
    };
    Ok(HeadsView {
        floors: [false, true].map(|lost| plan.floor(lost).to_inches_f64()),
        followed: followed(plan).to_inches_f64(),
        places: plan.openings.iter().zip(moment.place_heads(plan)).map(of_place).collect(),
    })
}
