//! The answers that the program itself asks about. A test looks for each among the questions, so that a slip of the pen is a failed test.

use super::schools::Answers;

/// One or several answers to a question.
#[derive(Clone, Copy, Debug)]
pub struct Answer {
    question: &'static str,
    choices: &'static [&'static str],
}

impl Answer {
    /// True where one of them is given.
    pub fn is_in(&self, answers: &Answers) -> bool {
        answers.get(self.question).is_some_and(|a| self.choices.contains(&a.as_str()))
    }
}

macro_rules! answers {
    ($($name:ident = $question:literal: $($choice:literal),+;)+) => {
        $(
            #[doc = concat!("`", $question, "`: one of ", stringify!($($choice),+), ".")]
            pub const $name: Answer = Answer { question: $question, choices: &[$($choice),+] };
        )+

        #[cfg(test)]
        const ALL: &[Answer] = &[$($name),+];
    };
}

answers! {
    BESIDE_SHARED = "beside": "shared";
    BOARDS_BEHIND_FURRING = "boarding": "furring";
    CLADDING_OPEN = "cladding": "open";
    CLADDING_PLASTERED = "cladding": "plaster", "stone";
    COURSES_DOWNWARD = "lapping": "down";
    FIRST_WINDOWS = "first": "windows";
    GAP_NONE = "gap": "none";
    LAPS_TAPED = "laps": "taped";
    OUTSIDE_BOARDS = "outside": "boards";
    PANELS_CUT_NOW = "cutting": "now";
    PANELS_LYING = "panels": "lying";
    ROWS_BRIDGING = "rows": "bridging";
    ROWS_FROM_TOP = "rows": "top";
    POSITION_OUT = "position": "out";
    SEAT_BOARD = "seat": "board";
    SEAT_LEVEL = "seat": "level";
    SECOND_LAYER = "second": "paper", "dark";
    SHEATHING_TAPED = "sheathing": "taped";
    TEES_HALF = "tees": "half";
    TEES_LEVEL = "tees": "level";
}

#[cfg(test)]
mod tests {
    use super::ALL;
    use crate::recipe::schools::{Feature, Schools};

    #[test]
    fn every_answer_the_program_asks_about_is_one_that_can_be_given() {
        let all = [Schools::of_wall(), Schools::of(Feature::Opening)].map(|s| s.expect("questions"));
        for answer in ALL {
            let question = all.iter().find_map(|s| s.question(answer.question));
            let question = question.unwrap_or_else(|| panic!("nobody asks {}", answer.question));
            for choice in answer.choices {
                assert!(question.choice.iter().any(|c| c.id == *choice), "{}: {choice}", answer.question);
            }
        }
    }
}
