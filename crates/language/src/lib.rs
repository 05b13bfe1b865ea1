//! The languages pages are read in. Sentences stand in Fluent files, one folder a language; days and decimal marks follow the
//! locale (glibc's locale data, by the crate `pure-rust-locales`). English is the language of the trade's tables: what has no
//! sentence in another language yet is said in English.

mod text;

use chrono::{Datelike, NaiveDate};
use fluent_bundle::concurrent::FluentBundle;
use fluent_bundle::{FluentArgs, FluentResource, FluentValue};
use pure_rust_locales::{Locale, locale_match};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::fmt::{self, Display, Formatter};
use std::sync::OnceLock;
use unic_langid::LanguageIdentifier;

pub use text::{aloud, carried, heard, key, known, known_of, put, retold, speak, spoken};

/// A language.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
pub enum Language {
    /// English of the United States.
    #[default]
    #[serde(rename = "en-US")]
    English,
    /// Spanish.
    #[serde(rename = "es")]
    Spanish,
}

/// What parts a sentence, once it is read: a bar in what it names is none.
const PARTS: &str = "\u{1f}";

type Bundle = FluentBundle<FluentResource>;

const ENGLISH: [&str; 21] = [
    include_str!("../locales/en-US/frame.ftl"),
    include_str!("../locales/en-US/docket.ftl"),
    include_str!("../locales/en-US/account.ftl"),
    include_str!("../locales/en-US/shared.ftl"),
    include_str!("../locales/en-US/door.ftl"),
    include_str!("../locales/en-US/office.ftl"),
    include_str!("../locales/en-US/bench.ftl"),
    include_str!("../locales/en-US/calculator.ftl"),
    include_str!("../locales/en-US/coating.ftl"),
    include_str!("../locales/en-US/common.ftl"),
    include_str!("../locales/en-US/data.ftl"),
    include_str!("../locales/en-US/drying.ftl"),
    include_str!("../locales/en-US/log.ftl"),
    include_str!("../locales/en-US/plan.ftl"),
    include_str!("../locales/en-US/programs.ftl"),
    include_str!("../locales/en-US/proof.ftl"),
    include_str!("../locales/en-US/report.ftl"),
    include_str!("../locales/en-US/section.ftl"),
    include_str!("../locales/en-US/thermal.ftl"),
    include_str!("../locales/en-US/visit.ftl"),
    include_str!("../locales/en-US/why.ftl"),
];
const SPANISH: [&str; 22] = [
    include_str!("../locales/es/frame.ftl"),
    include_str!("../locales/es/docket.ftl"),
    include_str!("../locales/es/account.ftl"),
    include_str!("../locales/es/shared.ftl"),
    include_str!("../locales/es/door.ftl"),
    include_str!("../locales/es/office.ftl"),
    include_str!("../locales/es/bench.ftl"),
    include_str!("../locales/es/calculator.ftl"),
    include_str!("../locales/es/coating.ftl"),
    include_str!("../locales/es/common.ftl"),
    include_str!("../locales/es/data.ftl"),
    include_str!("../locales/es/drying.ftl"),
    include_str!("../locales/es/log.ftl"),
    include_str!("../locales/es/plan.ftl"),
    include_str!("../locales/es/programs.ftl"),
    include_str!("../locales/es/proof.ftl"),
    include_str!("../locales/es/report.ftl"),
    include_str!("../locales/es/section.ftl"),
    include_str!("../locales/es/thermal.ftl"),
    include_str!("../locales/es/visit.ftl"),
    include_str!("../locales/es/why.ftl"),
    include_str!("../locales/es/words.ftl"),
];

impl Language {
    /// Every language, in the order offered.
    pub const ALL: [Self; 2] = [Self::English, Self::Spanish];

    /// Its tag (BCP 47).
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::English => "en-US",
            Self::Spanish => "es",
        }
    }

    /// What it calls itself.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::English => "English",
            Self::Spanish => "Español",
        }
    }

    /// The language with this tag; none for another.
    #[must_use]
    pub fn from_id(id: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|l| l.id() == id)
    }

    /// What a browser would have, of what there is: the header `Accept-Language` (RFC 9110 §12.5.4). English where it names none
    /// of them.
    #[must_use]
    pub fn accepted(header: &str) -> Self {
        let weighed = header.split(',').filter_map(|part| {
            let (tag, weight) = part.split_once(';').unwrap_or((part, "q=1"));
            let weight: f32 = weight.trim().strip_prefix("q=")?.parse().ok()?;
            let tag = tag.trim().to_ascii_lowercase();
            let base = tag.split('-').next()?.to_owned();
            let known = Self::ALL.into_iter().find(|l| l.id().split('-').next() == Some(base.as_str()))?;
            (weight > 0.0).then_some((known, weight))
        });
        // Of those wanted alike the first named.
        weighed.reduce(|best, next| if next.1 > best.1 { next } else { best }).map_or(Self::English, |(known, _)| known)
    }

    /// A sentence. One that is missing in a language is said in English, and one that is in none by its id.
    #[must_use]
    pub fn say(self, id: &str) -> String {
        self.say_with(id, &[])
    }

    /// A sentence with what it names: words, or numbers its plurals go by.
    #[must_use]
    pub fn say_with(self, id: &str, with: &[(&str, Named)]) -> String {
        let mut args = FluentArgs::new();
        for (name, value) in with {
            args.set(*name, value.value(self));
        }
        let said = self.known(id, &args).or_else(|| Self::English.known(id, &args));
        said.unwrap_or_else(|| id.to_owned())
    }

    /// A sentence to be completed.
    #[must_use]
    pub fn sentence(self, id: &str) -> Sentence {
        Sentence { language: self, id: id.to_owned(), with: Vec::new() }
    }

    /// A word of a table of ours: in English as the table has it, in another language under the table's name and the word's id.
    #[must_use]
    pub fn word(self, table: &str, id: &str, english: &'static str) -> Cow<'static, str> {
        if self == Self::English {
            return english.into();
        }
        // What a message is called has no dots.
        let id = format!("{table}-{}", id.replace('.', "-"));
        self.known(&id, &FluentArgs::new()).map_or(Cow::Borrowed(english), Cow::Owned)
    }

    /// Words that are kept in English, in another language under their table’s name and themselves: `a wrong code` is
    /// `came-a-wrong-code`.
    #[must_use]
    pub fn kept(self, table: &str, words: String) -> String {
        if self == Self::English {
            return words;
        }
        let plain: String = words.chars().filter(|c| c.is_ascii_alphabetic() || *c == ' ').collect();
        let id = format!("{table}-{}", plain.replace(' ', "-"));
        self.known(&id, &FluentArgs::new()).unwrap_or(words)
    }

    /// `July 14, 2026`, `14 de julio de 2026`.
    #[must_use]
    pub fn day(self, date: NaiveDate) -> String {
        let [months, _] = self.months();
        let month = months.get(date.month0() as usize).copied().unwrap_or_default();
        match self {
            Self::English => format!("{month} {}, {}", date.day(), date.year()),
            Self::Spanish => format!("{} de {month} de {}", date.day(), date.year()),
        }
    }

    /// `Jul 14`, `14 jul`: where the year is plain.
    #[must_use]
    pub fn short_day(self, date: NaiveDate) -> String {
        let [_, months] = self.months();
        let month = months.get(date.month0() as usize).copied().unwrap_or_default();
        match self {
            Self::English => format!("{month} {}", date.day()),
            Self::Spanish => format!("{} {month}", date.day()),
        }
    }

    /// Whether it is what is taken where none is named.
    #[must_use]
    pub fn is_usual(&self) -> bool {
        *self == Self::default()
    }

    /// The decimal mark.
    #[must_use]
    pub fn mark(self) -> &'static str {
        let locale = self.locale();
        locale_match!(locale => LC_NUMERIC::DECIMAL_POINT)
    }

    /// A figure with the decimal mark of the language.
    #[must_use]
    pub fn figure(self, figure: String) -> String {
        match self.mark() {
            "." => figure,
            mark => figure.replace('.', mark),
        }
    }

    /// A month by its place in the year, from 0.
    #[must_use]
    pub fn month(self, place: usize) -> &'static str {
        let [months, _] = self.months();
        months.get(place).copied().unwrap_or_default()
    }

    /// The same, shortened.
    #[must_use]
    pub fn short_month(self, place: usize) -> &'static str {
        let [_, months] = self.months();
        months.get(place).copied().unwrap_or_default()
    }

    /// Names of months, and their short ones.
    fn months(self) -> [&'static [&'static str]; 2] {
        let locale = self.locale();
        [locale_match!(locale => LC_TIME::MON), locale_match!(locale => LC_TIME::ABMON)]
    }

    const fn locale(self) -> Locale {
        match self {
            Self::English => Locale::en_US,
            Self::Spanish => Locale::es_ES,
        }
    }

    fn known(self, id: &str, args: &FluentArgs) -> Option<String> {
        formed(self.bundle(), id, args)
    }

    fn bundle(self) -> &'static Bundle {
        static BUNDLES: [OnceLock<Bundle>; 2] = [OnceLock::new(), OnceLock::new()];
        BUNDLES[self as usize].get_or_init(|| self.bundle_of(self.files()))
    }

    /// A bundle of files.
    fn bundle_of(self, files: &[&str]) -> Bundle {
        let tag: LanguageIdentifier = self.id().parse().unwrap_or_default();
        let mut bundle = Bundle::new_concurrent(vec![tag]);
        // Names in a sentence run the way it runs: marks around them would only be copied along.
        bundle.set_use_isolating(false);
        for file in files {
            // What cannot be read is missing, and so said in English; a test reads every file.
            let resource = FluentResource::try_new(file.replace('|', PARTS)).unwrap_or_else(|(part, _)| part);
            let _ = bundle.add_resource(resource);
        }
        bundle
    }

    const fn files(self) -> &'static [&'static str] {
        match self {
            Self::English => &ENGLISH,
            Self::Spanish => &SPANISH,
        }
    }
}

/// A message with what it names.
fn formed(bundle: &Bundle, id: &str, args: &FluentArgs) -> Option<String> {
    let pattern = bundle.get_message(id)?.value()?;
    let mut errors = Vec::new();
    let said = bundle.format_pattern(pattern, Some(args), &mut errors).into_owned();
    errors.is_empty().then_some(said)
}

/// A sentence on its way to a page. What it names is put in one by one; where it holds a link it comes in parts, which a bar
/// marks in its file.
#[derive(Debug, Clone)]
pub struct Sentence {
    language: Language,
    id: String,
    with: Vec<(&'static str, Named)>,
}

impl Sentence {
    /// With a word it names.
    #[must_use]
    pub fn with(mut self, name: &'static str, value: impl Display) -> Self {
        self.with.push((name, value.to_string().into()));
        self
    }

    /// One of its parts, by its place; nothing where it has fewer.
    #[must_use]
    pub fn part(&self, n: usize) -> String {
        self.to_string().split(PARTS).nth(n).unwrap_or_default().to_owned()
    }

    /// No sentence is empty: what stands quietly behind a label may be none at all.
    #[must_use]
    pub const fn is_empty(&self) -> bool {
        false
    }
}

impl Display for Sentence {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        f.write_str(&self.language.say_with(&self.id, &self.with))
    }
}

/// What a sentence names.
#[derive(Debug, Clone)]
pub enum Named {
    /// Words.
    Words(String),
    /// How many: plurals go by it.
    Count(u64),
}

impl Named {
    fn value(&self, _: Language) -> FluentValue<'static> {
        match self {
            Self::Words(words) => FluentValue::from(words.clone()),
            Self::Count(n) => FluentValue::from(*n as f64),
        }
    }
}

impl From<String> for Named {
    fn from(words: String) -> Self {
        Self::Words(words)
    }
}

impl From<&str> for Named {
    fn from(words: &str) -> Self {
        Self::Words(words.to_owned())
    }
}

impl From<usize> for Named {
    fn from(n: usize) -> Self {
        Self::Count(n as u64)
    }
}

impl From<u64> for Named {
    fn from(n: u64) -> Self {
        Self::Count(n)
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "tests")]
mod tests {
    use super::*;
    use fluent_syntax::ast::{Entry, Expression, InlineExpression, Pattern, PatternElement};
    use std::collections::{BTreeMap, BTreeSet};

    fn named(pattern: &Pattern<&str>, into: &mut BTreeSet<String>) {
        for element in &pattern.elements {
            let PatternElement::Placeable { expression } = element else { continue };
            let inline = match expression {
                Expression::Inline(inline) => inline,
                Expression::Select { selector, variants } => {
                    variants.iter().for_each(|v| named(&v.value, into));
                    selector
                }
            };
            if let InlineExpression::VariableReference { id } = inline {
                into.insert(id.name.to_owned());
            }
        }
    }

    /// Every sentence of a language with what it names.
    fn sentences(language: Language) -> BTreeMap<String, BTreeSet<String>> {
        let mut all = BTreeMap::new();
        for file in language.files() {
            for entry in fluent_syntax::parser::parse(*file).unwrap().body {
                let Entry::Message(message) = entry else { continue };
                let mut names = BTreeSet::new();
                named(message.value.as_ref().unwrap(), &mut names);
                assert!(all.insert(message.id.name.to_owned(), names).is_none(), "{} stands twice", message.id.name);
            }
        }
        all
    }

    #[test]
    fn every_sentence_is_there_in_every_language_and_names_the_same() {
        let (english, spanish) = (sentences(Language::English), sentences(Language::Spanish));
        for (id, names) in &english {
            assert_eq!(spanish.get(id), Some(names), "{id}");
        }
        for id in spanish.keys().filter(|id| !english.contains_key(*id)) {
            assert!(
                id.split('-')
                    .next()
                    .is_some_and(|t| ["place", "structure", "worst", "due", "order", "role", "came"].contains(&t)),
                "{id}"
            );
        }
    }

    #[test]
    fn days_figures_and_plurals_follow_the_language() {
        let day = NaiveDate::from_ymd_opt(2026, 7, 14).unwrap();
        assert_eq!(Language::English.day(day), "July 14, 2026");
        assert_eq!(Language::Spanish.day(day), "14 de julio de 2026");
        assert_eq!([Language::English.short_day(day), Language::Spanish.short_day(day)], ["Jul 14", "14 jul"]);
        assert_eq!(Language::Spanish.figure("12.4 ± 0.9".into()), "12,4 ± 0,9");
        let said = |n: u64| Language::Spanish.say_with("docket-looking", &[("n", n.into())]);
        assert!(
            said(1).starts_with("1 trabajo más") && said(3).starts_with("3 trabajos más"),
            "{} {}",
            said(1),
            said(3)
        );
        assert_eq!(Language::Spanish.say("in-no-file"), "in-no-file");
        assert_eq!(Language::Spanish.word("structure", "no_such", "Vehicle"), "Vehicle");
    }

    #[test]
    fn a_browser_gets_what_it_would_have() {
        for (header, language) in [
            ("", Language::English),
            ("es", Language::Spanish),
            ("es-MX,es;q=0.9,en;q=0.8", Language::Spanish),
            ("de, en;q=0.5, es;q=0.6", Language::Spanish),
            ("en-GB, es;q=0.9", Language::English),
            ("es;q=0, en;q=0.1", Language::English),
            ("*;q=x,,;", Language::English),
        ] {
            assert_eq!(Language::accepted(header), language, "{header:?}");
        }
    }
}
