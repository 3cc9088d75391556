//! A text as a code that a telephone reads, as a picture.

use qrcode::{Color, EcLevel, QrCode};
use std::fmt::Write;

/// White round a code, in modules: readers want four.
const QUIET: usize = 4;

/// A code as SVG, black on white, as large as what it stands in.
///
/// # Errors
/// A sentence where the text is too long for a code.
pub fn code_svg(text: &str) -> Result<String, String> {
    let code =
        QrCode::with_error_correction_level(text, EcLevel::M).map_err(|e| format!("{text} cannot be a code: {e}"))?;
    let (side, mut dark) = (code.width(), String::new());
    for (k, _) in code.to_colors().iter().enumerate().filter(|(_, colour)| **colour == Color::Dark) {
        let _ = write!(dark, "M{} {}h1v1h-1z", k % side + QUIET, k / side + QUIET);
    }
    let all = side + 2 * QUIET;
    Ok(format!(
        r##"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {all} {all}" shape-rendering="crispEdges"><rect width="{all}" height="{all}" fill="#fff"/><path d="{dark}"/></svg>"##
    ))
}
