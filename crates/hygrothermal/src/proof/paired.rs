//! The same points before and after, by sign and size.

use statrs::distribution::{ContinuousCDF, StudentsT};

/// Fewest points that say anything.
const FEWEST: usize = 3;
/// Each tail of a 95 % band.
const TAIL: f64 = 0.975;

/// What pairs of readings say.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Paired {
    /// How many pairs.
    pub count: usize,
    /// How many fell.
    pub fell: usize,
    /// Mean before.
    pub before: f64,
    /// After less before, and its 95 % band.
    pub change: f64,
    /// Low end.
    pub low: f64,
    /// High end.
    pub high: f64,
}

impl Paired {
    /// Whether they fell beyond doubt: `Some(true)`, rose beyond doubt: `Some(false)`, or neither.
    #[must_use]
    pub fn fell_beyond_doubt(&self) -> Option<bool> {
        match () {
            () if self.high < 0.0 => Some(true),
            () if self.low > 0.0 => Some(false),
            () => None,
        }
    }
}

/// Compares the same points before and after, read with the same meter.
///
/// # Formula
/// Mean of the differences ± t₀.₉₇₅,ₙ₋₁ · s/√n. Needs `pairs` as (before, after); `None` for fewer than three.
#[must_use]
pub fn paired(pairs: &[(f64, f64)]) -> Option<Paired> {
    let n = pairs.len();
    if n < FEWEST {
        return None;
    }
    let mean = |of: &dyn Fn(&(f64, f64)) -> f64| pairs.iter().map(of).sum::<f64>() / n as f64;
    let change = mean(&|p| p.1 - p.0);
    let variance = pairs.iter().map(|p| (p.1 - p.0 - change).powi(2)).sum::<f64>() / (n as f64 - 1.0);
    let t = StudentsT::new(0.0, 1.0, n as f64 - 1.0).ok()?.inverse_cdf(TAIL);
    let half = t * (variance / n as f64).sqrt();
    let fell = pairs.iter().filter(|p| p.1 < p.0).count();
    Some(Paired { count: n, fell, before: mean(&|p| p.0), change, low: change - half, high: change + half })
}
