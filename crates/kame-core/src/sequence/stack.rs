//! What lies on the wall while actions are done: layers from inside to outside, found by where they are.

use super::laid::Laid;
use crate::plan::SurfaceId;
use crate::surface::{Along, Rect};
use crate::trade::FlapId;
use foldhash::HashMap;
use smallvec::SmallVec;
use std::collections::BTreeSet;

/// How far two layers laid one after the other stand apart in the order, so that others can be tucked between them.
const APART: u64 = 1 << 24;

/// Layers, each with its number and its place in the order; parts of what was one layer share that place.
#[derive(Debug, Default)]
pub(super) struct Stack {
    laid: Vec<Option<Laid>>,
    order: Vec<u64>,
    outermost: u64,
    /// Places between those of layers laid over everything, which are [`APART`].
    between: BTreeSet<u64>,
    /// For each surface what lies there.
    there: Vec<Along<usize>>,
    flaps: HashMap<FlapId, Vec<usize>>,
}

impl Stack {
    /// An empty stack with room for some layers.
    pub fn with_capacity(layers: usize) -> Self {
        Self { laid: Vec::with_capacity(layers), order: Vec::with_capacity(layers), ..Self::default() }
    }

    fn put(&mut self, laid: Laid, order: u64) {
        let number = self.laid.len();
        self.laid.push(Some(laid));
        self.order.push(order);
        if let Some(flap) = laid.flap {
            self.flaps.entry(flap).or_default().push(number);
        }
        if self.there.len() <= laid.on.0 {
            self.there.resize_with(laid.on.0 + 1, Along::default);
        }
        self.there[laid.on.0].put(laid.rect, number);
    }

    /// Lays a layer over everything.
    pub fn push(&mut self, laid: Laid) {
        self.outermost += APART;
        self.put(laid, self.outermost);
    }

    /// The last place before another that is or was taken, 0 where there is none.
    fn before(&self, order: u64) -> u64 {
        let over_everything = (order - 1) / APART * APART;
        self.between.range(..order).next_back().map_or(over_everything, |tucked| over_everything.max(*tucked))
    }

    /// Lays a layer right behind another.
    pub fn put_behind(&mut self, laid: Laid, other: usize) {
        if self.order[other] - self.before(self.order[other]) < 2 {
            // No room is left between the two: all are set apart again.
            let mut all = self.order.clone();
            all.sort_unstable();
            all.dedup();
            for o in &mut self.order {
                *o = APART * (all.partition_point(|x| x < o) as u64 + 1);
            }
            self.between.clear();
            self.outermost = APART * all.len() as u64;
        }
        let (below, above) = (self.before(self.order[other]), self.order[other]);
        let tucked = below + (above - below) / 2;
        self.between.insert(tucked);
        self.put(laid, tucked);
    }

    /// Takes a layer away.
    pub fn take(&mut self, number: usize) -> Option<Laid> {
        let laid = self.laid[number].take()?;
        self.there[laid.on.0].take(laid.rect, number);
        Some(laid)
    }

    /// Puts parts in the place of one.
    pub fn split(&mut self, number: usize, parts: impl IntoIterator<Item = Laid>) {
        let order = self.order[number];
        self.take(number);
        parts.into_iter().for_each(|p| self.put(p, order));
    }

    /// Those that share area with a rectangle, from inside to outside.
    pub fn reaching(&self, on: SurfaceId, rect: Rect) -> Numbers {
        let mut places = RankedNumbers::new();
        if let Some(there) = self.there.get(on.0) {
            there.reaching(rect, |_, n| places.push((self.order[n], n)));
        }
        in_order(places)
    }

    /// The layer of a number that is there.
    pub fn laid(&self, number: usize) -> Option<&Laid> {
        self.laid[number].as_ref()
    }

    /// The parts of a flap that lie there, from inside to outside.
    pub fn of_flap(&self, flap: FlapId) -> Numbers {
        let there = self.flaps.get(&flap).into_iter().flatten().filter(|n| self.laid[**n].is_some());
        in_order(there.map(|n| (self.order[*n], *n)).collect())
    }

    /// True where the first lies outside the second, or it is the same.
    pub fn is_outside(&self, a: usize, b: usize) -> bool {
        (self.order[a], a) >= (self.order[b], b)
    }

    /// All layers, from inside to outside.
    pub fn all(&self) -> impl Iterator<Item = (usize, Laid)> {
        let there = self.laid.iter().zip(&self.order).enumerate().filter(|(_, (l, _))| l.is_some());
        let mut places: Vec<(u64, usize)> = there.map(|(n, (_, order))| (*order, n)).collect();
        // Most are in order already, which a stable sort makes use of.
        places.sort();
        places.into_iter().filter_map(|(_, n)| Some((n, self.laid[n]?)))
    }

    /// All of them, from inside to outside, and parts that share a place from left to right, whatever was cut first.
    pub fn layers(&self) -> Vec<Laid> {
        let mut all: Vec<(u64, Laid)> = self.all().map(|(n, l)| (self.order[n], l)).collect();
        for parts in all.chunk_by_mut(|a, b| a.0 == b.0).filter(|parts| parts.len() > 1) {
            parts.sort_by_key(|(_, l)| (l.on, l.rect.u0, l.rect.v0));
        }
        all.into_iter().map(|(_, l)| l).collect()
    }

    /// All layers, in the order in which they were laid.
    pub fn each(&self) -> impl Iterator<Item = (usize, Laid)> {
        self.laid.iter().enumerate().filter_map(|(n, l)| Some((n, (*l)?)))
    }
}

/// Numbers of layers.
pub(super) type Numbers = SmallVec<[usize; 16]>;
/// Numbers with their places in the order.
type RankedNumbers = SmallVec<[(u64, usize); 16]>;

/// Numbers of layers, each once, from inside to outside.
fn in_order(mut places: RankedNumbers) -> Numbers {
    places.sort_unstable();
    places.dedup();
    places.into_iter().map(|(_, n)| n).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::length::Length;
    use crate::trade::PieceId;
    use proptest::prelude::*;

    fn layer(piece: usize, u: i64, w: i64) -> Laid {
        let rect = Rect::new(Length::inch(u), Length::ZERO, Length::inch(u + w), Length::inch(10));
        Laid { piece: PieceId(piece), flap: None, on: SurfaceId::WALL, rect }
    }

    #[test]
    fn what_is_tucked_behind_the_same_layer_again_and_again_lies_in_the_order_in_which_it_came() {
        let mut stack = Stack::default();
        stack.push(layer(0, 0, 100));
        stack.push(layer(1, 0, 100));
        for piece in 2..200 {
            let other = stack.all().last().expect("a layer").0;
            stack.put_behind(layer(piece, 0, 100), other);
        }
        let order: Vec<usize> = stack.all().map(|(_, l)| l.piece.0).collect();
        let expected: Vec<usize> = [0].into_iter().chain(2..200).chain([1]).collect();
        assert_eq!(order, expected);
    }

    /// What can be done to a list of layers.
    #[derive(Clone, Debug)]
    enum StackChange {
        Push(i64, i64),
        Behind(usize, i64, i64),
        Take(usize),
        Split(usize),
    }

    #[test]
    fn parts_of_one_layer_come_from_left_to_right_whichever_was_cut_first() {
        let cut = |middles: [i64; 2]| {
            let mut stack = Stack::default();
            stack.push(layer(0, 0, 100));
            stack.push(layer(1, 0, 100));
            for at in middles {
                let hit = |(n, l): (usize, Laid)| {
                    (l.piece == PieceId(0) && l.rect.overlaps(layer(0, at, 1).rect)).then_some((n, l))
                };
                let (n, l) = stack.all().find_map(hit).expect("a part");
                stack.split(n, l.rect.minus(layer(0, at, 10).rect).map(|rect| Laid { rect, ..l }));
            }
            stack.layers()
        };
        let lefts: Vec<(usize, Length)> = cut([60, 20]).iter().map(|l| (l.piece.0, l.rect.u0)).collect();
        let inch = Length::inch;
        assert_eq!(lefts, [(0, inch(0)), (0, inch(30)), (0, inch(70)), (1, inch(0))]);
        assert_eq!(cut([60, 20]), cut([20, 60]));
    }

    proptest! {
        /// The stack gives the same layers as a plain list does.
        #[test]
        fn a_stack_is_a_list_from_inside_to_outside(
            done in prop::collection::vec(
                prop_oneof![
                    (0_i64..200, 1_i64..120).prop_map(|(u, w)| StackChange::Push(u, w)),
                    (0_usize..40, 0_i64..200, 1_i64..120).prop_map(|(n, u, w)| StackChange::Behind(n, u, w)),
                    (0_usize..40).prop_map(StackChange::Take),
                    (0_usize..40).prop_map(StackChange::Split),
                ],
                1..40,
            ),
            (u, w) in (0_i64..200, 1_i64..120),
        ) {
            let mut stack = Stack::default();
            let mut list: Vec<Laid> = Vec::new();
            for (piece, d) in done.into_iter().enumerate() {
                let all: Vec<(usize, Laid)> = stack.all().collect();
                let nth = |n: usize| (!all.is_empty()).then(|| n % all.len());
                match d {
                    StackChange::Push(u, w) => {
                        stack.push(layer(piece, u, w));
                        list.push(layer(piece, u, w));
                    }
                    StackChange::Behind(n, u, w) => if let Some(i) = nth(n) {
                        stack.put_behind(layer(piece, u, w), all[i].0);
                        // Parts of one layer lie beside each other: behind one is behind all of them.
                        let first = all[..=i].iter().position(|(m, _)| stack.order[*m] == stack.order[all[i].0]);
                        list.insert(first.unwrap_or(i), layer(piece, u, w));
                    },
                    StackChange::Take(n) => if let Some(i) = nth(n) {
                        prop_assert_eq!(stack.take(all[i].0), Some(list.remove(i)));
                    },
                    StackChange::Split(n) => if let Some(i) = nth(n) {
                        let l = list[i];
                        let middle = Length::from_units((l.rect.u0 + l.rect.u1).units() / 2);
                        let parts = [Rect { u1: middle, ..l.rect }, Rect { u0: middle, ..l.rect }].map(|rect| Laid { rect, ..l });
                        stack.split(all[i].0, parts);
                        // Those that share its place in the order come before its parts.
                        list.remove(i);
                        let order = stack.order[all[i].0];
                        let same = all[i + 1..].iter().take_while(|(m, _)| stack.order[*m] == order).count();
                        list.splice(i + same..i + same, parts);
                    },
                }
                prop_assert_eq!(stack.all().map(|(_, l)| l).collect::<Vec<_>>(), list.clone());
            }
            let around = layer(0, u, w).rect;
            let found = stack.reaching(SurfaceId::WALL, around);
            let found: Vec<Laid> = found.into_iter().filter_map(|n| stack.laid(n).copied()).collect();
            let expected: Vec<Laid> = list.into_iter().filter(|l| l.rect.overlaps(around)).collect();
            prop_assert_eq!(found, expected);
        }
    }
}
