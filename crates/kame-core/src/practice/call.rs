//! Call it: weather, surface, product; go, prepare or wait, judged by the rule that answers at the wall.

use super::chance::{between, one};
use super::drill::{FULL, Graded, MOST_ANSWERED, Said};
use crate::plan::Plan;
use crate::problem::Problem;
use crate::record::{Conditions, Go, GoAnswer, go_of};
use rand_xorshift::XorShiftRng;

/// A step, the weather on it, and what the rule says.
#[derive(Clone, Debug, PartialEq)]
pub struct CallQuestion {
    /// Id of the step.
    pub step: String,
    /// Its title.
    pub title: String,
    /// What it sticks, coats or seals with.
    pub products: Vec<String>,
    /// What it is like there.
    pub now: Conditions,
    /// What is right.
    pub right: GoAnswer,
}

/// How many questions are asked at each level.
const QUESTIONS: [usize; 5] = [2, 3, 4, 5, 6];

pub(super) fn task(plan: &Plan, level: u8, rng: &mut XorShiftRng) -> Result<Vec<CallQuestion>, String> {
    let mild = Conditions { surface_f: Some(60.0), air_f: Some(60.0), humidity: Some(50.0), ..Conditions::default() };
    let asked: Vec<&crate::trade::Step> = plan
        .steps
        .iter()
        .map(AsRef::as_ref)
        .filter(|s: &&crate::trade::Step| go_of(plan, &s.id, &mild).is_some())
        .collect();
    let n = QUESTIONS[usize::from(level.clamp(1, 5)) - 1];
    let mut out: Vec<CallQuestion> = Vec::new();
    for _ in 0..n * 20 {
        if out.len() == n {
            break;
        }
        let Some(step) = one(rng, &asked) else { break };
        let now = weather(rng);
        let Some(right) = go_of(plan, &step.id, &now) else { continue };
        // Not the same answer again and again.
        let same = out.iter().filter(|q| q.right.go == right.go).count();
        if same * 2 > n {
            continue;
        }
        let mut products: Vec<String> = Vec::new();
        for a in &step.actions {
            let of = match a.act {
                crate::trade::Act::Press { piece } | crate::trade::Act::Coat { piece, .. } => {
                    &plan.pieces[piece].product
                }
                crate::trade::Act::Seal { seal } => &plan.seals[seal].product,
                _ => continue,
            };
            if !products.contains(of) {
                products.push(of.clone());
            }
        }
        out.push(CallQuestion { step: step.id.clone(), title: step.title.clone(), products, now, right });
    }
    if out.len() < n { Err("too little on it sticks, coats or seals".into()) } else { Ok(out) }
}

/// Weather of a windy estuary, at any time of the year.
fn weather(rng: &mut XorShiftRng) -> Conditions {
    let air = f64::from(between(rng, 12, 98));
    let sun = between(rng, 0, 2) == 0;
    let warmer = if sun { f64::from(between(rng, 8, 45)) } else { f64::from(between(rng, 0, 6)) - 4.0 };
    Conditions {
        surface_f: Some(air + warmer),
        air_f: Some(air),
        humidity: Some(f64::from(between(rng, 30, 98))),
        wet: between(rng, 0, 5) == 0,
        frost: air < 32.0 && between(rng, 0, 2) == 0,
        sun,
        wind_mph: Some(f64::from(between(rng, 0, 34))),
        rain_in_h: (between(rng, 0, 3) == 0).then(|| f64::from(between(rng, 0, 12))),
    }
}

pub(super) fn grade(task: &[CallQuestion], calls: &[Go]) -> Result<Graded, Vec<Problem>> {
    if calls.len() != task.len() || calls.len() > MOST_ANSWERED {
        let message = format!("found {} calls, expected {}: answer each", calls.len(), task.len());
        return Err(vec![Problem::new("$.answer.calls", message)]);
    }
    let (mut points, mut says) = (0.0, Vec::new());
    for (q, call) in task.iter().zip(calls) {
        let (worth, said) = worth(task, q, *call);
        points += worth;
        says.push(said);
    }
    Ok(Graded::new(points, says))
}

/// What a call gives. To wait where one could go costs an hour; to go where one should not costs the wall.
pub(super) fn worth(task: &[CallQuestion], q: &CallQuestion, call: Go) -> (f64, Said) {
    let each = FULL / task.len().max(1) as f64;
    let (points, good, head) = match call.cmp(&q.right.go) {
        std::cmp::Ordering::Equal => (each, true, "Right"),
        std::cmp::Ordering::Greater => (each / 2.0, false, "Not so"),
        std::cmp::Ordering::Less => (0.0, false, "Not so"),
    };
    let says = format!("{}: {head}. {}", q.title, q.right.says.join(" "));
    (points, Said { good, says, fault: String::new() })
}
