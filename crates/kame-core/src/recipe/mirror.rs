//! The other side of what a recipe marks `mirror`: `left` and `right` change places in names, `u` is counted from the other end.

use super::spec::{
    OverSpec, PieceSpec, Recipe, RectSpec, SideSpec, StitchEndSpec, StitchSpec, SurfaceSpec, TargetSpec,
};
use std::collections::HashMap;

/// Adds the other side of everything that is marked, and takes the marks away.
pub fn add_other_sides(r: &mut Recipe) {
    // On the wall the opening's middle is the axis; on a surface its own middle.
    let mut axis: HashMap<String, String> = r.surface.iter().map(|s| (s.id.clone(), s.width.clone())).collect();
    for s in r.surface.iter().filter(|s| s.mirror) {
        axis.insert(other(&s.id), s.width.clone());
    }
    axis.insert("wall".into(), "left + right".into());
    let m = Mirror { axis };
    doubled(&mut r.surface, |s| &mut s.mirror, |s| m.surface(s));
    doubled(&mut r.stitch, |s| &mut s.mirror, |s| m.stitch(s));
    for p in &mut r.piece {
        m.rects(&mut p.regions);
    }
    doubled(&mut r.piece, |p| &mut p.mirror, |p| m.piece(p));
    for s in &mut r.seal {
        m.rects(&mut s.rects);
    }
    doubled(
        &mut r.over,
        |o| &mut o.mirror,
        |o| OverSpec { upper: other(&o.upper), lower: other(&o.lower), ..o.clone() },
    );
    doubled(&mut r.target, |t| &mut t.mirror, |t| m.target(t));
}

/// `left` for `right` and the other way round.
fn other(name: &str) -> String {
    if name.contains("left") { name.replace("left", "right") } else { name.replace("right", "left") }
}

/// Puts the other side of each marked item right behind it.
fn doubled<T>(list: &mut Vec<T>, mark: impl Fn(&mut T) -> &mut bool, turned: impl Fn(&T) -> T) {
    let mut out = Vec::with_capacity(list.len());
    for mut item in list.drain(..) {
        let twin = std::mem::take(mark(&mut item)).then(|| turned(&item));
        out.push(item);
        out.extend(twin);
    }
    *list = out;
}

struct Mirror {
    axis: HashMap<String, String>,
}

impl Mirror {
    fn u(&self, on: &str, u: &str) -> String {
        format!("{} - ({u})", self.axis.get(on).map_or("width", String::as_str))
    }

    fn rect(&self, r: &RectSpec) -> RectSpec {
        let [u0, v0, u1, v1] = &r.rect;
        let rect = [self.u(&r.on, u1), v0.clone(), self.u(&r.on, u0), v1.clone()];
        RectSpec { on: other(&r.on), rect, when: r.when.clone(), mirror: false }
    }

    fn rects(&self, list: &mut Vec<RectSpec>) {
        doubled(list, |r| &mut r.mirror, |r| self.rect(r));
    }

    fn surface(&self, s: &SurfaceSpec) -> SurfaceSpec {
        SurfaceSpec { id: other(&s.id), ..s.clone() }
    }

    fn stitch(&self, s: &StitchSpec) -> StitchSpec {
        StitchSpec { a: self.end(&s.a), b: self.end(&s.b), ..s.clone() }
    }

    fn end(&self, e: &StitchEndSpec) -> StitchEndSpec {
        let point = |[u, v]: &[String; 2]| [self.u(&e.on, u), v.clone()];
        let material = match e.material {
            SideSpec::Left => SideSpec::Right,
            SideSpec::Right => SideSpec::Left,
            level => level,
        };
        StitchEndSpec { on: other(&e.on), from: point(&e.from), to: point(&e.to), material }
    }

    fn piece(&self, p: &PieceSpec) -> PieceSpec {
        PieceSpec {
            id: other(&p.id),
            name: other(&p.name),
            regions: p.regions.iter().map(|r| self.rect(r)).collect(),
            ..p.clone()
        }
    }

    fn target(&self, t: &TargetSpec) -> TargetSpec {
        TargetSpec { id: other(&t.id), name: other(&t.name), at: self.rect(&t.at), ..t.clone() }
    }
}
