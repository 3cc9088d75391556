//! What is ticked off at the bench, and from which roll it was cut. People at the bench stand in nobody's way: this is kept beside the history
//! of a job, so that a tick neither needs the job's newest revision nor is taken back with somebody else's change.

use super::Job;
use super::bounds::MOST_IDS;
use crate::problem::Problem;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashSet};

/// Longest id of a piece in characters.
const LONGEST_ID: usize = 120;
/// Greatest number of a roll.
const MOST_ROLL: usize = 1_000_000;

/// A piece ticked off at the bench, or not.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Tick {
    /// Id of the piece.
    pub piece: String,
    /// Cut or not.
    pub cut: bool,
    /// From which roll of its product it was cut, from 1, as the cut list says; left out where it comes from none.
    #[serde(default)]
    pub roll: Option<usize>,
}

/// What is ticked off, and from which rolls.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Ticked {
    /// Ids of pieces that are cut.
    pub ticks: Vec<String>,
    /// From which roll each was cut; what was spoiled stands under its id with `~1` and so on behind it.
    pub rolls: BTreeMap<String, usize>,
}

impl Ticked {
    /// What is ticked off in a job.
    pub fn of(job: &Job) -> Self {
        Self { ticks: job.ticks.clone(), rolls: job.bench.rolls.clone() }
    }

    /// Puts it into a job in place of what the job says.
    pub fn into_job(self, job: &mut Job) {
        job.ticks = self.ticks;
        job.bench.rolls = self.rolls;
    }

    /// Ticks a piece off, or not.
    ///
    /// # Errors
    /// An id or a roll that cannot be one; more pieces than a job may have.
    pub fn tick(&mut self, tick: &Tick) -> Result<(), Vec<Problem>> {
        let no = |path: &str, message: String| Err(vec![Problem::new(path, message)]);
        let n = tick.piece.chars().count();
        if n == 0 || n > LONGEST_ID || tick.piece.chars().any(char::is_control) {
            return no(
                "$.piece",
                format!("the id of a piece has {n} characters, expected 1 to {LONGEST_ID} as in the cut list"),
            );
        }
        if tick.piece.contains('~') {
            return no(
                "$.piece",
                format!("\"{}\" is spoiled already; tick off the piece that is cut in its place", tick.piece),
            );
        }
        if let Some(roll) = tick.roll.filter(|r| !(1..=MOST_ROLL).contains(r)) {
            return no("$.roll", format!("found roll {roll}, expected 1 to {MOST_ROLL} as in the cut list"));
        }
        if tick.cut && self.ticks.len() >= MOST_IDS && !self.ticks.contains(&tick.piece) {
            return no(
                "$.piece",
                format!("{MOST_IDS} pieces are ticked off already, the most in one job: split the job"),
            );
        }
        self.ticks.retain(|p| *p != tick.piece);
        self.rolls.remove(&tick.piece);
        if tick.cut {
            self.ticks.push(tick.piece.clone());
            self.rolls.extend(tick.roll.map(|roll| (tick.piece.clone(), roll)));
        }
        Ok(())
    }

    /// What two of them do not have in common, each by itself; none where they are the same.
    pub fn changed(before: &Self, after: &Self) -> Option<[Self; 2]> {
        let alone = |a: &Self, b: &Self| {
            let there: HashSet<&String> = b.ticks.iter().collect();
            Self {
                ticks: a.ticks.iter().filter(|t| !there.contains(t)).cloned().collect(),
                rolls: a
                    .rolls
                    .iter()
                    .filter(|(id, r)| b.rolls.get(*id) != Some(r))
                    .map(|(i, r)| (i.clone(), *r))
                    .collect(),
            }
        };
        let both = [alone(before, after), alone(after, before)];
        (both != [Self::default(), Self::default()]).then_some(both)
    }

    /// Takes over what a change made of it, whatever was ticked off meanwhile: what the change took away is gone, what it added is there.
    pub fn carry(&mut self, before: &Self, after: &Self) {
        let set = |ticks: &[String]| ticks.iter().cloned().collect::<HashSet<String>>();
        let (was, is) = (set(&before.ticks), set(&after.ticks));
        self.ticks.retain(|t| !was.contains(t) || is.contains(t));
        let here = set(&self.ticks);
        let new = after.ticks.iter().filter(|t| !was.contains(*t) && !here.contains(*t));
        self.ticks.extend(new.cloned());
        self.rolls.retain(|id, _| !before.rolls.contains_key(id) || after.rolls.contains_key(id));
        let more = after.rolls.iter().filter(|(id, roll)| before.rolls.get(*id) != Some(roll));
        self.rolls.extend(more.map(|(id, roll)| (id.clone(), *roll)));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn tick(piece: &str, cut: bool, roll: Option<usize>) -> Tick {
        Tick { piece: piece.into(), cut, roll }
    }

    #[test]
    fn ids_and_rolls_that_cannot_be_are_refused_and_nothing_is_kept() {
        let mut all = Ticked::default();
        for wrong in [
            tick("", true, None),
            tick(&"x".repeat(121), true, None),
            tick("a\u{7}", true, None),
            tick("a", true, Some(0)),
            tick("a~1", true, None),
        ] {
            all.tick(&wrong).expect_err("refused");
        }
        assert_eq!(all, Ticked::default());
    }

    proptest! {
        /// A change and ticks of others, made at the same time, are both kept.
        #[test]
        fn a_change_keeps_what_was_ticked_off_meanwhile(
            first in prop::collection::vec((0..6_u8, any::<bool>(), prop::option::of(1..4_usize)), 0..8),
            drops in prop::collection::vec(0..6_u8, 0..3),
            meanwhile in prop::collection::vec((0..6_u8, any::<bool>(), prop::option::of(1..4_usize)), 0..8),
        ) {
            let apply = |to: &mut Ticked, list: &[(u8, bool, Option<usize>)]| {
                for (piece, cut, roll) in list {
                    to.tick(&tick(&format!("p{piece}"), *cut, *roll)).expect("fine");
                }
            };
            let mut before = Ticked::default();
            apply(&mut before, &first);
            let (mut after, mut now) = (before.clone(), before.clone());
            let gone: Vec<String> = drops.iter().map(|p| format!("p{p}")).collect();
            after.ticks.retain(|t| !gone.contains(t));
            after.rolls.retain(|t, _| !gone.contains(t));
            apply(&mut now, &meanwhile);
            let ticked = now.clone();
            now.carry(&before, &after);
            for t in &ticked.ticks {
                let dropped = before.ticks.contains(t) && gone.contains(t);
                prop_assert_eq!(now.ticks.contains(t), !dropped, "{}", t);
            }
            prop_assert!(now.ticks.iter().all(|t| ticked.ticks.contains(t) || after.ticks.contains(t)));
        }
    }
}
