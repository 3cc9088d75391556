//! Readings held against what they should be, and what to do about those that are off (handbook 6.9).

use crate::checks::Check;
use crate::length::Length;
use crate::recipe::checks::{Judged, Quantity};
use serde::Serialize;

/// What is said of the readings of a check.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Judgement {
    /// Whether they are as they should be; `null` where nobody judges them, or more have to be taken.
    pub good: Option<bool>,
    /// In a sentence: how far off, and what to do.
    pub says: String,
    /// The reading that is farthest off, from 0; `null` where none is.
    pub worst: Option<usize>,
}

/// Readings of checks are told to this part of an inch.
const SIXTEENTHS: i64 = 16;

fn said(value: f64, check: &Check) -> String {
    if check.quantity == Quantity::Length {
        return Length::from_inches_f64(value)
            .map_or_else(|| value.to_string(), |l| l.round_to(SIXTEENTHS).to_string());
    }
    format!("{} {}", (value * 100.0).round() / 100.0, check.unit)
}

/// Holds readings against a check. `size` is width and height of the opening in inches, where it is known.
pub fn judge(check: &Check, values: &[f64], size: Option<[f64; 2]>) -> Judgement {
    let open = |says: String| Judgement { good: None, says, worst: None };
    let missing = (check.readings as usize).saturating_sub(values.len());
    let target = check.target.unwrap_or(0.0);
    // Floating point adds its own: nobody reads to a millionth.
    const SAME: f64 = 1e-6;
    let beyond = |by: Option<f64>| by.unwrap_or(f64::NEG_INFINITY);
    let off = |v: f64| beyond(check.least.map(|l| l - v)).max(beyond(check.most.map(|m| v - m)));
    let good = |says: &str| {
        if missing > 0 {
            open(format!("{missing} more to read."))
        } else {
            Judgement { good: Some(true), says: says.to_owned(), worst: None }
        }
    };
    match check.judged {
        Judged::Noted | Judged::Yes => open("Written down.".to_owned()),
        Judged::Spread => {
            let (least, most) = values.iter().fold((f64::MAX, f64::MIN), |(a, b), v| (a.min(*v), b.max(*v)));
            let (apart, by) = (most - least, check.apart.unwrap_or(f64::INFINITY));
            if values.len() < 2 || apart <= by + SAME {
                return good("As it should be.");
            }
            let mut says = format!("{} apart, no more than {} wanted.", said(apart, check), said(by, check));
            if let ([one, other], Some([w, _])) = (values, size) {
                // The head leans by about (d1² − d2²) / 4 w; the longer diagonal is pushed shorter.
                let rack = (one * one - other * other).abs() / (4.0 * w);
                let which = if one > other { "first" } else { "second" };
                says += &format!(" Push the head {} so that the {which} diagonal gets shorter.", said(rack, check));
            }
            Judgement { good: Some(false), says, worst: values.iter().position(|v| *v >= most) }
        }
        Judged::Within | Judged::Least | Judged::Most => {
            let worst = (0..values.len()).max_by(|a, b| off(values[*a]).total_cmp(&off(values[*b])));
            let Some((i, v)) = worst.map(|i| (i, values[i])).filter(|(_, v)| off(*v) > SAME) else {
                return good("As it should be.");
            };
            let (apart, beyond) = (said((v - target).abs(), check), said(off(v), check));
            let more = v > target;
            let says = match (check.judged, check.quantity) {
                (Judged::Least, _) => format!("{}, at least {} wanted.", said(v, check), said(target, check)),
                (Judged::Most, _) => format!("{}, at most {} wanted.", said(v, check), said(target, check)),
                (_, Quantity::Length) if target.abs() <= SAME => {
                    format!("{apart} off. Bring it back by at least {beyond}.")
                }
                (_, Quantity::Length) => {
                    let (too, then) = if more { ("too much", "Pack it out") } else { ("too little", "Trim it") };
                    format!("{apart} {too}. {then} by at least {beyond}.")
                }
                _ => format!("{apart} {}, {} asked.", if more { "above" } else { "below" }, said(target, check)),
            };
            Judgement { good: Some(false), says, worst: Some(i) }
        }
    }
}
