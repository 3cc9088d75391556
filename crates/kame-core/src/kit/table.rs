//! The kit as a file of its own: JSON with all of it, and a table of products, sizes, prices and what is on the truck.

use super::{Attribute, Held, KitSpec, Money, OwnProduct, Product, SoldSize, attributes, known, products};
use crate::length::Length;
use crate::problem::Problem;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Columns of the table that are not attributes: in front of them, and behind them.
const FRONT: [&str; 3] = ["product", "called", "of"];
const BEHIND: [&str; 8] = ["width", "length", "fl oz", "gallons", "in a box", "price", ON_THE_TRUCK, "sold"];
/// In a cell of "sold": a size the product is sold in, or a leftover that is only on the truck.
const SOLD: [&str; 2] = ["no", "yes"];
const ON_THE_TRUCK: &str = "on the truck";
/// In a cell of an attribute: not known, although the generic product says something.
const NONE: &str = "none";
/// Most rows that are read.
const MOST_ROWS: usize = 5_000;
/// What the table is called in a workbook.
pub const KIT_SHEET: &str = "kit";

fn one(path: impl Into<String>, message: impl Into<String>) -> Vec<Problem> {
    vec![Problem::new(path, message)]
}

/// The kit as a table with a heading: a line for each size of each product, what is known of the product on its first.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn kit_rows(kit: &KitSpec) -> Result<Vec<Vec<String>>, String> {
    let ids: Vec<&str> = attributes()?.iter().map(|a| a.id.as_str()).collect();
    let mut out = vec![FRONT.iter().chain(&ids).chain(&BEHIND).map(|c| (*c).to_owned()).collect::<Vec<_>>()];
    for p in kit.library()?.iter() {
        let of = kit.products.get(&p.name).map_or("", |o| o.of.as_str());
        let base = if of.is_empty() { &p.name } else { of };
        let generic = products()?.iter().find(|g| g.name == base);
        let (text, was) = (known(p)?, generic.map(known).transpose()?.unwrap_or_default());
        let cell = |id: &&str| {
            let value = text.get(*id).cloned().unwrap_or_default();
            let cleared = value.is_empty() && was.get(*id).is_some_and(|w| !w.is_empty());
            if cleared { NONE.to_owned() } else { value }
        };
        let other: Vec<&Held> = kit
            .stock
            .iter()
            .filter(|h| h.product == p.name && !p.sizes.iter().any(|s| s.measures() == h.size.measures()))
            .collect();
        let listed = p.sizes.iter().map(|s| (s, held(kit, &p.name, s)));
        let mut sizes: Vec<(SoldSize, u32, &str)> = listed.map(|(s, n)| (s.clone(), n, SOLD[1])).collect();
        // A leftover is a length nobody sells: on the truck, and never bought.
        sizes.extend(other.iter().map(|h| (h.size.clone(), h.count, SOLD[0])));
        if sizes.is_empty() {
            sizes.push((SoldSize::default(), 0, ""));
        }
        for (n, (size, count, sold)) in sizes.iter().enumerate() {
            let mut row = vec![p.name.clone(), String::new(), of.to_owned()];
            if n == 0 {
                row[1] = kit.products.get(&p.name).map(|o| o.name.clone()).unwrap_or_default();
                row.extend(ids.iter().map(cell));
            } else {
                row.extend(ids.iter().map(|_| String::new()));
            }
            let length = |l: Option<Length>| l.map(|l| l.to_string()).unwrap_or_default();
            let number = |n: Option<f64>| n.map(|n| n.to_string()).unwrap_or_default();
            row.extend([
                length(size.width),
                length(size.length),
                number(size.fl_oz),
                number(size.gallons),
                number(size.count.map(f64::from)),
                size.price.clone().unwrap_or_default(),
                if *count > 0 { count.to_string() } else { String::new() },
                (*sold).to_owned(),
            ]);
            out.push(row);
        }
    }
    Ok(out)
}

fn held(kit: &KitSpec, product: &str, size: &SoldSize) -> u32 {
    let same = |h: &&Held| h.product == product && h.size.measures() == size.measures();
    kit.stock.iter().filter(same).map(|h| h.count).sum()
}

/// A kit with what a table says: products the table does not name, and columns it does not have, stay as they are.
///
/// # Errors
/// Everything that does not read, by row and column; nothing is half taken.
pub fn read_kit_rows(kit: &KitSpec, rows: &[Vec<String>]) -> Result<KitSpec, Vec<Problem>> {
    let list = attributes().map_err(|m| one("$", m))?;
    let generic = products().map_err(|m| one("$", m))?;
    let Some((head, rows)) = rows.split_first() else {
        return Err(one("$", "the table is empty: it needs a heading with at least the column \"product\""));
    };
    if rows.len() > MOST_ROWS {
        return Err(one("$", format!("found {} rows, at most {MOST_ROWS} are read: split the table", rows.len())));
    }
    let mut out = unknown_columns(head, list);
    if column(head, FRONT[0]).is_none() {
        return Err(one("row 1", "there is no column \"product\": it says which generic product each row is about"));
    }
    let mut next = kit.clone();
    let mut sizes: BTreeMap<String, Vec<SoldSize>> = BTreeMap::new();
    for (n, row) in rows.iter().enumerate() {
        let mut row = Row { head, row, number: n + 2, wrong: &mut out };
        let product = row.cell(FRONT[0]).unwrap_or_default();
        if product.is_empty() && row.row.iter().all(|c| c.trim().is_empty()) {
            continue;
        }
        // One more of a kind is said to be one by the table, or by the kit already.
        let of = row.cell(FRONT[2]).filter(|of| !of.is_empty());
        let of = of.or_else(|| kit.products.get(product).map(|o| o.of.as_str()).filter(|of| !of.is_empty()));
        let base = of.unwrap_or(product);
        let Some(p) = generic.iter().find(|p| p.name.eq_ignore_ascii_case(base)) else {
            let column = if of.is_some() { FRONT[2] } else { FRONT[0] };
            row.wrong(column, format!("there is no generic product \"{base}\"; name one of the library"));
            continue;
        };
        let name = if of.is_some() { product.to_owned() } else { p.name.clone() };
        let own = next.products.entry(name.clone()).or_default();
        if of.is_some() {
            own.of.clone_from(&p.name);
        }
        if !sizes.contains_key(&name) {
            row.read_known(p, list, own).map_err(|m| one("$", m))?;
            if row.cell(ON_THE_TRUCK).is_some() {
                next.stock.retain(|h| h.product != name);
            }
        }
        let size = row.size();
        let count = row.whole(ON_THE_TRUCK, super::HELD.most).unwrap_or(0);
        let told = row.sold();
        let of = sizes.entry(name.clone()).or_default();
        if size.measures() == SoldSize::default().measures() {
            continue;
        }
        if count > 0 {
            next.stock.push(Held { product: name, size: size.measures(), count });
        }
        // A table that does not say whether a size is sold: what is only on the truck is a leftover.
        let listed = || p.sizes.iter().chain(&own.sizes).any(|s| s.measures() == size.measures());
        if told.unwrap_or_else(|| listed() || count == 0 || size.price.is_some()) {
            of.push(size);
        }
    }
    for (product, list) in sizes.into_iter().filter(|(_, l)| !l.is_empty()) {
        let own = next.products.entry(product.clone()).or_default();
        let base = own.base(&product).to_owned();
        let same = generic.iter().any(|p| p.name == base && p.sizes == list);
        own.sizes = if same { Vec::new() } else { list };
    }
    next.products.retain(|_, own| *own != OwnProduct::default());
    if out.is_empty() {
        out = next.problems();
    }
    if out.is_empty() { Ok(next) } else { Err(out) }
}

fn column(head: &[String], name: &str) -> Option<usize> {
    head.iter().position(|h| h.trim().eq_ignore_ascii_case(name))
}

fn unknown_columns(head: &[String], list: &[Attribute]) -> Vec<Problem> {
    let known = |h: &&str| {
        let is = |c: &&str| c.eq_ignore_ascii_case(h);
        FRONT.iter().chain(&BEHIND).any(is) || list.iter().any(|a| is(&a.id.as_str()))
    };
    let unknown = head.iter().map(|h| h.trim()).filter(|h| !h.is_empty() && !known(h));
    let say = |h| format!("there is no column \"{h}\"; take it out, or name it as in the kit that is saved from here");
    unknown.map(|h| Problem::new("row 1", say(h))).collect()
}

/// A row of the table under its heading; what does not read is added to the list.
struct Row<'a> {
    head: &'a [String],
    row: &'a [String],
    number: usize,
    wrong: &'a mut Vec<Problem>,
}

impl<'a> Row<'a> {
    /// The text of a cell, empty where the row ends before it; none where the table has no such column.
    fn cell(&self, name: &str) -> Option<&'a str> {
        let text = self.row.get(column(self.head, name)?).map_or("", String::as_str);
        Some(text.trim().trim_start_matches('\'').trim())
    }

    fn wrong(&mut self, column: &str, message: impl Into<String>) {
        self.wrong.push(Problem::new(format!("row {}, column \"{column}\"", self.number), message));
    }

    /// Its name and attributes.
    fn read_known(&mut self, p: &Product, list: &[Attribute], own: &mut OwnProduct) -> Result<(), String> {
        if let Some(called) = self.cell(FRONT[1]) {
            own.name = if called == p.name { String::new() } else { called.to_owned() };
        }
        let was = known(p)?;
        for a in list {
            let Some(text) = self.cell(&a.id) else { continue };
            let generic = was.get(&a.id).map(String::as_str).unwrap_or_default();
            let value = if text == NONE { "" } else { text };
            if text.is_empty() || value == generic {
                own.attributes.remove(&a.id);
            } else if let Err(m) = a.read(value) {
                self.wrong(&a.id, m);
            } else {
                own.attributes.insert(a.id.clone(), value.to_owned());
            }
        }
        Ok(())
    }

    fn size(&mut self) -> SoldSize {
        let price = self.cell("price").unwrap_or_default();
        SoldSize {
            width: self.length("width"),
            length: self.length("length"),
            fl_oz: self.number("fl oz"),
            gallons: self.number("gallons"),
            count: self.whole("in a box", super::SIZE_COUNT.most),
            // A workbook has dropped the last nought; what is no price is named with the rest.
            price: (!price.is_empty())
                .then(|| Money::parse(price).map_or_else(|_| price.to_owned(), |m| m.to_string())),
        }
    }

    fn length(&mut self, name: &str) -> Option<Length> {
        let text = self.cell(name).filter(|t| !t.is_empty())?;
        Length::parse(text).map_err(|e| self.wrong(name, e.to_string())).ok()
    }

    fn number(&mut self, name: &str) -> Option<f64> {
        let text = self.cell(name).filter(|t| !t.is_empty())?;
        let n = text.parse::<f64>().ok().filter(|n| n.is_finite() && *n >= 0.0);
        if n.is_none() {
            self.wrong(name, format!("found \"{text}\", expected a number of 0 or more"));
        }
        n
    }

    fn whole(&mut self, name: &str, most: u32) -> Option<u32> {
        let n = self.number(name)?;
        if n.fract() != 0.0 || n > f64::from(most) {
            self.wrong(name, format!("found {n}, expected a whole number up to {most}"));
        }
        Some(n as u32)
    }

    fn sold(&mut self) -> Option<bool> {
        let text = self.cell("sold").filter(|t| !t.is_empty())?;
        let told = SOLD.iter().position(|s| s.eq_ignore_ascii_case(text));
        if told.is_none() {
            self.wrong("sold", format!("found \"{text}\", expected yes, or no for a leftover"));
        }
        told.map(|n| n == 1)
    }
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct KitFile {
    format: String,
    version: u32,
    kit: KitSpec,
}

const FORMAT: &str = "kame-kit";
const VERSION: u32 = 1;

/// All of a kit as a JSON file.
pub fn write_kit_file(kit: &KitSpec) -> String {
    let file = KitFile { format: FORMAT.into(), version: VERSION, kit: kit.clone() };
    serde_json::to_string_pretty(&file).unwrap_or_default() + "\n"
}

/// Reads it again.
///
/// # Errors
/// What is wrong with it, with paths.
pub fn read_kit_file(bytes: &[u8]) -> Result<KitSpec, Vec<Problem>> {
    let mut de = serde_json::Deserializer::from_slice(bytes);
    let file: KitFile = serde_path_to_error::deserialize(&mut de)
        .map_err(|e| one(format!("$.{}", e.path()), format!("{}; this is not a whole Kame kit file", e.inner())))?;
    if file.format != FORMAT || file.version != VERSION {
        let found = format!("{} {}", file.format, file.version);
        return Err(one("$.format", format!("found {found}, expected {FORMAT} {VERSION}: save it anew from here")));
    }
    let problems = file.kit.problems();
    if problems.is_empty() { Ok(file.kit) } else { Err(problems) }
}
