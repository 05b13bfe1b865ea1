//! What an infrared thermometer or camera really saw.

use crate::quantity::{Emissivity, Measured, Temperature, TemperatureAccuracy};
use std::fmt;

/// Emissivity under which a surface shows the room around it rather than itself: bare metal, foil, metallized film.
pub const LEAST_EMISSIVITY: f64 = 0.6;

/// Why an infrared reading says nothing about the surface.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum InfraredError {
    /// The surface mirrors too much.
    Mirror {
        /// Its emissivity.
        emissivity: f64,
    },
    /// Less radiation than the reflection alone would send: the settings or the reflected temperature are wrong.
    LessThanReflected {
        /// Apparent temperature, °C.
        apparent: f64,
    },
    /// The corrected temperature leaves −100 to 200 °C.
    OutOfRange {
        /// Apparent temperature, °C.
        apparent: f64,
    },
}

impl fmt::Display for InfraredError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Mirror { emissivity } => write!(
                f,
                "emissivity must be at least {LEAST_EMISSIVITY} to judge a surface by infrared, got {emissivity}: put \
                 a piece of matte tape on it and read that"
            ),
            Self::LessThanReflected { apparent } => write!(
                f,
                "apparent temperature is lower than the reflection alone would show, got {apparent}: check the \
                 reflected temperature and the settings"
            ),
            Self::OutOfRange { apparent } => {
                write!(f, "the surface would lie outside −100 to 200 °C, got an apparent {apparent} °C")
            }
        }
    }
}

impl std::error::Error for InfraredError {}

/// What the instrument showed and what it was set to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Apparent {
    /// Temperature shown.
    pub shown: Temperature,
    /// Emissivity it was set to.
    pub set_emissivity: Emissivity,
    /// Reflected apparent temperature it was set to.
    pub set_reflected: Temperature,
}

/// What the surface and its surroundings are.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Scene {
    /// Emissivity of the surface.
    pub emissivity: Emissivity,
    /// Reflected apparent temperature: what a crumpled and flattened foil beside it shows.
    pub reflected: Temperature,
}

/// How far off the parts of an infrared reading may be.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct InfraredAccuracy {
    /// The instrument, as ± K.
    pub shown: TemperatureAccuracy,
    /// The reflected temperature, as ± K.
    pub reflected: TemperatureAccuracy,
    /// The surface's emissivity, as ±.
    pub emissivity: f64,
}

impl InfraredAccuracy {
    /// ±2 K or 2 % of the reading in °C, whichever is more; surroundings known to ±2 K, emissivity to ±0.03 (common
    /// practice).
    #[must_use]
    pub fn typical(shown: Temperature) -> Self {
        let own = (0.02 * shown.get().abs()).clamp(2.0, TemperatureAccuracy::MAX);
        let own = TemperatureAccuracy::new(own).unwrap_or(TemperatureAccuracy::const_checked(2.0));
        Self { shown: own, reflected: TemperatureAccuracy::const_checked(2.0), emissivity: 0.03 }
    }
}

fn fourth(kelvin: f64) -> f64 {
    kelvin * kelvin * kelvin * kelvin
}

/// Temperature of the surface.
///
/// # Formula
/// In kelvin, W = ε₀ T_app⁴ + (1 − ε₀) T_refl₀⁴ is what reached the instrument and T⁴ = (W − (1 − ε) T_refl⁴)/ε what
/// left the surface itself. Source: gray-body radiation balance (Stefan–Boltzmann), air between taken as clear.
///
/// # Errors
/// - [`InfraredError::Mirror`] under an emissivity of 0.6.
/// - [`InfraredError::LessThanReflected`], [`InfraredError::OutOfRange`] when no surface temperature fits.
pub fn infrared(seen: &Apparent, scene: &Scene) -> Result<Temperature, InfraredError> {
    Balance::new(seen, scene)?.object(seen.shown)
}

/// The balance of one camera and one scene, for as many cells as a picture has.
pub(super) struct Balance {
    e: f64,
    e0: f64,
    /// What of the radiation is not the surface's own: (1 − ε₀) T_refl₀⁴ − (1 − ε) T_refl⁴.
    rest: f64,
}

impl Balance {
    /// The `shown` of `seen` is not looked at.
    pub fn new(seen: &Apparent, scene: &Scene) -> Result<Self, InfraredError> {
        let (e, e0) = (scene.emissivity.get(), seen.set_emissivity.get());
        if e < LEAST_EMISSIVITY {
            return Err(InfraredError::Mirror { emissivity: e });
        }
        let rest = (1.0 - e0) * fourth(seen.set_reflected.kelvin()) - (1.0 - e) * fourth(scene.reflected.kelvin());
        Ok(Self { e, e0, rest })
    }

    /// The surface behind what was shown.
    pub fn object(&self, shown: Temperature) -> Result<Temperature, InfraredError> {
        let apparent = shown.get();
        let own = (self.e0 * fourth(shown.kelvin()) + self.rest) / self.e;
        if own <= 0.0 {
            return Err(InfraredError::LessThanReflected { apparent });
        }
        Temperature::new(own.sqrt().sqrt() - 273.15).map_err(|_| InfraredError::OutOfRange { apparent })
    }
}

/// [`infrared`] with its band (°C): root-sum-square of the first-order effects of the instrument, the reflected
/// temperature and the emissivity.
///
/// # Errors
/// As [`infrared`].
pub fn infrared_measured(
    seen: &Apparent,
    scene: &Scene,
    accuracy: &InfraredAccuracy,
) -> Result<Measured, InfraredError> {
    let object = infrared(seen, scene)?;
    let (e, e0) = (scene.emissivity.get(), seen.set_emissivity.get());
    let cubed = e * object.kelvin().powi(3);
    let by_shown = e0 * seen.shown.kelvin().powi(3) / cubed;
    let by_reflected = (1.0 - e) * scene.reflected.kelvin().powi(3) / cubed;
    let by_emissivity = (fourth(scene.reflected.kelvin()) - fourth(object.kelvin())) / (4.0 * cubed);
    let parts =
        [by_shown * accuracy.shown.get(), by_reflected * accuracy.reflected.get(), by_emissivity * accuracy.emissivity];
    Ok(Measured::from_contributions(object.get(), &parts))
}
