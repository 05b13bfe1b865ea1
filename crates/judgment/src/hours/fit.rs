//! A line through values that follow one another.

use hygrothermal::quantity::Measured;
use statrs::distribution::{ContinuousCDF, StudentsT};

/// A line, with the 95 % band of its slope.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Line {
    /// Its slope.
    pub slope: Measured,
    /// How strongly one value's error follows the one before.
    pub rho: f64,
}

/// Fewest values.
const FEWEST: usize = 8;

/// The line through values in the order of time, gaps among them; `None` for fewer than eight, or where x does not change.
///
/// # Formula
/// Least squares on x(t) − ρ·x(t−1) and y(t) − ρ·y(t−1) (Cochrane and Orcutt 1949, from memory), ρ from the residuals of plain least
/// squares, corrected for what short series hide of it, ρ + (1 + 4ρ)/n (Kendall 1954, from memory); band by Student's t.
#[must_use]
pub fn line(values: &[Option<(f64, f64)>]) -> Option<Line> {
    let plain: Vec<(f64, f64, f64)> = values.iter().flatten().map(|(x, y)| (1.0, *x, *y)).collect();
    if plain.len() < FEWEST {
        return None;
    }
    let n = plain.len() as f64;
    let mut rho = 0.0;
    let (mut a, mut b, _) = squares(&plain)?;
    for _ in 0..4 {
        let left = |v: &Option<(f64, f64)>| v.map(|(x, y)| y - a - b * x);
        let both = values.windows(2).filter_map(|w| Some((left(&w[0])?, left(&w[1])?)));
        let (xy, xx) = both.fold((0.0, 0.0), |(xy, xx), (before, now)| (xy + before * now, xx + before * before));
        let raw = if xx > 0.0 { xy / xx } else { 0.0 };
        rho = (raw + (1.0 + 4.0 * raw) / n).clamp(0.0, 0.97);
        (a, b, _) = squares(&whitened(values, rho))?;
    }
    let white = whitened(values, rho);
    let (_, slope, err) = squares(&white)?;
    let t = StudentsT::new(0.0, 1.0, (white.len() as f64 - 3.0).max(1.0)).ok()?.inverse_cdf(0.975);
    Some(Line { slope: Measured { value: slope, err: t * err }, rho })
}

/// Values freed of what follows from the one before: the constant's column, x and y.
fn whitened(values: &[Option<(f64, f64)>], rho: f64) -> Vec<(f64, f64, f64)> {
    let steps = values.windows(2).filter_map(|w| {
        let ((x0, y0), (x1, y1)) = (w[0]?, w[1]?);
        Some((1.0 - rho, x1 - rho * x0, y1 - rho * y0))
    });
    steps.collect()
}

/// Least squares of y on a constant's column and x: constant, slope and the slope's standard error.
fn squares(rows: &[(f64, f64, f64)]) -> Option<(f64, f64, f64)> {
    let sum = |of: fn(&(f64, f64, f64)) -> f64| rows.iter().map(of).sum::<f64>();
    let (cc, cx, xx) = (sum(|r| r.0 * r.0), sum(|r| r.0 * r.1), sum(|r| r.1 * r.1));
    let (cy, xy) = (sum(|r| r.0 * r.2), sum(|r| r.1 * r.2));
    let det = cc * xx - cx * cx;
    if rows.len() < 4 || det <= 1e-9 * cc * xx {
        return None;
    }
    let (a, b) = ((xx * cy - cx * xy) / det, (cc * xy - cx * cy) / det);
    let left: f64 = rows.iter().map(|r| (r.2 - a * r.0 - b * r.1).powi(2)).sum();
    let variance = left / (rows.len() as f64 - 2.0);
    Some((a, b, (variance * cc / det).sqrt()))
}
