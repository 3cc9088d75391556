//! A drawing as a picture of points, JPEG: for made-up photographs, and wherever lines are too much.

use crate::drawing::{Drawing, Figure};
use crate::svg::fill_of;
use jpeg_encoder::{ColorType, Encoder};

/// Quality of the JPEG, 1 to 100.
const QUALITY: u8 = 82;
/// The most points a side.
pub const MOST_POINTS: u16 = 2400;

/// What a picture shows of a drawing, and in which light.
#[derive(Clone, Copy, Debug)]
pub struct Shot {
    /// Left, top, width, height in inches of the drawing.
    pub frame: [f64; 4],
    /// Points across; as many down as the frame wants.
    pub across: u16,
    /// Brightness, 1 as drawn.
    pub light: f32,
}

struct Points {
    wide: usize,
    high: usize,
    rgb: Vec<u8>,
}

impl Points {
    /// Fills what lies inside the corners: a point is inside where a line to the left crosses an odd number of edges.
    fn fill(&mut self, corners: &[[f64; 2]], colour: [u8; 3]) {
        let ys = corners.iter().map(|c| c[1]);
        let from = ys.clone().fold(f64::INFINITY, f64::min).max(0.0) as usize;
        let to = (ys.fold(0.0, f64::max).ceil().max(0.0) as usize).min(self.high);
        for y in from.min(self.high)..to {
            let middle = y as f64 + 0.5;
            let mut crossings: Vec<f64> = Vec::new();
            for (i, a) in corners.iter().enumerate() {
                let b = corners[(i + 1) % corners.len()];
                if (a[1] <= middle) != (b[1] <= middle) {
                    crossings.push(a[0] + (middle - a[1]) / (b[1] - a[1]) * (b[0] - a[0]));
                }
            }
            crossings.sort_by(f64::total_cmp);
            for pair in crossings.chunks_exact(2) {
                let left = (pair[0].round().max(0.0) as usize).min(self.wide);
                let right = (pair[1].round().max(0.0) as usize).min(self.wide);
                for x in left..right {
                    let at = (y * self.wide + x) * 3;
                    self.rgb[at..at + 3].copy_from_slice(&colour);
                }
            }
        }
    }
}

/// A drawing as JPEG.
///
/// # Errors
/// What the encoder says.
pub fn jpeg(d: &Drawing, shot: Shot) -> Result<Vec<u8>, String> {
    let [left, top, width, height] = shot.frame;
    let across = shot.across.clamp(16, MOST_POINTS);
    let scale = f64::from(across) / width.max(1e-3);
    let down = ((height * scale).round().clamp(16.0, f64::from(MOST_POINTS))) as u16;
    let lit = |rgb: [f32; 3]| rgb.map(|v| (v * shot.light * 255.0).clamp(0.0, 255.0) as u8);
    let mut points = Points {
        wide: across.into(),
        high: down.into(),
        rgb: lit([0.87, 0.85, 0.8]).repeat(usize::from(across) * usize::from(down)),
    };
    let at = |p: [f64; 2]| [(p[0] - left) * scale, (p[1] - top) * scale];
    for f in &d.figures {
        match f {
            Figure::Area(a) => {
                let corners: Vec<[f64; 2]> = a.points.iter().map(|p| at(*p)).collect();
                if let Some(colour) = fill_of(a.role, [0.97, 0.96, 0.94]) {
                    points.fill(&corners, lit(colour));
                }
            }
            Figure::Line(l) => {
                let ([x, y], [u, v]) = (at([l.at[0], l.at[1]]), at([l.at[2], l.at[3]]));
                let half = (l.width * scale / 2.0).max(0.6);
                let long = (u - x).hypot(v - y).max(1e-9);
                let (nx, ny) = (-(v - y) / long * half, (u - x) / long * half);
                points.fill(
                    &[[x + nx, y + ny], [u + nx, v + ny], [u - nx, v - ny], [x - nx, y - ny]],
                    lit([0.25, 0.25, 0.27]),
                );
            }
        }
    }
    let mut out = Vec::new();
    Encoder::new(&mut out, QUALITY).encode(&points.rgb, across, down, ColorType::Rgb).map_err(|e| e.to_string())?;
    Ok(out)
}
