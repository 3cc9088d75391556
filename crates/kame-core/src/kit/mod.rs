//! The kit: generic materials with what is known of them, the job's own products and prices beside them, what is on the truck, and which
//! products may touch.

mod attributes;
pub mod named;
mod recorded;
mod table;

pub use attributes::{Attribute, AttributeKind, attributes, known};
pub use recorded::{CURE_HOURS, PAIR_SOURCE, PairVerdict, RecordedPair, SHEATHING};
pub use table::{KIT_SHEET, kit_rows, read_kit_file, read_kit_rows, write_kit_file};

use crate::length::Length;
use crate::problem::Problem;
use crate::range::{LengthRange, Range};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::sync::OnceLock;

const DATA: &str = include_str!("../../data/products.toml");

/// A size in which a product is sold.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SoldSize {
    /// Width of a roll, panel or board.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub width: Option<Length>,
    /// Length of a roll, panel, board or bar.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub length: Option<Length>,
    /// US fluid ounces in a tube, sausage or can.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fl_oz: Option<f64>,
    /// US gallons in a pail.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gallons: Option<f64>,
    /// How many in a box.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub count: Option<u32>,
    /// Price of one, such as `38.50` or `38.50 USD`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<String>,
}

impl SoldSize {
    /// What it measures, whatever it costs.
    pub fn measures(&self) -> Self {
        Self { price: None, ..self.clone() }
    }
}

/// A generic material.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Product {
    /// What people call it.
    pub name: String,
    /// Sheet, tape, membrane, fluid, metal, fastener and so on, as the product data names it.
    pub kind: String,
    /// Who sells it: the order has one list for each.
    pub supplier: String,
    /// What one is called.
    pub unit: String,
    /// How it is sold; none where it is ordered piece by piece.
    #[serde(default)]
    pub sizes: Vec<SoldSize>,
    /// Least surface temperature in °F, where it has one.
    pub least_f: Option<f64>,
    /// Greatest surface temperature in °F, where it has one.
    pub most_f: Option<f64>,
    /// What it asks of surface and hand.
    #[serde(default)]
    pub asks: String,
    /// What others stick to where they lie on it.
    #[serde(default)]
    pub face: String,
    /// What it sticks with; empty where it does not stick.
    #[serde(default)]
    pub chemistry: String,
    /// Metal, where it is one.
    #[serde(default)]
    pub metal: String,
    /// Holds its own top edge.
    #[serde(default)]
    pub holds_top: bool,
    /// Has a split liner.
    #[serde(default)]
    pub liner: bool,
    /// Stretches.
    #[serde(default)]
    pub stretches: bool,
    /// Needs a roller.
    #[serde(default)]
    pub pressure: bool,
    /// Needs a dry surface.
    #[serde(default)]
    pub dry: bool,
    /// Surfaces on which it needs primer.
    #[serde(default)]
    pub primer: Vec<String>,
    /// Thickness in mil.
    pub thickness_mil: Option<f64>,
    /// Hours to full bond or cure.
    pub bond_h: Option<f64>,
    /// Minutes to skin at 24 °C.
    pub skin_min: Option<f64>,
    /// What the skin time is multiplied by for each 10 °F above 75 °F.
    pub skin_per_10f: Option<f64>,
    /// What the skin time is multiplied by for each 10 % of humidity above 50 %.
    pub skin_per_10rh: Option<f64>,
    /// Least and greatest wet thickness in mil.
    pub wet_mil: Option<[f64; 2]>,
    /// Coats.
    pub coats: Option<u32>,
    /// Volume of solids in the wet coat, 0 to 1.
    pub solids: Option<f64>,
    /// Square feet that a gallon covers, where it is given so.
    pub ft2_per_gal: Option<f64>,
    /// Days it may stand in the open.
    pub exposed_days: Option<f64>,
    /// It must not get colder than this where it is kept, °F.
    pub keep_above_f: Option<f64>,
    /// Days from ordering it until it comes.
    pub lead_days: Option<u32>,
    /// Permeance, perm.
    pub perm: Option<f64>,
    /// Water-resistance grade in minutes.
    pub grade_min: Option<f64>,
    /// Drains between itself and what lies on it.
    #[serde(default)]
    pub drainable: bool,
    /// Bears light for good.
    #[serde(default)]
    pub uv: bool,
    /// Movement of a joint in percent.
    pub movement: Option<f64>,
    /// Class of a sealant.
    #[serde(default)]
    pub joint_class: String,
    /// Cleans up with water.
    #[serde(default)]
    pub water_based: bool,
    /// Least level lap.
    pub lap_horizontal: Option<Length>,
    /// Least upright lap.
    pub lap_vertical: Option<Length>,
    /// Least lap round a corner.
    pub lap_corner: Option<Length>,
    /// Least lap at an end.
    pub lap_end: Option<Length>,
    /// What else to know.
    #[serde(default)]
    pub note: String,
}

/// All generic materials.
///
/// # Errors
/// A sentence if the shipped data were broken; a test keeps it whole.
pub fn products() -> Result<&'static [Product], String> {
    #[derive(Deserialize)]
    struct Library {
        product: Vec<Product>,
    }
    static READ: OnceLock<Result<Library, String>> = OnceLock::new();
    let read = || {
        let all: Library = toml::from_str(DATA).map_err(|e| format!("the product data does not read: {e}"))?;
        match named::ALL.iter().find(|name| all.product.iter().all(|p| p.name != **name)) {
            Some(name) => Err(format!("there is no product \"{name}\"")),
            None => Ok(all),
        }
    };
    READ.get_or_init(read).as_ref().map(|l| l.product.as_slice()).map_err(Clone::clone)
}

/// The product a crew buys where the plan says a generic one.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct OwnProduct {
    /// The generic product of which it is one more, beside it: a second tape, a second sealant. Empty where it stands for the generic one itself.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub of: String,
    /// What the crew calls it; empty for the generic name.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub name: String,
    /// How it is sold to them; none for the generic sizes.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub sizes: Vec<SoldSize>,
    /// What is known of it where it differs from the generic one, as text by attribute; empty text where it is not known.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub attributes: BTreeMap<String, String>,
}

/// Which product of a kind is used at a place, by the generic one.
pub type ProductsHere = BTreeMap<String, String>;

/// Something on the truck.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Held {
    /// Generic product.
    pub product: String,
    /// What one is: a whole roll, a leftover of a length, a tube.
    pub size: SoldSize,
    /// How many.
    pub count: u32,
}

/// The kit of a job.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct KitSpec {
    /// Own products by the generic one they stand for.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub products: BTreeMap<String, OwnProduct>,
    /// What is on the truck.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub stock: Vec<Held>,
    /// What somebody found out about pairs that touch.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub pairs: Vec<RecordedPair>,
}

/// An amount of money in hundredths, and its currency; empty where none is said.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Money {
    /// Hundredths.
    pub cents: i64,
    /// Three letters, or empty.
    pub currency: String,
}

impl Money {
    /// Reads `38`, `38.5`, `38.50` with or without three letters of a currency behind it.
    ///
    /// # Errors
    /// A sentence naming what was found.
    pub fn parse(text: &str) -> Result<Self, String> {
        let wrong = || {
            let found: String = text.chars().take(20).collect();
            format!("found the price \"{found}\", expected an amount such as 38.50 or 38.50 USD")
        };
        let text = text.trim();
        let (amount, currency) = text.split_once(' ').unwrap_or((text, ""));
        let (whole, part) = amount.split_once('.').unwrap_or((amount, ""));
        let digits = |s: &str| s.chars().all(|c| c.is_ascii_digit());
        let letters = currency.len() == 3 && currency.chars().all(|c| c.is_ascii_uppercase());
        if whole.is_empty() || !digits(whole) || !digits(part) || part.len() > 2 || !(currency.is_empty() || letters) {
            return Err(wrong());
        }
        let part = format!("{part:0<2}");
        let cents = whole.parse::<i64>().ok().and_then(|w| w.checked_mul(100)?.checked_add(part.parse().ok()?));
        let cents = cents.filter(|c| CENTS.contains(c)).ok_or_else(wrong)?;
        Ok(Self { cents, currency: currency.to_owned() })
    }
}

impl std::fmt::Display for Money {
    fn fmt(&self, f: &mut std::fmt::Formatter) -> std::fmt::Result {
        let text = format!("{}.{:02} {}", self.cents / 100, self.cents % 100, self.currency);
        f.write_str(text.trim_end())
    }
}

const ON_THE_BOX: &str = "give what is printed on it";
/// Width of a roll, bar or board that can be cut from.
pub const SIZE_WIDTH: LengthRange = Range {
    what: "width of a size",
    least: Length::inch_fraction(1, 4),
    most: Length::inch(12_000),
    remedy: ON_THE_BOX,
};
/// Length of what comes in boxes: screws and other fasteners.
pub const BOXED_LENGTH: LengthRange = Range {
    what: "length of what is in a box",
    least: Length::inch_fraction(1, 2),
    most: Length::inch(12_000),
    remedy: ON_THE_BOX,
};
/// Length of a roll, bar or board that can be cut from.
pub const SIZE_LENGTH: LengthRange =
    Range { what: "length of a size", least: Length::inch(6), most: Length::inch(12_000), remedy: ON_THE_BOX };
/// What one tube, sausage or can holds, in US fluid ounces.
pub const SIZE_FL_OZ: Range<f64> = Range { what: "fl oz in one", least: 0.1, most: 100_000.0, remedy: ON_THE_BOX };
/// What one pail or drum holds, in US gallons.
pub const SIZE_GALLONS: Range<f64> = Range { what: "gallons in one", least: 0.01, most: 1_000.0, remedy: ON_THE_BOX };
/// How many are in a box.
pub const SIZE_COUNT: Range<u32> = Range { what: "pieces in one", least: 1, most: 1_000_000, remedy: ON_THE_BOX };
/// How many of one size are on the truck.
pub const HELD: Range<u32> =
    Range { what: "how many are on the truck", least: 0, most: 100_000, remedy: "count again" };
/// Price of one, in hundredths.
const CENTS: std::ops::RangeInclusive<i64> = 0..=100_000_000;
/// How many more products of one kind there may be.
pub const MORE_OF_ONE: Range<usize> =
    Range { what: "how many more there are of it", least: 0, most: 12, remedy: "take out those that are not used" };
/// Most sizes of one product, and most things on the truck.
const MOST_SIZES: usize = 40;
const MOST_HELD: usize = 500;

impl OwnProduct {
    /// The generic product whose attributes it has where it says nothing else.
    fn base<'a>(&'a self, name: &'a str) -> &'a str {
        if self.of.is_empty() { name } else { &self.of }
    }

    /// Without what is as the generic product is.
    fn differing(mut self, generic: &Product) -> Self {
        if self.sizes == generic.sizes {
            self.sizes.clear();
        }
        if let Ok(known) = known(generic) {
            self.attributes.retain(|id, text| known.get(id).is_none_or(|k| k != text.trim()));
        }
        self
    }
}

impl KitSpec {
    /// Puts the crew's own product in place of a generic one; nothing is kept where it says nothing else.
    pub fn set_product(&mut self, product: &str, own: Option<OwnProduct>) {
        let base = own.as_ref().map(|o| o.of.as_str()).filter(|of| !of.is_empty()).unwrap_or(product);
        let generic = products().unwrap_or_default().iter().find(|p| p.name == base);
        let own = own.map(|o| generic.map_or_else(|| o.clone(), |g| o.clone().differing(g)));
        match own.filter(|o| generic.is_none() || *o != OwnProduct::default()) {
            Some(own) => self.products.insert(product.to_owned(), own),
            None => self.products.remove(product),
        };
    }

    /// True where nothing is said.
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// Everything that is wrong with it, with JSON paths under `$.kit`.
    pub fn problems(&self) -> Vec<Problem> {
        let mut out = Vec::new();
        let known = products().unwrap_or_default();
        let generic = |name: &str| known.iter().any(|p| p.name == name);
        // What is one more of a generic product is known, too.
        let unknown = |name: &str| !generic(name) && self.products.get(name).is_none_or(|o| o.of.is_empty());
        let mut currencies: BTreeMap<String, String> = BTreeMap::new();
        let mut look = |out: &mut Vec<Problem>, path: String, product: &str, size: &SoldSize| {
            out.extend(size_problems(product, size).into_iter().map(|m| Problem::new(path.clone(), m)));
            match size.price.as_deref().map(Money::parse) {
                Some(Ok(m)) => {
                    currencies.entry(m.currency).or_insert_with(|| format!("{product} at {path}"));
                }
                Some(Err(m)) => out.push(Problem::new(format!("{path}.price"), format!("{product}: {m}"))),
                None => {}
            }
        };
        for (name, own) in &self.products {
            let path = format!("$.kit.products[\"{name}\"]");
            if unknown(name) {
                out.push(Problem::new(
                    path.clone(),
                    format!("there is no generic product \"{name}\" for it to stand for; choose one of the library"),
                ));
            }
            if !own.of.is_empty() {
                out.extend(self.another_problem(&path, name, own));
            }
            if own.name.chars().count() > crate::range::NAME.most || own.name.chars().any(char::is_control) {
                out.push(Problem::new(
                    format!("{path}.name"),
                    "its name is too long or has odd characters: shorten it",
                ));
            }
            if own.sizes.len() > MOST_SIZES {
                let n = own.sizes.len();
                out.push(Problem::new(format!("{path}.sizes"), format!("found {n} sizes, at most {MOST_SIZES}")));
            }
            if let Some(Err(wrong)) =
                known.iter().find(|p| p.name == *own.base(name)).map(|p| attributes::with(p, &own.attributes))
            {
                let path = format!("{path}.attributes");
                out.extend(wrong.into_iter().map(|m| Problem::new(path.clone(), format!("{name}: {m}"))));
            }
            for (i, size) in own.sizes.iter().enumerate() {
                look(&mut out, format!("{path}.sizes[{i}]"), name, size);
            }
        }
        if self.stock.len() > MOST_HELD {
            let n = self.stock.len();
            out.push(Problem::new("$.kit.stock", format!("found {n} things on the truck, at most {MOST_HELD}")));
        }
        for (i, held) in self.stock.iter().enumerate() {
            let path = format!("$.kit.stock[{i}]");
            if unknown(&held.product) {
                let message = format!("there is no generic product \"{}\"; choose one of the library", held.product);
                out.push(Problem::new(format!("{path}.product"), message));
            }
            if let Err(m) = HELD.check(held.count) {
                out.push(Problem::new(format!("{path}.count"), format!("{}: {m}", held.product)));
            }
            look(&mut out, format!("{path}.size"), &held.product, &held.size);
        }
        if currencies.len() > 1 {
            let said: Vec<String> =
                currencies.iter().map(|(c, at)| format!("{} ({at})", if c.is_empty() { "none" } else { c })).collect();
            out.push(Problem::new(
                "$.kit",
                format!(
                    "prices are in {}: give all of them in one currency, so that they can be added",
                    said.join(" and ")
                ),
            ));
        }
        out.extend(recorded::problems(&self.pairs, &|name| !unknown(name)));
        out
    }

    /// What a product is called here.
    pub fn called<'a>(&'a self, product: &'a str) -> &'a str {
        self.products.get(product).map(|p| p.name.as_str()).filter(|n| !n.is_empty()).unwrap_or(product)
    }

    /// Every material as it is known and sold here: the crew's own sizes and attributes in place of the generic ones.
    ///
    /// # Errors
    /// A sentence if the shipped data were broken, or where an attribute does not read ([`KitSpec::problems`] names all).
    pub fn library(&self) -> Result<Cow<'static, [Product]>, String> {
        let generic = products()?;
        if self.products.values().all(|p| p.sizes.is_empty() && p.attributes.is_empty() && p.of.is_empty()) {
            return Ok(Cow::Borrowed(generic));
        }
        let made = |p: &Product, own: &OwnProduct| {
            let mut made = attributes::with(p, &own.attributes).map_err(|m| m.join("; "))?;
            if !own.sizes.is_empty() {
                made.sizes.clone_from(&own.sizes);
            }
            Ok(made)
        };
        let here = |p: &Product| self.products.get(&p.name).map_or_else(|| Ok(p.clone()), |own| made(p, own));
        let more = self.products.iter().filter_map(|(name, own)| {
            let base = generic.iter().find(|p| p.name == own.of)?;
            Some(made(base, own).map(|p| Product { name: name.clone(), ..p }))
        });
        generic.iter().map(here).chain(more).collect::<Result<Vec<_>, String>>().map(Cow::Owned)
    }

    /// What is wrong with one more product of a kind.
    fn another_problem(&self, path: &str, name: &str, own: &OwnProduct) -> Option<Problem> {
        let known = products().unwrap_or_default();
        let of = &own.of;
        let message = if known.iter().any(|p| p.name == *name) {
            format!("\"{name}\" is a generic product itself, and cannot be one more of \"{of}\": give it another name")
        } else if known.iter().all(|p| p.name != *of) {
            format!(
                "there is no generic product \"{of}\" of which \"{name}\" could be one more; choose one of the library"
            )
        } else if let Err(m) = crate::range::NAME.check(name.trim().chars().count()) {
            format!("{name}: {m}")
        } else if name.chars().any(char::is_control) || name.trim() != name {
            format!("{name:?} has odd characters, or blanks at an end: give it a plain name")
        } else {
            let more = self.products.values().filter(|o| o.of == *of).count();
            MORE_OF_ONE.check(more).err().map(|m| format!("{of}: {m}"))?
        };
        Some(Problem::new(path, message))
    }

    /// What is wrong with products chosen at a place: for each generic one which of its kind is used there.
    pub fn chosen_problems(&self, chosen: &ProductsHere, path: &str, place: &str) -> Vec<Problem> {
        let wrong = |(generic, other): (&String, &String)| {
            let at = format!("{path}.products[\"{generic}\"]");
            if products().unwrap_or_default().iter().all(|p| p.name != *generic) {
                return Some(Problem::new(
                    at,
                    format!("there is no generic product \"{generic}\"; choose one of the library"),
                ));
            }
            let is_one = other == generic || self.products.get(other).is_some_and(|o| o.of == *generic);
            let say = || {
                format!(
                    "\"{other}\" is used for {generic} at {place}, and is not in the kit: enter it under Kit, or choose another there"
                )
            };
            (!is_one).then(|| Problem::new(at, say()))
        };
        chosen.iter().filter_map(wrong).collect()
    }
}

/// What is wrong with a size, each with its remedy.
fn size_problems(product: &str, size: &SoldSize) -> Vec<String> {
    let wrong = [
        size.width.and_then(|l| SIZE_WIDTH.check(l).err()),
        // What comes in boxes is not cut: its own length may be short.
        size.length.and_then(|l| if size.count.is_some() { BOXED_LENGTH.check(l) } else { SIZE_LENGTH.check(l) }.err()),
        size.fl_oz.and_then(|n| SIZE_FL_OZ.check(n).err()),
        size.gallons.and_then(|n| SIZE_GALLONS.check(n).err()),
        size.count.and_then(|n| SIZE_COUNT.check(n).err()),
    ];
    let mut out: Vec<String> = wrong.into_iter().flatten().map(|m| format!("{product}: {m}")).collect();
    if (size.length, size.fl_oz, size.gallons, size.count) == (None, None, None, None) {
        out.push(format!("{product}: a size needs a length, a volume or a count; fill one in"));
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_shipped_product_has_sizes_that_hold_something() {
        for p in products().expect("product data") {
            for s in &p.sizes {
                assert_eq!(size_problems(&p.name, s), Vec::<String>::new());
            }
        }
    }

    #[test]
    fn money_reads_what_people_write_and_nothing_else() {
        let cents = |t: &str| Money::parse(t).map(|m| (m.cents, m.currency));
        assert_eq!(cents("38.5"), Ok((3850, String::new())));
        assert_eq!(cents(" 38.50 USD "), Ok((3850, "USD".into())));
        assert_eq!(cents("0"), Ok((0, String::new())));
        for wrong in ["", "-3", "3.505", "3,50", "3.5 dollars", "1e9", "9999999999999999999", "3.5 usd"] {
            assert!(Money::parse(wrong).is_err(), "{wrong}");
        }
    }

    #[test]
    fn a_roll_of_no_length_a_negative_volume_and_mixed_currencies_are_named() {
        let size = |length: Option<i64>, fl_oz: Option<f64>, price: &str| SoldSize {
            length: length.map(Length::inch),
            fl_oz,
            price: Some(price.into()),
            ..SoldSize::default()
        };
        let own = |size: SoldSize| OwnProduct { name: "Ours".into(), sizes: vec![size], ..OwnProduct::default() };
        let kit = |list: &[(&str, SoldSize)]| KitSpec {
            products: list.iter().map(|(n, s)| ((*n).to_owned(), own(s.clone()))).collect(),
            ..KitSpec::default()
        };
        let said = |k: KitSpec| k.problems().into_iter().map(|p| p.message).collect::<Vec<_>>().join("\n");
        assert!(
            said(kit(&[("Flashing tape", size(Some(0), None, "1"))]))
                .contains("length of a size is 0\"; it has to be between 6\" and")
        );
        assert!(
            said(kit(&[("Liquid flashing", size(None, Some(-20.0), "1"))]))
                .contains("fl oz in one is -20; it has to be between 0.1 and")
        );
        assert!(
            said(kit(&[("Liquid flashing", size(None, None, "1"))])).contains("needs a length, a volume or a count")
        );
        assert!(said(kit(&[("Jute rope", size(Some(9), None, "1"))])).contains("no generic product \"Jute rope\""));
        let mixed =
            kit(&[("Flashing tape", size(Some(900), None, "20 USD")), ("Joint tape", size(Some(900), None, "20 EUR"))]);
        assert!(said(mixed).contains("EUR (Joint tape"), "both named");
        assert!(kit(&[("Flashing tape", size(Some(900), None, "20 USD"))]).problems().is_empty());
    }
}
