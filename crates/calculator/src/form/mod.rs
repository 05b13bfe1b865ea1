//! What was typed, into a request of the headless interface, and back into fields with their errors.

mod example;
mod read;
mod show;

pub use example::kind_of;

use crate::sheet::Sheet;
use notation::Units;
use notation::unit::{CONDUCTIVITY, Kind, NUMBER, PERCENT, RESISTANCE, STILL_AIR, TEMPERATURE, THICKNESS};
use std::collections::HashMap;

/// Most layers of a build-up.
const MOST_LAYERS: usize = 24;

/// Columns of a layer: what is appended to its name, what it is, its kind.
const LAYER_COLUMNS: [(&str, &str, &Kind); 5] = [
    ("d", "thickness", &THICKNESS),
    ("lambda", "conductivity", &CONDUCTIVITY),
    ("r", "or resistance", &RESISTANCE),
    ("mu", "vapor factor μ", &NUMBER),
    ("sd", "or s_d", &STILL_AIR),
];
/// Columns of a month: what is appended to its name, path in the request, what it is, its kind.
const MONTH_COLUMNS: [(&str, &str, &str, &Kind); 4] = [
    ("it", "inside.t_c", "inside", &TEMPERATURE),
    ("ih", "inside.rh_pct", "inside humidity", &PERCENT),
    ("ot", "outside.t_c", "outside", &TEMPERATURE),
    ("oh", "outside.rh_pct", "outside humidity", &PERCENT),
];

/// Texts by field name, and the units those without a unit are in.
#[derive(Debug, Clone, Default)]
pub struct Typed {
    texts: HashMap<String, String>,
    units: Units,
}

/// One cell that is typed in.
#[derive(Debug, Clone)]
pub struct Cell {
    /// Field name.
    pub name: String,
    /// What it is.
    pub label: String,
    /// Unit meant when none is typed.
    pub unit: &'static str,
    /// What was typed.
    pub value: String,
    /// What is taken when it is left empty.
    pub placeholder: String,
    /// What to change; empty when nothing is.
    pub error: String,
}

/// A field as shown.
#[derive(Debug, Clone)]
pub enum Shown {
    /// One figure.
    Figure(Cell),
    /// A choice: value, words, whether it is chosen.
    Choice {
        /// The field.
        cell: Cell,
        /// What can be chosen.
        options: Vec<(&'static str, &'static str, bool)>,
    },
    /// Many lines.
    Lines(Cell),
    /// Layers of a build-up.
    Layers {
        /// Column heads with their units.
        heads: Vec<String>,
        /// Inside first; the last ones are empty.
        rows: Vec<LayerRow>,
        /// What is wrong with the build-up as a whole.
        error: String,
    },
    /// Months of the year.
    Months {
        /// Column heads with their units.
        heads: Vec<String>,
        /// January first.
        rows: Vec<(&'static str, Vec<Cell>)>,
    },
}

/// A layer as shown.
#[derive(Debug, Clone)]
pub struct LayerRow {
    /// Field name of its material.
    pub name: String,
    /// Its number, from 1.
    pub number: usize,
    /// Id of its material; empty for values of its own.
    pub material: String,
    /// Its figures.
    pub cells: Vec<Cell>,
}

impl Typed {
    /// Texts from an address; `units` there says what bare figures were meant in. Without any field of the sheet the
    /// example is shown instead.
    #[must_use]
    pub fn new(sheet: &Sheet, given: HashMap<String, String>, units: Units) -> Self {
        let meant = match given.get("units").map(String::as_str) {
            Some("us") => Units::Us,
            Some("metric") => Units::Metric,
            _ => units,
        };
        if given.keys().all(|k| k == "units") {
            return Self::example(sheet, units);
        }
        let mut typed = Self { texts: given, units: meant };
        if meant != units {
            typed.convert(sheet, units);
        }
        typed
    }

    fn text(&self, name: &str) -> &str {
        self.texts.get(name).map_or("", |t| t.trim())
    }

    /// The address that brings this form back: every field with something in it.
    #[must_use]
    pub fn query(&self) -> String {
        let units = if self.units == Units::Us { "us" } else { "metric" };
        let mut pairs: Vec<(&str, &str)> = self
            .texts
            .iter()
            .filter(|(k, v)| *k != "units" && !v.is_empty())
            .map(|(k, v)| (k.as_str(), v.as_str()))
            .collect();
        pairs.sort_unstable();
        pairs.insert(0, ("units", units));
        serde_urlencoded::to_string(pairs).unwrap_or_default()
    }

    fn layer_filled(&self, row: usize) -> bool {
        let text = |short: &str| self.text(&format!("layers.{row}.{short}"));
        !text("material").is_empty() || LAYER_COLUMNS.iter().any(|(short, ..)| !text(short).is_empty())
    }
}
