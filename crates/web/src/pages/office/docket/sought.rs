//! What the docket is asked for, and the form that asks.

use building::Structure;
use chrono::{NaiveDate, TimeDelta};
use language::{Language, known};
use serde::Deserialize;
use std::collections::HashMap;
use store::{Order, Sought, Worst};
use uuid::Uuid;

/// Longest search, characters.
const LONGEST_SEARCH: usize = 100;

building::kinds! {
    /// When something is to be looked at again.
    Due {
        /// It should have been.
        Late = "late", "overdue";
        /// In the days the docket calls soon.
        Soon = "soon", "due within two weeks";
        /// Whenever.
        Ever = "ever", "anything due";
    }
}

/// As far as anything is due, days.
const EVER: i64 = 40_000;

/// What an address asks for, as it stands there: what is not understood asks for nothing.
#[derive(Deserialize, Default)]
pub struct Asked {
    #[serde(default)]
    words: String,
    #[serde(default)]
    worst: String,
    #[serde(default)]
    due: String,
    #[serde(default)]
    person: String,
    #[serde(default)]
    structure: String,
    #[serde(default)]
    order: String,
    #[serde(default)]
    archived: String,
    #[serde(default)]
    pub(super) page: u64,
}

/// The form, with what was asked by it.
pub struct Filters {
    pub words: String,
    pub choices: Vec<Choice>,
    pub archived: bool,
    /// Whether anything but words was asked for.
    pub narrow: bool,
    /// Whether only the archive was.
    pub alone: bool,
}

/// One choice of the form.
pub struct Choice {
    pub name: &'static str,
    pub label: String,
    pub value: String,
    pub options: Vec<(String, String)>,
}

impl Asked {
    pub(super) fn words(&self) -> String {
        self.words.trim().chars().take(LONGEST_SEARCH).collect()
    }

    fn is_archived(&self) -> bool {
        self.archived == "yes"
    }

    pub(super) fn sought(&self, today: NaiveDate) -> Sought {
        let due_by = Due::from_id(&self.due).map(|due| match due {
            Due::Late => today - TimeDelta::days(1),
            Due::Soon => today + TimeDelta::days(super::SOON),
            Due::Ever => today + TimeDelta::days(EVER),
        });
        Sought {
            words: self.words(),
            structure: Structure::from_id(&self.structure),
            worst: Worst::from_id(&self.worst),
            due_by,
            person: self.person.parse().ok(),
            archived: self.is_archived(),
            order: Order::from_id(&self.order),
            after: None,
        }
    }

    /// What of it is asked, for the addresses of other pages.
    pub(super) fn fields(&self) -> Vec<(&'static str, String)> {
        let all = [
            ("words", self.words()),
            ("worst", self.worst.clone()),
            ("due", self.due.clone()),
            ("person", self.person.clone()),
            ("structure", self.structure.clone()),
            ("order", self.order.clone()),
            ("archived", self.archived.clone()),
        ];
        // The order is one of the form even where nobody chose it.
        all.into_iter()
            .filter(|(name, v)| !v.is_empty() && (*name, v.as_str()) != ("order", Order::Latest.id()))
            .collect()
    }
}

impl Filters {
    pub(super) fn new(asked: &Asked, people: &HashMap<Uuid, String>, tongue: Language) -> Self {
        let said = |table, id: &str, english| (id.to_owned(), tongue.word(table, id, english).into_owned());
        let mut names: Vec<_> = people.iter().map(|(id, name)| (id.to_string(), name.clone())).collect();
        names.sort_by(|a, b| a.1.cmp(&b.1));
        let named: Vec<&str> = asked.fields().into_iter().map(|(name, _)| name).collect();
        let choice = |name: &'static str, value: &str, options| Choice {
            name,
            label: tongue.say(&format!("docket-{name}")),
            value: value.to_owned(),
            options,
        };
        Self {
            words: asked.words(),
            narrow: named.iter().any(|name| *name != "words"),
            alone: named == ["archived"],
            archived: asked.is_archived(),
            choices: vec![
                choice(
                    "worst",
                    &asked.worst,
                    Worst::ALL.iter().map(|w| said("worst", w.id(), known(w.words()))).collect(),
                ),
                choice("due", &asked.due, Due::ALL.iter().map(|d| said("due", d.id(), known(d.words()))).collect()),
                choice("person", &asked.person, names),
                choice(
                    "structure",
                    &asked.structure,
                    Structure::ALL.iter().map(|s| said("structure", s.id(), known(s.words()))).collect(),
                ),
                choice(
                    "order",
                    &asked.order,
                    Order::ALL.iter().map(|o| said("order", o.id(), known(o.words()))).collect(),
                ),
            ],
        }
    }
}
