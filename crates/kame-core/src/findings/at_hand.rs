//! Cells of parts of walls, and how effort spread in them: by far the most of what an answer takes to keep, and seldom looked at again.

use crate::layup::Layup;
use crate::water::{Arrangement, Bounds, Spread, spread_in};
use lru::LruCache;
use std::sync::{Arc, Mutex, PoisonError};

/// So many bytes of it are kept altogether.
const MOST_BYTES: usize = 48 << 20;

/// A part by its number: its cells, or how effort spread in a scenario.
type Named = (u64, Option<usize>);

#[derive(Clone, Debug)]
enum Thing {
    Cells(Arc<Arrangement>),
    Spread(Arc<Spread>),
}

impl Thing {
    fn bytes(&self) -> usize {
        match self {
            Self::Cells(cells) => cells.bytes(),
            Self::Spread(spread) => spread.bytes(),
        }
    }
}

/// What was looked at last. The rest is let go of: dividing and spreading again give the same.
#[derive(Debug)]
pub(super) struct AtHand {
    kept: Mutex<Kept>,
    most: usize,
}

#[derive(Debug)]
struct Kept {
    all: LruCache<Named, Thing>,
    bytes: usize,
}

impl Default for AtHand {
    fn default() -> Self {
        Self::within(MOST_BYTES)
    }
}

impl AtHand {
    /// Keeps no more bytes than these, and the last thing whatever its size.
    pub fn within(most: usize) -> Self {
        Self { kept: Mutex::new(Kept { all: LruCache::unbounded(), bytes: 0 }), most }
    }

    fn get(&self, name: Named) -> Option<Thing> {
        // What is kept is never half written, so a lock that another thread left in a panic can be taken.
        self.kept.lock().unwrap_or_else(PoisonError::into_inner).all.get(&name).cloned()
    }

    /// The cells of a part.
    pub fn cells(&self, part: u64, layup: &Layup) -> Arc<Arrangement> {
        if let Some(Thing::Cells(known)) = self.get((part, None)) {
            return known;
        }
        // A part is divided before it is answered, so that its layup is known to be sound.
        let cells = Arc::new(Arrangement::new(layup).unwrap_or_else(|_| Arrangement::empty(layup)));
        self.put((part, None), Thing::Cells(Arc::clone(&cells)));
        cells
    }

    /// How effort spread in a scenario of a part.
    pub fn spread(&self, part: u64, (layup, bounds): (&Layup, Bounds), scenario: usize) -> Arc<Spread> {
        if let Some(Thing::Spread(known)) = self.get((part, Some(scenario))) {
            return known;
        }
        let spread = spread_in(layup, &self.cells(part, layup), scenario, bounds);
        let spread = Arc::new(spread.shrunk());
        self.put((part, Some(scenario)), Thing::Spread(Arc::clone(&spread)));
        spread
    }

    /// Keeps the cells of a part that was just answered, and how effort spread in each scenario.
    pub fn keep(&self, part: u64, cells: Arrangement, spreads: Vec<Spread>) {
        self.put((part, None), Thing::Cells(Arc::new(cells)));
        for (scenario, spread) in spreads.into_iter().enumerate() {
            self.put((part, Some(scenario)), Thing::Spread(Arc::new(spread.shrunk())));
        }
    }

    fn put(&self, name: Named, thing: Thing) {
        let mut gone = Vec::new();
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        kept.bytes += thing.bytes();
        if let Some(before) = kept.all.put(name, thing) {
            kept.bytes -= before.bytes();
            gone.push(before);
        }
        while kept.bytes > self.most && kept.all.len() > 1 {
            let Some((_, oldest)) = kept.all.pop_lru() else { break };
            kept.bytes -= oldest.bytes();
            gone.push(oldest);
        }
        // What goes is let go of when others can look again.
        drop(kept);
        drop(gone);
    }

    /// How many bytes are kept.
    pub fn bytes(&self) -> usize {
        self.kept.lock().unwrap_or_else(PoisonError::into_inner).bytes
    }
}
