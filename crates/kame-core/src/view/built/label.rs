//! Marks with leaders that never cross, and sizes.

use super::parts::{Built, MARGIN, ROOM_BOARD, SectionCut, SectionMark, SectionSize, TO_BEND, TO_MARK};
use super::stack::Lap;
use crate::profile::fig;
use crate::view::ask::SectionKind;
use crate::view::marks::spread;
use std::collections::BTreeMap;

/// From one mark to the next, in, and between two leaders.
const APART: f64 = 1.25;
const CLEAR: f64 = 0.12;
/// Most laps whose sizes are drawn.
const MOST_SIZES: usize = 6;

/// What a mark is about, and where its leader may end: places along the edge of the drawing (`t`) with their depth.
struct WantedLabel {
    text: Option<String>,
    name: String,
    piece: Option<String>,
    step: Option<String>,
    ends: Vec<[f64; 2]>,
}

/// The coordinate along which marks stand in a row, and the one across.
fn turned(kind: SectionKind, [x, y]: [f64; 2]) -> [f64; 2] {
    match kind {
        SectionKind::Jamb => [x, y],
        _ => [y, -x],
    }
}

fn back(kind: SectionKind, [t, o]: [f64; 2]) -> [f64; 2] {
    match kind {
        SectionKind::Jamb => [t, o],
        _ => [-o, t],
    }
}

/// Marks of everything that is drawn: outside what is met first from outside, inside the rest.
pub(super) fn marks(cut: &SectionCut, face: f64, out: &mut Built) {
    let kind = cut.ask.kind;
    let (sheathing, stud) = cut.backing();
    let inner = -(sheathing + stud + ROOM_BOARD).max(cut.depth + 1.0);
    let (low, high) = range(cut);
    let mut rows: [Vec<WantedLabel>; 2] = [Vec::new(), Vec::new()];
    for w in wanted(cut, out) {
        // What lies in front of the sheathing is named outside.
        let outside = w.ends.iter().any(|e| e[1] > -0.01);
        rows[usize::from(!outside)].push(w);
    }
    for (side, list) in rows.into_iter().enumerate() {
        let way = if side == 0 { 1.0 } else { -1.0 };
        let edge = if side == 0 { face } else { inner };
        let mut used: Vec<f64> = Vec::new();
        let mut placed: Vec<([f64; 2], WantedLabel)> = Vec::new();
        for w in list {
            let inside = |e: &&[f64; 2]| e[0] > low + 0.2 && e[0] < high - 0.2 && (side == 1 || e[1] > -0.01);
            let free = |e: &[f64; 2]| used.iter().all(|u| (u - e[0]).abs() > CLEAR);
            let seen: Vec<[f64; 2]> = w.ends.iter().filter(inside).copied().collect();
            let Some(mut end) = seen.iter().find(|e| free(e)).or(seen.first()).copied() else { continue };
            while !free(&end) {
                end[0] += CLEAR / 2.0;
            }
            used.push(end[0]);
            placed.push((end, w));
        }
        placed.sort_by(|a, b| a.0[0].total_cmp(&b.0[0]));
        let ends: Vec<f64> = placed.iter().map(|(e, _)| e[0]).collect();
        let spots = spread(&ends, [low + MARGIN / 2.0, high - MARGIN / 2.0], APART);
        let mut numbers = 0;
        for ((end, w), spot) in placed.into_iter().zip(spots) {
            let text = w.text.unwrap_or_else(|| {
                numbers += 1;
                format!("{}", numbers + side * 10)
            });
            let bend = [end[0], edge + way * TO_BEND];
            let leader = [end, bend, [spot, edge + way * TO_MARK]].map(|p| back(kind, p));
            out.marks.push(SectionMark { text, name: w.name, step: w.step, leader });
        }
    }
    let (near, far) = (face + TO_MARK + MARGIN, inner - TO_MARK - MARGIN);
    out.frame = match kind {
        SectionKind::Jamb => [low, far, high - low, near - far],
        _ => [-near, low, near - far, high - low],
    };
    // Parts of the wall are numbered from the outside in, one after the other.
    let mut n = 0;
    for m in out.marks.iter_mut().filter(|m| m.text.chars().all(|c| c.is_ascii_digit())) {
        n += 1;
        m.text = n.to_string();
    }
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
fn wanted(cut: &SectionCut, out: &Built) -> Vec<WantedLabel> {
    let kind = cut.ask.kind;
    let mut all: Vec<WantedLabel> = Vec::new();
    let mut letters: BTreeMap<String, usize> = BTreeMap::new();
    let mut letter = |of: &str| {
        let n = letters.entry(of.to_owned()).or_default();
        *n += 1;
        if *n == 1 { of.to_owned() } else { format!("{of}{n}") }
    };
    for r in out.runs.iter().rev() {
        let ends = along(&r.line).into_iter().map(|p| turned(kind, p));
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
        let mut ends = vec![turned(kind, middle)];
        ends.extend(s.outline.iter().map(|p| turned(kind, [0, 1].map(|k| p[k] * 0.6 + middle[k] * 0.4))));
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
