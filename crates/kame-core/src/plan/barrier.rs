//! What is hung on the whole wall: courses, panels or a coat, and what comes outside it later.

use super::{CutSize, Over, Part, Piece, Plan, SurfaceId};
use crate::detail::course::Course;
use crate::detail::recipe::{FitOf, Role};
use crate::detail::schools::{BarrierKind, BarrierSpec, Feature};
use crate::layup::Bond;
use crate::length::Length;
use crate::profile::Figures;
use crate::sequence::{Act, Action, Phase, Step, StepCard};
use crate::surface::Rect;

/// Places of the wall's own steps in the order of work.
mod at {
    pub const BARRIER: u32 = 200;
    pub const CORNERS: u32 = 210;
    pub const COAT: u32 = 314;
    pub const SECOND: u32 = 680;
    pub const INSULATION: u32 = 800;
}

/// The barrier as pieces, with its steps.
pub fn barrier_steps(plan: &mut Plan, spec: &BarrierSpec, openings: &[Rect]) -> Vec<Step> {
    let mut steps = hung_steps(plan, spec, openings);
    if !plan.corners.is_empty() {
        steps.push(corner_step(plan, spec));
    }
    steps
}

/// What is looked at where the wall turns.
fn corner_step(plan: &Plan, spec: &BarrierSpec) -> Step {
    let wrap = plan.figures.length("corner_wrap");
    let names: Vec<&str> = plan.corners.iter().map(|c| c.name.as_str()).collect();
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
    step("corners", at::CORNERS, "Corners", Phase::Barrier, card, acts)
}

fn hung_steps(plan: &mut Plan, spec: &BarrierSpec, openings: &[Rect]) -> Vec<Step> {
    match spec.kind {
        BarrierKind::Courses => course_steps(plan, spec),
        BarrierKind::Panels => panel_steps(plan, spec, openings),
        BarrierKind::Coat => coat_steps(plan, spec, openings),
    }
}

/// What is hung outside the barrier once the openings are flashed: a second layer, insulation. `placed` is what is there by then, with its
/// place in the order of work.
pub fn cover_steps(plan: &mut Plan, spec: &BarrierSpec, boards: bool, placed: &[(usize, u32)]) -> Vec<Step> {
    let mut steps = Vec::new();
    let holes = plan.openings.iter().filter(|o| o.feature != Feature::Line);
    let free: Vec<Rect> = holes.map(|o| o.rect).collect();
    if !spec.second.is_empty() {
        let courses = plan.courses.courses.clone();
        let mut acts = Vec::new();
        let mut below = None;
        for (n, c) in courses.iter().enumerate() {
            let rect = Rect::new(Length::ZERO, c.bottom, plan.surfaces[0].facet.width, c.top);
            let piece = cover(
                plan,
                format!("second-{}", n + 1),
                format!("outer paper (course {})", n + 1),
                format!("O{}", n + 1),
                &spec.second,
                minus(rect, &free),
            );
            let cut = CutSize {
                length: rect.width(),
                width: rect.height(),
                stock_width: plan.figures.length("barrier_roll_width"),
                roll: Some(plan.figures.length("barrier_roll_length")),
                widest: None,
            };
            plan.pieces[piece].cut = Some(cut);
            hangs_over(
                plan,
                piece,
                placed,
                at::SECOND,
                "F34",
                "the outer layer lies over the inner one and every flashing",
            );
            if let Some(lower) = below.replace(piece) {
                plan.overs.push(over(piece, lower));
            }
            acts.push((Act::Place { piece, under: Vec::new() }, format!("hang the {}", plan.pieces[piece].name)));
        }
        acts.push((Act::Fasten, "fasten the outer paper with the lath".into()));
        let card = StepCard {
            what: "Hang the outer layer from the bottom up, cut round the frames, over all flashings. Leave the lower edge of each opening free.".into(),
            over: "Over the inner paper and every flashing.".into(),
            check: "Shingled; nothing sealed below the openings; both layers lap the same way.".into(),
            why: "Plaster bonds to the outer layer; the inner one stays free to drain.".into(),
            caution: spec.caution.clone(),
        };
        steps.push(step("second", at::SECOND, "Outer layer of paper", Phase::Cover, card, acts));
    }
    if boards {
        let mut free = free;
        free.extend(plan.fits.iter().filter(|f| f.of == FitOf::Cover).flat_map(|f| &f.away).copied());
        let wall = plan.surfaces[0].facet.rect();
        let piece = cover(
            plan,
            "insulation".into(),
            "insulation boards".into(),
            "V".into(),
            "Insulation board",
            minus(wall, &free),
        );
        hangs_over(
            plan,
            piece,
            placed,
            at::INSULATION,
            "F01",
            "the plane is at the sheathing: insulation lies outside what is flashed to it",
        );
        let acts = vec![
            (Act::Place { piece, under: Vec::new() }, "hang the insulation boards".to_owned()),
            (Act::Fasten, "two temporary fasteners each with washers of at least 2 in".to_owned()),
        ];
        let card = StepCard {
            what: "Boards from the bottom up, joints tight and staggered, free round the openings and over the heads."
                .into(),
            over: "Over the finished barrier and flashings.".into(),
            check: "Barrier photographed before it is hidden; studs marked on it.".into(),
            why: "The plane stays at the sheathing; the boards only shed and warm.".into(),
            caution: "Boards are sails: two temporary fasteners each at once. Saw dust: mask.".into(),
        };
        steps.push(step("insulation", at::INSULATION, "Insulation boards", Phase::Cover, card, acts));
    }
    steps
}

/// Required overs of a cover over everything that is placed before it and that it meets.
fn hangs_over(plan: &mut Plan, cover: usize, placed: &[(usize, u32)], at: u32, fault: &str, because: &str) {
    let meets = |p: usize| {
        let (a, b) = (&plan.pieces[cover].regions, &plan.pieces[p].regions);
        a.iter().any(|(on, r)| b.iter().any(|(other, q)| on == other && r.overlaps(*q)))
    };
    let lowers: Vec<usize> = placed.iter().filter(|(p, when)| *when < at && meets(*p)).map(|(p, _)| *p).collect();
    plan.overs.extend(lowers.into_iter().map(|lower| Over {
        upper: Part::Piece(cover),
        lower: Part::Piece(lower),
        fault: fault.to_owned(),
        because: because.to_owned(),
        opening: None,
    }));
}

fn minus(rect: Rect, free: &[Rect]) -> Vec<(SurfaceId, Rect)> {
    let parts = free.iter().fold(vec![rect], |parts, f| parts.into_iter().flat_map(|p| p.minus(*f)).collect());
    parts.into_iter().map(|r| (SurfaceId::WALL, r)).collect()
}

fn cover(
    plan: &mut Plan,
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

fn step(id: &str, at: u32, title: &str, phase: Phase, card: StepCard, acts: Vec<(Act, String)>) -> Step {
    let actions =
        acts.into_iter().enumerate().map(|(n, (act, label))| Action { id: format!("{id}/{}", n + 1), act, label });
    Step { id: id.to_owned(), title: title.to_owned(), phase, at, opening: None, card, actions: actions.collect() }
}

/// The courses as pieces, one step each, with the laps they need.
fn course_steps(plan: &mut Plan, spec: &BarrierSpec) -> Vec<Step> {
    let figures = plan.figures.clone();
    let courses = plan.courses.courses.clone();
    let mut steps = Vec::new();
    let mut below: Vec<usize> = Vec::new();
    for (n, course) in courses.iter().enumerate() {
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
                stock_width: figures.length("barrier_roll_width"),
                roll: Some(figures.length("barrier_roll_length")),
                widest: None,
            };
            let piece = Piece {
                id,
                name,
                role: Role::Barrier,
                letter: format!("C{number}"),
                product: spec.product.clone(),
                bond: spec.bond,
                solid: false,
                regions: vec![(SurfaceId::WALL, rect)],
                cut: Some(cut),
                opening: None,
            };
            let index = plan.pieces.len();
            plan.pieces.push(piece);
            let lowers: Vec<usize> = below.iter().chain(here.last()).copied().collect();
            plan.overs.extend(lowers.into_iter().map(|lower| over(index, lower)));
            here.push(index);
        }
        steps.push(course_step(plan, spec, &figures, course, n, &here));
        below = here;
    }
    steps
}

fn course_step(
    plan: &Plan,
    spec: &BarrierSpec,
    figures: &Figures,
    course: &Course,
    n: usize,
    pieces: &[usize],
) -> Step {
    let number = n + 1;
    let lap = figures.length("lap_horizontal");
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
        if height < figures.length("barrier_roll_width") { format!(" Rip it to {height}.") } else { String::new() };
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
    step(&format!("course-{number}"), at::BARRIER, &format!("Course {number}"), Phase::Barrier, card, acts)
}

/// Where the upright joints of panels stand: the first start with the fewest joints near opening corners, then the fewest narrow strips at
/// the ends, then the fewest panels.
fn panel_joints(width: Length, figures: &Figures, openings: &[Rect]) -> Vec<Length> {
    let (panel, clear) = (figures.length("panel_width"), figures.length("panel_corner_clear"));
    let least = figures.length("course_least_strip");
    let joints = |first: Length| {
        std::iter::successors(Some(first), |x| Some(*x + panel)).take_while(|x| *x < width).collect::<Vec<_>>()
    };
    let near = |x: &Length| {
        openings.iter().flat_map(|o| [o.u0, o.u1]).filter(|c| (*x - *c).units().abs() < clear.units()).count()
    };
    let narrow = |list: &[Length]| {
        let ends = [list.first().copied(), list.last().map(|x| width - *x)];
        ends.into_iter().flatten().filter(|strip| *strip < least).count()
    };
    let starts = (panel.units() / Length::inch(1).units()).max(1);
    (0..starts)
        .map(|k| joints(panel - Length::inch(k)))
        .min_by_key(|list| (list.iter().map(near).sum::<usize>(), narrow(list), list.len()))
        .unwrap_or_default()
}

/// Panels or boards upright, their joints treated.
fn panel_steps(plan: &mut Plan, spec: &BarrierSpec, openings: &[Rect]) -> Vec<Step> {
    let figures = plan.figures.clone();
    let wall = plan.surfaces[0].facet.rect();
    let (gap, length) = (figures.length("panel_gap"), figures.length("panel_length"));
    // Each wall between two corners starts anew; at a corner panels meet, and the joint is taped half to each side.
    let ends: Vec<Length> = [wall.u0].into_iter().chain(plan.corners.iter().map(|c| c.at)).chain([wall.u1]).collect();
    let mut columns = Vec::new();
    for w in ends.windows(2) {
        let here: Vec<Rect> = openings
            .iter()
            .filter(|o| o.u0 >= w[0] && o.u1 <= w[1])
            .map(|o| Rect { u0: o.u0 - w[0], u1: o.u1 - w[0], ..*o })
            .collect();
        columns.extend(panel_joints(w[1] - w[0], &figures, &here).into_iter().map(|x| x + w[0]));
        columns.extend((w[1] < wall.u1).then_some(w[1]));
    }
    let rows: Vec<Length> =
        std::iter::successors(Some(length), |v| Some(*v + length)).take_while(|v| *v < wall.v1).collect();
    let half = Length::from_units(gap.units() / 2);
    let ends = |joints: &[Length], end: Length| -> Vec<(Length, Length)> {
        let mut from = Length::ZERO;
        let mut out: Vec<_> = joints.iter().map(|j| (std::mem::replace(&mut from, *j + half), *j - half)).collect();
        out.push((from, end));
        out
    };
    let mut acts = Vec::new();
    for (r, (v0, v1)) in ends(&rows, wall.v1).into_iter().enumerate() {
        for (c, (u0, u1)) in ends(&columns, wall.u1).into_iter().enumerate() {
            let rect = Rect::new(u0, v0, u1, v1);
            let cut = CutSize {
                length: rect.height(),
                width: rect.width(),
                stock_width: figures.length("panel_width"),
                roll: None,
                widest: None,
            };
            plan.pieces.push(Piece {
                id: format!("panel-{}-{}", r + 1, c + 1),
                name: format!("{} {}.{}", spec.name, r + 1, c + 1),
                role: Role::Barrier,
                letter: format!("Q{}", c + 1),
                product: spec.product.clone(),
                bond: spec.bond,
                solid: false,
                regions: vec![(SurfaceId::WALL, rect)],
                cut: Some(cut),
                opening: None,
            });
            let piece = plan.pieces.len() - 1;
            acts.push((Act::Place { piece, under: Vec::new() }, format!("hang {}", plan.pieces[piece].name)));
        }
    }
    acts.push((Act::Fasten, "fasten: 6 in apart at edges, 12 in the field, 3/8 in from edges".into()));
    let card = StepCard {
        what: format!(
            "Panels upright, {gap} apart, edges on framing. Hang them over the openings and leave those uncut until the units come."
        ),
        over: "Lower edge over the base flashing.".into(),
        check: format!(
            "Gaps even; fasteners snug, not through the face; no joint within {} of an opening's corner.",
            figures.length("panel_corner_clear")
        ),
        why: "The face is the barrier; what is left to do is its joints.".into(),
        caution: spec.caution.clone(),
    };
    let mut steps = vec![step("panels", at::BARRIER, "Panels", Phase::Barrier, card, acts)];
    let (width, tape) = (figures.length("joint_tape_width"), figures.length("tape_roll_length"));
    let side = Length::from_units(width.units() / 2);
    let level = rows
        .iter()
        .enumerate()
        .map(|(i, v)| (format!("joint-level-{}", i + 1), Rect::new(wall.u0, *v - side, wall.u1, *v + side)));
    let upright = columns
        .iter()
        .enumerate()
        .map(|(i, u)| (format!("joint-{}", i + 1), Rect::new(*u - side, wall.v0, *u + side, wall.v1)));
    let mut acts = Vec::new();
    let liquid = spec.joint_bond == Bond::Cured;
    for (id, rect) in level.chain(upright).collect::<Vec<_>>() {
        let run = rect.width().max(rect.height());
        let cut =
            (!liquid).then_some(CutSize { length: run, width, stock_width: width, roll: Some(tape), widest: None });
        plan.pieces.push(Piece {
            name: format!("{} ({})", spec.joint.to_lowercase(), id.replace('-', " ")),
            id,
            role: Role::Joint,
            letter: "Y".into(),
            product: spec.joint.clone(),
            bond: spec.joint_bond,
            solid: false,
            regions: vec![(SurfaceId::WALL, rect)],
            cut,
            opening: None,
        });
        let piece = plan.pieces.len() - 1;
        plan.overs.push(Over {
            upper: Part::Piece(piece),
            lower: Part::Barrier,
            fault: "F32".into(),
            because: "a joint is treated on the faces of both panels".into(),
            opening: None,
        });
        let name = plan.pieces[piece].name.clone();
        if liquid {
            acts.push((
                Act::Coat { piece, wet_mil: figures.number("joint_mil"), coats: 1 },
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
    steps.push(step("joints", at::BARRIER, "Joints", Phase::Barrier, card, acts));
    steps
}

/// Joints treated, then the field coat round the openings.
fn coat_steps(plan: &mut Plan, spec: &BarrierSpec, openings: &[Rect]) -> Vec<Step> {
    let wall = plan.surfaces[0].facet.rect();
    let mil = plan.figures.number("field_mil");
    let regions = minus(wall, openings);
    plan.pieces.push(Piece {
        id: "coat".into(),
        name: spec.name.clone(),
        role: Role::Barrier,
        letter: "C".into(),
        product: spec.product.clone(),
        bond: spec.bond,
        solid: false,
        regions,
        cut: None,
        opening: None,
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
    vec![
        step(
            "joints",
            at::BARRIER,
            "Gaps, joints, heads, corners",
            Phase::Barrier,
            joints,
            vec![(Act::Hold, "hold: nothing is coated over an open joint".into())],
        ),
        step(
            "coat",
            at::COAT,
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
