//! The wall after a number of actions: what each action does to the stack (handbook 3.1, 4.7).

use super::laid::Laid;
use super::stack::Stack;
use crate::job::FoundKind;
use crate::layup::Bond;
use crate::plan::{Effect, Opening, Piece, Plan, SurfaceId};
use crate::recipe::{FitOf, ReachSpec, Role};
use crate::surface::{Along, Rect, Segment};
use crate::trade::{Act, Action, CutId, FlapId, PieceId, SealId};
use smallvec::{SmallVec, smallvec};
use std::mem::take;
use std::ops::Range;
use typed_index_collections::TiVec;

/// Why an action could not be done.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Why {
    /// The piece is there already.
    AlreadyPlaced,
    /// A solid thing is in the way: on a return facet nothing goes outside it.
    Behind {
        /// The solid piece.
        solid: PieceId,
    },
    /// The opening is still covered by the barrier.
    NotCut,
    /// There is no barrier to cut.
    NothingToCut,
    /// A loose edge was asked for, but this piece is stuck down.
    StuckUnder {
        /// The piece in the way.
        piece: PieceId,
    },
    /// The piece has not been placed.
    NotPlaced {
        /// The piece, by its index.
        piece: PieceId,
    },
    /// The piece is there already, so the bead cannot get behind it.
    TooLateBehind {
        /// The piece, by its index.
        piece: PieceId,
    },
    /// The flap has not been cut, or is not where the action needs it.
    NoFlap,
    /// Nothing lies there that could be hurt.
    NothingThere,
}

/// An action that could not be done, or only in part.
#[derive(Clone, Debug, PartialEq)]
pub struct Blocked {
    /// Which action.
    pub action: String,
    /// What it would have done.
    pub act: Act,
    /// What stood in the way.
    pub why: Why,
}

/// A piece as it is now. It says itself what has to be known of it again and again, so that the plan need not be asked.
#[derive(Clone, Copy, Debug)]
struct Now {
    bond: Bond,
    role: Role,
    solid: bool,
    grips: bool,
    /// It lies on the wall or is held up.
    there: bool,
    pressed: bool,
    cured: bool,
    /// It was taken off: what is laid there next is new, and as planned.
    renewed: bool,
}

impl Now {
    fn of(piece: &Piece) -> Self {
        let (there, pressed, cured) = (false, false, false);
        let Piece { bond, role, solid, grips, .. } = *piece;
        Self { bond, role, solid, grips, there, pressed, cured, renewed: false }
    }

    /// How it holds.
    fn holds(&self) -> Bond {
        match self.bond {
            Bond::Full if !self.pressed => Bond::None,
            Bond::Cured if !self.cured && !self.grips => Bond::None,
            bond => bond,
        }
    }
}

/// The wall after a number of actions.
#[derive(Clone, Debug, Default)]
pub struct Stage {
    /// What lies on it, from inside to outside.
    pub layers: Vec<Laid>,
    /// Lifted parts.
    pub held: Vec<Laid>,
    /// Every piece that was laid, by its number in the plan.
    pieces: TiVec<PieceId, Option<Now>>,
    /// Beads and smears laid.
    pub seals: Vec<SealId>,
    /// Where pieces have let go of what is behind them.
    pub let_go: Vec<(PieceId, SurfaceId, Rect)>,
    /// Slits, by piece.
    pub slits: Vec<(PieceId, Segment)>,
    /// What could not be done.
    pub blocked: Vec<Blocked>,
}

impl Stage {
    /// Does the actions in order; what cannot be done is noted and left out.
    pub fn after<'a>(plan: &Plan, actions: impl IntoIterator<Item = &'a Action>) -> Self {
        let mut actions = actions.into_iter();
        // A piece is laid in a part or two.
        let stack = Stack::with_capacity(2 * plan.pieces.len());
        let mut work = Work { done: Self { pieces: vec![None; plan.pieces.len()].into(), ..Self::default() }, stack };
        let mut batch = Batch::default();
        while batch.takes(plan, &mut actions) {
            for (action, told) in &batch.actions {
                let told = told.as_ref().map(|t| LookedUp { now: t.now, regions: &batch.regions[t.regions.clone()] });
                match work.perform(plan, &action.act, told) {
                    Err(why) => {
                        let (action, act) = (action.id.clone(), action.act.clone());
                        work.done.blocked.push(Blocked { action, act, why });
                    }
                    // What could not be done before, a repair does after all.
                    Ok(()) if !work.done.blocked.is_empty() && plan.is_in_a_repair(&action.id) => {
                        work.done.blocked.retain(|b| b.act != action.act);
                    }
                    Ok(()) => {}
                }
            }
        }
        Self { layers: work.stack.layers(), ..work.done }
    }

    fn now(&self, piece: PieceId) -> Option<&Now> {
        self.pieces.get(piece)?.as_ref()
    }

    fn change(&mut self, piece: PieceId, change: impl FnOnce(&mut Now)) {
        if let Some(now) = &mut self.pieces[piece] {
            change(now);
        }
    }

    /// True where the piece has been placed, in whole or in part.
    pub fn has(&self, piece: PieceId) -> bool {
        self.now(piece).is_some_and(|p| p.there)
    }

    /// Lays a rectangle over everything, stuck where `pressed`.
    pub fn lay(&mut self, plan: &Plan, laid: Laid, pressed: bool) {
        self.layers.push(laid);
        if self.pieces.next_key() <= laid.piece {
            self.pieces.resize(laid.piece.0 + 1, None);
        }
        let now = self.pieces[laid.piece].get_or_insert_with(|| Now::of(&plan.pieces[laid.piece]));
        now.there = true;
        now.pressed |= pressed;
    }

    /// True for a piece that was taken off: it is, or will be, as planned, whatever was done to the first one.
    pub fn is_renewed(&self, piece: PieceId) -> bool {
        self.now(piece).is_some_and(|p| p.renewed)
    }

    /// The bond of a piece as it is now; one that was never placed holds nothing.
    pub fn bond(&self, piece: PieceId) -> Bond {
        self.now(piece).map_or(Bond::None, Now::holds)
    }

    /// True for a layer of the barrier on the wall's face.
    fn is_barrier(&self, laid: &Laid) -> bool {
        laid.on == SurfaceId::WALL && self.now(laid.piece).is_some_and(|p| p.role.is_barrier())
    }

    /// The layers with their ranks, without what stands in the gap outside everything that sheds.
    pub(super) fn shedding(&self) -> impl Iterator<Item = (usize, &Laid)> {
        let in_gap = |l: &Laid| self.now(l.piece).is_some_and(|p| p.role.is_outside());
        self.layers.iter().enumerate().filter(move |(_, l)| !in_gap(l))
    }

    /// For each opening whether the barrier leaves some of it free.
    pub fn uncovered(&self, plan: &Plan) -> Vec<bool> {
        let mut over = Along::default();
        self.layers.iter().filter(|l| self.is_barrier(l)).for_each(|l| over.put(l.rect, l.piece));
        let free = |o: &Opening| {
            let mut open: RectParts = smallvec![o.rect];
            over.reaching(o.rect, |r, _| open = take(&mut open).into_iter().flat_map(|part| part.minus(r)).collect());
            !open.is_empty()
        };
        plan.openings.iter().map(free).collect()
    }

    /// True where nothing can be lifted off this layer's piece: it is stuck or solid.
    fn is_stuck(&self, piece: PieceId) -> bool {
        self.now(piece).is_some_and(|p| p.solid || p.holds() != Bond::None)
    }
}

/// What is told of a piece that is to be placed.
#[derive(Clone, Copy, Debug)]
struct LookedUp<R> {
    now: Now,
    /// Where it lies, each region with the opening whose return it is on.
    regions: R,
}

/// What is told of a piece, looked up.
type OfPiece<'a> = LookedUp<&'a [(SurfaceId, Option<usize>, Rect)]>;

/// So many actions are looked up at once: what they are about fits the nearest memory.
const AT_ONCE: usize = 64;

/// The next actions, with what the plan says about the pieces they place. A building's plan lies all over memory: asked about many actions at
/// once it is answered sooner than about one after another, each waiting for the one before.
#[derive(Default)]
struct Batch<'a> {
    actions: Vec<(&'a Action, Option<LookedUp<Range<usize>>>)>,
    regions: Vec<(SurfaceId, Option<usize>, Rect)>,
}

impl<'a> Batch<'a> {
    /// Looks up the next ones; false where there are none.
    fn takes(&mut self, plan: &Plan, actions: &mut impl Iterator<Item = &'a Action>) -> bool {
        self.actions.clear();
        self.regions.clear();
        for action in actions.take(AT_ONCE) {
            let piece = action.act.placed().map(|p| &plan.pieces[p]);
            let told = piece.map(|piece| {
                let from = self.regions.len();
                self.regions.extend(piece.regions.iter().map(|(on, r)| (*on, plan.surfaces[*on].opening, *r)));
                LookedUp { now: Now::of(piece), regions: from..self.regions.len() }
            });
            self.actions.push((action, told));
        }
        !self.actions.is_empty()
    }
}

/// What is left of a rectangle.
type RectParts = SmallVec<[Rect; 4]>;

/// A stage while actions are done: what lies on it is in the stack, and all else as it will be.
#[derive(Default)]
struct Work {
    done: Stage,
    stack: Stack,
}

impl Work {
    fn perform(&mut self, plan: &Plan, act: &Act, told: Option<OfPiece>) -> Result<(), Why> {
        match act {
            Act::Place { piece, under } => {
                // A factory facing has nothing to cure.
                let told = told.map(|t| LookedUp { now: Now { cured: true, ..t.now }, ..t });
                told.map_or(Ok(()), |told| self.place(plan, *piece, under, told))
            }
            Act::Set { piece } | Act::Coat { piece, .. } => {
                told.map_or(Ok(()), |told| self.place(plan, *piece, &[], told))
            }
            Act::Lift { flap } => self.lift(*flap),
            Act::Drop { flap } => self.drop_flap(*flap),
            Act::Cut { cut } => self.cut(plan, *cut),
            Act::Press { piece } => self.need(*piece).map(|()| self.done.change(*piece, |p| p.pressed = true)),
            Act::Seal { seal } => self.seal(plan, *seal),
            Act::Wait { piece: Some(piece) } => {
                self.need(*piece).map(|()| self.done.change(*piece, |p| p.cured = true))
            }
            // Of what a tear took whole nothing is left to take off.
            Act::Remove { piece: Some(piece) } if self.done.is_renewed(*piece) && !self.done.has(*piece) => Ok(()),
            Act::Remove { piece: Some(piece) } => self.need(*piece).map(|()| {
                let of_it: Vec<usize> = self.stack.each().filter(|(_, l)| l.piece == *piece).map(|(n, _)| n).collect();
                for n in of_it {
                    self.stack.take(n);
                }
                self.done.held.retain(|l| l.piece != *piece);
                self.forget(*piece);
            }),
            Act::Damage { damage } => self.damage(plan, *damage),
            Act::Fasten | Act::Measure | Act::Hold | Act::Wait { piece: None } | Act::Remove { piece: None } => Ok(()),
        }
    }

    /// Forgets a piece of which nothing is left.
    fn forget(&mut self, piece: PieceId) {
        let lies = self.stack.each().any(|(_, l)| l.piece == piece);
        if !lies && !self.done.held.iter().any(|l| l.piece == piece) {
            // What is laid there next is new: it has been neither pressed nor cured, slit nor opened.
            self.done.change(piece, |p| (p.there, p.pressed, p.cured, p.renewed) = (false, false, false, true));
            self.done.slits.retain(|(of, _)| *of != piece);
            self.done.let_go.retain(|(of, ..)| *of != piece);
        }
    }

    /// What is gone is taken out of everything that sheds there; what has let go is opened behind the outermost piece that sticks.
    fn damage(&mut self, plan: &Plan, damage: usize) -> Result<(), Why> {
        let hurt = &plan.departures.damages[damage];
        if hurt.effect == Effect::None {
            return Ok(());
        }
        let (on, rect) = (SurfaceId::WALL, hurt.rect);
        let there = self.stack.reaching(on, rect);
        let there: SmallVec<[(usize, Laid); 16]> =
            there.into_iter().filter_map(|n| Some((n, *self.stack.laid(n)?))).collect();
        let can = |l: &Laid, bonded: bool| {
            let sticks = |p: &Now| !bonded || p.holds() == Bond::Full;
            self.done.now(l.piece).is_some_and(|p| !p.solid && !p.role.is_outside() && sticks(p))
        };
        let bonded = hurt.effect == Effect::Open;
        let hit: SmallVec<[(usize, Laid); 16]> = there.into_iter().filter(|(_, l)| can(l, bonded)).collect();
        let Some((_, outermost)) = hit.last().copied() else {
            // An opening that only grew leaves nothing of its old hole.
            return if hurt.what == FoundKind::Moved { Ok(()) } else { Err(Why::NothingThere) };
        };
        match hurt.effect {
            Effect::None => {}
            Effect::Open => {
                let parts = hit.iter().filter(|(_, l)| l.piece == outermost.piece);
                let opened = parts.filter_map(|(_, l)| Some((l.piece, on, l.rect.intersection(rect)?)));
                self.done.let_go.extend(opened);
            }
            Effect::Gone => {
                for (n, l) in hit {
                    self.stack.split(n, l.rect.minus(rect).map(|rect| Laid { rect, ..l }));
                    self.forget(l.piece);
                }
            }
        }
        Ok(())
    }

    fn need(&self, piece: PieceId) -> Result<(), Why> {
        if self.done.has(piece) { Ok(()) } else { Err(Why::NotPlaced { piece }) }
    }

    fn place(&mut self, plan: &Plan, piece: PieceId, under: &[PieceId], told: OfPiece) -> Result<(), Why> {
        if self.done.has(piece) {
            return Err(Why::AlreadyPlaced);
        }
        let now = self.done.pieces[piece].get_or_insert(told.now);
        now.cured |= told.now.cured;
        let mut trouble = None;
        let mut covered: Option<(usize, bool)> = None;
        let as_planned = plan.departures.as_planned.get(&piece).filter(|_| self.done.is_renewed(piece));
        let as_planned =
            as_planned.map(|r| r.iter().map(|(on, r)| (*on, plan.surfaces[*on].opening, *r)).collect::<Vec<_>>());
        for &(on, opening, rect) in as_planned.as_deref().unwrap_or(told.regions) {
            let mut parts: RectParts = smallvec![rect];
            if let Some(opening) = opening {
                let known = covered.filter(|(o, _)| *o == opening);
                let now = known.unwrap_or_else(|| (opening, self.is_covered(plan.openings[opening].rect)));
                covered = Some(now);
                if now.1 {
                    trouble = Some(Why::NotCut);
                    continue;
                }
                let is_solid = |l: &&Laid| self.done.now(l.piece).is_some_and(|p| p.solid);
                let met = self.stack.reaching(on, rect);
                for l in met.into_iter().filter_map(|n| self.stack.laid(n)).filter(is_solid) {
                    if parts.iter().any(|p| p.overlaps(l.rect)) {
                        trouble = Some(Why::Behind { solid: l.piece });
                    }
                    parts = parts.into_iter().flat_map(|p| p.minus(l.rect)).collect();
                }
            }
            let mut tucked = Vec::new();
            let fitted = match told.now.role {
                // Tape over a lap ends where the courses do.
                Role::Barrier | Role::Joint => Some(FitOf::Courses),
                Role::Cover => Some(FitOf::Cover),
                _ => None,
            };
            if let Some(of) = fitted.filter(|_| on == SurfaceId::WALL) {
                (parts, tucked) = self.fitted(plan, piece, of, parts);
            }
            let loose = parts.into_iter().map(|rect| (rect, None));
            for (rect, edge) in loose.chain(tucked.into_iter().map(|(rect, edge)| (rect, Some(edge)))) {
                let laid = Laid { piece, flap: None, on, rect };
                match self.tuck_at(&laid, under, edge) {
                    Ok(behind) => {
                        match behind {
                            Some(other) => self.stack.put_behind(laid, other),
                            None => self.stack.push(laid),
                        }
                        self.done.change(piece, |p| p.there = true);
                    }
                    Err(why) => trouble = Some(why),
                }
            }
        }
        trouble.map_or(Ok(()), Err)
    }

    /// Parts of a course or board fitted round units that stand already: what lies free, and what goes under a loose edge.
    fn fitted(
        &mut self,
        plan: &Plan,
        piece: PieceId,
        of: FitOf,
        mut parts: RectParts,
    ) -> (RectParts, Vec<(Rect, PieceId)>) {
        let mut tucked: Vec<(Rect, PieceId)> = Vec::new();
        let of_recipe = plan.pieces[piece].opening;
        for fit in plan.fits.iter().filter(|f| f.of == of && of_recipe.is_none()) {
            let reached = |r: &Rect| parts.iter().any(|p| p.overlaps(*r));
            if !fit.away.iter().chain(fit.tuck.iter().map(|(_, r)| r)).any(reached) || !self.done.has(fit.unit) {
                continue;
            }
            for away in &fit.away {
                parts = parts.into_iter().flat_map(|p| p.minus(*away)).collect();
            }
            for (under, rect) in fit.tuck.iter().filter(|(under, _)| self.done.has(*under)) {
                tucked.extend(parts.iter().filter_map(|p| Some((p.intersection(*rect)?, *under))));
                parts = parts.into_iter().flat_map(|p| p.minus(*rect)).collect();
            }
            self.done.slits.extend(fit.slits.iter().map(|s| (piece, *s)));
        }
        (parts, tucked)
    }

    /// True where the barrier spans the whole opening.
    fn is_covered(&self, opening: Rect) -> bool {
        let over = self.stack.reaching(SurfaceId::WALL, opening);
        let over = over.into_iter().filter_map(|n| self.stack.laid(n)).filter(|l| self.done.is_barrier(l));
        opening.minus_all(over.map(|l| &l.rect)).is_empty()
    }

    /// Behind which layer a rectangle comes to lie: none where it is outermost, else the innermost of the loose pieces it is tucked under.
    fn tuck_at(&self, laid: &Laid, under: &[PieceId], edge: Option<PieceId>) -> Result<Option<usize>, Why> {
        if under.is_empty() && edge.is_none() {
            return Ok(None);
        }
        let met = self.stack.reaching(laid.on, laid.rect);
        let met = met.into_iter().filter_map(|n| Some((n, self.stack.laid(n)?.piece)));
        let mut outside = met.skip_while(|(_, piece)| !under.contains(piece) && edge != Some(*piece)).peekable();
        let innermost = outside.peek().map(|(n, _)| *n);
        match outside.find(|(_, piece)| self.done.is_stuck(*piece)) {
            Some((_, piece)) => Err(Why::StuckUnder { piece }),
            None => Ok(innermost),
        }
    }

    fn lift(&mut self, flap: FlapId) -> Result<(), Why> {
        let parts = self.stack.of_flap(flap);
        for (n, part) in parts.iter().filter_map(|n| Some((*n, self.stack.laid(*n)?))) {
            let over = self.stack.reaching(part.on, part.rect);
            let outside = over.into_iter().filter(|m| *m != n && self.stack.is_outside(*m, n));
            let mut pieces = outside.filter_map(|m| Some(self.stack.laid(m)?.piece));
            if let Some(piece) = pieces.find(|piece| self.done.is_stuck(*piece)) {
                return Err(Why::StuckUnder { piece });
            }
        }
        // What is held up already is lifted.
        if parts.is_empty() && !self.done.held.iter().any(|l| l.flap == Some(flap)) {
            return Err(Why::NoFlap);
        }
        let lifted = parts.into_iter().filter_map(|n| self.stack.take(n));
        self.done.held.extend(lifted);
        Ok(())
    }

    fn drop_flap(&mut self, flap: FlapId) -> Result<(), Why> {
        let dropped: Vec<Laid> = self.done.held.extract_if(.., |l| l.flap == Some(flap)).collect();
        if dropped.is_empty() {
            return Err(Why::NoFlap);
        }
        dropped.into_iter().for_each(|l| self.stack.push(l));
        Ok(())
    }

    /// Cuts every course that lies there: takes parts away, turns parts in, leaves flaps that can be lifted.
    fn cut(&mut self, plan: &Plan, cut: CutId) -> Result<(), Why> {
        let cut = &plan.cuts[cut];
        let taken = || cut.away.iter().chain(cut.flaps.iter().map(|(_, r)| r));
        let Some(around) = taken().copied().reduce(Rect::hull) else { return Err(Why::NothingToCut) };
        let meets = |l: &&Laid| self.done.is_barrier(l) && taken().any(|r| r.overlaps(l.rect));
        let there = |n: usize| Some((n, *self.stack.laid(n).filter(meets)?));
        let reached: Vec<(usize, Laid)> =
            self.stack.reaching(SurfaceId::WALL, around).into_iter().filter_map(there).collect();
        let whose = reached.iter().map(|(_, l)| l.piece);
        self.done.slits.extend(whose.flat_map(|piece| cut.slits.iter().map(move |s| (piece, *s))));
        for &(number, laid) in &reached {
            let mut rest: RectParts = smallvec![laid.rect];
            for r in taken() {
                rest = rest.into_iter().flat_map(|part| part.minus(*r)).collect();
            }
            let left = rest.into_iter().map(|rect| Laid { rect, ..laid });
            let flaps = cut
                .flaps
                .iter()
                .filter_map(|(flap, r)| Some(Laid { flap: Some(*flap), rect: laid.rect.intersection(*r)?, ..laid }));
            let folds = cut.folds.iter().filter_map(|fold| {
                let part = laid.rect.intersection(fold.from)?;
                Some(Laid { flap: fold.flap, on: fold.to, rect: fold.landing(part), ..laid })
            });
            let parts: Vec<Laid> = left.chain(flaps).chain(folds).collect();
            let gone = parts.is_empty();
            self.stack.split(number, parts);
            if gone {
                self.forget(laid.piece);
            }
        }
        // Panels cut as they were hung are open already.
        let beside = |l: &Laid| self.done.is_barrier(l) && l.rect.touches(around);
        if reached.is_empty() && !self.stack.each().any(|(_, l)| beside(&l)) { Err(Why::NothingToCut) } else { Ok(()) }
    }

    fn seal(&mut self, plan: &Plan, seal: SealId) -> Result<(), Why> {
        let spec = &plan.seals[seal];
        match (spec.reach, self.done.has(spec.behind)) {
            (ReachSpec::Before, true) => return Err(Why::TooLateBehind { piece: spec.behind }),
            (ReachSpec::After, false) => return Err(Why::NotPlaced { piece: spec.behind }),
            _ => {}
        }
        self.done.seals.push(seal);
        Ok(())
    }
}
