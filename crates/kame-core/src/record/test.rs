//! Tests of what was built: water, pull, air and moisture, with what their numbers say (handbook 6.4, 6.11).

use super::number::{not_a_number, not_a_reading};
use crate::length::Length;
use crate::profile::{Figures, fig};
use serde::{Deserialize, Serialize};

/// A test of what was built.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum TestKind {
    /// Water poured behind or on a sill: litres in, litres out, minutes.
    Drainage,
    /// Water sprayed on a window from low to high: inches above the sill, minutes, 1 where water came in and 0 where not.
    Spray,
    /// Tape pulled off: 1 where it tears the face, 0 where it comes off clean.
    Pull,
    /// A fan in a door: the first row is the volume in cubic feet alone; the others are pascals and cubic feet a minute.
    Air,
    /// Moisture of wood: percent.
    Moisture,
}

/// Rows of one test.
pub const MOST_ROWS: usize = 60;
/// Pressures that an air test takes at least.
pub const LEAST_PRESSURES: usize = 5;
/// At which pressure air tests are told, Pa.
const TOLD_AT: f64 = 50.0;
/// Exponents of a leak are between those of a pipe and of a hole.
const EXPONENT: std::ops::RangeInclusive<f64> = 0.5..=1.0;

impl TestKind {
    /// How many numbers stand in a row.
    fn columns(self) -> usize {
        match self {
            Self::Drainage | Self::Spray => 3,
            Self::Air => 2,
            Self::Pull | Self::Moisture => 1,
        }
    }

    /// What is wrong with the rows of such a test.
    pub fn problem(self, rows: &[Vec<String>]) -> Option<String> {
        let least = if self == Self::Air { LEAST_PRESSURES + 1 } else { 1 };
        if rows.len() < least || rows.len() > MOST_ROWS {
            return Some(format!("found {} rows, expected {least} to {MOST_ROWS}", rows.len()));
        }
        let wide = |i: usize| if self == Self::Air && i == 0 { 1 } else { self.columns() };
        let odd = rows.iter().enumerate().find(|(i, r)| r.len() != wide(*i));
        odd.map(|(i, r)| format!("found {} numbers in row {}, expected {}", r.len(), i + 1, wide(i)))
            .or_else(|| rows.iter().flatten().find_map(|v| not_a_number(v)))
    }
}

/// What water did at a spot during a test.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum WaterDid {
    /// It came out.
    Out,
    /// It stands there.
    Stands,
    /// It came in.
    In,
}

/// A spot at which water was seen during a test.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SeenWater {
    /// What it did there.
    pub did: WaterDid,
    /// To the right of the left edge of its opening (of the walls, where it is at none), in, as a decimal number in text.
    pub x: String,
    /// Above the foot of its opening (above the bottom plate, where it is at none), in, as a decimal number in text.
    pub y: String,
}

impl SeenWater {
    /// Where, in inches to the right and up.
    pub fn at(&self) -> [f64; 2] {
        [&self.x, &self.y].map(|t| t.parse().unwrap_or(0.0))
    }

    /// The same as a sentence.
    pub fn says(&self) -> String {
        let [x, y] = self.at();
        let inches = |n: f64| Length::from_inches_f64(n.abs()).unwrap_or(Length::ZERO);
        let did = match self.did {
            WaterDid::Out => "came out",
            WaterDid::Stands => "stands",
            WaterDid::In => "came in",
        };
        let side = if x < 0.0 { "left" } else { "right" };
        let level = if y < 0.0 { "below" } else { "above" };
        format!("Water {did} {} {side} of its left edge, {} {level} its foot.", inches(x), inches(y))
    }
}

/// Spots of one test.
pub const MOST_SEEN: usize = 24;

/// What is wrong with the spots of a test.
pub fn not_seen_so(seen: &[SeenWater]) -> Option<String> {
    if seen.len() > MOST_SEEN {
        return Some(format!("found {} spots, expected at most {MOST_SEEN}: keep those that tell most", seen.len()));
    }
    seen.iter().flat_map(|s| [&s.x, &s.y]).find_map(|t| not_a_reading(t))
}

/// What is said of a test.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TestAnswer {
    /// Whether it is as it should be; `null` where it says nothing of that.
    pub good: Option<bool>,
    /// In a sentence.
    pub says: String,
    /// The line through an air test.
    pub air: Option<AirFit>,
}

/// The line `flow = c · pressureⁿ` through an air test, by least squares on logarithms.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AirFit {
    /// Exponent.
    pub n: f64,
    /// Coefficient, cubic feet a minute at 1 Pa.
    pub c: f64,
    /// How much of what was read the line explains, 0 to 1.
    pub r2: f64,
    /// Flow at 50 Pa, cubic feet a minute.
    pub q50: f64,
    /// Air changes an hour at 50 Pa.
    pub ach50: f64,
}

/// Fits an air test. `None` where two pressures are not apart or a number is not above 0.
pub fn air_fit(points: &[(f64, f64)], volume: f64) -> Option<AirFit> {
    if points.len() < 2 || volume <= 0.0 || points.iter().any(|(p, q)| *p <= 0.0 || *q <= 0.0) {
        return None;
    }
    let logs: Vec<(f64, f64)> = points.iter().map(|(p, q)| (p.ln(), q.ln())).collect();
    let many = logs.len() as f64;
    let mean = |of: &dyn Fn(&(f64, f64)) -> f64| logs.iter().map(of).sum::<f64>() / many;
    let (x, y) = (mean(&|l| l.0), mean(&|l| l.1));
    let sum = |of: &dyn Fn(&(f64, f64)) -> f64| logs.iter().map(of).sum::<f64>();
    let (xx, xy, yy) = (sum(&|l| (l.0 - x).powi(2)), sum(&|l| (l.0 - x) * (l.1 - y)), sum(&|l| (l.1 - y).powi(2)));
    if xx < 1e-9 {
        return None;
    }
    let n = xy / xx;
    let c = (y - n * x).exp();
    let r2 = if yy < 1e-12 { 1.0 } else { xy * xy / (xx * yy) };
    let q50 = c * TOLD_AT.powf(n);
    Some(AirFit { n, c, r2, q50, ach50: q50 * 60.0 / volume })
}

/// What the numbers of a test say; its rows have no [`TestKind::problem`].
pub fn test_answer(test: TestKind, rows: &[Vec<String>], figures: &Figures) -> TestAnswer {
    let number =
        |r: usize, c: usize| rows.get(r).and_then(|r| r.get(c)).and_then(|t| t.parse::<f64>().ok()).unwrap_or(0.0);
    let column = |c: usize| (0..rows.len()).map(move |r| number(r, c));
    let said = |good: bool, says: String| TestAnswer { good: Some(good), says, air: None };
    match test {
        TestKind::Drainage => {
            let (poured, out) = (column(0).sum::<f64>(), column(1).sum::<f64>());
            let kept = poured - out;
            if poured <= 0.0 || kept < 0.0 {
                return said(false, format!("{out} l out of {poured} l in: read it again."));
            }
            let good = kept <= poured * figures.number(fig::DRAIN_KEPT) / 100.0;
            let rest = if good { "it drains" } else { "look where the rest stands" };
            said(good, format!("{out} of {poured} l came out in {} min: {rest}.", column(2).sum::<f64>()))
        }
        TestKind::Spray => match (0..rows.len()).find(|r| number(*r, 2) > 0.0) {
            Some(r) => {
                let (at, minutes) = (number(r, 0), number(r, 1));
                said(
                    false,
                    format!(
                        "Water came in with the spray {at} in above the sill, after {minutes} min: what leaks is there or just below."
                    ),
                )
            }
            None => said(true, format!("No water came in up to {} in above the sill.", column(0).fold(0.0, f64::max))),
        },
        TestKind::Pull => {
            let clean = column(0).filter(|v| *v <= 0.0).count();
            let good = clean == 0;
            let rest = if good {
                "it tears the face before it lets go."
            } else {
                "it lets go: clean, prime or warm the base, and try again."
            };
            said(good, format!("{} of {} came off clean: {rest}", clean, rows.len()))
        }
        TestKind::Moisture => {
            let most = column(0).fold(0.0, f64::max);
            let allowed = figures.number(fig::WOOD_MOISTURE);
            let good = most <= allowed;
            let rest = if good { "dry enough to cover." } else { "let it dry before it is covered." };
            said(good, format!("{most} % at the wettest, {allowed} % at most wanted: {rest}"))
        }
        TestKind::Air => {
            let points: Vec<(f64, f64)> = (1..rows.len()).map(|r| (number(r, 0), number(r, 1))).collect();
            let Some(air) = air_fit(&points, number(0, 0)) else {
                return said(false, "Pressures have to differ, and all numbers be above 0: measure again.".into());
            };
            let told = format!(
                "{:.0} cfm and {:.2} air changes an hour at 50 Pa (n {:.2}, r² {:.3}).",
                air.q50, air.ach50, air.n, air.r2
            );
            let (good, says) = if !EXPONENT.contains(&air.n) {
                (
                    Some(false),
                    format!(
                        "n is {:.2}, which no leak has (0.5 to 1): wind, or a door that moved. Measure again.",
                        air.n
                    ),
                )
            } else if air.r2 < figures.number(fig::AIR_TEST_R2) {
                (
                    Some(false),
                    format!(
                        "The readings lie beside the line (r² {:.3}): measure again when it is calm. {told}",
                        air.r2
                    ),
                )
            } else {
                (None, told)
            };
            TestAnswer { good, says, air: Some(air) }
        }
    }
}
