//! Values that come from instruments carry their uncertainty with them.

/// A value and the half-width of its band, both in the same unit (given where the value is made).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Measured {
    /// The best estimate.
    pub value: f64,
    /// Half-width of the band, never negative.
    pub err: f64,
}

impl Measured {
    /// Combines independent first-order contributions by root-sum-square.
    #[must_use]
    pub fn from_contributions(value: f64, contributions: &[f64]) -> Self {
        let err = contributions.iter().map(|c| c * c).sum::<f64>().sqrt();
        Self { value, err }
    }

    /// The difference of two independent values.
    #[must_use]
    pub fn minus(self, other: Self) -> Self {
        Self::from_contributions(self.value - other.value, &[self.err, other.err])
    }

    /// Whether the band leaves the sign open.
    #[must_use]
    pub fn spans_zero(self) -> bool {
        self.value.abs() <= self.err
    }

    /// Lower end of the band.
    #[must_use]
    pub fn low(self) -> f64 {
        self.value - self.err
    }

    /// Upper end of the band.
    #[must_use]
    pub fn high(self) -> f64 {
        self.value + self.err
    }
}
