use super::action::{Act, Action};
use super::stack::Stack;
use crate::detail::recipe::{FitOf, ReachSpec, Role};
use crate::layup::Bond;
use crate::plan::{Opening, Plan, SurfaceId};
use crate::surface::{Along, Rect, Segment};
use smallvec::{SmallVec, smallvec};

/// A rectangle of a piece as it lies. Its place in the list of layers is its rank.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Laid {
    /// Which piece of the plan.
    pub piece: usize,
    /// Which flap it belongs to.
    pub flap: Option<usize>,
    /// On which surface of the plan.
    pub on: SurfaceId,
    /// Where.
    pub rect: Rect,
}

/// Why an action could not be done.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Why {
    /// The piece is there already.
    AlreadyPlaced,
    /// A solid thing is in the way: on a return facet nothing goes outside it.
    Behind {
        /// The solid piece.
        solid: usize,
    },
    /// The opening is still covered by the barrier.
    NotCut,
    /// There is no barrier to cut.
    NothingToCut,
    /// A loose edge was asked for, but this piece is stuck down.
    StuckUnder {
        /// The piece in the way.
        piece: usize,
    },
    /// The piece has not been placed.
    NotPlaced {
        /// Which.
        piece: usize,
    },
    /// The piece is there already, so the bead cannot get behind it.
    TooLateBehind {
        /// Which.
        piece: usize,
    },
    /// The flap has not been cut, or is not where the action needs it.
    NoFlap,
}

/// An action that could not be done, or only in part.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Blocked {
    /// Which action.
    pub action: String,
    /// Why.
    pub why: Why,
}

/// Some of the pieces of a plan.
#[derive(Clone, Debug, Default)]
struct Pieces(Vec<bool>);

impl Pieces {
    fn contains(&self, piece: usize) -> bool {
        self.0.get(piece).copied().unwrap_or(false)
    }

    fn insert(&mut self, piece: usize) {
        if self.0.len() <= piece {
            self.0.resize(piece + 1, false);
        }
        self.0[piece] = true;
    }

    fn remove(&mut self, piece: usize) {
        if let Some(there) = self.0.get_mut(piece) {
            *there = false;
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
    /// Pieces that lie on it or are held up.
    there: Pieces,
    /// Pieces that were pressed.
    pressed: Pieces,
    /// Coats that have cured.
    cured: Pieces,
    /// Beads and smears laid.
    pub seals: Vec<usize>,
    /// Slits, by piece.
    pub slits: Vec<(usize, Segment)>,
    /// What could not be done.
    pub blocked: Vec<Blocked>,
}

impl Stage {
    /// Does the actions in order; what cannot be done is noted and left out.
    pub fn after<'a>(plan: &Plan, actions: impl IntoIterator<Item = &'a Action>) -> Self {
        let actions = actions.into_iter();
        // A piece is laid in a part or two.
        let mut work = Work { stack: Stack::with_capacity(2 * actions.size_hint().0), ..Work::default() };
        for action in actions {
            if let Err(why) = work.perform(plan, action) {
                work.done.blocked.push(Blocked { action: action.id.clone(), why });
            }
        }
        Self { layers: work.stack.all().into_iter().map(|(_, l)| l).collect(), ..work.done }
    }

    /// True where the piece has been placed, in whole or in part.
    pub fn has(&self, piece: usize) -> bool {
        self.there.contains(piece)
    }

    /// Lays a rectangle over everything, stuck where `pressed`.
    pub fn lay(&mut self, laid: Laid, pressed: bool) {
        self.layers.push(laid);
        self.there.insert(laid.piece);
        if pressed {
            self.pressed.insert(laid.piece);
        }
    }

    /// The bond of a piece as it is now.
    pub fn bond(&self, plan: &Plan, piece: usize) -> Bond {
        match plan.pieces[piece].bond {
            Bond::Full if !self.pressed.contains(piece) => Bond::None,
            Bond::Cured if !self.cured.contains(piece) => Bond::None,
            bond => bond,
        }
    }

    /// For each opening whether the barrier leaves some of it free.
    pub fn uncovered(&self, plan: &Plan) -> Vec<bool> {
        let barrier = |l: &&Laid| l.on == SurfaceId::WALL && plan.pieces[l.piece].role.is_barrier();
        let mut over = Along::default();
        self.layers.iter().filter(barrier).for_each(|l| over.put(l.rect, l.piece));
        let free = |o: &Opening| {
            let mut open = vec![o.rect];
            for (r, _) in over.reaching(o.rect) {
                open = open.into_iter().flat_map(|part| part.minus(r)).collect();
            }
            !open.is_empty()
        };
        plan.openings.iter().map(free).collect()
    }

    /// True where nothing can be lifted off this layer's piece: it is stuck or solid.
    fn is_stuck(&self, plan: &Plan, piece: usize) -> bool {
        plan.pieces[piece].solid || self.bond(plan, piece) != Bond::None
    }
}

/// What is left of a rectangle.
type Parts = SmallVec<[Rect; 4]>;

/// A stage while actions are done: what lies on it is in the stack, and all else as it will be.
#[derive(Default)]
struct Work {
    done: Stage,
    stack: Stack,
}

impl Work {
    fn perform(&mut self, plan: &Plan, action: &Action) -> Result<(), Why> {
        match &action.act {
            Act::Place { piece, under } => {
                // A factory facing has nothing to cure.
                if plan.pieces[*piece].bond == Bond::Cured {
                    self.done.cured.insert(*piece);
                }
                self.place(plan, *piece, under)
            }
            Act::Set { piece } | Act::Coat { piece, .. } => self.place(plan, *piece, &[]),
            Act::Lift { flap } => self.lift(plan, *flap),
            Act::Drop { flap } => self.drop_flap(*flap),
            Act::Cut { cut } => self.cut(plan, *cut),
            Act::Press { piece } => self.need(*piece).map(|()| {
                self.done.pressed.insert(*piece);
            }),
            Act::Seal { seal } => self.seal(plan, *seal),
            Act::Wait { piece: Some(piece) } => self.need(*piece).map(|()| {
                self.done.cured.insert(*piece);
            }),
            Act::Remove { piece: Some(piece) } => self.need(*piece).map(|()| {
                let of_it: Vec<usize> = self.stack.each().filter(|(_, l)| l.piece == *piece).map(|(n, _)| n).collect();
                for n in of_it {
                    self.stack.take(n);
                }
                self.forget(*piece);
            }),
            Act::Fasten | Act::Measure | Act::Hold | Act::Wait { piece: None } | Act::Remove { piece: None } => Ok(()),
        }
    }

    /// Forgets a piece of which nothing is left.
    fn forget(&mut self, piece: usize) {
        let lies = self.stack.each().any(|(_, l)| l.piece == piece);
        if !lies && !self.done.held.iter().any(|l| l.piece == piece) {
            self.done.there.remove(piece);
        }
    }

    fn need(&self, piece: usize) -> Result<(), Why> {
        if self.done.has(piece) { Ok(()) } else { Err(Why::NotPlaced { piece }) }
    }

    fn place(&mut self, plan: &Plan, piece: usize, under: &[usize]) -> Result<(), Why> {
        if self.done.has(piece) {
            return Err(Why::AlreadyPlaced);
        }
        let mut trouble = None;
        let mut covered: Option<(usize, bool)> = None;
        for &(on, rect) in &plan.pieces[piece].regions {
            let mut parts: Parts = smallvec![rect];
            if let Some(opening) = plan.surfaces[on.0].opening {
                let known = covered.filter(|(o, _)| *o == opening);
                let now = known.unwrap_or_else(|| (opening, self.is_covered(plan, plan.openings[opening].rect)));
                covered = Some(now);
                if now.1 {
                    trouble = Some(Why::NotCut);
                    continue;
                }
                for (_, l) in self.stack.reaching(on, rect).into_iter().filter(|(_, l)| plan.pieces[l.piece].solid) {
                    if parts.iter().any(|p| p.overlaps(l.rect)) {
                        trouble = Some(Why::Behind { solid: l.piece });
                    }
                    parts = parts.into_iter().flat_map(|p| p.minus(l.rect)).collect();
                }
            }
            let mut tucked = Vec::new();
            if on == SurfaceId::WALL && plan.pieces[piece].role == Role::Barrier {
                (parts, tucked) = self.fitted(plan, piece, parts);
            }
            let loose = parts.into_iter().map(|rect| (rect, None));
            for (rect, edge) in loose.chain(tucked.into_iter().map(|(rect, edge)| (rect, Some(edge)))) {
                let laid = Laid { piece, flap: None, on, rect };
                match self.tuck_at(plan, &laid, under, edge) {
                    Ok(behind) => {
                        match behind {
                            Some(other) => self.stack.put_behind(laid, other),
                            None => self.stack.push(laid),
                        }
                        self.done.there.insert(piece);
                    }
                    Err(why) => trouble = Some(why),
                }
            }
        }
        trouble.map_or(Ok(()), Err)
    }

    /// Parts of a course fitted round units that stand already: what lies free, and what goes under a loose edge.
    fn fitted(&mut self, plan: &Plan, piece: usize, mut parts: Parts) -> (Parts, Vec<(Rect, usize)>) {
        let mut tucked: Vec<(Rect, usize)> = Vec::new();
        for fit in plan.fits.iter().filter(|f| f.of == FitOf::Courses) {
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
    fn is_covered(&self, plan: &Plan, opening: Rect) -> bool {
        let over = self.stack.reaching(SurfaceId::WALL, opening);
        let over = over.iter().filter(|(_, l)| plan.pieces[l.piece].role.is_barrier()).map(|(_, l)| &l.rect);
        opening.minus_all(over).is_empty()
    }

    /// Behind which layer a rectangle comes to lie: none where it is outermost, else the innermost of the loose pieces it is tucked under.
    fn tuck_at(&self, plan: &Plan, laid: &Laid, under: &[usize], edge: Option<usize>) -> Result<Option<usize>, Why> {
        if under.is_empty() && edge.is_none() {
            return Ok(None);
        }
        let met = self.stack.reaching(laid.on, laid.rect);
        let goes_under = |l: &Laid| under.contains(&l.piece) || edge == Some(l.piece);
        let Some(at) = met.iter().position(|(_, l)| goes_under(l)) else { return Ok(None) };
        match met[at..].iter().find(|(_, l)| self.done.is_stuck(plan, l.piece)) {
            Some((_, l)) => Err(Why::StuckUnder { piece: l.piece }),
            None => Ok(Some(met[at].0)),
        }
    }

    fn lift(&mut self, plan: &Plan, flap: usize) -> Result<(), Why> {
        let parts = self.stack.of_flap(flap);
        for (n, part) in &parts {
            let over = self.stack.reaching(part.on, part.rect);
            let outside = over.iter().filter(|(m, _)| m != n && self.stack.is_outside(*m, *n));
            if let Some((_, l)) = outside.into_iter().find(|(_, l)| self.done.is_stuck(plan, l.piece)) {
                return Err(Why::StuckUnder { piece: l.piece });
            }
        }
        if parts.is_empty() {
            return Err(Why::NoFlap);
        }
        for (n, part) in parts {
            self.stack.take(n);
            self.done.held.push(part);
        }
        Ok(())
    }

    fn drop_flap(&mut self, flap: usize) -> Result<(), Why> {
        let (dropped, rest): (Vec<Laid>, Vec<Laid>) = self.done.held.iter().partition(|l| l.flap == Some(flap));
        self.done.held = rest;
        if dropped.is_empty() {
            return Err(Why::NoFlap);
        }
        dropped.into_iter().for_each(|l| self.stack.push(l));
        Ok(())
    }

    /// Cuts every course that lies there: takes parts away, turns parts in, leaves flaps that can be lifted.
    fn cut(&mut self, plan: &Plan, cut: usize) -> Result<(), Why> {
        let cut = &plan.cuts[cut];
        let barrier = |l: &Laid| l.on == SurfaceId::WALL && plan.pieces[l.piece].role.is_barrier();
        let taken = || cut.away.iter().chain(cut.flaps.iter().map(|(_, r)| r));
        let Some(around) = taken().copied().reduce(Rect::hull) else { return Err(Why::NothingToCut) };
        let meets = |(_, l): &(usize, Laid)| barrier(l) && taken().any(|r| r.overlaps(l.rect));
        let reached: Vec<(usize, Laid)> =
            self.stack.reaching(SurfaceId::WALL, around).into_iter().filter(meets).collect();
        let whose = reached.iter().map(|(_, l)| l.piece);
        self.done.slits.extend(whose.flat_map(|piece| cut.slits.iter().map(move |s| (piece, *s))));
        for &(number, laid) in &reached {
            let mut rest = vec![laid.rect];
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
                Some(Laid { on: fold.to, rect: fold.landing(part), ..laid })
            });
            let parts: Vec<Laid> = left.chain(flaps).chain(folds).collect();
            let gone = parts.is_empty();
            self.stack.split(number, parts);
            if gone {
                self.forget(laid.piece);
            }
        }
        // Panels cut as they were hung are open already.
        let beside = |l: &Laid| barrier(l) && l.rect.touches(around);
        if reached.is_empty() && !self.stack.each().any(|(_, l)| beside(&l)) { Err(Why::NothingToCut) } else { Ok(()) }
    }

    fn seal(&mut self, plan: &Plan, seal: usize) -> Result<(), Why> {
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
