//! The drawing that explains each answer.

pub mod chart;
pub mod course;
pub mod duct;
pub mod profile;
pub mod strip;
pub mod vents;

use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};

/// Size of most drawings.
const SIZE: (f64, f64) = (820.0, 400.0);

/// A temperature of a request that was answered, or `None` where nothing was entered.
fn t(celsius: f64) -> Option<Temperature> {
    Temperature::new(celsius).ok()
}

/// Air at standard pressure, as the headless interface reads `inside` and `outside`.
fn air(celsius: f64, rh: f64) -> Option<MoistAir> {
    MoistAir::from_rh(t(celsius)?, RelativeHumidity::new(rh).ok()?, Over::Ice, Pressure::STANDARD).ok()
}

/// Evenly spaced figures from one to another, both included.
fn spread(from: f64, to: f64, count: u32) -> impl Iterator<Item = f64> {
    (0..=count).map(move |i| from + (to - from) * f64::from(i) / f64::from(count))
}
