//! What is hung on the whole wall: courses, panels or a coat, and what comes outside it later.

use super::cards::{Facts, card};
use super::hung::{Ways, minus, on_walls, step};
use super::panels::{Joints, panel_steps, row_joints, substrate_joints, taped_sheathing};
use super::top_beads::bead;
use super::{CutSize, Over, Part, Piece, Plan, Stretch, SurfaceId};
use crate::job::{CornerKind, CornerSpec};
use crate::kit::named;
use crate::layup::Bond;
use crate::length::Length;
use crate::profile::fig;
use crate::recipe::expr::ExprError;
use crate::recipe::schools::{BarrierKind, BarrierSpec, Feature};
use crate::recipe::{FitOf, Role};
use crate::surface::{Interval, Rect};
use crate::trade::{Act, Action, Band, PieceId, Step};

/// The barrier of one stretch as pieces, with its steps.
pub fn barrier_steps(
    plan: &mut Plan,
    spec: &BarrierSpec,
    s: usize,
    openings: &[Rect],
    ways: Ways,
) -> Result<Vec<Step>, ExprError> {
    let mut steps = match spec.kind {
        BarrierKind::Courses => {
            let taped = ways.sheathing.then(|| taped_sheathing(plan, spec, s, openings)).transpose()?;
            taped.into_iter().chain(course_steps(plan, spec, s, ways)?).collect()
        }
        BarrierKind::Panels => panel_steps(plan, spec, s, openings, ways)?,
        BarrierKind::Coat => coat_steps(plan, spec, s, openings)?,
    };
    steps.extend(corner_step(plan, spec, s)?);
    Ok(steps)
}

/// What is measured at corners, and looked at before a coat; a test looks for both in the data.
const CORNER_CHECK: &str = "corner-wrap";
const JOINTS_CHECK: &str = "joints-first";

/// What is looked at where the wall turns and the barrier goes on.
fn corner_step(plan: &mut Plan, spec: &BarrierSpec, s: usize) -> Result<Option<Step>, ExprError> {
    let stretch = plan.walls.stretches[s].clone();
    let here = plan.walls.corners.iter().filter(|c| stretch.rect.u0 < c.at && c.at < stretch.rect.u1);
    let names: Vec<&str> = here.map(|c| c.name.as_str()).collect();
    if names.is_empty() {
        return Ok(None);
    }
    let facts = Facts { words: vec![("corners", names.join(", "))], ..Facts::default() };
    let card = card(plan, &stretch, spec, "corners", &facts)?;
    let mut acts = vec![(Act::Measure, "measure how far past the corner".to_owned())];
    if spec.kind == BarrierKind::Coat || spec.kind == BarrierKind::Panels && spec.joint_bond == Bond::Cured {
        acts.extend(moving_corners(plan, s));
    }
    let mut corners = step(&stretch, "corners", card, acts);
    corners.actions[0].checks = vec![CORNER_CHECK.to_owned()];
    Ok(Some(corners))
}

/// Bond breaker and sealant in the inside corners of a stretch whose joints are treated by liquid.
fn moving_corners(plan: &mut Plan, s: usize) -> Vec<(Act, String)> {
    let stretch = plan.walls.stretches[s].clone();
    let (breaker, past) =
        (plan.basis.figures.length(fig::BOND_BREAKER), plan.basis.figures.length(fig::BOND_BREAKER_PAST));
    let inside = |c: &&CornerSpec| c.kind == CornerKind::Inside && stretch.rect.u0 < c.at && c.at < stretch.rect.u1;
    let corners: Vec<(usize, Length)> =
        plan.walls.corners.iter().enumerate().filter(|(_, c)| inside(c)).map(|(n, c)| (n + 1, c.at)).collect();
    let mut acts = Vec::new();
    for (n, at) in corners {
        let layers = [
            ("bond-breaker", "bond breaker in inside corner", named::BOND_BREAKER_TAPE, breaker, Bond::None),
            ("corner-sealant", "sealant over inside corner", named::SEALANT, breaker + past + past, Bond::Full),
        ];
        for (id, name, product, wide, bond) in layers {
            let half = Length::from_units(wide.units() / 2);
            let top = stretch.rect.v1.min(stretch.outline.most_over(Interval { lo: at - half, hi: at + half }));
            let rect = Rect { u0: at - half, u1: at + half, v1: top, ..stretch.rect };
            let piece = plan.pieces.push_and_get_key(Piece {
                id: stretch.id(&format!("{id}-{n}")),
                name: stretch.name(&format!("{name} {n}")),
                role: Role::Joint,
                letter: "Y".into(),
                product: product.into(),
                bond,
                solid: false,
                grips: false,
                regions: on_walls(plan, rect),
                cut: (bond == Bond::None).then_some(CutSize {
                    length: rect.height(),
                    width: wide,
                    stock_width: wide,
                    roll: Some(plan.basis.figures.length(fig::TAPE_ROLL_LENGTH)),
                    widest: None,
                    taken: None,
                }),
                opening: None,
                stretch: s,
                laying: None,
            });
            let name = plan.pieces[piece].name.clone();
            acts.push((Act::Place { piece, under: Vec::new() }, format!("lay the {name}")));
            if bond == Bond::Full {
                acts.push((Act::Press { piece }, format!("tool the {name}")));
            }
        }
    }
    acts
}

/// What hangs outside the barrier.
#[derive(Clone, Debug)]
pub struct Outside {
    /// What a second layer is of, where there is one.
    pub second: Option<String>,
    /// Insulation boards.
    pub boards: bool,
}

/// What is hung outside the barrier once the openings are flashed. `placed` is what is there by then, with its band in the order of work.
pub fn cover_steps(
    plan: &mut Plan,
    spec: &BarrierSpec,
    s: usize,
    outside: Outside,
    placed: &[(PieceId, Band)],
) -> Result<Vec<Step>, ExprError> {
    let holes = plan.openings.iter().filter(|o| o.feature != Feature::Line);
    let free: Vec<Rect> = holes.map(|o| o.rect).chain(plan.walls.outline.air()).collect();
    let mut steps = Vec::new();
    if let Some(product) = &outside.second {
        steps.push(second_layer(plan, (spec, product), s, &free, placed)?);
    }
    if outside.boards {
        steps.push(insulation(plan, spec, s, &free, placed)?);
    }
    Ok(steps)
}

/// The foot and top of each course of a second layer: those of the barrier, or where that has none as wide as rolls are.
fn second_courses(plan: &Plan, stretch: &Stretch) -> Vec<(Length, Length)> {
    if !stretch.courses.courses.is_empty() {
        return stretch.courses.courses.iter().map(|c| (c.bottom, c.top)).collect();
    }
    let (roll, lap) =
        (plan.basis.figures.length(fig::BARRIER_ROLL_WIDTH), plan.basis.figures.length(fig::LAP_HORIZONTAL));
    let (rise, wall) = ((roll - lap).max(Length::inch(1)), stretch.rect);
    let feet =
        std::iter::successors(Some(wall.v0), |v| Some(*v + rise)).take_while(|v| *v == wall.v0 || *v + lap < wall.v1);
    feet.map(|v| (v, (v + roll).min(wall.v1))).collect()
}

/// The outer of two layers of a product, course by course.
fn second_layer(
    plan: &mut Plan,
    (spec, product): (&BarrierSpec, &str),
    s: usize,
    free: &[Rect],
    placed: &[(PieceId, Band)],
) -> Result<Step, ExprError> {
    let stretch = plan.walls.stretches[s].clone();
    let mut acts = Vec::new();
    let mut below = None;
    let paper = product == named::PLASTER_PAPER;
    let layer = if paper { "outer paper" } else { "outer sheet" };
    for (n, (bottom, top)) in second_courses(plan, &stretch).into_iter().enumerate() {
        let rect = Rect { v0: bottom, v1: top, ..stretch.rect };
        let piece = cover(
            plan,
            s,
            stretch.id(&format!("second-{}", n + 1)),
            stretch.name(&format!("{layer} (course {})", n + 1)),
            format!("O{}", n + 1),
            product,
            minus(rect, free),
        );
        let cut = CutSize {
            length: rect.width(),
            width: rect.height(),
            stock_width: plan.basis.figures.length(fig::BARRIER_ROLL_WIDTH),
            roll: Some(plan.basis.figures.length(fig::BARRIER_ROLL_LENGTH)),
            widest: None,
            taken: None,
        };
        plan.pieces[piece].cut = Some(cut);
        hangs_over(
            plan,
            piece,
            placed,
            Band::SecondLayer,
            "F34",
            "the outer layer lies over the inner one and every flashing",
        );
        if let Some(lower) = below.replace(piece) {
            plan.overs.push(over(piece, lower));
        }
        acts.push((Act::Place { piece, under: Vec::new() }, format!("hang the {}", plan.pieces[piece].name)));
    }
    let facts = Facts { answers: vec![("paper", yes_or_no(paper))], ..Facts::default() };
    let card = card(plan, &stretch, spec, "second", &facts)?;
    acts.push((Act::Fasten, card.fasten.clone()));
    Ok(step(&stretch, "second", card, acts))
}

/// As cards name it.
fn yes_or_no(so: bool) -> &'static str {
    if so { "yes" } else { "no" }
}

/// Boards outside the finished barrier.
fn insulation(
    plan: &mut Plan,
    spec: &BarrierSpec,
    s: usize,
    free: &[Rect],
    placed: &[(PieceId, Band)],
) -> Result<Step, ExprError> {
    let stretch = plan.walls.stretches[s].clone();
    let mut free = free.to_vec();
    free.extend(plan.fits.iter().filter(|f| f.of == FitOf::Cover).flat_map(|f| &f.away).copied());
    let mut acts = Vec::new();
    let furring = |(p, _): &&(PieceId, Band)| plan.pieces[*p].role == Role::Furring && plan.pieces[*p].stretch == s;
    let furring: Vec<PieceId> = placed.iter().filter(furring).map(|(p, _)| *p).collect();
    for (row, column, rect) in boards_of(plan, &stretch) {
        let piece = cover(
            plan,
            s,
            stretch.id(&format!("insulation-{row}-{column}")),
            stretch.name(&format!("insulation board {row}.{column}")),
            format!("V{column}"),
            named::INSULATION_BOARD,
            minus(rect, &free),
        );
        let parts = plan.pieces[piece].regions.iter().map(|(_, r)| *r);
        // Round a hole a board is notched: it is cut from the box around what is left.
        let Some(around) = parts.reduce(Rect::hull) else {
            plan.pieces.pop();
            continue;
        };
        plan.pieces[piece].cut = (rect != stretch.rect).then_some(CutSize {
            length: around.width(),
            width: around.height(),
            stock_width: rect.height(),
            roll: None,
            widest: None,
            taken: None,
        });
        hangs_over(
            plan,
            piece,
            placed,
            Band::Insulation,
            "F01",
            "the plane is at the sheathing: insulation lies outside what is flashed to it",
        );
        let under = furring.clone();
        let how = if under.is_empty() { "hang" } else { "slide in" };
        acts.push((Act::Place { piece, under }, format!("{how} the {}", plan.pieces[piece].name)));
    }
    let facts = Facts { answers: vec![("furred", yes_or_no(!furring.is_empty()))], ..Facts::default() };
    let card = card(plan, &stretch, spec, "insulation", &facts)?;
    acts.push((Act::Fasten, card.fasten.clone()));
    Ok(step(&stretch, "insulation", card, acts))
}

/// No more boards than this are laid on one stretch, each for itself.
const MOST_BOARDS: i64 = 4000;

/// Boards on a stretch, lying in rows from the foot up, their upright joints off opening corners and off those of the row below: row and
/// number from 1, and where each lies up to the top of the wall.
fn boards_of(plan: &Plan, stretch: &Stretch) -> Vec<(usize, usize, Rect)> {
    let sold = plan.product(named::INSULATION_BOARD);
    let size = sold.and_then(|p| p.sizes.iter().find_map(|s| Some((s.length?, s.width?))));
    let (long, high) =
        size.unwrap_or((plan.basis.figures.length(fig::PANEL_LENGTH), plan.basis.figures.length(fig::PANEL_WIDTH)));
    let wall = stretch.rect;
    // Boards as small as that are counted by area and not drawn.
    if wall.width().units() / long.units().max(1) * (wall.height().units() / high.units().max(1)) > MOST_BOARDS {
        return vec![(1, 1, wall)];
    }
    let holes = plan.openings.iter().filter(|o| o.feature == Feature::Opening && o.rect.overlaps(wall));
    let holes: Vec<Rect> = holes.map(|o| o.rect).collect();
    let mut out = Vec::new();
    let mut below: Vec<Length> = Vec::new();
    let rows = std::iter::successors(Some(wall.v0), |v| Some(*v + high)).take_while(|v| *v < wall.v1);
    for (row, v0) in rows.enumerate() {
        let v1 = (v0 + high).min(wall.v1);
        let here: Vec<Rect> = holes.iter().filter(|o| o.v0 < v1 && o.v1 > v0).copied().collect();
        let joints = row_joints(plan, wall, long, &below, &here, Joints::Anywhere);
        let ends: Vec<Length> = [wall.u0].into_iter().chain(joints.iter().copied()).chain([wall.u1]).collect();
        for (column, w) in ends.windows(2).enumerate() {
            let top = v1.min(stretch.outline.most_over(Interval { lo: w[0], hi: w[1] }));
            out.extend((v0 < top).then_some((row + 1, column + 1, Rect::new(w[0], v0, w[1], top))));
        }
        below = joints;
    }
    out
}

/// Required overs of a cover over everything that is placed before it and that it meets.
fn hangs_over(plan: &mut Plan, cover: PieceId, placed: &[(PieceId, Band)], band: Band, fault: &str, because: &str) {
    let meets = |p: PieceId| {
        let (a, b) = (&plan.pieces[cover].regions, &plan.pieces[p].regions);
        a.iter().any(|(on, r)| b.iter().any(|(other, q)| on == other && r.overlaps(*q)))
    };
    // What it is tucked under lies over it.
    let fitted =
        |p: &PieceId| plan.fits.iter().any(|f| f.of == FitOf::Cover && f.tuck.iter().any(|(under, _)| under == p));
    let tucked = |p: &PieceId| fitted(p) || plan.pieces[*p].role == Role::Furring;
    let met = placed.iter().filter(|(p, when)| *when < band && meets(*p)).map(|(p, _)| *p);
    let (uppers, lowers): (Vec<PieceId>, Vec<PieceId>) = met.partition(tucked);
    plan.overs.extend(uppers.into_iter().map(|upper| Over {
        upper: Part::Piece(upper),
        lower: Part::Piece(cover),
        fault: "F13".into(),
        because: "what runs out on it has to come out over the boards, not behind them".into(),
        opening: None,
    }));
    plan.overs.extend(lowers.into_iter().map(|lower| Over {
        upper: Part::Piece(cover),
        lower: Part::Piece(lower),
        fault: fault.to_owned(),
        because: because.to_owned(),
        opening: None,
    }));
}

fn cover(
    plan: &mut Plan,
    s: usize,
    id: String,
    name: String,
    letter: String,
    product: &str,
    regions: Vec<(SurfaceId, Rect)>,
) -> PieceId {
    let product = product.to_owned();
    let piece = Piece {
        id,
        name,
        role: Role::Cover,
        letter,
        product,
        bond: Bond::None,
        solid: false,
        grips: false,
        regions,
        cut: None,
        opening: None,
        stretch: s,
        laying: None,
    };
    plan.pieces.push_and_get_key(piece)
}

fn over(upper: PieceId, lower: PieceId) -> Over {
    Over {
        upper: Part::Piece(upper),
        lower: Part::Piece(lower),
        fault: "F01".into(),
        because: "the upper course has to lap over the lower one".into(),
        opening: None,
    }
}

/// The courses as pieces, one step each, with the laps they need.
fn course_steps(plan: &mut Plan, spec: &BarrierSpec, s: usize, ways: Ways) -> Result<Vec<Step>, ExprError> {
    let figures = plan.basis.figures.clone();
    let stretch = plan.walls.stretches[s].clone();
    let mut steps = Vec::new();
    let mut below: Vec<PieceId> = Vec::new();
    for (n, course) in stretch.courses.courses.iter().enumerate() {
        let mut here = Vec::new();
        for (k, run) in course.runs.iter().enumerate() {
            let number = n + 1;
            let (id, name) = if course.runs.len() == 1 {
                (format!("course-{number}"), format!("{} (course {number})", spec.name))
            } else {
                (format!("course-{number}-{}", k + 1), format!("{} (course {number}, length {})", spec.name, k + 1))
            };
            let rect = Rect::new(run.left, course.bottom, run.right, course.top);
            let cut = CutSize {
                length: rect.width(),
                width: rect.height(),
                stock_width: figures.length(fig::BARRIER_ROLL_WIDTH),
                roll: Some(figures.length(fig::BARRIER_ROLL_LENGTH)),
                widest: None,
                taken: Some(run.roll),
            };
            let piece = Piece {
                id: stretch.id(&id),
                name: stretch.name(&name),
                role: Role::Barrier,
                letter: format!("C{number}"),
                product: spec.product.clone(),
                bond: spec.bond,
                solid: false,
                grips: false,
                regions: on_walls(plan, rect),
                cut: Some(cut),
                opening: None,
                stretch: s,
                laying: None,
            };
            let index = plan.pieces.push_and_get_key(piece);
            // What is turned round the corner at which the walls began lies over the first length there.
            let first = here.first().filter(|_| run.right > stretch.rect.u1);
            let beside: Vec<PieceId> = here.last().into_iter().chain(first).copied().collect();
            plan.overs.extend(beside.into_iter().map(|lower| over(index, lower)));
            plan.overs.extend(below.iter().map(|b| match ways.downward {
                false => over(index, *b),
                true => Over {
                    because: "hung from the top down each course goes over the one above".into(),
                    ..over(*b, index)
                },
            }));
            here.push(index);
        }
        let mut hung = course_step(plan, spec, &stretch, n, &here)?;
        if ways.downward && n + 1 < stretch.courses.courses.len() {
            smear_top(plan, &mut hung, course.top, &here);
        }
        steps.push(hung);
        below = here;
    }
    if ways.downward {
        steps.reverse();
    }
    if ways.taped {
        steps.extend(lap_tapes(plan, spec, s)?);
    }
    Ok(steps)
}

/// Smears the top edge of a course that is hung over the one above: that is what keeps water out there.
fn smear_top(plan: &mut Plan, step: &mut Step, top: Length, pieces: &[PieceId]) {
    let wide = plan.basis.figures.length(fig::BED_BEAD);
    for &piece in pieces {
        let along = plan.pieces[piece].regions.iter().map(|(_, r)| *r).filter(|r| r.v1 == top);
        let rects = along.map(|r| Rect { v0: top - wide, ..r }).collect();
        let p = &plan.pieces[piece];
        let seal = bead(plan, piece, format!("{}/smear", p.id), "smear along the top edge", "F01", rects);
        let label = format!("smear the top edge of the {}", p.name);
        let id = format!("{}/{}", step.id, step.actions.len() + 1);
        step.actions.push(Action {
            id,
            act: Act::Seal { seal: plan.seals.next_key() },
            label: label.into(),
            checks: Vec::new(),
        });
        plan.seals.push(seal);
    }
}

/// Tape over the lower edge of every course but the first, half on each.
fn lap_tapes(plan: &mut Plan, spec: &BarrierSpec, s: usize) -> Result<Option<Step>, ExprError> {
    let stretch = plan.walls.stretches[s].clone();
    let (width, roll) =
        (plan.basis.figures.length(fig::JOINT_TAPE_WIDTH), plan.basis.figures.length(fig::TAPE_ROLL_LENGTH));
    let half = Length::from_units(width.units() / 2);
    let mut acts = Vec::new();
    for (n, course) in stretch.courses.courses.iter().enumerate().skip(1) {
        let along = stretch.outline.above(course.bottom);
        let regions: Vec<(SurfaceId, Rect)> = along
            .iter()
            .map(|i| (SurfaceId::WALL, Rect::new(i.lo, course.bottom - half, i.hi, course.bottom + half)))
            .collect();
        let length = along.iter().map(|i| i.span()).sum();
        let cut = CutSize { length, width, stock_width: width, roll: Some(roll), widest: None, taken: None };
        let piece = plan.pieces.push_and_get_key(Piece {
            id: stretch.id(&format!("lap-tape-{n}")),
            name: stretch.name(&format!("tape over lap {n}")),
            role: Role::Joint,
            letter: "Y".into(),
            product: named::JOINT_TAPE.into(),
            bond: Bond::Full,
            solid: false,
            grips: false,
            regions,
            cut: Some(cut),
            opening: None,
            stretch: s,
            laying: None,
        });
        plan.overs.push(Over {
            upper: Part::Piece(piece),
            lower: Part::Barrier(s),
            fault: "F27".into(),
            because: "tape closes a lap from outside".into(),
            opening: None,
        });
        acts.push((Act::Place { piece, under: Vec::new() }, format!("tape lap {n}")));
        acts.push((Act::Press { piece }, format!("roll the tape over lap {n}")));
    }
    let card = card(plan, &stretch, spec, "lap-tapes", &Facts::default())?;
    Ok((!acts.is_empty()).then(|| step(&stretch, "lap-tapes", card, acts)))
}

fn course_step(
    plan: &Plan,
    spec: &BarrierSpec,
    stretch: &Stretch,
    n: usize,
    pieces: &[PieceId],
) -> Result<Step, ExprError> {
    let (course, number) = (&stretch.courses.courses[n], n + 1);
    let height = course.top - course.bottom;
    let adhered = spec.bond == Bond::Full;
    let mut acts = Vec::new();
    for &piece in pieces {
        let name = &plan.pieces[piece].name;
        acts.push((Act::Place { piece, under: Vec::new() }, format!("hang the {name}")));
        if adhered {
            acts.push((Act::Press { piece }, format!("roll the {name}")));
        }
    }
    let facts = Facts {
        answers: vec![
            ("course", if n == 0 { "first" } else { "later" }),
            ("highest", yes_or_no(number == stretch.courses.courses.len())),
            ("ripped", yes_or_no(height < plan.basis.figures.length(fig::BARRIER_ROLL_WIDTH))),
        ],
        words: vec![
            ("number", number.to_string()),
            ("bottom", course.bottom.to_string()),
            ("top", course.top.to_string()),
            ("height", height.to_string()),
        ],
    };
    let card = card(plan, stretch, spec, "course", &facts)?;
    if !adhered {
        acts.push((Act::Fasten, card.fasten.clone()));
    }
    Ok(step(stretch, &format!("course-{number}"), card, acts))
}

/// Joints and corners treated, then the field coat round the openings.
fn coat_steps(plan: &mut Plan, spec: &BarrierSpec, s: usize, openings: &[Rect]) -> Result<Vec<Step>, ExprError> {
    let stretch = plan.walls.stretches[s].clone();
    let mil = plan.basis.figures.number(fig::FIELD_MIL);
    let free: Vec<Rect> = openings.iter().copied().chain(plan.walls.outline.air()).collect();
    let regions = minus(stretch.rect, &free);
    let piece = plan.pieces.push_and_get_key(Piece {
        id: stretch.id("coat"),
        name: stretch.name(&spec.name),
        role: Role::Barrier,
        letter: "C".into(),
        product: spec.product.clone(),
        bond: spec.bond,
        solid: false,
        grips: false,
        regions,
        cut: None,
        opening: None,
        stretch: s,
        laying: None,
    });
    let mut acts = vec![(Act::Hold, "hold: nothing is coated over an open joint".to_owned())];
    acts.extend(substrate_joints(plan, spec, s, openings));
    let coats = plan.coats(&spec.product);
    let facts = Facts {
        answers: vec![("coats", if coats == 1 { "one" } else { "more" })],
        words: vec![("times", coats.to_string())],
    };
    let mut joints = step(&stretch, "joints", card(plan, &stretch, spec, "coat-joints", &facts)?, acts);
    joints.actions[0].checks = vec![JOINTS_CHECK.to_owned()];
    let acts = vec![
        (Act::Coat { piece, wet_mil: mil, coats }, "coat the wall".into()),
        (Act::Wait { piece: Some(piece) }, "wait: the coat is cured".into()),
    ];
    Ok(vec![joints, step(&stretch, "coat", card(plan, &stretch, spec, "coat", &facts)?, acts)])
}
