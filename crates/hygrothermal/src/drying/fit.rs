//! MC(t) = MC_e + (MC_0 − MC_e) e^(−kt), fitted.

use crate::quantity::{Days, MoistureContent};
use statrs::distribution::{ContinuousCDF, StudentsT};
use std::fmt;

/// Slower than this (1/day) nothing is drying.
const STALLED: f64 = 0.002;
/// Fastest rate looked for, 1/day, and its opposite.
const FASTEST: f64 = 50.0;
/// Most readings a curve is laid through: one an hour for a year.
const MOST_READINGS: usize = 8784;
/// Each tail of a 90 % band.
const TAIL: f64 = 0.95;

/// Why no curve can be laid through the readings.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum DryingError {
    /// Fewer than three readings.
    TooFew {
        /// How many.
        got: usize,
    },
    /// More readings than one spot can have.
    TooMany {
        /// How many.
        got: usize,
    },
    /// Fewer than three different days.
    SameDays,
    /// All readings stand at the equilibrium: no course to follow.
    AtEquilibrium,
}

impl fmt::Display for DryingError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::TooFew { got } => write!(f, "at least 3 readings are needed, got {got}"),
            Self::TooMany { got } => write!(f, "at most {MOST_READINGS} readings are taken, got {got}"),
            Self::SameDays => f.write_str("readings on at least 3 different days are needed"),
            Self::AtEquilibrium => f.write_str("all readings stand at the equilibrium: nothing is left to dry"),
        }
    }
}

impl std::error::Error for DryingError {}

/// When a goal is passed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Forecast {
    /// Day on the curve, also if it is past.
    pub day: f64,
    /// Early end of the 90 % band.
    pub low: f64,
    /// Late end of the 90 % band.
    pub high: f64,
}

/// When a goal is passed by what was read, with the doubt of the equilibrium in its band.
///
/// `err` is how far the equilibrium may be off, % MC (0 for none). To first order: the day moves by as much as a refit with the
/// equilibrium a little off says, and that joins the band of the fit by root sum of squares.
///
/// # Errors
/// As [`drying_fit`].
pub fn forecast(
    readings: &[(Days, MoistureContent)],
    (equilibrium, err): (MoistureContent, f64),
    goal: MoistureContent,
) -> Result<(DryingFit, Option<Forecast>), DryingError> {
    let fit = drying_fit(readings, equilibrium)?;
    let Some(on_curve) = fit.passes(goal) else { return Ok((fit, None)) };
    // A hundredth of the way, so that the refit stays on the same side of the goal.
    let off = 0.01 * err.min((goal.get() - equilibrium.get()).abs());
    let moved = |by: f64| {
        let at = MoistureContent::new((equilibrium.get() + by).max(0.0)).ok()?;
        fit_near(readings, at, Some(fit.k)).ok()?.passes(goal).map(|f| f.day)
    };
    let slope = if off > 0.0 {
        // One-sided where the other side has no answer.
        match (moved(-off), moved(off)) {
            (Some(a), Some(b)) => (b - a) / (2.0 * off),
            (Some(a), None) => (on_curve.day - a) / off,
            (None, Some(b)) => (b - on_curve.day) / off,
            (None, None) => f64::INFINITY,
        }
    } else {
        0.0
    };
    let half = (on_curve.high - on_curve.day).hypot(slope * err);
    Ok((fit, Some(Forecast { low: on_curve.day - half, high: on_curve.day + half, ..on_curve })))
}

/// The fitted curve.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DryingFit {
    /// Drying rate, 1/day.
    pub k: f64,
    /// Distance from the equilibrium at day 0, % MC.
    pub above: f64,
    /// The equilibrium it was given.
    pub equilibrium: f64,
    /// Residual standard deviation, % MC, and degrees of freedom.
    spread: f64,
    freedom: f64,
    /// Inverse of JᵀJ for (above, k): [aa, ak, kk].
    inverse: [f64; 3],
}

/// Sums over the readings for one k.
struct Sums {
    amplitude: f64,
    squares: f64,
}

fn sums(readings: &[(f64, f64)], k: f64) -> Sums {
    // Days from the first reading, so that no exponential leaves the range of floating point.
    let (mut ye, mut ee) = (0.0, 0.0);
    for &(day, y) in readings {
        let e = (-k * day).exp();
        ye += y * e;
        ee += e * e;
    }
    let amplitude = if ee > 0.0 { ye / ee } else { 0.0 };
    let squares = readings.iter().map(|&(day, y)| (y - amplitude * (-k * day).exp()).powi(2)).sum();
    Sums { amplitude, squares }
}

/// Least squares of moisture content on the exponential with MC₀ and k free.
///
/// # Method
/// For a given k the best MC₀ is linear; what is left is one unknown, looked for on a grid from −50 to 50 per day
/// (dense around 0) and then narrowed by golden section around the best point. Needs `readings` as (day, moisture).
///
/// # Errors
/// [`DryingError`] for fewer than three readings or days, more than 8784, or all of them at the equilibrium.
pub fn drying_fit(
    readings: &[(Days, MoistureContent)],
    equilibrium: MoistureContent,
) -> Result<DryingFit, DryingError> {
    fit_near(readings, equilibrium, None)
}

/// The same; where a fit by nearly the same equilibrium is known, only near its k.
fn fit_near(
    readings: &[(Days, MoistureContent)],
    equilibrium: MoistureContent,
    near: Option<f64>,
) -> Result<DryingFit, DryingError> {
    if readings.len() < 3 {
        return Err(DryingError::TooFew { got: readings.len() });
    }
    if readings.len() > MOST_READINGS {
        return Err(DryingError::TooMany { got: readings.len() });
    }
    let mut days: Vec<f64> = readings.iter().map(|(d, _)| d.get()).collect();
    days.sort_by(f64::total_cmp);
    let first = days[0];
    days.dedup();
    if days.len() < 3 {
        return Err(DryingError::SameDays);
    }
    let equilibrium = equilibrium.get();
    let points: Vec<(f64, f64)> = readings.iter().map(|(d, mc)| (d.get() - first, mc.get() - equilibrium)).collect();
    if points.iter().all(|&(_, y)| y.abs() < 1e-9) {
        return Err(DryingError::AtEquilibrium);
    }
    let squares = |k: f64| sums(&points, k).squares;
    let k = match near {
        Some(k) => golden(squares, (0.8 * k, 1.25 * k)),
        None => narrow(squares, days[days.len() - 1] - first),
    };
    Ok(describe(&points, k, first, equilibrium))
}

/// The k of least squares.
fn narrow(squares: impl Fn(f64) -> f64, span: f64) -> f64 {
    // Rates that do anything within the span of the readings: from a ten-thousandth of a fall to all of it at once.
    let sizes = (0..80).map(|i| 1e-4 / span * 10.0_f64.powf(f64::from(i) / 10.0)).take_while(|k| *k <= FASTEST);
    let mut grid: Vec<f64> = sizes.flat_map(|k| [-k, k]).chain([0.0]).filter(|k| k * span > -600.0).collect();
    grid.sort_by(f64::total_cmp);
    let values: Vec<f64> = grid.iter().map(|&k| squares(k)).collect();
    let best = (0..grid.len()).min_by(|&a, &b| values[a].total_cmp(&values[b])).unwrap_or(0);
    golden(squares, (grid[best.saturating_sub(1)], grid[(best + 1).min(grid.len() - 1)]))
}

/// The lowest place between two, by golden section.
fn golden(squares: impl Fn(f64) -> f64, (mut low, mut high): (f64, f64)) -> f64 {
    let golden = 0.5 * (5.0_f64.sqrt() - 1.0);
    let (mut a, mut b) = (high - golden * (high - low), low + golden * (high - low));
    let (mut fa, mut fb) = (squares(a), squares(b));
    // The least value always stays between low and high; 100 cuts are far below rounding.
    for _ in 0..60 {
        if fa <= fb {
            (high, b, fb) = (b, a, fa);
            a = high - golden * (high - low);
            fa = squares(a);
        } else {
            (low, a, fa) = (a, b, fb);
            b = low + golden * (high - low);
            fb = squares(b);
        }
    }
    f64::midpoint(low, high)
}

fn describe(points: &[(f64, f64)], k: f64, first: f64, equilibrium: f64) -> DryingFit {
    let Sums { amplitude, squares } = sums(points, k);
    // Jacobian of A e^(−k(t−t₁)) by A and by k.
    let (mut aa, mut ak, mut kk) = (0.0, 0.0, 0.0);
    for &(day, _) in points {
        let e = (-k * day).exp();
        let by_k = -amplitude * day * e;
        aa += e * e;
        ak += e * by_k;
        kk += by_k * by_k;
    }
    let determinant = aa * kk - ak * ak;
    let freedom = points.len() as f64 - 2.0;
    // Back from the first reading to day 0: A₀ = A e^(k t₁).
    let back = (k * first).exp();
    let (d_a, d_k) = (back, amplitude * first * back);
    let [iaa, iak, ikk] = if determinant > 0.0 {
        [kk / determinant, -ak / determinant, aa / determinant]
    } else {
        [f64::INFINITY, 0.0, f64::INFINITY]
    };
    DryingFit {
        k,
        above: amplitude * back,
        equilibrium,
        spread: (squares / freedom).sqrt(),
        freedom,
        inverse: [d_a * d_a * iaa + 2.0 * d_a * d_k * iak + d_k * d_k * ikk, d_a * iak + d_k * ikk, ikk],
    }
}

impl DryingFit {
    /// The same curve of figures `unit` times as large: a meter's own scale beyond what moisture content can be.
    #[must_use]
    pub fn scaled(self, unit: f64) -> Self {
        Self {
            above: self.above * unit,
            equilibrium: self.equilibrium * unit,
            spread: self.spread * unit,
            inverse: [self.inverse[0], self.inverse[1] / unit, self.inverse[2] / (unit * unit)],
            ..self
        }
    }

    /// Whether it has stopped drying: slower than 0.002 per day.
    #[must_use]
    pub fn stalled(&self) -> bool {
        self.k < STALLED
    }

    /// Moisture content on the curve at a day, %.
    #[must_use]
    pub fn moisture(&self, day: f64) -> f64 {
        self.equilibrium + self.above * (-self.k * day).exp()
    }

    /// The day the curve passes `goal` with its 90 % band; `None` when stalled, when the goal is at or below the
    /// equilibrium, or when it never dries.
    ///
    /// # Formula
    /// t = ln((MC₀ − MC_e)/(goal − MC_e))/k; band by first order in MC₀ and k with Student's t for n − 2 readings.
    #[must_use]
    pub fn passes(&self, goal: MoistureContent) -> Option<Forecast> {
        let left = goal.get() - self.equilibrium;
        if self.stalled() || left <= 0.0 || self.above <= 0.0 {
            return None;
        }
        let day = (self.above / left).ln() / self.k;
        let (by_a, by_k) = (1.0 / (self.k * self.above), -day / self.k);
        let [aa, ak, kk] = self.inverse;
        let variance = by_a * by_a * aa + 2.0 * by_a * by_k * ak + by_k * by_k * kk;
        let t = StudentsT::new(0.0, 1.0, self.freedom).map_or(f64::INFINITY, |d| d.inverse_cdf(TAIL));
        let half = if self.spread > 0.0 { t * self.spread * variance.max(0.0).sqrt() } else { 0.0 };
        Some(Forecast { day, low: day - half, high: day + half })
    }
}
