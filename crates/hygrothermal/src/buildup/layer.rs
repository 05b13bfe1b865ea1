//! Layers and the build-up they make.

use crate::air::MoistAir;
use crate::quantity::{DiffusionThickness, Temperature, ThermalResistance};
use std::fmt;

/// One layer.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Layer {
    /// Its thermal resistance.
    pub resistance: ThermalResistance,
    /// Its resistance to vapor, as a thickness of still air.
    pub diffusion: DiffusionThickness,
}

/// The air on both sides.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sides {
    /// Inside air.
    pub inside: MoistAir,
    /// Outside air.
    pub outside: MoistAir,
}

/// Why layers do not make a build-up.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BuildUpError {
    /// No layer at all.
    NoLayers,
    /// Nothing resists heat, films included: no temperature profile exists.
    NoThermalResistance,
    /// Nothing resists vapor: no vapor profile exists.
    NoVaporResistance,
}

impl fmt::Display for BuildUpError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::NoLayers => "a build-up must have at least one layer, got none",
            Self::NoThermalResistance => "films and layers together must resist heat, got 0 m²K/W",
            Self::NoVaporResistance => "some layer must resist vapor, got 0 m in all of them",
        })
    }
}

impl std::error::Error for BuildUpError {}

/// Layers from inside to outside with their films. Interfaces count from 0, the inner surface, to the number of
/// layers, the outer surface.
#[derive(Debug, Clone, PartialEq)]
pub struct BuildUp {
    r_si: f64,
    r_total: f64,
    /// Share of the temperature drop that lies inside of each interface, 0 to 1.
    pub(super) drop: Vec<f64>,
    /// Diffusion thickness inside of each interface, m.
    pub(super) depth: Vec<f64>,
}

impl BuildUp {
    /// From layers, inside first.
    ///
    /// # Errors
    /// [`BuildUpError`] without layers, or when nothing resists heat or vapor.
    pub fn new(layers: &[Layer], r_si: ThermalResistance, r_se: ThermalResistance) -> Result<Self, BuildUpError> {
        if layers.is_empty() {
            return Err(BuildUpError::NoLayers);
        }
        let r_layers: f64 = layers.iter().map(|l| l.resistance.get()).sum();
        let r_total = r_si.get() + r_layers + r_se.get();
        if r_total <= 0.0 {
            return Err(BuildUpError::NoThermalResistance);
        }
        if layers.iter().all(|l| l.diffusion.get() <= 0.0) {
            return Err(BuildUpError::NoVaporResistance);
        }
        let (mut r, mut s) = (r_si.get(), 0.0);
        let (mut drop, mut depth) = (vec![r / r_total], vec![s]);
        for layer in layers {
            r += layer.resistance.get();
            s += layer.diffusion.get();
            drop.push(r / r_total);
            depth.push(s);
        }
        Ok(Self { r_si: r_si.get(), r_total, drop, depth })
    }

    /// Interfaces: one more than layers.
    #[must_use]
    pub fn interfaces(&self) -> usize {
        self.drop.len()
    }

    /// Thermal resistance with films, m²K/W.
    #[must_use]
    pub const fn resistance(&self) -> f64 {
        self.r_total
    }

    /// Thermal transmittance U = 1/R, W/(m²K) (ISO 6946).
    #[must_use]
    pub fn transmittance(&self) -> f64 {
        1.0 / self.r_total
    }

    /// Temperature factor of the inner surface, 1 − R_si/R (ISO 13788).
    #[must_use]
    pub fn temperature_factor(&self) -> f64 {
        1.0 - self.r_si / self.r_total
    }

    /// Resistance to vapor of all layers, as a thickness of still air, m.
    #[must_use]
    pub fn diffusion_thickness(&self) -> f64 {
        self.depth.last().copied().unwrap_or(0.0)
    }

    /// Temperature at an interface between two air temperatures (steady state, ISO 6946).
    #[must_use]
    pub(crate) fn temperature(&self, interface: usize, inside: Temperature, outside: Temperature) -> Temperature {
        inside.toward(outside, self.drop[interface])
    }
}
