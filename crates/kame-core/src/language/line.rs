//! A line of a language: an English sentence with places to be filled, and what is said for it.

use foldhash::HashMap;
use std::cmp::{Ordering, Reverse};

/// What fills a place is no longer than this many bytes.
const LONGEST: usize = 160;

/// So often it is tried to fit a line to one text: more than any text of the core needs, few enough that no text takes long.
const MOST_TRIES: u32 = 60_000;

/// How often it may still be tried, and what was made of parts of the text so far.
#[derive(Debug)]
pub struct Tries {
    left: u32,
    /// What is said for a part; `None` where it is not known.
    pub known: HashMap<String, Option<String>>,
}

impl Default for Tries {
    fn default() -> Self {
        Self { left: MOST_TRIES, known: HashMap::default() }
    }
}

impl Tries {
    fn one(&mut self) -> bool {
        self.left = self.left.saturating_sub(1);
        self.left > 0
    }
}

/// Part of a sentence: words, or a place to be filled by its name.
#[derive(Clone, Debug, PartialEq)]
enum Part {
    Text(Box<str>),
    Place(Box<str>),
}

/// An English sentence, and what is said for it.
#[derive(Debug)]
pub struct Line {
    english: Vec<Part>,
    said: Vec<Part>,
}

/// A line found at the start of a text.
pub struct Found<'a> {
    said: &'a [Part],
    /// What fills each place.
    values: &'a [(&'a str, &'a str)],
    /// Where it ends in the text.
    pub end: usize,
}

impl Found<'_> {
    /// What is said, with its places filled by what `value` says of what stands there; `None` where more than `unknown` of them are not known, or
    /// one that has to be, whose name begins with `=`.
    pub fn filled(&self, mut unknown: usize, value: &mut impl FnMut(&str) -> Option<String>) -> Option<String> {
        let mut out = String::new();
        for part in self.said {
            match part {
                Part::Text(text) => out.push_str(text),
                Part::Place(name) => {
                    // A line is only read where both sides have the same places.
                    let (_, there) = self.values.iter().find(|(n, _)| *n == &**name)?;
                    match value(there) {
                        Some(said) => out.push_str(&said),
                        None if name.starts_with('=') => return None,
                        None => {
                            unknown = unknown.checked_sub(1)?;
                            out.push_str(there);
                        }
                    }
                }
            }
        }
        Some(out)
    }
}

/// What stands before the first space or place.
pub fn first_word(text: &str) -> Option<&str> {
    let word = &text[..text.find([' ', '{']).unwrap_or(text.len())];
    // A place right behind letters could go on with them.
    (!word.is_empty() && !text[word.len()..].starts_with('{')).then_some(word)
}

fn parts(text: &str) -> Result<Vec<Part>, String> {
    let mut out = Vec::new();
    let mut rest = text;
    while let Some((before, after)) = rest.split_once('{') {
        let (name, after) = after.split_once('}').ok_or_else(|| format!("a place is not closed: {text}"))?;
        if !before.is_empty() {
            out.push(Part::Text(before.into()));
        }
        if before.is_empty() && matches!(out.last(), Some(Part::Place(_))) {
            return Err(format!("two places without a word between them: {text}"));
        }
        out.push(Part::Place(name.into()));
        rest = after;
    }
    if !rest.is_empty() {
        out.push(Part::Text(rest.into()));
    }
    Ok(out)
}

/// Names of places, each once.
fn places(parts: &[Part]) -> Vec<&str> {
    let mut names: Vec<&str> =
        parts.iter().filter_map(|p| if let Part::Place(n) = p { Some(&**n) } else { None }).collect();
    names.sort_unstable();
    names.dedup();
    names
}

impl Line {
    /// A line of the data.
    ///
    /// # Errors
    /// A sentence where the two do not have the same places, or nothing is said.
    pub fn new(english: &str, said: &str) -> Result<Self, String> {
        let line = Self { english: parts(english)?, said: parts(said)? };
        if english.trim().is_empty() || said.trim().is_empty() {
            return Err(format!("nothing is said for: {english}"));
        }
        if !line.english.iter().any(|p| matches!(p, Part::Text(_))) {
            return Err(format!("a line without a word fits everything: {english}"));
        }
        if places(&line.english) != places(&line.said) {
            return Err(format!("other places than in English: {english}"));
        }
        Ok(line)
    }

    /// True where it has no place.
    pub fn is_text(&self) -> bool {
        matches!(self.english.as_slice(), [Part::Text(_)])
    }

    /// The word it begins with; `None` where it begins with a place.
    pub fn first_word(&self) -> Option<&str> {
        match self.english.first() {
            Some(Part::Text(text)) if self.english.len() == 1 || text.contains(' ') => first_word(text),
            _ => None,
        }
    }

    /// As it stands in the data.
    pub fn english(&self) -> String {
        let part = |p: &Part| match p {
            Part::Text(text) => text.to_string(),
            Part::Place(name) => format!("{{{name}}}"),
        };
        self.english.iter().map(part).collect()
    }

    /// What says most comes first: many words before few, those without a place before others.
    pub fn telling(&self, other: &Self) -> Ordering {
        let key = |l: &Self| {
            let words = l.english.iter().map(|p| if let Part::Text(t) = p { t.len() } else { 0 }).sum::<usize>();
            (Reverse(words), l.english.len(), l.english())
        };
        key(self).cmp(&key(other))
    }

    /// Tries every way in which the line stands at the start of a text until `use_it` makes something of one.
    pub fn at_start_of<T>(
        &self,
        text: &str,
        tries: &mut Tries,
        use_it: &mut impl FnMut(Found, &mut Tries) -> Option<T>,
    ) -> Option<T> {
        self.fit(text, (0, 0), &mut Vec::new(), tries, use_it)
    }

    /// Fits its parts from `part` on to the text from `at` on.
    fn fit<'a, T>(
        &'a self,
        text: &'a str,
        (part, at): (usize, usize),
        values: &mut Vec<(&'a str, &'a str)>,
        tries: &mut Tries,
        use_it: &mut impl FnMut(Found, &mut Tries) -> Option<T>,
    ) -> Option<T> {
        let Some(next) = self.english.get(part) else {
            return use_it(Found { said: &self.said, values, end: at }, tries);
        };
        if !tries.one() {
            return None;
        }
        let name = match next {
            Part::Text(words) => {
                let on = text[at..].starts_with(&**words).then(|| at + words.len())?;
                return self.fit(text, (part + 1, on), values, tries, use_it);
            }
            Part::Place(name) => &**name,
        };
        // A place that was filled before is filled the same way; any other up to where the words behind it come next, or to the end of the text.
        if let Some((_, value)) = values.iter().find(|(n, _)| *n == name) {
            let on = text[at..].starts_with(*value).then(|| at + value.len())?;
            return self.fit(text, (part + 1, on), values, tries, use_it);
        }
        let rest = &text[at..];
        let ends: Vec<usize> = match self.english.get(part + 1) {
            Some(Part::Text(words)) => rest.match_indices(&**words).map(|(i, _)| i).collect(),
            _ => vec![rest.len()],
        };
        // A place for a letter or a number holds no words.
        let holds = |end: &usize| {
            (1..=LONGEST).contains(end)
                && (!name.starts_with('#') || !rest[..*end].contains(|c: char| c.is_lowercase() || c == ' '))
        };
        for end in ends.into_iter().filter(holds) {
            values.push((name, &rest[..end]));
            let done = self.fit(text, (part + 1, at + end), values, tries, use_it);
            values.pop();
            if done.is_some() {
                return done;
            }
        }
        None
    }
}
