//! What may be said of a wall in one sentence, and the least head of every water with the glue holding and lost (handbook 4.9).

use super::{Finding, Moment, Severity};
use crate::layup::Glue;
use crate::length::Head;
use crate::plan::Plan;
use foldhash::HashMap;

/// What is said of a wall, the worst first: the first that holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[repr(u8)]
pub enum State {
    /// With the glue holding, water reaches some place under its floor.
    GetsIn = 1,
    /// Water stands and cannot leave.
    Stands = 2,
    /// A step is left out or cannot be done, lies the wrong way round, does not cover what it has to, or a fault is there.
    NotAsPlanned = 3,
    /// The work stops here on purpose.
    Unfinished = 4,
    /// All as planned, and some place falls under its floor once the glue is lost.
    WhileGlueHolds = 5,
    /// Every water stays out with the glue lost.
    ByLaps = 6,
}

impl State {
    /// Every state, the worst first.
    pub const ALL: [Self; 6] =
        [Self::GetsIn, Self::Stands, Self::NotAsPlanned, Self::Unfinished, Self::WhileGlueHolds, Self::ByLaps];

    /// Its number, from 1, the worst.
    pub fn number(self) -> u8 {
        self as u8
    }

    /// True where it is good news.
    pub fn is_dry(self) -> bool {
        self >= Self::WhileGlueHolds
    }

    /// The same in words, for people.
    pub fn says(self) -> &'static str {
        match self {
            Self::GetsIn => "Water gets in",
            Self::Stands => "Water stands",
            Self::NotAsPlanned => "Not as planned",
            Self::Unfinished => "Not finished",
            Self::WhileGlueHolds => "Dry while the glue holds",
            Self::ByLaps => "Dry by its laps",
        }
    }

    /// What findings come to.
    pub fn of<'a>(found: impl IntoIterator<Item = &'a Finding>, finished: bool) -> Self {
        let of_one = |f: &Finding| match f.severity {
            Severity::Leak => Self::GetsIn,
            Severity::Pond => Self::Stands,
            Severity::Blocked | Severity::Order | Severity::Missing | Severity::Fault => Self::NotAsPlanned,
            Severity::Glue => Self::WhileGlueHolds,
            Severity::Note => Self::ByLaps,
        };
        let best = if finished { Self::ByLaps } else { Self::Unfinished };
        found.into_iter().map(of_one).fold(best, Self::min)
    }
}

/// Name of rain among the waters.
pub const RAIN_KIND: &str = "rain";

/// The least head at which one kind of water gets where it must not.
#[derive(Clone, Debug, PartialEq)]
pub struct WaterHead<'a> {
    /// What water it is: `rain`, or the kind of leak, all features of the wall together.
    pub kind: &'a str,
    /// What people call it.
    pub name: &'a str,
    /// Whether the glue holds.
    pub glue: Glue,
    /// The least head of all places that count; `None` where there is no way in.
    pub head: Option<Head>,
    /// The least that is asked.
    pub floor: f64,
    /// Index of the target of the plan that is reached at that head.
    pub target: Option<usize>,
}

/// The least heads at which any water that is asked about gets in at one place.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct PlaceHead {
    /// While the glue holds; `None` where there is no way in.
    pub holds: Option<Head>,
    /// Once it is lost; `None` where there is no way in.
    pub lost: Option<Head>,
}

/// The verdict on a moment.
#[derive(Clone, Debug, PartialEq)]
pub struct Verdict<'a> {
    /// What is said.
    pub state: State,
    /// Every water, with the glue holding and lost.
    pub heads: Vec<WaterHead<'a>>,
    /// True where every step is done.
    pub finished: bool,
}

impl Moment {
    /// The verdict on this moment, of which everything was `found`.
    pub fn verdict<'a>(&self, plan: &'a Plan, found: &[Finding]) -> Verdict<'a> {
        Verdict { state: State::of(found, self.finished), heads: self.water_heads(plan), finished: self.finished }
    }

    /// The least heads of each opening of the plan, of all waters together.
    pub fn place_heads(&self, plan: &Plan) -> Vec<PlaceHead> {
        let numbers: HashMap<&str, usize> = plan.openings.iter().enumerate().map(|(n, o)| (o.id.as_str(), n)).collect();
        let of_target = |t: usize| numbers.get(plan.water.targets[t].id.rsplit_once('/')?.0).copied();
        let mut out = vec![PlaceHead::default(); plan.openings.len()];
        for part in &self.parts {
            for r in &part.answer().reach {
                let target = part.targets[r.target];
                let Some((head, _)) = r.least.filter(|_| part.counts(plan, r.scenario, target)) else { continue };
                let Some(place) = of_target(target) else { continue };
                let place = &mut out[place];
                let least = if part.is_lost(r.scenario) { &mut place.lost } else { &mut place.holds };
                if least.is_none_or(|known| head.inches() < known.inches()) {
                    *least = Some(head);
                }
            }
        }
        out
    }

    /// The least head of every water that is asked about, with the glue holding and lost.
    fn water_heads<'a>(&self, plan: &'a Plan) -> Vec<WaterHead<'a>> {
        let mut out: Vec<WaterHead> = Vec::new();
        let floor = |glue| plan.floor(glue == Glue::Lost).to_inches_f64();
        for part in &self.parts {
            let mut place = |(s, leak): (usize, &Option<usize>)| {
                let glue = if part.is_lost(s) { Glue::Lost } else { Glue::Holds };
                let (kind, name) =
                    leak.map_or((RAIN_KIND, "Rain"), |l| (&plan.water.leaks[l].kind, &plan.water.leaks[l].name));
                let known = out.iter().position(|w| (w.kind, w.glue) == (kind, glue));
                known.unwrap_or_else(|| {
                    out.push(WaterHead { kind, name, glue, head: None, floor: floor(glue), target: None });
                    out.len() - 1
                })
            };
            let of_scenario: Vec<usize> = part.leaks.iter().enumerate().map(&mut place).collect();
            for r in &part.answer().reach {
                let target = part.targets[r.target];
                let Some((head, _)) = r.least.filter(|_| part.counts(plan, r.scenario, target)) else { continue };
                let water = &mut out[of_scenario[r.scenario]];
                if water.head.is_none_or(|least| head.inches() < least.inches()) {
                    (water.head, water.target) = (Some(head), Some(target));
                }
            }
        }
        out.sort_by_key(|w| w.kind != RAIN_KIND);
        out
    }
}
