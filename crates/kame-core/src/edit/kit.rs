//! Changes of products, stock and recorded pairs.

use super::{Edit, no, no_opening};
use crate::job::Job;
use crate::kit::{Held, OwnProduct, ProductsHere, RecordedPair};
use crate::problem::Problem;

/// Where it is kept which product of a kind is used at a place.
pub(super) fn products_at<'a>(
    next: &'a mut Job,
    opening: Option<&str>,
    wall: usize,
) -> Result<&'a mut ProductsHere, Vec<Problem>> {
    if let Some(id) = opening {
        return match next.openings.iter_mut().find(|o| o.id == id) {
            Some(o) => Ok(&mut o.products),
            None => no_opening("$.opening", id),
        };
    }
    let walls = next.wall.corners.len() + 1;
    match wall {
        0 => Ok(&mut next.wall.products),
        n if n < walls => Ok(&mut next.wall.corners[n - 1].products),
        n => no("$.wall", format!("found wall {n}, expected 0 to {}", walls - 1)),
    }
}

/// The crew's own product, and what is on the truck of it alone.
pub(super) fn set_product(
    next: &mut Job,
    product: &str,
    own: Option<&OwnProduct>,
    stock: Option<&[Held]>,
) -> Result<(), Vec<Problem>> {
    next.kit.set_product(product, own.cloned());
    let Some(stock) = stock else { return Ok(()) };
    if let Some(other) = stock.iter().find(|h| h.product != product) {
        return no("$.stock", format!("found {} on the truck, expected {product} alone", other.product));
    }
    next.kit.stock.retain(|h| h.product != product);
    next.kit.stock.extend(stock.iter().cloned());
    Ok(())
}

pub(super) fn record_pair(next: &mut Job, edit: &Edit) {
    let Edit::RecordPair { upper, lower, verdict, source, hours } = edit else { return };
    next.kit.pairs.retain(|r| (&r.upper, &r.lower) != (upper, lower));
    next.kit.pairs.extend(verdict.map(|verdict| RecordedPair {
        upper: upper.clone(),
        lower: lower.clone(),
        verdict,
        source: source.trim().to_owned(),
        hours: *hours,
    }));
}
