//! View models: text, marks and geometry, ready for templates.

pub mod advice;
pub mod argument;
pub mod conflict;
pub mod history;
pub mod instrument;
pub mod line;
pub mod log;
pub mod meter;
pub mod pages;
pub mod part;
pub mod photo;
pub mod plan;
pub mod practice_change;
pub mod question;
pub mod section;
pub mod spot;
pub mod verdict;

use crate::auth::Who;
use crate::token::Token;
use notation::Units;

/// What every page's frame needs.
pub struct Frame {
    pub token: String,
    pub person: String,
    pub practice: String,
    pub theme: String,
    pub units: Units,
    /// Whose page this is, for what waits on a device.
    pub who: String,
    /// When it was made, ms since 1970: a copy shown later says so.
    pub rendered: i64,
    /// This page's own address, to come back to after a switch.
    pub here: String,
}

impl Frame {
    pub fn new(who: &Who, token: &Token, here: &axum::http::Uri) -> Self {
        Self {
            token: token.0.clone(),
            person: who.person.name.clone(),
            practice: who.person.practice_name.clone(),
            theme: who.person.theme.clone(),
            units: who.units(),
            who: who.person.consultant_id.to_string(),
            rendered: chrono::Utc::now().timestamp_millis(),
            here: here.path_and_query().map_or("/", |p| p.as_str()).to_owned(),
        }
    }

    pub fn us(&self) -> bool {
        self.units == Units::Us
    }

    /// A sentence of the tables, its quantities in this person's units.
    pub fn say(&self, text: impl AsRef<str>) -> String {
        notation::prose(text.as_ref(), self.units).into_owned()
    }
}

/// The job a page is about, for its header.
#[derive(Clone)]
pub struct JobFrame {
    pub id: String,
    pub name: String,
    /// Report of the visit in view, when there is one.
    pub visit: Option<String>,
    /// Which view is current.
    pub view: &'static str,
}

/// A figure's origin: what went in, how, and from where.
#[derive(Clone, Debug)]
pub struct Working {
    pub title: String,
    pub formula: String,
    pub inputs: Vec<String>,
    pub source: String,
    /// The same computation in the calculator, to try other figures.
    pub link: Option<String>,
}

/// A verdict's drop mark: id of the symbol, class and word.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Mark {
    pub symbol: &'static str,
    pub word: &'static str,
}

impl Mark {
    pub const NONE: Self = Self { symbol: "none", word: "not judged" };
}

impl From<hygrothermal::surface::Verdict> for Mark {
    fn from(v: hygrothermal::surface::Verdict) -> Self {
        use hygrothermal::surface::Verdict;
        match v {
            Verdict::Condensing => Self { symbol: "wet", word: "condensing" },
            Verdict::Uncertain => Self { symbol: "unsure", word: "can’t tell" },
            Verdict::MoldRisk => Self { symbol: "mold", word: "mold risk" },
            Verdict::Dry => Self { symbol: "dry", word: "dry" },
        }
    }
}
