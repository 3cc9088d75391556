//! Clocks of what stands in the open: from the day on which a product is hung until it has to be covered (handbook 6.1).

use super::ground::{Booked, CalendarQuestion};
use crate::date::{day_number, day_text};
use crate::record::StepNow;
use crate::trade::Step;
use serde::Serialize;
use std::collections::HashMap;

const DAY: i64 = 1440;
/// From this share of its days on it is told that a product has to be covered.
const TOLD_FROM: f64 = 0.75;

/// How long a product is in the open. Minutes are counted from midnight of the first day, below zero before it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Fuse {
    /// Generic product.
    pub product: String,
    /// When the first of it is hung.
    pub from: i64,
    /// The midnight after the last day on which it may be in the open.
    pub limit: i64,
    /// When all work is done, so that it can be covered.
    pub until: i64,
    /// True where that is later than `limit`.
    pub over: bool,
}

impl Fuse {
    /// How many days it may be in the open.
    fn days(&self) -> i64 {
        self.limit / DAY - 1 - self.from.div_euclid(DAY)
    }
}

/// Products of a step that may stand in the open for so many days only, each with those.
pub(super) fn exposed<'a>(asked: &CalendarQuestion<'a>, step: &'a Step) -> impl Iterator<Item = (&'a str, i64)> {
    let plan = asked.plan;
    let products = step.actions.iter().filter_map(|a| a.act.placed()).map(|p| plan.pieces[p].product.as_str());
    products.filter_map(|p| Some((p, plan.product(p)?.exposed_days? as i64)))
}

/// The fuse of every product that may stand in the open for some days only, in the order in which they are lit.
pub(super) fn fuses(asked: &CalendarQuestion, tasks: &[Booked], finish: u32) -> Vec<Fuse> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let steps: HashMap<&str, &Step> = asked.plan.steps.iter().map(|s| (s.id.as_str(), s)).collect();
    let hung = asked.states.iter().filter(|s| matches!(s.now, StepNow::Done | StepNow::LookedAt | StepNow::Failed));
    let before = hung.filter_map(|s| Some((s.step.as_str(), (day_number(&s.at)? - first) * DAY)));
    let booked = tasks.iter().map(|t| (t.step.as_str(), i64::from(t.from)));
    let mut out: Vec<Fuse> = Vec::new();
    for (step, from) in before.chain(booked) {
        let Some(step) = steps.get(step) else { continue };
        for (product, days) in exposed(asked, step) {
            let limit = (from.div_euclid(DAY) + days + 1) * DAY;
            match out.iter_mut().find(|f| f.product == product) {
                Some(f) if f.from <= from => {}
                Some(f) => (f.from, f.limit) = (from, limit),
                None => {
                    let until = i64::from(finish);
                    out.push(Fuse { product: product.to_owned(), from, limit, until, over: false });
                }
            }
        }
    }
    for f in &mut out {
        f.over = f.until > f.limit;
    }
    out.sort_by(|a, b| (a.from, &a.product).cmp(&(b.from, &b.product)));
    out
}

/// What should be known of fuses, as sentences.
pub(super) fn burning(asked: &CalendarQuestion, fuses: &[Fuse]) -> Vec<String> {
    let first = day_number(&asked.site.from).unwrap_or_default();
    let day = |minute: i64| day_text(first + minute.div_euclid(DAY));
    let told = fuses.iter().filter(|f| (f.until - f.from) as f64 > TOLD_FROM * (f.limit - f.from) as f64);
    let says = |f: &Fuse| {
        format!(
            "{} is out since {}: cover it before {}, {} days are allowed.",
            f.product,
            day(f.from),
            day(f.limit - DAY),
            f.days()
        )
    };
    told.map(says).collect()
}
