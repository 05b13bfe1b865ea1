//! The mold index over months that are each taken as one mean state.

use super::class::Sensitivity;
use super::index::Decline;

/// Hours over which growth is taken as even.
const STRIDE: f64 = 12.0;
/// Decline of an unfavorable spell: 0.00133 an hour for 6 h, none up to 24 h, then 0.000667.
const AT_FIRST: f64 = 6.0 * 0.001_33;
const LATER: f64 = 0.000_667;
const REST_UNTIL: f64 = 24.0;

/// A month's mean state at a plane.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MonthAt {
    /// Temperature, °C.
    pub celsius: f64,
    /// Relative humidity there, %.
    pub rh: f64,
    /// Its length.
    pub days: f64,
}

/// The index at the end of each month, begun clean and run through the same year `years` times; the last of them is given.
///
/// # Method
/// As [`super::course`], with each month's growth in strides of half a day and its decline as one spell. Means hide the hours that
/// are wetter than they: a plane that passes by means may still grow mold, one that fails does.
#[must_use]
pub fn steady_year(months: &[MonthAt; 12], class: Sensitivity, decline: Decline, years: u32) -> [f64; 12] {
    let (constants, mut index) = (class.class(), 0.0_f64);
    let mut ends = [0.0; 12];
    for _ in 0..years {
        for (month, end) in months.iter().zip(&mut ends) {
            let hours = 24.0 * month.days;
            if let Some((rate, limit)) = constants.conditions(month.celsius, month.rh.min(100.0)) {
                let mut left = hours;
                while left > 0.0 {
                    let k2 = (1.0 - (2.3 * (index - limit)).exp()).max(0.0);
                    index += rate * constants.k1(index) * k2 * left.min(STRIDE);
                    left -= STRIDE;
                }
            } else {
                index = (index - decline.factor() * (AT_FIRST + LATER * (hours - REST_UNTIL).max(0.0))).max(0.0);
            }
            *end = index;
        }
    }
    ends
}
