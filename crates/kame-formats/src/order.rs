//! The order as a table: CSV and workbook.

use crate::cut_csv::harmless;
use kame_core::purchase::{Order, OrderLine};
use kame_core::takeoff::{Amount, Use};
use rust_xlsxwriter::{Format, Workbook, XlsxError};

/// Column names of the order, in order.
pub const ORDER_COLUMNS: [&str; 11] = [
    "supplier",
    "product",
    "called",
    "size",
    "needed",
    "on the truck",
    "buy",
    "price",
    "used",
    "handling waste",
    "left over",
];

/// Column names of what everything is used for.
pub const USE_COLUMNS: [&str; 8] = ["product", "for", "opening", "wall", "phase", "trade", "amount", "working"];

/// One line for each size of each product; a product that comes in no size has one line without numbers.
fn rows(line: &OrderLine) -> Vec<[String; 11]> {
    let row = |size: &str, n: [String; 4]| {
        let [needed, held, buy, price] = n;
        [
            line.supplier.clone(),
            line.product.clone(),
            line.called.clone(),
            size.to_owned(),
            needed,
            held,
            buy,
            price,
            line.net.clone(),
            line.handling.clone(),
            line.left.clone(),
        ]
    };
    if line.sizes.is_empty() {
        return vec![row("", Default::default())];
    }
    let each = line.sizes.iter();
    each.map(|s| row(&s.size, [s.needed.to_string(), s.held.to_string(), s.buy.to_string(), s.price.clone()])).collect()
}

/// The order as CSV (RFC 4180), by supplier.
///
/// # Errors
/// What the CSV writer says; writing to memory does not fail.
pub fn order_csv(order: &Order) -> Result<String, csv::Error> {
    let mut out = csv::Writer::from_writer(Vec::new());
    out.write_record(ORDER_COLUMNS)?;
    for row in order.lines.iter().flat_map(rows) {
        out.write_record(row.map(harmless))?;
    }
    let bytes = out.into_inner().map_err(|e| e.into_error())?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

fn amount(u: &Use) -> String {
    match u.amount {
        Amount::Piece { length, width, .. } => format!("{length} × {width}"),
        Amount::Run { length } => length.to_string(),
        Amount::Area { ft2 } => format!("{ft2:.1} ft²"),
        Amount::Volume { fl_oz } => format!("{fl_oz:.2} fl oz"),
        Amount::Count { n } => n.to_string(),
    }
}

/// The sheet with everything each product is used for.
const USES: &str = "what for";

/// A name that a sheet can have and none has yet: crews call their suppliers as they like.
fn sheet_name(wanted: &str, taken: &[String]) -> String {
    /// Longest name of a sheet.
    const LONGEST: usize = 31;
    let plain: String = wanted.chars().map(|c| if "[]:*?/\\'".contains(c) { ' ' } else { c }).collect();
    let plain = if plain.trim().is_empty() { "supplier" } else { plain.trim() };
    let is_taken = |name: &str| taken.iter().any(|t| t.to_lowercase() == name.to_lowercase());
    let with = |n: usize| {
        let tail = if n > 1 { format!(" {n}") } else { String::new() };
        plain.chars().take(LONGEST - tail.len()).collect::<String>() + &tail
    };
    (1..).map(with).find(|name| !is_taken(name)).unwrap_or_default()
}

/// The order as a workbook: a sheet for each supplier, and one with everything each product is used for and how it was worked out.
///
/// # Errors
/// What the workbook writer says.
pub fn order_xlsx(order: &Order) -> Result<Vec<u8>, XlsxError> {
    let mut book = Workbook::new();
    let head = Format::new().set_bold();
    let mut suppliers: Vec<&str> = order.lines.iter().map(|l| l.supplier.as_str()).collect();
    suppliers.dedup();
    let mut names: Vec<String> = vec![USES.into()];
    for supplier in suppliers {
        let sheet = book.add_worksheet();
        names.push(sheet_name(supplier, &names));
        sheet.set_name(names.last().map_or("", String::as_str))?;
        let columns = || ORDER_COLUMNS.iter().enumerate().skip(1);
        for (c, name) in columns() {
            sheet.write_string_with_format(0, c as u16 - 1, *name, &head)?;
        }
        let lines = order.lines.iter().filter(|l| l.supplier == supplier);
        for (r, row) in lines.flat_map(rows).enumerate() {
            for (c, text) in row.iter().enumerate().skip(1) {
                let (r, c) = (r as u32 + 1, c as u16 - 1);
                // Counts are numbers, so that a yard can add them up.
                match text.parse::<f64>() {
                    Ok(n) if matches!(ORDER_COLUMNS[c as usize + 1], "needed" | "on the truck" | "buy") => {
                        sheet.write_number(r, c, n)?;
                    }
                    _ => {
                        sheet.write_string(r, c, text)?;
                    }
                }
            }
        }
        sheet.autofit();
    }
    let sheet = book.add_worksheet();
    sheet.set_name(USES)?;
    for (c, name) in USE_COLUMNS.iter().enumerate() {
        sheet.write_string_with_format(0, c as u16, *name, &head)?;
    }
    for (r, u) in order.lines.iter().flat_map(|l| &l.uses).enumerate() {
        let phase = format!("{:?}", u.phase).to_lowercase();
        let trade = format!("{:?}", u.trade).to_lowercase();
        let row = [
            u.product.clone(),
            u.what.clone(),
            u.opening.clone(),
            u.wall.clone(),
            phase,
            trade,
            amount(u),
            u.working.clone(),
        ];
        for (c, text) in row.iter().enumerate() {
            sheet.write_string(r as u32 + 1, c as u16, text)?;
        }
    }
    sheet.autofit();
    book.save_to_buffer()
}
