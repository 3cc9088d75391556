//! What a piece has to reach, whatever the water says: general rules over pieces and what they do, each a few lines of data (handbook 4.10).

use super::{Finding, Severity};
use crate::length::Length;
use crate::plan::{AsBuilt, Opening, Plan, SurfaceId};
use crate::profile::{FigureValue, Profile};
use crate::recipe::Role;
use crate::recipe::schools::{Feature, holds};
use crate::sequence::{Laid, Stage};
use crate::surface::{Along, Rect};
use crate::trade::PieceId;
use foldhash::{HashMap, HashSet};
use serde::Deserialize;
use smallvec::SmallVec;
use std::sync::OnceLock;

const DATA: &str = include_str!("../../data/cover.toml");

/// How a rule looks at pieces.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
enum CoverShape {
    /// Past each edge of a piece lie others, farther out in the stack.
    Covered,
    /// On both sides of each upright slit lie others.
    Slits,
    /// A piece reaches past the edges of the rough opening.
    Lands,
    /// A piece does not stand out beyond others.
    Within,
}

/// Which figure says how far, and under which answers.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct LeastAsked {
    #[serde(default)]
    when: String,
    figure: String,
    /// The least of ordinary practice of the figure.
    #[serde(skip)]
    least: Length,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
enum CoveredEdge {
    Left,
    Right,
    Top,
    Bottom,
}

/// One rule.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct CoverRule {
    id: String,
    shape: CoverShape,
    fault: String,
    #[serde(default)]
    when: String,
    of: Option<Role>,
    #[serde(default)]
    by: Vec<Role>,
    #[serde(default)]
    edges: Vec<CoveredEdge>,
    #[serde(default)]
    asked: Vec<LeastAsked>,
    /// A figure by which less is asked at the top edge.
    #[serde(default)]
    less_at_top: String,
    because: String,
    remedy: String,
}

fn rules() -> Result<&'static [CoverRule], String> {
    #[derive(Deserialize)]
    struct File {
        rule: Vec<CoverRule>,
    }
    static READ: OnceLock<Result<File, String>> = OnceLock::new();
    let read = || {
        let mut file: File = toml::from_str(DATA).map_err(|e| format!("the rules of cover do not read: {e}"))?;
        let profile = Profile::general_practice().map_err(|e| e.to_string())?;
        for rule in &mut file.rule {
            for asked in &mut rule.asked {
                let none = || format!("the rule of cover {} asks for {}, which has no least", rule.id, asked.figure);
                asked.least = least_of(profile, &asked.figure).ok_or_else(none)?;
            }
        }
        for rule in file.rule.iter().filter(|r| !r.less_at_top.is_empty()) {
            profile.figure(&rule.less_at_top).map_err(|e| format!("the rule of cover {}: {e}", rule.id))?;
        }
        Ok(file)
    };
    READ.get_or_init(read).as_ref().map(|f| f.rule.as_slice()).map_err(Clone::clone)
}

/// The least of ordinary practice of a figure.
fn least_of(profile: &Profile, figure: &str) -> Option<Length> {
    let figure = profile.figure(figure).ok()?;
    let usual = figure.usual.iter().find(|u| u.when.is_empty() && !u.least.is_empty())?;
    match figure.checked(&usual.least) {
        Ok(FigureValue::Length(l)) => Some(l),
        _ => None,
    }
}

/// Layers on the wall's face of each feature: their place in the stack, their piece, and where they lie.
type Lying = HashMap<usize, Vec<(usize, PieceId, Rect)>>;

/// Everything that does not reach what it has to on the finished wall. Pieces that are still to come or are left out count as if they were
/// there: that they are missing is told elsewhere.
pub fn findings(plan: &Plan, stage: &Stage) -> Vec<Finding> {
    let Ok(rules) = rules() else { return Vec::new() };
    let mut lying: Lying = HashMap::default();
    let shared: Vec<(PieceId, usize)> =
        plan.openings.iter().enumerate().flat_map(|(o, of)| of.shared.iter().map(move |p| (*p, o))).collect();
    let serves = |piece: PieceId| {
        let own = plan.pieces[piece].opening.into_iter();
        own.chain(shared.iter().filter(move |(p, _)| *p == piece).map(|(_, o)| *o)).collect::<SmallVec<[usize; 2]>>()
    };
    for (at, laid) in stage.layers.iter().enumerate().filter(|(_, l)| l.on == SurfaceId::WALL) {
        for o in serves(laid.piece) {
            lying.entry(o).or_default().push((at, laid.piece, laid.rect));
        }
    }
    for (i, p) in plan.pieces.iter_enumerated().filter(|(i, _)| !stage.has(*i)) {
        for o in serves(i) {
            let on_wall = p.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL);
            lying.entry(o).or_default().extend(on_wall.map(|(_, r)| (usize::MAX, i, *r)));
        }
    }
    let mut sheets: HashMap<PieceId, usize> = HashMap::default();
    for (at, laid) in stage.layers.iter().enumerate() {
        sheets.entry(laid.piece).or_insert(at);
    }
    let mut slits: HashMap<usize, Vec<(usize, Rect)>> = HashMap::default();
    for (piece, s) in &stage.slits {
        let upright = s.is_upright() && plan.pieces[*piece].role == Role::Barrier;
        let line = Rect::new(s.from.0, s.from.1.min(s.to.1), s.to.0, s.from.1.max(s.to.1));
        let reached =
            |o: &Opening| o.hull.u0 <= line.u0 && line.u1 <= o.hull.u1 && o.hull.v0 < line.v1 && line.v0 < o.hull.v1;
        // Where flashings of neighbours meet, a slit is that one's which is the smallest around it.
        let around = plan.openings.iter().enumerate().filter(|(_, o)| upright && reached(o));
        let area = |o: &Opening| o.hull.width().to_inches_f64() * o.hull.height().to_inches_f64();
        if let Some((o, _)) = around.min_by(|(_, a), (_, b)| area(a).total_cmp(&area(b))) {
            slits.entry(o).or_default().push((sheets.get(piece).copied().unwrap_or_default(), line));
        }
    }
    let mut hulls: Along<usize> = Along::default();
    for (i, o) in plan.openings.iter().enumerate().filter(|(_, o)| o.feature != Feature::Line) {
        hulls.put(o.hull, i);
    }
    let mut courses: Along<(usize, PieceId)> = Along::default();
    let hung = |l: &(usize, &Laid)| l.1.on == SurfaceId::WALL && plan.pieces[l.1.piece].role == Role::Barrier;
    stage.layers.iter().enumerate().filter(hung).for_each(|(at, l)| courses.put(l.rect, (at, l.piece)));
    let has_apron = |here: &[(usize, PieceId, Rect)]| here.iter().any(|(_, p, _)| plan.pieces[*p].role == Role::Apron);
    let mut out = Vec::new();
    for (o, opening) in plan.openings.iter().enumerate() {
        let Some(here) = lying.get(&o) else { continue };
        let of_slits = slits.get(&o).map_or(&[][..], Vec::as_slice);
        let mut neighbours: Vec<usize> = Vec::new();
        hulls.reaching(opening.hull, |_, n| neighbours.push(n));
        neighbours.sort_unstable();
        neighbours.dedup();
        neighbours.retain(|n| *n != o);
        let next: Vec<(usize, PieceId, Rect)> =
            neighbours.iter().filter_map(|n| lying.get(n)).flatten().copied().collect();
        let holes: Vec<Rect> = neighbours.iter().map(|n| plan.openings[*n].rect).collect();
        let mut barrier: Vec<(usize, PieceId, Rect)> = Vec::new();
        if has_apron(here) {
            courses.reaching(opening.hull, |r, (at, piece)| barrier.push((at, piece, r)));
        }
        let look = Look { plan, opening, here, next: &next, barrier: &barrier, holes: &holes, slits: of_slits };
        let told: HashSet<&str> =
            plan.notes.iter().filter(|n| n.fault && n.opening == Some(o)).map(|n| n.code.as_str()).collect();
        let asked = rules.iter().filter(|r| holds(&r.when, &opening.answers) && !told.contains(r.fault.as_str()));
        out.extend(asked.filter_map(|r| look.at(r)).filter(|f| !short(plan, stage, f)));
    }
    out
}

/// True where a piece that it is about is said to stop short: that is told itself.
fn short(plan: &Plan, stage: &Stage, f: &Finding) -> bool {
    let of = |a: &AsBuilt| matches!(a, AsBuilt::Short { .. }) && f.pieces.contains(&plan.pieces[a.piece()].id);
    plan.departures.as_built.iter().filter(|a| !stage.is_renewed(a.piece()) && !plan.is_mended(a.piece())).any(of)
}

/// One feature that rules look at.
struct Look<'a> {
    plan: &'a Plan,
    opening: &'a Opening,
    here: &'a [(usize, PieceId, Rect)],
    /// Layers of features that stand so close that their flashings meet, and their holes.
    next: &'a [(usize, PieceId, Rect)],
    /// Courses that reach it, where a rule asks for them.
    barrier: &'a [(usize, PieceId, Rect)],
    holes: &'a [Rect],
    /// Upright slits, each with the place of its sheet in the stack.
    slits: &'a [(usize, Rect)],
}

/// What falls short: which piece, at which edge, by how much, and of what.
struct Short {
    piece: PieceId,
    edge: CoveredEdge,
    found: Length,
    asked: Length,
    covers: Option<PieceId>,
    place: Rect,
}

impl CoveredEdge {
    fn name(self) -> &'static str {
        match self {
            Self::Left => "left edge",
            Self::Right => "right edge",
            Self::Top => "top edge",
            Self::Bottom => "lower edge",
        }
    }

    /// How far the first reaches past the second; negative where it stays within.
    fn past(self, r: Rect, other: Rect) -> Length {
        match self {
            Self::Left => other.u0 - r.u0,
            Self::Right => r.u1 - other.u1,
            Self::Top => r.v1 - other.v1,
            Self::Bottom => other.v0 - r.v0,
        }
    }

    /// The strip of a width just outside an edge.
    fn strip(self, r: Rect, wide: Length) -> Rect {
        match self {
            Self::Left => Rect { u0: r.u0 - wide, u1: r.u0, ..r },
            Self::Right => Rect { u0: r.u1, u1: r.u1 + wide, ..r },
            Self::Top => Rect { v0: r.v1, v1: r.v1 + wide, ..r },
            Self::Bottom => Rect { v0: r.v0 - wide, v1: r.v0, ..r },
        }
    }
}

impl Look<'_> {
    fn role(&self, piece: PieceId) -> Role {
        self.plan.pieces[piece].role
    }

    /// All layers of the pieces that do something, as one rectangle around them, with the first of the pieces and its place in the stack.
    fn hull(&self, is: impl Fn(Role) -> bool) -> Option<(usize, PieceId, Rect)> {
        let of = self.here.iter().filter(|(_, p, _)| is(self.role(*p)));
        of.copied().reduce(|(at, p, r), (other, _, q)| (at.max(other), p, r.hull(q)))
    }

    fn at(&self, rule: &CoverRule) -> Option<Finding> {
        let asked = rule.asked.iter().find(|a| holds(&a.when, &self.opening.answers));
        let asked = asked.map_or(Length::ZERO, |a| a.least);
        let short = match rule.shape {
            CoverShape::Covered => self.covered(rule, asked),
            CoverShape::Slits => self.patched(rule, asked),
            CoverShape::Lands => self.landed(rule, asked),
            CoverShape::Within => self.within(rule),
        }?;
        Some(self.told(rule, &short))
    }

    /// The part of a strip that lies on the walls: nothing has to reach beyond their ends.
    fn on_wall(&self, strip: Rect) -> Option<Rect> {
        strip.intersection(self.plan.surfaces[SurfaceId::WALL].facet.rect())
    }

    fn covered(&self, rule: &CoverRule, asked: Length) -> Option<Short> {
        let of = rule.of?;
        let (at, piece, hull) = self.hull(|r| r == of)?;
        let over: Vec<&(usize, PieceId, Rect)> =
            self.here.iter().filter(|(n, p, _)| *n > at && rule.by.contains(&self.role(*p))).collect();
        let drawn = match self.plan.basis.figures.get(&rule.less_at_top) {
            Some(FigureValue::Length(l)) => l,
            _ => Length::ZERO,
        };
        let least = |side: &CoveredEdge| {
            let asked = if *side == CoveredEdge::Top { asked - drawn } else { asked };
            let strip = self.on_wall(side.strip(hull, asked))?;
            // Nothing reaches into a neighbour's hole, and its unit and its flashings cover as well.
            let covers = |n: usize, p: PieceId| self.plan.pieces[p].solid || n > at && rule.by.contains(&self.role(p));
            let next = self.next.iter().chain(self.barrier).filter(|(n, p, _)| covers(*n, *p));
            // Nor into the own one; what goes round a unit lies beyond it.
            let own = Some(&self.opening.rect).filter(|_| of != Role::Unit);
            let holes = self.holes.iter().chain(own);
            let covered = over.iter().map(|(_, _, r)| r).chain(next.map(|(_, _, r)| r)).chain(holes);
            let open = strip.minus_all(covered);
            // What covers an edge reaches to where its strip is first open.
            let reach = |r: &Rect| match side {
                CoveredEdge::Left => hull.u0 - r.u1,
                CoveredEdge::Right => r.u0 - hull.u1,
                CoveredEdge::Top => r.v0 - hull.v1,
                CoveredEdge::Bottom => hull.v0 - r.v1,
            };
            let gap = open.iter().min_by_key(|r| reach(r))?;
            let along = |r: Rect| {
                if matches!(side, CoveredEdge::Left | CoveredEdge::Right) { r.along_v() } else { r.along_u() }
            };
            let shared = |r: Rect| along(r).overlap(along(*gap)).map_or(Length::ZERO, |s| s.hi - s.lo);
            let nearest = over.iter().min_by_key(|(_, _, r)| (apart(*r, *gap), -shared(*r)))?;
            Some(Short { piece: nearest.1, edge: *side, found: reach(gap), asked, covers: Some(piece), place: *gap })
        };
        rule.edges.iter().filter_map(least).min_by_key(|s| s.found)
    }

    fn patched(&self, rule: &CoverRule, asked: Length) -> Option<Short> {
        // What a neighbour lays over a sheet closes its slits, whatever it is there for.
        let mine = || self.here.iter().filter(|(_, p, _)| rule.by.contains(&self.role(*p)));
        self.slits.iter().find_map(|(sheet, slit)| {
            let over: Vec<&(usize, PieceId, Rect)> =
                mine().chain(self.next.iter().filter(|(n, ..)| n > sheet)).collect();
            let around = Rect { u0: slit.u0 - asked, u1: slit.u1 + asked, v1: slit.v1 + asked, ..*slit };
            let solid = self.here.iter().chain(self.next).filter(|(_, p, _)| self.plan.pieces[*p].solid);
            let covered = over.iter().map(|(_, _, r)| r).chain(solid.map(|(_, _, r)| r)).chain(self.holes);
            let open = self.on_wall(around)?.minus_all(covered);
            let gap = open.first()?;
            let patch =
                over.iter().find(|(_, _, r)| r.u0 <= slit.u0 && slit.u1 <= r.u1 && r.v0 < slit.v1 && slit.v0 < r.v1)?;
            let past = [slit.u0 - patch.2.u0, patch.2.u1 - slit.u1, patch.2.v1 - slit.v1];
            let sides = [CoveredEdge::Left, CoveredEdge::Right, CoveredEdge::Top];
            let (found, edge) = past.into_iter().zip(sides).min_by_key(|(p, _)| *p)?;
            Some(Short { piece: patch.1, edge, found, asked, covers: None, place: *gap })
        })
    }

    fn landed(&self, rule: &CoverRule, asked: Length) -> Option<Short> {
        let of = rule.of?;
        let (_, piece, hull) = self.hull(|r| r == of)?;
        let hole = self.opening.rect;
        let past = rule.edges.iter().map(|side| (side.past(hull, hole), *side));
        let (found, edge) = past.min_by_key(|(p, _)| *p).filter(|(p, _)| *p < asked)?;
        Some(Short { piece, edge, found, asked, covers: None, place: edge.strip(hole, asked) })
    }

    fn within(&self, rule: &CoverRule) -> Option<Short> {
        let of = rule.of?;
        let (_, piece, lower) = self.hull(|r| r == of)?;
        let (_, upper, over) = self.hull(|r| rule.by.contains(&r))?;
        let out = rule.edges.iter().map(|side| (side.past(lower, over), *side));
        let (by, edge) = out.max_by_key(|(by, _)| *by).filter(|(by, _)| *by > Length::ZERO)?;
        Some(Short { piece, edge, found: by, asked: Length::ZERO, covers: Some(upper), place: edge.strip(over, by) })
    }

    fn told(&self, rule: &CoverRule, s: &Short) -> Finding {
        let name = |p: PieceId| self.plan.pieces[p].name.as_str();
        let (piece, edge, id) = (name(s.piece), s.edge.name(), &self.opening.id);
        let reason = match (rule.shape, s.covers.map(name)) {
            (CoverShape::Covered, Some(covered)) if s.found <= Length::ZERO => {
                format!("{id}: at the {edge} of the {covered} the {piece} does not reach past it; {} is asked", s.asked)
            }
            (CoverShape::Covered, Some(covered)) => {
                format!("{id}: the {piece} reaches {} past the {edge} of the {covered}; {} is asked", s.found, s.asked)
            }
            (CoverShape::Within, Some(upper)) => {
                format!("{id}: the {piece} stands out {} beyond the {edge} of the {upper}", s.found)
            }
            (CoverShape::Lands, _) => format!(
                "{id}: the {piece} lies {} on the wall beyond the {edge} of the opening; {} is asked",
                s.found.max(Length::ZERO),
                s.asked
            ),
            _ if s.found <= Length::ZERO => {
                format!("{id}: at its {edge} the slit is not covered by the {piece}; {} past it is asked", s.asked)
            }
            _ => format!("{id}: the {piece} reaches {} past the slit at its {edge}; {} is asked", s.found, s.asked),
        };
        let mut pieces = vec![self.plan.pieces[s.piece].id.clone()];
        pieces.extend(s.covers.map(|p| self.plan.pieces[p].id.clone()));
        let place = (SurfaceId::WALL, s.place.to_inches());
        Finding {
            reason: format!("{reason}: {}.", rule.because),
            remedy: rule.remedy.clone(),
            ..Finding::seen(&rule.fault, Severity::Fault, pieces, place, None)
        }
    }
}

/// How far two rectangles are apart along and up the wall, added up.
fn apart(a: Rect, b: Rect) -> Length {
    let between = |lo: Length, hi: Length| (hi - lo).max(Length::ZERO);
    between(a.u1, b.u0) + between(b.u1, a.u0) + between(a.v1, b.v0) + between(b.v1, a.v0)
}

#[cfg(test)]
mod tests {
    #[test]
    fn every_rule_reads_and_asks_for_figures_that_are_there() {
        let rules = super::rules().expect("data/cover.toml");
        assert!(rules.iter().all(|r| !r.id.is_empty() && !r.because.is_empty() && !r.remedy.is_empty()));
    }
}
