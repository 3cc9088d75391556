//! What is planned for each opening that came out of a building model, as properties by name (handbook 8.3).

use super::ask::{Known, data_problem};
use crate::findings::{Moment, State, by_cause};
use crate::job::Job;
use crate::plan::Plan;
use crate::problem::Problem;
use crate::recipe::schools::Schools;
use crate::takeoff::{Amount, piece_amounts, step_minutes};
use crate::trade::PieceId;

/// What is planned for one opening.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Flashing {
    /// Its id in the building model.
    pub model: String,
    /// What is said of it, by name.
    pub says: Vec<(String, String)>,
}

fn cut(plan: &Plan, piece: PieceId) -> Option<String> {
    let sizes = piece_amounts(plan, piece).into_iter().filter_map(|amount| match amount {
        Amount::Piece { length, width, .. } => Some(format!("{length} × {width}")),
        Amount::Run { length } => Some(length.to_string()),
        Amount::Count { .. } | Amount::Area { .. } | Amount::Volume { .. } => None,
    });
    let sizes: Vec<String> = sizes.collect();
    (!sizes.is_empty()).then(|| sizes.join(", "))
}

/// What is planned for each opening that came out of a building model: what is said of it, how it is made, its pieces in their order, its minutes.
///
/// # Errors
/// A sentence if a stage were no valid layup, or that whoever asks stopped asking.
pub fn flashings(job: &Job, plan: &Plan, known: &Known) -> Result<Vec<Flashing>, Vec<Problem>> {
    let moment = Moment::with_known(plan, usize::MAX, &known.water).map_err(data_problem)?;
    let found = moment.findings(plan);
    let causes = by_cause(plan, &found);
    // Water that gets in elsewhere is told at every opening, or one of them would look dry on a wall that is not.
    let whole = moment.verdict(plan, &found).state.says();
    let minutes = step_minutes(plan);
    let mut out = Vec::new();
    for (spec, o) in job.openings.iter().zip(&plan.openings).filter(|(spec, _)| !spec.model.is_empty()) {
        let here = causes.iter().filter(|c| c.at.contains(&o.id.as_str())).map(|c| c.told);
        let mut says = vec![
            ("Mark".to_owned(), o.id.clone()),
            ("Verdict".to_owned(), State::of(here, moment.finished).says().to_owned()),
            ("Verdict of all walls".to_owned(), whole.to_owned()),
        ];
        let schools = Schools::of(spec.feature).map_err(data_problem)?;
        says.extend(schools.chosen(&o.answers).map(|(q, c)| (q.ask.clone(), c.name.clone())));
        let steps = plan.order.iter().filter(|s| plan.steps[**s].opening.as_ref() == Some(&o.id));
        let steps = steps.filter(|s| !plan.is_removed(&plan.steps[**s].id));
        let (mut number, mut all) = (0, 0.0);
        for s in steps {
            all += minutes[*s];
            for piece in plan.steps[*s].actions.iter().filter_map(|a| a.act.placed()) {
                if let Some(size) = cut(plan, piece) {
                    let piece = &plan.pieces[piece];
                    number += 1;
                    says.push((format!("Piece {number:02}"), format!("{}: {}, {size}", piece.name, piece.product)));
                }
            }
        }
        says.push(("Minutes".to_owned(), format!("{all:.0}")));
        out.push(Flashing { model: spec.model.clone(), says });
    }
    Ok(out)
}
