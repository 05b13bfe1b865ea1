//! Offset or line through check points.

use crate::quantity::RelativeHumidity;
use std::fmt;

/// Why no correction follows from the points.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CalibrationError {
    /// No point at all.
    NoPoints,
    /// All points read the same: no line through them.
    SameReading,
}

impl fmt::Display for CalibrationError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::NoPoints => "at least one point of reference and reading is needed",
            Self::SameReading => "the points must have different readings to lay a line through them",
        })
    }
}

impl std::error::Error for CalibrationError {}

/// A correction: true = slope × read + offset.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Calibration {
    /// 1 for a single point.
    pub slope: f64,
    /// Percentage points.
    pub offset: f64,
    /// Farthest a corrected point stays from its reference, percentage points.
    pub max_residual: f64,
}

impl Calibration {
    /// A reading (%) corrected, %: as computed, which can pass 0 or 100 by the instrument's own error.
    #[must_use]
    pub fn correct(&self, read: f64) -> f64 {
        self.slope * read + self.offset
    }
}

/// Correction through points of (reference, read): the difference for one, least squares for more.
///
/// # Errors
/// [`CalibrationError`] without points, or with several that all read the same.
pub fn calibrate(points: &[(RelativeHumidity, RelativeHumidity)]) -> Result<Calibration, CalibrationError> {
    let n = points.len() as f64;
    let mean = |of: fn(&(RelativeHumidity, RelativeHumidity)) -> f64| points.iter().map(of).sum::<f64>() / n;
    let slope = match points {
        [] => return Err(CalibrationError::NoPoints),
        [_] => 1.0,
        _ => {
            let (reference, read) = (mean(|p| p.0.get()), mean(|p| p.1.get()));
            let both: f64 = points.iter().map(|p| (p.0.get() - reference) * (p.1.get() - read)).sum();
            let own: f64 = points.iter().map(|p| (p.1.get() - read).powi(2)).sum();
            if own <= 0.0 {
                return Err(CalibrationError::SameReading);
            }
            both / own
        }
    };
    let mut calibration =
        Calibration { slope, offset: mean(|p| p.0.get()) - slope * mean(|p| p.1.get()), max_residual: 0.0 };
    calibration.max_residual =
        points.iter().map(|p| (calibration.correct(p.1.get()) - p.0.get()).abs()).fold(0.0, f64::max);
    Ok(calibration)
}
