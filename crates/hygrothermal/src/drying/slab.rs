//! Water that comes through soil, concrete and masonry for months: measured under a sheet, and when it will be little enough.

use super::fit::{DryingError, Forecast, drying_fit};
use crate::air::saturation_pressure;
use crate::quantity::{DAY, Days, MoistureContent, Permeance, RelativeHumidity, Temperature};
use std::f64::consts::TAU;

/// Vapor resistance factor of concrete that is drying (ISO 10456:2007, concrete of medium density: 60 wet, 100 dry; from memory).
const CONCRETE_MU: f64 = 80.0;
/// Share by which a high water table adds to, and a low one takes from, what comes through (ours).
const SEASON: f64 = 0.3;
/// Longest forecast, days: five years.
const FARTHEST: usize = 1826;
/// Days of a mean month.
const MONTH: f64 = 30.44;

/// Vapor that passes little enough for most floors, g/m² a day: 3 lb in 1000 ft² a day (common practice, the usual limit of dome tests).
pub const LITTLE: f64 = 14.6;

/// What passes a place, g/m² a day: `grams` caught in `hours` under `area` m². `None` for no time or no area.
#[must_use]
pub fn caught(grams: f64, hours: f64, area: f64) -> Option<f64> {
    (hours > 0.0 && area > 0.0 && grams >= 0.0).then(|| grams / area * 24.0 / hours)
}

/// Vapor moving up through concrete between two depths, g/m² a day; negative goes down. Each is temperature, humidity and depth in m,
/// the shallow one first; `None` where the depths are one.
///
/// # Formula
/// g = δ₀/µ · (p_deep − p_shallow)/(d_deep − d_shallow), δ₀ = 2·10⁻¹⁰ kg/(m·s·Pa), µ = 80 (ISO 10456:2007, from memory).
#[must_use]
pub fn between_depths(
    (t0, rh0, d0): (Temperature, RelativeHumidity, f64),
    (t1, rh1, d1): (Temperature, RelativeHumidity, f64),
) -> Option<f64> {
    let pressure = |t: Temperature, rh: RelativeHumidity| rh.get() / 100.0 * saturation_pressure(t);
    let apart = d1 - d0;
    (apart > 1e-4)
        .then(|| Permeance::STILL_AIR / CONCRETE_MU * (pressure(t1, rh1) - pressure(t0, rh0)) / apart * DAY * 1000.0)
}

/// How much more than the year's mean passes in a month, where the water table stands highest in `high` (0 for January).
fn season(month: f64, high: u8) -> f64 {
    1.0 + SEASON * (TAU * (month - f64::from(high)) / 12.0).cos()
}

/// When what passes falls under a limit, days from the same beginning as `measured`: exponential decay of what the season leaves.
/// `measured` are (day, g/m² a day), `first_month` the month of day 0 (with its fraction), `high` the month of the highest water.
/// `Ok(None)` where it does not decay, or not within five years.
///
/// # Errors
/// [`DryingError`] for fewer than three measurements on three days.
pub fn passes_under(
    measured: &[(f64, f64)],
    limit: f64,
    (first_month, high): (f64, u8),
) -> Result<Option<Forecast>, DryingError> {
    let of = |day: f64| season(first_month + day / MONTH, high);
    let most = measured.iter().map(|&(day, g)| g / of(day)).fold(limit, f64::max);
    // A share of the largest, so that any rate fits the fit's scale.
    let scale = 100.0 / most.max(f64::MIN_POSITIVE);
    let share = |x: f64| MoistureContent::new((x * scale).clamp(0.0, 100.0)).ok();
    let points: Vec<(Days, MoistureContent)> =
        measured.iter().filter_map(|&(day, g)| Some((Days::new(day).ok()?, share(g / of(day))?))).collect();
    let zero = MoistureContent::new(0.0).map_err(|_| DryingError::AtEquilibrium)?;
    let fit = drying_fit(&points, zero)?;
    if fit.stalled() {
        return Ok(None);
    }
    let under = (0..FARTHEST).map(|d| d as f64).find(|day| fit.moisture(*day) / scale * of(*day) <= limit);
    Ok(under.and_then(|day| {
        let at = fit.passes(share(limit / of(day))?)?;
        Some(Forecast { day, low: day - (at.day - at.low), high: day + (at.high - at.day) })
    }))
}
