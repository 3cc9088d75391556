//! Lengths read, written and rounded.

use super::*;
use proptest::prelude::*;

#[track_caller]
fn reads(text: &str, expected: Length) {
    assert_eq!(Length::parse(text), Ok(expected), "{text}");
}

#[test]
fn people_s_ways_of_writing_are_read_exactly() {
    let forty_and_a_half = Length::inch_fraction(81, 2);
    for text in [
        "40 1/2",
        "40.5\"",
        "40-1/2",
        "3'-4 1/2\"",
        "3' 4 1/2",
        "3'4½\"",
        "3 ft 4 1/2 in",
        "40½",
        "1028.7 mm",
        "1.0287 m",
        "102.87cm",
        "3’ – 4 1/2”",
    ] {
        reads(text, forty_and_a_half);
    }
    reads("1028 mm", Length::mm(1028));
    reads("1.03 m", Length::mm(1030));
    reads("19' 6", Length::inch(234));
    reads("1/64", Length::from_units(15_875));
    reads("0.1mm", Length::from_units(4_000));
    reads("-2 1/4\"", Length::inch_fraction(-9, 4));
    reads("6 1/2'", Length::inch(78));
    reads("0", Length::ZERO);
    reads(".5", Length::inch_fraction(1, 2));
}

#[test]
fn nonsense_is_refused_with_what_was_found() {
    for (text, part) in [
        ("", "empty"),
        ("   ", "empty"),
        ("wide", "\"wide\" is not a length"),
        ("40 1/0", "divides by zero"),
        ("40 parsecs", "stuck at"),
        ("3'-4'", "stuck at"),
        ("4\" 3'", "stuck at"),
        ("1.2.3", "stuck at"),
        ("9999999 m", "longer than 2000 ft (610 m)"),
        ("99999999999999999999", "longer than 2000 ft (610 m)"),
        ("NaN", "is not a length"),
        ("1e9", "stuck at"),
    ] {
        let error = Length::parse(text).expect_err(text).to_string();
        assert!(error.contains(part), "{text:?} gave {error:?}");
    }
}

#[test]
fn printing_follows_the_trade() {
    let l = Length::inch_fraction(81, 2);
    assert_eq!(l.inches(16), "40 1/2");
    assert_eq!(l.feet_inches(16), "40 1/2\"");
    assert_eq!(Length::inch(234).feet_inches(16), "19'-6\"");
    assert_eq!(l.millimetres(), "1028.7 mm");
    assert_eq!(Length::inch_fraction(-1, 4).inches(16), "-1/4");
    assert_eq!(Length::from_units(1).exact(), "0.000025 mm");
    assert_eq!(Length::mm(1028).exact(), "1028 mm");
}

#[test]
fn cut_sizes_are_never_rounded_down() {
    assert_eq!(Length::inch_fraction(671, 10).ceil_step(Length::inch_fraction(1, 8)), Length::inch_fraction(537, 8));
    assert_eq!(Length::inch_fraction(269, 4).ceil_step(Length::inch_fraction(1, 8)), Length::inch_fraction(269, 4));
}

#[test]
fn one_inch_of_head_is_about_twenty_metres_a_second() {
    let head = Head::from_inches(1.0);
    assert_eq!(head.pascals(), 249.0);
    assert!((head.wind() - 20.37).abs() < 0.01, "{}", head.wind());
}

proptest! {
    #[test]
    fn the_exact_text_reads_back_to_the_same_length(units in -LONGEST.units()..=LONGEST.units()) {
        let l = Length::from_units(units);
        prop_assert_eq!(Length::parse(&l.exact()), Ok(l));
    }

    #[test]
    fn sixty_fourths_survive_inches_and_feet(n in -200_000_i64..200_000) {
        let l = Length::inch_fraction(n, 64);
        prop_assert_eq!(Length::parse(&l.inches(64)), Ok(l));
        prop_assert_eq!(Length::parse(&l.feet_inches(64)), Ok(l));
    }

    #[test]
    fn tenths_of_a_millimetre_survive_metric(n in -900_000_i64..900_000) {
        let l = Length::from_units(n * 4_000);
        prop_assert_eq!(Length::parse(&l.millimetres()), Ok(l));
    }

    #[test]
    fn no_text_makes_the_reader_panic(text in ".{0,40}") {
        if let Ok(l) = Length::parse(&text) {
            prop_assert!(l.units().abs() <= LONGEST.units());
        }
    }

    #[test]
    fn rounding_up_stays_within_one_step(units in 0..LONGEST.units()) {
        let l = Length::from_units(units);
        let up = l.ceil_step(Length::inch_fraction(1, 8));
        prop_assert!(up >= l && up - l < Length::inch_fraction(1, 8));
        prop_assert_eq!(up.ceil_step(Length::inch_fraction(1, 8)), up);
    }
}
