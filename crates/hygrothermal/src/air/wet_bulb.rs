//! Thermodynamic wet bulb temperature.

use super::ratio::{humidity_ratio, humidity_ratio_slope};
use super::saturation::{Over, dew_point, saturation_and_slope, saturation_slope};
use crate::quantity::{Pressure, Temperature};

/// Specific heat of dry air, kJ/(kg·K), as eq. 33 and 35 write it.
const DRY_AIR: f64 = 1.006;

/// What the bulb is wetted with: heat of vaporization at 0 °C (kJ/kg) and the specific heats (kJ/(kg·K)) by which it
/// falls with the bulb's temperature and by which the water itself counts.
struct Bulb {
    over: Over,
    heat: f64,
    falls: f64,
    water: f64,
}

/// ASHRAE 2017 ch. 1 eq. 33.
const LIQUID: Bulb = Bulb { over: Over::Water, heat: 2501.0, falls: 2.326, water: 4.186 };
/// ASHRAE 2017 ch. 1 eq. 35.
const ICE: Bulb = Bulb { over: Over::Ice, heat: 2830.0, falls: 0.24, water: 2.1 };

/// Humidity ratio (kg/kg) of air at `t` whose wet bulb is `wet`; liquid water at and above 0 °C, ice below.
///
/// # Formula
/// Liquid: W = ((2501 − 2.326 t*) W_s* − 1.006 (t − t*)) / (2501 + 1.86 t − 4.186 t*) (ASHRAE 2017 ch. 1 eq. 33).
/// Ice: W = ((2830 − 0.24 t*) W_s* − 1.006 (t − t*)) / (2830 + 1.86 t − 2.1 t*) (eq. 35).
pub(super) fn humidity_ratio_from_wet_bulb(t: Temperature, wet: Temperature, p: Pressure) -> f64 {
    let bulb = if wet.get() >= 0.0 { &LIQUID } else { &ICE };
    bulb.ratio_and_slope(t.get(), wet, p).0
}

impl Bulb {
    /// The humidity ratio of the formula above and its derivative by the wet bulb temperature.
    fn ratio_and_slope(&self, t: f64, wet: Temperature, p: Pressure) -> (f64, f64) {
        let (vapor, by_kelvin) = saturation_and_slope(wet, self.over);
        let saturated = humidity_ratio(vapor, p.get());
        let saturated_slope = humidity_ratio_slope(vapor, p.get()) * by_kelvin;
        let w = wet.get();
        let above = (self.heat - self.falls * w) * saturated - DRY_AIR * (t - w);
        let below = self.heat + 1.86 * t - self.water * w;
        let above_slope = (self.heat - self.falls * w) * saturated_slope - self.falls * saturated + DRY_AIR;
        (above / below, (above_slope + self.water * above / below) / below)
    }
}

/// Wet bulb of air at `t` with vapor pressure `vapor` (Pa); `None` when it would fall below −100 °C.
///
/// Where both a liquid and an icy bulb would balance near 0 °C the liquid one is given.
pub(super) fn wet_bulb(t: Temperature, vapor: f64, p: Pressure) -> Option<Temperature> {
    let target = humidity_ratio(vapor, p.get());
    let guess = first_guess(t, vapor, p);
    let freezing = Temperature::computed(0.0)?;
    if t.get() >= 0.0 && LIQUID.ratio_and_slope(t.get(), freezing, p).0 <= target {
        // Vapor never fills more than 99.99 % of the pressure on the bulb, or W_s would be infinite. Up to 45 °C that
        // cannot happen at the lowest pressure accepted.
        let boiling = if t.get() < 45.0 { t.get() } else { dew_point(0.9999 * p.get())?.get() };
        return solve(0.0, t.get().min(boiling), guess, target, |w| LIQUID.ratio_and_slope(t.get(), w, p));
    }
    solve(Temperature::MIN, t.get().min(0.0), guess, target, |w| ICE.ratio_and_slope(t.get(), w, p))
}

/// Balances the psychrometer with one slope for the whole way from dew point to air (°C): within about 0.5 K indoors.
fn first_guess(t: Temperature, vapor: f64, p: Pressure) -> f64 {
    let dew = dew_point(vapor).map_or(Temperature::MIN, Temperature::get);
    let middle = Temperature::computed(f64::midpoint(t.get(), dew)).map_or(0.0, |m| saturation_slope(m, Over::Ice));
    // Psychrometer constant, 1/K of the total pressure (common practice); the solver does the rest.
    let constant = 6.6e-4 * p.get();
    (constant * t.get() + middle * dew) / (constant + middle)
}

/// Where an increasing function reaches `target` between `low` and `high`: Newton's method from `guess`, kept inside a
/// bracket that always holds the root and halved when a step would leave it. `None` if the root is not inside.
fn solve(
    mut low: f64,
    mut high: f64,
    guess: f64,
    target: f64,
    f: impl Fn(Temperature) -> (f64, f64),
) -> Option<Temperature> {
    let mut x = guess.clamp(low, high);
    for _ in 0..200 {
        let (value, slope) = f(Temperature::computed(x)?);
        let excess = value - target;
        if excess > 0.0 {
            high = x;
        } else {
            low = x;
        }
        let newton = x - excess / slope;
        let next = if newton >= low && newton <= high { newton } else { f64::midpoint(low, high) };
        let step = next - x;
        x = next;
        // Quadratic: a step of 10⁻⁵ K leaves less than a nanokelvin.
        if step.abs() < 1e-5 {
            break;
        }
    }
    // A root below the bracket shows as a solution stuck at its lower end, still too wet.
    let lowest = Temperature::computed(x)?;
    (x > Temperature::MIN + 1e-5 || f(lowest).0 <= target).then_some(lowest)
}
