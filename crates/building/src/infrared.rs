//! Infrared readings on site: the spot thermometer is set to one emissivity, the surface has its own.

use crate::Material;
use hygrothermal::quantity::{Emissivity, Measured, Temperature, TemperatureAccuracy};
use hygrothermal::surface::{Apparent, InfraredAccuracy, InfraredError, Scene, infrared_measured};
use serde::Deserialize;
use std::sync::LazyLock;

/// What hand-held instruments are set to (common practice).
pub const SET_EMISSIVITY: f64 = 0.95;

/// Emissivity of a kind of surface.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct EmissivityRow {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// Emissivity.
    pub value: f64,
    material: Option<Material>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    emissivity: Vec<EmissivityRow>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TABLE: LazyLock<File> =
    LazyLock::new(|| toml::from_str(include_str!("../data/emissivity.toml")).expect("emissivity.toml is well formed"));

/// Every kind of surface, in the order offered.
#[must_use]
pub fn emissivities() -> &'static [EmissivityRow] {
    &TABLE.emissivity
}

/// The one usual for a material.
#[must_use]
pub fn usual(material: Material) -> Option<&'static EmissivityRow> {
    TABLE.emissivity.iter().find(|e| e.material == Some(material))
}

/// An infrared reading and what it means.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct InfraredValue {
    /// What the instrument, set to 0.95, showed.
    pub shown: Temperature,
    /// The surface's emissivity.
    pub emissivity: Emissivity,
    /// Reflected apparent temperature.
    pub reflected: Temperature,
    /// The surface's own temperature, °C, with its band.
    pub own: Measured,
}

impl InfraredValue {
    /// Corrects what an instrument set to 0.95 showed; `own` is how far off it is by itself.
    ///
    /// # Errors
    /// [`InfraredError`] for a mirror, or when no surface temperature fits.
    pub fn corrected(
        shown: Temperature,
        emissivity: Emissivity,
        reflected: Temperature,
        own: TemperatureAccuracy,
    ) -> Result<Self, InfraredError> {
        let set_emissivity = Emissivity::new(SET_EMISSIVITY).map_err(|_| InfraredError::Mirror { emissivity: 0.0 })?;
        let seen = Apparent { shown, set_emissivity, set_reflected: reflected };
        let accuracy = InfraredAccuracy { shown: own, ..InfraredAccuracy::typical(shown) };
        let own = infrared_measured(&seen, &Scene { emissivity, reflected }, &accuracy)?;
        Ok(Self { shown, emissivity, reflected, own })
    }

    /// Its band as an accuracy of the surface temperature.
    #[must_use]
    pub fn accuracy(&self) -> Option<TemperatureAccuracy> {
        TemperatureAccuracy::new(self.own.err.min(TemperatureAccuracy::MAX)).ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every material can be read, none of them is a mirror, and at the set emissivity nothing is corrected.
    #[test]
    #[allow(clippy::unwrap_used, reason = "a test")]
    fn every_material_has_its_emissivity() {
        for material in Material::ALL {
            assert!(usual(*material).is_some(), "{material:?}");
        }
        let t = |x| Temperature::new(x).unwrap();
        let own = TemperatureAccuracy::new(1.5).unwrap();
        for row in emissivities() {
            let e = Emissivity::new(row.value).unwrap();
            let read = InfraredValue::corrected(t(10.0), e, t(20.0), own).unwrap();
            // A duller surface than set shows more of the warm room: it is colder than shown.
            assert_eq!(read.own.value < 10.0 - 1e-9, row.value < SET_EMISSIVITY, "{}", row.id);
            assert!(read.own.err > 1.4, "{}: {}", row.id, read.own.err);
        }
    }
}
