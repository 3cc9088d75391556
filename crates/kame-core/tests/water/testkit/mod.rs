//! Builders for layups, and a second, independent solver of the water model on a coarse grid.
#![allow(dead_code, reason = "each test file uses its own part")]

pub mod grid;

use kame_core::layup::{Bond, Depth, Glue, Layup, OnSheet, Region, Scenario, Sheet, SheetId, Source, Target};
use kame_core::length::Length;
use kame_core::stop::Stop;
use kame_core::surface::{Facet, FacetId, Patch, Rect};
use kame_core::water::{Limits, Pond, Reach, solve_within};

/// Inches as a length.
pub fn inch(x: f64) -> Length {
    Length::from_inches_f64(x).expect("a length")
}

/// A patch on facet `facet` from inches.
pub fn patch(facet: usize, r: [f64; 4]) -> Patch {
    Patch { facet: FacetId(facet), rect: Rect::new(inch(r[0]), inch(r[1]), inch(r[2]), inch(r[3])) }
}

/// A plumb exposed wall with rain, rain without glue, and its foot as outlet.
pub fn wall(width: f64, height: f64) -> Layup {
    let mut l = Layup::default();
    l.facets.push(Facet { id: "wall".into(), width: inch(width), height: inch(height), rise: 1.0, exposed: true });
    l.outlets.push(patch(0, [0.0, 0.0, width, 1.0]));
    for (id, glue) in [("rain", Glue::Holds), ("lost", Glue::Lost)] {
        l.scenarios.push(Scenario { id: id.into(), source: Source::Rain, glue, drain_head: Length::inch(1) });
    }
    l
}

/// Adds a sheet of one region.
pub fn sheet(l: &mut Layup, id: &str, bond: Bond, rect: [f64; 4], rank: f64) -> SheetId {
    l.sheets.push(Sheet {
        id: id.into(),
        bond,
        cap: false,
        regions: vec![Region { at: patch(0, rect), rank }],
        cuts: vec![],
    });
    SheetId(l.sheets.len() - 1)
}

/// Adds a fault or seal.
pub fn on(sheet: SheetId, rect: [f64; 4]) -> OnSheet {
    OnSheet { sheet, at: patch(0, rect) }
}

/// Asks for gap 0 in a rectangle of the wall.
pub fn sheathing(l: &mut Layup, rect: [f64; 4]) {
    l.targets.push(Target { id: "sheathing".into(), at: patch(0, rect), depth: Depth::Substrate });
}

/// Least head of the target `sheathing`, in inches.
#[track_caller]
pub fn head(l: &Layup, scenario: &str) -> Option<f64> {
    let answer = kame_core::water::solve(l).expect("a valid layup");
    answer.head(l, scenario, "sheathing").expect("the target").map(|h| h.inches())
}

/// All heads of all scenarios and targets in order.
pub fn heads(l: &Layup) -> Vec<Option<f64>> {
    kame_core::water::solve(l).expect("a valid layup").reach.iter().map(|r| r.least.map(|(h, _)| h.inches())).collect()
}

/// Asks for heads and ponds with each gap made one as far as it runs on, and with each cell's gap for itself: the one may say nothing else.
pub fn gaps_made_one_say_the_same(l: &Layup) -> Result<(), String> {
    let each = kame_core::water::solve(l).map_err(|m| format!("{m:?}"))?;
    let one = solve_within(l, Limits::default(), &Stop::default()).map_err(|m| format!("{m:?}"))?;
    let inches = |r: &Reach| r.least.map(|(head, _)| head.inches());
    for (a, b) in each.reach.iter().zip(&one.reach) {
        let same = match (inches(a), inches(b)) {
            (Some(a), Some(b)) => (a - b).abs() < 1e-5,
            (a, b) => a == b,
        };
        if !same || (a.scenario, a.target) != (b.scenario, b.target) {
            return Err(format!("cells {a:?}, gaps {b:?}"));
        }
    }
    let near = |a: &Pond, b: &Pond| {
        (a.scenario, a.facet, a.on) == (b.scenario, b.facet, b.on)
            && a.rect.iter().zip(b.rect).all(|(a, b)| (a - b).abs() < 1e-4)
    };
    let same = each.ponds.len() == one.ponds.len() && each.ponds.iter().zip(&one.ponds).all(|(a, b)| near(a, b));
    if same { Ok(()) } else { Err(format!("cells {:?}, gaps {:?}", each.ponds, one.ponds)) }
}

/// A random stack of sheets on a 24 × 24 wall in whole inches, with seals, faults and holes.
pub mod random {
    use super::*;
    use proptest::prelude::*;

    type Piece = ([i64; 4], u8, u8);

    fn rect() -> impl Strategy<Value = [i64; 4]> {
        (0_i64..20, 0_i64..20, 2_i64..16, 2_i64..16).prop_map(|(u, v, w, h)| [u, v, (u + w).min(24), (v + h).min(24)])
    }

    /// Sheets in a random order, and marks on them.
    pub fn layups() -> impl Strategy<Value = Layup> {
        let piece = (rect(), 0_u8..3, 0_u8..4);
        (prop::collection::vec(piece, 1..6), prop::collection::vec((rect(), 0_u8..3, 0_usize..6), 0..3))
            .prop_map(|(pieces, marks)| build(&pieces, &marks))
    }

    fn build(pieces: &[Piece], marks: &[([i64; 4], u8, usize)]) -> Layup {
        let mut l = wall(24.0, 24.0);
        let f = |r: [i64; 4]| r.map(|x| x as f64);
        for (i, (r, bond, _)) in pieces.iter().enumerate() {
            let bond = [Bond::None, Bond::Full, Bond::Cured][usize::from(*bond)];
            sheet(&mut l, &format!("s{i}"), bond, f(*r), i as f64);
        }
        for (r, kind, of) in marks {
            let o = on(SheetId(of % pieces.len()), f(*r));
            match kind {
                0 => l.seals.push(o),
                1 => l.faults.push(o),
                _ => l.holes.push(o),
            }
        }
        sheathing(&mut l, [8.0, 4.0, 16.0, 20.0]);
        l
    }
}
