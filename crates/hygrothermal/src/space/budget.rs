//! Moisture budget of a well-mixed space.

use crate::air::{MoistAir, vapor_pressure_of_ratio};
use crate::quantity::{AirFlow, DAY, Hours, Pressure, Temperature, Volume, WaterFlow};

const HOUR: f64 = 3600.0;

/// A well-mixed space at constant temperature, aired with outdoor air and fed with moisture. No buffering by materials.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Budget {
    /// Volume of air.
    pub volume: Volume,
    /// The air at the start.
    pub start: MoistAir,
    /// The air that comes in.
    pub outdoor: MoistAir,
    /// How much of it, measured at the outdoor state.
    pub flow: AirFlow,
    /// What people, ground and things give off.
    pub source: WaterFlow,
}

/// W(t) = W_ss + (W₀ − W_ss) e^(−t/τ), or a straight line without any air change.
#[derive(Debug, Clone, Copy)]
enum Course {
    Exponential { steady: f64, tau: f64 },
    Straight { per_second: f64 },
}

impl Budget {
    /// # Formula
    /// M dW/dt = ṁ (W_out − W) + S with the dry-air mass M = V/v of the start state and ṁ = Q/v of the outdoor state:
    /// W_ss = W_out + S/ṁ, τ = M/ṁ. Source: mass balance of a well-mixed zone.
    fn course(&self) -> Course {
        let mass = self.volume.get() / self.start.specific_volume();
        let exchanged = self.flow.get() / self.outdoor.specific_volume();
        if exchanged > 0.0 {
            let steady = self.outdoor.humidity_ratio() + self.source.get() / exchanged;
            Course::Exponential { steady, tau: mass / exchanged }
        } else {
            Course::Straight { per_second: self.source.get() / mass }
        }
    }

    /// Relative humidity (%) after a time; may pass 100, which means water on the surfaces.
    #[must_use]
    pub fn rh_after(&self, time: Hours) -> f64 {
        let (start, seconds) = (self.start.humidity_ratio(), time.get() * HOUR);
        self.rh_of(match self.course() {
            Course::Exponential { steady, tau } => steady + (start - steady) * (-seconds / tau).exp(),
            Course::Straight { per_second } => start + per_second * seconds,
        })
    }

    /// Relative humidity (%) in the end; `None` without any air change. May pass 100.
    #[must_use]
    pub fn steady_rh(&self) -> Option<f64> {
        match self.course() {
            Course::Exponential { steady, .. } => Some(self.rh_of(steady)),
            Course::Straight { .. } => None,
        }
    }

    /// Whether the space would end saturated: a steady state past 100 %, or a source without any air change.
    #[must_use]
    pub fn saturates(&self) -> bool {
        self.steady_rh().map_or(self.source.get() > 0.0, |rh| rh > 100.0)
    }

    /// Hours until the dew point of the air reaches a surface: 0 if it has, `None` if it never does.
    #[must_use]
    pub fn hours_to_dew(&self, surface: Temperature) -> Option<f64> {
        let start = self.start.humidity_ratio();
        let Ok(at_surface) = MoistAir::saturated(surface, Pressure::STANDARD) else { return None };
        let target = at_surface.humidity_ratio();
        if start >= target {
            return Some(0.0);
        }
        let seconds = match self.course() {
            Course::Exponential { steady, tau } if steady > target => tau * ((steady - start) / (steady - target)).ln(),
            Course::Straight { per_second } if per_second > 0.0 => (target - start) / per_second,
            _ => return None,
        };
        Some(seconds / HOUR)
    }

    /// Water to be taken out to hold the air at `goal` (same temperature), L/day: what comes in from outdoors plus the
    /// source, less what the outdoor air carries away. 0 when nothing needs to be removed.
    #[must_use]
    pub fn removal_to_hold(&self, goal: &MoistAir) -> f64 {
        let exchanged = self.flow.get() / self.outdoor.specific_volume();
        let surplus = self.source.get() - exchanged * (goal.humidity_ratio() - self.outdoor.humidity_ratio());
        surplus.max(0.0) * DAY
    }

    fn rh_of(&self, ratio: f64) -> f64 {
        let saturation = crate::air::saturation_pressure(self.start.temperature());
        100.0 * vapor_pressure_of_ratio(ratio, Pressure::STANDARD) / saturation
    }
}
