//! The cut list as a table for spreadsheets.

use kame_core::length::Length;
use kame_core::takeoff::CutGroup;

/// Column names of the cut list, in order.
pub const COLUMNS: [&str; 12] = [
    "product",
    "stock width",
    "roll",
    "letter",
    "piece",
    "opening",
    "length",
    "width",
    "length (in)",
    "width (in)",
    "length (mm)",
    "cut",
];

/// The cut list as CSV (RFC 4180): one line a piece, in cutting order. Text that a spreadsheet would take for a formula is quoted with an
/// apostrophe.
///
/// # Errors
/// What the CSV writer says; writing to memory does not fail.
pub fn cut_list_csv(groups: &[CutGroup]) -> Result<String, csv::Error> {
    let mut out = csv::Writer::from_writer(Vec::new());
    out.write_record(COLUMNS)?;
    for g in groups {
        for p in &g.pieces {
            let roll = if p.roll == 0 { String::new() } else { p.roll.to_string() };
            let mm = |l: Length| l.millimetres().trim_end_matches(" mm").to_owned();
            let fields = [
                g.product.clone(),
                g.stock_width.clone(),
                roll,
                p.letter.clone(),
                p.name.clone(),
                p.opening.clone(),
                p.length_text.clone(),
                p.width_text.clone(),
                p.length.to_inches_f64().to_string(),
                p.width.to_inches_f64().to_string(),
                mm(p.length),
                if p.cut { "yes".into() } else { String::new() },
            ];
            out.write_record(fields.map(harmless))?;
        }
    }
    let bytes = out.into_inner().map_err(|e| e.into_error())?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// Text that a spreadsheet takes for a formula, quoted.
pub(crate) fn harmless(text: String) -> String {
    if text.starts_with(['=', '+', '@', '-']) { format!("'{text}") } else { text }
}
