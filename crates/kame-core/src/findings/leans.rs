//! What leans on glue, kind of edge by kind of edge, in words; and what of it is made so by every school that makes it at all (handbook 4.9).

use super::{Finding, Severity};
use crate::plan::Plan;
use crate::recipe::Role;
use crate::recipe::schools::holds;
use crate::trade::PieceId;
use serde::Deserialize;
use std::sync::OnceLock;

const DATA: &str = include_str!("../../data/leans.toml");

/// A kind of edge that is held by glue.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Lean {
    role: Option<Role>,
    #[serde(default)]
    when: String,
    #[serde(default)]
    water: String,
    /// True where every school that makes it at all makes it so.
    pub usual: bool,
    /// The same in words, for people.
    pub says: String,
    /// What to do about it.
    #[serde(skip)]
    pub remedy: String,
}

impl Lean {
    fn what_to_do(&self) -> String {
        if self.usual {
            format!(
                "It is made so: {}. Press and tool it well on a clean, dry, warm enough surface; it holds as long as that does.",
                self.says
            )
        } else {
            format!("It leans on its glue: {}. A lap over it would need none.", self.says)
        }
    }
}

/// One kind of edge with how often it is there.
#[derive(Clone, Debug, PartialEq)]
pub struct Leaning {
    /// The kind of edge.
    pub lean: &'static Lean,
    /// In how many places.
    pub places: usize,
}

fn all() -> Result<&'static [Lean], String> {
    #[derive(Deserialize)]
    struct File {
        lean: Vec<Lean>,
    }
    static READ: OnceLock<Result<File, String>> = OnceLock::new();
    let read = || match toml::from_str::<File>(DATA) {
        Ok(mut file)
            if file.lean.last().is_some_and(|l| l.role.is_none() && l.when.is_empty() && l.water.is_empty()) =>
        {
            file.lean.iter_mut().for_each(|l| l.remedy = l.what_to_do());
            Ok(file)
        }
        Ok(_) => Err("the last kind of edge that leans on glue has to fit all".into()),
        Err(e) => Err(format!("the data of what leans on glue does not read: {e}")),
    };
    READ.get_or_init(read).as_ref().map(|f| f.lean.as_slice()).map_err(Clone::clone)
}

/// Which kind of edge the water of a finding would pass first, where it shows at that feature or at none; `None` where it is not about glue.
pub(super) fn of(
    plan: &Plan,
    f: &Finding,
    feature: Option<usize>,
    piece: impl Fn(&str) -> Option<PieceId>,
) -> Option<&'static Lean> {
    if f.severity != Severity::Glue {
        return None;
    }
    let first = f.pieces.first().and_then(|id| piece(id));
    let answers = match feature {
        Some(o) => &plan.openings[o].answers,
        None => &plan.walls.stretches[first.map_or(0, |p| plan.pieces[p].stretch)].answers,
    };
    let role = first.map(|p| plan.pieces[p].role);
    let fits = |l: &&Lean| {
        (l.role.is_none() || l.role == role) && holds(&l.when, answers) && (l.water.is_empty() || f.water == l.water)
    };
    all().ok()?.iter().find(fits)
}

/// What findings lean on, one for each kind of edge, what is unusual first.
pub fn leaning(found: &[Finding]) -> Vec<Leaning> {
    let mut out: Vec<Leaning> = Vec::new();
    for lean in found.iter().filter_map(|f| f.lean) {
        match out.iter_mut().find(|l| l.lean.says == lean.says) {
            Some(l) => l.places += 1,
            None => out.push(Leaning { lean, places: 1 }),
        }
    }
    out.sort_by_key(|l| l.lean.usual);
    out
}
