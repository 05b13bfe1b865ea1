//! A cell of a file, before it is known what it means.

use chrono::NaiveDateTime;
use serde::{Deserialize, Serialize};

/// What a cell holds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub enum Cell {
    /// Nothing, an error or a formula without a value.
    Empty,
    /// Text as it stands.
    Text(String),
    /// A number a spreadsheet or JSON holds as such.
    Number(f64),
    /// A moment a spreadsheet holds as such.
    Moment(NaiveDateTime),
}

impl Cell {
    /// From a text; blanks are nothing.
    pub fn text(text: &str) -> Self {
        let text = text.trim_matches(|c: char| c.is_whitespace() || c == '\u{feff}' || c == '\0');
        match text {
            "" => Self::Empty,
            // Nothing that keeps text keeps these.
            _ if text.contains('\0') => Self::Text(text.replace('\0', "")),
            _ => Self::Text(text.to_owned()),
        }
    }

    pub fn is_empty(&self) -> bool {
        *self == Self::Empty
    }

    /// As it would be written.
    pub fn shown(&self) -> String {
        match self {
            Self::Empty => String::new(),
            Self::Text(text) => text.clone(),
            Self::Number(x) => x.to_string(),
            Self::Moment(at) => at.format("%Y-%m-%d %H:%M:%S").to_string(),
        }
    }
}

/// A line of a file: its physical number, and its cells.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    pub number: u64,
    pub cells: Vec<Cell>,
}

impl Line {
    /// As it would be written.
    pub fn text(&self) -> String {
        self.cells.iter().map(Cell::shown).collect::<Vec<_>>().join(",")
    }

    /// Cells that hold something.
    pub fn filled(&self) -> usize {
        self.cells.iter().filter(|c| !c.is_empty()).count()
    }
}
