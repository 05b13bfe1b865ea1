//! Pin meters: what a reading means at this temperature and in this wood.

use crate::quantity::{Measured, MoistureContent, Temperature};
use crate::table::rows;
use serde::Deserialize;
use std::fmt;
use std::sync::LazyLock;

/// Moisture content (%) above which a pin meter only says "wet": fiber saturation, about 28 to 30 %.
pub const FIBER_SATURATION: f64 = 28.0;

/// Wood temperatures the correction was made for, °C.
const LIMITS: std::ops::RangeInclusive<f64> = -20.0..=60.0;

/// A wood or board and how a meter scaled for Douglas fir reads in it.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Species {
    /// Stable id.
    pub id: String,
    /// What it is.
    pub name: String,
    /// Slope a of reading = a·MC + b.
    pub slope: f64,
    /// Offset b, %.
    pub offset: f64,
    /// Doubt left after the correction, ± % MC.
    pub doubt: f64,
    /// Where the figures come from.
    pub source: String,
}

static SPECIES: LazyLock<Vec<Species>> = LazyLock::new(|| rows(include_str!("../../data/species.toml")));

/// All woods and boards of the library.
#[must_use]
pub fn species() -> &'static [Species] {
    &SPECIES
}

/// A wood or board by its id.
#[must_use]
pub fn species_by_id(id: &str) -> Option<&'static Species> {
    SPECIES.iter().find(|s| s.id == id)
}

/// A corrected pin-meter reading.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum MeterReading {
    /// Moisture content, %, with the band the species correction leaves.
    Percent(Measured),
    /// Over fiber saturation: no figure means anything.
    Wet,
}

/// Wood outside the temperatures of the correction.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MeterError {
    /// What was given, °C.
    pub got: f64,
}

impl fmt::Display for MeterError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (low, high) = (LIMITS.start(), LIMITS.end());
        write!(f, "wood temperature must be {low} to {high} °C to correct a pin meter, got {}", self.got)
    }
}

impl std::error::Error for MeterError {}

/// Corrects a resistance (pin) meter scaled for Douglas fir at room temperature.
///
/// # Formula
/// MC = ((R + 0.567 − 0.0260 x + 0.000051 x²)/(0.881 · 1.0056ˣ) − b)/a, R the reading (%), x the wood's temperature
/// (°C), a and b the species'. Source: Garrahan 1989, from memory.
///
/// # Errors
/// [`MeterError`] outside −20 to 60 °C. Frozen wood over about 20 % reads too dry even so.
pub fn pin_meter(reading: MoistureContent, wood: Temperature, species: &Species) -> Result<MeterReading, MeterError> {
    let x = wood.get();
    if !LIMITS.contains(&x) {
        return Err(MeterError { got: x });
    }
    let at_room = (reading.get() + 0.567 - 0.026 * x + 0.000_051 * x * x) / (0.881 * 1.0056_f64.powf(x));
    let percent = ((at_room - species.offset) / species.slope).max(0.0);
    Ok(if percent > FIBER_SATURATION {
        MeterReading::Wet
    } else {
        MeterReading::Percent(Measured { value: percent, err: species.doubt })
    })
}
