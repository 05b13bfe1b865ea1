//! Wood and masonry: equilibrium moisture, and what the meters say.

mod equilibrium;
mod meter;
mod relative;

pub use equilibrium::{EmcError, equilibrium_moisture, humidity_at};
pub use meter::{FIBER_SATURATION, MeterError, MeterReading, Species, pin_meter, species, species_by_id};
pub use relative::{RelativeChange, RelativeError, RelativeReading};
