//! What a packed workbook unpacks to, counted before any of it is laid out: a few kilobytes can say that they are gigabytes.

use super::{MOST_CELLS, MOST_COLUMNS, MOST_ROWS, MOST_TEXT};
use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};
use std::io::{Cursor, Read, Write};
use zip::ZipArchive;

/// Most bytes a workbook may unpack to.
const MOST_UNPACKED: u64 = 24 << 20;

/// Kinds of workbook that are read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind {
    Xlsx,
    Ods,
}

/// Counts what is written and keeps none of it.
struct Counted(u64);

impl Write for Counted {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        self.0 += bytes.len() as u64;
        Ok(bytes.len())
    }
    fn flush(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}

/// Which kind of workbook it is, once it is known to unpack to no more than is read.
pub fn look_into(bytes: &[u8]) -> Result<Kind, String> {
    let no_workbook =
        || "this is a packed file, but no .xlsx or .ods workbook: save the table again as one of these".to_owned();
    let mut archive = ZipArchive::new(Cursor::new(bytes)).map_err(|_| no_workbook())?;
    let mut left = MOST_UNPACKED;
    for i in 0..archive.len() {
        let Ok(part) = archive.by_index(i) else { continue };
        let mut unpacked = Counted(0);
        // A part that is damaged further on has taken its time up to there.
        let _ = std::io::copy(&mut part.take(left + 1), &mut unpacked);
        left = left.checked_sub(unpacked.0).ok_or_else(|| {
            format!(
                "the workbook unpacks to more than {} MB, the most that is read: save only the table",
                MOST_UNPACKED >> 20
            )
        })?;
    }
    let has = |name: &str| archive.index_for_name(name).is_some();
    if has("xl/workbook.bin") {
        return Err("this is an .xlsb workbook: save it as .xlsx or .ods".into());
    }
    let kind = if has("content.xml") && has("mimetype") {
        Kind::Ods
    } else if has("xl/workbook.xml") || has("_rels/.rels") {
        Kind::Xlsx
    } else {
        return Err(no_workbook());
    };
    if kind == Kind::Ods {
        let mut part = archive.by_name("content.xml").map_err(|_| no_workbook())?;
        let mut content = Vec::new();
        part.read_to_end(&mut content).map_err(|_| no_workbook())?;
        repeats_within_bounds(&content)?;
    }
    Ok(kind)
}

/// How far the cells of one sheet go, as its rows are read.
#[derive(Default)]
struct Extent {
    /// Cells and bytes of text in them, those of repeated cells and rows each time.
    cells: u64,
    text: u64,
    /// Rows up to the last with anything in it, and empty ones after that.
    rows: u64,
    empty_rows: u64,
}

/// One row as it is read.
#[derive(Default)]
struct Row {
    times: u64,
    cells: u64,
    text: u64,
    empty_cells: u64,
}

/// Counts what repeated cells and rows of a content.xml come to.
fn repeats_within_bounds(content: &[u8]) -> Result<(), String> {
    let damaged = || "the workbook does not read: save the table again".to_owned();
    let mut reader = Reader::from_reader(content);
    let config = reader.config_mut();
    (config.check_end_names, config.expand_empty_elements) = (false, true);
    let (mut sheet, mut row) = (Extent::default(), Row::default());
    // The cell that is being read: how often it stands there, whether it holds anything, its text.
    let mut cell: Option<(u64, bool, u64)> = None;
    loop {
        match reader.read_event().map_err(|_| damaged())? {
            Event::Eof => return Ok(()),
            Event::Start(e) => match e.name().as_ref() {
                "table:table" => sheet = Extent::default(),
                "table:table-row" => row = Row { times: repeated(&e, "table:number-rows-repeated"), ..Row::default() },
                "table:table-cell" | "table:covered-table-cell" => {
                    let (mut text, mut holds) = (0, false);
                    for a in e.attributes().flatten() {
                        let name: &str = a.key.as_ref();
                        if name.starts_with("office:") || name.starts_with("calcext:") || name == "table:formula" {
                            holds = true;
                            text += a.value.len() as u64;
                        }
                    }
                    cell = Some((repeated(&e, "table:number-columns-repeated"), holds, text));
                }
                _ => {}
            },
            Event::Text(t) => {
                if let Some(cell) = &mut cell {
                    cell.2 += t.len() as u64;
                }
            }
            Event::End(e) => match e.name().as_ref() {
                "table:table-cell" | "table:covered-table-cell" => {
                    let Some((times, holds, text)) = cell.take() else { continue };
                    if holds {
                        row.cells = row.cells.saturating_add(row.empty_cells).saturating_add(times);
                        row.text = row.text.saturating_add(times.saturating_mul(text));
                        row.empty_cells = 0;
                    } else {
                        row.empty_cells = row.empty_cells.saturating_add(times);
                    }
                    if row.cells > MOST_COLUMNS as u64 {
                        return Err(super::too_many("columns", MOST_COLUMNS));
                    }
                }
                "table:table-row" => sheet.take(&row)?,
                _ => {}
            },
            _ => {}
        }
    }
}

impl Extent {
    fn take(&mut self, row: &Row) -> Result<(), String> {
        if row.cells == 0 {
            self.empty_rows = self.empty_rows.saturating_add(row.times);
            return Ok(());
        }
        self.rows = self.rows.saturating_add(self.empty_rows).saturating_add(row.times);
        self.empty_rows = 0;
        self.cells = self.cells.saturating_add(row.cells.saturating_mul(row.times));
        self.text = self.text.saturating_add(row.text.saturating_mul(row.times));
        if self.rows > MOST_ROWS as u64 {
            return Err(super::too_many("rows", MOST_ROWS));
        }
        if self.cells > MOST_CELLS as u64 {
            return Err(super::too_many("cells", MOST_CELLS));
        }
        if self.text > MOST_TEXT as u64 {
            return Err(super::too_much_text());
        }
        Ok(())
    }
}

/// How often a cell or row stands there; once where it does not say.
fn repeated(e: &BytesStart, name: &str) -> u64 {
    let found = e.attributes().flatten().find(|a| {
        let key: &str = a.key.as_ref();
        key == name
    });
    // A number too large to be read is too large.
    found.map_or(1, |a| {
        let text: &str = a.value.as_ref();
        text.trim().parse().unwrap_or(u64::MAX)
    })
}
