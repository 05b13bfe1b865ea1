//! Drying after wetting: the curve through the readings and the day it will be done.

mod fit;
mod watch;

pub use fit::{DryingError, DryingFit, Forecast, drying_fit, forecast};
pub use watch::{OutOfBounds, depression, out_of_bounds};
