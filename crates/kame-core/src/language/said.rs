//! What is shown, said in another language: the core's own words in it, never what people typed.

use super::Words;
use crate::checks::Check;
use crate::record::{Fit, GoAnswer, Point};
use crate::view::{
    BuildUpView, CheckedFinding, ChoicePictures, Exploded, FindingView, HoldsView, NightView, QuestionView, RemedyView,
    Section, Shape, StepPicture, StepView, VerdictView, WallView,
};
use std::sync::Arc;

/// Something shown that has words of the core in it.
pub trait Said {
    /// Says them in a language.
    fn say_in(&mut self, words: &Words);
}

impl<T: Said> Said for Vec<T> {
    fn say_in(&mut self, words: &Words) {
        self.iter_mut().for_each(|one| one.say_in(words));
    }
}

impl<T: Said> Said for Option<T> {
    fn say_in(&mut self, words: &Words) {
        self.iter_mut().for_each(|one| one.say_in(words));
    }
}

fn turn<'a>(words: &Words, texts: impl IntoIterator<Item = &'a mut String>) {
    texts.into_iter().for_each(|text| words.turn(text));
}

impl Said for StepView {
    fn say_in(&mut self, words: &Words) {
        let card = Arc::make_mut(&mut self.card);
        turn(
            words,
            [&mut self.title, &mut card.what, &mut card.over, &mut card.check, &mut card.why, &mut card.caution],
        );
        for a in &mut self.actions {
            let mut label = a.label.to_string();
            words.turn(&mut label);
            a.label = label.into();
        }
        turn(words, self.cuts.iter_mut().map(|c| &mut c.name));
        turn(words, &mut self.primes);
        turn(words, self.waits.iter_mut().flat_map(|w| [&mut w.after, &mut w.because]));
    }
}

impl Said for Shape {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.name, &mut self.product]);
    }
}

impl Said for StepPicture {
    fn say_in(&mut self, words: &Words) {
        [&mut self.before, &mut self.now, &mut self.gone].into_iter().for_each(|shapes| shapes.say_in(words));
        words.turn(&mut self.says);
    }
}

impl Said for WallView {
    fn say_in(&mut self, words: &Words) {
        self.steps.say_in(words);
        self.elevation.shapes.say_in(words);
        self.section.say_in(words);
        self.exploded.say_in(words);
        self.schools.say_in(words);
        self.findings.say_in(words);
        self.verdict.say_in(words);
        self.build_ups.say_in(words);
    }
}

impl Said for Section {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.at]);
        turn(words, self.bands.iter_mut().map(|b| &mut b.name));
        if let Some(built) = &mut self.built {
            turn(words, built.shapes.iter_mut().map(|s| &mut s.name));
            turn(words, built.runs.iter_mut().map(|r| &mut r.name));
            turn(words, built.marks.iter_mut().map(|m| &mut m.name));
            turn(words, built.sizes.iter_mut().map(|s| &mut s.what));
        }
    }
}

impl Said for ChoicePictures {
    fn say_in(&mut self, words: &Words) {
        for c in &mut self.choices {
            c.section.say_in(words);
            c.apart.say_in(words);
        }
    }
}

impl Said for Exploded {
    fn say_in(&mut self, words: &Words) {
        turn(words, self.pieces.iter_mut().flat_map(|p| [&mut p.name, &mut p.step]));
    }
}

impl Said for QuestionView {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.ask]);
        turn(words, self.choices.iter_mut().flat_map(|c| [&mut c.name, &mut c.good, &mut c.asks, &mut c.refused]));
    }
}

impl Said for BuildUpView {
    fn say_in(&mut self, words: &Words) {
        turn(words, self.layers.iter_mut().map(|l| &mut l.layer.name));
        turn(words, &mut self.says);
    }
}

impl Said for FindingView {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.reason, &mut self.remedy]);
    }
}

impl Said for CheckedFinding {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.reason, &mut self.remedy]);
    }
}

impl Said for VerdictView {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.says]);
        turn(words, self.heads.iter_mut().flat_map(|h| [&mut h.name, &mut h.reaches]));
        turn(words, self.leans.iter_mut().map(|l| &mut l.says));
    }
}

impl Said for NightView {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.why, &mut self.or_go_on]);
        turn(words, &mut self.put);
    }
}

impl Said for HoldsView {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.says]);
        self.before.say_in(words);
        self.after.say_in(words);
        self.new.say_in(words);
    }
}

impl Said for GoAnswer {
    fn say_in(&mut self, words: &Words) {
        turn(words, &mut self.says);
    }
}

impl Said for Check {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.name, &mut self.at, &mut self.asked, &mut self.above, &mut self.below]);
        turn(words, self.spots.iter_mut().flat_map(|s| [&mut s.name, &mut s.above, &mut s.below]));
    }
}

impl Said for Point {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.title, &mut self.name, &mut self.at, &mut self.under]);
    }
}

impl Said for Fit {
    fn say_in(&mut self, words: &Words) {
        turn(words, &mut self.says);
    }
}

impl Said for RemedyView {
    fn say_in(&mut self, words: &Words) {
        turn(words, [&mut self.words]);
    }
}
