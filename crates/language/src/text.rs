//! Texts that stand in code and in the trade's tables, which are in English: said in the language of whoever reads. Which that is
//! stands around the work done for them ([`heard`]), as a locale does, so that what forms a sentence need not be told. Work for
//! nobody's eyes (the queue, exchange, other programs) is in English.

use crate::{Bundle, Language, formed};
use fluent_bundle::{FluentArgs, FluentResource, FluentValue};
use fluent_syntax::ast::Entry;
use std::cell::Cell;
use std::collections::HashMap;
use std::future::poll_fn;
use std::pin::pin;
use std::sync::{Mutex, OnceLock, PoisonError};

thread_local! {
    static SPOKEN: Cell<Language> = const { Cell::new(Language::English) };
}

/// The language spoken here.
#[must_use]
pub fn spoken() -> Language {
    SPOKEN.get()
}

/// From here on in this language, until the work [`heard`] around it is done.
pub fn speak(language: Language) {
    SPOKEN.set(language);
}

/// Something done in a language; whatever was spoken before is spoken after.
pub fn aloud<T>(language: Language, f: impl FnOnce() -> T) -> T {
    struct Before(Language);
    impl Drop for Before {
        fn drop(&mut self) {
            SPOKEN.set(self.0);
        }
    }
    let _before = Before(SPOKEN.replace(language));
    f()
}

/// Work for another thread, in the language spoken here.
pub fn carried<T>(work: impl FnOnce() -> T) -> impl FnOnce() -> T {
    let language = spoken();
    move || aloud(language, work)
}

/// Work for somebody: begun in this language, and going on in what [`speak`] makes of it, on whichever thread it goes on.
pub async fn heard<F: Future>(language: Language, work: F) -> F::Output {
    let mut work = pin!(work);
    let mut spoken = language;
    poll_fn(|cx| {
        aloud(spoken, || {
            let polled = work.as_mut().poll(cx);
            spoken = SPOKEN.get();
            polled
        })
    })
    .await
}

/// A text the core has put together in English, with its figures and names in it: told by the form it has. What stands in its
/// blanks is told the same way, as far as it is ours.
#[must_use]
pub fn retold(text: &str) -> String {
    let (language, core) = (spoken(), text.trim());
    if language == Language::English || core.is_empty() || found(language, core).is_some() {
        return known_of(text);
    }
    if let Some(said) = found(language, &first(core, char::to_uppercase)) {
        return first(said, char::to_lowercase);
    }
    let Some((form, filled)) = FORMS.iter().find_map(|form| Some((*form, filled(form, core)?))) else {
        return text.to_owned();
    };
    put(form, &filled.into_iter().map(|(name, part)| (name, retold(part))).collect::<Vec<_>>())
}

/// A text with its first letter in another case.
fn first<C: Iterator<Item = char>>(text: &str, case: impl Fn(char) -> C) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |c| case(c).chain(letters).collect())
}

/// What stands in the blanks of a form, where a text has it.
fn filled<'a>(form: &'static str, text: &'a str) -> Option<Vec<(&'static str, &'a str)>> {
    let (before, mut form) = form.split_once('{')?;
    let mut text = text.strip_prefix(before)?;
    let mut all = Vec::new();
    loop {
        let (name, after) = form.split_once('}')?;
        let (between, next) = after.split_once('{').map_or((after, None), |(between, next)| (between, Some(next)));
        let part = match next {
            None => text.strip_suffix(between)?,
            Some(_) => text.split_once(between)?.0,
        };
        all.push((name, part));
        let Some(next) = next else { return Some(all) };
        text = &text[part.len() + between.len()..];
        form = next;
    }
}

/// A text of ours in the language spoken; as it is where that has none for it.
#[must_use]
pub fn known(english: &'static str) -> &'static str {
    let (language, core) = (spoken(), english.trim());
    if language == Language::English || core.is_empty() {
        return english;
    }
    match found(language, core) {
        Some(said) if core.len() == english.len() => said,
        Some(said) => spaced(english, core, said),
        None => english,
    }
}

/// The same for a text of a table that is not held for good.
#[must_use]
pub fn known_of(text: &str) -> String {
    let (language, core) = (spoken(), text.trim());
    if language == Language::English || core.is_empty() {
        return text.to_owned();
    }
    found(language, core).map_or_else(|| text.to_owned(), |said| text.replacen(core, said, 1))
}

/// A text with what it names, in a language other than English: what [`say!`] comes to.
#[must_use]
pub fn put(english: &'static str, with: &[(&'static str, String)]) -> String {
    let core = english.trim();
    let named: FluentArgs = with.iter().map(|(name, value)| (*name, FluentValue::from(value.as_str()))).collect();
    match formed(bundle(spoken()), &key(core), &named) {
        Some(said) => english.replacen(core, &said, 1),
        None => with.iter().fold(english.to_owned(), |text, (name, value)| text.replace(&format!("{{{name}}}"), value)),
    }
}

/// A text in the language spoken, with what it names: `say!("{n} of {all} are wet", n, all = points.len())`. Names stand alone in
/// it: how a figure is written is its own matter.
#[macro_export]
macro_rules! say {
    ($english:literal) => { $crate::known($english) };
    (@ $english:literal [$($name:ident = $value:expr,)+]) => {
        match ($(&$value,)+) {
            ($($name,)+) => if $crate::spoken() == $crate::Language::English {
                format!($english)
            } else {
                $crate::put($english, &[$((stringify!($name), $name.to_string())),+])
            }
        }
    };
    (@ $english:literal [$($done:tt)*] $name:ident = $value:expr $(, $($rest:tt)*)?) => {
        $crate::say!(@ $english [$($done)* $name = $value,] $($($rest)*)?)
    };
    (@ $english:literal [$($done:tt)*] $name:ident $(, $($rest:tt)*)?) => {
        $crate::say!(@ $english [$($done)* $name = $name,] $($($rest)*)?)
    };
    ($english:literal, $($named:tt)+) => { $crate::say!(@ $english [] $($named)+) };
}

/// What a text is called in the files of languages: its words, joined.
#[must_use]
pub fn key(english: &str) -> String {
    let mut key = String::new();
    for word in english.split(|c: char| !c.is_ascii_alphanumeric()).filter(|w| !w.is_empty()) {
        if key.len() + word.len() >= LONGEST {
            break;
        }
        if key.is_empty() && !word.starts_with(|c: char| c.is_ascii_alphabetic()) {
            key.push('n');
        }
        if !key.is_empty() {
            key.push('-');
        }
        key.push_str(word);
    }
    key
}

/// Forms of what the core puts together: it says nothing in a language, and its work is kept for all who read it.
const FORMS: &[&str] = &[
    "{name} is {got}, must be under {limit}",
    "{name} is {got}, must be at least {limit}",
    "{name}: still there",
    "{name}: not there",
    "{needed}, with a hygrometer whose salt check holds",
    "every {n} years",
    "Thickness of {material}",
    "build-up of {boundary}",
    "the climate’s monthly means (from memory); a film well laid, {ceiling} % at {t} °C",
    "{space} at {t} °C, shut; the climate’s monthly means (from memory)",
    "{space} at {t} °C; Wood Handbook eq. 4-5",
    "{space} and outdoor air as read; the room kept at its humidity",
    "{boundary}, ordinary rooms (ISO 13788, annex A), the climate’s monthly means (from memory); diffusion only (ISO 13788)",
    "{boundary}, ordinary rooms (ISO 13788, annex A), the climate’s monthly means (from memory); diffusion only, no rain: rain is \
     what the gate asks for",
    "{surface} as read; bare pine against a coated face (mold index, Hukka and Viitanen 1999, from memory)",
    "{quantity} must be {low} to {high}, got {got}",
    "{what}, all round",
    "Corner, {one} and {other}",
    "Around the {fixture}",
    "Grid over the {facet}",
    "{what}, {side}",
    "{name}: {result}",
];

/// Longest name of a text.
const LONGEST: usize = 100;

/// Texts of the program in a language other than English.
const SAID: [&[&str]; 2] = [
    &[],
    &[
        include_str!("../locales/es/said.ftl"),
        include_str!("../locales/es/pages.ftl"),
        include_str!("../locales/es/working.ftl"),
        include_str!("../locales/es/tables.ftl"),
        include_str!("../locales/es/trade.ftl"),
    ],
];

fn bundle(language: Language) -> &'static Bundle {
    static BUNDLES: [OnceLock<Bundle>; 2] = [OnceLock::new(), OnceLock::new()];
    BUNDLES[language as usize].get_or_init(|| language.bundle_of(SAID[language as usize]))
}

/// Texts of a language that name nothing, by what they are called. They are of the program and last as long.
fn texts(language: Language) -> &'static HashMap<String, &'static str> {
    static TEXTS: [OnceLock<HashMap<String, &'static str>>; 2] = [OnceLock::new(), OnceLock::new()];
    TEXTS[language as usize].get_or_init(|| {
        let mut all = HashMap::new();
        for file in SAID[language as usize] {
            let resource = FluentResource::try_new((*file).to_owned()).unwrap_or_else(|(part, _)| part);
            for id in resource.entries().filter_map(|e| match e {
                Entry::Message(m) => Some(m.id.name),
                _ => None,
            }) {
                if let Some(said) = formed(bundle(language), id, &FluentArgs::new()) {
                    all.insert(id.to_owned(), &*said.leak());
                }
            }
        }
        all
    })
}

fn found(language: Language, core: &str) -> Option<&'static str> {
    texts(language).get(&key(core)).copied()
}

/// A text with the blanks around it that the English has. There are as many as there are such texts in the program.
fn spaced(english: &str, core: &str, said: &str) -> &'static str {
    static SPACED: Mutex<Option<HashMap<String, &'static str>>> = Mutex::new(None);
    let text = english.replacen(core, said, 1);
    let mut all = SPACED.lock().unwrap_or_else(PoisonError::into_inner);
    let all = all.get_or_insert_default();
    if let Some(known) = all.get(&text) {
        return known;
    }
    let kept: &'static str = text.clone().leak();
    all.insert(text, kept);
    kept
}

#[cfg(test)]
#[allow(clippy::unwrap_used, clippy::panic, reason = "tests")]
mod tests {
    use super::*;
    use std::collections::{BTreeMap, BTreeSet};
    use std::fs::read_to_string;
    use std::path::{Path, PathBuf};

    /// Every text said in some code, as it is written there.
    fn said_in(code: &str) -> Vec<String> {
        let code = code.split("#[cfg(test)]").next().unwrap();
        let mut all = Vec::new();
        for after in code.split("say!(").skip(1) {
            let Some(literal) = after.trim_start().strip_prefix('"') else { continue };
            let mut text = String::new();
            let mut chars = literal.chars();
            while let Some(c) = chars.next() {
                match c {
                    '"' => break,
                    '\\' => match chars.next() {
                        Some('\n') => chars = chars.as_str().trim_start().chars(),
                        Some('n') => text.push('\n'),
                        Some(other) => text.push(other),
                        None => break,
                    },
                    c => text.push(c),
                }
            }
            all.push(text.trim().to_owned());
        }
        all
    }

    fn files(under: &Path, extension: &str, all: &mut Vec<String>) {
        for entry in std::fs::read_dir(under).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                files(&path, extension, all);
            } else if path.extension().is_some_and(|e| e == extension) {
                all.push(read_to_string(&path).unwrap());
            }
        }
    }

    /// What a text names: words in braces.
    fn names(text: &str, open: &str, shut: &str) -> Vec<String> {
        let mut all: Vec<String> =
            text.split(open).skip(1).filter_map(|t| Some(t.split_once(shut)?.0.trim().to_owned())).collect();
        all.sort();
        all.dedup();
        all
    }

    fn crates() -> PathBuf {
        Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
    }

    fn lines(file: &str) -> impl Iterator<Item = (&str, &str)> {
        file.lines().filter_map(|l| l.split_once(" = "))
    }

    #[test]
    fn every_text_said_in_code_is_there_in_spanish_names_the_same_and_is_told_from_the_others() {
        let spanish: BTreeMap<&str, &str> = SAID[1].iter().flat_map(|f| lines(f)).collect();
        let mut all = Vec::new();
        for of in
            ["building/src", "calculator/src", "casework/src", "drawing/src", "notation/src", "web/src", "wording/src"]
        {
            files(&crates().join(of), "rs", &mut all);
        }
        let mut met: BTreeMap<String, String> = BTreeMap::new();
        let forms = FORMS.iter().map(|f| (*f).to_owned());
        for text in all.iter().flat_map(|code| said_in(code)).chain(forms) {
            // A letter is written for nobody's eyes yet: in English.
            if text.contains("This letter was written by") {
                continue;
            }
            let said = spanish.get(&*key(&text)).copied().unwrap_or_default();
            assert!(!said.is_empty(), "no Spanish for {text:?}");
            assert_eq!(names(&text, "{", "}"), names(said, "{ $", "}"), "{text}");
            let before = met.insert(key(&text), text.clone());
            let plain = |t: &str| t.replace(|c: char| !c.is_alphanumeric() && c != '{', "");
            assert!(before.is_none_or(|b| plain(&b) == plain(&text)), "{text:?} is called like another");
        }
        assert!(met.len() > 1400, "{}", met.len());
        for (id, _) in SAID[1].iter().take(3).flat_map(|f| lines(f)) {
            assert!(met.contains_key(id), "{id} is said nowhere");
        }
    }

    /// What of the trade's tables people read, and the fields it stands in.
    const READ: &[(&str, &[&str])] = &[
        ("building/data/buildups", &["name"]),
        ("building/data/call", &["name", "look", "bring", "test", "leave"]),
        ("building/data/emissivity", &["name"]),
        ("building/data/structures", &["name", "note", "short"]),
        ("hygrothermal/data/materials", &["name", "group", "source"]),
        ("hygrothermal/data/sources", &["name", "per", "source"]),
        ("hygrothermal/data/species", &["name", "source"]),
        ("hygrothermal/data/vent_covers", &["name", "source"]),
        ("judgment/data/budget", &["name", "source"]),
        ("judgment/data/causes", &["name", "leads"]),
        ("judgment/data/cautions", &["text"]),
        ("judgment/data/drying", &["name"]),
        ("judgment/data/evidence", &["why", "words"]),
        ("judgment/data/findings", &["name", "look"]),
        ("judgment/data/fixes", &["name", "how", "verify"]),
        ("judgment/data/follow_ups", &["name", "note"]),
        ("judgment/data/gates", &["name", "why", "missing"]),
        ("judgment/data/items", &["name", "group"]),
        ("judgment/data/limits", &["source"]),
        ("judgment/data/lookalikes", &["name", "looks", "settles"]),
        ("judgment/data/metering", &["why"]),
        ("judgment/data/red_flags", &["text"]),
        ("judgment/data/schools", &["because", "says"]),
        ("judgment/data/special", &["lead", "source", "note", "head", "text"]),
        ("judgment/data/survey", &["name", "look"]),
        ("judgment/data/tests", &["name", "steps"]),
    ];

    fn texts_of(value: &toml::Value, fields: &[&str], read: bool, all: &mut Vec<String>) {
        match value {
            toml::Value::String(text) if read => all.push(text.clone()),
            toml::Value::Array(items) => items.iter().for_each(|v| texts_of(v, fields, read, all)),
            toml::Value::Table(table) => {
                table.iter().for_each(|(k, v)| texts_of(v, fields, fields.contains(&k.as_str()), all));
            }
            _ => {}
        }
    }

    #[test]
    fn what_people_read_of_the_tables_is_there_in_spanish_with_the_same_blanks() {
        let blanks = |text: &str| names(&text.replace("{\"{\"}", "{").replace("{\"}\"}", "}"), "{", "}");
        let spanish: BTreeMap<&str, &str> = SAID[1].iter().flat_map(|f| lines(f)).collect();
        for (file, fields) in READ {
            let table = read_to_string(crates().join(file).with_extension("toml")).unwrap();
            let mut all = Vec::new();
            texts_of(&toml::Value::Table(table.parse().unwrap()), fields, false, &mut all);
            assert!(!all.is_empty(), "{file}");
            for text in all.iter().filter(|t| t.contains(char::is_alphabetic)) {
                let said = spanish.get(&*key(text)).unwrap_or_else(|| panic!("{file}: no Spanish for {text:?}"));
                assert_eq!(blanks(text), blanks(said), "{text}");
            }
        }
    }

    #[test]
    fn every_word_of_tables_in_spanish_is_one_of_a_table() {
        let mut all = Vec::new();
        for extension in ["rs", "toml", "html"] {
            files(&crates(), extension, &mut all);
        }
        let known: BTreeSet<String> = all.iter().flat_map(|f| f.split('"')).map(key).collect();
        for (id, _) in SAID[1].iter().skip(3).flat_map(|f| lines(f)) {
            assert!(known.contains(id), "{id} is in no table");
        }
    }

    #[test]
    fn work_is_done_in_the_language_of_whoever_it_is_for() {
        let n = 3;
        assert_eq!(say!("{n} points", n), "3 points");
        aloud(Language::Spanish, || {
            assert_eq!(say!("{n} points", n), "3 puntos");
            assert_eq!((say!("It worked."), say!(" and ")), ("Funcionó.", " y "));
            assert_eq!(say!("No such {n} text: {name}.", n, name = "x y"), "No such 3 text: x y.");
            assert_eq!(known_of("nobody's text"), "nobody's text");
            let of_the_core = retold("Wood moisture is 25 %, must be under 15 %");
            assert_eq!(of_the_core, "Humedad de la madera: es 25 %, debe estar por debajo de 15 %");
            assert_eq!(retold("Hut: no change"), "Hut: sin cambio");
        });
        assert_eq!(spoken(), Language::English);
    }

    #[tokio::test(flavor = "multi_thread", worker_threads = 3)]
    async fn many_at_once_each_hear_their_own() {
        let hear = |language: Language| async move {
            heard(Language::English, async move {
                speak(language);
                for _ in 0..200 {
                    tokio::task::yield_now().await;
                    assert_eq!(spoken(), language);
                }
            })
            .await;
        };
        let all = (0..20).map(|i| tokio::spawn(hear(Language::ALL[i % 2])));
        for one in all.collect::<Vec<_>>() {
            one.await.unwrap();
        }
        assert_eq!(spoken(), Language::English);
    }
}
