//! What is hung on the whole wall: courses, panels or a coat, and what comes outside it later.

use super::{CutSize, Over, Part, Piece, Plan, Stretch, SurfaceId};
use crate::layup::Bond;
use crate::length::Length;
use crate::plan::course::Course;
use crate::profile::{Figures, fig};
use crate::recipe::schools::{BarrierKind, BarrierSpec, Feature};
use crate::recipe::{FitOf, Role};
use crate::surface::{Interval, Rect};
use crate::trade::{Act, Action, Band, Phase, Step, StepCard};

/// Most panels laid out in one job. Walls 2000 ft long and 60 ft high take 4000 of the common size.
pub const MOST_PANELS: i64 = 10_000;

/// About how many panels a stretch takes, whichever way they lie.
pub fn most_panels(on: &Stretch, figures: &Figures) -> i64 {
    let times = |run: Length, size: Length| run.units() / size.units().max(1) + 1;
    let (width, length) = (figures.length(fig::PANEL_WIDTH), figures.length(fig::PANEL_LENGTH));
    let (wide, high) = (on.rect.width(), on.rect.height());
    (times(wide, width) * times(high, length)).max(times(wide, length) * times(high, width))
}

/// How the barrier is hung where there is a choice.
#[derive(Clone, Copy, Debug)]
pub struct Ways {
    /// Level laps of a sheet taped.
    pub taped: bool,
    /// The long side of panels level.
    pub lying: bool,
    /// Openings in panels cut as they are hung.
    pub cut_now: bool,
}

/// The barrier of one stretch as pieces, with its steps.
pub fn barrier_steps(plan: &mut Plan, spec: &BarrierSpec, s: usize, openings: &[Rect], ways: Ways) -> Vec<Step> {
    let mut steps = match spec.kind {
        BarrierKind::Courses => course_steps(plan, spec, s, ways.taped),
        BarrierKind::Panels => panel_steps(plan, spec, s, openings, ways),
        BarrierKind::Coat => coat_steps(plan, spec, s, openings),
    };
    steps.extend(corner_step(plan, spec, s));
    steps
}

/// What is measured at corners, and looked at before a coat; a test looks for both in the data.
const CORNER_CHECK: &str = "corner-wrap";
const JOINTS_CHECK: &str = "joints-first";

/// What is looked at where the wall turns and the barrier goes on.
fn corner_step(plan: &Plan, spec: &BarrierSpec, s: usize) -> Option<Step> {
    let wrap = plan.figures.length(fig::CORNER_WRAP);
    let stretch = &plan.stretches[s];
    let here = plan.corners.iter().filter(|c| stretch.rect.u0 < c.at && c.at < stretch.rect.u1);
    let names: Vec<&str> = here.map(|c| c.name.as_str()).collect();
    if names.is_empty() {
        return None;
    }
    let what = match spec.kind {
        BarrierKind::Courses => format!("Turn every course at least {wrap} past the corner, creased tight, before the next length is lapped on."),
        BarrierKind::Panels => "Tape each corner half to one side and half to the other, creased tight, bottom to top.".into(),
        BarrierKind::Coat => "Liquid flashing 2 in to each side of the corner, 20 to 40 mil wet, before the field coat. Inside corners that move: bond-breaker tape under sealant, at least 1/4 in beyond it.".into(),
    };
    let card = StepCard {
        what,
        over: String::new(),
        check: format!("At each corner ({}): nothing bridged or bulging, nothing short.", names.join(", ")),
        why: "A corner works with the framing: what ends near it opens first.".into(),
        caution: "Ladder at a corner: foot it on both sides, three points of contact.".into(),
    };
    let acts = vec![(Act::Measure, "measure how far past the corner".to_owned())];
    let mut corners = step(stretch, "corners", Band::WallCorners, "Corners", Phase::Barrier, card, acts);
    corners.actions[0].checks = vec![CORNER_CHECK.to_owned()];
    Some(corners)
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
    placed: &[(usize, Band)],
) -> Vec<Step> {
    let holes = plan.openings.iter().filter(|o| o.feature != Feature::Line);
    let free: Vec<Rect> = holes.map(|o| o.rect).chain(plan.outline.air()).collect();
    let mut steps = Vec::new();
    if let Some(product) = &outside.second {
        steps.push(second_layer(plan, (spec, product), s, &free, placed));
    }
    if outside.boards {
        steps.push(insulation(plan, s, &free, placed));
    }
    steps
}

/// The foot and top of each course of a second layer: those of the barrier, or where that has none as wide as rolls are.
fn second_courses(plan: &Plan, stretch: &Stretch) -> Vec<(Length, Length)> {
    if !stretch.courses.courses.is_empty() {
        return stretch.courses.courses.iter().map(|c| (c.bottom, c.top)).collect();
    }
    let (roll, lap) = (plan.figures.length(fig::BARRIER_ROLL_WIDTH), plan.figures.length(fig::LAP_HORIZONTAL));
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
    placed: &[(usize, Band)],
) -> Step {
    let stretch = plan.stretches[s].clone();
    let mut acts = Vec::new();
    let mut below = None;
    let paper = product == PAPER;
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
            stock_width: plan.figures.length(fig::BARRIER_ROLL_WIDTH),
            roll: Some(plan.figures.length(fig::BARRIER_ROLL_LENGTH)),
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
    let held = if paper { "fasten the outer paper with the lath" } else { "fasten the outer sheet near the studs" };
    acts.push((Act::Fasten, held.into()));
    let card = StepCard {
        what: "Hang the outer layer from the bottom up, cut round the frames, over all flashings. Leave the lower edge of each opening free.".into(),
        over: format!("Over the {} and every flashing.", spec.name),
        check: "Shingled; nothing sealed below the openings; both layers lap the same way.".into(),
        why: if paper {
            "Plaster bonds to the outer layer; the inner one stays free to drain.".into()
        } else {
            "The outer sheet bears the light; the barrier behind it stays in the dark.".into()
        },
        caution: spec.caution.clone(),
    };
    let title = if paper { "Outer layer of paper" } else { "Outer layer of dark sheet" };
    step(&stretch, "second", Band::SecondLayer, title, Phase::Cover, card, acts)
}

/// Boards outside the finished barrier.
fn insulation(plan: &mut Plan, s: usize, free: &[Rect], placed: &[(usize, Band)]) -> Step {
    let stretch = plan.stretches[s].clone();
    let mut free = free.to_vec();
    free.extend(plan.fits.iter().filter(|f| f.of == FitOf::Cover).flat_map(|f| &f.away).copied());
    let mut acts = Vec::new();
    for (row, column, rect) in boards_of(plan, &stretch) {
        let piece = cover(
            plan,
            s,
            stretch.id(&format!("insulation-{row}-{column}")),
            stretch.name(&format!("insulation board {row}.{column}")),
            format!("V{column}"),
            INSULATION,
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
        acts.push((Act::Place { piece, under: Vec::new() }, format!("hang the {}", plan.pieces[piece].name)));
    }
    acts.push((Act::Fasten, "two temporary fasteners each with washers of at least 2 in".to_owned()));
    let card = StepCard {
        what: "Boards from the bottom up, joints tight and staggered, free round the openings and over the heads."
            .into(),
        over: "Over the finished barrier and flashings.".into(),
        check: "Barrier photographed before it is hidden; studs marked on it.".into(),
        why: "The plane stays at the sheathing; the boards only shed and warm.".into(),
        caution: "Boards are sails: two temporary fasteners each at once. Saw dust: mask.".into(),
    };
    step(&stretch, "insulation", Band::Insulation, "Insulation boards", Phase::Cover, card, acts)
}

/// The paper that plaster holds on.
const PAPER: &str = "Plaster paper, 10-minute, 5 perm";
/// What insulation outside is of.
const INSULATION: &str = "Insulation board";
/// No more boards than this are laid on one stretch, each for itself.
const MOST_BOARDS: i64 = 4000;

/// Boards on a stretch, lying in rows from the foot up, their upright joints off opening corners and off those of the row below: row and
/// number from 1, and where each lies up to the top of the wall.
fn boards_of(plan: &Plan, stretch: &Stretch) -> Vec<(usize, usize, Rect)> {
    let sold = plan.products.iter().find(|p| p.name == INSULATION);
    let size = sold.and_then(|p| p.sizes.iter().find_map(|s| Some((s.length?, s.width?))));
    let (long, high) = size.unwrap_or((plan.figures.length(fig::PANEL_LENGTH), plan.figures.length(fig::PANEL_WIDTH)));
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
        let joints = row_joints(plan, wall, long, &below, &here);
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
fn hangs_over(plan: &mut Plan, cover: usize, placed: &[(usize, Band)], band: Band, fault: &str, because: &str) {
    let meets = |p: usize| {
        let (a, b) = (&plan.pieces[cover].regions, &plan.pieces[p].regions);
        a.iter().any(|(on, r)| b.iter().any(|(other, q)| on == other && r.overlaps(*q)))
    };
    let lowers: Vec<usize> = placed.iter().filter(|(p, when)| *when < band && meets(*p)).map(|(p, _)| *p).collect();
    plan.overs.extend(lowers.into_iter().map(|lower| Over {
        upper: Part::Piece(cover),
        lower: Part::Piece(lower),
        fault: fault.to_owned(),
        because: because.to_owned(),
        opening: None,
    }));
}

/// The parts of a rectangle as they lie on the walls.
fn on_walls(plan: &Plan, rect: Rect) -> Vec<(SurfaceId, Rect)> {
    plan.on_walls(rect).map(|r| (SurfaceId::WALL, r)).collect()
}

fn minus(rect: Rect, free: &[Rect]) -> Vec<(SurfaceId, Rect)> {
    rect.minus_all(free).into_iter().map(|r| (SurfaceId::WALL, r)).collect()
}

fn cover(
    plan: &mut Plan,
    s: usize,
    id: String,
    name: String,
    letter: String,
    product: &str,
    regions: Vec<(SurfaceId, Rect)>,
) -> usize {
    let product = product.to_owned();
    let piece = Piece {
        id,
        name,
        role: Role::Cover,
        letter,
        product,
        bond: Bond::None,
        solid: false,
        regions,
        cut: None,
        opening: None,
        stretch: s,
        laying: None,
    };
    plan.pieces.push(piece);
    plan.pieces.len() - 1
}

fn over(upper: usize, lower: usize) -> Over {
    Over {
        upper: Part::Piece(upper),
        lower: Part::Piece(lower),
        fault: "F01".into(),
        because: "the upper course has to lap over the lower one".into(),
        opening: None,
    }
}

fn step(
    on: &Stretch,
    id: &str,
    band: Band,
    title: &str,
    phase: Phase,
    card: StepCard,
    acts: Vec<(Act, String)>,
) -> Step {
    let (id, title) = (on.id(id), on.name(title));
    let action = |(n, (act, label))| Action { id: format!("{id}/{}", n + 1), act, label, checks: Vec::new() };
    let actions = acts.into_iter().enumerate().map(action).collect();
    Step { id, title, phase, band, opening: None, card, actions }
}

/// The courses as pieces, one step each, with the laps they need.
fn course_steps(plan: &mut Plan, spec: &BarrierSpec, s: usize, taped: bool) -> Vec<Step> {
    let figures = plan.figures.clone();
    let stretch = plan.stretches[s].clone();
    let mut steps = Vec::new();
    let mut below: Vec<usize> = Vec::new();
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
                regions: on_walls(plan, rect),
                cut: Some(cut),
                opening: None,
                stretch: s,
                laying: None,
            };
            let index = plan.pieces.len();
            plan.pieces.push(piece);
            // What is turned round the corner at which the walls began lies over the first length there.
            let first = here.first().filter(|_| run.right > stretch.rect.u1);
            let lowers: Vec<usize> = below.iter().chain(here.last()).chain(first).copied().collect();
            plan.overs.extend(lowers.into_iter().map(|lower| over(index, lower)));
            here.push(index);
        }
        steps.push(course_step(plan, spec, &stretch, course, n, &here));
        below = here;
    }
    steps.extend(taped.then(|| lap_tapes(plan, spec, s)).flatten());
    steps
}

/// Tape over the lower edge of every course but the first, half on each.
fn lap_tapes(plan: &mut Plan, spec: &BarrierSpec, s: usize) -> Option<Step> {
    let stretch = plan.stretches[s].clone();
    let (width, roll) = (plan.figures.length(fig::JOINT_TAPE_WIDTH), plan.figures.length(fig::TAPE_ROLL_LENGTH));
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
        let piece = plan.pieces.len();
        plan.pieces.push(Piece {
            id: stretch.id(&format!("lap-tape-{n}")),
            name: stretch.name(&format!("tape over lap {n}")),
            role: Role::Joint,
            letter: "Y".into(),
            product: "Joint tape".into(),
            bond: Bond::Full,
            solid: false,
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
    let card = StepCard {
        what: format!("Tape every level lap, {width} wide, half on each course, from the bottom up."),
        over: "Over both courses.".into(),
        check: "Rolled over its whole length; a fastener near the edge where a loose sheet curls.".into(),
        why: "The sheet stops the air only where its laps are shut.".into(),
        caution: spec.caution.clone(),
    };
    (!acts.is_empty())
        .then(|| step(&stretch, "lap-tapes", Band::LevelLaps, "Tape over level laps", Phase::Barrier, card, acts))
}

fn course_step(
    plan: &Plan,
    spec: &BarrierSpec,
    stretch: &Stretch,
    course: &Course,
    n: usize,
    pieces: &[usize],
) -> Step {
    let (number, figures) = (n + 1, &plan.figures);
    let lap = figures.length(fig::LAP_HORIZONTAL);
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
    if !adhered {
        acts.push((Act::Fasten, "fasten: one per 3 square feet, at most 16 in apart at edges and laps".into()));
    }
    let ripped =
        if height < figures.length(fig::BARRIER_ROLL_WIDTH) { format!(" Rip it to {height}.") } else { String::new() };
    let hold = if adhered {
        "Peel the liner from the top down, press from the middle out."
    } else {
        "Keep it level and flat, fasten near the studs."
    };
    let card = StepCard {
        what: format!(
            "Hang the sheet with its lower edge at {} from the foot, its upper edge at {}.{ripped} {hold}",
            course.bottom, course.top
        ),
        over: if n == 0 { String::new() } else { format!("Over the course below by {lap}.") },
        check: format!("Level; lap {lap}; no wrinkles at edges. {}", spec.check).trim().to_owned(),
        why: if n == 0 {
            "From the bottom up: each course sheds over the one below. The first laps over the base flashing.".into()
        } else {
            "Water running down meets only edges it falls off.".into()
        },
        caution: spec.caution.clone(),
    };
    step(stretch, &format!("course-{number}"), Band::Barrier, &format!("Course {number}"), Phase::Barrier, card, acts)
}

/// Where the upright joints of panels `long` stand: the first start with the fewest joints near opening corners or in line with those of the
/// row below, then the fewest narrow strips at the ends, then the fewest panels. `below` and `corners` stand from left to right.
fn panel_joints(width: Length, long: Length, below: &[Length], figures: &Figures, corners: &[Length]) -> Vec<Length> {
    let (clear, stagger) = (figures.length(fig::PANEL_CORNER_CLEAR), figures.length(fig::PANEL_STAGGER));
    let least = figures.length(fig::COURSE_LEAST_STRIP);
    let joints = |first: Length| {
        std::iter::successors(Some(first), |x| Some(*x + long)).take_while(|x| *x < width).collect::<Vec<_>>()
    };
    // How many of a list lie less than a distance from a place.
    let within = |list: &[Length], at: Length, by: Length| {
        list.partition_point(|x| *x < at + by).saturating_sub(list.partition_point(|x| *x <= at - by))
    };
    let near = |x: &Length| within(corners, *x, clear) + within(below, *x, stagger);
    let narrow = |list: &[Length]| {
        let ends = [list.first().copied(), list.last().map(|x| width - *x)];
        ends.into_iter().flatten().filter(|strip| *strip < least).count()
    };
    let starts = (long.units() / Length::inch(1).units()).max(1);
    (0..starts)
        .map(|k| joints(long - Length::inch(k)))
        .min_by_key(|list| (list.iter().map(near).sum::<usize>(), narrow(list), list.len()))
        .unwrap_or_default()
}

/// The upright joints of one row on every wall. Each wall between two corners starts anew; at a corner panels meet, and the joint is taped
/// half to each side.
fn row_joints(plan: &Plan, wall: Rect, long: Length, below: &[Length], openings: &[Rect]) -> Vec<Length> {
    let corners = plan.corners.iter().map(|c| c.at).filter(|at| wall.u0 < *at && *at < wall.u1);
    let ends: Vec<Length> = [wall.u0].into_iter().chain(corners).chain([wall.u1]).collect();
    let mut out = Vec::new();
    for w in ends.windows(2) {
        let mut here: Vec<Length> =
            openings.iter().filter(|o| o.u0 >= w[0] && o.u1 <= w[1]).flat_map(|o| [o.u0 - w[0], o.u1 - w[0]]).collect();
        here.sort_unstable();
        let below: Vec<Length> = below.iter().filter(|b| w[0] < **b && **b < w[1]).map(|b| *b - w[0]).collect();
        out.extend(panel_joints(w[1] - w[0], long, &below, &plan.figures, &here).into_iter().map(|x| x + w[0]));
        out.extend((w[1] < wall.u1).then_some(w[1]));
    }
    out
}

/// A joint between panels.
struct PanelJoint {
    id: String,
    rect: Rect,
}

/// Panels or boards, their joints treated.
fn panel_steps(plan: &mut Plan, spec: &BarrierSpec, s: usize, openings: &[Rect], ways: Ways) -> Vec<Step> {
    let figures = plan.figures.clone();
    let stretch = plan.stretches[s].clone();
    let wall = stretch.rect;
    let gap = figures.length(fig::PANEL_GAP);
    let (width, length) = (figures.length(fig::PANEL_WIDTH), figures.length(fig::PANEL_LENGTH));
    let (long, high) = if ways.lying { (length, width) } else { (width, length) };
    let half = Length::from_units(gap.units() / 2);
    let rows: Vec<Length> =
        std::iter::successors(Some(high), |v| Some(*v + high)).take_while(|v| *v < wall.v1).collect();
    let between = |from: Length, joints: &[Length], end: Length| -> Vec<(Length, Length)> {
        let mut from = from;
        let mut out: Vec<_> = joints.iter().map(|j| (std::mem::replace(&mut from, *j + half), *j - half)).collect();
        out.push((from, end));
        out
    };
    let side = Length::from_units(figures.length(fig::JOINT_TAPE_WIDTH).units() / 2);
    let free: &[Rect] = if ways.cut_now { openings } else { &[] };
    let (mut acts, mut columns, mut uprights) = (Vec::new(), Vec::new(), Vec::new());
    for (r, (v0, v1)) in between(wall.v0, &rows, wall.v1).into_iter().enumerate() {
        // Upright, joints run through from row to row; lying, each row keeps off those of the row below.
        if r == 0 || ways.lying {
            let here: Vec<Rect> =
                openings.iter().filter(|o| !ways.lying || (o.v0 < v1 && o.v1 > v0)).copied().collect();
            columns = row_joints(plan, wall, long, if ways.lying { &columns } else { &[] }, &here);
            let (low, top) = if ways.lying { (v0, v1) } else { (wall.v0, wall.v1) };
            // Where the walls come back to their start the last panels meet the first.
            let close = (plan.round && plan.stretches.len() == 1).then_some(wall.u1);
            for u in columns.iter().chain(&close) {
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
            if v1 <= v0 {
                continue;
            }
            let rect = Rect::new(u0, v0, u1, v1);
            let (along, across) =
                if ways.lying { (rect.width(), rect.height()) } else { (rect.height(), rect.width()) };
            let cut =
                CutSize { length: along, width: across, stock_width: width, roll: None, widest: None, taken: None };
            plan.pieces.push(Piece {
                id: stretch.id(&format!("panel-{}-{}", r + 1, c + 1)),
                name: stretch.name(&format!("{} {}.{}", spec.name, r + 1, c + 1)),
                role: Role::Barrier,
                letter: format!("Q{}", c + 1),
                product: spec.product.clone(),
                bond: spec.bond,
                solid: false,
                regions: minus(rect, free),
                cut: Some(cut),
                opening: None,
                stretch: s,
                laying: None,
            });
            let piece = plan.pieces.len() - 1;
            acts.push((Act::Place { piece, under: Vec::new() }, format!("hang {}", plan.pieces[piece].name)));
        }
    }
    acts.push((Act::Fasten, "fasten: 6 in apart at edges, 12 in the field, 3/8 in from edges".into()));
    let how = if ways.lying {
        "lying, long edges on blocking, the joints of each row off those of the row below"
    } else {
        "upright, edges on framing"
    };
    let openings_are = if ways.cut_now {
        "Cut the openings as you hang them, and cover them each evening."
    } else {
        "Hang them over the openings and leave those uncut until the units come."
    };
    let card = StepCard {
        what: format!("Panels {how}, {gap} apart. {openings_are}"),
        over: "Lower edge over the base flashing.".into(),
        check: format!(
            "Gaps even; fasteners snug, not through the face; no joint within {} of an opening's corner.",
            figures.length(fig::PANEL_CORNER_CLEAR)
        ),
        why: "The face is the barrier; what is left to do is its joints.".into(),
        caution: spec.caution.clone(),
    };
    let mut steps = vec![step(&stretch, "panels", Band::Barrier, "Panels", Phase::Barrier, card, acts)];
    let (width, tape) = (figures.length(fig::JOINT_TAPE_WIDTH), figures.length(fig::TAPE_ROLL_LENGTH));
    let mut joints: Vec<PanelJoint> = Vec::new();
    for (i, v) in rows.iter().enumerate() {
        let parts = stretch.outline.above(*v - half);
        let one = parts.len() == 1;
        joints.extend(parts.into_iter().enumerate().map(|(k, s)| PanelJoint {
            id: if one { format!("joint-level-{}", i + 1) } else { format!("joint-level-{}-{}", i + 1, k + 1) },
            rect: Rect::new(s.lo, *v - side, s.hi, (*v + side).min(wall.v1)),
        }));
    }
    joints.append(&mut uprights);
    if ways.lying {
        // From the bottom up, so that each strip laps over the ends of those below it.
        joints.sort_by_key(|j| (j.rect.v0, j.rect.height()));
    }
    let mut acts = Vec::new();
    let liquid = spec.joint_bond == Bond::Cured;
    for PanelJoint { id, rect } in joints {
        let run = rect.width().max(rect.height());
        let (stock_width, roll) = (width, Some(tape));
        let cut = (!liquid).then_some(CutSize { length: run, width, stock_width, roll, widest: None, taken: None });
        plan.pieces.push(Piece {
            name: stretch.name(&format!("{} ({})", spec.joint.to_lowercase(), id.replace('-', " "))),
            id: stretch.id(&id),
            role: Role::Joint,
            letter: "Y".into(),
            product: spec.joint.clone(),
            bond: spec.joint_bond,
            solid: false,
            regions: on_walls(plan, rect),
            cut,
            opening: None,
            stretch: s,
            laying: None,
        });
        let piece = plan.pieces.len() - 1;
        plan.overs.push(Over {
            upper: Part::Piece(piece),
            lower: Part::Barrier(s),
            fault: "F32".into(),
            because: "a joint is treated on the faces of both panels".into(),
            opening: None,
        });
        let name = plan.pieces[piece].name.clone();
        if liquid {
            acts.push((
                Act::Coat { piece, wet_mil: figures.number(fig::JOINT_MIL), coats: 1 },
                format!("coat the {name}"),
            ));
            acts.push((Act::Wait { piece: Some(piece) }, format!("wait: the {name} is cured")));
        } else {
            acts.push((Act::Place { piece, under: Vec::new() }, format!("tape the {name}")));
            acts.push((Act::Press { piece }, format!("roll the {name}")));
        }
    }
    let card = StepCard {
        what: format!(
            "{} {width} wide, centred on every joint, level joints first, then the upright ones over them. One piece from end to end where it can be.",
            spec.joint
        ),
        over: "Centred: half on each panel.".into(),
        check: "Rolled or at its thickness over the whole length; dots over overdriven fasteners.".into(),
        why: "The joints are all that is not barrier yet.".into(),
        caution: "Ladder: three points of contact; roller on a lanyard.".into(),
    };
    steps.push(step(&stretch, "joints", Band::Barrier, "Joints", Phase::Barrier, card, acts));
    steps
}

/// Joints treated, then the field coat round the openings.
fn coat_steps(plan: &mut Plan, spec: &BarrierSpec, s: usize, openings: &[Rect]) -> Vec<Step> {
    let stretch = plan.stretches[s].clone();
    let wall = stretch.rect;
    let mil = plan.figures.number(fig::FIELD_MIL);
    let free: Vec<Rect> = openings.iter().copied().chain(plan.outline.air()).collect();
    let regions = minus(wall, &free);
    plan.pieces.push(Piece {
        id: stretch.id("coat"),
        name: stretch.name(&spec.name),
        role: Role::Barrier,
        letter: "C".into(),
        product: spec.product.clone(),
        bond: spec.bond,
        solid: false,
        regions,
        cut: None,
        opening: None,
        stretch: s,
        laying: None,
    });
    let piece = plan.pieces.len() - 1;
    let joints = StepCard {
        what: "Fill gaps over 1/4 in with backer first. Liquid over joints, fastener heads and corners, 2 in to each side, 20 to 40 mil wet.".into(),
        over: String::new(),
        check: "No gap, head or raw edge left; tooled flat.".into(),
        why: "A coat does not bridge: what is open under it opens again.".into(),
        caution: spec.caution.clone(),
    };
    let coat = StepCard {
        what: format!("Field coat, {mil} mil wet, on the whole wall, tied into the opening bands."),
        over: "Over the treated joints; ties into the bands.".into(),
        check: "Comb gauge every few square metres; readings written down; no voids.".into(),
        why: "Order of coats does not matter; thickness and voids do.".into(),
        caution: spec.caution.clone(),
    };
    let looked_at = vec![(Act::Hold, "hold: nothing is coated over an open joint".into())];
    let mut joints =
        step(&stretch, "joints", Band::Barrier, "Gaps, joints, heads, corners", Phase::Barrier, joints, looked_at);
    joints.actions[0].checks = vec![JOINTS_CHECK.to_owned()];
    vec![
        joints,
        step(
            &stretch,
            "coat",
            Band::FieldCoat,
            "Field coat",
            Phase::Barrier,
            coat,
            vec![
                (Act::Coat { piece, wet_mil: mil, coats: 1 }, "coat the wall".into()),
                (Act::Wait { piece: Some(piece) }, "wait: the coat is cured".into()),
            ],
        ),
    ]
}
