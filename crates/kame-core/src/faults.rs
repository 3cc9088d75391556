//! Single mistakes made on purpose: everything that can go wrong in one move at one wall, and what is told about it.
//!
//! # Properties
//! Each mistake of a plan that was right is either told by a finding, or there is a reason why it does not matter.

use crate::edit::{Edit, apply};
use crate::findings::{Finding, Fix, Moment, Severity, State};
use crate::job::{Deviation, DeviationKind, Job};
use crate::layup::Bond;
use crate::plan::{Plan, SurfaceId, made_alike};
use crate::profile::Profile;
use crate::recipe::Role;
use crate::remedies::is_cause_of_worry;
use crate::trade::PieceId;

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
    /// A step or a single action left out: a piece not placed, not rolled, a bead not laid.
    LeftOut {
        /// Which step or action.
        what: String,
    },
    /// A lap or size shorter than asked.
    Short {
        /// Which figure.
        figure: String,
        /// How short.
        value: String,
    },
    /// A fish-mouth, a bead where there should be none, a course off level, a piece that stops short.
    AsBuilt(Deviation),
}

/// What comes of a mistake.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum MistakeOutcome {
    /// It is told.
    Told {
        /// Code of the finding that tells it, or of the worst that was not there before.
        code: String,
        /// Its sentence.
        reason: String,
        /// True where a finding names it: what was left out, moved, cut short or done wrong.
        named: bool,
        /// What is said of the wall.
        state: State,
    },
    /// It makes no difference, and why.
    Harmless {
        /// The reason, as a sentence.
        reason: String,
        /// What is said of the wall.
        state: State,
    },
    /// It cannot be made: the job refuses it, with a sentence.
    Refused {
        /// The reason, as a sentence.
        reason: String,
    },
}

impl Mistake {
    /// The mistake as a change to the job.
    pub fn edit(&self) -> Edit {
        match self {
            Self::Swapped { step, before } => Edit::MoveStep { step: step.clone(), before: Some(before.clone()) },
            Self::LeftOut { what } => Edit::RemoveStep { step: what.clone() },
            Self::Short { figure, value } => Edit::SetFigure { id: figure.clone(), value: Some(value.clone()) },
            Self::AsBuilt(deviation) => Edit::SetAsBuilt { deviation: deviation.clone(), so: true },
        }
    }

    /// True where a finding says what was done: by what would undo it, or by a fault that names a piece it is about.
    fn is_named_by(&self, plan: &Plan, f: &Finding) -> bool {
        let step = |id: &str| plan.steps.iter().find(|s| s.id == id || s.actions.iter().any(|a| a.id == id));
        let about = |id: &str| {
            let placed = step(id).into_iter().flat_map(|s| &s.actions).filter_map(|a| a.act.placed());
            let of: Vec<&str> = placed.map(|p| plan.pieces[p].id.as_str()).collect();
            f.pieces.iter().any(|p| of.contains(&p.as_str()))
        };
        let fault = !f.code.starts_with("W-");
        match self {
            Self::LeftOut { what } => {
                let restored = |id: &str| step(id).zip(step(what)).is_some_and(|(a, b)| a.id == b.id);
                matches!(&f.fix, Some(Fix::Restore { step }) if restored(step))
            }
            Self::Swapped { step, before } => {
                matches!(&f.fix, Some(Fix::Move { step: moved, .. }) if moved == step || moved == before)
                    || fault && (about(step) || about(before))
            }
            Self::Short { figure, .. } => matches!(&f.fix, Some(Fix::Figure { id }) if id == figure),
            Self::AsBuilt(deviation) => matches!(&f.fix, Some(Fix::PutRight { deviation: d }) if d == deviation),
        }
    }
}

/// Every single mistake that can be made in a plan.
pub fn all(plan: &Plan) -> Vec<Mistake> {
    let mut out = Vec::new();
    let steps: Vec<_> = plan.order.iter().map(|s| &plan.steps[*s]).collect();
    let placed = |s: &crate::trade::Step| -> Vec<PieceId> { s.actions.iter().filter_map(|a| a.act.placed()).collect() };
    let overlap = |a: PieceId, b: PieceId| {
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
    for step in &steps {
        let mattering: Vec<_> = step.actions.iter().filter(|a| a.act.matters_to_water()).collect();
        out.extend((!mattering.is_empty()).then(|| Mistake::LeftOut { what: step.id.clone() }));
        if step.actions.len() > 1 {
            out.extend(mattering.iter().map(|a| Mistake::LeftOut { what: a.id.clone() }));
        }
    }
    if let Ok(profile) = Profile::general_practice() {
        let ends = profile.figures.iter().flat_map(|f| [(f, &f.below, &f.least), (f, &f.above, &f.most)]);
        let beyond = ends.filter(|(f, fault, end)| !fault.is_empty() && **end != f.value);
        out.extend(beyond.map(|(f, _, end)| Mistake::Short { figure: f.id.clone(), value: end.clone() }));
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
        if on_wall && p.role != Role::Unit && !p.role.is_outside() {
            out.extend(DeviationKind::ALL.into_iter().filter(|k| k.short_at().is_some()).map(of));
        }
    }
    out
}

/// Why a figure that nothing is made by does not matter.
pub const UNUSED: &str = "nothing on this wall is made by this figure";

/// A right wall, to hold mistakes against.
pub struct Right<'a> {
    job: &'a Job,
    plan: &'a Plan,
    findings: Vec<Finding>,
}

impl<'a> Right<'a> {
    /// A job as it is now.
    ///
    /// # Errors
    /// A sentence where it cannot be built.
    pub fn new(job: &'a Job, plan: &'a Plan) -> Result<Self, String> {
        Ok(Self { job, plan, findings: Moment::new(plan, usize::MAX)?.findings(plan) })
    }

    /// Makes one mistake and says what comes of it.
    ///
    /// # Errors
    /// A sentence where the wall with the mistake were no valid layup.
    pub fn with(&self, mistake: &Mistake) -> Result<MistakeOutcome, String> {
        let (_, plan) = match apply(self.job, &mistake.edit()) {
            Ok(made) => made,
            Err(problems) => {
                return Ok(MistakeOutcome::Refused {
                    reason: problems.iter().map(|p| p.message.as_str()).collect::<Vec<_>>().join(" "),
                });
            }
        };
        let moment = Moment::new(&plan, usize::MAX)?;
        let found = moment.findings(&plan);
        let known = |f: &Finding| {
            self.findings.iter().any(|k| (&k.code, k.severity, &k.reason) == (&f.code, f.severity, &f.reason))
        };
        let state = moment.verdict(&plan, &found).state;
        let new: Vec<&Finding> = found.iter().filter(|f| !known(f) && is_cause_of_worry(f)).collect();
        let named = new.iter().find(|f| mistake.is_named_by(&plan, f));
        if let Some(f) = named.or(new.first()) {
            let (code, reason) = (f.code.clone(), f.reason.clone());
            return Ok(MistakeOutcome::Told { code, reason, named: named.is_some(), state });
        }
        if matches!(mistake, Mistake::Short { .. }) && made_alike(&plan, self.plan) {
            return Ok(MistakeOutcome::Harmless { reason: UNUSED.into(), state });
        }
        let head = |scenario| moment.least(scenario).map_or("never".to_owned(), |h| format!("{:.1} in", h.inches()));
        let glue = found.iter().filter(|f| f.severity == Severity::Glue).count();
        let reason = format!(
            "either way rain stays out (least head {} with the glue holding, {} with it lost), nothing stands, and {glue} places lean on glue as before",
            head(crate::sequence::RAIN),
            head(crate::sequence::RAIN_NO_GLUE)
        );
        Ok(MistakeOutcome::Harmless { reason, state })
    }
}
