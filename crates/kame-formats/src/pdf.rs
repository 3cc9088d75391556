//! Drawings on paper: one page of PDF, or a part of one.

use crate::drawing::{Anchor, Drawing, Figure, Layer};
use crate::svg::fill_of;
use pdf_writer::types::LineCapStyle;
use pdf_writer::{Content, Finish, Name, Pdf, Rect, Ref, Str, TextStr};

/// Points to an inch of paper.
const POINTS: f64 = 72.0;
/// Paper, landscape, in: tabloid, which most site printers halve.
const PAPER: [f64; 2] = [17.0, 11.0];
/// Border of the paper, in.
const BORDER: f64 = 0.5;
/// Room for the title, in.
const TITLE: f64 = 0.5;
/// A letter of the font is about so wide for its height.
const LETTER: f64 = 0.5;

/// Bytes of a text in the font's encoding; what it does not have becomes a question mark.
pub(crate) fn encoded(text: &str) -> Vec<u8> {
    let one = |c: char| match c {
        '″' | '”' | '“' => b'"',
        '′' | '’' | '‘' => b'\'',
        '–' | '—' | '−' => b'-',
        c => u8::try_from(u32::from(c)).ok().filter(|b| !(0x80..0xA0).contains(b)).unwrap_or(b'?'),
    };
    text.chars().map(one).collect()
}

/// Where a drawing stands on paper, inches from its lower left corner.
#[derive(Clone, Copy, Debug)]
pub(crate) struct On {
    /// Left edge of the drawing's frame.
    pub left: f64,
    /// Upper edge of it.
    pub top: f64,
    /// An inch of the drawing is so much of an inch of paper.
    pub scale: f64,
    /// The least size of a letter, points.
    pub least_letter: f32,
}

/// The font of drawings and texts, and the bold one.
pub(crate) const PLAIN: Name = Name(b"F1");
pub(crate) const BOLD: Name = Name(b"F2");

/// Draws a drawing on a page.
pub(crate) fn draw(c: &mut Content, d: &Drawing, on: On) {
    let [left, top, ..] = d.frame;
    let at = |p: [f64; 2]| {
        let x = on.left + (p[0] - left) * on.scale;
        let y = on.top - (p[1] - top) * on.scale;
        [(x * POINTS) as f32, (y * POINTS) as f32]
    };
    let scale = on.scale;
    let path = |c: &mut Content, points: &[[f64; 2]]| {
        for (i, p) in points.iter().enumerate() {
            let [x, y] = at(*p);
            if i == 0 {
                c.move_to(x, y)
            } else {
                c.line_to(x, y)
            };
        }
        c.close_path();
    };
    let is_cut = |f: &Figure| match f {
        Figure::Area(_) => true,
        Figure::Line(l) => l.layer == Layer::Pieces,
    };
    // Runs of figures that the top of a wall cuts, and of those that it does not.
    for run in d.figures.chunk_by(|a, b| is_cut(a) == is_cut(b)) {
        c.save_state().set_stroke_gray(0.13).set_line_cap(LineCapStyle::ButtCap);
        if !d.clip.is_empty() && run.first().is_some_and(is_cut) {
            path(c, &d.clip);
            c.clip_nonzero().end_path();
        }
        for f in run {
            match f {
                Figure::Area(a) => {
                    if let Some([r, g, b]) = fill_of(a.role, [1.0; 3]) {
                        c.set_fill_rgb(r, g, b);
                        path(c, &a.points);
                        c.fill_nonzero();
                    }
                }
                Figure::Line(l) => {
                    let ([x, y], [u, v]) = (at([l.at[0], l.at[1]]), at([l.at[2], l.at[3]]));
                    c.set_line_width(((l.width * scale * POINTS) as f32).max(0.2));
                    c.set_dash_pattern(if l.dashed { &[3.0, 2.0][..] } else { &[] }.iter().copied(), 0.0);
                    c.move_to(x, y).line_to(u, v).stroke();
                }
            }
        }
        c.restore_state();
    }
    c.set_fill_gray(0.0);
    let mut write = |text: &str, [x, y]: [f32; 2], size: f32, anchor: Anchor, upright: bool| {
        let bytes = encoded(text);
        let run = bytes.len() as f32 * size * LETTER as f32;
        let back = if anchor == Anchor::Middle { run / 2.0 } else { 0.0 };
        let matrix = if upright { [0.0, 1.0, -1.0, 0.0, x, y - back] } else { [1.0, 0.0, 0.0, 1.0, x - back, y] };
        c.begin_text().set_font(PLAIN, size).set_text_matrix(matrix).show(Str(&bytes)).end_text();
    };
    for t in &d.texts {
        let size = ((t.size * scale * POINTS) as f32).clamp(on.least_letter, 24.0);
        write(&t.text, at(t.at), size, t.anchor, t.upright);
    }
}

/// A drawing as one page of PDF, fitted to tabloid, with its scale in the title.
pub fn pdf(d: &Drawing) -> Vec<u8> {
    let [_, _, width, height] = d.frame;
    let room = [PAPER[0] - 2.0 * BORDER, PAPER[1] - 2.0 * BORDER - TITLE];
    let scale = (room[0] / width).min(room[1] / height);
    // Round scales read better: one inch of paper for a whole number of inches, where it is not larger than life.
    let scale = if scale < 1.0 { 1.0 / (1.0 / scale).ceil() } else { 1.0 };
    let mut c = Content::new();
    draw(&mut c, d, On { left: BORDER, top: PAPER[1] - BORDER - TITLE, scale, least_letter: 3.5 });
    let title = encoded(&format!("{}   1 : {:.0}", d.title, 1.0 / scale));
    let [x, y] = [(BORDER * POINTS) as f32, ((PAPER[1] - BORDER - 0.25) * POINTS) as f32];
    c.begin_text().set_font(PLAIN, 12.0).set_text_matrix([1.0, 0.0, 0.0, 1.0, x, y]).show(Str(&title)).end_text();

    let [catalog, pages, page, face, content, info] = [1, 2, 3, 4, 5, 6].map(Ref::new);
    let mut pdf = Pdf::new();
    pdf.catalog(catalog).pages(pages);
    pdf.pages(pages).kids([page]).count(1);
    let mut sheet = pdf.page(page);
    sheet.media_box(Rect::new(0.0, 0.0, (PAPER[0] * POINTS) as f32, (PAPER[1] * POINTS) as f32));
    sheet.parent(pages).contents(content);
    sheet.resources().fonts().pair(PLAIN, face);
    sheet.finish();
    pdf.type1_font(face).base_font(Name(b"Helvetica")).encoding_predefined(Name(b"WinAnsiEncoding"));
    pdf.stream(content, &c.finish());
    pdf.document_info(info).title(TextStr(&d.title)).creator(TextStr("Kame"));
    pdf.finish()
}
