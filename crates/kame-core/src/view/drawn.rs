//! What of a drawing, and of what is found at its moment, somebody has already, so that only the rest travels.

use super::elevation::{Kept, KeptParts, OpeningView, Shape};
use super::finding::FindingView;
use super::wall::WallView;
use std::collections::HashMap;
use std::hash::{DefaultHasher, Hash, Hasher};

/// A shape of so many parts and edges, such as a course with its holes, is known by each of them.
const MANY: usize = 24;

/// Marks of a shape.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
struct ShapeMarks {
    whole: u64,
    piece: u64,
    /// Of each part and edge, where there are many.
    parts: Vec<u64>,
    edges: Vec<u64>,
}

/// Marks of a drawing's pieces and openings and of what is found: enough to know them again, and a hundredth of what they weigh.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Drawn {
    shapes: Vec<ShapeMarks>,
    openings: Vec<u64>,
    findings: Vec<u64>,
}

impl Drawn {
    /// Marks of a whole drawing.
    pub fn of(view: &WallView) -> Self {
        Self {
            shapes: view.elevation.shapes.iter().map(of_shape).collect(),
            openings: view.elevation.openings.iter().map(of_opening).collect(),
            findings: view.findings.iter().map(of_finding).collect(),
        }
    }

    /// How many marks there are.
    pub fn weight(&self) -> usize {
        let parts: usize = self.shapes.iter().map(|s| s.parts.len() + s.edges.len()).sum();
        self.shapes.len() + parts + self.openings.len() + self.findings.len()
    }

    /// Leaves out of an answer, of which these are the marks, what `before` has, as who asks calls it.
    pub fn leave_out(&self, view: &mut WallView, before: &Self, have: &str) {
        let whole = |of: &Self| of.shapes.iter().map(|s| s.whole).collect::<Vec<_>>();
        let elevation = &mut view.elevation;
        let shapes = keep(&mut elevation.shapes, &whole(self), &whole(before));
        let kept = |at: &usize| shapes.iter().any(|[first, _, many]| (*first..first + many).contains(at));
        let left = (0..self.shapes.len()).filter(|at| !kept(at));
        let parts = elevation.shapes.iter_mut().zip(left).filter_map(|(shape, at)| {
            let now = &self.shapes[at];
            let same = |(_, s): &(usize, &ShapeMarks)| s.piece == now.piece && !s.parts.is_empty();
            let (from, was) = before.shapes.iter().enumerate().filter(same).max_by_key(|(_, s)| s.parts.len())?;
            (!now.parts.is_empty()).then(|| KeptParts {
                shape: at,
                from,
                parts: keep(&mut shape.parts, &now.parts, &was.parts),
                edges: keep(&mut shape.edges, &now.edges, &was.edges),
            })
        });
        let parts = parts.collect();
        let openings = keep(&mut elevation.openings, &self.openings, &before.openings);
        let findings = keep(&mut view.findings, &self.findings, &before.findings);
        elevation.kept = Some(Kept { have: have.to_owned(), shapes, parts, openings, findings });
    }
}

/// Takes out of a list what stood in the one before, and says where it is to be put.
fn keep<T>(list: &mut Vec<T>, now: &[u64], was: &[u64]) -> Vec<[usize; 3]> {
    let mut places: HashMap<u64, Vec<usize>> = HashMap::with_capacity(was.len());
    was.iter().enumerate().rev().for_each(|(at, mark)| places.entry(*mark).or_default().push(at));
    let mut runs: Vec<[usize; 3]> = Vec::new();
    let mut at = 0;
    list.retain(|_| {
        let here = at;
        at += 1;
        let Some(there) = places.get_mut(&now[here]).and_then(Vec::pop) else { return true };
        match runs.last_mut() {
            Some([first, from, many]) if *first + *many == here && *from + *many == there => *many += 1,
            _ => runs.push([here, there, 1]),
        }
        false
    });
    runs
}

fn numbers<'a>(to: &mut DefaultHasher, all: impl IntoIterator<Item = &'a f64>) {
    all.into_iter().for_each(|x| x.to_bits().hash(to));
}

/// The mark of some numbers.
fn of_numbers<'a>(all: impl IntoIterator<Item = &'a f64>) -> u64 {
    let mut to = DefaultHasher::new();
    numbers(&mut to, all);
    to.finish()
}

fn of_shape(s: &Shape) -> ShapeMarks {
    // Named one by one, so that a new one cannot be forgotten.
    let Shape { piece, name, role, product, letter, label, held, parts, edges } = s;
    let mut of_piece = DefaultHasher::new();
    piece.hash(&mut of_piece);
    let mut to = DefaultHasher::new();
    (piece, name, *role as u8, product, letter, held, label.is_some(), parts.len(), edges.len()).hash(&mut to);
    numbers(&mut to, label.iter().flatten());
    for part in parts {
        part.len().hash(&mut to);
        numbers(&mut to, part.iter().flatten());
    }
    numbers(&mut to, edges.iter().flatten());
    let many = parts.len() + edges.len() >= MANY;
    let each = |of: &dyn Fn() -> Vec<u64>| if many { of() } else { Vec::new() };
    ShapeMarks {
        whole: to.finish(),
        piece: of_piece.finish(),
        parts: each(&|| parts.iter().map(|p| of_numbers(p.iter().flatten())).collect()),
        edges: each(&|| edges.iter().map(of_numbers).collect()),
    }
}

fn of_finding(f: &FindingView) -> u64 {
    let mut to = DefaultHasher::new();
    // All that is told of it.
    serde_json::to_string(f).unwrap_or_default().hash(&mut to);
    to.finish()
}

fn of_opening(o: &OpeningView) -> u64 {
    let OpeningView { id, name, feature, wall, rect, left, sill, width, height, depth, state, glass, hull } = o;
    let mut to = DefaultHasher::new();
    (id, name, *feature as u8, wall, left, sill, width, height, depth, *state as u8, glass.is_some()).hash(&mut to);
    numbers(&mut to, rect.iter().chain(glass.iter().flatten()).chain(hull));
    to.finish()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Whatever was there, the runs and what is left make the list again.
        #[test]
        fn what_is_kept_and_what_travels_make_the_whole(
            was in prop::collection::vec(0..12_u64, 0..20),
            now in prop::collection::vec(0..12_u64, 0..20),
        ) {
            let mut left = now.clone();
            let runs = keep(&mut left, &now, &was);
            let kept: usize = runs.iter().map(|r| r[2]).sum();
            prop_assert_eq!(kept + left.len(), now.len());
            let mut made: Vec<Option<u64>> = vec![None; now.len()];
            for [at, from, many] in runs {
                (0..many).for_each(|i| made[at + i] = Some(was[from + i]));
            }
            let mut rest = left.into_iter();
            let made: Vec<u64> = made.into_iter().map(|m| m.or_else(|| rest.next()).expect("one for each place")).collect();
            prop_assert_eq!(made, now);
        }
    }
}
