//! Desiccants: what they can take up, and when they take up nothing.

use crate::quantity::{Mass, RelativeHumidity};

/// A thing set out to dry the air.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Desiccant {
    /// Regenerable gel beads.
    SilicaGel,
    /// Table salt.
    SodiumChloride,
    /// Road salt, the usual tub filling.
    CalciumChloride,
}

impl Desiccant {
    /// Air RH (%) under which it takes up nothing: the deliquescence humidity of a salt at room temperature (sodium
    /// chloride 75 %, Greenspan 1977; calcium chloride about 30 %, typical value). Silica gel has none.
    #[must_use]
    pub const fn threshold(self) -> f64 {
        match self {
            Self::SilicaGel => 0.0,
            Self::SodiumChloride => 75.0,
            Self::CalciumChloride => 30.0,
        }
    }

    /// Water (kg = L) a dry mass can take up from air kept at `rh`: the end of its work, not its speed.
    ///
    /// Silica gel: 0.4 kg/kg of the relative humidity up to 80 %, held there (a few tens of percent of its own mass;
    /// typical value, from memory). Salts: nothing under the threshold, then roughly the brine that stands in
    /// equilibrium, 1 kg/kg at the threshold and up (typical value, from memory).
    #[must_use]
    pub fn uptake(self, dry: Mass, rh: RelativeHumidity) -> f64 {
        match self {
            Self::SilicaGel => dry.get() * 0.4 * rh.get().min(80.0) / 100.0,
            _ if rh.get() <= self.threshold() => 0.0,
            _ => dry.get(),
        }
    }
}
