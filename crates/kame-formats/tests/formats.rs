//! What leaves Kame reads back as what went in.

use kame_core::job::Job;
use kame_core::plan::build;
use kame_core::takeoff::cut_list;
use kame_core::view::{Ask, view};
use kame_formats::{cut_list_csv, elevation_svg};

#[test]
fn the_cut_list_reads_back_with_every_piece_and_its_exact_size() {
    let job = Job::new("csv");
    let plan = build(&job).expect("a plan");
    let groups = cut_list(&plan, &[]);
    let text = cut_list_csv(&groups).expect("csv");
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    let column = |name: &str, h: &csv::StringRecord| h.iter().position(|c| c == name).expect("a column");
    let headers = reader.headers().expect("headers").clone();
    let (length, inches) = (column("length", &headers), column("length (in)", &headers));
    let rows: Vec<csv::StringRecord> = reader.records().map(|r| r.expect("a row")).collect();
    assert_eq!(rows.len(), groups.iter().map(|g| g.pieces.len()).sum::<usize>());
    for row in &rows {
        let read = kame_core::length::Length::parse(&row[length]).expect("a length");
        assert_eq!(read.to_inches_f64(), row[inches].parse::<f64>().expect("a number"));
    }
    assert!(rows.iter().any(|r| r.iter().any(|f| f == "sill pan")));
}

#[test]
fn names_cannot_become_formulas_or_markup() {
    let mut job = Job::new("<script>alert(1)</script>");
    job.openings[0].id = "W1".into();
    let plan = build(&job).expect("a plan");
    let mut groups = cut_list(&plan, &[]);
    groups[0].pieces[0].name = "=1+1".into();
    assert!(cut_list_csv(&groups).expect("csv").contains(",'=1+1,"));
    let svg = elevation_svg(&view(&job, &Ask::default()).expect("a view").elevation, &job.name);
    assert!(!svg.contains("<script"), "escaped");
}

#[test]
fn the_drawing_has_every_visible_piece_in_lap_order() {
    let job = Job::new("svg");
    let e = view(&job, &Ask::default()).expect("a view").elevation;
    let svg = elevation_svg(&e, "drawing");
    let places: Vec<usize> = e
        .shapes
        .iter()
        .map(|s| svg.find(&format!("<title>{}</title>", s.name)).unwrap_or_else(|| panic!("{} is not drawn", s.name)))
        .collect();
    assert!(svg.starts_with("<svg") && svg.trim_end().ends_with("</svg>"));
    let pan = e.shapes.iter().position(|s| s.name == "sill pan").expect("pan");
    let patch = e.shapes.iter().position(|s| s.name == "left slit patch").expect("patch");
    assert!(places[pan] < places[patch]);
}
