//! The ways in of one part of a wall, in the part's own numbers: they hang on the water's answer and on little else, so they are kept beside it.

use super::WallPart;
use crate::layup::SheetId;
use crate::length::{Head, Length};
use crate::plan::{Plan, SurfaceId};
use crate::surface::Edge;
use crate::water::answer::{WetSpot, spots, way_to};
use crate::water::{Entered, Entries, PassageKind, WaterWay};
use std::collections::BTreeMap;
use std::collections::btree_map::Entry;
use std::sync::OnceLock;

/// Heads that differ by less than this are alike, in: they were added up in different orders.
pub const ALIKE: f64 = 1e-6;

/// Behind which sheet the water first gets in, at which edge, and whether through a slit; `None` an open place.
pub type Entrance = Option<(SheetId, Edge, bool)>;

/// What ways in were looked for with.
#[derive(Clone, Debug, PartialEq)]
pub struct WaysAsked {
    /// The floor with the glue holding, and with it lost.
    floors: [Length; 2],
    /// Whether a leak's water matters in openings only, by scenario.
    openings_only: Vec<bool>,
    /// Whether a target lies on the wall's face.
    on_wall: Vec<bool>,
}

impl WaysAsked {
    /// What a plan asks of a part.
    pub fn of(plan: &Plan, part: &WallPart) -> Self {
        Self {
            floors: [plan.floor(false), plan.floor(true)],
            openings_only: part.leaks.iter().map(|l| l.is_some_and(|l| plan.water.leaks[l].openings_only)).collect(),
            on_wall: part.targets.iter().map(|t| plan.water.targets[*t].on == SurfaceId::WALL).collect(),
        }
    }
}

/// The ways in by scenario.
pub type WaysIn = Vec<BTreeMap<Entrance, WayIn>>;

/// One place at which water gets in, with the targets it reaches from there.
#[derive(Clone, Debug)]
pub struct WayIn {
    /// The least head.
    pub head: Head,
    /// How many edges the water passes.
    pub passages: usize,
    /// The target that tells it.
    pub target: usize,
    /// Where on that target.
    pub spot: WetSpot,
    /// Each target reached, and the least head there.
    pub reached: BTreeMap<usize, Head>,
    traced: OnceLock<(WaterWay, WaterWay)>,
}

impl WayIn {
    /// Of two alike the plainest is told, and of those the one that runs farthest down; then the first by target, and from left to right.
    fn join(&mut self, other: Self) {
        for (target, head) in &other.reached {
            let least = self.reached.entry(*target).or_insert(*head);
            if head.inches() < least.inches() {
                *least = *head;
            }
        }
        let telling = |c: &Self| (c.passages, c.spot.point.1, c.target, c.spot.point.0);
        let easier = self.head.inches() - other.head.inches();
        if easier > ALIKE || easier.abs() <= ALIKE && telling(&other) < telling(self) {
            let reached = std::mem::take(&mut self.reached);
            *self = Self { reached, ..other };
        }
    }

    /// The way the water took, and the same with what it does next.
    pub fn traced(&self, part: &WallPart, scenario: usize) -> &(WaterWay, WaterWay) {
        self.traced.get_or_init(|| {
            let (layup, a, spread) = (part.layup(), &*part.arrangement(), &*part.spread(scenario));
            let way = way_to(layup, a, spread, &self.spot);
            let on = match self.spot.front {
                Some(front) => {
                    let kept = &spread.kept[front as usize];
                    let glue = layup.scenarios[scenario].glue;
                    way.clone().run_on(layup, a, glue, kept.cell, usize::from(kept.gap), self.spot.point)
                }
                None => way.clone(),
            };
            (way, on)
        })
    }
}

/// All ways in of a part.
pub fn of_part(part: &WallPart, asked: &WaysAsked) -> WaysIn {
    (0..part.leaks.len()).map(|scenario| in_scenario(part, asked, scenario)).collect()
}

fn in_scenario(part: &WallPart, asked: &WaysAsked, scenario: usize) -> BTreeMap<Entrance, WayIn> {
    let mut found = BTreeMap::new();
    let (layup, a) = (part.layup(), &*part.arrangement());
    let floor = asked.floors[usize::from(part.is_lost(scenario))];
    let spread = &*part.spread(scenario);
    let mut entries = Entries::new(a, spread);
    spots(layup, a, spread, floor, |target, head, spot| {
        let counts = !asked.openings_only[scenario] || !asked.on_wall[target];
        if !counts || head.inches() >= floor.to_inches_f64() - ALIKE {
            return;
        }
        let Entered { first, passages } = spot.front.map_or_else(Entered::default, |front| entries.of(front));
        let entrance = first.map(|(sheet, edge, kind)| (sheet, edge, kind == PassageKind::InThroughCut));
        let new = WayIn { head, passages, target, spot, reached: [(target, head)].into(), traced: OnceLock::new() };
        match found.entry(entrance) {
            Entry::Vacant(e) => {
                e.insert(new);
            }
            Entry::Occupied(mut e) => WayIn::join(e.get_mut(), new),
        }
    });
    found
}
