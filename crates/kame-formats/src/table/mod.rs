//! Tables in: CSV, XLSX and ODS as rows of text, told apart by what they are and not by what they are called. Sizes are read and bounded before
//! anything is laid out.

mod packed;

use calamine::{Data, DataRef, Ods, Reader, Xlsx, XlsxFormulaMetadata, open_workbook_from_rs};
use packed::Kind;
use std::io::Cursor;
use std::panic::{AssertUnwindSafe, catch_unwind};

/// Most rows that are taken from a file.
const MOST_ROWS: usize = 20_000;
/// Most columns.
const MOST_COLUMNS: usize = 500;
/// Most cells.
const MOST_CELLS: usize = 1_000_000;
/// Most bytes of text in all cells together.
const MOST_TEXT: usize = 16 << 20;

fn too_many(what: &str, most: usize) -> String {
    format!(
        "found more than {most} {what}, the most that is read: split the table, or delete what stands far below or beside it"
    )
}

fn too_much_text() -> String {
    format!("the cells hold more than {} MB of text, the most that is read: save only the table", MOST_TEXT >> 20)
}

/// The rows of a table file; of a workbook the first sheet with anything in it.
///
/// # Errors
/// A sentence that says what is wrong with the file and what to do.
pub fn read_table(bytes: &[u8]) -> Result<Vec<Vec<String>>, String> {
    match bytes {
        [] => Err("the file is empty".into()),
        [0xD0, 0xCF, 0x11, 0xE0, ..] => {
            Err("this is an old .xls workbook or one with a password: save it as .xlsx or .ods without a password"
                .into())
        }
        // What the reading of workbooks does not foresee is a file that does not read, not the end of the program.
        [b'P', b'K', ..] => catch_unwind(AssertUnwindSafe(|| workbook(bytes)))
            .unwrap_or_else(|_| Err("the workbook does not read: save the table again".into())),
        [b'%', b'P', b'D', b'F', ..] => Err("this is a PDF: export the table as .csv, .xlsx or .ods".into()),
        _ => text(bytes),
    }
}

/// Rows as cells come in, in any order, each within bounds.
#[derive(Default)]
struct Grid {
    rows: Vec<Vec<String>>,
    cells: usize,
    text: usize,
}

impl Grid {
    fn put(&mut self, row: usize, column: usize, text: String) -> Result<(), String> {
        if text.is_empty() {
            return Ok(());
        }
        if row >= MOST_ROWS {
            return Err(too_many("rows", MOST_ROWS));
        }
        if column >= MOST_COLUMNS {
            return Err(too_many("columns", MOST_COLUMNS));
        }
        if self.rows.len() <= row {
            self.rows.resize(row + 1, Vec::new());
        }
        let line = &mut self.rows[row];
        if line.len() <= column {
            self.cells += column + 1 - line.len();
            line.resize(column + 1, String::new());
        }
        self.text += text.len();
        line[column] = text;
        if self.cells > MOST_CELLS {
            return Err(too_many("cells", MOST_CELLS));
        }
        if self.text > MOST_TEXT { Err(too_much_text()) } else { Ok(()) }
    }

    /// All rows as wide as the widest.
    fn whole(mut self) -> Result<Vec<Vec<String>>, String> {
        let wide = self.rows.iter().map(Vec::len).max().unwrap_or(0);
        let cells = wide * self.rows.len();
        if cells > MOST_CELLS {
            return Err(too_many("cells", MOST_CELLS));
        }
        self.rows.iter_mut().for_each(|r| r.resize(wide, String::new()));
        Ok(self.rows)
    }
}

fn workbook(bytes: &[u8]) -> Result<Vec<Vec<String>>, String> {
    // Names of packed files stand in the clear.
    const MACROS: &[u8] = b"vbaProject.bin";
    if bytes.windows(MACROS.len()).any(|w| w == MACROS) {
        return Err("this workbook carries macros: save it as .xlsx without them".into());
    }
    let rows = match packed::look_into(bytes)? {
        Kind::Xlsx => xlsx(bytes)?,
        Kind::Ods => ods(bytes)?,
    };
    rows.ok_or_else(|| "the workbook has no sheet with anything in it".into())
}

fn no_workbook<E>(_: E) -> String {
    "this is a packed file, but no .xlsx or .ods workbook: save the table again as one of these".into()
}

fn xlsx(bytes: &[u8]) -> Result<Option<Vec<Vec<String>>>, String> {
    let mut book: Xlsx<_> = open_workbook_from_rs(Cursor::new(bytes)).map_err(no_workbook)?;
    for name in book.sheet_names() {
        let damaged = |e| format!("sheet \"{name}\" does not read: {e}");
        let mut cells = book.worksheet_cells_reader(&name).map_err(damaged)?;
        let mut grid = Grid::default();
        while let Some(cell) = cells.next_cell_with_formula_metadata().map_err(damaged)? {
            let text = match cell.value {
                // A formula whose result was never worked out is told by itself, not taken for nothing.
                DataRef::Empty => cell.formula.as_ref().map_or_else(String::new, formula),
                DataRef::Float(x) => x.to_string(),
                DataRef::SharedString(text) => text.to_owned(),
                other => Data::from(other).to_string(),
            };
            grid.put(cell.pos.0 as usize, cell.pos.1 as usize, text)?;
        }
        if !grid.rows.is_empty() {
            return grid.whole().map(Some);
        }
    }
    Ok(None)
}

fn formula(of: &XlsxFormulaMetadata) -> String {
    match of {
        XlsxFormulaMetadata::Normal { formula } | XlsxFormulaMetadata::Shared { formula, .. } => format!("={formula}"),
        _ => "= a formula without a result".into(),
    }
}

fn ods(bytes: &[u8]) -> Result<Option<Vec<Vec<String>>>, String> {
    let mut book: Ods<_> = open_workbook_from_rs(Cursor::new(bytes)).map_err(no_workbook)?;
    for name in book.sheet_names() {
        let damaged = |e| format!("sheet \"{name}\" does not read: {e}");
        let range = book.worksheet_range(&name).map_err(damaged)?;
        let formulas = book.worksheet_formula(&name).map_err(damaged)?;
        let mut grid = Grid::default();
        let (row, column) = range.start().unwrap_or_default();
        for (r, c, value) in range.used_cells() {
            let text = if let Data::Float(x) = value { x.to_string() } else { value.to_string() };
            grid.put(row as usize + r, column as usize + c, text)?;
        }
        let (row, column) = formulas.start().unwrap_or_default();
        for (r, c, formula) in formulas.used_cells() {
            let at = (row + r as u32, column + c as u32);
            if range.get_value(at).is_none_or(|v| *v == Data::Empty) {
                grid.put(at.0 as usize, at.1 as usize, format!("={formula}"))?;
            }
        }
        if !grid.rows.is_empty() {
            return grid.whole().map(Some);
        }
    }
    Ok(None)
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
    let (mut rows, mut cells) = (Vec::new(), 0);
    let mut record = csv::StringRecord::new();
    while reader.read_record(&mut record).map_err(|e| format!("the table does not read: {e}"))? {
        cells += record.len();
        if rows.len() >= MOST_ROWS {
            return Err(too_many("rows", MOST_ROWS));
        }
        if record.len() > MOST_COLUMNS {
            return Err(too_many("columns", MOST_COLUMNS));
        }
        if cells > MOST_CELLS {
            return Err(too_many("cells", MOST_CELLS));
        }
        rows.push(record.iter().map(str::to_owned).collect());
    }
    Ok(rows)
}
