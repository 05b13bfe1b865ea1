//! Drying after wetting: the curve through the readings and the day it will be done.

mod fit;

pub use fit::{DryingError, DryingFit, Forecast, drying_fit};
