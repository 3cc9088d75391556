//! What is bought by area, volume or number.

use super::{Gathered, held, words};
use crate::kit::{KitSpec, Money, Product, SoldSize};
use crate::length::{FL_OZ_PER_GALLON, IN2_PER_FT2, Length};

/// One product that is measured out.
pub(super) struct Measure<'a> {
    pub kit: &'a KitSpec,
    pub product: &'a Product,
    /// What is taken for what is used: 1.1 where a tenth is lost in handling.
    pub handling: f64,
}

/// Most units of one product that are counted one by one.
const MOST_UNITS: f64 = 50_000.0;

fn too_many(product: &str, n: f64) -> String {
    format!("{n} of {product} would be needed, and at most {MOST_UNITS} are counted: give it a larger size.")
}

impl Measure<'_> {
    /// Square feet, each with its step.
    pub(super) fn area(&self, list: &[(f64, usize)], f: &mut Gathered) {
        let holds = |s: &SoldSize| Some(s.width?.to_inches_f64() * s.length?.to_inches_f64() / IN2_PER_FT2);
        self.units(list, (self.handling, "ft²"), holds, f);
    }

    /// Fluid ounces, each with its step.
    pub(super) fn volume(&self, list: &[(f64, usize)], f: &mut Gathered) {
        let holds = |s: &SoldSize| s.fl_oz.or(s.gallons.map(|g| g * FL_OZ_PER_GALLON));
        let (unit, per) = if self.product.unit == "pail" { ("gal", FL_OZ_PER_GALLON) } else { ("fl oz", 1.0) };
        // A coat has its loss in its volume already.
        let handling = if matches!(self.product.kind.as_str(), "fluid" | "plaster") { 1.0 } else { self.handling };
        let list: Vec<(f64, usize)> = list.iter().map(|(v, s)| (v / per, *s)).collect();
        self.units(&list, (handling, unit), |s| holds(s).map(|h| h / per), f);
    }

    /// Pieces, each with its step, and how long they have to be at least.
    pub(super) fn count(&self, list: &[(f64, usize)], at_least: Option<Length>, f: &mut Gathered) {
        if let Some(l) = at_least {
            f.working.push(format!("at least {l} long: all layers and the bite into the stud"));
        }
        if !self.product.sizes.is_empty() {
            // The shortest that are long enough; a size that says nothing of its length is taken at its word.
            let enough = |s: &&SoldSize| s.length.is_none_or(|own| at_least.is_none_or(|l| own >= l));
            let shortest = self.product.sizes.iter().filter(enough).filter_map(|s| s.length).min();
            let too_short = self.product.sizes.iter().all(|s| !enough(&s));
            if let Some(l) = at_least.filter(|_| too_short && !list.is_empty()) {
                f.remark.push(format!("{}: none of its sizes is {l} long; give it one that is.", self.product.name));
                return;
            }
            let fits = |s: &SoldSize| s.length.is_none() || shortest.is_none() || s.length == shortest;
            let holds = |s: &SoldSize| s.count.filter(|_| enough(&s) && fits(s)).map(f64::from);
            self.units(list, (self.handling, "pieces"), holds, f);
        } else if list.iter().map(|(n, _)| n.ceil()).sum::<f64>() > MOST_UNITS {
            f.remark.push(too_many(&self.product.name, list.iter().map(|(n, _)| n.ceil()).sum()));
        } else if !list.is_empty() {
            let steps: Vec<usize> = list.iter().flat_map(|(n, s)| vec![*s; n.ceil() as usize]).collect();
            f.net.push(format!("{}", steps.len()));
            f.take(&SoldSize::default(), held(self.kit, self.product, |_| true), &steps);
        }
    }

    /// The smallest sum of whole units of one size; each is opened where the one before is used up.
    fn units(
        &self,
        list: &[(f64, usize)],
        (handling, unit): (f64, &str),
        holds: impl Fn(&SoldSize) -> Option<f64>,
        f: &mut Gathered,
    ) {
        let amount: f64 = list.iter().map(|l| l.0).sum();
        if amount <= 0.0 {
            return;
        }
        f.net.push(format!("{amount:.2} {unit}").replace(".00", ""));
        let all = amount * handling;
        if handling > 1.0 {
            f.handling.push(format!("{:.1} {unit}", all - amount));
        }
        // Whatever is on the truck goes first, of any size.
        let mut hand: Vec<(SoldSize, f64)> = Vec::new();
        let mut rest = all;
        for h in self.kit.stock.iter().filter(|h| h.product == self.product.name) {
            let Some(one) = holds(&h.size).filter(|h| *h > 0.0) else { continue };
            let n = f64::from(h.count).min((rest / one - 1e-9).ceil()).min(MOST_UNITS - hand.len() as f64).max(0.0);
            rest = (rest - n * one).max(0.0);
            hand.extend(vec![(h.size.measures(), one); n as usize]);
        }
        let cents = |s: &SoldSize| Money::parse(s.price.as_deref()?).ok().map(|m| m.cents as f64);
        let tried = self.product.sizes.iter().filter_map(|s| {
            let one = holds(s).filter(|h| *h > 0.0)?;
            let n = (rest / one - 1e-9).ceil().max(0.0);
            Some((cents(s).map_or(n * one, |c| n * c), n, one, s))
        });
        let best = tried.min_by(|a, b| a.0.total_cmp(&b.0));
        let mut units = hand;
        let had = units.len();
        if let Some((_, n, ..)) = best.filter(|(_, n, ..)| *n > MOST_UNITS) {
            f.remark.push(too_many(&self.product.name, n));
        } else if let Some((_, n, one, s)) = best {
            units.extend(vec![(s.clone(), one); n as usize]);
        } else if rest > 1e-9 {
            let cover = self.product.kind == "primer" && unit == "ft²";
            f.remark.push(if cover {
                format!("{}: how many ft² a gallon covers is not known; fill it in to count cans.", self.product.name)
            } else {
                format!("{} has no size with a measure in {unit}: give it one to count what to buy.", self.product.name)
            });
        }
        let holds: f64 = units.iter().map(|u| u.1).sum();
        f.left.push(format!("{:.1} {unit}", (holds - all).max(0.0)));
        let more = if handling > 1.0 { format!(" × {handling:.2}") } else { String::new() };
        let first = if had > 0 { format!(", {had} from the truck first") } else { String::new() };
        let bought = best.map_or_else(String::new, |(_, n, one, s)| {
            format!(" / {one:.1} in one = {n} × {}", words(s, &self.product.unit))
        });
        f.working.push(format!("{amount:.2} {unit}{more} = {all:.2} {unit}{first}{bought}"));
        // Each is opened where those before it are used up.
        let mut inside = list.to_vec();
        inside.sort_by_key(|l| l.1);
        let (mut used, mut open, mut steps) = (0.0, 0.0, Vec::new());
        for (more, step) in &inside {
            used += more * handling;
            while steps.len() < units.len() && open < used - 1e-9 {
                open += units[steps.len()].1;
                steps.push(*step);
            }
        }
        steps.resize(units.len(), inside.last().map_or(0, |l| l.1));
        for (n, ((size, _), step)) in units.iter().zip(steps).enumerate() {
            f.take(size, u64::from(n < had), &[step]);
        }
    }
}
