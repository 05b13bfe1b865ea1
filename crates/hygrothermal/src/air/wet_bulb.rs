//! Thermodynamic wet bulb temperature.

use super::ratio::humidity_ratio;
use super::saturation::{Over, saturation_pressure_over};
use crate::quantity::{Pressure, Temperature};

/// What the bulb is wetted with.
#[derive(Clone, Copy, PartialEq)]
enum Bulb {
    Liquid,
    Ice,
}

/// Humidity ratio (kg/kg) of air at `t` whose wet bulb is `wet`; liquid water at and above 0 °C, ice below.
///
/// # Formula
/// Liquid: W = ((2501 − 2.326 t*) W_s* − 1.006 (t − t*)) / (2501 + 1.86 t − 4.186 t*) (ASHRAE 2017 ch. 1 eq. 33).
/// Ice: W = ((2830 − 0.24 t*) W_s* − 1.006 (t − t*)) / (2830 + 1.86 t − 2.1 t*) (eq. 35).
pub(super) fn humidity_ratio_from_wet_bulb(t: Temperature, wet: Temperature, p: Pressure) -> f64 {
    let bulb = if wet.get() >= 0.0 { Bulb::Liquid } else { Bulb::Ice };
    ratio(t.get(), wet, bulb, p)
}

fn ratio(t: f64, wet: Temperature, bulb: Bulb, p: Pressure) -> f64 {
    let over = if bulb == Bulb::Ice { Over::Ice } else { Over::Water };
    let saturated = humidity_ratio(saturation_pressure_over(wet, over), p.get());
    let w = wet.get();
    match bulb {
        Bulb::Liquid => ((2501.0 - 2.326 * w) * saturated - 1.006 * (t - w)) / (2501.0 + 1.86 * t - 4.186 * w),
        Bulb::Ice => ((2830.0 - 0.24 * w) * saturated - 1.006 * (t - w)) / (2830.0 + 1.86 * t - 2.1 * w),
    }
}

/// Wet bulb of air at `t` with vapor pressure `vapor` (Pa); `None` when it would fall below −100 °C.
///
/// Where both a liquid and an icy bulb would balance near 0 °C the liquid one is given.
pub(super) fn wet_bulb(t: Temperature, vapor: f64, p: Pressure) -> Option<Temperature> {
    let target = humidity_ratio(vapor, p.get());
    let excess = |wet: f64, bulb| Temperature::computed(wet).map(|w| ratio(t.get(), w, bulb, p) - target);
    if t.get() >= 0.0 && excess(0.0, Bulb::Liquid)? <= 0.0 {
        // Vapor never fills more than 99.99 % of the pressure on the bulb, or W_s would be infinite.
        let boiling = super::dew_point(0.9999 * p.get())?.get();
        return solve(0.0, t.get().min(boiling), |w| excess(w, Bulb::Liquid));
    }
    solve(Temperature::MIN, t.get().min(0.0), |w| excess(w, Bulb::Ice))
}

/// Root of an increasing function between `low` and `high` by false position with the Illinois step.
///
/// The bracket always holds the root; `None` if it does not to begin with.
fn solve(mut low: f64, mut high: f64, f: impl Fn(f64) -> Option<f64>) -> Option<Temperature> {
    let (mut f_low, mut f_high) = (f(low)?, f(high)?);
    if f_low > 0.0 {
        return None;
    }
    if f_high <= 0.0 {
        return Temperature::computed(high); // saturated: wet bulb and air are one
    }
    let mut last_side = 0_i8;
    for _ in 0..200 {
        let x = (low * f_high - high * f_low) / (f_high - f_low);
        let fx = f(x)?;
        if fx.abs() < 1e-14 || high - low < 1e-9 {
            return Temperature::computed(x);
        }
        if fx < 0.0 {
            (low, f_low) = (x, fx);
            if last_side == -1 {
                f_high /= 2.0;
            }
            last_side = -1;
        } else {
            (high, f_high) = (x, fx);
            if last_side == 1 {
                f_low /= 2.0;
            }
            last_side = 1;
        }
    }
    Temperature::computed(f64::midpoint(low, high))
}
