//! Drawings as SVG.

use crate::drawing::{Anchor, Drawing, Figure, Layer};
use kame_core::recipe::Role;
use std::fmt::Write;

/// Hatch of each role: pattern id, tile size, path, fill. Told apart without colour by hatch and letter.
const HATCHES: [(Role, &str, f64, &str, &str); 8] = [
    (Role::Barrier, "barrier", 8.0, "M0 8 8 0", "#f3efe4"),
    (Role::Shape, "shape", 4.0, "M0 2H4", "#e2cfae"),
    (Role::Pan, "pan", 3.0, "M0 0 3 3M3 0 0 3", "#d8dee0"),
    (Role::Lining, "lining", 3.0, "M0 3 3 0", "#e8e2da"),
    (Role::Unit, "unit", 6.0, "", "#ffffff"),
    (Role::Jamb, "jamb", 2.4, "M1.2 0V2.4", "#dfe7df"),
    (Role::Head, "head", 2.4, "M0 1.2H2.4", "#dfe7df"),
    (Role::Patch, "patch", 2.4, "M0 0 2.4 2.4", "#efe3e0"),
];

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

/// A drawing as SVG in inches, one user unit an inch, with hatches, letters and sizes; a group for each layer.
pub fn svg(d: &Drawing) -> String {
    let [x, y, w, h] = d.frame;
    let mut out = String::new();
    let _ = write!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}in\" height=\"{h}in\" viewBox=\"{x} {y} {w} {h}\" font-family=\"sans-serif\"><title>{}</title><defs>",
        escape(&d.title)
    );
    for (_, id, size, path, fill) in HATCHES {
        let _ = write!(
            out,
            "<pattern id=\"{id}\" width=\"{size}\" height=\"{size}\" patternUnits=\"userSpaceOnUse\"><rect width=\"{size}\" height=\"{size}\" fill=\"{fill}\"/><path d=\"{path}\" stroke=\"#4a4a45\" stroke-width=\"0.15\" fill=\"none\"/></pattern>"
        );
    }
    if !d.clip.is_empty() {
        let _ = write!(out, "<clipPath id=\"top\"><polygon points=\"{}\"/></clipPath>", list(&d.clip));
    }
    let cut = if d.clip.is_empty() { "" } else { " clip-path=\"url(#top)\"" };
    out.push_str("</defs>");
    for f in &d.figures {
        match f {
            Figure::Area(a) => {
                let hatch = a.role.map(|role| HATCHES.iter().find(|h| h.0 == role).map_or("barrier", |h| h.1));
                let fill = hatch.map_or("#fff".to_owned(), |id| format!("url(#{id})"));
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

/// The plain fill of a role, red, green, blue from 0 to 1.
pub(crate) fn fill_of(role: Role) -> [f32; 3] {
    let hex = HATCHES.iter().find(|h| h.0 == role).map_or(HATCHES[0].4, |h| h.4);
    [1, 3, 5].map(|i| f32::from(u8::from_str_radix(&hex[i..i + 2], 16).unwrap_or(255)) / 255.0)
}
