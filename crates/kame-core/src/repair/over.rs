//! What has to come off with what: everything that lies over it, and what belongs under it by the recipes. Each piece is looked at once.

use crate::plan::{Plan, SurfaceId};
use crate::sequence::Stage;
use crate::surface::{Along, Rect};
use crate::trade::{FlapId, PieceId};
use std::collections::{BTreeSet, HashMap, HashSet};

/// A stack, with what is needed to follow what lies over what.
#[derive(Clone)]
pub struct LiesOver<'a> {
    plan: &'a Plan,
    stage: &'a Stage,
    /// Layers by where they are, surface by surface.
    there: HashMap<SurfaceId, Along<usize>>,
    /// Layers of each piece.
    of_piece: HashMap<PieceId, Vec<usize>>,
    /// When each piece is placed by the recipes.
    placed: HashMap<PieceId, usize>,
}

impl<'a> LiesOver<'a> {
    /// Looks up what lies over what on a stage.
    pub fn new(plan: &'a Plan, stage: &'a Stage) -> Self {
        let mut there: HashMap<SurfaceId, Along<usize>> = HashMap::new();
        let mut of_piece: HashMap<PieceId, Vec<usize>> = HashMap::new();
        for (n, l) in stage.layers.iter().enumerate() {
            there.entry(l.on).or_default().put(l.rect, n);
            of_piece.entry(l.piece).or_default().push(n);
        }
        let steps = plan.steps.iter().filter(|s| !plan.is_of_a_repair(s));
        let acts = steps.flat_map(|s| &s.actions).enumerate();
        let placed = acts.filter_map(|(n, a)| Some((a.act.placed()?, n))).collect();
        Self { plan, stage, there, of_piece, placed }
    }

    /// Layers that lie where a rectangle does.
    fn meeting(&self, on: SurfaceId, rect: Rect) -> Vec<usize> {
        let mut out = Vec::new();
        if let Some(along) = self.there.get(&on) {
            along.reaching(rect, |_, n| out.push(n));
        }
        out
    }

    /// Pieces that lie over some layers, of those asked about.
    fn over(&self, layers: &[usize], asked: &dyn Fn(PieceId) -> bool) -> Vec<PieceId> {
        let outside = |n: &usize| {
            let l = &self.stage.layers[*n];
            self.meeting(l.on, l.rect).into_iter().filter(|m| m > n).collect::<Vec<_>>()
        };
        let pieces = layers.iter().flat_map(outside).map(|m| self.stage.layers[m].piece);
        pieces.filter(|p| asked(*p)).collect()
    }

    /// Some pieces and all that lie over them, and over those, of the pieces asked about.
    pub fn with_all_over(&self, start: BTreeSet<PieceId>, asked: impl Fn(PieceId) -> bool) -> BTreeSet<PieceId> {
        let mut out = start;
        let mut new: Vec<PieceId> = out.iter().copied().collect();
        while let Some(piece) = new.pop() {
            let layers = self.of_piece.get(&piece).map_or(&[][..], Vec::as_slice);
            new.extend(self.over(layers, &asked).into_iter().filter(|p| out.insert(*p)));
        }
        out
    }

    /// Some pieces and everything that has to come off so that they can be laid as planned: what lies over them, over flaps that are lifted for them,
    /// what belongs over what is not there yet, and what could not be laid because of them.
    pub fn back_to(&self, start: BTreeSet<PieceId>) -> BTreeSet<PieceId> {
        let mut out = start;
        let mut new: Vec<PieceId> = out.iter().copied().collect();
        let mut lifted: HashSet<FlapId> = HashSet::new();
        while let Some(piece) = new.pop() {
            let mut more = self.over(self.of_piece.get(&piece).map_or(&[][..], Vec::as_slice), &|_| true);
            let flaps = self.plan.flaps_at(&[piece]);
            let flaps: HashSet<FlapId> = flaps.into_iter().filter(|f| lifted.insert(*f)).collect();
            if !flaps.is_empty() {
                let of_flap = |(n, l): (usize, &crate::sequence::Laid)| l.flap.filter(|f| flaps.contains(f)).map(|_| n);
                let layers: Vec<usize> = self.stage.layers.iter().enumerate().filter_map(of_flap).collect();
                more.extend(self.over(&layers, &|_| true));
            }
            more.extend(self.belonging_over(piece));
            more.extend(self.could_not(piece));
            new.extend(more.into_iter().filter(|p| out.insert(*p)));
        }
        out
    }

    /// Pieces that lie where a piece does as planned, and come after it by the recipes.
    fn belonging_over(&self, piece: PieceId) -> Vec<PieceId> {
        let regions = self.plan.departures.as_planned.get(&piece).unwrap_or(&self.plan.pieces[piece].regions);
        let there = regions.iter().flat_map(|(on, r)| self.meeting(*on, *r)).map(|n| self.stage.layers[n].piece);
        there.filter(|p| self.placed.get(&piece) < self.placed.get(p)).collect()
    }

    /// Pieces at the same opening, or at one that a piece reaches, that could not be laid.
    fn could_not(&self, piece: PieceId) -> Vec<PieceId> {
        let blocked = self.stage.blocked.iter().filter_map(|b| b.act.placed());
        let meets = |p: &PieceId| {
            let Some(of) = self.plan.pieces[*p].opening else { return false };
            let hull = self.plan.openings[of].hull;
            let q = &self.plan.pieces[piece];
            q.opening == Some(of) || q.regions.iter().any(|(on, r)| *on == SurfaceId::WALL && hull.overlaps(*r))
        };
        blocked.filter(meets).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::Job;
    use crate::plan::build;
    use proptest::prelude::*;

    fn wall(barrier: &str) -> (Plan, Stage) {
        let mut job = Job::new("over");
        job.wall.schools.insert("barrier".into(), barrier.into());
        let plan = build(&job).expect("a plan");
        let stage = Stage::after(&plan, plan.actions().map(|(_, a)| a));
        (plan, stage)
    }

    /// The same as the fast search gives, looked up layer by layer until nothing is added.
    fn plainly(stage: &Stage, start: &BTreeSet<PieceId>, asked: impl Fn(PieceId) -> bool) -> BTreeSet<PieceId> {
        let mut out = start.clone();
        loop {
            let before = out.len();
            for (n, l) in stage.layers.iter().enumerate().filter(|(_, l)| asked(l.piece)) {
                let inside = &stage.layers[..n];
                if inside.iter().any(|k| out.contains(&k.piece) && k.on == l.on && k.rect.overlaps(l.rect)) {
                    out.insert(l.piece);
                }
            }
            if out.len() == before {
                return out;
            }
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]

        #[test]
        fn what_lies_over_what_is_found_however_it_is_looked_for(
            barrier in prop::sample::select(vec!["loose", "plaster", "panel", "fluid"]),
            picks in prop::collection::vec(any::<prop::sample::Index>(), 1..4),
            only_covers in any::<bool>(),
        ) {
            let (plan, stage) = wall(barrier);
            let start: BTreeSet<PieceId> = picks.iter().map(|i| PieceId(i.index(plan.pieces.len()))).collect();
            let asked = |p: PieceId| !only_covers || plan.pieces[p].comes_off_whole();
            let over = LiesOver::new(&plan, &stage);
            prop_assert_eq!(over.with_all_over(start.clone(), asked), plainly(&stage, &start, asked));
            // Taking back takes no less, and taken once more nothing comes to it.
            let back = over.back_to(start.clone());
            prop_assert!(plainly(&stage, &start, |_| true).is_subset(&back));
            prop_assert_eq!(over.back_to(back.clone()), back);
        }
    }

    #[test]
    fn what_hangs_lowest_takes_the_wall_and_what_hangs_last_itself() {
        let (plan, stage) = wall("loose");
        let over = LiesOver::new(&plan, &stage);
        let piece = |id: &str| plan.pieces.position(|p| p.id == id).expect("a piece");
        let of = |id: &str| over.back_to([piece(id)].into());
        assert!(of("course-1").len() > 8 && of("course-1").contains(&piece("W1/unit")));
        assert!(!of("W1/head-flashing").contains(&piece("W1/pan")));
        assert_eq!(of("W1/patch-left"), [piece("W1/patch-left")].into());
    }
}
