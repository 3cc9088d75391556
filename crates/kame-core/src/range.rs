//! The allowed values of one field, defined once: the check, its message, the limit of a form and the generators of tests come from it.

use crate::length::Length;
use serde::Serialize;

/// A kind of value that a range can be of: values are compared, and told to people.
pub trait Ranged: Copy + PartialOrd {
    /// The value as it is told to people.
    fn said(self) -> String;
    /// The value as a form holds it.
    fn limit(self) -> LimitValue;
}

impl Ranged for Length {
    fn said(self) -> String {
        self.feet_inches(16)
    }
    fn limit(self) -> LimitValue {
        LimitValue::Text(self.feet_inches(16))
    }
}

macro_rules! numbers {
    ($($of:ty),*) => {$(
        impl Ranged for $of {
            fn said(self) -> String {
                self.to_string()
            }
            fn limit(self) -> LimitValue {
                LimitValue::Number(self as f64)
            }
        }
    )*};
}
numbers!(f64, u32, usize);

/// The allowed values of one field, both ends included.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Range<T> {
    /// What the field is called in a sentence, e.g. `window width`.
    pub what: &'static str,
    /// The least allowed value.
    pub least: T,
    /// The greatest allowed value.
    pub most: T,
    /// What to do about a value outside.
    pub remedy: &'static str,
}

/// Characters of a name.
pub const NAME: Range<usize> = Range {
    what: "the length of a name in characters",
    least: 1,
    most: 120,
    remedy: "shorten it or fill it in, with printable characters",
};

/// A range of lengths.
pub type LengthRange = Range<Length>;

impl<T: Ranged> Range<T> {
    /// The value itself, or the sentence that says value, limit and remedy.
    ///
    /// # Errors
    /// A sentence naming value, limit and remedy when `value` lies outside, or is no number.
    pub fn check(&self, value: T) -> Result<T, String> {
        if value >= self.least && value <= self.most {
            return Ok(value);
        }
        Err(format!(
            "{} is {}; it has to be between {} and {}: {}.",
            self.what,
            value.said(),
            self.least.said(),
            self.most.said(),
            self.remedy
        ))
    }

    /// As a form shows and holds it.
    pub fn form(&self) -> FormLimit {
        FormLimit { what: self.what, least: self.least.limit(), most: self.most.limit(), remedy: self.remedy }
    }
}

/// One end of a range in a form.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[serde(untagged)]
pub enum LimitValue {
    /// A count or an amount.
    Number(f64),
    /// A length as people read it.
    Text(String),
}

/// A range as a form shows and holds it.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct FormLimit {
    /// What the field is called in a sentence.
    pub what: &'static str,
    /// The least allowed value.
    pub least: LimitValue,
    /// The greatest allowed value.
    pub most: LimitValue,
    /// What to do about a value outside.
    pub remedy: &'static str,
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const COPIES: Range<u32> = Range { what: "number of copies", least: 1, most: 50, remedy: "copy again for more" };
    const CAN: Range<f64> = Range { what: "can", least: 0.5, most: 9.0, remedy: "read it on the can" };

    #[test]
    fn a_range_names_value_limit_and_remedy() {
        let range = LengthRange {
            what: "window width",
            least: Length::inch(6),
            most: Length::inch(240),
            remedy: "measure the rough opening",
        };
        assert_eq!(range.check(Length::inch(41)), Ok(Length::inch(41)));
        let sentence = range.check(Length::ZERO).expect_err("zero");
        assert_eq!(sentence, "window width is 0\"; it has to be between 6\" and 20'-0\": measure the rough opening.");
    }

    #[test]
    fn a_value_outside_is_told_with_both_limits_and_what_to_do() {
        let said = "number of copies is 51; it has to be between 1 and 50: copy again for more.";
        assert_eq!(COPIES.check(51), Err(said.to_owned()));
        for wrong in [f64::NAN, f64::INFINITY, -1.0, 0.499, 9.001] {
            assert!(CAN.check(wrong).is_err_and(|m| m.contains("between 0.5 and 9")), "{wrong}");
        }
    }

    proptest! {
        #[test]
        fn what_lies_between_the_ends_comes_back(n in 0_u32..100) {
            prop_assert_eq!(COPIES.check(n).is_ok(), (COPIES.least..=COPIES.most).contains(&n));
        }
    }
}
