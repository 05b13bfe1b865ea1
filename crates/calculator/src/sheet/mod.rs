//! One sheet for each operation: what to enter, what comes out, where it is from and how it is drawn.

mod air;
mod assembly;
mod bench;
mod machine;
mod mold;
mod space;
mod surface;
mod wood;

use crate::case::Case;
use crate::sketch::Sketch;
use notation::unit::Kind;

/// One operation of the headless interface as a page.
pub struct Sheet {
    /// Its name in the headless interface.
    pub op: &'static str,
    /// Its title.
    pub title: &'static str,
    /// Heading it is listed under.
    pub group: &'static str,
    /// What it answers, in a sentence.
    pub lead: &'static str,
    /// What is entered.
    pub fields: &'static [Field],
    /// Figures of the answer.
    pub results: &'static [Figure],
    /// How it is computed.
    pub formula: &'static [&'static str],
    /// Where that comes from.
    pub source: &'static str,
    /// The answer in a sentence.
    pub verdict: fn(&Case) -> String,
    /// What else to know about this answer, in sentences.
    pub notes: fn(&Case) -> Vec<String>,
    /// The drawing that explains it.
    pub draw: fn(&Case) -> Sketch,
}

/// Whether a figure must be given.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Need {
    /// Yes.
    Required,
    /// No: the headless interface takes the example.
    Defaulted,
    /// No: the answer then leaves out what depends on it.
    Optional,
}

/// A group of fields that is entered.
pub enum Field {
    /// One figure.
    Quantity {
        /// Dotted path in the request.
        key: &'static str,
        /// What it is.
        label: &'static str,
        /// Its kind.
        kind: &'static Kind,
        /// What a fresh page shows, SI; `None` leaves it empty.
        example: Option<f64>,
        /// How far an instrument may be off, SI; 0 for what is not measured.
        doubt: f64,
        /// Whether it must be given.
        need: Need,
    },
    /// One of some words; the first is the default.
    Choice {
        /// Path in the request.
        key: &'static str,
        /// What it is.
        label: &'static str,
        /// Value sent and words shown.
        options: &'static [(&'static str, &'static str)],
        /// Whether the value is a number in the request.
        number: bool,
    },
    /// Pairs of figures, one pair to a line.
    Pairs {
        /// Path in the request.
        key: &'static str,
        /// What they are.
        label: &'static str,
        /// Kinds of the two figures.
        kinds: [&'static Kind; 2],
        /// What a fresh page shows, SI.
        example: &'static [(f64, f64)],
    },
    /// Spans of days at one temperature and humidity, written out as hours.
    Spans {
        /// Path in the request.
        key: &'static str,
        /// What they are.
        label: &'static str,
        /// What a fresh page shows: days, °C, %.
        example: &'static [(f64, f64, f64)],
    },
    /// Layers of a build-up, inside first.
    Layers {
        /// Material and thickness (m) of what a fresh page shows.
        example: &'static [(&'static str, f64)],
    },
    /// Twelve months of two airs.
    Months {
        /// Inside °C and %, outside °C and %, January first.
        example: &'static [[f64; 4]; 12],
    },
}

/// A figure of the answer.
pub struct Figure {
    /// Key in the answer.
    pub key: &'static str,
    /// What it is.
    pub label: &'static str,
    /// Its kind.
    pub kind: &'static Kind,
}

const fn quantity(key: &'static str, label: &'static str, kind: &'static Kind, example: f64) -> Field {
    Field::Quantity { key, label, kind, example: Some(example), doubt: 0.0, need: Need::Required }
}

/// A figure whose example is what the headless interface takes anyway.
const fn defaulted(key: &'static str, label: &'static str, kind: &'static Kind, example: f64) -> Field {
    Field::Quantity { key, label, kind, example: Some(example), doubt: 0.0, need: Need::Defaulted }
}

/// A figure read from an instrument that may be off by `doubt`.
const fn measured(key: &'static str, label: &'static str, kind: &'static Kind, example: f64, doubt: f64) -> Field {
    Field::Quantity { key, label, kind, example: Some(example), doubt, need: Need::Required }
}

const fn optional(key: &'static str, label: &'static str, kind: &'static Kind, example: Option<f64>) -> Field {
    Field::Quantity { key, label, kind, example, doubt: 0.0, need: Need::Optional }
}

const fn figure(key: &'static str, label: &'static str, kind: &'static Kind) -> Figure {
    Figure { key, label, kind }
}

/// For sheets with nothing to add.
const fn nothing_to_add(_: &Case) -> Vec<String> {
    Vec::new()
}

/// What relative humidity below 0 °C refers to.
const RH_OVER: &[(&str, &str)] =
    &[("ice", "over ice (tables, laboratories)"), ("water", "over liquid water (electronic instruments)")];

/// Typical accuracy of a hand-held thermometer (K) and hygrometer (%), common practice.
const T_DOUBT: f64 = 0.5;
const RH_DOUBT: f64 = 3.0;

/// Every sheet, in the order listed.
pub static SHEETS: [&Sheet; 16] = [
    &air::AIR,
    &surface::SURFACE,
    &surface::INFRARED,
    &space::COMPARE,
    &space::BUDGET,
    &assembly::ASSEMBLY,
    &assembly::YEAR,
    &surface::INSULATION,
    &mold::MOLD,
    &wood::EMC,
    &wood::DRYING,
    &machine::ATTIC,
    &machine::DUCT,
    &machine::DEHUMIDIFIER,
    &bench::CALIBRATE,
    &bench::COVERAGE,
];

/// The sheet of an operation.
#[must_use]
pub fn sheet(op: &str) -> Option<&'static Sheet> {
    SHEETS.iter().copied().find(|s| s.op == op)
}
