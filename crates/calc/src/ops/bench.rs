//! Instruments and quantities to buy.

use super::Answer;
use crate::input::Input;
use hygrothermal::instrument;
use hygrothermal::quantity::{Area, Factor, RelativeHumidity, SpreadRate};
use hygrothermal::takeoff::{Coating, Dilution};

/// A correction through check points.
pub fn calibrate(input: &Input) -> Answer {
    input.only(&["points"])?;
    let points = input.pairs("points", RelativeHumidity::new, RelativeHumidity::new)?;
    let found = instrument::calibrate(&points).map_err(|e| input.fault("points", e))?;
    Ok(fields!({
        "slope": found.slope,
        "offset": found.offset,
        "max_residual_pct": found.max_residual,
    }))
}

/// Liters of a coating, and of its concentrate.
pub fn coverage(input: &Input) -> Answer {
    input.only(&["area_m2", "coats", "spread_m2_l", "concentrate_parts", "water_parts"])?;
    let parts = |key| input.optional(key, Factor::new);
    let dilution = match (parts("concentrate_parts")?, parts("water_parts")?) {
        (None, None) => None,
        (Some(concentrate), Some(water)) if concentrate.get() + water.get() > 0.0 => {
            Some(Dilution { concentrate, water })
        }
        (Some(_), Some(_)) => return Err(input.fault("concentrate_parts", "the parts must not both be 0")),
        (Some(_), None) => {
            return Err(input.fault("water_parts", "concentrate_parts needs water_parts, which is missing"));
        }
        (None, Some(_)) => {
            return Err(input.fault("concentrate_parts", "water_parts needs concentrate_parts, which is missing"));
        }
    };
    let need = Coating {
        area: input.required("area_m2", Area::new)?,
        coats: input.whole("coats", 1, 100)?,
        spread: input.required("spread_m2_l", SpreadRate::new)?,
        dilution,
    }
    .need();
    Ok(fields!({
        "litres": need.liters,
        "concentrate_l": need.parts.map(|p| p.0),
        "water_l": need.parts.map(|p| p.1),
    }))
}
