//! What can be done at a place, from what lies there: which lap or slit a new piece can be tucked under, what it is stuck on, what has to be taken off.

use super::over::LiesOver;
use crate::edit::{Edit, feature_kinds};
use crate::job::{FoundKind, FoundSpec, Holds, Job, Mend, OpeningSpec, Place};
use crate::kit::named;
use crate::layup::Bond;
use crate::length::Length;
use crate::plan::{Plan, SurfaceId};
use crate::profile::{LengthFigure, fig};
use crate::recipe::Role;
use crate::recipe::schools::{Feature, Schools};
use crate::sequence::{Laid, Stage};
use crate::surface::Rect;
use crate::trade::PieceId;
use std::collections::{BTreeSet, HashMap};

/// A wall with something found on it, just before it was.
pub struct Moves<'a> {
    pub job: &'a Job,
    pub plan: &'a Plan,
    pub stage: &'a Stage,
    pub over: LiesOver<'a>,
    /// Where it is.
    pub at: Rect,
    pub found: &'a FoundSpec,
}

/// What can be tried: what it is called, and the change.
type Tried = (String, Edit);

impl Moves<'_> {
    fn length(&self, f: LengthFigure) -> Length {
        self.plan.basis.figures.length(f)
    }

    /// Everything that can be tried, the simplest first; what cannot be done there is not among it.
    pub fn all(&self) -> Vec<Tried> {
        let mut out: Vec<Tried> = Vec::new();
        let mut add = |title: &str, repair: Option<Vec<Mend>>| {
            if let Some(repair) = repair {
                out.push((title.to_owned(), Edit::SetFound { found: FoundSpec { repair, ..self.found.clone() } }));
            }
        };
        let dry = self.found.what == FoundKind::Wet;
        // What comes through keeps its hole: it is flashed, and not closed.
        if self.found.what == FoundKind::LateHole {
            return self.flashed();
        }
        if self.found.what == FoundKind::Moved {
            return self.moved();
        }
        if self.found.what == FoundKind::Unit {
            add("Take it out with what lies over it, and set another", self.again(false));
            return out;
        }
        // What a check found is in the piece itself: it is taken off, or another is stuck over one that sticks.
        let sticks =
            self.found.pieces.iter().any(|id| self.plan.pieces.iter().any(|p| p.id == *id && p.bond == Bond::Full));
        if self.found.what == FoundKind::Failed {
            add("A piece stuck over it", self.stuck().filter(|_| sticks));
        } else if !dry {
            add("Sealant over the hole", self.dab());
            add("A coat over it", self.coated());
            add("A new piece under the lap above it", self.under_lap());
            add("A new piece up to the top of the wall", self.to_the_top());
            add("A new piece under a slit above it", self.under_slit());
            add("A piece stuck over it", self.stuck());
        }
        let again = self.again(dry);
        let nothing_off = again.iter().flatten().any(|m| matches!(m, Mend::Again { off, .. } if off.is_empty()));
        let title = match (dry, nothing_off) {
            (true, _) => "Take it back to the wall, dry it and do it again",
            (false, true) => "Do now what was left out",
            (false, false) => "Take it back to here and do it again",
        };
        add(title, again);
        out
    }

    /// Layers on the face of the wall, from inside to outside.
    fn on_wall(&self) -> impl Iterator<Item = &Laid> {
        self.stage.layers.iter().filter(|l| l.on == SurfaceId::WALL)
    }

    /// The outermost barrier that lies where it was found.
    fn barrier(&self) -> Option<PieceId> {
        let hit =
            self.on_wall().filter(|l| l.rect.overlaps(self.at) && self.plan.pieces[l.piece].role == Role::Barrier);
        hit.last().map(|l| l.piece)
    }

    /// True where the barrier itself sticks: one more edge that leans on glue is nothing new there.
    pub fn sticks(&self) -> bool {
        self.barrier().is_some_and(|p| self.plan.pieces[p].bond == Bond::Full)
    }

    /// What hangs outside where it was found.
    pub fn outside(&self) -> Vec<PieceId> {
        let hangs = |l: &&Laid| {
            let p = &self.plan.pieces[l.piece];
            l.rect.overlaps(self.at) && (p.role == Role::Cover || p.role.is_outside())
        };
        let mut out: Vec<PieceId> = self.on_wall().filter(hangs).map(|l| l.piece).collect();
        out.dedup();
        out
    }

    /// The outermost piece there that sheds, whatever it is.
    fn outermost(&self) -> Option<PieceId> {
        let sheds = |l: &&Laid| {
            let p = &self.plan.pieces[l.piece];
            l.rect.overlaps(self.at) && !p.solid && p.role != Role::Cover && !p.role.is_outside()
        };
        self.on_wall().filter(sheds).last().map(|l| l.piece)
    }

    fn grown(&self, by: Length) -> Rect {
        let a = self.at;
        Rect::new(a.u0 - by, a.v0 - by, a.u1 + by, a.v1 + by)
    }

    /// A piece where it can lie: on the wall, and not over an opening or a thing that stands out of it.
    fn fits(&self, r: Rect) -> Option<Rect> {
        let wall = self.plan.surfaces[SurfaceId::WALL].facet.rect();
        let r = if self.plan.walls.round {
            Rect { v0: r.v0.max(wall.v0), v1: r.v1.min(wall.v1), ..r }
        } else {
            r.intersection(wall)?
        };
        let air = self.plan.walls.outline.air();
        // What belongs to an opening that moved is off by then.
        let off =
            |l: &Laid| self.found.what == FoundKind::Moved && self.found.pieces.contains(&self.plan.pieces[l.piece].id);
        let in_the_way =
            |l: &Laid| self.plan.pieces[l.piece].solid && l.rect.overlaps(r) && !l.rect.overlaps(self.at) && !off(l);
        let hole = self.plan.openings.iter().any(|o| o.feature == Feature::Opening && o.rect.overlaps(r));
        let blocked = hole || air.iter().any(|a| a.overlaps(r)) || self.on_wall().any(in_the_way);
        (!blocked && r.has_area()).then_some(r)
    }

    /// The same, less wide where an opening stands beside it, as long as some of it is left on each side.
    fn narrowed(&self, r: Rect) -> Option<Rect> {
        let holes = self.plan.openings.iter().filter(|o| o.feature == Feature::Opening && o.rect.overlaps(r));
        let mut out = r;
        for o in holes.map(|o| o.rect) {
            if o.u0 >= self.at.u1 {
                out.u1 = out.u1.min(o.u0);
            } else if o.u1 <= self.at.u0 {
                out.u0 = out.u0.max(o.u1);
            } else if o.v0 >= self.at.v1 {
                out.v1 = out.v1.min(o.v0);
            } else if o.v1 <= self.at.v0 {
                out.v0 = out.v0.max(o.v1);
            } else {
                return None;
            }
        }
        self.fits(out)
    }

    fn place(&self, r: Rect) -> Place {
        Place { left: r.u0, bottom: r.v0 - self.plan.walls.plate, width: r.width(), height: r.height() }
    }

    /// A repair with what hangs outside taken off where it is in the way.
    fn opened(&self, r: Rect, mut then: Vec<Mend>) -> Vec<Mend> {
        let hangs = |l: &&Laid| {
            let p = &self.plan.pieces[l.piece];
            l.rect.overlaps(r) && (p.role == Role::Cover || p.role.is_outside())
        };
        // What was hung over a piece that comes off comes off before it.
        let outside = |p: PieceId| self.plan.pieces[p].role == Role::Cover || self.plan.pieces[p].role.is_outside();
        let off = self.over.with_all_over(self.on_wall().filter(hangs).map(|l| l.piece).collect(), outside);
        if !off.is_empty() {
            then.insert(0, Mend::Open { pieces: off.iter().map(|p| self.plan.pieces[*p].id.clone()).collect() });
        }
        then
    }

    fn lay(&self, product: &str, r: Rect, holds: Holds) -> Mend {
        let place = self.place(r);
        Mend::Lay { product: product.into(), place, holds, under: Vec::new(), under_slit: false, sealed: false }
    }

    /// What the barrier is of, where it is a sheet that hangs loose.
    fn loose_sheet(&self) -> Option<(PieceId, String)> {
        let piece = self.barrier()?;
        let p = &self.plan.pieces[piece];
        let sheet = p.bond == Bond::None && p.cut.as_ref().is_some_and(|c| c.roll.is_some());
        sheet.then(|| (piece, p.product.clone()))
    }

    fn dab(&self) -> Option<Vec<Mend>> {
        let most = self.length(fig::REPAIR_DAB_MOST);
        if self.at.width() > most || self.at.height() > most {
            return None;
        }
        let r = self.fits(self.grown(self.length(fig::REPAIR_DAB)))?;
        Some(self.opened(r, vec![self.lay(named::SEALANT, r, Holds::Stuck)]))
    }

    fn coated(&self) -> Option<Vec<Mend>> {
        let piece = self.outermost()?;
        if self.plan.pieces[piece].bond != Bond::Cured {
            return None;
        }
        let r = self.narrowed(self.grown(self.length(fig::REPAIR_PAST)))?;
        Some(self.opened(r, vec![self.lay(named::LIQUID_FLASHING, r, Holds::Coated)]))
    }

    fn under_lap(&self) -> Option<Vec<Mend>> {
        let (_, product) = self.loose_sheet()?;
        let (past, tuck) = (self.length(fig::REPAIR_PAST), self.length(fig::REPAIR_TUCK));
        let around = self.grown(past);
        // The lowest lower edge of a sheet above it, over the whole width.
        let mut edges: BTreeSet<(Length, PieceId)> = BTreeSet::new();
        for l in self.on_wall() {
            let p = &self.plan.pieces[l.piece];
            let hangs = p.role == Role::Barrier && self.stage.bond(l.piece) == Bond::None;
            if hangs && l.rect.v0 >= self.at.v1 && l.rect.u0 < around.u1 && l.rect.u1 > around.u0 {
                edges.insert((l.rect.v0, l.piece));
            }
        }
        for (edge, _) in &edges {
            let row: Vec<PieceId> = edges.iter().filter(|(v, _)| v == edge).map(|(_, p)| *p).collect();
            let at = |l: &&Laid| l.rect.v0 == *edge && row.contains(&l.piece);
            let there: Vec<Rect> = self.on_wall().filter(at).map(|l| l.rect).collect();
            let strip = Rect { v0: *edge, v1: *edge + tuck, ..around };
            if !strip.minus_all(&there).is_empty() {
                continue;
            }
            // Beside an opening it is as wide as there is room; under one it does not reach the lap.
            let r = self.narrowed(Rect { v1: *edge + tuck, ..around }).filter(|r| r.v1 == *edge + tuck)?;
            let mut lay = self.lay(&product, r, Holds::Loose);
            if let Mend::Lay { under, .. } = &mut lay {
                *under = row.iter().map(|p| self.plan.pieces[*p].id.clone()).collect();
            }
            return Some(self.opened(r, vec![lay]));
        }
        None
    }

    fn to_the_top(&self) -> Option<Vec<Mend>> {
        let (_, product) = self.loose_sheet()?;
        let wall = self.plan.surfaces[SurfaceId::WALL].facet.rect();
        let around = self.grown(self.length(fig::REPAIR_PAST));
        let r = self.narrowed(Rect { v1: wall.v1, ..around }).filter(|r| r.v1 == wall.v1)?;
        // Where a lap is above it, it is tucked under that.
        let covered = self
            .on_wall()
            .any(|l| self.plan.pieces[l.piece].role == Role::Barrier && l.rect.v0 > self.at.v1 && l.rect.overlaps(r));
        (!covered).then(|| self.opened(r, vec![self.lay(&product, r, Holds::Loose)]))
    }

    fn under_slit(&self) -> Option<Vec<Mend>> {
        let (piece, product) = self.loose_sheet()?;
        let (past, tuck) = (self.length(fig::REPAIR_PAST), self.length(fig::REPAIR_TUCK));
        let around = self.fits(self.grown(past))?;
        let wide = self.fits(Rect { u0: around.u0 - past, u1: around.u1 + past, ..around })?;
        let slit = Rect { v0: around.v1, v1: around.v1 + tuck, ..around };
        // One sheet over all of it: a slit through a lap opens two.
        let whole = self.on_wall().any(|l| l.piece == piece && l.rect.contains(Rect { v1: slit.v1 + tuck, ..wide }));
        if !whole {
            return None;
        }
        let mut lay = self.lay(&product, Rect { v1: slit.v1, ..wide }, Holds::Loose);
        if let Mend::Lay { under_slit, .. } = &mut lay {
            *under_slit = true;
        }
        let cut =
            Mend::Slit { left: slit.u0, at: slit.v0 - self.plan.walls.plate, width: slit.width(), lift: slit.height() };
        let half = tuck;
        let end = |u0, u1| {
            self.lay(named::FLASHING_TAPE, Rect { u0, u1, v0: slit.v0 - half, v1: slit.v0 + half }, Holds::Stuck)
        };
        let ends = [end(wide.u0 - half, slit.u0 + half), end(slit.u1 - half, wide.u1 + half)];
        Some(self.opened(Rect { v1: slit.v1, ..wide }, [cut, lay].into_iter().chain(ends).collect()))
    }

    fn stuck(&self) -> Option<Vec<Mend>> {
        let most = self.length(fig::REPAIR_STUCK_MOST);
        let (long, short) = (self.at.width().max(self.at.height()), self.at.width().min(self.at.height()));
        // Along an edge, or beside a hole that moved, a long tape is an ordinary tape.
        if short > most || long > most && !matches!(self.found.what, FoundKind::Wrong | FoundKind::Moved) {
            return None;
        }
        let past = if self.found.what == FoundKind::Wrong {
            self.length(fig::NIGHT_TAPE)
        } else {
            self.length(fig::REPAIR_PAST)
        };
        let r = self.narrowed(self.grown(past))?;
        let outermost = self.outermost()?;
        let own = &self.plan.pieces[outermost];
        let least = r.width().min(r.height());
        let wide_enough = |name: &str| {
            let product = self.plan.product(name);
            product.is_some_and(|p| p.sizes.iter().any(|s| s.width.is_some_and(|w| w >= least)))
        };
        let own_sheet = own.role == Role::Barrier && own.bond == Bond::Full && wide_enough(&own.product);
        let product = if own_sheet {
            own.product.as_str()
        } else {
            [named::FLASHING_TAPE, named::FLAT_MEMBRANE]
                .into_iter()
                .find(|p| wide_enough(p))
                .unwrap_or(named::FLAT_MEMBRANE)
        };
        let mut lay = self.lay(product, r, Holds::Stuck);
        if let Mend::Lay { sealed, .. } = &mut lay {
            *sealed = true;
        }
        Some(self.opened(r, vec![lay]))
    }

    /// The piece that is hurt, and everything that was laid over it or beside it on what comes off.
    fn again(&self, dry: bool) -> Option<Vec<Mend>> {
        let hurt = |l: &&Laid| l.rect.overlaps(self.at) && !self.plan.pieces[l.piece].solid;
        let named = |(p, piece): (PieceId, &crate::plan::Piece)| self.found.pieces.contains(&piece.id).then_some(p);
        let mut off: BTreeSet<PieceId> = self.plan.pieces.iter_enumerated().filter_map(named).collect();
        if off.is_empty() {
            let there = self.on_wall().filter(hurt).map(|l| l.piece);
            // What let go is one piece: the outermost that sticks.
            off = match self.found.what {
                FoundKind::LetGo => there.filter(|p| self.stage.bond(*p) == Bond::Full).last().into_iter().collect(),
                _ => there.collect(),
            };
        }
        if off.is_empty() {
            return None;
        }
        Some(self.all_again(off, dry))
    }

    /// Some pieces and everything that has to come off with them, off and on again.
    fn all_again(&self, off: BTreeSet<PieceId>, dry: bool) -> Vec<Mend> {
        let rank: HashMap<PieceId, usize> = self.stage.layers.iter().enumerate().map(|(n, l)| (l.piece, n)).collect();
        let off = self.over.back_to(off);
        let mut pieces: Vec<PieceId> = off.into_iter().collect();
        pieces.sort_by_key(|p| rank.get(p));
        let ids = |of: &[PieceId]| of.iter().map(|p| self.plan.pieces[*p].id.clone()).collect();
        let there: Vec<PieceId> = pieces.iter().copied().filter(|p| self.stage.has(*p)).collect();
        vec![Mend::Again { off: ids(&there), pieces: ids(&pieces), dry }]
    }

    /// An opening that moved: what belongs to it comes off, what is left of its old hole is closed, and it is flashed where it is now; what closes the
    /// hole lies under its flashing or over it.
    fn moved(&self) -> Vec<Tried> {
        let Some(Mend::Again { off, pieces, .. }) = self.again(false).into_iter().flatten().next() else {
            return Vec::new();
        };
        let of = self.plan.pieces.iter().find(|p| self.found.pieces.contains(&p.id)).and_then(|p| p.opening);
        let Some(now) = of.map(|o| self.plan.openings[o].rect) else { return Vec::new() };
        let left: Vec<Rect> = self.at.minus(now).filter(|r| r.has_area()).collect();
        let comes_off = Mend::Again { off: off.clone(), pieces: Vec::new(), dry: false };
        let flashed = Mend::Again { off: Vec::new(), pieces: pieces.clone(), dry: false };
        let mut out: Vec<Tried> = Vec::new();
        let mut add = |title: String, repair: Vec<Mend>| {
            out.push((title, Edit::SetFound { found: FoundSpec { repair, ..self.found.clone() } }));
        };
        if left.is_empty() {
            add("Take it out with what lies over it, and flash it as it is now".into(), vec![comes_off, flashed]);
            return out;
        }
        type Way = dyn Fn(&Moves) -> Option<Vec<Mend>>;
        let ways: [(&str, &Way); 4] = [
            ("a coat", &|m| m.coated()),
            ("new pieces under the lap above", &|m| m.under_lap()),
            ("new pieces up to the top of the wall", &|m| m.to_the_top()),
            ("pieces stuck over it", &|m| m.stuck()),
        ];
        for (what, way) in ways {
            let each = left.iter().map(|r| way(&Moves { over: self.over.clone(), at: *r, ..*self }));
            let Some(each) = each.collect::<Option<Vec<Vec<Mend>>>>() else { continue };
            let (mut opened, mut laid) = (Vec::new(), Vec::new());
            for mend in each.into_iter().flatten() {
                match mend {
                    // What comes off with the opening is laid again with it.
                    Mend::Open { pieces } => opened.extend(pieces.into_iter().filter(|p| !off.contains(p))),
                    other => laid.push(other),
                }
            }
            opened.dedup();
            let first: Vec<Mend> = (!opened.is_empty()).then_some(Mend::Open { pieces: opened }).into_iter().collect();
            let under = [first.clone(), vec![comes_off.clone()], laid.clone(), vec![flashed.clone()]].concat();
            let over = [first, vec![comes_off.clone(), flashed.clone()], laid].concat();
            add(format!("Close the old hole with {what}, then flash it where it is now"), under);
            add(format!("Flash it where it is now, then close the old hole with {what}"), over);
        }
        // The sheets themselves, hung anew with the hole where it is now.
        let hurt: BTreeSet<PieceId> = self
            .on_wall()
            .filter(|l| l.rect.overlaps(self.at) && self.plan.pieces[l.piece].role.is_barrier())
            .map(|l| l.piece)
            .collect();
        let named = |(p, piece): (PieceId, &crate::plan::Piece)| self.found.pieces.contains(&piece.id).then_some(p);
        let all: BTreeSet<PieceId> = self.plan.pieces.iter_enumerated().filter_map(named).chain(hurt).collect();
        add("Take the barrier back to here and hang it anew".into(), self.all_again(all, false));
        out
    }

    /// What comes through gets its own flashing, as every way of the trade has it that can be built here.
    fn flashed(&self) -> Vec<Tried> {
        let Ok(kinds) = feature_kinds() else { return Vec::new() };
        let asked = self.found.thing.as_deref().unwrap_or("pipe");
        let (Some(thing), Ok(schools)) = (
            kinds.iter().find(|k| k.feature == Feature::Penetration && k.id == asked),
            Schools::of(Feature::Penetration),
        ) else {
            return Vec::new();
        };
        let Some(face) = schools.question("face") else { return Vec::new() };
        let taken =
            |id: &String| self.job.openings.iter().any(|o| o.id == *id) || self.job.found.iter().any(|f| f.id == *id);
        let id = (1..).map(|n| format!("{}{n}", thing.letter)).find(|id| !taken(id)).unwrap_or_default();
        let place = self.place(self.at);
        let one = |choice: &crate::recipe::schools::Choice| {
            let mut answers = thing.schools.clone();
            answers.insert("moment".into(), "after".into());
            answers.insert("face".into(), choice.id.clone());
            let opening = OpeningSpec {
                id: id.clone(),
                name: format!("{} {}", thing.name, id),
                feature: Feature::Penetration,
                schools: answers,
                products: Default::default(),
                recipe: None,
                left: place.left,
                sill: place.bottom,
                width: place.width,
                height: place.height,
                depth: Length::inch_fraction(11, 2),
                flange: Length::inch_fraction(11, 8),
                model: String::new(),
            };
            let title = format!("Flash it as a {}: {}", thing.name.to_lowercase(), choice.name.to_lowercase());
            (title, Edit::AddOpening { opening })
        };
        face.choice.iter().map(one).collect()
    }
}
