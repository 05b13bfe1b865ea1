//! Questions people ask before they build. Each wants a few figures, compares a few ways, and ends in an answer.

mod cover;
mod fill;
mod membranes;
mod panel;
mod rim;
mod sky;
mod slab;
mod tight;

use crate::cautions::Work;
use crate::construction::Outdoors;
use crate::hours::MoistureClass;
use crate::plan::Measure;
use building::construction::Variant;
use building::{Boundary, Building};
use hygrothermal::air::{MoistAir, Over, saturation_pressure};
use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// Humidity from which mold is a risk, %.
const MOLD: f64 = 80.0;

/// A figure a question wants.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Field {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub label: String,
    /// More.
    #[serde(default)]
    pub note: String,
    /// Its unit.
    pub measure: Measure,
    /// What is taken until somebody types it, SI.
    pub usual: f64,
    /// Least and most, SI.
    pub range: [f64; 2],
    /// The figure of the job that stands there.
    #[serde(default)]
    pub from: String,
}

/// Something to choose.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Choice {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub label: String,
    /// Taken until somebody chooses.
    pub usual: String,
    /// Ids and names.
    pub options: Vec<(String, String)>,
}

/// A figure of each way that is compared.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Column {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub label: String,
    /// Its unit.
    pub measure: Measure,
}

/// A way that is compared.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Way {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
}

building::kinds! {
    /// How a way or an answer stands; the ids are those of the drop marks.
    Mark {
        /// Dry.
        Dry = "dry", "dry";
        /// Mold is a risk.
        Mold = "mold", "mold risk";
        /// Water collects.
        Wet = "wet", "wet";
        /// Cannot be told.
        Unsure = "unsure", "can’t tell";
    }
}

/// How a question can end.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Outcome {
    /// Stable id.
    pub id: String,
    /// Its mark.
    pub mark: Mark,
    /// The answer in a few words.
    pub head: String,
    /// Why, and what to do; figures in braces.
    pub text: String,
}

/// A question.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Special {
    /// Stable id.
    pub id: String,
    /// As people ask it.
    pub name: String,
    /// What decides it.
    pub lead: String,
    /// Where the reckoning comes from.
    pub source: String,
    /// Work whose cautions are shown.
    pub work: Vec<Work>,
    /// Whether it is about a boundary of the building.
    #[serde(default)]
    pub boundary: bool,
    /// Figures it wants.
    pub field: Vec<Field>,
    /// What is chosen.
    #[serde(default)]
    pub choice: Vec<Choice>,
    /// What is told of each way.
    pub column: Vec<Column>,
    /// The ways.
    pub option: Vec<Way>,
    /// How it can end.
    pub outcome: Vec<Outcome>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    special: Vec<Special>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TABLE: LazyLock<File> =
    LazyLock::new(|| toml::from_str(include_str!("../../data/special.toml")).expect("special.toml is well formed"));

/// Every question, in the order offered.
#[must_use]
pub fn specials() -> &'static [Special] {
    &TABLE.special
}

/// The question with this id.
#[must_use]
pub fn special(id: &str) -> Option<&'static Special> {
    TABLE.special.iter().find(|s| s.id == id)
}

/// What is given: figures in SI and words, by id.
#[derive(Debug, Clone, Default)]
pub struct Given {
    /// Figures.
    pub figures: BTreeMap<String, f64>,
    /// What was chosen.
    pub words: BTreeMap<String, String>,
}

impl Given {
    fn get(&self, id: &str) -> f64 {
        self.figures.get(id).copied().unwrap_or(f64::NAN)
    }

    fn word(&self, id: &str) -> &str {
        self.words.get(id).map_or("", String::as_str)
    }
}

/// Where a question is asked: the building, its outdoor year, and a boundary in one of its variants.
#[derive(Debug, Clone, Copy)]
pub struct Where<'a> {
    /// The building.
    pub building: &'a Building,
    /// Outdoor months.
    pub outdoors: &'a Outdoors,
    /// Moisture class of the rooms.
    pub class: MoistureClass,
    /// The boundary, as built in this variant.
    pub of: Option<(&'a Boundary, &'a Variant)>,
}

/// A way, told.
#[derive(Debug, Clone, PartialEq)]
pub struct Told {
    /// The way's id.
    pub id: &'static str,
    /// Its mark.
    pub mark: Mark,
    /// Its figures in the order of the columns, SI; none where there is none.
    pub figures: Vec<Option<f64>>,
}

/// The answer.
#[derive(Debug, Clone, PartialEq)]
pub struct Reply {
    /// Id of the outcome.
    pub outcome: &'static str,
    /// The ways.
    pub options: Vec<Told>,
    /// Figures of the outcome's text, with their units.
    pub figures: BTreeMap<&'static str, (Measure, f64)>,
}

/// Answers a question; `None` where what is given makes no air or the question is unknown.
#[must_use]
pub fn reply(id: &str, given: &Given, at: Where) -> Option<Reply> {
    match id {
        "fill_wall" => fill::answer(given, at),
        "rim_joist" => rim::answer(given),
        "night_sky" => sky::answer(given),
        "cold_cover" => cover::answer(given),
        "damp_slab" => slab::answer(given),
        "vehicle_panel" => panel::answer(given),
        "two_membranes" => membranes::answer(given),
        "two_tight" => tight::answer(given, at),
        _ => None,
    }
}

fn air(t: f64, rh: f64) -> Option<MoistAir> {
    let (t, rh) = (Temperature::new(t).ok()?, RelativeHumidity::new(rh).ok()?);
    MoistAir::from_rh(t, rh, Over::Water, Pressure::STANDARD)
        .or_else(|_| MoistAir::saturated(t, Pressure::STANDARD))
        .ok()
}

/// Saturation pressure at a temperature, Pa.
fn sat(t: f64) -> f64 {
    Temperature::new(t).map_or(f64::NAN, saturation_pressure)
}

/// Humidity of air at a face, %, never over 100.
fn at_face(air: &MoistAir, t: f64) -> f64 {
    (100.0 * air.vapor_pressure() / sat(t)).min(100.0)
}

fn dew(air: &MoistAir) -> f64 {
    air.dew_point().map_or(f64::NAN, Temperature::get)
}

const fn mark(rh: f64) -> Mark {
    if rh >= 100.0 {
        Mark::Wet
    } else if rh >= MOLD {
        Mark::Mold
    } else {
        Mark::Dry
    }
}

/// A temperature at which this air stands at 80 %, °C.
fn at_80(air: &MoistAir) -> f64 {
    let (mut low, mut high) = (-80.0, 90.0);
    for _ in 0..60 {
        let middle = f64::midpoint(low, high);
        if sat(middle) * MOLD / 100.0 < air.vapor_pressure() { low = middle } else { high = middle }
    }
    high
}

#[cfg(test)]
mod tests;
