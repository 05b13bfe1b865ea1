//! A surface and the air beside it.

mod factor;
mod verdict;

pub use factor::{AddedInsulation, Target, TemperatureFactor, added_insulation, temperature_factor};
pub use verdict::{Accuracy, Judged, MOLD_RH, Verdict, judge};
