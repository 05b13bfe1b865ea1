//! Relative-scale meters (0 to 999, for masonry): comparable only with themselves.

use crate::quantity::ScaleReading;
use std::fmt;

/// A reading on a meter's own scale, tied to that meter and to the spot on the wall. Never a percent.
#[derive(Debug, Clone, PartialEq)]
pub struct RelativeReading<Meter, Spot> {
    /// Which meter.
    pub meter: Meter,
    /// Which spot.
    pub spot: Spot,
    /// What it showed.
    pub shown: ScaleReading,
}

/// Why two relative readings cannot be compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RelativeError {
    /// Two different meters: their scales have nothing in common.
    OtherMeter,
    /// Two different spots: the wall itself may differ.
    OtherSpot,
    /// Nothing to compare with: the first reading was 0.
    FromZero,
}

impl fmt::Display for RelativeError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::OtherMeter => "relative readings of two meters cannot be compared: use the same meter",
            Self::OtherSpot => "relative readings of two spots cannot be compared: read the same wall again",
            Self::FromZero => "the first relative reading must be above 0 to compare with",
        })
    }
}

impl std::error::Error for RelativeError {}

/// How a spot changed on its own scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RelativeChange {
    /// Points up or down.
    pub points: f64,
    /// The later reading as a part of the earlier: 0.56 has fallen by 44 of 100.
    pub of_first: f64,
}

impl<Meter: PartialEq, Spot: PartialEq> RelativeReading<Meter, Spot> {
    /// How `later` differs from this reading of the same meter at the same spot.
    ///
    /// # Errors
    /// [`RelativeError`] when meter or spot differ, or the first reading is 0.
    pub fn change_to(&self, later: &Self) -> Result<RelativeChange, RelativeError> {
        if self.meter != later.meter {
            return Err(RelativeError::OtherMeter);
        }
        if self.spot != later.spot {
            return Err(RelativeError::OtherSpot);
        }
        let (first, last) = (self.shown.get(), later.shown.get());
        if first <= 0.0 {
            return Err(RelativeError::FromZero);
        }
        Ok(RelativeChange { points: last - first, of_first: last / first })
    }
}
