//! The pictures of steps on one sheet, in the order of work.

use super::clipped::{clipped, clipped_line};
use super::{Anchor, Area, Drawing, Figure, Layer, Line, Text};
use kame_core::recipe::Role;
use kame_core::view::{Shape, StepPicture};

/// A picture's width and height on the sheet, the room between two of them, and the letters, in.
const CELL: [f64; 2] = [24.0, 24.0];
const BETWEEN: f64 = 3.0;
const SIZE: f64 = 0.9;
/// Letters of a title to a row.
const TITLE: usize = 46;
/// Pictures to a row.
const ACROSS: usize = 5;

/// Where a picture stands on the sheet.
struct Cell {
    /// What of the wall it shows: left, top, right, bottom.
    frame: [f64; 4],
    scale: f64,
    at: [f64; 2],
}

impl Cell {
    fn new(n: usize, [x, y, w, h]: [f64; 4]) -> Self {
        let (column, row) = (n % ACROSS, n / ACROSS);
        let at = [column as f64 * (CELL[0] + BETWEEN), row as f64 * (CELL[1] + BETWEEN * 2.0)];
        Self { frame: [x, y, x + w, y + h], scale: (CELL[0] / w).min(CELL[1] / h), at }
    }

    fn on(&self, p: [f64; 2]) -> [f64; 2] {
        [0, 1].map(|k| self.at[k] + (p[k] - self.frame[k]) * self.scale)
    }

    fn area(&self, d: &mut Drawing, layer: Layer, (name, role): (&str, Option<Role>), points: &[[f64; 2]]) {
        let points: Vec<[f64; 2]> = clipped(points, self.frame).into_iter().map(|p| self.on(p)).collect();
        if points.len() > 2 {
            d.figures.push(Figure::Area(Area { layer, name: name.to_owned(), role, points }));
        }
    }

    fn line(&self, d: &mut Drawing, layer: Layer, at: [f64; 4], (width, dashed): (f64, bool)) {
        let Some([x1, y1, x2, y2]) = clipped_line(at, self.frame) else { return };
        let ([a, b], [c, e]) = (self.on([x1, y1]), self.on([x2, y2]));
        d.figures.push(Figure::Line(Line { layer, at: [a, b, c, e], width, dashed }));
    }

    fn shape(&self, d: &mut Drawing, s: &Shape, width: f64) {
        for points in &s.parts {
            self.area(d, Layer::Pieces, (&s.name, Some(s.role)), points);
        }
        for at in &s.edges {
            self.line(d, Layer::Pieces, *at, (width, s.held));
        }
    }
}

impl Drawing {
    /// The pictures of steps with their titles, row by row in the order of work; what is done in a step has thick edges.
    pub fn steps(pictures: &[StepPicture], title_of: impl Fn(&str) -> String, title: &str) -> Self {
        let rows = pictures.len().div_ceil(ACROSS).max(1);
        let size = [ACROSS as f64 * (CELL[0] + BETWEEN), rows as f64 * (CELL[1] + BETWEEN * 2.0)];
        let mut d = Self::new(title, [-BETWEEN, -BETWEEN * 2.0, size[0] + BETWEEN, size[1] + BETWEEN * 2.0]);
        for (n, p) in pictures.iter().enumerate() {
            let cell = Cell::new(n, p.frame);
            let [x0, y0, x1, y1] = cell.frame;
            let corners = [[x0, y0], [x1, y0], [x1, y1], [x0, y1]];
            cell.area(&mut d, Layer::Wall, ("", None), &corners);
            for s in &p.before {
                cell.shape(&mut d, s, 0.05);
            }
            for o in &p.openings {
                let [x, y, w, h] = o.rect;
                let edges = [[x, y, x + w, y], [x + w, y, x + w, y + h], [x + w, y + h, x, y + h], [x, y + h, x, y]];
                edges.into_iter().for_each(|at| cell.line(&mut d, Layer::Openings, at, (0.08, false)));
            }
            p.now.iter().for_each(|s| cell.shape(&mut d, s, 0.22));
            p.gone.iter().flat_map(|s| &s.edges).for_each(|at| cell.line(&mut d, Layer::Pieces, *at, (0.1, true)));
            p.beads.iter().for_each(|points| cell.area(&mut d, Layer::Pieces, ("bead", Some(Role::Joint)), points));
            p.cuts.iter().for_each(|at| cell.line(&mut d, Layer::Pieces, *at, (0.18, true)));
            p.ways.iter().for_each(|at| cell.line(&mut d, Layer::Letters, *at, (0.1, false)));
            for z in &p.sizes {
                cell.line(&mut d, Layer::Dimensions, z.line, (0.08, false));
                let middle = [f64::midpoint(z.line[0], z.line[2]), f64::midpoint(z.line[1], z.line[3])];
                d.text(Layer::Dimensions, cell.on(middle), SIZE, z.text.as_str());
            }
            let outer: Vec<[f64; 2]> = corners.into_iter().map(|c| cell.on(c)).collect();
            d.outline(Layer::Wall, &outer, 0.06);
            let said = format!("{}  {}", n + 1, title_of(&p.step));
            let text =
                if said.chars().count() > TITLE { said.chars().take(TITLE - 1).chain(['.']).collect() } else { said };
            let at = [cell.at[0], cell.at[1] - SIZE * 0.6];
            d.texts.push(Text { layer: Layer::Letters, at, size: SIZE, anchor: Anchor::Start, upright: false, text });
        }
        d
    }
}
