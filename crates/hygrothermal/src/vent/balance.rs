//! Whether openings work together: across a space, and along a roof.

use crate::quantity::Area;

/// Net free areas on the four sides of a space.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Openings {
    /// North side.
    pub north: Area,
    /// East side.
    pub east: Area,
    /// South side.
    pub south: Area,
    /// West side.
    pub west: Area,
}

/// How wind can go through.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CrossFlow {
    /// Openings on opposite sides, the smaller at least half the larger.
    Through,
    /// Opposite sides both open, but the smaller throttles the larger.
    Throttled,
    /// No pair of opposite sides is open: the middle stays still.
    Still,
}

impl Openings {
    /// Looks for the best pair of opposite sides (common practice: matched within a factor of two).
    #[must_use]
    pub fn cross_flow(&self) -> CrossFlow {
        let pairs = [(self.north, self.south), (self.east, self.west)].map(|(a, b)| (a.get(), b.get()));
        let open = |&(a, b): &(f64, f64)| a > 0.0 && b > 0.0;
        let matched = |&(a, b): &(f64, f64)| a.min(b) >= 0.5 * a.max(b);
        match (pairs.iter().any(|p| open(p) && matched(p)), pairs.iter().any(open)) {
            (true, _) => CrossFlow::Through,
            (false, true) => CrossFlow::Throttled,
            (false, false) => CrossFlow::Still,
        }
    }
}

/// A vent high on a roof.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum HighVent {
    /// Along the ridge.
    Ridge,
    /// In the gable wall.
    Gable,
    /// A cap or box on the slope.
    Cap,
    /// A turbine turned by the wind.
    Turbine,
    /// A fan.
    Powered,
}

/// Whether two kinds of high vent share one roof: the one then draws from the other instead of from the eaves (common
/// practice).
#[must_use]
pub fn high_vents_compete(vents: &[HighVent]) -> bool {
    vents.windows(2).any(|pair| pair[0] != pair[1])
}
