//! A stack drawn apart, on paper: every piece with its letter, the wall and the opening as ground.

use super::{Anchor, Area, Drawing, Figure, Layer, Line, Text};
use kame_core::view::Exploded;

/// Letters for the height of the drawing, room for a row of the key, and for the key itself, in letters.
const LETTER: f64 = 1.0 / 48.0;
const ROW: f64 = 1.7;
const KEY: f64 = 26.0;

impl Drawing {
    /// The stack of an opening drawn apart, with a key of its letters in the order of work.
    pub fn apart(x: &Exploded, title: &str) -> Self {
        let [left, top, width, height] = x.frame;
        let size = height * LETTER;
        let deep = height.max((x.pieces.len() + 1) as f64 * ROW * size);
        let mut d = Self::new(&format!("{title}: {} drawn apart", x.opening), [left, top, width + KEY * size, deep]);
        for points in &x.ground {
            let (layer, name) = (Layer::Wall, String::new());
            d.figures.push(Figure::Area(Area { layer, name, role: None, points: points.clone() }));
            d.outline(layer, points, size * 0.06);
        }
        for p in &x.pieces {
            let [[x1, y1], [x2, y2]] = p.thread;
            let (layer, width) = (Layer::Pieces, size * 0.05);
            d.figures.push(Figure::Line(Line { layer, at: [x1, y1, x2, y2], width, dashed: true }));
            for points in &p.faces {
                let (name, role) = (p.name.clone(), Some(p.role));
                d.figures.push(Figure::Area(Area { layer, name, role, points: points.clone() }));
                d.outline(layer, points, size * 0.06);
            }
            for [[x1, y1], [x2, y2]] in &p.folds {
                d.figures.push(Figure::Line(Line { layer, at: [*x1, *y1, *x2, *y2], width, dashed: true }));
            }
        }
        for (n, p) in x.pieces.iter().enumerate() {
            for l in p.leader.windows(2) {
                d.line(Layer::Letters, [l[0][0], l[0][1], l[1][0], l[1][1]], size * 0.05);
            }
            d.text(Layer::Letters, p.leader[2], size, p.letter.as_str());
            let at = [left + width + size, top + (n + 1) as f64 * ROW * size];
            let text = format!("{}  {}", p.letter, p.name);
            d.texts.push(Text { layer: Layer::Letters, at, size, anchor: Anchor::Start, upright: false, text });
        }
        d
    }
}
