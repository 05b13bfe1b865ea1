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
    first_guess: [
        4.704_306_646e-3,
        -1.627_265_376e-4,
        4.090_106_053e-8,
        -2.674_190_740e-9,
        -1.603_703_021e-10,
        -6.583_679_576e-12,
        0.0,
    ],
};

/// Coefficients of ASHRAE 2017 ch. 1 eq. 6 (liquid water, 0 to 200 °C), after Hyland and Wexler 1983.
const WATER: Curve = Curve {
    inverse: -5.800_220_6e3,
    powers: [1.391_499_3, -4.864_023_9e-2, 4.176_476_8e-5, -1.445_209_3e-8, 0.0],
    log: 6.545_967_3,
    first_guess: [
        4.873_551_047e-3,
        -2.181_142_440e-4,
        1.156_284_522e-5,
        -1.795_333_039e-6,
        1.457_648_223e-7,
        -6.459_535_974e-9,
        1.172_405_091e-10,
    ],
};

/// What [`ICE`] gives at 0 °C.
const LN_ICE_AT_FREEZING: f64 = 6.415_348_271_110_18;

/// ln p = a/T + Σ bᵢ Tⁱ + c ln T, T in K, p in Pa.
struct Curve {
    inverse: f64,
    powers: [f64; 5],
    log: f64,
    /// 1/T as a polynomial of ln p: a Chebyshev fit of this very curve over its range, within 0.0012 K.
    first_guess: [f64; 7],
}

impl Curve {
    // The polynomials below are written pairwise (Estrin) rather than in one chain: a processor works on the pairs at once.

    fn ln_pressure(&self, kelvin: f64) -> f64 {
        let [b0, b1, b2, b3, b4] = self.powers;
        let square = kelvin * kelvin;
        let polynomial = (b0 + b1 * kelvin) + square * ((b2 + b3 * kelvin) + square * b4);
        self.inverse / kelvin + polynomial + self.log * kelvin.ln()
    }

    /// T · d(ln p)/dT: how many percent the pressure grows for one percent of absolute temperature.
    fn growth(&self, kelvin: f64) -> f64 {
        let [_, b1, b2, b3, b4] = self.powers;
        let polynomial = (b1 + 2.0 * b2 * kelvin) + kelvin * kelvin * (3.0 * b3 + 4.0 * b4 * kelvin);
        self.log - self.inverse / kelvin + kelvin * polynomial
    }

    /// Temperature (K) for a start, within 0.0012 K.
    fn guess(&self, ln_p: f64) -> f64 {
        let [c0, c1, c2, c3, c4, c5, c6] = self.first_guess;
        let square = ln_p * ln_p;
        let high = (c4 + c5 * ln_p) + square * c6;
        1.0 / ((c0 + c1 * ln_p) + square * ((c2 + c3 * ln_p) + square * high))
    }

    /// Temperature (K) at which the curve reaches `ln_p`: a fitted guess, then Newton's method over 1/T.
    ///
    /// ln p is nearly straight in 1/T, so a step of 2·10⁻³ K or less leaves only some nanokelvin, and within the
    /// curve's range the guess is that good: one step does.
    fn kelvin_at(&self, ln_p: f64) -> f64 {
        let mut kelvin = self.guess(ln_p);
        for _ in 0..20 {
            let miss = self.ln_pressure(kelvin) - ln_p;
            let growth = self.growth(kelvin);
            let next = kelvin * growth / (growth + miss);
            let step = next - kelvin;
            kelvin = next;
            if step.abs() < 2e-3 {
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
#[inline]
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
    (pressure, pressure * c.growth(t.kelvin()) / t.kelvin())
}

/// Dew point of air at a vapor pressure (Pa); the frost point below 0 °C.
///
/// `None` where no dew point exists in −100 to 200 °C: perfectly dry air, or more vapor than saturated steam at
/// 200 °C. The inverse of [`saturation_pressure`].
#[must_use]
#[inline]
pub fn dew_point(vapor_pressure: f64) -> Option<Temperature> {
    if vapor_pressure <= 0.0 {
        return None;
    }
    let ln_p = vapor_pressure.ln();
    let celsius = if ln_p < LN_ICE_AT_FREEZING {
        ICE.kelvin_at(ln_p) - 273.15
    } else {
        // The two curves miss each other by 0.06 Pa at 0 °C; a pressure in that gap belongs to 0 °C.
        (WATER.kelvin_at(ln_p) - 273.15).max(0.0)
    };
    // The inverse may step over the edge of the range by some nanokelvin.
    let celsius = if (celsius + 100.0).abs() < 1e-7 { -100.0 } else { celsius };
    Temperature::computed(celsius)
}

#[cfg(test)]
mod tests {
    use super::{ICE, LN_ICE_AT_FREEZING};

    #[test]
    fn the_curve_changes_where_ice_melts() {
        assert!((ICE.ln_pressure(273.15) - LN_ICE_AT_FREEZING).abs() < 1e-12, "{}", ICE.ln_pressure(273.15));
    }
}
