//! What recipes made at openings before, kept: after an edit all openings but one are made as they were.

use super::added::{Added, Detail, Numbers, OpeningSize};
use crate::length::Length;
use crate::profile::Figures;
use crate::recipe::Recipe;
use crate::surface::Rect;
use foldhash::fast::FixedState;
use lru::LruCache;
use std::hash::{BuildHasher, Hash, Hasher};
use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex, MutexGuard, OnceLock, PoisonError};

/// All that a recipe at an opening is made from, but for the numbers it is counted from.
#[derive(Clone, Debug)]
pub struct MadeFrom {
    pub(super) recipe: Arc<Recipe>,
    pub(super) opening: OpeningSize,
    pub(super) figures: Figures,
    /// All of the walls.
    pub(super) wall: Rect,
    /// How many stretches of walls there are.
    pub(super) stretches: usize,
}

impl PartialEq for MadeFrom {
    fn eq(&self, other: &Self) -> bool {
        let rest = |m: &Self| (m.wall, m.stretches);
        let alike = Arc::ptr_eq(&self.recipe, &other.recipe) && self.figures.is_copy_of(&other.figures);
        alike && self.opening == other.opening && rest(self) == rest(other)
    }
}

impl Eq for MadeFrom {}

impl Hash for MadeFrom {
    fn hash<H: Hasher>(&self, to: &mut H) {
        (Arc::as_ptr(&self.recipe), &self.opening, self.wall, self.stretches).hash(to);
    }
}

/// Products of which it was asked how many coats they want, and how many that were.
pub(super) type CoatsAsked = Vec<(String, u32)>;

/// A recipe as it was made at an opening.
#[derive(Debug)]
pub struct Made {
    /// What it was made from.
    pub from: MadeFrom,
    pub(super) numbers: Numbers,
    /// How much higher than the head the next lap has to be, where the recipe says it.
    pub(super) clear_above: Option<Length>,
    /// Products of which it was asked how many coats they want, and how many that were.
    pub(super) coats: CoatsAsked,
    pub(super) added: Added,
    pub(super) detail: Detail,
}

/// So many openings are kept as they were made, the last ones asked for: a few buildings.
const KEPT: NonZeroUsize = NonZeroUsize::new(1024).expect("not zero");

/// So many sets of figures are known again.
const KEPT_FIGURES: usize = 16;

/// What was made, by a hash of what it was made from.
type MadeBefore = LruCache<u64, Arc<Made>>;

fn made_before() -> MutexGuard<'static, MadeBefore> {
    static MADE: OnceLock<Mutex<MadeBefore>> = OnceLock::new();
    // What is made is put there whole, so a lock that another thread left in a panic can be taken.
    MADE.get_or_init(|| Mutex::new(LruCache::new(KEPT))).lock().unwrap_or_else(PoisonError::into_inner)
}

fn mark(from: &MadeFrom) -> u64 {
    FixedState::default().hash_one(from)
}

/// What was made from just that before, where it is still kept.
pub(super) fn known(from: &MadeFrom) -> Option<Arc<Made>> {
    let found = made_before().get(&mark(from)).cloned();
    found.filter(|made| made.from == *from)
}

/// Keeps what was made.
pub(super) fn keep(made: &Arc<Made>) {
    made_before().put(mark(&made.from), Arc::clone(made));
}

/// The same figures in the copy that was used for them before, so that they are known again without being read.
pub(super) fn figures_as_before(figures: Figures) -> Figures {
    static KNOWN: Mutex<Vec<Figures>> = Mutex::new(Vec::new());
    let known = || KNOWN.lock().unwrap_or_else(PoisonError::into_inner);
    // Whole tables are held against each other, so nobody waits for that.
    let before = known().clone();
    let same = before.into_iter().find(|f| *f == figures).unwrap_or(figures);
    let mut known = known();
    known.retain(|f| !f.is_copy_of(&same));
    known.insert(0, same.clone());
    known.truncate(KEPT_FIGURES);
    same
}

#[cfg(test)]
mod tests {
    use crate::job::{Job, OpeningSpec};
    use crate::length::Length;
    use crate::plan::build;
    use crate::recipe::schools::Feature;
    use proptest::prelude::*;

    /// A wall with two windows, a pipe and a line along it.
    fn wall() -> Job {
        let mut job = Job::new("kept");
        (job.wall.width, job.wall.height) = (Length::inch(400), Length::inch(190));
        let more = [("W2", 170, Feature::Opening), ("P1", 240, Feature::Penetration), ("L1", 290, Feature::Line)];
        for (id, left, feature) in more {
            let (width, height) = match feature {
                Feature::Opening => (36, 48),
                Feature::Penetration => (4, 4),
                Feature::Line => (80, 2),
            };
            let like = job.openings[0].clone();
            let sill = Length::inch(if feature == Feature::Line { 110 } else { 40 });
            let (left, width, height) = (Length::inch(left), Length::inch(width), Length::inch(height));
            job.openings.push(OpeningSpec {
                id: id.into(),
                name: id.into(),
                feature,
                left,
                sill,
                width,
                height,
                ..like
            });
        }
        job
    }

    /// One change among those that what is made at an opening follows from.
    fn change(job: &mut Job, (what, at): (u8, usize)) {
        let n = at as i64;
        match what {
            0 => job.openings[at % 2].width += Length::inch_fraction(n, 8),
            1 => drop(job.figures.insert("pan_ear".into(), (at % 3 + 1).to_string())),
            2 => job.openings.swap(0, 1),
            3 => {
                let barrier = ["loose", "panel", "fluid"][at % 3];
                job.wall.schools.insert("barrier".into(), barrier.into());
            }
            4 => {
                let own = format!(r#"{{"attributes": {{"coats": "{}"}}}}"#, at % 3 + 1);
                let own = serde_json::from_str(&own).expect("a product");
                job.kit.products.insert("Fluid-applied barrier".into(), own);
            }
            5 => job.wall.width += Length::inch(n),
            6 => drop(job.openings[at % 2].schools.insert("sill".into(), ["fluid", "stretch"][at % 2].into())),
            _ => job.openings[at % 2].depth += Length::inch_fraction(n, 8),
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]

        /// Whatever was made before, a plan is what it would be if nothing had been.
        #[test]
        fn a_plan_follows_from_its_job_alone(changes in prop::collection::vec((0_u8..8, 0_usize..12), 1..6)) {
            let mut job = wall();
            let told = |job: &Job| build(job).map(|plan| format!("{plan:?}")).map_err(|p| format!("{p:?}"));
            prop_assert!(told(&job).is_ok());
            for c in changes {
                change(&mut job, c);
                let after = told(&job);
                super::made_before().clear();
                prop_assert_eq!(&after, &told(&job), "after {:?}", c);
            }
        }
    }
}
