//! A space: air exchange and moisture budget.

use super::Answer;
use super::air::{blamed, celsius, nested_air};
use crate::input::Input;
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{AirFlow, Hours, Pressure, RelativeHumidity, Temperature, Volume, WaterFlow};
use hygrothermal::space::{self, Advice, Budget};

/// Outdoor air against indoor air.
pub fn compare_air(input: &Input) -> Answer {
    input.only(&["inside", "outside", "flow_m3_s", "coldest_surface_c"])?;
    let (inside, outside) = (nested_air(input, "inside")?, nested_air(input, "outside")?);
    let flow = input.required("flow_m3_s", AirFlow::new)?;
    let coldest = input.optional("coldest_surface_c", Temperature::new)?;
    let compared = space::compare_air(&inside, &outside, flow, coldest);
    Ok(fields!({
        "removal_l_day": compared.removal_l_day,
        "outside_dew_c": celsius(outside.dew_point()),
        "condenses": compared.condenses,
        "advice": match compared.advice {
            Advice::Ventilate => "ventilate",
            Advice::KeepClosed => "keep_closed",
            Advice::NoDifference => "no_difference",
        },
    }))
}

/// Moisture budget of a well-mixed space.
pub fn budget(input: &Input) -> Answer {
    input.only(&["volume_m3", "t_c", "outdoor", "flow_m3_s", "source_kg_s", "start_rh_pct", "hours", "surface_c"])?;
    let t = input.required("t_c", Temperature::new)?;
    let start = input.required("start_rh_pct", RelativeHumidity::new)?;
    let start = MoistAir::from_rh(t, start, Over::Ice, Pressure::STANDARD)
        .map_err(|e| input.fault(blamed(&e, "start_rh_pct"), e))?;
    let budget = Budget {
        volume: input.required("volume_m3", Volume::new)?,
        start,
        outdoor: nested_air(input, "outdoor")?,
        flow: input.required("flow_m3_s", AirFlow::new)?,
        source: input.required("source_kg_s", WaterFlow::new)?,
    };
    let hours = input.required("hours", Hours::new)?;
    let surface = input.optional("surface_c", Temperature::new)?;
    Ok(fields!({
        "end_rh_pct": budget.rh_after(hours),
        "steady_rh_pct": budget.steady_rh(),
        "saturates": budget.saturates(),
        "hours_to_dew": surface.and_then(|s| budget.hours_to_dew(s)),
    }))
}
