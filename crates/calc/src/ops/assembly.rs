//! Build-ups in steady state and over the year.

use super::Answer;
use super::air::nested_air;
use crate::input::{Fault, Input};
use hygrothermal::buildup::{BuildUp, Layer, Month, MonthResult, Sides, film};
use hygrothermal::quantity::{
    Conductivity, Days, DiffusionThickness, Permeance, ThermalResistance, Thickness, VaporResistanceFactor,
};
use serde_json::{Value, json};

/// Most layers taken at once.
const MOST_LAYERS: usize = 200;

/// Steady profile with condensation planes.
pub fn assembly(input: &Input) -> Answer {
    input.only(&["inside", "outside", "layers", "r_si", "r_se"])?;
    let sides = sides(input)?;
    let buildup = buildup(input)?;
    let profile = buildup.profile(&sides);
    let interfaces: Vec<Value> = profile
        .interfaces
        .iter()
        .map(|i| json!({ "t_c": i.temperature.get(), "sat_pa": i.sat, "vapor_pa": i.vapor }))
        .collect();
    let condensation: Vec<Value> =
        profile.condensation.iter().map(|c| json!({ "interface": c.interface, "rate_g_m2_day": c.rate })).collect();
    Ok(fields!({
        "u_w_m2k": buildup.transmittance(),
        "interfaces": interfaces,
        "condensation": condensation,
    }))
}

/// Twelve months by ISO 13788.
pub fn assembly_year(input: &Input) -> Answer {
    input.only(&["layers", "r_si", "r_se", "months", "start_month"])?;
    let buildup = buildup(input)?;
    let months = months(input)?;
    let start = if input.has("start_month") { Some(input.whole("start_month", 1, 12)? as usize - 1) } else { None };
    let year = buildup.year(&months, start);
    Ok(fields!({
        "months": year.months.iter().map(month).collect::<Vec<_>>(),
        "peak_g_m2": year.peak,
        "dries_out": year.dries_out,
    }))
}

/// What a plane kept wet dries to both sides, month by month.
pub fn drying_potential(input: &Input) -> Answer {
    input.only(&["layers", "r_si", "r_se", "months", "wet_interface"])?;
    let buildup = buildup(input)?;
    let months = months(input)?;
    let wet = input.whole("wet_interface", 0, u32::try_from(buildup.interfaces() - 1).unwrap_or(u32::MAX))? as usize;
    let (mut said, mut year) = (Vec::new(), 0.0);
    for Month { sides, days } in &months {
        let drying = buildup.drying(wet, sides).ok_or_else(|| {
            input.fault(
                "wet_interface",
                format!("interface {wet} has no vapor resistance to one side: it dries as an open surface"),
            )
        })?;
        year += (drying.sum() * days.get()).max(0.0);
        said.push(json!({
            "to_inside_g_m2": drying.to_inside * days.get(),
            "to_outside_g_m2": drying.to_outside * days.get(),
        }));
    }
    Ok(fields!({ "months": said, "year_g_m2": year }))
}

fn months(input: &Input) -> Result<[Month; 12], Fault> {
    let given = input.objects("months", |month| {
        month.only(&["inside", "outside", "days"])?;
        let days = month.required("days", Days::new)?;
        if days.get() <= 0.0 {
            return Err(month.fault("days", format!("days must be above 0, got {}", days.get())));
        }
        Ok(Month { sides: sides(month)?, days })
    })?;
    let count = given.len();
    given.try_into().map_err(|_| input.fault("months", format!("months must be 12, got {count}")))
}

fn month(result: &MonthResult) -> Value {
    let gains: Vec<Value> = result.gains.iter().map(|g| json!({ "interface": g.interface, "g_m2": g.grams })).collect();
    json!({ "gain_g_m2": gains, "held_g_m2": result.held })
}

fn sides(input: &Input) -> Result<Sides, Fault> {
    Ok(Sides { inside: nested_air(input, "inside")?, outside: nested_air(input, "outside")? })
}

fn buildup(input: &Input) -> Result<BuildUp, Fault> {
    let count = input.list("layers")?.len();
    if count > MOST_LAYERS {
        return Err(input.fault("layers", format!("layers must be at most {MOST_LAYERS}, got {count}")));
    }
    let layers = input.objects("layers", layer)?;
    let r_si = input.or("r_si", ThermalResistance::new, film::WALL)?;
    let r_se = input.or("r_se", ThermalResistance::new, film::OUTSIDE)?;
    BuildUp::new(&layers, r_si, r_se).map_err(|e| input.fault("layers", e))
}

fn layer(input: &Input) -> Result<Layer, Fault> {
    input.only(&["name", "r_m2k_w", "thickness_m", "lambda_w_mk", "sd_m", "perm_kg_m2spa", "mu"])?;
    input.text("name")?;
    let thickness = input.optional("thickness_m", Thickness::new)?;
    Ok(Layer { resistance: resistance(input, thickness)?, diffusion: diffusion(input, thickness)? })
}

fn resistance(input: &Input, thickness: Option<Thickness>) -> Result<ThermalResistance, Fault> {
    let r = input.optional("r_m2k_w", ThermalResistance::new)?;
    let lambda = input.optional("lambda_w_mk", Conductivity::new)?;
    match (r, lambda, thickness) {
        (Some(_), Some(_), _) => Err(input.fault("lambda_w_mk", "give r_m2k_w or lambda_w_mk, not both")),
        (Some(r), None, _) => Ok(r),
        (None, Some(lambda), Some(d)) => lambda.resistance(d).map_err(|e| input.fault("lambda_w_mk", e)),
        (None, Some(_), None) => Err(input.fault("thickness_m", "lambda_w_mk needs thickness_m, which is missing")),
        (None, None, Some(_)) => Err(input.missing("lambda_w_mk")),
        (None, None, None) => Err(input.fault("r_m2k_w", "give r_m2k_w, or thickness_m and lambda_w_mk")),
    }
}

fn diffusion(input: &Input, thickness: Option<Thickness>) -> Result<DiffusionThickness, Fault> {
    match input.exactly_one(&["sd_m", "perm_kg_m2spa", "mu"])? {
        "sd_m" => input.required("sd_m", DiffusionThickness::new),
        "perm_kg_m2spa" => Ok(input.required("perm_kg_m2spa", Permeance::new)?.diffusion_thickness()),
        key => {
            let mu = input.required(key, VaporResistanceFactor::new)?;
            let d = thickness.ok_or_else(|| input.fault("thickness_m", "mu needs thickness_m, which is missing"))?;
            mu.diffusion_thickness(d).map_err(|e| input.fault(key, e))
        }
    }
}
