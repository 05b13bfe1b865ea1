//! Humidity ratio and vapor pressure, each from the other.

use crate::quantity::Pressure;

/// Ratio of the molar masses of water and dry air (ASHRAE 2017 ch. 1 eq. 20).
const MASS_RATIO: f64 = 0.621_945;

/// W = 0.621945 p_v / (p − p_v) in kg/kg, pressures in Pa (ASHRAE 2017 ch. 1 eq. 20).
pub(super) fn humidity_ratio(vapor: f64, p: f64) -> f64 {
    MASS_RATIO * vapor / (p - vapor)
}

/// dW/dp_v, 1/Pa: how fast [`humidity_ratio`] grows with the vapor pressure.
pub(super) fn humidity_ratio_slope(vapor: f64, p: f64) -> f64 {
    MASS_RATIO * p / ((p - vapor) * (p - vapor))
}

/// Vapor pressure (Pa) of air with a humidity ratio (kg/kg, 0 up): p W/(0.621945 + W), ASHRAE 2017 ch. 1 eq. 20 turned.
#[must_use]
pub fn vapor_pressure_of_ratio(ratio: f64, p: Pressure) -> f64 {
    vapor_pressure(ratio, p.get())
}

/// Vapor pressure (Pa) that goes with a humidity ratio (kg/kg) at pressure `p` (Pa): the inverse.
pub(super) fn vapor_pressure(ratio: f64, p: f64) -> f64 {
    p * ratio / (MASS_RATIO + ratio)
}
