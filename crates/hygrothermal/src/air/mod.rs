//! Moist air: saturation, dew point, wet bulb and the full state.

mod ratio;
mod reading;
mod saturation;
mod state;
mod wet_bulb;

pub use ratio::vapor_pressure_of_ratio;
pub use reading::AirReading;
pub use saturation::{Over, dew_point, saturation_pressure, saturation_pressure_over, saturation_rh, saturation_slope};
pub use state::{AirError, MoistAir};

/// Gas constant of dry air, J/(kg·K) (ASHRAE 2017 ch. 1 eq. 1).
pub(crate) const GAS_CONSTANT_DRY_AIR: f64 = 287.042;
/// Gas constant of water vapor, J/(kg·K) (ASHRAE 2017 ch. 1 eq. 2).
pub(crate) const GAS_CONSTANT_VAPOR: f64 = 461.524;
/// Specific heat of dry air, J/(kg·K) (ASHRAE 2017 ch. 1 eq. 30).
pub(crate) const HEAT_CAPACITY_DRY_AIR: f64 = 1006.0;
/// Specific heat of water vapor, J/(kg·K) (ASHRAE 2017 ch. 1 eq. 30).
pub(crate) const HEAT_CAPACITY_VAPOR: f64 = 1860.0;
