//! Humidity over saturated salt solutions.

use crate::quantity::Temperature;

/// A salt that holds the air over its wet slush at a known humidity.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Salt {
    /// LiCl, about 11 %.
    LithiumChloride,
    /// MgCl₂, about 33 %.
    MagnesiumChloride,
    /// NaCl, about 75 %: table salt.
    SodiumChloride,
    /// K₂SO₄, about 97 %.
    PotassiumSulfate,
}

/// Relative humidity (%) over a saturated solution at a temperature; `None` outside 0 to 30 °C.
///
/// Source: Greenspan 1977, table at each 5 K, straight between (from memory).
#[must_use]
pub fn salt(salt: Salt, t: Temperature) -> Option<f64> {
    const STEP: f64 = 5.0;
    let table: [f64; 7] = match salt {
        Salt::LithiumChloride => [11.23, 11.26, 11.29, 11.30, 11.31, 11.30, 11.28],
        Salt::MagnesiumChloride => [33.66, 33.60, 33.47, 33.30, 33.07, 32.78, 32.44],
        Salt::SodiumChloride => [75.51, 75.65, 75.67, 75.61, 75.47, 75.29, 75.09],
        Salt::PotassiumSulfate => [98.77, 98.48, 98.18, 97.89, 97.59, 97.30, 97.00],
    };
    let place = t.get() / STEP;
    if !(0.0..=6.0).contains(&place) {
        return None;
    }
    let below = (place.floor() as usize).min(table.len() - 2);
    Some(table[below] + (table[below + 1] - table[below]) * (place - below as f64))
}
