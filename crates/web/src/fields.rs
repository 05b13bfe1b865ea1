//! Fields of a form made from a list, and what was typed in them read with what is wrong named field by field.

use building::Building;
use chrono::{DateTime, NaiveDateTime, Utc};
use language::say;
use notation::Show;
use notation::number::{plain_number, significant};
use notation::unit::Kind;
use std::collections::HashMap;
use uuid::Uuid;

/// What was typed, by field.
pub type Typed = HashMap<String, String>;
/// Fields and what is wrong with them.
pub type Wrongs = Vec<(String, String)>;
/// Choices: ids and names.
pub type Options = Vec<(String, String)>;

/// How a field is typed.
pub enum Input {
    Text,
    Figure,
    Words,
    Choose(Options),
    Check,
    Moment,
}

/// A field of a form.
pub struct Field {
    pub name: &'static str,
    pub label: String,
    pub more: String,
    pub input: Input,
    pub value: String,
}

/// A moment as its field takes it.
pub fn local(show: &Show, ms: i64) -> String {
    let at = DateTime::from_timestamp_millis(ms).unwrap_or_default();
    format!("{}T{}", show.today(at), show.clock(at))
}

/// Reads what was typed, noting what is wrong.
pub struct Reader<'a> {
    pub typed: &'a Typed,
    pub show: &'a Show,
    pub wrong: Wrongs,
}

impl<'a> Reader<'a> {
    pub const fn new(typed: &'a Typed, show: &'a Show) -> Self {
        Self { typed, show, wrong: Vec::new() }
    }

    pub fn text(&self, name: &str) -> &'a str {
        self.typed.get(name).map_or("", |t| t.trim())
    }

    pub fn bad(&mut self, name: &str, why: impl Into<String>) {
        self.wrong.push((name.to_owned(), why.into()));
    }

    /// Words of at most so many characters, on one line.
    pub fn line(&mut self, name: &str, longest: usize, needed: Option<&str>) -> String {
        let text: String = self.text(name).chars().filter(|c| !c.is_control()).collect();
        let length = text.chars().count();
        if length > longest {
            self.bad(name, say!("At most {longest} characters; these are {length}.", longest, length));
        } else if let (true, Some(why)) = (text.is_empty(), needed) {
            self.bad(name, why);
        }
        text
    }

    /// A figure between two, where one was typed.
    pub fn figure(&mut self, name: &str, [low, high]: [f64; 2], what: &str) -> Option<f64> {
        let text = self.text(name);
        if text.is_empty() {
            return None;
        }
        match plain_number(text) {
            Ok(x) if (low..=high).contains(&x) => Some(x),
            Ok(_) => {
                self.bad(name, say!("{low} to {high} {what}.", low = significant(low), high = significant(high), what));
                None
            }
            Err(e) => {
                self.bad(name, e.said(text));
                None
            }
        }
    }

    /// A quantity in the person's unit, between two in its own.
    pub fn quantity(&mut self, name: &str, kind: &Kind, [low, high]: [f64; 2]) -> Option<f64> {
        let text = self.text(name);
        if text.is_empty() {
            return None;
        }
        let units = self.show.units;
        match kind.parse(text, units) {
            Ok(x) if (low..=high).contains(&x) => Some(x),
            Ok(_) => {
                self.bad(
                    name,
                    say!("{kind} to {kind2}.", kind = kind.text(low, units), kind2 = kind.text(high, units)),
                );
                None
            }
            Err(why) => {
                self.bad(name, why);
                None
            }
        }
    }

    /// A moment, where one was typed; not later than now.
    pub fn moment(&mut self, name: &str, now: DateTime<Utc>) -> Option<i64> {
        let text = self.text(name);
        if text.is_empty() {
            return None;
        }
        let read =
            ["%Y-%m-%dT%H:%M", "%Y-%m-%dT%H:%M:%S"].iter().find_map(|f| NaiveDateTime::parse_from_str(text, f).ok());
        match read.and_then(|clock| self.show.instant(clock)) {
            Some(at) if at > now + chrono::TimeDelta::minutes(5) => {
                self.bad(name, say!("That is still to come."));
                None
            }
            Some(at) if (now - at).num_days() > 3650 => {
                self.bad(name, say!("That is over ten years ago."));
                None
            }
            Some(at) => Some(at.timestamp_millis()),
            None => {
                self.bad(name, say!("A day and a time: 2026-03-14 08:30."));
                None
            }
        }
    }

    /// A space of the building.
    pub fn space(&mut self, name: &str, building: &Building) -> Option<Uuid> {
        let found = self.text(name).parse().ok().and_then(|id| building.space(id)).map(|s| s.id);
        if found.is_none() {
            self.bad(name, say!("Choose the space."));
        }
        found
    }

    pub fn checked(&self, name: &str) -> bool {
        self.typed.contains_key(name)
    }
}

/// A field.
pub fn field(name: &'static str, label: &str, more: &str, input: Input, value: String) -> Field {
    Field { name, label: label.into(), more: more.into(), input, value }
}

/// Choices of a closed list.
pub fn kinds<K: Copy>(all: &[K], of: impl Fn(K) -> (&'static str, &'static str)) -> Options {
    all.iter().map(|k| of(*k)).map(|(id, words)| (id.to_owned(), words.to_owned())).collect()
}
