//! Labels to stick beside an opening: its name large, and a code that a phone reads and opens.

use crate::pdf::{BOLD, PLAIN, encoded};
use pdf_writer::{Content, Finish, Name, Pdf, Rect, Ref, Str, TextStr};
use qrcode::{Color, EcLevel, QrCode};

/// Points to an inch of paper.
const POINTS: f32 = 72.0;
/// Letter paper, in, and its border.
const PAPER: [f32; 2] = [8.5, 11.0];
const BORDER: f32 = 0.5;
/// Labels beside and below each other.
const ACROSS: usize = 2;
const DOWN: usize = 5;
/// White round a code, in modules: readers want four.
const QUIET: usize = 4;

/// A label.
pub struct PlaceLabel {
    /// Short name, large.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// The address that the code says.
    pub url: String,
}

/// Labels on sheets of letter paper, ten to a sheet; cut along the lines.
///
/// # Errors
/// A sentence where an address is too long for a code.
pub fn place_labels_pdf(title: &str, all: &[PlaceLabel]) -> Result<Vec<u8>, String> {
    let mut sheets: Vec<&[PlaceLabel]> = all.chunks(ACROSS * DOWN).collect();
    if sheets.is_empty() {
        sheets.push(&[]);
    }
    let [catalog, pages, face, bold, info] = [1, 2, 3, 4, 5].map(Ref::new);
    let of_sheet = |n: usize| [Ref::new(6 + 2 * n as i32), Ref::new(7 + 2 * n as i32)];
    let mut pdf = Pdf::new();
    pdf.catalog(catalog).pages(pages);
    pdf.pages(pages).kids((0..sheets.len()).map(|n| of_sheet(n)[0])).count(sheets.len() as i32);
    let size = [(PAPER[0] - 2.0 * BORDER) / ACROSS as f32 * POINTS, (PAPER[1] - 2.0 * BORDER) / DOWN as f32 * POINTS];
    for (n, sheet) in sheets.iter().enumerate() {
        let [page, content] = of_sheet(n);
        let mut c = Content::new();
        for (i, l) in sheet.iter().enumerate() {
            let x = BORDER * POINTS + size[0] * (i % ACROSS) as f32;
            let y = (PAPER[1] - BORDER) * POINTS - size[1] * (i / ACROSS + 1) as f32;
            c.set_stroke_gray(0.6).set_line_width(0.4).rect(x, y, size[0], size[1]).stroke();
            // Rain and scratches take a quarter of it before it is lost.
            let code = QrCode::with_error_correction_level(&l.url, EcLevel::Q)
                .map_err(|e| format!("the address {} cannot be a code: {e}", l.url))?;
            let side = code.width();
            let module = (size[1] - 12.0) / (side + 2 * QUIET) as f32;
            let (left, top) = (x + 6.0 + QUIET as f32 * module, y + size[1] - 6.0 - QUIET as f32 * module);
            c.set_fill_gray(0.0);
            for (k, colour) in code.to_colors().iter().enumerate() {
                if *colour == Color::Dark {
                    c.rect(left + (k % side) as f32 * module, top - (k / side + 1) as f32 * module, module, module);
                }
            }
            c.fill_nonzero();
            let text = x + size[1] + 4.0;
            let mut write = |words: &str, font: Name, points: f32, up: f32| {
                let room = ((x + size[0] - 4.0 - text) / (points * 0.5)) as usize;
                let shown: String = words.chars().take(room).collect();
                let bytes = encoded(&shown);
                c.begin_text().set_font(font, points).set_text_matrix([1.0, 0.0, 0.0, 1.0, text, y + up]);
                c.show(Str(&bytes)).end_text();
            };
            write(&l.id, BOLD, 30.0, size[1] - 44.0);
            write(&l.name, PLAIN, 10.0, size[1] - 62.0);
            write(title, PLAIN, 7.0, 22.0);
            write("Read it: the next step here", PLAIN, 7.0, 12.0);
        }
        let mut made = pdf.page(page);
        made.media_box(Rect::new(0.0, 0.0, PAPER[0] * POINTS, PAPER[1] * POINTS)).parent(pages).contents(content);
        made.resources().fonts().pair(PLAIN, face).pair(BOLD, bold);
        made.finish();
        pdf.stream(content, &c.finish());
    }
    pdf.type1_font(face).base_font(Name(b"Helvetica")).encoding_predefined(Name(b"WinAnsiEncoding"));
    pdf.type1_font(bold).base_font(Name(b"Helvetica-Bold")).encoding_predefined(Name(b"WinAnsiEncoding"));
    pdf.document_info(info).title(TextStr(title)).creator(TextStr("Kame"));
    Ok(pdf.finish())
}
