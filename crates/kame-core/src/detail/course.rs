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
    /// Why these heights, in a sentence.
    pub why: String,
}

/// The first course is tried at the roll width and at each inch less.
const RIP_STEP: Length = Length::inch(1);

/// Chooses the height of the first course so that, in this order, no horizontal lap falls too near a head or sill, no strip is too narrow,
/// the fewest rolls are used, and the least is ripped off (handbook 5.2). Where `own` asks for another height, that is laid out, and the reason
/// says what it costs against the best.
pub fn plan_courses(input: &CourseInput, own: Option<Length>) -> CoursePlan {
    let mut best: Option<(CoursePlan, Length)> = None;
    let mut first = input.roll_width.min(input.height);
    let least = least_first(input.lap);
    loop {
        let plan = lay_out(input, first);
        let cost = |p: &CoursePlan, f: Length| {
            (p.laps_near_openings, p.narrow_strips, p.rolls, p.courses.len(), input.roll_width - f)
        };
        if best.as_ref().is_none_or(|(b, f)| cost(&plan, first) < cost(b, *f)) {
            best = Some((plan, first));
        }
        first -= RIP_STEP;
        if first < least {
            break;
        }
    }
    let (mut plan, first) = best.unwrap_or_else(|| (lay_out(input, input.height), input.height));
    if let Some(own) = own.map(|o| o.min(input.roll_width).min(input.height)).filter(|o| *o != first) {
        let mut chosen = lay_out(input, own);
        chosen.why = cost_of(own, &chosen, first, &plan);
        return chosen;
    }
    plan.why = reason(input, &plan, first);
    plan
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

fn reason(input: &CourseInput, plan: &CoursePlan, first: Length) -> String {
    let start = if first < input.roll_width.min(input.height) {
        let full = lay_out(input, input.roll_width.min(input.height));
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
    start + &rest
}

fn lay_out(input: &CourseInput, first: Length) -> CoursePlan {
    let mut bands = vec![Interval { lo: Length::ZERO, hi: first.min(input.height) }];
    while let Some(last) = bands.last().copied().filter(|b| b.hi < input.height) {
        let lo = last.hi - input.lap;
        bands.push(Interval { lo, hi: (lo + input.roll_width).min(input.height) });
    }
    let laps = bands.windows(2).map(|w| Interval { lo: w[1].lo, hi: w[0].hi });
    let near = |lap: &Interval| {
        input.openings.iter().any(|o| {
            let above = Interval { lo: o.v1, hi: o.v1 + input.clear_above };
            let below = Interval { lo: o.v0 - input.clear_below, hi: (o.v0 + input.pan_up_turn).min(o.v1) };
            lap.overlap(above).is_some() || lap.overlap(below).is_some()
        })
    };
    let laps_near_openings = laps.filter(near).count();
    let narrow_strips = bands.iter().filter(|b| b.span() < input.least_strip).count();
    let (width, length) = (input.roll_width, input.roll_length);
    let mut rolls = Rolls { width, length, left: length, used: 1, strips: Vec::new() };
    let mut before: Vec<Length> = Vec::new();
    let mut courses = Vec::new();
    for band in bands {
        let runs = lay_runs(input, band, &before, &mut rolls);
        before = runs.windows(2).filter(|w| w[1].left < w[0].right).map(|w| w[0].right).collect();
        courses.push(Course { bottom: band.lo, top: band.hi, runs });
    }
    CoursePlan { courses, rolls: rolls.used, laps_near_openings, narrow_strips, why: String::new() }
}

/// What is left on the rolls while courses are laid one after another.
struct Rolls {
    width: Length,
    length: Length,
    left: Length,
    used: usize,
    /// What ripping left over: width, length and roll.
    strips: Vec<(Length, Length, usize)>,
}

impl Rolls {
    /// Takes up to `wanted` of a width: from a strip that is long enough, from what is left of the roll, from a shorter strip no shorter than
    /// `least`, or from a new roll. How much, and from which roll.
    fn take(&mut self, wanted: Length, width: Length, least: Length) -> (Length, usize) {
        let long_enough = |length: Length| self.strips.iter().position(|s| s.0 >= width && s.1 >= length);
        let strip = long_enough(wanted).or_else(|| {
            if self.left.is_positive() {
                return None;
            }
            let wide = self.strips.iter().enumerate().filter(|(_, s)| s.0 >= width && s.1 >= least);
            wide.max_by_key(|(_, s)| s.1).map(|(i, _)| i)
        });
        let (taken, roll, over) = match strip {
            Some(i) => {
                let (wide, long, roll) = self.strips.swap_remove(i);
                let taken = wanted.min(long);
                self.strips.push((wide, long - taken, roll));
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
        self.strips.push((over, taken, roll));
        self.strips.retain(|s| s.0.is_positive() && s.1.is_positive());
        (taken, roll)
    }
}

/// One course from left to right, over each stretch of wall it meets.
fn lay_runs(input: &CourseInput, band: Interval, before: &[Length], rolls: &mut Rolls) -> Vec<Run> {
    let stretches = input.outline.above(band.lo);
    let (left, right) = (input.outline.left(), input.outline.right());
    // Where a course goes all the way round, its last length ends past the corner it began at.
    let closes = input.round
        && stretches.first().is_some_and(|s| s.lo == left)
        && stretches.last().is_some_and(|s| s.hi == right);
    let whole = closes && stretches.len() == 1;
    let past = |at: Interval| {
        let hi = if closes && at.hi == right { at.hi + input.corner_wrap } else { at.hi };
        lay_stretch(input, band, Interval { hi, ..at }, before, rolls)
    };
    let mut runs: Vec<Run> = stretches.into_iter().flat_map(past).collect();
    if let ([only], true) = (&runs[..], whole) {
        // One length would lap over itself: two do it.
        let middle = Length::from_units((only.left + only.right).units() / 2);
        let end = clear_lap(input, band, before, middle);
        let (one, two) = (Run { right: end, ..*only }, Run { left: end - input.side_lap, ..*only });
        runs = vec![one, two];
    }
    runs
}

fn lay_stretch(input: &CourseInput, band: Interval, at: Interval, before: &[Length], rolls: &mut Rolls) -> Vec<Run> {
    let width = band.span();
    let least = input.stagger.max(input.side_lap + input.side_lap);
    let mut runs: Vec<Run> = Vec::new();
    let mut left = at.lo;
    loop {
        let wanted = at.hi - left;
        let (taken, roll) = rolls.take(wanted, width, least);
        if taken >= wanted {
            runs.push(Run { left, right: at.hi, roll });
            return runs;
        }
        // The roll ends inside the course: the lap goes where it is clear, and never runs back past the start of this length.
        let end = clear_lap(input, band, before, left + taken);
        if end - left > input.side_lap {
            runs.push(Run { left, right: end, roll });
            left = end - input.side_lap;
        }
    }
}

/// The right end of a length, moved left until its lap is clear of opening corners and of the laps of the course below.
fn clear_lap(input: &CourseInput, band: Interval, before: &[Length], end: Length) -> Length {
    let near = |at: Length, other: Length, by: Length| at - other < by && other - at < by;
    let mut at = end;
    while at > input.outline.left() {
        let corner = input
            .openings
            .iter()
            .filter(|o| o.along_v().overlap(band).is_some())
            .flat_map(|o| [o.u0, o.u1])
            .any(|c| near(at, c, input.corner_clear));
        let closing = input.round.then(|| input.outline.right());
        let turned = input
            .corners
            .iter()
            .chain(&closing)
            .all(|c| at <= *c - input.corner_wrap || at - input.side_lap >= *c + input.corner_wrap);
        if !corner && turned && !before.iter().any(|b| near(at, *b, input.stagger)) {
            return at;
        }
        at -= RIP_STEP;
    }
    end
}

#[cfg(test)]
mod tests {
    use super::*;

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
        let plan = lay_out(&i, Length::inch(40));
        assert_eq!(plan.courses.len(), 3);
        assert_eq!(plan.courses[0].runs[0].roll, plan.courses[2].runs[0].roll);
        assert_eq!(plan.rolls, 1);
    }

    #[test]
    fn a_wall_longer_than_a_roll_laps_clear_of_corners() {
        let window = [Rect::new(Length::inch(1190), Length::inch(40), Length::inch(1240), Length::inch(90))];
        let mut i = input(&window);
        i.outline = level(2000);
        let first = &lay_out(&i, Length::inch(108)).courses[0];
        let end = first.runs[0].right;
        assert!(Length::inch(1190) - end >= Length::inch(12), "lap at {end}");
        assert_eq!(first.runs.last().map(|r| r.right), Some(Length::inch(2000)));
        for w in first.runs.windows(2) {
            assert_eq!(w[0].right - w[1].left, Length::inch(6));
        }
    }
}
