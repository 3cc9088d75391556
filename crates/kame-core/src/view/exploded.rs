//! The stack of one opening drawn apart: every piece in its folded shape, lifted off the wall in working order.
//!
//! Axonometric: `x` runs to the right, `y` up, `z` out of the wall toward the lower left. Lengths along the wall are true.

use crate::findings::Moment;
use crate::plan::{Plan, SurfaceId};
use crate::recipe::Role;
use crate::surface::Rect;
use crate::trade::{Act, FlapId, PieceId};
use crate::view::marks::spread;
use serde::Serialize;

/// One piece in the drawing.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExplodedPiece {
    /// Id of the piece.
    pub piece: String,
    /// What people call it.
    pub name: String,
    /// What the piece is there for.
    pub role: Role,
    /// Letter by which the drawing names it.
    pub letter: String,
    /// Title of the step that places it.
    pub step: String,
    /// Id of the step.
    pub step_id: String,
    /// How many lifts off the wall, from 0.
    pub lift: usize,
    /// Its faces, each a closed outline in drawing coordinates.
    pub faces: Vec<Vec<[f64; 2]>>,
    /// Lines along which it is folded.
    pub folds: Vec<[[f64; 2]; 2]>,
    /// What its leader points at, where that bends, and where its letter stands.
    pub leader: [[f64; 2]; 3],
    /// From where it is drawn to where it goes.
    pub thread: [[f64; 2]; 2],
}

/// The drawing.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Exploded {
    /// Id of the opening.
    pub opening: String,
    /// Left, top, width, height.
    pub frame: [f64; 4],
    /// The wall round the opening and the opening's returns, as bare ground: closed outlines.
    pub ground: Vec<Vec<[f64; 2]>>,
    /// Pieces, from the wall outward.
    pub pieces: Vec<ExplodedPiece>,
}

/// How far one unit out of the wall moves a point on the drawing, to the left and down.
const OUT: [f64; 2] = [-0.6, 0.26];
/// How wide the drawing is to its height, and how far a piece is lifted off the one behind it at least and at most, in.
const ASPECT: f64 = 1.3;
const LEAST_LIFT: f64 = 7.0;
const MOST_LIFT: f64 = 40.0;
/// How much of the barrier round the opening is drawn, in.
const ROUND: f64 = 3.0;
/// Room round the drawing, in.
const MARGIN: f64 = 5.0;

type Point3 = [f64; 3];
/// What is lifted as one: a piece, or a flap of it.
type Lifted = (PieceId, Option<FlapId>);

/// Where the surfaces of one opening lie in space.
struct Space {
    sill: f64,
    left: f64,
    right: f64,
    head: f64,
    set_back: f64,
    depth: f64,
    rise: f64,
    /// How far what comes through stands out of the wall, where something is laid along it.
    proud: f64,
}

impl Space {
    fn of(plan: &Plan, opening: usize) -> Self {
        let size = |name: &str| {
            let mut named = plan.surfaces.iter().filter(|s| s.opening == Some(opening));
            named.find(|s| s.name == name).map(|s| s.facet.clone())
        };
        let [left, sill, right, head] = plan.openings[opening].rect.to_inches();
        let set_back = size("sill-out").map_or(0.0, |f| f.height.to_inches_f64());
        let inner = size("sill").map_or(0.0, |f| f.height.to_inches_f64());
        let rise = size("sill").map_or(0.0, |f| f.rise);
        let proud = size("along-top").map_or(0.0, |f| f.height.to_inches_f64());
        Self { sill, left, right, head, set_back, depth: set_back + inner, rise, proud }
    }

    /// A point of a surface in space; `None` for surfaces of other openings.
    fn at(&self, name: &str, u: f64, v: f64) -> Option<Point3> {
        let width = self.right - self.left;
        let inner = self.depth - self.set_back;
        Some(match name {
            "wall" => [u, v, 0.0],
            "sill-out" => [self.left + u, self.sill + v * self.rise, -v],
            "sill" => [self.left + u, self.sill + (self.set_back + v) * self.rise, -self.set_back - v],
            "dam" => [self.left + u, self.sill + self.depth * self.rise + v, -self.depth],
            "jamb-left-out" => [self.left, self.sill + v, -u],
            "jamb-left" => [self.left, self.sill + v, -self.set_back - u],
            "jamb-right-out" => [self.left + width, self.sill + v, -(self.set_back - u)],
            "jamb-right" => [self.left + width, self.sill + v, -self.set_back - (inner - u)],
            "head-out" => [self.left + u, self.head, -(self.set_back - v)],
            "head" => [self.left + u, self.head, -self.set_back - (inner - v)],
            "along-top" => [self.left + u, self.head, v],
            "along-bottom" => [self.left + u, self.sill, self.proud - v],
            "along-left" => [self.left, self.sill + v, self.proud - u],
            "along-right" => [self.right, self.sill + v, u],
            _ => return None,
        })
    }
}

/// Pieces and flaps at an opening in the order in which they came to lie, each with its faces.
fn lifted(plan: &Plan, moment: &Moment, opening: usize, space: &Space) -> Vec<(Lifted, Vec<[Point3; 4]>)> {
    let [h0, h1, h2, h3] = plan.openings[opening].hull.to_inches();
    let round = |r: Rect| {
        let [u0, v0, u1, v1] = r.to_inches();
        let cut = [u0.max(h0 - ROUND), v0.max(h1 - ROUND), u1.min(h2 + ROUND), v1.min(h3 + ROUND)];
        (cut[0] < cut[2] && cut[1] < cut[3]).then_some(cut)
    };
    let name_of = |on: SurfaceId| {
        let s = &plan.surfaces[on];
        (on == SurfaceId::WALL || s.opening == Some(opening)).then_some(s.name.as_str())
    };
    let mut parts: Vec<(Lifted, Vec<[Point3; 4]>)> = Vec::new();
    for l in &moment.stage.layers {
        let own = plan.pieces[l.piece].opening == Some(opening);
        let role = plan.pieces[l.piece].role;
        let Some(name) = name_of(l.on) else { continue };
        let inside = l.on != SurfaceId::WALL;
        if !own && !role.is_barrier() && !role.is_outside() {
            continue;
        }
        // A sleeve is open where the thing comes through it.
        let sleeve = !inside && plan.is_sleeve(l.piece);
        let rects: Vec<Rect> = if sleeve { l.rect.minus(plan.openings[opening].rect).collect() } else { vec![l.rect] };
        for r in rects {
            let cut = if own || inside { Some(r.to_inches()) } else { round(r) };
            let Some([u0, v0, u1, v1]) = cut else { continue };
            let at = |(u, v): (f64, f64)| space.at(name, u, v);
            let (Some(a), Some(b), Some(c), Some(d)) = (at((u0, v0)), at((u1, v0)), at((u1, v1)), at((u0, v1))) else {
                continue;
            };
            match parts.iter_mut().find(|(key, _)| *key == (l.piece, l.flap)) {
                Some((_, faces)) => faces.push([a, b, c, d]),
                None => parts.push(((l.piece, l.flap), vec![[a, b, c, d]])),
            }
        }
    }
    parts
}

/// Draws the pieces that lie at a moment.
pub fn explode(plan: &Plan, moment: &Moment, opening: usize) -> Option<Exploded> {
    explode_some(plan, moment, opening, |_| true)
}

/// Draws those of the pieces that lie at a moment which are wanted, the others as if they were not there.
pub(super) fn explode_some(
    plan: &Plan,
    moment: &Moment,
    opening: usize,
    wanted: impl Fn(PieceId) -> bool,
) -> Option<Exploded> {
    let o = plan.openings.get(opening)?;
    let space = Space::of(plan, opening);
    let [h0, h1, h2, h3] = o.hull.to_inches();
    // Those of one step stand on one level.
    let mut parts = lifted(plan, moment, opening, &space);
    let step_of = |(piece, flap): Lifted| {
        let lays = |a: &Act| match (flap, a) {
            (Some(f), Act::Drop { flap }) => *flap == f,
            _ => flap.is_none() && a.placed() == Some(piece),
        };
        plan.order.iter().position(|s| plan.steps[*s].actions.iter().any(|a| lays(&a.act)))
    };
    parts.retain(|((piece, _), _)| wanted(*piece));
    parts.sort_by_key(|(key, _)| step_of(*key));
    let levels = levels(plan, parts.iter().map(|(key, _)| (*key, step_of(*key))));
    let lift = lift([h2 - h0 + 2.0 * ROUND, h3 - h1 + 2.0 * ROUND], levels.last().copied().unwrap_or(0));
    let flat = |p: Point3, out: f64| [p[0] + OUT[0] * (p[2] + out), -p[1] + OUT[1] * (p[2] + out)];
    let mut pieces = Vec::new();
    for ((key, faces), level) in parts.into_iter().zip(levels) {
        let step = step_of(key);
        let out = (level + 1) as f64 * lift;
        let piece = &plan.pieces[key.0];
        let name = key.1.map_or_else(|| piece.name.clone(), |f| plan.flaps[f].name.clone());
        let drawn: Vec<Vec<[f64; 2]>> = faces.iter().map(|f| f.iter().map(|p| flat(*p, out)).collect()).collect();
        let area = |f: &[[f64; 2]]| {
            ((f[1][0] - f[0][0]) * (f[3][1] - f[0][1]) - (f[1][1] - f[0][1]) * (f[3][0] - f[0][0])).abs()
        };
        let (n, largest) = drawn.iter().enumerate().max_by(|a, b| area(a.1).total_cmp(&area(b.1)))?;
        let middle = [0, 1, 2].map(|k| faces[n].iter().map(|p| p[k]).sum::<f64>() / 4.0);
        let step = step.map(|s| &plan.steps[plan.order[s]]);
        pieces.push(ExplodedPiece {
            piece: piece.id.clone(),
            name,
            role: piece.role,
            letter: piece.letter.clone(),
            step: step.map(|s| s.title.clone()).unwrap_or_default(),
            step_id: step.map(|s| s.id.clone()).unwrap_or_default(),
            lift: level,
            folds: folds(&faces).iter().map(|[a, b]| [flat(*a, out), flat(*b, out)]).collect(),
            leader: [[0, 1].map(|k| largest.iter().map(|p| p[k]).sum::<f64>() / 4.0); 3],
            thread: [flat(middle, out), flat(middle, 0.0)],
            faces: drawn,
        });
    }
    let ground: Vec<Vec<[f64; 2]>> = if pieces.is_empty() {
        Vec::new()
    } else {
        ground(&space, [h0 - ROUND, h1 - ROUND, h2 + ROUND, h3 + ROUND])
            .iter()
            .map(|f| f.iter().map(|p| flat(*p, 0.0)).collect())
            .collect()
    };
    let frame = frame_of(&mut pieces, &ground);
    Some(Exploded { opening: o.id.clone(), frame, ground, pieces })
}

/// On which level each part stands, in order: those of one step on one. The barrier is one level, whatever it is hung in.
fn levels(plan: &Plan, parts: impl Iterator<Item = (Lifted, Option<usize>)>) -> Vec<usize> {
    let mut out: Vec<usize> = Vec::new();
    let mut last: Option<(bool, Option<usize>)> = None;
    for (key, step) in parts {
        let barrier = key.1.is_none() && plan.pieces[key.0].role.is_barrier();
        let now = (barrier, step.filter(|_| !barrier));
        let level = out.last().copied().unwrap_or(0);
        out.push(if last.is_some_and(|l| l != now) { level + 1 } else { level });
        last = Some(now);
    }
    out
}

/// How far each of so many levels is lifted so that the drawing is about as wide to its height as a page.
fn lift([width, height]: [f64; 2], levels: usize) -> f64 {
    let all = (ASPECT * height - width) / (-OUT[0] - ASPECT * OUT[1]);
    (all / (levels + 1) as f64).clamp(LEAST_LIFT, MOST_LIFT)
}

/// The face of the wall round the opening, and the opening's returns.
fn ground(space: &Space, [u0, v0, u1, v1]: [f64; 4]) -> Vec<[Point3; 4]> {
    let Space { sill, left, right, head, depth, rise, .. } = *space;
    let face = |a: f64, b: f64, c: f64, d: f64| [[a, b, 0.0], [c, b, 0.0], [c, d, 0.0], [a, d, 0.0]];
    let mut out =
        vec![face(u0, v0, u1, sill), face(u0, sill, left, head), face(right, sill, u1, head), face(u0, head, u1, v1)];
    if depth > 0.0 {
        let inner = sill + depth * rise;
        out.push([[left, sill, 0.0], [right, sill, 0.0], [right, inner, -depth], [left, inner, -depth]]);
        out.push([[left, sill, 0.0], [left, head, 0.0], [left, head, -depth], [left, sill, -depth]]);
        out.push([[left, head, 0.0], [right, head, 0.0], [right, head, -depth], [left, head, -depth]]);
    }
    out
}

/// The frame of the drawing; letters stand in a row above it and one below.
fn frame_of(pieces: &mut [ExplodedPiece], ground: &[Vec<[f64; 2]>]) -> [f64; 4] {
    let (mut lo, mut hi) = ([f64::INFINITY; 2], [f64::NEG_INFINITY; 2]);
    for p in pieces.iter().flat_map(|p| p.faces.iter().flatten()).chain(ground.iter().flatten()) {
        for k in 0..2 {
            lo[k] = lo[k].min(p[k]);
            hi[k] = hi[k].max(p[k]);
        }
    }
    if pieces.is_empty() {
        return [0.0; 4];
    }
    let apart = (hi[0] - lo[0]).max(hi[1] - lo[1]) / 26.0;
    let middle = f64::midpoint(lo[1], hi[1]);
    // Each is named from its nearer edge, so that leaders cross few pieces.
    for above in [true, false] {
        let mut row: Vec<(usize, [f64; 2])> = Vec::new();
        for (i, p) in pieces.iter().enumerate().filter(|(_, p)| (p.leader[0][1] < middle) == above) {
            let points = p.faces.iter().flat_map(|f| (0..f.len()).map(move |k| (f[k], f[(k + 1) % f.len()])));
            let edges = points.map(|(a, b)| [f64::midpoint(a[0], b[0]), f64::midpoint(a[1], b[1])]);
            let end = if above {
                edges.min_by(|a, b| a[1].total_cmp(&b[1]))
            } else {
                edges.max_by(|a, b| a[1].total_cmp(&b[1]))
            };
            row.extend(end.map(|e| (i, e)));
        }
        row.sort_by(|a, b| a.1[0].total_cmp(&b.1[0]));
        // Two that would leave from the same place leave beside each other.
        for k in 1..row.len() {
            let least = row[k - 1].1[0] + apart / 20.0;
            row[k].1[0] = row[k].1[0].max(least);
        }
        let ends: Vec<f64> = row.iter().map(|(_, e)| e[0]).collect();
        let spots = spread(&ends, [lo[0], hi[0]], apart);
        let [bend, stand] =
            if above { [lo[1] - apart * 0.4, lo[1] - apart * 1.2] } else { [hi[1] + apart * 0.4, hi[1] + apart * 1.2] };
        for ((i, end), spot) in row.into_iter().zip(spots) {
            pieces[i].leader = [end, [end[0], bend], [spot, stand]];
        }
    }
    let room = apart * 2.0;
    [lo[0] - MARGIN, lo[1] - room, hi[0] - lo[0] + 2.0 * MARGIN, hi[1] - lo[1] + 2.0 * room]
}

/// Edges that two faces in different planes share: there the piece is folded.
fn folds(faces: &[[Point3; 4]]) -> Vec<[Point3; 2]> {
    let normal = |f: &[Point3; 4]| {
        let d = |a: Point3, b: Point3| [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
        let (a, b) = (d(f[0], f[1]), d(f[0], f[3]));
        let n = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
        let size = (n[0] * n[0] + n[1] * n[1] + n[2] * n[2]).sqrt().max(f64::MIN_POSITIVE);
        n.map(|x| x / size)
    };
    let mut out = Vec::new();
    for (i, f) in faces.iter().enumerate() {
        for g in &faces[i + 1..] {
            let (n, m) = (normal(f), normal(g));
            if (n[0] * m[0] + n[1] * m[1] + n[2] * m[2]).abs() > 0.99 {
                continue;
            }
            for a in 0..4 {
                for b in 0..4 {
                    out.extend(shared([f[a], f[(a + 1) % 4]], [g[b], g[(b + 1) % 4]]));
                }
            }
        }
    }
    out
}

/// The stretch that two edges share, if they lie on one line.
fn shared(e: [Point3; 2], f: [Point3; 2]) -> Option<[Point3; 2]> {
    const NEAR: f64 = 0.02;
    let d = [0, 1, 2].map(|k| e[1][k] - e[0][k]);
    let size = d.iter().map(|x| x * x).sum::<f64>().sqrt();
    if size < NEAR {
        return None;
    }
    let along = d.map(|x| x / size);
    let place = |p: Point3| {
        let v = [0, 1, 2].map(|k| p[k] - e[0][k]);
        let t = (0..3).map(|k| v[k] * along[k]).sum::<f64>();
        let off = (0..3).map(|k| (v[k] - along[k] * t).powi(2)).sum::<f64>().sqrt();
        (off < NEAR).then_some(t)
    };
    let (a, b) = (place(f[0])?, place(f[1])?);
    let (lo, hi) = (a.min(b).max(0.0), a.max(b).min(size));
    let point = |t: f64| [0, 1, 2].map(|k| e[0][k] + along[k] * t);
    (hi - lo > NEAR).then(|| [point(lo), point(hi)])
}
