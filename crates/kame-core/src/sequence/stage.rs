use super::action::{Act, Action};
use crate::detail::recipe::{FitOf, ReachSpec, Role};
use crate::detail::schools::Feature;
use crate::layup::{Bond, Glue, Layup, OnSheet, Region, Scenario, Sheet, SheetId, Source, Target};
use crate::plan::{AsBuilt, Fit, Opening, Plan, SurfaceId};
use crate::surface::{FacetId, Patch, Rect, Segment};

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

/// The wall after a number of actions.
#[derive(Clone, Debug, Default)]
pub struct Stage {
    /// What lies on it, from inside to outside.
    pub layers: Vec<Laid>,
    /// Lifted parts.
    pub held: Vec<Laid>,
    /// Pieces that were pressed.
    pub pressed: Vec<usize>,
    /// Coats that have cured.
    pub cured: Vec<usize>,
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
        let mut stage = Stage::default();
        for action in actions {
            if let Err(why) = stage.perform(plan, action) {
                stage.blocked.push(Blocked { action: action.id.clone(), why });
            }
        }
        stage
    }

    /// True where the piece has been placed, in whole or in part.
    pub fn has(&self, piece: usize) -> bool {
        self.layers.iter().chain(&self.held).any(|l| l.piece == piece)
    }

    /// The bond of a piece as it is now.
    pub fn bond(&self, plan: &Plan, piece: usize) -> Bond {
        match plan.pieces[piece].bond {
            Bond::Full if !self.pressed.contains(&piece) => Bond::None,
            Bond::Cured if !self.cured.contains(&piece) => Bond::None,
            bond => bond,
        }
    }

    /// True where the barrier still spans the whole opening.
    pub fn is_covered(&self, plan: &Plan, opening: &Opening) -> bool {
        let mut open = vec![opening.rect];
        let over = |l: &&Laid| {
            l.on == SurfaceId::WALL && l.rect.overlaps(opening.rect) && plan.pieces[l.piece].role.is_barrier()
        };
        for l in self.layers.iter().filter(over) {
            open = open.into_iter().flat_map(|r| r.minus(l.rect)).collect();
        }
        open.is_empty()
    }

    /// True where nothing can be lifted off this layer's piece: it is stuck or solid.
    fn is_stuck(&self, plan: &Plan, piece: usize) -> bool {
        plan.pieces[piece].solid || self.bond(plan, piece) != Bond::None
    }

    fn perform(&mut self, plan: &Plan, action: &Action) -> Result<(), Why> {
        match &action.act {
            Act::Place { piece, under } => {
                // A factory facing has nothing to cure.
                if plan.pieces[*piece].bond == Bond::Cured {
                    self.cured.push(*piece);
                }
                self.place(plan, *piece, under)
            }
            Act::Set { piece } | Act::Coat { piece, .. } => self.place(plan, *piece, &[]),
            Act::Lift { flap } => self.lift(plan, *flap),
            Act::Drop { flap } => self.drop_flap(*flap),
            Act::Cut { cut } => self.cut(plan, *cut),
            Act::Press { piece } => self.need(*piece).map(|()| self.pressed.push(*piece)),
            Act::Seal { seal } => self.seal(plan, *seal),
            Act::Wait { piece: Some(piece) } => self.need(*piece).map(|()| self.cured.push(*piece)),
            Act::Remove { piece: Some(piece) } => self.need(*piece).map(|()| self.layers.retain(|l| l.piece != *piece)),
            Act::Fasten | Act::Measure | Act::Hold | Act::Wait { piece: None } | Act::Remove { piece: None } => Ok(()),
        }
    }

    fn need(&self, piece: usize) -> Result<(), Why> {
        if self.has(piece) { Ok(()) } else { Err(Why::NotPlaced { piece }) }
    }

    fn place(&mut self, plan: &Plan, piece: usize, under: &[usize]) -> Result<(), Why> {
        if self.has(piece) {
            return Err(Why::AlreadyPlaced);
        }
        let mut trouble = None;
        for &(on, rect) in &plan.pieces[piece].regions {
            let mut parts = vec![rect];
            if let Some(opening) = plan.opening_of(on) {
                if self.is_covered(plan, opening) {
                    trouble = Some(Why::NotCut);
                    continue;
                }
                for l in self.layers.iter().filter(|l| l.on == on && plan.pieces[l.piece].solid) {
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
                let under: Vec<usize> = under.iter().copied().chain(edge).collect();
                match self.tuck_at(plan, &laid, &under) {
                    Ok(at) => self.layers.insert(at, laid),
                    Err(why) => trouble = Some(why),
                }
            }
        }
        trouble.map_or(Ok(()), Err)
    }

    /// Parts of a course fitted round units that stand already: what lies free, and what goes under a loose edge.
    fn fitted(&mut self, plan: &Plan, piece: usize, mut parts: Vec<Rect>) -> (Vec<Rect>, Vec<(Rect, usize)>) {
        let mut tucked: Vec<(Rect, usize)> = Vec::new();
        let fits: Vec<&Fit> = plan.fits.iter().filter(|f| f.of == FitOf::Courses && self.has(f.unit)).collect();
        for fit in fits {
            let reached = |r: &Rect| parts.iter().any(|p| p.overlaps(*r));
            if !fit.away.iter().chain(fit.tuck.iter().map(|(_, r)| r)).any(reached) {
                continue;
            }
            for away in &fit.away {
                parts = parts.into_iter().flat_map(|p| p.minus(*away)).collect();
            }
            for (under, rect) in fit.tuck.iter().filter(|(under, _)| self.has(*under)) {
                tucked.extend(parts.iter().filter_map(|p| Some((p.intersection(*rect)?, *under))));
                parts = parts.into_iter().flat_map(|p| p.minus(*rect)).collect();
            }
            self.slits.extend(fit.slits.iter().map(|s| (piece, *s)));
        }
        (parts, tucked)
    }

    /// The rank at which a rectangle comes to lie: outermost, or inside the loose pieces it is tucked under.
    fn tuck_at(&self, plan: &Plan, laid: &Laid, under: &[usize]) -> Result<usize, Why> {
        let meets = |l: &Laid| l.on == laid.on && l.rect.overlaps(laid.rect);
        let Some(at) = self.layers.iter().position(|l| under.contains(&l.piece) && meets(l)) else {
            return Ok(self.layers.len());
        };
        match self.layers[at..].iter().find(|l| meets(l) && self.is_stuck(plan, l.piece)) {
            Some(l) => Err(Why::StuckUnder { piece: l.piece }),
            None => Ok(at),
        }
    }

    fn lift(&mut self, plan: &Plan, flap: usize) -> Result<(), Why> {
        let mut any = false;
        for (i, part) in self.layers.iter().enumerate().filter(|(_, l)| l.flap == Some(flap)) {
            any = true;
            let over = self.layers[i + 1..]
                .iter()
                .find(|l| l.on == part.on && l.rect.overlaps(part.rect) && self.is_stuck(plan, l.piece));
            if let Some(l) = over {
                return Err(Why::StuckUnder { piece: l.piece });
            }
        }
        if !any {
            return Err(Why::NoFlap);
        }
        let (lifted, rest) = self.layers.iter().partition(|l| l.flap == Some(flap));
        self.layers = rest;
        self.held.extend::<Vec<Laid>>(lifted);
        Ok(())
    }

    fn drop_flap(&mut self, flap: usize) -> Result<(), Why> {
        let (dropped, rest): (Vec<Laid>, Vec<Laid>) = self.held.iter().partition(|l| l.flap == Some(flap));
        self.held = rest;
        if dropped.is_empty() {
            return Err(Why::NoFlap);
        }
        self.layers.extend(dropped);
        Ok(())
    }

    /// Cuts every course that lies there: takes parts away, turns parts in, leaves flaps that can be lifted.
    fn cut(&mut self, plan: &Plan, cut: usize) -> Result<(), Why> {
        let cut = &plan.cuts[cut];
        let mut any = false;
        let mut out = Vec::with_capacity(self.layers.len() + 8);
        for laid in std::mem::take(&mut self.layers) {
            let reached = laid.on == SurfaceId::WALL
                && plan.pieces[laid.piece].role.is_barrier()
                && (cut.away.iter().any(|r| r.overlaps(laid.rect))
                    || cut.flaps.iter().any(|(_, r)| r.overlaps(laid.rect)));
            if !reached {
                out.push(laid);
                continue;
            }
            any = true;
            let mut rest = vec![laid.rect];
            for r in cut.away.iter().chain(cut.flaps.iter().map(|(_, r)| r)) {
                rest = rest.into_iter().flat_map(|part| part.minus(*r)).collect();
            }
            out.extend(rest.into_iter().map(|rect| Laid { rect, ..laid }));
            out.extend(
                cut.flaps.iter().filter_map(|(flap, r)| {
                    Some(Laid { flap: Some(*flap), rect: laid.rect.intersection(*r)?, ..laid })
                }),
            );
            out.extend(cut.folds.iter().filter_map(|fold| {
                let part = laid.rect.intersection(fold.from)?;
                Some(Laid { on: fold.to, rect: fold.landing(part), ..laid })
            }));
            self.slits.extend(cut.slits.iter().map(|s| (laid.piece, *s)));
        }
        self.layers = out;
        if any { Ok(()) } else { Err(Why::NothingToCut) }
    }

    fn seal(&mut self, plan: &Plan, seal: usize) -> Result<(), Why> {
        let spec = &plan.seals[seal];
        match (spec.reach, self.has(spec.behind)) {
            (ReachSpec::Before, true) => return Err(Why::TooLateBehind { piece: spec.behind }),
            (ReachSpec::After, false) => return Err(Why::NotPlaced { piece: spec.behind }),
            _ => {}
        }
        self.seals.push(seal);
        Ok(())
    }

    /// The surfaces of the plan that are there now, and their numbers in the layup. Where only one opening is asked about, others have none.
    fn surfaces(&self, plan: &Plan, only: Option<usize>) -> Vec<Option<FacetId>> {
        let mut next = 0;
        let open: Vec<bool> = plan.openings.iter().map(|o| !self.is_covered(plan, o)).collect();
        plan.surfaces
            .iter()
            .map(|s| {
                let open = s.opening.is_none_or(|o| open[o]);
                let asked = only.is_none() || s.opening.is_none() || s.opening == only;
                let there = asked && open && s.with.is_none_or(|piece| self.has(piece));
                there.then(|| {
                    next += 1;
                    FacetId(next - 1)
                })
            })
            .collect()
    }

    /// What the water model is asked about this stage, with the plan's piece behind each sheet.
    pub fn layup(&self, plan: &Plan) -> StageLayup {
        self.layup_at(plan, None)
    }

    /// What the water model is asked about the wall and one opening; other openings are holes into which nothing is asked.
    pub fn layup_at(&self, plan: &Plan, only: Option<usize>) -> StageLayup {
        let facets = self.surfaces(plan, only);
        let facet = |s: SurfaceId| facets[s.0];
        let patch = |s: SurfaceId, rect: Rect| facet(s).map(|facet| Patch { facet, rect });
        let mut layup = Layup::default();
        for (i, s) in plan.surfaces.iter().enumerate().filter(|(i, _)| facets[*i].is_some()) {
            let mut f = s.facet.clone();
            if s.sloped_by.is_some_and(|piece| !self.has(piece)) {
                f.rise = 0.0;
            }
            f.exposed |= i == SurfaceId::WALL.0;
            layup.facets.push(f);
        }
        let end = |s: &crate::plan::PlanStitchEnd| {
            let facet = facet(s.on)?;
            Some(crate::surface::StitchEnd { segment: Segment { facet, from: s.from, to: s.to }, side: s.side })
        };
        layup
            .stitches
            .extend(plan.stitches.iter().filter_map(|(a, b)| Some(crate::surface::Stitch { a: end(a)?, b: end(b)? })));
        layup.voids = plan
            .counted(only)
            .into_iter()
            .map(|o| &plan.openings[o])
            .filter(|o| o.feature == Feature::Opening && !self.is_covered(plan, o))
            .filter_map(|o| patch(SurfaceId::WALL, o.rect))
            .collect();
        let mut sheet_of = vec![None; plan.pieces.len()];
        let mut pieces = Vec::new();
        for (rank, laid) in self.layers.iter().enumerate() {
            let Some(at) = patch(laid.on, laid.rect) else { continue };
            let id = *sheet_of[laid.piece].get_or_insert_with(|| {
                let piece = &plan.pieces[laid.piece];
                let cuts = self.slits.iter().filter(|(p, _)| *p == laid.piece).map(|(_, s)| *s).collect();
                layup.sheets.push(Sheet {
                    id: piece.id.clone(),
                    bond: self.bond(plan, laid.piece),
                    cap: piece.solid,
                    regions: Vec::new(),
                    cuts,
                });
                pieces.push(laid.piece);
                SheetId(layup.sheets.len() - 1)
            });
            layup.sheets[id.0].regions.push(Region { at, rank: rank as f64 });
        }
        for &seal in &self.seals {
            let spec = &plan.seals[seal];
            let Some(sheet) = sheet_of[spec.behind] else { continue };
            layup.seals.extend(spec.rects.iter().filter_map(|(on, r)| Some(OnSheet { sheet, at: patch(*on, *r)? })));
        }
        for as_built in &plan.as_built {
            let (AsBuilt::Mouth { piece, on, rect } | AsBuilt::Bead { piece, on, rect }) = *as_built;
            let Some((sheet, at)) = sheet_of[piece].zip(patch(on, rect)) else { continue };
            let list = if matches!(as_built, AsBuilt::Mouth { .. }) { &mut layup.faults } else { &mut layup.seals };
            list.push(OnSheet { sheet, at });
        }
        let mut targets = Vec::new();
        for (i, t) in plan.targets.iter().enumerate() {
            let here = t.without.is_none_or(|s| facet(s).is_none());
            if let (true, Some(at)) = (here, patch(t.on, t.rect)) {
                layup.targets.push(Target { id: t.id.clone(), at, depth: t.depth });
                targets.push(i);
            }
        }
        layup.outlets = plan.outlets.iter().filter_map(|r| patch(SurfaceId::WALL, *r)).collect();
        let drain_head = crate::layup::DEFAULT_DRAIN_HEAD;
        let mut leaks = vec![None, None];
        for (id, glue) in [(RAIN, Glue::Holds), (RAIN_NO_GLUE, Glue::Lost)] {
            layup.scenarios.push(Scenario { id: id.into(), source: Source::Rain, glue, drain_head });
        }
        for (i, leak) in plan.leaks.iter().enumerate() {
            let lies = |l: &&Laid| l.on == leak.on && l.rect.overlaps(leak.rect) && leak.under.contains(&l.piece);
            let sheet = self.layers.iter().find(lies).and_then(|l| sheet_of[l.piece]);
            if let (Some(under), Some(at)) = (sheet, patch(leak.on, leak.rect)) {
                let source = Source::Leak { at, under: Some(under) };
                layup.scenarios.push(Scenario { id: leak.id.clone(), source, glue: Glue::Holds, drain_head });
                leaks.push(Some(i));
            }
        }
        let surfaces = (0..plan.surfaces.len()).filter(|i| facets[*i].is_some()).map(SurfaceId).collect();
        StageLayup { layup, pieces, surfaces, targets, leaks }
    }
}

/// Name of the scenario "rain".
pub const RAIN: &str = "rain";
/// Name of the scenario "rain with glue lost".
pub const RAIN_NO_GLUE: &str = "rain-no-glue";

/// A layup and what its parts are in the plan.
#[derive(Clone, Debug)]
pub struct StageLayup {
    /// The layup itself.
    pub layup: Layup,
    /// The piece of each sheet.
    pub pieces: Vec<usize>,
    /// The surface of each facet.
    pub surfaces: Vec<SurfaceId>,
    /// The target of the plan behind each target.
    pub targets: Vec<usize>,
    /// The leak of the plan behind each scenario; `None` for rain.
    pub leaks: Vec<Option<usize>>,
}
