//! The wall of a section: framing and sheathing behind the sheets; what keeps the cladding off and the cladding before them.

use super::parts::{Built, CornerCut, HEADER, LUMBER, Material, ROOM_BOARD, SectionCut, SectionShape, on_face};
use super::stack::{SHEET, Stacked};
use crate::build_up::{BuildUp, LayerKind};
use crate::length::Length;
use crate::plan::SurfaceId;
use crate::recipe::{LayoutRule, Role};
use crate::view::ask::SectionKind;
use crate::view::cut::Leg;

/// What a lap-siding board shows, and how far it runs up behind the next, in.
const SHOWN: f64 = 6.0;
const BEHIND: f64 = 1.0;
/// Boards with open joints: what each shows, and the joint, in.
const BOARD: f64 = 5.0;
const JOINT: f64 = 0.375;
/// Where cladding ends short of the edge of the opening, in.
const SHORT: f64 = 0.4;

/// How thick all layers of a kind are together.
fn thick(layers: &BuildUp, of: LayerKind) -> f64 {
    layers.layers.iter().filter(|l| l.of == of).map(|l| l.thick.to_inches_f64()).sum()
}

impl SectionCut<'_> {
    fn thick(&self, of: LayerKind) -> f64 {
        thick(&self.layers, of)
    }

    /// The thickness of what the sheets lie on, and the depth of studs.
    pub(super) fn backing(&self) -> (f64, f64) {
        (self.thick(LayerKind::Sheathing), self.thick(LayerKind::Framing))
    }
}

fn add(out: &mut Built, of: Material, name: &str, outline: Vec<[f64; 2]>) {
    out.shapes.push(SectionShape { of, name: name.into(), step: None, outline });
}

/// Framing, sheathing, the room's board.
pub(super) fn framing(cut: &SectionCut, solid: &[[f64; 2]], out: &mut Built) {
    let (sheathing, stud) = cut.backing();
    let inner = -(sheathing + stud);
    let depth = [inner, -sheathing];
    let [low, far] = cut.range();
    match cut.ask.kind {
        SectionKind::Sill | SectionKind::Base => {
            // From the edge of the opening down to the bottom plate, and the foundation below it.
            let foot = cut.s_of(cut.plan.walls.plate);
            let sill = if cut.ask.kind == SectionKind::Sill { LUMBER } else { 0.0 };
            if foot > sill + LUMBER {
                add(out, Material::Stud, "stud", cut.block([sill, (foot - LUMBER).min(far)], depth));
            }
            if foot < far {
                add(out, Material::Framing, "bottom plate", cut.block([(foot - LUMBER).max(0.0), foot], depth));
                add(out, Material::Concrete, "foundation", cut.block([foot, far], depth));
            }
            if sill > 0.0 && foot > LUMBER {
                let mut plate = cut.block([0.0, LUMBER], depth);
                if cut.answer("seat") == "framed" && solid.len() > 2 {
                    // Sloped framing: its upper face is the slope.
                    (plate[0], plate[3]) = ([-inner, solid[2][1]], [sheathing, 0.0]);
                }
                add(out, Material::Framing, "sill plate", plate);
            }
            ground(cut, out);
        }
        SectionKind::Head => {
            let top = cut.s_of(cut.plan.surfaces[SurfaceId::WALL].facet.height);
            let header = HEADER.min((top - 2.0 * LUMBER).max(LUMBER)).min(far);
            add(out, Material::Framing, "header", cut.block([0.0, header], depth));
            if top < far {
                add(out, Material::Framing, "top plates", cut.block([header, top], depth));
            } else {
                add(out, Material::Stud, "stud", cut.block([header, far], depth));
            }
        }
        SectionKind::Top => {
            let top = cut.s_of(cut.along.hi);
            add(out, Material::Stud, "stud", cut.block([0.0, (top - 2.0 * LUMBER).max(0.0)], depth));
            for n in [2.0, 1.0] {
                add(
                    out,
                    Material::Framing,
                    "top plates",
                    cut.block([top - n * LUMBER, top - (n - 1.0) * LUMBER], depth),
                );
            }
        }
        SectionKind::Through => add(out, Material::Stud, "stud", cut.block([low, far], depth)),
        SectionKind::Corner => return corner(cut, out),
        SectionKind::Jamb => {
            add(out, Material::Framing, "studs beside the opening", cut.block([0.0, LUMBER], depth));
            add(out, Material::Framing, "studs beside the opening", cut.block([LUMBER, 2.0 * LUMBER], depth));
            add(out, Material::Batt, "insulation between studs", cut.block([2.0 * LUMBER, far], depth));
        }
    }
    let of = cut.layers.layers.iter().find(|l| l.of == LayerKind::Sheathing).map_or("sheathing", |l| l.name.as_str());
    // What is fixed to the wall has the sheathing behind it.
    let fixed = cut.opening.feature == crate::recipe::schools::Feature::Line;
    let whole = if fixed && cut.ask.kind == SectionKind::Through { vec![cut.range()] } else { cut.walls() };
    for wall in whole {
        add(out, Material::Sheathing, of, cut.block(wall, [-sheathing, 0.0]));
    }
    let room = match cut.ask.kind {
        SectionKind::Sill => [LUMBER, cut.s_of(cut.plan.walls.plate).min(far).max(LUMBER)],
        SectionKind::Base => [low, cut.s_of(cut.plan.walls.plate)],
        SectionKind::Through => [low, far],
        SectionKind::Head | SectionKind::Jamb | SectionKind::Top | SectionKind::Corner => [0.0, far],
    };
    add(out, Material::Lining, "board inside", cut.block(room, [inner - ROOM_BOARD, inner]));
}

/// Studs, insulation, sheathing and the room's board of the two walls at a corner.
fn corner(cut: &SectionCut, out: &mut Built) {
    let Some(c) = &cut.corner else { return };
    let walls = [&cut.layers, &c.right];
    let sheathing = walls.map(|l| thick(l, LayerKind::Sheathing));
    let inner = [0, 1].map(|n| -(sheathing[n] + thick(walls[n], LayerKind::Framing)));
    let depth = [0, 1].map(|n| [inner[n], -sheathing[n]]);
    // The left wall runs through: its last stud, and one for the board inside to be nailed to. The right one butts against it.
    let (end, start) = if c.mitre[0] > 0.0 { (-sheathing[1], -inner[0]) } else { (-inner[1], -sheathing[0]) };
    let [lo, hi] = c.seen;
    let backing = end - LUMBER - (depth[0][1] - depth[0][0]);
    add(out, Material::Framing, "corner studs", cut.left_block([end - LUMBER, end], depth[0]));
    let flat = if c.mitre[0] > 0.0 { [depth[0][0], depth[0][0] + LUMBER] } else { [depth[0][1] - LUMBER, depth[0][1]] };
    add(out, Material::Framing, "corner studs", cut.left_block([backing, end - LUMBER], flat));
    add(out, Material::Framing, "corner studs", cut.right_block([start, start + LUMBER], depth[1]));
    add(out, Material::Batt, "insulation between studs", cut.left_block([lo, backing], depth[0]));
    add(out, Material::Batt, "insulation between studs", cut.right_block([start + LUMBER, hi], depth[1]));
    let boards = [0, 1].map(|n| [-sheathing[n], 0.0]);
    let lining = [0, 1].map(|n| [inner[n] - ROOM_BOARD, inner[n]]);
    for (n, outline) in cut.butted(boards[0], boards[1]).into_iter().enumerate() {
        let of = walls[n].layers.iter().find(|l| l.of == LayerKind::Sheathing);
        add(out, Material::Sheathing, of.map_or("sheathing", |l| l.name.as_str()), outline);
    }
    for outline in cut.butted(lining[0], lining[1]) {
        add(out, Material::Lining, "board inside", outline);
    }
}

/// Soil and paving in front of the foot, where the job says how high they stand.
fn ground(cut: &SectionCut, out: &mut Built) {
    let [_, far] = cut.range();
    for level in cut.plan.walls.levels.iter().filter(|l| l.kind != crate::job::LevelKind::Floor) {
        let s = cut.s_of(cut.plan.walls.plate + level.at);
        if (0.0..far).contains(&s) {
            add(out, Material::Ground, &level.name, cut.block([s, far], [0.3, 3.5]));
        }
    }
}

/// What comes through the wall or is fixed to it.
fn thing(cut: &SectionCut, out: &mut Built) {
    let mine = |p: &crate::plan::Piece| p.opening == Some(cut.ask.opening) && p.role == Role::Unit;
    let Some(p) = cut.plan.pieces.iter().find(|p| mine(p) && cut.has(|q| q.id == p.id)) else { return };
    let (sheathing, stud) = cut.backing();
    let r = cut.opening.rect;
    let proud = cut.layers.outside_barrier().to_inches_f64() + 1.0;
    let fixed = cut.opening.feature == crate::recipe::schools::Feature::Line;
    let from = if fixed { 0.0 } else { -(sheathing + stud + ROOM_BOARD + 1.0) };
    out.shapes.push(SectionShape {
        of: if fixed { Material::Wood } else { Material::Thing },
        name: p.name.clone(),
        step: cut.step_of(&p.id),
        outline: cut.block([cut.s_of(r.v0), cut.s_of(r.v1)], [from, if fixed { LUMBER } else { proud }]),
    });
}

/// True where the cladding is there: by its own step where it is in the plan, else once all else is done.
fn is_clad(cut: &SectionCut, at: Length) -> bool {
    let here = |f: &crate::plan::Finish| f.rect.u0 <= at && at < f.rect.u1;
    let finish = cut.plan.walls.finishes.iter().position(here);
    let seen = |p: &crate::plan::Piece| {
        p.role == Role::Cladding && p.laying.is_some_and(|l| l.rule == LayoutRule::Cladding && Some(l.finish) == finish)
    };
    if cut.plan.pieces.iter().any(seen) { cut.has(seen) } else { cut.moment.finished }
}

/// What stands in the gap and the cladding; how far out all of it comes.
pub(super) fn outside(cut: &SectionCut, legs: &[Leg], stacked: &Stacked, out: &mut Built) -> f64 {
    let mut face = stacked.out;
    let (furring, cladding) = (cut.thick(LayerKind::Furring), cut.thick(LayerKind::Cladding));
    let plane = stacked.out + if furring > 0.0 { 0.05 } else { 0.0 };
    for leg in on_face(legs) {
        let right = cut.corner.as_ref().filter(|c| c.at <= leg.span.lo);
        let furring = right.map_or(furring, |c| thick(&c.right, LayerKind::Furring));
        for l in cut.moment.stage.layers.iter().filter(|l| l.on == leg.on) {
            let p = &cut.plan.pieces[l.piece];
            // The cladding is drawn as it is made, below.
            let outside = p.role.is_outside() && p.role != Role::Cladding;
            let Some(span) = leg.passes(l.rect).filter(|_| outside) else { continue };
            let thick = if p.role == Role::Furring && furring > 0.0 { furring } else { SHEET };
            let from = if p.role == Role::Furring { plane } else { plane + furring };
            let (a, b) = (cut.s_of(span.lo), cut.s_of(span.hi));
            face = face.max(from + thick);
            out.shapes.push(SectionShape {
                of: Material::Furring,
                name: p.name.clone(),
                step: cut.step_of(&p.id),
                outline: cut.block([a.min(b), a.max(b)], [from, from + thick]),
            });
        }
    }
    if cut.ask.kind == SectionKind::Through {
        thing(cut, out);
    }
    if let Some(c) = &cut.corner {
        return corner_cladding(cut, c, face, plane, out);
    }
    if !is_clad(cut, cut.opening.rect.u0) || cladding <= 0.0 {
        return face;
    }
    let name = cut.layers.layers.iter().find(|l| l.of == LayerKind::Cladding);
    let (id, name) = name.map_or(("", "cladding"), |l| (l.id.as_str(), l.name.as_str()));
    let from = plane + furring;
    let upright = !cut.ask.kind.is_level();
    for [near, end] in cut.walls() {
        // Short of the opening, of what comes through, of the foot.
        let through = cut.ask.kind == SectionKind::Through;
        let near =
            if near == 0.0 && cut.ask.kind != SectionKind::Top || through && near > 0.0 { near + SHORT } else { near };
        let short = cut.ask.kind == SectionKind::Base || through && end < 0.0;
        let end = if short { end - SHORT } else { end };
        if end <= near {
            continue;
        }
        let boards: Vec<Vec<[f64; 2]>> = match id {
            "lap" if upright => siding(cut, [near, end], from, cladding),
            "open" if upright => {
                let step = BOARD + JOINT;
                let n = ((end - near) / step).ceil().max(0.0) as usize;
                let boards = (0..n).map(|i| near + step * i as f64);
                boards.map(|s| cut.block([s, (s + BOARD).min(end)], [from, from + cladding])).collect()
            }
            _ => vec![cut.block([near, end], [from, from + cladding])],
        };
        for outline in boards {
            add(out, Material::Cladding, name, outline);
        }
    }
    face.max(from + 2.0 * cladding)
}

/// The cladding of the two walls at a corner; how far out all of it comes.
fn corner_cladding(cut: &SectionCut, c: &CornerCut, face: f64, plane: f64, out: &mut Built) -> f64 {
    let walls = [&cut.layers, &c.right];
    let is_clad = [is_clad(cut, c.at - Length::from_units(1)), is_clad(cut, c.at)];
    let planes = [0, 1].map(|n| {
        let from = plane + thick(walls[n], LayerKind::Furring);
        [from, from + thick(walls[n], LayerKind::Cladding)]
    });
    let mut reached = face;
    for (n, outline) in cut.butted(planes[0], planes[1]).into_iter().enumerate() {
        if is_clad[n] && planes[n][1] > planes[n][0] {
            let of = walls[n].layers.iter().find(|l| l.of == LayerKind::Cladding);
            add(out, Material::Cladding, of.map_or("cladding", |l| l.name.as_str()), outline);
            reached = reached.max(planes[n][1]);
        }
    }
    reached
}

/// Lapped boards from the foot up, each over the top of the one below.
fn siding(cut: &SectionCut, [from, to]: [f64; 2], plane: f64, thick: f64) -> Vec<Vec<[f64; 2]>> {
    let n = ((to - from) / SHOWN).ceil().max(0.0) as usize;
    // Up is away from the opening over a head, towards it under a sill.
    let up = if matches!(cut.ask.kind, SectionKind::Sill | SectionKind::Base) { -1.0 } else { 1.0 };
    let start = if up > 0.0 { from } else { to };
    let board = |i: usize| {
        let foot = start + up * SHOWN * i as f64;
        let top = (foot + up * (SHOWN + BEHIND)).clamp(from, to);
        vec![
            cut.at(foot, plane + thick),
            cut.at(foot, plane + 2.0 * thick),
            cut.at(top, plane + thick),
            cut.at(top, plane),
        ]
    };
    (0..n).map(board).collect()
}
