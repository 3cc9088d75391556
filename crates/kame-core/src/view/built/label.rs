//! Marks with leaders that never cross, and sizes.

use super::parts::{Built, MARGIN, ROOM_BOARD, SectionCut, SectionMark, SectionSize, TO_BEND, TO_MARK};
use super::stack::Lap;
use crate::length::Length;
use crate::plan::SurfaceId;
use crate::profile::fig;
use crate::sequence::Laid;
use crate::surface::Interval;
use crate::trade::PieceId;
use crate::view::ask::SectionKind;
use crate::view::marks::spread;
use std::collections::BTreeMap;

/// From one mark to the next, in, and between two leaders.
const APART: f64 = 1.25;
const CLEAR: f64 = 0.12;
/// Most laps whose sizes are drawn.
const MOST_SIZES: usize = 6;

/// What a mark is about, and where on the drawing its leader may end.
struct WantedLabel {
    text: Option<String>,
    name: String,
    piece: Option<String>,
    step: Option<String>,
    ends: Vec<[f64; 2]>,
}

/// A side of the drawing along which marks stand in two rows.
struct Facing {
    /// The direction of the rows, and out of the wall.
    along: [f64; 2],
    out: [f64; 2],
    /// From where to where the outer and the inner row may go.
    rows: [[f64; 2]; 2],
    /// From how deep to how far out it names what is drawn.
    names: [f64; 2],
}

impl Facing {
    /// A place on the drawing: how far along the rows, and how far out.
    fn turned(&self, p: [f64; 2]) -> [f64; 2] {
        [self.along, self.out].map(|d| p[0] * d[0] + p[1] * d[1])
    }

    fn back(&self, [t, o]: [f64; 2]) -> [f64; 2] {
        [0, 1].map(|k| self.along[k] * t + self.out[k] * o)
    }

    /// In which row a place that is turned this way can be named: 0 outside, 1 inside.
    fn names_at(&self, [t, o]: [f64; 2]) -> Option<usize> {
        let inside = |row: &[f64; 2]| row[0] + 0.2 < t && t < row[1] - 0.2;
        let side = usize::from(o <= -0.01);
        (self.names[0] <= o && o <= self.names[1] && inside(&self.rows[side])).then_some(side)
    }
}

/// The sides along which a drawing is named, whose parts come so far out and so far in.
fn facings(cut: &SectionCut, face: f64, inner: f64) -> Vec<Facing> {
    let (low, high) = range(cut);
    let everything = [f64::NEG_INFINITY, f64::INFINITY];
    match cut.ask.kind {
        SectionKind::Corner => {
            let (turn, [lo, hi]) = (cut.turn(), cut.range());
            let clear = TO_MARK + MARGIN;
            // Where both walls' rows would meet, the right wall's does not go on.
            let names = [inner - 0.1, face + 0.1];
            let (left, right) = if turn > 0.0 {
                ([[lo, face], [lo, inner - 0.2]], [[-face, hi], [clear - inner, hi]])
            } else {
                ([[lo, -face - clear], [lo, -inner]], [[face + clear, hi], [inner, hi]])
            };
            vec![
                Facing { along: [1.0, 0.0], out: [0.0, 1.0], rows: left, names },
                Facing { along: [0.0, -turn], out: [turn, 0.0], rows: right, names },
            ]
        }
        SectionKind::Jamb => {
            vec![Facing { along: [1.0, 0.0], out: [0.0, 1.0], rows: [[low, high]; 2], names: everything }]
        }
        _ => vec![Facing { along: [0.0, 1.0], out: [-1.0, 0.0], rows: [[low, high]; 2], names: everything }],
    }
}

/// Marks of everything that is drawn: outside what is met first from outside, inside the rest.
pub(super) fn marks(cut: &SectionCut, face: f64, out: &mut Built) {
    let kind = cut.ask.kind;
    let (sheathing, stud) = cut.backing();
    let inner = -(sheathing + stud + ROOM_BOARD).max(cut.depth + 1.0);
    let facings = facings(cut, face, inner);
    let mut left = wanted(out);
    for (n, facing) in facings.iter().enumerate() {
        // What this side cannot name is left to the next; the last one takes the rest.
        let names = |w: &WantedLabel| w.ends.iter().any(|e| facing.names_at(facing.turned(*e)).is_some());
        let (mine, rest) = left.into_iter().partition(|w| n + 1 == facings.len() || names(w));
        left = rest;
        rows_of(facing, n, mine, [face, inner], out);
    }
    let (low, high) = range(cut);
    let (near, far) = (face + TO_MARK + MARGIN, inner - TO_MARK - MARGIN);
    out.frame = match kind {
        SectionKind::Jamb => [low, far, high - low, near - far],
        SectionKind::Corner => around(out),
        _ => [-near, low, near - far, high - low],
    };
    // Parts of the wall are numbered from the outside in, one after the other.
    let mut n = 0;
    for m in out.marks.iter_mut().filter(|m| m.text.chars().all(|c| c.is_ascii_digit())) {
        n += 1;
        m.text = n.to_string();
    }
}

/// Marks of one side in their two rows, clear of each other.
fn rows_of(facing: &Facing, n: usize, wanted: Vec<WantedLabel>, [face, inner]: [f64; 2], out: &mut Built) {
    let mut rows: [Vec<(Vec<[f64; 2]>, WantedLabel)>; 2] = [Vec::new(), Vec::new()];
    for w in wanted {
        let ends: Vec<[f64; 2]> = w.ends.iter().map(|e| facing.turned(*e)).collect();
        // What lies in front of the sheathing is named outside.
        let outside = ends.iter().any(|e| e[1] > -0.01 && facing.names_at(*e) == Some(0));
        let side = usize::from(!outside);
        let within = |e: &[f64; 2]| {
            let [lo, hi] = facing.rows[side];
            e[0] > lo + 0.2 && e[0] < hi - 0.2 && (side == 1 || e[1] > -0.01)
        };
        let seen = ends.into_iter().filter(within).filter(|e| facing.names[0] <= e[1] && e[1] <= facing.names[1]);
        rows[side].push((seen.collect(), w));
    }
    for (side, list) in rows.into_iter().enumerate() {
        let way = if side == 0 { 1.0 } else { -1.0 };
        let edge = if side == 0 { face } else { inner };
        let mut used: Vec<f64> = Vec::new();
        let mut placed: Vec<([f64; 2], WantedLabel)> = Vec::new();
        for (seen, w) in list {
            let free = |e: &[f64; 2]| used.iter().all(|u| (u - e[0]).abs() > CLEAR);
            let Some(mut end) = seen.iter().find(|e| free(e)).or(seen.first()).copied() else { continue };
            while !free(&end) {
                end[0] += CLEAR / 2.0;
            }
            used.push(end[0]);
            placed.push((end, w));
        }
        placed.sort_by(|a, b| a.0[0].total_cmp(&b.0[0]));
        let ends: Vec<f64> = placed.iter().map(|(e, _)| e[0]).collect();
        let [low, high] = facing.rows[side];
        let spots = spread(&ends, [low + MARGIN / 2.0, high - MARGIN / 2.0], APART);
        let mut numbers = 0;
        for ((end, w), spot) in placed.into_iter().zip(spots) {
            let text = w.text.unwrap_or_else(|| {
                numbers += 1;
                format!("{}", numbers + (2 * n + side) * 10)
            });
            let bend = [end[0], edge + way * TO_BEND];
            let leader = [end, bend, [spot, edge + way * TO_MARK]].map(|p| facing.back(p));
            out.marks.push(SectionMark { text, name: w.name, step: w.step, leader });
        }
    }
}

/// The frame round everything that is drawn.
fn around(out: &Built) -> [f64; 4] {
    let shapes = out.shapes.iter().flat_map(|s| &s.outline);
    let marks = out.marks.iter().flat_map(|m| &m.leader);
    let all = shapes.chain(out.runs.iter().flat_map(|r| &r.line)).chain(marks);
    let (mut lo, mut hi) = ([f64::INFINITY; 2], [f64::NEG_INFINITY; 2]);
    for p in all {
        for k in [0, 1] {
            (lo[k], hi[k]) = (lo[k].min(p[k]), hi[k].max(p[k]));
        }
    }
    if lo[0] > hi[0] {
        return [0.0; 4];
    }
    [lo[0] - MARGIN, lo[1] - MARGIN, hi[0] - lo[0] + 2.0 * MARGIN, hi[1] - lo[1] + 2.0 * MARGIN]
}

/// From where to where the drawing reaches, along the row of marks.
fn range(cut: &SectionCut) -> (f64, f64) {
    let [low, far] = cut.range();
    match cut.ask.kind {
        SectionKind::Sill | SectionKind::Base => (low, far),
        _ => (-far, -low),
    }
}

/// What is to be named: each piece and each kind of part once.
fn wanted(out: &Built) -> Vec<WantedLabel> {
    let mut all: Vec<WantedLabel> = Vec::new();
    let mut letters: BTreeMap<String, usize> = BTreeMap::new();
    let mut letter = |of: &str| {
        let n = letters.entry(of.to_owned()).or_default();
        *n += 1;
        match *n {
            1 => of.to_owned(),
            // A number behind a number would be read as one.
            n if of.ends_with(|c: char| c.is_ascii_digit()) => {
                format!("{of}{}", char::from(b'a' + u8::try_from(n - 1).unwrap_or(25).min(25)))
            }
            n => format!("{of}{n}"),
        }
    };
    for r in out.runs.iter().rev() {
        let ends = along(&r.line).into_iter();
        match all.iter_mut().find(|w| w.piece.as_ref() == Some(&r.piece)) {
            Some(w) => w.ends.extend(ends),
            None => all.push(WantedLabel {
                text: Some(letter(&r.letter)),
                name: r.name.clone(),
                piece: Some(r.piece.clone()),
                step: r.step.clone(),
                ends: ends.collect(),
            }),
        }
    }
    for s in &out.shapes {
        let n = s.outline.len() as f64;
        let middle = [0, 1].map(|k| s.outline.iter().map(|p| p[k]).sum::<f64>() / n);
        // From its middle towards its corners.
        let mut ends = vec![middle];
        for near in [0.6, 0.9] {
            ends.extend(s.outline.iter().map(|p| [0, 1].map(|k| p[k] * near + middle[k] * (1.0 - near))));
        }
        match all.iter_mut().find(|w| w.name == s.name) {
            Some(w) => w.ends.extend(ends),
            None => all.push(WantedLabel { text: None, name: s.name.clone(), piece: None, step: s.step.clone(), ends }),
        }
    }
    all
}

/// Places along a line at which a leader may end, the middle of its longest part first.
fn along(line: &[[f64; 2]]) -> Vec<[f64; 2]> {
    let mut parts: Vec<(f64, [f64; 2], [f64; 2])> =
        line.windows(2).map(|w| ((w[1][0] - w[0][0]).hypot(w[1][1] - w[0][1]), w[0], w[1])).collect();
    parts.sort_by(|a, b| b.0.total_cmp(&a.0));
    let at = |(_, a, b): &(f64, [f64; 2], [f64; 2]), t: f64| [0, 1].map(|k| a[k] + (b[k] - a[k]) * t);
    [0.5, 0.3, 0.7, 0.15, 0.85, 0.05, 0.95].iter().flat_map(|t| parts.iter().map(move |p| at(p, *t))).collect()
}

/// Laps beside the stack, and the fall of the sill.
pub(super) fn sizes(cut: &SectionCut, laps: &[Lap], face: f64, out: &mut Built) {
    let kind = cut.ask.kind;
    let [low, far] = cut.range();
    // In the opening itself nothing laps.
    let least = if kind == SectionKind::Through { low } else { 0.0 };
    let mut columns: Vec<Vec<[f64; 2]>> = Vec::new();
    for lap in laps {
        let (a, b) = (cut.s_of(lap.over.lo), cut.s_of(lap.over.hi));
        let span = [a.min(b), a.max(b)];
        if span[0] < least - 0.01 || span[1] > far || span[1] - span[0] < 0.25 || out.sizes.len() >= MOST_SIZES {
            continue;
        }
        let free = |c: &Vec<[f64; 2]>| c.iter().all(|o| o[1] + 0.2 < span[0] || span[1] + 0.2 < o[0]);
        let column = columns.iter().position(free).unwrap_or(columns.len());
        if column == columns.len() {
            columns.push(Vec::new());
        }
        columns[column].push(span);
        let o = face + 0.35 + 0.5 * column as f64;
        let over = lap.over.hi - lap.over.lo;
        out.sizes.push(SectionSize {
            line: [cut.at(span[0], o), cut.at(span[1], o)],
            text: over.to_string(),
            what: format!("{} over {}", cut.plan.pieces[lap.upper].name, cut.plan.pieces[lap.lower].name),
        });
    }
    past_the_corner(cut, face, out);
    if kind == SectionKind::Sill && cut.answer("seat") != "level" {
        let slope = cut.plan.basis.figures.number(fig::SILL_SLOPE);
        let depth = cut.depth;
        let rise = depth * slope / 100.0;
        out.sizes.push(SectionSize {
            line: [[depth * 0.62, -1.1 - rise * 0.5], [depth - 0.9, -1.1 - rise]],
            text: format!("{slope} %"),
            what: "fall of the sill to the outside".into(),
        });
    }
}

/// How far what runs round a corner goes past it, on the side on which it ends.
fn past_the_corner(cut: &SectionCut, face: f64, out: &mut Built) {
    let (Some(corner), [lo, hi]) = (&cut.corner, cut.range()) else { return };
    let cut_through = |l: &&Laid| l.on == SurfaceId::WALL && l.rect.v0 <= corner.level && corner.level < l.rect.v1;
    let mut spans: BTreeMap<PieceId, Interval> = BTreeMap::new();
    for l in cut.moment.stage.layers.iter().filter(cut_through) {
        let p = &cut.plan.pieces[l.piece];
        if p.role.is_outside() || p.solid {
            continue;
        }
        let span = spans.entry(l.piece).or_insert(l.rect.along_u());
        *span = Interval { lo: span.lo.min(l.rect.u0), hi: span.hi.max(l.rect.u1) };
    }
    let mut ends: Vec<(Length, String)> = Vec::new();
    for (piece, span) in spans.into_iter().filter(|(_, s)| s.lo < corner.at && corner.at < s.hi) {
        let past = [span.lo - corner.at, span.hi - corner.at].into_iter();
        let seen = past.filter(|d| lo < d.to_inches_f64() && d.to_inches_f64() < hi);
        ends.extend(seen.map(|d| (d, cut.plan.pieces[piece].name.clone())));
    }
    ends.sort();
    ends.dedup();
    for (n, (past, name)) in ends.into_iter().take(MOST_SIZES).enumerate() {
        let (s, o) = (past.to_inches_f64(), face + 0.35 + 0.5 * n as f64);
        let line = if s < 0.0 {
            [[s, o], [0.0, o]]
        } else {
            let turn = cut.turn();
            [[turn * o, -turn * s], [turn * o, 0.0]]
        };
        out.sizes.push(SectionSize {
            line,
            text: Length::from_units(past.units().abs()).to_string(),
            what: format!("{name} past the corner"),
        });
    }
}
