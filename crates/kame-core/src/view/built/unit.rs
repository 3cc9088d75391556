//! The unit of a section as a unit, by its kind, with what it stands on and what closes the joint inside it.

use super::parts::{Built, INTO, Material, SectionCut, SectionShape};
use super::stack::Stacked;
use crate::plan::SurfaceId;
use crate::profile::fig;
use crate::recipe::Role;
use crate::view::ask::SectionKind;

/// Sizes of frames, sashes, glass and leaves as they are drawn, in: usual ones, no maker's.
const FRAME: f64 = 1.4;
const PROUD: f64 = 0.6;
const SASH: f64 = 1.2;
const SASH_DEEP: f64 = 1.3;
const GLASS: f64 = 0.12;
const PANES: [f64; 2] = [0.3, 0.75];
const LEAF: f64 = 1.75;
const THRESHOLD: f64 = 0.9;
const ROD: f64 = 0.2;

/// Draws what stands in the opening and in its joint.
pub(super) fn unit(cut: &SectionCut, stacked: &Stacked, solid: &[[f64; 2]], out: &mut Built) {
    if !matches!(cut.ask.kind, SectionKind::Sill | SectionKind::Head | SectionKind::Jamb) {
        return;
    }
    shaped(cut, solid, out);
    let here = |p: &crate::plan::Piece| p.role == Role::Unit && p.opening == Some(cut.ask.opening);
    let Some(piece) = cut.plan.pieces.position(here).filter(|_| cut.has(here)) else { return };
    let p = &cut.plan.pieces[piece];
    let step = cut.step_of(&p.id);
    let mut add = |of: Material, name: &str, outline: Vec<[f64; 2]>| {
        out.shapes.push(SectionShape { of, name: name.into(), step: step.clone(), outline });
    };
    let flanged = cut.answer("unit") == "flanged";
    let door = cut.answer("unit") == "door";
    let plane = if flanged { stacked.flange } else { -cut.set_back };
    let depth = cut.figure(fig::FRAME_DEPTH);
    let (front, back) = (plane + if flanged { PROUD } else { 0.0 }, plane - depth);
    // Under the frame the sill rises inward, and what lies on it has its thickness.
    let sill = cut.ask.kind == SectionKind::Sill;
    let slope =
        if cut.answer("seat") == "level" { 0.0 } else { cut.plan.basis.figures.number(fig::SILL_SLOPE) / 100.0 };
    let clear = if sill { stacked.on_return + slope * depth.max(-back) + 0.2 } else { stacked.on_return + 0.25 };
    let edge = -clear;
    if sill {
        // Shims carry it and leave ways for water between them.
        let s0 = -(slope * (-plane).max(0.0) + stacked.on_return);
        add(Material::Shim, "shim", cut.block([edge, s0], [back + 0.5, back + 1.7]));
    }
    if door {
        if sill {
            let t = edge - THRESHOLD;
            let slanted = vec![
                cut.at(edge, front + 0.8),
                cut.at(edge, back),
                cut.at(t, back),
                cut.at(t, front - 0.6),
                cut.at(edge - 0.3, front + 0.8),
            ];
            add(Material::Frame, "threshold", slanted);
            add(Material::Frame, "door leaf", cut.block([-INTO, t - 0.15], [plane - 0.4 - LEAF, plane - 0.4]));
        } else {
            add(Material::Frame, "door frame", cut.block([edge - FRAME, edge], [back, front]));
            add(
                Material::Frame,
                "door leaf",
                cut.block([-INTO, edge - FRAME + 0.3], [plane - 0.4 - LEAF, plane - 0.4]),
            );
        }
    } else {
        add(Material::Frame, "frame", cut.block([edge - FRAME, edge], [back, front]));
        let s = edge - FRAME;
        add(Material::Frame, "sash", cut.block([s - SASH, s + 0.2], [plane - 0.3 - SASH_DEEP, plane - 0.3]));
        for pane in PANES {
            let o = plane - 0.3 - pane;
            add(Material::Glass, "glass", cut.block([-INTO, s - SASH + 0.3], [o - GLASS, o]));
        }
    }
    if flanged {
        // From the frame to where its flange lies on the wall.
        add(Material::Frame, &p.name, cut.block([edge, 0.0], [plane - 0.07, plane + 0.07]));
        if !sill {
            let nail = vec![cut.at(0.8, plane + 0.2), cut.at(0.8, plane - 1.9)];
            add(Material::Fastener, "nail through the flange", nail);
        }
    }
    if cut.moment.finished {
        joint(cut, (edge, back, stacked.on_return), &mut add);
    }
}

/// What adds a part of the unit: of what it is, its name, its outline.
type Adding<'a> = dyn FnMut(Material, &str, Vec<[f64; 2]>) + 'a;

/// Rod and sealant, or foam, between the frame and the return of the opening.
fn joint(cut: &SectionCut, (edge, back, on_return): (f64, f64, f64), add: &mut Adding) {
    let (middle, o) = ((edge - on_return) / 2.0, back + 0.35);
    let half = ((-edge - on_return) / 2.0).max(ROD / 2.0);
    if cut.answer("inside") == "foam" {
        add(Material::Rod, "low-expansion foam", cut.block([middle - half, middle + half], [o - 0.2, o + 0.6]));
        return;
    }
    let (r, at) = (half.min(0.3), o + 0.15);
    let turns = (0..12).map(|i| f64::from(i) * std::f64::consts::TAU / 12.0);
    add(Material::Rod, "backer rod", turns.map(|t| cut.at(middle + r * t.sin(), at + r * t.cos())).collect());
    add(Material::Sealant, "sealant inside", cut.block([middle - half, middle + half], [o - 0.35, o - 0.1]));
}

/// Wedge and dam at the inside of the sill.
fn shaped(cut: &SectionCut, solid: &[[f64; 2]], out: &mut Built) {
    if cut.ask.kind != SectionKind::Sill || solid.len() < 5 {
        return;
    }
    let (back, up) = (solid[2], solid[3]);
    let mine = |p: &crate::plan::Piece| p.role == Role::Shape && p.opening == Some(cut.ask.opening);
    for p in cut.plan.pieces.iter().filter(|p| mine(p) && cut.has(|q| q.id == p.id)) {
        let on_dam = |on: SurfaceId| cut.plan.surfaces[on].name == "dam";
        let dam = p.regions.iter().any(|(on, _)| on_dam(*on));
        let outline = if dam {
            vec![back, up, solid[4], [solid[4][0], back[1]]]
        } else if cut.answer("seat") == "board" {
            vec![[0.0, 0.0], back, [back[0], 0.0]]
        } else {
            continue;
        };
        out.shapes.push(SectionShape { of: Material::Wood, name: p.name.clone(), step: cut.step_of(&p.id), outline });
    }
}
