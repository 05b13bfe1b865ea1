//! Surfaces: margins, infrared, insulation.

use super::Answer;
use super::air::{celsius, nested_air, simple_air};
use crate::input::Input;
use hygrothermal::buildup::film;
use hygrothermal::quantity::{
    Emissivity, HumidityAccuracy, Measured, Temperature, TemperatureAccuracy, ThermalResistance,
};
use hygrothermal::surface::{self, Accuracy, Apparent, InfraredError, Scene, Target};

/// A surface beside air.
pub fn surface(input: &Input) -> Answer {
    input.only(&[
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
    let exact = |t: Temperature| Measured::exact(t.get());
    let design = input.optional("design_outdoor_c", Temperature::new)?;
    let factor = input
        .optional("outdoor_c", Temperature::new)?
        .and_then(|out| surface::temperature_factor(exact(surface), exact(air.temperature()), exact(out)));
    let judged = surface::judge(&air, surface, input.over()?, &accuracy);
    Ok(fields!({
        "dew_c": celsius(air.dew_point()),
        "margin_c": judged.margin.map(|m| m.value),
        "margin_err_c": judged.margin.map(|m| m.err),
        "surface_rh_pct": judged.surface_rh,
        "condensing_rh_pct": judged.condensing_rh,
        "mold_rh_pct": judged.mold_rh,
        "f_rsi": factor.map(|f| f.0.value),
        "design_surface_c": factor.zip(design).map(|(f, d)| f.surface_at(air.temperature(), d)),
        "verdict": judged.verdict.id(),
    }))
}

/// What an infrared reading means for a surface of another emissivity.
pub fn infrared(input: &Input) -> Answer {
    input.only(&["apparent_c", "emissivity", "reflected_c", "set_emissivity", "set_reflected_c"])?;
    let scene = Scene {
        emissivity: input.required("emissivity", Emissivity::new)?,
        reflected: input.required("reflected_c", Temperature::new)?,
    };
    let seen = Apparent {
        shown: input.required("apparent_c", Temperature::new)?,
        set_emissivity: input.or("set_emissivity", Emissivity::new, Emissivity::BLACK)?,
        set_reflected: input.or("set_reflected_c", Temperature::new, scene.reflected)?,
    };
    let object = surface::infrared(&seen, &scene).map_err(|e| {
        let key = if matches!(e, InfraredError::Mirror { .. }) { "emissivity" } else { "apparent_c" };
        input.fault(key, e)
    })?;
    Ok(fields!({ "object_c": object.get() }))
}

/// Insulation that keeps the inside surface dry or free of mold.
pub fn insulation_for(input: &Input) -> Answer {
    input.only(&["inside", "outside_c", "r_existing_m2k_w", "r_si", "target"])?;
    let inside = nested_air(input, "inside")?;
    let outside = input.required("outside_c", Temperature::new)?;
    let existing = input.required("r_existing_m2k_w", ThermalResistance::new)?;
    let r_si = input.or("r_si", ThermalResistance::new, film::WALL)?;
    let targets = [("no_condensation", Target::NoCondensation), ("no_mold", Target::NoMold)];
    let target = input.word("target", &targets)?.ok_or_else(|| input.missing("target"))?;
    if existing < r_si || existing.get() <= 0.0 {
        let limit = format!("the whole construction must be at least its film ({} m²K/W)", r_si.get());
        return Err(input.fault("r_existing_m2k_w", format!("{limit}, got {}", existing.get())));
    }
    let needed = surface::added_insulation(&inside, outside, existing, r_si, target);
    Ok(fields!({ "r_added_m2k_w": needed.added, "surface_c_before": needed.surface_before }))
}
