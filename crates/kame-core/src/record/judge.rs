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
/// Floating point adds its own: nobody reads to a millionth.
pub(super) const SAME: f64 = 1e-6;

/// Inches as people read them off a rule.
pub(super) fn inches(value: f64) -> String {
    Length::from_inches_f64(value).map_or_else(|| value.to_string(), |l| l.round_to(SIXTEENTHS).to_string())
}

fn said(value: f64, check: &Check) -> String {
    if check.quantity == Quantity::Length {
        return inches(value);
    }
    let unit = if check.unit == "%" { "%".to_owned() } else { format!(" {}", check.unit) };
    format!("{}{unit}", (value * 100.0).round() / 100.0)
}

/// By how much the head of a frame `w` wide leans to the right where its diagonals from low left to high right and from low right to high left are
/// `one` and `other`: about (one² − other²) / 4 w.
pub fn rack(one: f64, other: f64, w: f64) -> f64 {
    (one * one - other * other) / (4.0 * w)
}

/// What to do about a reading, in the words of its spot or its check; `{off}` and `{by}` filled in.
fn to_do(check: &Check, reading: usize, more: bool, (off, by): (&str, &str)) -> Option<String> {
    let spot = check.spots.get(reading).map(|s| if more { &s.above } else { &s.below });
    let own = if more { &check.above } else { &check.below };
    let words = spot.filter(|w| !w.is_empty()).unwrap_or(own);
    (!words.is_empty()).then(|| words.replace("{off}", off).replace("{by}", by))
}

/// Holds readings against a check. `size` is width and height of the opening in inches, where it is known.
pub fn judge(check: &Check, values: &[f64], size: Option<[f64; 2]>) -> Judgement {
    let open = |says: String| Judgement { good: None, says, worst: None };
    let missing = (check.readings as usize).saturating_sub(values.len());
    let fine = || {
        if missing > 0 {
            open(format!("{missing} more to read."))
        } else {
            Judgement { good: Some(true), says: "As it should be.".to_owned(), worst: None }
        }
    };
    let bad = |says: String, worst: usize| Judgement { good: Some(false), says, worst: Some(worst) };
    match check.judged {
        Judged::Noted | Judged::Yes => open("Written down.".to_owned()),
        Judged::Spread => {
            let (least, most) = values.iter().fold((f64::MAX, f64::MIN), |(a, b), v| (a.min(*v), b.max(*v)));
            let (apart, by) = (most - least, check.apart.unwrap_or(f64::INFINITY));
            if values.len() < 2 || apart <= by + SAME {
                return fine();
            }
            let worst = values.iter().position(|v| *v >= most).unwrap_or(0);
            let mut says = format!("{} apart, no more than {} wanted.", said(apart, check), said(by, check));
            if let ([one, other], Some([w, _])) = (values, size) {
                let push = said(rack(*one, *other, w).abs(), check);
                says.extend(to_do(check, worst, true, (&push, &push)).map(|words| format!(" {words}")));
            }
            bad(says, worst)
        }
        Judged::Bow => {
            let ([one, middle, other], Some(by)) = (values, check.tolerance) else { return fine() };
            let bow = middle - (one + other) / 2.0;
            if bow.abs() <= by + SAME {
                return fine();
            }
            let (off, beyond) = (said(bow.abs(), check), said(bow.abs() - by, check));
            let way = if bow > 0.0 { "wider" } else { "narrower" };
            let words = to_do(check, 1, bow > 0.0, (&off, &beyond)).unwrap_or_default();
            bad(format!("The middle is {off} {way} than the rest. {words}").trim_end().to_owned(), 1)
        }
        Judged::Within | Judged::Least | Judged::Most => {
            let beyond = |by: Option<f64>| by.unwrap_or(f64::NEG_INFINITY);
            let off = |v: f64| beyond(check.least.map(|l| l - v)).max(beyond(check.most.map(|m| v - m)));
            let worst = (0..values.len()).max_by(|a, b| off(values[*a]).total_cmp(&off(values[*b])));
            match worst.filter(|i| off(values[*i]) > SAME) {
                None => fine(),
                Some(i) => bad(outside(check, values[i], i, off(values[i])), i),
            }
        }
    }
}

/// What is said of a reading outside its bounds by `beyond`.
fn outside(check: &Check, v: f64, reading: usize, beyond: f64) -> String {
    let target = check.target.unwrap_or(0.0);
    let (apart, by) = (said((v * check.times - target).abs(), check), said(beyond * check.times, check));
    let more = v * check.times > target;
    let own = to_do(check, reading, more, (&apart, &by));
    let says = match (check.judged, check.quantity) {
        (Judged::Least, _) => format!("{}, at least {} wanted.", said(v, check), said(target, check)),
        (Judged::Most, _) => format!("{}, at most {} wanted.", said(v, check), said(target, check)),
        (_, Quantity::Length) if target.abs() <= SAME && own.is_some() => format!("{apart} off."),
        (_, Quantity::Length) if target.abs() <= SAME => {
            return format!("{apart} off. Bring it back by at least {by}.");
        }
        (_, Quantity::Length) => {
            let (too, then) = if more { ("too much", "Pack it out") } else { ("too little", "Trim it") };
            let then = own.unwrap_or_else(|| format!("{then} by at least {by}."));
            return format!("{apart} {too}. {then}");
        }
        _ => return format!("{apart} {}, {} asked.", if more { "above" } else { "below" }, said(target, check)),
    };
    own.map_or_else(|| says.clone(), |own| format!("{says} {own}"))
}
