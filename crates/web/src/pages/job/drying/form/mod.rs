//! Parts of a drying job as they are typed.

mod read;
mod shown;

pub use read::{NO_STANDARD, read};
pub use shown::{as_typed, fields};

use building::Building;
use building::drying::{DryingItem, DryingJob, MOST_MACHINES, MOST_POINTS, MOST_SHEETS, MOST_TAKEN};
use casework::CaseFile;
use chrono::{DateTime, NaiveDateTime, Utc};
use judgment::drying::materials;
use notation::Show;
use notation::number::{plain_number, significant};
use std::collections::HashMap;
use uuid::Uuid;

/// Longest name, and longest words.
pub const NAME: usize = 80;
pub const WORDS: usize = 300;

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
            self.bad(name, format!("At most {longest} characters; these are {length}."));
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
                self.bad(name, format!("{} to {} {what}.", significant(low), significant(high)));
                None
            }
            Err(e) => {
                self.bad(name, e.said(text));
                None
            }
        }
    }

    /// A quantity in the person's unit, between two in its own.
    fn quantity(&mut self, name: &str, kind: &notation::unit::Kind, [low, high]: [f64; 2]) -> Option<f64> {
        let text = self.text(name);
        if text.is_empty() {
            return None;
        }
        let units = self.show.units;
        match kind.parse(text, units) {
            Ok(x) if (low..=high).contains(&x) => Some(x),
            Ok(_) => {
                self.bad(name, format!("{} to {}.", kind.text(low, units), kind.text(high, units)));
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
                self.bad(name, "That is still to come.");
                None
            }
            Some(at) if (now - at).num_days() > 3650 => {
                self.bad(name, "That is over ten years ago.");
                None
            }
            Some(at) => Some(at.timestamp_millis()),
            None => {
                self.bad(name, "A day and a time: 2026-03-14 08:30.");
                None
            }
        }
    }

    /// A space of the building.
    pub fn space(&mut self, name: &str, building: &Building) -> Option<Uuid> {
        let found = self.text(name).parse().ok().and_then(|id| building.space(id)).map(|s| s.id);
        if found.is_none() {
            self.bad(name, "Choose the space.");
        }
        found
    }

    pub fn checked(&self, name: &str) -> bool {
        self.typed.contains_key(name)
    }
}

/// Spaces of the building.
pub fn spaces(file: &CaseFile) -> Options {
    file.building.spaces.iter().map(|s| (s.id.to_string(), s.name.clone())).collect()
}

/// Materials.
pub fn material_options() -> Options {
    materials().iter().map(|m| (m.id.clone(), m.name.clone())).collect()
}

/// What a form is of.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum What {
    Point,
    Points,
    Machine,
    Taken,
    Sheet,
}

impl What {
    pub fn from_id(id: &str) -> Option<Self> {
        Some(match id {
            "point" => Self::Point,
            "points" => Self::Points,
            "machine" => Self::Machine,
            "taken" => Self::Taken,
            "sheet" => Self::Sheet,
            _ => return None,
        })
    }

    pub const fn id(self) -> &'static str {
        match self {
            Self::Point => "point",
            Self::Points => "points",
            Self::Machine => "machine",
            Self::Taken => "taken",
            Self::Sheet => "sheet",
        }
    }

    pub const fn words(self, is_new: bool) -> &'static str {
        match (self, is_new) {
            (Self::Point, true) => "Add a point",
            (Self::Point, false) => "Point",
            (Self::Points, _) => "Add several points",
            (Self::Machine, true) => "Add a machine",
            (Self::Machine, false) => "Machine",
            (Self::Taken, true) => "Taken out",
            (Self::Taken, false) => "Taken out",
            (Self::Sheet, true) => "Add a sheet test",
            (Self::Sheet, false) => "Sheet test",
        }
    }

    /// The part with this id.
    pub fn find(self, job: &DryingJob, id: Uuid) -> Option<DryingItem> {
        match self {
            Self::Point => job.points.iter().find(|p| p.id == id).cloned().map(DryingItem::Point),
            Self::Machine => job.machines.iter().find(|m| m.id == id).cloned().map(DryingItem::Machine),
            Self::Taken => job.taken.iter().find(|t| t.id == id).cloned().map(DryingItem::Taken),
            Self::Sheet => job.sheets.iter().find(|s| s.id == id).cloned().map(DryingItem::Sheet),
            Self::Points => None,
        }
    }

    /// Whether there is room for more.
    pub const fn is_full(self, job: &DryingJob) -> bool {
        match self {
            Self::Point | Self::Points => job.points.len() >= MOST_POINTS,
            Self::Machine => job.machines.len() >= MOST_MACHINES,
            Self::Taken => job.taken.len() >= MOST_TAKEN,
            Self::Sheet => job.sheets.len() >= MOST_SHEETS,
        }
    }
}
