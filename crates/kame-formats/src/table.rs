//! Tables in: CSV, XLSX and ODS as rows of text, told apart by what they are and not by what they are called.

use calamine::{Data, Reader, open_workbook_auto_from_rs};
use std::io::Cursor;

/// Most rows that are taken from a file.
const MOST: usize = 20_000;

/// The rows of a table file; of a workbook the first sheet with anything in it.
///
/// # Errors
/// A sentence that says what is wrong with the file and what to do.
pub fn read_table(bytes: &[u8]) -> Result<Vec<Vec<String>>, String> {
    let rows = match bytes {
        [] => return Err("the file is empty".into()),
        [0xD0, 0xCF, 0x11, 0xE0, ..] => {
            return Err(
                "this is an old .xls workbook or one with a password: save it as .xlsx or .ods without a password"
                    .into(),
            );
        }
        [b'P', b'K', ..] => workbook(bytes)?,
        [b'%', b'P', b'D', b'F', ..] => {
            return Err("this is a PDF: export the table as .csv, .xlsx or .ods".into());
        }
        _ => text(bytes)?,
    };
    if rows.len() > MOST {
        return Err(format!("found {} rows, at most {MOST} are read: split the table", rows.len()));
    }
    Ok(rows)
}

fn workbook(bytes: &[u8]) -> Result<Vec<Vec<String>>, String> {
    // Names of packed files stand in the clear.
    const MACROS: &[u8] = b"vbaProject.bin";
    if bytes.windows(MACROS.len()).any(|w| w == MACROS) {
        return Err("this workbook carries macros: save it as .xlsx without them".into());
    }
    let mut book = open_workbook_auto_from_rs(Cursor::new(bytes)).map_err(|_| {
        "this is a packed file, but no .xlsx or .ods workbook: save the table again as one of these".to_owned()
    })?;
    for name in book.sheet_names() {
        let range = book.worksheet_range(&name).map_err(|e| format!("sheet \"{name}\" does not read: {e}"))?;
        let Some((rows, columns)) = range.end() else { continue };
        let formulas = book.worksheet_formula(&name).ok();
        let cell = |r: u32, c: u32| {
            let formula = || formulas.as_ref().and_then(|f| f.get_value((r, c))).filter(|f| !f.is_empty());
            match range.get_value((r, c)) {
                // A formula whose result was never worked out is told by itself, not taken for nothing.
                None | Some(Data::Empty) => formula().map_or_else(String::new, |f| format!("={f}")),
                Some(Data::Float(x)) => x.to_string(),
                Some(other) => other.to_string(),
            }
        };
        return Ok((0..=rows).map(|r| (0..=columns).map(|c| cell(r, c)).collect()).collect());
    }
    Err("the workbook has no sheet with anything in it".into())
}

fn text(bytes: &[u8]) -> Result<Vec<Vec<String>>, String> {
    if bytes.starts_with(&[0xFF, 0xFE]) || bytes.starts_with(&[0xFE, 0xFF]) {
        return Err("the text is UTF-16: save it as CSV in UTF-8".into());
    }
    let text = std::str::from_utf8(bytes).map_err(|e| {
        let line = bytes[..e.valid_up_to()].iter().filter(|b| **b == b'\n').count() + 1;
        format!("the text is not UTF-8 in line {line}: save it as CSV in UTF-8")
    })?;
    let text = text.trim_start_matches('\u{feff}');
    if text.contains('\0') {
        return Err("this is no table: save it as .csv, .xlsx or .ods".into());
    }
    let first = text.lines().next().unwrap_or_default();
    let most = [b',', b';', b'\t'].into_iter().max_by_key(|d| first.bytes().filter(|b| b == d).count());
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .delimiter(most.unwrap_or(b','))
        .from_reader(text.as_bytes());
    let row = |r: Result<csv::StringRecord, csv::Error>| {
        r.map(|r| r.iter().map(str::to_owned).collect()).map_err(|e| format!("the table does not read: {e}"))
    };
    reader.records().map(row).collect()
}
