//! What leaves Kame reads back as what went in.

use kame_core::calendar::{CalendarQuestion, book, days, site_of};
use kame_core::job::{CornerKind, CornerSpec, Job, TopPoint};
use kame_core::length::Length;
use kame_core::nights::KnownNights;
use kame_core::plan::build;
use kame_core::purchase::{Ordering, order};
use kame_core::record::{StepNow, StepState, states};
use kame_core::stop::Stop;
use kame_core::takeoff::{cut_list, sums, uses};
use kame_core::view::{Ask, SectionAsk, SectionKind, step_pictures, view};
use kame_formats::{
    CalendarOf, Drawing, Figure, Layer, ORDER_COLUMNS, calendar_rows, cut_list_csv, dxf, labels_pdf, load_rows,
    order_csv, order_xlsx, pdf, read_table, sum_rows, svg, table_csv, table_xlsx, weeks_pdf,
};

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
    let svg = svg(&Drawing::elevation(&view(&job, &Ask::default()).expect("a view").elevation, &job.name));
    assert!(!svg.contains("<script"), "escaped");
}

#[test]
fn the_drawing_has_every_visible_piece_in_lap_order() {
    let job = Job::new("svg");
    let e = view(&job, &Ask::default()).expect("a view").elevation;
    let svg = svg(&Drawing::elevation(&e, "drawing"));
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

fn drawn(job: &Job) -> Drawing {
    Drawing::elevation(&view(job, &Ask::default()).expect("a view").elevation, &job.name)
}

#[test]
fn dimensions_say_the_walls_the_courses_and_the_openings() {
    let mut job = Job::new("sizes");
    job.wall.width = Length::inch(240);
    let corner = CornerSpec {
        at: Length::inch(150),
        kind: CornerKind::Outside,
        name: "Yard".into(),
        schools: Default::default(),
        products: Default::default(),
    };
    job.wall.corners.push(corner);
    let d = drawn(&job);
    let said: Vec<&str> = d.texts.iter().filter(|t| t.layer == Layer::Dimensions).map(|t| t.text.as_str()).collect();
    for size in [150, 90, 240, 36, 48] {
        let text = Length::inch(size).to_string();
        assert!(said.contains(&text.as_str()), "{text} is not among {said:?}");
    }
    assert!(d.texts.iter().any(|t| t.text == "Yard"));
}

#[test]
fn a_drawing_reads_back_from_dxf_at_full_size_with_its_layers_letters_and_sizes() {
    let job = Job::new("dxf");
    let d = drawn(&job);
    let bytes = dxf(&d).expect("written");
    let read = ::dxf::Drawing::load(&mut std::io::Cursor::new(bytes)).expect("reads back");
    let of = |layer: Layer| read.entities().filter(|e| e.common.layer == layer.name()).count();
    assert!(Layer::ALL.iter().all(|l| of(*l) > 0), "{:?}", Layer::ALL.map(of));
    let mut width = (f64::INFINITY, f64::NEG_INFINITY);
    let mut texts = Vec::new();
    for e in read.entities() {
        match &e.specific {
            ::dxf::entities::EntityType::LwPolyline(p) if e.common.layer == Layer::Wall.name() => {
                width = p.vertices.iter().fold(width, |(lo, hi), v| (lo.min(v.x), hi.max(v.x)));
            }
            ::dxf::entities::EntityType::Text(t) => texts.push(t.value.clone()),
            _ => {}
        }
    }
    assert!((width.1 - width.0 - job.wall.width.to_inches_f64()).abs() < 1e-6, "{width:?}");
    let mut expected: Vec<String> = d.texts.iter().map(|t| t.text.clone()).collect();
    texts.sort();
    expected.sort();
    assert_eq!(texts, expected);
}

#[test]
fn a_pdf_has_one_page_of_its_size_and_every_letter() {
    let d = drawn(&Job::new("pdf"));
    let bytes = pdf(&d);
    let text = String::from_utf8_lossy(&bytes);
    assert!(
        text.starts_with("%PDF-1.") && text.contains("/MediaBox [0 0 1224 792]") && text.trim_end().ends_with("%%EOF")
    );
    let shown = text.matches(" Tj").count();
    assert_eq!(shown, d.texts.len() + 1, "each text and the title");
    for t in d.texts.iter().filter(|t| t.text.chars().all(|c| c.is_ascii_alphanumeric())) {
        assert!(text.contains(&format!("({}) Tj", t.text)), "{}", t.text);
    }
}

#[test]
fn a_section_names_its_sheets_and_measures_the_wall() {
    let job = Job::new("section");
    for (kind, name) in [(SectionKind::Jamb, "jamb"), (SectionKind::Head, "head"), (SectionKind::Base, "base")] {
        let section = Some(SectionAsk { opening: 0, kind, at: 0.5 });
        let section = view(&job, &Ask { section, ..Ask::default() }).expect("a view").section.expect("a section");
        let built = section.built.as_ref().expect("as it is built");
        let d = Drawing::section(&section, &job.name);
        let written = |text: &str| d.texts.iter().any(|t| t.text == text);
        for m in &built.marks {
            assert!(written(&format!("{}  {}", m.text, m.name)) && written(&m.text), "{name}: {}", m.name);
        }
        for z in &built.sizes {
            assert!(written(&format!("{}  {}", z.text, z.what)) && written(&z.text), "{name}: {}", z.what);
        }
        assert!(written("6\"") && written(&built.thickened), "{name}: a bar of six inches");
        let points = d.figures.iter().flat_map(|f| match f {
            Figure::Area(a) => a.points.clone(),
            Figure::Line(l) => vec![[l.at[0], l.at[1]], [l.at[2], l.at[3]]],
        });
        let [x, y, w, h] = d.frame;
        for p in points.filter(|p| p[0] < x || p[0] > x + w || p[1] < y || p[1] > y + h) {
            // Glass and studs go on beyond the picture, no farther than a board.
            assert!(p[0] > x - 10.0 && p[0] < x + w + 10.0, "{name}: {p:?} outside of {:?}", d.frame);
        }
        assert!(dxf(&d).is_ok() && pdf(&d).len() > 500 && svg(&d).contains(name));
    }
    // Without it the stack is drawn as the water sees it.
    let section = Some(SectionAsk { opening: 0, kind: SectionKind::Jamb, at: 0.5 });
    let mut section = view(&job, &Ask { section, ..Ask::default() }).expect("a view").section.expect("a section");
    section.built = None;
    let d = Drawing::section(&section, &job.name);
    for b in &section.bands {
        assert!(d.texts.iter().any(|t| t.text == format!("{}  {}", b.letter, b.name)), "{}", b.name);
    }
    assert!(d.texts.iter().filter(|t| t.layer == Layer::Dimensions).count() == 2);
}

#[test]
fn a_gable_is_cut_out_of_every_drawing() {
    let mut job = Job::new("gable");
    let point = |at: i64, height: i64| TopPoint { at: Length::inch(at), height: Length::inch(height) };
    job.wall.height = Length::inch(180);
    job.wall.top = vec![point(0, 110), point(72, 180), point(144, 110)];
    let d = drawn(&job);
    assert_eq!(d.clip.len(), 5);
    assert!(svg(&d).contains("clip-path") && String::from_utf8_lossy(&pdf(&d)).contains("W\nn"));
}

#[test]
fn the_order_reads_back_from_csv_and_from_a_workbook() {
    let mut job = Job::new("order");
    job.wall.schools.insert("gap".into(), "battens".into());
    let made = order(&build(&job).expect("a plan"), &job.kit, &Ordering::default());
    let text = order_csv(&made).expect("csv");
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    assert_eq!(reader.headers().expect("headers"), ORDER_COLUMNS.as_slice());
    let rows: Vec<csv::StringRecord> = reader.records().map(|r| r.expect("a row")).collect();
    assert_eq!(rows.len(), made.lines.iter().map(|l| l.sizes.len().max(1)).sum::<usize>());
    let batten = rows.iter().find(|r| &r[1] == "Batten").expect("battens");
    let line = made.lines.iter().find(|l| l.product == "Batten").expect("battens");
    assert_eq!(batten[6].parse::<u64>(), Ok(line.sizes[0].buy));
    // The workbook opens with the reader that schedules are read with, and its first sheet is the first supplier's.
    let book = order_xlsx(&made).expect("a workbook");
    let table = read_table(&book).expect("a table");
    assert_eq!(table[0][0], "product");
    let first = &made.lines[0];
    assert!(table.iter().any(|r| r[0] == first.product), "{table:?}");
}

#[test]
fn names_of_products_cannot_become_formulas_in_the_order() {
    let job = Job::new("order");
    let mut made = order(&build(&job).expect("a plan"), &job.kit, &Ordering::default());
    made.lines[0].called = "=HYPERLINK(1)".into();
    assert!(order_csv(&made).expect("csv").contains(",'=HYPERLINK(1),"));
    order_xlsx(&made).expect("text stays text");
}

#[test]
fn there_is_a_label_for_every_piece_still_to_be_cut_with_the_opening_s_letter() {
    let plan = build(&Job::new("labels")).expect("a plan");
    let labels = |ticks: &[String]| {
        let list = cut_list(&plan, ticks);
        let left = list.iter().flat_map(|g| &g.pieces).filter(|p| !p.cut).count();
        (left, String::from_utf8_lossy(&labels_pdf("labels", &list)).into_owned())
    };
    let drawn = |text: &str| text.matches(" re\n").count();
    let (all, text) = labels(&[]);
    assert_eq!(drawn(&text), all);
    let pan = plan.pieces.iter().find(|p| p.id == "W1/pan").expect("a pan");
    assert!(text.contains(&format!("({}  W1)", pan.letter)) && text.contains("(sill pan)"));
    let (left, text) = labels(&["W1/pan".into()]);
    assert_eq!((left, drawn(&text)), (all - 1, all - 1));
    assert!(!text.contains("(sill pan)"), "what is cut needs no label");
    assert!(labels_pdf("none", &[]).starts_with(b"%PDF"), "a job without pieces has an empty sheet");
}

#[test]
fn loads_and_sums_read_back_from_csv_and_from_a_workbook() {
    let job = Job::new("loads");
    let plan = build(&job).expect("a plan");
    let site = site_of(&job, &plan, "2026-03-02");
    let asked = CalendarQuestion { plan: &plan, site: &site, hours: &[], states: &[] };
    let booking = book(&asked, &KnownNights::default(), &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"));
    let laid = days(&asked, &booking, &order(&plan, &job.kit, &Ordering::default()), "2026-03-02");
    let by_day = sums(&uses(&plan), kame_core::takeoff::By::Day, &laid.begins);
    let lists = [load_rows(&laid), sum_rows("day", &by_day), calendar_rows(&booking)];
    let of = CalendarOf { job: 7, name: "loads", revision: 1, utc_hours: -8.0, today: "2026-03-01" };
    let paper = String::from_utf8_lossy(&weeks_pdf(&of, &booking, &laid, 0)).into_owned();
    for day in &laid.days {
        assert!(paper.contains(&format!("({})", day.said)), "{}", day.said);
    }
    assert!(paper.contains("(Load)") && paper.contains("(walls)") && paper.contains("Week of Mon 2 Mar"));
    let rest = CalendarQuestion {
        states: &states(&plan, &[]).into_iter().map(|s| StepState { now: StepNow::Done, ..s }).collect::<Vec<_>>(),
        ..asked
    };
    let none = book(&rest, &KnownNights::default(), &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(String::from_utf8_lossy(&weeks_pdf(&of, &none, &laid, 0)).contains("Nothing is left to do"));
    for rows in lists {
        assert!(rows.len() > 3, "{rows:?}");
        let text = table_csv(&rows).expect("csv");
        let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(text.as_bytes());
        let read: Vec<Vec<String>> =
            reader.records().map(|r| r.expect("a row").iter().map(str::to_owned).collect()).collect();
        assert_eq!(read, rows);
        assert_eq!(read_table(&table_xlsx("rows", &rows).expect("a workbook")).expect("a table"), rows);
    }
    let odd = vec![vec!["what".to_owned()], vec!["=1+1".to_owned()]];
    assert!(table_csv(&odd).expect("csv").contains("'=1+1"));
    assert_eq!(read_table(&table_xlsx("odd", &odd).expect("a workbook")).expect("a table"), odd, "text stays text");
}

#[test]
fn suppliers_of_any_name_have_a_sheet_of_their_own() {
    let job = Job::new("suppliers");
    let mut made = order(&build(&job).expect("a plan"), &job.kit, &Ordering::default());
    let odd =
        ["Yard", "yard", "", "what for", "a/b: [c]?*", "A supplier whose name is longer than any sheet of a workbook"];
    for (l, name) in made.lines.iter_mut().zip(odd) {
        l.supplier = name.into();
    }
    assert!(made.lines.len() > odd.len());
    assert!(order_xlsx(&made).expect("a workbook").starts_with(b"PK"));
}

#[test]
fn screens_and_files_fill_what_is_drawn_with_the_same_colours() {
    let css = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/src/style.css")).expect("style");
    let all = kame_core::view::Hatches::shipped().expect("hatches");
    for (name, colour) in &all.fills {
        assert!(css.contains(&format!("--f-{name}: {colour};")), "{name}");
    }
    assert!(css.contains(&format!("--hatch: {};", all.stroke)));
}

/// Every point of a drawing.
fn points(d: &Drawing) -> impl Iterator<Item = [f64; 2]> {
    d.figures.iter().flat_map(|f| match f {
        Figure::Area(a) => a.points.clone(),
        Figure::Line(l) => vec![[l.at[0], l.at[1]], [l.at[2], l.at[3]]],
    })
}

#[track_caller]
fn all_within(d: &Drawing, what: &str) {
    let [x, y, w, h] = d.frame;
    let texts = d.texts.iter().map(|t| t.at);
    for p in points(d).chain(texts) {
        let inside = p[0] >= x - 1e-6 && p[0] <= x + w + 1e-6 && p[1] >= y - 1e-6 && p[1] <= y + h + 1e-6;
        assert!(inside, "{what}: {p:?} outside of {:?}", d.frame);
    }
    assert!(dxf(d).is_ok() && pdf(d).len() > 500 && svg(d).len() > 500, "{what}");
}

/// A house of four walls with a window in the first and one in the third.
fn house() -> Job {
    let mut job = Job::new("house");
    job.wall.width = Length::inch(800);
    let corner = |n: i64| CornerSpec {
        at: Length::inch(200 * n),
        kind: CornerKind::Outside,
        name: format!("Side {n}"),
        schools: std::collections::BTreeMap::new(),
        products: std::collections::BTreeMap::new(),
    };
    job.wall.corners = [1, 2, 3].map(corner).to_vec();
    job.openings[0].left = Length::inch(80);
    let mut second = job.openings[0].clone();
    (second.id, second.left) = ("W2".into(), Length::inch(480));
    job.openings.push(second);
    job
}

#[test]
fn a_building_is_drawn_wall_by_wall_and_folded_up_with_what_is_said_of_each_place() {
    let job = house();
    let shown = |done: Option<usize>| view(&job, &Ask { done, ..Ask::default() }).expect("a view");
    let (finished, begun) = (shown(None), shown(Some(3)));
    let said = |d: &Drawing, text: &str| d.texts.iter().filter(|t| t.text == text).count();
    let names = |d: &Drawing, of: &str| {
        let named = d.figures.iter().filter_map(|f| if let Figure::Area(a) = f { Some(a) } else { None });
        named.filter(|a| a.layer == Layer::Openings && a.name.starts_with(of)).count()
    };
    for (what, d) in [("rows", Drawing::building(&finished, "house")), ("begun", Drawing::building(&begun, "house"))] {
        all_within(&d, what);
        assert_eq!((names(&d, "W1: "), names(&d, "W2: ")), (1, 1), "{what}");
        for n in 1..4 {
            assert!(d.texts.iter().any(|t| t.text.starts_with(&format!("Side {n}: "))), "{what} {n}");
        }
    }
    // Before it is finished nothing is called dry.
    let begun = Drawing::building(&begun, "house");
    assert_eq!((said(&begun, "-"), said(&begun, "D"), said(&begun, "- Not finished")), (2, 0, 1));
    assert!(begun.texts.iter().all(|t| !t.text.contains("Dry")));
    let finished_rows = Drawing::building(&finished, "house");
    assert!(finished_rows.texts.iter().any(|t| t.text.contains("Dry")), "{:?}", finished_rows.texts);
    // Folded up, two of four walls are seen from outside: one of the two windows.
    let folded = Drawing::folded(&finished, "house");
    all_within(&folded, "folded");
    assert_eq!(names(&folded, "W1: ") + names(&folded, "W2: "), 1);
}

#[test]
fn a_stack_drawn_apart_and_the_steps_in_pictures_name_each_piece_and_step() {
    let job = house();
    let x = view(&job, &Ask { exploded: Some(0), ..Ask::default() }).expect("a view").exploded.expect("drawn apart");
    let d = Drawing::apart(&x, "house");
    all_within(&d, "apart");
    for p in &x.pieces {
        assert!(d.texts.iter().any(|t| t.text == format!("{}  {}", p.letter, p.name)), "{}", p.name);
    }
    let plan = build(&job).expect("a plan");
    let pictures = step_pictures(&plan, Some("W1"), None);
    let title_of = |id: &str| plan.steps.iter().find(|s| s.id == id).map_or(String::new(), |s| s.title.clone());
    let d = Drawing::steps(&pictures, title_of, "steps");
    all_within(&d, "steps");
    assert!(pictures.len() > 5);
    for (n, p) in pictures.iter().enumerate() {
        let begins = format!("{}  {}", n + 1, title_of(&p.step).chars().take(20).collect::<String>());
        assert!(d.texts.iter().any(|t| t.text.starts_with(&begins)), "{begins}");
    }
    // Sizes of how far past the opening a piece goes stand in its picture.
    let sized = pictures.iter().flat_map(|p| &p.sizes).next().expect("a size");
    assert!(d.texts.iter().any(|t| t.layer == Layer::Dimensions && t.text == sized.text));
}
