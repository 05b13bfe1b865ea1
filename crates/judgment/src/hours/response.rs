//! How the vapor in a space follows that outdoors.

use hygrothermal::quantity::Measured;

/// Longest lag looked for, hours.
const LONGEST_LAG: usize = 72;
/// Fewest hours that both sides know.
const FEWEST: usize = 72;

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
/// p_i(t) = a + b·p_e(t − lag), least squares; lag of 0–72 h by the largest correlation. Band: t ≈ 2 on effective hours
/// n·(1 − ρ)/(1 + ρ), ρ the first autocorrelation of the residuals (Bartlett's formula for the first order, from memory).
#[must_use]
pub fn response(inside: &[Option<f64>], outside: &[Option<f64>]) -> Option<Response> {
    let mut best: Option<(f64, usize)> = None;
    for lag in 0..=LONGEST_LAG.min(inside.len()) {
        let Some(fit) = Fit::of(&pairs(inside, outside, lag)) else { continue };
        // A longer lag must say more than chance does.
        if best.is_none_or(|(r, _)| fit.r > r + 0.01) {
            best = Some((fit.r, lag));
        }
    }
    let (_, lag_h) = best?;
    let pairs = pairs(inside, outside, lag_h);
    let fit = Fit::of(&pairs)?;
    let residuals: Vec<f64> = pairs.iter().map(|(x, y)| y - fit.mean_y - fit.slope * (x - fit.mean_x)).collect();
    let squares: f64 = residuals.iter().map(|r| r * r).sum();
    let rho = autocorrelation(&residuals);
    let effective = (pairs.len() as f64 * (1.0 - rho) / (1.0 + rho)).max(3.0);
    let spread = (squares / pairs.len() as f64).sqrt();
    let err = 2.0 * spread / (fit.spread_x * (effective - 2.0).sqrt());
    Some(Response { slope: Measured { value: fit.slope, err }, lag_h, share: fit.r * fit.r.abs() })
}

/// The first autocorrelation of what is left over, 0–0.99.
pub(super) fn autocorrelation(residuals: &[f64]) -> f64 {
    let squares: f64 = residuals.iter().map(|r| r * r).sum();
    if squares <= 0.0 {
        return 0.0;
    }
    (residuals.windows(2).map(|w| w[0] * w[1]).sum::<f64>() / squares).clamp(0.0, 0.99)
}

/// Hours both sides know, the outdoor one `lag` hours earlier.
fn pairs(inside: &[Option<f64>], outside: &[Option<f64>], lag: usize) -> Vec<(f64, f64)> {
    outside.iter().zip(inside.iter().skip(lag)).filter_map(|(e, i)| (*e).zip(*i)).collect()
}

struct Fit {
    slope: f64,
    r: f64,
    mean_x: f64,
    mean_y: f64,
    spread_x: f64,
}

impl Fit {
    fn of(pairs: &[(f64, f64)]) -> Option<Self> {
        if pairs.len() < FEWEST {
            return None;
        }
        let n = pairs.len() as f64;
        let mean = |of: fn(&(f64, f64)) -> f64| pairs.iter().map(of).sum::<f64>() / n;
        let (mean_x, mean_y) = (mean(|p| p.0), mean(|p| p.1));
        let (mut xx, mut xy, mut yy) = (0.0, 0.0, 0.0);
        for (x, y) in pairs {
            let (x, y) = (x - mean_x, y - mean_y);
            (xx, xy, yy) = (xx + x * x, xy + x * y, yy + y * y);
        }
        let spread_x = (xx / n).sqrt();
        // Under 20 Pa nothing can be told from an instrument's own noise.
        (spread_x > 20.0).then(|| Self {
            slope: xy / xx,
            r: if yy > 0.0 { xy / (xx * yy).sqrt() } else { 0.0 },
            mean_x,
            mean_y,
            spread_x,
        })
    }
}
