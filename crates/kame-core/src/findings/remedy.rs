//! What a water's way says of its cause: something left out, done other than planned, out of order, not rolled or not sealed. What is told
//! here is what the wall shows; whether it cures is tried elsewhere (`crate::remedies`).

use super::order::{BrokenOver, left_out_fix, move_fix};
use super::place::piece_of;
use super::words::is_or_are;
use super::{Fix, Moment, notes};
use crate::job::FoundKind;
use crate::layup::Bond;
use crate::plan::{AsBuilt, Damage, Effect, Over, Part, Plan, SurfaceId};
use crate::recipe::Role;
use crate::surface::{Edge, Rect};
use crate::trade::{Act, PieceId, SealId, StepId};
use crate::water::{Passage, PassageKind, WaterWay, WayPoint};
use std::collections::HashSet;
use typed_index_collections::TiVec;

/// What is at the bottom of it, in words, with what Kame can do at once.
#[derive(Default)]
pub struct Told {
    /// What is wrong, put before what the water does; empty where the water says it all.
    pub because: String,
    /// What somebody should do, as a sentence.
    pub words: String,
    /// What Kame can do.
    pub fix: Option<Fix>,
    /// The fault it is, where that is known.
    pub code: Option<String>,
    /// The piece it is about, told before those the water passes.
    pub piece: Option<PieceId>,
}

/// How far from the passed edge a piece may lie to be the one that should have covered it.
const NEAR: f64 = 0.5;

/// A wall at a moment, with what is out of order on it and what is left out.
pub struct Wall<'a> {
    /// The plan.
    pub plan: &'a Plan,
    /// The moment.
    pub moment: &'a Moment,
    /// Overs that stand the wrong way round.
    pub broken: Vec<BrokenOver<'a>>,
    /// Overs whose upper part is not there.
    pub missing: Vec<&'a Over>,
    /// Pieces that are not there because they are left out, the smaller before the larger: a patch before the course it lies on.
    pub left_out: Vec<PieceId>,
}

impl Wall<'_> {
    /// What is told of a way, the most telling first. `lost` where the glue is.
    pub fn of_way(&self, way: &WaterWay, lost: bool) -> Told {
        let as_built = || self.plan.departures.as_built.iter().find_map(|a| self.as_built(a, way));
        let first = as_built().or_else(|| self.found(way)).or_else(|| self.left_out(way));
        let passed = || way.passages.iter().find_map(|p| self.at_edge(p, way, lost));
        let told = first.or_else(passed).or_else(|| if lost { None } else { self.out_of_order() });
        told.unwrap_or_else(|| self.nothing_else(way))
    }

    /// What was done other than planned where the water passes.
    fn as_built(&self, a: &AsBuilt, way: &WaterWay) -> Option<Told> {
        let (on, rect) = a.place();
        let [u0, v0, u1, v1] = rect.to_inches();
        let here = |p: &WayPoint| {
            SurfaceId(p.facet.0) == on && p.u >= u0 - NEAR && p.u <= u1 + NEAR && p.v >= v0 - NEAR && p.v <= v1 + NEAR
        };
        let along = |p: &WayPoint| p.u >= u0 - NEAR && p.u <= u1 + NEAR;
        let past = |p: &Passage| piece_of(p.sheet) == a.piece() && way.points.get(p.point).is_some_and(along);
        let through = !self.moment.stage.is_renewed(a.piece())
            && match a {
                AsBuilt::OffLevel { .. } => way.passages.iter().any(past),
                AsBuilt::Mouth { .. } | AsBuilt::Short { .. } => way.points.iter().any(here),
                AsBuilt::Bead { .. } => false,
            };
        if !through {
            return None;
        }
        let (deviation, code) = notes::deviation(self.plan, a);
        let (because, words) = notes::as_built_words(self.plan, a);
        let fix = Some(Fix::PutRight { deviation });
        Some(Told { because, words, fix, code: Some(code.into()), piece: Some(a.piece()) })
    }

    /// What was found where the water passes, and is not mended; what hurt no piece lets nothing in.
    fn found(&self, way: &WaterWay) -> Option<Told> {
        let here = |rect: Rect| {
            let [u0, v0, u1, v1] = rect.to_inches();
            way.points.iter().any(|p| {
                p.facet.0 == SurfaceId::WALL.0
                    && p.u >= u0 - NEAR
                    && p.u <= u1 + NEAR
                    && p.v >= v0 - NEAR
                    && p.v <= v1 + NEAR
            })
        };
        // Of an opening that moved what is an opening again is not hurt.
        let holes: Vec<Rect> = self.plan.openings.iter().map(|o| o.rect).collect();
        let there = |d: &Damage| match d.what {
            FoundKind::Moved => d.rect.minus_all(&holes).into_iter().any(here),
            _ => here(d.rect),
        };
        let hurt = self.plan.departures.damages.iter().find(|d| !d.mended && d.effect != Effect::None && there(d))?;
        let (because, words) = (notes::found_words(hurt), notes::MEND.to_owned());
        Some(Told { because, words, code: Some(notes::found_code(hurt).into()), ..Told::default() })
    }

    /// A piece that is left out and would lie where the water passes.
    fn left_out(&self, way: &WaterWay) -> Option<Told> {
        let over = |piece: &PieceId, p: &WayPoint| {
            let regions = self.plan.pieces[*piece].regions.iter();
            regions.into_iter().any(|(on, r)| on.0 == p.facet.0 && near(*r, p.u, p.v))
        };
        // What water passes first is covered by what is missing there; what it reaches, by what should lie on it.
        let entries = way.passages.iter().filter_map(|p| way.points.get(p.point)).chain(way.points.last());
        let piece = entries.into_iter().find_map(|p| self.left_out.iter().copied().find(|piece| over(piece, p)))?;
        self.told_left_out(piece)
    }

    /// That a piece is left out.
    fn told_left_out(&self, piece: PieceId) -> Option<Told> {
        let (fix, words) = left_out_fix(self.plan, Part::Piece(piece))?;
        let over = self.missing.iter().find(|o| o.upper == Part::Piece(piece));
        let name = &self.plan.pieces[piece].name;
        let because = over.map_or(String::new(), |o| format!(": {}", o.because));
        Some(Told {
            because: format!("The {name} {} left out{because}.", is_or_are(name)),
            words,
            fix: Some(fix),
            code: over.map(|o| o.fault.clone()),
            piece: Some(piece),
        })
    }

    /// What is wrong at one edge that the water passes.
    fn at_edge(&self, passage: &Passage, way: &WaterWay, lost: bool) -> Option<Told> {
        if !matches!(passage.kind, PassageKind::InBehind | PassageKind::InThroughCut) {
            return None;
        }
        let (plan, piece) = (self.plan, piece_of(passage.sheet));
        let point = way.points.get(passage.point)?;
        let here = |part: Part| covers(plan, part, SurfaceId(point.facet.0), (point.u, point.v));
        let mut missing = self.missing.iter().filter(|o| sheds(plan, o.upper));
        let missing = missing.find(|o| here(o.upper) && concerns(plan, o.lower, piece));
        if let Some(o) = missing {
            let upper = plan.part_name(o.upper);
            let (fix, words) = left_out_fix(plan, o.upper)
                .map_or((None, format!("Go on: the {upper} comes over it later.")), |(f, w)| (Some(f), w));
            let because = format!("The {upper} is not there: {}.", o.because);
            let piece = if let Part::Piece(p) = o.upper { Some(p) } else { None };
            return Some(Told { because, words, fix, code: Some(o.fault.clone()), piece });
        }
        if let Some(b) = self.broken.iter().find(|b| concerns(plan, b.over.lower, piece) && here(b.over.upper)) {
            return Some(self.told_broken(b));
        }
        // Where all glue is lost, what was never rolled or sealed makes no difference.
        if lost { None } else { self.not_rolled(piece).or_else(|| self.not_sealed(piece)) }
    }

    fn told_broken(&self, b: &BrokenOver) -> Told {
        let (plan, over) = (self.plan, b.over);
        let (fix, words) = move_fix(plan, over).map_or((None, String::new()), |(f, w)| (Some(f), w));
        let because = format!(
            "The {} lies behind the {} and belongs over it: {}.",
            plan.part_name(over.upper),
            plan.part_name(over.lower),
            over.because
        );
        let piece = if let Part::Piece(p) = over.upper { Some(p) } else { None };
        Told { because, words, fix, code: Some(over.fault.clone()), piece }
    }

    fn not_rolled(&self, piece: PieceId) -> Option<Told> {
        let plan = self.plan;
        if plan.pieces[piece].bond != Bond::Full || self.moment.stage.bond(piece) != Bond::None {
            return None;
        }
        let name = &plan.pieces[piece].name;
        let roll = plan.steps.iter().flat_map(|s| &s.actions).find(|a| a.act == Act::Press { piece });
        let fix = roll.filter(|a| plan.is_removed(&a.id)).map(|a| Fix::Restore { step: a.id.clone() });
        Some(Told {
            because: format!("The {name} is not rolled."),
            words: format!("Roll the {name}: an adhered piece holds only once it is pressed."),
            fix,
            code: Some("F15".into()),
            piece: Some(piece),
        })
    }

    fn not_sealed(&self, piece: PieceId) -> Option<Told> {
        let plan = self.plan;
        let open = |(i, s): &(SealId, &crate::plan::Seal)| s.behind == piece && !self.moment.stage.seals.contains(i);
        let (i, seal) = plan.seals.iter_enumerated().find(open)?;
        let laid = |a: &&crate::trade::Action| a.act == Act::Seal { seal: i };
        let step = plan.steps.iter().find(|s| s.actions.iter().any(|a| laid(&a)))?;
        let action = step.actions.iter().find(laid)?;
        let left_out = [&step.id, &action.id].into_iter().find(|id| plan.is_removed(id));
        let name = &seal.name;
        Some(Told {
            because: format!("The {name} is not there."),
            words: match left_out {
                Some(_) => format!(
                    "Put the step \"{}\" back: without it the gap behind the {} is open.",
                    step.title, plan.pieces[piece].name
                ),
                None => format!("Lay the {name}: without it the gap behind the {} is open.", plan.pieces[piece].name),
            },
            fix: left_out.map(|id| Fix::Restore { step: id.clone() }),
            code: Some(seal.fault.clone()),
            piece: Some(piece),
        })
    }

    /// No edge on the way tells it, but something else at the wall is out of order: that comes first.
    fn out_of_order(&self) -> Option<Told> {
        let broken = self.broken.iter().find_map(|b| Some((b, move_fix(self.plan, b.over)?)));
        if let Some((b, (fix, words))) = broken {
            let words = format!("{words} Put the order right first: {}.", b.over.because);
            return Some(Told { words, fix: Some(fix), code: Some(b.over.fault.clone()), ..Told::default() });
        }
        let (step, before) = moved(self.plan)?;
        let name = |s: StepId| self.plan.steps[s].title.as_str();
        let (because, words) = match before {
            Some(b) => (
                format!("\"{}\" is done out of its place.", name(step)),
                format!("Do \"{}\" before \"{}\", as the recipe has it.", name(step), name(b)),
            ),
            None => (format!("\"{}\" is done out of its place.", name(step)), format!("Do \"{}\" last.", name(step))),
        };
        let id = |s: StepId| self.plan.steps[s].id.clone();
        let fix = Some(Fix::Move { step: id(step), before: before.map(id) });
        Some(Told { because, words, fix, ..Told::default() })
    }

    /// Nothing is missing or out of order: what is there does not keep the water out.
    fn nothing_else(&self, way: &WaterWay) -> Told {
        let words = if !self.moment.finished {
            "The work is not finished: go on, or cover it before rain.".into()
        } else {
            let entry = way.entry().map(|e| (&self.plan.pieces[piece_of(e.sheet)].name, e.edge));
            match entry {
                None => "Nothing covers this place: put the barrier or a flashing over it.".into(),
                Some((name, Edge::Top)) => {
                    format!("Bring something over the top edge of the {name}, or seal it there.")
                }
                Some((name, edge)) => {
                    format!("Close the {name} at its {}, or bring something over it.", super::words::edge(edge))
                }
            }
        };
        Told { words, ..Told::default() }
    }
}

/// The first step that stands out of the recipes' own order, and the one it stands before in it: what is left when the longest run of steps in
/// that order is taken away.
fn moved(plan: &Plan) -> Option<(StepId, Option<StepId>)> {
    // The ends of the best runs by length, and each step's forerunner.
    let mut ends: Vec<StepId> = Vec::new();
    let mut before: TiVec<StepId, Option<StepId>> = vec![None; plan.steps.len()].into();
    for &s in &plan.order {
        let at = ends.partition_point(|end| *end < s);
        before[s] = at.checked_sub(1).map(|i| ends[i]);
        if at == ends.len() { ends.push(s) } else { ends[at] = s }
    }
    let kept: HashSet<StepId> = std::iter::successors(ends.last().copied(), |s| before[*s]).collect();
    let step = plan.order.iter().copied().find(|s| !kept.contains(s))?;
    Some((step, plan.steps.keys().skip(step.0 + 1).find(|s| kept.contains(s))))
}

/// Pieces that are not there because they are left out, the smaller before the larger. What stands outside everything that sheds keeps no water
/// out: that it is left out is no reason why some gets in.
pub fn left_out(plan: &Plan, moment: &Moment) -> Vec<PieceId> {
    if plan.removed.is_empty() {
        return Vec::new();
    }
    let actions = plan.steps.iter().flat_map(|s| s.actions.iter().map(move |a| (s, a)));
    let placed =
        actions.filter(|(s, a)| plan.is_removed(&s.id) || plan.is_removed(&a.id)).filter_map(|(_, a)| a.act.placed());
    let mut out: Vec<PieceId> = placed.filter(|p| sheds(plan, Part::Piece(*p)) && !moment.stage.has(*p)).collect();
    let area = |p: &PieceId| {
        plan.pieces[*p].regions.iter().map(|(_, r)| r.width().to_inches_f64() * r.height().to_inches_f64()).sum::<f64>()
    };
    out.sort_by(|a, b| area(a).total_cmp(&area(b)));
    out.dedup();
    out
}

/// False for what stands outside everything that sheds.
fn sheds(plan: &Plan, part: Part) -> bool {
    !matches!(part, Part::Piece(p) if plan.pieces[p].role.is_outside())
}

fn near(r: Rect, u: f64, v: f64) -> bool {
    let [u0, v0, u1, v1] = r.to_inches();
    u >= u0 - NEAR && u <= u1 + NEAR && v >= v0 - NEAR && v <= v1 + NEAR
}

fn concerns(plan: &Plan, part: Part, piece: PieceId) -> bool {
    match part {
        Part::Piece(p) => p == piece,
        Part::Flap(_) => plan.pieces[piece].role == Role::Barrier,
        Part::Barrier(s) => plan.pieces[piece].role == Role::Barrier && plan.pieces[piece].stretch == s,
    }
}

/// True where a part, laid as planned, would lie over the point.
fn covers(plan: &Plan, part: Part, surface: SurfaceId, (u, v): (f64, f64)) -> bool {
    let over = |on: SurfaceId, rect: Rect| on == surface && near(rect, u, v);
    match part {
        Part::Piece(p) => plan.pieces[p].regions.iter().any(|(on, r)| over(*on, *r)),
        Part::Flap(f) => plan.cuts.iter().flat_map(|c| &c.flaps).any(|(i, r)| *i == f && over(SurfaceId::WALL, *r)),
        Part::Barrier(s) => {
            let [from, _, to, _] = plan.walls.stretches[s].rect.to_inches();
            surface == SurfaceId::WALL && from <= u + NEAR && u - NEAR <= to
        }
    }
}
