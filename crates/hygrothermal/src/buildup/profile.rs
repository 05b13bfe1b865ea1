//! Steady state: temperature and vapor pressure through a build-up, and where water collects.

use super::layer::{BuildUp, Sides};
use super::taut::{Corner, Taut};
use crate::air::MoistAir;
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

/// Vapor leaving a wet plane, g/(m²·day); negative wets it further.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Drying {
    /// Toward the inside air.
    pub to_inside: f64,
    /// Toward the outside air.
    pub to_outside: f64,
}

impl Drying {
    /// Both together.
    #[must_use]
    pub fn sum(self) -> f64 {
        self.to_inside + self.to_outside
    }
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

    /// What a plane kept wet dries to each side by diffusion.
    ///
    /// # Formula
    /// δ₀ (p_sat(T_plane) − p_i) / s_d, s_d being what lies between the plane and that air; films neglected, no second wet
    /// plane between. Source: ISO 13788:2012 evaporation. `None` for a surface or a plane with no vapor resistance to one
    /// side, which dries as fast as air is moved past it.
    ///
    /// # Examples
    /// ```
    /// # use hygrothermal::air::{MoistAir, Over};
    /// # use hygrothermal::buildup::{BuildUp, Layer, Sides, film};
    /// # use hygrothermal::quantity::{DiffusionThickness, Pressure, RelativeHumidity, Temperature, ThermalResistance};
    /// # let air = |t, rh| MoistAir::from_rh(Temperature::new(t).unwrap(), RelativeHumidity::new(rh).unwrap(), Over::Ice, Pressure::STANDARD).unwrap();
    /// # let layer = |r, sd| Layer { resistance: ThermalResistance::new(r).unwrap(), diffusion: DiffusionThickness::new(sd).unwrap() };
    /// // Sheathing wet behind a retarder: what leaves, leaves outward.
    /// let wall = BuildUp::new(&[layer(2.5, 10.0), layer(0.1, 0.5)], film::WALL, film::OUTSIDE)?;
    /// let drying = wall.drying(1, &Sides { inside: air(20.0, 50.0), outside: air(15.0, 60.0) }).unwrap();
    /// assert!(drying.to_outside > 10.0 * drying.to_inside.abs());
    /// # Ok::<(), hygrothermal::buildup::BuildUpError>(())
    /// ```
    #[must_use]
    pub fn drying(&self, interface: usize, sides: &Sides) -> Option<Drying> {
        let total = self.diffusion_thickness();
        let depth = *self.depth.get(interface)?;
        if depth <= 0.0 || depth >= total {
            return None;
        }
        let at = self.temperature(interface, sides.inside.temperature(), sides.outside.temperature());
        let sat = crate::air::saturation_pressure(at);
        let flow = |air: &MoistAir, s_d: f64| Permeance::STILL_AIR * (sat - air.vapor_pressure()) / s_d * DAY * 1000.0;
        Some(Drying { to_inside: flow(&sides.inside, depth), to_outside: flow(&sides.outside, total - depth) })
    }
}
