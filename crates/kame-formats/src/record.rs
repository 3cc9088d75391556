//! The record out and in again: a paper to read, a table, and one archive that keeps everything and can be looked through by anybody.

use crate::drawing::Drawing;
use crate::paper::{Paper, Photo, WIDE};
use kame_core::record::{Broken, Entry, Line, PlaceReport, Whole, broken_photo, verify};
use std::collections::HashMap;
use std::io::{Cursor, Read, Seek, Write};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

/// A time as people read it.
pub fn when(at: &str) -> String {
    at.get(..16).unwrap_or(at).replace('T', " ")
}

/// Headings of the record as a table.
pub const RECORD_COLUMNS: [&str; 13] =
    ["number", "taken", "at", "who", "place", "step", "what", "good", "note", "photos", "corrected", "odd", "hash"];

/// The record as a table, an entry a row.
///
/// # Errors
/// What the writer says.
pub fn record_csv(lines: &[Line], entries: &[Entry]) -> Result<Vec<u8>, csv::Error> {
    let mut out = csv::Writer::from_writer(Vec::new());
    out.write_record(RECORD_COLUMNS)?;
    for (l, e) in lines.iter().zip(entries) {
        let yes = |b: bool| if b { "yes" } else { "no" };
        let row: [&str; 13] = [
            &l.number.to_string(),
            &l.taken,
            &l.at,
            &l.who,
            &l.place,
            &l.step,
            &l.what,
            l.good.map_or("", yes),
            &l.note,
            &l.photos.join(" "),
            yes(l.corrected),
            &l.odd,
            &e.hash,
        ];
        // A cell that begins like a formula is kept a text in a program for tables.
        let safe = row.map(
            |cell: &str| if cell.starts_with(['=', '+', '-', '@']) { format!("'{cell}") } else { cell.to_owned() },
        );
        out.write_record(safe)?;
    }
    out.into_inner().map_err(|e| e.into_error().into())
}

/// A place on the paper: what is said of it, with drawings and photographs.
pub struct PlacePages {
    /// What the record says.
    pub report: PlaceReport,
    /// As planned, and as built.
    pub drawings: Vec<(Drawing, String)>,
    /// Photographs.
    pub photos: Vec<Photo>,
}

/// The record as a paper to read: the whole of it, or of one place.
pub fn record_pdf(title: &str, of: &str, whole: &Whole, places: Vec<PlacePages>) -> Vec<u8> {
    let mut paper = Paper::new(&format!("{title}, record"));
    paper.text(title, 20.0, true);
    paper.text(of, 11.0, false);
    match &whole.broken {
        None => {
            paper.text(&format!("Whole: {} entries. The last carries {}.", whole.entries, whole.last), 9.0, false);
            paper.text(
                "Written down elsewhere, that number says that nothing was changed and nothing cut off. Times are UTC.",
                9.0,
                false,
            );
        }
        Some(broken) => paper.text(&format!("NOT WHOLE. {broken}."), 12.0, true),
    }
    if places.is_empty() {
        paper.gap(12.0);
        paper.text("Nothing is on record here yet.", 11.0, false);
    }
    let many = places.len();
    for (n, place) in places.into_iter().enumerate() {
        if n > 0 || many > 1 {
            paper.gap(14.0);
            paper.need(300.0);
        }
        let PlaceReport { id, name, done, open, lines } = &place.report;
        let (done, all) = *done;
        paper.gap(10.0);
        paper.text(format!("{id} {name}").trim(), 15.0, true);
        paper.text(&format!("{done} of {all} steps are over."), 10.0, false);
        for o in open {
            paper.text(&format!("Open: {o}"), 10.0, true);
        }
        let drawings: Vec<(&Drawing, &str)> = place.drawings.iter().map(|(d, c)| (d, c.as_str())).collect();
        paper.drawings(&drawings, 190.0);
        const COLUMNS: [f32; 5] = [30.0, 84.0, 64.0, 110.0, WIDE - 288.0];
        let row = |paper: &mut Paper, cells: [&str; 5], bold: bool| {
            let cells: Vec<(&str, f32)> = cells.into_iter().zip(COLUMNS).collect();
            paper.columns(&cells, 8.5, bold);
        };
        row(&mut paper, ["No.", "When", "Who", "Step", "What"], true);
        paper.rule();
        for l in lines {
            let mut what = l.what.clone();
            for (extra, before) in [(&l.note, ". "), (&l.odd, " ! ")] {
                if !extra.is_empty() {
                    what = format!("{what}{before}{extra}");
                }
            }
            if l.corrected {
                what = format!("(corrected later) {what}");
            }
            row(&mut paper, [&l.number.to_string(), &when(&l.at), &l.who, &l.step, &what], l.good == Some(false));
        }
        if !place.photos.is_empty() {
            paper.gap(6.0);
        }
        paper.photos(place.photos);
    }
    paper.finish()
}

/// What a page about a damaged unit says.
pub struct Damage {
    /// Job, and the place with its name.
    pub job: String,
    /// The place.
    pub place: String,
    /// What was ordered: the unit with its size.
    pub ordered: String,
    /// Marks that were written down.
    pub marks: Vec<String>,
    /// What was said of it, with who and when.
    pub said: Vec<String>,
    /// Photographs.
    pub photos: Vec<Photo>,
}

/// One page to send about a damaged unit.
pub fn damage_pdf(d: Damage) -> Vec<u8> {
    let mut paper = Paper::new(&format!("{}, damaged unit at {}", d.job, d.place));
    paper.text("Damaged unit", 20.0, true);
    let marks = if d.marks.is_empty() { "not written down".to_owned() } else { d.marks.join(", ") };
    for (what, text) in [("Job", &d.job), ("Place", &d.place), ("Ordered", &d.ordered), ("Mark", &marks)] {
        paper.columns(&[(what, 70.0), (text, WIDE - 70.0)], 11.0, false);
    }
    paper.rule();
    for s in &d.said {
        paper.text(s, 11.0, false);
    }
    paper.gap(6.0);
    paper.text("The unit was not set. Photographs of the mark, the damage and its packing label:", 10.0, true);
    if d.photos.is_empty() {
        paper.text("None were taken.", 10.0, false);
    }
    paper.photos(d.photos);
    paper.finish()
}

/// What a trade leaves for the next: a heading, and lines under it.
pub struct Handed {
    /// Whom it is for, or which place.
    pub heading: String,
    /// What is left, and what to do with it.
    pub lines: Vec<String>,
}

/// Handover pages.
pub fn handover_pdf(title: &str, all: &[Handed]) -> Vec<u8> {
    let mut paper = Paper::new(&format!("{title}, handover"));
    paper.text(title, 20.0, true);
    paper.text("What one trade leaves for the next. What is not done yet says so.", 10.0, false);
    for h in all {
        paper.gap(10.0);
        paper.need(60.0);
        paper.text(&h.heading, 13.0, true);
        paper.rule();
        for l in &h.lines {
            paper.text(l, 10.5, false);
        }
    }
    paper.finish()
}

/// The largest archive that is taken in, bytes.
pub const LARGEST_ARCHIVE: u64 = 256 * 1024 * 1024;
/// The most files in it.
const MOST_FILES: usize = 60_000;
/// The most it may unpack to, bytes.
const MOST_UNPACKED: u64 = 2 * 1024 * 1024 * 1024;
/// The largest single file in it.
const LARGEST_PART: u64 = 64 * 1024 * 1024;

/// Names of the parts of an archive.
const JOB: &str = "job.kame.json";
const CHAIN: &str = "record.jsonl";
const TABLE: &str = "record.csv";
const READ_ME: &str = "READ ME.txt";
const SCHEMA: &str = "kame-record.schema.json";
const PAPER: &str = "record.pdf";
const PHOTOS: &str = "photos/";

/// What stands in an archive besides its photographs.
pub struct Kept<'a> {
    /// The job as a file.
    pub job: &'a str,
    /// The entries.
    pub entries: &'a [Entry],
    /// The same as a table.
    pub table: &'a [u8],
    /// The same as a paper.
    pub paper: &'a [u8],
    /// The schema of an entry.
    pub schema: &'a str,
}

fn read_me(whole: &Whole) -> String {
    format!(
        "What was done, measured and looked at, kept so that nothing in it can be changed quietly.\n\n\
         record.pdf               to read\n\
         record.csv               the same as a table\n\
         record.jsonl             the entries, one a line; kame-record.schema.json says what stands in them\n\
         job.kame.json            the plan it belongs to\n\
         photos/                  photographs, each named by the SHA-256 of its file\n\n\
         {} entries; the last carries {}.\n\n\
         To look it through: kame record verify THIS.zip\n\
         Without Kame: the hash of an entry is the SHA-256 of four lines, each ended by a line feed: \"before\" as JSON, the number, \"taken\" as JSON,\n\
         and the event as JSON without spaces, its fields in the order in which they stand. \"before\" is the hash of the entry before, 64 noughts for the first.\n",
        whole.entries, whole.last
    )
}

/// Writes an archive of a record. `photo` gives a photograph by its hash; one that is not there is left out, which looking it through finds.
///
/// # Errors
/// What the writer says.
pub fn record_zip<W: Write + Seek>(
    out: W,
    kept: &Kept,
    mut photo: impl FnMut(&str) -> std::io::Result<Option<Vec<u8>>>,
) -> std::io::Result<W> {
    let mut zip = ZipWriter::new(out);
    let packed = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
    let stored = SimpleFileOptions::default().compression_method(CompressionMethod::Stored);
    let mut chain = String::new();
    for e in kept.entries {
        chain.push_str(&serde_json::to_string(e)?);
        chain.push('\n');
    }
    let read_me = read_me(&verify(kept.entries));
    let parts: [(&str, &[u8]); 6] = [
        (READ_ME, read_me.as_bytes()),
        (CHAIN, chain.as_bytes()),
        (TABLE, kept.table),
        (JOB, kept.job.as_bytes()),
        (SCHEMA, kept.schema.as_bytes()),
        (PAPER, kept.paper),
    ];
    for (name, bytes) in parts {
        zip.start_file(name, packed)?;
        zip.write_all(bytes)?;
    }
    let mut hashes: Vec<&String> = kept.entries.iter().flat_map(|e| &e.event.photos).collect();
    hashes.sort();
    hashes.dedup();
    for hash in hashes {
        if let Some(bytes) = photo(hash)? {
            zip.start_file(format!("{PHOTOS}{hash}"), stored)?;
            zip.write_all(&bytes)?;
        }
    }
    Ok(zip.finish()?)
}

/// An archive as it was read.
pub struct Archive {
    zip: ZipArchive<Cursor<Vec<u8>>>,
    /// The entries.
    pub entries: Vec<Entry>,
    /// The job as a file.
    pub job: Vec<u8>,
    table: Option<Vec<u8>>,
}

fn part<R: Read + Seek>(zip: &mut ZipArchive<R>, name: &str) -> Result<Option<Vec<u8>>, String> {
    let file = match zip.by_name(name) {
        Ok(file) => file,
        Err(zip::result::ZipError::FileNotFound) => return Ok(None),
        Err(e) => return Err(format!("{name}: {e}")),
    };
    let says = file.size();
    if says > LARGEST_PART {
        return Err(format!("{name} unpacks to more than {} MB, the most that is read", LARGEST_PART >> 20));
    }
    let mut out = Vec::new();
    file.take(says + 1).read_to_end(&mut out).map_err(|e| format!("{name}: {e}"))?;
    if out.len() as u64 != says {
        return Err(format!("{name} unpacks to another size than it says"));
    }
    Ok(Some(out))
}

/// Entries of a text, one a line.
///
/// # Errors
/// Which line does not read, and why.
pub fn read_entries(text: &[u8]) -> Result<Vec<Entry>, String> {
    let text = std::str::from_utf8(text).map_err(|e| format!("the record is no text: {e}"))?;
    let line = |(i, l): (usize, &str)| serde_json::from_str::<Entry>(l).map_err(|e| format!("line {}: {e}", i + 1));
    text.lines().filter(|l| !l.trim().is_empty()).enumerate().map(line).collect()
}

impl Archive {
    /// Reads an archive.
    ///
    /// # Errors
    /// A sentence: what it is not, or what of it does not read.
    pub fn read(bytes: Vec<u8>) -> Result<Self, String> {
        let mut zip = ZipArchive::new(Cursor::new(bytes))
            .map_err(|e| format!("found no ZIP archive ({e}), expected one that Kame made of a record"))?;
        if zip.len() > MOST_FILES {
            return Err(format!("found {} files in it, expected at most {MOST_FILES}", zip.len()));
        }
        // What it says of itself is held against each part when that is read.
        let many = zip.len();
        let mut says = |i: usize| zip.by_index_raw(i).map_or(0, |f| f.size());
        if (0..many).map(&mut says).fold(0, u64::saturating_add) > MOST_UNPACKED {
            return Err(format!("it unpacks to more than {} MB, the most that is read", MOST_UNPACKED >> 20));
        }
        let chain = part(&mut zip, CHAIN)?
            .ok_or_else(|| format!("found no {CHAIN} in it, expected an archive that Kame made of a record"))?;
        let job = part(&mut zip, JOB)?
            .ok_or_else(|| format!("found no {JOB} in it, expected an archive that Kame made of a record"))?;
        let table = part(&mut zip, TABLE)?;
        Ok(Self { entries: read_entries(&chain)?, job, table, zip })
    }

    /// A photograph by its hash.
    ///
    /// # Errors
    /// What of the archive does not read.
    pub fn photo(&mut self, hash: &str) -> Result<Option<Vec<u8>>, String> {
        part(&mut self.zip, &format!("{PHOTOS}{hash}"))
    }

    /// Whether it is whole: the chain, each photograph, and the table, which says the same. `hash_of` is SHA-256 in hexadecimal digits.
    pub fn verify(&mut self, hash_of: impl Fn(&[u8]) -> String) -> Whole {
        let whole = verify(&self.entries);
        let mut hashes: HashMap<String, Option<String>> = HashMap::new();
        for hash in self.entries.iter().flat_map(|e| &e.event.photos).cloned().collect::<Vec<_>>() {
            let found = self.photo(&hash).ok().flatten().map(|bytes| hash_of(&bytes));
            hashes.insert(hash, found);
        }
        let photo = |hash: &str| hashes.get(hash).cloned().flatten();
        let broken = whole.broken.or_else(|| broken_photo(&self.entries, photo)).or_else(|| self.broken_table());
        Whole { broken, ..whole }
    }

    /// The table was written from the entries: number, times, people, notes and hashes have to be theirs.
    fn broken_table(&self) -> Option<Broken> {
        let table = self.table.as_deref()?;
        let mut rows = csv::Reader::from_reader(table).into_records();
        for e in &self.entries {
            let event = &e.event;
            let theirs = [
                e.number.to_string(),
                e.taken.clone(),
                event.at.clone(),
                event.who.clone(),
                event.place.clone(),
                event.note.clone(),
                e.hash.clone(),
            ];
            let said =
                |row: &csv::StringRecord| [0, 1, 2, 3, 4, 8, 12].map(|i| row.get(i).unwrap_or_default().to_owned());
            let same = |row: csv::StringRecord| {
                said(&row).iter().zip(&theirs).all(|(a, b)| a == b || a.strip_prefix('\'') == Some(b))
            };
            if !rows.next().and_then(Result::ok).is_some_and(same) {
                return Some(Broken { number: e.number, why: format!("stands otherwise in {TABLE}, or not at all") });
            }
        }
        rows.next().map(|_| Broken { number: self.entries.len() as u64 + 1, why: format!("stands in {TABLE} alone") })
    }
}
