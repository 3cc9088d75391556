//! Tables in, whatever they are called: the same schedule from CSV, XLSX and ODS, and a sentence for everything else.

use kame_core::calendar::{Booking, CalendarQuestion, Hour, book};
use kame_core::edit::{Edit, Field, Mapping, apply, read_schedule};
use kame_core::job::{Job, read_job};
use kame_core::length::Length;
use kame_core::nights::KnownNights;
use kame_core::plan::build;
use kame_core::stop::Stop;
use kame_formats::{CalendarOf, calendar_ics, calendar_rows, read_table, read_weather, table_csv, weather_csv};
use std::io::{Cursor, Write};

const ROWS: [[&str; 5]; 4] = [
    ["Mark", "Type", "RO Width", "RO Height", "Sill"],
    ["A1", "window", "36", "48", "32"],
    ["A2", "window", "2'-6\"", "914 mm", "32"],
    ["A3", "pipe", "2", "", "12"],
];

fn packed(files: &[(&str, String)]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, text) in files {
        zip.start_file(*name, zip::write::SimpleFileOptions::default()).expect("an entry");
        zip.write_all(text.as_bytes()).expect("written");
    }
    zip.finish().expect("packed").into_inner()
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;")
}

/// A packed file in whose list of contents every check sum is wrong: each part unpacks and is found damaged at its end.
fn damaged_at_the_ends(mut packed: Vec<u8>) -> Vec<u8> {
    const LISTED: [u8; 4] = *b"PK\x01\x02";
    let listed: Vec<usize> = (0..packed.len() - 4).filter(|i| packed[*i..*i + 4] == LISTED).collect();
    listed.into_iter().for_each(|at| packed[at + 16] ^= 0xff);
    packed
}

/// A workbook with inline strings; what reads as a number is a number.
fn xlsx(rows: &[Vec<String>], more: &[(&str, String)]) -> Vec<u8> {
    let cell = |c: usize, r: usize, t: &String| {
        let at = format!("{}{}", (b'A' + c as u8) as char, r + 1);
        match (t.parse::<f64>(), t.strip_prefix('=')) {
            (Ok(n), _) => format!("<c r=\"{at}\"><v>{n}</v></c>"),
            (_, Some(f)) => format!("<c r=\"{at}\"><f>{f}</f></c>"),
            _ => format!("<c r=\"{at}\" t=\"inlineStr\"><is><t>{}</t></is></c>", escaped(t)),
        }
    };
    let row = |(r, cells): (usize, &Vec<String>)| {
        let cells: String =
            cells.iter().enumerate().filter(|(_, t)| !t.is_empty()).map(|(c, t)| cell(c, r, t)).collect();
        format!("<row r=\"{}\">{cells}</row>", r + 1)
    };
    let sheet: String = rows.iter().enumerate().map(row).collect();
    xlsx_of(&sheet, more)
}

/// A workbook whose one sheet has this between `<sheetData>` and its end.
fn xlsx_of(sheet: &str, more: &[(&str, String)]) -> Vec<u8> {
    let ns = "http://schemas.openxmlformats.org";
    let mut files = vec![
        ("[Content_Types].xml", format!("<Types xmlns=\"{ns}/package/2006/content-types\"/>")),
        (
            "_rels/.rels",
            format!(
                "<Relationships xmlns=\"{ns}/package/2006/relationships\"><Relationship Id=\"r1\" Type=\"{ns}/officeDocument/2006/relationships/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>"
            ),
        ),
        (
            "xl/workbook.xml",
            format!(
                "<workbook xmlns=\"{ns}/spreadsheetml/2006/main\" xmlns:r=\"{ns}/officeDocument/2006/relationships\"><sheets><sheet name=\"Windows\" sheetId=\"1\" r:id=\"r1\"/></sheets></workbook>"
            ),
        ),
        (
            "xl/_rels/workbook.xml.rels",
            format!(
                "<Relationships xmlns=\"{ns}/package/2006/relationships\"><Relationship Id=\"r1\" Type=\"{ns}/officeDocument/2006/relationships/worksheet\" Target=\"worksheets/sheet1.xml\"/></Relationships>"
            ),
        ),
        (
            "xl/worksheets/sheet1.xml",
            format!("<worksheet xmlns=\"{ns}/spreadsheetml/2006/main\"><sheetData>{sheet}</sheetData></worksheet>"),
        ),
    ];
    files.extend(more.iter().cloned());
    packed(&files)
}

fn ods(rows: &[Vec<String>]) -> Vec<u8> {
    let cell = |t: &String| match t.parse::<f64>() {
        Ok(n) => format!(
            "<table:table-cell office:value-type=\"float\" office:value=\"{n}\"><text:p>{n}</text:p></table:table-cell>"
        ),
        Err(_) if t.is_empty() => "<table:table-cell/>".to_owned(),
        Err(_) => {
            format!("<table:table-cell office:value-type=\"string\"><text:p>{}</text:p></table:table-cell>", escaped(t))
        }
    };
    let row = |cells: &Vec<String>| {
        format!("<table:table-row>{}</table:table-row>", cells.iter().map(cell).collect::<String>())
    };
    let table: String = rows.iter().map(row).collect();
    ods_of(&table)
}

/// A workbook whose one table has these rows.
fn ods_of(table: &str) -> Vec<u8> {
    let ns = "urn:oasis:names:tc:opendocument:xmlns";
    packed(&[
        ("mimetype", "application/vnd.oasis.opendocument.spreadsheet".into()),
        ("META-INF/manifest.xml", format!("<manifest:manifest xmlns:manifest=\"{ns}:manifest:1.0\"/>")),
        (
            "content.xml",
            format!(
                "<office:document-content xmlns:office=\"{ns}:office:1.0\" xmlns:table=\"{ns}:table:1.0\" xmlns:text=\"{ns}:text:1.0\"><office:body><office:spreadsheet><table:table table:name=\"Windows\">{table}</table:table></office:spreadsheet></office:body></office:document-content>"
            ),
        ),
    ])
}

fn rows(list: &[[&str; 5]]) -> Vec<Vec<String>> {
    list.iter().map(|r| r.iter().map(|c| (*c).to_owned()).collect()).collect()
}

fn csv(list: &[Vec<String>], between: &str) -> Vec<u8> {
    let quoted = |c: &String| format!("\"{}\"", c.replace('"', "\"\""));
    let line = |r: &Vec<String>| r.iter().map(quoted).collect::<Vec<_>>().join(between) + "\r\n";
    list.iter().map(line).collect::<String>().into_bytes()
}

fn long_wall() -> Job {
    let mut job = Job::new("schedules");
    job.wall.width = Length::inch(9000);
    job
}

#[test]
fn the_same_schedule_reads_from_csv_xlsx_and_ods() {
    let list = rows(&ROWS);
    let files = [csv(&list, ","), csv(&list, ";"), csv(&list, "\t"), xlsx(&list, &[]), ods(&list)];
    for file in files {
        let table = read_table(&file).expect("a table");
        assert_eq!(table, list);
        let read = read_schedule(&long_wall(), &table, &Mapping::new(), "in").expect("a schedule");
        let fields: Vec<_> = read.columns.iter().map(|c| c.field).collect();
        assert_eq!(fields, [Field::Mark, Field::Kind, Field::Width, Field::Height, Field::Sill].map(Some));
        assert!(read.rows.iter().all(|r| r.problems.is_empty()), "{:?}", read.rows);
        let a2 = &read.rows[1].openings[0];
        assert_eq!((a2.width.to_string(), a2.height), ("30\"".to_owned(), Length::parse("914 mm").expect("a length")));
        let a3 = &read.rows[2].openings[0];
        assert_eq!((a3.width, a3.height), (Length::inch(2), Length::inch(2)), "what is round has one size");
    }
}

/// The table that the schedule's screen hands out to start from.
#[test]
fn the_example_is_understood_as_it_is() {
    let table = read_table(include_bytes!("../../../../web/public/example-schedule.csv")).expect("a table");
    let read = read_schedule(&long_wall(), &table, &Mapping::new(), "in").expect("a schedule");
    assert!(read.columns.iter().all(|c| c.field.is_some()), "{:?}", read.columns);
    let many: Vec<_> = read.rows.iter().map(|r| (r.openings.len(), r.problems.len())).collect();
    assert_eq!(many, [(4, 0), (2, 0), (1, 0), (2, 0)], "{:?}", read.rows);
    let openings: Vec<_> = read.rows.iter().flat_map(|r| r.openings.clone()).collect();
    apply(&long_wall(), &Edit::AddOpenings { openings }).unwrap_or_else(|p| panic!("{p:?}"));
}

#[test]
fn a_schedule_of_120_openings_goes_on_the_wall_in_one_change() {
    let mut list = vec![["Tag", "Width (mm)", "Height (mm)", "Sill (mm)", "Type"].map(str::to_owned).to_vec()];
    for n in 0..120 {
        let (w, h) = (700 + 25 * (n % 9), 900 + 50 * (n % 5));
        list.push(vec![format!("K{n}"), w.to_string(), h.to_string(), "800".into(), "window".into()]);
    }
    let table = read_table(&xlsx(&list, &[])).expect("a table");
    let job = long_wall();
    let read = read_schedule(&job, &table, &Mapping::new(), "in").expect("a schedule");
    let openings: Vec<_> = read.rows.iter().flat_map(|r| r.openings.clone()).collect();
    assert_eq!(openings.len(), 120, "{:?}", read.rows.iter().find(|r| !r.problems.is_empty()));
    assert_eq!(openings[0].width, Length::parse("700 mm").expect("a length"));
    let (with, plan) = apply(&job, &Edit::AddOpenings { openings }).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!((with.openings.len(), plan.openings.len()), (121, 121));
}

#[test]
fn each_bad_row_is_named_and_the_good_ones_are_offered() {
    let mut list = rows(&ROWS);
    let bad = [
        ["A1", "window", "36", "48", "32"],
        ["A4", "chimney", "36", "48", "32"],
        ["A5", "window", "wide", "48", "32"],
        ["A6", "window", "", "48", "32"],
        ["A7", "window", "36", "", "32"],
        ["A8", "window", "=B2*2", "48", "32"],
        ["A9", "window", "36", "48", "400"],
        ["%%", "window", "36", "48", "32"],
        ["", "", "", "", ""],
        ["B1", "window", "3", "48", "32"],
        ["D9", "door", "36", "80", "0"],
    ];
    for bad in bad {
        list.push(bad.map(str::to_owned).to_vec());
    }
    let table = read_table(&xlsx(&list, &[])).expect("a table");
    let read = read_schedule(&long_wall(), &table, &Mapping::new(), "in").expect("a schedule");
    let said = |row: usize| read.rows.iter().find(|r| r.row == row).expect("the row").problems.join(" ");
    for (row, says) in [
        (5, "\"A1\" is there already"),
        (6, "no kind Kame knows; write one of: window, door, pipe"),
        (7, "\"wide\" is not a length"),
        (8, "no width"),
        (9, "no height"),
        (10, "\"=B2*2\" is not a length"),
        (11, "past the wall at its top: give it a sill of"),
        (12, "no letter or digit"),
        (14, "between 4\""),
    ] {
        assert!(said(row).contains(says), "row {row}: {}", said(row));
    }
    assert_eq!(read.rows.iter().filter(|r| r.problems.is_empty()).count(), 4, "the good ones, and a door at the floor");
    assert!(read.rows.iter().all(|r| r.problems.is_empty() != r.openings.is_empty()));
}

#[test]
fn a_row_that_cannot_be_taken_whole_is_in_nobody_s_way() {
    let list = rows(&[
        ["Mark", "Count", "Width", "Height", "Sill"],
        ["A1", "60", "36", "48", "32"],
        ["A2", "", "36", "48", "32"],
    ]);
    let mut job = long_wall();
    job.wall.width = Length::inch(600);
    let read = read_schedule(&job, &list, &Mapping::new(), "in").expect("a schedule");
    assert!(
        read.rows[0].openings.is_empty() && read.rows[0].problems[0].contains("no free place"),
        "{:?}",
        read.rows[0]
    );
    assert_eq!(read.rows[1].openings.len(), 1, "{:?}", read.rows[1]);
    assert_eq!(read.rows[0].problems.len(), 1, "told once, not sixty times: {:?}", read.rows[0].problems);
}

#[test]
fn columns_with_names_of_their_own_are_mapped() {
    let list = rows(&[["Ref", "Art", "Breite", "Höhe", "Brüstung"], ["A1", "window", "910", "1210", "800"]]);
    let job = long_wall();
    let lost = read_schedule(&job, &list, &Mapping::new(), "mm").expect_err("no width");
    assert!(lost[0].message.contains("Ref, Art, Breite"), "{lost:?}");
    let mapping = Mapping::from([
        (0, Some(Field::Mark)),
        (1, None),
        (2, Some(Field::Width)),
        (3, Some(Field::Height)),
        (4, Some(Field::Sill)),
    ]);
    let read = read_schedule(&job, &list, &mapping, "mm").expect("a schedule");
    assert_eq!(read.rows[0].openings[0].width, Length::parse("910 mm").expect("a length"), "{:?}", read.rows);
}

#[test]
fn what_is_no_table_is_refused_in_a_sentence() {
    let says = |bytes: &[u8]| read_table(bytes).expect_err("refused");
    assert!(says(b"").contains("empty"));
    assert!(says(&[0xD0, 0xCF, 0x11, 0xE0, 0, 0]).contains("old .xls"));
    assert!(says(b"%PDF-1.7").contains("PDF"));
    assert!(says(&[0xFF, 0xFE, b'a', 0]).contains("UTF-16"));
    assert!(says(b"Mark,Width\nA1,\xff\xfe").contains("not UTF-8 in line 2"));
    assert!(says(b"a\0b").contains("no table"));
    assert!(says(&packed(&[("hello.txt", "hello".into())])).contains("packed file"));
    assert!(says(b"PK\x03\x04broken").contains("packed file"));
    let macros = xlsx(&rows(&ROWS), &[("xl/vbaProject.bin", "macro".into())]);
    assert!(says(&macros).contains("carries macros"));
    let many = "Mark,Width\n".to_owned() + &"A,1\n".repeat(50_000);
    assert!(says(many.as_bytes()).contains("found more than 20000 rows"));
    let more: Vec<Vec<String>> = (0..3000).map(|_| vec!["Width".to_owned()]).collect();
    assert!(
        read_schedule(&Job::new("x"), &more, &Mapping::new(), "in").expect_err("many")[0].message.contains("2999 rows")
    );
    assert!(read_schedule(&Job::new("x"), &[], &Mapping::new(), "in").is_err());
}

/// A few kilobytes that say that they are gigabytes.
#[test]
fn a_small_file_that_would_take_all_memory_is_refused_before_it_is_laid_out() {
    let says = |bytes: &[u8]| {
        assert!(bytes.len() < 200_000, "{} bytes are not small", bytes.len());
        read_table(bytes).expect_err("refused")
    };
    let at = |cells: &[&str]| {
        let cells: String = cells.iter().map(|c| format!("<row><c r=\"{c}\"><v>1</v></c></row>")).collect();
        xlsx_of(&cells, &[])
    };
    assert!(says(&at(&["A1", "XFD1048576"])).contains("found more than 20000 rows"));
    assert!(says(&at(&["XFD1048576"])).contains("found more than 20000 rows"));
    assert!(says(&at(&["A1", "XFD2"])).contains("found more than 500 columns"));
    // Numbers too large for any sheet are refused or no table, as the workbook's reader takes them.
    let huge = read_table(&at(&["A1", "ZZZZZZZ99999999"]));
    assert!(huge.is_err(), "{huge:?}");
    let huge = read_table(&at(&["A99999999999999999999"]));
    assert!(huge.is_err(), "{huge:?}");
    let columns = xlsx_of(&"<row><c r=\"SA1\"><v>1</v></c></row>".repeat(2), &[]);
    assert_eq!(read_table(&columns).expect("495 columns").len(), 1);
    let text = format!("<sst><si><t>{}</t></si></sst>", "x".repeat(100 << 20));
    let strings = xlsx_of("<row><c r=\"A1\" t=\"s\"><v>0</v></c></row>", &[("xl/sharedStrings.xml", text)]);
    assert!(says(&strings).contains("unpacks to more than 24 MB"));
    // Parts of which each is less, and none unpacks whole.
    let third = || " ".repeat(10 << 20);
    let thirds = xlsx_of("", &[("a.xml", third()), ("b.xml", third()), ("c.xml", third())]);
    assert!(says(&damaged_at_the_ends(thirds)).contains("unpacks to more than 24 MB"));
    let shared = "<row><c r=\"A1\"><f t=\"shared\" si=\"18446744073709551615\" ref=\"A1:XFD1048576\">A1</f></c></row>";
    assert_eq!(read_table(&xlsx_of(shared, &[])).expect("read"), [["=A1"]]);
    let cell = |more: &str| format!("<table:table-cell {more} office:value-type=\"float\" office:value=\"1\"/>");
    let row = |more: &str, cells: &str| format!("<table:table-row {more}>{cells}</table:table-row>");
    let rows = ods_of(&row("table:number-rows-repeated=\"1048576\"", &cell("")));
    assert!(says(&rows).contains("found more than 20000 rows"));
    let wide = ods_of(&row("", &cell("table:number-columns-repeated=\"99999999999999999999999\"")));
    assert!(says(&wide).contains("found more than 500 columns"));
    let many = row("", &cell("table:number-columns-repeated=\"500\"")).repeat(3000);
    assert!(says(&ods_of(&many)).contains("found more than 1000000 cells"));
    let far = row("table:number-rows-repeated=\"1000000\"", "<table:table-cell/>") + &row("", &cell(""));
    assert!(says(&ods_of(&far)).contains("found more than 20000 rows"));
    let text = format!("office:value-type=\"string\" office:string-value=\"{}\"", "x".repeat(60_000));
    let long = format!("<table:table-cell table:number-columns-repeated=\"500\" {text}/>");
    assert!(says(&ods_of(&row("", &long))).contains("16 MB of text"));
    // What office programs write below and beside a table is no size of it.
    let beside = cell("") + "<table:table-cell table:number-columns-repeated=\"16383\"/>";
    let below =
        row("table:number-rows-repeated=\"1048575\"", "<table:table-cell table:number-columns-repeated=\"16384\"/>");
    assert_eq!(read_table(&ods_of(&(row("", &beside) + &below))).expect("read"), [["1"]]);
}

proptest::proptest! {
    #![proptest_config(proptest::prelude::ProptestConfig::with_cases(256))]

    /// Any bytes in a workbook's place are read or refused, never the end of the program.
    #[test]
    fn damaged_workbooks_are_read_or_refused(
        which in proptest::bool::ANY,
        damage in proptest::collection::vec((0..4000_usize, proptest::num::u8::ANY), 1..40),
    ) {
        let rows = rows(&ROWS);
        let mut bytes = if which { xlsx(&rows, &[]) } else { ods(&rows) };
        for (at, byte) in damage {
            let at = at % bytes.len();
            bytes[at] = byte;
        }
        let _ = read_table(&bytes);
    }
}

/// An EPW file of a whole year: each hour its own temperature, °C, so that it is known again.
fn epw(change: impl Fn(u32, u32, u32) -> Option<String>) -> String {
    let mut out = String::from("LOCATION,Heron Spit,-,-,made up,0,45.5,-123.9,-8.0,4.0\n");
    out += &"HEADER\n".repeat(7);
    for (month, days) in [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31].into_iter().enumerate() {
        for day in 1..=days {
            for hour in 1..=24 {
                let air = change(month as u32 + 1, day, hour).unwrap_or_else(|| format!("{}.{hour}", month + 1));
                out += &format!(
                    "1999,{},{day},{hour},60,?,{air},4.0,80,101300,0,0,300,200,150,80,0,0,0,0,270,5.0,5,5,20,7,9,9,100,0.1,0,88,0.2,25.4,1\n",
                    month + 1
                );
            }
        }
    }
    out
}

#[test]
fn the_weather_of_a_year_is_read_by_month_day_and_hour_whatever_year_it_was() {
    let year = read_weather(&epw(|_, _, _| None), "2028-02-27").expect("a year");
    assert_eq!((year.len(), year[0].minute, year[8783].minute), (366 * 24, 0, 8783 * 60));
    let air = |n: usize| year[n].air_f;
    assert!((air(0) - (2.1 * 1.8 + 32.0)).abs() < 1e-9 && (air(9) - (2.10 * 1.8 + 32.0)).abs() < 1e-9);
    // The 29th, which the file has not, is the 28th again; then comes March.
    assert!((air(2 * 24) - air(24)).abs() < 1e-9 && (air(3 * 24) - (3.1 * 1.8 + 32.0)).abs() < 1e-9);
    assert!((year[0].rain_in - 1.0).abs() < 1e-9 && (year[0].wind_mph - 5.0 / 0.44704).abs() < 1e-9);
    // A missing value is the hour before's.
    let holed =
        read_weather(&epw(|m, d, h| ((m, d, h) == (3, 2, 5)).then(|| "99.9".into())), "2026-03-02").expect("a year");
    assert!((holed[4].air_f - holed[3].air_f).abs() < 1e-9);
    for (text, why) in [
        (epw(|_, _, _| None).lines().take(500).collect::<Vec<_>>().join("\n"), "an hour is missing"),
        (epw(|_, _, _| None).lines().take(8).collect::<Vec<_>>().join("\n"), "no hours"),
        (epw(|m, d, h| ((m, d, h) == (1, 1, 1)).then(|| "75".into())), "a value that cannot be"),
        ("LOCATION,x\n1\n2\n3\n4\n5\n6\n7\n1999,1,1".into(), "line 9: found 3 fields"),
        ("time,air_f\n2026-03-02T07:00,40".into(), "found no column \"dew_f\""),
        ("time,air_f,dew_f,rain_in,wind_mph,direct_wm2,diffuse_wm2\nyesterday,1,1,0,0,0,0".into(), "line 2: found \"yesterday\""),
        ("time,air_f,dew_f,rain_in,wind_mph,direct_wm2,diffuse_wm2\n2026-03-02T07:00,warm,1,0,0,0,0".into(), "air_f is \"warm\""),
        ("time,air_f,dew_f,rain_in,wind_mph,direct_wm2,diffuse_wm2\n2020-03-02T07:00,40,1,0,0,0,0".into(), "says nothing of 2026-03-02"),
        ("time,air_f,dew_f,rain_in,wind_mph,direct_wm2,diffuse_wm2\n2026-03-02T07:00,40,1,0,0,0,0\n2026-03-02T09:00,40,1,0,0,0,0".into(), "an hour is missing"),
    ] {
        let says = read_weather(&text, "2026-03-02").expect_err("refused");
        assert!(says.contains(why), "{says}");
    }
}

#[test]
fn weather_written_as_a_table_is_read_again() {
    let hours: Vec<Hour> = (0..48)
        .map(|n| Hour {
            minute: n * 60,
            air_f: 40.0 + f64::from(n) / 2.0,
            dew_f: 30.0,
            rain_in: 0.125,
            wind_mph: 12.5,
            direct_wm2: 100.0,
            diffuse_wm2: 50.0,
        })
        .collect();
    assert_eq!(read_weather(&weather_csv(&hours, "2027-12-31"), "2027-12-31").expect("reads"), hours);
}

fn booking() -> Booking {
    let text = include_str!("../../../../demo/heron-spit-four-openings.kame.json");
    let job = read_job(text.as_bytes()).expect("the demo");
    let plan = build(&job).expect("a plan");
    let site = job.site.expect("crews");
    book(
        &CalendarQuestion { plan: &plan, site: &site, hours: &[], states: &[] },
        &KnownNights::default(),
        &Stop::default(),
    )
    .expect("laid")
}

#[test]
fn a_crew_s_days_are_events_that_keep_their_names_when_they_move() {
    let b = booking();
    let of = |revision: i64| CalendarOf {
        job: 3,
        name: "Bunkhouse, west; wall",
        revision,
        utc_hours: -8.0,
        today: "2026-11-29",
    };
    let text = calendar_ics(&of(4), &b, 1);
    let lines = |start: &str| text.lines().filter(|l| l.starts_with(start)).map(str::to_owned).collect::<Vec<_>>();
    assert!(text.starts_with("BEGIN:VCALENDAR") && text.trim_end().ends_with("END:VCALENDAR") && text.contains("\r\n"));
    assert!(text.lines().all(|l| l.len() <= 75), "folded");
    assert!(text.contains("Bunkhouse\\, west\\; wall"), "escaped");
    let uids = lines("UID:");
    let names: std::collections::HashSet<&String> = uids.iter().collect();
    assert!(!uids.is_empty() && names.len() == uids.len(), "{uids:?}");
    // The window crew begins on Monday at 8, which is 16 in UTC; the door comes on the 24th.
    assert_eq!(lines("DTSTART:")[0], "DTSTART:20260316T160000Z");
    assert!(lines("DTSTART:").iter().any(|l| l.starts_with("DTSTART:20260324T160000Z")), "{:?}", lines("DTSTART:"));
    assert!(lines("SEQUENCE:").iter().all(|l| l == "SEQUENCE:4"));
    // Laid again a day later the same events have other times.
    let mut later = b.clone();
    later.tasks.iter_mut().for_each(|t| (t.from, t.to) = (t.from + 1440, t.to + 1440));
    let again = calendar_ics(&of(5), &later, 1);
    assert_eq!(again.lines().filter(|l| l.starts_with("UID:")).collect::<Vec<_>>(), uids);
    assert!(again.contains("DTSTART:20260317T160000Z"));
    let table = table_csv(&calendar_rows(&b)).expect("a table");
    let covers = b.nights.iter().filter(|e| e.covers.is_some()).count();
    assert_eq!(table.lines().count(), b.tasks.len() + covers + 1);
    // They begin at seven: in March it is light by then.
    assert!(table.lines().nth(1).is_some_and(|l| l.starts_with("2026-03-16,07:00,")), "{table}");
}
