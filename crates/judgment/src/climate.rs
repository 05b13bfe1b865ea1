//! A typical year of outdoor air for each climate, for comparing ways of working through the seasons.

use building::Climate;
use hygrothermal::air::{MoistAir, saturation_pressure};
use hygrothermal::quantity::{Pressure, Temperature};
use serde::Deserialize;
use std::sync::LazyLock;

/// Days of each month.
pub const DAYS: [f64; 12] = [31.0, 28.0, 31.0, 30.0, 31.0, 30.0, 31.0, 31.0, 30.0, 31.0, 30.0, 31.0];

/// Monthly means, °C.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ClimateYear {
    id: Climate,
    /// Air temperature.
    pub t: [f64; 12],
    /// Dew point.
    pub dew: [f64; 12],
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    climate: Vec<ClimateYear>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static YEARS: LazyLock<File> =
    LazyLock::new(|| toml::from_str(include_str!("../data/climates.toml")).expect("climates.toml is well formed"));

/// The typical year of a climate.
///
/// # Panics
/// Never: every climate is in the table; a test says so.
#[must_use]
#[allow(clippy::expect_used, reason = "every climate is in the table; a test says so")]
pub fn year(climate: Climate) -> &'static ClimateYear {
    YEARS.climate.iter().find(|c| c.id == climate).expect("every climate is in the table")
}

impl ClimateYear {
    /// Mean temperature of the year, °C.
    #[must_use]
    pub fn mean(&self) -> f64 {
        self.t.iter().sum::<f64>() / 12.0
    }

    /// Ground just below the surface, °C: half the air's swing, a month later (common practice).
    #[must_use]
    pub fn ground(&self, month: usize) -> f64 {
        let before = self.t[(month + 11) % 12];
        self.mean() + 0.5 * (before - self.mean())
    }

    /// Coolest wood under a floor that is open to outdoor air, °C: between ground, outdoors and the rooms above (weights
    /// ours: 0.4, 0.3, 0.3; rooms at 20 °C, in warm months 23 °C).
    #[must_use]
    pub fn under_floor(&self, month: usize) -> f64 {
        let rooms = if self.t[month] > 18.0 { 23.0 } else { 20.0 };
        0.4 * self.ground(month) + 0.3 * self.t[month] + 0.3 * rooms
    }

    /// Outdoor air of a month; `None` never happens for the table's figures.
    #[must_use]
    pub fn air(&self, month: usize) -> Option<MoistAir> {
        let (t, dew) = (Temperature::new(self.t[month]).ok()?, Temperature::new(self.dew[month]).ok()?);
        MoistAir::from_dew_point(t, dew, Pressure::STANDARD).ok()
    }

    /// Months in which outdoor air would stand at 80 % relative humidity or more at the wood under a floor.
    #[must_use]
    pub fn damp_months(&self) -> usize {
        let rh = |m: usize| {
            let surface = Temperature::new(self.under_floor(m)).ok()?;
            Some(self.air(m)?.vapor_pressure() / saturation_pressure(surface))
        };
        (0..12).filter_map(rh).filter(|rh| *rh >= 0.8).count()
    }

    /// The month whose outdoor air holds most water.
    #[must_use]
    pub fn most_humid(&self) -> usize {
        (0..12).max_by(|a, b| self.dew[*a].total_cmp(&self.dew[*b])).unwrap_or(6)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn local_air_decides_between_vented_and_sealed() {
        let damp = |c| year(c).damp_months();
        // Warm humid summers load a vented crawl space; cold, marine and dry climates ventilate it dry (handbooks of the
        // trade agree in this; common practice).
        assert!(
            damp(Climate::HotHumid) >= 2 && damp(Climate::Mixed) >= 2,
            "{} {}",
            damp(Climate::HotHumid),
            damp(Climate::Mixed)
        );
        for c in [Climate::Cold, Climate::Marine, Climate::HotDry] {
            assert_eq!(damp(c), 0, "{}", c.id());
        }
        for &c in Climate::ALL {
            let y = year(c);
            assert!((0..12).all(|m| y.dew[m] < y.t[m] && y.air(m).is_some()), "{}", c.id());
        }
    }
}
