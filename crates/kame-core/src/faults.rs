//! Single mistakes made on purpose: everything that can go wrong in one move at one wall, and what is told about it.
//!
//! # Properties
//! Each mistake of a plan that was right is either told by a finding, or there is a reason why it does not matter.

use crate::edit::{Edit, apply};
use crate::findings::{Finding, Moment, Severity};
use crate::job::{Deviation, DeviationKind, Job};
use crate::layup::Bond;
use crate::plan::{Plan, SurfaceId};
use crate::profile::Profile;
use crate::recipe::Role;
use crate::trade::Act;

/// One mistake.
#[derive(Clone, Debug, PartialEq)]
pub enum Mistake {
    /// A step done before one whose pieces it overlaps and which should have come first.
    Swapped {
        /// The later step.
        step: String,
        /// Done before this one.
        before: String,
    },
    /// A single action left out: a piece not placed, not rolled, a bead not laid.
    LeftOut {
        /// Which action.
        action: String,
    },
    /// A lap or size shorter than asked.
    Short {
        /// Which figure.
        figure: String,
        /// How short.
        value: String,
    },
    /// A fish-mouth, a bead where there should be none, a course off level.
    AsBuilt(Deviation),
}

/// What comes of a mistake.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// It is told: code and sentence of the worst finding that was not there before.
    Told {
        /// Code.
        code: String,
        /// Sentence.
        reason: String,
    },
    /// It makes no difference to the water, and why.
    Harmless {
        /// Why.
        reason: String,
    },
    /// It cannot be made: the job refuses it, with a sentence.
    Refused {
        /// Why.
        reason: String,
    },
}

impl Mistake {
    /// The mistake as a change to the job.
    pub fn edit(&self) -> Edit {
        match self {
            Self::Swapped { step, before } => Edit::MoveStep { step: step.clone(), before: Some(before.clone()) },
            Self::LeftOut { action } => Edit::RemoveStep { step: action.clone() },
            Self::Short { figure, value } => Edit::SetFigure { id: figure.clone(), value: Some(value.clone()) },
            Self::AsBuilt(deviation) => Edit::SetAsBuilt { deviation: deviation.clone(), so: true },
        }
    }
}

/// Every single mistake that can be made in a plan.
pub fn all(plan: &Plan) -> Vec<Mistake> {
    let mut out = Vec::new();
    let steps: Vec<_> = plan.order.iter().map(|s| &plan.steps[*s]).collect();
    let placed = |s: &crate::trade::Step| -> Vec<usize> { s.actions.iter().filter_map(|a| a.act.placed()).collect() };
    let overlap = |a: usize, b: usize| {
        let (a, b) = (&plan.pieces[a].regions, &plan.pieces[b].regions);
        a.iter().any(|(on, r)| b.iter().any(|(other, q)| on == other && r.overlaps(*q)))
    };
    for (i, first) in steps.iter().enumerate() {
        for later in &steps[i + 1..] {
            if placed(first).iter().any(|a| placed(later).iter().any(|b| overlap(*a, *b))) {
                out.push(Mistake::Swapped { step: later.id.clone(), before: first.id.clone() });
            }
        }
    }
    let matters = |act: &Act| {
        !matches!(act, Act::Fasten | Act::Measure | Act::Hold | Act::Remove { piece: None } | Act::Wait { piece: None })
    };
    let actions = steps.iter().flat_map(|s| &s.actions).filter(|a| matters(&a.act));
    out.extend(actions.map(|a| Mistake::LeftOut { action: a.id.clone() }));
    if let Ok(profile) = Profile::general_practice() {
        let short = profile.figures.iter().filter(|f| !f.below.is_empty() && f.least != f.value);
        out.extend(short.map(|f| Mistake::Short { figure: f.id.clone(), value: f.least.clone() }));
    }
    for p in &plan.pieces {
        let on_wall = p.regions.iter().any(|(on, _)| *on == SurfaceId::WALL);
        let of = |kind| Mistake::AsBuilt(Deviation { kind, piece: p.id.clone() });
        if on_wall && p.bond == Bond::Full {
            out.push(of(DeviationKind::FishMouth));
        }
        if on_wall && p.role == Role::Unit {
            out.push(of(DeviationKind::SealedBottom));
        }
        if p.role == Role::Barrier && p.cut.as_ref().is_some_and(|c| c.roll.is_some()) {
            out.push(of(DeviationKind::OffLevel));
        }
    }
    out
}

/// A right wall, to hold mistakes against.
pub struct Right {
    job: Job,
    findings: Vec<Finding>,
}

impl Right {
    /// A job as it is now.
    ///
    /// # Errors
    /// A sentence where it cannot be built.
    pub fn new(job: &Job, plan: &Plan) -> Result<Self, String> {
        Ok(Self { job: job.clone(), findings: Moment::new(plan, usize::MAX)?.findings(plan) })
    }

    /// Makes one mistake and says what comes of it.
    ///
    /// # Errors
    /// A sentence where the wall with the mistake were no valid layup.
    pub fn with(&self, mistake: &Mistake) -> Result<Outcome, String> {
        let (_, plan) = match apply(&self.job, &mistake.edit()) {
            Ok(made) => made,
            Err(problems) => {
                return Ok(Outcome::Refused {
                    reason: problems.iter().map(|p| p.message.as_str()).collect::<Vec<_>>().join(" "),
                });
            }
        };
        let moment = Moment::new(&plan, usize::MAX)?;
        let found = moment.findings(&plan);
        let known = |f: &Finding| {
            self.findings.iter().any(|k| (&k.code, k.severity, &k.reason) == (&f.code, f.severity, &f.reason))
        };
        if let Some(f) = found.iter().find(|f| !known(f)) {
            return Ok(Outcome::Told { code: f.code.clone(), reason: f.reason.clone() });
        }
        let head = |scenario| moment.least(scenario).map_or("never".to_owned(), |h| format!("{:.1} in", h.inches()));
        let glue = found.iter().filter(|f| f.severity == Severity::Glue).count();
        let reason = format!(
            "either way rain stays out (least head {} with the glue holding, {} with it lost), nothing stands, and {glue} places lean on glue as before",
            head(crate::sequence::RAIN),
            head(crate::sequence::RAIN_NO_GLUE)
        );
        Ok(Outcome::Harmless { reason })
    }
}
