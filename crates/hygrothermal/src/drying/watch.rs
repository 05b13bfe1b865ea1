//! What is watched day by day while something dries.

use crate::air::{MoistAir, Over};

/// Air temperature (°C) above which growth is hurried (common practice: 72 °F).
const WARMEST: f64 = 22.2;
/// Highest RH (%) while drying, and in a work area with growth (common practice).
const DAMPEST: f64 = 70.0;
const DAMPEST_WITH_GROWTH: f64 = 60.0;

/// Water a machine takes from each kilogram of dry air, g/kg: inlet less outlet (times 7: grains per pound).
#[must_use]
pub fn depression(inlet: &MoistAir, outlet: &MoistAir) -> f64 {
    1000.0 * (inlet.humidity_ratio() - outlet.humidity_ratio())
}

/// What is out of bounds in a place that is being dried.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum OutOfBounds {
    /// Warmer than is good while growth is possible.
    TooWarm {
        /// What it is, °C.
        got: f64,
        /// What it should stay under, °C.
        limit: f64,
    },
    /// Too damp to dry, or for a work area with growth.
    TooDamp {
        /// What it is, %.
        got: f64,
        /// What it should stay under, %.
        limit: f64,
    },
}

/// Checks the air of a place being dried: below 70 % RH (60 % with growth) and about 22 °C (common practice).
#[must_use]
pub fn out_of_bounds(air: &MoistAir, growth: bool) -> Vec<OutOfBounds> {
    let (t, rh) = (air.temperature().get(), air.rh(Over::Water));
    let limit = if growth { DAMPEST_WITH_GROWTH } else { DAMPEST };
    let warm = (t > WARMEST).then_some(OutOfBounds::TooWarm { got: t, limit: WARMEST });
    let damp = (rh >= limit).then_some(OutOfBounds::TooDamp { got: rh, limit });
    warm.into_iter().chain(damp).collect()
}
