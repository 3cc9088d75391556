//! Courses of the barrier on a wall (handbook 5.2).

use crate::length::Length;
use crate::surface::{Interval, Outline, Rect};
use serde::Serialize;

/// What the rule needs to know.
#[derive(Clone, Debug)]
pub struct CourseInput<'a> {
    /// The top of the wall, which says from where to where a course runs.
    pub outline: &'a Outline,
    /// From the lower edge of the first course to the top of the wall.
    pub height: Length,
    /// Roll width.
    pub roll_width: Length,
    /// Roll length.
    pub roll_length: Length,
    /// Horizontal lap.
    pub lap: Length,
    /// Vertical lap.
    pub side_lap: Length,
    /// Vertical laps of neighbouring courses at least this far apart.
    pub stagger: Length,
    /// Vertical laps at least this far from opening corners.
    pub corner_clear: Length,
    /// No horizontal lap within this above a head.
    pub clear_above: Length,
    /// No horizontal lap within this below a sill.
    pub clear_below: Length,
    /// No horizontal lap from a sill up to this: beside the pan's corner the edge of a course is one edge too many.
    pub pan_up_turn: Length,
    /// No strip narrower than this.
    pub least_strip: Length,
    /// Openings on the wall.
    pub openings: &'a [Rect],
    /// Where the wall turns a corner.
    pub corners: &'a [Length],
    /// A sheet is turned at least this far past a corner.
    pub corner_wrap: Length,
    /// True where the right end of the walls is the corner at which they began: the last length of a course is turned round it, over the
    /// first.
    pub round: bool,
}

/// One length of barrier.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct Run {
    /// Left end.
    pub left: Length,
    /// Right end.
    pub right: Length,
    /// From which roll, from 0.
    pub roll: usize,
}

/// One course.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Course {
    /// Lower edge.
    pub bottom: Length,
    /// Upper edge.
    pub top: Length,
    /// Its lengths from left to right, lapped by the side lap.
    pub runs: Vec<Run>,
}

/// The courses chosen, and what they cost.
#[derive(Default, Clone, Debug, PartialEq, Eq, Serialize)]
pub struct CoursePlan {
    /// From the bottom up.
    pub courses: Vec<Course>,
    /// Whole rolls needed.
    pub rolls: usize,
    /// Laps that fall too near a head or sill: goal 1, zero where it can be met.
    pub laps_near_openings: usize,
    /// Strips narrower than asked: goal 2.
    pub narrow_strips: usize,
    /// Upright laps for which there was no place clear of corners and of the laps of the course below.
    pub unclear_laps: usize,
    /// Why these heights, in a sentence.
    pub why: String,
}

/// The first course is tried at the roll width and at each inch less.
const RIP_STEP: Length = Length::inch(1);

/// Most lengths of barrier in the courses of one stretch of walls. A wall 2000 ft long and 60 ft high takes a few hundred from common rolls.
pub const MOST_LENGTHS: usize = 10_000;

/// Why a wall cannot be hung in courses, as a sentence with value, limit and remedy.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum CourseError {
    /// A lap that leaves less than half of what it is on: a course would hardly gain on the one before.
    #[error(
        "a {lap_of} lap of {lap} on a roll {roll} {roll_is} cannot be hung: a lap may be at most half of it, {most}. Take a {better} roll, or a lap of {most} or less."
    )]
    Lap {
        /// Which lap: `level` or `upright`.
        lap_of: &'static str,
        /// The lap.
        lap: Length,
        /// Width or length of the roll.
        roll: Length,
        /// `wide` or `long`.
        roll_is: &'static str,
        /// The greatest lap on it.
        most: Length,
        /// `wider` or `longer`.
        better: &'static str,
    },
    /// More lengths than are laid out.
    #[error(
        "the wall takes more than {MOST_LENGTHS} lengths of barrier from rolls {width} wide and {length} long: take larger rolls, or split the job."
    )]
    TooMany {
        /// Width of the roll.
        width: Length,
        /// Length of the roll.
        length: Length,
    },
}

/// The greatest lap on a roll of a width or length: half of it.
pub fn most_lap(roll: Length) -> Length {
    Length::from_units(roll.units() / 2)
}

/// Chooses the height of the first course so that, in this order, no horizontal lap falls too near a head or sill, no strip is too narrow,
/// the fewest rolls are used, and the least is ripped off (handbook 5.2). Where `own` asks for another height, that is laid out, and the reason
/// says what it costs against the best.
///
/// # Errors
/// A lap longer than half the roll it is on; more than [`MOST_LENGTHS`].
pub fn plan_courses(input: &CourseInput, own: Option<Length>) -> Result<CoursePlan, CourseError> {
    let lap = |lap_of, lap, roll, roll_is, better| {
        let most = most_lap(roll);
        if lap > most { Err(CourseError::Lap { lap_of, lap, roll, roll_is, most, better }) } else { Ok(()) }
    };
    lap("level", input.lap, input.roll_width, "wide", "wider")?;
    lap("upright", input.side_lap, input.roll_length, "long", "longer")?;
    let full = input.roll_width.min(input.height);
    let least = least_first(input.lap);
    let starts = std::iter::successors(Some(full), |first| Some(*first - RIP_STEP).filter(|next| *next >= least));
    // Lengths are laid only from starts that do best by what is known without.
    let judged: Vec<(Length, (usize, usize))> =
        starts.map(|first| (first, judge(input, &bands(input, first)))).collect();
    let best = judged.iter().map(|(_, judged)| *judged).min();
    let equal = judged.into_iter().filter(|(_, judged)| Some(*judged) == best);
    let laid: Vec<(CoursePlan, Length)> =
        equal.map(|(first, _)| Ok((lay_out(input, first)?, first))).collect::<Result<_, CourseError>>()?;
    let cost = |(p, first): &(CoursePlan, Length)| (p.rolls, p.courses.len(), input.roll_width - *first);
    let (mut plan, first) = match laid.into_iter().min_by_key(cost) {
        Some(best) => best,
        None => (lay_out(input, full)?, full),
    };
    if let Some(own) = own.map(|o| o.min(full)).filter(|o| *o != first) {
        let mut chosen = lay_out(input, own)?;
        chosen.why = cost_of(own, &chosen, first, &plan);
        return Ok(chosen);
    }
    plan.why = reason(input, &plan, first)?;
    Ok(plan)
}

/// The lowest first course that makes sense under a lap.
pub fn least_first(lap: Length) -> Length {
    (lap + lap).max(RIP_STEP)
}

/// What a first course of one's own costs against the best one.
fn cost_of(own: Length, chosen: &CoursePlan, first: Length, best: &CoursePlan) -> String {
    let told = |p: &CoursePlan| {
        let laps = match p.laps_near_openings {
            0 => "no lap near a head or sill".to_owned(),
            1 => "1 lap near a head or sill".to_owned(),
            n => format!("{n} laps near a head or sill"),
        };
        let strips = match p.narrow_strips {
            0 => String::new(),
            1 => ", 1 narrow strip".to_owned(),
            n => format!(", {n} narrow strips"),
        };
        format!("{} courses, {} roll{}, {laps}{strips}", p.courses.len(), p.rolls, if p.rolls == 1 { "" } else { "s" })
    };
    format!("First course at {own} by your choice: {}. The best start, {first}, takes {}.", told(chosen), told(best))
}

fn reason(input: &CourseInput, plan: &CoursePlan, first: Length) -> Result<String, CourseError> {
    let start = if first < input.roll_width.min(input.height) {
        let full = lay_out(input, input.roll_width.min(input.height))?;
        let gain = if full.laps_near_openings > plan.laps_near_openings {
            "a full first course would put a lap too near a head or sill"
        } else if full.narrow_strips > plan.narrow_strips {
            "a full first course would leave too narrow a strip at the top"
        } else {
            "this takes fewer rolls"
        };
        format!("First course ripped to {first}: {gain}")
    } else {
        "First course at full roll width".to_owned()
    };
    let rest = match (plan.laps_near_openings, plan.narrow_strips) {
        (0, 0) => "; every lap is clear of heads and sills and no strip is too narrow.".to_owned(),
        (n, 0) => format!("; {n} lap(s) stay too near a head or sill with this roll width: try another width."),
        (n, m) => format!(
            "; {n} lap(s) too near an opening and {m} strip(s) under {}: try another roll width.",
            input.least_strip
        ),
    };
    let unclear = match plan.unclear_laps {
        0 => String::new(),
        n => format!(
            " {n} upright lap(s) stay near an opening's corner, a corner of the wall or a lap of the course below: there is no clear place for them."
        ),
    };
    Ok(start + &rest + &unclear)
}

/// From where to where each course runs, from the bottom up.
fn bands(input: &CourseInput, first: Length) -> Vec<Interval> {
    let mut bands = vec![Interval { lo: Length::ZERO, hi: first.min(input.height) }];
    // Each gains at least half the roll's width on the one below.
    while let Some(last) = bands.last().copied().filter(|b| b.hi < input.height) {
        let lo = last.hi - input.lap;
        bands.push(Interval { lo, hi: (lo + input.roll_width).min(input.height) });
    }
    bands
}

/// Level laps too near a head or sill, and strips that are too narrow.
fn judge(input: &CourseInput, bands: &[Interval]) -> (usize, usize) {
    let laps = bands.windows(2).map(|w| Interval { lo: w[1].lo, hi: w[0].hi });
    let near = |lap: &Interval| {
        input.openings.iter().any(|o| {
            let above = Interval { lo: o.v1, hi: o.v1 + input.clear_above };
            let below = Interval { lo: o.v0 - input.clear_below, hi: (o.v0 + input.pan_up_turn).min(o.v1) };
            lap.overlap(above).is_some() || lap.overlap(below).is_some()
        })
    };
    (laps.filter(near).count(), bands.iter().filter(|b| b.span() < input.least_strip).count())
}

fn lay_out(input: &CourseInput, first: Length) -> Result<CoursePlan, CourseError> {
    let bands = bands(input, first);
    let (laps_near_openings, narrow_strips) = judge(input, &bands);
    let (width, length) = (input.roll_width, input.roll_length);
    let mut rolls = Rolls { width, length, left: length, used: 1, strips: Vec::new(), widest: Length::ZERO };
    let mut before: Vec<Length> = Vec::new();
    let (mut courses, mut lengths, mut unclear_laps) = (Vec::new(), 0, 0);
    for band in bands {
        let keep_off = KeepOff::of(input, band, &before);
        let runs = lay_runs(input, band, &keep_off, &mut rolls, MOST_LENGTHS - lengths);
        let runs = runs.ok_or(CourseError::TooMany { width, length })?;
        lengths += runs.len();
        before = runs.windows(2).filter(|w| w[1].left < w[0].right).map(|w| w[0].right).collect();
        unclear_laps += before.iter().filter(|at| !keep_off.is_clear(**at)).count();
        courses.push(Course { bottom: band.lo, top: band.hi, runs });
    }
    let (rolls, why) = (rolls.used, String::new());
    Ok(CoursePlan { courses, rolls, laps_near_openings, narrow_strips, unclear_laps, why })
}

/// Where no upright lap of a course may end: near corners of openings, near corners of the wall, near the laps of the course below.
struct KeepOff {
    /// From left to right, apart from each other; a lap may end at the end of one.
    spans: Vec<Interval>,
}

impl KeepOff {
    fn of(input: &CourseInput, band: Interval, before: &[Length]) -> Self {
        let around = |at: Length, by: Length| Interval { lo: at - by, hi: at + by };
        let here = input.openings.iter().filter(|o| o.along_v().overlap(band).is_some());
        let openings = here.flat_map(|o| [o.u0, o.u1]).map(|u| around(u, input.corner_clear));
        // Both ends of the lap stay off a corner that the sheet is turned round.
        let closing = input.round.then(|| input.outline.right());
        let turned = input.corners.iter().copied().chain(closing).map(|c| {
            let span = around(c, input.corner_wrap);
            Interval { hi: span.hi + input.side_lap, ..span }
        });
        let laps = before.iter().map(|b| around(*b, input.stagger));
        let mut all: Vec<Interval> = openings.chain(turned).chain(laps).filter(|s| s.lo < s.hi).collect();
        all.sort_by_key(|s| s.lo);
        let mut spans: Vec<Interval> = Vec::with_capacity(all.len());
        for s in all {
            match spans.last_mut() {
                Some(last) if s.lo < last.hi => last.hi = last.hi.max(s.hi),
                _ => spans.push(s),
            }
        }
        Self { spans }
    }

    /// The span that a place lies inside of.
    fn around(&self, at: Length) -> Option<Interval> {
        let i = self.spans.partition_point(|s| s.lo < at).checked_sub(1)?;
        Some(self.spans[i]).filter(|s| at < s.hi)
    }

    fn is_clear(&self, at: Length) -> bool {
        self.around(at).is_none()
    }

    /// The first clear place from `end` to the left in whole steps, not to the left of `least`; `None` where there is none.
    fn clear(&self, least: Length, end: Length) -> Option<Length> {
        let mut at = end;
        while at >= least {
            let Some(span) = self.around(at) else { return Some(at) };
            // To the end of the span or just past it: every turn leaves one span behind.
            at = end - (end - span.lo).ceil_step(RIP_STEP);
        }
        None
    }
}

/// What is left on the rolls while courses are laid one after another.
struct Rolls {
    width: Length,
    length: Length,
    left: Length,
    used: usize,
    /// What ripping left over: width, length and roll.
    strips: Vec<(Length, Length, usize)>,
    /// No strip is wider than this.
    widest: Length,
}

impl Rolls {
    /// Takes up to `wanted` of a width: from a strip that is long enough, from what is left of the roll, from a shorter strip no shorter than
    /// `least`, or from a new roll. How much, and from which roll.
    fn take(&mut self, wanted: Length, width: Length, least: Length) -> (Length, usize) {
        let strip = if width > self.widest { None } else { self.strip(wanted, width, least) };
        let (taken, roll, over) = match strip {
            Some(i) => {
                let (wide, long, roll) = self.strips.swap_remove(i);
                let taken = wanted.min(long);
                self.keep((wide, long - taken, roll));
                (taken, roll, wide - width)
            }
            None => {
                if !self.left.is_positive() {
                    self.left = self.length;
                    self.used += 1;
                }
                let taken = wanted.min(self.left);
                self.left -= taken;
                (taken, self.used - 1, self.width - width)
            }
        };
        self.keep((over, taken, roll));
        (taken, roll)
    }

    /// The strip to take from, where one is to be taken from.
    fn strip(&self, wanted: Length, width: Length, least: Length) -> Option<usize> {
        let long_enough = self.strips.iter().position(|s| s.0 >= width && s.1 >= wanted);
        long_enough.or_else(|| {
            if self.left.is_positive() {
                return None;
            }
            let wide = self.strips.iter().enumerate().filter(|(_, s)| s.0 >= width && s.1 >= least);
            wide.max_by_key(|(_, s)| s.1).map(|(i, _)| i)
        })
    }

    fn keep(&mut self, strip: (Length, Length, usize)) {
        if strip.0.is_positive() && strip.1.is_positive() {
            self.widest = self.widest.max(strip.0);
            self.strips.push(strip);
        }
    }
}

/// One course from left to right, over each stretch of wall it meets; `None` where it takes more than `most` lengths.
fn lay_runs(
    input: &CourseInput,
    band: Interval,
    keep_off: &KeepOff,
    rolls: &mut Rolls,
    most: usize,
) -> Option<Vec<Run>> {
    let stretches = input.outline.above(band.lo);
    let (left, right) = (input.outline.left(), input.outline.right());
    // Where a course goes all the way round, its last length ends past the corner it began at.
    let closes = input.round
        && stretches.first().is_some_and(|s| s.lo == left)
        && stretches.last().is_some_and(|s| s.hi == right);
    let whole = closes && stretches.len() == 1;
    let mut runs: Vec<Run> = Vec::new();
    for at in stretches {
        let hi = if closes && at.hi == right { at.hi + input.corner_wrap } else { at.hi };
        lay_stretch(input, band.span(), Interval { hi, ..at }, keep_off, rolls, (&mut runs, most))?;
    }
    if let ([only], true) = (&runs[..], whole) {
        // One length would lap over itself: two do it.
        let middle = Length::from_units((only.left + only.right).units() / 2);
        let end = keep_off.clear(only.left + input.side_lap.times(2), middle).unwrap_or(middle);
        let (one, two) = (Run { right: end, ..*only }, Run { left: end - input.side_lap, ..*only });
        runs = vec![one, two];
    }
    Some(runs)
}

/// Lays lengths over one stretch of wall. Each gains at least a side lap on the one before; an end of a roll too short for that is left over.
fn lay_stretch(
    input: &CourseInput,
    width: Length,
    at: Interval,
    keep_off: &KeepOff,
    rolls: &mut Rolls,
    (runs, most): (&mut Vec<Run>, usize),
) -> Option<()> {
    let shortest = input.side_lap.times(2);
    let least = input.stagger.max(shortest);
    let mut left = at.lo;
    loop {
        let wanted = at.hi - left;
        let (taken, roll) = rolls.take(wanted, width, least);
        if runs.len() >= most {
            return None;
        }
        if taken >= wanted {
            runs.push(Run { left, right: at.hi, roll });
            return Some(());
        }
        if taken < shortest {
            continue;
        }
        // The roll ends inside the course: the lap goes where it is clear; where it is clear nowhere, at the end of the roll.
        let end = keep_off.clear(left + shortest, left + taken).unwrap_or(left + taken);
        runs.push(Run { left, right: end, roll });
        left = end - input.side_lap;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn plan_courses(input: &CourseInput, own: Option<Length>) -> CoursePlan {
        super::plan_courses(input, own).expect("courses")
    }

    fn level(inches: i64) -> &'static Outline {
        Box::leak(Box::new(Outline::new(Vec::new(), Length::inch(inches), Length::inch(235), Length::inch(6))))
    }

    fn input(openings: &[Rect]) -> CourseInput<'_> {
        CourseInput {
            outline: level(40 * 12),
            height: Length::inch(235),
            roll_width: Length::inch(108),
            roll_length: Length::inch(1200),
            lap: Length::inch(4),
            side_lap: Length::inch(6),
            stagger: Length::inch(36),
            corner_clear: Length::inch(12),
            clear_above: Length::inch(6),
            clear_below: Length::inch(6),
            pan_up_turn: Length::inch(6),
            least_strip: Length::inch(12),
            openings,
            corners: &[],
            corner_wrap: Length::inch(12),
            round: false,
        }
    }

    #[test]
    fn a_course_that_goes_all_the_way_round_ends_past_the_corner_it_began_at_and_is_never_one_length() {
        // 590 in: what is left of the roll behind the first course would end just past the corner.
        for long in [480, 590, 1180, 2400] {
            let mut i = input(&[]);
            i.outline = level(long);
            i.round = true;
            for course in plan_courses(&i, None).courses {
                assert!(course.runs.len() > 1, "{long}: {course:?}");
                assert_eq!(course.runs.last().map(|r| r.right), Some(Length::inch(long + 12)));
                assert_eq!(course.runs[0].left, Length::ZERO);
                assert!(course.runs.iter().rev().skip(1).all(|r| r.right <= Length::inch(long - 12)), "{course:?}");
                for w in course.runs.windows(2) {
                    assert_eq!(w[0].right - w[1].left, Length::inch(6), "{course:?}");
                }
            }
        }
    }

    #[test]
    fn laps_keep_off_the_corners_a_sheet_is_turned_round() {
        let mut i = input(&[]);
        i.outline = level(2400);
        let corners = [Length::inch(1195), Length::inch(1700)];
        i.corners = &corners;
        for course in plan_courses(&i, None).courses {
            for w in course.runs.windows(2) {
                for c in corners {
                    let clear = w[0].right <= c - Length::inch(12) || w[1].left >= c + Length::inch(12);
                    assert!(clear, "lap {} to {} at the corner {c}", w[1].left, w[0].right);
                }
            }
        }
    }

    #[test]
    fn the_worked_wall_takes_three_courses_the_last_27_in_tall() {
        let plan = plan_courses(&input(&[]), None);
        let bands: Vec<_> = plan.courses.iter().map(|c| (c.bottom, c.top)).collect();
        let inch = Length::inch;
        assert_eq!(bands, [(inch(0), inch(108)), (inch(104), inch(212)), (inch(208), inch(235))]);
    }

    #[test]
    fn what_is_left_of_the_roll_is_ripped_for_the_last_course_so_the_worked_wall_takes_one_roll() {
        let plan = plan_courses(&input(&[]), None);
        assert_eq!(plan.rolls, 1);
        let last = &plan.courses[2].runs;
        assert!(last.iter().all(|r| r.roll == 0) && last[last.len() - 1].right == Length::inch(480), "{last:?}");
        for w in last.windows(2) {
            assert!(w[0].right - w[1].left >= Length::inch(6), "{last:?}");
        }
    }

    #[test]
    fn a_first_course_of_ones_own_is_laid_out_and_its_cost_told() {
        let window = [Rect::new(Length::inch(60), Length::inch(40), Length::inch(101), Length::inch(88))];
        let plan = plan_courses(&input(&window), Some(Length::inch(92)));
        assert_eq!(plan.courses[0].top, Length::inch(92));
        assert!(plan.why.contains("1 lap near a head or sill") && plan.why.contains("The best start"), "{}", plan.why);
        let best = plan_courses(&input(&window), None);
        assert_eq!(plan_courses(&input(&window), Some(best.courses[0].top)), best);
    }

    #[test]
    fn a_lap_that_would_fall_above_a_head_moves_away() {
        // Head at 100 in: a full first course would lap at 104 to 108.
        let window = [Rect::new(Length::inch(60), Length::inch(40), Length::inch(101), Length::inch(100))];
        let plan = plan_courses(&input(&window), None);
        assert_eq!(plan.laps_near_openings, 0);
        assert!(
            plan.courses[0].top <= Length::inch(100) || plan.courses[1].bottom >= Length::inch(106),
            "{:?}",
            plan.courses
        );
        assert!(plan.why.contains("ripped"), "{}", plan.why);
    }

    #[test]
    fn under_a_gable_the_courses_get_shorter_and_two_gables_have_two_lengths() {
        let points =
            |list: &[(i64, i64)]| list.iter().map(|(a, h)| (Length::inch(*a), Length::inch(*h))).collect::<Vec<_>>();
        let gable = Outline::new(
            points(&[(0, 115), (240, 235), (480, 115)]),
            Length::inch(480),
            Length::inch(235),
            Length::inch(6),
        );
        let mut i = input(&[]);
        i.outline = &gable;
        let lengths: Vec<Length> =
            plan_courses(&i, None).courses.iter().map(|c| c.runs[0].right - c.runs[0].left).collect();
        // 27 in below the ridge, on slopes of 1 in 2, it is 108 in wide, to whole steps.
        assert_eq!(lengths[0], Length::inch(480));
        assert!(lengths[2] >= Length::inch(108) && lengths[2] <= Length::inch(108 + 12), "{lengths:?}");
        let two = Outline::new(
            points(&[(0, 115), (120, 235), (240, 115), (360, 235), (480, 115)]),
            Length::inch(480),
            Length::inch(235),
            Length::inch(6),
        );
        i.outline = &two;
        assert_eq!(plan_courses(&i, None).courses[2].runs.len(), 2);
    }

    #[test]
    fn a_ripped_strip_serves_a_narrow_course() {
        let mut i = input(&[]);
        (i.height, i.roll_width) = (Length::inch(150), Length::inch(100));
        // Courses 0–100 and 96–150: 54 in wide, 46 in spare. A third wall-wide strip would fit in the spare.
        let plan = lay_out(&i, Length::inch(40)).expect("courses");
        assert_eq!(plan.courses.len(), 3);
        assert_eq!(plan.courses[0].runs[0].roll, plan.courses[2].runs[0].roll);
        assert_eq!(plan.rolls, 1);
    }

    #[test]
    fn a_wall_longer_than_a_roll_laps_clear_of_corners() {
        let window = [Rect::new(Length::inch(1190), Length::inch(40), Length::inch(1240), Length::inch(90))];
        let mut i = input(&window);
        i.outline = level(2000);
        let first = &lay_out(&i, Length::inch(108)).expect("courses").courses[0];
        let end = first.runs[0].right;
        assert!(Length::inch(1190) - end >= Length::inch(12), "lap at {end}");
        assert_eq!(first.runs.last().map(|r| r.right), Some(Length::inch(2000)));
        for w in first.runs.windows(2) {
            assert_eq!(w[0].right - w[1].left, Length::inch(6));
        }
    }

    #[test]
    fn where_no_lap_can_be_clear_it_is_placed_all_the_same_and_told() {
        // Corners 24 in apart from 600 in on, each keeping laps 12 in off: from there on no place is clear.
        let things: Vec<Rect> = (0..75)
            .map(|n| {
                Rect::new(Length::inch(600 + 24 * n), Length::inch(40), Length::inch(602 + 24 * n), Length::inch(44))
            })
            .collect();
        let mut i = input(&things);
        i.outline = level(2400);
        let plan = plan_courses(&i, None);
        assert!(plan.unclear_laps > 0 && plan.why.contains("no clear place"), "{}", plan.why);
        for course in &plan.courses {
            assert_eq!(course.runs.last().map(|r| r.right), Some(Length::inch(2400)));
        }
    }

    #[test]
    fn a_lap_longer_than_half_its_roll_is_refused_with_both_and_the_limit() {
        let mut i = input(&[]);
        (i.roll_width, i.lap) = (Length::inch(18), Length::inch(18));
        let refused = super::plan_courses(&i, None).expect_err("refused").to_string();
        assert!(refused.contains("level lap of 18\"") && refused.contains("at most half of it, 9\""), "{refused}");
        let mut i = input(&[]);
        (i.roll_length, i.side_lap) = (Length::inch(60), Length::inch(36));
        let refused = super::plan_courses(&i, None).expect_err("refused").to_string();
        assert!(refused.contains("upright lap") && refused.contains("a longer roll"), "{refused}");
    }

    #[test]
    fn more_lengths_than_are_laid_out_are_refused() {
        let mut i = input(&[]);
        i.outline = level(24_000);
        (i.height, i.roll_width, i.roll_length) = (Length::inch(720), Length::inch(18), Length::inch(60));
        (i.lap, i.side_lap) = (Length::inch(9), Length::inch(30));
        let refused = super::plan_courses(&i, None).expect_err("refused");
        assert!(matches!(refused, CourseError::TooMany { .. }), "{refused}");
    }

    proptest! {
        /// Dense features, many corners, short and narrow rolls, laps as large as rolls: an answer in which every course is covered from end
        /// to end with whole laps, or a refusal.
        #[test]
        fn courses_are_laid_over_whatever_is_given_or_refused(
            (width, height) in (24_i64..6000, 24_i64..720),
            (roll_width, roll_length) in (1_i64..144, 1_i64..1200),
            (lap, side_lap, stagger) in (1_i64..40, 1_i64..80, 0_i64..200),
            (clear, wrap) in (0_i64..60, 0_i64..60),
            (first, apart, size) in (0_i64..3000, 1_i64..60, 1_i64..40),
            corners in prop::collection::vec(1_i64..6000, 0..20),
            (round, own) in (any::<bool>(), prop::option::of(1_i64..144)),
        ) {
            let inch = Length::inch;
            let things = (0..200).map(|n| first + n * apart).take_while(|u| u + size <= width);
            let things: Vec<Rect> = things.map(|u| Rect::new(inch(u), inch(10), inch(u + size), inch(14))).collect();
            let corners: Vec<Length> = corners.into_iter().filter(|c| *c < width).map(inch).collect();
            let outline = Outline::new(Vec::new(), inch(width), inch(height), inch(6));
            let i = CourseInput {
                outline: &outline, height: inch(height), roll_width: inch(roll_width), roll_length: inch(roll_length),
                lap: inch(lap), side_lap: inch(side_lap), stagger: inch(stagger), corner_clear: inch(clear),
                clear_above: inch(6), clear_below: inch(6), pan_up_turn: inch(6), least_strip: inch(12),
                openings: &things, corners: &corners, corner_wrap: inch(wrap),
                round: round && width > 4 * side_lap,
            };
            match super::plan_courses(&i, own.map(inch)) {
                Ok(plan) => {
                    prop_assert!(lap * 2 <= roll_width && side_lap * 2 <= roll_length);
                    prop_assert_eq!(plan.courses.last().map(|c| c.top), Some(inch(height)));
                    for c in &plan.courses {
                        prop_assert!(c.runs.iter().map(|r| r.right).max() >= Some(inch(width)));
                        prop_assert_eq!(c.runs[0].left, Length::ZERO);
                        for w in c.runs.windows(2) {
                            prop_assert_eq!(w[0].right - w[1].left, inch(side_lap));
                            prop_assert!(w[0].left < w[1].left && w[0].right - w[0].left <= inch(roll_length));
                        }
                    }
                    prop_assert!(plan.courses.iter().map(|c| c.runs.len()).sum::<usize>() <= MOST_LENGTHS);
                }
                Err(CourseError::Lap { lap, most, .. }) => prop_assert!(lap > most),
                Err(CourseError::TooMany { .. }) => prop_assert!(width * height / (roll_width * roll_length) > 100),
            }
        }
    }
}
