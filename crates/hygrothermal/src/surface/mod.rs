//! A surface and the air beside it.

mod factor;
mod grid;
mod infrared;
mod verdict;

pub use factor::{AddedInsulation, Target, TemperatureFactor, added_insulation, least_factor, temperature_factor};
pub use grid::{BELOW_WET_BULB, GridError, GridReading, GridWarning, Patch, Room, Settings, Spot, ThermalGrid};
pub use infrared::{Apparent, InfraredAccuracy, InfraredError, LEAST_EMISSIVITY, Scene, infrared, infrared_measured};
pub use verdict::{Accuracy, Instrument, Judged, MOLD_RH, Verdict, judge};
