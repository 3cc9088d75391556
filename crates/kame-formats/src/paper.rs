//! Pages of letter paper that text, drawings and photographs run down one after another.

use crate::drawing::Drawing;
use crate::pdf::{BOLD, On, PLAIN, draw, encoded};
use pdf_writer::{Content, Filter, Finish, Name, Pdf, Rect, Ref, Str, TextStr};

/// Points to an inch of paper.
const POINTS: f32 = 72.0;
/// Letter paper, points.
const PAPER: [f32; 2] = [8.5 * POINTS, 11.0 * POINTS];
/// Border of the paper.
const BORDER: f32 = 0.75 * POINTS;
/// Room for the foot.
const FOOT: f32 = 0.3 * POINTS;
/// A letter of the font is about so wide for its height.
const LETTER: f32 = 0.5;

/// A photograph to be printed: a JPEG with its size in pixels, and what stands below it.
pub struct Photo {
    /// The file.
    pub jpeg: Vec<u8>,
    /// Width and height, pixels.
    pub size: [i32; 2],
    /// What stands below it.
    pub caption: String,
}

struct Page {
    content: Content,
    images: Vec<usize>,
}

/// Paper that is written on from top to bottom.
pub(crate) struct Paper {
    title: String,
    pages: Vec<Page>,
    images: Vec<Photo>,
    /// Where the next line stands, points from the bottom.
    y: f32,
}

/// Widths between the borders, points.
pub(crate) const WIDE: f32 = PAPER[0] - 2.0 * BORDER;

impl Paper {
    pub fn new(title: &str) -> Self {
        let mut paper = Self { title: title.to_owned(), pages: Vec::new(), images: Vec::new(), y: 0.0 };
        paper.page();
        paper
    }

    /// Goes on at the top of another page.
    pub fn page(&mut self) {
        self.pages.push(Page { content: Content::new(), images: Vec::new() });
        self.y = PAPER[1] - BORDER;
    }

    /// Goes to another page where less than so much is left.
    pub fn need(&mut self, high: f32) {
        if self.y - high < BORDER + FOOT {
            self.page();
        }
    }

    pub fn gap(&mut self, high: f32) {
        self.y -= high;
    }

    fn now(&mut self) -> &mut Page {
        let last = self.pages.len() - 1;
        &mut self.pages[last]
    }

    fn show(&mut self, text: &str, [x, y]: [f32; 2], size: f32, font: Name) {
        let bytes = encoded(text);
        let c = &mut self.now().content;
        c.begin_text().set_font(font, size).set_text_matrix([1.0, 0.0, 0.0, 1.0, x, y]).show(Str(&bytes)).end_text();
    }

    /// A text that runs over as many lines as it wants.
    pub fn text(&mut self, text: &str, size: f32, bold: bool) {
        self.columns(&[(text, WIDE)], size, bold);
    }

    /// Texts beside each other, each with its width; the row is as high as the longest of them.
    pub fn columns(&mut self, cells: &[(&str, f32)], size: f32, bold: bool) {
        let wrapped: Vec<Vec<String>> = cells.iter().map(|(t, w)| wrap(t, (w / (size * LETTER)) as usize)).collect();
        let rows = wrapped.iter().map(Vec::len).max().unwrap_or(0);
        let font = if bold { BOLD } else { PLAIN };
        for row in 0..rows {
            self.need(size * 1.3);
            self.y -= size * 1.3;
            let (mut x, y) = (BORDER, self.y);
            for (lines, (_, wide)) in wrapped.iter().zip(cells) {
                if let Some(line) = lines.get(row) {
                    self.show(line, [x, y], size, font);
                }
                x += wide;
            }
        }
    }

    /// A thin line across.
    pub fn rule(&mut self) {
        self.y -= 4.0;
        let y = self.y;
        let c = &mut self.now().content;
        c.set_stroke_gray(0.6).set_line_width(0.5).move_to(BORDER, y).line_to(BORDER + WIDE, y).stroke();
        self.y -= 2.0;
    }

    /// Drawings beside each other, no higher than so much, each with what stands below it.
    pub fn drawings(&mut self, all: &[(&Drawing, &str)], high: f32) {
        if all.is_empty() {
            return;
        }
        let each = WIDE / all.len() as f32 - 8.0;
        self.need(high + 24.0);
        let top = self.y - 6.0;
        let scale = |d: &Drawing| (each / d.frame[2] as f32).min(high / d.frame[3] as f32) / POINTS;
        let high = all.iter().map(|(d, _)| d.frame[3] as f32 * scale(d) * POINTS).fold(0.0, f32::max);
        for (i, (d, caption)) in all.iter().enumerate() {
            let left = BORDER + (each + 8.0) * i as f32;
            let [_, _, wide, tall] = d.frame.map(|v| v as f32);
            let scale = scale(d);
            let c = &mut self.now().content;
            c.save_state().rect(left, top - tall * scale * POINTS, wide * scale * POINTS, tall * scale * POINTS);
            c.clip_nonzero().end_path();
            let (left_in, top_in) = (f64::from(left / POINTS), f64::from(top / POINTS));
            draw(c, d, On { left: left_in, top: top_in, scale: f64::from(scale), least_letter: 2.0 });
            c.restore_state();
            self.show(caption, [left, top - high - 12.0], 9.0, PLAIN);
        }
        self.y = top - high - 18.0;
    }

    /// Photographs, two beside each other.
    pub fn photos(&mut self, all: Vec<Photo>) {
        let each = WIDE / 2.0 - 6.0;
        let high = each * 0.75;
        let mut all = all.into_iter().peekable();
        while all.peek().is_some() {
            self.need(high + 30.0);
            let top = self.y - 6.0;
            for (i, photo) in all.by_ref().take(2).enumerate() {
                let left = BORDER + (each + 12.0) * i as f32;
                let [w, h] = photo.size.map(|v| v.max(1) as f32);
                let scale = (each / w).min(high / h);
                let number = self.images.len();
                let name = format!("I{number}");
                let page = self.now();
                page.images.push(number);
                let c = &mut page.content;
                c.save_state().transform([w * scale, 0.0, 0.0, h * scale, left, top - h * scale]);
                c.x_object(Name(name.as_bytes())).restore_state();
                for (row, line) in wrap(&photo.caption, (each / (8.0 * LETTER)) as usize).iter().take(2).enumerate() {
                    self.show(line, [left, top - h * scale - 10.0 - 9.0 * row as f32], 8.0, PLAIN);
                }
                self.images.push(photo);
            }
            self.y = top - high - 26.0;
        }
    }

    /// The paper as PDF.
    pub fn finish(mut self) -> Vec<u8> {
        let many = self.pages.len();
        for n in 0..many {
            let foot = format!("{}    page {} of {many}", self.title, n + 1);
            let bytes = encoded(&foot);
            let c = &mut self.pages[n].content;
            c.begin_text().set_font(PLAIN, 8.0).set_text_matrix([1.0, 0.0, 0.0, 1.0, BORDER, BORDER - 14.0]);
            c.show(Str(&bytes)).end_text();
        }
        let [catalog, tree, face, bold, info] = [1, 2, 3, 4, 5].map(Ref::new);
        let page_ref = |n: usize| Ref::new(6 + 2 * n as i32);
        let content_ref = |n: usize| Ref::new(7 + 2 * n as i32);
        let image_ref = |n: usize| Ref::new(6 + 2 * many as i32 + n as i32);
        let mut pdf = Pdf::new();
        pdf.catalog(catalog).pages(tree);
        pdf.pages(tree).kids((0..many).map(page_ref)).count(many as i32);
        for (n, page) in self.pages.into_iter().enumerate() {
            let mut sheet = pdf.page(page_ref(n));
            sheet.media_box(Rect::new(0.0, 0.0, PAPER[0], PAPER[1])).parent(tree).contents(content_ref(n));
            let mut resources = sheet.resources();
            resources.fonts().pair(PLAIN, face).pair(BOLD, bold);
            let mut objects = resources.x_objects();
            for i in &page.images {
                objects.pair(Name(format!("I{i}").as_bytes()), image_ref(*i));
            }
            objects.finish();
            resources.finish();
            sheet.finish();
            pdf.stream(content_ref(n), &page.content.finish());
        }
        for (i, photo) in self.images.iter().enumerate() {
            let mut image = pdf.image_xobject(image_ref(i), &photo.jpeg);
            image.filter(Filter::DctDecode);
            image.width(photo.size[0]).height(photo.size[1]);
            image.color_space().device_rgb();
            image.bits_per_component(8);
            image.finish();
        }
        pdf.type1_font(face).base_font(Name(b"Helvetica")).encoding_predefined(Name(b"WinAnsiEncoding"));
        pdf.type1_font(bold).base_font(Name(b"Helvetica-Bold")).encoding_predefined(Name(b"WinAnsiEncoding"));
        pdf.document_info(info).title(TextStr(&self.title)).creator(TextStr("Kame"));
        pdf.finish()
    }
}

/// A text in lines of at most so many letters; a word longer than that is cut.
fn wrap(text: &str, most: usize) -> Vec<String> {
    let most = most.max(1);
    let mut out: Vec<String> = Vec::new();
    for paragraph in text.lines() {
        let mut line = String::new();
        for word in paragraph.split_whitespace() {
            let letters: Vec<char> = word.chars().collect();
            for part in letters.chunks(most) {
                let part: String = part.iter().collect();
                if !line.is_empty() && line.chars().count() + 1 + part.chars().count() > most {
                    out.push(std::mem::take(&mut line));
                }
                if !line.is_empty() {
                    line.push(' ');
                }
                line.push_str(&part);
            }
        }
        out.push(line);
    }
    out
}
