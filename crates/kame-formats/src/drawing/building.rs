//! A whole building: its walls in rows, or folded up as it stands, each place with what is said of it.

use super::clipped::clipped;
use super::{Anchor, Area, Drawing, Figure, Layer, Text};
use kame_core::findings::State;
use kame_core::recipe::Role;
use kame_core::view::{Elevation, KeyWall, WallView, state_of};

/// What covers a wall is at least so wide, in.
const WIDE: f64 = 40.0;
/// Room between walls, over each for its name, and for what the marks mean, in letters.
const BETWEEN: f64 = 2.0;
const NAME: f64 = 2.4;
const KEY: f64 = 3.0;
/// Rows together are about so wide to their height.
const ASPECT: f64 = 1.5;
/// How far a folded building is turned and tilted, degrees.
const TURN: f64 = -32.0;
const TILT: f64 = 24.0;
/// Letters of names to the larger side of the drawing.
const LETTER: f64 = 1.0 / 90.0;

/// What a mark stands for: told apart without colour, and in every font.
fn mark(state: State) -> &'static str {
    match state {
        State::GetsIn => "W",
        State::Stands => "S",
        State::NotAsPlanned => "X",
        State::Unfinished => "-",
        State::WhileGlueHolds => "G",
        State::ByLaps => "D",
    }
}

/// A place on a wall with what is said of it.
struct Standing<'a> {
    id: &'a str,
    rect: [f64; 4],
    state: State,
}

/// A wall with its places, and its top from left to right.
struct WallDrawn<'a> {
    key: &'a KeyWall,
    state: State,
    places: Vec<Standing<'a>>,
    top: Vec<[f64; 2]>,
    foot: f64,
    covers: Vec<(&'a str, Role, Vec<[f64; 2]>)>,
}

fn walls(view: &WallView) -> Vec<WallDrawn<'_>> {
    let (e, done) = (&view.elevation, view.verdict.finished);
    let wall = |n: usize| {
        let found = view.findings.iter().filter(|f| f.walls.contains(&n)).map(|f| f.severity);
        let places = e.openings.iter().filter(|o| o.wall == n).map(|o| {
            let found = view.findings.iter().filter(|f| f.features.contains(&o.id)).map(|f| f.severity);
            Standing { id: &o.id, rect: o.rect, state: state_of(found, done) }
        });
        (state_of(found, done), places.collect())
    };
    let each = e.key.iter().enumerate().map(|(n, key)| {
        let (state, places) = wall(n);
        WallDrawn { key, state, places, top: top_of(e, key.along), foot: e.height, covers: covers(e, key.along) }
    });
    each.collect()
}

/// The top of a wall from its left end to its right one.
fn top_of(e: &Elevation, [lo, hi]: [f64; 2]) -> Vec<[f64; 2]> {
    if e.top.is_empty() {
        return vec![[lo, 0.0], [hi, 0.0]];
    }
    // At a corner the tops of two walls may differ: each goes to where its own side comes.
    let at = |x: f64| {
        let i = e.top.iter().position(|p| p[0] > x).unwrap_or(e.top.len() - 1).max(1);
        let (a, b) = (e.top[i - 1], e.top[i]);
        let t = if b[0] > a[0] { ((x - a[0]) / (b[0] - a[0])).clamp(0.0, 1.0) } else { 1.0 };
        a[1] + (b[1] - a[1]) * t
    };
    let hair = 1e-6;
    let between = e.top.iter().copied().filter(|p| lo < p[0] && p[0] < hi);
    [[lo, at(lo + hair)]].into_iter().chain(between).chain([[hi, at(hi - hair)]]).collect()
}

/// What covers a wall itself at the moment shown, cut to it.
fn covers(e: &Elevation, [lo, hi]: [f64; 2]) -> Vec<(&str, Role, Vec<[f64; 2]>)> {
    let mut out = Vec::new();
    for s in e.shapes.iter().filter(|s| s.role == Role::Barrier) {
        let xs = || s.parts.iter().flatten().map(|p| p[0]);
        let (left, right) = (xs().fold(f64::INFINITY, f64::min), xs().fold(f64::NEG_INFINITY, f64::max));
        if right - left < WIDE || right <= lo || hi <= left {
            continue;
        }
        let parts = s.parts.iter().map(|p| clipped(p, [lo, f64::NEG_INFINITY, hi, f64::INFINITY]));
        out.extend(parts.filter(|p| p.len() > 2).map(|p| (s.name.as_str(), s.role, p)));
    }
    out
}

impl WallDrawn<'_> {
    fn length(&self) -> f64 {
        self.key.along[1] - self.key.along[0]
    }

    fn highest(&self) -> f64 {
        self.top.iter().map(|p| p[1]).fold(f64::INFINITY, f64::min)
    }

    fn outline(&self) -> Vec<[f64; 2]> {
        let [lo, hi] = self.key.along;
        [[lo, self.foot]].into_iter().chain(self.top.iter().copied()).chain([[hi, self.foot]]).collect()
    }

    /// Draws the wall where `on` puts its points.
    fn draw(&self, d: &mut Drawing, size: f64, on: impl Fn([f64; 2]) -> [f64; 2]) {
        let put = |points: &[[f64; 2]]| points.iter().map(|p| on(*p)).collect::<Vec<_>>();
        let mut area = |layer: Layer, name: &str, role: Option<Role>, points: &[[f64; 2]]| {
            d.figures.push(Figure::Area(Area { layer, name: name.to_owned(), role, points: put(points) }));
        };
        area(Layer::Wall, &self.key.name, None, &self.outline());
        self.covers.iter().for_each(|(name, role, points)| area(Layer::Pieces, name, Some(*role), points));
        // What covers it ends at its top.
        let over: Vec<[f64; 2]> =
            self.top.iter().copied().chain(self.top.iter().rev().map(|p| [p[0], self.highest()])).collect();
        if self.top.iter().any(|p| p[1] > self.highest()) {
            area(Layer::Wall, "", None, &over);
        }
        d.outline(Layer::Wall, &put(&self.outline()), size * 0.08);
        for p in &self.places {
            let [x, y, w, h] = p.rect;
            let corners = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]];
            let (layer, name) = (Layer::Openings, format!("{}: {}", p.id, p.state.says()));
            d.figures.push(Figure::Area(Area { layer, name, role: None, points: put(&corners) }));
            d.outline(layer, &put(&corners), size * 0.06);
            let letter = size.min(h * 0.8).min(w);
            d.text(Layer::Letters, on([x + w / 2.0, y + h / 2.0 + letter * 0.35]), letter, mark(p.state));
            if w > size * 2.5 && h > size * 2.5 {
                d.text(Layer::Letters, on([x + w / 2.0, y + h / 2.0 - size * 0.8]), size * 0.8, p.id);
            }
        }
    }
}

/// True where a point lies in a polygon.
fn holds(polygon: &[[f64; 2]], [x, y]: [f64; 2]) -> bool {
    let crosses = |(i, a): (usize, &[f64; 2])| {
        let b = polygon[(i + 1) % polygon.len()];
        (a[1] > y) != (b[1] > y) && x < a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0])
    };
    polygon.iter().enumerate().filter(|e| crosses(*e)).count() % 2 == 1
}

impl Drawing {
    /// The walls of a building in rows, each with its name and what is said of it, each place with a mark.
    pub fn building(view: &WallView, title: &str) -> Self {
        let all = walls(view);
        let area: f64 = all.iter().map(|w| w.length() * (w.foot - w.highest())).sum();
        let longest = all.iter().map(WallDrawn::length).fold(1.0, f64::max);
        let across = (area * ASPECT).sqrt().max(longest);
        let size = (across * LETTER).max(3.0);
        let mut d = Self::new(title, [0.0; 4]);
        let (mut x, mut y, mut row, mut widest) = (0.0, 0.0, 0.0_f64, 0.0_f64);
        for w in &all {
            if x > 0.0 && x + w.length() > across * 1.02 {
                (x, y, row) = (0.0, y + row + (NAME + BETWEEN) * size, 0.0);
            }
            let name = format!("{}: {}", w.key.name, w.state.says());
            let at = [x, y - size * 0.7];
            d.texts.push(Text { layer: Layer::Letters, at, size, anchor: Anchor::Start, upright: false, text: name });
            let (left, up) = (x - w.key.along[0], y - w.highest());
            w.draw(&mut d, size, |p| [p[0] + left, p[1] + up]);
            row = row.max(w.foot - w.highest());
            x += w.length() + BETWEEN * size;
            widest = widest.max(x);
        }
        d.marks_of(&all, [0.0, y + row + KEY * size], size);
        d.frame = [-size, -NAME * size, widest + size, y + row + (NAME + 2.0 * KEY) * size];
        d
    }

    /// A building folded up as it stands, seen from the front left and from above. Walls that are seen from inside are drawn without their places.
    pub fn folded(view: &WallView, title: &str) -> Self {
        let all = walls(view);
        let (turn, tilt) = (TURN.to_radians(), TILT.to_radians());
        // A point by where it is from above and how high: x to the right, z towards who looks, y up.
        let project = |x: f64, z: f64, up: f64| {
            let (across, deep) = (x * turn.cos() + z * turn.sin(), z * turn.cos() - x * turn.sin());
            ([across, deep * tilt.sin() - up * tilt.cos()], deep)
        };
        let mut drawn: Vec<(f64, bool, &WallDrawn)> = Vec::new();
        for w in &all {
            let [x1, y1, x2, y2] = w.key.line;
            let (_, near) = project(f64::midpoint(x1, x2), f64::midpoint(y1, y2), 0.0);
            // The outside of a wall is on the right hand of who walks along it from its left end, seen from above with y down.
            let (ox, oz) = (-(y2 - y1), x2 - x1);
            let (_, faces) = project(ox, oz, 0.0);
            drawn.push((near, faces > 0.0, w));
        }
        drawn.sort_by(|a, b| a.1.cmp(&b.1).then(a.0.total_cmp(&b.0)));
        let mut d = Self::new(&format!("{title}: folded up"), [0.0; 4]);
        let longest = all.iter().map(WallDrawn::length).fold(1.0, f64::max);
        let size = (longest * 2.0 * LETTER).max(3.0);
        let (mut lo, mut hi) = ([f64::INFINITY; 2], [f64::NEG_INFINITY; 2]);
        for (_, faces, w) in drawn {
            let [x1, y1, x2, y2] = w.key.line;
            let on = |p: [f64; 2]| {
                let t = (p[0] - w.key.along[0]) / w.length().max(1e-9);
                project(x1 + (x2 - x1) * t, y1 + (y2 - y1) * t, w.foot - p[1]).0
            };
            let outline: Vec<[f64; 2]> = w.outline().into_iter().map(on).collect();
            for p in &outline {
                for k in [0, 1] {
                    (lo[k], hi[k]) = (lo[k].min(p[k]), hi[k].max(p[k]));
                }
            }
            if faces {
                // What is written on a wall behind it is not seen.
                d.texts.retain(|t| !holds(&outline, t.at));
                w.draw(&mut d, size, on);
                let [lo, hi] = w.key.along;
                let name = format!("{}: {}", w.key.name, w.state.says());
                d.text(Layer::Letters, on([f64::midpoint(lo, hi), w.foot]).map(|c| c + size * 0.4), size, name);
            } else {
                d.outline(Layer::Wall, &outline, size * 0.05);
            }
        }
        if lo[0] > hi[0] {
            return d;
        }
        d.marks_of(&all, [lo[0], hi[1] + KEY * size], size);
        d.frame = [lo[0] - size, lo[1] - size, hi[0] - lo[0] + 2.0 * size, hi[1] - lo[1] + (2.0 * KEY + 1.0) * size];
        d
    }

    /// What the marks mean that stand on the walls.
    fn marks_of(&mut self, all: &[WallDrawn], at: [f64; 2], size: f64) {
        let mut states: Vec<State> = all.iter().flat_map(|w| w.places.iter().map(|p| p.state)).collect();
        states.sort();
        states.dedup();
        let text = states.into_iter().map(|s| format!("{} {}", mark(s), s.says())).collect::<Vec<_>>().join("    ");
        self.texts.push(Text { layer: Layer::Letters, at, size, anchor: Anchor::Start, upright: false, text });
    }
}
