//! What is cut: rolls along their length or across as well, bars with a saw, panels and boards by guillotine.

use super::{CutOf, Gathered, Ordering, held, words, worse};
use crate::kit::{Held, KitSpec, Money, Product, SoldSize};
use crate::length::IN2_PER_FT2;
use crate::length::Length;
use crate::nest::{CutSheet, Cutting, Nesting, RollStock, cheapest, nest, spliced};
use crate::plan::Plan;
use crate::profile::{LengthFigure, fig};

/// One product at the bench.
pub(super) struct Bench<'a> {
    pub plan: &'a Plan,
    pub kit: &'a KitSpec,
    pub product: &'a Product,
    pub how: &'a Ordering<'a>,
}

fn cents(size: &SoldSize) -> Option<i64> {
    Money::parse(size.price.as_deref()?).ok().map(|m| m.cents)
}

fn ft2(length: Length, width: Length) -> f64 {
    length.to_inches_f64() * width.to_inches_f64() / IN2_PER_FT2
}

impl Gathered {
    /// Takes units of a size, first those on the truck.
    fn take_with(&mut self, at: &Bench, size: &SoldSize, steps: &[usize]) {
        let counted = self.sizes.iter().any(|s| s.size.measures() == size.measures());
        let on_truck = if counted { 0 } else { held(at.kit, at.product, |s| s.measures() == size.measures()) };
        self.take(size, on_truck, steps);
    }
}

impl Bench<'_> {
    fn figure(&self, id: LengthFigure) -> Length {
        self.plan.basis.figures.length(id)
    }

    /// Pieces from rolls of one width.
    pub(super) fn rolls(&self, stock: Length, pieces: &[CutOf], f: &mut Gathered) {
        let total: Length = pieces.iter().map(|p| p.length).sum();
        let sold = &self.product.sizes;
        let mut sizes: Vec<SoldSize> =
            sold.iter().filter(|s| s.width == Some(stock) && s.length.is_some()).cloned().collect();
        if sizes.is_empty() {
            let length = self.figure(if self.product.kind == "sheet" {
                fig::BARRIER_ROLL_LENGTH
            } else if self.product.stretches {
                fig::PAN_ROLL_LENGTH
            } else {
                fig::TAPE_ROLL_LENGTH
            });
            f.remark.push(format!("No roll {stock} wide is in its sizes: rolls of {length} are counted."));
            sizes.push(SoldSize { width: Some(stock), length: Some(length), ..SoldSize::default() });
        }
        f.net.push(format!("{} pieces, {total} of {stock}", pieces.len()));
        // Courses take their rolls as they are laid.
        let (laid, rest): (Vec<&CutOf>, Vec<&CutOf>) = pieces.iter().partition(|p| p.roll.is_some());
        self.courses(stock, &laid, &sizes, f);
        if rest.is_empty() {
            return;
        }
        let on_hand: Vec<&Held> = self
            .kit
            .stock
            .iter()
            .filter(|h| h.product == self.product.name && h.size.width == Some(stock) && h.size.length.is_some())
            .collect();
        if self.product.kind == "sheet" && on_hand.is_empty() && rest.iter().any(|p| p.width < stock) {
            return self.guillotine(&rest, &sizes, Length::ZERO, f);
        }
        self.along(stock, &rest, &sizes, &on_hand, f);
    }

    /// Courses of every stretch, by the rolls their rule took.
    fn courses(&self, stock: Length, laid: &[&CutOf], sizes: &[SoldSize], f: &mut Gathered) {
        let (Some(last), Some(first)) = (laid.iter().map(|p| p.of.step).max(), sizes.first()) else { return };
        let mut opened: std::collections::BTreeMap<usize, usize> = Default::default();
        for p in laid {
            let step = opened.entry(p.roll.unwrap_or_default()).or_insert(p.of.step);
            *step = p.of.step.min(*step);
        }
        let mut here = 0;
        for (n, s) in self.plan.walls.stretches.iter().enumerate().filter(|(_, s)| !s.courses.courses.is_empty()) {
            let mine = |p: &crate::plan::Piece| {
                p.product == self.product.name
                    && p.stretch == n
                    && p.cut.as_ref().is_some_and(|c| c.taken.is_some() && c.stock_width == stock)
            };
            if self.plan.pieces.iter().any(mine) {
                here += s.courses.rolls;
                f.working.push(format!("{} courses{}: {}", s.courses.courses.len(), s.name(""), s.courses.why));
            }
        }
        let usual = self.figure(fig::BARRIER_ROLL_LENGTH);
        let size = sizes.iter().find(|s| s.length == Some(usual)).unwrap_or(first);
        let covered: f64 = laid.iter().map(|p| ft2(p.length, p.width)).sum();
        let bought = here as f64 * ft2(stock, size.length.unwrap_or(Length::ZERO));
        f.working.push(format!("courses with their laps {covered:.0} ft², rolls {bought:.0} ft²"));
        f.left.push(format!("{:.0} ft²", bought - covered));
        let mut steps: Vec<usize> = opened.into_values().collect();
        steps.resize(here, last);
        f.take_with(self, size, &steps);
    }

    /// Pieces cut off along a roll.
    fn along(&self, stock: Length, rest: &[&CutOf], sizes: &[SoldSize], on_hand: &[&Held], f: &mut Gathered) {
        let total: Length = rest.iter().map(|p| p.length).sum();
        let longest = sizes.iter().filter_map(|s| s.length).max().unwrap_or(Length::ZERO);
        // A piece longer than any roll is spliced, the upper part over the lower; mats butt.
        let lap = match self.product.kind.as_str() {
            "mat" => Length::ZERO,
            "sheet" => self.figure(fig::LAP_VERTICAL),
            _ => self.figure(fig::TAPE_SPLICE),
        };
        let mut parts: Vec<(Length, usize)> = Vec::new();
        for CutOf { of, length, .. } in rest.iter().copied() {
            match spliced(*length, longest, lap) {
                Some(cut) => {
                    if cut.len() > 1 {
                        f.remark.push(format!(
                            "{} is {length}, longer than a roll of {longest}: {} parts of {}, lapped {lap}.",
                            of.what,
                            cut.len(),
                            cut[0]
                        ));
                    }
                    parts.extend(cut.into_iter().map(|l| (l, of.step)));
                }
                None => f.remark.push(format!(
                    "{} is {length}, and a roll of {longest} is not twice the lap of {lap}: take longer rolls.",
                    of.what
                )),
            }
        }
        let found = self.nested(&parts, sizes, on_hand, Length::ZERO, f);
        let left: Length = found.rolls.iter().filter(|r| r.useful).map(|r| r.left).sum();
        let waste: Length = found.rolls.iter().filter(|r| !r.useful).map(|r| r.left).sum();
        let percent = self.plan.basis.figures.number(fig::WASTE_HANDLING);
        let handling = Length::from_inches_f64(total.to_inches_f64() * percent / 100.0).unwrap_or(Length::ZERO);
        let mut more = 0;
        if handling > left + waste {
            let short = handling - left - waste;
            more = (short.units() + longest.units() - 1) / longest.units().max(1);
        }
        // What handling wastes is missed at the end.
        let last = rest.iter().map(|p| p.of.step).max().unwrap_or_default();
        if let Some(size) = sizes.iter().find(|s| s.length == Some(longest)).filter(|_| more > 0) {
            f.take(size, 0, &vec![last; more as usize]);
        }
        f.handling.push(format!("{handling} ({percent} %)"));
        let short = if waste.is_positive() { format!(", {waste} in ends too short to keep") } else { String::new() };
        f.left.push(format!("{left} to keep{short}"));
        f.working.push(format!(
            "{} lengths, {total} in all, on {} roll(s) of {stock} width; no nesting buys fewer than {}; handling {handling}{}",
            parts.len(),
            found.rolls.len(),
            found.bound,
            if more > 0 { format!(" is more than what is left over: {more} roll(s) more") } else { " comes out of what is left over".into() }
        ));
    }

    /// Nests lengths on what is on the truck and what is sold, and takes the units.
    fn nested(
        &self,
        parts: &[(Length, usize)],
        sizes: &[SoldSize],
        on_hand: &[&Held],
        kerf: Length,
        f: &mut Gathered,
    ) -> Nesting {
        let mut stocks: Vec<RollStock> = on_hand
            .iter()
            .filter_map(|h| Some(RollStock { length: h.size.length?, price: None, on_hand: Some(h.count as usize) }))
            .collect();
        stocks.extend(sizes.iter().filter_map(|s| Some(RollStock::to_buy(s.length?, cents(s)))));
        let lengths: Vec<Length> = parts.iter().map(|p| p.0).collect();
        let cutting = Cutting { kerf, least_left: self.figure(fig::LEAST_LEFTOVER), stop: self.how.stop };
        let found = nest(&lengths, &stocks, &cutting);
        f.outcome = worse(f.outcome, found.outcome);
        if !found.too_long.is_empty() {
            f.remark.push(format!("{} of them fit no size: add a longer one.", found.too_long.len()));
        }
        let of_stock = on_hand.iter().map(|h| (h.size.measures(), u64::from(h.count)));
        for (k, (size, count)) in of_stock.chain(sizes.iter().map(|s| (s.clone(), 0))).enumerate() {
            let steps: Vec<usize> = found
                .rolls
                .iter()
                .filter(|r| r.stock == k)
                .map(|r| r.pieces.iter().map(|&i| parts[i].1).min().unwrap_or_default())
                .collect();
            if !steps.is_empty() {
                f.take(&size, count, &steps);
            }
        }
        let hand = found.rolls.len() - found.bought;
        if hand > 0 {
            f.working.push(format!("{hand} of the rolls cut are on the truck"));
        }
        found
    }

    /// Bars, rods and battens: cut to length with a saw.
    pub(super) fn bars(&self, runs: &[(Length, usize)], f: &mut Gathered) {
        if runs.is_empty() {
            return;
        }
        let total: Length = runs.iter().map(|r| r.0).sum();
        let sizes: Vec<SoldSize> = self.product.sizes.iter().filter(|s| s.length.is_some()).cloned().collect();
        f.net.push(format!("{total} in {} lengths", runs.len()));
        let Some(longest) = sizes.iter().filter_map(|s| s.length).max() else {
            f.remark.push(format!("{} has no length it is sold in: give it one to count bars.", self.product.name));
            return;
        };
        // Metal laps in sealant, all else butts.
        let metal = self.product.kind == "metal";
        let lap = if metal { self.figure(fig::PATCH_PAST) } else { Length::ZERO };
        let mut parts: Vec<(Length, usize)> = Vec::new();
        for (run, step) in runs {
            let mut left = *run;
            // Each part gains at least half its length on the one before.
            while left > longest && longest >= lap + lap {
                parts.push((longest, *step));
                left = left - longest + lap;
            }
            parts.push((left, *step));
        }
        if parts.len() > runs.len() {
            let how = if metal { format!("lapped {lap} in sealant") } else { "butted".into() };
            f.remark.push(format!("Longer runs than {longest} are of parts {how}."));
        }
        let on_hand: Vec<&Held> =
            self.kit.stock.iter().filter(|h| h.product == self.product.name && h.size.length.is_some()).collect();
        let kerf = self.figure(fig::SAW_KERF);
        let found = self.nested(&parts, &sizes, &on_hand, kerf, f);
        let left: Length = found.rolls.iter().filter(|r| r.useful).map(|r| r.left).sum();
        f.left.push(format!("{left} to keep"));
        f.working.push(format!(
            "{} parts, {total} in all, {kerf} lost at each cut: {} to buy, no fewer than {}",
            parts.len(),
            found.bought,
            found.bound
        ));
    }

    /// Panels and boards, offcuts used again.
    pub(super) fn panels(&self, pieces: &[CutOf], f: &mut Gathered) {
        let area: f64 = pieces.iter().map(|p| ft2(p.length, p.width)).sum();
        f.net.push(format!("{} {}s and parts, {area:.0} ft²", pieces.len(), self.product.unit));
        let list: Vec<&CutOf> = pieces.iter().collect();
        self.guillotine(&list, &self.product.sizes, self.figure(fig::SAW_KERF), f);
    }

    /// Cut from edge to edge, from the size that does best.
    fn guillotine(&self, pieces: &[&CutOf], sizes: &[SoldSize], kerf: Length, f: &mut Gathered) {
        let list: Vec<(Length, Length)> = pieces.iter().map(|p| (p.length, p.width)).collect();
        let area: f64 = list.iter().map(|(a, b)| ft2(*a, *b)).sum();
        let Some(made) = cheapest(&list, sizes.iter(), kerf) else {
            f.remark.push(format!(
                "Some parts are larger than any {} it is sold in: change the figures of the wall or the sizes.",
                self.product.unit
            ));
            return;
        };
        let n = made.sheets.len();
        f.outcome = worse(f.outcome, made.outcome);
        f.left.push(format!("{:.0} ft²", n as f64 * ft2(made.along, made.across) - area));
        f.working.push(format!(
            "{area:.0} ft² in {} parts from {n} × {}, offcuts used again, {kerf} lost at each cut, none turned",
            list.len(),
            words(made.size, &self.product.unit)
        ));
        let first = |s: &CutSheet| s.pieces.iter().map(|p| pieces[p.piece].of.step).min().unwrap_or_default();
        let steps: Vec<usize> = made.sheets.iter().map(first).collect();
        f.take_with(self, made.size, &steps);
    }
}
