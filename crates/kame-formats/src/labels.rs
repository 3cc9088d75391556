//! Labels for cut pieces: the letter large, so that it reads from a ladder, with opening, size and roll below it.

use crate::pdf::encoded;
use kame_core::takeoff::CutGroup;
use pdf_writer::{Content, Finish, Name, Pdf, Rect, Ref, Str, TextStr};

/// Points to an inch of paper.
const POINTS: f32 = 72.0;
/// Letter paper, in, and its border.
const PAPER: [f32; 2] = [8.5, 11.0];
const BORDER: f32 = 0.5;
/// Labels beside and below each other.
const ACROSS: usize = 3;
const DOWN: usize = 8;
/// Most characters of a line in the small type.
const LONGEST: usize = 38;

struct Label {
    head: String,
    lines: [String; 3],
}

fn shortened(text: &str) -> String {
    if text.chars().count() <= LONGEST {
        return text.to_owned();
    }
    text.chars().take(LONGEST - 1).collect::<String>() + "."
}

/// One label for each piece that is still to be cut, in cutting order, on sheets of letter paper with 24 to a sheet; cut along the lines.
pub fn labels_pdf(title: &str, groups: &[CutGroup]) -> Vec<u8> {
    let label = |g: &CutGroup, p: &kame_core::takeoff::CutPiece| {
        let roll = if p.roll > 0 { format!("  {} {}", g.unit, p.roll) } else { String::new() };
        Label {
            head: if p.opening.is_empty() { p.letter.clone() } else { format!("{}  {}", p.letter, p.opening) },
            lines: [
                shortened(&p.name),
                format!("{} × {}{roll}", p.length_text, p.width_text),
                shortened(&format!("{}, {}", g.product, g.stock_width)),
            ],
        }
    };
    let todo = |g: &&CutGroup| g.pieces.iter().any(|p| !p.cut);
    let labels: Vec<Label> =
        groups.iter().filter(todo).flat_map(|g| g.pieces.iter().filter(|p| !p.cut).map(move |p| label(g, p))).collect();
    let mut sheets: Vec<&[Label]> = labels.chunks(ACROSS * DOWN).collect();
    if sheets.is_empty() {
        sheets.push(&[]);
    }
    let [catalog, pages, face, bold, info] = [1, 2, 3, 4, 5].map(Ref::new);
    let of_sheet = |n: usize| [Ref::new(6 + 2 * n as i32), Ref::new(7 + 2 * n as i32)];
    let (plain, heavy) = (Name(b"F1"), Name(b"F2"));
    let mut pdf = Pdf::new();
    pdf.catalog(catalog).pages(pages);
    pdf.pages(pages).kids((0..sheets.len()).map(|n| of_sheet(n)[0])).count(sheets.len() as i32);
    let size = [(PAPER[0] - 2.0 * BORDER) / ACROSS as f32 * POINTS, (PAPER[1] - 2.0 * BORDER) / DOWN as f32 * POINTS];
    for (n, sheet) in sheets.iter().enumerate() {
        let [page, content] = of_sheet(n);
        let mut c = Content::new();
        c.set_stroke_gray(0.6).set_line_width(0.4);
        for (i, l) in sheet.iter().enumerate() {
            let x = BORDER * POINTS + size[0] * (i % ACROSS) as f32;
            let y = (PAPER[1] - BORDER) * POINTS - size[1] * (i / ACROSS + 1) as f32;
            c.rect(x, y, size[0], size[1]).stroke();
            let mut write = |text: &str, font: Name, points: f32, up: f32| {
                let bytes = encoded(text);
                c.begin_text().set_font(font, points).set_text_matrix([1.0, 0.0, 0.0, 1.0, x + 8.0, y + up]);
                c.show(Str(&bytes)).end_text();
            };
            write(&l.head, heavy, 26.0, size[1] - 32.0);
            for (line, up) in l.lines.iter().zip([38.0, 24.0, 10.0]) {
                write(line, plain, 9.0, up);
            }
        }
        let mut made = pdf.page(page);
        made.media_box(Rect::new(0.0, 0.0, PAPER[0] * POINTS, PAPER[1] * POINTS)).parent(pages).contents(content);
        made.resources().fonts().pair(plain, face).pair(heavy, bold);
        made.finish();
        pdf.stream(content, &c.finish());
    }
    pdf.type1_font(face).base_font(Name(b"Helvetica")).encoding_predefined(Name(b"WinAnsiEncoding"));
    pdf.type1_font(bold).base_font(Name(b"Helvetica-Bold")).encoding_predefined(Name(b"WinAnsiEncoding"));
    pdf.document_info(info).title(TextStr(title)).creator(TextStr("Kame"));
    pdf.finish()
}
