//! Compatibility of touching pairs: who touches whom in the finished wall, by the plan, and what is known of the two.

use crate::kit::{PairVerdict, Product, RecordedPair, SHEATHING};
use crate::length::IN2_PER_FT2;
use crate::plan::{Plan, SurfaceId};
use crate::sequence::Stage;
use crate::surface::{Along, Rect};
use crate::trade::{PieceId, StepId};
use foldhash::HashMap;
use serde::{Deserialize, Serialize};
use smallvec::{SmallVec, smallvec};
use std::cell::RefCell;
use std::collections::{BTreeMap, BTreeSet};
use std::rc::Rc;
use std::sync::{Arc, OnceLock};

const DATA: &str = include_str!("../data/contact.toml");

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct PairRule {
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
    /// The reason, as the middle of a sentence.
    pub because: String,
    /// What somebody should do, as a sentence.
    pub remedy: String,
    /// Hours the lower one has to cure first, where it has to.
    pub hours: Option<f64>,
    /// Where it is recorded; empty where a rule says it, or nobody does.
    pub source: String,
    /// How many pieces, or beads, touch the other.
    pub places: usize,
    /// Over how many square feet.
    pub ft2: f64,
    /// At which openings and other features, by id.
    pub at: Vec<String>,
}

fn rules() -> Result<&'static [PairRule], String> {
    #[derive(Debug, Deserialize)]
    struct File {
        rule: Vec<PairRule>,
    }
    static READ: OnceLock<Result<File, String>> = OnceLock::new();
    let read = || toml::from_str(DATA).map_err(|e| format!("the data of pairs does not read: {e}"));
    READ.get_or_init(read).as_ref().map(|f| f.rule.as_slice()).map_err(Clone::clone)
}

/// Where one thing lies on, or sticks to, another in the finished wall.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Touch<'a> {
    /// The piece above, or the piece behind which a bead lies.
    pub piece: PieceId,
    /// The upper product: that of the piece, or what the bead is made of.
    pub upper: &'a str,
    /// The piece below; `None` for the bare sheathing.
    pub on: Option<PieceId>,
    /// Over how many square inches.
    pub area: f64,
}

impl<'a> Touch<'a> {
    /// The product of what is below.
    pub(crate) fn lower(&self, plan: &'a Plan) -> &'a str {
        self.on.map_or(SHEATHING, |p| plan.pieces[p].product.as_str())
    }
}

fn inches(r: Rect) -> f64 {
    r.width().to_inches_f64() * r.height().to_inches_f64()
}

/// Layers that lie at one place; there are a few.
type Layers = SmallVec<[usize; 16]>;

/// The layers that a rectangle reaches, the outermost first.
fn from_outside(lying: &Along<usize>, rect: Rect) -> Layers {
    let mut reached = Layers::new();
    lying.reaching(rect, |_, layer| reached.push(layer));
    reached.sort_unstable_by(|a, b| b.cmp(a));
    reached.dedup();
    reached
}

/// Everything that touches in the finished wall, layer by layer.
pub(crate) fn touches(plan: &Plan) -> Vec<Touch<'_>> {
    touches_in(plan, &Stage::after(plan, plan.actions().map(|(_, a)| a)), |_| true)
}

/// What lies on a plan's wall when all is done, laid when it is first asked for, by whoever asks.
#[derive(Debug, Default)]
pub(crate) struct Finished {
    stage: OnceLock<Arc<Stage>>,
}

impl Finished {
    /// The finished wall of a plan: always the same plan.
    pub(crate) fn stage(&self, plan: &Plan) -> &Arc<Stage> {
        self.stage.get_or_init(|| Arc::new(Stage::after(plan, plan.actions().map(|(_, a)| a))))
    }

    /// What touches there, of some products above others; nothing is looked at where there are none.
    fn touches<'a>(&self, plan: &'a Plan, uppers: &BTreeSet<&str>) -> Vec<Touch<'a>> {
        if uppers.is_empty() { Vec::new() } else { touches_in(plan, self.stage(plan), |p| uppers.contains(p)) }
    }
}

/// What touches on a wall as it stands, of all that is above something else as far as its product is `asked` about.
fn touches_in<'a>(plan: &'a Plan, stage: &Stage, asked: impl Fn(&str) -> bool) -> Vec<Touch<'a>> {
    let mut out: HashMap<(PieceId, &str, Option<PieceId>), f64> = HashMap::default();
    let mut lying: HashMap<SurfaceId, Along<usize>> = HashMap::default();
    for (i, laid) in stage.layers.iter().enumerate() {
        let upper = plan.pieces[laid.piece].product.as_str();
        let on = lying.entry(laid.on).or_default();
        if !asked(upper) {
            on.put(laid.rect, i);
            continue;
        }
        let mut open: SmallVec<[Rect; 8]> = smallvec![laid.rect];
        for under in from_outside(on, laid.rect).into_iter().map(|u| &stage.layers[u]) {
            if open.is_empty() {
                break;
            }
            if under.piece != laid.piece && open.iter().any(|r| r.overlaps(under.rect)) {
                let met: f64 = open.iter().filter_map(|r| r.intersection(under.rect)).map(inches).sum();
                *out.entry((laid.piece, upper, Some(under.piece))).or_default() += met;
                open = open.into_iter().flat_map(|r| r.minus(under.rect)).collect();
            }
        }
        if !open.is_empty() {
            *out.entry((laid.piece, upper, None)).or_default() += open.into_iter().map(inches).sum::<f64>();
        }
        on.put(laid.rect, i);
    }
    // A bead lies behind its piece, on what is there below it.
    let mut first: HashMap<(PieceId, SurfaceId), usize> = HashMap::default();
    for (i, laid) in stage.layers.iter().enumerate() {
        first.entry((laid.piece, laid.on)).or_insert(i);
    }
    for &s in &stage.seals {
        let seal = &plan.seals[s];
        let upper = seal.product.as_str();
        if !asked(upper) {
            continue;
        }
        out.entry((seal.behind, upper, Some(seal.behind))).or_default();
        for (on, rect) in &seal.rects {
            let piece = first.get(&(seal.behind, *on)).copied().unwrap_or(stage.layers.len());
            let lying = lying.get(on).map_or_else(Layers::new, |l| from_outside(l, *rect));
            let under = lying.into_iter().find(|l| *l < piece).map(|l| stage.layers[l].piece);
            *out.entry((seal.behind, upper, under)).or_default() += inches(*rect);
        }
    }
    let mut out: Vec<_> = out.into_iter().collect();
    out.sort_unstable_by_key(|(of, _)| *of);
    out.into_iter().map(|((piece, upper, on), area)| Touch { piece, upper, on, area }).collect()
}

/// What was told of two products before, the upper one first.
type ToldBefore<'a> = HashMap<(&'a str, &'a str), Option<Rc<PairTold>>>;

/// What is known of products that touch, asked once for each two.
pub(crate) struct KnownPairs<'a> {
    products: HashMap<&'a str, &'a Product>,
    rules: &'static [PairRule],
    recorded: &'a [RecordedPair],
    told: RefCell<ToldBefore<'a>>,
}

/// What is known of two products.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct PairTold {
    /// Whether they may touch.
    pub verdict: PairVerdict,
    /// The reason, as the middle of a sentence.
    pub because: String,
    /// What somebody should do, as a sentence.
    pub remedy: String,
    /// Hours before the upper may come.
    pub hours: Option<f64>,
    /// Where it is recorded; empty where a rule says it, or nobody does.
    pub source: String,
}

impl<'a> KnownPairs<'a> {
    /// Of a plan's products, with what was recorded for it.
    ///
    /// # Errors
    /// A sentence if the shipped data were broken.
    pub(crate) fn new(plan: &'a Plan) -> Result<Self, String> {
        let products = plan.basis.products.iter().map(|p| (p.name.as_str(), p)).collect();
        Ok(Self { products, rules: rules()?, recorded: &plan.basis.recorded, told: RefCell::default() })
    }

    /// The products of which it could be told that they lie on another one of the plan, if the two touched. Where there is none, nobody need
    /// look what touches.
    fn uppers(&self, plan: &'a Plan, is: impl Fn(&PairTold) -> bool) -> BTreeSet<&'a str> {
        let names: BTreeSet<&str> = plan.pieces.iter().map(|p| p.product.as_str()).collect();
        let mut over: BTreeSet<&str> = plan.seals.iter().map(|s| s.product.as_str()).collect();
        over.extend(&names);
        let told = |u: &'a str, l: &'a str| self.of(u, l).is_some_and(|told| is(&told));
        over.retain(|u| names.iter().copied().chain([SHEATHING]).any(|l| told(u, l)));
        over
    }

    /// `None` where two only lie on each other.
    pub(crate) fn of(&self, upper: &'a str, lower: &'a str) -> Option<Rc<PairTold>> {
        let find = || {
            let of = |name: &str| self.products.get(name).copied();
            let mut told = verdict(self.rules, upper, lower, of(upper), of(lower))?;
            if let Some(r) = self.recorded.iter().find(|r| r.upper == upper && r.lower == lower) {
                told = PairTold {
                    verdict: r.verdict,
                    because: "It is recorded for this job.".into(),
                    remedy: String::new(),
                    hours: r.hours.filter(|_| r.verdict == PairVerdict::After),
                    source: r.source.clone(),
                };
            }
            Some(Rc::new(told))
        };
        self.told.borrow_mut().entry((upper, lower)).or_insert_with(find).clone()
    }
}

/// Every two products that touch in the finished wall and are not only laid on each other: what sticks and what it sticks to, and two metals.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn touching_pairs(plan: &Plan) -> Result<Vec<Pair>, String> {
    pairs_of(plan, &touches(plan))
}

/// Pairs that touch on a wall as it stands and never may.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub(crate) fn never_may_touch(plan: &Plan, stage: &Stage) -> Result<Vec<Pair>, String> {
    let never = |told: &PairTold| told.verdict == PairVerdict::Never;
    let uppers = KnownPairs::new(plan)?.uppers(plan, never);
    if uppers.is_empty() {
        return Ok(Vec::new());
    }
    let mut pairs = pairs_of(plan, &touches_in(plan, stage, |p| uppers.contains(p)))?;
    pairs.retain(|p| p.verdict == PairVerdict::Never);
    Ok(pairs)
}

fn pairs_of(plan: &Plan, all: &[Touch<'_>]) -> Result<Vec<Pair>, String> {
    let known = KnownPairs::new(plan)?;
    let mut touching: BTreeMap<(&str, &str), (BTreeSet<PieceId>, f64)> = BTreeMap::new();
    for t in all {
        let entry = touching.entry((t.upper, t.lower(plan))).or_default();
        entry.0.insert(t.piece);
        entry.1 += t.area;
    }
    let mut out: Vec<Pair> = Vec::new();
    for ((upper, lower), (pieces, area)) in touching {
        let Some(told) = known.of(upper, lower) else { continue };
        let at: BTreeSet<&str> =
            pieces.iter().filter_map(|p| Some(plan.openings[plan.pieces[*p].opening?].id.as_str())).collect();
        out.push(Pair {
            upper: upper.to_owned(),
            lower: lower.to_owned(),
            verdict: told.verdict,
            because: told.because.clone(),
            remedy: told.remedy.clone(),
            hours: told.hours,
            source: told.source.clone(),
            places: pieces.len(),
            ft2: (area / IN2_PER_FT2 * 10.0).round() / 10.0,
            at: at.into_iter().map(str::to_owned).collect(),
        });
    }
    out.sort_by(|a, b| (a.verdict, &a.upper, &a.lower).cmp(&(b.verdict, &b.upper, &b.lower)));
    Ok(out)
}

/// A piece that has to wait until what is below it has cured.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CureWait {
    /// Index of the step that has to wait.
    #[cfg_attr(feature = "openapi", schema(value_type = usize))]
    pub step: StepId,
    /// Index of the step that has to be that long ago.
    #[cfg_attr(feature = "openapi", schema(value_type = usize))]
    pub after: StepId,
    /// How long, in hours.
    pub hours: f64,
    /// What waits for what, in words.
    pub because: String,
}

/// Which steps wait for which, and how long: where something sticks to a coat or a sealant that has to cure first.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn cure_waits(plan: &Plan) -> Result<Vec<CureWait>, String> {
    cure_waits_on(plan, &Finished::default())
}

/// The same, of a wall that may be known finished.
pub(crate) fn cure_waits_on(plan: &Plan, wall: &Finished) -> Result<Vec<CureWait>, String> {
    let known = KnownPairs::new(plan)?;
    let cures = |t: &PairTold| t.verdict == PairVerdict::After && t.hours.is_some_and(|h| h > 0.0);
    let uppers = known.uppers(plan, cures);
    if uppers.is_empty() {
        return Ok(Vec::new());
    }
    let mut laid: HashMap<PieceId, StepId> = HashMap::default();
    for (s, action) in plan.actions() {
        if let Some(piece) = action.act.placed() {
            laid.insert(piece, s);
        }
    }
    let place: HashMap<StepId, usize> = plan.order.iter().enumerate().map(|(n, &s)| (s, n)).collect();
    let mut out: BTreeMap<(StepId, StepId), CureWait> = BTreeMap::new();
    for t in wall.touches(plan, &uppers) {
        let lower = t.lower(plan);
        let Some(told) = known.of(t.upper, lower).filter(|told| cures(told)) else { continue };
        let (Some(&step), Some(&after)) = (laid.get(&t.piece), t.on.and_then(|p| laid.get(&p))) else { continue };
        let hours = told.hours.unwrap_or_default();
        if place.get(&after) < place.get(&step) && out.get(&(step, after)).is_none_or(|w| w.hours < hours) {
            let because = format!("{} on {lower}: {}", t.upper, told.because);
            out.insert((step, after), CureWait { step, after, hours, because });
        }
    }
    Ok(out.into_values().collect())
}

/// Square feet to prime under each piece that asks for it: piece and area.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub(crate) fn primers(plan: &Plan) -> Result<Vec<(PieceId, f64)>, String> {
    primers_on(plan, &Finished::default())
}

/// The same, of a wall that may be known finished.
pub(crate) fn primers_on(plan: &Plan, wall: &Finished) -> Result<Vec<(PieceId, f64)>, String> {
    let known = KnownPairs::new(plan)?;
    let primer = |told: &PairTold| told.verdict == PairVerdict::Primer;
    let uppers = known.uppers(plan, primer);
    let mut out: BTreeMap<PieceId, f64> = BTreeMap::new();
    for t in wall.touches(plan, &uppers) {
        let told = known.of(t.upper, t.lower(plan));
        if told.is_some_and(|told| primer(&told)) && t.upper == plan.pieces[t.piece].product {
            *out.entry(t.piece).or_default() += t.area / IN2_PER_FT2;
        }
    }
    Ok(out.into_iter().collect())
}

/// Faces whose salts or acids can eat a metal.
const EATS: [&str; 3] = ["wood", "treated wood", "concrete"];
const GET_IT: &str = "Get it in writing from the maker, and record it here.";

fn told(verdict: PairVerdict, because: &str, remedy: &str, hours: Option<f64>) -> PairTold {
    PairTold { verdict, because: because.to_owned(), remedy: remedy.to_owned(), hours, source: String::new() }
}

/// What is known of two products; `None` where they only lie on each other.
fn verdict(rules: &[PairRule], upper: &str, lower: &str, a: Option<&Product>, b: Option<&Product>) -> Option<PairTold> {
    let say = |r: &PairRule| told(r.verdict, &r.because, &r.remedy, r.hours);
    let listed = |list: &[String], what: &str| !what.is_empty() && list.iter().any(|x| x == what || x == "*");
    let metal = |p: Option<&Product>| {
        p.map(|p| if p.metal.is_empty() { p.face.clone() } else { p.metal.clone() }).unwrap_or_default()
    };
    let glue = a.map(|p| p.chemistry.as_str()).unwrap_or_default();
    let face = if lower == SHEATHING { "wood" } else { b.map(|p| p.face.as_str()).unwrap_or_default() };
    if !glue.is_empty() {
        if upper == lower {
            return Some(told(PairVerdict::Fine, "It is made to lap over itself.", "Clean, dry, rolled.", None));
        }
        let rule = rules.iter().find(|r| listed(&r.glue, glue) && listed(&r.face, face));
        return Some(rule.map_or_else(
            || {
                let because =
                    format!("No rule says whether {glue} holds on {}.", if face.is_empty() { "this" } else { face });
                told(PairVerdict::Unknown, &because, GET_IT, None)
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
    // Two metals, or metal and wood or masonry, that nobody has said anything about are work to do, not a pass.
    let matters = |p: Option<&Product>| p.is_some_and(|p| !p.metal.is_empty() || EATS.contains(&p.face.as_str()));
    let both = matters(a) && matters(b);
    let unknown = || {
        let because = format!("No rule says whether {m} and {n} may touch.");
        told(PairVerdict::Unknown, &because, GET_IT, None)
    };
    rule.map(say).or_else(|| both.then(unknown))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn told(upper: &str, lower: &str) -> Option<PairVerdict> {
        let known: HashMap<&str, &Product> =
            crate::kit::products().expect("products").iter().map(|p| (p.name.as_str(), p)).collect();
        let of = |name: &str| known.get(name).copied();
        verdict(rules().expect("rules"), upper, lower, of(upper), of(lower)).map(|t| t.verdict)
    }

    #[test]
    fn rules_name_a_glue_and_a_face_or_two_metals_and_say_what_to_do() {
        for r in rules().expect("rules") {
            assert!((!r.glue.is_empty() && !r.face.is_empty()) != (r.metals.len() == 2), "{r:?}");
            assert!(!r.because.is_empty() && !r.remedy.is_empty(), "{r:?}");
            assert_eq!(r.verdict == PairVerdict::After, r.hours.is_some(), "{r:?}");
        }
    }

    #[test]
    fn the_rules_that_always_hold_are_said() {
        assert_eq!(told("Thick flashing membrane", "Flanged vent hood"), Some(PairVerdict::Never));
        assert_eq!(told("Thick flashing membrane", "Flanged window"), Some(PairVerdict::Unknown), "rigid vinyl");
        assert_eq!(told("Thick flashing membrane", "Flanged boot"), Some(PairVerdict::Never));
        assert_eq!(told("Flashing tape", SHEATHING), Some(PairVerdict::Primer));
        assert_eq!(told("Flashing tape", "Loose barrier sheet"), Some(PairVerdict::Fine));
        assert_eq!(told("Flashing tape", "Flashing tape"), Some(PairVerdict::Fine));
        assert_eq!(told("Stretch flashing membrane", "Fluid-applied barrier"), Some(PairVerdict::After));
        assert_eq!(told(crate::kit::named::SEALANT, "Stretch flashing membrane"), Some(PairVerdict::Unknown));
        assert_eq!(told("Metal drip cap", "Ledger board"), Some(PairVerdict::Mechanically));
        assert_eq!(told("Metal drip cap", "Metal flashing"), Some(PairVerdict::Fine));
        assert_eq!(told("Metal flashing", "Metal base flashing"), None, "one metal on itself");
        assert_eq!(told("Loose barrier sheet", "Flashing tape"), None, "what is only laid on");
        assert_eq!(told("Flashing tape", "a product nobody knows"), Some(PairVerdict::Unknown));
    }
}
