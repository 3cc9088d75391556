//! The stack of one opening drawn apart: every piece in its folded shape, lifted off the wall in working order.
//!
//! Axonometric: `x` runs to the right, `y` up, `z` out of the wall toward the lower left. Lengths along the wall are true.

use crate::findings::Moment;
use crate::plan::{Plan, SurfaceId};
use crate::recipe::Role;
use crate::surface::Rect;
use crate::trade::Act;
use serde::Serialize;

/// One piece in the drawing.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExplodedPiece {
    /// Id of the piece.
    pub piece: String,
    /// What people call it.
    pub name: String,
    /// What it does.
    pub role: Role,
    /// Letter.
    pub letter: String,
    /// Title of the step that places it.
    pub step: String,
    /// How many lifts off the wall, from 0.
    pub lift: usize,
    /// Its faces, each a closed outline in drawing coordinates.
    pub faces: Vec<Vec<[f64; 2]>>,
    /// Lines along which it is folded.
    pub folds: Vec<[[f64; 2]; 2]>,
    /// Where its letter stands.
    pub label: [f64; 2],
}

/// The drawing.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Exploded {
    /// Id of the opening.
    pub opening: String,
    /// Left, top, width, height.
    pub frame: [f64; 4],
    /// Pieces, from the wall outward.
    pub pieces: Vec<ExplodedPiece>,
}

/// How far one unit out of the wall moves a point on the drawing, to the left and down.
const OUT: [f64; 2] = [-0.6, 0.26];
/// How far a piece is lifted off the one behind it, as a share of the opening's width, and at least, in.
const LIFT_SHARE: f64 = 0.6;
const LEAST_LIFT: f64 = 10.0;
/// How much of the barrier round the opening is drawn, in.
const ROUND: f64 = 3.0;
/// Room round the drawing, in.
const MARGIN: f64 = 5.0;

type Point3 = [f64; 3];
/// What is lifted as one: a piece, or a flap of it.
type Lifted = (usize, Option<usize>);

/// Where the surfaces of one opening lie in space.
struct Space {
    sill: f64,
    left: f64,
    right: f64,
    head: f64,
    set_back: f64,
    depth: f64,
    rise: f64,
}

impl Space {
    fn of(plan: &Plan, opening: usize) -> Self {
        let size = |name: &str| {
            let mut named = plan.surfaces.iter().filter(|s| s.opening == Some(opening));
            named.find(|s| s.facet.id.rsplit('/').next() == Some(name)).map(|s| s.facet.clone())
        };
        let [left, sill, right, head] = plan.openings[opening].rect.to_inches();
        let set_back = size("sill-out").map_or(0.0, |f| f.height.to_inches_f64());
        let inner = size("sill").map_or(0.0, |f| f.height.to_inches_f64());
        let rise = size("sill").map_or(0.0, |f| f.rise);
        Self { sill, left, right, head, set_back, depth: set_back + inner, rise }
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
            _ => return None,
        })
    }
}

/// Draws the pieces that lie at a moment.
pub fn explode(plan: &Plan, moment: &Moment, opening: usize) -> Option<Exploded> {
    let o = plan.openings.get(opening)?;
    let space = Space::of(plan, opening);
    let lift = (o.rect.width().to_inches_f64() * LIFT_SHARE).max(LEAST_LIFT);
    let [h0, h1, h2, h3] = o.hull.to_inches();
    let round = |r: Rect| {
        let [u0, v0, u1, v1] = r.to_inches();
        let cut = [u0.max(h0 - ROUND), v0.max(h1 - ROUND), u1.min(h2 + ROUND), v1.min(h3 + ROUND)];
        (cut[0] < cut[2] && cut[1] < cut[3]).then_some(cut)
    };
    let name_of = |on: SurfaceId| {
        let s = &plan.surfaces[on.0];
        let name = if on == SurfaceId::WALL { "wall" } else { s.facet.id.rsplit('/').next()? };
        (on == SurfaceId::WALL || s.opening == Some(opening)).then_some(name)
    };
    // Pieces and flaps in the order in which they came to lie, those of one step on one level.
    let mut parts: Vec<(Lifted, Vec<[Point3; 4]>)> = Vec::new();
    for l in &moment.stage.layers {
        let own = plan.pieces[l.piece].opening == Some(opening);
        let role = plan.pieces[l.piece].role;
        let Some(name) = name_of(l.on) else { continue };
        let inside = l.on != SurfaceId::WALL;
        if !own && !role.is_barrier() && !role.is_in_gap() {
            continue;
        }
        let cut = if own || inside { Some(l.rect.to_inches()) } else { round(l.rect) };
        let Some([u0, v0, u1, v1]) = cut else { continue };
        let corners = [(u0, v0), (u1, v0), (u1, v1), (u0, v1)];
        let Some(face) = corners.iter().map(|(u, v)| space.at(name, *u, *v)).collect::<Option<Vec<Point3>>>() else {
            continue;
        };
        let face = [face[0], face[1], face[2], face[3]];
        match parts.iter_mut().find(|(key, _)| *key == (l.piece, l.flap)) {
            Some((_, faces)) => faces.push(face),
            None => parts.push(((l.piece, l.flap), vec![face])),
        }
    }
    let step_of = |(piece, flap): Lifted| {
        let lays = |a: &Act| match (flap, a) {
            (Some(f), Act::Drop { flap }) => *flap == f,
            _ => flap.is_none() && a.placed() == Some(piece),
        };
        plan.order.iter().position(|s| plan.steps[*s].actions.iter().any(|a| lays(&a.act)))
    };
    parts.sort_by_key(|(key, _)| step_of(*key));
    let mut pieces = Vec::new();
    let (mut level, mut last) = (0_usize, None);
    for (key, faces) in parts {
        let step = step_of(key);
        if last.is_some_and(|l| l != step) {
            level += 1;
        }
        last = Some(step);
        let out = level as f64 * lift;
        let flat = |p: Point3| [p[0] + OUT[0] * (p[2] + out), -p[1] + OUT[1] * (p[2] + out)];
        let piece = &plan.pieces[key.0];
        let name = key.1.map_or_else(|| piece.name.clone(), |f| plan.flaps[f].name.clone());
        let drawn: Vec<Vec<[f64; 2]>> = faces.iter().map(|f| f.iter().map(|p| flat(*p)).collect()).collect();
        // The letter stands in the middle of the largest face.
        let area = |f: &[[f64; 2]]| {
            ((f[1][0] - f[0][0]) * (f[3][1] - f[0][1]) - (f[1][1] - f[0][1]) * (f[3][0] - f[0][0])).abs()
        };
        let largest = drawn.iter().max_by(|a, b| area(a).total_cmp(&area(b)))?;
        let label = [0, 1].map(|k| largest.iter().map(|p| p[k]).sum::<f64>() / 4.0);
        pieces.push(ExplodedPiece {
            piece: piece.id.clone(),
            name,
            role: piece.role,
            letter: piece.letter.clone(),
            step: step.map(|s| plan.steps[plan.order[s]].title.clone()).unwrap_or_default(),
            lift: level,
            folds: folds(&faces).iter().map(|[a, b]| [flat(*a), flat(*b)]).collect(),
            faces: drawn,
            label,
        });
    }
    let all = pieces.iter().flat_map(|p| p.faces.iter().flatten());
    let (mut lo, mut hi) = ([f64::INFINITY; 2], [f64::NEG_INFINITY; 2]);
    for p in all {
        for k in 0..2 {
            lo[k] = lo[k].min(p[k]);
            hi[k] = hi[k].max(p[k]);
        }
    }
    let frame = if pieces.is_empty() {
        [0.0; 4]
    } else {
        [lo[0] - MARGIN, lo[1] - MARGIN, hi[0] - lo[0] + 2.0 * MARGIN, hi[1] - lo[1] + 2.0 * MARGIN]
    };
    Some(Exploded { opening: o.id.clone(), frame, pieces })
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
