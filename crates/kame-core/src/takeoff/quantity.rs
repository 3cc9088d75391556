//! How much of everything the plan uses, piece by piece, each with its working (handbook 5.1, 5.3, 5.5, 5.6).

use crate::build_up::BuildUp;
use crate::kit::{Product, named};
use crate::length::{FL_OZ_PER_GALLON, FT2_MIL_PER_GALLON, IN2_PER_FT2, IN3_PER_FL_OZ, Length};
use crate::plan::{Piece, Plan, SurfaceId};
use crate::profile::{LengthFigure, fig};
use crate::recipe::schools::Feature;
use crate::recipe::{LayoutRule, Role, answer};
use crate::surface::{Rect, boards, strips};
use crate::trade::{Act, Phase, PieceId, SealId, StepId, Trade};
use serde::Serialize;
use std::collections::HashSet;
use typed_index_collections::TiVec;

/// How much of one product one thing takes.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "in", rename_all = "lowercase")]
pub enum Amount {
    /// A piece cut from a roll, panel or board: along and across.
    Piece {
        /// Along.
        length: Length,
        /// Across the roll, or the shorter side.
        width: Length,
        /// Width of the roll or panel it comes from.
        stock: Length,
        /// Roll that a course was taken from as it was laid, from 0, those of the stretches to its left before it.
        roll: Option<usize>,
    },
    /// A length of a bar, rod or batten.
    Run {
        /// How long.
        length: Length,
    },
    /// An area, in square feet.
    Area {
        /// Square feet.
        ft2: f64,
    },
    /// A volume, in US fluid ounces.
    Volume {
        /// US fluid ounces.
        fl_oz: f64,
    },
    /// Counted things.
    Count {
        /// How many.
        n: f64,
    },
}

/// What one piece, bead or coat takes.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Use {
    /// Generic product.
    pub product: String,
    /// What it is for.
    pub what: String,
    /// The amount, in the unit it is measured in.
    pub amount: Amount,
    /// At which opening or other feature, by id; empty for the wall.
    pub opening: String,
    /// On which wall.
    pub wall: String,
    /// In which step of the order in force, from 0; what no step of its own places comes with the step that calls for it.
    pub step: usize,
    /// When.
    pub phase: Phase,
    /// Whose work.
    pub trade: Trade,
    /// Of a bead: how thick, and how long.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub bead: Option<Bead>,
    /// Of what is counted: how long each has to be at least.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub at_least: Option<Length>,
    /// How it was worked out.
    pub working: String,
}

/// A bead, or all beads of one size.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Bead {
    /// How thick.
    pub thick: Length,
    /// How long.
    pub run: Length,
}

/// When something is used: in which step, and which place that has in the order in force, from 0.
#[derive(Clone, Copy, Default)]
struct When {
    step: Option<StepId>,
    place: usize,
}

/// The place of each step in the order in force.
struct Places(TiVec<StepId, usize>);

impl Places {
    fn of(plan: &Plan) -> Self {
        let mut place: TiVec<StepId, usize> = vec![0; plan.steps.len()].into();
        for (n, &s) in plan.order.iter().enumerate() {
            place[s] = n;
        }
        Self(place)
    }

    fn when(&self, step: StepId) -> When {
        When { step: Some(step), place: self.0[step] }
    }
}

/// Everything the plan uses; what steps left out would have used is not in it.
pub fn uses(plan: &Plan) -> Vec<Use> {
    let mut out = Vec::new();
    let mut laid_before: HashSet<PieceId> = HashSet::new();
    let order = Places::of(plan);
    for (s, action) in plan.actions() {
        let s = order.when(s);
        match &action.act {
            Act::Place { piece, .. } | Act::Set { piece } => {
                if !laid_before.insert(*piece) && plan.pieces[*piece].comes_off_whole() {
                    continue;
                }
                // What was spoiled is bought again.
                let spoiled = plan.basis.bench.spoiled.get(&plan.pieces[*piece].id).copied().unwrap_or(0);
                (0..=spoiled).for_each(|_| of_piece(plan, *piece, s, &mut out));
            }
            Act::Coat { piece, wet_mil, coats } => of_coat(plan, *piece, *wet_mil, *coats, s, &mut out),
            Act::Seal { seal } => of_bead(plan, *seal, s, &mut out),
            _ => {}
        }
    }
    of_primer(plan, &order, &mut out);
    of_openings(plan, &order, &mut out);
    out
}

/// Square feet a product covers where it lies, what laps counted once.
pub(crate) fn covered(plan: &Plan, product: &str) -> f64 {
    let mut seen: std::collections::BTreeMap<SurfaceId, Vec<Rect>> = std::collections::BTreeMap::new();
    let mut sum = 0.0;
    for (_, action) in plan.actions() {
        let (Act::Place { piece, .. } | Act::Coat { piece, .. }) = action.act else { continue };
        let p = &plan.pieces[piece];
        for (on, r) in p.regions.iter().filter(|_| p.product == product && !p.solid) {
            let there = seen.entry(*on).or_default();
            let over: Vec<Rect> = there.iter().copied().filter(|t| t.overlaps(*r)).collect();
            sum += area(r.minus_all(&over).into_iter());
            there.push(*r);
        }
    }
    sum
}

fn wall_of(plan: &Plan, at: Length) -> String {
    let wall = plan.walls.corners.iter().filter(|c| c.at <= at).count();
    plan.walls.footprint.get(wall).map(|w| w.name.clone()).unwrap_or_default()
}

fn used(plan: &Plan, piece: &Piece, when: When, amount: Amount, working: String) -> Use {
    let phase = when.step.and_then(|s| plan.steps.get(s)).map_or(Phase::Cover, |s| s.phase);
    let on_wall = piece.regions.iter().find(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| r.u0);
    let at = piece.opening.map(|o| plan.openings[o].rect.u0).or(on_wall).unwrap_or(Length::ZERO);
    Use {
        product: piece.product.clone(),
        what: piece.name.clone(),
        amount,
        opening: piece.opening.map_or_else(String::new, |o| plan.openings[o].id.clone()),
        wall: wall_of(plan, at),
        step: when.place,
        phase,
        trade: phase.trade(),
        bead: None,
        at_least: None,
        working,
    }
}

fn area(rects: impl Iterator<Item = Rect>) -> f64 {
    rects.map(|r| r.width().to_inches_f64() * r.height().to_inches_f64()).sum::<f64>() / IN2_PER_FT2
}

/// What a piece itself takes, without its fasteners: one for each part it is laid in.
pub fn piece_amounts(plan: &Plan, piece: PieceId) -> Vec<Amount> {
    let mut out = Vec::new();
    of_piece(plan, piece, When::default(), &mut out);
    let p = &plan.pieces[piece];
    out.into_iter().filter(|u| u.product == p.product).map(|u| u.amount).collect()
}

fn of_piece(plan: &Plan, index: PieceId, when: When, out: &mut Vec<Use>) {
    let p = &plan.pieces[index];
    let figures = &plan.basis.figures;
    let round = figures.length(fig::CUT_ROUND);
    let sold = plan.product(&p.product);
    let unit = sold.map_or("", |k| k.unit.as_str());
    // What is not cut from rolls or panels is cut from bars, or comes one by one.
    let cut = p.cut.as_ref().filter(|c| c.roll.is_some() || ["panel", "board", "roll"].contains(&unit));
    if let Some(cut) = cut {
        let (length, width) = (cut.length.ceil_step(round), cut.width.ceil_step(round));
        let widths = sold.into_iter().flat_map(|k| &k.sizes).filter_map(|s| s.width).filter(|w| *w >= width);
        let stock = if cut.roll.is_some() { cut.stock_width } else { widths.min().unwrap_or(cut.stock_width) };
        let before: usize = plan.walls.stretches[..p.stretch].iter().map(|s| s.courses.rolls).sum();
        let amount = Amount::Piece { length, width, stock, roll: cut.taken.map(|r| before + r) };
        let working = format!("{} unfolded, {} wide, rounded up to {round}: {length} × {width}", cut.length, cut.width);
        out.push(used(plan, p, when, amount, working));
        fasteners_of(plan, p, (cut.length, cut.width), when, out);
        return;
    }
    if sold.is_some_and(|k| k.kind == "sealant") {
        out.push(of_fillet(plan, p, when));
        return;
    }
    if matches!(p.role, Role::Cladding | Role::Lath) && unit != "roll" {
        cladding_fasteners_of(plan, p, when, out);
    }
    let runs = p.regions.iter().map(|(_, r)| r.width().max(r.height()));
    if p.laying.is_some() && unit == "length" {
        if let Some(bar) = sold.filter(|k| k.kind == "bead").and_then(|k| k.sizes.iter().find_map(|s| s.length)) {
            let parts: Vec<Rect> = p.regions.iter().map(|(_, r)| *r).collect();
            let of = |(length, working)| used(plan, p, when, Amount::Run { length }, working);
            out.extend(bent(&parts, bar, round).into_iter().map(of));
            return;
        }
        // Each part is a bar of its own.
        let one = |run: Length| (Amount::Run { length: run.ceil_step(round) }, format!("from end to end {run}"));
        out.extend(runs.clone().map(one).map(|(amount, working)| used(plan, p, when, amount, working)));
        if sold.is_some_and(|k| k.kind == "batten") {
            screws_of(plan, p, &runs.collect::<Vec<_>>(), when, out);
        }
        return;
    }
    let longest = p.cut.as_ref().map(|c| c.length).or(runs.max()).unwrap_or(Length::ZERO);
    let (amount, working) = match unit {
        "length" => (Amount::Run { length: longest.ceil_step(round) }, format!("from end to end {longest}")),
        "board" | "roll" | "panel" => {
            let regions: Vec<Rect> = p.regions.iter().map(|(_, r)| *r).collect();
            let mut one = |amount, working| out.push(used(plan, p, when, amount, working));
            return laid(sold, &regions, round, &mut one);
        }
        _ if p.laying.is_some() => {
            let ft2 = area(p.regions.iter().map(|(_, r)| *r));
            (Amount::Area { ft2 }, format!("{ft2:.1} ft², openings and their joints left free"))
        }
        _ => (Amount::Count { n: 1.0 }, "one".into()),
    };
    out.push(used(plan, p, when, amount, working));
}

/// Beads: parts that meet at corners are one length, bent there with its flange cut in a V, where a bar is long enough; else each part is a length of
/// its own, mitred where it meets another: longer there by the width of the bead.
fn bent(parts: &[Rect], bar: Length, round: Length) -> Vec<(Length, String)> {
    let long = |r: &Rect| r.width().max(r.height());
    let mut chains: Vec<Vec<Rect>> = Vec::new();
    for part in parts {
        let (met, apart): (Vec<_>, Vec<_>) = chains.into_iter().partition(|c| c.iter().any(|r| r.touches(*part)));
        chains = apart;
        chains.push(met.into_iter().flatten().chain([*part]).collect());
    }
    let mut out = Vec::new();
    for chain in chains {
        let all = chain.iter().map(long).fold(Length::ZERO, |a, b| a + b).ceil_step(round);
        if all <= bar {
            let each = chain.iter().map(|r| long(r).to_string()).collect::<Vec<_>>().join(" + ");
            let corners = chain.len() - 1;
            let how =
                if corners == 0 { String::new() } else { format!(", bent at {corners} corners, flange cut in a V") };
            out.push((all, format!("{each}{how}")));
            continue;
        }
        for r in &chain {
            let mitres = chain.iter().filter(|o| *o != r && o.touches(*r)).count();
            let wide = r.width().min(r.height());
            let more = (0..mitres).fold(Length::ZERO, |a, _| a + wide);
            let how = if mitres == 0 { String::new() } else { format!(" and {wide} for each of {mitres} mitres") };
            out.push(((long(r) + more).ceil_step(round), format!("{}{how}", long(r))));
        }
    }
    out
}

/// Sealant trowelled over a place: by area and thickness.
fn of_fillet(plan: &Plan, p: &Piece, when: When) -> Use {
    let thick = plan.basis.figures.length(fig::BUTTER_THICK);
    let in2 = area(p.regions.iter().map(|(_, r)| *r)) * IN2_PER_FT2;
    let fl_oz = in2 * thick.to_inches_f64() / IN3_PER_FL_OZ;
    let working = format!("{in2:.0} in² × {thick} / {IN3_PER_FL_OZ:.3} = {fl_oz:.1} fl oz");
    used(plan, p, when, Amount::Volume { fl_oz }, working)
}

/// Boards and mats by the pieces they are laid in; by area where their size is not known.
fn laid(product: Option<&Product>, regions: &[Rect], round: Length, out: &mut impl FnMut(Amount, String)) {
    /// Where more would be laid the area is counted: nobody lays boards as small as that.
    const MOST_LAID: f64 = 100_000.0;
    let ft2: f64 = area(regions.iter().copied());
    let can =
        |length: Length, width: Length| ft2 * IN2_PER_FT2 / length.to_inches_f64() / width.to_inches_f64() < MOST_LAID;
    let size = product
        .and_then(|k| k.sizes.iter().find_map(|s| Some((k.unit.as_str(), s.length?, s.width?))))
        .filter(|(_, length, width)| can(*length, *width));
    let (made, how) = match size {
        Some(("roll", _, width)) => (strips(regions, width), format!("strip along the wall, rolls {width} wide")),
        Some((unit, length, width)) => {
            (boards(regions, (length, width)), format!("{unit} lying, {length} × {width}, joints staggered by half"))
        }
        None => {
            return out(Amount::Area { ft2 }, format!("{ft2:.1} ft², openings left free"));
        }
    };
    let stock = size.map_or(Length::ZERO, |s| s.2);
    for r in made {
        let (length, width) = (r.width().ceil_step(round), r.height().ceil_step(round).min(stock));
        out(Amount::Piece { length, width, stock, roll: None }, format!("{how}: {length} × {width} of it"));
    }
}

/// Screws of battens: at both ends and no farther apart than the figure says.
fn screws_of(plan: &Plan, p: &Piece, runs: &[Length], when: When, out: &mut Vec<Use>) {
    let apart = plan.basis.figures.length(fig::BATTEN_SCREW_SPACING);
    let of = |run: &Length| (run.units() + apart.units() - 1) / apart.units().max(1) + 1;
    let n: i64 = runs.iter().map(of).sum();
    let working = format!("{} of them, at both ends and every {apart} between: {n}", runs.len());
    let mut one = used(plan, p, when, Amount::Count { n: n as f64 }, working);
    (one.product, one.what) = (named::BATTEN_SCREW.into(), format!("screws of the {}", p.name));
    let at = p.laying.and_then(|l| plan.walls.finishes.get(l.finish));
    let layers = at.and_then(|f| BuildUp::of(&f.answers, &plan.basis.figures).ok());
    one.at_least = layers.map(|l| l.furring_screw(&plan.basis.figures));
    out.push(one);
}

/// Fasteners of lath, cladding and trim: on every stud that a row crosses and at its ends, and up each of them no farther apart than the figure
/// says. What is bedded or thrown has none.
fn cladding_fasteners_of(plan: &Plan, p: &Piece, when: When, out: &mut Vec<Use>) {
    if p.bond == crate::layup::Bond::Full {
        return;
    }
    let (studs, apart) =
        (plan.basis.figures.length(fig::STUD_SPACING), plan.basis.figures.length(fig::CLADDING_FASTENER_SPACING));
    let whole = |l: Length, by: Length| (l.units() + by.units() - 1) / by.units().max(1);
    // Trim is fastened along itself, whichever way it runs.
    let trim = p.laying.is_some_and(|l| matches!(l.rule, LayoutRule::Trim | LayoutRule::CornerBoards));
    let of = |r: &Rect| {
        let (along, across) =
            if trim && r.height() > r.width() { (r.height(), r.width()) } else { (r.width(), r.height()) };
        (whole(along, studs) + 1) * whole(across, apart).max(1)
    };
    let n: i64 = p.regions.iter().map(|(_, r)| of(r)).sum();
    let working = format!("on every stud of {} rows, {apart} apart up each: {n}", p.regions.len());
    let mut one = used(plan, p, when, Amount::Count { n: n as f64 }, working);
    (one.product, one.what) = (named::CLADDING_FASTENER.into(), format!("fasteners of the {}", p.name));
    out.push(one);
}

/// Caps of a sheet that is not stuck, fasteners of a panel, and those that hold a board until the furring does.
fn fasteners_of(plan: &Plan, p: &Piece, (length, width): (Length, Length), when: When, out: &mut Vec<Use>) {
    let f = |id: LengthFigure| plan.basis.figures.length(id).to_inches_f64();
    let sold = plan.product(&p.product);
    if p.role == Role::Cover && sold.is_some_and(|k| k.kind == "board") {
        // What is slid in behind the furring is held by it from the start.
        if answer::BOARDS_BEHIND_FURRING.is_in(&plan.walls.stretches[p.stretch].answers) {
            return;
        }
        let n = plan.basis.figures.number(fig::BOARD_WASHERS);
        let mut one = used(plan, p, when, Amount::Count { n }, format!("{n} a board until the furring holds it"));
        (one.product, one.what) = (named::WASHER_FASTENER.into(), format!("washers of the {}", p.name));
        return out.push(one);
    }
    if p.role != Role::Barrier {
        return;
    }
    let (l, w) = (length.to_inches_f64(), width.to_inches_f64());
    let (product, n, working) = match sold.map(|k| k.kind.as_str()) {
        Some("sheet") if p.bond == crate::layup::Bond::None => {
            let per = plan.basis.figures.number(fig::AREA_PER_CAP);
            let field = (l * w / IN2_PER_FT2 / per).ceil();
            // A lap belongs to the sheet on one side of it; the edges of openings to the sheet they lie in.
            let lies = p.regions.iter().filter(|(on, _)| *on == SurfaceId::WALL).map(|(_, r)| *r);
            let open = lies.flat_map(|r| plan.openings.iter().filter_map(move |o| o.rect.intersection(r)));
            let open: f64 = open.map(|r| 2.0 * (r.width() + r.height()).to_inches_f64()).sum();
            let apart = f(fig::CAP_SPACING);
            let edges = ((l + w + open) / apart).ceil();
            let n = field.max(edges);
            let ft2 = l * w / IN2_PER_FT2;
            let working = format!(
                "field {ft2:.0} ft² / {per} ft² each = {field}; edges ({l:.0} + {w:.0} + openings {open:.0}) / {apart} = {edges}; the more: {n}"
            );
            (named::CAP_FASTENER, n, working)
        }
        Some("panel" | "board") => {
            let (edge, field, studs) = (f(fig::PANEL_EDGE_SPACING), f(fig::PANEL_FIELD_SPACING), f(fig::STUD_SPACING));
            let edges = (2.0 * (l + w) / edge).ceil();
            let inner = ((w / studs).ceil() - 1.0).max(0.0) * (l / field).floor();
            let n = edges + inner;
            (
                named::PANEL_FASTENER,
                n,
                format!("edges 2 × ({l:.0} + {w:.0}) / {edge} = {edges}, studs between {inner}: {n}"),
            )
        }
        _ => return,
    };
    let mut one = used(plan, p, when, Amount::Count { n }, working);
    one.product = product.into();
    one.what = format!("fasteners of the {}", p.name);
    out.push(one);
    if let Some(joint) = dotted_with(plan, p.stretch) {
        let (dot, mil) = (f(fig::DOT_SIZE), plan.basis.figures.number(fig::JOINT_MIL));
        let fl_oz = n * std::f64::consts::FRAC_PI_4 * dot * dot * mil / 1000.0 / IN3_PER_FL_OZ;
        let working = format!("{n} heads, a dot of {dot} in each, {mil} mil: {fl_oz:.1} fl oz");
        let mut dots = used(plan, p, when, Amount::Volume { fl_oz }, working);
        (dots.product, dots.what) = (joint.to_owned(), format!("dots on the heads of the {}", p.name));
        out.push(dots);
    }
}

/// What every fastener head of a stretch of panels is covered with, where its joints are treated by liquid.
fn dotted_with(plan: &Plan, stretch: usize) -> Option<&'static str> {
    let schools = crate::recipe::schools::Schools::shipped().ok()?;
    let spec = schools.barrier(&plan.walls.stretches[stretch].answers)?;
    (spec.kind == crate::recipe::schools::BarrierKind::Panels && spec.joint_bond == crate::layup::Bond::Cured)
        .then_some(spec.joint.as_str())
}

fn of_coat(plan: &Plan, index: PieceId, mil: f64, coats: u32, when: When, out: &mut Vec<Use>) {
    let p = &plan.pieces[index];
    let ft2 = area(p.regions.iter().map(|(_, r)| *r));
    let (loss, rough) = (plan.basis.figures.number(fig::COAT_LOSS), plan.basis.figures.number(fig::SUBSTRATE_FACTOR));
    let gallons = coat(ft2, mil * f64::from(coats), loss, rough);
    let working = format!(
        "{ft2:.1} ft² × {mil} mil × {coats} × {rough} / {FT2_MIL_PER_GALLON:.0} / (1 − {loss} %) = {gallons:.2} gal"
    );
    let amount = Amount::Volume { fl_oz: gallons * FL_OZ_PER_GALLON };
    out.push(used(plan, p, when, amount, working));
}

/// Square feet one gallon covers at a wet thickness in mil.
pub(super) fn coverage(mil: f64) -> f64 {
    FT2_MIL_PER_GALLON / mil
}

/// Gallons of a coat: area in square feet, wet thickness in mil, loss in percent, roughness.
pub fn coat(ft2: f64, mil: f64, loss: f64, rough: f64) -> f64 {
    ft2 * mil * rough / FT2_MIL_PER_GALLON / (1.0 - loss / 100.0)
}

/// Fluid ounces of a round bead, both in inches.
pub fn bead(diameter: f64, length: f64) -> f64 {
    std::f64::consts::FRAC_PI_4 * diameter * diameter * length / IN3_PER_FL_OZ
}

/// Wider is a filling, not a bead.
const WIDEST_BEAD: Length = Length::inch(1);

fn of_bead(plan: &Plan, index: SealId, when: When, out: &mut Vec<Use>) {
    let seal = &plan.seals[index];
    // What is wider than a bead can be fills the gap round what comes through.
    let (beads, fills): (Vec<Rect>, Vec<Rect>) =
        seal.rects.iter().map(|(_, r)| *r).partition(|r| r.width().min(r.height()) <= WIDEST_BEAD);
    for r in fills {
        let f = |id: LengthFigure| plan.basis.figures.length(id).to_inches_f64();
        let around = 2.0 * (r.width() + r.height()).to_inches_f64();
        let (gap, depth, yields) = (f(fig::PEN_GAP), f(fig::JOINT_DEPTH), plan.basis.figures.number(fig::FOAM_YIELD));
        let fl_oz = around * gap * depth / yields;
        let working =
            format!("{around}\" round it × {gap}\" × {depth}\" / {yields} in³ from an ounce = {fl_oz:.2} fl oz");
        let mut one = used(plan, &plan.pieces[seal.behind], when, Amount::Volume { fl_oz }, working);
        (one.product, one.what) = (named::FOAM.into(), seal.name.clone());
        out.push(one);
    }
    if beads.is_empty() {
        return;
    }
    let runs: Length = beads.iter().map(|r| r.width().max(r.height())).sum();
    let thick = beads.iter().map(|r| r.width().min(r.height())).min().unwrap_or(Length::ZERO);
    let (run, d) = (runs.to_inches_f64(), thick.to_inches_f64());
    let fl_oz = bead(d, run);
    let behind = &plan.pieces[seal.behind];
    if seal.rod {
        let more = plan.basis.figures.number(fig::ROD_MORE);
        let length = Length::from_inches_f64(run * (1.0 + more / 100.0)).unwrap_or(Length::ZERO);
        let working = format!("{runs} of joint, {more} % more: {length}");
        let mut rod = used(plan, behind, when, Amount::Run { length }, working);
        (rod.product, rod.what) = (named::BACKER_ROD.into(), format!("rod behind the {}", seal.name));
        out.push(rod);
    }
    if plan.product(&seal.product).is_some_and(|k| k.kind == "foam") {
        let f = |id: LengthFigure| plan.basis.figures.length(id).to_inches_f64();
        let (gap, yields) = (f(fig::CLEARANCE), plan.basis.figures.number(fig::FOAM_YIELD));
        let depth = f(fig::JOINT_DEPTH).max(gap);
        let fl_oz = run * gap * depth / yields;
        let working = format!("{runs} × {gap}\" × {depth:.2}\" / {yields} in³ from an ounce = {fl_oz:.2} fl oz");
        let mut foam = used(plan, behind, when, Amount::Volume { fl_oz }, working);
        (foam.product, foam.what) = (seal.product.clone(), seal.name.clone());
        return out.push(foam);
    }
    let working = format!("{runs} of {thick} bead: π/4 × {d:.3}² × {run:.1} / {IN3_PER_FL_OZ:.3} = {fl_oz:.2} fl oz");
    let mut one = used(plan, behind, when, Amount::Volume { fl_oz }, working);
    (one.product, one.what) = (seal.product.clone(), seal.name.clone());
    one.bead = Some(Bead { thick, run: runs });
    out.push(one);
}

/// Primer under what asks for it on what it lies on.
fn of_primer(plan: &Plan, order: &Places, out: &mut Vec<Use>) {
    let of_kind = || plan.basis.products.iter().filter(|p| p.kind == "primer");
    let Some(primer) = of_kind().find(|p| p.ft2_per_gal.is_some()).or(of_kind().next()) else { return };
    let primed: std::collections::HashMap<PieceId, f64> =
        crate::contact::primers(plan).unwrap_or_default().into_iter().collect();
    for (s, action) in plan.actions() {
        let Act::Place { piece, .. } = action.act else { continue };
        let Some(ft2) = primed.get(&piece).copied().filter(|a| *a > 0.0) else { continue };
        let (amount, working) = match primer.ft2_per_gal {
            Some(covers) => {
                let fl_oz = ft2 / covers * FL_OZ_PER_GALLON;
                let working = format!("{ft2:.2} ft² below it / {covers} ft² a gallon = {fl_oz:.2} fl oz");
                (Amount::Volume { fl_oz }, working)
            }
            None => (Amount::Area { ft2 }, format!("{ft2:.2} ft² below it; how much a gallon covers is not known")),
        };
        let mut one = used(plan, &plan.pieces[piece], order.when(s), amount, working);
        (one.product, one.what) = (primer.name.clone(), format!("primer under the {}", plan.pieces[piece].name));
        out.push(one);
    }
}

/// Rod, foam and fasteners of units.
fn of_openings(plan: &Plan, order: &Places, out: &mut Vec<Use>) {
    let f = |id: LengthFigure| plan.basis.figures.length(id).to_inches_f64();
    for (i, o) in plan.openings.iter().enumerate().filter(|(_, o)| o.feature == Feature::Opening) {
        let unit = plan.pieces.position(|p| p.solid && p.opening == Some(i));
        let set = plan
            .actions()
            .find(|(_, a)| matches!(a.act, Act::Set { piece } | Act::Place { piece, .. } if Some(piece) == unit));
        let (Some(unit), Some((set, _))) = (unit, set) else { continue };
        let (w, h) = (o.rect.width().to_inches_f64(), o.rect.height().to_inches_f64());
        let mut push = |phase: Phase, product: &str, what: &str, amount: Amount, working: String| {
            let step = plan.steps.position(|s| s.phase == phase && s.opening.as_ref() == Some(&o.id));
            let mut one = used(plan, &plan.pieces[unit], order.when(step.unwrap_or(set)), amount, working);
            (one.product, one.what) = (product.into(), format!("{what} of {}", o.name));
            out.push(one);
        };
        let spacing = f(fig::UNIT_FASTENER_SPACING);
        let n = 2.0 * ((w / spacing).ceil() + (h / spacing).ceil());
        push(
            Phase::Unit,
            named::UNIT_FASTENER,
            "fasteners",
            Amount::Count { n },
            format!(
                "each side at most {spacing}\" apart: 2 × ({:.0} + {:.0}) = {n}",
                (w / spacing).ceil(),
                (h / spacing).ceil()
            ),
        );
        // Near the corners and no farther apart than that between.
        let (corner, apart) = (f(fig::SHIM_CORNER), f(fig::SHIM_SPACING));
        let places = |run: f64| ((run - 2.0 * corner).max(0.0) / apart).ceil() + 1.0;
        let (sides, below) = (2.0 * places(h), places(w));
        push(
            Phase::Unit,
            named::SHIM,
            "shims",
            Amount::Count { n: 2.0 * sides },
            format!(
                "both jambs, {corner}\" from the corners and at most {apart}\" apart, in pairs: {:.0}",
                2.0 * sides
            ),
        );
        let slope = if answer::SEAT_LEVEL.is_in(&o.answers) {
            "on a level sill".to_owned()
        } else {
            format!("with the reverse of the sill's {} %", plan.basis.figures.number(fig::SILL_SLOPE))
        };
        push(
            Phase::Unit,
            named::SETTING_BLOCK,
            "setting blocks",
            Amount::Count { n: below },
            format!("along the sill, {corner}\" from the corners and at most {apart}\" apart, {slope}: {below:.0}"),
        );
    }
}
