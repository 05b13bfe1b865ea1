//! The starter library of build-ups, from `data/buildups.toml`.

use super::Face;
use hygrothermal::buildup::{BuildUp, Layer};
use hygrothermal::material::{Material, material};
use hygrothermal::quantity::{DiffusionThickness, ThermalResistance, Thickness};
use serde::Deserialize;
use std::sync::LazyLock;

/// An ordinary build-up to begin with, layers from inside to outside.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StarterBuildUp {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// `wall`, `roof`, `floor` or `vehicle`: how it is listed.
    pub group: String,
    /// Material id (or `air_gap`) and thickness in mm of each layer, inside first.
    layers: Vec<(String, f64)>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    buildup: Vec<StarterBuildUp>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TABLE: LazyLock<File> =
    LazyLock::new(|| toml::from_str(include_str!("../data/buildups.toml")).expect("buildups.toml is well formed"));

/// Every starter build-up, in the order offered.
#[must_use]
pub fn buildups() -> &'static [StarterBuildUp] {
    &TABLE.buildup
}

/// The build-up with this id.
#[must_use]
pub fn buildup(id: &str) -> Option<&'static StarterBuildUp> {
    TABLE.buildup.iter().find(|b| b.id == id)
}

/// A layer of a starter build-up.
#[derive(Debug, Clone, Copy)]
pub enum Ply {
    /// A material and its thickness, m.
    Of(&'static Material, f64),
    /// Closed air gap and its width, m. Its resistance hardly depends on the width.
    Gap(f64),
}

/// Resistance of a closed air gap of 25 mm and more in m²K/W (ISO 6946, sideways heat flow).
pub const GAP_RESISTANCE: f64 = 0.18;

impl StarterBuildUp {
    /// Its layers, inside first.
    pub fn plies(&self) -> impl Iterator<Item = Ply> {
        self.layers.iter().filter_map(|(id, mm)| match id.as_str() {
            "air_gap" => Some(Ply::Gap(mm / 1000.0)),
            id => Some(Ply::Of(material(id)?, mm / 1000.0)),
        })
    }

    /// Its heat and vapor resistances behind the films of a face (ISO 6946: outside film 0.04 m²K/W). `None` if the
    /// table holds what cannot be; a test keeps it whole.
    #[must_use]
    pub fn computed(&self, face: Face) -> Option<BuildUp> {
        let layer = |ply: Ply| match ply {
            Ply::Of(m, d) => m.layer(Thickness::new(d).ok()?).ok(),
            Ply::Gap(d) => Some(Layer {
                resistance: ThermalResistance::new(GAP_RESISTANCE).ok()?,
                diffusion: DiffusionThickness::new(d).ok()?,
            }),
        };
        let layers: Option<Vec<_>> = self.plies().map(layer).collect();
        let film = |r| ThermalResistance::new(r).ok();
        BuildUp::new(&layers?, film(face.r_si())?, film(0.04)?).ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::blueprints;

    /// Every layer is in the library of materials, every usual build-up in this one, and each insulates as such things
    /// do: between a single pane and a thick roof.
    #[test]
    fn the_library_is_whole() {
        for b in buildups() {
            assert_eq!(b.plies().count(), b.layers.len(), "{}: unknown material", b.id);
            let u = b.computed(Face::North).map(|c| c.transmittance());
            assert!(u.is_some_and(|u| (0.1..6.5).contains(&u)), "{}: {u:?}", b.id);
        }
        for b in blueprints().iter().flat_map(|b| &b.boundaries) {
            assert!(b.buildup.as_deref().is_none_or(|id| buildup(id).is_some()), "{}", b.name);
        }
    }
}
