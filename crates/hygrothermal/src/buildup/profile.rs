//! Steady state: temperature and vapor pressure through a build-up, and where water collects.

use super::layer::{BuildUp, Sides};
use super::taut::{Corner, Taut};
use crate::quantity::{DAY, Permeance, Temperature};

/// Rates below this are rounding, g/(m²·day).
pub(super) const LEAST_RATE: f64 = 1e-4;

/// An interface in steady state.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Interface {
    /// Temperature.
    pub temperature: Temperature,
    /// Saturation pressure there, Pa.
    pub sat: f64,
    /// Vapor pressure after the tangent construction, Pa: never above saturation.
    pub vapor: f64,
}

/// Water collecting at an interface.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Condensation {
    /// Which: 0 is the inner surface.
    pub interface: usize,
    /// How fast, g/(m²·day); `None` on a surface itself, where diffusion gives no rate.
    pub rate: Option<f64>,
}

/// A build-up between two airs.
#[derive(Debug, Clone, PartialEq)]
pub struct Profile {
    /// Inner surface to outer surface.
    pub interfaces: Vec<Interface>,
    /// Where water collects, inside first.
    pub condensation: Vec<Condensation>,
}

/// δ₀ · bend, in g/(m²·day).
pub(super) fn rate(corner: &Corner) -> f64 {
    Permeance::STILL_AIR * corner.bend * DAY * 1000.0
}

impl BuildUp {
    /// Steady profile by ISO 6946 (temperature) and ISO 13788:2012 (vapor, with tangent construction).
    ///
    /// The films' vapor resistance is neglected. Only interfaces are condensation planes; split a thick layer to look
    /// inside it.
    #[must_use]
    pub fn profile(&self, sides: &Sides) -> Profile {
        let mut taut = Taut::new();
        taut.pull(self, sides, &[]);
        let (warm, cold) = (sides.inside.temperature(), sides.outside.temperature());
        let interfaces = taut
            .pressures(self)
            .into_iter()
            .enumerate()
            .map(|(i, vapor)| Interface { temperature: self.temperature(i, warm, cold), sat: taut.sat[i], vapor })
            .collect();
        let collects = |rate| Condensation { interface: 0, rate };
        let sweating = taut.sweating(sides).map(|interface| Condensation { interface, ..collects(None) });
        let within = taut.bends().map(|c| Condensation { interface: c.interface, rate: Some(rate(&c)) });
        let mut condensation: Vec<_> =
            sweating.chain(within.filter(|c| c.rate.is_some_and(|r| r >= LEAST_RATE))).collect();
        condensation.sort_by_key(|c| c.interface);
        Profile { interfaces, condensation }
    }

    /// What a wet plane inside can dry to both sides, g/(m²·day): positive dries, negative still collects.
    ///
    /// Source: ISO 13788:2012 evaporation, the plane held at saturation. `None` for a surface or a plane with no vapor
    /// resistance to one side, which dries as fast as air is moved past it.
    #[must_use]
    pub fn drying_rate(&self, interface: usize, sides: &Sides) -> Option<f64> {
        let total = self.diffusion_thickness();
        let depth = *self.depth.get(interface)?;
        if depth <= 0.0 || depth >= total {
            return None;
        }
        let at = self.temperature(interface, sides.inside.temperature(), sides.outside.temperature());
        let sat = crate::air::saturation_pressure(at);
        let inward = (sat - sides.inside.vapor_pressure()) / depth;
        let outward = (sat - sides.outside.vapor_pressure()) / (total - depth);
        Some(Permeance::STILL_AIR * (inward + outward) * DAY * 1000.0)
    }
}
