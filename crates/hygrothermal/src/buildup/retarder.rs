//! How tight a layer is, in the words of the codes.

use crate::quantity::Permeance;

/// Vapor retarder classes by dry-cup permeance (US model codes, from memory).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum RetarderClass {
    /// Up to 0.1 US perm: polyethylene, foil.
    I,
    /// Up to 1 US perm: coated kraft paper.
    II,
    /// Up to 10 US perm: latex paint.
    III,
    /// More: vapor open.
    Open,
}

impl RetarderClass {
    /// The class of a layer.
    #[must_use]
    pub fn of(permeance: Permeance) -> Self {
        // A hair of tolerance, so that a layer sold as exactly 1 perm is not moved a class by rounding.
        let perms = permeance.get() / Permeance::US_PERM * (1.0 - 1e-9);
        match perms {
            p if p <= 0.1 => Self::I,
            p if p <= 1.0 => Self::II,
            p if p <= 10.0 => Self::III,
            _ => Self::Open,
        }
    }
}
