//! The library of materials, each row with its source.

use crate::buildup::Layer;
use crate::quantity::{Conductivity, DiffusionThickness, OutOfRange, Thickness, VaporResistanceFactor};
use crate::table::rows;
use serde::Deserialize;
use std::sync::LazyLock;

/// A generic building material. Values are design values at ordinary dryness; a given product may differ.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Material {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// Family it is listed under.
    pub group: String,
    /// Thermal conductivity, W/(m·K).
    pub lambda: f64,
    mu: Option<f64>,
    /// Vapor resistance factor, wet cup, where known.
    pub mu_wet: Option<f64>,
    sd: Option<f64>,
    /// Density, kg/m³.
    pub density: f64,
    /// Specific heat capacity, J/(kg·K).
    pub heat: f64,
    /// Moisture content in equilibrium with 80 % RH, % by mass, where known.
    pub w80: Option<f64>,
    /// Usual thickness, m.
    pub thickness: f64,
    /// Where the values come from.
    pub source: String,
}

/// How a material resists vapor.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Resists {
    /// By its thickness: vapor resistance factor μ, dry cup.
    PerThickness(VaporResistanceFactor),
    /// As a whole layer, whatever its thickness: s_d.
    AsLayer(DiffusionThickness),
}

static MATERIALS: LazyLock<Vec<Material>> = LazyLock::new(|| rows(include_str!("../../data/materials.toml")));

/// All materials, family by family.
#[must_use]
pub fn materials() -> &'static [Material] {
    &MATERIALS
}

/// A material by its id.
#[must_use]
pub fn material(id: &str) -> Option<&'static Material> {
    MATERIALS.iter().find(|m| m.id == id)
}

impl Material {
    /// How it resists vapor.
    ///
    /// # Errors
    /// [`OutOfRange`] if the table holds an impossible value.
    pub fn resists(&self) -> Result<Resists, OutOfRange> {
        match (self.mu, self.sd) {
            (Some(mu), _) => VaporResistanceFactor::new(mu).map(Resists::PerThickness),
            (None, sd) => DiffusionThickness::new(sd.unwrap_or(0.0)).map(Resists::AsLayer),
        }
    }

    /// A layer of it.
    ///
    /// # Errors
    /// [`OutOfRange`] when the thickness gives a resistance beyond its range.
    pub fn layer(&self, thickness: Thickness) -> Result<Layer, OutOfRange> {
        let resistance = Conductivity::new(self.lambda)?.resistance(thickness)?;
        let diffusion = match self.resists()? {
            Resists::PerThickness(mu) => mu.diffusion_thickness(thickness)?,
            Resists::AsLayer(sd) => sd,
        };
        Ok(Layer { resistance, diffusion })
    }
}
