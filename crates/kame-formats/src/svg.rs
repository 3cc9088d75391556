use kame_core::detail::recipe::Role;
use kame_core::view::{Elevation, OpeningState};
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

fn escape(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

/// The elevation as a drawing of its own: SVG in inches, one user unit an inch, with hatches, letters and sizes.
pub fn elevation_svg(e: &Elevation, title: &str) -> String {
    let margin = 14.0;
    let (w, h) = (e.width + 2.0 * margin, e.height + 2.0 * margin);
    let mut out = String::new();
    let _ = write!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}in\" height=\"{h}in\" viewBox=\"{} {} {w} {h}\" font-family=\"sans-serif\">",
        -margin, -margin
    );
    let _ = write!(out, "<title>{}</title><defs>", escape(title));
    for (_, id, size, path, fill) in HATCHES {
        let _ = write!(
            out,
            "<pattern id=\"{id}\" width=\"{size}\" height=\"{size}\" patternUnits=\"userSpaceOnUse\"><rect width=\"{size}\" height=\"{size}\" fill=\"{fill}\"/><path d=\"{path}\" stroke=\"#4a4a45\" stroke-width=\"0.15\" fill=\"none\"/></pattern>"
        );
    }
    let _ = write!(
        out,
        "</defs><rect width=\"{}\" height=\"{}\" fill=\"#fff\" stroke=\"#222\" stroke-width=\"0.4\"/>",
        e.width, e.height
    );
    for s in &e.shapes {
        let hatch = HATCHES.iter().find(|h| h.0 == s.role).map_or("barrier", |h| h.1);
        for part in &s.parts {
            let points: Vec<String> = part.iter().map(|p| format!("{:.4},{:.4}", p[0], p[1])).collect();
            let _ = write!(out, "<polygon points=\"{}\" fill=\"url(#{hatch})\"/>", points.join(" "));
        }
        let path: String =
            s.edges.iter().map(|l| format!("M{:.4} {:.4}L{:.4} {:.4}", l[0], l[1], l[2], l[3])).collect();
        let dash = if s.held { " stroke-dasharray=\"1 1\"" } else { "" };
        let _ = write!(
            out,
            "<path d=\"{path}\" stroke=\"#222\" stroke-width=\"0.25\" fill=\"none\"{dash}><title>{}</title></path>",
            escape(&s.name)
        );
    }
    for o in &e.openings {
        let [x, y, w, h] = o.rect;
        if o.state == OpeningState::Set
            && let Some([gx, gy, gw, gh]) = o.glass
        {
            let _ = write!(
                out,
                "<rect x=\"{gx}\" y=\"{gy}\" width=\"{gw}\" height=\"{gh}\" fill=\"#fff\" stroke=\"#222\" stroke-width=\"0.4\"/><path d=\"M{gx} {gy}L{} {}M{} {gy}L{gx} {}\" stroke=\"#999\" stroke-width=\"0.2\"/>",
                gx + gw,
                gy + gh,
                gx + gw,
                gy + gh
            );
        }
        let _ = write!(
            out,
            "<text x=\"{}\" y=\"{}\" font-size=\"3.5\" text-anchor=\"middle\">{} {} × {}</text>",
            x + w / 2.0,
            y + h / 2.0,
            escape(&o.id),
            escape(&o.width),
            escape(&o.height)
        );
    }
    for s in &e.shapes {
        let Some([x, y]) = s.label else { continue };
        let _ = write!(
            out,
            "<text x=\"{x:.3}\" y=\"{y:.3}\" font-size=\"3\" text-anchor=\"middle\" dominant-baseline=\"central\" stroke=\"#fff\" stroke-width=\"0.8\" paint-order=\"stroke\">{}</text>",
            escape(&s.letter)
        );
    }
    out.push_str("</svg>\n");
    out
}
