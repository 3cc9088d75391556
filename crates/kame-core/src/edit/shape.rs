//! Changes of the size of the walls and the shape of their top.

use super::{Edit, set};
use crate::job::{TopPoint, WALL_HEIGHT, WallSpec};
use crate::length::Length;
use crate::problem::Problem;
use serde::{Deserialize, Serialize};

pub(super) fn set_wall(wall: &mut WallSpec, edit: &Edit) {
    let Edit::SetWall { name, width, height, corners, levels } = edit else { return };
    let was = wall.ends();
    set(&mut wall.levels, levels);
    set(&mut wall.corners, corners);
    wall.corners.sort_by_key(|c| c.at);
    set(&mut wall.name, name);
    set(&mut wall.width, width);
    set(&mut wall.height, height);
    stretch_top(wall, &was);
}

/// The top of a wall between two corners.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum TopShape {
    /// Level at the height of the walls.
    Level,
    /// Level, lower than the others.
    Low,
    /// Up to the middle and down again.
    Gable,
    /// Rising to the right.
    RakeRight,
    /// Rising to the left.
    RakeLeft,
    /// Low in its left half.
    StepRight,
    /// Low in its right half.
    StepLeft,
}

/// The top of the walls with that of one wall made anew.
pub(super) fn shaped(
    spec: &WallSpec,
    wall: usize,
    shape: TopShape,
    low: Length,
) -> Result<Vec<TopPoint>, Vec<Problem>> {
    let ends = spec.ends();
    let (Some(&lo), Some(&hi)) = (ends.get(wall), ends.get(wall + 1)) else {
        let message = format!("there is no wall {}; this job has {}", wall + 1, ends.len() - 1);
        return Err(vec![Problem::new("$.wall", message)]);
    };
    WALL_HEIGHT.check(low).map_err(|m| vec![Problem::new("$.low", m)])?;
    let (high, middle) = (spec.height, Length::from_units((lo + hi).units() / 2));
    let here: Vec<(Length, Length)> = match shape {
        TopShape::Level => vec![(lo, high), (hi, high)],
        TopShape::Low => vec![(lo, low), (hi, low)],
        TopShape::Gable => vec![(lo, low), (middle, high), (hi, low)],
        TopShape::RakeRight => vec![(lo, low), (hi, high)],
        TopShape::RakeLeft => vec![(lo, high), (hi, low)],
        TopShape::StepRight => vec![(lo, low), (middle, low), (middle, high), (hi, high)],
        TopShape::StepLeft => vec![(lo, high), (middle, high), (middle, low), (hi, low)],
    };
    let as_it_was: Vec<TopPoint> = if spec.top.is_empty() {
        ends.iter().flat_map(|at| [TopPoint { at: *at, height: high }; 2]).collect()
    } else {
        spec.top.clone()
    };
    let kept = |left: bool| {
        // At its ends a neighbour keeps the point that is its own: the last of those left, the first of those right.
        let list: Vec<TopPoint> =
            as_it_was.iter().copied().filter(|p| if left { p.at <= lo } else { p.at >= hi }).collect();
        let end = if left { lo } else { hi };
        let own: Vec<&TopPoint> = list.iter().filter(|p| p.at == end).collect();
        let mine = if left { own.first().map(|p| p.height) } else { own.last().map(|p| p.height) };
        let mut out: Vec<TopPoint> = list.iter().copied().filter(|p| p.at != end).collect();
        let outer = if left { lo > Length::ZERO } else { hi < spec.width };
        if let Some(height) = mine.filter(|_| outer) {
            let at = if left { out.len() } else { 0 };
            out.insert(at, TopPoint { at: end, height });
        }
        out
    };
    let mut top = kept(true);
    top.extend(here.into_iter().map(|(at, height)| TopPoint { at, height }));
    top.extend(kept(false));
    top.dedup();
    let level = top.iter().all(|p| p.height == spec.height);
    Ok(if level { Vec::new() } else { top })
}

/// The top goes with the walls it is on: where corners move, every wall's part is stretched with it; where one comes or goes, only the last
/// wall's is.
fn stretch_top(wall: &mut WallSpec, was: &[Length]) {
    let now = wall.ends();
    let (was, now) = if was.len() == now.len() {
        (was.to_vec(), now)
    } else {
        let both = |list: &[Length]| [Length::ZERO].into_iter().chain(list.last().copied()).collect::<Vec<_>>();
        (both(was), both(&now))
    };
    for p in &mut wall.top {
        let i = was.windows(2).position(|w| p.at <= w[1]).unwrap_or(was.len().saturating_sub(2));
        let (from, to) = (was[i + 1] - was[i], now[i + 1] - now[i]);
        if from.is_positive() {
            let part = i128::from((p.at - was[i]).units()) * i128::from(to.units()) / i128::from(from.units());
            p.at = now[i] + Length::from_units(part as i64);
        }
    }
}
