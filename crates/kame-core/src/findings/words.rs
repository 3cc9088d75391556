//! Sentences of findings, in one place.

use super::Moment;
use super::place::piece_of;
use crate::layup::Bond;
use crate::length::Head;
use crate::plan::{Plan, SurfaceId};
use crate::recipe::Role;
use crate::sequence::Why;
use crate::surface::Edge;
use crate::trade::PieceId;
use crate::water::{Passage, PassageKind, WaterWay};
use std::collections::BTreeMap;

/// How an edge is called.
pub fn edge(e: Edge) -> &'static str {
    match e {
        Edge::Left => "left edge",
        Edge::Right => "right edge",
        Edge::Bottom => "lower edge",
        Edge::Top => "top edge",
    }
}

/// Where a sheet is passed on a way.
fn passed(plan: &Plan, way: &WaterWay, p: &Passage) -> String {
    let along = way.points.get(p.point).is_some_and(|at| at.facet.0 != SurfaceId::WALL.0);
    if along && plan.is_sleeve(piece_of(p.sheet)) {
        return "the end of its sleeve".into();
    }
    format!("its {}", edge(p.edge))
}

/// What the water of a scenario is called at the start of a sentence.
pub fn water_name(plan: &Plan, leak: Option<usize>, lost: bool) -> String {
    match leak {
        Some(l) if lost => format!("{}, with the glue lost", plan.water.leaks[l].name),
        Some(l) => plan.water.leaks[l].name.clone(),
        None if lost => "With the glue lost, rain".into(),
        None => "Rain".into(),
    }
}

/// How hard it has to blow.
pub fn pressure(head: Head) -> String {
    if head.inches() <= 0.0 {
        return "by gravity alone".into();
    }
    format!(
        "once the wind holds {:.1} in of water ({:.0} Pa, about {:.0} m/s)",
        head.inches(),
        head.pascals(),
        head.wind()
    )
}

/// How the water gets in and what it reaches.
pub fn leak(plan: &Plan, who: &str, from_a_leak: bool, way: &WaterWay, reached: &BTreeMap<usize, Head>) -> String {
    let name = |sheet: crate::layup::SheetId| plan.pieces[piece_of(sheet)].name.as_str();
    let least = reached.values().fold(f64::INFINITY, |least, h| least.min(h.inches()));
    let here: Vec<&str> = reached
        .iter()
        .filter(|(_, h)| h.inches() <= least)
        .map(|(t, _)| plan.water.targets[*t].name.as_str())
        .take(2)
        .collect();
    let more = match reached.len() - here.len() {
        0 => String::new(),
        1 => "; one more place follows".into(),
        n => format!("; {n} more places follow"),
    };
    let mut steps: Vec<String> = Vec::new();
    for p in &way.passages {
        let step = match p.kind {
            PassageKind::InBehind => format!("behind the {} at {}", name(p.sheet), passed(plan, way, p)),
            PassageKind::InThroughCut => format!("through the slit in the {}", name(p.sheet)),
            PassageKind::OutFrom | PassageKind::OutThroughCut => continue,
        };
        if !steps.contains(&step) {
            steps.push(step);
        }
    }
    // A long way is told by its first two edges and its last.
    if steps.len() > 3 {
        steps.drain(2..steps.len() - 1);
        steps.insert(2, "on".into());
    }
    let told = steps.join(", then ");
    let into = match (from_a_leak, steps.is_empty()) {
        (false, true) => format!("{who} falls straight on an open place"),
        (false, false) => format!("{who} gets in {told}"),
        (true, true) => format!("{who}: the water runs on"),
        (true, false) => format!("{who}: the water goes {told}"),
    };
    format!("{into} and reaches {} {}{more}.", here.join(" and "), pressure(Head::from_inches(least)))
}

/// The glue that keeps water out of a way that is open once it is lost: what it passes first that is stuck or sealed.
pub fn held_by(plan: &Plan, moment: &Moment, way: &WaterWay) -> Option<String> {
    let behind = way.passages.iter().filter(|p| p.kind == PassageKind::InBehind).map(|p| piece_of(p.sheet));
    behind.into_iter().find_map(|piece| {
        let name = &plan.pieces[piece].name;
        let bead = moment.stage.seals.iter().map(|s| &plan.seals[*s]).find(|s| s.behind == piece);
        match bead {
            Some(bead) => Some(format!("the {}", bead.name)),
            None if moment.stage.bond(piece) == Bond::Full => Some(format!("the glue of the {name}")),
            None => None,
        }
    })
}

/// Water that stands: what happens and what to do, in words of the place it stands at.
pub fn pond(plan: &Plan, surface: SurfaceId, on: Option<PieceId>, water: &str) -> (String, String) {
    let floor = on.map_or("the bare substrate".to_owned(), |p| format!("the {}", plan.pieces[p].name));
    let opening = plan.opening_of(surface).or_else(|| on.and_then(|p| Some(&plan.openings[plan.pieces[p].opening?])));
    let place = opening.map_or_else(|| "on the wall".to_owned(), |o| format!("at {}", o.name));
    let role = on.map(|p| plan.pieces[p].role);
    let remedy = match (surface == SurfaceId::WALL, role) {
        (false, _) => {
            "Give it a way out: the sill falls to the outside, and nothing closes the pan's front edge or the bottom flange."
        }
        (true, Some(Role::Cap)) => {
            "Leave the front edge of the metal open and let it fall outward: what lands on it has to run off."
        }
        (true, Some(Role::Unit)) => "Leave the lower edge open: no seal or tape across the bottom flange.",
        (true, Some(Role::Pan)) => {
            "Leave the bottom flange open: no seal or tape across it, and the pan's face lies free on the barrier."
        }
        (true, Some(Role::Barrier | Role::Joint | Role::Cover)) => {
            "Open what closes its lower end, so that what runs down behind can come out."
        }
        (true, _) => "Close the edge above it at which the water gets in behind, or open one below it.",
    };
    (format!("{water}: water stands on {floor} {place} and cannot run out."), remedy.to_owned())
}

/// Why an action could not be done.
pub fn why_blocked(plan: &Plan, why: &Why) -> String {
    let name = |p: &PieceId| &plan.pieces[*p].name;
    match why {
        Why::AlreadyPlaced => "it is there already".into(),
        Why::Behind { solid } => format!("the {} is in the way, and nothing gets behind it any more", name(solid)),
        Why::NotCut => "the barrier still covers the opening".into(),
        Why::NothingToCut => "there is no barrier to cut yet".into(),
        Why::StuckUnder { piece } => format!("the {} is stuck down over it", name(piece)),
        Why::NotPlaced { piece } => format!("the {} is not there", name(piece)),
        Why::TooLateBehind { piece } => format!("the {} is set already, and a bead cannot get behind it", name(piece)),
        Why::NoFlap => "there is no such flap in place: it has to be cut, and lifted before it can drop".into(),
        Why::NothingThere => "nothing lies there yet that it could have hurt".into(),
    }
}

/// What to do about it.
pub fn unblock(plan: &Plan, why: &Why) -> String {
    let before = |p: &PieceId| format!("Do this step before the {} goes in.", plan.pieces[*p].name);
    match why {
        Why::AlreadyPlaced => "Leave one of the two out.".into(),
        Why::Behind { solid } => before(solid),
        Why::StuckUnder { piece } => {
            format!("Do this step before the {} is stuck down, or take that off first.", plan.pieces[*piece].name)
        }
        Why::NotCut => "Cut the opening first.".into(),
        Why::NothingToCut => "Hang the courses first.".into(),
        Why::NotPlaced { piece } => format!("Place the {} first.", plan.pieces[*piece].name),
        Why::TooLateBehind { piece } => before(piece),
        Why::NoFlap => "Cut and lift the flap first.".into(),
        Why::NothingThere => "Say after which step it was found, or leave it out.".into(),
    }
}

/// The verb that goes with a name: by its last word before what says where it is or what it is of.
pub(super) fn is_or_are(name: &str) -> &'static str {
    let head = [" (", " of ", " on ", " at ", " over ", " behind ", " under ", " round "];
    let noun =
        head.iter().filter_map(|sep| name.split_once(sep)).map(|(n, _)| n).min_by_key(|n| n.len()).unwrap_or(name);
    if noun.ends_with('s') && !noun.ends_with("ss") { "are" } else { "is" }
}

#[cfg(test)]
mod verb {
    use super::is_or_are;

    #[test]
    fn the_verb_goes_with_the_noun() {
        for (name, verb) in [
            ("battens", "are"),
            ("battens on West wall", "are"),
            ("head flashing", "is"),
            ("barrier (course 2)", "is"),
            ("screen at the gap's lower ends", "is"),
            ("tail of the mat's fabric over the heads", "is"),
            ("casing beads", "are"),
            ("glass", "is"),
        ] {
            assert_eq!(is_or_are(name), verb, "{name}");
        }
    }
}
