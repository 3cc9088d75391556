//! Lines that fit and lines that do not: by hand, as they ship, and on any text.

use super::*;
use proptest::prelude::*;

fn words(lines: &str) -> Words {
    Words::read(&[lines]).expect("lines")
}

#[test]
fn sentences_are_said_one_after_the_other_with_their_sizes_and_names() {
    let w = words(
        r#"
        "Roll." = "Pase el rodillo."
        "Cut {long} of tape." = "Corte {long} de cinta."
        "{joint} {wide} wide over every joint." = "{joint} de {wide} sobre cada junta."
        "Joint tape" = "Cinta"
        "roll the {=name}" = "pasar el rodillo: {=name}"
        "head flashing" = "tapajuntas"
        "#,
    );
    let said = |text: &str| w.of(text).unwrap_or_else(|| panic!("{text}"));
    assert_eq!(said("Cut 43 3/4\" of tape. Roll."), "Corte 43 3/4\" de cinta. Pase el rodillo.");
    assert_eq!(said("Joint tape 4\" wide over every joint. Roll."), "Cinta de 4\" sobre cada junta. Pase el rodillo.");
    // What people named stays as they did, but for places that have to be known.
    assert_eq!(said("Our tape 4\" wide over every joint."), "Our tape de 4\" sobre cada junta.");
    assert_eq!(said("roll the head flashing"), "pasar el rodillo: tapajuntas");
    assert_eq!(w.of("roll the dice"), None);
    assert_eq!(w.of("Roll. Then rest."), None);
    assert_eq!(w.of("Rolled."), None);
    let mut unknown = "Then rest.".to_owned();
    w.turn(&mut unknown);
    assert_eq!(unknown, "Then rest.");
}

#[test]
fn a_line_that_cannot_be_used_is_named() {
    let wrong = |lines: &str| Words::read(&[lines]).expect_err("refused");
    assert!(wrong(r#""Cut {long}." = "Corte.""#).contains("other places than in English: Cut {long}."));
    assert!(wrong(r#""Roll." = " ""#).contains("nothing is said for: Roll."));
    assert!(wrong(r#""Cut {long." = "Corte {long}.""#).contains("not closed"));
    assert!(wrong(r#""{a}{b}" = "{a} {b}""#).contains("two places"));
    assert!(wrong(r#""{a}" = "{a}""#).contains("without a word"));
    assert!(Words::read(&[r#""a" = "b""#, r#""a" = "c""#]).expect_err("twice").contains("said twice: a"));
}

#[test]
fn the_first_known_language_of_a_list_is_taken() {
    for (header, language) in [
        ("es", Language::Spanish),
        ("es-US,en;q=0.5", Language::Spanish),
        ("fr, en;q=0.9, es", Language::English),
        ("de", Language::English),
        ("", Language::English),
        (";;,,-", Language::English),
    ] {
        assert_eq!(Language::asked(header), language, "{header}");
    }
}

#[test]
fn every_shipped_line_can_be_used() {
    for file in SPANISH {
        Words::read(&[file]).unwrap_or_else(|e| panic!("{e}"));
    }
    let all = Words::read(&SPANISH).unwrap_or_else(|e| panic!("{e}"));
    assert!(all.english().count() > 1000);
}

proptest! {
    /// Whatever a text says, it is said or not, and soon: places are tried a bounded number of times.
    #[test]
    fn any_text_is_said_or_stays(text in "[a-zA-Z .,{}\"/0-9áß]{0,200}", again in 1..40_usize) {
        let w = Language::Spanish.words().expect("Spanish");
        let mut said = text.clone();
        w.turn(&mut said);
        let _ = w.of(&"the a on b, c on ".repeat(again));
        let _ = w.of(&"place the ".repeat(again));
        prop_assert!(said == text || w.of(&text) == Some(said));
    }

    #[test]
    fn what_fills_a_place_comes_through_unchanged(long in "[0-9]{1,3}( [1-7]/8)?\"", wide in "[0-9]{1,2}\"") {
        let w = words(r#""Cut {long}, {wide} wide." = "De {wide} de ancho, corte {long}.""#);
        prop_assert_eq!(w.of(&format!("Cut {long}, {wide} wide.")), Some(format!("De {wide} de ancho, corte {long}.")));
    }
}
