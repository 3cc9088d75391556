//! Findings as a person reads them: one line a cause, with every place it shows at.

use super::{Finding, Fix, Severity};
use crate::plan::Plan;
use foldhash::{HashMap, HashSet};
use std::borrow::Cow;

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
/// What one remedy cures at once is one cause, and so is the glue of one kind of edge wherever it is, and what gets in at several edges of one
/// piece of one feature.
pub fn by_cause<'a>(plan: &'a Plan, found: &'a [Finding]) -> Vec<Cause<'a>> {
    let mut out: Vec<Cause> = Vec::new();
    let mut known: HashMap<Cow<str>, usize> = HashMap::default();
    let mut shown: HashSet<(usize, usize)> = HashSet::default();
    for f in found {
        let mut cause = None;
        if let Some(key) = key(f) {
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
        if let Some(at) = f.feature.filter(|o| shown.insert((i, *o))) {
            out[i].at.push(plan.openings[at].id.as_str());
        }
    }
    out
}

/// What tells a cause from another, also between two walls of which one was made from the other by an edit: by what would undo it, else by its
/// code, the feature it is at, the piece and the water.
pub fn cause_key(plan: &Plan, f: &Finding) -> String {
    if let Some(fix) = &f.fix {
        return match fix {
            // Where a step has to go says nothing about which one stands wrong.
            Fix::Move { step, .. } => format!("move {step}"),
            fix => format!("{fix:?}"),
        };
    }
    let at = f.feature.map(|o| &plan.openings[o].id);
    format!("{} {:?} {at:?} {:?} {} {}", f.code, f.severity, f.pieces.first(), f.water, f.lost)
}

/// What findings of one cause share.
fn key(f: &Finding) -> Option<Cow<'_, str>> {
    let key = match (&f.fix, f.severity) {
        (Some(fix), _) => format!("{fix:?}"),
        (None, Severity::Glue) => match f.lean {
            Some(lean) => return Some(Cow::Borrowed(&lean.says)),
            None => plain(&f.reason),
        },
        (None, Severity::Leak | Severity::Pond) => {
            format!("{:?} {} {:?} {:?}", f.severity, f.code, f.feature?, f.pieces.first())
        }
        // What is said of several places in the same words is one thing that was done at all of them.
        (None, Severity::Fault | Severity::Note) => format!("{} {}", f.code, plain(&f.reason)),
        _ => return None,
    };
    Some(Cow::Owned(key))
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
