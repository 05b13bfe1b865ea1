//! Water carried by leaking air, beside what diffuses.

use crate::air::{MoistAir, saturation_pressure};
use crate::quantity::{AirFlow, DAY, Pressure, Temperature};

/// Water left by room air leaking past a cold plane, g/(m²·day); 0 when the plane is above its dew point.
///
/// # Formula
/// q/v (W_i − W_sat(T_plane)), `flow` = q in m³/s for each m² of build-up, measured at the room's state; the air is
/// taken to reach the plane's temperature. An upper limit: fast leaks warm the plane they pass.
#[must_use]
pub fn leakage_condensate(room: &MoistAir, plane: Temperature, flow: AirFlow) -> f64 {
    if saturation_pressure(plane) >= room.vapor_pressure() {
        return 0.0;
    }
    let Ok(left) = MoistAir::saturated(plane, Pressure::STANDARD) else { return 0.0 };
    flow.get() / room.specific_volume() * (room.humidity_ratio() - left.humidity_ratio()) * DAY * 1000.0
}
