//! Vents, ducts and dehumidifiers.

use super::Answer;
use super::air::nested_air;
use crate::input::Input;
use hygrothermal::machine::{Dehumidifier, Rating};
use hygrothermal::quantity::{
    AirFlow, Area, ArealMass, DailyWater, Diameter, HeatCapacity, Length, Minutes, RelativeHumidity, Temperature,
    ThermalResistance,
};
use hygrothermal::vent::{self, AtticRatio, AtticVents, Balance, Duct, DuctWall, Exhaust, ExhaustError};

/// Net free area of an attic's vents.
pub fn attic_vents(input: &Input) -> Answer {
    input.only(&["area_m2", "ratio", "high_m2", "low_m2"])?;
    let floor = input.required("area_m2", Area::new)?;
    let ratio = match input.whole("ratio", 0, u32::MAX)? {
        150 => AtticRatio::R150,
        300 => AtticRatio::R300,
        other => return Err(input.fault("ratio", format!("ratio must be 150 or 300, got {other}"))),
    };
    let (high, low) = (input.optional("high_m2", Area::new)?, input.optional("low_m2", Area::new)?);
    let vents = vent::attic_vents(floor, ratio, high, low);
    Ok(fields!({
        "required_m2": vents.required,
        "high_share": vents.high_share,
        "met": vents.met,
        "notes": notes(&vents, ratio, high.zip(low)),
    }))
}

fn notes(vents: &AtticVents, ratio: AtticRatio, given: Option<(Area, Area)>) -> Vec<&'static str> {
    let mut notes = Vec::new();
    if given.is_none() {
        notes.push("give high and low vents to see whether the requirement is met");
    }
    if given.is_some_and(|(h, l)| h.get() + l.get() < vents.required) {
        notes.push("net free area is too small");
    }
    match vents.balance {
        Some(Balance::TopHeavy) => notes.push("more than half is high: air may be drawn from the rooms below"),
        Some(Balance::BottomHeavy) => notes.push("less than 40 % is high: air comes in but does not leave"),
        Some(Balance::Balanced) | None => {}
    }
    if ratio == AtticRatio::R300 {
        notes.push("1/300 asks for 40 to 50 % high and, in cold zones, a vapor retarder on the warm side");
    }
    notes
}

/// A cold duct: how long it sweats, and how much.
pub fn exhaust_duct(input: &Input) -> Answer {
    input.only(&[
        "air",
        "around_c",
        "flow_m3_s",
        "diameter_m",
        "length_m",
        "r_m2k_w",
        "wall_kg_m2",
        "wall_c_j_kgk",
        "minutes",
    ])?;
    let duct = Duct {
        diameter: input.required("diameter_m", Diameter::new)?,
        length: input.required("length_m", Length::new)?,
        wall: DuctWall {
            mass: input.required("wall_kg_m2", ArealMass::new)?,
            heat: input.required("wall_c_j_kgk", HeatCapacity::new)?,
            insulation: input.required("r_m2k_w", ThermalResistance::new)?,
        },
    };
    let minutes = input.required("minutes", Minutes::new)?;
    let air = nested_air(input, "air")?;
    let around = input.required("around_c", Temperature::new)?;
    let flow = input.required("flow_m3_s", AirFlow::new)?;
    let course = Exhaust::new(air, around, flow, duct).map_err(|e| input.fault(empty(e), e))?.run(minutes);
    Ok(fields!({
        "wall_c_end": course.steady_end,
        "minutes_to_clear": course.minutes_to_clear,
        "condensate_ml": course.condensate_ml,
    }))
}

const fn empty(error: ExhaustError) -> &'static str {
    match error {
        ExhaustError::NoFlow => "flow_m3_s",
        ExhaustError::NoLength => "length_m",
    }
}

/// What a dehumidifier does at this temperature and humidity.
pub fn dehumidifier(input: &Input) -> Answer {
    input.only(&["rated_l_day", "rated_t_c", "rated_rh_pct", "t_c", "rh_pct", "load_l_day"])?;
    let unit = Dehumidifier {
        rated: input.required("rated_l_day", DailyWater::new)?,
        at: Rating {
            t: input.or("rated_t_c", Temperature::new, Rating::COOL.t)?,
            rh: input.or("rated_rh_pct", RelativeHumidity::new, Rating::COOL.rh)?,
        },
    };
    let load = input.optional("load_l_day", DailyWater::new)?;
    let t = input.required("t_c", Temperature::new)?;
    let rh = input.required("rh_pct", RelativeHumidity::new)?;
    let running = unit.run(t, rh, load.unwrap_or(DailyWater::NONE));
    Ok(fields!({
        "capacity_l_day": running.capacity,
        "runtime_share": load.and(running.runtime),
        "units_needed": load.and(running.units),
    }))
}
