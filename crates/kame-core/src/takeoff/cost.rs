//! What one part of the work costs: its share of rolls, panels, tubes and boxes, and its hours.

use super::quantity::{Amount, Use};
use crate::kit::{Money, Product, SoldSize};
use crate::length::{FL_OZ_PER_GALLON, IN2_PER_FT2};
use crate::plan::Plan;
use crate::profile::fig;
use serde::Serialize;
use std::collections::BTreeSet;

/// Material in money, as far as prices are known.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Cost {
    /// In hundredths.
    pub cents: i64,
    /// Products it uses that have no price.
    pub unpriced: Vec<String>,
}

/// The cheapest share of a unit that an amount takes, in hundredths.
fn share(product: &Product, amount: &Amount) -> Option<f64> {
    let inches = |l: crate::length::Length| l.to_inches_f64();
    let area = |s: &SoldSize| Some(inches(s.width?) * inches(s.length?) / IN2_PER_FT2);
    let part = |s: &SoldSize| match *amount {
        // A strip of a roll takes the roll's whole width with it, a part of a panel or sheet its area.
        Amount::Piece { length, width, stock, .. } => {
            if matches!(product.kind.as_str(), "panel" | "board" | "sheet") {
                Some(inches(length) * inches(width) / IN2_PER_FT2 / area(s)?)
            } else {
                (s.width? == stock).then_some(inches(length) / inches(s.length?))
            }
        }
        Amount::Run { length } => Some(inches(length) / inches(s.length?)),
        Amount::Area { ft2 } => Some(ft2 / area(s)?),
        Amount::Volume { fl_oz } => Some(fl_oz / s.fl_oz.or(s.gallons.map(|g| g * FL_OZ_PER_GALLON))?),
        Amount::Count { n } => Some(n / f64::from(s.count?)),
    };
    let price = |s: &SoldSize| Some(Money::parse(s.price.as_deref()?).ok()?.cents as f64 * part(s)?);
    product.sizes.iter().filter_map(price).min_by(f64::total_cmp)
}

/// What these uses cost by their share of what is bought.
pub fn cost<'a>(plan: &Plan, uses: impl Iterator<Item = &'a Use>) -> Cost {
    let mut unpriced = BTreeSet::new();
    let mut cents = 0.0;
    for u in uses {
        let product = plan.product(&u.product);
        match product.and_then(|p| share(p, &u.amount)) {
            Some(c) => cents += c,
            None => {
                unpriced.insert(u.product.clone());
            }
        }
    }
    Cost { cents: cents.round() as i64, unpriced: unpriced.into_iter().collect() }
}

/// Hours of one person in money, in hundredths, by the profile's rate; 0 where none is given.
pub fn labour(plan: &Plan, minutes: f64) -> i64 {
    (minutes / 60.0 * plan.basis.figures.number(fig::CREW_RATE) * 100.0).round() as i64
}
