//! What to buy: everything the plan uses, turned into whole rolls, panels, bars, tubes, pails and boxes, by supplier, with working and price.

mod by_amount;
mod from_stock;

use crate::kit::{KitSpec, Money, Product, SoldSize};
use crate::length::IN2_PER_FT2;
use crate::length::Length;
use crate::nest::Outcome;
use crate::plan::Plan;
use crate::profile::fig;
use crate::takeoff::{Amount, Use, covered, uses};
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

/// A roll, sheet, bar, tube or box taken in hand for the first time.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Opened {
    /// Index of its size.
    pub size: usize,
    /// The step of the order in force it is first used in, from 0.
    pub step: usize,
}

/// One product to buy.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OrderLine {
    /// Generic product.
    pub product: String,
    /// What the crew calls it.
    pub called: String,
    /// Sheet, tape, membrane, fluid, metal, fastener and so on, as the product data names it.
    pub kind: String,
    /// Who sells it.
    pub supplier: String,
    /// What is used, as text.
    pub net: String,
    /// What is lost in handling, as text.
    pub handling: String,
    /// What is left over of what is bought, as text.
    pub left: String,
    /// What to buy, and which leftovers of the truck are used up.
    pub sizes: Vec<Bought>,
    /// Every one of them, in the order they are opened.
    pub opened: Vec<Opened>,
    /// Square feet it covers once it is on the wall, laps counted once; 0 where it covers nothing.
    pub covered_ft2: f64,
    /// Square feet of what is taken from yard and truck; 0 where it has no area.
    pub bought_ft2: f64,
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

impl OrderLine {
    /// How much of it the work takes, and in what: `ft2`, `ft`, `fl_oz` or `each`.
    pub fn used(&self) -> (&'static str, f64) {
        let of = |u: &Use| match u.amount {
            Amount::Piece { length, width, .. } => {
                ("ft2", length.to_inches_f64() * width.to_inches_f64() / IN2_PER_FT2)
            }
            Amount::Run { length } => ("ft", length.to_inches_f64() / 12.0),
            Amount::Area { ft2 } => ("ft2", ft2),
            Amount::Volume { fl_oz } => ("fl_oz", fl_oz),
            Amount::Count { n } => ("each", n),
        };
        let unit = self.uses.first().map_or("each", |u| of(u).0);
        (unit, self.uses.iter().map(of).filter(|(u, _)| *u == unit).map(|(_, n)| n).sum())
    }
}

/// Everything to buy.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Order {
    /// Lines by supplier and product.
    pub lines: Vec<OrderLine>,
    /// Sum of all known prices, as text; empty where there are none.
    pub total: String,
    /// The same in hundredths.
    pub cents: i64,
    /// Products without a price.
    pub unpriced: usize,
    /// What is short on the truck and has to be bought: number of lines.
    pub short: usize,
}

/// How far an order is worked out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Progress {
    /// The product that is nested.
    pub product: String,
    /// Products done.
    pub done: usize,
    /// Of how many.
    pub of: usize,
}

/// How an order is worked out.
#[derive(Clone, Copy)]
pub struct Ordering<'a> {
    /// Asked now and then: true to go on with what is known.
    pub stop: &'a (dyn Fn() -> bool + Sync),
    /// Told at each product.
    pub tell: &'a (dyn Fn(Progress) + Sync),
}

impl Default for Ordering<'_> {
    fn default() -> Self {
        Self { stop: &|| false, tell: &|_| {} }
    }
}

/// The order of a plan with a kit.
pub fn order(plan: &Plan, kit: &KitSpec, how: &Ordering) -> Order {
    let mut by: BTreeMap<&str, Vec<Use>> = BTreeMap::new();
    let all = uses(plan);
    for p in plan.basis.products.iter() {
        let mine: Vec<Use> = all.iter().filter(|u| u.product == p.name).cloned().collect();
        if !mine.is_empty() {
            by.insert(&p.name, mine);
        }
    }
    let of = by.len();
    let mut lines = Vec::new();
    for (done, (name, list)) in by.into_iter().enumerate() {
        let Some(product) = plan.product(name) else { continue };
        (how.tell)(Progress { product: kit.called(name).to_owned(), done, of });
        lines.push(line(plan, kit, product, list, how));
    }
    lines.sort_by(|a, b| (&a.supplier, &a.product).cmp(&(&b.supplier, &b.product)));
    let cents: i64 = lines.iter().filter_map(|l| l.cents).sum();
    let unpriced = lines.iter().filter(|l| l.cents.is_none()).count();
    let short = lines.iter().filter(|l| l.sizes.iter().any(|s| s.buy > 0)).count();
    let total = if unpriced == lines.len() { String::new() } else { money(cents, &currency(kit)) };
    Order { lines, total, cents, unpriced, short }
}

/// The currency of a kit's prices; empty where none is said.
pub fn currency(kit: &KitSpec) -> String {
    let sizes = kit.products.values().flat_map(|p| &p.sizes).chain(kit.stock.iter().map(|h| &h.size));
    let priced = sizes.filter_map(|s| Money::parse(s.price.as_deref()?).ok());
    priced.map(|m| m.currency).next().unwrap_or_default()
}

/// An amount as people read it.
pub fn money(cents: i64, currency: &str) -> String {
    Money { cents, currency: currency.to_owned() }.to_string()
}

/// A piece to cut, and the roll a course was taken from.
struct CutOf<'a> {
    of: &'a Use,
    length: Length,
    width: Length,
    roll: Option<usize>,
}

/// So many of one size, and how many of those are on the truck.
struct Sized {
    size: SoldSize,
    needed: u64,
    held: u64,
}

/// What is found for one product while it is worked out.
#[derive(Default)]
struct Gathered {
    sizes: Vec<Sized>,
    opened: Vec<Opened>,
    net: Vec<String>,
    handling: Vec<String>,
    left: Vec<String>,
    working: Vec<String>,
    remark: Vec<String>,
    outcome: Option<Outcome>,
}

impl Gathered {
    /// Takes units of a size, each with the step it is first used in, so many more of which are on the truck.
    fn take(&mut self, size: &SoldSize, held: u64, steps: &[usize]) {
        let index = self.sizes.iter().position(|s| s.size.measures() == size.measures()).unwrap_or_else(|| {
            self.sizes.push(Sized { size: size.clone(), needed: 0, held: 0 });
            self.sizes.len() - 1
        });
        self.sizes[index].held += held;
        if self.sizes[index].size.price.is_none() {
            self.sizes[index].size.price.clone_from(&size.price);
        }
        self.sizes[index].needed += steps.len() as u64;
        self.opened.extend(steps.iter().map(|&step| Opened { size: index, step }));
    }
}

fn line(plan: &Plan, kit: &KitSpec, product: &Product, list: Vec<Use>, how: &Ordering) -> OrderLine {
    let mut f = Gathered::default();
    let mut cut: BTreeMap<Length, Vec<CutOf>> = BTreeMap::new();
    let mut runs: Vec<(Length, usize)> = Vec::new();
    let (mut ft2, mut fl_oz, mut n) = (Vec::new(), Vec::new(), Vec::new());
    for u in &list {
        match u.amount {
            Amount::Piece { length, width, stock, roll } => {
                cut.entry(stock).or_default().push(CutOf { of: u, length, width, roll })
            }
            Amount::Run { length } => runs.push((length, u.step)),
            Amount::Area { ft2: more } => ft2.push((more, u.step)),
            Amount::Volume { fl_oz: more } => fl_oz.push((more, u.step)),
            Amount::Count { n: more } => n.push((more, u.step)),
        }
    }
    let at = from_stock::Bench { plan, kit, product, how };
    for (stock, pieces) in &cut {
        if matches!(product.kind.as_str(), "panel" | "board") {
            at.panels(pieces, &mut f);
        } else {
            at.rolls(*stock, pieces, &mut f);
        }
    }
    at.bars(&runs, &mut f);
    let handling = 1.0 + plan.basis.figures.number(fig::WASTE_HANDLING) / 100.0;
    let by = by_amount::Measure { kit, product, handling };
    by.area(&ft2, &mut f);
    by.volume(&fl_oz, &mut f);
    let at_least = list.iter().filter_map(|u| u.at_least).max();
    by.count(&n, at_least, &mut f);
    let mut beads: BTreeMap<Length, (Length, f64)> = BTreeMap::new();
    for u in &list {
        if let (Some(b), Amount::Volume { fl_oz }) = (u.bead, u.amount) {
            let sum = beads.entry(b.thick).or_default();
            *sum = (sum.0 + b.run, sum.1 + fl_oz);
        }
    }
    let by_bead = |(thick, (run, oz)): (&Length, &(Length, f64))| format!("{thick} bead: {run}, {oz:.1} fl oz");
    f.working.extend(beads.iter().map(by_bead));
    f.opened.sort_by_key(|o| (o.step, o.size));
    let price = |s: &Sized| s.size.price.as_deref().and_then(|p| Money::parse(p).ok());
    let buy = |s: &Sized| s.needed.saturating_sub(s.held);
    // What is on the truck costs nothing more, priced or not.
    let cents = f.sizes.iter().map(|s| if buy(s) == 0 { Some(0) } else { Some(price(s)?.cents * buy(s) as i64) });
    let area = |s: &SoldSize| Some(s.width?.to_inches_f64() * s.length?.to_inches_f64() / IN2_PER_FT2);
    OrderLine {
        product: product.name.clone(),
        called: kit.called(&product.name).to_owned(),
        kind: product.kind.clone(),
        supplier: product.supplier.clone(),
        net: f.net.join("; "),
        handling: f.handling.join("; "),
        left: f.left.join("; "),
        cents: cents.collect::<Option<Vec<i64>>>().filter(|c| !c.is_empty()).map(|c| c.iter().sum()),
        covered_ft2: covered(plan, &product.name),
        bought_ft2: f.sizes.iter().filter_map(|s| Some(area(&s.size)? * s.needed as f64)).sum(),
        sizes: f
            .sizes
            .iter()
            .map(|s| Bought {
                size: words(&s.size, &product.unit),
                needed: s.needed,
                held: s.held.min(s.needed),
                buy: buy(s),
                price: price(s).map(|m| money(m.cents * buy(s) as i64, &m.currency)).unwrap_or_default(),
            })
            .collect(),
        opened: f.opened,
        outcome: f.outcome,
        working: f.working,
        remark: f.remark.join(" "),
        uses: list,
    }
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

/// A size in words; what comes in none is called by its unit.
fn words(s: &SoldSize, unit: &str) -> String {
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
    if out.is_empty() { unit.to_owned() } else { out.join(", ") }
}
