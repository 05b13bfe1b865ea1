//! The demo's coatings.

use serde::Deserialize;

/// A coating of a demo job.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoCoating {
    /// Name of the job.
    pub job: String,
    /// What it is called.
    pub name: String,
    /// What is put on.
    pub product: String,
    /// Its area.
    pub area_m2: f64,
    /// What it is sold in.
    pub pack_l: f64,
    /// When it last rained.
    pub days_since_rain: i64,
    /// Highest figure of the substrate, and what it reads.
    pub moisture_most: f64,
    /// What it reads.
    pub moisture: f64,
    /// Liters a day of the dehumidifier before and after.
    pub liters: [f64; 2],
    /// Where, before, after.
    pub places: Vec<(String, f64, f64)>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    coating: Vec<DemoCoating>,
}

/// The demo's coatings.
///
/// # Errors
/// What is wrong with the shipped table, in words.
pub fn coatings() -> Result<Vec<DemoCoating>, String> {
    toml::from_str::<File>(include_str!("../data/coatings.toml")).map(|f| f.coating).map_err(|e| e.to_string())
}
