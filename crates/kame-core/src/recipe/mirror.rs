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

/// Turns all of a recipe over, left for right, on the wall and on its surfaces; names of things stay, so that what refers to them finds them.
pub fn turn_over(r: &mut Recipe) {
    let mut axis: HashMap<String, String> = r.surface.iter().map(|s| (s.id.clone(), s.width.clone())).collect();
    axis.insert("wall".into(), "left + right".into());
    let m = Mirror { axis };
    let here = |list: &mut Vec<RectSpec>| list.iter_mut().for_each(|r| *r = RectSpec { on: r.on.clone(), ..m.rect(r) });
    for s in &mut r.stitch {
        let (a, b) = (s.a.on.clone(), s.b.on.clone());
        (s.a, s.b) = (m.end(&s.a), m.end(&s.b));
        (s.a.on, s.b.on) = (a, b);
    }
    for p in &mut r.piece {
        here(&mut p.regions);
        p.name = other(&p.name);
    }
    r.seal.iter_mut().for_each(|s| here(&mut s.rects));
    let on_wall = |rect: &mut [String; 4]| *rect = m.on_wall(rect);
    let slit = |s: &mut [[String; 2]; 2]| s.iter_mut().for_each(|p| p[0] = m.u("wall", &p[0]));
    for c in &mut r.cut {
        c.away.iter_mut().for_each(on_wall);
        c.slits.iter_mut().for_each(slit);
        c.flaps.iter_mut().for_each(|f| on_wall(&mut f.rect));
        c.folds.iter_mut().for_each(|f| on_wall(&mut f.rect));
    }
    for f in &mut r.fit {
        f.away.iter_mut().for_each(on_wall);
        f.slits.iter_mut().for_each(slit);
        f.tuck.iter_mut().for_each(|t| on_wall(&mut t.rect));
    }
    for t in &mut r.target {
        t.at = RectSpec { on: t.at.on.clone(), ..m.rect(&t.at) };
        t.name = other(&t.name);
    }
    r.leak.iter_mut().for_each(|l| l.at = RectSpec { on: l.at.on.clone(), ..m.rect(&l.at) });
    r.stop.iter_mut().for_each(|s| on_wall(&mut s.rect));
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

    fn on_wall(&self, [u0, v0, u1, v1]: &[String; 4]) -> [String; 4] {
        [self.u("wall", u1), v0.clone(), self.u("wall", u0), v1.clone()]
    }

    fn rect(&self, r: &RectSpec) -> RectSpec {
        let [u0, v0, u1, v1] = &r.rect;
        let rect = [self.u(&r.on, u1), v0.clone(), self.u(&r.on, u0), v1.clone()];
        RectSpec { on: other(&r.on), rect, gaps: r.gaps.clone(), when: r.when.clone(), mirror: false }
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
