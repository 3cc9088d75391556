//! Calculators a crew reaches for, each with its working: beads to a tube, coverage by gauge, tape width from trim, fastener length from
//! layers, and whether the liquid that is left will do.

use super::quantity::coverage;
use super::quantity::{bead, coat};
use crate::length::Length;
use crate::problem::Problem;
use crate::range::{Range, Ranged};
use serde::{Deserialize, Serialize};

/// What is asked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(tag = "ask", rename_all = "snake_case", deny_unknown_fields)]
pub enum Mix {
    /// How far a tube goes, and how many are needed.
    Bead {
        /// Diameter of the bead.
        diameter: Length,
        /// How long the bead is; zero to ask only how far a tube goes.
        length: Length,
        /// US fluid ounces in a tube.
        tube: f64,
        /// More for waste, in percent.
        waste: f64,
    },
    /// How much of a coat.
    Coverage {
        /// Square feet.
        ft2: f64,
        /// Wet thickness in mil, by the gauge.
        mil: f64,
        /// Loss in percent.
        loss: f64,
        /// Roughness of the sheathing, 1 for smooth.
        rough: f64,
        /// US gallons in a pail.
        pail: f64,
    },
    /// How wide the tape has to be.
    TapeWidth {
        /// Width of the trim from the frame's edge.
        trim: Length,
        /// Past the trim's outer edge.
        margin: Length,
        /// On the frame.
        on_frame: Length,
        /// Widths in stock.
        stocked: Vec<Length>,
    },
    /// How long the fastener has to be.
    FastenerLength {
        /// What it goes through, from outside in.
        layers: Vec<Length>,
        /// Into the stud at least.
        into_stud: Length,
        /// Lengths come in steps of this.
        step: Length,
    },
    /// Whether the liquid that is left will do for the rest, from readings so far.
    FluidLeft {
        /// Square feet done.
        done: f64,
        /// Square feet to do.
        to_do: f64,
        /// Gallons used.
        used: f64,
        /// Gallons left.
        left: f64,
        /// Readings of the comb gauge so far, in mil.
        readings: Vec<f64>,
        /// Least and greatest wet thickness asked.
        asked: [f64; 2],
    },
}

/// The answer.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Mixed {
    /// In one sentence.
    pub answer: String,
    /// How it was worked out.
    pub working: Vec<String>,
    /// What to look out for; empty where there is nothing.
    pub remark: String,
}

fn told<T: Ranged>(field: &str, range: &Range<T>, value: T) -> Option<Problem> {
    range.check(value).err().map(|message| Problem::new(format!("$.{field}"), message))
}

fn checked(list: Vec<Option<Problem>>) -> Result<(), Vec<Problem>> {
    let list: Vec<Problem> = list.into_iter().flatten().collect();
    if list.is_empty() { Ok(()) } else { Err(list) }
}

/// What each calculator takes. The least wet thickness asked is besides the greatest one's lower end.
pub mod limits {
    use crate::length::Length;
    use crate::range::{LengthRange, Range};

    const AGAIN: &str = "measure again";
    const fn lengths(what: &'static str, least: Length, most: Length) -> LengthRange {
        Range { what, least, most, remedy: AGAIN }
    }
    const fn numbers(what: &'static str, least: f64, most: f64) -> Range<f64> {
        Range { what, least, most, remedy: AGAIN }
    }
    const ZERO: Length = Length::ZERO;

    /// Diameter of a bead.
    pub const DIAMETER: LengthRange = lengths("the bead", Length::inch_fraction(1, 16), Length::inch(2));
    /// Length of a bead; zero to ask only how far a tube goes.
    pub const RUN: LengthRange = lengths("its length", ZERO, crate::length::LONGEST);
    /// US fluid ounces in a tube.
    pub const TUBE: Range<f64> = numbers("the tube", 1.0, 1000.0);
    /// More for waste, in percent.
    pub const WASTE: Range<f64> = numbers("the waste in percent", 0.0, 90.0);
    /// An area in square feet.
    pub const FT2: Range<f64> = numbers("the area", 0.0, 1e6);
    /// Wet thickness in mil.
    pub const MIL: Range<f64> = numbers("the wet thickness", 1.0, 250.0);
    /// Loss in percent.
    pub const LOSS: Range<f64> = numbers("the loss in percent", 0.0, 90.0);
    /// Roughness of the sheathing, 1 for smooth.
    pub const ROUGH: Range<f64> = numbers("the roughness", 1.0, 5.0);
    /// US gallons in a pail.
    pub const PAIL: Range<f64> = numbers("the pail", 0.1, 100.0);
    /// Width of the trim.
    pub const TRIM: LengthRange = lengths("the trim", ZERO, Length::inch(24));
    /// Past the trim's outer edge.
    pub const MARGIN: LengthRange = lengths("the margin", ZERO, Length::inch(6));
    /// On the frame.
    pub const ON_FRAME: LengthRange = lengths("what is on the frame", ZERO, Length::inch(2));
    /// Into the stud.
    pub const INTO_STUD: LengthRange = lengths("what goes into the stud", Length::inch_fraction(1, 2), Length::inch(6));
    /// Step in which lengths come.
    pub const STEP: LengthRange = lengths("the step of lengths", Length::inch_fraction(1, 8), Length::inch(2));
    /// What a fastener goes through.
    pub const LAYER: LengthRange = lengths("a layer", ZERO, Length::inch(24));
    /// Square feet done so far.
    pub const DONE: Range<f64> = numbers("the area done", 0.1, 1e6);
    /// Gallons used so far.
    pub const USED: Range<f64> = numbers("what is used", 0.01, 1e6);
    /// Gallons left.
    pub const LEFT: Range<f64> = numbers("what is left", 0.0, 1e6);
    /// A reading of the comb gauge, in mil.
    pub const READING: Range<f64> = numbers("a reading", 0.0, MIL.most);
}

/// Answers.
///
/// # Errors
/// Values that cannot be, each with its limits.
pub fn mix(ask: &Mix) -> Result<Mixed, Vec<Problem>> {
    match ask {
        Mix::Bead { diameter, length, tube, waste } => beads(*diameter, *length, *tube, *waste),
        Mix::Coverage { ft2, mil, loss, rough, pail } => coat_for(*ft2, *mil, *loss, *rough, *pail),
        Mix::TapeWidth { trim, margin, on_frame, stocked } => tape_width(*trim, *margin, *on_frame, stocked),
        Mix::FastenerLength { layers, into_stud, step } => fastener_length(layers, *into_stud, *step),
        Mix::FluidLeft { done, to_do, used, left, readings, asked } => {
            fluid_left(*done, *to_do, *used, *left, readings, *asked)
        }
    }
}

/// How far a tube of sealant goes, or how many a run takes.
fn beads(diameter: Length, run: Length, tube: f64, waste: f64) -> Result<Mixed, Vec<Problem>> {
    use limits::*;
    checked(vec![
        told("diameter", &DIAMETER, diameter),
        told("length", &RUN, run),
        told("tube", &TUBE, tube),
        told("waste", &WASTE, waste),
    ])?;
    let (d, l) = (diameter.to_inches_f64(), run.to_inches_f64());
    let to_tube = tube / bead(d, 1.0);
    let all = bead(d, l) * (1.0 + waste / 100.0);
    let tubes = (all / tube - 1e-9).ceil().max(0.0);
    let answer = if run == Length::ZERO {
        format!("A tube of {tube} fl oz makes {to_tube:.0} in of {diameter} bead.")
    } else {
        format!("{tubes} tube(s) of {tube} fl oz for {run} of {diameter} bead.")
    };
    let area = std::f64::consts::FRAC_PI_4 * d * d;
    let mut working = vec![
        format!("bead area π/4 × {d}² = {area:.3} in²"),
        format!(
            "{tube} fl oz × {:.3} = {:.1} in³, / {area:.3} = {to_tube:.0} in before waste",
            crate::length::IN3_PER_FL_OZ,
            tube * crate::length::IN3_PER_FL_OZ
        ),
    ];
    if run.is_positive() {
        working.push(format!("{l:.1} in × {area:.3} × {:.2} = {all:.2} fl oz", 1.0 + waste / 100.0));
    }
    Ok(Mixed { answer, working, remark: String::new() })
}

/// How much of a coat an area takes.
fn coat_for(ft2: f64, mil: f64, loss: f64, rough: f64, pail: f64) -> Result<Mixed, Vec<Problem>> {
    use limits::*;
    checked(vec![
        told("ft2", &FT2, ft2),
        told("mil", &MIL, mil),
        told("loss", &LOSS, loss),
        told("rough", &ROUGH, rough),
        told("pail", &PAIL, pail),
    ])?;
    let gallons = coat(ft2, mil, loss, rough);
    let pails = (gallons / pail - 1e-9).ceil().max(0.0);
    let working = vec![
        format!("a gallon covers 1604 ft² at 1 mil, {:.0} ft² at {mil} mil", coverage(mil)),
        format!("{ft2} × {mil} × {rough} / 1604 / {:.2} = {gallons:.2} gal", 1.0 - loss / 100.0),
    ];
    Ok(Mixed { answer: format!("{gallons:.2} gal: {pails} pail(s) of {pail} gal."), working, remark: String::new() })
}

/// The tape that covers what it has to.
fn tape_width(trim: Length, margin: Length, on_frame: Length, stocked: &[Length]) -> Result<Mixed, Vec<Problem>> {
    use limits::*;
    checked(vec![told("trim", &TRIM, trim), told("margin", &MARGIN, margin), told("on_frame", &ON_FRAME, on_frame)])?;
    let needed = trim + margin + on_frame;
    let working = vec![format!("trim {trim} + {margin} past it + {on_frame} on the frame = {needed}")];
    let widest = stocked.iter().copied().max();
    let answer = match stocked.iter().copied().filter(|w| *w >= needed).min() {
        Some(w) => format!("{w} tape."),
        None => format!("No stocked width is {needed} or more."),
    };
    let remark = match widest {
        Some(w) if w < needed => format!(
            "The widest stocked is {w}: two strips, the inner one first, the outer lapped over it; or narrower trim."
        ),
        _ => String::new(),
    };
    Ok(Mixed { answer, working, remark })
}

/// The fastener that goes through what it has to.
fn fastener_length(layers: &[Length], into_stud: Length, step: Length) -> Result<Mixed, Vec<Problem>> {
    use limits::*;
    let mut list = vec![told("into_stud", &INTO_STUD, into_stud), told("step", &STEP, step)];
    list.extend(layers.iter().enumerate().map(|(i, l)| told(&format!("layers[{i}]"), &LAYER, *l)));
    checked(list)?;
    let through: Length = layers.iter().copied().sum();
    let needed = through + into_stud;
    let take = needed.ceil_step(step);
    let parts = layers.iter().map(ToString::to_string).collect::<Vec<_>>().join(" + ");
    Ok(Mixed {
        answer: format!("{take} long."),
        working: vec![format!(
            "{} + {into_stud} into the stud = {needed}, next length {take}",
            if parts.is_empty() { "nothing".into() } else { parts }
        )],
        remark: "The structure's own schedule comes first.".into(),
    })
}

/// Whether what is left of a coat will do.
fn fluid_left(
    done: f64,
    to_do: f64,
    used: f64,
    left: f64,
    readings: &[f64],
    asked: [f64; 2],
) -> Result<Mixed, Vec<Problem>> {
    use limits::*;
    checked(vec![
        told("done", &DONE, done),
        told("to_do", &FT2, to_do),
        told("used", &USED, used),
        told("left", &LEFT, left),
        told("asked[0]", &MIL, asked[0]),
        told("asked[1]", &Range { least: asked[0].max(MIL.least), ..MIL }, asked[1]),
        readings.iter().find_map(|r| told("readings", &READING, *r)),
    ])?;
    let rate = used / done;
    let needed = rate * to_do;
    let enough = needed <= left + 1e-9;
    let answer = if enough {
        format!("{left} gal will do: the rest takes {needed:.2} gal as it has gone so far.")
    } else {
        format!(
            "{:.2} gal short: the rest takes {needed:.2} gal as it has gone so far, {left} gal are left.",
            needed - left
        )
    };
    let mut working = vec![format!(
        "{used} gal on {done} ft²: {:.1} ft² to a gallon; {to_do} ft² / that = {needed:.2} gal",
        done / used
    )];
    let mut remark = String::new();
    if let Some(least) = readings.iter().copied().min_by(f64::total_cmp) {
        let mean = readings.iter().sum::<f64>() / readings.len() as f64;
        working.push(format!(
            "{} readings: least {least} mil, mean {mean:.1} mil, asked {} to {}",
            readings.len(),
            asked[0],
            asked[1]
        ));
        if least < asked[0] {
            remark = format!(
                "The thinnest reading, {least} mil, is under {}: go over it while it is wet. At {} mil throughout the rest takes {:.2} gal.",
                asked[0],
                asked[0],
                needed * asked[0] / mean.max(1.0)
            );
        } else if mean > asked[1] {
            remark =
                format!("It goes on at {mean:.1} mil, more than {}: thinner coats last longer and cure.", asked[1]);
        }
    }
    Ok(Mixed { answer, working, remark })
}
