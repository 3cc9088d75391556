//! What a script is told of the work of a job: what to buy, what to cut, and how long each step takes.

use crate::job::Job;
use crate::length::Length;
use crate::plan::build;
use crate::problem::Problem;
use crate::purchase::{Order, Ordering, order};
use crate::stop::Stop;
use crate::takeoff::{Amount, piece_amounts, step_minutes};
use serde::Serialize;

/// Everything to buy and to cut, and the minutes of every step.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct OrderedView {
    /// What to buy, by supplier and product: one for each size.
    pub products: Vec<OrderedProduct>,
    /// Every piece that is placed, in the order of the work.
    pub pieces: Vec<OrderedPiece>,
    /// Every step that is done, in the order of the work.
    pub minutes: Vec<StepMinutes>,
}

/// One size of a product.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct OrderedProduct {
    /// The product.
    pub product: String,
    /// The size it is sold in, in words; empty where none is known.
    pub size: String,
    /// How many to buy.
    pub count: u64,
    /// How much of the product the work takes; `null` on its further sizes, so that a sum over lines counts it once.
    pub amount: Option<f64>,
    /// Of what: `ft2` of what is cut from rolls, panels and boards or laid by area, `ft` of bars, `fl_oz` of what is poured, `each` of the rest.
    pub unit: &'static str,
    /// How many of this size the work needs, those on the truck among them.
    pub needed: u64,
    /// What to know; empty where there is nothing.
    pub remark: String,
}

/// One piece, or one part of a piece that is laid in several.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct OrderedPiece {
    /// Id in the plan.
    pub id: String,
    /// What it is made of.
    pub product: String,
    /// Cut length, in; `null` for what is not cut.
    pub length_in: Option<f64>,
    /// Cut width, in; `null` for bars and for what is not cut.
    pub width_in: Option<f64>,
}

/// How long a step takes.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct StepMinutes {
    /// Id in the plan.
    pub step: String,
    /// Minutes of one person.
    pub minutes: f64,
}

/// What to buy, cut and do for a job.
///
/// # Errors
/// What is wrong with the job.
pub fn ordered(job: &Job, stop: &Stop) -> Result<OrderedView, Vec<Problem>> {
    let plan = build(job)?;
    let enough = || stop.is_hurried();
    let order = order(&plan, &job.kit, &Ordering { stop: &enough, ..Ordering::default() });
    let placed = plan.actions().filter_map(|(_, a)| a.act.placed());
    let pieces = placed.flat_map(|p| {
        let (id, product) = (&plan.pieces[p].id, &plan.pieces[p].product);
        let whole = |length: Option<Length>, width: Option<Length>| OrderedPiece {
            id: id.clone(),
            product: product.clone(),
            length_in: length.map(Length::to_inches_f64),
            width_in: width.map(Length::to_inches_f64),
        };
        piece_amounts(&plan, p).into_iter().filter_map(move |amount| match amount {
            Amount::Piece { length, width, .. } => Some(whole(Some(length), Some(width))),
            Amount::Run { length } => Some(whole(Some(length), None)),
            Amount::Count { .. } => Some(whole(None, None)),
            Amount::Area { .. } | Amount::Volume { .. } => None,
        })
    });
    let each = step_minutes(&plan);
    let done = plan.order.iter().filter(|s| !plan.is_removed(&plan.steps[**s].id));
    let minutes = done.map(|&s| StepMinutes { step: plan.steps[s].id.clone(), minutes: rounded(each[s]) });
    Ok(OrderedView { products: products(&order), pieces: pieces.collect(), minutes: minutes.collect() })
}

/// To a thousandth: what is added up in another order is the same.
fn rounded(x: f64) -> f64 {
    (x * 1000.0).round() / 1000.0
}

fn products(order: &Order) -> Vec<OrderedProduct> {
    let of_line = |l: &crate::purchase::OrderLine| {
        let (unit, amount) = l.used();
        let product = |first: bool, size: String, count: u64, needed: u64| OrderedProduct {
            product: l.product.clone(),
            size,
            count,
            amount: first.then(|| rounded(amount)),
            unit,
            needed,
            remark: if first { l.remark.clone() } else { String::new() },
        };
        let sizes = l.sizes.iter().enumerate();
        let mut out: Vec<OrderedProduct> =
            sizes.map(|(i, s)| product(i == 0, s.size.clone(), s.buy, s.needed)).collect();
        if out.is_empty() {
            out.push(product(true, String::new(), 0, 0));
        }
        out
    };
    order.lines.iter().flat_map(of_line).collect()
}

impl OrderedView {
    /// The same in lines for people at a terminal.
    pub fn in_words(&self) -> String {
        let products = self.products.iter().map(|p| {
            let amount = p.amount.map_or(String::new(), |a| format!(" ({a:.1} {})", p.unit));
            let remark = if p.remark.is_empty() { String::new() } else { format!(": {}", p.remark) };
            format!("{} × {}, {}{amount}{remark}\n", p.count, p.product, p.size)
        });
        let inches = |l: Option<f64>| l.map_or("–".to_owned(), |l| format!("{l} in"));
        let pieces = self
            .pieces
            .iter()
            .map(|p| format!("{}: {}, {} × {}\n", p.id, p.product, inches(p.length_in), inches(p.width_in)));
        let minutes = self.minutes.iter().map(|m| format!("{}: {:.0} min\n", m.step, m.minutes));
        let all: f64 = self.minutes.iter().map(|m| m.minutes).sum();
        products.chain(pieces).chain(minutes).chain([format!("{all:.0} min of one person\n")]).collect()
    }
}
