//! Water from bare damp soil.

use crate::air::{GAS_CONSTANT_DRY_AIR, GAS_CONSTANT_VAPOR, HEAT_CAPACITY_DRY_AIR, MoistAir, saturation_pressure};
use crate::quantity::{Area, DAY, Permeance, Pressure, Temperature};

/// Convective film over level soil in still air, W/(m²K) (common practice).
const SOIL_FILM: f64 = 2.4;

/// Evaporation from bare damp soil, L/day (1 kg = 1 L); negative when the air condenses on it.
///
/// # Formula
/// g = β (p_sat(T_ground) − p_v), β = h_c / (ρ c_p R_v T) by the Lewis relation with Le = 1. About 0.4 kg/m² a day
/// at 13 °C and 80 % RH.
#[must_use]
pub fn bare_soil_evaporation(ground: Temperature, air: &MoistAir, area: Area) -> f64 {
    let kelvin = ground.kelvin();
    let density = Pressure::STANDARD.get() / (GAS_CONSTANT_DRY_AIR * kelvin);
    let beta = SOIL_FILM / (density * HEAT_CAPACITY_DRY_AIR * GAS_CONSTANT_VAPOR * kelvin);
    beta * (saturation_pressure(ground) - air.vapor_pressure()) * area.get() * DAY
}

/// Vapor from damp soil under a film, L/day: through the film by its permeance, and freely where it is missing.
///
/// # Formula
/// A (c W (p_sat(T_ground) − p_v) + (1 − c) β (p_sat(T_ground) − p_v)) with `covered` = c, 0 to 1 (held there), and β
/// of [`bare_soil_evaporation`]. A torn or unlapped film leaks by its gaps far more than by its permeance.
#[must_use]
pub fn covered_soil_evaporation(ground: Temperature, air: &MoistAir, area: Area, covered: f64, film: Permeance) -> f64 {
    let covered = covered.clamp(0.0, 1.0);
    let drive = saturation_pressure(ground) - air.vapor_pressure();
    let through = film.get() * drive * area.get() * DAY;
    covered * through + (1.0 - covered) * bare_soil_evaporation(ground, air, area)
}
