//! In which order the steps of walls and openings are worked.

use crate::trade::{Band, Step, StepId};
use foldhash::HashMap;
use std::cmp::Ordering;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;
use typed_index_collections::{TiSlice, TiVec};

/// A step and the stretch of walls it is on; none where two stretches meet.
pub(super) type Sited = (Option<usize>, Arc<Step>);

/// Steps of the wall and of all openings: the wall's own steps stand where their recipe puts them, and between two of them one opening is
/// worked after the other. Where windows go first, what is done at an opening until it is flashed comes before the barrier. One stretch is
/// worked after the other; the strips over the corners where they meet come once both are there, and before what hides them.
/// Features that stand so close that their flashings meet are worked together: the lower before the one above it, and band by band those that
/// stand beside each other.
pub(super) fn in_working_order(
    steps: Vec<Sited>,
    windows_first: impl Fn(usize) -> bool,
    neighbours: &HashMap<String, (usize, usize)>,
) -> Vec<Arc<Step>> {
    // A band of the wall stands between what is worked before and after it.
    let at = |(on, s): &Sited| {
        if s.band.is_of_a_unit() && s.opening.is_some() && on.is_some_and(&windows_first) {
            let (band, after) = s.band.with_windows_first();
            return (band, if after { Ordering::Greater } else { Ordering::Less });
        }
        (s.band, Ordering::Equal)
    };
    let met = steps.iter().filter(|(on, _)| on.is_none()).map(|(_, s)| s.band).min();
    let mut breaks: BTreeMap<Option<usize>, BTreeSet<(Band, Ordering)>> = BTreeMap::new();
    for step in steps.iter().filter(|(_, s)| s.opening.is_none()) {
        breaks.entry(step.0).or_default().insert(at(step));
    }
    let part = |s: &Sited| breaks.get(&s.0).map_or(0, |breaks| breaks.iter().filter(|b| **b <= at(s)).count());
    // Before the strips, the strips, after them.
    let block = |(on, s): &Sited| met.map_or(0, |met| if on.is_none() { 1 } else { 2 * usize::from(s.band >= met) });
    // A group of neighbours stands where its first one does. Of each opening: where it stands, and its rank among its neighbours.
    let mut known: HashMap<&str, (usize, Option<usize>)> = HashMap::default();
    let mut of_group: HashMap<usize, usize> = HashMap::default();
    let mut keys = Vec::with_capacity(steps.len());
    for (n, s) in steps.iter().enumerate() {
        let of_opening = s.1.opening.as_deref().map(|id| {
            *known.entry(id).or_insert_with(|| match neighbours.get(id) {
                Some((group, rank)) => (*of_group.entry(*group).or_insert(n), Some(*rank)),
                None => (n, None),
            })
        });
        let within = of_opening.and_then(|(_, rank)| Some((rank?, s.1.band)));
        keys.push((block(s), s.0, part(s), of_opening.map(|(place, _)| place), within));
    }
    let mut order: Vec<usize> = (0..steps.len()).collect();
    // Stable: openings stay in the job's order.
    order.sort_by_key(|i| keys[*i]);
    let mut sorted: Vec<Option<Sited>> = steps.into_iter().map(Some).collect();
    order.into_iter().filter_map(|i| sorted[i].take()).map(|(_, step)| step).collect()
}

/// Steps in the job's own order; steps it does not name stand behind the step they follow in the recipes.
pub(super) fn order(steps: &TiSlice<StepId, Arc<Step>>, own: &[String]) -> Vec<StepId> {
    let known: HashMap<&str, StepId> = steps.iter_enumerated().map(|(s, step)| (step.id.as_str(), s)).collect();
    let mut named: TiVec<StepId, bool> = vec![false; steps.len()].into();
    let mut listed: Vec<StepId> = Vec::new();
    for s in own.iter().filter_map(|id| known.get(id.as_str()).copied()) {
        if !std::mem::replace(&mut named[s], true) {
            listed.push(s);
        }
    }
    // Behind each named step those that follow it in the recipes up to the next named one; before all of them those at the start.
    let unnamed = |from: usize| steps.keys().skip(from).take_while(|s| !named[*s]);
    unnamed(0).chain(listed.iter().flat_map(|s| std::iter::once(*s).chain(unnamed(s.0 + 1)))).collect()
}
