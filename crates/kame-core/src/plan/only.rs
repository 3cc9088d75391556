//! A plan of the walls and the work at one opening, as if nothing were done at the others: a building's plan is large, and much that is asked
//! is about one opening.

use super::{
    AsBuilt, Cut, Departures, Fitting, Leak, Note, Over, Part, Piece, Plan, PlanStitchEnd, PlanTarget, Seal, Surface,
    SurfaceId, WaterAsked,
};
use crate::surface::Rect;
use crate::trade::{Act, Action, CutId, FlapId, PieceId, SealId, Step, StepId};
use std::sync::Arc;
use typed_index_collections::{TiSlice, TiVec};

/// A plan of the walls and one opening.
#[derive(Clone, Debug)]
pub struct Only {
    /// The plan itself.
    pub plan: Plan,
    /// Number of the opening in it.
    pub opening: usize,
}

/// Which things of a list are kept, and the number of each among those.
struct KeptList<I>(TiVec<I, Option<I>>);

impl<I: From<usize> + Copy> KeptList<I>
where
    usize: From<I>,
{
    fn of<T>(all: &TiSlice<I, T>, keeps: impl Fn(I, &T) -> bool) -> Self {
        let mut next = 0;
        let number = |(i, thing): (I, &T)| {
            keeps(i, thing).then(|| {
                next += 1;
                I::from(next - 1)
            })
        };
        Self(all.iter_enumerated().map(number).collect())
    }

    fn get(&self, old: I) -> Option<I> {
        self.0[old]
    }

    fn each(&self, old: &[I]) -> Vec<I> {
        old.iter().filter_map(|o| self.get(*o)).collect()
    }

    /// What is kept of a list, each as it is told.
    fn list<T, U>(&self, all: &TiSlice<I, T>, told: impl Fn(&T) -> U) -> TiVec<I, U> {
        all.iter().zip(&self.0).filter(|(_, number)| number.is_some()).map(|(thing, _)| told(thing)).collect()
    }
}

/// What is kept of a plan.
struct Keeping {
    surfaces: KeptList<SurfaceId>,
    openings: KeptList<usize>,
    pieces: KeptList<PieceId>,
    seals: KeptList<SealId>,
    cuts: KeptList<CutId>,
    flaps: KeptList<FlapId>,
    steps: KeptList<StepId>,
}

impl Plan {
    /// For each opening whether the barrier as planned leaves some of it free.
    pub fn left_free(&self) -> Vec<bool> {
        let pieces = self.pieces.iter().filter(|p| p.role.is_barrier() && p.opening.is_none());
        let barrier: Vec<Rect> =
            pieces.flat_map(|p| &p.regions).filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r).collect();
        self.openings.iter().map(|o| !o.rect.minus_all(&barrier).is_empty()).collect()
    }

    /// The walls and one opening: what belongs to others is left out, as they are themselves unless `free`: then they stay, as holes in the
    /// barrier.
    pub fn only(&self, opening: usize, free: &[bool]) -> Only {
        let keeping = Keeping::of(self, opening, free);
        // The opening itself is among those that are kept.
        let number = keeping.openings.get(opening).unwrap_or_default();
        Only { plan: keeping.plan(self), opening: number }
    }
}

impl Keeping {
    fn of(plan: &Plan, opening: usize, free: &[bool]) -> Self {
        let here = |o: Option<usize>| o.is_none_or(|o| o == opening);
        let id = &plan.openings[opening].id;
        let steps = KeptList::of(&plan.steps, |_, s| s.opening.as_ref().is_none_or(|o| o == id));
        let mut used = Used::of(plan);
        let done = plan.steps.iter().zip(&steps.0).filter(|(_, kept)| kept.is_some()).flat_map(|(s, _)| &s.actions);
        done.for_each(|a| used.add(plan, &a.act));
        let pieces = KeptList::of(&plan.pieces, |i, p| here(p.opening) || used.pieces[i]);
        Self {
            surfaces: KeptList::of(&plan.surfaces, |_, s| here(s.opening)),
            openings: KeptList::of(TiSlice::from_ref(&plan.openings), |i, _| i == opening || free[i]),
            seals: KeptList::of(&plan.seals, |i, s| used.seals[i] || pieces.get(s.behind).is_some()),
            cuts: KeptList::of(&plan.cuts, |i, _| used.cuts[i]),
            flaps: KeptList::of(&plan.flaps, |i, _| used.flaps[i]),
            pieces,
            steps,
        }
    }

    fn surface(&self, on: SurfaceId) -> Option<SurfaceId> {
        self.surfaces.get(on)
    }

    fn places(&self, places: &[(SurfaceId, Rect)]) -> Vec<(SurfaceId, Rect)> {
        places.iter().filter_map(|(on, r)| Some((self.surface(*on)?, *r))).collect()
    }

    fn opening(&self, opening: Option<usize>) -> Option<usize> {
        opening.and_then(|o| self.openings.get(o))
    }

    fn part(&self, part: Part) -> Option<Part> {
        Some(match part {
            Part::Piece(p) => Part::Piece(self.pieces.get(p)?),
            Part::Flap(f) => Part::Flap(self.flaps.get(f)?),
            Part::Barrier(stretch) => Part::Barrier(stretch),
        })
    }

    /// `None` for what is done to something that is not kept.
    fn act(&self, act: &Act) -> Option<Act> {
        let piece = |p: &PieceId| self.pieces.get(*p);
        let maybe = |p: &Option<PieceId>| p.and_then(|p| self.pieces.get(p));
        Some(match act {
            Act::Place { piece: p, under } => Act::Place { piece: piece(p)?, under: self.pieces.each(under) },
            Act::Set { piece: p } => Act::Set { piece: piece(p)? },
            Act::Lift { flap } => Act::Lift { flap: self.flaps.get(*flap)? },
            Act::Drop { flap } => Act::Drop { flap: self.flaps.get(*flap)? },
            Act::Cut { cut } => Act::Cut { cut: self.cuts.get(*cut)? },
            Act::Press { piece: p } => Act::Press { piece: piece(p)? },
            Act::Seal { seal } => Act::Seal { seal: self.seals.get(*seal)? },
            Act::Coat { piece: p, wet_mil, coats } => Act::Coat { piece: piece(p)?, wet_mil: *wet_mil, coats: *coats },
            Act::Wait { piece } => Act::Wait { piece: maybe(piece) },
            Act::Remove { piece } => Act::Remove { piece: maybe(piece) },
            Act::Fasten | Act::Measure | Act::Hold | Act::Damage { .. } => act.clone(),
        })
    }

    fn cut(&self, cut: &Cut) -> Cut {
        let flaps = cut.flaps.iter().filter_map(|(f, r)| Some((self.flaps.get(*f)?, *r)));
        let end = |e: PlanStitchEnd| Some(PlanStitchEnd { on: self.surface(e.on)?, ..e });
        let folds = cut.folds.iter().filter_map(|f| {
            let flap = f.flap.and_then(|f| self.flaps.get(f));
            Some(super::Fold { to: self.surface(f.to)?, flap, wall: end(f.wall)?, far: end(f.far)?, ..*f })
        });
        Cut { flaps: flaps.collect(), folds: folds.collect(), ..cut.clone() }
    }

    fn step(&self, step: &Step) -> Arc<Step> {
        let told = |a: &Action| {
            Some(Action { act: self.act(&a.act)?, id: a.id.clone(), label: a.label.clone(), checks: a.checks.clone() })
        };
        Arc::new(Step { actions: step.actions.iter().filter_map(told).collect(), ..step.clone() })
    }

    fn as_built(&self, a: AsBuilt) -> Option<AsBuilt> {
        let (piece, (on, rect)) = (self.pieces.get(a.piece())?, a.place());
        let on = self.surface(on)?;
        Some(match a {
            AsBuilt::Mouth { .. } => AsBuilt::Mouth { piece, on, rect },
            AsBuilt::Bead { .. } => AsBuilt::Bead { piece, on, rect },
            AsBuilt::Short { edge, by, .. } => AsBuilt::Short { piece, on, rect, edge, by },
            AsBuilt::OffLevel { .. } => AsBuilt::OffLevel { piece, on, rect },
        })
    }

    fn plan(&self, plan: &Plan) -> Plan {
        let end = |e: PlanStitchEnd| Some(PlanStitchEnd { on: self.surface(e.on)?, ..e });
        let piece = |p: Option<PieceId>| p.and_then(|p| self.pieces.get(p));
        let over = |o: &Over| {
            let (upper, lower) = (self.part(o.upper)?, self.part(o.lower)?);
            Some(Over { upper, lower, opening: self.opening(o.opening), ..o.clone() })
        };
        let fit = |f: &Fitting| {
            let tuck = f.tuck.iter().filter_map(|(p, r)| Some((self.pieces.get(*p)?, *r))).collect();
            Some(Fitting { unit: self.pieces.get(f.unit)?, tuck, ..f.clone() })
        };
        let target = |t: &PlanTarget| {
            let without = t.without.and_then(|s| self.surface(s));
            Some(PlanTarget { on: self.surface(t.on)?, without, ..t.clone() })
        };
        let leak = |l: &Leak| {
            let under = self.pieces.each(&l.under);
            Some(Leak { on: self.surface(l.on)?, under, ..l.clone() }).filter(|l| !l.under.is_empty())
        };
        let note = |n: &Note| {
            let of_others = n.opening.is_some_and(|o| self.openings.get(o).is_none());
            let of_others = of_others || n.piece.is_some_and(|p| self.pieces.get(p).is_none());
            (!of_others).then(|| Note { opening: self.opening(n.opening), piece: piece(n.piece), ..n.clone() })
        };
        let as_planned = plan.departures.as_planned.iter();
        let as_planned = as_planned.filter_map(|(p, r)| Some((self.pieces.get(*p)?, self.places(r))));
        let openings = self.openings.list(TiSlice::from_ref(&plan.openings), |o| super::Opening {
            sill: o.sill.and_then(|s| self.surface(s)),
            shared: self.pieces.each(&o.shared),
            ..o.clone()
        });
        Plan {
            surfaces: self.surfaces.list(&plan.surfaces, |s| Surface {
                name: s.name.clone(),
                opening: self.opening(s.opening),
                with: piece(s.with),
                sloped_by: piece(s.sloped_by),
                facet: s.facet.clone(),
            }),
            stitches: plan.stitches.iter().filter_map(|(a, b)| Some((end(*a)?, end(*b)?))).collect(),
            openings: openings.into(),
            pieces: self.pieces.list(&plan.pieces, |p| Piece {
                regions: self.places(&p.regions),
                opening: self.opening(p.opening),
                ..p.clone()
            }),
            seals: self.seals.list(&plan.seals, |s| Seal {
                behind: self.pieces.get(s.behind).unwrap_or_default(),
                rects: self.places(&s.rects),
                ..s.clone()
            }),
            cuts: self.cuts.list(&plan.cuts, |c| self.cut(c)),
            fits: plan.fits.iter().filter_map(fit).collect(),
            flaps: self.flaps.list(&plan.flaps, Clone::clone),
            steps: self.steps.list(&plan.steps, |s| self.step(s)),
            order: self.steps.each(&plan.order),
            overs: plan.overs.iter().filter_map(over).collect(),
            water: WaterAsked {
                targets: plan.water.targets.iter().filter_map(target).collect(),
                leaks: plan.water.leaks.iter().filter_map(leak).collect(),
                outlets: plan.water.outlets.clone(),
            },
            notes: plan.notes.iter().filter_map(note).collect(),
            departures: Departures {
                as_built: plan.departures.as_built.iter().filter_map(|a| self.as_built(*a)).collect(),
                as_planned: as_planned.collect(),
                damages: plan.departures.damages.clone(),
                besides: self.seals.each(&plan.departures.besides),
            },
            removed: plan.removed.clone(),
            walls: plan.walls.clone(),
            basis: plan.basis.clone(),
        }
    }
}

/// What the actions that are kept are about.
struct Used {
    pieces: TiVec<PieceId, bool>,
    seals: TiVec<SealId, bool>,
    cuts: TiVec<CutId, bool>,
    flaps: TiVec<FlapId, bool>,
}

impl Used {
    fn of(plan: &Plan) -> Self {
        let none = |n: usize| vec![false; n];
        Self {
            pieces: none(plan.pieces.len()).into(),
            seals: none(plan.seals.len()).into(),
            cuts: none(plan.cuts.len()).into(),
            flaps: none(plan.flaps.len()).into(),
        }
    }

    fn add(&mut self, plan: &Plan, act: &Act) {
        match act {
            Act::Place { piece, .. }
            | Act::Set { piece }
            | Act::Coat { piece, .. }
            | Act::Press { piece }
            | Act::Wait { piece: Some(piece) }
            | Act::Remove { piece: Some(piece) } => self.pieces[*piece] = true,
            Act::Lift { flap } | Act::Drop { flap } => self.flaps[*flap] = true,
            Act::Cut { cut } => {
                self.cuts[*cut] = true;
                plan.cuts[*cut].flaps.iter().for_each(|(f, _)| self.flaps[*f] = true);
            }
            Act::Seal { seal } => {
                self.seals[*seal] = true;
                self.pieces[plan.seals[*seal].behind] = true;
            }
            Act::Fasten
            | Act::Measure
            | Act::Hold
            | Act::Damage { .. }
            | Act::Wait { piece: None }
            | Act::Remove { piece: None } => {}
        }
    }
}
