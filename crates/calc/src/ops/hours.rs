//! Rows of hours.

use super::Answer;
use super::air::{celsius, listed, nested_air_over};
use crate::input::{Fault, Input};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::hours::{self, LoggedHour, VentHour};
use hygrothermal::quantity::{AirFlow, RelativeHumidity, Temperature, Volume, WaterFlow};
use hygrothermal::space::{BudgetHour, HourEnd, RoomAir};
use serde_json::Value;

/// Longest entry of a log, hours: a month.
const LONGEST_STEP: f64 = 744.0;

/// Air of a row.
pub(super) fn air(input: &Input, key: &str, i: usize, t: f64, rh: f64, over: Over) -> Result<MoistAir, Fault> {
    let path = format!("{key}[{i}]");
    let t = Temperature::new(t).map_err(|e| input.fault(&path, e))?;
    let rh = RelativeHumidity::new(rh).map_err(|e| input.fault(&path, e))?;
    listed(t, rh, over).map_err(|e| input.fault(&path, e))
}

/// `[[t_c, rh_pct], …]`; an entry that is `null`, or holds one, is a gap where gaps may be.
fn airs(input: &Input, key: &str, gaps: bool, over: Over) -> Result<Vec<Option<MoistAir>>, Fault> {
    let one = |(i, entry): (usize, &Value)| {
        let fault = || input.fault(&format!("{key}[{i}]"), format!("must be a pair of numbers, got {entry}"));
        let pair = match entry {
            Value::Null if gaps => return Ok(None),
            Value::Array(pair) if pair.len() == 2 => pair,
            _ => return Err(fault()),
        };
        if gaps && pair.iter().any(Value::is_null) {
            return Ok(None);
        }
        let (Some(t), Some(rh)) = (pair[0].as_f64(), pair[1].as_f64()) else { return Err(fault()) };
        air(input, key, i, t, rh, over).map(Some)
    };
    let list = input.list(key)?;
    if list.is_empty() {
        return Err(input.fault(key, format!("{key} is empty")));
    }
    list.iter().enumerate().map(one).collect()
}

pub(super) fn alike(input: &Input, key: &str, length: usize, other: usize) -> Result<(), Fault> {
    if length == other {
        return Ok(());
    }
    Err(input.fault(key, format!("all lists must have the same length, got {length} and {other}")))
}

/// Hours in which a surface was wet or could grow mold, and what the building adds to the outdoor air.
pub fn log_hours(input: &Input) -> Answer {
    input.only(&["air", "outside", "surface_c", "f_rsi", "step_h", "rh_over"])?;
    let over = input.over()?;
    let by = input.exactly_one(&["surface_c", "f_rsi"])?;
    let step = input.number_in("step_h", 1e-3..=LONGEST_STEP)?.unwrap_or(1.0);
    let inside = airs(input, "air", true, over)?;
    let outside = if input.has("outside") { airs(input, "outside", true, over)? } else { Vec::new() };
    let has_outside = input.has("outside");
    if has_outside {
        alike(input, "outside", inside.len(), outside.len())?;
    }
    let mut row: Vec<LoggedHour> = inside
        .iter()
        .enumerate()
        .map(|(i, air)| LoggedHour { inside: *air, outside: outside.get(i).copied().flatten(), surface: None })
        .collect();
    if by == "f_rsi" {
        if !has_outside {
            return Err(input.fault("outside", "f_rsi needs outside"));
        }
        let f = input.number_in("f_rsi", 0.0..=1.0)?.unwrap_or_default();
        for hour in &mut row {
            *hour = hour.estimated(f);
        }
    } else {
        let list = input.list("surface_c")?;
        alike(input, "surface_c", row.len(), list.len())?;
        for (i, (hour, value)) in row.iter_mut().zip(list).enumerate() {
            let path = format!("surface_c[{i}]");
            if value.is_null() {
                continue;
            }
            let t = value.as_f64().ok_or_else(|| input.fault(&path, format!("must be a number, got {value}")))?;
            hour.surface = Some(Temperature::new(t).map_err(|e| input.fault(&path, e))?);
        }
    }
    let said = hours::log_hours(row, step, over);
    Ok(fields!({
        "hours": said.known,
        "gaps": said.gaps,
        "wet_hours": said.wet,
        "mold_hours": said.mold,
        "longest_wet_h": said.longest_wet,
        "wet_spells": said.wet_spells,
        "worst_margin_c": said.worst.map(|(margin, _)| margin),
        "worst_at": said.worst.map(|(_, at)| at),
        "excess_g_m3": said.excess.map(|[grams, _]| grams),
        "excess_pa": said.excess.map(|[_, pascals]| pascals),
    }))
}

/// Hours in which outdoor air would dry a space.
pub fn vent_hours(input: &Input) -> Answer {
    input.only(&["inside", "outside", "flow_m3_s", "coldest_surface_c", "rh_over"])?;
    let over = input.over()?;
    let outside: Vec<MoistAir> = airs(input, "outside", false, over)?.into_iter().flatten().collect();
    let inside: Vec<MoistAir> = if input.is_list("inside") {
        let list: Vec<MoistAir> = airs(input, "inside", false, over)?.into_iter().flatten().collect();
        alike(input, "inside", outside.len(), list.len())?;
        list
    } else {
        vec![nested_air_over(input, "inside", over)?; outside.len()]
    };
    let flow = input.required("flow_m3_s", AirFlow::new)?;
    let coldest = input.optional("coldest_surface_c", Temperature::new)?;
    let hour = |(inside, outside)| Some(VentHour { inside, outside, coldest });
    let said = hours::vent_hours(inside.into_iter().zip(outside).map(hour), flow);
    Ok(fields!({
        "removal_l": said.removal_l,
        "open": said.open,
        "open_l": said.open_l,
        "always_l": said.always_l,
        "best": said.best,
    }))
}

/// Moisture budget of a well-mixed space through hours that differ.
pub fn budget_hours(input: &Input) -> Answer {
    input.only(&["volume_m3", "t_c", "start_rh_pct", "hours", "surface_c", "rh_over"])?;
    let over = input.over()?;
    let t = input.required("t_c", Temperature::new)?;
    let start = input.required("start_rh_pct", RelativeHumidity::new)?;
    let start = listed(t, start, over).map_err(|e| input.fault("start_rh_pct", e))?;
    let surface = input.optional("surface_c", Temperature::new)?;
    let hours = input.objects("hours", |hour| {
        hour.only(&["outdoor", "flow_m3_s", "source_kg_s", "removal_kg_s"])?;
        let none = WaterFlow::new(0.0).map_err(|e| hour.fault("source_kg_s", e))?;
        Ok(BudgetHour {
            outdoor: nested_air_over(hour, "outdoor", over)?,
            flow: hour.required("flow_m3_s", AirFlow::new)?,
            source: hour.optional("source_kg_s", WaterFlow::new)?.unwrap_or(none),
            removal: hour.optional("removal_kg_s", WaterFlow::new)?.unwrap_or(none),
        })
    })?;
    if hours.is_empty() {
        return Err(input.fault("hours", "hours is empty"));
    }
    let mut room = RoomAir::new(input.required("volume_m3", Volume::new)?, &start);
    let ends: Vec<_> = hours.iter().map(|hour| room.step(hour)).collect();
    let dews: Vec<Option<Temperature>> = ends.iter().map(HourEnd::dew_point).collect();
    let wet = surface.and_then(|s| dews.iter().position(|dew| dew.is_some_and(|dew| dew > s)));
    Ok(fields!({
        "rh_pct": ends.iter().map(|e| e.rh).collect::<Vec<_>>(),
        "dew_c": dews.iter().map(|dew| celsius(*dew)).collect::<Vec<_>>(),
        "first_wet_hour": wet,
        "in_l": hours.iter().map(|h| h.source.get() * 3600.0).sum::<f64>(),
        "removed_l": ends.iter().map(|e| e.removed).sum::<f64>(),
        "air_out_l": ends.iter().map(|e| e.air_out).sum::<f64>(),
        "stored_l": ends.iter().map(|e| e.stored).sum::<f64>(),
    }))
}
