//! What gives off moisture.

use crate::quantity::{Factor, Mass, Measured, MoistureContent};
use crate::table::rows;
use serde::Deserialize;
use std::sync::LazyLock;

/// One source of moisture and how much it gives off for each unit counted.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MoistureSource {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// What is counted: "person and day", "kg of propane".
    pub per: String,
    /// Water for each of them, L.
    pub liters: f64,
    /// Little, L.
    pub low: f64,
    /// Much, L.
    pub high: f64,
    /// Where the figure comes from.
    pub source: String,
}

static SOURCES: LazyLock<Vec<MoistureSource>> = LazyLock::new(|| rows(include_str!("../../data/sources.toml")));

/// All sources of the library, in the order of its table.
#[must_use]
pub fn moisture_sources() -> &'static [MoistureSource] {
    &SOURCES
}

/// A source by its id.
#[must_use]
pub fn moisture_source(id: &str) -> Option<&'static MoistureSource> {
    SOURCES.iter().find(|s| s.id == id)
}

impl MoistureSource {
    /// Water given off by `count` units, L, with half the distance from low to high as its band.
    #[must_use]
    pub fn water(&self, count: Factor) -> Measured {
        Measured { value: self.liters * count.get(), err: (self.high - self.low) / 2.0 * count.get() }
    }
}

/// Sum of independent amounts of water, L, bands by root-sum-square.
#[must_use]
pub fn total_water(amounts: &[Measured]) -> Measured {
    let errors: Vec<f64> = amounts.iter().map(|a| a.err).collect();
    Measured::from_contributions(amounts.iter().map(|a| a.value).sum(), &errors)
}

/// Water lumber gives off while it dries from one moisture content to another, L.
///
/// # Formula
/// m_dry (MC₁ − MC₂)/100, moisture contents by dry mass; 0 when it does not dry. Source: definition of moisture
/// content (Wood Handbook ch. 4).
#[must_use]
pub fn drying_lumber(dry: Mass, from: MoistureContent, to: MoistureContent) -> f64 {
    (dry.get() * (from.get() - to.get()) / 100.0).max(0.0)
}
