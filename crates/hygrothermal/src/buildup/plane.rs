//! Insulation that keeps a plane inside a construction, or a pipe's skin, above a temperature.

use crate::quantity::{Conductivity, Diameter, Temperature, ThermalResistance};

/// Resistance to add on the cold side of a plane so that it stays at `keep`, m²K/W: 0 if it does already, `None` if no
/// insulation there can do it (`keep` at or above the warm side).
///
/// # Formula
/// T = T_warm − (T_warm − T_cold) R_w/(R_w + R_c + R): R_w lies between the warm air and the plane (film included),
/// R_c between the plane and the cold air. Source: ISO 6946. Turn the sides round for a cooled room in warm damp air.
#[must_use]
pub fn insulation_beyond(
    (warm, r_warm): (Temperature, ThermalResistance),
    (cold, r_cold): (Temperature, ThermalResistance),
    keep: Temperature,
) -> Option<f64> {
    let to_keep = warm.above(keep).get();
    let span = warm.above(cold).get();
    let now = r_warm.get() + r_cold.get();
    if span * r_warm.get() <= to_keep * now {
        return Some(0.0);
    }
    (to_keep > 0.0).then(|| r_warm.get() * span / to_keep - now)
}

/// Least share of the insulation (0 to 1) that must lie outside of a plane to keep it at `keep`: what decides how thick
/// an outer foam layer must be against the cavity fill. 0 when the outdoor air is warm enough, `None` when `keep` is not
/// below the inside air.
#[must_use]
pub fn least_outer_share(inside: Temperature, outside: Temperature, keep: Temperature) -> Option<f64> {
    let share = keep.above(outside).get() / inside.above(outside).get();
    (keep < inside && inside > outside).then(|| share.max(0.0))
}

/// A cold pipe or duct in warm damp air.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PipeCover {
    /// Outside diameter of the pipe.
    pub pipe: Diameter,
    /// What runs in it.
    pub contents: Temperature,
    /// Air around it.
    pub around: Temperature,
    /// Conductivity of the cover.
    pub conductivity: Conductivity,
    /// Film between cover and air, m²K/W (still air about 0.125).
    pub film: ThermalResistance,
}

impl PipeCover {
    /// Thickest cover looked for, m.
    const THICKEST: f64 = 0.3;

    /// Temperature of the cover's skin with a thickness in m, °C.
    ///
    /// # Formula
    /// Radial: q = (T_a − T_p)/(ln(r₂/r₁)/λ + R_film/r₂), T_skin = T_a − q R_film/r₂. Source: cylindrical conduction.
    #[must_use]
    pub fn skin(&self, thickness: f64) -> f64 {
        let r1 = self.pipe.get() / 2.0;
        let r2 = r1 + thickness;
        let film = self.film.get() / r2;
        let whole = (r2 / r1).ln() / self.conductivity.get() + film;
        let span = self.around.above(self.contents).get();
        if whole <= 0.0 { self.contents.get() } else { self.around.get() - span * film / whole }
    }

    /// Thickness that keeps the skin at `keep`, m; 0 if the bare pipe does, `None` if 0.3 m would not.
    #[must_use]
    pub fn thickness_for(&self, keep: Temperature) -> Option<f64> {
        if self.skin(0.0) >= keep.get() {
            return Some(0.0);
        }
        let (mut low, mut high) = (0.0, Self::THICKEST);
        if self.skin(high) < keep.get() {
            return None;
        }
        // The skin warms all the way with the thickness, so the bracket always holds the answer.
        for _ in 0..60 {
            let middle = f64::midpoint(low, high);
            if self.skin(middle) < keep.get() {
                low = middle;
            } else {
                high = middle;
            }
        }
        Some(high)
    }
}
