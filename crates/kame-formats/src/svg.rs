//! Drawings as SVG.

use crate::drawing::{Anchor, Drawing, Figure, Layer};
use kame_core::recipe::Role;
use kame_core::view::{Hatch, Hatches};
use std::fmt::Write;

/// A text as XML has it. Characters that XML cannot hold are left out.
fn escape(text: &str) -> String {
    let text: String = text.chars().filter(|c| is_in_xml(*c)).collect();
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

/// True for a character that may stand in XML 1.0.
fn is_in_xml(c: char) -> bool {
    matches!(c, '\t' | '\n' | '\r' | ' '..='\u{D7FF}' | '\u{E000}'..='\u{FFFD}' | '\u{10000}'..)
}

fn list(points: &[[f64; 2]]) -> String {
    points.iter().map(|p| format!("{:.4},{:.4}", p[0], p[1])).collect::<Vec<_>>().join(" ")
}

/// The id of a role's pattern.
fn pattern_id(role: Role) -> String {
    format!("{role:?}").to_lowercase()
}

/// The hatch of a role as a pattern.
fn pattern(out: &mut String, all: &Hatches, h: &Hatch) {
    let [w, high] = h.size;
    let _ = write!(
        out,
        "<pattern id=\"{}\" width=\"{w}\" height=\"{high}\" patternUnits=\"userSpaceOnUse\">",
        pattern_id(h.role)
    );
    if let Some(fill) = all.fills.get(&h.fill) {
        let _ = write!(out, "<rect width=\"{w}\" height=\"{high}\" fill=\"{fill}\"/>");
    }
    if !h.lines.is_empty() {
        let (lines, thick) = (&h.lines, h.thick);
        let _ = write!(out, "<path d=\"{lines}\" stroke=\"{}\" stroke-width=\"{thick}\" fill=\"none\"/>", all.stroke);
    }
    for [x, y, r] in &h.dots {
        let _ = write!(out, "<circle cx=\"{x}\" cy=\"{y}\" r=\"{r}\" fill=\"{}\"/>", all.stroke);
    }
    out.push_str("</pattern>");
}

/// A drawing as SVG in inches, one user unit an inch, with hatches, letters and sizes; a group for each layer.
pub fn svg(d: &Drawing) -> String {
    let [x, y, w, h] = d.frame;
    let mut out = String::new();
    let _ = write!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}in\" height=\"{h}in\" viewBox=\"{x} {y} {w} {h}\" font-family=\"sans-serif\"><title>{}</title><defs>",
        escape(&d.title)
    );
    if let Ok(all) = Hatches::shipped() {
        all.hatches.iter().for_each(|h| pattern(&mut out, all, h));
    }
    if !d.clip.is_empty() {
        let _ = write!(out, "<clipPath id=\"top\"><polygon points=\"{}\"/></clipPath>", list(&d.clip));
    }
    let cut = if d.clip.is_empty() { "" } else { " clip-path=\"url(#top)\"" };
    out.push_str("</defs>");
    for f in &d.figures {
        match f {
            Figure::Area(a) => {
                let fill = a.role.map_or("#fff".to_owned(), |role| format!("url(#{})", pattern_id(role)));
                let named =
                    if a.name.is_empty() { String::new() } else { format!("<title>{}</title>", escape(&a.name)) };
                let (layer, points) = (a.layer.name(), list(&a.points));
                let _ = write!(
                    out,
                    "<polygon class=\"{layer}\" points=\"{points}\" fill=\"{fill}\"{cut}>{named}</polygon>"
                );
            }
            Figure::Line(l) => {
                let [a, b, c, e] = l.at;
                let dash = if l.dashed { " stroke-dasharray=\"1 1\"" } else { "" };
                let clipped = if l.layer == Layer::Pieces { cut } else { "" };
                let _ = write!(
                    out,
                    "<path class=\"{}\" d=\"M{a:.4} {b:.4}L{c:.4} {e:.4}\" stroke=\"#222\" stroke-width=\"{}\" fill=\"none\"{dash}{clipped}/>",
                    l.layer.name(),
                    l.width
                );
            }
        }
    }
    for t in &d.texts {
        let [x, y] = t.at;
        let anchor = if t.anchor == Anchor::Middle { "middle" } else { "start" };
        let turned = if t.upright { format!(" transform=\"rotate(-90 {x:.3} {y:.3})\"") } else { String::new() };
        let _ = write!(
            out,
            "<text class=\"{}\" x=\"{x:.3}\" y=\"{y:.3}\" font-size=\"{}\" text-anchor=\"{anchor}\" stroke=\"#fff\" stroke-width=\"{}\" paint-order=\"stroke\"{turned}>{}</text>",
            t.layer.name(),
            t.size,
            t.size * 0.25,
            escape(&t.text)
        );
    }
    out.push_str("</svg>\n");
    out
}

/// The plain fill of what an area stands for, red, green, blue from 0 to 1, `plain` where it stands for nothing; `None` where what is behind is
/// to be seen.
pub(crate) fn fill_of(role: Option<Role>, plain: [f32; 3]) -> Option<[f32; 3]> {
    let Some(role) = role else { return Some(plain) };
    let hex = Hatches::shipped().ok()?.fill(role)?;
    let part = |i: usize| f32::from(u8::from_str_radix(hex.get(i..i + 2).unwrap_or("ff"), 16).unwrap_or(255)) / 255.0;
    Some([1, 3, 5].map(part))
}
