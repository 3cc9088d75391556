//! Panels and boards: how they are laid out on the walls, and how their joints are treated, on panels and under a coat or a sheet.

use super::cards::{Facts, card};
use super::hung::{Tees, Ways, minus, on_walls, step};
use super::{CutSize, Over, Part, Piece, Plan, Stretch};
use crate::kit::named;
use crate::layup::Bond;
use crate::length::Length;
use crate::profile::{Figures, fig};
use crate::recipe::Role;
use crate::recipe::expr::ExprError;
use crate::recipe::schools::BarrierSpec;
use crate::surface::{Interval, Rect};
use crate::trade::{Act, Step};

/// Most panels laid out in one job. Walls 2000 ft long and 60 ft high take 4000 of the common size.
pub const MOST_PANELS: i64 = 10_000;

/// About how many panels a stretch takes, whichever way they lie.
pub fn most_panels(on: &Stretch, figures: &Figures) -> i64 {
    // Panels that end on studs are as long as fits between them.
    let stud = figures.length(fig::STUD_SPACING).units().max(1);
    let times = |run: Length, size: Length| {
        let fits = if size.units() < stud { size.units() } else { size.units() / stud * stud };
        run.units() / fits.max(1) + 1
    };
    let (width, length) = (figures.length(fig::PANEL_WIDTH), figures.length(fig::PANEL_LENGTH));
    let (wide, high) = (on.rect.width(), on.rect.height());
    (times(wide, width) * times(high, length)).max(times(wide, length) * times(high, width))
}

/// Where the upright joints of boards `long` stand that are not bound to the framing: the first start with the fewest joints near opening
/// corners or in line with those of the row below, then the fewest narrow strips at the ends, then the fewest boards. `below` and `corners`
/// stand from left to right.
fn free_joints(width: Length, long: Length, below: &[Length], figures: &Figures, corners: &[Length]) -> Vec<Length> {
    let joints = |first: Length| {
        std::iter::successors(Some(first), |x| Some(*x + long)).take_while(|x| *x < width).collect::<Vec<_>>()
    };
    let close = Close::of(below, corners, figures);
    let narrow = |list: &[Length]| {
        let ends = [list.first().copied(), list.last().map(|x| width - *x)];
        ends.into_iter().flatten().filter(|strip| *strip < close.strip).count()
    };
    let starts = (long.units() / Length::inch(1).units()).max(1);
    (0..starts)
        .map(|k| joints(long - Length::inch(k)))
        .min_by_key(|list| (list.iter().map(|x| close.count(*x)).sum::<usize>(), narrow(list), list.len()))
        .unwrap_or_default()
}

/// What upright joints keep off.
struct Close<'a> {
    below: &'a [Length],
    corners: &'a [Length],
    clear: Length,
    stagger: Length,
    /// The narrowest strip that is left willingly.
    strip: Length,
}

impl<'a> Close<'a> {
    fn of(below: &'a [Length], corners: &'a [Length], figures: &Figures) -> Self {
        let (clear, stagger) = (figures.length(fig::PANEL_CORNER_CLEAR), figures.length(fig::PANEL_STAGGER));
        Self { below, corners, clear, stagger, strip: figures.length(fig::COURSE_LEAST_STRIP) }
    }

    /// How many opening corners and joints of the row below lie too near.
    fn count(&self, at: Length) -> usize {
        let within = |list: &[Length], by: Length| {
            list.partition_point(|x| *x < at + by).saturating_sub(list.partition_point(|x| *x <= at - by))
        };
        within(self.corners, self.clear) + within(self.below, self.stagger)
    }
}

/// Where the upright joints of panels at most `long` stand that end on studs, counted from the left end of the wall: the fewest joints near
/// opening corners or in line with those of the row below, then the fewest panels, then the fewest narrow ones. Where no stud is clear of a
/// corner the stud wins.
fn stud_joints(width: Length, long: Length, below: &[Length], figures: &Figures, corners: &[Length]) -> Vec<Length> {
    let apart = figures.length(fig::STUD_SPACING);
    let reach = (long.units() / apart.units().max(1)).max(0);
    if reach == 0 {
        return free_joints(width, long, below, figures, corners);
    }
    let close = Close::of(below, corners, figures);
    let studs = (width.units() - 1) / apart.units();
    let stud = |n: i64| Length::from_units(apart.units() * n);
    let narrow = |strip: Length| usize::from(strip < close.strip);
    // For each stud, and for the right end last: the best way there, as what it costs and the stud before it.
    let mut best: Vec<((usize, usize, usize), i64)> = vec![((0, 0, 0), 0)];
    for n in 1..=studs + 1 {
        let (at, near) = if n > studs { (width, 0) } else { (stud(n), close.count(stud(n))) };
        let from = (n - 1 - reach).max(0)..n;
        let ways = from.filter(|f| at - stud(*f) <= long).map(|f| {
            let ((joints, panels, strips), _) = best[f as usize];
            ((joints + near, panels + 1, strips + narrow(at - stud(f))), f)
        });
        // Of ways that cost the same the one with the widest last panel: joints stand as far left as they can.
        let way = ways.min_by_key(|(cost, f)| (*cost, *f));
        best.push(way.unwrap_or(((usize::MAX / 2, usize::MAX / 2, 0), n - 1)));
    }
    let mut joints: Vec<Length> = Vec::new();
    let mut n = best[best.len() - 1].1;
    while n > 0 {
        joints.push(stud(n));
        n = best[n as usize].1;
    }
    joints.reverse();
    joints
}

/// Whether upright joints have to stand on framing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Joints {
    /// On studs: panels nailed to the framing.
    OnStuds,
    /// Anywhere: boards fastened through to it.
    Anywhere,
}

/// The upright joints of one row on every wall. Each wall between two corners starts anew; at a corner panels meet, and the joint is treated
/// half to each side.
pub fn row_joints(
    plan: &Plan,
    wall: Rect,
    long: Length,
    below: &[Length],
    openings: &[Rect],
    stand: Joints,
) -> Vec<Length> {
    let corners = plan.walls.corners.iter().map(|c| c.at).filter(|at| wall.u0 < *at && *at < wall.u1);
    let ends: Vec<Length> = [wall.u0].into_iter().chain(corners).chain([wall.u1]).collect();
    let mut out = Vec::new();
    for w in ends.windows(2) {
        let mut here: Vec<Length> =
            openings.iter().filter(|o| o.u0 >= w[0] && o.u1 <= w[1]).flat_map(|o| [o.u0 - w[0], o.u1 - w[0]]).collect();
        here.sort_unstable();
        let below: Vec<Length> = below.iter().filter(|b| w[0] < **b && **b < w[1]).map(|b| *b - w[0]).collect();
        let joints = match stand {
            Joints::OnStuds => stud_joints(w[1] - w[0], long, &below, &plan.basis.figures, &here),
            Joints::Anywhere => free_joints(w[1] - w[0], long, &below, &plan.basis.figures, &here),
        };
        out.extend(joints.into_iter().map(|x| x + w[0]));
        out.extend((w[1] < wall.u1).then_some(w[1]));
    }
    out
}

/// A joint between panels.
struct PanelJoint {
    id: String,
    rect: Rect,
}

/// How wide what is laid over joints is.
#[derive(Clone, Copy, Debug)]
struct StripWidths {
    field: Length,
    /// At corners of the walls.
    corner: Length,
}

impl StripWidths {
    fn of(figures: &Figures, liquid: bool) -> Self {
        let tape = figures.length(fig::JOINT_TAPE_WIDTH);
        if !liquid {
            return Self { field: tape, corner: tape };
        }
        let each_side = figures.length(fig::CORNER_LIQUID);
        Self { field: figures.length(fig::JOINT_LIQUID_WIDTH), corner: each_side + each_side }
    }
}

/// Panels on a stretch, row and number from 1, and the joints between them.
struct Sheathing {
    panels: Vec<(usize, usize, Rect)>,
    joints: Vec<PanelJoint>,
}

/// The upper edge of the first row of panels: what whole ones leave at the foot where they are counted from the top; where they tie gables to
/// the wall below them, so much less than a whole one, in inches, that no row ends near a plate under a gable.
fn first_row(stretch: &Stretch, high: Length, ways: Ways, figures: &Figures) -> Length {
    let wall = stretch.rect;
    let rest = |l: Length| Length::from_units(l.units().rem_euclid(high.units().max(1)));
    let left = rest(wall.height());
    if ways.from_top && left > Length::ZERO {
        return wall.v0 + left;
    }
    if ways.bridging {
        let half = Length::from_units(high.units() / 2);
        let past = figures.length(fig::GABLE_BRIDGE).min(half);
        let plates = stretch.outline.feet_of_slopes();
        let near = |first: &Length| {
            plates.iter().filter(|p| !(past..=high - past).contains(&rest(**p - wall.v0 - *first))).count()
        };
        let least = figures.length(fig::COURSE_LEAST_STRIP);
        let cut = std::iter::successors(Some(high), |h| Some(*h - Length::inch(1))).take_while(|h| *h >= least);
        // The highest first row of those with the fewest plates near a joint: with gables on several plates not all may be clear.
        return wall.v0 + cut.into_iter().min_by_key(near).unwrap_or(high);
    }
    wall.v0 + high
}

/// Where panels lie on a stretch, with their joints as wide as what is laid over them.
fn sheathing(plan: &Plan, stretch: &Stretch, openings: &[Rect], ways: Ways, strips: StripWidths) -> Sheathing {
    let (figures, wall) = (&plan.basis.figures, stretch.rect);
    let (width, length) = (figures.length(fig::PANEL_WIDTH), figures.length(fig::PANEL_LENGTH));
    let (long, high) = if ways.lying { (length, width) } else { (width, length) };
    let half = Length::from_units(figures.length(fig::PANEL_GAP).units() / 2);
    let rows: Vec<Length> = std::iter::successors(Some(first_row(stretch, high, ways, figures)), |v| Some(*v + high))
        .take_while(|v| *v < wall.v1)
        .collect();
    let between = |from: Length, joints: &[Length], end: Length| -> Vec<(Length, Length)> {
        let mut from = from;
        let mut out: Vec<_> = joints.iter().map(|j| (std::mem::replace(&mut from, *j + half), *j - half)).collect();
        out.push((from, end));
        out
    };
    let (mut panels, mut columns, mut uprights) = (Vec::new(), Vec::new(), Vec::new());
    for (r, (v0, v1)) in between(wall.v0, &rows, wall.v1).into_iter().enumerate() {
        // Upright, joints run through from row to row; lying, each row keeps off those of the row below.
        if r == 0 || ways.lying {
            let here: Vec<Rect> =
                openings.iter().filter(|o| !ways.lying || (o.v0 < v1 && o.v1 > v0)).copied().collect();
            columns = row_joints(plan, wall, long, if ways.lying { &columns } else { &[] }, &here, Joints::OnStuds);
            let (low, top) = if ways.lying { (v0, v1) } else { (wall.v0, wall.v1) };
            // Where the walls come back to their start the last panels meet the first.
            let close = (plan.walls.round && plan.walls.stretches.len() == 1).then_some(wall.u1);
            for u in columns.iter().chain(&close) {
                let corner = plan.walls.corners.iter().any(|c| c.at == *u);
                let side = Length::from_units((if corner { strips.corner } else { strips.field }).units() / 2);
                let top = top.min(stretch.outline.most_over(Interval { lo: *u - side, hi: *u + side }));
                let id = format!("joint-{}", uprights.len() + 1);
                let reach = |v: Length, by: Length| if ways.lying { v + by } else { v };
                let rect =
                    Rect::new(*u - side, reach(low, -side).max(wall.v0), *u + side, reach(top, side).min(wall.v1));
                uprights.extend((low < top).then_some(PanelJoint { id, rect }));
            }
        }
        for (c, (u0, u1)) in between(wall.u0, &columns, wall.u1).into_iter().enumerate() {
            let v1 = v1.min(stretch.outline.most_over(Interval { lo: u0, hi: u1 }));
            panels.extend((v0 < v1).then(|| (r + 1, c + 1, Rect::new(u0, v0, u1, v1))));
        }
    }
    let side = Length::from_units(strips.field.units() / 2);
    let mut joints: Vec<PanelJoint> = Vec::new();
    for (i, v) in rows.iter().enumerate() {
        let parts = stretch.outline.above(*v - half);
        let one = parts.len() == 1;
        joints.extend(parts.into_iter().enumerate().map(|(k, s)| PanelJoint {
            id: if one { format!("joint-level-{}", i + 1) } else { format!("joint-level-{}-{}", i + 1, k + 1) },
            rect: Rect::new(s.lo, *v - side, s.hi, (*v + side).min(wall.v1)),
        }));
    }
    let uprights = if ways.tees == Tees::HalfWay && !ways.lying { at_rows(uprights, &rows) } else { uprights };
    if ways.tees == Tees::LevelOver {
        joints.splice(0..0, uprights);
    } else {
        joints.extend(uprights);
    }
    if ways.lying && ways.tees != Tees::LevelOver {
        // From the bottom up, so that each strip laps over the ends of those below it.
        joints.sort_by_key(|j| (j.rect.v0, j.rect.height()));
    }
    Sheathing { panels, joints }
}

/// Upright strips parted where they meet level joints: each ends in the middle of the level strip, half-way over it.
fn at_rows(uprights: Vec<PanelJoint>, rows: &[Length]) -> Vec<PanelJoint> {
    let mut out = Vec::new();
    for PanelJoint { id, rect } in uprights {
        let met = rows.iter().copied().filter(|v| rect.v0 < *v && *v < rect.v1);
        let ends: Vec<Length> = [rect.v0].into_iter().chain(met).chain([rect.v1]).collect();
        let one = ends.len() == 2;
        out.extend(ends.windows(2).enumerate().map(|(k, v)| PanelJoint {
            id: if one { id.clone() } else { format!("{id}-{}", k + 1) },
            rect: Rect { v0: v[0], v1: v[1], ..rect },
        }));
    }
    out
}

/// Panels or boards, their joints treated.
pub fn panel_steps(
    plan: &mut Plan,
    spec: &BarrierSpec,
    s: usize,
    openings: &[Rect],
    ways: Ways,
) -> Result<Vec<Step>, ExprError> {
    let stretch = plan.walls.stretches[s].clone();
    let liquid = spec.joint_bond == Bond::Cured;
    let laid = sheathing(plan, &stretch, openings, ways, StripWidths::of(&plan.basis.figures, liquid));
    let free: &[Rect] = if ways.cut_now { openings } else { &[] };
    let mut acts = Vec::new();
    let width = plan.basis.figures.length(fig::PANEL_WIDTH);
    for (row, column, rect) in laid.panels {
        let (along, across) = if ways.lying { (rect.width(), rect.height()) } else { (rect.height(), rect.width()) };
        let cut = CutSize { length: along, width: across, stock_width: width, roll: None, widest: None, taken: None };
        let piece = plan.pieces.push_and_get_key(Piece {
            id: stretch.id(&format!("panel-{row}-{column}")),
            name: stretch.name(&format!("{} {row}.{column}", spec.name)),
            role: Role::Barrier,
            letter: format!("Q{column}"),
            product: spec.product.clone(),
            bond: spec.bond,
            solid: false,
            grips: false,
            regions: minus(rect, free),
            cut: Some(cut),
            opening: None,
            stretch: s,
            laying: None,
        });
        acts.push((Act::Place { piece, under: Vec::new() }, format!("hang {}", plan.pieces[piece].name)));
    }
    let none = Facts::default();
    let of_panels = card(plan, &stretch, spec, "panels", &none)?;
    acts.push((Act::Fasten, of_panels.fasten.clone()));
    let panels = step(&stretch, "panels", of_panels, acts);
    let acts = joint_acts(plan, spec, s, laid.joints, liquid);
    Ok(vec![panels, step(&stretch, "joints", card(plan, &stretch, spec, "joints", &none)?, acts)])
}

/// The joints of the sheathing under a coat, treated by liquid before it.
pub fn substrate_joints(plan: &mut Plan, spec: &BarrierSpec, s: usize, openings: &[Rect]) -> Vec<(Act, String)> {
    let stretch = plan.walls.stretches[s].clone();
    let ways = Ways { cut_now: true, ..Ways::default() };
    let laid = sheathing(plan, &stretch, openings, ways, StripWidths::of(&plan.basis.figures, true));
    let of_joints = BarrierSpec { joint: named::LIQUID_FLASHING.into(), joint_bond: Bond::Cured, ..spec.clone() };
    let before = plan.pieces.next_key();
    let acts = joint_acts(plan, &of_joints, s, laid.joints, true);
    // The coat goes over them, and both end at the openings.
    let over = plan.overs.len() - plan.pieces[before..].len();
    for o in &mut plan.overs[over..] {
        std::mem::swap(&mut o.upper, &mut o.lower);
        o.because = "joints are treated before they are coated over".into();
    }
    for p in &mut plan.pieces[before..] {
        p.regions = p.regions.iter().flat_map(|(on, r)| r.minus_all(openings).into_iter().map(|r| (*on, r))).collect();
    }
    acts
}

/// The joints of the sheathing behind a sheet, taped so that it stops the air.
pub fn taped_sheathing(plan: &mut Plan, spec: &BarrierSpec, s: usize, openings: &[Rect]) -> Result<Step, ExprError> {
    let stretch = plan.walls.stretches[s].clone();
    let ways = Ways { cut_now: true, ..Ways::default() };
    let laid = sheathing(plan, &stretch, openings, ways, StripWidths::of(&plan.basis.figures, false));
    let (pieces, overs) = (plan.pieces.next_key(), plan.overs.len());
    let tape = BarrierSpec { joint: named::JOINT_TAPE.into(), joint_bond: Bond::Full, ..spec.clone() };
    let acts = joint_acts(plan, &tape, s, laid.joints, false);
    plan.overs.truncate(overs);
    for piece in plan.pieces.keys().skip(pieces.0) {
        let p = &mut plan.pieces[piece];
        // What is under the sheet is no part of it: it is not cut or lifted with it.
        (p.role, p.id) = (Role::Patch, p.id.replace("joint", "sheathing"));
        p.name = p.name.replace("joint tape", "tape on the sheathing");
        p.regions = p.regions.iter().flat_map(|(on, r)| r.minus_all(openings).into_iter().map(|r| (*on, r))).collect();
        plan.overs.push(Over {
            upper: Part::Barrier(s),
            lower: Part::Piece(piece),
            fault: "F01".into(),
            because: "the sheet hangs over the taped sheathing".into(),
            opening: None,
        });
    }
    let card = card(plan, &stretch, spec, "sheathing", &Facts::default())?;
    Ok(step(&stretch, "sheathing", card, acts))
}

/// The strips over joints as pieces, with what is done with each.
fn joint_acts(
    plan: &mut Plan,
    spec: &BarrierSpec,
    s: usize,
    joints: Vec<PanelJoint>,
    liquid: bool,
) -> Vec<(Act, String)> {
    let figures = plan.basis.figures.clone();
    let stretch = plan.walls.stretches[s].clone();
    let (width, roll) = (figures.length(fig::JOINT_TAPE_WIDTH), Some(figures.length(fig::TAPE_ROLL_LENGTH)));
    let coats = plan.coats(&spec.joint);
    let mut acts = Vec::new();
    for PanelJoint { id, rect } in joints {
        let run = rect.width().max(rect.height());
        let cut =
            (!liquid).then_some(CutSize { length: run, width, stock_width: width, roll, widest: None, taken: None });
        let piece = plan.pieces.push_and_get_key(Piece {
            name: stretch.name(&format!("{} ({})", spec.joint.to_lowercase(), id.replace('-', " "))),
            id: stretch.id(&id),
            role: Role::Joint,
            letter: "Y".into(),
            product: spec.joint.clone(),
            bond: spec.joint_bond,
            solid: false,
            grips: false,
            regions: on_walls(plan, rect),
            cut,
            opening: None,
            stretch: s,
            laying: None,
        });
        plan.overs.push(Over {
            upper: Part::Piece(piece),
            lower: Part::Barrier(s),
            fault: "F32".into(),
            because: "a joint is treated on the faces of both panels".into(),
            opening: None,
        });
        let name = plan.pieces[piece].name.clone();
        if liquid {
            let coat = Act::Coat { piece, wet_mil: figures.number(fig::JOINT_MIL), coats };
            acts.push((coat, format!("coat the {name}")));
            acts.push((Act::Wait { piece: Some(piece) }, format!("wait: the {name} is cured")));
        } else {
            acts.push((Act::Place { piece, under: Vec::new() }, format!("tape the {name}")));
            acts.push((Act::Press { piece }, format!("roll the {name}")));
        }
    }
    acts
}
