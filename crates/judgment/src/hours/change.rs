//! Whether something that happened changed what a space holds against outdoors.

use super::response::autocorrelation;
use hygrothermal::quantity::Measured;

/// Fewest hours on each side.
const FEWEST: usize = 48;

/// What an event changed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Change {
    /// Moisture excess after it less that before it, Pa, with its 95 % band.
    pub excess_pa: Measured,
    /// Hours known on each side.
    pub hours: [usize; 2],
}

/// Compares the moisture excess of the hours before an event with those after it, Pa; `None` under two days that are known on
/// either side.
///
/// # Formula
/// Difference of the means; band: t ≈ 2 on the standard errors of both, each over n·(1 − ρ)/(1 + ρ) effective hours, ρ the first
/// autocorrelation (from memory).
#[must_use]
pub fn change(before: &[Option<f64>], after: &[Option<f64>]) -> Option<Change> {
    let side = |all: &[Option<f64>]| {
        let known: Vec<f64> = all.iter().flatten().copied().collect();
        if known.len() < FEWEST {
            return None;
        }
        let n = known.len() as f64;
        let mean = known.iter().sum::<f64>() / n;
        let off: Vec<f64> = known.iter().map(|x| x - mean).collect();
        let spread = (off.iter().map(|x| x * x).sum::<f64>() / n).sqrt();
        let rho = autocorrelation(&off);
        let effective = (n * (1.0 - rho) / (1.0 + rho)).max(2.0);
        Some((mean, 2.0 * spread / effective.sqrt(), known.len()))
    };
    let ((before, b_err, b_n), (after, a_err, a_n)) = (side(before)?, side(after)?);
    Some(Change { excess_pa: Measured { value: after - before, err: a_err.hypot(b_err) }, hours: [b_n, a_n] })
}
