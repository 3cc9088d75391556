//! Compatibility of touching pairs: who touches whom in the finished wall, by the plan, and what is known of the two.

use super::{KitSpec, Product, products};
use crate::job::{LONGEST_NAME, Problem};
use crate::plan::Plan;
use crate::sequence::Stage;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::OnceLock;

const DATA: &str = include_str!("../../data/pairs.toml");

/// Whether two products may touch.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum PairVerdict {
    /// They must not.
    #[serde(rename = "never")]
    Never,
    /// Nobody has said: work to do.
    #[serde(rename = "unknown")]
    Unknown,
    /// Held by fasteners, with something between.
    #[serde(rename = "only mechanically")]
    Mechanically,
    /// Once the lower one has cured so many hours.
    #[serde(rename = "fine after")]
    After,
    /// With primer.
    #[serde(rename = "fine with primer")]
    Primer,
    /// They may.
    #[serde(rename = "fine")]
    Fine,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Rule {
    #[serde(default)]
    glue: Vec<String>,
    #[serde(default)]
    face: Vec<String>,
    #[serde(default)]
    metals: Vec<String>,
    verdict: PairVerdict,
    #[serde(default)]
    hours: Option<f64>,
    because: String,
    #[serde(rename = "do")]
    remedy: String,
}

/// What somebody found out about two products.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RecordedPair {
    /// The upper product.
    pub upper: String,
    /// What it lies on.
    pub lower: String,
    /// What they said.
    pub verdict: PairVerdict,
    /// Who said it, where it is written.
    pub source: String,
}

/// Two products that touch in the plan.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Pair {
    /// The upper product, which sticks to or lies on the other.
    pub upper: String,
    /// The lower product.
    pub lower: String,
    /// Whether they may touch.
    pub verdict: PairVerdict,
    /// Why.
    pub because: String,
    /// What to do.
    pub remedy: String,
    /// Hours the lower one has to cure first, where it has to.
    pub hours: Option<f64>,
    /// Where it is recorded; empty where a rule says it, or nobody does.
    pub source: String,
    /// At how many places they touch.
    pub places: usize,
    /// At which openings and other features, by id.
    pub at: Vec<String>,
}

fn rules() -> Result<&'static [Rule], String> {
    #[derive(Debug, Deserialize)]
    struct File {
        rule: Vec<Rule>,
    }
    static READ: OnceLock<Result<File, String>> = OnceLock::new();
    let read = || toml::from_str(DATA).map_err(|e| format!("the data of pairs does not read: {e}"));
    READ.get_or_init(read).as_ref().map(|f| f.rule.as_slice()).map_err(Clone::clone)
}

/// What is bare where nothing lies on it yet.
const SHEATHING: &str = "Sheathing";

/// Every two products that touch in the finished wall and are not only laid on each other: what sticks and what it sticks to, and two metals.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn touching_pairs(plan: &Plan, kit: &KitSpec) -> Result<Vec<Pair>, String> {
    let known: HashMap<&str, &Product> = products()?.iter().map(|p| (p.name.as_str(), p)).collect();
    let rules = rules()?;
    let mut touching: BTreeMap<(&str, &str), (usize, BTreeSet<&str>)> = BTreeMap::new();
    let stage = Stage::after(plan, plan.actions().map(|(_, a)| a));
    let place = |piece: usize| plan.pieces[piece].opening.map(|o| plan.openings[o].id.as_str());
    for (i, laid) in stage.layers.iter().enumerate() {
        let upper = &plan.pieces[laid.piece];
        let mut open = vec![laid.rect];
        let mut met: BTreeSet<&str> = BTreeSet::new();
        for under in stage.layers[..i].iter().rev().filter(|u| u.on == laid.on && u.piece != laid.piece) {
            if open.is_empty() {
                break;
            }
            if open.iter().any(|r| r.overlaps(under.rect)) {
                met.insert(plan.pieces[under.piece].product.as_str());
                open = open.into_iter().flat_map(|r| r.minus(under.rect)).collect();
            }
        }
        if !open.is_empty() {
            met.insert(SHEATHING);
        }
        for lower in met {
            let entry = touching.entry((upper.product.as_str(), lower)).or_default();
            entry.0 += 1;
            entry.1.extend(place(laid.piece));
        }
    }
    // A bead lies behind its piece, on what is there below it.
    for &s in &stage.seals {
        let (seal, product) = (&plan.seals[s], SEALANT);
        let at = place(seal.behind);
        let mut met: BTreeSet<&str> = [plan.pieces[seal.behind].product.as_str()].into();
        for (on, rect) in &seal.rects {
            let behind =
                stage.layers.iter().position(|l| l.piece == seal.behind && l.on == *on).unwrap_or(stage.layers.len());
            let under = stage.layers[..behind].iter().rev().find(|l| l.on == *on && l.rect.overlaps(*rect));
            met.insert(under.map_or(SHEATHING, |l| plan.pieces[l.piece].product.as_str()));
        }
        for lower in met {
            let entry = touching.entry((product, lower)).or_default();
            entry.0 += 1;
            entry.1.extend(at);
        }
    }
    let mut out: Vec<Pair> = Vec::new();
    for ((upper, lower), (places, at)) in touching {
        let (a, b) = (known.get(upper), known.get(lower));
        let Some(told) = verdict(rules, upper, lower, a.copied(), b.copied()) else { continue };
        let recorded = kit.pairs.iter().find(|r| r.upper == upper && r.lower == lower);
        let (verdict, source) = recorded.map_or((told.0, String::new()), |r| (r.verdict, r.source.clone()));
        out.push(Pair {
            upper: upper.to_owned(),
            lower: lower.to_owned(),
            verdict,
            because: told.1,
            remedy: told.2,
            hours: told.3,
            source,
            places,
            at: at.into_iter().map(str::to_owned).collect(),
        });
    }
    out.sort_by(|a, b| (a.verdict, &a.upper, &a.lower).cmp(&(b.verdict, &b.upper, &b.lower)));
    Ok(out)
}

/// What beads and smears are of.
const SEALANT: &str = "Sealant, movement class 25 or more";

type Told = (PairVerdict, String, String, Option<f64>);

/// What is known of two products; `None` where they only lie on each other.
fn verdict(rules: &[Rule], upper: &str, lower: &str, a: Option<&Product>, b: Option<&Product>) -> Option<Told> {
    let say = |r: &Rule| (r.verdict, r.because.clone(), r.remedy.clone(), r.hours);
    let listed = |list: &[String], what: &str| !what.is_empty() && list.iter().any(|x| x == what || x == "*");
    let metal = |p: Option<&Product>| {
        p.map(|p| if p.metal.is_empty() { p.face.clone() } else { p.metal.clone() }).unwrap_or_default()
    };
    let glue = a.map(|p| p.chemistry.as_str()).unwrap_or_default();
    let face = if lower == SHEATHING { "wood" } else { b.map(|p| p.face.as_str()).unwrap_or_default() };
    if !glue.is_empty() {
        if upper == lower {
            return Some((
                PairVerdict::Fine,
                "It is made to lap over itself.".into(),
                "Clean, dry, rolled.".into(),
                None,
            ));
        }
        let rule = rules.iter().find(|r| listed(&r.glue, glue) && listed(&r.face, face));
        return Some(rule.map_or_else(
            || {
                let because =
                    format!("No rule says whether {glue} holds on {}.", if face.is_empty() { "this" } else { face });
                (PairVerdict::Unknown, because, "Get it in writing from the maker, and record it here.".into(), None)
            },
            say,
        ));
    }
    let (m, n) = (metal(a), metal(b));
    let metals = a.is_some_and(|p| !p.metal.is_empty()) || b.is_some_and(|p| !p.metal.is_empty());
    if !metals || m == n {
        return None;
    }
    let rule = rules.iter().find(|r| {
        r.metals.len() == 2
            && ((r.metals[0] == m && listed(&r.metals[1..], &n)) || (r.metals[0] == n && listed(&r.metals[1..], &m)))
    });
    // Two metals nobody has said anything about are work to do, not a pass.
    let both = [a, b].into_iter().all(|p| p.is_some_and(|p| !p.metal.is_empty()));
    let unknown = || {
        let because = format!("No rule says whether {m} and {n} may touch.");
        (PairVerdict::Unknown, because, "Get it in writing from the maker, and record it here.".into(), None)
    };
    rule.map(say).or_else(|| both.then(unknown))
}

/// Most recorded pairs, and the longest source.
const MOST_PAIRS: usize = 400;

pub(super) fn problems(list: &[RecordedPair], known: &[Product]) -> Vec<Problem> {
    let mut out = Vec::new();
    if list.len() > MOST_PAIRS {
        out.push(Problem::new("$.kit.pairs", format!("found {} recorded pairs, at most {MOST_PAIRS}", list.len())));
    }
    for (i, r) in list.iter().enumerate() {
        for (field, name) in [("upper", &r.upper), ("lower", &r.lower)] {
            if name != SHEATHING && known.iter().all(|p| p.name != *name) {
                let message = format!("there is no generic product \"{name}\"; choose one of the library");
                out.push(Problem::new(format!("$.kit.pairs[{i}].{field}"), message));
            }
        }
        let n = r.source.trim().chars().count();
        if n == 0 || n > LONGEST_NAME {
            let message = format!(
                "the source of {} on {} has {n} characters; say in 1 to {LONGEST_NAME} who said it and where it is written",
                r.upper, r.lower
            );
            out.push(Problem::new(format!("$.kit.pairs[{i}].source"), message));
        }
    }
    out
}
