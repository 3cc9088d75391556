//! What to buy: everything the plan uses, turned into whole rolls, panels, bars, tubes, pails and boxes, by supplier, with working and price.

use super::nest::{Cutting, Outcome, RollStock, nest, spliced};
use super::quantity::{Amount, FT2_MIL_PER_GALLON, IN2_PER_FT2, Use, uses};
use crate::kit::{FL_OZ_PER_GALLON, KitSpec, Money, Product, SoldSize};
use crate::length::Length;
use crate::plan::Plan;
use serde::Serialize;
use std::collections::BTreeMap;

/// So many of one size.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Bought {
    /// The size, in words.
    pub size: String,
    /// How many are needed.
    pub needed: u64,
    /// How many of them are on the truck.
    pub held: u64,
    /// How many to buy.
    pub buy: u64,
    /// What those cost, as text; empty where a price is not known.
    pub price: String,
}

/// One product to buy.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OrderLine {
    /// Generic product.
    pub product: String,
    /// What the crew calls it.
    pub called: String,
    /// What it is.
    pub kind: String,
    /// Who sells it.
    pub supplier: String,
    /// What is used, as text.
    pub net: String,
    /// What is lost in handling, as text.
    pub handling: String,
    /// What is left over of what is bought, as text.
    pub left: String,
    /// What to buy.
    pub sizes: Vec<Bought>,
    /// How good the nesting is known to be, where pieces are nested.
    pub outcome: Option<Outcome>,
    /// How it was worked out, line by line.
    pub working: Vec<String>,
    /// What to know; empty where there is nothing.
    pub remark: String,
    /// Everything it is used for.
    pub uses: Vec<Use>,
    /// Price in hundredths, where all of it is known.
    pub cents: Option<i64>,
}

/// Everything to buy.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Order {
    /// Lines by supplier and product.
    pub lines: Vec<OrderLine>,
    /// Sum of all known prices, as text; empty where there are none.
    pub total: String,
    /// Products without a price.
    pub unpriced: usize,
    /// What is short on the truck and has to be bought: number of lines.
    pub short: usize,
}

/// The order of a plan with a kit.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn order(plan: &Plan, kit: &KitSpec) -> Result<Order, String> {
    let mut by: BTreeMap<String, Vec<Use>> = BTreeMap::new();
    for u in uses(plan) {
        by.entry(u.product.clone()).or_default().push(u);
    }
    let mut lines = Vec::new();
    for (name, list) in by {
        let Some(product) = plan.products.iter().find(|p| p.name == name) else { continue };
        lines.push(line(plan, kit, product, list));
    }
    lines.sort_by(|a, b| (&a.supplier, &a.product).cmp(&(&b.supplier, &b.product)));
    let cents: i64 = lines.iter().filter_map(|l| l.cents).sum();
    let unpriced = lines.iter().filter(|l| l.cents.is_none()).count();
    let short = lines.iter().filter(|l| l.sizes.iter().any(|s| s.buy > 0)).count();
    let total = if unpriced == lines.len() { String::new() } else { money(cents, &currency(kit)) };
    Ok(Order { lines, total, unpriced, short })
}

fn currency(kit: &KitSpec) -> String {
    let sizes = kit.products.values().flat_map(|p| &p.sizes).chain(kit.stock.iter().map(|h| &h.size));
    let priced = sizes.filter_map(|s| Money::parse(s.price.as_deref()?).ok());
    priced.map(|m| m.currency).next().unwrap_or_default()
}

fn money(cents: i64, currency: &str) -> String {
    format!("{}.{:02} {currency}", cents / 100, cents % 100).trim_end().to_owned()
}

/// A piece to cut, and the roll of its stretch a course was taken from.
struct CutOf<'a> {
    of: &'a Use,
    length: Length,
    width: Length,
    roll: Option<usize>,
}

/// What is found for one product while it is worked out.
#[derive(Default)]
struct Found {
    sizes: Vec<(String, Option<Money>, u64, u64)>,
    net: Vec<String>,
    handling: Vec<String>,
    left: Vec<String>,
    working: Vec<String>,
    remark: Vec<String>,
    outcome: Option<Outcome>,
}

fn line(plan: &Plan, kit: &KitSpec, product: &Product, list: Vec<Use>) -> OrderLine {
    let mut f = Found::default();
    let sold = product.sizes.as_slice();
    let mut cut: BTreeMap<Length, Vec<CutOf>> = BTreeMap::new();
    let (mut runs, mut ft2, mut fl_oz, mut n) = (Vec::new(), 0.0, 0.0, 0.0);
    for u in &list {
        match u.amount {
            Amount::Piece { length, width, stock, roll } => {
                cut.entry(stock).or_default().push(CutOf { of: u, length, width, roll })
            }
            Amount::Run { length } => runs.push(length),
            Amount::Area { ft2: more } => ft2 += more,
            Amount::Volume { fl_oz: more } => fl_oz += more,
            Amount::Count { n: more } => n += more,
        }
    }
    for (stock, pieces) in &cut {
        if matches!(product.kind.as_str(), "panel" | "board") {
            panels(plan, kit, product, sold, pieces, &mut f);
        } else {
            rolls(plan, kit, product, sold, *stock, pieces, &mut f);
        }
    }
    if !runs.is_empty() {
        bars(plan, kit, product, sold, &runs, &mut f);
    }
    let handling = 1.0 + plan.figures.number("waste_handling") / 100.0;
    if ft2 > 0.0 {
        by_measure(
            kit,
            product,
            sold,
            (ft2, handling, "ft²"),
            |s| Some(s.width?.to_inches_f64() * s.length?.to_inches_f64() / IN2_PER_FT2),
            &mut f,
        );
    }
    if fl_oz > 0.0 {
        let holds = |s: &SoldSize| s.fl_oz.or(s.gallons.map(|g| g * FL_OZ_PER_GALLON));
        // A coat has its loss in its volume already.
        let (amount, unit, per) = if product.unit == "pail" {
            (fl_oz / FL_OZ_PER_GALLON, "gal", FL_OZ_PER_GALLON)
        } else {
            (fl_oz, "fl oz", 1.0)
        };
        let handling = if product.kind == "fluid" { 1.0 } else { handling };
        by_measure(kit, product, sold, (amount, handling, unit), |s| holds(s).map(|h| h / per), &mut f);
    }
    if n > 0.0 {
        if sold.is_empty() {
            f.net.push(format!("{n}"));
            f.sizes.push((product.unit.clone(), None, n.ceil() as u64, held(kit, product, |_| true)));
        } else {
            by_measure(kit, product, sold, (n, handling, "pieces"), |s| s.count.map(f64::from), &mut f);
        }
    }
    let sizes: Vec<Bought> = f
        .sizes
        .iter()
        .map(|(size, price, needed, held)| {
            let buy = needed.saturating_sub(*held);
            let cost = price.as_ref().map(|m| money(m.cents * buy as i64, &m.currency)).unwrap_or_default();
            Bought { size: size.clone(), needed: *needed, held: (*held).min(*needed), buy, price: cost }
        })
        .collect();
    let cents = f
        .sizes
        .iter()
        .map(|(_, price, needed, held)| Some(price.as_ref()?.cents * needed.saturating_sub(*held) as i64));
    OrderLine {
        product: product.name.clone(),
        called: kit.called(&product.name).to_owned(),
        kind: product.kind.clone(),
        supplier: product.supplier.clone(),
        net: f.net.join("; "),
        handling: f.handling.join("; "),
        left: f.left.join("; "),
        cents: cents.collect::<Option<Vec<i64>>>().filter(|c| !c.is_empty()).map(|c| c.iter().sum()),
        sizes,
        outcome: f.outcome,
        working: f.working,
        remark: f.remark.join(" "),
        uses: list,
    }
}

fn price(size: &SoldSize) -> Option<Money> {
    Money::parse(size.price.as_deref()?).ok()
}

/// How many of a product on the truck are of a size.
fn held(kit: &KitSpec, product: &Product, is: impl Fn(&SoldSize) -> bool) -> u64 {
    kit.stock.iter().filter(|h| h.product == product.name && is(&h.size)).map(|h| u64::from(h.count)).sum()
}

fn worse(a: Option<Outcome>, b: Outcome) -> Option<Outcome> {
    Some(match (a, b) {
        (Some(Outcome::Heuristic), _) | (_, Outcome::Heuristic) => Outcome::Heuristic,
        (Some(Outcome::Within { rolls: x }), Outcome::Within { rolls: y }) => Outcome::Within { rolls: x + y },
        (Some(w @ Outcome::Within { .. }), Outcome::Proved) => w,
        (_, b) => b,
    })
}

/// Pieces from rolls of one width.
fn rolls(
    plan: &Plan,
    kit: &KitSpec,
    product: &Product,
    sold: &[SoldSize],
    stock: Length,
    pieces: &[CutOf],
    f: &mut Found,
) {
    let total: Length = pieces.iter().map(|p| p.length).sum();
    let mut sizes: Vec<&SoldSize> = sold.iter().filter(|s| s.width == Some(stock) && s.length.is_some()).collect();
    let usual = SoldSize {
        width: Some(stock),
        length: Some(plan.figures.length(if product.kind == "sheet" {
            "barrier_roll_length"
        } else if product.stretches {
            "pan_roll_length"
        } else {
            "tape_roll_length"
        })),
        ..SoldSize::default()
    };
    if sizes.is_empty() {
        sizes.push(&usual);
        f.remark.push(format!(
            "No roll {stock} wide is in its sizes: rolls of {} are counted.",
            usual.length.unwrap_or(Length::ZERO)
        ));
    }
    let longest = sizes.iter().filter_map(|s| s.length).max().unwrap_or(Length::ZERO);
    f.net.push(format!("{} pieces, {total} of {stock}", pieces.len()));
    // Courses take their rolls as they are laid.
    let laid: Vec<&CutOf> = pieces.iter().filter(|p| p.roll.is_some()).collect();
    if !laid.is_empty() {
        let mut here = 0;
        for s in plan.stretches.iter().filter(|s| !s.courses.courses.is_empty()) {
            let mine = plan.pieces.iter().any(|p| {
                p.product == product.name
                    && p.stretch == plan.stretches.iter().position(|x| std::ptr::eq(x, s)).unwrap_or(0)
                    && p.cut.as_ref().is_some_and(|c| c.taken.is_some())
            });
            if mine {
                here += s.courses.rolls as u64;
                f.working.push(format!("{} courses{}: {}", s.courses.courses.len(), s.name(""), s.courses.why));
            }
        }
        let size = sizes
            .iter()
            .find(|s| s.length == Some(plan.figures.length("barrier_roll_length")))
            .copied()
            .unwrap_or(sizes[0]);
        let covered: f64 = laid.iter().map(|p| p.length.to_inches_f64() * p.width.to_inches_f64() / IN2_PER_FT2).sum();
        let bought =
            here as f64 * stock.to_inches_f64() * size.length.unwrap_or(Length::ZERO).to_inches_f64() / IN2_PER_FT2;
        f.working.push(format!("courses with their laps {covered:.0} ft², rolls {bought:.0} ft²"));
        f.left.push(format!("{:.0} ft²", bought - covered));
        f.sizes.push((
            words(size),
            price(size),
            here,
            held(kit, product, |s| s.width == size.width && s.length == size.length),
        ));
    }
    let rest: Vec<&CutOf> = pieces.iter().filter(|p| p.roll.is_none()).collect();
    if rest.is_empty() {
        return;
    }
    // A piece longer than any roll is spliced, the upper part over the lower.
    let lap = plan.figures.length("lap_vertical");
    let mut lengths = Vec::new();
    for CutOf { of, length, .. } in rest.iter().copied() {
        match spliced(*length, longest, lap) {
            Some(parts) => {
                if parts.len() > 1 {
                    f.remark.push(format!(
                        "{} is {length}, longer than a roll of {longest}: {} parts of {}, lapped {lap}.",
                        of.what,
                        parts.len(),
                        parts[0]
                    ));
                }
                lengths.extend(parts);
            }
            None => f.remark.push(format!(
                "{} is {length} and a roll of {longest} is no longer than the lap of {lap}: take longer rolls.",
                of.what
            )),
        }
    }
    let mut stocks: Vec<RollStock> = kit
        .stock
        .iter()
        .filter(|h| h.product == product.name && h.size.width == Some(stock))
        .filter_map(|h| Some(RollStock { length: h.size.length?, price: None, on_hand: Some(h.count as usize) }))
        .collect();
    let first = stocks.len();
    stocks.extend(sizes.iter().filter_map(|s| Some(RollStock::to_buy(s.length?, price(s).map(|m| m.cents)))));
    let least_left = plan.figures.length("least_leftover");
    let found = nest(&lengths, &stocks, &Cutting { least_left, ..Cutting::default() });
    f.outcome = worse(f.outcome, found.outcome);
    if !found.too_long.is_empty() {
        f.remark.push(format!("{} of them fit no size: add a longer one.", found.too_long.len()));
    }
    let left: Length = found.rolls.iter().filter(|r| r.useful).map(|r| r.left).sum();
    let waste: Length = found.rolls.iter().filter(|r| !r.useful).map(|r| r.left).sum();
    let percent = plan.figures.number("waste_handling");
    let handling = Length::from_inches_f64(total.to_inches_f64() * percent / 100.0).unwrap_or(Length::ZERO);
    let mut more = 0;
    if handling > left + waste {
        let short = handling - left - waste;
        more = (short.units() + longest.units() - 1) / longest.units().max(1);
    }
    for (k, size) in sizes.iter().enumerate() {
        let mut needed = found.rolls.iter().filter(|r| r.stock == first + k).count() as u64;
        needed += if size.length == Some(longest) { more as u64 } else { 0 };
        if needed > 0 {
            f.sizes.push((words(size), price(size), needed, 0));
        }
    }
    let hand = found.rolls.len() - found.bought;
    if hand > 0 {
        f.working.push(format!("{hand} of the rolls cut are on the truck"));
    }
    f.handling.push(format!("{handling} ({percent} %)"));
    let short = if waste.is_positive() { format!(", {waste} in ends too short to keep") } else { String::new() };
    f.left.push(format!("{left} to keep{short}"));
    f.working.push(format!(
        "{} lengths, {total} in all, on {} roll(s) of {stock} width; no nesting buys fewer than {}; handling {handling}{}",
        lengths.len(),
        found.rolls.len(),
        found.bound,
        if more > 0 { format!(" is more than what is left over: {more} roll(s) more") } else { " comes out of what is left over".into() }
    ));
}

/// Bars, rods and battens: cut to length with a saw.
fn bars(plan: &Plan, kit: &KitSpec, product: &Product, sold: &[SoldSize], runs: &[Length], f: &mut Found) {
    let total: Length = runs.iter().copied().sum();
    let sizes: Vec<&SoldSize> = sold.iter().filter(|s| s.length.is_some()).collect();
    f.net.push(format!("{total} in {} lengths", runs.len()));
    let Some(longest) = sizes.iter().filter_map(|s| s.length).max() else {
        f.remark.push(format!("{} has no length it is sold in: give it one to count bars.", product.name));
        return;
    };
    // Metal laps in sealant, all else butts.
    let lap = if product.kind == "metal" { plan.figures.length("patch_past") } else { Length::ZERO };
    let mut parts: Vec<Length> = Vec::new();
    for run in runs {
        let mut left = *run;
        while left > longest {
            parts.push(longest);
            left = left - longest + lap;
        }
        parts.push(left);
    }
    if parts.len() > runs.len() {
        let how = if lap.is_positive() { format!("lapped {lap} in sealant") } else { "butted".into() };
        f.remark.push(format!("Longer runs than {longest} are of parts {how}."));
    }
    let mut stocks: Vec<RollStock> = kit
        .stock
        .iter()
        .filter(|h| h.product == product.name)
        .filter_map(|h| Some(RollStock { length: h.size.length?, price: None, on_hand: Some(h.count as usize) }))
        .collect();
    let first = stocks.len();
    stocks.extend(sizes.iter().filter_map(|s| Some(RollStock::to_buy(s.length?, price(s).map(|m| m.cents)))));
    let (kerf, least_left) = (plan.figures.length("saw_kerf"), plan.figures.length("least_leftover"));
    let found = nest(&parts, &stocks, &Cutting { kerf, least_left, ..Cutting::default() });
    f.outcome = worse(f.outcome, found.outcome);
    if !found.too_long.is_empty() {
        f.remark.push(format!("{} of them fit no size: add a longer one.", found.too_long.len()));
    }
    for (k, size) in sizes.iter().enumerate() {
        let needed = found.rolls.iter().filter(|r| r.stock == first + k).count() as u64;
        if needed > 0 {
            f.sizes.push((words(size), price(size), needed, 0));
        }
    }
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
fn panels(plan: &Plan, kit: &KitSpec, product: &Product, sold: &[SoldSize], pieces: &[CutOf], f: &mut Found) {
    let kerf = plan.figures.length("saw_kerf");
    let list: Vec<(Length, Length)> = pieces.iter().map(|p| (p.length, p.width)).collect();
    let area: f64 = list.iter().map(|(a, b)| a.to_inches_f64() * b.to_inches_f64() / IN2_PER_FT2).sum();
    f.net.push(format!("{} panels and parts, {area:.0} ft²", list.len()));
    // The size with the least area bought that holds every piece.
    let tried = sold.iter().filter_map(|s| Some((s, (s.length?, s.width?)))).filter_map(|(s, size)| {
        let (sheets, too_large, outcome) = super::panels::sheets(&list, size, kerf, false);
        too_large.is_empty().then_some((sheets.len(), size, s, outcome))
    });
    let bought =
        |n: usize, size: (Length, Length)| n as f64 * size.0.to_inches_f64() * size.1.to_inches_f64() / IN2_PER_FT2;
    let Some((n, size, s, outcome)) = tried.min_by(|a, b| bought(a.0, a.1).total_cmp(&bought(b.0, b.1))) else {
        f.remark.push(format!(
            "Some parts are larger than any {} it is sold in: change the panel figures or the sizes.",
            product.unit
        ));
        return;
    };
    f.outcome = worse(f.outcome, outcome);
    f.left.push(format!("{:.0} ft²", bought(n, size) - area));
    f.working.push(format!(
        "{area:.0} ft² in {} parts from {n} × {}, offcuts used again, {kerf} lost at each cut, none turned",
        list.len(),
        words(s)
    ));
    f.sizes.push((words(s), price(s), n as u64, held(kit, product, |x| x.width == s.width && x.length == s.length)));
}

/// What is bought by area, volume or number: the smallest sum of whole units of one size.
fn by_measure(
    kit: &KitSpec,
    product: &Product,
    sold: &[SoldSize],
    (amount, handling, unit): (f64, f64, &str),
    holds: impl Fn(&SoldSize) -> Option<f64>,
    f: &mut Found,
) {
    f.net.push(format!("{amount:.2} {unit}").replace(".00", ""));
    let all = amount * handling;
    if handling > 1.0 {
        f.handling.push(format!("{:.1} {unit}", all - amount));
    }
    let tried = sold.iter().filter_map(|s| {
        let one = holds(s).filter(|h| *h > 0.0)?;
        let n = (all / one - 1e-9).ceil().max(0.0);
        let cost = price(s).map_or(n * one, |m| n * m.cents as f64);
        Some((cost, n, one, s))
    });
    let Some((_, n, one, s)) = tried.min_by(|a, b| a.0.total_cmp(&b.0)) else {
        f.remark
            .push(format!("{} has no size with a measure in {unit}: give it one to count what to buy.", product.name));
        return;
    };
    f.left.push(format!("{:.1} {unit}", n * one - all));
    f.working.push(format!(
        "{amount:.2} {unit}{} = {all:.2} {unit} / {one:.1} in one = {n} × {}",
        if handling > 1.0 { format!(" × {handling:.2}") } else { String::new() },
        words(s)
    ));
    let same = |x: &SoldSize| SoldSize { price: None, ..x.clone() } == SoldSize { price: None, ..s.clone() };
    f.sizes.push((words(s), price(s), n as u64, held(kit, product, same)));
}

/// A size in words.
fn words(s: &SoldSize) -> String {
    let mut out = Vec::new();
    match (s.width, s.length) {
        (Some(w), Some(l)) => out.push(format!("{w} × {l}")),
        (None, Some(l)) => out.push(format!("{l} long")),
        (Some(w), None) => out.push(format!("{w} wide")),
        (None, None) => {}
    }
    out.extend(s.fl_oz.map(|v| format!("{v} fl oz")));
    out.extend(s.gallons.map(|v| format!("{v} gal")));
    out.extend(s.count.map(|v| format!("{v} in a box")));
    out.join(", ")
}

/// Square feet one gallon covers at a wet thickness in mil.
pub(super) fn coverage(mil: f64) -> f64 {
    FT2_MIL_PER_GALLON / mil
}
