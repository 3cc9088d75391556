//! The core's words in another language. Everything is worked out, kept and recorded in English; where it is shown, it is said again sentence by
//! sentence by a table of lines, each an English sentence of the data or the code with its other words. What no line fits stays English.

mod line;
mod said;

pub use said::Said;

use foldhash::HashMap;
use line::{Line, Tries};
use lru::LruCache;
use std::num::NonZeroUsize;
use std::sync::{Mutex, OnceLock, PoisonError};

/// A language in which the core's words can be shown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Language {
    /// As they are.
    #[default]
    English,
    /// Spanish as it is spoken on building sites of the United States.
    Spanish,
}

/// The lines of a language, by the file they stand in.
const SPANISH: [&str; 10] = [
    include_str!("../../data/es/lines.toml"),
    include_str!("../../data/es/openings.toml"),
    include_str!("../../data/es/penetrations.toml"),
    include_str!("../../data/es/wall.toml"),
    include_str!("../../data/es/hung.toml"),
    include_str!("../../data/es/checks.toml"),
    include_str!("../../data/es/products.toml"),
    include_str!("../../data/es/findings.toml"),
    include_str!("../../data/es/questions.toml"),
    include_str!("../../data/es/told.toml"),
];

impl Language {
    /// The first known language of a list as browsers send it in `Accept-Language`; English where none is.
    pub fn asked(header: &str) -> Self {
        let tags = header.split(',').map(|t| t.split([';', '-']).next().unwrap_or_default().trim());
        let known = |tag: &str| match tag {
            "en" => Some(Self::English),
            "es" => Some(Self::Spanish),
            _ => None,
        };
        tags.filter_map(known).next().unwrap_or_default()
    }

    /// Its words; `None` for English.
    pub fn words(self) -> Option<&'static Words> {
        static SPANISH_WORDS: OnceLock<Words> = OnceLock::new();
        match self {
            Self::English => None,
            // A test keeps the shipped lines whole; were they not, everything would be said in English.
            Self::Spanish => Some(SPANISH_WORDS.get_or_init(|| Words::read(&SPANISH).unwrap_or_default())),
        }
    }

    /// Says what is shown in this language.
    pub fn say<T: Said>(self, mut shown: T) -> T {
        if let Some(words) = self.words() {
            shown.say_in(words);
        }
        shown
    }
}

/// In one sentence stand no more names that people gave.
const MOST_UNKNOWN: usize = 2;

/// So many texts are kept with what is said for them: more than a building of some hundred openings has.
const KEPT: NonZeroUsize = NonZeroUsize::new(16_384).unwrap();

/// Lines by which English words are said in another language.
#[derive(Debug)]
pub struct Words {
    /// Lines that stand for one text.
    whole: HashMap<Box<str>, Box<str>>,
    /// All lines by their first word, what says most first.
    by_word: HashMap<Box<str>, Vec<Line>>,
    /// Lines that begin with a place to be filled.
    open: Vec<Line>,
    /// What was said lately: most of an answer is as it was in the one before.
    lately: Mutex<LruCache<Box<str>, Option<Box<str>>>>,
}

impl Default for Words {
    fn default() -> Self {
        let lately = Mutex::new(LruCache::new(KEPT));
        Self { whole: HashMap::default(), by_word: HashMap::default(), open: Vec::new(), lately }
    }
}

impl Words {
    /// Lines as the data has them: `"English" = "the same in another language"`, with the same places in braces in both.
    ///
    /// # Errors
    /// A sentence that names the line that cannot be used.
    pub fn read(files: &[&str]) -> Result<Self, String> {
        let mut out = Self::default();
        for file in files {
            let lines: HashMap<String, String> = toml::from_str(file).map_err(|e| e.to_string())?;
            for (english, other) in lines {
                let line = Line::new(&english, &other)?;
                let known = line.is_text().then(|| out.whole.insert(english.as_str().into(), other.into())).flatten();
                if known.is_some() {
                    return Err(format!("said twice: {english}"));
                }
                match line.first_word() {
                    Some(word) => out.by_word.entry(word.into()).or_default().push(line),
                    None => out.open.push(line),
                }
            }
        }
        out.by_word.values_mut().chain([&mut out.open]).for_each(|lines| lines.sort_by(Line::telling));
        Ok(out)
    }

    /// The English of every line.
    pub fn english(&self) -> impl Iterator<Item = String> {
        self.by_word.values().flatten().chain(&self.open).map(Line::english)
    }

    /// A text in the other language: one line, or one sentence after the other. `None` where part of it is not known.
    pub fn of(&self, text: &str) -> Option<String> {
        if let Some(said) = self.whole.get(text) {
            return Some(said.to_string());
        }
        // What is kept is never half written, so a lock that another thread left in a panic can be taken.
        let lately = || self.lately.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(said) = lately().get(text) {
            return said.as_deref().map(str::to_owned);
        }
        // Of the ways to read a sentence the one with the fewest names that only people know.
        let said = (0..=MOST_UNKNOWN).find_map(|unknown| self.run(text, unknown, &mut Tries::default()));
        lately().put(text.into(), said.as_deref().map(Into::into));
        said
    }

    /// The same; what is not known stays as it is.
    pub fn turn(&self, text: &mut String) {
        if let Some(said) = self.of(text) {
            *text = said;
        }
    }

    /// One sentence after the other; what was found of a part of the text is not looked for again.
    fn run(&self, text: &str, unknown: usize, tries: &mut Tries) -> Option<String> {
        if let Some(known) = tries.known.get(text) {
            return known.clone();
        }
        let word = line::first_word(text);
        let lines = word.and_then(|w| self.by_word.get(w)).into_iter().flatten().chain(&self.open);
        let said = lines.into_iter().find_map(|line| {
            line.at_start_of(text, tries, &mut |found, tries| {
                let rest = &text[found.end..];
                let rest = match rest.strip_prefix(' ') {
                    None if rest.is_empty() => String::new(),
                    None => return None,
                    Some(rest) => format!(" {}", self.run(rest, unknown, tries)?),
                };
                Some(found.filled(unknown, &mut |value| self.value(value, unknown, tries))? + &rest)
            })
        });
        tries.known.insert(text.to_owned(), said.clone());
        said
    }

    /// What stands in a place: a size or a letter is the same, a name is said where it is known.
    fn value(&self, value: &str, unknown: usize, tries: &mut Tries) -> Option<String> {
        if !value.contains(char::is_lowercase) {
            return Some(value.to_owned());
        }
        self.whole.get(value).map(ToString::to_string).or_else(|| self.run(value, unknown, tries))
    }
}

#[cfg(test)]
mod tests;
