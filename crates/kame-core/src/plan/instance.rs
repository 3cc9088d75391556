//! A recipe at one opening: expressions become lengths, names become indices.

use crate::kit::named;
use crate::layup::Depth;
use crate::length::Length;
use crate::plan::added::{Added, BARRIER, Detail, Numbers, OpeningSize, barrier, unknown};
use crate::plan::kept::{self, CoatsAsked, Made, MadeFrom};
use crate::plan::{
    Cut, CutSize, Fitting, Flap, Fold, Laying, Leak, Over, Part, Piece, Plan, PlanStitchEnd, PlanTarget, Seal, Surface,
    SurfaceId,
};
use crate::profile::{Figures, fig};
use crate::recipe::expr::{Env, ExprError, Value};
use crate::recipe::{
    ActionSpec, GapsSpec, LayoutRule, PieceSpec, Recipe, RectSpec, SideSpec, SlopeSpec, StitchEndSpec, SurfaceSpec,
};
use crate::surface::{Facet, Rect, Segment, Side};
use crate::trade::{Act, Action, CutId, FlapId, PieceId, SealId, Step, StepCard};
use foldhash::HashMap;
use rayon::prelude::*;
use std::cell::RefCell;
use std::sync::Arc;

/// Most parts a rectangle is divided into by gaps: a window as wide as walls may be, with a gap every 6 in.
const MOST_GAPS: i64 = 4000;

/// An opening before its recipe is built into a plan.
pub enum Planned<'a> {
    /// It was made before.
    Before(Arc<Made>),
    /// It is made anew, by the sizes that the recipe names.
    Anew(Env<'a>),
}

impl<'a> Planned<'a> {
    /// A recipe at an opening, as it was made before where that is known.
    ///
    /// # Errors
    /// [`ExprError`] where recipe data names something that is not there.
    pub fn of(
        figures: &Figures,
        recipe: &'a Arc<Recipe>,
        opening: &OpeningSize,
        (wall, stretches): (Rect, usize),
    ) -> Result<Self, ExprError> {
        let (figures, recipe_of, of) = (figures.clone(), Arc::clone(recipe), opening.clone());
        let from = MadeFrom { recipe: recipe_of, opening: of, figures, wall, stretches };
        match kept::known(&from) {
            Some(made) => Ok(Self::Before(made)),
            None => Ok(Self::Anew(sizes(&from.figures, recipe, opening)?)),
        }
    }

    /// How much higher than the head the next lap has to be.
    ///
    /// # Errors
    /// [`ExprError`] where the recipe does not say it.
    pub fn clear_above(&self) -> Result<Length, ExprError> {
        match self {
            Self::Before(made) => made.clear_above.ok_or_else(|| unknown(CLEAR_ABOVE, CLEAR_ABOVE)),
            Self::Anew(env) => env.length(CLEAR_ABOVE),
        }
    }
}

/// What a recipe calls the least distance from the head to the next lap.
const CLEAR_ABOVE: &str = "clear_above";

/// A recipe that is being built at an opening, to be added to a plan.
struct Builder<'a, 'b> {
    plan: &'b Plan,
    from: Numbers,
    added: Added,
    named: NamedParts<'a>,
    /// Products of which it was asked how many coats they want, and how many that are.
    coats: RefCell<CoatsAsked>,
}

/// What a recipe's names stand for at an opening.
struct NamedParts<'a> {
    env: Env<'a>,
    opening: &'a OpeningSize,
    surfaces: HashMap<&'a str, Option<SurfaceId>>,
    pieces: HashMap<&'a str, PieceId>,
    seals: HashMap<&'a str, SealId>,
    cuts: HashMap<&'a str, CutId>,
    flaps: HashMap<&'a str, FlapId>,
    sill: Option<SurfaceId>,
}

/// All sizes that a recipe names at an opening.
///
/// # Errors
/// [`ExprError`] where recipe data names something that is not there.
pub fn sizes<'a>(figures: &Figures, recipe: &'a Recipe, opening: &OpeningSize) -> Result<Env<'a>, ExprError> {
    let mut env = Env::of(figures);
    let r = opening.rect;
    let own = [
        ("left", r.u0),
        ("right", r.u1),
        ("sill", r.v0),
        ("head", r.v1),
        ("width", r.width()),
        ("height", r.height()),
        ("depth", opening.depth),
        ("flange", opening.flange),
        ("outside_barrier", opening.outside),
    ];
    for (name, l) in own {
        env.set(name, Value::Length(l));
    }
    for (name, expr) in recipe.lets.iter().flatten() {
        let value = env.value(expr)?;
        env.set(name, value);
    }
    Ok(env)
}

/// Builds a recipe at an opening into the plan. Courses are in the plan already.
///
/// # Errors
/// [`ExprError`] where recipe data names something that is not there.
pub fn instantiate(plan: &mut Plan, recipe: &Recipe, opening: &OpeningSize) -> Result<Detail, ExprError> {
    let env = sizes(&plan.basis.figures, recipe, opening)?;
    let (added, detail, _) = Builder::build(plan, Numbers::behind(plan), recipe, opening, env)?;
    let (behind, barrier) = (added.seals_behind(plan, opening.stretch)?, barrier(plan, opening.stretch));
    added.add_to(plan, &behind, &barrier);
    Ok(detail)
}

/// Builds recipes, each at an opening, into the plan. Nothing of one depends on another, so they are built at the same time, and added in their
/// order. What was made before is made by the same numbers, or anew.
///
/// # Errors
/// [`ExprError`] where recipe data names something that is not there, with the number of the opening.
pub fn instantiate_each(
    plan: &mut Plan,
    recipes: &[Arc<Recipe>],
    openings: &[OpeningSize],
    planned: Vec<Planned<'_>>,
) -> Result<Vec<Arc<Made>>, (usize, ExprError)> {
    let mut numbers = Vec::with_capacity(openings.len());
    let mut next = Numbers::behind(plan);
    for (i, (recipe, planned)) in recipes.iter().zip(&planned).enumerate() {
        numbers.push(next);
        let surfaces = match planned {
            Planned::Before(made) => made.added.surfaces.len(),
            Planned::Anew(env) => surfaces_with_area(recipe, env).map_err(|e| (i, e))?,
        };
        next = next.after(recipe, surfaces);
    }
    let bare = &*plan;
    let coats_as_before = |made: &Made| made.coats.iter().all(|(product, coats)| bare.coats(product) == *coats);
    let one = |(i, planned): (usize, Planned<'_>)| {
        let (recipe, opening) = (&recipes[i], &openings[i]);
        let made = match planned {
            Planned::Before(made) if made.numbers == numbers[i] && coats_as_before(&made) => made,
            Planned::Before(_) => {
                make(bare, numbers[i], recipe, opening, sizes(&bare.basis.figures, recipe, opening)?)?
            }
            Planned::Anew(env) => make(bare, numbers[i], recipe, opening, env)?,
        };
        let behind = made.added.seals_behind(bare, opening.stretch)?;
        Ok((made, behind))
    };
    let built: Result<Vec<_>, _> =
        planned.into_par_iter().enumerate().map(|(i, p)| one((i, p)).map_err(|e| (i, e))).collect();
    let barriers: Vec<Vec<PieceId>> = (0..plan.walls.stretches.len()).map(|s| barrier(plan, s)).collect();
    let mut out = Vec::with_capacity(openings.len());
    for ((made, behind), opening) in built?.into_iter().zip(openings) {
        made.added.add_to(plan, &behind, &barriers[opening.stretch]);
        out.push(made);
    }
    Ok(out)
}

/// Makes a recipe at an opening, and keeps how.
fn make(
    plan: &Plan,
    numbers: Numbers,
    recipe: &Arc<Recipe>,
    opening: &OpeningSize,
    env: Env<'_>,
) -> Result<Arc<Made>, ExprError> {
    let clear_above = env.length(CLEAR_ABOVE).ok();
    let (added, detail, coats) = Builder::build(plan, numbers, recipe, opening, env)?;
    let from = MadeFrom {
        recipe: Arc::clone(recipe),
        opening: opening.clone(),
        figures: plan.basis.figures.clone(),
        wall: plan.surfaces[SurfaceId::WALL].facet.rect(),
        stretches: plan.walls.stretches.len(),
    };
    let made = Arc::new(Made { from, numbers, clear_above, coats, added, detail });
    kept::keep(&made);
    Ok(made)
}

/// How many of a recipe's surfaces have an area, by the sizes it names.
fn surfaces_with_area(recipe: &Recipe, env: &Env) -> Result<usize, ExprError> {
    let has = |s: &SurfaceSpec| Ok(env.length(&s.width)?.is_positive() && env.length(&s.height)?.is_positive());
    recipe.surface.iter().try_fold(0, |n, s| Ok(n + usize::from(has(s)?)))
}

impl NamedParts<'_> {
    fn id(&self, name: &str) -> String {
        format!("{}/{name}", self.opening.id)
    }

    /// What is laid out by a rule is so on the run of walls that the recipe is for.
    fn laying(&self, rule: Option<LayoutRule>) -> Option<Laying> {
        rule.zip(self.opening.finish).map(|(rule, finish)| Laying { rule, finish })
    }

    fn surface(&self, name: &str) -> Result<Option<SurfaceId>, ExprError> {
        self.surfaces.get(name).copied().ok_or_else(|| unknown(name, "a surface"))
    }

    fn piece(&self, name: &str) -> Result<PieceId, ExprError> {
        self.pieces.get(name).copied().ok_or_else(|| unknown(name, "a piece"))
    }

    fn flap(&self, name: &str) -> Result<FlapId, ExprError> {
        self.flaps.get(name).copied().ok_or_else(|| unknown(name, "a flap"))
    }

    fn rect(&self, r: &[String; 4]) -> Result<Rect, ExprError> {
        let [u0, v0, u1, v1] = r;
        Ok(Rect::new(self.env.length(u0)?, self.env.length(v0)?, self.env.length(u1)?, self.env.length(v1)?))
    }
}

impl<'a, 'b> Builder<'a, 'b> {
    /// What a recipe adds, counted from some numbers, its steps, and how many coats it was told that products want.
    fn build(
        plan: &'b Plan,
        from: Numbers,
        recipe: &'a Recipe,
        opening: &'a OpeningSize,
        env: Env<'a>,
    ) -> Result<(Added, Detail, CoatsAsked), ExprError> {
        let named = NamedParts {
            env,
            opening,
            surfaces: HashMap::from_iter([("wall", Some(SurfaceId::WALL))]),
            pieces: HashMap::default(),
            seals: HashMap::default(),
            cuts: HashMap::default(),
            flaps: HashMap::default(),
            sill: None,
        };
        let mut b = Self { plan, from, added: Added::default(), named, coats: RefCell::default() };
        b.surfaces(recipe)?;
        b.pieces(recipe)?;
        b.bind_surfaces(recipe)?;
        b.seals(recipe)?;
        b.cuts(recipe)?;
        b.fits(recipe)?;
        b.overs(recipe)?;
        b.questions(recipe)?;
        let detail = b.detail(recipe)?;
        b.end_with_wall();
        Ok((b.added, detail, b.coats.into_inner()))
    }

    /// A surface of the plan or of what is added.
    fn surface(&self, s: SurfaceId) -> &Surface {
        s.0.checked_sub(self.from.surfaces).map_or_else(|| &self.plan.surfaces[s], |own| &self.added.surfaces[own])
    }

    /// Its steps in working order, and what else is told of it.
    fn detail(&self, recipe: &Recipe) -> Result<Detail, ExprError> {
        let mut steps = Vec::new();
        for s in &recipe.step {
            let id = self.named.id(&s.id);
            let mut actions = Vec::new();
            for (n, a) in s.actions.iter().enumerate() {
                let (act, label) = self.act(a)?;
                let checks = a.checks().to_vec();
                actions.push(Action { id: format!("{id}/{}", n + 1), act, label: label.into(), checks });
            }
            let fill = |text: &str| self.named.env.fill(text);
            let card = StepCard {
                what: fill(&s.what)?,
                over: fill(&s.over)?,
                check: fill(&s.check)?,
                why: fill(&s.why)?,
                caution: fill(&s.caution)?,
            };
            steps.push(Arc::new(Step {
                id,
                title: s.title.clone(),
                phase: s.phase,
                band: s.band,
                opening: self.named.opening.index.map(|_| self.named.opening.id.clone()),
                card: card.into(),
                actions,
            }));
        }
        let stops = recipe.stop.iter().map(|s| self.named.rect(&s.rect)).collect::<Result<Vec<_>, _>>()?;
        Ok(Detail { steps, sill: self.named.sill, stops: stops.into_iter().filter(|r| r.has_area()).collect() })
    }

    fn act(&self, a: &ActionSpec) -> Result<(Act, String), ExprError> {
        let own = |piece: PieceId| &self.added.pieces[piece.0 - self.from.pieces];
        let name = |piece: PieceId| own(piece).name.as_str();
        Ok(match a {
            ActionSpec::Place { piece, under } => {
                let piece = self.named.piece(piece)?;
                let under: Result<Vec<_>, _> = under.iter().map(|u| self.named.piece(u)).collect();
                (Act::Place { piece, under: under? }, format!("place the {}", name(piece)))
            }
            ActionSpec::Set { piece } => {
                let piece = self.named.piece(piece)?;
                (Act::Set { piece }, format!("set the {}", name(piece)))
            }
            ActionSpec::Lift { flap } => {
                let flap = self.named.flap(flap)?;
                (Act::Lift { flap }, format!("lift the {}", self.added.flaps[flap.0 - self.from.flaps].name))
            }
            ActionSpec::Drop { flap } => {
                let flap = self.named.flap(flap)?;
                (Act::Drop { flap }, format!("drop the {}", self.added.flaps[flap.0 - self.from.flaps].name))
            }
            ActionSpec::Cut { cut } => {
                let cut = self.named.cuts.get(cut.as_str()).copied().ok_or_else(|| unknown(cut, "a cut"))?;
                (Act::Cut { cut }, "cut the barrier".into())
            }
            ActionSpec::Press { piece } => {
                let piece = self.named.piece(piece)?;
                (Act::Press { piece }, format!("roll the {}", name(piece)))
            }
            ActionSpec::Seal { seal } => {
                let seal = self.named.seals.get(seal.as_str()).copied().ok_or_else(|| unknown(seal, "a seal"))?;
                (Act::Seal { seal }, format!("lay the {}", self.added.seals[seal.0 - self.from.seals].name))
            }
            ActionSpec::Coat { piece, wet_mil, coats } => {
                let (piece, wet_mil) = (self.named.piece(piece)?, self.named.env.number(wet_mil)?);
                let product = &own(piece).product;
                let wanted = self.plan.coats(product);
                self.coats.borrow_mut().push((product.clone(), wanted));
                let coats = wanted.max(*coats);
                let times = if coats == 1 { String::new() } else { format!(", {coats} coats") };
                (Act::Coat { piece, wet_mil, coats }, format!("coat the {} {wet_mil} mil wet{times}", name(piece)))
            }
            ActionSpec::Fasten { what } => (Act::Fasten, format!("fasten {what}")),
            ActionSpec::Measure { what, .. } => (Act::Measure, format!("measure {what}")),
            ActionSpec::Hold { what, .. } => (Act::Hold, format!("hold: {what}")),
            ActionSpec::Wait { piece, what } => {
                let piece = piece.as_deref().map(|p| self.named.piece(p)).transpose()?;
                (Act::Wait { piece }, format!("wait: {what}"))
            }
            ActionSpec::Remove { piece, what } => {
                let piece = piece.as_deref().map(|p| self.named.piece(p)).transpose()?;
                (Act::Remove { piece }, format!("take away the {what}"))
            }
        })
    }
}

impl<'a> Builder<'a, '_> {
    /// Where a rectangle lies; `None` where it has no area, or its surface has none. On a surface of the opening it is cut to fit.
    fn place(&self, r: &RectSpec) -> Result<Option<(SurfaceId, Rect)>, ExprError> {
        let (surface, rect) = (self.named.surface(&r.on)?, self.named.rect(&r.rect)?);
        Ok(surface.and_then(|s| {
            let rect = if s == SurfaceId::WALL { Some(rect) } else { rect.intersection(self.surface(s).facet.rect()) };
            rect.filter(|r| r.has_area()).map(|r| (s, r))
        }))
    }

    fn places(&self, list: &[RectSpec]) -> Result<Vec<(SurfaceId, Rect)>, ExprError> {
        let mut out = Vec::new();
        for r in list {
            let Some((on, rect)) = self.place(r)? else { continue };
            match &r.gaps {
                None => out.push((on, rect)),
                Some(gaps) => out.extend(self.interrupted(rect, gaps)?.into_iter().map(|part| (on, part))),
            }
        }
        Ok(out)
    }

    /// What gaps leave of a rectangle.
    fn interrupted(&self, rect: Rect, gaps: &GapsSpec) -> Result<Vec<Rect>, ExprError> {
        let (wide, every) = (self.named.env.length(&gaps.wide)?, self.named.env.length(&gaps.every)?);
        let fields = (rect.width().units() / every.units().max(1) + 1).clamp(2, MOST_GAPS);
        let gap = |n: i64| {
            let middle = rect.u0.units() + rect.width().units() * n / fields;
            let half = wide.units() / 2;
            Rect { u0: Length::from_units(middle - half), u1: Length::from_units(middle + half), ..rect }
        };
        Ok(rect.minus_all(&(1..fields).map(gap).collect::<Vec<_>>()))
    }

    fn surfaces(&mut self, recipe: &'a Recipe) -> Result<(), ExprError> {
        for s in &recipe.surface {
            let (width, height) = (self.named.env.length(&s.width)?, self.named.env.length(&s.height)?);
            let rise = match s.slope {
                SlopeSpec::Plumb => 1.0,
                SlopeSpec::Level => 0.0,
                SlopeSpec::Sill => (self.plan.basis.figures.number(fig::SILL_SLOPE) / 100.0).atan().sin(),
            };
            let id = (width.is_positive() && height.is_positive()).then(|| {
                let facet = Facet { id: self.named.id(&s.id), width, height, rise, exposed: s.exposed };
                let opening = self.named.opening.index;
                let surface = Surface { name: s.id.clone(), facet, opening, with: None, sloped_by: None };
                self.added.surfaces.push(surface);
                SurfaceId(self.from.surfaces + self.added.surfaces.len() - 1)
            });
            self.named.sill = self.named.sill.or(id.filter(|_| s.sill));
            self.named.surfaces.insert(&s.id, id);
        }
        for s in &recipe.stitch {
            if let (Some(a), Some(b)) = (self.stitch_end(&s.a)?, self.stitch_end(&s.b)?) {
                self.added.stitches.push((a, b));
            }
        }
        Ok(())
    }

    fn stitch_end(&self, e: &StitchEndSpec) -> Result<Option<PlanStitchEnd>, ExprError> {
        let point = |p: &[String; 2]| Ok((self.named.env.length(&p[0])?, self.named.env.length(&p[1])?));
        let side = match e.material {
            SideSpec::Below => Side::Below,
            SideSpec::Above => Side::Above,
            SideSpec::Left => Side::Left,
            SideSpec::Right => Side::Right,
        };
        let (from, to) = (point(&e.from)?, point(&e.to)?);
        Ok(self.named.surface(&e.on)?.map(|on| PlanStitchEnd { on, from, to, side }))
    }

    fn pieces(&mut self, recipe: &'a Recipe) -> Result<(), ExprError> {
        for p in &recipe.piece {
            let piece = Piece {
                id: self.named.id(&p.id),
                name: p.name.clone(),
                role: p.role,
                letter: p.letter.clone(),
                product: p.product.clone(),
                bond: p.bond,
                solid: p.solid,
                grips: p.grips,
                regions: self.places(&p.regions)?,
                cut: self.cut_size(p)?,
                opening: self.named.opening.index,
                stretch: self.named.opening.stretch,
                laying: self.named.laying(p.layout),
            };
            self.named.pieces.insert(&p.id, PieceId(self.from.pieces + self.added.pieces.len()));
            self.added.pieces.push(piece);
        }
        Ok(())
    }

    /// The smallest stocked width that is wide enough; the piece's own width where none is stocked or none suffices.
    fn cut_size(&self, p: &PieceSpec) -> Result<Option<CutSize>, ExprError> {
        let Some(c) = &p.cut else { return Ok(None) };
        let (length, width) = (self.named.env.length(&c.length)?, self.named.env.length(&c.width)?);
        let stocked = c.stocked.iter().copied().filter(|s| *s >= width).min();
        let roll = c.roll.as_deref().map(|r| self.named.env.length(r)).transpose()?;
        let widest = c.stocked.iter().copied().max();
        let size = CutSize { length, width, stock_width: stocked.unwrap_or(width), roll, widest, taken: None };
        Ok((length.is_positive() && width.is_positive()).then_some(size))
    }

    /// What runs along the wall ends where the wall does.
    fn end_with_wall(&mut self) {
        if self.named.opening.ends_with_wall {
            let wall = self.plan.surfaces[SurfaceId::WALL].facet.rect();
            let within = |(on, r): &(SurfaceId, Rect)| Some((*on, r.intersection(wall)?));
            self.added.pieces.iter_mut().for_each(|p| p.regions = p.regions.iter().filter_map(within).collect());
        }
    }

    /// Surfaces that come with a piece; named after pieces, because the names point there.
    fn bind_surfaces(&mut self, recipe: &Recipe) -> Result<(), ExprError> {
        for s in &recipe.surface {
            let Some(id) = self.named.surface(&s.id)? else { continue };
            let with = s.with.as_deref().map(|p| self.named.piece(p)).transpose()?;
            let sloped_by = s.sloped_by.as_deref().map(|p| self.named.piece(p)).transpose()?;
            let surface = &mut self.added.surfaces[id.0 - self.from.surfaces];
            (surface.with, surface.sloped_by) = (with, sloped_by);
        }
        Ok(())
    }

    fn seals(&mut self, recipe: &'a Recipe) -> Result<(), ExprError> {
        for s in &recipe.seal {
            let rects = self.places(&s.rects)?;
            let behind_barrier = s.behind == BARRIER;
            self.added.behind_barrier.0.extend(behind_barrier.then_some(self.added.seals.len()));
            let seal = Seal {
                id: self.named.id(&s.id),
                name: s.name.clone(),
                // Which piece of the barrier it is, is known once it is added to a plan.
                behind: if behind_barrier { PieceId(0) } else { self.named.piece(&s.behind)? },
                reach: s.reach,
                fault: s.fault.clone(),
                product: if s.product.is_empty() { named::SEALANT.into() } else { s.product.clone() },
                rod: s.rod,
                rects,
                laying: self.named.laying(s.layout),
            };
            self.named.seals.insert(&s.id, SealId(self.from.seals + self.added.seals.len()));
            self.added.seals.push(seal);
        }
        Ok(())
    }

    fn cuts(&mut self, recipe: &'a Recipe) -> Result<(), ExprError> {
        for c in &recipe.cut {
            let mut cut = Cut {
                away: Vec::new(),
                slits: Vec::new(),
                flaps: Vec::new(),
                folds: Vec::new(),
                stretch: self.named.opening.stretch,
            };
            for r in &c.away {
                cut.away.extend(Some(self.named.rect(r)?).filter(|r| r.has_area()));
            }
            for [from, to] in &c.slits {
                let point = |p: &[String; 2]| Ok((self.named.env.length(&p[0])?, self.named.env.length(&p[1])?));
                let s = Segment { facet: crate::surface::FacetId(0), from: point(from)?, to: point(to)? };
                cut.slits.extend(Some(s).filter(|s| (s.from.0 == s.to.0) != (s.from.1 == s.to.1)));
            }
            for f in &c.flaps {
                let index = FlapId(self.from.flaps + self.added.flaps.len());
                self.added.flaps.push(Flap { id: self.named.id(&f.id), name: f.name.clone() });
                self.named.flaps.insert(&f.id, index);
                cut.flaps.extend(Some((index, self.named.rect(&f.rect)?)).filter(|(_, r)| r.has_area()));
            }
            for f in &c.folds {
                let Some(to) = self.named.surface(&f.to)? else { continue };
                let joins = |(a, b): &(PlanStitchEnd, PlanStitchEnd)| {
                    (a.on == SurfaceId::WALL && b.on == to).then_some((*a, *b))
                };
                let (wall, far) = self
                    .added
                    .stitches
                    .iter()
                    .find_map(joins)
                    .ok_or_else(|| unknown(&f.to, "a surface stitched to the wall"))?;
                let from = self.named.rect(&f.rect)?;
                if from.has_area() {
                    let flap = f.flap.as_deref().map(|name| self.named.flap(name)).transpose()?;
                    cut.folds.push(Fold { from, to, flap, wall, far });
                }
            }
            self.named.cuts.insert(&c.id, CutId(self.from.cuts + self.added.cuts.len()));
            self.added.cuts.push(cut);
        }
        Ok(())
    }

    fn fits(&mut self, recipe: &Recipe) -> Result<(), ExprError> {
        for f in &recipe.fit {
            let away: Result<Vec<Rect>, _> = f.away.iter().map(|r| self.named.rect(r)).collect();
            let point = |p: &[String; 2]| Ok((self.named.env.length(&p[0])?, self.named.env.length(&p[1])?));
            let slit = |[from, to]: &[[String; 2]; 2]| {
                Ok(Segment { facet: crate::surface::FacetId(0), from: point(from)?, to: point(to)? })
            };
            let slits: Result<Vec<Segment>, ExprError> = f.slits.iter().map(slit).collect();
            let tuck: Result<Vec<(PieceId, Rect)>, ExprError> =
                f.tuck.iter().map(|t| Ok((self.named.piece(&t.under)?, self.named.rect(&t.rect)?))).collect();
            let fit = Fitting { of: f.of, unit: self.named.piece("unit")?, away: away?, slits: slits?, tuck: tuck? };
            self.added.fits.push(fit);
        }
        Ok(())
    }

    fn part(&self, name: &str) -> Result<Part, ExprError> {
        if name == BARRIER {
            return Ok(Part::Barrier(self.named.opening.stretch));
        }
        // Where two barriers meet.
        if name == "next-barrier" {
            return Ok(Part::Barrier((self.named.opening.stretch + 1) % self.plan.walls.stretches.len().max(1)));
        }
        self.named.piece(name).map(Part::Piece).or_else(|_| self.named.flap(name).map(Part::Flap))
    }

    fn overs(&mut self, recipe: &Recipe) -> Result<(), ExprError> {
        for o in &recipe.over {
            let over = Over {
                upper: self.part(&o.upper)?,
                lower: self.part(&o.lower)?,
                fault: o.fault.clone(),
                because: o.because.clone(),
                opening: self.named.opening.index,
            };
            self.added.overs.push(over);
        }
        Ok(())
    }

    fn questions(&mut self, recipe: &Recipe) -> Result<(), ExprError> {
        for t in &recipe.target {
            let Some((on, rect)) = self.place(&t.at)? else { continue };
            let without = match &t.without {
                Some(s) => self.named.surface(s)?,
                None => None,
            };
            let depth = if t.substrate { Depth::Substrate } else { Depth::Any };
            self.added.targets.push(PlanTarget {
                id: self.named.id(&t.id),
                name: t.name.clone(),
                depth,
                on,
                rect,
                without,
            });
        }
        for l in &recipe.leak {
            let Some((on, rect)) = self.place(&l.at)? else { continue };
            let Some(rect) = rect.intersection(self.surface(on).facet.rect()) else { continue };
            let under = match self.part(&l.under)? {
                Part::Piece(p) => vec![p],
                _ => {
                    self.added.behind_barrier.1.push(self.added.leaks.len());
                    Vec::new()
                }
            };
            let id = self.named.id(&l.id);
            self.added.leaks.push(Leak {
                id_no_glue: format!("{id}-no-glue"),
                id,
                kind: l.id.clone(),
                name: l.name.clone(),
                under,
                on,
                rect,
                openings_only: l.openings_only,
                fault: l.fault.clone(),
            });
        }
        Ok(())
    }
}
