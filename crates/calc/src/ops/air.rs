//! Moist air.

use super::Answer;
use crate::input::{Fault, Input};
use hygrothermal::air::{AirError, MoistAir, Over, saturation_pressure};
use hygrothermal::quantity::{Altitude, Pressure, RelativeHumidity, Temperature};

/// Keys of a nested air.
const AIR_KEYS: [&str; 3] = ["t_c", "rh_pct", "rh_over"];

pub(super) fn celsius(t: Option<Temperature>) -> Option<f64> {
    t.map(Temperature::get)
}

/// State of moist air from one measured pair.
pub fn air(input: &Input) -> Answer {
    input.only(&["t_c", "rh_pct", "dew_c", "wet_c", "p_pa", "altitude_m", "rh_over"])?;
    let over = input.over()?;
    let p = pressure(input)?;
    let t = input.required("t_c", Temperature::new)?;
    let key = input.exactly_one(&["rh_pct", "dew_c", "wet_c"])?;
    let state = match key {
        "rh_pct" => MoistAir::from_rh(t, input.required(key, RelativeHumidity::new)?, over, p),
        "dew_c" => MoistAir::from_dew_point(t, input.required(key, Temperature::new)?, p),
        _ => MoistAir::from_wet_bulb(t, input.required(key, Temperature::new)?, p),
    };
    let air = state.map_err(|e| input.fault(blamed(&e, key), e))?;
    let saturation = saturation_pressure(t);
    Ok(fields!({
        "rh_pct": air.rh(over),
        "dew_c": celsius(air.dew_point()),
        "wet_c": celsius(air.wet_bulb()),
        "vapor_pa": air.vapor_pressure(),
        "sat_pa": saturation,
        "ratio_g_kg": 1000.0 * air.humidity_ratio(),
        "abs_g_m3": 1000.0 * air.absolute_humidity(),
        "enthalpy_kj_kg": air.enthalpy(),
        "density_kg_m3": air.density(),
        "vpd_pa": saturation - air.vapor_pressure(),
    }))
}

/// The field to blame for two readings that cannot both be true.
pub(super) fn blamed(error: &AirError, key: &'static str) -> &'static str {
    if matches!(error, AirError::Boiling { .. }) { "t_c" } else { key }
}

fn pressure(input: &Input) -> Result<Pressure, Fault> {
    if input.has("p_pa") && input.has("altitude_m") {
        return Err(input.fault("altitude_m", "give p_pa or altitude_m, not both"));
    }
    match input.optional("altitude_m", Altitude::new)? {
        Some(z) => Ok(Pressure::at_altitude(z)),
        None => input.or("p_pa", Pressure::new, Pressure::STANDARD),
    }
}

/// Air given as `t_c` and `rh_pct`, at standard pressure.
pub(super) fn simple_air(input: &Input) -> Result<MoistAir, Fault> {
    let t = input.required("t_c", Temperature::new)?;
    let rh = input.required("rh_pct", RelativeHumidity::new)?;
    MoistAir::from_rh(t, rh, input.over()?, Pressure::STANDARD).map_err(|e| input.fault(blamed(&e, "rh_pct"), e))
}

/// A nested air whose RH is over what the whole request says: {t_c, rh_pct}.
pub(super) fn nested_air_over(input: &Input, key: &str, over: Over) -> Result<MoistAir, Fault> {
    input.nested(key, |side| {
        side.only(&["t_c", "rh_pct"])?;
        let (t, rh) = (side.required("t_c", Temperature::new)?, side.required("rh_pct", RelativeHumidity::new)?);
        listed(t, rh, over).map_err(|e| side.fault(blamed(&e, "rh_pct"), e))
    })
}

/// Air of a row of hours, where a hygrometer over water in frost may read beyond what ice allows: then it is saturated.
pub(super) fn listed(t: Temperature, rh: RelativeHumidity, over: Over) -> Result<MoistAir, AirError> {
    match MoistAir::from_rh(t, rh, over, Pressure::STANDARD) {
        Err(AirError::BeyondIceSaturation { .. }) => MoistAir::saturated(t, Pressure::STANDARD),
        made => made,
    }
}

/// A nested air such as `inside`: {t_c, rh_pct, rh_over}.
pub(super) fn nested_air(input: &Input, key: &str) -> Result<MoistAir, Fault> {
    input.nested(key, |side| {
        side.only(&AIR_KEYS)?;
        simple_air(side)
    })
}
