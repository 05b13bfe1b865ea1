//! Surfaces: margins, infrared, thermal pictures, insulation.

use super::Answer;
use super::air::{celsius, nested_air, simple_air};
use crate::input::{Fault, Input};
use hygrothermal::buildup::film;
use hygrothermal::quantity::{
    Emissivity, HumidityAccuracy, Measured, Temperature, TemperatureAccuracy, ThermalResistance,
};
use hygrothermal::surface::{
    self, Accuracy, Apparent, GridError, InfraredError, Patch, Room, Scene, Settings, Spot, Target, ThermalGrid,
};
use serde_json::{Value, json};

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

/// A thermal picture read against the room's air.
pub fn thermal_grid(input: &Input) -> Answer {
    input.only(&[
        "grid_c",
        "air",
        "outdoor_c",
        "design_outdoor_c",
        "emissivity",
        "reflected_c",
        "set_emissivity",
        "set_reflected_c",
    ])?;
    let air = nested_air(input, "air")?;
    let room = Room {
        air,
        outdoor: input.optional("outdoor_c", Temperature::new)?,
        design: input.optional("design_outdoor_c", Temperature::new)?,
    };
    let mut grid = ThermalGrid::from_rows(cells(input)?).map_err(|e| grid_fault(input, &e))?;
    if ["emissivity", "reflected_c", "set_emissivity", "set_reflected_c"].iter().any(|key| input.has(key)) {
        let reflected = input.or("reflected_c", Temperature::new, air.temperature())?;
        let scene = Scene { emissivity: input.or("emissivity", Emissivity::new, Emissivity::BLACK)?, reflected };
        let set = Apparent {
            shown: reflected,
            set_emissivity: input.or("set_emissivity", Emissivity::new, Emissivity::BLACK)?,
            set_reflected: input.or("set_reflected_c", Temperature::new, reflected)?,
        };
        grid = grid.corrected(&Settings { scene, set }).map_err(|e| grid_fault(input, &e))?;
    }
    let said = grid.read(&room);
    let spot = |s: Spot| json!({ "row": s.row, "column": s.column, "t_c": s.celsius });
    let share = |cells: usize| cells as f64 / said.read as f64;
    let patch = |p: &Patch| {
        json!({
            "cells": p.cells,
            "share": share(p.cells),
            "coldest": spot(p.coldest),
            "rows": p.rows,
            "columns": p.columns,
        })
    };
    Ok(fields!({
        "rows": grid.rows(),
        "columns": grid.columns(),
        "missing": grid.missing(),
        "min_c": said.coldest.map(|s| s.celsius),
        "mean_c": said.mean,
        "max_c": said.warmest.map(|s| s.celsius),
        "dew_c": celsius(said.dew),
        "mold_c": celsius(said.mold),
        "share_wet": said.wet_share,
        "share_mold": said.mold_share,
        "coldest": said.coldest.map(spot),
        "warmest": said.warmest.map(spot),
        "patches": said.patches.iter().map(patch).collect::<Vec<_>>(),
        "f_rsi_min": said.factor.map(|f| f.0.value),
        "design_min_c": said.design,
        "warnings": said.warnings.iter().map(|w| w.id()).collect::<Vec<_>>(),
    }))
}

/// Rows of temperatures, `null` where nothing was read.
fn cells(input: &Input) -> Result<Vec<Vec<Option<f64>>>, Fault> {
    let row = |(r, row): (usize, &Value)| {
        let fault = || input.fault(&format!("grid_c[{r}]"), format!("must be a list of numbers, got {row}"));
        let cell = |(c, cell): (usize, &Value)| match cell {
            Value::Null => Ok(None),
            _ => cell.as_f64().map(Some).ok_or_else(|| {
                input.fault(&format!("grid_c[{r}][{c}]"), format!("must be a number or null, got {cell}"))
            }),
        };
        row.as_array().ok_or_else(fault)?.iter().enumerate().map(cell).collect()
    };
    input.list("grid_c")?.iter().enumerate().map(row).collect()
}

/// The place in the request that is to blame for what is no picture.
fn grid_fault(input: &Input, error: &GridError) -> Fault {
    match error {
        GridError::Empty => input.fault("grid_c", error),
        GridError::Ragged { row, .. } => input.fault(&format!("grid_c[{row}]"), error),
        GridError::Cell { row, column, why } => input.fault(&format!("grid_c[{row}][{column}]"), why),
        GridError::Infrared { why: why @ InfraredError::Mirror { .. }, .. } => input.fault("emissivity", why),
        GridError::Infrared { row, column, why } => input.fault(&format!("grid_c[{row}][{column}]"), why),
    }
}
