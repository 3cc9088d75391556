//! Findings as a person reads them: one line a cause, with every place it shows at.

use super::{Finding, Severity};
use crate::plan::{Plan, SurfaceId};
use std::collections::HashMap;

/// A cause and where it shows.
#[derive(Clone, Debug)]
pub struct Cause<'a> {
    /// The worst finding of it.
    pub told: &'a Finding,
    /// The others.
    pub also: Vec<&'a Finding>,
    /// Ids of the openings and other features it shows at, each once.
    pub at: Vec<&'a str>,
}

/// Gathers findings by cause; the order of what is told stays.
///
/// What one remedy cures at once is one cause, and so is the glue of one kind of piece wherever and at whichever edge water would pass it once
/// it is lost, and what gets in at several edges of one piece of one feature.
pub fn by_cause<'a>(plan: &'a Plan, found: &'a [Finding]) -> Vec<Cause<'a>> {
    let mut out: Vec<Cause> = Vec::new();
    let mut known: HashMap<String, usize> = HashMap::new();
    let pieces: HashMap<&str, usize> = plan.pieces.iter().enumerate().map(|(i, p)| (p.id.as_str(), i)).collect();
    for f in found {
        let at = feature_at(plan, f, |id| pieces.get(id).copied());
        let mut cause = None;
        if let Some(key) = key(plan, f, at, f.pieces.first().and_then(|id| pieces.get(id.as_str())).copied()) {
            match known.get(&key) {
                Some(i) => cause = Some(*i),
                None => {
                    known.insert(key, out.len());
                }
            }
        }
        let i = cause.unwrap_or(out.len());
        match cause {
            Some(i) => out[i].also.push(f),
            None => out.push(Cause { told: f, also: Vec::new(), at: Vec::new() }),
        }
        let id = at.map(|o| plan.openings[o].id.as_str()).filter(|id| !out[i].at.contains(id));
        out[i].at.extend(id);
    }
    out
}

/// What findings of one cause share; `first` is the piece that water passes first.
fn key(plan: &Plan, f: &Finding, at: Option<usize>, first: Option<usize>) -> Option<String> {
    match (&f.fix, f.severity) {
        (Some(fix), _) => Some(format!("{:?} {fix:?}", f.severity)),
        (None, Severity::Glue) => {
            let let_go =
                first.map_or(f.reason.as_str(), |p| plan.stretches[plan.pieces[p].stretch].plain(&plan.pieces[p].name));
            Some(format!("{} {}", f.code, plain(let_go)))
        }
        (None, Severity::Leak | Severity::Pond) => {
            Some(format!("{:?} {} {:?} {:?}", f.severity, f.code, at?, f.pieces.first()))
        }
        // What is said of several places in the same words is one thing that was done at all of them.
        (None, Severity::Note) => Some(format!("{} {}", f.code, plain(&f.reason))),
        _ => None,
    }
}

/// The feature that a finding is at.
pub(super) fn feature_at(plan: &Plan, f: &Finding, piece: impl Fn(&str) -> Option<usize>) -> Option<usize> {
    let (surface, [u0, v0, u1, v1]) = f.place;
    if surface != SurfaceId::WALL {
        return plan.surfaces[surface.0].opening;
    }
    let of_piece = |id: &String| plan.pieces[piece(id)?].opening;
    f.pieces.iter().find_map(of_piece).or_else(|| {
        plan.openings.iter().position(|o| {
            let [a, b, c, d] = o.hull.to_inches();
            u0 < c && v0 < d && u1 > a && v1 > b && u1 - u0 < plan.surfaces[0].facet.width.to_inches_f64()
        })
    })
}

/// A sentence without what tells one place from another: sides, numbers, and what stands in brackets.
fn plain(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut depth = 0;
    for c in text.chars() {
        depth += i32::from(c == '(');
        if depth == 0 && !c.is_ascii_digit() && c != '.' {
            out.push(c);
        }
        depth -= i32::from(c == ')');
    }
    out.replace("left", "side").replace("right", "side")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_tells_one_place_from_another_is_left_out() {
        let one = "Rain gets in behind the left slit patch (course 3, length 1) once the wind holds 2.4 in of water.";
        let other = "Rain gets in behind the right slit patch (course 1) once the wind holds 3 in of water.";
        assert_eq!(plain(one), plain(other));
        assert_ne!(plain(one), plain("Rain gets in behind the head flashing once the wind holds 3 in of water."));
    }
}
