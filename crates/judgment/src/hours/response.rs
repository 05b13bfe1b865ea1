//! How the vapor in a space follows that outdoors.

use super::fit::{Line, line};
use hygrothermal::quantity::Measured;

/// Longest lag looked for, hours.
const LONGEST_LAG: usize = 72;
/// Fewest hours that both sides know.
const FEWEST: usize = 72;
/// Hours taken together: what a space lags within them is not taken for a weaker response.
const TOGETHER: usize = 6;
/// Least spread of the vapor pressure outdoors, Pa: under it nothing is told from an instrument's own noise.
const LEAST_SPREAD: f64 = 20.0;

/// How a space follows outdoors.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Response {
    /// Of a change of vapor pressure outdoors, the part that arrives inside, with its 95 % band.
    pub slope: Measured,
    /// How many hours later.
    pub lag_h: usize,
    /// The share of what changes inside that outdoors accounts for, 0–1.
    pub share: f64,
}

/// The response of a space to outdoors from hourly vapor pressures of both, Pa: the slope at the lag that fits best. `None` under
/// three days of hours that both know, or where the outdoor air hardly changed.
///
/// # Formula
/// p_i(t) = a + b·p_e(t − lag) with errors that follow one another: lag of 0–72 h by the largest correlation of hours, b from means
/// of six hours as [`line`] gives it.
#[must_use]
pub fn response(inside: &[Option<f64>], outside: &[Option<f64>]) -> Option<Response> {
    let mut best: Option<(f64, usize)> = None;
    for lag in 0..=LONGEST_LAG.min(inside.len()) {
        let Some(r) = correlation(inside, outside, lag) else { continue };
        // A longer lag must say more than chance does.
        if best.is_none_or(|(before, _)| r > before + 0.01) {
            best = Some((r, lag));
        }
    }
    let (r, lag_h) = best?;
    let later = inside.get(lag_h..)?;
    let means: Vec<Option<(f64, f64)>> = outside
        .chunks(TOGETHER)
        .zip(later.chunks(TOGETHER))
        .map(|(e, i)| {
            let both: Vec<(f64, f64)> = e.iter().zip(i).filter_map(|(e, i)| (*e).zip(*i)).collect();
            let n = both.len() as f64;
            (2 * both.len() >= TOGETHER)
                .then(|| (both.iter().map(|b| b.0).sum::<f64>() / n, both.iter().map(|b| b.1).sum::<f64>() / n))
        })
        .collect();
    let Line { slope, .. } = line(&means)?;
    Some(Response { slope, lag_h, share: r * r.abs() })
}

/// Correlation of the space with outdoors so many hours earlier.
fn correlation(inside: &[Option<f64>], outside: &[Option<f64>], lag: usize) -> Option<f64> {
    let pairs: Vec<(f64, f64)> =
        outside.iter().zip(inside.iter().skip(lag)).filter_map(|(e, i)| (*e).zip(*i)).collect();
    if pairs.len() < FEWEST {
        return None;
    }
    let n = pairs.len() as f64;
    let (mean_x, mean_y) = (pairs.iter().map(|p| p.0).sum::<f64>() / n, pairs.iter().map(|p| p.1).sum::<f64>() / n);
    let (mut xx, mut xy, mut yy) = (0.0, 0.0, 0.0);
    for (x, y) in &pairs {
        let (x, y) = (x - mean_x, y - mean_y);
        (xx, xy, yy) = (xx + x * x, xy + x * y, yy + y * y);
    }
    ((xx / n).sqrt() > LEAST_SPREAD && yy > 0.0).then(|| xy / (xx * yy).sqrt())
}
