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

    /// The value of `f` at some figures with the band that their own bands leave: first order, by central differences
    /// over a thousandth of each band, root-sum-square. `None` where `f` has no value at or beside the figures.
    #[must_use]
    pub fn propagated<const N: usize>(at: [Self; N], f: impl Fn([f64; N]) -> Option<f64>) -> Option<Self> {
        let middle = at.map(|m| m.value);
        let value = f(middle)?;
        let mut square = 0.0;
        for i in (0..N).filter(|&i| at[i].err > 0.0) {
            let step = 1e-3 * at[i].err;
            let moved = |by: f64| {
                let mut x = middle;
                x[i] += by;
                f(x)
            };
            // At the edge of a range only one side exists.
            let slope = match (moved(step), moved(-step)) {
                (Some(up), Some(down)) => (up - down) / (2.0 * step),
                (Some(up), None) => (up - value) / step,
                (None, Some(down)) => (value - down) / step,
                (None, None) => return None,
            };
            square += (slope * at[i].err).powi(2);
        }
        Some(Self { value, err: square.sqrt() })
    }

    /// An exact value.
    #[must_use]
    pub const fn exact(value: f64) -> Self {
        Self { value, err: 0.0 }
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
