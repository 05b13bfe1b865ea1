//! A space and the air and ground it exchanges moisture with.

mod exchange;
mod ground;

pub use exchange::{Advice, Comparison, compare_air, removal};
pub use ground::bare_soil_evaporation;

/// Seconds in a day.
pub(crate) const DAY: f64 = 86_400.0;
