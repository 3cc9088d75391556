//! The limits of all fields that people fill in: forms show and hold them, so that a value outside is told before it is sent.

use crate::edit::COPIES;
use crate::job::*;
use crate::kit::*;
use crate::range::{FormLimit, NAME, Range, Ranged};
use crate::takeoff::mix_limits as mix;
use std::collections::BTreeMap;

/// The limits by the name under which a form looks them up.
pub fn form_limits() -> BTreeMap<&'static str, FormLimit> {
    fn of<T: Ranged>(name: &'static str, range: Range<T>) -> (&'static str, FormLimit) {
        (name, range.form())
    }
    [
        of("name", NAME),
        of("reason", crate::interview::REASON),
        of("copies", COPIES),
        of("wall_width", WALL_WIDTH),
        of("wall_between", WALL_BETWEEN),
        of("wall_height", WALL_HEIGHT),
        of("floor_line", FLOOR_LINE),
        of("grade_line", GRADE_LINE),
        of("opening_width", OPENING_WIDTH),
        of("opening_height", OPENING_HEIGHT),
        of("opening_depth", OPENING_DEPTH),
        of("flange", FLANGE),
        of("penetration_size", PENETRATION_SIZE),
        of("line_length", LINE_LENGTH),
        of("line_height", LINE_HEIGHT),
        of("size_width", SIZE_WIDTH),
        of("size_length", SIZE_LENGTH),
        of("size_fl_oz", SIZE_FL_OZ),
        of("size_gallons", SIZE_GALLONS),
        of("size_count", SIZE_COUNT),
        of("held", HELD),
        of("cure_hours", CURE_HOURS),
        of("pair_source", PAIR_SOURCE),
        of("bead-diameter", mix::DIAMETER),
        of("bead-length", mix::RUN),
        of("bead-tube", mix::TUBE),
        of("bead-waste", mix::WASTE),
        of("coverage-ft2", mix::FT2),
        of("coverage-mil", mix::MIL),
        of("coverage-loss", mix::LOSS),
        of("coverage-rough", mix::ROUGH),
        of("coverage-pail", mix::PAIL),
        of("tape-trim", mix::TRIM),
        of("tape-margin", mix::MARGIN),
        of("tape-on", mix::ON_FRAME),
        of("fastener-layers", mix::LAYER),
        of("fastener-into", mix::INTO_STUD),
        of("fastener-step", mix::STEP),
        of("left-done", mix::DONE),
        of("left-todo", mix::FT2),
        of("left-used", mix::USED),
        of("left-has", mix::LEFT),
        of("left-readings", mix::READING),
        of("left-least", mix::MIL),
        of("left-most", mix::MIL),
    ]
    .into_iter()
    .collect()
}
