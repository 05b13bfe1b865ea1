//! Equilibrium moisture content of wood.

use crate::quantity::{RelativeHumidity, Temperature};
use std::fmt;

/// Warmest and coldest wood the sorption formula is used for, °C: the span of Wood Handbook table 4-2 (30 to 270 °F)
/// carried down to frost, where the change with temperature is small.
const LIMITS: std::ops::RangeInclusive<f64> = -40.0..=132.0;

/// Outside the formula's temperatures.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct EmcError {
    /// What was given, °C.
    pub got: f64,
}

impl fmt::Display for EmcError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (low, high) = (LIMITS.start(), LIMITS.end());
        write!(f, "temperature must be {low} to {high} °C for the moisture content of wood, got {}", self.got)
    }
}

impl std::error::Error for EmcError {}

/// Equilibrium moisture content of wood, % of dry mass.
///
/// # Formula
/// M = 1800/W · (K H/(1 − K H) + (K₁ K H + 2 K₁ K₂ K² H²)/(1 + K₁ K H + K₁ K₂ K² H²)), H = RH/100, T in °C:
/// W = 349 + 1.29 T + 0.0135 T²; K = 0.805 + 0.000736 T − 0.00000273 T²; K₁ = 6.27 − 0.00938 T − 0.000303 T²;
/// K₂ = 1.91 + 0.0407 T − 0.000293 T². Source: Wood Handbook (USDA FPL-GTR-282), eq. 4-5.
///
/// # Errors
/// [`EmcError`] outside −40 to 132 °C.
///
/// # Examples
/// At 21.1 °C and 65 % wood settles near 12 % (Wood Handbook, table 4-2).
/// ```
/// # use hygrothermal::quantity::{RelativeHumidity, Temperature};
/// # use hygrothermal::wood::equilibrium_moisture;
/// let settled = equilibrium_moisture(Temperature::new(21.1)?, RelativeHumidity::new(65.0)?)?;
/// assert!((settled - 12.0).abs() < 0.1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub fn equilibrium_moisture(t: Temperature, rh: RelativeHumidity) -> Result<f64, EmcError> {
    let c = t.get();
    if !LIMITS.contains(&c) {
        return Err(EmcError { got: c });
    }
    let w = 349.0 + c * (1.29 + c * 0.0135);
    let k = 0.805 + c * (0.000_736 - c * 0.000_002_73);
    let k1 = 6.27 - c * (0.009_38 + c * 0.000_303);
    let k2 = 1.91 + c * (0.0407 - c * 0.000_293);
    let kh = k * rh.get() / 100.0;
    let (one, two) = (k1 * kh, k1 * k2 * kh * kh);
    Ok(1800.0 / w * (kh / (1.0 - kh) + (one + 2.0 * two) / (1.0 + one + two)))
}

/// Relative humidity (%) with which wood of this moisture content would stand in equilibrium: the inverse of
/// [`equilibrium_moisture`], by halving. 100 when the wood is wetter than saturated air would make it.
///
/// # Errors
/// [`EmcError`] outside −40 to 132 °C.
pub fn humidity_at(t: Temperature, moisture_content: f64) -> Result<f64, EmcError> {
    let (mut low, mut high) = (0.0_f64, 100.0_f64);
    // The curve rises all the way, so the bracket always holds the answer; 50 halvings are below rounding.
    for _ in 0..50 {
        let middle = f64::midpoint(low, high);
        let reached = RelativeHumidity::new(middle).map_or(Ok(0.0), |rh| equilibrium_moisture(t, rh))?;
        if reached < moisture_content {
            low = middle;
        } else {
            high = middle;
        }
    }
    Ok(high)
}
