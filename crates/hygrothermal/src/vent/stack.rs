//! Stack effect: warm air rises and draws cold air in below.

use crate::air::MoistAir;
use crate::quantity::{AirFlow, Area, Length, OutOfRange};

/// Standard gravity, m/s².
const GRAVITY: f64 = 9.806_65;
/// Discharge coefficient of a sharp-edged opening (common practice).
const DISCHARGE: f64 = 0.6;

/// Pressure difference between two openings a height apart, Pa: positive when the inside is warmer and pushes out above.
///
/// # Formula
/// Δp = ρ_out g h (T_in − T_out)/T_in, temperatures in K. Source: ASHRAE Handbook—Fundamentals ch. 16, from memory.
#[must_use]
pub fn stack_pressure(inside: &MoistAir, outside: &MoistAir, height: Length) -> f64 {
    let (t_in, t_out) = (inside.temperature().kelvin(), outside.temperature().kelvin());
    outside.density() * GRAVITY * height.get() * (t_in - t_out) / t_in
}

/// Flow a pressure difference drives through a hole, in the direction it pushes (the size of `pressure`, Pa, counts).
///
/// # Formula
/// Q = C_d A √(2 Δp/ρ) with C_d = 0.6, ρ of the air that flows. Source: orifice equation.
///
/// # Errors
/// [`OutOfRange`] beyond 1000 m³/s.
pub fn opening_flow(hole: Area, pressure: f64, air: &MoistAir) -> Result<AirFlow, OutOfRange> {
    AirFlow::new(DISCHARGE * hole.get() * (2.0 * pressure.abs() / air.density()).sqrt())
}
