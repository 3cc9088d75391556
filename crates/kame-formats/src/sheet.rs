//! Tables out: rows of text with a heading as CSV and as a workbook.

use crate::cut_csv::harmless;
use kame_core::calendar::Days;
use kame_core::takeoff::Sum;
use rust_xlsxwriter::{Format, Workbook, XlsxError};

/// Rows as CSV (RFC 4180). Text that a spreadsheet would take for a formula is quoted with an apostrophe.
///
/// # Errors
/// What the CSV writer says; writing to memory does not fail.
pub fn table_csv(rows: &[Vec<String>]) -> Result<String, csv::Error> {
    let mut out = csv::WriterBuilder::new().flexible(true).from_writer(Vec::new());
    for row in rows {
        out.write_record(row.iter().map(|c| harmless(c.clone())))?;
    }
    let bytes = out.into_inner().map_err(|e| e.into_error())?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// Rows as a workbook of one sheet, the first a heading; numbers are numbers.
///
/// # Errors
/// What the workbook writer says.
pub fn table_xlsx(name: &str, rows: &[Vec<String>]) -> Result<Vec<u8>, XlsxError> {
    let mut book = Workbook::new();
    let head = Format::new().set_bold();
    let sheet = book.add_worksheet();
    sheet.set_name(name)?;
    for (r, row) in rows.iter().enumerate() {
        for (c, text) in row.iter().enumerate() {
            let (at, column) = (r as u32, c as u16);
            match text.parse::<f64>() {
                Ok(n) if r > 0 && n.is_finite() => sheet.write_number(at, column, n)?,
                _ if r == 0 => sheet.write_string_with_format(at, column, text, &head)?,
                _ => sheet.write_string(at, column, text)?,
            };
        }
    }
    sheet.autofit();
    book.save_to_buffer()
}

/// What to load, day by day, as rows with a heading.
pub fn load_rows(days: &Days) -> Vec<Vec<String>> {
    let head = ["day", "product", "called", "size", "load", "on the truck", "to buy before"];
    let mut out = vec![head.map(str::to_owned).to_vec()];
    for day in &days.days {
        for l in &day.loads {
            out.push(vec![
                day.on.clone(),
                l.product.clone(),
                l.called.clone(),
                l.size.clone(),
                l.count.to_string(),
                l.held.to_string(),
                l.short.to_string(),
            ]);
        }
    }
    out
}

/// Sums as rows with a heading.
pub fn sum_rows(by: &str, sums: &[Sum]) -> Vec<Vec<String>> {
    let mut out = vec![[by, "product", "uses", "amount", "ft² as cut"].map(str::to_owned).to_vec()];
    let row = |s: &Sum| {
        let ft2 = if s.ft2 > 0.0 { s.ft2.to_string() } else { String::new() };
        vec![s.group.clone(), s.product.clone(), s.uses.to_string(), s.amount.clone(), ft2]
    };
    out.extend(sums.iter().map(row));
    out
}
