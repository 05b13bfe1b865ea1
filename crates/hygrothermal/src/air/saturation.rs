//! Saturation vapor pressure and its inverse, the dew or frost point.

use crate::quantity::Temperature;

/// What a relative humidity below 0 °C refers to. Above 0 °C the two are the same.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Over {
    /// Over ice: the ASHRAE convention.
    #[default]
    Ice,
    /// Over liquid water: what electronic hygrometers report, in frost too.
    Water,
}

/// Coefficients of ASHRAE 2017 ch. 1 eq. 5 (ice, −100 to 0 °C), after Hyland and Wexler 1983.
const ICE: Curve = Curve {
    inverse: -5.674_535_9e3,
    powers: [6.392_524_7, -9.677_843e-3, 6.221_570_1e-7, 2.074_782_5e-9, -9.484_024e-13],
    log: 4.163_501_9,
};

/// Coefficients of ASHRAE 2017 ch. 1 eq. 6 (liquid water, 0 to 200 °C), after Hyland and Wexler 1983.
const WATER: Curve = Curve {
    inverse: -5.800_220_6e3,
    powers: [1.391_499_3, -4.864_023_9e-2, 4.176_476_8e-5, -1.445_209_3e-8, 0.0],
    log: 6.545_967_3,
};

/// ln p = a/T + Σ bᵢ Tⁱ + c ln T, T in K, p in Pa.
struct Curve {
    inverse: f64,
    powers: [f64; 5],
    log: f64,
}

impl Curve {
    fn ln_pressure(&self, kelvin: f64) -> f64 {
        let polynomial = self.powers.iter().rev().fold(0.0, |sum, b| sum * kelvin + b);
        self.inverse / kelvin + polynomial + self.log * kelvin.ln()
    }

    /// d(ln p)/dT, 1/K.
    fn ln_slope(&self, kelvin: f64) -> f64 {
        let [_, b1, b2, b3, b4] = self.powers;
        let polynomial = b1 + kelvin * (2.0 * b2 + kelvin * (3.0 * b3 + kelvin * 4.0 * b4));
        (self.log - self.inverse / kelvin) / kelvin + polynomial
    }

    /// Temperature (K) at which the curve reaches `ln_p`, by Newton's method from `start`.
    ///
    /// ln p is nearly straight in 1/T, so the steps shrink quadratically from any start within the range: after a
    /// step of 10⁻⁵ K what is left is far below a nanokelvin, and another look would only cost time.
    fn kelvin_at(&self, ln_p: f64, start: f64) -> f64 {
        let mut kelvin = start;
        for _ in 0..20 {
            let step = (self.ln_pressure(kelvin) - ln_p) / self.ln_slope(kelvin);
            kelvin -= step;
            if step.abs() < 1e-5 {
                break;
            }
        }
        kelvin
    }
}

fn curve(t: Temperature, over: Over) -> &'static Curve {
    if t.get() < 0.0 && over == Over::Ice { &ICE } else { &WATER }
}

/// Saturation vapor pressure in Pa: over ice below 0 °C, over liquid water from 0 °C up.
///
/// Valid from −100 to 200 °C. Source: ASHRAE Handbook—Fundamentals 2017, ch. 1 eq. 5 and 6.
#[must_use]
pub fn saturation_pressure(t: Temperature) -> f64 {
    saturation_pressure_over(t, Over::Ice)
}

/// Saturation vapor pressure in Pa over the named phase; below 0 °C over water this is supercooled water (eq. 6
/// continued below its range, as hygrometer makers do; within 0.1 % of published values to −40 °C, from memory).
#[must_use]
pub fn saturation_pressure_over(t: Temperature, over: Over) -> f64 {
    curve(t, over).ln_pressure(t.kelvin()).exp()
}

/// Relative humidity (%, over the named phase) at which air at `t` is saturated: 100, but less over water below 0 °C,
/// where ice saturates first.
#[must_use]
pub fn saturation_rh(t: Temperature, over: Over) -> f64 {
    // The quotient first: where the two phases are one it is exactly 1, and the limit exactly 100.
    100.0 * (saturation_pressure(t) / saturation_pressure_over(t, over))
}

/// Slope of the saturation curve, Pa/K: the derivative of [`saturation_pressure_over`].
#[must_use]
pub fn saturation_slope(t: Temperature, over: Over) -> f64 {
    saturation_and_slope(t, over).1
}

/// [`saturation_pressure_over`] and [`saturation_slope`] for the price of one.
pub(super) fn saturation_and_slope(t: Temperature, over: Over) -> (f64, f64) {
    let c = curve(t, over);
    let pressure = c.ln_pressure(t.kelvin()).exp();
    (pressure, pressure * c.ln_slope(t.kelvin()))
}

/// Dew point of air at a vapor pressure (Pa); the frost point below 0 °C.
///
/// `None` where no dew point exists in −100 to 200 °C: perfectly dry air, or more vapor than saturated steam at
/// 200 °C. The inverse of [`saturation_pressure`].
#[must_use]
pub fn dew_point(vapor_pressure: f64) -> Option<Temperature> {
    if vapor_pressure <= 0.0 {
        return None;
    }
    let ln_p = vapor_pressure.ln();
    // Magnus-type guess (August–Roche constants, from memory): 6.4154 is ln 611.2 Pa. Newton does the rest.
    let x = ln_p - 6.415_424;
    let guess = (273.15 + 243.12 * x / (17.62 - x)).clamp(173.15, 473.15);
    let celsius = if ln_p < ICE.ln_pressure(273.15) {
        ICE.kelvin_at(ln_p, guess.min(273.15)) - 273.15
    } else {
        // The two curves miss each other by 0.06 Pa at 0 °C; a pressure in that gap belongs to 0 °C.
        (WATER.kelvin_at(ln_p, guess.max(273.15)) - 273.15).max(0.0)
    };
    // Rounding in the inverse may step over the edge of the range by less than a nanokelvin.
    let celsius = if (celsius + 100.0).abs() < 1e-9 { -100.0 } else { celsius };
    Temperature::computed(celsius)
}
