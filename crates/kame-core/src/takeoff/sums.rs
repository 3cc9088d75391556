//! What is used, summed up by opening, wall, phase, trade or day.

use super::quantity::{Amount, Use};
use crate::length::Length;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// By what it is summed up.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum By {
    /// Opening or other feature.
    #[default]
    Opening,
    /// Wall.
    Wall,
    /// Phase of the work.
    Phase,
    /// Whose work.
    Trade,
    /// Day.
    Day,
}

/// What one group takes of one product.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Sum {
    /// The opening, wall, phase, trade or day; empty for what belongs to no opening.
    pub group: String,
    /// Generic product.
    pub product: String,
    /// Number of pieces, beads or coats.
    pub uses: usize,
    /// How much in all, as text.
    pub amount: String,
    /// Square feet of it as cut; 0 where it has no area.
    pub ft2: f64,
}

#[derive(Default)]
struct Total {
    uses: usize,
    ft2: f64,
    along: BTreeMap<Length, Length>,
    run: Length,
    area: f64,
    fl_oz: f64,
    n: f64,
}

impl Total {
    fn add(&mut self, amount: &Amount) {
        self.uses += 1;
        match *amount {
            Amount::Piece { length, width, stock, .. } => {
                *self.along.entry(stock).or_default() += length;
                self.ft2 += length.to_inches_f64() * width.to_inches_f64() / crate::length::IN2_PER_FT2;
            }
            Amount::Run { length } => self.run += length,
            Amount::Area { ft2 } => {
                self.area += ft2;
                self.ft2 += ft2;
            }
            Amount::Volume { fl_oz } => self.fl_oz += fl_oz,
            Amount::Count { n } => self.n += n,
        }
    }

    fn words(&self) -> String {
        let mut out: Vec<String> = self.along.iter().map(|(stock, length)| format!("{length} of {stock}")).collect();
        out.extend(self.run.is_positive().then(|| self.run.to_string()));
        out.extend((self.area > 0.0).then(|| format!("{:.1} ft²", self.area)));
        out.extend((self.fl_oz > 0.0).then(|| format!("{:.2} fl oz", self.fl_oz)));
        out.extend((self.n > 0.0).then(|| format!("{}", self.n)));
        out.join(", ")
    }
}

/// Sums up what is used; `begins` says on which day each step of the order in force begins, as 2026-03-02.
pub fn sums(uses: &[Use], by: By, begins: &[String]) -> Vec<Sum> {
    let word = |v: serde_json::Value| v.as_str().unwrap_or_default().to_owned();
    // Phases in their own order, and not by their letters.
    let group = |u: &Use| match by {
        By::Opening => (0, u.opening.clone()),
        By::Wall => (0, u.wall.clone()),
        By::Phase => (u.phase as usize, word(serde_json::json!(u.phase))),
        By::Trade => (u.trade as usize, word(serde_json::json!(u.trade))),
        By::Day => (0, begins.get(u.step).or(begins.last()).cloned().unwrap_or_default()),
    };
    let mut out: BTreeMap<((usize, String), &str), Total> = BTreeMap::new();
    for u in uses {
        out.entry((group(u), u.product.as_str())).or_default().add(&u.amount);
    }
    out.into_iter()
        .map(|(((_, group), product), t)| Sum {
            group,
            product: product.to_owned(),
            uses: t.uses,
            amount: t.words(),
            ft2: (t.ft2 * 10.0).round() / 10.0,
        })
        .collect()
}
