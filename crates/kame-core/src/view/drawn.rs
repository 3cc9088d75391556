//! What of a drawing somebody has already, so that only the rest travels.

use super::elevation::{Elevation, Kept, OpeningView, Shape};
use std::collections::HashMap;
use std::hash::{DefaultHasher, Hash, Hasher};

/// Marks of a drawing's pieces and openings: enough to know them again, and a hundredth of what they weigh.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Drawn {
    shapes: Vec<u64>,
    openings: Vec<u64>,
}

impl Drawn {
    /// Marks of a whole drawing.
    pub fn of(elevation: &Elevation) -> Self {
        Self {
            shapes: elevation.shapes.iter().map(of_shape).collect(),
            openings: elevation.openings.iter().map(of_opening).collect(),
        }
    }

    /// How many marks there are.
    pub fn weight(&self) -> usize {
        self.shapes.len() + self.openings.len()
    }

    /// Leaves out of a drawing, of which these are the marks, what `before` has, as who asks calls it.
    pub fn leave_out(&self, elevation: &mut Elevation, before: &Self, have: &str) {
        elevation.kept = Some(Kept {
            have: have.to_owned(),
            shapes: keep(&mut elevation.shapes, &self.shapes, &before.shapes),
            openings: keep(&mut elevation.openings, &self.openings, &before.openings),
        });
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

fn of_shape(s: &Shape) -> u64 {
    // Named one by one, so that a new one cannot be forgotten.
    let Shape { piece, name, role, product, letter, label, held, parts, edges } = s;
    let mut to = DefaultHasher::new();
    (piece, name, *role as u8, product, letter, held, label.is_some(), parts.len(), edges.len()).hash(&mut to);
    numbers(&mut to, label.iter().flatten());
    for part in parts {
        part.len().hash(&mut to);
        numbers(&mut to, part.iter().flatten());
    }
    numbers(&mut to, edges.iter().flatten());
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
