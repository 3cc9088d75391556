//! A drawing as plain figures in inches, `y` down: what every drawing format is written from.

mod apart;
mod building;
mod clipped;
mod steps;

use kame_core::job::LevelKind;
use kame_core::length::{Length, UNITS_PER_INCH};
use kame_core::recipe::Role;
use kame_core::view::{Built, Elevation, Material, OpeningState, Section, SectionKind};

/// On which layer something is drawn; a CAD program can switch each off.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Layer {
    /// Edges of walls, framing, corners, levels.
    Wall,
    /// Pieces.
    Pieces,
    /// Openings and units.
    Openings,
    /// Letters of pieces and names of things.
    Letters,
    /// Dimension lines and their figures.
    Dimensions,
}

impl Layer {
    /// Every layer.
    pub const ALL: [Layer; 5] = [Self::Wall, Self::Pieces, Self::Openings, Self::Letters, Self::Dimensions];

    /// Its name in files.
    pub fn name(self) -> &'static str {
        match self {
            Self::Wall => "KAME-WALL",
            Self::Pieces => "KAME-PIECES",
            Self::Openings => "KAME-OPENINGS",
            Self::Letters => "KAME-LETTERS",
            Self::Dimensions => "KAME-DIMENSIONS",
        }
    }
}

/// A filled figure.
#[derive(Clone, Debug, PartialEq)]
pub struct Area {
    /// Layer.
    pub layer: Layer,
    /// What people call it; empty where it has no name.
    pub name: String,
    /// What its hatch stands for; `None` plain.
    pub role: Option<Role>,
    /// Its corners.
    pub points: Vec<[f64; 2]>,
}

/// A straight line.
#[derive(Clone, Debug, PartialEq)]
pub struct Line {
    /// Layer.
    pub layer: Layer,
    /// From and to: x1, y1, x2, y2.
    pub at: [f64; 4],
    /// Thickness, in.
    pub width: f64,
    /// Dashed: held up, or hidden.
    pub dashed: bool,
}

/// Where a text stands to its point.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Anchor {
    /// Begins there.
    Start,
    /// Its middle is there.
    Middle,
}

/// A text.
#[derive(Clone, Debug, PartialEq)]
pub struct Text {
    /// Layer.
    pub layer: Layer,
    /// Its foot, at the anchor.
    pub at: [f64; 2],
    /// Height of capitals and a bit, in.
    pub size: f64,
    /// Which part stands at the point.
    pub anchor: Anchor,
    /// True where it runs upward.
    pub upright: bool,
    /// The text.
    pub text: String,
}

/// A filled figure or a line. What comes later covers what came before.
#[derive(Clone, Debug, PartialEq)]
pub enum Figure {
    /// Filled.
    Area(Area),
    /// A line.
    Line(Line),
}

/// A drawing.
#[derive(Clone, Debug, PartialEq)]
pub struct Drawing {
    /// Title.
    pub title: String,
    /// Left, top, width, height.
    pub frame: [f64; 4],
    /// Filled figures and lines, the lowest first.
    pub figures: Vec<Figure>,
    /// Texts over them.
    pub texts: Vec<Text>,
    /// What everything but dimensions is cut to; empty for nothing.
    pub clip: Vec<[f64; 2]>,
}

fn said(inches: f64) -> String {
    Length::from_units((inches * UNITS_PER_INCH as f64).round() as i64).to_string()
}

impl Drawing {
    fn new(title: &str, frame: [f64; 4]) -> Self {
        Self { title: title.to_owned(), frame, figures: Vec::new(), texts: Vec::new(), clip: Vec::new() }
    }

    fn line(&mut self, layer: Layer, at: [f64; 4], width: f64) {
        self.figures.push(Figure::Line(Line { layer, at, width, dashed: false }));
    }

    fn outline(&mut self, layer: Layer, points: &[[f64; 2]], width: f64) {
        for (i, a) in points.iter().enumerate() {
            let b = points[(i + 1) % points.len()];
            self.line(layer, [a[0], a[1], b[0], b[1]], width);
        }
    }

    fn text(&mut self, layer: Layer, at: [f64; 2], size: f64, text: impl Into<String>) {
        self.texts.push(Text { layer, at, size, anchor: Anchor::Middle, upright: false, text: text.into() });
    }

    /// A dimension between two points on one line, with end strokes and its figure.
    fn dimension(&mut self, a: [f64; 2], b: [f64; 2], size: f64) {
        let upright = (a[0] - b[0]).abs() < 1e-9;
        let (layer, tick) = (Layer::Dimensions, size * 0.4);
        self.line(layer, [a[0], a[1], b[0], b[1]], size * 0.05);
        for p in [a, b] {
            self.line(layer, [p[0] - tick, p[1] + tick, p[0] + tick, p[1] - tick], size * 0.08);
        }
        let (x, y) = ((a[0] + b[0]) / 2.0, (a[1] + b[1]) / 2.0);
        let (at, run) = if upright {
            ([x - size * 0.35, y], (a[1] - b[1]).abs())
        } else {
            ([x, y - size * 0.35], (a[0] - b[0]).abs())
        };
        self.texts.push(Text { layer, at, size, anchor: Anchor::Middle, upright, text: said(run) });
    }

    /// An elevation with the sizes of walls, courses and openings.
    pub fn elevation(e: &Elevation, title: &str) -> Self {
        // Letters and figures as large as the whole can bear, so that a long building can still be read.
        let size = (e.width.max(e.height) / 110.0).clamp(2.5, 9.0);
        let margin = size * 7.0;
        let mut d = Self::new(title, [-margin, -margin, e.width + 2.0 * margin, e.height + 2.0 * margin]);
        let mut top = e.top.clone();
        if top.is_empty() {
            top = vec![[0.0, 0.0], [e.width, 0.0]];
        }
        let mut wall = vec![[0.0, e.height]];
        wall.extend(&top);
        wall.push([e.width, e.height]);
        d.figures.push(Figure::Area(Area {
            layer: Layer::Wall,
            name: String::new(),
            role: None,
            points: wall.clone(),
        }));
        d.outline(Layer::Wall, &wall, 0.4);
        if !e.top.is_empty() {
            d.clip = wall;
        }
        for s in &e.shapes {
            let parts = s.parts.iter().cloned();
            d.figures.extend(parts.map(|points| {
                Figure::Area(Area { layer: Layer::Pieces, name: s.name.clone(), role: Some(s.role), points })
            }));
            let edges = s.edges.iter().map(|at| Line { layer: Layer::Pieces, at: *at, width: 0.25, dashed: s.held });
            d.figures.extend(edges.map(Figure::Line));
        }
        d.openings(e, size);
        for s in &e.shapes {
            let Some(at) = s.label else { continue };
            d.text(Layer::Letters, at, 3.0, s.letter.as_str());
        }
        d.sizes(e, size);
        d
    }

    /// Openings with their glass, ids and sizes.
    fn openings(&mut self, e: &Elevation, size: f64) {
        for o in &e.openings {
            let [x, y, w, h] = o.rect;
            let corners = |[x, y, w, h]: [f64; 4]| [[x, y], [x + w, y], [x + w, y + h], [x, y + h]];
            if o.state == OpeningState::Set
                && let Some(glass) = o.glass
            {
                self.figures.push(Figure::Area(Area {
                    layer: Layer::Openings,
                    name: String::new(),
                    role: None,
                    points: corners(glass).to_vec(),
                }));
                self.outline(Layer::Openings, &corners(glass), 0.4);
                let [gx, gy, gw, gh] = glass;
                self.line(Layer::Openings, [gx, gy, gx + gw, gy + gh], 0.2);
                self.line(Layer::Openings, [gx + gw, gy, gx, gy + gh], 0.2);
            }
            let name = size.min(w / 3.0).max(1.2);
            self.text(Layer::Letters, [x + w / 2.0, y + h / 2.0], name, o.id.as_str());
            if w >= size * 5.0 && h >= size * 5.0 {
                self.dimension([x, y + h - size], [x + w, y + h - size], size * 0.8);
                self.dimension([x + w - size, y], [x + w - size, y + h], size * 0.8);
            } else if w >= size * 2.0 {
                let sizes = format!("{} × {}", o.width, o.height);
                self.text(Layer::Dimensions, [x + w / 2.0, y + h / 2.0 + name], name * 0.5, sizes);
            }
        }
    }

    /// Corners, sizes of walls and courses, and levels.
    fn sizes(&mut self, e: &Elevation, size: f64) {
        let foot = e.height + size * 2.5;
        let mut ends = vec![0.0];
        for c in &e.corners {
            self.line(Layer::Wall, [c.x, -size, c.x, e.height + size], 0.5);
            self.text(Layer::Letters, [c.x, -size * 1.4], size, c.name.as_str());
            ends.push(c.x);
        }
        ends.push(e.width);
        ends.windows(2).for_each(|w| self.dimension([w[0], foot], [w[1], foot], size));
        if ends.len() > 2 {
            self.dimension([0.0, foot + size * 2.0], [e.width, foot + size * 2.0], size);
        }
        self.dimension([-size * 4.0, 0.0], [-size * 4.0, e.height], size);
        // Courses on the left, from the foot up.
        let mut below = e.height;
        for y in e.courses.iter().rev() {
            self.dimension([-size * 1.5, *y], [-size * 1.5, below], size * 0.8);
            below = *y;
        }
        for l in &e.levels {
            let dashed = l.kind == LevelKind::Floor;
            let at = [-size * 2.0, l.y, e.width + size * 2.0, l.y];
            self.figures.push(Figure::Line(Line { layer: Layer::Wall, at, width: 0.3, dashed }));
            self.text(Layer::Letters, [e.width + size * 2.0, l.y - size * 0.3], size * 0.8, l.name.as_str());
        }
    }

    /// A section as it is built, with its marks, sizes, names and a scale bar; where there is none, as the water sees it.
    pub fn section(s: &Section, title: &str) -> Self {
        let kind = match s.kind {
            SectionKind::Sill => "sill",
            SectionKind::Head => "head",
            SectionKind::Jamb => "jamb",
            SectionKind::Through => "through",
            SectionKind::Base => "base",
            SectionKind::Top => "top",
            SectionKind::Corner => "corner",
        };
        let title = format!("{title}: {} {kind}, {}", s.opening, s.at);
        match &s.built {
            Some(built) => Self::built(built, &title),
            None => Self::stack(s, &title),
        }
    }

    fn built(b: &Built, title: &str) -> Self {
        let [x, y, w, h] = b.frame;
        let (size, key, row) = (0.5, 13.0, 0.85);
        let mut names: Vec<(&str, &str)> = b.marks.iter().map(|m| (m.text.as_str(), m.name.as_str())).collect();
        // Letters of pieces first, then the numbers of the rest.
        names.sort_by_key(|(text, _)| text.parse::<u32>().unwrap_or(0));
        let deep = h.max((names.len() + b.sizes.len() + 1) as f64 * row) + 3.5;
        let mut d = Self::new(title, [x - 1.0, y - 1.0, w + key + 2.0, deep + 1.0]);
        for part in &b.shapes {
            let role = match part.of {
                Material::Framing | Material::Wood | Material::Shim => Some(Role::Shape),
                Material::Batt | Material::Boards => Some(Role::Cover),
                Material::Furring => Some(Role::Furring),
                Material::Concrete | Material::Ground => Some(Role::Band),
                _ => None,
            };
            if part.outline.len() > 2 {
                let (layer, name) = (Layer::Wall, part.name.clone());
                d.figures.push(Figure::Area(Area { layer, name, role, points: part.outline.clone() }));
            }
            d.outline(Layer::Wall, &part.outline, 0.05);
        }
        for r in &b.runs {
            for p in r.line.windows(2) {
                let (dx, dy) = (p[1][0] - p[0][0], p[1][1] - p[0][1]);
                let run = dx.hypot(dy);
                if run < 1e-9 {
                    continue;
                }
                let (ox, oy) = (-dy / run * r.thick / 2.0, dx / run * r.thick / 2.0);
                let points = [(p[0], 1.0), (p[1], 1.0), (p[1], -1.0), (p[0], -1.0)]
                    .map(|(at, way)| [at[0] + ox * way, at[1] + oy * way]);
                let (layer, name) = (Layer::Pieces, r.name.clone());
                d.figures.push(Figure::Area(Area { layer, name, role: Some(r.role), points: points.to_vec() }));
                d.outline(layer, &points, 0.03);
            }
        }
        for z in &b.sizes {
            let [[x1, y1], [x2, y2]] = z.line;
            d.line(Layer::Dimensions, [x1, y1, x2, y2], 0.04);
            let middle = [f64::midpoint(x1, x2), f64::midpoint(y1, y2) + size * 0.3];
            d.text(Layer::Dimensions, middle, size * 0.9, z.text.as_str());
        }
        for m in &b.marks {
            for p in m.leader.windows(2) {
                d.line(Layer::Letters, [p[0][0], p[0][1], p[1][0], p[1][1]], 0.02);
            }
            let [cx, cy] = m.leader[2];
            let ring: Vec<[f64; 2]> = (0..16)
                .map(|i| f64::from(i) * std::f64::consts::TAU / 16.0)
                .map(|t| [cx + 0.5 * t.cos(), cy + 0.5 * t.sin()])
                .collect();
            let (layer, points) = (Layer::Letters, ring.clone());
            d.figures.push(Figure::Area(Area { layer, name: String::new(), role: None, points }));
            d.outline(layer, &ring, 0.03);
            d.text(layer, [cx, cy + size * 0.35], size, m.text.as_str());
        }
        let mut at = [x + w + 0.8, y + 0.6];
        let mut say = |layer: Layer, text: String| {
            d.texts.push(Text { layer, at, size, anchor: Anchor::Start, upright: false, text });
            at[1] += row;
        };
        names.iter().for_each(|(mark, name)| say(Layer::Letters, format!("{mark}  {name}")));
        b.sizes.iter().for_each(|z| say(Layer::Dimensions, format!("{}  {}", z.text, z.what)));
        // Six inches, whatever the paper makes of them.
        let foot = y + h + 1.2;
        d.dimension([x + 1.0, foot], [x + 7.0, foot], size);
        let told = Text {
            layer: Layer::Dimensions,
            at: [x + 1.0, foot + 1.2],
            size: size * 0.9,
            anchor: Anchor::Start,
            upright: false,
            text: b.thickened.clone(),
        };
        d.texts.push(told);
        d
    }

    fn stack(s: &Section, title: &str) -> Self {
        let [x, y, w, h] = s.frame;
        let (size, key) = (0.55, 14.0);
        let list: Vec<(&str, &str)> = s.bands.iter().fold(Vec::new(), |mut all, b| {
            let one = (b.letter.as_str(), b.name.as_str());
            if !all.contains(&one) {
                all.push(one);
            }
            all
        });
        let deep = h.max(list.len() as f64 * size * 1.6 + 3.0);
        let mut d = Self::new(title, [x - 2.0, y - 2.0, w + key + 4.0, deep + 5.0]);
        d.figures.push(Figure::Area(Area {
            layer: Layer::Wall,
            name: String::new(),
            role: Some(Role::Shape),
            points: s.solid.clone(),
        }));
        d.outline(Layer::Wall, &s.solid, 0.08);
        for b in &s.bands {
            for p in b.line.windows(2) {
                let (dx, dy) = (p[1][0] - p[0][0], p[1][1] - p[0][1]);
                let run = dx.hypot(dy);
                if run < 1e-9 {
                    continue;
                }
                // Half the thickness to each side of its middle line.
                let (ox, oy) = (-dy / run * b.thick / 2.0, dx / run * b.thick / 2.0);
                let points = [
                    [p[0][0] + ox, p[0][1] + oy],
                    [p[1][0] + ox, p[1][1] + oy],
                    [p[1][0] - ox, p[1][1] - oy],
                    [p[0][0] - ox, p[0][1] - oy],
                ];
                let (layer, name) = (Layer::Pieces, b.name.clone());
                d.figures.push(Figure::Area(Area { layer, name, role: Some(b.role), points: points.to_vec() }));
                d.outline(layer, &points, 0.03);
            }
            if let Some(at) = b.line.get(b.line.len() / 2) {
                d.text(Layer::Letters, [at[0], at[1] + size * 0.35], size, b.letter.as_str());
            }
        }
        for (i, (letter, name)) in list.iter().enumerate() {
            let at = [x + w + 1.0, y + 1.0 + i as f64 * size * 1.6];
            let text = format!("{letter}  {name}");
            d.texts.push(Text { layer: Layer::Letters, at, size, anchor: Anchor::Start, upright: false, text });
        }
        let span = |k: usize| {
            let all = s.solid.iter().map(|p| p[k]);
            all.fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), v| (lo.min(v), hi.max(v)))
        };
        if !s.solid.is_empty() {
            let ((left, right), (top, foot)) = (span(0), span(1));
            // Outside everything that is drawn, so that no sheet runs through a figure.
            d.dimension([left, y + h + size * 2.0], [right, y + h + size * 2.0], size);
            d.dimension([x - size, top], [x - size, foot], size);
        }
        d
    }
}
