//! The operations: keys in, core called, keys out.

use crate::input::{Fault, Input};
use hygrothermal::air::{AirError, MoistAir, saturation_pressure};
use hygrothermal::quantity::{
    AirFlow, Altitude, HumidityAccuracy, Measured, Pressure, RelativeHumidity, Temperature, TemperatureAccuracy,
};
use hygrothermal::space::{self, Advice};
use hygrothermal::surface::{self, Accuracy};
use serde_json::{Map, Value, json};

type Answer = Result<Map<String, Value>, Fault>;

fn fields(value: Value) -> Map<String, Value> {
    match value {
        Value::Object(map) => map,
        _ => Map::new(),
    }
}

fn celsius(t: Option<Temperature>) -> Option<f64> {
    t.map(Temperature::get)
}

/// State of moist air from one measured pair.
pub fn air(input: &Input) -> Answer {
    input.only(&["op", "id", "t_c", "rh_pct", "dew_c", "wet_c", "p_pa", "altitude_m", "rh_over"])?;
    let over = input.over()?;
    let p = pressure(input)?;
    let t = input.required("t_c", Temperature::new)?;
    let key = one_of(input, ["rh_pct", "dew_c", "wet_c"])?;
    let state = match key {
        "rh_pct" => MoistAir::from_rh(t, input.required(key, RelativeHumidity::new)?, over, p),
        "dew_c" => MoistAir::from_dew_point(t, input.required(key, Temperature::new)?, p),
        _ => MoistAir::from_wet_bulb(t, input.required(key, Temperature::new)?, p),
    };
    let air = state.map_err(|e| input.fault(blamed(&e, key), e))?;
    let saturation = saturation_pressure(t);
    Ok(fields(json!({
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
    })))
}

/// The field to blame for two readings that cannot both be true.
fn blamed(error: &AirError, key: &'static str) -> &'static str {
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

fn one_of(input: &Input, keys: [&'static str; 3]) -> Result<&'static str, Fault> {
    let mut given = keys.into_iter().filter(|k| input.has(k));
    match (given.next(), given.next()) {
        (Some(key), None) => Ok(key),
        (None, _) => Err(input.fault(keys[0], format!("give one of {}", keys.join(", ")))),
        (_, Some(second)) => Err(input.fault(second, format!("give only one of {}", keys.join(", ")))),
    }
}

/// Air given as `t_c` and `rh_pct`, at standard pressure.
fn simple_air(input: &Input) -> Result<MoistAir, Fault> {
    let t = input.required("t_c", Temperature::new)?;
    let rh = input.required("rh_pct", RelativeHumidity::new)?;
    MoistAir::from_rh(t, rh, input.over()?, Pressure::STANDARD).map_err(|e| input.fault(blamed(&e, "rh_pct"), e))
}

/// A surface beside air.
pub fn surface(input: &Input) -> Answer {
    input.only(&[
        "op",
        "id",
        "t_c",
        "rh_pct",
        "rh_over",
        "surface_c",
        "outdoor_c",
        "design_outdoor_c",
        "t_err_c",
        "rh_err_pct",
        "surface_err_c",
    ])?;
    let air = simple_air(input)?;
    let surface = input.required("surface_c", Temperature::new)?;
    let typical = Accuracy::TYPICAL;
    let accuracy = Accuracy {
        air: input.or("t_err_c", TemperatureAccuracy::new, typical.air)?,
        rh: input.or("rh_err_pct", HumidityAccuracy::new, typical.rh)?,
        surface: input.or("surface_err_c", TemperatureAccuracy::new, typical.surface)?,
    };
    let exact = |t: Temperature| Measured { value: t.get(), err: 0.0 };
    let design = input.optional("design_outdoor_c", Temperature::new)?;
    let factor = input
        .optional("outdoor_c", Temperature::new)?
        .and_then(|out| surface::temperature_factor(exact(surface), exact(air.temperature()), exact(out)));
    let judged = surface::judge(&air, surface, input.over()?, &accuracy);
    Ok(fields(json!({
        "dew_c": celsius(air.dew_point()),
        "margin_c": judged.margin.map(|m| m.value),
        "margin_err_c": judged.margin.map(|m| m.err),
        "surface_rh_pct": judged.surface_rh,
        "condensing_rh_pct": judged.condensing_rh,
        "mold_rh_pct": judged.mold_rh,
        "f_rsi": factor.map(|f| f.0.value),
        "design_surface_c": factor.zip(design).map(|(f, d)| f.surface_at(air.temperature(), d)),
        "verdict": judged.verdict.id(),
    })))
}

/// Outdoor air against indoor air.
pub fn compare_air(input: &Input) -> Answer {
    input.only(&["op", "id", "inside", "outside", "flow_m3_s", "coldest_surface_c"])?;
    let side = |key: &str| {
        let prefix = format!("{}.", input.path(key));
        let side = Input::new(input.object(key)?, &prefix);
        side.only(&["t_c", "rh_pct", "rh_over"])?;
        simple_air(&side)
    };
    let (inside, outside) = (side("inside")?, side("outside")?);
    let flow = input.required("flow_m3_s", AirFlow::new)?;
    let coldest = input.optional("coldest_surface_c", Temperature::new)?;
    let compared = space::compare_air(&inside, &outside, flow, coldest);
    Ok(fields(json!({
        "removal_l_day": compared.removal_l_day,
        "outside_dew_c": celsius(outside.dew_point()),
        "condenses": compared.condenses,
        "advice": match compared.advice {
            Advice::Ventilate => "ventilate",
            Advice::KeepClosed => "keep_closed",
            Advice::NoDifference => "no_difference",
        },
    })))
}
