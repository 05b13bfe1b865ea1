//! Drying after wetting: the curve through the readings and the day it will be done.

mod fit;
mod slab;
mod watch;

pub use fit::{DryingError, DryingFit, Forecast, drying_fit, forecast};
pub use slab::{LITTLE, between_depths, caught, passes_under};
pub use watch::{OutOfBounds, depression, out_of_bounds};
